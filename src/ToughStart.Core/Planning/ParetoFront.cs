using ToughStart.Core.Formats;

namespace ToughStart.Core.Planning;

/// <summary>One plan of the front: no other found is both gentler and faster.</summary>
/// <param name="Lean">The leaning that makes it.</param>
public sealed record FrontPoint(Leaning Lean, double Harm, double Minutes, double Elapsed, double Litres, double Money, Plan Plan);

/// <summary>Plans from the gentlest to the fastest, each computed. Weights are tried where the front still bends: what lies between two points is never drawn as if it were a plan.</summary>
public static class ParetoFront
{
    /// <summary>The front of harm against hands-on minutes.</summary>
    /// <param name="most">Plans computed at most.</param>
    /// <param name="progress">Gets how many are done.</param>
    public static IReadOnlyList<FrontPoint> Of(Survey survey, int most = 9, Action<int>? progress = null, CancellationToken stop = default)
    {
        var found = new List<FrontPoint>();
        var ordinary = Planner.OrdinaryOf(survey);
        FrontPoint Make(double harm, double time)
        {
            stop.ThrowIfCancellationRequested();
            var lean = new Leaning(Math.Clamp(harm, Leaning.Least, Leaning.Most), Math.Clamp(time, Leaning.Least, Leaning.Most), survey.Lean?.Money ?? 1);
            var plan = Planner.Plan(survey with { Lean = lean }, null, new PlanOptions(Ordinary: ordinary));
            var point = new FrontPoint(lean, plan.Totals.Harm, plan.Totals.LabourMinutes.Expected, plan.Totals.ElapsedMinutes.Expected, plan.Totals.WaterLitres.Expected, plan.Totals.Money.Expected, plan);
            found.Add(point);
            progress?.Invoke(found.Count);
            return point;
        }

        var (gentle, middle, fast) = (Make(16, 1), Make(1, 1), Make(1, 16));
        var open = new Queue<(FrontPoint Gentler, FrontPoint Faster)>([(gentle, middle), (middle, fast)]);
        while (found.Count < most && open.TryDequeue(out var gap))
        {
            var (less, quicker) = (gap.Faster.Harm - gap.Gentler.Harm, gap.Gentler.Minutes - gap.Faster.Minutes);
            if (less < 0.05 || quicker < 0.5)
            {
                continue;
            }

            // The weights at which both ends cost the same: a plan below their line, if there is one, is found here.
            var ratio = quicker / less;
            var between = Make(Math.Sqrt(ratio), 1 / Math.Sqrt(ratio));
            if (between.Harm > gap.Gentler.Harm + 0.02 && between.Minutes > gap.Faster.Minutes + 0.2)
            {
                open.Enqueue((gap.Gentler, between));
                open.Enqueue((between, gap.Faster));
            }
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
