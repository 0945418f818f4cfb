using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Formats;
using ToughStart.Data;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Stations;

/// <summary>A piece of kit as a form sends it.</summary>
public sealed class KitForm
{
    public string? Kind { get; set; }
    public string? Name { get; set; }
    public string? Flow { get; set; }
    public string? Psi { get; set; }
    public string? Size { get; set; }
    public string? Angle { get; set; }
    public string? Ml { get; set; }
    public string? Dedication { get; set; }
    public string? Colour { get; set; }
    public string? Grade { get; set; }
    public string? Life { get; set; }
    public string? Used { get; set; }
    public string? Condition { get; set; }
    public uint Version { get; set; }

    public static KitForm Of(KitItem k) =>
        new()
        {
            Kind = k.Kind,
            Name = k.Name,
            Flow = N(k.FlowLitresPerMinute),
            Psi = N(k.Psi),
            Size = N(k.Size),
            Angle = N(k.AngleDegrees),
            Ml = N(k.Ml),
            Dedication = k.Dedication,
            Colour = k.Colour,
            Grade = k.Grade,
            Life = N(k.Life),
            Used = N(k.Used),
            Condition = k.Condition,
            Version = k.Version,
        };

    /// <summary>Puts what was typed on a piece of kit, or names the fields that are wrong.</summary>
    public IReadOnlyList<Problem> Put(KitItem k)
    {
        var problems = new List<Problem>();
        k.Name = (Name ?? "").Trim();
        if (k.Name.Length is 0 or > 60 || ProductDraft.LooksLikeFormula(k.Name))
        {
            problems.Add(new Problem("name", "is 1 to 60 characters and begins with a letter or figure"));
        }

        k.FlowLitresPerMinute = Number("flow", Flow, k.Kind == "sprayer" ? 0.05 : 1, 60, "l/min");
        k.Psi = Number("pressure", Psi, 50, 6000, "psi");
        k.Size = Number("size", Size, 0.5, 20, "");
        k.AngleDegrees = Number("angle", Angle, 0, 80, "degrees");
        k.Ml = Number("holds", Ml, 0.1, 200_000, "ml");
        k.Life = (int?)Number("life", Life, 1, 10_000, "uses");
        k.Used = (int)(Number("used", Used, 0, 100_000, "uses") ?? 0);
        (k.Dedication, k.Colour, k.Grade, k.Condition) = (
            One("dedication", Dedication, Dedications),
            One("colour", Colour, Colours),
            One("grade", Grade, Grades),
            One("condition", Condition, Conditions)
        );
        if (k.Kind is "bottle" or "sprayer" or "lance" or "bucket" or "jug" && k.Ml is null && problems.All(p => p.Field != "holds"))
        {
            problems.Add(new Problem("holds", k.Kind == "jug" ? "the smallest mark of the jug, ml" : "say how much it holds, ml"));
        }

        return problems;

        double? Number(string field, string? text, double low, double high, string unit)
        {
            if (string.IsNullOrWhiteSpace(text))
            {
                return null;
            }

            if (
                double.TryParse(text.Trim().Replace(',', '.'), NumberStyles.Float, CultureInfo.InvariantCulture, out var v)
                && v >= low
                && v <= high
            )
            {
                return v;
            }

            problems.Add(new Problem(field, string.Create(CultureInfo.InvariantCulture, $"is {low} to {high} {unit}").TrimEnd()));
            return null;
        }

        string? One(string field, string? text, string[] allowed)
        {
            if (string.IsNullOrEmpty(text) || allowed.Contains(text))
            {
                return string.IsNullOrEmpty(text) ? null : text;
            }

            problems.Add(new Problem(field, "is not known", allowed));
            return null;
        }
    }

    public static readonly string[] Dedications = ["wheel", "paint", "glass", "rinse", "sacrificial"],
        Colours = ["white", "black", "red", "orange", "yellow", "green", "blue", "violet", "grey"],
        Grades = ["fine", "medium", "coarse"],
        Conditions = ["new", "good", "worn", "bin"];

    private static string? N(double? v) => v?.ToString("0.####", CultureInfo.InvariantCulture);
}

/// <summary>The kit: what sprays, what holds, what touches, and how worn it is.</summary>
public sealed class KitModel(KitStore kit, ShopClock clock) : PageModel
{
    public IReadOnlyList<KitView> All { get; private set; } = [];

    public KitForm Form { get; private set; } = new();

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public IReadOnlyDictionary<Guid, MixView> Last { get; private set; } = new Dictionary<Guid, MixView>();

    public async Task OnGetAsync(CancellationToken stop) => await LoadAsync(stop);

    public async Task<IActionResult> OnPostAsync(KitForm form, CancellationToken stop)
    {
        Form = form;
        if (KitStore.Kinds.All(k => k.Id != form.Kind))
        {
            Problems = [new Problem("kind", "is not known", KitStore.Kinds.Select(k => k.Id).ToArray())];
        }
        else
        {
            var item = new KitItem
            {
                Kind = form.Kind!,
                Name = "",
                Author = User.StaffId(),
            };
            Problems = form.Put(item);
            if (Problems.Count == 0)
            {
                var (_, refused) = await kit.SaveAsync(item, true, 0, stop);
                if (refused is null)
                {
                    return Redirect($"/kit#{item.Kind}");
                }

                Problems = [new Problem("name", refused)];
            }
        }

        Response.StatusCode = 422;
        await LoadAsync(stop);
        return Page();
    }

    public async Task<IActionResult> OnPostUsedAsync(Guid id, CancellationToken stop)
    {
        await kit.UseOnceAsync(id, stop);
        return Redirect("/kit#media");
    }

    private async Task LoadAsync(CancellationToken stop)
    {
        ViewData["Title"] = "Kit";
        ViewData["Station"] = "kit";
        (All, Last) = (await kit.AllAsync(stop), await kit.LastInBottleAsync(stop));
    }

    /// <summary>Has a lance not been timed for long, or never?</summary>
    public bool Stale(KitView v) =>
        v.Item.Kind == "lance"
        && (v.Draw is null || (clock.Local - v.Calibrations[0].At).TotalDays > Core.Provenance.Catalogue.Default["calibration-days"]);

    /// <summary>The numbers of a piece that matter.</summary>
    public string Facts(KitView v) =>
        v.Item switch
        {
            { Kind: "washer" } k =>
                $"{k.FlowLitresPerMinute:0.#} l/min at {k.Psi:0} psi ({k.Psi / Core.Provenance.Catalogue.Default["psi-per-mpa"]:0.0} MPa)",
            { Kind: "nozzle" } k => $"size {k.Size:0.#}, {k.AngleDegrees:0}°",
            { Kind: "lance" } k => v.Draw is { } d
                ? $"{ShelfModel.Litres((decimal)k.Ml!)} · draws 1:{1 / d.Ratio - 1:0.#} ({d.Low * 100:0.0} to {d.High * 100:0.0} %), timed {clock.Here(v.Calibrations[0].At):d MMM yyyy}{(Stale(v) ? ": time it again" : "")}"
                : $"{ShelfModel.Litres((decimal)k.Ml!)} · not calibrated",
            { Kind: "jug" } k => $"marks every {k.Ml:0.#} ml",
            { Kind: "media" or "clay" } k => string.Join(
                ", ",
                new[] { k.Grade, k.Dedication is null ? null : k.Dedication + " only", k.Condition }.OfType<string>()
            ),
            var k =>
                $"{ShelfModel.Litres((decimal)(k.Ml ?? 0))}{(k.FlowLitresPerMinute is { } draw ? $", sprays {draw:0.##} l/min" : "")}{(k.Dedication is null ? "" : $", {k.Dedication} only")}{(Last.GetValueOrDefault(k.Id) is { State: "in-use" } m ? $" · holds {m.Product} {m.Strength}" : "")}",
        };
}
