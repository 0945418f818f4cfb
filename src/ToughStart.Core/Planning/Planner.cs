using ToughStart.Core.Chemistry;
using ToughStart.Core.Contamination;
using ToughStart.Core.Costing;
using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Planning;

/// <summary>Options of a planning call. The defaults are what the product uses.</summary>
/// <param name="Share">Share set-ups across zones.</param>
/// <param name="KeysOf">An earlier plan whose step keys are kept where the steps are the same work.</param>
/// <param name="TakenKeys">Keys of steps already done: never given to other work.</param>
/// <param name="Ordinary">What the ordinary judgement of a leaning job comes to; null = worked out here.</param>
public sealed record PlanOptions(bool Share = true, Plan? KeysOf = null, IReadOnlySet<string>? TakenKeys = null, Ordinary? Ordinary = null)
{
    /// <summary>How long it may go on.</summary>
    public Effort Effort { get; init; } = Effort.Unbounded;
}

/// <summary>What a job comes to when it leans nowhere: its passes, and how clean each zone gets.</summary>
public sealed record Ordinary(IReadOnlyList<PassKey> Passes, IReadOnlyDictionary<string, int[]> Finals);

/// <summary>
/// The heart of the product: survey in, staged plan out. A pure function; the same survey gives the same bytes. Re-planning after
/// an observation is the same call with a <see cref="Progress"/>.
/// </summary>
public static class Planner
{
    public static Plan Plan(Survey survey, Progress? progress = null, PlanOptions? options = null)
    {
        var c = CatalogueFor(survey);
        var vehicle = Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size);
        var hold = IntakeHold.Check(survey);
        var states = ZoneState.FromSurvey(survey, vehicle, c);
        if (hold.Count > 0)
        {
            return ReferOnly(survey, hold, states, c);
        }

        var conditions = states.Select(z => z.Conditions).FirstOrDefault(x => x is not null);
        progress ??= Progress.None;
        var job = new JobSearch(survey, c, states, progress, options);
        var found = job.Solve();
        var (builder, work, refusals) = (found.Builder, found.Work, found.Refusals);
        var assembly = new PlanAssembly(
            survey,
            job.Graph,
            builder,
            states,
            work,
            c,
            options?.KeysOf?.Steps.Where(s => options.TakenKeys?.Contains(s.Key) == true) ?? []
        );
        var steps = assembly.Steps(new StepKeys(options?.KeysOf, options?.TakenKeys));
        var tests = new TestPlanner(survey, builder, states, found, job, progress, c, options?.Effort ?? Effort.Unbounded).Plan();
        var caps = new CapPlanner(builder, states, found, job.Graph, progress, c, options?.Effort ?? Effort.Unbounded).Plan();
        var outlook = Outlook.Of(survey, steps, work, tests, caps, builder, job.Graph, c);
        steps = outlook.Steps;
        return new Plan(
            survey.Goal,
            Planning.Plan.Engine,
            c.Version,
            SurveyFormat.Hash(survey),
            conditions is null ? c["film-temperature"] : Math.Round(states.Average(z => z.FilmC)),
            conditions is null ? "not computed" : "computed",
            false,
            steps,
            assembly.Skipped(),
            assembly.Refused(refusals),
            assembly.Refer(refusals),
            outlook.Tests,
            assembly.Unverified(progress),
            assembly.Warnings(steps),
            assembly.Closing(),
            found.OfUnits.All(s => s.Proved) && options?.Effort.IsEnough != true,
            outlook.Totals,
            outlook.Best,
            assembly.Traces(steps)
        )
        {
            Conditions = conditions?.InWords() ?? [],
            Opening = assembly.Opening(),
            Media = MediaCount.Of(steps, vehicle, c),
            Worlds = outlook.Worlds,
        };
    }

    /// <summary>How near a survey's plan is to the best there is. Takes a few times as long as the plan.</summary>
    public static Proof Prove(Survey survey, Effort? effort = null)
    {
        if (IntakeHold.Check(survey).Count > 0)
        {
            return new(0, 0, 0, 0);
        }

        var job = new JobSearch(survey, options: new PlanOptions { Effort = effort ?? Effort.Unbounded });
        var found = job.Solve();
        var (cost, atLeast) = job.Bounds(found);
        return new(found.Solutions.Count, found.Solutions.Count(s => s.Proved), cost / 1000.0, atLeast / 1000.0);
    }

    /// <summary>The catalogue with the labels of the survey's shelf over it.</summary>
    public static Catalogue CatalogueFor(Survey survey) =>
        Limits.PickShelf(survey) is { } picked ? Catalogue.Default.Under(picked.Values) : Catalogue.Default;

    private static Plan ReferOnly(Survey survey, IReadOnlyList<Refer> refer, IReadOnlyList<ZoneState> states, Catalogue c)
    {
        var traces = states
            .Select(z => new ZoneTrace(
                z.Zone.Id,
                z.Beliefs.Where(b => b.Load > 0).ToDictionary(b => b.Kind.Id, b => b.Load),
                [],
                new Dictionary<string, double>()
            ))
            .ToArray();
        var nil = new Range(0, 0, 0);
        return new Plan(
            survey.Goal,
            Planning.Plan.Engine,
            c.Version,
            SurveyFormat.Hash(survey),
            c["film-temperature"],
            "not computed",
            true,
            [],
            [],
            [],
            refer,
            [],
            states.Select(z => z.Zone.Id).ToArray(),
            [
                "Nothing is planned until a named person clears this. Do not wet, brush or blow anything.",
                "Keep people and animals away; wash hands; note who has been near it.",
            ],
            [],
            true,
            new Totals(nil, nil, nil, nil, nil, new Dictionary<string, double>(), 0),
            null,
            traces
        );
    }
}

/// <summary>The hold at intake: what must be released by a named person before any step.</summary>
public static class IntakeHold
{
    /// <summary>Reasons that allow no step; empty when work may start.</summary>
    public static IReadOnlyList<Refer> Check(Survey s)
    {
        var refer = new List<Refer>();
        bool Released(string hold) => s.History.Releases.Any(r => r.Hold == hold);
        if (s.History.Flood is "sewage" or "unknown" && !Released("flood-hygiene"))
        {
            refer.Add(
                new Refer(
                    ["*"],
                    "flood-hygiene",
                    s.History.Flood == "sewage"
                        ? "Sewage flood: a hygiene contractor clears the vehicle first. Sewage carries disease; soft trim, "
                            + "ducts and seams hold it."
                        : "Flood water of unknown origin is treated as sewage until someone named clears it."
                )
            );
        }

        if (s.History.IsFlooded && !Released("flood-workshop"))
        {
            refer.Add(
                new Refer(
                    ["*"],
                    "flood-workshop",
                    "Flooded: battery, brakes, airbags and electrics are released by a workshop before any wash."
                )
            );
        }

        if (s.History.IsFlooded && s.Vehicle.Powertrain is ("hybrid" or "electric") && !Released("high-voltage"))
        {
            refer.Add(
                new Refer(
                    ["*"],
                    "high-voltage",
                    "High-voltage vehicle that stood in water: do not touch, wash or bring it indoors. "
                        + "Keep it apart from buildings; maker or fire service."
                )
            );
        }

        if (s.History.Biological && !Released("biological"))
        {
            refer.Add(
                new Refer(["*"], "biological", "Blood, needles or the like: a specialist clears it first. Touch nothing; keep others away.")
            );
        }

        if (s.History.Nests && !Released("nests"))
        {
            refer.Add(
                new Refer(
                    ["*"],
                    "nests",
                    "Rodent nest or droppings: never brush, blow or vacuum them dry. Air the space, "
                        + "gloves and fitted respirator (FFP3 or P100), soak with disinfectant by its label, lift wet, double bag; "
                        + "then record who did it."
                )
            );
        }

        return refer;
    }
}

/// <summary>One treatment of one zone as it will happen, with the levels before and after, and what all its rounds cost.</summary>
public sealed record Deed(
    Slot Slot,
    Treatment Treatment,
    ProductFraction Strength,
    int StrengthIndex,
    int Rounds,
    int[] Before,
    int[] After,
    Option Option,
    RoundCost Cost
);

/// <summary>A zone's solution played back through the same transition the search used.</summary>
public sealed record ZoneWork(ZoneState State, ZoneProblem Problem, ZoneSolution Solution, IReadOnlyList<Deed> Deeds, int[] Final)
{
    public static ZoneWork Replay(ZoneState state, ZoneProblem problem, ZoneSolution solution, Catalogue c)
    {
        Span<byte> levels = stackalloc byte[32];
        levels.Fill(Levels.Nil);
        for (var k = 0; k < Kinds.Count; k++)
        {
            levels[k] = (byte)problem.Start[k];
        }

        var left = problem.LeftAtStart;
        var deeds = new List<Deed>();
        foreach (var choice in solution.Choices)
        {
            var option = problem.Stages[choice.Stage].Options[choice.Option];
            var before = Ints(levels);
            var cost = default(RoundCost);
            for (var round = 1; round <= choice.Rounds; round++)
            {
                cost += Round.Apply(problem, option, levels, ref left);
            }

            var t = c.Treatments[option.Treatment];
            deeds.Add(
                new Deed(
                    c.Slots[problem.Stages[choice.Stage].Slot],
                    t,
                    t.Agent.Strengths[option.Strength],
                    option.Strength,
                    choice.Rounds,
                    before,
                    Ints(levels),
                    option,
                    cost
                )
            );
        }

        return new ZoneWork(state, problem, solution, deeds, Ints(levels));
    }

    /// <summary>Hands-on minutes of one round of a deed.</summary>
    public static double LabourPerRound(Deed d, ZoneState z, Catalogue c) =>
        ProblemBuilder.LabourOf(d.Treatment, d.Option.Unrinsed, c)
            * (d.Treatment.Contact == Contact.None ? 1 : z.Zone.Kind.Access)
            * z.Zone.Area
            * d.Option.Scale
        + d.Option.Cooling.Minutes
        + c["reach"];

    /// <summary>Hands-on minutes of all rounds.</summary>
    public static double Labour(Deed d, ZoneState z, Catalogue c) => d.Rounds * LabourPerRound(d, z, c);

    /// <summary>Millilitres of solution on the panels, all rounds.</summary>
    public static double SolutionMl(Deed d, ZoneState z) =>
        d.Rounds * d.Treatment.SolutionMl * d.Option.Laid * z.Zone.Area * d.Option.Scale;

    /// <summary>Millilitres of neat product on the panels, all rounds, from whatever bottle it is poured.</summary>
    public static double NeatMl(Deed d, ZoneState z, Limits limits) =>
        limits.Poured(d.Treatment, d.Strength) is var (agent, strength) && agent.IsWater ? 0 : SolutionMl(d, z) * strength.Value;

    /// <summary>What that costs to buy.</summary>
    public static double Price(Deed d, ZoneState z, Limits limits) =>
        NeatMl(d, z, limits) / 1000 * limits.Poured(d.Treatment, d.Strength).Agent.Price;

    /// <summary>Millilitres of neat product one round of an option takes, with what is wasted.</summary>
    public static double NeatPerRound(Option o, ZoneState z, ProductFraction strength, Catalogue c) =>
        c.Treatments[o.Treatment].SolutionMl * o.Laid * z.Zone.Area * o.Scale * strength.Value * (1 + c["waste"]);

    /// <summary>Litres of water, all rounds.</summary>
    public static double Water(Deed d, ZoneState z) =>
        d.Option.Unrinsed ? 0 : d.Rounds * (d.Treatment.WaterLitres * z.Zone.Area * d.Option.Scale + d.Option.Cooling.Litres);

    private static int[] Ints(ReadOnlySpan<byte> levels)
    {
        var result = new int[Kinds.Count];
        for (var k = 0; k < result.Length; k++)
        {
            result[k] = levels[k];
        }

        return result;
    }
}
