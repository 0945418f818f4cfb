using System.Globalization;
using System.Text.Json;
using ToughStart.Core.Conditions;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Vehicles;
using ToughStart.Data;
using ToughStart.Scheduling;

namespace ToughStart.Web.Stations;

/// <summary>A vehicle that waits, and what is known of how long it takes.</summary>
/// <param name="Modes">Empty = not worked out yet, or it cannot be.</param>
/// <param name="Why">Why it is in no day; null = it is.</param>
public sealed record WaitingVehicle(JobLine Job, VehicleModes Modes, string? Why)
{
    public bool Etches => Job.UrgentSince is not null;
}

/// <summary>How a vehicle can be worked.</summary>
/// <param name="Ways">By how many; empty = not worked out yet, or it cannot be.</param>
/// <param name="Day">The day whose air is known; null = none is.</param>
/// <param name="Begins">When it may begin on that day, s from midnight: its films stay wet long enough then.</param>
/// <param name="Layouts">How it is laid out by itself, by people.</param>
public sealed record VehicleModes(
    IReadOnlyList<YardMode> Ways,
    DateOnly? Day,
    IReadOnlyList<Stretch> Begins,
    IReadOnlyDictionary<int, Layout> Layouts
)
{
    public static VehicleModes None { get; } = new([], null, [], new Dictionary<int, Layout>());
}

/// <summary>The days ahead: which vehicle when, by how many.</summary>
public sealed record DaysView(
    DateOnly First,
    WorkingTime Time,
    int Now,
    IReadOnlyList<WaitingVehicle> Vehicles,
    IReadOnlyList<YardSlot> Slots,
    YardRoom Room,
    IReadOnlyDictionary<int, int> Pins,
    string? Why
)
{
    /// <summary>A moment of working time by day and clock.</summary>
    public string Clock(int worked) => Moment(worked).ToString("ddd HH:mm", CultureInfo.InvariantCulture);

    /// <summary>A moment of working time.</summary>
    public DateTimeOffset Moment(int worked) =>
        new DateTimeOffset(First.ToDateTime(TimeOnly.MinValue), Offset).AddSeconds(Time.Clock(worked));

    /// <summary>Who is on a vehicle, by number; what could not be laid out task by task is not in it.</summary>
    public IReadOnlyDictionary<int, IReadOnlyList<string>> Who { get; init; } = new Dictionary<int, IReadOnlyList<string>>();

    /// <summary>The shop's, from Greenwich.</summary>
    public TimeSpan Offset { get; init; }

    /// <summary>What the air of its day says against a start; null = nothing, or nothing is known of that day.</summary>
    public string? Fit(WaitingVehicle v, int worked)
    {
        var at = Time.Clock(worked);
        return
            v.Modes.Begins.Count == 0
            || v.Modes.Day is not { } day
            || day.DayNumber - First.DayNumber != at / 86_400
            || v.Modes.Begins.Any(b => b.From <= at % 86_400 && at % 86_400 < b.To)
            ? null
            : "films would dry too soon: begin "
                + string.Join(" or ", v.Modes.Begins.Take(3).Select(b => $"{Time24(b.From)} to {Time24(b.To)}"));
    }

    private static string Time24(int seconds) => FormattableString.Invariant($"{seconds / 3600:00}:{seconds / 60 % 60:00}");
}

/// <summary>Shares people and bays out over the vehicles that wait.</summary>
public sealed class DaysDesk(
    JobStore jobs,
    Workshop workshop,
    RunBook runs,
    CrewStore crew,
    TimelineCache cache,
    Computing computing,
    ShopClock clock
)
{
    /// <summary>Days that are drawn, vehicles that are laid out at once, people on one of them.</summary>
    public const int Days = 5,
        MostVehicles = 12,
        MostPeople = 3;

    private const int DaySeconds = 86_400,
        PressesFor = 24 * 3600;

    private const int Etching = 5,
        Promised = 3,
        Booked = 1;

    /// <summary>A start at which so much less of the work fits its windows than at the best is not begun at.</summary>
    private const double Worse = 0.1;

    private const int QuarterSeconds = 900;

    /// <summary>A day and a time by the shop's clock.</summary>
    public DateTimeOffset Moment(DateTime said) => new(DateTime.SpecifyKind(said, DateTimeKind.Unspecified), clock.Local.Offset);

    public async Task<IReadOnlyList<JobLine>> WaitingAsync(CancellationToken stop) =>
        [.. (await jobs.YardAsync(clock.Today, JobStore.Stand.Waiting, stop: stop)).Take(MostVehicles)];

    /// <summary>How long one vehicle takes, by people; what was worked out before is remembered.</summary>
    public async Task<WaitingVehicle> VehicleAsync(JobLine line, bool work, CancellationToken stop)
    {
        if (await jobs.JobAsync(line.Number, stop) is not { } job)
        {
            return new(line, VehicleModes.None, "is gone");
        }

        var equipped = await workshop.EquipAsync(job.Survey, job.Id, stop: stop);
        var key = $"modes {SurveyFormat.Hash(equipped)} {job.PlanRevision}";
        if (cache.Modes(key) is { } known)
        {
            return new(line, known, known.Ways.Count == 0 ? "it cannot be laid out" : null);
        }

        if (!work)
        {
            return new(line, VehicleModes.None, null);
        }

        try
        {
            var plan = (await runs.OfAsync(job, equipped, stop)).InForce?.Plan ?? workshop.Plan(equipped, stop);
            if (plan.ReferOnly || plan.Steps.Count == 0)
            {
                return new(line, VehicleModes.None, "nothing may start there yet");
            }

            var vehicle = Forms.Build(job.Survey.Vehicle.Form, job.Survey.Vehicle.Size);
            var day = SiteConditions.StartOf(equipped.Site).Start is { } start ? DateOnly.FromDateTime(start.Date) : (DateOnly?)null;
            var layouts = computing.Run(key, effort => Layouts(plan, vehicle, effort.Stop), stop);
            var modes = new VehicleModes(
                [.. layouts.Select(l => YardMode.Of(l.Key, l.Value))],
                day,
                day is null ? [] : Begins(workshop.Day(equipped, equipped, stop).Map),
                layouts
            );
            cache.KeepModes(key, modes);
            return new(line, modes, layouts.Count == 0 ? "it cannot be laid out" : null);
        }
        catch (CannotPlanException)
        {
            return new(line, VehicleModes.None, "it cannot be planned");
        }
    }

    /// <summary>Stretches of the day at which about as much of the work fits its windows as at the best start; none where no start is fit.</summary>
    public static IReadOnlyList<Stretch> Begins(DayMap? map)
    {
        if (map?.Best is null)
        {
            return [];
        }

        var begins = new List<Stretch>();
        for (var q = 0; q < DayMap.Count; q++)
        {
            if (map.Starts[q].Fit <= 0 || map.Worse(q) > Worse)
            {
                continue;
            }

            if (begins.Count > 0 && begins[^1].To == q * QuarterSeconds)
            {
                begins[^1] = new(begins[^1].From, (q + 1) * QuarterSeconds);
            }
            else
            {
                begins.Add(new(q * QuarterSeconds, (q + 1) * QuarterSeconds));
            }
        }

        return begins;
    }

    private static IReadOnlyDictionary<int, Layout> Layouts(Plan plan, Vehicle vehicle, CancellationToken stop)
    {
        var layouts = new SortedDictionary<int, Layout>();
        for (var people = 1; people <= MostPeople; people++)
        {
            Person[] crew = [.. Enumerable.Range(1, people).Select(p => new Person($"p{p}", [], [], []))];
            try
            {
                layouts[people] = Layout.Of(plan, vehicle, crew, new Machines(1, 1), tries: YardDays.Tries, stop: stop);
            }
            catch (CannotScheduleException)
            {
                // By so many it cannot be worked; by others it may be.
            }
        }

        return layouts;
    }

    /// <summary>Lays out what is worked out.</summary>
    /// <param name="tried">Starts somebody tries, s of working time, by number; they go before those that are kept.</param>
    public async Task<DaysView> LayAsync(IReadOnlyDictionary<int, int> tried, CancellationToken stop)
    {
        var vehicles = new List<WaitingVehicle>();
        foreach (var line in await WaitingAsync(stop))
        {
            vehicles.Add(await VehicleAsync(line, false, stop));
        }

        var (workers, (washers, ladders, bays)) = (await crew.WorkersAsync(stop), await crew.MachinesAsync(stop));
        var (from, to) = (
            workers.Select(w => w.WorksFrom).DefaultIfEmpty(480).Min(),
            workers.Select(w => w.WorksTo).DefaultIfEmpty(1020).Max()
        );
        var first = clock.Today;
        var now = (int)clock.Local.TimeOfDay.TotalSeconds;
        // Today goes on from now.
        var time = new WorkingTime([
            .. Enumerable
                .Range(0, Days)
                .Select(d => new Stretch((d * DaySeconds) + (d == 0 ? Math.Max(60 * from, now) : 60 * from), (d * DaySeconds) + (60 * to)))
                .Where(s => s.Length > 0),
        ]);
        var room = new YardRoom(Math.Max(1, workers.Count), bays, washers);
        // Seconds from the first midnight.
        int At(DateTimeOffset at) => (int)Math.Clamp((at - clock.Local).TotalSeconds + now, 0, Days * DaySeconds);
        var pins = vehicles
            .Where(v => v.Job.BeginsAt is not null)
            .ToDictionary(v => v.Job.Number, v => time.Worked(At(v.Job.BeginsAt!.Value)));
        foreach (var (number, at) in tried)
        {
            pins[number] = at;
        }

        YardJob[] waiting =
        [
            .. vehicles
                .Where(v => v.Modes.Ways.Count > 0)
                .Select(v => new YardJob(
                    v.Job.Number,
                    v.Modes.Ways,
                    time.Worked(
                        new[]
                        {
                            v.Job.UrgentSince is { } since ? At(since.AddSeconds(PressesFor)) : int.MaxValue,
                            v.Job.PromisedAt is { } promised ? At(promised) : int.MaxValue,
                            DaySeconds * Math.Clamp(v.Job.Day.DayNumber - first.DayNumber + 1, 1, Days),
                        }.Min()
                    ),
                    v.Etches ? Etching
                        : v.Job.PromisedAt is not null ? Promised
                        : Booked,
                    pins.TryGetValue(v.Job.Number, out var pin) ? pin : null
                )
                {
                    Begins = BeginsOf(v, time, first),
                }),
        ];
        var slots = computing.Run(
            $"days {JsonSerializer.Serialize(waiting)} {room}",
            effort => YardDays.Of(waiting, room, YardDays.Look, effort.Stop) ?? [],
            stop
        );
        var turns = Turns(slots, vehicles, workers, new(washers, ladders), bays, time, now, stop);
        slots =
        [
            .. slots
                .Select(s =>
                    turns.FirstOrDefault(t => t.Id == s.Id) is { } t ? s with { Start = time.Worked(t.Start), End = time.Worked(t.End) } : s
                )
                .OrderBy(s => s.Start)
                .ThenBy(s => s.Id),
        ];
        return new(
            first,
            time,
            now,
            vehicles,
            slots,
            room,
            pins,
            waiting.Length > 0 && slots.Count == 0 ? "So nobody can work it: take something you set back." : null
        )
        {
            Offset = clock.Local.Offset,
            Who = turns.ToDictionary(
                t => t.Id,
                t => (IReadOnlyList<string>)[.. t.Who.Select(id => workers.FirstOrDefault(w => w.StaffId == id)?.DisplayName ?? id)]
            ),
        };
    }

    /// <summary>All vehicles task by task, with everybody's own hours and rests; none where that goes not into the days.</summary>
    private IReadOnlyList<YardTurn> Turns(
        IReadOnlyList<YardSlot> slots,
        IReadOnlyList<WaitingVehicle> vehicles,
        IReadOnlyList<StaffUser> workers,
        Machines machines,
        int bays,
        WorkingTime time,
        int now,
        CancellationToken stop
    )
    {
        if (slots.Count == 0 || workers.Count == 0)
        {
            return [];
        }

        Person[] people =
        [
            .. workers.Select(w => new Person(
                w.StaffId,
                w.Skills,
                [
                    .. Enumerable
                        .Range(0, Days)
                        .Select(d => new Stretch(
                            (d * DaySeconds) + (d == 0 ? Math.Max(60 * w.WorksFrom, now) : 60 * w.WorksFrom),
                            (d * DaySeconds) + (60 * w.WorksTo)
                        ))
                        .Where(s => s.Length > 0),
                ],
                [
                    .. Enumerable
                        .Range(0, Days)
                        .Where(_ => w.Break > 0)
                        .Select(d => new Stretch((d * DaySeconds) + (60 * w.BreakFrom), (d * DaySeconds) + (60 * (w.BreakFrom + w.Break)))),
                ]
            )),
        ];
        var layouts = slots.ToDictionary(s => s.Id, s => vehicles.First(v => v.Job.Number == s.Id).Modes.Layouts[s.People]);
        var finishes = string.Join(',', layouts.Select(l => l.Value.Schedule.Finish));
        var key = $"turns {JsonSerializer.Serialize(slots)} {JsonSerializer.Serialize(people)} {machines} {bays} {finishes}";
        try
        {
            return computing.Run(key, effort => YardTasks.Of(slots, layouts, people, machines, bays, time, effort.Stop).Turns, stop);
        }
        catch (CannotScheduleException)
        {
            return [];
        }
    }

    /// <summary>
    /// Working time in which a vehicle may begin: on the day whose air is known only when its films stay wet; on the others whenever.
    /// </summary>
    private static Stretch[] BeginsOf(WaitingVehicle v, WorkingTime time, DateOnly first)
    {
        if (v.Modes.Begins.Count == 0 || v.Modes.Day is not { } day || day.DayNumber - first.DayNumber is not (>= 0 and < Days and var d))
        {
            return [];
        }

        var (from, to) = (d * DaySeconds, (d + 1) * DaySeconds);
        return
        [
            .. v
                .Modes.Begins.Select(b => new Stretch(from + b.From, from + b.To))
                .Concat([new(0, from), new(to, Math.Max(to + 1, Days * DaySeconds))])
                .Select(b => new Stretch(time.Worked(b.From), time.Worked(b.To)))
                .Where(b => b.Length > 0)
                .OrderBy(b => b.From),
        ];
    }

    /// <summary>What a vehicle that is moved breaks where all others stay.</summary>
    public static string Moved(DaysView view, int number, int at)
    {
        if (view.Slots.FirstOrDefault(s => s.Id == number) is not { } slot)
        {
            return "It is in none of these days.";
        }

        var moved = slot with { Start = at, End = at + slot.End - slot.Start };
        var breaks = YardDays.Breaks([.. view.Slots.Where(s => s.Id != number), moved], view.Room);
        var vehicle = view.Vehicles.First(v => v.Job.Number == number);
        var words = breaks
            .Select(b => $"from {view.Clock(b.At)} it takes {b.Needed} {b.What}, there {(b.There == 1 ? "is" : "are")} {b.There}")
            .ToList();
        if (vehicle.Etches && moved.End > slot.End)
        {
            words.Add($"what etches on it lies {JobPage.Hours((moved.End - slot.End) / 60.0)} longer");
        }

        if (vehicle.Job.PromisedAt is { } promised && view.Moment(moved.End) > promised)
        {
            words.Add($"it is promised for {promised.ToOffset(view.Moment(0).Offset).ToString("ddd HH:mm", CultureInfo.InvariantCulture)}");
        }

        if (view.Fit(vehicle, at) is { } fit)
        {
            words.Add(fit);
        }

        return $"{vehicle.Job.Vehicle} from {view.Clock(at)}, done {view.Clock(moved.End)}: "
            + (words.Count == 0 ? "it fits as the others stand." : string.Join("; ", words) + ".");
    }
}
