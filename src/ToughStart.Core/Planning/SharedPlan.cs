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
    private readonly List<ZoneProblem> _unique = [];
    private readonly int[] _zoneToUnique;
    private readonly int[] _times;
    private readonly List<(UInt128 Open, ZoneSolution Solution)>[] _cache;
    private readonly long[] _setUp;
    private readonly UInt128[] _usable;
    private readonly ZoneSearch[] _searches;

    public SharedPlan(IReadOnlyList<ZoneProblem> zones, IReadOnlyList<string> signatures, long[] setUp)
    {
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

        _searches = _unique.Select(z => new ZoneSearch(z)).ToArray();
        _cache = _unique.Select(_ => new List<(UInt128, ZoneSolution)>()).ToArray();
        _usable = _unique.Select(z => z.Stages.SelectMany(s => s.Options).Where(o => o.Product >= 0).Aggregate(UInt128.Zero, (m, o) => m | UInt128.One << o.Product)).ToArray();
    }

    /// <summary>Zone searches actually run so far.</summary>
    public int Searches { get; private set; }

    /// <summary>Sum of what each zone would cost with every product open and no set-up: no plan can be cheaper than this plus nothing.</summary>
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

        return _zoneToUnique.Select(u => Solve(u, open)).ToArray();
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

        for (var p = 0; p < _setUp.Length; p++)
        {
            sum += (used >> p & 1) != 0 ? _setUp[p] : 0;
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
        while (true)
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

                var total = Total(open & ~(UInt128.One << p));
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
    }

    /// <summary>One-for-one swaps, then opening one more, until neither helps. Large jobs only swap within a slot.</summary>
    private UInt128 Improve(UInt128 open)
    {
        var best = Total(open);
        var moves = Moves();
        for (var better = true; better;)
        {
            better = false;
            foreach (var (close, add) in moves)
            {
                if ((close != 0 && (open & close) != close) || (open & add) != 0)
                {
                    continue;
                }

                var other = (open & ~close) | add;
                var total = Total(other);
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

    /// <summary>Changes to try: what to close and what to open. Every pair where that is cheap, pairs of one slot where it is not.</summary>
    private (UInt128 Close, UInt128 Open)[] Moves()
    {
        var all = Enumerable.Range(0, _setUp.Length).ToArray();
        if (_unique.Count <= FewZones && all.Length <= FewProducts)
        {
            return
            [
                .. all.Select(a => (UInt128.Zero, Bit(a))),
                .. all.SelectMany(a => all.Where(b => b != a).Select(b => (Bit(a), Bit(b)))),
                .. all.SelectMany(a => all.SelectMany(b => all.Where(c => a != b && a != c && b < c).Select(c => (Bit(a), Bit(b) | Bit(c))))),
                .. all.SelectMany(a => all.Where(b => a < b).SelectMany(b => all.Where(c => c != a && c != b).Select(c => (Bit(a) | Bit(b), Bit(c))))),
            ];
        }

        return _unique.SelectMany(z => z.Stages).Select(s => s.Options.Where(o => o.Product >= 0).Select(o => o.Product).Distinct().ToArray())
            .SelectMany(ps => ps.SelectMany(a => ps.Where(b => b != a).Select(b => (a, b)))).Distinct().Order().Select(x => (Bit(x.a), Bit(x.b))).ToArray();
    }

    private static UInt128 Bit(int product) => UInt128.One << product;

    private ZoneSolution Solve(int u, UInt128 open)
    {
        open &= _usable[u];
        foreach (var (other, solution) in _cache[u])
        {
            if ((solution.Used & ~open) == 0 && (open & ~other) == 0)
            {
                return solution;
            }
        }

        Searches++;
        var found = _searches[u].Solve(open);
        _cache[u].Add((open, found));
        return found;
    }
}
