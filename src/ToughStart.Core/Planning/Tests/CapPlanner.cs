using ToughStart.Core.Contamination;
using ToughStart.Core.Provenance;
using ToughStart.Core.Running;

namespace ToughStart.Core.Planning;

/// <summary>What is done on a zone where a loop reaches its cap and the look still says that it is not clean.</summary>
/// <param name="Loop">The deed whose rounds have run out.</param>
/// <param name="Extra">What comes after it in the order and would not have been done, or not so often.</param>
internal sealed record CapBranch(ZoneState State, Deed Loop, IReadOnlyList<Deed> Extra, ZoneWork Then);

/// <summary>
/// Plans once what follows a loop that ran out: the same zone with a little more than asked of what it was to take, and only places of the
/// order that are still to come. Where nothing that comes takes it, it is referred, and there is no branch.
/// </summary>
internal sealed class CapPlanner(
    ProblemBuilder builder,
    IReadOnlyList<ZoneState> states,
    Solved found,
    StageGraph graph,
    Progress progress,
    Catalogue c,
    Effort effort
)
{
    private readonly Dictionary<(string Signature, PassSet Reach), ZoneSolution> _solved = [];

    private readonly IReadOnlyDictionary<int, Unit> _unitOf = found
        .Units.SelectMany(u => u.Zones.Select(z => (z, u)))
        .ToDictionary(x => x.z, x => x.u);

    public IReadOnlyList<CapBranch> Plan()
    {
        var branches = new List<CapBranch>();
        for (var i = 0; i < states.Count; i++)
        {
            foreach (var d in found.Work[i].Deeds)
            {
                if (KindOf(i, d) is { } kind && Branch(i, d, kind) is { Extra.Count: > 0 } branch)
                {
                    branches.Add(branch);
                }
            }
        }

        return branches;
    }

    /// <summary>The kind that a loop of loads goes on for, where something that is still to come takes it too; null = none.</summary>
    private int? KindOf(int zone, Deed d)
    {
        var stage = Slot.StageOn(d.Slot, states[zone].Family);
        if (
            Math.Max(d.Rounds, d.Option.MaxRounds) <= 1
            || Observables.Of(stage, d.Treatment, c) is not { } until
            || Sense.Of(until.Observe, stage, c) is null or { Kind: SenseKind.Wipe }
        )
        {
            return null;
        }

        var kind = d.Option.Effects.OrderByDescending(e => e.Levels).Select(e => e.Kind).FirstOrDefault(-1);
        var problem = found.Work[zone].Problem;
        return kind is < 0 or Kinds.Residue || problem.Target[kind] <= 0 ? null
            : problem
                .Stages.Skip(From(d))
                .SelectMany(s => s.Options)
                .SelectMany(o => o.Effects)
                .Any(e => e.Kind == kind && e.Levels >= c["works-from"] * Levels.PerDecade && e.Floor >= problem.Target[kind])
                ? kind
            : null;
    }

    private int From(Deed d) => graph.Position(d.Slot.Id) + 1;

    private CapBranch? Branch(int zone, Deed loop, int kind)
    {
        var unit = _unitOf[zone];
        var from = From(loop);
        var parts = unit.Zones.Select(z => builder.Build(states[z], At(z, from, kind), null)).ToArray();
        var then = unit.With(parts);
        var (reach, prices) = found.Reach(unit, from);
        if (!_solved.TryGetValue((then.Signature, reach), out var solution))
        {
            solution = _solved[(then.Signature, reach)] = new ZoneSearch(then.Problem, effort: effort).Solve(reach, prices: prices);
        }

        var now = found.Work[zone];
        var problem = parts[unit.Zones.ToList().IndexOf(zone)].Problem;
        var work = ZoneWork.Replay(states[zone], problem, then.Parts(solution).First(p => p.Zone == zone).Solution, c);
        return work.Final[kind] <= problem.Start[kind]
            ? null
            : new(
                states[zone],
                loop,
                [.. work.Deeds.Where(d => !now.Deeds.Any(n => n.Slot == d.Slot && n.Treatment == d.Treatment && n.Rounds >= d.Rounds))],
                work
            );
    }

    /// <summary>The zone as it stands after the loop by the plan, but for what the loop left.</summary>
    private ZoneProgress At(int zone, int from, int kind)
    {
        var work = found.Work[zone];
        var before = work.Deeds.Where(d => graph.Position(d.Slot.Id) < from).OrderBy(d => graph.Position(d.Slot.Id)).ToArray();
        int?[] levels = [.. (before.LastOrDefault()?.After ?? work.Problem.Start).Select(l => (int?)l)];
        levels[kind] = Levels.Of(Levels.LoadOf(Math.Min(work.Problem.Target[kind], Levels.Nil - 1)) * c["cap-left"]);
        // What the loop's product left on the panel is still there: acid goes on it only after a rinse between.
        var left = before.Aggregate(Left.None, (l, d) => (l & ~d.Option.Clears) | d.Option.Leaves) & ~Left.Wet;
        return progress.Of(states[zone].Zone.Id) is { } at
            ? at with
            {
                Levels = levels,
                FromSlot = Math.Max(at.FromSlot, from),
                Left = left,
            }
            : new(levels, from, left, new Dictionary<string, int>(), new HashSet<int>(), new Dictionary<string, string>());
    }
}
