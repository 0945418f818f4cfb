using System.Diagnostics;
using ToughStart.Core.Planning;
using ToughStart.References;

namespace ToughStart.Bench;

/// <summary>
/// The zone search beside a general-purpose solver (Google OR-Tools CP-SAT 9.15, one worker) on the same random additive instances of growing size,
/// in turn. Sizes at which ours is the slower are said like the others.
/// </summary>
internal static class AdditiveBench
{
    private static readonly (int Kinds, int Stages)[] Sizes = [(3, 4), (4, 6), (6, 8), (8, 8), (10, 9), (12, 10), (16, 14), (20, 17)];

    private const int Instances = 8;

    public static void Run(Report report)
    {
        foreach (var (kinds, stages) in Sizes)
        {
            var random = new Random((100 * kinds) + stages);
            var (ours, theirs) = (new Cost(), new Cost());
            var (proved, gap) = (0, 0.0);
            for (var i = 0; i < Instances; i++)
            {
                var p = References.Instances.Additive(random, kinds, stages);
                var found = ours.Of(() => ZoneSearch.Solve(p));
                var best = theirs.Of(() => CpSat.Solve(p));
                if (best < found.Bound || best > found.Cost || (found.Proved && best != found.Cost))
                {
                    throw new InvalidOperationException("the two disagree");
                }

                proved += found.Proved ? 1 : 0;
                gap = Math.Max(gap, (found.Cost - found.Bound) / (double)found.Cost);
            }

            var all = proved == Instances;
            report.Row(
                $"{kinds} kinds × {stages} slots: ours, CP-SAT, each of {Instances}; CPU {ours.Cpu / Instances:0.0} and {theirs.Cpu / Instances:0.0} ms",
                $"{ours.Wall / Instances:0.0}, {theirs.Wall / Instances:0.0} ms"
            );
            report.Row(
                all ? "ratio CP-SAT : ours, all proved" : $"ratio CP-SAT : ours, {proved} proved, gap shown at most {gap:0.0%}",
                $"{theirs.Wall / ours.Wall:0.0} : 1",
                kinds <= 8 ? "≥ 10 : 1" : "≥ 1 : 1"
            );
        }
    }

    /// <summary>Milliseconds of one side: the better of two goes at each instance, so that what else the machine does weighs little.</summary>
    private sealed class Cost
    {
        public double Wall { get; private set; }

        public double Cpu { get; private set; }

        public T Of<T>(Func<T> work)
        {
            var (wall, cpu) = (double.MaxValue, double.MaxValue);
            T? result = default;
            for (var i = 0; i < 2; i++)
            {
                var before = Process.GetCurrentProcess().TotalProcessorTime;
                var clock = Stopwatch.GetTimestamp();
                result = work();
                wall = Math.Min(wall, Stopwatch.GetElapsedTime(clock).TotalMilliseconds);
                cpu = Math.Min(cpu, (Process.GetCurrentProcess().TotalProcessorTime - before).TotalMilliseconds);
            }

            Wall += wall;
            Cpu += cpu;
            return result!;
        }
    }
}
