namespace ToughStart.Core.Planning;

/// <summary>Where one zone stands in a run: levels now, the slot it has reached, and rounds already spent.</summary>
/// <param name="Levels">Level of every kind now; null entries leave the survey's belief alone.</param>
/// <param name="FromSlot">Slots before this are done with.</param>
/// <param name="RoundsUsed">Rounds spent by treatment id; they count against its cap.</param>
/// <param name="Looked">Kinds that have been looked for since (hidden no more).</param>
/// <param name="AskAgain">Tests whose answer was inconclusive, with why.</param>
public sealed record ZoneProgress(
    int?[] Levels,
    int FromSlot,
    Left Left,
    IReadOnlyDictionary<string, int> RoundsUsed,
    IReadOnlySet<int> Looked,
    IReadOnlyDictionary<string, string> AskAgain
)
{
    /// <summary>Neat product that is gone already, ml by class, with what is wasted.</summary>
    public IReadOnlyDictionary<string, double> UsedMl { get; init; } = new Dictionary<string, double>();

    /// <summary>How likely a kind is over its target now, and by how much if it is; kinds that were worked on or looked at.</summary>
    public IReadOnlyDictionary<int, Doubt> Doubts { get; init; } = new Dictionary<int, Doubt>();

    /// <summary>The kind that each look of <see cref="AskAgain"/> chiefly speaks of.</summary>
    public IReadOnlyDictionary<string, int> Speaks { get; init; } = new Dictionary<string, int>();
}

/// <summary>What is still doubtful of a kind.</summary>
/// <param name="Chance">Probability that it is over its target.</param>
/// <param name="Load">The load it has then: half of those cases are dirtier.</param>
public readonly record struct Doubt(double Chance, double Load);

/// <summary>A run so far, by zone; zones that are not named have not been touched.</summary>
public sealed record Progress(IReadOnlyDictionary<string, ZoneProgress> Zones)
{
    public static Progress None { get; } = new(new Dictionary<string, ZoneProgress>());

    public ZoneProgress? Of(string zone) => Zones.GetValueOrDefault(zone);
}
