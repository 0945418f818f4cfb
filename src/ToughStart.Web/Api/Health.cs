using Microsoft.AspNetCore.RateLimiting;
using Microsoft.EntityFrameworkCore;
using ToughStart.Data;

namespace ToughStart.Web.Api;

/// <summary>Alive: the process answers. Ready: the database is there, of this version, and takes a write.</summary>
public static class Health
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(3);

    public static void MapHealth(this IEndpointRouteBuilder app)
    {
        app.MapGet("/healthz", () => Results.Text("ok")).ExcludeFromDescription().AllowAnonymous().DisableRateLimiting();
        app.MapGet("/readyz", ReadyAsync).ExcludeFromDescription().AllowAnonymous().DisableRateLimiting();
    }

    private static async Task<IResult> ReadyAsync(ToughStartContext db, CancellationToken stop)
    {
        using var patience = CancellationTokenSource.CreateLinkedTokenSource(stop);
        patience.CancelAfter(Patience);
        try
        {
            if ((await db.Database.GetPendingMigrationsAsync(patience.Token)).Any())
            {
                return Results.Text("the schema is older than this program: run the migration", statusCode: 503);
            }

            // A write that is taken back: a full disk or a read-only database is not ready.
            await using var trying = await db.Database.BeginTransactionAsync(patience.Token);
            await db.Shops.ExecuteUpdateAsync(s => s.SetProperty(x => x.Name, x => x.Name), patience.Token);
            await trying.RollbackAsync(patience.Token);
            return Results.Text("ready");
        }
        catch (Exception e) when (e is System.Data.Common.DbException or InvalidOperationException or OperationCanceledException)
        {
            return Results.Text("the database does not answer or takes no write", statusCode: 503);
        }
    }
}
