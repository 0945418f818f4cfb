using CsCheck;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Tests;

/// <summary>
/// The plan's books kept a second time. What every step leaves is worked out here from the removal law in plain arithmetic (decades, real
/// numbers, no levels), and the load limits are read off the loads with the figures of the engine's notes typed in again. The search itself is
/// not asked: only the published plan, the catalogue and the survey.
/// </summary>
public class LedgerTests
{
    /// <summary>Kinds whose age makes them harder, and by how much: engine's notes §1.</summary>
    private static readonly string[] Aging = ["bug", "bird-dropping", "sap", "growth", "tyre-bloom", "mineral"];

    private static readonly Dictionary<string, double> ByAge = new()
    {
        ["fresh"] = 0.7,
        ["days"] = 1,
        ["weeks"] = 1.4,
        ["seasons"] = 2,
    };

    /// <summary>Weights of what scratches when a hand goes over it: engine's notes §3.</summary>
    private static readonly Dictionary<string, double> Mobile = new()
    {
        ["grit"] = 1,
        ["mud"] = 1,
        ["bug"] = 0.3,
        ["bee-spot"] = 0.3,
        ["bird-dropping"] = 0.2,
        ["loose-dust"] = 0.1,
        ["road-film"] = 0.05,
    };

    /// <summary>A load is counted in twentieths of a decade: half a twentieth is lost each way when the work of a round is rounded, one where cover takes part of it.</summary>
    private const double PerRound = 1.6,
        PerStep = 0.6;

    public static TheoryData<string> Demos =>
        ["estuary-pickup", "barn-saloon", "touring-saloon", "trail-motorcycle", "orchard-pickup", "barn-coupe", "ferry-minibus"];

    [Theory]
    [MemberData(nameof(Demos))]
    public void Every_step_leaves_what_the_removal_law_says(string demo) =>
        Audit(Repository.Demo(demo)).ShouldBeGreaterThan(100, "loads compared");

    [Fact]
    public void And_so_it_does_for_any_survey()
    {
        var compared = 0;
        FormatTests.Surveys().Sample(s => Interlocked.Add(ref compared, Audit(s with { Site = Indoors(s.Site) })), iter: 80, threads: 1);
        compared.ShouldBeGreaterThan(100, "most surveys have nothing at the gate and no weather");
    }

    [Theory]
    [MemberData(nameof(Demos))]
    public void No_gate_is_passed_with_more_on_it_than_the_notes_allow(string demo)
    {
        var survey = Repository.Demo(demo);
        var plan = Repository.Plan(survey);
        var passed = 0;
        foreach (var (trace, step, before) in Steps(plan))
        {
            var t = Planner.CatalogueFor(survey).Treatment(step.Treatment);
            double Sum(Dictionary<string, double> weights, params string[] but) =>
                weights.Where(w => !but.Contains(w.Key)).Sum(w => w.Value * Counted(before, w.Key));
            var where = $"{step.Key} on {trace.Zone}";
            switch (t.LoadLimit?.Id)
            {
                case "prewash":
                    (
                        Counted(before, "mud") + (0.7 * Counted(before, "grit")) + (0.5 * Counted(before, "loose-dust"))
                    ).ShouldBeLessThanOrEqualTo(0.2 + 1e-6, where);
                    break;
                case "touch":
                    Sum(Mobile).ShouldBeLessThanOrEqualTo(0.05 + 1e-6, where);
                    break;
                case "touch-no-bug":
                    Sum(Mobile, "bug").ShouldBeLessThanOrEqualTo(0.05 + 1e-6, where);
                    break;
                case "decon":
                    (
                        Counted(before, "mud")
                        + Counted(before, "grit")
                        + Counted(before, "road-film")
                        + (0.5 * Counted(before, "loose-dust"))
                        + (0.5 * Counted(before, "salt"))
                    ).ShouldBeLessThanOrEqualTo(0.1 + 1e-6, where);
                    break;
                case "clay":
                    Sum(Mobile).ShouldBeLessThanOrEqualTo(0.02 + 1e-6, where);
                    new[] { before.GetValueOrDefault("tar"), before.GetValueOrDefault("rubber") }
                        .Max()
                        .ShouldBeLessThanOrEqualTo(0.1 + 1e-6, where);
                    before.GetValueOrDefault("road-film").ShouldBeLessThanOrEqualTo(0.08 + 1e-6, where);
                    before.GetValueOrDefault("residue").ShouldBeLessThanOrEqualTo(0.05 + 1e-6, where);
                    break;
                default:
                    continue;
            }

            passed++;
        }

        passed.ShouldBeGreaterThan(5);
    }

    [Theory]
    [MemberData(nameof(Demos))]
    public void What_is_left_above_the_target_is_referred_and_nothing_else(string demo)
    {
        var plan = Repository.Plan(Repository.Demo(demo));
        foreach (var t in plan.Traces)
        {
            var last = t.After.Count > 0 ? t.After[^1].Loads : t.Start;
            foreach (var (kind, target) in t.Targets)
            {
                var over = last.GetValueOrDefault(kind) is > 0 and var left ? Math.Log10(left / target) : 0;
                // A tenth of a decade is rounding; the loads printed are those of whole levels, the target's too.
                if (Math.Abs(over - 0.1) > 0.051)
                {
                    plan.Refer.Any(r => r.What == kind && r.Zones.Contains(t.Zone) && r.Reason.Contains("stays", StringComparison.Ordinal))
                        .ShouldBe(over > 0.1, $"{kind} on {t.Zone}: {last.GetValueOrDefault(kind)} against {target}");
                }
            }
        }
    }

    [Theory]
    [MemberData(nameof(Demos))]
    public void Acid_and_iron_remover_have_a_rinse_between_and_strip_comes_after_what_lays_down(string demo)
    {
        var plan = Repository.Plan(Repository.Demo(demo));
        foreach (var trace in plan.Traces)
        {
            var steps = trace.After.Select(a => plan.Steps.First(s => s.Key == a.Step)).ToArray();
            var agents = steps.Select(s => Catalogue.Default.Agent(s.Agent)).ToArray();
            for (var i = 0; i < steps.Length; i++)
            {
                for (var j = i + 1; j < steps.Length && agents[i].Id is "iron-remover" or "iron-foam"; j++)
                {
                    if (agents[j].Axis == Axis.Acid)
                    {
                        steps[(i + 1)..j]
                            .Any(s =>
                                s.WaterLitres > 0 && (s.Stage == Stage.ReWash || s.Stage == Stage.Rinse || s.Stage == Stage.ContactWash)
                            )
                            .ShouldBeTrue($"{trace.Zone}: {steps[i].Name}, then {steps[j].Name}");
                    }
                }
            }

            var strip = Array.FindLastIndex(steps, s => s.Stage == Stage.Strip);
            steps
                .Skip(strip + 1)
                .Where(_ => strip >= 0)
                .ShouldNotContain(s => s.Agent == "waterless" || s.Stage == Stage.Clay, $"{trace.Zone}: fillers or clay after the strip");
        }
    }

    private static IEnumerable<(ZoneTrace Trace, Step Step, IReadOnlyDictionary<string, double> Before)> Steps(Plan plan) =>
        plan.Traces.SelectMany(t =>
            t.After.Select((a, i) => (t, plan.Steps.First(s => s.Key == a.Step), i == 0 ? t.Start : t.After[i - 1].Loads))
        );

    /// <summary>Next to nothing counts as nothing at a load limit.</summary>
    private static double Counted(IReadOnlyDictionary<string, double> loads, string kind) =>
        loads.GetValueOrDefault(kind) is var x && x < Catalogue.Default["nil-abrasive"] ? 0 : x;

    private static Site Indoors(Site site) => site with { Place = null, Start = null, AirC = null, HumidityPct = null, Hours = [] };

    /// <summary>Compares what every step leaves with the law; returns how many loads were compared.</summary>
    private static int Audit(Survey survey)
    {
        var c = Planner.CatalogueFor(survey);
        var plan = Repository.Plan(survey);
        if (plan.ReferOnly || plan.Drying == "computed")
        {
            return 0;
        }

        var vehicle = Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size);
        var compared = 0;
        foreach (var (trace, step, before) in Steps(plan).Where(x => !x.Step.Under && x.Step.On(x.Trace.Zone)!.Over is null))
        {
            var rounds = step.RoundsOn(trace.Zone);
            var minutes = step.On(trace.Zone)!.DwellMinutes;
            var t = c.Treatment(step.Treatment);
            var after = trace.After.First(a => a.Step == step.Key).Loads;
            var surface = survey.ZoneOf(trace.Zone)?.Surface ?? vehicle[trace.Zone].Kind.Default.Id;
            var family = surface == "unknown" ? vehicle[trace.Zone].Kind.Default.Family : c.Surface(surface).Family;
            var decades = t
                .Removes.Where(r => r.Kind != Kinds.Residue)
                .ToDictionary(r => c.Contaminants[r.Kind].Id, r => (Per: r.Decades * Factor(r.Kind), r.Floor));
            var loads = before.Where(b => b.Key != "residue").ToDictionary(b => b.Key, b => b.Value);
            for (var round = 0; round < rounds; round++)
            {
                var covers = loads.Where(l => l.Value >= 0.1).Select(l => (c.Contaminant(l.Key).Layer, Load: l.Value)).ToArray();
                foreach (
                    var (kind, (per, floor)) in decades.Where(d =>
                        loads.GetValueOrDefault(d.Key) is var now && now > d.Value.Floor && now > 0.001
                    )
                )
                {
                    var layer = c.Contaminant(kind).Layer;
                    var cover = covers.Where(x => x.Layer > 0 && x.Layer < layer).Select(x => x.Load).DefaultIfEmpty(0).Max();
                    loads[kind] = Math.Max(floor, loads[kind] * Math.Pow(10, -per * (1 - cover)));
                }
            }

            foreach (var (kind, expected) in loads)
            {
                compared++;
                var (a, b) = (Math.Max(expected, 0.001), Math.Max(after.GetValueOrDefault(kind), 0.001));
                (20 * Math.Abs(Math.Log10(a / b))).ShouldBeLessThanOrEqualTo(
                    (decades.ContainsKey(kind) ? PerRound * rounds : 0) + PerStep,
                    $"{step.Key} ×{rounds} leaves {after.GetValueOrDefault(kind):0.0000} of {kind} on {trace.Zone}, "
                        + $"{expected:0.0000} by the law (from {before[kind]:0.0000})"
                );
            }

            // A wheel is soiled as one: its heaviest part speaks for all of it.
            string? AgeOn(string zone, string kind) =>
                vehicle
                    .Zones.Where(z => z.Id == zone || (z.Wheel is not null && z.Wheel == vehicle[zone].Wheel))
                    .Select(z => survey.ZoneOf(z.Id)?.FindingOf(kind))
                    .Where(f => f is { Grade: > 0 })
                    .OrderByDescending(f => f!.Grade)
                    .ThenByDescending(f => f!.Age is { } age ? ByAge[age] : 1)
                    .FirstOrDefault()
                    ?.Age;

            double Factor(int kind)
            {
                var dwell = t.Agent.Dwell <= 0 || minutes <= 0 ? 1 : (1 - Math.Exp(-2 * minutes / t.Agent.Dwell)) / (1 - Math.Exp(-2.0));
                var name = c.Contaminants[kind].Id;
                var age = Aging.Contains(name) || (name == "iron" && family == Family.Wheel) ? AgeOn(trace.Zone, name) : null;
                var unrinsed =
                    t.In(Place.Foam) && survey.Rule("rinseFoamBeforeContact") == "false" && c.Contaminants[kind].Layer == 1
                        ? c["foam-unrinsed"]
                        : 1;
                return unrinsed
                    * t.Agent.Efficacy
                    * (t.IsClay ? 1 : Math.Sqrt(step.Strength.Value / t.Agent.Reference.Value))
                    * dwell
                    * Math.Pow(t.Agent.Q10, (plan.FilmC - 20) / 10)
                    / (age is null ? 1 : ByAge[age]);
            }
        }

        return compared;
    }
}
