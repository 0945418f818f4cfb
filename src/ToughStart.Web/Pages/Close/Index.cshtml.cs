using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using ToughStart.Core.Costing;
using ToughStart.Data;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Stations;

/// <summary>Closing a job: as planned and as done, kept apart; what was used leaves the shelf.</summary>
public sealed class CloseModel(JobDesk desk, ShelfStore shelf) : JobPage(desk)
{
    public override string Station => "close";

    public IReadOnlyList<(Guid Product, string Name, decimal ReservedMl, decimal DrawnMl, decimal StockMl)> Products { get; private set; } =
    [];

    public IReadOnlyDictionary<string, double> Planned { get; private set; } = new Dictionary<string, double>();

    public IReadOnlyList<DrainLine> Drain { get; private set; } = [];

    public string? Refused { get; private set; }

    public bool Closed => Job.Station == "closed";

    /// <summary>What was typed as used, by product.</summary>
    public IReadOnlyDictionary<Guid, string> Typed { get; private set; } = new Dictionary<Guid, string>();

    public async Task<IActionResult> OnGetAsync(int number, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        await FillAsync(stop);
        return Page();
    }

    public async Task<IActionResult> OnPostAsync(int number, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        await FillAsync(stop);
        Typed = Products.ToDictionary(p => p.Product, p => Request.Form[$"used-{p.Product:N}"].ToString());
        var used = new List<(Guid, decimal)>();
        foreach (var p in Products)
        {
            if (
                !decimal.TryParse(
                    Typed[p.Product].Trim().Replace(',', '.'),
                    NumberStyles.AllowDecimalPoint,
                    CultureInfo.InvariantCulture,
                    out var ml
                )
                || ml > 10_000_000
            )
            {
                (Refused, Response.StatusCode) = ($"{p.Name}: what was used is a number of ml, 0 or more", 422);
                return Page();
            }

            used.Add((p.Product, ml));
        }

        if (await shelf.CloseAsync(Job.Id, used, User.StaffId(), stop) is { } refused)
        {
            (Refused, Response.StatusCode) = (refused, 409);
            await FillAsync(stop);
            return Page();
        }

        return Redirect($"/jobs/{number}/close");
    }

    private async Task FillAsync(CancellationToken stop)
    {
        Products = await shelf.OfJobAsync(Job.Id, stop);
        var first = await Runs.FirstAsync(Job, stop) ?? Plan;
        Planned = JobVolumes
            .Solutions(first)
            .Where(s => s.Bottle is not null)
            .GroupBy(s => s.Bottle!)
            .ToDictionary(g => g.Key, g => g.Sum(s => s.NeedMl * s.Mix.InVessel.Value));
        Drain = JobVolumes.Drain(first);
    }

    public string Used((Guid Product, string Name, decimal ReservedMl, decimal DrawnMl, decimal StockMl) p) =>
        Typed.TryGetValue(p.Product, out var t) ? t : Math.Round(p.ReservedMl).ToString("0", CultureInfo.InvariantCulture);
}
