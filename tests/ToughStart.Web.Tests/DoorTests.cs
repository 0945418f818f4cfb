using System.Net;
using System.Net.Http.Json;
using System.Text.Json.Nodes;
using AngleSharp.Dom;
using AngleSharp.Html.Parser;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Routing;
using Microsoft.Extensions.DependencyInjection;
using ToughStart.Core.Formats;
using ToughStart.Data;

namespace ToughStart.Web.Tests;

/// <summary>Every door of the application: who it opens to, and what it says to nonsense.</summary>
[Collection("app")]
public sealed class DoorTests(AppFixture app)
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    [Fact]
    public void Only_the_doors_named_here_open_to_nobody()
    {
        string[] open =
        [
            "api/v1/plan",
            "api/v1/compare",
            "api/v1/flips",
            "api/v1/quote",
            "api/v1/price-range",
            "api/v1/timeline",
            "api/v1/mix",
            "api/v1/lance",
            "api/v1/nozzle",
            "api/v1/ph",
            "api/v1/hardness",
            "api/v1/compatibility",
            "api/v1/wet-window",
            "api/v1/forms/{form}",
            "api/v1/identify",
            // Opened by a person's ticket for one phone, which outlives the sign-in for a day.
            "api/v1/jobs/{number:int}/sync",
            // A report and a quote, for whoever holds its token.
            "r/{token}",
            "q/{token}",
            "healthz",
            "readyz",
            "openapi/{documentName}.json",
            // What pages draw with: nobody's in particular.
            "drawn/textures.svg",
            "drawn/sides.svg",
            "drawn/{form}/{size}.svg",
            "sign-in",
            "error",
        ];
        var endpoints = app.Services.GetRequiredService<EndpointDataSource>().Endpoints.OfType<RouteEndpoint>().ToArray();
        endpoints.Length.ShouldBeGreaterThan(20);
        var free = endpoints
            .Where(e => e.Metadata.GetMetadata<IAllowAnonymous>() is not null)
            .Select(e => e.RoutePattern.RawText!.Trim('/').ToLowerInvariant())
            .Distinct()
            .ToArray();
        free.ShouldAllBe(
            f =>
                open.Select(o => o.ToLowerInvariant())
                    .Any(o => f == o || f.StartsWith(o + "/", StringComparison.Ordinal) || f == "signin/index"),
            string.Join(", ", free)
        );
    }

    [Theory]
    [InlineData("/api/v1/jobs/104/survey")]
    [InlineData("/api/v1/jobs/104/net.svg")]
    [InlineData("/api/v1/jobs/104/net.png")]
    [InlineData("/api/v1/jobs/104/gauges/film?zone=bonnet")]
    public async Task Programs_without_a_name_get_401(string path)
    {
        using var nobody = await app.SignedInAsync(null);
        (await nobody.GetAsync(path, Stop)).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Theory]
    [InlineData("/clients")]
    [InlineData("/jobs/new")]
    [InlineData("/jobs/104/intake")]
    [InlineData("/jobs/104/tests")]
    [InlineData("/jobs/104/photos")]
    [InlineData("/identify")]
    [InlineData("/shelf")]
    [InlineData("/shelf/new")]
    [InlineData("/shelf/import")]
    [InlineData("/shelf?handler=Export")]
    [InlineData("/kit")]
    [InlineData("/bench")]
    [InlineData("/bottles")]
    [InlineData("/bottles/labels")]
    [InlineData("/compatibility")]
    [InlineData("/jobs/104/close")]
    public async Task Pages_without_a_name_lead_to_the_sign_in(string path)
    {
        using var nobody = await app.SignedInAsync(null);
        (await nobody.GetAsync(path, Stop)).Headers.Location!.ToString().ShouldContain("/sign-in");
    }

    [Fact]
    public async Task A_test_is_written_down_weighed_and_asked_again_when_nobody_could_tell()
    {
        using var tam = await app.SignedInAsync("tam");
        async Task<IDocument> Send(params (string, string)[] fields)
        {
            var page = Html(await tam.GetStringAsync("/jobs/112/tests?test=touch", Stop));
            var form = new List<KeyValuePair<string, string>>
            {
                new("Test", "touch"),
                new("Revision", "1"),
                new(
                    "__RequestVerificationToken",
                    page.QuerySelector("main input[name=__RequestVerificationToken]")!.GetAttribute("value")!
                ),
            };
            form.AddRange(fields.Select(f => new KeyValuePair<string, string>(f.Item1, f.Item2)));
            return Html(
                await (await tam.PostAsync("/jobs/112/tests", new FormUrlEncodedContent(form), Stop)).Content.ReadAsStringAsync(Stop)
            );
        }

        (await Send(("Result", "smooth"))).QuerySelector("[role=alert]")!.TextContent.ShouldContain("tick at least one zone");
        (await Send(("Zones", "roof"))).QuerySelector("[role=alert]")!.TextContent.ShouldContain("could not tell");
        (await Send(("Zones", "roof"), ("Result", "fluffy")))
            .QuerySelector("[role=alert]")!
            .TextContent.ShouldContain("smooth, grainy, rough");

        var unsure = await Send(("Zones", "roof"), ("Result", "inconclusive"), ("Because", "wet"));
        unsure.QuerySelector(".said")!.TextContent.ShouldContain("nothing counts as clean");
        var before = await Zones(tam, "touch");
        before.ShouldContain("roof", "it stays on the list");
        var said = await Send(("Zones", "roof"), ("Zones", "bonnet"), ("Result", "smooth"));
        said.QuerySelector(".said")!.TextContent.ShouldContain("Hands-on");
        said.Body!.TextContent.ShouldContain("On record");
        (await Zones(tam, "touch")).ShouldNotContain("roof", "what is known is not asked again");
        var survey = SurveyFormat.Read(await tam.GetByteArrayAsync("/api/v1/jobs/112/survey", Stop)).Value!;
        survey.ZoneOf("roof")!.TestOf("touch")!.Result.ShouldBe("smooth");
        survey.ZoneOf("roof")!.Tests.Count(t => t.Test == "touch").ShouldBe(1, "the newest answer stands");
    }

    [Fact]
    public async Task A_shut_gate_opens_only_with_a_name()
    {
        using var tam = await app.SignedInAsync("tam");
        await using var db = app.NewContext();
        var store = new JobStore(db, AppFixture.Clock);
        var survey = (await store.JobAsync(108, Stop))!.Survey;
        var number = await store.TakeInAsync(
            new Contact("LoadLimit Keeper", null, null, "Nested saloon", "GATE 1"),
            new DateOnly(2026, 11, 25),
            "",
            new IntakeWishes(),
            survey with
            {
                History = survey.History with { Nests = true },
            },
            "test",
            Stop
        );
        (await tam.GetStringAsync($"/jobs/{number}/plan", Stop)).ShouldContain("Nothing may start");
        var form = await RecordTests.Form(tam, $"/jobs/{number}/intake");
        form.Keys.ShouldContain("Form.Releases[nests]");
        form["Form.Releases[nests]"] = "   ";
        (await tam.PostAsync($"/jobs/{number}/intake", new FormUrlEncodedContent(form), Stop)).EnsureSuccessStatusCode();
        (await tam.GetStringAsync($"/jobs/{number}/plan", Stop)).ShouldContain("Nothing may start");
        form = await RecordTests.Form(tam, $"/jobs/{number}/intake");
        form["Form.Releases[nests]"] = "Perrin Oade, pest control";
        (await tam.PostAsync($"/jobs/{number}/intake", new FormUrlEncodedContent(form), Stop)).EnsureSuccessStatusCode();
        (await tam.GetStringAsync($"/jobs/{number}/plan", Stop)).ShouldNotContain("Nothing may start");
        (await tam.GetStringAsync($"/jobs/{number}/intake", Stop)).ShouldContain("Perrin Oade");
        (await tam.GetStringAsync($"/api/v1/jobs/{number}/survey", Stop)).ShouldNotContain("Perrin");
        using var reader = await app.SignedInAsync("rowan");
        var look = await RecordTests.Form(reader, $"/jobs/{number}/intake");
        (await reader.PostAsync($"/jobs/{number}/intake", new FormUrlEncodedContent(look), Stop)).StatusCode.ShouldBe(
            HttpStatusCode.Forbidden,
            "readers release nothing"
        );
    }

    [Fact]
    public async Task Intake_shows_its_warnings_while_it_is_typed()
    {
        using var tam = await app.SignedInAsync("tam");
        var form = await RecordTests.Form(tam, "/jobs/new");
        form["Form.Drain"] = "storm";
        form["Form.Colour"] = "#101010";
        form["Form.Hardness"] = "20";
        form["Form.HardnessUnit"] = "dh";
        var look = await (await tam.PostAsync("/jobs/new?handler=Look", new FormUrlEncodedContent(form), Stop)).Content.ReadAsStringAsync(
            Stop
        );
        look.ShouldContain("Drain:");
        look.ShouldContain("near black: takes about 95");
        look.ShouldContain("357 mg/l: very hard");
        form["Form.Height"] = "nonsense";
        (await tam.PostAsync("/jobs/new?handler=Look", new FormUrlEncodedContent(form), Stop)).StatusCode.ShouldBe(
            HttpStatusCode.OK,
            "half-typed numbers are no error yet"
        );
    }

    [Fact]
    public async Task The_helper_answers_pages_and_programs_alike_and_names_what_it_does_not_know()
    {
        using var tam = await app.SignedInAsync("tam");
        var page = Html(await tam.GetStringAsync("/identify?iron=purple&colour=rust&place=wheels", Stop));
        page.QuerySelector(".likely")!.TextContent.ShouldBe("Iron fallout");
        page.QuerySelectorAll(".treat li").Length.ShouldBeGreaterThan(0);
        var thin = Html(await tam.GetStringAsync("/identify?colour=black", Stop));
        thin.QuerySelector(".likely")!.TextContent.ShouldContain("test first");
        thin.QuerySelectorAll(".treat").ShouldBeEmpty();
        var bad = await tam.GetAsync("/identify?colour=plaid", Stop);
        bad.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        Html(await bad.Content.ReadAsStringAsync(Stop)).QuerySelector("[role=alert]")!.TextContent.ShouldContain("amber");
        var api = JsonNode.Parse(
            await (await tam.PostAsJsonAsync("/api/v1/identify", new { iron = "purple", colour = "rust" }, Stop)).Content.ReadAsStringAsync(
                Stop
            )
        )!;
        api["candidates"]![0]!["id"]!.GetValue<string>().ShouldBe("iron");
        (await tam.PostAsJsonAsync("/api/v1/identify", new { iron = "green" }, Stop)).StatusCode.ShouldBe(
            HttpStatusCode.UnprocessableEntity
        );
    }

    [Fact]
    public async Task Notes_need_a_zone_words_and_the_pages_token()
    {
        using var tam = await app.SignedInAsync("tam");
        var csrf = Html(await tam.GetStringAsync("/jobs/110/survey", Stop)).QuerySelector("meta[name=csrf]")!.GetAttribute("content")!;
        async Task<HttpStatusCode> Send(object body, bool token = true)
        {
            using var post = new HttpRequestMessage(HttpMethod.Post, "/api/v1/jobs/110/notes") { Content = JsonContent.Create(body) };
            if (token)
            {
                post.Headers.Add("X-CSRF-Token", csrf);
            }

            return (await tam.SendAsync(post, Stop)).StatusCode;
        }

        (await Send(new { zone = "bonnet", words = "stone chip by the badge" })).ShouldBe(HttpStatusCode.OK);
        (await Send(new { zone = "attic", words = "x" })).ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await Send(new { zone = "bonnet", words = "" })).ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await Send(new { zone = "bonnet", words = new string('x', 401) })).ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await Send(new { zone = "bonnet", words = "y" }, token: false)).ShouldBe(HttpStatusCode.BadRequest);
        (await tam.GetStringAsync("/api/v1/jobs/110/survey", Stop)).ShouldNotContain("stone chip");
    }

    [Theory]
    [InlineData("/jobs/999/intake")]
    [InlineData("/jobs/999/tests")]
    [InlineData("/jobs/999/photos")]
    [InlineData("/jobs/104/photos/00000000-0000-0000-0000-000000000000")]
    [InlineData("/clients?handler=Export&id=00000000-0000-0000-0000-000000000000")]
    public async Task What_is_not_there_is_404(string path)
    {
        using var owner = await app.SignedInAsync("odile");
        (await owner.GetAsync(path, Stop)).StatusCode.ShouldBe(HttpStatusCode.NotFound);
    }

    private static async Task<string[]> Zones(HttpClient http, string test) =>
        [
            .. Html(await http.GetStringAsync($"/jobs/112/tests?test={test}", Stop))
                .QuerySelectorAll("input[name=Zones]")
                .Select(i => i.GetAttribute("value")!),
        ];

    private static IDocument Html(string text) => new HtmlParser().ParseDocument(text);
}
