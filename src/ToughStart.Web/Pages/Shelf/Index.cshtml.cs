using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Provenance;
using ToughStart.Data;

namespace ToughStart.Web.Stations;

/// <summary>The shelf: what is there, what plans have put by, what to order.</summary>
public sealed class ShelfModel(ShelfStore shelf, ShelfCsv csv, KitStore kit, ShopClock clock) : PageModel
{
    public ShelfPage Found { get; private set; } = new([], 0);

    public IReadOnlyList<ShelfLine> ToOrder { get; private set; } = [];

    public LanceDraw Lance { get; private set; } = LanceDraw.Uncalibrated;

    public DateOnly Today { get; private set; }

    [BindProperty(SupportsGet = true)]
    public string? Find { get; set; }

    [BindProperty(SupportsGet = true)]
    public string? Agent { get; set; }

    [BindProperty(SupportsGet = true)]
    public int Leaf { get; set; } = 1;

    public int Leaves => Math.Max(1, (Found.Count + ShelfStore.PageSize - 1) / ShelfStore.PageSize);

    public async Task OnGetAsync(CancellationToken stop)
    {
        ViewData["Title"] = "Shelf";
        ViewData["Station"] = "shelf";
        Today = clock.Today;
        Leaf = Math.Clamp(Leaf, 1, 10_000);
        Found = await shelf.ListAsync(Find is { Length: > 80 } ? Find[..80] : Find, Agent, Leaf, stop);
        ToOrder = await shelf.ToOrderAsync(stop);
        Lance = await kit.LanceInUseAsync(stop);
    }

    public async Task<IActionResult> OnGetExportAsync(bool semicolon, CancellationToken stop) =>
        File(await csv.ExportAsync(semicolon, stop), "text/csv; charset=utf-8", "shelf.csv");

    /// <summary>What keeps a bottle from being planned, or makes it doubtful; null when it is fine.</summary>
    public (string Words, bool Stops)? Flag(ShelfLine l)
    {
        var agent = Catalogue.Default.Agent(l.Agent);
        return l.Fluoride ? ("fluoride: never planned", true)
            : Catalogue.Default.Statements.FirstOrDefault(s => s.Blocks && l.Hazards.Contains(s.Code)) is { } fatal
                ? ($"{fatal.Code}: never planned", true)
            : agent.Axis == Axis.Acid && l.SheetOn is null ? ("no data sheet, no acid", true)
            : l.Expiry < Today ? ($"past its date, {l.Expiry:yyyy-MM-dd}", false)
            : l.Expiry < Today.AddDays((int)Catalogue.Default["expiry-soon"]) ? ($"use by {l.Expiry:yyyy-MM-dd}", false)
            : l.SheetOn is null ? ("no data sheet", false)
            : null;
    }

    /// <summary>Money per litre of liquid at work, at the label's or the class's reference.</summary>
    public double? AtWork(ShelfLine l)
    {
        if (l.Price <= 0 || l.PackMl <= 0)
        {
            return null;
        }

        var reference = l.Reference is { } text
            ? Dilution.ParseStrength(text).Value * (l.Basis == StrengthBasis.Bottle ? Lance.Ratio : 1)
            : Catalogue.Default.Agent(l.Agent).Reference.Value;
        return (double)(l.Price / l.PackMl * 1000) * reference;
    }

    public static string Litres(decimal ml) =>
        ml >= 1000
            ? (ml / 1000).ToString("0.0#", CultureInfo.InvariantCulture) + " l"
            : ml.ToString(ml < 10 ? "0.#" : "0", CultureInfo.InvariantCulture) + " ml";

    public static string Strengths(string agent, string? low, string? reference, string? high)
    {
        var all = new[] { low, reference, high }.OfType<string>().Distinct().ToArray();
        return all.Length > 0 ? string.Join(" · ", all) : $"class: {Catalogue.Default.Agent(agent).Reference}";
    }
}
