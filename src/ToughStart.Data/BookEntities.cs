namespace ToughStart.Data;

/// <summary>
/// Something done to zones after the gate: polished, wiped, or something put on. Kept when the client is erased: it is the
/// vehicle's.
/// </summary>
public sealed class HandWork
{
    public Guid Id { get; init; } = Guid.CreateVersion7();
    public required Guid JobId { get; init; }

    /// <summary>Word of the act.</summary>
    public required string Act { get; init; }

    /// <summary>Id of what was put on; null = it was worked.</summary>
    public string? Kind { get; init; }
    public required string[] Zones { get; init; }

    /// <summary>0 where nothing was put on.</summary>
    public int Layers { get; init; }
    public required string Author { get; init; }
    public required DateTimeOffset At { get; init; }

    /// <summary>Written down by mistake; kept, but it counts for nothing.</summary>
    public bool Struck { get; set; }
}

/// <summary>
/// What a job came to when it was closed: the line of the logbook. It holds ids, numbers and words of the trade, no names, so that it stays when a
/// client is erased.
/// </summary>
public sealed class JobBook
{
    public required Guid JobId { get; init; }
    public required Guid VehicleId { get; init; }
    public required DateOnly Day { get; set; }
    public required string Goal { get; set; }

    /// <summary>Hands-on minutes, as planned and as done; done is null where nobody worked with a clock.</summary>
    public required int PlannedMinutes { get; set; }
    public int? Minutes { get; set; }
    public required int PlannedLitres { get; set; }
    public required int Litres { get; set; }
    public required int ProductMl { get; set; }

    /// <summary>Product at what it cost.</summary>
    public required decimal Cost { get; set; }

    /// <summary>Zones by the gate's word.</summary>
    public int Ready { get; set; }
    public int Repeat { get; set; }
    public int Refer { get; set; }
    public int Unverified { get; set; }

    /// <summary>Rounds that dried on the panel.</summary>
    public int Dried { get; set; }

    /// <summary>When the vehicle should come again.</summary>
    public DateOnly? Due { get; set; }

    /// <summary>Who braked it, where wheels were worked on.</summary>
    public string? BrakedBy { get; set; }

    /// <summary>Agents, people and incidents, as words the logbook finds it by.</summary>
    public required string Words { get; set; }

    /// <summary>The reckoning as it was written, and the layers before and after, for the cores of the years.</summary>
    public required string Body { get; set; }
    public required string Author { get; set; }
    public required DateTimeOffset At { get; set; }
}

/// <summary>A loop of a closed job: what it says of a product, or why it says nothing.</summary>
public sealed class LoopLesson
{
    public Guid Id { get; init; } = Guid.CreateVersion7();
    public required Guid JobId { get; init; }
    public Guid? ProductId { get; init; }
    public required string Agent { get; init; }
    public string? Batch { get; init; }
    public required string Zone { get; init; }
    public required string Kind { get; init; }
    public required double Need { get; init; }
    public required double PerRound { get; init; }
    public required int Rounds { get; init; }
    public required bool Stopped { get; init; }
    public required double Spread { get; init; }

    /// <summary>Why it teaches nothing; null = it counts.</summary>
    public string? Excluded { get; init; }
}

/// <summary>Hands-on seconds of somebody in a stage of a closed job, against the norm of the same work.</summary>
public sealed class PaceLesson
{
    public required Guid JobId { get; init; }
    public required string Who { get; init; }
    public required string Stage { get; init; }
    public required int Seconds { get; init; }
    public required int Norm { get; init; }
}

/// <summary>A factor the shop has made its own; never deleted, only undone.</summary>
public sealed class LearntFactor
{
    public Guid Id { get; init; } = Guid.CreateVersion7();

    /// <summary>product or pace.</summary>
    public required string Of { get; init; }

    /// <summary>Id of the product, or of the person and stage: "p-1a2b3c/iron".</summary>
    public required string Subject { get; init; }
    public required double Before { get; init; }
    public required double Factor { get; init; }
    public required double Low { get; init; }
    public required double High { get; init; }
    public required int Jobs { get; init; }
    public required int Zones { get; init; }
    public required string Author { get; init; }
    public required DateTimeOffset At { get; init; }
    public string? UndoneBy { get; set; }
    public DateTimeOffset? UndoneAt { get; set; }
}

/// <summary>A link by which somebody without a name here sees one report. Only a hash of it is kept.</summary>
public sealed class ShareLink
{
    public Guid Id { get; init; } = Guid.CreateVersion7();
    public required Guid JobId { get; init; }
    public required byte[] Hash { get; init; }

    /// <summary>The quote it opens; null = it opens the report.</summary>
    public Guid? QuoteId { get; init; }

    /// <summary>What it shows besides the work: names, plate, photos, price; comma-separated.</summary>
    public required string Shows { get; init; }
    public required DateTimeOffset Until { get; init; }
    public DateTimeOffset? Revoked { get; set; }
    public int Views { get; set; }
    public DateTimeOffset? Seen { get; set; }
    public required string Author { get; init; }
    public required DateTimeOffset At { get; init; }
}

/// <summary>A letter as it left the shop: what the mail stand-in keeps in place of sending.</summary>
public sealed class Letter
{
    public Guid Id { get; init; } = Guid.CreateVersion7();
    public required Guid JobId { get; init; }
    public required string To { get; set; }
    public required string Subject { get; set; }
    public required string Words { get; set; }

    /// <summary>Name and content of what hangs on it; null = nothing.</summary>
    public string? FileName { get; init; }
    public string? File { get; init; }
    public required string Author { get; init; }
    public required DateTimeOffset At { get; init; }
}

/// <summary>A search of the logbook kept by name.</summary>
public sealed class SavedView
{
    public Guid Id { get; init; } = Guid.CreateVersion7();
    public required string Name { get; init; }
    public required string Query { get; set; }
    public required string Author { get; init; }
    public required DateTimeOffset At { get; init; }
}
