using System.Text.Json.Nodes;
using ToughStart.Core.Formats;
using ToughStart.Data;

namespace ToughStart.Web.Tests;

/// <summary>The gate: a job that was worked by paper is inspected, marked, judged otherwise.</summary>
[Collection("bay")]
public sealed class GateTests(AppFixture app)
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    private Task<int> Job(string demo, string goal) => Job(app, demo, goal, "Gate Tester");

    /// <summary>A vehicle of the demo's, taken in anew.</summary>
    internal static async Task<int> Job(AppFixture app, string demo, string goal, string client)
    {
        await using var db = app.NewContext();
        var body = await File.ReadAllTextAsync(Path.Combine(Environment.GetEnvironmentVariable("TOUGHSTART_DEMO")!, demo + ".json"), Stop);
        var json = JsonNode.Parse(body)!;
        json["goal"] = goal;
        return await new JobStore(db, AppFixture.Clock).TakeInAsync(
            new Contact(client, null, null, "Gate vehicle", "GAT " + Random.Shared.Next(10000, 99999)),
            TickingClock.Today,
            "For the gate.",
            new IntakeWishes(),
            SurveyFormat.Read(System.Text.Encoding.UTF8.GetBytes(json.ToJsonString())).Value!,
            "test",
            Stop
        );
    }

    /// <summary>Every step of the plan done as planned, with the answer that ends it.</summary>
    internal static async Task Work(HttpClient http, int number)
    {
        (await RunTests.TakeAsync(http, number)).EnsureSuccessStatusCode();
        var plan = JsonNode.Parse(await http.GetStringAsync($"/api/v1/jobs/{number}/plan", Stop))!;
        var events = plan["steps"]!
            .AsArray()
            .Where(s => s!["stage"]!.GetValue<string>() != "dry")
            .Select(s =>
            {
                var e = new JsonObject
                {
                    ["id"] = Guid.CreateVersion7().ToString(),
                    ["plan"] = 1,
                    ["step"] = s!["key"]!.GetValue<string>(),
                    ["zones"] = s["zones"]!.DeepClone(),
                    ["rounds"] = s["rounds"]!.DeepClone(),
                };
                if (s["until"] is JsonObject until)
                {
                    e["observe"] = until["observe"]!.DeepClone();
                    e["result"] = until["stop"]![0]!.DeepClone();
                }

                return (JsonNode)e;
            })
            .ToArray();
        foreach (var e in events)
        {
            (await RunTests.SendAsync(http, HttpMethod.Post, $"/api/v1/jobs/{number}/events", new JsonArray(e))).EnsureSuccessStatusCode();
        }
    }

    [Fact]
    public async Task A_zone_is_ready_when_it_was_looked_at_twice_and_somebody_may_say_otherwise_by_name()
    {
        var number = await Job("touring-saloon", "protect");
        using var tam = await app.SignedInAsync("tam");
        await Work(tam, number);
        using var b = new Browser();
        b.Go(app.Address, $"/jobs/{number}/gate?zone=bonnet");
        b.Texts(".gate-head p")[0].ShouldContain("unverified", Case.Insensitive, "not looked is not clean");
        b.All(".gate-stops li").Count.ShouldBeInRange(1, 25, "a walk, not a list of every panel");

        // Two looks on two spots; what nobody could tell comes again.
        Look("upper edge");
        b.Texts(".gate-why")[0].ShouldContain("second look");
        Look("lower edge");
        b.Texts(".gate-head p")[0].ShouldContain("ready to protect", Case.Insensitive);
        b.Texts(".gate-why")[0].ShouldContain("of 100");
        b.Texts(".gate-wrong")[0].ShouldContain("of 1 zone called ready", Case.Insensitive);

        // Damage, drawn where it is.
        b.Press(b.One(".gate-damage details > summary"));
        b.One("select[name=kind]").SendKeys("scratch");
        b.One("input[name=mm]").SendKeys("44");
        b.Press(b.One("input[name=nail]"));
        Send("form.gate-draw button");
        b.Texts(".gate-head p")[0].ShouldContain("refer: a painter", Case.Insensitive, "a nail catches in it");
        b.Texts(".gate-flaw span")[0].ShouldContain("44 mm");

        // Somebody judges otherwise, by name; both stay.
        b.Press(b.One(".gate-otherwise > summary"));
        b.One("select[name=word]").SendKeys("ready");
        b.One(".gate-otherwise input[name=reason]").SendKeys("will be lined");
        Send(".gate-otherwise button");
        b.Texts(".gate-head p")[0].ShouldContain("ready to protect", Case.Insensitive);
        var signature = b.Texts(".gate-signature")[0];
        signature.ShouldContain("Tam");
        signature.ShouldContain("will be lined");
        signature.ShouldContain("refer");

        // Whatever is seen afterwards ends it.
        Look("middle");
        b.Texts(".gate-head p")[0].ShouldContain("refer", Case.Insensitive);
        b.Texts(".gate-signature")[0].ShouldContain("counts no more");
        b.ConsoleErrors().ShouldBeEmpty();

        void Send(string button)
        {
            // The page that answers is another one.
            b.Driver.ExecuteScript("document.documentElement.dataset.before = 'yes'");
            b.Press(b.One(button));
            b.WaitFor(_ => b.All("html[data-before]").Count == 0, "the answer");
            b.WaitReady();
        }

        void Look(string spot)
        {
            foreach (var first in b.All(".gate-look fieldset .answer:first-child input"))
            {
                b.Driver.ExecuteScript("arguments[0].click()", first);
            }

            b.One("select[name=spot]").SendKeys(spot);
            Send(".gate-look > .primary-link");
        }
    }

    [Fact]
    public async Task What_cannot_be_is_refused_by_the_name_of_its_field_and_nothing_is_written()
    {
        var number = await Job("touring-saloon", "correct");
        using var tam = await app.SignedInAsync("tam");
        async Task<string> Post(string handler, HttpClient who, System.Net.HttpStatusCode expected, params (string, string)[] fields)
        {
            var form = await RecordTests.Form(who, $"/jobs/{number}/gate?zone=bonnet");
            foreach (var (name, value) in fields)
            {
                form[name] = value;
            }

            var answer = await who.PostAsync($"/jobs/{number}/gate?handler={handler}", new FormUrlEncodedContent(form), Stop);
            var said = System.Net.WebUtility.HtmlDecode(await answer.Content.ReadAsStringAsync(Stop));
            answer.StatusCode.ShouldBe(expected, said.Length > 400 ? handler : said);
            return said;
        }

        const System.Net.HttpStatusCode Bad = System.Net.HttpStatusCode.UnprocessableEntity,
            Conflict = System.Net.HttpStatusCode.Conflict;
        (await Post("Look", tam, Conflict, ("zone", "bonnet"), ("answer-touch", "smooth"))).ShouldContain("no plan is in force");
        await Work(tam, number);
        (await Post("Look", tam, Bad, ("zone", "bonnet"))).ShouldContain("answer: choose what you saw");
        (await Post("Look", tam, Bad, ("zone", "bonnet"), ("answer-touch", "sticky"))).ShouldContain("touch: is none of the answers");
        (await Post("Look", tam, Bad, ("zone", "bonnet"), ("answer-touch", "inconclusive"))).ShouldContain("because: say why");
        (await Post("Look", tam, Bad, ("zone", "wing-of-a-plane"), ("answer-touch", "smooth"))).ShouldContain("zone");
        (await Post("Judge", tam, Bad, ("zone", "bonnet"), ("word", "ready"), ("reason", ""), ("upTo", "0"))).ShouldContain(
            "reason: say why"
        );
        (await Post("Judge", tam, Conflict, ("zone", "bonnet"), ("word", "ready"), ("reason", "I say so"), ("upTo", "0"))).ShouldContain(
            "something came to it meanwhile"
        );
        (await Post("Mark", tam, Bad, ("zone", "bonnet"), ("kind", "hole"), ("mm", "-1"), ("decision", "noted"))).ShouldContain(
            "kind: say what"
        );
        (await Post("Film", tam, Bad, ("zone", "bonnet"), ("readings", "112 118"))).ShouldContain("three readings");
        using var rowan = await app.SignedInAsync("rowan");
        await using var db = app.NewContext();
        var job = db.Jobs.Single(j => j.Number == number).Id;
        db.Events.Count(e => e.JobId == job && e.Kind == "judged").ShouldBe(0);
        db.Marks.Count(m => m.JobId == job).ShouldBe(0);

        // Could not tell is written down, and is never clean.
        (
            await Post(
                "Look",
                tam,
                System.Net.HttpStatusCode.OK,
                ("zone", "bonnet"),
                ("answer-bleed", "inconclusive"),
                ("because", "masked-colour")
            )
        ).ShouldContain("could not tell, the paint hides it");
        (await Post("Film", tam, System.Net.HttpStatusCode.OK, ("zone", "bonnet"), ("readings", "70 74 72"))).ShouldContain(
            "Thin: no machine on it"
        );
    }

    /// <summary>A picture of damage hangs on the damage: at the gate beside its words, in the report beside its line, and nowhere else.</summary>
    [Fact]
    public async Task A_picture_of_damage_stands_beside_it()
    {
        var number = await Job("touring-saloon", "correct");
        using var tam = await app.SignedInAsync("tam");
        await Work(tam, number);
        var gate = $"/jobs/{number}/gate?zone=bonnet";
        await CloseTests.Post(
            tam,
            $"/jobs/{number}/gate",
            "Mark",
            ("zone", "bonnet"),
            ("kind", "scratch"),
            ("mm", "14"),
            ("x", "0.4"),
            ("y", "0.6"),
            ("decision", "recommended")
        );
        await using var db = app.NewContext();
        var mark = db.Marks.Single(m => db.Jobs.Any(j => j.Id == m.JobId && j.Number == number));
        Task<HttpResponseMessage> Send(Guid of, string zone) =>
            RecordTests.SendFile(
                tam,
                $"/jobs/{number}/photos",
                "a.jpg",
                RecordTests.JpegWithComment([1, 2, 3]),
                new()
                {
                    ["Zone"] = zone,
                    ["Moment"] = "before",
                    ["Mark"] = of.ToString(),
                }
            );
        (await Send(Guid.NewGuid(), "bonnet")).StatusCode.ShouldBe(System.Net.HttpStatusCode.UnprocessableEntity);
        (await Send(mark.Id, "roof")).StatusCode.ShouldBe(System.Net.HttpStatusCode.UnprocessableEntity, "it is on the bonnet");
        (await Send(mark.Id, "bonnet")).StatusCode.ShouldBe(System.Net.HttpStatusCode.OK);
        var page = RecordTests.Html(await tam.GetStringAsync(gate, Stop));
        page.QuerySelectorAll(".gate-flaw img").Length.ShouldBe(1);
        page.QuerySelectorAll(".gate-photos img").ShouldBeEmpty();

        // A year on, the logbook has it beside its line, refused by the client as it was.
        await CloseTests.Post(
            tam,
            $"/jobs/{number}/gate",
            "Decide",
            ("zone", "bonnet"),
            ("mark", mark.Id.ToString()),
            ("decision", "declined")
        );
        var job = db.Jobs.Single(j => j.Id == mark.JobId);
        await CloseTests.Post(
            tam,
            $"/jobs/{number}/close",
            "",
            [("sure", "true"), ("brakes", "true"), ("keys", "true"), .. await CloseTests.Used(app, number)]
        );
        var line = RecordTests
            .Html(await tam.GetStringAsync($"/logbook/{job.VehicleId}", Stop))
            .QuerySelectorAll(".visit p")
            .Single(p => p.TextContent.Contains("declined", StringComparison.Ordinal));
        line.QuerySelectorAll("img").Length.ShouldBe(1);
    }
}
