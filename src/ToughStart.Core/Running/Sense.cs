using System.Collections.Concurrent;
using MathNet.Numerics.Distributions;
using ToughStart.Core.Contamination;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Running;

/// <summary>How an answer is told from another.</summary>
public enum SenseKind
{
    /// <summary>Three bands of one load: little, some, much.</summary>
    Bands,

    /// <summary>Clean, or not.</summary>
    Two,

    /// <summary>A cloth along the panel: gritty before anything, else grey with film or clean.</summary>
    Wipe,

    /// <summary>Lumps of any of several kinds.</summary>
    Lumps,
}

/// <summary>What an answer says of one kind: the probability of that answer at every level.</summary>
public sealed record Heard(int Kind, double[] Likelihood);

/// <summary>
/// What looking tells: which loads an answer speaks of, and how likely it is at every load. One table for the survey's tests, the run and
/// later the trainer. For every load the likelihoods of all answers sum to 1; a few answers in a hundred are a slip of eye, tongue or pen.
/// </summary>
public sealed class Sense
{
    private readonly Catalogue _c;
    private readonly double[] _low,
        _high;
    private readonly IReadOnlyList<string> _lowWords,
        _midWords,
        _highWords;
    private readonly int[] _of,
        _also;
    private readonly Dictionary<int, double> _grit;
    private readonly Lazy<double[,]> _gritty;
    private readonly ConcurrentDictionary<int, double[]> _bands = [];

    internal Sense(Table.Row r, Catalogue c)
    {
        (_c, Look, Stage, Kind) = (
            c,
            r["look"],
            r["stage"] == "*" ? null : Core.Stage.Of(r["stage"]),
            Enum.Parse<SenseKind>(r["how"], true)
        );
        (_lowWords, _midWords, _highWords) = (r.Words("low"), r.Words("mid"), r.Words("high"));
        (Answered, Spread) = (r["of"] == "answered", r.Number("spread"));
        _of = Answered ? [] : [.. r.Words("of").Select(id => c.Contaminant(id).Index)];
        _also = [.. r.Words("also").Select(id => c.Contaminant(id).Index)];
        _low = [.. Enumerable.Range(0, Levels.Nil + 1).Select(n => Below(c["band-low"], Levels.LoadOf(n)))];
        _high = [.. Enumerable.Range(0, Levels.Nil + 1).Select(n => 1 - Below(c["band-high"], Levels.LoadOf(n)))];
        _gritty = new(Grits);
        _grit = c.LoadLimit("touch").Weights.Where(w => _also.Contains(w.Kind)).ToDictionary(w => w.Kind, w => w.Weight / 1000.0);
    }

    /// <summary>Probability that grains are felt, for every level of the two gritty kinds.</summary>
    private double[,] Grits()
    {
        var grits = new double[Levels.Nil + 1, Levels.Nil + 1];
        for (var i = 0; i <= Levels.Nil; i++)
        {
            for (var j = 0; j <= Levels.Nil; j++)
            {
                grits[i, j] = 1 - Below(_c["band-low"], (_grit[_also[0]] * Levels.LoadOf(i)) + (_grit[_also[1]] * Levels.LoadOf(j)));
            }
        }

        return grits;
    }

    /// <summary>What is looked at: touch, bleed, water, foam, look, dab, cloth, clayFace.</summary>
    public string Look { get; }

    /// <summary>Stage in which the answer means this; null = in any other.</summary>
    public Stage? Stage { get; }

    public SenseKind Kind { get; }

    /// <summary>It speaks of whatever the step is about.</summary>
    public bool Answered { get; }

    /// <summary>By how much of ln(load) the eye scatters.</summary>
    public double Spread { get; }

    /// <summary>Answers offered, cleanest first; "could not tell" is always one more.</summary>
    public IReadOnlyList<string> Words => [.. Bands.SelectMany(w => Kind is SenseKind.Two ? w.Take(1) : w)];

    /// <summary>The words of each band it tells apart, cleanest first.</summary>
    public IReadOnlyList<IReadOnlyList<string>> Bands => [.. new[] { _lowWords, _midWords, _highWords }.Where(w => w.Count > 0)];

    /// <summary>The sense of a look in a stage; null when nothing of that name speaks of a load.</summary>
    public static Sense? Of(string look, Stage? stage, Catalogue c) =>
        c.Senses.FirstOrDefault(s => s.Look == look && s.Stage == stage) ?? c.Senses.FirstOrDefault(s => s.Look == look && s.Stage is null);

    /// <summary>Is this an answer of the sense, one that says something?</summary>
    public bool Knows(string answer) => Band(answer) is not null;

    /// <summary>Kinds that grate under a cloth, by weight.</summary>
    public IEnumerable<(int Kind, double Weight)> Grit => _grit.Select(g => (g.Key, g.Value));

    /// <summary>The kinds it speaks of, the chief one first.</summary>
    /// <param name="answered">What the step is about.</param>
    public IReadOnlyList<int> Speaks(int? answered) =>
        Answered
            ? answered is { } k
                ? [k]
                : []
            : [.. _of, .. Kind == SenseKind.Wipe ? _also : []];

    /// <summary>What an answer says, given what is believed of every kind it speaks of.</summary>
    /// <param name="believed">By kind; kinds that cannot sit here are none.</param>
    /// <returns>Probability of the answer as things are believed, and what it says of each kind.</returns>
    public (double Evidence, IReadOnlyList<Heard> Says) Hear(string answer, int? answered, Func<int, LoadBelief> believed)
    {
        var band = Band(answer) ?? throw new ArgumentException($"'{answer}' says nothing here", nameof(answer));
        return Kind switch
        {
            SenseKind.Wipe => Wipe(band, believed),
            SenseKind.Lumps => Lumps(band == 1, believed),
            _ => OfOne(band, answered, believed),
        };
    }

    /// <summary>The load that stands for the middle of what was seen; where a belief starts anew that was plainly wrong.</summary>
    public double Middle(string answer) =>
        Band(answer) switch
        {
            0 => _c["band-low"] / 2,
            1 when Kind == SenseKind.Bands => Math.Sqrt(_c["band-low"] * _c["band-high"]),
            1 => Math.Sqrt(_c["band-low"]),
            _ => Math.Sqrt(_c["band-high"]),
        };

    /// <summary>Probability of a band at every level, slips included; three of them sum to 1.</summary>
    public double[] Likelihood(int band) => _bands.GetOrAdd(band, Banded);

    private double[] Banded(int band)
    {
        var sure = 1 - _c["look-slip"];
        return Slipped(
            n =>
                band switch
                {
                    0 => _low[n],
                    2 => _high[n],
                    _ => Kind == SenseKind.Two ? 1 - _low[n] : 1 - _low[n] - _high[n],
                },
            Kind == SenseKind.Two ? 2 : 3,
            sure
        );
    }

    private (double, IReadOnlyList<Heard>) OfOne(int band, int? answered, Func<int, LoadBelief> believed)
    {
        var speaks = Speaks(answered);
        if (speaks.Count == 0)
        {
            return (1, []);
        }

        var likelihood = Likelihood(band);
        IEnumerable<int> kinds = band == 0 ? speaks.Concat(_also) : speaks;
        return (believed(speaks[0]).Evidence(likelihood), [.. kinds.Select(k => new Heard(k, likelihood))]);
    }

    /// <summary>A cloth is gritty, or else grey or clean by the film on it.</summary>
    private (double, IReadOnlyList<Heard>) Wipe(int band, Func<int, LoadBelief> believed)
    {
        var film = _of[0];
        var (one, two) = (_also[0], _also[1]);
        var (a, b) = (believed(one).Levelwise, believed(two).Levelwise);
        var gritty = new double[2][] { new double[Levels.Nil + 1], new double[Levels.Nil + 1] };
        var grits = _gritty.Value;
        for (var i = 0; i <= Levels.Nil; i++)
        {
            for (var j = 0; j <= Levels.Nil; j++)
            {
                var g = grits[i, j];
                gritty[0][i] += b[j] * g;
                gritty[1][j] += a[i] * g;
            }
        }

        var all = Enumerable.Range(0, Levels.Nil + 1).Sum(i => a[i] * gritty[0][i]);
        var clean = Enumerable.Range(0, Levels.Nil + 1).Sum(i => believed(film).Levelwise[i] * _low[i]);
        var sure = 1 - _c["look-slip"];
        double OfGrit(double g) =>
            band switch
            {
                2 => g,
                1 => (1 - g) * (1 - clean),
                _ => (1 - g) * clean,
            };
        double OfFilm(double v) =>
            band switch
            {
                2 => all,
                1 => (1 - all) * (1 - v),
                _ => (1 - all) * v,
            };
        var evidence = (sure * OfGrit(all)) + ((1 - sure) / 3);
        return (
            evidence,
            [
                new(one, Slipped(n => OfGrit(gritty[0][n]), 3, sure)),
                new(two, Slipped(n => OfGrit(gritty[1][n]), 3, sure)),
                new(film, Slipped(n => OfFilm(_low[n]), 3, sure)),
            ]
        );
    }

    /// <summary>Lumps come from any kind the chemistry missed.</summary>
    private (double, IReadOnlyList<Heard>) Lumps(bool lumps, Func<int, LoadBelief> believed)
    {
        var sure = 1 - _c["look-slip"];
        double[] shows = [.. Enumerable.Range(0, Levels.Nil + 1).Select(n => 1 - Below(_c["lump-load"], Levels.LoadOf(n)))];
        double Shows(int kind) => Enumerable.Range(0, Levels.Nil + 1).Sum(n => believed(kind).Levelwise[n] * shows[n]);
        double Of(double noneOfAll) => lumps ? ((1 - sure) / 3) + (sure * (1 - noneOfAll)) : ((1 - sure) * 2 / 3) + (sure * noneOfAll);
        var evidence = Of(_of.Aggregate(1.0, (p, k) => p * (1 - Shows(k))));
        return (
            evidence,
            [
                .. _of.Select(k => new Heard(
                    k,
                    [.. shows.Select(s => Of((1 - s) * _of.Where(o => o != k).Aggregate(1.0, (p, o) => p * (1 - Shows(o)))))]
                )),
            ]
        );
    }

    private static double[] Slipped(Func<int, double> seen, int answers, double sure) =>
        [.. Enumerable.Range(0, Levels.Nil + 1).Select(n => (sure * seen(n)) + ((1 - sure) / answers))];

    /// <summary>Probability that the eye takes a load for one below an edge.</summary>
    private double Below(double edge, double load) => load <= 0 ? 1 : Normal.CDF(0, 1, Math.Log(edge / load) / Spread);

    private int? Band(string answer) =>
        _lowWords.Contains(answer) ? 0
        : _midWords.Contains(answer) ? 1
        : _highWords.Contains(answer) ? 2
        : null;
}
