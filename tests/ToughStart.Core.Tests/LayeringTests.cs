using ToughStart.Core.Conditions;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Tests;

/// <summary>Foam over a spray that is still wet: one film, one dwell, one rinse, and only where that follows from the dirt.</summary>
public class LayeringTests
{
    private static Survey Filmed => Repository.Demo("moorland-van");

    public static TheoryData<string> Demos =>
        [
            "barn-coupe",
            "barn-saloon",
            "estuary-pickup",
            "ferry-minibus",
            "moorland-van",
            "orchard-pickup",
            "touring-saloon",
            "trail-motorcycle",
        ];

    [Theory]
    [MemberData(nameof(Demos))]
    public void A_spray_left_wet_is_followed_at_once_by_its_foam_on_the_same_zones(string demo)
    {
        foreach (var goal in Goal.All)
        {
            var plan = Repository.Plan(Repository.Demo(demo) with { Goal = goal });
            foreach (var zone in plan.Traces.Select(t => t.Zone))
            {
                var steps = plan.StepsOn(zone).ToArray();
                for (var i = 0; i < steps.Length; i++)
                {
                    if (steps[i].Under)
                    {
                        var foam = steps[i + 1];
                        (foam.Slot, foam.On(zone)!.Over).ShouldBe((Place.Foam, steps[i].Agent));
                        (steps[i].RoundsOn(zone), foam.RoundsOn(zone), steps[i].DwellMinutes).ShouldBe((1, 1, 0));
                        steps[i].WaterLitres.ShouldBe(0, "nothing is rinsed between");
                        ((double)foam.On(zone)!.DwellMinutes).ShouldBeLessThanOrEqualTo(
                            (double)Catalogue.Default.Agent(steps[i].Agent).MaxDwell,
                            "the spray's label counts under the foam too"
                        );
                    }

                    if (steps[i].On(zone)!.Over is not null)
                    {
                        steps[i - 1].Under.ShouldBeTrue();
                    }
                }
            }
        }
    }

    [Fact]
    public void Film_and_grit_together_are_sprayed_and_foamed_in_one_dwell_and_one_rinse()
    {
        var plan = Repository.Plan(Filmed);
        var over = plan.Steps.First(s => s.Over is not null);
        plan.Steps.First(s => s.Under).Agent.ShouldBe(over.Over);
        over.Why.ShouldContain(w => w.Contains("one rinse", StringComparison.Ordinal));
        // The school that rinses at once, and the one that puts chemistry on the dry dirt, leave nothing wet to foam over.
        foreach (var (rule, value) in new[] { ("prewashDwell", "rinse-at-once"), ("firstLiquid", "chemistry") })
        {
            Planner
                .Plan(Filmed with { House = new Dictionary<string, string>(Filmed.House) { [rule] = value } })
                .Steps.ShouldNotContain(s => s.Under, rule);
        }
    }

    /// <summary>Foam over a pre-wash keeps it wet longer: common practice. Here the drying model says it by itself, for every zone of a van in the sun.</summary>
    [Fact]
    public void Foam_over_a_spray_keeps_it_wet_longer_than_the_spray_alone()
    {
        var survey = Repository.Demo("moorland-van");
        var c = Planner.CatalogueFor(survey);
        var states = ZoneState.FromSurvey(survey, Vehicles.Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size), c);
        var compared = 0;
        foreach (var z in states.Where(z => z.Window("spray") is not null))
        {
            z.Window("foam-over-spray")!.Value.FirstDry.ShouldBeGreaterThan(z.Window("spray")!.Value.FirstDry);
            compared++;
        }

        compared.ShouldBeGreaterThan(20);
    }

    [Fact]
    public void A_run_that_stops_between_spray_and_foam_still_lays_the_foam()
    {
        var survey = Filmed;
        var plan = Repository.Plan(survey);
        var spray = plan.Steps.First(s => s.Under);
        var foam = plan.Steps.First(s => s.Over is not null && s.Zones.Intersect(spray.Zones).Any());
        var now = Running.Replanner.From(
            survey,
            plan,
            [new Running.Observation(Guid.NewGuid(), Guid.NewGuid(), spray.Key, spray.Zones, 1, null, null, null)]
        );
        now.Plan.Steps.ShouldContain(s => s.Key == foam.Key && s.Over == spray.Agent);
    }
}
