using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.RateLimiting;
using ToughStart.Core.Formats;
using ToughStart.Data;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Stations;

/// <summary>
/// A quote as the client sees it by a link: options can be tried out and the whole taken by name. What the shop risks stands nowhere here.
/// </summary>
[Microsoft.AspNetCore.Authorization.AllowAnonymous]
[EnableRateLimiting(Doors.Heavy)]
public sealed class ClientQuoteModel(
    BookStore books,
    QuoteStore store,
    QuoteDesk quotes,
    JobStore jobs,
    RecordStore records,
    ShopClock clock
) : PageModel
{
    public QuoteSheet? Sheet { get; private set; }

    public string Token { get; private set; } = "";

    public IReadOnlyList<string> Turned { get; private set; } = [];

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public string? Name { get; private set; }

    public string Stands { get; private set; } = "";

    public bool IsOpen { get; private set; }

    public async Task<IActionResult> OnGetAsync(string token, string[]? turn, CancellationToken stop)
    {
        await LoadAsync(token, turn, Request.Headers["Sec-Purpose"].Count == 0 && User.Identity?.IsAuthenticated != true, stop);
        return Page();
    }

    public async Task<IActionResult> OnPostAsync(string token, string[]? turn, string? name, string? seen, CancellationToken stop)
    {
        await LoadAsync(token, turn, false, stop);
        if (Sheet is not { Kept: { } kept } sheet)
        {
            return Page();
        }

        Name = name?.Trim() ?? "";
        if (!IsOpen)
        {
            return Refuse(409, new Problem("quote", $"This quote {Stands}. Ask the shop for a new one."));
        }

        if (Name.Length is < 2 or > QuoteStore.MostName || Name.Any(char.IsControl))
        {
            return Refuse(422, new Problem("name", $"Your name is 2 to {QuoteStore.MostName} characters"));
        }

        var quote = sheet.Quote;
        if (seen != FormattableString.Invariant($"{quote.Quoted.Price}/{quote.Quoted.AtMost}"))
        {
            return Refuse(409, new Problem("price", "With these choices it is another price: look at it, then take it."));
        }

        var taken = quote with
        {
            Options = [.. quote.Options.Select(o => quote.Turned.Contains(o.Effect.Option.Id) ? o with { By = Name } : o)],
        };
        return await store.TakeAsync(
            kept.Id,
            Name,
            System.Text.Encoding.UTF8.GetString(QuoteFormat.Write(taken)),
            (decimal)quote.Quoted.Price,
            (decimal)quote.Quoted.AtMost,
            clock.Today,
            stop
        )
            ? Redirect($"/q/{token}")
            : Refuse(409, new Problem("quote", "It was taken or taken back at this very moment. Load the page again."));
    }

    public async Task<IActionResult> OnGetPhotosAsync(string token, Guid id, bool thumb, CancellationToken stop)
    {
        Hide();
        return
            await books.OpenAsync(token, false, true, stop) is { Link.QuoteId: { } quote } open
            && await store.FindAsync(quote, stop) is { } kept
            && kept.Photos.Contains(id)
            && await records.PhotoAsync(open.Link.JobId, id, thumb, stop) is { } jpeg
            ? File(jpeg, "image/jpeg")
            : NotFound();
    }

    private async Task LoadAsync(string token, string[]? turn, bool count, CancellationToken stop)
    {
        Hide();
        Token = token;
        Turned = QuoteDesk.Turned(turn);
        if (
            await books.OpenAsync(token, count, true, stop) is { Link.QuoteId: { } id } open
            && await store.FindAsync(id, stop) is { } kept
            && await jobs.JobAsync(open.Number, stop) is { } job
        )
        {
            Sheet = quotes.Sheet(job, kept, Turned, $"/q/{token}/photos", true, stop);
            (Stands, IsOpen) = (quotes.Stands(kept), quotes.IsOpen(kept));
        }

        Response.StatusCode = Sheet is null ? StatusCodes.Status404NotFound : StatusCodes.Status200OK;
    }

    private PageResult Refuse(int status, Problem problem)
    {
        (Problems, Response.StatusCode) = ([problem], status);
        return Page();
    }

    private void Hide()
    {
        Response.Headers["X-Robots-Tag"] = "noindex, nofollow, noarchive";
        Response.Headers.CacheControl = "no-store";
    }
}
