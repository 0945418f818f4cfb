namespace ToughStart.Core.Running;

/// <summary>What was done and seen on some zones in one step. Made on the client; the same <see cref="Id"/> twice counts once.</summary>
/// <param name="StepKey">Key of the plan's step.</param>
/// <param name="Rounds">Rounds done; 0 = not done.</param>
/// <param name="Observe">What was looked at (bleed, touch, foam, water, cloth, clayFace), or null.</param>
/// <param name="Result">The word circled; "inconclusive" with <paramref name="Because"/> when nobody could tell.</param>
public sealed record Observation(Guid Id, string StepKey, IReadOnlyList<string> Zones, int Rounds, string? Observe, string? Result, string? Because);
