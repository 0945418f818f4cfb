using System.Threading.Channels;
using ToughStart.Core.Formats;

namespace ToughStart.Web.Stations;

/// <summary>Works plans out that pages would like to show, one at a time and behind everybody who waits for an answer.</summary>
public sealed class PlanWarmer(PlanCache plans, Computing computing, ILogger<PlanWarmer> log) : BackgroundService
{
    private readonly Channel<Survey> _wanted = Channel.CreateBounded<Survey>(
        new BoundedChannelOptions(500) { FullMode = BoundedChannelFullMode.DropOldest, SingleReader = true }
    );

    /// <summary>Twentieths of a second that it lets others go first.</summary>
    private const int MostWaits = 20;

    /// <summary>Asks for a plan; it will be known some time later.</summary>
    public void Want(Survey equipped) => _wanted.Writer.TryWrite(equipped);

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        await foreach (var survey in _wanted.Reader.ReadAllAsync(stoppingToken))
        {
            // Behind the others, but not for ever: somebody waits for this too.
            for (var i = 0; i < MostWaits && computing.Load > 0; i++)
            {
                await Task.Delay(50, stoppingToken);
            }

            if (SurveyFormat.Hash(survey) is var hash && (plans.Known(hash) is not null || plans.IsBroken(hash)))
            {
                continue;
            }

            try
            {
                plans.Plan(survey, stoppingToken);
            }
            catch (CannotPlanException e)
            {
                log.LogError(e, "a job in the yard cannot be planned");
            }
            catch (BusyException)
            {
                // Somebody else needs the machine more; the page asks again.
            }
        }
    }
}
