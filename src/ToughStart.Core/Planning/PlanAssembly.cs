using ToughStart.Core.Chemistry;
using ToughStart.Core.Conditions;
using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Planning;

/// <summary>Turns per-zone choices into steps people can follow, with the reason beside every step, skip and refusal.</summary>
internal sealed class PlanAssembly(
    Survey survey, StageGraph graph, ProblemBuilder builder, IReadOnlyList<ZoneState> states, IReadOnlyList<ZoneWork> work, Catalogue c,
    IEnumerable<Step> done)
{
    private static readonly string[] LoadWords = ["trace", "light", "heavy", "caked"];
    private readonly Compatibility _matrix = new(c);
    private readonly Vehicle _vehicle = Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size);
    private readonly Dictionary<DateTimeOffset, SiteConditions?> _moments = [];
    private readonly HashSet<(string What, ProductFraction Strength)> _mixed = [.. done.Select(s => (c.Treatments.Any(t => t.Id == s.Treatment && t.IsClay) ? s.Treatment : s.Agent, s.Strength))];
    private readonly Dictionary<string, Dictionary<Slot, (ZoneWork Work, Deed Deed)>> _bySlot = work.ToDictionary(w => w.State.Zone.Id, w => w.Deeds.ToDictionary(d => d.Slot, d => (w, d)));

    /// <summary>Steps in the order of work: wheels and body as the house rule says, each in slot order, drying last.</summary>
    public IReadOnlyList<Step> Steps(StepKeys keys)
    {
        var groups = work.SelectMany(w => w.Deeds.Select(d => (Work: w, Deed: d, w.State.Zone.Block)))
            .GroupBy(x => (x.Block, Position: graph.Position(x.Deed.Slot.Id), Stage: StageOf(x.Deed, x.Work.State), x.Deed.Treatment.Index, x.Deed.StrengthIndex, x.Deed.Rounds, Thick: x.Deed.Option.Film == "thick-foam", Under: x.Deed.Option.UnderFoam, x.Deed.Option.Seals))
            .Select(g => (g.Key, Items: g.ToArray()))
            .OrderBy(g => Order(g.Key.Block, g.Key.Position)).ThenBy(g => g.Key.Position).ThenBy(g => g.Key.Block).ThenBy(g => StageRank(g.Key.Stage)).ThenBy(g => g.Key.Under).ThenByDescending(g => g.Key.Seals).ThenBy(g => g.Key.Index).ThenBy(g => g.Key.StrengthIndex).ThenByDescending(g => g.Key.Rounds)
            .ToArray();
        var steps = new List<Step>();
        var lastOf = new Dictionary<string, string>();
        string? lastWheel = null;
        foreach (var (key, items) in groups)
        {
            var zones = items.Select(i => i.Work.State.Zone).OrderByDescending(z => z.Top).ThenBy(z => z.Id, StringComparer.Ordinal).Select(z => z.Id).ToArray();
            var id = keys.Next(key.Stage, items[0].Deed.Treatment.Id, zones);
            var after = zones.Select(z => lastOf.GetValueOrDefault(z)).OfType<string>().ToHashSet();
            if (survey.Rule("wheels") == "first" && key.Block == Block.Body && lastWheel is not null && after.Count == 0)
            {
                after.Add(lastWheel);
            }

            steps.Add(MakeStep(id, after.Order(StringComparer.Ordinal).ToArray(), key.Stage, key.Block, items.Select(i => (i.Work, i.Deed)).ToArray(), zones));
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

    public IReadOnlyList<Skipped> Skipped()
    {
        var lines = new List<(string Stage, string Reason, string Zone)>();
        foreach (var w in work)
        {
            foreach (var (slot, kinds) in Explained)
            {
                if (!_bySlot[w.State.Zone.Id].ContainsKey(c.Slot(slot)) && WhySkipped(slot, kinds, w) is { } reason)
                {
                    lines.Add((c.Slot(slot).Stage, reason, w.State.Zone.Id));
                }
            }
        }

        return lines.GroupBy(l => (l.Stage, l.Reason)).Select(g => new Skipped(g.Key.Stage, g.Select(l => l.Zone).ToArray(), g.Key.Reason)).OrderBy(s => c.Slots.First(x => x.Stage == s.Stage).Index).ThenBy(s => s.Reason, StringComparer.Ordinal).ToArray();
    }

    public IReadOnlyList<RefusedGroup> Refused(List<Refused> refusals) =>
        refusals.GroupBy(r => (r.Treatment, r.Objection.Line)).Select(g => new RefusedGroup(
                g.Key.Treatment, g.Select(r => r.Zone).Distinct().ToArray(),
                g.Key.Line.Say(g.Select(r => r.Objection.Subject)) + WouldHelp(c.Treatment(g.Key.Treatment), g.Key.Line.Cause, g.Select(r => r.Zone)), g.Key.Line.Id))
            .OrderBy(g => c.Treatment(g.Treatment).Index).ThenBy(g => g.Reason, StringComparer.Ordinal).ToArray();

    /// <summary>What would make it available where drying forbids it: computed on its tightest zone, and another agent that does the same work.</summary>
    private string WouldHelp(Treatment t, Cause cause, IEnumerable<string> zones)
    {
        if (cause == Cause.HotPanel)
        {
            return Cooler(zones);
        }

        if (cause != Cause.DriesTooSoon || SiteConditions.CarrierOf(t.Agent) is not { } film)
        {
            return "";
        }

        var z = zones.Select(id => states.First(s => s.Zone.Id == id)).MinBy(s => s.Window(film)!.Value.FirstDry)!;
        var remedies = Remedies.For(survey, z.Conditions!, z.Zone, z.Family, film, t.Agent.Dwell * 60, builder.Speed, survey.Shelf is null || c.Agents.Any(a => a.Vessel == "lance"), At);
        var kinds = t.Removes.Select(r => r.Kind).Where(k => z[k] is { Load: > 0 }).ToArray();
        var other = builder.Instead(t, z, kinds);
        return $" ({Limits.Words(z.Zone.Id)}: {SiteConditions.Say(z.Window(film)!.Value.FirstDry)} of the {SiteConditions.Say(t.Agent.Dwell * 60)} asked). {char.ToUpperInvariant(Remedies.Say(remedies)[0])}{Remedies.Say(remedies)[1..]}{(other is null ? "" : $"; or {other} instead")}";
    }

    /// <summary>When the hottest of them comes below the limit by itself, and what shade makes of it.</summary>
    private string Cooler(IEnumerable<string> zones)
    {
        var hottest = zones.Select(id => states.First(s => s.Zone.Id == id)).MaxBy(z => z.PanelC)!;
        if (hottest.Conditions is not { } now)
        {
            return "";
        }

        double Then(SiteConditions there) => there.Balance(hottest.Zone, hottest.Family, hottest.Reading, false).Now;
        var said = $" ({Limits.Words(hottest.Zone.Id)} {hottest.PanelC:0} °C";
        if (now.Sunny && hottest.Reading is null)
        {
            said += $"; {Then(now.InShade()):0} °C in shade";
        }

        if (hottest.Reading is null && Enumerable.Range(1, (int)c["work-to"]).Select(h => now.When.AddHours(h)).TakeWhile(t => t.Date == now.When.Date && t.Hour <= c["work-to"]).FirstOrDefault(t => At(t) is { } there && Then(there) <= c["hot-panel"]) is var later && later != default)
        {
            said += string.Create(System.Globalization.CultureInfo.InvariantCulture, $"; below {c["hot-panel"]:0} °C by {later:HH:mm}");
        }

        return said + ")";
    }

    public IReadOnlyList<Refer> Refer(List<Refused> refusals)
    {
        var lines = new List<(string What, string Reason, string Zone)>();
        foreach (var w in work)
        {
            for (var k = 0; k < Kinds.Count; k++)
            {
                var shortBy = (Asked(w, k) - w.Final[k]) / (double)Levels.PerDecade;
                if (shortBy > c["shortfall-refer"] + 1e-9)
                {
                    var name = k == Kinds.Residue ? "residue" : c.Contaminants[k].Name.ToLowerInvariant();
                    lines.Add((k == Kinds.Residue ? "residue" : c.Contaminants[k].Id, $"{name} stays at {Levels.LoadOf(w.Final[k]):0.00} against {Levels.LoadOf(Asked(w, k)):0.00}: {Beyond(k, w.State, refusals)}", w.State.Zone.Id));
                }
            }

            foreach (var d in (w.State.Survey?.Condition.Damage ?? []).OrderBy(d => d.Kind, StringComparer.Ordinal))
            {
                lines.Add((d.Kind, d.Verdict switch { "recommended" => "damage, not dirt: repair recommended", "bought" => "damage, not dirt: repair bought, after the wash", "declined" => "damage, not dirt: repair declined by the client", _ when survey.Goal == "sale" && d.Kind is ("scratch" or "swirl" or "etch" or "failed-lens") => "damage, not dirt: sanding and polishing are no part of a sale tidy-up, declined", _ => "damage, not dirt: recorded for the inspection list" }, w.State.Zone.Id));
            }

            var oxidation = w.State[c.Contaminant("oxidation").Index];
            if (oxidation.Basis == Basis.Found)
            {
                lines.Add(("oxidation", "chalked paint is not dirt: recorded, for correction", w.State.Zone.Id));
            }
        }

        return lines.GroupBy(l => (l.What, l.Reason)).Select(g => new Refer(g.Select(l => l.Zone).ToArray(), g.Key.What, g.Key.Reason)).ToArray();
    }

    /// <summary>Zones that will not have been proven when the plan is done: hidden kinds that nobody has tested.</summary>
    public IReadOnlyList<string> Unverified(Progress progress) => states
        .Where(z => z.Beliefs.Any(b => b.Basis == Basis.Hidden && b.Probability >= c["worth-testing"] && builder.TargetLevel(b.Kind.Index, z.Family) > 0 && progress.Of(z.Zone.Id)?.Looked.Contains(b.Kind.Index) != true)
            || progress.Of(z.Zone.Id)?.AskAgain.Count > 0)
        .Select(z => z.Zone.Id).ToArray();

    public IReadOnlyList<string> Warnings(IReadOnlyList<Step> steps)
    {
        var list = new List<string>();
        if (builder.WashMedium.Warning is { } wash)
        {
            list.Add(wash);
        }

        list.AddRange(SiteWarnings.Of(survey));
        if (states.Where(z => z.Conditions is not null && !z.Cooled && z.PanelC > c["hot-panel"]).ToArray() is { Length: > 0 } hot)
        {
            list.Add($"Too hot for chemistry: {hot.Length} zones above {c["hot-panel"]:0} °C, {Limits.Words(hot.MaxBy(z => z.PanelC)!.Zone.Id)} at {hot.Max(z => z.PanelC):0} °C. Water only there: shade, wait, or another start.");
        }

        if (states.Count(z => z.Cooled) is > 0 and var cooled)
        {
            list.Add($"Hot paint: {cooled} panels at up to {states.Where(z => z.Cooled).Max(z => z.PanelC):0} °C. Rinse each cool right before its chemistry; planned for panels so cooled.");
        }

        var thin = states.Where(z => z.Survey?.Condition.FilmUm is { Count: > 0 } film && Readiness.FilmThickness.Of(film).Thin).ToArray();
        if (thin.Length > 0)
        {
            list.Add($"Thin paint on {string.Join(", ", thin.Select(z => Limits.Words(z.Zone.Id)))}: gentlest contact, no correction without a word with the client.");
        }

        if (steps.Any(s => s.Mix is { Calibrated: false }))
        {
            list.Add("Lance not calibrated: draw ratio 0.1 taken, the panel may get 0.4 to 1.7 times the strength shown. Time one bottle of water to calibrate.");
        }

        if (survey.Rule("drying") == "aid" && survey.Goal is ("protect" or "correct"))
        {
            list.Add(steps.Any(s => s.Agent == "alcohol-wipe") ? "A drying aid lays fillers down again: wipe after it, not before." : "A drying aid lays fillers on paint that was just stripped: wipe before protection, or dry without it.");
        }

        if (states.Count(z => z.SurfaceAssumed) is > 0 and var n)
        {
            list.Add($"{n} zones have an assumed surface. Check them before strong chemistry.");
        }

        if (work.Where(w => !w.Solution.Proved).OrderByDescending(w => w.Solution.Cost - w.Solution.Bound).ToArray() is [var open, ..] all)
        {
            list.Add(string.Create(System.Globalization.CultureInfo.InvariantCulture, $"Not proved best on {all.Length} {(all.Length == 1 ? "zone" : "zones")}: {Limits.Words(open.State.Zone.Id)} costs {open.Solution.Cost / 1000.0:0.#} min as found, and no plan of it less than {open.Solution.Bound / 1000.0:0.#}."));
        }

        return list;
    }

    public IReadOnlyList<string> Closing()
    {
        var list = new List<string>();
        if (work.Any(w => w.State.Zone.Block == Block.Wheels && w.Deeds.Count > 0))
        {
            list.Add("Brake test at walking pace");
        }

        if (survey.Rule("tyres") is var finish && finish != "none")
        {
            list.Add($"Tyres {finish}: water-based dressing on the sidewall, none on the tread");
        }

        list.Add("Mark etches, chips and scratches; recommended, bought or declined");
        if (survey.Goal is "protect" or "correct")
        {
            list.Add("Touch, bleed and water checks done on every panel, else the zone stays unverified");
        }

        return list;
    }

    public IReadOnlyList<ZoneTrace> Traces(IReadOnlyList<Step> steps) => work.Select(w =>
    {
        var own = steps.Where(s => s.Zones.Contains(w.State.Zone.Id)).ToArray();
        var kinds = Enumerable.Range(0, Kinds.Count).Where(k => w.Problem.Start[k] < Levels.Nil || w.Deeds.Any(d => d.After[k] < Levels.Nil)).ToArray();
        Dictionary<string, double> Loads(int[] levels) => kinds.ToDictionary(k => k == Kinds.Residue ? "residue" : c.Contaminants[k].Id, k => Levels.LoadOf(levels[k]));
        return new ZoneTrace(
            w.State.Zone.Id, Loads(w.Problem.Start),
            w.Deeds.OrderBy(d => graph.Position(d.Slot.Id)).Select(d => (own.First(s => s.Slot == d.Slot.Id).Key, (IReadOnlyDictionary<string, double>)Loads(d.After))).ToArray(),
            kinds.Where(k => Asked(w, k) > 0).ToDictionary(k => k == Kinds.Residue ? "residue" : c.Contaminants[k].Id, k => Levels.LoadOf(Asked(w, k))));
    }).ToArray();

    private static readonly (string Slot, string[] Kinds)[] Explained =
    [
        ("bug", ["bug"]), ("foam", ["road-film", "grit", "loose-dust"]), ("tar", ["tar", "rubber", "adhesive"]), ("iron", ["iron"]),
        ("acid", ["mineral", "cement", "iron"]), ("clay", ["bonded-mix", "overspray"]), ("strip", ["old-protection"]),
    ];

    private string? WhySkipped(string slot, string[] kinds, ZoneWork w)
    {
        var z = w.State;
        var treatments = c.Treatments.Where(t => t.In(slot)).ToArray();
        if (!treatments.Any(t => t.SuitsFamily(z.Family)))
        {
            return slot == "clay" && z.Family is "trim" ? "clay never goes on textured plastic" : null;
        }

        var ids = kinds.Select(k => c.Contaminant(k)).Where(k => k.CanSitOn(z.Family)).ToArray();
        if (ids.Length == 0)
        {
            return null;
        }

        if (slot == "strip" && w.Problem.Keep is not null)
        {
            return "the goal keeps the old protection";
        }

        if (ids.All(k => w.Problem.Target[k.Index] == 0))
        {
            return $"not asked for by the goal {survey.Goal}";
        }

        if (ids.FirstOrDefault(k => w.Problem.Start[k.Index] < Levels.Nil) is { } there)
        {
            var judged = treatments.Where(t => t.SuitsFamily(z.Family)).Select(t => builder.Limits.Judge(t, z)).ToArray();
            return judged.All(v => !v.Allowed) ? judged[0].Objection!.Words
                : slot == "acid" ? w.Final[there.Index] >= w.Problem.Target[there.Index] - 2 ? "non-acid work is enough" : "acid would do more harm than the rest is worth"
                : w.Final[there.Index] >= w.Problem.Target[there.Index] - 2 ? $"{there.Name.ToLowerInvariant()}: home without it" : $"{there.Name.ToLowerInvariant()}: what is left does not repay it";
        }

        if (ids.Any(k => z[k.Index].Basis == Basis.Hidden && z[k.Index].Probability >= c["worth-testing"]))
        {
            return "not looked: test first";
        }

        return slot == "clay" && ids.Any(k => z[k.Index].Basis == Basis.LookedNone) ? "smooth: clay would only mark it" : ids.Any(k => z[k.Index].Basis == Basis.LookedNone) ? "looked, none found" : null;
    }

    private string Beyond(int kind, ZoneState z, List<Refused> refusals) => kind == Kinds.Residue ? "one more wash"
        : refusals.FirstOrDefault(r => r.Zone == z.Zone.Id && r.Objection.Cause == Cause.Declined && c.Treatment(r.Treatment).Removes.Any(x => x.Kind == kind)) is { } declined ? $"{c.Treatment(declined.Treatment).Name} {declined.Objection.Words}"
        : builder.Scarce.Select(c.Agent).FirstOrDefault(a => c.Treatments.Any(t => t.Agent == a && t.SuitsFamily(z.Family) && t.Removes.Any(r => r.Kind == kind) && builder.Limits.Judge(t, z).Allowed)) is { } few ? $"{few.Name} runs short, and what there is saves more elsewhere: buy or borrow"
        : c.Contaminants[kind].Id switch
        {
            "mineral" => "buff or polish, or live with it",
            "iron" when builder.Limits.Judge(c.Treatment("wheel-acid"), z) is { Objection: { } acid } && z.Family == "wheel" && _bySlot[z.Zone.Id].ContainsKey(c.Slot("iron")) => $"four rounds done, the rest stays or is polished off ({acid.Words})",
            _ => refusals.FirstOrDefault(r => r.Zone == z.Zone.Id && c.Treatment(r.Treatment) is var t && t.Agent.Id != "tfr" && t.Removes.Any(x => x.Kind == kind)) is { } refused
                ? $"as far as it goes here ({refused.Objection.Words})"
                : "as far as it goes here; polishing or replacing is beyond this plan",
        };

    private static int Asked(ZoneWork w, int kind) => (w.Problem.Asked ?? w.Problem.Target)[kind];

    private int Order(Block block, int position)
    {
        var mid = graph.Position("foam");
        return (survey.Rule("wheels"), block) switch
        {
            ("first", Block.Wheels) => 0,
            ("after-prewash", Block.Wheels) when position > mid => 1,
            ("after-prewash", Block.Body) when position > mid => 2,
            ("during-foam" or "with-prewash", _) => 0,
            ("first", _) => 1,
            _ => 0,
        };
    }

    private static int StageRank(string stage) => stage switch { "arches" => 0, "tyres" => 1, "wheels" => 2, _ => 3 };

    private static string StageOf(Deed d, ZoneState z) => Slot.StageOn(d.Slot, z.Family);

    private Step MakeStep(string key, string[] after, string stage, Block block, (ZoneWork Work, Deed Deed)[] items, string[] zones)
    {
        var deed = items[0].Deed;
        var t = deed.Treatment;
        var agent = t.Agent;
        // Mixed once for the whole job: the first step that needs it pays, and none where a bottle of it stands mixed.
        var setUp = _mixed.Add((t.IsClay ? t.Id : agent.Id, deed.Strength)) ? builder.SetUpOf(t, deed.Strength) : 0;
        var labour = items.Sum(i => ZoneWork.Labour(i.Deed, i.Work.State, c)) + setUp;
        var solution = items.Sum(i => ZoneWork.SolutionMl(i.Deed, i.Work.State)) * (1 + c["waste"]);
        var water = items.Sum(i => ZoneWork.Water(i.Deed, i.Work.State));
        var product = agent.IsWater ? 0 : solution * deed.Strength.Value;
        var until = Observables.Of(stage, t, c);
        var dwell = deed.Option.UnderFoam ? 0 : Math.Floor(items.Min(i => i.Deed.Option.DwellMinutes) * 10 + 1e-6) / 10;
        var sealedSpray = deed.Option.Seals < 0 ? null : c.Treatments[deed.Option.Seals].Agent;
        var mists = items.Max(i => i.Deed.Option.Mists);
        var sections = SectionsOf(t, items, dwell, mists);
        var answers = items.SelectMany(i => Answers(i.Work, i.Deed)).ToArray();
        return new Step(
            key, after, stage, deed.Slot.Id, block, t.Id, t.Name, agent.Id, agent.Name, deed.Strength, agent.Carrier, agent.IsWater || solution <= 0 ? null : MixFor(agent, deed.Strength, solution),
            deed.Rounds, dwell, sealedSpray is null ? agent.MaxDwell : Math.Min(agent.MaxDwell, sealedSpray.MaxDwell), deed.Option.UnderFoam ? "pump sprayer, bottom up; foam over it at once, no rinse between" : Tool(t, block), zones, answers, Why(deed, stage, items, answers), until, Cautions(deed, items, sections), Kit(t, stage),
            labour, deed.Rounds * (sections is null || dwell <= 0 ? dwell : sections.IdleMinutes), water, product, product / 1000 * agent.Price + water * c["water-price"])
        {
            Bottle = agent.Bottle,
            BottleId = agent.BottleId,
            SetUpMinutes = setUp,
            Mists = mists,
            Film = deed.Option.Film,
            Under = deed.Option.UnderFoam,
            Over = sealedSpray?.Id,
            RoundsBetween = items.Select(i => Costing.RangeModel.Rounds(i.Deed, i.Work, c)).Aggregate((a, b) => (Math.Min(a.Low, b.Low), Math.Max(a.High, b.High))),
            Avoid = [.. c.Mistakes[stage]],
            Sections = sections,
        };
    }

    /// <summary>The step in sections of which none dries before its rinse; null when drying is not computed or not the limit.</summary>
    private SectionPlan? SectionsOf(Treatment t, (ZoneWork Work, Deed Deed)[] items, double dwell, int mists)
    {
        var film = items[0].Deed.Option.Film ?? SiteConditions.CarrierOf(t.Agent);
        if (film is null || t.Agent.IsWater || items[0].Deed.Option.UnderFoam || items.Any(i => i.Work.State.Window(film) is null) || items.Min(i => i.Work.State.Window(film)!.Value.FirstDry) >= c["not-the-limit"])
        {
            return null;
        }

        var later = At(items[0].Work.State.Conditions!.When.AddMinutes(30));
        var parts = items.Select(i =>
        {
            var z = i.Work.State;
            var now = z.Window(film)!.Value;
            return new SectionItem(z.Zone, now.UsableSeconds, later is null ? now.UsableSeconds : later.FirstDry(z.Zone, z.Family, z.Reading, film) * later.SafePart(z.Zone.Id, z.Reading), t.Contact == Contact.None ? null : ZoneWork.LabourPerRound(i.Deed, z, c));
        }).ToArray();
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
    private string Tool(Treatment t, Block block) => block == Block.Wheels && Medium.For(t.Id, block, c) is { Id: "wheel-mitt" } own ? $"{own.Name} from the third bucket, {own.Rule.Split("; ")[^1]}"
        : t.In("foam")
        ? t.Tool + (survey.Rule("rinseFoamBeforeContact") == "true" ? ", rinse the foam off before touching" : ", wash through the foam")
        : t.IsClay ? t.Tool + builder.Limits.Lubricant switch { "neutral-shampoo" => "; shampoo 1:10 to 1:20 mixed fresh as lubricant", "iron-remover" => "; iron remover as lubricant, door open", "lubricant" => "; clay lubricant", _ => "; rinseless 1:16 as lubricant" }
        : t.Tool;

    private IEnumerable<Answer> Answers(ZoneWork w, Deed d)
    {
        foreach (var r in d.Treatment.Removes)
        {
            if (r.Kind != Kinds.Residue && d.Before[r.Kind] < Levels.Nil && d.After[r.Kind] > d.Before[r.Kind])
            {
                yield return new Answer(w.State.Zone.Id, c.Contaminants[r.Kind].Id, Levels.LoadOf(d.Before[r.Kind]), Levels.LoadOf(d.After[r.Kind]));
            }
        }
    }

    private List<string> Why(Deed deed, string stage, (ZoneWork Work, Deed Deed)[] items, Answer[] answers)
    {
        var why = new List<string>();
        // Protection that goes along is no reason, unless it is the only one.
        var told = answers.Where(a => a.Contaminant != "old-protection" || stage is "strip" or "wipe").ToArray();
        var main = (told.Length > 0 ? told : answers).GroupBy(a => a.Contaminant)
            .Select(g => (Kind: c.Contaminant(g.Key), From: g.Max(a => a.Before), To: g.Max(a => a.After), Gain: g.Sum(a => Math.Log10(Math.Max(a.Before, 0.001) / Math.Max(a.After, 0.001))), Zones: g.Count()))
            .OrderByDescending(x => x.Gain).Take(2).ToArray();
        foreach (var m in main)
        {
            why.Add($"{m.Kind.Name} {Word(m.From)} on {(m.Zones == 1 ? Limits.Words(answers.First(a => a.Contaminant == m.Kind.Id).Zone) : m.Zones + " zones")}: {m.From:0.00} → {m.To:0.00}.");
        }

        if (main.Length == 0 && answers.Length == 0)
        {
            why.Add("Takes off what the chemistry before it left behind.");
        }

        if (deed.Slot.Reason.Length > 0 && Follows(deed, items))
        {
            why.Add(char.ToUpperInvariant(deed.Slot.Reason[0]) + deed.Slot.Reason[1..] + ".");
        }

        var rule = graph.Edges.FirstOrDefault(e => e.To == deed.Slot.Id && e.Rule is not null);
        if (rule is not null)
        {
            why.Add($"{rule.Rule}: {rule.Reason}.");
        }

        if (deed.Treatment.Agent.Strengths.Count > 1)
        {
            why.Add(deed.StrengthIndex == 0 ? "Weakest label strength is enough." : $"Weaker than {deed.Strength} costs more in all: rounds, set-up or what stays.");
        }

        foreach (var condition in items.SelectMany(i => i.Deed.Option.Conditions).Distinct().Take(4))
        {
            why.Add(char.ToUpperInvariant(condition[0]) + condition[1..] + ".");
        }

        return why;
    }

    /// <summary>Has any zone of the step work in a place that this one comes after for a reason? Else the reason explains nothing here.</summary>
    private bool Follows(Deed deed, (ZoneWork Work, Deed Deed)[] items) =>
        items.Any(i => deed.Slot.After.Any(a => _bySlot[i.Work.State.Zone.Id].ContainsKey(c.Slot(a))));

    private static string Word(double load) => LoadWords[load >= 0.75 ? 3 : load >= 0.4 ? 2 : load >= 0.15 ? 1 : 0];

    private Mix MixFor(Agent agent, ProductFraction strength, double solutionMl)
    {
        var product = solutionMl * strength.Value;
        if (agent.Basis != "bottle")
        {
            return new Mix(agent.Vessel, strength, product, solutionMl - product, agent.Basis, true, strength.Value, strength.Value) { Leftover = Rest(agent, strength) };
        }

        var lance = survey.Kit?.Lance ?? LanceDraw.Uncalibrated;
        var bottle = lance.BottleFor(strength).Bottle ?? ProductFraction.Neat;
        return new Mix(agent.Vessel, bottle, product, product / bottle.Value - product, agent.Basis, lance.Calibrated, bottle.Value * lance.Low, bottle.Value * lance.High) { Leftover = Rest(agent, strength) };
    }

    /// <summary>What is mixed already and still good.</summary>
    private Leftover? Rest(Agent agent, ProductFraction strength) =>
        survey.Kit?.Leftovers.Where(l => l.Agent == agent.Id && l.IsOnPanel(agent, strength.Value, survey.Kit, c)).OrderByDescending(l => l.Ml).FirstOrDefault();

    private List<string> Cautions(Deed deed, (ZoneWork Work, Deed Deed)[] items, SectionPlan? sections)
    {
        var t = deed.Treatment;
        var list = new List<string>();
        if (t.Agent.Bottle is { } bottle && builder.Limits.Bottle(t.Agent) is { Hazards.Count: > 0 } sheet)
        {
            list.Add($"{bottle}: {string.Join("; ", sheet.Hazards.Select(h => c.Statements.First(s => s.Code == h).Words).Take(2))}. Its label wins.");
        }

        if (Before(deed, items) is { } clash)
        {
            list.Add(clash);
        }

        if (t.Agent.Care.Length > 0)
        {
            list.Add(char.ToUpperInvariant(t.Agent.Care[0]) + t.Agent.Care[1..] + ".");
        }

        var film = items[0].Deed.Option.Film ?? SiteConditions.CarrierOf(t.Agent);
        var windows = items.Select(i => (i.Work.State, Window: i.Work.State.Window(film))).Where(x => x.Window is not null).OrderBy(x => x.Window!.Value.FirstDry).ToArray();
        if (t.Agent.Dwell > 0 && windows.Length > 0 && windows[0].Window is { } worst && worst.FirstDry < c["not-the-limit"])
        {
            list.Add($"{char.ToUpperInvariant(Limits.Words(worst.Zone)[0])}{Limits.Words(worst.Zone)[1..]} shows first dry spots after {SiteConditions.Say(worst.FirstDry)}: rinse by {SiteConditions.Say(worst.UsableSeconds)}{(sections is { Sections.Count: > 1 } ? $", in {sections.Sections.Count} sections" : "")}.");
            if (items.Max(i => i.Deed.Option.Mists) is > 0 and var mists)
            {
                list.Add($"Keep it wet: mist again every {SiteConditions.Say(worst.UsableSeconds)}, at most {mists} {(mists == 1 ? "time" : "times")}; one person stays with it.");
            }

            if (film == "thick-foam")
            {
                list.Add("Thick foam: more air or a richer bottle, laid on in two passes; thin foam would be dry too soon here.");
            }

            if (windows.Any(x => x.State.Cooled))
            {
                list.Add($"Panels at up to {windows.Max(x => x.Window!.Value.PanelC):0} °C: rinse the body cool first, never hot glass, discs or exhaust.");
            }
        }

        if (t.Agent.Dwell > 0 && t.Agent.Axis != "none")
        {
            list.Add(survey.Rule("dryOut") == "rewet" ? "If it dried: re-wet, rinse, and count the round as not done." : list.Any(x => x.Contains("never let it dry", StringComparison.OrdinalIgnoreCase)) ? "Smaller sections where it would." : "Never let it dry: smaller sections.");
        }

        if (t.Agent.Id is "water" && t.WaterLitres > 0)
        {
            list.Add("Lance never toward skin, tyres, seals, bearings or stickers.");
        }

        if (items.Any(i => i.Work.State.Zone.Block == Block.Wheels) && t.WaterLitres > 0)
        {
            list.Add("Brakes cold before wetting; nothing aimed at discs.");
        }

        if (items.Any(i => i.Work.State.Zone.Top > c["ladder-from"]) && (t.In("wash") || t.In("clay")))
        {
            list.Add("Roof: platform or footed ladder, three points of contact, no over-reach.");
        }

        if (items.Any(i => i.Work.State.TestSpotPassed || i.Work.State.SurfaceId == "unknown") && !t.Agent.IsWater)
        {
            list.Add("Unknown or delicate surface: stop at any change of gloss or colour.");
        }

        if (t.IsClay)
        {
            list.Add("Dropped bar: bin it. Dropped mitt: rinse it.");
        }

        return list;
    }

    /// <summary>What went on before on the same zone and does not agree with this.</summary>
    private string? Before(Deed deed, (ZoneWork Work, Deed Deed)[] items)
    {
        var own = _matrix.GroupsOf(deed.Treatment.Agent);
        if (own.Count == 0)
        {
            return null;
        }

        var position = graph.Position(deed.Slot.Id);
        var worst = items.SelectMany(i => i.Work.Deeds).Where(d => graph.Position(d.Slot.Id) < position && !d.Treatment.Agent.IsWater).Select(d => d.Treatment.Agent).DistinctBy(a => a.Id)
            .Select(a => (Agent: a, Met: _matrix.Meet(_matrix.GroupsOf(a), own))).OrderByDescending(x => x.Met.Meeting).FirstOrDefault();
        return worst.Agent is null || worst.Met.Meeting < Meeting.FullRinse ? null
            : $"After {worst.Agent.Name}: full rinse of panel and tools first ({worst.Met.Reason}).";
    }

    private static string[] Kit(Treatment t, string stage) =>
        [.. t.Agent.Kit, .. stage is "wheels" or "tyres" or "arches" ? new[] { "own wheel kit" } : [], .. t.Agent.IsWater && t.WaterLitres > 0 ? new[] { "eyes", "waterproofs" } : []];

    /// <summary>Where rinse water dries on first, what it leaves there, and whether to rinse with softened water last.</summary>
    private List<string> Spots(IReadOnlyList<WaterLeft> left)
    {
        var first = left.Where(w => _vehicle[w.Zone].Area >= c["section-least"]).Take(3).ToArray() is { Length: > 0 } large ? large : left.Take(3).ToArray();
        var lines = new List<string> { $"Water dries on first on the {string.Join(", then the ", first.Select(w => $"{Limits.Words(w.Zone)} ({SiteConditions.Say(w.Seconds)})"))}: dry in this order." };
        if (survey.Site.WaterHardnessMgL is { } hardness)
        {
            var most = left.Where(w => w.Seconds < c["not-the-limit"]).MaxBy(w => w.ResidueMg)!;
            lines.Add($"Left to dry, {most.FilmG:0} g/m² of this water leaves {most.ResidueMg:0.#} mg/m² of lime on the {Limits.Words(most.Zone)}{(most.ResidueMg > c["residue-spots"] ? ", which shows" : ", which hardly shows")}.");
            if (WaterHardness.Advise(hardness) is { } advice && (advice.Soften || most.ResidueMg > c["residue-spots"]))
            {
                lines.Add(advice.Words);
            }
        }
        else
        {
            lines.Add("Hardness of the water not said: a strip tells what a dried drop leaves.");
        }

        return lines;
    }

    private Step? DryStep(List<Step> steps, IReadOnlyList<string> after, StepKeys keys)
    {
        var wet = work.Where(w => w.Deeds.Any(d => d.Treatment.WaterLitres > 0) && w.State.Family is ("body" or "glass" or "trim" or "metal")).Select(w => w.State).ToArray();
        var left = wet.Length > 0 && wet[0].Conditions is { } now ? WaterLeft.Of(now, wet.Select(z => (z.Zone, z.Family)), survey.Site.WaterHardnessMgL) : [];
        // Where nothing dries soon the old order stands; else what spots first comes first, within the same two minutes glass and high panels.
        var soon = left.Where(w => w.Seconds < c["not-the-limit"]).ToDictionary(w => w.Zone, w => (int)(w.Seconds / 120));
        var zones = wet.Select(w => w.Zone).OrderBy(z => soon.GetValueOrDefault(z.Id, int.MaxValue)).ThenByDescending(z => z.Kind.Id == "glass").ThenByDescending(z => z.Top).ThenBy(z => z.Id, StringComparer.Ordinal).ToArray();
        if (zones.Length == 0)
        {
            return null;
        }

        var rule = survey.Rule("drying");
        var name = rule switch { "blade-glass" => "Blade the glass, blot the rest", "aid" => "Dry with a drying aid", _ => "Blot dry, blow out the crevices" };
        var ids = zones.Select(z => z.Id).ToArray();
        return new Step(
            keys.Next("dry", rule, ids), after, "dry", "dry", Block.Body, rule, name, "water", "none", ProductFraction.Neat, "none", null, 1, 0, 0, "drying towel, blower",
            ids, [], soon.Count > 0 ? Spots(left) : ["Glass first, so that drops from above do not mark it again.", "Standing water leaves rings; hard water more."], null, ["Blower: eyes and ears."], ["eyes", "ears"],
            zones.Sum(z => z.Area) * c["dry-labour"], 0, 0, 0, 0)
        {
            RoundsBetween = (1, 1),
            Avoid = [.. c.Mistakes["dry"]],
        };
    }
}

/// <summary>Gives steps keys stage/treatment/ordinal; where an earlier plan had the same work on mostly the same zones, its key is kept.</summary>
internal sealed class StepKeys(Plan? earlier, IReadOnlySet<string>? taken)
{
    private readonly HashSet<string> _used = [.. taken ?? new HashSet<string>()];

    public string Next(string stage, string treatment, IReadOnlyList<string> zones)
    {
        var old = earlier?.Steps.Where(s => s.Stage == stage && s.Treatment == treatment && !_used.Contains(s.Key))
            .Select(s => (s.Key, Shared: s.Zones.Intersect(zones).Count())).Where(x => x.Shared > 0).OrderByDescending(x => x.Shared).ThenBy(x => x.Key, StringComparer.Ordinal).ToArray();
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
