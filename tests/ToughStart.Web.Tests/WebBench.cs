using System.Diagnostics;
using System.Globalization;
using System.IO.Compression;
using System.Text.Json.Nodes;
using Microsoft.AspNetCore.SignalR.Client;
using Microsoft.EntityFrameworkCore;
using ToughStart.Core.Running.Live;

namespace ToughStart.Web.Tests;

/// <summary>Measures pages; runs only when asked for: ./tough-start bench web, bench growth.</summary>
[Collection("app")]
public sealed class WebBench(AppFixture app)
{
    [Fact(Explicit = true)]
    public async Task Pages()
    {
        using var http = await app.SignedInAsync("tam");
        var lines = new List<string> { "| what | measured | aim |", "|---|---|---|" };
        void Row(string what, double value, string unit, string aim = "") =>
            lines.Add(string.Create(CultureInfo.InvariantCulture, $"| {what} | {value:0.0} {unit} | {aim} |"));
        await MeasurePages(http, Row);
        await MeasureRuns(http, (what, value, unit) => Row(what, value, unit));
        await MeasureStarts(Row);
        var dist = Path.Combine(Environment.GetEnvironmentVariable("TOUGHSTART_ROOT")!, "src", "ToughStart.Web", "wwwroot", "dist");
        Row(
            "scripts and styles, gzip",
            (Zipped(Path.Combine(dist, "app.js")) + Zipped(Path.Combine(dist, "app.css"))) / 1000.0,
            "kB",
            "< 120 kB"
        );
        foreach (var (name, number) in new[] { ("motorcycle", 111), ("high-roof van", 110) })
        {
            using var b = new Browser();
            b.Go(app.Address, $"/jobs/{number}/survey");
            var ms = Convert.ToDouble(
                b.Driver.ExecuteAsyncScript(
                    """
                    const done = arguments[arguments.length - 1];
                    const zones = [...document.querySelectorAll('.net [data-zone]')];
                    const times = [];
                    (async () => {
                      document.querySelector("[data-kind='mud']").click();
                      for (let i = 0; i < 60; i++) {
                        document.querySelector(`[data-grade='${i % 4 + 1}']`).click();
                        const z = zones[i % zones.length];
                        const from = performance.now();
                        z.dispatchEvent(new PointerEvent('pointerdown', { bubbles: true, button: 0 }));
                        window.dispatchEvent(new PointerEvent('pointerup'));
                        await new Promise(r => requestAnimationFrame(() => { const c = new MessageChannel(); c.port1.onmessage = r; c.port2.postMessage(0); }));
                        times.push(performance.now() - from);
                      }
                      times.sort((a, b) => a - b);
                      done(times[30]);
                    })();
                    """
                ),
                CultureInfo.InvariantCulture
            );
            Row($"painting a zone of the {name}, press to painted frame, median of 60", ms, "ms", "< 50 ms");
        }

        using (var b = new Browser())
        {
            // The van is scrubbed through the day as fast as frames come: every frame sets another quarter and redraws all zones.
            b.Go(app.Address, "/jobs/110/day");
            var fps = Convert.ToDouble(
                b.Driver.ExecuteAsyncScript(
                    """
                    const done = arguments[arguments.length - 1];
                    const range = document.querySelector('.ribbon-wrap input');
                    let n = 0, from = 0, slowest = 0, last = 0;
                    const step = (t) => {
                      if (n === 0) from = t; else slowest = Math.max(slowest, t - last);
                      last = t;
                      if (n === 192) return done(192 * 1000 / (t - from));
                      range.value = (n++ * 7) % 96;
                      range.dispatchEvent(new Event('input', { bubbles: true }));
                      requestAnimationFrame(step);
                    };
                    requestAnimationFrame(step);
                    """
                ),
                CultureInfo.InvariantCulture
            );
            Row("scrubbing the day of the high-roof van, frames a second over 192 redraws", fps, "1/s", "≥ 30");
        }

        Say(lines);
    }

    private static readonly (string Name, string Path, int MostKilobytes)[] Hot =
    [
        ("Yard", "/", 150),
        ("Survey", "/jobs/104/survey", 300),
        ("Plan", "/jobs/104/plan", 150),
        ("Day", "/jobs/104/day", 150),
        ("Intake", "/jobs/104/intake", 150),
        ("Mix", "/jobs/104/mix", 150),
        ("Card", "/jobs/104/card", 150),
    ];

    /// <summary>
    /// The pages of a job and the yard, in turn with a bare page of the same app: medians, spread, what they allocate (the client's reading with it)
    /// and weigh, and how many more are answered at sixteen connections than at one.
    /// </summary>
    private static async Task MeasurePages(HttpClient http, Action<string, double, string, string> row)
    {
        const int Rounds = 60;
        const int Connections = 16;
        var stop = TestContext.Current.CancellationToken;
        (string Name, string Path, int MostKilobytes)[] all = [("bare page: 8 queries, 60 kB", AppFixture.Bare, 60), .. Hot];
        var times = all.Select(_ => new List<double>()).ToArray();
        var allocated = all.Select(_ => new List<double>()).ToArray();
        var kilobytes = new double[all.Length];
        for (var i = -15; i < Rounds; i++)
        {
            for (var p = 0; p < all.Length; p++)
            {
                var before = GC.GetTotalAllocatedBytes(precise: true);
                var clock = Stopwatch.GetTimestamp();
                var bytes = await http.GetByteArrayAsync(all[p].Path, stop);
                if (i >= 0)
                {
                    times[p].Add(Stopwatch.GetElapsedTime(clock).TotalMilliseconds);
                    allocated[p].Add((GC.GetTotalAllocatedBytes(precise: true) - before) / 1e6);
                    kilobytes[p] = bytes.Length / 1000.0;
                }
            }
        }

        double At(List<double> of, double part) => of.Order().ElementAt((int)(part * (of.Count - 1)));
        var bare = At(times[0], 0.5);
        for (var p = 0; p < all.Length; p++)
        {
            var (name, path, most) = all[p];
            row($"{name}, median of {Rounds}", At(times[p], 0.5), "ms", "");
            if (p > 0)
            {
                row($"{name}, ratio to the bare page", At(times[p], 0.5) / bare, ": 1", "≤ 3 : 1");
            }

            row($"{name}, 95th percentile to median", At(times[p], 0.95) / At(times[p], 0.5), ": 1", "≤ 2 : 1");
            row($"{name}, allocated, reading it with it", At(allocated[p], 0.5), "MB", "≤ 3 MB");
            row($"{name}, weight before compression", kilobytes[p], "kB", $"≤ {most} kB");
            var one = await Rate(http, path, 1, 48);
            var many = await Rate(http, path, Connections, 48 * 4);
            row($"{name}, answers a second at {Connections} connections to that at one", many / one, ": 1", "≥ 1.8 : 1");
        }
    }

    /// <summary>Answers a second.</summary>
    private static async Task<double> Rate(HttpClient http, string path, int connections, int answers)
    {
        var stop = TestContext.Current.CancellationToken;
        var left = answers;
        var clock = Stopwatch.StartNew();
        await Task.WhenAll(
            Enumerable
                .Range(0, connections)
                .Select(async _ =>
                {
                    while (Interlocked.Decrement(ref left) >= 0)
                    {
                        await http.GetByteArrayAsync(path, stop);
                    }
                })
        );
        return answers / clock.Elapsed.TotalSeconds;
    }

    private static double Seconds(string figure) => double.Parse(figure, CultureInfo.InvariantCulture);

    /// <summary>From nothing to the first answer, the first yard, a plan and a mix at the terminal: each five times in a process of its own.</summary>
    private async Task MeasureStarts(Action<string, double, string, string> row)
    {
        const int Times = 5;
        var stop = TestContext.Current.CancellationToken;
        var root = Environment.GetEnvironmentVariable("TOUGHSTART_ROOT")!;
        string Ahead(string project) => Path.Combine(root, ".local", $"ahead-{project}", $"{project}.dll");
        var connection = AppProcess.NewDatabase(app.Connection);
        (string What, string? Program, List<Start> Starts)[] ways =
        [
            ("demo, as built", null, []),
            ("served, compiled ahead", Ahead("ToughStart.Web"), []),
        ];
        try
        {
            // The first start, a demo's, fills the database; the first of each is not counted. Then in turn.
            for (var i = 0; i <= Times; i++)
            {
                foreach (var (_, program, starts) in ways)
                {
                    var start = await StartOnce(connection, program, stop);
                    starts.AddRange(i > 0 ? [start] : []);
                }
            }
        }
        finally
        {
            await AppProcess.DropAsync(app.Connection, connection);
        }

        foreach (var (what, _, starts) in ways)
        {
            double Middle(Func<Start, double> of) => starts.Select(of).Order().ElementAt(starts.Count / 2);
            row($"start until it answers, {what}, median of {Times}", Middle(s => s.Ready), "s", "");
            row("the same, CPU", Middle(s => s.ReadyCpu), "s", "≤ 1 s");
            row($"start until the first yard has come, signing in with it, {what}", Middle(s => s.Yard), "s", "≤ 3 s");
            row("the same, CPU", Middle(s => s.YardCpu), "s", "");
        }

        double Half(List<double> of) => of.Order().ElementAt(of.Count / 2);
        var cli = Ahead("ToughStart.Cli");
        foreach (
            var (what, arguments, aim) in new (string, string[], string)[]
            {
                ("plan of the pickup at the terminal", ["plan", Path.Combine(root, "demo", "estuary-pickup.json")], "≤ 300 ms of CPU"),
                ("a mix at the terminal", ["mix", "1:9"], "≤ 60 ms of CPU"),
            }
        )
        {
            var (wall, cpu) = (new List<double>(), new List<double>());
            for (var i = 0; i < Times; i++)
            {
                var clock = Stopwatch.StartNew();
                // A process that is over tells its CPU only to the shell that began it.
                using var process = Process.Start(
                    new ProcessStartInfo("bash", ["-c", "TIMEFORMAT='%U %S'; time \"$@\" > /dev/null", "bash", "dotnet", cli, .. arguments])
                    {
                        RedirectStandardError = true,
                    }
                )!;
                var said = await process.StandardError.ReadToEndAsync(stop);
                await process.WaitForExitAsync(stop);
                process.ExitCode.ShouldBe(0, said);
                wall.Add(clock.Elapsed.TotalMilliseconds);
                cpu.Add(1000 * said.Split((char[])[' ', '\n'], StringSplitOptions.RemoveEmptyEntries)[^2..].Sum(Seconds));
            }

            row($"{what}, whole process", Half(wall), "ms", "");
            row("the same, CPU", Half(cpu), "ms", aim);
        }
    }

    /// <summary>Seconds of a start, until it answers and until the first yard has come.</summary>
    private sealed record Start(double Ready, double ReadyCpu, double Yard, double YardCpu);

    private static async Task<Start> StartOnce(string connection, string? program, CancellationToken stop)
    {
        var port = AppProcess.FreePort();
        var clock = Stopwatch.StartNew();
        using var process = await AppProcess.StartAsync(connection, port, everyMs: 20, program);
        var (wall, cpu) = (clock.Elapsed, process.TotalProcessorTime);
        using var http = await AppFixture.SignedInAsync(new Uri($"http://127.0.0.1:{port}"), "tam");
        await http.GetByteArrayAsync("/", stop);
        process.Refresh();
        var start = new Start(wall.TotalSeconds, cpu.TotalSeconds, clock.Elapsed.TotalSeconds, process.TotalProcessorTime.TotalSeconds);
        process.Kill(entireProcessTree: true);
        await process.WaitForExitAsync(stop);
        return start;
    }

    /// <summary>Every page of a job that comes after years of work, against the same page in the demo's yard.</summary>
    [Fact(Explicit = true)]
    public async Task Grown()
    {
        const int Job = 104;
        const int Newest = 900_000;
        var stop = TestContext.Current.CancellationToken;
        string[] pages =
        [
            "/",
            "/?show=done",
            "/?find=caked",
            "/?show=done&find=Tidewarden",
            "/clients",
            "/clients?find=Tidewarden",
            $"/jobs/{Job}/intake",
            $"/jobs/{Job}/survey",
            $"/jobs/{Job}/plan",
            $"/jobs/{Job}/day",
            $"/jobs/{Job}/mix",
            $"/jobs/{Job}/card",
            $"/jobs/{Job}/results",
            $"/jobs/{Job}/gate",
            $"/jobs/{Job}/handover",
            $"/jobs/{Job}/close",
            $"/jobs/{Job}/report",
            "/logbook",
            "/logbook?find=Client 777",
            "/logbook?find=tar-remover",
            "/logbook?goal=protect",
            "/logbook?only=unmoved",
            "/learning",
            "/kit",
            "/bottles",
            "/bench",
            "/shelf",
            "/shelf?Find=citrus",
        ];
        // Two shops that differ in nothing but their years, each a process of its own, asked in turn.
        string[] shops = [AppProcess.NewDatabase(app.Connection), AppProcess.NewDatabase(app.Connection)];
        var processes = new List<Process>();
        try
        {
            var ports = shops.Select(_ => AppProcess.FreePort()).ToArray();
            foreach (var (shop, port) in shops.Zip(ports))
            {
                processes.Add(await AppProcess.StartAsync(shop, port));
            }

            var addresses = ports.Select(port => new Uri($"http://127.0.0.1:{port}")).ToArray();
            using var young = await AppFixture.SignedInAsync(addresses[0], "tam");
            using var grown = await AppFixture.SignedInAsync(addresses[1], "tam");
            foreach (var http in (HttpClient[])[young, grown])
            {
                (await RunTests.TakeAsync(http, Job)).EnsureSuccessStatusCode();
            }

            var clock = Stopwatch.StartNew();
            await using (var db = AppFixture.NewContext(shops[1]))
            {
                await Growth.FillAsync(db, 200_000, 20_000, 400_000, 5_000_000, stop);
                await db.Database.ExecuteSqlAsync(
                    $"""
                    WITH job AS (
                      INSERT INTO jobs SELECT (jsonb_populate_record(o, jsonb_build_object('id', gen_random_uuid(), 'number', {Newest}))).*
                      FROM jobs o WHERE o.number = {Job} RETURNING id),
                    survey AS (
                      INSERT INTO surveys SELECT (jsonb_populate_record(s, jsonb_build_object('id', gen_random_uuid(), 'job_id', job.id))).*
                      FROM job, surveys s WHERE s.job_id = (SELECT id FROM jobs WHERE number = {Job}))
                    INSERT INTO plans SELECT (jsonb_populate_record(p, jsonb_build_object('id', gen_random_uuid(), 'job_id', job.id))).*
                    FROM job, plans p WHERE p.job_id = (SELECT id FROM jobs WHERE number = {Job})
                    """,
                    stop
                );
            }

            var lines = new List<string>
            {
                "| page | demo's yard | after years of work | ratio |",
                "|---|---|---|---|",
                string.Create(CultureInfo.InvariantCulture, $"| the database is filled in | | {clock.Elapsed.TotalSeconds:0} s | |"),
            };
            void Row(string what, double few, double many) =>
                lines.Add(string.Create(CultureInfo.InvariantCulture, $"| {what} | {few:0.0} ms | {many:0.0} ms | {many / few:0.00} |"));
            foreach (var page in pages)
            {
                var (few, many) = await InTurn((young, page), (grown, page.Replace($"/{Job}/", $"/{Newest}/", StringComparison.Ordinal)));
                Row(page, few, many);
            }

            using var here = await new LivePhone(addresses[0], "tam", 106).OpenAsync();
            using var there = await new LivePhone(addresses[1], "tam", 106).OpenAsync();
            await here.BeginAsync();
            await there.BeginAsync();
            var (first, then) = (await MeasureLive(here, 106), await MeasureLive(there, 106));
            Row("an entry of a live run handed in and acknowledged", first.Handed, then.Handed);
            Row("the same, until another phone has heard of it", first.Heard, then.Heard);
            Say(lines);
        }
        finally
        {
            foreach (var process in processes)
            {
                process.Kill(entireProcessTree: true);
                await process.WaitForExitAsync(CancellationToken.None);
                process.Dispose();
            }

            foreach (var shop in shops)
            {
                await AppProcess.DropAsync(app.Connection, shop);
            }
        }
    }

    /// <summary>Medians of two pages asked in turn, after 15 of each to warm up.</summary>
    private static async Task<(double Few, double Many)> InTurn((HttpClient Http, string Path) one, (HttpClient Http, string Path) other)
    {
        const int Times = 41;
        var (few, many) = (new List<double>(), new List<double>());
        for (var i = -15; i < Times; i++)
        {
            foreach (var (times, (http, path)) in ((List<double>, (HttpClient, string))[])[(few, one), (many, other)])
            {
                var clock = Stopwatch.GetTimestamp();
                using var answer = await http.GetAsync(path, TestContext.Current.CancellationToken);
                answer.EnsureSuccessStatusCode();
                times.AddRange(i < 0 ? [] : [Stopwatch.GetElapsedTime(clock).TotalMilliseconds]);
            }
        }

        return (few.Order().ElementAt(Times / 2), many.Order().ElementAt(Times / 2));
    }

    /// <summary>Medians of handing in one entry: until it is acknowledged, and until another phone has heard of it.</summary>
    /// <param name="listener">Who hears of it; null = the same phone.</param>
    internal static async Task<(double Handed, double Heard)> MeasureLive(LivePhone phone, int job, LivePhone? listener = null)
    {
        const int Times = 60;
        var stop = TestContext.Current.CancellationToken;
        await phone.SyncAsync();
        var zone = phone.Doc.GetProperty("net").GetProperty("zones")[0].GetProperty("id").GetString()!;
        await using var hub = (listener ?? phone).Hub();
        var heads = System.Threading.Channels.Channel.CreateUnbounded<int>();
        hub.On<int, int>(Bay.BayHub.Head, (_, number) => heads.Writer.TryWrite(number));
        await hub.StartAsync(stop);
        await hub.InvokeAsync<bool>("Join", job, stop);
        var (handed, heard) = (new List<double>(), new List<double>());
        for (var i = 0; i < Times; i++)
        {
            var entry = phone.Make(
                LogKind.Seen,
                new LogBody
                {
                    Zones = [zone],
                    Observe = "touch",
                    Result = "smooth",
                }
            );
            var clock = Stopwatch.StartNew();
            var said = await phone.SyncAsync(entry);
            handed.Add(clock.Elapsed.TotalMilliseconds);
            while (await heads.Reader.ReadAsync(stop) < said.GetProperty("acks")[0][1].GetInt32()) { }
            heard.Add(clock.Elapsed.TotalMilliseconds);
        }

        return (handed.Order().ElementAt(Times / 2), heard.Order().ElementAt(Times / 2));
    }

    private static void Say(List<string> lines)
    {
        foreach (var line in lines)
        {
            Console.Error.WriteLine(line);
        }
    }

    /// <summary>A view of a job with many events against the same view with few.</summary>
    private static async Task MeasureRuns(HttpClient http, Action<string, double, string> row)
    {
        const int Job = 106;
        var stop = TestContext.Current.CancellationToken;
        (await RunTests.TakeAsync(http, Job)).EnsureSuccessStatusCode();
        var plan = JsonNode.Parse(await http.GetStringAsync($"/api/v1/jobs/{Job}/plan", stop))!;
        var log = plan["steps"]!
            .AsArray()
            .Where(s => s!["stage"]!.GetValue<string>() != "dry")
            .SelectMany(s => s!["zones"]!.AsArray().Select(z => (Step: s["key"]!.GetValue<string>(), Zone: z!.GetValue<string>())))
            .ToArray();
        log = [.. Enumerable.Repeat(log, 3).SelectMany(l => l).Take(300)];
        async Task Tell(IEnumerable<(string Step, string Zone)> events)
        {
            var all = events.Select(e => new JsonObject
            {
                ["id"] = Guid.CreateVersion7().ToString(),
                ["plan"] = 1,
                ["step"] = e.Step,
                ["zones"] = new JsonArray(e.Zone),
                ["rounds"] = 1,
            });
            (
                await RunTests.SendAsync(http, HttpMethod.Post, $"/api/v1/jobs/{Job}/events", new JsonArray([.. all]))
            ).EnsureSuccessStatusCode();
        }

        string[] views = ["plan", "results", "mix"];
        await Tell(log[..3]);
        var few = new List<double>();
        foreach (var view in views)
        {
            few.Add(await Median(http, $"/jobs/{Job}/{view}"));
        }

        foreach (var part in log[3..].Chunk(50))
        {
            await Tell(part);
        }

        foreach (var (view, baseline) in views.Zip(few))
        {
            var ms = await Median(http, $"/jobs/{Job}/{view}");
            row($"{view} page, job with 3 events (baseline)", baseline, "ms");
            row($"{view} page, job with {log.Length} events", ms, "ms");
            row("ratio to the baseline", ms / baseline, "");
        }
    }

    private static async Task<double> Median(HttpClient http, string path)
    {
        for (var i = 0; i < 15; i++)
        {
            (await http.GetAsync(path, TestContext.Current.CancellationToken)).EnsureSuccessStatusCode();
        }

        var all = new double[41];
        for (var i = 0; i < all.Length; i++)
        {
            var clock = Stopwatch.GetTimestamp();
            using var answer = await http.GetAsync(path, HttpCompletionOption.ResponseHeadersRead, TestContext.Current.CancellationToken);
            await answer.Content.ReadAsByteArrayAsync(TestContext.Current.CancellationToken);
            all[i] = Stopwatch.GetElapsedTime(clock).TotalMilliseconds;
        }

        return all.Order().ElementAt(all.Length / 2);
    }

    private static int Zipped(string file)
    {
        using var memory = new MemoryStream();
        using (var zip = new GZipStream(memory, CompressionLevel.Optimal, true))
        {
            zip.Write(File.ReadAllBytes(file));
        }

        return (int)memory.Length;
    }
}
