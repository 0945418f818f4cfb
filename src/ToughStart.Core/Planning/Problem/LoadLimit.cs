using System.Collections.Immutable;
using ToughStart.Core.Contamination;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Planning;

/// <summary>A limit on what may still lie on a zone when a treatment starts. Loads in millionths, weights in thousandths.</summary>
public sealed record LoadLimit(
    string Id,
    int Limit,
    ImmutableArray<(int Kind, int Weight)> Weights,
    ImmutableArray<(int Kind, int Limit)> And,
    string Words
)
{
    internal static LoadLimit Read(Table.Row r, Catalogue c) =>
        new(
            r["load-limit"],
            Millionths(r["limit"]),
            Pairs(r["weights"], c).Select(p => (p.Kind, (int)Math.Round(p.Value * 1000))).ToImmutableArray(),
            Pairs(r["and"], c).Select(p => (p.Kind, Levels.MillionthsOf(Levels.Of(p.Value)))).ToImmutableArray(),
            r["words"]
        );

    /// <summary>Is what lies on a zone within the limit?</summary>
    /// <param name="loads">By contaminant, as a plan's trace has them; what is not in it is not there.</param>
    public bool IsOpen(IReadOnlyDictionary<string, double> loads, Catalogue c)
    {
        double Of(int kind) => loads.GetValueOrDefault(kind == Kinds.Residue ? "residue" : c.Contaminants[kind].Id);
        return Weights.Sum(w => w.Weight / 1000.0 * Of(w.Kind)) <= (Limit / 1e6) + 1e-9
            && And.All(a => Of(a.Kind) <= (a.Limit / 1e6) + 1e-9);
    }

    private static IEnumerable<(int Kind, double Value)> Pairs(string cell, Catalogue c) =>
        cell.Split(',', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)
            .Select(p => p.Split(' '))
            .Select(p => (KindIndex(p[0], c), Table.ParseNumber(p[1])));

    internal static int KindIndex(string id, Catalogue c) =>
        id switch
        {
            "residue" => Kinds.Residue,
            "P" => c.Contaminant("old-protection").Index,
            _ => c.Contaminant(id).Index,
        };

    private static int Millionths(string text) => (int)Math.Round(Table.ParseNumber(text) * 1e6);
}

/// <summary>Places in a level array that are not contaminants of the survey.</summary>
public static class Kinds
{
    /// <summary>What our own chemistry leaves behind.</summary>
    public const int Residue = 24;

    /// <summary>Kinds in all: 24 contaminants and the residue.</summary>
    public const int Count = 25;
}

/// <summary>What a treatment leaves on the panel until something clears it.</summary>
[Flags]
public enum Left
{
    None = 0,
    Solvent = 1,
    Reducer = 2,
    Acid = 4,
    Alkali = 8,
    Lubricant = 16,
    Filler = 32,

    /// <summary>A spray that stays wet for the foam that seals it; one bit for each spray and stay, from this one up.</summary>
    FirstWet = 64,

    /// <summary>Any spray that waits for its foam.</summary>
    Wet = FirstWet * 0xFFFF,

    /// <summary>Neither water nor foam has reached it yet: nothing that rubs may.</summary>
    Dry = FirstWet << 16,
}
