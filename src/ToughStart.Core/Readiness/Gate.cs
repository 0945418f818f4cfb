using ToughStart.Core.Contamination;
using ToughStart.Core.Planning;
using ToughStart.Core.Running;
using ToughStart.Core.Running.Live;

namespace ToughStart.Core.Readiness;

/// <summary>What the gate says of a zone.</summary>
public enum GateWord
{
    /// <summary>As clean, bare and smooth as its goal asks, and proven so.</summary>
    Ready,

    /// <summary>Another round pays.</summary>
    Repeat,

    /// <summary>No washing will cure it: somebody else's trade, or the polish.</summary>
    Refer,

    /// <summary>Something is missing. Not looked is not clean.</summary>
    Unverified,

    /// <summary>Nobody touches it, by the client's wish.</summary>
    LeftAlone,
}

/// <summary>Somebody looked and could tell.</summary>
/// <param name="Elsewhere">On another spot than whoever looked before.</param>
public sealed record Seen(string Who, string Answer, string? Spot, bool Elsewhere, int Number);

/// <summary>One check of a zone, as far as it was made since the last work on what it speaks of.</summary>
/// <param name="Waits">Why nobody could tell when it was tried last; null = it was not tried, or somebody could.</param>
/// <param name="Doubted">What was seen last was so unlikely that it changes nothing until another spot says the same.</param>
public sealed record GateCheck(GateLook Asked, IReadOnlyList<Seen> Looks, string? Waits, bool Doubted)
{
    public bool Made => Looks.Count > 0;

    /// <summary>A second look that does not merely repeat the first: on another spot.</summary>
    public Seen? Second => Looks.Skip(1).FirstOrDefault(l => l.Elsewhere || (l.Spot is not null && l.Spot != Looks[0].Spot));

    /// <summary>What is missing; null = nothing.</summary>
    public string? Missing =>
        Waits is not null ? $"could not tell, {Formats.SurveyWords.SayBecause(Waits)}: look again"
        : !Made ? "not looked"
        : Doubted ? "that was unlikely: look once more, on another spot"
        : Asked.Second && Second is null ? "second look, on another spot"
        : null;
}

/// <summary>Damage that was found on a zone. It is not dirt, and no washing takes it away.</summary>
/// <param name="Kind">One of the survey's words for damage.</param>
/// <param name="Nail">A nail catches in it.</param>
public sealed record Flaw(string Zone, string Kind, bool Nail);

/// <summary>The gate's word on a zone, and why.</summary>
/// <param name="Goal">What it is made ready for; null = it is left alone.</param>
/// <param name="Fine">How surely it is clean enough.</param>
/// <param name="Why">The reasons, the gravest first.</param>
/// <param name="Again">Stage to repeat.</param>
/// <param name="To">Whom it goes to.</param>
public sealed record ZoneVerdict(
    string Zone,
    GateWord Word,
    Goal? Goal,
    Fineness Fine,
    IReadOnlyList<GateCheck> Checks,
    IReadOnlyList<string> Why,
    Stage? Again = null,
    string? To = null
);

/// <summary>
/// The post-wash inspection. A zone is ready when every check that its goal asks for was made since the last work, on a second spot where that
/// is wanted, and what is believed of it is fine enough; unverified while anything is missing; else it is repeated if another round pays, or
/// referred. Damage is somebody else's from the start.
/// </summary>
public static class Gate
{
    /// <summary>Every zone of the vehicle.</summary>
    /// <param name="plan">In force; null = none is.</param>
    public static IReadOnlyList<ZoneVerdict> Of(RunGround ground, RunState state, LiveState live, IReadOnlyList<Flaw> flaws, Plan? plan) =>
        [.. ground.States.Select(z => Judge(ground, state, live, flaws, plan, z))];

    /// <summary>Zones called ready that are not, as things are believed: the sum of what is left of doubt.</summary>
    public static double ExpectedWrong(IEnumerable<ZoneVerdict> verdicts) =>
        verdicts.Where(v => v.Word == GateWord.Ready).Sum(v => 1 - v.Fine.Chance);

    /// <summary>Checks that the goal of a zone asks for.</summary>
    public static IReadOnlyList<GateLook> Asked(RunGround ground, ZoneState z) =>
        z.LeftAlone
            ? []
            :
            [
                .. ground.Catalogue.GateLooks.Where(g =>
                    g.Kind is { } k
                        ? ground.Catalogue.Contaminants[k].CanSitOn(z.Family) && ground.Builder.TargetLoad(k, z) is > 0 and < 1
                        : z.GoalIn(ground.Survey).GoesOn
                ),
            ];

    private static ZoneVerdict Judge(RunGround ground, RunState state, LiveState live, IReadOnlyList<Flaw> flaws, Plan? plan, ZoneState z)
    {
        var (id, run) = (z.Zone.Id, state.Of(z.Zone.Id));
        var fine = run.FinenessOf(ground, z);
        if (z.LeftAlone)
        {
            return new(id, GateWord.LeftAlone, null, fine, [], ["left alone, by the client's wish"]);
        }

        var goal = z.GoalIn(ground.Survey);
        GateCheck[] checks = [.. Asked(ground, z).Select(a => Check(ground, run, live, id, a))];
        ZoneVerdict Say(GateWord word, IEnumerable<string> why, Stage? again = null, string? to = null) =>
            new(id, word, goal, fine, checks, [.. why], again, to);

        if (live.Zones.Any(p => Live.ZoneOf(p.Key) == id && p.Value.Lines.Count > 0))
        {
            return Say(GateWord.Unverified, ["still wet: rinse it, dry it, then look"]);
        }

        if (flaws.Where(f => f.Zone == id).Select(f => Referral.Of(f)).FirstOrDefault(r => r is not null) is { } referral)
        {
            return Say(GateWord.Refer, [referral.Why], to: referral.To);
        }

        if (!goal.GoesOn)
        {
            return Say(GateWord.Unverified, ["washed only: nobody checked whether anything may go on it"]);
        }

        var chance = FormattableString.Invariant($"clean enough in {Math.Floor(100 * fine.Chance):0} of 100 such cases");
        var wanted = FormattableString.Invariant($"ready needs {100 * ground.Catalogue["fine-enough"]:0}");
        string[] missing =
        [
            .. checks
                .Where(c => c.Missing is not null)
                .GroupBy(c => c.Missing!)
                .Select(g => $"{string.Join(", ", g.Select(c => c.Asked.Look))}: {g.Key}"),
        ];
        if (checks.Any(c => c.Asked.Kind is null && c.Looks is [.., { Answer: GateLook.Dirt }]))
        {
            return Say(GateWord.Repeat, ["dirt shows under the lamp: wash it once more", chance], Stage.ContactWash);
        }

        string[] todo = fine.Sure ? [] : [.. ToDo(run, live, plan, id)];
        if (checks.Any(c => !c.Made || c.Waits is not null || c.Doubted))
        {
            return Say(GateWord.Unverified, [.. todo, .. missing]);
        }

        // Of the loops that pay, the one that gains most.
        if (!fine.Sure && Loops.Of(state, ground, z).Where(l => l.Again).MaxBy(l => l.Stop - l.Round) is { } loop)
        {
            return Say(GateWord.Repeat, [loop.Words, $"{chance}, {wanted}"], loop.Work.Stage);
        }

        // A second look may still make it sure, unless what it does not speak of never will be.
        var open = checks.Where(c => c.Missing is not null).SelectMany(c => Speaks(ground, c.Asked)).ToHashSet();
        return missing.Length > 0 && run.FinenessOf(ground, z, open).Sure
                ? Say(GateWord.Unverified, [.. missing, fine.Sure ? chance : $"{chance}, {wanted}"])
            : fine.Sure ? Say(GateWord.Ready, [chance])
            : todo.Length > 0 ? Say(GateWord.Unverified, [.. todo, $"{chance}, {wanted}"])
            : Say(GateWord.Refer, [$"{chance}, {wanted}, and no further round pays", .. Left(ground, run, z)], to: Onward(goal));
    }

    /// <summary>Planned on the zone, and neither done nor left out, in a sentence; none = all of it is.</summary>
    private static IEnumerable<string> ToDo(ZoneRun run, LiveState live, Plan? plan, string zone)
    {
        string[] open =
        [
            .. (plan?.Steps ?? [])
                .Where(s => s.Stage != Stage.Dry && s.Zones.Contains(zone) && run.Steps.GetValueOrDefault(s.Key).Done == 0)
                .Where(s => !live.Zones.TryGetValue(zone, out var z) || !z.Skipped.ContainsKey(s.Key))
                .Select(s => s.Name)
                .Distinct(),
        ];
        return open.Length == 0 ? [] : [$"still to do here: {string.Join(", ", open)}"];
    }

    /// <summary>What washing has come to its end with goes to the polish where there is one.</summary>
    private static string Onward(Goal goal) => goal == Goal.Correct ? "the correction" : "a correction that was not asked for";

    /// <summary>The kinds that are most surely too much, in words.</summary>
    private static IEnumerable<string> Left(RunGround ground, ZoneRun run, ZoneState z) =>
        Enumerable
            .Range(0, Kinds.Residue)
            .Where(k => ground.Builder.TargetLoad(k, z) is > 0)
            .Select(k => (Kind: k, Believed: run.Beliefs[k] ?? ground.Prior(z, k), Target: ground.Builder.TargetLoad(k, z)!.Value))
            .Where(k => k.Believed is not null)
            .Select(k => (k.Kind, Chance: Fineness.Of([(k.Believed!, k.Target)]).Chance))
            .Where(k => k.Chance < ground.Catalogue["fine-enough"])
            .OrderBy(k => k.Chance)
            .Take(2)
            .Select(k =>
                FormattableString.Invariant($"{ground.Catalogue.Contaminants[k.Kind].Name} stays in {100 * (1 - k.Chance):0} of 100")
            );

    /// <summary>What the log has of a check since the last work on what it speaks of.</summary>
    private static GateCheck Check(RunGround ground, ZoneRun run, LiveState live, string zone, GateLook asked)
    {
        var speaks = asked.Kind is null ? [] : Speaks(ground, asked);
        var (looks, waits) = (new List<Seen>(), (string?)null);
        var facts = live.Facts.Where(f => Live.ZoneOf(f.Key) == zone).SelectMany(f => f.Value).DistinctBy(f => f.Id);
        foreach (var fact in facts.OrderBy(f => f.When.At).ThenBy(f => f.Event.Number).Where(f => !live.Undone.ContainsKey(f.Id)))
        {
            var b = fact.Event.Body;
            if (Works(ground, fact.Event, speaks, asked.Kind is null))
            {
                looks.Clear();
                waits = null;
            }

            if (b.Observe != asked.Look || b.Result is null)
            {
                continue;
            }

            // Read over a round that dried or nobody is sure of, it says nothing.
            var isVoid =
                live.Zones.TryGetValue(zone, out var z)
                && z.Looks.TryGetValue(asked.Look, out var l)
                && l is { Void: true } v
                && v.Number == fact.Event.Number;
            if (b.Result == Observation.Inconclusive || isVoid)
            {
                waits = b.Because ?? "dried";
            }
            else
            {
                waits = null;
                looks.Add(new(fact.Event.Who, b.Result, b.Spot, b.Elsewhere, fact.Event.Number));
            }
        }

        return new(asked, looks, waits, run.Again.TryGetValue(asked.Look, out var again) && again.Surprise is not null);
    }

    private static IReadOnlyList<int> Speaks(RunGround ground, GateLook asked) =>
        Sense.Of(asked.Look, null, ground.Catalogue)?.Speaks(null) ?? [];

    /// <summary>Was anything done to what a look speaks of? After any work at all one looks for damage anew.</summary>
    private static bool Works(RunGround ground, LogEvent e, IReadOnlyList<int> speaks, bool any) =>
        (e.Kind is LogKind.Applied or LogKind.Worked || (e.Kind == LogKind.Observed && e.Body.Rounds > 0))
        && e.Body.Treatment is { } id
        && ground.Catalogue.FindTreatment(id) is { } t
        && (any || t.Removes.Any(r => speaks.Contains(r.Kind)));
}

/// <summary>Damage that is not the detailer's: whom it goes to.</summary>
public sealed record Referral(string Why, string To)
{
    /// <summary>Null = a polish takes care of it, or it is only noted.</summary>
    public static Referral? Of(Flaw flaw) =>
        (flaw.Kind, flaw.Nail) switch
        {
            ("clear-coat-failure", _) => new("the clear coat has failed: no washing and no polish brings it back", "a painter"),
            ("own-rust", _) => new("the vehicle's own rust: never chased with iron remover", "a body workshop"),
            ("dent", _) => new("a dent", "a body workshop"),
            ("cracked-lacquer", _) => new("cracked lacquer: nothing strong, nothing abrasive", "a wheel refinisher"),
            ("failed-lens", _) => new("the lens has failed", "a lens refinisher, or a new lens"),
            ("chip", true) => new("chipped through: touch-up before anything is polished", "touch-up"),
            ("scratch" or "etch", true) => new("deep enough to catch a nail: polishing it out may go through", "a painter"),
            _ => null,
        };
}
