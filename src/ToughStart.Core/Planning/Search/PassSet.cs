using System.Numerics;

namespace ToughStart.Core.Planning;

/// <summary>A set of passes round the vehicle, a bit each; <see cref="Capacity"/> at most.</summary>
public readonly record struct PassSet
{
    private readonly UInt128 _low;
    private readonly UInt128 _high;

    private PassSet(UInt128 low, UInt128 high) => (_low, _high) = (low, high);

    /// <summary>Passes that a job can be planned with.</summary>
    public const int Capacity = 256;

    public static PassSet None => default;

    public static PassSet All { get; } = new(UInt128.MaxValue, UInt128.MaxValue);

    /// <summary>The set of one pass.</summary>
    /// <exception cref="ArgumentOutOfRangeException">Not from 0 to below <see cref="Capacity"/>.</exception>
    public static PassSet Of(int pass) =>
        pass is < 0 or >= Capacity ? throw new ArgumentOutOfRangeException(nameof(pass))
        : pass < 128 ? new(UInt128.One << pass, 0)
        : new(0, UInt128.One << (pass - 128));

    public static PassSet Of(IEnumerable<int> passes) => passes.Aggregate(None, (all, p) => all | Of(p));

    public bool Has(int pass) => ((pass < 128 ? _low >> pass : _high >> (pass - 128)) & UInt128.One) != 0;

    public bool IsEmpty => _low == 0 && _high == 0;

    public int Count => (int)(UInt128.PopCount(_low) + UInt128.PopCount(_high));

    /// <summary>Is every pass of this set in the other?</summary>
    public bool IsIn(PassSet other) => (_low & ~other._low) == 0 && (_high & ~other._high) == 0;

    public bool Meets(PassSet other) => (_low & other._low) != 0 || (_high & other._high) != 0;

    /// <summary>The passes, ascending.</summary>
    public IEnumerable<int> Passes()
    {
        for (var (low, at) = (_low, 0); low != 0; low >>= 1, at++)
        {
            var skip = (int)UInt128.TrailingZeroCount(low);
            (low, at) = (low >> skip, at + skip);
            yield return at;
        }

        for (var (high, at) = (_high, 128); high != 0; high >>= 1, at++)
        {
            var skip = (int)UInt128.TrailingZeroCount(high);
            (high, at) = (high >> skip, at + skip);
            yield return at;
        }
    }

    public static PassSet operator |(PassSet a, PassSet b) => new(a._low | b._low, a._high | b._high);

    public static PassSet operator &(PassSet a, PassSet b) => new(a._low & b._low, a._high & b._high);

    public static PassSet operator ~(PassSet a) => new(~a._low, ~a._high);

    public override string ToString() => string.Join(' ', Passes());
}
