using Microsoft.EntityFrameworkCore;
using ToughStart.Core.Costing;

namespace ToughStart.Data;

/// <summary>What a shop charges, and what it says under every quote.</summary>
public sealed record QuoteHouse(Rates Rates, string Terms, int Days);

/// <summary>Quotes of jobs, version by version, and the rates they are made at.</summary>
public sealed class QuoteStore(ToughStartContext db, TimeProvider time)
{
    /// <summary>Versions of one job.</summary>
    public const int MostVersions = 50;

    public const int MostTerms = 2000,
        MostSaid = 1000,
        MostName = 80,
        MostDays = 365;

    /// <summary>What stands under a quote until a shop writes its own.</summary>
    public const string UsualTerms =
        "We stop and ask before anything is done that is not in here. Found damage is shown before it is touched. Payable when the vehicle is collected.";

    public DateTimeOffset Now => time.GetUtcNow();

    public async Task<QuoteHouse> HouseAsync(CancellationToken stop = default)
    {
        var shop = await db.Shops.AsNoTracking().OrderBy(s => s.Id).FirstOrDefaultAsync(stop);
        return new(
            Rates.Read(id => shop?.Rates.GetValueOrDefault(id)).Rates ?? Rates.Default,
            shop?.QuoteTerms is { Length: > 0 } own ? own : UsualTerms,
            shop?.QuoteDays ?? 30
        );
    }

    public async Task HouseAsync(QuoteHouse house, CancellationToken stop = default)
    {
        var shop = await db.Shops.OrderBy(s => s.Id).FirstOrDefaultAsync(stop) ?? db.Shops.Add(new Shop { Name = "Shop" }).Entity;
        shop.Rates = Rates.Fields.ToDictionary(f => f.Id, f => (double?)f.Of(house.Rates));
        (shop.QuoteTerms, shop.QuoteDays) = (house.Terms, house.Days);
        await db.SaveChangesAsync(stop);
        db.ChangeTracker.Clear();
    }

    /// <summary>Versions of a job, the newest first.</summary>
    public async Task<IReadOnlyList<JobQuote>> OfAsync(Guid jobId, CancellationToken stop = default) =>
        await db.Quotes.AsNoTracking().Where(q => q.JobId == jobId).OrderByDescending(q => q.Version).Take(MostVersions).ToListAsync(stop);

    public Task<JobQuote?> FindAsync(Guid quote, CancellationToken stop = default) =>
        db.Quotes.AsNoTracking().FirstOrDefaultAsync(q => q.Id == quote, stop);

    /// <summary>The version that was taken last and still stands; null = none was.</summary>
    public Task<JobQuote?> TakenAsync(Guid jobId, CancellationToken stop = default) =>
        db
            .Quotes.AsNoTracking()
            .Where(q => q.JobId == jobId && q.TakenAt != null)
            .OrderByDescending(q => q.TakenAt)
            .FirstOrDefaultAsync(stop);

    /// <summary>Keeps a new version; earlier ones that nobody took no longer stand.</summary>
    /// <returns>Its number; null = there are too many.</returns>
    public async Task<int?> KeepAsync(Func<int, JobQuote> make, Guid jobId, CancellationToken stop = default)
    {
        await using var tx = await db.Database.BeginTransactionAsync(stop);
        await db.Database.ExecuteSqlAsync($"SELECT 1 FROM jobs WHERE id = {jobId} FOR UPDATE", stop);
        var last = await db.Quotes.Where(q => q.JobId == jobId).MaxAsync(q => (int?)q.Version, stop) ?? 0;
        if (last >= MostVersions)
        {
            return null;
        }

        var now = time.GetUtcNow();
        await db
            .Quotes.Where(q => q.JobId == jobId && q.TakenAt == null && q.Withdrawn == null)
            .ExecuteUpdateAsync(s => s.SetProperty(q => q.Withdrawn, now), stop);
        db.Quotes.Add(make(last + 1));
        await db.SaveChangesAsync(stop);
        await tx.CommitAsync(stop);
        db.ChangeTracker.Clear();
        return last + 1;
    }

    /// <summary>The shop no longer stands by it; what was taken stays taken.</summary>
    public async Task<bool> WithdrawAsync(Guid jobId, Guid quote, CancellationToken stop = default) =>
        await db
            .Quotes.Where(q => q.JobId == jobId && q.Id == quote && q.TakenAt == null && q.Withdrawn == null)
            .ExecuteUpdateAsync(s => s.SetProperty(q => q.Withdrawn, time.GetUtcNow()), stop) == 1;

    /// <summary>Somebody takes it as it stands, once: of two at the same moment the second is told.</summary>
    /// <param name="day">Today where the shop is.</param>
    public async Task<bool> TakeAsync(
        Guid quote,
        string name,
        string body,
        decimal price,
        decimal atMost,
        DateOnly day,
        CancellationToken stop = default
    ) =>
        await db
            .Quotes.Where(q => q.Id == quote && q.TakenAt == null && q.Withdrawn == null && q.Until >= day)
            .ExecuteUpdateAsync(
                s =>
                    s.SetProperty(q => q.TakenBy, name)
                        .SetProperty(q => q.TakenAt, time.GetUtcNow())
                        .SetProperty(q => q.Taken, body)
                        .SetProperty(q => q.TakenPrice, price)
                        .SetProperty(q => q.TakenAtMost, atMost),
                stop
            ) == 1;

    /// <summary>How a job is laid out in time; null = nobody has said.</summary>
    public Task<JobCrew?> CrewAsync(Guid jobId, CancellationToken stop = default) =>
        db.Crews.AsNoTracking().FirstOrDefaultAsync(c => c.JobId == jobId, stop);

    /// <summary>Keeps how a job is laid out, on top of the revision that was seen.</summary>
    /// <param name="seen">0 = none was there.</param>
    /// <returns>Was it kept? Else somebody else was first.</returns>
    public async Task<bool> CrewAsync(Guid jobId, int seen, string body, string author, CancellationToken stop = default)
    {
        var now = time.GetUtcNow();
        return seen == 0
            ? await db.Database.ExecuteSqlAsync(
                $"INSERT INTO job_crews (job_id, revision, body, author, at) VALUES ({jobId}, 1, {body}, {author}, {now}) ON CONFLICT DO NOTHING",
                stop
            ) == 1
            : await db
                .Crews.Where(c => c.JobId == jobId && c.Revision == seen)
                .ExecuteUpdateAsync(
                    s =>
                        s.SetProperty(c => c.Revision, seen + 1)
                            .SetProperty(c => c.Body, body)
                            .SetProperty(c => c.Author, author)
                            .SetProperty(c => c.At, now),
                    stop
                ) == 1;
    }
}
