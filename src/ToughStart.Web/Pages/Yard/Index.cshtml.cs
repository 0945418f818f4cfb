using System.Text;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Vehicles;
using ToughStart.Data;
using ToughStart.Web.Drawing;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Stations;

/// <summary>A vehicle standing in the yard, with what is known of the work.</summary>
/// <param name="Survey">Null when what is on record cannot be read.</param>
/// <param name="Plan">The plan in force, else the draft; null while it is being worked out, or when it cannot be.</param>
/// <param name="Done">Steps of the plan in force that are done, counted as the plan's page counts them; null = none is in force.</param>
/// <param name="IsBroken">This one job cannot be read or planned.</param>
public sealed record YardVehicle(JobLine Job, Survey? Survey, Plan? Plan, int? Done = null, bool IsBroken = false)
{
    /// <summary>Its plan will be there in a moment.</summary>
    public bool IsPending => Plan is null && !IsBroken && !IsClosed;

    public bool IsClosed => Job.Station == "closed";

    public string Next
    {
        get
        {
            var steps = Plan is null ? 0 : CoreSample.StageGroups(Plan).Count;
            return IsBroken ? $"Cannot be {(Survey is null ? "read" : "planned")}: open its survey, take back the last change"
                : IsClosed ? "Done, booked"
                : Plan is null ? "Plan is being worked out"
                : Plan.ReferOnly ? "Refer: nothing may start"
                : Job.Station == "inspect" ? $"All {steps} steps done: inspect it"
                : Done is { } done && done > 0 ? $"{done} of {steps} steps done"
                : Plan.BestTest is { } t ? $"First: {PlanModel.LookWords(t.Test).ToLowerInvariant()}, {t.When}"
                : $"{steps} {(steps == 1 ? "step" : "steps")}";
        }
    }

    public string Href =>
        $"/jobs/{Job.Number}/{(IsClosed ? "close" : !IsBroken && (Plan is { ReferOnly: true } || Job.Station is not ("intake" or "survey")) ? "plan" : "survey")}";
}

/// <summary>
/// What the yard has read before: surveys never change once saved, so a revision is read once, and what a plan is asked for by is worked out
/// once for every shelf and kit.
/// </summary>
public sealed class YardMemory
{
    private readonly Recent<Survey> _surveys = new(600);
    private readonly Recent<string> _hashes = new(600);

    /// <summary>The survey of a line; null when it does not read.</summary>
    public Survey? Read(JobLine line)
    {
        // A revision never changes; should it have been mended by hand, it is read again.
        var key = $"{line.Id}/{line.SurveyRevision}/{line.Survey!.GetHashCode(StringComparison.Ordinal)}";
        return _surveys.Find(key)
            ?? (StoredSurvey.Read(Encoding.UTF8.GetBytes(line.Survey!)).Survey.Value is { } survey ? _surveys.Keep(key, survey) : null);
    }

    /// <param name="shop">Names the shelf and the kit as they are now.</param>
    public string HashOf(JobLine line, Survey equipped, string shop)
    {
        var key = $"{line.Id}/{line.SurveyRevision}/{shop}";
        return _hashes.Find(key) ?? _hashes.Keep(key, SurveyFormat.Hash(equipped));
    }
}

public sealed class YardModel(
    JobStore jobs,
    Workshop workshop,
    PlanCache plans,
    PlanWarmer warmer,
    RunBook runs,
    YardMemory memory,
    ShopClock clock,
    Ways ways,
    LogbookStore log,
    BookStore books,
    IPost post
) : PageModel
{
    /// <summary>Names the shelf and the kit of this request: the first survey as it is equipped with the shop's, whatever it brings itself.</summary>
    private string? _shop;

    /// <summary>States the yard can be narrowed to: word in the address, name, stations.</summary>
    public static IReadOnlyList<(string Id, string Name, JobStore.Stand Stand, string[] Stations)> Stands { get; } =
    [
        ("", "All open", JobStore.Stand.Open, ["intake", "survey", "plan", "bay", "inspect"]),
        ("waiting", "Waiting", JobStore.Stand.Waiting, ["intake", "survey", "plan"]),
        ("work", "In work", JobStore.Stand.InWork, ["bay"]),
        ("inspect", "To inspect", JobStore.Stand.ToInspect, ["inspect"]),
        ("done", "Archive", JobStore.Stand.Done, ["closed"]),
    ];

    public IReadOnlyList<IGrouping<string, YardVehicle>> Days { get; private set; } = [];

    public DateOnly Today { get; private set; }

    public string Show { get; private set; } = "";

    public string Find { get; private set; } = "";

    public int From { get; private set; }

    /// <summary>Vehicles that should come again and are not here, the longest overdue first.</summary>
    public IReadOnlyList<DueLine> Dues { get; private set; } = [];

    /// <summary>Days ahead that a vehicle is said to be due.</summary>
    private const int DueWithin = 21;

    private const int MostDues = 6;

    /// <summary>Writes to somebody that their vehicle should come again.</summary>
    public async Task<IActionResult> OnPostRemindAsync(int number, CancellationToken stop)
    {
        var due = User.MayEdit()
            ? (await log.DueAsync(clock.Today.AddDays(DueWithin), MostDues, stop)).FirstOrDefault(d => d.Number == number)
            : null;
        if (due?.Email is not { } email)
        {
            return NotFound();
        }

        await post.SendAsync(
            new Letter
            {
                JobId = await books.JobIdAsync(number, stop),
                To = email,
                Subject = LogbookStore.ReminderOf(due.Vehicle),
                Words = $"Your {due.Vehicle} ({due.Plate}) is due by {due.Due:d MMMM yyyy}. Shall we find a day?",
                Author = User.StaffId(),
                At = books.Now,
            },
            stop
        );
        return Redirect("/?due=open#due");
    }

    /// <summary>Jobs of this view in all, shown or not.</summary>
    public int All { get; private set; }

    public IReadOnlyDictionary<string, int> AtStation { get; private set; } = new Dictionary<string, int>();

    /// <summary>Some plan is not known yet: the page looks again by itself.</summary>
    public bool Waits => Days.SelectMany(d => d).Any(v => v.IsPending);

    public async Task OnGetAsync(string? show, string? find, int from, CancellationToken stop)
    {
        ViewData["Title"] = "Yard";
        ViewData["Station"] = "yard";
        Today = clock.Today;
        Show = Stands.Any(s => s.Id == show) ? show! : "";
        Find = find is { Length: <= 80 } ? find.Trim() : "";
        From = Math.Clamp(from, 0, 100_000);
        AtStation = await jobs.StationsAsync(Find, stop);
        All = Count(Stands.First(s => s.Id == Show));
        var lines = await jobs.YardAsync(Today, Stands.First(s => s.Id == Show).Stand, Find, From, stop);
        Shown = lines.Count;
        var vehicles = new List<YardVehicle>();
        foreach (var line in lines.Where(l => l.Survey is not null))
        {
            vehicles.Add(await StandingAsync(line, stop));
        }

        Days = vehicles.GroupBy(s => DayName(s.Job.Day)).ToArray();
        Dues = Show.Length == 0 && Find.Length == 0 && From == 0 ? await log.DueAsync(Today.AddDays(DueWithin), MostDues, stop) : [];
    }

    public int Count((string, string, JobStore.Stand, string[] Stations) stand) => stand.Stations.Sum(s => AtStation.GetValueOrDefault(s));

    /// <summary>A count as it is said: past what is counted, only that there are more.</summary>
    public static string Said(int count) => count < JobStore.MostCounted ? $"{count}" : $"{JobStore.MostCounted}+";

    /// <summary>Jobs of this view on this page.</summary>
    public int Shown { get; private set; }

    /// <summary>Are there jobs after those shown?</summary>
    public bool HasMore => More(From, Shown, All);

    /// <summary>Past what is counted a full page has another after it.</summary>
    public static bool More(int from, int shown, int all) => all < JobStore.MostCounted ? from + shown < all : shown == JobStore.MostInYard;

    /// <summary>The address of this view with something else in it.</summary>
    public string At(string show, int from = 0)
    {
        string[] parts =
        [
            show.Length > 0 ? $"show={show}" : "",
            Find.Length > 0 ? $"find={Uri.EscapeDataString(Find)}" : "",
            from > 0 ? $"from={from}" : "",
        ];
        var query = string.Join('&', parts.Where(p => p.Length > 0));
        return query.Length > 0 ? "/?" + query : "/";
    }

    /// <summary>A vehicle as far as it is known; nothing is planned while the yard is asked for, and one broken job is one broken job.</summary>
    private async Task<YardVehicle> StandingAsync(JobLine line, CancellationToken stop)
    {
        if (memory.Read(line) is not { } survey)
        {
            return new(line, null, null, IsBroken: true);
        }

        if (line.Station == "closed")
        {
            return new(line, survey, null);
        }

        if (await InForceAsync(line, stop) is { InForce: { } force } run)
        {
            return new(line, survey, force.Plan, CoreSample.StageGroups(force.Plan).Count(g => g.Steps.All(run.IsDone)));
        }

        var equipped = await workshop.EquipAsync(survey, line.Id, stop: stop);
        _shop ??= SurveyFormat.Hash(
            await workshop.EquipAsync(survey with { Shelf = null, Kit = null, StockOnly = false }, line.Id, stop: stop)
        );
        // What is kept to the shelf is counted anew for every job.
        var hash = survey.StockOnly ? SurveyFormat.Hash(equipped) : memory.HashOf(line, equipped, _shop);
        if (plans.Known(hash) is { } known)
        {
            return new(line, survey, known);
        }

        if (plans.IsBroken(hash))
        {
            return new(line, survey, null, IsBroken: true);
        }

        warmer.Want(equipped);
        return new(line, survey, null);
    }

    /// <summary>The run of a job; none when its record cannot be read, for the yard goes on without it.</summary>
    private async Task<JobRun> InForceAsync(JobLine line, CancellationToken stop)
    {
        try
        {
            return await runs.StandingAsync(line.Id, line.PlanRevision, stop);
        }
        catch (InvalidDataException)
        {
            return JobRun.None;
        }
    }

    /// <summary>How long marks that etch have been on record, or null.</summary>
    public string? Clock(YardVehicle v)
    {
        if (v.Job.UrgentSince is not { } since || v.Survey is not { } survey || v.IsClosed)
        {
            return null;
        }

        var hours = (clock.Local - since).TotalHours;
        var what = survey.Zones.SelectMany(z => z.Findings).Any(f => f.Contaminant == "bird-dropping" && f.Grade > 0)
            ? "Droppings"
            : "Bugs";
        return $"{what} etch: {(hours < 1 ? "just seen" : hours < 48 ? $"on record {hours:0} h" : $"on record {hours / 24:0} days")}";
    }

    /// <summary>A day as people say it; what is still open from earlier says so.</summary>
    public string DayName(DateOnly day) =>
        day == Today ? "Today"
        : day == Today.AddDays(1) ? "Tomorrow"
        : day > Today || Show == "done" ? ways.Heading(day, day.Year != Today.Year)
        : day == Today.AddDays(-1) ? "Open since yesterday"
        : $"Open since {ways.Heading(day, day.Year != Today.Year)}";
}
