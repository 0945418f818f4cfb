using Microsoft.EntityFrameworkCore.Storage;

namespace ToughStart.Data;

/// <summary>Writing that stands or falls together: within another's it is part of that, and only the outer one commits.</summary>
public sealed class Together : IAsyncDisposable
{
    private readonly IDbContextTransaction? _own;

    private Together(IDbContextTransaction? own) => _own = own;

    public static async Task<Together> BeginAsync(ToughStartContext db, CancellationToken stop = default) =>
        new(db.Database.CurrentTransaction is null ? await db.Database.BeginTransactionAsync(stop) : null);

    public Task CommitAsync(CancellationToken stop = default) => _own?.CommitAsync(stop) ?? Task.CompletedTask;

    /// <summary>What was not committed is undone.</summary>
    public ValueTask DisposeAsync() => _own?.DisposeAsync() ?? ValueTask.CompletedTask;
}
