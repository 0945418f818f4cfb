using ToughStart.Core.Provenance;

namespace ToughStart.Core.Vehicles;

/// <summary>Groups of zones that people name in one breath: the lower third, what meets the wind, what lies level.</summary>
public static class ZoneSets
{
    /// <summary>Ids of the sets.</summary>
    public static IReadOnlyList<string> Ids { get; } =
    ["all", "lower-third", "front-faces", "rear-faces", "level", "glass", "wheels", "tyres", "arches", "seams", "behind-wheels"];

    /// <summary>Zones of a set on this vehicle, in drawing order.</summary>
    /// <exception cref="ArgumentException"><paramref name="set"/> is none of <see cref="Ids"/>.</exception>
    public static IReadOnlyList<string> Of(Vehicle v, string set)
    {
        var third = v.Size.Height / 3;
        Func<Zone, bool> belongs = set switch
        {
            "all" => _ => true,
            "lower-third" => z => (z.Top + z.Bottom) / 2 < third + 0.04 || z.Kind.Id is "sill" or "arch",
            "front-faces" => IsFront,
            "rear-faces" => z => z.Faces == 180 && z.Kind.Id is ("panel" or "bumper" or "lamp" or "glass"),
            "level" => z => z.Tilt < 35 && z.Top > third && z.Kind.Default.Family.IsPaneling,
            "glass" => z => z.Kind.Id == "glass",
            "wheels" => z => z.Kind.Default.Family == Family.Wheel,
            "tyres" => z => z.Kind.Id == "tyre",
            "arches" => z => z.Kind.Id is "arch" or "underbody",
            "seams" => z => z.Kind.Id is "seal" or "shut" or "gutter" or "filler" || z.Id == "cowl",
            "behind-wheels" => z =>
                z.Kind.Id == "sill"
                || z.Id.EndsWith("front-wing", StringComparison.Ordinal)
                || z.Id.EndsWith("rear-quarter", StringComparison.Ordinal)
                || z.Id.EndsWith("side-panel", StringComparison.Ordinal)
                || z.Id is "belly-pan" or "swingarm",
            _ => throw new ArgumentException($"'{set}' is not a set of zones; allowed: {string.Join(", ", Ids)}", nameof(set)),
        };
        return v.Zones.Where(belongs).Select(z => z.Id).ToArray();
    }

    /// <summary>The zone on the other side, or null for one that has none.</summary>
    public static string? OtherSide(Vehicle v, string zone)
    {
        var other =
            zone.StartsWith("left-", StringComparison.Ordinal) ? "right-" + zone[5..]
            : zone.StartsWith("right-", StringComparison.Ordinal) ? "left-" + zone[6..]
            : null;
        return other is not null && v.Has(other) ? other : null;
    }

    private static bool IsFront(Zone z) =>
        z.Id is "bonnet" or "windscreen" or "grille" or "front-bumper" or "front-fairing" or "headlamp" or "front-mudguard"
        || z.Id.EndsWith("headlamp", StringComparison.Ordinal)
        || z.Kind.Id == "mirror";
}

/// <summary>A common story of neglect as suspected findings, to start a survey from.</summary>
/// <param name="Findings">Set of zones, contaminant, grade 1 to 4, age or null.</param>
public sealed record Story(string Id, string Name, IReadOnlyList<(string Set, string Contaminant, int Grade, string? Age)> Findings)
{
    internal static Story Read(IGrouping<string, Table.Row> rows) =>
        new(
            rows.Key,
            rows.First()["name"],
            rows.Select(r => (r["set"], r["contaminant"], (int)r.Number("grade"), r["age"].Length == 0 ? null : r["age"])).ToArray()
        );

    /// <summary>What the story says of each zone of a vehicle; a later line of the story wins.</summary>
    public IReadOnlyDictionary<string, IReadOnlyList<(string Contaminant, int Grade, string? Age)>> On(Vehicle v)
    {
        var result = new Dictionary<string, Dictionary<string, (string, int, string?)>>();
        foreach (var (set, contaminant, grade, age) in Findings)
        {
            var kind = Catalogue.Default.Contaminant(contaminant);
            foreach (var zone in ZoneSets.Of(v, set).Where(z => kind.CanSitOn(v[z].Kind.Default.Family) && kind.IsMeantOn(v[z])))
            {
                (result.TryGetValue(zone, out var at) ? at : result[zone] = [])[contaminant] = (contaminant, grade, age);
            }
        }

        return result.ToDictionary(
            r => r.Key,
            r => (IReadOnlyList<(string, int, string?)>)[.. r.Value.Values.OrderBy(f => f.Item1, StringComparer.Ordinal)]
        );
    }
}
