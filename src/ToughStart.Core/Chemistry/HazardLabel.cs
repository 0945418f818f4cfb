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
    /// By UN GHS 1.4.10.5.3, as the table of statements has it: where the skull stands the exclamation mark does not, where corrosion
    /// stands for skin or eyes it does not stand for irritation of them, nor beside a respiratory sensitizer for skin and eyes.
    /// </summary>
    public static HazardLabel Of(IEnumerable<string> statements)
    {
        var known = statements
            .Select(h => Catalogue.Default.Statements.FirstOrDefault(s => s.Code == h))
            .OfType<HazardStatement>()
            .ToArray();
        var outdone = known.SelectMany(s => s.Outdoes).ToHashSet();
        return new(
            known.Max(s => s.Signal),
            [.. known.Where(s => !outdone.Contains(s.Code)).Select(s => s.Pictogram).OfType<string>().Distinct()]
        );
    }
}
