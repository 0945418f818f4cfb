using System.Text;
using System.Text.Json;
using Microsoft.AspNetCore.Antiforgery;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Devices;
using ToughStart.Core.Formats;
using ToughStart.Core.Identification;
using ToughStart.Core.Planning;
using ToughStart.Core.Vehicles;
using ToughStart.Data;
using ToughStart.Scheduling;
using ToughStart.Web.Bay;
using ToughStart.Web.Drawing;
using ToughStart.Web.Identity;
using ToughStart.Web.Stations;

namespace ToughStart.Web.Api;

/// <summary>A remark on a zone, 1 to 400 characters.</summary>
public sealed record NoteRequest(string? Zone, string? Words);

/// <summary>One reading as the stream sends it.</summary>
public sealed record GaugeEvent(string Kind, string Zone, double Value, string Source);

/// <summary>The stateless calculators and the documents of a job, as JSON.</summary>
public static class ToughStartApi
{
    public static void MapToughStartApi(this IEndpointRouteBuilder app)
    {
        var api = app.MapGroup("/api/v1");
        api.MapPost("/plan", Plan)
            .RequireRateLimiting(Doors.Heavy)
            .WithSummary("Plan a toughstart.survey/1 document; ?proof=true says how near it is to the best there is")
            .Accepts<JsonElement>("application/json")
            .Produces(200, contentType: "application/json")
            .ProducesProblem(400)
            .ProducesProblem(413)
            .ProducesProblem(422)
            .OpenOnLoopback();
        api.MapPost("/compare", Compare)
            .RequireRateLimiting(Doors.Heavy)
            .WithSummary("Two plans side by side, differences only: { a, b } or { survey, house, goal, start, lean, stockOnly, declines }")
            .Accepts<JsonElement>("application/json")
            .Produces(200, contentType: "application/json")
            .ProducesProblem(400)
            .ProducesProblem(422)
            .OpenOnLoopback();
        api.MapPost("/flips", FlipsOf)
            .RequireRateLimiting(Doors.Heavy)
            .WithSummary("What would change the plan of a survey: each finding a grade worse or better")
            .Accepts<JsonElement>("application/json")
            .Produces(200, contentType: "application/json")
            .ProducesProblem(400)
            .ProducesProblem(422)
            .OpenOnLoopback();
        api.MapPost("/quote", QuoteOf)
            .RequireRateLimiting(Doors.Heavy)
            .WithSummary("What the plan of a survey costs and how sure that is: { survey, rates, turned }, toughstart.quote/1")
            .Accepts<JsonElement>("application/json")
            .Produces(200, contentType: "application/json")
            .ProducesProblem(400)
            .ProducesProblem(422)
            .OpenOnLoopback();
        api.MapPost("/price-range", PriceRange)
            .RequireRateLimiting(Doors.Heavy)
            .WithSummary("What one such job in ten stays under, half do and nine in ten do, and what makes the range: { survey, rates }")
            .Accepts<JsonElement>("application/json")
            .Produces(200, contentType: "application/json")
            .ProducesProblem(400)
            .ProducesProblem(422)
            .OpenOnLoopback();
        api.MapPost("/timeline", TimelineOf)
            .RequireRateLimiting(Doors.Heavy)
            .WithSummary("The plan of a survey laid out for a crew: { survey, people, washers, ladders }, toughstart.timeline/1")
            .Accepts<JsonElement>("application/json")
            .Produces(200, contentType: "application/json")
            .ProducesProblem(400)
            .ProducesProblem(422)
            .OpenOnLoopback();
        Calculator<MixRequest, MixAnswer>(
            api,
            "/mix",
            "Amounts for a strength in any notation; top up a rest; round to a jug; share over containers",
            Calculators.Mix
        );
        Calculator<LanceRequest, LanceAnswer>(
            api,
            "/lance",
            "Panel impact: from timed bottles to what reaches the panel, and back",
            Calculators.Lance
        );
        Calculator<NozzleRequest, NozzleAnswer>(api, "/nozzle", "Flow, fan, force and safe stand-off of a nozzle", Calculators.Nozzle);
        Calculator<PhRequest, PhAnswer>(
            api,
            "/ph",
            "The mildest a dilution's pH can be, and the GHS thresholds; for information",
            Calculators.Ph
        );
        Calculator<HardnessRequest, HardnessAnswer>(
            api,
            "/hardness",
            "Units and class of water hardness, residue of a film that dries",
            Calculators.Hardness
        );
        Calculator<WindowRequest, WindowAnswer>(api, "/wet-window", "How long a film on a panel stays wet", Calculators.Window);
        Calculator<CompatibilityRequest, CompatibilityReply>(
            api,
            "/compatibility",
            "May an agent go on a surface, or after another agent, and why",
            Calculators.Compatibility
        );
        api.MapPost("/identify", Identify)
            .WithSummary("What an unknown mark may be: evidence in, candidates, tests and cautions out")
            .ProducesProblem(422)
            .OpenOnLoopback();
        api.MapGet("/forms/{form}", Form)
            .WithSummary("Zones of a body form with areas, kinds and outlines")
            .ProducesProblem(404)
            .OpenOnLoopback();
        api.MapPut("/jobs/{number:int}/survey", SaveSurvey)
            .WithSummary("Save a survey on top of the revision named in If-Match")
            .Accepts<JsonElement>("application/json")
            .ProducesProblem(409);
        var job = app.MapGroup("/api/v1/jobs/{number:int}");
        job.MapRunApi();
        job.MapBayApi();
        api.MapWallApi();
        api.MapPost("/jobs/{number:int}/notes", Note).WithSummary("Leave a remark on a zone").ProducesProblem(422);
        api.MapGet("/jobs/{number:int}/gauges/{kind}", Gauge)
            .WithSummary("Readings of a gauge as they come, as server-sent events; the shipped gauges are simulated")
            .DisableRequestTimeout();
        app.MapGet("/jobs/{number:int}/photos/{id:guid}", Photo).ExcludeFromDescription();
        app.MapGet("/jobs/{number:int}/log.jsonl", LogLines).ExcludeFromDescription();
        app.MapGet("/jobs/{number:int}/log.csv", LogTable).ExcludeFromDescription();
        api.MapGet("/jobs/{number:int}/survey", Survey).WithSummary("The survey of a job as toughstart.survey/1");
        api.MapGet("/jobs/{number:int}/net.svg", NetSvg).WithSummary("The vehicle unfolded, with what was found, as SVG");
        api.MapGet("/jobs/{number:int}/net.png", NetPng).WithSummary("The same as PNG");
        app.MapGet("/jobs/{number:int}/net.svg", NetPicture).ExcludeFromDescription();
        app.MapHealth();
    }

    private static async Task<IResult> Plan(HttpRequest request, PlanCache plans, CancellationToken stop)
    {
        var (survey, refused) = await ReadSurvey(request, stop);
        if (refused is not null)
        {
            return refused;
        }

        var plan = plans.Plan(survey!, stop);
        return Results.Bytes(
            PlanFormat.Write(
                plan with
                {
                    Buy = plans.Buy(survey!, stop),
                    Proof = request.Query["proof"] == "true" ? plans.Proof(survey!, stop) : null,
                }
            ),
            "application/json"
        );
    }

    private static Task<IResult> QuoteOf(HttpRequest request, PlanCache plans, CancellationToken stop) =>
        With(
            request,
            QuoteFormat.ReadRequest,
            asked =>
                plans.Plan(asked.Survey, stop).Worlds is null
                    ? Refuse(422, [NothingToPrice])
                    : Results.Bytes(
                        QuoteFormat.Write(
                            Core.Costing.Quote.Of(asked.Survey, asked.Rates, asked.Turned, s => plans.Plan(s, stop), "caller")
                        ),
                        "application/json"
                    ),
            stop
        );

    private static Task<IResult> PriceRange(HttpRequest request, PlanCache plans, CancellationToken stop) =>
        With(
            request,
            QuoteFormat.ReadRequest,
            asked =>
                plans.Plan(asked.Survey, stop).Worlds is { } worlds
                    ? Results.Bytes(QuoteFormat.WriteRange(worlds, asked.Rates, stop), "application/json")
                    : Refuse(422, [NothingToPrice]),
            stop
        );

    private static Task<IResult> TimelineOf(HttpRequest request, PlanCache plans, Computing computing, CancellationToken stop) =>
        With(
            request,
            TimelineRequest.Read,
            asked =>
            {
                var plan = plans.Plan(asked.Survey, stop);
                if (plan.ReferOnly)
                {
                    return Refuse(422, [new Problem("survey", "nothing may start yet, so there is nothing to lay out")]);
                }

                try
                {
                    var layout = computing.Run(
                        $"timeline {plan.SurveyHash} {JsonSerializer.Serialize(asked.People)} {asked.Machines}",
                        effort =>
                            Layout.Of(
                                plan,
                                Forms.Build(asked.Survey.Vehicle.Form, asked.Survey.Vehicle.Size),
                                asked.People,
                                asked.Machines,
                                stop: effort.Stop
                            ),
                        stop
                    );
                    return Results.Bytes(TimelineFormat.Write(layout.Instance, layout.Schedule), "application/json");
                }
                catch (CannotScheduleException e)
                {
                    return Refuse(422, [new Problem("people", e.Message)]);
                }
            },
            stop
        );

    private static readonly Problem NothingToPrice = new("survey", "nothing may start yet, so there is nothing to price");

    private static Task<IResult> Compare(HttpRequest request, PlanCache plans, CancellationToken stop) =>
        With(
            request,
            CompareFormat.Read,
            pair =>
                Results.Bytes(CompareFormat.Write(PlanCompare.Of(plans.Plan(pair.A, stop), plans.Plan(pair.B, stop))), "application/json"),
            stop
        );

    /// <summary>Reads the body as JSON and as what is asked for, or says what is wrong with it.</summary>
    private static async Task<IResult> With<T>(
        HttpRequest request,
        Func<JsonElement, Checked<T>> reads,
        Func<T, IResult> answer,
        CancellationToken stop
    )
        where T : class
    {
        JsonDocument body;
        try
        {
            body = await JsonDocument.ParseAsync(
                request.Body,
                new JsonDocumentOptions { MaxDepth = 20, AllowDuplicateProperties = false },
                stop
            );
        }
        catch (InvalidOperationException)
        {
            return Refuse(400, [new Problem("(document)", "holds a name that is no text")]);
        }
        catch (JsonException e)
        {
            return Refuse(400, [new Problem("(document)", $"is not JSON: line {e.LineNumber + 1}, position {e.BytePositionInLine + 1}")]);
        }

        using (body)
        {
            var read = reads(body.RootElement);
            return read.Ok ? answer(read.Value!) : Refuse(422, read.Problems);
        }
    }

    private static async Task<IResult> FlipsOf(HttpRequest request, HttpResponse response, PlanCache plans, CancellationToken stop)
    {
        var (survey, refused) = await ReadSurvey(request, stop);
        if (refused is not null)
        {
            return refused;
        }

        // A list stays a list: how much of it there was time for is said beside it.
        var report = plans.Flips(survey!, stop);
        response.Headers["X-Looked-At"] = $"{report.LookedAt} of {report.Of}";
        return Results.Ok(
            report.Found.Select(f => new
            {
                f.Contaminant,
                f.From,
                f.To,
                f.Zones,
                f.Change,
                f.Minutes,
                f.Words,
            })
        );
    }

#pragma warning disable RDG011 // One handler for every calculator: its binding is made at the start, as it always was.
    private static void Calculator<TIn, TOut>(RouteGroupBuilder api, string path, string summary, Func<TIn, Checked<TOut>> compute)
        where TIn : class
        where TOut : class =>
        api.MapPost(path, (TIn? request) =>
                request is null
                    ? Refuse(400, [new Problem("(document)", "is empty or null: an object is asked for")])
                    : Answer(compute(request))
            )
            .WithSummary(summary)
            .Produces<TOut>()
            .ProducesProblem(400)
            .ProducesProblem(422)
            .OpenOnLoopback();
#pragma warning restore RDG011

    private static IResult Answer<T>(Checked<T> answer)
        where T : class => answer.Ok ? Results.Ok(answer.Value) : Refuse(422, answer.Problems);

    private static async Task<IResult> Note(
        int number,
        NoteRequest? request,
        HttpContext http,
        JobStore jobs,
        IAntiforgery antiforgery,
        CancellationToken stop
    )
    {
        if (!await antiforgery.IsRequestValidAsync(http))
        {
            return Refuse(400, [new Problem("X-CSRF-Token", "is missing or stale: reload the page")]);
        }

        if (await jobs.JobAsync(number, stop) is not { } job)
        {
            return Refuse(404, [new Problem("job", $"there is no job {number}")]);
        }

        var words = request?.Words?.Trim() ?? "";
        if (request?.Zone is null || !Forms.Build(job.Survey.Vehicle.Form, job.Survey.Vehicle.Size).Has(request.Zone))
        {
            return Refuse(422, [new Problem("zone", "is no zone of this job's vehicle")]);
        }

        return words.Length is 0 or > 400 || !Sound.Is(words)
            ? Refuse(422, [new Problem("words", "are 1 to 400 characters")])
            : Results.Ok(new { id = await jobs.NoteAsync(job.Id, request.Zone, words, http.User.StaffId(), stop) });
    }

    private static async Task<IResult> Gauge(int number, string kind, string? zone, JobStore jobs, CancellationToken stop)
    {
        if (kind is not ("film" or "temperature" or "hardness"))
        {
            return Refuse(404, [new Problem("gauge", $"'{kind}' is not known", ["film", "temperature", "hardness"])]);
        }

        if (
            await jobs.JobAsync(number, stop) is not { } job
            || (kind != "hardness" && (zone is null || !Forms.Build(job.Survey.Vehicle.Form, job.Survey.Vehicle.Size).Has(zone)))
        )
        {
            return Refuse(404, [new Problem("zone", "is no zone of this job's vehicle")]);
        }

        return TypedResults.ServerSentEvents(Readings(new SimulatedGauge(kind, number), zone ?? "", stop), "reading");

        static async IAsyncEnumerable<GaugeEvent> Readings(
            IGauge gauge,
            string zone,
            [System.Runtime.CompilerServices.EnumeratorCancellation] CancellationToken stop
        )
        {
            for (var i = 0; i < 20; i++)
            {
                await Task.Delay(250, stop);
                var r = gauge.Read(zone);
                yield return new GaugeEvent(r.Kind, r.Zone, r.Value, gauge.Name);
            }
        }
    }

    private static async Task<IResult> LogLines(int number, BookFiles files, CancellationToken stop) =>
        await files.LinesAsync(number, stop) is { } bytes
            ? Results.File(bytes, "application/x-ndjson", $"job-{number}-log.jsonl")
            : Results.NotFound();

    private static async Task<IResult> LogTable(int number, BookFiles files, CancellationToken stop) =>
        await files.LogTableAsync(number, stop) is { } bytes
            ? Results.File(bytes, "text/csv", $"job-{number}-log.csv")
            : Results.NotFound();

    private static async Task<IResult> Photo(
        int number,
        Guid id,
        bool? thumb,
        HttpContext http,
        JobStore jobs,
        RecordStore records,
        CancellationToken stop
    )
    {
        if (await jobs.JobAsync(number, stop) is not { } job || await records.PhotoAsync(job.Id, id, thumb == true, stop) is not { } jpeg)
        {
            return Results.NotFound();
        }

        http.Response.Headers.CacheControl = "private,max-age=86400";
        return Results.Bytes(jpeg, "image/jpeg");
    }

    private static async Task<IResult> Survey(int number, JobStore jobs, CancellationToken stop) =>
        await jobs.JobAsync(number, stop) is { } job
            ? Results.File(SurveyFormat.Write(job.Survey), "application/json", $"job-{number}.survey.json")
            : Refuse(404, [new Problem("job", $"there is no job {number}")]);

    private static async Task<IResult> NetSvg(int number, JobStore jobs, CancellationToken stop) =>
        await jobs.JobAsync(number, stop) is { } job
            ? Results.File(Encoding.UTF8.GetBytes(NetExport.Svg(job.Survey)), "image/svg+xml", $"job-{number}.svg")
            : Refuse(404, [new Problem("job", $"there is no job {number}")]);

    /// <summary>The same to look at in a list; its address names the revision, so that a browser keeps it as long as it likes.</summary>
    private static async Task<IResult> NetPicture(int number, HttpContext http, JobStore jobs, CancellationToken stop)
    {
        if (await jobs.JobAsync(number, stop) is not { } job)
        {
            return Results.NotFound();
        }

        http.Response.Headers.CacheControl =
            http.Request.Query["r"] == job.Revision.ToString(System.Globalization.CultureInfo.InvariantCulture)
                ? "private,max-age=31536000,immutable"
                : "no-cache";
        return Results.Bytes(Encoding.UTF8.GetBytes(NetExport.Svg(job.Survey)), "image/svg+xml");
    }

    private static async Task<IResult> NetPng(int number, JobStore jobs, CancellationToken stop) =>
        await jobs.JobAsync(number, stop) is { } job
            ? Results.File(NetExport.Png(job.Survey, 1600), "image/png", $"job-{number}.png")
            : Refuse(404, [new Problem("job", $"there is no job {number}")]);

    private static IResult Identify(Dictionary<string, string>? evidence)
    {
        try
        {
            return Results.Ok(
                MarkIdentifier.Identify((evidence ?? []).Where(e => e.Value is not null).ToDictionary(e => e.Key, e => e.Value))
            );
        }
        catch (ArgumentException e)
        {
            return Refuse(422, [new Problem("evidence", e.Message.Split(" (Parameter")[0])]);
        }
    }

    private static IResult Form(string form)
    {
        if (!Forms.Ids.Contains(form))
        {
            return Refuse(404, [new Problem("form", $"'{form}' is not known", Forms.Ids)]);
        }

        var v = Forms.Build(form, Forms.DefaultSize(form));
        return Results.Ok(
            new
            {
                form,
                lengthMm = Math.Round(v.Size.Length * 1000),
                widthMm = Math.Round(v.Size.Width * 1000),
                heightMm = Math.Round(v.Size.Height * 1000),
                zones = v.Zones.Select(z => new
                {
                    zone = z.Id,
                    kind = z.Kind.Id,
                    areaM2 = Math.Round(z.Area, 4),
                    surface = z.Kind.Default.Id,
                    surfaces = z.Kind.MayBe.Select(s => s.Id),
                    tiltDeg = z.Tilt,
                    facesDeg = z.Faces,
                    topM = z.Top,
                    drainsTo = z.DrainsTo,
                    neighbours = z.Neighbours,
                    outlines = z.Shapes.Select(s => s.Outline.Select(p => new[] { Math.Round(p.X, 4), Math.Round(p.Y, 4) })),
                }),
            }
        );
    }

    private static async Task<IResult> SaveSurvey(
        int number,
        HttpContext http,
        JobStore jobs,
        IAntiforgery antiforgery,
        CancellationToken stop
    )
    {
        if (!await antiforgery.IsRequestValidAsync(http))
        {
            return Refuse(400, [new Problem("X-CSRF-Token", "is missing or stale: reload the page, your changes are kept in it")]);
        }

        if (!int.TryParse(http.Request.Headers.IfMatch.ToString().Trim('"'), out var revision))
        {
            return Refuse(400, [new Problem("If-Match", "must name the revision this survey was opened at")]);
        }

        var (survey, refused) = await ReadSurvey(http.Request, stop);
        if (refused is not null)
        {
            return refused;
        }

        if (await jobs.JobAsync(number, stop) is not { } job)
        {
            return Refuse(404, [new Problem("job", $"there is no job {number}")]);
        }

        if (revision < 1 || revision > job.Revision)
        {
            return Refuse(400, [new Problem("If-Match", $"names revision {revision}; this job has 1 to {job.Revision}")]);
        }

        if (job.Station == "closed")
        {
            return Refuse(409, [new Problem("job", RunApi.IsClosed)]);
        }

        var result = await jobs.SaveSurveyAsync(job.Id, revision, survey!, http.User.StaffId(), stop);
        return result.Saved
            ? Results.Ok(
                new
                {
                    revision = result.Revision,
                    fromThem = result.FromThem,
                    survey = result.FromThem.Count > 0 ? Document(result.Now) : (JsonElement?)null,
                }
            )
            : Results.Json(
                new
                {
                    type = "about:blank",
                    title = "Somebody changed the same place meanwhile",
                    status = 409,
                    detail = $"{string.Join(", ", result.Conflicts.Select(Limits.Words))}: changed by {result.TheirAuthor} at {result.TheirTime:yyyy-MM-dd HH:mm} UTC, and by you. Nothing was overwritten.",
                    revision = result.Revision,
                    conflicts = result.Conflicts,
                    merged = Document(result.Now),
                    theirs = Document(result.Theirs!),
                },
                statusCode: 409,
                contentType: "application/problem+json"
            );
    }

    private static JsonElement Document(Survey survey) => JsonDocument.Parse(SurveyFormat.Write(survey)).RootElement;

    private static async Task<(Survey?, IResult?)> ReadSurvey(HttpRequest request, CancellationToken stop)
    {
        using var bytes = new MemoryStream();
        if (request.ContentLength > SurveyFormat.MostBytes)
        {
            return (null, TooLarge());
        }

        try
        {
            var buffer = new byte[64 * 1024];
            int read;
            while ((read = await request.Body.ReadAsync(buffer, stop)) > 0)
            {
                bytes.Write(buffer, 0, read);
                if (bytes.Length > SurveyFormat.MostBytes)
                {
                    return (null, TooLarge());
                }
            }
        }
        catch (BadHttpRequestException e) when (e.StatusCode == 413)
        {
            return (null, TooLarge());
        }

        var survey = SurveyFormat.Read(bytes.ToArray());
        return survey.Ok
            ? (survey.Value, null)
            : (
                null,
                survey.Refusal switch
                {
                    Refusal.TooLarge => TooLarge(),
                    Refusal.Malformed => Refuse(400, survey.Problems),
                    _ => Refuse(422, survey.Problems),
                }
            );
    }

    private static IResult TooLarge() =>
        Refuse(413, [new Problem("(document)", $"is larger than {SurveyFormat.MostBytes / 1024 / 1024} MB")]);

    internal static ProblemHttpResult Refuse(int status, IReadOnlyList<Problem> problems) =>
        TypedResults.Problem(
            new ProblemDetails
            {
                Status = status,
                Title = status switch
                {
                    400 => "The document cannot be read",
                    404 => "Not found",
                    409 => "It changed meanwhile",
                    413 => "Too large",
                    _ => "The document is not valid",
                },
                Detail = string.Join("; ", problems.Take(5)),
                Extensions =
                {
                    ["problems"] = problems
                        .Select(p => new
                        {
                            field = p.Field,
                            message = p.Message,
                            allowed = p.Allowed,
                        })
                        .ToArray(),
                },
            }
        );
}
