namespace ToughStart.Scheduling;

/// <summary>Why no schedule can be made, by the task it fails on.</summary>
public sealed class CannotScheduleException(string task, string why) : Exception($"{task}: {why}")
{
    public string Task { get; } = task;
}

/// <summary>
/// Lays work out one unit after another, a unit being a task, or a film with its rinse: each where it begins the earliest without moving what stands.
/// No film is ever late: a unit is put only where its own window holds, with the walks to it and on from it, and nothing that stands moves after.
/// Many orders are tried, and the best is kept: the earliest finish, then the least walking, then even loads.
/// </summary>
public sealed class Greedy
{
    private readonly Instance _i;
    private readonly Dictionary<string, WorkTask> _tasks;
    private readonly Dictionary<string, Cycle> _cycleOf = [];
    private readonly Dictionary<string, List<string>> _before = [];
    private readonly Dictionary<string, List<string>> _after = [];
    private readonly ILookup<string, string> _inside;
    private readonly ILookup<string, string> _dryOver;
    private readonly ILookup<string, string> _overDry;
    private readonly List<Unit> _units;
    private readonly int _horizon;

    private sealed record Unit(WorkTask First, Cycle? Cycle, WorkTask? Last)
    {
        public int Rank { get; init; }

        /// <summary>Latest start of a rinse whose film lies already; null = it is nothing of the kind.</summary>
        public int? Deadline { get; init; }
    }

    public Greedy(Instance instance)
    {
        // Whatever people are called, and in whatever order they are told, the work comes out the same.
        _i = instance with
        {
            Crew = [.. instance.Crew.OrderBy(TraitsOf, StringComparer.Ordinal).ThenBy(p => p.Id, StringComparer.Ordinal)],
        };
        _tasks = instance.Tasks.ToDictionary(t => t.Key);
        foreach (var c in instance.Cycles)
        {
            (_cycleOf[c.On], _cycleOf[c.Off]) = (c, c);
        }

        foreach (var o in instance.Order)
        {
            Add(_before, o.Then, o.First);
            Add(_after, o.First, o.Then);
        }

        _inside = instance.Inside.ToLookup(p => p.Task, p => p.On);
        _dryOver = instance.NoWater.ToLookup(p => p.Task, p => p.On);
        _overDry = instance.NoWater.ToLookup(p => p.On, p => p.Task);
        _units =
        [
            .. instance
                .Tasks.Where(t =>
                    !_cycleOf.TryGetValue(t.Key, out var c) || (instance.Begun.ContainsKey(c.On) ? c.Off == t.Key : c.On == t.Key)
                )
                .Select((t, rank) => UnitOf(t, _cycleOf.GetValueOrDefault(t.Key), rank)),
        ];
        var ends = instance.Crew.SelectMany(p => p.Shifts.Select(s => s.To)).DefaultIfEmpty(0).Max();
        _horizon = Math.Max(ends, 0) + (4 * instance.AddingUp) + 86_400;
        Needs(instance.Tasks.FirstOrDefault(t => t.Washer), instance.Machines.Washers, "a washer");
        Needs(instance.Tasks.FirstOrDefault(t => t.Ladder), instance.Machines.Ladders, "a ladder or platform");
        foreach (var c in instance.Cycles.Where(c => !instance.Begun.ContainsKey(c.On)))
        {
            var on = _tasks[c.On];
            var alone = instance.Crew.Count == 1 || c.PersonBound || (instance.Machines.Washers <= 1 && on.Washer && _tasks[c.Off].Washer);
            var least = Math.Max(c.MinLag, alone ? on.Seconds + Walk(on.At, _tasks[c.Off].At) : 0);
            if (c.Hours.All(h => h.MaxLag < least) && c.MaxLag < least)
            {
                throw new CannotScheduleException(c.On, $"must be rinsed after {c.MaxLag} s, and that takes {least} s: a smaller section");
            }
        }
    }

    private static void Needs(WorkTask? first, int there, string what)
    {
        if (first is not null && there <= 0)
        {
            throw new CannotScheduleException(first.Key, $"takes {what}, and there is none");
        }
    }

    private Unit UnitOf(WorkTask t, Cycle? c, int rank) =>
        c is null ? new(t, null, null) { Rank = rank }
        : _i.Begun.TryGetValue(c.On, out var on) ? new(t, null, null) { Rank = rank, Deadline = on.Start + c.MaxAt(on.Start) }
        : new(t, c, _tasks[c.Off]) { Rank = rank };

    private static string TraitsOf(Person p) =>
        $"{string.Join(' ', p.Skills.Order(StringComparer.Ordinal))}/{string.Join(' ', p.Shifts)}/{string.Join(' ', p.Breaks)}";

    /// <summary>The best of so many tries.</summary>
    /// <param name="tries">1 or more; the same number gives the same schedule.</param>
    /// <exception cref="CannotScheduleException">Something fits nowhere; it is named.</exception>
    public Schedule Solve(int tries, CancellationToken stop = default)
    {
        var tail = Tails();
        Schedule? best = null;
        CannotScheduleException? failed = null;
        var random = new Random(1);
        for (var t = 0; t < tries; t++)
        {
            stop.ThrowIfCancellationRequested();
            var noise = t < 2 ? 0 : 0.1 + (0.5 * random.NextDouble());
            var order = _units.ToDictionary(
                u => u.First.Key,
                u => t % 3 == 1 ? -u.Rank * (1 + (noise * random.NextDouble())) : tail[u.First.Key] * (1 + (noise * random.NextDouble()))
            );
            // In two tries of five films stay longer than they must, so that more fits into their dwell.
            var delays = _i.Cycles.ToDictionary(
                c => c.On,
                _ =>
                    t % 5 is not (3 or 4) ? 0
                    : t % 5 == 3 ? random.Next(2)
                    : random.Next(3) == 0 ? 0
                    : random.NextDouble()
            );
            var rests = Rests(t, random);
            Person[] crew = [.. _i.Crew.Select(p => rests.TryGetValue(p.Id, out var r) ? p with { Breaks = [.. p.Breaks, r] } : p)];
            try
            {
                var made = new Run(this, crew).Make(order, delays, stop) with { Rests = rests };
                made = Retime.Of(_i with { Crew = crew }, made) is { } drawn && Better(drawn, made) ? drawn : made;
                best = best is null || Better(made, best) ? made : best;
            }
            catch (CannotScheduleException e)
            {
                failed = e;
            }
        }

        return best ?? throw failed!;
    }

    /// <summary>
    /// One pass in the order of an earlier schedule, for whoever waits for an answer: what was moved moves, the rest stays close.
    /// </summary>
    /// <exception cref="CannotScheduleException">In this order something fits nowhere; it is named.</exception>
    public Schedule Repeat(Schedule earlier, CancellationToken stop = default)
    {
        var at = earlier.Tasks.ToDictionary(p => p.Key, p => p.Start);
        var hands = earlier.Tasks.Where(p => p.Who.Length > 0).ToDictionary(p => p.Key, p => p.Who);
        var order = _units.ToDictionary(
            u => u.First.Key,
            u => -(double)(u.First.Pinned ?? at.GetValueOrDefault(u.First.Key, int.MaxValue))
        );
        var delays = _i.Cycles.ToDictionary(
            c => c.On,
            c =>
                at.TryGetValue(c.On, out var on) && at.TryGetValue(c.Off, out var off) && c.MaxLag > c.MinLag
                    ? Math.Clamp((off - on - c.MinLag) / (double)(c.MaxLag - c.MinLag), 0, 1)
                    : 0
        );
        var rests = _i
            .Crew.Where(p => p.Rest is not null)
            .ToDictionary(
                p => p.Id,
                p =>
                    earlier.Rests.TryGetValue(p.Id, out var r)
                        ? r
                        : new Stretch(p.Rest!.Value.From, p.Rest.Value.From + p.Rest.Value.Seconds)
            );
        Person[] crew = [.. _i.Crew.Select(p => rests.TryGetValue(p.Id, out var r) ? p with { Breaks = [.. p.Breaks, r] } : p)];
        var made = new Run(this, crew, hands).Make(order, delays, stop) with { Rests = rests };
        return Retime.Of(_i with { Crew = crew }, made) is { } drawn && Better(drawn, made) ? drawn : made;
    }

    /// <summary>Rests for a try: as early as they may be, as late, in the middle, and then anywhere by quarters of what is free.</summary>
    private Dictionary<string, Stretch> Rests(int attempt, Random random)
    {
        var rests = new Dictionary<string, Stretch>();
        foreach (var p in _i.Crew)
        {
            if (p.Rest is { } r)
            {
                var quarter = attempt switch
                {
                    0 => 0,
                    1 => 4,
                    2 => 2,
                    _ => random.Next(5),
                };
                var at = r.From + (quarter * Math.Max(0, r.To - r.From - r.Seconds) / 4);
                rests[p.Id] = new(at, at + r.Seconds);
            }
        }

        return rests;
    }

    private static bool Better(Schedule a, Schedule b) =>
        (LateBy(a), a.Finish, a.Walked, Spread(a)).CompareTo((LateBy(b), b.Finish, b.Walked, Spread(b))) < 0;

    /// <summary>Seconds by which films that lie are late, all together.</summary>
    public static int LateBy(Schedule s) => s.Late.Sum(l => l.Seconds);

    private static int Spread(Schedule s) => s.Loads.Values.Max() - s.Loads.Values.Min();

    /// <summary>Seconds that must follow a unit before all is done.</summary>
    private Dictionary<string, int> Tails()
    {
        var known = new Dictionary<string, int>();
        int Of(string key)
        {
            if (known.TryGetValue(key, out var tail))
            {
                return tail;
            }

            known[key] = 0;
            var t = _tasks[key];
            var own = _cycleOf.TryGetValue(key, out var c) && c.On == key ? c.MinLag + _tasks[c.Off].Seconds : t.Seconds;
            var next = (_after.GetValueOrDefault(key) ?? []).Concat(
                c is not null && c.On == key ? _after.GetValueOrDefault(c.Off) ?? [] : []
            );
            return known[key] = own + next.Select(Of).DefaultIfEmpty(0).Max();
        }

        return _units.ToDictionary(u => u.First.Key, u => Of(u.First.Key));
    }

    private int Walk(int? from, int? to) => _i.Walk * Instance.Eighths(from, to);

    private static void Add(Dictionary<string, List<string>> to, string key, string value)
    {
        if (!to.TryGetValue(key, out var list))
        {
            to[key] = list = [];
        }

        list.Add(value);
    }

    /// <summary>Seconds that somebody is waited for whose task it was: a change of hands is more to keep in mind.</summary>
    private const int Keeps = 60;

    /// <summary>One order tried to its end.</summary>
    private sealed class Run(Greedy g, IReadOnlyList<Person> crew, IReadOnlyDictionary<string, string>? hands = null)
    {
        private readonly Dictionary<string, Placed> _placed = new(g._i.Begun);
        private readonly Dictionary<string, List<(int From, int To, int? At)>> _own = crew.ToDictionary(
            p => p.Id,
            p => p.Stands is { } at ? [(g._i.Now, g._i.Now, (int?)at)] : new List<(int, int, int?)>()
        );
        private readonly List<Stretch> _washers = [];
        private readonly List<Stretch> _ladders = [];

        public Schedule Make(IReadOnlyDictionary<string, double> order, IReadOnlyDictionary<string, double> delays, CancellationToken stop)
        {
            var left = g._units.ToList();
            while (left.Count > 0)
            {
                stop.ThrowIfCancellationRequested();
                var ready = left.Where(IsReady).ToArray();
                if (ready.Length == 0)
                {
                    throw new CannotScheduleException(left[0].First.Key, "waits for what waits for it");
                }

                // What lies comes first, then what somebody has set the time of, the earliest first.
                var next = ready.Where(u => u.Deadline is not null).MinBy(u => u.Deadline)
                    ?? ready.Where(u => PinOf(u) is not null).MinBy(PinOf)
                    ?? ready.MaxBy(u => order[u.First.Key])!;
                Put(next, next.Cycle is { } c ? delays[c.On] : 0);
                left.Remove(next);
            }

            var walked = _own.Values.Sum(o => o.Zip(o.Skip(1)).Sum(x => Instance.Eighths(x.First.At, x.Second.At)));
            return new(
                [.. _placed.Values.OrderBy(p => p.Start).ThenBy(p => p.Key, StringComparer.Ordinal)],
                _placed.Values.Max(p => p.End),
                walked,
                _own.ToDictionary(o => o.Key, o => o.Value.Sum(x => x.To - x.From))
            )
            {
                Late =
                [
                    .. g
                        ._i.Begun.Values.Select(on => (On: on, Cycle: g._cycleOf[on.Key], Off: _placed[g._cycleOf[on.Key].Off]))
                        .Select(x => (x.On, x.Off, By: x.Off.Start - x.On.Start - x.Cycle.MaxAt(x.On.Start)))
                        .Where(x => x.By > 0)
                        .Select(x => new LateFilm(x.On.Key, x.Off.Key, x.By, x.Off.Who)),
                ],
            };
        }

        private static int? PinOf(Unit u) => u.First.Pinned ?? u.Last?.Pinned;

        private bool IsReady(Unit u) =>
            Needs(u.First.Key).Concat(u.Last is { } l ? Needs(l.Key).Where(k => k != u.First.Key) : []).All(_placed.ContainsKey);

        private IEnumerable<string> Needs(string key) => (g._before.GetValueOrDefault(key) ?? []).Concat(g._inside[key]);

        private void Put(Unit u, double delay)
        {
            if (u is not { Cycle: { } c, Last: { } off })
            {
                var (who, at) = Earliest(u.First, Lower(u.First.Key), null);
                Hold(u.First, at, who);
                return;
            }

            var from = Lower(u.First.Key);
            for (var tried = 0; from < g._horizon; tried++)
            {
                var (who, a) = Earliest(u.First, from, null);
                var most = c.MaxAt(a);
                if (most < c.MinLag)
                {
                    from = c.Hours.Where(h => a >= h.From && a < h.To).Select(h => h.To).DefaultIfEmpty(a + 1).First();
                    continue;
                }

                Hold(u.First, a, who);
                var least = a + c.MinLag + (int)(delay * (most - c.MinLag));
                var found = Earliest(off, Math.Max(least, Lower(off.Key)), c.PersonBound ? who : null);
                if (found.At - a > most && delay > 0)
                {
                    // It may come off sooner than one would like it to.
                    found = Earliest(off, Math.Max(a + c.MinLag, Lower(off.Key)), c.PersonBound ? who : null);
                }

                var clash = found.At - a <= most ? Clash(c, a, found.At + off.Seconds) : null;
                if (clash is null && found.At - a <= most && (!c.PersonBound || Free(who, a + u.First.Seconds, found.At)))
                {
                    if (c.PersonBound && found.At > a + u.First.Seconds)
                    {
                        // They stay at it: nothing else comes between.
                        var list = _own[who];
                        list.Insert(list.Count(o => o.From < a + u.First.Seconds), (a + u.First.Seconds, found.At, u.First.At));
                    }

                    Hold(off, found.At, found.Who);
                    return;
                }

                Let(u.First, who);
                from = clash is { } end ? Math.Max(a + 1, end) : Math.Max(a + 1, found.At - most);
            }

            throw new CannotScheduleException(u.First.Key, "no stretch of the day is long enough for it and its rinse");
        }

        /// <summary>End of work that brings water over the film while it lies; null = none does.</summary>
        private int? Clash(Cycle c, int from, int to) =>
            g._overDry[c.On]
                .Select(t => _placed.GetValueOrDefault(t))
                .Where(p => p is not null && p.Start < to && from < p.End)
                .Select(p => (int?)p!.End)
                .Max();

        private bool Free(string who, int from, int to) => _own[who].All(o => o.To <= from || o.From >= to);

        private int Lower(string key) =>
            new[]
            {
                g._i.Now,
                g._tasks[key].From,
                g._tasks[key].Pinned ?? 0,
                (g._before.GetValueOrDefault(key) ?? []).Select(b => _placed.TryGetValue(b, out var p) ? p.End : 0).DefaultIfEmpty(0).Max(),
                g._inside[key].Select(on => _placed[on].End).DefaultIfEmpty(0).Max(),
                g._cycleOf.TryGetValue(key, out var c) && g._i.Begun.TryGetValue(c.On, out var on) ? on.Start + c.MinLag : 0,
            }.Max();

        /// <summary>The earliest start of a task from a moment on, by whom it is begun first; who is nearer comes first.</summary>
        private (string Who, int At) Earliest(WorkTask t, int from, string? by)
        {
            (string Who, int At, int Walk, int Wait)? best = null;
            foreach (var p in crew.Where(p => (by is null || p.Id == by) && t.Can(p)))
            {
                if (Begin(t, p, from) is { } at)
                {
                    var walk = _own[p.Id].Where(o => o.To <= at).Select(o => g.Walk(o.At, t.At)).LastOrDefault();
                    // Whose it was keeps it, unless somebody else is at it a good deal sooner.
                    var wait = hands is not null && hands.GetValueOrDefault(t.Key) == p.Id ? at - Keeps : at;
                    if (best is not { } b || (wait, walk, _own[p.Id].Count).CompareTo((b.Wait, b.Walk, _own[b.Who].Count)) < 0)
                    {
                        best = (p.Id, at, walk, wait);
                    }
                }
            }

            return best is { } found
                ? (found.Who, found.At)
                : throw new CannotScheduleException(
                    t.Key,
                    t.Skill is null ? "nobody is there long enough" : $"nobody who can do it ({t.Skill}) is there long enough"
                );
        }

        private int? Begin(WorkTask t, Person p, int from)
        {
            var at = from;
            while (at <= g._horizon)
            {
                var next = Math.Max(Hours(p, at, t.Seconds), OwnTime(p.Id, t, at));
                next = t.Washer ? Machine(_washers, g._i.Machines.Washers, next, t.Seconds) : next;
                next = t.Ladder ? Machine(_ladders, g._i.Machines.Ladders, next, t.Seconds) : next;
                next = Films(t, next);
                if (next == at)
                {
                    return at;
                }

                if (next == int.MaxValue)
                {
                    return null;
                }

                at = next;
            }

            return null;
        }

        /// <summary>Within a shift and outside every break.</summary>
        private static int Hours(Person p, int at, int seconds)
        {
            for (var moved = true; moved; )
            {
                moved = false;
                if (p.Shifts.Count > 0)
                {
                    var shift = p.Shifts.FirstOrDefault(s => Math.Max(at, s.From) + seconds <= s.To);
                    if (shift.Length == 0)
                    {
                        return int.MaxValue;
                    }

                    at = Math.Max(at, shift.From);
                }

                foreach (var b in p.Breaks.Where(b => b.Overlaps(at, at + seconds)))
                {
                    (at, moved) = (b.To, true);
                }
            }

            return at;
        }

        /// <summary>After what they do before, and before what they do next, with the walks between.</summary>
        private int OwnTime(string who, WorkTask t, int at)
        {
            var list = _own[who];
            for (var i = 0; i <= list.Count; i++)
            {
                var free = i == 0 ? 0 : list[i - 1].To + g.Walk(list[i - 1].At, t.At);
                var start = Math.Max(at, free);
                if (i == list.Count || start + t.Seconds + g.Walk(t.At, list[i].At) <= list[i].From)
                {
                    return start;
                }
            }

            return at;
        }

        private static int Machine(List<Stretch> held, int count, int at, int seconds)
        {
            if (count <= 0)
            {
                return int.MaxValue;
            }

            while (at < int.MaxValue)
            {
                var over = held.Where(h => h.Overlaps(at, at + seconds)).ToArray();
                // At some moment as many are in use as there are: after the first of them that ends.
                var full = over.Any(o => over.Count(x => x.From <= Math.Max(o.From, at) && x.To > Math.Max(o.From, at)) >= count);
                if (!full)
                {
                    return at;
                }

                at = over.Min(o => o.To);
            }

            return at;
        }

        /// <summary>Not with water over a film that lies, and into a film only where it is out before the rinse.</summary>
        private int Films(WorkTask t, int at)
        {
            for (var moved = true; moved; )
            {
                moved = false;
                foreach (var on in g._dryOver[t.Key].Where(_placed.ContainsKey))
                {
                    var (from, to) = Lies(on);
                    if (at < to && from < at + t.Seconds)
                    {
                        (at, moved) = (to, true);
                    }
                }

                foreach (var on in g._inside[t.Key].Where(_placed.ContainsKey))
                {
                    var off = _placed[g._cycleOf[on].Off];
                    if (at < off.End && at + t.Seconds > off.Start)
                    {
                        (at, moved) = (off.End, true);
                    }
                }
            }

            return at;
        }

        private (int From, int To) Lies(string on) =>
            (_placed[on].Start, _placed.TryGetValue(g._cycleOf[on].Off, out var off) ? off.End : int.MaxValue);

        private void Hold(WorkTask t, int at, string who)
        {
            _placed[t.Key] = new(t.Key, at, at + t.Seconds, who);
            var list = _own[who];
            list.Insert(list.Count(o => o.To <= at), (at, at + t.Seconds, t.At));
            if (t.Washer)
            {
                _washers.Add(new(at, at + t.Seconds));
            }

            if (t.Ladder)
            {
                _ladders.Add(new(at, at + t.Seconds));
            }
        }

        private void Let(WorkTask t, string who)
        {
            var p = _placed[t.Key];
            _placed.Remove(t.Key);
            _own[who].RemoveAll(o => o.From == p.Start && o.To == p.End);
            if (t.Washer)
            {
                _washers.Remove(new(p.Start, p.End));
            }

            if (t.Ladder)
            {
                _ladders.Remove(new(p.Start, p.End));
            }
        }
    }
}
