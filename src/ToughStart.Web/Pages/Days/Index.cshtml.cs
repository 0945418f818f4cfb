using System.Globalization;
using System.Text;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Data;

namespace ToughStart.Web.Stations;

/// <summary>
/// The days ahead: which vehicle when and by how many, laid out by what presses; a vehicle that is moved answers at once with what it
/// breaks.
/// </summary>
public sealed class DaysModel(DaysDesk days) : PageModel
{
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
