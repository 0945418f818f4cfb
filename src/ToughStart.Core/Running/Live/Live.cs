using System.Collections.Immutable;

namespace ToughStart.Core.Running.Live;

/// <summary>Folds a live log. Pure and total: nonsense is kept aside with why, and stops nothing else.</summary>
public static class Live
{
    internal static ImmutableSortedDictionary<string, T> None<T>() => ImmutableSortedDictionary.Create<string, T>(StringComparer.Ordinal);

    /// <summary>Had the maker of an entry seen another?</summary>
    public static bool Knew(LogEvent entry, LogEvent other) =>
        (entry.Device == other.Device && entry.Seq > other.Seq && other.Seq > 0) || (other.Number > 0 && entry.After >= other.Number);

    /// <summary>The zone of a zone, or of an even part of one.</summary>
    public static string ZoneOf(string piece) => piece.IndexOf(':') is > 0 and var at ? piece[..at] : piece;

    /// <summary>Even parts its zone is worked in; 1 = whole.</summary>
    public static int PartsOf(string piece) => int.TryParse(piece[(piece.LastIndexOf(':') + 1)..], out var parts) ? Math.Max(1, parts) : 1;

    /// <summary>Takes in one entry; one that is known changes nothing.</summary>
    public static LiveState Reduce(LiveState state, LogEvent e)
    {
        if (state.Known.ContainsKey(e.Id))
        {
            return state;
        }

        var now = state with
        {
            Number = Math.Max(state.Number, e.Number),
            Known = state.Known.Add(e.Id, e.Number),
            Late = state.Closed is not null && e.Kind != LogKind.Corrected ? state.Late.Add(e.Id) : state.Late,
        };
        return Refused(state, e) is { } why ? now with { Ignored = now.Ignored.Add((e.Id, why)) } : Taken(now, e);
    }

    /// <summary>Product used up to here, ml by class: what was reported twice counts once.</summary>
    public static Totals TotalsOf(LiveState s)
    {
        var ml = new SortedDictionary<string, int>(StringComparer.Ordinal);
        foreach (var (id, pour) in s.Poured)
        {
            var twice = pour.Zones.Count(z => s.Zones.TryGetValue(z, out var zone) && zone.Joined.Contains(id));
            var counts = pour.Zones.Count == 0 ? pour.Ml : pour.Ml * (pour.Zones.Count - twice) / pour.Zones.Count;
            ml[pour.Product] = ml.GetValueOrDefault(pour.Product) + counts;
        }

        return new Totals(
            ml.ToImmutableSortedDictionary(StringComparer.Ordinal),
            s.Zones.ToImmutableSortedDictionary(z => z.Key, z => z.Value.Rounds, StringComparer.Ordinal)
        );
    }

    /// <summary>Why an entry is not taken in; null = it is.</summary>
    public static string? Refused(LiveState s, LogEvent e)
    {
        var b = e.Body;
        return e.Kind switch
        {
            LogKind.Started when s.Started is not null => $"the run began with {s.Started}",
            LogKind.Replanned when b.From != s.Plan => $"made from plan {b.From}, plan {s.Plan} counts",
            LogKind.Judged when Since(s, b.Zones, b.UpTo ?? 0) is { } later => $"{later} came to the zone since",
            LogKind.Closed when s.Closed is not null => "is closed already",
            LogKind.Closed when b.UpTo != e.Number - 1 => $"made up to {b.UpTo}, {e.Number - 1} is the last",
            LogKind.Corrected when s.Closed is null => "is not closed",
            LogKind.Undone => NotUndone(s, e),
            LogKind.Applied or LogKind.Rewetted when b.Win is null || b.Treatment is null => "says not what is on, or for how long",
            _ => null,
        };
    }

    /// <summary>The id of an entry on one of the zones that came after a number; null = none did.</summary>
    private static string? Since(LiveState s, IReadOnlyList<string> zones, int upTo) =>
        zones
            .SelectMany(z => PiecesOf(s, z))
            .SelectMany(z => s.Facts.TryGetValue(z, out var facts) ? facts : [])
            .FirstOrDefault(f => f.Event.Number > upTo)
            ?.Id;

    /// <summary>Why an entry cannot be taken back as this one asks; null = it can.</summary>
    public static string? NotUndone(LiveState s, LogEvent e)
    {
        if (e.Body.Of is not [var id] || !s.Known.ContainsKey(id))
        {
            return "names no entry of this run";
        }

        if (!s.Entries.TryGetValue(id, out var entry))
        {
            return $"{id} is nothing that can be taken back";
        }

        if (s.Undone.ContainsKey(id))
        {
            return $"{id} was taken back already";
        }

        // A paper card is typed in by one for many.
        if (entry.Kind != LogKind.Observed && entry.Who != e.Who && !(e.ByOwner && !string.IsNullOrWhiteSpace(e.Body.Reason)))
        {
            return $"{id} is another's: an owner can take it back, with a reason";
        }

        // Who built on it knew it.
        var later = entry
            .Body.Zones.SelectMany(z => PiecesOf(s, z))
            .SelectMany(z => s.Facts.TryGetValue(z, out var facts) ? facts : [])
            .Where(f => f.Event.Kind != LogKind.Rescaled && f.Id != id && Knew(f.Event, entry))
            .MinBy(f => f.Event.Number);
        return later is null ? null : $"{later.Id} builds on it";
    }

    private static LiveState Taken(LiveState s, LogEvent e)
    {
        var b = e.Body;
        s = e.Kind.CanBeUndone() ? s with { Entries = s.Entries.Add(e.Id, e) } : s;
        s = e.Kind.IsNews() ? s with { News = s.News.Add(e.Number) } : s;
        s =
            b.Ml > 0 && (b.Product ?? b.Treatment) is { } product
                ? s with
                {
                    Poured = s.Poured.SetItem(e.Id, new Pour(product, b.Ml, e.Kind == LogKind.Applied ? b.Zones : [], e.Who)),
                }
                : s;
        s = e.Kind.IsOnZones() ? OnZones(s, e) : s;
        return e.Kind switch
        {
            LogKind.Started => s with { Started = e.Id, Plan = b.Plan ?? 0, PlanUpTo = e.Number },
            LogKind.Replanned when b.Plan is null => b.Hash is { } hash && !s.Refused.Contains(hash)
                ? s with
                {
                    Refused = s.Refused.Add(hash),
                }
                : s,
            LogKind.Replanned => s with
            {
                Plan = b.Plan ?? s.Plan,
                PlanUpTo = b.UpTo ?? s.PlanUpTo,
                News = [.. s.News.Where(n => n > (b.UpTo ?? s.PlanUpTo))],
            },
            LogKind.Taken => s with { Crew = s.Crew.SetItem(e.Who, new Post(b.Step ?? "", b.Zones)) },
            LogKind.Left => s with { Crew = s.Crew.Remove(e.Who) },
            LogKind.Cautioned => s with
            {
                Cautions = s.Cautions.AddRange(
                    b.Cautions.Where(c => !s.Cautions.ContainsKey(c)).Distinct().Select(c => KeyValuePair.Create(c, e.Number))
                ),
            },
            LogKind.Happened when Trouble.Halts(b.What) => s with { Stops = s.Stops.SetItem(e.Id, new Halt(b.What!, e.Who)) },
            LogKind.Paused => s with { Paused = s.Paused.SetItem(e.Id, b.Reason ?? "") },
            LogKind.Resumed => s with { Paused = s.Paused.RemoveRange(b.Of), Stops = s.Stops.RemoveRange(b.Of) },
            LogKind.Undone => Undo(s, e),
            LogKind.Judged => Judge(s, e),
            LogKind.Closed => s with { Closed = new Ending(e.Number, TotalsOf(s)) },
            LogKind.Corrected => s with { Closed = new Ending(e.Number, TotalsOf(s)) },
            _ => s,
        };
    }

    private static LiveState OnZones(LiveState s, LogEvent e)
    {
        var (facts, fact) = (s.Facts.ToBuilder(), new ZoneFact(e, s.Stops.Count > 0));
        var touched = e.Body.Zones.SelectMany(z => PiecesOf(s, z)).Distinct(StringComparer.Ordinal).ToArray();
        foreach (var z in touched)
        {
            // What was rinsed whole was rinsed in all its parts.
            var list =
                facts.TryGetValue(z, out var known) ? known
                : ZoneOf(z) != z && facts.TryGetValue(ZoneOf(z), out var whole) ? [.. whole.Where(f => f.Event.Kind == LogKind.Rinsed)]
                : [];
            var at = list.Length;
            while (at > 0 && After(list[at - 1], fact))
            {
                at--;
            }

            facts[z] = list.Insert(at, fact);
        }

        return Overtake(Derived(s with { Facts = facts.ToImmutable() }, touched), touched, e.Number);
    }

    private static bool After(ZoneFact a, ZoneFact b) =>
        a.When.At > b.When.At || (a.When.At == b.When.At && a.Event.Number > b.Event.Number);

    /// <summary>A zone with the parts of it that are known.</summary>
    private static IEnumerable<string> PiecesOf(LiveState s, string zone) =>
        zone.Contains(':')
            ? [zone]
            : [zone, .. s.Facts.Keys.Where(k => k.Length > zone.Length && k[zone.Length] == ':' && ZoneOf(k) == zone)];

    private static LiveState Derived(LiveState s, IEnumerable<string> zones)
    {
        var derived = s.Zones.ToBuilder();
        foreach (var z in zones)
        {
            derived[z] = ZoneFold.Of(s.Facts[z]);
        }

        return s with
        {
            Zones = derived.ToImmutable(),
        };
    }

    /// <summary>A verdict something came after says nothing any more.</summary>
    private static LiveState Overtake(LiveState s, IEnumerable<string> zones, int number)
    {
        var verdicts = s.Verdicts;
        foreach (var z in zones.Select(ZoneOf).Distinct(StringComparer.Ordinal))
        {
            if (verdicts.TryGetValue(z, out var v) && number > v.UpTo)
            {
                verdicts = verdicts.SetItem(z, v with { Overtaken = true });
            }
        }

        return s with
        {
            Verdicts = verdicts,
        };
    }

    private static LiveState Undo(LiveState s, LogEvent e)
    {
        var id = e.Body.Of[0];
        var entry = s.Entries[id];
        var touched = s.Facts.Where(f => f.Value.Any(x => x.Id == id)).Select(f => f.Key).ToArray();
        var facts = s.Facts.ToBuilder();
        foreach (var z in touched)
        {
            facts[z] = facts[z].RemoveAll(f => f.Id == id);
        }

        s = s with
        {
            Undone = s.Undone.SetItem(id, e.Number),
            Facts = facts.ToImmutable(),
            Poured = s.Poured.Remove(id),
            Crew = entry.Kind == LogKind.Taken ? s.Crew.Remove(entry.Who) : s.Crew,
        };
        return Overtake(Derived(s, touched), touched, e.Number);
    }

    private static LiveState Judge(LiveState s, LogEvent e)
    {
        var (b, verdicts) = (e.Body, s.Verdicts);
        foreach (var z in b.Zones)
        {
            var overtaken = b.Verdict == Verdicts.Ready && PiecesOf(s, z).Any(p => !Proves(s.Zones.GetValueOrDefault(p), b.Need, p == z));
            verdicts = verdicts.SetItem(z, new LiveVerdict(e.Number, b.Verdict ?? "", b.UpTo ?? 0, overtaken));
        }

        return s with
        {
            Verdicts = verdicts,
        };
    }

    /// <summary>Nothing is wet there, no round dried or is unsure, and every look that is needed says something.</summary>
    private static bool Proves(LiveZone? zone, IReadOnlyList<string> need, bool whole) =>
        zone is null
            ? !whole || need.Count == 0
            : zone.Lines.Count == 0
                && zone.Last?.Verdict is not (RoundEnd.Dried or RoundEnd.Unsure)
                && (
                    !whole
                    || need.All(n => zone.Looks.TryGetValue(n, out var look) && !look.Void && look.Result != Observation.Inconclusive)
                );
}

/// <summary>Trouble people report.</summary>
public static class Trouble
{
    public static IReadOnlyList<string> All { get; } = ["gas", "hurt", DriedOn, Mark, "spill", "tool", "weather"];

    /// <summary>What people call it.</summary>
    public static string Say(string what) =>
        what switch
        {
            "gas" => "Gas or fumes: everybody stops",
            "hurt" => "Somebody is hurt: everybody stops",
            DriedOn => "It dried on the panel",
            Mark => "A mark on the panel",
            "spill" => "Something spilled",
            "tool" => "A tool broke",
            "weather" => "Rain, sun or wind came",
            _ => what,
        };

    /// <summary>Does it stop everybody until somebody names it?</summary>
    public static bool Halts(string? what) => what is "gas" or "hurt";

    /// <summary>The film dried on the panel, as somebody saw it.</summary>
    public const string DriedOn = "dried-on";

    /// <summary>A mark was found or made.</summary>
    public const string Mark = "mark";
}

/// <summary>Words of the gate.</summary>
public static class Verdicts
{
    public const string Ready = "ready";
}
