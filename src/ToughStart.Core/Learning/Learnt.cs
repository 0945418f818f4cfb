using MathNet.Numerics.Distributions;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Learning;

/// <summary>A factor the shop's own work speaks for.</summary>
/// <param name="Mean">Mean of its natural logarithm.</param>
/// <param name="Sd">Standard deviation of it.</param>
/// <param name="Low">Factor that is exceeded in 95 of 100 cases.</param>
/// <param name="High">Factor that is exceeded in 5 of 100.</param>
public sealed record Learnt(double Mean, double Sd, double Low, double High)
{
    public double Factor => Math.Exp(Mean);

    /// <summary>Far enough from the factor that counts now, and surely on its side of it.</summary>
    /// <param name="now">The factor that counts now; 1 = the class.</param>
    public bool Proposable(double now = 1) =>
        Math.Abs(Mean - Math.Log(now)) > Catalogue.Default["learn-least"] && (Low > now || High < now);
}

/// <summary>One loop on one zone, as it teaches something of the product it was worked with.</summary>
/// <param name="Need">Decades from what was believed at its start down to where the look says clean.</param>
/// <param name="PerRound">Decades of a round by the class, as really worked; never with a factor of the shop in it.</param>
/// <param name="Rounds">Rounds until the look said clean, or until there were no more.</param>
/// <param name="Stopped">The look said clean; else the rounds of the visit were used up.</param>
/// <param name="Spread">Spread of the need and of the look together, decades.</param>
public sealed record LoopDatum(double Need, double PerRound, int Rounds, bool Stopped, double Spread)
{
    /// <summary>The spread of a found load and a look, decades.</summary>
    /// <param name="load">Spread of the load, ln.</param>
    /// <param name="look">Spread of the look, ln.</param>
    public static double SpreadOf(double load, double look) => Math.Sqrt((load * load) + (look * look)) / Math.Log(10);

    /// <summary>How likely it is, given a factor and how far the job's loads were found off.</summary>
    /// <param name="bias">Decades.</param>
    public double Likelihood(double factor, double bias)
    {
        double At(int rounds) => Phi.Of(((rounds * PerRound * factor) - Need - bias) / Spread);
        return Stopped ? At(Rounds) - (Rounds > 1 ? At(Rounds - 1) : 0) : 1 - At(Rounds);
    }
}

/// <summary>The normal distribution function by a table, within 2e-7: it is asked for millions of times.</summary>
internal static class Phi
{
    private const int PerUnit = 512,
        Reach = 8;

    private static readonly double[] Known =
    [
        .. Enumerable.Range(0, (2 * Reach * PerUnit) + 2).Select(i => Normal.CDF(0, 1, (i / (double)PerUnit) - Reach)),
    ];

    public static double Of(double x)
    {
        if (x <= -Reach || x >= Reach)
        {
            return x < 0 ? 0 : 1;
        }

        var at = (x + Reach) * PerUnit;
        var low = (int)at;
        return Known[low] + ((at - low) * (Known[low + 1] - Known[low]));
    }
}

/// <summary>What one job tells of one product.</summary>
/// <param name="Batch">Batch of the bottle; null = not said.</param>
public sealed record JobLoops(int Job, string? Batch, IReadOnlyList<LoopDatum> Loops);

/// <summary>What a job taught: by itself, and what was known before and after it.</summary>
public sealed record JobLearnt(int Job, Learnt Alone, Learnt Before, Learnt After);

/// <summary>
/// How well a bottle works against its class. Zones of a job share the day and the eye that surveyed them: both are integrated out before jobs are
/// multiplied, else ten zones of one bad day would pass for ten days.
/// </summary>
public static class ProductLearning
{
    private const double From = -1.5,
        Width = 0.02;
    private const int Count = 151,
        Nodes = 9;

    /// <summary>Deviations that the outermost nodes lie off.</summary>
    private const double Reach = 3.2;

    private static double Ln(int i) => From + (i * Width);

    /// <summary>What is known after all jobs.</summary>
    /// <param name="prior">Spread before anything is known, ln.</param>
    /// <param name="shared">Zones of a job share day and eye; false = every zone for itself (for comparison).</param>
    public static Learnt Fit(IEnumerable<JobLoops> jobs, double? prior = null, bool shared = true) =>
        Follow(jobs, prior, shared) is [.., var last] ? last.After : Summary(Prior(prior ?? Catalogue.Default["learn-prior"]));

    /// <summary>What is known job by job, in their order.</summary>
    /// <returns>Of every job: what it says by itself, what was known before it, and after it.</returns>
    public static IReadOnlyList<JobLearnt> Follow(IEnumerable<JobLoops> jobs, double? prior = null, bool shared = true)
    {
        var c = Catalogue.Default;
        var p = Prior(prior ?? c["learn-prior"]);
        var alone = Prior(2 * c["learn-prior"]);
        var list = new List<JobLearnt>();
        string? batch = null;
        foreach (var job in jobs.Where(j => j.Loops.Count > 0))
        {
            if (batch is not null && job.Batch is not null && batch != job.Batch)
            {
                p = Wider(p, c["learn-batch"]);
            }

            batch = job.Batch ?? batch;
            var says = Says(job.Loops, shared, c);
            var before = Summary(p);
            p = Normalised([.. p.Select((x, i) => x * says[i])]);
            list.Add(new(job.Job, Summary(Normalised([.. alone.Select((x, i) => x * says[i])])), before, Summary(p)));
        }

        return list;
    }

    private static double[] Prior(double spread) => Normalised([.. Enumerable.Range(0, Count).Select(i => Density(Ln(i), spread))]);

    /// <summary>Likelihood of a job's loops at every factor of the grid.</summary>
    private static double[] Says(IReadOnlyList<LoopDatum> loops, bool shared, Catalogue c)
    {
        var (days, weights) = shared ? Quadrature(c["learn-day"]) : ([0.0], [1.0]);
        var biases = shared ? Quadrature(c["learn-bias"] / Math.Log(10)) : ([0.0], [1.0]);
        var says = new double[Count];
        for (var i = 0; i < Count; i++)
        {
            for (var u = 0; u < days.Length; u++)
            {
                var factor = Math.Exp(Ln(i) + days[u]);
                for (var b = 0; b < biases.Item1.Length; b++)
                {
                    var all = 1.0;
                    foreach (var loop in loops)
                    {
                        all *= Math.Max(loop.Likelihood(factor, biases.Item1[b]), 1e-12);
                    }

                    says[i] += weights[u] * biases.Item2[b] * all;
                }
            }
        }

        return says;
    }

    private static (double[] At, double[] Weights) Quadrature(double sigma)
    {
        var at = Enumerable.Range(0, Nodes).Select(i => Reach * ((2.0 * i / (Nodes - 1)) - 1)).ToArray();
        return ([.. at.Select(x => x * sigma)], Normalised([.. at.Select(x => Density(x, 1))]));
    }

    private static double Density(double x, double sigma) => Math.Exp(-0.5 * x * x / (sigma * sigma));

    private static double[] Wider(double[] p, double sigma) =>
        Normalised([.. Enumerable.Range(0, Count).Select(i => p.Select((x, j) => x * Density((i - j) * Width, sigma)).Sum())]);

    private static double[] Normalised(double[] p)
    {
        var sum = p.Sum();
        return [.. p.Select(x => x / sum)];
    }

    private static Learnt Summary(double[] p)
    {
        var mean = p.Select((x, i) => x * Ln(i)).Sum();
        var sd = Math.Sqrt(p.Select((x, i) => x * Math.Pow(Ln(i) - mean, 2)).Sum());
        return new(mean, sd, Math.Exp(Cut(p, 0.05)), Math.Exp(Cut(p, 0.95)));
    }

    /// <summary>Where a part of the probability is reached; every point of the grid stands for its cell.</summary>
    private static double Cut(double[] p, double part)
    {
        var sum = 0.0;
        for (var i = 0; i < Count; i++)
        {
            if (sum + p[i] >= part)
            {
                return Ln(i) + (((part - sum) / p[i]) - 0.5) * Width;
            }

            sum += p[i];
        }

        return Ln(Count - 1);
    }
}

/// <summary>How fast somebody works a stage against the norm, one figure a job.</summary>
public static class LabourLearning
{
    /// <param name="ratios">Hands-on minutes by norm minutes, one a job, greater than 0; waiting and interruptions are not among them.</param>
    public static Learnt Fit(IReadOnlyCollection<double> ratios)
    {
        var c = Catalogue.Default;
        var noise = Math.Pow(c["learn-stage"], 2) + Math.Pow(c["learn-job"], 2);
        var precision = (ratios.Count / noise) + (1 / Math.Pow(c["learn-person"], 2));
        var mean = ratios.Sum(r => Math.Log(r)) / noise / precision;
        var sd = Math.Sqrt(1 / precision);
        var z = Normal.InvCDF(0, 1, 0.95);
        return new(mean, sd, Math.Exp(mean - (z * sd)), Math.Exp(mean + (z * sd)));
    }
}

/// <summary>Surprises that add up: a batch that has aged, a lance that draws less.</summary>
/// <param name="Down">How much has added up towards weaker or faster.</param>
/// <param name="Up">Towards stronger or slower.</param>
/// <param name="At">The job it was alarming at; null = it is not.</param>
/// <param name="Weaker">It was alarming downwards.</param>
public sealed record Drift(double Down, double Up, int? At, bool Weaker)
{
    public bool Alarms => At is not null;

    /// <summary>Deviations of a job's own estimate from what was known before it.</summary>
    public static double Surprise(Learnt job, Learnt before) =>
        (job.Mean - before.Mean) / Math.Sqrt((job.Sd * job.Sd) + (before.Sd * before.Sd));

    /// <summary>Adds surprises up in their order.</summary>
    public static Drift Of(IEnumerable<(int Job, double Surprise)> jobs)
    {
        var (slack, alarm) = (Catalogue.Default["drift-slack"], Catalogue.Default["drift-alarm"]);
        var now = new Drift(0, 0, null, false);
        foreach (var (job, z) in jobs)
        {
            var (down, up) = (Math.Max(0, now.Down - z - slack), Math.Max(0, now.Up + z - slack));
            now = now.Alarms ? now with { Down = down, Up = up } : new(down, up, Math.Max(down, up) > alarm ? job : null, down > up);
        }

        return now;
    }

    /// <summary>The same of a product's jobs: each by itself against all before it.</summary>
    public static Drift Of(IReadOnlyList<JobLearnt> jobs) => Of(jobs.Skip(1).Select(j => (j.Job, Surprise(j.Alone, j.Before))));
}
