using System.Collections.Immutable;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Conditions;
using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Planning;

/// <summary>The treatments of a slot on a zone: what a round does and costs, in the integers of the search.</summary>
public sealed partial class ProblemBuilder
{
    /// <summary>How much more of the mix thick foam takes than thin.</summary>
    internal double ThickFoam => Laid("thick-foam");

    /// <summary>Options of a slot as they were worked out, and for what.</summary>
    private sealed record Offer(ZoneProgress? Progress, int[] Start, List<Option> Options);

    /// <summary>
    /// What each zone was first offered, by slot, dry and wetting: a what-if in which nothing changes that a slot speaks of is offered the same.
    /// </summary>
    private Dictionary<ZoneState, Offer?[]> _offers = new(ReferenceEqualityComparer.Instance);

    private readonly Dictionary<(int Slot, Family Family), int[]> _spokenOf = [];

    /// <summary>The kinds that decide what a slot offers a family: those its treatments take off, are for, or are chosen by.</summary>
    private int[] SpokenOf(Slot slot, Family family)
    {
        if (!_spokenOf.TryGetValue((slot.Index, family), out var kinds))
        {
            // Spray and foam are laid one over the other: each depends on what the other finds.
            Place[] together = slot.Id == Place.Spray || slot.Id == Place.Foam ? [Place.Spray, Place.Foam] : [slot.Id];
            kinds = _spokenOf[(slot.Index, family)] = [
                .. together
                    .SelectMany(p => _bySlot[_c.Slot(p).Index])
                    .Where(t => t.SuitsFamily(family))
                    .SelectMany(t => t.Removes.Select(r => r.Kind).Concat(t.SpotFor).Concat(t.OnlyFor).Concat(t.SchoolOn))
                    .Distinct(),
            ];
        }

        return kinds;
    }

    /// <param name="wetting">Something here may only be touched wet: water and foam are worth it even where they take nothing off.</param>
    private List<Option> OptionsOf(
        Slot slot,
        ZoneState z,
        int[] start,
        int[] target,
        ZoneProgress? progress,
        List<Refused>? refusals,
        bool wetting = false
    )
    {
        if (!_offers.TryGetValue(z, out var offers))
        {
            offers = _offers[z] = new Offer?[2 * _bySlot.Length];
        }

        ref var offer = ref offers[(2 * slot.Index) + (wetting ? 1 : 0)];
        if (
            refusals is null
            && offer is { } known
            && ReferenceEquals(known.Progress, progress)
            && Array.TrueForAll(SpokenOf(slot, z.Family), k => known.Start[k] == start[k])
        )
        {
            return known.Options;
        }

        var options = WorkedOut(slot, z, start, target, progress, refusals, wetting);
        offer ??= new(progress, start, options);
        return options;
    }

    private List<Option> WorkedOut(
        Slot slot,
        ZoneState z,
        int[] start,
        int[] target,
        ZoneProgress? progress,
        List<Refused>? refusals,
        bool wetting
    )
    {
        var options = new List<Option>();
        var demanded = slot.Id == Place.Foam || slot.Id == Place.Clay;
        var layers =
            (slot.Id == Place.Spray || slot.Id == Place.Foam) && (progress is null || _graph.Position(Place.Spray) >= progress.FromSlot)
                ? LayersOn(z, start)
                : [];
        foreach (var t in _bySlot[slot.Index])
        {
            if (!t.SuitsFamily(z.Family) || !Offered(t, start) || !Fits(t, slot, z, start))
            {
                continue;
            }

            var useful =
                t.Removes.Any(r =>
                    start[r.Kind] < Levels.Nil && start[r.Kind] < FloorLevel(r.Floor) && (r.Kind != _protection || !Keeps(z))
                )
                || slot.Id == Place.ReWash
                || slot.Id == Place.Flush
                || (wetting && IsWetting(slot))
                || (demanded && _survey.House.ContainsKey(slot.Id.Word))
                || CleansOwnResidue(t);
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
                AtEachStrength(t, 1, ruling, layer.Spray == t ? layer.SprayStay : layer.Stay, layer);
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

            // Foam that is not rinsed off is laid once: a second needs water between.
            var rounds = (slot.Id == Place.Foam && !RinsesFoam ? 1 : t.MaxRounds) - SpentThisVisit(t, progress?.RoundsUsed);
            if (rounds > 0)
            {
                AtEachStrength(t, rounds, ruling, stay);
            }
        }

        return options;

        void AtEachStrength(Treatment t, int rounds, Ruling ruling, Stay stay, Layer? layer = null)
        {
            for (var i = 0; i < t.Agent.Strengths.Count; i++)
            {
                if (Reachable(t.Agent, t.Agent.Strengths[i]))
                {
                    options.Add(MakeOption(t, slot, t.Agent.Strengths[i], i, rounds, z, start, ruling, stay, layer));
                }
            }
        }
    }

    /// <summary>The gentlest that will do: what the zone, its paint and the house leave of the ways there are.</summary>
    private bool Fits(Treatment t, Slot slot, ZoneState z, int[] start)
    {
        if (z.Zone.Kind.Bars == Vehicles.Bars.Lance && t.IsLanced && z.Beliefs.All(b => b.Basis != Basis.Found || b.Load <= 0))
        {
            return false;
        }

        var soft = IsSoft(z);
        if (z.Family == Family.Body && (t.Paint == PaintRule.SoftOnly ? !soft : t.Paint == PaintRule.NotSoft && soft))
        {
            return false;
        }

        return t.Only switch
            {
                OnlyWhere.HeavyBeforeCorrection => z.GoalIn(_survey) == Goal.Correct
                    && t.Removes.Any(r => r.Decades >= _c["works-from"] && start[r.Kind] <= Levels.Of(_c["grade-3"])),
                OnlyWhere.OldBrakeDust => _limits.HoldsOldDust(z),
                OnlyWhere.NothingStronger => !_bySlot[slot.Index]
                    .Any(o => o.Agent.Level > t.Agent.Level && o.SuitsFamily(z.Family) && _limits.Judge(o, z).Allowed),
                OnlyWhere.Matte => _matte,
                OnlyWhere.NothingMayRub => !_bySlot[slot.Index]
                    .Any(o => o.Contact != Contact.None && o.SuitsFamily(z.Family) && _limits.Judge(o, z).Allowed),
                _ => true,
            } && !Supplanted(t, slot, z, start);
    }

    /// <summary>
    /// Is this done another way here? Iron foam is then the only foam, a stripping wash the only wash of what may be waxed, matte soap the only soap
    /// of a matte vehicle.
    /// </summary>
    private bool Supplanted(Treatment t, Slot slot, ZoneState z, int[] start)
    {
        if (z.Zone.Block != Vehicles.Block.Body)
        {
            return false;
        }

        bool House(Treatment o) => o.Schools.Any(s => s.Rule != School.Medium) && Held(o.Schools) && o.SuitsFamily(z.Family);
        bool ForMatte(Treatment o) => o.Only == OnlyWhere.Matte && Held(o.Schools) && _limits.ShelfRefusal(o.Agent) is null;
        return slot.Id == Place.Foam ? !House(t) && _bySlot[slot.Index].Any(House)
            : slot.Id == Place.Wash && _matte && !Strips(t) && t.Only != OnlyWhere.Matte && _bySlot[slot.Index].Any(ForMatte) ? true
            : slot.Id == Place.Wash && _survey.Rule("oldProtection") == "strip-at-wash" && _someProtection
                ? !Strips(t) && _bySlot[slot.Index].Any(o => Strips(o) && Offered(o, start) && o.SuitsFamily(z.Family))
            : false;
    }

    private bool Strips(Treatment t) => t.Clears.HasFlag(Left.Filler);

    /// <summary>Bugs found late are lifted late: this place is open again whatever has been done since.</summary>
    private static bool Returns(Slot slot) => slot.Id == Place.Bug;

    /// <summary>Rounds of the visit's cap already spent, by this treatment or another that does the same work.</summary>
    internal int SpentThisVisit(Treatment t, IReadOnlyDictionary<string, int>? spent) =>
        spent is null || t.Cap.Length == 0 ? 0 : _c.Treatments.Where(o => o.Cap == t.Cap).Sum(o => spent.GetValueOrDefault(o.Id));

    private static bool CleansOwnResidue(Treatment t) =>
        (t.In(Place.Strip) || t.In(Place.Wipe)) && t.Removes.Any(r => r.Kind == Kinds.Residue);

    /// <summary>House rules, finding-bound spot work and the job's wash medium.</summary>
    private bool Offered(Treatment t, int[] start)
    {
        if (
            (t.SpotFor.Count > 0 && t.SpotFor.All(k => start[k] == Levels.Nil))
            || (t.OnlyFor.Count > 0 && t.OnlyFor.All(k => start[k] == Levels.Nil))
        )
        {
            return false;
        }

        if (_survey.Site.Water == "none" && t.WaterLitres > _c["bucket-litres"])
        {
            return false;
        }

        return (t.SchoolOn.Count > 0 && t.SchoolOn.All(k => start[k] == Levels.Nil)) || Held(t.Schools);
    }

    private bool Held(IReadOnlyList<School> schools) => schools.Count == 0 || schools.All(Held);

    private bool Held(School school) => school.Values.Contains(school.Rule == School.Medium ? WashMedium.Rule : _survey.Rule(school.Rule));

    /// <param name="slot">Where it stands in the order of work; null = it was done, whenever.</param>
    private Option MakeOption(
        Treatment t,
        Slot? slot,
        ProductFraction strength,
        int index,
        int rounds,
        ZoneState z,
        int[] start,
        Ruling ruling,
        Stay stay,
        Layer? layer = null
    )
    {
        var agent = t.Agent;
        var poured = _limits.Poured(t, strength);
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
        var litres = under || (t.In(Place.Foam) && !RinsesFoam) ? 0 : t.WaterLitres;
        var laid = Laid(stay.Film) * (1 + stay.Mists * _c["remist-product"]);
        var access = t.Contact == Contact.None ? 1 : z.Zone.Kind.Access;
        var cooling = slot is not null && CoolsBefore(t, slot.Id, z) ? CoolingOf(area) : default;
        var money =
            cooling.Litres * _c["water-price"]
            + area
                * (
                    t.SolutionMl / 1000 * poured.Strength.Value * poured.Agent.Price * laid
                    + litres * _c["water-price"]
                    + (t.IsClay ? _c["clay-wear"] : 0)
                );
        var stress = _c["stress-weight"] * agent.Level * relative * tau * heat * Stressed(t, z, area);
        var pays = t.In(Place.Foam) && _survey.Rule("foam") == "optional" ? _c["foam-extra"] : 1;
        var cost =
            pays
                * _lean.Time
                * (
                    LabourOf(t, under || (t.In(Place.Foam) && !RinsesFoam), _c) * access * area
                    + stay.Mists * stay.Minutes / (stay.Mists + 1) * _c["reach"]
                    + _c["reach"]
                    + ruling.Masked * _c["mask-minutes"]
                    + IdleOf(agent, stay, z) * area
                    + cooling.Minutes
                )
            + _lean.Money * money / _c["money-per-minute"]
            + _lean.Harm * stress
            + (relative > 1 ? _lean.Harm * _c["strong-care"] * area : 0);
        var (first, again) = slot is null ? (-1, -1) : PassesOf(t, slot, z, index, under, rounds);
        return new Option
        {
            Treatment = t.Index,
            Strength = index,
            Pass = first,
            Again = again,
            Whole = slot is not null && !under && Joins(z) && IsWhole(z.Zone.Block, t, slot.Id),
            Effects = effects.DrainToImmutable(),
            MaxRounds = rounds,
            Scale = scale,
            Stress = stress,
            DwellMinutes = stay.Minutes,
            Mists = stay.Mists,
            Cooling = cooling,
            Film = stay.Film,
            Laid = laid,
            Conditions = layer is null
                ? ruling.Conditions
                :
                [
                    .. ruling.Conditions,
                    under
                        ? "foam goes over it at once, nothing is rinsed between"
                        : $"over the wet {layer.Spray.Agent.Name}: both come off in one rinse",
                ],
            UnderFoam = under,
            Unrinsed = under || (t.In(Place.Foam) && !RinsesFoam),
            Seals = layer is null || under ? -1 : layer.Spray.Index,
            Needs = layer is null || under ? Left.None : layer.Flag,
            LoadLimit = t.LoadLimit,
            AddsResidue = (int)
                Math.Round((t.Id == "iron-spray" && _survey.Rule("iron") == "with-clay" ? _c["residue-with-clay"] : t.AddsResidue) * 1e6),
            Cost = Milli(cost) + ChargeOf(t, index, area, laid),
            CostOfProduct = Milli(_lean.Money * money / _c["money-per-minute"]),
            CostOfStress = Milli(_lean.Harm * stress),
            Marring = t.Contact == Contact.None ? 0 : Milli(_lean.Harm * MarringWeight(z) * area * z.Surface.Mar * t.PressureOverLubricity),
            Bite = (int)Math.Round(t.Bite * 1e6),
            Dragged = t.Contact == Contact.None ? [] : Dragged(t),
            Leaves = under ? t.Leaves | layer!.Flag : t.Leaves,
            Clears = (layer is null || under ? t.Clears : t.Clears | layer.Flag) | (t.Wets ? Left.Dry : Left.None),
            Forbids = (layer is null || under ? _forbids[agent.Id] | Left.Wet : _forbids[agent.Id]) | (t.NeedsWet ? Left.Dry : Left.None),
        };
    }

    /// <summary>
    /// Is a hot panel rinsed cool right before every round? What follows the first rinse at once finds it cool, and what does not dwell does not
    /// mind.
    /// </summary>
    private static bool CoolsBefore(Treatment t, Place slot, ZoneState z) =>
        z.Cooled && t.Agent.Dwell > 0 && slot != Place.Spray && slot != Place.Foam;

    /// <summary>The rinse that cools is a rinse like the first: as long, and as much water.</summary>
    private (double Minutes, double Litres) CoolingOf(SquareMetres area)
    {
        var rinse = _bySlot[_c.Slot(Place.Rinse).Index].First(t => t.GoesRound);
        return (LabourOf(rinse, false, _c) * area, rinse.WaterLitres * area);
    }

    /// <summary>Places in which water goes all over, whether or not it takes anything off: what is next to a panel that is soaked gets wet with it.</summary>
    private static bool IsWetting(Slot slot) => slot.Id == Place.Soak || slot.Id == Place.Rinse || slot.Id == Place.Foam;

    /// <summary>Does a zone go with its block? Shuts and the underside are done for their own sake.</summary>
    private static bool Joins(ZoneState z) => z.Zone.Kind.Goes != Vehicles.Goes.ByItself;

    /// <summary>
    /// Minutes of cost a square metre for standing by: the smaller the section that one window holds, the oftener somebody waits out a dwell.
    /// </summary>
    private double IdleOf(Agent agent, Stay stay, ZoneState z)
    {
        if (agent.Dwell <= 0 || stay.Film is not { } film || z.Window(film) is not { } window)
        {
            return 0;
        }

        var spare = window.UsableSeconds / 60 - stay.Minutes;
        var section = Math.Max(_c["section-least"], spare / (1 / Speed.Apply + 1 / Speed.Rinse));
        return _c["wait-weight"] * stay.Minutes * Math.Max(0, 1 / section - 1 / _c["vehicle-m2"]);
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
        var carried = t.In(Place.Foam) && !RinsesFoam && loose ? _c["foam-unrinsed"] : 1;
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
        var nearest = Enumerable
            .Range(0, t.Agent.Strengths.Count)
            .MinBy(i => Math.Abs(Math.Log(t.Agent.Strengths[i].Value / strength.Value)));
        return MakeOption(t, null, strength, nearest, 1, at, levels, Ruling.Yes, stay) with
        {
            Effects = [.. t.Removes.Select(r => new Effect(r.Kind, (int)Math.Round(Levels.PerDecade * Decades(r)), FloorLevel(r.Floor)))],
            Exact = [.. t.Removes.Where(r => Decades(r) > 0).Select(r => new ExactEffect(r.Kind, Decades(r), r.Floor))],
            LoadLimit = null,
            Forbids = Left.None,
            UnderFoam = under,
        };
    }

    /// <summary>How much faster or slower an agent works at a film temperature than at the one its figures are for.</summary>
    private double HeatOf(Agent agent, double filmC) => Math.Pow(agent.Q10, (filmC - _c["q10-temperature"]) / 10);

    /// <summary>Thick foam takes more of the mix than thin.</summary>
    private double Laid(string? film) =>
        film == "thick-foam"
            ? _c.Carriers.First(k => k.Id == "thick-foam").Applied / _c.Carriers.First(k => k.Id == "thin-foam").Applied
            : 1;

    /// <summary>A lance cannot put more on the panel than it draws: the first strength always stays, at whatever it can give.</summary>
    private bool Reachable(Agent agent, ProductFraction strength) =>
        agent.Basis != StrengthBasis.Bottle
        || strength == agent.Strengths[0]
        || strength.Value <= (_survey.Kit?.Lance ?? LanceDraw.Uncalibrated).Ratio + 1e-9;

    private double MarringWeight(ZoneState z) =>
        _c["marring-weight"]
        * (z.GoalIn(_survey) == Goal.Correct && _survey.Rule("marring") == "cheap-if-polishing" ? _c["marring-cheap"] : 1);

    /// <summary>Area-weighted sensitivity of everything the liquid reaches: sprayed, run-off, overspray.</summary>
    private double Stressed(Treatment t, ZoneState z, double area)
    {
        var sum = Limits.Sensitivity(z.Surface, t.Agent.Axis) * area;
        if (!t.Agent.RunsOff)
        {
            return sum;
        }

        Reached(z.Zone.DrainsTo, _c["runoff-dwell"]);
        Reached(z.Zone.Neighbours, _c["overspray-stress"]);
        return sum;

        void Reached(IReadOnlyList<string> zones, double part)
        {
            for (var i = 0; i < zones.Count; i++)
            {
                var other = _limits.Zone(zones[i]);
                sum += Limits.Sensitivity(other.Surface, t.Agent.Axis) * Math.Min(other.Zone.Area, area) * part;
            }
        }
    }

    private ImmutableArray<(int Kind, int Weight)> Dragged(Treatment t)
    {
        var mobile = t.LoadLimit == _mobileNoBug ? _mobileNoBug.Weights : _mobile.Weights;
        return t.IsClay ? _clayDrags : mobile;
    }

    private int Thousandths(string constant) => (int)Math.Round(_c[constant] * 1000);

    /// <summary>
    /// Minutes of work on a square metre; a spray that foam is laid over, or foam that is washed through, is not rinsed by itself.
    /// </summary>
    internal static double LabourOf(Treatment t, bool unrinsed, Catalogue c) =>
        unrinsed ? Math.Max(t.Labour - t.WaterLitres / c["washer-flow"], t.Labour * c["layer-least-labour"]) : t.Labour;

    /// <summary>Another agent that works on the same kinds here and stays wet long enough; null = none.</summary>
    internal string? Instead(Treatment t, ZoneState z, int[] kinds) =>
        _c
            .Treatments.Where(o =>
                o.Agent.Id != t.Agent.Id
                && !o.Agent.IsWater
                && o.SuitsFamily(z.Family)
                && o.Removes.Count(r => kinds.Contains(r.Kind) && r.Decades >= _c["works-from"]) is var n
                && n > 0
                && _limits.Judge(o, z).Allowed
                && StayOf(o, z).Why is null
            )
            .OrderByDescending(o => o.Removes.Where(r => kinds.Contains(r.Kind)).Sum(r => r.Decades))
            .ThenBy(o => o.Agent.Level)
            .Select(o => o.Agent.Name)
            .FirstOrDefault();
}
