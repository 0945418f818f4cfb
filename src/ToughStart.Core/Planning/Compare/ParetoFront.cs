using ToughStart.Core.Formats;

namespace ToughStart.Core.Planning;

/// <summary>One plan of the front: no other found is both gentler and faster.</summary>
/// <param name="Lean">The leaning that makes it.</param>
public sealed record FrontPoint(Leaning Lean, double Harm, Minutes Minutes, double Elapsed, double Litres, double Money, Plan Plan);

/// <summary>
/// Plans from the gentlest to the fastest, each computed. Weights are tried where the front still bends: what lies between two points
/// is never drawn as if it were a plan.
/// </summary>
public static class ParetoFront
{
    /// <summary>
    /// The front of harm against hands-on minutes. Plans that do not wait for each other are worked out side by side; the answer is the
    /// same as one after the other.
    /// </summary>
    /// <param name="most">Plans computed at most.</param>
    /// <param name="progress">Gets how many are done, one call at a time.</param>
    public static IReadOnlyList<FrontPoint> Of(Survey survey, int most = 9, Action<int>? progress = null, CancellationToken stop = default)
    {
        var found = new List<FrontPoint>();
        var ordinary = JobSearch.OrdinaryOf(survey, new Effort(stop));
        var done = 0;
        var counting = new Lock();
        FrontPoint Make((double Harm, double Time) weights)
        {
            stop.ThrowIfCancellationRequested();
            var lean = new Leaning(
                Math.Clamp(weights.Harm, Leaning.Least, Leaning.Most),
                Math.Clamp(weights.Time, Leaning.Least, Leaning.Most),
                survey.Lean?.Money ?? 1
            );
            var plan = Planner.Plan(survey with { Lean = lean }, null, new PlanOptions(Ordinary: ordinary) { Effort = new Effort(stop) });
            var point = new FrontPoint(
                lean,
                plan.Totals.Harm,
                plan.Totals.LabourMinutes.Expected,
                plan.Totals.ElapsedMinutes.Expected,
                plan.Totals.WaterLitres.Expected,
                plan.Totals.Money.Expected,
                plan
            );
            lock (counting)
            {
                progress?.Invoke(++done);
            }

            return point;
        }

        FrontPoint[] Wave(IEnumerable<(double, double)> weights)
        {
            var wave = weights.AsParallel().AsOrdered().WithCancellation(stop).Select(Make).ToArray();
            found.AddRange(wave);
            return wave;
        }

        var ends = Wave([(16, 1), (1, 1), (1, 16)]);
        List<(FrontPoint Gentler, FrontPoint Faster)> open = [(ends[0], ends[1]), (ends[1], ends[2])];
        while (open.Count > 0 && found.Count < most)
        {
            // The weights at which both ends of a gap cost the same: a plan below their line, if there is one, is found there.
            var gaps = open.Select(g =>
                    (g.Gentler, g.Faster, Less: g.Faster.Harm - g.Gentler.Harm, Quicker: g.Gentler.Minutes - g.Faster.Minutes)
                )
                .Where(g => g.Less >= 0.05 && g.Quicker >= 0.5)
                .Take(most - found.Count)
                .ToArray();
            var between = Wave(gaps.Select(g => (Math.Sqrt(g.Quicker / g.Less), Math.Sqrt(g.Less / g.Quicker))));
            open = gaps.Zip(between)
                .Where(x => x.Second.Harm > x.First.Gentler.Harm + 0.02 && x.Second.Minutes > x.First.Faster.Minutes + 0.2)
                .SelectMany(x => new[] { (x.First.Gentler, x.Second), (x.Second, x.First.Faster) })
                .ToList();
        }

        var front = new List<FrontPoint>();
        foreach (var p in found.OrderBy(p => Math.Round(p.Harm, 3)).ThenBy(p => p.Minutes))
        {
            if (front.Count == 0 || p.Minutes < front[^1].Minutes - 0.05)
            {
                front.Add(p);
            }
        }

        return front;
    }
}
