using ToughStart.Core.Planning;

namespace ToughStart.Core.Vehicles;

/// <summary>Zones as people say them: pairs and parts together.</summary>
public static class ZoneWords
{
    /// <summary>"bonnet, both sills, 4 tyres" for the zones of those ids.</summary>
    public static string Of(IEnumerable<string> zones) =>
        string.Join(
            ", ",
            WithWheels(zones)
                .Select(z => (Part: Limits.Part(z), Zone: z))
                .GroupBy(x => x.Part, x => x.Zone)
                .Select(g =>
                    g.Count() == 1 ? Limits.Words(g.First())
                    : g.Count() == 2 && g.All(z => SideOf(z) is not null) && g.Select(Besides).Distinct().Count() == 1
                        ? "both " + Plural(Limits.Words(Besides(g.First())))
                    : g.Select(SideOf).Distinct().ToArray() is [{ } side] ? $"{g.Count()} {side} {Plural(g.Key)}"
                    : g.Select(EndOf).Distinct().ToArray() is [{ } end] ? $"{g.Count()} {end} {Plural(g.Key)}"
                    : $"{g.Count()} {Plural(g.Key)}"
                )
        );

    /// <summary>The side a zone's id begins with; null = it has none.</summary>
    private static string? SideOf(string zone) => Sides.FirstOrDefault(s => zone.StartsWith(s + "-", StringComparison.Ordinal));

    /// <summary>The end that comes first in its id, after the side; null = it has none.</summary>
    private static string? EndOf(string zone) => Ends.FirstOrDefault(e => Besides(zone).StartsWith(e + "-", StringComparison.Ordinal));

    /// <summary>A zone's id without its side.</summary>
    private static string Besides(string zone) => SideOf(zone) is { } side ? zone[(side.Length + 1)..] : zone;

    private static readonly string[] Sides = ["left", "right"];
    private static readonly string[] Ends = ["front", "rear"];

    /// <summary>The same, or how many zones they are where that would take more than so many characters.</summary>
    public static string Of(IReadOnlyCollection<string> zones, int characters) =>
        Of(zones) is var words && words.Length <= characters ? words : $"{zones.Count} zones";

    /// <summary>The parts of a wheel, where all of them are there, as the wheel.</summary>
    private static IEnumerable<string> WithWheels(IEnumerable<string> zones)
    {
        var all = zones.ToList();
        foreach (var face in all.Where(z => z.EndsWith(WheelParts[0], StringComparison.Ordinal)).ToArray())
        {
            var corner = face[..^WheelParts[0].Length];
            var parts = WheelParts.Select(p => corner + p).ToArray();
            if (parts.All(all.Contains))
            {
                all[all.IndexOf(parts[0])] = corner + "wheel";
                all.RemoveAll(parts.Contains);
            }
        }

        return all;
    }

    private static readonly string[] WheelParts = ["wheel-face", "wheel-barrel", "behind-caliper", "spoke-backs"];

    private static string Plural(string word) =>
        word.EndsWith("glass", StringComparison.Ordinal) ? word
        : word.EndsWith('s') ? word
        : word.EndsWith("ch", StringComparison.Ordinal) ? word + "es"
        : word + "s";
}
