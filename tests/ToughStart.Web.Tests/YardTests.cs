using System.Net;
using System.Text;
using AngleSharp.Dom;
using Microsoft.EntityFrameworkCore;
using ToughStart.Data;

namespace ToughStart.Web.Tests;

/// <summary>The yard as a list of work: nothing drops out, states, search, archive; closing and opening again. In a shop of its own.</summary>
public sealed class YardTests(FuzzFixture shop) : IClassFixture<FuzzFixture>
{
    [Theory]
    [InlineData(0, 30, 30, false, "30")]
    [InlineData(0, 30, 31, true, "31")]
    [InlineData(30, 1, 31, false, "31")]
    [InlineData(0, 30, 999, true, "999")]
    [InlineData(990, 9, 999, false, "999")]
    [InlineData(0, 30, 1000, true, "1000+")]
    [InlineData(1020, 30, 1000, true, "1000+")]
    [InlineData(1050, 12, 1000, false, "1000+")]
    public void An_archive_past_what_is_counted_is_read_to_its_end(int from, int shown, int all, bool more, string said)
    {
        ToughStart.Web.Stations.YardModel.More(from, shown, all).ShouldBe(more);
        ToughStart.Web.Stations.YardModel.Said(all).ShouldBe(said);
    }

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    private static async Task<string[]> Shown(HttpClient http, string path) =>
        [.. RecordTests.Html(await http.GetStringAsync(path, Stop)).QuerySelectorAll(".bay strong").Select(e => e.TextContent)];

    [Fact]
    public async Task Old_jobs_stay_until_they_are_closed_and_everything_can_be_found()
    {
        using var tam = await shop.App.SignedInAsync("tam");
        await using var db = shop.App.NewContext();
        var store = new JobStore(db, AppFixture.Clock);
        var survey = (await store.JobAsync(110, Stop))!.Survey;
        for (var i = 0; i < 32; i++)
        {
            await store.TakeInAsync(
                new Contact("Wick Harrow", null, null, $"Fleet van {i:00}", $"FLT {i:000}"),
                TickingClock.Today.AddDays(-30 - i),
                "Left over",
                new IntakeWishes(),
                survey with
                {
                    Site = survey.Site with { Start = null },
                },
                "test",
                Stop
            );
        }

        // Today's and coming jobs first; then the old ones, and nothing drops out: the rest is a page away.
        var first = await Shown(tam, "/");
        first.Length.ShouldBe(JobStore.MostInYard);
        first.ShouldContain("Tidewarden double cab");
        first.ShouldContain("Fleet van 00");
        var second = await Shown(tam, $"/?from={JobStore.MostInYard}");
        second.ShouldContain("Fleet van 31");
        first.Intersect(second).ShouldBeEmpty();

        (await Shown(tam, "/?find=flt%20007")).ShouldBe(["Fleet van 07"]);
        (await Shown(tam, "/?find=tidewarden")).ShouldBe(["Tidewarden double cab"]);
        (await Shown(tam, "/?find=104")).ShouldBe(["Tidewarden double cab"]);
        (await Shown(tam, "/?find=Wick%20Harrow")).Length.ShouldBe(JobStore.MostInYard);
        (await Shown(tam, "/?find=%25")).ShouldBeEmpty();
        (await tam.GetStringAsync("/?find=%25", Stop)).ShouldContain("No job with");

        // Clients are found by name and by what they drive, with all their jobs; only an owner hands over or erases.
        var clients = RecordTests.Html(await tam.GetStringAsync("/clients?find=wick", Stop));
        clients.QuerySelectorAll(".client-jobs li").Length.ShouldBe(32);
        clients.QuerySelector(".client-do").ShouldBeNull();
        using var owner = await shop.App.SignedInAsync("odile");
        RecordTests.Html(await owner.GetStringAsync("/clients?find=FLT", Stop)).QuerySelectorAll(".client-do").Length.ShouldBe(1);
        using var rowan = await shop.App.SignedInAsync("rowan");
        (await rowan.GetAsync("/clients", Stop)).StatusCode.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task The_yard_is_light_however_many_stand_there()
    {
        using var tam = await shop.App.SignedInAsync("tam");
        var page = await tam.GetStringAsync("/", Stop);
        // A quarter of a megabyte for thirty vehicles: drawings are pictures that browsers keep, not part of the page.
        Encoding.UTF8.GetByteCount(page).ShouldBeLessThan(250_000);
        var picture = RecordTests.Html(page).QuerySelector(".bay-net img")!.GetAttribute("src")!;
        var answer = await tam.GetAsync(picture, Stop);
        answer.Content.Headers.ContentType!.MediaType.ShouldBe("image/svg+xml");
        answer.Headers.CacheControl!.ToString().ShouldContain("immutable");
        (await tam.GetAsync(picture[..picture.IndexOf('?', StringComparison.Ordinal)], Stop)).Headers.CacheControl!.NoCache.ShouldBeTrue();
        using var nobody = await shop.App.SignedInAsync(null);
        (await nobody.GetAsync(picture, Stop)).StatusCode.ShouldNotBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task A_closed_job_leaves_the_yard_takes_nothing_more_and_only_an_owner_opens_it_again()
    {
        using var tam = await shop.App.SignedInAsync("tam");
        await using var db = shop.App.NewContext();
        var store = new JobStore(db, AppFixture.Clock);
        var survey = (await store.JobAsync(111, Stop))!.Survey;
        var number = await store.TakeInAsync(
            new Contact("Senna Vole", null, null, "Closing coupé", "CLS 1"),
            TickingClock.Today,
            "To be closed",
            new IntakeWishes(),
            survey,
            "test",
            Stop
        );
        (await RunTests.TakeAsync(tam, number)).EnsureSuccessStatusCode();

        // What is open is listed, and closing over it is asked for.
        var page = RecordTests.Html(await tam.GetStringAsync($"/jobs/{number}/close", Stop));
        page.QuerySelector(".still-open")!.TextContent.ShouldContain("not done");
        var form = await RecordTests.Form(tam, $"/jobs/{number}/close");
        (await tam.PostAsync($"/jobs/{number}/close", new FormUrlEncodedContent(form), Stop)).StatusCode.ShouldBe(HttpStatusCode.Conflict);
        form["sure"] = "true";
        (await tam.PostAsync($"/jobs/{number}/close", new FormUrlEncodedContent(form), Stop)).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await Shown(tam, "/")).ShouldNotContain("Closing coupé");
        (await Shown(tam, "/?show=done")).ShouldContain("Closing coupé");

        // No form stands there that would be refused, and what is sent all the same is refused with the way out.
        foreach (var station in new[] { "plan", "results", "tests", "intake", "survey", "rules", "photos", "mix", "day" })
        {
            var shut = RecordTests.Html(await tam.GetStringAsync($"/jobs/{number}/{station}", Stop));
            shut.QuerySelectorAll("main form[method=post] button[type=submit]")
                .Where(b => b.Closest("fieldset[disabled]") is null)
                .Select(b => b.TextContent)
                .ShouldBeEmpty(station);
        }

        var job = (await store.JobAsync(number, Stop))!;
        await Should.ThrowAsync<ClosedJobException>(() => store.SaveSurveyAsync(job.Id, job.Revision, job.Survey, "test", Stop));
        var sent = await RunTests.SendAsync(
            tam,
            HttpMethod.Put,
            $"/api/v1/jobs/{number}/survey",
            System.Text.Json.Nodes.JsonNode.Parse(ToughStart.Core.Formats.SurveyFormat.Write(job.Survey))!,
            $"\"{job.Revision}\""
        );
        sent.StatusCode.ShouldBe(HttpStatusCode.Conflict);
        (await sent.Content.ReadAsStringAsync(Stop)).ShouldContain("is closed");
        using var owner = await shop.App.SignedInAsync("odile");
        var token = (await RecordTests.Form(owner, $"/jobs/{number}/close"))["__RequestVerificationToken"];
        async Task<HttpResponseMessage> Reopen(HttpClient who, string key, string reason) =>
            await who.PostAsync(
                $"/jobs/{number}/close?handler=Reopen",
                new FormUrlEncodedContent(new Dictionary<string, string> { ["reason"] = reason, ["__RequestVerificationToken"] = key }),
                Stop
            );
        var tams = RecordTests.Html(await tam.GetStringAsync("/", Stop)).QuerySelector("meta[name=csrf]")!.GetAttribute("content")!;
        (await Reopen(tam, tams, "because I can")).StatusCode.ShouldNotBe(HttpStatusCode.OK);
        (await store.JobAsync(number, Stop))!.Station.ShouldBe("closed");
        (await Reopen(owner, token, " ")).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await Reopen(owner, token, "The client came back with a streak.")).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await store.JobAsync(number, Stop))!.Station.ShouldBe("bay");
        (await owner.GetStringAsync($"/jobs/{number}/close", Stop)).ShouldContain("came back with a streak");
    }

    [Fact]
    public async Task A_reader_sees_no_form_that_would_be_refused()
    {
        using var rowan = await shop.App.SignedInAsync("rowan");
        string[] pages =
        [
            "/jobs/106/intake",
            "/jobs/106/survey",
            "/jobs/106/plan",
            "/jobs/106/day",
            "/jobs/106/mix",
            "/jobs/106/results",
            "/jobs/106/tests",
            "/jobs/106/photos",
            "/jobs/106/rules",
            "/jobs/106/compare",
            "/jobs/106/close",
            "/jobs/new",
            "/shelf",
            "/kit",
            "/bottles",
            "/bench",
            "/clients",
        ];
        foreach (var path in pages)
        {
            var page = RecordTests.Html(await rowan.GetStringAsync(path, Stop));
            page.QuerySelectorAll("main form[method=post] button[type=submit], main form[method=post] button:not([type])")
                .Where(b => b.Closest("fieldset[disabled]") is null)
                .Select(b => b.TextContent.Trim())
                .ShouldBeEmpty(path);
        }
    }

    [Fact]
    public async Task The_same_form_sent_six_times_at_once_takes_in_one_vehicle()
    {
        using var tam = await shop.App.SignedInAsync("tam");
        var form = await RecordTests.Form(tam, "/jobs/new");
        (form["Form.Client"], form["Form.Vehicle"], form["Form.Plate"]) = ("Perrin Sloe", "Six times van", "SIX 6");
        var answers = await Task.WhenAll(
            Enumerable.Range(0, 6).Select(_ => tam.PostAsync("/jobs/new", new FormUrlEncodedContent(form), Stop))
        );
        answers.ShouldAllBe(a => (int)a.StatusCode < 500);
        await using var db = shop.App.NewContext();
        (await db.Jobs.CountAsync(j => j.Vehicle!.Plate == "SIX 6", Stop)).ShouldBe(1);
    }

    /// <summary>What the yard remembers goes by the shelf as it is, even when the first vehicle brings a shelf of its own.</summary>
    [Fact]
    public async Task A_bottle_taken_off_the_shelf_is_seen_in_the_yard()
    {
        using var tam = await shop.App.SignedInAsync("tam");
        await using var db = shop.App.NewContext();
        var store = new JobStore(db, AppFixture.Clock);
        var survey = (await store.JobAsync(106, Stop))!.Survey;
        async Task TakeIn(string name, ToughStart.Core.Formats.Survey s, int days) =>
            await store.TakeInAsync(
                new Contact("Osric Fell", null, null, name, "SHF " + name),
                TickingClock.Today.AddDays(days),
                "For the shelf.",
                new IntakeWishes(),
                s,
                "test",
                Stop
            );
        await TakeIn(
            "Own shelf",
            survey with
            {
                Shelf = [new ToughStart.Core.Chemistry.ShelfBottle("neutral-shampoo", true, null, false)],
            },
            0
        );
        await TakeIn("Shop shelf", survey, 1);
        async Task<string> Looked()
        {
            string words;
            var looks = 0;
            do
            {
                words = await tam.GetStringAsync("/?find=Osric", Stop);
                await Task.Delay(200, Stop);
            } while (words.Contains("data-waits=\"true\"", StringComparison.Ordinal) && ++looks < 200);
            return words;
        }
        (await Looked()).ShouldContain("hands-on");
        await db.Products.Where(p => p.Agent == "iron-remover").ExecuteUpdateAsync(p => p.SetProperty(x => x.Retired, true), Stop);
        try
        {
            (await tam.GetStringAsync("/?find=Osric", Stop)).ShouldContain(
                "Plan is being worked out",
                customMessage: "the shelf has changed"
            );
        }
        finally
        {
            await db.Products.Where(p => p.Agent == "iron-remover").ExecuteUpdateAsync(p => p.SetProperty(x => x.Retired, false), Stop);
        }
    }

    [Fact]
    public async Task The_day_of_the_yard_and_the_day_that_is_computed_are_one()
    {
        await using var db = shop.App.NewContext();
        var store = new JobStore(db, AppFixture.Clock);
        var job = (await store.JobAsync(112, Stop))!;
        var moved = job.Survey with { Site = job.Survey.Site with { Start = "2026-12-03T10:30:00+00:00" } };
        (await store.SaveSurveyAsync(job.Id, job.Revision, moved, "test", Stop)).Saved.ShouldBeTrue();
        (await store.JobAsync(112, Stop))!.Day.ShouldBe(new DateOnly(2026, 12, 3));
        using var tam = await shop.App.SignedInAsync("tam");
        RecordTests
            .Html(await tam.GetStringAsync("/jobs/112/day", Stop))
            .QuerySelector("h1")!
            .TextContent.ShouldContain("Thursday 3 December 2026");

        // And the other way round: another day at intake keeps the hour.
        var form = await RecordTests.Form(tam, "/jobs/112/intake");
        form["Form.Day"] = "2026-12-08";
        (await tam.PostAsync("/jobs/112/intake", new FormUrlEncodedContent(form), Stop)).EnsureSuccessStatusCode();
        var after = (await store.JobAsync(112, Stop))!;
        after.Day.ShouldBe(new DateOnly(2026, 12, 8));
        after.Survey.Site.Start.ShouldBe("2026-12-08T10:30:00+00:00");
    }
}
