using Microsoft.AspNetCore.Identity;
using ToughStart.Core.Identification;

namespace ToughStart.Data;

/// <summary>The shop; there is one in a database, and all else in it is its own.</summary>
public sealed class Shop
{
    public Guid Id { get; init; } = Guid.CreateVersion7();
    public required string Name { get; set; }

    /// <summary>How fast the crew puts on and rinses, m² a minute; null = not timed.</summary>
    public double? ApplyM2Min { get; set; }
    public double? RinseM2Min { get; set; }

    /// <summary>Sign or code of the money; empty = none was set.</summary>
    public string Currency { get; set; } = "";

    /// <summary>What is added to a price, in the shop's word; empty = nothing is.</summary>
    public string Tax { get; set; } = "";

    /// <summary>metric, us or imperial.</summary>
    public string Volume { get; set; } = "metric";
    public bool Fahrenheit { get; set; }
    public bool Inches { get; set; }

    /// <summary>Pattern of a day.</summary>
    public string DayPattern { get; set; } = "d MMM yyyy";
    public bool DecimalComma { get; set; }

    /// <summary>What it charges, by the ids of the rates' fields; what is not there is as the catalogue has it.</summary>
    public Dictionary<string, double?> Rates { get; set; } = [];

    /// <summary>What stands under every quote; empty = the usual words.</summary>
    public string QuoteTerms { get; set; } = "";

    /// <summary>Days a quote is taken.</summary>
    public int QuoteDays { get; set; } = 30;

    /// <summary>Pressure washers, ladders or platforms, and bays.</summary>
    public int Washers { get; set; } = 1;
    public int Ladders { get; set; } = 1;
    public int Bays { get; set; } = 1;
}

/// <summary>A set of house rules kept by name.</summary>
public sealed class HousePreset
{
    public Guid Id { get; init; } = Guid.CreateVersion7();
    public required string Name { get; set; }

    /// <summary>Rule and value, as JSON.</summary>
    public required string Rules { get; set; }

    /// <summary>New jobs start with it; one set of a shop at most.</summary>
    public bool ForNewJobs { get; set; }
    public required string Author { get; set; }
    public required DateTimeOffset At { get; set; }
}

/// <summary>A place the shop washes at, kept by name.</summary>
public sealed class SitePreset
{
    public Guid Id { get; init; } = Guid.CreateVersion7();
    public required string Name { get; set; }

    /// <summary>A survey document that holds only the site.</summary>
    public required string Body { get; set; }
    public required string Author { get; set; }
    public required DateTimeOffset At { get; set; }
}

public sealed class Client
{
    public Guid Id { get; init; } = Guid.CreateVersion7();
    public required string Name { get; set; }
    public string? Phone { get; set; }
    public string? Email { get; set; }
    public required string Author { get; init; }
    public uint Version { get; set; }
}

/// <summary>Somebody who signs in. Documents name people by <see cref="StaffId"/> only.</summary>
public sealed class StaffUser : IdentityUser<Guid>
{
    public required string DisplayName { get; set; }

    /// <summary>Short id used in documents and events instead of a name.</summary>
    public required string StaffId { get; set; }

    /// <summary>What they do: wash, wheels, clay, chem; none = all of it.</summary>
    public string[] Skills { get; set; } = [];

    /// <summary>Minutes of the day between which they are there.</summary>
    public int WorksFrom { get; set; } = 8 * 60;
    public int WorksTo { get; set; } = 17 * 60;

    /// <summary>Minutes of their break, and between which minutes of the day it lies; 0 = none.</summary>
    public int Break { get; set; } = 30;
    public int BreakFrom { get; set; } = (11 * 60) + 30;
    public int BreakTo { get; set; } = (13 * 60) + 30;
}

/// <summary>What people may do: owners everything, technicians the work, readers look.</summary>
public static class Roles
{
    public const string Owner = "owner",
        Technician = "technician",
        Reader = "reader";

    public static IReadOnlyList<string> All { get; } = [Owner, Technician, Reader];
}

public sealed class ClientVehicle
{
    public Guid Id { get; init; } = Guid.CreateVersion7();
    public required Guid ClientId { get; init; }
    public Client? Client { get; init; }
    public required string Name { get; set; }
    public required string Plate
    {
        get;
        set => (field, PlateKey) = (value, KeyOf(value));
    }

    /// <summary>What a registration is found by.</summary>
    public string PlateKey { get; private set; } = "";

    /// <summary>A registration in capitals, letters and digits only: blanks, dashes and case are written as people like.</summary>
    public static string KeyOf(string plate) => new string([.. plate.Where(char.IsLetterOrDigit)]).ToUpperInvariant();

    public required string Author { get; init; }
    public uint Version { get; set; }
}

/// <summary>One visit of one vehicle. Its survey, plan and run hang on it as versioned documents and events.</summary>
public sealed class Job
{
    public Guid Id { get; init; } = Guid.CreateVersion7();
    public required Guid VehicleId { get; init; }
    public ClientVehicle? Vehicle { get; init; }

    /// <summary>What people call it by; unique in a shop.</summary>
    public required int Number { get; init; }
    public required string Station { get; set; }
    public required DateOnly Day { get; set; }

    /// <summary>One line for the Yard: the story of the vehicle.</summary>
    public required string Story { get; set; }
    public required string Author { get; init; }

    /// <summary>Revision of the newest survey; 0 before the first.</summary>
    public int SurveyRevision { get; set; }

    /// <summary>Revision of the plan in force; null while nobody has put one in force.</summary>
    public int? PlanRevision { get; set; }

    /// <summary>When a mark that etches was first on record and still is: its clock runs from here.</summary>
    public DateTimeOffset? UrgentSince { get; set; }

    /// <summary>By when the client was told it is done; null = for its day.</summary>
    public DateTimeOffset? PromisedAt { get; set; }

    /// <summary>When somebody set it to begin, among the days ahead; null = it is laid out as it comes.</summary>
    public DateTimeOffset? BeginsAt { get; set; }

    /// <summary>Wishes, budget and consent, as JSON; people and their words stay here and never enter a survey.</summary>
    public string Intake { get; set; } = "{}";
    public uint Version { get; set; }
}

/// <summary>What the client wants and agreed to.</summary>
/// <param name="NextUse">sale, show, winter, track, daily or storage.</param>
/// <param name="Budget">Money the client named; null when none was.</param>
/// <param name="LeaveAlone">Areas nobody touches.</param>
/// <param name="Consent">Agreed to chemical work within the limits shown; who took it, and when.</param>
public sealed record IntakeWishes(
    string? NextUse = null,
    DateOnly? SaleDate = null,
    string? TyreLook = null,
    bool ScentFree = false,
    string? LeaveAlone = null,
    decimal? Budget = null,
    bool Consent = false,
    string? ConsentBy = null,
    DateTimeOffset? ConsentAt = null,
    string? Notes = null
);

/// <summary>A picture of one zone, re-encoded without the camera's data.</summary>
public sealed class Photo
{
    public Guid Id { get; init; } = Guid.CreateVersion7();
    public required Guid JobId { get; init; }
    public required string Zone { get; init; }

    /// <summary>The damage it shows; null = the zone.</summary>
    public Guid? MarkId { get; init; }

    /// <summary>before or after.</summary>
    public required string Moment { get; init; }
    public required byte[] Jpeg { get; init; }
    public required byte[] Thumb { get; init; }
    public required int Width { get; init; }
    public required int Height { get; init; }
    public required string Author { get; init; }
    public required DateTimeOffset At { get; init; }
}

/// <summary>What a gauge said: film thickness in micrometres, panel temperature in °C, or water hardness in mg/l.</summary>
public sealed class Reading
{
    public Guid Id { get; init; } = Guid.CreateVersion7();
    public required Guid JobId { get; init; }

    /// <summary>film, temperature or hardness.</summary>
    public required string Kind { get; init; }

    /// <summary>Zone it was taken on; empty for the water.</summary>
    public required string Zone { get; init; }
    public required double Value { get; init; }

    /// <summary>Typed in, a file, or the name of the device.</summary>
    public required string Source { get; init; }
    public required string Author { get; init; }
    public required DateTimeOffset At { get; init; }
}

/// <summary>A remark somebody left on a zone. Words of people stay out of the survey document.</summary>
public sealed class ZoneNote
{
    public Guid Id { get; init; } = Guid.CreateVersion7();
    public required Guid JobId { get; init; }
    public required string Zone { get; init; }
    public required string Words { get; init; }
    public required string Author { get; init; }
    public required DateTimeOffset At { get; init; }
}

/// <summary>A survey as it was saved; never changed, only followed by the next revision.</summary>
public sealed class SurveyDocument
{
    public Guid Id { get; init; } = Guid.CreateVersion7();
    public required Guid JobId { get; init; }
    public required int Revision { get; init; }
    public required string Body { get; init; }
    public required string Author { get; init; }
    public required DateTimeOffset At { get; init; }
}

/// <summary>A plan somebody put in force, with what it was computed from; never changed, only followed by the next.</summary>
public sealed class PlanDocument
{
    public Guid Id { get; init; } = Guid.CreateVersion7();
    public required Guid JobId { get; init; }
    public required int Revision { get; init; }
    public required int SurveyRevision { get; init; }

    /// <summary>Number of the last event it takes into account; 0 = none.</summary>
    public required int Events { get; init; }

    /// <summary>The survey it was computed from, with the shelf, kit and weather of that moment; null in plans of an older engine.</summary>
    public string? Survey { get; init; }

    /// <summary>Hash of everything it was computed from, the shelf and the kit included.</summary>
    public string SurveyHash { get; init; } = "";
    public required string Body { get; init; }
    public required string Author { get; init; }
    public required DateTimeOffset At { get; init; }
}

/// <summary>An entry of a run's live log. Append-only: the database refuses changes and deletions.</summary>
public sealed class RunEvent
{
    /// <summary>Made by the client, so that a retry changes nothing.</summary>
    public required Guid Id { get; init; }
    public required Guid JobId { get; init; }

    /// <summary>1, 2, … without a gap, by job; given under a lock on the job's row.</summary>
    public required int Number { get; init; }

    /// <summary>Revision of the plan its maker had before them; 0 in entries of an older engine.</summary>
    public int PlanRevision { get; init; }

    /// <summary>Word of its kind.</summary>
    public required string Kind { get; init; }

    /// <summary>What it says, as toughstart.log/1 has it.</summary>
    public required string Body { get; init; }
    public required string Author { get; init; }

    /// <summary>When it was stored.</summary>
    public required DateTimeOffset At { get; init; }

    /// <summary>The phone it was made on; empty = the server wrote it.</summary>
    public string Device { get; init; } = "";

    /// <summary>1, 2, … by device and job; 0 for what the server wrote.</summary>
    public int Seq { get; init; }

    /// <summary>One life of the phone's clock.</summary>
    public string Epoch { get; init; } = "";

    /// <summary>That clock, ms.</summary>
    public long Mono { get; init; }

    /// <summary>Number of the last entry its maker had seen.</summary>
    public int After { get; init; }

    /// <summary>When it happened, ms since 1970: the server's guess, and bounds that are sure.</summary>
    public long WhenAt { get; init; }
    public long WhenLo { get; init; }
    public long WhenHi { get; init; }

    /// <summary>Its maker was an owner.</summary>
    public bool ByOwner { get; init; }
}

/// <summary>A phone that works a job, and when it was heard last. What it made since then nobody else knows.</summary>
public sealed class BayPhone
{
    public required Guid JobId { get; init; }

    /// <summary>Its own name, made with its store and lost with it.</summary>
    public required string Device { get; init; }

    /// <summary>Who held it when it was heard last.</summary>
    public required string Who { get; set; }
    public required DateTimeOffset Heard { get; set; }
}

/// <summary>Damage somebody drew on the vehicle at the gate. Damage is not dirt: what becomes of it is the client's to say.</summary>
public sealed class GateMark
{
    public Guid Id { get; init; } = Guid.CreateVersion7();
    public required Guid JobId { get; init; }
    public required string Zone { get; init; }

    /// <summary>One of the survey's words for damage.</summary>
    public required string Kind { get; init; }

    /// <summary>How long it is, mm.</summary>
    public required double Mm { get; init; }

    /// <summary>A nail drawn across it catches.</summary>
    public required bool Nail { get; init; }

    /// <summary>Where it is on the zone, shares of its width and height from the upper left as drawn.</summary>
    public required double X { get; init; }
    public required double Y { get; init; }

    /// <summary>noted, recommended, bought or declined.</summary>
    public required string Decision { get; set; }
    public string? Words { get; set; }
    public required string Author { get; init; }
    public required DateTimeOffset At { get; init; }

    /// <summary>Drawn by mistake; kept, but it counts for nothing.</summary>
    public bool Struck { get; set; }
}

/// <summary>What somebody tried on a mark nobody is sure of, and what it did.</summary>
public sealed class MarkTry
{
    /// <summary>Longest remark, characters.</summary>
    public const int MostWords = 200;

    public Guid Id { get; init; } = Guid.CreateVersion7();
    public required Guid JobId { get; init; }
    public required string Zone { get; init; }

    /// <summary>What was seen of the mark, as the identify helper is asked: colour=black&amp;shape=dots.</summary>
    public required string Evidence { get; init; }

    /// <summary>Class of what was tried, as the catalogue had it then.</summary>
    public required string Agent { get; init; }

    public required TryOutcome Outcome { get; init; }
    public string? Words { get; init; }
    public required string Author { get; init; }
    public required DateTimeOffset At { get; init; }

    /// <summary>Written down by mistake; kept, but it counts for nothing.</summary>
    public bool Struck { get; set; }
}

/// <summary>A product of the shop: label, data sheet, price and what is left of it. Its stock is the sum of its moves.</summary>
public sealed class Product
{
    public Guid Id { get; init; } = Guid.CreateVersion7();

    /// <summary>What the shop calls it; unique on its shelf.</summary>
    public required string Name { get; set; }
    public required string Agent { get; set; }
    public required StrengthBasis Basis { get; set; }
    public string? Low { get; set; }
    public string? Reference { get; set; }
    public string? High { get; set; }
    public double? DwellMinutes { get; set; }
    public double? MaxDwellMinutes { get; set; }
    public double? NeatPh { get; set; }
    public double? WorkingPh { get; set; }
    public AgentCarrier? Carrier { get; set; }
    public decimal Price { get; set; }
    public decimal PackMl { get; set; }
    public decimal StockMl { get; set; }

    /// <summary>Order again when less than this is free.</summary>
    public decimal LeastMl { get; set; }
    public string? Batch { get; set; }
    public DateOnly? Expiry { get; set; }
    public string[] Hazards { get; set; } = [];
    public string[] Contains { get; set; } = [];
    public string[] Allows { get; set; } = [];
    public string[] Forbids { get; set; } = [];
    public bool Fluoride { get; set; }
    public DateOnly? SheetOn { get; set; }
    public double Efficacy { get; set; } = 1;

    /// <summary>No longer bought or planned; its moves stay.</summary>
    public bool Retired { get; set; }
    public required string Author { get; init; }
    public uint Version { get; set; }
}

/// <summary>The data sheet of a product as a file.</summary>
public sealed class ProductSheet
{
    public required Guid ProductId { get; init; }
    public required string FileName { get; set; }
    public required byte[] Pdf { get; set; }
    public required string Author { get; set; }
    public required DateTimeOffset At { get; set; }
}

/// <summary>Something that came to or left the shelf. Append-only: mistakes are corrected by another move.</summary>
public sealed class StockMove
{
    public Guid Id { get; init; } = Guid.CreateVersion7();
    public long Sequence { get; init; }
    public required Guid ProductId { get; init; }

    /// <summary>receive, use, waste or count.</summary>
    public required string Kind { get; init; }

    /// <summary>Positive to the shelf, negative from it.</summary>
    public required decimal Ml { get; init; }

    /// <summary>What the shelf held after it.</summary>
    public required decimal BalanceMl { get; init; }
    public Guid? JobId { get; init; }
    public Guid? MixId { get; init; }
    public string? Note { get; init; }
    public required string Author { get; init; }
    public required DateTimeOffset At { get; init; }
}

/// <summary>What the plan of an open job will take from the shelf.</summary>
public sealed class StockReservation
{
    public required Guid JobId { get; init; }
    public required Guid ProductId { get; init; }
    public required decimal Ml { get; set; }
}

/// <summary>Washers, nozzles, lances, sprayers, bottles, buckets, media and clay.</summary>
public sealed class KitItem
{
    public Guid Id { get; init; } = Guid.CreateVersion7();

    /// <summary>washer, nozzle, lance, sprayer, bottle, bucket, media, clay or jug.</summary>
    public required string Kind { get; set; }
    public required string Name { get; set; }
    public double? FlowLitresPerMinute { get; set; }
    public double? Psi { get; set; }

    /// <summary>Size number of a nozzle.</summary>
    public double? Size { get; set; }
    public double? AngleDegrees { get; set; }

    /// <summary>What it holds, or the smallest mark of a jug.</summary>
    public double? Ml { get; set; }

    /// <summary>wheel, paint, sacrificial, glass, rinse or none.</summary>
    public string? Dedication { get; set; }

    /// <summary>What it is told apart by from afar: colour of its cap, tape or label; null = none was said.</summary>
    public string? Colour { get; set; }

    /// <summary>fine, medium or coarse.</summary>
    public string? Grade { get; set; }

    /// <summary>Vehicles or washes it lasts.</summary>
    public int? Life { get; set; }
    public int Used { get; set; }

    /// <summary>new, good, worn or bin.</summary>
    public string? Condition { get; set; }
    public bool Retired { get; set; }
    public required string Author { get; init; }
    public uint Version { get; set; }
}

/// <summary>One timed bottle of a lance, as measured.</summary>
public sealed class Calibration
{
    public Guid Id { get; init; } = Guid.CreateVersion7();
    public required Guid KitItemId { get; init; }
    public required double Ml { get; init; }
    public required double Seconds { get; init; }
    public required double FlowLitresPerMinute { get; init; }
    public required bool MeasuredAtLance { get; init; }

    /// <summary>Left out of the mean when it was a slip; never deleted.</summary>
    public bool Struck { get; set; }
    public required string Author { get; init; }
    public required DateTimeOffset At { get; init; }
}

/// <summary>What was mixed into which bottle, by whom, and what is left of it.</summary>
public sealed class MixRecord
{
    public Guid Id { get; init; } = Guid.CreateVersion7();
    public required int Number { get; init; }
    public required Guid ProductId { get; init; }
    public Product? Product { get; init; }
    public required Guid BottleId { get; init; }
    public KitItem? Bottle { get; init; }
    public Guid? JobId { get; init; }
    public required double Fraction { get; init; }
    public required decimal ProductMl { get; init; }
    public required decimal WaterMl { get; init; }
    public required decimal LeftMl { get; set; }

    /// <summary>in-use, emptied or discarded.</summary>
    public required string State { get; set; }
    public required DateOnly DiscardBy { get; init; }
    public required string Author { get; init; }
    public required DateTimeOffset At { get; init; }
    public uint Version { get; set; }
}

/// <summary>One measurement of the film that the shop's way of working leaves.</summary>
public sealed class FilmTrial
{
    public Guid Id { get; init; } = Guid.CreateVersion7();

    /// <summary>towel or dry-out.</summary>
    public required string Method { get; init; }
    public required string Carrier { get; init; }

    /// <summary>Grams on half a square metre, or seconds to the first dry spots.</summary>
    public required double Measured { get; init; }

    /// <summary>Retained film against the model's.</summary>
    public required double Factor { get; init; }
    public bool Struck { get; set; }
    public required string Author { get; init; }
    public required DateTimeOffset At { get; init; }
}
