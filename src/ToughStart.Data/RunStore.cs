using System.Text;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Running;

namespace ToughStart.Data;

/// <summary>A plan somebody put in force, with the survey (shelf, kit and weather as they were) it was computed from.</summary>
/// <param name="Sequence">The last event it takes into account.</param>
public sealed record PlanOfRecord(
    int Revision,
    Plan Plan,
    Survey Survey,
    int SurveyRevision,
    long Sequence,
    string Author,
    DateTimeOffset At
);

/// <summary>An observation as it stands in the log.</summary>
public sealed record Logged(long Sequence, Observation Observation, string Author, DateTimeOffset At);

/// <summary>What became of one observation that was sent.</summary>
public enum Taken
{
    /// <summary>Written down.</summary>
    New,

    /// <summary>Its id stands in the log already: nothing changed.</summary>
    Known,

    /// <summary>Its id belongs to something else.</summary>
    Refused,
}

/// <summary>The plan of record and the append-only log of a run.</summary>
public sealed class RunStore(ToughStartContext db, ShelfStore shelf, TimeProvider time)
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
        long sequence,
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
                Events = sequence,
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
        await tx.CommitAsync(stop);
        db.ChangeTracker.Clear();
        return revision;
    }

    /// <summary>Appends observations in their order; an id that stands there already changes nothing, however often or at once it is sent.</summary>
    /// <returns>What became of each.</returns>
    public async Task<IReadOnlyList<Taken>> AppendAsync(
        Guid jobId,
        IReadOnlyList<Observation> observations,
        string author,
        CancellationToken stop = default
    )
    {
        await using var tx = await db.Database.BeginTransactionAsync(stop);
        await db.Database.ExecuteSqlAsync($"SELECT 1 FROM jobs WHERE id = {jobId} FOR UPDATE", stop);
        var revision = await db.Jobs.Where(j => j.Id == jobId).Select(j => j.SurveyRevision).SingleAsync(stop);
        var taken = new List<Taken>();
        foreach (var o in observations)
        {
            var (body, now) = (JsonSerializer.Serialize(o, JsonSerializerOptions.Web), time.GetUtcNow());
            var written = await db.Database.ExecuteSqlAsync(
                $"INSERT INTO events (id, job_id, survey_revision, plan_revision, body, author, at) VALUES ({o.Id}, {jobId}, {revision}, {o.Plan ?? 0}, {body}::jsonb, {author}, {now}) ON CONFLICT (id) DO NOTHING",
                stop
            );
            taken.Add(
                written == 1 ? Taken.New
                : await db.Events.AnyAsync(e => e.Id == o.Id && e.JobId == jobId, stop) ? Taken.Known
                : Taken.Refused
            );
        }

        if (taken.Contains(Taken.New))
        {
            // A late result is kept, but it does not open a closed job again: its materials are booked.
            await db
                .Jobs.Where(j => j.Id == jobId && j.Station != "closed")
                .ExecuteUpdateAsync(s => s.SetProperty(j => j.Station, "bay"), stop);
        }

        await tx.CommitAsync(stop);
        return taken;
    }

    /// <summary>A job in work that is done as planned waits to be inspected; one that is not, is in work.</summary>
    public async Task WorkedAsync(Guid jobId, bool done, CancellationToken stop = default)
    {
        var (from, to) = done ? ("bay", "inspect") : ("inspect", "bay");
        await db.Jobs.Where(j => j.Id == jobId && j.Station == from).ExecuteUpdateAsync(s => s.SetProperty(j => j.Station, to), stop);
    }

    /// <summary>The log of a job in the order it was written down.</summary>
    /// <param name="after">Sequence after which it is wanted; 0 = all of it.</param>
    public async Task<IReadOnlyList<Logged>> LogAsync(Guid jobId, long after = 0, CancellationToken stop = default)
    {
        var rows = await db
            .Events.AsNoTracking()
            .Where(e => e.JobId == jobId && e.Sequence > after)
            .OrderBy(e => e.Sequence)
            .Select(e => new
            {
                e.Sequence,
                e.PlanRevision,
                e.Body,
                e.Author,
                e.At,
            })
            .ToListAsync(stop);
        return rows.Select(r => new Logged(
                r.Sequence,
                JsonSerializer.Deserialize<Observation>(r.Body, JsonSerializerOptions.Web)! with
                {
                    Plan = r.PlanRevision == 0 ? null : r.PlanRevision,
                },
                r.Author,
                r.At
            ))
            .ToArray();
    }
}
