using System.Globalization;
using System.Text.RegularExpressions;
using ToughStart.Core.Chemistry;

namespace ToughStart.Core.Formats;

/// <summary>Measures a shop writes volumes in.</summary>
public enum VolumeWay
{
    Metric,
    UsOunces,
    ImperialOunces,
}

/// <summary>
/// How a shop writes money, measures, days and numbers. Everything is computed and kept in SI units; only what people read is written the
/// shop's way.
/// </summary>
/// <param name="Currency">Sign or code, at most 6 characters; empty = none was set.</param>
/// <param name="Tax">What is added to a price, in the shop's word (VAT, sales tax); empty = prices are as they stand.</param>
/// <param name="Day">Pattern of a day, one of <see cref="Days"/>.</param>
public sealed partial record Ways(
    string Currency,
    string Tax,
    VolumeWay Volume,
    bool Fahrenheit,
    bool Inches,
    string Day,
    bool DecimalComma
)
{
    public const int LongestCurrency = 6;
    public const int LongestTax = 24;

    /// <summary>Patterns a day can be written in.</summary>
    public static IReadOnlyList<string> Days { get; } = ["d MMM yyyy", "MMM d, yyyy", "yyyy-MM-dd", "dd/MM/yyyy"];

    /// <summary>Metric, no currency set.</summary>
    public static Ways Standard { get; } = new("", "", VolumeWay.Metric, false, false, Days[0], false);

    /// <summary>Is a text written this way as it is written in SI units with a decimal point?</summary>
    public bool IsPlain => Volume == VolumeWay.Metric && !Fahrenheit && !Inches && !DecimalComma;

    /// <summary>An amount of money: "€ 12.50", "12.50 CHF", "12.50".</summary>
    public string Money(double amount, int digits = 2)
    {
        var number = amount.ToString("F" + digits.ToString(CultureInfo.InvariantCulture), CultureInfo.InvariantCulture);
        return Currency.Length == 0 ? number
            : Currency.All(char.IsLetter) ? $"{number} {Currency}"
            : $"{Currency} {number}";
    }

    public string Money(decimal amount, int digits = 2) => Money((double)amount, digits);

    /// <summary>What is said beside a price: "before VAT"; empty = nothing is added.</summary>
    public string BeforeTax => Tax.Length == 0 ? "" : $"before {Tax}";

    public string Of(DateOnly day) => day.ToString(Day, CultureInfo.InvariantCulture);

    /// <summary>A day as a heading says it: weekday first, months whole where the shop writes them.</summary>
    /// <param name="year">With the year.</param>
    public string Heading(DateOnly day, bool year = true)
    {
        var pattern = Day.Replace("MMM", "MMMM", StringComparison.Ordinal);
        var date = year ? pattern : Regex.Replace(pattern, "[-/ ,]*yyyy[-/ ,]*", "");
        return day.ToString("dddd " + date, CultureInfo.InvariantCulture);
    }

    /// <summary>A day with the time of day.</summary>
    public string Of(DateTimeOffset at) => at.ToString(Day + " HH:mm", CultureInfo.InvariantCulture);

    /// <summary>One unit that is written another way: text like "250 ml" becomes "8.5 fl oz".</summary>
    /// <param name="From">Unit as it stands in texts.</param>
    /// <param name="Factor">What a number is multiplied by, after which <paramref name="Add"/> is added.</param>
    public sealed record Change(string From, double Factor, double Add, string To);

    /// <summary>Units that this shop writes another way; empty for a metric one.</summary>
    public IReadOnlyList<Change> Changes
    {
        get
        {
            var list = new List<Change>();
            if (Volume != VolumeWay.Metric)
            {
                var (oz, gal) = Volume == VolumeWay.UsOunces ? ("us-fl-oz", "us-gal") : ("imp-fl-oz", "imp-gal");
                list.Add(new("l/min", 1000 / Dilution.Millilitres(gal), 0, "gal/min"));
                list.Add(new("ml", 1 / Dilution.Millilitres(oz), 0, "fl oz"));
                list.Add(new("l", 1000 / Dilution.Millilitres(gal), 0, "gal"));
            }

            if (Fahrenheit)
            {
                list.Add(new("°C", 1.8, 32, "°F"));
            }

            if (Inches)
            {
                const double inch = 25.4,
                    foot = 0.3048;
                list.Add(new("mm", 1 / inch, 0, "in"));
                list.Add(new("cm", 10 / inch, 0, "in"));
                list.Add(new("m²", 1 / (foot * foot), 0, "sq ft"));
            }

            return list;
        }
    }

    /// <summary>A sentence with the numbers in it written the shop's way. What carries no unit keeps its number.</summary>
    public string Say(string text)
    {
        if (IsPlain)
        {
            return text;
        }

        var changes = Changes;
        var said =
            changes.Count == 0
                ? text
                : Measured()
                    .Replace(text, m =>
                    {
                        var unit = m.Groups["unit"]
                            .Value.Replace("&#xB0;", "°", StringComparison.Ordinal)
                            .Replace("&#176;", "°", StringComparison.Ordinal)
                            .Replace("&#xB2;", "²", StringComparison.Ordinal)
                            .Replace("&#178;", "²", StringComparison.Ordinal);
                        return changes.FirstOrDefault(c => c.From == unit) is { } change
                            ? m.Groups["low"].Success
                                ? $"{Number(m.Groups["low"].Value, change)}{m.Groups["between"].Value}{Number(m.Groups["n"].Value, change)} {change.To}"
                                : $"{Number(m.Groups["n"].Value, change)} {change.To}"
                            : m.Value;
                    });
        return DecimalComma ? Point().Replace(said, ",") : said;
    }

    private static string Number(string text, Change change)
    {
        var value =
            double.Parse(text.Replace("−", "-", StringComparison.Ordinal), CultureInfo.InvariantCulture) * change.Factor + change.Add;
        // Temperatures to a degree, everything else to what can still be told apart.
        return value.ToString(
            change.Add != 0 || Math.Abs(value) >= 100 ? "0"
                : Math.Abs(value) >= 1 ? "0.#"
                : "0.##",
            CultureInfo.InvariantCulture
        );
    }

    [GeneratedRegex(
        @"(?<![\w.,:])(?:(?<low>[-−]?\d+(?:\.\d+)?)(?<between> ?(?:–|-|to|and|&#x2013;) ?))?(?<n>[-−]?\d+(?:\.\d+)?)(?: |&nbsp;|&#xA0;|\u00A0)?(?<unit>l/min|ml|mm|cm|(?:m²|m&#xB2;|m&#178;)|(?:°C|&#xB0;C|&#176;C)|l)(?![\w/²&])"
    )]
    private static partial Regex Measured();

    [GeneratedRegex(@"(?<=\d)\.(?=\d)(?!\d+\.\d)")]
    private static partial Regex Point();
}
