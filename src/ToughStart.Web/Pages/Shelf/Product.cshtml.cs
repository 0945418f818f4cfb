using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Costing;
using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;
using ToughStart.Data;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Stations;

/// <summary>One bottle's cost against the others of its class.</summary>
public sealed record CostLine(Guid Id, string Name, decimal PackMl, decimal Price, CostOfUse Cost, bool This);

/// <summary>A product: label, data sheet, ledger, cost at work; and the form that changes it.</summary>
public sealed class ProductModel(ShelfStore shelf, KitStore kit, RecordStore records, ShopClock clock) : PageModel
{
    public const int MostSheetBytes = 5 * 1024 * 1024;

    public Product? Product { get; private set; }

    public bool Editing { get; private set; }

    /// <summary>What the form shows: what was typed, else what is saved.</summary>
    public IReadOnlyDictionary<string, string> Typed { get; private set; } = new Dictionary<string, string>();

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public string? Said { get; private set; }

    public IReadOnlyList<MoveLine> Moves { get; private set; } = [];

    public IReadOnlyList<(int Job, decimal Ml)> ReservedBy { get; private set; } = [];

    public IReadOnlyList<CostLine> Costs { get; private set; } = [];

    public (int Jobs, decimal AverageMl) Used { get; private set; }

    public string? SheetName { get; private set; }

    public IReadOnlyDictionary<string, string> Names { get; private set; } = new Dictionary<string, string>();

    public uint Version { get; private set; }

    public string? Blocked { get; private set; }

    /// <summary>Surfaces by what this very bottle may do on them.</summary>
    public IReadOnlyList<IGrouping<string, string>> MayGo { get; private set; } = [];

    public async Task<IActionResult> OnGetAsync(Guid? id, bool edit, string? said, CancellationToken stop)
    {
        if (!await LoadAsync(id, stop))
        {
            return NotFound();
        }

        Editing = (edit || Product is null) && User.MayEdit();
        Said = said switch
        {
            "saved" => "Saved. Plans made from now on use it.",
            "moved" => "Booked.",
            "sheet" => "The data sheet is on file.",
            _ => null,
        };
        return Page();
    }

    public async Task<IActionResult> OnGetSheetAsync(Guid id, CancellationToken stop) =>
        await shelf.SheetAsync(id, stop) is { } sheet ? File(sheet.Pdf, "application/pdf", sheet.FileName) : NotFound();

    public async Task<IActionResult> OnPostAsync(Guid? id, uint version, CancellationToken stop)
    {
        if (!await LoadAsync(id, stop))
        {
            return NotFound();
        }

        var form = Request.Form;
        string? Of(string field) =>
            field is "hazards" or "contains" or "allows" or "forbids" ? string.Join(' ', form[field].ToArray()) : form[field].ToString();
        var read = ProductDraft.Read(Of, decimalComma: true);
        Typed = ProductDraft.Fields.ToDictionary(f => f, f => Of(f) ?? "");
        if (!read.Ok)
        {
            return Again(read.Problems, 422);
        }

        var (saved, refused) = await shelf.SaveAsync(id, version, read.Value!, User.StaffId(), stop);
        return refused is null
            ? Redirect($"/shelf/{saved}?said=saved")
            : Again(
                [new Problem(refused.StartsWith("name", StringComparison.Ordinal) ? "name" : "(product)", refused)],
                refused.StartsWith("name", StringComparison.Ordinal) ? 422 : 409
            );
    }

    public async Task<IActionResult> OnPostMoveAsync(Guid id, string? kind, string? ml, string? note, CancellationToken stop)
    {
        if (!await LoadAsync(id, stop))
        {
            return NotFound();
        }

        var text = (ml ?? "").Trim().Replace(',', '.');
        if (
            !decimal.TryParse(
                text,
                NumberStyles.AllowDecimalPoint | NumberStyles.AllowLeadingSign,
                CultureInfo.InvariantCulture,
                out var amount
            )
        )
        {
            return Again([new Problem("ml", $"'{(text.Length > 20 ? text[..20] : text)}' is not a number of ml")], 422, false);
        }

        var move = await shelf.MoveAsync(
            id,
            kind ?? "",
            amount,
            string.IsNullOrWhiteSpace(note) ? null : note.Trim()[..Math.Min(note.Trim().Length, 120)],
            User.StaffId(),
            stop: stop
        );
        if (move.Done)
        {
            return Redirect($"/shelf/{id}?said=moved");
        }

        await LoadAsync(id, stop);
        return Again([new Problem("ml", move.Refused!)], 409, false);
    }

    public async Task<IActionResult> OnPostSheetAsync(Guid id, IFormFile? file, DateOnly? on, CancellationToken stop)
    {
        if (!await LoadAsync(id, stop))
        {
            return NotFound();
        }

        var today = clock.Today;
        if (file is null || file.Length is 0 or > MostSheetBytes)
        {
            return Again([new Problem("file", $"a PDF of at most {MostSheetBytes / 1024 / 1024} MB")], 422, false);
        }

        using var bytes = new MemoryStream();
        await file.CopyToAsync(bytes, stop);
        var pdf = bytes.ToArray();
        if (pdf.Length < 5 || !pdf.AsSpan(0, 5).SequenceEqual("%PDF-"u8))
        {
            return Again([new Problem("file", "is not a PDF")], 422, false);
        }

        if (on is null || on > today || on.Value.Year < 1990)
        {
            return Again([new Problem("on", "is the revision date printed on the sheet, not in the future")], 422, false);
        }

        await shelf.KeepSheetAsync(
            id,
            $"{string.Concat(Product!.Name.Select(c => char.IsAsciiLetterOrDigit(c) ? c : '-')).ToLowerInvariant()}-sds.pdf",
            pdf,
            on.Value,
            User.StaffId(),
            stop
        );
        return Redirect($"/shelf/{id}?said=sheet");
    }

    public async Task<IActionResult> OnPostRetireAsync(Guid id, CancellationToken stop)
    {
        await shelf.RetireAsync(id, stop);
        return Redirect("/shelf");
    }

    public string Value(string field) => Typed.GetValueOrDefault(field, "");

    public bool Ticked(string field, string word) => Value(field).Split(' ').Contains(word);

    private PageResult Again(IReadOnlyList<Problem> problems, int status, bool editing = true)
    {
        Problems = problems;
        Editing = editing;
        Response.StatusCode = status;
        return Page();
    }

    private async Task<bool> LoadAsync(Guid? id, CancellationToken stop)
    {
        ViewData["Station"] = "shelf";
        Product = id is { } known ? await shelf.ProductAsync(known, stop) : null;
        if (id is not null && Product is null)
        {
            return false;
        }

        ViewData["Title"] = Product?.Name ?? "A new product";
        if (Product is not { } p)
        {
            return true;
        }

        Version = p.Version;
        Typed = ProductDraft.Fields.ToDictionary(f => f, f => ShelfStore.Draft(p).Cell(f));
        (Moves, ReservedBy, Used, SheetName, Names) = (
            await shelf.MovesAsync(p.Id, stop),
            await shelf.ReservedByAsync(p.Id, stop),
            await shelf.UsedPerJobAsync(p.Id, stop),
            await shelf.SheetNameAsync(p.Id, stop),
            await records.NamesAsync(stop)
        );
        var lance = await kit.LanceInUseAsync(stop);
        var c = Catalogue.Default;
        var bottle = ShelfStore.Draft(p).ToShelf(lance, p.StockMl);
        Blocked = Compatibility.Default.Blocked(c.Agent(p.Agent), bottle)?.Words;
        MayGo = c
            .Surfaces.GroupBy(s => Compatibility.Default.Ask(p.Agent, s.Id, null, bottle).Ruling, s => s.Name)
            .OrderBy(g => Array.IndexOf(["yes", "care", "test", "no"], g.Key))
            .ToArray();
        Costs = (await shelf.SameClassAsync(p.Agent, stop))
            .Where(o => o.Price > 0 && o.PackMl > 0)
            .Select(o => new CostLine(
                o.Id,
                o.Name,
                o.PackMl,
                o.Price,
                CostOfUse.Of(
                    o.Agent,
                    (double)o.Price,
                    (double)o.PackMl,
                    c.Agent(o.Agent).Under(ShelfStore.Draft(o).ToShelf(lance, null)).Reference
                ),
                o.Id == p.Id
            ))
            .OrderBy(o => o.Cost.PerVehicle)
            .ToArray();
        return true;
    }
}
