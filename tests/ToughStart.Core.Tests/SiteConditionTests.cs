using System.Globalization;
using System.Text;
using CsCheck;
using ToughStart.Core.Conditions;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Tests;

/// <summary>Conditions of a place: what is taken, what the plan does with them, the day and its weather.</summary>
public class SiteConditionTests
{
    private static readonly Catalogue C = Catalogue.Default;

    private static Survey With(string site, string goal = "wash", string colour = "#1b1c1e") =>
        SurveyFormat.Read(
            Encoding.UTF8.GetBytes(
                $$"""
                { "format": "toughstart.survey/1", "vehicle": { "form": "saloon", "colour": "{{colour}}" }, "history": { "flood": "none", "monthsSinceWash": 3 }, "goal": "{{goal}}", "site": { {{site}} },
                  "zones": [ { "zone": "*", "findings": [ { "contaminant": "road-film", "grade": 3 } ] }, { "zone": "bonnet", "findings": [ { "contaminant": "iron", "grade": 2 }, { "contaminant": "bug", "grade": 2 } ] } ] }
                """
            )
        )
            is { Ok: true } read
            ? read.Value!
            : throw new InvalidOperationException("survey");

    private const string Air = "\"airC\": 22, \"humidityPct\": 50, \"windMs\": 2, \"windAt\": \"panel\", \"cloudOktas\": 0, ";
    private const string Noon =
        Air
        + "\"latitude\": 54.1, \"longitude\": -2.8, \"headingDeg\": 90, \"start\": \"2026-06-12T13:00:00+01:00\", \"ground\": \"tarmac\"";

    [Theory]
    // Panels at once with 20 s to apply and 25 s to rinse, worked by hand in the model's notes.
    [InlineData(30, 84, 2)]
    [InlineData(60, 126, 4)]
    [InlineData(120, 210, 7)]
    [InlineData(180, 210, 0)]
    [InlineData(20, 48.5, 0)]
    [InlineData(30, 79.5, 1)]
    [InlineData(60, 177, 6)]
    [InlineData(120, 177, 3)]
    public void Panels_at_once_are_those_worked_by_hand(double dwell, double usable, int panels) =>
        Sections.Most(20, 25, dwell, usable).ShouldBe(panels);

    [Fact]
    public void More_room_never_means_fewer_panels() =>
        Gen.Select(Gen.Double[5, 60], Gen.Double[5, 60], Gen.Double[5, 400], Gen.Double[10, 900], Gen.Double[1, 3])
            .Sample((a, r, d, u, more) => Sections.Most(a, r, d, u * more) >= Sections.Most(a, r, d, u));

    [Fact]
    public void What_is_missing_is_said_and_nothing_is_made_up()
    {
        SiteConditions
            .Of(With("\"place\": \"outdoors\", \"airC\": 20"))
            .Why!.ShouldSatisfyAllConditions(
                w => w.ShouldContain("humidity"),
                w => w.ShouldContain("latitude"),
                w => w.ShouldContain("start")
            );
        SiteConditions.Of(With("\"place\": \"indoors\", \"airC\": 15")).Why!.ShouldBe("not said: humidity");
        SiteConditions.Of(With("\"place\": \"indoors\", \"airC\": 15, \"humidityPct\": 60")).Conditions.ShouldNotBeNull();
        SiteConditions.Of(With("\"place\": \"indoors\", \"airC\": -25, \"humidityPct\": 60")).Why!.ShouldContain("outside");
        SiteConditions
            .Of(With(Noon.Replace("\"windMs\": 2", "\"windMs\": 38", StringComparison.Ordinal) + ", \"place\": \"outdoors\""))
            .Why!.ShouldContain("38 m/s");
        var sparse = SiteConditions
            .Of(
                With(
                    "\"place\": \"outdoors\", \"airC\": 20, \"humidityPct\": 50, \"latitude\": 54, \"longitude\": 0, \"start\": \"2026-06-12T12:00\""
                )
            )
            .Conditions!;
        sparse.Assumed.Count.ShouldBe(4, string.Join("; ", sparse.Assumed));
        Planner
            .Plan(With("\"place\": \"outdoors\", \"airC\": 20"))
            .Warnings.ShouldContain(w => w.StartsWith("Drying not computed", StringComparison.Ordinal));
    }

    [Theory]
    [InlineData("\"start\": \"2026-03-29T01:30:00\", \"timeZone\": \"Europe/London\"", "does not exist")]
    [InlineData("\"start\": \"2026-06-12T13:00:00+00:00\", \"timeZone\": \"Europe/London\"", "+01:00")]
    [InlineData("\"start\": \"2026-06-12T13:00:00\", \"timeZone\": \"Middle/Earth\"", "no time zone")]
    [InlineData("\"start\": \"soon\"", "is not a time")]
    public void Clocks_that_cannot_be_are_refused(string start, string says)
    {
        var survey = With("\"place\": \"outdoors\", " + Air + "\"latitude\": 54, \"longitude\": 0, " + start);
        SiteConditions.Of(survey).Why!.ShouldContain(says);
        DayMap.Of(survey, null).Why!.ShouldContain(says);
        Repository.Plan(survey).Drying.ShouldBe("not computed");
    }

    [Fact]
    public void No_start_however_written_breaks_a_plan() =>
        Gen.Select(Gen.String[Gen.Char["0123456789-:TZ+ .,"], 0, 30], Gen.Int[0, 2].Select(i => new[] { null, "Europe/London", "x" }[i]))
            .Sample(
                (start, zone) =>
                {
                    var site = With("\"place\": \"outdoors\", " + Noon).Site with { Start = start, TimeZone = zone };
                    var (at, wrong) = SiteConditions.StartOf(site);
                    return at is not null || wrong is not null;
                }
            );

    [Fact]
    public void Sun_on_dark_paint_shortens_dwell_or_forbids_and_shade_gives_it_back()
    {
        var shade = Repository.Plan(With("\"place\": \"shade\", \"water\": \"none\", " + Noon));
        var sun = Repository.Plan(With("\"place\": \"outdoors\", \"water\": \"none\", " + Noon));
        var hose = Repository.Plan(With("\"place\": \"outdoors\", \"water\": \"hose\", " + Noon));
        (shade.Drying, sun.Drying).ShouldBe(("computed", "computed"));
        sun.Refused.ShouldContain(r => r.Zones.Contains("roof") && r.Reason.Contains("cool them first", StringComparison.Ordinal));
        sun.Warnings.ShouldContain(w => w.StartsWith("Too hot for chemistry", StringComparison.Ordinal));
        shade.Refused.ShouldNotContain(r => r.Reason.Contains("cool them first", StringComparison.Ordinal));
        hose.Warnings.ShouldContain(w => w.StartsWith("Hot paint", StringComparison.Ordinal));
        hose.Steps.ShouldContain(s => s.Zones.Contains("roof") && s.Mix != null, "rinsed cool first, the roof can be worked");
        hose.Steps.SelectMany(s => s.Cautions).ShouldContain(x => x.Contains("rinse by", StringComparison.Ordinal));
        foreach (var s in hose.Steps.Where(s => s.Mix is not null))
        {
            s.DwellMinutes.Value.ShouldBeLessThanOrEqualTo(s.MaxDwellMinutes + 1e-9);
            (
                s.Sections is null
                || s.Sections.Sections.SelectMany(x => x.Work)
                    .Select(w => w.Zone)
                    .Distinct()
                    .Order(StringComparer.Ordinal)
                    .SequenceEqual(s.Zones.Order(StringComparer.Ordinal))
            ).ShouldBeTrue("every zone is in a section");
        }

        sun.Conditions[0].ShouldContain("13:00");
        Encoding.UTF8.GetString(PlanFormat.Write(sun)).ShouldContain("\"conditions\"");
        // The early start of the same day is another plan.
        var early = Planner.Plan(
            With("\"place\": \"outdoors\", \"water\": \"none\", " + Noon.Replace("13:00:00", "05:15:00", StringComparison.Ordinal))
        );
        early
            .Refused.Count(r => r.Reason.Contains("cool them first", StringComparison.Ordinal))
            .ShouldBeLessThan(sun.Refused.Count(r => r.Reason.Contains("cool them first", StringComparison.Ordinal)));
    }

    [Fact]
    public void A_measured_panel_wins_over_the_computed_one_and_widens_the_usable_part()
    {
        var survey = With("\"place\": \"shade\", " + Noon);
        var conditions = SiteConditions.Of(survey).Conditions!;
        var bonnet = ToughStart.Core.Vehicles.Forms.Build("saloon", survey.Vehicle.Size)["bonnet"];
        var (computed, cool, hot) = (
            conditions.Window(bonnet, Family.Body, null, "spray"),
            conditions.Window(bonnet, Family.Body, 18, "spray"),
            conditions.Window(bonnet, Family.Body, 29, "spray")
        );
        hot.FirstDry.ShouldBeLessThan(cool.FirstDry);
        (computed.UsableSeconds / computed.FirstDry).ShouldBe(C["safe-part"], 1e-9);
        (cool.UsableSeconds / cool.FirstDry).ShouldBe(C["safe-part-measured"], 1e-9);
        var (low, high) = conditions.Band(bonnet, Family.Body, null, "spray");
        // Wider than the film's own spread: air, humidity and wind are not known exactly either.
        low.ShouldBeLessThan(conditions.FirstDry(bonnet, Family.Body, null, "spray") / C["band-film"]);
        high.ShouldBeGreaterThan(conditions.FirstDry(bonnet, Family.Body, null, "spray") * 1.1);
    }

    [Fact]
    public void Weather_by_the_hour_survives_the_document_and_wins_over_single_readings()
    {
        var survey = With(
            "\"place\": \"outdoors\", "
                + Noon
                + ", \"extraction\": true, \"hours\": [ { \"at\": \"2026-06-12T12:00+01:00\", \"airC\": 10, \"humidityPct\": 90, \"windMs\": 4 }, { \"at\": \"2026-06-12T14:00+01:00\", \"airC\": 14, \"humidityPct\": 80, \"windMs\": 6, \"rainMm\": 1 } ]"
        );
        SurveyFormat.Hash(SurveyFormat.Read(SurveyFormat.Write(survey)).Value!).ShouldBe(SurveyFormat.Hash(survey));
        var now = SiteConditions.Of(survey).Conditions!;
        (now.Air.Celsius, now.Air.HumidityPct, now.Air.Wind).ShouldBe((12, 85, 2.5));
        SiteConditions.Of(survey, new DateTimeOffset(2026, 6, 12, 18, 0, 0, TimeSpan.FromHours(1))).Why!.ShouldContain("does not reach");
        SurveyFormat
            .Read(
                Encoding.UTF8.GetBytes(
                    """{ "format": "toughstart.survey/1", "vehicle": { "form": "saloon" }, "goal": "wash", "site": { "hours": [ { "at": "noon", "airC": 10, "humidityPct": 90 } ] } }"""
                )
            )
            .Problems[0]
            .Field.ShouldBe("site.hours[0].at");
    }

    [Theory]
    [InlineData("time,airC,humidityPct\n2026-06-12T08:00Z,12,70\n2026-06-12T14:00Z,20,50", "nothing between")]
    [InlineData("time,airC,humidityPct\n2026-06-12T08:00,12,70", "with its zone")]
    [InlineData("time,airC,humidityPct\n2026-06-12T08:00Z,NaN,70", "airc")]
    [InlineData("time,airC,humidityPct\n2026-06-12T08:00Z,12,170", "humiditypct")]
    [InlineData("time,airC,humidityPct\n2026-06-12T08:00Z,12,70\n2026-06-12T08:00Z,13,70", "twice")]
    [InlineData("time,airC\n2026-06-12T08:00Z,12", "needed")]
    [InlineData("time,airC,humidityPct,mood\n", "mood")]
    [InlineData("", "empty")]
    public void Weather_files_with_holes_wrong_times_and_nonsense_are_named(string file, string says)
    {
        var read = WeatherFile.Read(file);
        read.Ok.ShouldBeFalse();
        string.Join("; ", read.Problems).ShouldContain(says);
    }

    [Fact]
    public void Weather_files_read_with_either_separator()
    {
        WeatherFile
            .Read("\uFEFFtime;airC;humidityPct;windMs\r\n2026-06-12T08:00+01:00;12,5;70;3\r\n2026-06-12T09:00+01:00;14;65;3\r\n")
            .Value!.Select(h => h.AirC)
            .ShouldBe([12.5, 14]);
        var day = new TypicalDays(3).Day(new DateTimeOffset(2026, 6, 12, 0, 0, 0, TimeSpan.FromHours(1)), 54, -3);
        day.ShouldBe(new TypicalDays(3).Day(new DateTimeOffset(2026, 6, 12, 0, 0, 0, TimeSpan.FromHours(1)), 54, -3));
        day.Count.ShouldBe(25);
        day.ShouldAllBe(h => h.AirC > -30 && h.AirC < 45 && h.HumidityPct >= 5 && h.HumidityPct <= 100);
        new TypicalDays(3)
            .Day(new DateTimeOffset(2026, 1, 12, 0, 0, 0, TimeSpan.Zero), 54, -3)
            .Average(h => h.AirC)
            .ShouldBeLessThan(day.Average(h => h.AirC));
        new TypicalDays(3)
            .Day(new DateTimeOffset(2026, 1, 12, 0, 0, 0, TimeSpan.Zero), -40, 170)
            .Average(h => h.AirC)
            .ShouldBeGreaterThan(
                new TypicalDays(3).Day(new DateTimeOffset(2026, 7, 12, 0, 0, 0, TimeSpan.Zero), -40, 170).Average(h => h.AirC)
            );
    }

    [Fact]
    public void The_day_names_a_better_start_and_says_how_much_better()
    {
        var survey = Repository.Demo("moorland-van");
        var (map, why) = DayMap.Of(survey, Repository.Plan(survey with { Site = survey.Site with { HumidityPct = null, Hours = [] } }));
        why.ShouldBeNull();
        map!.Quarters.Count.ShouldBe(96);
        map.Starts.ShouldAllBe(s => s.Fit >= 0 && s.Fit <= 1 + 1e-9);
        var noon = map.Starts[52];
        map.Starts[map.Best!.Value].Fit.ShouldBeGreaterThan(noon.Fit + 0.2);
        map.Words.ShouldSatisfyAllConditions(
            w => w.ShouldContain("13:00"),
            w => w.ShouldContain("% of the work fits"),
            w => w.ShouldContain("Start at")
        );
        // Windows follow the sun: the side that looks into it dries before the other, and they change places in the afternoon.
        double At(int quarter, string zone) => map.Quarters[quarter].FirstDry["thin-foam"][map.Zones.ToList().IndexOf(zone)];
        At(30, "bonnet").ShouldBeLessThan(At(4, "bonnet"));
        DayMap.QuarterOf(new DateTimeOffset(2026, 6, 12, 13, 20, 0, TimeSpan.Zero)).ShouldBe(53);
    }

    [Fact]
    public void Frost_rain_and_polar_night_are_answered()
    {
        var frost = DayMap
            .Of(
                With(
                    "\"place\": \"outdoors\", \"airC\": 2, \"humidityPct\": 80, \"latitude\": 54, \"longitude\": 0, \"start\": \"2026-01-12T10:00:00+00:00\""
                ),
                null
            )
            .Map!;
        frost.Best.ShouldBeNull();
        frost.Words.ShouldContain("another day");
        var night = DayMap
            .Of(
                With(
                    "\"place\": \"outdoors\", \"airC\": 8, \"humidityPct\": 60, \"latitude\": 80, \"longitude\": 10, \"start\": \"2026-12-21T10:00:00+00:00\""
                ),
                null
            )
            .Map!;
        night.Daylight.ShouldBeNull();
        night.Quarters.ShouldAllBe(q => !q.Sunny);
        night.Best.ShouldNotBeNull();
        var rain = With(
            "\"place\": \"outdoors\", "
                + Noon
                + ", \"hours\": ["
                + string.Join(
                    ',',
                    Enumerable
                        .Range(0, 26)
                        .Select(h =>
                            $"{{ \"at\": \"{new DateTimeOffset(2026, 6, 12, 0, 0, 0, TimeSpan.FromHours(1)).AddHours(h).ToString("yyyy-MM-ddTHH:mm:sszzz", CultureInfo.InvariantCulture)}\", \"airC\": 15, \"humidityPct\": 70, \"rainMm\": {(h is > 11 and < 16 ? 2 : 0)} }}"
                        )
                )
                + "]"
        );
        var map = DayMap.Of(rain, null).Map!;
        map.Starts[54].Fit.ShouldBe(0);
        map.Words.ShouldContain("rain");
    }

    [Fact]
    public void A_timed_dry_out_or_a_weighed_towel_moves_every_window() =>
        Gen.Select(Gen.Double[0.3, 4], Gen.Int[0, 4])
            .Sample(
                (factor, k) =>
                {
                    var carrier = C.Carriers[k];
                    var conditions = SiteConditions.Of(With("\"place\": \"shade\", " + Noon)).Conditions!;
                    var bonnet = ToughStart.Core.Vehicles.Forms.Build("saloon", ToughStart.Core.Vehicles.Forms.DefaultSize("saloon"))[
                        "bonnet"
                    ];
                    var b = conditions.Balance(bonnet, Family.Body, null, false);
                    var seen = WetWindow.Fast(b, carrier.Times(factor)).FirstDry;
                    var found = FilmCalibration.FromDryOut(b, carrier, seen);
                    var towel = FilmCalibration.FromTowel(carrier.Held(90) * 1000 * factor / 2, carrier, 90);
                    return (seen >= C["window-cap"] || Math.Abs(found!.Value / factor - 1) < 0.01)
                        && Math.Abs(towel!.Value / factor - 1) < 1e-9
                        && FilmCalibration.FromTowel(0.01, carrier, 90) is null
                        && FilmCalibration.FromDryOut(b, carrier, 0.2) is null;
                },
                iter: 60
            );

    [Fact]
    public void The_shops_film_reaches_windows_and_document()
    {
        var survey = With("\"place\": \"shade\", " + Noon);
        var thick = survey with { Kit = new ToughStart.Core.Chemistry.KitInUse(null, []) { FilmFactor = 2 } };
        SurveyFormat.Read(SurveyFormat.Write(thick)).Value!.Kit!.FilmFactor.ShouldBe(2);
        var bonnet = ToughStart.Core.Vehicles.Forms.Build("saloon", survey.Vehicle.Size)["bonnet"];
        SiteConditions
            .Of(thick)
            .Conditions!.Window(bonnet, Family.Body, null, "spray")
            .FirstDry.ShouldBeGreaterThan(1.8 * SiteConditions.Of(survey).Conditions!.Window(bonnet, Family.Body, null, "spray").FirstDry);
    }

    /// <summary>Published rule of thumb: a panel too hot to touch is cooled with water before chemistry, and never at noon if it can wait.</summary>
    [Fact]
    public void Hot_panels_are_rinsed_cool_before_late_chemistry_and_that_takes_time_and_water()
    {
        var survey = With($"\"place\": \"outdoors\", {Noon}, \"water\": \"hose\"");
        var vehicle = Vehicles.Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size);
        var hot = Repository.Plan(survey);
        var shade = Planner.Plan(With($"\"place\": \"indoors\", {Air} \"water\": \"hose\""));
        shade.Steps.ShouldAllBe(s => s.Cool == null);
        var cooled = hot.Steps.Where(s => s.Cool is not null).ToArray();
        cooled.ShouldNotBeEmpty();
        foreach (var step in cooled)
        {
            var rinse = C.Treatment("rinse");
            var area = step.Cool!.Zones.Sum(z => vehicle[z].Area * step.RoundsOn(z));
            step.Cool.Zones.ShouldBeSubsetOf(step.Zones);
            step.Cool.HottestC.ShouldBeGreaterThan(C["hot-film"]);
            // A spot is cooled where it is, so no more than the panel.
            step.Cool.Minutes.Value.ShouldBeInRange(0, rinse.Labour * area + 1e-9);
            step.Cool.Litres.ShouldBeInRange(0, rinse.WaterLitres * area + 1e-9);
            step.WaterLitres.ShouldBe(step.Per.Sum(p => p.WaterLitres), 1e-6);
            step.LabourMinutes.Value.ShouldBe(step.Per.Sum(p => p.LabourMinutes.Value), 1e-6);
            step.WaterLitres.ShouldBeGreaterThanOrEqualTo(step.Cool.Litres - 1e-9);
        }

        var read = PlanFormat.Read(PlanFormat.Write(hot)).Value!;
        read.Steps.First(s => s.Cool is not null).Cool!.Zones.ShouldBe(cooled[0].Cool!.Zones);
    }

    [Fact]
    public void A_plan_at_the_wrong_hour_says_the_hour_that_the_days_map_has()
    {
        var noon = With($"\"place\": \"outdoors\", {Noon}, \"water\": \"hose\"");
        var plan = Repository.Plan(noon);
        var day = DayMap.Of(noon, plan).Map!;
        var best = day.Best!.Value;
        (day.Starts[best].Fit - day.Starts[DayMap.QuarterOf(SiteConditions.StartOf(noon.Site).Start!.Value)].Fit).ShouldBeGreaterThan(
            C["day-better"]
        );
        var said = plan.Warnings.Single(w => w.StartsWith("Not the hour for this", StringComparison.Ordinal));
        said.ShouldContain($"at 13:00 {day.Starts[52].Fit * 100:0} %");
        said.ShouldContain($"Start at {TimeSpan.FromMinutes(15 * best):hh\\:mm} ({day.Starts[best].Fit * 100:0} %)");
        Planner
            .Plan(With($"\"place\": \"shade\", {Noon}, \"water\": \"hose\""))
            .Warnings.ShouldNotContain(w => w.StartsWith("Not the hour", StringComparison.Ordinal));
    }

    [Fact]
    public void Zones_of_one_side_or_end_are_named_by_it()
    {
        Vehicles.ZoneWords.Of(["right-front-tyre", "right-rear-tyre"]).ShouldBe("2 right tyres");
        Vehicles.ZoneWords.Of(["left-front-tyre", "right-front-tyre"]).ShouldBe("both front tyres");
        Vehicles.ZoneWords.Of(["left-front-tyre", "right-rear-tyre"]).ShouldBe("2 tyres");
        Vehicles.ZoneWords.Of(["left-sill", "right-sill"]).ShouldBe("both sills");
    }

    [Fact]
    public void Windows_are_said_in_half_minutes()
    {
        SiteConditions.Say(284).ShouldBe("4½ min");
        SiteConditions.Say(120).ShouldBe("2 min");
        SiteConditions.Say(50).ShouldBe("½ min");
        SiteConditions.Say(13).ShouldBe("15 s");
        SiteConditions.Say(5000).ShouldContain("not the limit");
    }
}
