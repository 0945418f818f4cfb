using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Data;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Stations;

[AllowAnonymous]
public sealed class SignInModel(SignInManager<StaffUser> signIn, IHostEnvironment environment) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public string? ReturnUrl { get; set; }

    [BindProperty]
    public string UserName { get; set; } = "";

    [BindProperty]
    public string Password { get; set; } = "";

    public string? Message { get; private set; }

    public IReadOnlyList<DemoPerson> DemoPeople => SignInSetup.IsDemo(environment) ? SignInSetup.Demo : [];

    public void OnGet() => ViewData["Title"] = "Sign in";

    public async Task<IActionResult> OnPostAsync()
    {
        ViewData["Title"] = "Sign in";
        var result = await signIn.PasswordSignInAsync(UserName.Trim(), Password, isPersistent: false, lockoutOnFailure: true);
        if (result.Succeeded)
        {
            return LocalRedirect(Url.IsLocalUrl(ReturnUrl) ? ReturnUrl : "/");
        }

        Message = result.IsLockedOut ? "This account is locked for ten minutes after five wrong tries." : "Name or password is wrong.";
        Response.StatusCode = 401;
        return Page();
    }

    public async Task<IActionResult> OnPostOutAsync()
    {
        await signIn.SignOutAsync();
        return LocalRedirect("/sign-in");
    }
}
