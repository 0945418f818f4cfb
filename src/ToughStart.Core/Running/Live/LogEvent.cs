using System.Text.Json;

namespace ToughStart.Core.Running.Live;

/// <summary>What an entry of a live log is about.</summary>
public enum LogKind
{
    /// <summary>Somebody takes a step.</summary>
    Taken,

    /// <summary>Somebody leaves it.</summary>
    Left,

    /// <summary>Cautions of a step were read and heeded.</summary>
    Cautioned,

    /// <summary>Something that needs time was put on: a line starts.</summary>
    Applied,

    /// <summary>The film was wetted again.</summary>
    Rewetted,

    /// <summary>Everything there was rinsed off.</summary>
    Rinsed,

    /// <summary>It dries faster or slower from here: the server's word, after a reading or weather.</summary>
    Rescaled,

    /// <summary>Work without a dwell was done.</summary>
    Worked,

    /// <summary>Somebody looked.</summary>
    Seen,

    /// <summary>A paper card: rounds done and what was seen, entered afterwards.</summary>
    Observed,

    /// <summary>A gauge was read.</summary>
    Measured,

    /// <summary>Product was used.</summary>
    Used,

    /// <summary>A step is left out, with a reason.</summary>
    Skipped,

    /// <summary>Trouble.</summary>
    Happened,
    Paused,
    Resumed,

    /// <summary>An entry was a mistake.</summary>
    Undone,

    /// <summary>Decision: the run begins.</summary>
    Started,

    /// <summary>Decision: another plan counts, or a proposal was refused.</summary>
    Replanned,

    /// <summary>Decision: the word of the gate on a zone.</summary>
    Judged,

    /// <summary>Decision: the run is over, its totals are frozen.</summary>
    Closed,

    /// <summary>Decision: the totals of a closed run were put right.</summary>
    Corrected,
}

/// <summary>What is known of kinds, so that nobody asks twice.</summary>
public static class LogKinds
{
    /// <summary>Does it change what counts from here? Then it is made with the server alone, and never queued.</summary>
    public static bool IsDecision(this LogKind kind) => kind >= LogKind.Started;

    /// <summary>Can it be taken back?</summary>
    public static bool CanBeUndone(this LogKind kind) =>
        kind
            is LogKind.Applied
                or LogKind.Rewetted
                or LogKind.Rinsed
                or LogKind.Worked
                or LogKind.Seen
                or LogKind.Observed
                or LogKind.Measured
                or LogKind.Skipped
                or LogKind.Used
                or LogKind.Taken;

    /// <summary>Does it say something of zones that a plan from here has to know?</summary>
    public static bool IsNews(this LogKind kind) =>
        kind
            is LogKind.Applied
                or LogKind.Rewetted
                or LogKind.Rinsed
                or LogKind.Worked
                or LogKind.Seen
                or LogKind.Observed
                or LogKind.Skipped
                or LogKind.Undone;

    /// <summary>Is it kept in the list of what happened on a zone?</summary>
    public static bool IsOnZones(this LogKind kind) =>
        (kind.IsNews() && kind != LogKind.Undone) || kind is LogKind.Rescaled or LogKind.Measured or LogKind.Happened;

    /// <summary>Can only the server write it?</summary>
    public static bool IsServers(this LogKind kind) => kind is LogKind.Rescaled;

    /// <summary>The word that stands for it in documents.</summary>
    public static string Word(this LogKind kind) => JsonNamingPolicy.CamelCase.ConvertName(kind.ToString());
}

/// <summary>How long a film may stay, ms: frozen from the plan's quarter-hours when it is put on.</summary>
/// <param name="Dwell">After which it has worked.</param>
/// <param name="Usable">Before which it must be rinsed.</param>
/// <param name="Dry">After which the first spots are dry.</param>
/// <param name="Max">The label's longest, from the first application; wetting again does not lengthen it.</param>
public sealed record LiveWindow(long Dwell, long Usable, long Dry, long Max);

/// <summary>When something happened, server time in ms: a guess, and bounds it surely lies between.</summary>
public readonly record struct Moment(long At, long Lo, long Hi);

/// <summary>
/// What an entry says. It says what was done and folds without a plan; a step is a hint. Which fields a kind has stands in
/// <see cref="ToughStart.Core.Formats.LogFormat"/>.
/// </summary>
public sealed record LogBody
{
    public static LogBody Empty { get; } = new();

    /// <summary>Zones, or even parts of one: "roof:1:3" is the first third of the roof.</summary>
    public IReadOnlyList<string> Zones { get; init; } = [];
    public string? Step { get; init; }
    public string? Test { get; init; }
    public string? Treatment { get; init; }
    public double? Strength { get; init; }

    /// <summary>Which round it is, 1 = the first.</summary>
    public int Round { get; init; } = 1;

    /// <summary>Number of the mix it was poured from.</summary>
    public int? Mix { get; init; }

    /// <summary>Class of product.</summary>
    public string? Product { get; init; }

    /// <summary>Neat product, ml.</summary>
    public int Ml { get; init; }
    public LiveWindow? Win { get; init; }

    /// <summary>How much longer the film stays from here, thousandths.</summary>
    public int PerMille { get; init; } = 1000;

    /// <summary>There was a reading on the very zone: only then it may be longer.</summary>
    public bool There { get; init; }
    public string? Observe { get; init; }
    public string? Result { get; init; }
    public string? Because { get; init; }

    /// <summary>Where on the zone somebody looked.</summary>
    public string? Spot { get; init; }

    /// <summary>What was measured: panel, air, humidity, wind; or what happened.</summary>
    public string? What { get; init; }
    public double? Value { get; init; }
    public string? Reason { get; init; }

    /// <summary>Ids of the entries it speaks of.</summary>
    public IReadOnlyList<string> Of { get; init; } = [];
    public IReadOnlyList<string> Cautions { get; init; } = [];

    /// <summary>The plan that begins, or that is taken.</summary>
    public int? Plan { get; init; }

    /// <summary>The plan in force when it was decided.</summary>
    public int? From { get; init; }
    public string? Hash { get; init; }

    /// <summary>take, change or refuse.</summary>
    public string? Answer { get; init; }

    /// <summary>Number of the last entry it takes into account.</summary>
    public int? UpTo { get; init; }
    public string? Verdict { get; init; }

    /// <summary>Looks a verdict rests on.</summary>
    public IReadOnlyList<string> Need { get; init; } = [];
    public IReadOnlyList<string> Crew { get; init; } = [];

    /// <summary>Rounds a paper card tells of.</summary>
    public int Rounds { get; init; }
    public double? DwellMinutes { get; init; }
    public double? FilmC { get; init; }
    public bool Elsewhere { get; init; }
}

/// <summary>One entry of the live log of a job.</summary>
/// <param name="Device">The phone's own number, made with its store and lost with it.</param>
/// <param name="Seq">1, 2, … per device and job; 0 for decisions and for what the server writes.</param>
/// <param name="Epoch">One life of a page's clock; <paramref name="Mono"/> of two epochs do not compare.</param>
/// <param name="Mono">That clock, ms.</param>
/// <param name="After">Number of the last entry its maker had seen.</param>
/// <param name="Plan">Plan its maker had before them.</param>
public sealed record LogEvent(string Id, string Device, int Seq, string Epoch, long Mono, int After, int Plan, string Who, LogKind Kind)
{
    public LogBody Body { get; init; } = LogBody.Empty;

    /// <summary>When it happened: first what its maker claims, once stored what the server makes of the claim.</summary>
    public Moment When { get; init; }

    /// <summary>Gapless per job; 0 while it waits to be stored.</summary>
    public int Number { get; init; }

    /// <summary>Server time at which it was stored, ms.</summary>
    public long Received { get; init; }

    /// <summary>Its maker is an owner: the server's word.</summary>
    public bool ByOwner { get; init; }
}
