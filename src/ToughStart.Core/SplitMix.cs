namespace ToughStart.Core;

/// <summary>A small, fixed generator (SplitMix64): its seed is passed in, so that draws are the same on every machine.</summary>
internal sealed class SplitMix(ulong seed)
{
    private ulong _state = seed;

    /// <summary>The next number, 0 up to but not 1.</summary>
    public double Next()
    {
        _state += 0x9E3779B97F4A7C15;
        var z = _state;
        z = (z ^ (z >> 30)) * 0xBF58476D1CE4E5B9;
        z = (z ^ (z >> 27)) * 0x94D049BB133111EB;
        return ((z ^ (z >> 31)) >> 11) * (1.0 / (1UL << 53));
    }

    /// <summary>The next standard normal number.</summary>
    public double Normal() => Math.Sqrt(-2 * Math.Log(1 - Next())) * Math.Cos(2 * Math.PI * Next());
}
