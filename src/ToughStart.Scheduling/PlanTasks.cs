using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Running.Live;
using ToughStart.Core.Vehicles;

namespace ToughStart.Scheduling;

/// <summary>Which zones of a step are worked in one go.</summary>
public enum Grouping
{
    /// <summary>All of them.</summary>
    Whole,

    /// <summary>Left, front and roof; right and rear.</summary>
    Halves,

    /// <summary>Roof, front, right, rear, left; wheels by corner.</summary>
    Sides,
}

/// <summary>A plan as tasks: what one person does in one go, what has to follow what, and how long a film may stay.</summary>
public static class PlanTasks
{
    /// <summary>Longest stay of a film whose drying is not computed, s.</summary>
    private static int Uncomputed => (int)Catalogue.Default["crew-wet-unknown"];

    /// <param name="All">Every zone of the step.</param>
    private sealed record Group(Step Step, int Number, int Round, IReadOnlyList<StepZone> Zones, int At, IReadOnlyList<StepZone> All)
    {
        public string Key => FormattableString.Invariant($"{Step.Key}#r{Round}.g{Number}");
    }

    /// <summary>What a plan asks of a crew.</summary>
    /// <param name="crew">One person or more.</param>
    /// <param name="windows">How long films stay wet by the quarter-hour from the start of the work; null = as at the plan's start.</param>
    public static Instance Of(
        Plan plan,
        Vehicle vehicle,
        IReadOnlyList<Person> crew,
        Machines machines,
        Grouping grouping,
        LiveWindows? windows = null
    )
    {
        var (tasks, cycles, order) = (new List<WorkTask>(), new List<Cycle>(), new List<Before>());
        var (lastOn, wetting, films) = (
            new Dictionary<string, string>(),
            new List<(string Key, int At, Step Step)>(),
            new List<(string On, int At, Step Step)>()
        );
        var alone = crew.Count == 1;
        var tests = new Tests(plan, vehicle, grouping, tasks, order, lastOn);
        foreach (var step in plan.Steps)
        {
            tests.Before(step);
            var mixed = Mixed(step, tasks);
            var groups = GroupsOf(step, vehicle, grouping, alone).ToArray();
            foreach (var g in groups)
            {
                var seconds = Seconds(step, g);
                var first = Add(step, g, seconds, alone, windows, tasks, cycles, films);
                var last = tasks[^1].Key;
                if (mixed is not null)
                {
                    order.Add(new(mixed, first, "mixed first"));
                }

                foreach (var zone in g.Zones.Select(z => z.Zone))
                {
                    if (lastOn.TryGetValue(zone, out var before) && before != last)
                    {
                        order.Add(new(before, first, "same zone"));
                    }
                }

                foreach (var zone in g.Zones.Select(z => z.Zone))
                {
                    lastOn[zone] = last;
                }

                if (step.Stage == Stage.Dry)
                {
                    order.AddRange(wetting.Select(w => new Before(w.Key, first, "dried when the water is off")));
                }
                else if (tasks[^1].Washer)
                {
                    wetting.Add((last, g.At, step));
                }
            }
        }

        order = [.. order.DistinctBy(o => (o.First, o.Then))];
        return new(crew, machines, tasks, cycles, order, [], NoWater(wetting, films, order, cycles));
    }

    /// <summary>
    /// Tests as work of their own: after the stage they wait for, before whatever comes next on the same zone. Their minutes are those
    /// the plan counts.
    /// </summary>
    private sealed class Tests(
        Plan plan,
        Vehicle vehicle,
        Grouping grouping,
        List<WorkTask> tasks,
        List<Before> order,
        Dictionary<string, string> lastOn
    )
    {
        private readonly List<(PlannedTest Test, int From)> _due =
        [
            .. plan.Tests.Where(Core.Costing.TestWorth.Made).Select(t => (t, FirstAfter(plan, t))),
        ];

        /// <summary>Puts in what has to be tested before a step.</summary>
        public void Before(Step step)
        {
            var at = plan.Steps.TakeWhile(s => s != step).Count();
            foreach (var due in _due.Where(d => d.From <= at).ToArray())
            {
                _due.Remove(due);
                Add(due.Test);
            }
        }

        private void Add(PlannedTest test)
        {
            var each = 60 * Core.Costing.TestWorth.Minutes(test.Zones.Count, Catalogue.Default) / test.Zones.Count;
            foreach (var set in test.Zones.GroupBy(z => SetOf(PlaceOf(vehicle, z), grouping)).OrderBy(s => s.Key))
            {
                string[] zones = [.. set];
                var key = $"test/{test.Test}/{test.Contaminant}/{set.Key}";
                if (tasks.Any(t => t.Key == key))
                {
                    key += $"/{test.When}";
                }

                var at = zones.Select(z => PlaceOf(vehicle, z)).GroupBy(p => p).MaxBy(g => g.Count())!.Key;
                tasks.Add(new(key, $"test/{test.Test}", Part.Test, zones, at, Math.Max(1, (int)Math.Ceiling(each * zones.Length))));
                foreach (var zone in zones)
                {
                    if (lastOn.TryGetValue(zone, out var before))
                    {
                        order.Add(new(before, key, "tested when it is done"));
                    }

                    lastOn[zone] = key;
                }
            }
        }

        /// <summary>
        /// Position of the first step that comes after what a test waits for: the last step of its stage, or the first where it is made
        /// while that goes on; the start where it waits for nothing that is done.
        /// </summary>
        private static int FirstAfter(Plan plan, PlannedTest test)
        {
            var moment = TestMoment.Of(test.When);
            var of = plan.Steps.Select((s, i) => (s.Stage, i)).Where(x => x.Stage == moment.Stage).Select(x => x.i).ToArray();
            return of.Length == 0 ? 0 : 1 + (moment.Over ? of[^1] : of[0]);
        }
    }

    /// <summary>Making a product ready, once for each agent and strength; null = there is nothing to make ready.</summary>
    private static string? Mixed(Step step, List<WorkTask> tasks)
    {
        if (step.SetUpMinutes.Value <= 0)
        {
            return null;
        }

        var key = $"mix/{step.Agent}@{step.Strength.Value:0.####}";
        if (tasks.All(t => t.Key != key))
        {
            tasks.Add(new(key, step.Key, Part.Mix, [], null, (int)Math.Ceiling(60 * step.SetUpMinutes.Value)));
        }

        return key;
    }

    /// <returns>Key of what is done first.</returns>
    private static string Add(
        Step step,
        Group g,
        int seconds,
        bool alone,
        LiveWindows? windows,
        List<WorkTask> tasks,
        List<Cycle> cycles,
        List<(string On, int At, Step Step)> films
    )
    {
        string[] zones = [.. g.Zones.Select(z => z.Zone)];
        if (step.Stage == Stage.Dry || step.Under || step.DwellMinutes.Value <= 0)
        {
            var water = step.Stage != Stage.Dry && step.WaterLitres > 0;
            var part = step.Stage == Stage.Dry ? Part.Dry : Part.Only;
            tasks.Add(new(g.Key, step.Key, part, zones, g.At, seconds, water, Skill: SkillOf(step.Stage)));
            return g.Key;
        }

        var rinse = Math.Clamp((int)(g.Zones.Sum(z => z.Area.Value) * RinseSeconds), 1, Math.Max(1, seconds / 2));
        var (on, off) = ($"{g.Key}.on", $"{g.Key}.off");
        tasks.Add(
            new(
                on,
                step.Key,
                Part.On,
                zones,
                g.At,
                Math.Max(1, seconds - rinse),
                step.Carrier == AgentCarrier.Foam,
                Skill: SkillOf(step.Stage)
            )
        );
        tasks.Add(new(off, step.Key, Part.Off, zones, g.At, rinse, step.WaterLitres > 0));
        var (lag, misted) = LagOf(step, g, alone || OneLance(step));
        // Where even one piece would dry before it has worked, it comes off before it dries; under the hand it stays wet.
        lag = lag.Fits ? lag : new(Math.Max(lag.Max, Math.Max(1, seconds - rinse)), Math.Max(lag.Max, Math.Max(1, seconds - rinse)));
        cycles.Add(new(on, off, lag.Min, lag.Max, Hours(step, g, alone || OneLance(step), misted, lag, windows), misted));
        films.Add((on, g.At, step));
        return on;

        // One lance for both: nothing is rinsed before all of it is on.
        static bool OneLance(Step s) => s.Carrier == AgentCarrier.Foam;
    }

    /// <summary>
    /// How long it may stay by the hour it is begun in, in stretches; none where the hour makes no difference. In an hour that leaves it
    /// no time it is not begun; where no hour does, the hour does not decide.
    /// </summary>
    private static IReadOnlyList<HourLag> Hours(Step step, Group g, bool alone, bool misted, Lag lag, LiveWindows? windows)
    {
        if (windows is null || step.Film is null || g.Zones.All(z => z.UsableSeconds is null))
        {
            return [];
        }

        var usable = g.Zones.Select(z => windows.Of(step, z.Zone)).ToArray();
        var hours = new List<HourLag>();
        for (var q = 0; q < usable[0].Count; q++)
        {
            var then = g with { Zones = [.. g.Zones.Select((z, n) => z with { UsableSeconds = usable[n][q].Usable / 1000.0 })] };
            var most = LagOf(step, then, alone, misted ? 1 + step.Mists : 1).Max;
            most = most < lag.Min ? lag.Min - 1 : most;
            if (hours.Count > 0 && hours[^1].MaxLag == most)
            {
                hours[^1] = hours[^1] with { To = Quarter * (q + 1) };
            }
            else
            {
                hours.Add(new(Quarter * q, Quarter * (q + 1), most));
            }
        }

        return hours.All(h => h.MaxLag < lag.Min) || hours.All(h => h.MaxLag == lag.Max) ? [] : hours;
    }

    /// <summary>A quarter of an hour, s.</summary>
    private const int Quarter = 900;

    /// <summary>What a stage takes of somebody: wheels, clay, chem or wash.</summary>
    private static string SkillOf(Stage stage) =>
        stage.IsAtCorners ? "wheels"
        : stage == Stage.Clay ? "clay"
        : stage == Stage.Iron || stage == Stage.Acid || stage == Stage.Tar || stage == Stage.Strip || stage == Stage.PreWash ? "chem"
        : "wash";

    /// <summary>All that people can be said to do.</summary>
    public static IReadOnlyList<string> Skills { get; } = ["wash", "wheels", "clay", "chem"];

    /// <summary>Seconds to rinse a square metre.</summary>
    private static double RinseSeconds => 60 * Catalogue.Default.Treatment("rinse").Labour;

    /// <summary>
    /// How long a group's film works and when its first piece would be dry. Where that is too soon and the plan mists it, whoever lays it
    /// on stays and mists: every misting gives it its window once more.
    /// </summary>
    private static (Lag Lag, bool Misted) LagOf(Step step, Group g, bool alone) =>
        LagOf(step, g, alone, 1) is var dry && (dry.Fits || step.Mists == 0) ? (dry, false) : (LagOf(step, g, alone, 1 + step.Mists), true);

    private static Lag LagOf(Step step, Group g, bool alone, int windows)
    {
        var seconds = Seconds(step, g);
        var all = g.Zones.Sum(z => z.Seconds);
        var rinse = Math.Clamp((int)(g.Zones.Sum(z => z.Area.Value) * RinseSeconds), 1, Math.Max(1, seconds / 2));
        var area = g.Zones.Sum(z => z.Area.Value);
        var pieces = g.Zones.Select(z => new Piece(
            (int)Math.Ceiling(Math.Max(1, (seconds - rinse) * (all > 0 ? z.Seconds / all : 1.0 / g.Zones.Count))),
            (int)Math.Ceiling(Math.Max(1, rinse * (area > 0 ? z.Area.Value / area : 1.0 / g.Zones.Count))),
            (int)Math.Min(windows * (z.UsableSeconds ?? Uncomputed), 100_000)
        ));
        var dwell = (int)(60 * g.Zones.Max(z => (step.On(z.Zone)?.DwellMinutes is { Value: > 0 } d ? d : step.DwellMinutes).Value));
        var label = step.MaxDwellMinutes.Value > 0 ? (int)(60 * step.MaxDwellMinutes.Value) : 100_000;
        dwell = (int)Math.Min(dwell, Catalogue.Default["crew-dwell"] * label);
        return SectionLag.Of([.. pieces], dwell, label, alone);
    }

    /// <summary>Zones of a step with their share of it; drying is shared by area, for the plan has it as one.</summary>
    private static IReadOnlyList<StepZone> PartsOf(Step step, Vehicle vehicle) =>
        step.Parts.Count > 0 ? step.Parts : [.. step.Zones.Select(z => new StepZone(z, vehicle[z].Area.Value, vehicle[z].Area, null))];

    /// <summary>Seconds of one round of a group: its share of all that the step takes, without what is made ready apart.</summary>
    private static int Seconds(Step step, Group g)
    {
        var seconds = g.All.ToDictionary(p => p.Zone, p => p.Seconds);
        var planned = step.Per.Sum(p => p.Rounds * p.Zones.Sum(z => seconds.GetValueOrDefault(z)));
        var all = 60 * (step.LabourMinutes.Value - step.SetUpMinutes.Value);
        return Math.Max(1, (int)Math.Ceiling(planned > 0 ? all * g.Zones.Sum(z => z.Seconds) / planned : all));
    }

    private static IEnumerable<Group> GroupsOf(Step step, Vehicle vehicle, Grouping grouping, bool alone)
    {
        var number = 0;
        var parts = PartsOf(step, vehicle);
        // What works shorter, because it would dry, is not laid on with what works longer.
        foreach (
            var set in parts
                .GroupBy(p => (Set: SetOf(PlaceOf(vehicle, p.Zone), grouping), Portion: PortionOf(step, p.Zone)))
                .OrderBy(s => s.Key.Set)
                .ThenBy(s => s.Key.Portion)
        )
        {
            foreach (var piece in Fitting(step, [.. set], alone, vehicle))
            {
                number++;
                for (var round = 1; round <= piece.Max(z => step.RoundsOn(z.Zone)); round++)
                {
                    StepZone[] zones = [.. piece.Where(z => step.RoundsOn(z.Zone) >= round)];
                    yield return new(step, number, round, zones, Place(zones, vehicle), parts);
                }
            }
        }
    }

    private static int PortionOf(Step step, string zone) =>
        step.Per.Select((p, i) => (p, i)).Where(x => x.p.Zones.Contains(zone)).Select(x => x.i).DefaultIfEmpty(0).First();

    /// <summary>A set of zones, halved until no film of it dries before its rinse; one zone alone is as it is.</summary>
    private static IEnumerable<StepZone[]> Fitting(Step step, StepZone[] zones, bool alone, Vehicle vehicle)
    {
        if (zones.Length <= 1 || step.DwellMinutes.Value <= 0 || step.Under || step.Stage == Stage.Dry)
        {
            return [zones];
        }

        var lag = LagOf(step, new(step, 0, 1, zones, Place(zones, vehicle), PartsOf(step, vehicle)), alone);
        return lag.Lag.Fits
            ? [zones]
            : Fitting(step, zones[..(zones.Length / 2)], alone, vehicle).Concat(Fitting(step, zones[(zones.Length / 2)..], alone, vehicle));
    }

    private static int Place(IReadOnlyList<StepZone> zones, Vehicle vehicle) =>
        zones.Select(z => PlaceOf(vehicle, z.Zone)).GroupBy(p => p).MaxBy(g => g.Count())!.Key;

    private static int SetOf(int place, Grouping grouping) =>
        grouping switch
        {
            Grouping.Whole => 0,
            Grouping.Halves => place is 1 or 2 or 3 or 4 ? 1 : 0,
            _ => place,
        };

    /// <summary>Where one stands to work a zone: eighths round the vehicle from the front, clockwise as seen from above; 8 = the roof.</summary>
    public static int PlaceOf(Vehicle vehicle, string zone)
    {
        var z = vehicle[zone];
        if (z.Corner is { } corner)
        {
            return (corner.Contains("right", StringComparison.Ordinal), corner.Contains("rear", StringComparison.Ordinal)) switch
            {
                (true, false) => 1,
                (true, true) => 3,
                (false, true) => 5,
                _ => corner.Contains("left", StringComparison.Ordinal) ? 7 : 0,
            };
        }

        return z.Tilt < Level && z.Top > 0.8 * vehicle.Zones.Max(x => x.Top) ? Instance.Roof
            : z.Tilt < Level
                ? z.Id.StartsWith("bonnet", StringComparison.Ordinal) ? 0
                    : 4
            : 2 * ((int)Math.Round(z.Faces / 90, MidpointRounding.AwayFromZero) % 4);
    }

    /// <summary>Panels flatter than this lie level, degrees.</summary>
    private const double Level = 35;

    /// <summary>Water from the roof, or on the same side, over a film that works, where nothing orders the two anyway.</summary>
    private static Pair[] NoWater(
        List<(string Key, int At, Step Step)> wetting,
        List<(string On, int At, Step Step)> films,
        List<Before> order,
        List<Cycle> cycles
    )
    {
        var next = order.ToLookup(o => o.First, o => o.Then);
        var off = cycles.ToDictionary(c => c.On, c => c.Off);
        var reach = new Dictionary<string, HashSet<string>>();
        HashSet<string> From(string key)
        {
            if (!reach.TryGetValue(key, out var all))
            {
                reach[key] = all = [];
                foreach (var then in next[key].Concat(off.TryGetValue(key, out var o) ? [o] : []))
                {
                    all.Add(then);
                    all.UnionWith(From(then));
                }
            }

            return all;
        }

        return
        [
            .. wetting
                .SelectMany(w => films.Where(f => f.Step != w.Step && (w.At == Instance.Roof || w.At == f.At)).Select(f => (w, f)))
                .Where(x =>
                    !From(x.w.Key).Contains(x.f.On)
                    && !From(off[x.f.On]).Contains(x.w.Key)
                    && x.w.Key != off[x.f.On]
                    && !From(x.f.On).Contains(x.w.Key)
                )
                .Select(x => new Pair(x.w.Key, x.f.On)),
        ];
    }
}
