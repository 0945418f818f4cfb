using ToughStart.Core.Provenance;

namespace ToughStart.Core.Planning;

/// <summary>A place in the order of work; each zone passes every slot once, doing nothing or one treatment.</summary>
public sealed record Slot(int Index, Place Id, Stage Stage, string Name, IReadOnlyList<Place> After, string Reason)
{
    /// <summary>The public stage of work in a slot on a zone: brushes make wheels, tyres or arches of it.</summary>
    public static Stage StageOn(Slot slot, Family family) =>
        slot.Id != Place.Scrub ? slot.Stage
        : family == Family.Tyre ? Stage.Tyres
        : family == Family.Arch ? Stage.Arches
        : Stage.Wheels;

    internal static Slot Read(Table.Row r, int index) =>
        new(index, Place.Of(r["id"]), Stage.Of(r["stage"]), r["name"], r.Terms<Place>("after"), r["reason"]);
}
