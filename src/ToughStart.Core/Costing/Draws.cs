using Range = ToughStart.Core.Planning.Range;

namespace ToughStart.Core.Costing;

/// <summary>One plan worked many times over, each time in a world drawn anew: what every draw came to, draw by draw.</summary>
/// <param name="Minutes">Hands-on.</param>
/// <param name="Hidden">Of them, for what nobody had seen.</param>
/// <param name="Elapsed">From the first to the last, minutes.</param>
/// <param name="ProductMl">Neat product.</param>
/// <param name="ProductCost">The same at what it costs to buy, money.</param>
/// <param name="Contained">Litres that may not run to the drain.</param>
/// <param name="Added">Minutes that each group of hidden kinds adds.</param>
/// <param name="Rounds">Most rounds that each step takes on any zone.</param>
/// <param name="Steps">Hands-on minutes of each step.</param>
/// <param name="Beyond">Hands-on minutes that are in no step of the plan: for what nobody had seen, and after a loop that ran out.</param>
public sealed record Draws(
    double[] Minutes,
    double[] Hidden,
    double[] Elapsed,
    double[] Litres,
    double[] ProductMl,
    double[] ProductCost,
    double[] Contained,
    double[][] Added,
    int[][] Rounds,
    double[][] Steps,
    double[] Beyond
)
{
    public int Count => Minutes.Length;

    /// <summary>What each draw costs a client before tax, not rounded.</summary>
    public double[] Prices(Rates rates) =>
        [.. Enumerable.Range(0, Count).Select(s => rates.Price(Minutes[s], ProductCost[s], Litres[s], Contained[s]))];

    /// <summary>What each draw costs the shop.</summary>
    public double[] Costs(Rates rates) =>
        [.. Enumerable.Range(0, Count).Select(s => rates.Cost(Minutes[s], ProductCost[s], Litres[s], Contained[s]))];

    /// <summary>Hands-on minutes if nothing hidden shows.</summary>
    public double[] MinutesAsSeen => [.. Minutes.Zip(Hidden, (m, h) => m - h)];

    /// <summary>What is not exceeded with a probability, between the two draws beside it.</summary>
    /// <param name="probability">0 to 1.</param>
    public static double Quantile(double[] values, double probability) => Sorted([.. values.Order()], probability);

    /// <summary>Tenth, fifth and ninth in ten.</summary>
    public static Range Of(double[] values)
    {
        double[] sorted = [.. values.Order()];
        return new(Sorted(sorted, 0.1), Sorted(sorted, 0.5), Sorted(sorted, 0.9));
    }

    /// <summary>How much each draw is over, on average; a draw that is not over counts as nothing.</summary>
    public static double Over(double[] values, double limit) => values.Average(v => Math.Max(0, v - limit));

    /// <summary>Part of the draws that are over.</summary>
    public static double ShareOver(double[] values, double limit) => values.Count(v => v > limit + 1e-9) / (double)values.Length;

    private static double Sorted(double[] sorted, double probability)
    {
        if (sorted.Length == 0)
        {
            return 0;
        }

        var at = Math.Clamp(probability, 0, 1) * (sorted.Length - 1);
        var below = (int)at;
        return below + 1 >= sorted.Length ? sorted[^1] : sorted[below] + ((at - below) * (sorted[below + 1] - sorted[below]));
    }
}
