using System.Globalization;
using System.Text.Json;
using Microsoft.AspNetCore.Antiforgery;
using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Running;
using ToughStart.Data;
using ToughStart.Web.Identity;
using ToughStart.Web.Stations;

namespace ToughStart.Web.Api;

/// <summary>What a program asks to be put in force: the plan with this hash; null = whatever is offered now.</summary>
public sealed record AcceptRequest(string? Hash);

/// <summary>A run as programs see it: the plan in force, accepting one, the log, and where it stands.</summary>
public static class RunApi
{
    /// <summary>Said wherever a closed job is written to.</summary>
    public const string IsClosed = "is closed: what was done is booked; an owner can open it again";

    public static void MapRunApi(this IEndpointRouteBuilder job)
    {
        job.MapGet("/plan", InForce).WithSummary("The plan in force as toughstart.plan/2; its revision is the ETag").ProducesProblem(404);
        job.MapPost("/plan", Accept)
            .WithSummary("Put in force what is offered, or the first plan: { hash } names it, If-Match the revision in force")
            .ProducesProblem(400)
            .ProducesProblem(404)
            .ProducesProblem(409);
        job.MapGet("/gate", GateOf)
            .WithSummary("What every zone is ready for, with what is missing, and what somebody said against it")
            .ProducesProblem(404);
        job.MapPost("/events", Events)
            .WithSummary(
                "A list of observations, each { id, plan, step, zones, rounds, observe, result, because, elsewhere }; an answer for each, the same id counts once"
            )
            .Accepts<JsonElement>("application/json")
            .ProducesProblem(400)
            .ProducesProblem(404);
        job.MapGet("/run", Run)
            .WithSummary(
                "Per zone: rounds done, loads believed as P10, P50 and P90, what was seen, what must be asked again and why; and the plan from here"
            )
            .ProducesProblem(404);
    }

    private static async Task<IResult> InForce(int number, HttpContext http, JobDesk desk, CancellationToken stop)
    {
        if (await Load(number, desk, stop) is not var (job, equipped))
        {
            return NoJob(number);
        }

        if ((await desk.Runs.OfAsync(job, equipped, stop)).InForce is not { } force)
        {
            return ToughStartApi.Refuse(404, [new Problem("plan", "none is in force yet: POST here puts the plan of the survey in force")]);
        }

        http.Response.Headers.ETag = Tag(force.Revision);
        return Results.Bytes(PlanFormat.Write(force.Plan), "application/json");
    }

    private static async Task<IResult> Accept(
        int number,
        AcceptRequest? request,
        HttpContext http,
        JobDesk desk,
        IAntiforgery antiforgery,
        CancellationToken stop
    )
    {
        if (!await antiforgery.IsRequestValidAsync(http))
        {
            return Token();
        }

        if (await Load(number, desk, stop) is not var (job, equipped))
        {
            return NoJob(number);
        }

        if (http.Request.Headers.IfMatch is { Count: > 0 } match && match.ToString() != Tag(job.PlanRevision ?? 0))
        {
            return ToughStartApi.Refuse(409, [new Problem("If-Match", $"names {match}; in force is {Tag(job.PlanRevision ?? 0)}")]);
        }

        if (await desk.Runs.AcceptAsync(job, equipped, request?.Hash, http.User.StaffId(), stop) is not { } revision)
        {
            var run = await desk.Runs.OfAsync(job, equipped, stop);
            return ToughStartApi.Refuse(
                409,
                [
                    new Problem(
                        "hash",
                        $"another plan is offered by now: {run.Offer?.Hash ?? RunBook.HashOf(run.InForce?.Plan ?? desk.Workshop.Plan(equipped, stop))}; nothing was put in force"
                    ),
                ]
            );
        }

        http.Response.Headers.ETag = Tag(revision);
        var now = (await desk.Jobs.JobAsync(number, stop))!;
        return Results.Bytes(PlanFormat.Write((await desk.Runs.OfAsync(now, equipped, stop)).InForce!.Plan), "application/json");
    }

    private static async Task<IResult> Events(
        int number,
        JsonElement body,
        HttpContext http,
        JobDesk desk,
        IAntiforgery antiforgery,
        CancellationToken stop
    )
    {
        if (!await antiforgery.IsRequestValidAsync(http))
        {
            return Token();
        }

        if (await desk.Jobs.JobAsync(number, stop) is not { } job)
        {
            return NoJob(number);
        }

        var (read, refused) = ObservationFormat.Read(body);
        if (refused.Count > 0)
        {
            return ToughStartApi.Refuse(422, refused);
        }

        if (job.Station == "closed")
        {
            return ToughStartApi.Refuse(409, [new Problem("job", IsClosed)]);
        }

        var good = read.Where(r => r.Observation is not null).Select(r => r.Observation!).ToArray();
        var taken = new Queue<(Taken Taken, IReadOnlyList<Problem> Problems)>(
            await desk.Runs.AppendAsync(job, good, http.User.StaffId(), stop)
        );
        return Results.Ok(
            new
            {
                answers = read.Select(r =>
                        (r.Observation?.Id, Answer: r.Observation is null ? (Taken: Taken.Refused, r.Problems) : taken.Dequeue())
                    )
                    .Select(x => new
                    {
                        id = x.Id,
                        taken = x.Answer.Taken.ToString().ToLowerInvariant(),
                        problems = x.Answer.Problems.Select(p => new
                        {
                            field = p.Field,
                            message = p.Message,
                            allowed = p.Allowed,
                        }),
                    }),
            }
        );
    }

    private static async Task<IResult> Run(int number, JobDesk desk, CancellationToken stop)
    {
        if (await Load(number, desk, stop) is not var (job, equipped))
        {
            return NoJob(number);
        }

        var run = await desk.Runs.OfAsync(job, equipped, stop);
        var (c, from) = (Catalogue.Default, run.Here ?? run.InForce?.Plan ?? desk.Workshop.Plan(equipped, stop));
        return Results.Ok(
            new
            {
                plan = run.InForce?.Revision,
                last = run.Last,
                zones = run.Ground is not { } ground
                    ? []
                    : run
                        .State.Zones.OrderBy(z => z.Key, StringComparer.Ordinal)
                        .Where(z => ground.Zone(z.Key) is not null)
                        .Select(z => new
                        {
                            zone = z.Key,
                            rounds = z.Value.Rounds.OrderBy(r => r.Key, StringComparer.Ordinal).ToDictionary(),
                            steps = z
                                .Value.Steps.OrderBy(s => s.Key, StringComparer.Ordinal)
                                .ToDictionary(s => s.Key, s => new { told = s.Value.Told, implied = s.Value.Implied }),
                            loads = Enumerable
                                .Range(0, Kinds.Residue)
                                .Select(k => (Kind: c.Contaminants[k].Id, Looked: z.Value.Looked.Contains(k), Belief: z.Value.Beliefs[k]))
                                .Where(b => b.Belief is not null)
                                .Select(b => new
                                {
                                    contaminant = b.Kind,
                                    looked = b.Looked,
                                    p10 = Cut(b.Belief!, 0.1),
                                    p50 = Cut(b.Belief!, 0.5),
                                    p90 = Cut(b.Belief!, 0.9),
                                }),
                            fine = Fine(z.Value, ground, ground.Zone(z.Key)!),
                            seen = z.Value.Seen.OrderBy(s => s.Key, StringComparer.Ordinal).ToDictionary(),
                            ask = z
                                .Value.Again.Values.OrderBy(a => a.Observe, StringComparer.Ordinal)
                                .Select(a => new
                                {
                                    look = a.Observe,
                                    because = a.Because,
                                    elsewhere = a.Surprise is not null,
                                }),
                            loops = Loops
                                .Of(run.State, ground, ground.Zone(z.Key)!)
                                .Select(l => new
                                {
                                    step = l.Work.Step,
                                    contaminant = c.Contaminants[l.Kind].Id,
                                    again = l.Again,
                                    atCap = l.AtCap,
                                    chance = Math.Round(l.Chance, 3),
                                    words = l.Words,
                                }),
                            failed = z.Value.Failed,
                        }),
                notes = run.State.Notes,
                offer = run.Offer is { } offer
                    ? new
                    {
                        hash = offer.Hash,
                        because = offer.Because,
                        changes = offer.Changes.Select(x => new
                        {
                            kind = x.Kind,
                            stage = x.Stage,
                            treatment = x.Treatment,
                            words = x.Words,
                            zones = x.Zones,
                        }),
                    }
                    : null,
                hash = RunBook.HashOf(from),
                planFromHere = JsonDocument.Parse(PlanFormat.Write(from)).RootElement,
            }
        );

        static object Fine(ZoneRun zone, RunGround ground, ZoneState z)
        {
            var fine = zone.FinenessOf(ground, z);
            return new { chance = Math.Round(fine.Chance, 3), sure = fine.Sure };
        }

        static double Cut(LoadBelief b, double q) => Math.Round(b.Quantile(q), 4);
    }

    private static async Task<IResult> GateOf(int number, JobDesk desk, GateDesk gate, CancellationToken stop)
    {
        if (await Load(number, desk, stop) is not { } found)
        {
            return NoJob(number);
        }

        var run = await desk.Runs.OfAsync(found.Job, found.Equipped, stop);
        var at = await gate.OfAsync(found.Job, run, found.Equipped, stop);
        return Results.Ok(
            new
            {
                upTo = run.Live.Number,
                expectedWrong = Math.Round(at.Wrong, 2),
                zones = at.Verdicts.Select(v => new
                {
                    zone = v.Zone,
                    verdict = GateWords.Id(at.WordOf(v)),
                    goal = v.Goal,
                    computed = GateWords.Id(v.Word),
                    chance = Math.Round(v.Fine.Chance, 3),
                    why = v.Why,
                    repeat = v.Again,
                    to = v.To,
                    checks = v.Checks.Select(c => new
                    {
                        look = c.Asked.Look,
                        looks = c.Looks.Count,
                        missing = c.Missing,
                    }),
                    by = at.Overrides.GetValueOrDefault(v.Zone) is { } o
                        ? new
                        {
                            who = o.Who,
                            verdict = GateWords.Id(o.Word),
                            reason = o.Reason,
                            overtaken = o.Overtaken,
                        }
                        : null,
                }),
            }
        );
    }

    private static async Task<(JobView Job, Survey Equipped)?> Load(int number, JobDesk desk, CancellationToken stop) =>
        await desk.Jobs.JobAsync(number, stop) is { } job ? (job, await desk.Workshop.EquipAsync(job.Survey, job.Id, stop: stop)) : null;

    private static string Tag(int revision) => string.Create(CultureInfo.InvariantCulture, $"\"{revision}\"");

    private static IResult NoJob(int number) => ToughStartApi.Refuse(404, [new Problem("job", $"there is no job {number}")]);

    private static IResult Token() => ToughStartApi.Refuse(400, [new Problem("X-CSRF-Token", "is missing or stale: reload the page")]);
}
