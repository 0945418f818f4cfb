using ToughStart.Core.Provenance;

namespace ToughStart.Core.Chemistry;

/// <summary>
/// A spray nozzle at a pressure: theory, without losses of hose and lance. Real jets are weaker, so a stand-off found from it errs
/// on the safe side.
/// </summary>
/// <param name="Size">Size number: US gallons a minute at 4 000 psi; 0.5 to 20.</param>
/// <param name="AngleDegrees">Fan angle, 0 (pencil jet) to 80.</param>
/// <param name="Psi">Pressure at the nozzle, greater than 0, at most 6 000 psi.</param>
public sealed record Nozzle(double Size, double AngleDegrees, double Psi)
{
    private static Catalogue C => Catalogue.Default;

    /// <summary>US gallons per minute: flow goes with the root of pressure.</summary>
    public double GallonsPerMinute => Size * Math.Sqrt(Psi / C["nozzle-rated-psi"]);

    public double LitresPerMinute => GallonsPerMinute * Dilution.Millilitres("us-gal") / 1000;

    /// <summary>Pressure in MPa.</summary>
    public double Megapascal => Psi / C["psi-per-mpa"];

    /// <summary>Speed of the jet, m/s: √(2Δp/ρ).</summary>
    public double Speed => Math.Sqrt(2 * Megapascal * 1e6 / C["water-density"]);

    /// <summary>Theoretical jet force, N: ρ·Q·v.</summary>
    public double ForceNewton => C["water-density"] * (LitresPerMinute / 1000 / 60) * Speed;

    /// <summary>The size number that gives a flow at a pressure.</summary>
    public static double SizeFor(double litresPerMinute, double psi) =>
        litresPerMinute * 1000 / Dilution.Millilitres("us-gal") / Math.Sqrt(psi / C["nozzle-rated-psi"]);

    /// <summary>Width of the fan at a distance, both in m: 2·d·tan(θ/2).</summary>
    public double FanWidth(double metres) => 2 * metres * Math.Tan(AngleDegrees / 2 * Math.PI / 180);

    /// <summary>
    /// Mean pressure over the footprint, kPa. The thin side of the fan opens by a small angle of its own; the jet starts as wide as its
    /// orifice.
    /// </summary>
    public double MeanKilopascal(double metres)
    {
        var orifice = Math.Sqrt(4 * (LitresPerMinute / 60000) / Speed / Math.PI);
        var thin = orifice + 2 * metres * Math.Tan(C["nozzle-thin-angle"] / 2 * Math.PI / 180);
        return ForceNewton / (Math.Max(thin, orifice + FanWidth(metres)) * thin) / 1000;
    }

    /// <summary>What is wrong with the numbers, if anything.</summary>
    public string? Problem() =>
        !(Size is >= 0.5 and <= 20) ? "size is 0.5 to 20 (US gallons a minute at 4 000 psi)"
        : !(AngleDegrees is >= 0 and <= 80) ? "angle is 0 to 80 degrees"
        : !(Psi is >= 50 and <= 6000) ? "pressure is 50 to 6000 psi (0.35 to 41 MPa)"
        : null;

    /// <summary>The nozzle the stand-off table is written for.</summary>
    public static Nozzle Reference { get; } = new(C["nozzle-reference-size"], C["nozzle-reference-angle"], C["nozzle-reference-psi"]);
}

/// <summary>How near a lance may come to something.</summary>
/// <param name="ReferenceCentimetres">With the reference nozzle; null = never aimed at.</param>
public sealed record StandOff(string Id, string Name, double? ReferenceCentimetres, string Reason)
{
    internal static StandOff Read(Table.Row r) => new(r["id"], r["name"], r["cm"] == "never" ? null : r.Number("cm"), r["reason"]);

    /// <summary>Highest mean pressure it bears, kPa: what the reference nozzle gives at its distance.</summary>
    public double? MostKilopascal => ReferenceCentimetres is { } cm ? Nozzle.Reference.MeanKilopascal(cm / 100) : null;

    /// <summary>Closest distance in cm with this nozzle, up to the next whole centimetre; null = never aimed at.</summary>
    public double? Closest(Nozzle nozzle)
    {
        if (MostKilopascal is not { } most)
        {
            return null;
        }

        // Mean pressure falls steadily with distance: halve the interval.
        double near = Catalogue.Default["stand-off-least"] / 100,
            far = 20;
        if (nozzle.MeanKilopascal(near) <= most)
        {
            return near * 100;
        }

        for (var i = 0; i < 60; i++)
        {
            var mid = (near + far) / 2;
            (near, far) = nozzle.MeanKilopascal(mid) > most ? (mid, far) : (near, mid);
        }

        return Math.Ceiling(far * 100 - 1e-6);
    }

    /// <summary>Which row of the table a surface in some condition belongs to.</summary>
    public static string For(string surface, Family family, bool split) =>
        split ? "split"
        : surface == "polycarbonate" ? "plastic"
        : surface is "gloss-film" or "matte-film" or "vinyl-wrap" ? "film"
        : Rows.GetValueOrDefault(family, "paint");

    private static readonly Dictionary<Family, string> Rows = new()
    {
        [Family.Glass] = "glass",
        [Family.Wheel] = "wheel",
        [Family.Arch] = "arch",
        [Family.Tyre] = "tyre",
        [Family.Seal] = "seal",
        [Family.Hood] = "hood",
        [Family.Trim] = "plastic",
        [Family.Chain] = "bearing",
        [Family.Disc] = "bearing",
        [Family.Engine] = "electrics",
    };
}
