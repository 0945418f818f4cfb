using System.Threading.Channels;
using ToughStart.Web.Stations;

namespace ToughStart.Web.Bay;

/// <summary>
/// Makes the plan from here as soon as something was done or seen, behind everybody who waits: when the phone asks, after its two seconds of
/// quiet, it is there.
/// </summary>
public sealed class OfferMaker(IServiceScopeFactory scopes, ILogger<OfferMaker> log) : BackgroundService
{
    private readonly Channel<int> _wanted = Channel.CreateBounded<int>(
        new BoundedChannelOptions(100) { FullMode = BoundedChannelFullMode.DropOldest, SingleReader = true }
    );

    /// <summary>Somebody may have more to say at once; a phone that was away hands in hundreds.</summary>
    private static readonly TimeSpan Quiet = TimeSpan.FromMilliseconds(300);

    /// <summary>Asks for the plan from here of a job; it will be known a moment later.</summary>
    public void Want(int job) => _wanted.Writer.TryWrite(job);

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        while (await _wanted.Reader.WaitToReadAsync(stoppingToken))
        {
            await Task.Delay(Quiet, stoppingToken);
            var jobs = new HashSet<int>();
            while (_wanted.Reader.TryRead(out var job))
            {
                jobs.Add(job);
            }

            foreach (var number in jobs)
            {
                await MakeAsync(number, stoppingToken);
            }
        }
    }

    private async Task MakeAsync(int number, CancellationToken stop)
    {
        try
        {
            await using var scope = scopes.CreateAsyncScope();
            var desk = scope.ServiceProvider.GetRequiredService<JobDesk>();
            if (await desk.Jobs.JobAsync(number, stop) is { Station: not "closed" } job)
            {
                await desk.Runs.OfAsync(job, await desk.Workshop.EquipAsync(job.Survey, job.Id, stop: stop), stop);
            }
        }
        catch (Exception e) when (e is not OperationCanceledException)
        {
            // Whoever asks for it is told what is wrong.
            log.LogWarning(e, "no plan from here could be made for job {Job}", number);
        }
    }
}
