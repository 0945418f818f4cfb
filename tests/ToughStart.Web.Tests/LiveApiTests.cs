using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using System.Text.RegularExpressions;
using Microsoft.AspNetCore.SignalR.Client;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using ToughStart.Core.Formats;
using ToughStart.Core.Running.Live;
using ToughStart.Data;
using ToughStart.Web.Bay;

namespace ToughStart.Web.Tests;

/// <summary>The live log over the wire: facts queue and are never lost or doubled, decisions ask, nobody writes under another name.</summary>
[Collection("bay")]
public sealed class LiveApiTests(AppFixture app)
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    private static (string Treatment, string[] Zones, string Key, LiveWindow Win) Wet(JsonElement doc)
    {
        var step = doc.GetProperty("steps").EnumerateArray().First(s => s.GetProperty("line").GetBoolean());
        var zone = step.GetProperty("zones")[0];
        var win = zone.GetProperty("win")[0].EnumerateArray().Select(w => w.GetInt64()).ToArray();
        return (
            step.GetProperty("treatment").GetString()!,
            [zone.GetProperty("id").GetString()!],
            step.GetProperty("key").GetString()!,
            new(win[0], win[1], win[2], win[3])
        );
    }

    private static string[] Aside(JsonElement said) =>
        [.. said.GetProperty("aside").EnumerateArray().Select(a => a.GetProperty("why").GetString()!)];

    [Fact]
    public async Task Facts_are_stored_once_in_the_phones_own_order_and_seen_by_the_others()
    {
        using var tam = await new LivePhone(app.Address, "tam", 106).OpenAsync();
        using var odile = await new LivePhone(app.Address, "odile", 106).OpenAsync();
        using var again = await new LivePhone(app.Address, "tam", 106).OpenAsync();
        await tam.BeginAsync();
        (await odile.DecideAsync(new { id = Guid.NewGuid(), kind = "started" })).StatusCode.ShouldBe(
            HttpStatusCode.Conflict,
            "it was begun"
        );
        await tam.SyncAsync();
        var (treatment, zones, key, win) = Wet(tam.Doc);
        var on = new LogBody
        {
            Treatment = treatment,
            Zones = zones,
            Step = key,
            Win = win,
            Ml = 20,
        };
        var applied = tam.Make(LogKind.Applied, on);
        var first = await tam.SyncAsync(applied);
        var number = first.GetProperty("acks")[0][1].GetInt32();
        (await tam.SyncAsync(applied)).GetProperty("acks")[0][1].GetInt32().ShouldBe(number, "the same entry keeps its number");

        // Sent by many at once: one of them is stored.
        var rinsed = tam.Make(LogKind.Rinsed, new LogBody { Zones = zones, Step = key });
        var acks = await Task.WhenAll(
            Enumerable.Range(0, 6).Select(async _ => await (await tam.SendAsync(rinsed)).Content.ReadFromJsonAsync<JsonElement>(Stop))
        );
        acks.Select(a => a.GetProperty("acks")[0][1].GetInt32()).Distinct().ShouldBe([number + 1]);

        // One out of turn is asked for, not stored.
        var late = tam.Make(
            LogKind.Seen,
            new LogBody
            {
                Zones = zones,
                Observe = "touch",
                Result = "smooth",
            },
            seq: 9
        );
        var want = await tam.SyncAsync(late);
        (want.GetProperty("want").GetInt32(), want.GetProperty("acks").GetArrayLength()).ShouldBe((3, 0));

        // A copied store: its number is used by another entry.
        again.Device = tam.Device;
        (
            await new LivePhone(app.Address, "tam", 106) { Device = tam.Device }
                .OpenAsync()
                .ContinueWith(async p => await (await p).SyncAsync((await p).Make(LogKind.Paused, LogBody.Empty, seq: 1)), Stop)
                .Unwrap()
        ).GetProperty("conflict").GetBoolean().ShouldBeTrue();

        var log = await odile.SyncAsync();
        log.GetProperty("events")
            .EnumerateArray()
            .Select(e => e.GetProperty("number").GetInt32())
            .ShouldBe(Enumerable.Range(1, number + 1));
        var state = log.GetProperty("events")
            .EnumerateArray()
            .Select(e => LogFormat.Read(e).Entry!)
            .Aggregate(LiveState.Start, Live.Reduce);
        state.Zones[zones[0]].Rounds[treatment].ShouldBe(1);
        state.IsWet.ShouldBeFalse();
        var run = await app.Http.GetFromJsonAsync<JsonElement>("/api/v1/jobs/106/run", Stop);
        var zone = run.GetProperty("zones").EnumerateArray().First(z => z.GetProperty("zone").GetString() == zones[0]);
        zone.GetProperty("rounds").GetProperty(treatment).GetInt32().ShouldBe(1, "beliefs hear of it");
        zone.GetProperty("steps")
            .EnumerateObject()
            .ShouldAllBe(s => s.Value.GetProperty("implied").GetInt32() == 0, "no earlier step is implied");
    }

    [Fact]
    public async Task What_cannot_be_taken_in_is_told_and_stops_nothing_else()
    {
        using var tam = await new LivePhone(app.Address, "tam", 107).OpenAsync();
        await tam.BeginAsync();
        var (treatment, zones, key, win) = Wet(tam.Doc);
        var now = AppFixture.Clock.GetUtcNow().ToUnixTimeMilliseconds();
        var good = new LogBody
        {
            Zones = zones,
            Observe = "touch",
            Result = "smooth",
        };
        LogEvent[] bad =
        [
            tam.Make(LogKind.Rinsed, new LogBody { Zones = ["left-wing-of-an-aeroplane"] }),
            tam.Make(
                LogKind.Applied,
                new LogBody
                {
                    Zones = zones,
                    Treatment = "magic",
                    Win = win,
                }
            ),
            tam.Make(LogKind.Closed, new LogBody { UpTo = 1 }),
            tam.Make(LogKind.Rescaled, new LogBody { Zones = zones, PerMille = 9000 }),
            tam.Make(
                LogKind.Seen,
                new LogBody
                {
                    Zones = zones,
                    Observe = "bleed",
                    Result = "inconclusive",
                }
            ),
            tam.Make(LogKind.Seen, good) with
            {
                Device = Guid.NewGuid().ToString(),
            },
        ];
        var ok = tam.Make(LogKind.Seen, good);
        var future = tam.Make(
            LogKind.Seen,
            good with
            {
                Observe = "water",
                Result = "beads",
            },
            when: new Moment(now + 3_600_000_0, now + 3_600_000_0 - 5, now + 3_600_000_0 + 5)
        );
        var poison = JsonDocument.Parse($$"""{ "id": "{{Guid.NewGuid()}}", "seq": 9, "kind": "nonsense" }""").RootElement;
        var after = tam.Make(LogKind.Seen, good with { Observe = "cloth", Result = "clean" }, seq: 10);
        var unknownStep = tam.Make(LogKind.Seen, good with { Observe = "touch", Step = "no/such/step" }, seq: 11);
        JsonElement[] sent = [.. bad.Append(ok).Append(future).Select(Json), poison, Json(after), Json(unknownStep)];
        var answer = await tam.SendAsync(sent, null);
        answer.StatusCode.ShouldBe(HttpStatusCode.OK);
        var said = await answer.Content.ReadFromJsonAsync<JsonElement>(Stop);
        var why = Aside(said);
        why.Length.ShouldBe(7);
        why[0].ShouldContain("no zone of this vehicle");
        why[1].ShouldContain("'magic' is not known");
        why[2].ShouldContain("decision");
        why[3].ShouldContain("written by the server");
        why[4].ShouldContain("body.because");
        why[5].ShouldContain("another phone's");
        why[6].ShouldContain("kind");
        var stored = said.GetProperty("events").EnumerateArray().Select(e => LogFormat.Read(e).Entry!).ToArray();
        stored.Select(e => e.Id).ShouldBe([ok.Id, future.Id, after.Id, unknownStep.Id]);
        stored[1].When.At.ShouldBeLessThanOrEqualTo(stored[1].Received, "nothing happens after it is known");

        // What lies aside does not stand in the way of what comes later either.
        var more = tam.Make(LogKind.Paused, LogBody.Empty, seq: 12);
        var gone = await (await tam.SendAsync([Json(more)], [1, 2, 3, 4, 5, 6, 9])).Content.ReadFromJsonAsync<JsonElement>(Stop);
        gone.GetProperty("acks")[0][0].GetString().ShouldBe(more.Id);

        (await tam.SendAsync([.. Enumerable.Repeat(Json(ok), 101)], null)).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await tam.SendAsync([Json(ok)], null, ticket: "forged")).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);

        static JsonElement Json(LogEvent e) => JsonDocument.Parse(LogFormat.Write(e)).RootElement;
    }

    [Fact]
    public async Task Nobody_writes_under_another_name_and_a_reader_only_looks()
    {
        using var tam = await new LivePhone(app.Address, "tam", 106).OpenAsync();
        var forged = tam.Make(LogKind.Paused, LogBody.Empty) with { Who = "odile" };
        var said = await (await tam.SendAsync(forged)).Content.ReadFromJsonAsync<JsonElement>(Stop);
        (said.GetProperty("signIn").GetBoolean(), said.GetProperty("acks").GetArrayLength()).ShouldBe((true, 0));

        using var reader = await new LivePhone(app.Address, ToughStart.Web.Identity.SignInSetup.Demo[^1].User, 106).OpenAsync();
        reader.Doc.GetProperty("me").GetProperty("mayEdit").GetBoolean().ShouldBeFalse();
        var looks = await (await reader.SendAsync(reader.Make(LogKind.Paused, LogBody.Empty))).Content.ReadFromJsonAsync<JsonElement>(Stop);
        looks.GetProperty("acks").GetArrayLength().ShouldBe(0, "a reader's ticket brings, and takes nothing");
        (await reader.DecideAsync(new { id = Guid.NewGuid(), kind = "started" })).StatusCode.ShouldBe(HttpStatusCode.Forbidden);
        // Another phone's ticket is none here.
        reader.Device = Guid.NewGuid().ToString();
        (await reader.SendAsync()).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task Where_nothing_may_start_nothing_starts_and_nonsense_is_told()
    {
        using var tam = await new LivePhone(app.Address, "tam", 105).OpenAsync();
        var hash = tam.Doc.GetProperty("hash").GetString();
        var refused = await tam.DecideAsync(
            new
            {
                id = Guid.NewGuid(),
                kind = "started",
                hash,
            }
        );
        refused.StatusCode.ShouldBe(HttpStatusCode.Conflict);
        (await refused.Content.ReadAsStringAsync(Stop)).ShouldContain("nothing may start here");
        var (state, _) = await StateAsync(105);
        (state.Started, state.Number).ShouldBe((null, 0));
        foreach (
            var nonsense in new[]
            {
                "[]",
                "7",
                "{}",
                """{ "device": 5 }""",
                $$"""{ "device": "{{tam.Device}}" }""",
                $$"""{ "device": "{{tam.Device}}", "tickets": { "a": 5, "b": null } }""",
                $$"""
                    { "device": "{{tam.Device}}", "from": "x", "tickets": { "a": "{{tam.Ticket}}", "b": "{{tam.Ticket}}" },
                      "events": [ { "seq": "x" }, 5, null ], "gone": [ "y", 1.5 ] }
                    """,
            }
        )
        {
            using var body = new StringContent(nonsense, System.Text.Encoding.UTF8, "application/json");
            var answer = await tam.Http.PostAsync(new Uri("/api/v1/jobs/105/sync", UriKind.Relative), body, Stop);
            ((int)answer.StatusCode).ShouldBeLessThan(500, nonsense);
        }

        foreach (var kind in new[] { "closed", "judged", "", null })
        {
            (await tam.DecideAsync(new { id = Guid.NewGuid(), kind })).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        }

        (await tam.DecideAsync(new { kind = "started" })).StatusCode.ShouldBe(
            HttpStatusCode.UnprocessableEntity,
            "an id makes a retry harmless"
        );
    }

    [Fact]
    public async Task A_refused_plan_is_not_offered_again_and_a_taken_one_is_told_by_the_log()
    {
        using var tam = await new LivePhone(app.Address, "tam", 109).OpenAsync();
        await tam.BeginAsync();
        var step = tam.Doc.GetProperty("steps").EnumerateArray().First(s => s.GetProperty("until").ValueKind == JsonValueKind.Object);
        var zones = step.GetProperty("zones").EnumerateArray().Select(z => z.GetProperty("id").GetString()!).ToArray();
        await tam.SyncAsync(
            tam.Make(
                LogKind.Worked,
                new LogBody
                {
                    Zones = zones,
                    Treatment = step.GetProperty("treatment").GetString(),
                    Step = step.GetProperty("key").GetString(),
                }
            )
        );
        JsonElement Offer() => tam.Doc.GetProperty("offer");
        await tam.OpenAsync();
        Offer().ValueKind.ShouldBe(JsonValueKind.Object, "work that no plan foresaw in this order changes what comes");
        var hash = Offer().GetProperty("hash").GetString();
        (
            await tam.DecideAsync(
                new
                {
                    id = Guid.NewGuid(),
                    kind = "replanned",
                    answer = "refuse",
                    hash,
                }
            )
        ).StatusCode.ShouldBe(HttpStatusCode.OK);
        await tam.OpenAsync();
        (Offer().ValueKind == JsonValueKind.Null || Offer().GetProperty("hash").GetString() != hash).ShouldBeTrue();
        (
            await tam.DecideAsync(
                new
                {
                    id = Guid.NewGuid(),
                    kind = "replanned",
                    answer = "take",
                    hash = "another",
                }
            )
        ).StatusCode.ShouldBe(HttpStatusCode.Conflict);
        (
            await tam.DecideAsync(
                new
                {
                    id = Guid.NewGuid(),
                    kind = "replanned",
                    answer = "take",
                    hash,
                }
            )
        ).StatusCode.ShouldBe(HttpStatusCode.OK);
        var log = await tam.SyncAsync();
        var state = (await StateAsync(109)).State;
        (state.Plan, state.News.Length).ShouldBe((2, 0));
        state.Refused.ShouldBe([hash!]);
        log.GetProperty("events").EnumerateArray().Last().GetProperty("kind").GetString().ShouldBe("replanned");
    }

    [Fact]
    public async Task A_hot_panel_shortens_its_line_what_is_poured_leaves_its_bottle_and_nobody_closes_over_a_film()
    {
        using var tam = await new LivePhone(app.Address, "tam", 110).OpenAsync();
        await tam.BeginAsync();
        await using var db = app.NewContext();
        var bottle = await db.Kit.FirstAsync(k => k.Kind == "bottle" || k.Kind == "sprayer", Stop);
        var product = await db.Products.FirstAsync(Stop);
        var mix = new MixRecord
        {
            Number = 9001,
            ProductId = product.Id,
            BottleId = bottle.Id,
            Fraction = 0.1,
            ProductMl = 50,
            WaterMl = 450,
            LeftMl = 500,
            State = "in-use",
            DiscardBy = TickingClock.Today.AddDays(9),
            Author = "tam",
            At = TickingClock.Start,
        };
        db.Mixes.Add(mix);
        await db.SaveChangesAsync(Stop);
        var step = tam
            .Doc.GetProperty("steps")
            .EnumerateArray()
            .First(s => s.GetProperty("line").GetBoolean() && s.GetProperty("zones")[0].GetProperty("win")[0][2].GetInt64() < 3_600_000);
        var win = step.GetProperty("zones")[0].GetProperty("win")[0].EnumerateArray().Select(w => w.GetInt64()).ToArray();
        string[] zones = [step.GetProperty("zones")[0].GetProperty("id").GetString()!];
        var treatment = step.GetProperty("treatment").GetString()!;
        await tam.SyncAsync(
            tam.Make(
                LogKind.Applied,
                new LogBody
                {
                    Treatment = treatment,
                    Zones = zones,
                    Win = new(win[0], win[1], win[2], win[3]),
                    Ml = 8,
                    Mix = 9001,
                }
            )
        );
        (await db.Mixes.AsNoTracking().SingleAsync(m => m.Number == 9001, Stop)).LeftMl.ShouldBe(
            420,
            "8 ml of product are 80 ml at one in ten"
        );
        async Task<decimal> Left() => (await db.Mixes.AsNoTracking().SingleAsync(m => m.Number == 9001, Stop)).LeftMl;

        // Nothing was put on after all: it is in the bottle still, and only once.
        var mistaken = tam.Make(
            LogKind.Applied,
            new LogBody
            {
                Treatment = treatment,
                Zones = [step.GetProperty("zones")[1].GetProperty("id").GetString()!],
                Win = new(win[0], win[1], win[2], win[3]),
                Ml = 5,
                Mix = 9001,
            }
        );
        await tam.SyncAsync(mistaken);
        (await Left()).ShouldBe(370);
        await tam.SyncAsync(tam.Make(LogKind.Undone, new LogBody { Of = [mistaken.Id] }));
        (await Left()).ShouldBe(420);
        await tam.SyncAsync(tam.Make(LogKind.Undone, new LogBody { Of = [mistaken.Id] }));
        (await Left()).ShouldBe(420, "it was taken back already");
        var wet = (await StateAsync(110)).State.Zones[zones[0]].Lines[treatment].Single();

        var hot = tam.Make(
            LogKind.Measured,
            new LogBody
            {
                What = "panel",
                Value = 48,
                Zones = zones,
            }
        );
        await tam.SyncAsync(hot);
        await tam.SyncAsync(hot);
        var (state, job) = await StateAsync(110);
        var hotter = state.Zones[zones[0]].Lines[treatment].Single();
        hotter.Dry.ShouldBeLessThan(wet.Dry);
        hotter.Max.ShouldBe(wet.Max, "the label knows no weather");
        (await db.Events.CountAsync(e => e.JobId == job && e.Kind == "rescaled", Stop)).ShouldBe(1, "one reading is reckoned once");
        await tam.SyncAsync(tam.Make(LogKind.Measured, hot.Body));
        (await StateAsync(110)).State.Zones[zones[0]].Lines[treatment].Single().ShouldBe(hotter, "the same heat read again is no hotter");

        // A phone that is not heard for a while is away, by the name of who holds it: what it made since nobody knows.
        async Task<string[]> Away() =>
            [
                .. (await app.Http.GetFromJsonAsync<JsonElement>("/api/v1/wall", Stop))
                    .GetProperty("vehicles")
                    .EnumerateArray()
                    .Where(v => v.GetProperty("job").GetInt32() == 110)
                    .SelectMany(v => v.GetProperty("away").EnumerateArray())
                    .Select(a => a.GetProperty("who").GetString()!),
            ];
        (await Away()).ShouldBeEmpty();
        AppFixture.Clock.Advance(TimeSpan.FromMinutes(2));
        (await Away()).ShouldHaveSingleItem();

        var close = new Uri("/jobs/110/close", UriKind.Relative);
        System.Net.WebUtility.HtmlDecode(await app.Http.GetStringAsync(close, Stop)).ShouldContain("Still wet, as the bay has it");
        await tam.SyncAsync(tam.Make(LogKind.Rinsed, new LogBody { Zones = zones }));
        (await app.Http.GetStringAsync(close, Stop)).ShouldNotContain("Still wet");
        await using var scope = app.Services.CreateAsyncScope();
        await scope.ServiceProvider.GetRequiredService<Stations.RunBook>().CloseAsync(job, "tam", Stop);
        await tam.SyncAsync();
        await tam.SyncAsync(tam.Make(LogKind.Used, new LogBody { Product = "apc", Ml = 40 }));
        var closed = (await StateAsync(110)).State;
        closed.Closed!.Totals.Ml.Values.Sum().ShouldBe(8);
        (closed.Late.Length, Live.TotalsOf(closed).Ml.Values.Sum()).ShouldBe((1, 48), "what comes late is told apart");
    }

    [Fact]
    public async Task Every_instance_hears_of_what_another_stored()
    {
        using var tam = await new LivePhone(app.Address, "tam", 106).OpenAsync();
        await using var hub = tam.Hub();
        var heard = new TaskCompletionSource<(int Job, int Number)>();
        hub.On<int, int>(BayHub.Head, (job, number) => heard.TrySetResult((job, number)));
        await hub.StartAsync(Stop);
        (await hub.InvokeAsync<bool>("Join", 106, Stop)).ShouldBeTrue();
        (await hub.InvokeAsync<bool>("Join", 999_999, Stop)).ShouldBeFalse();
        // Another instance: another process would store it just so, through a store of its own.
        await using var db = app.NewContext();
        var store = new RunStore(db, new ShelfStore(db, AppFixture.Clock), AppFixture.Clock);
        var job = (await new JobStore(db, AppFixture.Clock).IdAsync(106, Stop))!.Value;
        var entry = tam.Make(LogKind.Paused, LogBody.Empty, seq: 1) with { Device = Guid.NewGuid().ToString() };
        var synced = await store.SyncAsync(job, entry.Device, [entry], new HashSet<int>(), Stop);
        (await heard.Task.WaitAsync(TimeSpan.FromSeconds(10), Stop)).ShouldBe((106, synced.Acks[0].Number));
        // Nothing can be written through the hub, and nobody listens who has not signed in.
        typeof(BayHub)
            .GetMethods(
                System.Reflection.BindingFlags.DeclaredOnly
                    | System.Reflection.BindingFlags.Public
                    | System.Reflection.BindingFlags.Instance
            )
            .Select(m => m.Name)
            .ShouldBe(["Join", "JoinWall"], ignoreOrder: true);
        using var stranger = await app.SignedInAsync(null);
        (await stranger.PostAsync(new Uri("/hub/bay/negotiate?negotiateVersion=1", UriKind.Relative), null, Stop)).StatusCode.ShouldBe(
            HttpStatusCode.Redirect
        );
    }

    private async Task<(LiveState State, Guid Job)> StateAsync(int number)
    {
        await using var db = app.NewContext();
        var job = (await new JobStore(db, AppFixture.Clock).IdAsync(number, Stop))!.Value;
        var log = await new RunStore(db, new ShelfStore(db, AppFixture.Clock), AppFixture.Clock).LogAsync(job, stop: Stop);
        return (log.Aggregate(LiveState.Start, Live.Reduce), job);
    }
}
