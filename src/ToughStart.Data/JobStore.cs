using System.Text;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Npgsql;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Running;

namespace ToughStart.Data;

/// <summary>One line of the Yard.</summary>
public sealed record JobLine(int Number, string Vehicle, string Plate, string Client, string Story, string Station, DateOnly Day, int SurveyRevision, string? Survey);

/// <summary>A job with its newest survey.</summary>
public sealed record JobView(Guid Id, int Number, string Vehicle, string Plate, string Client, string Story, string Station, DateOnly Day, Survey Survey, int Revision, string SavedBy, DateTimeOffset SavedAt);

/// <summary>The answer to saving a survey: saved, or what stands there now.</summary>
public sealed record SaveResult(bool Saved, int Revision, Survey? Theirs, string? TheirAuthor, DateTimeOffset? TheirTime);

/// <summary>Jobs, their surveys, plans and run events, as queries shaped like the screens that use them.</summary>
public sealed class JobStore(ToughStartContext db, TimeProvider time)
{
    public async Task<IReadOnlyList<JobLine>> YardAsync(CancellationToken stop = default) =>
        await db.Jobs.AsNoTracking().OrderBy(j => j.Day).ThenBy(j => j.Number).Take(200)
            .Select(j => new JobLine(
                j.Number, j.Vehicle!.Name, j.Vehicle.Plate, j.Vehicle.Client!.Name, j.Story, j.Station, j.Day, j.SurveyRevision,
                db.Surveys.Where(s => s.JobId == j.Id && s.Revision == j.SurveyRevision).Select(s => s.Body).FirstOrDefault()))
            .ToListAsync(stop);

    public async Task<JobView?> JobAsync(int number, CancellationToken stop = default)
    {
        var row = await db.Jobs.AsNoTracking().Where(j => j.Number == number)
            .Select(j => new { Job = j, j.Vehicle!.Name, j.Vehicle.Plate, Client = j.Vehicle.Client!.Name, Doc = db.Surveys.FirstOrDefault(s => s.JobId == j.Id && s.Revision == j.SurveyRevision) })
            .FirstOrDefaultAsync(stop);
        return row?.Doc is null ? null : new JobView(
            row.Job.Id, row.Job.Number, row.Name, row.Plate, row.Client, row.Job.Story, row.Job.Station, row.Job.Day,
            Parse(row.Doc.Body), row.Doc.Revision, row.Doc.Author, row.Doc.At);
    }

    /// <summary>
    /// Saves a survey on top of a revision. If another was saved meanwhile nothing is written and theirs is handed back, so that
    /// both can be shown.
    /// </summary>
    public async Task<SaveResult> SaveSurveyAsync(Guid jobId, int onRevision, Survey survey, string author, CancellationToken stop = default)
    {
        var job = await db.Jobs.SingleAsync(j => j.Id == jobId, stop);
        if (job.SurveyRevision == onRevision)
        {
            db.Surveys.Add(new SurveyDocument { JobId = jobId, Revision = onRevision + 1, Body = Body(survey with { Id = $"job-{job.Number}", Revision = onRevision + 1 }), Author = author, At = time.GetUtcNow() });
            job.SurveyRevision = onRevision + 1;
            job.Station = job.Station == "intake" ? "survey" : job.Station;
            try
            {
                await db.SaveChangesAsync(stop);
                return new SaveResult(true, onRevision + 1, null, null, null);
            }
            catch (DbUpdateException e) when (e is DbUpdateConcurrencyException || e.InnerException is PostgresException { SqlState: PostgresErrorCodes.UniqueViolation })
            {
                db.ChangeTracker.Clear();
            }
        }

        var theirs = await db.Surveys.AsNoTracking().Where(s => s.JobId == jobId).OrderByDescending(s => s.Revision).FirstAsync(stop);
        return new SaveResult(false, theirs.Revision, Parse(theirs.Body), theirs.Author, theirs.At);
    }

    /// <summary>Keeps a computed plan; the same survey revision and events are kept once.</summary>
    public async Task KeepPlanAsync(Guid jobId, int surveyRevision, int events, Plan plan, string author, CancellationToken stop = default)
    {
        if (await db.Plans.AnyAsync(p => p.JobId == jobId && p.SurveyRevision == surveyRevision && p.Events == events, stop))
        {
            return;
        }

        var revision = (await db.Plans.Where(p => p.JobId == jobId).MaxAsync(p => (int?)p.Revision, stop) ?? 0) + 1;
        db.Plans.Add(new PlanDocument { JobId = jobId, Revision = revision, SurveyRevision = surveyRevision, Events = events, Body = Encoding.UTF8.GetString(PlanFormat.Write(plan)), Author = author, At = time.GetUtcNow() });
        try
        {
            await db.SaveChangesAsync(stop);
        }
        catch (DbUpdateException e) when (e.InnerException is PostgresException { SqlState: PostgresErrorCodes.UniqueViolation })
        {
            // Another request kept the same plan first.
            db.ChangeTracker.Clear();
        }
    }

    /// <summary>Appends observations; ids that are already there change nothing. Returns how many are new.</summary>
    public async Task<int> AppendAsync(Guid jobId, int surveyRevision, IReadOnlyList<Observation> observations, string author, CancellationToken stop = default)
    {
        var ids = observations.Select(o => o.Id).ToArray();
        var known = await db.Events.Where(e => ids.Contains(e.Id)).Select(e => e.Id).ToListAsync(stop);
        var fresh = observations.Where(o => !known.Contains(o.Id)).ToArray();
        foreach (var o in fresh)
        {
            db.Events.Add(new RunEvent { Id = o.Id, JobId = jobId, SurveyRevision = surveyRevision, Body = JsonSerializer.Serialize(o, JsonSerializerOptions.Web), Author = author, At = time.GetUtcNow() });
        }

        var job = await db.Jobs.SingleAsync(j => j.Id == jobId, stop);
        job.Station = fresh.Length > 0 ? "bay" : job.Station;
        await db.SaveChangesAsync(stop);
        return fresh.Length;
    }

    /// <summary>What was observed on this survey revision, in the order it was recorded.</summary>
    public async Task<IReadOnlyList<Observation>> ObservationsAsync(Guid jobId, int surveyRevision, CancellationToken stop = default)
    {
        var bodies = await db.Events.AsNoTracking().Where(e => e.JobId == jobId && e.SurveyRevision == surveyRevision).OrderBy(e => e.Sequence).Select(e => e.Body).ToListAsync(stop);
        return bodies.Select(b => JsonSerializer.Deserialize<Observation>(b, JsonSerializerOptions.Web)!).ToArray();
    }

    private static string Body(Survey survey) => Encoding.UTF8.GetString(SurveyFormat.Write(survey));

    private static Survey Parse(string body)
    {
        var read = SurveyFormat.Read(Encoding.UTF8.GetBytes(body));
        return read.Value ?? throw new InvalidDataException("a stored survey does not read: " + string.Join("; ", read.Problems));
    }
}
