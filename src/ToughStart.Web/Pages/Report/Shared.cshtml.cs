using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Data;

namespace ToughStart.Web.Stations;

/// <summary>A report as somebody without a name here sees it. What a token does not open, has run out or was taken back looks all the same.</summary>
[Microsoft.AspNetCore.Authorization.AllowAnonymous]
public sealed class SharedReportModel(BookStore books, ReportDesk reports, RecordStore records) : PageModel
{
    public ReportView? Report { get; private set; }

    public async Task<IActionResult> OnGetAsync(string token, CancellationToken stop)
    {
        Hide();
        // Nobody's own look counts, and no browser that only peeks ahead.
        var count =
            HttpMethods.IsGet(Request.Method) && User.Identity?.IsAuthenticated != true && Request.Headers["Sec-Purpose"].Count == 0;
        if (await books.OpenAsync(token, count, stop: stop) is { } open)
        {
            Report = await reports.OfAsync(open.Number, ReportShows.Of(open.Link.Shows), $"/r/{token}/photos", stop);
        }

        Response.StatusCode = Report is null ? StatusCodes.Status404NotFound : StatusCodes.Status200OK;
        return Page();
    }

    public async Task<IActionResult> OnGetPhotosAsync(string token, Guid id, bool thumb, CancellationToken stop)
    {
        Hide();
        return
            await books.OpenAsync(token, false, stop: stop) is { } open
            && ReportShows.Of(open.Link.Shows).Photos
            && await records.PhotoAsync(open.Link.JobId, id, thumb, stop) is { } jpeg
            ? File(jpeg, "image/jpeg")
            : NotFound();
    }

    private void Hide()
    {
        Response.Headers["X-Robots-Tag"] = "noindex, nofollow, noarchive";
        Response.Headers.CacheControl = "no-store";
    }
}
