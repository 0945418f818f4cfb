using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Core;
using ToughStart.Core.Formats;
using ToughStart.Data;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Stations;

/// <summary>The logbook: every closed job, searched and filtered; kept searches; out as a table.</summary>
public sealed class LogbookModel(LogbookStore log, RecordStore records, ShelfStore shelf, BookFiles files, Ways ways) : PageModel
{
    public IReadOnlyList<LogbookLine> Lines { get; private set; } = [];

    public LogbookSearch Search { get; private set; } = new();

    public bool More { get; private set; }

    public IReadOnlyList<SavedView> Views { get; private set; } = [];

    public IReadOnlyList<(string Id, string Name)> People { get; private set; } = [];

    public IReadOnlyList<(Guid Id, string Name)> Products { get; private set; } = [];

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public string? Said { get; private set; }

    public ImportReport? Imported { get; private set; }

    /// <summary>What was asked for, as the address has it.</summary>
    public string Query => QueryOf(Search with { Skip = 0 });

    public async Task<IActionResult> OnGetAsync([FromQuery] Asked asked, CancellationToken stop)
    {
        await FillAsync(asked, stop);
        return Page();
    }

    /// <summary>Keeps the search by name.</summary>
    public async Task<IActionResult> OnPostKeepAsync(string? name, string? query, CancellationToken stop)
    {
        var words = name?.Trim() ?? "";
        var why =
            words.Length is < 2 or > 40 ? "2 to 40 characters"
            : (query?.Length ?? 0) > 400 ? "the search is too long to be kept"
            : await log.KeepAsync(words, query ?? "", User.StaffId(), stop);
        if (why is null)
        {
            return Redirect("/logbook" + query);
        }

        Response.StatusCode = 422;
        Problems = [new Problem("name", why)];
        await FillAsync(new Asked(), stop);
        return Page();
    }

    public async Task<IActionResult> OnPostForgetAsync(Guid view, CancellationToken stop)
    {
        await log.ForgetAsync(view, stop);
        return Redirect("/logbook");
    }

    /// <summary>The lines of the search as a table.</summary>
    public async Task<IActionResult> OnGetTableAsync([FromQuery] Asked asked, CancellationToken stop)
    {
        await FillAsync(asked with { Skip = 0 }, stop);
        if (Problems.Count > 0)
        {
            Response.StatusCode = 422;
            return Page();
        }

        return File(await files.TableAsync(Search, ways.DecimalComma, stop), "text/csv; charset=utf-8", "logbook.csv");
    }

    /// <summary>Takes a log in that was written out somewhere: an owner's act, for a log says who did what.</summary>
    public async Task<IActionResult> OnPostImportAsync(IFormFile? file, CancellationToken stop)
    {
        if (!User.IsInRole(Roles.Owner))
        {
            return Forbid();
        }

        if (file is null or { Length: 0 } || file.Length > BookFiles.MostBytes)
        {
            Response.StatusCode = 422;
            Problems = [new Problem("file", $"choose a log, at most {BookFiles.MostBytes / 1024 / 1024} MB")];
        }
        else
        {
            using var reader = new StreamReader(file.OpenReadStream());
            Imported = await files.ImportAsync(await reader.ReadToEndAsync(stop), User.StaffId(), stop);
            Response.StatusCode = Imported.Refused is null ? 200 : 422;
        }

        await FillAsync(new Asked(), stop);
        return Page();
    }

    public string At(LogbookSearch s) => "/logbook" + QueryOf(s);

    private static string QueryOf(LogbookSearch s)
    {
        var parts = new (string Key, string? Value)[]
        {
            ("find", s.Find),
            ("goal", s.Goal),
            ("from", s.From?.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture)),
            ("to", s.To?.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture)),
            ("who", s.Who),
            ("product", s.Product?.ToString()),
            ("only", s.Only),
            ("skip", s.Skip > 0 ? s.Skip.ToString(CultureInfo.InvariantCulture) : null),
        };
        var said = parts.Where(p => !string.IsNullOrEmpty(p.Value)).Select(p => $"{p.Key}={Uri.EscapeDataString(p.Value!)}").ToArray();
        return said.Length == 0 ? "" : "?" + string.Join('&', said);
    }

    private async Task FillAsync(Asked asked, CancellationToken stop)
    {
        ViewData["Station"] = "logbook";
        ViewData["Title"] = "Logbook";
        var problems = Problems.ToList();
        DateOnly? Day(string? text, string field)
        {
            if (string.IsNullOrWhiteSpace(text))
            {
                return null;
            }

            if (DateOnly.TryParseExact(text.Trim(), "yyyy-MM-dd", CultureInfo.InvariantCulture, DateTimeStyles.None, out var day))
            {
                return day;
            }

            problems.Add(new Problem(field, "is a day, as 2026-11-24"));
            return null;
        }

        string? One(string? value, IEnumerable<string> of, string field)
        {
            if (string.IsNullOrEmpty(value))
            {
                return null;
            }

            if (of.Contains(value))
            {
                return value;
            }

            problems.Add(new Problem(field, "is not known", [.. of]));
            return null;
        }

        if ((asked.Find?.Length ?? 0) > 80)
        {
            problems.Add(new Problem("find", "at most 80 characters"));
        }

        People = [.. (await records.NamesAsync(stop)).Select(n => (n.Key, n.Value)).OrderBy(n => n.Value, StringComparer.Ordinal)];
        Products = await shelf.NamesAsync(stop);
        Views = await log.ViewsAsync(stop);
        Search = new(
            asked.Find is { Length: <= 80 } find ? find.Trim() : null,
            One(asked.Goal, Goal.Words, "goal"),
            Day(asked.From, "from"),
            Day(asked.To, "to"),
            One(asked.Who, People.Select(p => p.Id), "who"),
            asked.Product,
            One(asked.Only, LogbookSearch.Onlys.Select(o => o.Id), "only"),
            Math.Clamp(asked.Skip, 0, LogbookSearch.MostSkipped)
        );
        var lines = await log.FindAsync(Search, stop);
        More = lines.Count > LogbookSearch.Most;
        Lines = [.. lines.Take(LogbookSearch.Most)];
        Problems = problems;
        if (problems.Count > 0 && Response.StatusCode == 200)
        {
            Response.StatusCode = 422;
        }
    }

    /// <summary>A search as the address has it; nothing of it is believed yet.</summary>
    public sealed record Asked
    {
        public string? Find { get; init; }
        public string? Goal { get; init; }

        /// <summary>First and last day, like 2026-11-24.</summary>
        public string? From { get; init; }
        public string? To { get; init; }
        public string? Who { get; init; }
        public Guid? Product { get; init; }
        public string? Only { get; init; }
        public int Skip { get; init; }
    }
}
