using System.Text;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Vehicles;
using ToughStart.Data;

namespace ToughStart.Web.Stations;

/// <summary>A vehicle standing in the yard, with its drawing and what is known of the work.</summary>
public sealed record YardVehicle(JobLine Job, Survey Survey, Vehicle Vehicle, Plan Plan)
{
    public string Next =>
        Plan.ReferOnly ? "Refer: nothing may start"
        : Plan.BestTest is { } t ? $"First: {t.Test} test {t.When}"
        : $"{Plan.Steps.Count} steps";

    public string Href => $"/jobs/{Job.Number}/{(Plan.ReferOnly || Job.Station is not ("intake" or "survey") ? "plan" : "survey")}";
}

public sealed class YardModel(JobStore jobs, Workshop plans, ShopClock clock) : PageModel
{
    public IReadOnlyList<IGrouping<DateOnly, YardVehicle>> Days { get; private set; } = [];

    public DateOnly Today { get; private set; }

    public async Task OnGetAsync(CancellationToken stop)
    {
        ViewData["Title"] = "Yard";
        ViewData["Station"] = "yard";
        Today = clock.Today;
        var lines = await jobs.YardAsync(Today.AddDays(-2), stop);
        var vehicles = new List<YardVehicle>();
        foreach (var l in lines.Where(l => l.Survey is not null))
        {
            var survey = SurveyFormat.Read(Encoding.UTF8.GetBytes(l.Survey!)).Value!;
            vehicles.Add(
                new YardVehicle(
                    l,
                    survey,
                    Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size),
                    plans.Plan(await plans.EquipAsync(survey, l.Id, stop: stop))
                )
            );
        }

        Days = vehicles.GroupBy(s => s.Job.Day).ToArray();
    }

    /// <summary>How long marks that etch have been on record, or null.</summary>
    public string? Clock(YardVehicle v)
    {
        if (v.Job.UrgentSince is not { } since)
        {
            return null;
        }

        var hours = (clock.Local - since).TotalHours;
        var what = v.Survey.Zones.SelectMany(z => z.Findings).Any(f => f.Contaminant == "bird-dropping" && f.Grade > 0)
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
