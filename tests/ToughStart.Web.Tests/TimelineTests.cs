using System.Net;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using OpenQA.Selenium;
using ToughStart.Core.Running.Live;
using ToughStart.Scheduling.Check;

namespace ToughStart.Web.Tests;

/// <summary>The day of a job: who is on it, what is moved, what that does.</summary>
[Collection("bay")]
public sealed class TimelineTests(AppFixture app)
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    [Fact]
    public async Task Two_are_laid_out_one_is_sent_home_and_a_task_is_set()
    {
        var number = await GateTests.Job(app, "touring-saloon", "protect", "Timed Client");
        var path = $"/jobs/{number}/timeline";
        using var bench = new Browser();
        bench.Go(app.Address, path, "odile");
        bench.All("svg.tl .tl-task").Count.ShouldBeGreaterThan(20);
        bench.Texts(".tl-lists h2").Length.ShouldBe(1, "the survey says one");
        void Crew(params string[] ids)
        {
            foreach (var box in bench.All("input[name=on]"))
            {
                if (box.Selected != ids.Contains(box.GetAttribute("value")))
                {
                    box.Click();
                }
            }

            bench.One(".tl-crew button").Click();
            bench.WaitFor(_ => bench.Texts(".tl-lists h2").Length == ids.Length, "laid out anew");
            bench.WaitReady();
        }

        var ids = bench.All("input[name=on]").Select(b => b.GetAttribute("value")!).ToArray();
        int Finish() => int.Parse(bench.One("[data-scrub]").GetAttribute("max")!, System.Globalization.CultureInfo.InvariantCulture);
        var alone = Finish();
        Crew(ids[0], ids[1]);
        var both = Finish();
        both.ShouldBeLessThan((int)(0.8 * alone));

        // The line says what each of them does, and what is wet.
        bench.Driver.ExecuteScript("const r=document.querySelector('[data-scrub]'); r.value=1800; r.dispatchEvent(new Event('input'))");
        bench.Texts("[data-doing] li").Length.ShouldBe(2);
        bench.Texts("[data-at]")[0].ShouldStartWith("At ");

        // A task is moved by its button: answered in a sentence, and it stays where it was set.
        var last = bench.All(".tl-task").Last().GetAttribute("data-task")!;
        bench.Driver.ExecuteScript("arguments[0].focus()", bench.One($"[data-task='{last}']"));
        bench.One("[data-by='300']").Click();
        bench.WaitFor(_ => bench.All("[data-task].is-pinned").Count > 0, "set");
        bench.WaitFor(_ => bench.Texts(".said").Any(s => s.Contains("better order", StringComparison.Ordinal)), "looked for better");
        Finish().ShouldBeGreaterThanOrEqualTo(both);
        bench.One("[data-free]").Click();
        bench.WaitFor(_ => bench.All("[data-task].is-pinned").Count == 0, "let go");

        bench.One("[data-ask=another]").Click();
        bench.WaitFor(_ => bench.Texts("[data-answer=another]")[0].StartsWith("With one more", StringComparison.Ordinal), "one more");
        bench.One("[data-ask=wheels]").Click();
        bench.WaitFor(_ => bench.Texts("[data-answer=wheels]")[0].StartsWith("With wheels", StringComparison.Ordinal), "wheels");

        // Sent home: what is left is one person's.
        bench.Go(app.Address, path, "odile");
        Crew(ids[1]);
        Finish().ShouldBeGreaterThan(both);
        bench.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public async Task Who_cannot_be_there_is_named_and_two_who_change_it_at_once_are_told()
    {
        var number = await GateTests.Job(app, "moorland-van", "wash", "Crowded Client");
        var path = $"/jobs/{number}/timeline";
        using var tam = await app.SignedInAsync("tam");
        (await CloseTests.Post(tam, path, "Crew", ("start", "8"), ("seen", "0"))).Said.ShouldContain("'8' is no time of the day");
        (await CloseTests.Post(tam, path, "Crew", ("start", "08:00"), ("seen", "0"))).Said.ShouldContain("1 to 6 people");
        (await CloseTests.Post(tam, path, "Crew", ("start", "08:00"), ("on", "nobody"), ("seen", "0"))).Said.ShouldContain(
            "is nobody who works here"
        );
        (
            await CloseTests.Post(
                tam,
                path,
                "Crew",
                ("start", "18:00"),
                ("on", "helper-1"),
                ("from-helper-1", "08:00"),
                ("to-helper-1", "17:00"),
                ("seen", "0")
            )
        ).Said.ShouldContain("leaves before the work begins");
        (string, string)[] Fine(string seen) =>
            [("start", "08:00"), ("on", "helper-1"), ("from-helper-1", "08:00"), ("to-helper-1", "17:00"), ("seen", seen)];
        (await CloseTests.Post(tam, path, "Crew", Fine("0"))).Status.ShouldBe(HttpStatusCode.OK);
        (await CloseTests.Post(tam, path, "Crew", Fine("0"))).Said.ShouldContain("somebody else changed it at the same moment");
        (await CloseTests.Post(tam, path, "Move", ("key", "no/such/task"), ("seen", "1"))).Said.ShouldContain("is no task of this plan");
        // A shift too short for a film with its rinse names the film.
        var shift = await CloseTests.Post(
            tam,
            path,
            "Crew",
            ("start", "08:00"),
            ("on", "helper-1"),
            ("from-helper-1", "08:00"),
            ("to-helper-1", "08:02"),
            ("seen", "1")
        );
        shift.Said.ShouldContain("It cannot be laid out so.");
        using var rowan = await app.SignedInAsync("rowan");
        (await CloseTests.Post(rowan, path, "Crew", Fine("2"))).Status.ShouldNotBe(HttpStatusCode.OK);
        await CloseTests.Post(tam, path, "Crew", Fine("2"));
        var ics = await tam.GetStringAsync($"{path}?handler=Calendar", Stop);
        ics.ShouldContain("BEGIN:VEVENT");
        Ical.Net.Calendar.Load(ics)!.Events.Count.ShouldBeGreaterThan(5);
    }

    [Fact]
    public async Task The_bay_gives_each_person_what_the_timeline_gives_them()
    {
        var number = await GateTests.Job(app, "touring-saloon", "protect", "Shared Client");
        using var tam = await app.SignedInAsync("tam");
        JsonNode Bay() => JsonNode.Parse(tam.GetStringAsync($"/api/v1/jobs/{number}/bay", Stop).GetAwaiter().GetResult())!;
        Bay()["turns"].ShouldBeNull("nobody has laid it out");
        var page = await tam.GetStringAsync($"/jobs/{number}/timeline", Stop);
        string[] ids =
        [
            .. System.Text.RegularExpressions.Regex.Matches(page, "name=\"on\" value=\"([^\"]+)\"").Select(m => m.Groups[1].Value).Take(2),
        ];
        await CloseTests.Post(
            tam,
            $"/jobs/{number}/timeline",
            "Crew",
            [
                ("start", "08:00"),
                ("seen", "0"),
                .. ids.SelectMany(id => new[] { ("on", id), ($"from-{id}", "08:00"), ($"to-{id}", "17:00") }),
            ]
        );
        (await RunTests.TakeAsync(tam, number)).EnsureSuccessStatusCode();
        var bay = Bay();
        var turns = bay["turns"]!["due"]!.AsArray().Select(t => ((string)t!["step"]!, (string)t["who"]!, (long)t["from"]!)).ToArray();
        bay["turns"]!["next"]!.AsArray().Count.ShouldBe(turns.Length, "nothing is begun");
        turns.Select(t => t.Item2).Distinct().Order().ShouldBe(ids.Order());
        var steps = bay["steps"]!.AsArray().Select(s => (string)s!["key"]!).ToHashSet();
        turns.Select(t => t.Item1).ShouldBeSubsetOf(steps);
        turns.Select(t => t.Item3).ShouldBeInOrder();

        // On the phone stands the first of one's own steps whose zones nothing earlier is still to be done on; else the first of all.
        var me = (string)bay["me"]!["who"]!;
        var all = bay["steps"]!
            .AsArray()
            .Select(s => (Key: (string)s!["key"]!, Zones: s["zones"]!.AsArray().Select(z => (string)z!["id"]!).ToHashSet()))
            .ToList();
        var mine = turns
            .Where(t => t.Item2 == me)
            .Select(t => all.FindIndex(x => x.Key == t.Item1))
            .Where(i => all.Take(i).All(x => !x.Zones.Overlaps(all[i].Zones)))
            .Append(0)
            .First();
        using var phone = new Browser(390, 844);
        phone.Go(app.Address, $"/jobs/{number}/bay", "tam");
        phone.WaitFor(_ => phone.One(".bay").GetDomAttribute("data-phase") == "start", "start");
        phone.One(".bay-next").Click();
        phone.WaitFor(_ => phone.One(".bay").GetDomAttribute("data-phase") != "start", "begun");
        phone.Texts(".bay-count")[0].ShouldStartWith($"{mine + 1} of ");
    }

    /// <summary>What is done moves the timeline: it begins now, and a film that nobody can be at in time is named with who is nearest.</summary>
    [Fact]
    public async Task A_run_moves_its_timeline_and_a_film_that_will_be_late_is_named()
    {
        var number = await GateTests.Job(app, "orchard-pickup", "wash", "Live Client");
        using var tam = await new LivePhone(app.Address, "tam", number).OpenAsync();
        var path = $"/jobs/{number}/timeline";
        (
            await CloseTests.Post(
                tam.Http,
                path,
                "Crew",
                ("start", "08:00"),
                ("seen", "0"),
                ("on", tam.Who),
                ($"from-{tam.Who}", "00:00"),
                ($"to-{tam.Who}", "23:59")
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
        (await tam.Http.GetStringAsync(path, Stop)).ShouldNotContain("As it stands");
        await tam.BeginAsync();
        var step = tam
            .Doc.GetProperty("steps")
            .EnumerateArray()
            .First(s => s.GetProperty("line").GetBoolean() && !s.GetProperty("under").GetBoolean());
        string[] zones = [step.GetProperty("zones")[0].GetProperty("id").GetString()!];
        var on = new LogBody
        {
            Treatment = step.GetProperty("treatment").GetString(),
            Step = step.GetProperty("key").GetString(),
            Zones = zones,
            Round = 1,
            Win = new(60_000, 300_000, 400_000, 600_000),
        };
        await tam.SyncAsync(tam.Make(LogKind.Applied, on));
        async Task<JsonElement> Turns() =>
            (await tam.Http.GetFromJsonAsync<JsonElement>($"/api/v1/jobs/{number}/bay?device={tam.Device}", Stop)).GetProperty("turns");
        var page = await tam.Http.GetStringAsync(path, Stop);
        page.ShouldContain("As it stands at");
        page.ShouldNotContain("A film will be late");
        (await Turns()).GetProperty("late").GetArrayLength().ShouldBe(0);

        AppFixture.Clock.Advance(TimeSpan.FromMinutes(6));
        page = await tam.Http.GetStringAsync(path, Stop);
        page.ShouldContain("A film will be late");
        var late = (await Turns()).GetProperty("late")[0];
        late.GetProperty("zones").EnumerateArray().Select(z => z.GetString()!).ShouldBe(zones);
        late.GetProperty("who").GetString().ShouldBe(tam.Who);
        late.GetProperty("seconds").GetInt32().ShouldBeInRange(55, 120);
        late.GetProperty("words").GetString()!.ShouldContain("nearest");
        // So does the wall, in the same words.
        async Task<string[]> Wall() =>
            [
                .. (await tam.Http.GetFromJsonAsync<JsonElement>("/api/v1/wall", Stop))
                    .GetProperty("vehicles")
                    .EnumerateArray()
                    .Single(v => v.GetProperty("job").GetInt32() == number)
                    .GetProperty("late")
                    .EnumerateArray()
                    .Select(w => w.GetString()!),
            ];
        (await Wall()).ShouldBe([late.GetProperty("words").GetString()!]);

        // Nothing is set into the past, and what was laid on is nobody's appointment, whoever did it.
        var data = JsonDocument.Parse(RecordTests.Html(page).QuerySelector("[data-timeline] > script")!.TextContent).RootElement;
        var key = data.GetProperty("tasks")[1].GetProperty("key").GetString()!;
        (
            await CloseTests.Post(tam.Http, path, "Move", ("key", key), ("at", "10"), ("seen", data.GetProperty("revision").ToString()))
        ).Status.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await tam.Http.GetStringAsync($"{path}?handler=Calendar", Stop)).ShouldContain("BEGIN:VEVENT");

        // Rinsed: it is behind, and so is that zone's round of the step.
        await tam.SyncAsync(tam.Make(LogKind.Rinsed, new LogBody { Zones = zones, Step = on.Step }));
        (await Turns()).GetProperty("late").GetArrayLength().ShouldBe(0);
        (await Wall()).ShouldBeEmpty();
        (await tam.Http.GetStringAsync(path, Stop)).ShouldNotContain("A film will be late");
        // As it was laid out stands: lateness is measured by it.
        var turns = await Turns();
        turns
            .GetProperty("due")[0]
            .GetProperty("from")
            .GetInt64()
            .ShouldBeLessThan(turns.GetProperty("next")[0].GetProperty("from").GetInt64());
    }

    [Fact]
    public async Task The_days_ahead_are_laid_out_and_a_vehicle_that_is_moved_says_what_it_breaks()
    {
        await GateTests.Job(app, "barn-coupe", "wash", "Waiting Client");
        await GateTests.Job(app, "trail-motorcycle", "wash", "Waiting Client");
        using var bench = new Browser();
        bench.Go(app.Address, "/days", "odile");
        var wait = new OpenQA.Selenium.Support.UI.WebDriverWait(bench.Driver, TimeSpan.FromSeconds(90)) { Message = "the days" };
        wait.Until(_ => bench.All(".days-block").Count > 1);
        bench.Texts(".days-list li").Length.ShouldBeGreaterThan(1);
        var last = bench
            .All(".days-block")
            .Select(b =>
                (
                    Id: b.GetAttribute("data-vehicle")!,
                    At: int.Parse(b.GetAttribute("data-start")!, System.Globalization.CultureInfo.InvariantCulture)
                )
            )
            .MaxBy(b => b.At)
            .Id;
        bench.Driver.ExecuteScript("arguments[0].focus()", bench.One($"[data-vehicle='{last}']"));
        bench.Driver.SwitchTo().ActiveElement().SendKeys(Keys.ArrowLeft);
        bench.WaitFor(_ => bench.Texts("[data-answer-says]")[0].Contains("done", StringComparison.Ordinal), "what it breaks");
        bench.Texts("[data-answer-says]")[0].ShouldContain("bays", Case.Insensitive, "one bay, and another vehicle is in it");
        bench.One("[data-around]").Click();
        bench.WaitFor(_ => bench.All(".days-block.is-pinned").Count == 1, "laid out around it");
        bench.ConsoleErrors().ShouldBeEmpty();
        using var tam = await app.SignedInAsync("tam");
        (await tam.GetAsync("/days?handler=Moved&number=1&at=-5", Stop)).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await tam.GetStringAsync("/days?handler=Lay&pins=x:y,999999:3", Stop)).ShouldContain("class=\"days\"");
        await What_was_set_or_promised_stays(tam, last);
    }

    private static async Task What_was_set_or_promised_stays(HttpClient tam, string vehicle)
    {
        Task<string> Laid() => tam.GetStringAsync("/days?handler=Lay", Stop);
        (await Laid()).ShouldNotContain("set by hand", Case.Insensitive, "what was only tried is not kept");
        (await CloseTests.Post(tam, "/days", "Begin", ("number", vehicle), ("at", "-3"))).Status.ShouldBe(
            HttpStatusCode.UnprocessableEntity
        );
        (await CloseTests.Post(tam, "/days", "Begin", ("number", vehicle), ("at", "7200"))).Status.ShouldBe(HttpStatusCode.OK);
        (await Laid()).ShouldContain("set by hand");
        (await CloseTests.Post(tam, "/days", "Begin", ("number", vehicle), ("at", "0"))).Status.ShouldBe(
            HttpStatusCode.Conflict,
            "somebody had set it meanwhile"
        );
        (await CloseTests.Post(tam, "/days", "Promise", ("number", vehicle), ("at", "soon"))).Said.ShouldContain(
            "is a day and a time, like"
        );
        (await CloseTests.Post(tam, "/days", "Promise", ("number", vehicle), ("at", "2026-11-24T00:30"))).Status.ShouldBe(
            HttpStatusCode.OK
        );
        var late = await Laid();
        late.ShouldContain("later than promised");
        late.ShouldContain("value=\"2026-11-24T00:30\"");
        (await tam.GetStringAsync($"/days?handler=Moved&number={vehicle}&at=7200", Stop)).ShouldContain("it is promised for Tue 00:30");
        using var reader = await AppFixture.SignedInAsync(tam.BaseAddress!, "rowan");
        (await CloseTests.Post(reader, "/days", "Promise", ("number", vehicle), ("at", ""))).Status.ShouldBe(HttpStatusCode.Forbidden);
    }

    [Fact]
    public async Task Hours_and_skills_are_the_owners_to_set_and_timelines_keep_to_them()
    {
        using var odile = await app.SignedInAsync("odile");
        var page = await odile.GetStringAsync("/shop", Stop);
        string[] ids =
        [
            .. System.Text.RegularExpressions.Regex.Matches(page, "name=\"rest-from-([^\"]+)\"").Select(m => m.Groups[1].Value),
        ];
        ids.Length.ShouldBe(2, "whoever only reads has no shift");
        (string, string)[] Said(string from, string rest, params string[] skills) =>
            [
                ("washers", "1"),
                ("ladders", "1"),
                ("bays", "1"),
                .. ids.SelectMany(id =>
                    new[]
                    {
                        ($"from-{id}", from),
                        ($"to-{id}", "17:00"),
                        ($"rest-{id}", rest),
                        ($"rest-from-{id}", "11:30"),
                        ($"rest-to-{id}", "13:30"),
                    }.Concat(skills.Select(s => ($"skill-{id}", s)))
                ),
            ];
        (await CloseTests.Post(odile, "/shop", "Crew", Said("8", "30", "wash"))).Said.ShouldContain("'8' is no time of the day");
        (await CloseTests.Post(odile, "/shop", "Crew", Said("18:00", "30", "wash"))).Said.ShouldContain("there is no shift");
        (await CloseTests.Post(odile, "/shop", "Crew", Said("08:00", "150", "wash"))).Said.ShouldContain("does not fit");
        (await CloseTests.Post(odile, "/shop", "Crew", Said("08:00", "30", "wash"))).Status.ShouldBe(HttpStatusCode.OK);
        var number = await GateTests.Job(app, "touring-saloon", "protect", "Skilled Client");
        (await odile.GetStringAsync($"/jobs/{number}/timeline", Stop)).ShouldContain("nobody who can do it");
        await CloseTests.Post(odile, "/shop", "Crew", Said("08:00", "30", "wash", "wheels", "clay", "chem"));
        (await odile.GetStringAsync($"/jobs/{number}/timeline", Stop)).ShouldContain("class=\"tl\"");
        // Whoever begins when their break could have been taken whole has taken it; whoever begins before it has not.
        foreach (var (begin, seen, rests) in new[] { ("11:00", "0", true), ("12:30", "1", false) })
        {
            await CloseTests.Post(
                odile,
                $"/jobs/{number}/timeline",
                "Crew",
                ("start", begin),
                ("on", ids[0]),
                ($"from-{ids[0]}", "08:00"),
                ($"to-{ids[0]}", "17:00"),
                ("seen", seen)
            );
            (await odile.GetStringAsync($"/jobs/{number}/timeline", Stop))
                .Contains("tl-rest", StringComparison.Ordinal)
                .ShouldBe(rests, begin);
        }
    }

    [Fact]
    public async Task The_api_lays_a_survey_out_and_names_what_is_wrong()
    {
        using var http = await app.SignedInAsync("tam");
        var survey = await File.ReadAllTextAsync(
            Path.Combine(Environment.GetEnvironmentVariable("TOUGHSTART_DEMO")!, "barn-coupe.json"),
            Stop
        );
        async Task<(HttpStatusCode, string)> Ask(string rest)
        {
            var answer = await http.PostAsync(
                "/api/v1/timeline",
                new StringContent($$"""{ "survey": {{survey}}{{rest}} }""", Encoding.UTF8, "application/json"),
                Stop
            );
            return (answer.StatusCode, await answer.Content.ReadAsStringAsync(Stop));
        }

        var (ok, document) = await Ask(
            """, "people": [{ "id": "a", "skills": ["wash", "chem", "clay"], "shifts": [[0, 20000]], "rest": { "seconds": 600, "from": 300, "to": 2400 } }, { "id": "b" }]"""
        );
        ok.ShouldBe(HttpStatusCode.OK);
        TimelineCheck.Check(Encoding.UTF8.GetBytes(document)).ShouldBeEmpty();
        JsonNode.Parse(document)!["tasks"]!
            .AsArray()
            .Where(t => (string?)t!["skill"] == "wheels")
            .ShouldAllBe(t => (string?)t!["who"] == "b", "whoever can do wheels does them");
        (await Ask(""", "washers": 0""")).Item2.ShouldContain("must be a whole number from 1 to 6");
        (await Ask(""", "people": []""")).Item2.ShouldContain("must be 1 to 6");
        (await Ask(""", "people": [{ "id": "a", "shifts": [[5, 5]] }]""")).Item2.ShouldContain("people[0].shifts");
        (await Ask(""", "people": [{ "id": "a", "shifts": [[0, 60]] }]""")).Item2.ShouldContain("there long enough", Case.Insensitive);
        (await Ask(""", "people": [{ "id": "a", "skills": ["welding"] }]""")).Item2.ShouldContain("people[0].skills");
        (await Ask(""", "people": [{ "id": "a", "rest": { "seconds": 600, "from": 0, "to": 300 } }]""")).Item2.ShouldContain(
            "people[0].rest"
        );
    }
}
