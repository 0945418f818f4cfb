using System.Net;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json.Nodes;
using AngleSharp.Html.Parser;
using Microsoft.EntityFrameworkCore;
using ToughStart.Core.Formats;
using ToughStart.Data;

namespace ToughStart.Web.Tests;

/// <summary>Plans of record and the run, as programs and pages see them: nothing forgets what was done, and looking writes nothing.</summary>
[Collection("app")]
public sealed class RunTests(AppFixture app)
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    /// <summary>Puts in force what a job offers.</summary>
    internal static Task<HttpResponseMessage> TakeAsync(HttpClient http, int number, string? hash = null) =>
        SendAsync(http, HttpMethod.Post, $"/api/v1/jobs/{number}/plan", new JsonObject { ["hash"] = hash });

    internal static async Task<HttpResponseMessage> SendAsync(
        HttpClient http,
        HttpMethod method,
        string path,
        JsonNode body,
        string? ifMatch = null
    )
    {
        var token = new HtmlParser()
            .ParseDocument(await http.GetStringAsync("/", Stop))
            .QuerySelector("meta[name=csrf]")!
            .GetAttribute("content");
        using var request = new HttpRequestMessage(method, path)
        {
            Content = new StringContent(body.ToJsonString(), Encoding.UTF8, "application/json"),
        };
        request.Headers.Add("X-CSRF-Token", token);
        if (ifMatch is not null)
        {
            request.Headers.TryAddWithoutValidation("If-Match", ifMatch);
        }

        return await http.SendAsync(request, Stop);
    }

    private static async Task<JsonNode> Json(HttpResponseMessage answer) => JsonNode.Parse(await answer.Content.ReadAsStringAsync(Stop))!;

    private async Task<int> Job(string demo)
    {
        await using var db = app.NewContext();
        var survey = SurveyFormat
            .Read(await File.ReadAllBytesAsync(Path.Combine(Environment.GetEnvironmentVariable("TOUGHSTART_DEMO")!, demo + ".json"), Stop))
            .Value!;
        return await new JobStore(db, AppFixture.Clock).TakeInAsync(
            new Contact("Run Tester", null, null, "Test vehicle", "RUN " + Random.Shared.Next(10000, 99999)),
            TickingClock.Today,
            "For the run.",
            new IntakeWishes(),
            survey,
            "test",
            Stop
        );
    }

    private static JsonObject Event(
        JsonNode plan,
        int revision,
        string stage,
        string? observe,
        string? result,
        string? because = null,
        int? rounds = null,
        string? zone = null
    )
    {
        var step = plan["steps"]!.AsArray().First(s => s!["stage"]!.GetValue<string>() == stage)!;
        return new JsonObject
        {
            ["id"] = Guid.CreateVersion7().ToString(),
            ["plan"] = revision,
            ["step"] = step["key"]!.GetValue<string>(),
            ["zones"] = zone is null ? step["zones"]!.DeepClone() : new JsonArray(zone),
            ["rounds"] = rounds ?? step["rounds"]!.GetValue<int>(),
            ["observe"] = observe,
            ["result"] = result,
            ["because"] = because,
        };
    }

    [Fact]
    public async Task Looking_writes_nothing_whoever_looks()
    {
        var number = await Job("orchard-pickup");
        await using var db = app.NewContext();
        async Task<(int, int, int)> Rows() =>
            (await db.Plans.CountAsync(Stop), await db.Reservations.CountAsync(Stop), await db.Events.CountAsync(Stop));
        var before = await Rows();
        foreach (var who in new[] { "tam", "odile", "reader" })
        {
            using var http = await app.SignedInAsync(who == "reader" ? ToughStart.Web.Identity.SignInSetup.Demo[^1].User : who);
            foreach (
                var page in new[]
                {
                    "/",
                    $"/jobs/{number}/plan",
                    $"/jobs/{number}/mix",
                    $"/jobs/{number}/card",
                    $"/jobs/{number}/results",
                    $"/jobs/{number}/close",
                    $"/jobs/{number}/plan?handler=Core&zone=roof",
                    $"/api/v1/jobs/{number}/run",
                }
            )
            {
                var answer = await http.GetAsync(page, Stop);
                ((int)answer.StatusCode).ShouldBeLessThan(404, page);
            }
        }

        (await Rows()).ShouldBe(before);
    }

    /// <summary>A result typed by mistake is taken back on the page; then everything is as it was, in the database and for everybody.</summary>
    [Fact]
    public async Task A_recorded_answer_can_be_taken_back()
    {
        var number = await Job("touring-saloon");
        using var tam = await app.SignedInAsync("tam");
        (await TakeAsync(tam, number)).EnsureSuccessStatusCode();
        async Task<string> Zones() => (await Json(await tam.GetAsync($"/api/v1/jobs/{number}/run", Stop)))["zones"]!.ToJsonString();
        var before = await Zones();
        var form = await RecordTests.Form(tam, $"/jobs/{number}/results");

        // Nothing entered is said, not swallowed.
        (await tam.PostAsync($"/jobs/{number}/results", new FormUrlEncodedContent(form), Stop)).StatusCode.ShouldBe(
            System.Net.HttpStatusCode.UnprocessableEntity
        );
        form["Rows[0].Rounds"] = "1";
        (await tam.PostAsync($"/jobs/{number}/results", new FormUrlEncodedContent(form), Stop)).EnsureSuccessStatusCode();
        (await Zones()).ShouldNotBe(before);
        var page = new HtmlParser().ParseDocument(await tam.GetStringAsync($"/jobs/{number}/results", Stop));
        var entry = page.QuerySelector(".entered input[name=entry]")!.GetAttribute("value")!;
        var token = page.QuerySelector("form[action*=Back] input[name=__RequestVerificationToken]")!.GetAttribute("value")!;
        async Task<HttpResponseMessage> Back() =>
            await tam.PostAsync(
                $"/jobs/{number}/results?handler=Back",
                new FormUrlEncodedContent(new Dictionary<string, string> { ["entry"] = entry, ["__RequestVerificationToken"] = token }),
                Stop
            );
        (await Back()).EnsureSuccessStatusCode();
        (await Zones()).ShouldBe(before);
        (await Back()).StatusCode.ShouldBe(System.Net.HttpStatusCode.Conflict);
        await using var db = app.NewContext();
        (await db.Events.CountAsync(e => db.Jobs.Any(j => j.Number == number && j.Id == e.JobId), Stop)).ShouldBe(
            2,
            "nothing is wiped out"
        );
    }

    /// <summary>What was chosen for single zones stands in the form again after a refusal, and half of it is asked for by name.</summary>
    [Fact]
    public async Task Zones_that_differ_are_kept_when_a_result_is_refused()
    {
        var number = await Job("touring-saloon");
        using var tam = await app.SignedInAsync("tam");
        (await TakeAsync(tam, number)).EnsureSuccessStatusCode();
        var form = await RecordTests.Form(tam, $"/jobs/{number}/results");
        var page = new HtmlParser().ParseDocument(await tam.GetStringAsync($"/jobs/{number}/results", Stop));
        var line = page.QuerySelectorAll(".result-row").First(r => r.QuerySelector(".differ") is not null);
        string[] Values(int select) =>
            [
                .. line.QuerySelectorAll(".differ select")[select]
                    .QuerySelectorAll("option")
                    .Select(o => o.GetAttribute("value")!)
                    .Where(v => v != ""),
            ];
        var (zones, seen) = (Values(0), Values(1));
        var row = line.QuerySelector("input[name$='.Step']")!.GetAttribute("name")!.Replace(".Step", "", StringComparison.Ordinal);
        async Task<AngleSharp.Html.Dom.IHtmlDocument> Refused()
        {
            using var answer = await tam.PostAsync($"/jobs/{number}/results", new FormUrlEncodedContent(form), Stop);
            answer.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
            return new HtmlParser().ParseDocument(await answer.Content.ReadAsStringAsync(Stop));
        }

        form[$"{row}.Rounds"] = "1";
        form[$"{row}.Result"] = seen[0];
        form[$"{row}.Except[0].Zone"] = zones[0];
        form[$"{row}.Except[0].Result"] = seen[1];
        form[$"{row}.Except[1].Zone"] = zones[1];
        form[$"{row}.Except[1].Result"] = "";
        var refused = await Refused();
        refused.Body!.TextContent.ShouldContain($"say what was seen on {zones[1].Replace('-', ' ')}");
        string Chosen(string field) => refused.QuerySelector($"select[name='{row}.{field}'] option[selected]")!.GetAttribute("value")!;
        Chosen("Except[0].Zone").ShouldBe(zones[0]);
        Chosen("Except[0].Result").ShouldBe(seen[1]);
        Chosen("Except[1].Zone").ShouldBe(zones[1]);

        form[$"{row}.Except[1].Zone"] = "";
        form[$"{row}.Except[1].Result"] = seen[1];
        (await Refused()).Body!.TextContent.ShouldContain("say which zone");
        form[$"{row}.Except[1].Zone"] = zones[0];
        (await Refused()).Body!.TextContent.ShouldContain("is named 2 times");

        form.Remove($"{row}.Except[1].Zone");
        form.Remove($"{row}.Except[1].Result");
        (await tam.PostAsync($"/jobs/{number}/results", new FormUrlEncodedContent(form), Stop)).EnsureSuccessStatusCode();
        await using var db = app.NewContext();
        var said = await db
            .Events.Where(e => db.Jobs.Any(j => j.Number == number && j.Id == e.JobId))
            .Select(e => e.Body)
            .ToArrayAsync(Stop);
        said.ShouldContain(b =>
            b.Contains($"\"{seen[1]}\"", StringComparison.Ordinal) && b.Contains($"\"{zones[0]}\"", StringComparison.Ordinal)
        );
    }

    [Fact]
    public async Task A_plan_is_put_in_force_by_its_hash_and_never_changes_unasked()
    {
        var number = await Job("orchard-pickup");
        using var tam = await app.SignedInAsync("tam");
        (await tam.GetAsync($"/api/v1/jobs/{number}/plan", Stop)).StatusCode.ShouldBe(HttpStatusCode.NotFound);
        var hash = (await Json(await tam.GetAsync($"/api/v1/jobs/{number}/run", Stop)))["hash"]!.GetValue<string>();
        (await TakeAsync(tam, number, "0123456789abcdef01234567")).StatusCode.ShouldBe(HttpStatusCode.Conflict);
        var taken = await TakeAsync(tam, number, hash);
        taken.StatusCode.ShouldBe(HttpStatusCode.OK);
        taken.Headers.ETag!.Tag.ShouldBe("\"1\"");
        (await TakeAsync(tam, number, hash)).Headers.ETag!.Tag.ShouldBe("\"1\"", "the same once more changes nothing");
        (await SendAsync(tam, HttpMethod.Post, $"/api/v1/jobs/{number}/plan", new JsonObject(), "\"7\"")).StatusCode.ShouldBe(
            HttpStatusCode.Conflict
        );
        var first = await tam.GetStringAsync($"/api/v1/jobs/{number}/plan", Stop);

        // Another school: offered with its difference, not taken.
        await SaveAsync(tam, number, s => s with { House = new Dictionary<string, string>(s.House)
                {
                    ["foam"] = "always",
                }, Goal = Goal.Protect });
        (await tam.GetStringAsync($"/api/v1/jobs/{number}/plan", Stop)).ShouldBe(first);
        var run = await Json(await tam.GetAsync($"/api/v1/jobs/{number}/run", Stop));
        run["offer"]!["because"]!.AsArray().Select(b => b!.GetValue<string>()).ShouldBe(["goal or rules"]);
        run["offer"]!["changes"]!.AsArray().ShouldNotBeEmpty();
        var page = new HtmlParser().ParseDocument(await tam.GetStringAsync($"/jobs/{number}/plan", Stop));
        page.QuerySelector(".changed h2")!.TextContent.ShouldContain("goal or rules");
        (await TakeAsync(tam, number, run["offer"]!["hash"]!.GetValue<string>())).Headers.ETag!.Tag.ShouldBe("\"2\"");
        (await Json(await tam.GetAsync($"/api/v1/jobs/{number}/run", Stop)))["offer"].ShouldBeNull();

        await using var db = app.NewContext();
        var job = await db.Jobs.SingleAsync(j => j.Number == number, Stop);
        (await db.Plans.CountAsync(p => p.JobId == job.Id, Stop)).ShouldBe(2);
    }

    [Fact]
    public async Task A_run_forgets_nothing_when_shelf_school_and_survey_change_in_the_middle()
    {
        var number = await Job("estuary-pickup");
        using var tam = await app.SignedInAsync("tam");
        (await TakeAsync(tam, number)).EnsureSuccessStatusCode();
        var plan = await Json(await tam.GetAsync($"/api/v1/jobs/{number}/plan", Stop));
        var iron = Event(plan, 1, "iron", "bleed", "faint");
        var wash = Event(plan, 1, "contact-wash", null, null);
        var answers = (await Json(await SendAsync(tam, HttpMethod.Post, $"/api/v1/jobs/{number}/events", new JsonArray(iron, wash))))[
            "answers"
        ]!.AsArray();
        answers.Select(a => a!["taken"]!.GetValue<string>()).ShouldBe(["new", "new"]);
        var zones = iron["zones"]!.AsArray().Select(z => z!.GetValue<string>()).ToArray();
        async Task<JsonNode> Run() => await Json(await tam.GetAsync($"/api/v1/jobs/{number}/run", Stop));
        int Done(JsonNode run) =>
            zones.Sum(z =>
                run["zones"]!.AsArray().Single(x => x!["zone"]!.GetValue<string>() == z)!["rounds"]!["iron-spray"]?.GetValue<int>() ?? 0
            );
        var before = await Run();
        Done(before).ShouldBe(zones.Length * iron["rounds"]!.GetValue<int>());

        // The iron remover leaves the shelf: what was done stays done, and the plan in force stands.
        await using var db = app.NewContext();
        var bottle = await db.Products.SingleAsync(p => p.Name == "Fallout Wine", Stop);
        try
        {
            await db.Products.Where(p => p.Id == bottle.Id).ExecuteUpdateAsync(s => s.SetProperty(p => p.Retired, true), Stop);
            Done(await Run()).ShouldBe(Done(before));
            (await Json(await tam.GetAsync($"/api/v1/jobs/{number}/plan", Stop))).ToJsonString().ShouldBe(plan.ToJsonString());
        }
        finally
        {
            await db.Products.Where(p => p.Id == bottle.Id).ExecuteUpdateAsync(s => s.SetProperty(p => p.Retired, false), Stop);
        }

        // Another wash medium, and something found on the way: the early steps do not come back.
        await SaveAsync(tam, number, s => s with { House = new Dictionary<string, string>(s.House) { ["washMedia"] = "mitt-per-area" } });
        await SaveAsync(tam, number, s =>
            s with
            {
                Zones =
                [
                    .. s.Zones.Select(z =>
                        z.Zone == "roof"
                            ? z with
                            {
                                Findings = [.. z.Findings.Where(f => f.Contaminant != "sap"), new Finding("sap", 2, null, Certainty.Seen)],
                            }
                            : z
                    ),
                ],
            }
        );
        var after = await Run();
        Done(after).ShouldBe(Done(before));
        var washed = wash["zones"]!.AsArray().Select(z => z!.GetValue<string>()).ToHashSet();
        var early = new[] { "soak", "pre-rinse", "pre-wash", "foam" };
        after["planFromHere"]!["steps"]!
            .AsArray()
            .Where(s => early.Contains(s!["stage"]!.GetValue<string>()))
            .SelectMany(s => s!["zones"]!.AsArray())
            .Select(z => z!.GetValue<string>())
            .ShouldAllBe(z => !washed.Contains(z));
        after["offer"]!["because"]!.AsArray().Select(b => b!.GetValue<string>()).ShouldContain("what was done and seen");
        (await TakeAsync(tam, number)).EnsureSuccessStatusCode();
        Done(await Run()).ShouldBe(Done(before), "the next plan in force amends the run, it does not void it");
    }

    [Fact]
    public async Task Could_not_tell_is_asked_again_and_nothing_counts_as_clean()
    {
        var number = await Job("estuary-pickup");
        using var tam = await app.SignedInAsync("tam");
        (await TakeAsync(tam, number)).EnsureSuccessStatusCode();
        var plan = await Json(await tam.GetAsync($"/api/v1/jobs/{number}/plan", Stop));
        var unsure = Event(plan, 1, "iron", "bleed", "inconclusive", "masked-colour");
        (await SendAsync(tam, HttpMethod.Post, $"/api/v1/jobs/{number}/events", new JsonArray(unsure))).EnsureSuccessStatusCode();
        var run = await Json(await tam.GetAsync($"/api/v1/jobs/{number}/run", Stop));
        foreach (var zone in unsure["zones"]!.AsArray().Select(z => z!.GetValue<string>()))
        {
            var ask = run["zones"]!.AsArray().Single(z => z!["zone"]!.GetValue<string>() == zone)!["ask"]!
                .AsArray()
                .ShouldHaveSingleItem()!;
            ask["look"]!.GetValue<string>().ShouldBe("bleed");
            ask["because"]!.GetValue<string>().ShouldBe("masked-colour");
        }

        run["zones"]!
            .AsArray()
            .ShouldAllBe(z => !z!["fine"]!["sure"]!.GetValue<bool>(), "work that nobody has looked at is not surely fine");

        run["planFromHere"]!["tests"]!.AsArray().ShouldContain(t => t!["test"]!.GetValue<string>() == "bleed" && t["required"] != null);
        var page = new HtmlParser().ParseDocument(await tam.GetStringAsync($"/jobs/{number}/plan", Stop));
        page.QuerySelector(".asks")!.TextContent.ShouldContain("masked colour");
        var results = new HtmlParser().ParseDocument(await tam.GetStringAsync($"/jobs/{number}/results", Stop));
        results
            .QuerySelectorAll(".because select")
            .ShouldAllBe(
                s => s.QuerySelector("option")!.GetAttribute("value") == "" && s.QuerySelector("option[selected]") == null,
                "the reason starts blank"
            );
    }

    [Fact]
    public async Task Every_event_gets_its_own_answer_and_none_is_a_500()
    {
        var (number, other) = (await Job("trail-motorcycle"), await Job("trail-motorcycle"));
        using var tam = await app.SignedInAsync("tam");
        (await TakeAsync(tam, number)).EnsureSuccessStatusCode();
        (await TakeAsync(tam, other)).EnsureSuccessStatusCode();
        var plan = await Json(await tam.GetAsync($"/api/v1/jobs/{number}/plan", Stop));
        JsonObject Good() => Event(plan, 1, "soak", null, null);
        JsonObject But(string field, JsonNode? value) =>
            new Func<JsonObject>(() =>
            {
                var e = Good();
                e[field] = value;
                return e;
            })();
        var good = Good();
        var list = new JsonArray(
            good,
            But("plan", 7),
            But("step", "iron/none/9"),
            But("zones", new JsonArray("turret")),
            But("rounds", 9),
            But("result", "purple"),
            But("strength", 3),
            But("colour", "red"),
            JsonValue.Create("x"),
            null
        );
        var answers = (await Json(await SendAsync(tam, HttpMethod.Post, $"/api/v1/jobs/{number}/events", list)))["answers"]!.AsArray();
        answers.Select(a => a!["taken"]!.GetValue<string>()).ShouldBe(["new", .. Enumerable.Repeat("refused", 9)]);
        answers.Skip(1).ShouldAllBe(a => a!["problems"]!.AsArray().Count > 0);
        answers[4]!["problems"]![0]!["message"]!.GetValue<string>().ShouldContain("0 to");

        // Six times at once: written once, answered six times.
        var again = Good();
        var all = await Task.WhenAll(
            Enumerable
                .Range(0, 6)
                .Select(_ => SendAsync(tam, HttpMethod.Post, $"/api/v1/jobs/{number}/events", new JsonArray(again.DeepClone())))
        );
        all.ShouldAllBe(a => a.StatusCode == HttpStatusCode.OK);
        (await Task.WhenAll(all.Select(Json)))
            .Select(a => a["answers"]![0]!["taken"]!.GetValue<string>())
            .Order()
            .ShouldBe([.. Enumerable.Repeat("known", 5), "new"]);
        (await Json(await SendAsync(tam, HttpMethod.Post, $"/api/v1/jobs/{other}/events", new JsonArray(again.DeepClone()))))["answers"]![
            0
        ]!["taken"]!
            .GetValue<string>()
            .ShouldBe("refused");
        foreach (var body in new JsonNode?[] { new JsonArray(), new JsonObject(), JsonValue.Create(3) })
        {
            (await SendAsync(tam, HttpMethod.Post, $"/api/v1/jobs/{number}/events", body!)).StatusCode.ShouldBe(
                HttpStatusCode.UnprocessableEntity
            );
        }

        (await tam.PostAsync($"/api/v1/jobs/{number}/events", JsonContent.Create(new[] { 1 }), Stop)).StatusCode.ShouldBe(
            HttpStatusCode.BadRequest,
            "no token"
        );
        using var nobody = await app.SignedInAsync(null);
        (await nobody.GetAsync($"/api/v1/jobs/{number}/run", Stop)).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task What_a_job_has_drawn_is_not_put_by_again_and_a_renamed_bottle_stays_the_one_that_was_planned()
    {
        var number = await Job("trail-motorcycle");
        using var tam = await app.SignedInAsync("tam");
        (await TakeAsync(tam, number)).EnsureSuccessStatusCode();
        await using var db = app.NewContext();
        var shelf = new ShelfStore(db, AppFixture.Clock);
        var store = new RunStore(db, shelf, AppFixture.Clock);
        var job = (await new JobStore(db, AppFixture.Clock).JobAsync(number, Stop))!;
        var before = await db.Reservations.AsNoTracking().Where(r => r.JobId == job.Id).OrderByDescending(r => r.Ml).FirstAsync(Stop);
        var product = await db.Products.AsNoTracking().SingleAsync(p => p.Id == before.ProductId, Stop);
        (await shelf.MoveAsync(product.Id, "use", 5, null, "test", job.Id, stop: Stop)).Done.ShouldBeTrue();
        try
        {
            await db.Products.Where(p => p.Id == product.Id).ExecuteUpdateAsync(s => s.SetProperty(p => p.Name, "Renamed {0} since"), Stop);
            var force = (await store.PlanAsync(job.Id, 1, Stop))!;
            (await store.AcceptAsync(job.Id, 1, force.Plan, force.Survey, 1, 0, "test", Stop)).ShouldBe(2);
            (await db.Reservations.AsNoTracking().SingleAsync(r => r.JobId == job.Id && r.ProductId == product.Id, Stop)).Ml.ShouldBe(
                before.Ml - 5,
                0.1m,
                "a plan on file is rounded to tenths"
            );
            (await store.AcceptAsync(job.Id, 1, force.Plan, force.Survey, 1, 0, "test", Stop)).ShouldBeNull("another is in force by now");
            (await tam.GetStringAsync($"/jobs/{number}/mix", Stop)).ShouldContain("Renamed {0} since");
        }
        finally
        {
            await db.Products.Where(p => p.Id == product.Id).ExecuteUpdateAsync(s => s.SetProperty(p => p.Name, product.Name), Stop);
        }
    }

    [Fact]
    public async Task A_job_kept_to_its_shelf_puts_no_more_by_than_there_is()
    {
        var number = await Job("estuary-pickup");
        using var tam = await app.SignedInAsync("tam");
        await SaveAsync(tam, number, s => s with { StockOnly = true });
        (await TakeAsync(tam, number)).EnsureSuccessStatusCode();
        await using var db = app.NewContext();
        var job = await db.Jobs.SingleAsync(j => j.Number == number, Stop);
        var put = await db.Reservations.Where(r => r.JobId == job.Id).ToListAsync(Stop);
        put.ShouldNotBeEmpty();
        foreach (var r in put)
        {
            var stock = await db.Products.Where(p => p.Id == r.ProductId).Select(p => p.StockMl).SingleAsync(Stop);
            r.Ml.ShouldBeLessThanOrEqualTo(stock + 1);
        }
    }

    [Fact]
    public async Task Erasing_a_client_keeps_who_released_the_vehicle()
    {
        var number = await Job("trail-motorcycle");
        await using var db = app.NewContext();
        var jobs = new JobStore(db, AppFixture.Clock);
        var job = (await jobs.JobAsync(number, Stop))!;
        await jobs.NoteAsync(job.Id, "gate:nests", "Odile, disinfected", "test", Stop);
        await jobs.NoteAsync(job.Id, "seat", "the client's own words", "test", Stop);
        var client = await db.Jobs.Where(j => j.Id == job.Id).Select(j => j.Vehicle!.ClientId).SingleAsync(Stop);
        (await new RecordStore(db, AppFixture.Clock).EraseClientAsync(client, Stop)).ShouldBeTrue();
        (await jobs.NotesAsync(job.Id, Stop)).ShouldHaveSingleItem().Words.ShouldBe("Odile, disinfected");
    }

    [Fact]
    public async Task Putting_in_force_at_once_makes_one_plan()
    {
        var number = await Job("trail-motorcycle");
        using var tam = await app.SignedInAsync("tam");
        var all = await Task.WhenAll(Enumerable.Range(0, 6).Select(_ => TakeAsync(tam, number)));
        all.ShouldAllBe(a => a.StatusCode == HttpStatusCode.OK || a.StatusCode == HttpStatusCode.Conflict);
        await using var db = app.NewContext();
        var job = await db.Jobs.SingleAsync(j => j.Number == number, Stop);
        (await db.Plans.CountAsync(p => p.JobId == job.Id, Stop)).ShouldBe(1);
        job.PlanRevision.ShouldBe(1);
    }

    private async Task SaveAsync(HttpClient http, int number, Func<Survey, Survey> change)
    {
        await using var db = app.NewContext();
        var job = (await new JobStore(db, AppFixture.Clock).JobAsync(number, Stop))!;
        var body = JsonNode.Parse(SurveyFormat.Write(change(job.Survey)))!;
        (await SendAsync(http, HttpMethod.Put, $"/api/v1/jobs/{number}/survey", body, $"\"{job.Revision}\"")).EnsureSuccessStatusCode();
    }
}
