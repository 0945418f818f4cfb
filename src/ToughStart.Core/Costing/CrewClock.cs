using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Costing;

/// <summary>
/// Elapsed minutes in a flash: people take the first step that is ready, one person a step, one washer for all that is lanced; a step's
/// dwell is waiting in which another may be done. Cheap enough for hundreds of draws; the Timeline cuts steps by side and does better
/// with two people or more.
/// </summary>
public sealed class CrewClock
{
    private readonly int[][] _after;
    private readonly bool[] _lanced;
    private readonly double[] _wait;
    private readonly int[] _left;
    private readonly double[] _ready,
        _finished;

    public CrewClock(IReadOnlyList<Step> steps)
    {
        var index = steps.Select((s, i) => (s.Key, i)).ToDictionary(x => x.Key, x => x.i);
        _after = [.. steps.Select(s => s.After.Where(index.ContainsKey).Select(a => index[a]).ToArray())];
        _lanced = [.. steps.Select(s => s.Stage != Stage.Dry && Catalogue.Default.Treatment(s.Treatment).IsLanced)];
        _wait = [.. steps.Select(s => s.WaitMinutes.Value / Math.Max(1, s.Rounds))];
        (_left, _ready, _finished) = (new int[steps.Count], new double[steps.Count], new double[steps.Count]);
    }

    private CrewClock(CrewClock of)
    {
        (_after, _lanced, _wait) = (of._after, of._lanced, of._wait);
        (_left, _ready, _finished) = (new int[_wait.Length], new double[_wait.Length], new double[_wait.Length]);
    }

    /// <summary>The same for another hand to turn.</summary>
    public CrewClock Copy() => new(this);

    /// <summary>The plan as it stands.</summary>
    public static double Of(IReadOnlyList<Step> steps, int crew) =>
        new CrewClock(steps).Elapsed([.. steps.Select(s => s.LabourMinutes.Value)], [.. steps.Select(s => s.Rounds)], Math.Max(1, crew));

    /// <param name="minutes">Hands-on minutes of each step, all rounds.</param>
    /// <param name="rounds">Rounds of each step, 1 or more.</param>
    /// <param name="crew">1 or more.</param>
    public double Elapsed(double[] minutes, int[] rounds, int crew)
    {
        rounds.CopyTo(_left, 0);
        Array.Clear(_ready);
        Array.Fill(_finished, double.PositiveInfinity);
        Span<double> people = stackalloc double[crew];
        people.Clear();
        var washer = 0.0;
        for (var left = rounds.Sum(); left > 0; left--)
        {
            var who = 0;
            for (var p = 1; p < crew; p++)
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

            people[who] = start + (minutes[best] / rounds[best]);
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
