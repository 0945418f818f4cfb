using System.Collections.Immutable;
using System.Globalization;
using System.Text.Json;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Running.Live;

namespace ToughStart.Core.Running;

/// <summary>Hands-on time of somebody in a stage, against the norm of what was done in it.</summary>
/// <param name="Seconds">Waiting for films, pauses and interruptions cut out.</param>
/// <param name="Norm">What the plan allows for the very same work, s.</param>
public sealed record StageTime(Stage Stage, string Who, int Seconds, int Norm);

/// <summary>A treatment, as planned and as done; a round on one zone counts one.</summary>
public sealed record RoundsDone(string Treatment, string Name, Stage Stage, int Planned, int Done);

/// <summary>A class of product, as planned and as done, neat ml.</summary>
/// <param name="Poured">It was written down as it was poured; else it is reckoned from the rounds.</param>
public sealed record ProductDone(string Agent, string Name, int PlannedMl, int DoneMl, bool Poured);

/// <summary>What a run came to. It follows from the plans and the log alone: the same log gives the same bytes.</summary>
public sealed record Reckoned(
    IReadOnlyList<(Stage Stage, int Minutes)> PlannedMinutes,
    IReadOnlyList<StageTime> Times,
    IReadOnlyList<RoundsDone> Rounds,
    IReadOnlyList<ProductDone> Products,
    int PlannedLitres,
    int DoneLitres,
    int Dried,
    int Rewetted,
    int Undone
)
{
    /// <summary>Minutes somebody's hands were on it.</summary>
    public double Minutes => Times.Sum(t => t.Seconds) / 60.0;

    /// <summary>Writes it down, always alike.</summary>
    public byte[] Write()
    {
        using var stream = new MemoryStream();
        using (var w = new Utf8JsonWriter(stream))
        {
            w.WriteStartObject();
            w.WriteString("format", "toughstart.reckoned/1");
            List("planned", PlannedMinutes, (x) => (w, x.Stage.ToString(), [("minutes", x.Minutes)]));
            List("times", Times, x => (w, $"{x.Stage}/{x.Who}", [("seconds", x.Seconds), ("norm", x.Norm)]));
            List("rounds", Rounds, x => (w, $"{x.Stage}/{x.Treatment}", [("planned", x.Planned), ("done", x.Done)]));
            List("products", Products, x => (w, x.Agent, [("plannedMl", x.PlannedMl), ("doneMl", x.DoneMl), ("poured", x.Poured ? 1 : 0)]));
            w.WriteNumber("plannedLitres", PlannedLitres);
            w.WriteNumber("doneLitres", DoneLitres);
            w.WriteNumber("dried", Dried);
            w.WriteNumber("rewetted", Rewetted);
            w.WriteNumber("undone", Undone);
            w.WriteEndObject();

            void List<T>(string name, IReadOnlyList<T> all, Func<T, (Utf8JsonWriter, string Key, (string, int)[] Numbers)> of)
            {
                w.WriteStartArray(name);
                foreach (var x in all)
                {
                    var (_, key, numbers) = of(x);
                    w.WriteStartObject();
                    w.WriteString("of", key);
                    foreach (var (n, v) in numbers)
                    {
                        w.WriteNumber(n, v);
                    }

                    w.WriteEndObject();
                }

                w.WriteEndArray();
            }
        }

        return stream.ToArray();
    }
}

/// <summary>Reckons a run up: minutes by stage and person, rounds, product and water, as planned and as done, kept apart.</summary>
public static class Reckoning
{
    /// <param name="first">The plan the job began with.</param>
    /// <param name="log">Its entries by number.</param>
    /// <param name="planOf">A plan by its revision; null = it does not read.</param>
    public static Reckoned Of(
        Plan first,
        RunGround ground,
        RunState state,
        LiveState live,
        IReadOnlyList<LogEvent> log,
        Func<int, Plan?> planOf
    )
    {
        var planned = first
            .Steps.GroupBy(s => (s.Treatment, s.Name, s.Stage))
            .ToDictionary(g => g.Key.Treatment, g => g.Sum(s => s.Per.Sum(p => p.Rounds * p.Zones.Count)));
        var done = state
            .Zones.OrderBy(z => z.Key, StringComparer.Ordinal)
            .SelectMany(z => z.Value.Rounds)
            .GroupBy(r => r.Key)
            .ToDictionary(g => g.Key, g => g.Sum(r => r.Value));
        var c = ground.Catalogue;
        return new(
            [
                .. first
                    .Steps.GroupBy(s => s.Stage)
                    .OrderBy(g => Place(g.Key))
                    .Select(g => (g.Key, (int)Math.Round(g.Sum(s => s.LabourMinutes.Value)))),
            ],
            Times(live, log, planOf),
            [
                .. planned
                    .Keys.Union(done.Keys)
                    .Select(t => (Id: t, Of: c.FindTreatment(t)))
                    .Select(t => new RoundsDone(
                        t.Id,
                        first.Steps.FirstOrDefault(s => s.Treatment == t.Id)?.Name ?? t.Of?.Name ?? t.Id,
                        first.Steps.FirstOrDefault(s => s.Treatment == t.Id)?.Stage ?? StageOf(t.Of, c),
                        planned.GetValueOrDefault(t.Id),
                        done.GetValueOrDefault(t.Id)
                    ))
                    .OrderBy(r => Place(r.Stage))
                    .ThenBy(r => r.Treatment, StringComparer.Ordinal),
            ],
            Products(first, state, live, c),
            (int)Math.Round(first.Steps.Sum(s => s.WaterLitres)),
            (int)Math.Round(Litres(first, ground, state)),
            live.Zones.Values.Sum(z => z.Ended.Count(e => e.Verdict == RoundEnd.Dried)),
            log.Count(e => e.Kind == LogKind.Rewetted && !live.Undone.ContainsKey(e.Id)),
            live.Undone.Count
        );
    }

    /// <summary>Place of a stage in the order of work.</summary>
    private static int Place(Stage stage) => Stage.All.ToList().IndexOf(stage);

    private static Stage StageOf(Treatment? t, Catalogue c) => t?.Slots is [var slot, ..] ? slot.Stage : Stage.Dry;

    private static List<ProductDone> Products(Plan first, RunState state, LiveState live, Catalogue c)
    {
        var planned = first.Totals.ProductMl;
        var poured = Live.Live.TotalsOf(live).Ml;
        var reckoned = state
            .Zones.OrderBy(z => z.Key, StringComparer.Ordinal)
            .SelectMany(z => z.Value.UsedMl.OrderBy(u => u.Key, StringComparer.Ordinal))
            .GroupBy(u => u.Key)
            .ToDictionary(g => g.Key, g => g.Sum(u => u.Value));
        return
        [
            .. planned
                .Keys.Union(poured.Keys)
                .Union(reckoned.Keys)
                .Order(StringComparer.Ordinal)
                .Select(a => new ProductDone(
                    a,
                    c.Agents.FirstOrDefault(x => x.Id == a)?.Name ?? a,
                    (int)Math.Round(planned.GetValueOrDefault(a)),
                    poured.GetValueOrDefault(a) is > 0 and var ml ? ml : (int)Math.Round(reckoned.GetValueOrDefault(a)),
                    poured.GetValueOrDefault(a) > 0
                ))
                .Where(p => p.PlannedMl > 0 || p.DoneMl > 0),
        ];
    }

    /// <summary>Water as planned for a round of a zone, times the rounds that were done.</summary>
    private static double Litres(Plan first, RunGround ground, RunState state)
    {
        var sum = 0.0;
        foreach (var (zone, run) in state.Zones.OrderBy(z => z.Key, StringComparer.Ordinal))
        {
            foreach (var (treatment, rounds) in run.Rounds.OrderBy(r => r.Key, StringComparer.Ordinal))
            {
                var per = first
                    .Steps.Where(s => s.Treatment == treatment && s.Zones.Contains(zone))
                    .Select(PerRound)
                    .DefaultIfEmpty(-1)
                    .First();
                sum +=
                    rounds
                    * (
                        per >= 0
                            ? per
                            : (ground.Catalogue.FindTreatment(treatment)?.WaterLitres ?? 0) * (ground.Zone(zone)?.Zone.Area.Value ?? 0)
                    );

                double PerRound(Step s)
                {
                    var areas = s.Parts.ToDictionary(p => p.Zone, p => p.Area.Value);
                    var all = s.Per.Sum(p => p.Rounds * p.Zones.Sum(z => areas.GetValueOrDefault(z, 1)));
                    return all <= 0 ? 0 : s.WaterLitres * areas.GetValueOrDefault(zone, 1) / all;
                }
            }
        }

        return sum;
    }

    /// <summary>
    /// From one entry of somebody to the next, while they are at a step. What a film needed before it could be rinsed is waiting; pauses and silences
    /// longer than the step can explain are no work.
    /// </summary>
    private static List<StageTime> Times(LiveState live, IReadOnlyList<LogEvent> log, Func<int, Plan?> planOf)
    {
        var idle = Catalogue.Default["learn-idle"] * 60_000;
        var pauses = Pauses(log);
        var (worked, norm) = (new Dictionary<(Stage Stage, string Who), double>(), new Dictionary<(Stage Stage, string Who), double>());
        foreach (
            var own in log.Where(e => !live.Undone.ContainsKey(e.Id) && !e.Kind.IsDecision() && !e.Kind.IsServers()).GroupBy(e => e.Who)
        )
        {
            (Step Step, Stage Stage)? post = null;
            LogEvent? before = null;
            foreach (var e in own.OrderBy(e => e.When.At).ThenBy(e => e.Number))
            {
                if (post is { } at && before is { } was)
                {
                    var key = (at.Stage, own.Key);
                    var gap = e.When.At - was.When.At - pauses.Sum(p => Overlap(p, was.When.At, e.When.At));
                    if (e.Kind == LogKind.Rinsed && was is { Kind: LogKind.Applied or LogKind.Rewetted, Body.Win: { } win })
                    {
                        gap -= Math.Min(gap, win.Dwell);
                    }

                    var most = Math.Max(idle, Slowest * at.Step.LabourMinutes.Value * 60_000);
                    worked[key] = worked.GetValueOrDefault(key) + Math.Clamp(gap, 0, most);
                }

                var step = e.Body.Step is { } named ? planOf(e.Plan)?.Steps.FirstOrDefault(s => s.Key == named) : null;
                if (step is not null && e.Kind is LogKind.Applied or LogKind.Worked or LogKind.Observed)
                {
                    var key = (step!.Stage, own.Key);
                    var rounds = e.Kind == LogKind.Observed ? e.Body.Rounds : 1;
                    norm[key] = norm.GetValueOrDefault(key) + (rounds * e.Body.Zones.Sum(z => NormOf(step, z)));
                }

                post =
                    e.Kind == LogKind.Left ? null
                    : e.Kind == LogKind.Taken
                        ? step is null ? null
                            : (step, step.Stage)
                    : post;
                before = e;
            }
        }

        return
        [
            .. worked
                .Keys.Union(norm.Keys)
                .OrderBy(k => Place(k.Stage))
                .ThenBy(k => k.Who, StringComparer.Ordinal)
                .Select(k => new StageTime(
                    k.Stage,
                    k.Who,
                    (int)Math.Round(worked.GetValueOrDefault(k) / 1000),
                    (int)Math.Round(norm.GetValueOrDefault(k))
                ))
                .Where(t => t.Seconds > 0 || t.Norm > 0),
        ];
    }

    /// <summary>
    /// Seconds that the plan allows for a round on a zone, or on an even part of one: laying out, going round and clearing away
    /// are shared by what the step has planned.
    /// </summary>
    public static double NormOf(Step step, string piece)
    {
        var seconds = step.Parts.ToDictionary(p => p.Zone, p => p.Seconds);
        var planned = step.Per.Sum(p => p.Rounds * p.Zones.Sum(z => seconds.GetValueOrDefault(z)));
        var here = seconds.GetValueOrDefault(Live.Live.ZoneOf(piece)) / (piece.Contains(':') ? Live.Live.PartsOf(piece) : 1);
        return planned <= 0 ? 0 : here * step.LabourMinutes.Value * 60 / planned;
    }

    /// <summary>Nobody is slower than this against the plan; a longer silence is no work.</summary>
    private const double Slowest = 3;

    private static List<(long From, long To)> Pauses(IReadOnlyList<LogEvent> log)
    {
        var open = new Dictionary<string, long>();
        var list = new List<(long, long)>();
        foreach (var e in log)
        {
            if (e.Kind == LogKind.Paused || (e.Kind == LogKind.Happened && Trouble.Halts(e.Body.What)))
            {
                open[e.Id] = e.When.At;
            }
            else if (e.Kind == LogKind.Resumed)
            {
                foreach (var id in e.Body.Of.Where(open.ContainsKey).ToArray())
                {
                    list.Add((open[id], e.When.At));
                    open.Remove(id);
                }
            }
        }

        return list;
    }

    private static long Overlap((long From, long To) p, long from, long to) => Math.Max(0, Math.Min(p.To, to) - Math.Max(p.From, from));
}
