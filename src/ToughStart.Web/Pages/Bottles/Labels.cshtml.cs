using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Data;
using ToughStart.Web.Drawing;

namespace ToughStart.Web.Stations;

/// <summary>Labels for decanted bottles, to print: content, strength, hazard words, date, who, discard-by, and a square code to the record.</summary>
public sealed class LabelsModel(KitStore kit, RecordStore records) : PageModel
{
    public IReadOnlyList<MixView> Mixes { get; private set; } = [];

    public IReadOnlyList<MixView> All { get; private set; } = [];

    public IReadOnlyDictionary<string, string> Names { get; private set; } = new Dictionary<string, string>();

    /// <param name="n">Numbers of the mixes; none = all that are in use.</param>
    public async Task OnGetAsync(int[] n, CancellationToken stop)
    {
        ViewData["Title"] = "Bottle labels";
        ViewData["Station"] = "bottles";
        All = await kit.MixesAsync(true, 200, stop);
        Mixes = n.Length == 0 ? All : All.Where(m => n.Contains(m.Number)).ToArray();
        Names = await records.NamesAsync(stop);
    }

    /// <summary>The code as SVG; it holds the address of the record and nothing else.</summary>
    public string Code(MixView m) => QrDrawing.Svg($"{Request.Scheme}://{Request.Host}/bottles?handler=One&number={m.Number}");
}
