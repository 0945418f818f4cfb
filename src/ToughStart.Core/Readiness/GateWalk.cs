using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Readiness;

/// <summary>A stop of the walk round the vehicle: zones side by side that miss the same.</summary>
/// <param name="Number">1 = the first.</param>
/// <param name="Missing">What is missing there, in words.</param>
public sealed record GateStop(int Number, IReadOnlyList<string> Zones, IReadOnlyList<string> Missing, Minutes Minutes);

/// <summary>What is still missing at the gate, in the order in which somebody walks round the vehicle: nose, right, tail, left, then what lies level.</summary>
public static class GateWalk
{
    /// <param name="missing">Zones of which something is missing.</param>
    public static IReadOnlyList<GateStop> Of(Vehicle vehicle, IEnumerable<ZoneVerdict> missing)
    {
        var by = missing.Where(v => v.Word == GateWord.Unverified).ToDictionary(v => v.Zone);
        return
        [
            .. vehicle
                .Zones.Where(z => by.ContainsKey(z.Id))
                .Select(z => (Zone: z, Words: string.Join("; ", by[z.Id].Why)))
                .GroupBy(z => (Side: SideOf(z.Zone), z.Words))
                .OrderBy(g => g.Key.Side)
                .ThenByDescending(g => g.Max(z => z.Zone.Top))
                .Select(
                    (g, i) =>
                        new GateStop(i + 1, [.. g.Select(z => z.Zone.Id)], by[g.First().Zone.Id].Why, g.Sum(z => Spent(by[z.Zone.Id])))
                ),
        ];
    }

    private static double Spent(ZoneVerdict v) => v.Checks.Where(c => c.Missing is not null).Sum(c => (double)c.Asked.Minutes);

    /// <summary>Nose 0, right 1, tail 2, left 3, level 4.</summary>
    private static int SideOf(Zone z) =>
        z.Tilt < Level && z.Corner is null ? 4 : (int)Math.Round(z.Faces / 90, MidpointRounding.AwayFromZero) % 4;

    /// <summary>Panels flatter than this are seen from anywhere, and from a step: bonnet, roof, deck; degrees.</summary>
    private const double Level = 35;
}
