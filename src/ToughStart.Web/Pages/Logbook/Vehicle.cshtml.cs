using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Data;

namespace ToughStart.Web.Stations;

/// <summary>One vehicle over the years.</summary>
public sealed class LogbookVehicleModel(LogbookStore log, RecordStore records) : PageModel
{
    public ClientVehicle Vehicle { get; private set; } = null!;

    public string Client { get; private set; } = "";

    public IReadOnlyList<VisitLine> Visits { get; private set; } = [];

    public IReadOnlyDictionary<string, string> Names { get; private set; } = new Dictionary<string, string>();

    public async Task<IActionResult> OnGetAsync(Guid id, CancellationToken stop)
    {
        if (await log.VehicleAsync(id, stop) is not { } found)
        {
            return NotFound();
        }

        (Vehicle, Client, Visits) = found;
        Names = await records.NamesAsync(stop);
        ViewData["Station"] = "logbook";
        ViewData["Title"] = Vehicle.Name;
        return Page();
    }
}
