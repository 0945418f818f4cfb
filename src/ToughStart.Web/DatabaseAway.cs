using System.Globalization;
using System.Net;
using Microsoft.AspNetCore.Diagnostics;

namespace ToughStart.Web;

/// <summary>
/// What is said while the database is away. It is written without the pages' own means, which all need the database: keys, people, tokens.
/// </summary>
public sealed class DatabaseAway : IExceptionHandler
{
    public async ValueTask<bool> TryHandleAsync(HttpContext httpContext, Exception exception, CancellationToken cancellationToken)
    {
        if (!Failure.IsDatabaseAway(exception))
        {
            return false;
        }

        var failure = Failure.Of(exception);
        var response = httpContext.Response;
        response.StatusCode = failure.Status;
        response.Headers.RetryAfter = failure.ComeBack!.Value.ToString(CultureInfo.InvariantCulture);
        response.Headers.CacheControl = "no-store";
        if (httpContext.Request.Path.StartsWithSegments("/api"))
        {
            await response.WriteAsJsonAsync(
                new
                {
                    title = failure.Heading,
                    status = failure.Status,
                    detail = failure.Advice,
                },
                options: null,
                contentType: "application/problem+json",
                cancellationToken
            );
            return true;
        }

        // Only a look is repeated by itself; what was sent is sent again by the person who sent it.
        var again = HttpMethods.IsGet(httpContext.Request.Method)
            ? $"<meta http-equiv=\"refresh\" content=\"{failure.ComeBack.Value.ToString(CultureInfo.InvariantCulture)}\">"
            : "";
        response.ContentType = "text/html; charset=utf-8";
        await response.WriteAsync(
            $"""
            <!DOCTYPE html>
            <html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">{again}
            <title>{WebUtility.HtmlEncode(failure.Heading)} · Tough Start</title><link rel="stylesheet" href="/dist/app.css"></head>
            <body><main id="main"><section class="empty"><h1>{WebUtility.HtmlEncode(failure.Heading)}</h1>
            <p>{WebUtility.HtmlEncode(failure.Advice)}</p></section></main></body></html>
            """,
            cancellationToken
        );
        return true;
    }
}
