using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.Mvc.Testing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using ToughStart.Data;
using ToughStart.Web.Identity;
using ToughStart.Web.Photos;

namespace ToughStart.Web.Tests;

/// <summary>The application on a real PostgreSQL and a real port, with the demo jobs in a database of its own.</summary>
public sealed class AppFixture : IAsyncLifetime
{
    /// <summary>The one clock of the tests: the app, its demo and every test read it, whatever day it is outside.</summary>
    public static TickingClock Clock { get; } = new();

    /// <summary>The shop stands in the zone that its clock has: UTC.</summary>
    public static ShopClock Shop { get; } = ShopClock.Of(Clock, null);

    private readonly string _database = $"web_{Guid.NewGuid():N}";
    private Factory _factory = null!;

    public Uri Address { get; private set; } = null!;

    public IServiceProvider Services => _factory.Services;

    public HttpClient Http { get; private set; } = null!;

    public string Connection =>
        Environment.GetEnvironmentVariable("TOUGHSTART_TEST_PG") is { Length: > 0 } server
            ? $"{server};Database={_database}"
            : throw new InvalidOperationException("TOUGHSTART_TEST_PG is not set: run ./tough-start test");

    public ToughStartContext NewContext() => NewContext(Connection);

    public static ToughStartContext NewContext(string connection)
    {
        var options = new DbContextOptionsBuilder<ToughStartContext>();
        options.UseToughStart(connection);
        return new ToughStartContext(options.Options);
    }

    public async ValueTask InitializeAsync()
    {
        await using (var db = NewContext())
        {
            await db.Database.MigrateAsync();
            await DemoSeed.LoadAsync(db, Environment.GetEnvironmentVariable("TOUGHSTART_DEMO")!, TickingClock.Today, TickingClock.Start);
        }

        _factory = new Factory(Connection);
        _factory.UseKestrel(0);
        _factory.StartServer();
        Address = _factory.ClientOptions.BaseAddress;
        await using (var scope = _factory.Services.CreateAsyncScope())
        {
            await SignInSetup.SeedPeopleAsync(scope.ServiceProvider, demo: true);
            await DemoShelf.LoadAsync(
                scope.ServiceProvider.GetRequiredService<ToughStartContext>(),
                Environment.GetEnvironmentVariable("TOUGHSTART_DEMO")!,
                Clock,
                Shop
            );
            await DemoPhotos.LoadAsync(
                scope.ServiceProvider.GetRequiredService<JobStore>(),
                scope.ServiceProvider.GetRequiredService<RecordStore>()
            );
        }

        Http = await SignedInAsync("tam");
    }

    /// <summary>A client with its own cookies, signed in as somebody of the demo shop, or as nobody.</summary>
    public Task<HttpClient> SignedInAsync(string? user) => SignedInAsync(Address, user);

    /// <summary>The same at another address.</summary>
    public static async Task<HttpClient> SignedInAsync(Uri address, string? user)
    {
        var http = new HttpClient(new HttpClientHandler { AllowAutoRedirect = user is not null }) { BaseAddress = address };
        if (user is not null)
        {
            var page = await http.GetStringAsync(new Uri("/sign-in", UriKind.Relative));
            var token = System
                .Text.RegularExpressions.Regex.Match(page, "__RequestVerificationToken\" type=\"hidden\" value=\"([^\"]+)\"")
                .Groups[1]
                .Value;
            var answer = await http.PostAsync(
                new Uri("/sign-in", UriKind.Relative),
                new FormUrlEncodedContent(
                    new Dictionary<string, string>
                    {
                        ["UserName"] = user,
                        ["Password"] = SignInSetup.Demo.First(p => p.User == user).Password,
                        ["__RequestVerificationToken"] = token,
                    }
                )
            );
            answer.EnsureSuccessStatusCode();
        }

        return http;
    }

    public async ValueTask DisposeAsync()
    {
        Http.Dispose();
        await _factory.DisposeAsync();
        await using var db = NewContext();
        await db.Database.EnsureDeletedAsync();
    }

    private sealed class Factory(string connection) : WebApplicationFactory<Program>
    {
        protected override void ConfigureWebHost(IWebHostBuilder builder)
        {
            builder.UseEnvironment("Testing");
            builder.UseSetting("ConnectionStrings:ToughStart", connection);
            // All tests are one caller.
            builder.UseSetting(Doors.RateEntry, "100000");
            builder.ConfigureServices(s => s.AddSingleton<TimeProvider>(Clock).AddSingleton<IStartupFilter, BarePage>());
        }
    }

    /// <summary>Where the bare page is that others are measured against.</summary>
    public const string Bare = "/bare";

    /// <summary>Eight queries, one after another, and 60 kB of text: the least a page of this app could be.</summary>
    private sealed class BarePage : IStartupFilter
    {
        private static readonly string Text = new('.', 60_000);

        public Action<IApplicationBuilder> Configure(Action<IApplicationBuilder> next) =>
            app =>
            {
                app.Map(Bare, bare => bare.Run(async http =>
                    {
                        var db = http.RequestServices.GetRequiredService<ToughStartContext>();
                        for (var i = 0; i < 8; i++)
                        {
                            await db.Jobs.AsNoTracking().FirstAsync(j => j.Number == 104 + i, http.RequestAborted);
                        }

                        await http.Response.WriteAsync(Text, http.RequestAborted);
                    }));
                next(app);
            };
    }
}

/// <summary>A clock that starts on a fixed morning in UTC and goes on from there as fast as any other.</summary>
public sealed class TickingClock : TimeProvider
{
    private readonly long _from = System.GetTimestamp();

    public static DateTimeOffset Start { get; } = new(2026, 11, 24, 8, 0, 0, TimeSpan.Zero);

    public static DateOnly Today { get; } = DateOnly.FromDateTime(Start.Date);

    public override TimeZoneInfo LocalTimeZone => TimeZoneInfo.Utc;

    public override DateTimeOffset GetUtcNow() => Start + System.GetElapsedTime(_from) + TimeSpan.FromTicks(Interlocked.Read(ref _ahead));

    private long _ahead;

    /// <summary>Lets a dwell pass in a moment: minutes, not days, for everybody reads this clock.</summary>
    public void Advance(TimeSpan by) => Interlocked.Add(ref _ahead, by.Ticks);
}

/// <summary>Jobs that are worked live stand in a shop of their own: what is done to them is seen by no other test.</summary>
[CollectionDefinition("bay", DisableParallelization = true)]
public sealed class BayCollection : ICollectionFixture<AppFixture>;

[CollectionDefinition("app", DisableParallelization = true)]
public sealed class AppCollection : ICollectionFixture<AppFixture>;
