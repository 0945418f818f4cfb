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

/// <summary>How much more or less film the shop's foam and triggers leave than the model takes: the largest unknown, settled in a minute.</summary>
public static class FilmCalibration
{
    public const double Least = 0.2, Most = 5;

    /// <summary>From a towel: half a square metre dabbed dry a minute after it was covered, weighed before and after.</summary>
    /// <param name="grams">What the towel took up.</param>
    /// <returns>Factor on the retained film, or null when it is not between 0.2 and 5: weigh again.</returns>
    public static double? FromTowel(double grams, Carrier carrier, double tilt) => grams * 2 / 1000 / carrier.Held(tilt) is var f && f is >= Least and <= Most ? f : null;

    /// <summary>From one timed dry-out: the factor at which the first dry spots come when they were seen.</summary>
    /// <returns>Null when no film between 0.2 and 5 times the model's would dry then: other conditions than said.</returns>
    public static double? FromDryOut(PanelBalance balance, Carrier carrier, double seconds)
    {
        double At(double f) => WetWindow.Fast(balance, carrier.Times(f)).FirstDry;
        if (!(seconds > 0) || At(Least) > seconds || At(Most) < seconds)
        {
            return null;
        }

        double low = Least, high = Most;
        for (var i = 0; i < 40; i++)
        {
            var mid = Math.Sqrt(low * high);
            (low, high) = At(mid) < seconds ? (mid, high) : (low, mid);
        }

        return Math.Sqrt(low * high);
    }
}
