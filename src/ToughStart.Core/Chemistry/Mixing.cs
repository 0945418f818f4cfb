using System.Globalization;
using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Chemistry;

/// <summary>
/// What is known of a mix: strength, product, water, total, in millilitres. Any two settle the other two; a third and fourth are
/// checked against them. Use this when amounts are given; <see cref="TopUp"/> when a bottle already holds something.
/// </summary>
public sealed record MixGiven(
    ProductFraction? Strength = null,
    Millilitres? ProductMl = null,
    Millilitres? WaterMl = null,
    Millilitres? TotalMl = null
)
{
    /// <summary>Largest amount taken, in ml: nobody mixes more than a cube of 200 l at once.</summary>
    public const double MostMl = 200_000;

    /// <summary>The whole mix, or which field contradicts which.</summary>
    public Checked<Mixture> Solve()
    {
        var problems = new List<Problem>();
        Check("productMl", ProductMl, false);
        Check("waterMl", WaterMl, true);
        Check("totalMl", TotalMl, false);
        if (problems.Count > 0)
        {
            return new(null, problems);
        }

        if (new object?[] { Strength, ProductMl, WaterMl, TotalMl }.Count(x => x is not null) < 2)
        {
            return new(
                null,
                [
                    new Problem(
                        "(mix)",
                        "two of strength, productMl, waterMl and totalMl are needed",
                        ["strength", "productMl", "waterMl", "totalMl"]
                    ),
                ]
            );
        }

        if (Strength is { Value: >= 1 } && WaterMl > 0)
        {
            return new(null, [new Problem("waterMl", "neat means no water")]);
        }

        if (Strength is { Value: >= 1 } && WaterMl is not null && ProductMl is null && TotalMl is null)
        {
            return new(null, [new Problem("productMl", "neat, and no amount: say how much product or how much in all")]);
        }

        if (TotalMl < ProductMl || TotalMl < WaterMl)
        {
            return new(null, [new Problem("totalMl", "is less than what goes into it")]);
        }

        var (product, total) = Amounts();
        if (!(product > 0) || total > MostMl)
        {
            return new(
                null,
                [
                    product > 0
                        ? new Problem("totalMl", $"comes to {total:0} ml; at most {MostMl:0}")
                        : new Problem("productMl", "comes to nothing: a mix holds product"),
                ]
            );
        }

        var mix = new Mixture(ProductFraction.Of(Math.Min(1, product / total)), product, total - product);
        Agree("strength", Strength?.Value, mix.Fraction.Value, "");
        Agree("productMl", ProductMl, mix.ProductMl, " ml");
        Agree("waterMl", WaterMl, mix.WaterMl, " ml");
        Agree("totalMl", TotalMl, mix.TotalMl, " ml");
        return problems.Count == 0 ? new(mix, []) : new(null, problems);

        void Check(string field, double? value, bool zero)
        {
            if (value is { } v && !(double.IsFinite(v) && (zero ? v >= 0 : v > 0) && v <= MostMl))
            {
                problems.Add(new Problem(field, $"is {(zero ? "0 or more" : "greater than 0")} and at most {MostMl:0} ml"));
            }
        }

        void Agree(string field, double? given, double found, string unit)
        {
            if (given is { } g && Math.Abs(g - found) > 1e-6 * Math.Max(Math.Abs(g), Math.Abs(found)) + 1e-9)
            {
                problems.Add(
                    new Problem(
                        field,
                        string.Create(
                            CultureInfo.InvariantCulture,
                            $"{g:0.####}{unit} does not fit the others: they make {found:0.####}{unit}"
                        )
                    )
                );
            }
        }
    }

    private (double Product, double Total) Amounts() =>
        (Strength?.Value, ProductMl, WaterMl, TotalMl) switch
        {
            (_, { } p, { } w, _) => (p, p + w),
            (_, { } p, _, { } t) => (p, t),
            (_, _, { } w, { } t) => (t - w, t),
            ({ } s, { } p, _, _) => (p, p / s),
            ({ } s, _, _, { } t) => (t * s, t),
            ({ } s, _, { } w, _) => (w * s / (1 - s), w / (1 - s)),
            _ => (0, 0),
        };
}

/// <summary>How to bring what a bottle holds to another strength.</summary>
/// <param name="KeepMl">How much of what is there stays in.</param>
/// <param name="PourOutMl">How much has to leave first, into another labelled bottle or the drum of its hazard class.</param>
public sealed record TopUp(
    Millilitres KeepMl,
    Millilitres PourOutMl,
    Millilitres AddProductMl,
    Millilitres AddWaterMl,
    Mixture Result,
    string Words
)
{
    /// <summary>
    /// Brings a known mixture to a target. Mass balance holds exactly: what is kept and what is added make the result.
    /// </summary>
    /// <param name="now">What the bottle holds. Not an unknown dreg: of that nothing may be used, see <see cref="OfUnknown"/>.</param>
    /// <param name="totalMl">How much to end with; null = as much as topping up alone gives.</param>
    /// <param name="capacityMl">What the bottle holds when full.</param>
    public static Checked<TopUp> To(Mixture now, ProductFraction target, Millilitres? totalMl, Millilitres capacityMl)
    {
        if (!(now.TotalMl > 0) || !double.IsFinite(now.TotalMl))
        {
            return Bad("remainderMl", "is greater than 0 ml; an empty bottle is simply mixed anew");
        }

        if (!(capacityMl > 0 && double.IsFinite(capacityMl)) || now.TotalMl > capacityMl * (1 + 1e-9))
        {
            return Bad("capacityMl", $"is greater than 0 and holds at least the {now.TotalMl:0.#} ml that are in it");
        }

        var (f0, f) = (now.Fraction.Value, target.Value);
        var alone =
            f < f0 ? now.TotalMl * f0 / f
            : f > f0 ? now.TotalMl * (1 - f0) / (1 - f)
            : now.TotalMl;
        if (f >= 1 && f0 < 1)
        {
            return Bad("strength", "a diluted rest never becomes neat again: use it as it is, or mix anew");
        }

        var end = totalMl ?? Math.Min(alone, capacityMl);
        if (!(end > 0 && double.IsFinite(end)) || end > capacityMl * (1 + 1e-9))
        {
            return Bad("totalMl", $"is greater than 0 and at most the {capacityMl:0} ml the bottle holds");
        }

        var keep = Math.Min(now.TotalMl, Math.Min(end * f / f0, f0 >= 1 ? double.PositiveInfinity : end * (1 - f) / (1 - f0)));
        var product = Math.Max(0, end * f - keep * f0);
        var water = Math.Max(0, end * (1 - f) - keep * (1 - f0));
        var result = new Mixture(target, keep * f0 + product, keep * (1 - f0) + water);
        var words = new List<string>();
        if (now.TotalMl - keep > 0.05)
        {
            words.Add($"pour out {now.TotalMl - keep:0.#} ml first");
        }

        words.Add($"{keep:0.#} ml of the {now.Fraction} stay");
        words.AddRange(water > 0.05 ? [$"add {water:0.#} ml water"] : []);
        words.AddRange(product > 0.05 ? [$"then {product:0.#} ml product"] : []);
        words.Add($"makes {end:0.#} ml of {target}");
        return new(new TopUp(keep, now.TotalMl - keep, product, water, result, string.Join(", ", words)), []);
    }

    /// <summary>How much of a rest nobody can vouch for may be used: none, whatever it smells like.</summary>
    /// <param name="measured">Its strength was measured (titration, refractometer against the label), and the product is certain.</param>
    public static (Millilitres MostMl, string Why) OfUnknown(Millilitres restMl, bool measured) =>
        measured
            ? (restMl, "measured and of the same product: treat it as the strength measured")
            : (0, "none: nobody knows what it is or how strong. Drain it with the harshest class it may be, rinse three times, mix anew");

    private static Checked<TopUp> Bad(string field, string message) => new(null, [new Problem(field, message)]);
}

/// <summary>Product and water rounded to what the jug shows, and what that really makes.</summary>
/// <param name="Off">How far the true strength is from the wanted one, as a ratio: 0.05 = 5 % too strong.</param>
/// <param name="LeastTotalMl">Smallest batch at which this jug is exact enough.</param>
public sealed record JugPour(
    Millilitres ProductMl,
    Millilitres WaterMl,
    ProductFraction? TrueStrength,
    double Off,
    bool GoodEnough,
    Millilitres LeastTotalMl
)
{
    /// <summary>Rounds a mix to the marks of the jug used for product and of the vessel used for water.</summary>
    /// <exception cref="ArgumentOutOfRangeException">A graduation is not greater than 0 ml.</exception>
    public static JugPour Of(Mixture mix, double productMark, double waterMark)
    {
        ArgumentOutOfRangeException.ThrowIfNegativeOrZero(productMark);
        ArgumentOutOfRangeException.ThrowIfNegativeOrZero(waterMark);
        var product = Math.Round(mix.ProductMl / productMark, MidpointRounding.AwayFromZero) * productMark;
        var water = Math.Round(mix.WaterMl / waterMark, MidpointRounding.AwayFromZero) * waterMark;
        var tolerance = Catalogue.Default["jug-tolerance"];
        // Half a mark off in the product is the worst the rounding can do; water is much coarser to notice.
        var least = productMark / 2 / tolerance / mix.Fraction.Value;
        if (product <= 0)
        {
            return new(0, water, null, -1, false, least);
        }

        var real = product / (product + water);
        var off = real / mix.Fraction.Value - 1;
        return new(product, water, ProductFraction.Of(real), off, Math.Abs(off) <= tolerance + 1e-12, least);
    }

    /// <summary>The jug to take of those at hand: the coarsest that is as good as exact, else the one that comes nearest.</summary>
    /// <param name="marks">Smallest mark of each jug, ml.</param>
    /// <returns>Null when there is no jug.</returns>
    public static (double Mark, JugPour Pour)? Best(Mixture mix, IEnumerable<double> marks)
    {
        var pours = marks.Where(m => m > 0).OrderDescending().Select(m => (Mark: m, Pour: Of(mix, m, Math.Max(m, 10)))).ToArray();
        return pours.Length == 0 ? null
            : pours.FirstOrDefault(p => p.Pour.TrueStrength is not null && Math.Abs(p.Pour.Off) <= Catalogue.Default["same-strength"])
                is { Pour: not null } good
                ? good
            : pours.MinBy(p => Math.Abs(p.Pour.Off));
    }
}

/// <summary>A container that can be filled.</summary>
public sealed record Fillable(string Id, string Name, Millilitres Ml);

/// <summary>One fill of one container.</summary>
public sealed record Fill(Fillable Container, Mixture Mix);

/// <summary>Shares a batch over the containers at hand.</summary>
public static class Filling
{
    /// <summary>Fewest fills first, largest container first; every fill has the same strength. What does not fit is said.</summary>
    /// <exception cref="ArgumentOutOfRangeException">The total is not greater than 0 ml.</exception>
    public static (IReadOnlyList<Fill> Fills, Millilitres LeftMl) Split(
        ProductFraction fraction,
        Millilitres totalMl,
        IEnumerable<Fillable> containers
    )
    {
        ArgumentOutOfRangeException.ThrowIfNegativeOrZero(totalMl.Value, nameof(totalMl));
        var most = Catalogue.Default["fill-most"];
        var fills = new List<Fill>();
        var left = totalMl;
        var open = containers.Where(c => c.Ml > 0).OrderByDescending(c => c.Ml).ThenBy(c => c.Id, StringComparer.Ordinal).ToList();
        while (left > 1e-9 && open.Count > 0)
        {
            // The smallest that takes all of the rest, else the largest there is.
            var next = open.LastOrDefault(c => c.Ml * most >= left - 1e-9) ?? open[0];
            var ml = Math.Min(left, next.Ml * most);
            fills.Add(new Fill(next, Dilution.ForTotal(fraction, ml)));
            left -= ml;
            open.Remove(next);
        }

        return (fills, Math.Max(0, left));
    }
}

/// <summary>A dose thrown into a bucket against what the label asks.</summary>
/// <param name="Times">How many times the label's strongest (when over) or weakest (when under) it is; 1 inside the range.</param>
public sealed record BucketDose(
    ProductFraction Fraction,
    string Fit,
    double Times,
    Millilitres LabelLowMl,
    Millilitres LabelHighMl,
    string Words
)
{
    /// <summary>Judges a dose. The dose is added on top of the water.</summary>
    /// <param name="doseMl">Greater than 0 ml.</param>
    /// <param name="waterMl">Greater than 0 ml.</param>
    /// <exception cref="ArgumentOutOfRangeException">An amount is not greater than 0 ml.</exception>
    public static BucketDose Of(Millilitres doseMl, Millilitres waterMl, ProductFraction low, ProductFraction high)
    {
        ArgumentOutOfRangeException.ThrowIfNegativeOrZero(doseMl.Value, nameof(doseMl));
        ArgumentOutOfRangeException.ThrowIfNegativeOrZero(waterMl.Value, nameof(waterMl));
        (low, high) = low <= high ? (low, high) : (high, low);
        var is_ = ProductFraction.Of(doseMl / (doseMl + waterMl));
        double Dose(ProductFraction f) => f.Value >= 1 ? double.PositiveInfinity : waterMl * f.Value / (1 - f.Value);
        var near = 1 + Catalogue.Default["dose-tolerance"];
        var (fit, times) =
            is_.Value > high.Value * near ? ("over", is_.Value / high.Value)
            : is_.Value < low.Value / near ? ("under", is_.Value / low.Value)
            : ("inside", 1.0);
        var right = Math.Abs(Dose(low) - Dose(high)) < 0.5 ? $"{Dose(high):0.#} ml" : $"{Dose(low):0.#} to {Dose(high):0.#} ml";
        var words = fit switch
        {
            "over" => $"1:{1 / is_.Value - 1:0}, {times:0.#} times the label's strongest. Label: {right} in this bucket. "
                + $"More does not clean more: it leaves residue and dulls protection.",
            "under" =>
                $"1:{1 / is_.Value - 1:0}, only {times:0.##} of the label's weakest. Label: {right} in this bucket. Too thin to lubricate.",
            _ => $"1:{1 / is_.Value - 1:0}, inside the label ({right} in this bucket).",
        };
        return new(is_, fit, times, Dose(low), Dose(high), words);
    }

    /// <summary>The same dose when nobody said which bucket: the range over the buckets in use.</summary>
    public static (ProductFraction Rich, ProductFraction Thin, string Words) OfUnknownBucket(Millilitres doseMl)
    {
        ArgumentOutOfRangeException.ThrowIfNegativeOrZero(doseMl.Value, nameof(doseMl));
        var c = Catalogue.Default;
        var rich = ProductFraction.Of(doseMl / (doseMl + c["bucket-low"] * 1000));
        var thin = ProductFraction.Of(doseMl / (doseMl + c["bucket-high"] * 1000));
        return (
            rich,
            thin,
            $"between {thin} and {rich}: it depends on the bucket ({c["bucket-low"]:0} to {c["bucket-high"]:0} l). "
                + $"Say how much water is in it"
        );
    }
}
