using System.Globalization;
using System.Text.Json;
using Ical.Net.CalendarComponents;
using Ical.Net.DataTypes;
using Ical.Net.Serialization;
using ToughStart.Core.Conditions;
using ToughStart.Core.Costing;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Running;
using ToughStart.Core.Running.Live;
using ToughStart.Core.Vehicles;
using ToughStart.Data;
using ToughStart.Scheduling;

namespace ToughStart.Web.Stations;

/// <summary>Somebody on a job, from which minute of the day to which.</summary>
/// <param name="Id">Staff id, or "helper-1" for a lent hand.</param>
public sealed record CrewMember(string Id, int From, int To);

/// <summary>Who is on a job and what was moved by hand, as it is kept.</summary>
/// <param name="Start">Minute of the day at which work begins.</param>
/// <param name="Pins">Starts of tasks, s from there.</param>
/// <param name="Cut">The cut the pins were set in; null = none is set.</param>
public sealed record CrewDoc(int Start, IReadOnlyList<CrewMember> People, IReadOnlyDictionary<string, int> Pins, string? Cut);

/// <summary>A job laid out in time, or why it cannot be.</summary>
/// <param name="Day">The day it begins.</param>
/// <param name="Finish">As such jobs scatter: one in ten, nine in ten, s.</param>
public sealed record TimelineView(
    CrewDoc Doc,
    int Revision,
    DateTimeOffset Day,
    IReadOnlyDictionary<string, string> Names,
    Layout? Layout,
    (int Low, int High) Finish,
    string? Why
)
{
    public DateTimeOffset Begin => Day.AddMinutes(Doc.Start);

    /// <summary>How far the work is; null = it has not begun.</summary>
    public SoFar? SoFar { get; init; }

    /// <summary>How all of it was laid out, where only what is left is shown.</summary>
    public Layout? Whole { get; init; }

    /// <summary>Films that lie and that nobody can be at in time.</summary>
    public IReadOnlyList<LateFilm> Late => Layout?.Schedule.Late ?? [];

    /// <summary>A moment of the timeline by the clock on the wall.</summary>
    public string Clock(int seconds) =>
        Begin.AddSeconds(seconds) is var at && at.Date > Day.Date
            ? at.ToString("ddd HH:mm", CultureInfo.InvariantCulture)
            : at.ToString("HH:mm", CultureInfo.InvariantCulture);
}

/// <summary>A step that is somebody's by the timeline, from when to when, ms since 1970.</summary>
public sealed record Turn(string Step, string Who, long From, long To);

/// <summary>A film that lies and that nobody can be at in time.</summary>
/// <param name="By">When it must be rinsed, ms since 1970.</param>
/// <param name="Seconds">How much later somebody can be there.</param>
/// <param name="Who">Who that is.</param>
public sealed record LateTurn(string Step, IReadOnlyList<string> Zones, long By, int Seconds, string Who, string Words);

/// <summary>What a timeline says to the Bay.</summary>
/// <param name="Due">As it was laid out: what lateness is measured by.</param>
/// <param name="Next">As it stands: who does what from here.</param>
public sealed record Turns(IReadOnlyList<Turn> Due, IReadOnlyList<Turn> Next, IReadOnlyList<LateTurn> Late);

/// <summary>Lays jobs out in time with the people, hours and machines of the shop.</summary>
public sealed class TimelineDesk(
    CrewStore people,
    QuoteStore store,
    RunStore runs,
    Workshop workshop,
    Computing computing,
    TimelineCache cache,
    ShopClock clock
)
{
    /// <summary>Most people on one vehicle; more stand in each other's way.</summary>
    public const int MostPeople = 6;

    /// <summary>How long a better order is looked for, in the solver's own seconds.</summary>
    private const double Look = 1;

    private const int DayMinutes = 24 * 60;

    /// <summary>How a job stands laid out.</summary>
    /// <param name="better">Look longer for a better order, and for how early any order can end.</param>
    public async Task<TimelineView> OfAsync(JobView job, Plan plan, bool better, CancellationToken stop)
    {
        var (doc, revision) = await DocAsync(job, stop);
        return await OfAsync(job, plan, doc, revision, stop, better);
    }

    /// <summary>
    /// What the timeline gives whom, step by step, where somebody laid the job out; null = nobody has, or it cannot be worked so.
    /// </summary>
    public async Task<Turns?> TurnsAsync(JobView job, Plan plan, JobRun run, CancellationToken stop)
    {
        if (plan.ReferOnly || await store.CrewAsync(job.Id, stop) is null)
        {
            return null;
        }

        if (await HereAsync(job, run, 0, false, stop) is { Layout: { } here, Whole: { } whole } view)
        {
            return new(TurnsOf(view, whole), TurnsOf(view, here), LateOf(view, plan));
        }

        return await OfAsync(job, plan, false, stop) is { Layout: { } layout } laid && TurnsOf(laid, layout) is var turns
            ? new(turns, turns, [])
            : null;
    }

    private static IReadOnlyList<Turn> TurnsOf(TimelineView view, Layout layout)
    {
        var begin = view.Begin.ToUnixTimeMilliseconds();
        var steps = layout
            .Instance.Tasks.Where(t => t.Part is not (Part.Mix or Part.Test) && !layout.Instance.Begun.ContainsKey(t.Key))
            .ToDictionary(t => t.Key, t => t.Step);
        return
        [
            .. layout
                .Schedule.Tasks.Where(p => steps.ContainsKey(p.Key))
                .GroupBy(p => (Step: steps[p.Key], p.Who))
                .Select(g => new Turn(g.Key.Step, g.Key.Who, begin + (1000L * g.Min(p => p.Start)), begin + (1000L * g.Max(p => p.End))))
                .OrderBy(t => t.From),
        ];
    }

    /// <summary>
    /// Films that dry before anybody can be at them: by how much, who is nearest, and what helps. What the same person comes late to in the
    /// same step is one.
    /// </summary>
    public static IReadOnlyList<LateTurn> LateOf(TimelineView view, Plan plan)
    {
        if (view is not { Layout: { } here, SoFar: { } soFar })
        {
            return [];
        }

        var tasks = here.Instance.Tasks.ToDictionary(t => t.Key);
        var at = here.Schedule.Tasks.ToDictionary(p => p.Key, p => p.Start);
        return
        [
            .. view
                .Late.GroupBy(l => (tasks[l.Off].Step, l.Who))
                .Select(g =>
                {
                    string[] zones = [.. g.SelectMany(l => tasks[l.Off].Zones).Distinct()];
                    var (by, late) = (g.Min(l => at[l.Off] - l.Seconds), g.Max(l => l.Seconds));
                    var step = plan.Steps.FirstOrDefault(s => s.Key == g.Key.Step);
                    var name = view.Names.GetValueOrDefault(g.Key.Who, g.Key.Who);
                    var words =
                        $"{step?.AgentName.Capital() ?? g.Key.Step} on {Core.Vehicles.ZoneWords.Of(zones, 46)} "
                        + (
                            by <= soFar.Now
                                ? $"should be off since {view.Clock(by)}. {name} is nearest: rinse it first, or mist it."
                                : $"must be off by {view.Clock(by)}. {name} is nearest and comes {Span(late)} too late: mist it now, or leave what is in hand."
                        );
                    return new LateTurn(g.Key.Step, zones, view.Begin.AddSeconds(by).ToUnixTimeMilliseconds(), late, g.Key.Who, words);
                })
                .OrderBy(l => l.By),
        ];
    }

    private static string Span(int seconds) => seconds < 60 ? $"{seconds} s" : $"{Math.Ceiling(seconds / 60.0):0} min";

    /// <summary>
    /// What is left of a run that is under way, from this moment; null = it is not under way, or is over. What is done is behind, what lies
    /// has its own time, and whoever stands somewhere starts from there.
    /// </summary>
    /// <param name="tries">0 = only in the order that stood.</param>
    /// <param name="with">Who would be on it; null = who is.</param>
    public async Task<TimelineView?> HereAsync(
        JobView job,
        JobRun run,
        int tries,
        bool better,
        CancellationToken stop,
        CrewDoc? with = null
    )
    {
        if (run is not { InForce.Plan: { ReferOnly: false } plan, Live: { Started: not null, Closed: null } live })
        {
            return null;
        }

        var (said, revision) = await DocAsync(job, stop);
        var kept = with ?? said;
        if (kept.People.Count == 0)
        {
            return null;
        }

        var begun = (await runs.LogAsync(job.Id, 0, FirstEntries, stop)).FirstOrDefault(e => e.Kind == LogKind.Started)?.When.At;
        var now = DateTimeOffset.FromUnixTimeMilliseconds(await runs.NowAsync(stop)).ToOffset(clock.Local.Offset);
        var from = begun is { } b ? DateTimeOffset.FromUnixTimeMilliseconds(b).ToOffset(now.Offset) : now;
        // What goes on from another day begins today when the first of them comes.
        var start = from.Date == now.Date ? (int)from.TimeOfDay.TotalMinutes : Math.Min(kept.People.Min(p => p.From), Minute(now));
        var doc = kept with
        {
            Start = start,
            Pins = kept.Pins.ToDictionary(p => p.Key, p => Math.Max(0, p.Value + (60 * (kept.Start - start)))),
        };
        var day = new DateTimeOffset(now.Date, now.Offset);
        var whole = await OfAsync(job, plan, doc, revision, stop, day: day);
        if (whole.Layout is not { } laid)
        {
            return whole;
        }

        var ground = await GroundAsync(job, doc, day, stop);
        var soFar = SoFarOf(plan, ground.Vehicle, run, whole.Begin.ToUnixTimeMilliseconds(), now.ToUnixTimeMilliseconds());
        try
        {
            var windows = laid.Warning is null ? ground.Windows() : null;
            var here = Layout.FromHere(plan, ground.Vehicle, ground.Crew, ground.Machines, soFar, laid, doc.Pins, windows, tries, stop);
            here = better && here.Instance.Tasks.Count > 0 ? here.Bettered(Look, stop) : here;
            return View(job, plan, doc, revision, ground, here, null, soFar) with { SoFar = soFar, Whole = laid };
        }
        catch (CannotScheduleException e)
        {
            return whole with { Layout = null, Why = Words(plan, e), SoFar = soFar, Whole = laid };
        }
    }

    /// <summary>Entries among which the beginning of a run is looked for.</summary>
    private const int FirstEntries = 20;

    private static int Minute(DateTimeOffset at) => (int)at.TimeOfDay.TotalMinutes;

    /// <summary>How far a run is, in seconds from the beginning of its timeline.</summary>
    private static SoFar SoFarOf(Plan plan, Vehicle vehicle, JobRun run, long begin, long now)
    {
        int Seconds(long ms) => (int)Math.Clamp((ms - begin) / 1000, -Far, Far);
        var lines = run
            .Live.Zones.SelectMany(z =>
                z.Value.Lines.SelectMany(t => t.Value.Select(l => (Zone: Live.ZoneOf(z.Key), Treatment: t.Key, Line: l)))
            )
            .Select(x => (x.Zone, x.Line, Step: StepOf(x.Line, x.Treatment, x.Zone)))
            .Where(x => x.Step is not null)
            .Select(x => (x.Zone, x.Line, Step: x.Step!))
            .ToArray();
        var under = lines.Where(x => x.Step.Under).Select(x => (x.Step.Key, x.Zone)).ToHashSet();
        var skipped = run.Live.Zones.SelectMany(z => z.Value.Skipped.Keys.Select(s => (s, Live.ZoneOf(z.Key)))).ToHashSet();
        return new(
            Math.Max(0, Seconds(now)),
            (step, zone) =>
                skipped.Contains((step.Key, zone)) || run.IsDone(step, zone)
                    ? int.MaxValue
                    : run.State.Of(zone).Steps.GetValueOrDefault(step.Key).Done + (under.Contains((step.Key, zone)) ? 1 : 0),
            [
                .. lines
                    .Where(x => !x.Step.Under)
                    .Select(x => new Lying(
                        x.Step.Key,
                        x.Zone,
                        Math.Clamp(x.Line.Round, 1, Math.Max(1, x.Step.RoundsOn(x.Zone))),
                        Seconds(x.Line.First),
                        Seconds(x.Line.Start + x.Line.Dwell),
                        Seconds(x.Line.RinseBy),
                        x.Line.Who
                    )),
            ],
            t => t.Zones.All(z => run.State.Of(z).Seen.GetValueOrDefault(t.Test) is { } seen && seen != Observation.Inconclusive),
            run.Live.Crew.Where(c => c.Value.Zones.Count > 0 && vehicle.Zones.Any(z => z.Id == Live.ZoneOf(c.Value.Zones[0])))
                .ToDictionary(c => c.Key, c => PlanTasks.PlaceOf(vehicle, Live.ZoneOf(c.Value.Zones[0])))
        );

        Step? StepOf(LiveLine line, string treatment, string zone) =>
            (run.Live.Entries.GetValueOrDefault(line.Id)?.Body.Step is { } key ? plan.Steps.FirstOrDefault(s => s.Key == key) : null)
            ?? plan.Steps.FirstOrDefault(s => s.Treatment == treatment && s.Zones.Contains(zone));
    }

    /// <summary>A moment so far off that nothing waits for it, s.</summary>
    private const int Far = 200_000;

    /// <summary>The same with another crew or other pins.</summary>
    /// <param name="day">The day it is worked; null = the one it is planned for.</param>
    public async Task<TimelineView> OfAsync(
        JobView job,
        Plan plan,
        CrewDoc doc,
        int revision,
        CancellationToken stop,
        bool better = false,
        DateTimeOffset? day = null
    )
    {
        var ground = await GroundAsync(job, doc, day, stop);
        var key =
            $"{RunBook.HashOf(plan)} {JsonSerializer.Serialize(doc)} {JsonSerializer.Serialize(ground.Crew)} {ground.Machines} {ground.Weather}";
        var view = View(job, plan, doc, revision, ground, null, null);
        if (doc.People.Count == 0)
        {
            return view with { Why = "Nobody is on this job: put somebody on it." };
        }

        try
        {
            var layout = cache.Known(key, () =>
                computing.Run(
                    "timeline " + key,
                    effort => Layout.Of(plan, ground.Vehicle, ground.Crew, ground.Machines, doc.Pins, CutOf(doc), stop: effort.Stop),
                    stop
                )
            );
            if (better && layout.Bound is null)
            {
                layout = cache.Keep(key, computing.Run("better " + key, effort => layout.Bettered(Look, effort.Stop), stop));
            }

            return View(job, plan, doc, revision, ground, layout, null);
        }
        catch (CannotScheduleException e)
        {
            return view with { Why = Words(plan, e) };
        }
    }

    /// <summary>With its finish in the worlds the plan may meet, laid out one by one; as it is where the plan has none.</summary>
    public async Task<TimelineView> RangedAsync(JobView job, Plan plan, TimelineView view, CancellationToken stop)
    {
        if (view.Layout is not { } layout || plan.Worlds is null)
        {
            return view;
        }

        var ground = await GroundAsync(job, view.Doc, view.SoFar is null ? null : view.Day, stop);
        var windows = (view.Whole ?? layout).Warning is null ? ground.Windows() : null;
        var key =
            $"{RunBook.HashOf(plan)} {JsonSerializer.Serialize(view.Doc)} {view.SoFar?.Now} {layout.Schedule.Finish} "
            + string.Join(' ', layout.Schedule.Tasks.Select(t => $"{t.Key}{t.Who}{t.Start}"));
        var range = cache.Range(key, () =>
            computing.Run(
                "finish " + key,
                effort => FinishRange.Of(plan, ground.Vehicle, layout, windows, view.SoFar, stop: effort.Stop) ?? view.Finish,
                stop
            )
        );
        return view with { Finish = range };
    }

    /// <summary>At once, in the order that stood: what was moved moves, and what has to gives way.</summary>
    public async Task<TimelineView> AtOnceAsync(JobView job, Plan plan, TimelineView before, CrewDoc doc, CancellationToken stop)
    {
        var then = await MovedAsync(job, plan, before, doc, stop);
        // How far it scatters is worked out behind; until then it scatters as it did.
        var by = then.Layout is { } now && before.Layout is { } was ? now.Schedule.Finish - was.Schedule.Finish : 0;
        return then with { Finish = (before.Finish.Low + by, before.Finish.High + by) };
    }

    private async Task<TimelineView> MovedAsync(JobView job, Plan plan, TimelineView before, CrewDoc doc, CancellationToken stop)
    {
        var ground = await GroundAsync(job, doc, before.SoFar is null ? null : before.Day, stop);
        if (before.Layout is not { } was)
        {
            return await OfAsync(job, plan, doc, before.Revision, stop);
        }

        var windows = was.Warning is null ? ground.Windows() : null;
        if (before is { SoFar: { } soFar, Whole: { } whole })
        {
            try
            {
                var ordered = whole with { Schedule = was.Schedule };
                var here = Layout.FromHere(
                    plan,
                    ground.Vehicle,
                    ground.Crew,
                    ground.Machines,
                    soFar,
                    ordered,
                    doc.Pins,
                    windows,
                    stop: stop
                );
                return View(job, plan, doc, before.Revision, ground, here, null, soFar) with { SoFar = soFar, Whole = whole };
            }
            catch (CannotScheduleException e)
            {
                return View(job, plan, doc, before.Revision, ground, null, Words(plan, e));
            }
        }

        var instance = Layout.Pinned(PlanTasks.Of(plan, ground.Vehicle, ground.Crew, ground.Machines, was.Grouping, windows), doc.Pins);
        try
        {
            Schedule made;
            try
            {
                made = new Greedy(instance).Repeat(was.Schedule, stop);
            }
            catch (CannotScheduleException)
            {
                made = new Greedy(instance).Solve(12, stop);
            }

            return View(job, plan, doc, before.Revision, ground, new(was.Grouping, instance, made, was.Beside), null);
        }
        catch (CannotScheduleException e)
        {
            return View(job, plan, doc, before.Revision, ground, null, Words(plan, e));
        }
    }

    /// <summary>Keeps who is on a job and what was moved.</summary>
    public Task<bool> KeepAsync(JobView job, int seen, CrewDoc doc, string author, CancellationToken stop) =>
        store.CrewAsync(job.Id, seen, JsonSerializer.Serialize(doc), author, stop);

    /// <summary>By the hours of the sun; where some film then fits nowhere, as at the plan's start, and that is said.</summary>
    private static Layout LaidOut(JobView job, Plan plan, CrewDoc doc, Ground ground, CancellationToken stop)
    {
        try
        {
            return Layout.Of(plan, ground.Vehicle, ground.Crew, ground.Machines, doc.Pins, CutOf(doc), ground.Windows(), stop: stop);
        }
        catch (CannotScheduleException e) when (ground.Windows() is not null)
        {
            return Layout.Of(plan, ground.Vehicle, ground.Crew, ground.Machines, doc.Pins, CutOf(doc), stop: stop) with
            {
                Warning =
                    $"Later in the day the sun leaves no time for this: {Words(plan, e)} Laid out as dry as it is at the start: look at the Day.",
            };
        }
    }

    /// <summary>Quarter-hours of a day's work that are told apart.</summary>
    private const int Quarters = 48;

    private static Grouping? CutOf(CrewDoc doc) => Enum.TryParse<Grouping>(doc.Cut, out var cut) ? cut : null;

    private static string Words(Plan plan, CannotScheduleException e)
    {
        var step = plan.Steps.FirstOrDefault(s => e.Task.StartsWith(s.Key, StringComparison.Ordinal));
        return $"{step?.Name ?? e.Task}: {e.Message[(e.Message.IndexOf(": ", StringComparison.Ordinal) + 2)..]}.";
    }

    private sealed record Ground(
        Vehicle Vehicle,
        IReadOnlyList<Person> Crew,
        Machines Machines,
        IReadOnlyDictionary<string, string> Names,
        DateTimeOffset Day
    )
    {
        /// <summary>Names the sun and air it was asked for.</summary>
        public required string Weather { get; init; }

        /// <summary>
        /// How long films stay wet by the quarter-hour, worked out when it is asked for; null where drying is not computed.
        /// </summary>
        public required Func<LiveWindows?> Windows { get; init; }
    }

    private async Task<Ground> GroundAsync(JobView job, CrewDoc doc, DateTimeOffset? on, CancellationToken stop)
    {
        var staff = (await people.WorkersAsync(stop)).ToDictionary(s => s.StaffId);
        var (washers, ladders, _) = await people.MachinesAsync(stop);
        var names = doc.People.ToDictionary(p => p.Id, p => NameOf(p.Id, staff.GetValueOrDefault(p.Id)?.DisplayName));
        var equipped = await workshop.EquipAsync(job.Survey, job.Id, stop: stop);
        var (day, computed) = (on ?? DayOf(job), SiteConditions.StartOf(job.Survey.Site).Start is not null);
        var weather = $"{SurveyFormat.Hash(equipped)} {day:o} {doc.Start}";
        return new(
            Forms.Build(job.Survey.Vehicle.Form, job.Survey.Vehicle.Size),
            [.. doc.People.Select(p => PersonOf(p, doc.Start, staff.GetValueOrDefault(p.Id)))],
            new(washers, ladders),
            names,
            day
        )
        {
            Weather = weather,
            Windows = () =>
                computed ? cache.Windows(weather, () => new(new RunGround(equipped), day.AddMinutes(doc.Start), Quarters)) : null,
        };
    }

    /// <summary>What somebody is called; a lent hand by its number.</summary>
    public static string NameOf(string id, string? name) => name ?? id.Replace("helper-", "Helper ", StringComparison.Ordinal);

    /// <summary>Hours as seconds from the start of the work, today and on the two days after.</summary>
    private static Person PersonOf(CrewMember member, int start, StaffUser? staff)
    {
        var shifts = Enumerable
            .Range(0, Days)
            .Select(d => new Stretch(
                60 * ((d * DayMinutes) + (d == 0 ? member.From : staff?.WorksFrom ?? member.From) - start),
                60 * ((d * DayMinutes) + (d == 0 ? member.To : staff?.WorksTo ?? member.To) - start)
            ))
            .Select(s => new Stretch(Math.Max(0, s.From), s.To))
            .Where(s => s.Length > 0)
            .ToArray();
        var (rest, from, to) = (60 * (staff?.Break ?? 0), 60 * ((staff?.BreakFrom ?? 0) - start), 60 * ((staff?.BreakTo ?? 0) - start));
        // What could be taken whole before the work began was taken.
        var taken = from + rest <= 0;
        from = Math.Max(0, from);
        // On later days it stands at the beginning of its span.
        var later = Enumerable
            .Range(1, Days - 1)
            .Select(d => 60 * ((d * DayMinutes) + (staff?.BreakFrom ?? 0) - start))
            .Where(_ => rest > 0)
            .Select(at => new Stretch(at, at + rest));
        return new(member.Id, staff?.Skills ?? [], shifts, [.. later])
        {
            Rest = rest > 0 && !taken && to - from >= rest ? new Rest(rest, from, to) : null,
        };
    }

    private const int Days = 3;

    private DateTimeOffset DayOf(JobView job) =>
        SiteConditions.StartOf(job.Survey.Site).Start is { } start
            ? new DateTimeOffset(start.Date, start.Offset)
            : new DateTimeOffset(job.Day.ToDateTime(TimeOnly.MinValue), clock.Local.Offset);

    /// <summary>What somebody has said, or what is taken until they do: as many people as the survey says, at their hours.</summary>
    private async Task<(CrewDoc, int)> DocAsync(JobView job, CancellationToken stop)
    {
        if (await store.CrewAsync(job.Id, stop) is { } kept && JsonSerializer.Deserialize<CrewDoc>(kept.Body) is { } doc)
        {
            return (doc, kept.Revision);
        }

        var workers = await people.WorkersAsync(stop);
        var start = SiteConditions.StartOf(job.Survey.Site).Start is { } at
            ? (int)at.TimeOfDay.TotalMinutes
            : workers.Select(w => w.WorksFrom).DefaultIfEmpty(480).Min();
        var many = Math.Clamp(job.Survey.Crew, 1, MostPeople);
        var on = workers.Where(w => w.WorksTo > start).Take(many).Select(w => new CrewMember(w.StaffId, w.WorksFrom, w.WorksTo)).ToList();
        for (var n = 1; on.Count < many; n++)
        {
            on.Add(new($"helper-{n}", start, Math.Max(start + 60, 17 * 60)));
        }

        return (new(start, on, new Dictionary<string, int>(), null), 0);
    }

    private static TimelineView View(
        JobView job,
        Plan plan,
        CrewDoc doc,
        int revision,
        Ground ground,
        Layout? layout,
        string? why,
        SoFar? soFar = null
    )
    {
        var finish = layout?.Schedule.Finish ?? 0;
        // How far such jobs scatter about the plan by their own quick clock, until somebody asks for more: see RangedAsync.
        var crew = Math.Max(1, job.Survey.Crew);
        var tests = plan.Tests.Where(TestWorth.Made).Sum(t => TestWorth.Minutes(t.Zones.Count, Core.Provenance.Catalogue.Default));
        var still = CrewClock.Of(plan.Steps, crew) + (tests / crew);
        // What is behind scatters no more.
        var now = soFar?.Now ?? 0;
        int At(double minutes) => still <= 0 ? finish : now + (int)((finish - now) * minutes / still);
        var (low, high) = (At(plan.Totals.ElapsedMinutes.Low), At(plan.Totals.ElapsedMinutes.High));
        return new(doc, revision, ground.Day, ground.Names, layout, (low, high), why);
    }

    /// <summary>Who does what when, for calendars: one entry for each person and step.</summary>
    public static string Calendar(TimelineView view, Plan plan, JobView job, DateTimeOffset now)
    {
        var calendar = new Ical.Net.Calendar { ProductId = "-//Tough Start//timeline//EN" };
        var tasks = view.Layout!.Instance.Tasks.ToDictionary(t => t.Key);
        // What was laid on already is nobody's appointment.
        var coming = view.Layout.Schedule.Tasks.Where(p => !view.Layout.Instance.Begun.ContainsKey(p.Key));
        foreach (var own in coming.GroupBy(p => (p.Who, tasks[p.Key].Step)))
        {
            // Work of one step that hangs together is one entry.
            var runs = new List<(int From, int To)>();
            foreach (var p in own.OrderBy(p => p.Start))
            {
                if (runs.Count > 0 && p.Start - runs[^1].To <= Together)
                {
                    runs[^1] = (runs[^1].From, Math.Max(runs[^1].To, p.End));
                }
                else
                {
                    runs.Add((p.Start, p.End));
                }
            }

            foreach (var (from, to) in runs)
            {
                calendar.Events.Add(
                    new CalendarEvent
                    {
                        Uid = $"{job.Id:N}-{own.Key.Who}-{DrawNumbers.Name(own.Key.Step):x}-{from}@tough-start",
                        Summary = $"{TaskWords.Of(plan, tasks[own.First().Key])}, {job.Vehicle} ({view.Names[own.Key.Who]})",
                        DtStart = new CalDateTime(view.Begin.AddSeconds(from).UtcDateTime),
                        DtEnd = new CalDateTime(view.Begin.AddSeconds(Math.Max(to, from + 60)).UtcDateTime),
                        DtStamp = new CalDateTime(now.UtcDateTime),
                    }
                );
            }
        }

        return new CalendarSerializer().SerializeToString(calendar)!;
    }

    private const int Together = 600;
}

/// <summary>Layouts that were asked for last.</summary>
public sealed class TimelineCache
{
    private readonly Recent<Layout> _layouts = new(64);

    private readonly Recent<VehicleModes> _modes = new(256);

    /// <summary>How long a vehicle takes by so many people, and when it may begin; null = nobody has asked.</summary>
    public VehicleModes? Modes(string key) => _modes.Find(key);

    public void KeepModes(string key, VehicleModes modes) => _modes.Keep(key, modes);

    private readonly Recent<LiveWindows> _windows = new(64);

    public LiveWindows Windows(string key, Func<LiveWindows> make) => _windows.Find(key) ?? _windows.Keep(key, make());

    public Layout Keep(string key, Layout layout) => _layouts.Keep(key, layout);

    private readonly Recent<FinishBetween> _ranges = new(64);

    public (int Low, int High) Range(string key, Func<(int Low, int High)> make)
    {
        var range = _ranges.Find(key) ?? _ranges.Keep(key, new(make()));
        return range.Seconds;
    }

    private sealed record FinishBetween((int Low, int High) Seconds);

    public Layout Known(string key, Func<Layout> make) => _layouts.Find(key) ?? _layouts.Keep(key, make());
}
