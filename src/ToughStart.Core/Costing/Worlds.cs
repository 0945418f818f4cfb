using ToughStart.Core.Provenance;

namespace ToughStart.Core.Costing;

/// <summary>A plan and the worlds it may meet: what it came to in those that were drawn, and more of them when asked.</summary>
public sealed class Worlds
{
    /// <summary>The same worlds for every plan, so that plans are compared in them.</summary>
    public const ulong Seed = 0x70756768;

    private readonly Replay _replay;
    private readonly Catalogue _c;

    internal Worlds(Replay replay, Draws drawn, IReadOnlyList<(string, string, string)> hidden, Catalogue c) =>
        (_replay, Drawn, Hidden, _c) = (replay, drawn, hidden, c);

    /// <summary>The tests whose answers are drawn: test, kind and when, in the order of <see cref="Draws.Added"/>.</summary>
    public IReadOnlyList<(string Test, string Contaminant, string When)> Hidden { get; }

    /// <summary>What the plan's own ranges were read from.</summary>
    public Draws Drawn { get; }

    /// <summary>Works the plan in so many worlds.</summary>
    /// <param name="draws">1 or more.</param>
    /// <param name="scatter">null = as the catalogue has it.</param>
    /// <param name="pace">Learned minutes of a person against the norm, by stage; null = nobody's in particular.</param>
    /// <param name="anew">A group that is drawn from other numbers; null = none.</param>
    public Draws Draw(
        int draws,
        Scatter? scatter = null,
        Func<Stage, double>? pace = null,
        ulong seed = Seed,
        DrawGroup? anew = null,
        CancellationToken stop = default
    )
    {
        ArgumentOutOfRangeException.ThrowIfLessThan(draws, 1);
        var spread = scatter ?? (pace is null ? Scatter.Of(_c) : Scatter.Of(_c).Known(_c));
        return _replay.Run(draws, spread, seed, anew, pace, stop);
    }

    /// <summary>
    /// What makes the range: for each group the part of the variance that is gone when it is known, by drawing it anew while all else
    /// stays (Jansen). They add up to 1; what two do together counts with both before that.
    /// </summary>
    /// <param name="draws">For every group; half as many as a range takes will do.</param>
    public IReadOnlyDictionary<DrawGroup, double> Shares(int draws, CancellationToken stop = default)
    {
        var all = Draw(draws, stop: stop).Minutes;
        var mean = all.Average();
        var variance = all.Average(m => (m - mean) * (m - mean));
        var parts = Enum.GetValues<DrawGroup>()
            .ToDictionary(
                g => g,
                g =>
                    variance <= 0
                        ? 0
                        : all.Zip(Draw(draws, anew: g, stop: stop).Minutes, (a, b) => (a - b) * (a - b)).Average() / (2 * variance)
            );
        var sum = parts.Values.Sum();
        return parts.ToDictionary(p => p.Key, p => sum <= 0 ? 0 : p.Value / sum);
    }

    /// <summary>How many draws a first answer takes, and a whole one.</summary>
    public static (int First, int All) Enough => ((int)Catalogue.Default["draws-first"], (int)Catalogue.Default["draws"]);
}
