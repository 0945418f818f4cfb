using ToughStart.Core.Provenance;

namespace ToughStart.Core.Chemistry;

/// <summary>The signal word of a label; the more severe one stands alone.</summary>
public enum SignalWord
{
    Warning,
    Danger,
}

/// <summary>Signal word and pictograms that a bottle's statements call for. The label's own win.</summary>
/// <param name="Signal">Null = none of the statements calls for one.</param>
public sealed record HazardLabel(SignalWord? Signal, IReadOnlyList<string> Pictograms)
{
    /// <summary>
    /// By UN GHS 1.4.10.5.3: where the skull stands the exclamation mark does not, and where corrosion stands for skin or eyes it does
    /// not stand for irritation of skin or eyes.
    /// </summary>
    public static HazardLabel Of(IEnumerable<string> statements)
    {
        var known = statements
            .Select(h => Catalogue.Default.Statements.FirstOrDefault(s => s.Code == h))
            .OfType<HazardStatement>()
            .ToArray();
        var signs = known.Select(s => s.Pictogram).OfType<string>().Distinct().ToArray();
        var burns = known.Any(s => s.Code is "H314" or "H318");
        return new(
            known.Max(s => s.Signal),
            [
                .. signs.Where(s =>
                    s != "exclamation"
                    || (!signs.Contains("skull") && known.Any(k => k.Pictogram == "exclamation" && !(burns && k.Code is "H315" or "H319")))
                ),
            ]
        );
    }
}
