using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Costing;

/// <summary>
/// What a plan comes to: not one figure but what nine in ten such jobs stay under, what half do and what one in ten does, with everything
/// that may still show; and apart from that, what it is if nothing hidden shows.
/// </summary>
internal static class Outlook
{
    public static (Totals Totals, IReadOnlyList<PlannedTest> Tests, PlannedTest? Best, IReadOnlyList<Step> Steps, Worlds Worlds) Of(
        Survey survey,
        IReadOnlyList<Step> steps,
        IReadOnlyList<ZoneWork> work,
        IReadOnlyList<HiddenGroup> hidden,
        IReadOnlyList<CapBranch> caps,
        ProblemBuilder builder,
        StageGraph graph,
        Catalogue c
    )
    {
        // A test that is not worth its time is not made, and what it would have found is left where it is: neither takes minutes.
        var made = hidden.Select(g => TestWorth.Made(TestWorth.Of(g, 0, c))).ToArray();
        var replay = new Replay(survey, steps, work, hidden, made, caps, builder, graph, c);
        var draws = replay.Run(Worlds.Enough.All, Scatter.Of(c), Worlds.Seed, null, null, CancellationToken.None);
        var tests = hidden
            .Select((g, i) => TestWorth.Of(g, made[i] ? TestWorth.Narrows(draws.Minutes, draws.Added[i]) : 0, c))
            .OrderByDescending(t => t.NarrowsMinutes)
            .ThenBy(t => t.Test, StringComparer.Ordinal)
            .ThenBy(t => t.Contaminant, StringComparer.Ordinal)
            .ToArray();
        var totals = new Totals(
            Draws.Of(draws.Minutes),
            Draws.Of(draws.Elapsed),
            Draws.Of(draws.Litres),
            Draws.Of(draws.Prices(Rates.Default)),
            Draws.Of(draws.ProductMl),
            steps
                .Where(s => s.ProductMl > 0)
                .GroupBy(s => s.Agent)
                .OrderBy(g => g.Key, StringComparer.Ordinal)
                .ToDictionary(g => g.Key, g => g.Sum(s => s.ProductMl)),
            work.Sum(w => w.Deeds.Sum(d => d.Rounds * d.Option.Stress)) + work.Sum(Marring) / (survey.Lean?.Harm ?? 1)
        )
        {
            AsSeenMinutes = Draws.Of(draws.MinutesAsSeen),
        };
        return (
            totals,
            tests,
            tests.FirstOrDefault(t => t.NarrowsMinutes >= c["best-test"] && TestWorth.Made(t)),
            [.. steps.Select((s, i) => s with { RoundsBetween = Between(s, draws.Rounds[i]) })],
            new Worlds(replay, draws, [.. hidden.Select(g => (g.Test, g.Kind.Id, g.When))], c)
        );
    }

    /// <summary>Rounds of a step, one time in ten fewer and one in ten more.</summary>
    private static (int Low, int High) Between(Step step, int[] rounds)
    {
        var (low, high) = (rounds.Order().ElementAt(rounds.Length / 10), rounds.OrderDescending().ElementAt(rounds.Length / 10));
        return (Math.Min(step.Rounds, low), Math.Max(step.Rounds, high));
    }

    /// <summary>Minutes of cost that the tools scratch.</summary>
    public static double Marring(ZoneWork w) => w.Deeds.Sum(d => d.Cost.Marring) / 1000.0;
}
