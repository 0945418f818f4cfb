using ToughStart.Core.Provenance;

namespace ToughStart.Core.Chemistry;

/// <summary>A bottle on the shelf that stands for its class: what its label and data sheet say wins over the class.</summary>
/// <param name="DataSheet">Is there a data sheet? Without one no acid is planned.</param>
/// <param name="Ph">The data sheet's pH at working strength, if it gives one.</param>
/// <param name="Fluoride">Fluoride or bifluoride in section 3: the product is blocked.</param>
public sealed record ShelfBottle(string Agent, bool DataSheet, double? Ph, bool Fluoride)
{
    /// <summary>Its id in the shop: plans point at bottles by it, whatever they are called; null = none was given.</summary>
    public string? Id { get; init; }

    /// <summary>What the shop calls it; unique on a shelf.</summary>
    public string? Name { get; init; }

    /// <summary>The data sheet's pH of the neat product.</summary>
    public double? NeatPh { get; init; }

    /// <summary>Weakest strength of the label, as product fraction on the panel.</summary>
    public ProductFraction? Low { get; init; }

    public ProductFraction? Reference { get; init; }

    public ProductFraction? High { get; init; }

    /// <summary>Minutes the label asks.</summary>
    public Minutes? Dwell { get; init; }

    /// <summary>Longest dwell the label allows, minutes.</summary>
    public Minutes? MaxDwell { get; init; }

    /// <summary>How the label has it put on; null = as its class.</summary>
    public AgentCarrier? Carrier { get; init; }

    public double? PricePerLitre { get; init; }

    /// <summary>What is left on the shelf, ml; null = nobody counts it.</summary>
    public Millilitres? StockMl { get; init; }

    /// <summary>A house efficacy outside these says that the bottle is not of its class.</summary>
    public const double LeastEfficacy = 0.3,
        MostEfficacy = 3;

    /// <summary>House efficacy against the class.</summary>
    public double? Efficacy { get; init; }

    /// <summary>Hazard statements of the data sheet: H314 …</summary>
    public IReadOnlyList<string> Hazards { get; init; } = [];

    /// <summary>Surfaces the label names; empty = it does not say.</summary>
    public IReadOnlyList<string> Allows { get; init; } = [];

    public IReadOnlyList<string> Forbids { get; init; } = [];

    /// <summary>Of several bottles of one class the one to plan with: not blocked, in stock, then cheapest at work.</summary>
    public static ShelfBottle? Pick(IEnumerable<ShelfBottle> ofOneClass, Agent agent, Compatibility matrix) =>
        ofOneClass
            .OrderBy(b => matrix.Blocked(agent, b) is not null)
            .ThenBy(b => b.StockMl is { Value: <= 0 })
            .ThenBy(b => agent.Under(b) is var a ? a.Price * a.Reference.Value : 0)
            .ThenBy(b => b.Name, StringComparer.Ordinal)
            .FirstOrDefault();
}

/// <summary>What the shop works with: the lance as calibrated, and what is left in mixed bottles.</summary>
public sealed record KitInUse(LanceDraw? Lance, IReadOnlyList<Leftover> Leftovers)
{
    /// <summary>Retained film against the model's, from the shop's own calibration; null = not calibrated.</summary>
    public double? FilmFactor { get; init; }

    /// <summary>Clean wash mitts at hand; null = nobody counts them.</summary>
    public int? Mitts { get; init; }

    /// <summary>Clean towels at hand; null = nobody counts them.</summary>
    public int? Towels { get; init; }

    /// <summary>How fast the crew puts chemistry on and rinses, m² a minute; null = as the catalogue has it.</summary>
    public Conditions.CrewSpeed? Speed { get; init; }

    /// <summary>Nothing is said of the kit.</summary>
    public bool SaysNothing => this is { Lance: null, Leftovers.Count: 0, FilmFactor: null, Speed: null, Mitts: null, Towels: null };
}

/// <summary>A mixed bottle that is still good.</summary>
/// <param name="Strength">In the bottle.</param>
public sealed record Leftover(string Agent, ProductFraction Strength, Millilitres Ml, string Bottle)
{
    /// <summary>Is what the bottle holds the strength wanted on the panel, through the lance where the class goes through one?</summary>
    public bool IsOnPanel(Agent agent, double onPanel, KitInUse? kit, Catalogue c) =>
        Math.Abs(
            (
                (agent.Basis == StrengthBasis.Bottle ? Strength.Value * (kit?.Lance ?? LanceDraw.Uncalibrated).Ratio : Strength.Value)
                / onPanel
            ) - 1
        ) <= c["same-strength"];
}
