using Microsoft.EntityFrameworkCore;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Learning;

namespace ToughStart.Data;

/// <summary>What closed jobs say of one product.</summary>
/// <param name="Now">The factor that counts now.</param>
/// <param name="Excluded">Loops that say nothing, by why.</param>
public sealed record ProductEvidence(
    Guid Id,
    string Name,
    string Agent,
    string? Batch,
    double Now,
    IReadOnlyList<JobLoops> Jobs,
    IReadOnlyDictionary<string, int> Excluded
);

/// <summary>What closed jobs say of somebody's pace in a stage: hands-on by norm, one figure a job, the oldest first.</summary>
public sealed record PaceEvidence(string Who, string Stage, double Now, IReadOnlyList<double> Ratios);

/// <summary>What the shop's own work teaches, and what it has made its own.</summary>
public sealed class LearningStore(ToughStartContext db, TimeProvider time)
{
    /// <summary>Jobs that are looked back on; older bottles are other bottles.</summary>
    public const int MostJobs = 30;

    /// <summary>Loops among which products are looked for, the newest.</summary>
    private const int MostRecent = 1500;

    /// <summary>Products that are told of at once.</summary>
    private const int MostProducts = 40;

    /// <summary>Loops of a product that are looked back on.</summary>
    private const int MostLoops = 400;

    /// <summary>Zones of a job that are counted; they share the day and the eye, and more of them say hardly more.</summary>
    private const int MostZones = 10;

    /// <summary>Products that have anything to say, by name.</summary>
    public async Task<IReadOnlyList<ProductEvidence>> ProductsAsync(CancellationToken stop = default)
    {
        // What was worked with lately: a bottle that nobody has used for years teaches nobody any more.
        var recent = (
            await db
                .LoopLessons.AsNoTracking()
                .OrderByDescending(l => l.JobId)
                .Take(MostRecent)
                .Where(l => l.ProductId != null)
                .Select(l => l.ProductId!.Value)
                .Distinct()
                .ToListAsync(stop)
        )
            .Take(MostProducts)
            .ToArray();
        // Product by product, through its index: asked for all at once, every loop there ever was would be numbered.
        var rows = await db
            .LoopLessons.FromSql(
                $"""
                SELECT l.* FROM products p CROSS JOIN LATERAL
                  (SELECT * FROM loop_lessons WHERE product_id = p.id ORDER BY job_id DESC LIMIT {MostLoops}) l
                WHERE NOT p.retired AND p.id = ANY ({recent})
                """
            )
            .AsNoTracking()
            .Join(db.Jobs, l => l.JobId, j => j.Id, (l, j) => new { Loop = l, j.Number })
            .ToListAsync(stop);
        var ids = rows.Select(r => r.Loop.ProductId!.Value).Distinct().ToArray();
        var products = await db.Products.AsNoTracking().Where(p => ids.Contains(p.Id)).OrderBy(p => p.Name).ToListAsync(stop);
        var anew = await RestartsAsync(stop);
        var by = rows.Where(r => r.Number >= anew.GetValueOrDefault(r.Loop.ProductId!.Value)).ToLookup(r => r.Loop.ProductId!.Value);
        return
        [
            .. products.Select(p => new ProductEvidence(
                p.Id,
                p.Name,
                p.Agent,
                p.Batch,
                p.Efficacy,
                [
                    .. by[p.Id]
                        .Where(r => r.Loop.Excluded is null)
                        .GroupBy(r => r.Number)
                        .OrderByDescending(g => g.Key)
                        .Take(MostJobs)
                        .OrderBy(g => g.Key)
                        .Select(g => new JobLoops(
                            g.Key,
                            g.First().Loop.Batch,
                            [
                                .. g.OrderBy(r => r.Loop.Zone, StringComparer.Ordinal)
                                    .Take(MostZones)
                                    .Select(r => new LoopDatum(r.Loop.Need, r.Loop.PerRound, r.Loop.Rounds, r.Loop.Stopped, r.Loop.Spread)),
                            ]
                        )),
                ],
                by[p.Id].Where(r => r.Loop.Excluded is not null).GroupBy(r => r.Loop.Excluded!).ToDictionary(g => g.Key, g => g.Count())
            )),
        ];
    }

    /// <summary>Somebody said that a bottle is another since a job: what came before says nothing of it. By product, that job's number.</summary>
    private async Task<Dictionary<Guid, int>> RestartsAsync(CancellationToken stop) =>
        (await db.LearntFactors.AsNoTracking().Where(l => l.Of == Restart && l.UndoneAt == null).ToListAsync(stop))
            .GroupBy(l => Guid.Parse(l.Subject))
            .ToDictionary(g => g.Key, g => g.Max(l => l.Jobs));

    /// <summary>What is agreed to: a bottle is learnt anew from a job on.</summary>
    public const string Restart = "restart";

    /// <summary>People and stages that have anything to say.</summary>
    public async Task<IReadOnlyList<PaceEvidence>> PacesAsync(CancellationToken stop = default)
    {
        var now = await PaceNowAsync(stop);
        var pairs = await db.Users.AsNoTracking().Select(u => u.StaffId).ToListAsync(stop);
        var rows = new List<PaceLesson>();
        foreach (var who in pairs)
        {
            rows.AddRange(
                await db
                    .PaceLessons.AsNoTracking()
                    .Where(p => p.Who == who && p.Norm > 0 && p.Seconds > 0)
                    .OrderByDescending(p => p.JobId)
                    .Take(20 * MostJobs)
                    .ToListAsync(stop)
            );
        }

        return
        [
            .. rows.GroupBy(r => (r.Who, r.Stage))
                .Select(g => new PaceEvidence(
                    g.Key.Who,
                    g.Key.Stage,
                    now.GetValueOrDefault($"{g.Key.Who}/{g.Key.Stage}", 1),
                    [.. g.OrderByDescending(r => r.JobId).Take(MostJobs).OrderBy(r => r.JobId).Select(r => r.Seconds / (double)r.Norm)]
                ))
                .OrderBy(p => p.Who, StringComparer.Ordinal)
                .ThenByDescending(p => p.Ratios.Count),
        ];
    }

    /// <summary>Paces the shop has made its own, by person and stage.</summary>
    public async Task<IReadOnlyDictionary<string, double>> PaceNowAsync(CancellationToken stop = default) =>
        (await db.LearntFactors.AsNoTracking().Where(l => l.Of == "pace" && l.UndoneAt == null).OrderBy(l => l.At).ToListAsync(stop))
            .GroupBy(l => l.Subject)
            .ToDictionary(g => g.Key, g => g.Last().Factor);

    /// <summary>Everything that was agreed to, the newest first.</summary>
    public async Task<IReadOnlyList<LearntFactor>> AgreedAsync(CancellationToken stop = default) =>
        await db.LearntFactors.AsNoTracking().OrderByDescending(l => l.At).Take(100).ToListAsync(stop);

    /// <summary>Somebody agrees: the factor counts from here.</summary>
    /// <returns>False when it changed meanwhile.</returns>
    public async Task<bool> AgreeAsync(LearntFactor factor, CancellationToken stop = default)
    {
        await using var tx = await db.Database.BeginTransactionAsync(stop);
        if (factor.Of == "product" && !await SetAsync(Guid.Parse(factor.Subject), factor.Before, factor.Factor, stop))
        {
            return false;
        }

        db.LearntFactors.Add(factor);
        await db.SaveChangesAsync(stop);
        await tx.CommitAsync(stop);
        db.ChangeTracker.Clear();
        return true;
    }

    /// <summary>Undoes it the same way; both stay on record.</summary>
    /// <returns>False when something else counts by now.</returns>
    public async Task<bool> UndoAsync(Guid id, string author, CancellationToken stop = default)
    {
        await using var tx = await db.Database.BeginTransactionAsync(stop);
        if (await db.LearntFactors.FirstOrDefaultAsync(l => l.Id == id && l.UndoneAt == null, stop) is not { } factor)
        {
            return false;
        }

        if (factor.Of == "product" && !await SetAsync(Guid.Parse(factor.Subject), factor.Factor, factor.Before, stop))
        {
            return false;
        }

        (factor.UndoneBy, factor.UndoneAt) = (author, time.GetUtcNow());
        await db.SaveChangesAsync(stop);
        await tx.CommitAsync(stop);
        db.ChangeTracker.Clear();
        return true;
    }

    private async Task<bool> SetAsync(Guid product, double from, double to, CancellationToken stop) =>
        await db
            .Products.Where(p => p.Id == product && Math.Abs(p.Efficacy - from) < Same)
            .ExecuteUpdateAsync(
                s => s.SetProperty(p => p.Efficacy, Math.Clamp(to, ShelfBottle.LeastEfficacy, ShelfBottle.MostEfficacy)),
                stop
            ) == 1;

    /// <summary>Factors nearer than this are the same.</summary>
    private const double Same = 1e-6;

    /// <summary>Now, by the shop's clock.</summary>
    public DateTimeOffset Now => time.GetUtcNow();
}
