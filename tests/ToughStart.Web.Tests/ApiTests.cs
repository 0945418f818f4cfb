using System.Net;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json.Nodes;
using AngleSharp.Html.Parser;

namespace ToughStart.Web.Tests;

[Collection("app")]
public sealed class ApiTests(AppFixture app)
{
    private static readonly string Demo = Environment.GetEnvironmentVariable("TOUGHSTART_DEMO")!;

    [Fact]
    public async Task The_same_survey_gives_the_same_plan_over_http()
    {
        var survey = await File.ReadAllTextAsync(Path.Combine(Demo, "estuary-pickup.json"), TestContext.Current.CancellationToken);
        var one = await Post("/api/v1/plan", survey);
        one.StatusCode.ShouldBe(HttpStatusCode.OK);
        var body = await one.Content.ReadAsStringAsync(TestContext.Current.CancellationToken);
        (await (await Post("/api/v1/plan", survey)).Content.ReadAsStringAsync(TestContext.Current.CancellationToken)).ShouldBe(body);
        JsonNode.Parse(body)!["format"]!.GetValue<string>().ShouldBe("toughstart.plan/2");
    }

    [Theory]
    [InlineData("{ not json", 400, "(document)")]
    [InlineData("", 400, "(document)")]
    [InlineData("""{ "format": "toughstart.survey/2" }""", 400, "format")]
    [InlineData("""{ "format": "toughstart.survey/1", "vehicle": { "form": "saloon" }, "goal": "wash", "dirt": 1 }""", 422, "dirt")]
    [InlineData(
        """{ "format": "toughstart.survey/1", "vehicle": { "form": "saloon", "heightMm": -1 }, "goal": "wash" }""",
        422,
        "vehicle.heightMm"
    )]
    [InlineData(
        """{ "format": "toughstart.survey/1", "vehicle": { "form": "saloon" }, "goal": "wash", "zones": [ { "zone": "bonnet", "findings": [ { "contaminant": "mud", "grade": 7 } ] } ] }""",
        422,
        "zones[0].findings[0].grade"
    )]
    public async Task Bad_surveys_get_a_problem_that_names_the_field(string body, int status, string field)
    {
        var answer = await Post("/api/v1/plan", body);
        ((int)answer.StatusCode).ShouldBe(status);
        answer.Content.Headers.ContentType!.MediaType.ShouldBe("application/problem+json");
        var problem = JsonNode.Parse(await answer.Content.ReadAsStringAsync(TestContext.Current.CancellationToken))!;
        problem["problems"]!.AsArray().Select(p => p!["field"]!.GetValue<string>()).ShouldContain(field);
        problem.ToJsonString().ShouldNotContain(" at ToughStart", Case.Sensitive);
    }

    [Fact]
    public async Task Too_much_is_413_and_too_many_findings_422()
    {
        (await Post("/api/v1/plan", "{ \"x-pad\": \"" + new string('a', 3 * 1024 * 1024) + "\" }")).StatusCode.ShouldBe(
            HttpStatusCode.RequestEntityTooLarge
        );
        var finding = """{ "contaminant": "mud", "grade": 1 }""";
        var zones = string.Join(
            ',',
            Enumerable.Repeat($$"""{ "zone": "bonnet", "findings": [ {{string.Join(',', Enumerable.Repeat(finding, 100))}} ] }""", 21)
        );
        (
            await Post(
                "/api/v1/plan",
                $$"""{ "format": "toughstart.survey/1", "vehicle": { "form": "saloon" }, "goal": "wash", "zones": [ {{zones}} ] }"""
            )
        ).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
    }

    [Theory]
    [InlineData("{ bad", "(document)")]
    [InlineData("""{ "strength": 5 }""", "strength")]
    [InlineData("""{ "strength": "1:9", "totalMl": "much" }""", "totalMl")]
    public async Task Programs_that_send_nonsense_get_problem_json_and_never_a_page(string body, string field)
    {
        var answer = await Post("/api/v1/mix", body);
        answer.StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        answer.Content.Headers.ContentType!.MediaType.ShouldBe("application/problem+json");
        JsonNode.Parse(await answer.Content.ReadAsStringAsync(TestContext.Current.CancellationToken))!["detail"]!
            .GetValue<string>()
            .ShouldStartWith(field + ":");
    }

    [Fact]
    public async Task Mix_reads_every_notation_and_refuses_with_words()
    {
        var mix = await app.Http.PostAsJsonAsync(
            "/api/v1/mix",
            new { strength = "1:9", totalMl = 500 },
            TestContext.Current.CancellationToken
        );
        var answer = JsonNode.Parse(await mix.Content.ReadAsStringAsync(TestContext.Current.CancellationToken))!;
        answer["productMl"]!.GetValue<double>().ShouldBe(50);
        answer["waterMl"]!.GetValue<double>().ShouldBe(450);
        foreach (
            var bad in new object[]
            {
                new { strength = "lots" },
                new { strength = "1:9", totalMl = -5 },
                new { strength = "20 %", lanceDraw = 0.1 },
                new { strength = "" },
                new { strength = "1:9", lanceDraw = 3 },
            }
        )
        {
            var refused = await app.Http.PostAsJsonAsync("/api/v1/mix", bad, TestContext.Current.CancellationToken);
            refused.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
            (await refused.Content.ReadAsStringAsync(TestContext.Current.CancellationToken)).ShouldContain("problems");
        }
    }

    [Fact]
    public async Task Forms_health_and_openapi_answer()
    {
        var form = JsonNode.Parse(await app.Http.GetStringAsync("/api/v1/forms/pickup", TestContext.Current.CancellationToken))!;
        form["zones"]!.AsArray().Count.ShouldBeGreaterThanOrEqualTo(30);
        (await app.Http.GetAsync("/api/v1/forms/tricycle", TestContext.Current.CancellationToken)).StatusCode.ShouldBe(
            HttpStatusCode.NotFound
        );
        (await app.Http.GetStringAsync("/healthz", TestContext.Current.CancellationToken)).ShouldBe("ok");
        (await app.Http.GetStringAsync("/readyz", TestContext.Current.CancellationToken)).ShouldBe("ready");
        var open = JsonNode.Parse(await app.Http.GetStringAsync("/openapi/v1.json", TestContext.Current.CancellationToken))!;
        open["paths"]!.AsObject().Select(p => p.Key).ShouldContain("/api/v1/plan");
    }

    [Fact]
    public async Task Pages_carry_a_strict_policy_and_no_inline_script()
    {
        foreach (
            var path in new[]
            {
                "/",
                "/jobs/104/survey",
                "/jobs/104/plan",
                "/jobs/104/mix",
                "/jobs/104/card",
                "/jobs/104/results",
                "/sources",
            }
        )
        {
            var page = await app.Http.GetAsync(path, TestContext.Current.CancellationToken);
            page.StatusCode.ShouldBe(HttpStatusCode.OK, path);
            var policy = page.Headers.GetValues("Content-Security-Policy").Single();
            policy.ShouldContain("script-src 'self'");
            policy.ShouldNotContain("unsafe");
            var html = new HtmlParser().ParseDocument(await page.Content.ReadAsStringAsync(TestContext.Current.CancellationToken));
            html.QuerySelectorAll("script:not([src]):not([type='application/json'])").ShouldBeEmpty(path);
            html.QuerySelectorAll("[style],[onclick],style").ShouldBeEmpty(path);
            html.QuerySelectorAll("link[href^='http'],script[src^='http'],img[src^='http']").ShouldBeEmpty(path);
        }
    }

    [Fact]
    public async Task What_is_not_there_says_so_and_nothing_is_a_500()
    {
        foreach (
            var path in new[]
            {
                "/jobs/999/plan",
                "/nowhere",
                "/jobs/104/plan?handler=core&zone=turret",
                "/jobs/abc/plan",
                "/jobs/999999999999/plan",
            }
        )
        {
            (await app.Http.GetAsync(path, TestContext.Current.CancellationToken)).StatusCode.ShouldBe(HttpStatusCode.NotFound, path);
        }

        (await app.Http.GetAsync("/jobs/104/mix?apc-2000=x&bogus=1", TestContext.Current.CancellationToken)).StatusCode.ShouldBe(
            HttpStatusCode.OK
        );
    }

    [Fact]
    public async Task Saving_needs_the_pages_token_and_a_revision()
    {
        var survey = await File.ReadAllTextAsync(Path.Combine(Demo, "estuary-pickup.json"), TestContext.Current.CancellationToken);
        var bare = await app.Http.PutAsync(
            "/api/v1/jobs/104/survey",
            new StringContent(survey, Encoding.UTF8, "application/json"),
            TestContext.Current.CancellationToken
        );
        bare.StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await bare.Content.ReadAsStringAsync(TestContext.Current.CancellationToken)).ShouldContain("X-CSRF-Token");
    }

    [Fact]
    public async Task Results_with_bad_numbers_come_back_with_what_was_typed()
    {
        using var http = await app.SignedInAsync("tam");
        var page = new HtmlParser().ParseDocument(await http.GetStringAsync("/jobs/106/results", TestContext.Current.CancellationToken));
        var form = page.QuerySelectorAll("form input[name]")
            .Select(i => new KeyValuePair<string, string>(i.GetAttribute("name")!, i.GetAttribute("value") ?? ""))
            .Where(i => !i.Key.EndsWith("Result", StringComparison.Ordinal))
            .ToList();
        var index = form.FindIndex(f => f.Key == "Rows[0].Rounds");
        form[index] = new("Rows[0].Rounds", "ninety");
        var answer = await http.PostAsync("/jobs/106/results", new FormUrlEncodedContent(form), TestContext.Current.CancellationToken);
        answer.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        var back = new HtmlParser().ParseDocument(await answer.Content.ReadAsStringAsync(TestContext.Current.CancellationToken));
        back.QuerySelector("[role='alert']")!.TextContent.ShouldContain("must be a whole number");
        back.QuerySelector("input[name='Rows[0].Rounds']")!.GetAttribute("value").ShouldBe("ninety");
    }

    private Task<HttpResponseMessage> Post(string path, string json) =>
        app.Http.PostAsync(path, new StringContent(json, Encoding.UTF8, "application/json"), TestContext.Current.CancellationToken);
}
