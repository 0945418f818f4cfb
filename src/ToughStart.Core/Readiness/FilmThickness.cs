using MathNet.Numerics.Statistics;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Readiness;

/// <summary>
/// Film-thickness readings of one zone, reckoned the way of ASTM D7091: a spot is the mean of readings taken close together, a
/// panel is judged by several spots. Gauges that give single readings are taken as spots of one. Healthy paint varies, and the range of
/// many readings is wide by itself, so a panel is judged by how far a spot lies from the median, never by its range.
/// </summary>
/// <param name="Count">Spots.</param>
/// <param name="Median">Median, micrometres.</param>
/// <param name="Least">Smallest spot, micrometres.</param>
/// <param name="Most">Largest spot, micrometres.</param>
/// <param name="Deviation">Standard deviation from the median absolute deviation, never below what gauge and paint vary by, micrometres.</param>
/// <param name="Low">What the median is at least, at 95 % one-sided, micrometres.</param>
/// <param name="Thin">The median is below the common-practice limit.</param>
/// <param name="ThinSpot">A spot is below it.</param>
/// <param name="Mixed">A spot lies so far from the median that part of the panel was painted again.</param>
/// <param name="Refinish">The median is above the factory range.</param>
public sealed record FilmThickness(
    int Count,
    double Median,
    double Least,
    double Most,
    double Deviation,
    double Low,
    bool Thin,
    bool ThinSpot,
    bool Mixed,
    bool Refinish
)
{
    /// <summary>Micrometres in one mil (a thousandth of an inch): 25.4, exact by the definition of the inch.</summary>
    public const double MicrometresPerMil = 25.4;

    /// <summary>Standard deviation of a normal law by its median absolute deviation: 1 / Φ⁻¹(¾).</summary>
    private const double PerMad = 1.4826;

    /// <summary>Standard error of a median by that of a mean, large samples of a normal law: √(π/2).</summary>
    private const double MedianError = 1.2533;

    /// <summary>95 % of a normal law lie below this many standard deviations.</summary>
    private const double OneSided = 1.645;

    /// <summary>The figures do not show that the panel is thick enough: measure more, or treat it as thin.</summary>
    public bool NotProven => !Thin && Low < Catalogue.Default["film-thin"];

    /// <summary>Statistics of a panel.</summary>
    /// <param name="spots">Micrometres, one figure a spot.</param>
    /// <exception cref="ArgumentException">There is no reading, or one is negative or not finite.</exception>
    public static FilmThickness Of(IReadOnlyList<double> spots)
    {
        if (spots.Count == 0 || spots.Any(m => !double.IsFinite(m) || m < 0))
        {
            throw new ArgumentException("readings are finite and 0 µm or more, and there is at least one", nameof(spots));
        }

        var c = Catalogue.Default;
        var median = spots.Median();
        var deviation = Math.Max(PerMad * spots.Select(x => Math.Abs(x - median)).Median(), c["film-deviation-least"]);
        return new FilmThickness(
            spots.Count,
            median,
            spots.Min(),
            spots.Max(),
            deviation,
            median - (OneSided * MedianError * deviation / Math.Sqrt(spots.Count)),
            median < c["film-thin"],
            spots.Min() < c["film-thin"],
            spots.Any(x => Math.Abs(x - median) > c["film-off"]),
            median > c["film-refinish"]
        );
    }

    /// <summary>
    /// Spots that a panel needs so that its median is known within a few micrometres, and never fewer than make a judgement.
    /// </summary>
    public int Needed
    {
        get
        {
            var c = Catalogue.Default;
            var root = OneSided * MedianError * Deviation / c["film-within"];
            return Math.Max((int)c["film-spots"], (int)Math.Ceiling(root * root));
        }
    }

    /// <summary>
    /// Panels suspected of having been painted again: over the factory range, or far from what the panels of the vehicle have in the middle,
    /// if enough of them were measured to say what that is.
    /// </summary>
    public static IReadOnlyList<string> RefinishedOf(IReadOnlyDictionary<string, FilmThickness> panels)
    {
        var c = Catalogue.Default;
        var middle = panels.Values.Select(f => f.Median).Median();
        var compared = panels.Count >= c["film-panels"];
        return
        [
            .. panels
                .Where(p => p.Value.Refinish || (compared && Math.Abs(p.Value.Median - middle) > c["film-off"]))
                .Select(p => p.Key)
                .Order(StringComparer.Ordinal),
        ];
    }
}
