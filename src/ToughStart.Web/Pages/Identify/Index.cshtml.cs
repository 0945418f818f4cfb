using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Core.Identification;
using ToughStart.Core.Provenance;

namespace ToughStart.Web.Stations;

/// <summary>The identify helper: what is said of a mark in the address, the answer on the page.</summary>
public sealed class IdentifyModel : PageModel
{
    public IReadOnlyDictionary<string, string> Evidence { get; private set; } = new Dictionary<string, string>();

    public Identified Said { get; private set; } = null!;

    public string? Problem { get; private set; }

    /// <summary>Number of the job it was called from, or null.</summary>
    public int? Job { get; private set; }

    public void OnGet(int? job)
    {
        ViewData["Title"] = "What is this mark?";
        ViewData["Station"] = "identify";
        Job = job;
        var given = Request
            .Query.Where(q => q.Key != "job" && !string.IsNullOrEmpty(q.Value))
            .ToDictionary(q => q.Key, q => q.Value.ToString());
        try
        {
            Said = MarkIdentifier.Identify(given);
            Evidence = given;
        }
        catch (ArgumentException e)
        {
            Response.StatusCode = 422;
            Problem = e.Message.Split(" (Parameter")[0];
            Evidence = given.Where(g => Catalogue.Default.Evidence.Any(v => v.Id == g.Key && v.Values.Contains(g.Value))).ToDictionary();
            Said = MarkIdentifier.Identify(Evidence);
        }
    }
}
