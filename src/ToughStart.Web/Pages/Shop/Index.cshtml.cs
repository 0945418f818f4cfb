using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Core.Formats;
using ToughStart.Data;

namespace ToughStart.Web.Stations;

/// <summary>Settings of the shop: its name, and how it writes money, measures, days and numbers.</summary>
public sealed class ShopModel(SiteStore sites, ShopWays book) : PageModel
{
    [BindProperty]
    public string? Name { get; set; }

    [BindProperty]
    public string? Currency { get; set; }

    [BindProperty]
    public string? Tax { get; set; }

    [BindProperty]
    public string? Volume { get; set; }

    [BindProperty]
    public string? Temperature { get; set; }

    [BindProperty]
    public string? Length { get; set; }

    [BindProperty]
    public string? Day { get; set; }

    [BindProperty]
    public string? Decimal { get; set; }

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public bool Kept { get; private set; }

    public bool IsOwner => User.IsInRole(Roles.Owner);

    public static IReadOnlyList<(string Id, string Words)> Volumes { get; } =
    [("metric", "millilitres and litres"), ("us", "US fluid ounces and gallons"), ("imperial", "imperial fluid ounces and gallons")];

    public async Task OnGetAsync(bool kept, CancellationToken stop)
    {
        ViewData["Title"] = "Shop";
        ViewData["Station"] = "shop";
        Kept = kept;
        var (name, w) = await sites.WaysAsync(stop);
        (Name, Currency, Tax, Day) = (name, w.Currency, w.Tax, w.Day);
        Volume = w.Volume switch
        {
            VolumeWay.UsOunces => "us",
            VolumeWay.ImperialOunces => "imperial",
            _ => "metric",
        };
        (Temperature, Length, Decimal) = (w.Fahrenheit ? "f" : "c", w.Inches ? "in" : "mm", w.DecimalComma ? "comma" : "point");
    }

    public async Task<IActionResult> OnPostAsync(CancellationToken stop)
    {
        (ViewData["Title"], ViewData["Station"]) = ("Shop", "shop");
        if (!IsOwner)
        {
            return Forbid();
        }

        var problems = new List<Problem>();
        void Need(bool good, string field, string message, IReadOnlyList<string>? allowed = null)
        {
            if (!good)
            {
                problems.Add(new Problem(field, message, allowed));
            }
        }

        var (name, currency, tax) = ((Name ?? "").Trim(), (Currency ?? "").Trim(), (Tax ?? "").Trim());
        Need(name.Length is > 0 and <= 80, "name", "is 1 to 80 characters");
        Need(
            currency.Length <= Ways.LongestCurrency && !currency.Any(char.IsDigit),
            "currency",
            $"is a sign or a code of at most {Ways.LongestCurrency} characters, no digits"
        );
        Need(tax.Length <= Ways.LongestTax, "tax", $"is a word of at most {Ways.LongestTax} characters, or empty");
        Need(Volumes.Any(v => v.Id == Volume), "volumes", "is one of these", [.. Volumes.Select(v => v.Id)]);
        Need(Temperature is "c" or "f", "temperatures", "is one of these", ["c", "f"]);
        Need(Length is "mm" or "in", "lengths", "is one of these", ["mm", "in"]);
        Need(Ways.Days.Contains(Day), "days", "is one of these", Ways.Days);
        Need(Decimal is "point" or "comma", "decimals", "is one of these", ["point", "comma"]);
        if (problems.Count > 0)
        {
            (Problems, Response.StatusCode) = (problems, 422);
            return Page();
        }

        await sites.WaysAsync(
            name,
            new Ways(
                currency,
                tax,
                Volume switch
                {
                    "us" => VolumeWay.UsOunces,
                    "imperial" => VolumeWay.ImperialOunces,
                    _ => VolumeWay.Metric,
                },
                Temperature == "f",
                Length == "in",
                Day!,
                Decimal == "comma"
            ),
            stop
        );
        book.Forget();
        return Redirect("/shop?kept=true");
    }
}
