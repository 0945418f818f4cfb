using System.Runtime.InteropServices;
using System.Runtime.Intrinsics;
using ToughStart.Core.Contamination;

namespace ToughStart.Core.Planning;

/// <summary>
/// Exact label-setting over the slots of one zone. A label is (levels, what is left, cost); each slot either passes it on or
/// applies one option for 1..n rounds. Labels are dropped when another is at least as clean, leaves no more behind and costs no
/// more, or when their cost plus the dearest single-kind bound exceeds the best plan known. Same input, same plan.
/// </summary>
public sealed class ZoneSearch
{
    /// <summary>Labels kept per slot; beyond it the answer is "not proved".</summary>
    public const int LabelCap = 8000;

    /// <summary>Cost where there is no way at all with the passes that are open, milli-minutes: more than any plan's, and a thousand of it are no overflow.</summary>
    public const long Never = long.MaxValue / 4096;

    private const int Plenty = 150;

    /// <summary>Labels kept per slot from which on kinds are looked at by twos.</summary>
    private const int Wide = 4000;

    private const int BeamWidth = 6;

    /// <summary>How many times as wide the first pass becomes when it finds no way at all.</summary>
    private const int Wider = 4;
    private readonly int _beam;
    private readonly int _plenty;
    private readonly Effort _effort;
    private const int IndexBits = 20;

    /// <summary>Labels between two looks at whether anybody still waits.</summary>
    private const int CheckEvery = 64;

    /// <summary>Bounds are kept small; a bound cut off here is still a bound.</summary>
    private const long Most = int.MaxValue / 4;

    private readonly ZoneProblem _p;
    private readonly int[] _active;
    private readonly byte[] _cap = new byte[32];

    /// <summary>By slot and active kind, and by level: what that kind alone still costs, and what of it stays owed whatever is done.</summary>
    private readonly int[][][] _bound;
    private readonly int[][][] _owed;
    private Scratch _scratch = null!;
    private PassSet _allowed = PassSet.All;
    private long[]? _prices;
    private bool _joins = true;
    private int _labels;
    private SplitBounds? _split;
    private PairBounds? _pairs;
    private long _cut;

    /// <summary>Makes a zone ready to be searched again and again; not for two threads at once.</summary>
    /// <param name="problem">The zone.</param>
    /// <param name="beam">Labels a slot of the first, rough pass.</param>
    /// <param name="effort">How long its searches may go on; past it they are as narrow as the first pass.</param>
    /// <param name="plenty">Labels kept per slot that are gone through without a better bound.</param>
    public ZoneSearch(ZoneProblem problem, int beam = BeamWidth, Effort? effort = null, int plenty = Plenty)
    {
        _p = problem;
        _effort = effort ?? Effort.Unbounded;
        _beam = beam;
        _plenty = plenty;
        _active = problem.Active();
        SetCaps();
        (_bound, _owed) = Bounds();
    }

    /// <summary>The same zone to be searched at the same time.</summary>
    public ZoneSearch Beside() => (ZoneSearch)MemberwiseClone();

    /// <summary>Solves a zone with these passes open; the others are not used.</summary>
    public static ZoneSolution Solve(ZoneProblem problem, PassSet allowed) => new ZoneSearch(problem).Solve(allowed);

    /// <summary>Solves a zone with every pass open, as long as it may go on.</summary>
    public static ZoneSolution Solve(ZoneProblem problem, Effort effort) => new ZoneSearch(problem, effort: effort).Solve(PassSet.All);

    /// <summary>Solves a zone with every pass open.</summary>
    public static ZoneSolution Solve(ZoneProblem problem) => Solve(problem, PassSet.All);

    /// <summary>
    /// Solves with these passes open. A narrow beam finds a good plan; the exact pass proves it or betters it.
    /// </summary>
    /// <param name="allowed">Passes that may be used.</param>
    /// <param name="cap">Labels kept per slot; beyond it the answer is "not proved", with the bound that the labels cut off still leave.</param>
    /// <param name="thorough">Past the cap, look two kinds at a time.</param>
    /// <param name="prices">What the zone pays for each pass it takes, milli-minutes; null = nothing.</param>
    /// <param name="joins">Does staying out of what the whole block does cost?</param>
    public ZoneSolution Solve(PassSet allowed, int cap = LabelCap, bool thorough = true, long[]? prices = null, bool joins = true)
    {
        (_allowed, _prices, _joins) = (allowed, prices, joins);
        _labels = 0;
        _scratch = Scratch.OfThread;
        var start = Root();
        var beam = Pass(start, long.MaxValue, _beam, out var beamCapped);
        for (var width = _beam * Wider; beam.Cost == Never && beamCapped; width *= Wider)
        {
            // All that was kept came to a dead end: something it needed was no longer to be had.
            beam = Pass(start, long.MaxValue, width, out beamCapped);
        }

        var capped = false;
        var exact = beamCapped ? Exact(start, beam.Cost, cap, thorough ? Wide : cap, out capped) : beam;
        var best = exact.Cost <= beam.Cost ? exact : beam;
        var bound = capped ? Math.Min(best.Cost, _cut) : best.Cost;
        if (capped && thorough && !_effort.IsEnough)
        {
            // Beyond so many it pays to look two kinds at a time: more labels fall, and what is cut off is bounded better.
            _pairs = new PairBounds(
                _p,
                _active
                    .Select((k, a) => (Kind: k, Alone: _bound[0][a][_p.Start[k]]))
                    .OrderByDescending(x => x.Alone)
                    .ThenBy(x => x.Kind)
                    .Select(x => x.Kind),
                allowed,
                _effort
            );
            var closer = Pass(start, best.Cost, cap, out capped);
            best = closer.Cost <= best.Cost ? closer : best;
            bound = capped ? Math.Clamp(_cut, bound, best.Cost) : best.Cost;
            _pairs = null;
        }

        _split = null;
        return best with { Proved = !capped, Bound = bound, Labels = _labels };
    }

    /// <summary>
    /// The pass that proves. What still has many labels after a short one is bounded better and looked at again, narrowly for a better plan to
    /// measure by, then in full.
    /// </summary>
    /// <param name="width">Labels kept per slot at its widest.</param>
    private ZoneSolution Exact(in Label start, long upper, int cap, int width, out bool capped)
    {
        var best = Pass(start, upper, Math.Min(cap, _plenty), out capped);
        (int Width, int Times)[] more = [(_plenty, SplitBounds.Few), (Math.Min(cap, width), SplitBounds.Thorough)];
        foreach (var (kept, times) in more)
        {
            if (!capped || cap <= _plenty || _effort.IsEnough)
            {
                break;
            }

            _split = new SplitBounds(_p, _active, _allowed, _prices, times);
            var again = Pass(start, Math.Min(upper, best.Cost), kept, out capped);
            best = again.Cost <= best.Cost ? again : best;
        }

        return best;
    }

    private Label Root()
    {
        Span<byte> levels = stackalloc byte[32];
        levels.Fill(Levels.Nil);
        for (var k = 0; k < Kinds.Count; k++)
        {
            levels[k] = (byte)_p.Start[k];
        }

        return new Label
        {
            Levels = Capped(levels),
            Left = _p.LeftAtStart,
            Cost = 0,
            Parent = -1,
        };
    }

    private ZoneSolution Pass(in Label start, long upper, int width, out bool capped)
    {
        capped = false;
        _cut = long.MaxValue;
        Span<int> cover = stackalloc int[Round.Layers];
        var trails = _scratch.Trails;
        trails.Clear();
        _scratch.Starts.Clear();
        _scratch.From.Clear();
        _scratch.From.Add(start);
        for (var s = 0; s < _p.Stages.Count; s++)
        {
            var stage = _p.Stages[s];
            var skipping = stage.Skipping(_allowed, _joins);
            _scratch.Next.Clear();
            _scratch.Open.Clear();
            for (var o = 0; o < stage.Options.Count; o++)
            {
                if (stage.Options[o].Pass is var pass && (pass < 0 || _allowed.Has(pass)))
                {
                    _scratch.Open.Add(o);
                }
            }

            var from = CollectionsMarshal.AsSpan(_scratch.From);
            for (var i = 0; i < from.Length; i++)
            {
                if (i % CheckEvery == 0)
                {
                    _effort.Check();
                    width = _effort.IsEnough ? Math.Min(width, _beam) : width;
                }

                if ((from[i].Left & stage.Ends) == 0)
                {
                    Keep(from[i] with { Parent = i, Option = -1, Rounds = 0, Cost = from[i].Cost + skipping }, s + 1, upper);
                }

                if (_scratch.Open.Count == 0)
                {
                    continue;
                }

                Round.Cover(_p, from[i].Levels, cover);
                foreach (var o in _scratch.Open)
                {
                    Expand(from[i], i, o, stage, s + 1, upper, cover);
                }
            }

            _labels += _scratch.Next.Count;
            Undominated();
            if (_scratch.Front.Count > width)
            {
                capped = true;
                KeepBest(s + 1, width);
            }

            _scratch.Starts.Add(trails.Count);
            foreach (ref readonly var l in CollectionsMarshal.AsSpan(_scratch.Front))
            {
                trails.Add(new Trail(l.Parent, l.Option, l.Rounds));
            }

            (_scratch.From, _scratch.Front) = (_scratch.Front, _scratch.From);
        }

        return Best();
    }

    /// <param name="cover">What lies above each layer of the label it comes from.</param>
    private void Expand(in Label from, int parent, int index, StageOptions at, int stage, long upper, ReadOnlySpan<int> cover)
    {
        var option = at.Options[index];
        Span<byte> levels = stackalloc byte[32];
        from.Levels.CopyTo(levels);
        var left = from.Left;
        var cost = from.Cost + (option.Pass >= 0 && _prices is not null ? _prices[option.Pass] : 0);
        var most = option.Again < 0 || _allowed.Has(option.Again) ? option.MaxRounds : 1;
        for (var round = 1; round <= most; round++)
        {
            cost += round == 2 && option.Again >= 0 && _prices is not null ? _prices[option.Again] : 0;
            if (!Round.Try(_p, option, levels, ref left, ref cost, at.Demands(option, round), round == 1 ? cover : default))
            {
                return;
            }

            if ((left & at.Ends) != 0)
            {
                continue;
            }

            Keep(
                new Label
                {
                    Levels = Capped(levels),
                    Left = left,
                    Cost = cost,
                    Parent = parent,
                    Option = (short)index,
                    Rounds = (byte)round,
                },
                stage,
                upper
            );
        }
    }

    private void Keep(in Label label, int stage, long upper)
    {
        if (
            upper == long.MaxValue
            || (
                (_split is null || label.Cost + SplitBound(stage, label.Levels) <= upper)
                && label.Cost + MaxBound(stage, label.Levels) <= upper
                && (_pairs is null || label.Cost + _pairs.At(stage, label.Levels) <= upper)
            )
        )
        {
            _scratch.Next.Add(label);
        }
    }

    /// <summary>Leaves in the front what no other label beats; cheapest first, equal costs in the order they were made.</summary>
    private void Undominated()
    {
        var all = CollectionsMarshal.AsSpan(_scratch.Next);
        if (_scratch.Keys.Length < all.Length)
        {
            _scratch.Keys = new long[Math.Max(all.Length, _scratch.Keys.Length * 2)];
        }

        for (var i = 0; i < all.Length; i++)
        {
            _scratch.Keys[i] = all[i].Cost << IndexBits | (uint)i;
        }

        Array.Sort(_scratch.Keys, 0, all.Length);
        _scratch.Front.Clear();
        _scratch.FrontLevels.Clear();
        for (var i = 0; i < all.Length; i++)
        {
            ref readonly var candidate = ref all[(int)(_scratch.Keys[i] & ((1 << IndexBits) - 1))];
            if (!Dominated(candidate))
            {
                _scratch.Front.Add(candidate);
                _scratch.FrontLevels.Add(candidate.Levels);
            }
        }
    }

    /// <summary>Cuts the front to the labels that promise most: least cost plus what each kind alone still costs.</summary>
    private void KeepBest(int stage, int width)
    {
        var front = CollectionsMarshal.AsSpan(_scratch.Front);
        for (var i = 0; i < front.Length; i++)
        {
            _scratch.Keys[i] = front[i].Cost + SumBound(stage, front[i].Levels) << IndexBits | (uint)i;
        }

        Array.Sort(_scratch.Keys, 0, front.Length);
        for (var i = width; i < front.Length; i++)
        {
            // What is cut off could still have come to this, and to no less.
            ref readonly var l = ref front[(int)(_scratch.Keys[i] & ((1 << IndexBits) - 1))];
            _cut = Math.Min(
                _cut,
                l.Cost + Math.Max(Math.Max(MaxBound(stage, l.Levels), SplitBound(stage, l.Levels)), _pairs?.At(stage, l.Levels) ?? 0)
            );
        }

        _scratch.From.Clear();
        for (var i = 0; i < width; i++)
        {
            _scratch.From.Add(front[(int)(_scratch.Keys[i] & ((1 << IndexBits) - 1))]);
        }

        (_scratch.From, _scratch.Front) = (_scratch.Front, _scratch.From);
    }

    private bool Dominated(in Label b)
    {
        // Kept protection does not matter by itself: it is paid when it goes.
        var need = _p.Keep is null ? b.Levels : b.Levels.WithElement(_p.Protection, (byte)0);
        var front = CollectionsMarshal.AsSpan(_scratch.Front);
        var levels = CollectionsMarshal.AsSpan(_scratch.FrontLevels);
        for (var i = 0; i < levels.Length; i++)
        {
            if (!Vector256.GreaterThanOrEqualAll(levels[i], need))
            {
                continue;
            }

            // A spray that waits for its foam opens ways to the one that has it: such labels are not compared with others.
            ref readonly var a = ref front[i];
            if ((a.Left & ~b.Left) != 0 || ((a.Left ^ b.Left) & Left.Wet) != 0)
            {
                continue;
            }

            // A label that still has more protection may have to pay that yet, and one with less has paid already.
            if (_p.Keep is not { } keep || a.Cost + Math.Max(0, keep[a.Levels[_p.Protection]] - keep[b.Levels[_p.Protection]]) <= b.Cost)
            {
                return true;
            }
        }

        return false;
    }

    private ZoneSolution Best()
    {
        Span<byte> levels = stackalloc byte[32];
        var last = CollectionsMarshal.AsSpan(_scratch.From);
        var best = -1;
        var least = Never;
        for (var i = 0; i < last.Length; i++)
        {
            last[i].Levels.CopyTo(levels);
            var total = last[i].Cost + _p.Terminal(levels, last[i].Left);
            if (total < least)
            {
                least = total;
                best = i;
            }
        }

        var choices = new List<Choice>();
        var used = PassSet.None;
        for (var s = _scratch.Starts.Count - 1; s >= 0 && best >= 0; s--)
        {
            var label = _scratch.Trails[_scratch.Starts[s] + best];
            if (label.Option >= 0)
            {
                choices.Add(new Choice(s, label.Option, label.Rounds));
                var option = _p.Stages[s].Options[label.Option];
                used |= option.Pass >= 0 ? PassSet.Of(option.Pass) : PassSet.None;
                used |= option.Again >= 0 && label.Rounds > 1 ? PassSet.Of(option.Again) : PassSet.None;
            }

            best = label.Parent;
        }

        choices.Reverse();
        return new ZoneSolution(choices, least, least, true, used, 0);
    }

    /// <summary>
    /// Beyond its cap a kind makes no difference any more: not to its target, not at a load limit or under a tool (nil there), not as
    /// a cover. Capping merges labels and loses nothing.
    /// </summary>
    private void SetCaps()
    {
        var options = _p.Stages.SelectMany(s => s.Options).ToArray();
        for (var k = 0; k < _cap.Length; k++)
        {
            _cap[k] = Levels.Nil;
        }

        foreach (var k in _active)
        {
            if (k == _p.Protection && _p.Keep is not null)
            {
                continue;
            }

            var cap = _p.Target[k];
            if (_p.Layer[k] > 0 && _active.Any(other => _p.Layer[other] > _p.Layer[k]))
            {
                cap = Math.Max(cap, CleanEnough(_p.ShieldFrom - 1));
            }

            foreach (var o in options)
            {
                if ((o.LoadLimit is not null && o.LoadLimit.Weights.Any(w => w.Kind == k)) || o.Dragged.Any(w => w.Kind == k))
                {
                    cap = Math.Max(cap, _p.NilAtLimit);
                }

                foreach (var (kind, limit) in o.LoadLimit is null ? [] : o.LoadLimit.And)
                {
                    cap = kind == k ? Math.Max(cap, CleanEnough(limit)) : cap;
                }
            }

            // Residue can be added to again: how far below its target it is still matters then.
            _cap[k] = (byte)(k == Kinds.Residue ? Levels.Nil : Math.Min(cap, Levels.Nil));
        }
    }

    private static int CleanEnough(int millionths)
    {
        var n = 0;
        while (n < Levels.Nil && Levels.MillionthsOf(n) > millionths)
        {
            n++;
        }

        return n;
    }

    private Vector256<byte> Capped(ReadOnlySpan<byte> levels) => Vector256.Min(Vector256.Create(levels), Vector256.Create(_cap));

    /// <summary>
    /// Cheapest way to bring one kind alone home from each level at each slot: every product open, no load limits, no marring, no
    /// shield; and what of it stays dirty however much is done. Slots that do nothing for a kind share the table of the slot after them.
    /// </summary>
    private (int[][][] Costs, int[][][] Owed) Bounds()
    {
        var n = _p.Stages.Count;
        var (costs, owed) = (new int[n + 1][][], new int[n + 1][][]);
        costs[n] = owed[n] = [.. _active.Select(k => Short(_p.Target[k]))];
        Span<int> place = stackalloc int[Kinds.Count];
        place.Fill(-1);
        for (var a = 0; a < _active.Length; a++)
        {
            place[_active[a]] = a;
        }

        for (var s = n - 1; s >= 0; s--)
        {
            if (_p.Stages[s].Options.Count == 0)
            {
                (costs[s], owed[s]) = (costs[s + 1], owed[s + 1]);
                continue;
            }

            (costs[s], owed[s]) = (costs[s + 1][..], owed[s + 1][..]);
            foreach (var o in _p.Stages[s].Options)
            {
                foreach (var e in o.Effects)
                {
                    if (e.Levels != 0 && place[e.Kind] is >= 0 and var a)
                    {
                        Cheapen(costs[s + 1][a], ref costs[s][a], o, e, o.Cost);
                        Cheapen(owed[s + 1][a], ref owed[s][a], o, e, 0);
                    }
                }
            }
        }

        return (costs, owed);
    }

    /// <summary>What a kind costs at the end, by level, when nothing more is done.</summary>
    private int[] Short(int target)
    {
        var table = new int[Levels.Nil + 1];
        for (var level = 0; level < table.Length; level++)
        {
            table[level] = (int)Math.Min(Most, Math.Max(0, target - level) * _p.ShortfallPerLevel);
        }

        return table;
    }

    private static void Cheapen(int[] after, ref int[] here, Option o, Effect effect, long cost)
    {
        if (after[0] == 0)
        {
            // It is home from every level already.
            return;
        }

        here = ReferenceEquals(here, after) ? (int[])after.Clone() : here;
        for (var level = 0; level < effect.Floor; level++)
        {
            var n = level;
            for (var round = 1; round <= o.MaxRounds && n < effect.Floor; round++)
            {
                n = Math.Min(n + effect.Levels, effect.Floor);
                here[level] = (int)Math.Min(here[level], after[n] + (cost * round));
            }
        }
    }

    private long MaxBound(int stage, Vector256<byte> levels)
    {
        // What stays dirty whatever is done is owed for every kind at once; on top of it comes the dearest kind's work.
        Span<byte> at = stackalloc byte[32];
        levels.CopyTo(at);
        var (bound, owed) = (_bound[stage], _owed[stage]);
        long sum = 0;
        long most = 0;
        for (var a = 0; a < _active.Length; a++)
        {
            var level = at[_active[a]];
            var stays = owed[a][level];
            sum += stays;
            most = Math.Max(most, bound[a][level] - stays);
        }

        return sum + most;
    }

    private long SplitBound(int stage, Vector256<byte> levels)
    {
        if (_split is null)
        {
            return 0;
        }

        Span<byte> at = stackalloc byte[32];
        levels.CopyTo(at);
        return _split.At(stage, at);
    }

    private long SumBound(int stage, Vector256<byte> levels)
    {
        long sum = 0;
        for (var a = 0; a < _active.Length; a++)
        {
            sum += _bound[stage][a][levels[_active[a]]];
        }

        return sum;
    }

    /// <summary>Lists that every search of a thread uses again; a search begins by clearing them.</summary>
    private sealed class Scratch
    {
        [ThreadStatic]
        private static Scratch? _mine;

        public static Scratch OfThread => _mine ??= new Scratch();

        public List<Label> Next { get; } = [];

        public List<Label> Front { get; set; } = [];

        /// <summary>Levels of the front, close together: they are what is looked at most.</summary>
        public List<Vector256<byte>> FrontLevels { get; } = [];

        public List<Label> From { get; set; } = [];

        /// <summary>Options of a slot that may be taken.</summary>
        public List<int> Open { get; } = [];

        public long[] Keys { get; set; } = new long[256];

        /// <summary>How each label of every stage came about, stage after stage; <see cref="Starts"/> says where each begins.</summary>
        public List<Trail> Trails { get; } = [];

        public List<int> Starts { get; } = [];
    }

    private readonly record struct Trail(int Parent, short Option, byte Rounds);

    private struct Label
    {
        public Vector256<byte> Levels;
        public long Cost;
        public int Parent;
        public Left Left;
        public short Option;
        public byte Rounds;
    }
}
