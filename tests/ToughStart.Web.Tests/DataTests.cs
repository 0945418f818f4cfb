using Microsoft.EntityFrameworkCore;
using Npgsql;
using ToughStart.Core.Running;
using ToughStart.Data;

namespace ToughStart.Web.Tests;

/// <summary>Migrations, concurrency and the append-only log on a real PostgreSQL.</summary>
[Collection("app")]
public sealed class DataTests(AppFixture app)
{
    [Fact]
    public async Task Migrations_are_complete_and_run_twice()
    {
        await using var db = app.NewContext();
        (await db.Database.GetPendingMigrationsAsync(TestContext.Current.CancellationToken)).ShouldBeEmpty();
        db.Database.HasPendingModelChanges().ShouldBeFalse();
        await db.Database.MigrateAsync(TestContext.Current.CancellationToken);
    }

    [Fact]
    public async Task Two_writers_of_one_job_do_not_overwrite_each_other()
    {
        await using var one = app.NewContext();
        await using var two = app.NewContext();
        var a = await one.Jobs.SingleAsync(j => j.Number == 105, TestContext.Current.CancellationToken);
        var b = await two.Jobs.SingleAsync(j => j.Number == 105, TestContext.Current.CancellationToken);
        a.Story += " One.";
        b.Story += " Two.";
        await one.SaveChangesAsync(TestContext.Current.CancellationToken);
        await Should.ThrowAsync<DbUpdateConcurrencyException>(() => two.SaveChangesAsync(TestContext.Current.CancellationToken));
    }

    [Fact]
    public async Task Saving_at_the_same_moment_lets_one_through()
    {
        var saves = await Task.WhenAll(Enumerable.Range(0, 6).Select(async i =>
        {
            await using var db = app.NewContext();
            var store = new JobStore(db, TimeProvider.System);
            var job = (await store.JobAsync(105, TestContext.Current.CancellationToken))!;
            await Task.Delay(30, TestContext.Current.CancellationToken);
            return (Result: await store.SaveSurveyAsync(job.Id, job.Revision, job.Survey with { Crew = 1 + i % 3 }, $"tab {i}", TestContext.Current.CancellationToken), On: job.Revision);
        }));
        saves.GroupBy(s => s.On).ShouldAllBe(g => g.Count(s => s.Result.Saved) <= 1);
        saves.Count(s => s.Result.Saved).ShouldBeGreaterThan(0);
        saves.Where(s => !s.Result.Saved).ShouldAllBe(s => s.Result.Theirs != null);
    }

    [Fact]
    public async Task Events_are_kept_once_and_never_changed()
    {
        await using var db = app.NewContext();
        var store = new JobStore(db, TimeProvider.System);
        var job = (await store.JobAsync(106, TestContext.Current.CancellationToken))!;
        var seen = new Observation(Guid.CreateVersion7(), Guid.CreateVersion7(), "tyres/tyre-brush/1", ["left-front-tyre"], 1, "foam", "tan", null);
        (await store.AppendAsync(job.Id, 999, [seen], "test", TestContext.Current.CancellationToken)).ShouldBe(1);
        (await store.AppendAsync(job.Id, 999, [seen], "test", TestContext.Current.CancellationToken)).ShouldBe(0);
        (await store.ObservationsAsync(job.Id, 999, TestContext.Current.CancellationToken)).ShouldHaveSingleItem().Zones.ShouldBe(seen.Zones);
        var error = await Should.ThrowAsync<PostgresException>(() => db.Events.Where(e => e.Id == seen.Id).ExecuteDeleteAsync(TestContext.Current.CancellationToken));
        error.MessageText.ShouldContain("append-only");
    }
}
