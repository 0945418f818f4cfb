using System.Text;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Npgsql;
using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Running;

namespace ToughStart.Data;

/// <summary>One line of the Yard.</summary>
public sealed record JobLine(int Number, string Vehicle, string Plate, string Client, string Story, string Station, DateOnly Day, int SurveyRevision, DateTimeOffset? UrgentSince, string? Survey);

/// <summary>A job with its newest survey.</summary>
public sealed record JobView(Guid Id, int Number, string Vehicle, string Plate, string Client, string Story, string Station, DateOnly Day, Survey Survey, int Revision, string SavedBy, DateTimeOffset SavedAt);

/// <summary>The answer to saving a survey: saved (perhaps merged with what others saved meanwhile), or the places where both changed the same.</summary>
/// <param name="Now">What stands in the database after the call; when not saved, the merge with theirs standing in the conflicts.</param>
public sealed record SaveResult(bool Saved, int Revision, Survey Now, IReadOnlyList<string> FromThem, IReadOnlyList<string> Conflicts, Survey? Theirs, string? TheirAuthor, DateTimeOffset? TheirTime);

/// <summary>Jobs, their surveys, plans and run events, as queries shaped like the screens that use them.</summary>
public sealed class JobStore(ToughStartContext db, TimeProvider time)
{
    /// <summary>Jobs from a day on; within a day those whose marks etch come first, longest clock first.</summary>
    public async Task<IReadOnlyList<JobLine>> YardAsync(DateOnly from, CancellationToken stop = default) =>
        await db.Jobs.AsNoTracking().Where(j => j.Day >= from).OrderBy(j => j.Day).ThenBy(j => j.UrgentSince == null).ThenBy(j => j.UrgentSince).ThenBy(j => j.Number).Take(60)
            .Select(j => new JobLine(
                j.Number, j.Vehicle!.Name, j.Vehicle.Plate, j.Vehicle.Client!.Name, j.Story, j.Station, j.Day, j.SurveyRevision, j.UrgentSince,
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
    /// Saves a survey made from a revision. What others saved since is merged zone by zone; where both changed the same place
    /// nothing is written and both versions are handed back.
    /// </summary>
    /// <exception cref="InvalidOperationException">The revision it was made from does not exist.</exception>
    public async Task<SaveResult> SaveSurveyAsync(Guid jobId, int onRevision, Survey survey, string author, CancellationToken stop = default)
    {
        for (var attempt = 0; ; attempt++)
        {
            var job = await db.Jobs.SingleAsync(j => j.Id == jobId, stop);
            var (mine, fromThem) = (survey, (IReadOnlyList<string>)[]);
            if (job.SurveyRevision != onRevision)
            {
                var theirs = await db.Surveys.AsNoTracking().SingleAsync(s => s.JobId == jobId && s.Revision == job.SurveyRevision, stop);
                var start = await db.Surveys.AsNoTracking().FirstOrDefaultAsync(s => s.JobId == jobId && s.Revision == onRevision, stop)
                    ?? throw new InvalidOperationException($"there is no revision {onRevision}");
                var merge = SurveyMerge.ThreeWay(Parse(start.Body), survey, Parse(theirs.Body));
                if (merge.Conflicts.Count > 0)
                {
                    return new SaveResult(false, theirs.Revision, merge.Merged, merge.FromThem, merge.Conflicts.Select(c => c.What).ToArray(), Parse(theirs.Body), theirs.Author, theirs.At);
                }

                (mine, fromThem) = (merge.Merged, merge.FromThem);
            }

            var revision = job.SurveyRevision + 1;
            mine = mine with { Id = $"job-{job.Number}", Revision = revision };
            db.Surveys.Add(new SurveyDocument { JobId = jobId, Revision = revision, Body = Body(mine), Author = author, At = time.GetUtcNow() });
            job.SurveyRevision = revision;
            job.Station = job.Station == "intake" ? "survey" : job.Station;
            job.UrgentSince = Urgency.Etching(mine) ? job.UrgentSince ?? time.GetUtcNow() : null;
            try
            {
                await db.SaveChangesAsync(stop);
                return new SaveResult(true, revision, mine, fromThem, [], null, null, null);
            }
            catch (DbUpdateException e) when (attempt < 8 && (e is DbUpdateConcurrencyException || e.InnerException is PostgresException { SqlState: PostgresErrorCodes.UniqueViolation }))
            {
                // Somebody was faster: merge with what stands there now.
                db.ChangeTracker.Clear();
            }
        }
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
