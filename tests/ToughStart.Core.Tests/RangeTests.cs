using MathNet.Numerics.Distributions;
using ToughStart.Core.Costing;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Tests;

/// <summary>What a plan comes to in worlds drawn anew, held to closed forms and to a plain replay written a second time.</summary>
public class RangeTests
{
    private static readonly Catalogue C = Catalogue.Default;

    public static TheoryData<string> Demos =>
        ["estuary-pickup", "barn-saloon", "touring-saloon", "trail-motorcycle", "orchard-pickup", "ferry-minibus", "moorland-van"];

    [Theory]
    [MemberData(nameof(Demos))]
    public void Where_nothing_scatters_the_range_is_the_plan(string demo)
    {
        var plan = Repository.Plan(Repository.Demo(demo));
        var tests = plan.Tests.Where(TestWorth.Made).Sum(t => TestWorth.Minutes(t.Zones.Count, C));
        var one = plan.Worlds!.Worked(3, Scatter.None);
        one.Minutes.ShouldAllBe(m => Math.Abs(m - tests - plan.Steps.Sum(s => s.LabourMinutes.Value)) < 1e-6);
        one.Litres[0].ShouldBe(plan.Steps.Sum(s => s.WaterLitres), 1e-6);
        one.Hidden.ShouldAllBe(h => h == 0);
        // Foam that is laid thick for one zone is laid thick for all: the steps know, single deeds do not.
        one.ProductMl[0].ShouldBeLessThanOrEqualTo(plan.Steps.Sum(s => s.ProductMl.Value) + 1e-6);
        one.Rounds.Select(r => r[0]).ShouldBe(plan.Steps.Select(s => s.Rounds));
    }

    /// <summary>
    /// Three wheels need acid after their four rounds. The fourth, by the plan, does not: but where its rounds run out and it still bleeds,
    /// the acid is at hand, if the client has not declined it there. Where they do not run out, both worlds are the same to the second.
    /// </summary>
    [Fact]
    public void A_loop_that_runs_out_goes_on_by_what_was_planned_once()
    {
        Draws Of(bool acid, Scatter scatter)
        {
            string Wheel(string zone, int grade) =>
                $$"""
                    { "zone": "{{zone}}", "surface": "painted-wheel", "tests": [ { "test": "spot", "result": "none" } ],
                      "findings": [ { "contaminant": "iron", "grade": {{grade}}, "age": "seasons" } ] }
                    """;
            var json = $$"""
                { "format": "toughstart.survey/1", "vehicle": { "form": "saloon" }, "goal": "correct", "shelf": [ { "agent": "iron-remover" },
                  { "agent": "neutral-shampoo" }, { "agent": "wheel-neutral" }, { "agent": "wheel-acid", "dataSheet": true, "ph": 2 } ],
                  "zones": [ {{Wheel("*-wheel-*", 4)}}, {{Wheel("right-rear-wheel-*", 2)}} ] }
                """;
            var survey = SurveyFormat.Read(System.Text.Encoding.UTF8.GetBytes(json)).Value!;
            var wheel = Forms.Build("saloon", survey.Vehicle.Size).Zones.Where(z => z.Wheel == "right-rear").Select(z => z.Id).ToArray();
            wheel.Length.ShouldBe(4);
            var plan = Repository.Plan(acid ? survey : survey with { Declines = [new(null, Stage.Acid, wheel)] });
            plan.StepsOn("left-front-wheel-face").ShouldContain(s => s.Treatment == "wheel-acid");
            plan.StepsOn(wheel[0]).ShouldContain(s => s.Treatment == "iron-spray");
            plan.StepsOn(wheel[0]).ShouldNotContain(s => s.Treatment == "wheel-acid");
            return plan.Worlds!.Worked(1024, scatter);
        }

        var looks = Scatter.Of(C) with { Hidden = false };
        var (with, without) = (Of(true, looks), Of(false, looks));
        var longer = Enumerable.Range(0, 1024).Where(s => with.Minutes[s] > without.Minutes[s] + 0.01).ToArray();
        longer.Length.ShouldBeInRange(10, 700, "now and then, not always");
        foreach (var s in Enumerable.Range(0, 1024).Except(longer))
        {
            with.Minutes[s].ShouldBe(without.Minutes[s], 1e-9);
            with.ProductMl[s].ShouldBe(without.ProductMl[s], 1e-9);
        }

        longer.ShouldAllBe(s => with.ProductMl[s] > without.ProductMl[s] && with.Litres[s] > without.Litres[s] && with.Hidden[s] == 0);
        // Where nobody looks, nobody knows that it ran out.
        Of(true, looks with { Looks = false }).Minutes.ShouldBe(Of(false, looks with { Looks = false }).Minutes);
    }

    /// <summary>Check case 6 of the notes on running a job: additive recurrence in two dimensions, shift one half.</summary>
    [Fact]
    public void Shared_factors_follow_the_recurrence()
    {
        var steps = DrawNumbers.StepsOf(2);
        (1 / steps[0]).ShouldBe(1.3247180, 1e-7);
        DrawNumbers.Recurrence(0.5, steps[0], 0).ShouldBe(0.2548777, 1e-7);
        DrawNumbers.Recurrence(0.5, steps[1], 0).ShouldBe(0.0698403, 1e-7);
        DrawNumbers.Recurrence(0.5, steps[0], 1).ShouldBe(0.0097553, 1e-7);
        DrawNumbers.Recurrence(0.5, steps[1], 1).ShouldBe(0.6396806, 1e-7);
    }

    [Fact]
    public void A_pace_that_scatters_by_itself_scatters_as_its_closed_form()
    {
        var plan = Repository.Plan(Repository.Demo("moorland-van"));
        var minutes = plan.Worlds!.Worked(512, Scatter.None with { Pace = 0.15 }).Minutes;
        var still = plan.Worlds!.Worked(1, Scatter.None).Minutes[0];
        foreach (var p in new[] { 0.1, 0.5, 0.7, 0.9 })
        {
            Draws.Quantile(minutes, p).ShouldBe(still * Math.Exp(0.15 * Normal.InvCDF(0, 1, p)), 0.006 * still, $"{p}");
        }

        minutes.Average().ShouldBe(still * Math.Exp(0.15 * 0.15 / 2), 0.002 * still);
    }

    /// <summary>
    /// How many of the zones have a kind is told by one normal number they share and one of their own: integrated here, drawn there.
    /// </summary>
    [Fact]
    public void Hidden_kinds_come_together()
    {
        var plan = Repository.Plan(Repository.Demo("estuary-pickup"));
        var test = plan.Tests.Single(t => t.Test == "touch");
        var drawn = plan.Worlds!.Worked(4096, Scatter.None with { Hidden = true });
        var none = drawn.Added.Select(a => a.Count(x => x <= 0) / 4096.0).ToArray();
        double Expected(double rho)
        {
            const double slip = 0.02;
            double sum = 0;
            for (var i = 0; i < 4000; i++)
            {
                var h = Normal.InvCDF(0, 1, (i + 0.5) / 4000);
                var p = Normal.CDF(0, 1, (Normal.InvCDF(0, 1, test.Probability) - (Math.Sqrt(rho) * h)) / Math.Sqrt(1 - rho));
                sum += Math.Pow((1 - p) * (1 - slip) + (p * slip), test.Zones.Count);
            }

            return sum / 4000;
        }

        Expected(0.6).ShouldBeGreaterThan(5 * Expected(0.01), "the check tells one from the other");
        var expected = Expected(0.6);
        none.ShouldContain(n => Math.Abs(n - expected) < 0.02, $"{string.Join(' ', none)} against {expected}");
    }

    [Fact]
    public void Rounds_end_as_in_a_replay_written_plainly()
    {
        var survey = Repository.Saloon(
            """{ "zone": "bonnet", "findings": [ { "contaminant": "iron", "grade": 2, "certainty": "seen" } ] }""",
            "correct"
        );
        var plan = Repository.Plan(survey);
        var at = plan.Steps.ToList().FindIndex(s => s.Stage == Stage.Iron && s.Zones.Contains("bonnet"));
        var step = plan.Steps[at];
        var answer = step.Answers.Single(a => a.Zone == "bonnet" && a.Contaminant == "iron");
        // As the table has it: a cool panel, the label's strength and its whole dwell.
        var removal = C.Treatment(step.Treatment).Removes.Single(r => r.Kind == C.Contaminant("iron").Index);
        var (decades, floor) = (removal.Decades, removal.Floor);
        // Nothing but what was found, the eye and the bottle scatters here; the bonnet is the only zone that anybody looks at.
        var random = new Random(7);
        double Gauss() => Normal.InvCDF(0, 1, Math.Max(1e-12, random.NextDouble()));
        var plain = new int[5];
        for (var i = 0; i < 40_000; i++)
        {
            var load = Math.Min(1, answer.Before * Math.Exp(C["sigma-seen"] * Gauss()));
            var bottle = Math.Exp((C["answer-agent"] * Gauss()) + (C["answer-zone"] * Gauss()));
            var rounds = 0;
            bool clean;
            do
            {
                rounds++;
                load = Math.Max(Math.Min(load, floor), load * Math.Pow(10, -decades * bottle * Math.Exp(C["answer-round"] * Gauss())));
                var low = Normal.CDF(0, 1, Math.Log(C["band-low"] / load) / 0.4);
                clean = random.NextDouble() < (0.97 * low) + 0.01;
            } while (!clean && rounds < step.Until!.MaxRounds);

            plain[rounds]++;
        }

        var alone = step.Zones.Count == 1;
        var ours = plan.Worlds!.Worked(8192).Rounds[at].GroupBy(r => r).ToDictionary(g => g.Key, g => g.Count() / 8192.0);
        alone.ShouldBeTrue("the step is about one zone");
        for (var r = 1; r <= step.Until!.MaxRounds; r++)
        {
            ours.GetValueOrDefault(r).ShouldBe(plain[r] / 40_000.0, 0.02, $"{r} rounds");
        }
    }

    [Fact]
    public void The_same_seed_gives_the_same_bits_and_another_another()
    {
        var survey = Repository.Demo("touring-saloon");
        var (a, b) = (Planner.Plan(survey).Worlds!, Planner.Plan(survey).Worlds!);
        a.Drawn.Minutes.ShouldBe(b.Drawn.Minutes);
        a.Worked(64, seed: 5).Elapsed.ShouldBe(b.Worked(64, seed: 5).Elapsed);
        a.Worked(64, seed: 5).Minutes.ShouldNotBe(a.Worked(64, seed: 6).Minutes);
        a.Worked(64).Minutes.ShouldBe(a.Drawn.Minutes[..64], "the first draws are the first of more");
    }

    /// <summary>
    /// What one step more or less comes to is told by the same worlds, far more sharply than by worlds of each one's own.
    /// </summary>
    [Fact]
    public void Plans_are_compared_in_the_same_worlds()
    {
        var survey = Repository.Demo("touring-saloon");
        var (with, without) = (
            Repository.Plan(survey).Worlds!,
            Repository.Plan(survey with { Declines = [new(null, Stage.Strip, [])] }).Worlds!
        );
        double Sd(IEnumerable<double> x) => Math.Sqrt(x.Average(v => v * v) - (x.Average() * x.Average()));
        var paired = Sd(with.Drawn.Minutes.Zip(without.Drawn.Minutes, (a, b) => a - b));
        var apart = Sd(with.Drawn.Minutes.Zip(without.Worked(512, seed: 99).Minutes, (a, b) => a - b));
        paired.ShouldBeLessThan(0.5 * apart);
    }

    [Theory]
    [MemberData(nameof(Demos))]
    public void What_makes_a_range_adds_up(string demo)
    {
        var plan = Repository.Plan(Repository.Demo(demo));
        var shares = plan.Worlds!.Shares(128, TestContext.Current.CancellationToken);
        shares.Values.Sum().ShouldBe(1, 1e-9);
        shares.Values.ShouldAllBe(s => s >= 0 && s <= 1);
        shares[DrawGroup.Pace].ShouldBeGreaterThan(0.2, "people are the largest part of it");
    }

    /// <summary>Somebody whose pace is known makes a narrower range, around that pace.</summary>
    [Fact]
    public void A_known_pace_narrows()
    {
        var worlds = Repository.Plan(Repository.Demo("moorland-van")).Worlds!;
        var (any, known) = (Draws.Of(worlds.Drawn.Minutes), Draws.Of(worlds.Worked(512, pace: _ => 0.8).Minutes));
        known.Width.ShouldBeLessThan(0.7 * any.Width);
        known.Expected.ShouldBe(0.8 * any.Expected, 0.03 * any.Expected);
    }

    /// <summary>Check case 7 of the notes on running a job.</summary>
    [Fact]
    public void A_test_in_minutes()
    {
        TestWorth.Of(12, 30, 0.5, 0.35, 1, 1).ShouldBe(5.80, 1e-9);
        TestWorth.Of(12, 30, 0.5, 0.35, 0.9, 0.95).ShouldBe(4.78, 0.01);
    }

    /// <summary>Check case 7: 240 min at 40, product for 31.2 at cost, 346 l at .004, 40 l into the drum.</summary>
    [Fact]
    public void A_price_in_money()
    {
        var rates = Rates.Default;
        var price = rates.Price(240, 31.2, 346, 40);
        price.ShouldBe(219.06, 0.01);
        rates.Asked(price).ShouldBe(220);
        rates.Asked(220).ShouldBe(220);
        (rates with { TaxPercent = 20 }).Asked(100).ShouldBe(120);
    }

    /// <summary>Check case 7: a log-normal cost around 220, spread .17.</summary>
    [Fact]
    public void What_a_price_leaves_uncovered()
    {
        double[] costs = [.. Enumerable.Range(0, 200_000).Select(i => 220 * Math.Exp(0.17 * Normal.InvCDF(0, 1, (i + 0.5) / 200_000)))];
        Draws.Quantile(costs, 0.7).ShouldBe(240.513, 0.01);
        Draws.Quantile(costs, 0.9).ShouldBe(273.552, 0.01);
        Draws.Over(costs, 240.513).ShouldBe(8.538, 0.01);
        Draws.Over(costs, 273.552).ShouldBe(2.368, 0.01);
        Draws.ShareOver(costs, 240.513).ShouldBe(0.3, 0.001);
    }

    [Fact]
    public void Rates_that_make_no_sense_are_named()
    {
        Rates.Read(_ => null).Rates.ShouldBe(Rates.Default);
        var bad = Rates.Read(id =>
            id switch
            {
                "hour" => -1,
                "markup" => 0.5,
                _ => null,
            }
        );
        bad.Rates.ShouldBeNull();
        bad.Problems.ShouldBe(["hour: -1 is not allowed; 0 to 10000 per h", "markup: 0.5 is not allowed; 1 to 20 times"]);
    }

    [Fact]
    public void A_stop_is_heard()
    {
        var worlds = Repository.Plan(Repository.Demo("trail-motorcycle")).Worlds!;
        Should.Throw<OperationCanceledException>(() => worlds.Draw(100, stop: new CancellationToken(true)));
    }
}

internal static class WorldsOfTests
{
    /// <summary>The same, stopped with the test.</summary>
    public static Draws Worked(
        this Worlds of,
        int draws,
        Scatter? scatter = null,
        Func<Stage, double>? pace = null,
        ulong seed = Worlds.Seed
    ) => of.Draw(draws, scatter, pace, seed, stop: TestContext.Current.CancellationToken);
}
