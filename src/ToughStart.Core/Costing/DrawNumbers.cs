using MathNet.Numerics.Distributions;

namespace ToughStart.Core.Costing;

/// <summary>What a number is drawn for; each can be drawn anew while the others stay as they are.</summary>
public enum DrawGroup
{
    /// <summary>How fast people are.</summary>
    Pace,

    /// <summary>How much of what was found is there.</summary>
    Loads,

    /// <summary>How well dirt and product answer each other.</summary>
    Kinetics,

    /// <summary>Is there what nobody has seen?</summary>
    Presence,

    /// <summary>What eyes and hands say.</summary>
    Answers,
}

/// <summary>
/// Random numbers by name instead of by turn: the number for one thing in one draw is the same whatever else is drawn, so two plans are
/// compared in the same hundred afternoons. The few factors that move everything at once are spread evenly by an additive recurrence
/// (R-sequence), the many small ones are hashed.
/// </summary>
public sealed class DrawNumbers
{
    /// <summary>Factors that are spread evenly.</summary>
    public const int Shared = 12;

    /// <summary>
    /// Pace of the person, and what all found loads have in common, come first; the others are given out by what hangs on them.
    /// </summary>
    public const int PaceFactor = 0,
        LoadFactor = 1,
        FirstFree = 2;

    private static readonly IReadOnlyList<double> Steps = StepsOf(Shared);

    private static readonly int Groups = Enum.GetValues<DrawGroup>().Length;

    private readonly ulong[] _seeds = new ulong[Groups];

    /// <param name="seed">The same gives the same draws.</param>
    /// <param name="anew">A group that is drawn from another seed; null = none.</param>
    public DrawNumbers(ulong seed, DrawGroup? anew = null)
    {
        for (var g = 0; g < Groups; g++)
        {
            _seeds[g] = Mix(seed + (anew == (DrawGroup)g ? 0x51ED2701UL : 0UL) + ((ulong)(g + 1) << 32));
        }
    }

    /// <summary>Number of a shared factor in a draw, 0 to 1.</summary>
    /// <param name="factor">0 up to <see cref="Shared"/>, not reached.</param>
    public double Even(DrawGroup group, int factor, int draw) =>
        Recurrence(Unit(Mix(_seeds[(int)group] + (ulong)factor)), Steps[factor], draw);

    /// <summary>Number of anything else in a draw, 0 to 1.</summary>
    /// <param name="of">What it is for.</param>
    public double Own(DrawGroup group, ulong of, int draw) => Unit(Mix(_seeds[(int)group] ^ Mix((of << 20) + (ulong)draw)));

    /// <summary>The same as a standard normal number: one of 4096 that are equally likely.</summary>
    public double OwnNormal(DrawGroup group, ulong of, int draw) => Quantiles[(int)(Raw(group, of, draw) >> 52)];

    private ulong Raw(DrawGroup group, ulong of, int draw) => Mix(_seeds[(int)group] ^ Mix(of + ((ulong)(draw + 1) * 0xD1B54A32D192ED03)));

    /// <summary>A thing by name: the same on every machine and in every run.</summary>
    public static ulong Name(params ReadOnlySpan<string> parts)
    {
        var hash = 0xCBF29CE484222325UL;
        foreach (var part in parts)
        {
            foreach (var c in part)
            {
                hash = (hash ^ c) * 0x100000001B3;
            }

            hash = (hash ^ 0x1F) * 0x100000001B3;
        }

        return hash;
    }

    /// <summary>Standard normal quantile; ends at six deviations.</summary>
    public static double Quantile(double u) => Math.Clamp(Normal.InvCDF(0, 1, Math.Clamp(u, 1e-9, 1 - 1e-9)), -6, 6);

    private static readonly double[] Quantiles = [.. Enumerable.Range(0, 4096).Select(i => Normal.InvCDF(0, 1, (i + 0.5) / 4096))];

    /// <summary>Steps of the R-sequence in so many dimensions: powers of the root of x^(d+1) = x + 1.</summary>
    public static IReadOnlyList<double> StepsOf(int dimensions)
    {
        var root = 2.0;
        for (var i = 0; i < 64; i++)
        {
            root = Math.Pow(1 + root, 1.0 / (dimensions + 1));
        }

        return [.. Enumerable.Range(1, dimensions).Select(i => Math.Pow(root, -i))];
    }

    /// <summary>Number of a draw: the shift and so many steps, what is before the point left out.</summary>
    public static double Recurrence(double shift, double step, int draw)
    {
        var x = shift + ((draw + 1) * step);
        return x - Math.Floor(x);
    }

    private static double Unit(ulong x) => (x >> 11) * (1.0 / (1UL << 53));

    private static ulong Mix(ulong z)
    {
        z += 0x9E3779B97F4A7C15;
        z = (z ^ (z >> 30)) * 0xBF58476D1CE4E5B9;
        z = (z ^ (z >> 27)) * 0x94D049BB133111EB;
        return z ^ (z >> 31);
    }
}
