using System.Diagnostics;
using System.Globalization;
using ToughStart.Core.Costing;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;
using ToughStart.Scheduling;

namespace ToughStart.Bench;

/// <summary>
/// Minutes saved by working while films wait, with the bound beside them; and how often jobs end over what was to be nine in ten.
/// </summary>
internal static class TimelineBench
{
    private static readonly string[] Demos =
    [
        "barn-coupe",
        "barn-saloon",
        "estuary-pickup",
        "ferry-minibus",
        "moorland-van",
        "orchard-pickup",
        "touring-saloon",
        "trail-motorcycle",
    ];

    private const int MostPeople = 4;

    private const double Look = 1;

    public static void Run(string root)
    {
        var report = new Report(root, "timeline");
        report.Head(
            "job",
            "people",
            "adding up, min",
            "beside every film, min",
            "finish, min",
            "no order before, min",
            "saved over adding up"
        );
        var all = new (double Adding, double Finish)[MostPeople + 1];
        foreach (var demo in Demos)
        {
            var survey = SurveyFormat.Read(File.ReadAllBytes(Path.Combine(root, "demo", $"{demo}.json"))).Value!;
            var (plan, vehicle) = (Planner.Plan(survey), Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size));
            for (var people = 1; people <= MostPeople; people++)
            {
                Person[] crew = [.. Enumerable.Range(1, people).Select(p => new Person($"p{p}", [], [], []))];
                // Adding up is one person's: every task and every wait one after another, cut as one person cuts it.
                var one = PlanTasks.Of(plan, vehicle, [crew[0]], new Machines(1, 1), Grouping.Whole).AddingUp / 60.0;
                var layout = Layout.Of(plan, vehicle, crew, new Machines(1, 1)).Bettered(Look);
                var finish = layout.Schedule.Finish / 60.0;
                all[people] = (all[people].Adding + one, all[people].Finish + finish);
                report.Line(
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"| {demo} | {people} | {one:0} | {layout.Beside / 60.0:0} | {finish:0} | {layout.Bound / 60.0:0} | {100 * (1 - (finish / one)):0} % |"
                    )
                );
            }
        }

        for (var people = 1; people <= MostPeople; people++)
        {
            report.Line(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"| **all** | {people} | {all[people].Adding:0} | | {all[people].Finish:0} | | **{100 * (1 - (all[people].Finish / all[people].Adding)):0} %** |"
                )
            );
        }

        report.Keep();
        Ranges(root);
        Speeds(root);
    }

    /// <summary>How fast a moved task, a run under way and the days ahead are answered, in CPU.</summary>
    public static void Speeds(string root)
    {
        var report = new Report(root, "days");
        report.Head("what", "measured", "aim");
        Person[] crew = [new("p1", [], [], []), new("p2", [], [], [])];
        var (plans, answers, heres, tries, firsts) = (
            new List<(Plan, Vehicle)>(),
            new List<double>(),
            new List<double>(),
            new List<double>(),
            new List<double>()
        );
        foreach (var demo in Demos)
        {
            var survey = SurveyFormat.Read(File.ReadAllBytes(Path.Combine(root, "demo", $"{demo}.json"))).Value!;
            var (plan, vehicle) = (Planner.Plan(survey), Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size));
            plans.Add((plan, vehicle));
            var layout = Layout.Of(plan, vehicle, crew, new Machines(1, 1), tries: 3);
            firsts.Add(Cpu(() => layout = Layout.Of(plan, vehicle, crew, new Machines(1, 1))));
            var moved = layout.Schedule.Tasks[layout.Schedule.Tasks.Count / 2];
            var pinned = Layout.Pinned(layout.Instance, new Dictionary<string, int> { [moved.Key] = moved.Start + 300 });
            answers.Add(Cpu(() => new Greedy(pinned).Repeat(layout.Schedule), 5));
            var done = plan.Steps.Take(plan.Steps.Count / 2).Select(s => s.Key).ToHashSet();
            var soFar = new SoFar(
                layout.Schedule.Finish / 2,
                (s, _) => done.Contains(s.Key) ? int.MaxValue : 0,
                [],
                _ => false,
                new Dictionary<string, int>()
            );
            heres.Add(Cpu(() => Layout.FromHere(plan, vehicle, crew, new Machines(1, 1), soFar, layout), 5));
            tries.Add(Cpu(() => Layout.FromHere(plan, vehicle, crew, new Machines(1, 1), soFar, layout, tries: 12), 2));
        }

        // Eight vehicles, cold: by one, two and three people, given out, and laid into each other.
        IReadOnlyDictionary<int, Dictionary<int, Layout>> ways = new Dictionary<int, Dictionary<int, Layout>>();
        var modes = Cpu(() =>
            ways = plans
                .Select(
                    (p, n) =>
                        (
                            n,
                            Ways: Enumerable
                                .Range(1, 3)
                                .ToDictionary(
                                    k => k,
                                    k =>
                                        Layout.Of(
                                            p.Item1,
                                            p.Item2,
                                            [.. Enumerable.Range(1, k).Select(x => new Person($"p{x}", [], [], []))],
                                            new Machines(1, 1),
                                            tries: YardDays.Tries
                                        )
                                )
                        )
                )
                .ToDictionary(x => x.n, x => x.Ways)
        );
        var room = new YardRoom(4, 3, 2);
        IReadOnlyList<YardSlot> slots = [];
        YardJob[] jobs = [.. ways.Select(w => new YardJob(w.Key, [.. w.Value.Select(l => YardMode.Of(l.Key, l.Value))], null, 1))];
        var coarse = Cpu(() => slots = YardDays.Of(jobs, room, YardDays.Look)!);
        var time = new WorkingTime([.. Enumerable.Range(0, 5).Select(d => new Stretch((24 * d + 8) * 3600, (24 * d + 17) * 3600))]);
        Person[] people = [.. Enumerable.Range(1, room.People).Select(p => new Person($"p{p}", [], [.. time.Open], []))];
        var fine = Cpu(() =>
            YardTasks.Of(
                slots,
                slots.ToDictionary(s => s.Id, s => ways[s.Id][s.People]),
                people,
                new Machines(room.Washers, 1),
                room.Bays,
                time
            )
        );
        string Of(List<double> x) =>
            string.Create(CultureInfo.InvariantCulture, $"median {x.Order().ElementAt(x.Count / 2):0.0}, most {x.Max():0.0} ms");
        report.Row("a task moved by 5 minutes, in the order that stood, two people, 8 demos", Of(answers), "< 100 ms");
        report.Row("a run half done, laid out from there, in the order that stood", Of(heres), "");
        report.Row("the same with 12 orders tried", Of(tries), "");
        report.Row(
            "a moved task against a first layout (three cuts, 60 orders each)",
            string.Create(CultureInfo.InvariantCulture, $"{answers.Sum() / firsts.Sum():0.000}"),
            ""
        );
        report.Row("8 vehicles by one, two and three people, cold", modes, "");
        report.Row("given out over the days: 4 people, 3 bays, 2 washers", coarse, "");
        report.Row("laid into each other task by task", fine, "");
        report.Row("the days ahead, cold, all of it", modes + coarse + fine, "< 2 000 ms of CPU");
        report.Keep();
    }

    /// <summary>ms of CPU, the mean of some runs after one that warms up.</summary>
    private static double Cpu(Action work, int runs = 1)
    {
        if (runs > 1)
        {
            work();
        }

        var before = Process.GetCurrentProcess().TotalProcessorTime;
        for (var n = 0; n < runs; n++)
        {
            work();
        }

        return (Process.GetCurrentProcess().TotalProcessorTime - before).TotalMilliseconds / runs;
    }

    private static void Ranges(string root)
    {
        var report = new Report(root, "range");
        report.Head("what", "measured", "aim");
        var (over, seventy, width) = (new List<double>(), new List<double>(), new List<double>());
        var (plain, replay) = (new List<double>(), new List<double>());
        foreach (var demo in Demos)
        {
            var survey = SurveyFormat.Read(File.ReadAllBytes(Path.Combine(root, "demo", $"{demo}.json"))).Value!;
            var watch = Stopwatch.StartNew();
            var plan = Planner.Plan(survey);
            watch.Restart();
            plan = Planner.Plan(survey);
            plain.Add(watch.Elapsed.TotalMilliseconds);
            var worlds = plan.Worlds!;
            worlds.Draw(Worlds.Enough.All);
            watch.Restart();
            worlds.Draw(Worlds.Enough.All);
            replay.Add(watch.Elapsed.TotalMilliseconds);
            var (p90, p70) = (Draws.Quantile(worlds.Drawn.Minutes, 0.9), Draws.Quantile(worlds.Drawn.Minutes, 0.7));
            for (ulong seed = 1; seed <= 20; seed++)
            {
                var truth = worlds.Draw(Worlds.Enough.All, seed: 1000 + seed).Minutes;
                over.Add(100 * Draws.ShareOver(truth, p90));
                seventy.Add(100 * Draws.ShareOver(truth, p70));
            }

            width.Add(Draws.Of(worlds.Drawn.Minutes).Width / Draws.Of(worlds.Drawn.Minutes).Expected);
        }

        string Of(List<double> x, string unit) =>
            string.Create(CultureInfo.InvariantCulture, $"mean {x.Average():0.0}, {x.Min():0.0} to {x.Max():0.0} {unit}");
        report.Row("jobs over what was to be nine in ten, 8 demos × 20 seeds × 512 worlds", Of(over, "%"), "10 % ± 3");
        report.Row("jobs over what was to be seven in ten", Of(seventy, "%"), "30 % ± 5");
        report.Row("width of eight in ten, as part of the middle", Of([.. width.Select(w => 100 * w)], "%"), "");
        report.Row("512 worlds of a plan, one core", Of(replay, "ms"), "< 300 ms of CPU");
        report.Row(
            "the same against the plan itself, worlds included",
            string.Create(CultureInfo.InvariantCulture, $"{replay.Sum() / plain.Sum():0.00}"),
            ""
        );
        report.Keep();
    }
}
