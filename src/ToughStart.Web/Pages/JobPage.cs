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

    /// <summary>What was done is booked; nothing more is written until an owner opens it again.</summary>
    public bool IsClosed => Job is { Station: "closed" };

    /// <summary>May whoever looks write to this job? Forms stand only where they would be taken.</summary>
    public bool MayEdit => User.MayEdit() && !IsClosed;

    /// <summary>Why nothing can be written here, and who can change that.</summary>
    public string WhyLocked =>
        IsClosed
            ? "This job is closed: what was done is booked. An owner can open it again on the Close page."
            : "You look here; owners and technicians of the shop write.";

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

    /// <summary>How far a job has come, as people say it.</summary>
    public static string StationWords(string station) =>
        station switch
        {
            "intake" or "survey" => "to be surveyed",
            "plan" => "planned",
            "bay" => "in work",
            "inspect" => "to inspect",
            "closed" => "done",
            _ => station,
        };

    /// <summary>Minutes as people say them: "3 h 26".</summary>
    public static string Hours(double minutes)
    {
        var m = (int)Math.Round(minutes);
        return m < 60 ? $"{m} min" : $"{m / 60} h {m % 60:00}";
    }
}
