using ToughStart.Core.Formats;

namespace ToughStart.Core.Contamination;

/// <summary>Marks that etch while the vehicle waits: droppings within hours, bugs within days.</summary>
public static class Urgency
{
    private static readonly string[] Acid = ["bird-dropping", "bug"];

    /// <summary>Does anything on record still etch? What has lain for seasons has done its harm.</summary>
    public static bool Etching(Survey survey) =>
        survey.Zones.SelectMany(z => z.Findings).Any(f => f.Grade > 0 && Acid.Contains(f.Contaminant) && f.Age != "seasons");
}
