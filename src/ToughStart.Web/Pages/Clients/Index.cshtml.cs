using System.Text.Json;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Data;

namespace ToughStart.Web.Stations;

/// <summary>The owner's list of people: one client's data handed over or erased.</summary>
[Authorize(Roles = Roles.Owner)]
public sealed class ClientsModel(RecordStore records) : PageModel
{
    private static readonly JsonSerializerOptions Written = new(JsonSerializerDefaults.Web) { WriteIndented = true };

    public IReadOnlyList<(Guid Id, string Name, string? Phone, string? Email, int Jobs)> Clients { get; private set; } = [];

    public string? Said { get; private set; }

    public async Task OnGetAsync(CancellationToken stop) => await LoadAsync(stop);

    public async Task<IActionResult> OnGetExportAsync(Guid id, CancellationToken stop) =>
        await records.ExportClientAsync(id, stop) is { } data
            ? File(JsonSerializer.SerializeToUtf8Bytes(data, Written), "application/json", $"client-{id.ToString("N")[^8..]}.json")
            : NotFound();

    public async Task<IActionResult> OnPostEraseAsync(Guid id, string? name, CancellationToken stop)
    {
        await LoadAsync(stop);
        var client = Clients.FirstOrDefault(c => c.Id == id);
        if (client.Name is null)
        {
            return NotFound();
        }

        if (!string.Equals(client.Name, name?.Trim(), StringComparison.OrdinalIgnoreCase))
        {
            Said = $"Nothing was erased: the name typed is not '{client.Name}'.";
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
        Clients = await records.ClientsAsync(stop);
    }
}
