using System.Text;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Tests;

/// <summary>What a careful practitioner does beside the chemistry: before water, on thin or matte paint, with the last towel, and in a word to the client.</summary>
public class CareTests
{
    private static readonly Catalogue C = Catalogue.Default;

    private static Survey Of(string zones, string goal = "protect", string house = "", string vehicle = "\"form\": \"saloon\"") =>
        SurveyFormat
            .Read(
                Encoding.UTF8.GetBytes(
                    $$"""
                    { "format": "toughstart.survey/1", "vehicle": { {{vehicle}} }, "history": { "flood": "none" }, "goal": "{{goal}}",
                      "site": { "place": "indoors", "airC": 17, "humidityPct": 60, "water": "hose" }, "house": { {{house}} },
                      "zones": [ {{zones}} ] }
                    """
                )
            )
            .Value!;

    private const string Filmed =
        """{ "zone": "*", "findings": [ { "contaminant": "road-film", "grade": 3 }, { "contaminant": "loose-dust", "grade": 2 } ] }""";

    private static string Bugs(string films) =>
        $$"""
            {{Filmed}}, { "zone": "bonnet", "surface": "clear-coat", "softness": "hard", "filmUm": [{{films}}],
              "findings": [ { "contaminant": "bug", "grade": 3, "age": "weeks" } ] }
            """;

    /// <summary>Common practice: below 80 µm paint is thin, and the tool changes before anybody polishes.</summary>
    [Theory]
    [InlineData("120, 118, 122, 121, 119", "bug-mesh")]
    [InlineData("62, 60, 63, 61, 62", "bug-cloth")]
    public void Thin_paint_gets_a_cloth_where_sound_paint_takes_a_mesh(string films, string treatment)
    {
        var plan = Planner.Plan(Of(Bugs(films)));
        plan.StepsOn("bonnet").Where(s => s.Stage == Stage.Spot).Select(s => s.Treatment).ShouldBe([treatment]);
        plan.Warnings.Any(w => w.StartsWith("Thin paint", StringComparison.Ordinal)).ShouldBe(treatment == "bug-cloth");
    }

    [Theory]
    [InlineData("wash", "aid")]
    [InlineData("protect", "blot")]
    [InlineData("correct", "blot")]
    public void A_drying_aid_is_left_where_it_would_undo_what_the_goal_needs(string goal, string drying)
    {
        var plan = Repository.Plan(Of(Filmed, goal, "\"drying\": \"aid\""));
        plan.Steps.Single(s => s.Stage == Stage.Dry).Treatment.ShouldBe(drying);
        plan.Warnings.Any(w => w.StartsWith("Dried without the drying aid", StringComparison.Ordinal)).ShouldBe(drying != "aid");
    }

    [Fact]
    public void One_panel_that_goes_on_to_protection_is_enough_to_leave_the_aid()
    {
        var plan = Planner.Plan(Of(Filmed + """, { "zone": "bonnet", "goal": "protect" }""", "wash", "\"drying\": \"aid\""));
        plan.Steps.Single(s => s.Stage == Stage.Dry).Treatment.ShouldBe("blot");
        plan.Warnings.Single(w => w.StartsWith("Dried without", StringComparison.Ordinal)).ShouldContain("bonnet");
    }

    [Fact]
    public void Before_water_mirrors_and_stand_are_seen_to_and_a_vehicle_is_rolled_once_for_its_tyres()
    {
        var car = Repository.Plan(Of(Filmed, "wash"));
        car.Opening[0].ShouldContain("auto-fold");
        var rolled = car.Steps.Where(s => s.Cautions.Any(x => x.StartsWith("Roll the vehicle", StringComparison.Ordinal))).ToArray();
        rolled.Length.ShouldBe(1);
        rolled[0].Zones.ShouldContain(z => z.EndsWith("tyre", StringComparison.Ordinal));
        var bike = Repository.Plan(Of(Filmed, "wash", vehicle: "\"form\": \"motorcycle\""));
        bike.Opening[0].ShouldContain("pipes");
        bike.Steps.ShouldNotContain(s => s.Cautions.Any(x => x.StartsWith("Roll the vehicle", StringComparison.Ordinal)));
    }

    [Fact]
    public void Colour_on_the_cloth_is_asked_before_strong_work_on_paint_nobody_has_named()
    {
        static bool Asks(Plan p) => p.Opening.Any(l => l.StartsWith("Colour on the cloth", StringComparison.Ordinal));
        Asks(Repository.Plan(Of(Filmed, "correct"))).ShouldBeTrue();
        Asks(Repository.Plan(Of(Filmed, "wash"))).ShouldBeFalse("a wash is no strong work");
        var named = string.Join(
            ", ",
            Vehicles
                .Forms.Build("saloon", Vehicles.Forms.DefaultSize("saloon"))
                .Zones.Where(z => z.Kind.Default.Family == Family.Body)
                .Select(z => $$"""{ "zone": "{{z.Id}}", "surface": "clear-coat" }""")
        );
        Asks(Planner.Plan(Of($"{Filmed}, {named}", "correct"))).ShouldBeFalse("somebody looked");
    }

    [Fact]
    public void Matte_paint_is_washed_with_what_is_made_for_it()
    {
        var plan = Planner.Plan(Of(Filmed + """, { "zone": "bonnet", "surface": "matte-paint" }""", "wash"));
        plan.StepsOn("bonnet")
            .Where(s => s.Stage == Stage.ContactWash)
            .ShouldAllBe(s => s.Cautions.Any(x => x.StartsWith("Matte:", StringComparison.Ordinal)));
        Repository
            .Plan(Of(Filmed, "wash"))
            .Steps.ShouldNotContain(s => s.Cautions.Any(x => x.StartsWith("Matte:", StringComparison.Ordinal)));
    }

    private static readonly string AllMatte = string.Join(
        ", ",
        Vehicles
            .Forms.Build("saloon", Vehicles.Forms.DefaultSize("saloon"))
            .Zones.Where(z => z.Kind.MayBe.Any(s => s.Id == "matte-paint"))
            .Select(z => $$"""{ "zone": "{{z.Id}}", "surface": "matte-paint" }""")
    );

    [Fact]
    public void A_matte_vehicle_gets_matte_soap_and_a_neutral_pre_wash_and_another_none_of_it()
    {
        var matte = Planner.Plan(Of($"{Filmed}, {AllMatte}", "wash"));
        matte.Steps.Where(s => s.Stage == Stage.ContactWash).Select(s => s.Agent).ShouldBe(["matte-soap"]);
        matte.StepsOn("bonnet").Where(s => s.Stage == Stage.PreWash).ShouldAllBe(s => s.Agent == "neutral-prewash");
        var plain = Repository.Plan(Of(Filmed, "wash"));
        plain.Steps.ShouldNotContain(s => s.Agent == "matte-soap" || s.Agent == "neutral-prewash");
        // One matte panel is no matte vehicle; without the soap the neutral one has to do, and the card says what it must not hold.
        Planner
            .Plan(Of(Filmed + """, { "zone": "bonnet", "surface": "matte-paint" }""", "wash"))
            .Steps.ShouldNotContain(s => s.Agent == "matte-soap");
        var without = Of($"{Filmed}, {AllMatte}", "wash") with { Shelf = [.. AllBut("matte-soap")] };
        Repository.Plan(without).Steps.Where(s => s.Stage == Stage.ContactWash).Select(s => s.Agent).ShouldBe(["neutral-shampoo"]);
    }

    [Fact]
    public void A_house_that_works_neutral_has_a_pre_wash_too()
    {
        var heavy = """{ "zone": "*", "findings": [ { "contaminant": "road-film", "grade": 4 }, { "contaminant": "mud", "grade": 2 } ] }""";
        var neutral = Repository.Plan(Of(heavy, "wash", "\"strongChemistry\": \"neutral-only\""));
        neutral.Steps.Where(s => s.Stage == Stage.PreWash).Select(s => s.Agent).Distinct().ShouldBe(["neutral-prewash"]);
        neutral.Steps.ShouldAllBe(s => !C.Agents.Any(a => a.Id == s.Agent && a.Axis.IsByPh));
    }

    [Fact]
    public void Fresh_foam_is_the_lubricant_where_the_house_washes_so_and_two_buckets_where_it_cannot()
    {
        var foam = Of(Filmed, "wash", "\"washMedia\": \"fresh-foam\"");
        var plan = Repository.Plan(foam);
        var wash = plan.Steps.Single(s => s.Stage == Stage.ContactWash);
        (wash.Treatment, wash.Mix!.Vessel).ShouldBe(("wash-foam", "lance"));
        var without = Repository.Plan(foam with { Shelf = [.. AllBut("wash-foam")] });
        without.Steps.Single(s => s.Stage == Stage.ContactWash).Treatment.ShouldBe("wash-2bucket");
        without.Warnings.ShouldContain(w => w.Contains("no wash foam at hand", StringComparison.Ordinal));
    }

    private static IEnumerable<Chemistry.ShelfBottle> AllBut(string agent) =>
        C.Agents.Where(a => !a.IsWater && a.Id != agent).Select(a => new Chemistry.ShelfBottle(a.Id, true, null, false));

    [Fact]
    public void A_client_hears_what_a_test_decides_what_is_left_out_what_stays_and_what_is_beyond()
    {
        var survey = Of(
            Filmed
                + """
                , { "zone": "bonnet", "surface": "clear-coat", "softness": "soft", "findings": [ { "contaminant": "bonded-mix", "grade": 2 } ] },
                { "zone": "left-sill", "findings": [ { "contaminant": "tar", "grade": 3 } ] }
                """,
            "wash",
            "\"foam\": \"always\""
        ) with
        {
            Declines = [new Decline(null, Stage.Tar, [])],
        };
        var plan = Repository.Plan(survey);
        var notes = ClientNote.Of(survey, plan);
        var left = notes.Single(n => n.Topic == ClientTopic.LeftOut);
        left.Zones.ShouldBe(["bonnet"]);
        left.Words.ShouldContain("polish");
        notes.ShouldContain(n => n.Zones.Contains("left-sill") && n.Words.StartsWith("Tar", StringComparison.Ordinal));

        var correct = Of(Filmed, "correct");
        var decided = ClientNote.Of(correct, Repository.Plan(correct)).Where(n => n.Topic == ClientTopic.Decides).ToArray();
        decided.ShouldNotBeEmpty();
        var tests = Repository.Plan(correct).Tests;
        foreach (var note in decided)
        {
            tests.ShouldContain(t => t.Zones.SequenceEqual(note.Zones) && t.AddsMinutes >= C["client-minutes"]);
        }
    }

    [Fact]
    public void Every_step_says_of_its_zones_what_a_timetable_needs()
    {
        var plan = Repository.Plan(Repository.Demo("moorland-van"));
        var vehicle = Vehicles.Forms.Build("panel-van", Repository.Demo("moorland-van").Vehicle.Size);
        foreach (var step in plan.Steps.Where(s => s.Stage != Stage.Dry))
        {
            step.Parts.Select(p => p.Zone).ShouldBe(step.Zones);
            step.Parts.ShouldAllBe(p => p.Seconds > 0 && p.Area <= vehicle[p.Zone].Area + 1e-9);
            (step.Parts.Sum(p => p.Seconds / 60 * step.RoundsOn(p.Zone)) + step.SetUpMinutes + step.OpenMinutes).ShouldBe(
                step.LabourMinutes.Value,
                1e-6
            );
        }

        plan.Steps.Where(s => s.Stage != Stage.Dry).Select(s => s.Pass).ShouldBeUnique();
        var read = PlanFormat.Read(PlanFormat.Write(plan)).Value!;
        read.Steps.Zip(plan.Steps).ShouldAllBe(x => x.First.Pass == x.Second.Pass && x.First.Parts.Count == x.Second.Parts.Count);
        read.Opening.ShouldBe(plan.Opening);
    }
}
