using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Tests;

/// <summary>
/// The figures practitioners use, against what the catalogue's model assumptions come to on a drawn vehicle. Source of every range here:
/// common practice of the trade (minutes by bar and pad on a bonnet, usual dwells, rounds nobody passes), not the catalogue.
/// </summary>
public class CalibrationTests
{
    private static readonly Catalogue C = Catalogue.Default;

    private static double Bonnet => Forms.Build("saloon", Repository.Demo("barn-saloon").Vehicle.Size)["bonnet"].Area;

    [Fact]
    public void A_bonnet_takes_three_to_five_minutes_by_bar_and_about_one_by_pad()
    {
        (C.Treatment("clay-bar-fine").Labour * Bonnet).ShouldBeInRange(3, 5);
        (C.Treatment("clay-pad-fine").Labour * Bonnet).ShouldBeInRange(0.7, 1.6);
        (C.Treatment("clay-pad-fine").Labour / C.Treatment("clay-bar-fine").Labour).ShouldBeInRange(
            0.24,
            0.34,
            "a third to a quarter of the bar's time"
        );
    }

    [Theory]
    [InlineData("tar-remover", 0.5, 2)]
    [InlineData("iron-remover", 3, 10)]
    [InlineData("strip-foam", 2.5, 3.5)]
    [InlineData("bug-remover", 2, 10)]
    [InlineData("neutral-foam", 3, 5)]
    [InlineData("alkaline-foam", 3, 5)]
    [InlineData("iron-foam", 10, 12)]
    [InlineData("wheel-neutral", 2, 5)]
    public void Dwells_are_those_of_the_trade(string agent, double least, double most) =>
        C.Agent(agent).Dwell.Value.ShouldBeInRange(least, most);

    [Fact]
    public void Rounds_stop_where_the_trade_stops()
    {
        foreach (var (slot, most) in new[] { (Place.Iron, 4), (Place.Strip, 3) })
        {
            C.Treatments.Where(t => t.In(slot)).ShouldAllBe(t => t.MaxRounds <= most);
        }

        C.Treatments.Where(t => t.Families is [var only] && only == Family.Tyre).ShouldAllBe(t => t.MaxRounds <= 4);
    }

    /// <summary>Two or three rounds of degreaser and brush make a browned tyre's foam white; heavy iron on wheels takes up to four, light iron on paint one or two.</summary>
    [Fact]
    public void A_job_takes_as_long_as_is_usual()
    {
        // Common practice: a maintained saloon washed and dried by one person 60 to 90 minutes, a van two to four hours with what a month of work
        // leaves, a neglected car decontaminated four to seven hours.
        Minutes("saloon", "wash", 1, 1).ShouldBeInRange(60, 90);
        Minutes("panel-van", "wash", 3, 2).ShouldBeInRange(120, 240);
        Minutes("saloon", "correct", 3, 3).ShouldBeInRange(240, 420);

        static double Minutes(string form, string goal, int film, int worse)
        {
            string F(string kind, int grade) => $$"""{ "contaminant": "{{kind}}", "grade": {{grade}} }""";
            var bonded = goal == "correct" ? $", {F("iron", worse - 1)}, {F("bonded-mix", worse - 1)}, {F("tar", worse - 1)}" : "";
            var survey = Repository.Survey(
                $$"""
                { "format": "toughstart.survey/1", "vehicle": { "form": "{{form}}", "softness": "medium" }, "goal": "{{goal}}", "zones": [
                  { "zone": "*", "findings": [ {{F("road-film", film)}}, {{F("loose-dust", film)}}, {{F("grit", worse - 1)}} ] },
                  { "zone": "*-wheel-*", "findings": [ {{F("road-film", film)}}, {{F("iron", worse)}} ] },
                  { "zone": "*-tyre", "findings": [ {{F("tyre-bloom", worse)}} ] },
                  { "zone": "*-arch", "findings": [ {{F("mud", worse)}}, {{F("road-film", film)}} ] },
                  { "zone": "*-door", "findings": [ {{F("road-film", film)}}, {{F("loose-dust", film)}}{{bonded}} ] },
                  { "zone": "*-wing", "findings": [ {{F("road-film", film)}}, {{F("loose-dust", film)}}{{bonded}} ] },
                  { "zone": "bonnet", "findings": [ {{F("road-film", film)}}, {{F("bug", worse)}}{{bonded}} ] },
                  { "zone": "roof", "findings": [ {{F("road-film", film)}}, {{F("loose-dust", film)}}{{bonded}} ] } ] }
                """
            );
            return Repository.Plan(survey).Totals.ElapsedMinutes.Expected;
        }
    }

    [Fact]
    public void Rounds_of_a_plan_are_those_that_are_usual()
    {
        int Rounds(string zone, string kind, int grade, Stage stage, string? found = null) =>
            Planner
                .Plan(
                    Repository.Saloon(
                        $$"""
                        { "zone": "{{found ?? zone}}",
                          "findings": [ { "contaminant": "{{kind}}", "grade": {{grade}}, "certainty": "seen" } ] }
                        """
                    )
                )
                .Steps.Where(s => s.Stage == stage && s.Zones.Contains(zone))
                .Sum(s => s.RoundsOn(zone));
        Rounds("left-front-tyre", "tyre-bloom", 3, Stage.Tyres).ShouldBeInRange(2, 3);
        // A trace on one door alone does not repay laying out for it; on four it does.
        Rounds("left-rear-door", "iron", 1, Stage.Iron, "*-door").ShouldBeInRange(1, 2);
        Rounds("left-front-wheel-face", "iron", 3, Stage.Iron).ShouldBeInRange(2, 4);
    }
}
