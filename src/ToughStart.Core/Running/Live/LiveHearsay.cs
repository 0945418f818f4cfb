using System.Security.Cryptography;
using System.Text;

namespace ToughStart.Core.Running.Live;

/// <summary>One thing a live log tells beliefs, and the entry it ends with.</summary>
public sealed record Told(int Number, Observation Observation, string Who, long Received)
{
    /// <summary>When it was stored.</summary>
    public DateTimeOffset At => DateTimeOffset.FromUnixTimeMilliseconds(Received);
}

/// <summary>
/// What a live log tells beliefs: rounds that came to their end with how long they truly stayed, looks, paper cards, in the order in which
/// they happened. Work that was taken back or reported twice is not among it.
/// </summary>
public static class LiveHearsay
{
    /// <summary>A paper card as an entry of the log.</summary>
    /// <param name="treatment">What its step does; null = a test, or a step nobody knows.</param>
    /// <param name="after">Number of the last entry that was there when it was filled in.</param>
    public static LogEvent Entry(Observation o, string? treatment, string who, int after) =>
        new(o.Id.ToString(), "", 0, "", 0, after, o.Plan ?? 0, who, o.TakesBack is null ? LogKind.Observed : LogKind.Undone)
        {
            Body = o.TakesBack is { } id
                ? new LogBody { Of = [id.ToString()] }
                : new LogBody
                {
                    Step = o.StepKey,
                    Treatment = treatment,
                    Zones = o.Zones,
                    Rounds = o.Rounds,
                    Observe = o.Observe,
                    Result = o.Result,
                    Because = o.Because,
                    Elsewhere = o.Elsewhere,
                    Strength = o.Strength,
                    DwellMinutes = o.DwellMinutes?.Value,
                    FilmC = o.FilmC,
                },
        };

    /// <summary>What a run tells beliefs so far.</summary>
    public static IReadOnlyList<Told> Of(LiveState state)
    {
        var told = new List<(long At, Told Told)>();
        var said = new HashSet<string>(StringComparer.Ordinal);
        foreach (var fact in state.Facts.Values.SelectMany(f => f).Where(f => said.Add(f.Id)))
        {
            if (Said(fact.Event, state) is { } o)
            {
                told.Add((fact.When.At, new Told(fact.Event.Number, o, fact.Event.Who, fact.Event.Received)));
            }
        }

        var rounds = state
            .Zones.SelectMany(z => z.Value.Ended.Select(r => (Piece: z.Key, Round: r)))
            .GroupBy(x => (First: x.Round.First.Id, End: x.Round.End.Id, x.Round.Verdict, x.Round.DwellMs));
        foreach (var group in rounds)
        {
            var (round, zones) = (
                group.First().Round,
                group.Select(x => x.Piece).Where(p => IsWhole(p, state)).Select(Live.ZoneOf).Distinct()
            );
            if (zones.ToArray() is { Length: > 0 } whole)
            {
                told.Add(
                    (
                        round.End.When.At,
                        new Told(round.End.Event.Number, Ended(round, whole), round.End.Event.Who, round.End.Event.Received)
                    )
                );
            }
        }

        return [.. told.OrderBy(t => t.At).ThenBy(t => t.Told.Number).ThenBy(t => t.Told.Observation.Id).Select(t => t.Told)];
    }

    /// <summary>A zone worked in parts has had a round when the last of its parts has.</summary>
    private static bool IsWhole(string piece, LiveState state)
    {
        var (zone, parts) = (Live.ZoneOf(piece), Live.PartsOf(piece));
        if (piece == zone)
        {
            return true;
        }

        var all = Enumerable.Range(1, parts).Select(i => $"{zone}:{i}:{parts}").ToArray();
        var ended = all.Select(p => state.Zones.TryGetValue(p, out var z) && z.Ended.Length > 0 ? z.Ended[^1].End.When.At : (long?)null)
            .ToArray();
        return ended.All(e => e is not null) && ended.Max() == state.Zones[piece].Ended[^1].End.When.At && Last(all, ended) == piece;

        static string Last(string[] pieces, long?[] ended) => pieces[Array.LastIndexOf(ended, ended.Max())];
    }

    private static Observation Ended(LiveRound round, IReadOnlyList<string> zones)
    {
        var (first, b) = (round.First.Event, round.First.Event.Body);
        var timed = round.First != round.End;
        return new Observation(
            IdOf($"{first.Id}/{round.End.Id}/{round.Verdict}/{round.DwellMs}"),
            Guid.Empty,
            b.Step ?? "",
            zones,
            1,
            null,
            round.Verdict == RoundEnd.Dried ? Observation.Inconclusive : null,
            round.Verdict == RoundEnd.Dried ? Observation.DriedOn : null
        )
        {
            Plan = first.Plan == 0 ? null : first.Plan,
            Treatment = round.Treatment,
            Live = true,
            Strength = b.Strength,
            // What is not known for sure worked as short as it may have.
            DwellMinutes = timed ? Math.Clamp(round.DwellMs.From, 0, LongestMs) / 60_000d : null,
        };
    }

    private const double LongestMs = 60 * 60_000d;

    private static Observation? Said(LogEvent e, LiveState state)
    {
        var b = e.Body;
        if (e.Kind is not (LogKind.Seen or LogKind.Observed))
        {
            return null;
        }

        var zones = b.Zones.Select(Live.ZoneOf).Distinct(StringComparer.Ordinal).ToArray();
        var nothing =
            e.Kind == LogKind.Seen
            && b.Zones.All(z => state.Zones[z].Looks.TryGetValue(b.Observe!, out var l) && l.Number == e.Number && l.Void);
        return new Observation(
            Guid.Parse(e.Id),
            Guid.Empty,
            b.Step ?? b.Test ?? "",
            zones,
            b.Rounds,
            b.Observe,
            nothing ? Observation.Inconclusive : b.Result,
            nothing ? "wet" : b.Because
        )
        {
            Plan = e.Plan == 0 ? null : e.Plan,
            Treatment = e.Kind == LogKind.Seen ? b.Treatment : null,
            Live = e.Kind == LogKind.Seen,
            Elsewhere = b.Elsewhere,
            Strength = b.Strength,
            DwellMinutes = b.DwellMinutes is { } minutes ? minutes : null,
            FilmC = b.FilmC,
        };
    }

    /// <summary>An id that follows from words: worked out twice it is the same.</summary>
    public static Guid IdOf(string words) => new(SHA256.HashData(Encoding.UTF8.GetBytes(words)).AsSpan(0, 16));
}
