using System.Globalization;
using System.Text.RegularExpressions;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Chemistry;

/// <summary>How a strength was written and what it means; <paramref name="OtherReading"/> when the words can mean something else.</summary>
public sealed record StrengthReading(ProductFraction Fraction, string Means, ProductFraction? OtherReading, string? OtherMeans);

/// <summary>Amounts for a container: what to pour first and what to add.</summary>
public sealed record Mixture(ProductFraction Fraction, double ProductMl, double WaterMl)
{
    public double TotalMl => ProductMl + WaterMl;
}

/// <summary>
/// The arithmetic of mixing. Strengths come written as 1:n, n:1, "1 in n", percent, "ml per l", "oz per gal", "50 ml in 450 ml",
/// capfuls or "neat"; all become a <see cref="ProductFraction"/>.
/// </summary>
public static partial class Dilution
{
    private static readonly Dictionary<string, double> UnitMl = ReadUnits();

    /// <summary>Millilitres in one unit, by its id (ml, l, us-fl-oz, imp-gal …).</summary>
    /// <exception cref="KeyNotFoundException">There is no such unit.</exception>
    public static double Millilitres(string unit) => UnitMl[unit];

    public static IReadOnlyCollection<string> Units => UnitMl.Keys;

    /// <summary>A strength the catalogue or a label is sure of.</summary>
    /// <exception cref="FormatException">The text is not a strength.</exception>
    public static ProductFraction ParseStrength(string text) =>
        TryParse(text, null, out var reading, out var problem) ? reading!.Fraction : throw new FormatException(problem);

    /// <summary>Reads a strength in any of the trade's notations.</summary>
    /// <param name="text">As written, for example "1:9", "10:1", "1 in 10", "2 %", "30 ml per l", "2 us-fl-oz per us-gal", "50 ml in 450 ml", "2 capfuls in 10 l".</param>
    /// <param name="capfulMl">What one capful of this bottle holds, in ml; needed only for capfuls.</param>
    /// <param name="problem">What is wrong and what is allowed, when the answer is false.</param>
    public static bool TryParse(string text, double? capfulMl, out StrengthReading? reading, out string? problem)
    {
        reading = null;
        problem = null;
        var t = text.Trim().ToLowerInvariant().Replace(',', '.');
        if (t is "neat" or "undiluted")
        {
            reading = new(ProductFraction.Neat, "undiluted", null, null);
            return true;
        }

        if (Ratio().Match(t) is { Success: true } ratio)
        {
            var a = Number(ratio.Groups[1].Value);
            var b = Number(ratio.Groups[2].Value);
            var (product, water) = a <= b || b == 0 ? (a, b) : (b, a);
            if (product <= 0)
            {
                problem = "a ratio needs parts greater than 0, for example 1:9";
                return false;
            }

            var n = water / product;
            var other = n > 1 ? ProductFraction.OneIn(n) : (ProductFraction?)null;
            reading = new(ProductFraction.OneTo(n), $"1 part product to {n:0.##} parts water", other, other is null ? null : $"if the label means 1 in {n:0.##}");
            return true;
        }

        if (In().Match(t) is { Success: true } oneIn)
        {
            var n = Number(oneIn.Groups[1].Value);
            if (n < 1)
            {
                problem = "\"1 in n\" needs n of 1 or more";
                return false;
            }

            reading = new(ProductFraction.OneIn(n), $"1 part product in {n:0.##} parts of the total", ProductFraction.OneTo(n), $"if the label means 1:{n:0.##}");
            return true;
        }

        if (Percent().Match(t) is { Success: true } percent)
        {
            var p = Number(percent.Groups[1].Value);
            if (p is <= 0 or > 100)
            {
                problem = "a percentage is greater than 0 and at most 100";
                return false;
            }

            reading = new(ProductFraction.Of(p / 100), $"{p:0.##} % of the total", null, null);
            return true;
        }

        if (Amounts().Match(t) is { Success: true } amounts)
        {
            return ReadAmounts(amounts, capfulMl, out reading, out problem);
        }

        problem = $"'{text.Trim()}' is not a strength: write 1:9, 10:1, 1 in 10, 2 %, 30 ml per l, 50 ml in 450 ml, 2 us-fl-oz per us-gal, 2 capfuls in 10 l or neat";
        return false;
    }

    /// <summary>Product and water for a total volume.</summary>
    /// <exception cref="ArgumentOutOfRangeException"><paramref name="totalMl"/> is not greater than 0.</exception>
    public static Mixture ForTotal(ProductFraction fraction, double totalMl) => totalMl > 0
        ? new(fraction, totalMl * fraction.Value, totalMl * (1 - fraction.Value))
        : throw new ArgumentOutOfRangeException(nameof(totalMl), totalMl, "the total is greater than 0 ml");

    /// <summary>What a mixture becomes when product and water are added to it.</summary>
    public static Mixture Add(Mixture now, double productMl, double waterMl)
    {
        ArgumentOutOfRangeException.ThrowIfNegative(productMl);
        ArgumentOutOfRangeException.ThrowIfNegative(waterMl);
        var product = now.ProductMl + productMl;
        return new(ProductFraction.Of(product / (now.TotalMl + productMl + waterMl)), product, now.WaterMl + waterMl);
    }

    /// <summary>
    /// What goes into a lance bottle for a wanted fraction on the panel, given the draw ratio (bottle draw ÷ total flow);
    /// null when even neat product is drawn too thin: the richest possible is the draw ratio itself.
    /// </summary>
    public static ProductFraction? BottleFor(ProductFraction onPanel, double drawRatio) =>
        drawRatio is <= 0 or > 1 ? throw new ArgumentOutOfRangeException(nameof(drawRatio), drawRatio, "a draw ratio is greater than 0 and at most 1")
        : onPanel.Value / drawRatio <= 1 ? ProductFraction.Of(onPanel.Value / drawRatio) : null;

    /// <summary>What reaches the panel from a lance bottle.</summary>
    public static ProductFraction OnPanel(ProductFraction bottle, double drawRatio) => ProductFraction.Of(bottle.Value * drawRatio);

    private static bool ReadAmounts(Match m, double? capfulMl, out StrengthReading? reading, out string? problem)
    {
        reading = null;
        if (!TryMl(m.Groups[1].Value, m.Groups[2].Value, capfulMl, out var product, out problem) || !TryMl(m.Groups[4].Value, m.Groups[5].Value, capfulMl, out var vessel, out problem))
        {
            return false;
        }

        if (product <= 0 || vessel <= 0)
        {
            problem = "both amounts are greater than 0";
            return false;
        }

        var ofTotal = m.Groups[3].Value == "per";
        if (ofTotal && product > vessel)
        {
            problem = "more product than the total holds";
            return false;
        }

        var added = ProductFraction.Of(product / (product + vessel));
        var within = product <= vessel ? ProductFraction.Of(product / vessel) : (ProductFraction?)null;
        reading = ofTotal
            ? new(within!.Value, $"{product:0.#} ml in every {vessel:0.#} ml of the total", added, "if it is added on top of that much water")
            : new(added, $"{product:0.#} ml added to {vessel:0.#} ml of water", within, within is null ? null : "if the second amount is the filled total");
        return true;
    }

    private static bool TryMl(string number, string unit, double? capfulMl, out double ml, out string? problem)
    {
        problem = null;
        ml = 0;
        var amount = number.Length == 0 ? 1 : Number(number);
        var id = unit switch { "litre" or "litres" or "liter" or "liters" => "l", "capful" or "capfuls" or "cap" or "caps" => "capful", _ => unit };
        if (id == "capful")
        {
            if (capfulMl is not > 0)
            {
                problem = "capfuls: say how many ml one capful of this bottle holds";
                return false;
            }

            ml = amount * capfulMl.Value;
            return true;
        }

        if (id is "oz" or "fl-oz" or "gal" or "gallon" or "pint" or "quart")
        {
            problem = $"'{unit}' is US or imperial: write us-{(id == "oz" ? "fl-oz" : id == "gallon" ? "gal" : id)} or imp-{(id == "oz" ? "fl-oz" : id == "gallon" ? "gal" : id)}";
            return false;
        }

        if (!UnitMl.TryGetValue(id, out var each))
        {
            problem = $"'{unit}' is not a unit of volume; allowed: {string.Join(", ", UnitMl.Keys)}, capful";
            return false;
        }

        ml = amount * each;
        return true;
    }

    private static double Number(string text) => double.Parse(text, CultureInfo.InvariantCulture);

    private static Dictionary<string, double> ReadUnits() => Table.Load("units").Rows.ToDictionary(r => r["id"], r => r.Number("ml"));

    [GeneratedRegex(@"^(\d+(?:\.\d+)?)\s*(?::|to)\s*(\d+(?:\.\d+)?)$")]
    private static partial Regex Ratio();

    [GeneratedRegex(@"^1\s+in\s+(\d+(?:\.\d+)?)$")]
    private static partial Regex In();

    [GeneratedRegex(@"^(\d+(?:\.\d+)?)\s*(?:%|percent)$")]
    private static partial Regex Percent();

    [GeneratedRegex(@"^(\d+(?:\.\d+)?)\s*([a-z-]+)\s+(in|per)\s+(\d+(?:\.\d+)?)?\s*([a-z-]+)$")]
    private static partial Regex Amounts();
}
