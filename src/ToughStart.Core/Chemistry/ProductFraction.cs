using System.Globalization;

namespace ToughStart.Core.Chemistry;

/// <summary>
/// The part of a liquid that is product, by volume: greater than 0, at most 1 (neat). Not a ratio: "1:9" is the fraction
/// 1/10, and "1 in 9" is 1/9. Use <see cref="OneTo"/> for the first and <see cref="OneIn"/> for the second.
/// </summary>
public readonly record struct ProductFraction : IComparable<ProductFraction>
{
    private ProductFraction(double value) => Value = value;

    public double Value { get; }

    public static ProductFraction Neat { get; } = new(1);

    /// <summary>A fraction of the total, greater than 0 and at most 1.</summary>
    /// <exception cref="ArgumentOutOfRangeException">Not greater than 0 and at most 1.</exception>
    public static ProductFraction Of(double value) =>
        value > 0 && value <= 1
            ? new(value)
            : throw new ArgumentOutOfRangeException(nameof(value), value, "a product fraction is greater than 0 and at most 1");

    /// <summary>1:n, one part product to n parts water; n ≥ 0.</summary>
    public static ProductFraction OneTo(double n) =>
        n >= 0 && double.IsFinite(n)
            ? new(1 / (n + 1))
            : throw new ArgumentOutOfRangeException(nameof(n), n, "parts of water are 0 or more");

    /// <summary>1 in n, one part product in n parts of the total; n ≥ 1.</summary>
    public static ProductFraction OneIn(double n) =>
        n >= 1 && double.IsFinite(n) ? new(1 / n) : throw new ArgumentOutOfRangeException(nameof(n), n, "parts of the total are 1 or more");

    public int CompareTo(ProductFraction other) => Value.CompareTo(other.Value);

    public static bool operator <(ProductFraction a, ProductFraction b) => a.Value < b.Value;

    public static bool operator >(ProductFraction a, ProductFraction b) => a.Value > b.Value;

    public static bool operator <=(ProductFraction a, ProductFraction b) => a.Value <= b.Value;

    public static bool operator >=(ProductFraction a, ProductFraction b) => a.Value >= b.Value;

    /// <summary>As the trade writes it: "neat", "2 %" up to 5 %, else "1:9".</summary>
    public override string ToString()
    {
        if (Value >= Provenance.Catalogue.Default["counts-as-neat"])
        {
            return "neat";
        }

        var n = 1 / Value - 1;
        var percent = Value * 100;
        var wholePercent = Math.Abs(percent - Math.Round(percent * 2) / 2) < 0.001;
        return wholePercent && percent <= 5
            ? percent.ToString("0.##", CultureInfo.InvariantCulture) + " %"
            : "1:" + n.ToString(n < 10 ? "0.#" : "0", CultureInfo.InvariantCulture);
    }
}
