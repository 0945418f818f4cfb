using ToughStart.Core.Chemistry;

namespace ToughStart.Core.Planning;

/// <summary>
/// Zones that are dirty and that no step touches, and wheels that stay dirty because nothing but a gentle hose and wet cloths may go there: said
/// first, before anything that is done elsewhere.
/// </summary>
/// <param name="Words">How many stay how, and what holds them.</param>
/// <param name="WayOut">What somebody can do about it.</param>
public sealed record LeftUndone(IReadOnlyList<string> Zones, string Words, string WayOut)
{
    /// <summary>What holds a zone, the gravest first, and the way out of it.</summary>
    private static readonly (Cause Cause, string Why, string WayOut)[] Holds =
    [
        (
            Cause.BrakeDust,
            "brake dust of unknown age counts as asbestos",
            "A named person releases it at intake, or says there that it is modern. Until then no lance, no brush and "
                + "no blower there; what an open hose and wet cloths do not take is a specialist's."
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
        var held = Refused(Cause.BrakeDust);
        var left = plan
            .Traces.Where(t => !worked.Contains(t.Zone) || held.Contains(t.Zone))
            .Select(t =>
                (
                    t.Zone,
                    Dirt: (t.After.Count == 0 ? t.Start : t.After[^1].Loads)
                        .Where(l =>
                            t.Targets.TryGetValue(l.Key, out var target) && l.Value > target * Provenance.Catalogue.Default["near-target"]
                        )
                        .Select(l => (Kind: l.Key, Load: l.Value))
                        .ToArray()
                )
            )
            .Where(t => t.Dirt.Length > 0)
            .ToList();
        var told = new List<LeftUndone>();
        foreach (var (cause, why, wayOut) in Holds)
        {
            var refused = Refused(cause);
            Tell(left.Where(t => refused.Contains(t.Zone)).ToArray(), why, wayOut);
        }

        Tell([.. left], "nothing that is allowed there and at hand takes it off", "Left out and Refused say why, zone by zone.");
        return told;

        HashSet<string> Refused(Cause cause) => [.. plan.Refused.Where(r => r.Cause == Objection.IdOf(cause)).SelectMany(r => r.Zones)];

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
