using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Running;

/// <summary>One line of what changed between two plans of the same job.</summary>
public sealed record Change(string Kind, Stage? Stage, string Treatment, string Words, IReadOnlyList<string> Zones);

/// <summary>The plan from here on, and how it differs from what was still to do.</summary>
public sealed record Replan(Plan Plan, Progress Progress, IReadOnlyList<Change> Changes, IReadOnlyList<string> Done);

/// <summary>Folds what was done and seen into the state of every zone and plans again from there.</summary>
public static class Replanner
{
    /// <summary>Plans the rest of a job from observations that all speak of one plan.</summary>
    /// <param name="observations">In the order they were made; repeated ids count once.</param>
    public static Replan From(Survey survey, Plan plan, IReadOnlyList<Observation> observations)
    {
        var ground = new RunGround(survey);
        return From(ground, plan, Run.Fold(RunState.Start, observations.Select(o => new RunEntry(ground, plan, o))), observations);
    }

    /// <summary>Plans the rest of a job from where a run stands.</summary>
    /// <param name="ground">The survey to plan with from here.</param>
    /// <param name="plan">The plan in force: its step keys are kept where the work is the same.</param>
    /// <param name="since">What was observed under that plan.</param>
    public static Replan From(RunGround ground, Plan plan, RunState state, IReadOnlyList<Observation> since)
    {
        var taken = since.Where(o => o.Rounds > 0).Select(o => o.StepKey).ToHashSet();
        var progress = ProgressOf(state, ground);
        var next = Planner.Plan(ground.Survey, progress, new PlanOptions(KeysOf: plan, TakenKeys: taken));
        return new Replan(next, progress, Differences(plan, next, since), [.. taken.Order(StringComparer.Ordinal)]);
    }

    /// <summary>Where a run stands, as the planner takes it: whole levels, what is hidden still, what must be asked again.</summary>
    public static Progress ProgressOf(RunState state, RunGround ground) =>
        new(
            state
                .Zones.Where(z => ground.Zone(z.Key) is not null)
                .OrderBy(z => z.Key, StringComparer.Ordinal)
                .ToDictionary(z => z.Key, z => ProgressOf(state, ground, ground.Zone(z.Key)!))
        );

    private static ZoneProgress ProgressOf(RunState state, RunGround ground, ZoneState z)
    {
        var run = state.Of(z.Zone.Id);
        var ends = Loops.Of(state, ground, z);
        var levels = new int?[Kinds.Count];
        var doubts = new Dictionary<int, Doubt>();
        for (var k = 0; k < Kinds.Residue; k++)
        {
            if (run.Beliefs[k] is not { } b)
            {
                continue;
            }

            var looked = run.Looked.Contains(k);
            levels[k] =
                !looked && z[k].Basis == Basis.Hidden && ground.Builder.PlannedLoad(z[k], z) == 0
                    ? null
                    : Ended(
                        run.LevelOf(ground, z, k),
                        b,
                        ground.Builder.TargetLoad(k, z),
                        ground.Builder.TargetLevel(k, z),
                        ends.FirstOrDefault(e => run.Work.GetValueOrDefault(k) is { } w && e.Work with { Looked = w.Looked } == w)
                    );
            if (ground.Builder.TargetLoad(k, z) is { } target)
            {
                var over = 1 - b.AtMost(target);
                doubts[k] = new Doubt(over, over > 0.001 ? b.Quantile(1 - (over / 2)) : target);
            }
        }

        levels[Kinds.Residue] = run.LevelOf(ground, z, Kinds.Residue);
        return new ZoneProgress(
            levels,
            run.From,
            run.Left,
            run.Rounds,
            run.Looked,
            run.Again.ToDictionary(a => a.Key, a => a.Value.Because)
        )
        {
            UsedMl = run.UsedMl,
            Doubts = doubts,
            Speaks = SpeaksOf(run, ground),
        };
    }

    /// <summary>Kinds that a look which must be made again speaks of.</summary>
    private static Dictionary<string, int> SpeaksOf(ZoneRun run, RunGround ground) =>
        run
            .Again.Values.Select(a => (a.Observe, Sense: Sense.Of(a.Observe, a.Stage, ground.Catalogue)))
            .Where(a => a.Sense?.Speaks(null) is { Count: > 0 })
            .ToDictionary(a => a.Observe, a => a.Sense!.Speaks(null)[0]);

    /// <summary>Near the target the loop decides: ended counts as on it, "one more" as short of it by what must be expected.</summary>
    private static int Ended(int level, LoadBelief b, double? targetLoad, int target, LoopEnd? end)
    {
        if (targetLoad is not { } load || end is null)
        {
            return level;
        }

        var shortBy = (int)Math.Ceiling(b.Over(load) * Levels.PerDecade);
        return end.Again ? Math.Min(level, target - Math.Max(1, shortBy))
            : level < target - NearTarget ? level
            : end.AtCap && end.Round < end.Stop ? Math.Min(Math.Max(level, target - shortBy), target)
            : Math.Max(level, target);
    }

    /// <summary>A tenth of a decade short of a target counts as on it when a loop ends; levels.</summary>
    private static int NearTarget => (int)Math.Round(Levels.PerDecade * Math.Log10(Catalogue.Default["near-target"]));

    /// <summary>What the new plan does otherwise than what the old one still had to do, zone by zone, gathered by stage.</summary>
    public static IReadOnlyList<Change> Differences(Plan before, Plan after, IReadOnlyList<Observation> done)
    {
        var was = Work(before);
        foreach (var o in done.Where(o => o.Rounds > 0))
        {
            var step = before.Steps.FirstOrDefault(s => s.Key == o.StepKey);
            foreach (var zone in step is null ? [] : o.Zones)
            {
                foreach (var earlier in before.Steps.TakeWhile(s => s.Key != step!.Key).Append(step!).Where(s => s.Zones.Contains(zone)))
                {
                    was.Remove((earlier.Stage, earlier.Treatment, zone));
                }
            }
        }

        var now = Work(after);
        var lines = new List<Line>();
        foreach (var key in was.Keys.Union(now.Keys).Where(k => k.Stage != Stage.Dry))
        {
            var (a, b) = (was.GetValueOrDefault(key), now.GetValueOrDefault(key));
            if (a != b)
            {
                lines.Add(new Line(key.Stage, key.Treatment, key.Zone, a, b));
            }
        }

        // One way of working in the place of another on a zone is one change, not two.
        foreach (var at in lines.GroupBy(l => (l.Stage, l.Zone)).Where(g => g.Count() == 2).ToArray())
        {
            if (at.FirstOrDefault(l => l.Now is null) is { } gone && at.FirstOrDefault(l => l.Was is null) is { } comes)
            {
                lines.Remove(gone);
                lines.Remove(comes);
                lines.Add(comes with { Was = gone.Was });
            }
        }

        // What will stay, and did not before, is a difference though nothing more is done.
        var stayed = before.Refer.SelectMany(r => r.Zones.Select(z => (r.What, z))).ToHashSet();
        var stays = after
            .Refer.SelectMany(r => r.Zones.Where(z => !stayed.Contains((r.What, z))).Select(z => (r.What, Zone: z)))
            .GroupBy(x => x.What)
            .Select(g => new Change(
                "other",
                null,
                g.Key,
                $"stays: {g.Key.Replace('-', ' ')}",
                g.Select(x => x.Zone).Order(StringComparer.Ordinal).ToArray()
            ));
        return lines
            .GroupBy(l => (l.Kind, l.Stage, l.Treatment, l.Words))
            .Select(g => new Change(
                g.Key.Kind,
                g.Key.Stage,
                g.Key.Treatment,
                g.Key.Words,
                g.Select(l => l.Zone).Order(StringComparer.Ordinal).ToArray()
            ))
            .Concat(stays)
            .OrderBy(x => Array.IndexOf(Order, x.Kind))
            .ThenByDescending(x => x.Zones.Count)
            .ToArray();
    }

    /// <summary>What is more work is said first, then what is other work, then what falls away.</summary>
    private static readonly string[] Order = ["more", "other", "less"];

    /// <summary>How a zone is worked in one way: how often, with what.</summary>
    private sealed record How(string Name, int Rounds, string With);

    /// <summary>What was to be done on a zone in a stage, and what is now.</summary>
    private sealed record Line(Stage Stage, string Treatment, string Zone, How? Was, How? Now)
    {
        public string Kind =>
            (Was, Now) switch
            {
                (null, _) => "more",
                (_, null) => "less",
                var (a, b) when a!.Name != b!.Name || a.Rounds == b.Rounds => "other",
                var (a, b) => b!.Rounds > a!.Rounds ? "more" : "less",
            };

        public string Words =>
            (Was, Now) switch
            {
                (null, { } b) => $"+{b.Rounds} {(b.Rounds == 1 ? "round" : "rounds")}: {b.Name}",
                ({ } a, null) => $"no more: {a.Name}",
                var (a, b) when a!.Name != b!.Name => $"{a.Name} → {b.Name}{(b.Rounds > 1 ? $" ×{b.Rounds}" : "")}",
                var (a, b) => a!.Rounds == b!.Rounds ? $"{b.Name}: {a.With} → {b.With}" : $"{b.Name}: {a.Rounds} → {b.Rounds} rounds",
            };
    }

    private static Dictionary<(Stage Stage, string Treatment, string Zone), How> Work(Plan p) =>
        p
            .Steps.SelectMany(s => s.Zones.Select(z => (Key: (s.Stage, s.Treatment, z), Step: s)))
            .GroupBy(x => x.Key)
            .ToDictionary(
                g => g.Key,
                g => new How(
                    g.First().Step.Name,
                    g.Sum(x => x.Step.RoundsOn(g.Key.z)),
                    $"{g.First().Step.Bottle ?? g.First().Step.AgentName} {g.First().Step.Strength}"
                )
            );
}
