using ToughStart.Core;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Readiness;
using ToughStart.Core.Running;
using ToughStart.Core.Running.Live;
using ToughStart.Data;

namespace ToughStart.Web.Stations;

/// <summary>Zones that are handed over alike.</summary>
/// <param name="Done">What was done there in this visit, after the gate.</param>
/// <param name="Coat">What lies on them; null = nothing that is on record.</param>
public sealed record HandGroup(
    IReadOnlyList<string> Zones,
    Goal Goal,
    GateWord Word,
    IReadOnlyList<Act> Acts,
    bool ByHand,
    IReadOnlyList<string> Warnings,
    IReadOnlyList<Protection> Fits,
    IReadOnlyList<Act> Done,
    CoatOn? Coat
)
{
    /// <summary>What is to be done next; null = all of it is done.</summary>
    public Act? Next => Acts.Where(a => !Done.Contains(a)).Select(a => (Act?)a).FirstOrDefault();
}

/// <summary>The hand-over of a job as it stands.</summary>
public sealed record HandStanding(
    IReadOnlyDictionary<string, ZoneHandOver> Zones,
    IReadOnlyList<HandGroup> Groups,
    IReadOnlyDictionary<string, CoatOn> Coats,
    IReadOnlyList<DoneByHand> Deeds,
    IReadOnlyDictionary<string, DateTimeOffset> Worked,
    GateStanding Gate,
    IReadOnlyList<string>? Outdoors
);

/// <summary>Reckons the hand-over: for its page, for the report and for the plan of the next visit.</summary>
public sealed class HandDesk(BookStore books, GateDesk bench, GateStore gate)
{
    /// <summary>What lies on the vehicle of a job by now, zone by zone, from this visit or an earlier one.</summary>
    public async Task<(IReadOnlyDictionary<string, CoatOn> Coats, IReadOnlyList<DoneByHand> Deeds)> CoatsAsync(
        Guid job,
        IEnumerable<string> zones,
        CancellationToken stop
    )
    {
        var deeds = await books.DeedsAsync(job, stop);
        if (deeds.Count == 0)
        {
            return (new Dictionary<string, CoatOn>(), deeds);
        }

        var washed = await books.WashedAsync(job, deeds[0].At, stop);
        return (
            zones
                .Select(z =>
                    (Zone: z, Coat: HandOver.CoatOf(z, deeds, washed.Where(w => w.Zones.Contains(z)).Select(w => (w.Treatment, w.At))))
                )
                .Where(x => x.Coat is not null)
                .ToDictionary(x => x.Zone, x => x.Coat!),
            deeds
        );
    }

    public async Task<HandStanding> OfAsync(JobView job, JobRun run, Core.Formats.Survey equipped, CancellationToken stop)
    {
        var ground = run.Ground ?? new RunGround(equipped);
        var standing = await bench.OfAsync(job, run, equipped, stop);
        var film = await gate.FilmAsync(job.Id, stop);
        var (coats, deeds) = await CoatsAsync(job.Id, ground.States.Select(z => z.Zone.Id), stop);
        var zones = new Dictionary<string, ZoneHandOver>();
        foreach (var v in standing.Verdicts)
        {
            var z = ground.Zone(v.Zone)!;
            var said = standing
                .Marks.Where(m => m.Zone == v.Zone)
                .Select(m => new FlawSaid(new Flaw(m.Zone, m.Kind, m.Nail), m.Decision))
                .ToArray();
            var spots = film.GetValueOrDefault(v.Zone, [.. z.Survey?.Condition.FilmUm ?? []]);
            if (
                HandOver.Of(z, z.GoalIn(ground.Survey), standing.WordOf(v), said, spots.Length > 0 ? FilmThickness.Of(spots) : null) is
                { } one
            )
            {
                zones[v.Zone] = one;
            }
        }

        var here = deeds.Where(d => d.Job == job.Number).ToArray();
        var groups = zones
            .Values.Select(z =>
                (
                    Of: z,
                    Done: here.Where(d => d.Zones.Contains(z.Zone)).Select(d => d.Act).Distinct().Order().ToArray(),
                    Coat: coats.GetValueOrDefault(z.Zone)
                )
            )
            .GroupBy(z =>
                (
                    z.Of.Goal,
                    z.Of.Word,
                    Acts: string.Join(' ', z.Of.Acts),
                    z.Of.ByHand,
                    Warnings: string.Join('|', z.Of.Warnings),
                    Fits: string.Join(' ', z.Of.Fits.Select(p => p.Id)),
                    Done: string.Join(' ', z.Done),
                    Coat: z.Coat is { } c ? $"{c.Kind.Id}{c.Last.At:O}{c.TakenBy}{c.Layers}" : ""
                )
            )
            .Select(g => new HandGroup(
                [.. g.Select(z => z.Of.Zone)],
                g.Key.Goal,
                g.Key.Word,
                g.First().Of.Acts,
                g.Key.ByHand,
                g.First().Of.Warnings,
                g.First().Of.Fits,
                g.First().Done,
                g.First().Coat
            ))
            .OrderBy(g => g.Word is GateWord.Ready ? 0 : 1)
            .ThenBy(g => g.Goal == Goal.Correct ? 0 : 1)
            .ThenByDescending(g => g.Zones.Count)
            .ToArray();
        var worked = run
            .Live.Facts.SelectMany(f => f.Value.Where(x => Works(x.Event.Kind)).Select(x => (Zone: Live.ZoneOf(f.Key), x.When.At)))
            .GroupBy(x => x.Zone)
            .ToDictionary(g => g.Key, g => DateTimeOffset.FromUnixTimeMilliseconds(g.Max(x => x.At)));
        return new(
            zones,
            groups,
            coats,
            deeds,
            worked,
            standing,
            HandOver.Outdoors(equipped, ground.States.Count > 0 ? ground.States[0].Conditions : null, ground.States)
        );
    }

    /// <summary>Why a kind may not go on a zone now; null = it may.</summary>
    public static string? WhyNot(HandStanding at, JobRun run, Protection p, string zone, DateTimeOffset now) =>
        run.Ground?.Zone(zone) is { } z && at.Zones.TryGetValue(zone, out var of)
            ? HandOver.WhyNot(
                p,
                of,
                z,
                run.State.Of(zone),
                at.Worked.TryGetValue(zone, out var when) ? when : null,
                run.Live.Zones.Any(x => Live.ZoneOf(x.Key) == zone && x.Value.Lines.Count > 0),
                at.Deeds,
                at.Coats.GetValueOrDefault(zone),
                now
            )
            : "nothing goes on there";

    /// <summary>By when what lies there is renewed, the first first.</summary>
    public static IReadOnlyList<(DateOnly Due, Protection Kind, IReadOnlyList<string> Zones)> Dues(
        IReadOnlyDictionary<string, CoatOn> coats,
        ShopClock clock
    ) =>
        [
            .. coats
                .Where(c => c.Value.TakenBy is null)
                .GroupBy(c => (Due: c.Value.Kind.DueFrom(DateOnly.FromDateTime(clock.Here(c.Value.Last.At).DateTime)), c.Value.Kind))
                .Select(g => (g.Key.Due, g.Key.Kind, (IReadOnlyList<string>)[.. g.Select(c => c.Key)]))
                .OrderBy(g => g.Due),
        ];

    private static bool Works(LogKind kind) => kind is LogKind.Applied or LogKind.Worked or LogKind.Observed or LogKind.Rinsed;
}
