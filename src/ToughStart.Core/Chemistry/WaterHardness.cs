using ToughStart.Core.Provenance;

namespace ToughStart.Core.Chemistry;

/// <summary>Hardness of water as calcium carbonate, in mg/l; read from any of the units meters and strips show.</summary>
public static class WaterHardness
{
    /// <summary>Units by id, with the name people know.</summary>
    public static IReadOnlyList<(string Id, string Name)> Units { get; } =
    [("mg-l", "mg/l (ppm)"), ("dh", "°dH"), ("fh", "°f"), ("eh", "°e (Clark)"), ("gpg", "US grains/gal")];

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
        return value
            * unit switch
            {
                "mg-l" => 1,
                "dh" => c["hardness-dh"],
                "fh" => c["hardness-fh"],
                "eh" => c["hardness-eh"],
                "gpg" => c["hardness-gpg"],
                _ => throw new ArgumentException(
                    $"'{unit}' is not a unit of hardness; allowed: {string.Join(", ", Units.Select(u => u.Id))}",
                    nameof(unit)
                ),
            };
    }

    /// <summary>soft, moderate, hard or very hard.</summary>
    public static string Class(double mgPerLitre)
    {
        var c = Catalogue.Default;
        return mgPerLitre <= c["hardness-soft"] ? "soft"
            : mgPerLitre <= c["hardness-moderate"] ? "moderate"
            : mgPerLitre <= c["hardness-hard"] ? "hard"
            : "very hard";
    }

    /// <summary>The same hardness in another unit.</summary>
    public static double In(double mgPerLitre, string unit) => mgPerLitre / MgPerLitre(1, unit);

    /// <summary>
    /// What stays on a panel when a film of this water dries: mg/m². A micrometre of water on a square metre is a millilitre.
    /// </summary>
    /// <exception cref="ArgumentOutOfRangeException">A value is negative or not finite.</exception>
    public static double ResidueMgPerM2(double mgPerLitre, double filmMicrometre)
    {
        if (!double.IsFinite(mgPerLitre) || mgPerLitre < 0 || !double.IsFinite(filmMicrometre) || filmMicrometre < 0)
        {
            throw new ArgumentOutOfRangeException(nameof(filmMicrometre), "hardness and film are 0 or more");
        }

        return mgPerLitre * filmMicrometre / 1000;
    }

    /// <summary>Class, residue of a rinse left to dry, whether a softened last rinse pays, and in which order to dry.</summary>
    public static HardnessAdvice Advise(double mgPerLitre)
    {
        var c = Catalogue.Default;
        var residue = ResidueMgPerM2(mgPerLitre, c["rinse-film"]);
        var soften = mgPerLitre > c["hardness-hard"];
        return new HardnessAdvice(
            Class(mgPerLitre),
            residue,
            soften,
            soften
                    ? "Last rinse with softened or deionised water, or dry at once: "
                        + "softened water still leaves a salt that wipes off with a damp towel, deionised leaves nothing."
                : residue > c["residue-spots"] ? "Spots will show on dark paint and glass if it dries: towel in hand before the last rinse."
                : "Little will show if a panel dries by itself.",
            [
                "glass",
                "dark flat panels in the sun (roof, bonnet, boot lid)",
                "the other flat panels",
                "sides, top to bottom",
                "wheels, shuts and crevices by blower",
            ]
        );
    }
}

/// <summary>What hard water means for this rinse.</summary>
public sealed record HardnessAdvice(string Class, double ResidueMgPerM2, bool Soften, string Words, IReadOnlyList<string> DryingOrder);
