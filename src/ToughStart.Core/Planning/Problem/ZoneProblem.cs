using System.Collections.Immutable;
using ToughStart.Core.Contamination;

namespace ToughStart.Core.Planning;

/// <summary>What one round does to one kind: levels gained, and the level it cannot pass.</summary>
public readonly record struct Effect(int Kind, int Levels, int Floor);

/// <summary>The same before it was rounded to levels: what a belief moves by.</summary>
/// <param name="FloorLoad">The load that cannot be passed.</param>
public readonly record struct ExactEffect(int Kind, Decades Decades, double FloorLoad);

/// <summary>One treatment at one strength, ready to be searched on one zone. Costs are milli-minutes.</summary>
public sealed record Option
{
    /// <summary>Minutes it stays on, mistings included.</summary>
    public Minutes DwellMinutes { get; init; }

    /// <summary>How it is laid on, as the drying model has it; null = drying plays no part.</summary>
    public string? Film { get; init; }

    /// <summary>Mix used against one thin coat: thicker foam, misting again.</summary>
    public double Laid { get; init; } = 1;

    /// <summary>Mistings that keep it wet.</summary>
    public int Mists { get; init; }

    /// <summary>Minutes and litres of the rinse that cools a hot panel right before every round; nothing where it is cool or just rinsed.</summary>
    public (double Minutes, double Litres) Cooling { get; init; }

    /// <summary>Where it comes from: catalogue index of the treatment and of the strength.</summary>
    public int Treatment { get; init; }

    public int Strength { get; init; }

    /// <summary>The pass its first round belongs to; −1 = it is free to take.</summary>
    public int Pass { get; init; } = -1;

    /// <summary>The pass its further rounds belong to; −1 = they cost no pass of their own.</summary>
    public int Again { get; init; } = -1;

    /// <summary>A decision for the whole block: where its pass is open, a zone that could join and stays out pays for it.</summary>
    public bool Whole { get; init; }

    public required ImmutableArray<Effect> Effects { get; init; }

    /// <summary>What it does to every kind it works on, there or not; only where a round is done, not where one is searched for.</summary>
    public ImmutableArray<ExactEffect> Exact { get; init; } = [];

    public int MaxRounds { get; init; } = 1;

    /// <summary>Part of the zone it covers: 1, or less for spot work.</summary>
    public double Scale { get; init; } = 1;

    /// <summary>Minutes of cost in one round that are chemical stress.</summary>
    public double Stress { get; init; }

    /// <summary>What must be done before it (pre-wet, cover).</summary>
    public IReadOnlyList<string> Conditions { get; init; } = [];

    public LoadLimit? LoadLimit { get; init; }

    /// <summary>Residue added each round, millionths.</summary>
    public int AddsResidue { get; init; }

    /// <summary>Labour, product, water, wear and stress of one round.</summary>
    public long Cost { get; init; }

    /// <summary>Part of <see cref="Cost"/> that is product, water and wear.</summary>
    public long CostOfProduct { get; init; }

    /// <summary>Part of <see cref="Cost"/> that is stress.</summary>
    public long CostOfStress { get; init; }

    /// <summary>Milli-minutes of marring for a load of 1 under the tool.</summary>
    public long Marring { get; init; }

    /// <summary>The tool's own bite, millionths.</summary>
    public int Bite { get; init; }

    /// <summary>Kinds the tool drags over the surface, weights in thousandths.</summary>
    public ImmutableArray<(int Kind, int Weight)> Dragged { get; init; } = [];

    public Left Leaves { get; init; }

    public Left Clears { get; init; }

    public Left Forbids { get; init; }

    /// <summary>What must still be on the panel for it: foam that seals a spray needs that spray.</summary>
    public Left Needs { get; init; }

    /// <summary>A spray left wet for the foam that follows at once: no rinse of its own.</summary>
    public bool UnderFoam { get; init; }

    /// <summary>Nothing is rinsed after it.</summary>
    public bool Unrinsed { get; init; }

    /// <summary>Catalogue index of the treatment it seals; −1 = none.</summary>
    public int Seals { get; init; } = -1;
}

/// <summary>The options of one slot; skipping is always one of them, at <see cref="SkipCost"/>.</summary>
/// <param name="Ends">What may not be on the panel when this slot is over.</param>
/// <param name="Joins">What staying out costs on top, where a pass that a zone of this block joins is open.</param>
public sealed record StageOptions(int Slot, IReadOnlyList<Option> Options, long SkipCost = 0, Left Ends = Left.None, long Joins = 0)
{
    /// <summary>A demanded stage may be done for its own sake, once: then being cleaner is never a drawback.</summary>
    public bool Demands(Option option, int round) => round == 1 && (SkipCost > 0 || (Joins > 0 && option.Whole));

    /// <summary>What staying out of this slot costs with these passes open.</summary>
    /// <param name="joins">Is staying out of what the others do counted?</param>
    public long Skipping(PassSet open, bool joins = true)
    {
        if (!joins || Joins == 0)
        {
            return SkipCost;
        }

        for (var i = 0; i < Options.Count; i++)
        {
            if (Options[i] is { Whole: true, Pass: >= 0 and var pass } && open.Has(pass))
            {
                return SkipCost + Joins;
            }
        }

        return SkipCost;
    }
}

/// <summary>
/// One zone as the search sees it: integer levels, integer costs, no words. The exact search, the brute-force reference and
/// the general-purpose solver all read this same object.
/// </summary>
public sealed record ZoneProblem
{
    public required IReadOnlyList<StageOptions> Stages { get; init; }

    /// <summary>Level of every kind at the start; <see cref="Levels.Nil"/> where there is none.</summary>
    public required int[] Start { get; init; }

    /// <summary>Level each kind must reach; 0 asks nothing.</summary>
    public required int[] Target { get; init; }

    /// <summary>Level the goal asks of each kind, where a leaning job is held to less; the target itself otherwise.</summary>
    public int[]? Asked { get; init; }

    /// <summary>Cost of one level short of the target.</summary>
    public required long ShortfallPerLevel { get; init; }

    /// <summary>Layer of each kind; 0 takes no part in shielding.</summary>
    public int[] Layer { get; init; } = new int[Kinds.Count];

    /// <summary>Cost potential of kept protection by its level, or null when none is kept.</summary>
    public long[]? Keep { get; init; }

    /// <summary>Index of old protection in the level arrays.</summary>
    public int Protection { get; init; } = 22;

    public Left LeftAtStart { get; init; }

    /// <summary>What must not be left at the end, at <see cref="LeftPenalty"/>.</summary>
    public Left MustClear { get; init; }

    public long LeftPenalty { get; init; }

    /// <summary>A cover below this load (millionths) shields nothing.</summary>
    public int ShieldFrom { get; init; } = 100_000;

    /// <summary>From this level on a kind counts as none at load limits and under tools.</summary>
    public int NilAtLimit { get; init; } = 48;

    /// <summary>Kinds that take part, ascending.</summary>
    public int[] Active()
    {
        var adds = Stages.Any(s => s.Options.Any(o => o.AddsResidue > 0));
        return Enumerable.Range(0, Kinds.Count).Where(k => Start[k] < Levels.Nil || (k == Kinds.Residue && adds)).ToArray();
    }

    /// <summary>Passes that some option belongs to.</summary>
    public PassSet Passes() =>
        PassSet.Of(
            Stages
                .SelectMany(s => s.Options)
                .SelectMany(o => o.MaxRounds > 1 ? new[] { o.Pass, o.Again } : [o.Pass])
                .Where(p => p >= 0)
                .Distinct()
        );

    /// <summary>Does the load limit stand open at these levels?</summary>
    public bool Opens(LoadLimit load, ReadOnlySpan<byte> levels)
    {
        long sum = 0;
        foreach (var (kind, weight) in load.Weights)
        {
            sum += (long)weight * AtLimit(levels[kind]);
        }

        if (sum > load.Limit * 1000L)
        {
            return false;
        }

        foreach (var (kind, limit) in load.And)
        {
            if (Levels.MillionthsOf(levels[kind]) > limit)
            {
                return false;
            }
        }

        return true;
    }

    /// <summary>What is still owed at the end: levels short of target, and what must not be left.</summary>
    public long Terminal(ReadOnlySpan<byte> levels, Left left)
    {
        long cost = 0;
        for (var k = 0; k < Kinds.Count; k++)
        {
            cost += Math.Max(0, Target[k] - levels[k]) * ShortfallPerLevel;
        }

        return (left & MustClear) != 0 ? cost + LeftPenalty : cost;
    }

    /// <summary>Load of a level as load limits and tools count it, millionths.</summary>
    internal int AtLimit(int level) => level >= NilAtLimit ? 0 : Levels.MillionthsOf(level);
}

/// <summary>One choice of the search: in this slot, this option, this many rounds.</summary>
public readonly record struct Choice(int Stage, int Option, int Rounds);

/// <summary>The answer for one zone.</summary>
/// <param name="Cost">Milli-minutes, passes and set-ups not included.</param>
/// <param name="Bound">No plan can cost less than this.</param>
/// <param name="Proved">Is the cost the least possible?</param>
/// <param name="Used">Passes used.</param>
public sealed record ZoneSolution(IReadOnlyList<Choice> Choices, long Cost, long Bound, bool Proved, PassSet Used, int Labels);
