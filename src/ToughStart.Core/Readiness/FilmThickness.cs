using ToughStart.Core.Provenance;

namespace ToughStart.Core.Readiness;

/// <summary>
/// Film-thickness readings of one zone, reckoned the way of ASTM D7091: a spot is the mean of readings taken close together, a
/// panel is judged by several spots. Gauges that give single readings are taken as spots of one.
/// </summary>
/// <param name="Count">Readings.</param>
/// <param name="Median">Median, micrometres.</param>
/// <param name="Least">Smallest reading, micrometres.</param>
/// <param name="Most">Largest reading, micrometres.</param>
/// <param name="Deviation">Sample standard deviation, micrometres; 0 for one reading.</param>
/// <param name="Thin">Median below the common-practice limit.</param>
/// <param name="SuspectRefinish">Median above the factory range, or a wide spread.</param>
public sealed record FilmThickness(int Count, double Median, double Least, double Most, double Deviation, bool Thin, bool SuspectRefinish)
{
    /// <summary>Micrometres in one mil (a thousandth of an inch): 25.4, exact by the definition of the inch.</summary>
    public const double MicrometresPerMil = 25.4;

    /// <summary>Statistics of a batch.</summary>
    /// <exception cref="ArgumentException">There is no reading, or one is negative or not finite.</exception>
    public static FilmThickness Of(IReadOnlyList<double> micrometres)
    {
        if (micrometres.Count == 0 || micrometres.Any(m => !double.IsFinite(m) || m < 0))
        {
            throw new ArgumentException("readings are finite and 0 µm or more, and there is at least one", nameof(micrometres));
        }

        var c = Catalogue.Default;
        var sorted = micrometres.Order().ToArray();
        var half = sorted.Length / 2;
        var median = sorted.Length % 2 == 1 ? sorted[half] : (sorted[half - 1] + sorted[half]) / 2;
        var mean = sorted.Average();
        var deviation = sorted.Length < 2 ? 0 : Math.Sqrt(sorted.Sum(x => (x - mean) * (x - mean)) / (sorted.Length - 1));
        return new FilmThickness(
            sorted.Length,
            median,
            sorted[0],
            sorted[^1],
            deviation,
            median < c["film-thin"],
            median > c["film-refinish"] || sorted[^1] - sorted[0] > c["film-spread"]
        );
    }
}
