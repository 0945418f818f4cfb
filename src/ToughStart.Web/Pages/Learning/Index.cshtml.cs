using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Data;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Stations;

/// <summary>What the shop's own work teaches; proposals that somebody agrees to, and undoes the same way.</summary>
public sealed class LearningModel(LearningDesk desk, LearningStore store, RecordStore records, KitStore kit) : PageModel
{
    public IReadOnlyList<ProductLearnt> Products { get; private set; } = [];

    public IReadOnlyList<PaceLearnt> Paces { get; private set; } = [];

    public IReadOnlyList<LearntFactor> Agreed { get; private set; } = [];

    public IReadOnlyDictionary<string, string> Names { get; private set; } = new Dictionary<string, string>();

    public double? Film { get; private set; }

    public Effect? Effect { get; private set; }

    /// <summary>The product whose effect is shown.</summary>
    public Guid? Shown { get; private set; }

    public string? Refused { get; private set; }

    public string? Said { get; private set; }

    public async Task<IActionResult> OnGetAsync(Guid? effect, string? said, CancellationToken stop)
    {
        Said = said switch
        {
            "agreed" => "Agreed. Plans that are made from now on reckon with it; plans in force stay as they are.",
            "restart" => "Learnt anew from there on: what came before says nothing of this bottle any more.",
            "undone" => "Undone. What counted before counts again.",
            _ => null,
        };
        await FillAsync(stop);
        if (effect is { } id && Products.FirstOrDefault(p => p.Of.Id == id) is { } product)
        {
            (Shown, Effect) = (id, await desk.EffectAsync(id, product.Factor, stop));
        }

        return Page();
    }

    /// <summary>Somebody agrees to what is proposed; what was looked at is what counts then.</summary>
    public async Task<IActionResult> OnPostAgreeAsync(string? of, string? subject, string? factor, CancellationToken stop)
    {
        await FillAsync(stop);
        if (!User.IsInRole(Roles.Owner))
        {
            return Forbid();
        }

        var product = of == "product" ? Products.FirstOrDefault(p => p.Of.Id.ToString() == subject) : null;
        var pace = of == "pace" ? Paces.FirstOrDefault(p => $"{p.Of.Who}/{p.Of.Stage}" == subject) : null;
        var now = product?.Factor ?? pace?.Factor;
        if (now is null || !(product?.Proposed ?? pace!.Proposed) || factor != Factor(now.Value))
        {
            return Refuse("what was proposed is not proposed any more: look at it as it stands now");
        }

        var learnt = product?.Learnt ?? pace!.Learnt;
        var done = await store.AgreeAsync(
            new LearntFactor
            {
                Of = of!,
                Subject = subject!,
                Before = product?.Of.Now ?? pace!.Of.Now,
                Factor = now.Value,
                Low = learnt.Low,
                High = learnt.High,
                Jobs = product?.Jobs.Count ?? pace!.Of.Ratios.Count,
                Zones = product?.Zones ?? 0,
                Author = User.StaffId(),
                At = store.Now,
            },
            stop
        );
        return done ? Redirect("/learning?said=agreed") : Refuse("it was changed meanwhile: look at it as it stands now");
    }

    /// <summary>A drift has a cause: the bottle is learnt anew from the job at which it was noticed.</summary>
    public async Task<IActionResult> OnPostRestartAsync(Guid product, int job, CancellationToken stop)
    {
        await FillAsync(stop);
        if (!User.IsInRole(Roles.Owner))
        {
            return Forbid();
        }

        if (Products.FirstOrDefault(p => p.Of.Id == product) is not { Drift.At: { } at } of || at != job)
        {
            return Refuse("no drift is told of it any more: look at it as it stands now");
        }

        await store.AgreeAsync(
            new LearntFactor
            {
                Of = LearningStore.Restart,
                Subject = product.ToString(),
                Before = of.Of.Now,
                Factor = of.Of.Now,
                Low = of.Learnt.Low,
                High = of.Learnt.High,
                Jobs = at,
                Zones = 0,
                Author = User.StaffId(),
                At = store.Now,
            },
            stop
        );
        return Redirect("/learning?said=restart");
    }

    public async Task<IActionResult> OnPostUndoAsync(Guid id, CancellationToken stop)
    {
        if (!User.IsInRole(Roles.Owner))
        {
            return Forbid();
        }

        if (await store.UndoAsync(id, User.StaffId(), stop))
        {
            return Redirect("/learning?said=undone");
        }

        await FillAsync(stop);
        return Refuse("something else counts by now: it cannot be undone from here");
    }

    public static string Factor(double f) => f.ToString("0.00", System.Globalization.CultureInfo.InvariantCulture);

    private PageResult Refuse(string why)
    {
        (Refused, Response.StatusCode) = (why, 409);
        return Page();
    }

    private async Task FillAsync(CancellationToken stop)
    {
        ViewData["Station"] = "learning";
        ViewData["Title"] = "Learning";
        Names = await records.NamesAsync(stop);
        Products = await desk.ProductsAsync(stop);
        Paces = await desk.PacesAsync(stop);
        Agreed = await store.AgreedAsync(stop);
        Film = (await kit.InUseAsync(stop)).FilmFactor;
    }
}
