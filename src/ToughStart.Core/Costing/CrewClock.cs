using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Costing;

/// <summary>
/// Elapsed minutes in a flash: a step is cut into as many parts as there are people, or zones where those are fewer; people take the first
/// part that is ready, one washer for all that is lanced; a part's dwell is waiting in which another may be done. Cheap enough for hundreds
/// of draws; the Timeline, which walks round the vehicle and knows what dries, lays the work out.
/// </summary>
public sealed class CrewClock
{
    /// <summary>Parts that come before a part: that of the same side where both are cut alike, else all of them.</summary>
    private readonly int[][] _after;

    /// <summary>The step of each part, and into how many its step is cut.</summary>
    private readonly int[] _step,
        _cut;
    private readonly bool[] _lanced;
    private readonly double[] _wait;
    private readonly int[] _left;
    private readonly double[] _ready,
        _finished;
    private readonly int _crew;

    /// <param name="crew">1 or more.</param>
    public CrewClock(IReadOnlyList<Step> steps, int crew)
    {
        _crew = Math.Max(1, crew);
        int[] cuts = [.. steps.Select(s => Math.Clamp(s.Zones.Count, 1, _crew))];
        int[] first = [.. cuts.Select((_, i) => cuts.Take(i).Sum())];
        var index = steps.Select((s, i) => (s.Key, i)).ToDictionary(x => x.Key, x => x.i);
        var parts = steps.SelectMany((s, i) => Enumerable.Range(0, cuts[i]).Select(part => (Step: s, At: i, Part: part))).ToArray();
        _after =
        [
            .. parts.Select(p =>
                p.Step.After.Where(index.ContainsKey)
                    .Select(a => index[a])
                    .SelectMany(a => cuts[a] == cuts[p.At] ? [first[a] + p.Part] : Enumerable.Range(first[a], cuts[a]))
                    .ToArray()
            ),
        ];
        (_step, _cut) = ([.. parts.Select(p => p.At)], [.. parts.Select(p => cuts[p.At])]);
        _lanced = [.. parts.Select(p => p.Step.Stage != Stage.Dry && Catalogue.Default.FindTreatment(p.Step.Treatment)?.IsLanced == true)];
        _wait = [.. parts.Select(p => p.Step.WaitMinutes.Value / Math.Max(1, p.Step.Rounds))];
        (_left, _ready, _finished) = (new int[parts.Length], new double[parts.Length], new double[parts.Length]);
    }

    private CrewClock(CrewClock of)
    {
        (_after, _step, _cut, _lanced, _wait, _crew) = (of._after, of._step, of._cut, of._lanced, of._wait, of._crew);
        (_left, _ready, _finished) = (new int[_wait.Length], new double[_wait.Length], new double[_wait.Length]);
    }

    /// <summary>The same for another hand to turn.</summary>
    public CrewClock Copy() => new(this);

    /// <summary>The plan as it stands.</summary>
    public static double Of(IReadOnlyList<Step> steps, int crew) =>
        new CrewClock(steps, crew).Elapsed([.. steps.Select(s => s.LabourMinutes.Value)], [.. steps.Select(s => s.Rounds)]);

    /// <param name="minutes">Hands-on minutes of each step, all rounds.</param>
    /// <param name="rounds">Rounds of each step, 1 or more.</param>
    public double Elapsed(double[] minutes, int[] rounds)
    {
        var left = 0;
        for (var i = 0; i < _left.Length; i++)
        {
            left += _left[i] = rounds[_step[i]];
        }

        Array.Clear(_ready);
        Array.Fill(_finished, double.PositiveInfinity);
        Span<double> people = stackalloc double[_crew];
        people.Clear();
        var washer = 0.0;
        for (; left > 0; left--)
        {
            var who = 0;
            for (var p = 1; p < _crew; p++)
            {
                who = people[p] < people[who] ? p : who;
            }

            var (best, start) = (-1, double.PositiveInfinity);
            for (var i = 0; i < _left.Length; i++)
            {
                if (_left[i] == 0)
                {
                    continue;
                }

                var at = Math.Max(Math.Max(people[who], _lanced[i] ? washer : 0), _ready[i]);
                foreach (var a in _after[i])
                {
                    at = Math.Max(at, _finished[a]);
                }

                if (at < start - 1e-9)
                {
                    (start, best) = (at, i);
                }
            }

            people[who] = start + (minutes[_step[best]] / (rounds[_step[best]] * _cut[best]));
            washer = _lanced[best] ? people[who] : washer;
            _ready[best] = people[who] + _wait[best];
            if (--_left[best] == 0)
            {
                _finished[best] = _ready[best];
            }
        }

        return _finished.Length == 0 ? 0 : _finished.Max();
    }
}
