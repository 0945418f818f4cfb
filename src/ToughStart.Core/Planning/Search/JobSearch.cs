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
    private readonly PlanOptions _options;
    private readonly Ordinary? _ordinary;

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
        _progress = progress ?? Progress.None;
        _options = options ?? new PlanOptions();
        _ordinary = survey.Lean is null ? null : _options.Ordinary ?? OrdinaryOf(survey, _options.Effort);
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
        return new(
            found.Solutions.Aggregate(UInt128.Zero, (m, s) => m | s.Used),
            found.Work.ToDictionary(w => w.State.Zone.Id, w => w.Final)
        );
    }

    /// <summary>The solution the plan takes: kept to the shelf where the job asks for it.</summary>
    public Solved Solve() => Survey.StockOnly ? WithinStock() : Solve(new Dictionary<string, double>());

    /// <summary>One zone as a problem of this job, for what-ifs.</summary>
    public (ZoneProblem Problem, string Signature) Build(ProblemBuilder builder, ZoneState zone, List<Refused>? refusals = null) =>
        builder.Build(zone, _progress.Of(zone.Zone.Id), refusals, null, _ordinary?.Finals[zone.Zone.Id]);

    /// <summary>
    /// How near a solution is to the best there is, milli-minutes of cost: what it costs, and what no plan of this job costs less than.
    /// </summary>
    public (long Cost, long AtLeast) Bounds(Solved found)
    {
        var cost = found.Shared.CostOf(found.Solutions);
        if (found.Tried.Count == 0)
        {
            return (cost, found.Shared.Bound(found.Solutions, cost));
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
            .OrderByDescending(t => t.Solved.Shared.CostOf(t.Solved.Solutions) - t.Whole)
            .Take(BoundsTried)
            .Append(charges.First(t => t.Solved.Scarce.Count == 0))
            .Max(t => t.Solved.Shared.Bound(t.Solved.Solutions, t.Solved.Shared.CostOf(t.Solved.Solutions)) - t.Whole);
        return (cost, Math.Min(cost, best));
    }

    /// <summary>Millilitres by which a plan may be over the stock, for rounding's sake.</summary>
    private const double Slack = 0.5;

    private const int BoundsTried = 2;

    private Solved Solve(IReadOnlyDictionary<string, double> scarce, UInt128? open = null)
    {
        var builder = new ProblemBuilder(Survey, States, Graph, C, scarce);
        var refusals = new List<Refused>();
        var problems = States.Select(z => Build(builder, z, refusals)).ToArray();
        var setUp = builder.SetUpWithout(_options.KeysOf);
        var shared = new SharedPlan(
            problems.Select(p => p.Problem).ToArray(),
            problems.Select(p => p.Signature).ToArray(),
            setUp,
            _options.Effort
        );
        var solutions = open is { } products
            ? shared.With(products)
            : shared.Solve(_options.Share, _ordinary is null ? null : [_ordinary.Products]);
        return new(
            builder,
            setUp,
            scarce,
            [],
            refusals,
            problems,
            shared,
            solutions,
            States.Select((z, i) => ZoneWork.Replay(z, problems[i].Problem, solutions[i], C)).ToArray()
        );
    }

    /// <summary>
    /// No more of any bottle than there is. What is short is made dearer, twice as dear each time, until the plan gets by with it; then each
    /// is charged nearer to what makes its use meet its stock (Lagrange multipliers). What is then left in the bottles goes to zones one by one, where it saves most.
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
        long Real(Solved s) => s.Shared.CostOf(s.Solutions) - (long)Math.Round(1000 * s.Work.Sum(w => Charged(w, s.Scarce)));
        var weights = new Dictionary<string, double>();
        var tried = new List<Solved>();
        Solved Try()
        {
            tried.Add(Solve(new Dictionary<string, double>(weights)));
            return tried[^1];
        }

        var found = Try();
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
        for (var barred = Over(found).ToHashSet(); Over(found).Length > 0; barred.UnionWith(Over(found)))
        {
            without.Add(found = Solve(new Dictionary<string, double>(weights), ~found.Builder.ProductsOf(barred)));
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

        // Zones at other prices of one bottle at a time, with what is mixed anyway: more ways to choose from.
        var mixed = tried.Aggregate(UInt128.Zero, (m, t) => t.Solutions.Aggregate(m, (x, z) => x | z.Used));
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
    private static double Charged(ZoneWork w, IReadOnlyDictionary<string, double> scarce) =>
        w.Deeds.Sum(d =>
            scarce.TryGetValue(d.Treatment.Agent.Id, out var weight) ? weight * ZoneWork.SolutionMl(d, w.State) * d.Strength.Value : 0
        );

    /// <summary>Neat product of a zone's work, millilitres with what is wasted.</summary>
    private IEnumerable<(string Agent, Millilitres Ml)> Neat(ZoneWork w) =>
        w
            .Deeds.Where(d => !d.Treatment.Agent.IsWater)
            .Select(d => (d.Treatment.Agent.Id, (Millilitres)(d.Rounds * ZoneWork.NeatPerRound(d.Option, w.State, C))));

    /// <summary>What the bottles hold, less what the run has used so far.</summary>
    private Dictionary<string, double> Stock() =>
        Limits
            .Stock(Survey)
            .ToDictionary(s => s.Key, s => Math.Max(0, s.Value - _progress.Zones.Values.Sum(z => z.UsedMl.GetValueOrDefault(s.Key))));

    /// <summary>A way to work one zone.</summary>
    /// <param name="Cost">Without what scarcity was charged at.</param>
    private sealed record Way(ZoneSolution Solution, ZoneWork Work, long Cost, IReadOnlyDictionary<string, double> Ml);

    /// <summary>
    /// Makes the best of all that was tried. Zones that are alike are charged alike, so that a price leaves either all of them or none, and
    /// some are a little over the stock. From each, zones by themselves take other ways found for them: first until no bottle gives more than
    /// it holds, where that costs least for what it saves; then what is left goes where it saves most.
    /// </summary>
    private Solved Fill(Solved found, List<Solved> tried, List<Solved> without, Solved[] more, Dictionary<string, double> stock)
    {
        Way Of(Solved s, int zone)
        {
            var work = s.Work[zone];
            var cost = s.Solutions[zone].Cost - (long)Math.Round(1000 * Charged(work, s.Scarce));
            return new(
                s.Solutions[zone] with
                {
                    Cost = cost,
                    Bound = Math.Min(cost, tried[0].Solutions[zone].Bound),
                },
                work,
                cost,
                Neat(work).Where(x => stock.ContainsKey(x.Agent)).GroupBy(x => x.Agent).ToDictionary(g => g.Key, g => g.Sum(x => x.Ml))
            );
        }

        var starts = tried.Concat(without).Select(t => States.Select((_, z) => Of(t, z)).ToArray()).ToArray();
        var ways = States
            .Select(
                (_, z) =>
                    starts
                        .Select(s => s[z])
                        .Concat(more.Select(m => Of(m, z)))
                        .DistinctBy(w => (w.Cost, string.Join(' ', w.Solution.Choices)))
                        .ToArray()
            )
            .ToArray();
        long Total(Way[] all) => found.Shared.CostOf([.. all.Select(w => w.Solution)]);
        var filled = starts
            .SelectMany(s => new[] { true, false }.Select(byPart => new Allotment(s, ways, stock, found.SetUp).Allot(byPart)))
            .OfType<Way[]>()
            .MinBy(Total)!;
        return found with { Tried = tried, Solutions = [.. filled.Select(w => w.Solution)], Work = [.. filled.Select(w => w.Work)] };
    }

    /// <summary>Which way each zone takes, and what that leaves in the bottles.</summary>
    private sealed class Allotment
    {
        private readonly Way[] _now;
        private readonly Way[][] _ways;
        private readonly Dictionary<string, double> _stock;
        private readonly Dictionary<string, double> _left;
        private readonly long[] _setUp;
        private readonly int[] _users;

        public Allotment(Way[] start, Way[][] ways, Dictionary<string, double> stock, long[] setUp)
        {
            (_now, _ways, _stock, _setUp) = ((Way[])start.Clone(), ways, stock, setUp);
            _left = stock.ToDictionary(s => s.Key, s => s.Value + Slack - start.Sum(w => w.Ml.GetValueOrDefault(s.Key)));
            _users = Enumerable.Range(0, setUp.Length).Select(p => start.Count(w => (w.Solution.Used >> p & 1) != 0)).ToArray();
        }

        /// <summary>The zones' ways when nothing betters them any more; null when the bottles cannot be kept to.</summary>
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
        /// <param name="worth">Of a zone taking a way; null = no move.</param>
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

            for (var p = 0; p < _users.Length; p++)
            {
                _users[p] += (int)(taken.Solution.Used >> p & 1) - (int)(_now[best.Zone].Solution.Used >> p & 1);
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

        /// <summary>What a move costs, set-ups of the first and last user with it; less than nothing where it saves.</summary>
        private double Costs(int zone, Way way) =>
            way.Cost
            - _now[zone].Cost
            + SetUps(way.Solution.Used & ~_now[zone].Solution.Used, 0)
            - SetUps(_now[zone].Solution.Used & ~way.Solution.Used, 1);

        /// <summary>Parts of bottles that a move takes on top.</summary>
        private double More(int zone, Way way) =>
            way.Ml.Sum(m => Math.Max(0, m.Value - _now[zone].Ml.GetValueOrDefault(m.Key)) / (_stock[m.Key] + Slack));

        private long SetUps(UInt128 products, int users) =>
            Enumerable.Range(0, _setUp.Length).Sum(p => (products >> p & 1) != 0 && _users[p] == users ? _setUp[p] : 0);
    }
}

/// <summary>A searched job.</summary>
/// <param name="Scarce">Minutes a millilitre of a class that is short was charged on top; empty where nothing is.</param>
/// <param name="Tried">Every charge tried on the way to a plan kept to the shelf; empty where nothing is short.</param>
internal sealed record Solved(
    ProblemBuilder Builder,
    long[] SetUp,
    IReadOnlyDictionary<string, double> Scarce,
    IReadOnlyList<Solved> Tried,
    List<Refused> Refusals,
    (ZoneProblem Problem, string Signature)[] Problems,
    SharedPlan Shared,
    IReadOnlyList<ZoneSolution> Solutions,
    ZoneWork[] Work
);
