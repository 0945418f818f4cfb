using System.Text.Json;

namespace ToughStart.Scheduling.Check;

/// <summary>
/// Judges a timeline by its document alone: it shares no line with what makes timelines, so that a fault of theirs is not repeated here.
/// </summary>
public static class TimelineCheck
{
    private sealed record Task(
        string Key,
        int? At,
        int Seconds,
        bool Washer,
        bool Ladder,
        string? Skill,
        int? Pinned,
        int Start,
        int End,
        string Who,
        bool Begun
    );

    /// <summary>What is broken, each with the tasks it is about; empty = it can be worked as it stands.</summary>
    public static IReadOnlyList<string> Check(ReadOnlySpan<byte> document)
    {
        var broken = new List<string>();
        using var read = JsonDocument.Parse(document.ToArray());
        var doc = read.RootElement;
        if (Text(doc, "format") != "toughstart.timeline/1" || Text(doc, "unit") != "s")
        {
            return ["format: toughstart.timeline/1 in seconds"];
        }

        var tasks = new Dictionary<string, Task>(StringComparer.Ordinal);
        foreach (var t in doc.GetProperty("tasks").EnumerateArray())
        {
            var key = Text(t, "key")!;
            if (Number(t, "start") is not { } start || Number(t, "end") is not { } end || Text(t, "who") is not { } who)
            {
                broken.Add($"{key}: is not laid out");
                continue;
            }

            var task = new Task(
                key,
                Number(t, "at"),
                Number(t, "seconds")!.Value,
                Flag(t, "washer"),
                Flag(t, "ladder"),
                Text(t, "skill"),
                Number(t, "pinned"),
                start,
                end,
                who,
                Text(t, "state") == "begun"
            );
            if (!tasks.TryAdd(key, task))
            {
                broken.Add($"{key}: is there twice");
            }

            if (start < 0 || end - start != task.Seconds)
            {
                broken.Add($"{key}: takes {end - start} s from {start}, {task.Seconds} are needed");
            }

            if (!task.Begun && start < (Number(doc, "now") ?? 0))
            {
                broken.Add($"{key}: begins at {start}, it is {Number(doc, "now")} and it is not begun");
            }

            if (t.TryGetProperty("by", out var given) && given.EnumerateArray().All(g => g.GetString() != who))
            {
                broken.Add($"{key}: is not given to {who}");
            }

            if (Number(t, "from") is { } from && start < from)
            {
                broken.Add($"{key}: begins at {start}, not before {from}");
            }

            if (task.Pinned is { } pin && pin != start)
            {
                broken.Add($"{key}: is set to {pin}, begins at {start}");
            }
        }

        People(doc, tasks, broken);
        var machines = doc.GetProperty("machines");
        Machine("washer", tasks.Values.Where(t => t.Washer), Number(machines, "washers") ?? 0, broken);
        Machine("ladder", tasks.Values.Where(t => t.Ladder), Number(machines, "ladders") ?? 0, broken);
        Films(doc, tasks, broken);
        foreach (var o in doc.GetProperty("order").EnumerateArray())
        {
            if (
                tasks.TryGetValue(Text(o, "before")!, out var first)
                && tasks.TryGetValue(Text(o, "after")!, out var then)
                && then.Start < first.End
            )
            {
                broken.Add($"{then.Key}: begins at {then.Start}, before {first.Key} ends at {first.End} ({Text(o, "why")})");
            }
        }

        if (tasks.Count > 0 && Number(doc, "finish") != tasks.Values.Max(t => t.End))
        {
            broken.Add($"finish: {Number(doc, "finish")}, the last task ends at {tasks.Values.Max(t => t.End)}");
        }

        if (Number(doc, "bound") is { } bound && bound > Number(doc, "finish"))
        {
            broken.Add($"bound: {bound} is after the finish");
        }

        return broken;
    }

    private static void People(JsonElement doc, Dictionary<string, Task> tasks, List<string> broken)
    {
        var walk = Number(doc, "walk") ?? 0;
        var crew = doc.GetProperty("crew").EnumerateArray().ToDictionary(p => Text(p, "id")!, StringComparer.Ordinal);
        foreach (var g in tasks.Values.Where(t => !t.Begun).GroupBy(t => t.Who))
        {
            if (!crew.TryGetValue(g.Key, out var person))
            {
                broken.Add($"{g.First().Key}: nobody is called {g.Key}");
                continue;
            }

            var skills = person.GetProperty("skills").EnumerateArray().Select(s => s.GetString()).ToArray();
            var shifts = Stretches(person, "shifts");
            var breaks = Stretches(person, "breaks").Concat(Rested(doc, g.Key, person, g.Max(t => t.End), broken)).ToArray();
            var own = g.OrderBy(t => t.Start).ThenBy(t => t.End).ToArray();
            for (var i = 0; i < own.Length; i++)
            {
                var t = own[i];
                if (t.Skill is { } skill && skills.Length > 0 && !skills.Contains(skill))
                {
                    broken.Add($"{t.Key}: takes {skill}, {g.Key} has it not");
                }

                if (shifts.Length > 0 && !shifts.Any(s => s.From <= t.Start && t.End <= s.To))
                {
                    broken.Add($"{t.Key}: {g.Key} is not there");
                }

                if (breaks.Any(b => b.From < t.End && t.Start < b.To))
                {
                    broken.Add($"{t.Key}: in the break of {g.Key}");
                }

                if (
                    i == 0
                    && Number(person, "stands") is { } stands
                    && t.Start < (Number(doc, "now") ?? 0) + (walk * Eighths(stands, t.At))
                )
                {
                    broken.Add($"{t.Key}: {g.Key} cannot be there at {t.Start}, standing at {stands}");
                }

                if (i > 0 && t.Start < own[i - 1].End + (walk * Eighths(own[i - 1].At, t.At)))
                {
                    broken.Add($"{t.Key}: {g.Key} cannot be there at {t.Start}, coming from {own[i - 1].Key}");
                }
            }
        }
    }

    /// <summary>
    /// Where somebody rests: whole, within its span, and there at all where they work past the last moment it could begin.
    /// </summary>
    private static IEnumerable<(int From, int To)> Rested(JsonElement doc, string who, JsonElement person, int until, List<string> broken)
    {
        if (!person.TryGetProperty("rest", out var rest))
        {
            return [];
        }

        var (seconds, from, to) = (Number(rest, "seconds")!.Value, Number(rest, "from")!.Value, Number(rest, "to")!.Value);
        var taken = doc.GetProperty("rests")
            .EnumerateArray()
            .Where(r => Text(r, "who") == who)
            .Select(r => (From: Number(r, "start")!.Value, To: Number(r, "start")!.Value + Number(r, "seconds")!.Value))
            .ToArray();
        if (taken.Any(r => r.To - r.From < seconds || r.From < from || r.To > to))
        {
            broken.Add($"rest: {who} rests {seconds} s between {from} and {to}, not so");
        }

        if (taken.Length == 0 && until > to - seconds)
        {
            broken.Add($"rest: {who} works until {until} and never rests");
        }

        return taken;
    }

    /// <summary>Eighths of the way round: on a ring of eight, and two to and from the roof, which is 8.</summary>
    private static int Eighths(int? from, int? to)
    {
        if (from is null || to is null || from == to)
        {
            return 0;
        }

        if (from == 8 || to == 8)
        {
            return 2;
        }

        var apart = ((to.Value - from.Value) % 8 + 8) % 8;
        return apart > 4 ? 8 - apart : apart;
    }

    private static void Machine(string what, IEnumerable<Task> users, int count, List<string> broken)
    {
        // Ends before begins at one moment: what is handed on is not held twice.
        var all = users.ToArray();
        var inUse = 0;
        foreach (
            var (_, change, key) in all.SelectMany(t => new[] { (t.Start, 1, t.Key), (t.End, -1, t.Key) })
                .OrderBy(e => e.Item1)
                .ThenBy(e => e.Item2)
        )
        {
            inUse += change;
            if (inUse > count && change > 0)
            {
                broken.Add($"{key}: {inUse} at the {what}, there are {count}");
            }
        }
    }

    private static void Films(JsonElement doc, Dictionary<string, Task> tasks, List<string> broken)
    {
        var offOf = new Dictionary<string, string>(StringComparer.Ordinal);
        var unkept = doc.GetProperty("unkept")
            .EnumerateArray()
            .ToDictionary(u => Text(u, "off")!, u => Number(u, "seconds") ?? 0, StringComparer.Ordinal);
        foreach (var c in doc.GetProperty("cycles").EnumerateArray())
        {
            var (onKey, offKey) = (Text(c, "on")!, Text(c, "off")!);
            offOf[onKey] = offKey;
            if (!tasks.TryGetValue(onKey, out var on) || !tasks.TryGetValue(offKey, out var off))
            {
                continue;
            }

            var most = Number(c, "maxLag")!.Value;
            foreach (var h in c.GetProperty("hours").EnumerateArray())
            {
                if (on.Start >= h[0].GetInt32() && on.Start < h[1].GetInt32())
                {
                    most = h[2].GetInt32();
                    break;
                }
            }

            var lag = off.Start - on.Start;
            if (lag < Number(c, "minLag"))
            {
                broken.Add($"{offKey}: comes {lag} s after {onKey}, it has to work {Number(c, "minLag")} s");
            }

            // Only what lies already may be late, and it is said by how much.
            if (lag > most && !(on.Begun && unkept.TryGetValue(offKey, out var by) && by == lag - most))
            {
                broken.Add($"{offKey}: comes {lag} s after {onKey}, it dries after {most} s");
            }

            if (lag <= most && unkept.ContainsKey(offKey))
            {
                broken.Add($"{offKey}: is said to be late, and is not");
            }

            if (
                Flag(c, "personBound")
                && (
                    on.Who != off.Who
                    || tasks.Values.Any(t =>
                        t.Who == on.Who && t != on && t != off && t.Start < off.Start && on.End < t.End && t.Start >= on.Start
                    )
                )
            )
            {
                broken.Add($"{onKey}: who lays it on stays at it until it is off");
            }
        }

        foreach (var p in doc.GetProperty("noWater").EnumerateArray())
        {
            var on = Text(p, "on")!;
            if (
                tasks.TryGetValue(Text(p, "task")!, out var wet)
                && tasks.TryGetValue(on, out var from)
                && offOf.TryGetValue(on, out var offKey)
                && tasks.TryGetValue(offKey, out var to)
                && wet.Start < to.End
                && from.Start < wet.End
            )
            {
                broken.Add($"{wet.Key}: brings water over {on} while it lies");
            }
        }

        foreach (var p in doc.GetProperty("inside").EnumerateArray())
        {
            var on = Text(p, "on")!;
            if (
                tasks.TryGetValue(Text(p, "task")!, out var t)
                && tasks.TryGetValue(on, out var from)
                && offOf.TryGetValue(on, out var offKey)
                && tasks.TryGetValue(offKey, out var off)
                && !(t.Start >= from.End && (t.End <= off.Start || t.Start >= off.End))
            )
            {
                broken.Add($"{t.Key}: goes into the dwell of {on}, or after it");
            }
        }
    }

    private static (int From, int To)[] Stretches(JsonElement of, string name) =>
        [.. of.GetProperty(name).EnumerateArray().Select(s => (s[0].GetInt32(), s[1].GetInt32()))];

    private static string? Text(JsonElement e, string name) =>
        e.TryGetProperty(name, out var v) && v.ValueKind == JsonValueKind.String ? v.GetString() : null;

    private static int? Number(JsonElement e, string name) =>
        e.TryGetProperty(name, out var v) && v.ValueKind == JsonValueKind.Number ? v.GetInt32() : null;

    private static bool Flag(JsonElement e, string name) => e.TryGetProperty(name, out var v) && v.ValueKind == JsonValueKind.True;
}
