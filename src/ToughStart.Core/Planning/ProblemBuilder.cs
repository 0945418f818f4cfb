using ToughStart.Core.Conditions;
using System.Collections.Immutable;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Planning;

/// <summary>Turns a zone's state into the integers of the search, and remembers what was refused on the way and why.</summary>
public sealed class ProblemBuilder
{
    private readonly Survey _survey;
    private readonly Leaning _lean;
    private readonly IReadOnlyDictionary<string, double> _scarce;
    private readonly Catalogue _c;
    private readonly StageGraph _graph;
    private readonly Limits _limits;
    private readonly Dictionary<string, int> _products = [];
    private readonly List<long> _setUp = [];
    private readonly int _protection;
    private readonly Gate _mobile;
    private readonly Gate _mobileNoBug;
    private readonly ImmutableArray<(int Kind, int Weight)> _clayDrags;
    private readonly Treatment[][] _bySlot;
    private readonly Dictionary<string, Left> _forbids;

    /// <param name="scarce">Minutes of cost that a millilitre of a class weighs on top of its price, where it is short.</param>
    public ProblemBuilder(Survey survey, IReadOnlyList<ZoneState> zones, StageGraph graph, Catalogue c, IReadOnlyDictionary<string, double>? scarce = null)
    {
        _scarce = scarce ?? new Dictionary<string, double>();
        _survey = survey;
        _lean = survey.Lean ?? Leaning.None;
        _c = c;
        _graph = graph;
        _limits = new Limits(survey, zones.ToDictionary(z => z.Zone.Id), c);
        _protection = c.Contaminant("old-protection").Index;
        _mobile = c.Gate("touch");
        _mobileNoBug = c.Gate("touch-no-bug");
        _clayDrags = [.. _mobile.Weights, (_c.Contaminant("bonded-mix").Index, Thousandths("clay-mar-bonded")), (_c.Contaminant("cement").Index, Thousandths("clay-mar-cement")), (_c.Contaminant("overspray").Index, Thousandths("clay-mar-overspray"))];
        _bySlot = c.Slots.Select(s => c.Treatments.Where(t => t.Slots.Contains(s)).ToArray()).ToArray();
        var matrix = new Compatibility(c);
        _forbids = c.Agents.ToDictionary(a => a.Id, matrix.Forbids);
        WashMedium = ChooseWash(zones);
    }

    public Limits Limits => _limits;

    /// <summary>Classes that run short of a job kept to its shelf; empty where nothing does.</summary>
    public IEnumerable<string> Scarce => _scarce.Keys;

    /// <summary>The wash medium of the job, and why it is not the house's own, if it is not.</summary>
    public (string Rule, string? Warning) WashMedium { get; }

    /// <summary>Products of these classes, a bit each.</summary>
    public UInt128 ProductsOf(IReadOnlySet<string> agents) => _products.Where(p => agents.Contains(p.Key.Split('@')[0])).Aggregate(UInt128.Zero, (m, p) => m | UInt128.One << p.Value);

    /// <summary>Set-up of every product, milli-minutes.</summary>
    public long[] SetUp => [.. _setUp];

    /// <summary>Minutes of making a treatment ready at a strength; 0 for water and for what stands mixed already.</summary>
    public double SetUpOf(Treatment t, ProductFraction strength) => _products.TryGetValue(Key(t, strength), out var index) ? SetUpWithout(null)[index] / 1000.0 / _lean.Time : 0;

    /// <summary>Set-ups, where what an earlier plan already mixes costs none: so that a re-plan does not turn over the rest.</summary>
    public long[] SetUpWithout(Plan? earlier)
    {
        var setUp = SetUp;
        foreach (var left in _survey.Kit?.Leftovers ?? [])
        {
            // What is mixed already needs no mixing: as much set-up as the bottle saves.
            foreach (var (key, index) in _products)
            {
                if (key.Split('@') is [var agent, var strength] && agent == left.Agent && left.IsOnPanel(_c.Agent(agent), double.Parse(strength, System.Globalization.CultureInfo.InvariantCulture), _survey.Kit, _c))
                {
                    setUp[index] = 0;
                }
            }
        }

        foreach (var step in earlier?.Steps ?? [])
        {
            if (step.Stage != "dry" && _products.TryGetValue(Key(_c.Treatment(step.Treatment), step.Strength), out var index))
            {
                setUp[index] = 0;
            }
        }

        return setUp;
    }

    /// <summary>The search problem of a zone and a signature equal for equal problems.</summary>
    public (ZoneProblem Problem, string Signature) Build(ZoneState z, ZoneProgress? progress, List<Refused>? refusals, (int Kind, double Load)? presume = null, int[]? reached = null)
    {
        var start = new int[Kinds.Count];
        var target = new int[Kinds.Count];
        var layer = new int[Kinds.Count];
        Array.Fill(start, Levels.Nil);
        foreach (var kind in _c.Contaminants)
        {
            var b = z[kind.Index];
            layer[kind.Index] = kind.Layer;
            start[kind.Index] = kind.Index == presume?.Kind ? Levels.Of(presume.Value.Load) : progress?.Levels[kind.Index] ?? Levels.Of(PlannedLoad(b, z));
            target[kind.Index] = TargetLevel(kind.Index, z.Family);
        }

        start[Kinds.Residue] = progress?.Levels[Kinds.Residue] ?? Levels.Nil;
        target[Kinds.Residue] = TargetLevel(Kinds.Residue, z.Family);
        var asked = (int[])target.Clone();
        for (var k = 0; reached is not null && k < target.Length; k++)
        {
            // A leaning buys neither time nor care with dirt left behind, and does not clean further than asked of it before.
            target[k] = Math.Min(target[k], reached[k]);
        }

        var area = z.Zone.Area;
        var keep = Keeps(z.Family) ? KeepCosts(area) : null;
        var strip = !Keeps(z.Family) && target[_protection] > 0 && start[_protection] < Levels.Nil;
        var stages = _graph.Order.Select((slot, position) => new StageOptions(
            slot.Index, progress is not null && position < progress.FromSlot && !Returns(slot) ? [] : OptionsOf(slot, z, start, target, progress, refusals), Demanded(slot, z, position, progress), slot.Id == "foam" ? Left.Wet : Left.None)).ToArray();
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
            LeftAtStart = StillWet(progress, stages),
            MustClear = strip ? Left.Filler : Left.None,
            LeftPenalty = Milli(_lean.Shortfall * _c["shortfall-price"] * area),
            ShieldFrom = (int)Math.Round(_c["shield-from"] * 1e6),
            NilAtGate = FirstNil(_c["nil-abrasive"]),
        };
        return (problem, Signature(problem));
    }

    /// <summary>A zone without anything to choose: what <see cref="Round"/> needs to know of it.</summary>
    public ZoneProblem Ground(ZoneState z)
    {
        var kinds = Enumerable.Range(0, Kinds.Count).ToArray();
        return new ZoneProblem
        {
            Stages = [],
            Start = [.. kinds.Select(_ => Levels.Nil)],
            Target = [.. kinds.Select(k => TargetLevel(k, z.Family))],
            Layer = [.. kinds.Select(k => k == Kinds.Residue ? 0 : _c.Contaminants[k].Layer)],
            ShortfallPerLevel = Milli(ShortfallPerDecade(z) / Levels.PerDecade),
            Keep = Keeps(z.Family) ? KeepCosts(z.Zone.Area) : null,
            Protection = _protection,
            ShieldFrom = (int)Math.Round(_c["shield-from"] * 1e6),
            NilAtGate = FirstNil(_c["nil-abrasive"]),
        };
    }

    /// <summary>What a decade of dirt left on a zone costs, minutes.</summary>
    public double ShortfallPerDecade(ZoneState z) => _lean.Shortfall * _c["shortfall-price"] * Math.Max(z.Zone.Area, _c["shortfall-least-area"]);

    /// <summary>The load a plan works on: found, or expected in plain sight, or covered by the shop's iron rule; hidden ones are tested first.</summary>
    public double PlannedLoad(Belief b, ZoneState z)
    {
        if (b.Basis == Basis.Hidden && b.Kind.Id == "iron" && b.Prior is { } prior && _survey.Rule("ironCoverage") is var rule && (rule == "all" || (rule == "low" && z.Zone.Bottom < _c["low-coverage"])))
        {
            return prior.Load;
        }

        return b.Load;
    }

    /// <summary>A load that is the target itself needs nothing, however the two are rounded: 0.6 % of a load.</summary>
    private const double OnTarget = 0.05;

    /// <summary>Level to reach: 0 when the goal asks nothing.</summary>
    public int TargetLevel(int kind, string family) => TargetLoad(kind, family) is { } load ? (int)Math.Ceiling(Levels.Exact(load) - OnTarget) : 0;

    /// <summary>Load to come down to; null when the goal asks nothing. "Always strip at the wash" asks it of every goal.</summary>
    public double? TargetLoad(int kind, string family)
    {
        var load = _c.Targets.Target(_survey.Goal, kind, family);
        return kind == _protection && load is null && family is "body" && _survey.Rule("oldProtection") == "strip-at-wash" ? _c.Targets.Target("correct", kind, family) : load;
    }

    /// <summary>What a panel holds when a spray waits on it for the foam that seals it.</summary>
    internal Left WaitsForFoam(Treatment spray, ZoneState z)
    {
        var start = new int[Kinds.Count];
        return LayersOn(z, start).Where(l => l.Spray.Id == spray.Id).Aggregate(Left.None, (flags, l) => flags == Left.None ? l.Flag : flags);
    }

    /// <summary>How much more of the mix thick foam takes than thin.</summary>
    internal double ThickFoam => Laid("thick-foam");

    /// <summary>What is left at the start. A spray that waits for foam which is not to be had any more waits no longer.</summary>
    private static Left StillWet(ZoneProgress? progress, StageOptions[] stages)
    {
        var left = progress?.Left ?? Left.None;
        return (left & Left.Wet) != 0 && !stages.Any(s => s.Options.Any(o => (o.Needs & left & Left.Wet) != 0)) ? left & ~Left.Wet : left;
    }

    private bool Keeps(string family) => _c.Targets.Keep(_survey.Goal, _protection, family) && _survey.Rule("oldProtection") != "strip-at-wash";

    private long[] KeepCosts(double area)
    {
        var worth = _survey.Goal == "wash" ? _c["protection-wash"] : _c["protection-sale"];
        return Enumerable.Range(0, Levels.Nil + 1).Select(n => Milli(_lean.Harm * worth * area * Levels.LoadOf(n))).ToArray();
    }

    private long Demanded(Slot slot, ZoneState z, int position, ZoneProgress? progress)
    {
        var wanted = slot.Id switch
        {
            "foam" => _survey.Rule("foam") == "always" && z.Family is ("body" or "glass"),
            "clay" => _survey.Rule("clay") == "always" && _survey.Goal is ("protect" or "correct") && z.Family is "body",
            _ => false,
        };
        return wanted && (progress is null || position >= progress.FromSlot) ? Milli(_lean.Shortfall * _c["skip-penalty"] * z.Zone.Area) : 0;
    }

    private List<Option> OptionsOf(Slot slot, ZoneState z, int[] start, int[] target, ZoneProgress? progress, List<Refused>? refusals)
    {
        var options = new List<Option>();
        var demanded = slot.Id is "foam" or "clay";
        var layers = slot.Id is "spray" or "foam" && (progress is null || _graph.Position("spray") >= progress.FromSlot) ? LayersOn(z, start) : [];
        foreach (var t in _bySlot[slot.Index])
        {
            if (!t.SuitsFamily(z.Family) || !Offered(t, start))
            {
                continue;
            }

            var useful = t.Removes.Any(r => start[r.Kind] < Levels.Nil && start[r.Kind] < FloorLevel(r.Floor)) || slot.Id is "rewash" or "flush" || (demanded && _survey.House.ContainsKey(slot.Id)) || CleansOwnResidue(t);
            if (!useful)
            {
                continue;
            }

            var ruling = _limits.Judge(t, z);
            if (ruling.Objection is { } objection)
            {
                if (t.Removes.Any(r => start[r.Kind] < target[r.Kind]))
                {
                    refusals?.Add(new Refused(t.Id, z.Zone.Id, objection));
                }

                continue;
            }

            var stay = StayOf(t, z);
            foreach (var layer in layers.Where(l => l.Spray == t || l.Foam == t).DistinctBy(l => l.Flag))
            {
                var spray = layer.Spray == t;
                options.AddRange(t.Agent.Strengths.Select((s, i) => Reachable(t.Agent, s) ? MakeOption(t, s, i, 1, z, start, ruling, spray ? layer.SprayStay : layer.Stay, layer) : null).Where(o => o is not null)!);
            }

            if (stay.Why is not null)
            {
                if (layers.Any(l => l.Spray == t))
                {
                    continue;
                }

                if (t.Removes.Any(r => start[r.Kind] < target[r.Kind]))
                {
                    refusals?.Add(new Refused(t.Id, z.Zone.Id, stay.Why));
                }

                continue;
            }

            var rounds = t.MaxRounds - SpentThisVisit(t, progress?.RoundsUsed);
            if (rounds > 0)
            {
                options.AddRange(t.Agent.Strengths.Select((s, i) => Reachable(t.Agent, s) ? MakeOption(t, s, i, rounds, z, start, ruling, stay) : null).Where(o => o is not null)!);
            }
        }

        return options;
    }

    /// <summary>Bugs found late are lifted late: this place is open again whatever has been done since.</summary>
    private static bool Returns(Slot slot) => slot.Id == "rebug";

    /// <summary>Iron, tyres and stripping have a hard cap for the visit; the rest may start anew.</summary>
    private static bool CappedPerVisit(Treatment t) => t.In("iron") || t.In("strip") || t.Families is ["tyre"];

    /// <summary>Rounds of the visit's cap already spent, by this treatment or another that does the same work.</summary>
    internal int SpentThisVisit(Treatment t, IReadOnlyDictionary<string, int>? spent) => spent is null || !CappedPerVisit(t) ? 0
        : spent.Where(r => _c.Treatments.Any(o => o.Id == r.Key)).Where(r => _c.Treatment(r.Key) is var other && CappedPerVisit(other) && other.Slots.Intersect(t.Slots).Any()).Sum(r => r.Value);

    private static bool CleansOwnResidue(Treatment t) => (t.In("strip") || t.In("wipe")) && t.Removes.Any(r => r.Kind == Kinds.Residue);

    /// <summary>House rules, finding-bound spot work and the job's wash medium.</summary>
    private bool Offered(Treatment t, int[] start)
    {
        if (t.SpotFor.Count > 0 && t.SpotFor.All(k => start[k] == Levels.Nil))
        {
            return false;
        }

        if (_survey.Site.Water == "none" && t.WaterLitres > 0)
        {
            return false;
        }

        return t.Id switch
        {
            "wash-2bucket" => WashMedium.Rule == "two-bucket",
            "wash-mitt" => WashMedium.Rule == "mitt-per-area",
            "wash-sponge" => WashMedium.Rule == "one-rinse-bucket",
            "wash-rinseless" => WashMedium.Rule == "rinseless",
            "wash-waterless" => WashMedium.Rule == "waterless",
            "wash-strip" => WashMedium.Rule is ("two-bucket" or "mitt-per-area" or "one-rinse-bucket") && _survey.Rule("oldProtection") != "strip-before-correction",
            "foam-iron" => _survey.Rule("iron") == "foam-then-spot",
            "spray-apc" => _survey.Rule("apcOnBugs") == "presoak" || start[_c.Contaminant("bug").Index] == Levels.Nil,
            _ => true,
        };
    }

    private Option? MakeOption(Treatment t, ProductFraction strength, int index, int rounds, ZoneState z, int[] start, Ruling ruling, Stay stay, Layer? layer = null, bool free = false)
    {
        var agent = t.Agent;
        var relative = strength.Value / agent.Reference.Value;
        var heat = HeatOf(agent, z.FilmC);
        var (tau, dwell) = (stay.Tau, stay.Worth);
        var under = layer?.Spray == t;
        var effects = ImmutableArray.CreateBuilder<Effect>(t.Removes.Count);
        foreach (var r in t.Removes)
        {
            if (r.Kind == Kinds.Residue || start[r.Kind] < Levels.Nil)
            {
                var decades = DecadesOf(t, r, relative, dwell, heat, z, under);
                if (decades > 0)
                {
                    effects.Add(new Effect(r.Kind, (int)Math.Round(Levels.PerDecade * decades), FloorLevel(r.Floor)));
                }
            }
        }

        var scale = t.SpotFor.Count == 0 ? 1 : Math.Max(_c["spot-least"], t.SpotFor.Max(k => Levels.LoadOf(start[k])));
        var area = z.Zone.Area * scale;
        var litres = under || (t.In("foam") && !RinsesFoam) ? 0 : t.WaterLitres;
        var access = t.Contact == Contact.None ? 1 : z.Zone.Kind.Access;
        var money = area * (t.SolutionMl / 1000 * strength.Value * agent.Price * Laid(stay.Film) * (1 + stay.Mists * _c["remist-product"]) + litres * _c["water-price"] + (t.IsClay ? _c["clay-wear"] : 0));
        var stress = _c["stress-weight"] * agent.Level * relative * tau * heat * Stressed(t, z, area);
        var pays = t.In("foam") && _survey.Rule("foam") == "optional" ? _c["foam-extra"] : 1;
        var cost = pays * _lean.Time * (LabourOf(t, under || (t.In("foam") && !RinsesFoam), _c) * access * area + stay.Mists * stay.Minutes / (stay.Mists + 1) * _c["reach"] + _c["reach"] + ruling.Masked * _c["mask-minutes"]) + _lean.Money * money / _c["money-per-minute"] + _lean.Harm * stress;
        if (_scarce.TryGetValue(agent.Id, out var weight))
        {
            cost += weight * area * t.SolutionMl * strength.Value * Laid(stay.Film) * (1 + stay.Mists * _c["remist-product"]);
        }

        return new Option
        {
            Treatment = t.Index,
            Strength = index,
            Product = free ? -1 : Product(t, strength),
            Effects = effects.ToImmutable(),
            MaxRounds = rounds,
            Scale = scale,
            Stress = stress,
            DwellMinutes = stay.Minutes,
            Mists = stay.Mists,
            Film = stay.Film,
            Laid = Laid(stay.Film) * (1 + stay.Mists * _c["remist-product"]),
            Conditions = layer is null ? ruling.Conditions : [.. ruling.Conditions, under ? "foam goes over it at once, nothing is rinsed between" : $"over the wet {layer.Spray.Agent.Name}: both come off in one rinse"],
            UnderFoam = under,
            Unrinsed = under || (t.In("foam") && !RinsesFoam),
            Seals = layer is null || under ? -1 : layer.Spray.Index,
            Needs = layer is null || under ? Left.None : layer.Flag,
            Gate = t.Gate,
            AddsResidue = (int)Math.Round((t.Id == "iron-spray" && _survey.Rule("iron") == "with-clay" ? _c["residue-with-clay"] : t.AddsResidue) * 1e6),
            Cost = Milli(cost),
            CostOfProduct = Milli(_lean.Money * money / _c["money-per-minute"]),
            CostOfStress = Milli(_lean.Harm * stress),
            Marring = t.Contact == Contact.None ? 0 : Milli(_lean.Harm * MarringWeight * area * z.Surface.Mar * t.PressureOverLubricity),
            Bite = (int)Math.Round(t.Bite * 1e6),
            Dragged = t.Contact == Contact.None ? [] : Dragged(t),
            Leaves = under ? t.Leaves | layer!.Flag : t.Leaves,
            Clears = layer is null || under ? t.Clears : t.Clears | layer.Flag,
            Forbids = layer is null || under ? _forbids[agent.Id] | Left.Wet : _forbids[agent.Id],
        };
    }

    /// <summary>Decades that a round takes of a kind; 0 where it takes none.</summary>
    /// <param name="relative">Strength against the label's reference.</param>
    /// <param name="dwell">What the stay is worth against the reference dwell.</param>
    /// <param name="heat">Faster or slower by the film's temperature.</param>
    /// <param name="under">Left wet for the foam that goes over it.</param>
    private double DecadesOf(Treatment t, Removal r, double relative, double dwell, double heat, ZoneState z, bool under)
    {
        var loose = r.Kind != Kinds.Residue && _c.Contaminants[r.Kind].Layer == 1;
        // What lies loose goes with the rinse: a spray without one of its own takes none of it.
        if (under && loose)
        {
            return 0;
        }

        var difficulty = r.Kind == Kinds.Residue || z[r.Kind].Difficulty <= 0 ? 1 : z[r.Kind].Difficulty;
        // Foam that is washed through, not rinsed off, leaves the grit it loosened where the mitt goes.
        var carried = t.In("foam") && !RinsesFoam && loose ? _c["foam-unrinsed"] : 1;
        return r.Decades * carried * t.Agent.Efficacy * Math.Sqrt(relative) * dwell * heat / difficulty;
    }

    /// <summary>
    /// A round as somebody really did it: any strength, any stay, on any zone, refused or not. It has an effect on every kind the treatment
    /// works on, so that what nobody has looked for moves too.
    /// </summary>
    /// <param name="minutes">How long it stayed; null = as long as the label asks.</param>
    /// <param name="filmC">Film temperature; null = as planned there.</param>
    /// <param name="levels">What lies there, for the part that spot work covers.</param>
    /// <param name="under">Left wet for the foam over it.</param>
    public Option Free(Treatment t, ProductFraction strength, double? minutes, double? filmC, ZoneState z, int[] levels, bool under = false)
    {
        var at = filmC is { } film ? z with { FilmC = film } : z;
        var stay = Worth(t.Agent, minutes ?? t.Agent.Dwell, 0, null);
        var relative = strength.Value / t.Agent.Reference.Value;
        double Decades(Removal r) => DecadesOf(t, r, relative, stay.Worth, HeatOf(t.Agent, at.FilmC), at, under);
        var nearest = Enumerable.Range(0, t.Agent.Strengths.Count).MinBy(i => Math.Abs(Math.Log(t.Agent.Strengths[i].Value / strength.Value)));
        return MakeOption(t, strength, nearest, 1, at, levels, Ruling.Yes, stay, null, true)! with
        {
            Effects = [.. t.Removes.Select(r => new Effect(r.Kind, (int)Math.Round(Levels.PerDecade * Decades(r)), FloorLevel(r.Floor)))],
            Exact = [.. t.Removes.Where(r => Decades(r) > 0).Select(r => new ExactEffect(r.Kind, Decades(r), r.Floor))],
            Gate = null,
            Forbids = Left.None,
            UnderFoam = under,
        };
    }

    /// <summary>How much faster or slower an agent works at a film temperature than at the one its figures are for.</summary>
    private double HeatOf(Agent agent, double filmC) => Math.Pow(agent.Q10, (filmC - _c["q10-temperature"]) / 10);

    /// <summary>Thick foam takes more of the mix than thin.</summary>
    private double Laid(string? film) => film == "thick-foam" ? _c.Carriers.First(k => k.Id == "thick-foam").Applied / _c.Carriers.First(k => k.Id == "thin-foam").Applied : 1;

    /// <summary>A lance cannot put more on the panel than it draws: the first strength always stays, at whatever it can give.</summary>
    private bool Reachable(Agent agent, ProductFraction strength) =>
        agent.Basis != "bottle" || strength == agent.Strengths[0] || strength.Value <= (_survey.Kit?.Lance ?? LanceDraw.Uncalibrated).Ratio + 1e-9;

    private double MarringWeight => _c["marring-weight"] * (_survey.Goal == "correct" && _survey.Rule("marring") == "cheap-if-polishing" ? _c["marring-cheap"] : 1);

    /// <summary>Area-weighted sensitivity of everything the liquid reaches: sprayed, run-off, overspray.</summary>
    private double Stressed(Treatment t, ZoneState z, double area)
    {
        var sum = Limits.Sensitivity(z.Surface, t.Agent.Axis) * area;
        if (!t.Agent.RunsOff)
        {
            return sum;
        }

        foreach (var (id, part) in z.Zone.DrainsTo.Select(d => (d, _c["runoff-dwell"])).Concat(z.Zone.Neighbours.Select(n => (n, _c["overspray-stress"]))))
        {
            var other = _limits.Zone(id);
            sum += Limits.Sensitivity(other.Surface, t.Agent.Axis) * Math.Min(other.Zone.Area, area) * part;
        }

        return sum;
    }

    private ImmutableArray<(int Kind, int Weight)> Dragged(Treatment t)
    {
        var mobile = t.Gate == _mobileNoBug ? _mobileNoBug.Weights : _mobile.Weights;
        return t.IsClay ? _clayDrags : mobile;
    }

    private int Thousandths(string constant) => (int)Math.Round(_c[constant] * 1000);

    /// <summary>How long a treatment can stay on a zone, and what that is worth.</summary>
    /// <param name="Tau">Dwell as a part of the label's reference.</param>
    /// <param name="Worth">What it does against the reference dwell.</param>
    /// <param name="Mists">Mistings that keep it wet.</param>
    /// <param name="Film">How it is laid on, as the drying model has it; null = drying plays no part.</param>
    /// <param name="Why">Why it is not available now; null = it is.</param>
    private readonly record struct Stay(double Tau, double Worth, double Minutes, int Mists, string? Film, Objection? Why);

    /// <summary>How fast this crew puts on and rinses.</summary>
    internal CrewSpeed Speed => _survey.Kit?.Speed ?? new CrewSpeed(_c["apply-speed"], _c["rinse-speed"]);

    /// <summary>Minutes of work on a square metre; a spray that foam is laid over, or foam that is washed through, is not rinsed by itself.</summary>
    internal static double LabourOf(Treatment t, bool unrinsed, Catalogue c) => unrinsed ? Math.Max(t.Labour - t.WaterLitres / c["washer-flow"], t.Labour * c["layer-least-labour"]) : t.Labour;

    /// <summary>A spray and the foam that seals it: one wet film, one dwell, one rinse.</summary>
    /// <param name="Flag">What the panel holds between the two.</param>
    /// <param name="Stay">Of the foam, and of the two together.</param>
    /// <param name="SprayStay">Of the spray: as long as the foam over it.</param>
    private sealed record Layer(Treatment Spray, Treatment Foam, Left Flag, Stay Stay, Stay SprayStay);

    /// <summary>The sprays that can be sealed under foam here: where foam follows the spray, the label's longest dwell of both and the window of both films allow it.</summary>
    private Layer[] LayersOn(ZoneState z, int[] start)
    {
        if (_graph.Position("foam") != _graph.Position("spray") + 1 || _survey.Rule("prewashDwell") == "rinse-at-once")
        {
            return [];
        }

        bool Fits(Treatment t) => t.SuitsFamily(z.Family) && Offered(t, start) && t.Removes.Any(r => start[r.Kind] < Levels.Nil && start[r.Kind] < FloorLevel(r.Floor)) && _limits.Judge(t, z).Allowed;
        var foams = _bySlot[_c.Slot("foam").Index].Where(Fits).ToArray();
        var layers = new List<Layer>();
        var window = z.Window(Sealed);
        var speed = Speed with { Apply = Speed.Apply / 2 };
        double Minutes(Treatment spray, Treatment foam) => Math.Min(Math.Min(spray.Agent.MaxDwell, foam.Agent.Dwell), window is { } w ? Math.Max(0, w.UsableSeconds - speed.Reserve(Math.Min(z.Zone.Area, Sections.LeastPiece))) / 60 : double.MaxValue);
        var sprays = _bySlot[_c.Slot("spray").Index];
        for (var i = 0; i < sprays.Length && foams.Length > 0; i++)
        {
            var spray = sprays[i];
            if (!Fits(spray))
            {
                continue;
            }

            // The same bit for the same spray and stay, whatever else is offered: a run finds its way by it.
            var stays = _bySlot[_c.Slot("foam").Index].Select(f => Minutes(spray, f)).Distinct().ToList();
            foreach (var foam in foams)
            {
                var minutes = Minutes(spray, foam);
                var flag = (Left)((int)Left.FirstWet << (i * 4 + stays.IndexOf(minutes)));
                var stay = Worth(foam.Agent, minutes, 0, window is null ? null : Sealed);
                var below = Worth(spray.Agent, minutes, 0, null);
                if ((stay.Why ?? below.Why) is null)
                {
                    layers.Add(new(spray, foam, flag, stay, below));
                }
            }
        }

        return [.. layers];
    }

    /// <summary>How the drying model knows a spray under foam.</summary>
    internal const string Sealed = "foam-over-spray";

    /// <summary>Is the foam rinsed off before anything touches?</summary>
    private bool RinsesFoam => _survey.Rule("rinseFoamBeforeContact") == "true";

    /// <summary>The label's dwell, the house's, and what the panel allows before it dries.</summary>
    private Stay StayOf(Treatment t, ZoneState z)
    {
        var agent = t.Agent;
        var wanted = t.In("spray") && _survey.Rule("prewashDwell") == "rinse-at-once" && agent.Dwell > _c["rinse-at-once"] ? _c["rinse-at-once"] : agent.Dwell;
        if (agent.Dwell <= 0 || SiteConditions.CarrierOf(agent) is not { } carrier || z.Window(carrier) is not { } window)
        {
            return Worth(agent, wanted, 0, null);
        }

        // A piece of the panel has to be put on and rinsed within its window too.
        var reserve = Speed.Reserve(Math.Min(z.Zone.Area, Sections.LeastPiece));
        double Usable(ZoneWindow w) => Math.Max(0, w.UsableSeconds - reserve) / 60;
        var usable = Usable(window);
        if (usable >= wanted)
        {
            return Worth(agent, wanted, 0, carrier);
        }

        // A lance lays thicker foam before anyone mists again.
        if (carrier == "thin-foam" && agent.Vessel == "lance" && z.Window("thick-foam") is { } thick)
        {
            (carrier, window, usable) = ("thick-foam", thick, Usable(thick));
            if (usable >= wanted)
            {
                return Worth(agent, wanted, 0, carrier);
            }
        }

        // Never for acid, caustic, solvent; the label says of the rest.
        if (agent.MayReMist && agent.Axis is not ("acid" or "alk" or "solv") && window.FirstDry >= _c["remist-least"])
        {
            var again = window.UsableSeconds / 60;
            var mists = Math.Min((int)_c["remist-most"], (int)Math.Ceiling((wanted - usable) / again));
            return Worth(agent, Math.Min(wanted, usable + again * mists), mists, carrier);
        }

        return Worth(agent, usable, 0, carrier);
    }

    /// <summary>What a stay of so many minutes is worth against the label's reference.</summary>
    private Stay Worth(Agent agent, double minutes, int mists, string? film)
    {
        var tau = agent.Dwell <= 0 ? 1 : minutes / agent.Dwell;
        var worth = agent.Dwell <= 0 ? 1 : (1 - Math.Exp(-2 * Math.Min(1, tau))) / (1 - Math.Exp(-2));
        return new(tau, worth, minutes, mists, film, worth >= _c["dwell-worth"] ? null : new Objection(Cause.DriesTooSoon, agent.Name));
    }

    /// <summary>Another agent that works on the same kinds here and stays wet long enough; null = none.</summary>
    internal string? Instead(Treatment t, ZoneState z, int[] kinds) => _c.Treatments
        .Where(o => o.Agent.Id != t.Agent.Id && !o.Agent.IsWater && o.SuitsFamily(z.Family) && o.Removes.Count(r => kinds.Contains(r.Kind) && r.Decades >= 0.3) is var n && n > 0 && _limits.Judge(o, z).Allowed && StayOf(o, z).Why is null)
        .OrderByDescending(o => o.Removes.Where(r => kinds.Contains(r.Kind)).Sum(r => r.Decades)).ThenBy(o => o.Agent.Level).Select(o => o.Agent.Name).FirstOrDefault();

    private int Product(Treatment t, ProductFraction strength)
    {
        if (t.Agent.IsWater)
        {
            return -1;
        }

        var key = Key(t, strength);
        if (!_products.TryGetValue(key, out var index))
        {
            index = _products[key] = _setUp.Count;
            _setUp.Add(Milli(_lean.Time * (t.Id.StartsWith("clay-bar", StringComparison.Ordinal) ? _c["setup-clay-bar"]
                : t.Id.StartsWith("clay-mitt", StringComparison.Ordinal) ? _c["setup-clay-mitt"]
                : t.IsClay ? _c["setup-clay-pad"] : t.Agent.SetUp)));
            if (index >= 128)
            {
                throw new InvalidOperationException("more than 128 products");
            }
        }

        return index;
    }

    private static string Key(Treatment t, ProductFraction strength) => t.IsClay ? t.Id : FormattableString.Invariant($"{t.Agent.Id}@{strength.Value:0.######}");

    private (string, string?) ChooseWash(IReadOnlyList<ZoneState> zones)
    {
        var rule = _survey.Site.Water == "none" && _survey.Rule("washMedia") != "waterless" ? "rinseless" : _survey.Rule("washMedia");
        if (TooFew(rule, zones) is { } few)
        {
            return ("two-bucket", few);
        }

        if (rule is not ("rinseless" or "waterless") || _survey.Rule("waterlessOnHeavy") == "warn")
        {
            return (rule, rule is "rinseless" or "waterless" ? "rinseless or waterless on this dirt may mark the paint: plan a correction" : null);
        }

        string[] strict = rule == "waterless" ? ["road-film", "grit", "mud", "salt", "loose-dust"] : ["road-film", "grit", "mud", "salt"];
        foreach (var z in zones.Where(z => z.Family is "body" or "glass"))
        {
            var heavy = strict.FirstOrDefault(k => z[_c.Contaminant(k).Index].Load > _c["grade-1"]) ?? new[] { "bug", "tar" }.FirstOrDefault(k => z[_c.Contaminant(k).Index].Load > _c["grade-2"]);
            if (heavy is not null)
            {
                return ("two-bucket", $"{rule} wash refused: {heavy} on {Limits.Words(z.Zone.Id)} is beyond its limit; two buckets instead");
            }
        }

        return (rule, null);
    }

    /// <summary>A school that takes a fresh piece for every area needs as many pieces; null = they are there, or nobody counts them.</summary>
    private string? TooFew(string rule, IReadOnlyList<ZoneState> zones)
    {
        var (treatment, there, words) = rule switch { "mitt-per-area" => ("wash-mitt", _survey.Kit?.Mitts, "mitts"), "rinseless" when _survey.Site.Water != "none" => ("wash-rinseless", _survey.Kit?.Towels, "towels"), "waterless" when _survey.Site.Water != "none" => ("wash-waterless", _survey.Kit?.Towels, "towels"), _ => ("", null, "") };
        if (there is not { } have)
        {
            return null;
        }

        var wash = _c.Treatment(treatment);
        var need = MediaCount.Pieces(Medium.For(treatment, Vehicles.Block.Body, _c)!, zones.Where(z => z.Zone.Block == Vehicles.Block.Body && wash.SuitsFamily(z.Family)).Sum(z => z.Zone.Area));
        return need <= have ? null : $"{wash.Name} refused: {need} {words} wanted so that none goes back on paint, {have} there; two buckets instead";
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

    /// <summary>128 bits over everything the search reads: equal problems have equal signatures, unequal ones for all purposes never.</summary>
    private static string Signature(ZoneProblem p)
    {
        ulong a = 0xcbf29ce484222325, b = 0x9E3779B97F4A7C15;
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
            foreach (var o in stage.Options)
            {
                Take(o.Treatment);
                Take(o.Strength);
                Take(o.MaxRounds);
                Take(o.Cost);
                Take(o.Marring);
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
