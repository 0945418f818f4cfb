using ToughStart.Core.Provenance;
using ToughStart.Core.Surfaces;

namespace ToughStart.Core.Vehicles;

/// <summary>What a kind of zone is made of unless the survey says otherwise, and how awkward it is to reach.</summary>
public sealed record ZoneKind(string Id, Surface Default, IReadOnlyList<Surface> MayBe, double Access, Goes Goes, Bars Bars)
{
    internal static ZoneKind Read(Table.Row r, Catalogue c) =>
        new(
            r["kind"],
            c.Surface(r["surface"]),
            r.Words("may-be").Select(c.Surface).ToArray(),
            r.Number("access"),
            Enum.Parse<Goes>(r["goes"].Replace("-", ""), true),
            r["bars"].Length == 0 ? Bars.Nothing : Enum.Parse<Bars>(r["bars"], true)
        );
}

/// <summary>What is never done on a zone of a kind, whatever it is made of.</summary>
public enum Bars
{
    Nothing,

    /// <summary>No mesh: it catches in bars and letters.</summary>
    Rub,

    /// <summary>No stiff brush.</summary>
    Stiff,

    /// <summary>No lance, unless dirt was found there: it drives water where it need not be.</summary>
    Lance,
}

/// <summary>What a zone is worked together with.</summary>
public enum Goes
{
    /// <summary>With its block: where that is rinsed, foamed or washed, so is this.</summary>
    Block,

    /// <summary>For its own sake: shuts are opened, the underside is gone under.</summary>
    ByItself,

    /// <summary>As one part of a wheel, which is worked as one.</summary>
    Wheel,
}
