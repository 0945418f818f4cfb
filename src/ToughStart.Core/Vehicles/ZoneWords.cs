using ToughStart.Core.Planning;

namespace ToughStart.Core.Vehicles;

/// <summary>Zones as people say them: pairs and parts together.</summary>
public static class ZoneWords
{
    /// <summary>"bonnet, both sills, 4 tyres" for the zones of those ids.</summary>
    public static string Of(IEnumerable<string> zones) =>
        string.Join(
            ", ",
            zones
                .Select(z => (Part: Limits.Part(z), Zone: z))
                .GroupBy(x => x.Part)
                .Select(g =>
                    g.Count() == 1 ? Limits.Words(g.First().Zone)
                    : g.Count() == 2
                    && g.All(x =>
                        x.Zone.StartsWith("left-", StringComparison.Ordinal) || x.Zone.StartsWith("right-", StringComparison.Ordinal)
                    )
                    && g.Select(x => x.Zone.Split('-', 2)[1]).Distinct().Count() == 1
                        ? "both " + Plural(Limits.Words(g.First().Zone.Split('-', 2)[1]))
                    : $"{g.Count()} {Plural(g.Key)}"
                )
        );

    private static string Plural(string word) =>
        word.EndsWith("glass", StringComparison.Ordinal) ? word
        : word.EndsWith('s') ? word
        : word.EndsWith("ch", StringComparison.Ordinal) ? word + "es"
        : word + "s";
}
