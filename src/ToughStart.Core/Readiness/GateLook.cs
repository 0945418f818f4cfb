using ToughStart.Core.Provenance;

namespace ToughStart.Core.Readiness;

/// <summary>What the gate asks of a zone.</summary>
/// <param name="Kind">The kind it speaks of; null = it looks for damage, on whatever shows.</param>
/// <param name="Second">A second look on another spot is wanted.</param>
/// <param name="Minutes">One look on one zone.</param>
public sealed record GateLook(string Look, int? Kind, bool Second, Minutes Minutes, string How)
{
    internal static GateLook Read(Table.Row r, Catalogue c) =>
        new(r["look"], r["of"] == "*" ? null : c.Contaminant(r["of"]).Index, r["second"] == "yes", r.Number("minutes"), r["how"]);

    /// <summary>Answers it may get, the one that closes it first; "could not tell" last.</summary>
    public IReadOnlyList<string> Answers(Catalogue c) =>
        [.. Kind is null ? Under : Running.Sense.Of(Look, null, c)!.Words, Running.Observation.Inconclusive];

    /// <summary>The lamp shows dirt that the wash left.</summary>
    public const string Dirt = "dirt";

    /// <summary>What a lamp shows.</summary>
    private static readonly string[] Under = ["nothing", "damage", Dirt];
}
