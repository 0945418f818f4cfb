using ToughStart.Core.Contamination;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Tests;

/// <summary>A what-if that is offered again what stands worked out is the what-if worked out anew.</summary>
public class OfferTests
{
    [Theory]
    [InlineData("estuary-pickup")]
    [InlineData("barn-saloon")]
    [InlineData("trail-motorcycle")]
    public void What_is_offered_again_is_what_would_be_worked_out(string demo)
    {
        var own = Repository.Demo(demo).Goal;
        foreach (var goal in demo == "trail-motorcycle" ? Goal.All : [own])
        {
            var survey = Repository.Demo(demo) with { Goal = goal };
            var c = Planner.CatalogueFor(survey);
            var states = ZoneState.FromSurvey(survey, Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size), c);
            var builder = new ProblemBuilder(survey, states, StageGraph.For(survey, c), c);
            // Zones that are alike, left and right, are offered alike: one of them is tried.
            foreach (var z in states.DistinctBy(z => builder.Build(z, null, []).Signature).ToArray())
            {
                foreach (var kind in c.Contaminants.Where(k => k.CanSitOn(z.Family)))
                {
                    foreach (var load in new[] { 0, 0.03, 0.7 })
                    {
                        // Whoever asks for refusals has everything worked out.
                        builder
                            .Build(z, null, null, (kind.Index, load))
                            .Signature.ShouldBe(builder.Build(z, null, [], (kind.Index, load)).Signature, $"{z.Zone.Id}, {kind.Id} {load}");
                    }
                }
            }
        }
    }
}
