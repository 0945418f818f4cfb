using ToughStart.Core.Planning;
using ToughStart.Core.Running.Live;
using ToughStart.Core.Vehicles;

namespace ToughStart.Scheduling;

/// <summary>A plan laid out for a crew: the cut that does best, and what it is measured against.</summary>
/// <param name="Beside">Finish of the same crew if whoever lays a film on waited beside it, s; null = that cannot be worked.</param>
public sealed record Layout(Grouping Grouping, Instance Instance, Schedule Schedule, int? Beside)
{
    /// <summary>Tries of each cut; the sixtieth is seldom better than the twentieth, and never worse.</summary>
    public const int Tries = 60;

    /// <summary>A finer cut is taken only where it finishes this much earlier: it is more to keep in mind.</summary>
    private const double Finer = 0.97;

    /// <summary>No order of this work by so many people ends before, s; null = nobody has asked.</summary>
    public int? Bound { get; init; }

    /// <summary>The same with a better order, where one is found, and with a bound under all of them.</summary>
    /// <param name="deterministicSeconds">How long to look, in the solver's own units.</param>
    public Layout Bettered(double deterministicSeconds, CancellationToken stop = default)
    {
        var proof = Proof.Of(Instance, Schedule, deterministicSeconds, stop);
        return this with { Schedule = proof.Better ?? Schedule, Bound = proof.Bound };
    }

    /// <summary>What it does not keep to, in words; null = it keeps to everything.</summary>
    public string? Warning { get; init; }

    /// <summary>Seconds that are not waited because other work goes into the dwells.</summary>
    public int? Saved => Beside is { } b ? Math.Max(0, b - Schedule.Finish) : null;

    /// <param name="pins">Starts somebody has set, s, by task; they hold for the cut they were set in.</param>
    /// <param name="only">The cut to take; null = the best.</param>
    /// <param name="windows">How long films stay wet by the quarter-hour; null = as at the plan's start.</param>
    /// <exception cref="CannotScheduleException">No cut can be worked; the last task that failed is named.</exception>
    public static Layout Of(
        Plan plan,
        Vehicle vehicle,
        IReadOnlyList<Person> crew,
        Machines machines,
        IReadOnlyDictionary<string, int>? pins = null,
        Grouping? only = null,
        LiveWindows? windows = null,
        int tries = Tries,
        CancellationToken stop = default
    )
    {
        (Grouping Grouping, Instance Instance, Schedule Schedule)? best = null;
        CannotScheduleException? failed = null;
        foreach (var grouping in Enum.GetValues<Grouping>().Where(g => only is null || g == only))
        {
            var instance = Pinned(PlanTasks.Of(plan, vehicle, crew, machines, grouping, windows), pins);
            try
            {
                var made = new Greedy(instance).Solve(tries, stop);
                if (best is not { } b || made.Finish < Finer * b.Schedule.Finish)
                {
                    best = (grouping, instance, made);
                }
            }
            catch (CannotScheduleException e)
            {
                failed = e;
            }
        }

        if (best is not var (cut, of, schedule))
        {
            throw failed ?? new CannotScheduleException(plan.SurveyHash, "there is nothing to lay out");
        }

        return new(cut, of, schedule, BesideOf(of, Math.Max(1, tries / 6), stop));
    }

    /// <summary>
    /// What is left, laid out from now on: in the order that stood where that ends as early, within a few in a hundred, as the best of
    /// some tries; what lies comes first, and may be late where nobody can be there in time.
    /// </summary>
    /// <param name="earlier">How it was laid out before the work began.</param>
    /// <param name="tries">0 = only the order that stood: at once.</param>
    /// <exception cref="CannotScheduleException">It cannot be worked so; the task that failed is named.</exception>
    public static Layout FromHere(
        Plan plan,
        Vehicle vehicle,
        IReadOnlyList<Person> crew,
        Machines machines,
        SoFar soFar,
        Layout earlier,
        IReadOnlyDictionary<string, int>? pins = null,
        LiveWindows? windows = null,
        int tries = 0,
        CancellationToken stop = default
    )
    {
        // Who was to rest before now has rested; who was to rest later rests then.
        Person[] here =
        [
            .. crew.Select(p =>
                p.Rest is not { } rest ? p
                : earlier.Schedule.Rests.TryGetValue(p.Id, out var was) && was.From < soFar.Now
                    ? p with
                    {
                        Rest = null,
                        Breaks = [.. p.Breaks, was],
                    }
                : Math.Max(rest.From, soFar.Now) is var from && rest.To - from < rest.Seconds ? p with { Rest = null }
                : p with { Rest = rest with { From = from } }
            ),
        ];
        var instance = Pinned(
            PlanTasks.Of(plan, vehicle, here, machines, earlier.Grouping, windows, soFar),
            pins?.Where(p => p.Value > soFar.Now).ToDictionary()
        );
        if (instance.Tasks.Count == 0)
        {
            return new(earlier.Grouping, instance, new([], soFar.Now, 0, here.ToDictionary(p => p.Id, _ => 0)), null);
        }

        Schedule? kept = null;
        try
        {
            kept = new Greedy(instance).Repeat(earlier.Schedule, stop);
        }
        catch (CannotScheduleException) when (tries > 0)
        {
            // In that order it goes no more; another may.
        }

        var best = tries > 0 ? new Greedy(instance).Solve(tries, stop) : kept!;
        var left = (double)(best.Finish - soFar.Now);
        var stays = kept is not null && Greedy.LateBy(kept) <= Greedy.LateBy(best) && kept.Finish - soFar.Now <= (2 - Finer) * left;
        return new(earlier.Grouping, instance, stays ? kept! : best, null);
    }

    /// <summary>The same instance with some starts set; keys that are none are passed over.</summary>
    public static Instance Pinned(Instance i, IReadOnlyDictionary<string, int>? pins) =>
        pins is null or { Count: 0 }
            ? i
            : i with
            {
                Tasks = [.. i.Tasks.Select(t => pins.TryGetValue(t.Key, out var at) ? t with { Pinned = at } : t)],
            };

    private static int? BesideOf(Instance i, int tries, CancellationToken stop)
    {
        try
        {
            return new Greedy(i with { Cycles = [.. i.Cycles.Select(c => c with { PersonBound = true })] }).Solve(tries, stop).Finish;
        }
        catch (CannotScheduleException)
        {
            return null;
        }
    }
}
