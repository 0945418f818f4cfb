using System.Globalization;
using System.Text;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Core.Formats;
using ToughStart.Data;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Stations;

/// <summary>
/// The days ahead: which vehicle when and by how many, laid out by what presses; a vehicle that is moved answers at once with what it
/// breaks.
/// </summary>
public sealed class DaysModel(DaysDesk days, JobStore jobs) : PageModel
{
    public bool MayEdit => User.MayEdit();

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public IReadOnlyList<JobLine> Waiting { get; private set; } = [];

    public DaysView View { get; private set; } = null!;

    public async Task OnGetAsync(CancellationToken stop)
    {
        (ViewData["Title"], ViewData["Station"]) = ("Days", "yard");
        Waiting = await days.WaitingAsync(stop);
    }

    /// <summary>Works out one vehicle, so that the page can say how many are still to come.</summary>
    public async Task<IActionResult> OnGetVehicleAsync(int number, CancellationToken stop) =>
        (await days.WaitingAsync(stop)).FirstOrDefault(j => j.Number == number) is { } line
            ? Content((await days.VehicleAsync(line, true, stop)).Why ?? "", "text/plain", Encoding.UTF8)
            : NotFound();

    public async Task<IActionResult> OnGetLayAsync(string? pins, CancellationToken stop)
    {
        View = await days.LayAsync(Pins(pins), stop);
        return Partial("_Days", this);
    }

    /// <summary>What one vehicle at another hour breaks, the others as they stand.</summary>
    public async Task<IActionResult> OnGetMovedAsync(int number, int at, string? pins, CancellationToken stop) =>
        at < 0 || at > DaysDesk.Days * 86_400
            ? StatusCode(422)
            : Content(DaysDesk.Moved(await days.LayAsync(Pins(pins), stop), number, at), "text/plain", Encoding.UTF8);

    /// <summary>Keeps by when a vehicle is promised; nothing = for its day.</summary>
    /// <param name="at">The shop's clock.</param>
    public async Task<IActionResult> OnPostPromiseAsync(int number, string? at, DateTimeOffset? seen, CancellationToken stop)
    {
        if (!MayEdit)
        {
            return Forbid();
        }

        DateTimeOffset? promised = null;
        if (!string.IsNullOrWhiteSpace(at))
        {
            if (!DateTime.TryParse(at, CultureInfo.InvariantCulture, DateTimeStyles.None, out var said) || said.Year is < 2000 or > 2100)
            {
                return await RefusedAsync(422, new("promised for", "is a day and a time, like 2026-12-04 16:00"), stop);
            }

            promised = days.Moment(said);
        }

        return await jobs.PromiseAsync(number, seen?.ToUniversalTime(), promised?.ToUniversalTime(), stop)
            ? Redirect("/days")
            : await RefusedAsync(409, new("promised for", "somebody else changed it at the same moment; nothing was overwritten"), stop);
    }

    /// <summary>Keeps when a vehicle is set to begin; nothing = as it comes.</summary>
    /// <param name="at">s of working time, as the page has it.</param>
    public async Task<IActionResult> OnPostBeginAsync(int number, int? at, DateTimeOffset? seen, CancellationToken stop)
    {
        if (!MayEdit)
        {
            return Forbid();
        }

        if (at is < 0 or > DaysDesk.Days * 86_400)
        {
            return await RefusedAsync(422, new("at", $"is 0 to {DaysDesk.Days * 86_400} seconds of working time"), stop);
        }

        var moment = at is { } worked ? (await days.LayAsync(new Dictionary<int, int>(), stop)).Moment(worked) : (DateTimeOffset?)null;
        return await jobs.BeginAsync(number, seen?.ToUniversalTime(), moment?.ToUniversalTime(), stop)
            ? Redirect("/days")
            : await RefusedAsync(409, new("begin", "somebody else set it at the same moment; nothing was overwritten"), stop);
    }

    private async Task<IActionResult> RefusedAsync(int status, Problem problem, CancellationToken stop)
    {
        await OnGetAsync(stop);
        (Problems, Response.StatusCode) = ([problem], status);
        return Page();
    }

    /// <summary>Starts in the address, "104:3600,109:0"; what is none is passed over.</summary>
    private static Dictionary<int, int> Pins(string? text) =>
        (text ?? "")
            .Split(',', StringSplitOptions.RemoveEmptyEntries)
            .Take(DaysDesk.MostVehicles)
            .Select(p => p.Split(':'))
            .Where(p =>
                p.Length == 2
                && int.TryParse(p[0], NumberStyles.None, CultureInfo.InvariantCulture, out _)
                && int.TryParse(p[1], NumberStyles.None, CultureInfo.InvariantCulture, out var s)
                && s <= DaysDesk.Days * 86_400
            )
            .GroupBy(p => int.Parse(p[0], CultureInfo.InvariantCulture))
            .ToDictionary(g => g.Key, g => int.Parse(g.Last()[1], CultureInfo.InvariantCulture));
}
