namespace ToughStart.Core.Planning;

/// <summary>When a test is made: now, in a stage, or once a stage is over.</summary>
/// <param name="Stage">Null = now.</param>
/// <param name="Over">The stage is over; else it is being worked.</param>
public readonly record struct TestMoment(Stage? Stage, bool Over)
{
    /// <summary>Reads "now", "during foam", "after contact-wash".</summary>
    public static TestMoment Of(string when) =>
        when.Split(' ') is [var how, var stage] ? new(Core.Stage.Of(stage), how == "after") : new(null, false);

    /// <summary>For people: the stage in plain words.</summary>
    public string Words =>
        Stage is not { } stage
            ? "now"
            : $"{(Over ? "after" : "during")} {(stage == Core.Stage.ContactWash ? "the wash" : stage.Word.Replace('-', ' '))}";
}
