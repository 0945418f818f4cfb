using System.Text.Json;
using Microsoft.AspNetCore.Antiforgery;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Running.Live;
using ToughStart.Data;
using ToughStart.Web.Api;
using ToughStart.Web.Identity;
using ToughStart.Web.Stations;

namespace ToughStart.Web.Bay;

/// <summary>A decision as a phone asks for it.</summary>
/// <param name="Id">Made by the phone: sent twice it is one decision.</param>
/// <param name="Kind">started or replanned.</param>
/// <param name="Hash">Names the plan that was looked at.</param>
/// <param name="Answer">take or refuse.</param>
public sealed record DecideRequest(Guid Id, string? Device, string? Kind, string? Hash, string? Answer, string? Epoch, long Mono);

/// <summary>The live run for phones: the document, the log to and from, decisions.</summary>
public static class BayApi
{
    /// <summary>Most entries given in one answer.</summary>
    internal const int MostGiven = 500;

    public static void MapBayApi(this IEndpointRouteBuilder job)
    {
        job.MapGet("/bay", Document)
            .WithSummary(
                "What a phone needs to work alone for hours: steps, windows by quarter-hour, answers, the vehicle; with ?device= its ticket, else the log"
            )
            .ProducesProblem(400)
            .ProducesProblem(404);
        job.MapPost("/sync", Sync)
            .WithSummary("Hands in entries of toughstart.log/1 and brings what is new: { device, from, fromId, events, gone, tickets }")
            .Accepts<JsonElement>("application/json")
            .AllowAnonymous()
            .ProducesProblem(400)
            .ProducesProblem(401)
            .ProducesProblem(404);
        job.MapPost("/decide", Decide)
            .WithSummary("A decision, never queued: { id, device, kind: started or replanned, hash, answer }")
            .ProducesProblem(400)
            .ProducesProblem(404)
            .ProducesProblem(409)
            .ProducesProblem(422);
    }

    /// <summary>What the wall shows: everything in work, what is wet there and who is at it.</summary>
    public static void MapWallApi(this IEndpointRouteBuilder api) =>
        api.MapGet("/wall", async (BayDesk bay, CancellationToken stop) => Results.Json(await bay.WallAsync(stop)))
            .WithSummary("Vehicles in work: films nobody has surely rinsed, people, stops");

    private static async Task<IResult> Document(int number, string? device, HttpContext http, BayDesk bay, CancellationToken stop)
    {
        Guid? id =
            device is null ? null
            : Guid.TryParse(device, out var given) ? given
            : Guid.Empty;
        return id == Guid.Empty ? ToughStartApi.Refuse(400, [new Problem("device", "must be the phone's own UUID, or left out")])
            : await bay.DocumentAsync(number, http.User, id?.ToString(), stop) is { } document ? Results.Json(document)
            : NoJob(number);
    }

    private static async Task<IResult> Sync(
        int number,
        JsonElement body,
        RunStore store,
        RunBook runs,
        JobStore jobs,
        Tickets tickets,
        OfferMaker offers,
        CancellationToken stop
    )
    {
        if (LogFormat.Unsound(body) is { } unsound)
        {
            return ToughStartApi.Refuse(400, [unsound]);
        }

        if (Text(body, "device") is not { } name || !Guid.TryParse(name, out var parsed))
        {
            return ToughStartApi.Refuse(400, [new Problem("device", "is missing: the phone's own UUID")]);
        }

        var device = parsed.ToString();
        var people = Members(body, "tickets")
            .Select(t => tickets.Read(t.Value.ValueKind == JsonValueKind.String ? t.Value.GetString() : null, device))
            .OfType<(string Who, string Role)>()
            .DistinctBy(p => p.Who)
            .ToDictionary(p => p.Who, p => p.Role);
        if (people.Count == 0)
        {
            return ToughStartApi.Refuse(401, [new Problem("tickets", "none is good for this phone any more: sign in, nothing is lost")]);
        }

        if (await jobs.IdAsync(number, stop) is not { } job)
        {
            return NoJob(number);
        }

        var sent = Items(body, "events");
        if (sent.Length > LogFormat.MostSent)
        {
            return ToughStartApi.Refuse(
                400,
                [new Problem("events", $"{sent.Length} at once, at most {LogFormat.MostSent}: send them in turns")]
            );
        }

        var (good, aside, waits) = await ReadAsync(sent, job, device, people, runs, stop);
        var gone = Items(body, "gone").Where(g => g.ValueKind == JsonValueKind.Number && g.TryGetInt32(out _)).Select(g => g.GetInt32());
        var synced = await store.SyncAsync(job, device, good, new HashSet<int>([.. gone, .. aside.Select(a => a.Seq).OfType<int>()]), stop);
        await runs.HeardAsync(job, good, stop);
        if (good.Exists(e => e.Kind.IsNews()))
        {
            offers.Want(number);
        }

        // A phone that makes entries is one that works: whoever only looks is missed by nobody.
        if (Text(body, "who") is { } holder && people.TryGetValue(holder, out var as_) && as_ != Roles.Reader)
        {
            await store.HeardAsync(job, device, holder, stop);
        }

        var from = Math.Max(0, Whole(body, "from") ?? 0);
        // What the phone holds must be what is on file: a store that was put back has another past.
        var reset = from > 0 && Text(body, "fromId") is { } fromId && (await store.IdAsync(job, from, stop))?.ToString() != fromId;
        var news = await store.LogAsync(job, reset ? 0 : from, MostGiven, stop);
        var now = await store.NowAsync(stop);
        return Results.Bytes(
            Write(w =>
            {
                w.WriteNumber("head", news.Count > 0 ? news[^1].Number : from);
                w.WriteBoolean("more", news.Count == MostGiven);
                w.WriteStartArray("acks");
                foreach (var (id, n) in synced.Acks)
                {
                    w.WriteStartArray();
                    w.WriteStringValue(id);
                    w.WriteNumberValue(n);
                    w.WriteEndArray();
                }

                w.WriteEndArray();
                w.WriteStartArray("events");
                foreach (var e in news)
                {
                    LogFormat.Write(w, e);
                }

                w.WriteEndArray();
                w.WriteStartArray("aside");
                foreach (var (id, why) in aside.Select(a => (a.Id, a.Why)).Concat(synced.Aside))
                {
                    w.WriteStartObject();
                    w.WriteString("id", id);
                    w.WriteString("why", why);
                    w.WriteEndObject();
                }

                w.WriteEndArray();
                w.WriteBoolean("signIn", waits);
                w.WriteBoolean("conflict", synced.Conflict);
                w.WriteBoolean("reset", reset);
                if (synced.Want is { } want)
                {
                    w.WriteNumber("want", want);
                }
            }),
            "application/json"
        );

        byte[] Write(Action<Utf8JsonWriter> fields)
        {
            using var stream = new MemoryStream();
            using (var w = new Utf8JsonWriter(stream))
            {
                w.WriteStartObject();
                fields(w);
                w.WriteNumber("now", now);
                w.WriteEndObject();
            }

            return stream.ToArray();
        }
    }

    /// <summary>What can be taken in; what never can, with why; and whether somebody has to sign in first.</summary>
    private static async Task<(List<LogEvent> Good, List<(string Id, int? Seq, string Why)> Aside, bool Waits)> ReadAsync(
        JsonElement[] sent,
        Guid job,
        string device,
        Dictionary<string, string> people,
        RunBook runs,
        CancellationToken stop
    )
    {
        var (good, aside) = (new List<LogEvent>(), new List<(string, int?, string)>());
        foreach (var one in sent)
        {
            var (e, problems) = LogFormat.Read(one);
            var seq = Whole(one, "seq");
            var why =
                e is null ? string.Join("; ", problems.Select(p => $"{p.Field}: {p.Message}"))
                : !Guid.TryParse(e.Id, out var uuid) || e.Id != uuid.ToString() ? "id: must be a UUID in small letters"
                : e.Kind.IsDecision() ? $"{e.Kind.Word()} is a decision: it is made with the server, never queued"
                : e.Kind.IsServers() || e.Kind == LogKind.Observed ? $"{e.Kind.Word()} is written by the server"
                : e.Seq <= 0 ? "seq: must count from 1"
                : e.Device != device ? "device: is another phone's"
                : await runs.UnknownAsync(job, e.Body, stop);
            if (why is not null)
            {
                aside.Add((one.ValueKind == JsonValueKind.Object ? Text(one, "id") ?? "" : "", seq, why));
                continue;
            }

            if (!people.TryGetValue(e!.Who, out var role) || role is not (Roles.Owner or Roles.Technician))
            {
                // Never under another name; the queue keeps its order.
                return (good, aside, true);
            }

            good.Add(e with { Number = 0, Received = 0, ByOwner = role == Roles.Owner });
        }

        return (good, aside, false);
    }

    private static async Task<IResult> Decide(
        int number,
        DecideRequest request,
        HttpContext http,
        JobDesk desk,
        RunStore store,
        IAntiforgery antiforgery,
        CancellationToken stop
    )
    {
        if (!await antiforgery.IsRequestValidAsync(http))
        {
            return ToughStartApi.Refuse(400, [new Problem("X-CSRF-Token", "is missing or stale: reload the page")]);
        }

        if (await desk.Jobs.JobAsync(number, stop) is not { } job)
        {
            return NoJob(number);
        }

        if (job.Station == "closed")
        {
            return ToughStartApi.Refuse(409, [new Problem("job", RunApi.IsClosed)]);
        }

        if (request.Id == Guid.Empty)
        {
            return ToughStartApi.Refuse(422, [new Problem("id", "is missing")]);
        }

        var equipped = await desk.Workshop.EquipAsync(job.Survey, job.Id, stop: stop);
        switch (request.Kind, request.Answer)
        {
            case ("started", _):
                return await StartAsync(request, job, equipped, http, desk, store, stop);
            case ("replanned", "take"):
                return await desk.Runs.AcceptAsync(job, equipped, request.Hash, http.User.StaffId(), stop) is { } revision
                    ? Results.Ok(new { plan = revision })
                    : ToughStartApi.Refuse(409, [new Problem("hash", "another plan is offered by now: look at it first")]);
            case ("replanned", "refuse"):
                if (string.IsNullOrWhiteSpace(request.Hash))
                {
                    return ToughStartApi.Refuse(422, [new Problem("hash", "is missing: which plan is refused?")]);
                }

                var body = new LogBody
                {
                    From = job.PlanRevision,
                    Hash = request.Hash,
                    Answer = "refuse",
                };
                var refusal = Entry(request, http, job.PlanRevision ?? 0, LogKind.Replanned, body);
                var (refused, why) = await store.DecideAsync(
                    job.Id,
                    request.Id,
                    _ => Task.FromResult<(LogEvent?, string?)>((refusal, null)),
                    stop
                );
                return refused is null ? ToughStartApi.Refuse(409, [new Problem("id", why!)]) : Results.Ok(new { number = refused });
            default:
                return ToughStartApi.Refuse(
                    422,
                    [
                        new Problem(
                            "kind",
                            $"'{request.Kind}' with answer '{request.Answer}' is not decided here",
                            ["started", "replanned: take, refuse"]
                        ),
                    ]
                );
        }
    }

    private static LogEvent Entry(DecideRequest request, HttpContext http, int plan, LogKind kind, LogBody body) =>
        new(request.Id.ToString(), request.Device ?? "", 0, request.Epoch ?? "", request.Mono, 0, plan, http.User.StaffId(), kind)
        {
            Body = body,
        };

    private static async Task<IResult> StartAsync(
        DecideRequest request,
        JobView job,
        Survey equipped,
        HttpContext http,
        JobDesk desk,
        RunStore store,
        CancellationToken stop
    )
    {
        if ((await desk.Runs.OfAsync(job, equipped, stop)).InForce?.Plan.ReferOnly ?? desk.Workshop.Plan(equipped, stop).ReferOnly)
        {
            return ToughStartApi.Refuse(409, [new Problem("run", "nothing may start here: the plan says whom it goes to instead")]);
        }

        // Who starts works by the plan they looked at: it is in force from now on.
        var plan = job.PlanRevision ?? await desk.Runs.AcceptAsync(job, equipped, request.Hash, http.User.StaffId(), stop);
        if (plan is not { } revision)
        {
            return ToughStartApi.Refuse(409, [new Problem("hash", "the plan was changed meanwhile: look at it again, then start")]);
        }

        var start = Entry(request, http, revision, LogKind.Started, new LogBody { Plan = revision, Crew = [http.User.StaffId()] });
        var (number, why) = await store.DecideAsync(
            job.Id,
            request.Id,
            async _ => await store.StartedAsync(job.Id, stop) ? (null, "the run was begun already: it goes on") : (start, null),
            stop
        );
        return number is null ? ToughStartApi.Refuse(409, [new Problem("run", why!)]) : Results.Ok(new { number, plan = revision });
    }

    private static string? Text(JsonElement e, string field) =>
        e.ValueKind == JsonValueKind.Object && e.TryGetProperty(field, out var v) && v.ValueKind == JsonValueKind.String
            ? v.GetString()
            : null;

    private static int? Whole(JsonElement e, string field) =>
        e.ValueKind == JsonValueKind.Object
        && e.TryGetProperty(field, out var v)
        && v.ValueKind == JsonValueKind.Number
        && v.TryGetInt32(out var whole)
            ? whole
            : null;

    private static JsonElement[] Items(JsonElement e, string field) =>
        e.ValueKind == JsonValueKind.Object && e.TryGetProperty(field, out var v) && v.ValueKind == JsonValueKind.Array
            ? [.. v.EnumerateArray()]
            : [];

    private static JsonProperty[] Members(JsonElement e, string field) =>
        e.ValueKind == JsonValueKind.Object && e.TryGetProperty(field, out var v) && v.ValueKind == JsonValueKind.Object
            ? [.. v.EnumerateObject()]
            : [];

    private static IResult NoJob(int number) => ToughStartApi.Refuse(404, [new Problem("job", $"there is no job {number}")]);
}
