using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Running;
using ToughStart.Core.Vehicles;
using ToughStart.Data;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Stations;

/// <summary>What pages of one job work with.</summary>
public sealed record JobDesk(JobStore Jobs, Workshop Workshop, RunBook Runs);

/// <summary>A page of one job: the job, the plan in force with how far it is done, and what is offered from here. Looking writes nothing.</summary>
public abstract class JobPage(JobDesk desk) : PageModel
{
    private Plan? _draft;

    protected JobStore Jobs { get; } = desk.Jobs;

    protected Workshop Workshop { get; } = desk.Workshop;

    protected RunBook Runs { get; } = desk.Runs;

    public JobView Job { get; private set; } = null!;

    /// <summary>The survey with the shop's shelf and kit as they are now.</summary>
    public Survey Equipped { get; private set; } = null!;

    /// <summary>The plan of the survey as it stands now, whatever is in force.</summary>
    public Plan Draft => _draft ??= Workshop.Plan(Equipped, HttpContext.RequestAborted);

    /// <summary>The plan in force; the draft while none is.</summary>
    public Plan Plan => Run.InForce?.Plan ?? Draft;

    /// <summary>The run as it stands.</summary>
    public JobRun Run { get; private set; } = JobRun.None;

    /// <summary>Names the plan on the page, so that what is taken is what was looked at.</summary>
    public string PlanHash => RunBook.HashOf(Plan);

    public Vehicle Vehicle { get; private set; } = null!;

    public abstract string Station { get; }

    /// <summary>Loads the job; a page result of 404 when there is none.</summary>
    protected async Task<IActionResult?> LoadAsync(int number, bool plan, CancellationToken stop)
    {
        if (await Jobs.JobAsync(number, stop) is not { } job)
        {
            return NotFound();
        }

        Job = job;
        ViewData["Job"] = job;
        ViewData["Station"] = Station;
        ViewData["Title"] = $"{job.Vehicle}, {Station}";
        Vehicle = Forms.Build(job.Survey.Vehicle.Form, job.Survey.Vehicle.Size);
        if (plan)
        {
            Equipped = await Workshop.EquipAsync(job.Survey, job.Id, stop: stop);
            Run = await Runs.OfAsync(job, Equipped, stop);
        }

        return null;
    }

    /// <summary>Minutes as people say them: "3 h 26".</summary>
    public static string Hours(double minutes)
    {
        var m = (int)Math.Round(minutes);
        return m < 60 ? $"{m} min" : $"{m / 60} h {m % 60:00}";
    }
}
