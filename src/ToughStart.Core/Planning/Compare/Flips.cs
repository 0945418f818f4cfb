using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Planning;

/// <summary>A finding that would change the work on its zones if it were another grade.</summary>
/// <param name="From">Grade found; 0 = looked, none.</param>
/// <param name="To">The nearest grade that changes the work, in this direction.</param>
/// <param name="Change">What would be done instead, in words.</param>
/// <param name="Minutes">Hands-on minutes more or less on those zones.</param>
public sealed record Flip(string Contaminant, int From, int To, IReadOnlyList<string> Zones, string Change, Minutes Minutes)
{
    public string Words =>
        $"{Catalogue.Default.Contaminant(Contaminant).Name} {Grade(To)} instead of {Grade(From)} on {(Zones.Count == 1 ? Limits.Words(Zones[0]) : Zones.Count + " zones")}: {Change}";

    private static string Grade(int grade) =>
        grade switch
        {
            0 => "none",
            1 => "trace",
            2 => "light",
            3 => "heavy",
            _ => "caked",
        };
}

/// <summary>What would change a plan, as far as there was time to look.</summary>
/// <param name="LookedAt">Findings that were tried otherwise.</param>
/// <param name="Of">Findings there are.</param>
public sealed record FlipReport(IReadOnlyList<Flip> Found, int LookedAt, int Of)
{
    public bool IsWhole => LookedAt == Of;
}

/// <summary>What would change a plan: each finding is made worse and better, a grade at a time, and its zone planned again.</summary>
public static class Flips
{
    /// <summary>The nearest flips of every finding, those that move most first.</summary>
    public static IReadOnlyList<Flip> Of(Survey survey) => Of(survey, Effort.Unbounded).Found;

    /// <summary>The nearest flips of as many findings as there is time for.</summary>
    public static FlipReport Of(Survey survey, Effort effort)
    {
        if (IntakeHold.Check(survey).Count > 0)
        {
            return new([], 0, 0);
        }

        var (looked, of) = (0, survey.Zones.Sum(z => z.Findings.Count));
        var job = new JobSearch(survey, options: new PlanOptions { Effort = effort });
        var (c, states) = (job.C, job.States);
        var (builder, _, _, _, _, _, _, solutions, work) = job.Solve();
        var used = solutions.Aggregate(UInt128.Zero, (m, s) => m | s.Used);
        var known = new Dictionary<string, (ZoneProblem Problem, ZoneSolution Solution)>();
        var flips = new List<(string Kind, int From, int To, string Change, string Zone, Minutes Minutes)>();
        for (var i = 0; i < states.Count; i++)
        {
            var z = states[i];
            if (z.Survey is null)
            {
                continue;
            }

            var now = work[i];
            foreach (var f in z.Survey.Findings.TakeWhile(_ => !effort.IsEnough))
            {
                effort.Check();
                looked++;
                foreach (var way in new[] { 1, -1 })
                {
                    for (var grade = f.Grade + way; grade is >= 0 and <= 4; grade += way)
                    {
                        var other = ZoneState.With(z, f with { Grade = grade }, survey, c);
                        var (problem, signature) = job.Build(builder, other);
                        if (!known.TryGetValue(signature, out var solved))
                        {
                            solved = known[signature] = (problem, Solve(problem, used, builder.SetUp, effort));
                        }

                        var then = ZoneWork.Replay(other, problem, solved.Solution, c);
                        if (Changed(now, then) is { } change)
                        {
                            flips.Add(
                                (
                                    f.Contaminant,
                                    f.Grade,
                                    grade,
                                    change,
                                    z.Zone.Id,
                                    then.Deeds.Sum(d => ZoneWork.Labour(d, other, c)) - now.Deeds.Sum(d => ZoneWork.Labour(d, z, c))
                                )
                            );
                            break;
                        }
                    }
                }
            }
        }

        var found = flips
            .GroupBy(f => (f.Kind, f.From, f.To, f.Change))
            .Select(g => new Flip(
                g.Key.Kind,
                g.Key.From,
                g.Key.To,
                g.Select(f => f.Zone).ToArray(),
                g.Key.Change,
                Math.Round(g.Sum(f => f.Minutes), 1)
            ))
            .OrderBy(f => Math.Abs(f.To - f.From))
            .ThenByDescending(f => Math.Abs(f.Minutes))
            .ThenBy(f => f.Contaminant, StringComparer.Ordinal)
            .ThenBy(f => f.Zones[0], StringComparer.Ordinal)
            .ToArray();
        return new(found, looked, of);
    }

    /// <summary>With what is mixed anyway; or with one product more where that pays for its set-up.</summary>
    private static ZoneSolution Solve(ZoneProblem problem, UInt128 used, long[] setUp, Effort effort)
    {
        var search = new ZoneSearch(problem, effort: effort);
        var here = search.Solve(used);
        var free = search.Solve(UInt128.MaxValue);
        long extra = 0;
        for (var p = 0; p < setUp.Length; p++)
        {
            extra += ((free.Used & ~used) >> p & 1) != 0 ? setUp[p] : 0;
        }

        return free.Cost + extra < here.Cost ? free : here;
    }

    /// <summary>What is done otherwise, in words; null when the same things are done as often.</summary>
    private static string? Changed(ZoneWork now, ZoneWork then)
    {
        var (a, b) = (now.Deeds.ToDictionary(d => d.Slot), then.Deeds.ToDictionary(d => d.Slot));
        var parts = new List<string>();
        foreach (var slot in a.Keys.Union(b.Keys).OrderBy(s => s.Index))
        {
            var (x, y) = (a.GetValueOrDefault(slot), b.GetValueOrDefault(slot));
            if (x is null)
            {
                parts.Add($"{y!.Treatment.Name}{Times(y)} comes in");
            }
            else if (y is null)
            {
                parts.Add($"no {x.Treatment.Name}");
            }
            else if (x.Treatment.Id != y.Treatment.Id)
            {
                parts.Add($"{y.Treatment.Name} instead of {x.Treatment.Name}");
            }
            else if (x.Rounds != y.Rounds)
            {
                parts.Add($"{y.Treatment.Name} ×{y.Rounds} instead of ×{x.Rounds}");
            }
            else if (x.StrengthIndex != y.StrengthIndex)
            {
                parts.Add($"{y.Treatment.Name} at {y.Strength} instead of {x.Strength}");
            }
        }

        return parts.Count == 0 ? null : string.Join(", ", parts);

        static string Times(Deed d) => d.Rounds > 1 ? $" ×{d.Rounds}" : "";
    }
}
