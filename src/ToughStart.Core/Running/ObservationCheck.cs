using ToughStart.Core.Chemistry;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Running;

/// <summary>What may be observed of a plan: one set of rules for the form, the API and the log.</summary>
public static class ObservationCheck
{
    /// <summary>Most zones, and most rounds of one report.</summary>
    public const int MostZones = 400;

    /// <summary>Answers that may be given in a step, "could not tell" last; empty where nothing is looked at.</summary>
    public static IReadOnlyList<string> Answers(Step step) =>
        step.Until is { } u && Sense.Of(u.Observe, step.Stage, Catalogue.Default) is { } sense
            ? [.. sense.Words, .. step.Stage == Stage.Clay ? new[] { Lumps } : [], Observation.Inconclusive]
            : [];

    /// <summary>Answers to a test, "could not tell" last.</summary>
    public static IReadOnlyList<string> Answers(PlannedTest test) => [.. SurveyWords.Tests[test.Test], Observation.Inconclusive];

    /// <summary>The answer that is seen on the clay, not felt on the panel.</summary>
    public const string Lumps = "black-lumps";

    /// <summary>What is looked at when a step gets this answer.</summary>
    public static string? Looks(Step step, string? answer) =>
        answer is null ? null
        : answer == Lumps ? "clayFace"
        : step.Until?.Observe;

    /// <summary>What is wrong with an observation of a plan; empty = it may be written down.</summary>
    public static IReadOnlyList<Problem> Check(Plan plan, Observation o)
    {
        var problems = new List<Problem>();
        void Refuse(string field, string message, IReadOnlyList<string>? allowed = null) => problems.Add(new(field, message, allowed));
        if (o.Id == Guid.Empty)
        {
            Refuse("id", "is missing");
        }

        if (o.TakesBack is not null)
        {
            if (o.Rounds != 0 || o.Result is not null)
            {
                Refuse("takesBack", "an entry takes another back or says something of its own, not both");
            }

            return problems;
        }

        var step = plan.Steps.FirstOrDefault(s => s.Key == o.StepKey);
        var test = step is null ? plan.Tests.FirstOrDefault(t => Observables.TestKey(t) == o.StepKey) : null;
        if (step is null && test is null)
        {
            Refuse(
                "step",
                $"'{Shorten(o.StepKey)}' is no step and no test of this plan",
                [.. plan.Steps.Select(s => s.Key), .. plan.Tests.Select(Observables.TestKey)]
            );
            return problems;
        }

        var zones = step?.Zones ?? test!.Zones;
        if (o.Zones is not { Count: > 0 and <= MostZones })
        {
            Refuse("zones", $"name 1 to {MostZones} zones of the step", zones);
        }
        else if (o.Zones.Where(z => !zones.Contains(z)).Take(3).ToArray() is { Length: > 0 } others)
        {
            Refuse("zones", $"{string.Join(", ", others.Select(Shorten))}: not in this {(step is null ? "test" : "step")}", zones);
        }

        var most = step is null ? 0 : Math.Max(step.Rounds, step.Until?.MaxRounds ?? step.Rounds);
        if (o.Rounds < 0 || o.Rounds > most)
        {
            Refuse("rounds", step is null ? "a test is looked at, nothing is done in it: 0" : $"must be a whole number from 0 to {most}");
        }

        var answers = step is null ? Answers(test!) : Answers(step);
        if (o.Result is { } answer && !answers.Contains(answer))
        {
            Refuse(
                "result",
                answers.Count == 0 ? "nothing is looked at in this step" : $"'{Shorten(answer)}' is not an answer here",
                answers
            );
        }
        else if (o.Result is not null && o.Observe != (step is null ? test!.Test : Looks(step, o.Result)))
        {
            Refuse("observe", "is not what is looked at here", [(step is null ? test!.Test : Looks(step, o.Result)) ?? ""]);
        }

        if (o.Because is not null && !SurveyWords.Becauses.Contains(o.Because))
        {
            Refuse("because", $"'{Shorten(o.Because)}' is not a reason we know", SurveyWords.Becauses);
        }

        if (o.Rounds == 0 && o.Result is null)
        {
            Refuse("rounds", "nothing done and nothing seen: there is nothing to write down");
        }

        Range("strength", o.Strength, 0.0001, 1, "of product on the panel");
        Range("dwellMinutes", o.DwellMinutes, 0, 60, "minutes");
        Range("filmC", o.FilmC, -30, 120, "°C");
        return problems;

        void Range(string field, double? value, double low, double high, string unit)
        {
            if (value is { } v && !(v >= low && v <= high))
            {
                Refuse(field, FormattableString.Invariant($"must be from {low} to {high} {unit}"));
            }
        }
    }

    private static string Shorten(string text) => StrictJson.Shorten(text);
}
