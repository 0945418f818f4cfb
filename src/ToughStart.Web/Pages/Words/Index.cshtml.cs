using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Core.Provenance;

namespace ToughStart.Web.Stations;

/// <summary>What the words of the trade and of the house mean here.</summary>
public sealed class WordsModel : PageModel
{
    public void OnGet() => (ViewData["Title"], ViewData["Station"]) = ("Words", "words");

    /// <summary>The same for the script that marks them on other pages.</summary>
    public IActionResult OnGetList()
    {
        Response.Headers.CacheControl = "private,max-age=3600";
        return new JsonResult(
            Catalogue.Default.Glossary.Select(g => new
            {
                word = g.Word,
                also = g.Also,
                meaning = g.Meaning,
                id = g.Id,
            })
        );
    }
}
