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
    public required string Author { get; init; }
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
    public uint Version { get; set; }
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
