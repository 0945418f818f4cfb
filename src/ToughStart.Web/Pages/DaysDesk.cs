using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Vehicles;
using ToughStart.Data;
using ToughStart.Scheduling;

namespace ToughStart.Web.Stations;

/// <summary>A vehicle that waits, and what is known of how long it takes.</summary>
/// <param name="Modes">Empty = not worked out yet, or it cannot be.</param>
/// <param name="Why">Why it is in no day; null = it is.</param>
public sealed record WaitingVehicle(JobLine Job, IReadOnlyList<(int People, int Seconds)> Modes, bool Etches, string? Why);

/// <summary>The days ahead: which vehicle when, by how many.</summary>
public sealed record DaysView(
    DateOnly First,
    WorkingTime Time,
    int Now,
    IReadOnlyList<WaitingVehicle> Vehicles,
    IReadOnlyList<YardSlot> Slots,
    int People,
    int Bays,
    IReadOnlyDictionary<int, int> Pins,
    string? Why
)
{
    /// <summary>A moment of working time by day and clock.</summary>
    public string Clock(int worked)
    {
        var at = Time.Clock(worked);
        return First.ToDateTime(TimeOnly.MinValue).AddSeconds(at).ToString("ddd HH:mm", System.Globalization.CultureInfo.InvariantCulture);
    }
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

    private const int Tries = 12,
        DaySeconds = 86_400,
        PressesFor = 24 * 3600;

    private const int Etching = 5,
        Booked = 1;

    public async Task<IReadOnlyList<JobLine>> WaitingAsync(CancellationToken stop) =>
        [.. (await jobs.YardAsync(clock.Today, JobStore.Stand.Waiting, stop: stop)).Take(MostVehicles)];

    /// <summary>How long one vehicle takes, by people; what was worked out before is remembered.</summary>
    public async Task<WaitingVehicle> VehicleAsync(JobLine line, bool work, CancellationToken stop)
    {
        if (await jobs.JobAsync(line.Number, stop) is not { } job)
        {
            return new(line, [], false, "is gone");
        }

        var equipped = await workshop.EquipAsync(job.Survey, job.Id, stop: stop);
        var key = $"modes {SurveyFormat.Hash(equipped)} {job.PlanRevision}";
        if (cache.Modes(key) is { } known)
        {
            return new(line, known, line.UrgentSince is not null, null);
        }

        if (!work)
        {
            return new(line, [], line.UrgentSince is not null, null);
        }

        try
        {
            var plan = (await runs.OfAsync(job, equipped, stop)).InForce?.Plan ?? workshop.Plan(equipped, stop);
            if (plan.ReferOnly || plan.Steps.Count == 0)
            {
                return new(line, [], false, "nothing may start there yet");
            }

            var vehicle = Forms.Build(job.Survey.Vehicle.Form, job.Survey.Vehicle.Size);
            var modes = computing.Run(key, effort => Modes(plan, vehicle, effort.Stop), stop);
            cache.KeepModes(key, modes);
            return new(line, modes, line.UrgentSince is not null, modes.Count == 0 ? "it cannot be laid out" : null);
        }
        catch (CannotPlanException)
        {
            return new(line, [], false, "it cannot be planned");
        }
    }

    private static IReadOnlyList<(int People, int Seconds)> Modes(Plan plan, Vehicle vehicle, CancellationToken stop)
    {
        var modes = new List<(int, int)>();
        for (var people = 1; people <= MostPeople; people++)
        {
            Person[] crew = [.. Enumerable.Range(1, people).Select(p => new Person($"p{p}", [], [], []))];
            try
            {
                modes.Add((people, Layout.Of(plan, vehicle, crew, new Machines(1, 1), tries: Tries, stop: stop).Schedule.Finish));
            }
            catch (CannotScheduleException)
            {
                // By so many it cannot be worked; by others it may be.
            }
        }

        return modes;
    }

    /// <summary>Lays out what is worked out.</summary>
    /// <param name="pins">Starts somebody has set, s of working time, by number.</param>
    public async Task<DaysView> LayAsync(IReadOnlyDictionary<int, int> pins, CancellationToken stop)
    {
        var vehicles = new List<WaitingVehicle>();
        foreach (var line in await WaitingAsync(stop))
        {
            vehicles.Add(await VehicleAsync(line, false, stop));
        }

        var (workers, (_, _, bays)) = (await crew.WorkersAsync(stop), await crew.MachinesAsync(stop));
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
        var people = Math.Max(1, workers.Count);
        YardJob[] waiting =
        [
            .. vehicles
                .Where(v => v.Modes.Count > 0)
                .Select(v => new YardJob(
                    v.Job.Number,
                    v.Modes,
                    time.Worked(
                        v.Job.UrgentSince is { } since
                            ? (int)Math.Clamp((since.AddSeconds(PressesFor) - clock.Local).TotalSeconds + now, 0, Days * DaySeconds)
                            : DaySeconds * Math.Clamp(v.Job.Day.DayNumber - first.DayNumber + 1, 1, Days)
                    ),
                    v.Etches ? Etching : Booked,
                    pins.TryGetValue(v.Job.Number, out var pin) ? pin : null
                )),
        ];
        var slots = computing.Run(
            $"days {string.Join(';', waiting.Select(w => $"{w.Id}:{w.Pinned}:{w.Due}:{string.Join(',', w.Modes)}"))} {people} {bays}",
            effort => YardDays.Of(waiting, people, bays, 0.6, effort.Stop) ?? [],
            stop
        );
        return new(
            first,
            time,
            now,
            vehicles,
            slots,
            people,
            bays,
            pins,
            waiting.Length > 0 && slots.Count == 0 ? "So nobody can work it: take something you set back." : null
        );
    }

    /// <summary>What a vehicle that is moved breaks where all others stay.</summary>
    public static string Moved(DaysView view, int number, int at)
    {
        if (view.Slots.FirstOrDefault(s => s.Id == number) is not { } slot)
        {
            return "It is in none of these days.";
        }

        var moved = slot with { Start = at, End = at + slot.End - slot.Start };
        var breaks = YardDays.Breaks([.. view.Slots.Where(s => s.Id != number), moved], view.People, view.Bays);
        var vehicle = view.Vehicles.First(v => v.Job.Number == number);
        var words = breaks
            .Select(b => $"from {view.Clock(b.At)} it takes {b.Needed} {b.What}, there {(b.There == 1 ? "is" : "are")} {b.There}")
            .ToList();
        if (vehicle.Etches && moved.End > slot.End)
        {
            words.Add($"what etches on it lies {JobPage.Hours((moved.End - slot.End) / 60.0)} longer");
        }

        return $"{vehicle.Job.Vehicle} from {view.Clock(at)}, done {view.Clock(moved.End)}: "
            + (words.Count == 0 ? "it fits as the others stand." : string.Join("; ", words) + ".");
    }
}
