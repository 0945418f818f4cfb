using ToughStart.Core.Chemistry;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Tests;

/// <summary>What touches the vehicle: wheel kit apart from paint, cloths that never go back, pieces counted; and the schools that turn on it.</summary>
public class MediaTests
{
    public static TheoryData<string> Demos => LayeringTests.Demos;

    [Fact]
    public void Every_treatment_that_touches_has_its_medium_and_none_serves_wheels_and_paint()
    {
        var c = Catalogue.Default;
        foreach (var t in c.Treatments.Where(t => t.Contact != Contact.None))
        {
            var wheels = t.Families.Count == 0 || t.Families.Any(f => f == Family.Wheel || f == Family.Tyre || f == Family.Arch);
            var body = t.Families.Count == 0 || t.Families.Any(f => f != Family.Wheel && f != Family.Tyre && f != Family.Arch);
            (!wheels || Medium.For(t.Id, Block.Wheels, c) is not null || Medium.For(t.Id, Block.Body, c) is not null).ShouldBeTrue(t.Id);
            (!body || Medium.For(t.Id, Block.Body, c) is not null).ShouldBeTrue(t.Id);
        }

        foreach (var m in c.Media.Where(m => m.Block is null))
        {
            // What may go anywhere must not come back: it is binned, boiled by itself, or scrapes nothing from one place to the next.
            (m.After + m.Rule).ShouldMatch("bin|never|by itself|laundry|rinsed|washed", m.Id);
        }
    }

    [Theory]
    [MemberData(nameof(Demos))]
    public void A_plan_counts_its_media_and_wheels_have_their_own(string demo)
    {
        var survey = Repository.Demo(demo);
        var plan = Repository.Plan(survey);
        var vehicle = Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size);
        foreach (
            var step in plan.Steps.Where(s => s.Stage != Stage.Dry && Catalogue.Default.Treatment(s.Treatment).Contact != Contact.None)
        )
        {
            var line = plan.Media.SingleOrDefault(m => m.Steps.Contains(step.Key));
            line.ShouldNotBeNull(step.Key);
            (line.Kit, step.Block).ShouldNotBe(("wheels", Block.Body));
            (line.Kit, step.Block).ShouldNotBe(("body", Block.Wheels));
        }

        foreach (var line in plan.Media)
        {
            var area = plan.Steps.Where(s => line.Steps.Contains(s.Key)).Sum(s => s.Zones.Sum(z => s.RoundsOn(z) * vehicle[z].Area));
            var each = Catalogue.Default.Media.First(m => m.Id == line.Medium).SquareMetres;
            (line.Pieces * each).ShouldBeInRange(area, area + each + 1e-6 + (line.Pieces == 1 ? each : 0));
        }

        plan.Steps.Where(s => s.Block == Block.Wheels && s.Treatment == "re-wash")
            .ShouldAllBe(s => s.Tool.Contains("wheel mitt", StringComparison.Ordinal));
    }

    [Fact]
    public void A_fresh_mitt_for_every_area_needs_the_mitts()
    {
        var school = Repository.Demo("touring-saloon") with { House = new Dictionary<string, string> { ["washMedia"] = "mitt-per-area" } };
        Survey With(int? mitts) => school with { Kit = new KitInUse(null, []) { Mitts = mitts } };
        var free = Repository.Plan(school);
        free.Steps.ShouldContain(s => s.Treatment == "wash-mitt" || s.Treatment == "wash-strip");
        PlanCompare.Of(free, Repository.Plan(With(200))).Same.ShouldBeTrue("enough of them is as good as not counted");
        var few = Repository.Plan(With(3));
        few.Steps.ShouldNotContain(s => s.Treatment == "wash-mitt");
        few.Warnings.ShouldContain(w =>
            w.Contains("mitts wanted", StringComparison.Ordinal) && w.Contains("3 there", StringComparison.Ordinal)
        );
        SurveyFormat.Read(SurveyFormat.Write(With(3))).Value!.Kit!.Mitts.ShouldBe(3);
    }

    [Fact]
    public void Washing_through_the_foam_saves_its_rinse_and_leaves_its_grit_to_other_work()
    {
        var survey = Repository.Demo("estuary-pickup");
        var rinsed = Repository.Plan(survey);
        var through = Planner.Plan(
            survey with
            {
                House = new Dictionary<string, string>(survey.House) { ["rinseFoamBeforeContact"] = "false" },
            }
        );
        through.Steps.Where(s => s.Stage == Stage.Foam).ShouldAllBe(s => s.WaterLitres == 0);
        rinsed.Steps.Where(s => s.Stage == Stage.Foam).ShouldAllBe(s => s.WaterLitres > 0);
        double Gain(Plan p) =>
            p
                .Steps.Where(s => s.Stage == Stage.Foam)
                .SelectMany(s =>
                    s.Answers.Where(a => a.Contaminant == "grit").Select(a => Math.Log10(a.Before / Math.Max(a.After, 1e-3)) / s.Rounds)
                )
                .DefaultIfEmpty(0)
                .Max();
        Gain(through).ShouldBeLessThan(Gain(rinsed));
    }

    [Fact]
    public void Foam_as_an_extra_is_never_more_foam_than_foam_where_it_is_needed()
    {
        foreach (var demo in new[] { "estuary-pickup", "orchard-pickup", "touring-saloon" })
        {
            var survey = Repository.Demo(demo);
            int Foamed(string rule) =>
                Planner
                    .Plan(survey with { House = new Dictionary<string, string>(survey.House) { ["foam"] = rule } })
                    .Steps.Where(s => s.Stage == Stage.Foam)
                    .Sum(s => s.Zones.Count);
            Foamed("optional").ShouldBeLessThanOrEqualTo(Foamed("when-needed"), demo);
            Foamed("when-needed").ShouldBeLessThanOrEqualTo(Foamed("always"), demo);
        }
    }
}
