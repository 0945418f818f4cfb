using ToughStart.Core.Provenance;

namespace ToughStart.Core.Chemistry;

/// <summary>A class of product. The user's own bottles map onto these.</summary>
/// <param name="Axis">The chemical axis it acts on: none, mild, alk, acid, solv or red (reducing).</param>
/// <param name="PhLow">Lowest working pH of the class; with <paramref name="PhHigh"/> the harshest it can be without a data sheet.</param>
/// <param name="Dwell">Reference dwell in minutes.</param>
/// <param name="MaxDwell">Longest dwell in minutes; 0 = no dwell.</param>
/// <param name="SetUp">Minutes once per job and strength.</param>
/// <param name="Price">Money per litre of product.</param>
public sealed record Agent(
    string Id, string Name, string Axis, double Level, double PhLow, double PhHigh, ProductFraction Low, ProductFraction Reference, ProductFraction High,
    double Dwell, double MaxDwell, double Q10, double SetUp, double Price, string Carrier, string Basis, string Vessel, bool MayReMist,
    IReadOnlyList<string> Kit, string Care)
{
    /// <summary>The strengths worth choosing between, weakest first.</summary>
    public IReadOnlyList<ProductFraction> Strengths { get; } = new[] { Low, Reference, High }.Distinct().Order().ToArray();

    public bool IsWater => Id == "water";

    /// <summary>Does it wet more than where it is aimed (sprayed or foamed, not wiped on)?</summary>
    public bool RunsOff => Carrier is "film" or "foam" or "gel";

    internal static Agent Read(Table.Row r)
    {
        var ph = r["ph"].Split('-');
        return new Agent(
            r["id"], r["name"], r["axis"], r.Number("level"), Table.ParseNumber(ph[0]), Table.ParseNumber(ph[1]),
            Dilution.ParseStrength(r["low"]), Dilution.ParseStrength(r["ref"]), Dilution.ParseStrength(r["high"]),
            r.Number("dwell"), r.Number("max"), r.Number("q10"), r.Number("setup"), r.Number("price"),
            r["carrier"], r["basis"], r["vessel"], r["remist"] == "yes", r.Words("kit"), r["care"]);
    }
}

/// <summary>A bottle on the shelf that stands for its class: what its data sheet says wins over the class.</summary>
/// <param name="DataSheet">Is there a data sheet? Without one no acid is planned.</param>
/// <param name="Ph">The data sheet's pH at working strength, if it gives one.</param>
/// <param name="Fluoride">Fluoride or bifluoride in section 3: the product is blocked.</param>
public sealed record ShelfBottle(string Agent, bool DataSheet, double? Ph, bool Fluoride);
