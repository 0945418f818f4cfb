using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Running;

/// <summary>One line of what changed between two plans of the same job.</summary>
public sealed record Change(string Kind, string Stage, string Treatment, string Words, IReadOnlyList<string> Zones);

/// <summary>The plan from here on, and how it differs from what was still to do.</summary>
public sealed record Replan(Plan Plan, Progress Progress, IReadOnlyList<Change> Changes, IReadOnlyList<string> Done);

/// <summary>Folds what was done and seen into the state of every zone and plans again from there.</summary>
public static class Replanner
{
    /// <summary>Plans the rest of a job.</summary>
    /// <param name="observations">In the order they were made; repeated ids count once.</param>
    public static Replan From(Survey survey, Plan plan, IReadOnlyList<Observation> observations)
    {
        var c = Catalogue.Default;
        var unique = observations.DistinctBy(o => o.Id).ToArray();
        var progress = Fold(survey, plan, unique, c);
        var next = Planner.Plan(survey, progress, new PlanOptions(KeysOf: plan));
        var done = unique.Where(o => o.Rounds > 0).Select(o => o.StepKey).ToHashSet();
        return new Replan(next, progress, Differences(plan, next, unique), plan.Steps.Select(s => s.Key).Where(done.Contains).ToArray());
    }

    /// <summary>Where every zone stands after the observations.</summary>
    public static Progress Fold(Survey survey, Plan plan, IReadOnlyList<Observation> observations, Catalogue c)
    {
        var vehicle = Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size);
        var states = ZoneState.FromSurvey(survey, vehicle, c).ToDictionary(z => z.Zone.Id);
        var graph = StageGraph.For(survey, c);
        var builder = new ProblemBuilder(survey, [.. states.Values], graph, c);
        var zones = new Dictionary<string, ZoneProgress>();
        foreach (var id in observations.SelectMany(o => o.Zones).Distinct().Where(states.ContainsKey))
        {
            var mine = observations.Where(o => o.Zones.Contains(id)).ToArray();
            zones[id] = new Fold1(states[id], plan, graph, builder, c).Run(mine);
        }

        return new Progress(zones);
    }

    /// <summary>What the new plan does otherwise than what the old one still had to do, zone by zone, gathered by stage.</summary>
    public static IReadOnlyList<Change> Differences(Plan before, Plan after, IReadOnlyList<Observation> done)
    {
        var was = Rounds(before);
        foreach (var o in done.Where(o => o.Rounds > 0))
        {
            var step = before.Steps.FirstOrDefault(s => s.Key == o.StepKey);
            foreach (var zone in step is null ? [] : o.Zones)
            {
                foreach (var earlier in before.Steps.TakeWhile(s => s.Key != step!.Key).Append(step!).Where(s => s.Zones.Contains(zone)))
                {
                    was.Remove((earlier.Stage, earlier.Treatment, earlier.Name, zone));
                }
            }
        }

        var now = Rounds(after);
        var lines = new List<(string Kind, string Stage, string Treatment, string Words, string Zone)>();
        foreach (var key in was.Keys.Union(now.Keys))
        {
            var (stage, treatment, name, zone) = key;
            var a = was.GetValueOrDefault(key);
            var b = now.GetValueOrDefault(key);
            if (a == b)
            {
                continue;
            }

            var words = a == 0 ? $"+{b} {(b == 1 ? "round" : "rounds")}: {name}" : b == 0 ? $"no more: {name}" : $"{name}: {a} → {b} rounds";
            lines.Add((a == 0 || b > a ? "more" : "less", stage, treatment, words, zone));
        }

        return lines.Where(l => l.Stage != "dry").GroupBy(l => (l.Kind, l.Stage, l.Treatment, l.Words))
            .Select(g => new Change(g.Key.Kind, g.Key.Stage, g.Key.Treatment, g.Key.Words, g.Select(l => l.Zone).Order(StringComparer.Ordinal).ToArray()))
            .OrderBy(x => x.Kind, StringComparer.Ordinal).ThenByDescending(x => x.Zones.Count).ToArray();
    }

    private static Dictionary<(string Stage, string Treatment, string Name, string Zone), int> Rounds(Plan p) =>
        p.Steps.SelectMany(s => s.Zones.Select(z => (Key: (s.Stage, s.Treatment, s.Name, z), s.Rounds))).GroupBy(x => x.Key).ToDictionary(g => g.Key, g => g.Sum(x => x.Rounds));

    /// <summary>Folding on one zone.</summary>
    private sealed class Fold1(ZoneState z, Plan plan, StageGraph graph, ProblemBuilder builder, Catalogue c)
    {
        private readonly LoadBelief?[] _beliefs = new LoadBelief?[Kinds.Count];
        private readonly Dictionary<string, int> _rounds = [];
        private readonly HashSet<int> _looked = [];
        private readonly Dictionary<string, string> _askAgain = [];
        private readonly int[] _levels = new int[Kinds.Count];
        private Left _left;
        private int _from;

        public ZoneProgress Run(IReadOnlyList<Observation> observations)
        {
            var (problem, _) = builder.Build(z, null, null);
            for (var k = 0; k < Kinds.Count; k++)
            {
                _levels[k] = problem.Start[k];
                if (k < Kinds.Residue && z[k] is { Basis: not (Basis.Nil or Basis.LookedNone) } b)
                {
                    _beliefs[k] = b.Basis == Basis.Hidden && builder.PlannedLoad(b, z) == 0
                        ? LoadBelief.LogNormal(b.Prior!.Load, b.Sigma, 1 - b.Probability)
                        : LoadBelief.LogNormal(builder.PlannedLoad(b, z), b.Sigma);
                }
            }

            // A step that was done implies the zone's earlier steps, unless someone said otherwise.
            var last = observations.Where(o => o.Rounds > 0).Select(o => plan.Steps.ToList().FindIndex(s => s.Key == o.StepKey)).DefaultIfEmpty(-1).Max();
            for (var i = 0; i <= last; i++)
            {
                var step = plan.Steps[i];
                if (!step.Zones.Contains(z.Zone.Id) || step.Stage == "dry")
                {
                    continue;
                }

                var said = observations.Where(o => o.StepKey == step.Key).ToArray();
                var rounds = said.Length > 0 ? said.Max(o => o.Rounds) : step.Rounds;
                Do(problem, step, rounds);
                foreach (var o in said)
                {
                    See(o);
                }
            }

            foreach (var o in observations.Where(o => o.Rounds == 0))
            {
                See(o);
            }

            var levels = new int?[Kinds.Count];
            for (var k = 0; k < Kinds.Count; k++)
            {
                levels[k] = z.Beliefs.ElementAtOrDefault(k) is { Basis: Basis.Hidden } && !_looked.Contains(k) && _levels[k] == Levels.Nil ? null : _levels[k];
            }

            return new ZoneProgress(levels, _from, _left, _rounds, _looked, _askAgain);
        }

        private void Do(ZoneProblem problem, Step step, int rounds)
        {
            if (rounds <= 0)
            {
                return;
            }

            var stage = problem.Stages.FirstOrDefault(s => c.Slots[s.Slot].Id == step.Slot);
            var option = stage?.Options.FirstOrDefault(o => c.Treatments[o.Treatment].Id == step.Treatment && c.Treatments[o.Treatment].Agent.Strengths[o.Strength] == step.Strength);
            _from = Math.Max(_from, graph.Position(step.Slot));
            _rounds[step.Treatment] = _rounds.GetValueOrDefault(step.Treatment) + rounds;
            if (option is null)
            {
                return;
            }

            Span<byte> levels = stackalloc byte[32];
            levels.Fill(Levels.Nil);
            for (var k = 0; k < Kinds.Count; k++)
            {
                levels[k] = (byte)_levels[k];
            }

            long cost = 0;
            for (var i = 0; i < rounds && problem.Apply(option with { Gate = null, Forbids = Left.None }, levels, ref _left, ref cost); i++)
            {
                foreach (var e in option.Effects.Where(e => e.Kind != Kinds.Residue))
                {
                    _beliefs[e.Kind] = _beliefs[e.Kind]?.Shift(e.Levels, e.Floor);
                }
            }

            for (var k = 0; k < Kinds.Count; k++)
            {
                _levels[k] = levels[k];
            }
        }

        private void See(Observation o)
        {
            if (o.Observe is null || o.Result is null)
            {
                return;
            }

            if (o.Observe == "clayFace" && o.Result == "black-lumps")
            {
                BackToChemistry();
                return;
            }

            if (Observables.KindOf(o.Observe) is not { } kindId)
            {
                return;
            }

            var kind = c.Contaminant(kindId).Index;
            if (o.Result == "inconclusive" || LoadBelief.Band(o.Result, c) is not { } band)
            {
                _askAgain[o.Observe] = o.Because ?? "could not tell";
                return;
            }

            var belief = _beliefs[kind] ?? LoadBelief.LogNormal(Math.Sqrt(c["band-low"] * c["band-high"]), c["sigma-suspected"], 0.5);
            _beliefs[kind] = belief.Observe(band.Above, band.AtMost, c["observation-slip"]);
            _levels[kind] = _beliefs[kind]!.Median;
            _looked.Add(kind);
            _askAgain.Remove(o.Observe);
        }

        /// <summary>Black lumps in the clay: chemistry missed tar or iron there. The zone goes back to it.</summary>
        private void BackToChemistry()
        {
            foreach (var id in new[] { "tar", "iron" })
            {
                var kind = c.Contaminant(id);
                if (kind.CanSitOn(z.Family))
                {
                    _levels[kind.Index] = Math.Min(_levels[kind.Index], Levels.Of(c["grade-2"]));
                    _looked.Add(kind.Index);
                }
            }

            _from = Math.Min(graph.Position("tar"), graph.Position("iron"));
            _rounds.Remove("tar-spot");
            _rounds.Remove("re-wash");
        }
    }
}
