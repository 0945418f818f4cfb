using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Core.Costing;
using ToughStart.Core.Formats;
using ToughStart.Data;

namespace ToughStart.Web.Stations;

/// <summary>Settings of the shop: its name, and how it writes money, measures, days and numbers.</summary>
public sealed class ShopModel(SiteStore sites, QuoteStore quotes, CrewStore crew, ShopWays book) : PageModel
{
    /// <summary>People who work here, with what they do and when they are there.</summary>
    public IReadOnlyList<StaffUser> Workers { get; private set; } = [];

    public (int Washers, int Ladders, int Bays) Machines { get; private set; }

    /// <summary>What the shop charges, as it is kept or as it was just typed.</summary>
    public IReadOnlyDictionary<string, string> RateTexts { get; private set; } = new Dictionary<string, string>();

    public string Terms { get; private set; } = "";

    public string Days { get; private set; } = "";

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
        await AroundAsync(stop);
    }

    private async Task AroundAsync(CancellationToken stop)
    {
        (Workers, Machines) = (await crew.WorkersAsync(stop), await crew.MachinesAsync(stop));
        var house = await quotes.HouseAsync(stop);
        RateTexts = Rates.Fields.ToDictionary(f => f.Id, f => f.Of(house.Rates).ToString("0.####", CultureInfo.InvariantCulture));
        (Terms, Days) = (house.Terms, house.Days.ToString(CultureInfo.InvariantCulture));
    }

    /// <summary>Keeps what the shop charges, and what stands under its quotes.</summary>
    public async Task<IActionResult> OnPostRatesAsync(string? terms, string? days, CancellationToken stop)
    {
        if (!IsOwner)
        {
            return Forbid();
        }

        await OnGetAsync(false, stop);
        var said = Rates.Fields.ToDictionary(f => f.Id, f => Request.Form[f.Id].ToString().Trim());
        var problems = said.Where(x => !TryNumber(x.Value, out _)).Select(x => new Problem(x.Key, "is a number")).ToList();
        (RateTexts, Terms, Days) = (said, terms?.Trim() ?? "", days?.Trim() ?? "");
        var (rates, wrong) = Rates.Read(id => TryNumber(said[id], out var v) ? v : null);
        problems.AddRange(wrong.Select(w => new Problem("rates", w)));
        if (Terms.Length is 0 or > QuoteStore.MostTerms)
        {
            problems.Add(new("terms", $"is 1 to {QuoteStore.MostTerms} characters"));
        }

        if (!int.TryParse(Days, NumberStyles.None, CultureInfo.InvariantCulture, out var number) || number is < 1 or > QuoteStore.MostDays)
        {
            problems.Add(new("days", $"a quote stands 1 to {QuoteStore.MostDays} days"));
        }

        if (problems.Count > 0)
        {
            (Problems, Response.StatusCode) = (problems, 422);
            return Page();
        }

        await quotes.HouseAsync(new(rates!, Terms, number), stop);
        return Redirect("/shop?kept=true#rates");
    }

    /// <summary>Keeps when people are there and what they do, and how many machines there are.</summary>
    public async Task<IActionResult> OnPostCrewAsync(int washers, int ladders, int bays, CancellationToken stop)
    {
        if (!IsOwner)
        {
            return Forbid();
        }

        await OnGetAsync(false, stop);
        var problems = new List<Problem>();
        void Count(string field, int value)
        {
            if (value is < 1 or > CrewStore.MostMachines)
            {
                problems.Add(new(field, $"is 1 to {CrewStore.MostMachines}"));
            }
        }

        Count("washers", washers);
        Count("ladders", ladders);
        Count("bays", bays);
        var people = new List<StaffUser>();
        foreach (var w in Workers)
        {
            int Minute(string what)
            {
                var text = Request.Form[$"{what}-{w.StaffId}"].ToString().Trim();
                if (TimeOnly.TryParseExact(text, "H:mm", CultureInfo.InvariantCulture, DateTimeStyles.None, out var t))
                {
                    return (int)t.ToTimeSpan().TotalMinutes;
                }

                problems.Add(new(w.DisplayName, $"'{text}' is no time of the day, like 08:30"));
                return 0;
            }

            (w.WorksFrom, w.WorksTo) = (Minute("from"), Minute("to"));
            (w.BreakFrom, w.BreakTo) = (Minute("rest-from"), Minute("rest-to"));
            w.Skills = [.. Scheduling.PlanTasks.Skills.Intersect(Request.Form[$"skill-{w.StaffId}"].Select(x => x ?? ""))];
            w.Skills = w.Skills.Length == Scheduling.PlanTasks.Skills.Count ? [] : w.Skills;
            if (
                !int.TryParse(Request.Form[$"rest-{w.StaffId}"], NumberStyles.None, CultureInfo.InvariantCulture, out var rest)
                || rest > CrewStore.LongestBreak
            )
            {
                problems.Add(new(w.DisplayName, $"a break is 0 to {CrewStore.LongestBreak} minutes"));
            }

            w.Break = rest;
            if (w.WorksTo <= w.WorksFrom)
            {
                problems.Add(new(w.DisplayName, "comes before they leave: there is no shift"));
            }
            else if (rest > 0 && w.BreakTo - w.BreakFrom < rest)
            {
                problems.Add(new(w.DisplayName, "has a break that does not fit between its two times"));
            }

            people.Add(w);
        }

        if (problems.Count > 0)
        {
            (Problems, Response.StatusCode) = (problems, 422);
            return Page();
        }

        await crew.KeepAsync(people, washers, ladders, bays, stop);
        return Redirect("/shop?kept=true#crew");
    }

    private static bool TryNumber(string text, out double value) =>
        double.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out value) && double.IsFinite(value);

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
            await AroundAsync(stop);
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
