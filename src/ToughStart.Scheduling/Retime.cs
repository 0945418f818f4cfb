namespace ToughStart.Scheduling;

/// <summary>
/// The same work by the same people in the same order, as early as it goes: longest paths, with the latest rinse of a film as
/// an arc that leads back. A path that runs in a circle and grows says that a film would dry.
/// </summary>
public static class Retime
{
    private readonly record struct Arc(int From, int To, int Least);

    /// <summary>The schedule drawn together; null = that cannot be told, or a film would dry.</summary>
    public static Schedule? Of(Instance i, Schedule s)
    {
        var tasks = i.Tasks.ToDictionary(t => t.Key);
        var placed = s.Tasks.OrderBy(p => p.Start).ThenBy(p => p.End).ToArray();
        var index = placed.Select((p, n) => (p.Key, n)).ToDictionary(x => x.Key, x => x.n);
        var arcs = new List<Arc>();
        void After(string first, string then, int gap = 0) => arcs.Add(new(index[first], index[then], tasks[first].Seconds + gap));
        foreach (var own in placed.Where(p => !i.Begun.ContainsKey(p.Key)).GroupBy(p => p.Who))
        {
            foreach (var (a, b) in own.Zip(own.Skip(1)))
            {
                After(a.Key, b.Key, i.Walk * Instance.Eighths(tasks[a.Key].At, tasks[b.Key].At));
            }
        }

        Machine(placed.Where(p => tasks[p.Key].Washer), i.Machines.Washers);
        Machine(placed.Where(p => tasks[p.Key].Ladder), i.Machines.Ladders);
        foreach (var o in i.Order)
        {
            After(o.First, o.Then);
        }

        var off = i.Cycles.ToDictionary(c => c.On, c => c.Off);
        foreach (var c in i.Cycles)
        {
            var at = placed[index[c.On]].Start;
            arcs.Add(new(index[c.On], index[c.Off], c.MinLag));
            arcs.Add(new(index[c.Off], index[c.On], -c.MaxAt(at)));
        }

        foreach (var p in i.Inside)
        {
            After(p.On, p.Task);
            var (task, rinse) = (placed[index[p.Task]], placed[index[off[p.On]]]);
            After(task.End <= rinse.Start ? p.Task : off[p.On], task.End <= rinse.Start ? off[p.On] : p.Task);
        }

        foreach (var p in i.NoWater)
        {
            if (placed[index[p.Task]].End <= placed[index[p.On]].Start)
            {
                After(p.Task, p.On);
            }
            else
            {
                After(off[p.On], p.Task);
            }
        }

        var start = placed.Select(p => Earliest(i, tasks[p.Key], p)).ToArray();
        for (var round = 0; ; round++)
        {
            var moved = false;
            foreach (var a in arcs)
            {
                if (start[a.From] + a.Least > start[a.To])
                {
                    (start[a.To], moved) = (start[a.From] + a.Least, true);
                }
            }

            if (!moved)
            {
                break;
            }

            if (round > placed.Length || placed.Where((p, n) => start[n] > p.Start).Any())
            {
                return null;
            }
        }

        // Hours of the sun: what was begun in one stretch may fall into another now.
        if (i.Cycles.Any(c => start[index[c.Off]] - start[index[c.On]] is var lag && (lag > c.MaxAt(start[index[c.On]]) || lag < c.MinLag)))
        {
            return null;
        }

        Placed[] drawn = [.. placed.Select((p, n) => p with { Start = start[n], End = start[n] + tasks[p.Key].Seconds })];
        return s with
        {
            Tasks = [.. drawn.OrderBy(p => p.Start).ThenBy(p => p.Key, StringComparer.Ordinal)],
            Finish = drawn.Max(p => p.End),
        };

        void Machine(IEnumerable<Placed> users, int count)
        {
            var last = new Placed?[Math.Max(1, count)];
            foreach (var u in users)
            {
                var free = Array.FindIndex(last, l => l is null || l.End <= u.Start);
                if (free >= 0 && last[free] is { } before)
                {
                    After(before.Key, u.Key);
                }

                last[Math.Max(0, free)] = u;
            }
        }
    }

    /// <summary>No earlier than the stretch of the shift it stands in allows, or its pin.</summary>
    private static int Earliest(Instance i, WorkTask t, Placed p)
    {
        if (i.Begun.ContainsKey(t.Key))
        {
            return p.Start;
        }

        var who = i.Crew.First(x => x.Id == p.Who);
        var shift = who.Shifts.Where(x => x.From <= p.Start && p.End <= x.To).Select(x => x.From).DefaultIfEmpty(0).First();
        var rested = who.Breaks.Where(b => b.To <= p.Start).Select(b => b.To).DefaultIfEmpty(0).Max();
        var there = who.Stands is { } at ? i.Now + (i.Walk * Instance.Eighths(at, t.At)) : i.Now;
        return new[] { there, t.From, t.Pinned ?? 0, shift, rested }.Max();
    }
}
