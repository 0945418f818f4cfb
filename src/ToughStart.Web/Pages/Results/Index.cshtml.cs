using Microsoft.AspNetCore.Mvc;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Running;
using ToughStart.Data;
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
    public string Zone { get; set; } = "";
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
    AskLine? Again
);

public sealed class ResultsModel(JobDesk desk) : JobPage(desk)
{
    public override string Station => "results";

    public IReadOnlyList<StageGroup> Groups { get; private set; } = [];

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

        Prepare();
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
            problems.Add(new Problem("job", "is closed: what was done is booked"));
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
            Prepare();
            Rows = Rows.Select(r => kept.FirstOrDefault(k => k.Step == r.Step) ?? r).ToList();
            return Page();
        }

        return Redirect($"/jobs/{number}/plan");
    }

    private void Prepare()
    {
        Groups = CoreSample.StageGroups(Plan);
        (Revision, Hash) = (Run.InForce?.Revision ?? 0, PlanHash);
        ModelState.Clear();
        Rows =
        [
            .. Plan.Steps.Select(s => new ResultRow { Step = s.Key }),
            .. Tests.Select(t => new ResultRow { Step = Observables.TestKey(t) }),
        ];
    }

    /// <summary>Tests of the plan.</summary>
    public IReadOnlyList<PlannedTest> Tests => Plan.Tests;

    /// <summary>Rounds of a step that are still to do on the zone with the fewest.</summary>
    public int Left(Step step) => Math.Max(0, step.Rounds - Run.Done(step).Least);

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

            var answered = !string.IsNullOrEmpty(row.Result) || row.Except.Any(e => !string.IsNullOrEmpty(e.Result));
            if (string.IsNullOrWhiteSpace(row.Rounds) && !answered)
            {
                continue;
            }

            var name = step?.Name ?? $"{test!.Test} test";
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

            foreach (var o in Observed(row, step, test, rounds, i, plan))
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

    /// <summary>The observations of a row: all zones alike, unless one differs.</summary>
    private IEnumerable<Observation> Observed(ResultRow row, Step? step, PlannedTest? test, int rounds, int index, int? plan)
    {
        var zones = step?.Zones ?? test!.Zones;
        var part = 0;
        foreach (
            var g in zones.GroupBy(z =>
                row.Except.FirstOrDefault(e => e.Zone == z && !string.IsNullOrEmpty(e.Result))?.Result
                ?? (string.IsNullOrEmpty(row.Result) ? null : row.Result)
            )
        )
        {
            var look =
                g.Key is null ? null
                : step is null ? test!.Test
                : ObservationCheck.Looks(step, g.Key);
            var o = new Observation(
                Derived(index, part++),
                Batch,
                row.Step,
                g.ToArray(),
                rounds,
                look,
                g.Key,
                g.Key == Observation.Inconclusive && !string.IsNullOrEmpty(row.Because) ? row.Because : null
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
