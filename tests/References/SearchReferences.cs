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
                        Pass = r.Next(-1, 6),
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
                            Pass = (s * Products) + r.Next(0, Products),
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

    /// <summary>Products alone: a pass for each slot a product may be used in, free to open, so that only the set-up counts.</summary>
    public static PassBook Book(IReadOnlyList<long> setUps) =>
        new([.. Enumerable.Range(0, MostStages * Products).Select(i => new Pass(i, default, 0, i % Products, -1))], setUps);

    /// <summary>Passes of these products, in every slot.</summary>
    public static PassSet Passes(Func<int, bool> product) =>
        PassSet.Of(Enumerable.Range(0, MostStages * Products).Where(i => product(i % Products)));

    private const int MostStages = 10;

    /// <summary>
    /// A small vehicle: units that share passes with fees for the first and for further rounds, products, block decisions and groups.
    /// </summary>
    public static (ZoneProblem[] Units, PassBook Book) Vehicle(Random r)
    {
        const int Stages = 4,
            Ways = 3;
        var setUps = Enumerable.Range(0, Products).Select(_ => (long)r.Next(0, 3000)).ToArray();
        var passes = new List<Pass>();
        var whole = Enumerable.Range(0, Stages).Select(_ => r.Next(2) == 0).ToArray();
        for (var s = 0; s < Stages; s++)
        {
            for (var w = 0; w < Ways; w++)
            {
                var key = new PassKey(ToughStart.Core.Vehicles.Block.Body, Place.All[s], w, 0, false, false);
                passes.Add(new(passes.Count, key, r.Next(200, 4000), r.Next(-1, Products), whole[s] ? s : -1));
                passes.Add(new(passes.Count, key with { Again = true }, r.Next(100, 2000), -1, -1, passes.Count - 1));
            }
        }

        ZoneProblem Unit()
        {
            var p = Additive(r, 4, Stages);
            return p with
            {
                Stages =
                [
                    .. p.Stages.Select(
                        (stage, s) =>
                            stage with
                            {
                                Options =
                                [
                                    .. stage
                                        .Options.Take(Ways)
                                        .Select(
                                            (o, w) =>
                                                o with
                                                {
                                                    Treatment = w,
                                                    Pass = ((s * Ways) + w) * 2,
                                                    Again = o.MaxRounds > 1 ? (((s * Ways) + w) * 2) + 1 : -1,
                                                    Whole = whole[s],
                                                }
                                        ),
                                ],
                                Joins = whole[s] && stage.Options.Count > 0 ? r.Next(500, 6000) : 0,
                            }
                    ),
                ],
            };
        }

        return ([.. Enumerable.Range(0, r.Next(3, 7)).Select(_ => Unit())], new(passes, setUps));
    }

    private static int[] Empty() => Enumerable.Repeat(Levels.Nil, Kinds.Count).ToArray();
}

/// <summary>The additive family in the words of a general-purpose solver (Google OR-Tools CP-SAT).</summary>
internal static class CpSat
{
    public static long Solve(ZoneProblem p) => Solve([p], null);

    /// <summary>
    /// Several zones that share passes and what is mixed for them: each pass opened costs its fee once, each product its set-up once; of a group one
    /// pass is open at most.
    /// </summary>
    public static long Solve(IReadOnlyList<ZoneProblem> zones, PassBook? book)
    {
        var m = new CpModel();
        var cost = LinearExpr.NewBuilder();
        var open = (book?.Passes ?? []).Select(_ => m.NewBoolVar("")).ToArray();
        var mixed = (book?.SetUps ?? []).Select(_ => m.NewBoolVar("")).ToArray();
        foreach (var pass in book?.Passes ?? [])
        {
            cost.AddTerm(open[pass.Index], pass.Fee);
            if (pass.Product >= 0)
            {
                m.AddImplication(open[pass.Index], mixed[pass.Product]);
            }
        }

        for (var p = 0; p < mixed.Length; p++)
        {
            cost.AddTerm(mixed[p], book!.SetUps[p]);
        }

        foreach (var group in (book?.Passes ?? []).Where(p => p.Group >= 0).GroupBy(p => p.Group))
        {
            m.AddAtMostOne(group.Select(p => (ILiteral)open[p.Index]));
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
                m.Add(rounds >= 1).OnlyEnforceIf(used);
                if (o.Pass >= 0 && open.Length > 0)
                {
                    m.AddImplication(used, open[o.Pass]);
                }

                if (o.Again >= 0 && open.Length > 0)
                {
                    m.Add(rounds <= 1).OnlyEnforceIf(open[o.Again].Not());
                }

                uses.Add(used);
                cost.AddTerm(rounds, o.Cost);
                foreach (var e in o.Effects)
                {
                    (gained.TryGetValue(e.Kind, out var b) ? b : gained[e.Kind] = LinearExpr.NewBuilder()).AddTerm(rounds, e.Levels);
                }
            }

            m.AddAtMostOne(uses);
            if (stage.Joins > 0 && open.Length > 0)
            {
                // Whoever stays out of what is open for the whole block pays for it.
                var stays = m.NewBoolVar("");
                cost.AddTerm(stays, stage.Joins);
                foreach (var o in stage.Options.Where(o => o.Whole))
                {
                    m.AddBoolOr([.. uses, stays, open[o.Pass].Not()]);
                }
            }
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
