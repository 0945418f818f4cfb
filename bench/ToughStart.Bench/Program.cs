using System.Diagnostics;
using System.Globalization;
using ToughStart.Bench;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;

// Measures the planner in one run: per-zone search, whole vehicle with and without sharing, document in to document out, and
// the ratio to a general-purpose solver (OR-Tools CP-SAT) on the same additive instances. Prints tables and keeps them in docs/performance.md.
CultureInfo.DefaultThreadCurrentCulture = CultureInfo.InvariantCulture;
var root = args.Length > 0 ? args[0] : ".";
if (args.Contains("plans"))
{
    PlansBench.Run(root, args.Select(a => int.TryParse(a, out var n) ? n : 0).DefaultIfEmpty(0).Max() is > 0 and var n ? n : 200);
    return;
}

if (args.Contains("timeline"))
{
    TimelineBench.Run(root);
    return;
}

if (args.Contains("days"))
{
    TimelineBench.Speeds(root);
    return;
}

if (args.Contains("learning"))
{
    LearningBench.Run(root);
    return;
}

if (args.Contains("keep"))
{
    // What the web's bench has measured, line by line.
    var web = new Report(root, args[^1]);
    while (Console.ReadLine() is { } line)
    {
        web.Line(line);
    }

    web.Keep();
    return;
}

var report = new Report(root, "planner");
report.Head("what", "measured", "aim");
var json = File.ReadAllBytes(Path.Combine(root, "demo", "estuary-pickup.json"));
var survey = SurveyFormat.Read(json).Value!;
var c = Catalogue.Default;
var states = ZoneState.FromSurvey(survey, Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size), c);
var graph = StageGraph.For(survey, c);

var problems = new ProblemBuilder(survey, states, graph, c) is var builder
    ? states.Select(z => builder.Build(z, null, null)).ToArray()
    : [];
var zones = problems.Select(p => p.Problem).ToArray();
var signatures = problems.Select(p => p.Signature).ToArray();

// Warm up until the runtime has compiled the search for good.
for (var i = 0; i < 20; i++)
{
    foreach (var z in zones)
    {
        ZoneSearch.Solve(z);
    }
}

var perZone = zones.Select(z => Median(7, () => ZoneSearch.Solve(z))).Order().ToArray();
var labels = zones.Select(z => ZoneSearch.Solve(z).Labels).Order().ToArray();
Row("zone search, median of " + zones.Length, perZone[perZone.Length / 2], "< 1 ms");
Row("zone search, 90th percentile", perZone[(int)(perZone.Length * .9)]);
Row("zone search, slowest", perZone[^1]);
var sumOfZones = Median(5, () => new SharedPlan(zones, signatures, builder.Book()).Solve(share: false));
Row("whole pickup, zones only", sumOfZones, "< 30 ms");
var shared = Median(5, () => new SharedPlan(zones, signatures, builder.Book()).Solve());
Row("whole pickup, shared", shared, "< 300 ms");
Row("problems of all zones built", Median(5, () =>
    {
        var b = new ProblemBuilder(survey, states, graph, c);
        _ = states.Select(z => b.Build(z, null, null)).ToArray();
    }));
Row("survey read", Median(5, () => SurveyFormat.Read(json)));

// Another size every time: the last vehicles built are kept.
var size = survey.Vehicle.Size;
Row("vehicle built", Median(5, () => Forms.Build(survey.Vehicle.Form, size = size with { Length = size.Length + 0.001 })));
Row("survey bytes in, plan bytes out", Median(5, () => PlanFormat.Write(Planner.Plan(SurveyFormat.Read(json).Value!))));

// In turn, so that both see the same machine.
var (searches, wholes) = (new List<double>(), new List<double>());
for (var i = 0; i < 9; i++)
{
    searches.Add(Median(1, () => new SharedPlan(zones, signatures, builder.Book()).Solve()));
    wholes.Add(Median(1, () => Planner.Plan(survey)));
}

Row("whole plan of the pickup", wholes.Order().ElementAt(4));
report.Row(
    "ratio whole plan : its shared search, in turn",
    $"{wholes.Order().ElementAt(4) / searches.Order().ElementAt(4):0.0} : 1",
    "≤ 2 : 1"
);
var before = GC.GetTotalAllocatedBytes(true);
Planner.Plan(survey);
report.Row("allocated for one plan, on all cores", $"{(GC.GetTotalAllocatedBytes(true) - before) / 1e6:0.0} MB", "< 20 MB");
GC.Collect();
var live = GC.GetTotalMemory(true);
var plan = Planner.Plan(survey);
GC.Collect();
report.Row("kept by one plan", $"{(GC.GetTotalMemory(true) - live) / 1e6:0.00} MB");
GC.KeepAlive(plan);
report.Row("labels made per zone, median / most", $"{labels[labels.Length / 2]} / {labels[^1]}");

Row($"flips of every finding ({survey.Zones.Sum(z => z.Findings.Count)} findings)", Median(5, () => Flips.Of(survey)), "< 1 s");
Row("front from gentlest to fastest, 9 plans at most", Median(3, () => ParetoFront.Of(survey)), "< 2 s");
var van = SurveyFormat.Read(File.ReadAllBytes(Path.Combine(root, "demo", "moorland-van.json"))).Value!;
Row("high-roof van in the sun, whole plan, unshared", Median(5, () => Planner.Plan(van, null, new PlanOptions(false))), "< 50 ms");
Row("high-roof van in the sun, whole plan, shared", Median(5, () => Planner.Plan(van)), "< 500 ms");
var minibus = SurveyFormat.Read(File.ReadAllBytes(Path.Combine(root, "demo", "ferry-minibus.json"))).Value!;
var caked = minibus with
{
    Goal = ToughStart.Core.Goal.Correct,
    Site = survey.Site,
    Zones =
    [
        .. Forms
            .Build(minibus.Vehicle.Form, minibus.Vehicle.Size)
            .Zones.OrderBy(z => z.Id, StringComparer.Ordinal)
            .Select(z => new ZoneSurvey(
                z.Id,
                null,
                [],
                null,
                null,
                null,
                [
                    .. c
                        .Contaminants.Where(k => k.Id != "oxidation" && k.CanSitOn(z.Kind.Default.Family))
                        .Select(k => new Finding(k.Id, 4, null, Certainty.Seen)),
                ],
                []
            )),
    ],
};
Row($"minibus, all {caked.Zones.Count} zones caked with all that can sit there, whole plan", Median(1, () => Planner.Plan(caked)));
var hardest = caked with { Zones = [.. caked.Zones.Select(z => z with { Findings = [.. z.Findings.Select(f => f with { Grade = 3 })] })] };
Row("the same, but heavy instead of caked: past the label cap almost everywhere", Median(1, () => Planner.Plan(hardest)), "< 500 ms");
var most = plan.Totals.ProductMl.OrderByDescending(p => p.Value).Take(3).ToDictionary(p => p.Key, p => p.Value / 2);
var shelf = survey with
{
    StockOnly = true,
    Shelf =
    [
        .. c
            .Agents.Where(a => !a.IsWater)
            .Select(a => new ToughStart.Core.Chemistry.ShelfBottle(a.Id, true, null, false)
            {
                StockMl = most.TryGetValue(a.Id, out var half) ? half : null,
            }),
    ],
};
Row("pickup kept to a shelf that has half of three bottles", Median(3, () => Planner.Plan(shelf)));
foreach (var (name, of) in new[] { ("pickup", survey), ("minibus, all caked", caked), ("pickup kept to half of three bottles", shelf) })
{
    var proof = Planner.Prove(of);
    report.Row(
        $"{name}: zones proved best, sharing from the best at most",
        FormattableString.Invariant($"{proof.Proved} of {proof.Zones}, {proof.Gap:0.00%}")
    );
}

RunBench.Run(survey, report, Median);
DryingBench.Run(report);

AdditiveBench.Run(report);

report.Keep();

void Row(string what, double ms, string aim = "") => report.Row(what, ms, aim);

static double Median(int times, Action work)
{
    work();
    var all = new double[times];
    for (var i = 0; i < times; i++)
    {
        var clock = Stopwatch.GetTimestamp();
        work();
        all[i] = Stopwatch.GetElapsedTime(clock).TotalMilliseconds;
    }

    Array.Sort(all);
    return all[times / 2];
}
