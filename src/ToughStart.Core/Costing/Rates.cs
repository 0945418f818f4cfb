using ToughStart.Core.Provenance;

namespace ToughStart.Core.Costing;

/// <summary>What a shop charges and what it pays. Money is in the shop's currency.</summary>
/// <param name="Hour">Charged for an hour's work.</param>
/// <param name="OwnHour">What that hour costs the shop.</param>
/// <param name="Markup">On product at cost; 1 = none.</param>
/// <param name="WaterLitre">For a litre of water.</param>
/// <param name="ContainedLitre">For a litre that goes into a drum instead of the drain.</param>
/// <param name="Fixed">For every job, whatever it is.</param>
/// <param name="TaxPercent">Added to the price.</param>
/// <param name="RoundTo">Prices are rounded up to a whole number of these.</param>
public sealed record Rates(
    double Hour,
    double OwnHour,
    double Markup,
    double WaterLitre,
    double ContainedLitre,
    double Fixed,
    double TaxPercent,
    double RoundTo
)
{
    /// <summary>What counts until a shop says its own.</summary>
    public static Rates Default { get; } = Of(Catalogue.Default);

    private static Rates Of(Catalogue c) =>
        new(
            c["labour-rate"],
            c["own-hour"],
            c["product-markup"],
            c["water-price"],
            c["contained-price"],
            c["job-fixed"],
            0,
            c["price-step"]
        );

    /// <summary>Before tax, not rounded.</summary>
    public double Price(double minutes, double productCost, double litres, double contained) =>
        (minutes / 60 * Hour) + (productCost * Markup) + (litres * WaterLitre) + (contained * ContainedLitre) + Fixed;

    /// <summary>What the shop pays for the same.</summary>
    public double Cost(double minutes, double productCost, double litres, double contained) =>
        (minutes / 60 * OwnHour) + productCost + (litres * WaterLitre) + (contained * ContainedLitre) + Fixed;

    /// <summary>As it is asked for: with tax, rounded up.</summary>
    public double Asked(double price) => RoundUp(price * (1 + (TaxPercent / 100)));

    /// <summary>Up to the next whole step; a hair over a step is that step.</summary>
    public double RoundUp(double price) => RoundTo <= 0 ? price : RoundTo * Math.Ceiling((price / RoundTo) - 1e-9);

    /// <summary>Every figure with its name and the least and most that is allowed.</summary>
    public static IReadOnlyList<(string Id, string Name, string Unit, double Least, double Most, Func<Rates, double> Of)> Fields { get; } =
    [
        ("hour", "an hour's work", "per h", 0, 10_000, r => r.Hour),
        ("ownHour", "what that hour costs you", "per h", 0, 10_000, r => r.OwnHour),
        ("markup", "markup on product", "times", 1, 20, r => r.Markup),
        ("water", "a litre of water", "per l", 0, 100, r => r.WaterLitre),
        ("contained", "a litre into the drum", "per l", 0, 1_000, r => r.ContainedLitre),
        ("fixed", "every job", "per job", 0, 100_000, r => r.Fixed),
        ("tax", "tax", "%", 0, 100, r => r.TaxPercent),
        ("roundTo", "rounded up to", "", 0, 1_000, r => r.RoundTo),
    ];

    /// <summary>
    /// Rates from figures by the ids of <see cref="Fields"/>, those not named from the default; or what is wrong with them, by name.
    /// </summary>
    public static (Rates? Rates, IReadOnlyList<string> Problems) Read(Func<string, double?> figure)
    {
        var problems = new List<string>();
        double Take(string id)
        {
            var f = Fields.First(x => x.Id == id);
            var value = figure(id) ?? f.Of(Default);
            if (!double.IsFinite(value) || value < f.Least || value > f.Most)
            {
                problems.Add(FormattableString.Invariant($"{id}: {value} is not allowed; {f.Least:0} to {f.Most:0} {f.Unit}").TrimEnd());
            }

            return value;
        }

        var rates = new Rates(
            Take("hour"),
            Take("ownHour"),
            Take("markup"),
            Take("water"),
            Take("contained"),
            Take("fixed"),
            Take("tax"),
            Take("roundTo")
        );
        return problems.Count > 0 ? (null, problems) : (rates, []);
    }
}
