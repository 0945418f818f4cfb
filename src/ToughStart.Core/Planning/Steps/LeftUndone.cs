using ToughStart.Core.Chemistry;

namespace ToughStart.Core.Planning;

/// <summary>Zones that are dirty and that no step touches: said first, before anything that is done elsewhere.</summary>
/// <param name="Words">How many stay how, and what holds them.</param>
/// <param name="WayOut">What somebody can do about it.</param>
public sealed record LeftUndone(IReadOnlyList<string> Zones, string Words, string WayOut)
{
    /// <summary>What holds a zone, the gravest first, and the way out of it.</summary>
    private static readonly (Cause Cause, string Held, string WayOut)[] Holds =
    [
        (
            Cause.BrakeDust,
            "brake dust of unknown age counts as asbestos",
            "A named person releases it at intake, or says there that it is modern. Until then no lance, no brush and "
                + "no blower there: an open hose laid on gently and wet cloths, bagged wet, are all that may touch it, or a specialist."
        ),
        (Cause.Weather, "the weather forbids it", "Another hour or indoors: the Day station shows when."),
        (Cause.HotPanel, "the panels are too hot", "Shade, or water on body panels, or another hour: the Day station shows when."),
    ];

    /// <summary>What a plan leaves undone, the gravest first; empty when every dirty zone has a step.</summary>
    public static IReadOnlyList<LeftUndone> Of(Plan plan)
    {
        if (plan.ReferOnly)
        {
            return [];
        }

        var worked = plan.Steps.Where(s => s.Stage != Stage.Dry).SelectMany(s => s.Zones).ToHashSet();
        var left = plan
            .Traces.Where(t => !worked.Contains(t.Zone))
            .Select(t =>
                (
                    t.Zone,
                    Dirt: t.Start.Where(l => t.Targets.TryGetValue(l.Key, out var target) && l.Value > target)
                        .Select(l => (Kind: l.Key, Load: l.Value))
                        .ToArray()
                )
            )
            .Where(t => t.Dirt.Length > 0)
            .ToList();
        var told = new List<LeftUndone>();
        foreach (var (cause, held, wayOut) in Holds)
        {
            var refused = plan.Refused.Where(r => r.Cause == Objection.IdOf(cause)).SelectMany(r => r.Zones).ToHashSet();
            Tell(left.Where(t => refused.Contains(t.Zone)).ToArray(), held, wayOut);
        }

        Tell([.. left], "nothing that is allowed there and at hand takes it off", "Left out and Refused say why, zone by zone.");
        return told;

        void Tell((string Zone, (string Kind, double Load)[] Dirt)[] zones, string held, string wayOut)
        {
            if (zones.Length == 0)
            {
                return;
            }

            var kinds = zones
                .SelectMany(z => z.Dirt)
                .GroupBy(d => d.Kind)
                .OrderByDescending(g => g.Sum(d => d.Load))
                .Take(2)
                .Select(g =>
                    Provenance.Catalogue.Default.Contaminants.FirstOrDefault(k => k.Id == g.Key)?.Name.ToLowerInvariant() ?? g.Key
                );
            told.Add(
                new(
                    [.. zones.Select(z => z.Zone)],
                    $"{(zones.Length == 1 ? "1 zone keeps its" : $"{zones.Length} zones keep their")} {string.Join(" and ", kinds)}: {held}.",
                    wayOut
                )
            );
            left.RemoveAll(t => zones.Any(z => z.Zone == t.Zone));
        }
    }
}
