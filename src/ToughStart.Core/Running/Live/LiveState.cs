using System.Collections.Immutable;

namespace ToughStart.Core.Running.Live;

/// <summary>How a round ended.</summary>
public enum RoundEnd
{
    /// <summary>Rinsed after it had worked and before it dried.</summary>
    Ok,

    /// <summary>Rinsed before it had worked.</summary>
    Short,

    /// <summary>It dried on the panel.</summary>
    Dried,

    /// <summary>The clocks do not say.</summary>
    Unsure,
}

/// <summary>One entry in the list of what happened on a zone.</summary>
/// <param name="DuringStop">It came while a stop was in force: it counts, and that is said.</param>
public sealed record ZoneFact(LogEvent Event, bool DuringStop)
{
    public string Id => Event.Id;
    public Moment When => Event.When;

    /// <summary>Had the maker of this one seen the other?</summary>
    public bool Knew(ZoneFact other) => Live.Knew(Event, other.Event);
}

/// <summary>A film on a panel that nobody has surely rinsed.</summary>
/// <param name="Id">The application that began it.</param>
/// <param name="Last">The last application or wetting.</param>
/// <param name="First">Earliest time it can have begun, ms.</param>
/// <param name="Start">Earliest time of the last application.</param>
/// <param name="Usable">Time by which it must be rinsed, ms.</param>
/// <param name="Dry">Time at which the first spots are dry.</param>
/// <param name="Max">The label's longest.</param>
/// <param name="Dried">It could have been dry before it was wetted again, or somebody said so.</param>
/// <param name="Perhaps">A rinse that may or may not have come after it: look.</param>
public sealed record LiveLine(
    string Id,
    string Last,
    string Who,
    int Round,
    long First,
    long Start,
    long Dwell,
    long Usable,
    long Dry,
    long Max,
    bool Dried,
    string? Perhaps
)
{
    /// <summary>Latest moment at which it must be off.</summary>
    public long RinseBy => Math.Min(Usable, Max);
}

/// <summary>What was seen last on a zone, of one thing.</summary>
/// <param name="Void">It was seen over a round that dried or of which nobody knows: it says nothing.</param>
public sealed record LiveLook(int Number, string Result, bool Void);

/// <summary>A round that came to its end: what beliefs are moved by.</summary>
/// <param name="First">The application that began it; a piece of work without a dwell is its own.</param>
/// <param name="End">The rinse, or the work itself.</param>
/// <param name="DwellMs">How long it stayed, from and to.</param>
public sealed record LiveRound(ZoneFact First, ZoneFact End, string Treatment, int Round, RoundEnd Verdict, (long From, long To) DwellMs);

/// <summary>What follows of one zone's list of facts.</summary>
/// <param name="Dried">Of the rounds, those that dried on the panel: they count as not done.</param>
/// <param name="Orphans">Rinses of nothing anybody had put on.</param>
/// <param name="Joined">Applications that were reported twice: they are counted once.</param>
public sealed record LiveZone(
    ImmutableSortedDictionary<string, int> Rounds,
    ImmutableSortedDictionary<string, int> Dried,
    ImmutableSortedDictionary<string, ImmutableArray<LiveLine>> Lines,
    (int Number, string Treatment, RoundEnd Verdict)? Last,
    ImmutableSortedDictionary<string, LiveLook> Looks,
    ImmutableSortedDictionary<string, string> Skipped,
    ImmutableArray<string> Marks,
    ImmutableArray<string> Joined,
    int Orphans
)
{
    /// <summary>What ended or was seen, in the order in which it happened; it follows from the facts and is never stored.</summary>
    public ImmutableArray<LiveRound> Ended { get; init; } = [];
}

/// <summary>A halt for everybody until somebody names it.</summary>
public sealed record Halt(string What, string Who);

/// <summary>Where somebody works.</summary>
public sealed record Post(string Step, IReadOnlyList<string> Zones);

/// <summary>The gate's word on a zone.</summary>
/// <param name="Overtaken">Something came after it: it says nothing any more.</param>
public sealed record LiveVerdict(int Number, string Verdict, int UpTo, bool Overtaken);

/// <summary>Product put on or used.</summary>
public sealed record Pour(string Product, int Ml, IReadOnlyList<string> Zones, string Who);

/// <summary>What a run came to when it was closed.</summary>
public sealed record Totals(
    ImmutableSortedDictionary<string, int> Ml,
    ImmutableSortedDictionary<string, ImmutableSortedDictionary<string, int>> Rounds
);

/// <summary>The end of a run.</summary>
public sealed record Ending(int Number, Totals Totals);

/// <summary>
/// A run as its log has it. It follows from the entries alone: the same entries by number give the same state, from the start or from any
/// state in between. Integers and strings only, so that two languages write the same bytes.
/// </summary>
public sealed record LiveState
{
    public static LiveState Start { get; } = new();

    /// <summary>Number of the last entry taken in.</summary>
    public int Number { get; init; }

    /// <summary>Plan in force; 0 = none yet.</summary>
    public int Plan { get; init; }

    /// <summary>Number of the last entry it takes into account.</summary>
    public int PlanUpTo { get; init; }
    public string? Started { get; init; }
    public Ending? Closed { get; init; }
    public ImmutableSortedDictionary<string, Halt> Stops { get; init; } = Live.None<Halt>();
    public ImmutableSortedDictionary<string, string> Paused { get; init; } = Live.None<string>();
    public ImmutableSortedDictionary<string, Post> Crew { get; init; } = Live.None<Post>();
    public ImmutableSortedDictionary<string, int> Cautions { get; init; } = Live.None<int>();
    public ImmutableSortedDictionary<string, ImmutableArray<ZoneFact>> Facts { get; init; } = Live.None<ImmutableArray<ZoneFact>>();
    public ImmutableSortedDictionary<string, LiveZone> Zones { get; init; } = Live.None<LiveZone>();
    public ImmutableSortedDictionary<string, int> Undone { get; init; } = Live.None<int>();
    public ImmutableSortedDictionary<string, LiveVerdict> Verdicts { get; init; } = Live.None<LiveVerdict>();

    /// <summary>What applications and entries of use took, by entry.</summary>
    public ImmutableSortedDictionary<string, Pour> Poured { get; init; } = Live.None<Pour>();

    /// <summary>Entries of zones the plan in force does not know of.</summary>
    public ImmutableArray<int> News { get; init; } = [];

    /// <summary>Proposals that were refused, by what names them.</summary>
    public ImmutableArray<string> Refused { get; init; } = [];

    /// <summary>What came after the run was closed.</summary>
    public ImmutableArray<string> Late { get; init; } = [];

    /// <summary>What was not taken in, and why.</summary>
    public ImmutableArray<(string Id, string Why)> Ignored { get; init; } = [];

    /// <summary>Every entry that is known, with its number.</summary>
    public ImmutableDictionary<string, int> Known { get; init; } = ImmutableDictionary.Create<string, int>(StringComparer.Ordinal);

    /// <summary>What can be taken back, by entry.</summary>
    public ImmutableDictionary<string, LogEvent> Entries { get; init; } =
        ImmutableDictionary.Create<string, LogEvent>(StringComparer.Ordinal);

    /// <summary>Is anything on a panel that nobody has surely rinsed?</summary>
    public bool IsWet => Zones.Values.Any(z => z.Lines.Count > 0);
}
