using System.Net;
using System.Security.Claims;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.HttpOverrides;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Options;
using ToughStart.Data;

namespace ToughStart.Web.Identity;

/// <summary>Adds the short staff id to the cookie, so that pages name an author without asking the database.</summary>
public sealed class StaffClaims(UserManager<StaffUser> users, RoleManager<IdentityRole<Guid>> roles, IOptions<IdentityOptions> options)
    : UserClaimsPrincipalFactory<StaffUser, IdentityRole<Guid>>(users, roles, options)
{
    public const string StaffId = "staff-id",
        Display = "display-name";

    protected override async Task<ClaimsIdentity> GenerateClaimsAsync(StaffUser user)
    {
        var identity = await base.GenerateClaimsAsync(user);
        identity.AddClaim(new Claim(StaffId, user.StaffId));
        identity.AddClaim(new Claim(Display, user.DisplayName));
        return identity;
    }
}

/// <summary>A person of the demo shop, shown on the demo's sign-in page.</summary>
public sealed record DemoPerson(string User, string Name, string Role, string Password);

/// <summary>Who may come in, and what they may do.</summary>
public static class SignInSetup
{
    /// <summary>Demo people; never made outside Demo and Testing.</summary>
    public static IReadOnlyList<DemoPerson> Demo { get; } =
    [
        new("odile", "Odile Marchetti", Roles.Owner, "slackwater-owner"),
        new("tam", "Tam Berrow", Roles.Technician, "slackwater-bay"),
        new("rowan", "Rowan Pell", Roles.Reader, "slackwater-desk"),
    ];

    public static bool IsDemo(IHostEnvironment environment) => environment.IsEnvironment("Demo") || environment.IsEnvironment("Testing");

    public static void AddSignIn(this IServiceCollection services)
    {
        services
            .AddIdentity<StaffUser, IdentityRole<Guid>>(o =>
            {
                o.Password.RequiredLength = 12;
                o.Password.RequireDigit =
                    o.Password.RequireUppercase =
                    o.Password.RequireLowercase =
                    o.Password.RequireNonAlphanumeric =
                        false;
                o.Lockout.MaxFailedAccessAttempts = 5;
                o.Lockout.DefaultLockoutTimeSpan = TimeSpan.FromMinutes(10);
                o.User.RequireUniqueEmail = false;
            })
            .AddEntityFrameworkStores<ToughStartContext>()
            .AddPasswordValidator<CommonPasswords>()
            .AddClaimsPrincipalFactory<StaffClaims>();
        services.ConfigureApplicationCookie(o =>
        {
            o.Cookie.Name = "tough-start";
            o.Cookie.HttpOnly = true;
            o.Cookie.SameSite = SameSiteMode.Lax;
            o.Cookie.SecurePolicy = CookieSecurePolicy.SameAsRequest;
            o.ExpireTimeSpan = TimeSpan.FromHours(14);
            // Counted by the browser from when it got it, not until a date: a phone with a wrong clock stays signed in as long as any other.
            o.Cookie.MaxAge = TimeSpan.FromHours(14);
            o.SlidingExpiration = true;
            o.LoginPath = "/sign-in";
            o.AccessDeniedPath = "/error";
            o.Events.OnRedirectToLogin = c => ForPrograms(c, 401);
            o.Events.OnRedirectToAccessDenied = c => ForPrograms(c, 403);
        });
        services.AddSingleton<SignInDoor>();
        services.AddAuthorizationBuilder().SetFallbackPolicy(new AuthorizationPolicyBuilder().RequireAuthenticatedUser().Build());
    }

    /// <summary>Readers look; only owners and technicians send anything but a sign-out.</summary>
    public static void UseReadersOnlyLook(this IApplicationBuilder app) =>
        app.Use(
            async (http, next) =>
            {
                var looks =
                    HttpMethods.IsGet(http.Request.Method)
                    || HttpMethods.IsHead(http.Request.Method)
                    || HttpMethods.IsOptions(http.Request.Method);
                var free = http.GetEndpoint()?.Metadata.GetMetadata<IAllowAnonymous>() is not null;
                if (
                    !looks
                    && !free
                    && http.User.Identity?.IsAuthenticated == true
                    && !http.User.IsInRole(Roles.Owner)
                    && !http.User.IsInRole(Roles.Technician)
                )
                {
                    http.Response.StatusCode = StatusCodes.Status403Forbidden;
                    return;
                }

                await next(http);
            }
        );

    /// <summary>The configuration entry that opens the calculators on this machine to those who have not signed in.</summary>
    public const string OpenEntry = "TOUGHSTART_OPEN_CALCULATORS";

    /// <summary>
    /// Calculators need no sign-in on this machine where the demo runs or the configuration opens them, and one everywhere else: headers
    /// that a proxy sends, or forgets to, decide nothing.
    /// </summary>
    public static TBuilder OpenOnLoopback<TBuilder>(this TBuilder builder)
        where TBuilder : IEndpointConventionBuilder
    {
        builder.AllowAnonymous();
        builder.AddEndpointFilter(
            async (context, next) =>
            {
                var http = context.HttpContext;
                // A request that somebody passed on is not from this machine, even when the one who passed it on is.
                var passedOn = http.Request.Headers.ContainsKey("X-Forwarded-For") || http.Request.Headers.ContainsKey("Forwarded");
                var opened =
                    IsDemo(http.RequestServices.GetRequiredService<IHostEnvironment>())
                    || http.RequestServices.GetRequiredService<IConfiguration>()[OpenEntry] == "true";
                return
                    http.User.Identity?.IsAuthenticated == true
                    || (opened && !passedOn && http.Connection.RemoteIpAddress is { } ip && IPAddress.IsLoopback(ip))
                    ? await next(context)
                    : Results.Problem(statusCode: 401, title: "Sign in first", detail: "The calculators are open to people of the shop.");
            }
        );
        return builder;
    }

    /// <summary>Why this address is refused, or null: beyond loopback it takes TLS or a named proxy that brings it.</summary>
    public static string? Refuse(string? urls, string? trustedProxy)
    {
        foreach (var url in (urls ?? "http://127.0.0.1").Split(';', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries))
        {
            if (
                !Uri.TryCreate(
                    url.Replace("*", "0.0.0.0", StringComparison.Ordinal).Replace("+", "0.0.0.0", StringComparison.Ordinal),
                    UriKind.Absolute,
                    out var uri
                )
            )
            {
                return $"'{url}' is not an address";
            }

            var loopback = uri.Host == "localhost" || (IPAddress.TryParse(uri.Host.Trim('[', ']'), out var ip) && IPAddress.IsLoopback(ip));
            if (!loopback && uri.Scheme != Uri.UriSchemeHttps && trustedProxy is null)
            {
                return $"{url} is not loopback: use https with a certificate, or name the proxy that brings TLS in TOUGHSTART_TRUSTED_PROXY";
            }
        }

        return trustedProxy is not null && !IPAddress.TryParse(trustedProxy, out _)
            ? $"TOUGHSTART_TRUSTED_PROXY: '{trustedProxy}' is not an IP address"
            : null;
    }

    /// <summary>Believes what the named proxy says of scheme and caller, and nobody else.</summary>
    public static void TrustProxy(this IServiceCollection services, string address) =>
        services.Configure<ForwardedHeadersOptions>(o =>
        {
            o.ForwardedHeaders = ForwardedHeaders.XForwardedFor | ForwardedHeaders.XForwardedProto;
            o.KnownProxies.Clear();
            o.KnownIPNetworks.Clear();
            o.KnownProxies.Add(IPAddress.Parse(address));
        });

    /// <summary>Makes the roles, and the demo's people where the demo runs.</summary>
    public static async Task SeedPeopleAsync(IServiceProvider services, bool demo, CancellationToken stop = default)
    {
        var db = services.GetRequiredService<ToughStartContext>();
        var roles = services.GetRequiredService<RoleManager<IdentityRole<Guid>>>();
        foreach (var role in Roles.All)
        {
            if (!await db.Roles.AnyAsync(r => r.Name == role, stop))
            {
                await roles.CreateAsync(new IdentityRole<Guid>(role));
            }
        }

        foreach (var person in demo ? Demo : [])
        {
            await AddPersonAsync(services, person.User, person.Name, person.Role, person.Password);
        }
    }

    /// <summary>Adds somebody who is not there yet.</summary>
    /// <exception cref="InvalidOperationException">The name or password is not accepted; the message says why.</exception>
    public static async Task AddPersonAsync(IServiceProvider services, string user, string name, string role, string password)
    {
        var users = services.GetRequiredService<UserManager<StaffUser>>();
        if (await users.FindByNameAsync(user) is not null)
        {
            return;
        }

        var person = new StaffUser
        {
            UserName = user,
            DisplayName = name,
            StaffId = "p-" + Convert.ToHexStringLower(Guid.CreateVersion7().ToByteArray())[^6..],
        };
        var made = await users.CreateAsync(person, password);
        if (!made.Succeeded)
        {
            throw new InvalidOperationException(string.Join(" ", made.Errors.Select(e => e.Description)));
        }

        await users.AddToRoleAsync(person, role);
    }

    private static Task ForPrograms(
        Microsoft.AspNetCore.Authentication.RedirectContext<Microsoft.AspNetCore.Authentication.Cookies.CookieAuthenticationOptions> c,
        int status
    )
    {
        if (c.Request.Path.StartsWithSegments("/api"))
        {
            c.Response.StatusCode = status;
            return Task.CompletedTask;
        }

        c.Response.Redirect(c.RedirectUri);
        return Task.CompletedTask;
    }
}

/// <summary>The signed-in person, as pages and documents name them.</summary>
public static class Staff
{
    /// <summary>Short id for documents and events.</summary>
    public static string StaffId(this ClaimsPrincipal user) => user.FindFirstValue(StaffClaims.StaffId) ?? "unknown";

    public static string DisplayName(this ClaimsPrincipal user) => user.FindFirstValue(StaffClaims.Display) ?? "";

    public static bool MayEdit(this ClaimsPrincipal user) => user.IsInRole(Roles.Owner) || user.IsInRole(Roles.Technician);
}
