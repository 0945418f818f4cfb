using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Costing;
using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;
using ToughStart.Data;
using ToughStart.Web.Drawing;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Stations;

/// <summary>The mix bench: the arithmetic people get wrong, on the bottles they own. Everything typed is kept in the address.</summary>
public sealed class BenchModel(ShelfStore shelf, KitStore kit) : PageModel
{
    public static IReadOnlyList<(string Id, string Name)> Tools { get; } =
    [("mix", "Mix"), ("lance", "Lance"), ("bucket", "Bucket"), ("nozzle", "Nozzle"), ("ph", "pH"), ("water", "Water")];

    private readonly List<Problem> _problems = [];

    public string Tool { get; private set; } = "mix";

    public IReadOnlyList<Problem> Problems => _problems;

    public IReadOnlyList<Product> Products { get; private set; } = [];

    public IReadOnlyList<KitView> Kit { get; private set; } = [];

    public IReadOnlyDictionary<Guid, MixView> Last { get; private set; } = new Dictionary<Guid, MixView>();

    public Product? Product { get; private set; }

    public KitItem? Vessel { get; private set; }

    public LanceDraw Draw { get; private set; } = LanceDraw.Uncalibrated;

    public MixAnswer? Mix { get; private set; }

    public LanceAnswer? Lance { get; private set; }

    public NozzleAnswer? Nozzle { get; private set; }

    public PhAnswer? Ph { get; private set; }

    public HardnessAnswer? Water { get; private set; }

    public BucketDose? Bucket { get; private set; }

    public string? BucketRange { get; private set; }

    /// <summary>Containers a large batch is shared over, in the order of the answer's fills.</summary>
    public IReadOnlyList<KitItem> Shared { get; private set; } = [];

    /// <summary>What was refused when a mix was to be written down.</summary>
    public string? Refused { get; private set; }

    public async Task<IActionResult> OnGetAsync(string? tool, CancellationToken stop)
    {
        if (tool is not null && Tools.All(t => t.Id != tool))
        {
            return NotFound();
        }

        await LoadAsync(tool, stop);
        return Page();
    }

    public async Task<IActionResult> OnPostAsync(
        string? tool,
        Guid product,
        Guid bottle,
        string? productMl,
        string? waterMl,
        bool rinsed,
        bool emptied,
        CancellationToken stop
    )
    {
        await LoadAsync(tool, stop);
        if (
            !decimal.TryParse(productMl, NumberStyles.Float, CultureInfo.InvariantCulture, out var p)
            || !decimal.TryParse(waterMl, NumberStyles.Float, CultureInfo.InvariantCulture, out var w)
        )
        {
            Refused = "the amounts went missing: set the mix again";
        }
        else
        {
            var (mix, warning, refused) = await kit.MixAsync(
                new MixOrder(product, bottle, p, w, null, rinsed, emptied),
                User.StaffId(),
                stop
            );
            if (mix is not null)
            {
                return Redirect($"/bottles?made={mix.Number}{(warning is null ? "" : "&mind=" + Uri.EscapeDataString(warning))}");
            }

            Refused = refused;
        }

        Response.StatusCode = 409;
        return Page();
    }

    /// <summary>A field as it was typed.</summary>
    public string Of(string field) =>
        Request.Query[field].ToString() is { Length: > 0 } q ? q[..Math.Min(q.Length, 120)]
        : Request.HasFormContentType && Request.Form.TryGetValue("q_" + field, out var f) ? f.ToString()
        : "";

    public IReadOnlyList<string> Chips =>
        Product is { } p && new[] { p.Low, p.Reference, p.High }.OfType<string>().Distinct().ToArray() is { Length: > 0 } label ? label
        : Product is { } of ? Catalogue.Default.Agent(of.Agent).Strengths.Select(s => s.ToString()).ToArray()
        : ["1:3", "1:5", "1:10", "1:20", "2 %", "neat"];

    private double? Number(string field, string name)
    {
        var text = Of(field).Trim();
        if (text.Length == 0)
        {
            return null;
        }

        if (double.TryParse(text.Replace(',', '.'), NumberStyles.Float, CultureInfo.InvariantCulture, out var v) && double.IsFinite(v))
        {
            return v;
        }

        _problems.Add(new Problem(name, $"'{text}' is not a number"));
        return null;
    }

    private string? Text(string field) => Of(field).Trim() is { Length: > 0 } t ? t : null;

    private async Task LoadAsync(string? tool, CancellationToken stop)
    {
        Tool = tool ?? "mix";
        ViewData["Title"] = "Mix bench";
        ViewData["Station"] = "bench";
        Kit = await kit.AllAsync(stop);
        Draw = await kit.LanceInUseAsync(stop);
        if (Tool is "mix" or "bucket" or "ph")
        {
            Products = (await shelf.SomeAsync(200, stop)).ToArray();
            Product = Guid.TryParse(Of("product"), out var id)
                ? Products.FirstOrDefault(p => p.Id == id) ?? await shelf.ProductAsync(id, stop)
                : null;
        }

        switch (Tool)
        {
            case "mix":
                await MixAsync(stop);
                break;
            case "lance":
                AskLance();
                break;
            case "bucket":
                AskBucket();
                break;
            case "nozzle":
                var (size, flow, mpa) = (Number("size", "size"), Number("flow", "flow"), Number("mpa", "pressure"));
                Take(
                    Calculators.Nozzle(
                        new NozzleRequest(
                            flow is null ? size ?? 2 : null,
                            flow,
                            Number("angle", "angle") ?? 40,
                            mpa is null ? Number("psi", "pressure") ?? 2000 : null,
                            mpa,
                            null,
                            Number("cm", "distance") ?? 30
                        )
                    ),
                    a => Nozzle = a
                );
                break;
            case "ph":
                var ph = Number("ph", "pH") ?? Product?.NeatPh;
                if (ph is not null)
                {
                    Take(Calculators.Ph(new PhRequest(ph, Text("strength") ?? "1:9")), a => Ph = a);
                }

                break;
            default:
                Take(
                    Calculators.Hardness(
                        new HardnessRequest(Number("hardness", "hardness") ?? 290, Text("unit") ?? "mg-l", Number("film", "film"))
                    ),
                    a => Water = a
                );
                break;
        }
    }

    private async Task MixAsync(CancellationToken stop)
    {
        Last = await kit.LastInBottleAsync(stop);
        var vessels = Kit.Select(k => k.Item).Where(k => k.Kind is "bottle" or "sprayer" or "lance" or "bucket").ToArray();
        Vessel = vessels.FirstOrDefault(k => k.Id.ToString() == Of("vessel"))
            ?? vessels.FirstOrDefault(k => k.Kind == "bottle")
            ?? vessels.FirstOrDefault();
        var (rest, total) = (Number("rest", "rest"), Number("total", "total"));
        var onPanel = Vessel?.Kind == "lance" && Of("meant") != "bottle" ? LanceOf(Vessel).Ratio : (double?)null;
        var asked = new MixRequest(
            Text("strength") ?? Chips[Math.Min(1, Chips.Count - 1)],
            total,
            Number("dose", "product"),
            Number("water", "water"),
            Number("cap", "capful"),
            Vessel?.Ml,
            onPanel,
            Number("jug", "jug"),
            rest,
            rest is null ? null : Text("reststrength") ?? "unknown",
            null,
            Product?.Agent
        );
        if (total > Vessel?.Ml && rest is null)
        {
            // More than the vessel holds: shared over everything that is free, largest first.
            Shared = vessels
                .Where(v => v.Kind == Vessel.Kind || (v.Kind is "bottle" or "sprayer" && Vessel.Kind is "bottle" or "sprayer"))
                .Where(v => Last.GetValueOrDefault(v.Id) is not { State: "in-use" })
                .ToArray();
            asked = asked with { ContainerMl = null, Containers = Shared.Select(v => v.Ml!.Value).ToArray() };
        }

        Take(Calculators.Mix(asked), a => Mix = a);
        if (
            Mix is { WaterMl: > 0, TopUp: null }
            && asked.JugMl is null
            && JugPour.Best(
                new Mixture(ProductFraction.Of(Mix.Fraction), Mix.ProductMl, Mix.WaterMl),
                Kit.Where(k => k.Item.Kind == "jug" && k.Item.Ml > 0).Select(k => k.Item.Ml!.Value)
            )
                is { } jug
        )
        {
            Mix = Calculators.Mix(asked with { JugMl = jug.Mark }).Value ?? Mix;
        }

        if (
            Product is { } p
            && Compatibility.Default.Blocked(Catalogue.Default.Agent(p.Agent), ShelfStore.Draft(p).ToShelf(Draw, p.StockMl)) is { } blocked
        )
        {
            _problems.Add(new Problem(p.Name, blocked.Words));
            Mix = null;
        }
    }

    /// <summary>What a lance of the kit draws, as calibrated or as guessed.</summary>
    public LanceDraw LanceOf(KitItem item) => Kit.FirstOrDefault(k => k.Item.Id == item.Id)?.Draw ?? LanceDraw.Uncalibrated;

    private void AskLance()
    {
        var lance = Kit.Select(k => k.Item).Where(k => k.Kind == "lance").ToArray() is { Length: > 0 } all
            ? all.FirstOrDefault(k => k.Id.ToString() == Of("lance")) ?? all[0]
            : null;
        Vessel = lance;
        var draw = lance is null ? LanceDraw.Uncalibrated : LanceOf(lance);
        var known =
            Number("draw", "draw") is { } percent ? percent / 100
            : draw.Calibrated ? draw.Ratio
            : (double?)null;
        var bottle = Of("way") == "bottle";
        Take(
            Calculators.Lance(
                new LanceRequest(
                    null,
                    known,
                    bottle ? null : Text("strength") ?? "2 %",
                    bottle ? Text("strength") ?? "1:9" : null,
                    Number("flow", "flow") ?? Kit.FirstOrDefault(k => k.Item.Kind == "washer")?.Item.FlowLitresPerMinute,
                    lance?.Ml ?? 1000
                )
            ),
            a =>
                Lance =
                    draw.Calibrated && Of("draw").Length == 0 && a.BottleFraction is { } f
                        ? a with
                        {
                            DrawLow = draw.Low,
                            DrawHigh = draw.High,
                            OnPanelLow = f * draw.Low,
                            OnPanelHigh = f * draw.High,
                        }
                        : a
        );
    }

    private void AskBucket()
    {
        var unit = Text("unit") ?? "ml";
        if (!Dilution.Units.Contains(unit))
        {
            _problems.Add(new Problem("unit", $"'{unit}' is not known", [.. Dilution.Units]));
            return;
        }

        if (Number("dose", "dose") is not { } dose)
        {
            return;
        }

        var ml = dose * Dilution.Millilitres(unit);
        if (!(ml is > 0 and <= 20_000))
        {
            _problems.Add(new Problem("dose", "is more than 0 ml and at most 20 l"));
            return;
        }

        var agent = Catalogue.Default.Agent(
            Product?.Agent is { } id && Catalogue.Default.Agent(id).Basis == StrengthBasis.Bucket ? id : "neutral-shampoo"
        );
        var labelled = Product is { } p && p.Agent == agent.Id ? agent.Under(ShelfStore.Draft(p).ToShelf(Draw, null)) : agent;
        if (Number("water", "water") is not { } water)
        {
            BucketRange = BucketDose.OfUnknownBucket(ml).Words;
            return;
        }

        if (!(water is > 0 and <= 200))
        {
            _problems.Add(new Problem("water", "is more than 0 and at most 200 l"));
            return;
        }

        Bucket = BucketDose.Of(ml, water * 1000, labelled.Low, labelled.High);
    }

    private void Take<T>(Checked<T> answer, Action<T> take)
        where T : class
    {
        if (answer.Ok)
        {
            take(answer.Value!);
        }
        else
        {
            _problems.AddRange(answer.Problems);
        }
    }

    /// <summary>What the chosen vessel held last, when it matters for this product.</summary>
    public (string? Refused, string? Warning) Refill()
    {
        if (Vessel is null || Product is null || Last.GetValueOrDefault(Vessel.Id) is not { } last)
        {
            return (null, null);
        }

        return MixSafety.Refill(
            Catalogue.Default.Agent(Product.Agent),
            Catalogue.Default.Agent(last.Agent),
            last.ProductId == Product.Id,
            last.State != "in-use",
            false
        );
    }

    internal Container Drawn =>
        Mix is { Fills: [var first, ..] } && Shared.Count > first.Container ? ShelfDrawing.Container(Shared[first.Container])
        : Vessel is null ? Bottle.Find("spray-1000")
        : ShelfDrawing.Container(Vessel);
}
