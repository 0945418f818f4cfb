using ToughStart.Core.Provenance;

namespace ToughStart.Core.Contamination;

/// <summary>
/// What is believed of one load: a probability for every level, nil included. Treatments shift it, observations multiply it;
/// nothing overwrites it.
/// </summary>
public sealed class LoadBelief
{
    private readonly double[] _p;

    private LoadBelief(double[] p) => _p = p;

    /// <summary>A log-normal load around a median, with a chance of not being there at all.</summary>
    /// <param name="median">Load, greater than 0.</param>
    /// <param name="sigma">Spread of its natural logarithm, greater than 0.</param>
    /// <param name="absent">Probability that there is none, 0 to 1.</param>
    public static LoadBelief LogNormal(double median, double sigma, double absent = 0)
    {
        var centre = -Levels.PerDecade * Math.Log10(median);
        var spread = Math.Max(0.5, sigma * Levels.PerDecade / Math.Log(10));
        var p = new double[Levels.Nil + 1];
        for (var n = 0; n < Levels.Nil; n++)
        {
            var z = (n - centre) / spread;
            p[n] = Math.Exp(-z * z / 2);
        }

        var sum = p.Sum();
        for (var n = 0; n < Levels.Nil; n++)
        {
            p[n] *= (1 - absent) / sum;
        }

        p[Levels.Nil] = absent;
        return new LoadBelief(p);
    }

    /// <summary>Probability of each level, dirtiest first.</summary>
    public IReadOnlyList<double> Levelwise => _p;

    /// <summary>The level with half the probability on either side.</summary>
    public int Median
    {
        get
        {
            double sum = 0;
            for (var n = 0; n < _p.Length; n++)
            {
                sum += _p[n];
                // Exactly half may come out a hair less, in whatever order it is added up.
                if (sum >= 0.5 - 1e-12)
                {
                    return n;
                }
            }

            return Levels.Nil;
        }
    }

    /// <summary>Probability that the load is at most this.</summary>
    public double AtMost(double load) => _p.Where((_, n) => Levels.LoadOf(n) <= load).Sum();

    /// <summary>The belief after a treatment gained some levels, no further than its floor.</summary>
    public LoadBelief Shift(int levels, int floor)
    {
        var next = new double[_p.Length];
        for (var n = 0; n < _p.Length; n++)
        {
            next[n == Levels.Nil || n >= floor ? n : Math.Min(n + levels, floor)] += _p[n];
        }

        return new LoadBelief(next);
    }

    /// <summary>The belief after a round nobody measured: wider by a spread of ln(load).</summary>
    public LoadBelief Widen(double sigma)
    {
        var spread = sigma * Levels.PerDecade / Math.Log(10);
        var reach = (int)Math.Ceiling(3 * spread);
        var kernel = Enumerable.Range(-reach, 2 * reach + 1).Select(d => Math.Exp(-d * d / (2 * spread * spread))).ToArray();
        var sum = kernel.Sum();
        var next = new double[_p.Length];
        next[Levels.Nil] = _p[Levels.Nil];
        for (var n = 0; n < Levels.Nil; n++)
        {
            for (var i = 0; i < kernel.Length; i++)
            {
                next[Math.Clamp(n + i - reach, 0, Levels.Nil - 1)] += _p[n] * kernel[i] / sum;
            }
        }

        return new LoadBelief(next);
    }

    /// <summary>The belief after seeing that the load lies in a band.</summary>
    /// <param name="slip">Chance that the eye names the wrong band: keeps a little outside it.</param>
    /// <param name="doubt">Chance that the prediction itself was wrong (weak product, thicker dirt): lets a surprise be believed.</param>
    public LoadBelief Observe(double above, double atMost, double slip, double doubt = 0)
    {
        var next = new double[_p.Length];
        for (var n = 0; n < _p.Length; n++)
        {
            var load = Levels.LoadOf(n);
            next[n] = ((1 - doubt) * _p[n] + doubt / _p.Length) * (load > above && load <= atMost ? 1 - slip : slip);
        }

        var sum = next.Sum();
        if (sum < 1e-6)
        {
            // What was seen was thought impossible: believe the eye, evenly over the band.
            var band = Enumerable.Range(0, _p.Length).Where(n => Levels.LoadOf(n) > above && Levels.LoadOf(n) <= atMost).ToArray();
            foreach (var n in band)
            {
                next[n] = 1.0 / band.Length;
            }

            return new LoadBelief(next);
        }

        return new LoadBelief(next.Select(x => x / sum).ToArray());
    }

    /// <summary>The band of load an answer stands for, or null when it says nothing.</summary>
    public static (double Above, double AtMost)? Band(string result, Catalogue c) => result switch
    {
        "none" or "smooth" or "white" or "flat" or "clear" or "clean" => (-1, c["band-low"]),
        "faint" or "grainy" or "tan" or "sheets" or "mixed" or "spots" or "grey" or "smear" => (c["band-low"], c["band-high"]),
        "strong" or "rough" or "brown" or "beads" or "many" or "gritty" => (c["band-high"], 1),
        _ => null,
    };
}
