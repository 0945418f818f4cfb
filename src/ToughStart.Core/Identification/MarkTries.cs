using ToughStart.Core.Provenance;

namespace ToughStart.Core.Identification;

/// <summary>What a try did to a mark nobody is sure of.</summary>
public enum TryOutcome
{
    /// <summary>It did not budge.</summary>
    Nothing,
    Fainter,
    Gone,

    /// <summary>Gloss or colour of the surface itself changed.</summary>
    SurfaceChanged,
}

/// <summary>Tries on a mark nobody is sure of: never stronger and stronger.</summary>
public static class MarkTries
{
    /// <summary>Outcomes with the words people choose from.</summary>
    public static IReadOnlyList<(TryOutcome Outcome, string Id, string Words)> All { get; } =
    [
        (TryOutcome.Nothing, "nothing", "did not budge"),
        (TryOutcome.Fainter, "fainter", "fainter"),
        (TryOutcome.Gone, "gone", "gone"),
        (TryOutcome.SurfaceChanged, "surface-changed", "gloss or colour changed"),
    ];

    /// <summary>Null = it is none of them.</summary>
    public static TryOutcome? Named(string? id) => All.Where(o => o.Id == id).Select(o => (TryOutcome?)o.Outcome).FirstOrDefault();

    public static string Id(TryOutcome outcome) => All.First(o => o.Outcome == outcome).Id;

    public static string Words(TryOutcome outcome) => All.First(o => o.Outcome == outcome).Words;

    /// <summary>Why nothing more is tried on it; null = one may go on, gentlest first.</summary>
    public static string? Ends(IReadOnlyCollection<TryOutcome> tries) =>
        tries.Contains(TryOutcome.SurfaceChanged) ? "The surface changed: stop, rinse, leave it as it is, refer."
        : tries.Contains(TryOutcome.Gone) ? "It is gone: nothing more to try."
        : tries.Count(t => t == TryOutcome.Nothing) >= Catalogue.Default["identify-tries"]
            ? "It did not budge: written down as unknown. Nothing stronger here; refer it, or leave it and tell the client."
        : null;
}
