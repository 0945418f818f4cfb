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
    /// <param name="observations">In the order they were made; repeated ids count once. Each batch speaks of the plan made after the one before.</param>
    public static Replan From(Survey survey, Plan plan, IReadOnlyList<Observation> observations)
    {
        var c = Planner.CatalogueFor(survey);
        var states = ZoneState.FromSurvey(survey, Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size), c);
        var graph = StageGraph.For(survey, c);
        var builder = new ProblemBuilder(survey, states, graph, c);
        var folds = states.ToDictionary(z => z.Zone.Id, z => new Fold(z, graph, builder, c));
        var taken = new HashSet<string>();
        var progress = Progress.None;
        IReadOnlyList<Change> changes = [];
        foreach (var batch in observations.DistinctBy(o => o.Id).GroupBy(o => o.Batch))
        {
            foreach (var id in batch.SelectMany(o => o.Zones).Distinct().Where(folds.ContainsKey))
            {
                folds[id].Take(plan, batch.Where(o => o.Zones.Contains(id)).ToArray());
            }

            taken.UnionWith(batch.Where(o => o.Rounds > 0).Select(o => o.StepKey));
            progress = new Progress(folds.Where(f => f.Value.Touched).ToDictionary(f => f.Key, f => f.Value.Now()));
            var next = Planner.Plan(survey, progress, new PlanOptions(KeysOf: plan, TakenKeys: taken));
            changes = Differences(plan, next, batch.ToArray());
            plan = next;
        }

        return new Replan(plan, progress, changes, [.. taken.Order(StringComparer.Ordinal)]);
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

    /// <summary>What is known of one zone as the run goes on.</summary>
    private sealed class Fold
    {
        private readonly ZoneState z;
        private readonly StageGraph graph;
        private readonly ProblemBuilder builder;
        private readonly Catalogue c;
        private readonly LoadBelief?[] _beliefs = new LoadBelief?[Kinds.Count];
        private readonly Dictionary<string, int> _rounds = [];
        private readonly Dictionary<string, double> _usedMl = [];
        private readonly HashSet<int> _looked = [];
        private readonly Dictionary<string, string> _askAgain = [];
        private readonly int[] _levels = new int[Kinds.Count];
        private Left _left;
        private int _from;

        public Fold(ZoneState state, StageGraph stages, ProblemBuilder problems, Catalogue catalogue)
        {
            (z, graph, builder, c) = (state, stages, problems, catalogue);
            var start = builder.Build(z, null, null).Problem.Start;
            for (var k = 0; k < Kinds.Count; k++)
            {
                _levels[k] = start[k];
                if (k < Kinds.Residue && z[k] is { Basis: not (Basis.Nil or Basis.LookedNone) } b)
                {
                    _beliefs[k] = b.Basis == Basis.Hidden && builder.PlannedLoad(b, z) == 0
                        ? LoadBelief.LogNormal(b.Prior!.Load, b.Sigma, 1 - b.Probability)
                        : LoadBelief.LogNormal(builder.PlannedLoad(b, z), b.Sigma);
                }
            }
        }

        public bool Touched { get; private set; }

        /// <summary>Takes in what was done and seen in one batch. A step that was done implies the zone's earlier steps of that plan.</summary>
        public void Take(Plan plan, IReadOnlyList<Observation> observations)
        {
            Touched = true;
            var keys = plan.Steps.Select(s => s.Key).ToList();
            var last = observations.Where(o => o.Rounds > 0).Select(o => keys.IndexOf(o.StepKey)).DefaultIfEmpty(-1).Max();
            for (var i = 0; i <= last; i++)
            {
                var step = plan.Steps[i];
                if (!step.Zones.Contains(z.Zone.Id) || step.Stage == "dry")
                {
                    continue;
                }

                var said = observations.Where(o => o.StepKey == step.Key).ToArray();
                Do(step, said.Length > 0 ? said.Max(o => o.Rounds) : step.Rounds);
                foreach (var o in said)
                {
                    See(o);
                }
            }

            foreach (var o in observations.Where(o => o.Rounds == 0))
            {
                See(o);
            }
        }

        public ZoneProgress Now()
        {
            var levels = new int?[Kinds.Count];
            for (var k = 0; k < Kinds.Count; k++)
            {
                levels[k] = z.Beliefs.ElementAtOrDefault(k) is { Basis: Basis.Hidden } && !_looked.Contains(k) && _levels[k] == Levels.Nil ? null : _levels[k];
            }

            return new ZoneProgress(levels, _from, _left, new Dictionary<string, int>(_rounds), new HashSet<int>(_looked), new Dictionary<string, string>(_askAgain)) { UsedMl = new Dictionary<string, double>(_usedMl) };
        }

        private void Do(Step step, int rounds)
        {
            if (rounds <= 0)
            {
                return;
            }

            var problem = builder.Build(z, new ZoneProgress([.. _levels.Select(l => (int?)l)], 0, _left, new Dictionary<string, int>(), _looked, _askAgain), null).Problem;

            var stage = problem.Stages.FirstOrDefault(s => c.Slots[s.Slot].Id == step.Slot);
            var option = stage?.Options.FirstOrDefault(o => c.Treatments[o.Treatment].Id == step.Treatment && c.Treatments[o.Treatment].Agent.Strengths[o.Strength] == step.Strength
                && o.UnderFoam == step.Under && (o.Seals < 0 ? null : c.Treatments[o.Seals].Agent.Id) == step.Over);
            _from = Math.Max(_from, graph.Position(step.Slot));
            _rounds[step.Treatment] = _rounds.GetValueOrDefault(step.Treatment) + rounds;
            if (option is null)
            {
                return;
            }

            var agent = c.Treatments[option.Treatment].Agent;
            if (!agent.IsWater)
            {
                _usedMl[agent.Id] = _usedMl.GetValueOrDefault(agent.Id) + rounds * ZoneWork.NeatPerRound(option, z, c);
            }

            Span<byte> levels = stackalloc byte[32];
            levels.Fill(Levels.Nil);
            for (var k = 0; k < Kinds.Count; k++)
            {
                levels[k] = (byte)_levels[k];
            }

            long cost = 0;
            for (var i = 0; i < rounds && problem.Apply(option with { Gate = null, Forbids = Left.None, Needs = Left.None }, levels, ref _left, ref cost, stage!.Demands(i + 1)); i++)
            {
                foreach (var e in option.Effects.Where(e => e.Kind != Kinds.Residue))
                {
                    _beliefs[e.Kind] = _beliefs[e.Kind]?.Shift(e.Levels, e.Floor).Widen(c["sigma-kinetics"]);
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
            _beliefs[kind] = belief.Observe(band.Above, band.AtMost, c["observation-slip"], c["model-doubt"]);
            _levels[kind] = _beliefs[kind]!.Median;
            _looked.Add(kind);
            _askAgain.Remove(o.Observe);
            if (o is { Observe: "foam", Result: "white" })
            {
                // White foam speaks for everything that would have coloured it.
                foreach (var also in new[] { "road-film", "mud", "grit", "oil-grease", "loose-dust" }.Select(id => c.Contaminant(id).Index).Append(kind))
                {
                    _beliefs[also] = _beliefs[also]?.Observe(-1, band.AtMost, c["observation-slip"], c["model-doubt"]);
                    _levels[also] = Math.Max(_levels[also], builder.TargetLevel(also, z.Family));
                }
            }
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
