using Microsoft.EntityFrameworkCore;
using Npgsql;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Conditions;
using ToughStart.Core.Provenance;

namespace ToughStart.Data;

/// <summary>A lance or washer with what has been measured of it.</summary>
public sealed record KitView(KitItem Item, IReadOnlyList<Calibration> Calibrations, LanceDraw? Draw);

/// <summary>What every plan is made with besides the bottles.</summary>
/// <param name="ShelfVersion">
/// Grows whenever a product comes, goes, gets another label, runs out or is there again; the database counts, whoever writes. How much of a
/// bottle is left does not count: a plan only has to know whether there is any.
/// </param>
/// <param name="Lance">As calibrated; null = none is.</param>
/// <param name="FilmFactor">How much thicker films are here than the catalogue's; null = nobody measured.</param>
/// <param name="Speed">How fast the crew puts on and rinses; null = nobody has timed it.</param>
public sealed record ShopInUse(long ShelfVersion, LanceDraw? Lance, double? FilmFactor, CrewSpeed? Speed);

/// <summary>A mixed bottle as the log shows it.</summary>
public sealed record MixView(
    Guid Id,
    int Number,
    Guid ProductId,
    string Product,
    string Agent,
    string[] Hazards,
    string[] Contains,
    Guid BottleId,
    string Bottle,
    string? BottleColour,
    string BottleKind,
    double BottleMl,
    double Fraction,
    decimal ProductMl,
    decimal WaterMl,
    decimal LeftMl,
    string State,
    DateOnly DiscardBy,
    string Author,
    DateTimeOffset At,
    int? Job,
    uint Version
)
{
    public ProductFraction Strength => ProductFraction.Of(Fraction);
}

/// <summary>What is asked of the log: this much of this product, with this much water, into that bottle.</summary>
/// <param name="RinsedThrice">The person says that the bottle was rinsed three times after what it held before.</param>
/// <param name="Emptied">The person says that what the log has in it is gone.</param>
public sealed record MixOrder(Guid Product, Guid Bottle, decimal ProductMl, decimal WaterMl, Guid? Job, bool RinsedThrice, bool Emptied);

/// <summary>Kit and its calibrations, and the log of mixed bottles.</summary>
public sealed class KitStore(ToughStartContext db, ShelfStore shelf, ShopClock clock)
{
    public static IReadOnlyList<(string Id, string Name)> Kinds { get; } =
    [
        ("washer", "Washers"),
        ("nozzle", "Nozzles"),
        ("lance", "Foam lances"),
        ("sprayer", "Pump sprayers"),
        ("bottle", "Bottles"),
        ("bucket", "Buckets"),
        ("jug", "Jugs"),
        ("media", "Media"),
        ("clay", "Clay"),
    ];

    public async Task<IReadOnlyList<KitView>> AllAsync(CancellationToken stop = default)
    {
        var items = await db.Kit.AsNoTracking().Where(k => !k.Retired).OrderBy(k => k.Kind).ThenBy(k => k.Name).Take(500).ToListAsync(stop);
        var calibrations = (await db.Calibrations.AsNoTracking().OrderByDescending(c => c.At).Take(1000).ToListAsync(stop)).ToLookup(c =>
            c.KitItemId
        );
        return items.Select(k => new KitView(k, calibrations[k.Id].ToArray(), DrawOf(calibrations[k.Id]))).ToArray();
    }

    /// <summary>What containers are told apart by from afar.</summary>
    public async Task<IReadOnlyDictionary<Guid, string>> ColoursAsync(CancellationToken stop = default) =>
        await db
            .Kit.AsNoTracking()
            .Where(k => k.Colour != null)
            .OrderBy(k => k.Name)
            .Take(500)
            .ToDictionaryAsync(k => k.Id, k => k.Colour!, stop);

    public async Task<KitView?> OneAsync(Guid id, CancellationToken stop = default)
    {
        if (await db.Kit.AsNoTracking().FirstOrDefaultAsync(k => k.Id == id, stop) is not { } item)
        {
            return null;
        }

        var calibrations = await db
            .Calibrations.AsNoTracking()
            .Where(c => c.KitItemId == id)
            .OrderByDescending(c => c.At)
            .Take(100)
            .ToListAsync(stop);
        return new KitView(item, calibrations, DrawOf(calibrations));
    }

    /// <summary>Mean of the newest five trials that were not struck; null before the first.</summary>
    public static LanceDraw? DrawOf(IEnumerable<Calibration> calibrations)
    {
        var trials = calibrations
            .Where(c => !c.Struck)
            .OrderByDescending(c => c.At)
            .Take(5)
            .Select(c => new LanceTrial(c.Ml, c.Seconds, c.FlowLitresPerMinute, c.MeasuredAtLance))
            .Where(t => t.Problems().Count == 0)
            .ToArray();
        return trials.Length == 0 ? null : LanceDraw.From(trials);
    }

    /// <summary>
    /// What plans are made with besides the bottles, in one look. The lance is the one calibrated last; the film's factor is the geometric mean of
    /// the newest five trials that were not struck.
    /// </summary>
    public async Task<ShopInUse> InUseAsync(CancellationToken stop = default)
    {
        var now = await db
            .Database.SqlQuery<long>($"SELECT n AS \"Value\" FROM shelf_version")
            .Select(n => new
            {
                Shelf = n,
                Lance = db
                    .Calibrations.Where(c => !c.Struck && db.Kit.Any(k => k.Id == c.KitItemId && !k.Retired))
                    .OrderByDescending(c => c.At)
                    .Select(c => (Guid?)c.KitItemId)
                    .FirstOrDefault(),
                Film = db.FilmTrials.Where(f => !f.Struck).OrderByDescending(f => f.At).Take(5).Average(f => (double?)Math.Log(f.Factor)),
                Apply = db.Shops.OrderBy(s => s.Id).Select(s => s.ApplyM2Min).FirstOrDefault(),
                Rinse = db.Shops.OrderBy(s => s.Id).Select(s => s.RinseM2Min).FirstOrDefault(),
            })
            .SingleAsync(stop);
        return new(
            now.Shelf,
            now.Lance is { } id ? DrawOf(await db.Calibrations.AsNoTracking().Where(c => c.KitItemId == id).ToListAsync(stop)) : null,
            now.Film is { } mean ? Math.Round(Math.Exp(mean), 4) : null,
            now is { Apply: { } apply, Rinse: { } rinse } ? new CrewSpeed(apply, rinse) : null
        );
    }

    /// <summary>The lance plans are made for; uncalibrated when none is.</summary>
    public async Task<LanceDraw> LanceInUseAsync(CancellationToken stop = default) =>
        (await InUseAsync(stop)).Lance ?? LanceDraw.Uncalibrated;

    /// <summary>Adds or changes a piece of kit. Returns why not, or null.</summary>
    public async Task<(Guid Id, string? Refused)> SaveAsync(KitItem item, bool fresh, uint version, CancellationToken stop = default)
    {
        if (fresh)
        {
            db.Kit.Add(item);
        }
        else
        {
            db.Kit.Update(item);
            db.Entry(item).Property(k => k.Version).OriginalValue = version;
        }

        try
        {
            await db.SaveChangesAsync(stop);
            return (item.Id, null);
        }
        catch (DbUpdateConcurrencyException)
        {
            return (item.Id, "somebody saved this piece of kit meanwhile: look at theirs and save again");
        }
        catch (DbUpdateException e) when (e.InnerException is PostgresException { SqlState: PostgresErrorCodes.UniqueViolation })
        {
            return (Guid.Empty, $"name: there is a {item.Kind} '{item.Name}' already");
        }
        finally
        {
            db.ChangeTracker.Clear();
        }
    }

    public async Task CalibrateAsync(Guid lance, LanceTrial trial, string author, CancellationToken stop = default)
    {
        db.Calibrations.Add(
            new Calibration
            {
                KitItemId = lance,
                Ml = trial.Ml,
                Seconds = trial.Seconds,
                FlowLitresPerMinute = trial.FlowLitresPerMinute,
                MeasuredAtLance = trial.MeasuredAtLance,
                Author = author,
                At = clock.Now.ToDateTimeOffset(),
            }
        );
        await db.SaveChangesAsync(stop);
    }

    public async Task StrikeAsync(Guid lance, Guid calibration, CancellationToken stop = default) =>
        await db
            .Calibrations.Where(c => c.Id == calibration && c.KitItemId == lance)
            .ExecuteUpdateAsync(s => s.SetProperty(c => c.Struck, c => !c.Struck), stop);

    /// <summary>Measurements of the film, newest first.</summary>
    public async Task<IReadOnlyList<FilmTrial>> FilmTrialsAsync(CancellationToken stop = default) =>
        await db.FilmTrials.AsNoTracking().OrderByDescending(f => f.At).Take(20).ToListAsync(stop);

    public async Task MeasureFilmAsync(
        string method,
        string carrier,
        double measured,
        double factor,
        string author,
        CancellationToken stop = default
    )
    {
        db.FilmTrials.Add(
            new FilmTrial
            {
                Method = method,
                Carrier = carrier,
                Measured = measured,
                Factor = factor,
                Author = author,
                At = clock.Now.ToDateTimeOffset(),
            }
        );
        await db.SaveChangesAsync(stop);
    }

    public async Task StrikeFilmAsync(Guid id, CancellationToken stop = default) =>
        await db.FilmTrials.Where(f => f.Id == id).ExecuteUpdateAsync(s => s.SetProperty(f => f.Struck, f => !f.Struck), stop);

    /// <summary>One more vehicle or wash on a medium; worn out at the end of its life.</summary>
    public async Task UseOnceAsync(Guid id, CancellationToken stop = default) =>
        await db
            .Kit.Where(k => k.Id == id)
            .ExecuteUpdateAsync(
                s =>
                    s.SetProperty(k => k.Used, k => k.Used + 1)
                        .SetProperty(k => k.Condition, k => k.Life != null && k.Used + 1 >= k.Life ? "worn" : k.Condition),
                stop
            );

    /// <summary>Media and clay that one can take to a vehicle.</summary>
    public async Task<IReadOnlyList<KitItem>> MediaAsync(CancellationToken stop = default) =>
        await db
            .Kit.AsNoTracking()
            .Where(k => !k.Retired && k.Condition != "bin" && (k.Kind == "media" || k.Kind == "clay"))
            .OrderBy(k => k.Kind)
            .ThenBy(k => k.Name)
            .Take(100)
            .ToListAsync(stop);

    /// <summary>A medium was used a last time and went into the bin.</summary>
    public async Task BinAsync(Guid id, CancellationToken stop = default) =>
        await db
            .Kit.Where(k => k.Id == id)
            .ExecuteUpdateAsync(s => s.SetProperty(k => k.Used, k => k.Used + 1).SetProperty(k => k.Condition, "bin"), stop);

    public async Task<IReadOnlyList<MixView>> MixesAsync(bool open, int most = 60, CancellationToken stop = default) =>
        await Views(
                db.Mixes.AsNoTracking()
                    .Where(m => open ? m.State == "in-use" : m.State != "in-use")
                    .OrderByDescending(m => m.Number)
                    .Take(most)
            )
            .ToListAsync(stop);

    public async Task<IReadOnlyList<MixView>> MixesByIdAsync(IReadOnlyCollection<Guid> ids, CancellationToken stop = default) =>
        await Views(db.Mixes.AsNoTracking().Where(m => ids.Contains(m.Id)).OrderBy(m => m.Number)).ToListAsync(stop);

    /// <summary>What each bottle held last, by bottle.</summary>
    public async Task<IReadOnlyDictionary<Guid, MixView>> LastInBottleAsync(CancellationToken stop = default)
    {
        var newest = await db
            .Kit.AsNoTracking()
            .Select(k =>
                db.Mixes.Where(m => m.BottleId == k.Id)
                    .OrderByDescending(m => m.At)
                    .ThenByDescending(m => m.Number)
                    .Select(m => (Guid?)m.Id)
                    .FirstOrDefault()
            )
            .Where(id => id != null)
            .ToListAsync(stop);
        return (await MixesByIdAsync([.. newest.Select(id => id!.Value)], stop)).ToDictionary(m => m.BottleId);
    }

    private IQueryable<MixView> Views(IQueryable<MixRecord> mixes) =>
        mixes.Select(m => new MixView(
            m.Id,
            m.Number,
            m.ProductId,
            m.Product!.Name,
            m.Product.Agent,
            m.Product.Hazards,
            m.Product.Contains,
            m.BottleId,
            m.Bottle!.Name,
            m.Bottle.Colour,
            m.Bottle.Kind,
            m.Bottle.Ml ?? 0,
            m.Fraction,
            m.ProductMl,
            m.WaterMl,
            m.LeftMl,
            m.State,
            m.DiscardBy,
            m.Author,
            m.At,
            db.Jobs.Where(j => j.Id == m.JobId).Select(j => (int?)j.Number).FirstOrDefault(),
            m.Version
        ));

    /// <summary>Mixed bottles that are still good, for the planner; buckets are never kept.</summary>
    public async Task<IReadOnlyList<Leftover>> LeftoversAsync(CancellationToken stop = default)
    {
        var today = clock.Today;
        var open = await Views(
                db.Mixes.AsNoTracking()
                    .Where(m => m.State == "in-use" && m.LeftMl > 20 && m.DiscardBy >= today && m.Bottle!.Kind != "bucket")
                    .OrderByDescending(m => m.LeftMl)
                    .Take(60)
            )
            .ToListAsync(stop);
        return open.Select(m => new Leftover(m.Agent, m.Strength, (double)m.LeftMl, m.Bottle)).ToArray();
    }

    /// <summary>
    /// Writes a mix into the log: refuses what may not go into that bottle, takes the product from the shelf in the same transaction.
    /// </summary>
    /// <returns>The record, what to mind, or why it was refused.</returns>
    public async Task<(MixRecord? Mix, string? Warning, string? Refused)> MixAsync(
        MixOrder order,
        string author,
        CancellationToken stop = default
    )
    {
        var c = Catalogue.Default;
        var product = await db.Products.AsNoTracking().FirstOrDefaultAsync(p => p.Id == order.Product && !p.Retired, stop);
        var bottle = await db.Kit.AsNoTracking().FirstOrDefaultAsync(k => k.Id == order.Bottle && !k.Retired, stop);
        if (product is null || bottle is null || c.Agents.FirstOrDefault(a => a.Id == product.Agent) is not { } agent)
        {
            return (null, null, product is null ? "product: is not on the shelf" : "bottle: is no bottle of the kit");
        }

        if (order.ProductMl <= 0 || order.WaterMl < 0 || order.ProductMl + order.WaterMl > (decimal)MixGiven.MostMl)
        {
            return (null, null, "product and water: product is greater than 0 ml, water 0 ml or more");
        }

        if (bottle.Ml is not > 0 || (double)(order.ProductMl + order.WaterMl) > bottle.Ml.Value * 1.0001)
        {
            return (null, null, $"bottle: {bottle.Name} holds {bottle.Ml ?? 0:0} ml, the mix is {order.ProductMl + order.WaterMl:0} ml");
        }

        if (Compatibility.Default.Blocked(agent, ShelfStore.Draft(product).ToShelf(LanceDraw.Uncalibrated, null)) is { } blocked)
        {
            return (null, null, $"product: {blocked.Words}");
        }

        await using var tx = await db.Database.BeginTransactionAsync(stop);
        await db.Database.ExecuteSqlAsync($"SELECT 1 FROM kit WHERE id = {bottle.Id} FOR UPDATE", stop);
        var last = await db
            .Mixes.Include(m => m.Product)
            .Where(m => m.BottleId == bottle.Id)
            .OrderByDescending(m => m.Number)
            .FirstOrDefaultAsync(stop);
        var empty = last is null || last.State != "in-use" || order.Emptied;
        var (refused, warning) = last is null
            ? (null, null)
            : MixSafety.Refill(agent, c.Agent(last.Product!.Agent), last.ProductId == product.Id, empty, order.RinsedThrice);
        if (refused is not null)
        {
            return (null, null, $"bottle: {bottle.Name}: {refused}");
        }

        if (last is { State: "in-use" })
        {
            if (!empty)
            {
                return (
                    null,
                    null,
                    $"bottle: {bottle.Name} still holds {last.LeftMl:0} ml of mix {last.Number}: say that it is empty, or top it up by the chain and write down the whole"
                );
            }

            last.State = "emptied";
            last.LeftMl = 0;
        }

        var number = (await db.Mixes.MaxAsync(m => (int?)m.Number, stop) ?? 0) + 1;
        var fraction = ProductFraction.Of((double)(order.ProductMl / (order.ProductMl + order.WaterMl)));
        var today = clock.Today;
        var mix = db
            .Mixes.Add(
                new MixRecord
                {
                    Number = number,
                    ProductId = product.Id,
                    BottleId = bottle.Id,
                    JobId = order.Job,
                    Fraction = fraction.Value,
                    ProductMl = Math.Round(order.ProductMl, 2),
                    WaterMl = Math.Round(order.WaterMl, 2),
                    LeftMl = Math.Round(order.ProductMl + order.WaterMl, 2),
                    State = "in-use",
                    Author = author,
                    At = clock.Now.ToDateTimeOffset(),
                    DiscardBy =
                        bottle.Kind == "bucket" ? today
                        : product.Expiry is { } expiry && expiry < c.Keeping[agent.Axis].DiscardBy(today, fraction) ? expiry
                        : c.Keeping[agent.Axis].DiscardBy(today, fraction),
                }
            )
            .Entity;
        try
        {
            await db.SaveChangesAsync(stop);
        }
        catch (DbUpdateException e) when (e.InnerException is PostgresException { SqlState: PostgresErrorCodes.UniqueViolation })
        {
            await tx.RollbackAsync(stop);
            db.ChangeTracker.Clear();
            return (null, null, "somebody mixed in the same moment: press again");
        }

        var move = await shelf.MoveAsync(product.Id, "use", mix.ProductMl, $"mix {number}, {bottle.Name}", author, order.Job, mix.Id, stop);
        if (!move.Done)
        {
            await tx.RollbackAsync(stop);
            db.ChangeTracker.Clear();
            return (null, null, $"product: {product.Name}: {move.Refused}");
        }

        if (order.Job is { } job)
        {
            await db.Reservations.Where(r => r.JobId == job && r.ProductId == product.Id && r.Ml <= mix.ProductMl).ExecuteDeleteAsync(stop);
            await db
                .Reservations.Where(r => r.JobId == job && r.ProductId == product.Id)
                .ExecuteUpdateAsync(s => s.SetProperty(r => r.Ml, r => r.Ml - mix.ProductMl), stop);
        }

        await tx.CommitAsync(stop);
        db.ChangeTracker.Clear();
        var expired = product.Expiry < today ? $"{product.Name} is past its date ({product.Expiry:yyyy-MM-dd})" : null;
        return (mix, warning ?? expired, null);
    }

    /// <summary>Writes down what is left in a bottle, or that it is emptied or discarded. False when somebody did meanwhile.</summary>
    public async Task<bool> LeftAsync(Guid mix, uint version, decimal leftMl, string state, CancellationToken stop = default)
    {
        var record = await db.Mixes.SingleAsync(m => m.Id == mix, stop);
        db.Entry(record).Property(m => m.Version).OriginalValue = version;
        (record.LeftMl, record.State) = (state == "in-use" ? leftMl : 0, state);
        try
        {
            await db.SaveChangesAsync(stop);
            return true;
        }
        catch (DbUpdateConcurrencyException)
        {
            return false;
        }
        finally
        {
            db.ChangeTracker.Clear();
        }
    }
}
