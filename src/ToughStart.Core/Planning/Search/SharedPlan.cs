using ToughStart.Core.Costing;

namespace ToughStart.Core.Planning;

/// <summary>
/// Zones share the passes round the vehicle, and passes share what is mixed: each pass costs its fee once, each product its set-up once. Which
/// passes are open is searched; each unit (a zone, or a wheel) is then planned exactly with only those. Prices find where to start: fees are
/// divided among the units that may pay for them, and the parts move to where they are paid. From there single changes and whole products are tried until none
/// helps, and the best way found for one block is joined with the best found for the other.
/// Identical units are searched once, and an optimum found for more passes serves every smaller set that still holds what it uses.
/// </summary>
public sealed class SharedPlan
{
    private const int PriceRounds = 4;

    /// <summary>Units and passes up to which every pass is thought of, and two changes at a time.</summary>
    private const int FewUnits = 12;
    private const int FewPasses = 80;
    private const int RandomStarts = 10;
    private const int ManyStarts = 12;
    private const int BoundRounds = 24;

    /// <summary>Labels a slot of a hard unit gets while passes are tried; the set that wins is searched in full.</summary>
    private const int Glance = 12;

    /// <summary>Labels a slot of any unit gets for a bound of what sharing can cost, and labels after which its parts move no further.</summary>
    private const int BoundGlance = 1000;
    private const int BoundBudget = 1_500_000;

    /// <summary>Labels from which on a unit is only glanced at while passes are tried.</summary>
    private const int Hard = 12_000;

    /// <summary>
    /// Labels a whole job may take in full searches; from there on units are only glanced at, and the plan says which are not proved.
    /// </summary>
    private const int Budget = 300_000;

    /// <summary>Labels after which nothing more is tried: what was found by then is taken, and its gap shown.</summary>
    private const int Most = 2 * Budget;

    /// <summary>Sets of passes that are tried at the same time, on however many cores: the order of trying is part of what is found.</summary>
    private const int Hands = 2;

    private int _spent;
    private readonly List<ZoneProblem> _unique = [];
    private readonly int[] _unitToUnique;
    private readonly int[] _times;
    private readonly List<(PassSet Open, ZoneSolution Solution)>[] _cache;

    /// <summary>What was found for exactly these passes, so that the list need not be gone through again.</summary>
    private readonly Dictionary<PassSet, ZoneSolution>[] _known;

    /// <summary>Units where the search stands: most changes leave most of them as they are.</summary>
    private readonly (PassSet Open, ZoneSolution? Solution)[] _at;
    private readonly PassBook _book;
    private readonly PassSet _free;
    private readonly PassSet[] _usable;
    private readonly PassSet[] _whole;

    /// <summary>Further rounds of all passes.</summary>
    private readonly PassSet _again;

    /// <summary>Of each pass those that exclude it.</summary>
    private readonly PassSet[] _instead;

    /// <summary>A search of each unit for every hand: that many sets of passes are tried at the same time.</summary>
    private readonly ZoneSearch?[][] _searches;
    private readonly bool[] _hard;
    private readonly Effort _effort;

    /// <param name="units">What is planned by itself, once the passes are known.</param>
    /// <param name="signatures">Equal for units that are alike.</param>
    public SharedPlan(IReadOnlyList<ZoneProblem> units, IReadOnlyList<string> signatures, PassBook book, Effort? effort = null)
    {
        _effort = effort ??= Effort.Unbounded;
        _book = book;
        _unitToUnique = new int[units.Count];
        var known = new Dictionary<string, int>();
        for (var i = 0; i < units.Count; i++)
        {
            if (!known.TryGetValue(signatures[i], out var u))
            {
                u = known[signatures[i]] = _unique.Count;
                _unique.Add(units[i]);
            }

            _unitToUnique[i] = u;
        }

        _times = new int[_unique.Count];
        foreach (var u in _unitToUnique)
        {
            _times[u]++;
        }

        _searches = [.. Enumerable.Range(0, Hands).Select(_ => new ZoneSearch?[_unique.Count])];
        _searches[0] = [.. _unique.Select(z => new ZoneSearch(z, effort: effort))];
        _hard = new bool[_unique.Count];
        _cache = _unique.Select(_ => new List<(PassSet, ZoneSolution)>()).ToArray();
        _known = _unique.Select(_ => new Dictionary<PassSet, ZoneSolution>()).ToArray();
        _at = new (PassSet, ZoneSolution?)[_unique.Count];
        _again = PassSet.Of(book.Passes.Where(p => p.IsAgain).Select(p => p.Index));
        _instead = book
            .Passes.Select(p =>
                p.IsAgain || p.Group < 0
                    ? PassSet.None
                    : PassSet.Of(book.Passes.Where(o => !o.IsAgain && o.Group == p.Group).Select(o => o.Index))
            )
            .ToArray();
        _usable = _unique.Select(z => z.Passes()).ToArray();
        _free = PassSet.Of(book.Passes.Where(p => p is { Fee: 0, Group: < 0 }).Select(p => p.Index));
        _whole = _unique
            .Select(z =>
                PassSet.Of(
                    z.Stages.Where(s => s.Joins > 0).SelectMany(s => s.Options).Where(o => o.Whole && o.Pass >= 0).Select(o => o.Pass)
                )
            )
            .ToArray();
    }

    /// <summary>Unit searches actually run so far.</summary>
    public int Searches { get; private set; }

    /// <summary>Sum of what each unit would cost by itself with every pass open and none to pay for: no plan can be cheaper.</summary>
    public long OpenAll => Alone().Select((s, u) => s.Cost * _times[u]).Sum();

    /// <summary>The shared plan, one solution per unit in the order given.</summary>
    /// <param name="seeds">Sets of passes to start from as well, for instance those of the same job judged otherwise.</param>
    /// <param name="brief">Start from those and from what prices say, and nowhere else.</param>
    public IReadOnlyList<ZoneSolution> Solve(bool share = true, IReadOnlyList<PassSet>? seeds = null, bool brief = false)
    {
        if (!share)
        {
            var alone = Alone();
            return _unitToUnique.Select(u => alone[u]).ToArray();
        }

        var open = Search(seeds ?? [], brief);
        var best = All(open);
        // What took least so far comes first: the budget then proves as many units as it can.
        var doubtful = Enumerable.Range(0, best.Length).Where(u => !best[u].Proved).OrderBy(u => best[u].Labels).ThenBy(u => u);
        foreach (var units in doubtful.Chunk(Hands))
        {
            if (_spent > Budget || _effort.IsEnough)
            {
                break;
            }

            foreach (var (i, full) in Cores.Each(units.Length, i => By(0, units[i]).Solve(open & _usable[units[i]])).Index())
            {
                Searches++;
                _spent += full.Labels;
                var u = units[i];
                best[u] = full.Cost <= best[u].Cost ? full : best[u] with { Bound = Math.Max(full.Bound, best[u].Bound) };
            }
        }

        return _unitToUnique.Select(u => best[u]).ToArray();
    }

    /// <summary>Every unit at its best with these passes open, whatever they cost; in the order given.</summary>
    public IReadOnlyList<ZoneSolution> With(PassSet open) => All(open) is var all ? _unitToUnique.Select(u => all[u]).ToArray() : [];

    /// <summary>
    /// The same plan with fellows worked alike: where units of a group differ in the passes they take (one stands in the sun, the other does not),
    /// all take those of one of them, as often as each needs, if that costs no more than so much. Nobody sprays the left wheels and foams the right ones to save a minute.
    /// </summary>
    /// <param name="groups">Places of units that are each other's fellows.</param>
    /// <param name="most">Milli-minutes of cost a group may cost more.</param>
    public IReadOnlyList<ZoneSolution> Alike(IReadOnlyList<ZoneSolution> solutions, IEnumerable<IReadOnlyList<int>> groups, long most)
    {
        var now = solutions.ToArray();
        var open = now.Aggregate(PassSet.None, (all, s) => all | s.Used);
        foreach (var group in groups)
        {
            var ways = group.Select(i => Firsts(now[i].Used)).Distinct().ToArray();
            if (ways.Length < 2 || _effort.IsEnough)
            {
                continue;
            }

            // Staying out of what the block does is paid for whatever the fellows do; a pass that nobody takes any more is saved.
            var rest = now.Where((_, i) => !group.Contains(i)).Aggregate(PassSet.None, (all, s) => all | s.Used);
            long Cost(IEnumerable<ZoneSolution> of) => of.Sum(s => s.Cost) + _book.CostOf(of.Aggregate(rest, (all, s) => all | s.Used));
            var best = ways.Select(way =>
                    group.Select(i => Solve(_unitToUnique[i], WithAgain(way) | (open & _whole[_unitToUnique[i]]))).ToArray()
                )
                .Where(all => all.All(s => Firsts(s.Used) == Firsts(all[0].Used)))
                .MinBy(Cost);
            if (best is not null && Cost(best) - Cost(group.Select(i => now[i])) <= most)
            {
                for (var m = 0; m < best.Length; m++)
                {
                    now[group[m]] = best[m] with { Bound = Math.Min(best[m].Bound, now[group[m]].Bound) };
                }
            }
        }

        return now;
    }

    /// <summary>Cost of a set of open passes: units at their best with it, plus what the passes they use cost.</summary>
    public long Total(PassSet open)
    {
        var all = All(open);
        return all.Select((s, u) => s.Cost * _times[u]).Sum() + _book.CostOf(Used(all));
    }

    /// <summary>What units, passes and set-ups cost together.</summary>
    public long CostOf(IReadOnlyList<ZoneSolution> solutions) =>
        solutions.Sum(s => s.Cost) + _book.CostOf(solutions.Aggregate(PassSet.None, (m, s) => m | s.Used));

    private PassSet Search(IReadOnlyList<PassSet> seeds, bool brief)
    {
        var (last, before, ever) = Priced();
        var few = _unique.Count <= FewUnits && _book.Passes.Count <= FewPasses;
        var candidates = few ? _usable.Aggregate(PassSet.None, (all, s) => all | s) : seeds.Aggregate(ever, (all, s) => all | s);
        var starts = new List<PassSet> { OneOfEach(last.Used, last.Times), OneOfEach(last.Used | before.Used, last.Times) };
        starts.Add(OneOfEach(candidates, last.Times));
        starts.AddRange(seeds.Select(s => OneOfEach(s, last.Times)));
        var (best, least) = (PassSet.None, long.MaxValue);
        var found = new List<PassSet>();
        void Try(PassSet start)
        {
            var open = Improve(start, candidates, few);
            var total = Total(open);
            found.Add(open);
            (best, least) = total < least ? (open, total) : (best, least);
        }

        foreach (var start in starts.Distinct())
        {
            Try(start);
        }

        var further =
            brief ? 0
            : few ? ManyStarts
            : RandomStarts;
        for (var i = 0; i < further && _spent < Budget && !_effort.IsEnough; i++)
        {
            Try(OneOfEach(PassSet.Of(candidates.Passes().Where(p => Tossed(_book.Passes[p].Key, i))), last.Times));
        }

        // Prices say what is worth opening; whether what is open is gone over again is tried in any case.
        if (WithAgain(Firsts(best)) is var again && (again & ~candidates) is { IsEmpty: false })
        {
            candidates |= again;
            Try(best);
        }

        // Blocks share only what is mixed: the best way to do one may have been found beside a poor way to do the other.
        var blocks = _book
            .Passes.GroupBy(p => p.Key.Block)
            .Select(g => PassSet.Of(g.Select(p => p.Index)))
            .Select(of => (Of: of, Ways: found.Select(f => f & of).Distinct().ToArray()))
            .ToArray();
        for (var better = true; better && _spent <= Most && !_effort.IsEnough; )
        {
            better = false;
            foreach (var (of, ways) in blocks)
            {
                foreach (var other in ways.Select(way => WithFree((best & ~of) | way)).Where(o => o != best))
                {
                    if (TotalsBelow([LookAt(other)], least)[0] is var total && total < least)
                    {
                        (best, least, better) = (other, total, true);
                    }
                }
            }

            if (better)
            {
                Try(best);
            }
        }

        return best;
    }

    /// <summary>
    /// Heads or tails for a pass in one of the random starts. Each pass has its own coin, so that what is found elsewhere on the vehicle does not
    /// change where the search for this part of the work begins.
    /// </summary>
    private static bool Tossed(PassKey key, int start)
    {
        ulong seed = 0x7061_7373;
        foreach (var part in (ReadOnlySpan<int>)[start, (int)key.Block, key.Treatment, key.Strength, key.Under ? 1 : 0, key.Again ? 1 : 0])
        {
            seed = seed * 1_000_003 + (ulong)part;
        }

        return new SplitMix(seed).Next() < 0.5;
    }

    /// <summary>What a round of prices came to: passes used, and by how many units each.</summary>
    private readonly record struct Paid(PassSet Used, int[] Times);

    /// <summary>
    /// Units planned by themselves with every pass open, each paying its part of what the passes it takes cost. Whoever takes a pass though it
    /// costs a part can bear more of it; who gives it up bears less.
    /// </summary>
    private (Paid Last, Paid Before, PassSet Ever) Priced()
    {
        var parts = _unique.Select((_, u) => _usable[u].Passes().ToDictionary(p => p, _ => 1.0)).ToArray();
        var (last, before, ever) = (default(Paid), default(Paid), PassSet.None);
        for (var round = 1; round <= PriceRounds; round++)
        {
            var prices = Prices(parts);
            before = last;
            var (used, times) = (PassSet.None, new int[_book.Passes.Count]);
            var found = Cores.Each(_unique.Count, u => By(0, u).Solve(_usable[u], Glance, thorough: false, prices[u], joins: false));
            foreach (var (u, s) in found.Index())
            {
                Searches++;
                _spent += s.Labels;
                used |= s.Used;
                foreach (var p in s.Used.Passes())
                {
                    times[p] += _times[u];
                }

                foreach (var p in _usable[u].Passes())
                {
                    parts[u][p] = s.Used.Has(p) ? parts[u][p] + 1.0 / round : parts[u][p] * (1 - 0.6 / round);
                }
            }

            last = new(used, times);
            ever |= used;
        }

        return (last, before.Times is null ? last : before, ever);
    }

    /// <summary>What each unit pays for each pass when fees and set-ups are divided by these parts.</summary>
    private long[][] Prices(Dictionary<int, double>[] parts)
    {
        var ofPass = new double[_book.Passes.Count];
        var ofProduct = new double[_book.SetUps.Count];
        for (var u = 0; u < parts.Length; u++)
        {
            foreach (var (p, part) in parts[u])
            {
                ofPass[p] += part * _times[u];
                if (_book.Passes[p] is { IsAgain: false, Product: >= 0 } pass)
                {
                    ofProduct[pass.Product] += part * _times[u];
                }
            }
        }

        return parts
            .Select(mine =>
            {
                var prices = new long[_book.Passes.Count];
                foreach (var (p, part) in mine)
                {
                    var pass = _book.Passes[p];
                    var mixed = pass is { IsAgain: false, Product: >= 0 } && ofProduct[pass.Product] > 0;
                    prices[p] =
                        (ofPass[p] <= 0 ? 0 : (long)(pass.Fee * part / ofPass[p]))
                        + (mixed ? (long)(_book.SetUps[pass.Product] * part / ofProduct[pass.Product]) : 0);
                }

                return prices;
            })
            .ToArray();
    }

    /// <summary>Of passes that exclude each other the one that is used most; and no further rounds of what is not open.</summary>
    private PassSet OneOfEach(PassSet open, int[] times) =>
        WithFirsts(
            PassSet.Of(
                open.Passes()
                    .GroupBy(p => _book.Passes[p] is { Group: >= 0, IsAgain: false } pass ? pass.Group : -1 - p)
                    .Select(g => g.OrderByDescending(p => times[p]).ThenBy(p => p).First())
            )
        );

    private PassSet Firsts(PassSet open) => open & ~_again;

    /// <summary>With the further rounds of all these first ones.</summary>
    private PassSet WithAgain(PassSet firsts) =>
        firsts | PassSet.Of(_book.Passes.Where(p => p.IsAgain && firsts.Has(p.First)).Select(p => p.Index));

    private PassSet WithFirsts(PassSet open)
    {
        var again = open & _again;
        return again.IsEmpty ? open : open & ~PassSet.Of(again.Passes().Where(p => !open.Has(_book.Passes[p].First)));
    }

    /// <summary>Changes one thing after another while that makes the plan cheaper.</summary>
    /// <param name="candidates">Passes that are worth opening.</param>
    /// <param name="pairs">Try two changes at a time too.</param>
    private PassSet Improve(PassSet open, PassSet candidates, bool pairs)
    {
        var (best, from) = (Total(open), 0);
        for (var better = true; better && !_effort.IsEnough; )
        {
            better = false;
            // What nobody takes is closed first: it may cost those who stay out of it.
            for (var used = Used(All(open)); used != open && Total(used) is var total && total <= best; used = Used(All(open)))
            {
                (open, best) = (used, total);
            }

            StandAt(open);
            var all = Changes(open, candidates).Concat(Products(open, candidates)).Concat(pairs ? Pairs(open, candidates) : []).Index();
            // It goes on where it stands: what was no better a moment ago hardly is now.
            var turn = all.Skip(from).Concat(all.Take(from)).Select(x => (x.Index, Open: WithFree(x.Item)));
            if (FirstBelow(turn, best) is { } found)
            {
                (from, open, best, better) = (found.Index, found.Open, found.Total, true);
            }
        }

        return open;
    }

    /// <summary>Every set that differs by one pass closed, one put in another's place, or one opened.</summary>
    private IEnumerable<PassSet> Changes(PassSet open, PassSet candidates)
    {
        var others = (candidates & ~open).Passes().ToArray();
        foreach (var p in open.Passes())
        {
            yield return WithFirsts(open & ~PassSet.Of(p));
        }

        foreach (var p in open.Passes().Where(p => !_book.Passes[p].IsAgain))
        {
            foreach (var q in others.Where(q => Instead(p, q)))
            {
                var (from, to) = (open & ~PassSet.Of(p), PassSet.Of(q));
                var again = open.Passes().FirstOrDefault(x => _book.Passes[x].First == p, -1);
                if (again >= 0 && _book.Passes.FirstOrDefault(x => x.First == q) is { } more)
                {
                    // Further rounds change over with their first.
                    (from, to) = (from & ~PassSet.Of(again), to | PassSet.Of(more.Index));
                }

                if (Fits(from, q))
                {
                    yield return WithFirsts(from | to);
                }
            }
        }

        foreach (var q in others.Where(q => Fits(open, q)))
        {
            yield return open | PassSet.Of(q);
        }
    }

    /// <summary>May the second do what the first did: in the same place of the order, or one of a group of which only one is open?</summary>
    private bool Instead(int p, int q)
    {
        var (was, now) = (_book.Passes[p], _book.Passes[q]);
        return !now.IsAgain
            && ((was.Key.Block == now.Key.Block && was.Key.Slot == now.Key.Slot) || (was.Group >= 0 && was.Group == now.Group));
    }

    /// <summary>Every set in which a product with all its passes is given up, taken up or changed for another.</summary>
    private IEnumerable<PassSet> Products(PassSet open, PassSet candidates)
    {
        var firsts = open.Passes().Where(p => !_book.Passes[p].IsAgain).ToArray();
        var others = (candidates & ~open).Passes().ToArray();
        var mixed = firsts.GroupBy(p => _book.Passes[p].Product).Where(g => g.Key >= 0).ToArray();
        var unmixed = others
            .Where(p => _book.Passes[p] is { IsAgain: false, Product: >= 0 } q && mixed.All(m => m.Key != q.Product))
            .GroupBy(p => _book.Passes[p].Product)
            .ToArray();
        foreach (var g in mixed)
        {
            var without = WithFirsts(open & ~PassSet.Of(g));
            yield return without;
            foreach (var h in unmixed)
            {
                yield return With(without, h);
            }
        }

        foreach (var h in unmixed)
        {
            yield return With(open, h);
        }
    }

    /// <summary>Every set that differs by two: one pass in the place of any other, two opened, one in the place of two, two closed.</summary>
    private IEnumerable<PassSet> Pairs(PassSet open, PassSet candidates)
    {
        var firsts = open.Passes().Where(p => !_book.Passes[p].IsAgain).ToArray();
        var others = (candidates & ~open).Passes().ToArray();
        foreach (var q in others)
        {
            foreach (var p in firsts)
            {
                var without = WithFirsts(open & ~PassSet.Of(p));
                if (Fits(without, q))
                {
                    yield return without | PassSet.Of(q);
                    foreach (var r in firsts.Where(r => r > p))
                    {
                        var both = WithFirsts(without & ~PassSet.Of(r));
                        if (Fits(both, q))
                        {
                            yield return both | PassSet.Of(q);
                        }
                    }
                }
            }

            if (Fits(open, q))
            {
                foreach (var more in others.Where(r => r > q && Fits(open | PassSet.Of(q), r)))
                {
                    yield return open | PassSet.Of(q) | PassSet.Of(more);
                }
            }
        }

        foreach (var p in firsts)
        {
            foreach (var r in firsts.Where(r => r > p))
            {
                yield return WithFirsts(open & ~PassSet.Of(p) & ~PassSet.Of(r));
            }
        }
    }

    /// <summary>With what costs nothing now: passes without a fee whose product is mixed anyway.</summary>
    private PassSet WithFree(PassSet open)
    {
        if (_free.IsEmpty)
        {
            return open;
        }

        var mixed = open.Passes().Select(p => _book.Passes[p].Product).ToHashSet();
        return With(
            open,
            (_free & ~open).Passes().Where(p => _book.Passes[p].Product is var needs && (needs < 0 || mixed.Contains(needs)))
        );
    }

    /// <summary>With all of these passes that fit.</summary>
    private PassSet With(PassSet open, IEnumerable<int> passes)
    {
        foreach (var p in passes)
        {
            open |= Fits(open, p) ? PassSet.Of(p) : PassSet.None;
        }

        return open;
    }

    /// <summary>May this pass be opened beside these?</summary>
    private bool Fits(PassSet open, int pass) =>
        _book.Passes[pass] is var p && (p.IsAgain ? open.Has(p.First) : !open.Meets(_instead[pass]));

    /// <summary>
    /// Less than this no sharing can cost. Each fee and set-up is divided among the units that may pay for it, and each unit planned by itself with
    /// its part; whatever the division, and with staying out free of charge, the sum is a bound (Lagrangian relaxation). A few times the parts move
    /// to where they are paid.
    /// </summary>
    /// <param name="cost">The cost of the plan found; a bound that reaches it ends the search.</param>
    public long Bound(IReadOnlyList<ZoneSolution> solutions, long cost)
    {
        var perUnique = Enumerable.Range(0, _unique.Count).Select(u => solutions[Array.IndexOf(_unitToUnique, u)]).ToArray();
        var parts = _unique.Select((_, u) => _usable[u].Passes().ToDictionary(p => p, p => perUnique[u].Used.Has(p) ? 1.0 : 0.0)).ToArray();
        var (best, spent) = (0L, 0);
        for (var round = 1; round <= BoundRounds && spent < BoundBudget && best < cost && !_effort.IsEnough; round++)
        {
            var prices = Prices(parts);
            long sum = 0;
            foreach (
                var (u, there) in Cores.Each(_unique.Count, u => By(0, u).Solve(_usable[u], BoundGlance, false, prices[u], false)).Index()
            )
            {
                sum += there.Bound * _times[u];
                spent += there.Labels;
                foreach (var p in _usable[u].Passes())
                {
                    parts[u][p] = there.Used.Has(p) ? parts[u][p] + 1.0 / round : parts[u][p] * (1 - 0.5 / round);
                }
            }

            best = Math.Max(best, sum);
        }

        return Math.Min(best, cost);
    }

    /// <summary>The first of these sets that costs less than so much; null when none does, or nothing more may be tried.</summary>
    private (int Index, PassSet Open, long Total)? FirstBelow(IEnumerable<(int Index, PassSet Open)> sets, long limit)
    {
        var waiting = new List<(int Index, Look Look)>(Hands);
        foreach (var (index, open) in sets)
        {
            if (_spent > Most || _effort.IsEnough)
            {
                return null;
            }

            if (LookAt(open) is var look && look.AtLeast < limit)
            {
                waiting.Add((index, look));
            }

            if (waiting.Count == Hands && Try(waiting, limit) is { } found)
            {
                return found;
            }
        }

        return Try(waiting, limit);
    }

    /// <summary>The first of those that wait that costs less than so much; none of them waits after it.</summary>
    private (int Index, PassSet Open, long Total)? Try(List<(int Index, Look Look)> waiting, long limit)
    {
        var totals = TotalsBelow([.. waiting.Select(w => w.Look)], limit);
        var first = Array.FindIndex(totals, t => t < limit);
        (int, PassSet, long)? found = first < 0 ? null : (waiting[first].Index, waiting[first].Look.Open, totals[first]);
        waiting.Clear();
        return found;
    }

    /// <summary>What is known of a set of passes before anything is searched for it.</summary>
    /// <param name="Sum">What units cost, those that have to be searched at least.</param>
    /// <param name="Used">Passes that those take that are known.</param>
    /// <param name="AtLeast">Less than this it does not cost.</param>
    /// <param name="Unknown">Units that have to be searched, and what each costs at least.</param>
    private sealed record Look(PassSet Open, long Sum, PassSet Used, long AtLeast, IReadOnlyList<(int Unit, long Least)> Unknown);

    private Look LookAt(PassSet open)
    {
        long sum = 0;
        var used = PassSet.None;
        var unknown = new List<(int, long)>();
        for (var u = 0; u < _unique.Count; u++)
        {
            if (Known(u, open & _usable[u], out var least) is { } s)
            {
                sum += s.Cost * _times[u];
                used |= s.Used;
            }
            else
            {
                // Fewer passes never make a unit cheaper: what it costs with more of them open is a bound.
                unknown.Add((u, least));
                sum += least * _times[u];
            }
        }

        return new(open, sum, used, sum + _book.CostOf(used), unknown);
    }

    /// <summary>The same as <see cref="Total"/>, as long as it stays below a limit; from there on only a bound, which costs few searches.</summary>
    /// <param name="looks">As many as there are hands.</param>
    private long[] TotalsBelow(Look[] looks, long limit)
    {
        var tried = Cores.Each(looks.Length, hand => Below(looks[hand], limit, hand));
        foreach (var (unit, open, found) in tried.SelectMany(t => t.Made))
        {
            Keep(unit, open, found);
        }

        return [.. tried.Select(t => t.Total)];
    }

    private (long Total, List<(int Unit, PassSet Open, ZoneSolution Found)> Made) Below(Look look, long limit, int hand)
    {
        var (sum, used, fees) = (look.Sum, look.Used, look.AtLeast - look.Sum);
        var made = new List<(int, PassSet, ZoneSolution)>();
        foreach (var (u, least) in look.Unknown)
        {
            if (sum + fees >= limit)
            {
                break;
            }

            var open = look.Open & _usable[u];
            var s = Searched(u, open, hand);
            made.Add((u, open, s));
            sum += (s.Cost - least) * _times[u];
            used |= s.Used;
            fees = _book.CostOf(used);
        }

        return (sum + fees, made);
    }

    private void StandAt(PassSet open)
    {
        foreach (var (u, s) in All(open).Index())
        {
            _at[u] = (open & _usable[u], s);
        }
    }

    private static PassSet Used(IEnumerable<ZoneSolution> solutions) => solutions.Aggregate(PassSet.None, (all, s) => all | s.Used);

    /// <summary>Every unit at its best with these passes open.</summary>
    private ZoneSolution[] All(PassSet open)
    {
        var all = new ZoneSolution?[_unique.Count];
        for (var u = 0; u < all.Length; u++)
        {
            all[u] = Known(u, open & _usable[u], out _);
        }

        var unknown = Enumerable.Range(0, all.Length).Where(u => all[u] is null).ToArray();
        foreach (var (i, found) in Cores.Each(unknown.Length, i => Searched(unknown[i], open & _usable[unknown[i]], 0)).Index())
        {
            all[unknown[i]] = found;
            Keep(unknown[i], open & _usable[unknown[i]], found);
        }

        return all!;
    }

    private ZoneSolution[] Alone() => Cores.Each(_unique.Count, u => By(0, u).Solve(_usable[u], thorough: false, joins: false));

    /// <summary>The search of a unit by one of the hands.</summary>
    private ZoneSearch By(int hand, int u) => _searches[hand][u] ??= _searches[0][u]!.Beside();

    private ZoneSolution Solve(int u, PassSet open)
    {
        open &= _usable[u];
        if (Known(u, open, out _) is { } known)
        {
            return known;
        }

        var found = Searched(u, open, 0);
        Keep(u, open, found);
        return found;
    }

    private ZoneSolution Searched(int u, PassSet open, int hand) =>
        By(hand, u).Solve(open, _hard[u] || _spent > Budget ? Glance : ZoneSearch.LabelCap, thorough: false);

    private void Keep(int u, PassSet open, ZoneSolution found)
    {
        Searches++;
        _spent += found.Labels;
        if (_known[u].TryAdd(open, found))
        {
            _hard[u] |= !found.Proved || found.Labels > Hard;
            _cache[u].Add((open, found));
        }
    }

    /// <summary>
    /// What is known of a unit with these passes: an optimum found for more of them that uses no others; else the most that one with more of
    /// them costs. Where the block's own passes differ neither holds: closing one lifts what staying out of it costs.
    /// </summary>
    private ZoneSolution? Known(int u, PassSet open, out long least)
    {
        least = 0;
        if (_at[u] is { Solution: { } here } at && at.Open == open)
        {
            return here;
        }

        if (_known[u].TryGetValue(open, out var known))
        {
            return known;
        }

        var whole = open & _whole[u];
        foreach (var (other, solution) in _cache[u])
        {
            if (open.IsIn(other) && (other & _whole[u]) == whole)
            {
                if (solution.Used.IsIn(open))
                {
                    _known[u][open] = solution;
                    return solution;
                }

                // One that was not proved may be dearer than it need be.
                least = Math.Max(least, solution.Bound);
            }
        }

        return null;
    }
}
