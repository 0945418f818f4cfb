using System.Text;
using System.Text.Json.Nodes;
using ToughStart.Scheduling;
using ToughStart.Scheduling.Check;

namespace ToughStart.Core.Tests;

/// <summary>
/// Work laid out in time. The check cases and their finishes are the timeline notes' (§14), where they were set against brute force; every schedule
/// is judged by a checker of its own, which reads the document alone.
/// </summary>
public sealed class SchedulingTests
{
    private const int Tries = 60;

    internal static WorkTask Do(string key, int seconds, bool washer = false, int? at = null, int? pinned = null) =>
        new(key, key, Part.Only, [], at, seconds, washer, Pinned: pinned);

    internal static Cycle Film(string on, string off, int min, int max) => new(on, off, min, max, []);

    internal static Instance Of(
        int people,
        int washers,
        WorkTask[] tasks,
        Cycle[] cycles,
        Before[]? order = null,
        Pair[]? inside = null,
        Pair[]? noWater = null
    ) =>
        new(
            [.. Enumerable.Range(1, people).Select(p => new Person($"p{p}", [], [], []))],
            new Machines(washers, 1),
            tasks,
            cycles,
            order ?? [],
            inside ?? [],
            noWater ?? []
        );

    private static int Finish(Instance i, int tries = Tries)
    {
        var s = new Greedy(i).Solve(tries, TestContext.Current.CancellationToken);
        TimelineCheck.Check(TimelineFormat.Write(i, s)).ShouldBeEmpty();
        return s.Finish;
    }

    [Theory]
    [InlineData(null, 600)]
    [InlineData(300, 630)]
    public void One_person_does_the_wheels_while_the_foam_works(int? pinned, int finish)
    {
        var i = Of(
            1,
            1,
            [Do("on", 120, true), Do("off", 180, true), Do("left", 150, pinned: pinned), Do("right", 150)],
            [Film("on", "off", 420, 720)]
        );
        i.AddingUp.ShouldBe(900);
        Finish(i).ShouldBe(finish);
    }

    [Theory]
    [InlineData(1, 800)]
    [InlineData(2, 600)]
    public void Two_people_wait_for_one_washer(int washers, int finish) =>
        Finish(
                Of(
                    2,
                    washers,
                    [Do("on", 120, true), Do("off", 180, true), Do("arch1", 200, true), Do("arch2", 200, true)],
                    [Film("on", "off", 420, 480)]
                )
            )
            .ShouldBe(finish);

    [Theory]
    [InlineData(420, 510)]
    [InlineData(400, 750)]
    public void Work_goes_into_a_dwell_only_where_it_is_out_in_time(int latest, int finish) =>
        Finish(Of(1, 1, [Do("on", 60), Do("off", 90, true), Do("glass", 360)], [Film("on", "off", 300, latest)])).ShouldBe(finish);

    [Theory]
    [InlineData(1, 1460)]
    [InlineData(2, 1260)]
    public void Three_rounds_are_a_chain_that_other_work_fits_between(int people, int finish) =>
        Finish(
                Of(
                    people,
                    1,
                    [.. Enumerable.Range(1, 3).SelectMany(r => new[] { Do($"on{r}", 60), Do($"off{r}", 60, true) }), Do("shuts", 500)],
                    [.. Enumerable.Range(1, 3).Select(r => Film($"on{r}", $"off{r}", 360, 600))],
                    [new("off1", "on2", "rounds"), new("off2", "on3", "rounds")]
                ),
                200
            )
            .ShouldBe(finish);

    [Fact]
    public void Sections_are_as_long_as_their_first_panel_stays_wet()
    {
        static Lag Six(int n, bool alone = false) =>
            SectionLag.Of([.. Enumerable.Repeat(new Piece(20, 25, 150), n)], 60, int.MaxValue / 2, alone);
        Six(6).ShouldBe(new Lag(80, 100));
        Six(4).ShouldBe(new Lag(80, 110));
        Six(2).ShouldBe(new Lag(80, 120));
        Six(6, true).Fits.ShouldBeFalse("one person is still laying on when the first has to come off");
        SectionLag.Most(new Piece(20, 25, 150), 60, int.MaxValue / 2, true, 20).ShouldBe(5);
        SectionLag.Most(new Piece(20, 25, 150), 60, int.MaxValue / 2, false, 20).ShouldBe(10);
        SectionLag.Most(new Piece(20, 60, 100), 20, int.MaxValue / 2, true, 20).ShouldBeInRange(1, 4);

        // One section of six: nobody can alone, two can; four and two: one can.
        WorkTask[] whole = [Do("on", 120), Do("off", 150, true)];
        Should.Throw<CannotScheduleException>(() => Finish(Of(1, 1, whole, [Film("on", "off", 80, 100)]))).Task.ShouldBe("on");
        Finish(Of(2, 1, whole, [Film("on", "off", 80, 100)])).ShouldBe(230);
        Finish(
                Of(
                    1,
                    1,
                    [Do("on4", 80), Do("off4", 100, true), Do("on2", 40), Do("off2", 50, true)],
                    [Film("on4", "off4", 80, 110), Film("on2", "off2", 80, 120)]
                )
            )
            .ShouldBe(310);
    }

    [Theory]
    [InlineData(true, 420)]
    [InlineData(false, 330)]
    public void No_water_comes_over_a_film_that_works(bool barred, int finish) =>
        Finish(
                Of(
                    1,
                    1,
                    [Do("on", 60), Do("off", 60, true), Do("roof", 120, true), Do("wheels", 90)],
                    [Film("on", "off", 240, 300)],
                    noWater: barred ? [new("roof", "on")] : []
                )
            )
            .ShouldBe(finish);

    [Fact]
    public void People_who_swap_names_change_nothing_and_more_time_to_think_is_never_worse()
    {
        var i = Any(new Random(11), 12);
        var names = i.Crew.Select(p => p.Id).Reverse().ToArray();
        var turned = i with { Crew = [.. i.Crew.Select((p, n) => p with { Id = names[n] })] };
        int Solve(Instance of, int tries) => new Greedy(of).Solve(tries, TestContext.Current.CancellationToken).Finish;
        Solve(i, 20).ShouldBe(Solve(turned, 20));
        var finishes = new[] { 1, 5, 20, 60 }.Select(n => Solve(i, n)).ToArray();
        finishes.ShouldBe(finishes.OrderDescending());
    }

    [Fact]
    public void Whatever_is_to_be_laid_out_nothing_is_broken()
    {
        var random = new Random(20261201);
        var (made, refused) = (0, 0);
        for (var n = 0; n < 3000; n++)
        {
            var i = Any(random, 1 + random.Next(14));
            try
            {
                var s = new Greedy(i).Solve(2, TestContext.Current.CancellationToken);
                TimelineCheck.Check(TimelineFormat.Write(i, s)).ShouldBeEmpty($"instance {n}");
                made++;
            }
            catch (CannotScheduleException)
            {
                refused++;
            }
        }

        made.ShouldBeGreaterThan(2250, $"{refused} were refused");
    }

    /// <summary>No order ends before the bound; on small work the bound is met where nobody has to walk.</summary>
    [Fact]
    public void A_bound_lies_under_every_schedule()
    {
        var random = new Random(5);
        var (met, better) = (0, 0);
        for (var n = 0; n < 40; n++)
        {
            var i = Any(random, 2 + random.Next(5)) with { Walk = 0 };
            Schedule s;
            try
            {
                s = new Greedy(i).Solve(30, TestContext.Current.CancellationToken);
            }
            catch (CannotScheduleException)
            {
                continue;
            }

            var rough = new Greedy(i).Solve(1, TestContext.Current.CancellationToken);
            var proof = Proof.Of(i, rough, 0.5, TestContext.Current.CancellationToken);
            proof.Bound.ShouldBeLessThanOrEqualTo(Math.Min(s.Finish, proof.Better?.Finish ?? rough.Finish), $"instance {n}");
            if (proof.Better is { } found)
            {
                TimelineCheck.Check(TimelineFormat.Write(i, found, "cp-sat", proof.Bound)).ShouldBeEmpty($"instance {n}");
                found.Finish.ShouldBeLessThan(rough.Finish);
                better++;
            }

            met += proof.Bound == Math.Min(s.Finish, proof.Better?.Finish ?? int.MaxValue) ? 1 : 0;
        }

        met.ShouldBeGreaterThan(10, $"{better} were bettered");
    }

    public static TheoryData<string> Jobs() => [.. Repository.DemoNames.Where(n => n != "flooded-saloon")];

    [Theory, MemberData(nameof(Jobs))]
    public void Every_demo_job_is_laid_out_for_one_two_and_three_and_nothing_dries(string name)
    {
        var survey = Repository.Demo(name);
        var plan = Repository.Plan(survey);
        var vehicle = Core.Vehicles.Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size);
        var (finish, c) = (new List<int>(), Core.Provenance.Catalogue.Default);
        foreach (var people in new[] { 1, 2, 3 })
        {
            Person[] crew = [.. Enumerable.Range(1, people).Select(p => new Person($"p{p}", [], [], []))];
            var tries = new[] { Grouping.Whole, Grouping.Halves, Grouping.Sides }
                .Select(g => PlanTasks.Of(plan, vehicle, crew, new(1, 1), g))
                .Select(i => (Instance: i, Schedule: new Greedy(i).Solve(3, TestContext.Current.CancellationToken)))
                .ToArray();
            foreach (var (i, s) in tries)
            {
                TimelineCheck.Check(TimelineFormat.Write(i, s)).ShouldBeEmpty();
                RunsOffAndSplashes(plan, vehicle, survey.Rule("wheels") == "first", i, s);
                // All the hands-on time of the plan is in it, no more than rounding up adds.
                var ladder = i.Tasks.Where(t => t.Ladder).SelectMany(t => t.Zones).Sum(z => Core.Conditions.Sections.Ladder(vehicle[z], c));
                var work = (i.Tasks.Sum(t => t.Seconds) - (ladder * c["ladder-move"])) / 60.0;
                var planned =
                    plan.Steps.Sum(x => x.LabourMinutes.Value)
                    + plan.Tests.Where(Core.Costing.TestWorth.Made).Sum(t => Core.Costing.TestWorth.Minutes(t.Zones.Count, c));
                work.ShouldBeInRange(planned - 0.5, planned + 0.02 * i.Tasks.Count + 1.5, $"{name}, {people}");
            }

            finish.Add(tries.Min(t => t.Schedule.Finish));
        }

        finish[1].ShouldBeLessThan(finish[0]);
        finish[2].ShouldBeLessThanOrEqualTo((int)(1.03 * finish[1]));
        var one = PlanTasks.Of(plan, vehicle, [new("p1", [], [], [])], new(1, 1), Grouping.Whole);
        finish[0].ShouldBeLessThanOrEqualTo((int)(1.1 * one.AddingUp), "dwells are worked in, walking is paid");
    }

    /// <summary>
    /// What runs off the roof and splashes from the wheels lands on what is still to be rinsed or washed; wheels come first where the house says so.
    /// </summary>
    private static void RunsOffAndSplashes(Core.Planning.Plan plan, Core.Vehicles.Vehicle vehicle, bool wheelsFirst, Instance i, Schedule s)
    {
        var at = s.Tasks.ToDictionary(t => t.Key);
        var steps = plan.Steps.ToDictionary(x => x.Key);
        var tasks = i.Tasks.Where(t => steps.ContainsKey(t.Step) && t.Part != Part.Mix).ToArray();
        WorkTask[] wheels = [.. tasks.Where(t => steps[t.Step].Block == Core.Vehicles.Block.Wheels)];
        WorkTask[] body = [.. tasks.Except(wheels)];
        foreach (var washed in body.Where(t => steps[t.Step].Stage == Stage.ContactWash || steps[t.Step].Stage == Stage.Clay))
        {
            int[] beside = [.. washed.Zones.Select(z => PlanTasks.PlaceOf(vehicle, z)).Where(p => p != Instance.Roof)];
            foreach (
                var wheel in wheels.Where(w => w.Zones.Any(z => beside.Any(b => Instance.Eighths(PlanTasks.PlaceOf(vehicle, z), b) == 1)))
            )
            {
                at[wheel.Key].End.ShouldBeLessThanOrEqualTo(at[washed.Key].Start, $"{wheel.Key} splashes on {washed.Key}");
            }
        }

        foreach (var wheel in wheels.Where(t => steps[t.Step].Stage == Stage.Wheels && t.Part == Part.On))
        {
            string?[] corners = [.. wheel.Zones.Select(z => vehicle[z].Corner)];
            wheels
                .Where(t => steps[t.Step].Stage == Stage.Tyres && t.Zones.Any(z => corners.Contains(vehicle[z].Corner)))
                .ShouldAllBe(t => at[t.Key].End <= at[wheel.Key].Start, $"a tyre splashes on {wheel.Key}");
        }

        if (wheelsFirst && wheels.Length > 0)
        {
            body.Where(t => t.Part != Part.Dry).Min(t => at[t.Key].Start).ShouldBeGreaterThanOrEqualTo(wheels.Max(t => at[t.Key].End));
        }

        foreach (
            var round in body.Where(t => t.Part == Part.Off)
                .GroupBy(t => (t.Step, t.Key[t.Key.IndexOf('#')..t.Key.LastIndexOf(".g", StringComparison.Ordinal)]))
        )
        {
            var roof = round.Where(t => t.At == Instance.Roof).Select(t => at[t.Key].End).DefaultIfEmpty(0).Max();
            round.Where(t => t.At != Instance.Roof).ShouldAllBe(t => at[t.Key].Start >= roof);
        }
    }

    /// <summary>Every rule broken on purpose, in schedules that were sound: the checker sees each.</summary>
    [Fact]
    public void Every_spoilt_schedule_is_seen()
    {
        var random = new Random(7);
        var seen = new Dictionary<string, int>();
        for (var n = 0; n < 260; n++)
        {
            var i = Any(random, 6 + random.Next(8));
            Schedule s;
            try
            {
                s = new Greedy(i).Solve(2, TestContext.Current.CancellationToken);
            }
            catch (CannotScheduleException)
            {
                continue;
            }

            foreach (var (name, spoil) in Spoilers(i, random))
            {
                var doc = JsonNode.Parse(TimelineFormat.Write(i, s))!.AsObject();
                if (!spoil(doc))
                {
                    continue;
                }

                TimelineCheck.Check(Encoding.UTF8.GetBytes(doc.ToJsonString())).ShouldNotBeEmpty($"{name} in instance {n}");
                seen[name] = seen.GetValueOrDefault(name) + 1;
            }
        }

        seen.Values.Sum().ShouldBeGreaterThan(1000);
        seen.Count.ShouldBe(Spoilers(Any(random, 3), random).Count, string.Join(", ", seen.Select(x => $"{x.Key} {x.Value}")));
    }

    private static List<(string, Func<JsonObject, bool>)> Spoilers(Instance i, Random random)
    {
        JsonObject? Task(JsonObject d, Func<JsonObject, bool> which) =>
            d["tasks"]!.AsArray().Select(t => t!.AsObject()).Where(which).OrderBy(_ => random.Next()).FirstOrDefault();
        static void Move(JsonObject t, int to)
        {
            var seconds = t["seconds"]!.GetValue<int>();
            (t["start"], t["end"]) = (to, to + seconds);
        }

        bool Late(JsonObject d, int by)
        {
            var c = i.Cycles.OrderBy(_ => random.Next()).FirstOrDefault();
            if (
                c is null
                || Task(d, t => t["key"]!.GetValue<string>() == c.Off) is not { } off
                || Task(d, t => t["key"]!.GetValue<string>() == c.On) is not { } on
            )
            {
                return false;
            }

            Move(off, on["start"]!.GetValue<int>() + (by > 0 ? c.MaxLag + by : c.MinLag + by));
            return true;
        }

        static int LastOf(JsonObject d, string who) =>
            d["tasks"]!
                .AsArray()
                .Where(t => t!["who"]!.GetValue<string>() == who)
                .Select(t => t!["end"]!.GetValue<int>())
                .DefaultIfEmpty(0)
                .Max();
        return [("left out", d => Task(d, _ => true)!.Remove("start")), ("shorter", d =>
            {
                var t = Task(d, x => x["seconds"]!.GetValue<int>() > 1)!;
                t["end"] = t["end"]!.GetValue<int>() - 1;
                return true;
            }), ("dries", d => Late(d, 1)), ("too soon", d => Late(d, -1)), ("nobody", d =>
            {
                Task(d, _ => true)!["who"] = "nobody";
                return true;
            }), ("two places", d =>
            {
                var t = Task(d, _ => true)!;
                var other = Task(d, x => x != t && x["who"]!.GetValue<string>() == t["who"]!.GetValue<string>());
                if (other is null)
                {
                    return false;
                }

                Move(t, other["start"]!.GetValue<int>());
                return true;
            }), ("order", d =>
            {
                var o = d["order"]!.AsArray().OrderBy(_ => random.Next()).FirstOrDefault();
                if (o is null || Task(d, x => x["key"]!.GetValue<string>() == o["before"]!.GetValue<string>()) is not { } first)
                {
                    return false;
                }

                Move(Task(d, x => x["key"]!.GetValue<string>() == o["after"]!.GetValue<string>())!, first["end"]!.GetValue<int>() - 1);
                return true;
            }), ("finish", d =>
            {
                d["finish"] = d["finish"]!.GetValue<int>() - 1;
                return true;
            }), ("bound", d =>
            {
                d["bound"] = d["finish"]!.GetValue<int>() + 1;
                return true;
            }), ("break", d =>
            {
                var t = Task(d, _ => true)!;
                var p = d["crew"]!.AsArray().First(x => x!["id"]!.GetValue<string>() == t["who"]!.GetValue<string>())!;
                p["breaks"] = new JsonArray(new JsonArray(t["start"]!.GetValue<int>(), t["start"]!.GetValue<int>() + 1));
                return true;
            }), ("shift", d =>
            {
                var t = Task(d, _ => true)!;
                var p = d["crew"]!.AsArray().First(x => x!["id"]!.GetValue<string>() == t["who"]!.GetValue<string>())!;
                p["shifts"] = new JsonArray(new JsonArray(t["start"]!.GetValue<int>() + 1, 1_000_000));
                return true;
            }), ("rest begun in work", d =>
            {
                var rest = d["rests"]!.AsArray().OrderBy(_ => random.Next()).FirstOrDefault();
                if (rest is null || Task(d, x => x["who"]!.GetValue<string>() == rest["who"]!.GetValue<string>()) is not { } t)
                {
                    return false;
                }

                rest["start"] = t["start"]!.GetValue<int>();
                return true;
            }), ("no rest", d =>
            {
                var who = i.Crew.Where(p => p.Rest is { } r && LastOf(d, p.Id) > r.To - r.Seconds).Select(p => p.Id).FirstOrDefault();
                if (who is null)
                {
                    return false;
                }

                d["rests"] = new JsonArray([
                    .. d["rests"]!.AsArray().Where(r => r!["who"]!.GetValue<string>() != who).Select(r => r!.DeepClone()),
                ]);
                return true;
            }), ("skill", d =>
            {
                var t = Task(d, _ => true)!;
                t["skill"] = "welding";
                var p = d["crew"]!.AsArray().First(x => x!["id"]!.GetValue<string>() == t["who"]!.GetValue<string>())!;
                p["skills"] = new JsonArray("wash");
                return true;
            }), ("washer", d =>
            {
                d["machines"]!["washers"] = 0;
                return Task(d, t => t["washer"]!.GetValue<bool>()) is not null;
            }), ("pin", d =>
            {
                var t = Task(d, _ => true)!;
                t["pinned"] = t["start"]!.GetValue<int>() + 7;
                return true;
            })];
    }

    /// <summary>Some work with films, places, washers, an order and shifts.</summary>
    internal static Instance Any(Random random, int units)
    {
        var (tasks, cycles, order, noWater, inside) = (
            new List<WorkTask>(),
            new List<Cycle>(),
            new List<Before>(),
            new List<Pair>(),
            new List<Pair>()
        );
        for (var u = 0; u < units; u++)
        {
            var at = random.Next(10) is < 9 and var place ? place : (int?)null;
            if (random.Next(3) > 0)
            {
                var (on, off) = (
                    Do($"on{u}", 20 + random.Next(100), random.Next(2) == 0, at),
                    Do($"off{u}", 20 + random.Next(120), true, at)
                );
                tasks.AddRange([on, off]);
                var min = Math.Max(on.Seconds, 60 + random.Next(400));
                var max = min + 20 + random.Next(300);
                cycles.Add(
                    Film(on.Key, off.Key, min, max) with
                    {
                        PersonBound = random.Next(8) == 0,
                        Hours =
                            random.Next(6) == 0
                                ? [new HourLag(0, 900, max - 10), new HourLag(900, 1800, min - 1), new HourLag(1800, 9000, max)]
                                : [],
                    }
                );
                if (u > 0 && random.Next(4) == 0)
                {
                    noWater.Add(new(tasks[random.Next(tasks.Count - 2)].Key, on.Key));
                }
            }
            else
            {
                tasks.Add(Do($"do{u}", 20 + random.Next(300), random.Next(4) == 0, at));
                if (cycles.Count > 0 && random.Next(4) == 0)
                {
                    inside.Add(new(tasks[^1].Key, cycles[random.Next(cycles.Count)].On));
                }
            }

            if (tasks.Count > 3 && random.Next(3) == 0)
            {
                // From earlier to later, so that nothing waits for itself.
                var first = cycles.Count > 1 && random.Next(2) == 0 ? cycles[^2].Off : tasks[0].Key;
                var then = cycles.Count > 1 && cycles[^1].Off == tasks[^1].Key ? cycles[^1].On : tasks[^1].Key;
                if (tasks.FindIndex(t => t.Key == first) < tasks.FindIndex(t => t.Key == then) && first != then)
                {
                    order.Add(new(first, then, "so it is"));
                }
            }
        }

        noWater.RemoveAll(p =>
            !tasks.First(t => t.Key == p.Task).Washer || cycles.Any(c => c.On == p.On && (c.On == p.Task || c.Off == p.Task))
        );
        inside.RemoveAll(p => order.Any(o => o.First == p.Task));
        return new(
            [
                .. Enumerable
                    .Range(1, 1 + random.Next(3))
                    .Select(p => new Person(
                        $"p{p}",
                        [],
                        random.Next(3) == 0 ? [new(0, 20_000), new(40_000, 90_000)] : [],
                        random.Next(3) == 0 ? [new(700, 1300)] : []
                    )
                    {
                        Rest = random.Next(3) == 0 ? new Rest(300 + random.Next(300), 200 + random.Next(600), 1600) : null,
                    }),
            ],
            new Machines(1 + random.Next(2), 1),
            tasks,
            cycles,
            order,
            inside,
            noWater
        );
    }
}
