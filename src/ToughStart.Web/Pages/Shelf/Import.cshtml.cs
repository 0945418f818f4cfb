using System.Text;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Core.Chemistry;
using ToughStart.Data;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Stations;

/// <summary>A shelf file: looked through first, written only when somebody says so.</summary>
public sealed class ImportModel(ShelfCsv csv) : PageModel
{
    public ShelfPreview? Preview { get; private set; }

    /// <summary>The file as it was sent, so that what is applied is what was shown.</summary>
    public string? Sent { get; private set; }

    public string? Problem { get; private set; }

    public string? Said { get; private set; }

    public IReadOnlyList<string> Refused { get; private set; } = [];

    public static string Template => string.Join(';', ProductDraft.Fields);

    public void OnGet() => Head();

    public async Task OnPostAsync(IFormFile? file, CancellationToken stop)
    {
        Head();
        if (file is null || file.Length is 0 or > ShelfCsv.MostBytes)
        {
            (Problem, Response.StatusCode) = ($"choose a CSV file of at most {ShelfCsv.MostBytes / 1024 / 1024} MB", 422);
            return;
        }

        using var bytes = new MemoryStream();
        await file.CopyToAsync(bytes, stop);
        try
        {
            await LookAsync(new UTF8Encoding(false, true).GetString(bytes.ToArray()), stop);
        }
        catch (DecoderFallbackException)
        {
            (Problem, Response.StatusCode) = ("the file is not UTF-8: save it as \"CSV UTF-8\"", 422);
        }
    }

    public async Task OnPostApplyAsync(string? sent, CancellationToken stop)
    {
        Head();
        if (string.IsNullOrWhiteSpace(sent) || sent.Length > ShelfCsv.MostBytes)
        {
            (Problem, Response.StatusCode) = ("the file went missing: choose it again", 422);
            return;
        }

        var (added, changed, refused) = await csv.ApplyAsync(sent, User.StaffId(), stop);
        Said = $"{added} added, {changed} changed.";
        Refused = refused;
    }

    private async Task LookAsync(string text, CancellationToken stop)
    {
        var preview = await csv.PreviewAsync(text, stop);
        if (preview.Refused is { } why)
        {
            (Problem, Response.StatusCode) = (why, 422);
            return;
        }

        (Preview, Sent) = (preview, text);
    }

    private void Head()
    {
        ViewData["Title"] = "Bring a shelf file";
        ViewData["Station"] = "shelf";
    }
}
