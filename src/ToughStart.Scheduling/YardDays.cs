using Google.OrTools.Sat;
using ToughStart.Core.Provenance;

namespace ToughStart.Scheduling;

/// <summary>A vehicle that waits, by how many it could be worked.</summary>
/// <param name="Modes">By how many, one or more.</param>
/// <param name="Due">When it has to be done, s of working time; null = nothing presses.</param>
/// <param name="Weight">How much it presses: 5 what etches, 3 what was promised, 1 anything else.</param>
/// <param name="Pinned">Start somebody has set, s of working time; null = free.</param>
public sealed record YardJob(int Id, IReadOnlyList<YardMode> Modes, int? Due, int Weight, int? Pinned = null)
{
    /// <summary>Stretches of working time in which it may begin, for its films stay wet long enough then; empty = whenever.</summary>
    public IReadOnlyList<Stretch> Begins { get; init; } = [];
}

/// <summary>A way to work a vehicle.</summary>
/// <param name="Washer">Part of the time for which its people have a washer in hand, %.</param>
public readonly record struct YardMode(int People, int Seconds, int Washer)
{
    /// <summary>How long a laid-out vehicle takes, and its share of the washers.</summary>
    public static YardMode Of(int people, Layout layout) =>
        new(
            people,
            layout.Schedule.Finish,
            (int)Math.Round(100.0 * layout.Instance.Tasks.Where(t => t.Washer).Sum(t => t.Seconds) / Math.Max(1, layout.Schedule.Finish))
        );
}

/// <summary>What vehicles share.</summary>
public readonly record struct YardRoom(int People, int Bays, int Washers);

/// <summary>When a vehicle is worked, s of working time.</summary>
/// <param name="Washer">Part of the time for which it has a washer in hand, %.</param>
public sealed record YardSlot(int Id, int People, int Start, int End, int Washer = 0);

/// <summary>Hours that are worked, one stretch after another, and the working time that is counted along them.</summary>
/// <param name="Open">Seconds from the first midnight, in order; one or more.</param>
public sealed record WorkingTime(IReadOnlyList<Stretch> Open)
{
    public int Length => Open.Sum(o => o.Length);

    /// <summary>The moment on the clock; past the last stretch it goes on as if that did not close.</summary>
    public int Clock(int worked)
    {
        var left = worked;
        foreach (var o in Open)
        {
            if (left < o.Length)
            {
                return o.From + left;
            }

            left -= o.Length;
        }

        return Open[^1].To + left;
    }

    /// <summary>Working time until a moment on the clock.</summary>
    public int Worked(int clock) => Open.Sum(o => Math.Clamp(clock - o.From, 0, o.Length));
}

/// <summary>
/// Which vehicle when and by how many: the shop's people and bays shared out over working time, what presses first. Coarse on purpose:
/// each vehicle is a block as long as its own timeline for so many people; nights cut blocks, no film lies over them.
/// </summary>
public static class YardDays
{
    /// <summary>Orders tried of each cut of a vehicle: blocks need no more.</summary>
    public const int Tries = 3;

    /// <summary>How long the days are given out, in the solver's own units.</summary>
    public const double Look = 0.03;

    /// <summary>What a minute late weighs against a minute sooner.</summary>
    private const int Late = 20;

    private const int Minute = 60;

    /// <summary>Of the time of all washers, % of one: what vehicles may have in hand together. One alone takes what it takes.</summary>
    private static int Shared(YardRoom room) => (int)Catalogue.Default["crew-washer"] * room.Washers;

    /// <param name="deterministicSeconds">Budget in the solver's own units.</param>
    /// <returns>In order of starts; null = a pinned vehicle leaves no way, or there are fewer people than any mode takes.</returns>
    public static IReadOnlyList<YardSlot>? Of(
        IReadOnlyList<YardJob> jobs,
        YardRoom room,
        double deterministicSeconds,
        CancellationToken stop = default
    )
    {
        if (jobs.Count == 0)
        {
            return [];
        }

        var model = new CpModel();
        int Minutes(int seconds) => YardStart.Minutes(seconds);
        var horizon =
            jobs.Sum(j => j.Modes.Max(m => Minutes(m.Seconds)))
            + jobs.Max(j => Minutes(Math.Max(j.Pinned ?? 0, j.Begins.Select(b => b.To).DefaultIfEmpty(0).Max())));
        var cost = LinearExpr.NewBuilder();
        var (starts, modes, hands, places) = (
            new Dictionary<int, IntVar>(),
            new Dictionary<int, List<(BoolVar On, YardMode Mode)>>(),
            new List<(IntervalVar Block, YardMode Mode)>(),
            new List<IntervalVar>()
        );
        var begun = YardStart.Of(jobs, room, Shared(room), Late);
        foreach (var (j, n) in jobs.Select((j, n) => (j, n)))
        {
            var (start, end) = (model.NewIntVar(0, horizon, $"start {j.Id}"), model.NewIntVar(0, horizon, $"end {j.Id}"));
            starts[j.Id] = start;
            if (j.Pinned is { } pin)
            {
                model.Add(start == Minutes(pin));
            }
            else if (j.Begins.Count > 0)
            {
                model.AddLinearExpressionInDomain(
                    start,
                    Google.OrTools.Util.Domain.FromIntervals([
                        .. j.Begins.Select(b => new long[] { Minutes(b.From), Math.Max(Minutes(b.From), b.To / Minute) }),
                    ])
                );
            }

            modes[j.Id] = [];
            foreach (var m in j.Modes.Where(m => m.People <= room.People))
            {
                var on = model.NewBoolVar($"{j.Id} by {m.People}");
                var block = model.NewOptionalIntervalVar(start, Minutes(m.Seconds), end, on, $"{j.Id} by {m.People}");
                hands.Add((block, m));
                places.Add(block);
                modes[j.Id].Add((on, m));
            }

            model.AddExactlyOne(modes[j.Id].Select(m => m.On));
            if (begun is not null)
            {
                var mode = j.Modes[begun[n].Mode];
                model.AddHint(start, begun[n].Start);
                model.AddHint(end, begun[n].Start + Minutes(mode.Seconds));
                foreach (var (on, m) in modes[j.Id])
                {
                    model.AddHint(on, m == mode ? 1 : 0);
                }
            }

            cost.AddTerm(end, j.Weight);
            if (j.Due is { } due)
            {
                var late = model.NewIntVar(0, horizon, $"late {j.Id}");
                model.Add(late >= end - Minutes(due));
                cost.AddTerm(late, Late * j.Weight);
            }
        }

        model.AddCumulative(room.People).AddDemands(hands.Select(h => h.Block), hands.Select(h => h.Mode.People));
        model.AddCumulative(room.Bays).AddDemands(places, places.Select(_ => 1));
        // Lances are handed to and fro all day: shares of the time, not turns.
        model.AddCumulative(Shared(room)).AddDemands(hands.Select(h => h.Block), hands.Select(h => Math.Min(h.Mode.Washer, Shared(room))));
        model.Minimize(cost);
        using var solver = new CpSolver
        {
            StringParameters = FormattableString.Invariant(
                $"random_seed:1 num_workers:1 max_deterministic_time:{deterministicSeconds} max_time_in_seconds:{20 * deterministicSeconds}"
            ),
        };
        using var heard = stop.Register(solver.StopSearch);
        var status = modes.Values.All(m => m.Count > 0) ? solver.Solve(model) : CpSolverStatus.Infeasible;
        stop.ThrowIfCancellationRequested();
        var found = status is CpSolverStatus.Optimal or CpSolverStatus.Feasible;
        if (!found && (begun is null || status == CpSolverStatus.Infeasible))
        {
            return null;
        }

        // A busy machine may leave the solver no time at all: the beginning is an answer too.
        return
        [
            .. jobs.Select(
                    (j, n) =>
                    {
                        var mode = found ? modes[j.Id].First(m => solver.BooleanValue(m.On)).Mode : j.Modes[begun![n].Mode];
                        var start = (found ? (int)solver.Value(starts[j.Id]) : begun![n].Start) * Minute;
                        return new YardSlot(j.Id, mode.People, start, start + mode.Seconds, mode.Washer);
                    }
                )
                .OrderBy(s => s.Start)
                .ThenBy(s => s.Id),
        ];
    }

    /// <summary>
    /// What breaks where a vehicle is moved and all others stay: too few people, bays or washers, and from when; nothing = it fits.
    /// </summary>
    public static IReadOnlyList<(string What, int At, int Needed, int There)> Breaks(IReadOnlyList<YardSlot> slots, YardRoom room)
    {
        var broken = new List<(string, int, int, int)>();
        foreach (var at in slots.Select(s => s.Start).Distinct().Order())
        {
            var open = slots.Where(s => s.Start <= at && at < s.End).ToArray();
            foreach (
                var (what, needed, there) in new[]
                {
                    ("people", open.Sum(s => s.People), room.People),
                    ("bays", open.Length, room.Bays),
                    (
                        "washers",
                        (int)Math.Ceiling(open.Sum(s => Math.Min(s.Washer, Shared(room))) / Catalogue.Default["crew-washer"]),
                        room.Washers
                    ),
                }
            )
            {
                if (needed > there && broken.All(b => b.Item1 != what))
                {
                    broken.Add((what, at, needed, there));
                }
            }
        }

        return broken;
    }
}
