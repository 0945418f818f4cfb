using Microsoft.AspNetCore.Mvc;
using ToughStart.Data;
using ToughStart.Web.Drawing;

namespace ToughStart.Web.Stations;

/// <summary>The job card: what to do, on paper, with boxes for what was seen.</summary>
public sealed class CardModel(JobDesk desk) : JobPage(desk)
{
    public override string Station => "card";

    public IReadOnlyList<StageGroup> Groups { get; private set; } = [];

    public async Task<IActionResult> OnGetAsync(int number, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        Groups = CoreSample.StageGroups(Plan);
        return Page();
    }
}
