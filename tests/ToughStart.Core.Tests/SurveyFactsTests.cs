using CsCheck;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Contamination;
using ToughStart.Core.Devices;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Readiness;
using ToughStart.Core.Surfaces;
using ToughStart.Core.Vehicles;
using TestResult = ToughStart.Core.Formats.TestResult;

namespace ToughStart.Core.Tests;

/// <summary>What a survey knows besides dirt: film readings, hardness, colours, sets of zones, stories, tests, holds.</summary>
public class SurveyFactsTests
{
    [Fact]
    public void Film_statistics_of_nine_spots()
    {
        // Computed by independent means: nine spots, one of them on a spot repair.
        var f = FilmThickness.Of([112, 118, 109, 121, 115, 196, 113, 117, 110]);
        (f.Count, f.Median, f.Least, f.Most).ShouldBe((9, 115, 109, 196));
        f.Deviation.ShouldBe(4.4478, 1e-4);
        f.Low.ShouldBe(111.943, 1e-3);
        (f.Mixed, f.Thin, f.ThinSpot, f.NotProven, f.Refinish).ShouldBe((true, false, false, false, false));

        // MAD of 1 1 2 2 4 6 9 is 1 (the usual textbook example), and little variation is never taken for none.
        FilmThickness.Of([100, 100, 200, 200, 400, 600, 900]).Deviation.ShouldBe(148.26, 1e-9);
        FilmThickness.Of([110, 110, 110]).Deviation.ShouldBe(4);
        Should.Throw<ArgumentException>(() => FilmThickness.Of([]));
        Should.Throw<ArgumentException>(() => FilmThickness.Of([-1]));
    }

    [Fact]
    public void Film_that_is_thin_in_one_spot_or_not_shown_to_be_thick_enough_is_told_from_thin_film()
    {
        FilmThickness.Of([71, 68, 74, 70]).ShouldSatisfyAllConditions(f => f.Thin.ShouldBeTrue(), f => f.NotProven.ShouldBeFalse());
        FilmThickness.Of([96, 79, 95, 97, 96]).ShouldSatisfyAllConditions(f => f.Thin.ShouldBeFalse(), f => f.ThinSpot.ShouldBeTrue());
        FilmThickness.Of([82, 84]).ShouldSatisfyAllConditions(f => f.Thin.ShouldBeFalse(), f => f.NotProven.ShouldBeTrue());
        FilmThickness.Of([82, 84, 83, 84, 83, 84, 83, 84, 84, 83]).NotProven.ShouldBeFalse("ten spots of 4 µm say 80.9 at least");
    }

    [Fact]
    public void Spots_that_a_panel_needs()
    {
        // For a median within 5 µm: (0.412 · s)² spots; 11 for a deviation of 8 µm, never fewer than 5.
        FilmThickness.Of([100 - (8 / 1.4826), 100, 100 + (8 / 1.4826)]).Needed.ShouldBe(11);
        FilmThickness.Of([100, 100, 100]).Needed.ShouldBe(5);
    }

    [Fact]
    public void Healthy_panels_are_not_suspected_for_being_measured_often()
    {
        // Within-panel deviation 10 µm: a range of more than 40 µm is common (published mean range of 20 is 3.735 deviations), a spot more than 40 off is not.
        var random = new Random(7);
        var (mixed, wide, ranges) = (0, 0, 0.0);
        for (var panel = 0; panel < 4000; panel++)
        {
            var f = FilmThickness.Of([
                .. Enumerable.Range(0, 20).Select(_ => 120 + (10 * MathNet.Numerics.Distributions.Normal.Sample(random, 0, 1))),
            ]);
            ranges += (f.Most - f.Least) / 10;
            wide += f.Most - f.Least > 40 ? 1 : 0;
            mixed += f.Mixed ? 1 : 0;
        }

        (ranges / 4000).ShouldBe(3.735, 0.05);
        (wide / 4000.0).ShouldBe(0.33, 0.04);
        (mixed / 4000.0).ShouldBeLessThan(0.004);
    }

    [Fact]
    public void A_panel_far_from_the_others_is_suspected_if_enough_were_measured()
    {
        Dictionary<string, FilmThickness> Panels(params double[] medians) =>
            medians.Select((m, i) => ($"p{i}", m)).ToDictionary(p => p.Item1, p => FilmThickness.Of([p.m, p.m + 1, p.m - 1]));
        FilmThickness.RefinishedOf(Panels(110, 112, 118, 165)).ShouldBe(["p3"]);
        FilmThickness.RefinishedOf(Panels(110, 112, 165)).ShouldBeEmpty("three panels do not say what the vehicle has");
        FilmThickness.RefinishedOf(Panels(110, 230)).ShouldBe(["p1"], "over the factory range by itself");
    }

    [Fact]
    public void What_the_readings_say_stands_among_the_warnings_of_the_plan()
    {
        var survey = Repository.Demo("estuary-pickup");
        var at = survey.Zones.First(z => z.Condition.FilmUm.Count == 0 && z.Zone.Contains("door"));
        Survey With(params double[] um) =>
            survey with
            {
                Zones = [.. survey.Zones.Where(z => z != at), at with { Condition = at.Condition with { FilmUm = um } }],
            };
        string Said(params double[] um) =>
            string.Join(
                " ",
                Planner
                    .Plan(With(um))
                    .Warnings.Where(w => w.Contains("aint ") || w.Contains("efinish") || w.Contains("repair"))
                    .Where(w => !w.StartsWith("Paint thickness before", StringComparison.Ordinal))
            );
        Said(71, 70, 72, 69, 73).ShouldContain("Thin paint");
        Said(110, 112).ShouldContain("measure 5 spots");
        Said(112, 118, 109, 121, 115, 196).ShouldContain("spot repair on");
        Said(220, 225, 221, 223, 222).ShouldContain("Suspected refinish");
        Said(112, 113, 111, 114, 112).ShouldBeEmpty();
    }

    [Fact]
    public void A_zone_is_as_surely_fine_as_all_its_kinds_together()
    {
        // .985 · .99 · .97 = .94590: not sure enough to build on at .95.
        static (LoadBelief, double) Kind(double sure) => (LoadBelief.Mix(sure, LoadBelief.None, LoadBelief.LogNormal(0.8, 0.1)), 0.05);
        var fine = Fineness.Of([Kind(.985), Kind(.99), Kind(.97)]);
        fine.Chance.ShouldBe(.94590, 1e-4);
        fine.Sure.ShouldBeFalse();
        Fineness.Of([Kind(.985), Kind(.99), Kind(.98)]).Sure.ShouldBeTrue();
        // Up to 0.2 decade over the target still counts: .079 on .05, not .1.
        Fineness.Of([(LoadBelief.LogNormal(0.066, 0.02), 0.05)]).Chance.ShouldBeGreaterThan(0.95);
        Fineness.Of([(LoadBelief.LogNormal(0.095, 0.02), 0.05)]).Chance.ShouldBeLessThan(0.05);
    }

    [Fact]
    public void Film_median_lies_within_and_order_does_not_matter() =>
        Gen.Double[0, 1000]
            .Array[1, 30]
            .Sample(a =>
                FilmThickness.Of(a) is var f
                && f.Median >= f.Least
                && f.Median <= f.Most
                && FilmThickness.Of(a.Reverse().ToArray()) is var g
                && Math.Abs(g.Median - f.Median) < 1e-12
                && Math.Abs(g.Deviation - f.Deviation) < 1e-9
            );

    [Theory]
    // Published: German degree = 10 mg CaO/l, molar masses CaO 56.077 and CaCO3 100.087; Clark = 1 grain (64.79891 mg) per imperial gallon (4.54609 l); gpg = 1 grain per US gallon (3.785411784 l).
    [InlineData("dh", 10 * 100.087 / 56.077)]
    [InlineData("fh", 10)]
    [InlineData("eh", 64.79891 / 4.54609)]
    [InlineData("gpg", 64.79891 / 3.785411784)]
    [InlineData("mg-l", 1)]
    public void Hardness_units_agree_with_their_definitions(string unit, double mg) =>
        WaterHardness.MgPerLitre(1, unit).ShouldBe(mg, mg * 0.0005);

    [Fact]
    public void Hardness_classes_are_those_of_the_usgs_and_bad_input_is_named()
    {
        new[] { 60.0, 61, 120, 121, 180, 181 }
            .Select(WaterHardness.Class)
            .ShouldBe(["soft", "moderate", "moderate", "hard", "hard", "very hard"]);
        Should.Throw<ArgumentOutOfRangeException>(() => WaterHardness.MgPerLitre(-1, "dh"));
        Should.Throw<ArgumentException>(() => WaterHardness.MgPerLitre(1, "furlong")).Message.ShouldContain("gpg");
    }

    [Fact]
    public void Colours_are_near_themselves_and_darker_takes_more_sun()
    {
        foreach (var c in Catalogue.Default.PaintColours)
        {
            PaintColour.Nearest(c.Hex).Id.ShouldBe(c.Id);
        }

        PaintColour.Nearest("#0a0a0a").Absorptance.ShouldBeGreaterThan(PaintColour.Nearest("#fafafa").Absorptance);
        Should.Throw<FormatException>(() => PaintColour.Nearest("red"));
    }

    [Fact]
    public void Sets_of_zones_hold_what_their_names_say_on_every_form()
    {
        foreach (var (form, _, size) in Forms.Presets)
        {
            var v = Forms.Build(form, size);
            var low = ZoneSets.Of(v, "lower-third");
            low.ShouldAllBe(z => v[z].Bottom < v.Size.Height / 2);
            ZoneSets.Of(v, "all").Count.ShouldBe(v.Zones.Count);
            ZoneSets.Of(v, "level").ShouldNotContain(z => z.Contains("door") || z.Contains("sill"));
            ZoneSets.Of(v, "front-faces").ShouldContain(form == "motorcycle" ? "front-fairing" : "bonnet");
            foreach (var zone in v.Zones.Select(z => z.Id))
            {
                if (ZoneSets.OtherSide(v, zone) is { } other)
                {
                    ZoneSets.OtherSide(v, other).ShouldBe(zone);
                }
            }
        }

        Should
            .Throw<ArgumentException>(() => ZoneSets.Of(Forms.Build("suv", Forms.DefaultSize("suv")), "upstairs"))
            .Message.ShouldContain("lower-third");
    }

    [Fact]
    public void Every_story_paints_every_form_and_plans()
    {
        Catalogue
            .Default.Stories.Select(s => s.Id)
            .ShouldBe(
                ["barn", "flood", "motorway-bugs", "salt-winter", "lime-trees", "building-site", "track-day", "stood-two-years"],
                ignoreOrder: true
            );
        foreach (var story in Catalogue.Default.Stories)
        {
            foreach (var form in new[] { "motorcycle", "minibus", "estate" })
            {
                var v = Forms.Build(form, Forms.DefaultSize(form));
                var told = story.On(v);
                told.Count.ShouldBeGreaterThan(8, story.Id);
                told.ShouldAllBe(z =>
                    z.Value.All(f => Catalogue.Default.Contaminant(f.Contaminant).CanSitOn(v[z.Key].Kind.Default.Family))
                );
                var survey = Bare(form) with
                {
                    Zones =
                    [
                        .. told.Select(t => new ZoneSurvey(
                                t.Key,
                                null,
                                [],
                                null,
                                null,
                                null,
                                [.. t.Value.Select(f => new Finding(f.Contaminant, f.Grade, f.Age, Certainty.Suspected))],
                                []
                            ))
                            .OrderBy(z => z.Zone, StringComparer.Ordinal),
                    ],
                };
                Repository.Plan(survey).Steps.ShouldNotBeEmpty($"{story.Id} on {form}");
            }
        }
    }

    [Fact]
    public void Gauge_files_name_every_bad_line_and_keep_the_good()
    {
        string[] zones = ["bonnet", "roof"];
        var problems = new List<Problem>();
        var read = ReadingFile.Read(
            "\uFEFFzone;value\nbonnet;104\nroof;98,5\nroof;4,1 mil\nhood;90\nbonnet;-5\nbonnet;abc\nbonnet\n\nroof;9999\nroof;1e3",
            "film",
            zones,
            problems
        );
        read.Select(r => r.Value).ShouldBe([104, 98.5, 4.1 * 25.4]);
        problems.Select(p => p.Field).ShouldBe(["line 5", "line 6", "line 7", "line 8", "line 10", "line 11"]);
        problems.ShouldAllBe(p => p.Message.Length > 10);
        problems.Clear();
        ReadingFile.Read("roof,21.5 °C\nbonnet,180", "temperature", zones, problems).ShouldHaveSingleItem().Value.ShouldBe(21.5);
        problems.Single().Message.ShouldContain("outside -30 to 120");
        ReadingFile.Read(string.Join('\n', Enumerable.Repeat("roof;1", 2001)), "film", zones, []).ShouldBeEmpty();
    }

    [Fact]
    public void Simulated_gauges_say_so_repeat_themselves_and_stay_plausible()
    {
        var (a, b) = (new SimulatedGauge("film", 7), new SimulatedGauge("film", 7));
        a.Name.ShouldContain("simulated");
        var first = Enumerable.Range(0, 20).Select(_ => a.Read("roof").Value).ToArray();
        first.ShouldBe(Enumerable.Range(0, 20).Select(_ => b.Read("roof").Value));
        first.ShouldAllBe(v => v > 50 && v < 400);
        first.Distinct().Count().ShouldBeGreaterThan(3);
        Should.Throw<ArgumentException>(() => new SimulatedGauge("sonar", 1));
    }

    [Fact]
    public void A_test_is_weighed_with_what_was_seen_and_an_unclear_one_changes_nothing()
    {
        double Iron(string? result) =>
            ZoneState
                .FromSurvey(
                    With(new Finding("iron", 3, null, Certainty.Suspected), result is null ? null : new TestResult("bleed", result, null)),
                    Forms.Build("saloon", Forms.DefaultSize("saloon")),
                    Catalogue.Default
                )
                .First(z => z.Zone.Id == "bonnet")[Catalogue.Default.Contaminant("iron").Index]
                .Load;
        Iron(null).ShouldBe(0.55);
        Iron("inconclusive").ShouldBe(0.55, "nothing was learnt");
        Iron("strong").ShouldBeGreaterThan(0.25);
        Iron("faint").ShouldBeInRange(0.05, 0.25 + 1e-9);
        Iron("none").ShouldBeLessThanOrEqualTo(0.05 + 1e-9);
        Iron("none").ShouldBeLessThan(Iron("faint"));
    }

    [Fact]
    public void Colour_on_the_cloth_means_single_stage_limits_and_a_changed_spot_stops_chemistry()
    {
        var survey = With(new Finding("road-film", 3, null, Certainty.Seen), new TestResult("colour", "colour", null));
        var limits = Limits(survey, out var state);
        limits.Judge(Catalogue.Default.Treatment("spray-tfr"), state).Allowed.ShouldBeFalse("caustic never on single-stage paint");
        limits.Judge(Catalogue.Default.Treatment("tar-spot"), state).Allowed.ShouldBeFalse("solvent waits for a test spot");
        var changed = Limits(With(new Finding("tar", 2, null, Certainty.Seen), new TestResult("spot", "gloss", null)), out var at);
        changed.Judge(Catalogue.Default.Treatment("tar-spot"), at).Objection!.Cause.ShouldBe(Chemistry.Cause.SpotChanged);
        changed.Judge(Catalogue.Default.Treatment("wash-2bucket"), at).Allowed.ShouldBeTrue("neutral soap may go on");
    }

    [Fact]
    public void A_fresh_respray_takes_no_solvent_clay_or_wax_and_an_old_one_does()
    {
        Ruling Tar(double days)
        {
            var survey = With(new Finding("tar", 2, null, Certainty.Seen), null, z =>
                z with
                {
                    Condition = new Condition(null, [], days, null, []),
                }
            );
            return Limits(survey, out var state).Judge(Catalogue.Default.Treatment("tar-spot"), state);
        }

        Tar(20).Allowed.ShouldBeFalse();
        Tar(400).Allowed.ShouldBeTrue();
    }

    [Fact]
    public void No_test_is_proposed_twice()
    {
        foreach (var demo in Repository.DemoNames)
        {
            var survey = Repository.Demo(demo);
            var proposed = TestGuide.Propose(survey, Repository.Plan(survey)).Where(t => t.Card.Measures is null).ToArray();
            proposed.Select(t => t.Card.Id).ShouldBeUnique(demo);
        }
    }

    [Fact]
    public void Brake_dust_of_unknown_age_keeps_the_lance_off_the_wheels_until_a_named_person_releases_it()
    {
        var coupe = Repository.Demo("barn-coupe");
        var plan = Repository.Plan(coupe);
        plan.Warnings.ShouldContain(w => w.Contains("as asbestos"));
        plan.Steps.Where(s => Catalogue.Default.Treatment(s.Treatment is "blot" ? "rinse" : s.Treatment).IsLanced)
            .SelectMany(s => s.Zones)
            .ShouldNotContain(z => z.Contains("wheel") || z.Contains("tyre") || z.Contains("arch"));
        plan.Refused.ShouldContain(r => r.Reason.Contains("brake dust"));
        var released = Repository.Plan(coupe with { History = coupe.History with { Releases = [new Release("brake-dust", "p-1", null)] } });
        released.Refused.ShouldNotContain(r => r.Reason.Contains("brake dust"));
    }

    [Theory]
    [InlineData("biological")]
    [InlineData("nests")]
    [InlineData("flood-hygiene")]
    public void Gates_stop_everything_until_a_named_person_releases_them(string gate)
    {
        var s = Bare("saloon");
        s = s with
        {
            History = gate switch
            {
                "biological" => s.History with { Biological = true },
                "nests" => s.History with { Nests = true },
                _ => s.History with { Flood = "sewage", Releases = [new Release("flood-workshop", "p-2", null)] },
            },
        };
        Repository.Plan(s).ReferOnly.ShouldBeTrue();
        Planner
            .Plan(s with { History = s.History with { Releases = [.. s.History.Releases, new Release(gate, "p-1", null)] } })
            .ReferOnly.ShouldBeFalse();
    }

    [Fact]
    public void Damage_is_listed_never_treated_and_thin_paint_is_warned_of()
    {
        var plan = Repository.Plan(Repository.Demo("barn-coupe"));
        plan.Refer.ShouldContain(r => r.What == "chip" && r.Reason.Contains("repair recommended"));
        plan.Warnings.ShouldContain(w => w.StartsWith("Thin paint on boot lid", StringComparison.Ordinal));
    }

    [Fact]
    public void Proposed_tests_come_best_first_and_say_what_they_change()
    {
        var survey = Repository.Demo("barn-coupe");
        var proposed = TestGuide.Propose(survey, Repository.Plan(survey));
        proposed.ShouldNotBeEmpty();
        proposed.Select(p => p.NarrowsMinutes * Math.Min(1, p.Probability)).ShouldBeInOrder(SortDirection.Descending);
        proposed.ShouldAllBe(p => p.Changes.Length > 10 && p.Zones.Count > 0 && p.Card.Answers.Count > 1);
        proposed.Select(p => p.Card.Id).ShouldContain("spot");
        TestGuide
            .Propose(Repository.Demo("flooded-saloon"), Repository.Plan(Repository.Demo("flooded-saloon")))
            .ShouldBeEmpty("nothing may be touched");
    }

    [Theory]
    [InlineData("new-concrete", "storm", "none", "Pale ground|Drain|No hose")]
    [InlineData("grass", "foul", "hose", "Grass")]
    public void Site_warnings_say_why(string ground, string drain, string water, string wanted)
    {
        var s = Bare("panel-van");
        var said = SiteWarnings.Of(s with { Site = s.Site with { Ground = ground, Drain = drain, Water = water, Access = "none" } });
        wanted.Split('|').ShouldAllBe(w => said.Any(x => x.StartsWith(w)));
        said.ShouldContain(w => w.StartsWith("High roof"));
    }

    private static Survey Bare(string form) =>
        SurveyFormat
            .Read(
                System.Text.Encoding.UTF8.GetBytes(
                    $$"""{ "format": "toughstart.survey/1", "vehicle": { "form": "{{form}}" }, "goal": "protect" }"""
                )
            )
            .Value!;

    private static Survey With(Finding finding, TestResult? test, Func<ZoneSurvey, ZoneSurvey>? change = null)
    {
        var zone = new ZoneSurvey("bonnet", null, [], null, null, null, [finding], test is null ? [] : [test]);
        return Bare("saloon") with { Zones = [change is null ? zone : change(zone)] };
    }

    private static Limits Limits(Survey survey, out ZoneState bonnet)
    {
        var states = ZoneState.FromSurvey(survey, Forms.Build("saloon", Forms.DefaultSize("saloon")), Catalogue.Default);
        bonnet = states.First(z => z.Zone.Id == "bonnet");
        return new Limits(survey, states.ToDictionary(z => z.Zone.Id), Catalogue.Default);
    }
}
