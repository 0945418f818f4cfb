namespace ToughStart.Core.Provenance;

/// <summary>A word of the trade or of the house, in the one sense it is used in here.</summary>
/// <param name="Also">Other forms that mean the same.</param>
public sealed record GlossaryEntry(string Word, IReadOnlyList<string> Also, string Meaning)
{
    /// <summary>Names it in an address.</summary>
    public string Id => Word.Replace(' ', '-');

    internal static GlossaryEntry Read(Table.Row r) =>
        new(r["word"], r["also"].Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries), r["meaning"]);
}
