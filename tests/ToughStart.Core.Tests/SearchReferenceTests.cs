using ToughStart.Core.Contamination;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Tests;

/// <summary>
/// The exact search against two references that share none of its code: every combination tried out, with load limits, floors,
/// marring, shielding, residue and kept protection on; and a general-purpose constraint solver on the additive family.
/// </summary>
public class SearchReferenceTests
{
    [Fact]
    public void The_optimum_equals_brute_force_on_300_tiny_instances()
    {
        var random = new Random(20261);
        var withGates = 0;
        for (var i = 0; i < 300; i++)
        {
            var p = Instances.Tiny(random);
            withGates += p.Stages.Any(s => s.Options.Any(o => o.LoadLimit is not null)) ? 1 : 0;
            var s = ZoneSearch.Solve(p);
            s.Proved.ShouldBeTrue();
            s.Cost.ShouldBe(BruteForce(p), $"instance {i}");
            Replayed(p, s).ShouldBe(s.Cost, $"instance {i}: the choices must cost what the search says");
        }

        withGates.ShouldBeGreaterThan(200);
    }

    [Fact]
    public void The_optimum_equals_brute_force_where_one_layer_is_laid_over_another()
    {
        var random = new Random(20262);
        var layered = 0;
        for (var i = 0; i < 300; i++)
        {
            var p = Instances.Layered(random);
            var s = ZoneSearch.Solve(p);
            s.Cost.ShouldBe(BruteForce(p), $"instance {i}");
            Replayed(p, s).ShouldBe(s.Cost, $"instance {i}");
            layered += s.Choices.Any(c => (p.Stages[c.Stage].Options[c.Option].Needs & Left.Wet) != 0) ? 1 : 0;
        }

        layered.ShouldBeGreaterThan(30);
    }

    [Fact]
    public void The_optimum_equals_a_constraint_solver_on_500_additive_instances()
    {
        var random = new Random(7);
        for (var i = 0; i < 500; i++)
        {
            var p = Instances.Additive(random, random.Next(3, 7), random.Next(4, 9));
            var s = ZoneSearch.Solve(p);
            s.Cost.ShouldBe(CpSat.Solve(p), $"instance {i}");
        }
    }

    [Fact]
    public void Closing_a_product_never_makes_a_zone_cheaper()
    {
        var random = new Random(99);
        for (var i = 0; i < 60; i++)
        {
            var p = Instances.Tiny(random);
            var open = ZoneSearch.Solve(p);
            for (var k = 0; k < 6; k++)
            {
                var closed = ZoneSearch.Solve(p, ~PassSet.Of(k));
                closed.Cost.ShouldBeGreaterThanOrEqualTo(open.Cost);
                closed.Used.Has(k).ShouldBeFalse();
            }
        }
    }

    [Fact]
    public void Sharing_comes_near_the_best_of_all_product_sets_and_its_bound_never_passes_it()
    {
        var random = new Random(5);
        double worst = 0;
        var exact = 0;
        for (var i = 0; i < 40; i++)
        {
            var zones = Enumerable.Range(0, 3).Select(_ => Instances.Additive(random, 4, 5)).ToArray();
            var setUp = Enumerable.Range(0, Instances.Products).Select(_ => (long)random.Next(0, 6000)).ToArray();
            var shared = new SharedPlan(zones, ["a", "b", "c"], Instances.Book(setUp));
            var found = shared.Solve();
            var cost = found.Sum(s => s.Cost) + SetUpOf(found, setUp);
            var best = Enumerable.Range(0, 1 << Instances.Products).Min(mask => shared.Total(Instances.Passes(p => (mask >> p & 1) != 0)));
            cost.ShouldBeGreaterThanOrEqualTo(best);
            shared.CostOf(found).ShouldBe(cost);
            var bound = shared.Bound(found, cost);
            bound.ShouldBeLessThanOrEqualTo(best, $"instance {i}");
            bound.ShouldBeGreaterThanOrEqualTo(shared.OpenAll, "the bound counts set-ups too");
            exact += cost == best ? 1 : 0;
            worst = Math.Max(worst, (cost - best) / (double)best);
        }

        worst.ShouldBeLessThan(0.03);
        exact.ShouldBeGreaterThanOrEqualTo(36);
    }

    [Theory]
    [InlineData(4, 5, 6000)]
    [InlineData(7, 4, 2500)]
    public void Sharing_lies_between_its_bound_and_what_a_constraint_solver_finds(int zoneCount, int stageCount, int dearest)
    {
        // Outside check of the whole job: Google OR-Tools CP-SAT is given all zones at once, each product paid for once.
        var random = new Random(11);
        double worst = 0;
        var exact = 0;
        const int Jobs = 8;
        for (var i = 0; i < Jobs; i++)
        {
            var zones = Enumerable.Range(0, zoneCount).Select(_ => Instances.Additive(random, 4, stageCount)).ToArray();
            var setUp = Enumerable.Range(0, Instances.Products).Select(_ => (long)random.Next(0, dearest)).ToArray();
            var shared = new SharedPlan(zones, Enumerable.Range(0, zoneCount).Select(z => $"{z}").ToArray(), Instances.Book(setUp));
            var found = shared.Solve();
            var cost = shared.CostOf(found);
            var best = CpSat.Solve(zones, Instances.Book(setUp));
            cost.ShouldBeGreaterThanOrEqualTo(best, $"instance {i}: the reference cannot be beaten");
            shared.Bound(found, cost).ShouldBeLessThanOrEqualTo(best, $"instance {i}: nor may the bound pass it");
            exact += cost == best ? 1 : 0;
            worst = Math.Max(worst, (cost - best) / (double)best);
        }

        worst.ShouldBeLessThan(0.03);
        exact.ShouldBeGreaterThanOrEqualTo(Jobs * 3 / 4);
    }

    /// <summary>
    /// The whole model of passes against Google OR-Tools CP-SAT: fees of first and further rounds, shared products, block decisions that cost whoever
    /// stays out, groups of which one is open.
    /// </summary>
    [Fact]
    public void The_model_of_passes_lies_between_its_bound_and_a_constraint_solver_on_100_small_vehicles()
    {
        var random = new Random(31);
        double worst = 0,
            sum = 0,
            shown = 0;
        const int Vehicles = 100;
        for (var i = 0; i < Vehicles; i++)
        {
            var (units, book) = Instances.Vehicle(random);
            var shared = new SharedPlan(units, [.. units.Select((_, u) => $"{u}")], book);
            var found = shared.Solve();
            var cost = shared.CostOf(found);
            var best = CpSat.Solve(units, book);
            cost.ShouldBeGreaterThanOrEqualTo(best, $"vehicle {i}: the reference cannot be beaten");
            var bound = shared.Bound(found, cost);
            bound.ShouldBeLessThanOrEqualTo(best, $"vehicle {i}: nor may the bound pass it");
            var gap = (cost - best) / (double)best;
            (sum, worst, shown) = (sum + gap, Math.Max(worst, gap), shown + ((cost - bound) / (double)cost));
        }

        (sum / Vehicles).ShouldBeLessThan(0.02, $"mean gap; worst {worst:0.000}, shown {shown / Vehicles:0.000}");
        worst.ShouldBeLessThan(0.15);
    }

    [Fact]
    public void Too_many_labels_are_said_not_hidden()
    {
        var hard = Instances.Additive(new Random(3), 20, 14);
        var s = new ZoneSearch(hard).Solve(PassSet.All, 50);
        s.Proved.ShouldBeFalse();
        s.Bound.ShouldBeInRange(1, s.Cost);
        Replayed(hard, s).ShouldBe(s.Cost);
        var best = CpSat.Solve(hard);
        best.ShouldBeInRange(s.Bound, s.Cost, "the truth lies between");
    }

    /// <summary>With hardly any labels kept, what is found and what is said of the best must still hold between them what trying everything gives.</summary>
    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public void Past_the_label_cap_the_bound_and_the_cost_hold_the_optimum_between_them(bool thorough)
    {
        var random = new Random(20263);
        var open = 0;
        for (var i = 0; i < 300; i++)
        {
            var p = random.Next(2) == 0 ? Instances.Tiny(random) : Instances.Layered(random);
            var best = BruteForce(p);
            var s = new ZoneSearch(p, beam: 1).Solve(PassSet.All, 1, thorough);
            best.ShouldBeInRange(s.Bound, s.Cost, $"instance {i}");
            open += s.Proved ? 0 : 1;
            if (s.Proved)
            {
                s.Cost.ShouldBe(best, $"instance {i}");
            }
        }

        open.ShouldBeGreaterThan(thorough ? 5 : 20, "the cap has to bite for this to mean anything");
    }

    /// <summary>Bounded by its kinds, each with its part of what is shared, from the first label on: still what trying everything gives.</summary>
    [Fact]
    public void Costs_divided_among_the_kinds_bound_and_never_cut_off_the_best()
    {
        var random = new Random(20264);
        var (fewer, all) = (0, 0);
        for (var i = 0; i < 300; i++)
        {
            var p = random.Next(2) == 0 ? Instances.Tiny(random) : Instances.Layered(random);
            var s = new ZoneSearch(p, beam: 1, plenty: 1).Solve(PassSet.All);
            s.Proved.ShouldBeTrue();
            s.Cost.ShouldBe(BruteForce(p), $"instance {i}");
            var prices = Enumerable.Range(0, PassSet.Capacity).Select(_ => (long)random.Next(0, 2500)).ToArray();
            var plain = new ZoneSearch(p, beam: 1, plenty: 100_000).Solve(PassSet.All, prices: prices);
            new ZoneSearch(p, beam: 1, plenty: 1)
                .Solve(PassSet.All, prices: prices)
                .Cost.ShouldBe(plain.Cost, $"instance {i}, with prices");
        }

        for (var i = 0; i < 4; i++)
        {
            var p = Instances.Additive(random, 14, 12);
            var s = ZoneSearch.Solve(p);
            s.Cost.ShouldBe(CpSat.Solve(p), $"instance {i} of 14 kinds in 12 slots");
            (fewer, all) = (fewer + s.Labels, all + new ZoneSearch(p, plenty: 100_000).Solve(PassSet.All).Labels);
        }

        fewer.ShouldBeLessThan(all / 2, "labels it takes, the narrow passes included");
    }

    private static long SetUpOf(IEnumerable<ZoneSolution> solutions, long[] setUp)
    {
        var used = solutions.SelectMany(s => s.Used.Passes()).Select(p => p % Instances.Products).ToHashSet();
        return setUp.Where((_, p) => used.Contains(p)).Sum();
    }

    private static long Replayed(ZoneProblem p, ZoneSolution s)
    {
        var levels = Bytes(p.Start);
        var left = p.LeftAtStart;
        long cost = p.Stages.Where((_, i) => s.Choices.All(c => c.Stage != i)).Sum(st => st.SkipCost);
        foreach (var c in s.Choices)
        {
            for (var r = 1; r <= c.Rounds; r++)
            {
                Planning
                    .Round.Try(p, p.Stages[c.Stage].Options[c.Option], levels, ref left, ref cost, p.Stages[c.Stage].SkipCost > 0 && r == 1)
                    .ShouldBeTrue();
            }
        }

        return cost + p.Terminal(levels, left);
    }

    private const long Never = long.MaxValue / 4;

    /// <summary>Every way through the stages, no pruning, its own copy of the rules of a round.</summary>
    private static long BruteForce(ZoneProblem p) => Walk(p, 0, p.Start, p.LeftAtStart);

    private static long Walk(ZoneProblem p, int stage, int[] levels, Left left)
    {
        if (stage == p.Stages.Count)
        {
            long owed = 0;
            for (var k = 0; k < Kinds.Count; k++)
            {
                owed += Math.Max(0, p.Target[k] - levels[k]) * p.ShortfallPerLevel;
            }

            return owed + ((left & p.MustClear) != 0 ? p.LeftPenalty : 0);
        }

        var best = (left & p.Stages[stage].Ends) != 0 ? Never : p.Stages[stage].SkipCost + Walk(p, stage + 1, levels, left);
        foreach (var o in p.Stages[stage].Options)
        {
            var now = levels;
            var stays = left;
            long cost = 0;
            for (var round = 1; round <= o.MaxRounds; round++)
            {
                if (Round(p, o, now, stays, p.Stages[stage].SkipCost > 0 && round == 1) is not { } after)
                {
                    break;
                }

                cost += after.Cost;
                now = after.Levels;
                stays = after.Left;
                best = Math.Min(best, (stays & p.Stages[stage].Ends) != 0 ? Never : cost + Walk(p, stage + 1, now, stays));
            }
        }

        return best;
    }

    private static (int[] Levels, Left Left, long Cost)? Round(ZoneProblem p, Option o, int[] levels, Left left, bool demanded)
    {
        double Load(int level) => level >= p.NilAtLimit ? 0 : Levels.MillionthsOf(level);
        if (
            (left & o.Forbids) != 0
            || (left & o.Needs) != o.Needs
            || (
                o.LoadLimit is { } g
                && (
                    g.Weights.Sum(w => w.Weight * Load(levels[w.Kind])) > g.Limit * 1000.0
                    || g.And.Any(a => Levels.MillionthsOf(levels[a.Kind]) > a.Limit)
                )
            )
        )
        {
            return null;
        }

        var next = (int[])levels.Clone();
        var better = (left & o.Clears) != 0;
        foreach (var e in o.Effects)
        {
            if (levels[e.Kind] == Levels.Nil || levels[e.Kind] >= e.Floor)
            {
                continue;
            }

            var cover = Enumerable
                .Range(0, Kinds.Count)
                .Where(k => p.Layer[k] > 0 && p.Layer[k] < p.Layer[e.Kind])
                .Select(k => Levels.MillionthsOf(levels[k]))
                .DefaultIfEmpty(0)
                .Max();
            var shield = p.Layer[e.Kind] == 0 || cover < p.ShieldFrom ? 0 : cover;
            next[e.Kind] = Math.Min(e.Floor, levels[e.Kind] + (int)((long)e.Levels * (1_000_000 - shield) / 1_000_000));
            better |= next[e.Kind] > levels[e.Kind] && (e.Kind != p.Protection || p.Keep is null);
        }

        if (!better && !demanded)
        {
            return null;
        }

        var drag = (long)(o.Bite * 1000.0 + o.Dragged.Sum(d => d.Weight * Load(levels[d.Kind])));
        var cost =
            o.Cost + o.Marring * drag / 1_000_000_000 + (p.Keep is null ? 0 : p.Keep[levels[p.Protection]] - p.Keep[next[p.Protection]]);
        next[Kinds.Residue] = Levels.Add(next[Kinds.Residue], o.AddsResidue);
        return (next, (left & ~o.Clears) | o.Leaves, cost);
    }

    private static byte[] Bytes(int[] levels)
    {
        var result = Enumerable.Repeat((byte)Levels.Nil, 32).ToArray();
        for (var k = 0; k < levels.Length; k++)
        {
            result[k] = (byte)levels[k];
        }

        return result;
    }
}
