using System.Collections.Immutable;
using ToughStart.Core.Contamination;

namespace ToughStart.Core.Planning;

/// <summary>What is planned as one: a zone by itself, or the parts of a wheel, which nobody works one after another.</summary>
/// <param name="Zones">Places of its zones among all zones of the job.</param>
/// <param name="OptionOf">For each zone, stage and option of the unit: the option of the zone's own problem.</param>
internal sealed record Unit(IReadOnlyList<int> Zones, ZoneProblem Problem, string Signature, IReadOnlyList<int[][]> OptionOf)
{
    /// <summary>The units of a job: wheels that stand alike in all their parts are one, everything else is by itself.</summary>
    /// <param name="standsAlike">Have two zones been worked alike so far?</param>
    public static IReadOnlyList<Unit> Of(
        IReadOnlyList<ZoneState> states,
        IReadOnlyList<(ZoneProblem Problem, string Signature)> problems,
        Func<string, string, bool> standsAlike
    )
    {
        var units = new List<Unit>();
        foreach (var group in states.Select((z, i) => (z.Zone, i)).GroupBy(x => x.Zone.Wheel ?? x.Zone.Id))
        {
            // A part that is left alone does not keep the others from being worked.
            var worked = group.Select(x => x.i).Where(i => problems[i].Problem.Stages.Any(s => s.Options.Count > 0)).ToArray();
            var together = worked.Length > 1 && worked.All(i => standsAlike(states[worked[0]].Zone.Id, states[i].Zone.Id)) ? worked : [];
            if (together.Length > 0)
            {
                units.Add(Together(together, [.. together.Select(i => problems[i].Problem)]));
            }

            units.AddRange(
                group.Select(x => x.i).Except(together).Select(i => new Unit([i], problems[i].Problem, problems[i].Signature, []))
            );
        }

        return units;
    }

    /// <summary>The same zones with other problems.</summary>
    public Unit With(IReadOnlyList<(ZoneProblem Problem, string Signature)> problems) =>
        problems.Count == 1
            ? new(Zones, problems[0].Problem, problems[0].Signature, [])
            : Together(Zones, [.. problems.Select(p => p.Problem)]);

    /// <summary>One problem of several: what all allow, at what all cost together, as far as it takes the least of them.</summary>
    public static Unit Together(IReadOnlyList<int> zones, IReadOnlyList<ZoneProblem> parts)
    {
        var first = parts[0];
        var optionOf = parts.Select(_ => new int[first.Stages.Count][]).ToArray();
        var stages = new StageOptions[first.Stages.Count];
        for (var s = 0; s < stages.Length; s++)
        {
            var shared = new List<(Option Option, int[] Of)>();
            var at = parts.Select(p => Places(p.Stages[s].Options)).ToArray();
            foreach (var option in first.Stages[s].Options)
            {
                var of = at.Select(places => places.GetValueOrDefault(Key(option), -1)).ToArray();
                if (of.All(i => i >= 0))
                {
                    shared.Add((Joint([.. parts.Select((p, m) => p.Stages[s].Options[of[m]])]), of));
                }
            }

            stages[s] = first.Stages[s] with
            {
                Options = [.. shared.Select(x => x.Option)],
                SkipCost = parts.Sum(p => p.Stages[s].SkipCost),
                Joins = shared.Any(x => x.Option.Whole) ? parts.Sum(p => p.Stages[s].Joins) : 0,
            };
            for (var m = 0; m < parts.Count; m++)
            {
                optionOf[m][s] = [.. shared.Select(x => x.Of[m])];
            }
        }

        var problem = first with
        {
            Stages = stages,
            Start = [.. first.Start.Select((_, k) => parts.Min(p => p.Start[k]))],
            Target = [.. first.Target.Select((_, k) => parts.Max(p => p.Target[k]))],
            Asked = first.Asked is null ? null : [.. first.Asked.Select((_, k) => parts.Max(p => p.Asked![k]))],
            ShortfallPerLevel = parts.Sum(p => p.ShortfallPerLevel),
            Keep = parts.All(p => p.Keep is null)
                ? null
                : [.. Enumerable.Range(0, Levels.Nil + 1).Select(n => parts.Sum(p => p.Keep?[n] ?? 0))],
            LeftAtStart = parts.Aggregate(Left.None, (all, p) => all | p.LeftAtStart),
            MustClear = parts.Aggregate(Left.None, (all, p) => all | p.MustClear),
            LeftPenalty = parts.Sum(p => p.LeftPenalty),
        };
        return new(zones, problem, ProblemBuilder.Signature(problem), optionOf);
    }

    /// <summary>The unit's solution as its zones do it. The first zone carries what the unit costs.</summary>
    public IEnumerable<(int Zone, ZoneSolution Solution)> Parts(ZoneSolution solution) =>
        Zones.Select(
            (zone, m) =>
                (
                    zone,
                    OptionOf.Count == 0
                        ? solution
                        : solution with
                        {
                            Choices = [.. solution.Choices.Select(c => c with { Option = OptionOf[m][c.Stage][c.Option] })],
                            Cost = m == 0 ? solution.Cost : 0,
                            Bound = m == 0 ? solution.Bound : 0,
                        }
                )
        );

    /// <summary>Where each option stands, the first of those that are alike.</summary>
    private static Dictionary<(int, int, int, bool, Left, int), int> Places(IReadOnlyList<Option> options)
    {
        var places = new Dictionary<(int, int, int, bool, Left, int), int>();
        for (var o = 0; o < options.Count; o++)
        {
            places.TryAdd(Key(options[o]), o);
        }

        return places;
    }

    private static (int, int, int, bool, Left, int) Key(Option o) => (o.Treatment, o.Strength, o.Pass, o.UnderFoam, o.Needs, o.Seals);

    private static Option Joint(IReadOnlyList<Option> of) =>
        of[0] with
        {
            Effects = of[0]
                .Effects.Select(e => of.Select(o => o.Effects.FirstOrDefault(x => x.Kind == e.Kind)).ToArray())
                .Where(same => same.All(e => e.Levels > 0))
                .Select(same => new Effect(same[0].Kind, same.Min(e => e.Levels), same.Min(e => e.Floor)))
                .ToImmutableArray(),
            MaxRounds = of.Min(o => o.MaxRounds),
            Again = of.Min(o => o.MaxRounds) > 1 ? of[0].Again : -1,
            AddsResidue = of.Max(o => o.AddsResidue),
            Cost = of.Sum(o => o.Cost),
            CostOfProduct = of.Sum(o => o.CostOfProduct),
            CostOfStress = of.Sum(o => o.CostOfStress),
            Stress = of.Sum(o => o.Stress),
            Marring = of.Sum(o => o.Marring),
            Whole = of.All(o => o.Whole),
        };
}
