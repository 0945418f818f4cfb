using Microsoft.EntityFrameworkCore;

namespace ToughStart.Data;

/// <summary>Who works in a shop, when and at what, and how many machines they share.</summary>
public sealed class CrewStore(ToughStartContext db)
{
    public const int MostMachines = 9,
        LongestBreak = 180;

    private const int MostWorkers = 50;

    /// <summary>People who work, by name; whoever only reads does not.</summary>
    public async Task<IReadOnlyList<StaffUser>> WorkersAsync(CancellationToken stop = default)
    {
        var readers = db.Roles.Where(r => r.Name == Roles.Reader).Select(r => r.Id);
        return await db
            .Users.AsNoTracking()
            .Where(u => !db.UserRoles.Any(x => x.UserId == u.Id && readers.Contains(x.RoleId)))
            .OrderBy(u => u.DisplayName)
            .Take(MostWorkers)
            .ToListAsync(stop);
    }

    public async Task<(int Washers, int Ladders, int Bays)> MachinesAsync(CancellationToken stop = default) =>
        await db.Shops.AsNoTracking().OrderBy(s => s.Id).FirstOrDefaultAsync(stop) is { } shop
            ? (shop.Washers, shop.Ladders, shop.Bays)
            : (1, 1, 1);

    /// <summary>Keeps hours and skills of people, and the machines.</summary>
    public async Task KeepAsync(IEnumerable<StaffUser> people, int washers, int ladders, int bays, CancellationToken stop = default)
    {
        await using var tx = await db.Database.BeginTransactionAsync(stop);
        foreach (var p in people)
        {
            await db
                .Users.Where(u => u.Id == p.Id)
                .ExecuteUpdateAsync(
                    s =>
                        s.SetProperty(u => u.WorksFrom, p.WorksFrom)
                            .SetProperty(u => u.WorksTo, p.WorksTo)
                            .SetProperty(u => u.Break, p.Break)
                            .SetProperty(u => u.BreakFrom, p.BreakFrom)
                            .SetProperty(u => u.BreakTo, p.BreakTo)
                            .SetProperty(u => u.Skills, p.Skills),
                    stop
                );
        }

        var shop = await db.Shops.OrderBy(s => s.Id).FirstOrDefaultAsync(stop) ?? db.Shops.Add(new Shop { Name = "Shop" }).Entity;
        (shop.Washers, shop.Ladders, shop.Bays) = (washers, ladders, bays);
        await db.SaveChangesAsync(stop);
        await tx.CommitAsync(stop);
        db.ChangeTracker.Clear();
    }
}
