using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Surfaces;

namespace ToughStart.Core.Chemistry;

/// <summary>How bad it is when two groups meet.</summary>
public enum Meeting
{
    /// <summary>One after the other with a rinse of the panel between; one product to a bottle.</summary>
    Rinse,

    /// <summary>A wash between.</summary>
    Wash,

    /// <summary>A full rinse of panel and tools between.</summary>
    FullRinse,

    /// <summary>Never in one bottle, bucket, cloth, panel, sump or drum; a full rinse of panel and tools between.</summary>
    Never,
}

/// <summary>A chemical group and the words people know it by.</summary>
public sealed record HazardGroup(string Id, string Name, Axis? Axis, string Words)
{
    internal static HazardGroup Read(Table.Row r) => new(r["id"], r["name"], Core.Axis.Maybe(r["axis"]), r["words"]);
}

/// <summary>What happens when two groups meet.</summary>
public sealed record MeetingRule(string A, string B, Meeting Meeting, string Reason)
{
    internal static MeetingRule Read(Table.Row r) =>
        new(
            r["a"],
            r["b"],
            r["relation"] switch
            {
                "never" => Meeting.Never,
                "full-rinse" => Meeting.FullRinse,
                "wash" => Meeting.Wash,
                "rinse" => Meeting.Rinse,
                var other => throw new InvalidDataException($"meetings: '{other}' is no relation"),
            },
            r["reason"]
        );
}

/// <summary>A hazard statement of data sheets.</summary>
/// <param name="Signal">Danger or warning; null = it calls for neither.</param>
/// <param name="Outdoes">Statements whose own pictogram it makes needless.</param>
/// <param name="Kit">What is worn at least.</param>
public sealed record HazardStatement(
    string Code,
    string Words,
    SignalWord? Signal,
    string? Pictogram,
    IReadOnlyList<string> Outdoes,
    bool Blocks,
    IReadOnlyList<string> Kit
)
{
    internal static HazardStatement Read(Table.Row r) =>
        new(
            r["code"],
            r["words"],
            Word(r["signal"]),
            r["pictogram"].Length == 0 ? null : r["pictogram"],
            r.Words("outdoes"),
            r["blocks"] == "yes",
            r.Words("kit")
        );

    private static SignalWord? Word(string word) =>
        word switch
        {
            "danger" => SignalWord.Danger,
            "warning" => SignalWord.Warning,
            _ => null,
        };
}

/// <summary>One reason of an answer, with the table it stands in and how far that can be trusted.</summary>
/// <param name="Refuses">It alone refuses; else it is a condition or a caution.</param>
public sealed record Because(string Words, bool Refuses, string Table, Standing Standing);

/// <summary>Where an agent is asked about.</summary>
/// <param name="Strength">On the panel; null = the reference of the class or label.</param>
/// <param name="FilmC">Temperature of the film on the panel, −20 to 90 °C; null = nobody measured.</param>
/// <param name="Protected">There is wax, sealant or coating worth keeping.</param>
public sealed record Circumstances(
    ProductFraction? Strength = null,
    double? FilmC = null,
    bool Protected = false,
    bool TestSpotPassed = false,
    bool RinsedAtOnce = false
)
{
    /// <summary>Temperature of the film, as measured or as it is taken where nobody measured, °C.</summary>
    public double Film => FilmC ?? Catalogue.Default["film-temperature"];
}

/// <summary>May this agent go on this surface?</summary>
/// <param name="Ruling">yes, care (allowed with conditions), test (only after a passed test spot) or no.</param>
public sealed record CompatibilityAnswer(
    string Agent,
    string Surface,
    string Ruling,
    IReadOnlyList<Because> Reasons,
    IReadOnlyList<string> Kit
)
{
    public bool Allowed => Ruling is "yes" or "care";

    /// <summary>The first reason that refuses, for a planner that needs one.</summary>
    public string? Refusal => Reasons.FirstOrDefault(r => r.Refuses)?.Words;
}

/// <summary>
/// The one matrix of agent × surface × strength × temperature × protection, and of agent after agent. The planner asks it, the
/// Compatibility page shows it; <see cref="DilutedPh"/> has no say in it.
/// </summary>
public sealed class Compatibility(Catalogue c)
{
    public static Compatibility Default { get; } = new(Catalogue.Default);

    /// <summary>
    /// Lowest and highest pH the agent can have at work: data sheet at working strength, else neat, else the extremes of the class.
    /// </summary>
    public static (double Low, double High, string Source) Harshest(Agent agent, ShelfBottle? bottle) =>
        bottle is { DataSheet: true, Ph: { } ph } ? (ph, ph, "data sheet, working strength")
        : bottle is { DataSheet: true, NeatPh: { } neat } ? (neat, neat, "data sheet, neat")
        : (agent.PhLow, agent.PhHigh, "extremes of the class");

    /// <summary>Why a bottle is never planned, whatever the surface; null = it may be.</summary>
    public Objection? Blocked(Agent agent, ShelfBottle? bottle)
    {
        if (bottle is { Fluoride: true })
        {
            return new(Cause.Fluoride, agent.Name);
        }

        if (
            bottle?.Hazards.Select(h => c.Statements.FirstOrDefault(s => s.Code == h)).FirstOrDefault(s => s is { Blocks: true }) is
            { } fatal
        )
        {
            return new(Cause.Statement, agent.Name, Detail: $"{fatal.Code}, {fatal.Words}");
        }

        return agent.Axis == Axis.Acid && bottle is not { DataSheet: true } ? new(Cause.NoDataSheet, agent.Name) : null;
    }

    /// <summary>The chemical ruling on a surface alone; null = allowed.</summary>
    /// <param name="margin">Run-off that is rinsed at once may pass the pH limit by this much.</param>
    public Objection? Refuses(Agent agent, ShelfBottle? bottle, Surface surface, bool testSpotPassed, double margin)
    {
        var s = surface.On(agent.Axis);
        if (s.Never)
        {
            return new(Cause.Never, agent.Name, surface.Name);
        }

        if (bottle is not null && bottle.Forbids.Intersect(surface.Ids).Any())
        {
            return new(Cause.LabelForbids, bottle.Name ?? agent.Name, surface.Name);
        }

        if (bottle is { Allows.Count: > 0 } && surface.Ids.Except(bottle.Allows).Any())
        {
            return new(Cause.LabelSilent, bottle.Name ?? agent.Name, surface.Name);
        }

        // Where nobody knows what it is, a test spot comes before any word on what it bears.
        if (surface.Ids.Count > 1 && s.TestSpot && !testSpotPassed)
        {
            return new(Cause.TestSpotFirst, agent.Name, surface.Name);
        }

        // No test spot makes a surface bear another pH: what it does not bear is refused before anybody is sent to try.
        var (low, high, _) = Harshest(agent, bottle);
        return agent.Axis != Axis.Solvent && low < surface.PhLow - margin ? new(Cause.PhBelow, agent.Name, surface.Name, surface.PhLow, low)
            : agent.Axis != Axis.Solvent && high > surface.PhHigh + margin
                ? new(Cause.PhAbove, agent.Name, surface.Name, surface.PhHigh, high)
            : s.TestSpot && !testSpotPassed ? new(Cause.TestSpotFirst, agent.Name, surface.Name)
            : null;
    }

    /// <summary>Heat: what may not go on a film this warm. Null = allowed.</summary>
    public Objection? TooHot(Agent agent, double filmC) =>
        agent.IsWater ? null
        : filmC > c["hot-panel"] ? new(Cause.HotPanel, agent.Name, null, c["hot-panel"], filmC)
        : filmC > c["hot-film"] && agent.Axis.IsHarsh ? new(Cause.HotFilm, agent.Name, null, c["hot-film"], filmC)
        : null;

    /// <summary>One cell of the matrix with every reason that bears on it.</summary>
    /// <exception cref="KeyNotFoundException">No such agent or surface.</exception>
    /// <exception cref="ArgumentOutOfRangeException">A film temperature outside −20 to 90 °C.</exception>
    public CompatibilityAnswer Ask(string agentId, string surfaceId, Circumstances? at = null, ShelfBottle? bottle = null)
    {
        at ??= new Circumstances();
        if (!(at.Film is >= -20 and <= 90))
        {
            throw new ArgumentOutOfRangeException(nameof(at), at.FilmC, "film temperature is -20 to 90 °C");
        }

        var (agent, surface) = (bottle is null ? c.Agent(agentId) : c.Agent(agentId).Under(bottle), c.Surface(surfaceId));
        var (agents, surfaces) = (c.Table("agents"), c.Table("surfaces"));
        var why = new List<Because>();
        if (agent.IsWater)
        {
            return new(
                agentId,
                surfaceId,
                "yes",
                [new Because("water: mind pressure and distance", false, "stand-off", c.Table("stand-off").Standing)],
                []
            );
        }

        if (bottle is not null && Blocked(agent, bottle) is { } blocked)
        {
            why.Add(new Because(blocked.Words, true, "hazard-statements", c.Table("hazard-statements").Standing));
        }

        var test = false;
        var refusal = Refuses(agent, bottle, surface, at.TestSpotPassed, at.RinsedAtOnce ? c["prewet-margin"] : 0);
        if (refusal is not null)
        {
            test = refusal.Cause == Cause.TestSpotFirst;
            why.Add(
                new Because(
                    refusal.Words,
                    !test,
                    refusal.Cause is Cause.LabelForbids or Cause.LabelSilent ? "label" : "surfaces",
                    surfaces.Standing
                )
            );
        }

        if (TooHot(agent, at.Film) is { } hot)
        {
            why.Add(new Because(hot.Words, true, "constants", Standing.CommonPractice));
        }

        if (at.Film < c["cold"])
        {
            why.Add(
                new Because($"below {c["cold"]:0} °C chemistry is slow and water freezes", false, "constants", Standing.CommonPractice)
            );
        }

        var strength = at.Strength ?? agent.Reference;
        if (strength.Value > agent.High.Value * (1 + c["same-strength"]))
        {
            why.Add(
                new Because(
                    $"{strength} is stronger than {(bottle is null ? "the class" : "its label")} goes ({agent.High})",
                    true,
                    bottle is null ? "agents" : "label",
                    agents.Standing
                )
            );
        }
        else if (strength.Value < agent.Low.Value * (1 - c["same-strength"]))
        {
            why.Add(
                new Because(
                    $"{strength} is weaker than {(bottle is null ? "the class" : "its label")} names ({agent.Low}): it may do nothing",
                    false,
                    bottle is null ? "agents" : "label",
                    agents.Standing
                )
            );
        }

        var (low, high, source) = Harshest(agent, bottle);
        if (agent.Axis != Axis.Solvent)
        {
            why.Add(
                new Because(
                    $"judged at pH {(low == high ? $"{low:0.#}" : $"{low:0.#} to {high:0.#}")} ({source}); "
                        + $"{surface.Name} bears {surface.PhLow:0.#} to {surface.PhHigh:0.#}",
                    false,
                    "surfaces",
                    surfaces.Standing
                )
            );
        }

        if (at.Protected && Loses(agent) is { } loss)
        {
            why.Add(new Because(loss, false, "treatments", c.Table("treatments").Standing));
        }

        if (agent.Axis == Axis.Acid)
        {
            why.Add(
                new Because(
                    "acid is the last resort: after non-acid has failed, never after iron remover without a full rinse of panel and tools",
                    false,
                    "meetings",
                    c.Table("meetings").Standing
                )
            );
        }

        if (agent.RunsOff)
        {
            why.Add(
                new Because(
                    "runs off and drifts: what lies below and beside it counts too (pre-wet, mask, or apply by cloth)",
                    false,
                    "constants",
                    Standing.ModelAssumption
                )
            );
        }

        if (agent.Care.Length > 0)
        {
            why.Add(new Because(agent.Care, false, "agents", agents.Standing));
        }

        var sensitivity = surface.On(agent.Axis) is { Never: false, TestSpot: false } v
            ? v.Value * agent.Level * (strength.Value / agent.Reference.Value)
            : 0;
        var ruling =
            why.Any(w => w.Refuses) ? "no"
            : test ? "test"
            : sensitivity >= 2 || agent.Axis == Axis.Acid || (at.Protected && Loses(agent) is not null) || at.Film < c["cold"] ? "care"
            : "yes";
        return new(agentId, surfaceId, ruling, why.OrderByDescending(w => w.Refuses).ToArray(), agent.Kit);
    }

    /// <summary>What a group meeting another calls for; both orders are the same.</summary>
    public (Meeting Meeting, string Reason) Meet(string groupA, string groupB) =>
        c.Meetings.FirstOrDefault(m => (m.A == groupA && m.B == groupB) || (m.A == groupB && m.B == groupA)) is { } rule
            ? (rule.Meeting, rule.Reason)
        : groupA == groupB ? (Meeting.Rinse, "same kind: one product to a bottle all the same")
        : (Meeting.Rinse, "rinse the panel between; one product to a bottle");

    /// <summary>The worst of what two sets of groups call for.</summary>
    public (Meeting Meeting, string Reason, string A, string B) Meet(IReadOnlyCollection<string> a, IReadOnlyCollection<string> b) =>
        a.SelectMany(x => b.Select(y => (Met: Meet(x, y), x, y)))
            .OrderByDescending(m => m.Met.Meeting)
            .Select(m => (m.Met.Meeting, m.Met.Reason, m.x, m.y))
            .First();

    /// <summary>Groups an agent belongs to, with those its label adds (bleach, ammonia, peroxide).</summary>
    public IReadOnlyList<string> GroupsOf(Agent agent, IEnumerable<string>? contains = null) =>
        [.. c.Groups.Where(g => g.Axis == agent.Axis).Select(g => g.Id), .. (contains ?? []).Where(id => c.Groups.Any(g => g.Id == id))];

    /// <summary>The never-together list in words, for the page and for the moment of mixing.</summary>
    public IReadOnlyList<string> NeverTogether(IReadOnlyCollection<string>? with = null) =>
        c
            .Meetings.Where(m => m.Meeting == Meeting.Never && (with is null || with.Contains(m.A) || with.Contains(m.B)))
            .Select(m => $"{Name(m.A)} + {Name(m.B)}: {m.Reason}")
            .ToArray();

    /// <summary>What is left on a panel by a group of the chemistry before, as the search knows it.</summary>
    public Left Forbids(Agent agent)
    {
        var own = GroupsOf(agent);
        (Left Left, string Group)[] known = [(Left.Reducer, "reducer"), (Left.Acid, "acid"), (Left.Alkali, "strong-alkali")];
        return own.Count == 0
            ? Left.None
            : known
                .Where(k => !own.Contains(k.Group) && Meet(own, [k.Group]).Meeting == Meeting.Never)
                .Aggregate(Left.None, (all, k) => all | k.Left);
    }

    private string Name(string group) => c.Groups.First(g => g.Id == group).Name;

    private string? Loses(Agent agent)
    {
        var protection = c.Contaminant("old-protection").Index;
        var worst = c
            .Treatments.Where(t => t.Agent.Id == agent.Id)
            .SelectMany(t => t.Removes)
            .Where(r => r.Kind == protection)
            .Select(r => r.Decades)
            .DefaultIfEmpty(0)
            .Max();
        return worst <= 0 ? null : $"takes protection with it: {(1 - Math.Pow(10, -worst)) * 100:0} % a round at reference strength";
    }
}
