using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Costing;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Data;
using ToughStart.Web.Api;
using ToughStart.Web.Drawing;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Stations;

/// <summary>What a job needs mixed, bought and drained; and the log of what was really mixed.</summary>
public sealed class MixModel(JobDesk desk, MixDesk mixes, KitStore kit) : JobPage(desk)
{
    public override string Station => "mix";

    public IReadOnlyList<Solution> Solutions { get; private set; } = [];

    /// <summary>Plain water to rinse the mitt in; null when nothing is rinsed that way.</summary>
    public InContainer? Rinse { get; private set; }

    public IReadOnlyList<ShoppingLine> Shopping { get; private set; } = [];

    public IReadOnlyList<DrainLine> Drain { get; private set; } = [];

    public IReadOnlyList<MixView> Mixed { get; private set; } = [];

    public IReadOnlyDictionary<Guid, MixView> Last { get; private set; } = new Dictionary<Guid, MixView>();

    public IReadOnlyList<Container> Containers { get; private set; } = [];

    public string Leaf { get; private set; } = "mix";

    public string? Refused { get; private set; }

    public string? Mind { get; private set; }

    /// <summary>What sun and air changed in this mix: the conditions it was computed for, thicker foam, misting again, shorter dwell.</summary>
    public string? ByWeather { get; private set; }

    public async Task<IActionResult> OnGetAsync(int number, string? leaf, string? mind, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        Leaf = leaf is "buy" or "drain" ? leaf : "mix";
        Mind = mind is { Length: <= 200 } ? mind : null;
        await FillAsync(stop);
        return Page();
    }

    public async Task<IActionResult> OnPostAsync(
        int number,
        Guid product,
        Guid bottle,
        string? productMl,
        string? waterMl,
        bool rinsed,
        bool emptied,
        CancellationToken stop
    )
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        if (IsClosed)
        {
            Refused = $"this job {RunApi.IsClosed}";
        }
        else if (
            decimal.TryParse(productMl, NumberStyles.Float, CultureInfo.InvariantCulture, out var p)
            && decimal.TryParse(waterMl, NumberStyles.Float, CultureInfo.InvariantCulture, out var w)
        )
        {
            var (mix, warning, refused) = await kit.MixAsync(
                new MixOrder(product, bottle, p, w, Job.Id, rinsed, emptied),
                User.StaffId(),
                stop
            );
            if (mix is not null)
            {
                return Redirect($"/jobs/{number}/mix{(warning is null ? "" : "?mind=" + Uri.EscapeDataString(warning))}");
            }

            Refused = refused;
        }
        else
        {
            Refused = "the amounts went missing: set the mix again";
        }

        Response.StatusCode = 409;
        await FillAsync(stop);
        return Page();
    }

    private string? Weather()
    {
        if (Plan.Conditions.Count == 0)
        {
            return null;
        }

        var steps = Plan.Steps.Where(s => s.Mix is not null).ToArray();
        var changed = new[]
        {
            (N: steps.Count(s => s.Film == "thick-foam"), What: "thicker foam"),
            (N: steps.Count(s => s.Mists > 0), What: "misting again"),
            (
                N: steps.Count(s => s.Film is not null && s.Mists == 0 && s.DwellMinutes < Catalogue.Default.Agent(s.Agent).Dwell - 0.05),
                What: "a shorter dwell"
            ),
            (N: steps.Count(s => s.Sections is { Sections.Count: > 1 }), What: "sections"),
        }
            .Where(x => x.N > 0)
            .Select(x => $"{x.What} in {x.N} {(x.N == 1 ? "step" : "steps")}")
            .ToArray();
        return $"Computed for {Plan.Conditions[0]}{(changed.Length > 0 ? ": " + string.Join(", ", changed) : ": drying changes nothing here")}.";
    }

    private async Task FillAsync(CancellationToken stop)
    {
        ByWeather = Weather();
        var bench = await mixes.OfAsync(Plan, Equipped.Kit, n => Request.Query[n.Key].ToString() is { Length: > 0 } id ? id : null, stop);
        (Last, Containers, Solutions, Rinse) = (bench.Last, bench.Containers, bench.Solutions, bench.Rinse);
        Shopping = JobVolumes.Shopping(
            bench.Plan,
            bench
                .Products.Values.Select(p => ShelfStore.Draft(p).ToShelf(LanceDraw.Uncalibrated, p.StockMl) with { Id = p.Id.ToString() })
                .ToArray(),
            bench.Products.Values.ToDictionary(p => p.Name, p => (double)p.PackMl)
        );
        Drain = JobVolumes.Drain(Plan);
        Mixed = (await kit.MixesAsync(true, 200, stop)).Where(m => m.Job == Job.Number).ToArray();
    }

    /// <summary>Does the log say that the container still holds something?</summary>
    public MixView? Holds(Solution s) => s.Bottle is { } id && Last.GetValueOrDefault(id) is { } m ? m : null;

    public static string Colour(string agent) =>
        agent switch
        {
            "iron-remover" or "iron-foam" => "#b58bd0",
            "alkaline-foam" or "degreaser" or "tfr" or "apc" => "#e3b45c",
            "citrus-prewash" => "#f0c64f",
            "tar-remover" or "alcohol-wipe" => "#c9d3d6",
            "wheel-acid" or "spot-acid" => "#e2836f",
            "wheel-neutral" => "#9ec7a0",
            _ => "#8fc4c4",
        };
}
