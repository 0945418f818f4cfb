using System.Data.Common;
using System.Text.RegularExpressions;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Diagnostics;
using Npgsql;
using ToughStart.Core.Chemistry;
using ToughStart.Data;

namespace ToughStart.Web.Tests;

/// <summary>
/// What the pages ask of the database, asked of one that has grown: every answer is found by an index, none by reading a growing table through,
/// and none by numbering the rows of one. PostgreSQL's own plan of each query is the witness.
/// </summary>
[Collection("app")]
public sealed class GrowthTests
{
    private const int Rows = 8_000;

    /// <summary>Tables that grow with the years. What plans have put by does not: it goes with the job.</summary>
    private static readonly string[] Growing =
    [
        "clients",
        "client_vehicles",
        "jobs",
        "surveys",
        "plans",
        "events",
        "photos",
        "readings",
        "mixes",
        "stock_moves",
    ];

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    [Fact]
    public async Task Nothing_that_grows_is_read_through_for_a_page()
    {
        var connection = $"{Environment.GetEnvironmentVariable("TOUGHSTART_TEST_PG")};Database=growth_{Guid.NewGuid():N}";
        var seen = new Seen();
        var options = new DbContextOptionsBuilder<ToughStartContext>();
        options.UseToughStart(connection).AddInterceptors(seen);
        await using var db = new ToughStartContext(options.Options);
        await db.Database.MigrateAsync(Stop);
        try
        {
            var demo = Environment.GetEnvironmentVariable("TOUGHSTART_DEMO")!;
            await DemoSeed.LoadAsync(db, demo, TickingClock.Today, TickingClock.Start, Stop);
            await DemoShelf.LoadAsync(db, demo, AppFixture.Clock, AppFixture.Shop, Stop);
            await GrowAsync(db);
            db.ChangeTracker.Clear();
            seen.Commands.Clear();

            var (jobs, shelf) = (new JobStore(db, AppFixture.Clock), new ShelfStore(db, AppFixture.Clock));
            var (kit, runs) = (new KitStore(db, shelf, AppFixture.Shop), new RunStore(db, shelf, AppFixture.Clock));
            var records = new RecordStore(db, AppFixture.Clock);
            var job = (await jobs.JobAsync(105, Stop))!;
            await jobs.IntakeAsync(job.Id, Stop);
            (await jobs.LastVisitAsync(job.Plate.ToLowerInvariant(), stop: Stop)).ShouldNotBeNull().Number.ShouldBe(105);
            await jobs.ClientNamesAsync(Stop);
            await runs.RevisionsAsync(job.Id, Stop);
            await runs.PlanAsync(job.Id, 1, Stop);
            await runs.LogAsync(job.Id, stop: Stop);
            await records.PhotosAsync(job.Id, Stop);
            await kit.LastInBottleAsync(Stop);
            await kit.MixesAsync(true, stop: Stop);
            await kit.MixesAsync(false, stop: Stop);
            await kit.LeftoversAsync(Stop);
            await shelf.ListAsync(null, null, 1, Stop);
            await shelf.ListAsync("clean", null, 1, Stop);
            await shelf.OfJobAsync(job.Id, Stop);
            await shelf.BottlesAsync(LanceDraw.Uncalibrated, stop: Stop);

            var asked = seen.Commands.ToArray();
            asked.Length.ShouldBeGreaterThan(16);
            foreach (var (sql, parameters) in asked)
            {
                var plan = await PlanOfAsync(connection, sql, parameters);
                Regex
                    .Matches(plan, @"Seq Scan on (\w+)")
                    .Select(m => m.Groups[1].Value)
                    .ShouldNotContain(t => Growing.Contains(t), sql + plan);
                plan.ShouldNotContain("WindowAgg", customMessage: sql);
            }
        }
        finally
        {
            await db.Database.EnsureDeletedAsync(CancellationToken.None);
        }
    }

    /// <summary>Years of work, made from a row of each table.</summary>
    private static async Task GrowAsync(ToughStartContext db)
    {
        var (job, at) = (await db.Jobs.FirstAsync(Stop), TickingClock.Start);
        db.AddRange(
            new SurveyDocument
            {
                JobId = job.Id,
                Revision = 900,
                Body = "{}",
                Author = "tam",
                At = at,
            },
            new PlanDocument
            {
                JobId = job.Id,
                Revision = 900,
                SurveyRevision = 1,
                Events = 0,
                Body = "{}",
                Author = "tam",
                At = at,
            },
            new RunEvent
            {
                Id = Guid.NewGuid(),
                JobId = job.Id,
                SurveyRevision = 1,
                Body = "{}",
                Author = "tam",
                At = at,
            },
            new Photo
            {
                JobId = job.Id,
                Zone = "roof",
                Moment = "before",
                Jpeg = [0],
                Thumb = [0],
                Width = 1,
                Height = 1,
                Author = "tam",
                At = at,
            }
        );
        await db.SaveChangesAsync(Stop);
        await CopyAsync("clients", "'id', md5('c' || i)::uuid, 'name', 'Client ' || i");
        await CopyAsync(
            "client_vehicles",
            "'id', md5('v' || i)::uuid, 'client_id', md5('c' || i)::uuid, 'plate', 'GR ' || i, 'plate_key', 'GR' || i"
        );
        await CopyAsync(
            "jobs",
            "'id', md5('j' || i)::uuid, 'vehicle_id', md5('v' || i)::uuid, 'number', 1000 + i, 'day', date '2016-01-01' + i / 8"
        );
        await CopyAsync("surveys", "'id', md5('s' || i)::uuid, 'job_id', md5('j' || i)::uuid, 'revision', 1");
        foreach (var table in new[] { "plans", "events", "photos" })
        {
            await CopyAsync(table, $"'id', md5('{table}' || i)::uuid, 'job_id', md5('j' || i)::uuid");
        }

        await CopyAsync("mixes", "'id', md5('m' || i)::uuid, 'number', 1000 + i, 'state', 'empty'");
        await CopyAsync("stock_moves", "'id', md5('t' || i)::uuid");
        await db.Database.ExecuteSqlRawAsync("ANALYZE", Stop);

        async Task CopyAsync(string table, string with)
        {
            // What the database makes itself is left to it.
            var columns = string.Join(
                ", ",
                await db
                    .Database.SqlQuery<string>(
                        $"""
                        SELECT quote_ident(column_name) AS "Value" FROM information_schema.columns
                        WHERE table_name = {table} AND table_schema = 'public' AND is_generated = 'NEVER' AND is_identity = 'NO'
                        """
                    )
                    .ToListAsync(Stop)
            );
            var sql = $"""
                INSERT INTO {table} ({columns}) SELECT {string.Join(", ", columns.Split(", ").Select(x => "r." + x))}
                FROM {table} t, generate_series(1, {Rows}) i, LATERAL jsonb_populate_record(t, jsonb_build_object({with})) r
                WHERE t.ctid = (SELECT max(ctid) FROM {table})
                """;
            await db.Database.ExecuteSqlRawAsync(sql, Stop);
        }
    }

    private static async Task<string> PlanOfAsync(string connection, string sql, IEnumerable<NpgsqlParameter> parameters)
    {
        await using var open = new NpgsqlConnection(connection);
        await open.OpenAsync(Stop);
        await using var command = new NpgsqlCommand("EXPLAIN " + sql, open);
        command.Parameters.AddRange(parameters.Select(p => p.Clone()).ToArray());
        await using var reader = await command.ExecuteReaderAsync(Stop);
        var lines = new List<string>();
        while (await reader.ReadAsync(Stop))
        {
            lines.Add(reader.GetString(0));
        }

        return string.Join("\n", lines);
    }

    /// <summary>Keeps every query that is asked.</summary>
    private sealed class Seen : DbCommandInterceptor
    {
        public List<(string Sql, NpgsqlParameter[] Parameters)> Commands { get; } = [];

        public override ValueTask<InterceptionResult<DbDataReader>> ReaderExecutingAsync(
            DbCommand command,
            CommandEventData eventData,
            InterceptionResult<DbDataReader> result,
            CancellationToken cancellationToken = default
        )
        {
            Commands.Add((command.CommandText, [.. command.Parameters.Cast<NpgsqlParameter>().Select(p => p.Clone())]));
            return ValueTask.FromResult(result);
        }
    }
}
