using System.Collections;
using System.Numerics;
using System.Runtime.Intrinsics;

namespace ToughStart.Core.Planning;

/// <summary>A set of passes round the vehicle, a bit each; <see cref="Capacity"/> at most.</summary>
public readonly struct PassSet : IEquatable<PassSet>
{
    private readonly Vector256<ulong> _bits;

    private PassSet(Vector256<ulong> bits) => _bits = bits;

    /// <summary>Passes that a job can be planned with.</summary>
    public const int Capacity = 256;

    public static PassSet None => default;

    public static PassSet All { get; } = new(Vector256<ulong>.AllBitsSet);

    /// <summary>The set of one pass.</summary>
    /// <exception cref="ArgumentOutOfRangeException">Not from 0 to below <see cref="Capacity"/>.</exception>
    public static PassSet Of(int pass) =>
        pass is < 0 or >= Capacity
            ? throw new ArgumentOutOfRangeException(nameof(pass))
            : new(Vector256<ulong>.Zero.WithElement(pass >> 6, 1UL << (pass & 63)));

    public static PassSet Of(IEnumerable<int> passes) => passes.Aggregate(None, (all, p) => all | Of(p));

    public bool Has(int pass) => (_bits.GetElement(pass >> 6) >> (pass & 63) & 1) != 0;

    public bool IsEmpty => _bits == Vector256<ulong>.Zero;

    public int Count =>
        BitOperations.PopCount(_bits[0])
        + BitOperations.PopCount(_bits[1])
        + BitOperations.PopCount(_bits[2])
        + BitOperations.PopCount(_bits[3]);

    /// <summary>Is every pass of this set in the other?</summary>
    public bool IsIn(PassSet other) => Vector256.AndNot(_bits, other._bits) == Vector256<ulong>.Zero;

    public bool Meets(PassSet other) => (_bits & other._bits) != Vector256<ulong>.Zero;

    /// <summary>The passes, ascending.</summary>
    public Members Passes() => new(_bits);

    /// <summary>The passes of a set: to go through them nothing is allocated.</summary>
    public readonly struct Members : IEnumerable<int>
    {
        private readonly Vector256<ulong> _bits;

        internal Members(Vector256<ulong> bits) => _bits = bits;

        public Enumerator GetEnumerator() => new(_bits);

        IEnumerator<int> IEnumerable<int>.GetEnumerator()
        {
            foreach (var pass in this)
            {
                yield return pass;
            }
        }

        IEnumerator IEnumerable.GetEnumerator() => ((IEnumerable<int>)this).GetEnumerator();
    }

    public struct Enumerator
    {
        private readonly Vector256<ulong> _bits;

        private int _word = -1;

        private ulong _rest;

        internal Enumerator(Vector256<ulong> bits) => _bits = bits;

        public readonly int Current => (_word << 6) + BitOperations.TrailingZeroCount(_rest);

        public bool MoveNext()
        {
            // The one that was current falls away.
            _rest &= _rest - 1;
            while (_rest == 0 && ++_word < Vector256<ulong>.Count)
            {
                _rest = _bits.GetElement(_word);
            }

            return _rest != 0;
        }
    }

    public static PassSet operator |(PassSet a, PassSet b) => new(a._bits | b._bits);

    public static PassSet operator &(PassSet a, PassSet b) => new(a._bits & b._bits);

    public static PassSet operator ~(PassSet a) => new(~a._bits);

    public static bool operator ==(PassSet a, PassSet b) => a._bits == b._bits;

    public static bool operator !=(PassSet a, PassSet b) => a._bits != b._bits;

    public bool Equals(PassSet other) => this == other;

    public override bool Equals(object? obj) => obj is PassSet other && this == other;

    public override int GetHashCode() => HashCode.Combine(_bits[0], _bits[1], _bits[2], _bits[3]);

    public override string ToString() => string.Join(' ', Passes());
}
