using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Readiness;
using ToughStart.Core.Running;

namespace ToughStart.Core.Tests;

/// <summary>
/// From the gate to polish and protection, as practitioners do it: local sanding, touch-up, compound, finish, wipe, then protection; nothing
/// that wants a bare panel goes on a waxed, oily or filled one; a stripping wash takes off what was put on.
/// </summary>
public sealed class HandOverTests
{
    private static readonly DateTimeOffset At = new(2026, 11, 24, 9, 0, 0, TimeSpan.Zero);
    private static readonly double[] Thick = [112, 118, 121, 115, 117, 120, 119, 116];

    private static RunGround Ground(string goal, string zone = "") =>
        new(Repository.Saloon("""{ "zone": "bonnet", """ + zone + """ "findings": [ { "contaminant": "iron", "grade": 1 } ] }""", goal));

    private static ZoneHandOver? Bonnet(
        RunGround g,
        double[]? film = null,
        GateWord word = GateWord.Ready,
        params (string Kind, bool Nail, string Decision)[] flaws
    ) =>
        HandOver.Of(
            g.Zone("bonnet")!,
            g.Survey.Goal,
            word,
            [.. flaws.Select(f => new FlawSaid(new Flaw("bonnet", f.Kind, f.Nail), f.Decision))],
            film is null ? null : FilmThickness.Of(film)
        );

    [Fact]
    public void A_correction_goes_from_sanding_to_the_wipe_and_only_what_was_bought_is_done()
    {
        var thick = Thick.Select(x => x + 30).ToArray();
        Bonnet(Ground("correct"), thick)!.Acts.ShouldBe([Act.Finish, Act.Wipe, Act.Protect]);
        Bonnet(Ground("correct"), thick, GateWord.Ready, ("scratch", false, "bought"), ("chip", true, "bought"))!
            .Acts.ShouldBe([Act.Sand, Act.TouchUp, Act.Compound, Act.Finish, Act.Wipe, Act.Protect]);
        Bonnet(Ground("correct"), thick, GateWord.Ready, ("scratch", false, "declined"), ("swirl", false, "recommended"))!
            .Acts.ShouldBe([Act.Finish, Act.Wipe, Act.Protect]);
        Bonnet(Ground("protect"))!.Acts.ShouldBe([Act.Wipe, Act.Protect]);
        Bonnet(Ground("wash")).ShouldBeNull("a wash ends with the wash");
    }

    [Fact]
    public void Paint_that_is_thin_or_not_measured_sees_no_machine()
    {
        var unmeasured = Bonnet(Ground("correct"))!;
        unmeasured.ByHand.ShouldBeTrue();
        unmeasured.Warnings.ShouldContain(w => w.Contains("not measured"));
        var thin = Bonnet(Ground("correct"), [72, 75, 74, 76, 73])!;
        thin.ByHand.ShouldBeTrue();
        thin.Warnings.ShouldContain(w => w.Contains("thin paint, 74"));
        Bonnet(Ground("correct"), Thick)!.ByHand.ShouldBeFalse();
        // Enough for a compound, not for sanding: a spot of 115 µm is not sanded.
        Bonnet(Ground("correct"), Thick, GateWord.Ready, ("scratch", false, "bought"))!.Acts.ShouldNotContain(Act.Sand);
        Bonnet(Ground("correct"), [112, 118, 109, 121, 115, 196, 113, 117, 110])!.Warnings.ShouldContain(w => w.Contains("resprayed"));
    }

    [Fact]
    public void Matte_is_never_polished_and_takes_only_what_does_not_gloss()
    {
        var matte = Bonnet(Ground("correct", "\"surface\": \"matte-paint\","))!;
        matte.Acts.ShouldBe([Act.Wipe, Act.Protect]);
        matte.Fits.ShouldAllBe(p => p.Matte);
        matte.Fits.ShouldNotBeEmpty();
        Bonnet(Ground("protect"))!.Fits.Select(p => p.Id).ShouldContain("wax");
    }

    [Fact]
    public void A_coating_wants_a_bare_wiped_panel_and_wax_is_in_its_way()
    {
        var (washed, later) = (At, At.AddHours(1));
        Why("ceramic", [], washed)!.ShouldContain("wipe the panel first");
        Why("ceramic", [Done(Act.Wipe, later)], washed).ShouldBeNull();
        Why("ceramic", [Done(Act.Wipe, At.AddHours(-1))], washed)!.ShouldContain("wipe", customMessage: "washed since it was wiped");
        Why("quick-detailer", [], washed).ShouldBeNull();
        DoneByHand[] waxed = [Done(Act.Wipe, later), Done(Act.Protect, later.AddMinutes(1), "wax")];
        Why("ceramic", waxed, washed)!.ShouldContain("wax");
        Why("wax", [Done(Act.Wipe, later), Done(Act.Protect, later.AddMinutes(1), "ceramic")], washed)
            .ShouldBeNull("wax may go on a coating");
        Why("tyre-dressing", waxed, washed)!.ShouldContain("does not go on");
    }

    [Fact]
    public void Layers_wait_for_each_other_and_end()
    {
        DoneByHand[] one = [Done(Act.Wipe, At), Done(Act.Protect, At.AddMinutes(5), "ceramic")];
        Why("ceramic", one, null, At.AddMinutes(20))!.ShouldContain("next layer");
        Why("ceramic", one, null, At.AddMinutes(66)).ShouldBeNull();
        DoneByHand[] two = [.. one, Done(Act.Protect, At.AddMinutes(70), "ceramic")];
        Why("ceramic", two, null, At.AddHours(5))!.ShouldContain("2 layers");
        // Polished since: all of it is gone, and the oils are wiped off first.
        DoneByHand[] polished = [.. two, Done(Act.Finish, At.AddHours(6))];
        Why("ceramic", polished, null, At.AddHours(7))!.ShouldContain("oils");
        HandOver.CoatOf("bonnet", polished, [])!.TakenBy.ShouldBe("finishing polish");
        HandOver.CoatOf("bonnet", [.. polished, Done(Act.Protect, At.AddHours(8), "ceramic")], [])!.Layers.ShouldBe(1);
    }

    [Theory]
    [InlineData(GateWord.Repeat)]
    [InlineData(GateWord.Refer)]
    public void Nothing_lasting_goes_on_what_is_to_be_repeated_or_referred(GateWord word)
    {
        var g = Ground("protect");
        HandOver
            .WhyNot(Kind("sealant"), Bonnet(g, null, word)!, g.Zone("bonnet")!, ZoneRun.Untouched, null, false, [], null, At)!
            .ShouldContain("the gate");
    }

    [Fact]
    public void Still_wet_takes_nothing()
    {
        var g = Ground("protect");
        HandOver
            .WhyNot(Kind("quick-detailer"), Bonnet(g)!, g.Zone("bonnet")!, ZoneRun.Untouched, null, true, [], null, At)!
            .ShouldContain("wet");
    }

    [Fact]
    public void A_filler_of_the_wash_is_wiped_off_before_anything_that_wants_it_bare()
    {
        var g = Ground("protect");
        var filled = ZoneRun.Untouched with { Left = Left.Filler };
        string? Try(string kind, params DoneByHand[] deeds) =>
            HandOver.WhyNot(Kind(kind), Bonnet(g)!, g.Zone("bonnet")!, filled, At, false, deeds, null, At.AddHours(2));
        Try("ceramic")!.ShouldContain("fillers");
        Try("ceramic", Done(Act.Wipe, At.AddHours(1))).ShouldBeNull();
        Try("wax").ShouldBeNull("a wax does not mind fillers");
    }

    [Fact]
    public void A_stripping_wash_takes_off_what_was_put_on_and_the_plan_says_so_beforehand()
    {
        DoneByHand[] coated = [Done(Act.Wipe, At), Done(Act.Protect, At.AddMinutes(5), "sealant")];
        HandOver.CoatOf("bonnet", coated, [("wash-neutral", At.AddDays(30))])!.TakenBy.ShouldBeNull();
        HandOver.CoatOf("bonnet", coated, [("strip-wash", At.AddDays(-1))])!.TakenBy.ShouldBeNull("it was done before");
        HandOver.CoatOf("bonnet", coated, [("strip-wash", At.AddDays(30))])!.TakenBy.ShouldBe("stripping wash");
        var plan = Planner.Plan(
            Repository.Saloon("""{ "zone": "bonnet", "protection": "wax", "water": "beads", "findings": [] }""", "correct")
        );
        var coat = HandOver.CoatOf("bonnet", coated, [])!;
        plan.Steps.ShouldContain(s => s.Zones.Contains("bonnet") && HandOver.Strips(Catalogue.Default.Treatment(s.Treatment)));
        HandOver.Undoes(plan, [("bonnet", coat)]).Single().ShouldContain("take off the polymer spray sealant put on 24 Nov 2026 (bonnet)");
        HandOver.Undoes(plan, [("bonnet", coat with { TakenBy = "stripping wash" })]).ShouldBeEmpty();
    }

    [Fact]
    public void What_was_put_on_says_when_it_is_renewed() =>
        // Six months of 30.44 days.
        Kind("ceramic").DueFrom(new DateOnly(2026, 11, 24)).ShouldBe(new DateOnly(2027, 5, 25));

    [Theory]
    [InlineData("\"airC\": 16, \"humidityPct\": 55, \"windMs\": 1", 0)]
    [InlineData("\"airC\": 16, \"humidityPct\": 55, \"windMs\": 12", 1)]
    [InlineData("\"airC\": 4, \"humidityPct\": 55, \"windMs\": 1", 1)]
    [InlineData("\"airC\": 16, \"humidityPct\": 99, \"windMs\": 1", 1)]
    public void Outdoors_wind_cold_and_dew_forbid_polish_and_coating(string weather, int bars)
    {
        var survey = Repository.Saloon(
            """{ "zone": "bonnet", "findings": [] }""",
            "protect",
            """ "site": { "place": "outdoors", "latitude": 52, "longitude": 4, "timeZone": "Europe/Amsterdam", "start": "2026-06-12T06:00", "windAt": "panel", "cloudOktas": 8, """
                + weather
                + " },"
        );
        var g = new RunGround(survey);
        var said = HandOver.Outdoors(survey, g.States[0].Conditions, g.States)!;
        said.Count.ShouldBe(bars, string.Join("; ", said));
        HandOver.Outdoors(survey with { Site = survey.Site with { Place = "indoors" } }, null, g.States).ShouldBeNull();
        HandOver.Outdoors(survey, null, g.States)!.Single().ShouldContain("Nobody has said");
    }

    private static Protection Kind(string id) => Catalogue.Default.Protections.First(p => p.Id == id);

    private static DoneByHand Done(Act act, DateTimeOffset at, string? kind = null) =>
        new(act, kind, ["bonnet"], kind is null ? 0 : 1, at, 1);

    private static string? Why(string kind, DoneByHand[] deeds, DateTimeOffset? worked, DateTimeOffset? now = null)
    {
        var g = Ground("protect");
        return HandOver.WhyNot(
            Kind(kind),
            Bonnet(g)!,
            g.Zone("bonnet")!,
            ZoneRun.Untouched,
            worked,
            false,
            deeds,
            HandOver.CoatOf("bonnet", deeds, []),
            now ?? At.AddHours(2)
        );
    }
}
