using System.Net;
using System.Text;
using Microsoft.EntityFrameworkCore;
using OpenQA.Selenium;
using static ToughStart.Web.Tests.RecordTests;

namespace ToughStart.Web.Tests;

/// <summary>The day station: weather, sun, minutes left on every panel, and a plan that follows.</summary>
[Collection("app")]
public sealed class DayTests(AppFixture app)
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    [Fact]
    public void Of_readings_places_film_and_weather_one_is_open_at_a_time()
    {
        using var b = new Browser();
        b.Go(app.Address, "/jobs/110/day");
        foreach (var _ in b.All(".day-do .drop"))
        {
            var shut = b.All(".day-do .drop:not([open]) summary")[0];
            b.Press(shut);
            b.All(".day-do .drop[open]").Count.ShouldBe(1);
        }

        b.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void Scrubbing_the_day_shows_a_panel_go_short_and_moving_the_start_changes_the_plan()
    {
        using var b = new Browser();
        b.Go(app.Address, "/jobs/110/plan");
        b.Driver.PageSource.ShouldContain("Hot paint");
        b.Go(app.Address, "/jobs/110/day");
        b.One(".day-says").Text.ShouldContain("13:00");
        b.AxeViolations().ShouldBeEmpty();
        void Scrub(int quarter)
        {
            b.Driver.ExecuteScript(
                "const r = document.querySelector('.ribbon-wrap input'); r.value = arguments[0]; r.dispatchEvent(new Event('input', { bubbles: true }));",
                quarter
            );
            b.WaitFor(d => d.FindElement(By.CssSelector(".day-clock")).Text == $"{quarter / 4:00}:{quarter % 4 * 15:00}", "the clock");
        }

        string Band() => b.Zone("roof").GetDomAttribute("class")!.Split(' ').First(c => c.StartsWith("dry-", StringComparison.Ordinal));
        Scrub(20);
        var early = Band();
        Scrub(52);
        b.WaitFor(_ => Band() != early, "the roof has another colour");
        string.CompareOrdinal(Band(), early).ShouldBeLessThan(0, "fewer minutes at one o'clock than at five");
        b.Zone("roof").Click();
        b.WaitFor(d => d.FindElement(By.CssSelector(".film-now")).GetDomAttribute("d") is { Length: > 40 }, "the film drawn");
        b.One(".day-side h2").Text.ShouldContain("roof", Case.Insensitive);
        b.Press(b.Driver.FindElement(By.XPath("//button[@data-carrier='gel']")));
        b.WaitFor(d => d.FindElement(By.CssSelector("[data-carrier='gel']")).GetDomAttribute("aria-pressed") == "true", "another carrier");

        b.One(".day-product option[value='spray']").Click();
        b.WaitFor(
            d => d.FindElement(By.CssSelector("[data-carrier='spray']")).GetDomAttribute("aria-pressed") == "true",
            "the product's film"
        );
        Scrub(24);
        b.Press(b.Driver.FindElement(By.XPath("//button[contains(., 'Start at')]")));
        b.WaitFor(d => d.FindElement(By.CssSelector(".day-says")).Text.Contains("06:00", StringComparison.Ordinal), "the start moved");
        try
        {
            b.Go(app.Address, "/jobs/110/plan");
            b.One(".plan-head").Text.ShouldContain("06:00");
        }
        finally
        {
            b.Go(app.Address, "/jobs/110/day");
            Scrub(52);
            b.Press(b.Driver.FindElement(By.XPath("//button[contains(., 'Start at')]")));
            b.WaitFor(d => d.FindElement(By.CssSelector(".day-says")).Text.Contains("13:00", StringComparison.Ordinal), "back");
        }

        b.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void Redrawing_the_van_keeps_up_with_the_thumb()
    {
        using var b = new Browser();
        b.Go(app.Address, "/jobs/110/day");
        // Not a timing test: every position scrubbed through ends drawn, none is skipped at the end.
        b.Driver.ExecuteScript(
            "const r = document.querySelector('.ribbon-wrap input'); for (let i = 0; i < 96; i++) { r.value = i; r.dispatchEvent(new Event('input', { bubbles: true })); }"
        );
        b.WaitFor(d => d.FindElement(By.CssSelector(".day-clock")).Text == "23:45", "the last position");
        b.All(".day-net [data-zone]").ShouldAllBe(z => z.GetDomAttribute("class")!.Contains("dry-", StringComparison.Ordinal));
    }

    [Fact]
    public async Task Weather_comes_from_a_file_or_a_typical_day_and_holes_are_named()
    {
        using var tam = await app.SignedInAsync("tam");
        var hole = await SendFile(
            tam,
            "/jobs/110/day?handler=Weather",
            "w.csv",
            Encoding.UTF8.GetBytes("time,airC,humidityPct\n2026-06-12T08:00+01:00,12,70\n2026-06-12T16:00+01:00,20,50\n"),
            []
        );
        hole.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        Html(await hole.Content.ReadAsStringAsync(Stop)).QuerySelector("[role=alert]")!.TextContent.ShouldContain("nothing between");
        var survey = ToughStart.Core.Formats.SurveyFormat.Read(await tam.GetByteArrayAsync("/api/v1/jobs/110/survey", Stop)).Value!;
        survey.Site.Hours.Count.ShouldBe(25);
        var file =
            "time,airC,humidityPct,windMs\n"
            + string.Join(
                '\n',
                survey.Site.Hours.Select(h =>
                    FormattableString.Invariant($"{h.At:yyyy-MM-ddTHH:mm:sszzz},{h.AirC},{h.HumidityPct},{h.WindMs}")
                )
            );
        (await SendFile(tam, "/jobs/110/day?handler=Weather", "w.csv", Encoding.UTF8.GetBytes(file), [])).StatusCode.ShouldBe(
            HttpStatusCode.OK
        );
    }

    [Fact]
    public async Task A_reading_corrects_one_panel_and_a_place_and_a_speed_are_kept()
    {
        using var tam = await app.SignedInAsync("tam");
        var before = ToughStart.Core.Formats.SurveyFormat.Read(await tam.GetByteArrayAsync("/api/v1/jobs/110/survey", Stop)).Value!;
        var page = Html(await tam.GetStringAsync("/jobs/110/day", Stop));
        page.QuerySelectorAll(".board tbody tr").Length.ShouldBeGreaterThan(4);
        page.QuerySelectorAll(".board .b-short").Length.ShouldBeGreaterThan(0);
        page.QuerySelectorAll(".board tbody tr").ShouldAllBe(r => r.QuerySelectorAll("td").Length == 24);
        async Task<HttpResponseMessage> Post(string handler, params (string Name, string Value)[] fields)
        {
            var token = page.QuerySelector("main input[name=__RequestVerificationToken]")!.GetAttribute("value")!;
            return await tam.PostAsync(
                $"/jobs/110/day?handler={handler}",
                new FormUrlEncodedContent([
                    .. fields.Select(f => KeyValuePair.Create(f.Name, f.Value)),
                    KeyValuePair.Create("__RequestVerificationToken", token),
                ]),
                Stop
            );
        }

        try
        {
            foreach (var bad in new[] { "warm", "400", "NaN" })
            {
                (await Post("Panel", ("zone", "bonnet"), ("quarter", "52"), ("celsius", bad))).StatusCode.ShouldBe(
                    HttpStatusCode.UnprocessableEntity
                );
            }

            var hot = Html(
                await (await Post("Panel", ("zone", "bonnet"), ("quarter", "52"), ("celsius", "70"))).Content.ReadAsStringAsync(Stop)
            );
            hot.QuerySelector(".biases")!.TextContent.ShouldContain("bonnet 70 °C at 13:00");
            var film = await tam.GetStringAsync("/jobs/110/day?handler=Film&zone=bonnet&carrier=thin-foam&quarter=52", Stop);
            film.ShouldContain("\"panel\":70");
            film.ShouldContain("enough");
            Html(await tam.GetStringAsync("/jobs/110/plan", Stop)).Body!.TextContent.ShouldContain("bonnet 70 °C at 13:00");
            Html(await (await Post("Panel", ("zone", "bonnet"), ("quarter", "52"), ("celsius", ""))).Content.ReadAsStringAsync(Stop))
                .QuerySelector(".biases")
                .ShouldBeNull();

            (await Post("Keep", ("name", " "))).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
            Html(await (await Post("Keep", ("name", "Test yard"))).Content.ReadAsStringAsync(Stop))
                .Body!.TextContent.ShouldContain("Test yard");
            var kept = await app.NewContext().Sites.SingleAsync(s => s.Name == "Test yard", Stop);
            // Elsewhere, then back: the place returns, the hour stays.
            var away = Html(
                await (
                    await Post(
                        "Readings",
                        ("place", "indoors"),
                        ("start", "2026-06-12T15:00"),
                        ("timeZone", "Europe/London"),
                        ("airC", "18"),
                        ("humidityPct", "55"),
                        ("shadeObjects", "180 4 20")
                    )
                ).Content.ReadAsStringAsync(Stop)
            );
            away.QuerySelector("[role=alert]")!.TextContent.ShouldContain("bearing, distance, width and height");
            await Post(
                "Readings",
                ("place", "outdoors"),
                ("start", "2026-06-12T15:00"),
                ("timeZone", "Europe/London"),
                ("airC", "18"),
                ("humidityPct", "55"),
                ("latitude", "10"),
                ("longitude", "5"),
                ("shadeObjects", "180 4 20 5; 270 6 3 8")
            );
            var there = ToughStart.Core.Formats.SurveyFormat.Read(await tam.GetByteArrayAsync("/api/v1/jobs/110/survey", Stop)).Value!.Site;
            there.ShadeObjects.Count.ShouldBe(2);
            Html(await tam.GetStringAsync("/jobs/110/day", Stop)).QuerySelectorAll(".dial-wall").Length.ShouldBe(2);
            await Post("Take", ("kept", kept.Id.ToString()));
            var back = ToughStart.Core.Formats.SurveyFormat.Read(await tam.GetByteArrayAsync("/api/v1/jobs/110/survey", Stop)).Value!.Site;
            (back.Latitude, back.ShadeObjects.Count, back.Start![..16], back.AirC).ShouldBe(
                (before.Site.Latitude, 0, "2026-06-12T15:00", 18)
            );
            await Post("Forget", ("kept", kept.Id.ToString()));
            (await Post("Take", ("kept", kept.Id.ToString()))).StatusCode.ShouldBe(HttpStatusCode.Conflict);

            (await Post("Speed", ("apply", "fast"), ("rinse", "3"))).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
            await Post("Speed", ("apply", "2"), ("rinse", "1.5"));
            Html(await tam.GetStringAsync("/jobs/110/day", Stop)).QuerySelector("input[name=apply]")!.GetAttribute("value").ShouldBe("2");
        }
        finally
        {
            await Post("Speed");
            await using var db = app.NewContext();
            var store = new ToughStart.Data.JobStore(db, AppFixture.Clock);
            var now = (await store.JobAsync(110, Stop))!;
            (await store.SaveSurveyAsync(now.Id, now.Revision, before, "test", Stop)).Saved.ShouldBeTrue();
        }
    }

    [Fact]
    public async Task A_job_whose_place_is_not_known_says_what_is_missing()
    {
        using var tam = await app.SignedInAsync("tam");
        var page = Html(await tam.GetStringAsync("/jobs/109/day", Stop));
        page.QuerySelector(".empty")!.TextContent.ShouldContain("not said");
        // Saying it on the spot: bad readings are named and kept, good ones make the day.
        Dictionary<string, string> Readings(string airC, string start) =>
            new()
            {
                ["place"] = "indoors",
                ["start"] = start,
                ["timeZone"] = "Europe/London",
                ["airC"] = airC,
                ["humidityPct"] = "62",
                ["__RequestVerificationToken"] = page.QuerySelector(".readings input[name=__RequestVerificationToken]")!
                    .GetAttribute("value")!,
            };
        foreach (
            var (air, start, says) in new[]
            {
                ("warm", "2026-11-27T09:00", "not a number"),
                ("99", "2026-11-27T09:00", "airC"),
                ("15", "2026-03-29T01:30", "does not exist"),
            }
        )
        {
            var bad = await tam.PostAsync("/jobs/109/day?handler=Readings", new FormUrlEncodedContent(Readings(air, start)), Stop);
            bad.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
            var again = Html(await bad.Content.ReadAsStringAsync(Stop));
            again.QuerySelector("[role=alert]")!.TextContent.ShouldContain(says);
            again.QuerySelector("input[name=airC]")!.GetAttribute("value").ShouldBe(air);
        }

        var good = Html(
            await (
                await tam.PostAsync("/jobs/109/day?handler=Readings", new FormUrlEncodedContent(Readings("15", "2026-11-27T09:00")), Stop)
            ).Content.ReadAsStringAsync(Stop)
        );
        good.QuerySelector(".day-says")!.TextContent.ShouldContain("09:00");
        (await tam.GetAsync("/jobs/110/day?handler=Film&zone=attic&carrier=gel&quarter=3", Stop)).StatusCode.ShouldBe(
            HttpStatusCode.NotFound
        );
        (await tam.GetAsync("/jobs/110/day?handler=Film&zone=roof&carrier=gel&quarter=300", Stop)).StatusCode.ShouldBe(
            HttpStatusCode.NotFound
        );
        var day = Html(await tam.GetStringAsync("/jobs/110/day", Stop));
        Dictionary<string, string> Film(string method, string measured) =>
            new()
            {
                ["method"] = method,
                ["zone"] = "left-side-panel",
                ["carrier"] = "thin-foam",
                ["quarter"] = "24",
                ["measured"] = measured,
                ["__RequestVerificationToken"] = day.QuerySelector("main input[name=__RequestVerificationToken]")!.GetAttribute("value")!,
            };
        foreach (var nonsense in new[] { "a lot", "0.001", "-4" })
        {
            (
                await tam.PostAsync("/jobs/110/day?handler=Film", new FormUrlEncodedContent(Film("towel", nonsense)), Stop)
            ).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        }

        // 40 g/m² is what an upright panel is taken to hold: 30 g on half of one is one and a half times as much.
        var measured = Html(
            await (
                await tam.PostAsync("/jobs/110/day?handler=Film", new FormUrlEncodedContent(Film("towel", "30")), Stop)
            ).Content.ReadAsStringAsync(Stop)
        );
        measured.QuerySelector(".trial")!.TextContent.ShouldContain("× 1.50");
        var slip = new Dictionary<string, string>
        {
            ["id"] = measured.QuerySelector(".trial input[name=id]")!.GetAttribute("value")!,
            ["__RequestVerificationToken"] = measured
                .QuerySelector(".trial input[name=__RequestVerificationToken]")!
                .GetAttribute("value")!,
        };
        Html(
                await (
                    await tam.PostAsync("/jobs/110/day?handler=Strike", new FormUrlEncodedContent(slip), Stop)
                ).Content.ReadAsStringAsync(Stop)
            )
            .QuerySelectorAll(".trial .struck")
            .Length.ShouldBe(1);
        var film = await tam.GetStringAsync("/jobs/110/day?handler=Film&zone=roof&carrier=thin-foam&quarter=52", Stop);
        film.ShouldContain("\"points\"");
        var answer = await app.Http.PostAsync(
            "/api/v1/wet-window",
            new StringContent(
                """{ "airC": 20, "humidityPct": 50, "windMs": 2, "cloudOktas": 0, "latitude": 53, "longitude": 0, "at": "2026-06-21T12:00Z", "inSun": true, "colour": "#a3262a" }""",
                Encoding.UTF8,
                "application/json"
            ),
            Stop
        );
        (await answer.Content.ReadAsStringAsync(Stop)).ShouldContain("2½ min");
        (
            await app.Http.PostAsync(
                "/api/v1/wet-window",
                new StringContent("""{ "airC": 80, "humidityPct": 50 }""", Encoding.UTF8, "application/json"),
                Stop
            )
        ).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
    }
}
