using System.Collections.Concurrent;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.SignalR;
using Npgsql;
using ToughStart.Data;

namespace ToughStart.Web.Bay;

/// <summary>Says "the log of this job has come to n". Nothing can be written through it: what it says is only a reason to ask.</summary>
[Authorize]
public sealed class BayHub(JobStore jobs) : Hub
{
    /// <summary>The message: job number, number of the last entry.</summary>
    public const string Head = "head";

    public static string GroupOf(Guid job) => "job-" + job.ToString("n");

    /// <summary>Everything that is open, for the wall.</summary>
    public const string Wall = "wall";

    /// <summary>Listens to one job.</summary>
    public async Task<bool> Join(int number)
    {
        if (await jobs.IdAsync(number, Context.ConnectionAborted) is not { } id)
        {
            return false;
        }

        await Groups.AddToGroupAsync(Context.ConnectionId, GroupOf(id), Context.ConnectionAborted);
        return true;
    }

    /// <summary>Listens to every job.</summary>
    public Task JoinWall() => Groups.AddToGroupAsync(Context.ConnectionId, Wall, Context.ConnectionAborted);
}

/// <summary>Hears of new entries from the database, whichever instance stored them, and passes it on to its own phones.</summary>
public sealed class BayListener(
    IHubContext<BayHub> hub,
    IConfiguration configuration,
    IServiceScopeFactory scopes,
    ILogger<BayListener> log
) : BackgroundService
{
    private static readonly TimeSpan Again = TimeSpan.FromSeconds(2);
    private readonly ConcurrentDictionary<Guid, int> _numbers = new();

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        if (configuration.GetConnectionString("ToughStart") is not { Length: > 0 } connection)
        {
            return;
        }

        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                await ListenAsync(connection, stoppingToken);
            }
            catch (OperationCanceledException)
            {
                return;
            }
            catch (Exception e) when (e is NpgsqlException or System.Net.Sockets.SocketException)
            {
                // Phones ask by themselves meanwhile.
                log.LogWarning("The database does not answer: {Why}; listening again soon", e.Message);
                await Task.Delay(Again, stoppingToken);
            }
        }
    }

    private async Task ListenAsync(string connection, CancellationToken stop)
    {
        var settings = new NpgsqlConnectionStringBuilder(connection) { Pooling = false, KeepAlive = 30 };
        await using var db = new NpgsqlConnection(settings.ConnectionString);
        await db.OpenAsync(stop);
        var said = System.Threading.Channels.Channel.CreateUnbounded<string>();
        db.Notification += (_, e) => said.Writer.TryWrite(e.Payload);
        await using (var listen = new NpgsqlCommand($"LISTEN {RunStore.Channel}", db))
        {
            await listen.ExecuteNonQueryAsync(stop);
        }

        while (true)
        {
            await db.WaitAsync(stop);
            while (said.Reader.TryRead(out var payload))
            {
                await SayAsync(payload, stop);
            }
        }
    }

    private async Task SayAsync(string payload, CancellationToken stop)
    {
        if (payload.Split(':') is not [var id, var head] || !Guid.TryParse(id, out var job) || !int.TryParse(head, out var number))
        {
            return;
        }

        if (!_numbers.TryGetValue(job, out var name))
        {
            await using var scope = scopes.CreateAsyncScope();
            name = await scope.ServiceProvider.GetRequiredService<JobStore>().NumberAsync(job, stop) ?? 0;
            _numbers[job] = name;
        }

        await hub.Clients.Groups(BayHub.GroupOf(job), BayHub.Wall).SendAsync(BayHub.Head, name, number, stop);
    }
}
