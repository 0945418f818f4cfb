using Microsoft.AspNetCore.Mvc;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Running;
using ToughStart.Data;
using ToughStart.Web.Identity;
using ToughStart.Web.Drawing;

namespace ToughStart.Web.Stations;

/// <summary>A result as the form sends it: for one step, how many rounds and what was seen; exceptions by zone.</summary>
public sealed class ResultRow
{
    public string Step { get; set; } = "";
    public string? Rounds { get; set; }
    public string? Result { get; set; }
    public string? Because { get; set; }
    public List<ZoneException> Except { get; set; } = [];
}

public sealed class ZoneException
{
    public string Zone { get; set; } = "";
    public string? Result { get; set; }
}

/// <summary>One row of answers as the page draws it.</summary>
public sealed record AnswerBlock(int Index, string Observe, IReadOnlyList<string> Words, IReadOnlyList<string> Stop, IReadOnlyList<string> Zones, bool ByZone, ResultRow Row);

public sealed class ResultsModel(JobStore jobs, Workshop plans) : JobPage(jobs, plans)
{
    public override string Station => "results";

    public IReadOnlyList<StageGroup> Groups { get; private set; } = [];

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    [BindProperty]
    public List<ResultRow> Rows { get; set; } = [];

    [BindProperty]
    public Guid Batch { get; set; } = Guid.CreateVersion7();

    [BindProperty]
    public int Revision { get; set; }

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

        var (observations, problems) = Read();
        if (Revision != Job.Revision)
        {
            problems.Add(new Problem("survey", $"was saved again meanwhile (revision {Revision} became {Job.Revision}); your answers are still here, check them against the new plan and send again"));
        }

        if (problems.Count > 0)
        {
            Problems = problems;
            Response.StatusCode = problems.Any(p => p.Field == "survey") ? 409 : 422;
            var kept = Rows;
            Prepare();
            Rows = Rows.Select(r => kept.FirstOrDefault(k => k.Step == r.Step) ?? r).ToList();
            return Page();
        }

        await Jobs.AppendAsync(Job.Id, Job.Revision, observations, User.StaffId(), stop);
        return Redirect($"/jobs/{number}/plan");
    }

    /// <summary>Words to choose from for a step, "could not tell" last.</summary>
    public static IReadOnlyList<string> Words(Step s) => s.Until is { } u ? [.. u.Stop, .. u.Repeat, .. s.Stage == "clay" ? new[] { "black-lumps" } : [], "inconclusive"] : [];

    private void Prepare()
    {
        Groups = CoreSample.StageGroups(Plan);
        Revision = Job.Revision;
        Rows = [.. Plan.Steps.Select(s => new ResultRow { Step = s.Key }), .. Plan.Tests.Select(t => new ResultRow { Step = Observables.TestKey(t) })];
    }

    private (List<Observation>, List<Problem>) Read()
    {
        var observations = new List<Observation>();
        var problems = new List<Problem>();
        foreach (var (row, i) in Rows.Select((r, i) => (r, i)))
        {
            if (Plan.Tests.FirstOrDefault(t => Observables.TestKey(t) == row.Step) is { } test)
            {
                observations.AddRange(ReadTest(row, test, i, problems));
                continue;
            }

            var step = Plan.Steps.FirstOrDefault(s => s.Key == row.Step);
            if (step is null)
            {
                problems.Add(new Problem(row.Step, "is not a step of this plan", Plan.Steps.Select(s => s.Key).ToArray()));
                continue;
            }

            var nothing = string.IsNullOrWhiteSpace(row.Rounds) && string.IsNullOrEmpty(row.Result);
            if (nothing)
            {
                continue;
            }

            var most = Math.Max(step.Rounds, step.Until?.MaxRounds ?? step.Rounds);
            if (!int.TryParse(string.IsNullOrWhiteSpace(row.Rounds) ? step.Rounds.ToString() : row.Rounds, out var rounds) || rounds < 0 || rounds > most)
            {
                problems.Add(new Problem($"{step.Name}, rounds", $"must be a whole number from 0 to {most}"));
                continue;
            }

            foreach (var word in row.Except.Select(e => e.Result).Append(row.Result).Where(w => !string.IsNullOrEmpty(w) && !Words(step).Contains(w)))
            {
                problems.Add(new Problem($"{step.Name}, seen", $"'{word}' is not an answer here", Words(step)));
            }

            if (row.Result == "inconclusive" && !string.IsNullOrEmpty(row.Because) && !SurveyFormat.Becauses.Contains(row.Because))
            {
                problems.Add(new Problem($"{step.Name}, why", "is not a reason we know", SurveyFormat.Becauses));
            }

            observations.AddRange(ToObservations(row, step, rounds, i));
        }

        return (observations, problems);
    }

    /// <summary>Answers to a test: seen, not done; all its zones unless one differs.</summary>
    private IEnumerable<Observation> ReadTest(ResultRow row, PlannedTest test, int index, List<Problem> problems)
    {
        foreach (var word in row.Except.Select(e => e.Result).Append(row.Result).Where(w => !string.IsNullOrEmpty(w) && !TestWords(test).Contains(w)))
        {
            problems.Add(new Problem($"{test.Test} test", $"'{word}' is not an answer here", TestWords(test)));
        }

        var part = 0;
        foreach (var g in test.Zones.Select(z => (Zone: z, Result: row.Except.FirstOrDefault(e => e.Zone == z && !string.IsNullOrEmpty(e.Result))?.Result ?? row.Result)).Where(x => !string.IsNullOrEmpty(x.Result)).GroupBy(x => x.Result!))
        {
            yield return new Observation(Derived(index, part++), Batch, row.Step, g.Select(x => x.Zone).ToArray(), 0, test.Test, g.Key, g.Key == "inconclusive" ? row.Because : null);
        }
    }

    /// <summary>Words to choose from for a test, "could not tell" last.</summary>
    public static IReadOnlyList<string> TestWords(PlannedTest t) => [.. SurveyFormat.Tests[t.Test], "inconclusive"];

    private IEnumerable<Observation> ToObservations(ResultRow row, Step step, int rounds, int index)
    {
        var except = row.Except.Where(e => !string.IsNullOrEmpty(e.Result) && step.Zones.Contains(e.Zone)).ToArray();
        var rest = step.Zones.Except(except.Select(e => e.Zone)).ToArray();
        var sets = except.GroupBy(e => e.Result!).Select(g => (Zones: g.Select(e => e.Zone).ToArray(), Result: (string?)g.Key)).Prepend((Zones: rest, Result: string.IsNullOrEmpty(row.Result) ? null : row.Result));
        var part = 0;
        foreach (var (zones, result) in sets.Where(s => s.Zones.Length > 0))
        {
            yield return new Observation(Derived(index, part++), Batch, step.Key, zones, rounds, result is null ? null : Observed(step, result), result, result == "inconclusive" ? row.Because : null);
        }
    }

    private static string? Observed(Step step, string result) => result == "black-lumps" ? "clayFace" : step.Until?.Observe;

    /// <summary>Ids follow from the form that was sent: sending it twice gives the same ids.</summary>
    private Guid Derived(int row, int part)
    {
        var bytes = Batch.ToByteArray();
        bytes[14] ^= (byte)row;
        bytes[15] ^= (byte)(part + 1);
        return new Guid(bytes);
    }
}
