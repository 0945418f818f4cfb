using System.Text.Json.Nodes;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Tests;

/// <summary>Suggestions that were refused for a job: the plan goes another way, or says what stays.</summary>
public class DeclineTests
{
    private static readonly Survey Survey = Repository.Demo("barn-saloon");

    [Fact]
    public void Every_step_of_the_plan_can_be_refused_and_then_is_not_planned()
    {
        var plan = Repository.Plan(Survey);
        foreach (var treatment in plan.Steps.Where(s => s.Stage != Stage.Dry).Select(s => s.Treatment).Distinct())
        {
            var without = Repository.Plan(Survey with { Declines = [new(treatment, null, [])] });
            without.Steps.ShouldNotContain(s => s.Treatment == treatment);
            without.Steps.ShouldNotBeEmpty();
        }
    }

    [Fact]
    public void A_refused_stage_has_no_step_and_what_then_stays_is_said()
    {
        var iron = Repository.Plan(Survey).Steps.First(s => s.Stage == Stage.Iron);
        var without = Repository.Plan(Survey with { Declines = [new(null, Stage.Iron, [])] });
        without.Steps.ShouldNotContain(s => s.Stage == Stage.Iron);
        without.Refused.ShouldContain(r =>
            r.Treatment == iron.Treatment && r.Reason.Contains("refused for this job", StringComparison.Ordinal)
        );
        without
            .Refer.Any(r => r.What == "iron" && r.Reason.Contains("refused for this job", StringComparison.Ordinal))
            .ShouldBeTrue(string.Join("; ", without.Refer.Select(r => r.Reason)));
    }

    [Fact]
    public void On_some_zones_only_the_rest_is_planned_as_before()
    {
        var clay = Repository.Plan(Survey).Steps.First(s => s.Stage == Stage.Iron);
        var where = clay.Zones.Take(1).ToArray();
        var without = Repository.Plan(Survey with { Declines = [new(null, Stage.Iron, where)] });
        var zones = without.Steps.Where(s => s.Stage == Stage.Iron).SelectMany(s => s.Zones).ToArray();
        zones.ShouldNotContain(where[0]);
        zones.ShouldNotBeEmpty();
    }

    [Fact]
    public void Every_refusal_is_kept_through_the_document_and_a_wrong_one_is_named()
    {
        var survey = Survey with { Declines = [new(null, Stage.Clay, ["bonnet"]), new("iron-spray", null, [])] };
        var again = SurveyFormat.Read(SurveyFormat.Write(survey)).Value!;
        again
            .Declines.Select(d => (d.Treatment, d.Stage, string.Join(' ', d.Zones)))
            .ShouldBe([("iron-spray", null, ""), (null, Stage.Clay, "bonnet")], ignoreOrder: true);
        SurveyFormat.Hash(again).ShouldNotBe(SurveyFormat.Hash(Survey));
        var wrong = JsonNode.Parse(SurveyFormat.Write(Survey))!.AsObject();
        wrong["declines"] = JsonNode.Parse(
            """[{"treatment":"iron-spray","stage":"iron"},{"stage":"polish"},{"treatment":"iron-spray","zones":["moon"]}]"""
        );
        var problems = SurveyFormat.Read(System.Text.Encoding.UTF8.GetBytes(wrong.ToJsonString())).Problems;
        problems.Select(p => p.Field).ShouldBe(["declines[0]", "declines[1].stage", "declines[2].zones[0]"], ignoreOrder: true);
    }

    [Fact]
    public void Every_stage_that_steps_have_can_be_refused()
    {
        var stages = Catalogue.Default.Slots.Select(s => s.Stage).Concat([Stage.Wheels, Stage.Tyres, Stage.Arches]).Distinct();
        Stage.Refusable.ShouldBe(stages, ignoreOrder: true);
        foreach (var stage in Stage.Refusable)
        {
            Repository.Plan(Survey with { Declines = [new(null, stage, [])] }).Steps.ShouldNotContain(s => s.Stage == stage);
        }
    }
}
