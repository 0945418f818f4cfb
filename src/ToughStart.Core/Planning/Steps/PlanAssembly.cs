using ToughStart.Core.Chemistry;
using ToughStart.Core.Conditions;
using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Planning;

/// <summary>Turns per-zone choices into steps people can follow, with the reason beside every step, skip and refusal.</summary>
internal sealed partial class PlanAssembly(
    Survey survey,
    StageGraph graph,
    ProblemBuilder builder,
    IReadOnlyList<ZoneState> states,
    IReadOnlyList<ZoneWork> work,
    Catalogue c,
    IEnumerable<Step> done
)
{
    private readonly Compatibility _matrix = new(c);

    private readonly bool _begun = done.Any();

    private readonly Vehicle _vehicle = Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size);

    private readonly Dictionary<DateTimeOffset, SiteConditions?> _moments = [];

    /// <summary>Has the vehicle been rolled on for the arcs it stood on?</summary>
    private bool _rolled;

    private readonly HashSet<(string What, ProductFraction Strength)> _mixed =
    [
        .. done.Select(s => (c.Treatments.Any(t => t.Id == s.Treatment && t.IsClay) ? s.Treatment : s.Agent, s.Strength)),
    ];

    private readonly Dictionary<string, Dictionary<Slot, (ZoneWork Work, Deed Deed)>> _bySlot = work.ToDictionary(
        w => w.State.Zone.Id,
        w => w.Deeds.ToDictionary(d => d.Slot, d => (w, d))
    );

    /// <summary>Steps in the order of work: wheels and body as the house rule says, each in slot order, drying last.</summary>
    public IReadOnlyList<Step> Steps(StepKeys keys)
    {
        var groups = work.SelectMany(w => w.Deeds.Select(d => (Work: w, Deed: d, w.State.Zone.Block)))
            .GroupBy(x =>
                (
                    x.Block,
                    Position: graph.Position(x.Deed.Slot.Id),
                    x.Deed.Treatment.Index,
                    x.Deed.StrengthIndex,
                    Under: x.Deed.Option.UnderFoam
                )
            )
            .Select(g => (g.Key, Items: g.ToArray(), Stage: StageOf(g.Select(x => (x.Deed, x.Work.State)))))
            .OrderBy(g => Order(g.Key.Block, g.Key.Position))
            .ThenBy(g => g.Key.Position)
            .ThenBy(g => g.Key.Block)
            .ThenBy(g => StageRank(g.Stage))
            .ThenBy(g => g.Key.Under)
            .ThenBy(g => g.Key.Index)
            .ThenBy(g => g.Key.StrengthIndex)
            .ToArray();
        var steps = new List<Step>();
        var lastOf = new Dictionary<string, string>();
        string? lastWheel = null;
        foreach (var (key, items, stage) in groups)
        {
            var zones = items
                .Select(i => i.Work.State.Zone)
                .OrderByDescending(z => z.Top)
                .ThenBy(z => z.Id, StringComparer.Ordinal)
                .Select(z => z.Id)
                .ToArray();
            var id = keys.Next(stage, items[0].Deed.Treatment.Id, zones);
            var after = zones.Select(z => lastOf.GetValueOrDefault(z)).OfType<string>().ToHashSet();
            // The wheels before whatever first touches any part of the body.
            if (survey.Rule("wheels") == "first" && key.Block == Block.Body && lastWheel is not null && !zones.All(lastOf.ContainsKey))
            {
                after.Add(lastWheel);
            }

            steps.Add(
                MakeStep(
                    id,
                    after.Order(StringComparer.Ordinal).ToArray(),
                    stage,
                    key.Block,
                    items.Select(i => (i.Work, i.Deed)).ToArray(),
                    zones,
                    steps.Count == 0 && !_begun
                )
            );
            foreach (var z in zones)
            {
                lastOf[z] = id;
            }

            lastWheel = key.Block == Block.Wheels ? id : lastWheel;
        }

        // Drying waits for whatever still wets a panel, on any zone.
        if (DryStep(steps, [.. lastOf.Values.Distinct().Order(StringComparer.Ordinal)], keys) is { } dry)
        {
            steps.Add(dry);
        }

        return steps;
    }

    public IReadOnlyList<ZoneTrace> Traces(IReadOnlyList<Step> steps) =>
        work.Select(w =>
            {
                var own = steps.Where(s => s.Zones.Contains(w.State.Zone.Id)).ToArray();
                var kinds = Enumerable
                    .Range(0, Kinds.Count)
                    .Where(k => w.Problem.Start[k] < Levels.Nil || w.Deeds.Any(d => d.After[k] < Levels.Nil))
                    .ToArray();
                Dictionary<string, double> Loads(int[] levels) =>
                    kinds.ToDictionary(k => k == Kinds.Residue ? "residue" : c.Contaminants[k].Id, k => Levels.LoadOf(levels[k]));
                return new ZoneTrace(
                    w.State.Zone.Id,
                    Loads(w.Problem.Start),
                    w.Deeds.OrderBy(d => graph.Position(d.Slot.Id))
                        .Select(d => (own.First(s => s.Slot == d.Slot.Id).Key, (IReadOnlyDictionary<string, double>)Loads(d.After)))
                        .ToArray(),
                    kinds
                        .Where(k => Asked(w, k) > 0)
                        .ToDictionary(k => k == Kinds.Residue ? "residue" : c.Contaminants[k].Id, k => Levels.LoadOf(Asked(w, k)))
                );
            })
            .ToArray();

    private static readonly (Place Slot, string[] Kinds)[] Explained =
    [
        (Place.Bug, ["bug"]),
        (Place.Foam, ["road-film", "grit", "loose-dust"]),
        (Place.Tar, ["tar", "rubber", "adhesive"]),
        (Place.Iron, ["iron"]),
        (Place.Acid, ["mineral", "cement", "iron"]),
        (Place.Clay, ["bonded-mix", "overspray"]),
        (Place.Strip, ["old-protection"]),
    ];

    private int Order(Block block, int position)
    {
        var mid = graph.Position(Place.Foam);
        return (survey.Rule("wheels"), block) switch
        {
            ("first", Block.Wheels) => 0,
            ("after-prewash", Block.Wheels) when position > mid => 1,
            ("after-prewash", Block.Body) when position > mid => 2,
            // Foam over everything, then the wheels while it lies, then the body: splash lands before the wash.
            ("during-foam" or "with-prewash", Block.Body) when position > mid => 1,
            ("first", _) => 1,
            _ => 0,
        };
    }

    private static int StageRank(Stage stage) =>
        stage == Stage.Arches ? 0
        : stage == Stage.Tyres ? 1
        : stage == Stage.Wheels ? 2
        : 3;

    /// <summary>Tyres and arches take the same cleaner and the same stiff brushes: where both are due they are one step, that of the tyres.</summary>
    private static Stage StageOf(IEnumerable<(Deed Deed, ZoneState State)> items)
    {
        var stages = items.Select(x => Slot.StageOn(x.Deed.Slot, x.State.Family)).Distinct().ToArray();
        return stages.Contains(Stage.Tyres) ? Stage.Tyres : stages[0];
    }

    private Step MakeStep(
        string key,
        string[] after,
        Stage stage,
        Block block,
        (ZoneWork Work, Deed Deed)[] items,
        string[] zones,
        bool first
    )
    {
        var deed = items[0].Deed;
        var t = deed.Treatment;
        var (agent, strength) = builder.Limits.Poured(t, deed.Strength);
        // Mixed once for the whole job: the first step that needs it pays, and none where a bottle of it stands mixed.
        var setUp = _mixed.Add((t.IsClay ? t.Id : agent.Id, strength)) ? builder.SetUpOf(t, deed.Strength) : 0;
        var rounds = items.Max(i => i.Deed.Rounds);
        // Laying out and walking round once, and a little for every further round.
        var rolls = Rolls(t, items) && !_rolled;
        _rolled |= rolls;
        var open =
            c["pass-open"]
            + c["pass-again"] * (rounds - 1)
            + c["clear-away"]
            + (first ? c["lay-out"] : 0)
            + (rolls ? c["roll-minutes"] : 0);
        var labour = items.Sum(i => ZoneWork.Labour(i.Deed, i.Work.State, c)) + setUp + open;
        // Foam that has to be thick somewhere is laid thick all over.
        var film = items.FirstOrDefault(i => i.Deed.Option.Film == "thick-foam").Deed?.Option.Film ?? deed.Option.Film;
        var solution = items.Sum(i => Solution(i, film)) * (1 + c["waste"]);
        var water = items.Sum(i => ZoneWork.Water(i.Deed, i.Work.State));
        var product = agent.IsWater ? 0 : solution * strength.Value;
        var until = Observables.Of(stage, t, c);
        var dwell = DwellOf(items);
        var seals = items.Max(i => i.Deed.Option.Seals);
        var sealedSpray = seals < 0 ? null : c.Treatments[seals].Agent;
        var mists = items.Max(i => i.Deed.Option.Mists);
        var sections = SectionsOf(t, items, film, dwell, mists);
        var answers = items.SelectMany(i => Answers(i.Work, i.Deed)).ToArray();
        return new Step(
            key,
            after,
            stage,
            deed.Slot.Id,
            block,
            t.Id,
            t.Name,
            agent.Id,
            agent.Name,
            strength,
            agent.Carrier,
            agent.IsWater || solution <= 0 ? null : MixFor(t, agent, strength, solution),
            rounds,
            dwell,
            sealedSpray is null ? agent.MaxDwell : Math.Min(agent.MaxDwell, sealedSpray.MaxDwell),
            deed.Option.UnderFoam ? "pump sprayer, bottom up; foam over it at once, no rinse between" : Tool(t, block),
            zones,
            answers,
            Why(deed, stage, items, answers),
            until,
            Cautions(deed, items, film, sections, rolls),
            Kit(t, agent, stage),
            labour,
            rounds * (sections is null || dwell <= 0 ? dwell : sections.IdleMinutes),
            water,
            product,
            product / 1000 * agent.Price + water * c["water-price"]
        )
        {
            Bottle = agent.Bottle,
            BottleId = agent.BottleId,
            SetUpMinutes = setUp,
            OpenMinutes = open,
            Per = [.. Portions(items, zones, film, agent.IsWater ? 0 : strength.Value, setUp + open)],
            Parts = [.. zones.Select(z => items.First(i => i.Work.State.Zone.Id == z)).Select(i => PartOf(i, film))],
            Mists = mists,
            Cool = CoolingOf(items, zones),
            Film = film,
            Under = deed.Option.UnderFoam,
            Over = sealedSpray?.Id,
            RoundsBetween = (rounds, rounds),
            Avoid = [.. c.Mistakes[stage]],
            Sections = sections,
        };
    }

    private StepZone PartOf((ZoneWork Work, Deed Deed) i, string? film) =>
        new(
            i.Work.State.Zone.Id,
            60 * ZoneWork.LabourPerRound(i.Deed, i.Work.State, c),
            i.Work.State.Zone.Area * i.Deed.Option.Scale,
            i.Deed.Treatment.Agent.IsWater
                ? null
                : i.Work.State.Window(film ?? SiteConditions.CarrierOf(i.Deed.Treatment.Agent))?.UsableSeconds
        );

    private static Cooling? CoolingOf((ZoneWork Work, Deed Deed)[] items, string[] zones)
    {
        var hot = items.Where(i => i.Deed.Option.Cooling.Minutes > 0).ToDictionary(i => i.Work.State.Zone.Id);
        return hot.Count == 0
            ? null
            : new(
                [.. zones.Where(hot.ContainsKey)],
                hot.Values.Max(i => i.Work.State.PanelC),
                hot.Values.Sum(i => i.Deed.Rounds * i.Deed.Option.Cooling.Minutes),
                hot.Values.Sum(i => i.Deed.Rounds * i.Deed.Option.Cooling.Litres)
            );
    }

    /// <summary>Millilitres a zone of a step takes: where one needs thick foam, thin is not laid beside it.</summary>
    private double Solution((ZoneWork Work, Deed Deed) i, string? film) =>
        ZoneWork.SolutionMl(i.Deed, i.Work.State) * (film == "thick-foam" && i.Deed.Option.Film != film ? builder.ThickFoam : 1);

    /// <summary>Minutes it stays where it may stay least, in tenths; a spray that foam goes over is not waited for.</summary>
    private static double DwellOf(IEnumerable<(ZoneWork Work, Deed Deed)> items) =>
        items.Min(i => i.Deed.Option.UnderFoam ? 0 : Math.Floor(i.Deed.Option.DwellMinutes * 10 + 1e-6) / 10);

    /// <summary>Zones of a step by how often they are done, fewest rounds first.</summary>
    /// <param name="film">How the step is laid on.</param>
    /// <param name="product">Part of the solution that is product.</param>
    private IEnumerable<Portion> Portions((ZoneWork Work, Deed Deed)[] items, string[] zones, string? film, double product, double ready)
    {
        // Making ready and laying out go with those who are done first.
        foreach (var g in items.GroupBy(i => (i.Deed.Rounds, i.Deed.Option.Seals)).OrderBy(g => g.Key))
        {
            var of = g.Select(i => i.Work.State.Zone.Id).ToHashSet();
            yield return new Portion(
                [.. zones.Where(of.Contains)],
                g.Key.Rounds,
                g.Sum(i => ZoneWork.Labour(i.Deed, i.Work.State, c)) + ready,
                g.Sum(i => ZoneWork.Water(i.Deed, i.Work.State)),
                g.Sum(i => Solution(i, film)) * product * (1 + c["waste"]),
                DwellOf(g),
                g.Key.Seals < 0 ? null : c.Treatments[g.Key.Seals].Agent.Id
            );
            ready = 0;
        }
    }

    /// <summary>The step in sections of which none dries before its rinse; null when drying is not computed or not the limit.</summary>
    private SectionPlan? SectionsOf(Treatment t, (ZoneWork Work, Deed Deed)[] items, string? film, double dwell, int mists)
    {
        film ??= SiteConditions.CarrierOf(t.Agent);
        if (
            film is null
            || t.Agent.IsWater
            || items[0].Deed.Option.UnderFoam
            || items.Any(i => i.Work.State.Window(film) is null)
            || items.Min(i => i.Work.State.Window(film)!.Value.FirstDry) >= c["not-the-limit"]
        )
        {
            return null;
        }

        var later = At(items[0].Work.State.Conditions!.When.AddMinutes(c["windows-apart"]));
        var parts = items
            .Select(i =>
            {
                var z = i.Work.State;
                var now = z.Window(film)!.Value;
                return new SectionItem(
                    z.Zone,
                    now.UsableSeconds,
                    later is null
                        ? now.UsableSeconds
                        : later.FirstDry(z.Zone, z.Family, z.Reading, film) * later.SafePart(z.Zone.Id, z.Reading),
                    t.Contact == Contact.None ? null : ZoneWork.LabourPerRound(i.Deed, z, c)
                );
            })
            .ToArray();
        // Two films are put on before the one dwell begins.
        var speed = film == ProblemBuilder.Sealed ? builder.Speed with { Apply = builder.Speed.Apply / 2 } : builder.Speed;
        return Conditions.Sections.Plan(parts, _vehicle, speed, dwell * 60, mists);
    }

    /// <summary>The same place at another moment; null where its weather does not reach.</summary>
    private SiteConditions? At(DateTimeOffset when)
    {
        if (!_moments.TryGetValue(when, out var there))
        {
            there = _moments[when] = SiteConditions.Of(survey, when, c).Conditions?.Corrected(states[0].Conditions?.Biases);
        }

        return there;
    }

    /// <summary>The tool, in the words of the house's school.</summary>
    private string Tool(Treatment t, Block block) =>
        block == Block.Wheels && Medium.For(t.Id, block, c) is { Id: "wheel-mitt" } own
            ? $"{own.Name} from the third bucket, {own.Rule.Split("; ")[^1]}"
        : t.In(Place.Foam)
            ? t.Tool
                + (survey.Rule("rinseFoamBeforeContact") == "true" ? ", rinse the foam off before touching" : ", wash through the foam")
        : t.IsClay
            ? t.Tool
                + builder.Limits.Lubricant switch
                {
                    "neutral-shampoo" =>
                        $"; shampoo 1:{c["clay-shampoo-weak"]:0}, or as rich as 1:{c["clay-shampoo-strong"]:0}, mixed fresh as lubricant",
                    "iron-remover" => "; iron remover as lubricant, door open, rinsed before it dries",
                    "lubricant" => "; clay lubricant",
                    _ => $"; rinseless 1:{c["clay-rinseless"]:0} as lubricant",
                }
        : t.Tool;

    private IEnumerable<Answer> Answers(ZoneWork w, Deed d)
    {
        foreach (var r in d.Treatment.Removes)
        {
            if (r.Kind != Kinds.Residue && d.Before[r.Kind] < Levels.Nil && d.After[r.Kind] > d.Before[r.Kind])
            {
                yield return new Answer(
                    w.State.Zone.Id,
                    c.Contaminants[r.Kind].Id,
                    Levels.LoadOf(d.Before[r.Kind]),
                    Levels.LoadOf(d.After[r.Kind])
                );
            }
        }
    }

    /// <summary>What is poured: as much as the panels take, but never less than anybody mixes.</summary>
    private Mix MixFor(Treatment t, Agent agent, ProductFraction strength, double needMl)
    {
        var solutionMl = Math.Max(needMl, SmallestBatch(t, agent, strength));
        var product = solutionMl * strength.Value;
        if (agent.Basis != StrengthBasis.Bottle)
        {
            return new Mix(
                t.IsClay ? "sprayer" : agent.Vessel,
                strength,
                product,
                solutionMl - product,
                agent.Basis,
                true,
                strength.Value,
                strength.Value
            )
            {
                Leftover = Rest(agent, strength),
                NeedMl = needMl,
            };
        }

        var lance = survey.Kit?.Lance ?? LanceDraw.Uncalibrated;
        var bottle = lance.BottleFor(strength).Bottle ?? ProductFraction.Neat;
        return new Mix(
            agent.Vessel,
            bottle,
            product,
            product / bottle.Value - product,
            agent.Basis,
            lance.Calibrated,
            bottle.Value * lance.Low,
            bottle.Value * lance.High
        )
        {
            Leftover = Rest(agent, strength),
            NeedMl = needMl * strength.Value / bottle.Value,
        };
    }

    /// <summary>The smallest batch that is worth mixing, ml on the panel; neat product and what is dabbed from a cloth is taken as needed.</summary>
    private double SmallestBatch(Treatment t, Agent agent, ProductFraction strength) =>
        strength.Value >= c["counts-as-neat"] ? 0
        : t.IsClay ? 1000 * c["batch-sprayer"]
        : agent.Vessel switch
        {
            "bucket" => 1000
                * c[t.GoesRound || t.In(Place.ReWash) || t.In(Place.Strip) || t.In(Place.Scrub) ? "bucket-low" : "batch-bucket"],
            "lance" => 1000 * c["batch-lance"],
            "sprayer" => 1000 * c["batch-sprayer"],
            _ => 0,
        };

    /// <summary>What is mixed already and still good.</summary>
    private Leftover? Rest(Agent agent, ProductFraction strength) =>
        survey
            .Kit?.Leftovers.Where(l => l.Agent == agent.Id && l.IsOnPanel(agent, strength.Value, survey.Kit, c))
            .OrderByDescending(l => l.Ml)
            .FirstOrDefault();

    /// <summary>How it is dried: by the house, but without an aid that lays fillers where paint is to be corrected or protected.</summary>
    private string DryingRule => AidUndoes.Length > 0 ? HouseRules.Default("drying") : survey.Rule("drying");

    /// <summary>Painted zones that are made ready for something a drying aid would undo; none where the house dries without.</summary>
    private string[] AidUndoes =>
        survey.Rule("drying") == "aid"
            ?
            [
                .. work.Where(w => w.Deeds.Count > 0 && w.State.Family.IsPaneling && w.State.GoalIn(survey).GoesOn)
                    .Select(w => w.State.Zone.Id),
            ]
            : [];

    private Step? DryStep(List<Step> steps, IReadOnlyList<string> after, StepKeys keys)
    {
        var wet = work.Where(w => w.Deeds.Any(d => d.Treatment.WaterLitres > 0) && w.State.Family.IsWiped).Select(w => w.State).ToArray();
        var left =
            wet.Length > 0 && wet[0].Conditions is { } now
                ? WaterLeft.Of(now, wet.Select(z => (z.Zone, z.Family)), survey.Site.WaterHardnessMgL)
                : [];
        // Where nothing dries soon the old order stands; else what spots first comes first, within the same span glass and high panels.
        var soon = left.Where(w => w.Seconds < c["not-the-limit"]).ToDictionary(w => w.Zone, w => (int)(w.Seconds / c["drying-together"]));
        var zones = wet.Select(w => w.Zone)
            .OrderBy(z => soon.GetValueOrDefault(z.Id, int.MaxValue))
            .ThenByDescending(z => z.Kind.Id == "glass")
            .ThenByDescending(z => z.Top)
            .ThenBy(z => z.Id, StringComparer.Ordinal)
            .ToArray();
        if (zones.Length == 0)
        {
            return null;
        }

        var rule = DryingRule;
        var name = rule switch
        {
            "blade-glass" => "Blade the glass, blot the rest",
            "aid" => "Dry with a drying aid",
            _ => "Blot dry, blow out the crevices",
        };
        var ids = zones.Select(z => z.Id).ToArray();
        return new Step(
            keys.Next(Stage.Dry, rule, ids),
            after,
            Stage.Dry,
            Place.Dry,
            Block.Body,
            rule,
            name,
            "water",
            "none",
            ProductFraction.Neat,
            AgentCarrier.None,
            null,
            1,
            0,
            0,
            "drying towel, blower",
            ids,
            [],
            soon.Count > 0
                ? Spots(left)
                : ["Glass first, so that drops from above do not mark it again.", "Standing water leaves rings; hard water more."],
            null,
            ["Blower: eyes and ears."],
            ["eyes", "ears"],
            zones.Sum(z => z.Area * c["dry-labour"] + c["dry-part"]),
            0,
            0,
            0,
            0
        )
        {
            RoundsBetween = (1, 1),
            Avoid = [.. c.Mistakes[Stage.Dry]],
        };
    }
}

/// <summary>
/// Gives steps keys stage/treatment/ordinal; where an earlier plan had the same work on mostly the same zones, its key is kept.
/// </summary>
internal sealed class StepKeys(Plan? earlier, IReadOnlySet<string>? taken)
{
    private readonly HashSet<string> _used = [.. taken ?? new HashSet<string>()];

    public string Next(Stage stage, string treatment, IReadOnlyList<string> zones)
    {
        var old = earlier
            ?.Steps.Where(s => s.Stage == stage && s.Treatment == treatment && !_used.Contains(s.Key))
            .Select(s => (s.Key, Shared: s.Zones.Intersect(zones).Count()))
            .Where(x => x.Shared > 0)
            .OrderByDescending(x => x.Shared)
            .ThenBy(x => x.Key, StringComparer.Ordinal)
            .ToArray();
        var key = old is [var first, ..] ? first.Key : null;
        for (var n = 1; key is null; n++)
        {
            var candidate = $"{stage}/{treatment}/{n}";
            key = _used.Contains(candidate) || earlier?.Steps.Any(s => s.Key == candidate) == true ? null : candidate;
        }

        _used.Add(key);
        return key;
    }
}
