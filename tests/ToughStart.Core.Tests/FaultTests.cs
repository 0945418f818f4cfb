using System.Text;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Tests;

/// <summary>What earlier plans did and no practitioner would, each with the smallest survey that shows it.</summary>
public class FaultTests
{
    private static readonly Catalogue C = Catalogue.Default;

    private static Survey Of(string zones, string goal, string house = "", string site = "", string vehicle = "") =>
        SurveyFormat.Read(
            Encoding.UTF8.GetBytes(
                $$"""
                { "format": "toughstart.survey/1", "vehicle": { "form": "saloon", "colour": "#1b1c1e"{{vehicle}} }, "history": { "flood": "none", "monthsSinceWash": 2 },
                  "goal": "{{goal}}", "site": { {{(
                    site.Length > 0 ? site : """ "place": "indoors", "airC": 17, "humidityPct": 60, "water": "hose" """
                )}} },
                  "house": { {{house}} }, "zones": [ {{zones}} ] }
                """
            )
        )
            is { Ok: true } read
            ? read.Value!
            : throw new InvalidOperationException("survey");

    private static string Found(string zone, string more, params (string Kind, int Grade)[] findings) =>
        $$"""{ "zone": "{{zone}}"{{more}}, "findings": [ {{string.Join(", ", findings.Select(f => $$"""{ "contaminant": "{{f.Kind}}", "grade": {{f.Grade}}, "age": "days" }"""))}} ] }""";

    private static readonly string Filmed = Found("*", "", ("road-film", 2), ("loose-dust", 1), ("grit", 1));

    private static Plan Plan(string zones, string goal, string house = "", string site = "", string vehicle = "") =>
        Repository.Plan(Of(zones, goal, house, site, vehicle));

    [Fact]
    public void Nothing_is_washed_again_for_residue_that_nobody_left()
    {
        foreach (var demo in Repository.DemoNames.Select(Repository.Demo).Append(Of(Filmed, "wash")))
        {
            var plan = Repository.Plan(demo);
            foreach (var (step, at) in plan.Steps.Select((s, i) => (s, i)).Where(x => x.s.Stage == Stage.ReWash))
            {
                foreach (var zone in step.Zones)
                {
                    plan.Steps.Take(at)
                        .Where(s => s.Zones.Contains(zone) && s.Stage != Stage.Dry)
                        .ShouldContain(
                            s => C.Treatment(s.Treatment).AddsResidue > 0 || C.Treatment(s.Treatment).Agent.Axis != Axis.None,
                            zone
                        );
                }
            }
        }
    }

    [Fact]
    public void Sap_is_off_before_clay_comes()
    {
        var plan = Plan(
            $"{Filmed}, {Found("bonnet", ", \"surface\": \"clear-coat\", \"softness\": \"medium\"", ("sap", 3), ("bonded-mix", 3))}",
            "correct"
        );
        var steps = plan.StepsOn("bonnet").ToList();
        var clay = steps.FindIndex(s => s.Stage == Stage.Clay);
        clay.ShouldBeGreaterThan(0);
        steps.Take(clay).ShouldContain(s => s.Answers.Any(a => a.Zone == "bonnet" && a.Contaminant == "sap"));
        steps[clay].Cautions.ShouldContain(x => x.StartsWith("Clay marks paint", StringComparison.Ordinal));
    }

    [Fact]
    public void A_trace_of_roughness_on_soft_paint_that_nobody_polishes_is_not_clayed() =>
        Plan($"{Filmed}, {Found("bonnet", ", \"surface\": \"clear-coat\", \"softness\": \"soft\"", ("bonded-mix", 1))}", "protect")
            .StepsOn("bonnet")
            .ShouldNotContain(s => s.Stage == Stage.Clay);

    [Fact]
    public void Bugs_are_lifted_once_after_the_foam_and_never_with_a_mesh_in_a_grille()
    {
        var survey = Of(
            $"{Filmed}, {Found("bonnet", ", \"surface\": \"clear-coat\", \"softness\": \"hard\"", ("bug", 3))}, {Found("grille", "", ("bug", 3))}",
            "wash",
            "\"foam\": \"always\""
        );
        var plan = Repository.Plan(survey);
        foreach (var zone in new[] { "bonnet", "grille" })
        {
            var spots = plan.StepsOn(zone).Where(s => s.Stage == Stage.Spot).ToArray();
            spots.Length.ShouldBeLessThanOrEqualTo(1, zone);
            spots.ShouldAllBe(s => s.RoundsOn(zone) <= 3);
            var order = plan.StepsOn(zone).Select(s => s.Stage).ToList();
            spots.ShouldAllBe(_ => order.IndexOf(Stage.Spot) > order.IndexOf(Stage.Foam));
        }

        plan.StepsOn("bonnet").ShouldContain(s => s.Stage == Stage.Spot);
        plan.StepsOn("grille").ShouldNotContain(s => s.Stage == Stage.Spot);
        plan.StepsOn("grille").Where(s => s.Stage != Stage.Dry).ShouldAllBe(s => C.Treatment(s.Treatment).Contact != Contact.Rub);
    }

    [Fact]
    public void A_part_too_small_for_a_step_of_its_own_is_wiped_in_passing_and_the_client_hears_nothing_of_it()
    {
        // A spot of tar on a mirror alone: nobody fetches a bottle and a bin for it.
        var survey = Of($"{Filmed}, {Found("left-mirror", "", ("tar", 2))}", "sale");
        var plan = Repository.Plan(survey);
        plan.Refer.Single(r => r.What == "tar").Reason.ShouldContain("by hand on the way past");
        ClientNote.Of(survey, plan).ShouldNotContain(n => n.Zones.Contains("left-mirror"));
    }

    [Fact]
    public void Water_spots_get_no_iron_remover()
    {
        // No acid without its data sheet: the shelf has one.
        var survey = Of($"{Filmed}, {Found("bonnet", ", \"surface\": \"clear-coat\"", ("mineral", 3), ("iron", 0))}", "correct");
        var plan = Planner.Plan(
            survey with
            {
                Shelf =
                [
                    .. C.Agents.Where(a => !a.IsWater).Select(a => new ShelfBottle(a.Id, true, a.Id == "spot-acid" ? 3.2 : null, false)),
                ],
            }
        );
        plan.StepsOn("bonnet").ShouldNotContain(s => s.Stage == Stage.Iron);
        plan.StepsOn("bonnet").Single(s => s.Stage == Stage.Acid).Treatment.ShouldBe("mineral-spot");
    }

    [Fact]
    public void Steel_wheels_bear_alkali_and_fear_acid()
    {
        var steel = Found("*-wheel-face", ", \"surface\": \"steel-wheel\"", ("road-film", 4), ("iron", 3), ("mud", 2));
        var plan = Plan($"{Filmed}, {steel}", "wash");
        plan.Refused.Where(r => r.Zones.Any(z => z.EndsWith("wheel-face", StringComparison.Ordinal)) && r.Missed)
            .ShouldNotContain(r => C.Treatment(r.Treatment).Agent.Axis == Axis.Alkali || C.Treatment(r.Treatment).Agent.Axis == Axis.Mild);
        plan.Steps.Where(s => s.Zones.Any(z => z.EndsWith("wheel-face", StringComparison.Ordinal)))
            .ShouldNotContain(s => s.Stage != Stage.Dry && C.Treatment(s.Treatment).Agent.Axis == Axis.Acid);
    }

    [Fact]
    public void Iron_with_clay_does_clay_the_paint()
    {
        var bonnet = Found("bonnet", ", \"surface\": \"clear-coat\", \"softness\": \"hard\"", ("iron", 3), ("bonded-mix", 2));
        var plan = Plan($"{Filmed}, {bonnet}", "correct", "\"iron\": \"with-clay\", \"clayLubricant\": \"iron-remover\"");
        var clay = plan.StepsOn("bonnet").Single(s => s.Stage == Stage.Clay);
        clay.Agent.ShouldBe("iron-remover", "really mixed, and booked");
        clay.ProductMl.Value.ShouldBeGreaterThan(0);
    }

    [Fact]
    public void A_trace_gets_nothing_strong()
    {
        var plan = Plan(Found("*", "", ("road-film", 1), ("loose-dust", 1)), "wash");
        foreach (var step in plan.Steps.Where(s => s.Block == Block.Body && s.Stage != Stage.Dry))
        {
            var agent = C.Treatment(step.Treatment).Agent;
            agent.Axis.IsHarsh.ShouldBeFalse(step.Key);
            step.Strength.Value.ShouldBeLessThanOrEqualTo(agent.Reference.Value + 1e-9, step.Key);
        }
    }

    [Fact]
    public void Sun_at_18_degrees_refuses_neither_tyres_nor_wheels_nor_trim()
    {
        var plan = Plan(
            $"{Filmed}, {Found("*-tyre", "", ("tyre-bloom", 2))}",
            "wash",
            site: """
            "place": "outdoors", "airC": 18, "humidityPct": 50, "windMs": 2, "windAt": "panel", "cloudOktas": 0, "latitude": 53, "longitude": -2,
            "timeZone": "Europe/London", "start": "2026-06-12T13:00", "water": "hose"
            """
        );
        var vehicle = Forms.Build("saloon", Forms.DefaultSize("saloon"));
        Family[] cooled = [Family.Tyre, Family.Wheel, Family.Seal, Family.Trim, Family.Arch];
        plan.Refused.Where(r => r.Cause == Objection.IdOf(Cause.HotPanel))
            .SelectMany(r => r.Zones)
            .ShouldNotContain(z => cooled.Contains(vehicle[z].Kind.Default.Family));
        plan.Steps.ShouldContain(s => s.Stage == Stage.Tyres);
    }

    [Fact]
    public void Without_a_hose_dust_is_wiped_and_nobody_speaks_of_polishing_it()
    {
        var plan = Plan(
            Found("*", "", ("loose-dust", 2)),
            "wash",
            site: """ "place": "indoors", "airC": 17, "humidityPct": 60, "water": "none" """
        );
        plan.Steps.Where(s => s.Stage == Stage.ContactWash).Select(s => s.Agent).ShouldBe(["rinseless"]);
        plan.StepsOn("bonnet").Count().ShouldBeGreaterThan(0);
        plan.Refer.ShouldNotContain(r => r.Reason.Contains("polishing or replacing", StringComparison.Ordinal));
    }

    [Fact]
    public void House_rules_force()
    {
        var iron = Plan($"{Filmed}, {Found("bonnet", "", ("iron", 2))}", "protect", "\"iron\": \"foam-then-spot\", \"foam\": \"always\"");
        iron.Steps.Where(s => s.Stage == Stage.Foam && s.Block == Block.Body && s.Zones.Contains("bonnet"))
            .ShouldAllBe(s => s.Agent == "iron-foam");

        var strip = Plan(
            $"{Filmed}, {Found("bonnet", ", \"surface\": \"clear-coat\", \"protection\": \"unknown\"")}",
            "wash",
            "\"oldProtection\": \"strip-at-wash\""
        );
        strip.StepsOn("bonnet").Where(s => s.Stage == Stage.ContactWash).ShouldAllBe(s => s.Treatment == "wash-strip");

        var chemistry = Plan(Found("*", "", ("road-film", 3), ("grit", 1)), "wash", "\"firstLiquid\": \"chemistry\"");
        var first = chemistry.StepsOn("bonnet").First();
        first.Stage.ShouldBe(Stage.PreWash, "chemistry on the dry dirt");

        var low = Plan($"{Filmed}, {Found("left-sill", "", ("iron", 2))}", "protect", "\"ironCoverage\": \"low\"");
        low.StepsOn("left-front-door").ShouldContain(s => s.Stage == Stage.Iron);
        low.StepsOn("roof").ShouldNotContain(s => s.Stage == Stage.Iron);
    }

    [Fact]
    public void A_matte_car_has_a_list_somebody_reads()
    {
        var matte = string.Join(
            ", ",
            Forms
                .Build("saloon", Forms.DefaultSize("saloon"))
                .Zones.Where(z => z.Kind.MayBe.Any(s => s.Id == "matte-paint"))
                .Select(z => $$"""{ "zone": "{{z.Id}}", "surface": "matte-paint" }""")
        );
        var plan = Plan($"{Filmed}, {matte}", "wash");
        plan.Refused.Count(r => r.Missed).ShouldBeLessThanOrEqualTo(10, "43 before");
        plan.Warnings.ShouldNotContain(w => w.Contains("assumed surface", StringComparison.Ordinal));
        plan.Steps.Count.ShouldBeLessThanOrEqualTo(12);
    }
}
