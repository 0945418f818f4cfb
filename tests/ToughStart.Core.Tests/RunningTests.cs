using ToughStart.Core.Contamination;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Running;

namespace ToughStart.Core.Tests;

public class RunningTests
{
    private static readonly Core.Formats.Survey Survey = Repository.Demo("estuary-pickup");
    private static readonly Plan Plan = Planner.Plan(Survey);

    private static Observation See(Step step, int rounds, string? observe, string? result, string? because = null, string[]? zones = null) =>
        new(Guid.CreateVersion7(), Guid.CreateVersion7(), step.Key, zones ?? step.Zones, rounds, observe, result, because);

    private static Step BodyIron => Plan.Steps.First(s => s.Stage == "iron" && s.Block == Vehicles.Block.Body);

    [Fact]
    public void A_belief_is_a_distribution_and_observations_multiply_it()
    {
        var prior = LoadBelief.LogNormal(0.25, 0.35);
        prior.Levelwise.Sum().ShouldBe(1, 1e-9);
        var strong = prior.Observe(0.25, 1, 0.02);
        strong.Levelwise.Sum().ShouldBe(1, 1e-9);
        strong.AtMost(0.25).ShouldBeLessThan(prior.AtMost(0.25));
        Levels.LoadOf(strong.Median).ShouldBeGreaterThan(0.25);

        // Bayes by hand on two halves: prior odds a:b, likelihood .98:.02.
        var a = 1 - prior.AtMost(0.25);
        var b = prior.AtMost(0.25);
        (1 - strong.AtMost(0.25)).ShouldBe(a * 0.98 / (a * 0.98 + b * 0.02), 1e-9);
    }

    [Fact]
    public void Still_bleeding_asks_for_another_round_and_no_longer_bleeding_ends_it()
    {
        var iron = BodyIron;
        var strong = Replanner.From(Survey, Plan, [See(iron, 1, "bleed", "strong")]);
        strong.Plan.Steps.ShouldContain(s => s.Stage == "iron" && s.Block == Vehicles.Block.Body && s.Zones.Intersect(iron.Zones).Any());
        var none = Replanner.From(Survey, Plan, [See(iron, 1, "bleed", "none")]);
        none.Plan.Steps.ShouldNotContain(s => s.Stage == "iron" && s.Zones.Intersect(iron.Zones).Any());
    }

    [Fact]
    public void What_the_run_has_used_is_gone_from_a_shelf_it_is_kept_to()
    {
        var all = Catalogue.Default.Agents.Where(a => !a.IsWater).Select(a => new Chemistry.ShelfBottle(a.Id, true, null, false)).ToArray();
        var need = Planner.Plan(Survey with { Shelf = all }).Totals.ProductMl["iron-remover"];
        var survey = Survey with { StockOnly = true, Shelf = [.. all.Select(b => b.Agent == "iron-remover" ? b with { StockMl = Math.Round(0.9 * need) } : b)] };
        var plan = Planner.Plan(survey);
        plan.Totals.ProductMl["iron-remover"].ShouldBeInRange(0.4 * need, 0.9 * need + 0.5);
        var wheels = plan.Steps.First(s => s.Stage == "iron" && s.Block == Vehicles.Block.Wheels);
        var after = Replanner.From(survey, plan, [See(wheels, 1, "bleed", "strong")]);
        var used = after.Progress.Zones.Values.Sum(z => z.UsedMl.GetValueOrDefault("iron-remover"));
        used.ShouldBe(wheels.ProductMl / wheels.Rounds, 0.01 * used);
        after.Plan.Totals.ProductMl.GetValueOrDefault("iron-remover").ShouldBeLessThanOrEqualTo(Math.Round(0.9 * need) - used + 0.5);

        // Free to buy, the same sight asks for more than is left.
        Replanner.From(survey with { StockOnly = false }, Planner.Plan(survey with { StockOnly = false }), [See(wheels, 1, "bleed", "strong")]).Plan.Totals.ProductMl["iron-remover"].ShouldBeGreaterThan(Math.Round(0.9 * need) - used + 0.5);
    }

    [Fact]
    public void Four_rounds_are_the_cap_of_a_visit()
    {
        var iron = Plan.Steps.First(s => s.Stage == "iron" && s.Block == Vehicles.Block.Wheels);
        var after = Replanner.From(Survey, Plan, [See(iron, 4, "bleed", "strong")]);
        after.Plan.Steps.ShouldNotContain(s => s.Stage == "iron" && s.Zones.Intersect(iron.Zones).Any());
        after.Plan.Refer.ShouldContain(r => r.What == "iron" && r.Zones.Intersect(iron.Zones).Any(), string.Join("; ", after.Plan.Refer.Select(r => r.What + r.Reason + string.Join(",", r.Zones))) + string.Join(",", after.Progress.Zones["left-front-wheel-face"].Levels));
    }

    [Fact]
    public void Another_agent_does_not_open_the_cap_again()
    {
        var tyres = Plan.Steps.First(s => s.Stage == "tyres");
        var after = Replanner.From(Survey, Plan, [See(tyres, 4, "foam", "brown")]);
        after.Plan.Steps.ShouldNotContain(s => s.Stage == "tyres" && s.Zones.Intersect(tyres.Zones).Any());
        after.Plan.Refer.ShouldContain(r => r.What == "tyre-bloom");
    }

    [Fact]
    public void A_rough_bag_test_brings_clay_and_a_smooth_one_takes_the_test_away()
    {
        var rough = Replanner.From(Survey, Plan, [See(WashOf("bonnet"), 1, "touch", "rough", zones: ["bonnet"])]);
        rough.Plan.StepsOn("bonnet").ShouldContain(s => s.Stage == "clay", string.Join("; ", Rounds(rough.Plan, "bonnet")) + " | " + string.Join(",", rough.Progress.Zones["bonnet"].Levels) + " from " + rough.Progress.Zones["bonnet"].FromSlot + string.Join("; ", rough.Plan.Refer.Select(r => r.Reason)));
        rough.Changes.ShouldContain(c => c.Kind == "more" && c.Stage == "clay" && c.Zones.Contains("bonnet"));
        var smooth = Replanner.From(Survey, Plan, [See(WashOf("bonnet"), 1, "touch", "smooth", zones: ["bonnet"])]);
        smooth.Plan.StepsOn("bonnet").ShouldNotContain(s => s.Stage == "clay");
        smooth.Plan.Tests.Where(t => t.Test == "touch").ShouldAllBe(t => !t.Zones.Contains("bonnet"));
    }

    [Fact]
    public void Could_not_tell_changes_nothing_and_is_asked_again()
    {
        var wash = WashOf("bonnet");
        var done = Replanner.From(Survey, Plan, [See(wash, 1, null, null, zones: ["bonnet"])]);
        var unsure = Replanner.From(Survey, Plan, [See(wash, 1, "touch", "inconclusive", "wet", ["bonnet"])]);
        Rounds(unsure.Plan, "bonnet").ShouldBe(Rounds(done.Plan, "bonnet"));
        var again = unsure.Plan.Tests.Single(t => t.Test == "touch" && t.Zones.Contains("bonnet"));
        again.Changes.ShouldContain("asked again (wet)");
        unsure.Plan.Unverified.ShouldContain("bonnet");
    }

    [Fact]
    public void A_test_is_seen_without_anything_being_done()
    {
        var test = Plan.Tests.First(t => t.Test == "touch");
        var seen = new Observation(Guid.CreateVersion7(), Guid.CreateVersion7(), Observables.TestKey(test), ["bonnet"], 0, "touch", "rough", null);
        var re = Replanner.From(Survey, Plan, [seen]);
        re.Plan.StepsOn("bonnet").Select(s => s.Stage).ShouldBe([.. Plan.StepsOn("bonnet").Select(s => s.Stage).TakeWhile(s => s != "dry"), "clay", .. re.Plan.StepsOn("bonnet").Select(s => s.Stage).SkipWhile(s => s != "clay").Skip(1)]);
        re.Done.ShouldBeEmpty();
    }

    [Fact]
    public void Beading_water_brings_a_strip_and_white_foam_ends_the_tyres()
    {
        var beads = Replanner.From(Survey, Plan, [See(WashOf("roof"), 1, "water", "beads", zones: ["roof"])]);
        beads.Plan.StepsOn("roof").ShouldContain(s => s.Stage == "strip");
        var tyres = Plan.Steps.First(s => s.Stage == "tyres");
        Replanner.From(Survey, Plan, [See(tyres, 1, "foam", "white")]).Plan.Steps.ShouldNotContain(s => s.Stage == "tyres" && s.Zones.Intersect(tyres.Zones).Any());
        Replanner.From(Survey, Plan, [See(tyres, 1, "foam", "brown")]).Plan.Steps.ShouldContain(s => s.Stage == "tyres");
    }

    [Fact]
    public void Black_lumps_in_the_clay_send_the_zone_back_to_chemistry()
    {
        var bag = See(WashOf("bonnet"), 1, "touch", "rough", zones: ["bonnet"]);
        var rough = Replanner.From(Survey, Plan, [bag]);
        var clay = rough.Plan.StepsOn("bonnet").First(s => s.Stage == "clay");
        var lumps = Replanner.From(Survey, Plan, [bag, See(clay, 1, "clayFace", "black-lumps", zones: ["bonnet"])]);
        var stages = lumps.Plan.StepsOn("bonnet").Select(s => s.Stage).ToArray();
        stages.ShouldContain("tar");
        stages.ShouldContain("iron");
    }

    [Fact]
    public void The_same_event_twice_counts_once_and_order_of_zones_does_not_matter()
    {
        var iron = See(BodyIron, 1, "bleed", "strong");
        var once = Replanner.From(Survey, Plan, [iron]);
        var twice = Replanner.From(Survey, Plan, [iron, iron]);
        Core.Formats.PlanFormat.Write(twice.Plan).ShouldBe(Core.Formats.PlanFormat.Write(once.Plan));
        var turned = Replanner.From(Survey, Plan, [iron with { Zones = iron.Zones.Reverse().ToArray() }]);
        Core.Formats.PlanFormat.Write(turned.Plan).ShouldBe(Core.Formats.PlanFormat.Write(once.Plan));
    }

    [Fact]
    public void Step_keys_survive_a_re_plan_where_the_work_is_the_same()
    {
        var re = Replanner.From(Survey, Plan, [See(Plan.Steps.First(s => s.Stage == "tyres"), 1, "foam", "brown")]);
        var kept = re.Plan.Steps.Where(s => s.Block == Vehicles.Block.Body && s.Stage != "dry").Select(s => s.Key).ToArray();
        kept.ShouldBeSubsetOf(Plan.Steps.Select(s => s.Key));
    }

    [Fact]
    public void As_planned_and_seen_as_planned_changes_nothing_ahead()
    {
        var body = Plan.Steps.First(s => s.Stage == "contact-wash");
        var re = Replanner.From(Survey, Plan, [See(body, body.Rounds, null, null)]);
        re.Changes.Where(c => c.Kind == "more").ShouldBeEmpty(string.Join("; ", re.Changes.Select(c => c.Words + " " + string.Join(",", c.Zones))));
    }

    private static Step WashOf(string zone) => Plan.StepsOn(zone).Single(s => s.Stage == "contact-wash");

    private static string[] Rounds(Plan plan, string zone) => plan.StepsOn(zone).Select(s => $"{s.Treatment} {s.Rounds}").ToArray();
}
