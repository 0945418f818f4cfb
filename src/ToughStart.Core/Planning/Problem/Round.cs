using System.Runtime.Intrinsics;
using ToughStart.Core.Contamination;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Planning;

/// <summary>What one round costs, by kind; milli-minutes of cost.</summary>
/// <param name="Time">Hands-on time, with what covering up takes.</param>
/// <param name="Product">Product, water and wear, at what money weighs in minutes.</param>
/// <param name="Stress">What the chemistry does to everything it reaches.</param>
/// <param name="Marring">What the tool scratches.</param>
/// <param name="Kept">Protection lost that the goal keeps.</param>
public readonly record struct RoundCost(long Time, long Product, long Stress, long Marring, long Kept)
{
    public long Total => Time + Product + Stress + Marring + Kept;

    public static RoundCost operator +(RoundCost a, RoundCost b) =>
        new(a.Time + b.Time, a.Product + b.Product, a.Stress + b.Stress, a.Marring + b.Marring, a.Kept + b.Kept);
}

/// <summary>
/// One round of a treatment: what it does to the loads and what it costs. The single definition for search, run and ranges.
/// <see cref="May"/> says whether a planner may choose it; <see cref="Apply(ZoneProblem, Option, Span{byte}, ref Left)"/> does it whether or
/// not it was wise, and a useless round costs what it costs.
/// </summary>
public static class Round
{
    /// <summary>Room for a number on each layer.</summary>
    public const int Layers = 12;

    /// <summary>May it start: nothing left on the panel forbids it, what it needs is there, and its load limit holds?</summary>
    public static bool May(ZoneProblem p, Option o, ReadOnlySpan<byte> levels, Left left) =>
        (left & o.Forbids) == 0 && (o.Needs & ~left) == 0 && (o.LoadLimit is null || p.Opens(o.LoadLimit, levels));

    /// <summary>Does one round, whatever it is good for.</summary>
    /// <param name="levels">Levels before; changed in place.</param>
    public static RoundCost Apply(ZoneProblem p, Option o, Span<byte> levels, ref Left left)
    {
        Span<byte> next = stackalloc byte[32];
        levels.CopyTo(next);
        Span<int> above = stackalloc int[Layers];
        Cover(p, levels, above);
        Work(p, o, levels, next, left, above);
        var cost = CostOf(p, o, levels, next);
        next[..levels.Length].CopyTo(levels);
        left = (left & ~o.Clears) | o.Leaves;
        return cost;
    }

    /// <summary>Does one round if it may start and changes something for the better.</summary>
    /// <param name="levels">Levels before; changed in place when the answer is true.</param>
    /// <param name="cost">Grows by what the round costs when the answer is true.</param>
    /// <param name="demanded">The house rule wants this stage done even where it changes nothing.</param>
    /// <param name="cover">What lies above each layer at these levels, where that is known; empty = it is looked up.</param>
    public static bool Try(
        ZoneProblem p,
        Option o,
        Span<byte> levels,
        ref Left left,
        ref long cost,
        bool demanded = false,
        scoped ReadOnlySpan<int> cover = default
    )
    {
        if (!May(p, o, levels, left))
        {
            return false;
        }

        Span<byte> next = stackalloc byte[32];
        levels.CopyTo(next);
        Span<int> above = stackalloc int[Layers];
        if (cover.IsEmpty)
        {
            Cover(p, levels, above);
            cover = above;
        }

        if (!(Work(p, o, levels, next, left, cover) | demanded))
        {
            return false;
        }

        cost += CostOf(p, o, levels, next).Total;
        next[..levels.Length].CopyTo(levels);
        left = (left & ~o.Clears) | o.Leaves;
        return true;
    }

    /// <summary>Does one round to what is believed: the same decades, floors and shielding, with what is uncertain about each.</summary>
    /// <param name="o">A free option, with an effect on every kind the treatment works on, there or not.</param>
    /// <param name="levels">What lies there as a planner sees it before the round: what covers what.</param>
    /// <param name="beliefs">By kind; null = there is none. Changed in place.</param>
    /// <param name="known">What this very round made of this very belief elsewhere; zones that are alike are worked out once.</param>
    public static void Apply(
        ZoneProblem p,
        Option o,
        ReadOnlySpan<byte> levels,
        LoadBelief?[] beliefs,
        Response response,
        Dictionary<(LoadBelief, double, double, double), LoadBelief> known
    )
    {
        Span<int> above = stackalloc int[Layers];
        Cover(p, levels, above);
        foreach (var e in o.Exact)
        {
            if (e.Kind >= beliefs.Length || beliefs[e.Kind] is not { } before || e.Decades <= 0)
            {
                continue;
            }

            var key = (before, e.Decades, e.FloorLoad, p.Layer[e.Kind] == 0 ? 0 : above[p.Layer[e.Kind]] / 1e6);
            if (!known.TryGetValue(key, out var after))
            {
                after = known[key] = before.Worked(key.Decades, key.FloorLoad, key.Item4, response);
            }

            beliefs[e.Kind] = after;
        }
    }

    /// <summary>What a round makes of the levels.</summary>
    /// <returns>Whether anything changed for the better.</returns>
    private static bool Work(ZoneProblem p, Option o, ReadOnlySpan<byte> levels, Span<byte> next, Left left, ReadOnlySpan<int> above)
    {
        var better = (left & o.Clears) != 0;
        foreach (var e in o.Effects)
        {
            var n = levels[e.Kind];
            if (n >= e.Floor || n == Levels.Nil)
            {
                continue;
            }

            var gained = p.Layer[e.Kind] == 0 ? e.Levels : (int)((long)e.Levels * (1_000_000 - above[p.Layer[e.Kind]]) / 1_000_000);
            var after = Math.Min(n + gained, e.Floor);
            if (after != n)
            {
                next[e.Kind] = (byte)after;
                better |= e.Kind != p.Protection || p.Keep is null;
            }
        }

        if (o.AddsResidue > 0)
        {
            next[Kinds.Residue] = (byte)Levels.Add(next[Kinds.Residue], o.AddsResidue);
        }

        return better;
    }

    private static RoundCost CostOf(ZoneProblem p, Option o, ReadOnlySpan<byte> levels, ReadOnlySpan<byte> next) =>
        new(
            o.Cost - o.CostOfProduct - o.CostOfStress,
            o.CostOfProduct,
            o.CostOfStress,
            Marring(p, o, levels),
            p.Keep is null ? 0 : p.Keep[levels[p.Protection]] - p.Keep[next[p.Protection]]
        );

    /// <summary>What the tool scratches with what lies under it, and with its own bite.</summary>
    private static long Marring(ZoneProblem p, Option o, ReadOnlySpan<byte> levels)
    {
        if (o.Marring == 0)
        {
            return 0;
        }

        long load = o.Bite * 1000L;
        foreach (var (kind, weight) in o.Dragged)
        {
            load += (long)weight * p.AtLimit(levels[kind]);
        }

        return o.Marring * load / 1_000_000_000;
    }

    /// <inheritdoc cref="Cover(ZoneProblem, ReadOnlySpan{byte}, Span{int})"/>
    public static void Cover(ZoneProblem p, Vector256<byte> levels, Span<int> above)
    {
        Span<byte> each = stackalloc byte[32];
        levels.CopyTo(each);
        Cover(p, each, above);
    }

    /// <summary>For every layer, the heaviest load that lies above it (millionths); 0 where it is too little to shield.</summary>
    public static void Cover(ZoneProblem p, ReadOnlySpan<byte> levels, Span<int> above)
    {
        above.Clear();
        for (var k = 0; k < Kinds.Count; k++)
        {
            if (levels[k] < Levels.Nil && p.Layer[k] > 0)
            {
                ref var at = ref above[p.Layer[k] + 1];
                at = Math.Max(at, Levels.MillionthsOf(levels[k]));
            }
        }

        var most = 0;
        for (var layer = 1; layer < above.Length; layer++)
        {
            most = Math.Max(most, above[layer]);
            above[layer] = most >= p.ShieldFrom ? most : 0;
        }
    }
}
