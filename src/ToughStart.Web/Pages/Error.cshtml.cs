using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace ToughStart.Web.Stations;

[Microsoft.AspNetCore.Authorization.AllowAnonymous]
[IgnoreAntiforgeryToken]
public sealed class ErrorModel : PageModel
{
    public string Heading { get; private set; } = "";

    public string Advice { get; private set; } = "";

    public void OnGet(int? status) => Show(status);

    public void OnPost(int? status) => Show(status);

    private void Show(int? status)
    {
        var code = status ?? HttpContext.Response.StatusCode;
        (Heading, Advice) = code switch
        {
            404 => ("No such page", "The job or page is not here. It may have another number."),
            401 or 403 => ("That needs another person", "Your account may look but not change. Ask an owner or a technician of the shop."),
            400 => (
                "That could not be read",
                "Go back and send it again; if it asks for a token, reload the page first. What you typed is still in your browser."
            ),
            413 => ("Too large", "Nothing larger than 2 MB is taken."),
            409 => ("Somebody was faster", "Reload to see what changed; nothing was overwritten."),
            _ => ("That went wrong on our side", "Nothing was saved. Try again; if it happens twice, note the time and what you did."),
        };
        ViewData["Title"] = Heading;
        HttpContext.Response.StatusCode = code == 200 ? 404 : code;
    }
}
