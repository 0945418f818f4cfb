namespace ToughStart.Core.Planning;

/// <summary>What to look at in each stage, and what the answer means. Tests that belong to no step have keys of their own.</summary>
public static class Observables
{
    private static readonly Dictionary<string, Until> ByStage = new()
    {
        ["pre-wash"] = new("cloth", ["clean"], ["grey", "gritty"], 2, "still grey after 2: a stronger pre-wash within the limits"),
        ["foam"] = new("cloth", ["clean"], ["grey", "gritty"], 3, "still gritty: rinse again, no touch yet"),
        ["spot"] = new("cloth", ["clean"], ["grey", "gritty"], 2, "an outline stays: etched, refer it"),
        ["tyres"] = new("foam", ["white"], ["tan", "brown"], 4, "4 rounds are the cap of a visit"),
        ["tar"] = new("cloth", ["clean"], ["grey", "gritty"], 3, "rest to the clay"),
        ["iron"] = new("bleed", ["none"], ["faint", "strong"], 4, "4 rounds and still strong: clay has to take it; wheels: acid only where the surface allows"),
        ["clay"] = new("touch", ["smooth"], ["grainy", "rough"], 2, "black lumps on the clay: stop, back to tar and iron"),
        ["strip"] = new("water", ["flat"], ["beads", "mixed", "sheets"], 3, "after 3 the finishing polish clears the rest"),
    };

    public static Until? Of(string stage, int maxRounds) => ByStage.TryGetValue(stage, out var u) ? u with { MaxRounds = Math.Min(u.MaxRounds, Math.Max(1, maxRounds)) } : null;

    /// <summary>The kind an observation measures.</summary>
    public static string? KindOf(string observe) => observe switch
    {
        "bleed" => "iron",
        "touch" => "bonded-mix",
        "foam" => "tyre-bloom",
        "water" => "old-protection",
        "look" => "tar",
        _ => null,
    };

    /// <summary>Key under which a test's answers are recorded: it belongs to no step, nothing is done in it.</summary>
    public static string TestKey(PlannedTest t) => $"test/{t.Test}/{t.When.Replace(' ', '-')}";

    /// <summary>The sentence that says what to do for a test.</summary>
    public static string Instruction(string test) => test switch
    {
        "bleed" => "Iron remover on a cool, clean spot, one minute: does it run purple? On red or violet paint catch it on a white cloth.",
        "touch" => "Hand in a thin bag over the wet, washed panel: smooth, grainy or rough?",
        "foam" => "Look at the foam on the tyre: white, tan or brown?",
        "water" => "Open hose, no nozzle: does the water bead, sheet or lie flat?",
        "cloth" => "White cloth along a low panel: clean, grey or gritty?",
        "look" => "Look again, low and close, once the wash is off.",
        _ => TestGuide.Card(test).Do,
    };
}
