using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Tests;

/// <summary>
/// Worked situations judged by the trade's rules (which class, which order, what must never happen), each as a person would
/// describe the vehicle. What is asserted is the judgement, not numbers of this engine.
/// </summary>
public class ScenarioTests
{
    [Fact]
    public void A_car_that_stood_two_years_for_sale_is_washed_soundly_and_not_stripped()
    {
        var plan = Saloon(
            "sale",
            24,
            """
            { "zone": "*", "findings": [ { "contaminant": "loose-dust", "grade": 3 }, { "contaminant": "road-film", "grade": 3 }, { "contaminant": "grit", "grade": 2 } ] },
            { "zone": "roof", "findings": [ { "contaminant": "sap", "grade": 2, "age": "seasons" }, { "contaminant": "bird-dropping", "grade": 2, "age": "seasons" } ] },
            { "zone": "front-bumper", "findings": [ { "contaminant": "bug", "grade": 3, "age": "seasons" } ] },
            { "zone": "window-seals", "findings": [ { "contaminant": "growth", "grade": 3, "age": "seasons" } ] },
            { "zone": "*-sill", "findings": [ { "contaminant": "tar", "grade": 2 } ] },
            { "zone": "*-tyre", "findings": [ { "contaminant": "tyre-bloom", "grade": 3, "age": "seasons" } ] },
            { "zone": "*-wheel-face", "findings": [ { "contaminant": "iron", "grade": 3, "age": "seasons" } ] }
            """
        );
        plan.Steps.ShouldNotContain(s => s.Stage == Stage.Strip || s.Stage == Stage.Wipe, "a sale does not strip");
        Order(plan, "left-sill", "contact-wash", "tar", "re-wash");
        plan.StepsOn("roof").ShouldContain(s => s.Treatment == "drop-soak", "droppings are soaked and lifted");
        plan.StepsOn("window-seals").ShouldContain(s => s.Stage == Stage.Crevice, "growth in seals is brushed");
        plan.StepsOn("left-front-tyre").ShouldContain(s => s.Stage == Stage.Tyres);
        plan.StepsOn("front-bumper").Where(s => s.Stage == Stage.Spot).ShouldNotBeEmpty();
    }

    [Fact]
    public void A_van_roof_in_the_sun_waits_while_the_sides_are_worked()
    {
        var plan = Saloon(
            "protect",
            4,
            """
            { "zone": "*", "findings": [ { "contaminant": "road-film", "grade": 3 } ] },
            { "zone": "roof", "measuredC": 44 }, { "zone": "bonnet", "measuredC": 35, "findings": [ { "contaminant": "tar", "grade": 2 } ] }
            """,
            site: """ "place": "outdoors", "airC": 29 """
        );
        plan.StepsOn("roof").ShouldAllBe(s => s.Agent == "water", "above 40 °C water only");
        plan.StepsOn("bonnet")
            .ShouldNotContain(s => s.Agent == "tar-remover" || s.Agent == "degreaser", "above 30 °C no solvent and no caustic");
        plan.StepsOn("left-front-door").ShouldContain(s => s.Stage == Stage.ContactWash);
        plan.Warnings.ShouldContain(w => w.Contains("one panel at a time"));
    }

    [Fact]
    public void Winter_salt_is_rinsed_long_before_anyone_touches()
    {
        var plan = Saloon(
            "wash",
            2,
            """{ "zone": "*", "findings": [ { "contaminant": "salt", "grade": 3 }, { "contaminant": "road-film", "grade": 2 } ] }"""
        );
        var sill = plan.StepsOn("left-sill").ToList();
        var water = sill.TakeWhile(s => s.Stage != Stage.ContactWash).Where(s => s.Agent == "water").ToArray();
        water.ShouldNotBeEmpty();
        sill.ShouldContain(s => s.Stage == Stage.ContactWash);
    }

    [Fact]
    public void Fresh_refinish_gets_no_solvent_clay_or_strong_chemistry()
    {
        var plan = Saloon(
            "protect",
            3,
            """{ "zone": "left-front-wing", "surface": "fresh-refinish", "findings": [ { "contaminant": "tar", "grade": 3 }, { "contaminant": "bonded-mix", "grade": 3 }, { "contaminant": "road-film", "grade": 3 } ] }"""
        );
        plan.StepsOn("left-front-wing")
            .ShouldNotContain(s => s.Agent == "tar-remover" || s.Stage == Stage.Clay || s.Agent == "apc" || s.Agent == "alkaline-foam");
        plan.Refer.Select(r => r.What).ShouldContain("tar");
        plan.Refer.Single(r => r.What == "tar" && r.Zones.Contains("left-front-wing")).Reason.ShouldContain("fresh refinish");
    }

    [Fact]
    public void Matte_film_waits_for_its_test_spot_and_a_passed_one_opens_what_it_allows()
    {
        const string matte =
            """{ "zone": "bonnet", "surface": "vinyl-wrap", "findings": [ { "contaminant": "tar", "grade": 3 }, { "contaminant": "road-film", "grade": 1 } ], "tests": [ SPOT ] }""";
        Saloon("sale", 1, matte.Replace("SPOT", "")).StepsOn("bonnet").ShouldNotContain(s => s.Agent == "tar-remover");
        Saloon("sale", 1, matte.Replace("SPOT", """{ "test": "spot", "result": "none" }"""))
            .StepsOn("bonnet")
            .ShouldContain(s => s.Agent == "tar-remover");
        Saloon("sale", 1, matte.Replace("SPOT", """{ "test": "spot", "result": "gloss" }"""))
            .StepsOn("bonnet")
            .ShouldNotContain(s => s.Agent == "tar-remover");
    }

    [Fact]
    public void Beading_water_is_stripped_for_protection_kept_for_a_routine_wash()
    {
        const string beads =
            """{ "zone": "*", "findings": [ { "contaminant": "road-film", "grade": 2 } ] }, { "zone": "bonnet", "water": "beads" }""";
        Saloon("protect", 2, beads).StepsOn("bonnet").ShouldContain(s => s.Stage == Stage.Strip || s.Treatment == "wash-strip");
        var kept = Saloon("wash", 2, beads);
        kept.StepsOn("bonnet").ShouldNotContain(s => s.Stage == Stage.Strip || s.Treatment == "wash-strip" || s.Agent == "apc");
        kept.Skipped.ShouldContain(s => s.Stage == Stage.Strip && s.Zones.Contains("bonnet") && s.Reason.Contains("keeps"));
    }

    [Fact]
    public void Strip_comes_after_clay_and_a_residue_wash_before_it()
    {
        var plan = Saloon(
            "protect",
            12,
            """{ "zone": "bonnet", "water": "beads", "findings": [ { "contaminant": "road-film", "grade": 2 }, { "contaminant": "tar", "grade": 3 }, { "contaminant": "iron", "grade": 3 }, { "contaminant": "bonded-mix", "grade": 3 } ] }"""
        );
        Order(plan, "bonnet", "contact-wash", "tar", "iron", "re-wash", "clay", "strip");
    }

    [Fact]
    public void Older_dirt_costs_more_than_fresh_and_worse_grades_more_than_slight()
    {
        double Minutes(int grade, string age) =>
            Saloon(
                "wash",
                1,
                $$"""{ "zone": "*", "findings": [ { "contaminant": "road-film", "grade": 0 }, { "contaminant": "loose-dust", "grade": 0 }, { "contaminant": "grit", "grade": 0 }, { "contaminant": "tyre-bloom", "grade": 0 } ] }, { "zone": "front-bumper", "findings": [ { "contaminant": "bug", "grade": {{grade}}, "age": "{{age}}" } ] }"""
            ).Totals.LabourMinutes.Expected;
        Minutes(3, "weeks").ShouldBeGreaterThan(Minutes(3, "fresh"));
        Minutes(3, "days").ShouldBeGreaterThan(Minutes(1, "days"));
    }

    [Fact]
    public void A_missing_class_is_named_to_buy_and_the_rest_still_stands()
    {
        var plan = Saloon(
            "sale",
            6,
            """{ "zone": "*-sill", "findings": [ { "contaminant": "tar", "grade": 3 }, { "contaminant": "road-film", "grade": 2 } ] }""",
            more: """ "shelf": [ { "agent": "neutral-shampoo" }, { "agent": "alkaline-foam" } ], """
        );
        plan.Refused.ShouldContain(r => r.Treatment == "tar-spot" && r.Reason.Contains("buy or borrow"));
        plan.Refer.ShouldContain(r => r.What == "tar");
        plan.StepsOn("left-sill").ShouldContain(s => s.Stage == Stage.ContactWash);
        plan.Steps.Select(s => s.Agent)
            .Where(a => a is not ("water" or "lubricant"))
            .ShouldBeSubsetOf(["neutral-shampoo", "alkaline-foam"]);
    }

    [Fact]
    public void Chalked_paint_is_recorded_not_washed_away()
    {
        var plan = Saloon(
            "sale",
            6,
            """{ "zone": "roof", "surface": "single-stage", "findings": [ { "contaminant": "oxidation", "grade": 3 }, { "contaminant": "road-film", "grade": 1 } ] }"""
        );
        plan.Refer.ShouldContain(r => r.What == "oxidation" && r.Zones.Contains("roof"));
        plan.Steps.SelectMany(s => s.Answers).ShouldNotContain(a => a.Contaminant == "oxidation");
    }

    [Fact]
    public void Caustic_and_acid_ask_for_long_gloves_visor_and_apron_and_solvents_for_air()
    {
        foreach (var name in new[] { "estuary-pickup", "touring-saloon", "orchard-pickup", "barn-saloon" })
        {
            foreach (var step in Repository.Plan(Repository.Demo(name)).Steps.Where(s => s.Stage != Stage.Dry))
            {
                var axis = Catalogue.Default.Agent(step.Agent).Axis;
                if (axis == Axis.Alkali || axis == Axis.Acid)
                {
                    step.Kit.ShouldContain("long-gloves", step.Key);
                    step.Kit.ShouldContain("visor", step.Key);
                }

                if (axis == Axis.Solvent || step.Agent == "iron-remover")
                {
                    step.Kit.ShouldContain("air", step.Key);
                    step.Cautions.ShouldNotBeEmpty(step.Key);
                }
            }
        }
    }

    [Fact]
    public void Schools_that_change_no_choice_change_the_words()
    {
        const string zone =
            """{ "zone": "bonnet", "findings": [ { "contaminant": "road-film", "grade": 4 }, { "contaminant": "grit", "grade": 3 }, { "contaminant": "bonded-mix", "grade": 3 } ] }""";
        Plan With(string rules) => Saloon("protect", 3, zone, more: $$""" "house": { {{rules}} }, """);
        With("").StepsOn("bonnet").First(s => s.Stage == Stage.Foam).Tool.ShouldContain("rinse the foam off");
        With(""" "rinseFoamBeforeContact": "false" """)
            .StepsOn("bonnet")
            .First(s => s.Stage == Stage.Foam)
            .Tool.ShouldContain("wash through");
        With(""" "clayLubricant": "shampoo" """).StepsOn("bonnet").Single(s => s.Stage == Stage.Clay).Tool.ShouldContain("mixed fresh");
        With(""" "tyres": "satin" """).Closing.ShouldContain(c => c.Contains("none on the tread"));
        With(""" "dryOut": "rewet" """).Steps.SelectMany(s => s.Cautions).ShouldContain(c => c.Contains("not done"));
    }

    [Fact]
    public void A_gate_never_stands_in_the_way_of_its_own_tool()
    {
        // The mesh sponge is for bugs: bugs do not close its load limit, grit does.
        var c = Catalogue.Default;
        var bug = c.Contaminant("bug").Index;
        c.Treatment("bug-mesh").LoadLimit!.Weights.ShouldNotContain(w => w.Kind == bug);
        c.LoadLimit("touch").Weights.ShouldContain(w => w.Kind == bug);
    }

    [Theory]
    [InlineData("storm", "Contain chemical run-off")]
    [InlineData("foul", null)]
    public void The_drain_decides_about_run_off(string drain, string? words)
    {
        var plan = Saloon(
            "wash",
            1,
            """{ "zone": "bonnet", "findings": [ { "contaminant": "road-film", "grade": 2 } ] }""",
            site: $""" "drain": "{drain}" """
        );
        plan.Warnings.Any(w => w.Contains("Contain chemical run-off")).ShouldBe(words is not null);
    }

    [Fact]
    public void Two_people_finish_no_later_than_one()
    {
        var survey = Repository.Demo("estuary-pickup");
        var one = Repository.Plan(survey with { Crew = 1 }).Totals;
        var two = Repository.Plan(survey with { Crew = 2 }).Totals;
        two.ElapsedMinutes.Expected.ShouldBeLessThanOrEqualTo(one.ElapsedMinutes.Expected);
        two.LabourMinutes.Expected.ShouldBe(one.LabourMinutes.Expected, 0.01);
    }

    [Fact]
    public void Totals_add_up_from_the_steps()
    {
        var plan = Repository.Plan(Repository.Demo("estuary-pickup"));
        plan.Totals.ProductMl.Values.Sum().ShouldBe(plan.Steps.Sum(s => s.ProductMl), 1e-6);
        foreach (var s in plan.Steps.Where(s => s.Mix is not null))
        {
            (s.Mix!.ProductMl + s.Mix.WaterMl).ShouldBe(s.Mix.ProductMl / s.Mix.InVessel.Value, 1e-6, s.Key);
            s.Mix.ProductMl.Value.ShouldBeGreaterThanOrEqualTo(s.ProductMl - 1e-6, s.Key);
            (s.Mix.NeedMl * s.Mix.InVessel.Value).ShouldBe(s.ProductMl, 1e-6, s.Key);
        }
    }

    private static Plan Saloon(string goal, int months, string zones, string site = "", string more = "") =>
        Planner.Plan(
            Repository.Saloon(zones, goal, $$""" "history": { "monthsSinceWash": {{months}} }, "site": { {{site}} }, {{more}} """)
        );

    private static void Order(Plan plan, string zone, params string[] stages) =>
        plan.StepsOn(zone).Select(s => s.Stage.Word).Where(stages.Contains).Distinct().ShouldBe(stages);
}
