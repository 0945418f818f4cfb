namespace ToughStart.Core.Formats;

/// <summary>Two people changed the same thing in different ways; neither wins without a person's word.</summary>
/// <param name="What">A zone id, or "goal", "vehicle", "history", "site", "shelf", "lean", "stockOnly", "declines", "crew", or "house.&lt;rule&gt;".</param>
public sealed record MergeConflict(string What);

/// <summary>The outcome of a merge.</summary>
/// <param name="Merged">Both sides' changes; where they conflict, theirs stands until somebody decides.</param>
/// <param name="FromThem">What they changed and we did not: zones and parts to show anew.</param>
public sealed record MergedSurvey(Survey Merged, IReadOnlyList<MergeConflict> Conflicts, IReadOnlyList<string> FromThem);

/// <summary>
/// Two people survey one vehicle from two tablets. Against the survey both started from, a zone that only one of them touched
/// takes that one's version; a zone both changed to the same is no conflict; a zone both changed differently is.
/// </summary>
public static class SurveyMerge
{
    /// <summary>Merges <paramref name="mine"/> and <paramref name="theirs"/>, both made from <paramref name="start"/>.</summary>
    public static MergedSurvey ThreeWay(Survey start, Survey mine, Survey theirs)
    {
        var conflicts = new List<MergeConflict>();
        var fromThem = new List<string>();

        T Pick<T>(string what, T before, T a, T b, Func<T, string> key)
        {
            var (k0, ka, kb) = (key(before), key(a), key(b));
            if (ka == kb || kb == k0)
            {
                return a;
            }

            fromThem.Add(what);
            if (ka != k0)
            {
                conflicts.Add(new MergeConflict(what));
            }

            return b;
        }

        var zones = new List<ZoneSurvey>();
        foreach (var id in start.Zones.Concat(mine.Zones).Concat(theirs.Zones).Select(z => z.Zone).Distinct().Order(StringComparer.Ordinal))
        {
            if (Pick(id, start.ZoneOf(id), mine.ZoneOf(id), theirs.ZoneOf(id), Key) is { } zone)
            {
                zones.Add(zone);
            }
        }

        var house = new Dictionary<string, string>();
        foreach (var rule in HouseRules.All.Select(r => r.Id))
        {
            if (Pick("house." + rule, start.House.GetValueOrDefault(rule), mine.House.GetValueOrDefault(rule), theirs.House.GetValueOrDefault(rule), v => v ?? "") is { } value)
            {
                house[rule] = value;
            }
        }

        var shelf = Pick("shelf", start, mine, theirs, s => Key(s with { Zones = [], House = Empty, Vehicle = start.Vehicle, History = Nothing, Site = Nowhere, Goal = "wash", Crew = 1 }));
        var merged = mine with
        {
            Goal = Pick("goal", start.Goal, mine.Goal, theirs.Goal, g => g),
            Lean = Pick("lean", start.Lean, mine.Lean, theirs.Lean, l => l?.ToString() ?? ""),
            StockOnly = Pick("stockOnly", start.StockOnly, mine.StockOnly, theirs.StockOnly, x => x ? "yes" : ""),
            Declines = Pick("declines", start.Declines, mine.Declines, theirs.Declines, d => string.Join(';', d.Select(x => $"{x.Treatment}/{x.Stage}/{string.Join(' ', x.Zones)}"))),
            Crew = Pick("crew", start.Crew, mine.Crew, theirs.Crew, c => c.ToString(System.Globalization.CultureInfo.InvariantCulture)),
            Vehicle = Pick("vehicle", start, mine, theirs, s => Key(s with { Zones = [], House = Empty, History = Nothing, Site = Nowhere, Goal = "wash", Crew = 1, Shelf = null, Kit = null })).Vehicle,
            History = Pick("history", start, mine, theirs, s => Key(s with { Zones = [], House = Empty, Vehicle = start.Vehicle, Site = Nowhere, Goal = "wash", Crew = 1, Shelf = null, Kit = null })).History,
            Site = Pick("site", start, mine, theirs, s => Key(s with { Zones = [], House = Empty, Vehicle = start.Vehicle, History = Nothing, Goal = "wash", Crew = 1, Shelf = null, Kit = null })).Site,
            Shelf = shelf.Shelf,
            Kit = shelf.Kit,
            House = house,
            Zones = zones,
        };
        return new MergedSurvey(merged, conflicts, fromThem);
    }

    private static readonly Dictionary<string, string> Empty = [];
    private static readonly History Nothing = new("none", false, null, null, []);
    private static readonly Site Nowhere = new(null, null, null, null, null, null, null, null, null, null, null, null, null, null, null, null, null);

    /// <summary>Canonical bytes: equal content, equal key.</summary>
    private static string Key(Survey s) => SurveyFormat.Hash(s);

    private static string Key(ZoneSurvey? z) => z is null ? "" : SurveyFormat.KeyOf(z);
}
