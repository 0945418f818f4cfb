using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Running;
using ToughStart.Core.Vehicles;
using ToughStart.Data;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Stations;

/// <summary>A page of one job: the job, its plan, and the re-plan when something has been observed.</summary>
public abstract class JobPage(JobStore jobs, Workshop plans) : PageModel
{
    protected JobStore Jobs { get; } = jobs;

    protected Workshop Workshop { get; } = plans;

    public JobView Job { get; private set; } = null!;

    /// <summary>The survey with the shop's shelf and kit: what the plan was computed from.</summary>
    public Survey Equipped { get; private set; } = null!;

    /// <summary>The plan of the survey as it stands.</summary>
    public Plan FirstPlan { get; private set; } = null!;

    /// <summary>The plan from here on; the first plan while nothing has been observed.</summary>
    public Plan Plan => Replan?.Plan ?? FirstPlan;

    public Replan? Replan { get; private set; }

    public IReadOnlyList<Observation> Observations { get; private set; } = [];

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
            FirstPlan = Workshop.Plan(Equipped);
            Observations = await Jobs.ObservationsAsync(job.Id, job.Revision, stop);
            Replan = Workshop.Replan(Equipped, Observations);
            if (await Jobs.KeepPlanAsync(job.Id, job.Revision, Observations.Count, Plan, User.StaffId(), stop))
            {
                await Workshop.ReserveAsync(job.Id, Plan, stop);
            }
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
