using MathNet.Numerics.Distributions;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Contamination;

/// <summary>
/// How uncertain a round is: how well this product and this dirt answer each other (the same for every round on a zone), where the
/// work stops, and how rounds scatter. Each as a few factors with their weights.
/// </summary>
public sealed class Response
{
    private Response(
        IReadOnlyList<(double Factor, double Weight)> answers,
        IReadOnlyList<(double Factor, double Weight)> floors,
        IReadOnlyList<(double Factor, double Weight)> rounds
    ) => (Answers, Floors, Rounds) = (answers, floors, rounds);

    /// <summary>On the decades of a round, for all rounds alike.</summary>
    public IReadOnlyList<(double Factor, double Weight)> Answers { get; }

    /// <summary>On the load that cannot be passed.</summary>
    public IReadOnlyList<(double Factor, double Weight)> Floors { get; }

    /// <summary>On the decades of one round.</summary>
    public IReadOnlyList<(double Factor, double Weight)> Rounds { get; }

    /// <summary>What the catalogue takes of a bottle nobody has learnt from yet: one in ten is weak.</summary>
    public static Response Of(Catalogue c) =>
        new(
            Grid(c["response-nodes"], c["response-least"], c["response-most"], x =>
                ((1 - c["response-weak"]) * Normal.PDF(0, c["response-spread"], x))
                + (c["response-weak"] * Normal.PDF(Math.Log(c["response-weak-factor"]), c["response-spread"], x))
            ),
            Three(c["floor-spread"]),
            Three(c["round-spread"])
        );

    /// <summary>As the notes work their examples: one log-normal of response, no weak bottle, floors and rounds as given.</summary>
    /// <param name="spread">Of the natural logarithm of the response; 0 = it answers as the catalogue says.</param>
    public static Response LogNormal(double spread, double floors, double rounds, Catalogue c) =>
        new(
            spread == 0 ? [(1, 1)] : Grid(c["response-nodes"], c["response-least"], c["response-most"], x => Normal.PDF(0, spread, x)),
            floors == 0 ? [(1, 1)] : Three(floors),
            rounds == 0 ? [(1, 1)] : Three(rounds)
        );

    /// <summary>A belief about levels, spread over the nodes it has nothing to do with yet.</summary>
    internal double[] Spread(double[] levels)
    {
        var nodes = new double[Floors.Count * Answers.Count * levels.Length];
        var i = 0;
        foreach (var (_, floor) in Floors)
        {
            foreach (var (_, answer) in Answers)
            {
                foreach (var p in levels)
                {
                    nodes[i++] = floor * answer * p;
                }
            }
        }

        return nodes;
    }

    private static (double Factor, double Weight)[] Grid(double nodes, double least, double most, Func<double, double> density)
    {
        var at = Enumerable
            .Range(0, (int)nodes)
            .Select(i => least + ((most - least) * i / (nodes - 1)))
            .Select(x => (Factor: Math.Exp(x), Weight: density(x)))
            .ToArray();
        var sum = at.Sum(x => x.Weight);
        return [.. at.Select(x => (x.Factor, x.Weight / sum))];
    }

    /// <summary>Three points that have the mean and the spread of a normal distribution, weights 1/6, 2/3, 1/6 (Gauss-Hermite).</summary>
    private static (double Factor, double Weight)[] Three(double spread) =>
        [(Math.Exp(-Math.Sqrt(3) * spread), 1.0 / 6), (1, 2.0 / 3), (Math.Exp(Math.Sqrt(3) * spread), 1.0 / 6)];
}
