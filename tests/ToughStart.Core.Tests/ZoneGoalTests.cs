using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Tests;

/// <summary>One job, several aims: glass to be coated while the paint is only washed, a half left for comparison, a part nobody may touch.</summary>
public class ZoneGoalTests
{
    private const string Dirt = """
        { "zone": "*", "findings": [ { "contaminant": "road-film", "grade": 2 }, { "contaminant": "loose-dust", "grade": 2 },
                                     { "contaminant": "grit", "grade": 1 } ] }
        """;

    private const string Bonded =
        "\"findings\": [ { \"contaminant\": \"road-film\", \"grade\": 2 }, { \"contaminant\": \"bonded-mix\", \"grade\": 2 } ]";

    [Fact]
    public void Glass_is_made_ready_to_be_coated_while_the_paint_is_washed()
    {
        var plan = Planner.Plan(
            Repository.Saloon(
                $$"""{{Dirt}}, { "zone": "windscreen", "goal": "protect", {{Bonded}} }, { "zone": "bonnet", {{Bonded}} }""",
                "wash"
            )
        );
        plan.StepsOn("windscreen").ShouldContain(s => s.Stage == Stage.Clay);
        plan.StepsOn("bonnet").ShouldNotContain(s => s.Stage == Stage.Clay);
        plan.StepsOn("bonnet").ShouldContain(s => s.Stage == Stage.ContactWash);
        plan.Skipped.Single(s => s.Stage == Stage.Clay && s.Zones.Contains("bonnet")).Reason.ShouldContain("goal wash");
    }

    [Fact]
    public void A_half_that_is_left_alone_is_in_no_step_no_test_and_no_list()
    {
        var plan = Planner.Plan(
            Repository.Saloon(
                $$"""{{Dirt}}, { "zone": "left-*", "goal": "leave-alone", "findings": [] }, { "zone": "bonnet", {{Bonded}} }"""
            )
        );
        static bool Left(string zone) => zone.StartsWith("left-", StringComparison.Ordinal);
        plan.Steps.SelectMany(s => s.Zones).Where(Left).ShouldBeEmpty();
        plan.Tests.SelectMany(t => t.Zones).Where(Left).ShouldBeEmpty();
        plan.Refer.SelectMany(r => r.Zones).Where(Left).ShouldBeEmpty();
        plan.Refused.SelectMany(r => r.Zones).Where(Left).ShouldBeEmpty();
        plan.Unverified.Where(Left).ShouldBeEmpty();
        plan.LeftUndone.SelectMany(u => u.Zones).Where(Left).ShouldBeEmpty();
        plan.Warnings.ShouldContain(w => w.StartsWith("Left alone as asked", StringComparison.Ordinal));
        plan.StepsOn("right-front-door").ShouldContain(s => s.Stage == Stage.ContactWash);
        plan.StepsOn("right-front-wheel-face").ShouldNotBeEmpty();
    }

    /// <summary>A face somebody else will refinish does not keep the rest of its wheel dirty.</summary>
    [Fact]
    public void A_part_of_a_wheel_can_be_left_alone()
    {
        var plan = Planner.Plan(
            Repository.Saloon($$"""{{Dirt}}, { "zone": "left-front-wheel-face", "goal": "leave-alone", "findings": [] }""")
        );
        plan.StepsOn("left-front-wheel-face").ShouldBeEmpty();
        plan.StepsOn("left-front-wheel-barrel").ShouldNotBeEmpty();
    }

    [Fact]
    public void It_is_written_read_and_refused_by_name()
    {
        var survey = Repository.Saloon("""{ "zone": "*-glass", "goal": "protect", "findings": [] }""", "wash");
        survey.Zones.ShouldAllBe(z => z.Goal == ZoneGoal.Protect);
        SurveyFormat.Read(SurveyFormat.Write(survey)).Value!.Zones.ShouldAllBe(z => z.Goal == ZoneGoal.Protect);
        var wrong = Repository.Read(
            """
            { "format": "toughstart.survey/1", "vehicle": { "form": "saloon" }, "goal": "wash",
              "zones": [ { "zone": "roof", "goal": "shine", "findings": [] } ] }
            """
        );
        wrong.Ok.ShouldBeFalse();
        wrong.Problems[0].Field.ShouldContain("goal");
    }
}
