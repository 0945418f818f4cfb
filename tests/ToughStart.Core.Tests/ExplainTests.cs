using CsCheck;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Tests;

/// <summary>Every step, skip, refusal, test and line says why, and says it well: for the demos and for any survey.</summary>
public class ExplainTests
{
    public static TheoryData<string> Demos =>
        [
            "estuary-pickup",
            "moorland-van",
            "barn-saloon",
            "touring-saloon",
            "trail-motorcycle",
            "orchard-pickup",
            "barn-coupe",
            "ferry-minibus",
        ];

    /// <summary>Demos of which each stage is refused in turn: a pickup, a saloon, a motorcycle.</summary>
    private static readonly string[] Refusing = ["estuary-pickup", "touring-saloon", "trail-motorcycle"];

    [Theory]
    [MemberData(nameof(Demos))]
    public void Every_step_of_the_demos_is_explained(string demo) => Check(Repository.Demo(demo));

    [Fact]
    public void So_is_every_step_of_any_survey_under_any_school() =>
        Gen.Select(FormatTests.Surveys(), Gen.Int[0, HouseRules.All.Count - 1], Gen.Int[0, 9])
            .Sample(
                (survey, rule, choice) =>
                {
                    var school = HouseRules.All[rule];
                    var other = survey with
                    {
                        House = new Dictionary<string, string>(survey.House)
                        {
                            [school.Id] = school.Choices[choice % school.Choices.Count].Value,
                        },
                    };
                    if (StageGraph.Contradiction(other) is null)
                    {
                        Check(other);
                    }
                },
                iter: 60
            );

    [Theory]
    [MemberData(nameof(Demos))]
    public void Another_goal_or_a_refusal_is_explained_too(string demo)
    {
        var survey = Repository.Demo(demo);
        var plans = Goal.All.Select(goal => Check(survey with { Goal = goal })).ToArray();
        var plan = plans.Single(p => p.Goal == survey.Goal);
        if (!Refusing.Contains(demo))
        {
            return;
        }

        foreach (var stage in plan.Steps.Select(s => s.Stage).Distinct().Where(Stage.Refusable.Contains))
        {
            var without = survey with { Declines = [new Decline(null, stage, [])] };
            Check(without).Steps.ShouldNotContain(s => s.Stage == stage);
        }
    }

    private static Plan Check(Survey survey)
    {
        var c = Planner.CatalogueFor(survey);
        var plan = Repository.Plan(survey);
        var said = new List<string>();
        foreach (var s in plan.Steps)
        {
            said.AddRange([s.Name, .. s.Why, .. s.Cautions, .. s.Avoid]);
            s.Zones.ShouldNotBeEmpty(s.Key);
            s.RoundsBetween.Low.ShouldBeLessThanOrEqualTo(s.Rounds, s.Key);
            s.RoundsBetween.High.ShouldBeGreaterThanOrEqualTo(s.Rounds, s.Key);
            if (s.Stage == Stage.Dry)
            {
                continue;
            }

            (s.Why.Count + s.Answers.Count).ShouldBeGreaterThan(0, $"{s.Key} answers a finding or follows a rule");
            s.Answers.ShouldAllBe(a => a.After <= a.Before + 1e-9, s.Key);
            s.Why.ShouldAllBe(
                w => !System.Text.RegularExpressions.Regex.IsMatch(w, @": (.+) to \1\.$"),
                $"{s.Key}: from a word to the same"
            );
            s.Rounds.ShouldBeLessThanOrEqualTo(s.Until?.MaxRounds ?? c.Treatment(s.Treatment).MaxRounds, s.Key);
            var agent = c.Agent(s.Agent);
            if (!agent.IsWater && agent.Axis != Axis.None)
            {
                s.Kit.Any(k => k.Contains("glove", StringComparison.Ordinal)).ShouldBeTrue($"{s.Key} with {agent.Id} asks for gloves");
                s.Cautions.ShouldNotBeEmpty(s.Key);
            }

            if (s.DwellMinutes > 0)
            {
                s.DwellMinutes.Value.ShouldBeLessThanOrEqualTo(s.MaxDwellMinutes + 1e-9, s.Key);
            }

            // One caution does not say again what another says.
            foreach (var (one, two) in s.Cautions.SelectMany((x, i) => s.Cautions.Skip(i + 1).Select(y => (x, y))))
            {
                one.Contains(two.TrimEnd('.'), StringComparison.OrdinalIgnoreCase).ShouldBeFalse($"{s.Key}: '{two}' again in '{one}'");
                two.Contains(one.TrimEnd('.'), StringComparison.OrdinalIgnoreCase).ShouldBeFalse($"{s.Key}: '{one}' again in '{two}'");
            }
        }

        foreach (var skipped in plan.Skipped)
        {
            skipped.Reason.Length.ShouldBeGreaterThan(8, skipped.Stage.Word);
            skipped.Zones.ShouldNotBeEmpty(skipped.Stage.Word);
        }

        said.AddRange(
            plan.Skipped.Select(s => s.Reason)
                .Concat(plan.Refused.Select(r => r.Reason))
                .Concat(plan.Refer.Select(r => r.Reason))
                .Concat(plan.Warnings)
                .Concat(plan.Closing)
                .Concat(plan.Tests.Select(t => t.Changes))
        );
        foreach (var words in said)
        {
            words.ShouldNotBeNullOrWhiteSpace();
            words.ShouldBe(words.Trim());
            foreach (var slip in new[] { "  ", " ,", " .", "..", ",,", "NaN", "∞", "{", "}", "()", "null", "System." })
            {
                words.Replace("...", "…", StringComparison.Ordinal).ShouldNotContain(slip, customMessage: words);
            }
        }

        // The plan as text names every step once, in order.
        var text = PlanText.Of(plan, survey);
        var at = 0;
        foreach (var s in plan.Steps.Where(s => s.Stage != Stage.Dry).DistinctBy(s => s.Name))
        {
            text.IndexOf(s.Name, StringComparison.OrdinalIgnoreCase).ShouldBeGreaterThanOrEqualTo(0, s.Name);
            at++;
        }

        at.ShouldBe(plan.Steps.Where(s => s.Stage != Stage.Dry).Select(s => s.Name).Distinct().Count());

        return plan;
    }
}
