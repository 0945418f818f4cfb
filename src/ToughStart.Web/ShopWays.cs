using System.Text;
using System.Text.Json;
using System.Text.RegularExpressions;
using Microsoft.Extensions.DependencyInjection;
using ToughStart.Core.Formats;
using ToughStart.Data;

namespace ToughStart.Web;

/// <summary>The shop's ways as they are kept; looked up again every few seconds, so that every instance follows a change.</summary>
public sealed class ShopWays(IServiceScopeFactory scopes, TimeProvider time)
{
    private static readonly TimeSpan Fresh = TimeSpan.FromSeconds(10);
    private (string Name, Ways Ways, DateTimeOffset At)? _known;

    public string Name => _known?.Name ?? "";

    public Ways Now => _known?.Ways ?? Ways.Standard;

    /// <summary>Looks them up unless that was done just now. A database that is away changes nothing.</summary>
    public async ValueTask LookAsync(CancellationToken stop)
    {
        if (_known is { } known && time.GetUtcNow() - known.At < Fresh)
        {
            return;
        }

        try
        {
            await using var scope = scopes.CreateAsyncScope();
            var (name, ways) = await scope.ServiceProvider.GetRequiredService<SiteStore>().WaysAsync(stop);
            _known = (name, ways, time.GetUtcNow());
        }
        catch (Exception e) when (e is System.Data.Common.DbException || Failure.IsDatabaseAway(e))
        {
            // How numbers are written is no reason for a page to fail; one that needs the database says so itself.
        }
    }

    public void Forget() => _known = null;
}

/// <summary>Writes measures and numbers of every page the shop's way. Pages say them in SI units; a metric shop's pages pass as they are.</summary>
public static partial class WaysOfPages
{
    public static void UseShopWays(this IApplicationBuilder app) =>
        app.Use(
            async (http, next) =>
            {
                var book = http.RequestServices.GetRequiredService<ShopWays>();
                var accept = http.Request.Headers.Accept.ToString();
                if (
                    (
                        http.Request.Path.StartsWithSegments("/api")
                        || http.Request.Path.StartsWithSegments("/healthz")
                        || http.Request.Path.StartsWithSegments("/readyz")
                    ) || !(accept.Contains("text/html") || accept.Contains("*/*") || accept.Length == 0)
                )
                {
                    await next(http);
                    return;
                }

                await WaysOfForms.UnderstandAsync(http.Request);
                await book.LookAsync(http.RequestAborted);
                if (book.Now.IsPlain || accept.Contains("text/event-stream"))
                {
                    await next(http);
                    return;
                }

                var body = http.Response.Body;
                using var held = new MemoryStream();
                http.Response.Body = held;
                try
                {
                    await next(http);
                }
                finally
                {
                    http.Response.Body = body;
                }

                var isPage = http.Response.ContentType?.StartsWith("text/html", StringComparison.Ordinal) == true;
                var bytes = isPage ? Encoding.UTF8.GetBytes(Page(Encoding.UTF8.GetString(held.ToArray()), book.Now)) : held.ToArray();
                if (bytes.Length > 0)
                {
                    http.Response.ContentLength = bytes.Length;
                    await body.WriteAsync(bytes, http.RequestAborted);
                }
            }
        );

    /// <summary>The same for the texts that scripts write; null = a metric shop needs none.</summary>
    public static string? Json(Ways ways) =>
        ways.IsPlain ? null : JsonSerializer.Serialize(new { changes = ways.Changes, comma = ways.DecimalComma }, Written);

    private static readonly JsonSerializerOptions Written = new(JsonSerializerDefaults.Web);

    /// <summary>A page with its texts written the shop's way; tags, scripts and what is typed into fields stay as they are.</summary>
    public static string Page(string html, Ways ways) =>
        Text().Replace(WaysOfForms.Ask(html, ways), m => m.Groups["text"].Success ? ways.Say(m.Value) : m.Value);

    [GeneratedRegex(@"<(?:script|style|textarea)\b[^>]*>.*?</(?:script|style|textarea)>|<[^>]*>|(?<text>[^<]+)", RegexOptions.Singleline)]
    private static partial Regex Text();
}
