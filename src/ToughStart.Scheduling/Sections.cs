namespace ToughStart.Scheduling;

/// <summary>One zone of a section, in working order.</summary>
/// <param name="Apply">Seconds to lay on.</param>
/// <param name="Rinse">Seconds to take off.</param>
/// <param name="Usable">Seconds its film may stay, from when it is laid on.</param>
/// <param name="ByHand">Worked in by hand: its film counts from when the hand leaves it.</param>
public readonly record struct Piece(int Apply, int Rinse, int Usable, bool ByHand = false);

/// <summary>Start of laying on to start of rinsing: no sooner, no later.</summary>
public readonly record struct Lag(int Min, int Max)
{
    public bool Fits => Min <= Max;
}

/// <summary>The lags of a section: no piece is rinsed before it has worked, none after it dries or the label's time is up.</summary>
public static class SectionLag
{
    /// <param name="dwell">Seconds it has to work.</param>
    /// <param name="label">Longest by the label, s.</param>
    /// <param name="alone">One person both lays on and rinses, or one lance does both: nothing is rinsed before all of it is on.</param>
    public static Lag Of(IReadOnlyList<Piece> pieces, int dwell, int label, bool alone)
    {
        var (applied, rinsed, min, max) = (0, 0, int.MinValue, int.MaxValue);
        foreach (var p in pieces)
        {
            var began = applied;
            applied += p.Apply;
            min = Math.Max(min, dwell + applied - rinsed);
            rinsed += p.Rinse;
            max = Math.Min(max, Math.Min(label + applied - rinsed, p.Usable + (p.ByHand ? applied : began) - rinsed));
        }

        return new(alone ? Math.Max(min, applied) : min, max);
    }

    /// <summary>How many of equal pieces fit into one section; 0 = not even one.</summary>
    public static int Most(Piece piece, int dwell, int label, bool alone, int atMost)
    {
        var most = 0;
        for (var n = 1; n <= atMost && Of([.. Enumerable.Repeat(piece, n)], dwell, label, alone).Fits; n++)
        {
            most = n;
        }

        return most;
    }
}
