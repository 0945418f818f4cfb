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

/// <summary>One zone as surveyed. Null means nobody said; the form's default holds and is flagged as assumed.</summary>
public sealed record ZoneSurvey(
    string Zone, string? Surface, IReadOnlyList<string> Parts, string? Protection, string? Water, double? MeasuredC,
    IReadOnlyList<Finding> Findings, IReadOnlyList<TestResult> Tests)
{
    public Finding? FindingOf(string contaminant) => Findings.FirstOrDefault(f => f.Contaminant == contaminant);

    public TestResult? TestOf(string test) => Tests.LastOrDefault(t => t.Test == test);
}

public sealed record VehicleInput(string Form, Size Size, string? Colour, string Softness, string Powertrain);

/// <summary>A gate of the intake that a named person has cleared; people are ids only.</summary>
public sealed record Release(string Gate, string By, string? On);

public sealed record History(string Flood, bool Nests, double? MonthsSinceWash, string? Storage, IReadOnlyList<Release> Releases);

/// <summary>Where the work happens. All optional; null is not known.</summary>
public sealed record Site(
    string? Place, double? SunBlocked, double? SkyOpen, double? Latitude, double? Longitude, string? TimeZone, double? HeadingDeg, string? Start,
    double? AirC, double? HumidityPct, double? WindMs, string? WindAt, double? CloudOktas, string? Water, double? WaterHardnessMgL, string? Ground, string? Drain);

/// <summary>A survey: everything a plan is computed from. Zones hold no patterns and are sorted.</summary>
/// <param name="Shelf">Null = every class, without data sheets; else the bottles at hand.</param>
public sealed record Survey(
    string? Id, int? Revision, VehicleInput Vehicle, History History, string Goal, Site Site, IReadOnlyDictionary<string, string> House,
    IReadOnlyList<ShelfBottle>? Shelf, int Crew, IReadOnlyList<ZoneSurvey> Zones)
{
    public const string Format = "toughstart.survey/1";

    public ZoneSurvey? ZoneOf(string id) => Zones.FirstOrDefault(z => z.Zone == id);

    /// <summary>The value of a house rule: the survey's, else the default.</summary>
    public string Rule(string id) => House.TryGetValue(id, out var v) ? v : HouseRules.Default(id);
}
