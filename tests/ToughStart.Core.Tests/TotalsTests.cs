using ToughStart.Core.Costing;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Tests;

/// <summary>What the minutes of a plan hold: each thing once, and nothing that is not done.</summary>
public class TotalsTests
{
    private static readonly Catalogue C = Catalogue.Default;

    public static TheoryData<string> Demos =>
        ["estuary-pickup", "barn-saloon", "touring-saloon", "trail-motorcycle", "orchard-pickup", "ferry-minibus"];

    [Theory]
    [MemberData(nameof(Demos))]
    public void An_agent_at_a_strength_is_made_ready_once_for_the_whole_job(string demo)
    {
        var plan = Repository.Plan(Repository.Demo(demo));
        foreach (
            var mix in plan.Steps.Where(s => s.Agent != "water" && !C.Treatment(s.Treatment).IsClay).GroupBy(s => (s.Agent, s.Strength))
        )
        {
            mix.Sum(s => s.SetUpMinutes).ShouldBe(C.Agent(mix.Key.Agent).SetUp, 1e-9, mix.Key.ToString());
            mix.First().SetUpMinutes.Value.ShouldBe(mix.Sum(s => s.SetUpMinutes), 1e-9, "the first step that needs it");
        }

        plan.Steps.Where(s => s.Agent == "water").ShouldAllBe(s => s.SetUpMinutes == 0);
        // The minutes of a step are its zones' and its set-up, worked out again from the tables.
        var vehicle = Forms.Build(Repository.Demo(demo).Vehicle.Form, Repository.Demo(demo).Vehicle.Size);
        foreach (var step in plan.Steps.Where(s => s.Stage == Stage.PreRinse))
        {
            var t = C.Treatment(step.Treatment);
            (step.LabourMinutes - step.SetUpMinutes - step.OpenMinutes).ShouldBe(
                step.Zones.Sum(z => step.RoundsOn(z) * ((t.Labour * vehicle[z].Area) + C["reach"])),
                0.01,
                step.Key
            );
        }
    }

    [Theory]
    [MemberData(nameof(Demos))]
    public void Only_tests_that_are_made_take_minutes(string demo)
    {
        var plan = Repository.Plan(Repository.Demo(demo));
        var made = plan.Tests.Where(t => t.Worth || t.Required).ToArray();
        plan.Worlds!.Worked(1, Scatter.None)
            .Minutes[0]
            .ShouldBe(
                plan.Steps.Sum(s => s.LabourMinutes)
                    + made.Sum(t => Math.Min(t.Zones.Count * C["test-minutes"], C["test-round"] + (t.Zones.Count * C["test-zone"]))),
                0.01
            );
    }

    [Theory]
    [MemberData(nameof(Demos))]
    public void Drying_waits_for_the_last_work_on_every_zone(string demo)
    {
        var plan = Repository.Plan(Repository.Demo(demo));
        var dry = plan.Steps.Single(s => s.Stage == Stage.Dry);
        foreach (var zone in plan.Steps.SelectMany(s => s.Zones).Distinct())
        {
            if (plan.StepsOn(zone).LastOrDefault(s => s.Stage != Stage.Dry) is { } last)
            {
                dry.After.ShouldContain(last.Key, zone);
            }
        }
    }
}
