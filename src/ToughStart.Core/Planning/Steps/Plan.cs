using ToughStart.Core.Chemistry;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Planning;

/// <summary>What one job in ten stays under, what half do, and what nine in ten do.</summary>
public readonly record struct Range(double Low, double Expected, double High)
{
    public double Width => High - Low;
}

/// <summary>What one step does to one kind on one zone, loads before and after.</summary>
public sealed record Answer(string Zone, string Contaminant, double Before, double After);

/// <summary>What ends a step, what repeats it, and what follows when it does not end.</summary>
public sealed record Until(string Observe, IReadOnlyList<string> Stop, IReadOnlyList<string> Repeat, int MaxRounds, string Then);

/// <summary>What to pour: into which vessel, at what fraction in the vessel, for the whole step.</summary>
/// <param name="InVessel">Fraction in the vessel; richer than on the panel when a lance dilutes it again.</param>
/// <param name="OnPanelLow">With an uncalibrated lance: the poorest the panel may get; equal to the strength otherwise.</param>
public sealed record Mix(
    string Vessel,
    ProductFraction InVessel,
    Millilitres ProductMl,
    Millilitres WaterMl,
    StrengthBasis Basis,
    bool Calibrated,
    double OnPanelLow,
    double OnPanelHigh
)
{
    /// <summary>A bottle that holds this mix already; use it before mixing anew.</summary>
    public Leftover? Leftover { get; init; }

    /// <summary>Of the mix, what panels take, ml; the rest is there because nobody mixes a thimbleful.</summary>
    public Millilitres NeedMl
    {
        get => field.Value > 0 ? field : ProductMl + WaterMl;
        init;
    }
}

/// <summary>Zones of a step that take the same rounds in the same way.</summary>
/// <param name="LabourMinutes">Hands-on minutes on them; making ready counts with the first portion.</param>
/// <param name="DwellMinutes">How long it stays on them.</param>
/// <param name="Over">The agent it seals there; both come off in one rinse. Null = none.</param>
public sealed record Portion(
    IReadOnlyList<string> Zones,
    int Rounds,
    Minutes LabourMinutes,
    double WaterLitres,
    Millilitres ProductMl,
    Minutes DwellMinutes,
    string? Over
);

/// <summary>A zone of a step, for whoever lays work out in time.</summary>
/// <param name="Seconds">Hands-on seconds of one round.</param>
/// <param name="Area">What the step covers of it.</param>
/// <param name="UsableSeconds">How long its film may be planned to stay wet; null = drying is not computed or plays no part.</param>
public sealed record StepZone(string Zone, double Seconds, SquareMetres Area, double? UsableSeconds);

/// <summary>Hot panels that are rinsed cool right before a step's chemistry, every round; its minutes and litres count with the step's.</summary>
/// <param name="HottestC">The hottest of them as it stands, °C.</param>
public sealed record Cooling(IReadOnlyList<string> Zones, double HottestC, Minutes Minutes, double Litres)
{
    public string Words =>
        $"{ZoneWords.Of(Zones).Capital()}, up to {HottestC:0} °C: rinse cool right before{HowMuch}. Never hot glass, discs or exhaust.";

    private string HowMuch =>
        Minutes < 0.1 ? ", a moment's work" : FormattableString.Invariant($", {Minutes.Value:0.#} min and {Litres:0} l in all");
}

/// <summary>
/// A step is what a person would call one: a way round the vehicle with one thing in hand. How often each zone takes it stands in <see cref="Per"/>.
/// </summary>
public sealed record Step(
    string Key,
    IReadOnlyList<string> After,
    Stage Stage,
    Place Slot,
    Block Block,
    string Treatment,
    string Name,
    string Agent,
    string AgentName,
    ProductFraction Strength,
    AgentCarrier Carrier,
    Mix? Mix,
    int Rounds,
    Minutes DwellMinutes,
    Minutes MaxDwellMinutes,
    string Tool,
    IReadOnlyList<string> Zones,
    IReadOnlyList<Answer> Answers,
    IReadOnlyList<string> Why,
    Until? Until,
    IReadOnlyList<string> Cautions,
    IReadOnlyList<string> Kit,
    Minutes LabourMinutes,
    Minutes WaitMinutes,
    double WaterLitres,
    Millilitres ProductMl,
    double Money
)
{
    /// <summary>
    /// What each of its zones takes, fewest rounds first: a step is what a person would call one, done once all over and again where it is wanted.
    /// </summary>
    public IReadOnlyList<Portion> Per
    {
        get => field is { Count: > 0 } ? field : [new(Zones, Rounds, LabourMinutes, WaterLitres, ProductMl, DwellMinutes, Over)];
        init;
    }

    /// <summary>Its zones one by one, in the order of <see cref="Zones"/>; empty in plans of an older engine.</summary>
    public IReadOnlyList<StepZone> Parts { get; init; } = [];

    /// <summary>The way round the vehicle it belongs to: block, place in the order, treatment and strength; the same from one plan to the next.</summary>
    public string Pass =>
        string.Create(
            System.Globalization.CultureInfo.InvariantCulture,
            $"{(Block == Block.Wheels ? "wheels" : "body")}/{Slot}/{Treatment}@{Strength.Value:0.######}{(Under ? "/under" : "")}"
        );

    /// <summary>Rounds it takes on a zone; 0 where it is not done.</summary>
    public int RoundsOn(string zone) => On(zone)?.Rounds ?? 0;

    /// <summary>What it is on a zone; null where it is not done.</summary>
    public Portion? On(string zone) => Per.FirstOrDefault(p => p.Zones.Contains(zone));

    /// <summary>Rounds that every one of its zones takes.</summary>
    public int AtLeast => Per.Min(p => p.Rounds);

    /// <summary>Where it is done more often than elsewhere, in words; null = everywhere alike.</summary>
    public string? Oftener => OftenerIn(int.MaxValue);

    /// <summary>The same, with zones counted where naming them would take more than so many characters.</summary>
    public string? OftenerIn(int characters) =>
        string.Join(
            "; ",
            Per.Where(p => p.Rounds > AtLeast)
                .GroupBy(p => p.Rounds)
                .Select(g => $"{Often(g.Key)} on {ZoneWords.Of([.. g.SelectMany(p => p.Zones)], characters)}")
        )
            is { Length: > 0 } words
            ? words
            : null;

    /// <summary>How often, in a few words: "1×, twice on both sills".</summary>
    public string Times => Oftener is { } more ? $"{AtLeast}×, {more}" : $"{Rounds}×";

    private static string Often(int rounds) => rounds == 2 ? "twice" : $"{rounds} times";

    /// <summary>Minutes of <see cref="LabourMinutes"/> for laying out, going round and changing over.</summary>
    public Minutes OpenMinutes { get; init; }

    /// <summary>The shop's bottle that stands for the class; null when the shelf is not said.</summary>
    public string? Bottle { get; init; }

    /// <summary>Its id in the shop; null = the shelf came without ids.</summary>
    public string? BottleId { get; init; }

    /// <summary>Panels that are rinsed cool first; null = none has to be.</summary>
    public Cooling? Cool { get; init; }

    /// <summary>Mistings that keep it wet for its dwell.</summary>
    public int Mists { get; init; }

    /// <summary>How it is laid on, as the drying model has it: spray, thin-foam, thick-foam, gel; null = drying plays no part.</summary>
    public string? Film { get; init; }

    /// <summary>Left wet for the foam that goes over it at once.</summary>
    public bool Under { get; init; }

    /// <summary>The agent it seals; both come off in one rinse. Null = none.</summary>
    public string? Over { get; init; }

    /// <summary>
    /// Rounds that loads as uncertain as they are may take, one time in ten fewer and one in ten more; equal where the rounds are set.
    /// </summary>
    public (int Low, int High) RoundsBetween { get; init; }

    /// <summary>
    /// Minutes of <see cref="LabourMinutes"/> for mixing and making ready; in the first step of an agent and strength only.
    /// </summary>
    public Minutes SetUpMinutes { get; init; }

    /// <summary>Mistakes to avoid.</summary>
    public IReadOnlyList<string> Avoid { get; init; } = [];

    /// <summary>Sections of which none dries before its rinse; null when drying is not computed or not the limit.</summary>
    public Conditions.SectionPlan? Sections { get; init; }
}

public sealed record Skipped(Stage Stage, IReadOnlyList<string> Zones, string Reason);

/// <summary>A treatment that is refused on some zones.</summary>
/// <param name="Cause">Why, for programs: the id of a cause; empty in plans of an older engine.</param>
public sealed record RefusedGroup(string Treatment, IReadOnlyList<string> Zones, string Reason, string Cause)
{
    /// <summary>Does something stay dirtier for it? Else other work does as well, and nobody misses it.</summary>
    public bool Missed { get; init; }
}

public sealed record Refer(IReadOnlyList<string> Zones, string What, string Reason);

/// <summary>A step that would be added if a test is positive.</summary>
public sealed record BranchStep(Stage Stage, string Treatment, string Name, int Rounds, IReadOnlyList<string> Zones, Minutes LabourMinutes);

/// <summary>A test to make, when, what it would change, and by how much knowing it narrows the hands-on time.</summary>
public sealed record PlannedTest(
    string Test,
    string Contaminant,
    IReadOnlyList<string> Zones,
    string When,
    string Changes,
    double Probability,
    Minutes AddsMinutes,
    Minutes NarrowsMinutes,
    IReadOnlyList<BranchStep> IfPositive
)
{
    /// <summary>
    /// Expected saving over both branches against the better of doing it blindly and leaving it, in minutes of cost; negative = not
    /// worth its time.
    /// </summary>
    public double Value { get; init; }

    /// <summary>What one would do without it: "do it everywhere" or "leave it".</summary>
    public string Without { get; init; } = "";

    /// <summary>Hands-on minutes saved on average against doing it everywhere, the test's own time taken off.</summary>
    public Minutes SavesMinutes { get; init; }

    /// <summary>Money saved on average against doing it everywhere.</summary>
    public double SavesMoney { get; init; }

    /// <summary>Harm spared on average against doing it everywhere.</summary>
    public double SavesHarm { get; init; }

    /// <summary>Somebody looked and could not tell: it must be made, whatever it is worth; until then nothing counts as clean.</summary>
    public bool Required { get; init; }

    /// <summary>Is it worth its time?</summary>
    public bool Worth => Value > 0;
}

/// <summary>How near a plan is to the best there is: zones proved best by themselves, and the sharing of set-ups against a bound.</summary>
/// <param name="Zones">Zones of the vehicle.</param>
/// <param name="Proved">Zones whose own plan is proved best for what is mixed.</param>
/// <param name="Minutes">Cost of the plan, minutes of cost.</param>
/// <param name="AtLeast">No plan can cost less.</param>
public sealed record Proof(int Zones, int Proved, Minutes Minutes, double AtLeast)
{
    /// <summary>Part of the cost that a better plan could save at most.</summary>
    public double Gap => Minutes <= 0 ? 0 : (Minutes - AtLeast) / Minutes;

    public string Words =>
        string.Create(
            System.Globalization.CultureInfo.InvariantCulture,
            $"{(Proved == Zones ? "the work planned is proved best" : $"{Proved} of {Zones} zones' work proved best")}, "
                + $"{(Gap < 5e-4 ? "sharing too" : $"sharing within {Gap * 100:0.#} %")}"
        );
}

public sealed record Totals(
    Range LabourMinutes,
    Range ElapsedMinutes,
    Range WaterLitres,
    Range Money,
    Range ProductTotalMl,
    IReadOnlyDictionary<string, double> ProductMl,
    double Harm
)
{
    /// <summary>Hands-on minutes if nothing hidden shows.</summary>
    public Range AsSeenMinutes { get; init; }
}

/// <summary>Loads on one zone at the start and after each step that touches it; what the core sample is drawn from.</summary>
public sealed record ZoneTrace(
    string Zone,
    IReadOnlyDictionary<string, double> Start,
    IReadOnlyList<(string Step, IReadOnlyDictionary<string, double> Loads)> After,
    IReadOnlyDictionary<string, double> Targets
);

/// <summary>The whole answer: <c>toughstart.plan/2</c>.</summary>
public sealed record Plan(
    Goal Goal,
    string EngineVersion,
    string CatalogueVersion,
    string SurveyHash,
    double FilmC,
    string Drying,
    bool ReferOnly,
    IReadOnlyList<Step> Steps,
    IReadOnlyList<Skipped> Skipped,
    IReadOnlyList<RefusedGroup> Refused,
    IReadOnlyList<Refer> Refer,
    IReadOnlyList<PlannedTest> Tests,
    IReadOnlyList<string> Unverified,
    IReadOnlyList<string> Warnings,
    IReadOnlyList<string> Closing,
    bool Proved,
    Totals Totals,
    PlannedTest? BestTest,
    IReadOnlyList<ZoneTrace> Traces
)
{
    public const string Format = "toughstart.plan/2";

    /// <summary>Formats that are read as well.</summary>
    public const string Earlier = "toughstart.plan/1";

    /// <summary>The conditions it was computed for, in words; empty when drying is not computed.</summary>
    public IReadOnlyList<string> Conditions { get; init; } = [];
    public const string Engine = "1.0";

    /// <summary>What is done before the first water.</summary>
    public IReadOnlyList<string> Opening { get; init; } = [];

    /// <summary>Mitts, cloths and brushes it takes, wheels' and paint's apart.</summary>
    public IReadOnlyList<MediaLine> Media { get; init; } = [];

    /// <summary>What stays dirty because nothing is done there at all, the gravest first.</summary>
    public IReadOnlyList<LeftUndone> LeftUndone => Planning.LeftUndone.Of(this);

    /// <summary>Steps that touch a zone, in order.</summary>
    public IEnumerable<Step> StepsOn(string zone) => Steps.Where(s => s.Zones.Contains(zone));

    /// <summary>What to buy or borrow, with what doing without it comes to; null = not worked out.</summary>
    public IReadOnlyList<BuyLine>? Buy { get; init; }

    /// <summary>The worlds it was worked in; null in a plan that was read.</summary>
    public Costing.Worlds? Worlds { get; init; }

    /// <summary>How near the plan is to the best there is; null = not worked out.</summary>
    public Proof? Proof { get; init; }
}
