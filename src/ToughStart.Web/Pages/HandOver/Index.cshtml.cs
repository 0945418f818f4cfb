using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;
using ToughStart.Core.Readiness;
using ToughStart.Core.Vehicles;
using ToughStart.Data;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Stations;

/// <summary>From the gate to whoever polishes or protects: what each zone takes, and what was really put on.</summary>
public sealed class HandOverModel(JobDesk desk, HandDesk hands, BookStore books, RecordStore records, ShopClock clock) : JobPage(desk)
{
    public override string Station => "handover";

    public HandStanding At { get; private set; } = null!;

    public IReadOnlyList<HandWork> Log { get; private set; } = [];

    public IReadOnlyDictionary<string, string> Names { get; private set; } = new Dictionary<string, string>();

    /// <summary>What was done about weather that spoke against it.</summary>
    public IReadOnlyList<ZoneNote> Weathered { get; private set; } = [];

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public string? Said { get; private set; }

    public DateTimeOffset Now { get; private set; }

    public IReadOnlyList<(DateOnly Due, Protection Kind, IReadOnlyList<string> Zones)> Dues => HandDesk.Dues(At.Coats, clock);

    /// <summary>Films that were put on lately enough that somebody waits for them.</summary>
    public IEnumerable<(HandWork Work, Protection Kind)> Running =>
        Log.Where(h => h.Kind is not null)
            .Select(h => (h, Kind: Catalogue.Default.Protections.FirstOrDefault(p => p.Id == h.Kind)))
            .Where(h => h.Kind is { } k && Now < h.h.At.AddHours(Math.Max(Math.Max(k.DryHours, k.AgainHours), k.Level.To / 60)))
            .Select(h => (h.h, h.Kind!))
            .Reverse();

    public async Task<IActionResult> OnGetAsync(int number, string? said, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        Said =
            said == "done" ? "Written down."
            : said == "struck" ? "Taken out. It stays on record as a mistake."
            : null;
        await FillAsync(stop);
        return Page();
    }

    /// <summary>Writes down what was done to some zones, if it may be done there now.</summary>
    public async Task<IActionResult> OnPostAsync(
        int number,
        string? act,
        string? kind,
        string? layers,
        string? despite,
        string[] zones,
        CancellationToken stop
    )
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        await FillAsync(stop);
        var problems = new List<Problem>();
        if (!MayEdit)
        {
            return Refuse(409, new Problem("job", WhyLocked));
        }

        if (Run.InForce is null)
        {
            return Refuse(409, new Problem("plan", "no plan is in force: nothing was washed here that is on record"));
        }

        if (!Enum.TryParse<Act>(act, out var done) || !Enum.IsDefined(done))
        {
            problems.Add(new Problem("act", "say what was done", [.. Enum.GetNames<Act>()]));
        }

        var on = zones.Distinct().Where(At.Zones.ContainsKey).ToArray();
        if (on.Length == 0 || on.Length < zones.Distinct().Count())
        {
            problems.Add(new Problem("zones", on.Length == 0 ? "tick one zone at least" : "one of them is none that anything goes on"));
        }

        Protection? put = null;
        var coats = 1;
        if (problems.Count == 0 && done == Act.Protect)
        {
            put = Catalogue.Default.Protections.FirstOrDefault(p => p.Id == kind);
            if (put is null)
            {
                problems.Add(new Problem("kind", "say what was put on", [.. Catalogue.Default.Protections.Select(p => p.Id)]));
            }
            else if (!int.TryParse(layers, out coats) || coats < 1 || coats > put.Layers)
            {
                problems.Add(new Problem("layers", $"{put.Name} takes 1 to {put.Layers}"));
            }
            else
            {
                problems.AddRange(
                    on.Select(z => (Zone: z, Why: HandDesk.WhyNot(At, Run, put, z, books.Now)))
                        .Where(x => x.Why is not null)
                        .GroupBy(x => x.Why!)
                        .Select(g => new Problem(ZoneWords.Of([.. g.Select(x => x.Zone)], 60), g.Key))
                );
            }
        }
        else if (problems.Count == 0 && done < Act.Wipe)
        {
            problems.AddRange(
                on.Where(z => !At.Zones[z].Acts.Contains(done))
                    .GroupBy(z =>
                        At.Zones[z].Warnings.Count > 0 ? At.Zones[z].Warnings[0] : "nothing of the kind was bought or is asked for"
                    )
                    .Select(g => new Problem(ZoneWords.Of([.. g], 60), $"no {HandOver.Words(done).ToLowerInvariant()} there: {g.Key}"))
            );
        }

        // Outdoors the weather shuts the gate; whoever did it all the same says what they did about it.
        var words = despite?.Trim() ?? "";
        var shut = At.Outdoors is { Count: > 0 } && done is Act.Compound or Act.Finish or Act.Protect;
        if (problems.Count == 0 && shut && words.Length is < 3 or > 300)
        {
            problems.Add(
                new Problem("despite", $"{At.Outdoors![0]} If it was done all the same, say in 3 to 300 characters what was done about it")
            );
        }

        if (problems.Count > 0)
        {
            return Refuse(422, [.. problems]);
        }

        if (shut)
        {
            await Jobs.NoteAsync(Job.Id, JobStore.WeatherNote, $"{HandOver.Words(done)}: {words}", User.StaffId(), stop);
        }

        var full = await books.DoneAsync(
            new HandWork
            {
                JobId = Job.Id,
                Act = done.ToString(),
                Kind = put?.Id,
                Layers = put is null ? 0 : coats,
                Zones = on,
                Author = User.StaffId(),
                At = books.Now,
            },
            stop
        );
        return full is null ? Redirect($"/jobs/{number}/handover?said=done") : Refuse(422, new Problem("act", full));
    }

    /// <summary>It was written down by mistake.</summary>
    public async Task<IActionResult> OnPostStrikeAsync(int number, Guid work, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        if (MayEdit && await books.StrikeAsync(Job.Id, work, stop))
        {
            return Redirect($"/jobs/{number}/handover?said=struck");
        }

        await FillAsync(stop);
        return Refuse(409, new Problem("job", MayEdit ? "it is not there any more" : WhyLocked));
    }

    /// <summary>Kinds that may go on all zones of a group now, and why the others may not.</summary>
    public IReadOnlyList<(Protection Kind, string? WhyNot)> Choices(HandGroup g) =>
        [.. g.Fits.Select(p => (p, g.Zones.Select(z => HandDesk.WhyNot(At, Run, p, z, Now)).FirstOrDefault(w => w is not null)))];

    private PageResult Refuse(int status, params Problem[] problems)
    {
        (Problems, Response.StatusCode) = (problems, status);
        return Page();
    }

    private async Task FillAsync(CancellationToken stop)
    {
        Now = books.Now;
        At = await hands.OfAsync(Job, Run, Equipped, stop);
        Log = await books.HandWorkAsync(Job.Id, stop);
        Names = await records.NamesAsync(stop);
        Weathered = [.. (await Jobs.NotesAsync(Job.Id, stop)).Where(n => n.Zone == JobStore.WeatherNote)];
    }
}
