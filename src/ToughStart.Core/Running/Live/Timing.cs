namespace ToughStart.Core.Running.Live;

/// <summary>
/// Places what a phone claims in server time: never after it was received, never before what its maker had seen. Clocks may be wrong; an
/// interval that cannot be is dropped for one that is sure.
/// </summary>
public static class Timing
{
    /// <param name="claim">What the phone says, by its own guess of server time.</param>
    /// <param name="knew">Received time of the last entry its maker had seen; 0 = none.</param>
    /// <param name="before">The same device's fact before it, as placed; null = none.</param>
    /// <param name="received">Server time now.</param>
    /// <returns>Where it is placed, and whether the claim cannot be true.</returns>
    public static (Moment When, bool False) Place(Moment claim, long knew, Moment? before, long received)
    {
        var floor = Math.Max(knew, before?.Lo ?? 0);
        var impossible = claim.Hi < floor || claim.Lo > received;
        var (lo, hi) = impossible ? (0, received) : (claim.Lo, claim.Hi);
        var at = Math.Min(received, Math.Max(claim.At, Math.Max(knew, before?.At ?? 0)));
        return (new Moment(at, Math.Min(at, Math.Max(lo, floor)), Math.Max(at, Math.Min(hi, received))), impossible);
    }

    /// <summary>A decision happens where it is stored.</summary>
    public static Moment Decided(long received) => new(received, received, received);
}
