namespace ToughStart.Core.Formats;

/// <summary>A school of practice the shop can choose; the first choice is the default.</summary>
public sealed record HouseRule(string Id, string Name, IReadOnlyList<(string Value, string Words)> Choices);

/// <summary>All house rules with their choices, default first.</summary>
public static class HouseRules
{
    public static IReadOnlyList<HouseRule> All { get; } =
    [
        new("firstLiquid", "First liquid", [("water", "Water first, then chemistry"), ("chemistry", "Chemistry on the dry dirt, then rinse")]),
        new("foam", "Foam", [("when-needed", "Where film or grit needs it"), ("optional", "As an extra"), ("always", "Always")]),
        new("rinseFoamBeforeContact", "Foam before contact", [("true", "Rinse the foam off, then touch"), ("false", "Wash through the foam")]),
        new("wheels", "Wheels", [("first", "First"), ("during-foam", "While the body foam dwells"), ("after-prewash", "After the pre-wash"), ("with-prewash", "With the pre-wash")]),
        new("washMedia", "Wash media", [("two-bucket", "Two buckets with grit guards"), ("mitt-per-area", "A fresh mitt per area"), ("one-rinse-bucket", "One rinse bucket, product on the sponge"), ("rinseless", "Rinseless towels"), ("waterless", "Waterless, folded towels")]),
        new("waterlessOnHeavy", "Waterless on heavy dirt", [("refuse", "Refuse"), ("warn", "Warn and go on")]),
        new("iron", "Iron", [("after-wash", "After the contact wash"), ("foam-then-spot", "Iron foam first, then where needed"), ("with-clay", "Together with clay")]),
        new("tarIron", "Tar and iron", [("tar-first", "Tar, then iron"), ("iron-first", "Iron, then tar")]),
        new("ironCoverage", "Iron coverage", [("spritz", "Where it bleeds"), ("low", "Below the door handles"), ("all", "Every panel")]),
        new("clay", "Clay", [("if-rough", "Only where the hand feels it"), ("always", "Always before protection")]),
        new("marring", "Marring", [("counts", "Counts even before polishing"), ("cheap-if-polishing", "Cheap when polishing follows")]),
        new("strongChemistry", "Strong chemistry", [("limited", "Allowed within limits"), ("neutral-only", "Neutral only, more rounds")]),
        new("apcOnBugs", "Cleaner on bugs", [("last", "Only low down, last"), ("presoak", "As a pre-soak")]),
        new("prewashDwell", "Pre-wash dwell", [("window", "Dwell within the wet window"), ("rinse-at-once", "Spray and rinse at once")]),
        new("oldProtection", "Old protection", [("by-goal", "By goal"), ("strip-at-wash", "Always strip at the wash"), ("strip-before-correction", "Strip just before correction")]),
        new("dryOut", "If it dries", [("never", "Never: smaller sections"), ("rewet", "Re-wet and go on")]),
        new("clayLubricant", "Clay lubricant", [("rinseless", "Rinseless 1:16"), ("shampoo", "Shampoo mixed fresh"), ("iron-remover", "Iron remover")]),
        new("drying", "Drying", [("blot", "Blot and blower"), ("blade-glass", "Blade on glass, then towel"), ("aid", "Drying aid")]),
        new("tyres", "Tyre finish", [("none", "None"), ("satin", "Satin"), ("gloss", "Gloss")]),
    ];

    private static readonly Dictionary<string, string> Defaults = All.ToDictionary(r => r.Id, r => r.Choices[0].Value);

    public static string Default(string id) => Defaults[id];
}
