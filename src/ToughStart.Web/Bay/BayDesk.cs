using System.Security.Claims;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using Microsoft.AspNetCore.Antiforgery;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Running;
using ToughStart.Core.Running.Live;
using ToughStart.Core.Vehicles;
using ToughStart.Data;
using ToughStart.Web.Drawing;
using ToughStart.Web.Identity;
using ToughStart.Web.Stations;

namespace ToughStart.Web.Bay;

/// <summary>
/// What a phone needs to work by itself for the next hours: the plan in force step by step with what to pour, how long it may stay at every
/// quarter-hour, what to look at and what the answers look like, and the vehicle to draw it on.
/// </summary>
public sealed class BayDesk(
    JobDesk desk,
    MixDesk mixes,
    KitStore kit,
    RecordStore records,
    RunStore store,
    Tickets tickets,
    ShopClock clock,
    RunMemory memory,
    TimelineDesk timelines,
    IAntiforgery antiforgery,
    IHttpContextAccessor http
)
{
    /// <summary>Names what is deployed: a page of another build goes on until its run is over.</summary>
    public static string Build { get; } = typeof(BayDesk).Module.ModuleVersionId.ToString("N")[..12];

    /// <summary>Entries among which the beginning of a run is looked for.</summary>
    private const int FirstEntries = 20;

    /// <summary>Quarter-hours that are worked out ahead.</summary>
    private const int Quarters = 16;

    /// <summary>The document of a job for somebody; null = there is no such job.</summary>
    /// <param name="device">Gets a ticket; null = a page that has just begun: it gets the log instead, so that it need not ask twice.</param>
    public async Task<object?> DocumentAsync(int number, ClaimsPrincipal user, string? device, CancellationToken stop)
    {
        if (await desk.Jobs.JobAsync(number, stop) is not { } job)
        {
            return null;
        }

        var equipped = await desk.Workshop.EquipAsync(job.Survey, job.Id, stop: stop);
        var run = await desk.Runs.OfAsync(job, equipped, stop);
        var plan = run.InForce?.Plan ?? desk.Workshop.Plan(equipped, stop);
        var ground = run.Ground ?? new RunGround(equipped);
        var now = await store.NowAsync(stop);
        var first = now - (now % LiveWindows.QuarterMs);
        var from = DateTimeOffset.FromUnixTimeMilliseconds(first);
        var windows = run.InForce is { } force
            ? memory.Windows(job.Id, force.Revision, ground, from, Quarters)
            : new LiveWindows(ground, from, Quarters);
        var bench = await mixes.OfAsync(plan, equipped.Kit, null, stop);
        var mixed = await kit.MixesAsync(true, MostMixes, stop);
        var colours = await kit.ColoursAsync(stop);
        var vehicle = Forms.Build(job.Survey.Vehicle.Form, job.Survey.Vehicle.Size);
        var groups = CoreSample.StageGroups(plan);
        var offer = run.Offer is { } o && !run.Live.Refused.Contains(o.Hash) ? o : null;
        return new
        {
            job = job.Number,
            vehicle = job.Vehicle,
            plate = job.Plate,
            station = job.Station,
            build = Build,
            // A page that was kept holds the token of whoever signed in when it was loaded.
            csrf = http.HttpContext is { } asking ? antiforgery.GetAndStoreTokens(asking).RequestToken : null,
            me = new
            {
                who = user.StaffId(),
                mayEdit = user.MayEdit() && job.Station != "closed",
                owner = user.IsInRole(Roles.Owner),
                ticket = device is null
                    ? null
                    : tickets.Give(user.StaffId(), device, Roles.All.FirstOrDefault(user.IsInRole) ?? Roles.Reader),
            },
            log = device is null
                ? (await store.LogAsync(job.Id, 0, BayApi.MostGiven, stop)).Select(e => JsonDocument.Parse(LogFormat.Write(e)).RootElement)
                : null,
            people = await records.NamesAsync(stop),
            plan = run.InForce?.Revision ?? 0,
            hash = RunBook.HashOf(plan),
            referOnly = plan.ReferOnly,
            drying = plan.Drying,
            opening = plan.Opening,
            now,
            from = first,
            quarterMs = LiveWindows.QuarterMs,
            net = NetOf(vehicle),
            steps = groups.SelectMany(g => g.Steps.Select(s => StepOf(s, g, windows, bench, mixed, colours))),
            // Whose turn a step is, where somebody laid the job out.
            begun = (await store.LogAsync(job.Id, 0, FirstEntries, stop)).FirstOrDefault(e => e.Kind == LogKind.Started)?.When.At,
            turns = await timelines.TurnsAsync(job, plan, run, stop),
            done = groups.SelectMany(g => g.Steps).Where(run.IsDone).Select(s => s.Key),
            // Up to which entry all this is known.
            head = run.Live.Number,
            loops = run.Loops.Select(l => new
            {
                zone = l.Zone,
                step = l.Work.Step,
                again = l.Again,
                words = l.Words,
            }),
            becauses = SurveyWords.Becauses.Select(b => new { id = b, words = SurveyWords.SayBecause(b) }),
            troubles = Trouble.All.Select(t => new { id = t, words = Trouble.Say(t) }),
            offer = offer is null
                ? null
                : new
                {
                    hash = offer.Hash,
                    because = offer.Because,
                    changes = offer.Changes.Select(c => c.Words),
                    minutes = Math.Round(offer.Plan.Totals.LabourMinutes.Expected),
                },
        };
    }

    /// <summary>Everything in work, for the wall.</summary>
    public async Task<object> WallAsync(CancellationToken stop)
    {
        var (names, vehicles, now) = (await records.NamesAsync(stop), new List<object>(), await store.NowAsync(stop));
        foreach (var job in await desk.Jobs.YardAsync(clock.Today, JobStore.Stand.InWork, stop: stop))
        {
            var run = await desk.Runs.StandingAsync(job.Id, job.PlanRevision, stop);
            if (run.InForce is not { } force)
            {
                continue;
            }

            vehicles.Add(
                new
                {
                    job = job.Number,
                    name = job.Vehicle,
                    goal = force.Plan.Goal.ToString(),
                    done = force.Plan.Steps.Count(run.IsDone),
                    steps = force.Plan.Steps.Count,
                    away = (await desk.Runs.AwayAsync(job.Id, names, stop)).Select(a => new
                    {
                        who = a.Who,
                        heard = a.Heard.ToUnixTimeMilliseconds(),
                    }),
                    crew = run.Live.Crew.Select(c => new
                    {
                        who = names.GetValueOrDefault(c.Key, c.Key),
                        step = force.Plan.Steps.FirstOrDefault(s => s.Key == c.Value.Step)?.Name ?? "",
                    }),
                    stops = run.Live.Stops.Values.Select(s => $"{s.What}, {names.GetValueOrDefault(s.Who, s.Who)}"),
                    lines = LinesOf(run.Live, force.Plan, names),
                    late = (await LateAsync(job.Number, run, force.Plan, stop)).Select(l => l.Words),
                    net = NetOf(Forms.Build(force.Survey.Vehicle.Form, force.Survey.Vehicle.Size)),
                }
            );
        }

        return new { now, vehicles };
    }

    /// <summary>What lies there and dries before anybody can be at it, as the timeline from here has it; nothing where nothing is wet.</summary>
    private async Task<IReadOnlyList<LateTurn>> LateAsync(int number, JobRun run, Plan plan, CancellationToken stop) =>
        run.Live.Zones.Values.Any(z => z.Lines.Count > 0) && await desk.Jobs.JobAsync(number, stop) is { } job
            ? (await timelines.TurnsAsync(job, plan, run, stop))?.Late ?? []
            : [];

    /// <summary>A phone asks every 20 s; one that missed three of them is away.</summary>
    public const long AwayMs = 60_000;

    /// <summary>Films that went on together, the most urgent first.</summary>
    private static IEnumerable<object> LinesOf(LiveState live, Plan plan, IReadOnlyDictionary<string, string> names) =>
        live
            .Zones.SelectMany(z => z.Value.Lines.SelectMany(t => t.Value.Select(l => (Piece: z.Key, Treatment: t.Key, Line: l))))
            .GroupBy(x => (x.Treatment, x.Line.Last))
            .OrderBy(g => g.Min(x => x.Line.RinseBy))
            .Select(g =>
                (Group: g, First: g.MinBy(x => x.Line.RinseBy).Line, Step: plan.Steps.FirstOrDefault(s => s.Treatment == g.Key.Treatment))
            )
            .Select(x => new
            {
                words = ZoneWords.Of([.. x.Group.Select(p => Live.ZoneOf(p.Piece)).Distinct()], 40),
                pieces = x.Group.Select(p => p.Piece),
                agent = x.Step?.AgentName ?? x.Group.Key.Treatment,
                look = x.Step is { } s ? LookOf(s) : "film",
                who = names.GetValueOrDefault(x.First.Who, x.First.Who),
                line = new
                {
                    id = x.First.Id,
                    last = x.First.Last,
                    who = x.First.Who,
                    round = x.First.Round,
                    first = x.First.First,
                    start = x.First.Start,
                    dwell = x.First.Dwell,
                    usable = x.First.Usable,
                    dry = x.First.Dry,
                    max = x.First.Max,
                    dried = x.First.Dried,
                    perhaps = x.First.Perhaps,
                },
            });

    private static object NetOf(Vehicle v) =>
        new
        {
            zones = v.Zones.Select(z => new
            {
                id = z.Id,
                words = Limits.Words(z.Id),
                path = NetDrawing.PathOf(z),
                box = BoxOf(z),
                glass = z.Kind.Id is "glass" or "lamp",
            }),
            box = new[] { v.Min.X, v.Min.Y, v.Max.X - v.Min.X, v.Max.Y - v.Min.Y },
        };

    private static double[] BoxOf(Zone z)
    {
        var all = z.Shapes.SelectMany(s => s.Outline).ToArray();
        var (x, y) = (all.Min(p => p.X), all.Min(p => p.Y));
        return [Math.Round(x, 3), Math.Round(y, 3), Math.Round(all.Max(p => p.X) - x, 3), Math.Round(all.Max(p => p.Y) - y, 3)];
    }

    private static object StepOf(
        Step s,
        StageGroup group,
        LiveWindows windows,
        MixBench bench,
        IReadOnlyList<MixView> mixed,
        IReadOnlyDictionary<Guid, string> colours
    )
    {
        var open = MixFor(s, mixed);
        var line = LiveWindows.HasLine(s);
        var solution = bench.Of(s);
        var agent = Catalogue.Default.Agents.FirstOrDefault(a => a.Id == s.Agent);
        return new
        {
            key = s.Key,
            number = group.Number,
            stage = s.Stage.ToString(),
            name = group.Name,
            treatment = s.Treatment,
            agent = s.Agent,
            agentName = s.AgentName,
            water = agent?.IsWater ?? false,
            look = LookOf(s),
            strength = s.Strength.Value,
            ratio = Ratio(s),
            bottle = open is not null
                ? new
                {
                    name = open.Bottle,
                    colour = open.BottleColour,
                    mix = (int?)open.Number,
                    left = (double)open.LeftMl,
                }
            : solution?.Container is { } c
                ? new
                {
                    name = c.Name,
                    colour = Guid.TryParse(c.Id, out var container) ? colours.GetValueOrDefault(container) : null,
                    mix = (int?)null,
                    left = 0d,
                }
            : null,
            mixFirst = solution is { Enough: false } && s.Mix is not null && !(open is not null && (double)open.LeftMl >= SolutionOf(s))
                ? MixWords(s, solution, open)
                : null,
            missing = solution is { Container: null, Enough: false } ? $"no container of the shop is free for {solution.Name}" : null,
            product = s.Agent,
            tool = s.Tool,
            line,
            under = s.Under,
            over = s.Over,
            zones = s.Zones.Select(z => new
            {
                id = z,
                rounds = s.RoundsOn(z),
                ml = MlOf(s, z),
                solution = SolutionOf(s, z),
                win = line ? windows.Of(s, z).Select(w => new[] { w.Dwell, w.Usable, w.Dry, w.Max }) : null,
            }),
            sections = SectionsOf(s),
            words = WordsOf(s),
            until = s.Until is { } u && ObservationCheck.Answers(s) is { Count: > 0 } answers
                ? new
                {
                    observe = u.Observe,
                    ask = Observables.Question(u.Observe).Ask,
                    how = Observables.Question(u.Observe).How,
                    most = u.MaxRounds,
                    then = u.Then,
                    answers = answers.Select(a => new
                    {
                        word = a,
                        look = ObservationCheck.Looks(s, a),
                        say = Observables.Say(s.Stage, a),
                        stop = u.Stop.Contains(a),
                        drawing = AnswerDrawing.Svg(ObservationCheck.Looks(s, a) ?? u.Observe, a),
                    }),
                }
                : null,
            why = s.Why.Count > 0 ? s.Why[0] : "",
            kit = ProtectiveKit.Say(s.Kit),
            kitPieces = s.Kit.Select(ProtectiveKit.Say),
            cautions = s.Cautions.Select(w => new { id = CautionId(w), words = w }),
            avoid = s.Avoid,
            cool = s.Cool?.Words,
            minutes = Math.Round(s.LabourMinutes.Value, 1),
        };
    }

    /// <summary>What is wet at the same time; a zone that is worked in parts is named by them.</summary>
    private static string[][] SectionsOf(Step s) =>
        s.Sections is { Sections.Count: > 0 } cut
            ? [.. cut.Sections.Select(x => x.Work.Select(w => w.Parts > 1 ? $"{w.Zone}:{w.Part}:{w.Parts}" : w.Zone).ToArray())]
            :
            [
                [.. s.Zones],
            ];

    /// <summary>Sections in words, and what is left of them when only some zones take another round; a phone has only the zones.</summary>
    private static Dictionary<string, string> WordsOf(Step s)
    {
        var words = new Dictionary<string, string>();
        foreach (var section in SectionsOf(s))
        {
            for (var round = 1; round <= Math.Max(1, s.Rounds); round++)
            {
                var pieces = section.Where(p => s.RoundsOn(Live.ZoneOf(p)) >= round).ToArray();
                if (pieces.Length > 1 && pieces.All(p => !p.Contains(':')))
                {
                    words[string.Join(' ', pieces.Order(StringComparer.Ordinal))] = ZoneWords.Of(pieces, MostWords);
                }
            }
        }

        return words;
    }

    /// <summary>Characters that one look at arm's length takes in.</summary>
    private const int MostWords = 44;

    /// <summary>How the film is drawn: foam in bubbles, iron remover violet, gels with a gloss, the rest plain.</summary>
    private static string LookOf(Step s) =>
        s.Film is "thin-foam" or "thick-foam" || s.Carrier == AgentCarrier.Foam ? "foam"
        : s.Stage == Stage.Iron ? "iron"
        : s.Film == "gel" || s.Carrier == AgentCarrier.Gel ? "gel"
        : "film";

    private static string Ratio(Step s) =>
        s.Strength.Value >= 0.995 ? "neat"
        : s.Mix is { InVessel.Value: > 0 and < 0.995 } m ? $"{Parts(m.InVessel.Value)}{(m.Vessel == "lance" ? " in the lance" : "")}"
        : Parts(s.Strength.Value);

    private static string Parts(double fraction) =>
        (1 / fraction) - 1 is var water && water < 9.95
            ? FormattableString.Invariant($"1:{water:0.#}")
            : FormattableString.Invariant($"1:{water:0}");

    /// <summary>Neat product of one round on a zone, ml.</summary>
    private static double MlOf(Step s, string zone)
    {
        if (s.On(zone) is not { Rounds: > 0 } portion || portion.ProductMl <= 0)
        {
            return 0;
        }

        var areas = s.Parts.Where(p => portion.Zones.Contains(p.Zone)).ToArray();
        var all = areas.Sum(p => p.Area.Value);
        var share = all > 0 ? areas.Where(p => p.Zone == zone).Sum(p => p.Area.Value) / all : 1d / portion.Zones.Count;
        return Math.Round(portion.ProductMl.Value * share / portion.Rounds, 2);
    }

    /// <summary>Mixes that stand open in the shop; more are none that a bay has use for.</summary>
    private const int MostMixes = 200;

    /// <summary>How near a mixed bottle's strength must come to the one that is wanted.</summary>
    private static double Near => Catalogue.Default["same-strength"];

    /// <summary>The bottle that stands mixed for a step, the fullest first; null = none does.</summary>
    private static MixView? MixFor(Step s, IReadOnlyList<MixView> mixed) =>
        s.Mix is not { InVessel.Value: > 0 } m
            ? null
            : mixed
                .Where(x => x.Agent == s.Agent && Math.Abs((x.Fraction / m.InVessel.Value) - 1) <= Near && x.LeftMl > 0)
                .MaxBy(x => x.LeftMl);

    /// <summary>What has to be mixed before the step begins.</summary>
    private static string MixWords(Step s, Solution solution, MixView? open)
    {
        var there = open is null ? "Not mixed yet" : FormattableString.Invariant($"Only {open.LeftMl:0} ml left of {SolutionOf(s):0}");
        var product = FormattableString.Invariant($"{solution.ProductMl:0} ml of {solution.Product?.Name ?? solution.Name}");
        var water = FormattableString.Invariant($"{solution.WaterMl:0} ml of water");
        return $"{there}: {product}, {water} into {solution.Container?.Name ?? "a free bottle"}.";
    }

    /// <summary>What leaves the bottle for the whole step, ml.</summary>
    private static double SolutionOf(Step s) => s.Zones.Sum(z => SolutionOf(s, z) * s.RoundsOn(z));

    /// <summary>What leaves the bottle for one round on a zone, ml.</summary>
    private static double SolutionOf(Step s, string zone) =>
        s.Mix is { InVessel.Value: > 0 } m ? Math.Round(MlOf(s, zone) / m.InVessel.Value, 1) : MlOf(s, zone);

    /// <summary>A caution is named by its words: it is the same one in every plan.</summary>
    private static string CautionId(string words) => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(words)))[..12];
}
