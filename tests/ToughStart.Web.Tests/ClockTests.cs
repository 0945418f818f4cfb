using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Time.Testing;
using ToughStart.Core.Provenance;
using ToughStart.Data;
using ToughStart.Web.Stations;

namespace ToughStart.Web.Tests;

/// <summary>What ages, on a clock that is set by hand.</summary>
[Collection("app")]
public sealed class ClockTests(AppFixture app)
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    private static readonly DateTimeOffset Noon = new(2026, 12, 1, 12, 0, 0, TimeSpan.Zero);

    /// <summary>Three hours ahead of Greenwich all year; the ids of that zone count the other way.</summary>
    private const string East = "Etc/GMT-3";

    [Fact]
    public void The_day_is_the_shops_wherever_the_machine_stands()
    {
        var late = new FakeTimeProvider(new DateTimeOffset(2026, 11, 30, 22, 30, 0, TimeSpan.Zero));
        ShopClock.Of(late, null).Today.ShouldBe(new DateOnly(2026, 11, 30));
        var east = ShopClock.Of(late, East);
        east.Today.ShouldBe(new DateOnly(2026, 12, 1));
        east.Local.ShouldBe(new DateTimeOffset(2026, 12, 1, 1, 30, 0, TimeSpan.FromHours(3)));
        Should.Throw<InvalidOperationException>(() => ShopClock.Of(late, "Mars/Olympus")).Message.ShouldContain("Mars/Olympus");
    }

    [Fact]
    public void Marks_that_etch_run_a_clock()
    {
        var clock = new FakeTimeProvider(Noon);
        var yard = new YardModel(
            null!,
            null!,
            null!,
            null!,
            null!,
            null!,
            ShopClock.Of(clock, null),
            ToughStart.Core.Formats.Ways.Standard,
            null!,
            null!,
            null!
        );
        var survey = ToughStart
            .Core.Formats.SurveyFormat.Read(
                """{ "format": "toughstart.survey/1", "vehicle": { "form": "saloon" }, "goal": "wash", "zones": [ { "zone": "roof", "findings": [ { "contaminant": "bird-dropping", "grade": 2 } ] } ] }"""u8.ToArray()
            )
            .Value!;
        YardVehicle Since(DateTimeOffset? since) =>
            new(new JobLine(Guid.Empty, 1, "", "", "", "", "survey", default, 1, since, null), survey, null);
        yard.Clock(Since(null)).ShouldBeNull();
        yard.Clock(Since(Noon.AddMinutes(-20)))!.ShouldContain("just seen");
        yard.Clock(Since(Noon.AddHours(-5)))!.ShouldContain("5 h");
        clock.Advance(TimeSpan.FromDays(3));
        yard.Clock(Since(Noon))!.ShouldContain("3 days");
    }

    [Fact]
    public async Task A_mix_is_to_be_discarded_when_its_days_are_over()
    {
        await using var db = app.NewContext();
        // Half past ten in the evening at Greenwich is the next day at the shop.
        var clock = new FakeTimeProvider(Noon.AddHours(10.5));
        var shelf = new ShelfStore(db, clock);
        var kit = new KitStore(db, shelf, ShopClock.Of(clock, East));
        var product = db.Products.First(p => p.Agent == "apc" && p.StockMl > 100);
        var (bottle, _) = await kit.SaveAsync(
            new KitItem
            {
                Kind = "bottle",
                Name = "Clock bottle",
                Ml = 500,
                Author = "test",
            },
            true,
            0,
            Stop
        );
        var (mix, _, refused) = await kit.MixAsync(new MixOrder(product.Id, bottle, 20, 180, null, false, true), "test", Stop);
        refused.ShouldBeNull();
        var keeps = Catalogue.Default.Keeping[Catalogue.Default.Agent("apc").Axis].Days;
        try
        {
            mix!.DiscardBy.ShouldBe(DateOnly.FromDateTime(Noon.Date).AddDays(1 + keeps));
            (await kit.LeftoversAsync(Stop)).ShouldContain(l => l.Bottle == "Clock bottle");
            clock.Advance(TimeSpan.FromDays(keeps + 1));
            (await kit.LeftoversAsync(Stop)).ShouldNotContain(
                l => l.Bottle == "Clock bottle",
                "nothing is planned with what should be gone"
            );
        }
        finally
        {
            // Other tests plan with what stands mixed.
            await db.Mixes.Where(m => m.BottleId == bottle).ExecuteUpdateAsync(x => x.SetProperty(m => m.State, "discarded"), Stop);
        }
    }
}
