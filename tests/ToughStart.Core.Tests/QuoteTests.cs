using System.Text;
using ToughStart.Core.Costing;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Vehicles;
using Range = ToughStart.Core.Planning.Range;

namespace ToughStart.Core.Tests;

/// <summary>A price a shop can stand by: what is in it, what it leaves uncovered, and what a client may turn.</summary>
public class QuoteTests
{
    private static readonly Dictionary<string, Plan> Known = [];

    private static Plan Planned(Survey survey)
    {
        lock (Known)
        {
            var hash = SurveyFormat.Hash(survey);
            return Known.TryGetValue(hash, out var plan) ? plan : Known[hash] = Repository.Plan(survey);
        }
    }

    private static Quote Of(string demo, params string[] turned) =>
        Quote.Of(Repository.Demo(demo), Rates.Default, turned, Planned, "Odd Client");

    [Theory]
    [InlineData("estuary-pickup")]
    [InlineData("touring-saloon")]
    [InlineData("moorland-van")]
    public void Three_in_ten_jobs_are_worth_more_than_their_price_and_one_in_ten_more_than_its_most(string demo)
    {
        var q = Of(demo).Quoted;
        var prices = Planned(Repository.Demo(demo)).Worlds!.Drawn.Prices(Rates.Default);
        q.LossChance.ShouldBeInRange(0.15, 0.301, "rounding up only covers more");
        Draws.ShareOver(prices, q.AtMost).ShouldBeInRange(0, 0.102, "between two of 512 draws lies the limit: 52 are over it");
        q.AtMost.ShouldBeGreaterThanOrEqualTo(q.Price);
        (q.Price % Rates.Default.RoundTo).ShouldBe(0, 1e-9);
        q.MeanLoss.ShouldBe(prices.Sum(p => Math.Max(0, p - q.Price)) / prices.Length, 1e-9);
        q.OwnCostOver.ShouldBeLessThan(0.01, "an hour costs the shop little more than half of what it is charged at");
    }

    [Fact]
    public void What_is_left_out_is_cheaper_and_says_what_stays()
    {
        var advised = Of("estuary-pickup");
        advised.Options.ShouldAllBe(o => o.Stand == (o.Effect.Option.Adds ? OptionStand.Offered : OptionStand.Recommended));
        foreach (var o in advised.Options.Where(o => !o.Effect.Option.Adds))
        {
            o.Effect.Difference.Expected.ShouldBeLessThan(0, o.Effect.Option.Id);
            o.Effect.Stays.ShouldNotBeEmpty(o.Effect.Option.Id);
        }

        var turned = Of("estuary-pickup", "clay");
        turned.Quoted.Price.ShouldBeLessThan(advised.Quoted.Price);
        turned.Turned.ShouldBe(["clay"]);
        var line = turned.Options.Single(o => o.Effect.Option.Id == "clay");
        (line.Stand, line.By).ShouldBe((OptionStand.Declined, "Odd Client"));
        turned.Hold?.Contaminant.ShouldNotBe("bonded-mix", "nobody feels for what will not be clayed");
    }

    /// <summary>
    /// The difference of two plans is told far more narrowly in the same worlds than by setting two ranges against each other.
    /// </summary>
    [Fact]
    public void Differences_are_paired()
    {
        var clay = Of("estuary-pickup").Options.Single(o => o.Effect.Option.Id == "clay").Effect;
        var (with, without) = (Of("estuary-pickup").Quoted.Net, Of("estuary-pickup", "clay").Quoted.Net);
        clay.Difference.Width.ShouldBeLessThan(0.75 * with.Width);
        clay.Difference.Expected.ShouldBe(without.Expected - with.Expected, 12);
    }

    [Fact]
    public void A_goal_on_top_costs_more()
    {
        var van = Of("moorland-van");
        van.Options.Where(o => o.Effect.Option.Adds).Select(o => o.Effect.Option.Id).ShouldBe(["protect", "correct"]);
        van.Options.Where(o => o.Effect.Option.Adds).ShouldAllBe(o => o.Effect.Difference.Expected > 0);
        var more = Of("moorland-van", "protect");
        more.Goal.ShouldBe(Goal.Protect);
        more.Quoted.Price.ShouldBeGreaterThan(van.Quoted.Price);
    }

    [Fact]
    public void The_hold_parts_two_courses()
    {
        var hold = Of("estuary-pickup").Hold!;
        (hold.Little.Share + hold.Much.Share).ShouldBe(1, 1e-9);
        hold.Much.High.ShouldBeGreaterThan(hold.Little.High);
        hold.Much.Low.ShouldBeGreaterThanOrEqualTo(hold.Little.Low);
        Of("moorland-van").Hold.ShouldBeNull("nothing hidden is tested for there");
    }

    private static OptionEffect Option(string id, double saves, double dirtier) =>
        new(new(id, false, id), new Range(-saves, -saves, -saves), default, "", dirtier);

    [Fact]
    public void A_budget_leaves_the_vehicle_as_clean_as_it_can()
    {
        OptionEffect[] all = [Option("clay", 40, 1), Option("iron", 40, 3), Option("tar", 15, 0.5), Option("wheels", 60, 8)];
        string[]? For(double over) => Budget.For(over, all)?.Select(o => o.Option.Id).ToArray();
        For(0).ShouldBe([]);
        For(10).ShouldBe(["tar"]);
        For(30).ShouldBe(["clay"]);
        For(50).ShouldBe(["clay", "tar"]);
        For(90).ShouldBe(["clay", "iron", "tar"]);
        For(156).ShouldBeNull("all of it saves 155");
    }

    [Fact]
    public void Nothing_is_priced_where_nothing_may_start() =>
        Should.Throw<ArgumentException>(() => Of("flooded-saloon")).Message.ShouldContain("nothing may start");

    [Fact]
    public void A_quote_is_read_back_as_it_was_written()
    {
        var bytes = QuoteFormat.Write(Of("touring-saloon", "tar"));
        var read = QuoteFormat.Read(bytes);
        read.Problems.ShouldBeEmpty();
        QuoteFormat.Write(read.Value!).ShouldBe(bytes);
        QuoteFormat.Read(Encoding.UTF8.GetBytes("{")).Problems[0].Message.ShouldContain("is not JSON");
        QuoteFormat
            .Read(Encoding.UTF8.GetBytes(Encoding.UTF8.GetString(bytes).Replace("\"declined\"", "\"forgotten\"", StringComparison.Ordinal)))
            .Problems.ShouldContain(p => p.Field.EndsWith("stand") && p.Allowed!.Contains("declined"));
    }

    [Fact]
    public void People_are_told_what_is_damage_and_not_dirt()
    {
        var survey = Repository.Demo("touring-saloon");
        var zone = survey.Zones[0];
        var etched = survey with
        {
            Zones =
            [
                zone with
                {
                    Condition = zone.Condition with { Damage = [new("clear-coat-failure", "noted")] },
                },
                .. survey.Zones.Skip(1),
            ],
        };
        Quote
            .Of(etched, Rates.Default, [], Planned)
            .NotIncluded.ShouldContain(n => n.Why.StartsWith("Clear coat failure") && n.Zones.Contains(zone.Zone));
    }
}
