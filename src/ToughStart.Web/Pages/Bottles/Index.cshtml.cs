using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Data;

namespace ToughStart.Web.Stations;

/// <summary>What is in which bottle now: who mixed it, how old it is, what is left.</summary>
public sealed class BottlesModel(KitStore kit, RecordStore records, ShopClock clock) : PageModel
{
    public IReadOnlyList<MixView> Open { get; private set; } = [];

    public IReadOnlyList<MixView> Past { get; private set; } = [];

    public IReadOnlyDictionary<string, string> Names { get; private set; } = new Dictionary<string, string>();

    public DateOnly Today { get; private set; }

    public int? Made { get; private set; }

    public string? Mind { get; private set; }

    public string? Refused { get; private set; }

    public async Task OnGetAsync(int? made, string? mind, CancellationToken stop)
    {
        (Made, Mind) = (made, mind is { Length: <= 200 } ? mind : null);
        await LoadAsync(stop);
    }

    /// <summary>The record a label's square code leads to.</summary>
    public async Task<IActionResult> OnGetOneAsync(int number, CancellationToken stop)
    {
        await LoadAsync(stop);
        return Open.Concat(Past).Any(m => m.Number == number) ? Redirect($"/bottles#mix-{number}") : NotFound();
    }

    public async Task<IActionResult> OnPostAsync(Guid id, uint version, string? left, string? state, CancellationToken stop)
    {
        await LoadAsync(stop);
        if (Open.FirstOrDefault(m => m.Id == id) is not { } mix)
        {
            (Refused, Response.StatusCode) = ("somebody has closed this bottle meanwhile", 409);
            return Page();
        }

        decimal ml = 0;
        if (
            state == "in-use"
            && (
                !decimal.TryParse(
                    (left ?? "").Trim().Replace(',', '.'),
                    NumberStyles.AllowDecimalPoint,
                    CultureInfo.InvariantCulture,
                    out ml
                )
                || ml < 0
                || ml > mix.ProductMl + mix.WaterMl
            )
        )
        {
            (Refused, Response.StatusCode) = ($"{mix.Bottle}: what is left is 0 to {mix.ProductMl + mix.WaterMl:0} ml", 422);
            return Page();
        }

        if (state is not ("in-use" or "emptied" or "discarded"))
        {
            (Refused, Response.StatusCode) = ("say in-use, emptied or discarded", 422);
            return Page();
        }

        if (!await kit.LeftAsync(id, version, ml, state == "in-use" && ml == 0 ? "emptied" : state, stop))
        {
            (Refused, Response.StatusCode) = ($"{mix.Bottle}: somebody wrote down something else meanwhile; look again", 409);
            await LoadAsync(stop);
            return Page();
        }

        return Redirect("/bottles");
    }

    private async Task LoadAsync(CancellationToken stop)
    {
        ViewData["Title"] = "Bottles";
        ViewData["Station"] = "bottles";
        Today = clock.Today;
        (Open, Past, Names) = (
            await kit.MixesAsync(true, 200, stop),
            await kit.MixesAsync(false, 20, stop),
            await records.NamesAsync(stop)
        );
    }

    public string Age(MixView m)
    {
        var days = (clock.Local - m.At).TotalDays;
        return days < 1 ? "today"
            : days < 2 ? "yesterday"
            : $"{days:0} days old";
    }
}
