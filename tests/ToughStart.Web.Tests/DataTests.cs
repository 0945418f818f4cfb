using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Infrastructure;
using Microsoft.EntityFrameworkCore.Metadata;
using Microsoft.EntityFrameworkCore.Migrations;
using Npgsql;
using ToughStart.Core.Formats;
using ToughStart.Core.Running;
using ToughStart.Core.Running.Live;
using ToughStart.Data;

namespace ToughStart.Web.Tests;

/// <summary>Migrations, concurrency and the append-only log on a real PostgreSQL.</summary>
[Collection("app")]
public sealed class DataTests(AppFixture app)
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    [Fact]
    public async Task Migrations_are_complete_and_run_twice()
    {
        await using var db = app.NewContext();
        (await db.Database.GetPendingMigrationsAsync(TestContext.Current.CancellationToken)).ShouldBeEmpty();
        db.Database.HasPendingModelChanges().ShouldBeFalse();
        await db.Database.MigrateAsync(TestContext.Current.CancellationToken);
    }

    /// <summary>What the app starts with was compiled from the classes as they are; if not, ./tough-start model compiles it anew.</summary>
    [Fact]
    public async Task The_compiled_model_is_what_the_classes_say()
    {
        await using var db = app.NewContext();
        var said = db.GetService<IDesignTimeModel>().Model;
        db.Model.ShouldNotBeSameAs(said, "a compiled model is used");
        Lines(db.Model).ShouldBe(Lines(said));

        static IReadOnlyList<string> Lines(IReadOnlyModel model) =>
            [
                .. model
                    .GetEntityTypes()
                    .SelectMany(e =>
                        e.GetProperties()
                            .Select(p =>
                                $"{p.Name} {p.ClrType} {p.GetColumnName()} {p.GetColumnType()} {p.IsNullable} {p.GetMaxLength()}"
                                + $" {p.IsConcurrencyToken} {p.ValueGenerated} {p.GetTypeMapping().Converter?.GetType()}"
                            )
                            .Concat(e.GetKeys().Select(k => "key " + Names(k.Properties)))
                            .Concat(e.GetIndexes().Select(i => $"index {i.IsUnique} {Names(i.Properties)}"))
                            .Concat(
                                e.GetForeignKeys().Select(f => $"{f.PrincipalEntityType.Name} {f.DeleteBehavior} {Names(f.Properties)}")
                            )
                            .Select(line => $"{e.Name} {e.GetTableName()}: {line}")
                    )
                    .Order(StringComparer.Ordinal),
            ];

        static string Names(IEnumerable<IReadOnlyProperty> of) => string.Join(", ", of.Select(p => p.Name));
    }

    /// <summary>What was entered with an older engine is told to beliefs as it was, and what was taken back stays so.</summary>
    [Fact]
    public async Task Logs_of_an_older_engine_become_live_logs()
    {
        var name = "older_" + Guid.NewGuid().ToString("n");
        var options = new DbContextOptionsBuilder<ToughStartContext>();
        options.UseToughStart(new NpgsqlConnectionStringBuilder(app.Connection) { Database = name }.ConnectionString);
        await using var db = new ToughStartContext(options.Options);
        try
        {
            await db.GetService<IMigrator>().MigrateAsync("20261128110230_FoundByParts", Stop);
            var (job, batch) = (Guid.NewGuid(), Guid.NewGuid());
            Guid[] ids = [Guid.NewGuid(), Guid.NewGuid(), Guid.NewGuid(), Guid.NewGuid()];
            object Entry(int i, Guid of, string step, int rounds, string? result) =>
                new
                {
                    id = ids[i],
                    batch = of,
                    stepKey = step,
                    zones = new[] { "roof" },
                    rounds,
                    observe = result is null ? null : "bleed",
                    result,
                    because = result == "inconclusive" ? "wet" : null,
                    elsewhere = false,
                    plan = 1,
                    dwellMinutes = i == 1 ? new { value = 4.5 } : null,
                };
            object[] bodies =
            [
                Entry(0, batch, "foam", 2, null),
                Entry(1, batch, "iron", 1, "inconclusive"),
                Entry(2, Guid.NewGuid(), "wash", 1, null),
                new
                {
                    id = ids[3],
                    batch = ids[3],
                    stepKey = "wash",
                    zones = new[] { "roof" },
                    rounds = 0,
                    plan = 1,
                    takesBack = ids[2],
                },
            ];
            await db.Database.ExecuteSqlAsync(
                $"""
                INSERT INTO clients (id, name, author) VALUES ({job}, 'a', 'a');
                INSERT INTO client_vehicles (id, client_id, name, plate, plate_key, author) VALUES ({job}, {job}, 'a', 'a', 'A', 'a');
                INSERT INTO jobs (id, vehicle_id, number, station, day, story, author, survey_revision, intake)
                VALUES ({job}, {job}, 1, 'bay', '2026-11-01', '', 'a', 1, jsonb_build_object());
                """,
                Stop
            );
            for (var i = 0; i < bodies.Length; i++)
            {
                var body = System.Text.Json.JsonSerializer.Serialize(bodies[i]);
                await db.Database.ExecuteSqlAsync(
                    $"""
                    INSERT INTO events (id, job_id, survey_revision, plan_revision, body, author, at)
                    VALUES ({ids[i]}, {job}, 1, 1, {body}::jsonb, 'tam', '2026-11-01T10:00:00Z')
                    """,
                    Stop
                );
            }

            await db.Database.MigrateAsync(Stop);
            var log = await new RunStore(db, new ShelfStore(db, AppFixture.Clock), AppFixture.Clock).LogAsync(job, stop: Stop);
            log.Select(e => (e.Number, e.Kind, e.After))
                .ShouldBe([(1, LogKind.Observed, 0), (2, LogKind.Observed, 0), (3, LogKind.Observed, 2), (4, LogKind.Undone, 3)]);
            var told = LiveHearsay.Of(log.Aggregate(LiveState.Start, Live.Reduce));
            told.Select(t => (t.Observation.Id, t.Observation.StepKey, t.Observation.Rounds, t.Observation.Result, t.Observation.Because))
                .ShouldBe([(ids[0], "foam", 2, null, null), (ids[1], "iron", 1, "inconclusive", "wet")]);
            told[1].Observation.DwellMinutes!.Value.Value.ShouldBe(4.5);
            told.ShouldAllBe(t => t.Observation.Plan == 1 && !t.Observation.Live);
        }
        finally
        {
            await db.Database.EnsureDeletedAsync(CancellationToken.None);
        }
    }

    /// <summary>The signs that mean "any text" to the database are what people write: half of a price, a name with a line under it.</summary>
    [Fact]
    public async Task What_is_looked_for_is_meant_as_it_is_written()
    {
        await using var db = app.NewContext();
        await using var once = await db.Database.BeginTransactionAsync(Stop);
        var jobs = new JobStore(db, AppFixture.Clock);
        var vehicle = (await db.Jobs.Include(j => j.Vehicle).SingleAsync(j => j.Number == 105, Stop)).Vehicle!;
        vehicle.Name = @"half_van 7q% off \ on";
        await db.SaveChangesAsync(Stop);
        foreach (var part in new[] { "7q%", "half_v", @"off \ ON", "%", "_", @"\" })
        {
            (await jobs.YardAsync(TickingClock.Today, find: part, stop: Stop)).ShouldHaveSingleItem(part).Number.ShouldBe(105, part);
            (await new RecordStore(db, AppFixture.Clock).ClientsAsync(part, stop: Stop)).Lines.ShouldHaveSingleItem(part);
        }

        (await jobs.YardAsync(TickingClock.Today, find: "7q%on", stop: Stop)).ShouldBeEmpty();
    }

    [Fact]
    public async Task A_registration_is_found_however_it_is_written_and_no_other_is()
    {
        await using var db = app.NewContext();
        var jobs = new JobStore(db, AppFixture.Clock);
        var vehicle = (await db.Jobs.Include(j => j.Vehicle).SingleAsync(j => j.Number == 105, Stop)).Vehicle!;
        var own = vehicle.Plate;
        try
        {
            vehicle.Plate = "MÜ-k 512";
            await db.SaveChangesAsync(Stop);
            foreach (var written in new[] { "MÜ-k 512", "müK512", " mü.K-512 " })
            {
                (await jobs.LastVisitAsync(written, stop: Stop)).ShouldNotBeNull(written).Number.ShouldBe(105, written);
                (await jobs.YardAsync(TickingClock.Today, find: written, stop: Stop)).ShouldContain(l => l.Number == 105, written);
            }

            (await jobs.LastVisitAsync("MK 512", stop: Stop)).ShouldBeNull("another vehicle");
            (await jobs.LastVisitAsync(" - ", stop: Stop)).ShouldBeNull("nothing was asked");
            // What the migration gives those who were there before.
            (
                await db
                    .Database.SqlQuery<string>(
                        $"""SELECT regexp_replace(upper({vehicle.Plate} COLLATE "und-x-icu"), '[^[:alnum:]]', '', 'g') AS "Value" """
                    )
                    .SingleAsync(Stop)
            ).ShouldBe(vehicle.PlateKey);
        }
        finally
        {
            vehicle.Plate = own;
            await db.SaveChangesAsync(CancellationToken.None);
        }
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
    public async Task Six_people_saving_six_zones_at_once_lose_nothing()
    {
        string[] zones = ["bonnet", "roof", "left-sill", "right-sill", "boot-lid", "windscreen"];
        await using var before = app.NewContext();
        var start = (await new JobStore(before, AppFixture.Clock).JobAsync(105, TestContext.Current.CancellationToken))!;
        var saves = await Task.WhenAll(
            zones.Select(async zone =>
            {
                await using var db = app.NewContext();
                var at = start.Survey.ZoneOf(zone) ?? new ZoneSurvey(zone, null, [], null, null, null, [], []);
                var mine = at with { Findings = [new Finding("overspray", 2, null, Certainty.Seen)] };
                var survey = start.Survey with
                {
                    Zones = [.. start.Survey.Zones.Where(z => z.Zone != zone).Append(mine).OrderBy(z => z.Zone, StringComparer.Ordinal)],
                };
                return await new JobStore(db, AppFixture.Clock).SaveSurveyAsync(
                    start.Id,
                    start.Revision,
                    survey,
                    zone,
                    TestContext.Current.CancellationToken
                );
            })
        );
        saves.ShouldAllBe(s => s.Saved);
        saves.Select(s => s.Revision).Order().ShouldBe(Enumerable.Range(start.Revision + 1, 6));
        await using var after = app.NewContext();
        var now = (await new JobStore(after, AppFixture.Clock).JobAsync(105, TestContext.Current.CancellationToken))!;
        zones.ShouldAllBe(z => now.Survey.ZoneOf(z)!.FindingOf("overspray") != null);
    }

    [Fact]
    public async Task Two_people_on_one_zone_both_hear_of_it()
    {
        await using var db = app.NewContext();
        var store = new JobStore(db, AppFixture.Clock);
        var start = (await store.JobAsync(108, TestContext.Current.CancellationToken))!;
        Survey With(int grade) =>
            start.Survey with
            {
                Zones =
                [
                    .. start.Survey.Zones.Where(z => z.Zone != "roof"),
                    new ZoneSurvey("roof", null, [], null, null, null, [new Finding("sap", grade, null, Certainty.Seen)], []),
                ],
            };
        (await store.SaveSurveyAsync(start.Id, start.Revision, With(1), "one", TestContext.Current.CancellationToken)).Saved.ShouldBeTrue();
        var second = await store.SaveSurveyAsync(start.Id, start.Revision, With(3), "two", TestContext.Current.CancellationToken);
        second.Saved.ShouldBeFalse();
        second.Conflicts.ShouldBe(["roof"]);
        second.Theirs!.ZoneOf("roof")!.FindingOf("sap")!.Grade.ShouldBe(1);
        second.TheirAuthor.ShouldBe("one");
        (await store.SaveSurveyAsync(start.Id, start.Revision, With(1), "three", TestContext.Current.CancellationToken)).Saved.ShouldBeTrue(
            "the same change twice is no conflict"
        );
    }

    [Fact]
    public async Task Events_are_kept_once_and_never_changed_however_often_and_at_once_they_come()
    {
        await using var db = app.NewContext();
        var job = (await new JobStore(db, AppFixture.Clock).JobAsync(106, TestContext.Current.CancellationToken))!;
        var other = (await new JobStore(db, AppFixture.Clock).JobAsync(107, TestContext.Current.CancellationToken))!;
        var seen = new Observation(
            Guid.CreateVersion7(),
            Guid.CreateVersion7(),
            "tyres/tyre-brush/1",
            ["left-front-tyre"],
            1,
            "foam",
            "tan",
            null
        )
        {
            Plan = 999,
        };
        async Task<Taken> Append(Guid to)
        {
            await using var mine = app.NewContext();
            return (
                await new RunStore(mine, new ShelfStore(mine, AppFixture.Clock), AppFixture.Clock).AppendAsync(
                    to,
                    [LiveHearsay.Entry(seen, "tyre-brush", "test", 0)],
                    TestContext.Current.CancellationToken
                )
            )[0];
        }

        var taken = await Task.WhenAll(Enumerable.Range(0, 6).Select(_ => Append(job.Id)));
        taken.Count(t => t == Taken.New).ShouldBe(1);
        taken.Count(t => t == Taken.Known).ShouldBe(5);
        (await Append(other.Id)).ShouldBe(Taken.Refused, "an id is one event's for good");
        (
            await new RunStore(db, new ShelfStore(db, AppFixture.Clock), AppFixture.Clock).LogAsync(
                job.Id,
                stop: TestContext.Current.CancellationToken
            )
        )
            .ShouldHaveSingleItem()
            .Body.Zones.ShouldBe(seen.Zones);
        var error = await Should.ThrowAsync<PostgresException>(() =>
            db.Events.Where(e => e.Id == seen.Id).ExecuteDeleteAsync(TestContext.Current.CancellationToken)
        );
        error.MessageText.ShouldContain("append-only");
    }
}
