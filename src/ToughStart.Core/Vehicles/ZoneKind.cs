using ToughStart.Core.Provenance;
using ToughStart.Core.Surfaces;

namespace ToughStart.Core.Vehicles;

/// <summary>What a kind of zone is made of unless the survey says otherwise, and how awkward it is to reach.</summary>
public sealed record ZoneKind(string Id, Surface Default, IReadOnlyList<Surface> MayBe, double Access)
{
    internal static ZoneKind Read(Table.Row r, Catalogue c) =>
        new(r["kind"], c.Surface(r["surface"]), r.Words("may-be").Select(c.Surface).ToArray(), r.Number("access"));
}
