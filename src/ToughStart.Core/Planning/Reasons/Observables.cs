using ToughStart.Core.Provenance;

namespace ToughStart.Core.Planning;

/// <summary>What to look at in each stage, and what the answer means. Tests that belong to no step have keys of their own.</summary>
public static class Observables
{
    /// <summary>The stop sign of a stage, with the cap of its treatment; null where nothing is looked at.</summary>
    public static Until? Of(Stage stage, Treatment t, Catalogue c) =>
        c.Looks.TryGetValue(stage, out var u) ? u with { MaxRounds = t.MaxRounds } : null;

    /// <summary>What an answer is called in a stage: of bugs shells are left, of tar a smear.</summary>
    public static string Say(Stage stage, string answer) =>
        Catalogue.Default.AnswerWords.GetValueOrDefault((stage, answer))
        ?? (answer == Running.Observation.Inconclusive ? "could not tell" : answer.Replace('-', ' '));

    /// <summary>Key under which a test's answers are recorded: it belongs to no step, nothing is done in it.</summary>
    public static string TestKey(PlannedTest t) => $"test/{t.Test}/{t.When.Replace(' ', '-')}";

    /// <summary>What is asked after a round, and how to look; short enough for wet hands.</summary>
    public static (string Ask, string How) Question(string look) =>
        look switch
        {
            "bleed" => ("Does it still bleed?", "Rinsed, cool, in good light. On red or violet paint look at a white cloth."),
            "touch" => ("How does it feel?", "Hand in a thin bag, panel wet and clean."),
            "foam" => ("What colour is the foam?", "Brush once more and look at what comes up."),
            "water" => ("What does water do?", "Open hose, no nozzle, and step back."),
            "cloth" => ("What is on the cloth?", "White, wet, drawn once along a low place; no pressure."),
            "look" => ("What is left?", "Low and close, along the light."),
            "light" => ("What does the lamp show?", "Dry, lamp low along the panel, then from the other side."),
            "clayFace" => ("What is on the clay?", "Fold it open and look."),
            _ => ("What do you see?", Instruction(look)),
        };

    /// <summary>The sentence that says what to do for a test.</summary>
    public static string Instruction(string test) =>
        test switch
        {
            "bleed" =>
                "Iron remover on a cool, clean spot, one minute: does it run purple? On red or violet paint catch it on a white cloth.",
            "touch" => "Hand in a thin bag over the wet, washed panel: smooth, grainy or rough?",
            "foam" => "Look at the foam on the tyre: white, tan or brown?",
            "water" => "Open hose, no nozzle: does the water bead, sheet or lie flat?",
            "cloth" => "White cloth along a low panel: clean, grey or gritty?",
            "look" => "Look again, low and close, once the wash is off.",
            _ => TestGuide.Card(test).Do,
        };
}
