using ToughStart.Core.Chemistry;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Formats;

/// <summary>Where a finding's number comes from.</summary>
public enum Certainty
{
    Suspected,
    Seen,
    Measured,
}

/// <summary>What was found on a zone. Grade 0 = looked, none; 1 trace, 2 light, 3 heavy, 4 caked.</summary>
public sealed record Finding(string Contaminant, int Grade, string? Age, Certainty Certainty);

/// <summary>A test made on a zone and its answer; <paramref name="Because"/> says why it is inconclusive.</summary>
public sealed record TestResult(string Test, string Result, string? Because);

/// <summary>Damage is not dirt: recorded for the inspection list, never treated.</summary>
/// <param name="Kind">etch, scratch, swirl, chip, clear-coat-failure, dent, own-rust, failed-lens or cracked-lacquer.</param>
/// <param name="Decision">What was agreed with the client: noted, recommended, bought or declined.</param>
public sealed record Damage(string Kind, string Decision);

/// <summary>The state of the surface itself, apart from what sits on it.</summary>
/// <param name="Softness">Of the clear coat here, when it differs from the vehicle's.</param>
/// <param name="FilmUm">Film-thickness readings, micrometres.</param>
/// <param name="RefinishDays">Days since this zone was resprayed; null = no respray known.</param>
/// <param name="PartShare">Part of the zone that its <c>parts</c> cover, 0 to 1.</param>
public sealed record Condition(
    string? Softness,
    IReadOnlyList<double> FilmUm,
    double? RefinishDays,
    double? PartShare,
    IReadOnlyList<Damage> Damage
)
{
    public static Condition Unsaid { get; } = new(null, [], null, null, []);

    public bool IsUnsaid => Softness is null && FilmUm.Count == 0 && RefinishDays is null && PartShare is null && Damage.Count == 0;
}

/// <summary>One zone as surveyed. Null means nobody said; the form's default holds and is flagged as assumed.</summary>
public sealed record ZoneSurvey(
    string Zone,
    string? Surface,
    IReadOnlyList<string> Parts,
    string? Protection,
    string? Water,
    double? MeasuredC,
    IReadOnlyList<Finding> Findings,
    IReadOnlyList<TestResult> Tests
)
{
    public Condition Condition { get; init; } = Condition.Unsaid;

    /// <summary>What this zone is made ready for; null = what the job is for.</summary>
    public ZoneGoal? Goal { get; init; }

    /// <summary>When the panel was measured, with its offset; null = at the start of the job.</summary>
    public string? MeasuredAt { get; init; }

    /// <summary>Nobody said anything of this zone.</summary>
    public bool SaysNothing =>
        this
            is {
                Surface: null,
                Protection: null,
                Water: null,
                MeasuredC: null,
                Parts.Count: 0,
                Findings.Count: 0,
                Tests.Count: 0,
                Goal: null,
                Condition.IsUnsaid: true
            };

    public Finding? FindingOf(string contaminant) => Findings.FirstOrDefault(f => f.Contaminant == contaminant);

    public TestResult? TestOf(string test) => Tests.LastOrDefault(t => t.Test == test);
}

public sealed record VehicleInput(string Form, Size Size, string? Colour, string Softness, string Powertrain)
{
    /// <summary>steel or aluminium; null = not said, steel is taken.</summary>
    public string? Sheet { get; init; }

    /// <summary>It was driven in: the engine under the closed bonnet is hot.</summary>
    public bool? HotEngine { get; init; }
}

/// <summary>A hold of the intake that a named person has released; people are ids only.</summary>
public sealed record Release(string Hold, string By, string? On);

public sealed record History(string Flood, bool Nests, double? MonthsSinceWash, string? Storage, IReadOnlyList<Release> Releases)
{
    /// <summary>It stood in water. Where nobody knows, that is said instead, and what would show it.</summary>
    public bool IsFlooded => Flood is not ("none" or "not-said");

    /// <summary>daily, motorway, towing, farm, track, site or stored.</summary>
    public string? Use { get; init; }

    /// <summary>coast, city, rural, industrial or rail.</summary>
    public string? Region { get; init; }

    /// <summary>Months since a coating was put on; null = none known.</summary>
    public double? CoatedMonths { get; init; }

    /// <summary>modern or unknown; unknown is treated as asbestos until someone named releases it.</summary>
    public string? BrakeDust { get; init; }

    /// <summary>Blood, needles or the like were found.</summary>
    public bool Biological { get; init; }
}

/// <summary>A span of the day, hours 0 to 24.</summary>
public readonly record struct ShadeSpan(double From, double To);

/// <summary>Something that throws a shadow: a wall, a tree, a roof edge, seen from where the vehicle stands.</summary>
/// <param name="BearingDeg">To its middle, degrees from north.</param>
/// <param name="HeightM">Its top above the ground.</param>
public readonly record struct ShadeObject(double BearingDeg, double DistanceM, double WidthM, double HeightM);

/// <summary>Where the work happens. All optional; null is not known.</summary>
public sealed record Site(
    string? Place,
    double? SunBlocked,
    double? SkyOpen,
    double? Latitude,
    double? Longitude,
    string? TimeZone,
    double? HeadingDeg,
    string? Start,
    double? AirC,
    double? HumidityPct,
    double? WindMs,
    string? WindAt,
    double? CloudOktas,
    string? Water,
    double? WaterHardnessMgL,
    string? Ground,
    string? Drain
)
{
    /// <summary>Spans of the day in shade, hours of the local clock, in order; empty = not said.</summary>
    public IReadOnlyList<ShadeSpan> ShadeHours { get; init; } = [];

    /// <summary>Walls and trees that throw shadows, in order of bearing; empty = not said.</summary>
    public IReadOnlyList<ShadeObject> ShadeObjects { get; init; } = [];

    /// <summary>level, slight or steep.</summary>
    public string? Slope { get; init; }

    /// <summary>protected (residual-current), unprotected or none.</summary>
    public string? Power { get; init; }

    /// <summary>Other people's vehicles stand within reach of spray.</summary>
    public bool? NeighboursClose { get; init; }

    /// <summary>platform, ladder or none.</summary>
    public string? Access { get; init; }

    /// <summary>Extraction on in the bay; null = not said.</summary>
    public bool? Extraction { get; init; }

    /// <summary>This moment and weather at another place.</summary>
    public Site At(Site place) =>
        place with
        {
            Start = Start,
            AirC = AirC,
            HumidityPct = HumidityPct,
            WindMs = WindMs,
            CloudOktas = CloudOktas,
            Hours = Hours,
            HeadingDeg = place.HeadingDeg ?? HeadingDeg,
        };

    /// <summary>Weather by the hour, in order; where it is there it wins over the single readings.</summary>
    public IReadOnlyList<Conditions.WeatherHour> Hours { get; init; } = [];
}

/// <summary>
/// A suggestion refused for this job: one way of working, or a whole stage. The plan finds another way, or says what stays.
/// </summary>
/// <param name="Treatment">A treatment; null where a stage is refused.</param>
/// <param name="Stage">A stage; null where a treatment is refused.</param>
/// <param name="Zones">Where; empty = everywhere.</param>
public sealed record Decline(string? Treatment, Stage? Stage, IReadOnlyList<string> Zones)
{
    /// <summary>Does it hold for this treatment on a zone of this family?</summary>
    public bool Covers(Planning.Treatment t, string zone, Family family) =>
        (Zones.Count == 0 || Zones.Contains(zone))
        && (Treatment == t.Id || (Stage is not null && t.Slots.Any(s => Planning.Slot.StageOn(s, family) == Stage)));

    /// <summary>What is refused, in words.</summary>
    public string Words => Treatment is { } t ? Provenance.Catalogue.Default.Treatment(t).Name : $"the {Stage} stage";
}

/// <summary>A survey: everything a plan is computed from. Zones hold no patterns and are sorted.</summary>
/// <param name="Shelf">Null = every class, without data sheets; else the bottles at hand.</param>
public sealed record Survey(
    string? Id,
    int? Revision,
    VehicleInput Vehicle,
    History History,
    Goal Goal,
    Site Site,
    IReadOnlyDictionary<string, string> House,
    IReadOnlyList<ShelfBottle>? Shelf,
    int Crew,
    IReadOnlyList<ZoneSurvey> Zones
)
{
    public const string Format = "toughstart.survey/1";

    /// <summary>Lance and leftovers the shop works with; null = nothing said: an uncalibrated lance, nothing mixed.</summary>
    public KitInUse? Kit { get; init; }

    /// <summary>Plan with no more of each bottle than is on the shelf; else what is short is bought.</summary>
    public bool StockOnly { get; init; }

    /// <summary>Suggestions that were refused for this job.</summary>
    public IReadOnlyList<Decline> Declines { get; init; } = [];

    /// <summary>What this job leans to; null = the shop's ordinary judgement.</summary>
    public Planning.Leaning? Lean { get; init; }

    public ZoneSurvey? ZoneOf(string id) => Zones.FirstOrDefault(z => z.Zone == id);

    /// <summary>The value of a house rule: the survey's, else the default.</summary>
    public string Rule(string id) => House.TryGetValue(id, out var v) ? v : HouseRules.Default(id);
}
