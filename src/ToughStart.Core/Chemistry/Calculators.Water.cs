using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;
using ToughStart.Core.Surfaces;

namespace ToughStart.Core.Chemistry;

/// <summary>pH after dilution, and the hardness of water.</summary>
public static partial class Calculators
{
    public static Checked<PhAnswer> Ph(PhRequest r)
    {
        if (!(r.NeatPh is >= 0 and <= 14))
        {
            return new(null, [new Problem("neatPh", r.NeatPh is null ? "is missing: the data sheet, section 9" : "is 0 to 14")]);
        }

        if (Strength("strength", r.Strength, r.CapfulMl, null, out var reading) is { } bad)
        {
            return new(null, [bad]);
        }

        var c = Catalogue.Default;
        var ghs = $"GHS: {c["ghs-acid"]:0.#} or below, {c["ghs-alkali"]:0.#} or above";
        var mild = DilutedPh.Mildest(r.NeatPh.Value, reading!.Fraction);
        var (neat, still) = (DilutedPh.PotentiallyCorrosive(r.NeatPh.Value), DilutedPh.PotentiallyCorrosive(mild));
        return new(
            new PhAnswer(
                r.NeatPh.Value,
                mild,
                neat,
                neat,
                DilutedPh.Caveat,
                [
                    $"at {reading.Fraction} pH {mild:0.0} at the mildest, {r.NeatPh:0.0} at the harshest",
                    still ? $"potentially corrosive even diluted ({ghs}): long gloves, visor, apron"
                    : neat ? $"neat it is potentially corrosive ({ghs}), and diluted it may still be: " + "dress for the neat product"
                    : "neither end is at the GHS thresholds; the label decides on gloves and eyes",
                    DilutedPh.Caveat,
                ]
            ),
            []
        );
    }

    public static Checked<HardnessAnswer> Hardness(HardnessRequest r)
    {
        var c = Catalogue.Default;
        var unit = r.Unit ?? "mg-l";
        if (WaterHardness.Units.All(u => u.Id != unit))
        {
            return new(null, [new Problem("unit", $"'{unit}' is not a unit of hardness", WaterHardness.Units.Select(u => u.Id).ToArray())]);
        }

        if (r.Value is not { } value || !(value >= 0) || WaterHardness.MgPerLitre(Math.Min(value, 1e6), unit) is var mg && mg > 2000)
        {
            return new(null, [new Problem("value", "is 0 to 2000 mg/l, in whatever unit")]);
        }

        var film = r.FilmUm ?? c["rinse-film"];
        if (!(film is >= 0 and <= 1000))
        {
            return new(null, [new Problem("filmUm", "is 0 to 1000 µm")]);
        }

        var advice = WaterHardness.Advise(mg);
        var residue = WaterHardness.ResidueMgPerM2(mg, film);
        return new(
            new HardnessAnswer(
                mg,
                WaterHardness.Units.ToDictionary(u => u.Id, u => WaterHardness.In(mg, u.Id)),
                advice.Class,
                film,
                residue,
                advice.Soften,
                advice.DryingOrder,
                [
                    $"{mg:0} mg/l as CaCO₃: {advice.Class}",
                    $"a {film:0} µm film that dries leaves {residue:0.#} mg/m²",
                    advice.Words,
                    "Dry in this order: " + string.Join("; ", advice.DryingOrder) + ".",
                ]
            ),
            []
        );
    }
}
