using System.Runtime.Intrinsics;
using ToughStart.Core.Contamination;

namespace ToughStart.Core.Planning;

/// <summary>
/// A stronger bound for zones that the label cap stops: pattern databases of two kinds. The zone is planned for each pair as if nothing
/// else lay on it, with the load limits, the marring and the cover the two make for themselves and each other, so that a kind that must be
/// off before a load limit has its deadline. No plan of the zone costs less than the dearest pair.
/// </summary>
internal sealed class PairBounds
{
    private const int MostKinds = 7;
    private const int Side = Levels.Nil + 1;
    private readonly ZoneProblem _p;
    private readonly List<(int A, int B, int[][] Table)> _pairs = [];

    /// <param name="p">The zone.</param>
    /// <param name="kinds">Kinds that take part, those that matter most first.</param>
    /// <param name="allowed">Passes that may be used.</param>
    /// <param name="effort">Asked between two pairs whether anybody still waits.</param>
    public PairBounds(ZoneProblem p, IEnumerable<int> kinds, PassSet allowed, Effort effort)
    {
        _p = p;
        var most = kinds.Where(k => k != Kinds.Residue && (k != p.Protection || p.Keep is null)).Take(MostKinds).ToArray();
        for (var i = 0; i < most.Length; i++)
        {
            for (var j = i + 1; j < most.Length; j++)
            {
                effort.Check();
                _pairs.Add((most[i], most[j], Table(most[i], most[j], allowed)));
            }
        }
    }

    /// <summary>No way home from here is cheaper, milli-minutes.</summary>
    public long At(int stage, Vector256<byte> levels)
    {
        long most = 0;
        foreach (var (a, b, table) in _pairs)
        {
            most = Math.Max(most, table[stage][levels[a] * Side + levels[b]]);
        }

        return most;
    }

    private int[][] Table(int a, int b, PassSet allowed)
    {
        var n = _p.Stages.Count;
        var table = new int[n + 1][];
        table[n] = new int[Side * Side];
        for (var la = 0; la < Side; la++)
        {
            for (var lb = 0; lb < Side; lb++)
            {
                var owed = (Math.Max(0L, _p.Target[a] - la) + Math.Max(0, _p.Target[b] - lb)) * _p.ShortfallPerLevel;
                table[n][la * Side + lb] = (int)Math.Min(owed, int.MaxValue / 4);
            }
        }

        for (var s = n - 1; s >= 0; s--)
        {
            table[s] = Stage(_p.Stages[s], a, b, table[s + 1], allowed);
        }

        return table;
    }

    private int[] Stage(StageOptions stage, int a, int b, int[] after, PassSet allowed)
    {
        var here = after;
        foreach (var o in stage.Options)
        {
            if ((o.Pass >= 0 && !allowed.Has(o.Pass)) || !o.Effects.Any(e => e.Levels > 0 && (e.Kind == a || e.Kind == b)))
            {
                continue;
            }

            here = ReferenceEquals(here, after) ? (int[])after.Clone() : here;
            var one = new PairRound(_p, o, a, b);
            // A label never knows more of a kind than its target needs: levels begin there, or where the zone does.
            for (var la = Math.Min(_p.Start[a], _p.Target[a]); la < Side; la++)
            {
                for (var lb = Math.Min(_p.Start[b], _p.Target[b]); lb < Side; lb++)
                {
                    var (x, y) = (la, lb);
                    long cost = 0;
                    for (var round = 1; round <= o.MaxRounds && one.Apply(ref x, ref y, ref cost); round++)
                    {
                        ref var best = ref here[la * Side + lb];
                        best = (int)Math.Min(best, after[x * Side + y] + cost);
                    }
                }
            }
        }

        return here;
    }

    /// <summary>One round of an option on two kinds alone.</summary>
    private readonly struct PairRound
    {
        private readonly ZoneProblem _p;
        private readonly Option _o;
        private readonly Effect _a;
        private readonly Effect _b;
        private readonly (long A, long B) _loads;
        private readonly (long A, long B) _drag;
        private readonly (int A, int B) _and;
        private readonly int _shields;

        public PairRound(ZoneProblem p, Option o, int a, int b)
        {
            (_p, _o) = (p, o);
            _a = o.Effects.FirstOrDefault(e => e.Kind == a);
            _b = o.Effects.FirstOrDefault(e => e.Kind == b);
            long Weight(IEnumerable<(int Kind, int Weight)> of, int kind) => of.Where(w => w.Kind == kind).Sum(w => (long)w.Weight);
            _loads = o.LoadLimit is null ? default : (Weight(o.LoadLimit.Weights, a), Weight(o.LoadLimit.Weights, b));
            _drag = (Weight(o.Dragged, a), Weight(o.Dragged, b));
            int And(int kind) =>
                o.LoadLimit?.And.Where(x => x.Kind == kind).Select(x => x.Limit).DefaultIfEmpty(int.MaxValue).Min() ?? int.MaxValue;
            _and = (And(a), And(b));
            // 1: a lies over b; 2: b lies over a.
            _shields =
                p.Layer[a] == 0 || p.Layer[b] == 0 || p.Layer[a] == p.Layer[b] ? 0
                : p.Layer[a] < p.Layer[b] ? 1
                : 2;
        }

        public bool Apply(ref int la, ref int lb, ref long cost)
        {
            var (xa, xb) = (Levels.MillionthsOf(la), Levels.MillionthsOf(lb));
            var (ga, gb) = (la >= _p.NilAtLimit ? 0 : xa, lb >= _p.NilAtLimit ? 0 : xb);
            if (_o.LoadLimit is { } load && (_loads.A * ga + _loads.B * gb > load.Limit * 1000L || xa > _and.A || xb > _and.B))
            {
                return false;
            }

            var na = Moved(la, _a, _shields == 2 && xb >= _p.ShieldFrom ? xb : 0);
            var nb = Moved(lb, _b, _shields == 1 && xa >= _p.ShieldFrom ? xa : 0);
            if (na == la && nb == lb)
            {
                return false;
            }

            cost += _o.Cost + (_o.Marring > 0 ? _o.Marring * (_o.Bite * 1000L + _drag.A * ga + _drag.B * gb) / 1_000_000_000 : 0);
            (la, lb) = (na, nb);
            return true;
        }

        private static int Moved(int level, Effect e, int cover) =>
            e.Levels == 0 || level >= e.Floor || level == Levels.Nil
                ? level
                : Math.Min(level + (int)((long)e.Levels * (1_000_000 - cover) / 1_000_000), e.Floor);
    }
}
