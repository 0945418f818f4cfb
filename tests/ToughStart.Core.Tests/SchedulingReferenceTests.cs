using ToughStart.Scheduling;
using ToughStart.Scheduling.Check;

namespace ToughStart.Core.Tests;

/// <summary>
/// Timelines against references written for nothing else: every order tried on small work, and a plain scheduler that looks at every second.
/// Neither shares a line with what they judge.
/// </summary>
public sealed class SchedulingReferenceTests
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    /// <summary>
    /// Five hundred small works: no schedule ends before the best of all orders, nine in ten end with it, and no bound lies over it. The
    /// prototype's greedy was over it in 39 of 500.
    /// </summary>
    [Fact]
    public void Every_order_tried_is_never_beaten_and_mostly_met()
    {
        var random = new Random(500);
        var (met, worst, bounded, bounds) = (0, 1.0, 0, 0);
        for (var n = 0; n < 500; n++)
        {
            var i = Small(random);
            var best = EveryOrder.Finish(i);
            int? made = null;
            try
            {
                var s = new Greedy(i).Solve(300, Stop);
                TimelineCheck.Check(TimelineFormat.Write(i, s)).ShouldBeEmpty($"instance {n}");
                made = s.Finish;
                if (n % 10 == 0)
                {
                    var proof = Proof.Of(i, s, 0.5, Stop);
                    proof.Bound.ShouldBeLessThanOrEqualTo(best, $"instance {n}");
                    Math.Min(s.Finish, proof.Better?.Finish ?? int.MaxValue).ShouldBeGreaterThanOrEqualTo(best, $"instance {n}");
                    (bounds, bounded) = (bounds + 1, bounded + (proof.Bound == best ? 1 : 0));
                }
            }
            catch (CannotScheduleException) when (best == int.MaxValue) { }

            if (made is { } finish)
            {
                finish.ShouldBeGreaterThanOrEqualTo(best, $"instance {n}");
                met += finish == best ? 1 : 0;
                worst = Math.Max(worst, finish / (double)best);
            }
            else
            {
                met++;
            }
        }

        met.ShouldBeGreaterThanOrEqualTo(450, $"the worst was {worst:0.00} times the best");
        worst.ShouldBeLessThan(1.35);
        bounded.ShouldBeGreaterThan(bounds * 9 / 10);
    }

    /// <summary>A scheduler that takes what is ready in the order it stands and the first second that will do is seldom better.</summary>
    [Fact]
    public void A_plain_scheduler_is_never_better_by_more_than_one_in_a_hundred()
    {
        var random = new Random(77);
        var (compared, ours, plains) = (0, 0L, 0L);
        for (var n = 0; n < 120; n++)
        {
            var i = SchedulingTests.Any(random, 3 + random.Next(8));
            if (i.Crew.Any(p => p.Rest is not null || p.Shifts.Count > 0))
            {
                continue;
            }

            if (EverySecond.Finish(i) is { } plain)
            {
                var made = new Greedy(i).Solve(40, Stop).Finish;
                made.ShouldBeLessThanOrEqualTo((int)Math.Ceiling(1.01 * plain), $"instance {n}");
                (compared, ours, plains) = (compared + 1, ours + made, plains + plain);
            }
        }

        compared.ShouldBeGreaterThan(24);
        ours.ShouldBeLessThan(plains);
    }

    /// <summary>Up to seven tasks for one person, up to five for two; nobody walks.</summary>
    private static Instance Small(Random random)
    {
        var people = 1 + random.Next(3) / 2;
        var most = people == 1 ? 7 : 5;
        var (tasks, cycles, order) = (new List<WorkTask>(), new List<Cycle>(), new List<Before>());
        while (tasks.Count < 3 || (tasks.Count < most && random.Next(4) > 0))
        {
            var n = tasks.Count;
            if (n + 2 <= most && random.Next(2) == 0)
            {
                var (on, off) = (20 + random.Next(80), 20 + random.Next(80));
                tasks.AddRange([
                    SchedulingTests.Do($"on{n}", on, random.Next(2) == 0),
                    SchedulingTests.Do($"off{n}", off, random.Next(3) > 0),
                ]);
                var min = on + random.Next(200);
                cycles.Add(SchedulingTests.Film($"on{n}", $"off{n}", min, min + random.Next(200)));
            }
            else
            {
                tasks.Add(SchedulingTests.Do($"do{n}", 20 + random.Next(200), random.Next(3) == 0));
            }

            if (n > 0 && random.Next(3) == 0)
            {
                var first = cycles.FirstOrDefault(c => c.On == tasks[0].Key)?.Off ?? tasks[0].Key;
                if (first != tasks[n].Key)
                {
                    order.Add(new(first, tasks[n].Key, "so it is"));
                }
            }
        }

        return SchedulingTests.Of(people, 1, [.. tasks], [.. cycles], [.. order]) with
        {
            Walk = 0,
        };
    }

    /// <summary>All orders of all tasks over all people; each as early as it goes.</summary>
    private static class EveryOrder
    {
        public static int Finish(Instance i)
        {
            var (n, people) = (i.Tasks.Count, i.Crew.Count);
            var index = i.Tasks.Select((t, k) => (t.Key, k)).ToDictionary(x => x.Key, x => x.k);
            // start[to] >= start[from] + gap
            var fixedArcs = i
                .Order.Select(o => (index[o.First], index[o.Then], i.Tasks[index[o.First]].Seconds))
                .Concat(i.Cycles.SelectMany(c => new[] { (index[c.On], index[c.Off], c.MinLag), (index[c.Off], index[c.On], -c.MaxLag) }))
                .ToArray();
            var best = int.MaxValue;
            var order = new int[n];
            void Place(int at, int used)
            {
                if (at < n)
                {
                    for (var k = 0; k < n; k++)
                    {
                        // What must come before stands before.
                        if ((used & (1 << k)) == 0 && fixedArcs.All(a => a.Item2 != k || a.Item3 <= 0 || (used & (1 << a.Item1)) != 0))
                        {
                            order[at] = k;
                            Place(at + 1, used | (1 << k));
                        }
                    }

                    return;
                }

                for (var who = 0; who < (people == 1 ? 1 : 1 << (n - 1)); who++)
                {
                    best = Math.Min(best, Earliest(who));
                }
            }

            int Earliest(int who)
            {
                var arcs = new List<(int From, int To, int Gap)>(fixedArcs);
                var last = new[] { -1, -1, -1 };
                foreach (var k in order)
                {
                    var person = (who >> k) & 1;
                    foreach (var resource in i.Tasks[k].Washer ? new[] { person, 2 } : [person])
                    {
                        if (last[resource] >= 0)
                        {
                            arcs.Add((last[resource], k, i.Tasks[last[resource]].Seconds));
                        }

                        last[resource] = k;
                    }
                }

                var start = new int[n];
                for (var round = 0; round <= n; round++)
                {
                    var moved = false;
                    foreach (var (from, to, gap) in arcs)
                    {
                        if (start[from] + gap > start[to])
                        {
                            (start[to], moved) = (start[from] + gap, true);
                        }
                    }

                    if (!moved)
                    {
                        return Enumerable.Range(0, n).Max(k => start[k] + i.Tasks[k].Seconds);
                    }
                }

                return int.MaxValue;
            }

            Place(0, 0);
            return best;
        }
    }

    /// <summary>Units in the order they stand, each at the first second that breaks nothing; it never looks back.</summary>
    private static class EverySecond
    {
        public static int? Finish(Instance i)
        {
            var placed = new Dictionary<string, (WorkTask Task, int Start, string Who)>();
            var cycleOf = i.Cycles.SelectMany(c => new[] { (c.On, c), (c.Off, c) }).ToDictionary(x => x.Item1, x => x.c);
            var left = i.Tasks.Where(t => !cycleOf.TryGetValue(t.Key, out var c) || c.On == t.Key).ToList();
            while (left.Count > 0)
            {
                var next = left.FirstOrDefault(t =>
                    i.Order.Where(o => o.Then == t.Key || (cycleOf.TryGetValue(t.Key, out var c) && o.Then == c.Off))
                        .All(o => placed.ContainsKey(o.First)) && i.Inside.Where(p => p.Task == t.Key).All(p => placed.ContainsKey(p.On))
                );
                if (next is null || !Put(next, cycleOf.GetValueOrDefault(next.Key)))
                {
                    return null;
                }

                left.Remove(next);
            }

            return placed.Values.Max(p => p.Start + p.Task.Seconds);

            bool Put(WorkTask t, Cycle? c)
            {
                for (var at = 0; at < 20_000; at += Step)
                {
                    foreach (var who in i.Crew)
                    {
                        if (!Free(t, at, who))
                        {
                            continue;
                        }

                        placed[t.Key] = (t, at, who.Id);
                        if (c is null)
                        {
                            if (Waters(t, at, at + t.Seconds))
                            {
                                return true;
                            }
                        }
                        else if (Waters(t, at, at + t.Seconds) && Rinse(c, at, who.Id))
                        {
                            return true;
                        }

                        placed.Remove(t.Key);
                    }
                }

                return false;
            }

            bool Rinse(Cycle c, int on, string layer)
            {
                var off = i.Tasks.First(t => t.Key == c.Off);
                for (var at = on + c.MinLag; at <= on + c.MaxAt(on); at++)
                {
                    foreach (var who in i.Crew.Where(p => !c.PersonBound || p.Id == layer))
                    {
                        var busy = c.PersonBound && placed.Values.Any(p => p.Who == layer && p.Start < at && p.Start > on);
                        if (!busy && Free(off, at, who) && Waters(off, at, at + off.Seconds) && Lies(c, on, at + off.Seconds))
                        {
                            placed[off.Key] = (off, at, who.Id);
                            if (c.PersonBound)
                            {
                                var gap = new WorkTask($"stays {c.On}", "", Part.Only, [], off.At, at - on);
                                placed[gap.Key] = (gap with { Seconds = Math.Max(0, at - on) }, on, layer);
                            }

                            return true;
                        }
                    }
                }

                return false;
            }

            // No water over this film while it lies.
            bool Lies(Cycle c, int from, int to) =>
                i
                    .NoWater.Where(p => p.On == c.On && placed.ContainsKey(p.Task))
                    .Select(p => placed[p.Task])
                    .All(w => w.Start >= to || w.Start + w.Task.Seconds <= from);

            // This task brings no water over a film that lies.
            bool Waters(WorkTask t, int from, int to) =>
                i.NoWater.Where(p => p.Task == t.Key && placed.ContainsKey(p.On) && placed.ContainsKey(cycleOf[p.On].Off))
                    .All(p => from >= End(cycleOf[p.On].Off) || to <= placed[p.On].Start)
                && i.Inside.Where(p => p.Task == t.Key)
                    .All(p => from >= End(p.On) && (to <= placed[cycleOf[p.On].Off].Start || from >= End(cycleOf[p.On].Off)));

            int End(string key) => placed[key].Start + placed[key].Task.Seconds;

            bool Free(WorkTask t, int at, Person who) =>
                i.Order.Where(o => o.Then == t.Key && placed.ContainsKey(o.First)).All(o => End(o.First) <= at)
                && who.Breaks.All(b => b.To <= at || b.From >= at + t.Seconds)
                && placed.Values.Where(p => p.Who == who.Id).All(p => Apart(p, t, at, i.Walk))
                && (
                    !t.Washer
                    || Enumerable
                        .Range(at, t.Seconds)
                        .All(s =>
                            placed.Values.Count(p => p.Task.Washer && p.Start <= s && s < p.Start + p.Task.Seconds) < i.Machines.Washers
                        )
                );
        }

        private const int Step = 1;

        private static bool Apart((WorkTask Task, int Start, string Who) p, WorkTask t, int at, int walk)
        {
            var way = walk * Instance.Eighths(p.Task.At, t.At);
            return p.Start + p.Task.Seconds + way <= at || at + t.Seconds + way <= p.Start;
        }
    }
}
