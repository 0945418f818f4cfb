using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Running;

namespace ToughStart.Core.Costing;

/// <summary>The plan as flat lists, so that working it once costs microseconds.</summary>
internal sealed partial class Replay
{
    private readonly Catalogue _c;
    private readonly ZoneRun[] _zones;
    private readonly StepRun[] _steps;
    private readonly int[] _groups;
    private readonly Fresh[] _fresh;
    private readonly Stage[] _stages = [.. Stage.All];
    private readonly ulong[] _stageNames;
    private readonly CrewClock _clock;
    private readonly int _crew,
        _mostTests,
        _mostCaps;
    private readonly double _testMinutes,
        _presenceKind,
        _presenceZone,
        _loadShared,
        _loadKind,
        _loadOwn,
        _sure,
        _bandLow;
    private readonly ulong[] _agents;
    private readonly int[] _evenAgents;
    private readonly int[] _evenLoads = new int[Kinds.Count];
    private readonly int[] _evenPresence = new int[Kinds.Count];

    private static readonly ulong[] KindNames =
    [
        .. Enumerable
            .Range(0, Kinds.Count)
            .Select(k => DrawNumbers.Name("kind", k == Kinds.Residue ? "residue" : Catalogue.Default.Contaminants[k].Id)),
    ];

    /// <summary>A step: minutes that do not hang on rounds.</summary>
    private readonly record struct StepRun(double Fixed, int Stage);

    /// <summary>What is got ready only where a test finds something.</summary>
    private readonly record struct Fresh(double Minutes, int Stage);

    /// <summary>A kind on a zone.</summary>
    /// <param name="Start">Level it most likely has.</param>
    /// <param name="Spread">Of it, levels.</param>
    /// <param name="Hidden">Nobody has seen it: there only where it is drawn.</param>
    private readonly record struct KindRun(int Kind, double Start, double Spread, double Presence, bool Hidden, int Layer, ulong Name)
    {
        /// <summary>Normal numbers below this mean that it is there.</summary>
        public double Threshold { get; } = Presence >= 1 ? double.PositiveInfinity : DrawNumbers.Quantile(Presence);
    }

    private enum OpKind
    {
        Test,
        Deed,
        Extra,
    }

    /// <summary>What is done on a zone: a deed of the plan, a test, or what a test adds.</summary>
    private sealed record OpRun(OpKind Of, double Place, ulong Name)
    {
        /// <summary>Position of its step; −1 = it is in none.</summary>
        public int Step { get; init; } = -1;
        public int Stage { get; init; }
        public int Agent { get; init; }

        public int Rounds { get; set; }

        /// <summary>Rounds before anybody looks, and the cap.</summary>
        public int Least { get; set; } = 1;
        public int Most { get; init; }
        public double Minutes { get; init; }
        public double Litres { get; init; }
        public double SolutionMl { get; init; }
        public double Ml { get; init; }
        public double Cost { get; init; }
        public bool Contained { get; init; }
        public int Fresh { get; init; } = -1;
        public (int At, double Levels, double Floor)[] Effects { get; init; } = [];

        /// <summary>Kinds its look speaks of, and for every level the chance that the answer ends it.</summary>
        public (int At, double[] Stops)[] Looks { get; set; } = [];

        /// <summary>Kinds that grate under a cloth, by weight; null = the look is of loads.</summary>
        public (int At, double Weight)[]? Grit { get; set; }

        /// <summary>By how much of ln(load) the hand scatters.</summary>
        public double Sharp { get; set; }
        public bool Loops => Looks.Length > 0 || Grit is not null;

        /// <summary>
        /// A test: its group of hidden kinds, its number on the zone, the kind it is about, and the chance of a positive answer by level,
        /// or at all.
        /// </summary>
        public int Group { get; init; }
        public int Test { get; init; }
        public int Speaks { get; init; }
        public double[]? Positive { get; init; }
        public double Chance { get; init; }

        /// <summary>Tests of which one has to be positive, and the group each belongs to.</summary>
        public (int Test, int Group)[] Needs { get; set; } = [];

        /// <summary>Loops of which one has to run out.</summary>
        public int[] Caps { get; set; } = [];

        /// <summary>Number of the loop on its zone, where something is done when it runs out; −1 = nothing is.</summary>
        public int Cap { get; set; } = -1;
    }

    private sealed record ZoneRun(KindRun[] Kinds, OpRun[] Ops, double ShieldFrom)
    {
        public int Tests { get; init; }
    }

    /// <param name="made">Of each group of hidden kinds: is its test made?</param>
    public Replay(
        Survey survey,
        IReadOnlyList<Step> steps,
        IReadOnlyList<ZoneWork> work,
        IReadOnlyList<HiddenGroup> hidden,
        IReadOnlyList<bool> made,
        IReadOnlyList<CapBranch> caps,
        ProblemBuilder builder,
        StageGraph graph,
        Catalogue c
    )
    {
        (_c, _crew, _clock) = (c, Math.Max(1, survey.Crew), new CrewClock(steps, survey.Crew));
        _stageNames = [.. _stages.Select(s => DrawNumbers.Name("stage", s.ToString()))];
        (_presenceKind, _presenceZone) = (Math.Sqrt(c["presence-kind"]), Math.Sqrt(1 - c["presence-kind"]));
        (_loadShared, _loadKind) = (Math.Sqrt(c["load-vehicle"]), Math.Sqrt(c["load-kind"]));
        _loadOwn = Math.Sqrt(1 - c["load-vehicle"] - c["load-kind"]);
        (_sure, _bandLow) = (1 - c["look-slip"], c["band-low"]);
        _steps =
        [
            .. steps.Select(s => new StepRun(
                s.Stage == Stage.Dry ? s.LabourMinutes.Value : s.SetUpMinutes.Value + s.OpenMinutes.Value,
                StageAt(s.Stage)
            )),
        ];
        _groups = [.. hidden.Select(g => g.Kind.Index)];
        _testMinutes = hidden.Where((_, g) => made[g]).Sum(g => TestWorth.Minutes(g.Branches.Count, c));
        var compiler = new Compiler(this, steps, builder, graph);
        var branches = hidden
            .SelectMany((g, i) => made[i] ? g.Branches.Select(b => new Open(i, g, b)) : [])
            .ToLookup(x => x.Branch.State.Zone.Id);
        var ends = caps.ToLookup(x => x.State.Zone.Id);
        _zones =
        [
            .. work.Select(w => compiler.Zone(w, [.. branches[w.State.Zone.Id]], [.. ends[w.State.Zone.Id]])).Where(z => z.Ops.Length > 0),
        ];
        _mostCaps = ends.Select(e => e.Count()).DefaultIfEmpty(0).Max();
        _mostTests = _zones.Select(z => z.Tests).DefaultIfEmpty(0).Max();
        (_fresh, _agents) = ([.. compiler.Fresh], [.. compiler.Agents.Select(a => DrawNumbers.Name("agent", a))]);
        _evenAgents = new int[_agents.Length];
        GiveOut();
    }

    /// <summary>
    /// Gives the even factors that are left to what most minutes hang on: products, kinds found and kinds hidden, the same number of
    /// each.
    /// </summary>
    private void GiveOut()
    {
        var (agents, loads, presence) = (new double[_agents.Length], new double[Kinds.Count], new double[Kinds.Count]);
        foreach (var zone in _zones)
        {
            foreach (var op in zone.Ops)
            {
                if (op.Of == OpKind.Test)
                {
                    presence[_groups[op.Group]] += op.Chance;
                }
                else if (op.Loops)
                {
                    agents[op.Agent] += op.Minutes;
                    foreach (var e in op.Effects)
                    {
                        loads[zone.Kinds[e.At].Kind] += op.Minutes;
                    }
                }
            }
        }

        var each = (DrawNumbers.Shared - DrawNumbers.FirstFree) / 3;
        var next = DrawNumbers.FirstFree;
        foreach (var (weights, even) in new[] { (agents, _evenAgents), (loads, _evenLoads), (presence, _evenPresence) })
        {
            foreach (var at in weights.Select((w, i) => (w, i)).Where(x => x.w > 0).OrderByDescending(x => x.w).ThenBy(x => x.i).Take(each))
            {
                even[at.i] = next++;
            }
        }
    }

    private int StageAt(Stage stage) => Array.IndexOf(_stages, stage);

    /// <summary>A hidden kind on a zone whose test is made.</summary>
    private readonly record struct Open(int Group, HiddenGroup Of, HiddenBranch Branch);

    private sealed class Compiler(Replay r, IReadOnlyList<Step> steps, ProblemBuilder builder, StageGraph graph)
    {
        private readonly Dictionary<(int, int), int> _freshAt = [];
        public List<Fresh> Fresh { get; } = [];
        public List<string> Agents { get; } = [];

        public ZoneRun Zone(ZoneWork w, Open[] open, CapBranch[] caps)
        {
            var kinds = KindsOf(w, open);
            var ops = w.Deeds.Select(d => Planned(d, w, open, kinds)).ToList();
            var tests = 0;
            foreach (var o in open)
            {
                var goes = ops.Where(x => x.Of == OpKind.Deed && x.Looks.Any(l => kinds[l.At].Kind == o.Of.Kind.Index))
                    .Select(x => x.Name)
                    .ToHashSet();
                // What goes on until the look says clean needs nothing added to it.
                Deed[] extras = [.. o.Branch.Extra.Where(d => !goes.Contains(NameOf(d, w)))];
                if (extras.Length > 0)
                {
                    Add(o, extras, w, kinds, ops, tests++);
                }
            }

            for (var n = 0; n < caps.Length; n++)
            {
                ops.First(x => x.Name == NameOf(caps[n].Loop, w)).Cap = n;
                Add(caps[n], n, w, kinds, ops);
            }

            return new([.. kinds], [.. ops.OrderBy(o => o.Place).ThenBy(o => o.Of)], w.Problem.ShieldFrom / 1e6) { Tests = tests };
        }

        private List<KindRun> KindsOf(ZoneWork w, Open[] open)
        {
            var list = new List<KindRun>();
            for (var k = 0; k < Kinds.Count; k++)
            {
                var b = k < Kinds.Residue ? w.State[k] : null;
                if (w.Problem.Start[k] < Levels.Nil)
                {
                    var spread = b is null ? 0 : Math.Max(b.Sigma, r._c["sigma-measured"]) * PerLn;
                    var presence = b?.Basis == Basis.Expected ? b.Probability : 1;
                    list.Add(new(k, w.Problem.Start[k], spread, presence, false, w.Problem.Layer[k], Name(w, k)));
                }
                else if (open.FirstOrDefault(o => o.Of.Kind.Index == k && o.Branch.Load > 0) is { Branch: { } hidden })
                {
                    var layer = k == Kinds.Residue ? 0 : r._c.Contaminants[k].Layer;
                    list.Add(
                        new(k, Levels.Exact(hidden.Load), r._c["sigma-suspected"] * PerLn, hidden.Probability, true, layer, Name(w, k))
                    );
                }
            }

            return list;
        }

        private OpRun Planned(Deed d, ZoneWork w, Open[] open, List<KindRun> kinds)
        {
            var at = IndexOf(d, w.State.Zone.Id);
            var hits = open.Where(o => o.Branch.Load > 0 && w.Problem.Start[o.Of.Kind.Index] >= Levels.Nil)
                .SelectMany(o => InBranch(o.Branch, d)?.Effects.Where(e => e.Kind == o.Of.Kind.Index) ?? []);
            var op = Make(OpKind.Deed, d, w, at, steps[at].Stage) with { Effects = Effects(d.Option.Effects.Concat(hits), kinds) };
            Looking(op, steps[at].Until, steps[at].Stage, w.Problem.Target, kinds);
            return op;
        }

        private void Add(Open o, Deed[] extras, ZoneWork w, List<KindRun> kinds, List<OpRun> ops, int test)
        {
            var sense = o.Branch.Load > 0 ? Sense.Of(o.Of.Test, null, r._c) : null;
            var speaks = kinds.FindIndex(k => k.Kind == o.Of.Kind.Index);
            ops.Add(
                new(
                    OpKind.Test,
                    extras.Min(d => graph.Position(d.Slot.Id)) - 0.5,
                    DrawNumbers.Name("test", o.Of.Test, w.State.Zone.Id, o.Of.Kind.Id)
                )
                {
                    Test = test,
                    Group = o.Group,
                    Speaks = speaks,
                    Positive = sense is null || speaks < 0 ? null : [.. sense.Likelihood(0).Select(l => 1 - l)],
                    Chance = o.Branch.Probability,
                }
            );
            foreach (var d in extras)
            {
                var op = Extra(d, w, kinds, ops, o.Branch.Then.Problem.Target);
                op.Needs = [.. op.Needs, (test, o.Group)];
            }
        }

        /// <summary>What comes later where a loop runs out; what goes on until the look says clean needs nothing added to it.</summary>
        private void Add(CapBranch cap, int at, ZoneWork w, List<KindRun> kinds, List<OpRun> ops)
        {
            foreach (var d in cap.Extra)
            {
                if (!ops.Any(x => x is { Of: OpKind.Deed, Loops: true } && x.Name == NameOf(d, w)))
                {
                    var op = Extra(d, w, kinds, ops, cap.Then.Problem.Target);
                    op.Caps = [.. op.Caps, at];
                }
            }
        }

        /// <summary>Work beside the plan's own, once however many ask for it.</summary>
        private OpRun Extra(Deed d, ZoneWork w, List<KindRun> kinds, List<OpRun> ops, int[] targets)
        {
            var name = NameOf(d, w);
            var place = graph.Position(d.Slot.Id);
            var planned = ops.FirstOrDefault(x => x.Of == OpKind.Deed && x.Name == name && x.Place == place);
            var rounds = planned is null ? d.Rounds : Math.Max(1, d.Rounds - planned.Rounds);
            if (ops.FirstOrDefault(x => x.Of == OpKind.Extra && x.Name == name && x.Place == place) is { } same)
            {
                same.Rounds = Math.Max(same.Rounds, rounds);
                return same;
            }

            var stage = Slot.StageOn(d.Slot, w.State.Family);
            var op = Make(OpKind.Extra, d, w, -1, stage) with
            {
                Rounds = rounds,
                Fresh = planned is null ? Ready(d, stage) : -1,
                Effects = Effects(d.Option.Effects, kinds),
            };
            Looking(op, Observables.Of(stage, d.Treatment, r._c), stage, targets, kinds);
            ops.Add(op);
            return op;
        }

        /// <summary>What a planned deed is in the plan that knows of the hidden kind; null = it is not there.</summary>
        private static Option? InBranch(HiddenBranch b, Deed d) =>
            b
                .Then.Problem.Stages.Where(s => s.Slot == d.Slot.Index)
                .SelectMany(s => s.Options)
                .FirstOrDefault(o =>
                    o.Treatment == d.Option.Treatment && o.Strength == d.Option.Strength && o.UnderFoam == d.Option.UnderFoam
                );

        private static (int, double, double)[] Effects(IEnumerable<Effect> effects, List<KindRun> kinds) =>
            [.. effects.Select(e => (At: kinds.FindIndex(k => k.Kind == e.Kind), (double)e.Levels, (double)e.Floor)).Where(e => e.At >= 0)];

        /// <summary>What ends its rounds: nothing, the grit under a cloth, or the loads a look speaks of.</summary>
        private void Looking(OpRun op, Until? until, Stage stage, int[] targets, List<KindRun> kinds)
        {
            if (until is null || op.Most <= 1 || Sense.Of(until.Observe, stage, r._c) is not { } sense)
            {
                return;
            }

            if (sense.Kind == SenseKind.Wipe)
            {
                op.Grit = [.. sense.Grit.Select(g => (At: kinds.FindIndex(k => k.Kind == g.Kind), g.Weight)).Where(g => g.At >= 0)];
                (op.Sharp, op.Least) = (sense.Spread, op.Rounds);
                return;
            }

            var about = op.Effects.OrderByDescending(e => e.Levels).Select(e => (int?)kinds[e.At].Kind).FirstOrDefault();
            op.Looks =
            [
                .. sense
                    .Speaks(about)
                    .Select(k => (At: kinds.FindIndex(x => x.Kind == k), Kind: k))
                    .Where(x => x.At >= 0)
                    .Select(x => (x.At, Stops(sense, targets[x.Kind]))),
            ];
        }

        /// <summary>Where little is asked, some left is as good as none.</summary>
        private double[] Stops(Sense sense, int target)
        {
            var low = sense.Likelihood(0);
            return sense.Kind == SenseKind.Bands && target <= Levels.Of(r._c["faint-does"])
                ? [.. low.Zip(sense.Likelihood(1), (a, b) => a + b)]
                : low;
        }

        private OpRun Make(OpKind of, Deed d, ZoneWork w, int step, Stage stage)
        {
            var litres = ZoneWork.Water(d, w.State) / d.Rounds;
            var waste = 1 + r._c["waste"];
            return new(of, graph.Position(d.Slot.Id), NameOf(d, w))
            {
                Step = step,
                Stage = r.StageAt(stage),
                Agent = AgentAt(d.Treatment.Agent.Id),
                Rounds = d.Rounds,
                Most = Math.Max(d.Rounds, d.Option.MaxRounds),
                Minutes = ZoneWork.LabourPerRound(d, w.State, r._c),
                Litres = litres,
                SolutionMl = ZoneWork.SolutionMl(d, w.State) / d.Rounds,
                Ml = ZoneWork.NeatMl(d, w.State, builder.Limits) * waste / d.Rounds,
                Cost = ZoneWork.Price(d, w.State, builder.Limits) * waste / d.Rounds,
                Contained = step >= 0 ? JobVolumes.IsContained(steps[step]) : JobVolumes.IsContained(d.Treatment.Agent),
            };
        }

        private int Ready(Deed d, Stage stage)
        {
            if (!_freshAt.TryGetValue((d.Treatment.Index, d.StrengthIndex), out var at))
            {
                at = _freshAt[(d.Treatment.Index, d.StrengthIndex)] = Fresh.Count;
                var mixed = steps.Any(s => s.Agent == d.Treatment.Agent.Id && s.Strength == d.Strength);
                var open = steps.Any(s => s.Treatment == d.Treatment.Id);
                Fresh.Add(
                    new((mixed ? 0 : d.Treatment.Agent.SetUp) + (open ? 0 : r._c["pass-open"] + r._c["clear-away"]), r.StageAt(stage))
                );
            }

            return at;
        }

        private int AgentAt(string agent)
        {
            var at = Agents.IndexOf(agent);
            if (at < 0)
            {
                at = Agents.Count;
                Agents.Add(agent);
            }

            return at;
        }

        private int IndexOf(Deed d, string zone)
        {
            for (var s = 0; s < steps.Count; s++)
            {
                if (
                    steps[s].Slot == d.Slot.Id
                    && steps[s].Treatment == d.Treatment.Id
                    && steps[s].Under == d.Option.UnderFoam
                    && steps[s].Zones.Contains(zone)
                )
                {
                    return s;
                }
            }

            throw new InvalidOperationException($"no step does {d.Treatment.Id} on {zone}");
        }

        private static ulong NameOf(Deed d, ZoneWork w) => DrawNumbers.Name("deed", w.State.Zone.Id, d.Slot.Id.ToString(), d.Treatment.Id);

        private static ulong Name(ZoneWork w, int kind) => KindNames[kind] ^ DrawNumbers.Name("zone", w.State.Zone.Id);

        /// <summary>Levels to a natural logarithm.</summary>
        private static readonly double PerLn = Levels.PerDecade / Math.Log(10);
    }
}
