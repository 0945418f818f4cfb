using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using ToughStart.Core.Formats;

namespace ToughStart.Data;

/// <summary>Sets of house rules the shop keeps by name.</summary>
public sealed class HouseStore(ToughStartContext db, TimeProvider time)
{
    public const int Most = 40;

    public async Task<IReadOnlyList<HousePreset>> AllAsync(CancellationToken stop = default) =>
        await db.HousePresets.AsNoTracking().OrderBy(p => p.Name).Take(Most).ToListAsync(stop);

    /// <summary>The rules of a preset, those that still exist; null when it is gone.</summary>
    public async Task<IReadOnlyDictionary<string, string>?> RulesAsync(Guid id, CancellationToken stop = default) =>
        await db.HousePresets.AsNoTracking().FirstOrDefaultAsync(p => p.Id == id, stop) is not { } preset ? null : Known(preset);

    /// <summary>The set new jobs start with; null = none, they start with the product's own defaults.</summary>
    public async Task<(string Name, IReadOnlyDictionary<string, string> Rules)?> ForNewJobsAsync(CancellationToken stop = default) =>
        await db.HousePresets.AsNoTracking().OrderBy(p => p.Name).FirstOrDefaultAsync(p => p.ForNewJobs, stop) is { } preset
            ? (preset.Name, Known(preset))
            : null;

    /// <summary>Lets new jobs start with this set and no other; null = with none.</summary>
    /// <returns>False when the set is gone.</returns>
    public async Task<bool> ForNewJobsAsync(Guid? id, CancellationToken stop = default)
    {
        await using var all = await db.Database.BeginTransactionAsync(stop);
        if (id is not null && !await db.HousePresets.AnyAsync(p => p.Id == id, stop))
        {
            return false;
        }

        await db.HousePresets.Where(p => p.ForNewJobs).ExecuteUpdateAsync(p => p.SetProperty(x => x.ForNewJobs, false), stop);
        await db.HousePresets.Where(p => p.Id == id).ExecuteUpdateAsync(p => p.SetProperty(x => x.ForNewJobs, true), stop);
        await all.CommitAsync(stop);
        return true;
    }

    private static Dictionary<string, string> Known(HousePreset preset) =>
        JsonSerializer
            .Deserialize<Dictionary<string, string>>(preset.Rules)!
            .Where(r => HouseRules.All.Any(h => h.Id == r.Key && h.Choices.Any(c => c.Value == r.Value)))
            .ToDictionary(r => r.Key, r => r.Value);

    /// <summary>Keeps a set of rules; the same name again replaces it.</summary>
    /// <returns>False when there are too many already.</returns>
    public async Task<bool> KeepAsync(
        string name,
        IReadOnlyDictionary<string, string> rules,
        string author,
        CancellationToken stop = default
    )
    {
        var kept = await db.HousePresets.FirstOrDefaultAsync(p => p.Name == name, stop);
        if (kept is null && await db.HousePresets.CountAsync(stop) >= Most)
        {
            return false;
        }

        var body = JsonSerializer.Serialize(rules.OrderBy(r => r.Key, StringComparer.Ordinal).ToDictionary(r => r.Key, r => r.Value));
        if (kept is null)
        {
            db.HousePresets.Add(
                new HousePreset
                {
                    Name = name,
                    Rules = body,
                    Author = author,
                    At = time.GetUtcNow(),
                }
            );
        }
        else
        {
            (kept.Rules, kept.Author, kept.At) = (body, author, time.GetUtcNow());
        }

        await db.SaveChangesAsync(stop);
        db.ChangeTracker.Clear();
        return true;
    }

    public Task ForgetAsync(Guid id, CancellationToken stop = default) => db.HousePresets.Where(p => p.Id == id).ExecuteDeleteAsync(stop);
}
