using System.Collections.Concurrent;
using System.Text;
using CsCheck;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Tests;

/// <summary>What must hold of every plan, whatever the vehicle, the dirt, the history and the goal: random surveys of all ten forms.</summary>
public class AnySurveyTests
{
    private const int Times = 40;

    /// <summary>Random surveys and their plans, drawn once for every rule that is held against them.</summary>
    private static readonly Lazy<IReadOnlyCollection<(Survey Survey, Plan Plan)>> Drawn = new(() =>
    {
        var drawn = new ConcurrentBag<(Survey, Plan)>();
        Surfaced().Sample(s => drawn.Add((s, Planner.Plan(s))), iter: Times);
        return drawn;
    });

    /// <summary>
    /// Working pH allowed by surface, written here a second time from the trade's table so that a slip in the catalogue shows.
    /// Surfaces not named have no limit that a planned class could pass.
    /// </summary>
    private static readonly Dictionary<string, (double Low, double High)> PhAllowed = new()
    {
        ["bare-aluminium"] = (5, 9),
        ["bare-alloy-wheel"] = (5, 9),
        ["anodised-aluminium"] = (5, 10),
        ["chrome"] = (4, 11),
        ["polycarbonate"] = (4, 11),
        ["gloss-film"] = (4, 11),
        ["vinyl-wrap"] = (4, 11),
        ["matte-film"] = (4, 11),
        ["matte-paint"] = (4, 11),
        ["single-stage"] = (4, 11),
        ["fresh-refinish"] = (5, 9),
        ["clear-coat"] = (3, 12.5),
        ["painted-wheel"] = (2, 12.5),
        ["steel-wheel"] = (5, 12.5),
        ["chain"] = (6, 9),
        ["rubber-seal"] = (4, 13),
        ["tyre-sidewall"] = (4, 13),
    };

    private static readonly string[] Matte = ["matte-paint", "matte-film"],
        NoAcid = ["bare-aluminium", "bare-alloy-wheel", "anodised-aluminium", "chrome", "fresh-refinish"];

    [Fact]
    public void No_step_passes_the_limits_of_the_surface_it_is_aimed_at() =>
        Every(
            (s, plan) =>
            {
                var vehicle = Forms.Build(s.Vehicle.Form, s.Vehicle.Size);
                foreach (var step in plan.Steps.Where(x => x.Stage != Stage.Dry))
                {
                    var agent = Catalogue.Default.Agent(step.Agent);
                    foreach (var surface in step.Zones.SelectMany(z => SurfacesOf(s, vehicle, z)))
                    {
                        if (Matte.Contains(surface))
                        {
                            step.Treatment.ShouldNotStartWith("clay", customMessage: $"clay on {surface}");
                            Catalogue.Default.Treatment(step.Treatment).Contact.ShouldNotBe(Contact.Stiff);
                        }

                        if (NoAcid.Contains(surface))
                        {
                            agent.Axis.ShouldNotBe(Axis.Acid, $"{step.Treatment} on {surface}");
                        }

                        if (!agent.IsWater && agent.Axis != Axis.Solvent && PhAllowed.TryGetValue(surface, out var ph))
                        {
                            agent.PhLow.ShouldBeGreaterThanOrEqualTo(ph.Low, $"{agent.Id} on {surface}");
                            agent.PhHigh.ShouldBeLessThanOrEqualTo(ph.High, $"{agent.Id} on {surface}");
                        }
                    }
                }
            }
        );

    [Fact]
    public void Discs_are_never_aimed_at_and_textured_plastic_never_clayed() =>
        Every(
            (s, plan) =>
            {
                var vehicle = Forms.Build(s.Vehicle.Form, s.Vehicle.Size);
                foreach (var step in plan.Steps.Where(x => x.Stage != Stage.Dry))
                {
                    if (!Catalogue.Default.Agent(step.Agent).IsWater)
                    {
                        step.Zones.ShouldNotContain(z => z.EndsWith("-disc", StringComparison.Ordinal));
                    }

                    if (step.Stage == Stage.Clay)
                    {
                        step.Zones.SelectMany(z => SurfacesOf(s, vehicle, z)).ShouldNotContain("textured-plastic");
                    }
                }
            }
        );

    [Fact]
    public void A_plan_is_a_graph_with_stable_keys_and_whole_numbers() =>
        Every(
            (s, plan) =>
            {
                var vehicle = Forms.Build(s.Vehicle.Form, s.Vehicle.Size);
                plan.Steps.Select(x => x.Key).Distinct().Count().ShouldBe(plan.Steps.Count);
                var seen = new HashSet<string>();
                foreach (var step in plan.Steps)
                {
                    step.After.ShouldAllBe(a => seen.Contains(a), "what comes before stands before");
                    seen.Add(step.Key);
                    step.Zones.ShouldNotBeEmpty();
                    step.Zones.ShouldAllBe(z => vehicle.Has(z));
                    step.Rounds.ShouldBeInRange(1, 4);
                    step.Why.ShouldNotBeEmpty();
                    (step.LabourMinutes >= 0 && step.WaterLitres >= 0 && step.ProductMl >= 0).ShouldBeTrue();
                    step.Strength.Value.ShouldBeInRange(1e-4, 1);
                    step.Answers.ShouldAllBe(a => a.After <= a.Before + 1e-9 && step.Zones.Contains(a.Zone));
                }

                foreach (
                    var r in new[]
                    {
                        plan.Totals.LabourMinutes,
                        plan.Totals.ElapsedMinutes,
                        plan.Totals.WaterLitres,
                        plan.Totals.Money,
                        plan.Totals.ProductTotalMl,
                    }
                )
                {
                    r.Low.ShouldBeLessThanOrEqualTo(r.Expected + 1e-9);
                    r.High.ShouldBeGreaterThanOrEqualTo(r.Expected - 1e-9);
                }

                plan.Skipped.ShouldAllBe(x => x.Reason.Length > 3);
                plan.Refused.ShouldAllBe(x => x.Reason.Length > 3 && !x.Reason.Contains("{0}"));
                plan.Refer.ShouldAllBe(x => x.Reason.Length > 3);
            }
        );

    [Fact]
    public void The_same_survey_gives_the_same_bytes_and_a_gate_gives_no_step() =>
        FormatTests
            .Surveys()
            .Sample(
                s =>
                {
                    var plan = Repository.Plan(s);
                    PlanFormat
                        .Write(plan)
                        .AsSpan()
                        .SequenceEqual(PlanFormat.Write(Planner.Plan(SurveyFormat.Read(SurveyFormat.Write(s)).Value!)))
                        .ShouldBeTrue();
                    var shut = s.History.IsFlooded || s.History.Nests || s.History.Biological;
                    plan.ReferOnly.ShouldBe(shut);
                    if (shut)
                    {
                        plan.Steps.ShouldBeEmpty();
                        plan.Refer.ShouldNotBeEmpty();
                    }

                    Encoding.UTF8.GetString(PlanFormat.Write(plan)).ShouldNotContain("NaN", Case.Sensitive);
                },
                iter: 20
            );

    [Fact]
    public void Neutral_only_uses_neutral_only() =>
        Surfaced()
            .Sample(
                s =>
                    Planner
                        .Plan(s with { House = new Dictionary<string, string> { ["strongChemistry"] = "neutral-only" } })
                        .Steps.All(x =>
                            Catalogue.Default.Agent(x.Agent).Axis is var a && a != Axis.Mild && a != Axis.Alkali && a != Axis.Acid
                        ),
                iter: 20
            );

    [Fact]
    public void Nothing_touches_paint_before_the_grit_is_below_the_gate() =>
        Every(
            (s, plan) =>
            {
                // Weights of the touch load limit, written a second time: grit 1, mud 1, bug .3, bee .3, droppings .2, dust .1, film .05; limit .05.
                var weights = new Dictionary<string, double>
                {
                    ["grit"] = 1,
                    ["mud"] = 1,
                    ["bug"] = 0.3,
                    ["bee-spot"] = 0.3,
                    ["bird-dropping"] = 0.2,
                    ["loose-dust"] = 0.1,
                    ["road-film"] = 0.05,
                };
                var states = plan.Traces.ToDictionary(t => t.Zone, t => t.Start);
                foreach (var step in plan.Steps.Where(x => x.Stage != Stage.Dry))
                {
                    foreach (var zone in step.Zones)
                    {
                        var before = states[zone];
                        if (step.Stage == Stage.ContactWash)
                        {
                            weights
                                .Sum(w => w.Value * (before.GetValueOrDefault(w.Key) is var l && l < 0.0045 ? 0 : l))
                                .ShouldBeLessThanOrEqualTo(0.0501, $"{step.Treatment} on {zone}");
                        }

                        states[zone] = plan.Traces.First(t => t.Zone == zone).After.First(a => a.Step == step.Key).Loads;
                    }
                }
            }
        );

    /// <summary>Holds a rule against every plan drawn; what breaks it is shown with its survey.</summary>
    private static void Every(Action<Survey, Plan> rule)
    {
        foreach (var (survey, plan) in Drawn.Value)
        {
            try
            {
                rule(survey, plan);
            }
            catch (ShouldAssertException e)
            {
                throw new ShouldAssertException($"{e.Message}\n{Encoding.UTF8.GetString(SurveyFormat.Write(survey))}", e);
            }
        }
    }

    /// <summary>Random surveys without load limits, with random surfaces that each zone can have.</summary>
    private static Gen<Survey> Surfaced() =>
        Gen.Select(FormatTests.Surveys(), Gen.Int)
            .Select(
                (s, seed) =>
                {
                    var r = new Random(seed);
                    var vehicle = Forms.Build(s.Vehicle.Form, s.Vehicle.Size);
                    var zones = s
                        .Zones.Select(z =>
                        {
                            var may = vehicle[z.Zone].Kind.MayBe;
                            var surface = may[r.Next(may.Count)];
                            return z with
                            {
                                Surface = surface.Id,
                                Findings =
                                [
                                    .. z.Findings.Where(f => Catalogue.Default.Contaminant(f.Contaminant).CanSitOn(surface.Family)),
                                ],
                                Tests = [.. z.Tests.Where(t => t.Test is not ("spot" or "colour"))],
                                Condition = Condition.Unsaid,
                            };
                        })
                        .ToArray();
                    return s with { History = new History("none", false, s.History.MonthsSinceWash, null, []), Zones = zones };
                }
            );

    private static IEnumerable<string> SurfacesOf(Survey s, Vehicle v, string zone) =>
        s.ZoneOf(zone) is { Surface: { } id } z ? z.Parts.Prepend(id) : [v[zone].Kind.Default.Id];
}
