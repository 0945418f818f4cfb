namespace ToughStart.Scheduling;

/// <summary>
/// A good way to give out the days before the solver looks: vehicles one after another, each as soon as it fits by as many as were chosen for
/// it; then orders and crews are changed one at a time as long as that helps, from a few beginnings. The same jobs always start the same.
/// </summary>
internal sealed class YardStart
{
    /// <summary>Beginnings: what presses first, and some that are shuffled.</summary>
    private const int Beginnings = 6;

    private const int Minute = 60;

    private readonly YardJob[] _jobs;
    private readonly YardRoom _room;
    private readonly int _washers;
    private readonly int _late;
    private readonly (int Start, int End, YardMode Mode)[] _at;
    private readonly bool[] _placed;

    private YardStart(IReadOnlyList<YardJob> jobs, YardRoom room, int washers, int late)
    {
        _jobs = [.. jobs];
        (_room, _washers, _late) = (room, washers, late);
        _at = new (int, int, YardMode)[_jobs.Length];
        _placed = new bool[_jobs.Length];
    }

    /// <param name="washers">What vehicles may have in hand together, % of one washer.</param>
    /// <param name="late">What a minute late weighs against a minute sooner.</param>
    /// <returns>Mode and start (minutes of working time) by job; null = none was found, which proves nothing.</returns>
    public static (int Mode, int Start)[]? Of(IReadOnlyList<YardJob> jobs, YardRoom room, int washers, int late)
    {
        var s = new YardStart(jobs, room, washers, late);
        var random = new Random(1);
        var (best, kept) = (long.MaxValue, null as (int, int)[]);
        for (var b = 0; b < Beginnings; b++)
        {
            var order = Enumerable
                .Range(0, jobs.Count)
                .OrderBy(j => jobs[j].Pinned is null)
                .ThenBy(j => b == 0 ? 0 : random.NextDouble())
                .ThenByDescending(j => jobs[j].Weight)
                .ThenBy(j => jobs[j].Due ?? int.MaxValue)
                .ThenBy(j => j)
                .ToArray();
            // Few people each, or many.
            var modes = jobs.Select(j => j.Modes.Select((m, n) => (m, n)).Where(x => x.m.People <= room.People).ToArray())
                .Select(m => m.Length == 0 ? -1 : m[b % m.Length].n)
                .ToArray();
            if (modes.Contains(-1))
            {
                return null;
            }

            var cost = s.Climb(order, modes);
            if (cost < best)
            {
                best = cost;
                s.Lay(order, modes);
                kept = [.. modes.Select((m, j) => (m, s._at[j].Start))];
            }
        }

        return kept;
    }

    /// <summary>Changes one thing at a time until nothing helps: who comes when, and by how many.</summary>
    private long Climb(int[] order, int[] modes)
    {
        var cost = Lay(order, modes);
        for (var better = true; better; )
        {
            better = false;
            for (var j = 0; j < modes.Length; j++)
            {
                for (var m = 0; m < _jobs[j].Modes.Count; m++)
                {
                    var was = modes[j];
                    if (m != was && _jobs[j].Modes[m].People <= _room.People)
                    {
                        modes[j] = m;
                        (cost, better, modes[j]) = Lay(order, modes) is var c && c < cost ? (c, true, m) : (cost, better, was);
                    }
                }
            }

            for (var from = 0; from < order.Length; from++)
            {
                for (var to = 0; to < order.Length; to++)
                {
                    if (from != to)
                    {
                        var was = (int[])order.Clone();
                        Move(order, from, to);
                        if (Lay(order, modes) is var c && c < cost)
                        {
                            (cost, better) = (c, true);
                        }
                        else
                        {
                            was.CopyTo(order, 0);
                        }
                    }
                }
            }
        }

        return cost;
    }

    private static void Move(int[] order, int from, int to)
    {
        var moved = order[from];
        if (from < to)
        {
            Array.Copy(order, from + 1, order, from, to - from);
        }
        else
        {
            Array.Copy(order, to, order, to + 1, from - to);
        }

        order[to] = moved;
    }

    /// <summary>Lays them one after another; what it costs, or more than anything where one does not fit.</summary>
    private long Lay(int[] order, int[] modes)
    {
        Array.Clear(_placed);
        var cost = 0L;
        foreach (var j in order)
        {
            var (job, mode) = (_jobs[j], _jobs[j].Modes[modes[j]]);
            var length = Minutes(mode.Seconds);
            if (Soonest(job, mode, length) is not { } start)
            {
                return long.MaxValue;
            }

            (_at[j], _placed[j]) = ((start, start + length, mode), true);
            cost += job.Weight * (start + length + (_late * (long)Math.Max(0, job.Due is { } due ? start + length - Minutes(due) : 0)));
        }

        return cost;
    }

    private int? Soonest(YardJob job, YardMode mode, int length)
    {
        if (job.Pinned is { } pin)
        {
            return Fits(Minutes(pin), length, mode) ? Minutes(pin) : null;
        }

        int? best = null;
        void Try(int at)
        {
            if (
                (best is null || at < best)
                && Begins(job, at) is { } allowed
                && (best is null || allowed < best)
                && Fits(allowed, length, mode)
            )
            {
                best = allowed;
            }
        }

        Try(0);
        for (var k = 0; k < _jobs.Length; k++)
        {
            if (_placed[k])
            {
                Try(_at[k].End);
            }
        }

        foreach (var b in job.Begins)
        {
            Try(Minutes(b.From));
        }

        return best;
    }

    /// <summary>The soonest moment from here at which it may begin; null = there is none.</summary>
    private static int? Begins(YardJob job, int at)
    {
        if (job.Begins.Count == 0)
        {
            return at;
        }

        foreach (var b in job.Begins)
        {
            if (at <= b.To / Minute)
            {
                return Math.Max(at, Minutes(b.From));
            }
        }

        return null;
    }

    /// <summary>Are there people, a bay and a washer all the while? What is there changes only where a vehicle begins.</summary>
    private bool Fits(int start, int length, YardMode mode)
    {
        for (var k = -1; k < _jobs.Length; k++)
        {
            if (k >= 0 && (!_placed[k] || _at[k].Start <= start || _at[k].Start >= start + length))
            {
                continue;
            }

            var at = k < 0 ? start : _at[k].Start;
            var (people, bays, washers) = (mode.People, 1, Math.Min(mode.Washer, _washers));
            for (var o = 0; o < _jobs.Length; o++)
            {
                if (_placed[o] && _at[o].Start <= at && at < _at[o].End)
                {
                    (people, bays, washers) = (people + _at[o].Mode.People, bays + 1, washers + Math.Min(_at[o].Mode.Washer, _washers));
                }
            }

            if (people > _room.People || bays > _room.Bays || washers > _washers)
            {
                return false;
            }
        }

        return true;
    }

    /// <summary>By minutes: seconds would only be shown as if they were known.</summary>
    internal static int Minutes(int seconds) => (seconds + Minute - 1) / Minute;
}
