using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Conditions;

/// <summary>What is behind the film: how much heat it stores and how much sunlight it takes.</summary>
/// <param name="Sun">Part of sunlight taken as heat; null = by the paint's colour.</param>
/// <param name="Hidden">Under, behind or inside something: no sun, little sky.</param>
/// <param name="Band">How much wider than for steel the uncertainty is.</param>
public sealed record Substrate(
    string Id,
    string Name,
    IReadOnlyList<Family> Families,
    IReadOnlyList<string> Kinds,
    double Heat,
    double? Sun,
    double Band,
    bool Hidden
)
{
    internal static Substrate Read(Table.Row r) =>
        new(
            r["id"],
            r["name"],
            r.Terms<Family>("families"),
            r.Words("kinds"),
            r.Number("heat"),
            r["sun"] == "paint" ? null : r.Number("sun"),
            r.Number("band"),
            r["hidden"] == "yes"
        );

    /// <summary>The substrate of a zone: by its kind where that says it, else by the family of its surface.</summary>
    /// <param name="sheet">What the body is made of; steel when not said.</param>
    public static Substrate Of(Zone zone, Family family, Catalogue c, string? sheet = null) =>
        Of(zone, family, c.Substrates) is var found && found.Id == "steel" && sheet is not null
            ? c.Substrates.First(s => s.Id == sheet)
            : found;

    private static Substrate Of(Zone zone, Family family, IReadOnlyList<Substrate> all) =>
        all.FirstOrDefault(s => s.Kinds.Contains(zone.Kind.Id) && s.Families.Contains(family))
        ?? all.First(s => s.Kinds.Count == 0 && s.Families.Contains(family));
}
