using ToughStart.Core.Contamination;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Running;

namespace ToughStart.Core.Costing;

/// <summary>
/// What a test is worth: do the work blindly, leave it, or test and do it where the test says so, all in the same minutes of cost.
/// </summary>
public static class TestWorth
{
    /// <summary>Minutes of one kind of test on so many zones: each by itself, or laid out once and walked round.</summary>
    public static double Minutes(int zones, Catalogue c) => Math.Min(zones * c["test-minutes"], c["test-round"] + zones * c["test-zone"]);

    /// <summary>
    /// Is a test made: because it is worth its time, or because somebody looked in vain and nothing counts as clean by that?
    /// </summary>
    public static bool Made(PlannedTest t) => t.Worth || t.Required;

    /// <summary>
    /// What one zone gains by its test: the better of doing it blindly and leaving it, less what the test costs with its errors.
    /// </summary>
    /// <param name="work">Minutes of cost of the work.</param>
    /// <param name="stays">Minutes of cost of leaving it where it is there.</param>
    /// <param name="test">Minutes of the test.</param>
    /// <param name="chance">That it is there.</param>
    /// <param name="finds">Chance that the test finds it where it is there.</param>
    /// <param name="clears">Chance that the test clears a zone where it is not.</param>
    public static double Of(double work, double stays, double test, double chance, double finds, double clears) =>
        Math.Min(work, chance * stays)
        - (test + (chance * finds * work) + ((1 - chance) * (1 - clears) * work) + (chance * (1 - finds) * stays));

    /// <summary>Minutes by which a group's answers narrow the range: its width now less the mean width when they are in.</summary>
    /// <param name="minutes">Of every draw.</param>
    /// <param name="added">What the group adds to it.</param>
    public static double Narrows(double[] minutes, double[] added)
    {
        // Answers are in when one knows how much the group adds: nothing, or one of some bands of the rest.
        double[] positive = [.. added.Where(a => a > 0).Order()];
        var edges = Enumerable.Range(1, Bands - 1).Select(b => positive.Length == 0 ? 0 : positive[b * positive.Length / Bands]).ToArray();
        var outcomes = Enumerable
            .Range(0, minutes.Length)
            .GroupBy(s => added[s] <= 0 ? -1 : edges.Count(e => added[s] >= e))
            .Select(g => g.Select(s => minutes[s]).ToArray());
        return Math.Max(0, Draws.Of(minutes).Width - outcomes.Sum(o => Draws.Of(o).Width * o.Length / minutes.Length));
    }

    private const int Bands = 3;

    /// <summary>How well a group's test sees: chance that it finds what is there, and that it clears what is not.</summary>
    private static (double Finds, double Clears) Sees(HiddenGroup g, HiddenBranch b, Catalogue c)
    {
        if (b.Load <= 0 || Sense.Of(g.Test, null, c) is not { } sense)
        {
            return (1, 1);
        }

        var low = sense.Likelihood(0);
        return (1 - low[Levels.Of(b.Load)], low[Levels.Nil]);
    }

    internal static PlannedTest Of(HiddenGroup g, double narrows, Catalogue c)
    {
        var adds = g.Branches.Sum(b => b.LabourMinutes);
        var steps = g
            .Branches.SelectMany(b => b.Extra.Select(d => (Branch: b, Deed: d)))
            .GroupBy(x => (Position: x.Deed.Slot.Index, x.Deed.Treatment.Index, x.Deed.Rounds))
            .OrderBy(x => x.Key.Position)
            .ThenBy(x => x.Key.Index)
            .Select(x => new BranchStep(
                x.First().Deed.Slot.Stage,
                x.First().Deed.Treatment.Id,
                x.First().Deed.Treatment.Name,
                x.Key.Rounds,
                x.Select(y => y.Branch.State.Zone.Id).ToArray(),
                x.Sum(y => ZoneWork.Labour(y.Deed, y.Branch.State, c))
            ))
            .ToArray();
        var main = steps
            .OrderByDescending(s => c.Treatment(s.Treatment).Removes.Where(r => r.Kind == g.Kind.Index).Sum(r => r.Decades))
            .ThenByDescending(s => s.LabourMinutes)
            .FirstOrDefault();
        var minutes = Minutes(g.Branches.Count, c);
        var product = g.Branches.ToDictionary(b => b, b => Math.Max(0, b.Money - b.LabourMinutes / 60 * c["labour-rate"]));
        double Work(HiddenBranch b) => b.LabourMinutes + product[b] / c["money-per-minute"] + b.Harm;
        return new PlannedTest(
            g.Test,
            g.Kind.Id,
            g.Branches.Select(b => b.State.Zone.Id).ToArray(),
            g.When,
            Changes(g, main, adds, c),
            g.Branches.Average(b => b.Probability),
            adds,
            narrows,
            steps
        )
        {
            Value = g.Branches.Sum(b =>
            {
                var (finds, clears) = Sees(g, b, c);
                return Of(Work(b), b.Stays, minutes / g.Branches.Count, b.Probability, finds, clears);
            }),
            Required = g.Again is not null,
            Without = g.Branches.Sum(Work) <= g.Branches.Sum(b => b.Probability * b.Stays) ? "do it everywhere" : "leave it",
            SavesMinutes = g.Branches.Sum(b => (1 - b.Probability) * b.LabourMinutes) - minutes,
            SavesMoney =
                g.Branches.Sum(b => (1 - b.Probability) * (product[b] + b.LabourMinutes / 60 * c["labour-rate"]))
                - minutes / 60 * c["labour-rate"],
            SavesHarm = g.Branches.Sum(b => (1 - b.Probability) * b.Harm),
        };
    }

    /// <summary>What a test would change, in words. One that measures nothing opens the way by passing.</summary>
    private static string Changes(HiddenGroup g, BranchStep? main, double adds, Catalogue c)
    {
        var again = g.Again is null ? "" : $"asked again ({g.Again}); ";
        if (main is null)
        {
            return again + "nothing more would be done here, but until then it is not proven";
        }

        var opens = c.Tests.FirstOrDefault(t => t.Id == g.Test) is { Measures: null };
        var rounds = main.Rounds > 1 ? $", {main.Rounds} rounds" : "";
        var minutes = adds < 1 ? "less than a minute" : $"up to {adds:0} min";
        return $"{again}{(opens ? "if nothing changes" : "if positive")}: {main.Name}{rounds}, {minutes} more";
    }
}
