using Microsoft.AspNetCore.Mvc;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Running;
using ToughStart.Core.Running.Live;
using ToughStart.Core.Vehicles;
using ToughStart.Data;
using ToughStart.Web.Api;
using ToughStart.Web.Drawing;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Stations;

/// <summary>A result as the form sends it: for one step, how many rounds and what was seen; exceptions by zone.</summary>
public sealed class ResultRow
{
    public string Step { get; set; } = "";
    public string? Rounds { get; set; }
    public string? Result { get; set; }
    public string? Because { get; set; }

    /// <summary>Looked at on another spot than before.</summary>
    public bool Elsewhere { get; set; }
    public List<ZoneException> Except { get; set; } = [];
}

public sealed class ZoneException
{
    public string? Zone { get; set; }
    public string? Result { get; set; }
}

/// <summary>One row of answers as the page draws it.</summary>
public sealed record AnswerBlock(
    int Index,
    string Observe,
    IReadOnlyList<string> Words,
    IReadOnlyList<string> Stop,
    IReadOnlyList<string> Zones,
    ResultRow Row,
    AskLine? Again,
    Func<string, string> Say
);

/// <summary>A step or a test of the form, with the row its fields begin at.</summary>
/// <param name="Row">Number of its first row.</param>
/// <param name="Matters">It is what comes next, was begun, or has to be looked at again.</param>
/// <param name="IsDone">It is done as planned.</param>
public sealed record ResultBlock(StageGroup? Group, PlannedTest? Test, int Row, bool Matters, bool IsDone)
{
    public IEnumerable<string> Zones => Group?.Steps.SelectMany(s => s.Zones) ?? Test!.Zones;
}

public sealed class ResultsModel(JobDesk desk, RecordStore records, ShopClock clock) : JobPage(desk)
{
    public override string Station => "results";

    /// <summary>Steps that come next, beside those begun and those to be looked at again.</summary>
    private const int Ahead = 3;

    /// <summary>Steps, then tests, in the order of their rows.</summary>
    public IReadOnlyList<ResultBlock> Blocks { get; private set; } = [];

    public IReadOnlyDictionary<string, string> Names { get; private set; } = new Dictionary<string, string>();

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    [BindProperty]
    public List<ResultRow> Rows { get; set; } = [];

    [BindProperty]
    public Guid Batch { get; set; } = Guid.CreateVersion7();

    /// <summary>Revision of the plan the form was drawn from; 0 = a draft that nobody has put in force.</summary>
    [BindProperty]
    public int Revision { get; set; }

    /// <summary>Names that plan.</summary>
    [BindProperty]
    public string Hash { get; set; } = "";

    public async Task<IActionResult> OnGetAsync(int number, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        await PrepareAsync(stop);
        return Page();
    }

    /// <summary>Takes an entry back that was a mistake.</summary>
    public async Task<IActionResult> OnPostBackAsync(int number, Guid entry, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        var target = Run.Log.FirstOrDefault(l => l.Observation.Id == entry);
        Problem[] problems =
            IsClosed ? [new Problem("job", RunApi.IsClosed)]
            : target is null ? [new Problem("entry", "was taken back already, or is none of this job")]
            :
            [
                .. (await Runs.AppendAsync(Job, [target.Observation.Back(Guid.CreateVersion7())], User.StaffId(), stop)).SelectMany(a =>
                    a.Problems
                ),
            ];
        if (problems.Length == 0)
        {
            return Redirect($"/jobs/{number}/results");
        }

        (Problems, Response.StatusCode) = (problems, 409);
        await PrepareAsync(stop);
        return Page();
    }

    public async Task<IActionResult> OnPostAsync(int number, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        var problems = new List<Problem>();
        if (IsClosed)
        {
            problems.Add(new Problem("job", RunApi.IsClosed));
        }
        else if (Revision != (Run.InForce?.Revision ?? 0) || (Run.InForce is null && Hash != PlanHash))
        {
            problems.Add(
                new Problem(
                    "plan",
                    "was changed meanwhile; your answers are still here, check them against the plan as it stands now and send again"
                )
            );
        }

        var observations = problems.Count == 0 ? Read(Revision == 0 ? null : Revision, problems) : [];
        if (problems.Count == 0 && observations.Count == 0)
        {
            problems.Add(
                new Problem("results", "nothing was entered: say how many rounds were done, or what was seen, of at least one step")
            );
        }

        if (problems.Count == 0 && Revision == 0)
        {
            // Who enters what was done on a plan works by that plan: it is in force from now on.
            if (await Runs.AcceptAsync(Job, Equipped, Hash, User.StaffId(), stop) is { } revision)
            {
                observations = [.. observations.Select(o => o with { Plan = revision })];
            }
            else
            {
                problems.Add(
                    new Problem(
                        "plan",
                        "somebody put another plan in force meanwhile; your answers are still here, check them against it and send again"
                    )
                );
            }
        }

        if (problems.Count == 0)
        {
            var job = (await Jobs.JobAsync(number, stop))!;
            problems.AddRange((await Runs.AppendAsync(job, observations, User.StaffId(), stop)).SelectMany(a => a.Problems));
        }

        if (problems.Count > 0)
        {
            Problems = problems;
            Response.StatusCode = problems.Any(p => p.Field is "plan" or "job") ? 409 : 422;
            var kept = Rows;
            await PrepareAsync(stop);
            Rows = Rows.Select(r => kept.FirstOrDefault(k => k.Step == r.Step) ?? r).ToList();
            return Page();
        }

        return Redirect($"/jobs/{number}/plan");
    }

    private async Task PrepareAsync(CancellationToken stop)
    {
        var groups = CoreSample.StageGroups(Plan);
        (Revision, Hash) = (Run.InForce?.Revision ?? 0, PlanHash);
        Names = await records.NamesAsync(stop);
        ModelState.Clear();
        Rows =
        [
            .. groups.SelectMany(g => g.Steps).Select(s => new ResultRow { Step = s.Key }),
            .. Tests.Select(t => new ResultRow { Step = Observables.TestKey(t) }),
        ];
        var blocks = new List<ResultBlock>();
        var (row, ahead) = (0, 0);
        foreach (var g in groups)
        {
            var done = g.Steps.All(Run.IsDone);
            var begun = !done && g.Steps.Any(s => s.Zones.Any(z => Run.State.Of(z).Steps.GetValueOrDefault(s.Key).Told > 0));
            var again = g.Steps.Any(s => s.Until is { } u && Again(u.Observe, s.Zones) is not null);
            blocks.Add(new(g, null, row, again || begun || (!done && ++ahead <= Ahead), done));
            row += g.Steps.Count;
        }

        foreach (var t in Tests)
        {
            blocks.Add(new(null, t, row++, t.Required || Again(t.Test, t.Zones) is not null || t == Plan.BestTest, false));
        }

        Blocks = blocks;
    }

    /// <summary>What was entered, newest first, in words.</summary>
    public IReadOnlyList<(Guid Id, string What, string When, bool MayBack)> Entered =>
        [
            .. Run
                .Log.Reverse()
                .Take(12)
                .Select(l =>
                    (
                        l.Observation.Id,
                        Words(l.Observation),
                        $"{Names.GetValueOrDefault(l.Who, l.Who)}, {clock.Here(l.At):d MMM HH:mm}",
                        Live.NotUndone(
                            Run.Live,
                            LiveHearsay.Entry(l.Observation.Back(Guid.CreateVersion7()), null, User.StaffId(), Run.Last)
                        )
                            is null
                    )
                ),
        ];

    private string Words(Observation o)
    {
        var step = Plan.Steps.FirstOrDefault(s => s.Key == o.StepKey);
        var test = Tests.FirstOrDefault(t => Observables.TestKey(t) == o.StepKey);
        var what = step?.Name
            ?? (
                test is null
                    ? o.StepKey.Split('/') is [_, var of, ..]
                        ? of.Replace('-', ' ')
                        : o.StepKey
                    : PlanModel.LookWords(test.Test)
            );
        var seen =
            o.Result is not { } r ? ""
            : step is null
                ? r == Observation.Inconclusive ? "could not tell"
                    : r.Replace('-', ' ')
            : Observables.Say(step.Stage, r);
        return string.Join(
            ", ",
            new[]
            {
                what.Capital(),
                o.Rounds > 0 ? $"{o.Rounds} {(o.Rounds == 1 ? "round" : "rounds")}" : "",
                o.Because is { } why ? $"{seen} ({why.Replace('-', ' ')})" : seen,
                ZoneWords.Of(o.Zones) is { Length: <= 60 } zones ? zones : $"{o.Zones.Count} zones",
            }.Where(x => x.Length > 0)
        );
    }

    /// <summary>Tests of the plan.</summary>
    public IReadOnlyList<PlannedTest> Tests => Plan.Tests;

    /// <summary>Rounds of a step that are still to do, where most are.</summary>
    public int Left(Step step) => step.Zones.Max(z => LeftOn(step, z));

    /// <summary>How often a step is done already, in words after "planned so often"; empty while it is not.</summary>
    public string DoneWords(Step step) =>
        Run.Done(step) is not { Most: > 0 } done ? ""
        : done.Least == done.Most ? $", {done.Most} done"
        : $", {done.Least} to {done.Most} done";

    private int LeftOn(Step step, string zone) =>
        Math.Max(0, step.RoundsOn(zone) - Run.State.Of(zone).Steps.GetValueOrDefault(step.Key).Done);

    /// <summary>
    /// So many rounds said of a step, on one of its zones: as many as it was still to take there, and no more unless more were done than planned.
    /// </summary>
    private int RoundsOn(Step step, string zone, int said) =>
        (LeftOn(step, zone), Left(step)) is var (here, most) && said <= most ? Math.Min(said, here)
        : here == most ? said
        : here;

    /// <summary>Was that look a surprise there? Then another spot has to be looked at.</summary>
    public AskLine? Again(string look, IReadOnlyList<string> zones) =>
        Run.Ask.FirstOrDefault(a => a.Look == look && a.Zones.Intersect(zones).Any());

    private List<Observation> Read(int? plan, List<Problem> problems)
    {
        var observations = new List<Observation>();
        foreach (var (row, i) in Rows.Select((r, i) => (r, i)))
        {
            var step = Plan.Steps.FirstOrDefault(s => s.Key == row.Step);
            var test = step is null ? Tests.FirstOrDefault(t => Observables.TestKey(t) == row.Step) : null;
            if (step is null && test is null)
            {
                problems.Add(new Problem(row.Step, "is not a step of this plan", Plan.Steps.Select(s => s.Key).ToArray()));
                continue;
            }

            var answered = !string.IsNullOrEmpty(row.Result) || row.Except.Any(e => !string.IsNullOrEmpty(e.Result + e.Zone));
            if (string.IsNullOrWhiteSpace(row.Rounds) && !answered)
            {
                continue;
            }

            var name = step?.Name ?? PlanModel.LookWords(test!.Test);
            var rounds = 0;
            if (step is not null && !int.TryParse(string.IsNullOrWhiteSpace(row.Rounds) ? Left(step).ToString() : row.Rounds, out rounds))
            {
                problems.Add(
                    new Problem(
                        $"{name}, rounds",
                        $"must be a whole number from 0 to {Math.Max(step.Rounds, step.Until?.MaxRounds ?? step.Rounds)}"
                    )
                );
                continue;
            }

            problems.AddRange(Differing(name, row, step?.Zones ?? test!.Zones));
            foreach (var o in Observed(row, step, test, rounds, i, plan).ToArray())
            {
                foreach (var p in ObservationCheck.Check(Plan, o))
                {
                    problems.Add(p with { Field = $"{name}, {p.Field switch { "result" => "seen", "because" => "why", _ => p.Field }}" });
                }

                observations.Add(o);
            }
        }

        return observations;
    }

    /// <summary>What is said of single zones has a zone of the step, each once, and what was seen there.</summary>
    private static IEnumerable<Problem> Differing(string name, ResultRow row, IReadOnlyList<string> zones)
    {
        var said = row.Except.Where(e => !string.IsNullOrEmpty(e.Result + e.Zone)).ToArray();
        foreach (var e in said.Where(e => e.Zone is null || !zones.Contains(e.Zone)))
        {
            yield return new($"{name}, different on one zone", $"say which zone is {e.Result?.Replace('-', ' ')}", zones);
        }

        foreach (var e in said.Where(e => e.Zone is { } zone && zones.Contains(zone) && string.IsNullOrEmpty(e.Result)))
        {
            yield return new($"{name}, different on one zone", $"say what was seen on {Limits.Words(e.Zone!)}");
        }

        foreach (var g in said.GroupBy(e => e.Zone).Where(g => g.Key is { Length: > 0 } && g.Count() > 1))
        {
            yield return new($"{name}, different on one zone", $"{Limits.Words(g.Key!)} is named {g.Count()} times; once is enough");
        }
    }

    /// <summary>The observations of a row: all zones alike, unless one differs.</summary>
    private IEnumerable<Observation> Observed(ResultRow row, Step? step, PlannedTest? test, int rounds, int index, int? plan)
    {
        var zones = step?.Zones ?? test!.Zones;
        var part = 0;
        foreach (
            var g in zones.GroupBy(z =>
                (
                    Result: row.Except.FirstOrDefault(e => e.Zone == z && !string.IsNullOrEmpty(e.Result))?.Result
                        ?? (string.IsNullOrEmpty(row.Result) ? null : row.Result),
                    Rounds: step is null ? rounds : RoundsOn(step, z, rounds)
                )
            )
        )
        {
            var look =
                g.Key.Result is null ? null
                : step is null ? test!.Test
                : ObservationCheck.Looks(step, g.Key.Result);
            var o = new Observation(
                Derived(index, part++),
                Batch,
                row.Step,
                g.ToArray(),
                g.Key.Rounds,
                look,
                g.Key.Result,
                g.Key.Result == Observation.Inconclusive && !string.IsNullOrEmpty(row.Because) ? row.Because : null
            )
            {
                Plan = plan,
                Elsewhere = row.Elsewhere,
            };
            if (o.Rounds > 0 || o.Result is not null)
            {
                yield return o;
            }
        }
    }

    /// <summary>Ids follow from the form that was sent: sending it twice gives the same ids.</summary>
    private Guid Derived(int row, int part)
    {
        var bytes = Batch.ToByteArray();
        bytes[14] ^= (byte)row;
        bytes[15] ^= (byte)(part + 1);
        return new Guid(bytes);
    }
}
