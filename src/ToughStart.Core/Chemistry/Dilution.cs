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
    /// <param name="containerMl">What the container holds, in ml; needed only for "100 ml in a lance two-thirds full".</param>
    public static bool TryParse(
        string text,
        double? capfulMl,
        out StrengthReading? reading,
        out string? problem,
        double? containerMl = null
    )
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
            reading = new(
                ProductFraction.OneTo(n),
                $"1 part product to {n:0.##} parts water",
                other,
                other is null ? null : $"if the label means 1 in {n:0.##}"
            );
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

            reading = new(
                ProductFraction.OneIn(n),
                $"1 part product in {n:0.##} parts of the total",
                ProductFraction.OneTo(n),
                $"if the label means 1:{n:0.##}"
            );
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

        if (Either(t) is { Count: > 0 } either)
        {
            // Where both mean the same strength nobody needs to say which.
            var meant = either.Select(e => TryParse(e, capfulMl, out var r, out _) ? r : null).ToArray();
            if (meant.All(r => r is not null && Math.Abs(r.Fraction.Value / meant[0]!.Fraction.Value - 1) < 1e-9))
            {
                reading = meant[0];
                return true;
            }

            var effects = either.Select(e => TryParse(e, capfulMl, out var r, out _) ? $"{e} is {r!.Fraction.Value * 100:0.##} %" : e);
            problem = $"ounces, pints, quarts and gallons are US or imperial, and differ: {string.Join(", ", effects)}. Say which";
            return false;
        }

        if (PartFull().Match(t) is { Success: true } full)
        {
            return ReadPartFull(full, capfulMl, containerMl, out reading, out problem);
        }

        if (Amounts().Match(t) is { Success: true } amounts)
        {
            return ReadAmounts(amounts, capfulMl, out reading, out problem);
        }

        problem =
            $"'{text.Trim()}' is not a strength: write 1:9, 10:1, 1 in 10, 2 %, 30 ml per l, 50 ml in 450 ml, 2 us-fl-oz per us-gal, 2 capfuls in 10 l, 100 ml in a lance two-thirds full, or neat";
        return false;
    }

    /// <summary>Product and water for a total volume.</summary>
    /// <exception cref="ArgumentOutOfRangeException"><paramref name="totalMl"/> is not greater than 0.</exception>
    public static Mixture ForTotal(ProductFraction fraction, double totalMl) =>
        totalMl > 0
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
        drawRatio is <= 0 or > 1
            ? throw new ArgumentOutOfRangeException(nameof(drawRatio), drawRatio, "a draw ratio is greater than 0 and at most 1")
        : onPanel.Value / drawRatio <= 1 ? ProductFraction.Of(onPanel.Value / drawRatio)
        : null;

    /// <summary>What reaches the panel from a lance bottle.</summary>
    public static ProductFraction OnPanel(ProductFraction bottle, double drawRatio) => ProductFraction.Of(bottle.Value * drawRatio);

    /// <summary>The same words with US and with imperial measures, when they do not say which; empty when they are clear.</summary>
    public static IReadOnlyList<string> Either(string text)
    {
        var t = text.Trim().ToLowerInvariant();
        return !BareUnit().IsMatch(t)
            ? []
            : new[] { "us-", "imp-" }
                .Select(which =>
                    BareUnit()
                        .Replace(t, m => which
                            + m.Groups[1].Value switch
                            {
                                "oz" or "ounce" or "ounces" or "fl-oz" or "fl oz" or "floz" => "fl-oz",
                                "gal" or "gallon" or "gallons" => "gal",
                                "pint" or "pints" => "pint",
                                _ => "quart",
                            })
                )
                .ToArray();
    }

    private static bool ReadPartFull(Match m, double? capfulMl, double? containerMl, out StrengthReading? reading, out string? problem)
    {
        reading = null;
        if (!TryMl(m.Groups[1].Value, m.Groups[2].Value, capfulMl, out var product, out problem))
        {
            return false;
        }

        var size = containerMl;
        if (m.Groups[3].Success && m.Groups[4].Value.Length > 0)
        {
            if (!TryMl(m.Groups[3].Value, m.Groups[4].Value, capfulMl, out var named, out problem))
            {
                return false;
            }

            size = named;
        }

        if (size is not > 0)
        {
            problem = "say how much the container holds: the same dose in a 1 l and a 2 l bottle is not the same strength";
            return false;
        }

        var part = m.Groups[5].Value.Replace(' ', '-') switch
        {
            "half" or "1/2" => 1 / 2.0,
            "third" or "one-third" or "a-third" or "1/3" => 1 / 3.0,
            "two-thirds" or "2/3" => 2 / 3.0,
            "quarter" or "a-quarter" or "1/4" => 1 / 4.0,
            "three-quarters" or "3/4" => 3 / 4.0,
            _ => 1.0,
        };
        var water = size.Value * part;
        if (!(product > 0) || product > water)
        {
            problem = product > 0 ? "more product than the container holds at that mark" : "the amount is greater than 0";
            return false;
        }

        var within = ProductFraction.Of(product / water);
        // A bottle that is full has no room for the dose: the mark is the total then.
        reading =
            product + water > size.Value + 1e-9
                ? new(within, $"{product:0.#} ml in a filled total of {water:0.#} ml", null, null)
                : new(
                    ProductFraction.Of(product / (product + water)),
                    $"{product:0.#} ml added to {water:0.#} ml of water",
                    within,
                    "if the mark is the filled total"
                );
        return true;
    }

    private static bool ReadAmounts(Match m, double? capfulMl, out StrengthReading? reading, out string? problem)
    {
        reading = null;
        if (
            !TryMl(m.Groups[1].Value, m.Groups[2].Value, capfulMl, out var product, out problem)
            || !TryMl(m.Groups[4].Value, m.Groups[5].Value, capfulMl, out var vessel, out problem)
        )
        {
            return false;
        }

        if (product <= 0 || vessel <= 0)
        {
            problem = "both amounts are greater than 0";
            return false;
        }

        var ofTotal = m.Groups[3].Value is "per" or "/";
        if (ofTotal && product > vessel)
        {
            problem = "more product than the total holds";
            return false;
        }

        var added = ProductFraction.Of(product / (product + vessel));
        var within = product <= vessel ? ProductFraction.Of(product / vessel) : (ProductFraction?)null;
        reading = ofTotal
            ? new(
                within!.Value,
                $"{product:0.#} ml in every {vessel:0.#} ml of the total",
                added,
                "if it is added on top of that much water"
            )
            : new(
                added,
                $"{product:0.#} ml added to {vessel:0.#} ml of water",
                within,
                within is null ? null : "if the second amount is the filled total"
            );
        return true;
    }

    private static bool TryMl(string number, string unit, double? capfulMl, out double ml, out string? problem)
    {
        problem = null;
        ml = 0;
        var amount = number.Length == 0 ? 1 : Number(number);
        var id = unit switch
        {
            "litre" or "litres" or "liter" or "liters" => "l",
            "capful" or "capfuls" or "cap" or "caps" => "capful",
            _ => unit,
        };
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

    [GeneratedRegex(@"^(\d+(?:\.\d+)?)\s*([a-z-]+)\s*(in|per|to|\+|/)\s*(\d+(?:\.\d+)?)?\s*([a-z-]+)$")]
    private static partial Regex Amounts();

    [GeneratedRegex(
        @"^(\d+(?:\.\d+)?)\s*([a-z-]+)\s+in\s+(?:an?\s+)?(?:(\d+(?:\.\d+)?)\s*(m?l)\s+)?(?:lance|bottle|sprayer|bucket|container)\s+(half|1/2|(?:one-|a[ -])?third|1/3|two[ -]thirds|2/3|(?:a[ -])?quarter|1/4|three[ -]quarters|3/4)?\s*full$"
    )]
    private static partial Regex PartFull();

    [GeneratedRegex(@"(?<![a-z-])(fl oz|fl-oz|floz|oz|ounces?|gallons?|gal|pints?|quarts?)(?![a-z-])")]
    private static partial Regex BareUnit();
}
