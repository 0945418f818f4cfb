using ToughStart.Core.Provenance;

namespace ToughStart.Core.Chemistry;

/// <summary>
/// What dilution can do to pH at most. For information only: it never clears a limit and never takes a glove off. Limits are judged
/// on the harshest pH a step can have, see <see cref="Compatibility"/>.
/// </summary>
public static class DilutedPh
{
    public const string Caveat =
        "The mildest it can be: an unbuffered strong acid or alkali moves by one pH for every tenfold dilution, never past 7. Real products are buffered and move less. For information: limits and gloves go by the data sheet's figure.";

    /// <summary>pH after dilution if nothing buffers it: the mildest it can be.</summary>
    /// <param name="neat">pH of the product, 0 to 14.</param>
    /// <exception cref="ArgumentOutOfRangeException"><paramref name="neat"/> is not 0 to 14.</exception>
    public static double Mildest(double neat, ProductFraction fraction)
    {
        if (!(neat is >= 0 and <= 14))
        {
            throw new ArgumentOutOfRangeException(nameof(neat), neat, "pH is 0 to 14");
        }

        var moved = Math.Log10(1 / fraction.Value);
        return neat < 7 ? Math.Min(7, neat + moved) : Math.Max(7, neat - moved);
    }

    /// <summary>Is a pH at or beyond the thresholds at which GHS treats a mixture as potentially corrosive?</summary>
    public static bool PotentiallyCorrosive(double ph) => ph <= Catalogue.Default["ghs-acid"] || ph >= Catalogue.Default["ghs-alkali"];
}
