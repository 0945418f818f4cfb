using System.Collections.Immutable;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Conditions;
using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;
using ToughStart.Core.Surfaces;

namespace ToughStart.Core.Planning;

/// <summary>Turns a zone's state into the integers of the search, and remembers what was refused on the way and why.</summary>
public sealed partial class ProblemBuilder
{
    private readonly Survey _survey;

    private readonly Leaning _lean;

    private IReadOnlyDictionary<string, double> _scarce = new Dictionary<string, double>();

    private readonly Catalogue _c;

    private readonly StageGraph _graph;

    private readonly Limits _limits;

    private Dictionary<string, int> _products = [];

    private List<long> _setUp = [];

    private readonly int _protection;

    private readonly int _film;

    /// <summary>Is most of the paint matte?</summary>
    private readonly bool _matte;

    private readonly LoadLimit _mobile;

    private readonly LoadLimit _mobileNoBug;

    private readonly ImmutableArray<(int Kind, int Weight)> _clayDrags;

    private readonly Treatment[][] _bySlot;

    private readonly Dictionary<string, Left> _forbids;

    private readonly bool _foamNeeded;

    /// <summary>Is there, as far as anybody knows, something on the paint that a stripping wash would take?</summary>
    private readonly bool _someProtection;

    private readonly (int Kind, double Weight)[] _foamWeights;

    public ProblemBuilder(Survey survey, IReadOnlyList<ZoneState> zones, StageGraph graph, Catalogue c)
    {
        _survey = survey;
        _lean = survey.Lean ?? Leaning.None;
        _c = c;
        _graph = graph;
        _limits = new Limits(survey, zones.ToDictionary(z => z.Zone.Id), c);
        _protection = c.Contaminant("old-protection").Index;
        _film = c.Contaminant("road-film").Index;
        _mobile = c.LoadLimit("touch");
        _mobileNoBug = c.LoadLimit("touch-no-bug");
        _clayDrags =
        [
            .. _mobile.Weights,
            (_c.Contaminant("bonded-mix").Index, Thousandths("clay-mar-bonded")),
            (_c.Contaminant("cement").Index, Thousandths("clay-mar-cement")),
            (_c.Contaminant("overspray").Index, Thousandths("clay-mar-overspray")),
        ];
        _bySlot = c.Slots.Select(s => c.Treatments.Where(t => t.Slots.Contains(s)).ToArray()).ToArray();
        var matrix = new Compatibility(c);
        _forbids = c.Agents.ToDictionary(a => a.Id, matrix.Forbids);
        var paint = zones.Where(z => z.Family == Family.Body).ToArray();
        _matte =
            paint.Where(z => z.Surface.Matte && z.SurfaceId != Surface.UnknownId).Sum(z => z.Zone.Area)
            >= c["matte-from"] * Math.Max(1e-9, paint.Sum(z => z.Zone.Area));
        WashMedium = ChooseWash(zones);
        _foamWeights =
        [
            (c.Contaminant("road-film").Index, 1),
            (c.Contaminant("grit").Index, 1),
            (c.Contaminant("mud").Index, 1),
            (c.Contaminant("loose-dust").Index, c["foam-for-dust"]),
        ];
        _foamNeeded = FoamNeeded(zones);
        _someProtection = zones.Any(z => z.Family == Family.Body && PlannedLoad(z[_protection], z) > 0);
    }

    public Limits Limits => _limits;

    /// <summary>Classes that run short of a job kept to its shelf; empty where nothing does.</summary>
    public IEnumerable<string> Scarce => _scarce.Keys;

    /// <summary>The wash medium of the job, and why it is not the house's own, if it is not.</summary>
    public (string Rule, string? Warning) WashMedium { get; }

    /// <summary>The search problem of a zone and a signature equal for equal problems.</summary>
    public (ZoneProblem Problem, string Signature) Build(
        ZoneState z,
        ZoneProgress? progress,
        List<Refused>? refusals,
        (int Kind, double Load)? presume = null,
        int[]? reached = null
    )
    {
        var start = new int[Kinds.Count];
        var target = new int[Kinds.Count];
        var layer = new int[Kinds.Count];
        Array.Fill(start, Levels.Nil);
        foreach (var kind in _c.Contaminants)
        {
            var b = z[kind.Index];
            layer[kind.Index] = kind.Layer;
            start[kind.Index] =
                kind.Index == presume?.Kind ? Levels.Of(presume.Value.Load) : progress?.Levels[kind.Index] ?? Levels.Of(PlannedLoad(b, z));
            target[kind.Index] = TargetLevel(kind.Index, z);
        }

        start[Kinds.Residue] = progress?.Levels[Kinds.Residue] ?? Levels.Nil;
        target[Kinds.Residue] = TargetLevel(Kinds.Residue, z);
        var asked = (int[])target.Clone();
        for (var k = 0; reached is not null && k < target.Length; k++)
        {
            // A leaning buys neither time nor care with dirt left behind, and does not clean further than asked of it before.
            target[k] = Math.Min(target[k], reached[k]);
        }

        var area = z.Zone.Area;
        var keep = Keeps(z) ? KeepCosts(z) : null;
        var strip = !Keeps(z) && target[_protection] > 0 && start[_protection] < Levels.Nil;
        var closed = _graph.Order.Select((slot, at) => progress is not null && at < progress.FromSlot && !Returns(slot)).ToArray();
        List<Option> Options(Slot slot, int at, bool wetting) =>
            closed[at] || z.LeftAlone ? [] : OptionsOf(slot, z, start, target, progress, wetting ? null : refusals, wetting);
        var options = _graph.Order.Select((slot, at) => Options(slot, at, false)).ToArray();
        // What has to be touched has to be wet first, and what is clean enough is left alone.
        if (
            options.Any(of => of.Any(o => o.Forbids.HasFlag(Left.Dry) || _c.Treatments[o.Treatment].Contact != Contact.None))
            && Enumerable.Range(0, Kinds.Residue).Any(k => start[k] < target[k])
        )
        {
            options = [.. _graph.Order.Select((slot, at) => IsWetting(slot) ? Options(slot, at, true) : options[at])];
        }

        var stages = _graph
            .Order.Select(
                (slot, at) =>
                    new StageOptions(
                        slot.Index,
                        options[at],
                        closed[at] || z.LeftAlone || Done(slot, progress) ? 0 : Demanded(slot, z),
                        slot.Id == Place.Foam ? Left.Wet : Left.None,
                        options[at].Any(o => o.Whole) && !Done(slot, progress)
                            ? Milli(_lean.Shortfall * _c["joins-price"] * Math.Max(z.Zone.Area, _c["joins-least-area"]))
                            : 0
                    )
            )
            .ToArray();
        var problem = new ZoneProblem
        {
            Stages = stages,
            Start = start,
            Target = target,
            Asked = asked,
            Layer = layer,
            ShortfallPerLevel = Milli(ShortfallPerDecade(z) / Levels.PerDecade),
            Keep = keep,
            Protection = _protection,
            LeftAtStart = StillWet(progress, stages) | DryAtStart(progress, stages),
            MustClear = strip ? Left.Filler : Left.None,
            LeftPenalty = Milli(_lean.Shortfall * _c["shortfall-price"] * area),
            ShieldFrom = (int)Math.Round(_c["shield-from"] * 1e6),
            NilAtLimit = FirstNil(_c["nil-abrasive"]),
        };
        return (problem, Signature(problem));
    }

    /// <summary>The same builder, passes and all, where classes that are short weigh more.</summary>
    /// <param name="scarce">Minutes of cost that a millilitre of a class weighs on top of its price.</param>
    public ProblemBuilder Charging(IReadOnlyDictionary<string, double> scarce)
    {
        var same = (ProblemBuilder)MemberwiseClone();
        (same._scarce, same._offers) = (scarce, new(ReferenceEqualityComparer.Instance));
        (same._products, same._setUp) = (new(_products), [.. _setUp]);
        (same._passOf, same._passes, same._groups) = (new(_passOf), [.. _passes], new(_groups));
        return same;
    }

    /// <summary>A problem built without charges, with those of this builder on it: the same as if it were built anew.</summary>
    public (ZoneProblem Problem, string Signature) Charged((ZoneProblem Problem, string Signature) free, ZoneState z)
    {
        long Charge(Option o) => ChargeOf(_c.Treatments[o.Treatment], o.Strength, z.Zone.Area * o.Scale, o.Laid);
        if (free.Problem.Stages.All(s => s.Options.All(o => Charge(o) == 0)))
        {
            return free;
        }

        var problem = free.Problem with
        {
            Stages =
            [
                .. free.Problem.Stages.Select(s => s with { Options = [.. s.Options.Select(o => o with { Cost = o.Cost + Charge(o) })] }),
            ],
        };
        return (problem, Signature(problem));
    }

    /// <summary>What a round is charged for taking of what is short, milli-minutes.</summary>
    private long ChargeOf(Treatment t, int strength, double area, double laid) =>
        _scarce.Count > 0
        && _limits.Poured(t, t.Agent.Strengths[strength]) is var poured
        && _scarce.TryGetValue(poured.Agent.Id, out var weight)
            ? Milli(weight * area * t.SolutionMl * poured.Strength.Value * laid)
            : 0;

    /// <summary>A zone without anything to choose: what <see cref="Round"/> needs to know of it.</summary>
    public ZoneProblem Ground(ZoneState z)
    {
        var kinds = Enumerable.Range(0, Kinds.Count).ToArray();
        return new ZoneProblem
        {
            Stages = [],
            Start = [.. kinds.Select(_ => Levels.Nil)],
            Target = [.. kinds.Select(k => TargetLevel(k, z))],
            Layer = [.. kinds.Select(k => k == Kinds.Residue ? 0 : _c.Contaminants[k].Layer)],
            ShortfallPerLevel = Milli(ShortfallPerDecade(z) / Levels.PerDecade),
            Keep = Keeps(z) ? KeepCosts(z) : null,
            Protection = _protection,
            ShieldFrom = (int)Math.Round(_c["shield-from"] * 1e6),
            NilAtLimit = FirstNil(_c["nil-abrasive"]),
        };
    }

    /// <summary>What a decade of dirt left on a zone costs, minutes.</summary>
    public double ShortfallPerDecade(ZoneState z) =>
        _lean.Shortfall * _c["shortfall-price"] * Math.Max(z.Zone.Area, _c["shortfall-least-area"]);

    /// <summary>
    /// The load a plan works on: found, or expected in plain sight, or covered by the shop's iron rule; hidden ones are tested first.
    /// </summary>
    public double PlannedLoad(Belief b, ZoneState z)
    {
        if (
            b.Basis == Basis.Hidden
            && b.Kind.Id == "iron"
            && b.Prior is { } prior
            && _survey.Rule("ironCoverage") is var rule
            && (rule == "all" || (rule == "low" && z.Zone.Bottom < _c["low-coverage"] && z.Zone.Tilt >= _c["iron-tilt"]))
            && (z.Family == Family.Body || z.Family == Family.Wheel)
        )
        {
            return prior.Load;
        }

        // Who always strips at the wash does not wait for a water test.
        if (
            b.Basis == Basis.Hidden
            && b.Kind.Index == _protection
            && b.Prior is { } unknown
            && z.Family == Family.Body
            && _survey.Rule("oldProtection") == "strip-at-wash"
        )
        {
            return unknown.Load;
        }

        return b.Load;
    }

    /// <summary>A load that is the target itself needs nothing, however the two are rounded: 0.6 % of a load.</summary>
    private const double OnTarget = 0.05;

    /// <summary>Level to reach: 0 when the goal asks nothing.</summary>
    public int TargetLevel(int kind, ZoneState z) => TargetLoad(kind, z) is { } load ? (int)Math.Ceiling(Levels.Exact(load) - OnTarget) : 0;

    /// <summary>Load to come down to; null when the goal asks nothing. "Always strip at the wash" asks it of every goal.</summary>
    public double? TargetLoad(int kind, ZoneState z)
    {
        if (z.LeftAlone)
        {
            return null;
        }

        var family = z.Family;
        var load = _c.Targets.Target(z.GoalIn(_survey), kind, family);
        if (
            family == Family.Tyre
            && _survey.Rule("tyres") is "satin" or "gloss"
            && (kind == _c.Contaminant("tyre-bloom").Index || kind == _c.Contaminant("road-film").Index)
        )
        {
            // A dressing holds on clean rubber only.
            return Math.Min(load ?? 1, _c["dressed-film"]);
        }

        if (LeavesToThePolish(kind, z) && load < z[kind].Load)
        {
            return z[kind].Load;
        }

        return kind == _protection && load is null && family == Family.Body && _survey.Rule("oldProtection") == "strip-at-wash"
            ? _c.Targets.Target(Goal.Correct, kind, family)
            : load;
    }

    /// <summary>
    /// A trace that only clay would take, on soft paint that nobody polishes: clay would mark it more than it helps, unless the house always clays.
    /// </summary>
    private bool LeavesToThePolish(int kind, ZoneState z) =>
        kind < Kinds.Residue
        && z.Family == Family.Body
        && z.GoalIn(_survey) != Goal.Correct
        && _survey.Rule("clay") != "always"
        && z[kind].Load <= _c["grade-1"]
        && IsSoft(z)
        && _c.Contaminants[kind].IsBonded;

    /// <summary>Does its paint mark more easily than plain clear coat?</summary>
    private bool IsSoft(ZoneState z) => z.Surface.Mar >= _c.Surface("clear-coat").Mar * _c["soft-from"];

    private bool Keeps(ZoneState z) =>
        _c.Targets.Keep(z.GoalIn(_survey), _protection, z.Family) && _survey.Rule("oldProtection") != "strip-at-wash";

    private long[] KeepCosts(ZoneState z)
    {
        var area = z.Zone.Area;
        var worth = z.GoalIn(_survey) == Goal.Wash ? _c["protection-wash"] : _c["protection-sale"];
        return Enumerable.Range(0, Levels.Nil + 1).Select(n => Milli(_lean.Harm * worth * area * Levels.LoadOf(n))).ToArray();
    }

    private long Demanded(Slot slot, ZoneState z)
    {
        var wanted =
            slot.Id == Place.Foam
                ? (_survey.Rule("foam") == "always" && z.Family.IsPaneling) || (_foamNeeded && z.Family.IsPaneling && Joins(z))
            : slot.Id == Place.Spray
                ? z.Family.IsPaneling
                    && Joins(z)
                    // Nobody lays foam on caked film and calls it a pre-wash; a house that puts chemistry first does so from less.
                    && z[_film].Load >= _c[_survey.Rule("firstLiquid") == "chemistry" ? "grade-2" : "grade-4"]
            : slot.Id == Place.Clay && _survey.Rule("clay") == "always" && z.GoalIn(_survey).GoesOn && z.Family == Family.Body;
        return wanted ? Milli(_lean.Shortfall * _c["skip-penalty"] * z.Zone.Area) : 0;
    }

    /// <summary>Has a zone had its round of a place already? Then nobody demands another.</summary>
    private bool Done(Slot slot, ZoneProgress? progress) =>
        progress is not null && _bySlot[slot.Index].Any(t => progress.RoundsUsed.GetValueOrDefault(t.Id) > 0);

    /// <summary>Nothing has wetted a zone before its first round; and where nothing can, whatever is allowed there brings its own water.</summary>
    private static Left DryAtStart(ZoneProgress? progress, StageOptions[] stages) =>
        progress is null or { FromSlot: 0, RoundsUsed.Count: 0 } && stages.Any(s => s.Options.Any(o => o.Clears.HasFlag(Left.Dry)))
            ? Left.Dry
            : Left.None;

    /// <summary>Is there so much film and grit on paint and glass that foam is wanted all over? One answer for the whole body.</summary>
    private bool FoamNeeded(IReadOnlyList<ZoneState> zones)
    {
        double Dirt(ZoneState z) => _foamWeights.Sum(w => w.Weight * z[w.Kind].Load);
        var paint = zones.Where(z => z.Zone.Block == Vehicles.Block.Body && z.Family.IsPaneling && Joins(z)).ToArray();
        return _survey.Rule("foam") == "when-needed"
            && paint.Length > 0
            && paint.Sum(z => z.Zone.Area * Dirt(z)) / paint.Sum(z => z.Zone.Area) >= _c["foam-from"];
    }

    private static int FloorLevel(double floor) => Levels.Of(floor);

    private static long Milli(double minutes) => (long)Math.Round(minutes * 1000);

    private static int FirstNil(double load)
    {
        var n = 0;
        while (Levels.LoadOf(n) >= load)
        {
            n++;
        }

        return n;
    }

    /// <summary>
    /// 128 bits over everything the search reads: equal problems have equal signatures, unequal ones for all purposes never.
    /// </summary>
    internal static string Signature(ZoneProblem p)
    {
        ulong a = 0xcbf29ce484222325,
            b = 0x9E3779B97F4A7C15;
        void Take(long value)
        {
            a = (a ^ (ulong)value) * 0x100000001b3;
            a ^= a >> 29;
            b = (b + (ulong)value) * 0xBF58476D1CE4E5B9;
            b ^= b >> 31;
        }

        for (var k = 0; k < Kinds.Count; k++)
        {
            Take(p.Start[k]);
            Take(p.Target[k]);
        }

        Take(p.ShortfallPerLevel);
        Take(p.LeftPenalty);
        Take((int)p.MustClear);
        Take((int)p.LeftAtStart);
        Take(p.Keep is null ? -1 : p.Keep[0]);
        foreach (var stage in p.Stages)
        {
            Take(-7);
            Take(stage.SkipCost);
            Take(stage.Joins);
            foreach (var o in stage.Options)
            {
                Take(o.Treatment);
                Take(o.Strength);
                Take(o.MaxRounds);
                Take(o.Cost);
                Take(o.Marring);
                Take(o.Pass);
                Take((long)o.Clears << 32 | (uint)o.Forbids);
                Take(o.AddsResidue);
                Take(o.Film == "thick-foam" ? 1 : 0);
                Take((long)o.Leaves << 32 | (uint)o.Needs);
                foreach (var e in o.Effects)
                {
                    Take(e.Kind);
                    Take(e.Levels);
                }
            }
        }

        return $"{a:x16}{b:x16}";
    }
}
