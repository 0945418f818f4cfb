namespace ToughStart.Core.Running;

/// <summary>What was done and seen on some zones in one step. Made on the client; the same <see cref="Id"/> twice counts once.</summary>
/// <param name="Batch">What was entered together.</param>
/// <param name="StepKey">Key of the step in the plan it speaks of.</param>
/// <param name="Rounds">Rounds done since the last report; 0 = looked only. A round that dried is among them and counts as not done.</param>
/// <param name="Observe">What was looked at (bleed, touch, foam, water, cloth, clayFace), or null.</param>
/// <param name="Result">The word circled; "inconclusive" with <paramref name="Because"/> when nobody could tell.</param>
public sealed record Observation(
    Guid Id,
    Guid Batch,
    string StepKey,
    IReadOnlyList<string> Zones,
    int Rounds,
    string? Observe,
    string? Result,
    string? Because
)
{
    /// <summary>Nobody could tell.</summary>
    public const string Inconclusive = "inconclusive";

    /// <summary>Revision of the plan it speaks of; null in records older than plans of record.</summary>
    public int? Plan { get; init; }

    /// <summary>The entry that was a mistake and does not count any more; null = this is an entry of its own.</summary>
    public Guid? TakesBack { get; init; }

    /// <summary>Takes this entry back.</summary>
    public Observation Back(Guid id) => new(id, id, StepKey, Zones, 0, null, null, null) { Plan = Plan, TakesBack = Id };

    /// <summary>
    /// It says nothing of earlier steps: a live log tells each. A paper card says of its zones that they were done as planned.
    /// </summary>
    public bool Live { get; init; }

    /// <summary>What was done, where its step is not one of the plan it speaks of; null = what the step does.</summary>
    public string? Treatment { get; init; }

    /// <summary>Looked at on another spot than before: only then a second look counts.</summary>
    public bool Elsewhere { get; init; }

    /// <summary>Product fraction on the panel as really used; null = as planned.</summary>
    public double? Strength { get; init; }

    /// <summary>Minutes it really stayed on; null = as planned.</summary>
    public Minutes? DwellMinutes { get; init; }

    /// <summary>Film temperature as measured, °C; null = as planned.</summary>
    public double? FilmC { get; init; }

    /// <summary>Did it dry on the panel? Then its last round counts as not done.</summary>
    public bool Dried => Result == Inconclusive && Because == DriedOn;

    /// <summary>Why nobody could tell: it had dried on the panel.</summary>
    public const string DriedOn = "dried";
}
