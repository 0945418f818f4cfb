using ToughStart.Core.Provenance;

namespace ToughStart.Core.Chemistry;

/// <summary>A class of product. The user's own bottles map onto these.</summary>
/// <param name="Axis">The chemical axis it acts on.</param>
/// <param name="PhLow">Lowest working pH of the class; with <paramref name="PhHigh"/> the harshest it can be without a data sheet.</param>
/// <param name="Dwell">Reference dwell in minutes.</param>
/// <param name="MaxDwell">Longest dwell in minutes; 0 = no dwell.</param>
/// <param name="Wax">What it does to wax and sealant where there is any; empty = nothing.</param>
/// <param name="SetUp">Minutes once per job and strength.</param>
/// <param name="Price">Money per litre of product.</param>
public sealed record Agent(
    string Id,
    string Name,
    Axis Axis,
    double Level,
    double PhLow,
    double PhHigh,
    ProductFraction Low,
    ProductFraction Reference,
    ProductFraction High,
    Minutes Dwell,
    Minutes MaxDwell,
    double Q10,
    Minutes SetUp,
    double Price,
    AgentCarrier Carrier,
    StrengthBasis Basis,
    string Vessel,
    bool MayReMist,
    IReadOnlyList<string> Kit,
    string Wax,
    string Care
)
{
    /// <summary>The strengths worth choosing between, weakest first.</summary>
    public IReadOnlyList<ProductFraction> Strengths { get; } = new[] { Low, Reference, High }.Distinct().Order().ToArray();

    public bool IsWater => Id == "water";

    /// <summary>Does it wet more than where it is aimed (sprayed or foamed, not wiped on)?</summary>
    public bool RunsOff => Carrier.RunsOff;

    /// <summary>The shop's bottle that stands for the class here; null = the class itself.</summary>
    public string? Bottle { get; init; }

    /// <summary>That bottle's id in the shop.</summary>
    public string? BottleId { get; init; }

    /// <summary>How much more (above 1) or less it removes than its class, learnt by the shop.</summary>
    public double Efficacy { get; init; } = 1;

    /// <summary>The class as one bottle's label has it: where the label says something, it wins.</summary>
    public Agent Under(ShelfBottle b)
    {
        var low = b.Low ?? (b.Reference is { } only && b.High is null ? only : Min(Low, b.Reference ?? b.High ?? Low));
        var high = b.High ?? (b.Reference is { } one && b.Low is null ? one : Max(High, b.Reference ?? b.Low ?? High));
        var reference = b.Reference
            ?? (
                Reference < low ? low
                : Reference > high ? high
                : Reference
            );
        var max = b.MaxDwell ?? Math.Max(MaxDwell, b.Dwell ?? 0);
        return new Agent(
            Id,
            Name,
            Axis,
            Level,
            PhLow,
            PhHigh,
            low,
            reference,
            high,
            Math.Min(b.Dwell ?? Dwell, max),
            max,
            Q10,
            SetUp,
            b.PricePerLitre ?? Price,
            b.Carrier ?? Carrier,
            Basis,
            Vessel,
            MayReMist,
            ProtectiveKit.Of(Kit, b.Hazards),
            Wax,
            Care
        )
        {
            Bottle = b.Name,
            BottleId = b.Id,
            Efficacy = b.Efficacy ?? 1,
        };

        static ProductFraction Min(ProductFraction a, ProductFraction b) => a < b ? a : b;
        static ProductFraction Max(ProductFraction a, ProductFraction b) => a > b ? a : b;
    }

    internal static Agent Read(Table.Row r)
    {
        var ph = r["ph"].Split('-');
        return new Agent(
            r["id"],
            r["name"],
            Axis.Of(r["axis"]),
            r.Number("level"),
            Table.ParseNumber(ph[0]),
            Table.ParseNumber(ph[1]),
            Dilution.ParseStrength(r["low"]),
            Dilution.ParseStrength(r["ref"]),
            Dilution.ParseStrength(r["high"]),
            r.Number("dwell"),
            r.Number("max"),
            r.Number("q10"),
            r.Number("setup"),
            r.Number("price"),
            AgentCarrier.Of(r["carrier"]),
            StrengthBasis.Of(r["basis"]),
            r["vessel"],
            r["remist"] == "yes",
            r.Words("kit"),
            r["wax"],
            r["care"]
        );
    }
}

/// <summary>How long a mix keeps.</summary>
/// <param name="Days">Diluted, days from mixing.</param>
/// <param name="Neat">Decanted undiluted, days.</param>
public sealed record Keeping(int Days, int Neat, string Reason)
{
    /// <summary>The day a bottle is to be discarded, mixed or filled on <paramref name="day"/>.</summary>
    public DateOnly DiscardBy(DateOnly day, ProductFraction strength) =>
        day.AddDays(strength.Value >= Catalogue.Default["counts-as-neat"] ? Neat : Days);
}
