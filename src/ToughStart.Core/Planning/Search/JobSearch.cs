using ToughStart.Core.Chemistry;
using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Planning;

/// <summary>
/// A job put to the search: every zone as a problem, and the shared solution of all. The plan, its proof, its flips and the ordinary
/// judgement of a leaning job all start here, so that they speak of the same search.
/// </summary>
internal sealed class JobSearch
{
    private readonly Progress _progress;
    private readonly Limits _limits;
    private readonly PlanOptions _options;
    private readonly Ordinary? _ordinary;

    /// <summary>The job as it is where nothing is short.</summary>
    private readonly Lazy<(ProblemBuilder Builder, (ZoneProblem Problem, string Signature)[] Problems, List<Refused> Refusals)> _free;

    /// <summary>Takes a survey that the intake hold has let through.</summary>
    public JobSearch(
        Survey survey,
        Catalogue? c = null,
        IReadOnlyList<ZoneState>? states = null,
        Progress? progress = null,
        PlanOptions? options = null
    )
    {
        Survey = survey;
        C = c ?? Planner.CatalogueFor(survey);
        States = states ?? ZoneState.FromSurvey(survey, Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size), C);
        Graph = StageGraph.For(survey, C);
        _limits = new Limits(survey, States.ToDictionary(z => z.Zone.Id), C);
        _progress = progress ?? Progress.None;
        _options = options ?? new PlanOptions();
        _free = new(() =>
        {
            var builder = new ProblemBuilder(Survey, States, Graph, C);
            var refusals = new List<Refused>();
            return (builder, [.. States.Select(z => Build(builder, z, refusals))], refusals);
        });
        _ordinary = survey.Lean is null || survey.Lean == Leaning.None ? null : _options.Ordinary ?? OrdinaryOf(survey, _options.Effort);
    }

    public Survey Survey { get; }

    public Catalogue C { get; }

    public IReadOnlyList<ZoneState> States { get; }

    public StageGraph Graph { get; }

    /// <summary>The job without its leaning, which starts from the same products and has to get as clean, no cleaner.</summary>
    public static Ordinary OrdinaryOf(Survey survey, Effort? effort = null)
    {
        var plain = new JobSearch(
            survey with
            {
                Lean = null,
                StockOnly = false,
            },
            options: new PlanOptions { Effort = effort ?? Effort.Unbounded }
        );
        var found = plain.Solve(new Dictionary<string, double>());
        return new(found.Builder.KeysOf(found.Open), found.Work.ToDictionary(w => w.State.Zone.Id, w => w.Final));
    }

    /// <summary>The solution the plan takes: kept to the shelf where the job asks for it.</summary>
    public Solved Solve() => Survey.StockOnly ? WithinStock() : Alike(Solve(new Dictionary<string, double>()));

    /// <summary>Fellows that are equally dirty are worked alike, where that costs little: four wheels, both sills.</summary>
    private Solved Alike(Solved found)
    {
        bool EquallyDirty(int a, int b) =>
            found.Units[a].Problem.Start.SequenceEqual(found.Units[b].Problem.Start)
            && found.Units[a].Problem.Target.SequenceEqual(found.Units[b].Problem.Target);
        var fellows = found
            .Units.Select((u, i) => (Unit: i, First: States[u.Zones[0]].Zone, Parts: u.Zones.Count))
            .GroupBy(u => (u.First.Block, u.Parts, Part: Limits.Part(u.First.Id)))
            .SelectMany(g => Classes([.. g.Select(u => u.Unit)], EquallyDirty))
            .Where(g => g.Count > 1);
        var alike = found.Shared.Alike(found.OfUnits, fellows, (long)(1000 * C["alike-minutes"]));
        return alike.SequenceEqual(found.OfUnits)
            ? found
            : Made(found with { Given = [.. found.OfUnits.Select((s, i) => s.Used & ~alike[i].Used)] }, alike);
    }

    private static IEnumerable<IReadOnlyList<int>> Classes(List<int> all, Func<int, int, bool> same)
    {
        while (all.Count > 0)
        {
            var one = all.Where(i => same(all[0], i)).ToArray();
            all = [.. all.Except(one)];
            yield return one;
        }
    }

    /// <summary>One zone as a problem of this job, for what-ifs.</summary>
    public (ZoneProblem Problem, string Signature) Build(ProblemBuilder builder, ZoneState zone, List<Refused>? refusals = null) =>
        builder.Build(zone, _progress.Of(zone.Zone.Id), refusals, null, _ordinary?.Finals[zone.Zone.Id]);

    /// <summary>
    /// How near a solution is to the best there is, milli-minutes of cost: what it costs, and what no plan of this job costs less than.
    /// </summary>
    public (long Cost, long AtLeast) Bounds(Solved found)
    {
        var cost = found.Shared.CostOf(found.OfUnits);
        if (found.Tried.Count == 0)
        {
            return (cost, found.Shared.Bound(found.OfUnits, cost));
        }

        // What the scarcity was charged at is no cost of the plan. Charged in full for the whole stock, any charge makes a bound of the limited
        // job (Lagrangian relaxation), that of nothing charged, where the job may buy, among them. The most promising are worked out.
        var stock = Stock();
        var charges = found
            .Tried.Select(t =>
                (Solved: t, Whole: (long)Math.Round(1000 * t.Scarce.Sum(s => s.Value * (stock[s.Key] + Slack) / (1 + C["waste"]))))
            )
            .ToArray();
        var best = charges
            .OrderByDescending(t => t.Solved.Shared.CostOf(t.Solved.OfUnits) - t.Whole)
            .Take(BoundsTried)
            .Append(charges.First(t => t.Solved.Scarce.Count == 0))
            .Max(t => t.Solved.Shared.Bound(t.Solved.OfUnits, t.Solved.Shared.CostOf(t.Solved.OfUnits)) - t.Whole);
        return (cost, Math.Min(cost, best));
    }

    /// <summary>Millilitres by which a plan may be over the stock, for rounding's sake.</summary>
    private const double Slack = 0.5;

    private const int BoundsTried = 2;

    /// <param name="open">These passes and no others, if given.</param>
    /// <param name="near">Passes of the same job at other charges: where the search begins, if given.</param>
    private Solved Solve(
        IReadOnlyDictionary<string, double> scarce,
        IReadOnlyList<PassKey>? open = null,
        IReadOnlyList<IReadOnlyList<PassKey>>? near = null
    )
    {
        var (builder, problems, refusals) = _free.Value;
        if (scarce.Count > 0)
        {
            builder = builder.Charging(scarce);
            problems = [.. problems.Select((p, i) => builder.Charged(p, States[i]))];
        }

        var units = UnitsOf(problems);
        var book = builder.Book(_options.KeysOf, _options.TakenKeys);
        var shared = new SharedPlan(
            units.Select(u => u.Problem).ToArray(),
            units.Select(u => u.Signature).ToArray(),
            book,
            _options.Effort
        );
        var solutions = open is { } passes
            ? shared.With(builder.PassesOf(passes))
            : shared.Solve(
                _options.Share,
                [.. (near ?? []).Concat(_ordinary is null ? [] : [_ordinary.Passes]).Select(builder.PassesOf)],
                near is not null
            );
        return Made(new(builder, book, scarce, [], refusals, problems, units, shared, solutions, [], []), solutions);
    }

    /// <summary>Wheels whose parts stand alike are planned as one.</summary>
    public IReadOnlyList<Unit> UnitsOf(IReadOnlyList<(ZoneProblem Problem, string Signature)> problems) =>
        Unit.Of(States, problems, StandsAlike);

    private bool StandsAlike(string a, string b) =>
        (_progress.Of(a), _progress.Of(b)) switch
        {
            (null, null) => true,
            ({ } x, { } y) => x.FromSlot == y.FromSlot && x.Left == y.Left && x.Levels.SequenceEqual(y.Levels),
            _ => false,
        };

    /// <summary>A solution of every unit, played back zone by zone.</summary>
    private Solved Made(Solved found, IReadOnlyList<ZoneSolution> ofUnits)
    {
        var solutions = new ZoneSolution[States.Count];
        foreach (var (zone, solution) in found.Units.SelectMany((u, i) => u.Parts(ofUnits[i])))
        {
            solutions[zone] = solution;
        }

        return found with
        {
            OfUnits = ofUnits,
            Solutions = solutions,
            Work = [.. States.Select((z, i) => ZoneWork.Replay(z, found.Problems[i].Problem, solutions[i], C))],
        };
    }

    /// <summary>
    /// No more of any bottle than there is. What is short is made dearer, twice as dear each time, until the plan gets by with it; then each
    /// is charged nearer to what makes its use meet its stock (Lagrange multipliers). What is then left in the bottles goes to units one by one,
    /// where it saves most.
    /// </summary>
    private Solved WithinStock()
    {
        const int Doublings = 14;
        const int Steps = 6;
        var stock = Stock();
        Dictionary<string, double> Used(Solved s) =>
            s
                .Work.SelectMany(Neat)
                .Concat(stock.Keys.Select(a => (Agent: a, Ml: (Millilitres)0)))
                .GroupBy(x => x.Agent)
                .ToDictionary(g => g.Key, g => g.Sum(x => x.Ml));
        string[] Over(Solved s) => Used(s) is var used ? [.. stock.Keys.Where(a => used[a] > stock[a] + Slack)] : [];
        long Real(Solved s) => s.Shared.CostOf(s.OfUnits) - (long)Math.Round(1000 * s.Work.Sum(w => Charged(w, s.Scarce)));
        var weights = new Dictionary<string, double>();
        var tried = new List<Solved>();
        Solved Try()
        {
            var near = tried.Count == 0 ? null : tried.TakeLast(2).Select(t => t.Builder.KeysOf(t.Open)).ToArray();
            tried.Add(Solve(new Dictionary<string, double>(weights), near: near));
            return tried[^1];
        }

        var found = Try();
        if (Alike(found) is var alike && Over(alike).Length == 0)
        {
            return alike;
        }

        for (var i = 0; i < Doublings && Over(found) is { Length: > 0 } over; i++)
        {
            foreach (var agent in over)
            {
                weights[agent] = weights.TryGetValue(agent, out var w) ? w * 2 : C["scarce-from"];
            }

            found = Try();
        }

        if (weights.Count == 0)
        {
            return found;
        }

        // Dear as they are, some may still be taken, or one in place of another: then without them, and what is given out begins from there.
        var without = new List<Solved>();
        var barred = new HashSet<string>();
        while (Over(found) is { Length: > 0 } over)
        {
            var known = barred.Count;
            barred.UnionWith(over);
            if (barred.Count == known)
            {
                throw new InvalidOperationException($"{string.Join(", ", over)}: taken though no pass of it is open");
            }

            without.Add(
                found = Solve(new Dictionary<string, double>(weights), found.Builder.KeysOf(found.Open & ~found.Builder.PassesOf(barred)))
            );
        }

        // Each then moves by how far its use is off its stock, in ever smaller steps.
        for (var k = 1; k <= Steps && !_options.Effort.IsEnough; k++)
        {
            var used = Used(tried[^1]);
            foreach (var agent in weights.Keys.ToArray())
            {
                weights[agent] *= Math.Pow(Math.Clamp((used[agent] + Slack) / (stock[agent] + Slack), 0.25, 4), 1 / Math.Sqrt(k + 1));
            }

            if (Over(Try()).Length == 0 && Real(tried[^1]) < Real(found))
            {
                found = tried[^1];
            }
        }

        // Units at other prices of one bottle at a time, with the passes that are open anyway: more ways to choose from.
        var mixed = tried.SelectMany(t => t.Builder.KeysOf(t.Open)).Distinct().ToArray();
        var about = new Dictionary<string, double>(weights);
        var more = about
            .Keys.SelectMany(agent => Factors.Select(f => (agent, f)))
            .AsParallel()
            .AsOrdered()
            .Select(x => Solve(new Dictionary<string, double>(about) { [x.agent] = about[x.agent] * x.f }, mixed))
            .ToArray();
        return Fill(found, tried, without, more, stock);
    }

    private static readonly double[] Factors = [0.1, 0.3, 0.6, 1.7, 4, 10];

    /// <summary>Minutes of cost that scarcity was charged at on a zone.</summary>
    private double Charged(ZoneWork w, IReadOnlyDictionary<string, double> scarce) =>
        w.Deeds.Sum(d => scarce.GetValueOrDefault(_limits.Poured(d.Treatment, d.Strength).Agent.Id) * ZoneWork.NeatMl(d, w.State, _limits));

    /// <summary>Neat product of a zone's work, millilitres with what is wasted.</summary>
    private IEnumerable<(string Agent, Millilitres Ml)> Neat(ZoneWork w) =>
        w
            .Deeds.Where(d => !d.Treatment.Agent.IsWater)
            .Select(d => (d, With: _limits.Poured(d.Treatment, d.Strength)))
            .Select(x => (x.With.Agent.Id, (Millilitres)(x.d.Rounds * ZoneWork.NeatPerRound(x.d.Option, w.State, x.With.Strength, C))));

    /// <summary>What the bottles hold, less what the run has used so far.</summary>
    private Dictionary<string, double> Stock() =>
        Limits
            .Stock(Survey)
            .ToDictionary(s => s.Key, s => Math.Max(0, s.Value - _progress.Zones.Values.Sum(z => z.UsedMl.GetValueOrDefault(s.Key))));

    /// <summary>A way to work one unit.</summary>
    /// <param name="Cost">Without what scarcity was charged at.</param>
    private sealed record Way(ZoneSolution Solution, long Cost, IReadOnlyDictionary<string, double> Ml);

    /// <summary>
    /// Makes the best of all that was tried. Units that are alike are charged alike, so that a price leaves either all of them or none, and
    /// some are a little over the stock. From each, units by themselves take other ways found for them: first until no bottle gives more than
    /// it holds, where that costs least for what it saves; then what is left goes where it saves most.
    /// </summary>
    private Solved Fill(Solved found, List<Solved> tried, List<Solved> without, Solved[] more, Dictionary<string, double> stock)
    {
        Way Of(Solved s, int unit)
        {
            var work = s.Units[unit].Zones.Select(z => s.Work[z]).ToArray();
            var cost = s.OfUnits[unit].Cost - (long)Math.Round(1000 * work.Sum(w => Charged(w, s.Scarce)));
            return new(
                s.OfUnits[unit] with
                {
                    Cost = cost,
                    Bound = Math.Min(cost, tried[0].OfUnits[unit].Bound),
                },
                cost,
                work.SelectMany(Neat)
                    .Where(x => stock.ContainsKey(x.Agent))
                    .GroupBy(x => x.Agent)
                    .ToDictionary(g => g.Key, g => g.Sum(x => x.Ml.Value))
            );
        }

        var starts = tried.Concat(without).Select(t => t.Units.Select((_, u) => Of(t, u)).ToArray()).ToArray();
        var ways = found
            .Units.Select(
                (_, u) =>
                    starts
                        .Select(s => s[u])
                        .Concat(more.Select(m => Of(m, u)))
                        .DistinctBy(w => (w.Cost, string.Join(' ', w.Solution.Choices)))
                        .ToArray()
            )
            .ToArray();
        long Total(Way[] all) => found.Shared.CostOf([.. all.Select(w => w.Solution)]);
        var filled = starts
            .SelectMany(s => new[] { true, false }.Select(byPart => new Allotment(s, ways, stock, found.Book).Allot(byPart)))
            .OfType<Way[]>()
            .MinBy(Total)!;
        return Made(found with { Tried = tried }, [.. filled.Select(w => w.Solution)]);
    }

    /// <summary>Which way each unit takes, and what that leaves in the bottles.</summary>
    private sealed class Allotment
    {
        private readonly Way[] _now;
        private readonly Way[][] _ways;
        private readonly Dictionary<string, double> _stock;
        private readonly Dictionary<string, double> _left;
        private readonly PassBook _book;

        public Allotment(Way[] start, Way[][] ways, Dictionary<string, double> stock, PassBook book)
        {
            (_now, _ways, _stock, _book) = ((Way[])start.Clone(), ways, stock, book);
            _left = stock.ToDictionary(s => s.Key, s => s.Value + Slack - start.Sum(w => w.Ml.GetValueOrDefault(s.Key)));
        }

        /// <summary>The units' ways when nothing betters them any more; null when the bottles cannot be kept to.</summary>
        /// <param name="byPart">What saves most for its part of a bottle goes first; else what saves most.</param>
        public Way[]? Allot(bool byPart)
        {
            while (Excess(null) is > 0 and var over)
            {
                if (!Move((z, way) => over - Excess((z, way)) is > 1e-9 and var less ? -Costs(z, way) / less : null))
                {
                    return null;
                }
            }

            while (
                Move(
                    (z, way) =>
                        Costs(z, way) is < 0 and var costs && Excess((z, way)) <= 0
                            ? byPart
                                ? -costs / (0.001 + More(z, way))
                                : -costs
                            : null
                )
            ) { }

            return _now;
        }

        /// <summary>The best move, if there is one.</summary>
        /// <param name="worth">Of a unit taking a way; null = no move.</param>
        private bool Move(Func<int, Way, double?> worth)
        {
            var best = Enumerable
                .Range(0, _now.Length)
                .SelectMany(z => _ways[z].Where(w => !ReferenceEquals(w, _now[z])).Select(w => (Zone: z, Way: w, Worth: worth(z, w))))
                .Where(x => x.Worth is not null)
                .DefaultIfEmpty()
                .MaxBy(x => x.Worth);
            if (best.Way is not { } taken)
            {
                return false;
            }

            foreach (var agent in _stock.Keys)
            {
                _left[agent] += _now[best.Zone].Ml.GetValueOrDefault(agent) - taken.Ml.GetValueOrDefault(agent);
            }

            _now[best.Zone] = taken;
            return true;
        }

        /// <summary>How far the bottles are overdrawn, as parts of what they hold; after a move, if one is given.</summary>
        private double Excess((int Zone, Way Way)? move) =>
            _stock.Sum(s =>
                Math.Max(
                    0,
                    -(_left[s.Key] + (move is { } m ? _now[m.Zone].Ml.GetValueOrDefault(s.Key) - m.Way.Ml.GetValueOrDefault(s.Key) : 0))
                ) / (s.Value + Slack)
            );

        /// <summary>What a move costs, with the passes and products it opens or closes; less than nothing where it saves.</summary>
        private double Costs(int unit, Way way)
        {
            var others = PassSet.None;
            for (var u = 0; u < _now.Length; u++)
            {
                others |= u == unit ? PassSet.None : _now[u].Solution.Used;
            }

            return way.Cost - _now[unit].Cost + _book.CostOf(others | way.Solution.Used) - _book.CostOf(others | _now[unit].Solution.Used);
        }

        /// <summary>Parts of bottles that a move takes on top.</summary>
        private double More(int zone, Way way) =>
            way.Ml.Sum(m => Math.Max(0, m.Value - _now[zone].Ml.GetValueOrDefault(m.Key)) / (_stock[m.Key] + Slack));
    }
}

/// <summary>A searched job.</summary>
/// <param name="Scarce">Minutes a millilitre of a class that is short was charged on top; empty where nothing is.</param>
/// <param name="Tried">Every charge tried on the way to a plan kept to the shelf; empty where nothing is short.</param>
/// <param name="Units">What was planned as one.</param>
/// <param name="OfUnits">A solution for each unit.</param>
/// <param name="Solutions">The same for each zone; the first zone of a unit carries its cost.</param>
internal sealed record Solved(
    ProblemBuilder Builder,
    PassBook Book,
    IReadOnlyDictionary<string, double> Scarce,
    IReadOnlyList<Solved> Tried,
    List<Refused> Refusals,
    (ZoneProblem Problem, string Signature)[] Problems,
    IReadOnlyList<Unit> Units,
    SharedPlan Shared,
    IReadOnlyList<ZoneSolution> OfUnits,
    IReadOnlyList<ZoneSolution> Solutions,
    ZoneWork[] Work
)
{
    /// <summary>For each unit the passes it gave up so as to be worked like its fellows; empty = none did.</summary>
    public IReadOnlyList<PassSet> Given { get; init; } = [];

    /// <summary>Passes that are open.</summary>
    public PassSet Open => OfUnits.Aggregate(PassSet.None, (m, s) => m | s.Used);

    /// <summary>
    /// Passes for one unit that is planned anew while the rest stays as it is: those that are open anyway, and at their whole price others from a
    /// place in the order on. What the block decides stays decided, and nothing is opened beside what excludes it; what it gave up so as to be worked
    /// like its fellows stays given up.
    /// </summary>
    public (PassSet Open, long[] Prices) Reach(Unit unit, int from = 0)
    {
        var given = Given.Count == 0 || Units.ToList().IndexOf(unit) is not (>= 0 and var at) ? PassSet.None : Given[at];
        var book = Builder.Book();
        var open = Open;
        var mixed = open.Passes().Select(p => book.Passes[p].Product).ToHashSet();
        var taken = open.Passes().Select(p => book.Passes[p].Group).Where(g => g >= 0).ToHashSet();
        var others = Builder.PassesFrom(from) & ~open;
        var reach = open | PassSet.Of(others.Passes().Where(p => !Builder.IsWhole(p) && !taken.Contains(GroupOf(book, p))));
        return (
            reach & ~given,
            [
                .. book.Passes.Select(p =>
                    open.Has(p.Index) ? 0 : p.Fee + (p.IsAgain || p.Product < 0 || mixed.Contains(p.Product) ? 0 : book.SetUps[p.Product])
                ),
            ]
        );
    }

    private static int GroupOf(PassBook book, int pass) =>
        book.Passes[pass] is { IsAgain: true } again ? book.Passes[again.First].Group : book.Passes[pass].Group;
}
