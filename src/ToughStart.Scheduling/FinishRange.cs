using ToughStart.Core.Costing;
using ToughStart.Core.Planning;
using ToughStart.Core.Running.Live;
using ToughStart.Core.Vehicles;

namespace ToughStart.Scheduling;

/// <summary>
/// When a layout ends in the worlds its plan may meet: each laid out by the same greedy, in the order that stood, with the rounds and the
/// minutes that its steps take there. What is done beyond the plan is shared by whoever is on the vehicle.
/// </summary>
public static class FinishRange
{
    /// <summary>
    /// Worlds that are laid out, taken evenly along the order of the quick clock: it errs on every one of them alike, so that a few say what
    /// all would.
    /// </summary>
    private const int Sample = 24;

    /// <param name="drawn">The worlds; null = those the plan's own ranges were read from.</param>
    /// <param name="soFar">How far the work is: what is behind scatters no more.</param>
    /// <returns>Finish that one in ten stays under, and nine in ten, s; null = the plan has no worlds, or in none it can be worked.</returns>
    public static (int Low, int High)? Of(
        Plan plan,
        Vehicle vehicle,
        Layout laid,
        LiveWindows? windows = null,
        SoFar? soFar = null,
        Draws? drawn = null,
        int sample = Sample,
        CancellationToken stop = default
    )
    {
        if ((drawn ?? plan.Worlds?.Drawn) is not { Count: > 0 } worlds || laid.Instance.Tasks.Count == 0)
        {
            return null;
        }

        // One pass in an order that was found with many tries may end a little later than they did: that is no scatter.
        var still = End(plan, vehicle, laid, windows, soFar, stop) - laid.Schedule.Finish ?? 0;
        var inOrder = Enumerable.Range(0, worlds.Count).OrderBy(s => worlds.Elapsed[s]).ThenBy(s => s).ToArray();
        var many = Math.Clamp(sample, 1, inOrder.Length);
        var ends = new List<double>();
        foreach (var s in Enumerable.Range(0, many).Select(n => inOrder[(int)((n + 0.5) * inOrder.Length / many)]))
        {
            stop.ThrowIfCancellationRequested();
            if (End(In(plan, worlds, s), vehicle, laid, windows, soFar, stop) is { } end)
            {
                ends.Add(end - still + (60 * worlds.Beyond[s] / laid.Instance.Crew.Count));
            }
        }

        double[] all = [.. ends];
        return all.Length == 0 ? null : ((int)Draws.Quantile(all, 0.1), (int)Math.Ceiling(Draws.Quantile(all, 0.9)));
    }

    private static int? End(Plan plan, Vehicle vehicle, Layout laid, LiveWindows? windows, SoFar? soFar, CancellationToken stop)
    {
        var was = laid.Instance;
        var pins = was.Tasks.Where(t => t.Pinned is not null).ToDictionary(t => t.Key, t => t.Pinned!.Value);
        var instance = Layout.Pinned(PlanTasks.Of(plan, vehicle, was.Crew, was.Machines, laid.Grouping, windows, soFar), pins);
        if (instance.Tasks.Count == 0)
        {
            return soFar?.Now ?? 0;
        }

        try
        {
            return new Greedy(instance).Repeat(Lengthened(laid, instance), stop).Finish;
        }
        catch (CannotScheduleException)
        {
            // Not in that order, or not at those hours: that world says nothing.
            return null;
        }
    }

    /// <summary>The order that stood, with rounds that were not planned right after the last that was, in the same hands.</summary>
    private static Schedule Lengthened(Layout laid, Instance instance)
    {
        var at = laid.Schedule.Tasks.ToDictionary(p => p.Key);
        var more = new List<Placed>();
        foreach (var task in instance.Tasks.Where(t => !at.ContainsKey(t.Key)))
        {
            var last = laid
                .Instance.Tasks.Where(t =>
                    t.Step == task.Step && t.Part == task.Part && t.At == task.At && t.Zones.Intersect(task.Zones).Any()
                )
                .Select(t => at.GetValueOrDefault(t.Key))
                .OfType<Placed>()
                .MaxBy(p => p.Start);
            if (last is not null)
            {
                more.Add(last with { Key = task.Key, Start = last.Start + 1 + more.Count });
            }
        }

        return laid.Schedule with
        {
            Tasks = [.. laid.Schedule.Tasks, .. more],
        };
    }

    /// <summary>The plan as it went in one of the worlds.</summary>
    private static Plan In(Plan plan, Draws worlds, int s) =>
        plan with
        {
            Steps = [.. plan.Steps.Select((step, i) => In(step, worlds.Rounds[i][s], worlds.Steps[i][s]))],
        };

    /// <summary>Where most rounds were planned, as many as it took; elsewhere no more than that.</summary>
    private static Step In(Step step, int rounds, double minutes) =>
        step with
        {
            Rounds = rounds,
            LabourMinutes = new(Math.Max(minutes, step.SetUpMinutes.Value)),
            Per = [.. step.Per.Select(p => p with { Rounds = p.Rounds == step.Rounds ? rounds : Math.Min(p.Rounds, rounds) })],
        };
}
