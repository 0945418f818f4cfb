using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Planning;

/// <summary>What place and history ask for before anything is planned; shown at intake and on every plan.</summary>
public static class SiteWarnings
{
    /// <summary>Warnings in the order of harm, each with its reason.</summary>
    public static IReadOnlyList<string> Of(Survey survey)
    {
        var c = Catalogue.Default;
        var (site, history) = (survey.Site, survey.History);
        var (_, drying) = Conditions.SiteConditions.Of(survey);
        (bool When, string Words)[] all =
        [
            (
                history.BrakeDust == "unknown",
                "Brake dust of unknown age: as asbestos. No blower, dry brush or lance at wheels; gentle wet method or refer."
            ),
            (
                survey.Vehicle.Powertrain is "hybrid" or "electric",
                "High-voltage vehicle: charge flap shut, no lance at orange cables or open bays."
            ),
            (
                history.Flood == "not-said",
                "Flood history not known: look for a tide line, silt under the carpets and in the lamps before water goes on. Any sign: stop, "
                    + "battery off, workshop first."
            ),
            (
                history.IsFlooded,
                "Flooded vehicle: only once released on file. Salt sits in seams: long, low-pressure, fresh-water rinse from inside out."
            ),
            (
                site.Power == "unprotected",
                "Mains without residual-current protection: no electric washer, blower or lamp in the wet until it has one."
            ),
            (
                site.Place == "indoors",
                "Closed bay: no petrol washer and no running engine (carbon monoxide); "
                    + "door open or extraction on for iron remover, solvent and acid."
            ),
            (
                site.Drain is "storm" or "soakaway" or "unknown",
                $"Drain: {site.Drain}. Contain chemical run-off unless a local permission is on record; sludge, "
                    + $"first wheel rinse and solvent cloths are separate waste."
            ),
            (
                site.Ground is "new-concrete" or "block-paving",
                "Pale ground: tyre run-off leaves brown streaks. Pre-wet, dam or absorb and collect."
            ),
            (
                site.Ground is "gravel" or "grass",
                $"{(site.Ground == "grass" ? "Grass" : "Gravel")}: run-off goes into the soil. Contain chemical run-off; "
                    + $"a mat under the wheels."
            ),
            (site.Water == "none", "No hose: rinseless or waterless only, and only within their limits on dirt."),
            (site.Water == "tank", "Tank water: count the litres against the plan before the first rinse."),
            (
                site.WaterHardnessMgL > c["hardness-hard"],
                "Very hard water: dry at once, glass and dark panels first, or rinse last with softened water."
            ),
            (site.Slope == "steep", "Steep ground: chock the wheels, work from uphill down, watch where the run-off goes."),
            (
                site.NeighboursClose == true,
                "Other vehicles within reach of spray: move or cover them before foam, iron remover or degreaser."
            ),
            (
                survey.Vehicle.Size.Height > c["ladder-from"] && site.Access == "ladder",
                "Ladder: footed, three points of contact, no over-reach; a platform is better."
            ),
            (
                survey.Vehicle.Size.Height > c["ladder-high"] && site.Access is (null or "none"),
                "High roof: a platform or footed ladder is needed, and nobody said there is one."
            ),
            (
                (site.Place == "outdoors" || site.AirC > c["warm-air"]) && drying is not null,
                $"Drying not computed ({drying}): one panel at a time, rinse before the edges dry."
            ),
            (
                site.AirC < c["cold"],
                FormattableString.Invariant($"Below {c["cold"]:0} °C chemistry is slow and water freezes: longer, or another day.")
            ),
        ];
        return all.Where(w => w.When).Select(w => w.Words).ToArray();
    }
}
