using ToughStart.Core.Contamination;
using ToughStart.Core.Planning;

namespace ToughStart.Core.Running;

/// <summary>Another round, or stop: what each comes to on one zone, minutes of cost.</summary>
/// <param name="Kind">The kind that most speaks for going on.</param>
/// <param name="Stop">What stopping now leaves to be expected.</param>
/// <param name="Round">What one more round costs, and what is then still to be expected.</param>
/// <param name="AtCap">The cap of the visit is reached: no more rounds, whatever they would bring.</param>
/// <param name="Again">One more round.</param>
/// <param name="Chance">Probability that it is on target now (a tenth of a decade over counts as on it).</param>
/// <param name="Then">The same after one more round.</param>
/// <param name="Words">Why, in a sentence.</param>
public sealed record LoopEnd(
    string Zone,
    WorkDone Work,
    int Kind,
    double Stop,
    double Round,
    bool AtCap,
    bool Again,
    double Chance,
    double Then,
    string Words
);

/// <summary>
/// Ends loops by what they are worth, not by the word of an answer: one more round if what it costs and leaves is less than what stopping
/// leaves. Looking one round ahead decides the same as looking at every tree of answers, in all loops tried.
/// </summary>
public static class Loops
{
    /// <summary>
    /// The loops of a zone that somebody has looked at since the last round. Where nobody looks the planned rounds are all there are; a cloth
    /// after pre-wash or foam speaks of grit, and whether a hand may follow is a load limit, not a matter of worth.
    /// </summary>
    public static IReadOnlyList<LoopEnd> Of(RunState state, RunGround ground, ZoneState z)
    {
        var run = state.Of(z.Zone.Id);
        return
        [
            .. run
                .Work.GroupBy(w => w.Value with { Looked = false })
                .Select(g => End(run, ground, z, g.Key with { Looked = g.Any(w => w.Value.Looked) }, [.. g.Select(w => w.Key).Order()]))
                .OfType<LoopEnd>(),
        ];
    }

    /// <summary>One more round, or stop.</summary>
    /// <param name="believed">What is believed of each kind.</param>
    /// <param name="targets">Load each is to come down to.</param>
    /// <param name="perDecade">What a decade left on the zone costs, minutes.</param>
    /// <param name="round">What one more round costs, minutes, with its trouble.</param>
    /// <param name="after">What one more round makes of the beliefs.</param>
    public static (double Stop, double Round) Compare(
        IReadOnlyList<LoadBelief> believed,
        IReadOnlyList<double> targets,
        double perDecade,
        double round,
        IReadOnlyList<LoadBelief> after
    ) =>
        (perDecade * believed.Zip(targets, (b, t) => b.Over(t)).Sum(), round + (perDecade * after.Zip(targets, (b, t) => b.Over(t)).Sum()));

    private static LoopEnd? End(ZoneRun run, RunGround ground, ZoneState z, WorkDone work, int[] kinds)
    {
        var c = ground.Catalogue;
        if (
            !work.Looked
            || !c.Looks.TryGetValue(work.Stage, out var until)
            || Sense.Of(until.Observe, work.Stage, c) is not { Kind: not SenseKind.Wipe } sense
        )
        {
            return null;
        }

        var aims = kinds
            .Where(k =>
                run.Work[k].Looked
                && run.Beliefs[k] is not null
                && ground.Builder.TargetLoad(k, z) is > 0
                && (sense.Answered || sense.Speaks(null).Contains(k))
            )
            .ToArray();
        if (aims.Length == 0 || c.FindTreatment(work.Treatment) is not { } treatment)
        {
            return null;
        }

        var problem = ground.Ground(z);
        Span<byte> levels = stackalloc byte[32];
        run.LevelsOf(ground, z, levels);
        var beliefs = Enumerable.Range(0, Kinds.Residue).Select(k => run.Beliefs[k] ?? ground.Prior(z, k)).ToArray();
        var option = ground.Builder.Free(
            treatment,
            work.Strength,
            work.Minutes,
            work.FilmC,
            z,
            [.. levels.ToArray().Select(n => (int)n)],
            work.Under
        );
        var left = run.Left;
        var next = beliefs.ToArray();
        Round.Apply(problem, option, levels, next, c.Response, []);
        var minutes = Round.Apply(problem, option, levels, ref left).Total / 1000.0;
        double[] targets = [.. aims.Select(k => ground.Builder.TargetLoad(k, z)!.Value)];
        LoadBelief[] now = [.. aims.Select(k => beliefs[k]!)],
            then = [.. aims.Select(k => next[k]!)];
        var (stop, round) = Compare(now, targets, ground.Builder.ShortfallPerDecade(z), minutes + c["round-trouble"], then);
        var cap = treatment.MaxRounds - ground.Builder.SpentThisVisit(treatment, run.Rounds);
        var most = Enumerable.Range(0, aims.Length).MaxBy(i => now[i].Over(targets[i]));
        var (chance, better) = (now[most].AtMost(c["near-target"] * targets[most]), then[most].AtMost(c["near-target"] * targets[most]));
        var again = round < stop && cap > 0;
        return new(
            z.Zone.Id,
            work,
            aims[most],
            stop,
            round,
            cap <= 0,
            again,
            chance,
            better,
            Say(ground, run, work, aims[most], cap <= 0, again, round < stop, chance, better)
        );
    }

    private static string Say(
        RunGround ground,
        ZoneRun run,
        WorkDone work,
        int kind,
        bool atCap,
        bool again,
        bool worth,
        double chance,
        double better
    )
    {
        var c = ground.Catalogue;
        var word = run.Seen.GetValueOrDefault(c.Looks[work.Stage].Observe);
        var seen = word is null ? $"{c.Contaminants[kind].Name}: " : $"{c.Contaminants[kind].Name} \"{word}\": ";
        var now = FormattableString.Invariant($"clean enough in {100 * chance:0} of 100 such cases");
        var then = FormattableString.Invariant($"after one more round in {100 * better:0}");
        return again ? $"{seen}{now}, {then}: one more"
            : atCap && worth ? $"{seen}{now}, and no round is left in this visit: change tack"
            : chance < 0.5 ? $"{seen}{now}, {then}: another of the same does not pay"
            : $"{seen}{now}: stop";
    }
}
