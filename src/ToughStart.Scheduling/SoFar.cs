namespace ToughStart.Scheduling;

/// <summary>How far the work of a plan is: what is behind, what lies on the panels, and where everybody stands.</summary>
/// <param name="Now">s from the start of the timeline; what is not begun begins no earlier.</param>
/// <param name="Rounds">Rounds of a step that are behind on a zone; int.MaxValue = whatever was planned, as after a skip.</param>
/// <param name="Films">What lies.</param>
/// <param name="Tested">Was this test made on all its zones?</param>
/// <param name="Stands">Place round the vehicle, by person; who is not in it may come from anywhere.</param>
public sealed record SoFar(
    int Now,
    Func<Core.Planning.Step, string, int> Rounds,
    IReadOnlyList<Lying> Films,
    Func<Core.Planning.PlannedTest, bool> Tested,
    IReadOnlyDictionary<string, int> Stands
)
{
    internal bool Touched(Core.Planning.Step step) =>
        Films.Any(f => f.Step == step.Key) || step.Zones.Any(z => Rounds(step, z) is > 0 and < int.MaxValue);
}

/// <summary>A film that lies on a zone, in seconds from the start of the timeline.</summary>
/// <param name="Step">Key of the step.</param>
/// <param name="Works">From when it may be rinsed.</param>
/// <param name="RinseBy">By when it must be.</param>
/// <param name="Who">Laid it on.</param>
public sealed record Lying(string Step, string Zone, int Round, int From, int Works, int RinseBy, string Who);

/// <summary>A film that was laid on and that nobody can be at in time.</summary>
/// <param name="On">The task that laid it on.</param>
/// <param name="Off">The task that takes it off.</param>
/// <param name="Seconds">By how much it is late.</param>
/// <param name="Who">Who can be there first.</param>
public sealed record LateFilm(string On, string Off, int Seconds, string Who);
