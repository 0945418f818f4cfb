using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Readiness;
using ToughStart.Core.Running;
using ToughStart.Core.Running.Live;
using ToughStart.Core.Vehicles;
using ToughStart.Data;
using ToughStart.Web.Drawing;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Stations;

/// <summary>The gate: the inspection panel by panel, dry, under light, and what each is ready for.</summary>
public sealed class GateModel(JobDesk desk, GateDesk bench, GateStore gate, RunStore store, RecordStore records) : JobPage(desk)
{
    public override string Station => "gate";

    /// <summary>Most characters of a reason or a remark.</summary>
    private const int MostWords = 300;

    /// <summary>Places on a panel that tell one spot from another.</summary>
    public static IReadOnlyList<string> Spots { get; } = ["upper edge", "middle", "lower edge", "front part", "rear part"];

    public GateStanding At { get; private set; } = new([], new Dictionary<string, Override>(), [], []);

    public IReadOnlyList<ZoneVerdict> Verdicts => At.Verdicts;

    public IReadOnlyList<GateStop> Stops { get; private set; } = [];

    public IReadOnlyDictionary<string, string> Names { get; private set; } = new Dictionary<string, string>();

    /// <summary>The zone that is looked at; null = there is none to look at.</summary>
    public ZoneVerdict? Now { get; private set; }

    public IReadOnlyList<double> Film { get; private set; } = [];

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public string? Said { get; private set; }

    /// <summary>Phones that were not heard for a while: what they know is not in here.</summary>
    public IReadOnlyList<(string Who, DateTimeOffset Heard)> Away { get; private set; } = [];

    public GateWord WordOf(ZoneVerdict v) => At.WordOf(v);

    public int Count(GateWord word, Goal? goal = null) => Verdicts.Count(v => WordOf(v) == word && (goal is null || v.Goal == goal));

    /// <summary>What went wrong on the zone that is looked at, in words: rounds that dried, films that were wetted again, trouble.</summary>
    public IReadOnlyList<string> Incidents { get; private set; } = [];

    /// <summary>What was seen of it on the way, besides what is asked here: cloth, foam and the like.</summary>
    public IReadOnlyList<(string Look, string Answer)> OnTheWay { get; private set; } = [];

    /// <summary>Pictures of the zone that is looked at.</summary>
    public IReadOnlyList<PhotoLine> Photos { get; private set; } = [];

    public FilmThickness? Paint => Film.Count == 0 ? null : FilmThickness.Of(Film);

    public async Task<IActionResult> OnGetAsync(int number, string? zone, string? said, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        Said = said switch
        {
            "look" => "Written down.",
            "doubt" => "Written down as not known: nothing counts as clean, it comes again.",
            "judged" => "Signed. What is computed stays beside it.",
            "mark" => "Drawn.",
            "film" => "Measured.",
            _ => null,
        };
        await FillAsync(zone, stop);
        return Page();
    }

    /// <summary>Writes down what was looked at on one zone, or on several alike.</summary>
    public async Task<IActionResult> OnPostLookAsync(
        int number,
        string zone,
        string[] also,
        string? spot,
        string? because,
        bool other,
        CancellationToken stop
    )
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        await FillAsync(zone, stop);
        if (Refusal is { } refusal)
        {
            return await RefuseAsync(409, refusal);
        }

        if (Verdicts.All(v => v.Zone != zone) || Now is null || Ground is not { } ground)
        {
            return await RefuseAsync(422, new Problem("zone", "is none of this vehicle that is inspected"));
        }

        var problems = new List<Problem>();
        var answers = new List<(GateLook Look, string Answer)>();
        foreach (var check in Now.Checks)
        {
            var answer = Request.Form["answer-" + check.Asked.Look].ToString();
            if (answer.Length == 0)
            {
                continue;
            }

            if (!check.Asked.Answers(ground.Catalogue).Contains(answer))
            {
                problems.Add(new Problem(check.Asked.Look, "is none of the answers", check.Asked.Answers(ground.Catalogue)));
            }

            answers.Add((check.Asked, answer));
        }

        if (answers.Count == 0)
        {
            problems.Add(new Problem("answer", "choose what you saw, of one thing at least"));
        }

        if (spot is not null && spot.Length > 0 && !Spots.Contains(spot))
        {
            problems.Add(new Problem("spot", "is no place we know", Spots));
        }

        if (answers.Any(a => a.Answer == Observation.Inconclusive) && !SurveyWords.Becauses.Contains(because ?? ""))
        {
            problems.Add(new Problem("because", "say why nobody could tell", SurveyWords.Becauses));
        }

        var zones = also.Append(zone).Distinct().ToArray();
        var known = Verdicts.ToDictionary(v => v.Zone);
        if (zones.Where(z => !known.ContainsKey(z)).Take(3).ToArray() is { Length: > 0 } strange)
        {
            problems.Add(new Problem("also", $"{string.Join(", ", strange)}: no zone of this vehicle"));
        }

        if (problems.Count > 0)
        {
            return await RefuseAsync(422, [.. problems]);
        }

        var place = string.IsNullOrEmpty(spot) ? null : spot;
        var entries =
            from z in zones
            from a in answers
            let before = known[z].Checks.FirstOrDefault(c => c.Asked.Look == a.Look.Look)
            where before is not null
            let last = before.Looks.LastOrDefault(l => l.Spot is not null)?.Spot
            select new LogEvent(
                Guid.CreateVersion7().ToString(),
                "",
                0,
                "",
                0,
                Run.Live.Number,
                Run.InForce?.Revision ?? 0,
                User.StaffId(),
                LogKind.Seen
            )
            {
                Body = new LogBody
                {
                    Zones = [z],
                    Observe = a.Look.Look,
                    Result = a.Answer,
                    Because = a.Answer == Observation.Inconclusive ? because : null,
                    Spot = place,
                    // Another spot is one that differs from where somebody looked last; where that was is not always known: then one has to say.
                    Elsewhere = before.Looks.Count > 0 && (other || (last is not null && place is not null && last != place)),
                },
            };
        await store.AppendAsync(Job.Id, [.. entries], stop);
        await Runs.HeardAsync(Job.Id, [], stop);
        return To(zone, answers.Any(a => a.Answer == Observation.Inconclusive) ? "doubt" : "look");
    }

    /// <summary>Somebody says otherwise, by name and with a reason.</summary>
    public async Task<IActionResult> OnPostJudgeAsync(
        int number,
        string zone,
        string? word,
        string? reason,
        int upTo,
        CancellationToken stop
    )
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        await FillAsync(zone, stop);
        var words = reason?.Trim() ?? "";
        if (Refusal is { } refusal)
        {
            return await RefuseAsync(409, refusal);
        }

        if (Now is null || GateWords.Named(word) is not { } judged || words.Length is < 3 or > MostWords)
        {
            return await RefuseAsync(
                422,
                Now is null ? new Problem("zone", "is none of this vehicle that is inspected")
                    : GateWords.Named(word) is null ? new Problem("word", "say what it is", [.. GateWords.Sayable.Select(s => s.Id)])
                    : new Problem("reason", $"say why, in 3 to {MostWords} characters: it stays beside what is computed")
            );
        }

        var entry = new LogEvent("", "", 0, "", 0, upTo, Run.InForce?.Revision ?? 0, User.StaffId(), LogKind.Judged)
        {
            Body = new LogBody
            {
                Zones = [zone],
                Verdict = GateWords.Id(judged),
                UpTo = upTo,
                Reason = words,
            },
        };
        var (_, why) = await store.DecideAsync(
            Job.Id,
            Guid.CreateVersion7(),
            async _ => Live.Refused(await Runs.LiveAsync(Job.Id, stop), entry) is { } late ? (null, late) : (entry, null),
            stop
        );
        return why is null
            ? To(zone, "judged")
            : await RefuseAsync(409, new Problem("zone", "something came to it meanwhile: look at it, then say so again"));
    }

    /// <summary>Draws damage.</summary>
    public async Task<IActionResult> OnPostMarkAsync(
        int number,
        string zone,
        string? kind,
        string? mm,
        bool nail,
        string? decision,
        string? words,
        string? x,
        string? y,
        CancellationToken stop
    )
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        await FillAsync(zone, stop);
        var problems = new List<Problem>();
        if (!SurveyWords.Damages.Contains(kind ?? ""))
        {
            problems.Add(new Problem("kind", "say what it is", SurveyWords.Damages));
        }

        if (!SurveyWords.Decisions.Contains(decision ?? ""))
        {
            problems.Add(new Problem("decision", "say what becomes of it", SurveyWords.Decisions));
        }

        if (Number(mm) is not (>= 0.1 and <= 5000))
        {
            problems.Add(new Problem("mm", "its length is 0.1 to 5 000 mm"));
        }

        if ((words?.Trim().Length ?? 0) > MostWords)
        {
            problems.Add(new Problem("words", $"at most {MostWords} characters"));
        }

        if (Now is null)
        {
            problems.Add(new Problem("zone", "is none of this vehicle that is inspected"));
        }

        if (!MayEdit)
        {
            return await RefuseAsync(409, new Problem("job", WhyLocked));
        }

        if (problems.Count > 0)
        {
            return await RefuseAsync(422, [.. problems]);
        }

        var full = await gate.MarkAsync(
            new GateMark
            {
                JobId = Job.Id,
                Zone = zone,
                Kind = kind!,
                Mm = Number(mm)!.Value,
                Nail = nail,
                X = Math.Clamp(Number(x) ?? 0.5, 0, 1),
                Y = Math.Clamp(Number(y) ?? 0.5, 0, 1),
                Decision = decision!,
                Words = string.IsNullOrWhiteSpace(words) ? null : words.Trim(),
                Author = User.StaffId(),
                At = gate.Now,
            },
            stop
        );
        return full is null ? To(zone, "mark") : await RefuseAsync(422, new Problem("zone", full));
    }

    /// <summary>What the client says to a mark, or that it was drawn by mistake.</summary>
    public async Task<IActionResult> OnPostDecideAsync(int number, string zone, Guid mark, string? decision, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        await FillAsync(zone, stop);
        if (!MayEdit)
        {
            return await RefuseAsync(409, new Problem("job", WhyLocked));
        }

        var done =
            decision == "mistake"
                ? await gate.StrikeAsync(Job.Id, mark, stop)
                : SurveyWords.Decisions.Contains(decision ?? "") && await gate.DecideAsync(Job.Id, mark, decision!, stop);
        return done ? To(zone, "mark") : await RefuseAsync(422, new Problem("decision", "say what becomes of it", SurveyWords.Decisions));
    }

    /// <summary>A spot of paint thickness: three readings close together, or one.</summary>
    public async Task<IActionResult> OnPostFilmAsync(int number, string zone, string? readings, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        await FillAsync(zone, stop);
        if (!MayEdit)
        {
            return await RefuseAsync(409, new Problem("job", WhyLocked));
        }

        var all = (readings ?? "").Split([' ', ';', '/'], StringSplitOptions.RemoveEmptyEntries).Select(Number).ToArray();
        if (Now is null || all.Length is not (1 or 3) || all.Any(a => a is not (>= 0 and <= 5000)))
        {
            return await RefuseAsync(422, new Problem("readings", "three readings within 4 cm, or one, each 0 to 5 000 µm: 112 118 109"));
        }

        await records.AddReadingsAsync(
            Job.Id,
            [("film", zone, Math.Round(all.Average()!.Value, 1))],
            all.Length == 3 ? "spot of 3" : "single",
            User.StaffId(),
            stop
        );
        return To(zone, "film");
    }

    /// <summary>The verdict in words: what it is ready for, what is repeated, whom it goes to.</summary>
    public static string Say(GateWord word, ZoneVerdict v) =>
        word switch
        {
            GateWord.Ready => v.Goal == Goal.Correct ? "ready to correct" : "ready to protect",
            GateWord.Repeat => v.Again is { } stage ? $"repeat {stage}" : "repeat a stage",
            GateWord.Refer => v.To is { } to ? $"refer: {to}" : "refer",
            GateWord.LeftAlone => "left alone",
            _ => "unverified",
        };

    private RunGround? Ground => Run.Ground;

    /// <summary>Why nothing can be said of the vehicle; null = it can.</summary>
    private Problem? Refusal =>
        !MayEdit ? new Problem("job", WhyLocked)
        : Run.InForce is null ? new Problem("plan", "no plan is in force: what was to be done here nobody has said yet")
        : null;

    private static double? Number(string? text) =>
        double.TryParse((text ?? "").Trim().Replace(',', '.'), NumberStyles.Float, CultureInfo.InvariantCulture, out var v)
        && double.IsFinite(v)
            ? v
            : null;

    private RedirectResult To(string zone, string said) =>
        Redirect($"/jobs/{Job.Number}/gate?zone={Uri.EscapeDataString(zone)}&said={said}#zone");

    private Task<IActionResult> RefuseAsync(int status, params Problem[] problems)
    {
        (Problems, Response.StatusCode) = (problems, status);
        return Task.FromResult<IActionResult>(Page());
    }

    private async Task FillAsync(string? zone, CancellationToken stop)
    {
        Names = await records.NamesAsync(stop);
        At = await bench.OfAsync(Job, Run, Equipped, stop);
        Stops = GateWalk.Of(Vehicle, Verdicts.Where(v => WordOf(v) == GateWord.Unverified));
        Now = Verdicts.FirstOrDefault(v => v.Zone == zone)
            ?? Verdicts.FirstOrDefault(v => Stops.Count > 0 && v.Zone == Stops[0].Zones[0])
            ?? Verdicts.FirstOrDefault(v => v.Word != GateWord.LeftAlone);
        Film = Now is null ? [] : (await gate.FilmAsync(Job.Id, stop)).GetValueOrDefault(Now.Zone, []);
        Away = IsClosed ? [] : await Runs.AwayAsync(Job.Id, Names, stop);
        Photos = Now is null ? [] : [.. (await records.PhotosAsync(Job.Id, stop)).Where(p => p.Zone == Now.Zone).Take(12)];
        OnTheWay = Now is null
            ? []
            :
            [
                .. Run
                    .State.Of(Now.Zone)
                    .Seen.Where(x => Now.Checks.All(c => c.Asked.Look != x.Key))
                    .OrderBy(x => x.Key, StringComparer.Ordinal)
                    .Select(x => (x.Key, x.Value)),
            ];
        Incidents = Now is null ? [] : [.. IncidentsOf(Now.Zone)];
    }

    private IEnumerable<string> IncidentsOf(string zone)
    {
        var dried = Run
            .Live.Zones.Where(z => Live.ZoneOf(z.Key) == zone)
            .SelectMany(z => z.Value.Dried)
            .GroupBy(d => d.Key)
            .ToDictionary(g => g.Key, g => g.Sum(d => d.Value));
        foreach (var (treatment, times) in dried.Where(d => d.Value > 0))
        {
            var name = Core.Provenance.Catalogue.Default.FindTreatment(treatment)?.Name ?? treatment;
            yield return $"{name} dried here {(times == 1 ? "once" : $"{times} times")}: it counts as not done";
        }

        var facts = Run.Live.Facts.Where(f => Live.ZoneOf(f.Key) == zone).SelectMany(f => f.Value).DistinctBy(f => f.Id).ToArray();
        if (facts.Count(f => f.Event.Kind == LogKind.Rewetted) is > 0 and var wetted)
        {
            yield return $"wetted again {(wetted == 1 ? "once" : $"{wetted} times")}";
        }

        foreach (var f in facts.Where(f => f.Event is { Kind: LogKind.Happened, Body.What: { } what } && what != Trouble.DriedOn))
        {
            yield return $"{Trouble.Say(f.Event.Body.What!)}{(f.Event.Body.Reason is { } why ? $": {why}" : "")}";
        }
    }
}
