namespace ToughStart.Data;

/// <summary>
/// A version of a job's quote, with the survey it was made from: what it says can be worked out again and never changes. What the client
/// chose stands beside it.
/// </summary>
public sealed class JobQuote
{
    public Guid Id { get; init; } = Guid.CreateVersion7();
    public required Guid JobId { get; init; }

    /// <summary>1, 2, 3 within the job.</summary>
    public required int Version { get; init; }

    /// <summary>The survey with the bottles it was planned with, toughstart.survey/1.</summary>
    public required string Survey { get; init; }

    /// <summary>As the shop advises it, toughstart.quote/1.</summary>
    public required string Body { get; init; }
    public required decimal Price { get; init; }
    public required decimal AtMost { get; init; }

    /// <summary>Last day on which it is taken.</summary>
    public required DateOnly Until { get; init; }
    public required string Terms { get; init; }

    /// <summary>What the client said they want, in their words.</summary>
    public string Said { get; set; } = "";

    /// <summary>Pictures that both looked at.</summary>
    public Guid[] Photos { get; init; } = [];
    public required string Author { get; init; }
    public required DateTimeOffset At { get; init; }

    /// <summary>The shop does not stand by it any more.</summary>
    public DateTimeOffset? Withdrawn { get; set; }

    /// <summary>Who took it, in their own hand; null = nobody has yet. Erased with the client.</summary>
    public string? TakenBy { get; set; }
    public DateTimeOffset? TakenAt { get; set; }

    /// <summary>As it was taken, with what the client turned, toughstart.quote/1.</summary>
    public string? Taken { get; set; }
    public decimal? TakenPrice { get; set; }
    public decimal? TakenAtMost { get; set; }
}

/// <summary>How a job is laid out in time: who is on it, when it begins, and what somebody has moved by hand.</summary>
public sealed class JobCrew
{
    public required Guid JobId { get; init; }

    /// <summary>Goes up with every change; whoever changes says which one they saw.</summary>
    public required int Revision { get; set; }

    /// <summary>People by staff id with their hours, pins by task, as JSON.</summary>
    public required string Body { get; set; }
    public required string Author { get; set; }
    public required DateTimeOffset At { get; set; }
}
