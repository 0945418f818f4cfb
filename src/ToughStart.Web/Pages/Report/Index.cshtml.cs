using System.Text;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Core.Formats;
using ToughStart.Data;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Stations;

/// <summary>Hands letters on. What ships keeps them in the shop's own book; a mail service is put in its place.</summary>
public interface IPost
{
    /// <summary>What is said of it where letters are written.</summary>
    string Says { get; }

    Task SendAsync(Letter letter, CancellationToken stop);
}

/// <summary>Keeps every letter and sends none.</summary>
public sealed class KeptPost(BookStore books) : IPost
{
    public string Says => "No mail service is connected: letters are kept here, to be copied into your own mail.";

    public Task SendAsync(Letter letter, CancellationToken stop) => books.PostAsync(letter, stop);
}

/// <summary>The report for the client: as it prints, and by a link that runs out.</summary>
public sealed class ReportModel(
    JobDesk desk,
    ReportDesk reports,
    BookStore books,
    CloseDesk closing,
    ShelfStore shelf,
    RecordStore records,
    IPost post,
    Ways ways
) : JobPage(desk)
{
    public override string Station => "report";

    public ReportView Report { get; private set; } = null!;

    public IReadOnlyList<ShareLink> Shares { get; private set; } = [];

    public IReadOnlyList<Letter> Letters { get; private set; } = [];

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    /// <summary>The link that was just made: it is shown once, and nobody can look it up again.</summary>
    public string? Made { get; private set; }

    public string? Email { get; private set; }

    public string PostSays => post.Says;

    public DateTimeOffset Now => books.Now;

    public async Task<IActionResult> OnGetAsync(int number, CancellationToken stop) => await LoadedAsync(number, stop) ?? Page();

    /// <summary>Makes a link.</summary>
    public async Task<IActionResult> OnPostShareAsync(
        int number,
        int days,
        bool client,
        bool plate,
        bool photos,
        bool damage,
        CancellationToken stop
    )
    {
        if (await LoadedAsync(number, stop) is { } none)
        {
            return none;
        }

        if (days is < 1 or > 365)
        {
            return Refuse(422, new Problem("days", "a link lasts 1 to 365 days"));
        }

        if (await LinkAsync(days, new(client, plate, photos, damage), stop) is not { } link)
        {
            return Refuse(409, new Problem("link", $"{BookStore.MostShares} links are open: take one back first"));
        }

        Made = link;
        Shares = await books.SharesAsync(Job.Id, stop: stop);
        return Page();
    }

    /// <summary>Takes a link back.</summary>
    public async Task<IActionResult> OnPostRevokeAsync(int number, Guid share, CancellationToken stop)
    {
        if (await LoadedAsync(number, stop) is { } none)
        {
            return none;
        }

        await books.RevokeAsync(Job.Id, share, stop);
        return Redirect($"/jobs/{number}/report#links");
    }

    /// <summary>Writes to the client, with a link of its own.</summary>
    public async Task<IActionResult> OnPostLetterAsync(int number, string? to, string? words, CancellationToken stop)
    {
        if (await LoadedAsync(number, stop) is { } none)
        {
            return none;
        }

        var (address, text) = (to?.Trim() ?? "", words?.Trim() ?? "");
        if (!System.Net.Mail.MailAddress.TryCreate(address, out _) || address.Length > 200)
        {
            return Refuse(422, new Problem("to", "is no mail address"));
        }

        if (text.Length is < 3 or > 2000)
        {
            return Refuse(422, new Problem("words", "3 to 2 000 characters"));
        }

        if (await LinkAsync(60, ReportShows.Usual, stop) is not { } link)
        {
            return Refuse(409, new Problem("link", $"{BookStore.MostShares} links are open: take one back first"));
        }

        await post.SendAsync(
            new Letter
            {
                JobId = Job.Id,
                To = address,
                Subject = $"{Job.Vehicle}: what was done",
                Words = $"{text}\n\n{link}\n",
                FileName = "next-visit.ics",
                File = ReportDesk.Calendar(Report, Report.Shop, books.Now),
                Author = User.StaffId(),
                At = books.Now,
            },
            stop
        );
        return Redirect($"/jobs/{number}/report#letters");
    }

    public async Task<IActionResult> OnGetCalendarAsync(int number, CancellationToken stop) =>
        await LoadedAsync(number, stop)
        ?? File(
            Encoding.UTF8.GetBytes(ReportDesk.Calendar(Report, Report.Shop, books.Now)),
            "text/calendar; charset=utf-8",
            $"job-{number}-next-visit.ics"
        );

    public async Task<IActionResult> OnGetInvoiceAsync(int number, CancellationToken stop)
    {
        if (await LoadedAsync(number, stop) is { } none)
        {
            return none;
        }

        if (await closing.ReckonAsync(Job, Run, stop) is not { } reckoned)
        {
            return NotFound();
        }

        var used = await shelf.OfJobAsync(Job.Id, stop);
        var prices = await books.PricesAsync([.. used.Select(u => u.Product)], stop);
        var csv = ReportDesk.Invoice(
            Job,
            reckoned,
            [.. used.Select(u => (u.Name, u.DrawnMl, prices.GetValueOrDefault(u.Product)))],
            await records.NamesAsync(stop),
            ways.DecimalComma
        );
        return File(
            Encoding.UTF8.GetPreamble().Concat(Encoding.UTF8.GetBytes(csv)).ToArray(),
            "text/csv; charset=utf-8",
            $"job-{number}-invoice.csv"
        );
    }

    private async Task<string?> LinkAsync(int days, ReportShows shows, CancellationToken stop) =>
        await books.ShareAsync(Job.Id, shows.Words, days, User.StaffId(), stop: stop) is { } token
            ? $"{Request.Scheme}://{Request.Host}/r/{token}"
            : null;

    private PageResult Refuse(int status, params Problem[] problems)
    {
        (Problems, Response.StatusCode) = (problems, status);
        return Page();
    }

    private async Task<IActionResult?> LoadedAsync(int number, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        Report = (await reports.OfAsync(number, ReportShows.All, $"/jobs/{number}/photos", stop))!;
        Shares = await books.SharesAsync(Job.Id, stop: stop);
        Letters = await books.LettersAsync(Job.Id, stop);
        Email = (await Jobs.IntakeAsync(Job.Id, stop)).Client.Email;
        return null;
    }
}
