using ToughStart.Core.Chemistry;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Tests;

/// <summary>What is missing on the shelf or runs short: bought, borrowed or done without, each way planned.</summary>
public class BuyingTests
{
    private static readonly Survey Survey = Repository.Demo("estuary-pickup");

    private static ShelfBottle[] Shelf(params string[] without) =>
        [
            .. Catalogue
                .Default.Agents.Where(a => !a.IsWater && !without.Contains(a.Id))
                .Select(a => new ShelfBottle(a.Id, true, null, false) { Name = $"bottle of {a.Name}" }),
        ];

    [Fact]
    public void A_missing_class_is_named_with_what_takes_its_place_and_what_stays()
    {
        var survey = Survey with { Shelf = Shelf("tar-remover", "iron-remover") };
        var without = Repository.Plan(survey);
        var lines = Buying.Of(survey, without);
        lines.Select(l => l.Agent).ShouldBe(["iron-remover", "tar-remover"], ignoreOrder: true);
        foreach (var line in lines)
        {
            // The same job with that one bottle more, planned here again.
            var with = Repository.Plan(survey with { Shelf = [.. survey.Shelf, new ShelfBottle(line.Agent, true, null, false)] });
            line.NeedMl.Value.ShouldBe(with.Totals.ProductMl[line.Agent], 1e-9);
            line.Minutes.Value.ShouldBe(without.Totals.LabourMinutes.Expected - with.Totals.LabourMinutes.Expected, 1e-9);
            line.HaveMl.ShouldBeNull();
            (line.Instead.Count + line.Stays.Count).ShouldBeGreaterThan(0, line.Words);
        }

        lines.First(l => l.Agent == "iron-remover").Stays.ShouldContain(s => s.StartsWith("iron", StringComparison.Ordinal));
        Buying
            .Of(Survey with { Shelf = Shelf() }, Repository.Plan(Survey with { Shelf = Shelf() }))
            .ShouldBeEmpty("the shelf has everything");
    }

    [Fact]
    public void Kept_to_the_shelf_no_bottle_gives_more_than_it_holds()
    {
        var free = Repository.Plan(Survey with { Shelf = Shelf() });
        var most = free.Totals.ProductMl.OrderByDescending(p => p.Value).Take(3).Select(p => p.Key).ToArray();
        var survey = Survey with
        {
            Shelf =
            [
                .. Shelf().Select(b => most.Contains(b.Agent) ? b with { StockMl = Math.Round(free.Totals.ProductMl[b.Agent] / 2) } : b),
            ],
        };
        var (only, bought) = (Repository.Plan(survey with { StockOnly = true }), Repository.Plan(survey));
        foreach (var agent in most)
        {
            only.Totals.ProductMl.GetValueOrDefault(agent).ShouldBeLessThanOrEqualTo(Limits.StockOf(survey, agent)!.Value + 0.5, agent);
        }

        // How near it is: by the Lagrangian of the limited job, never dearer than what it could save, never below the job that may buy.
        var (limited, buying) = (Planner.Prove(survey with { StockOnly = true }), Planner.Prove(survey));
        limited.AtLeast.ShouldBeGreaterThanOrEqualTo(buying.AtLeast - 1e-6);
        limited.Minutes.Value.ShouldBeGreaterThanOrEqualTo(buying.Minutes - 1e-6, "a limit makes nothing cheaper");
        limited.AtLeast.ShouldBeLessThanOrEqualTo(limited.Minutes + 1e-9);
        limited.Gap.ShouldBeInRange(0, 0.3, "passes are paid whole and exclude each other: the bound of a limited job is weaker by both");
        Buying
            .Of(survey with { StockOnly = true }, only)
            .Select(l => l.Words)
            .ShouldBe(Buying.Of(survey, bought).Select(l => l.Words), "what is lacking is said either way");

        only.Refer.Where(r => r.Reason.EndsWith("buy or borrow", StringComparison.Ordinal))
            .ShouldNotBeEmpty("what stays for want of a bottle says so");
        bought.Refer.ShouldNotContain(r => r.Reason.Contains("runs short", StringComparison.Ordinal));

        // Left to buy, the plan is as before, and what is short is said with the price of the rest.
        bought.Totals.ProductMl.ShouldBe(free.Totals.ProductMl);
        var lines = Buying.Of(survey, bought);
        lines.Select(l => l.Agent).ShouldBe(most, ignoreOrder: true);
        foreach (var line in lines)
        {
            line.HaveMl!.Value.Value.ShouldBe(Limits.StockOf(survey, line.Agent)!.Value.Value);
            line.Money.ShouldBe((line.NeedMl - line.HaveMl!.Value) / 1000 * Catalogue.Default.Agent(line.Agent).Price, 1e-6);
        }
    }

    [Theory]
    [InlineData("barn-saloon", 1)]
    [InlineData("barn-saloon", 3)]
    [InlineData("trail-motorcycle", 2)]
    public void What_no_plan_can_cost_less_than_holds_for_every_plan_of_a_smaller_shelf(string demo, int bottles)
    {
        // A plan that gets by with less gets by with more: its cost is above every bound of a larger stock.
        var job = Repository.Demo(demo);
        var free = Repository.Plan(job with { Shelf = Shelf() });
        var most = free.Totals.ProductMl.OrderByDescending(p => p.Value).Take(bottles).Select(p => p.Key).ToArray();
        var proofs = new[] { 0.2, 0.4, 0.6, 0.9, 1.2 }
            .Select(part =>
                Planner.Prove(
                    job with
                    {
                        StockOnly = true,
                        Shelf =
                        [
                            .. Shelf()
                                .Select(b => most.Contains(b.Agent) ? b with { StockMl = 1 + free.Totals.ProductMl[b.Agent] * part } : b),
                        ],
                    }
                )
            )
            .ToArray();
        for (var less = 0; less < proofs.Length; less++)
        {
            for (var more = less; more < proofs.Length; more++)
            {
                proofs[more].AtLeast.ShouldBeLessThanOrEqualTo(proofs[less].Minutes + 1e-6);
            }
        }

        proofs[^1].Minutes.Value.ShouldBe(Planner.Prove(job with { Shelf = Shelf() }).Minutes, 1e-6, "enough is as good as any");
        proofs[0].Minutes.ShouldBeGreaterThan(proofs[^1].Minutes);
    }

    [Fact]
    public void Where_the_shelf_has_enough_keeping_to_it_changes_nothing()
    {
        var survey = Survey with { Shelf = [.. Shelf().Select(b => b with { StockMl = 100_000 })] };
        PlanCompare.Of(Repository.Plan(survey), Repository.Plan(survey with { StockOnly = true })).Same.ShouldBeTrue();
    }

    [Fact]
    public void An_empty_shelf_leaves_water_and_says_what_to_get()
    {
        var survey = Survey with { Shelf = [] };
        var plan = Repository.Plan(survey);
        plan.Steps.ShouldAllBe(s => s.Agent == "water");
        plan.Refer.ShouldNotBeEmpty();
        plan.Refused.ShouldContain(r =>
            r.Cause == "not-on-shelf" && r.Reason.EndsWith("on the shelf: buy or borrow", StringComparison.Ordinal)
        );
        var lines = Buying.Of(survey, plan);
        lines.ShouldNotBeEmpty();
        lines.ShouldAllBe(l => l.NeedMl > 0 && l.Words.Contains("none on the shelf", StringComparison.Ordinal));
    }

    /// <summary>Shelves drawn with these seeds, which stand here so that a failure comes again.</summary>
    [Theory]
    [InlineData("barn-saloon", 1)]
    [InlineData("barn-saloon", 3)]
    [InlineData("trail-motorcycle", 4)]
    [InlineData("touring-saloon", 6)]
    public void Whatever_the_shelf_a_plan_kept_to_it_uses_what_is_there_and_says_what_stays(string demo, int seed)
    {
        var random = new Random(seed);
        var bottles = Shelf()
            .Where(_ => random.NextDouble() < 0.8)
            .Select(b => random.NextDouble() < 0.5 ? b : b with { StockMl = Math.Round(random.NextDouble() * 120) })
            .ToArray();
        var plan = KeptToTheShelf(Repository.Demo(demo), bottles);
        if (seed == 3)
        {
            PlanFormat
                .Write(KeptToTheShelf(Repository.Demo(demo), bottles))
                .ShouldBe(PlanFormat.Write(plan), "the same shelf, the same bytes");
        }
    }

    /// <summary>Clay glides on a bottle that is not its own: when that one is all but empty, the clay is given up, and the search ends.</summary>
    [Theory]
    [InlineData("lubricant")]
    [InlineData("rinseless")]
    [InlineData("neutral-shampoo")]
    public void A_drop_of_what_clay_glides_on_ends_the_clay_and_not_the_search(string agent)
    {
        string[] glides = ["lubricant", "rinseless", "neutral-shampoo"];
        var rich = Shelf([.. glides.Where(g => g != agent)]);
        var survey = Repository.Demo("barn-saloon") with { House = new Dictionary<string, string>() };
        Repository.Plan(survey with { Shelf = rich, StockOnly = true }).Steps.ShouldContain(s => s.Stage == Stage.Clay, "there is enough");
        var dry = rich.Select(b => b.Agent == agent ? b with { StockMl = 1 } : b).ToArray();
        KeptToTheShelf(survey, dry).Steps.ShouldNotContain(s => s.Stage == Stage.Clay && s.Zones.Count > 4);
    }

    private static Plan KeptToTheShelf(Survey job, ShelfBottle[] bottles)
    {
        var survey = job with { Shelf = bottles, StockOnly = true, House = new Dictionary<string, string>() };
        var plan = Repository.Plan(survey);
        foreach (var step in plan.Steps.Where(s => s.Agent is not ("water" or "none") && s.ProductMl > 0))
        {
            var of = step.Agent == "lubricant" ? ["lubricant", "rinseless", "neutral-shampoo"] : new[] { step.Agent };
            bottles.ShouldContain(b => of.Contains(b.Agent) && b.StockMl != 0, $"{step.Key}: {step.Agent} is not on the shelf");
        }

        foreach (var (agent, ml) in plan.Totals.ProductMl)
        {
            ml.ShouldBeLessThanOrEqualTo((Limits.StockOf(survey, agent) ?? double.MaxValue) + 0.5, agent);
        }

        plan.Refer.ShouldAllBe(r => r.Reason.Length > 8, "what stays short of its target for want of a bottle says so");
        return plan;
    }

    [Fact]
    public void What_stands_undiluted_in_a_trigger_counts_with_the_bottle()
    {
        var survey = Survey with
        {
            Shelf = [.. Shelf().Select(b => b.Agent == "bug-remover" ? b with { StockMl = 100 } : b)],
            Kit = new KitInUse(
                null,
                [
                    new Leftover("bug-remover", ProductFraction.Neat, 60, "green"),
                    new Leftover("bug-remover", ProductFraction.OneTo(4), 500, "white"),
                ]
            ),
        };
        Limits.StockOf(survey, "bug-remover").ShouldBe(160);
        Buying.Of(survey, Repository.Plan(survey)).Single(l => l.Agent == "bug-remover").HaveMl.ShouldBe(160);
        Limits.StockOf(survey, "iron-remover").ShouldBeNull("nobody counts it");
    }

    [Fact]
    public void Clay_is_never_worked_dry_for_want_of_a_lubricant()
    {
        const string Rough =
            """{ "zone": "bonnet", "findings": [{ "contaminant": "bonded-mix", "grade": 3, "certainty": "seen" }], "tests": [{ "test": "touch", "result": "rough" }] }""";
        Plan With(string[] without, string school = "rinseless") =>
            Planner.Plan(
                Repository.Saloon(Rough) with
                {
                    Shelf = Shelf(without),
                    House = new Dictionary<string, string> { ["clayLubricant"] = school },
                }
            );
        string Tool(Plan plan) => plan.Steps.First(s => s.Stage == Stage.Clay).Tool;
        Tool(With([])).ShouldContain("rinseless 1:16");
        Tool(With([], "shampoo")).ShouldContain("shampoo 1:20, or as rich as 1:10");
        Tool(With(["rinseless"])).ShouldContain("clay lubricant");
        Tool(With(["rinseless", "lubricant"])).ShouldContain("shampoo 1:20");
        Tool(With(["iron-remover"], "iron-remover")).ShouldContain("clay lubricant");
        var none = With(["rinseless", "lubricant", "neutral-shampoo"]);
        none.Steps.ShouldNotContain(s => s.Stage == Stage.Clay);
        none.Refused.ShouldContain(r => r.Reason.Contains("no clay lubricant", StringComparison.Ordinal));
        Buying
            .Of(Repository.Saloon(Rough) with { Shelf = Shelf("rinseless", "lubricant", "neutral-shampoo") }, none)
            .ShouldContain(l => l.Agent == "lubricant");
    }

    [Fact]
    public void A_bottle_that_is_empty_is_no_bottle()
    {
        var plan = Repository.Plan(
            Survey with
            {
                Shelf = [.. Shelf().Select(b => b.Agent == "iron-remover" ? b with { StockMl = 0 } : b)],
            }
        );
        plan.Steps.ShouldNotContain(s => s.Agent == "iron-remover");
        plan.Refused.ShouldContain(r => r.Reason.Contains("no iron remover left", StringComparison.Ordinal));
    }
}
