using System.Numerics;
using MathNet.Numerics.Distributions;

namespace ToughStart.Core.Contamination;

/// <summary>
/// What is believed of one load on one zone: a probability for every level and for how well product and dirt answer each other. Work moves
/// it, looks multiply it, nothing overwrites it. Level n stands for the cell from n − ½ to n + ½ twentieths of a decade; level 0 takes all
/// that is dirtier, level 59 all that is cleaner, level 60 is "there is none". Never changed once made.
/// </summary>
public sealed class LoadBelief
{
    private const int Count = Levels.Nil + 1;

    /// <summary>Probability of every level, dirtiest first.</summary>
    private readonly double[] _levels;

    /// <summary>
    /// The same by node of response and floor, node after node; null until the first round, when the two are independent.
    /// </summary>
    private readonly double[]? _nodes;

    private LoadBelief(double[] levels, double[]? nodes = null) => (_levels, _nodes) = (levels, nodes);

    /// <summary>A log-normal load around a median, with a chance of not being there at all.</summary>
    /// <param name="median">Load, greater than 0.</param>
    /// <param name="sigma">Spread of its natural logarithm, greater than 0.</param>
    /// <param name="absent">Probability that there is none, 0 to 1.</param>
    public static LoadBelief LogNormal(double median, double sigma, double absent = 0)
    {
        if (!(median > 0) || !(sigma > 0) || absent is not (>= 0 and <= 1))
        {
            throw new ArgumentOutOfRangeException(
                nameof(median),
                $"median {median} and spread {sigma} must be greater than 0, absent {absent} from 0 to 1"
            );
        }

        var centre = Levels.Exact(median);
        var spread = sigma * Levels.PerDecade / Math.Log(10);
        var levels = new double[Count];
        var below = 0.0;
        for (var n = 0; n < Levels.Nil; n++)
        {
            var upTo = n == Levels.Nil - 1 ? 1 : Normal.CDF(0, 1, (n + 0.5 - centre) / spread);
            levels[n] = (1 - absent) * (upTo - below);
            below = upTo;
        }

        levels[Levels.Nil] = absent;
        return new LoadBelief(levels);
    }

    /// <summary>There surely is none.</summary>
    public static LoadBelief None { get; } = new([.. Enumerable.Repeat(0.0, Levels.Nil), 1]);

    /// <summary>One belief or another.</summary>
    /// <param name="share">Weight of <paramref name="a"/>, 0 to 1.</param>
    /// <exception cref="InvalidOperationException">One of them has been worked on: how it answers is tied to its level then.</exception>
    public static LoadBelief Mix(double share, LoadBelief a, LoadBelief b) =>
        a._nodes is null && b._nodes is null
            ? new([.. a._levels.Zip(b._levels, (x, y) => (share * x) + ((1 - share) * y))])
            : throw new InvalidOperationException("only beliefs nobody has worked on can be mixed");

    /// <summary>Probability of each level, dirtiest first.</summary>
    public IReadOnlyList<double> Levelwise => _levels;

    /// <summary>The load expected on average, 0 to 1.</summary>
    public double Mean
    {
        get
        {
            double sum = 0;
            for (var n = 0; n < Levels.Nil; n++)
            {
                sum += _levels[n] * Levels.LoadOf(n);
            }

            return sum;
        }
    }

    /// <summary>
    /// The level a planner works with: the one with half the probability on either side, <see cref="Levels.Nil"/> where it is likelier
    /// that there is none.
    /// </summary>
    public int Median => Cut(0.5) is { } y ? Math.Clamp((int)Math.Round(y), 0, Levels.Nil - 1) : Levels.Nil;

    /// <summary>The same of the cases in which there is any.</summary>
    public int MedianIfThere =>
        Cut(0.5 * (1 - _levels[Levels.Nil])) is { } y ? Math.Clamp((int)Math.Round(y), 0, Levels.Nil - 1) : Levels.Nil;

    /// <summary>The load that is not exceeded with a probability.</summary>
    /// <param name="probability">Greater than 0, less than 1.</param>
    public double Quantile(double probability) => Cut(1 - probability) is { } y ? Math.Pow(10, -Math.Max(0, y) / Levels.PerDecade) : 0;

    /// <summary>Probability that the load is at most this.</summary>
    public double AtMost(double load)
    {
        var y = Levels.Exact(load);
        var sum = _levels[Levels.Nil];
        for (var n = 0; n < Levels.Nil; n++)
        {
            sum += _levels[n] * Math.Clamp(n + 0.5 - y, 0, 1);
        }

        return sum;
    }

    /// <summary>Decades by which the load is expected to be over a target: 0 for the part that is under it.</summary>
    public double Over(double target)
    {
        var y = Levels.Exact(target);
        double sum = 0;
        for (var n = 0; n < Levels.Nil; n++)
        {
            // The cell of the level, as far as it lies on the dirty side.
            var (from, to) = (n - 0.5, Math.Min(n + 0.5, y));
            sum += to > from ? _levels[n] * (to - from) * (y - ((from + to) / 2)) : 0;
        }

        return sum / Levels.PerDecade;
    }

    /// <summary>The belief after one round.</summary>
    /// <param name="decades">What the round takes of it where product and dirt answer as the catalogue says, 0 or more.</param>
    /// <param name="floor">The load it cannot pass, 0 to 1.</param>
    /// <param name="cover">Part of the round that the layers above keep off, 0 to 1.</param>
    public LoadBelief Worked(double decades, double floor, double cover, Response response)
    {
        var nodes = _nodes ?? response.Spread(_levels);
        var next = new double[nodes.Length];
        var full = decades * Levels.PerDecade * (1 - cover);
        for (var f = 0; f < response.Floors.Count; f++)
        {
            var stops = Math.Clamp(Levels.Exact(floor * response.Floors[f].Factor), 0, Levels.Nil - 1);
            for (var e = 0; e < response.Answers.Count; e++)
            {
                var node = ((f * response.Answers.Count) + e) * Count;
                foreach (var (noise, weight) in response.Rounds)
                {
                    Move(nodes.AsSpan(node, Count), next.AsSpan(node, Count), full * response.Answers[e].Factor * noise, stops, weight);
                }
            }
        }

        return new LoadBelief(Sum(next), next);
    }

    /// <summary>The belief after a look, and how likely that look was.</summary>
    /// <param name="likelihood">Probability of what was answered at every level.</param>
    public (LoadBelief After, double Evidence) Seen(ReadOnlySpan<double> likelihood)
    {
        var evidence = Evidence(likelihood);
        if (evidence <= 0)
        {
            return (this, 0);
        }

        Span<double> factors = stackalloc double[Count];
        for (var n = 0; n < Count; n++)
        {
            factors[n] = likelihood[n] / evidence;
        }

        var levels = new double[Count];
        for (var n = 0; n < Count; n++)
        {
            levels[n] = _levels[n] * factors[n];
        }

        if (_nodes is null)
        {
            return (new LoadBelief(levels), evidence);
        }

        var nodes = new double[_nodes.Length];
        for (var node = 0; node < nodes.Length; node += Count)
        {
            for (var n = 0; n < Count; n++)
            {
                nodes[node + n] = _nodes[node + n] * factors[n];
            }
        }

        return (new LoadBelief(levels, nodes), evidence);
    }

    /// <summary>How likely a look is as things are believed.</summary>
    /// <param name="likelihood">Probability of what was answered at every level.</param>
    public double Evidence(ReadOnlySpan<double> likelihood)
    {
        double evidence = 0;
        for (var n = 0; n < Count; n++)
        {
            evidence += _levels[n] * likelihood[n];
        }

        return evidence;
    }

    /// <summary>Moves a node by some levels, no further than its floor; what falls between two levels is shared by them.</summary>
    private static void Move(ReadOnlySpan<double> from, Span<double> to, double gained, double stops, double weight)
    {
        to[Levels.Nil] += weight * from[Levels.Nil];
        // Levels below "stay" move, those from "caught" on are caught by the floor; where the floor lies at or before them they stay.
        var stay = Math.Clamp((int)Math.Ceiling(stops), 0, Levels.Nil);
        var caught = Math.Clamp((int)Math.Ceiling(stops - gained), 0, stay);
        if (caught > 0)
        {
            var whole = (int)gained;
            var part = gained - whole;
            AddScaled(from[..caught], to[whole..], weight * (1 - part));
            AddScaled(from[..caught], to[(whole + 1)..], weight * part);
        }

        double mass = 0;
        for (var n = caught; n < stay; n++)
        {
            mass += from[n];
        }

        var floor = (int)stops;
        to[floor] += weight * mass * (1 - (stops - floor));
        if (stops > floor)
        {
            to[floor + 1] += weight * mass * (stops - floor);
        }

        AddScaled(from[stay..Levels.Nil], to[stay..], weight);
    }

    /// <summary>Adds a multiple of one row to another, item by item: the same bits however wide the machine computes.</summary>
    private static void AddScaled(ReadOnlySpan<double> from, Span<double> to, double factor)
    {
        var i = 0;
        for (; i <= from.Length - Vector<double>.Count; i += Vector<double>.Count)
        {
            (new Vector<double>(to[i..]) + (new Vector<double>(from[i..]) * factor)).CopyTo(to[i..]);
        }

        for (; i < from.Length; i++)
        {
            to[i] += from[i] * factor;
        }
    }

    private static double[] Sum(double[] nodes)
    {
        var levels = new double[Count];
        for (var i = 0; i < nodes.Length; i += Count)
        {
            AddScaled(nodes.AsSpan(i, Count), levels, 1);
        }

        return levels;
    }

    /// <summary>Where a part of the probability, counted from the dirty side, is reached; null where only "none" reaches it.</summary>
    private double? Cut(double part)
    {
        double sum = 0;
        for (var n = 0; n < Levels.Nil; n++)
        {
            // Exactly the part may come out a hair less, in whatever order it is added up.
            if (sum + _levels[n] >= part - 1e-12)
            {
                return n - 0.5 + Math.Clamp((part - sum) / Math.Max(_levels[n], 1e-300), 0, 1);
            }

            sum += _levels[n];
        }

        return null;
    }
}
