using System.Data;
using Microsoft.EntityFrameworkCore;
using Npgsql;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Costing;
using ToughStart.Core.Planning;

namespace ToughStart.Data;

/// <summary>One line of the shelf.</summary>
public sealed record ShelfLine(
    Guid Id,
    string Name,
    string Agent,
    StrengthBasis Basis,
    string? Low,
    string? Reference,
    string? High,
    decimal StockMl,
    decimal ReservedMl,
    decimal LeastMl,
    decimal PackMl,
    decimal Price,
    DateOnly? Expiry,
    string[] Hazards,
    bool Fluoride,
    DateOnly? SheetOn,
    bool Retired
)
{
    public decimal FreeMl => StockMl - ReservedMl;

    /// <summary>Packs to order so that the plans on file are covered and the least stays; 0 when there is enough.</summary>
    public int OrderPacks => Retired || FreeMl >= LeastMl || PackMl <= 0 ? 0 : (int)Math.Ceiling((LeastMl - FreeMl) / PackMl);
}

/// <summary>A page of the shelf.</summary>
/// <param name="Count">How many there are; counted to one more than can be leafed through.</param>
public sealed record ShelfPage(IReadOnlyList<ShelfLine> Lines, int Count)
{
    /// <summary>More than one leafs through: one searches.</summary>
    public bool IsMore => Count > ShelfStore.PageSize * ShelfStore.MostPages;
}

/// <summary>A move of the ledger with who and for what.</summary>
public sealed record MoveLine(
    DateTimeOffset At,
    string Kind,
    decimal Ml,
    decimal BalanceMl,
    int? Job,
    int? Mix,
    string? Note,
    string Author
);

/// <summary>A move done, or why not.</summary>
public sealed record MoveResult(bool Done, decimal StockMl, string? Refused);

/// <summary>The shelf: products, their ledger, what plans have put by, and what to order.</summary>
public sealed class ShelfStore(ToughStartContext db, TimeProvider time)
{
    public const int PageSize = 60;

    /// <summary>Further pages than this are not leafed through.</summary>
    public const int MostPages = 40;

    /// <summary>Products to order that are told of at once.</summary>
    private const int MostToOrder = 100;

    public static IReadOnlyList<string> MoveKinds { get; } = ["receive", "use", "waste", "count"];

    /// <summary>The shelf by name; a search looks in names and classes.</summary>
    public async Task<ShelfPage> ListAsync(string? search, string? agent, int page, CancellationToken stop = default)
    {
        var query = db.Products.AsNoTracking().Where(p => !p.Retired);
        if (!string.IsNullOrWhiteSpace(search))
        {
            var like = Part.Of(search.Trim());
            query = query.Where(p => EF.Functions.ILike(p.Name, like, Part.Escape) || EF.Functions.ILike(p.Agent, like, Part.Escape));
        }

        if (!string.IsNullOrEmpty(agent))
        {
            query = query.Where(p => p.Agent == agent);
        }

        var count = await query.OrderBy(p => p.Agent).ThenBy(p => p.Name).Take((PageSize * MostPages) + 1).CountAsync(stop);
        return new(
            await Lines(query.OrderBy(p => p.Agent).ThenBy(p => p.Name).Skip(Math.Max(0, page - 1) * PageSize).Take(PageSize))
                .ToListAsync(stop),
            count
        );
    }

    private IQueryable<ShelfLine> Lines(IQueryable<Product> products) =>
        products.Select(p => new ShelfLine(
            p.Id,
            p.Name,
            p.Agent,
            p.Basis,
            p.Low,
            p.Reference,
            p.High,
            p.StockMl,
            db.Reservations.Where(r => r.ProductId == p.Id).Sum(r => (decimal?)r.Ml) ?? 0,
            p.LeastMl,
            p.PackMl,
            p.Price,
            p.Expiry,
            p.Hazards,
            p.Fluoride,
            p.SheetOn,
            p.Retired
        ));

    /// <summary>What to order, dearest shortage first: less is free than should be.</summary>
    public async Task<IReadOnlyList<ShelfLine>> ToOrderAsync(CancellationToken stop = default)
    {
        // What is short by itself has an index of its own; what plans have put by stands in few rows.
        var low = await db
            .Products.Where(p => !p.Retired && p.StockMl < p.LeastMl)
            .OrderBy(p => p.Name)
            .Select(p => p.Id)
            .Take(MostToOrder)
            .ToListAsync(stop);
        var promised = await db
            .Reservations.GroupBy(r => r.ProductId)
            .Select(g => new { Id = g.Key, Ml = g.Sum(r => r.Ml) })
            .Join(db.Products, r => r.Id, p => p.Id, (r, p) => new { p, r.Ml })
            .Where(x => !x.p.Retired && x.p.StockMl >= x.p.LeastMl && x.p.StockMl - x.Ml < x.p.LeastMl)
            .OrderBy(x => x.p.Name)
            .Select(x => x.p.Id)
            .Take(MostToOrder)
            .ToListAsync(stop);
        Guid[] ids = [.. low, .. promised];
        var lines = await Lines(db.Products.AsNoTracking().Where(p => ids.Contains(p.Id)).OrderBy(p => p.Name).Take(MostToOrder))
            .ToListAsync(stop);
        return lines.OrderByDescending(l => l.OrderPacks * l.Price).ToArray();
    }

    /// <summary>Products in stock or not, for a list to choose from.</summary>
    public async Task<IReadOnlyList<Product>> SomeAsync(int most, CancellationToken stop = default) =>
        await db.Products.AsNoTracking().Where(p => !p.Retired).OrderBy(p => p.Name).Take(most).ToListAsync(stop);

    /// <summary>Products by id, or by name where a plan of long ago knows no more.</summary>
    public async Task<IReadOnlyList<Product>> NamedAsync(
        IReadOnlyCollection<Guid> ids,
        IReadOnlyCollection<string> names,
        CancellationToken stop = default
    ) => await db.Products.AsNoTracking().Where(p => !p.Retired && (ids.Contains(p.Id) || names.Contains(p.Name))).ToListAsync(stop);

    public async Task<Product?> ProductAsync(Guid id, CancellationToken stop = default) =>
        await db.Products.AsNoTracking().FirstOrDefaultAsync(p => p.Id == id, stop);

    /// <summary>Other bottles of the same class, for the comparison of what they cost at work.</summary>
    public async Task<IReadOnlyList<Product>> SameClassAsync(string agent, CancellationToken stop = default) =>
        await db.Products.AsNoTracking().Where(p => p.Agent == agent && !p.Retired).OrderBy(p => p.Name).Take(40).ToListAsync(stop);

    public async Task<IReadOnlyList<MoveLine>> MovesAsync(Guid product, CancellationToken stop = default) =>
        await db
            .Moves.AsNoTracking()
            .Where(m => m.ProductId == product)
            .OrderByDescending(m => m.Sequence)
            .Take(60)
            .Select(m => new MoveLine(
                m.At,
                m.Kind,
                m.Ml,
                m.BalanceMl,
                db.Jobs.Where(j => j.Id == m.JobId).Select(j => (int?)j.Number).FirstOrDefault(),
                db.Mixes.Where(x => x.Id == m.MixId).Select(x => (int?)x.Number).FirstOrDefault(),
                m.Note,
                m.Author
            ))
            .ToListAsync(stop);

    /// <summary>Open jobs that have put some of a product by.</summary>
    public async Task<IReadOnlyList<(int Job, decimal Ml)>> ReservedByAsync(Guid product, CancellationToken stop = default) =>
        (
            await db
                .Reservations.AsNoTracking()
                .Where(r => r.ProductId == product)
                .Join(db.Jobs, r => r.JobId, j => j.Id, (r, j) => new { j.Number, r.Ml })
                .OrderBy(x => x.Number)
                .ToListAsync(stop)
        )
            .Select(x => (x.Number, x.Ml))
            .ToArray();

    /// <summary>What jobs have used of a product on average, and how many.</summary>
    public async Task<(int Jobs, decimal AverageMl)> UsedPerJobAsync(Guid product, CancellationToken stop = default)
    {
        var by = await db
            .Moves.AsNoTracking()
            .Where(m => m.ProductId == product && m.JobId != null && m.Kind == "use")
            .GroupBy(m => m.JobId)
            .Select(g => -g.Sum(m => m.Ml))
            .ToListAsync(stop);
        return by.Count == 0 ? (0, 0) : (by.Count, by.Average());
    }

    /// <summary>Adds or changes a product. Its stock is no field of it: a first stock is received, a changed one counted.</summary>
    /// <returns>The product's id, or why nothing was saved: the name is taken, or somebody saved it meanwhile.</returns>
    public async Task<(Guid Id, string? Refused)> SaveAsync(
        Guid? id,
        uint version,
        ProductDraft d,
        string author,
        CancellationToken stop = default
    )
    {
        var product = id is { } known
            ? await db.Products.SingleAsync(p => p.Id == known, stop)
            : db
                .Products.Add(
                    new Product
                    {
                        Name = d.Name,
                        Agent = d.Agent,
                        Basis = d.Basis,
                        Author = author,
                    }
                )
                .Entity;
        if (id is not null)
        {
            db.Entry(product).Property(p => p.Version).OriginalValue = version;
        }

        Put(product, d);
        if (id is not null)
        {
            // A save that changes nothing still has to notice that somebody else did.
            db.Entry(product).Property(p => p.Name).IsModified = true;
        }

        try
        {
            await db.SaveChangesAsync(stop);
        }
        catch (DbUpdateConcurrencyException)
        {
            db.ChangeTracker.Clear();
            return (id ?? Guid.Empty, "somebody saved this product meanwhile: your words are still here, look at theirs and save again");
        }
        catch (DbUpdateException e) when (e.InnerException is PostgresException { SqlState: PostgresErrorCodes.UniqueViolation })
        {
            db.ChangeTracker.Clear();
            return (Guid.Empty, $"name: '{d.Name}' is on the shelf already");
        }

        if (id is null && d.StockMl is > 0)
        {
            await MoveAsync(product.Id, "receive", d.StockMl.Value, "first stock", author, stop: stop);
        }

        return (product.Id, null);
    }

    /// <summary>Takes a product off the shelf for good; its ledger stays.</summary>
    public async Task RetireAsync(Guid id, CancellationToken stop = default)
    {
        await db.Reservations.Where(r => r.ProductId == id).ExecuteDeleteAsync(stop);
        await db.Products.Where(p => p.Id == id).ExecuteUpdateAsync(s => s.SetProperty(p => p.Retired, true), stop);
    }

    public async Task KeepSheetAsync(
        Guid product,
        string fileName,
        byte[] pdf,
        DateOnly on,
        string author,
        CancellationToken stop = default
    )
    {
        if (await db.Sheets.FirstOrDefaultAsync(s => s.ProductId == product, stop) is { } there)
        {
            (there.FileName, there.Pdf, there.Author, there.At) = (fileName, pdf, author, time.GetUtcNow());
        }
        else
        {
            db.Sheets.Add(
                new ProductSheet
                {
                    ProductId = product,
                    FileName = fileName,
                    Pdf = pdf,
                    Author = author,
                    At = time.GetUtcNow(),
                }
            );
        }

        await db.SaveChangesAsync(stop);
        await db.Products.Where(p => p.Id == product).ExecuteUpdateAsync(s => s.SetProperty(p => p.SheetOn, on), stop);
    }

    public async Task<ProductSheet?> SheetAsync(Guid product, CancellationToken stop = default) =>
        await db.Sheets.AsNoTracking().FirstOrDefaultAsync(s => s.ProductId == product, stop);

    public async Task<string?> SheetNameAsync(Guid product, CancellationToken stop = default) =>
        await db.Sheets.Where(s => s.ProductId == product).Select(s => s.FileName).FirstOrDefaultAsync(stop);

    /// <summary>
    /// Moves stock. The row is locked while it is weighed, so two people cannot take the last litre: the second is told what is left
    /// and who was faster. The product's stock is the sum of its moves, always.
    /// </summary>
    /// <param name="ml">Of a receipt, use or waste: how much, greater than 0. Of a count: what is there, 0 or more.</param>
    public async Task<MoveResult> MoveAsync(
        Guid product,
        string kind,
        decimal ml,
        string? note,
        string author,
        Guid? job = null,
        Guid? mix = null,
        CancellationToken stop = default
    )
    {
        if (!MoveKinds.Contains(kind))
        {
            return new(false, 0, $"'{kind}' is no kind of move; allowed: {string.Join(", ", MoveKinds)}");
        }

        ml = Math.Round(ml, 2);
        if (kind == "count" ? ml < 0 : ml <= 0 || ml > 10_000_000)
        {
            return new(false, 0, kind == "count" ? "a count is 0 ml or more" : "the amount is greater than 0 ml");
        }

        if (db.Database.CurrentTransaction is not null)
        {
            return await MoveLockedAsync(product, kind, ml, note, author, job, mix, stop);
        }

        await using var tx = await db.Database.BeginTransactionAsync(IsolationLevel.ReadCommitted, stop);
        var result = await MoveLockedAsync(product, kind, ml, note, author, job, mix, stop);
        if (result.Done)
        {
            await tx.CommitAsync(stop);
        }

        return result;
    }

    private async Task<MoveResult> MoveLockedAsync(
        Guid product,
        string kind,
        decimal ml,
        string? note,
        string author,
        Guid? job,
        Guid? mix,
        CancellationToken stop
    )
    {
        var stock = (
            await db
                .Database.SqlQuery<decimal>($"SELECT stock_ml AS \"Value\" FROM products WHERE id = {product} FOR UPDATE")
                .ToListAsync(stop)
        )
            .Select(v => (decimal?)v)
            .FirstOrDefault();
        if (stock is not { } now)
        {
            return new(false, 0, "there is no such product");
        }

        var delta = kind switch
        {
            "receive" => ml,
            "count" => ml - now,
            _ => -ml,
        };
        if (now + delta < 0)
        {
            var last = await db
                .Moves.AsNoTracking()
                .Where(m => m.ProductId == product)
                .OrderByDescending(m => m.Sequence)
                .Select(m => new
                {
                    m.Author,
                    m.At,
                    m.Ml,
                })
                .FirstOrDefaultAsync(stop);
            return new(
                false,
                now,
                $"only {now:0.##} ml are left of it, {ml:0.##} ml are wanted{(last is { Ml: < 0 } ? $"; {last.Author} took {-last.Ml:0.##} ml at {last.At:yyyy-MM-dd HH:mm} UTC" : "")}. Nothing was booked: count the shelf if it holds more"
            );
        }

        db.Moves.Add(
            new StockMove
            {
                ProductId = product,
                Kind = kind,
                Ml = delta,
                BalanceMl = now + delta,
                JobId = job,
                MixId = mix,
                Note = note,
                Author = author,
                At = time.GetUtcNow(),
            }
        );
        await db.SaveChangesAsync(stop);
        await db.Products.Where(p => p.Id == product).ExecuteUpdateAsync(s => s.SetProperty(p => p.StockMl, now + delta), stop);
        return new(true, now + delta, null);
    }

    /// <summary>Puts by what a plan needs; what an earlier plan of the job had put by is let go.</summary>
    internal async Task ReserveAsync(Guid job, Plan plan, CancellationToken stop = default)
    {
        // By id: whatever a bottle is called by now, it is the one that was planned with.
        var need = JobVolumes
            .Solutions(plan)
            .Where(s => s.BottleId is not null && s.ProductMl > 0)
            .GroupBy(s => Guid.Parse(s.BottleId!))
            .ToDictionary(g => g.Key, g => Math.Round((decimal)g.Sum(s => s.ProductMl), 2));
        var wanted = need.Keys.ToArray();
        var ids = await db.Products.Where(p => wanted.Contains(p.Id) && !p.Retired).Select(p => p.Id).ToListAsync(stop);
        var drawn = await db
            .Moves.Where(m => m.JobId == job && m.Kind == "use")
            .GroupBy(m => m.ProductId)
            .Select(g => new { g.Key, Ml = -g.Sum(m => m.Ml) })
            .ToDictionaryAsync(x => x.Key, x => x.Ml, stop);
        await db.Reservations.Where(r => r.JobId == job).ExecuteDeleteAsync(stop);
        db.Reservations.AddRange(
            ids.Select(p => new StockReservation
                {
                    JobId = job,
                    ProductId = p,
                    Ml = need[p] - drawn.GetValueOrDefault(p),
                })
                .Where(r => r.Ml > 0)
        );
        await db.SaveChangesAsync(stop);
    }

    /// <summary>What a job has put by and drawn, by product.</summary>
    public async Task<IReadOnlyList<(Guid Product, string Name, decimal ReservedMl, decimal DrawnMl, decimal StockMl)>> OfJobAsync(
        Guid job,
        CancellationToken stop = default
    )
    {
        var reserved = await db.Reservations.AsNoTracking().Where(r => r.JobId == job).ToDictionaryAsync(r => r.ProductId, r => r.Ml, stop);
        var drawn = await db
            .Moves.AsNoTracking()
            .Where(m => m.JobId == job && m.Kind == "use")
            .GroupBy(m => m.ProductId)
            .Select(g => new { g.Key, Ml = -g.Sum(m => m.Ml) })
            .ToDictionaryAsync(x => x.Key, x => x.Ml, stop);
        var ids = reserved.Keys.Union(drawn.Keys).ToArray();
        var products = await db
            .Products.AsNoTracking()
            .Where(p => ids.Contains(p.Id))
            .OrderBy(p => p.Name)
            .Select(p => new
            {
                p.Id,
                p.Name,
                p.StockMl,
            })
            .ToListAsync(stop);
        return products.Select(p => (p.Id, p.Name, reserved.GetValueOrDefault(p.Id), drawn.GetValueOrDefault(p.Id), p.StockMl)).ToArray();
    }

    /// <summary>Products by name, for lists to choose from.</summary>
    public async Task<IReadOnlyList<(Guid Id, string Name)>> NamesAsync(CancellationToken stop = default) =>
        [
            .. (
                await db
                    .Products.AsNoTracking()
                    .Where(p => !p.Retired)
                    .OrderBy(p => p.Name)
                    .Select(p => new { p.Id, p.Name })
                    .Take(MostNamed)
                    .ToListAsync(stop)
            ).Select(p => (p.Id, p.Name)),
        ];

    /// <summary>More than this nobody chooses from a list.</summary>
    public const int MostNamed = 400;

    /// <summary>Closes a job: what was really used leaves the shelf, what was put by is let go. All of it or nothing.</summary>
    /// <param name="used">Neat ml by product, beyond what its mixes have drawn already.</param>
    /// <returns>Null when done, else which product is short, and nothing of it may be committed.</returns>
    public async Task<string?> CloseAsync(
        Guid job,
        IReadOnlyList<(Guid Product, decimal Ml)> used,
        string author,
        CancellationToken stop = default
    )
    {
        await using var tx = await Together.BeginAsync(db, stop);
        await db.Database.ExecuteSqlAsync($"SELECT 1 FROM jobs WHERE id = {job} FOR UPDATE", stop);
        if (await db.Jobs.AnyAsync(j => j.Id == job && j.Station == "closed", stop))
        {
            return "this job was closed already: nothing was booked twice";
        }

        // Always in one order, so that two jobs closing at once wait for each other instead of locking up.
        foreach (var (product, ml) in used.Where(u => u.Ml > 0).OrderBy(u => u.Product))
        {
            var move = await MoveAsync(product, "use", ml, "job closed", author, job, stop: stop);
            if (!move.Done)
            {
                var name = await db.Products.Where(p => p.Id == product).Select(p => p.Name).FirstOrDefaultAsync(stop);
                db.ChangeTracker.Clear();
                return $"{name}: {move.Refused}";
            }
        }

        await db.Reservations.Where(r => r.JobId == job).ExecuteDeleteAsync(stop);
        await db.Jobs.Where(j => j.Id == job).ExecuteUpdateAsync(s => s.SetProperty(j => j.Station, "closed"), stop);
        await tx.CommitAsync(stop);
        db.ChangeTracker.Clear();
        return null;
    }

    /// <summary>The shelf as the planner takes it; null when the shop keeps none.</summary>
    /// <param name="countedFor">Count the bottles for this job; null = a plan only has to know whether there is any at all, for amounts change with every spray.</param>
    public async Task<IReadOnlyList<ShelfBottle>?> BottlesAsync(LanceDraw lance, Guid? countedFor = null, CancellationToken stop = default)
    {
        var products = await db.Products.AsNoTracking().Where(p => !p.Retired).OrderBy(p => p.Name).ToListAsync(stop);
        if (countedFor is not { } job)
        {
            return products.Count == 0
                ? null
                : products.Select(p => Draft(p).ToShelf(lance, p.StockMl > 0 ? null : 0) with { Id = p.Id.ToString() }).ToArray();
        }

        // What other jobs have put by is not this one's. What it has drawn itself it still has, on the car or in a bottle; neat in a trigger it is counted with the kit.
        var others = await db
            .Reservations.Where(r => r.JobId != job)
            .GroupBy(r => r.ProductId)
            .Select(g => new { g.Key, Ml = g.Sum(r => r.Ml) })
            .ToDictionaryAsync(x => x.Key, x => x.Ml, stop);
        var drawn = await db
            .Moves.Where(m => m.JobId == job && m.Kind == "use")
            .GroupBy(m => m.ProductId)
            .Select(g => new { g.Key, Ml = -g.Sum(m => m.Ml) })
            .ToDictionaryAsync(x => x.Key, x => x.Ml, stop);
        var neat = await db
            .Mixes.Where(m => m.JobId == job && m.State == "in-use" && m.WaterMl == 0)
            .GroupBy(m => m.ProductId)
            .Select(g => new { g.Key, Ml = g.Sum(m => m.LeftMl) })
            .ToDictionaryAsync(x => x.Key, x => x.Ml, stop);
        return products.Count == 0
            ? null
            : products
                .Select(p =>
                    Draft(p)
                        .ToShelf(
                            lance,
                            p.StockMl <= 0 && drawn.GetValueOrDefault(p.Id) <= 0
                                ? 0
                                : Math.Max(
                                    Spoken,
                                    p.StockMl
                                        - others.GetValueOrDefault(p.Id)
                                        + drawn.GetValueOrDefault(p.Id)
                                        - neat.GetValueOrDefault(p.Id)
                                )
                        ) with
                    {
                        Id = p.Id.ToString(),
                    }
                )
                .ToArray();
    }

    /// <summary>A bottle that is there, though all of it is put by for others: next to nothing, ml.</summary>
    private const decimal Spoken = 0.01m;

    /// <summary>A product as its label has it.</summary>
    public static ProductDraft Draft(Product p) =>
        new(
            p.Name,
            p.Agent,
            p.Basis,
            p.Low,
            p.Reference,
            p.High,
            p.DwellMinutes,
            p.MaxDwellMinutes,
            p.NeatPh,
            p.WorkingPh,
            p.Carrier,
            p.Price,
            p.PackMl,
            p.StockMl,
            p.LeastMl,
            p.Batch,
            p.Expiry,
            p.Hazards,
            p.Contains,
            p.Allows,
            p.Forbids,
            p.Fluoride,
            p.SheetOn,
            p.Efficacy
        );

    private static void Put(Product p, ProductDraft d)
    {
        (p.Name, p.Agent, p.Basis, p.Low, p.Reference, p.High) = (d.Name, d.Agent, d.Basis, d.Low, d.Reference, d.High);
        (p.DwellMinutes, p.MaxDwellMinutes, p.NeatPh, p.WorkingPh, p.Carrier) = (
            d.DwellMinutes,
            d.MaxDwellMinutes,
            d.NeatPh,
            d.WorkingPh,
            d.Carrier
        );
        (p.Price, p.PackMl, p.LeastMl, p.Batch, p.Expiry) = (d.Price, d.PackMl, d.LeastMl, d.Batch, d.Expiry);
        (p.Hazards, p.Contains, p.Allows, p.Forbids) = ([.. d.Hazards], [.. d.Contains], [.. d.Allows], [.. d.Forbids]);
        (p.Fluoride, p.SheetOn, p.Efficacy) = (d.Fluoride, d.SheetOn, d.Efficacy);
    }
}
