using System.Collections.Concurrent;
using System.Runtime.CompilerServices;
using System.Security.Cryptography;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Running;
using ToughStart.Core.Running.Live;
using ToughStart.Data;

namespace ToughStart.Web.Stations;

/// <summary>Another plan than the one in force, with why and how it differs; nobody has to take it.</summary>
/// <param name="Because">What changed since the plan in force: the survey, the shelf, the weather, the rules, what was seen.</param>
/// <param name="Hash">Names this very plan: what is taken is what was looked at.</param>
public sealed record Offer(Plan Plan, Survey Survey, IReadOnlyList<string> Because, IReadOnlyList<Change> Changes, string Hash);

/// <summary>A look that must be made again, on some zones.</summary>
public sealed record AskLine(string Look, string Because, bool Elsewhere, IReadOnlyList<string> Zones);

/// <summary>A run as it stands: the plan in force, what was done and seen, and what is offered from here.</summary>
public sealed record JobRun(PlanOfRecord? InForce, RunGround? Ground, RunState State, IReadOnlyList<Told> Log, Offer? Offer)
{
    /// <summary>The plan from here, offered or not: with the tests that must be made again. Null while nothing has changed since the plan in force.</summary>
    public Plan? Here { get; init; }

    public static JobRun None { get; } = new(null, null, RunState.Start, [], null);

    /// <summary>The log folded: what is wet, who works where, what stands still.</summary>
    public LiveState Live { get; init; } = LiveState.Start;

    /// <summary>Number of the newest entry, taken back or not; 0 = none.</summary>
    public int Last => Live.Number;

    /// <summary>Rounds of a step that are done: on the zone with the fewest, and on the one with the most.</summary>
    public (int Least, int Most) Done(Step step)
    {
        var done = step.Zones.Select(z => State.Of(z).Steps.GetValueOrDefault(step.Key).Done).ToArray();
        return done.Length == 0 ? (0, 0) : (done.Min(), done.Max());
    }

    /// <summary>Is a step done on all its zones as planned, or ended before by what was seen?</summary>
    public bool IsDone(Step step) => step.Zones.Count > 0 && step.Zones.All(z => IsDone(step, z));

    /// <summary>Is a step done on one of its zones?</summary>
    public bool IsDone(Step step, string zone) =>
        State.Of(zone) is var run
        && run.Steps.GetValueOrDefault(step.Key).Done is var done
        && (
            done >= step.RoundsOn(zone) || (step.Until is { } u && done > 0 && u.Stop.Contains(run.Seen.GetValueOrDefault(u.Observe) ?? ""))
        );

    /// <summary>What must be looked at again, and why.</summary>
    public IReadOnlyList<AskLine> Ask =>
        [
            .. State
                .Zones.OrderBy(z => z.Key, StringComparer.Ordinal)
                .SelectMany(z => z.Value.Again.Values.Select(a => (Zone: z.Key, a)))
                .GroupBy(x => (x.a.Observe, x.a.Because, Elsewhere: x.a.Surprise is not null))
                .Select(g => new AskLine(g.Key.Observe, g.Key.Because, g.Key.Elsewhere, g.Select(x => x.Zone).ToArray())),
        ];

    /// <summary>Loops somebody has looked at: another round or stop, and why.</summary>
    public IReadOnlyList<LoopEnd> Loops =>
        Ground is null
            ? []
            :
            [
                .. State
                    .Zones.Keys.Order(StringComparer.Ordinal)
                    .Select(Ground.Zone)
                    .OfType<ZoneState>()
                    .SelectMany(z => Core.Running.Loops.Of(State, Ground, z)),
            ];

    /// <summary>The same, zones with the same words together.</summary>
    public IReadOnlyList<(string Words, IReadOnlyList<string> Zones)> Ends =>
        [.. Loops.GroupBy(l => l.Words).Select(g => (g.Key, (IReadOnlyList<string>)g.Select(l => l.Zone).ToArray()))];

    /// <summary>Predictions that failed, and work of treatments that have left the catalogue.</summary>
    public IReadOnlyList<string> Notes =>
        [.. State.Notes, .. State.Zones.OrderBy(z => z.Key, StringComparer.Ordinal).SelectMany(z => z.Value.Failed)];
}

/// <summary>
/// What runs have in memory to answer fast: plans of record with what they stand on, and how far each log is folded. Any instance can make
/// it again from the database; nothing here matters but time.
/// </summary>
public sealed class RunMemory
{
    private const int Most = 64;
    private readonly ConcurrentDictionary<(Guid Job, int Revision), (PlanOfRecord Plan, RunGround Ground)> _plans = new();
    private readonly ConcurrentDictionary<Guid, Folded> _folded = new();
    private readonly ConcurrentDictionary<string, Replan> _offers = new();
    private readonly ConcurrentDictionary<(Guid Job, int Revision, DateTimeOffset From), LiveWindows> _windows = new();

    /// <summary>A log as far as it is folded.</summary>
    /// <param name="Told">What it tells beliefs, in the order in which it happened.</param>
    public sealed record Folded(LiveState Live, RunState State, RunGround? Ground, IReadOnlyList<Told> Told);

    /// <summary>Lets go of a log as it is folded: something of it was not kept after all.</summary>
    public void Forget(Guid job) => _folded.TryRemove(job, out _);

    public async Task<(PlanOfRecord Plan, RunGround Ground)?> PlanAsync(RunStore store, Guid job, int revision, CancellationToken stop)
    {
        if (!_plans.TryGetValue((job, revision), out var known))
        {
            if (await store.PlanAsync(job, revision, stop) is not { } plan)
            {
                return null;
            }

            Trim(_plans);
            known = _plans[(job, revision)] = (plan, new RunGround(plan.Survey));
        }

        return known;
    }

    /// <summary>The state of a run: what is new in its log is folded onto what was folded before.</summary>
    public async Task<Folded> FoldAsync(RunStore store, Guid job, CancellationToken stop)
    {
        var before = _folded.GetValueOrDefault(job) ?? new Folded(LiveState.Start, RunState.Start, null, []);
        var news = await store.LogAsync(job, before.Live.Number, stop: stop);
        if (news.Count == 0)
        {
            return before;
        }

        var live = news.Aggregate(before.Live, Core.Running.Live.Live.Reduce);
        var told = LiveHearsay.Of(live);
        // What was taken back, or came late, was folded already in another order: from the start then.
        var goesOn = before.Told.Select(Id).SequenceEqual(told.Take(before.Told.Count).Select(Id));
        var (state, ground) = goesOn ? (before.State, before.Ground) : (RunState.Start, null);
        foreach (var one in goesOn ? told.Skip(before.Told.Count) : told)
        {
            if (one.Observation.Plan is { } revision && await PlanAsync(store, job, revision, stop) is { } of)
            {
                // The survey of the next plan amends what the run found out so far; it never voids it.
                state = ground is not null && ground != of.Ground ? Run.Amend(state, ground, of.Ground) : state;
                ground = of.Ground;
                state = Run.Fold(state, new RunEntry(of.Ground, of.Plan.Plan, one.Observation));
            }
        }

        Trim(_folded);
        return _folded[job] = new Folded(live, state, ground, told);

        static (Guid, string?) Id(Told t) => (t.Observation.Id, t.Observation.Result);
    }

    /// <summary>How long films may stay by a plan in the hours from a quarter-hour on.</summary>
    public LiveWindows Windows(Guid job, int revision, RunGround ground, DateTimeOffset from, int quarters)
    {
        var key = (job, revision, from);
        if (!_windows.TryGetValue(key, out var known))
        {
            Trim(_windows);
            known = _windows[key] = new LiveWindows(ground, from, quarters);
        }

        return known;
    }

    public Replan Offer(string key, Func<Replan> make)
    {
        Trim(_offers);
        return _offers.GetOrAdd(key, _ => make());
    }

    private static void Trim<TKey, TValue>(ConcurrentDictionary<TKey, TValue> cache)
        where TKey : notnull
    {
        if (cache.Count >= Most)
        {
            cache.Clear();
        }
    }
}

/// <summary>Reads runs, and puts plans in force. Reading writes nothing.</summary>
public sealed class RunBook(RunStore store, RunMemory memory, PlanCache plans, Computing computing)
{
    /// <summary>A run as it stands.</summary>
    /// <param name="now">The job's newest survey with the shop's shelf and kit as they are now.</param>
    public async Task<JobRun> OfAsync(JobView job, Survey now, CancellationToken stop = default)
    {
        if (job.PlanRevision is not { } revision || await memory.PlanAsync(store, job.Id, revision, stop) is not { } force)
        {
            return JobRun.None;
        }

        var folded = await memory.FoldAsync(store, job.Id, stop);
        var state = folded.Ground is { } last && last != force.Ground ? Run.Amend(folded.State, last, force.Ground) : folded.State;
        var (here, offer) = OfferOf(force.Plan, force.Ground, state, folded, now, stop);
        return new JobRun(force.Plan, force.Ground, state, folded.Told, offer) { Here = here, Live = folded.Live };
    }

    /// <summary>The log of a job as it stands.</summary>
    public async Task<LiveState> LiveAsync(Guid job, CancellationToken stop = default) => (await memory.FoldAsync(store, job, stop)).Live;

    /// <summary>The log of a job with every plan it speaks of, and what it tells beliefs, in the order in which it happened.</summary>
    public async Task<(IReadOnlyList<LogEvent> Log, IReadOnlyList<RunEntry> Entries, IReadOnlyDictionary<int, Plan> Plans)> WholeAsync(
        Guid job,
        CancellationToken stop = default
    )
    {
        var log = await store.LogAsync(job, stop: stop);
        var plans = new Dictionary<int, Plan>();
        var grounds = new Dictionary<int, RunGround>();
        foreach (var revision in await store.RevisionsAsync(job, stop))
        {
            if (await memory.PlanAsync(store, job, revision, stop) is { } of)
            {
                (plans[revision], grounds[revision]) = (of.Plan.Plan, of.Ground);
            }
        }

        var told = (await memory.FoldAsync(store, job, stop)).Told;
        return (
            log,
            [
                .. told.Where(t => t.Observation.Plan is { } r && plans.ContainsKey(r))
                    .Select(t => new RunEntry(grounds[t.Observation.Plan!.Value], plans[t.Observation.Plan!.Value], t.Observation)),
            ],
            plans
        );
    }

    /// <summary>Phones of a job that were not heard for a while, by who held them.</summary>
    public async Task<IReadOnlyList<(string Who, DateTimeOffset Heard)>> AwayAsync(
        Guid job,
        IReadOnlyDictionary<string, string> names,
        CancellationToken stop = default
    )
    {
        var now = await store.NowAsync(stop);
        return
        [
            .. (await store.PhonesAsync(job, stop))
                .Where(p => now - p.Heard.ToUnixTimeMilliseconds() > Bay.BayDesk.AwayMs)
                .Select(p => (names.GetValueOrDefault(p.Who, p.Who), p.Heard)),
        ];
    }

    /// <summary>The first plan that was in force: what the job was planned to take. Null while none was.</summary>
    public async Task<Plan?> FirstAsync(JobView job, CancellationToken stop = default) =>
        await store.RevisionsAsync(job.Id, stop) is [var first, ..] && await memory.PlanAsync(store, job.Id, first, stop) is { } of
            ? of.Plan.Plan
            : null;

    /// <summary>Writes observations down, each if it is one of the plan it speaks of.</summary>
    /// <returns>What became of each, with what is wrong where it was refused.</returns>
    public async Task<IReadOnlyList<(Taken Taken, IReadOnlyList<Problem> Problems)>> AppendAsync(
        JobView job,
        IReadOnlyList<Observation> observations,
        string author,
        CancellationToken stop = default
    )
    {
        var answers = new (Taken, IReadOnlyList<Problem>)[observations.Count];
        var good = new List<(int At, LogEvent Entry)>();
        var live = (await memory.FoldAsync(store, job.Id, stop)).Live;
        for (var i = 0; i < observations.Count; i++)
        {
            var o = observations[i];
            var plan = o.Plan is { } revision ? await memory.PlanAsync(store, job.Id, revision, stop) : null;
            IReadOnlyList<Problem> problems = plan is { } of
                ? ObservationCheck.Check(of.Plan.Plan, o)
                : [new Problem("plan", $"{(o.Plan is null ? "is missing" : $"this job has no plan {o.Plan}")}; put one in force first")];
            var treatment = plan?.Plan.Plan.Steps.FirstOrDefault(s => s.Key == o.StepKey)?.Treatment;
            var entry = LiveHearsay.Entry(o, treatment, author, live.Number);
            if (
                problems.Count == 0
                && o.TakesBack is not null
                && !live.Known.ContainsKey(entry.Id)
                && Core.Running.Live.Live.NotUndone(live, entry) is { } words
            )
            {
                problems = [new Problem("takesBack", words)];
            }

            answers[i] = (Taken.Refused, problems);
            if (problems.Count == 0)
            {
                good.Add((i, entry));
            }
        }

        var taken = good.Count == 0 ? [] : await store.AppendAsync(job.Id, [.. good.Select(g => g.Entry)], stop);
        for (var i = 0; i < good.Count; i++)
        {
            answers[good[i].At] = (taken[i], taken[i] == Taken.Refused ? [new Problem("id", "belongs to an event of another job")] : []);
        }

        if (taken.Contains(Taken.New) && await StandingAsync(job.Id, job.PlanRevision, stop) is { InForce: { } force } standing)
        {
            await store.WorkedAsync(job.Id, force.Plan.Steps.All(standing.IsDone), stop);
        }

        return answers;
    }

    /// <summary>
    /// What follows of entries a phone handed in: films are reckoned anew, and a job whose steps are all done waits to be inspected.
    /// </summary>
    public async Task HeardAsync(Guid job, IReadOnlyList<LogEvent> entries, CancellationToken stop = default)
    {
        await RescaleAsync(job, entries, stop);
        if (
            entries.Any(e => e.Kind.IsNews())
            && await StandingAsync(job, await store.PlanInForceAsync(job, stop), stop) is { InForce: { } force } standing
        )
        {
            await store.WorkedAsync(job, force.Plan.Steps.All(standing.IsDone), stop);
        }
    }

    /// <summary>
    /// What a panel's heat, read with a thermometer, makes of the films that are on: each reckoned anew, and written down for every phone.
    /// </summary>
    private async Task RescaleAsync(Guid job, IReadOnlyList<LogEvent> entries, CancellationToken stop)
    {
        var readings = entries.Where(e => e is { Kind: LogKind.Measured, Body: { What: "panel", Value: not null } }).ToArray();
        if (
            readings.Length == 0
            || await store.PlanInForceAsync(job, stop) is not { } revision
            || await memory.PlanAsync(store, job, revision, stop) is not { } force
        )
        {
            return;
        }

        var live = (await memory.FoldAsync(store, job, stop)).Live;
        var windows = new LiveWindows(force.Ground, DateTimeOffset.FromUnixTimeMilliseconds(await store.NowAsync(stop)), 1);
        var rescaled = readings.SelectMany(r => Rescaling.After(r, live, force.Plan.Plan, windows, revision));
        await store.AppendAsync(job, [.. rescaled], stop);
    }

    /// <summary>What was written of a run was not kept after all.</summary>
    public void Forget(Guid job) => memory.Forget(job);

    /// <summary>Ends a run that was worked live: its totals are frozen, what comes later is told apart.</summary>
    public async Task CloseAsync(Guid job, string author, CancellationToken stop = default)
    {
        var live = (await memory.FoldAsync(store, job, stop)).Live;
        if (live.Started is null)
        {
            return;
        }

        // An owner opened it again meanwhile: its totals are put right, by name.
        var kind = live.Closed is null ? LogKind.Closed : LogKind.Corrected;

        // It says up to where it goes: whatever came meanwhile is in it.
        await store.DecideAsync(
            job,
            Guid.CreateVersion7(),
            head =>
                Task.FromResult<(LogEvent?, string?)>(
                    (
                        new LogEvent("", "", 0, "", 0, head, live.Plan, author, kind)
                        {
                            Body = kind == LogKind.Closed ? new LogBody { UpTo = head } : new LogBody { Reason = "closed again" },
                        },
                        null
                    )
                ),
            stop
        );
    }

    /// <summary>What an entry names that this job does not have; null = nothing.</summary>
    public async Task<string?> UnknownAsync(Guid job, LogBody body, CancellationToken stop = default)
    {
        if (body.Zones.Count == 0 && body.Treatment is null)
        {
            return null;
        }

        if (
            await store.PlanInForceAsync(job, stop) is not { } revision
            || await memory.PlanAsync(store, job, revision, stop) is not { } force
        )
        {
            return "no plan is in force here: nothing can be done by it";
        }

        return body.Zones.FirstOrDefault(z => force.Ground.Zone(Core.Running.Live.Live.ZoneOf(z)) is null) is { } zone
                ? $"zones: '{Shorten(zone)}' is no zone of this vehicle"
            : body.Treatment is { } t && force.Ground.Catalogue.Treatments.All(x => x.Id != t) ? $"treatment: '{Shorten(t)}' is not known"
            : null;

        static string Shorten(string text) => text.Length > 60 ? text[..57] + "..." : text;
    }

    /// <summary>The plan in force with how far it is done, and nothing worked out beyond: for lists of jobs.</summary>
    public async Task<JobRun> StandingAsync(Guid job, int? planRevision, CancellationToken stop = default)
    {
        if (planRevision is not { } revision || await memory.PlanAsync(store, job, revision, stop) is not { } force)
        {
            return JobRun.None;
        }

        var folded = await memory.FoldAsync(store, job, stop);
        return new JobRun(force.Plan, force.Ground, folded.State, folded.Told, null) { Live = folded.Live };
    }

    /// <summary>Puts in force what is offered, or the first plan of a job.</summary>
    /// <param name="hash">Names the plan that was looked at; null = whatever is offered now.</param>
    /// <returns>The revision in force; null when another plan is offered by now, or somebody put one in force meanwhile.</returns>
    public async Task<int?> AcceptAsync(JobView job, Survey now, string? hash, string author, CancellationToken stop = default)
    {
        var run = await OfAsync(job, now, stop);
        if (run is { InForce: { } force, Offer: null })
        {
            return hash is null || hash == HashOf(force.Plan) ? force.Revision : null;
        }

        var plan = run.Offer?.Plan ?? plans.Plan(now, stop);
        if (hash is not null && hash != HashOf(plan))
        {
            return null;
        }

        var taken = await store.AcceptAsync(job.Id, run.InForce?.Revision, plan, now, job.Revision, run.Last, author, stop);
        if (taken is not null && job.Station is "bay" or "inspect" && await StandingAsync(job.Id, taken, stop) is var standing)
        {
            await store.WorkedAsync(job.Id, plan.Steps.All(standing.IsDone), stop);
        }

        return taken;
    }

    /// <summary>Names a plan by everything in it.</summary>
    public static string HashOf(Plan plan) =>
        Hashes.GetValue(plan, of => Convert.ToHexStringLower(SHA256.HashData(PlanFormat.Write(of)))[..24]);

    private static readonly ConditionalWeakTable<Plan, string> Hashes = [];

    private (Plan? Here, Offer? Offer) OfferOf(
        PlanOfRecord force,
        RunGround ground,
        RunState state,
        RunMemory.Folded folded,
        Survey now,
        CancellationToken stop
    )
    {
        var log = folded.Told;
        var since = log.Where(l => l.Observation.Plan == force.Revision).Select(l => l.Observation).ToArray();
        var because = SurveyChange.Of(force.Survey, now).ToList();
        if (folded.Live.News.Any(n => n > force.Number))
        {
            because.Add("what was done and seen");
        }

        if (because.Count == 0)
        {
            return (null, null);
        }

        // Whoever takes a step or lays something on changes nothing that is planned from: only what was done, seen or taken back does.
        var news = $"{folded.Live.News.LastOrDefault()}/{folded.Live.News.Length}/{folded.Live.Undone.Count}";
        var key = $"{force.Revision}/{force.Plan.SurveyHash}/{news}/{SurveyFormat.Hash(now)}";
        var replan = memory.Offer(key, () => computing.Run(
                "offer " + key,
                _ =>
                {
                    var here = new RunGround(now);
                    return Replanner.From(here, force.Plan, Run.Amend(state, ground, here), since);
                },
                stop
            ));
        var rests = force.Plan.ReferOnly == replan.Plan.ReferOnly && force.Plan.Goal == replan.Plan.Goal;
        return (
            replan.Plan,
            replan.Changes.Count == 0 && rests ? null : new Offer(replan.Plan, now, because, replan.Changes, HashOf(replan.Plan))
        );
    }
}
