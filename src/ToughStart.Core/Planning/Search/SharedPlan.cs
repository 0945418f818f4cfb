using System.Numerics;

namespace ToughStart.Core.Planning;

/// <summary>
/// Zones share what is mixed: each product (an agent at a strength) costs its set-up once. Start with everything open, close the
/// product whose going saves most while the total falls, then try one-for-one swaps. Identical zones are searched once, and an
/// optimum found for a larger set serves every smaller set that still holds what it uses.
/// </summary>
public sealed class SharedPlan
{
    private const int FewZones = 12;
    private const int FewProducts = 16;
    private const int BoundRounds = 24;

    /// <summary>Labels a slot of a hard zone gets while product sets are tried; the set that wins is searched in full.</summary>
    private const int Glance = 40;

    /// <summary>Labels from which on a zone is only glanced at while product sets are tried.</summary>
    private const int Hard = 12_000;

    /// <summary>
    /// Labels a whole job may take in full searches; from there on zones are only glanced at, and the plan says which are not proved.
    /// </summary>
    private const int Budget = 1_200_000;

    private int _spent;
    private readonly List<ZoneProblem> _unique = [];
    private readonly int[] _zoneToUnique;
    private readonly int[] _times;
    private readonly List<(UInt128 Open, ZoneSolution Solution)>[] _cache;
    private readonly long[] _setUp;
    private readonly UInt128[] _usable;
    private readonly ZoneSearch[] _searches;
    private readonly bool[] _hard;
    private readonly Effort _effort;

    public SharedPlan(IReadOnlyList<ZoneProblem> zones, IReadOnlyList<string> signatures, long[] setUp, Effort? effort = null)
    {
        _effort = effort ??= Effort.Unbounded;
        _setUp = setUp;
        _zoneToUnique = new int[zones.Count];
        var known = new Dictionary<string, int>();
        for (var i = 0; i < zones.Count; i++)
        {
            if (!known.TryGetValue(signatures[i], out var u))
            {
                u = known[signatures[i]] = _unique.Count;
                _unique.Add(zones[i]);
            }

            _zoneToUnique[i] = u;
        }

        _times = new int[_unique.Count];
        foreach (var u in _zoneToUnique)
        {
            _times[u]++;
        }

        _searches = _unique.Select(z => new ZoneSearch(z, effort: effort)).ToArray();
        _hard = new bool[_unique.Count];
        _cache = _unique.Select(_ => new List<(UInt128, ZoneSolution)>()).ToArray();
        _usable = _unique
            .Select(z =>
                z.Stages.SelectMany(s => s.Options)
                    .Where(o => o.Product >= 0)
                    .Aggregate(UInt128.Zero, (m, o) => m | UInt128.One << o.Product)
            )
            .ToArray();
    }

    /// <summary>Zone searches actually run so far.</summary>
    public int Searches { get; private set; }

    /// <summary>
    /// Sum of what each zone would cost with every product open and no set-up: no plan can be cheaper than this plus nothing.
    /// </summary>
    public long OpenAll => _unique.Select((_, u) => Solve(u, UInt128.MaxValue).Cost * _times[u]).Sum();

    /// <summary>The shared plan, one solution per zone in the order given.</summary>
    /// <param name="seeds">Sets of products to start from as well, for instance those of the same job judged otherwise.</param>
    public IReadOnlyList<ZoneSolution> Solve(bool share = true, IReadOnlyList<UInt128>? seeds = null)
    {
        var open = _usable.Aggregate(UInt128.Zero, (a, b) => a | b);
        if (share)
        {
            open = Improve(Drop(open));
            foreach (var seed in seeds ?? [])
            {
                var other = Improve(Drop(seed));
                open = Total(other) < Total(open) ? other : open;
            }
        }

        var best = Enumerable.Range(0, _unique.Count).Select(u => Solve(u, open)).ToArray();
        // What took least so far comes first: the budget then proves as many zones as it can.
        foreach (var u in Enumerable.Range(0, best.Length).OrderBy(u => best[u].Labels).ThenBy(u => u))
        {
            if (!best[u].Proved && _spent <= Budget && !_effort.IsEnough)
            {
                Searches++;
                var full = _searches[u].Solve(open & _usable[u]);
                _spent += full.Labels;
                best[u] = full.Cost <= best[u].Cost ? full : best[u] with { Bound = Math.Max(full.Bound, best[u].Bound) };
            }
        }

        return _zoneToUnique.Select(u => best[u]).ToArray();
    }

    /// <summary>Every zone at its best with these products, whatever their set-ups; in the order given.</summary>
    public IReadOnlyList<ZoneSolution> With(UInt128 open) => _zoneToUnique.Select(u => Solve(u, open)).ToArray();

    /// <summary>
    /// Less than this no sharing can cost. Each set-up is divided among the zones that may pay for it, and each zone planned by itself with
    /// its part as a fee; whatever the division, the sum is a bound (Lagrangian relaxation), and a few times the parts move to where they are paid.
    /// </summary>
    /// <param name="cost">The cost of the plan found; a bound that reaches it ends the search.</param>
    public long Bound(IReadOnlyList<ZoneSolution> solutions, long cost)
    {
        var perUnique = Enumerable.Range(0, _unique.Count).Select(u => solutions[Array.IndexOf(_zoneToUnique, u)]).ToArray();
        if (_hard.Any(h => h))
        {
            // Zones as hard as that are not planned again and again: their own bounds, and no set-up, are a bound too.
            return Math.Min(
                cost,
                Enumerable.Range(0, _unique.Count).Sum(u => Math.Min(perUnique[u].Bound, _cache[u][0].Solution.Bound) * _times[u])
            );
        }

        // What a zone pays is spread over the places where it may choose the product, so that nobody pays more than the part.
        var places = _unique
            .Select(z =>
                z.Stages.SelectMany((x, at) => x.Options.Where(o => o.Product >= 0).Select(o => (Stage: at, o.Product)))
                    .Distinct()
                    .ToArray()
            )
            .ToArray();
        bool Uses(ZoneSolution solution, int u, (int Stage, int Product) place) =>
            solution.Choices.Any(c => c.Stage == place.Stage && _unique[u].Stages[c.Stage].Options[c.Option].Product == place.Product);
        var share = places.Select((of, u) => of.Select(x => Uses(perUnique[u], u, x) ? 1.0 : 0.0).ToArray()).ToArray();
        long best = 0;
        for (var round = 1; round <= BoundRounds && best < cost; round++)
        {
            var all = new double[_setUp.Length];
            for (var u = 0; u < share.Length; u++)
            {
                for (var i = 0; i < share[u].Length; i++)
                {
                    all[places[u][i].Product] += share[u][i] * _times[u];
                }
            }

            long sum = 0;
            for (var u = 0; u < share.Length; u++)
            {
                var fees = places[u]
                    .Select((x, i) => (x, Fee: all[x.Product] <= 0 ? 0 : (long)(_setUp[x.Product] * share[u][i] / all[x.Product])))
                    .ToDictionary(x => x.x, x => x.Fee);
                var there = ZoneSearch.Solve(
                    _unique[u] with
                    {
                        Stages =
                        [
                            .. _unique[u]
                                .Stages.Select(
                                    (s, at) =>
                                        s with
                                        {
                                            Options =
                                            [
                                                .. s.Options.Select(o => o.Product < 0 ? o : o with { Entry = fees[(at, o.Product)] }),
                                            ],
                                        }
                                ),
                        ],
                    }
                );
                sum += there.Bound * _times[u];
                for (var i = 0; i < share[u].Length; i++)
                {
                    // Who uses it though it costs a fee can bear more; who gives it up bears less.
                    share[u][i] = Uses(there, u, places[u][i]) ? share[u][i] + 1.0 / round : share[u][i] * (1 - 0.5 / round);
                }
            }

            best = Math.Max(best, sum);
        }

        return Math.Min(best, cost);
    }

    /// <summary>Cost of a set of open products: zones at their best with it, plus set-ups of what they use.</summary>
    public long Total(UInt128 open)
    {
        long sum = 0;
        UInt128 used = 0;
        for (var u = 0; u < _unique.Count; u++)
        {
            var s = Solve(u, open);
            sum += s.Cost * _times[u];
            used |= s.Used;
        }

        return sum + SetUps(used);
    }

    /// <summary>The same, as long as it stays below a limit; from there on only a bound, which costs few searches.</summary>
    private long TotalBelow(UInt128 open, long limit)
    {
        long sum = 0;
        UInt128 used = 0;
        var searched = new List<(int Unit, long Bound)>();
        for (var u = 0; u < _unique.Count; u++)
        {
            if (Known(u, open & _usable[u], out var least) is { } s)
            {
                sum += s.Cost * _times[u];
                used |= s.Used;
            }
            else
            {
                // Fewer products never make a zone cheaper: what it costs with more of them open is a bound.
                searched.Add((u, least));
                sum += least * _times[u];
            }
        }

        sum += SetUps(used);
        foreach (var (u, bound) in searched)
        {
            if (sum >= limit)
            {
                return sum;
            }

            var s = Solve(u, open);
            sum += (s.Cost - bound) * _times[u] + SetUps(s.Used & ~used);
            used |= s.Used;
        }

        return sum;
    }

    /// <summary>What zones and their set-ups cost together.</summary>
    public long CostOf(IReadOnlyList<ZoneSolution> solutions) =>
        solutions.Sum(s => s.Cost) + SetUps(solutions.Aggregate(UInt128.Zero, (m, s) => m | s.Used));

    private long SetUps(UInt128 products)
    {
        long sum = 0;
        for (var p = 0; p < _setUp.Length; p++)
        {
            sum += (products >> p & 1) != 0 ? _setUp[p] : 0;
        }

        return sum;
    }

    private UInt128 Used(UInt128 open)
    {
        UInt128 used = 0;
        for (var u = 0; u < _unique.Count; u++)
        {
            used |= Solve(u, open).Used;
        }

        return used;
    }

    private UInt128 Drop(UInt128 open)
    {
        var best = Total(open);
        while (!_effort.IsEnough)
        {
            var used = Used(open);
            open = used;
            var least = best;
            var drop = -1;
            for (var p = 0; p < _setUp.Length; p++)
            {
                if ((used >> p & 1) == 0)
                {
                    continue;
                }

                var total = TotalBelow(open & ~(UInt128.One << p), least);
                if (total < least)
                {
                    least = total;
                    drop = p;
                }
            }

            if (drop < 0)
            {
                return open;
            }

            open &= ~(UInt128.One << drop);
            best = least;
        }

        return open;
    }

    /// <summary>One-for-one swaps, then opening one more, until neither helps. Large jobs only swap within a slot.</summary>
    private UInt128 Improve(UInt128 open)
    {
        var best = Total(open);
        var moves = Moves();
        for (var better = true; better && !_effort.IsEnough; )
        {
            better = false;
            foreach (var (close, add) in moves)
            {
                if ((close != 0 && (open & close) != close) || (open & add) != 0)
                {
                    continue;
                }

                var other = (open & ~close) | add;
                var total = TotalBelow(other, best);
                if (total < best)
                {
                    best = total;
                    open = Used(other);
                    better = true;
                }
            }
        }

        return open;
    }

    /// <summary>
    /// Changes to try: what to close and what to open. Every pair where that is cheap, pairs of one slot where it is not.
    /// </summary>
    private (UInt128 Close, UInt128 Open)[] Moves()
    {
        var all = Enumerable.Range(0, _setUp.Length).ToArray();
        if (_unique.Count <= FewZones && all.Length <= FewProducts)
        {
            return
            [
                .. all.Select(a => (UInt128.Zero, Bit(a))),
                .. all.SelectMany(a => all.Where(b => b != a).Select(b => (Bit(a), Bit(b)))),
                .. all.SelectMany(a =>
                    all.SelectMany(b => all.Where(c => a != b && a != c && b < c).Select(c => (Bit(a), Bit(b) | Bit(c))))
                ),
                .. all.SelectMany(a =>
                    all.Where(b => a < b).SelectMany(b => all.Where(c => c != a && c != b).Select(c => (Bit(a) | Bit(b), Bit(c))))
                ),
            ];
        }

        return _unique
            .SelectMany(z => z.Stages)
            .Select(s => s.Options.Where(o => o.Product >= 0).Select(o => o.Product).Distinct().ToArray())
            .SelectMany(ps => ps.SelectMany(a => ps.Where(b => b != a).Select(b => (a, b))))
            .Distinct()
            .Order()
            .Select(x => (Bit(x.a), Bit(x.b)))
            .ToArray();
    }

    private static UInt128 Bit(int product) => UInt128.One << product;

    private ZoneSolution Solve(int u, UInt128 open)
    {
        open &= _usable[u];
        if (Known(u, open, out _) is { } known)
        {
            return known;
        }

        Searches++;
        var found = _searches[u].Solve(open, _hard[u] || _spent > Budget ? Glance : ZoneSearch.LabelCap, thorough: false);
        _spent += found.Labels;
        _hard[u] |= !found.Proved || found.Labels > Hard;
        _cache[u].Add((open, found));
        return found;
    }

    /// <summary>
    /// What is known of a zone with these products: an optimum found for more of them that uses no others; else the most that one with
    /// more of them costs.
    /// </summary>
    private ZoneSolution? Known(int u, UInt128 open, out long least)
    {
        least = 0;
        foreach (var (other, solution) in _cache[u])
        {
            if ((open & ~other) == 0)
            {
                if ((solution.Used & ~open) == 0)
                {
                    return solution;
                }

                // One that was not proved may be dearer than it need be.
                least = Math.Max(least, solution.Bound);
            }
        }

        return null;
    }
}
