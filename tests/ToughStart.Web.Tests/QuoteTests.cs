using System.Net;
using System.Text.RegularExpressions;
using Microsoft.EntityFrameworkCore;
using OpenQA.Selenium;

namespace ToughStart.Web.Tests;

/// <summary>A quote from the bench to the client and back into the job.</summary>
[Collection("bay")]
public sealed partial class QuoteTests(AppFixture app)
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    [GeneratedRegex("/q/([A-Za-z0-9_-]{43})")]
    private static partial Regex Link();

    [Fact]
    public async Task A_quote_is_kept_sent_turned_taken_and_planned()
    {
        var number = await GateTests.Job(app, "touring-saloon", "protect", "Quoted Client");
        using var bench = new Browser();
        bench.Go(app.Address, $"/jobs/{number}/quote", "odile");
        bench.WaitFor(_ => bench.All(".quote-lens").Count >= 4, "options worked out one by one");
        bench.Texts(".quote-risk")[0].ShouldContain("Only owners see this");
        var price = Digits((string)bench.Driver.ExecuteScript("return document.querySelector('.quote-price').textContent")!);
        bench.One("textarea[name=said]").SendKeys("Spare the paint, it is soft.");
        bench.One("form[action*=Keep] button").Click();
        bench.WaitFor(d => d.Url.EndsWith("#sheet", StringComparison.Ordinal), "kept");
        bench.One("form[action*=Share] button").Click();
        bench.WaitFor(_ => bench.All("input.report-link").Count == 1, "link");
        var token = Link().Match(bench.One("input.report-link").GetAttribute("value")!).Groups[1].Value;

        using (var phone = new Browser(390, 844))
        {
            phone.Driver.Navigate().GoToUrl(new Uri(app.Address, $"/q/{token}"));
            phone.WaitReady();
            var page = phone.Texts("main")[0];
            page.ShouldContain("Spare the paint");
            page.ShouldNotContain("Only owners");
            page.ShouldNotContain("worth more");
            Digits(phone.Texts(".quote-big")[0]).ShouldBe(price);
            phone.Driver.ExecuteScript("arguments[0].click()", phone.One("input[value=clay]"));
            phone.WaitFor(d => d.Url.Contains("turn=clay", StringComparison.Ordinal), "price without clay");
            phone.WaitReady();
            var less = Digits(phone.Texts(".quote-big")[0]);
            less.ShouldBeLessThan(price);
            phone.One("input[name=name]").SendKeys("Quoted Client");
            phone.Driver.ExecuteScript("arguments[0].click()", phone.One(".quote-accept button"));
            phone.WaitFor(_ => phone.All(".quote-taken").Count == 1, "taken");
            phone.Texts(".quote-taken")[0].ShouldContain("Quoted Client");
            // Nothing can be turned any more, and a second taking finds nothing to take.
            phone.All(".quote-choice input").Count.ShouldBe(0);
            phone.ConsoleErrors().ShouldBeEmpty();
        }

        bench.Go(app.Address, $"/jobs/{number}/quote", "odile");
        bench.Texts(".quote-tools .tab")[0].ShouldContain("taken by Quoted Client");
        bench.One("form[action*=TakeOver] button").Click();
        bench.WaitFor(d => d.Url.EndsWith("/plan", StringComparison.Ordinal), "planned as taken");
        using var tam = await app.SignedInAsync("tam");
        (await tam.GetStringAsync($"/api/v1/jobs/{number}/survey", Stop)).ShouldContain("\"clay\"");
        var again = await tam.GetStringAsync($"/jobs/{number}/quote", Stop);
        again.ShouldNotContain("Plan it as it was taken");
        again.ShouldNotContain("Only owners see this", Case.Insensitive, "what the shop risks is the owner's to know");

        // Erased with the client is every place where their name stands; what was agreed stays.
        async Task Erase()
        {
            await using var db = app.NewContext();
            var client = await db.Jobs.Where(j => j.Number == number).Select(j => j.Vehicle!.ClientId).SingleAsync(Stop);
            await new Data.RecordStore(db, AppFixture.Clock).EraseClientAsync(client, Stop);
        }

        // Closed, the job is set against what was taken.
        await GateTests.Work(tam, number);
        Regex
            .Replace(WebUtility.HtmlDecode(await tam.GetStringAsync($"/jobs/{number}/close", Stop)), "\\s+", " ")
            .ShouldContain("price as it was taken");
        bench.ConsoleErrors().ShouldBeEmpty();
        await Erase();
        var kept = await Newest(number);
        (kept.TakenBy + kept.Taken + kept.Said).ShouldNotContain("Quoted Client");
        kept.TakenPrice.ShouldNotBeNull();
    }

    private static int Digits(string text) =>
        int.Parse(Regex.Match(text, "[0-9]+").Value, System.Globalization.CultureInfo.InvariantCulture);

    [Fact]
    public async Task What_cannot_be_taken_says_why_and_nothing_is_taken_twice()
    {
        var number = await GateTests.Job(app, "moorland-van", "wash", "Late Client");
        using var odile = await app.SignedInAsync("odile");
        var page = $"/jobs/{number}/quote";
        (await CloseTests.Post(odile, page, "Keep", ("days", "0"), ("terms", "T"))).Said.ShouldContain(
            "days: a quote stands 1 to 365 days"
        );
        (await CloseTests.Post(odile, page, "Keep", ("days", "3"), ("terms", " "))).Said.ShouldContain("terms: is 1 to 2000 characters");
        (await CloseTests.Post(odile, page, "Keep", ("days", "3"), ("terms", "T"), ("said", new string('x', 1001)))).Status.ShouldBe(
            HttpStatusCode.UnprocessableEntity
        );
        (await CloseTests.Post(odile, page, "Keep", ("days", "3"), ("terms", "T"))).Status.ShouldBe(HttpStatusCode.OK);
        var quote = await Newest(number);
        var made = await CloseTests.Post(odile, page, "Share", ("quote", quote.Id.ToString()));
        var token = Link().Match(made.Said).Groups[1].Value;
        using var stranger = new HttpClient { BaseAddress = app.Address };
        var shown = await stranger.GetStringAsync($"/q/{token}", Stop);
        var seen = Regex.Match(shown, "name=\"seen\" value=\"([^\"]+)\"").Groups[1].Value;
        (await Take(stranger, token, "X", seen)).ShouldContain("Your name is 2 to 80 characters");
        (await Take(stranger, token, "Late Client", "1/2")).ShouldContain("another price");
        // A link of a quote opens no report, and the other way round.
        (await stranger.GetAsync($"/r/{token}", Stop)).StatusCode.ShouldBe(HttpStatusCode.NotFound);
        (await stranger.GetAsync($"/q/{token[..42]}_", Stop)).StatusCode.ShouldBe(HttpStatusCode.NotFound);

        var two = await Task.WhenAll(Take(stranger, token, "First Hand", seen), Take(stranger, token, "Second Hand", seen));
        two.Count(t => t.Contains("taken or taken back", StringComparison.Ordinal) || t.Contains("taken by", StringComparison.Ordinal))
            .ShouldBeGreaterThanOrEqualTo(1);
        (await Newest(number)).TakenBy.ShouldBeOneOf("First Hand", "Second Hand");

        // A new version; the old one stays taken. The new one is taken back: its link says so.
        await CloseTests.Post(odile, page, "Keep", ("days", "3"), ("terms", "T"));
        var second = await Newest(number);
        second.Version.ShouldBe(2);
        var link = Link().Match((await CloseTests.Post(odile, page, "Share", ("quote", second.Id.ToString()))).Said).Groups[1].Value;
        await CloseTests.Post(odile, page, "Withdraw", ("quote", second.Id.ToString()));
        (await stranger.GetStringAsync($"/q/{link}", Stop)).ShouldContain("no longer stands");
        (await Take(stranger, link, "Too Late", seen)).ShouldContain("no longer stands");
        // And one that ran out.
        await CloseTests.Post(odile, page, "Keep", ("days", "3"), ("terms", "T"));
        var third = await Newest(number);
        var old = Link().Match((await CloseTests.Post(odile, page, "Share", ("quote", third.Id.ToString()))).Said).Groups[1].Value;
        await using (var db = app.NewContext())
        {
            await db.Database.ExecuteSqlAsync($"UPDATE job_quotes SET until = '2020-01-01' WHERE id = {third.Id}", Stop);
        }

        (await stranger.GetStringAsync($"/q/{old}", Stop)).ShouldContain("has run out");
        (await Take(stranger, old, "Too Late", seen)).ShouldContain("has run out");
    }

    private async Task<Data.JobQuote> Newest(int number)
    {
        await using var db = app.NewContext();
        return await db
            .Quotes.AsNoTracking()
            .Where(q => db.Jobs.Any(j => j.Id == q.JobId && j.Number == number))
            .OrderByDescending(q => q.Version)
            .FirstAsync(Stop);
    }

    private static async Task<string> Take(HttpClient who, string token, string name, string seen)
    {
        var form = await who.GetStringAsync($"/q/{token}", Stop);
        var csrf = Regex.Match(form, "__RequestVerificationToken\" type=\"hidden\" value=\"([^\"]+)\"").Groups[1].Value;
        if (csrf.Length == 0)
        {
            return WebUtility.HtmlDecode(form);
        }

        var answer = await who.PostAsync(
            $"/q/{token}",
            new FormUrlEncodedContent(
                new Dictionary<string, string>
                {
                    ["name"] = name,
                    ["seen"] = seen,
                    ["__RequestVerificationToken"] = csrf,
                }
            ),
            Stop
        );
        ((int)answer.StatusCode).ShouldBeLessThan(500);
        return WebUtility.HtmlDecode(await answer.Content.ReadAsStringAsync(Stop));
    }

    [Fact]
    public async Task A_price_that_is_wanted_says_what_goes_for_it()
    {
        var number = await GateTests.Job(app, "touring-saloon", "protect", "Thrifty Client");
        using var tam = await app.SignedInAsync("tam");
        var page = WebUtility.HtmlDecode(await tam.GetStringAsync($"/jobs/{number}/quote?budget=150", Stop));
        page.ShouldContain("quote-within");
        page.ShouldContain(", without:");
        WebUtility
            .HtmlDecode(await tam.GetStringAsync($"/jobs/{number}/quote?budget=20", Stop))
            .ShouldContain("Even with everything left out that may be, it costs more than that.");
        (await tam.GetAsync($"/jobs/{number}/quote?budget=-4", Stop)).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        using var reader = await app.SignedInAsync("rowan");
        (await reader.GetStringAsync($"/jobs/{number}/quote", Stop)).ShouldContain("quote-curve");
    }

    [Fact]
    public async Task Rates_are_the_owners_to_set()
    {
        using var odile = await app.SignedInAsync("odile");
        (string, string)[] Said(string hour, string markup) =>
            [
                ("hour", hour),
                ("ownHour", "24"),
                ("markup", markup),
                ("water", "0.004"),
                ("contained", "0.15"),
                ("fixed", "8"),
                ("tax", "0"),
                ("roundTo", "5"),
                ("days", "30"),
                ("terms", "Ours."),
            ];
        (await CloseTests.Post(odile, "/shop", "Rates", Said("forty", "1.4"))).Said.ShouldContain("hour: is a number");
        (await CloseTests.Post(odile, "/shop", "Rates", Said("40", "0.2"))).Said.ShouldContain("markup: 0.2 is not allowed; 1 to 20 times");
        using var tam = await app.SignedInAsync("tam");
        (await CloseTests.Post(tam, "/shop", "Rates", Said("1", "1"))).Status.ShouldNotBe(HttpStatusCode.OK);
        var number = await GateTests.Job(app, "trail-motorcycle", "wash", "Rated Client");
        int Price(string page) => Digits(Regex.Match(WebUtility.HtmlDecode(page), "quote-price[^>]*>([^<]+)<").Groups[1].Value);
        var before = Price(await tam.GetStringAsync($"/jobs/{number}/quote", Stop));
        (await RunTests.TakeAsync(tam, number)).EnsureSuccessStatusCode();
        (await CloseTests.Post(odile, "/shop", "Rates", Said("80", "1.4"))).Status.ShouldBe(HttpStatusCode.OK);
        // A plan in force is priced at the rates of the day, though it was read from its record.
        RecordTests
            .Html(await tam.GetStringAsync($"/jobs/{number}/plan", Stop))
            .QuerySelectorAll("th, dt, .range-name, span")
            .Any(e => e.TextContent.Trim() == "price")
            .ShouldBeTrue();
        Price(await tam.GetStringAsync($"/jobs/{number}/quote", Stop)).ShouldBeGreaterThan(before);
        await CloseTests.Post(odile, "/shop", "Rates", Said("40", "1.4"));
    }

    [Fact]
    public async Task The_api_prices_a_survey_and_names_what_is_wrong()
    {
        using var http = await app.SignedInAsync("tam");
        var survey = await File.ReadAllTextAsync(
            Path.Combine(Environment.GetEnvironmentVariable("TOUGHSTART_DEMO")!, "barn-coupe.json"),
            Stop
        );
        async Task<(HttpStatusCode, string)> Ask(string path, string body)
        {
            var answer = await http.PostAsync(path, new StringContent(body, System.Text.Encoding.UTF8, "application/json"), Stop);
            return (answer.StatusCode, await answer.Content.ReadAsStringAsync(Stop));
        }

        var (ok, quote) = await Ask("/api/v1/quote", $$"""{ "survey": {{survey}}, "rates": { "hour": 50 } }""");
        ok.ShouldBe(HttpStatusCode.OK);
        quote.ShouldContain("toughstart.quote/1");
        (await Ask("/api/v1/price-range", $$"""{ "survey": {{survey}} }""")).Item2.ShouldContain("labourMinutesIfNothingHiddenShows");
        var (status, said) = await Ask("/api/v1/quote", $$"""{ "survey": {{survey}}, "rates": { "hour": -1 }, "turned": ["gold"] }""");
        status.ShouldBe(HttpStatusCode.UnprocessableEntity);
        said.ShouldContain("hour: -1 is not allowed");
        said.ShouldContain("'gold' is no option");
        (await Ask("/api/v1/quote", "{ }")).Item2.ShouldContain("survey");
        (await Ask("/api/v1/price-range", "{")).Item1.ShouldBe(HttpStatusCode.BadRequest);
    }
}
