using Microsoft.AspNetCore.Mvc.RazorPages;

namespace ToughStart.Web.Stations;

/// <summary>All open vehicles on one wall.</summary>
public sealed class WallModel : PageModel
{
    public void OnGet() { }
}
