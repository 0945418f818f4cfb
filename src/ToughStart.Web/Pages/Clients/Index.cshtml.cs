using System.Text.Json;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Data;

namespace ToughStart.Web.Stations;

/// <summary>The shop's clients and their jobs. Only an owner hands over or erases what is held of a person.</summary>
public sealed class ClientsModel(RecordStore records) : PageModel
{
    private static readonly JsonSerializerOptions Written = new(JsonSerializerDefaults.Web) { WriteIndented = true };

    public IReadOnlyList<ClientLine> Clients { get; private set; } = [];

    public int All { get; private set; }

    /// <summary>More follow on another page.</summary>
    public bool More { get; private set; }

    [BindProperty(SupportsGet = true)]
    public string? Find { get; set; }

    [BindProperty(SupportsGet = true)]
    public int From { get; set; }

    public bool IsOwner => User.IsInRole(Roles.Owner);

    public string? Said { get; private set; }

    public async Task OnGetAsync(CancellationToken stop) => await LoadAsync(stop);

    public async Task<IActionResult> OnGetExportAsync(Guid id, CancellationToken stop) =>
        !IsOwner ? Forbid()
        : await records.ExportClientAsync(id, stop) is { } data
            ? File(JsonSerializer.SerializeToUtf8Bytes(data, Written), "application/json", $"client-{id.ToString("N")[^8..]}.json")
        : NotFound();

    public async Task<IActionResult> OnPostEraseAsync(Guid id, string? name, CancellationToken stop)
    {
        if (!IsOwner)
        {
            return Forbid();
        }

        if (await records.ClientNameAsync(id, stop) is not { } known)
        {
            return NotFound();
        }

        await LoadAsync(stop);
        if (!string.Equals(known, name?.Trim(), StringComparison.OrdinalIgnoreCase))
        {
            Said = $"Nothing was erased: the name typed is not '{known}'.";
            Response.StatusCode = 422;
            return Page();
        }

        await records.EraseClientAsync(id, stop);
        await LoadAsync(stop);
        Said = "Erased. The jobs keep their numbers; the person is gone from them.";
        return Page();
    }

    private async Task LoadAsync(CancellationToken stop)
    {
        ViewData["Title"] = "Clients";
        ViewData["Station"] = "clients";
        Find = Find is { Length: > 80 } ? null : Find?.Trim();
        From = Math.Clamp(From, 0, 1_000_000);
        (Clients, All, More) = await records.ClientsAsync(Find, From, stop);
    }
}
