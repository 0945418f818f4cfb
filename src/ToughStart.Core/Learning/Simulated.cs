using ToughStart.Core.Provenance;

namespace ToughStart.Core.Learning;

/// <summary>A shop whose bottle has a hidden factor, and the jobs that came of it.</summary>
public sealed record SimulatedShop(double Factor, IReadOnlyList<JobLoops> Jobs);

/// <summary>
/// Shops made up from hidden truths, to see whether learning finds them again. Truth and learner are of one family of models: this proves that the
/// one undoes the other, not that the world is so.
/// </summary>
public static class Simulated
{
    /// <summary>Decades a round takes by the class.</summary>
    private const double PerRound = 0.45;

    /// <summary>Rounds of a visit.</summary>
    private const int Most = 4;

    public static IReadOnlyList<SimulatedShop> Shops(int shops, int jobs, int zones, ulong seed)
    {
        var c = Catalogue.Default;
        var random = new SplitMix(seed);
        var list = new List<SimulatedShop>();
        for (var s = 0; s < shops; s++)
        {
            var factor = Math.Exp(c["learn-prior"] * random.Normal());
            list.Add(new(factor, [.. Enumerable.Range(0, jobs).Select(j => Job(j, factor, zones, random, c))]));
        }

        return list;
    }

    private static JobLoops Job(int job, double factor, int zones, SplitMix random, Catalogue c)
    {
        var today = factor * Math.Exp(c["learn-day"] * random.Normal());
        var bias = c["learn-bias"] / Math.Log(10) * random.Normal();
        return new(
            job,
            null,
            [
                .. Enumerable
                    .Range(0, zones)
                    .Select(_ =>
                    {
                        var need = 0.5 + (0.5 * random.Next());
                        var spread = LoopDatum.SpreadOf(c["learn-load"], LookSpread);
                        var eye = LookSpread / Math.Log(10);
                        var truly = need + bias + (c["learn-load"] / Math.Log(10) * random.Normal());
                        for (var round = 1; round <= Most; round++)
                        {
                            if (truly - (round * PerRound * today) + (eye * random.Normal()) <= 0)
                            {
                                return new LoopDatum(need, PerRound, round, true, spread);
                            }
                        }

                        return new LoopDatum(need, PerRound, Most, false, spread);
                    }),
            ]
        );
    }

    /// <summary>Spread of a look, ln.</summary>
    private const double LookSpread = 0.4;
}
