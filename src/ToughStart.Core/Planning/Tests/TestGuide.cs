using ToughStart.Core.Chemistry;
using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Planning;

/// <summary>How a test is made and read.</summary>
/// <param name="Measures">The contaminant whose load an answer bounds; null when it speaks of the surface.</param>
/// <param name="Unclear">What makes the answer inconclusive.</param>
public sealed record TestCard(
    string Id,
    string Name,
    string? Measures,
    IReadOnlyList<string> Answers,
    string Do,
    string Look,
    IReadOnlyList<string> Unclear
)
{
    internal static TestCard Read(Table.Row r) =>
        new(
            r["test"],
            r["name"],
            r["measures"].Length == 0 ? null : r["measures"],
            r.Words("answers"),
            r["do"] + ".",
            r["look"] + ".",
            r.Words("unclear")
        );
}

/// <summary>A test worth making before anything is mixed: where, and what its answer would change.</summary>
/// <param name="NarrowsMinutes">By how much knowing narrows the hands-on time.</param>
/// <param name="Changes">What a telling answer does to the plan, in words.</param>
public sealed record ProposedTest(TestCard Card, IReadOnlyList<string> Zones, Minutes NarrowsMinutes, double Probability, string Changes);

/// <summary>
/// Says which tests of the survey would change the plan, and by how much. Hidden kinds come from the plan itself; for the
/// surface, the plan is made again as if the test had spoken, and the two are compared.
/// </summary>
public static class TestGuide
{
    /// <summary>Tests in order of worth, best first.</summary>
    public static IReadOnlyList<ProposedTest> Propose(Survey survey, Plan plan)
    {
        var c = Catalogue.Default;
        // A test that measures nothing opens the way by passing: what that is worth to the whole vehicle is worked out below.
        var list = plan
            .Tests.Where(t => Card(t.Test).Measures is not null)
            .Select(t => new ProposedTest(Card(t.Test), t.Zones, t.NarrowsMinutes, t.Probability, t.Changes))
            .ToList();
        if (plan.ReferOnly)
        {
            return [];
        }

        var waiting = plan
            .Refused.Where(r => r.Cause == Objection.IdOf(Cause.TestSpotFirst))
            .SelectMany(r => r.Zones)
            .Distinct()
            .Where(z => survey.ZoneOf(z)?.TestOf("spot") is null)
            .Order(StringComparer.Ordinal)
            .ToArray();
        if (waiting.Length > 0)
        {
            list.Add(
                Compare(
                    survey,
                    plan,
                    Card("spot"),
                    waiting,
                    z => z with { Tests = [.. z.Tests.Where(t => t.Test != "spot"), new TestResult("spot", "none", null)] },
                    c["spot-passes"]
                )
            );
        }

        var old = survey.History.MonthsSinceWash >= c["single-stage-months"] || survey.Zones.Any(z => z.FindingOf("oxidation")?.Grade > 0);
        var assumed = Vehicles
            .Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size)
            .Zones.Where(z =>
                z.Kind.Default.Id == "clear-coat"
                && z.Kind.MayBe.Any(s => s.Id == "single-stage")
                && survey.ZoneOf(z.Id) is not { Surface: not null }
                && survey.ZoneOf(z.Id)?.TestOf("colour") is null
            )
            .Select(z => z.Id)
            .ToArray();
        if (old && assumed.Length > 0)
        {
            list.Add(Compare(survey, plan, Card("colour"), assumed, z => z with { Surface = "single-stage" }, c["single-stage-chance"]));
        }

        return list.OrderByDescending(t => t.NarrowsMinutes * Math.Min(t.Probability, 1))
            .ThenBy(t => t.Card.Id, StringComparer.Ordinal)
            .ToArray();
    }

    public static TestCard Card(string test) => Catalogue.Default.Tests.First(t => t.Id == test);

    /// <summary>Makes the plan again as if the test had spoken, and says what differs.</summary>
    private static ProposedTest Compare(
        Survey survey,
        Plan plan,
        TestCard card,
        IReadOnlyList<string> zones,
        Func<ZoneSurvey, ZoneSurvey> speaks,
        double probability
    )
    {
        var touched = zones.Select(id => speaks(survey.ZoneOf(id) ?? new ZoneSurvey(id, null, [], null, null, null, [], []))).ToArray();
        var then = Planner.Plan(
            survey with
            {
                Zones = [.. survey.Zones.Where(z => !zones.Contains(z.Zone)).Concat(touched).OrderBy(z => z.Zone, StringComparer.Ordinal)],
            }
        );
        var minutes = then.Totals.LabourMinutes.Expected - plan.Totals.LabourMinutes.Expected;
        var refer = then.Refer.Sum(r => r.Zones.Count) - plan.Refer.Sum(r => r.Zones.Count);
        static int Missed(Plan p) => p.Refused.Where(r => r.Missed).Sum(r => r.Zones.Count);
        var refused = Missed(then) - Missed(plan);
        var parts = new List<string>();
        if (Math.Abs(minutes) >= 0.5)
        {
            parts.Add($"{Math.Abs(minutes):0} min {(minutes > 0 ? "more" : "less")}");
        }

        if (refer != 0)
        {
            parts.Add($"{Math.Abs(refer)} {(refer > 0 ? "more" : "fewer")} left to refer");
        }

        if (refused != 0)
        {
            parts.Add($"{Math.Abs(refused)} {(refused > 0 ? "more refused" : "fewer refused")}");
        }

        var answer = card.Id == "spot" ? "if nothing changes on the spot" : "if the paint's colour comes off";
        return new ProposedTest(
            card,
            zones,
            Math.Abs(minutes),
            probability,
            $"{answer}: {(parts.Count == 0 ? "the plan stands, the limits are sure" : string.Join(", ", parts))}"
        );
    }
}
