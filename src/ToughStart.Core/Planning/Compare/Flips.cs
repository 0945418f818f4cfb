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
    /// <summary>
    /// Minutes of cost more or less: work, product, wear and what stays. Worse dirt never costs less, though its work may be shorter.
    /// </summary>
    public Minutes Cost { get; init; }

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
        var found = job.Solve();
        var (builder, work) = (found.Builder, found.Work);
        var unitOf = found.Units.SelectMany(u => u.Zones.Select(z => (z, u))).ToDictionary(x => x.z, x => x.u);
        var known = new Dictionary<(string, PassSet), ZoneSolution>();
        var flips = new List<(string Kind, int From, int To, string Change, string Zone, Minutes Minutes, double Cost)>();
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
                        var (unit, zones) = (unitOf[i], Changed(states, unitOf[i], i, f with { Grade = grade }, survey, c));
                        var problems = zones.Select(o => job.Build(builder, o)).ToArray();
                        var changed = unit.With(problems);
                        var solved = Solved(changed, unit);
                        var at = unit.Zones.ToList().IndexOf(i);
                        var other = zones[at];
                        var then = ZoneWork.Replay(other, problems[at].Problem, changed.Parts(solved).ElementAt(at).Solution, c);
                        if (Changed(now, then) is { } change)
                        {
                            flips.Add(
                                (
                                    f.Contaminant,
                                    f.Grade,
                                    grade,
                                    change,
                                    z.Zone.Id,
                                    then.Deeds.Sum(d => ZoneWork.Labour(d, other, c)) - now.Deeds.Sum(d => ZoneWork.Labour(d, z, c)),
                                    (solved.Cost - Solved(unit, unit).Cost) / 1000.0
                                )
                            );
                            break;
                        }
                    }
                }
            }
        }

        var lines = flips
            .GroupBy(f => (f.Kind, f.From, f.To, f.Change))
            .Select(g => new Flip(
                g.Key.Kind,
                g.Key.From,
                g.Key.To,
                g.Select(f => f.Zone).ToArray(),
                g.Key.Change,
                Math.Round(g.Sum(f => f.Minutes), 1)
            )
            {
                Cost = Math.Round(g.Sum(f => f.Cost), 3),
            })
            .OrderBy(f => Math.Abs(f.To - f.From))
            .ThenByDescending(f => Math.Abs(f.Minutes))
            .ThenBy(f => f.Contaminant, StringComparer.Ordinal)
            .ThenBy(f => f.Zones[0], StringComparer.Ordinal)
            .ToArray();
        return new(lines, looked, of);

        // With the passes that are open anyway, or one more where that pays for itself.
        ZoneSolution Solved(Unit asked, Unit planned)
        {
            var (reach, prices) = found.Reach(planned);
            if (!known.TryGetValue((asked.Signature, reach), out var solved))
            {
                solved = known[(asked.Signature, reach)] = new ZoneSearch(asked.Problem, effort: effort).Solve(reach, prices: prices);
            }

            return solved;
        }
    }

    /// <summary>The zones of a unit when one finding of one of them is another.</summary>
    private static ZoneState[] Changed(IReadOnlyList<ZoneState> states, Unit unit, int zone, Finding finding, Survey survey, Catalogue c)
    {
        var zones = unit
            .Zones.Select(z => z == zone ? ZoneState.With(states[z], finding, survey, c) : ZoneState.With(states[z], survey, c))
            .ToArray();
        var shared = ZoneState.AsOne([.. zones.Select(z => z.Beliefs)]);
        return zones.Length == 1 ? zones : [.. zones.Select(z => z with { Beliefs = shared })];
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
