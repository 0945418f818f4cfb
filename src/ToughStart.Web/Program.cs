using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.Diagnostics;
using Microsoft.AspNetCore.ResponseCompression;
using Microsoft.EntityFrameworkCore;
using ToughStart.Data;
using ToughStart.Web;
using ToughStart.Web.Api;
using ToughStart.Web.Bay;
using ToughStart.Web.Drawing;
using ToughStart.Web.Identity;
using ToughStart.Web.Stations;

var builder = WebApplication.CreateBuilder(new WebApplicationOptions { Args = args, ContentRootPath = ToughStart.Web.ContentRoot.Find() });
var connection = builder.Configuration.GetConnectionString("ToughStart");
builder.WebHost.ConfigureKestrel(k =>
{
    k.AddServerHeader = false;
    // Larger than what we take, so that a refusal can be read before the connection goes.
    k.Limits.MaxRequestBodySize = 16L * ToughStart.Core.Formats.SurveyFormat.MostBytes;
});
builder.Services.AddDbContext<ToughStartContext>(o => o.UseToughStart(connection ?? "Host=127.0.0.1;Database=toughstart"));
builder.Services.AddDataProtection().SetApplicationName("tough-start").PersistKeysToDbContext<ToughStartContext>();
builder.Services.AddSingleton(TimeProvider.System);
builder.Services.AddSingleton(s => ShopClock.Of(s.GetRequiredService<TimeProvider>(), builder.Configuration[ShopClock.ZoneEntry]));
builder.Services.AddScoped<JobStore>();
builder.Services.AddScoped<RecordStore>();
builder.Services.AddScoped<ShelfStore>();
builder.Services.AddScoped<ShelfCsv>();
builder.Services.AddScoped<KitStore>();
builder.Services.AddScoped<GateStore>();
builder.Services.AddScoped<GateDesk>();
builder.Services.AddScoped<BookStore>();
builder.Services.AddScoped<QuoteStore>();
builder.Services.AddScoped<CrewStore>();
builder.Services.AddScoped<QuoteDesk>();
builder.Services.AddScoped<TimelineDesk>();
builder.Services.AddScoped<DaysDesk>();
builder.Services.AddSingleton<TimelineCache>();
builder.Services.AddScoped<HandDesk>();
builder.Services.AddScoped<CloseDesk>();
builder.Services.AddScoped<ReportDesk>();
builder.Services.AddScoped<LogbookStore>();
builder.Services.AddScoped<ComesAgain>();
builder.Services.AddScoped<BookFiles>();
builder.Services.AddScoped<LearningStore>();
builder.Services.AddScoped<LearningDesk>();
builder.Services.AddSingleton<LearningMemory>();
if (builder.Environment.IsEnvironment("Demo"))
{
    builder.Services.AddHostedService<ToughStart.Web.Demo.DemoSeasonsLoader>();
}

builder.Services.AddScoped<IPost, KeptPost>();
builder.Services.AddScoped<MixDesk>();
builder.Services.AddScoped<SiteStore>();
builder.Services.AddScoped<HouseStore>();
builder.Services.AddSingleton(s => new ServerTime(s.GetRequiredService<TimeProvider>() == TimeProvider.System));
builder.Services.AddScoped<RunStore>();
builder.Services.AddScoped<Workshop>();
builder.Services.AddScoped<RunBook>();
builder.Services.AddScoped<JobDesk>();
builder.Services.AddScoped<BayDesk>();
builder.Services.AddSingleton<OfferMaker>();
builder.Services.AddHostedService(s => s.GetRequiredService<OfferMaker>());
builder.Services.AddHttpContextAccessor();
builder.Services.AddSingleton<Tickets>();
builder.Services.AddSignalR();
builder.Services.AddHostedService<BayListener>();
builder.Services.AddSingleton<RunMemory>();
builder.Services.AddSingleton<YardMemory>();
builder.Services.AddSingleton<ShopWays>();
builder.Services.AddTransient(s => s.GetRequiredService<ShopWays>().Now);
builder.Services.AddSingleton<Computing>();
builder.Services.AddSingleton<PlanCache>();
builder.Services.AddSingleton<PlanWarmer>();
builder.Services.AddHostedService(s => s.GetRequiredService<PlanWarmer>());
builder.Services.AddSignIn();
builder.Services.AddDoors(builder.Configuration);

// Pages wait for heavy work on the thread they run on; there are enough of them that nobody else waits.
ThreadPool.SetMinThreads(64, 64);
var proxy = builder.Configuration["TOUGHSTART_TRUSTED_PROXY"];
builder.Services.AddRazorPages(o =>
{
    o.Conventions.AddPageRoute("/Yard/Index", "/");
    o.Conventions.AddPageRoute("/Intake/Index", "/jobs/new");
    o.Conventions.ConfigureFilter(new SoundPages());
});
builder.Services.AddAntiforgery(o => o.HeaderName = "X-CSRF-Token");

// Forms are read before their page is asked; the largest field is a shelf's file, pasted.
builder.Services.Configure<Microsoft.AspNetCore.Http.Features.FormOptions>(o => o.ValueLengthLimit = 3 * ShelfCsv.MostBytes);
builder.Services.AddResponseCompression(o =>
{
    o.EnableForHttps = true;
    o.MimeTypes = [.. ResponseCompressionDefaults.MimeTypes, "image/svg+xml"];
});

// Phones in a yard have a poor network: a few ms of work here are tens there.
builder.Services.Configure<GzipCompressionProviderOptions>(o => o.Level = System.IO.Compression.CompressionLevel.Optimal);
builder.Services.Configure<BrotliCompressionProviderOptions>(o => o.Level = System.IO.Compression.CompressionLevel.Optimal);
builder.Services.Configure<RouteHandlerOptions>(o => o.ThrowOnBadRequest = true);
builder.Services.AddProblemDetails(o =>
    o.CustomizeProblemDetails = c =>
    {
        // A body that is no JSON, or holds the wrong kind of value, is named by place; anything else of ours stays unsaid.
        if (c.Exception is BadHttpRequestException { InnerException: System.Text.Json.JsonException json })
        {
            var field = json.Path is { Length: > 2 } path ? path[2..] : "(document)";
            c.ProblemDetails.Title = "The document cannot be read";
            c.ProblemDetails.Detail =
                $"{field}: cannot be read here, line {(json.LineNumber ?? 0) + 1}, position {(json.BytePositionInLine ?? 0) + 1}";
        }
        else if (c.Exception is { } e && Failure.Of(e) is { Status: not 500 } failure)
        {
            (c.ProblemDetails.Title, c.ProblemDetails.Detail) = (failure.Heading, failure.Advice);
            if (failure.ComeBack is { } seconds)
            {
                c.HttpContext.Response.Headers.RetryAfter = seconds.ToString(System.Globalization.CultureInfo.InvariantCulture);
            }
        }
    }
);
builder.Services.AddExceptionHandler<DatabaseAway>();
builder.Services.AddOpenApi();
builder.Services.AddRouting(o => o.LowercaseUrls = true);

if (!SignInSetup.IsDemo(builder.Environment) && SignInSetup.Refuse(builder.Configuration["urls"], proxy) is { } refused)
{
    Console.Error.WriteLine($"serve: refused. {refused}.");
    return 2;
}

if (proxy is not null)
{
    builder.Services.TrustProxy(proxy);
}

var app = builder.Build();
if (args.Contains("--migrate-only") || args.Contains("--add-owner") || app.Environment.IsEnvironment("Demo"))
{
    await using var scope = app.Services.CreateAsyncScope();
    var db = scope.ServiceProvider.GetRequiredService<ToughStartContext>();
    await db.Database.MigrateAsync();
    await SignInSetup.SeedPeopleAsync(scope.ServiceProvider, app.Environment.IsEnvironment("Demo"));
    if (args.Contains("--add-owner"))
    {
        return await AddOwner(scope.ServiceProvider, args[Array.IndexOf(args, "--add-owner") + 1]);
    }

    if (args.Contains("--migrate-only"))
    {
        return 0;
    }

    var clock = app.Services.GetRequiredService<ShopClock>();
    await DemoSeed.LoadAsync(db, app.Configuration["TOUGHSTART_DEMO"] ?? "demo", clock.Today, clock.Now.ToDateTimeOffset());
    await DemoShelf.LoadAsync(db, app.Configuration["TOUGHSTART_DEMO"] ?? "demo", app.Services.GetRequiredService<TimeProvider>(), clock);
    await ToughStart.Web.Photos.DemoPhotos.LoadAsync(
        scope.ServiceProvider.GetRequiredService<JobStore>(),
        scope.ServiceProvider.GetRequiredService<RecordStore>()
    );
}

if (proxy is not null)
{
    app.UseForwardedHeaders();
}

// People get a page, programs get problem+json.
app.UseWhen(
    c => c.Request.Path.StartsWithSegments("/api"),
    api =>
    {
        api.UseExceptionHandler(
            new ExceptionHandlerOptions
            {
                StatusCodeSelector = StatusOf,
                SuppressDiagnosticsCallback = e => e.Exception is BadHttpRequestException,
            }
        );
        api.UseStatusCodePages();
    }
);
app.UseWhen(
    c => !c.Request.Path.StartsWithSegments("/api"),
    pages =>
    {
        pages.UseExceptionHandler(
            new ExceptionHandlerOptions
            {
                StatusCodeSelector = StatusOf,
                ExceptionHandlingPath = "/error",
                AllowStatusCode404Response = true,
            }
        );
        pages.UseStatusCodePagesWithReExecute("/error", "?status={0}");
    }
);
app.UseSecurityHeaders(
    new HeaderPolicyCollection()
        .AddFrameOptionsDeny()
        .AddContentTypeOptionsNoSniff()
        .AddReferrerPolicyNoReferrer()
        .RemoveServerHeader()
        .AddCrossOriginOpenerPolicy(b => b.SameOrigin())
        .AddContentSecurityPolicy(csp =>
        {
            csp.AddDefaultSrc().None();
            csp.AddScriptSrc().Self();
            csp.AddStyleSrc().Self();
            csp.AddFontSrc().Self();
            csp.AddImgSrc().Self().Data();
            csp.AddConnectSrc().Self();
            csp.AddWorkerSrc().Self();
            csp.AddManifestSrc().Self();
            csp.AddFormAction().Self();
            csp.AddBaseUri().None();
            csp.AddFrameAncestors().None();
        })
);
app.UseSoundAddresses();
app.UseResponseCompression();
var types = new Microsoft.AspNetCore.StaticFiles.FileExtensionContentTypeProvider();
types.Mappings[".webmanifest"] = "application/manifest+json";
app.UseStaticFiles(
    new StaticFileOptions
    {
        ContentTypeProvider = types,
        OnPrepareResponse = c =>
        {
            // The worker is asked for anew each time, and serves pages outside its own folder.
            var worker = c.File.Name == "worker.js";
            c.Context.Response.Headers.CacheControl = worker ? "no-cache" : "public,max-age=3600";
            if (worker)
            {
                c.Context.Response.Headers["Service-Worker-Allowed"] = "/";
            }
        },
    }
);
app.UseRouting();
app.UseAuthentication();
app.UseAuthorization();
app.UseRateLimiter();
app.UseRequestTimeouts();
app.UseSoundForms();
app.UseReadersOnlyLook();
app.UseShopWays();
app.MapRazorPages();
app.MapToughStartApi();
app.MapDrawn();
app.MapHub<BayHub>("/hub/bay");
app.MapOpenApi("/openapi/{documentName}.json").OpenOnLoopback();
app.Run();
return 0;

static async Task<int> AddOwner(IServiceProvider services, string name)
{
    try
    {
        await SignInSetup.AddPersonAsync(services, name, name, Roles.Owner, Console.In.ReadLine() ?? "");
        return 0;
    }
    catch (InvalidOperationException e)
    {
        Console.Error.WriteLine(e.Message);
        return 2;
    }
}

static int StatusOf(Exception e) => Failure.Of(e).Status;

/// <summary>Entry point; named so that tests can start the application.</summary>
public partial class Program;
