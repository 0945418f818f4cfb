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
    /// <param name="soFar">How far it is: only what is left is asked; null = nothing is begun.</param>
    public static Instance Of(
        Plan plan,
        Vehicle vehicle,
        IReadOnlyList<Person> crew,
        Machines machines,
        Grouping grouping,
        LiveWindows? windows = null,
        SoFar? soFar = null
    )
    {
        var (tasks, cycles, order) = (new List<WorkTask>(), new List<Cycle>(), new List<Before>());
        var (lastOn, wetting, films) = (
            new Dictionary<string, string>(),
            new List<(string Key, int At, Step Step)>(),
            new List<(string On, int At, Step Step)>()
        );
        var alone = crew.Count == 1;
        var tests = new Tests(plan, vehicle, grouping, tasks, order, lastOn, soFar);
        var begun = new Dictionary<string, Placed>();
        var (foam, inside) = (new Dictionary<string, (string On, Step Step)>(), new List<Pair>());
        var splash = new Splash(plan, vehicle, lastOn, order);
        var ready = plan.Steps.Where(s => soFar?.Touched(s) == true).Select(MixOf).ToHashSet();
        foreach (var step in plan.Steps)
        {
            tests.Before(step);
            var groups = GroupsOf(step, vehicle, grouping, alone).SelectMany(g => Left(g, soFar, vehicle, Lie)).ToArray();
            var mixed = groups.Length == 0 || ready.Contains(MixOf(step)) ? null : Mixed(step, tasks);
            foreach (var g in groups)
            {
                var seconds = Seconds(step, g);
                var first = Add(step, g, vehicle, seconds, alone, windows, tasks, cycles, films);
                var last = tasks[^1].Key;
                if (mixed is not null)
                {
                    order.Add(new(mixed, first, "mixed first"));
                }

                foreach (var zone in g.Zones.Select(z => z.Zone))
                {
                    if (lastOn.TryGetValue(zone, out var before) && before != last)
                    {
                        if (foam.TryGetValue(before, out var laid) && IntoFoam(plan, step, laid.Step, zone) && first != last)
                        {
                            inside.Add(new(first, laid.On));
                            order.Add(new(before, last, "rinsed with the foam or after it"));
                        }
                        else
                        {
                            order.Add(new(before, first, "same zone"));
                        }
                    }
                }

                splash.Before(g, first);
                splash.After(g, last);
                foreach (var zone in g.Zones.Select(z => z.Zone))
                {
                    lastOn[zone] = last;
                }

                if (step.Stage == Stage.Foam && first != last)
                {
                    foam[last] = (first, step);
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

            RoofFirst(groups, cycles, order);
        }

        order = [.. order.DistinctBy(o => (o.First, o.Then))];
        if (soFar is not null)
        {
            crew = [.. crew.Select(p => p with { Stands = soFar.Stands.TryGetValue(p.Id, out var at) ? at : null })];
        }

        inside = [.. inside.Distinct()];
        return new(crew, machines, tasks, cycles, order, inside, NoWater(wetting, films, order, cycles, inside))
        {
            Now = soFar?.Now ?? 0,
            Begun = begun,
        };

        // What lies is rinsed before anything else happens there.
        void Lie(Group g, IReadOnlyList<Lying> together)
        {
            var from = Math.Max(0, together.Min(f => f.From));
            var (on, off) = (FormattableString.Invariant($"{g.Key}.on@{from}"), FormattableString.Invariant($"{g.Key}.off@{from}"));
            if (begun.ContainsKey(on))
            {
                return;
            }

            string[] zones = [.. g.Zones.Select(z => z.Zone)];
            tasks.Add(new(on, g.Step.Key, Part.On, zones, g.At, 1));
            tasks.Add(new(off, g.Step.Key, Part.Off, zones, g.At, Rinse(g, Seconds(g.Step, g)), g.Step.WaterLitres > 0));
            var by = together.Min(f => f.RinseBy) - from;
            cycles.Add(new(on, off, Math.Max(1, Math.Min(together.Max(f => f.Works) - from, by)), Math.Max(1, by), []));
            begun[on] = new(on, from, from + 1, together[0].Who);
            films.Add((on, g.At, g.Step));
            foreach (var zone in zones)
            {
                lastOn[zone] = off;
            }
        }
    }

    /// <summary>What runs off the roof lands on sides whose film is still to be rinsed.</summary>
    private static void RoofFirst(Group[] groups, List<Cycle> cycles, List<Before> order)
    {
        var off = groups.Where(g => cycles.Any(c => c.Off == $"{g.Key}.off")).ToLookup(g => g.Round);
        order.AddRange(
            off.SelectMany(round =>
                from roof in round.Where(g => g.At == Instance.Roof)
                from side in round.Where(g => g.At != Instance.Roof)
                select new Before($"{roof.Key}.off", $"{side.Key}.off", "the roof runs off over it")
            )
        );
    }

    /// <summary>
    /// What splashes before what it lands on: a corner's tyre and arch before its wheel, its last work before the wash and the clay beside it, and all
    /// of it before the body where the house does wheels first.
    /// </summary>
    private sealed class Splash(Plan plan, Vehicle vehicle, Dictionary<string, string> lastOn, List<Before> order)
    {
        private readonly HashSet<string> _wheels = [.. plan.Steps.Where(s => s.Block == Block.Wheels).SelectMany(s => s.Zones)];
        private readonly Dictionary<string, Step> _steps = plan.Steps.ToDictionary(s => s.Key);
        private readonly List<(string Corner, string Last)> _scrubbed = [];

        /// <summary>What has been scrubbed throws brown water at the wheel it stands beside.</summary>
        public void After(Group g, string last)
        {
            if (g.Step.Stage == Stage.Tyres || g.Step.Stage == Stage.Arches)
            {
                _scrubbed.AddRange(CornersOf(g).Select(k => (k, last)));
            }
        }

        private IEnumerable<string> CornersOf(Group g) => g.Zones.Select(z => vehicle[z.Zone].Corner).OfType<string>().Distinct();

        /// <summary>What has to be over before a group is begun.</summary>
        public void Before(Group g, string first)
        {
            if (g.Step.Stage == Stage.Wheels)
            {
                string[] corners = [.. CornersOf(g)];
                order.AddRange(_scrubbed.Where(x => corners.Contains(x.Corner)).Select(x => new Before(x.Last, first, "tyres splash")));
            }

            if (g.Step.Block == Block.Wheels || g.Step.Stage == Stage.Dry)
            {
                return;
            }

            // Zones of the two blocks are never the same, so a step of the body waits for one of the wheels by the house's rule alone.
            if (g.Step.After.Any(k => _steps.TryGetValue(k, out var s) && s.Block == Block.Wheels))
            {
                Add(_wheels, "wheels first");
            }

            if (g.Step.Stage == Stage.ContactWash || g.Step.Stage == Stage.Clay)
            {
                int[] beside = [.. g.Zones.Select(z => PlaceOf(vehicle, z.Zone)).Distinct().Where(p => p != Instance.Roof)];
                Add(
                    _wheels.Where(w => vehicle[w].Corner is not null && beside.Any(b => Instance.Eighths(PlaceOf(vehicle, w), b) == 1)),
                    "wheels splash"
                );
            }

            void Add(IEnumerable<string> wheels, string why) =>
                order.AddRange(wheels.Where(lastOn.ContainsKey).Select(w => new Before(lastOn[w], first, why)));
        }
    }

    /// <summary>
    /// May a zone be brushed while the foam lies? Crevices are, where nothing hard lay there before the foam: brushes go into wet foam.
    /// </summary>
    private static bool IntoFoam(Plan plan, Step brush, Step foam, string zone)
    {
        var c = Catalogue.Default;
        if (c.FindTreatment(brush.Treatment) is not { } treatment || !treatment.In(Core.Place.Crevice))
        {
            return false;
        }

        if (plan.Traces.FirstOrDefault(t => t.Zone == zone) is not { } trace)
        {
            return false;
        }

        var before = trace.After.TakeWhile(a => a.Step != foam.Key).Select(a => a.Loads).LastOrDefault() ?? trace.Start;
        return treatment.LoadLimit?.IsOpen(before, c) != false;
    }

    /// <summary>What is left of a group, and what of it lies: zones laid on together are rinsed together.</summary>
    private static IEnumerable<Group> Left(Group g, SoFar? soFar, Vehicle vehicle, Action<Group, IReadOnlyList<Lying>> lie)
    {
        if (soFar is null)
        {
            return [g];
        }

        var films = soFar.Films.Where(f => f.Step == g.Step.Key && f.Round == g.Round).ToLookup(f => f.Zone);
        foreach (var together in g.Zones.Where(z => films.Contains(z.Zone)).GroupBy(z => films[z.Zone].Min(f => f.From)))
        {
            var zones = together.ToArray();
            lie(g with { Zones = zones, At = Place(zones, vehicle) }, [.. zones.SelectMany(z => films[z.Zone])]);
        }

        StepZone[] left = [.. g.Zones.Where(z => !films.Contains(z.Zone) && soFar.Rounds(g.Step, z.Zone) < g.Round)];
        return left.Length == 0 ? [] : [g with { Zones = left, At = Place(left, vehicle) }];
    }

    /// <summary>Seconds to rinse a group, of all it takes.</summary>
    private static int Rinse(Group g, int seconds) =>
        Math.Clamp((int)(g.Zones.Sum(z => z.Area.Value) * RinseSeconds), 1, Math.Max(1, seconds / 2));

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
        Dictionary<string, string> lastOn,
        SoFar? soFar
    )
    {
        private readonly List<(PlannedTest Test, int From)> _due =
        [
            .. plan.Tests.Where(Core.Costing.TestWorth.Made).Where(t => soFar?.Tested(t) != true).Select(t => (t, FirstAfter(plan, t))),
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

        var key = MixOf(step);
        if (tasks.All(t => t.Key != key))
        {
            tasks.Add(new(key, step.Key, Part.Mix, [], null, (int)Math.Ceiling(60 * step.SetUpMinutes.Value)));
        }

        return key;
    }

    private static string MixOf(Step step) => FormattableString.Invariant($"mix/{step.Agent}@{step.Strength.Value:0.####}");

    /// <summary>Places a ladder or platform has to stand for a group that is worked by hand; what is lanced is done from the ground.</summary>
    private static int LadderPlaces(Step step, Group g, Vehicle vehicle) =>
        Catalogue.Default.FindTreatment(step.Treatment) is { IsLanced: false } t && (t.In(Core.Place.Wash) || t.In(Core.Place.Clay))
            ? g.Zones.Sum(z => Core.Conditions.Sections.Ladder(vehicle[z.Zone], Catalogue.Default))
            : 0;

    /// <summary>Seconds to move and foot it.</summary>
    private static int Moving(int places) => (int)(places * Catalogue.Default["ladder-move"]);

    /// <returns>Key of what is done first.</returns>
    private static string Add(
        Step step,
        Group g,
        Vehicle vehicle,
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
            var places = part == Part.Dry ? 0 : LadderPlaces(step, g, vehicle);
            tasks.Add(new(g.Key, step.Key, part, zones, g.At, seconds + Moving(places), water, places > 0, SkillOf(step.Stage)));
            return g.Key;
        }

        var rinse = Rinse(g, seconds);
        var (on, off) = ($"{g.Key}.on", $"{g.Key}.off");
        var ladder = LadderPlaces(step, g, vehicle);
        tasks.Add(
            new(
                on,
                step.Key,
                Part.On,
                zones,
                g.At,
                Math.Max(1, seconds - rinse) + Moving(ladder),
                step.Carrier == AgentCarrier.Foam,
                ladder > 0,
                SkillOf(step.Stage)
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
        var rinse = Rinse(g, seconds);
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
        foreach (var portion in parts.GroupBy(p => PortionOf(step, p.Zone)).OrderBy(p => p.Key))
        {
            var pieces = portion
                .GroupBy(p => SetOf(PlaceOf(vehicle, p.Zone), grouping))
                .OrderBy(s => s.Key)
                .SelectMany(s => Fitting(step, [.. s], alone, vehicle));
            foreach (var piece in Merged(step, pieces, alone, vehicle))
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

    /// <summary>Pieces nobody would walk for put to the one beside them, where no film of both dries before its rinse.</summary>
    private static IEnumerable<StepZone[]> Merged(Step step, IEnumerable<StepZone[]> pieces, bool alone, Vehicle vehicle)
    {
        var merged = new List<StepZone[]>();
        foreach (var piece in pieces)
        {
            if (
                merged.Count > 0
                && (Small(piece) || Small(merged[^1]))
                && Fitting(step, [.. merged[^1], .. piece], alone, vehicle).Count() == 1
            )
            {
                merged[^1] = [.. merged[^1], .. piece];
            }
            else
            {
                merged.Add(piece);
            }
        }

        return merged;

        bool Small(StepZone[] piece) => Seconds(step, new(step, 0, 1, piece, 0, PartsOf(step, vehicle))) < Catalogue.Default["crew-least"];
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
        List<Cycle> cycles,
        List<Pair> inside
    )
    {
        // The rinse of the foam takes off what was brushed into it: that is no water over a film.
        var into = inside.Select(p => (cycles.First(c => c.On == p.On).Off, p.Task)).ToHashSet();
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
                    && !into.Contains((x.w.Key, x.f.On))
                    && !From(x.f.On).Contains(x.w.Key)
                )
                .Select(x => new Pair(x.w.Key, x.f.On)),
        ];
    }
}
