using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Running;

namespace ToughStart.Bench;

/// <summary>How long a run takes to fold: a log of three hundred events of the caked pickup, and one event more.</summary>
internal static class RunBench
{
    private const int Events = 300;

    public static void Run(Survey survey, Report report, Func<int, Action, double> median)
    {
        var plan = Planner.Plan(survey);
        var ground = new RunGround(survey);
        var log = Log(plan, ground).Take(Events).ToArray();
        var state = ToughStart.Core.Running.Run.Fold(RunState.Start, log);
        report.Row($"a run of {Events} events folded", median(5, () => ToughStart.Core.Running.Run.Fold(RunState.Start, log)), "< 100 ms");
        var widest = plan.Steps.Where(s => s.Stage != ToughStart.Core.Stage.Dry).MaxBy(s => s.Zones.Count)!;
        var one = new RunEntry(
            ground,
            plan,
            new Observation(Guid.CreateVersion7(), Guid.Empty, widest.Key, widest.Zones, 1, null, null, null) { Plan = 1 }
        );
        var two = new RunEntry(ground, plan, one.Observation with { Id = Guid.CreateVersion7(), Zones = [.. widest.Zones.Take(2)] });
        report.Row("one more event: a round of it on two zones", median(9, () => ToughStart.Core.Running.Run.Fold(state, two)), "< 5 ms");
        report.Row(
            $"one more event: a round of the widest step, {widest.Zones.Count} zones",
            median(9, () => ToughStart.Core.Running.Run.Fold(state, one)),
            "< 5 ms"
        );
        var few = ToughStart.Core.Running.Run.Fold(RunState.Start, log[..3]);
        var (long300, short3) = (median(9, () => Replanner.ProgressOf(state, ground)), median(9, () => Replanner.ProgressOf(few, ground)));
        report.Row($"where {Events} events stand, as the planner takes it", long300);
        report.Row("where 3 events stand, as the planner takes it", short3);
    }

    /// <summary>Every step of the plan on its zones, two at a time, as people report it; then again from the start.</summary>
    private static IEnumerable<RunEntry> Log(Plan plan, RunGround ground)
    {
        var random = new Random(11);
        for (var turn = 0; ; turn++)
        {
            foreach (var step in plan.Steps.Where(s => s.Stage != ToughStart.Core.Stage.Dry))
            {
                foreach (var zones in step.Zones.Chunk(2))
                {
                    var answers = ObservationCheck.Answers(step);
                    var answer = answers.Count == 0 ? null : answers[random.Next(answers.Count - 1)];
                    yield return new RunEntry(
                        ground,
                        plan,
                        new Observation(
                            Guid.CreateVersion7(),
                            Guid.Empty,
                            step.Key,
                            zones,
                            turn == 0 ? step.Rounds : 0,
                            ObservationCheck.Looks(step, answer),
                            answer,
                            null
                        )
                        {
                            Plan = 1,
                            Elsewhere = turn > 0,
                        }
                    );
                }
            }
        }
    }
}
