using System.Diagnostics;
using System.Net;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using ToughStart.Core.Running;
using ToughStart.Core.Running.Live;
using ToughStart.Data;

namespace ToughStart.Web.Tests;

/// <summary>From the gate to the client: handed over, closed, reported, remembered.</summary>
[Collection("bay")]
public sealed class CloseTests(AppFixture app)
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    internal static async Task<(HttpStatusCode Status, string Said, Uri? At)> Post(
        HttpClient who,
        string page,
        string handler,
        params (string, string)[] fields
    )
    {
        var csrf = System.Text.RegularExpressions.Regex.Match(await who.GetStringAsync(page, Stop), "name=\"csrf\" content=\"([^\"]+)\"");
        using var request = new HttpRequestMessage(
            HttpMethod.Post,
            handler.Length == 0 ? page : $"{page}{(page.Contains('?') ? '&' : '?')}handler={handler}"
        )
        {
            Content = new FormUrlEncodedContent(fields.Select(f => KeyValuePair.Create(f.Item1, f.Item2))),
        };
        request.Headers.Add("X-CSRF-Token", csrf.Groups[1].Value);
        var answer = await who.SendAsync(request, Stop);
        var said = WebUtility.HtmlDecode(await answer.Content.ReadAsStringAsync(Stop));
        return (answer.StatusCode, System.Text.RegularExpressions.Regex.Replace(said, @"\s+", " "), answer.RequestMessage?.RequestUri);
    }

    [Fact]
    public async Task A_vehicle_is_handed_over_closed_and_reported_and_the_next_visit_knows()
    {
        var number = await GateTests.Job(app, "touring-saloon", "protect", "=Cmd Tester");
        using var tam = await app.SignedInAsync("tam");
        var hand = $"/jobs/{number}/handover";
        (await Post(tam, hand, "", ("act", "Wipe"), ("zones", "bonnet"))).Said.ShouldContain("no plan is in force");
        await GateTests.Work(tam, number);
        (await Post(tam, hand, "", ("act", "Fly"), ("zones", "bonnet"))).Said.ShouldContain("act: say what was done");
        (await Post(tam, hand, "", ("act", "Wipe"))).Said.ShouldContain("zones: tick one zone");
        (await Post(tam, hand, "", ("act", "Protect"), ("kind", "ceramic"), ("layers", "1"), ("zones", "bonnet"))).Said.ShouldContain(
            "wipe the panel first"
        );
        (await Post(tam, hand, "", ("act", "Protect"), ("kind", "wax"), ("layers", "9"), ("zones", "bonnet"))).Said.ShouldContain(
            "takes 1 to 2"
        );
        (await Post(tam, hand, "", ("act", "Compound"), ("zones", "bonnet"))).Status.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await Post(tam, hand, "", ("act", "Wipe"), ("zones", "bonnet"), ("zones", "roof"))).Status.ShouldBe(HttpStatusCode.OK);
        // Outdoors, and the weather speaks against it: nothing is put on without a word of what was done about that.
        (string, string)[] coated = [("act", "Protect"), ("kind", "ceramic"), ("layers", "1"), ("zones", "bonnet"), ("zones", "roof")];
        (await Post(tam, hand, "", coated)).Status.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await Post(tam, hand, "", coated)).Said.ShouldContain("say in 3 to 300 characters what was done about it");
        (await Post(tam, hand, "", [.. coated, ("despite", "under the awning")])).Said.ShouldContain("no water until");
        (await tam.GetStringAsync(hand, Stop)).ShouldContain("under the awning");
        (await Post(tam, hand, "", ("act", "Protect"), ("kind", "ceramic"), ("layers", "1"), ("zones", "roof"))).Said.ShouldContain(
            "next layer"
        );

        await Tried(tam, number);

        // Wheels were worked on: nobody hands it back without braking it.
        var close = $"/jobs/{number}/close";
        (await Post(tam, close, "", ("sure", "true"))).Said.ShouldContain("brake it");
        await using var db = app.NewContext();
        var kit = await db.Kit.SingleAsync(k => k.Name == "Wool mitt, pair", Stop);
        var done = await Post(
            tam,
            close,
            "",
            [("sure", "true"), ("brakes", "true"), ("keys", "true"), ($"kit-{kit.Id:N}", "laundry"), .. await Used(app, number)]
        );
        done.Status.ShouldBe(HttpStatusCode.OK, done.Said);
        done.Said.ShouldContain("closed");
        (await db.Kit.AsNoTracking().SingleAsync(k => k.Id == kit.Id, Stop)).Used.ShouldBe(kit.Used + 1);

        var job = await db.Jobs.SingleAsync(j => j.Number == number, Stop);
        var book = await db.Books.SingleAsync(b => b.JobId == job.Id, Stop);
        book.BrakedBy.ShouldNotBeNull();
        book.Unverified.ShouldBeGreaterThan(20, "nobody looked at the gate");
        // What was put on is due before the next decontamination.
        book.Due.ShouldBe(DateOnly.FromDateTime(AppFixture.Shop.Local.Date).AddDays((int)(6 * 30.44)));
        (await db.LoopLessons.CountAsync(l => l.JobId == job.Id, Stop)).ShouldBeGreaterThan(0);

        await Remembered(tam, number, job.VehicleId);
        await Replayed(db, job, book);
        await Reported(db, tam, number, job.Id);
    }

    /// <summary>A mark nobody is sure of: what was tried is written down, and two tries without effect end it.</summary>
    private async Task Tried(HttpClient tam, int number)
    {
        var mark = $"/identify?job={number}&colour=black";
        async Task<(HttpStatusCode Status, string Said, Uri? At)> Try(HttpClient who, string zone, string agent, string outcome) =>
            await Post(who, mark, "Tried", ("zone", zone), ("agent", agent), ("outcome", outcome), ("words", "=1+1"));
        (await Try(tam, "left-wing-of-a-bird", "water", "nothing")).Said.ShouldContain("choose a zone of this vehicle");
        (await Try(tam, "roof", "dynamite", "nothing")).Said.ShouldContain("What was tried: choose one");
        (await Try(tam, "roof", "water", "maybe")).Said.ShouldContain("did not budge, fainter, gone");
        using (var reader = await app.SignedInAsync("rowan"))
        {
            (await Try(reader, "roof", "water", "nothing")).Status.ShouldBe(HttpStatusCode.Forbidden);
        }

        (await Try(tam, "roof", "water", "nothing")).Said.ShouldNotContain("Nothing stronger here");
        (await Try(tam, "roof", "tar-remover", "nothing")).Said.ShouldContain("Nothing stronger here");
        (await Try(tam, "bonnet", "water", "gone")).Said.ShouldContain("nothing more to try");
        var slip = await Try(tam, "boot-lid", "water", "nothing");
        var id = System.Text.RegularExpressions.Regex.Matches(slip.Said, "name=\"id\" value=\"([0-9a-f-]{36})\"")[^1].Groups[1].Value;
        (await Post(tam, mark, "Mistake", ("id", id))).Said.ShouldNotContain("Boot lid</h3>");
        (await Post(tam, mark, "Mistake", ("id", Guid.NewGuid().ToString()))).Status.ShouldBe(HttpStatusCode.Conflict);
        (await Read(tam, $"/jobs/{number}/gate?zone=roof")).ShouldContain("Tried on a mark here: tar remover, did not budge");
    }

    /// <summary>The logbook knows what did not budge; what went, and what was a slip, is no unknown mark.</summary>
    private static async Task Remembered(HttpClient tam, int number, Guid vehicle)
    {
        (await Read(tam, "/logbook?only=unknown")).ShouldContain($"/jobs/{number}/close");
        (await Read(tam, "/logbook?find=unknown%20mark")).ShouldContain($"/jobs/{number}/close");
        var years = await Read(tam, $"/logbook/{vehicle}");
        years.ShouldContain("Unknown mark on roof: water did not budge (=1+1); tar remover did not budge");
        years.ShouldNotContain("Unknown mark on boot lid");
        (await Read(tam, $"/jobs/{number}/report")).ShouldContain("A mark on roof: what it is nobody could tell");
        (await Post(tam, $"/identify?job={number}", "Tried", ("zone", "roof"), ("agent", "water"), ("outcome", "gone"))).Status.ShouldBe(
            HttpStatusCode.Conflict,
            "the job is closed"
        );
    }

    /// <summary>A page as one reads it: how its lines are broken says nothing.</summary>
    private static async Task<string> Read(HttpClient who, string page) =>
        System.Text.RegularExpressions.Regex.Replace(WebUtility.HtmlDecode(await who.GetStringAsync(page, Stop)), @"\s+", " ");

    /// <summary>Everything that was put by is used as put by.</summary>
    internal static async Task<(string, string)[]> Used(AppFixture app, int number)
    {
        await using var db = app.NewContext();
        return
        [
            .. (await db.Reservations.Where(r => db.Jobs.Any(j => j.Id == r.JobId && j.Number == number)).ToListAsync(Stop)).Select(r =>
                ($"used-{r.ProductId:N}", "0")
            ),
        ];
    }

    /// <summary>Another instance, which has nothing in memory, reckons the same bytes from the log.</summary>
    private static async Task Replayed(ToughStartContext db, Job job, JobBook book)
    {
        var store = new RunStore(db, new ShelfStore(db, AppFixture.Clock), AppFixture.Clock);
        var plan = (await store.PlanAsync(job.Id, 1, Stop))!;
        var ground = new RunGround(plan.Survey);
        var log = await store.LogAsync(job.Id, stop: Stop);
        var live = log.Aggregate(LiveState.Start, Live.Reduce);
        var state = Run.Fold(RunState.Start, LiveHearsay.Of(live).Select(t => new RunEntry(ground, plan.Plan, t.Observation)));
        var again = Reckoning.Of(plan.Plan, ground, state, live, log, _ => plan.Plan).Write();
        book.Body.ShouldStartWith("{\"reckoned\":" + System.Text.Encoding.UTF8.GetString(again));
    }

    private async Task Reported(ToughStartContext db, HttpClient tam, int number, Guid job)
    {
        var report = $"/jobs/{number}/report";
        (await Post(tam, report, "Share", ("days", "0"))).Said.ShouldContain("days: a link lasts");
        var made = await Post(tam, report, "Share", ("days", "30"), ("photos", "true"), ("damage", "true"));
        var link = System.Text.RegularExpressions.Regex.Match(made.Said, "/r/([A-Za-z0-9_-]{43})");
        link.Success.ShouldBeTrue("the link is shown once");
        var token = link.Groups[1].Value;
        (await tam.GetStringAsync(report, Stop)).ShouldNotContain(token, customMessage: "and never again");
        (await db.Shares.AsNoTracking().SingleAsync(s => s.JobId == job, Stop)).Hash.Length.ShouldBe(32);

        using var stranger = new HttpClient { BaseAddress = app.Address };
        var seen = await stranger.GetAsync($"/r/{token}", Stop);
        var page = WebUtility.HtmlDecode(await seen.Content.ReadAsStringAsync(Stop));
        seen.StatusCode.ShouldBe(HttpStatusCode.OK);
        seen.Headers.GetValues("X-Robots-Tag").Single().ShouldContain("noindex");
        seen.Headers.CacheControl!.NoStore.ShouldBeTrue();
        page.ShouldContain("Gate vehicle");
        page.ShouldContain("Two-layer light ceramic");
        page.ShouldContain("Not checked to the end");
        page.ShouldNotContain("Cmd Tester", customMessage: "no name that was not chosen");
        page.ShouldNotContain(
            (await db.Vehicles.AsNoTracking().SingleAsync(v => v.Id == db.Jobs.First(j => j.Id == job).VehicleId, Stop)).Plate
        );
        page.ShouldNotContain("/jobs/");
        (await stranger.GetStringAsync("/robots.txt", Stop)).ShouldContain("Disallow: /");

        foreach (
            var wrong in new[]
            {
                token[..^1] + (token[^1] == 'A' ? 'B' : 'A'),
                "x",
                new string('A', 43),
                Uri.EscapeDataString("' OR 1=1 --"),
                job.ToString(),
            }
        )
        {
            (await stranger.GetAsync($"/r/{wrong}", Stop)).StatusCode.ShouldBe(HttpStatusCode.NotFound, wrong);
        }

        (await stranger.GetAsync($"/jobs/{number}/report", Stop)).RequestMessage!.RequestUri!.AbsolutePath.ShouldBe("/sign-in");
        (await db.Shares.AsNoTracking().SingleAsync(s => s.JobId == job, Stop)).Views.ShouldBe(1);

        // Run out, and taken back: it looks as if it never was.
        await db
            .Shares.Where(s => s.JobId == job)
            .ExecuteUpdateAsync(s => s.SetProperty(x => x.Until, AppFixture.Clock.GetUtcNow().AddMinutes(-1)), Stop);
        (await stranger.GetAsync($"/r/{token}", Stop)).StatusCode.ShouldBe(HttpStatusCode.NotFound);
        await db
            .Shares.Where(s => s.JobId == job)
            .ExecuteUpdateAsync(s => s.SetProperty(x => x.Until, AppFixture.Clock.GetUtcNow().AddDays(9)), Stop);
        (await stranger.GetAsync($"/r/{token}", Stop)).StatusCode.ShouldBe(HttpStatusCode.OK);
        var share = await db.Shares.AsNoTracking().SingleAsync(s => s.JobId == job, Stop);
        await Post(tam, report, "Revoke", ("share", share.Id.ToString()));
        (await stranger.GetAsync($"/r/{token}", Stop)).StatusCode.ShouldBe(HttpStatusCode.NotFound);

        // A letter is kept with a link of its own and the calendar.
        (await Post(tam, report, "Letter", ("to", "nobody"), ("words", "Ready."))).Said.ShouldContain("to: is no mail address");
        (await Post(tam, report, "Letter", ("to", "owner@example.org"), ("words", "Ready."))).Said.ShouldContain("owner@example.org");
        (await db.Letters.AsNoTracking().SingleAsync(l => l.JobId == job, Stop)).Words.ShouldContain("/r/");

        var csv = await tam.GetStringAsync($"{report}?handler=Invoice", Stop);
        csv.ShouldContain("'=Cmd Tester", customMessage: "no cell is a formula");
        csv.ShouldNotContain(",=Cmd");
        ReadBack(await tam.GetStringAsync($"{report}?handler=Calendar", Stop))
            .ShouldContain("Gate vehicle: renew the two-layer light ceramic");
    }

    /// <summary>By icalendar 4.0 (Debian python3-icalendar), which shares nothing with what wrote it.</summary>
    private static string ReadBack(string calendar)
    {
        using var python = Process.Start(
            new ProcessStartInfo(
                "/usr/bin/python3",
                [
                    "-c",
                    "import sys, icalendar\nfor e in icalendar.Calendar.from_ical(sys.stdin.read()).walk('vevent'):\n print(e['summary'], e.decoded('dtstart').isoformat(), e['uid'])",
                ]
            )
            {
                RedirectStandardInput = true,
                RedirectStandardOutput = true,
                RedirectStandardError = true,
            }
        )!;
        python.StandardInput.Write(calendar);
        python.StandardInput.Close();
        var said = python.StandardOutput.ReadToEnd();
        python.StandardError.ReadToEnd().ShouldBeEmpty();
        said.ShouldContain(DateOnly.FromDateTime(AppFixture.Shop.Local.Date).AddDays((int)(6 * 30.44)).ToString("yyyy-MM-dd"));
        return said;
    }

    [Fact]
    public async Task In_the_browser_it_is_wiped_sealed_closed_and_a_stranger_sees_the_report()
    {
        var number = await GateTests.Job(app, "touring-saloon", "protect", "Browser Tester");
        using var tam = await app.SignedInAsync("tam");
        await GateTests.Work(tam, number);
        using var b = new Browser();
        b.Go(app.Address, $"/jobs/{number}/handover");
        const string First = "(//article[contains(@class,'hand-group')])[1]";
        Send(b, $"{First}//button[contains(., 'Panel wipe')]");
        b.One(".hand-despite input").SendKeys("a tent over it");
        Send(b, $"{First}//button[contains(., 'Put on')]");
        b.Texts(".hand-group")[0].ShouldContain("put on 24 Nov 2026");
        b.All("[data-until]").Count.ShouldBe(1, "a film waits for a hand");

        b.Go(app.Address, $"/jobs/{number}/close");
        b.Press(b.One("input[name=brakes]"));
        b.Press(b.One("input[name=keys]"));
        b.Press(b.One("input[name=sure]"));
        Send(b, "//button[contains(., 'Close the job')]");
        b.Texts("h1")[0].ShouldContain("closed");
        b.Press(b.One(".close-out .primary-link"));
        b.WaitReady();
        Send(b, "//button[contains(., 'Make a link')]");
        var link = b.One(".report-link").GetDomProperty("value")!;
        b.ConsoleErrors().ShouldBeEmpty();

        using var stranger = new Browser(390, 844);
        stranger.Driver.Navigate().GoToUrl(link);
        stranger.WaitReady();
        stranger.Texts("h1")[0].ShouldContain("Gate vehicle");
        stranger.All("header.top").ShouldBeEmpty("nothing of the shop's own is there");
        string Clip() => stranger.One(".report-after").GetCssValue("clip-path");
        var half = Clip();
        stranger.Driver.ExecuteScript(
            "const r = document.querySelector('[data-slider] input'); r.value = 90; r.dispatchEvent(new Event('input', { bubbles: true }));"
        );
        Clip().ShouldNotBe(half);
        Convert
            .ToInt32(
                stranger.Driver.ExecuteScript("return document.documentElement.scrollWidth"),
                System.Globalization.CultureInfo.InvariantCulture
            )
            .ShouldBeLessThanOrEqualTo(390);
        stranger.ConsoleErrors().ShouldBeEmpty();
    }

    private static void Send(Browser b, string button)
    {
        b.Driver.ExecuteScript("document.documentElement.dataset.before = 'yes'");
        b.Press(b.Driver.FindElement(OpenQA.Selenium.By.XPath(button)));
        b.WaitFor(_ => b.All("html[data-before]").Count == 0, "the answer");
        b.WaitReady();
    }

    [Fact]
    public async Task Readers_look_and_write_nothing()
    {
        var number = await GateTests.Job(app, "touring-saloon", "protect", "Reader's Client");
        using var rowan = await app.SignedInAsync("rowan");
        (await rowan.GetAsync($"/jobs/{number}/handover", Stop)).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await rowan.GetAsync($"/jobs/{number}/report", Stop)).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await Post(rowan, $"/jobs/{number}/report", "Share", ("days", "9"))).Status.ShouldBe(HttpStatusCode.Forbidden);
        (await Post(rowan, $"/jobs/{number}/handover", "", ("act", "Wipe"), ("zones", "bonnet"))).Status.ShouldBe(HttpStatusCode.Forbidden);
    }
}
