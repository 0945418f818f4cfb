using Microsoft.AspNetCore.Identity;

namespace ToughStart.Data;

/// <summary>The business that owns the rows.</summary>
public sealed class Shop
{
    public Guid Id { get; init; } = Guid.CreateVersion7();
    public required string Name { get; set; }
}

public sealed class Client
{
    public Guid Id { get; init; } = Guid.CreateVersion7();
    public required Guid ShopId { get; init; }
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
}

/// <summary>What people may do: owners everything, technicians the work, readers look.</summary>
public static class Roles
{
    public const string Owner = "owner", Technician = "technician", Reader = "reader";

    public static IReadOnlyList<string> All { get; } = [Owner, Technician, Reader];
}

public sealed class ClientVehicle
{
    public Guid Id { get; init; } = Guid.CreateVersion7();
    public required Guid ShopId { get; init; }
    public required Guid ClientId { get; init; }
    public Client? Client { get; init; }
    public required string Name { get; set; }
    public required string Plate { get; set; }
    public required string Author { get; init; }
    public uint Version { get; set; }
}

/// <summary>One visit of one vehicle. Its survey, plan and run hang on it as versioned documents and events.</summary>
public sealed class Job
{
    public Guid Id { get; init; } = Guid.CreateVersion7();
    public required Guid ShopId { get; init; }
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

    /// <summary>When a mark that etches was first on record and still is: its clock runs from here.</summary>
    public DateTimeOffset? UrgentSince { get; set; }

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
    string? NextUse = null, DateOnly? SaleDate = null, string? TyreLook = null, bool ScentFree = false, string? LeaveAlone = null, decimal? Budget = null,
    bool Consent = false, string? ConsentBy = null, DateTimeOffset? ConsentAt = null, string? Notes = null);

/// <summary>A picture of one zone, re-encoded without the camera's data.</summary>
public sealed class Photo
{
    public Guid Id { get; init; } = Guid.CreateVersion7();
    public required Guid JobId { get; init; }
    public required string Zone { get; init; }

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

/// <summary>A plan as it was computed, with the survey revision and the number of events it stands on.</summary>
public sealed class PlanDocument
{
    public Guid Id { get; init; } = Guid.CreateVersion7();
    public required Guid JobId { get; init; }
    public required int Revision { get; init; }
    public required int SurveyRevision { get; init; }
    public required int Events { get; init; }
    public required string Body { get; init; }
    public required string Author { get; init; }
    public required DateTimeOffset At { get; init; }
}

/// <summary>Something that happened in the run. Append-only: the database refuses changes and deletions.</summary>
public sealed class RunEvent
{
    /// <summary>Made by the client, so that a retry changes nothing.</summary>
    public required Guid Id { get; init; }
    public required Guid JobId { get; init; }
    public long Sequence { get; init; }
    public required int SurveyRevision { get; init; }
    public required string Body { get; init; }
    public required string Author { get; init; }
    public required DateTimeOffset At { get; init; }
}
