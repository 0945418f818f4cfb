namespace ToughStart.Core.Contamination;

/// <summary>
/// A load as a whole number of twentieths of a decade: level n is a load of 10^(−n/20); 0 is caked, 60 is nil. The search,
/// its references and the logbook all count in levels, so results are the same on every machine.
/// </summary>
public static class Levels
{
    /// <summary>The cleanest level: counts as none.</summary>
    public const int Nil = 60;

    /// <summary>Levels in one decade.</summary>
    public const int PerDecade = 20;

    private static readonly int[] Ppm = Enumerable
        .Range(0, Nil + 1)
        .Select(n => n == Nil ? 0 : (int)Math.Round(1_000_000 * Math.Pow(10, -n / (double)PerDecade)))
        .ToArray();

    /// <summary>Load of a level in millionths: 1 000 000 at level 0, 0 at <see cref="Nil"/>.</summary>
    public static int MillionthsOf(int level) => Ppm[level];

    /// <summary>Load of a level, 0 to 1.</summary>
    public static double LoadOf(int level) => Ppm[level] / 1e6;

    /// <summary>The level nearest to a load. Loads at or above 1 are level 0, loads of 0.001 and less are nil.</summary>
    public static int Of(double load) => load <= 0.001 ? Nil : Math.Clamp((int)Math.Round(-PerDecade * Math.Log10(load)), 0, Nil);

    /// <summary>Where a load lies between the levels: 0 for 1, 20 for 0.1; endless for none.</summary>
    public static double Exact(double load) => -PerDecade * Math.Log10(load);

    /// <summary>The level after an amount in millionths is added to what is there.</summary>
    public static int Add(int level, int millionths)
    {
        if (millionths == 0)
        {
            return level;
        }

        var sum = Math.Min(1_000_000, Ppm[level] + millionths);
        var n = level;
        while (n > 0 && Ppm[n - 1] <= sum)
        {
            n--;
        }

        // n is the dirtiest level not above the sum; take the nearer neighbour.
        return n > 0 && Ppm[n - 1] - sum < sum - Ppm[n] ? n - 1 : n;
    }
}
