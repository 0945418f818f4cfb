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

    /// <summary>Takes a survey that the intake gate has let through.</summary>
    public JobSearch(Survey survey, Catalogue? c = null, IReadOnlyList<ZoneState>? states = null, Progress? progress = null, PlanOptions? options = null)
    {
        Survey = survey;
        C = c ?? Planner.CatalogueFor(survey);
        States = states ?? ZoneState.FromSurvey(survey, Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size), C);
        Graph = StageGraph.For(survey, C);
        _progress = progress ?? Progress.None;
        _options = options ?? new PlanOptions();
        _ordinary = survey.Lean is null ? null : _options.Ordinary ?? OrdinaryOf(survey);
    }

    public Survey Survey { get; }

    public Catalogue C { get; }

    public IReadOnlyList<ZoneState> States { get; }

    public StageGraph Graph { get; }

    /// <summary>The job without its leaning, which starts from the same products and has to get as clean, no cleaner.</summary>
    public static Ordinary OrdinaryOf(Survey survey)
    {
        var found = new JobSearch(survey with { Lean = null, StockOnly = false }).Solve(new Dictionary<string, double>());
        return new(found.Solutions.Aggregate(UInt128.Zero, (m, s) => m | s.Used), found.Work.ToDictionary(w => w.State.Zone.Id, w => w.Final));
    }

    /// <summary>The solution the plan takes: kept to the shelf where the job asks for it.</summary>
    public Solved Solve() => Survey.StockOnly ? WithinStock() : Solve(new Dictionary<string, double>());

    /// <summary>One zone as a problem of this job, for what-ifs.</summary>
    public (ZoneProblem Problem, string Signature) Build(ProblemBuilder builder, ZoneState zone, List<Refused>? refusals = null) =>
        builder.Build(zone, _progress.Of(zone.Zone.Id), refusals, null, _ordinary?.Finals[zone.Zone.Id]);

    /// <summary>How near a solution is to the best there is, milli-minutes of cost: what it costs, and what no plan of this job costs less than.</summary>
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
        var charges = found.Tried.Select(t => (Solved: t, Whole: (long)Math.Round(1000 * t.Scarce.Sum(s => s.Value * (stock[s.Key] + Slack) / (1 + C["waste"]))))).ToArray();
        var best = charges.OrderByDescending(t => t.Solved.Shared.CostOf(t.Solved.Solutions) - t.Whole).Take(BoundsTried).Append(charges.First(t => t.Solved.Scarce.Count == 0))
            .Max(t => t.Solved.Shared.Bound(t.Solved.Solutions, t.Solved.Shared.CostOf(t.Solved.Solutions)) - t.Whole);
        return (cost, Math.Min(cost, best));
    }

    /// <summary>Millilitres by which a plan may be over the stock, for rounding's sake.</summary>
    private const double Slack = 0.5;

    private const int BoundsTried = 2;

    private Solved Solve(IReadOnlyDictionary<string, double> scarce)
    {
        var builder = new ProblemBuilder(Survey, States, Graph, C, scarce);
        var refusals = new List<Refused>();
        var problems = States.Select(z => Build(builder, z, refusals)).ToArray();
        var setUp = builder.SetUpWithout(_options.KeysOf);
        var shared = new SharedPlan(problems.Select(p => p.Problem).ToArray(), problems.Select(p => p.Signature).ToArray(), setUp);
        var solutions = shared.Solve(_options.Share, _ordinary is null ? null : [_ordinary.Products]);
        return new(builder, setUp, scarce, [], refusals, problems, shared, solutions, States.Select((z, i) => ZoneWork.Replay(z, problems[i].Problem, solutions[i], C)).ToArray());
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
        Dictionary<string, double> Used(Solved s) => s.Work.SelectMany(Neat).Concat(stock.Keys.Select(a => (Agent: a, Ml: 0.0))).GroupBy(x => x.Agent).ToDictionary(g => g.Key, g => g.Sum(x => x.Ml));
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

        if (weights.Count == 0 || Over(found).Length > 0)
        {
            return found;
        }

        // Each then moves by how far its use is off its stock, in ever smaller steps.
        for (var k = 1; k <= Steps; k++)
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

        return Fill(found, tried, stock);
    }

    /// <summary>Minutes of cost that scarcity was charged at on a zone.</summary>
    private static double Charged(ZoneWork w, IReadOnlyDictionary<string, double> scarce) => w.Deeds.Sum(d => scarce.TryGetValue(d.Treatment.Agent.Id, out var weight) ? weight * ZoneWork.SolutionMl(d, w.State) * d.Strength.Value : 0);

    /// <summary>Neat product of a zone's work, millilitres with what is wasted.</summary>
    private IEnumerable<(string Agent, double Ml)> Neat(ZoneWork w) => w.Deeds.Where(d => !d.Treatment.Agent.IsWater).Select(d => (d.Treatment.Agent.Id, d.Rounds * ZoneWork.NeatPerRound(d.Option, w.State, C)));

    /// <summary>What the bottles hold, less what the run has used so far.</summary>
    private Dictionary<string, double> Stock() => Limits.Stock(Survey).ToDictionary(s => s.Key, s => Math.Max(0, s.Value - _progress.Zones.Values.Sum(z => z.UsedMl.GetValueOrDefault(s.Key))));

    /// <summary>A way to work one zone.</summary>
    /// <param name="Cost">Without what scarcity was charged at.</param>
    private sealed record Way(ZoneSolution Solution, ZoneWork Work, long Cost, IReadOnlyDictionary<string, double> Ml);

    /// <summary>
    /// Gives out what the bottles still hold. Zones that are alike are charged alike, so that a price leaves either all of them or none; here each
    /// takes by itself the cheapest of the ways found for it that the stock allows, those first that save most for their part of it, or most at all.
    /// </summary>
    private Solved Fill(Solved found, List<Solved> tried, Dictionary<string, double> stock)
    {
        Way Of(Solved s, int zone)
        {
            var work = s.Work[zone];
            var cost = s.Solutions[zone].Cost - (long)Math.Round(1000 * Charged(work, s.Scarce));
            return new(s.Solutions[zone] with { Cost = cost, Bound = Math.Min(cost, tried[0].Solutions[zone].Bound) }, work, cost, Neat(work).Where(x => stock.ContainsKey(x.Agent)).GroupBy(x => x.Agent).ToDictionary(g => g.Key, g => g.Sum(x => x.Ml)));
        }

        var ways = States.Select((_, z) => tried.Select(t => Of(t, z)).DistinctBy(w => (w.Cost, string.Join(' ', w.Solution.Choices))).ToArray()).ToArray();
        var started = States.Select((_, z) => Of(found, z)).ToArray();
        var filled = new[] { true, false }.Select(byPart => Take(started, ways, stock, found.SetUp, byPart)).MinBy(now => found.Shared.CostOf([.. now.Select(w => w.Solution)]))!;
        return found with { Tried = tried, Solutions = [.. filled.Select(w => w.Solution)], Work = [.. filled.Select(w => w.Work)] };
    }

    private static Way[] Take(Way[] start, Way[][] ways, Dictionary<string, double> stock, long[] setUp, bool byPart)
    {
        var now = (Way[])start.Clone();
        var left = stock.ToDictionary(s => s.Key, s => s.Value + Slack - start.Sum(w => w.Ml.GetValueOrDefault(s.Key)));
        var users = Enumerable.Range(0, setUp.Length).Select(p => now.Count(w => (w.Solution.Used >> p & 1) != 0)).ToArray();
        long SetUps(UInt128 products, int others) => Enumerable.Range(0, setUp.Length).Sum(p => (products >> p & 1) != 0 && users[p] == others ? setUp[p] : 0);
        while (true)
        {
            (double Worth, int Zone, Way? Way) best = (0, -1, null);
            for (var z = 0; z < now.Length; z++)
            {
                foreach (var way in ways[z])
                {
                    var more = way.Ml.Keys.Union(now[z].Ml.Keys).Select(a => (Agent: a, Ml: way.Ml.GetValueOrDefault(a) - now[z].Ml.GetValueOrDefault(a))).Where(x => x.Ml > 0).ToArray();
                    var saves = now[z].Cost - way.Cost - SetUps(way.Solution.Used & ~now[z].Solution.Used, 0) + SetUps(now[z].Solution.Used & ~way.Solution.Used, 1);
                    if (saves <= 0 || more.Any(x => x.Ml > left[x.Agent]))
                    {
                        continue;
                    }

                    // A part of the stock in a thousand costs nothing worth weighing.
                    var worth = byPart ? saves / (0.001 + more.Sum(x => x.Ml / stock[x.Agent])) : saves;
                    best = worth > best.Worth ? (worth, z, way) : best;
                }
            }

            if (best.Way is not { } taken)
            {
                return now;
            }

            foreach (var agent in left.Keys)
            {
                left[agent] += now[best.Zone].Ml.GetValueOrDefault(agent) - taken.Ml.GetValueOrDefault(agent);
            }

            for (var p = 0; p < users.Length; p++)
            {
                users[p] += (int)(taken.Solution.Used >> p & 1) - (int)(now[best.Zone].Solution.Used >> p & 1);
            }

            now[best.Zone] = taken;
        }
    }
}

/// <summary>A searched job.</summary>
/// <param name="Scarce">Minutes a millilitre of a class that is short was charged on top; empty where nothing is.</param>
/// <param name="Tried">Every charge tried on the way to a plan kept to the shelf; empty where nothing is short.</param>
internal sealed record Solved(
    ProblemBuilder Builder, long[] SetUp, IReadOnlyDictionary<string, double> Scarce, IReadOnlyList<Solved> Tried, List<Refused> Refusals, (ZoneProblem Problem, string Signature)[] Problems,
    SharedPlan Shared, IReadOnlyList<ZoneSolution> Solutions, ZoneWork[] Work);
