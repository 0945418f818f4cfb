using System.Text;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Vehicles;
using ToughStart.Data;

namespace ToughStart.Web.Stations;

/// <summary>A vehicle standing in the yard, with its drawing and what is known of the work.</summary>
/// <param name="Survey">Null when what is on record cannot be read.</param>
/// <param name="Plan">Null while it is being worked out, or when it cannot be.</param>
/// <param name="IsBroken">This one job cannot be read or planned.</param>
public sealed record YardVehicle(JobLine Job, Survey? Survey, Vehicle? Vehicle, Plan? Plan, bool IsBroken = false)
{
    /// <summary>Its plan will be there in a moment.</summary>
    public bool IsPending => Plan is null && !IsBroken;

    public string Next =>
        IsBroken ? $"Cannot be {(Survey is null ? "read" : "planned")}: open its survey, take back the last change"
        : Plan is null ? "Plan is being worked out"
        : Plan.ReferOnly ? "Refer: nothing may start"
        : Plan.BestTest is { } t ? $"First: {t.Test} test {t.When}"
        : $"{Plan.Steps.Count} steps";

    public string Href =>
        $"/jobs/{Job.Number}/{(!IsBroken && (Plan is { ReferOnly: true } || Job.Station is not ("intake" or "survey")) ? "plan" : "survey")}";
}

public sealed class YardModel(JobStore jobs, Workshop workshop, PlanCache plans, PlanWarmer warmer, ShopClock clock) : PageModel
{
    public IReadOnlyList<IGrouping<DateOnly, YardVehicle>> Days { get; private set; } = [];

    public DateOnly Today { get; private set; }

    /// <summary>Some plan is not known yet: the page looks again by itself.</summary>
    public bool Waits => Days.SelectMany(d => d).Any(v => v.IsPending);

    public async Task OnGetAsync(CancellationToken stop)
    {
        ViewData["Title"] = "Yard";
        ViewData["Station"] = "yard";
        Today = clock.Today;
        var vehicles = new List<YardVehicle>();
        foreach (var line in (await jobs.YardAsync(Today.AddDays(-2), stop)).Where(l => l.Survey is not null))
        {
            vehicles.Add(await StandingAsync(line, stop));
        }

        Days = vehicles.GroupBy(s => s.Job.Day).ToArray();
    }

    /// <summary>A vehicle as far as it is known; nothing is planned while the yard is asked for, and one broken job is one broken job.</summary>
    private async Task<YardVehicle> StandingAsync(JobLine line, CancellationToken stop)
    {
        if (StoredSurvey.Read(Encoding.UTF8.GetBytes(line.Survey!)).Survey.Value is not { } survey)
        {
            return new(line, null, null, null, true);
        }

        var vehicle = Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size);
        var equipped = await workshop.EquipAsync(survey, line.Id, stop: stop);
        if (plans.Known(equipped) is { } known)
        {
            return new(line, survey, vehicle, known);
        }

        if (plans.IsBroken(equipped))
        {
            return new(line, survey, vehicle, null, true);
        }

        warmer.Want(equipped);
        return new(line, survey, vehicle, null);
    }

    /// <summary>How long marks that etch have been on record, or null.</summary>
    public string? Clock(YardVehicle v)
    {
        if (v.Job.UrgentSince is not { } since || v.Survey is not { } survey)
        {
            return null;
        }

        var hours = (clock.Local - since).TotalHours;
        var what = survey.Zones.SelectMany(z => z.Findings).Any(f => f.Contaminant == "bird-dropping" && f.Grade > 0)
            ? "Droppings"
            : "Bugs";
        return $"{what} etch: {(hours < 1 ? "just seen" : hours < 48 ? $"on record {hours:0} h" : $"on record {hours / 24:0} days")}";
    }

    public string DayName(DateOnly day) =>
        day == Today ? "Today"
        : day == Today.AddDays(-1) ? "Yesterday"
        : day == Today.AddDays(1) ? "Tomorrow"
        : day.ToString("dddd d MMMM");
}
