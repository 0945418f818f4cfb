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
