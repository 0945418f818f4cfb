using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;

namespace ToughStart.Scheduling;

/// <summary>What a task is called, for people.</summary>
public static class TaskWords
{
    public static string Of(Plan plan, WorkTask t)
    {
        if (t.Part == Part.Test)
        {
            var id = t.Step.Split('/')[^1];
            return $"test: {(Catalogue.Default.Tests.FirstOrDefault(x => x.Id == id)?.Name ?? id).ToLowerInvariant()}";
        }

        var step = plan.Steps.FirstOrDefault(s => s.Key == t.Step);
        return t.Part switch
        {
            Part.Mix => $"make ready: {step?.AgentName ?? t.Step}",
            Part.Off => $"off: {step?.Name ?? t.Step}",
            _ => step?.Name ?? t.Step,
        };
    }
}
