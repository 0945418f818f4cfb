using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Data;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Stations;

[AllowAnonymous]
public sealed class SignInModel(SignInManager<StaffUser> signIn, SignInDoor door, IHostEnvironment environment) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public string? ReturnUrl { get; set; }

    [BindProperty]
    public string? UserName { get; set; }

    [BindProperty]
    public string? Password { get; set; }

    public string? Message { get; private set; }

    public IReadOnlyList<DemoPerson> DemoPeople => SignInSetup.IsDemo(environment) ? SignInSetup.Demo : [];

    public void OnGet() => ViewData["Title"] = "Sign in";

    public async Task<IActionResult> OnPostAsync()
    {
        ViewData["Title"] = "Sign in";
        var address = HttpContext.Connection.RemoteIpAddress;
        if (door.IsShut(address))
        {
            return Refuse("Too many wrong tries came from here. Wait ten minutes.", 429);
        }

        if (string.IsNullOrWhiteSpace(UserName) || string.IsNullOrEmpty(Password))
        {
            return Refuse(string.IsNullOrWhiteSpace(UserName) ? "Name: type yours." : "Password: type yours.", 401);
        }

        var person =
            UserName.Length > MostLetters || Password.Length > MostLetters
                ? null
                : await signIn.UserManager.FindByNameAsync(UserName.Trim());
        if (person is null)
        {
            // A name that is not there takes as long as one that is: nobody learns names by the clock.
            signIn.UserManager.PasswordHasher.VerifyHashedPassword(
                new StaffUser { DisplayName = "", StaffId = "" },
                Nobody.Value,
                Password[..Math.Min(Password.Length, MostLetters)]
            );
            door.Wrong(address);
            return Refuse("Name or password is wrong.", 401);
        }

        var result = await signIn.PasswordSignInAsync(person, Password, isPersistent: false, lockoutOnFailure: true);
        if (result.Succeeded)
        {
            return LocalRedirect(Url.IsLocalUrl(ReturnUrl) ? ReturnUrl : "/");
        }

        door.Wrong(address);
        return Refuse(
            result.IsLockedOut ? "This account is locked for ten minutes after five wrong tries." : "Name or password is wrong.",
            401
        );
    }

    /// <summary>Longest name or password that is looked at.</summary>
    private const int MostLetters = 200;

    /// <summary>The hash of a password that nobody has.</summary>
    private static readonly Lazy<string> Nobody = new(() =>
        new PasswordHasher<StaffUser>().HashPassword(new StaffUser { DisplayName = "", StaffId = "" }, Guid.NewGuid().ToString())
    );

    private PageResult Refuse(string message, int status)
    {
        Message = message;
        Response.StatusCode = status;
        return Page();
    }

    public async Task<IActionResult> OnPostOutAsync()
    {
        await signIn.SignOutAsync();
        return LocalRedirect("/sign-in");
    }
}
