using System.Text;
using CsCheck;
using ToughStart.Core.Conditions;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Tests;

/// <summary>Sections, shadows, readings, remedies, water left behind: what follows from how long a panel stays wet.</summary>
public class SectionTests
{
    private static readonly Catalogue C = Catalogue.Default;
    private static readonly Vehicle Saloon = Forms.Build("saloon", Forms.DefaultSize("saloon"));
    private static readonly CrewSpeed Speed = new(4.5, 3.6);
    private static readonly string[] Some =
    [
        "roof",
        "bonnet",
        "left-front-door",
        "right-front-door",
        "left-rear-door",
        "right-rear-door",
        "boot-lid",
        "left-front-wing",
    ];

    private static Survey With(string site, string vehicle = "", string zones = "") =>
        SurveyFormat.Read(
            Encoding.UTF8.GetBytes(
                $$"""
                { "format": "toughstart.survey/1", "vehicle": { "form": "saloon", "colour": "#1b1c1e"{{vehicle}} }, "history": { "flood": "none", "monthsSinceWash": 3 }, "goal": "wash", "site": { {{site}} },
                  "zones": [ { "zone": "*", "findings": [ { "contaminant": "road-film", "grade": 3 } ] }{{zones}} ] }
                """
            )
        )
            is { Ok: true } read
            ? read.Value!
            : throw new InvalidOperationException(string.Join("; ", SurveyFormat.Read(Encoding.UTF8.GetBytes("{}")).Problems));

    private const string Air =
        "\"airC\": 22, \"humidityPct\": 50, \"windMs\": 2, \"windAt\": \"panel\", \"cloudOktas\": 0, \"latitude\": 54.1, \"longitude\": -2.8, \"headingDeg\": 90, ";
    private const string Sunny = "\"place\": \"outdoors\", " + Air + "\"start\": \"2026-06-12T13:00:00+01:00\", \"ground\": \"tarmac\"";

    [Fact]
    public void Played_through_minute_by_minute_no_section_dries_and_every_zone_has_its_dwell() =>
        Gen.Select(Gen.Double[60, 900].Array[8], Gen.Double[0.5, 1.5], Gen.Double[10, 240], Gen.Bool)
            .Sample(
                (windows, later, dwell, byHand) =>
                {
                    var items = Some.Select(
                            (id, i) => new SectionItem(Saloon[id], windows[i], windows[i] * later, byHand ? 1.1 * Saloon[id].Area : null)
                        )
                        .ToArray();
                    var plan = Sections.Plan(items, Saloon, Speed, dwell, 0);
                    foreach (var s in plan.Sections)
                    {
                        // Played by a clock of its own: one person puts on in order, waits, rinses in order.
                        var (clock, on, left) = (0.0, new List<double>(), new List<double>());
                        (double Apply, double Rinse, double Usable) Of(SectionPart w)
                        {
                            var item = items.First(i => i.Zone.Id == w.Zone);
                            var rinse = item.Zone.Area * 60 / Speed.Rinse / w.Parts;
                            return (
                                byHand
                                    ? Math.Max(item.Zone.Area * 60 / Speed.Apply / w.Parts, item.ByHand!.Value * 60 / w.Parts - rinse)
                                    : item.Zone.Area * 60 / Speed.Apply / w.Parts,
                                rinse,
                                item.UsableNow + (item.UsableLater - item.UsableNow) * Math.Min(1, s.StartMinute / 30)
                            );
                        }

                        foreach (var (w, i) in s.Work.Select((w, i) => (w, i)))
                        {
                            clock += i == 0 ? 0 : Walk(s.Work[i - 1].Zone, w.Zone);
                            on.Add(byHand ? clock + Of(w).Apply : clock);
                            clock += Of(w).Apply;
                            left.Add(clock);
                        }

                        // The latest of: everything on, and each zone's dwell less the rinses before it.
                        var begin = clock;
                        for (var i = 0; i < s.Work.Count; i++)
                        {
                            begin = Math.Max(
                                begin,
                                left[i]
                                    + dwell
                                    - s.Work.Take(i).Sum(w => Of(w).Rinse)
                                    - Enumerable.Range(1, i > 1 ? i - 1 : 0).Sum(k => Walk(s.Work[k - 1].Zone, s.Work[k].Zone))
                            );
                        }

                        Math.Abs(begin - clock - s.Idle).ShouldBeLessThan(1e-6);
                        for (var i = 0; i < s.Work.Count; i++)
                        {
                            begin += i == 0 ? 0 : Walk(s.Work[i - 1].Zone, s.Work[i].Zone);
                            (begin - left[i]).ShouldBeGreaterThanOrEqualTo(dwell - 1e-6);
                            begin += Of(s.Work[i]).Rinse;
                            if (s.Spare >= 0)
                            {
                                (begin - on[i]).ShouldBeLessThanOrEqualTo(Of(s.Work[i]).Usable + 1e-6, "dry before its rinse");
                            }
                        }

                        Math.Abs(begin - s.Seconds).ShouldBeLessThan(1e-6);
                        if (s.Spare < -1e-6)
                        {
                            s.Work.Count.ShouldBe(1, "only a single piece may be too slow");
                        }
                    }

                    plan.Sections.SelectMany(s => s.Work).Select(w => w.Zone).Distinct().Count().ShouldBe(Some.Length);
                    plan.Sections.SelectMany(s => s.Work).GroupBy(w => w.Zone).ShouldAllBe(g => g.Count() == g.First().Parts);
                    plan.Sections[0].Work[0].Zone.ShouldBe("roof");
                },
                iter: 300
            );

    [Fact]
    public void No_order_of_sides_and_no_cut_needs_fewer_sections() =>
        Gen.Select(Gen.Double[150, 700].Array[6], Gen.Double[20, 100])
            .Sample(
                (windows, dwell) =>
                {
                    // Doors and lids only, windows that do not change: every order of the four sides and every cut between panels, counted by hand.
                    var sides = new[]
                    {
                        new[] { "bonnet" },
                        ["right-front-door", "right-rear-door"],
                        ["boot-lid"],
                        ["left-front-door", "left-rear-door"],
                    };
                    var ids = sides.SelectMany(s => s).ToArray();
                    var items = ids.ToDictionary(
                        id => id,
                        id => new SectionItem(Saloon[id], windows[Array.IndexOf(ids, id)], windows[Array.IndexOf(ids, id)], null)
                    );
                    bool Fits(string[] part)
                    {
                        double Corner(int i) => i == 0 ? 0 : Walk(part[i - 1], part[i]);
                        double[] a = [.. part.Select((id, i) => Saloon[id].Area * 60 / Speed.Apply + Corner(i))],
                            r = [.. part.Select((id, i) => Saloon[id].Area * 60 / Speed.Rinse + Corner(i))];
                        var begin = Math.Max(
                            a.Sum(),
                            Enumerable.Range(0, part.Length).Max(i => dwell + a.Take(i + 1).Sum() - r.Take(i).Sum())
                        );
                        return Enumerable
                            .Range(0, part.Length)
                            .All(i => begin + r.Take(i + 1).Sum() - a.Take(i).Sum() <= items[part[i]].UsableNow + 1e-9);
                    }

                    if (ids.Any(id => !Fits([id])))
                    {
                        return;
                    }

                    var least = 99;
                    foreach (var order in Orders([0, 1, 2, 3]))
                    {
                        var line = order.SelectMany(s => sides[s]).ToArray();
                        for (var cuts = 0; cuts < 32; cuts++)
                        {
                            var parts = new List<List<string>> { new() { line[0] } };
                            for (var i = 1; i < 6; i++)
                            {
                                if ((cuts >> (i - 1) & 1) == 1)
                                {
                                    parts.Add([]);
                                }

                                parts[^1].Add(line[i]);
                            }

                            least = parts.Count < least && parts.All(p => Fits([.. p])) ? parts.Count : least;
                        }
                    }

                    Sections.Plan([.. items.Values], Saloon, Speed, dwell, 0).Sections.Count.ShouldBe(least);
                },
                iter: 150
            );

    /// <summary>Seconds round the corners of the vehicle; from the roof every side is next.</summary>
    private static double Walk(string from, string to)
    {
        static int At(string id) =>
            id == "roof" ? -1
            : id == "bonnet" ? 0
            : id.StartsWith("right", StringComparison.Ordinal) ? 1
            : id == "boot-lid" ? 2
            : 3;
        return At(from) == At(to)
            ? 0
            : C["walk-side"]
                * (
                    At(from) < 0 ? 1
                    : Math.Abs(At(from) - At(to)) == 2 ? 2
                    : 1
                );
    }

    private static IEnumerable<int[]> Orders(int[] all) =>
        all.Length == 1 ? [all] : all.SelectMany(x => Orders([.. all.Where(y => y != x)]).Select(o => (int[])[x, .. o]));

    [Fact]
    public void A_roof_too_large_for_its_window_is_cut_and_high_roofs_need_ladders()
    {
        var van = Forms.Build("panel-van", Forms.Presets.First(p => p.Name.Contains("high", StringComparison.Ordinal)).Size);
        var plan = Sections.Plan([new SectionItem(van["roof"], 120, 120, 1.1 * van["roof"].Area)], van, Speed, 30, 0);
        plan.Sections.Count.ShouldBeGreaterThan(1);
        plan.Sections.ShouldAllBe(s => s.Spare >= 0);
        plan.LadderMoves.ShouldBe((int)Math.Ceiling(van["roof"].Area / C["ladder-reach"]));
        plan.Why.ShouldContain(w => w.Contains("ladder", StringComparison.Ordinal));
        Sections
            .Plan([new SectionItem(van["roof"], 120, 120, null)], van, Speed, 30, 0)
            .LadderMoves.ShouldBe(0, "a lance reaches it from the ground");
        // Too short for any piece: said, with how often to mist.
        var loose = Sections.Plan([new SectionItem(van["roof"], 25, 25, null)], van, Speed, 30, 0);
        loose.RemistSeconds.ShouldBe(25);
        loose.Why.ShouldContain(w => w.Contains("misting", StringComparison.Ordinal));
    }

    [Fact]
    public void The_side_that_is_about_to_get_the_sun_comes_before_the_other()
    {
        // The left loses its window within the half hour: done first it takes fewer sections.
        var items = Some.Select(id => new SectionItem(
                Saloon[id],
                id.StartsWith("left", StringComparison.Ordinal) ? 250 : 500,
                id.StartsWith("left", StringComparison.Ordinal) ? 35 : 500,
                5 * Saloon[id].Area
            ))
            .ToArray();
        var plan = Sections.Plan(items, Saloon, Speed, 30, 0);
        var order = plan.Sections.SelectMany(s => s.Work).Select(w => w.Zone).Where(z => z != "roof").ToArray();
        Array
            .FindIndex(order, z => z.StartsWith("left", StringComparison.Ordinal))
            .ShouldBeLessThan(Array.FindIndex(order, z => z.StartsWith("right", StringComparison.Ordinal)));
        plan.Why[0].ShouldStartWith("Left side dries soonest and comes");
        plan.Why[0].ShouldContain("last it would be");
    }

    [Fact]
    public void A_wall_keeps_the_sun_off_only_while_the_sun_stands_behind_it()
    {
        // Seen from the vehicle, a wall 20 m wide and 5 m high 4 m to the south: 45 degrees high from a metre above ground, 68 degrees to each side.
        var wall = With(Sunny + ", \"shadeObjects\": [ { \"bearingDeg\": 180, \"distanceM\": 4, \"widthM\": 20, \"heightM\": 5 } ]");
        SurveyFormat.Hash(SurveyFormat.Read(SurveyFormat.Write(wall)).Value!).ShouldBe(SurveyFormat.Hash(wall));
        foreach (var (clock, month) in new[] { (13.0, 6), (13.0, 12), (7.0, 6), (9.0, 3), (16.0, 9) })
        {
            var at = new DateTimeOffset(2026, month, 12, 0, 0, 0, TimeSpan.Zero).AddHours(clock);
            var there = SiteConditions.Of(wall, at).Conditions!;
            var hidden = there.Sun.Altitude < 45 && Math.Abs(there.Sun.Azimuth - 180) < 68.2;
            there.Sunny.ShouldBe(
                !hidden && there.Light.Beam > 50,
                $"{clock} of month {month}: sun {there.Sun.Altitude:0} high at {there.Sun.Azimuth:0}"
            );
        }

        SurveyFormat
            .Read(
                Encoding.UTF8.GetBytes(
                    """{ "format": "toughstart.survey/1", "vehicle": { "form": "saloon" }, "goal": "wash", "site": { "shadeObjects": [ { "bearingDeg": 180, "distanceM": 0, "widthM": 3, "heightM": 3 } ] } }"""
                )
            )
            .Problems[0]
            .Field.ShouldBe("site.shadeObjects[0].distanceM");
        SurveyFormat
            .Read(
                Encoding.UTF8.GetBytes(
                    """{ "format": "toughstart.survey/1", "vehicle": { "form": "saloon" }, "goal": "wash", "site": { "shadeObjects": [ { "bearingDeg": 180 } ] } }"""
                )
            )
            .Problems.Select(p => p.Field)
            .ShouldBe(["site.shadeObjects[0].distanceM", "site.shadeObjects[0].widthM", "site.shadeObjects[0].heightM"]);
    }

    [Fact]
    public void A_reading_corrects_the_model_at_its_moment_and_with_the_sun_afterwards()
    {
        var survey = With(Sunny, zones: ", { \"zone\": \"bonnet\", \"measuredC\": 50, \"measuredAt\": \"2026-06-12T13:00:00+01:00\" }");
        SurveyFormat.Hash(SurveyFormat.Read(SurveyFormat.Write(survey)).Value!).ShouldBe(SurveyFormat.Hash(survey));
        var bias = SiteConditions.BiasesOf(survey)["bonnet"];
        var model = SiteConditions.Of(With(Sunny)).Conditions!.Balance(Saloon["bonnet"], Family.Body, null, false).Now;
        bias.ModelC.ShouldBe(model, 1e-9);
        bias.Kelvin.ShouldBe(50 - model, 1e-9);
        double Panel(int hour) =>
            SiteConditions
                .Of(survey, new DateTimeOffset(2026, 6, 12, hour, 0, 0, TimeSpan.FromHours(1)))
                .Conditions!.Corrected()
                .Balance(Saloon["bonnet"], Family.Body, null, false)
                .Now;
        double Without(int hour) =>
            SiteConditions
                .Of(With(Sunny), new DateTimeOffset(2026, 6, 12, hour, 0, 0, TimeSpan.FromHours(1)))
                .Conditions!.Balance(Saloon["bonnet"], Family.Body, null, false)
                .Now;
        Panel(13).ShouldBe(50, 1e-9);
        Math.Abs(Panel(18) - Without(18)).ShouldBeLessThan(Math.Abs(bias.Kelvin), "less sun, less to correct");
        Panel(23).ShouldBe(Without(23), 1e-9, "no sun, nothing to correct");
        // The plan and the day read it, and only its own zone.
        Repository.Plan(survey).Conditions.ShouldContain(x => x.Contains("bonnet", StringComparison.Ordinal));
        DayMap.Of(survey, null).Map!.Biases.ShouldHaveSingleItem().Zone.ShouldBe("bonnet");
        SurveyFormat
            .Read(
                Encoding.UTF8.GetBytes(
                    """{ "format": "toughstart.survey/1", "vehicle": { "form": "saloon" }, "goal": "wash", "zones": [ { "zone": "bonnet", "measuredC": 40, "measuredAt": "at noon" } ] }"""
                )
            )
            .Problems[0]
            .Field.ShouldBe("zones[0].measuredAt");
    }

    [Fact]
    public void Aluminium_stores_less_heat_and_a_hot_engine_shortens_the_bonnet()
    {
        double Window(string vehicle, string zone) =>
            SiteConditions
                .Of(
                    With(
                        "\"place\": \"shade\", "
                            + Air.Replace("\"airC\": 22", "\"airC\": 10", StringComparison.Ordinal)
                            + "\"start\": \"2026-06-12T13:00:00+01:00\"",
                        vehicle
                    )
                )
                .Conditions!.FirstDry(Saloon[zone], Family.Body, null, "spray");
        Window(", \"hotEngine\": true", "bonnet").ShouldBeLessThan(0.6 * Window("", "bonnet"));
        Window(", \"hotEngine\": true", "roof").ShouldBe(Window("", "roof"));
        Window(", \"sheet\": \"aluminium\"", "roof").ShouldNotBe(Window("", "roof"));
    }

    [Fact]
    public void What_would_help_is_computed_and_what_is_enough_comes_before_the_other()
    {
        var survey = With(Sunny.Replace("\"ground\"", "\"water\": \"none\", \"ground\"", StringComparison.Ordinal));
        var now = SiteConditions.Of(survey).Conditions!;
        var remedies = Remedies.For(survey, now, Saloon["roof"], Family.Body, "spray", 120, Speed, true, t =>
            SiteConditions.Of(survey, t).Conditions
        );
        remedies.Select(r => r.What).ShouldContain("shade");
        remedies.ShouldContain(r => r.What.StartsWith("start at", StringComparison.Ordinal));
        remedies.First(r => r.What == "shade").FirstDry.ShouldBe(now.InShade().FirstDry(Saloon["roof"], Family.Body, null, "spray"));
        remedies.Select(r => r.Enough).ShouldBe(remedies.Select(r => r.Enough).OrderDescending());
        remedies.ShouldAllBe(r => r.FirstDry > now.FirstDry(Saloon["roof"], Family.Body, null, "spray"));
        // Sealed under foam lasts longer than the spray alone, by the film it holds.
        now.InShade()
            .FirstDry(Saloon["left-front-door"], Family.Body, null, "foam-over-spray")
            .ShouldBeGreaterThan(1.5 * now.InShade().FirstDry(Saloon["left-front-door"], Family.Body, null, "spray"));
        var refused = Planner
            .Plan(
                With(
                    Sunny
                        .Replace("\"airC\": 22", "\"airC\": 30", StringComparison.Ordinal)
                        .Replace("\"ground\"", "\"water\": \"none\", \"ground\"", StringComparison.Ordinal)
                )
            )
            .Refused;
        refused.ShouldContain(r => r.Reason.Contains("in shade", StringComparison.Ordinal));
    }

    [Theory]
    [InlineData("\"airC\": 2", "below 5 °C")]
    [InlineData(
        "\"hours\": [ { \"at\": \"2026-06-12T12:00+01:00\", \"airC\": 12, \"humidityPct\": 95, \"rainMm\": 0.6 }, { \"at\": \"2026-06-12T15:00+01:00\", \"airC\": 12, \"humidityPct\": 95, \"rainMm\": 0.6 } ]",
        "rain"
    )]
    public void Frost_and_drizzle_leave_no_chemistry_in_the_plan(string weather, string says)
    {
        var site = weather.StartsWith("\"airC\"", StringComparison.Ordinal)
            ? Sunny.Replace("\"airC\": 22", weather, StringComparison.Ordinal)
            : Sunny + ", " + weather;
        var plan = Repository.Plan(With(site));
        plan.Refused.ShouldContain(r => r.Reason.Contains(says, StringComparison.Ordinal));
        plan.Steps.ShouldAllBe(s => s.Agent == "water" || C.Agent(s.Agent).Axis == Axis.None);
        Repository.Plan(With(Sunny)).Steps.ShouldContain(s => s.Agent != "water" && C.Agent(s.Agent).Dwell > 0);
    }

    [Fact]
    public void Water_left_to_dry_spots_hot_panels_first_and_leaves_its_hardness()
    {
        var survey = With(Sunny.Replace("\"ground\"", "\"waterHardnessMgL\": 300, \"ground\"", StringComparison.Ordinal));
        var now = SiteConditions.Of(survey).Conditions!;
        var left = WaterLeft.Of(now, Saloon.Zones.Where(z => z.Kind.Default.Family == Family.Body).Select(z => (z, Family.Body)), 300);
        left.Select(w => w.Seconds).ShouldBe(left.Select(w => w.Seconds).Order());
        // 45 g/m² of water with 300 mg/l holds 13.5 mg/m² whatever the panel is.
        left.First(w => w.Zone == "roof").ResidueMg!.Value.ShouldBe(13.5, 1e-9);
        var dry = Repository.Plan(survey).Steps[^1];
        dry.Stage.ShouldBe(Stage.Dry);
        dry.Why.ShouldContain(w => w.Contains("13.5 mg/m²", StringComparison.Ordinal));
        dry.Why.ShouldContain(w => w.Contains("softened", StringComparison.Ordinal));
        var order = dry.Zones.Select((z, i) => (z, i)).ToDictionary(x => x.z, x => x.i);
        var seconds = left.Where(w => order.ContainsKey(w.Zone) && w.Seconds < C["not-the-limit"])
            .OrderBy(w => order[w.Zone])
            .Select(w => (int)(w.Seconds / 120))
            .ToArray();
        seconds.ShouldBe(seconds.Order());
    }

    [Fact]
    public void Thicker_foam_is_laid_where_thin_foam_would_dry()
    {
        var steps = new[] { 18, 22, 25, 28, 30 }
            .SelectMany(air => Planner.Plan(With(Sunny.Replace("\"airC\": 22", $"\"airC\": {air}", StringComparison.Ordinal))).Steps)
            .Where(s => s.Film == "thick-foam")
            .ToArray();
        steps.ShouldNotBeEmpty();
        steps.ShouldAllBe(s => s.Agent.EndsWith("foam", StringComparison.Ordinal));
        steps.ShouldAllBe(s => s.Cautions.Any(x => x.StartsWith("Thick foam", StringComparison.Ordinal)));
        Planner
            .Plan(
                With(
                    Sunny
                        .Replace("outdoors", "shade", StringComparison.Ordinal)
                        .Replace("\"airC\": 22", "\"airC\": 12", StringComparison.Ordinal)
                )
            )
            .Steps.ShouldAllBe(s => s.Film != "thick-foam");
    }

    [Fact]
    public void A_quick_crew_needs_no_more_sections_than_a_slow_one()
    {
        Plan For(double apply, double rinse)
        {
            var s = With(Sunny);
            return Repository.Plan(s with { Kit = new Chemistry.KitInUse(null, []) { Speed = new CrewSpeed(apply, rinse) } });
        }

        // A slow crew does not do everything a quick one can: what both do is compared.
        var (quick, slow) = (For(9, 8), For(2, 1.5));
        var both = 0;
        foreach (var fast in quick.Steps.Where(s => s.Sections is not null))
        {
            if (
                slow.Steps.FirstOrDefault(s => s.Key == fast.Key && s.Sections is not null && s.Zones.SequenceEqual(fast.Zones)) is { } same
            )
            {
                fast.Sections!.Sections.Count.ShouldBeLessThanOrEqualTo(same.Sections!.Sections.Count, fast.Key);
                both++;
            }
        }

        both.ShouldBeGreaterThan(0);
        var written = SurveyFormat.Write(With(Sunny) with { Kit = new Chemistry.KitInUse(null, []) { Speed = new CrewSpeed(6, 4) } });
        SurveyFormat.Read(written).Value!.Kit!.Speed.ShouldBe(new CrewSpeed(6, 4));
    }
}
