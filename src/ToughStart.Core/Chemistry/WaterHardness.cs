using ToughStart.Core.Provenance;

namespace ToughStart.Core.Chemistry;

/// <summary>Hardness of water as calcium carbonate, in mg/l; read from any of the units meters and strips show.</summary>
public static class WaterHardness
{
    /// <summary>Units by id, with the name people know.</summary>
    public static IReadOnlyList<(string Id, string Name)> Units { get; } = [("mg-l", "mg/l (ppm)"), ("dh", "°dH"), ("fh", "°f"), ("eh", "°e (Clark)"), ("gpg", "US grains/gal")];

    /// <summary>Milligrams of CaCO₃ per litre.</summary>
    /// <exception cref="ArgumentOutOfRangeException"><paramref name="value"/> is negative or not finite.</exception>
    /// <exception cref="ArgumentException"><paramref name="unit"/> is none of <see cref="Units"/>.</exception>
    public static double MgPerLitre(double value, string unit)
    {
        if (!double.IsFinite(value) || value < 0)
        {
            throw new ArgumentOutOfRangeException(nameof(value), value, "hardness is 0 or more");
        }

        var c = Catalogue.Default;
        return value * unit switch
        {
            "mg-l" => 1,
            "dh" => c["hardness-dh"],
            "fh" => c["hardness-fh"],
            "eh" => c["hardness-eh"],
            "gpg" => c["hardness-gpg"],
            _ => throw new ArgumentException($"'{unit}' is not a unit of hardness; allowed: {string.Join(", ", Units.Select(u => u.Id))}", nameof(unit)),
        };
    }

    /// <summary>soft, moderate, hard or very hard.</summary>
    public static string Class(double mgPerLitre)
    {
        var c = Catalogue.Default;
        return mgPerLitre <= c["hardness-soft"] ? "soft" : mgPerLitre <= c["hardness-moderate"] ? "moderate" : mgPerLitre <= c["hardness-hard"] ? "hard" : "very hard";
    }
}
