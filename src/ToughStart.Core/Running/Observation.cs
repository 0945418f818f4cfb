namespace ToughStart.Core.Running;

/// <summary>What was done and seen on some zones in one step. Made on the client; the same <see cref="Id"/> twice counts once.</summary>
/// <param name="Batch">What was entered together: a plan is made again after each batch, and the next batch speaks of that plan.</param>
/// <param name="StepKey">Key of the step in the plan of that time.</param>
/// <param name="Rounds">Rounds done; 0 = not done.</param>
/// <param name="Observe">What was looked at (bleed, touch, foam, water, cloth, clayFace), or null.</param>
/// <param name="Result">The word circled; "inconclusive" with <paramref name="Because"/> when nobody could tell.</param>
public sealed record Observation(Guid Id, Guid Batch, string StepKey, IReadOnlyList<string> Zones, int Rounds, string? Observe, string? Result, string? Because);
