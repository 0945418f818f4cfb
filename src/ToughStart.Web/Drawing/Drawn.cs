using System.Security.Cryptography;
using Microsoft.Net.Http.Headers;

namespace ToughStart.Web.Drawing;

/// <summary>
/// What many pages draw with, as files of their own: a page names the marks and outlines it needs, and the browser keeps them. An address
/// changes with its drawing, so that what is kept never grows old.
/// </summary>
internal static class Drawn
{
    private const int Year = 365 * 24 * 3600;

    /// <summary>What tells one drawing from another.</summary>
    public static string Mark(byte[] drawing) => Convert.ToHexStringLower(SHA256.HashData(drawing))[..8];

    public static void MapDrawn(this IEndpointRouteBuilder app)
    {
        var drawn = app.MapGroup("/drawn").ExcludeFromDescription().AllowAnonymous();
        drawn.MapGet("/textures.svg", (HttpContext http, string? v) => Svg(http, Textures.Sheet, v)).DisableRateLimiting();
        drawn.MapGet("/sides.svg", (HttpContext http, string? v) => Svg(http, Outlines.Sides, v)).DisableRateLimiting();
        drawn.MapGet("/{form}/{size}.svg", (HttpContext http, string form, string size, string? v) =>
            Outlines.Named(form, size) is { } vehicle ? Svg(http, Outlines.File(vehicle), v) : Results.NotFound()
        );
    }

    /// <summary>A drawing asked for by another mark than its own, while two versions answer side by side, is kept by nobody.</summary>
    private static IResult Svg(HttpContext http, byte[] drawing, string? mark)
    {
        http.Response.Headers[HeaderNames.CacheControl] = mark == Mark(drawing) ? $"public,max-age={Year},immutable" : "no-store";
        return Results.Bytes(drawing, "image/svg+xml");
    }
}
