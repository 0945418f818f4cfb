using ToughStart.Core.Chemistry;
using ToughStart.Core.Costing;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Tests;

/// <summary>The one matrix: what goes on what, what meets what, and that the planner asks it.</summary>
public class CompatibilityTests
{
    private static readonly Catalogue C = Catalogue.Default;
    private static readonly Compatibility M = Compatibility.Default;

    [Theory]
    [InlineData("acid", "bleach", "chlorine")]
    [InlineData("bleach", "ammonia", "chloramine")]
    [InlineData("reducer", "acid", "hydrogen sulphide")]
    [InlineData("reducer", "bleach", "gas")]
    [InlineData("reducer", "peroxide", "")]
    [InlineData("strong-alkali", "metal", "hydrogen")]
    [InlineData("acid", "strong-alkali", "heat")]
    public void The_never_together_list_holds_both_ways(string a, string b, string word)
    {
        M.Meet(a, b).Meeting.ShouldBe(Meeting.Never);
        M.Meet(b, a).ShouldBe(M.Meet(a, b));
        M.Meet(a, b).Reason.ShouldContain(word);
        M.NeverTogether([a]).ShouldContain(n => n.Contains(C.Groups.First(g => g.Id == b).Name, StringComparison.Ordinal));
    }

    [Fact]
    public void Every_meeting_names_known_groups_once_and_every_agent_has_a_group()
    {
        var ids = C.Groups.Select(g => g.Id).ToArray();
        C.Meetings.ShouldAllBe(m => ids.Contains(m.A) && ids.Contains(m.B) && m.A != m.B && m.Reason.Length > 0);
        C.Meetings.Select(m => string.Join('+', new[] { m.A, m.B }.Order())).ShouldBeUnique();
        C.Agents.Where(a => !a.IsWater).ShouldAllBe(a => M.GroupsOf(a, null).Count == 1);
        C.Keeping.Keys.ShouldBe(C.Agents.Select(a => a.Axis).Distinct(), ignoreOrder: true);
    }

    [Theory]
    [InlineData("wheel-acid", "bare-aluminium", "no")]
    [InlineData("wheel-acid", "chrome", "no")]
    [InlineData("wheel-acid", "anodised-aluminium", "no")]
    [InlineData("degreaser", "bare-aluminium", "no")]
    [InlineData("tar-remover", "polycarbonate", "no")]
    [InlineData("alcohol-wipe", "polycarbonate", "no")]
    [InlineData("tar-remover", "rubber-seal", "no")]
    [InlineData("tar-remover", "fresh-refinish", "no")]
    [InlineData("tar-remover", "gloss-film", "test")]
    [InlineData("tfr", "matte-paint", "no")]
    [InlineData("neutral-shampoo", "matte-paint", "yes")]
    [InlineData("neutral-shampoo", "bare-aluminium", "yes")]
    [InlineData("citrus-prewash", "clear-coat", "yes")]
    [InlineData("wheel-neutral", "painted-wheel", "yes")]
    public void The_limits_of_the_trade_are_in_the_matrix(string agent, string surface, string ruling)
    {
        var a = M.Ask(agent, surface);
        a.Ruling.ShouldBe(ruling, string.Join("; ", a.Reasons.Select(r => r.Words)));
        a.Reasons.ShouldNotBeEmpty();
        a.Reasons.ShouldAllBe(r => r.Words.Length > 0 && r.Table.Length > 0);
    }

    /// <summary>
    /// Whoever mixes or works with a bottle wears what its statements ask, whatever its class does: precautionary statements P261, P271 and
    /// P280 of UN GHS annex 3, eyes for H318 and H319, gloves for the skin, air for what is breathed or burns.
    /// </summary>
    [Theory]
    [InlineData("H314", "long-gloves", "visor", "apron")]
    [InlineData("H318", "visor")]
    [InlineData("H319", "eyes")]
    [InlineData("H315", "gloves")]
    [InlineData("H317", "gloves")]
    [InlineData("H312", "gloves")]
    [InlineData("H225", "air")]
    [InlineData("H335", "air")]
    [InlineData("H336", "air")]
    public void The_kit_follows_the_statements_of_the_bottle(string code, params string[] kit)
    {
        foreach (var a in C.Agents.Where(a => !a.IsWater))
        {
            var worn = a.Under(new ShelfBottle(a.Id, true, null, false) { Hazards = [code] }).Kit;
            ProtectiveKit.Of(a, [code]).ShouldBe(worn);
            var words = MixSafety.Words(a, [code]);
            foreach (var k in kit)
            {
                // Long gloves are gloves, a visor covers the eyes.
                string[] enough = k switch
                {
                    "gloves" => ["gloves", "long-gloves"],
                    "eyes" => ["eyes", "visor"],
                    _ => [k],
                };
                worn.Intersect(enough).ShouldNotBeEmpty($"{a.Id} with {code} wants {k}");
                var said =
                    k == "air"
                        ? words.Where(w => w.StartsWith("Door open", StringComparison.Ordinal))
                        : words.Where(w => w.StartsWith("Wear", StringComparison.Ordinal));
                string[] names = k == "air" ? ["Door"] : [.. enough.Select(ProtectiveKit.Say)];
                said.Any(w => names.Any(n => w.Contains(n, StringComparison.Ordinal))).ShouldBeTrue($"mixing {a.Id} with {code}");
            }
        }

        C.Statements.ShouldAllBe(s => s.Blocks || s.Kit.Count > 0 || s.Code.StartsWith("H4", StringComparison.Ordinal));
    }

    /// <summary>A test spot is only asked for where passing it opens the way: else the cell promises what the planner never does.</summary>
    [Fact]
    public void The_matrix_and_the_planner_give_one_answer_for_every_cell()
    {
        foreach (var a in C.Agents.Where(a => !a.IsWater))
        {
            foreach (var s in C.Surfaces)
            {
                var bottle = new ShelfBottle(a.Id, true, null, false);
                var (before, after) = (M.Refuses(a, bottle, s, false, 0), M.Refuses(a, bottle, s, true, 0));
                var ruling = M.Ask(a.Id, s.Id, null, bottle).Ruling;
                (ruling == "no").ShouldBe(after is not null, $"{a.Id} on {s.Id}: {after?.Words}");
                (ruling == "test").ShouldBe(before is not null && after is null, $"{a.Id} on {s.Id}: {before?.Words}");
            }
        }

        M.Ask("wheel-acid", "matte-paint").Ruling.ShouldBe("no", "pH 1 to 3 where 4 to 11 is borne");
        M.Ask("wheel-acid", "vinyl-wrap").Ruling.ShouldBe("no");
    }

    [Fact]
    public void Every_cell_explains_itself_and_more_heat_strength_or_damage_never_makes_it_milder()
    {
        string[] order = ["yes", "care", "test", "no"];
        foreach (var a in C.Agents)
        {
            foreach (var s in C.Surfaces)
            {
                var cell = M.Ask(a.Id, s.Id);
                cell.Reasons.ShouldNotBeEmpty($"{a.Id} on {s.Id}");
                Array
                    .IndexOf(order, M.Ask(a.Id, s.Id, new Circumstances(FilmC: 35)).Ruling)
                    .ShouldBeGreaterThanOrEqualTo(Array.IndexOf(order, cell.Ruling));
                Array
                    .IndexOf(order, M.Ask(a.Id, s.Id, new Circumstances(FilmC: 45)).Ruling)
                    .ShouldBeGreaterThanOrEqualTo(Array.IndexOf(order, M.Ask(a.Id, s.Id, new Circumstances(FilmC: 35)).Ruling));
                Array
                    .IndexOf(order, M.Ask(a.Id, s.Id, new Circumstances(a.High)).Ruling)
                    .ShouldBeGreaterThanOrEqualTo(
                        Array.IndexOf(order, M.Ask(a.Id, s.Id, new Circumstances(a.Low)).Ruling),
                        $"{a.Id} on {s.Id}"
                    );
                if (!a.IsWater)
                {
                    M.Ask(a.Id, s.Id, new Circumstances(FilmC: 45)).Allowed.ShouldBeFalse();
                }
            }
        }
    }

    [Fact]
    public void Limits_go_by_the_harshest_ph_and_dilution_clears_nothing()
    {
        var degreaser = C.Agent("degreaser");
        // A neat pH of 13 at 1:9 would be 12 if nothing buffered it; the limit of 12.5 on clear coat is judged at 13 all the same.
        Compatibility.Harshest(degreaser, new ShelfBottle("degreaser", true, null, false) { NeatPh = 13 }).High.ShouldBe(13);
        Compatibility.Harshest(degreaser, new ShelfBottle("degreaser", true, 11.8, false) { NeatPh = 13 }).High.ShouldBe(11.8);
        Compatibility
            .Harshest(degreaser, new ShelfBottle("degreaser", false, 11.8, false))
            .High.ShouldBe(degreaser.PhHigh, "no data sheet, no figure");
        M.Ask("degreaser", "clear-coat", null, new ShelfBottle("degreaser", true, 12, false)).Allowed.ShouldBeTrue();
        M.Ask("degreaser", "clear-coat", null, new ShelfBottle("degreaser", true, null, false) { NeatPh = 13 }).Allowed.ShouldBeFalse();
    }

    [Fact]
    public void Fluoride_fatal_statements_and_missing_sheets_block_a_bottle()
    {
        var acid = C.Agent("wheel-acid");
        M.Blocked(acid, new ShelfBottle("wheel-acid", true, 2, true))!.Words.ShouldContain("fluoride");
        foreach (var h in new[] { "H300", "H310", "H330" })
        {
            M.Blocked(C.Agent("apc"), new ShelfBottle("apc", true, 11, false) { Hazards = [h] })!.Words.ShouldContain(h);
        }

        M.Blocked(acid, new ShelfBottle("wheel-acid", false, 2, false))!.Words.ShouldContain("no data sheet, no acid");
        M.Blocked(acid, null)!.Words.ShouldContain("no data sheet");
        M.Blocked(acid, new ShelfBottle("wheel-acid", true, 2, false) { Hazards = ["H314"] }).ShouldBeNull();
    }

    [Theory]
    [InlineData("{0} {bottle} {")]
    [InlineData("only after a test spot")]
    [InlineData("no label on the shelf: buy or borrow")]
    [InlineData("refused for this job")]
    public void A_products_name_is_printed_and_never_read(string name)
    {
        // A label that forbids the surface is a refusal, whatever the bottle is called; and no name reaches a format string.
        var bottle = new ShelfBottle("apc", true, 10, false) { Name = name, Forbids = ["clear-coat"] };
        var answer = M.Ask("apc", "clear-coat", null, bottle);
        answer.Ruling.ShouldBe("no");
        answer.Refusal.ShouldBe($"{name}: its label forbids clear coat");
        answer.Reasons.Single(r => r.Refuses).Table.ShouldBe("label");
        M.Refuses(C.Agent("apc"), bottle, C.Surface("clear-coat"), false, 0)
            .ShouldBe(new Objection(Cause.LabelForbids, name, C.Surface("clear-coat").Name));
        var survey = Repository.Demo("touring-saloon") with
        {
            Shelf =
            [
                .. C
                    .Agents.Where(a => !a.IsWater)
                    .Select(a => new ShelfBottle(a.Id, true, null, false)
                    {
                        Name = a.Id == "apc" ? name : a.Id,
                        Forbids = a.Id == "apc" ? ["clear-coat"] : [],
                    }),
            ],
        };
        var plan = Repository.Plan(survey);
        plan.Steps.Where(s => s.Agent == "apc").SelectMany(s => s.Zones).ShouldNotContain("bonnet");
        Buying.Of(survey, plan).ShouldNotContain(l => l.Agent == "apc", "what a label forbids is not bought");
        TestGuide.Propose(survey, plan).ShouldAllBe(t => t.Card.Id != "spot" || !t.Zones.Contains("bonnet"));
    }

    [Fact]
    public void Every_cause_has_words_an_id_of_its_own_and_what_is_past_a_limit_says_how_far()
    {
        var causes = Enum.GetValues<Cause>();
        causes.Select(Objection.IdOf).Distinct().Count().ShouldBe(causes.Length);
        causes.ShouldAllBe(cause => new Objection(cause, "agent", "surface", 5, 3, "detail").Words.Length > 8);
        M.Refuses(C.Agent("degreaser"), null, C.Surface("bare-aluminium"), true, 0).ShouldNotBeNull().Cause.ShouldBe(Cause.Never);
        var alkali = M.Refuses(C.Agent("apc"), null, C.Surface("anodised-aluminium"), true, 0).ShouldNotBeNull();
        if (alkali.Cause == Cause.PhAbove)
        {
            alkali.Past!.Value.ShouldBe(C.Agent("apc").PhHigh - C.Surface("anodised-aluminium").PhHigh, 1e-9);
        }
    }

    [Fact]
    public void Labels_win_over_class_numbers_in_the_plan()
    {
        var survey = Repository.Demo("touring-saloon");
        ShelfBottle[] shelf =
        [
            .. C
                .Agents.Where(a => !a.IsWater && a.Axis != Axis.Acid)
                .Select(a => new ShelfBottle(a.Id, true, null, false) { Name = "house " + a.Id }),
        ];
        var plan = Repository.Plan(survey with { Shelf = shelf });
        var wash = plan.Steps.First(s => s.Agent is "iron-remover");
        wash.Bottle.ShouldBe("house iron-remover");
        var other = shelf
            .Select(b =>
                b.Agent == wash.Agent
                    ? b with
                    {
                        Low = ProductFraction.Of(0.9),
                        Reference = ProductFraction.Of(0.9),
                        High = ProductFraction.Of(0.9),
                        Dwell = 4,
                        MaxDwell = 6,
                    }
                    : b
            )
            .ToArray();
        var labelled = Repository.Plan(survey with { Shelf = other }).Steps.First(s => s.Agent == wash.Agent);
        (labelled.Strength.Value, labelled.DwellMinutes, labelled.MaxDwellMinutes).ShouldBe((0.9, 4, 6));
        var forbidden = shelf.Select(b => b.Agent == "citrus-prewash" ? b with { Forbids = ["clear-coat"] } : b).ToArray();
        Planner
            .Plan(survey with { Shelf = forbidden })
            .Steps.Where(s => s.Agent == "citrus-prewash")
            .SelectMany(s => s.Zones)
            .ShouldNotContain("bonnet");
        var weak = shelf.Select(b => b.Agent == "bug-remover" ? b with { Efficacy = 0.4 } : b).ToArray();
        Planner
            .Plan(survey with { Shelf = weak })
            .Totals.ProductMl.GetValueOrDefault("bug-remover")
            .ShouldNotBe(plan.Totals.ProductMl.GetValueOrDefault("bug-remover"));
    }

    [Fact]
    public void A_shelf_and_a_kit_survive_the_document_and_bad_ones_are_named()
    {
        var survey = Repository.Demo("touring-saloon") with
        {
            Shelf =
            [
                new ShelfBottle("apc", true, 11, false)
                {
                    Name = "Gannet",
                    NeatPh = 12.5,
                    Low = ProductFraction.Of(0.05),
                    High = ProductFraction.Of(0.1),
                    Dwell = 2,
                    MaxDwell = 4,
                    Carrier = AgentCarrier.Gel,
                    PricePerLitre = 9,
                    StockMl = 750,
                    Efficacy = 1.2,
                    Hazards = ["H315"],
                    Allows = ["clear-coat"],
                    Forbids = ["chrome"],
                },
            ],
            Kit = new KitInUse(new LanceDraw(0.08, 0.07, 0.09, 3), [new Leftover("apc", ProductFraction.Of(0.1), 200, "grey trigger")]),
        };
        var back = SurveyFormat.Read(SurveyFormat.Write(survey)).Value!;
        SurveyFormat.Hash(back).ShouldBe(SurveyFormat.Hash(survey));
        back.Shelf!.Single()
            .ShouldSatisfyAllConditions(
                b => b.Low.ShouldBe(ProductFraction.Of(0.05)),
                b => b.Allows.ShouldBe(["clear-coat"]),
                b => b.Hazards.ShouldBe(["H315"])
            );
        back.Kit!.Lance.ShouldBe(survey.Kit.Lance);
        foreach (
            var (json, field) in new[]
            {
                ("\"shelf\": [ { \"agent\": \"apc\", \"low\": 0.2, \"high\": 0.1 } ]", "shelf[0].low"),
                ("\"shelf\": [ { \"agent\": \"apc\", \"hazards\": [ \"H999\" ] } ]", "shelf[0].hazards[0]"),
                ("\"kit\": { \"lance\": { \"draw\": 7 } }", "kit.lance.draw"),
                ("\"kit\": { \"leftovers\": [ { \"agent\": \"apc\" } ] }", "kit.leftovers[0].strength"),
            }
        )
        {
            var read = SurveyFormat.Read(
                System.Text.Encoding.UTF8.GetBytes(
                    $$"""{ "format": "toughstart.survey/1", "vehicle": { "form": "saloon" }, "goal": "wash", {{json}} }"""
                )
            );
            read.Problems.ShouldContain(p => p.Field == field, string.Join("; ", read.Problems));
        }
    }

    [Fact]
    public void A_calibrated_lance_changes_the_bottle_and_a_leftover_is_offered_first()
    {
        var survey = Repository.Demo("touring-saloon");
        var plan = Repository.Plan(survey);
        var foam = plan.Steps.First(s => s.Mix?.Basis == StrengthBasis.Bottle);
        foam.Mix!.Calibrated.ShouldBeFalse();
        var kit = new KitInUse(new LanceDraw(0.05, 0.046, 0.054, 2), []);
        var calibrated = Repository.Plan(survey with { Kit = kit });
        var same = calibrated.Steps.First(s => s.Agent == foam.Agent && s.Strength == foam.Strength);
        same.Mix!.InVessel.Value.ShouldBe(foam.Strength.Value / 0.05, 1e-9);
        same.Mix.Calibrated.ShouldBeTrue();
        calibrated.Warnings.ShouldNotContain(w => w.StartsWith("Lance not calibrated", StringComparison.Ordinal));

        var spray = plan.Steps.First(s => s.Mix?.Basis == StrengthBasis.Panel && s.Strength.Value < 1);
        var rest = new Leftover(spray.Agent, spray.Strength, 150, "grey trigger");
        var reuse = Repository.Plan(survey with { Kit = new KitInUse(null, [rest]) });
        reuse.Steps.First(s => s.Agent == spray.Agent && s.Strength == spray.Strength).Mix!.Leftover.ShouldBe(rest);
        var (before, after) = (
            JobVolumes.Solutions(plan).First(s => s.Agent == spray.Agent),
            JobVolumes.Solutions(reuse).First(s => s.Agent == spray.Agent)
        );
        after.LeftoverMl.ShouldBe(150);
        after.ProductMl.ShouldBeLessThan(before.ProductMl);
        System.Text.Encoding.UTF8.GetString(PlanFormat.Write(reuse)).ShouldContain("grey trigger");
    }

    [Fact]
    public void Volumes_of_a_plan_add_up_and_are_sorted_by_hazard()
    {
        var plan = Repository.Plan(Repository.Demo("estuary-pickup"));
        var drain = JobVolumes.Drain(plan);
        drain
            .Sum(d => d.Litres)
            .ShouldBe(plan.Steps.Sum(s => s.WaterLitres + ((s.Mix?.ProductMl ?? 0) + (s.Mix?.WaterMl ?? 0)) / 1000), 1e-9);
        drain.Select(d => d.Class).ShouldContain("reducer");
        drain.ShouldAllBe(d => d.Words.Length > 0);
        var solutions = JobVolumes.Solutions(plan);
        // As much as the panels take, or the least that anybody mixes.
        foreach (var s in solutions)
        {
            var neat = s.Steps.Sum(x => x.ProductMl);
            s.ProductMl.Value.ShouldBeGreaterThanOrEqualTo(neat - 1e-6, s.Key);
            (s.ProductMl.Value <= neat + 1e-6 || s.Steps.Any(x => x.Mix!.ProductMl + x.Mix.WaterMl > x.Mix.NeedMl)).ShouldBeTrue(s.Key);
        }

        var agent = solutions.MaxBy(s => s.ProductMl)!;
        var shelf = new[] { new ShelfBottle(agent.Agent, true, null, false) { StockMl = agent.ProductMl / 2 } };
        var line = JobVolumes.Shopping(plan with { Steps = agent.Steps }, shelf).Single();
        line.ShortMl.Value.ShouldBe(agent.ProductMl / 2, 1e-6);
    }

    [Fact]
    public void A_small_dear_concentrate_can_be_the_cheaper_bottle()
    {
        // 500 ml for 20 at 1:20 against 5 l for 15 at 1:3: 1.90 against 0.75 money per litre at work.
        var (dear, cheap) = (
            CostOfUse.Of("citrus-prewash", 20, 500, Dilution.ParseStrength("1:20")),
            CostOfUse.Of("citrus-prewash", 15, 5000, Dilution.ParseStrength("1:3"))
        );
        dear.PerLitreAtWork.ShouldBe(40 / 21.0, 1e-9);
        cheap.PerLitreAtWork.ShouldBe(0.75, 1e-9);
        dear.PerLitreNeat.ShouldBeGreaterThan(10 * cheap.PerLitreNeat);
        (dear.VehiclesPerPack * dear.PerVehicle).ShouldBe(20, 1e-9);
    }

    [Theory]
    [InlineData("wheel-acid", "iron-remover", false, "never")]
    [InlineData("iron-remover", "wheel-acid", false, "never")]
    [InlineData("apc", "degreaser", false, "one product to a bottle")]
    public void A_bottle_that_still_holds_something_else_is_refused(string before, string now, bool empty, string word) =>
        MixSafety.Refill(C.Agent(now), C.Agent(before), false, empty, false).Refused!.ShouldContain(word);

    [Fact]
    public void An_emptied_bottle_may_be_refilled_once_what_it_held_is_out_of_it()
    {
        MixSafety.Refill(C.Agent("wheel-acid"), C.Agent("iron-remover"), false, true, false).Refused!.ShouldContain("three times");
        MixSafety
            .Refill(C.Agent("wheel-acid"), C.Agent("iron-remover"), false, true, true)
            .ShouldSatisfyAllConditions(r => r.Refused.ShouldBeNull(), r => r.Warning!.ShouldContain("own bottle"));
        MixSafety.Refill(C.Agent("apc"), C.Agent("tar-remover"), false, true, false).Warning!.ShouldContain("rinse it well");
        MixSafety.Refill(C.Agent("apc"), null, false, true, false).ShouldBe((null, null));
        foreach (var a in C.Agents.Where(a => !a.IsWater))
        {
            MixSafety.Words(a, ["H318"]).ShouldContain(w => w.StartsWith("H318", StringComparison.Ordinal));
        }

        MixSafety.Words(C.Agent("wheel-acid")).ShouldContain(w => w.Contains("15 minutes", StringComparison.Ordinal));
        MixSafety.Words(C.Agent("iron-remover")).ShouldContain(w => w.Contains("hydrogen sulphide", StringComparison.Ordinal));
    }

    [Fact]
    public void Agent_after_agent_says_what_goes_between()
    {
        Calculators.Compatibility(new CompatibilityRequest("wheel-acid", After: "iron-remover")).Value!.Ruling.ShouldBe("never");
        Calculators.Compatibility(new CompatibilityRequest("iron-remover", After: "tar-remover")).Value!.Ruling.ShouldBe("wash");
        Calculators.Compatibility(new CompatibilityRequest("apc", "clear-coat", FilmC: 44)).Value!.Reasons[0].Words.ShouldContain("44");
        Calculators.Compatibility(new CompatibilityRequest("apc")).Problems[0].Field.ShouldBe("surface");
        Calculators.Compatibility(new CompatibilityRequest("lava", "chrome")).Problems[0].Field.ShouldBe("agent");
    }

    [Fact]
    public void The_planner_and_the_matrix_never_disagree()
    {
        foreach (var name in new[] { "estuary-pickup", "moorland-van", "trail-motorcycle", "barn-coupe" })
        {
            var survey = Repository.Demo(name);
            var plan = Repository.Plan(survey);
            var zones = ZoneState
                .FromSurvey(survey, ToughStart.Core.Vehicles.Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size), C)
                .ToDictionary(z => z.Zone.Id);
            foreach (var step in plan.Steps.Where(s => s.Mix is not null))
            {
                foreach (var z in step.Zones.Select(z => zones[z]).Where(z => z.SurfaceId != "unknown" && z.Surface.Ids.Count == 1))
                {
                    M.Refuses(C.Agent(step.Agent), null, z.Surface, z.TestSpotPassed, 0)
                        .ShouldBeNull($"{name}: {step.Treatment} on {z.Zone.Id}");
                }
            }
        }
    }
}
