using ToughStart.Core.Contamination;

namespace ToughStart.Core.Planning;

/// <summary>
/// A stronger bound for zones that are hard to search: what each option costs is divided among the kinds it works on, each kind is planned alone
/// with its part, and the sum of all is no more than any plan costs (cost partitioning). The parts move a few times to where they are paid.
/// </summary>
internal sealed class SplitBounds
{
    private const int Side = Levels.Nil + 1;

    /// <summary>How often the parts move for a bound that is made quickly.</summary>
    public const int Few = 12;

    /// <summary>And from where on the bound hardly grows.</summary>
    public const int Thorough = 60;

    private readonly ZoneProblem _p;
    private readonly int[] _active;

    /// <summary>What a round of an option costs beside its own cost, first and further ones, milli-minutes.</summary>
    private readonly Func<Option, (long First, long Again)> _pays;

    /// <summary>Options that may be taken, by slot; each with the parts of its cost that the kinds it works on bear.</summary>
    private readonly Shared[][] _options;

    /// <summary>By slot, active kind and level.</summary>
    private int[] _table;

    private sealed record Shared(Option Option, (int Place, Effect Effect)[] Effects, double[] Parts, bool[] Took, int Rounds);

    /// <param name="p">The zone.</param>
    /// <param name="active">Its kinds that take part.</param>
    /// <param name="allowed">Passes that may be used.</param>
    /// <param name="prices">What the zone pays for each pass it takes; null = nothing.</param>
    /// <param name="times">How often the parts move.</param>
    public SplitBounds(ZoneProblem p, int[] active, PassSet allowed, long[]? prices, int times)
    {
        (_p, _active) = (p, active);
        _pays = o => prices is null ? (0, 0) : (o.Pass < 0 ? 0 : prices[o.Pass], o.Again < 0 ? 0 : prices[o.Again]);
        _options =
        [
            .. p.Stages.Select(s =>
                s.Options.Where(o => o.Pass < 0 || allowed.Has(o.Pass))
                    .Select(o =>
                        (o, Of: o.Effects.Where(e => e.Levels > 0).Select(e => (Array.IndexOf(active, e.Kind), e)).Where(e => e.Item1 >= 0))
                    )
                    .Select(x => (x.o, Of: x.Of.ToArray()))
                    .Where(x => x.Of.Length > 0)
                    .Select(x => new Shared(
                        x.o,
                        x.Of,
                        [.. x.Of.Select(_ => 1.0)],
                        new bool[x.Of.Length],
                        x.o.Again < 0 || allowed.Has(x.o.Again) ? x.o.MaxRounds : 1
                    ))
                    .ToArray()
            ),
        ];
        _table = new int[(p.Stages.Count + 1) * active.Length * Side];
        var other = new int[_table.Length];
        long best = -1;
        for (var time = 1; time <= times; time++)
        {
            Fill(other);
            var bound = Walk(other);
            if (bound > best)
            {
                (best, _table, other) = (bound, other, _table);
            }

            Move(time);
        }
    }

    /// <summary>No way home from here is cheaper, milli-minutes.</summary>
    public long At(int stage, ReadOnlySpan<byte> levels)
    {
        long sum = 0;
        for (var (a, at) = (0, stage * _active.Length * Side); a < _active.Length; a++, at += Side)
        {
            sum += _table[at + levels[_active[a]]];
        }

        return sum;
    }

    private Span<int> Of(int[] table, int stage, int a) => table.AsSpan(((stage * _active.Length) + a) * Side, Side);

    private void Fill(int[] table)
    {
        var n = _p.Stages.Count;
        for (var a = 0; a < _active.Length; a++)
        {
            var last = Of(table, n, a);
            for (var level = 0; level < Side; level++)
            {
                last[level] = (int)Math.Min(int.MaxValue / 4, Math.Max(0, _p.Target[_active[a]] - level) * _p.ShortfallPerLevel);
            }
        }

        var width = _active.Length * Side;
        for (var s = n - 1; s >= 0; s--)
        {
            table.AsSpan((s + 1) * width, width).CopyTo(table.AsSpan(s * width, width));
            foreach (var o in _options[s])
            {
                var all = o.Parts.Sum();
                for (var e = 0; e < o.Effects.Length; e++)
                {
                    var (place, effect) = o.Effects[e];
                    Cheapen(Of(table, s, place), Of(table, s + 1, place), o, effect, o.Parts[e] / all);
                }
            }
        }
    }

    private void Cheapen(Span<int> here, ReadOnlySpan<int> after, Shared o, Effect effect, double part)
    {
        var (first, again) = Cost(o, part);
        for (var level = 0; level < effect.Floor && after[level] > 0; level++)
        {
            var n = level;
            var cost = first;
            for (var round = 1; round <= o.Rounds && n < effect.Floor; round++, cost += round == 2 ? again : o.Option.Cost * part)
            {
                n = Math.Min(n + effect.Levels, effect.Floor);
                here[level] = (int)Math.Min(here[level], after[n] + cost);
            }
        }
    }

    /// <summary>What a kind bears of the first round and of the second.</summary>
    private (double First, double Again) Cost(Shared o, double part)
    {
        var (first, again) = _pays(o.Option);
        return ((o.Option.Cost + first) * part, (o.Option.Cost + again) * part);
    }

    /// <summary>Goes each kind's own way from where the zone stands, and marks what it takes.</summary>
    /// <returns>What all of them pay together.</returns>
    private long Walk(int[] table)
    {
        long sum = 0;
        for (var a = 0; a < _active.Length; a++)
        {
            var level = _p.Start[_active[a]];
            sum += Of(table, 0, a)[level];
            for (var s = 0; s < _options.Length; s++)
            {
                level = Step(table, s, a, level);
            }
        }

        return sum;
    }

    private int Step(int[] table, int s, int a, int level)
    {
        var here = Of(table, s, a)[level];
        var after = Of(table, s + 1, a);
        var to = level;
        foreach (var o in _options[s])
        {
            var e = Array.FindIndex(o.Effects, x => x.Place == a);
            if (e < 0)
            {
                continue;
            }

            o.Took[e] = false;
            if (here == after[level] || to != level)
            {
                continue;
            }

            var part = o.Parts[e] / o.Parts.Sum();
            var (cost, again) = Cost(o, part);
            var (n, floor) = (level, o.Effects[e].Effect.Floor);
            for (var round = 1; round <= o.Rounds && n < floor; round++, cost += round == 2 ? again : o.Option.Cost * part)
            {
                n = Math.Min(n + o.Effects[e].Effect.Levels, floor);
                if ((int)(after[n] + cost) == here)
                {
                    (to, o.Took[e]) = (n, true);
                    break;
                }
            }
        }

        return to;
    }

    /// <summary>A kind that takes an option though it bears a part of it can bear more; one that does without bears less.</summary>
    private void Move(int time)
    {
        foreach (var o in _options.SelectMany(o => o))
        {
            for (var e = 0; e < o.Parts.Length; e++)
            {
                o.Parts[e] = o.Took[e] ? o.Parts[e] + (1.0 / time) : Math.Max(1e-9, o.Parts[e] * (1 - (0.6 / time)));
            }
        }
    }
}
