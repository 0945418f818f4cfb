using System.Diagnostics;
using System.Net.Http.Json;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using ToughStart.Core.Formats;
using ToughStart.Core.Running.Live;
using ToughStart.Data;

namespace ToughStart.Web.Tests;

/// <summary>
/// Two phones race and one is away for an hour, their clocks are ten minutes off either way, answers are lost, and the application is killed
/// again and again without a word, and the database too. Runs when asked for (./tough-start torture live); a short one stands in
/// <see cref="LiveInstancesTests"/>. Nothing that was acknowledged is lost, nothing is there twice.
/// </summary>
[Collection("bay")]
public sealed class LiveTortureTests(AppFixture app)
{
    private const int Job = 111;
    private static readonly int Most = int.TryParse(Environment.GetEnvironmentVariable("TOUGHSTART_LIVE_TORTURE"), out var n) ? n : 1200;
    private static readonly string? KillDatabase = Environment.GetEnvironmentVariable("TOUGHSTART_KILL_DATABASE");

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    /// <summary>A phone with its queue: what it made leaves it when the stored log holds it.</summary>
    private sealed class Queue(LivePhone phone, long wrongMs, Random dice)
    {
        public LivePhone Phone { get; } = phone;

        public List<LogEvent> Made { get; } = [];

        public List<LogEvent> Waiting { get; } = [];

        public HashSet<string> Acknowledged { get; } = [];

        public bool Away { get; set; }

        public void Make(string zone)
        {
            var at = DateTimeOffset
                .FromUnixTimeMilliseconds(AppFixture.Clock.GetUtcNow().ToUnixTimeMilliseconds() + wrongMs)
                .ToUnixTimeMilliseconds();
            var e = Phone.Make(
                LogKind.Seen,
                new LogBody
                {
                    Zones = [zone],
                    Observe = "touch",
                    Result = "smooth",
                    Spot = $"{Made.Count}",
                },
                when: new Moment(at, at - 50, at + 50)
            );
            Made.Add(e);
            Waiting.Add(e);
        }

        public async Task SyncAsync()
        {
            if (Away)
            {
                return;
            }

            try
            {
                using var hasty = CancellationTokenSource.CreateLinkedTokenSource(Stop);
                // Now and then the answer is lost on its way, though the entries were stored.
                hasty.CancelAfter(dice.Next(6) == 0 ? dice.Next(3, 25) : 8000);
                var answer = await Phone.HastyAsync([.. Waiting.Take(40)], hasty.Token);
                if (!answer.IsSuccessStatusCode)
                {
                    return;
                }

                var said = await answer.Content.ReadFromJsonAsync<JsonElement>(hasty.Token);
                foreach (var ack in said.GetProperty("acks").EnumerateArray())
                {
                    Acknowledged.Add(ack[0].GetString()!);
                }

                foreach (var e in said.GetProperty("events").EnumerateArray())
                {
                    (Phone.Head, Phone.HeadId) = (e.GetProperty("number").GetInt32(), e.GetProperty("id").GetString());
                    Waiting.RemoveAll(w => w.Id == Phone.HeadId);
                }

                said.GetProperty("aside").GetArrayLength().ShouldBe(0);
                said.GetProperty("conflict").GetBoolean().ShouldBeFalse();
            }
            catch (Exception e)
                when (e is HttpRequestException or OperationCanceledException or JsonException && !Stop.IsCancellationRequested)
            {
                // The queue keeps it.
            }
        }
    }

    [Fact(Explicit = true)]
    public async Task Nothing_acknowledged_is_lost_or_doubled_however_often_everything_is_killed()
    {
        var dice = new Random(20261128);
        var connection = AppProcess.NewDatabase(app.Connection);
        var port = AppProcess.FreePort();
        var address = new Uri($"http://127.0.0.1:{port}");
        var process = await AppProcess.StartAsync(connection, port);
        try
        {
            using var tam = await new LivePhone(address, "tam", Job).OpenAsync();
            using var odile = await new LivePhone(address, "odile", Job).OpenAsync();
            using var other = await new LivePhone(address, "tam", Job).OpenAsync();
            await tam.BeginAsync();
            var zones = tam
                .Doc.GetProperty("net")
                .GetProperty("zones")
                .EnumerateArray()
                .Select(z => z.GetProperty("id").GetString()!)
                .ToArray();
            Queue[] phones = [new(tam, 600_000, dice), new(odile, -600_000, dice), new(other, 0, dice) { Away = true }];
            var kills = Math.Max(1, Most / 120);
            for (var i = 0; i < Most; i++)
            {
                phones[dice.Next(phones.Length)].Make(zones[dice.Next(zones.Length)]);
                await Task.WhenAll(phones.Select(p => p.SyncAsync()));
                if (i % (Most / kills) == Most / kills / 2)
                {
                    // In the middle of two exchanges.
                    var during = phones.Select(p => p.SyncAsync()).ToArray();
                    process.Kill();
                    await process.WaitForExitAsync(Stop);
                    if (KillDatabase is not null)
                    {
                        await Run("/bin/bash", KillDatabase);
                    }

                    await Task.WhenAll(during);
                    process = await AppProcess.StartAsync(connection, port);
                }
            }

            // An hour later the third comes back.
            phones[2].Away = false;
            for (var i = 0; i < 60 && phones.Any(p => p.Waiting.Count > 0); i++)
            {
                await Task.WhenAll(phones.Select(p => p.SyncAsync()));
            }

            phones.ShouldAllBe(p => p.Waiting.Count == 0);
            var options = new DbContextOptionsBuilder<ToughStartContext>();
            options.UseToughStart(connection);
            await using var db = new ToughStartContext(options.Options);
            var job = (await new JobStore(db, AppFixture.Clock).IdAsync(Job, Stop))!.Value;
            var log = await new RunStore(db, new ShelfStore(db, AppFixture.Clock), AppFixture.Clock).LogAsync(job, stop: Stop);
            log.Select(e => e.Number).ShouldBe(Enumerable.Range(1, log.Count), "no gap");
            log.Skip(1).Select(e => e.Id).ShouldBe(phones.SelectMany(p => p.Made).Select(e => e.Id), ignoreOrder: true);
            phones.SelectMany(p => p.Acknowledged).Except(log.Select(e => e.Id)).ShouldBeEmpty();
            foreach (var p in phones)
            {
                log.Where(e => e.Device == p.Phone.Device && e.Seq > 0)
                    .Select(e => e.Seq)
                    .ShouldBe(Enumerable.Range(1, p.Made.Count), "in its own order");
            }

            log.ShouldAllBe(e => e.When.Lo <= e.When.At && e.When.At <= e.When.Hi && e.When.Hi <= e.Received);
            var state = log.Aggregate(LiveState.Start, Live.Reduce);
            state.Ignored.ShouldBeEmpty();
            Console.WriteLine(
                $"torture live: {log.Count} entries, {kills} kills{(KillDatabase is null ? "" : " of application and database")}"
            );
        }
        finally
        {
            process.Kill();
            await AppProcess.DropAsync(app.Connection, connection);
        }
    }

    private static async Task Run(string program, string script)
    {
        using var p = Process.Start(new ProcessStartInfo(program, [script]))!;
        await p.WaitForExitAsync(Stop);
        p.ExitCode.ShouldBe(0);
    }
}
