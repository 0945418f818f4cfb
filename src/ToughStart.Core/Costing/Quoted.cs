using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using Range = ToughStart.Core.Planning.Range;

namespace ToughStart.Core.Costing;

/// <summary>A price a shop can stand by, and what it risks with it. Money with tax and rounded, unless it says otherwise.</summary>
/// <param name="Price">What seven in ten such jobs stay under.</param>
/// <param name="AtMost">What nine in ten stay under: never more without a new quote.</param>
/// <param name="Net">What the work would be charged before tax, not rounded: one in ten, half, nine in ten.</param>
/// <param name="Minutes">Hands-on.</param>
/// <param name="Elapsed">Minutes from first to last with the crew.</param>
/// <param name="LossChance">Part of such jobs that are worth more than the price.</param>
/// <param name="MeanLoss">How much more, on average over all of them, before tax.</param>
/// <param name="OwnCostOver">Part of such jobs that cost the shop itself more than the price.</param>
public sealed record Quoted(
    double Price,
    double AtMost,
    Range Net,
    Range Minutes,
    Range Elapsed,
    double LossChance,
    double MeanLoss,
    double OwnCostOver
)
{
    public static Quoted Of(Draws draws, Rates rates)
    {
        var c = Catalogue.Default;
        var prices = draws.Prices(rates);
        var price = rates.Asked(Draws.Quantile(prices, c["quote-at"]));
        var net = price / (1 + (rates.TaxPercent / 100));
        return new(
            price,
            rates.Asked(Draws.Quantile(prices, c["at-most"])),
            Draws.Of(prices),
            Draws.Of(draws.Minutes),
            Draws.Of(draws.Elapsed),
            Draws.ShareOver(prices, net),
            Draws.Over(prices, net),
            Draws.ShareOver(draws.Costs(rates), net)
        );
    }
}

/// <summary>One way it may go on after the hold: how often, and what it then comes to.</summary>
public sealed record Course(double Share, double Low, double High);

/// <summary>Where work stops and the client is asked: once the wash and the tests have shown what was hidden.</summary>
/// <param name="Test">The test that decides most.</param>
/// <param name="When">After what.</param>
/// <param name="Little">It shows little: at most a quarter of what it could add.</param>
/// <param name="Much">It shows more.</param>
public sealed record HoldPoint(string Test, string Contaminant, string When, Course Little, Course Much)
{
    /// <summary>Null = no test would move the price by more than its rounding.</summary>
    public static HoldPoint? Of(Plan plan, Rates rates)
    {
        if (plan.Worlds is not { } worlds)
        {
            return null;
        }

        var (draws, prices) = (worlds.Drawn, worlds.Drawn.Prices(rates));
        var best = plan
            .Tests.Where(TestWorth.Made)
            .Select(t => (Test: t, At: worlds.Hidden.ToList().FindIndex(h => h == (t.Test, t.Contaminant, t.When))))
            .Where(x => x.At >= 0 && draws.Added[x.At].Max() > 0)
            .OrderByDescending(x => x.Test.NarrowsMinutes.Value)
            .FirstOrDefault();
        if (best.Test is null)
        {
            return null;
        }

        var added = draws.Added[best.At];
        var edge = added.Max() / 4;
        double[] little = [.. prices.Where((_, s) => added[s] <= edge)];
        double[] much = [.. prices.Where((_, s) => added[s] > edge)];
        return
            little.Length == 0
            || much.Length == 0
            || rates.Asked(Draws.Quantile(much, 0.5)) - rates.Asked(Draws.Quantile(little, 0.5)) < Math.Max(1, rates.RoundTo)
            ? null
            : new(best.Test.Test, best.Test.Contaminant, best.Test.When, CourseOf(little), CourseOf(much));

        Course CourseOf(double[] of) =>
            new(of.Length / (double)prices.Length, rates.Asked(Draws.Quantile(of, 0.1)), rates.Asked(Draws.Quantile(of, 0.9)));
    }
}

/// <summary>What to leave out for a price, and what that means.</summary>
public static class Budget
{
    /// <summary>Most options that are tried in every combination.</summary>
    public const int MostOptions = 10;

    /// <summary>
    /// The options to leave out that bring a price down far enough and leave the vehicle least dirty; among those alike, what saves
    /// least. Differences are added up here: what is proposed is planned and priced anew before anybody is told.
    /// </summary>
    /// <param name="over">What has to be saved, before tax.</param>
    /// <returns>Empty = nothing has to go; null = even all of it is not enough.</returns>
    public static IReadOnlyList<OptionEffect>? For(double over, IEnumerable<OptionEffect> options)
    {
        if (over <= 0)
        {
            return [];
        }

        OptionEffect[] parts = [.. options.Where(o => !o.Option.Adds && o.Difference.Expected < 0).Take(MostOptions)];
        return Enumerable
            .Range(1, (1 << parts.Length) - 1)
            .Select(set => parts.Where((_, i) => (set & (1 << i)) != 0).ToArray())
            .Where(set => -set.Sum(o => o.Difference.Expected) >= over)
            .OrderBy(set => Math.Round(set.Sum(o => o.Dirtier), 3))
            .ThenBy(set => -set.Sum(o => o.Difference.Expected))
            .FirstOrDefault();
    }
}
