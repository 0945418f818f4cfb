using System.Collections.Concurrent;
using System.Net;
using System.Security.Claims;
using System.Threading.RateLimiting;
using Microsoft.AspNetCore.HostFiltering;
using Microsoft.AspNetCore.Http.Timeouts;
using Microsoft.AspNetCore.RateLimiting;

namespace ToughStart.Web.Identity;

/// <summary>Bounds on what one caller can ask of the machine: how often, how much at once, how long, and by which name.</summary>
public static class Doors
{
    /// <summary>The configuration entry with the requests a second that one caller may go on sending; ten times as many at a stroke.</summary>
    public const string RateEntry = "TOUGHSTART_REQUESTS_PER_SECOND";

    private const int PerSecond = 60;

    /// <summary>Heavy computations that one caller may ask for at a time; as many again wait.</summary>
    private const int HeavyAtOnce = 2;

    /// <summary>For endpoints that work something out.</summary>
    public const string Heavy = "heavy";

    public static void AddDoors(this IServiceCollection services, IConfiguration configuration)
    {
        var perSecond = int.TryParse(configuration[RateEntry], out var rate) && rate > 0 ? rate : PerSecond;
        services.AddRateLimiter(o =>
        {
            o.RejectionStatusCode = StatusCodes.Status429TooManyRequests;
            o.OnRejected = (c, _) =>
            {
                c.HttpContext.Response.Headers.RetryAfter = "5";
                return ValueTask.CompletedTask;
            };
            o.GlobalLimiter = PartitionedRateLimiter.Create<HttpContext, string>(http =>
                RateLimitPartition.GetTokenBucketLimiter(CallerOf(http), _ => new()
                    {
                        TokenLimit = 10 * perSecond,
                        TokensPerPeriod = perSecond,
                        ReplenishmentPeriod = TimeSpan.FromSeconds(1),
                        QueueLimit = 0,
                    })
            );
            o.AddPolicy(Heavy, http =>
                RateLimitPartition.GetConcurrencyLimiter(CallerOf(http), _ => new() { PermitLimit = HeavyAtOnce, QueueLimit = HeavyAtOnce })
            );
        });
        services.AddRequestTimeouts(o =>
            o.DefaultPolicy = new RequestTimeoutPolicy { Timeout = TimeSpan.FromSeconds(60), TimeoutStatusCode = 503 }
        );
        if (configuration["TOUGHSTART_HOSTS"] is { Length: > 0 } hosts)
        {
            services.Configure<HostFilteringOptions>(o =>
            {
                o.AllowedHosts = hosts.Split([';', ',', ' '], StringSplitOptions.RemoveEmptyEntries);
                o.AllowEmptyHosts = false;
            });
        }
    }

    /// <summary>Whom a request counts against: the person, else the address it came from.</summary>
    private static string CallerOf(HttpContext http) =>
        http.User.FindFirstValue(StaffClaims.StaffId) ?? http.Connection.RemoteIpAddress?.ToString() ?? "nobody";
}

/// <summary>Wrong passwords by the address they came from: past a number the address waits, whatever names it tries.</summary>
public sealed class SignInDoor(TimeProvider time)
{
    /// <summary>Wrong tries an address has in the time.</summary>
    public const int Tries = 20;

    private static readonly TimeSpan Within = TimeSpan.FromMinutes(10);
    private readonly ConcurrentDictionary<IPAddress, (int Wrong, DateTimeOffset Since)> _wrong = new();

    /// <summary>Has this address to wait?</summary>
    public bool IsShut(IPAddress? address) =>
        address is not null && _wrong.TryGetValue(address, out var w) && w.Wrong >= Tries && time.GetUtcNow() - w.Since < Within;

    public void Wrong(IPAddress? address)
    {
        if (address is null)
        {
            return;
        }

        var now = time.GetUtcNow();
        if (_wrong.Count > 10_000)
        {
            foreach (var old in _wrong.Where(w => now - w.Value.Since >= Within).ToArray())
            {
                _wrong.TryRemove(old);
            }
        }

        _wrong.AddOrUpdate(address, (1, now), (_, w) => now - w.Since < Within ? (w.Wrong + 1, w.Since) : (1, now));
    }
}
