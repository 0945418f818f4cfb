using System.Diagnostics;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.References;

namespace ToughStart.Bench;

/// <summary>What plans are like to follow, and how long they take: every demo job at every goal, and surveys as they come in.</summary>
internal static class PlansBench
{
    public static void Run(string root, int surveys)
    {
        var demos = Directory
            .EnumerateFiles(Path.Combine(root, "demo"), "*.json")
            .Order(StringComparer.Ordinal)
            .Select(f => SurveyFormat.Read(File.ReadAllBytes(f)).Value)
            .OfType<Survey>()
            .Where(s => IntakeHold.Check(s).Count == 0)
            .SelectMany(s => ToughStart.Core.Goal.All.Select(g => s with { Goal = g }))
            .ToArray();
        // Warm up until the runtime has compiled the search for good.
        foreach (var survey in demos)
        {
            Planner.Plan(survey);
        }

        var report = new Report(root, "plans");
        report.Head("what", "demo jobs at four goals", "surveys as they come in");
        var (a, b) = (Measure(demos), Measure([.. Followable.Plausible(surveys)]));
        Row("plans", x => x.Plans.Length, x => $"{x:0}");
        Row("steps, mean", x => x.Plans.Average(f => f.Steps), x => $"{x:0.0}");
        Row("steps, most", x => x.Plans.Max(f => f.Steps), x => $"{x:0}");
        Row("rounds of them, mean", x => x.Plans.Average(f => f.Trips), x => $"{x:0.0}");
        Row("zones touched dry, all plans", x => x.Plans.Sum(f => f.TouchedDry), x => $"{x:0}");
        Row("mixes below a vessel's smallest batch, all plans", x => x.Plans.Sum(f => f.TinyBatches), x => $"{x:0}");
        Row("second rinses, foams, shampoos, clay tools on a block, all plans", x => x.Plans.Sum(f => f.SplitDecisions), x => $"{x:0}");
        Row("steps under 0.15 m², a plan", x => x.Plans.Average(f => f.TinySteps), x => $"{x:0.00}");
        Row("steps at a wheel corner, mean", x => x.Plans.Average(f => f.MostAtACorner), x => $"{x:0.0}");
        Row("steps at a wheel corner, most", x => x.Plans.Max(f => f.MostAtACorner), x => $"{x:0}");
        Row("hands-on minutes, mean", x => x.Plans.Average(f => f.LabourMinutes), x => $"{x:0}");
        Row("time of a plan, median", x => x.Milliseconds[x.Milliseconds.Length / 2], x => $"{x:0} ms");
        Row("time of a plan, most", x => x.Milliseconds[^1], x => $"{x:0} ms");
        Row("CPU of a plan, mean", x => x.Cpu.Average(), x => $"{x:0} ms");
        Row("CPU of a plan, most", x => x.Cpu[^1], x => $"{x:0} ms");
        Row("gap shown, mean", x => x.Gaps.Average(), x => $"{x * 100:0.0} %");
        Row("gap shown, most", x => x.Gaps.Max(), x => $"{x * 100:0.0} %");
        report.Keep();

        void Row(string what, Func<Measured, double> of, Func<double, string> words) =>
            report.Line($"| {what} | {words(of(a))} | {words(of(b))} |");
    }

    private sealed record Measured(Followable[] Plans, double[] Milliseconds, double[] Cpu, double[] Gaps);

    private static Measured Measure(Survey[] surveys)
    {
        var plans = new List<Followable>();
        var times = new List<double>();
        var cpus = new List<double>();
        var gaps = new List<double>();
        foreach (var survey in surveys)
        {
            var (clock, cpu) = (Stopwatch.StartNew(), Environment.CpuUsage.TotalTime);
            var plan = Planner.Plan(survey);
            times.Add(clock.Elapsed.TotalMilliseconds);
            cpus.Add((Environment.CpuUsage.TotalTime - cpu).TotalMilliseconds);
            plans.Add(Followable.Of(survey, plan));
            gaps.Add(Planner.Prove(survey).Gap);
        }

        return new([.. plans], [.. times.Order()], [.. cpus.Order()], [.. gaps]);
    }
}
