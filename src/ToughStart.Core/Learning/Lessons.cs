using ToughStart.Core.Contamination;
using ToughStart.Core.Planning;
using ToughStart.Core.Running;

namespace ToughStart.Core.Learning;

/// <summary>A loop of a run, and what it teaches or why it teaches nothing.</summary>
/// <param name="Bottle">Id of the shop's bottle; null = none was said.</param>
/// <param name="Kind">Id of the kind it was about.</param>
/// <param name="Excluded">Why it teaches nothing; null = it counts.</param>
public sealed record Lesson(string? Bottle, string Agent, string Zone, string Kind, LoopDatum Datum, string? Excluded);

/// <summary>
/// Reads loops out of a run. Only a loop that a look ended, or that used up the rounds of the visit, says anything of a product; what dried, was hot,
/// was never looked at or could not go further anyway says nothing.
/// </summary>
public static class Lessons
{
    /// <param name="entries">The run, in order.</param>
    public static IReadOnlyList<Lesson> Of(IEnumerable<RunEntry> entries)
    {
        var (state, done, open) = (RunState.Start, new List<Lesson>(), new Dictionary<(string Zone, int Kind), OpenLoop>());
        foreach (var e in entries)
        {
            foreach (var zone in e.Observation.Zones.Distinct())
            {
                if (e.Ground.Zone(zone) is { } z)
                {
                    Take(e, z, state, open, done);
                }
            }

            state = Run.Fold(state, e);
        }

        done.AddRange(open.Values.Select(l => l.End(false)));
        return done;
    }

    private static void Take(RunEntry e, ZoneState z, RunState state, Dictionary<(string, int), OpenLoop> open, List<Lesson> done)
    {
        var (o, c, id) = (e.Observation, e.Ground.Catalogue, z.Zone.Id);
        var step = e.Plan.Steps.FirstOrDefault(s => s.Key == o.StepKey && (o.Treatment is null || s.Treatment == o.Treatment))
            ?? (o.Treatment is null ? null : e.Plan.Steps.FirstOrDefault(s => s.Treatment == o.Treatment && s.Zones.Contains(id)));
        if (step is not null && o.Rounds > 0 && c.FindTreatment(step.Treatment) is { } t)
        {
            foreach (
                var (other, loop) in open.Where(x =>
                        x.Key.Item1 == id && x.Value.Treatment != t.Id && t.Removes.Any(r => r.Kind == x.Key.Item2)
                    )
                    .ToArray()
            )
            {
                // Something else took over: what it took of it nobody can tell apart.
                done.Add(loop.End(false));
                open.Remove(other);
            }

            if (ChiefOf(step, t, z, state, e.Ground) is { } kind)
            {
                var key = (id, kind);
                var now = open.GetValueOrDefault(key) ?? Open(step, t, kind, z, state, e);
                open[key] = now with { Rounds = now.Rounds + o.Rounds - (o.Dried ? 1 : 0), Excluded = now.Excluded ?? Spoilt(o, z, c) };
            }
        }

        if (o.Observe is not { } look || o.Result is not { } answer || Sense.Of(look, step?.Stage, c) is not { } sense)
        {
            return;
        }

        foreach (
            var (key, loop) in open.Where(x => x.Key.Item1 == id && x.Value.Look == look && sense.Speaks(null).Contains(x.Key.Item2))
                .ToArray()
        )
        {
            if (answer == Observation.Inconclusive)
            {
                open[key] = loop with { Excluded = loop.Excluded ?? "nobody could tell" };
            }
            else if (sense.Bands[0].Contains(answer))
            {
                done.Add(loop.End(true));
                open.Remove(key);
            }
            else if (loop.Rounds >= loop.Most)
            {
                done.Add((loop with { UsedUp = true }).End(false));
                open.Remove(key);
            }
        }
    }

    /// <summary>The kind that the look of a step speaks of and that its treatment is about; null = nobody looks.</summary>
    private static int? ChiefOf(Step step, Treatment t, ZoneState z, RunState state, RunGround ground)
    {
        if (
            !ground.Catalogue.Looks.TryGetValue(step.Stage, out var until)
            || Sense.Of(until.Observe, step.Stage, ground.Catalogue) is not { Kind: not (SenseKind.Wipe or SenseKind.Lumps) } sense
        )
        {
            return null;
        }

        var speaks = sense.Speaks(null);
        return t
            .Removes.Where(r => speaks.Contains(r.Kind) && Run.Believed(state, ground, z, r.Kind) is not null)
            .OrderByDescending(r => r.Decades.Value)
            .Select(r => (int?)r.Kind)
            .FirstOrDefault();
    }

    private static OpenLoop Open(Step step, Treatment t, int kind, ZoneState z, RunState state, RunEntry e)
    {
        var c = e.Ground.Catalogue;
        var strength = e.Observation.Strength is { } really ? Chemistry.ProductFraction.Of(really) : step.Strength;
        var minutes = e.Observation.DwellMinutes ?? step.On(z.Zone.Id)?.DwellMinutes;
        var levels = new int[Kinds.Count];
        Array.Fill(levels, Levels.Nil);
        var option = e.Ground.Builder.Free(
            t,
            t.IsClay ? t.Agent.Reference : strength,
            minutes is { Value: > 0 } m ? m.Value : null,
            e.Observation.FilmC,
            z,
            levels,
            step.Under
        );
        var effect = option.Exact.FirstOrDefault(x => x.Kind == kind);
        var believed = Run.Believed(state, e.Ground, z, kind)!;
        var need = Math.Log10(Math.Max(believed.Quantile(0.5), 1e-3) / c["band-low"]);
        var sense = Sense.Of(c.Looks[step.Stage].Observe, step.Stage, c)!;
        return new(
            step.BottleId,
            step.Agent,
            t.Id,
            z.Zone.Id,
            c.Contaminants[kind].Id,
            c.Looks[step.Stage].Observe,
            need,
            effect.Decades.Value / t.Agent.Efficacy,
            t.MaxRounds,
            LoopDatum.SpreadOf(c["learn-load"], sense.Spread),
            step.BottleId is null ? "no bottle of the shop was said"
                : z[kind].Basis != Basis.Found && !state.Of(z.Zone.Id).Looked.Contains(kind) ? "nobody had seen it before"
                : need <= 0 ? "little to begin with"
                : effect.FloorLoad > c["band-low"] ? "it does not reach clean, however often"
                : null
        );
    }

    private static string? Spoilt(Observation o, ZoneState z, Provenance.Catalogue c) =>
        o.Dried ? "it dried on the panel"
        : (o.FilmC ?? z.FilmC) > c["learn-hot"] ? "the panel was hot"
        : null;

    private sealed record OpenLoop(
        string? Bottle,
        string Agent,
        string Treatment,
        string Zone,
        string Kind,
        string Look,
        double Need,
        double PerRound,
        int Most,
        double Spread,
        string? Excluded
    )
    {
        public int Rounds { get; init; }
        public bool UsedUp { get; init; }

        public Lesson End(bool stopped) =>
            new(
                Bottle,
                Agent,
                Zone,
                Kind,
                new(Need, PerRound, Math.Max(1, Rounds), stopped, Spread),
                Excluded
                    ?? (
                        stopped || UsedUp
                            ? Rounds == 0
                                ? "no round was done"
                                : null
                            : "nobody looked at its end"
                    )
            );
    }
}
