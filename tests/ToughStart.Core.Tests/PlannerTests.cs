using CsCheck;
using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Tests;

/// <summary>What an expert would hold true of plans: asserted from the trade's rules, not from what the code happens to do.</summary>
public class PlannerTests
{
    [Fact]
    public void The_estuary_pickup_goes_down_through_the_layers_and_comes_out_ready()
    {
        var plan = Planner.Plan(Repository.Demo("estuary-pickup"));
        plan.Proved.ShouldBeTrue();
        var stages = plan.StepsOn("left-sill").Select(s => s.Stage).ToArray();
        Stage[] spine = [Stage.Soak, Stage.Foam, Stage.ContactWash, Stage.Tar, Stage.ReWash];
        stages.Where(spine.Contains).Distinct().ShouldBe(spine);
        plan.StepsOn("bonnet").Count(s => s.Stage == Stage.Spot).ShouldBeGreaterThan(0, "weeks-old bugs are soaked");
        plan.StepsOn("left-front-tyre").Single(s => s.Stage == Stage.Tyres).Rounds.ShouldBeInRange(2, 4);
        plan.StepsOn("left-front-wheel-face").Single(s => s.Stage == Stage.Iron).Rounds.ShouldBeInRange(2, 4);
        plan.Refused.ShouldContain(r => r.Treatment == "wheel-acid" && r.Reason.Contains("no data sheet"));
        plan.Tests.Select(t => t.Test).ShouldContain("touch");
        plan.BestTest.ShouldNotBeNull();
        plan.Closing.ShouldContain("Brake test at walking pace");
    }

    [Fact]
    public void Nothing_touches_while_loose_abrasive_is_on()
    {
        var c = Catalogue.Default;
        foreach (var plan in new[] { "estuary-pickup", "touring-saloon" }.Select(n => Planner.Plan(Repository.Demo(n))))
        {
            foreach (var t in plan.Traces)
            {
                var before = t.Start;
                foreach (var (key, after) in t.After)
                {
                    var step = plan.Steps.Single(s => s.Key == key);
                    if (c.Treatment(step.Treatment).LoadLimit?.Id == "touch")
                    {
                        (before.GetValueOrDefault("grit") + before.GetValueOrDefault("mud")).ShouldBeLessThanOrEqualTo(
                            0.05,
                            $"{key} on {t.Zone}"
                        );
                    }

                    before = after;
                }
            }
        }
    }

    [Fact]
    public void Steps_follow_what_they_stand_on()
    {
        foreach (var plan in new[] { "estuary-pickup", "touring-saloon" }.Select(n => Planner.Plan(Repository.Demo(n))))
        {
            var seen = new HashSet<string>();
            foreach (var s in plan.Steps)
            {
                s.After.ShouldAllBe(a => seen.Contains(a), s.Key);
                seen.Add(s.Key).ShouldBeTrue("keys are unique");
                s.Why.ShouldNotBeEmpty();
                s.Rounds.ShouldBeGreaterThan(0);
            }

            plan.Totals.LabourMinutes.Low.ShouldBeLessThanOrEqualTo(plan.Totals.LabourMinutes.Expected);
            plan.Totals.LabourMinutes.Expected.ShouldBeLessThanOrEqualTo(plan.Totals.LabourMinutes.High);
            plan.Totals.ElapsedMinutes.Expected.ShouldBeGreaterThanOrEqualTo(
                plan.Totals.LabourMinutes.Expected - 0.01,
                "one person cannot be faster than the hands-on time"
            );
        }
    }

    [Fact]
    public void The_same_survey_gives_the_same_bytes()
    {
        var survey = Repository.Demo("estuary-pickup");
        PlanFormat.Write(Planner.Plan(survey)).ShouldBe(PlanFormat.Write(Planner.Plan(Repository.Demo("estuary-pickup"))));
    }

    [Fact]
    public void Bare_aluminium_never_meets_acid_or_strong_alkali_not_even_as_run_off()
    {
        var plan = Planner.Plan(
            Repository.Saloon(
                """
                { "zone": "*-wheel-face", "surface": "bare-alloy-wheel", "findings": [ { "contaminant": "iron", "grade": 4, "age": "seasons" }, { "contaminant": "road-film", "grade": 2 } ] },
                { "zone": "*-tyre", "findings": [ { "contaminant": "tyre-bloom", "grade": 3 }, { "contaminant": "road-film", "grade": 3 } ] }
                """,
                more: """ "shelf": [ { "agent": "wheel-acid", "dataSheet": true, "ph": 2.2 }, { "agent": "degreaser", "dataSheet": true, "ph": 12.6 }, { "agent": "apc", "dataSheet": true, "ph": 10.5 }, { "agent": "wheel-neutral" }, { "agent": "iron-remover" }, { "agent": "neutral-shampoo" }, { "agent": "neutral-foam" } ], """
            )
        );
        plan.Steps.Where(s => s.Block == Vehicles.Block.Wheels && s.Zones.Any(z => !z.EndsWith("-arch", StringComparison.Ordinal)))
            .ShouldNotContain(s => s.Agent == "wheel-acid" || s.Agent == "degreaser" || s.Agent == "apc");
        plan.Refused.ShouldContain(r => r.Treatment == "wheel-acid" && r.Reason.Contains("bare alloy"));
        plan.Refused.ShouldContain(r => r.Treatment == "tyre-brush" && r.Reason.Contains("runs onto"));
    }

    [Fact]
    public void Sound_lacquer_gets_acid_only_after_the_iron_remover_and_a_full_rinse_between()
    {
        var plan = Planner.Plan(
            Repository.Saloon(
                """{ "zone": "left-front-wheel-face", "surface": "powder-coated-wheel", "findings": [ { "contaminant": "iron", "grade": 4, "age": "seasons" }, { "contaminant": "mineral", "grade": 4, "age": "seasons" } ] }""",
                more: """ "shelf": [ { "agent": "wheel-acid", "dataSheet": true, "ph": 2.2 }, { "agent": "iron-remover" }, { "agent": "wheel-neutral" }, { "agent": "neutral-shampoo" } ], """
            )
        );
        var order = plan.StepsOn("left-front-wheel-face").Select(s => s.Treatment).ToList();
        order.ShouldContain("wheel-acid");
        if (order.Contains("iron-spray") || order.Contains("wheel-brush"))
        {
            var acid = order.IndexOf("wheel-acid");
            order.Take(acid).Reverse().TakeWhile(t => t is not ("iron-spray" or "wheel-brush")).ShouldContain("flush");
        }
    }

    [Fact]
    public void Matte_film_never_meets_clay_brush_alkali_or_wax()
    {
        var plan = Planner.Plan(
            Repository.Saloon(
                """
                { "zone": "*", "findings": [ { "contaminant": "road-film", "grade": 3 }, { "contaminant": "grit", "grade": 3 } ] },
                { "zone": "*-door", "surface": "matte-film" }, { "zone": "bonnet", "surface": "matte-paint", "findings": [ { "contaminant": "bonded-mix", "grade": 3 }, { "contaminant": "tar", "grade": 2 } ] }
                """,
                "correct"
            )
        );
        foreach (var zone in new[] { "bonnet", "left-front-door", "right-rear-door" })
        {
            plan.StepsOn(zone)
                .ShouldNotContain(
                    s =>
                        s.Stage == Stage.Clay
                        || s.Treatment.StartsWith("crevice")
                        || s.Agent == "apc"
                        || s.Agent == "alkaline-foam"
                        || s.Agent == "tar-remover",
                    zone
                );
            plan.StepsOn(zone).ShouldContain(s => s.Stage == Stage.ContactWash, zone);
        }

        plan.Refused.ShouldContain(r => r.Treatment.StartsWith("clay") && r.Zones.Contains("bonnet"));
        plan.Refer.ShouldContain(r => r.What == "bonded-mix" && r.Zones.Contains("bonnet"));
    }

    [Fact]
    public void A_smooth_new_car_is_not_clayed()
    {
        var plan = Planner.Plan(
            Repository.Saloon(
                """
                { "zone": "*", "findings": [ { "contaminant": "loose-dust", "grade": 1 }, { "contaminant": "road-film", "grade": 1 }, { "contaminant": "iron", "grade": 0 }, { "contaminant": "tar", "grade": 0 }, { "contaminant": "bonded-mix", "grade": 0 }, { "contaminant": "old-protection", "grade": 0 } ] }
                """
            )
        );
        plan.Steps.ShouldNotContain(s => s.Stage == Stage.Clay || s.Stage == Stage.Strip);
        plan.Skipped.ShouldContain(s => s.Stage == Stage.Clay && s.Reason.StartsWith("smooth"));
        plan.Tests.ShouldNotContain(t => t.Test == "touch");
    }

    [Fact]
    public void Not_looked_is_not_clean_it_is_tested_and_priced()
    {
        var looked =
            """{ "zone": "*", "findings": [ { "contaminant": "road-film", "grade": 2 }, { "contaminant": "iron", "grade": 0 }, { "contaminant": "tar", "grade": 0 }, { "contaminant": "bonded-mix", "grade": 0 }, { "contaminant": "old-protection", "grade": 0 } ] }""";
        var open = """{ "zone": "*", "findings": [ { "contaminant": "road-film", "grade": 2 } ] }""";
        var sure = Planner.Plan(Repository.Saloon(looked));
        var unsure = Planner.Plan(Repository.Saloon(open));
        unsure.Tests.Select(t => t.Test).Distinct().ShouldBe(["touch", "bleed", "water", "look"], ignoreOrder: true);
        unsure.Totals.LabourMinutes.Width.ShouldBeGreaterThan(sure.Totals.LabourMinutes.Width);
        unsure.Unverified.ShouldContain("bonnet");
        sure.Unverified.ShouldNotContain("bonnet");
        unsure.Tests.ShouldAllBe(t => t.IfPositive.Count > 0);
    }

    [Theory]
    [InlineData("sewage", "flood-hygiene")]
    [InlineData("unknown", "flood-hygiene")]
    [InlineData("sea", "flood-workshop")]
    public void A_flood_stops_everything_until_someone_named_clears_it(string flood, string gate)
    {
        string Zones(string releases) =>
            $$"""{ "format": "toughstart.survey/1", "vehicle": { "form": "saloon" }, "goal": "sale", "history": { "flood": "{{flood}}", "releases": [ {{releases}} ] }, "zones": [ { "zone": "bonnet", "findings": [ { "contaminant": "mud", "grade": 4 } ] } ] }""";
        var stopped = Planner.Plan(Repository.Survey(Zones("")));
        stopped.ReferOnly.ShouldBeTrue();
        stopped.Steps.ShouldBeEmpty();
        stopped.Refer.ShouldContain(r => r.What == gate);
        var cleared = Planner.Plan(
            Repository.Survey(Zones("""{ "hold": "flood-hygiene", "by": "p-1" }, { "gate": "flood-workshop", "by": "p-2" }"""))
        );
        cleared.ReferOnly.ShouldBeFalse();
        cleared.Steps.ShouldNotBeEmpty();
    }

    [Fact]
    public void A_flooded_electric_vehicle_waits_for_its_maker_even_when_the_workshop_has_been()
    {
        var plan = Planner.Plan(
            Repository.Survey(
                """{ "format": "toughstart.survey/1", "vehicle": { "form": "saloon", "powertrain": "electric" }, "goal": "sale", "history": { "flood": "fresh", "releases": [ { "hold": "flood-workshop", "by": "p-2" } ] }, "zones": [] }"""
            )
        );
        plan.Refer.Select(r => r.What).ShouldBe(["high-voltage"]);
    }

    [Fact]
    public void A_panel_above_40_degrees_gets_water_only()
    {
        var plan = Planner.Plan(
            Repository.Saloon("""{ "zone": "roof", "measuredC": 42, "findings": [ { "contaminant": "road-film", "grade": 3 } ] }""")
        );
        plan.StepsOn("roof").ShouldAllBe(s => s.Agent == "water");
        plan.Refused.ShouldContain(r => r.Zones.Contains("roof") && r.Reason.Contains("cool them first"));
    }

    [Fact]
    public void Neutral_only_keeps_every_alkali_acid_and_solvent_strength_off_and_says_what_stays()
    {
        var plan = Planner.Plan(
            Repository.Saloon(
                """{ "zone": "*-tyre", "findings": [ { "contaminant": "tyre-bloom", "grade": 4, "age": "seasons" } ] }""",
                more: """ "house": { "strongChemistry": "neutral-only" }, """
            )
        );
        plan.Steps.Select(s => Catalogue.Default.Agents.FirstOrDefault(a => a.Id == s.Agent)?.Axis)
            .ShouldNotContain(a => a == Axis.Mild || a == Axis.Alkali || a == Axis.Acid);
        plan.Refer.ShouldContain(r => r.What == "tyre-bloom");
        plan.Refused.ShouldContain(r => r.Reason == "house rule: neutral only");
    }

    [Fact]
    public void House_rules_turn_the_order_of_tar_and_iron()
    {
        const string zone =
            """{ "zone": "left-sill", "findings": [ { "contaminant": "tar", "grade": 3 }, { "contaminant": "iron", "grade": 3 }, { "contaminant": "road-film", "grade": 1 } ] }""";
        var first = Planner.Plan(Repository.Saloon(zone)).StepsOn("left-sill").Select(s => s.Stage).ToList();
        var second = Planner
            .Plan(Repository.Saloon(zone, more: """ "house": { "tarIron": "iron-first" }, """))
            .StepsOn("left-sill")
            .Select(s => s.Stage)
            .ToList();
        first.IndexOf(Stage.Tar).ShouldBeLessThan(first.IndexOf(Stage.Iron));
        second.IndexOf(Stage.Iron).ShouldBeLessThan(second.IndexOf(Stage.Tar));
    }

    [Fact]
    public void Rinseless_is_refused_on_heavy_dirt_and_chosen_on_light()
    {
        const string rule = """ "house": { "washMedia": "rinseless" }, """;
        var heavy = Planner.Plan(
            Repository.Saloon(
                """{ "zone": "bonnet", "findings": [ { "contaminant": "grit", "grade": 3 }, { "contaminant": "road-film", "grade": 3 } ] }""",
                more: rule
            )
        );
        heavy.Steps.ShouldNotContain(s => s.Agent == "rinseless" && s.Stage == Stage.ContactWash);
        heavy.Warnings.ShouldContain(w => w.Contains("rinseless wash refused"));
        var light = Planner.Plan(
            Repository.Saloon(
                """{ "zone": "*", "findings": [ { "contaminant": "loose-dust", "grade": 2 }, { "contaminant": "road-film", "grade": 1 }, { "contaminant": "grit", "grade": 0 } ] }""",
                "wash",
                rule
            )
        );
        light.Steps.ShouldNotContain(s => s.Treatment == "wash-2bucket");
        light.Steps.ShouldContain(s => s.Treatment == "wash-rinseless");
    }

    [Fact]
    public void Always_foam_and_always_clay_are_obeyed()
    {
        const string zone = """
            { "zone": "*", "findings": [ { "contaminant": "loose-dust", "grade": 1 }, { "contaminant": "road-film", "grade": 0 },
                                         { "contaminant": "grit", "grade": 0 } ] },
            { "zone": "bonnet", "findings": [ { "contaminant": "loose-dust", "grade": 1 }, { "contaminant": "bonded-mix", "grade": 1 } ] }
            """;
        Planner.Plan(Repository.Saloon(zone)).StepsOn("bonnet").ShouldNotContain(s => s.Stage == Stage.Foam);
        Planner
            .Plan(Repository.Saloon(zone, more: """ "house": { "foam": "always" }, """))
            .StepsOn("bonnet")
            .ShouldContain(s => s.Stage == Stage.Foam);
        Planner
            .Plan(Repository.Saloon(zone, more: """ "house": { "clay": "always" }, """))
            .StepsOn("bonnet")
            .ShouldContain(s => s.Stage == Stage.Clay);
    }

    [Fact]
    public void House_rules_that_contradict_each_other_are_refused_where_they_come_in_with_the_circle_named()
    {
        var survey = Repository.Demo("barn-saloon") with
        {
            House = new Dictionary<string, string> { ["iron"] = "with-clay", ["tarIron"] = "iron-first" },
        };
        var read = SurveyFormat.Read(SurveyFormat.Write(survey));
        read.Ok.ShouldBeFalse();
        var problem = read.Problems.ShouldHaveSingleItem();
        problem.Field.ShouldBe("house");
        problem.Message.ShouldContain("iron before tar");
        problem.Message.ShouldContain("rewash before iron");
        // Every other pair of schools leaves an order.
        foreach (var (a, one) in HouseRules.All.SelectMany(r => r.Choices.Skip(1).Select(c => (r.Id, c.Value))))
        {
            foreach (
                var (b, two) in HouseRules
                    .All.Where(r => string.CompareOrdinal(r.Id, a) > 0)
                    .SelectMany(r => r.Choices.Skip(1).Select(c => (r.Id, c.Value)))
            )
            {
                var pair = survey with
                {
                    House = new Dictionary<string, string> { [a] = one, [b] = two },
                };
                (StageGraph.Contradiction(pair) is null).ShouldBe(
                    !(a == "iron" && one == "with-clay" && b == "tarIron" && two == "iron-first"),
                    $"{a}={one}, {b}={two}"
                );
            }
        }
    }

    [Fact]
    public void A_contradiction_in_the_order_names_its_edges()
    {
        var c = Catalogue.Default;
        var edges = c
            .Slots.SelectMany(s => s.After.Select(a => new Edge(a, s.Id, s.Reason)))
            .Append(new Edge(Place.Clay, Place.Wash, "a rule that cannot be"))
            .ToArray();
        var error = Should.Throw<StageCycleException>(() => StageGraph.Sort(c.Slots, edges));
        error.Edges.ShouldContain(e => e.From == Place.Clay && e.To == Place.Wash);
        error.Message.ShouldContain("clay before wash");
    }

    [Fact]
    public void More_dirt_never_makes_a_zone_cheaper() =>
        Gen.Select(Gen.Int[0, 3], Gen.Int[0, 3], Gen.Int[0, 3])
            .Sample(
                (mud, film, tar) =>
                {
                    double Cost(int m, int f, int t)
                    {
                        var survey = Repository.Saloon(
                            $$"""{ "zone": "left-sill", "findings": [ { "contaminant": "mud", "grade": {{m}} }, { "contaminant": "road-film", "grade": {{f}} }, { "contaminant": "tar", "grade": {{t}} }, { "contaminant": "grit", "grade": 0 } ] }"""
                        );
                        var vehicle = Forms.Build("saloon", survey.Vehicle.Size);
                        var states = ZoneState.FromSurvey(survey, vehicle, Catalogue.Default);
                        var builder = new ProblemBuilder(survey, states, StageGraph.For(survey, Catalogue.Default), Catalogue.Default);
                        return ZoneSearch.Solve(builder.Build(states.Single(z => z.Zone.Id == "left-sill"), null, null).Problem).Cost;
                    }

                    var here = Cost(mud, film, tar);
                    return Cost(mud + 1, film, tar) >= here && Cost(mud, film + 1, tar) >= here && Cost(mud, film, tar + 1) >= here * 0.9;
                },
                iter: 25,
                threads: 1
            );

    [Fact]
    public void An_unknown_surface_bears_only_what_all_it_could_be_bears()
    {
        var plan = Planner.Plan(
            Repository.Saloon(
                """{ "zone": "bonnet", "surface": "unknown", "findings": [ { "contaminant": "road-film", "grade": 3 }, { "contaminant": "tar", "grade": 2 } ] }"""
            )
        );
        plan.StepsOn("bonnet").ShouldNotContain(s => s.Agent == "tar-remover" || s.Stage == Stage.Clay || s.Agent == "apc");
        plan.Refused.ShouldContain(r => r.Zones.Contains("bonnet") && r.Reason.Contains("unknown surface"));
    }

    [Fact]
    public void A_fluoride_product_is_blocked_on_the_shelf()
    {
        var plan = Planner.Plan(
            Repository.Saloon(
                """{ "zone": "left-front-wheel-face", "surface": "powder-coated-wheel", "findings": [ { "contaminant": "mineral", "grade": 4 } ] }""",
                more: """ "shelf": [ { "agent": "wheel-acid", "dataSheet": true, "ph": 2.2, "fluoride": true } ], """
            )
        );
        plan.Steps.ShouldNotContain(s => s.Agent == "wheel-acid");
        plan.Refused.ShouldContain(r => r.Reason.Contains("fluoride"));
    }

    [Fact]
    public void Sale_plans_of_every_goal_reach_their_targets_or_say_what_stays()
    {
        foreach (var goal in Goal.All)
        {
            var survey = Repository.Demo("estuary-pickup") with { Goal = goal };
            var plan = Planner.Plan(survey);
            foreach (var t in plan.Traces)
            {
                var final = t.After.Count == 0 ? t.Start : t.After[^1].Loads;
                foreach (var (kind, target) in t.Targets)
                {
                    var reached = final.GetValueOrDefault(kind) <= target * Math.Pow(10, Catalogue.Default["shortfall-refer"]) + 1e-6;
                    (reached || plan.Refer.Any(r => r.What == kind && r.Zones.Contains(t.Zone))).ShouldBeTrue(
                        $"{goal}: {kind} on {t.Zone} ends at {final.GetValueOrDefault(kind)} against {target}"
                    );
                }
            }
        }
    }
}
