using System.Collections.Immutable;
using Google.OrTools.Sat;
using ToughStart.Core.Contamination;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;

namespace ToughStart.References;

/// <summary>Random instances of the search problem, from a fixed seed.</summary>
internal static class Instances
{
    public const int Products = 8;

    /// <summary>Up to 5 kinds and 5 stages with everything on: load limits, floors, marring, shielding, residue, protection kept or stripped.</summary>
    public static ZoneProblem Tiny(Random r)
    {
        var c = Catalogue.Default;
        int[] pool =
        [
            c.Contaminant("mud").Index,
            c.Contaminant("grit").Index,
            c.Contaminant("road-film").Index,
            c.Contaminant("bug").Index,
            c.Contaminant("tar").Index,
            c.Contaminant("iron").Index,
            c.Contaminant("bonded-mix").Index,
            c.Contaminant("old-protection").Index,
        ];
        var kinds = pool.OrderBy(_ => r.Next()).Take(r.Next(2, 6)).ToArray();
        var keeps = r.Next(2) == 0 && kinds.Contains(22);
        var start = Empty();
        var target = new int[Kinds.Count];
        foreach (var k in kinds)
        {
            start[k] = r.Next(0, 24);
            target[k] = k == 22 && keeps ? 0 : r.Next(20, 36);
        }

        target[Kinds.Residue] = r.Next(26, 41);
        var gates = c.LoadLimits.ToArray();
        var stages = Enumerable
            .Range(0, r.Next(2, 6))
            .Select(s => new StageOptions(
                s,
                Enumerable
                    .Range(0, r.Next(1, 4))
                    .Select(_ => new Option
                    {
                        Product = r.Next(-1, 6),
                        MaxRounds = r.Next(1, 3),
                        Cost = r.Next(50, 4000),
                        Marring = r.Next(2) == 0 ? 0 : r.Next(100, 20000),
                        Bite = r.Next(0, 200_000),
                        Dragged = gates[1].Weights,
                        LoadLimit = r.Next(3) > 0 ? gates[r.Next(gates.Length)] : null,
                        AddsResidue = r.Next(3) == 0 ? r.Next(1, 4) * 100_000 : 0,
                        Leaves = (Left)r.Next(0, 4),
                        Clears = (Left)r.Next(0, 4),
                        Forbids = r.Next(5) == 0 ? Left.Reducer : Left.None,
                        Effects = kinds
                            .Append(Kinds.Residue)
                            .Where(_ => r.Next(3) > 0)
                            .Select(k => new Effect(k, r.Next(1, 26), r.Next(8, 61)))
                            .ToImmutableArray(),
                    })
                    .ToArray(),
                r.Next(5) == 0 ? r.Next(0, 3000) : 0
            ))
            .ToArray();
        return new ZoneProblem
        {
            Stages = stages,
            Start = start,
            Target = target,
            ShortfallPerLevel = r.Next(100, 4000),
            Layer = c.Contaminants.Select(k => k.Layer).Append(0).ToArray(),
            Keep = keeps ? Enumerable.Range(0, 61).Select(n => (long)(6000 * Levels.LoadOf(n))).ToArray() : null,
            MustClear = r.Next(3) == 0 ? Left.Reducer : Left.None,
            LeftPenalty = 5000,
        };
    }

    /// <summary>A tiny instance with two layers in it: somewhere an option leaves a wet film that only options of the next stage may follow, and must.</summary>
    public static ZoneProblem Layered(Random r)
    {
        var p = Tiny(r);
        if (p.Stages.Count < 2)
        {
            return p;
        }

        var at = r.Next(p.Stages.Count - 1);
        var wet = Left.FirstWet;
        StageOptions With(StageOptions s, Func<Option, Option> change) =>
            s with
            {
                Options = [.. s.Options, .. s.Options.Take(2).Select(change)],
            };
        var stages = p
            .Stages.Select(s => s with { Options = [.. s.Options.Select(o => o with { Forbids = o.Forbids | Left.Wet })] })
            .ToArray();
        stages[at] = With(stages[at], o =>
            o with
            {
                Leaves = o.Leaves | wet,
                MaxRounds = 1,
                Cost = o.Cost * 2 / 3,
                Effects = [.. o.Effects.Select(e => e with { Levels = e.Levels + 4 })],
            }
        );
        stages[at + 1] = With(stages[at + 1], o =>
            o with
            {
                Needs = wet,
                Clears = o.Clears | wet,
                Leaves = o.Leaves & ~wet,
                Forbids = o.Forbids & ~Left.Wet,
                MaxRounds = 1,
            }
        ) with
        {
            Ends = Left.Wet,
        };
        return p with { Stages = stages };
    }

    /// <summary>No load limits, floors, marring, shielding or residue: a covering problem any solver can state.</summary>
    public static ZoneProblem Additive(Random r, int kindCount, int stageCount)
    {
        var start = Empty();
        var target = new int[Kinds.Count];
        for (var k = 0; k < kindCount; k++)
        {
            start[k] = r.Next(0, 15);
            target[k] = r.Next(24, 45);
        }

        return new ZoneProblem
        {
            Stages = Enumerable
                .Range(0, stageCount)
                .Select(s => new StageOptions(
                    s,
                    Enumerable
                        .Range(0, r.Next(2, 5))
                        .Select(_ => new Option
                        {
                            Product = r.Next(0, Products),
                            MaxRounds = r.Next(1, 4),
                            Cost = r.Next(300, 5000),
                            Effects = Enumerable
                                .Range(0, kindCount)
                                .Where(_ => r.Next(5) < 2)
                                .Select(k => new Effect(k, r.Next(2, 20), Levels.Nil))
                                .ToImmutableArray(),
                        })
                        .Where(o => o.Effects.Length > 0)
                        .ToArray()
                ))
                .ToArray(),
            Start = start,
            Target = target,
            ShortfallPerLevel = 900,
        };
    }

    private static int[] Empty() => Enumerable.Repeat(Levels.Nil, Kinds.Count).ToArray();
}

/// <summary>The additive family in the words of a general-purpose solver (Google OR-Tools CP-SAT).</summary>
internal static class CpSat
{
    public static long Solve(ZoneProblem p) => Solve([p], []);

    /// <summary>Several zones that share what is mixed: each product used anywhere costs its set-up once.</summary>
    public static long Solve(IReadOnlyList<ZoneProblem> zones, IReadOnlyList<long> setUp)
    {
        var m = new CpModel();
        var cost = LinearExpr.NewBuilder();
        var open = setUp.Select(_ => m.NewBoolVar("")).ToArray();
        for (var p = 0; p < open.Length; p++)
        {
            cost.AddTerm(open[p], setUp[p]);
        }

        foreach (var zone in zones)
        {
            Zone(m, cost, zone, open);
        }

        m.Minimize(cost);
        var solver = new CpSolver { StringParameters = "num_workers:1,max_time_in_seconds:20" };
        return solver.Solve(m) == CpSolverStatus.Optimal
            ? (long)Math.Round(solver.ObjectiveValue)
            : throw new InvalidOperationException("the reference found no optimum");
    }

    private static void Zone(CpModel m, LinearExprBuilder cost, ZoneProblem p, BoolVar[] open)
    {
        var gained = new Dictionary<int, LinearExprBuilder>();
        foreach (var stage in p.Stages)
        {
            var uses = new List<ILiteral>();
            foreach (var o in stage.Options)
            {
                var used = m.NewBoolVar("");
                var rounds = m.NewIntVar(0, o.MaxRounds, "");
                m.Add(rounds == 0).OnlyEnforceIf(used.Not());
                if (o.Product >= 0 && o.Product < open.Length)
                {
                    m.AddImplication(used, open[o.Product]);
                }

                uses.Add(used);
                cost.AddTerm(rounds, o.Cost);
                foreach (var e in o.Effects)
                {
                    (gained.TryGetValue(e.Kind, out var b) ? b : gained[e.Kind] = LinearExpr.NewBuilder()).AddTerm(rounds, e.Levels);
                }
            }

            m.AddAtMostOne(uses);
        }

        for (var k = 0; k < Kinds.Count; k++)
        {
            var need = p.Target[k] - p.Start[k];
            if (need <= 0)
            {
                continue;
            }

            var shortBy = m.NewIntVar(0, need, "");
            var sum = gained.TryGetValue(k, out var b) ? b : LinearExpr.NewBuilder();
            sum.Add(shortBy);
            m.Add((LinearExpr)sum >= need);
            cost.AddTerm(shortBy, p.ShortfallPerLevel);
        }
    }
}
