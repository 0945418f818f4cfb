using Google.OrTools.Sat;

namespace ToughStart.Scheduling;

/// <summary>How early work can end at best, and an order that may end earlier than the one at hand.</summary>
/// <param name="Bound">
/// No schedule of these tasks ends before, s: walking, shifts, rests and who can do what left out, so it holds for all.
/// </param>
/// <param name="Proved">The bound is as good as it gets.</param>
/// <param name="Better">A schedule that ends earlier than the one at hand, everything kept; null = none was found.</param>
public sealed record Proof(int Bound, bool Proved, Schedule? Better)
{
    /// <summary>
    /// Asks a general solver: it lays out the same work without walking, which bounds what any crew can do; the order it finds is then
    /// walked by the greedy with everything it left out, and taken only where that ends earlier.
    /// </summary>
    /// <param name="deterministicSeconds">
    /// Budget in the solver's own units, the same on every machine; 1 is about a second of one core.
    /// </param>
    public static Proof Of(Instance i, Schedule now, double deterministicSeconds, CancellationToken stop = default)
    {
        var model = new CpModel();
        var horizon = Math.Max(now.Finish, 1);
        var (starts, ends, spans) = (
            new Dictionary<string, IntVar>(),
            new Dictionary<string, LinearExpr>(),
            new Dictionary<string, IntervalVar>()
        );
        foreach (var t in i.Tasks)
        {
            var start = model.NewIntVar(0, horizon, t.Key);
            (starts[t.Key], ends[t.Key]) = (start, start + t.Seconds);
            spans[t.Key] = model.NewFixedSizeIntervalVar(start, t.Seconds, t.Key);
            if (t.Pinned is { } pin && pin <= horizon)
            {
                model.Add(start == pin);
            }
        }

        var bound = i.Cycles.Where(c => c.PersonBound).SelectMany(c => new[] { c.On, c.Off }).ToHashSet();
        var hands = i.Tasks.Where(t => !bound.Contains(t.Key)).Select(t => spans[t.Key]).ToList();
        var lies = new Dictionary<string, IntervalVar>();
        foreach (var c in i.Cycles)
        {
            var (on, off) = (starts[c.On], starts[c.Off]);
            // The longest window of any hour: what only some hours allow may be allowed here, the bound stays one.
            var most = c.Hours.Select(h => h.MaxLag).Append(c.MaxLag).Max();
            model.Add(off - on >= c.MinLag);
            model.Add(off - on <= most);
            var seconds = i.Tasks.First(t => t.Key == c.Off).Seconds;
            var wet = model.NewIntVar(c.MinLag + seconds, most + seconds, $"{c.On} lies");
            lies[c.On] = model.NewIntervalVar(on, wet, off + seconds, $"{c.On} wet");
            if (c.PersonBound)
            {
                hands.Add(lies[c.On]);
            }
        }

        model.AddCumulative(Math.Max(1, i.Crew.Count)).AddDemands(hands, hands.Select(_ => 1));
        Machine(i.Tasks.Where(t => t.Washer), i.Machines.Washers);
        Machine(i.Tasks.Where(t => t.Ladder), i.Machines.Ladders);
        foreach (var o in i.Order)
        {
            model.Add(starts[o.Then] >= ends[o.First]);
        }

        foreach (var p in i.NoWater)
        {
            model.AddNoOverlap([spans[p.Task], lies[p.On]]);
        }

        var finish = model.NewIntVar(0, horizon, "finish");
        model.AddMaxEquality(finish, ends.Values);
        model.Minimize(finish);
        foreach (var p in now.Tasks)
        {
            model.AddHint(starts[p.Key], p.Start);
        }

        using var solver = new CpSolver
        {
            StringParameters = FormattableString.Invariant(
                $"random_seed:1 num_workers:{Workers} max_deterministic_time:{deterministicSeconds} max_time_in_seconds:{10 * deterministicSeconds}"
            ),
        };
        using var heard = stop.Register(solver.StopSearch);
        var status = solver.Solve(model);
        stop.ThrowIfCancellationRequested();
        var atLeast = Math.Clamp((int)Math.Ceiling(solver.BestObjectiveBound - 1e-6), 0, now.Finish);
        if (status is not (CpSolverStatus.Optimal or CpSolverStatus.Feasible))
        {
            return new(status is CpSolverStatus.Infeasible ? 0 : atLeast, false, null);
        }

        return new(atLeast, status == CpSolverStatus.Optimal, Walked(i, now, t => (int)solver.Value(starts[t]), stop));

        void Machine(IEnumerable<WorkTask> users, int count)
        {
            var all = users.Select(t => spans[t.Key]).ToArray();
            if (all.Length > 0 && count == 1)
            {
                model.AddNoOverlap(all);
            }
            else if (all.Length > 0)
            {
                model.AddCumulative(Math.Max(1, count)).AddDemands(all, all.Select(_ => 1));
            }
        }
    }

    private const int Workers = 2;

    private static Schedule? Walked(Instance i, Schedule now, Func<string, int> start, CancellationToken stop)
    {
        var order = now with { Tasks = [.. i.Tasks.Select(t => new Placed(t.Key, start(t.Key), start(t.Key) + t.Seconds, ""))] };
        try
        {
            return new Greedy(i).Repeat(order, stop) is var made && made.Finish < now.Finish ? made : null;
        }
        catch (CannotScheduleException)
        {
            return null;
        }
    }
}
