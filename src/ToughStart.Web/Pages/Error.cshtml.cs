using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace ToughStart.Web.Stations;

[Microsoft.AspNetCore.Authorization.AllowAnonymous]
[IgnoreAntiforgeryToken]
public sealed class ErrorModel : PageModel
{
    public Failure Failure { get; private set; } = Failure.OfStatus(404);

    /// <summary>The job the failure belongs to; null = none.</summary>
    public int? Job { get; private set; }

    public void OnGet(int? status) => Show(status);

    public void OnPost(int? status) => Show(status);

    private void Show(int? status)
    {
        var code = status is >= 400 and < 600 ? status.Value : HttpContext.Response.StatusCode;
        Failure = Failure.Behind(HttpContext) ?? Failure.OfStatus(code is >= 400 and < 600 ? code : 404);
        var path = HttpContext.Features.Get<Microsoft.AspNetCore.Diagnostics.IExceptionHandlerPathFeature>()?.Path.Split('/') ?? [];
        Job = path is ["", "jobs", var number, ..] && int.TryParse(number, out var n) ? n : null;
        ViewData["Title"] = Failure.Heading;
        HttpContext.Response.StatusCode = Failure.Status;
        if (Failure.ComeBack is { } seconds)
        {
            HttpContext.Response.Headers.RetryAfter = seconds.ToString(System.Globalization.CultureInfo.InvariantCulture);
        }
    }
}
