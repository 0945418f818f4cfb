using Microsoft.EntityFrameworkCore;

namespace ToughStart.Data;

/// <summary>What the gate has on record beside the log: damage drawn on the vehicle, and the paint's thickness.</summary>
public sealed class GateStore(ToughStartContext db, TimeProvider time)
{
    /// <summary>More damage than this on one vehicle is a vehicle for the body workshop.</summary>
    public const int MostMarks = 300;

    public async Task<IReadOnlyList<GateMark>> MarksAsync(Guid jobId, CancellationToken stop = default) =>
        await db.Marks.AsNoTracking().Where(m => m.JobId == jobId && !m.Struck).OrderBy(m => m.At).Take(MostMarks).ToListAsync(stop);

    /// <summary>Draws damage on a zone.</summary>
    /// <returns>Why not; null = it is drawn.</returns>
    public async Task<string?> MarkAsync(GateMark mark, CancellationToken stop = default)
    {
        if (await db.Marks.CountAsync(m => m.JobId == mark.JobId && !m.Struck, stop) >= MostMarks)
        {
            return $"there are {MostMarks} marks already";
        }

        db.Marks.Add(mark);
        await db.SaveChangesAsync(stop);
        db.ChangeTracker.Clear();
        return null;
    }

    /// <summary>What the client says to it.</summary>
    public async Task<bool> DecideAsync(Guid jobId, Guid mark, string decision, CancellationToken stop = default) =>
        await db
            .Marks.Where(m => m.JobId == jobId && m.Id == mark && !m.Struck)
            .ExecuteUpdateAsync(s => s.SetProperty(m => m.Decision, decision), stop) == 1;

    /// <summary>It was drawn by mistake.</summary>
    public async Task<bool> StrikeAsync(Guid jobId, Guid mark, CancellationToken stop = default) =>
        await db.Marks.Where(m => m.JobId == jobId && m.Id == mark).ExecuteUpdateAsync(s => s.SetProperty(m => m.Struck, true), stop) == 1;

    /// <summary>More tries than this on one vehicle is nobody's patience.</summary>
    public const int MostTries = 200;

    /// <summary>What was tried on marks nobody is sure of, the oldest first.</summary>
    public async Task<IReadOnlyList<MarkTry>> TriesAsync(Guid jobId, CancellationToken stop = default) =>
        await db.Tries.AsNoTracking().Where(t => t.JobId == jobId && !t.Struck).OrderBy(t => t.At).Take(MostTries).ToListAsync(stop);

    /// <summary>Writes a try down.</summary>
    /// <returns>Why not; null = it is written down.</returns>
    public async Task<string?> TryAsync(MarkTry tried, CancellationToken stop = default)
    {
        if (await db.Tries.CountAsync(t => t.JobId == tried.JobId, stop) >= MostTries)
        {
            return $"there are {MostTries} tries already";
        }

        db.Tries.Add(tried);
        await db.SaveChangesAsync(stop);
        db.ChangeTracker.Clear();
        return null;
    }

    /// <summary>A try was written down by mistake.</summary>
    public async Task<bool> StrikeTryAsync(Guid jobId, Guid id, CancellationToken stop = default) =>
        await db.Tries.Where(t => t.JobId == jobId && t.Id == id).ExecuteUpdateAsync(s => s.SetProperty(t => t.Struck, true), stop) == 1;

    /// <summary>Spots of paint thickness by zone, µm, in the order in which they were measured.</summary>
    public async Task<IReadOnlyDictionary<string, double[]>> FilmAsync(Guid jobId, CancellationToken stop = default) =>
        (
            await db
                .Readings.AsNoTracking()
                .Where(r => r.JobId == jobId && r.Kind == "film")
                .OrderBy(r => r.At)
                .Select(r => new { r.Zone, r.Value })
                .Take(5000)
                .ToListAsync(stop)
        )
            .GroupBy(r => r.Zone)
            .ToDictionary(g => g.Key, g => g.Select(r => r.Value).ToArray());

    /// <summary>Now, by the shop's clock.</summary>
    public DateTimeOffset Now => time.GetUtcNow();
}
