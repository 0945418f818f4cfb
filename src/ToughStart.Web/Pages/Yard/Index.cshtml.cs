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
    public string Next => Plan.ReferOnly ? "Refer: nothing may start" : Plan.BestTest is { } t ? $"First: {t.Test} test {t.When}" : $"{Plan.Steps.Count} steps";

    public string Href => $"/jobs/{Job.Number}/{(Plan.ReferOnly || Job.Station is not ("intake" or "survey") ? "plan" : "survey")}";
}

public sealed class YardModel(JobStore jobs, PlanCache plans, TimeProvider time) : PageModel
{
    public IReadOnlyList<IGrouping<DateOnly, YardVehicle>> Days { get; private set; } = [];

    public DateOnly Today { get; private set; }

    public async Task OnGetAsync(CancellationToken stop)
    {
        ViewData["Title"] = "Yard";
        ViewData["Station"] = "yard";
        Today = DateOnly.FromDateTime(time.GetLocalNow().DateTime);
        var lines = await jobs.YardAsync(Today.AddDays(-7), stop);
        Days = lines.Where(l => l.Survey is not null).Select(l =>
        {
            var survey = SurveyFormat.Read(Encoding.UTF8.GetBytes(l.Survey!)).Value!;
            return new YardVehicle(l, survey, Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size), plans.Plan(survey));
        }).GroupBy(s => s.Job.Day).ToArray();
    }

    public string DayName(DateOnly day) => day == Today ? "Today" : day == Today.AddDays(1) ? "Tomorrow" : day.ToString("dddd d MMMM");
}
