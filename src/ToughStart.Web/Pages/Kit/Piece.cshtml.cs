using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Formats;
using ToughStart.Data;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Stations;

/// <summary>One piece of kit; a lance has its calibration here, a nozzle its stand-off.</summary>
public sealed class PieceModel(KitStore kit, RecordStore records) : PageModel
{
    public KitView View { get; private set; } = null!;

    public KitForm Form { get; private set; } = new();

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public IReadOnlyList<KitItem> Washers { get; private set; } = [];

    public IReadOnlyDictionary<string, string> Names { get; private set; } = new Dictionary<string, string>();

    /// <summary>What was typed into the wizard.</summary>
    public (string Ml, string Seconds, string Flow, bool Caught) Typed { get; private set; }

    public string? Said { get; private set; }

    public async Task<IActionResult> OnGetAsync(Guid id, string? said, CancellationToken stop)
    {
        Said = said switch
        {
            "timed" => "Timed. Plans made from now on use it.",
            "saved" => "Saved.",
            _ => null,
        };
        return await LoadAsync(id, stop) ? Page() : NotFound();
    }

    public async Task<IActionResult> OnPostAsync(Guid id, KitForm form, CancellationToken stop)
    {
        if (!await LoadAsync(id, stop))
        {
            return NotFound();
        }

        Form = form;
        var item = View.Item;
        item.Kind = KitStore.Kinds.Any(k => k.Id == form.Kind) ? form.Kind! : item.Kind;
        Problems = form.Put(item);
        if (Problems.Count == 0)
        {
            var (_, refused) = await kit.SaveAsync(item, false, form.Version, stop);
            if (refused is null)
            {
                return Redirect($"/kit/{id}?said=saved");
            }

            Problems = [new Problem("(kit)", refused)];
            Response.StatusCode = 409;
            return Page();
        }

        Response.StatusCode = 422;
        return Page();
    }

    public async Task<IActionResult> OnPostTimeAsync(
        Guid id,
        string? ml,
        string? seconds,
        string? flow,
        bool caught,
        CancellationToken stop
    )
    {
        if (!await LoadAsync(id, stop) || View.Item.Kind != "lance")
        {
            return NotFound();
        }

        Typed = (ml ?? "", seconds ?? "", flow ?? "", caught);
        var trial = new LanceTrial(N(ml), N(seconds), N(flow), caught);
        Problems = trial.Problems();
        if (View.Item.Ml < trial.Ml)
        {
            Problems = [new Problem("ml", $"the bottle holds {View.Item.Ml:0} ml")];
        }

        if (Problems.Count > 0)
        {
            Response.StatusCode = 422;
            return Page();
        }

        await kit.CalibrateAsync(id, trial, User.StaffId(), stop);
        return Redirect($"/kit/{id}?said=timed");

        static double N(string? text) =>
            double.TryParse((text ?? "").Trim().Replace(',', '.'), NumberStyles.Float, CultureInfo.InvariantCulture, out var v)
                ? v
                : double.NaN;
    }

    public async Task<IActionResult> OnPostStrikeAsync(Guid id, Guid calibration, CancellationToken stop)
    {
        await kit.StrikeAsync(id, calibration, stop);
        return Redirect($"/kit/{id}");
    }

    public async Task<IActionResult> OnPostRetireAsync(Guid id, CancellationToken stop)
    {
        if (!await LoadAsync(id, stop))
        {
            return NotFound();
        }

        View.Item.Retired = true;
        await kit.SaveAsync(View.Item, false, View.Item.Version, stop);
        return Redirect("/kit");
    }

    private async Task<bool> LoadAsync(Guid id, CancellationToken stop)
    {
        if (await kit.OneAsync(id, stop) is not { } view)
        {
            return false;
        }

        View = view;
        Form = KitForm.Of(view.Item);
        ViewData["Title"] = view.Item.Name;
        ViewData["Station"] = "kit";
        Washers = (await kit.AllAsync(stop)).Select(k => k.Item).Where(k => k.Kind == "washer").ToArray();
        Names = await records.NamesAsync(stop);
        if (Typed == default)
        {
            Typed = (
                view.Item.Ml?.ToString("0", CultureInfo.InvariantCulture) ?? "",
                "",
                (Washers.Count > 0 ? Washers[0].FlowLitresPerMinute : null)?.ToString("0.#", CultureInfo.InvariantCulture) ?? "",
                false
            );
        }

        return true;
    }
}
