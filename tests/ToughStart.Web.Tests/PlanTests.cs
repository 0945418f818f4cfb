using System.Net;
using System.Text;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using OpenQA.Selenium;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Data;
using static ToughStart.Web.Tests.RecordTests;

namespace ToughStart.Web.Tests;

/// <summary>Comparing plans, sliding the front, changing a school, and what would flip.</summary>
[Collection("app")]
public sealed class PlanTests(AppFixture app)
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    [Fact]
    public void The_front_is_slid_and_set_against_the_plan()
    {
        using var b = new Browser();
        b.Go(app.Address, "/jobs/104/plan");
        b.Press(b.Driver.FindElement(By.LinkText("Against another")));
        b.WaitFor(d => d.FindElements(By.CssSelector(".compare-work tbody tr")).Count > 2, "differences");
        b.WaitFor(d => d.FindElements(By.CssSelector(".front-dot")).Count > 1, "the front");
        b.AxeViolations().ShouldBeEmpty();
        var dots = b.All(".front-dot").Count;
        b.One("input[aria-label='Gentlest to fastest']")
            .GetDomAttribute("max")
            .ShouldBe((dots - 1).ToString(System.Globalization.CultureInfo.InvariantCulture));
        string Slide(int i)
        {
            b.Driver.ExecuteScript(
                "const r = document.querySelector(\"[aria-label='Gentlest to fastest']\"); r.value = arguments[0]; r.dispatchEvent(new Event('input', { bubbles: true }));",
                i
            );
            b.WaitFor(
                d =>
                    d.FindElement(By.CssSelector(".front-on")).GetDomAttribute("data-i")
                    == i.ToString(System.Globalization.CultureInfo.InvariantCulture),
                "the dot"
            );
            return b.One(".front-says").Text;
        }

        var (gentle, fast) = (Slide(0), Slide(dots - 1));
        gentle.ShouldStartWith("Gentlest");
        fast.ShouldStartWith("Fastest");
        int Minutes(string says) =>
            int.Parse(
                System.Text.RegularExpressions.Regex.Match(says, @": (\d+) min").Groups[1].Value,
                System.Globalization.CultureInfo.InvariantCulture
            );
        Minutes(fast).ShouldBeLessThan(Minutes(gentle));
        b.Press(b.Driver.FindElement(By.LinkText("Set it against this plan")));
        b.WaitFor(
            d => d.FindElement(By.CssSelector(".compare-says")).Text.Contains("wear weighs", StringComparison.OrdinalIgnoreCase),
            "set against it"
        );
        // Another school by its list; one that is nothing is refused in words.
        b.Go(app.Address, "/jobs/104/compare?with=house:tarIron=iron-first");
        b.One(".compare-lines").Text.ShouldContain("iron, then tar");
        b.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void A_school_is_changed_its_difference_seen_taken_and_given_back()
    {
        using var b = new Browser();
        b.Go(app.Address, "/jobs/106/plan");
        b.Press(b.Driver.FindElement(By.LinkText("House rules")));
        b.One(".rule-list");
        b.AxeViolations().ShouldBeEmpty();
        b.Press(b.One("[name='rule.strongChemistry'][value='neutral-only']"));
        b.WaitFor(d => d.FindElements(By.CssSelector(".rule-preview .compare-lines li")).Count > 0, "what it flips");
        b.One(".rule-preview").Text.ShouldContain("→");
        try
        {
            b.Press(b.Driver.FindElement(By.XPath("//button[contains(., 'Take these rules')]")));
            b.WaitFor(d => d.Url.EndsWith("/plan", StringComparison.Ordinal), "the plan");
            b.Driver.PageSource.ShouldContain("house rule: neutral only");
        }
        finally
        {
            b.Go(app.Address, "/jobs/106/rules");
            b.Press(b.One("[name='rule.strongChemistry'][value='limited']"));
            b.WaitFor(d => d.FindElement(By.CssSelector(".rule-preview")).GetDomAttribute("aria-busy") is null, "preview");
            b.Press(b.Driver.FindElement(By.XPath("//button[contains(., 'Take these rules')]")));
            b.WaitFor(d => d.Url.EndsWith("/plan", StringComparison.Ordinal), "back");
        }

        b.Press(b.One("[data-tab='flips']"));
        b.WaitFor(d => d.FindElements(By.CssSelector(".flip-min")).Count > 0, "flips");
        b.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public async Task A_suggestion_is_refused_after_seeing_what_follows_and_taken_back()
    {
        using var b = new Browser();
        b.Go(app.Address, "/jobs/106/plan");
        try
        {
            var step = b.Driver.FindElement(
                By.XPath("//button[contains(@class,'step')][.//span[contains(., 'ron remover') or contains(., 'Iron')]]")
            );
            b.Press(step);
            b.WaitFor(d => d.FindElements(By.CssSelector("article.detail [data-refuse='stage']")).Any(e => e.Displayed), "the step opened");
            b.Press(b.All("article.detail [data-refuse='stage']").First(e => e.Displayed));
            b.WaitFor(d => d.Url.Contains("/compare?with=without", StringComparison.Ordinal), "what follows");
            b.One(".compare-says").Text.ShouldContain("Without the iron stage");
            b.One(".compare-lines").Text.ShouldContain("iron");
            b.AxeViolations().ShouldBeEmpty();
            b.Press(b.One(".refuse-it button"));
            b.WaitFor(d => d.Url.EndsWith("/plan", StringComparison.Ordinal), "the plan without it");
            b.Driver.FindElements(By.XPath("//button[contains(@class,'step')][.//span[contains(., 'ron remover') or contains(., 'Iron')]]"))
                .ShouldBeEmpty();
            b.Press(b.One("[data-tab='refused']"));
            b.One(".notes[data-tab='refused']").Text.ShouldContain("refused for this job");
            b.Press(b.Driver.FindElement(By.XPath("//button[contains(., 'Take it back')]")));
            b.WaitFor(
                d =>
                    d.FindElements(
                        By.XPath("//button[contains(@class,'step')][.//span[contains(., 'ron remover') or contains(., 'Iron')]]")
                    ).Count > 0,
                "it is suggested again"
            );
            b.ConsoleErrors().ShouldBeEmpty();
        }
        finally
        {
            await using var db = app.NewContext();
            var store = new JobStore(db, AppFixture.Clock);
            var now = (await store.JobAsync(106, Stop))!;
            if (now.Survey.Declines.Count > 0)
            {
                (await store.SaveSurveyAsync(now.Id, now.Revision, now.Survey with { Declines = [] }, "test", Stop)).Saved.ShouldBeTrue();
            }
        }

        (await app.Http.GetAsync("/jobs/106/compare?with=without:polish", Stop)).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
    }

    [Theory]
    [InlineData("smooth")]
    [InlineData("rough")]
    public async Task A_test_is_answered_and_its_branch_is_taken(string answer)
    {
        await using var db = app.NewContext();
        var store = new JobStore(db, AppFixture.Clock);
        var job = (await store.JobAsync(108, Stop))!;
        var before = job.Survey;
        try
        {
            var protect = before with
            {
                Goal = Goal.Protect,
                House = new Dictionary<string, string>(),
                Zones =
                [
                    .. before.Zones.Select(z =>
                        z with
                        {
                            Tests = [],
                            Findings = [.. z.Findings.Where(f => f.Contaminant != "bonded-mix")],
                        }
                    ),
                ],
            };
            (await store.SaveSurveyAsync(job.Id, job.Revision, protect, "test", Stop)).Saved.ShouldBeTrue();
            using var b = new Browser();
            b.Go(app.Address, "/jobs/108/tests?test=touch");
            var zone = b.One("input[name='Zones']:checked").GetDomAttribute("value")!;
            bool Clayed() => Planned().Steps.Any(s => s.Stage == Stage.Clay && s.Zones.Contains(zone));
            ToughStart.Core.Planning.Plan Planned() =>
                ToughStart.Core.Planning.Planner.Plan(
                    SurveyFormat.Read(app.Http.GetByteArrayAsync("/api/v1/jobs/108/survey", Stop).GetAwaiter().GetResult()).Value!
                );
            Clayed().ShouldBeFalse("nobody has looked: it is tested first");
            b.Press(b.Driver.FindElement(By.XPath($"//label[contains(@class,'answer')][.//span[text()='{answer}']]")));
            b.Press(b.Driver.FindElement(By.XPath("//button[contains(., 'Write it down')]")));
            b.WaitFor(d => d.PageSource.Contains("On record", StringComparison.Ordinal), "on record");
            Clayed().ShouldBe(answer == "rough", zone);
            b.Go(app.Address, "/jobs/108/plan");
            if (answer == "rough")
            {
                b.Driver.FindElements(By.XPath("//button[contains(@class,'step')][.//span[contains(., 'lay')]]"))
                    .ShouldNotBeEmpty("the branch is in the plan");
            }
            else
            {
                b.Driver.PageSource.ShouldContain("smooth: clay would only mark it");
            }

            b.ConsoleErrors().ShouldBeEmpty();
        }
        finally
        {
            db.ChangeTracker.Clear();
            var now = (await store.JobAsync(108, Stop))!;
            (await store.SaveSurveyAsync(now.Id, now.Revision, before, "test", Stop)).Saved.ShouldBeTrue();
        }
    }

    [Fact]
    public async Task Sets_of_rules_are_kept_taken_and_forgotten_and_leanings_saved()
    {
        using var tam = await app.SignedInAsync("tam");
        var page = Html(await tam.GetStringAsync("/jobs/107/rules", Stop));
        Task<HttpResponseMessage> Post(string path, params (string Name, string Value)[] fields) =>
            tam.PostAsync(
                path,
                new FormUrlEncodedContent([
                    .. fields.Select(f => KeyValuePair.Create(f.Name, f.Value)),
                    KeyValuePair.Create(
                        "__RequestVerificationToken",
                        page.QuerySelector("main input[name=__RequestVerificationToken]")!.GetAttribute("value")!
                    ),
                ]),
                Stop
            );
        var before = SurveyFormat.Read(await tam.GetByteArrayAsync("/api/v1/jobs/107/survey", Stop)).Value!;
        try
        {
            await Post("/jobs/107/rules", ("rule.clay", "always"), ("rule.foam", "nonsense"));
            var saved = SurveyFormat.Read(await tam.GetByteArrayAsync("/api/v1/jobs/107/survey", Stop)).Value!;
            (saved.House["clay"], saved.Rule("foam")).ShouldBe(("always", before.Rule("foam")));
            (await Post("/jobs/107/rules?handler=Keep", ("name", ""))).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
            await Post("/jobs/107/rules?handler=Keep", ("name", "Test school"));
            var kept = await app.NewContext().HousePresets.SingleAsync(p => p.Name == "Test school", Stop);
            await Post("/jobs/107/rules", ("rule.clay", "if-rough"));
            SurveyFormat.Read(await tam.GetByteArrayAsync("/api/v1/jobs/107/survey", Stop)).Value!.House.ShouldNotContainKey("clay");
            await Post("/jobs/107/rules?handler=Take", ("kept", kept.Id.ToString()));
            SurveyFormat.Read(await tam.GetByteArrayAsync("/api/v1/jobs/107/survey", Stop)).Value!.House["clay"].ShouldBe("always");
            await Post("/jobs/107/rules?handler=Forget", ("kept", kept.Id.ToString()));
            (await Post("/jobs/107/rules?handler=Take", ("kept", kept.Id.ToString()))).StatusCode.ShouldBe(HttpStatusCode.Conflict);
            (await Post("/jobs/107/compare", ("lean", "9000,1,1"))).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
            var leaned = Html(await (await Post("/jobs/107/compare", ("lean", "8,1,1"))).Content.ReadAsStringAsync(Stop));
            leaned.QuerySelector(".plan-ways")!.TextContent.ShouldContain("gentler");
        }
        finally
        {
            await using var db = app.NewContext();
            var store = new JobStore(db, AppFixture.Clock);
            var now = (await store.JobAsync(107, Stop))!;
            (await store.SaveSurveyAsync(now.Id, now.Revision, before, "test", Stop)).Saved.ShouldBeTrue();
        }

        (await tam.GetAsync("/jobs/107/compare?with=house:clay=never", Stop)).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        Html(await tam.GetStringAsync("/jobs/105/compare", Stop))
            .QuerySelector("[role=alert]")!
            .TextContent.ShouldContain("nothing to compare", Case.Insensitive);
        using var rowan = await app.SignedInAsync("rowan");
        Html(await rowan.GetStringAsync("/jobs/107/rules", Stop))
            .QuerySelectorAll(".rule-list input[type=radio]:not([disabled])")
            .Length.ShouldBe(0, "a reader looks on");
    }

    [Fact]
    public async Task New_jobs_start_with_the_shops_own_set_and_nothing_of_the_last_job()
    {
        using var tam = await app.SignedInAsync("tam");
        await using var db = app.NewContext();
        var (jobs, house) = (new JobStore(db, AppFixture.Clock), new HouseStore(db, AppFixture.Clock));
        await house.KeepAsync("Yard school", new Dictionary<string, string> { ["clay"] = "always", ["tyres"] = "satin" }, "test", Stop);
        var kept = await db.HousePresets.SingleAsync(p => p.Name == "Yard school", Stop);
        try
        {
            var rules = await RecordTests.Form(tam, "/jobs/107/rules");
            Task<HttpResponseMessage> Start(string set) =>
                tam.PostAsync(
                    "/jobs/107/rules?handler=NewJobs",
                    new FormUrlEncodedContent([new("kept", set), new("__RequestVerificationToken", rules["__RequestVerificationToken"])]),
                    Stop
                );
            (await Start(Guid.NewGuid().ToString())).StatusCode.ShouldBe(HttpStatusCode.Conflict);
            Html(await (await Start(kept.Id.ToString())).Content.ReadAsStringAsync(Stop))
                .QuerySelector("select[name=kept] option[selected]")!
                .TextContent.ShouldBe("Yard school");

            var form = await RecordTests.Form(tam, "/jobs/new");
            form["Form.TyreLook"].ShouldBe("satin", "the shop's look stands there already");
            (form["Form.Client"], form["Form.Vehicle"], form["Form.Plate"], form["Form.TyreLook"]) = (
                "Marit Sollow",
                "Reed 2 saloon",
                "SLK 7707",
                "gloss"
            );
            var made = await tam.PostAsync("/jobs/new", new FormUrlEncodedContent(form), Stop);
            made.StatusCode.ShouldBe(HttpStatusCode.OK);
            var job = (await jobs.LastVisitAsync("SLK7707", null, Stop))!;
            job.Survey.House.OrderBy(r => r.Key)
                .Select(r => $"{r.Key}={r.Value}")
                .ShouldBe(["clay=always", "tyres=gloss"], "the client was asked about the tyres");

            // What was decided for one visit is not carried to the next, nor is its weather.
            (
                await jobs.SaveSurveyAsync(
                    job.Id,
                    job.Revision,
                    job.Survey with
                    {
                        House = new Dictionary<string, string> { ["clay"] = "if-rough" },
                        Lean = new Leaning(8, 1, 1),
                        StockOnly = true,
                        Declines = [new Decline(null, Stage.Iron, [])],
                        Site = job.Survey.Site with { Start = "2026-06-12T07:00:00+01:00", AirC = 31 },
                    },
                    "test",
                    Stop
                )
            ).Saved.ShouldBeTrue();
            var again = await RecordTests.Form(tam, "/jobs/new?plate=SLK7707");
            again["Form.Day"] = "2026-12-02";
            (await tam.PostAsync("/jobs/new", new FormUrlEncodedContent(again), Stop)).StatusCode.ShouldBe(HttpStatusCode.OK);
            var next = (await new JobStore(app.NewContext(), AppFixture.Clock).LastVisitAsync("SLK7707", null, Stop))!;
            next.Number.ShouldBeGreaterThan(job.Number);
            next.Survey.ShouldSatisfyAllConditions(
                s => s.House.GetValueOrDefault("clay").ShouldBe("always"),
                s => s.Lean.ShouldBeNull(),
                s => s.StockOnly.ShouldBeFalse(),
                s => s.Declines.ShouldBeEmpty(),
                s => s.Site.Start.ShouldBeNull(),
                s => s.Site.AirC.ShouldBeNull()
            );

            await Start("");
            (await house.ForNewJobsAsync(Stop)).ShouldBeNull();
        }
        finally
        {
            await house.ForgetAsync(kept.Id, Stop);
        }
    }

    [Fact]
    public async Task A_set_of_rules_is_kept_in_the_browser_and_new_jobs_start_with_it()
    {
        using var b = new Browser();
        b.Go(app.Address, "/jobs/106/rules");
        try
        {
            b.Press(b.One(".bench-head .drop summary"));
            b.One(".film-box input[name='name']").SendKeys("Harbour set");
            b.Press(b.Driver.FindElement(By.XPath("//button[contains(., 'Keep them')]")));
            b.WaitFor(d => d.FindElement(By.CssSelector(".bench-head .drop summary b")).Text == "1", "kept");
            b.Press(b.One(".bench-head .drop summary"));
            b.Choose(
                b.One("select[name='kept']"),
                (await app.NewContext().HousePresets.SingleAsync(p => p.Name == "Harbour set", Stop)).Id.ToString()
            );
            b.AxeViolations().ShouldBeEmpty();
            b.Press(b.Driver.FindElement(By.XPath("//button[contains(., 'Start new jobs so')]")));
            b.WaitFor(
                d =>
                    d.FindElements(By.CssSelector("select[name='kept'] option[selected]"))
                        .Any(o => o.GetDomProperty("textContent") == "Harbour set"),
                "the answer, before going on"
            );
            b.Go(app.Address, "/jobs/new");
            b.One(".intake-head .page-sub").Text.ShouldContain("House rules: Harbour set");
            b.ConsoleErrors().ShouldBeEmpty();
        }
        finally
        {
            await app.NewContext().HousePresets.Where(p => p.Name == "Harbour set").ExecuteDeleteAsync(Stop);
        }

        using var tam = await app.SignedInAsync("tam");
        (await tam.GetStringAsync("/jobs/new", Stop)).ShouldNotContain("House rules:");
    }

    [Fact]
    public async Task A_job_is_kept_to_its_shelf_and_let_go()
    {
        using var tam = await app.SignedInAsync("tam");
        await using var db = app.NewContext();
        var store = new JobStore(db, AppFixture.Clock);
        var before = (await store.JobAsync(104, Stop))!.Survey;
        try
        {
            var page = await RecordTests.Form(tam, "/jobs/104/compare?with=stock:only");
            page["only"].ShouldBe("true");
            Task<HttpResponseMessage> Stock(string only) =>
                tam.PostAsync(
                    "/jobs/104/compare?handler=Stock",
                    new FormUrlEncodedContent([new("only", only), new("__RequestVerificationToken", page["__RequestVerificationToken"])]),
                    Stop
                );
            Html(await (await Stock("true")).Content.ReadAsStringAsync(Stop))
                .QuerySelector(".plan-ways")!
                .TextContent.ShouldContain("the shelf alone");
            SurveyFormat.Read(await tam.GetByteArrayAsync("/api/v1/jobs/104/survey", Stop)).Value!.StockOnly.ShouldBeTrue();
            (await tam.GetStringAsync("/jobs/104/plan?handler=Proof", Stop)).ShouldContain("proved best");
            var buy = Html(await tam.GetStringAsync("/jobs/104/plan?handler=Buy", Stop)).Body!.TextContent;
            buy.ShouldContain("kept to the shelf");
            buy.ShouldContain("Tar remover", Case.Insensitive, "the demo shelf is short of it");
            (await tam.GetAsync("/jobs/104/compare?with=stock:only", Stop)).StatusCode.ShouldBe(
                HttpStatusCode.UnprocessableEntity,
                "it is kept to it already"
            );
            (await RecordTests.Form(tam, "/jobs/104/compare?with=stock:any"))["only"].ShouldBe("false");
            Html(await (await Stock("false")).Content.ReadAsStringAsync(Stop))
                .QuerySelector(".plan-ways")!
                .TextContent.ShouldNotContain("shelf");
        }
        finally
        {
            db.ChangeTracker.Clear();
            var now = (await store.JobAsync(104, Stop))!;
            (await store.SaveSurveyAsync(now.Id, now.Revision, before, "test", Stop)).Saved.ShouldBeTrue();
        }
    }

    [Fact]
    public async Task Programs_compare_and_ask_for_flips()
    {
        var survey = Encoding.UTF8.GetString(
            await app.Http.GetByteArrayAsync("/api/v1/jobs/104/survey", Stop) is { Length: > 100 } body ? body : []
        );
        Task<HttpResponseMessage> Send(string path, string json) =>
            app.Http.PostAsync(path, new StringContent(json, Encoding.UTF8, "application/json"), Stop);
        var answer = JsonDocument
            .Parse(
                await (await Send("/api/v1/compare", $$"""{ "survey": {{survey}}, "lean": "faster" }""")).Content.ReadAsStringAsync(Stop)
            )
            .RootElement;
        answer.GetProperty("format").GetString().ShouldBe("toughstart.compare/1");
        var hands = answer.GetProperty("totals").EnumerateArray().First(t => t.GetProperty("what").GetString() == "hands-on");
        hands.GetProperty("b").GetDouble().ShouldBeLessThan(hands.GetProperty("a").GetDouble());
        (await Send("/api/v1/compare", "{")).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await Send("/api/v1/compare", """{ "survey": {} }""")).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        var flips = JsonDocument.Parse(await (await Send("/api/v1/flips", survey)).Content.ReadAsStringAsync(Stop)).RootElement;
        flips.GetArrayLength().ShouldBeGreaterThan(5);
    }
}
