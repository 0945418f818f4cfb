using System.Globalization;
using System.Security.Cryptography;
using Microsoft.EntityFrameworkCore;
using ToughStart.Core.Readiness;

namespace ToughStart.Data;

/// <summary>What follows the gate: work by hand, what was put on, what a job came to, links and letters.</summary>
public sealed class BookStore(ToughStartContext db, TimeProvider time)
{
    /// <summary>Most entries of work by hand of one job.</summary>
    public const int MostHandWork = 500;

    /// <summary>Links of one job that are open at once.</summary>
    public const int MostShares = 20;

    /// <summary>Work by hand of a job, the oldest first.</summary>
    public async Task<IReadOnlyList<HandWork>> HandWorkAsync(Guid jobId, CancellationToken stop = default) =>
        await db.HandWork.AsNoTracking().Where(h => h.JobId == jobId && !h.Struck).OrderBy(h => h.At).Take(MostHandWork).ToListAsync(stop);

    /// <summary>Everything that was ever done by hand to the vehicle of a job, this visit included, the oldest first.</summary>
    public async Task<IReadOnlyList<DoneByHand>> DeedsAsync(Guid jobId, CancellationToken stop = default) =>
        (
            await db
                .HandWork.AsNoTracking()
                .Where(h =>
                    !h.Struck
                    && db.Jobs.Where(j => j.VehicleId == db.Jobs.Where(o => o.Id == jobId).Select(o => o.VehicleId).First())
                        .Select(j => j.Id)
                        .Contains(h.JobId)
                )
                .OrderBy(h => h.At)
                .Take(10 * MostHandWork)
                .Join(db.Jobs, h => h.JobId, j => j.Id, (h, j) => new { Work = h, j.Number })
                .ToListAsync(stop)
        )
            .Select(h => DeedOf(h.Work, h.Number))
            .ToArray();

    /// <summary>Work that was done on the vehicle of a job since a moment, in whatever visit: treatment, zones, when.</summary>
    public async Task<IReadOnlyList<(string Treatment, IReadOnlyList<string> Zones, DateTimeOffset At)>> WashedAsync(
        Guid jobId,
        DateTimeOffset since,
        CancellationToken stop = default
    )
    {
        var from = since.ToUnixTimeMilliseconds();
        var rows = await db
            .Events.AsNoTracking()
            .Where(e =>
                db.Jobs.Where(j => j.VehicleId == db.Jobs.Where(o => o.Id == jobId).Select(o => o.VehicleId).First())
                    .Select(j => j.Id)
                    .Contains(e.JobId)
                && e.WhenAt > from
                && Works.Contains(e.Kind)
            )
            .OrderBy(e => e.WhenAt)
            .Select(e => new { e.Body, e.WhenAt })
            .Take(MostWashed)
            .ToListAsync(stop);
        return
        [
            .. rows.Select(r => (Body: Core.Formats.LogFormat.ReadBody(System.Text.Json.JsonDocument.Parse(r.Body).RootElement), r.WhenAt))
                .Where(r => r.Body.Treatment is not null)
                .Select(r =>
                    (
                        r.Body.Treatment!,
                        (IReadOnlyList<string>)[.. r.Body.Zones.Select(Core.Running.Live.Live.ZoneOf).Distinct()],
                        DateTimeOffset.FromUnixTimeMilliseconds(r.WhenAt)
                    )
                ),
        ];
    }

    /// <summary>Kinds of entries that say what was done to a zone.</summary>
    private static readonly string[] Works = ["applied", "worked", "observed"];

    private const int MostWashed = 20_000;

    public static DoneByHand DeedOf(HandWork h, int job) => new(Enum.Parse<Act>(h.Act), h.Kind, h.Zones, h.Layers, h.At, job);

    /// <summary>Writes down what was done by hand.</summary>
    /// <returns>Why not; null = it is written.</returns>
    public async Task<string?> DoneAsync(HandWork work, CancellationToken stop = default)
    {
        if (await db.HandWork.CountAsync(h => h.JobId == work.JobId && !h.Struck, stop) >= MostHandWork)
        {
            return $"there are {MostHandWork} entries already";
        }

        db.HandWork.Add(work);
        await db.SaveChangesAsync(stop);
        db.ChangeTracker.Clear();
        return null;
    }

    public async Task<bool> StrikeAsync(Guid jobId, Guid work, CancellationToken stop = default) =>
        await db.HandWork.Where(h => h.JobId == jobId && h.Id == work).ExecuteUpdateAsync(s => s.SetProperty(h => h.Struck, true), stop)
        == 1;

    /// <summary>Begins what stands or falls together over several stores of a request.</summary>
    public Task<Together> TogetherAsync(CancellationToken stop = default) => Together.BeginAsync(db, stop);

    public Task<JobBook?> BookAsync(Guid jobId, CancellationToken stop = default) =>
        db.Books.AsNoTracking().FirstOrDefaultAsync(b => b.JobId == jobId, stop);

    /// <summary>Writes down what a job came to; a job that was opened again and closed anew replaces its own lines.</summary>
    public async Task WriteAsync(
        JobBook book,
        IReadOnlyList<LoopLesson> loops,
        IReadOnlyList<PaceLesson> paces,
        CancellationToken stop = default
    )
    {
        await using var tx = await Together.BeginAsync(db, stop);
        await db.Database.ExecuteSqlAsync($"SELECT 1 FROM jobs WHERE id = {book.JobId} FOR UPDATE", stop);
        await db.LoopLessons.Where(l => l.JobId == book.JobId).ExecuteDeleteAsync(stop);
        await db.PaceLessons.Where(l => l.JobId == book.JobId).ExecuteDeleteAsync(stop);
        await db.Books.Where(b => b.JobId == book.JobId).ExecuteDeleteAsync(stop);
        db.Books.Add(book);
        db.LoopLessons.AddRange(loops);
        db.PaceLessons.AddRange(paces);
        await db.SaveChangesAsync(stop);
        await tx.CommitAsync(stop);
        db.ChangeTracker.Clear();
    }

    /// <summary>Makes a link for a report. The token is handed out once; only a hash of it is kept.</summary>
    /// <param name="days">Days until it runs out, 1 to 365.</param>
    /// <returns>The token; null = too many are open.</returns>
    /// <param name="quote">The quote it opens; null = it opens the report.</param>
    public async Task<string?> ShareAsync(
        Guid jobId,
        string shows,
        int days,
        string author,
        Guid? quote = null,
        CancellationToken stop = default
    )
    {
        var now = time.GetUtcNow();
        if (await db.Shares.CountAsync(s => s.JobId == jobId && s.Revoked == null && s.Until > now, stop) >= MostShares)
        {
            return null;
        }

        var token = Convert.ToBase64String(RandomNumberGenerator.GetBytes(32)).TrimEnd('=').Replace('+', '-').Replace('/', '_');
        db.Shares.Add(
            new ShareLink
            {
                JobId = jobId,
                Hash = HashOf(token),
                QuoteId = quote,
                Shows = shows,
                Until = now.AddDays(days),
                Author = author,
                At = now,
            }
        );
        await db.SaveChangesAsync(stop);
        db.ChangeTracker.Clear();
        return token;
    }

    /// <summary>Links of a job's report, or of its quotes, the newest first.</summary>
    public async Task<IReadOnlyList<ShareLink>> SharesAsync(Guid jobId, bool quotes = false, CancellationToken stop = default) =>
        await db
            .Shares.AsNoTracking()
            .Where(s => s.JobId == jobId && s.QuoteId != null == quotes)
            .OrderByDescending(s => s.At)
            .Take(100)
            .ToListAsync(stop);

    public async Task<bool> RevokeAsync(Guid jobId, Guid share, CancellationToken stop = default) =>
        await db
            .Shares.Where(s => s.JobId == jobId && s.Id == share && s.Revoked == null)
            .ExecuteUpdateAsync(s => s.SetProperty(x => x.Revoked, time.GetUtcNow()), stop) == 1;

    /// <summary>The link of a token that still opens; null = there is none, it has run out, or it was taken back.</summary>
    /// <param name="count">Count it as looked at.</param>
    /// <param name="quote">A link of a quote; a link opens what it was made for and nothing else.</param>
    public async Task<(ShareLink Link, int Number)?> OpenAsync(
        string token,
        bool count,
        bool quote = false,
        CancellationToken stop = default
    )
    {
        if (token.Length != TokenLength)
        {
            return null;
        }

        var (hash, now) = (HashOf(token), time.GetUtcNow());
        if (
            await db
                .Shares.AsNoTracking()
                .Where(s => s.Hash == hash && s.QuoteId != null == quote && s.Revoked == null && s.Until > now)
                .Join(db.Jobs, s => s.JobId, j => j.Id, (s, j) => new { Link = s, j.Number })
                .FirstOrDefaultAsync(stop)
            is not { } found
        )
        {
            return null;
        }

        if (count)
        {
            await db
                .Shares.Where(s => s.Id == found.Link.Id)
                .ExecuteUpdateAsync(s => s.SetProperty(x => x.Views, x => x.Views + 1).SetProperty(x => x.Seen, now), stop);
        }

        return (found.Link, found.Number);
    }

    /// <summary>Characters of 32 bytes in base 64, without padding.</summary>
    private const int TokenLength = 43;

    private static byte[] HashOf(string token) => SHA256.HashData(System.Text.Encoding.ASCII.GetBytes(token));

    /// <summary>Hands a letter to the post.</summary>
    public async Task PostAsync(Letter letter, CancellationToken stop = default)
    {
        db.Letters.Add(letter);
        await db.SaveChangesAsync(stop);
        db.ChangeTracker.Clear();
    }

    public async Task<IReadOnlyList<Letter>> LettersAsync(Guid jobId, CancellationToken stop = default) =>
        await db.Letters.AsNoTracking().Where(l => l.JobId == jobId).OrderByDescending(l => l.At).Take(50).ToListAsync(stop);

    /// <summary>What the shop's products cost, money a ml, by id.</summary>
    public async Task<IReadOnlyDictionary<Guid, decimal>> PricesAsync(
        IReadOnlyCollection<Guid> products,
        CancellationToken stop = default
    ) =>
        await db
            .Products.AsNoTracking()
            .Where(p => products.Contains(p.Id) && p.PackMl > 0)
            .ToDictionaryAsync(p => p.Id, p => p.Price / p.PackMl, stop);

    /// <summary>The id of a job that is there.</summary>
    public Task<Guid> JobIdAsync(int number, CancellationToken stop = default) =>
        db.Jobs.AsNoTracking().Where(j => j.Number == number).Select(j => j.Id).FirstAsync(stop);

    /// <summary>The vehicle of a job.</summary>
    public Task<Guid> VehicleAsync(Guid jobId, CancellationToken stop = default) =>
        db.Jobs.AsNoTracking().Where(j => j.Id == jobId).Select(j => j.VehicleId).FirstAsync(stop);

    /// <summary>Batches by product.</summary>
    public async Task<IReadOnlyDictionary<Guid, string>> BatchesAsync(CancellationToken stop = default) =>
        await db.Products.AsNoTracking().Where(p => p.Batch != null).ToDictionaryAsync(p => p.Id, p => p.Batch!, stop);

    /// <summary>Now, by the shop's clock.</summary>
    public DateTimeOffset Now => time.GetUtcNow();
}
