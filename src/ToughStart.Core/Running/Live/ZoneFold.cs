using System.Collections.Immutable;

namespace ToughStart.Core.Running.Live;

/// <summary>
/// Works out what follows of one zone's facts, in the order in which they happened. A film is taken to be there until a rinse is surely
/// after it: where clocks leave it open, the line stays and asks for a look.
/// </summary>
internal sealed class ZoneFold
{
    /// <summary>
    /// Looks that read what chemistry does on the panel: after a round that dried or of which nobody knows they say nothing.
    /// </summary>
    private static readonly string[] Reads = ["bleed"];

    private sealed record Film(ZoneFact Head, ZoneFact Last, ImmutableArray<ZoneFact> All, LiveLine Line, string Treatment);

    private readonly List<Film> _films = [];
    private readonly List<ZoneFact> _rinses = [];
    private readonly List<LiveRound> _ended = [];
    private readonly SortedDictionary<string, int> _rounds = new(StringComparer.Ordinal);
    private readonly SortedDictionary<string, int> _dried = new(StringComparer.Ordinal);
    private readonly SortedDictionary<string, LiveLook> _looks = new(StringComparer.Ordinal);
    private readonly SortedDictionary<string, string> _skipped = new(StringComparer.Ordinal);
    private readonly List<string> _marks = [];
    private readonly List<string> _joined = [];
    private (int Number, string Treatment, RoundEnd Verdict)? _last;
    private int _orphans;

    public static LiveZone Of(IEnumerable<ZoneFact> facts)
    {
        var fold = new ZoneFold();
        foreach (var f in facts)
        {
            fold.Take(f);
        }

        return new LiveZone(
            fold._rounds.ToImmutableSortedDictionary(StringComparer.Ordinal),
            fold._dried.ToImmutableSortedDictionary(StringComparer.Ordinal),
            fold._films.GroupBy(f => f.Treatment)
                .ToImmutableSortedDictionary(g => g.Key, g => g.Select(f => f.Line).ToImmutableArray(), StringComparer.Ordinal),
            fold._last,
            fold._looks.ToImmutableSortedDictionary(StringComparer.Ordinal),
            fold._skipped.ToImmutableSortedDictionary(StringComparer.Ordinal),
            [.. fold._marks],
            [.. fold._joined],
            fold._orphans
        )
        {
            Ended = [.. fold._ended],
        };
    }

    private void Take(ZoneFact f)
    {
        var b = f.Event.Body;
        switch (f.Event.Kind)
        {
            case LogKind.Applied or LogKind.Rewetted:
                Wet(f);
                break;
            case LogKind.Rinsed:
                Rinse(f);
                break;
            case LogKind.Worked:
                Work(f);
                break;
            case LogKind.Observed:
                Count(b.Treatment ?? "", b.Rounds);
                See(f);
                break;
            case LogKind.Seen:
                See(f);
                break;
            case LogKind.Rescaled:
                Rescale(f);
                break;
            case LogKind.Skipped when b.Step is not null:
                _skipped[b.Step] = b.Reason ?? "";
                break;
            case LogKind.Happened when b.What == Trouble.DriedOn:
                Change(_ => true, l => l with { Dried = true });
                break;
            case LogKind.Happened when b.What == Trouble.Mark:
                _marks.Add(f.Id);
                break;
        }
    }

    private void Wet(ZoneFact f)
    {
        var (b, when, win) = (f.Event.Body, f.When, f.Event.Body.Win!);
        var known = _films.Where(x => x.Treatment == b.Treatment && f.Knew(x.Last)).ToArray();
        _films.RemoveAll(known.Contains);
        var head = known.Length == 0 ? f : known.MinBy(x => x.Line.First)!.Head;
        var line = new LiveLine(
            head.Id,
            f.Id,
            head.Event.Who,
            known.Length == 0 ? b.Round : known[0].Line.Round,
            known.Length == 0 ? when.Lo : known.Min(x => x.Line.First),
            when.Lo,
            head.Event.Body.Win!.Dwell,
            when.Lo + win.Usable,
            when.Lo + win.Dry,
            known.Length == 0 ? when.Lo + win.Max : known.Min(x => x.Line.Max),
            known.Any(x => x.Line.Dried || when.Hi > x.Line.Dry),
            // Whoever knows of the film wets it for certain; a rinse nobody knew of may have come after.
            known.Length > 0
                ? null
                : _rinses.FirstOrDefault(r => r.When.Hi >= when.Lo && !f.Knew(r) && !r.Knew(f))?.Id
        );
        _films.Add(new Film(head, f, [.. known.SelectMany(x => x.All), f], line, b.Treatment!));
    }

    private void Rinse(ZoneFact f)
    {
        _rinses.Add(f);
        if (_films.Count == 0)
        {
            _orphans++;
            return;
        }

        var ended = _films.Where(x => f.Knew(x.Last) || f.When.Lo > x.Last.When.Hi).ToArray();
        _films.RemoveAll(ended.Contains);
        Change(_ => true, l => l with { Perhaps = l.Perhaps ?? f.Id });
        foreach (var round in ended.GroupBy(x => x.Treatment))
        {
            var films = round.OrderBy(x => x.Line.First).ThenBy(x => x.Head.Event.Number).ToArray();
            var verdicts = films.Select(x => Verdict(x, f)).Distinct().ToArray();
            var verdict = verdicts is [var one] ? one : RoundEnd.Unsure;
            var (first, number) = (films[0], films[0].Line.Round);
            var before = _ended.FirstOrDefault(e =>
                e.Treatment == round.Key
                && e.Round == number
                && e.End.Event.Kind == LogKind.Rinsed
                && first.All.All(a => !a.Knew(e.First) && !a.Knew(e.End) && !e.First.Knew(a) && !e.End.Knew(a))
                && first.Head.When.Lo <= e.End.When.Hi
            );
            _joined.AddRange((before is null ? films.Skip(1) : films).SelectMany(x => x.All).Select(a => a.Id));
            if (before is null)
            {
                Count(round.Key, 1);
            }
            else
            {
                verdict = RoundEnd.Unsure;
                _ended.Remove(before);
            }

            var stayed = Between(first.Head, f);
            if (before is not null)
            {
                // Which rinse took it off nobody knows.
                var other = Between(before.First, f);
                stayed = (
                    Math.Min(stayed.From, Math.Min(other.From, before.DwellMs.From)),
                    Math.Max(stayed.To, Math.Max(other.To, before.DwellMs.To))
                );
            }

            _ended.Add(new LiveRound(before?.First ?? first.Head, f, round.Key, number, verdict, stayed));
            _last = (f.Event.Number, round.Key, verdict);
            if (verdict == RoundEnd.Dried)
            {
                _dried[round.Key] = _dried.GetValueOrDefault(round.Key) + 1;
            }
        }
    }

    private void Work(ZoneFact f)
    {
        var b = f.Event.Body;
        var twice = _ended.Any(e =>
            e.Treatment == b.Treatment && e.Round == b.Round && e.End.Event.Kind == LogKind.Worked && !f.Knew(e.End) && !e.End.Knew(f)
        );
        if (twice)
        {
            _joined.Add(f.Id);
            return;
        }

        Count(b.Treatment ?? "", 1);
        _ended.Add(new LiveRound(f, f, b.Treatment ?? "", b.Round, RoundEnd.Ok, (0, 0)));
    }

    private void See(ZoneFact f)
    {
        if (f.Event.Body is { Observe: { } look, Result: { } result })
        {
            _looks[look] = new LiveLook(
                f.Event.Number,
                result,
                Reads.Contains(look) && _last?.Verdict is RoundEnd.Dried or RoundEnd.Unsure
            );
        }
    }

    /// <summary>From here it dries faster or slower; slower only where somebody measured on the very zone.</summary>
    private void Rescale(ZoneFact f)
    {
        var by = f.Event.Body.There ? f.Event.Body.PerMille : Math.Min(1000, f.Event.Body.PerMille);
        Change(l => l.Dry > f.When.Lo, l => l with { Usable = At(l.Usable), Dry = At(l.Dry) });

        long At(long deadline) => deadline <= f.When.Lo ? deadline : f.When.Lo + ((deadline - f.When.Lo) * by / 1000);
    }

    private void Count(string treatment, int rounds)
    {
        if (rounds > 0)
        {
            _rounds[treatment] = _rounds.GetValueOrDefault(treatment) + rounds;
        }
    }

    private void Change(Func<LiveLine, bool> which, Func<LiveLine, LiveLine> how)
    {
        for (var i = 0; i < _films.Count; i++)
        {
            if (which(_films[i].Line))
            {
                _films[i] = _films[i] with { Line = how(_films[i].Line) };
            }
        }
    }

    private static RoundEnd Verdict(Film film, ZoneFact rinse)
    {
        if (film.Line.Dried)
        {
            return RoundEnd.Dried;
        }

        var (wet, dry) = (Between(film.Last, rinse), film.Line.Dry - film.Line.Start);
        var stayed = Between(film.Head, rinse);
        return wet.From >= dry ? RoundEnd.Dried
            : wet.To >= dry ? RoundEnd.Unsure
            : stayed.To < film.Line.Dwell ? RoundEnd.Short
            : stayed.From < film.Line.Dwell ? RoundEnd.Unsure
            : RoundEnd.Ok;
    }

    /// <summary>Time between two facts: by one clock where it is one, else by what both surely lie between.</summary>
    private static (long From, long To) Between(ZoneFact a, ZoneFact b) =>
        a.Event.Device == b.Event.Device && a.Event.Epoch == b.Event.Epoch
            ? (b.Event.Mono - a.Event.Mono, b.Event.Mono - a.Event.Mono)
            : (b.When.Lo - a.When.Hi, b.When.Hi - a.When.Lo);
}
