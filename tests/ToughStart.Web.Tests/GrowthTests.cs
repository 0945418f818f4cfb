using System.Data.Common;
using System.Globalization;
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
    private const int Filled = 8_000;

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
        "job_books",
        "loop_lessons",
        "pace_lessons",
        "hand_work",
        "letters",
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
            await Growth.FillAsync(db, Filled, Filled, Filled, Filled, Stop);
            var some = await db.Products.Where(p => p.Name.EndsWith(" 77")).Select(p => p.Id).FirstAsync(Stop);
            var vehicle = await db.Books.Select(b => b.VehicleId).FirstAsync(Stop);
            db.ChangeTracker.Clear();
            seen.Commands.Clear();

            var (jobs, shelf) = (new JobStore(db, AppFixture.Clock), new ShelfStore(db, AppFixture.Clock));
            var (kit, runs) = (new KitStore(db, shelf, AppFixture.Shop), new RunStore(db, shelf, AppFixture.Clock));
            var records = new RecordStore(db, AppFixture.Clock);
            var job = (await jobs.JobAsync(105, Stop))!;
            await jobs.IntakeAsync(job.Id, Stop);
            foreach (var stand in Enum.GetValues<JobStore.Stand>())
            {
                await jobs.YardAsync(TickingClock.Today, stand, stop: Stop);
            }

            (await jobs.YardAsync(TickingClock.Today, JobStore.Stand.Done, "Client 77", stop: Stop)).Count.ShouldBe(JobStore.MostInYard);
            (await jobs.StationsAsync(stop: Stop))["closed"].ShouldBe(JobStore.MostCounted);
            (await jobs.StationsAsync("Client 777", Stop))["closed"].ShouldBe(11, "Client 777 and 7770 to 7779");
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
            await shelf.ToOrderAsync(Stop);
            await records.ClientsAsync(stop: Stop);
            await records.ClientsAsync("Client 777", stop: Stop);
            await shelf.OfJobAsync(job.Id, Stop);
            await shelf.BottlesAsync(LanceDraw.Uncalibrated, stop: Stop);
            await kit.InUseAsync(Stop);
            var log = new LogbookStore(db, AppFixture.Clock);
            LogbookSearch[] searches =
            [
                new(),
                new(Find: "Client 777"),
                new(Find: "tar-remover"),
                new(Goal: "protect"),
                new(From: TickingClock.Today.AddDays(-60), To: TickingClock.Today.AddDays(-30)),
                new(Who: "p-3"),
                new(Product: some),
                new(Skip: 400),
                .. LogbookSearch.Onlys.Select(o => new LogbookSearch(Only: o.Id)),
            ];
            foreach (var search in searches)
            {
                await log.FindAsync(search, Stop);
            }

            // What stands in every second job, and in the name of every eighth vehicle: as many are looked at as are shown.
            var common = seen.Commands.Count;
            foreach (var word in (string[])["plain-wash", "Tidewarden"])
            {
                (await log.FindAsync(new(Find: word), Stop)).Count.ShouldBe(LogbookSearch.Most + 1);
            }

            (await jobs.YardAsync(TickingClock.Today, JobStore.Stand.Done, "Tidewarden", stop: Stop)).Count.ShouldBe(JobStore.MostInYard);
            (await records.ClientsAsync("Tidewarden", stop: Stop)).Lines.Count.ShouldBe(ClientLine.Most);

            foreach (var (sql, parameters) in seen.Commands[common..])
            {
                var plan = await PlanOfAsync(connection, sql, parameters);
                Rows(plan).Max().ShouldBeLessThan(20 * LogbookSearch.Most, plan);
            }

            // Leafing on walks past the seven in eight that are not meant: what is asked there is what it finds.
            var asked = seen.Commands.Count;
            await LeafsAsItWouldInOneListAsync(connection, log, jobs);
            seen.Commands.RemoveRange(asked, seen.Commands.Count - asked);
            await log.DueAsync(TickingClock.Today, 6, Stop);
            await log.VehicleAsync(vehicle, Stop);
            var books = new BookStore(db, AppFixture.Clock);
            await books.DeedsAsync(job.Id, Stop);
            await books.WashedAsync(job.Id, TickingClock.Start.AddYears(-1), Stop);
            await books.LettersAsync(job.Id, Stop);

            var learning = new LearningStore(db, AppFixture.Clock);
            (await learning.ProductsAsync(Stop)).Count.ShouldBeGreaterThan(10);
            await learning.PacesAsync(Stop);
            await learning.AgreedAsync(Stop);

            seen.Commands.Count.ShouldBeGreaterThan(16);
            foreach (var (sql, parameters) in seen.Commands)
            {
                var plan = await PlanOfAsync(connection, sql, parameters);
                Regex
                    .Matches(plan, @"Seq Scan on (\w+)")
                    .Select(m => m.Groups[1].Value)
                    .ShouldNotContain(t => Growing.Contains(t), sql + plan);
                plan.ShouldNotContain("WindowAgg", customMessage: sql);
                Buffers(plan).ShouldBeLessThanOrEqualTo(MostBuffers, sql + plan);
                // For a bottle that never held anything the log would be walked back to its first page.
                (
                    sql.Contains("FROM kit", StringComparison.Ordinal) && plan.Contains("using ix_mixes_number", StringComparison.Ordinal)
                ).ShouldBeFalse(plan);
            }
        }
        finally
        {
            await db.Database.EnsureDeletedAsync(CancellationToken.None);
        }
    }

    /// <summary>The second page of what is found, against all of it put in order without looking in each place by itself.</summary>
    private static async Task LeafsAsItWouldInOneListAsync(string connection, LogbookStore log, JobStore jobs)
    {
        await using var db = AppFixture.NewContext(connection);
        var books = await db
            .Books.Where(b => b.Words.Contains("plain-wash"))
            .OrderByDescending(b => b.Day)
            .ThenByDescending(b => b.JobId)
            .Skip(LogbookSearch.Most)
            .Take(LogbookSearch.Most + 1)
            .Join(db.Jobs, b => b.JobId, j => j.Id, (_, j) => j.Number)
            .ToListAsync(Stop);
        var leaf = await log.FindAsync(new(Find: "plain-wash", Skip: LogbookSearch.Most), Stop);
        leaf.Select(l => l.Number).Order().ShouldBe(books.Order());

        var closed = await db
            .Jobs.Where(j => j.Station == "closed" && (j.Vehicle!.Name.Contains("Tidewarden") || j.Story.Contains("Tidewarden")))
            .OrderByDescending(j => j.Day)
            .ThenBy(j => j.UrgentSince == null)
            .ThenBy(j => j.UrgentSince)
            .ThenBy(j => j.Number)
            .Skip(JobStore.MostInYard)
            .Take(JobStore.MostInYard)
            .Select(j => j.Number)
            .ToListAsync(Stop);
        var page = await jobs.YardAsync(TickingClock.Today, JobStore.Stand.Done, "Tidewarden", JobStore.MostInYard, Stop);
        page.Select(l => l.Number).ShouldBe(closed);
    }

    /// <summary>Pages of 8 kB that one query may look at.</summary>
    private const int MostBuffers = 2000;

    /// <summary>Pages that PostgreSQL looked at, all of the query's parts together.</summary>
    private static int Buffers(string plan) =>
        Regex.Match(plan, "Buffers: shared([^\n]*)") is { Success: true } first
            ? Regex.Matches(first.Value, "(?:hit|read)=([0-9]+)").Sum(m => int.Parse(m.Groups[1].Value, CultureInfo.InvariantCulture))
            : 0;

    /// <summary>Rows that came out of each part of a query, all its turns together.</summary>
    private static IEnumerable<double> Rows(string plan) =>
        Regex
            .Matches(plan, @"actual rows=([0-9.]+) loops=([0-9]+)")
            .Select(m =>
                double.Parse(m.Groups[1].Value, CultureInfo.InvariantCulture) * int.Parse(m.Groups[2].Value, CultureInfo.InvariantCulture)
            );

    private static async Task<string> PlanOfAsync(string connection, string sql, IEnumerable<NpgsqlParameter> parameters)
    {
        await using var open = new NpgsqlConnection(connection);
        await open.OpenAsync(Stop);
        if (sql.Contains("ILIKE", StringComparison.Ordinal) || sql.Contains("= ANY (", StringComparison.Ordinal))
        {
            // Where half the rows are alike, or many are asked for at once, reading through is cheap, and right:
            // what is asked is whether an index would serve at all.
            await using var off = new NpgsqlCommand("SET enable_seqscan = off", open);
            await off.ExecuteNonQueryAsync(Stop);
        }

        await using var command = new NpgsqlCommand("EXPLAIN (ANALYZE, BUFFERS, TIMING OFF) " + sql, open);
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
