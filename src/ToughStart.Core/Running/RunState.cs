using System.Collections.Immutable;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Contamination;
using ToughStart.Core.Planning;
using ToughStart.Core.Readiness;

namespace ToughStart.Core.Running;

/// <summary>Work that was done last on a kind.</summary>
/// <param name="Step">Key of the step it was done in.</param>
/// <param name="Looked">Somebody has seen how it is since.</param>
public sealed record WorkDone(
    string Step,
    Stage Stage,
    string Treatment,
    ProductFraction Strength,
    Minutes? Minutes,
    double? FilmC,
    bool Under,
    bool Looked
);

/// <summary>A look that has to be made again, and why.</summary>
/// <param name="Surprise">It was unlikely: a second look on another spot decides; the answer that surprised stands here until then.</param>
public sealed record AskAgain(string Observe, Stage? Stage, string Because, string? Surprise);

/// <summary>One zone as far as a run has come. Never changed once made.</summary>
/// <param name="Beliefs">By kind; null = untouched, as the survey has it.</param>
/// <param name="Track">Level of every kind by the plan's own arithmetic since somebody last looked, residue last; null = as the survey has it.</param>
/// <param name="From">Position in the order of work that has been reached.</param>
/// <param name="Rounds">Rounds done by treatment; those that dried are not among them.</param>
/// <param name="UsedMl">Neat product used by class, ml, rounds that dried included.</param>
/// <param name="Steps">Rounds by step of a plan, told or implied by later work.</param>
/// <param name="Seen">Last conclusive answer by what was looked at.</param>
/// <param name="Failed">What was predicted and turned out plainly wrong.</param>
public sealed record ZoneRun(
    ImmutableArray<LoadBelief?> Beliefs,
    ImmutableArray<int?> Track,
    Left Left,
    int From,
    ImmutableDictionary<string, int> Rounds,
    ImmutableDictionary<string, double> UsedMl,
    ImmutableDictionary<string, StepRounds> Steps,
    ImmutableHashSet<int> Looked,
    ImmutableDictionary<string, string> Seen,
    ImmutableDictionary<string, AskAgain> Again,
    ImmutableDictionary<int, WorkDone> Work,
    ImmutableList<string> Failed
)
{
    /// <summary>
    /// The level a planner works with: half the probability lies on either side; while nobody has looked, of what it is if it is there. What went
    /// as planned stays at the plan's own figure as long as the two are about the same, so that no plan is turned over for a rounding.
    /// </summary>
    public int LevelOf(RunGround ground, ZoneState z, int kind)
    {
        if (kind == Kinds.Residue)
        {
            return Track[kind] ?? Levels.Nil;
        }

        if (Beliefs[kind] is not { } b)
        {
            return Levels.Of(ground.Builder.PlannedLoad(z[kind], z));
        }

        var level = Looked.Contains(kind) || z[kind].Basis == Basis.Found ? b.Median : b.MedianIfThere;
        return Track[kind] is { } track && Math.Abs(track - level) <= ground.Catalogue["as-planned"] * Levels.PerDecade ? track : level;
    }

    /// <summary>How surely every kind that the goal asks for is at its target now.</summary>
    /// <param name="but">Kinds that are left out; null = none.</param>
    public Fineness FinenessOf(RunGround ground, ZoneState z, IReadOnlyCollection<int>? but = null) =>
        Fineness.Of(
            Enumerable
                .Range(0, Kinds.Residue)
                .Where(k => but?.Contains(k) != true && ground.Builder.TargetLoad(k, z) is > 0)
                .Select(k => (Beliefs[k] ?? ground.Prior(z, k), ground.Builder.TargetLoad(k, z)!.Value))
                .Where(k => k.Item1 is not null)
                .Select(k => (k.Item1!, k.Item2))
        );

    /// <summary>The levels of all kinds.</summary>
    internal void LevelsOf(RunGround ground, ZoneState z, Span<byte> levels)
    {
        levels.Fill(Levels.Nil);
        for (var k = 0; k < Kinds.Count; k++)
        {
            levels[k] = (byte)LevelOf(ground, z, k);
        }
    }

    public static ZoneRun Untouched { get; } =
        new(
            [.. new LoadBelief?[Kinds.Residue]],
            [.. new int?[Kinds.Count]],
            Left.None,
            0,
            ImmutableDictionary<string, int>.Empty,
            ImmutableDictionary<string, double>.Empty,
            ImmutableDictionary<string, StepRounds>.Empty,
            [],
            ImmutableDictionary<string, string>.Empty,
            ImmutableDictionary<string, AskAgain>.Empty,
            ImmutableDictionary<int, WorkDone>.Empty,
            []
        );
}

/// <summary>Rounds of one step on one zone: as told, and as implied by work that came later.</summary>
public readonly record struct StepRounds(int Told, int Implied)
{
    public int Done => Told + Implied;
}

/// <summary>
/// A run so far: a fold of its log. The same entries in the same order give the same state, one by one, all at once or from any state in
/// between; what is computed from it (levels, decisions, plans) never flows back.
/// </summary>
public sealed record RunState(ImmutableDictionary<string, ZoneRun> Zones, ImmutableHashSet<Guid> Known, ImmutableList<string> Notes)
{
    public static RunState Start { get; } = new(ImmutableDictionary<string, ZoneRun>.Empty, [], []);

    public ZoneRun Of(string zone) => Zones.GetValueOrDefault(zone, ZoneRun.Untouched);
}

/// <summary>One entry of a run's log: what was observed, and the plan it speaks of with the survey that plan was computed from.</summary>
public sealed record RunEntry(RunGround Ground, Plan Plan, Observation Observation);
