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
            var set = i.Begun.GetValueOrDefault(t.Key)?.Start;
            var start = model.NewIntVar(set ?? Math.Min(Math.Max(i.Now, t.From), horizon), set ?? horizon, t.Key);
            (starts[t.Key], ends[t.Key]) = (start, start + t.Seconds);
            spans[t.Key] = model.NewFixedSizeIntervalVar(start, t.Seconds, t.Key);
            if (t.Pinned is { } pin && pin <= horizon)
            {
                model.Add(start == pin);
            }
        }

        var bound = i.Cycles.Where(c => c.PersonBound).SelectMany(c => new[] { c.On, c.Off }).ToHashSet();
        var hands = i.Tasks.Where(t => !bound.Contains(t.Key) && !i.Begun.ContainsKey(t.Key)).Select(t => spans[t.Key]).ToList();
        var lies = new Dictionary<string, IntervalVar>();
        foreach (var c in i.Cycles)
        {
            var (on, off) = (starts[c.On], starts[c.Off]);
            // The longest window of any hour: what only some hours allow may be allowed here, the bound stays one.
            var most = c.Hours.Select(h => h.MaxLag).Append(c.MaxLag).Max();
            model.Add(off - on >= c.MinLag);
            if (i.Begun.ContainsKey(c.On))
            {
                // What lies may be late; how late is not the solver's to trade.
                most = horizon;
            }

            model.Add(off - on <= most);
            var seconds = i.Tasks.First(t => t.Key == c.Off).Seconds;
            var wet = model.NewIntVar(c.MinLag + seconds, most + seconds, $"{c.On} lies");
            lies[c.On] = model.NewIntervalVar(on, wet, off + seconds, $"{c.On} wet");
            if (c.PersonBound)
            {
                hands.Add(lies[c.On]);
            }
        }

        var all = hands.Select(h => (Span: h, Demand: 1L)).Concat(Away(i.Crew, i, horizon, model)).ToArray();
        model.AddCumulative(Math.Max(1, i.Crew.Count)).AddDemands(all.Select(h => h.Span), all.Select(h => h.Demand));
        foreach (var skill in i.Tasks.Where(t => !bound.Contains(t.Key) && !i.Begun.ContainsKey(t.Key)).GroupBy(t => t.Skill))
        {
            Person[] able = [.. i.Crew.Where(p => p.Skills.Count == 0 || skill.Key is null || p.Skills.Contains(skill.Key))];
            if (able.Length < i.Crew.Count)
            {
                var work = skill.Select(t => (Span: spans[t.Key], Demand: 1L)).Concat(Away(able, i, horizon, model)).ToArray();
                model.AddCumulative(Math.Max(1, able.Length)).AddDemands(work.Select(h => h.Span), work.Select(h => h.Demand));
            }
        }

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

    /// <summary>
    /// How many of some people are not there, stretch by stretch, and their rests: no task spans either. A rest that may come after all the
    /// work is left out.
    /// </summary>
    private static IEnumerable<(IntervalVar Span, long Demand)> Away(IReadOnlyList<Person> people, Instance i, int horizon, CpModel model)
    {
        int[] cuts =
        [
            .. people
                .SelectMany(p => p.Shifts.Concat(p.Breaks))
                .SelectMany(s => new[] { s.From, s.To })
                .Append(0)
                .Append(horizon)
                .Where(t => t >= 0 && t <= horizon)
                .Distinct()
                .Order(),
        ];
        foreach (var (from, to) in cuts.Zip(cuts.Skip(1)))
        {
            var away = people.Count(p =>
                (p.Shifts.Count > 0 && !p.Shifts.Any(s => s.From <= from && to <= s.To)) || p.Breaks.Any(b => b.From <= from && to <= b.To)
            );
            if (away > 0)
            {
                yield return (model.NewFixedSizeIntervalVar(model.NewConstant(from), to - from, $"away {from}"), away);
            }
        }

        foreach (var p in people)
        {
            if (p.Rest is { } rest && people.Count == i.Crew.Count)
            {
                var at = model.NewIntVar(rest.From, rest.To - rest.Seconds, $"{p.Id} rests");
                yield return (model.NewFixedSizeIntervalVar(at, rest.Seconds, $"{p.Id} rests"), 1);
            }
        }
    }

    private const int Workers = 2;

    private static Schedule? Walked(Instance i, Schedule now, Func<string, int> start, CancellationToken stop)
    {
        var order = now with { Tasks = [.. i.Tasks.Select(t => new Placed(t.Key, start(t.Key), start(t.Key) + t.Seconds, ""))] };
        try
        {
            return new Greedy(i).Repeat(order, stop) is var made && made.Finish < now.Finish && Greedy.LateBy(made) <= Greedy.LateBy(now)
                ? made
                : null;
        }
        catch (CannotScheduleException)
        {
            return null;
        }
    }
}
