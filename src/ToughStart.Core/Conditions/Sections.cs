namespace ToughStart.Core.Conditions;

/// <summary>How many panels may be wet at once: put on in order, rinsed in the same order, none dry before its rinse.</summary>
public static class Sections
{
    /// <summary>Largest number of panels at a time.</summary>
    /// <param name="apply">Seconds to put chemistry on one panel.</param>
    /// <param name="rinse">Seconds to rinse one.</param>
    /// <param name="dwell">Seconds each has to stay wet.</param>
    /// <param name="usable">Usable seconds of the panel that dries first.</param>
    /// <returns>0 when not even one can dwell as long before it dries.</returns>
    public static int Most(double apply, double rinse, double dwell, double usable)
    {
        var best = 0;
        for (var n = 1; n <= 40; n++)
        {
            // Rinsing starts when the last is on and every one has dwelt long enough by its own turn.
            var start = Math.Max(n * apply, dwell + Enumerable.Range(1, n).Max(i => i * apply - (i - 1) * rinse));
            var longest = Enumerable.Range(1, n).Max(i => start + i * rinse - (i - 1) * apply);
            if (longest > usable)
            {
                break;
            }

            best = n;
        }

        return best;
    }
}
