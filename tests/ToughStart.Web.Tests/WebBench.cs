using System.Diagnostics;
using System.Globalization;
using System.IO.Compression;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;

namespace ToughStart.Web.Tests;

/// <summary>Measures pages; runs only when asked for (./tough-start bench web). docs/performance.md holds what was measured last.</summary>
[Collection("app")]
public sealed class WebBench(AppFixture app)
{
    private const int Many = 20_000;

    [Fact(Explicit = true)]
    public async Task Pages()
    {
        using var http = await app.SignedInAsync("tam");
        var lines = new List<string>();
        void Row(string what, double value, string unit) =>
            lines.Add(string.Create(CultureInfo.InvariantCulture, $"| {what} | {value:0.0} {unit} |"));
        var few = await Median(http, "/jobs/104/survey");
        var yardFew = await Median(http, "/");
        await using (var db = app.NewContext())
        {
            db.Database.SetCommandTimeout(300);
            await db.Database.ExecuteSqlRawAsync(
                $$"""
                insert into jobs (id, vehicle_id, number, station, day, story, author, survey_revision)
                select gen_random_uuid(), j.vehicle_id, 100000 + g, 'survey', j.day - (g % 700), j.story, 'bench', 1 from jobs j, generate_series(1, {{Many}}) g where j.number = 106;
                insert into surveys (id, job_id, revision, body, author, at)
                select gen_random_uuid(), j.id, 1, (select s.body from surveys s join jobs k on k.id = s.job_id where k.number = 106 and s.revision = 1), 'bench', now() from jobs j where j.number > 100000;
                analyze;
                """,
                TestContext.Current.CancellationToken
            );
        }

        var many = await Median(http, "/jobs/104/survey");
        Row("Survey page, 9 jobs stored (baseline)", few, "ms");
        Row($"Survey page, {Many + 9} jobs stored", many, "ms");
        Row("ratio to the baseline", many / few, "");
        var shelfFew = await Median(http, "/shelf");
        await using (var db = app.NewContext())
        {
            await db.Database.ExecuteSqlRawAsync(
                """
                insert into products (id, name, agent, basis, price, pack_ml, stock_ml, least_ml, hazards, contains, allows, forbids, fluoride, efficacy, retired, author)
                select gen_random_uuid(), p.name || ' ' || g, p.agent, p.basis, p.price, p.pack_ml, 0, 0, p.hazards, p.contains, p.allows, p.forbids, p.fluoride, p.efficacy, false, 'bench' from products p, generate_series(1, 87) g;
                insert into stock_moves (id, product_id, kind, ml, balance_ml, author, at) select gen_random_uuid(), id, 'count', 0, stock_ml, 'bench', now() from products, generate_series(1, 20);
                insert into stock_reservations (job_id, product_id, ml) select j.id, p.id, 1 from products p, jobs j where j.number = 105 on conflict do nothing;
                analyze;
                """,
                TestContext.Current.CancellationToken
            );
        }

        var products = await app.NewContext().Products.CountAsync(TestContext.Current.CancellationToken);
        var shelfMany = await Median(http, "/shelf");
        Row("Shelf, 23 products (baseline)", shelfFew, "ms");
        Row($"Shelf, {products} products, 20 moves each", shelfMany, "ms");
        Row("ratio to the baseline", shelfMany / shelfFew, "");
        Row($"Shelf search, {products} products", await Median(http, "/shelf?Find=citrus"), "ms");
        Row($"Plan page, {products} products", await Median(http, "/jobs/106/plan"), "ms");
        Row("Yard, 9 jobs stored", yardFew, "ms");
        Row($"Yard, {Many + 9} jobs stored", await Median(http, "/"), "ms");
        var dist = Path.Combine(Environment.GetEnvironmentVariable("TOUGHSTART_ROOT")!, "src", "ToughStart.Web", "wwwroot", "dist");
        Row("scripts and styles, gzip", (Zipped(Path.Combine(dist, "app.js")) + Zipped(Path.Combine(dist, "app.css"))) / 1000.0, "kB");
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
            Row($"painting a zone of the {name}, press to painted frame, median of 60", ms, "ms");
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
            Row("scrubbing the day of the high-roof van, frames a second over 192 redraws", fps, "1/s");
        }

        Say(lines);
    }

    /// <summary>A view of a job with many events against the same view with few.</summary>
    [Fact(Explicit = true)]
    public async Task Runs()
    {
        using var http = await app.SignedInAsync("tam");
        var lines = new List<string>();
        void Row(string what, double value, string unit) =>
            lines.Add(string.Create(CultureInfo.InvariantCulture, $"| {what} | {value:0.0} {unit} |"));
        await MeasureRuns(http, Row);
        Say(lines);
    }

    private static void Say(List<string> lines)
    {
        foreach (var line in lines)
        {
            TestContext.Current.SendDiagnosticMessage(line);
            Console.Error.WriteLine(line);
        }
    }

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
