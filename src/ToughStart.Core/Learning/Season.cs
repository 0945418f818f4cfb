using ToughStart.Core.Contamination;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Readiness;
using ToughStart.Core.Running;
using ToughStart.Core.Running.Live;

namespace ToughStart.Core.Learning;

/// <summary>What is so in a made-up shop, and nobody there knows.</summary>
/// <param name="Bottles">How well each bottle works against its class, by the shop's id of it.</param>
/// <param name="Paces">Minutes of each person against the norm, by person and stage; what is not there is as the norm.</param>
public sealed record HiddenTruths(
    IReadOnlyDictionary<string, double> Bottles,
    IReadOnlyDictionary<(string Who, Stage Stage), double> Paces
);

/// <summary>
/// Works a plan as a crew would that does not know what is true: loads that differ from what was surveyed, bottles that work better or worse, eyes
/// that err, people with a pace of their own. What comes out is a log like any other.
/// </summary>
public static class Season
{
    /// <param name="crew">Staff ids, one or more; they take steps in turn.</param>
    /// <param name="start">When the first step is taken.</param>
    /// <param name="revision">Of the plan that is in force.</param>
    public static IReadOnlyList<LogEvent> Work(
        RunGround ground,
        Plan plan,
        int revision,
        HiddenTruths truths,
        IReadOnlyList<string> crew,
        DateTimeOffset start,
        ulong seed
    ) => new Worker(ground, plan, revision, truths, crew, start, seed).Work();

    private sealed class Worker(
        RunGround ground,
        Plan plan,
        int revision,
        HiddenTruths truths,
        IReadOnlyList<string> crew,
        DateTimeOffset start,
        ulong seed
    )
    {
        private readonly SplitMix _random = new(seed);
        private readonly Catalogue _c = ground.Catalogue;
        private readonly List<LogEvent> _log = [];
        private readonly Dictionary<(string Zone, int Kind), double> _loads = [];
        private readonly Dictionary<string, double> _today = [];
        private long _now = start.ToUnixTimeMilliseconds();

        public IReadOnlyList<LogEvent> Work()
        {
            var (bias, job) = (_c["learn-bias"] * _random.Normal(), _c["learn-job"] * _random.Normal());
            foreach (var z in ground.States)
            {
                for (var k = 0; k < Kinds.Residue; k++)
                {
                    if (ground.Prior(z, k) is { } prior && _random.Next() >= prior.AtMost(0))
                    {
                        var median = Levels.LoadOf(prior.MedianIfThere);
                        _loads[(z.Zone.Id, k)] = Math.Min(1, median * Math.Exp(bias + (_c["learn-load"] * _random.Normal())));
                    }
                }
            }

            Add(crew[0], LogKind.Started, new() { Plan = revision, Crew = crew });
            var turn = 0;
            foreach (var step in plan.Steps)
            {
                Take(step, crew[turn++ % crew.Count], job);
            }

            Inspect();
            return _log;
        }

        private void Take(Step step, string who, double job)
        {
            Add(who, LogKind.Taken, new() { Step = step.Key });
            var t = _c.FindTreatment(step.Treatment);
            var sense = step.Until is { } u ? Sense.Of(u.Observe, step.Stage, _c) : null;
            var ends = step.Zones.Select(z => (Zone: z, End: Rounds(step, t, z, sense))).ToArray();
            // What the plan has as one, drying, is worked as one.
            var seconds =
                step.Parts.Count == 0 ? 60 * step.LabourMinutes.Value : ends.Sum(e => e.End.Rounds * Reckoning.NormOf(step, e.Zone));
            var pace = truths.Paces.GetValueOrDefault((who, step.Stage), 1) * Math.Exp(job + (_c["learn-stage"] * _random.Normal()));
            _now += (long)(1000 * Math.Max(20, seconds * pace));
            foreach (var g in ends.GroupBy(e => e.End))
            {
                Add(
                    who,
                    LogKind.Observed,
                    new()
                    {
                        Step = step.Key,
                        Treatment = step.Treatment,
                        Zones = [.. g.Select(e => e.Zone)],
                        Rounds = Math.Min(g.Key.Rounds, MostRounds),
                        Observe = g.Key.Answer is null ? null : step.Until!.Observe,
                        Result = g.Key.Answer,
                    }
                );
            }

            Add(who, LogKind.Left, new());
        }

        /// <summary>Rounds of one entry at most.</summary>
        private const int MostRounds = 4;

        private (int Rounds, string? Answer) Rounds(Step step, Treatment? t, string zone, Sense? sense)
        {
            var planned = step.RoundsOn(zone);
            if (t is null || ground.Zone(zone) is not { } z)
            {
                return (planned, null);
            }

            var most = sense is null ? planned : Math.Min(MostRounds, t.MaxRounds);
            for (var round = 1; ; round++)
            {
                Round(step, t, z);
                var answer = sense is null || step.Until is not { } until ? null : Look(sense, zone, until);
                if (round >= most || (answer is null ? round >= planned : step.Until!.Stop.Contains(answer)))
                {
                    return (round, answer);
                }
            }
        }

        private void Round(Step step, Treatment t, ZoneState z)
        {
            var levels = new int[Kinds.Count];
            Array.Fill(levels, Levels.Nil);
            var minutes = step.On(z.Zone.Id)?.DwellMinutes is { Value: > 0 } d ? d.Value : (double?)null;
            var option = ground.Builder.Free(t, t.IsClay ? t.Agent.Reference : step.Strength, minutes, null, z, levels, step.Under);
            if (!_today.TryGetValue(t.Agent.Id, out var today))
            {
                today = _today[t.Agent.Id] =
                    (step.BottleId is { } id ? truths.Bottles.GetValueOrDefault(id, 1) : 1) * Math.Exp(_c["learn-day"] * _random.Normal());
            }

            foreach (var effect in option.Exact)
            {
                if (_loads.TryGetValue((z.Zone.Id, effect.Kind), out var load))
                {
                    var decades = effect.Decades.Value / t.Agent.Efficacy * today;
                    _loads[(z.Zone.Id, effect.Kind)] = Math.Min(load, Math.Max(load * Math.Pow(10, -decades), effect.FloorLoad));
                }
            }
        }

        /// <summary>What somebody says of the dirtiest kind that a look speaks of, with an eye that errs.</summary>
        private string Look(Sense sense, string zone, Until? until)
        {
            var seen = sense.Speaks(null).Select(k => _loads.GetValueOrDefault((zone, k))).DefaultIfEmpty(0).Max();
            var load = seen * Math.Exp(sense.Spread * _random.Normal());
            var band =
                load < _c["band-low"] ? 0
                : load < _c["band-high"] ? 1
                : 2;
            var words = sense.Bands[Math.Min(band, sense.Bands.Count - 1)];
            return until?.Stop.FirstOrDefault(words.Contains) ?? words[0];
        }

        /// <summary>The gate: every look that is asked for, once by each of two people or twice by the one, on another spot.</summary>
        private void Inspect()
        {
            var asked = ground
                .States.SelectMany(z => Gate.Asked(ground, z).Select(a => (Zone: z.Zone.Id, Asked: a)))
                .GroupBy(x => x.Asked)
                .ToArray();
            for (var turn = 0; turn < 2; turn++)
            {
                foreach (var g in asked.Where(g => turn == 0 || g.Key.Second))
                {
                    var sense = g.Key.Kind is null ? null : Sense.Of(g.Key.Look, null, _c);
                    _now += (long)(60_000 * g.Key.Minutes.Value * g.Count());
                    foreach (var same in g.GroupBy(x => sense is null ? g.Key.Answers(_c)[0] : Look(sense, x.Zone, null)))
                    {
                        Add(
                            crew[turn % crew.Count],
                            LogKind.Seen,
                            new()
                            {
                                Zones = [.. same.Select(x => x.Zone)],
                                Observe = g.Key.Look,
                                Result = same.Key,
                                Spot = turn == 0 ? "upper edge" : "lower edge",
                                Elsewhere = turn > 0,
                            }
                        );
                    }
                }
            }
        }

        private void Add(string who, LogKind kind, LogBody body)
        {
            Span<byte> id = stackalloc byte[16];
            for (var i = 0; i < id.Length; i++)
            {
                id[i] = (byte)(256 * _random.Next());
            }

            _log.Add(
                new LogEvent(new Guid(id).ToString(), "", 0, "", 0, _log.Count, revision, who, kind)
                {
                    Body = body,
                    Number = _log.Count + 1,
                    When = new(_now, _now, _now),
                    Received = _now,
                }
            );
            _now += 200;
        }
    }
}
