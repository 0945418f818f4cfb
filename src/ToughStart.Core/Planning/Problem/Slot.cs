using ToughStart.Core.Provenance;

namespace ToughStart.Core.Planning;

/// <summary>A place in the order of work; each zone passes every slot once, doing nothing or one treatment.</summary>
public sealed record Slot(int Index, string Id, string Stage, string Name, IReadOnlyList<string> After, string Reason)
{
    /// <summary>The public stage of work in a slot on a zone: brushes make wheels, tyres or arches of it.</summary>
    public static string StageOn(Slot slot, string family) =>
        slot.Id == "scrub"
            ? family switch
            {
                "tyre" => "tyres",
                "arch" => "arches",
                _ => "wheels",
            }
            : slot.Stage;

    internal static Slot Read(Table.Row r, int index) => new(index, r["id"], r["stage"], r["name"], r.Words("after"), r["reason"]);
}
