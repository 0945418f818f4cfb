using ToughStart.Core.Contamination;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Costing;

/// <summary>How far everything scatters, ln; the catalogue's figures unless somebody says otherwise.</summary>
/// <param name="Pace">A person's minutes.</param>
/// <param name="Stage">A person's minutes from stage to stage.</param>
/// <param name="Loads">What was found, as a factor of what the survey makes of it: 1, or 0 for none.</param>
/// <param name="Agent">How well a product answers, everywhere it is used.</param>
/// <param name="Zone">The same from zone to zone.</param>
/// <param name="Round">The same from round to round.</param>
/// <param name="Looks">Do looks end rounds? Else every deed takes the rounds that are planned.</param>
/// <param name="Hidden">Is there ever what nobody has seen?</param>
public sealed record Scatter(double Pace, double Stage, double Loads, double Agent, double Zone, double Round, bool Looks, bool Hidden)
{
    public static Scatter Of(Catalogue c) =>
        new(c["labour-spread"], c["stage-spread"], 1, c["answer-agent"], c["answer-zone"], c["answer-round"], true, true);

    /// <summary>Everything is as it is believed to be, most likely.</summary>
    public static Scatter None { get; } = new(0, 0, 0, 0, 0, 0, false, false);

    /// <summary>The same with somebody whose pace is known: it scatters less.</summary>
    public Scatter Known(Catalogue c) => this with { Pace = c["known-pace"], Stage = c["known-stage"] };
}

/// <summary>
/// A plan worked many times over in worlds drawn anew: the policy stays, what is found differs. Every zone is a list of deeds, tests and
/// what a test adds; loads are drawn once and carried through, rounds go on until the look says clean or the cap is reached; then
/// follows what was planned once for that case, or it is referred. Nothing stops for a gate.
/// </summary>
internal sealed partial class Replay
{
    /// <summary>Worlds that one hand works after another.</summary>
    private const int Block = 64;

    /// <summary>Works the plan in so many worlds.</summary>
    /// <param name="pace">Learned minutes against the norm by stage; null = nobody's in particular.</param>
    /// <param name="anew">A group that is drawn from other numbers; null = none.</param>
    public Draws Run(int draws, Scatter scatter, ulong seed, DrawGroup? anew, Func<Stage, double>? pace, CancellationToken stop)
    {
        var numbers = new DrawNumbers(seed, anew);
        var made = new Draws(
            new double[draws],
            new double[draws],
            new double[draws],
            new double[draws],
            new double[draws],
            new double[draws],
            new double[draws],
            [.. _groups.Select(_ => new double[draws])],
            [.. _steps.Select(_ => new int[draws])],
            [.. _steps.Select(_ => new double[draws])],
            new double[draws]
        );
        double[] paces = [.. _stages.Select(s => pace?.Invoke(s) ?? 1)];
        var blocks = Enumerable.Range(0, draws).Chunk(Block).ToArray();
        Cores.Each(blocks.Length, b =>
        {
            var at = new World(this, numbers, scatter, paces);
            foreach (var s in blocks[b])
            {
                stop.ThrowIfCancellationRequested();
                at.Work(s, made);
            }

            return b;
        });
        return made;
    }

    /// <summary>One world at a time; what it needs is made once.</summary>
    private sealed class World(Replay r, DrawNumbers numbers, Scatter scatter, double[] paces)
    {
        private readonly CrewClock _clock = r._clock.Copy();
        private readonly double[] _levels = new double[Kinds.Count];
        private readonly double[] _above = new double[Layers];
        private readonly double[] _stageMinutes = new double[r._stages.Length];
        private readonly double[] _stepMinutes = new double[r._steps.Length];
        private readonly int[] _stepRounds = new int[r._steps.Length];
        private readonly bool[] _fresh = new bool[r._fresh.Length];
        private readonly double[] _agents = new double[r._agents.Length];
        private readonly double[] _kindLoads = new double[Kinds.Count];
        private readonly double[] _kindPresence = new double[Kinds.Count];
        private readonly bool[] _positive = new bool[Math.Max(1, r._mostTests)];
        private readonly bool[] _ranOut = new bool[Math.Max(1, r._mostCaps)];
        private readonly bool[] _freshAtCap = new bool[r._fresh.Length];
        private double _pace,
            _load,
            _extra,
            _atCap;

        public void Work(int s, Draws made)
        {
            Shared(s);
            Array.Clear(_stepMinutes);
            Array.Clear(_stepRounds);
            Array.Clear(_fresh);
            Array.Clear(_freshAtCap);
            (_extra, _atCap) = (0, 0);
            (made.Litres[s], made.ProductMl[s], made.ProductCost[s], made.Contained[s]) = (0, 0, 0, 0);
            foreach (var zone in r._zones)
            {
                Work(zone, s, made);
            }

            for (var f = 0; f < _fresh.Length; f++)
            {
                var ready = r._fresh[f].Minutes * _stageMinutes[r._fresh[f].Stage];
                _atCap += _freshAtCap[f] ? ready : 0;
                _extra += _fresh[f] && !_freshAtCap[f] ? ready : 0;
            }

            var minutes = r._testMinutes * _pace;
            for (var i = 0; i < _stepMinutes.Length; i++)
            {
                _stepMinutes[i] = (_stepMinutes[i] + r._steps[i].Fixed) * _stageMinutes[r._steps[i].Stage];
                minutes += made.Steps[i][s] = _stepMinutes[i];
                made.Rounds[i][s] = _stepRounds[i] = Math.Max(1, _stepRounds[i]);
            }

            (made.Hidden[s], made.Beyond[s]) = (_extra, _extra + _atCap);
            made.Minutes[s] = minutes + _extra + _atCap;
            made.Elapsed[s] = _clock.Elapsed(_stepMinutes, _stepRounds) + (((r._testMinutes * _pace) + _extra + _atCap) / r._crew);
        }

        /// <summary>What moves everything at once.</summary>
        private void Shared(int s)
        {
            _pace = Math.Exp(scatter.Pace * DrawNumbers.Quantile(numbers.Even(DrawGroup.Pace, DrawNumbers.PaceFactor, s)));
            _load = DrawNumbers.Quantile(numbers.Even(DrawGroup.Loads, DrawNumbers.LoadFactor, s));
            for (var i = 0; i < _stageMinutes.Length; i++)
            {
                _stageMinutes[i] = _pace * paces[i] * Math.Exp(scatter.Stage * numbers.OwnNormal(DrawGroup.Pace, r._stageNames[i], s));
            }

            for (var a = 0; a < _agents.Length; a++)
            {
                var normal =
                    r._evenAgents[a] > 0
                        ? DrawNumbers.Quantile(numbers.Even(DrawGroup.Kinetics, r._evenAgents[a], s))
                        : numbers.OwnNormal(DrawGroup.Kinetics, r._agents[a], s);
                _agents[a] = scatter.Agent * normal;
            }

            for (var k = 0; k < Kinds.Count; k++)
            {
                _kindLoads[k] =
                    r._evenLoads[k] > 0
                        ? DrawNumbers.Quantile(numbers.Even(DrawGroup.Loads, r._evenLoads[k], s))
                        : numbers.OwnNormal(DrawGroup.Loads, KindNames[k], s);
                _kindPresence[k] =
                    r._evenPresence[k] > 0
                        ? DrawNumbers.Quantile(numbers.Even(DrawGroup.Presence, r._evenPresence[k], s))
                        : numbers.OwnNormal(DrawGroup.Presence, KindNames[k], s);
            }
        }

        private void Work(ZoneRun zone, int s, Draws made)
        {
            for (var k = 0; k < zone.Kinds.Length; k++)
            {
                ref readonly var kind = ref zone.Kinds[k];
                _levels[k] = There(kind, s)
                    ? Math.Clamp(kind.Start - (scatter.Loads * kind.Spread * Spread(kind, s)), 0, Levels.Nil - 0.001)
                    : Levels.Nil;
            }

            foreach (var op in zone.Ops)
            {
                if (op.Of == OpKind.Test)
                {
                    _positive[op.Test] = scatter.Hidden && IsPositive(op, s);
                }
                else if (op.Of == OpKind.Deed)
                {
                    Do(op, zone, s, made, null);
                }
                else if (AfterACap(op))
                {
                    Do(op, zone, s, made, null);
                }
                else if (Wanted(op) is >= 0 and var group)
                {
                    Do(op, zone, s, made, made.Added[group]);
                }
            }
        }

        /// <summary>Group of the first test that wants it; −1 = none does.</summary>
        private int Wanted(OpRun op)
        {
            foreach (var (test, group) in op.Needs)
            {
                if (_positive[test])
                {
                    return group;
                }
            }

            return -1;
        }

        private bool AfterACap(OpRun op)
        {
            foreach (var loop in op.Caps)
            {
                if (_ranOut[loop])
                {
                    return true;
                }
            }

            return false;
        }

        private bool There(in KindRun kind, int s) =>
            !kind.Hidden && (kind.Presence >= 1 || !scatter.Hidden)
            || (
                scatter.Hidden
                && (r._presenceKind * _kindPresence[kind.Kind]) + (r._presenceZone * numbers.OwnNormal(DrawGroup.Presence, kind.Name, s))
                    < kind.Threshold
            );

        private double Spread(in KindRun kind, int s) =>
            (r._loadShared * _load)
            + (r._loadKind * _kindLoads[kind.Kind])
            + (r._loadOwn * numbers.OwnNormal(DrawGroup.Loads, kind.Name, s));

        private bool IsPositive(OpRun op, int s)
        {
            var u = numbers.Own(DrawGroup.Answers, op.Name, s);
            return u < (op.Positive is { } at ? at[(int)Math.Round(_levels[op.Speaks])] : op.Chance);
        }

        private void Do(OpRun op, ZoneRun zone, int s, Draws made, double[]? added)
        {
            var loops = scatter.Looks && op.Loops;
            var answer = _agents[op.Agent] + (scatter.Zone * numbers.OwnNormal(DrawGroup.Kinetics, op.Name, s));
            var rounds = 0;
            do
            {
                rounds++;
                Round(op, zone, s, rounds, answer);
            } while (rounds < (loops ? op.Most : op.Rounds) && !(loops && rounds >= op.Least && Ends(op, s, rounds)));

            if (op.Cap >= 0)
            {
                _ranOut[op.Cap] = loops && rounds >= op.Most && !Ends(op, s, rounds);
            }

            var share = rounds * op.Minutes;
            if (added is null && op.Step < 0)
            {
                _atCap += share * _stageMinutes[op.Stage];
                if (op.Fresh >= 0)
                {
                    _freshAtCap[op.Fresh] = true;
                }
            }
            else if (added is null)
            {
                _stepMinutes[op.Step] += share;
                _stepRounds[op.Step] = Math.Max(_stepRounds[op.Step], rounds);
            }
            else
            {
                _extra += share * _stageMinutes[op.Stage];
                added[s] += share * _stageMinutes[op.Stage];
                if (op.Fresh >= 0)
                {
                    _fresh[op.Fresh] = true;
                }
            }

            made.Litres[s] += rounds * op.Litres;
            made.ProductMl[s] += rounds * op.Ml;
            made.ProductCost[s] += rounds * op.Cost;
            made.Contained[s] += op.Contained ? rounds * (op.Litres + (op.SolutionMl / 1000)) : 0;
        }

        /// <summary>One round, as the plan and the run have it: what lies above keeps part of it off, nothing passes its floor.</summary>
        private void Round(OpRun op, ZoneRun zone, int s, int round, double answer)
        {
            foreach (var (at, _, floor) in op.Effects)
            {
                if (zone.Kinds[at].Layer > 1 && _levels[at] < floor)
                {
                    Cover(zone);
                    break;
                }
            }

            var factor = Math.Exp(answer + (scatter.Round * numbers.OwnNormal(DrawGroup.Kinetics, op.Name + (ulong)(round << 8), s)));
            foreach (var (at, levels, floor) in op.Effects)
            {
                var now = _levels[at];
                if (now < floor && now < Levels.Nil)
                {
                    var layer = zone.Kinds[at].Layer;
                    _levels[at] = Math.Min(now + (levels * factor * (1 - (layer <= 1 ? 0 : _above[layer]))), floor);
                }
            }
        }

        private void Cover(ZoneRun zone)
        {
            Array.Clear(_above);
            for (var k = 0; k < zone.Kinds.Length; k++)
            {
                if (zone.Kinds[k].Layer is > 0 and var layer && _levels[k] < Levels.Nil)
                {
                    _above[layer + 1] = Math.Max(_above[layer + 1], LoadAt(_levels[k]));
                }
            }

            var most = 0.0;
            for (var layer = 1; layer < Layers; layer++)
            {
                most = Math.Max(most, _above[layer]);
                _above[layer] = most >= zone.ShieldFrom ? most : 0;
            }
        }

        private bool Ends(OpRun op, int s, int round)
        {
            var u = numbers.Own(DrawGroup.Answers, op.Name + (ulong)(round << 8), s);
            if (op.Grit is { } grit)
            {
                var grains = 0.0;
                foreach (var (at, weight) in grit)
                {
                    grains += weight * LoadAt(_levels[at]);
                }

                var smooth = grains <= 0 ? 1 : r.Smooth(grains, op.Sharp);
                return u < (r._sure * smooth) + ((1 - r._sure) * 2 / 3);
            }

            var chance = 1.0;
            foreach (var (at, stops) in op.Looks)
            {
                chance = Math.Min(chance, stops[Math.Min(Levels.Nil, (int)Math.Round(_levels[at]))]);
            }

            return u < chance;
        }
    }

    private static double LoadAt(double level) => Levels.LoadOf(Math.Min(Levels.Nil, (int)Math.Round(level)));

    /// <summary>Chance that a hand feels no grains.</summary>
    private double Smooth(double grains, double sharp) => Learning.Phi.Of(Math.Log(_bandLow / grains) / sharp);

    private const int Layers = 12;
}
