using System.Diagnostics;

namespace ToughStart.Web.Tests;

/// <summary>The production start refuses addresses that would carry passwords in the clear.</summary>
public sealed class ServeTests
{
    [Theory]
    [InlineData("http://0.0.0.0:0")]
    [InlineData("http://*:5999")]
    [InlineData("http://[::]:0")]
    public async Task An_address_beyond_loopback_is_refused(string url)
    {
        var dll = typeof(Program).Assembly.Location;
        var start = new ProcessStartInfo("dotnet") { RedirectStandardError = true, RedirectStandardOutput = true };
        foreach (var a in new[] { dll, "--urls", url })
        {
            start.ArgumentList.Add(a);
        }

        start.Environment["ASPNETCORE_ENVIRONMENT"] = "Production";
        using var p = Process.Start(start)!;
        using var limit = new CancellationTokenSource(TimeSpan.FromSeconds(30));
        await p.WaitForExitAsync(limit.Token);
        p.ExitCode.ShouldBe(2);
        (await p.StandardError.ReadToEndAsync(limit.Token)).ShouldContain("not loopback");
    }

    /// <summary>Without a database the process lives, is not ready, and pages say what is away and when to come again.</summary>
    [Fact]
    public async Task Without_its_database_it_lives_says_so_and_asks_to_come_again()
    {
        await using var server = await Server.StartAsync("Host=127.0.0.1;Port=9;Database=none;Username=nobody;Timeout=2");
        (await server.Http.GetStringAsync("/healthz", Stop)).ShouldBe("ok");
        var ready = await server.Http.GetAsync("/readyz", Stop);
        ((int)ready.StatusCode).ShouldBe(503);
        var page = await server.Http.GetAsync("/sign-in", Stop);
        ((int)page.StatusCode).ShouldBe(503);
        page.Headers.RetryAfter!.Delta!.Value.TotalSeconds.ShouldBe(5);
        (await page.Content.ReadAsStringAsync(Stop)).ShouldContain("The database does not answer");
    }

    /// <summary>In production a forgotten or forged header opens nothing, and only named hosts are answered.</summary>
    [Fact]
    public async Task In_production_the_calculators_ask_for_sign_in_and_other_names_are_not_answered()
    {
        await using var server = await Server.StartAsync(
            Environment.GetEnvironmentVariable("TOUGHSTART_TEST_PG")!,
            ("TOUGHSTART_HOSTS", "127.0.0.1")
        );
        using var plain = new StringContent("{\"strength\":\"1:9\"}", System.Text.Encoding.UTF8, "application/json");
        ((int)(await server.Http.PostAsync("/api/v1/mix", plain, Stop)).StatusCode).ShouldBe(401);
        using var forged = new HttpRequestMessage(HttpMethod.Get, "/healthz") { Headers = { Host = "elsewhere.example" } };
        ((int)(await server.Http.SendAsync(forged, Stop)).StatusCode).ShouldBe(400);
        (await server.Http.GetStringAsync("/healthz", Stop)).ShouldBe("ok");
    }

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    /// <summary>The application as it is served, on a free port of this machine.</summary>
    private sealed class Server(Process process, HttpClient http) : IAsyncDisposable
    {
        public HttpClient Http { get; } = http;

        public static async Task<Server> StartAsync(string connection, params (string Name, string Value)[] settings)
        {
            var start = new ProcessStartInfo("dotnet") { RedirectStandardError = true, RedirectStandardOutput = true };
            foreach (var a in new[] { typeof(Program).Assembly.Location, "--urls", "http://127.0.0.1:0" })
            {
                start.ArgumentList.Add(a);
            }

            start.Environment["ASPNETCORE_ENVIRONMENT"] = "Production";
            start.Environment["ConnectionStrings__ToughStart"] = connection;
            start.Environment["Logging__LogLevel__Microsoft.Hosting.Lifetime"] = "Information";
            foreach (var (name, value) in settings)
            {
                start.Environment[name] = value;
            }

            var process = Process.Start(start)!;
            try
            {
                using var limit = CancellationTokenSource.CreateLinkedTokenSource(Stop);
                limit.CancelAfter(TimeSpan.FromSeconds(60));
                while (await process.StandardOutput.ReadLineAsync(limit.Token) is { } line)
                {
                    if (line.Contains("Now listening on:", StringComparison.Ordinal))
                    {
                        _ = process.StandardOutput.BaseStream.CopyToAsync(Stream.Null, CancellationToken.None);
                        _ = process.StandardError.BaseStream.CopyToAsync(Stream.Null, CancellationToken.None);
                        return new(
                            process,
                            new HttpClient { BaseAddress = new Uri(line[line.IndexOf("http", StringComparison.Ordinal)..].Trim()) }
                        );
                    }
                }

                throw new InvalidOperationException("the server did not start: " + await process.StandardError.ReadToEndAsync(limit.Token));
            }
            catch
            {
                // A server that did not come up in time is not left running.
                process.Kill(entireProcessTree: true);
                throw;
            }
        }

        public async ValueTask DisposeAsync()
        {
            Http.Dispose();
            process.Kill(entireProcessTree: true);
            await process.WaitForExitAsync(CancellationToken.None);
            process.Dispose();
        }
    }
}
