using System.Text;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Caching.Memory;
using Npgsql;
using ToughStart.Core.Conditions;
using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;

namespace ToughStart.Data;

/// <summary>One line of the Yard.</summary>
public sealed record JobLine(
    Guid Id,
    int Number,
    string Vehicle,
    string Plate,
    string Client,
    string Story,
    string Station,
    DateOnly Day,
    int SurveyRevision,
    DateTimeOffset? UrgentSince,
    string? Survey,
    int? PlanRevision = null
)
{
    /// <summary>By when the client was told it is done.</summary>
    public DateTimeOffset? PromisedAt { get; init; }

    /// <summary>When somebody set it to begin, among the days ahead.</summary>
    public DateTimeOffset? BeginsAt { get; init; }
}

/// <summary>A job with its newest survey.</summary>
public sealed record JobView(
    Guid Id,
    int Number,
    string Vehicle,
    string Plate,
    string Client,
    string Story,
    string Station,
    DateOnly Day,
    Survey Survey,
    int Revision,
    string SavedBy,
    DateTimeOffset SavedAt
)
{
    /// <summary>Revision of the plan in force; null while there is none.</summary>
    public int? PlanRevision { get; init; }
}

/// <summary>Who brought what.</summary>
public sealed record Contact(string Client, string? Phone, string? Email, string Vehicle, string Plate);

/// <summary>The answer to saving a survey: saved (perhaps merged with what others saved meanwhile), or the places where both changed the same.</summary>
/// <param name="Now">What stands in the database after the call; when not saved, the merge with theirs standing in the conflicts.</param>
public sealed record SaveResult(
    bool Saved,
    int Revision,
    Survey Now,
    IReadOnlyList<string> FromThem,
    IReadOnlyList<string> Conflicts,
    Survey? Theirs,
    string? TheirAuthor,
    DateTimeOffset? TheirTime
);

/// <summary>The job is closed: what was done is booked, and nothing more is written to it until an owner opens it again.</summary>
public sealed class ClosedJobException(int number) : Exception($"job {number} is closed")
{
    public int Number { get; } = number;
}

/// <summary>Jobs and their surveys, as queries shaped like the screens that use them.</summary>
public sealed class JobStore(ToughStartContext db, TimeProvider time)
{
    /// <summary>Vehicles shown in the Yard at once.</summary>
    public const int MostInYard = 30;

    /// <summary>How far work on a job has come, as the Yard sorts it.</summary>
    public enum Stand
    {
        /// <summary>Everything that is not done.</summary>
        Open,
        Waiting,
        InWork,
        ToInspect,
        Done,
    }

    /// <summary>
    /// A page of the Yard: today's and coming jobs first, then what is still open from earlier days, newest first; done jobs newest first.
    /// Within a day those whose marks etch come first, longest clock first.
    /// </summary>
    /// <param name="find">Part of vehicle, registration, client or story, or a job's number; null = all.</param>
    /// <param name="skip">Jobs to pass over, 0 or more.</param>
    /// <returns>At most <see cref="MostInYard"/> jobs.</returns>
    public async Task<IReadOnlyList<JobLine>> YardAsync(
        DateOnly today,
        Stand stand = Stand.Open,
        string? find = null,
        int skip = 0,
        CancellationToken stop = default
    )
    {
        var jobs = db.Jobs.AsNoTracking().Where(j => j.SurveyRevision > 0);
        jobs = stand switch
        {
            Stand.Open => jobs.Where(j => j.Station != "closed"),
            Stand.Waiting => jobs.Where(j => j.Station == "intake" || j.Station == "survey" || j.Station == "plan"),
            Stand.InWork => jobs.Where(j => j.Station == "bay"),
            Stand.ToInspect => jobs.Where(j => j.Station == "inspect"),
            _ => jobs.Where(j => j.Station == "closed"),
        };
        skip = Math.Max(0, skip);
        if (stand == Stand.Done)
        {
            return await LinesAsync(jobs, find, true, skip, MostInYard, stop);
        }

        // Two walks along the index of days: from today on, then back from yesterday.
        var ahead = jobs.Where(j => j.Day >= today);
        var coming = await LinesAsync(ahead, find, false, skip, MostInYard, stop);
        if (coming.Count == MostInYard)
        {
            return coming;
        }

        var passed = skip == 0 ? 0 : Math.Max(0, skip - await Found(ahead, find).CountAsync(stop));
        return [.. coming, .. await LinesAsync(jobs.Where(j => j.Day < today), find, true, passed, MostInYard - coming.Count, stop)];
    }

    private async Task<List<JobLine>> LinesAsync(
        IQueryable<Job> jobs,
        string? find,
        bool newestFirst,
        int skip,
        int take,
        CancellationToken stop
    )
    {
        IQueryable<Job> InOrder(IQueryable<Job> some) =>
            (newestFirst ? some.OrderByDescending(j => j.Day) : some.OrderBy(j => j.Day))
                .ThenBy(j => j.UrgentSince == null)
                .ThenBy(j => j.UrgentSince)
                .ThenBy(j => j.Number);
        return await InOrder(Found(jobs, find, some => InOrder(some).Take(skip + take)))
            .Skip(skip)
            .Take(take)
            .Select(j => new JobLine(
                j.Id,
                j.Number,
                j.Vehicle!.Name,
                j.Vehicle.Plate,
                j.Vehicle.Client!.Name,
                j.Story,
                j.Station,
                j.Day,
                j.SurveyRevision,
                j.UrgentSince,
                db.Surveys.Where(s => s.JobId == j.Id && s.Revision == j.SurveyRevision).Select(s => s.Body).FirstOrDefault(),
                j.PlanRevision
            )
            {
                PromisedAt = j.PromisedAt,
                BeginsAt = j.BeginsAt,
            })
            .ToListAsync(stop);
    }

    /// <summary>Keeps by when a job is promised; null = it no longer is.</summary>
    /// <param name="seen">What was promised when somebody looked.</param>
    /// <returns>Was it kept? Else somebody else was first.</returns>
    public async Task<bool> PromiseAsync(int number, DateTimeOffset? seen, DateTimeOffset? at, CancellationToken stop = default) =>
        await db
            .Jobs.Where(j => j.Number == number && j.PromisedAt == seen)
            .ExecuteUpdateAsync(s => s.SetProperty(j => j.PromisedAt, at), stop) == 1;

    /// <summary>Keeps when a job is set to begin; null = as it comes.</summary>
    /// <param name="seen">What was set when somebody looked.</param>
    /// <returns>Was it kept? Else somebody else was first.</returns>
    public async Task<bool> BeginAsync(int number, DateTimeOffset? seen, DateTimeOffset? at, CancellationToken stop = default) =>
        await db.Jobs.Where(j => j.Number == number && j.BeginsAt == seen).ExecuteUpdateAsync(s => s.SetProperty(j => j.BeginsAt, at), stop)
        == 1;

    /// <summary>Jobs of the archive that are counted; more are only said to be more.</summary>
    public const int MostCounted = 1000;

    /// <summary>How many jobs stand at each station; of closed ones no more than <see cref="MostCounted"/> are counted.</summary>
    public async Task<IReadOnlyDictionary<string, int>> StationsAsync(string? find = null, CancellationToken stop = default)
    {
        var jobs = db.Jobs.AsNoTracking();
        var counts = await Found(jobs.Where(j => j.Station != "closed"), find)
            .GroupBy(j => j.Station)
            .Select(g => new { g.Key, Count = g.Count() })
            .ToDictionaryAsync(g => g.Key, g => g.Count, stop);
        IQueryable<Job> Counted(IQueryable<Job> some) => some.OrderBy(j => j.Day).Take(MostCounted);
        counts["closed"] = await Counted(Found(jobs.Where(j => j.Station == "closed"), find, Counted)).CountAsync(stop);
        return counts;
    }

    /// <summary>
    /// Jobs in which the words are found. Each place they may stand in is looked through by an index of its own; asked for in one condition
    /// over the tables together, none of them could be used.
    /// </summary>
    /// <param name="first">As many of those in each place, in order, as are wanted of all; null = all of them. A word that stands in every second
    /// job is then found by leafing, not by gathering all of them.</param>
    private IQueryable<Job> Found(IQueryable<Job> jobs, string? find, Func<IQueryable<Job>, IQueryable<Job>>? first = null)
    {
        if (find?.Trim() is not { Length: > 0 } wanted)
        {
            return jobs;
        }

        var like = Part.Of(wanted);
        var number = int.TryParse(wanted, out var n) ? n : -1;
        var vehicles = db.VehiclesWith(wanted).Select(v => v.Id);
        var clients = db.ClientsWith(wanted).Select(c => c.Id);
        var theirs = db.Vehicles.Where(v => clients.Contains(v.ClientId)).Select(v => v.Id);
        IQueryable<Guid> First(IQueryable<Job> some) => (first is null ? some : first(some)).Select(j => j.Id);
        var found = First(jobs.Where(j => j.Number == number || EF.Functions.ILike(j.Story, like, Part.Escape)))
            .Union(First(jobs.Where(j => vehicles.Contains(j.VehicleId))))
            .Union(First(jobs.Where(j => theirs.Contains(j.VehicleId))));
        return db.Jobs.AsNoTracking().Where(j => found.Contains(j.Id));
    }

    /// <summary>The id of a job by its number; null = there is none.</summary>
    public Task<Guid?> IdAsync(int number, CancellationToken stop = default) =>
        db.Jobs.AsNoTracking().Where(j => j.Number == number).Select(j => (Guid?)j.Id).FirstOrDefaultAsync(stop);

    /// <summary>The number of a job by its id; null = there is none.</summary>
    public Task<int?> NumberAsync(Guid id, CancellationToken stop = default) =>
        db.Jobs.AsNoTracking().Where(j => j.Id == id).Select(j => (int?)j.Number).FirstOrDefaultAsync(stop);

    public async Task<JobView?> JobAsync(int number, CancellationToken stop = default)
    {
        // A join: asked for within the line, the newest survey would be looked for among all there are.
        var row = await db
            .Jobs.AsNoTracking()
            .Where(j => j.Number == number)
            .Join(
                db.Surveys,
                j => new { JobId = j.Id, Revision = j.SurveyRevision },
                s => new { s.JobId, s.Revision },
                (j, s) =>
                    new
                    {
                        Job = j,
                        j.Vehicle!.Name,
                        j.Vehicle.Plate,
                        Client = j.Vehicle.Client!.Name,
                        Doc = s,
                    }
            )
            .FirstOrDefaultAsync(stop);
        return row is null
            ? null
            : new JobView(
                row.Job.Id,
                row.Job.Number,
                row.Name,
                row.Plate,
                row.Client,
                row.Job.Story,
                row.Job.Station,
                row.Job.Day,
                Parse(row.Doc.Body),
                row.Doc.Revision,
                row.Doc.Author,
                row.Doc.At
            )
            {
                PlanRevision = row.Job.PlanRevision,
            };
    }

    /// <summary>
    /// Saves a survey made from a revision. What others saved since is merged zone by zone; where both changed the same place
    /// nothing is written and both versions are handed back.
    /// </summary>
    /// <exception cref="InvalidOperationException">The revision it was made from does not exist.</exception>
    public async Task<SaveResult> SaveSurveyAsync(
        Guid jobId,
        int onRevision,
        Survey survey,
        string author,
        CancellationToken stop = default
    )
    {
        for (var attempt = 0; ; attempt++)
        {
            var job = await db.Jobs.SingleAsync(j => j.Id == jobId, stop);
            Refuse(job);
            var (mine, fromThem) = (survey, (IReadOnlyList<string>)[]);
            if (job.SurveyRevision != onRevision)
            {
                var theirs = await db.Surveys.AsNoTracking().SingleAsync(s => s.JobId == jobId && s.Revision == job.SurveyRevision, stop);
                var start = await db.Surveys.AsNoTracking().FirstOrDefaultAsync(s => s.JobId == jobId && s.Revision == onRevision, stop)
                    ?? throw new InvalidOperationException($"there is no revision {onRevision}");
                var merge = SurveyMerge.ThreeWay(Parse(start.Body), survey, Parse(theirs.Body));
                if (merge.Conflicts.Count > 0)
                {
                    return new SaveResult(
                        false,
                        theirs.Revision,
                        merge.Merged,
                        merge.FromThem,
                        merge.Conflicts.Select(c => c.What).ToArray(),
                        Parse(theirs.Body),
                        theirs.Author,
                        theirs.At
                    );
                }

                (mine, fromThem) = (merge.Merged, merge.FromThem);
            }

            var revision = job.SurveyRevision + 1;
            mine = mine with { Id = $"job-{job.Number}", Revision = revision };
            db.Surveys.Add(
                new SurveyDocument
                {
                    JobId = jobId,
                    Revision = revision,
                    Body = Body(mine),
                    Author = author,
                    At = time.GetUtcNow(),
                }
            );
            job.SurveyRevision = revision;
            job.Station = job.Station == "intake" ? "survey" : job.Station;
            // The day of the yard and the day that is computed are one.
            job.Day = SiteConditions.StartOf(mine.Site).Start is { } begins ? DateOnly.FromDateTime(begins.Date) : job.Day;
            job.UrgentSince = Urgency.Etching(mine) ? job.UrgentSince ?? time.GetUtcNow() : null;
            try
            {
                await db.SaveChangesAsync(stop);
                return new SaveResult(true, revision, mine, fromThem, [], null, null, null);
            }
            catch (DbUpdateException e)
                when (attempt < 8
                    && (
                        e is DbUpdateConcurrencyException
                        || e.InnerException is PostgresException { SqlState: PostgresErrorCodes.UniqueViolation }
                    )
                )
            {
                // Somebody was faster: merge with what stands there now.
                db.ChangeTracker.Clear();
            }
        }
    }

    /// <summary>People and vehicles on record, for the intake form to offer.</summary>
    public async Task<IReadOnlyList<string>> ClientNamesAsync(CancellationToken stop = default) =>
        await db
            .Clients.AsNoTracking()
            .Where(c => c.Name != Erased)
            .Select(c => c.Name)
            .Distinct()
            .OrderBy(n => n)
            .Take(500)
            .ToListAsync(stop);

    /// <summary>The newest visit of a vehicle by its registration, spaces and case aside; null when it has not been here.</summary>
    public async Task<JobView?> LastVisitAsync(string plate, int? before = null, CancellationToken stop = default)
    {
        var wanted = ClientVehicle.KeyOf(plate);
        if (wanted.Length == 0)
        {
            return null;
        }

        var number = await db
            .Jobs.AsNoTracking()
            .Where(j => j.Vehicle!.PlateKey == wanted && (before == null || j.Number < before))
            .OrderByDescending(j => j.Day)
            .ThenByDescending(j => j.Number)
            .Select(j => (int?)j.Number)
            .FirstOrDefaultAsync(stop);
        return number is { } n ? await JobAsync(n, stop) : null;
    }

    /// <summary>Contact and wishes of a job, for the intake page.</summary>
    public async Task<(Client Client, ClientVehicle Vehicle, Job Job, IntakeWishes Wishes)> IntakeAsync(
        Guid jobId,
        CancellationToken stop = default
    )
    {
        var job = await db.Jobs.AsNoTracking().Include(j => j.Vehicle).ThenInclude(v => v!.Client).SingleAsync(j => j.Id == jobId, stop);
        return (
            job.Vehicle!.Client!,
            job.Vehicle,
            job,
            JsonSerializer.Deserialize<IntakeWishes>(job.Intake, JsonSerializerOptions.Web) ?? new IntakeWishes()
        );
    }

    /// <summary>Takes a vehicle in: client and vehicle are found again by name and registration, else made. Returns the job's number.</summary>
    public Task<int> TakeInAsync(
        Contact contact,
        DateOnly day,
        string story,
        IntakeWishes wishes,
        Survey survey,
        string author,
        CancellationToken stop = default
    ) => TakeInOnceAsync(Guid.CreateVersion7(), contact, day, story, wishes, survey, author, stop);

    /// <summary>The same from a form: sent twice, or six times at once, it is one job.</summary>
    /// <param name="once">Names the form that was opened; the job it makes carries the id.</param>
    public async Task<int> TakeInOnceAsync(
        Guid once,
        Contact contact,
        DateOnly day,
        string story,
        IntakeWishes wishes,
        Survey survey,
        string author,
        CancellationToken stop = default
    )
    {
        for (var attempt = 0; ; attempt++)
        {
            if (await db.Jobs.Where(j => j.Id == once).Select(j => (int?)j.Number).FirstOrDefaultAsync(stop) is { } there)
            {
                return there;
            }

            var client = await db.Clients.FirstOrDefaultAsync(c => c.Name == contact.Client, stop)
                ?? db.Clients.Add(new Client { Name = contact.Client, Author = author }).Entity;
            var vehicle = await db.Vehicles.FirstOrDefaultAsync(v => v.ClientId == client.Id && v.Plate == contact.Plate, stop)
                ?? db.Vehicles.Add(
                    new ClientVehicle
                    {
                        ClientId = client.Id,
                        Name = contact.Vehicle,
                        Plate = contact.Plate,
                        Author = author,
                    }
                ).Entity;
            (client.Phone, client.Email, vehicle.Name) = (contact.Phone, contact.Email, contact.Vehicle);
            var number = (await db.Jobs.MaxAsync(j => (int?)j.Number, stop) ?? 100) + 1;
            var job = db
                .Jobs.Add(
                    new Job
                    {
                        Id = once,
                        VehicleId = vehicle.Id,
                        Number = number,
                        Station = "intake",
                        Day = day,
                        Story = story,
                        Author = author,
                        SurveyRevision = 1,
                        Intake = JsonSerializer.Serialize(wishes, JsonSerializerOptions.Web),
                        UrgentSince = Urgency.Etching(survey) ? time.GetUtcNow() : null,
                    }
                )
                .Entity;
            db.Surveys.Add(
                new SurveyDocument
                {
                    JobId = job.Id,
                    Revision = 1,
                    Author = author,
                    At = time.GetUtcNow(),
                    Body = Body(survey with { Id = $"job-{number}", Revision = 1 }),
                }
            );
            try
            {
                await db.SaveChangesAsync(stop);
                return number;
            }
            catch (DbUpdateException e)
                when (attempt < 8
                    && (
                        e is DbUpdateConcurrencyException
                        || e.InnerException is PostgresException { SqlState: PostgresErrorCodes.UniqueViolation }
                    )
                )
            {
                // Somebody took the number: the next one then.
                db.ChangeTracker.Clear();
            }
        }
    }

    /// <summary>Saves contact, story and wishes of a job.</summary>
    /// <returns>False when somebody changed them since the page was opened (its <paramref name="version"/>).</returns>
    public async Task<bool> SaveIntakeAsync(
        Guid jobId,
        uint version,
        Contact contact,
        DateOnly day,
        string story,
        IntakeWishes wishes,
        CancellationToken stop = default
    )
    {
        var job = await db.Jobs.Include(j => j.Vehicle).ThenInclude(v => v!.Client).SingleAsync(j => j.Id == jobId, stop);
        Refuse(job);
        db.Entry(job).Property(j => j.Version).OriginalValue = version;
        (job.Day, job.Story, job.Intake) = (day, story, JsonSerializer.Serialize(wishes, JsonSerializerOptions.Web));
        db.Entry(job).Property(j => j.Story).IsModified = true;
        (job.Vehicle!.Name, job.Vehicle.Plate) = (contact.Vehicle, contact.Plate);
        (job.Vehicle.Client!.Name, job.Vehicle.Client.Phone, job.Vehicle.Client.Email) = (contact.Client, contact.Phone, contact.Email);
        try
        {
            await db.SaveChangesAsync(stop);
            return true;
        }
        catch (DbUpdateConcurrencyException)
        {
            db.ChangeTracker.Clear();
            return false;
        }
    }

    /// <summary>Leaves a remark on a zone, or on something else that has a name ("gate:nests").</summary>
    public async Task<Guid> NoteAsync(Guid jobId, string zone, string words, string author, CancellationToken stop = default)
    {
        var note = db
            .Notes.Add(
                new ZoneNote
                {
                    JobId = jobId,
                    Zone = zone,
                    Words = words,
                    Author = author,
                    At = time.GetUtcNow(),
                }
            )
            .Entity;
        await db.SaveChangesAsync(stop);
        return note.Id;
    }

    public async Task<IReadOnlyList<ZoneNote>> NotesAsync(Guid jobId, CancellationToken stop = default) =>
        await db.Notes.AsNoTracking().Where(n => n.JobId == jobId).OrderByDescending(n => n.At).Take(500).ToListAsync(stop);

    /// <summary>Opens a closed job again; the reason and who gave it stay on record. What was booked stays booked.</summary>
    /// <returns>False when it is not closed.</returns>
    public async Task<bool> ReopenAsync(Guid jobId, string reason, string author, CancellationToken stop = default)
    {
        await using var tx = await db.Database.BeginTransactionAsync(stop);
        var opened = await db
            .Jobs.Where(j => j.Id == jobId && j.Station == "closed")
            .ExecuteUpdateAsync(s => s.SetProperty(j => j.Station, "bay"), stop);
        if (opened == 1)
        {
            await NoteAsync(jobId, ReopenNote, reason, author, stop);
        }

        await tx.CommitAsync(stop);
        return opened == 1;
    }

    /// <exception cref="ClosedJobException">It is closed.</exception>
    private static void Refuse(Job job)
    {
        if (job.Station == "closed")
        {
            throw new ClosedJobException(job.Number);
        }
    }

    /// <summary>The place of a note that says what was done about weather that speaks against polish or coating.</summary>
    public const string WeatherNote = "hand:weather";

    /// <summary>The place of a note that says why a closed job was opened again.</summary>
    public const string ReopenNote = "job:reopened";

    /// <summary>Begins the place of a note that says who released a hold of the intake.</summary>
    public const string ReleaseNote = "gate:";

    /// <summary>What stands in the place of a person's name once it has been erased.</summary>
    public const string Erased = "erased";

    private static string Body(Survey survey) => Encoding.UTF8.GetString(SurveyFormat.Write(survey));

    /// <summary>Surveys read last, by what stands on record: a job is looked at page after page.</summary>
    private static readonly MemoryCache Parsed = new(new MemoryCacheOptions { SizeLimit = 64 });

    private static Survey Parse(string body)
    {
        if (Parsed.TryGetValue(body, out Survey? known))
        {
            return known!;
        }

        // What an older engine saved is upgraded, never refused because an id has left the catalogue.
        var read = StoredSurvey.Read(Encoding.UTF8.GetBytes(body)).Survey;
        return Parsed.Set(
            body,
            read.Value ?? throw new UnreadableSurveyException(string.Join("; ", read.Problems)),
            new MemoryCacheEntryOptions { Size = 1 }
        );
    }
}

/// <summary>What is on record of one job does not read, even with everything left out that can be.</summary>
public sealed class UnreadableSurveyException(string problems) : Exception("a stored survey does not read: " + problems);
