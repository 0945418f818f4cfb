using System.Diagnostics;
using System.Globalization;
using System.Text.Json;
using ToughStart.Core.Running.Live;

namespace ToughStart.Web.Tests;

/// <summary>Measures the bay as a phone has it; runs only when asked for: ./tough-start bench bay.</summary>
[Collection("bay")]
public sealed class BayBench(AppFixture app)
{
    private const int Job = 111;

    /// <summary>A phone asks for the plan from here when nothing was said for so long.</summary>
    private static readonly TimeSpan Quiet = TimeSpan.FromSeconds(2);

    /// <summary>A phone of the cheap kind on a poor network: a quarter of this machine's speed, 150 ms away, 1.6 Mbit/s.</summary>
    private static void Slow(Browser b)
    {
        b.Driver.ExecuteCdpCommand("Emulation.setCPUThrottlingRate", new Dictionary<string, object?> { ["rate"] = 4 });
        b.Driver.ExecuteCdpCommand("Network.enable", []);
        b.Driver.ExecuteCdpCommand("Network.setCacheDisabled", new Dictionary<string, object?> { ["cacheDisabled"] = true });
        b.Driver.ExecuteCdpCommand(
            "Network.emulateNetworkConditions",
            new Dictionary<string, object?>
            {
                ["offline"] = false,
                ["latency"] = 150,
                ["downloadThroughput"] = 200_000,
                ["uploadThroughput"] = 90_000,
            }
        );
    }

    private static double Ask(Browser b, string script) =>
        Convert.ToDouble(b.Driver.ExecuteAsyncScript(script), CultureInfo.InvariantCulture);

    [Fact(Explicit = true)]
    public async Task Bay()
    {
        var stop = TestContext.Current.CancellationToken;
        var rows = new List<string> { "| what | measured | baseline | ratio |", "|---|---|---|---|" };
        void Row(string what, double value, string unit, string baseline, double of) =>
            rows.Add(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"| {what} | {value:0.#} {unit} | {baseline}: {of:0.#} {unit} | {value / of:0.00} |"
                )
            );

        using var tam = await new LivePhone(app.Address, "tam", Job).OpenAsync();
        await tam.BeginAsync();
        var films = tam
            .Doc.GetProperty("steps")
            .EnumerateArray()
            .First(s => s.GetProperty("line").GetBoolean() && s.GetProperty("zones").GetArrayLength() >= 3);
        var zones = films.GetProperty("zones").EnumerateArray().Select(z => z.GetProperty("id").GetString()!).Take(3).ToArray();
        foreach (var zone in zones)
        {
            await tam.SyncAsync(
                tam.Make(
                    LogKind.Applied,
                    new LogBody
                    {
                        Treatment = films.GetProperty("treatment").GetString(),
                        Zones = [zone],
                        Win = new(3_000_000, 6_000_000, 7_000_000, 9_000_000),
                    }
                )
            );
        }

        // The first visit of a phone: nothing is kept yet.
        var (ready, bare) = (new List<double>(), new List<double>());
        for (var i = 0; i < 5; i++)
        {
            using var b = new Browser(390, 844);
            b.Go(app.Address, "/wall");
            Slow(b);
            b.Driver.Navigate().GoToUrl(new Uri(app.Address, "/healthz"));
            bare.Add(Ask(b, "arguments[0](performance.getEntriesByType('navigation')[0].loadEventEnd)"));
            b.Driver.Navigate().GoToUrl(new Uri(app.Address, $"/jobs/{Job}/bay"));
            b.WaitReady();
            ready.Add(Ask(b, "arguments[0](performance.getEntriesByName('ready')[0].startTime)"));
        }

        Row(
            "bay can be used, first visit, 4 × CPU, 150 ms, 1.6 Mbit/s, median of 5",
            Middle(ready),
            "ms",
            "an answer of two bytes",
            Middle(bare)
        );
        using (var b = new Browser(390, 844))
        {
            b.Go(app.Address, $"/jobs/{Job}/bay");
            const string Frames = """
                const done = arguments[arguments.length - 1];
                const pane = document.querySelector('.bay-main');
                let n = 0, from = 0;
                const step = (t) => {
                  if (n === 0) from = t;
                  if (n === 240) return done(240 * 1000 / (t - from));
                  SCROLL
                  n++;
                  requestAnimationFrame(step);
                };
                requestAnimationFrame(step);
                """;
            var still = Ask(b, Frames.Replace("SCROLL", "", StringComparison.Ordinal));
            b.Driver.ExecuteCdpCommand("Emulation.setCPUThrottlingRate", new Dictionary<string, object?> { ["rate"] = 4 });
            var moved = Ask(b, Frames.Replace("SCROLL", "pane.scrollTop = (n * 7) % 300;", StringComparison.Ordinal));
            Row(
                $"frames while scrolling, {b.All(".bay-line").Count} lines, 4 × CPU, over 240",
                moved,
                "1/s",
                "a page at rest, 1 × CPU",
                still
            );
        }

        // An answer, and the document with what the server makes of it.
        var look = tam.Doc.GetProperty("steps").EnumerateArray().First(s => s.GetProperty("until").ValueKind == JsonValueKind.Object);
        var (offered, plain) = (new List<double>(), new List<double>());
        foreach (var zone in look.GetProperty("zones").EnumerateArray().Select(z => z.GetProperty("id").GetString()!).Take(9))
        {
            plain.Add(await Document(tam, stop));
            await tam.SyncAsync(
                tam.Make(
                    LogKind.Worked,
                    new LogBody
                    {
                        Step = look.GetProperty("key").GetString(),
                        Treatment = look.GetProperty("treatment").GetString(),
                        Zones = [zone],
                    }
                ),
                tam.Make(
                    LogKind.Seen,
                    new LogBody
                    {
                        Step = look.GetProperty("key").GetString(),
                        Zones = [zone],
                        Observe = look.GetProperty("until").GetProperty("observe").GetString(),
                        Result = look.GetProperty("until").GetProperty("answers")[0].GetProperty("word").GetString(),
                    }
                )
            );
            await Task.Delay(Quiet, stop);
            offered.Add(await Document(tam, stop));
        }

        Row(
            "plan from here given after an answer, once the phone asks (2 s of quiet), median",
            Middle(offered),
            "ms",
            "the same document, nothing new",
            Middle(plain)
        );
        var (handed, heard) = await WebBench.MeasureLive(tam, Job);
        Row("an entry handed in, until another phone has heard of it, one instance", heard, "ms", "until it is acknowledged", handed);
        await Across(Row);
        foreach (var row in rows)
        {
            await Console.Error.WriteLineAsync(row);
        }
    }

    /// <summary>The other phone hangs on another instance of the same database.</summary>
    private async Task Across(Action<string, double, string, string, double> row)
    {
        var connection = AppProcess.NewDatabase(app.Connection);
        var ports = new[] { AppProcess.FreePort(), AppProcess.FreePort() };
        using var one = await AppProcess.StartAsync(connection, ports[0]);
        using var two = await AppProcess.StartAsync(connection, ports[1]);
        try
        {
            using var here = await new LivePhone(new Uri($"http://127.0.0.1:{ports[0]}"), "tam", Job).OpenAsync();
            using var there = await new LivePhone(new Uri($"http://127.0.0.1:{ports[1]}"), "odile", Job).OpenAsync();
            await here.BeginAsync();
            var (handed, heard) = await WebBench.MeasureLive(here, Job, there);
            row("the same, across two instances", heard, "ms", "until it is acknowledged", handed);
        }
        finally
        {
            one.Kill();
            two.Kill();
            await AppProcess.DropAsync(app.Connection, connection);
        }
    }

    private static async Task<double> Document(LivePhone phone, CancellationToken stop)
    {
        var clock = Stopwatch.GetTimestamp();
        (
            await phone.Http.GetAsync(new Uri($"/api/v1/jobs/{Job}/bay?device={phone.Device}", UriKind.Relative), stop)
        ).EnsureSuccessStatusCode();
        return Stopwatch.GetElapsedTime(clock).TotalMilliseconds;
    }

    private static double Middle(List<double> all) => all.Order().ElementAt(all.Count / 2);
}
