using System.Diagnostics;
using Npgsql;

namespace ToughStart.Web.Tests;

/// <summary>The application in processes of its own, as it is served: to be killed, and to stand beside itself.</summary>
internal static class AppProcess
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    /// <summary>A database nobody else uses, on the same server.</summary>
    public static string NewDatabase(string connection) =>
        new NpgsqlConnectionStringBuilder(connection) { Database = "own_" + Guid.NewGuid().ToString("n") }.ConnectionString;

    public static async Task DropAsync(string server, string connection)
    {
        NpgsqlConnection.ClearAllPools();
        await using var admin = new NpgsqlConnection(
            new NpgsqlConnectionStringBuilder(server) { Database = "postgres", Pooling = false }.ConnectionString
        );
        await admin.OpenAsync(CancellationToken.None);
        await using var drop = new NpgsqlCommand(
            $"DROP DATABASE IF EXISTS {new NpgsqlConnectionStringBuilder(connection).Database} WITH (FORCE)",
            admin
        );
        await drop.ExecuteNonQueryAsync(CancellationToken.None);
    }

    /// <summary>Starts it and waits until it answers.</summary>
    /// <param name="everyMs">How often it is asked.</param>
    /// <param name="program">What is run, as it is served; null = the demo, as it was built.</param>
    public static async Task<Process> StartAsync(string connection, int port, int everyMs = 250, string? program = null)
    {
        var web = Path.Combine(Environment.GetEnvironmentVariable("TOUGHSTART_ROOT")!, "src", "ToughStart.Web");
        var built = Path.Combine(web, "bin", "Release", "net10.0", "ToughStart.Web.dll");
        var start = new ProcessStartInfo("dotnet", [program ?? built, "--urls", $"http://127.0.0.1:{port}"])
        {
            WorkingDirectory = web,
            RedirectStandardOutput = true,
            RedirectStandardError = true,
        };
        start.Environment["ASPNETCORE_ENVIRONMENT"] = program is null ? "Demo" : "Production";
        start.Environment["ConnectionStrings__ToughStart"] = connection;
        var process = Process.Start(start)!;
        process.OutputDataReceived += (_, _) => { };
        process.ErrorDataReceived += (_, _) => { };
        process.BeginOutputReadLine();
        process.BeginErrorReadLine();
        using var http = new HttpClient();
        for (var i = 0; i < 60_000 / everyMs; i++)
        {
            try
            {
                if ((await http.GetAsync(new Uri($"http://127.0.0.1:{port}/readyz"), Stop)).IsSuccessStatusCode)
                {
                    return process;
                }
            }
            catch (HttpRequestException)
            {
                // Not yet.
            }

            process.HasExited.ShouldBeFalse("the application starts again after it was killed");
            await Task.Delay(everyMs, Stop);
        }

        throw new TimeoutException("the application did not start");
    }

    public static int FreePort()
    {
        using var listener = new System.Net.Sockets.TcpListener(System.Net.IPAddress.Loopback, 0);
        listener.Start();
        return ((System.Net.IPEndPoint)listener.LocalEndpoint).Port;
    }
}
