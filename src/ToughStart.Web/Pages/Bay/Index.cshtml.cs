using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Data;
using ToughStart.Web.Drawing;

namespace ToughStart.Web.Stations;

/// <summary>The bay of one job: an empty stage that the phone fills by itself, so that it starts without a network too.</summary>
public sealed class BayModel(JobStore jobs) : PageModel
{
    public int Number { get; private set; }

    public string Vehicle { get; private set; } = "";

    public async Task<IActionResult> OnGetAsync(int number, CancellationToken stop)
    {
        if (await jobs.JobAsync(number, stop) is not { } job)
        {
            return NotFound();
        }

        (Number, Vehicle) = (number, job.Vehicle);
        return Page();
    }
}

/// <summary>The address of a bay as a code that another phone can look at.</summary>
public sealed class BayCodeModel : PageModel
{
    public IActionResult OnGet(int number) =>
        Content(QrDrawing.Svg($"{Request.Scheme}://{Request.Host}/jobs/{number}/bay"), "image/svg+xml");
}
