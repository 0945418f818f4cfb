using System.Text;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Running.Live;

namespace ToughStart.Data;

/// <summary>A plan somebody put in force, with the survey (shelf, kit and weather as they were) it was computed from.</summary>
/// <param name="Number">The last entry of the log it takes into account.</param>
public sealed record PlanOfRecord(int Revision, Plan Plan, Survey Survey, int SurveyRevision, int Number, string Author, DateTimeOffset At);

/// <summary>What became of one entry that was sent.</summary>
public enum Taken
{
    /// <summary>Written down.</summary>
    New,

    /// <summary>Its id stands in the log already: nothing changed.</summary>
    Known,

    /// <summary>Its id belongs to something else.</summary>
    Refused,
}

/// <summary>What became of what a phone sent.</summary>
/// <param name="Acks">Numbers of all that stands in the log.</param>
/// <param name="Aside">What can never stand there, and why.</param>
/// <param name="Want">Its own number from which the phone has to send again; null = none.</param>
/// <param name="Conflict">The phone's numbers are used by something else: it needs a new name.</param>
public sealed record Synced(
    IReadOnlyList<(string Id, int Number)> Acks,
    IReadOnlyList<(string Id, string Why)> Aside,
    int? Want,
    bool Conflict
);

/// <summary>Whose clock entries of logs are dated by.</summary>
/// <param name="OfDatabase">The database's, which several instances share; else the one that is handed in.</param>
public sealed record ServerTime(bool OfDatabase);

/// <summary>The plan of record and the append-only log of a run.</summary>
public sealed class RunStore(ToughStartContext db, ShelfStore shelf, TimeProvider time, ServerTime? server = null)
{
    /// <summary>One plan of a job by its revision; null when there is none that reads.</summary>
    public async Task<PlanOfRecord?> PlanAsync(Guid jobId, int revision, CancellationToken stop = default)
    {
        if (await db.Plans.AsNoTracking().FirstOrDefaultAsync(p => p.JobId == jobId && p.Revision == revision, stop) is not { } row)
        {
            return null;
        }

        // Plans older than plans of record came without their survey: what was saved then stands for it.
        var survey = row.Survey
            ?? await db
                .Surveys.AsNoTracking()
                .Where(s => s.JobId == jobId && s.Revision == row.SurveyRevision)
                .Select(s => s.Body)
                .FirstOrDefaultAsync(stop);
        return
            PlanFormat.Read(Encoding.UTF8.GetBytes(row.Body)).Value is { } plan
            && survey is not null
            && StoredSurvey.Read(Encoding.UTF8.GetBytes(survey)).Survey.Value is { } read
            ? new PlanOfRecord(row.Revision, plan, read, row.SurveyRevision, row.Events, row.Author, row.At)
            : null;
    }

    /// <summary>Revisions of the plans of a job that were in force, oldest first.</summary>
    public async Task<IReadOnlyList<int>> RevisionsAsync(Guid jobId, CancellationToken stop = default) =>
        await db.Plans.AsNoTracking().Where(p => p.JobId == jobId).OrderBy(p => p.Revision).Select(p => p.Revision).ToListAsync(stop);

    /// <summary>Puts a plan in force and puts its product by.</summary>
    /// <param name="over">Revision in force when it was looked at; null = none was.</param>
    /// <param name="survey">The survey it was computed from, shelf and kit included.</param>
    /// <returns>Its revision; null when somebody put another in force meanwhile, or the job is closed.</returns>
    public async Task<int?> AcceptAsync(
        Guid jobId,
        int? over,
        Plan plan,
        Survey survey,
        int surveyRevision,
        int number,
        string author,
        CancellationToken stop = default
    )
    {
        await using var tx = await db.Database.BeginTransactionAsync(stop);
        await db.Database.ExecuteSqlAsync($"SELECT 1 FROM jobs WHERE id = {jobId} FOR UPDATE", stop);
        var job = await db.Jobs.SingleAsync(j => j.Id == jobId, stop);
        if (job.PlanRevision != over || job.Station == "closed")
        {
            return null;
        }

        var revision = (await db.Plans.Where(p => p.JobId == jobId).MaxAsync(p => (int?)p.Revision, stop) ?? 0) + 1;
        db.Plans.Add(
            new PlanDocument
            {
                JobId = jobId,
                Revision = revision,
                SurveyRevision = surveyRevision,
                Events = number,
                SurveyHash = plan.SurveyHash,
                Body = Encoding.UTF8.GetString(PlanFormat.Write(plan)),
                Survey = Encoding.UTF8.GetString(SurveyFormat.Write(survey)),
                Author = author,
                At = time.GetUtcNow(),
            }
        );
        job.PlanRevision = revision;
        job.Station = job.Station is "intake" or "survey" ? "plan" : job.Station;
        await db.SaveChangesAsync(stop);
        await shelf.ReserveAsync(jobId, plan, stop);
        db.ChangeTracker.Clear();
        if (over is { } from && await StartedAsync(jobId, stop))
        {
            // The run goes on by it: phones hear of it by the log.
            var head = await LockAsync(jobId, stop);
            await InsertAsync(
                jobId,
                head,
                new LogEvent(Guid.CreateVersion7().ToString(), "", 0, "", 0, head.Number, from, author, LogKind.Replanned)
                {
                    Body = new LogBody
                    {
                        From = from,
                        Plan = revision,
                        UpTo = number,
                        Answer = "take",
                    },
                },
                stop
            );
            await NotifyAsync(jobId, head.Number + 1, stop);
        }

        await tx.CommitAsync(stop);
        return revision;
    }

    /// <summary>
    /// Appends entries the server writes for somebody, in their order; an id that stands there already changes nothing, however often or at once
    /// it is sent.
    /// </summary>
    /// <returns>What became of each.</returns>
    public async Task<IReadOnlyList<Taken>> AppendAsync(Guid jobId, IReadOnlyList<LogEvent> entries, CancellationToken stop = default)
    {
        await using var tx = await db.Database.BeginTransactionAsync(stop);
        var head = await LockAsync(jobId, stop);
        var taken = new List<Taken>();
        foreach (var e in entries)
        {
            var known = await KnownAsync(jobId, e.Id, stop);
            taken.Add(
                known is null ? Taken.New
                : known > 0 ? Taken.Known
                : Taken.Refused
            );
            if (known is null)
            {
                head = await InsertAsync(jobId, head, e, stop);
            }
        }

        if (taken.Contains(Taken.New))
        {
            await WorkBeginsAsync(jobId, stop);
            await NotifyAsync(jobId, head.Number, stop);
        }

        await tx.CommitAsync(stop);
        return taken;
    }

    /// <summary>
    /// Takes in what a phone made, by the phone's own order. It answers numbers for all that stands in the log, this time or before; what comes
    /// out of turn is not taken in, and asked for.
    /// </summary>
    /// <param name="gone">Numbers of the phone's own that will never come: they could not be read.</param>
    public async Task<Synced> SyncAsync(
        Guid jobId,
        string device,
        IReadOnlyList<LogEvent> entries,
        IReadOnlySet<int> gone,
        CancellationToken stop = default
    )
    {
        await using var tx = await db.Database.BeginTransactionAsync(stop);
        var head = await LockAsync(jobId, stop);
        var acks = new List<(string Id, int Number)>();
        var aside = new List<(string Id, string Why)>();
        var last = await db.Events.Where(e => e.JobId == jobId && e.Device == device && e.Seq > 0).MaxAsync(e => (int?)e.Seq, stop) ?? 0;
        int? want = null;
        var (conflict, began) = (false, head.Number);
        foreach (var e in entries)
        {
            while (gone.Contains(last + 1))
            {
                last++;
            }

            if (await KnownAsync(jobId, e.Id, stop) is { } known)
            {
                if (known > 0)
                {
                    acks.Add((e.Id, known));
                }
                else
                {
                    aside.Add((e.Id, "belongs to another job"));
                }
            }
            else if (e.Seq > last + 1)
            {
                want = last + 1;
                break;
            }
            else if (e.Seq <= last)
            {
                // Somebody's store was copied, or put back: two of one number would be told apart by nothing.
                conflict = true;
                break;
            }
            else
            {
                head = await InsertAsync(jobId, head, e, stop);
                acks.Add((e.Id, head.Number));
                last = e.Seq;
            }
        }

        if (head.Number > began)
        {
            await WorkBeginsAsync(jobId, stop);
            await NotifyAsync(jobId, head.Number, stop);
        }

        await tx.CommitAsync(stop);
        return new Synced(acks, aside, want, conflict);
    }

    /// <summary>Writes a decision, if it still may be taken when its turn has come.</summary>
    /// <param name="decide">Given the number of the last entry: the decision as it is written, or why it may not be taken.</param>
    /// <returns>Its number; or why it was not taken.</returns>
    public async Task<(int? Number, string? Why)> DecideAsync(
        Guid jobId,
        Guid id,
        Func<int, Task<(LogEvent? Entry, string? Why)>> decide,
        CancellationToken stop = default
    )
    {
        await using var tx = await Together.BeginAsync(db, stop);
        var head = await LockAsync(jobId, stop);
        if (await KnownAsync(jobId, id.ToString(), stop) is { } known)
        {
            return known > 0 ? (known, null) : (null, "its id belongs to another job");
        }

        var (entry, why) = await decide(head.Number);
        if (entry is null)
        {
            return (null, why);
        }

        head = await InsertAsync(jobId, head, entry with { Id = id.ToString(), After = head.Number }, stop);
        await NotifyAsync(jobId, head.Number, stop);
        await tx.CommitAsync(stop);
        return (head.Number, null);
    }

    /// <summary>The channel instances hear of new entries on: job and number.</summary>
    public const string Channel = "toughstart_log";

    /// <summary>Server time, ms: the database's clock where the shop's is the machine's, for several instances share it.</summary>
    public async Task<long> NowAsync(CancellationToken stop = default) =>
        server is { OfDatabase: true }
            ? (
                await db
                    .Database.SqlQuery<long>($"SELECT (extract(epoch from clock_timestamp()) * 1000)::bigint AS \"Value\"")
                    .ToListAsync(stop)
            )[0]
            : time.GetUtcNow().ToUnixTimeMilliseconds();

    /// <summary>The end of a log, under the lock on its job.</summary>
    private readonly record struct Head(int Number, long Received);

    private async Task<Head> LockAsync(Guid jobId, CancellationToken stop)
    {
        await db.Database.ExecuteSqlAsync($"SELECT 1 FROM jobs WHERE id = {jobId} FOR UPDATE", stop);
        var last = await db
            .Events.AsNoTracking()
            .Where(e => e.JobId == jobId)
            .OrderByDescending(e => e.Number)
            .Select(e => new { e.Number, e.At })
            .FirstOrDefaultAsync(stop);
        return last is null ? new Head(0, 0) : new Head(last.Number, last.At.ToUnixTimeMilliseconds());
    }

    /// <summary>The number of an entry; 0 = it is another job's; null = nobody has it.</summary>
    private async Task<int?> KnownAsync(Guid jobId, string id, CancellationToken stop) =>
        await db
            .Events.AsNoTracking()
            .Where(e => e.Id == Guid.Parse(id))
            .Select(e => (int?)(e.JobId == jobId ? e.Number : 0))
            .FirstOrDefaultAsync(stop);

    private async Task<Head> InsertAsync(Guid jobId, Head head, LogEvent e, CancellationToken stop)
    {
        // The database's clock may be set back; the log's never is.
        var received = Math.Max(await NowAsync(stop), head.Received);
        var when = Timing.Decided(received);
        if (e.Seq > 0)
        {
            var knew = await db
                .Events.AsNoTracking()
                .Where(x => x.JobId == jobId && x.Number == e.After)
                .Select(x => (DateTimeOffset?)x.At)
                .FirstOrDefaultAsync(stop);
            var before = await db
                .Events.AsNoTracking()
                .Where(x => x.JobId == jobId && x.Device == e.Device && x.Seq > 0)
                .OrderByDescending(x => x.Seq)
                .Select(x => new
                {
                    x.WhenAt,
                    x.WhenLo,
                    x.WhenHi,
                })
                .FirstOrDefaultAsync(stop);
            (when, _) = Timing.Place(
                e.When,
                knew?.ToUnixTimeMilliseconds() ?? 0,
                before is null ? null : new Moment(before.WhenAt, before.WhenLo, before.WhenHi),
                received
            );
        }

        var entry = e with
        {
            Number = head.Number + 1,
            Received = received,
            // Nobody has seen what is not there.
            After = Math.Min(e.After, head.Number),
            When = when,
        };
        var back = e.Kind == LogKind.Undone ? await PouredAsync(jobId, entry, stop) : null;
        db.Events.Add(RowOf(jobId, entry));
        await db.SaveChangesAsync(stop);
        db.ChangeTracker.Clear();
        if (back is { } poured)
        {
            await db.Database.ExecuteSqlAsync(
                $"""
                UPDATE mixes SET left_ml = LEAST(product_ml + water_ml, left_ml + {poured.Neat} / fraction::numeric)
                WHERE number = {poured.Mix} AND state = 'in-use' AND fraction > 0
                """,
                stop
            );
        }

        if (e.Body is { Mix: { } mix, Ml: > 0 and var neat })
        {
            // What is poured leaves the mixed bottle as it is poured; the product left the shelf when it was mixed.
            await db.Database.ExecuteSqlAsync(
                $"""
                UPDATE mixes SET left_ml = GREATEST(0, left_ml - {neat} / fraction::numeric)
                WHERE number = {mix} AND state = 'in-use' AND fraction > 0
                """,
                stop
            );
        }

        return new Head(head.Number + 1, received);
    }

    /// <summary>What an entry poured from a mixed bottle that is now taken back for good; null = nothing, or it is not taken back.</summary>
    private async Task<(int Mix, int Neat)?> PouredAsync(Guid jobId, LogEvent undone, CancellationToken stop)
    {
        var state = (await LogAsync(jobId, 0, int.MaxValue, stop)).Aggregate(LiveState.Start, Live.Reduce);
        return
            Live.NotUndone(state, undone) is null
            && undone.Body.Of is [var id]
            && state.Entries.GetValueOrDefault(id)?.Body is { Mix: { } mix, Ml: > 0 and var neat }
            ? (mix, neat)
            : null;
    }

    /// <summary>A late result is kept, but it does not open a closed job again: its materials are booked.</summary>
    private Task<int> WorkBeginsAsync(Guid jobId, CancellationToken stop) =>
        db
            .Jobs.Where(j => j.Id == jobId && j.Station != "closed" && j.Station != "bay")
            .ExecuteUpdateAsync(s => s.SetProperty(j => j.Station, "bay"), stop);

    private Task<int> NotifyAsync(Guid jobId, int number, CancellationToken stop) =>
        db.Database.ExecuteSqlAsync($"SELECT pg_notify({Channel}, {$"{jobId}:{number}"})", stop);

    /// <summary>A job in work that is done as planned waits to be inspected; one that is not, is in work.</summary>
    public async Task WorkedAsync(Guid jobId, bool done, CancellationToken stop = default)
    {
        var (from, to) = done ? ("bay", "inspect") : ("inspect", "bay");
        await db.Jobs.Where(j => j.Id == jobId && j.Station == from).ExecuteUpdateAsync(s => s.SetProperty(j => j.Station, to), stop);
    }

    /// <summary>What somebody said at the gate, by number of its entry: who, and why.</summary>
    public async Task<IReadOnlyDictionary<int, (string Who, string Reason)>> JudgedAsync(Guid jobId, CancellationToken stop = default) =>
        (
            await db
                .Events.AsNoTracking()
                .Where(e => e.JobId == jobId && e.Kind == LogKind.Judged.Word())
                .OrderBy(e => e.Number)
                .ToListAsync(stop)
        )
            .Select(Entry)
            .ToDictionary(e => e.Number, e => (e.Who, e.Body.Reason ?? ""));

    /// <summary>A phone was heard: written down, though not at every breath.</summary>
    public Task HeardAsync(Guid jobId, string device, string who, CancellationToken stop = default)
    {
        var now = time.GetUtcNow();
        return db.Database.ExecuteSqlAsync(
            $"""
            INSERT INTO bay_phones (job_id, device, who, heard) VALUES ({jobId}, {device}, {who}, {now})
            ON CONFLICT (job_id, device) DO UPDATE SET who = EXCLUDED.who, heard = EXCLUDED.heard
            WHERE bay_phones.who <> EXCLUDED.who OR bay_phones.heard < EXCLUDED.heard - interval '5 seconds'
            """,
            stop
        );
    }

    /// <summary>Phones that worked a job, one a person: the one that was heard last.</summary>
    public async Task<IReadOnlyList<BayPhone>> PhonesAsync(Guid jobId, CancellationToken stop = default) =>
        [
            .. (await db.Phones.AsNoTracking().Where(p => p.JobId == jobId).OrderByDescending(p => p.Heard).Take(50).ToListAsync(stop))
                .DistinctBy(p => p.Who)
                .OrderBy(p => p.Who, StringComparer.Ordinal),
        ];

    /// <summary>The log of a job by number.</summary>
    /// <param name="after">Number after which it is wanted; 0 = all of it.</param>
    public async Task<IReadOnlyList<LogEvent>> LogAsync(
        Guid jobId,
        int after = 0,
        int most = int.MaxValue,
        CancellationToken stop = default
    ) =>
        [
            .. (
                await db
                    .Events.AsNoTracking()
                    .Where(e => e.JobId == jobId && e.Number > after)
                    .OrderBy(e => e.Number)
                    .Take(most)
                    .ToListAsync(stop)
            ).Select(Entry),
        ];

    /// <summary>
    /// Puts back entries that were written out, as they were: number, times and all. What stands there already changes nothing; what would leave a
    /// gap or take another's number is refused.
    /// </summary>
    /// <returns>What became of each, and why where it was refused.</returns>
    public async Task<IReadOnlyList<(Taken Taken, string? Why)>> RestoreAsync(
        Guid jobId,
        IReadOnlyList<LogEvent> entries,
        CancellationToken stop = default
    )
    {
        await using var tx = await db.Database.BeginTransactionAsync(stop);
        var head = await LockAsync(jobId, stop);
        var answers = new List<(Taken, string?)>();
        foreach (var e in entries)
        {
            if (!Guid.TryParse(e.Id, out _))
            {
                answers.Add((Taken.Refused, "id: is none that a log has"));
            }
            else if (await KnownAsync(jobId, e.Id, stop) is { } known)
            {
                answers.Add(
                    known == 0 ? (Taken.Refused, "id: belongs to another job")
                    : known != e.Number ? (Taken.Refused, $"number: stands there as {known}")
                    : (Taken.Known, null)
                );
            }
            else if (e.Number != head.Number + 1)
            {
                answers.Add(
                    (
                        Taken.Refused,
                        e.Number <= head.Number
                            ? $"number: {e.Number} is another entry's"
                            : $"number: {head.Number + 1} to {e.Number - 1} are missing before it"
                    )
                );
            }
            else
            {
                db.Events.Add(RowOf(jobId, e));
                await db.SaveChangesAsync(stop);
                db.ChangeTracker.Clear();
                head = new Head(e.Number, e.Received);
                answers.Add((Taken.New, null));
            }
        }

        await tx.CommitAsync(stop);
        return answers;
    }

    private static RunEvent RowOf(Guid jobId, LogEvent e) =>
        new()
        {
            Id = Guid.Parse(e.Id),
            JobId = jobId,
            Number = e.Number,
            PlanRevision = e.Plan,
            Kind = e.Kind.Word(),
            Body = Encoding.UTF8.GetString(LogFormat.Write(e.Body)),
            Author = e.Who,
            At = DateTimeOffset.FromUnixTimeMilliseconds(e.Received),
            Device = e.Device,
            Seq = e.Seq,
            Epoch = e.Epoch,
            Mono = e.Mono,
            After = e.After,
            WhenAt = e.When.At,
            WhenLo = e.When.Lo,
            WhenHi = e.When.Hi,
            ByOwner = e.ByOwner,
        };

    /// <summary>Revision of the plan in force; null = none is.</summary>
    public Task<int?> PlanInForceAsync(Guid jobId, CancellationToken stop = default) =>
        db.Jobs.AsNoTracking().Where(j => j.Id == jobId).Select(j => j.PlanRevision).FirstOrDefaultAsync(stop);

    /// <summary>Has the run begun?</summary>
    public Task<bool> StartedAsync(Guid jobId, CancellationToken stop = default) =>
        db.Events.AnyAsync(e => e.JobId == jobId && e.Kind == LogKind.Started.Word(), stop);

    /// <summary>The id of an entry by its number; null = there is none.</summary>
    public async Task<Guid?> IdAsync(Guid jobId, int number, CancellationToken stop = default) =>
        await db
            .Events.AsNoTracking()
            .Where(e => e.JobId == jobId && e.Number == number)
            .Select(e => (Guid?)e.Id)
            .FirstOrDefaultAsync(stop);

    private static LogEvent Entry(RunEvent e) =>
        new(
            e.Id.ToString(),
            e.Device,
            e.Seq,
            e.Epoch,
            e.Mono,
            e.After,
            e.PlanRevision,
            e.Author,
            Enum.Parse<LogKind>(e.Kind, ignoreCase: true)
        )
        {
            Body = LogFormat.ReadBody(JsonDocument.Parse(e.Body).RootElement),
            When = new Moment(e.WhenAt, e.WhenLo, e.WhenHi),
            Number = e.Number,
            Received = e.At.ToUnixTimeMilliseconds(),
            ByOwner = e.ByOwner,
        };
}
