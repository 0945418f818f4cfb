namespace ToughStart.Scheduling;

/// <summary>A moment or a length, seconds from the start of the timeline.</summary>
public readonly record struct Stretch(int From, int To)
{
    public int Length => To - From;

    public bool Overlaps(int from, int to) => from < To && From < to;
}

/// <summary>Somebody who works.</summary>
/// <param name="Skills">wash, wheels, clay, chem; empty = all.</param>
/// <param name="Shifts">When they are there, in order; empty = always.</param>
/// <param name="Breaks">When they rest; no task spans it.</param>
public sealed record Person(string Id, IReadOnlyList<string> Skills, IReadOnlyList<Stretch> Shifts, IReadOnlyList<Stretch> Breaks)
{
    /// <summary>A rest that lies somewhere in a span; null = none has to be found.</summary>
    public Rest? Rest { get; init; }

    /// <summary>Place round the vehicle where they stand now; null = it is not known.</summary>
    public int? Stands { get; init; }
}

/// <summary>
/// A rest of a length that has to lie within a span, whole; whoever is done before it would begin at the latest takes it afterwards.
/// </summary>
public readonly record struct Rest(int Seconds, int From, int To);

/// <summary>What there is of everything that only one can use at a time.</summary>
public sealed record Machines(int Washers, int Ladders);

/// <summary>What a task is of its step.</summary>
public enum Part
{
    /// <summary>Laying on; what is rinsed later.</summary>
    On,

    /// <summary>Rinsing or wiping it off.</summary>
    Off,

    /// <summary>All of it at once.</summary>
    Only,
    Mix,
    Test,
    Dry,
}

/// <summary>Something one person does in one go.</summary>
/// <param name="At">Place round the vehicle: 0 front, 2 right, 4 rear, 6 left, odd = the corners between, 8 roof; null = anywhere.</param>
/// <param name="Skill">What it takes; null = anybody can.</param>
/// <param name="Conditional">A round that may not be needed.</param>
/// <param name="Pinned">Somebody has set its start, s; null = free.</param>
public sealed record WorkTask(
    string Key,
    string Step,
    Part Part,
    IReadOnlyList<string> Zones,
    int? At,
    int Seconds,
    bool Washer = false,
    bool Ladder = false,
    string? Skill = null,
    bool Conditional = false,
    int? Pinned = null
)
{
    /// <summary>s; it begins no earlier.</summary>
    public int From { get; init; }

    /// <summary>People it is given to, all others are elsewhere; empty = anybody with the skill.</summary>
    public IReadOnlyList<string> By { get; init; } = [];

    /// <summary>May somebody do it?</summary>
    public bool Can(Person p) => (Skill is null || p.Skills.Count == 0 || p.Skills.Contains(Skill)) && (By.Count == 0 || By.Contains(p.Id));
}

/// <summary>How long a film may stay that is laid on in some stretch of the day.</summary>
public readonly record struct HourLag(int From, int To, int MaxLag);

/// <summary>Laying on and taking off: start to start no sooner than it has worked, no later than any part of it dries.</summary>
/// <param name="Hours">
/// Where the sun makes it differ by the hour; empty = always <paramref name="MaxLag"/>. In a stretch with MaxLag below MinLag
/// nothing is begun.
/// </param>
/// <param name="PersonBound">Who lays it on stays at it: mistings, or a label that gives no time to be away.</param>
public sealed record Cycle(string On, string Off, int MinLag, int MaxLag, IReadOnlyList<HourLag> Hours, bool PersonBound = false)
{
    /// <summary>Longest lag where it is begun at a moment; negative = it is not begun then.</summary>
    public int MaxAt(int start)
    {
        foreach (var h in Hours)
        {
            if (start >= h.From && start < h.To)
            {
                return h.MaxLag;
            }
        }

        return MaxLag;
    }
}

/// <summary>One task ends before another begins, and why.</summary>
public sealed record Before(string First, string Then, string Why);

/// <summary>A task and a cycle that have to do with each other.</summary>
/// <param name="On">Key of the task that begins the cycle.</param>
public sealed record Pair(string Task, string On);

/// <summary>What is to be laid out in time.</summary>
/// <param name="Inside">Tasks that go into a cycle's dwell, or after it.</param>
/// <param name="NoWater">Tasks whose water may not come over a cycle's film.</param>
public sealed record Instance(
    IReadOnlyList<Person> Crew,
    Machines Machines,
    IReadOnlyList<WorkTask> Tasks,
    IReadOnlyList<Cycle> Cycles,
    IReadOnlyList<Before> Order,
    IReadOnlyList<Pair> Inside,
    IReadOnlyList<Pair> NoWater
)
{
    /// <summary>Seconds to go an eighth of the way round the vehicle.</summary>
    public int Walk { get; init; } = 5;

    /// <summary>s; what is not begun begins no earlier.</summary>
    public int Now { get; init; }

    /// <summary>Films that lie: when and by whom each was laid on, by the task that did. They alone may ever be late.</summary>
    public IReadOnlyDictionary<string, Placed> Begun { get; init; } = new Dictionary<string, Placed>();

    /// <summary>Everything added up: every task, and the wait of every film, one after another.</summary>
    public int AddingUp => Tasks.Sum(t => t.Seconds) + Cycles.Sum(c => Math.Max(0, c.MinLag - Tasks.First(t => t.Key == c.On).Seconds));

    /// <summary>Eighths of the way round between two places; from and to the roof it is two from anywhere.</summary>
    public static int Eighths(int? from, int? to) =>
        from is not { } a || to is not { } b || a == b ? 0
        : a == Roof || b == Roof ? 2
        : Math.Min(Math.Abs(a - b), 8 - Math.Abs(a - b));

    public const int Roof = 8;
}

/// <summary>A task laid out: when, and by whom.</summary>
public sealed record Placed(string Key, int Start, int End, string Who);

/// <summary>Work laid out in time.</summary>
/// <param name="Walked">Eighths of the way round that are walked, all people together.</param>
public sealed record Schedule(IReadOnlyList<Placed> Tasks, int Finish, int Walked, IReadOnlyDictionary<string, int> Loads)
{
    /// <summary>Where each rest was put.</summary>
    public IReadOnlyDictionary<string, Stretch> Rests { get; init; } = new Dictionary<string, Stretch>();

    /// <summary>Films that lie already and that nobody can be at in time.</summary>
    public IReadOnlyList<LateFilm> Late { get; init; } = [];
}
