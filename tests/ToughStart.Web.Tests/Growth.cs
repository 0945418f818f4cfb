using Microsoft.EntityFrameworkCore;
using ToughStart.Data;

namespace ToughStart.Web.Tests;

/// <summary>Years of work, made in the database from what the demo has: closed jobs with surveys, plans, events, photos; mixes; a long shelf.</summary>
internal static class Growth
{
    /// <summary>Rows that new ones are made from, at most, of each table.</summary>
    private const int Patterns = 12;

    /// <summary>A UUID of version 7: as many minutes after 2020 as its place, the rest by its kind and place.</summary>
    private static string Id(string kind, string place = "i") =>
        $"(lpad(to_hex(1577836800000 + 60000::bigint * ({place})), 12, '0') || '7' || substr(md5('{kind}' || ({place})), 1, 3) "
        + $"|| 'a' || substr(md5('{kind}' || ({place})), 4, 15))::uuid";

    /// <param name="jobs">Closed jobs, each of its own client with its own vehicle, survey, plan and photo.</param>
    /// <param name="products">Bottles on the shelf, each counted once.</param>
    /// <param name="events">Observations, dealt out over the jobs.</param>
    public static async Task FillAsync(ToughStartContext db, int jobs, int products, int mixes, int events, CancellationToken stop)
    {
        db.Database.SetCommandTimeout(TimeSpan.FromMinutes(20));
        var (job, at) = (await db.Jobs.FirstAsync(stop), TickingClock.Start);
        db.AddRange(
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
                Number = 1,
                Kind = "seen",
                Body = "{}",
                Author = "tam",
                At = at,
            },
            new JobBook
            {
                JobId = job.Id,
                VehicleId = job.VehicleId,
                Day = TickingClock.Today,
                Goal = "wash",
                PlannedMinutes = 120,
                Minutes = 130,
                PlannedLitres = 200,
                Litres = 190,
                ProductMl = 300,
                Cost = 12,
                Words = "wash-neutral iron-remover neutral-shampoo",
                Body = "{\"strata\":[]}",
                Author = "tam",
                At = at,
            },
            new LoopLesson
            {
                JobId = job.Id,
                Agent = "iron-remover",
                Zone = "roof",
                Kind = "iron",
                Need = 0.7,
                PerRound = 0.45,
                Rounds = 2,
                Stopped = true,
                Spread = 0.2,
            },
            new PaceLesson
            {
                JobId = job.Id,
                Who = "tam",
                Stage = "iron",
                Seconds = 600,
                Norm = 500,
            },
            new HandWork
            {
                JobId = job.Id,
                Act = "Wipe",
                Zones = ["roof"],
                Author = "tam",
                At = at,
            },
            new Letter
            {
                JobId = job.Id,
                To = "a@example.org",
                Subject = "x",
                Words = "y",
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
        await db.SaveChangesAsync(stop);
        await CopyAsync("clients", jobs, $"'id', {Id("c")}, 'name', 'Client ' || i");
        await CopyAsync("client_vehicles", jobs, $"'id', {Id("v")}, 'client_id', {Id("c")}, 'plate', 'GR ' || i, 'plate_key', 'GR' || i");
        await CopyAsync(
            "jobs",
            jobs,
            $"'id', {Id("j")}, 'vehicle_id', {Id("v")}, 'number', 1000 + i, 'day', date '2026-11-01' - i / 8, 'station', 'closed', "
                + "'survey_revision', 1, 'plan_revision', 1"
        );
        await CopyAsync("surveys", jobs, $"'id', {Id("s")}, 'job_id', {Id("j")}, 'revision', 1");
        // What nobody opens any more is kept small.
        await CopyAsync(
            "plans",
            jobs,
            $"'id', {Id("d")}, 'job_id', {Id("j")}, 'body', jsonb_build_object(), 'survey', jsonb_build_object()"
        );
        await CopyAsync("photos", jobs, $"'id', {Id("f")}, 'job_id', {Id("j")}, 'jpeg', '', 'thumb', ''");
        await CopyAsync(
            "events",
            events,
            $"'id', {Id("e")}, 'job_id', {Id("j", $"1 + i % {jobs}")}, 'number', 1 + i / {jobs}, 'device', 'phone', 'seq', 1 + i / {jobs}"
        );
        await CopyAsync(
            "mixes",
            mixes,
            $"'id', {Id("m")}, 'number', 1000 + i, 'state', 'empty', 'at', timestamptz '2020-01-01' + i * interval '1 minute'"
        );
        await CopyAsync("products", products, $"'id', {Id("p")}, 'name', t.name || ' ' || i");
        await CopyAsync("stock_moves", products, $"'id', {Id("t")}, 'product_id', {Id("p")}");
        // Most vehicles come again within a year; one in fifty of them is overdue. One loop in thirty does not come off.
        await CopyAsync(
            "job_books",
            jobs,
            $"'job_id', {Id("j")}, 'vehicle_id', {Id("v")}, 'day', date '2026-11-01' - i / 8, 'due', date '2026-11-01' - i / 8 + 400 * (i % 50), "
                + "'goal', (ARRAY['wash', 'sale', 'protect', 'correct'])[1 + i % 4], 'dried', (i % 40 = 0)::int, "
                + "'words', t.words || CASE WHEN i % 300 = 0 THEN ' tar-remover declined' ELSE '' END || CASE i % 2 WHEN 0 THEN ' plain-wash' ELSE '' END"
        );
        await CopyAsync(
            "loop_lessons",
            2 * jobs,
            $"'id', {Id("l")}, 'job_id', {Id("j", $"1 + i % {jobs}")}, 'stopped', i % 30 > 0, 'product_id', {Id("p", $"1 + i % {products}")}"
        );
        await CopyAsync("pace_lessons", jobs, $"'job_id', {Id("j")}, 'who', 'p-' || i % 5");
        await CopyAsync("hand_work", jobs, $"'id', {Id("h")}, 'job_id', {Id("j")}");
        await CopyAsync("letters", jobs, $"'id', {Id("y")}, 'job_id', {Id("j")}");
        await db.Database.ExecuteSqlRawAsync("VACUUM ANALYZE", stop);

        async Task CopyAsync(string table, int rows, string with)
        {
            // What the database makes itself is left to it.
            var columns = await db
                .Database.SqlQuery<string>(
                    $"""
                    SELECT quote_ident(column_name) AS "Value" FROM information_schema.columns
                    WHERE table_name = {table} AND table_schema = 'public' AND is_generated = 'NEVER' AND is_identity = 'NO'
                    """
                )
                .ToListAsync(stop);
            var sql = $"""
                WITH pattern AS (SELECT array_agg(ctid) AS at FROM (SELECT ctid FROM {table} LIMIT {Patterns}) x)
                INSERT INTO {table} ({string.Join(", ", columns)}) SELECT {string.Join(", ", columns.Select(x => "r." + x))}
                FROM pattern, generate_series(1, {rows}) i
                JOIN LATERAL (SELECT (SELECT at[1 + i % cardinality(at)] FROM pattern) AS tid) one ON true
                JOIN {table} t ON t.ctid = one.tid,
                LATERAL jsonb_populate_record(t, jsonb_build_object({with})) r
                """;
            await db.Database.ExecuteSqlRawAsync(sql, stop);
        }
    }
}
