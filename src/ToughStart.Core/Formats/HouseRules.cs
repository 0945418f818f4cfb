namespace ToughStart.Core.Formats;

/// <summary>A school of practice the shop can choose; the first choice is the default.</summary>
public sealed record HouseRule(string Id, string Name, IReadOnlyList<(string Value, string Words)> Choices);

/// <summary>All house rules with their choices, default first.</summary>
public static class HouseRules
{
    public static IReadOnlyList<HouseRule> All { get; } =
    [
        new(
            "firstLiquid",
            "First liquid",
            [("water", "Water first, then chemistry"), ("chemistry", "Chemistry on the dry dirt, then rinse")]
        ),
        new("foam", "Foam", [("when-needed", "Where film or grit needs it"), ("optional", "As an extra"), ("always", "Always")]),
        new(
            "rinseFoamBeforeContact",
            "Foam before contact",
            [("true", "Rinse the foam off, then touch"), ("false", "Wash through the foam")]
        ),
        new(
            "wheels",
            "Wheels",
            [
                ("first", "First"),
                ("during-foam", "While the body foam dwells"),
                ("after-prewash", "After the pre-wash"),
                ("with-prewash", "With the pre-wash"),
            ]
        ),
        new(
            "washMedia",
            "Wash media",
            [
                ("two-bucket", "Two buckets with grit guards"),
                ("mitt-per-area", "A fresh mitt per area"),
                ("one-rinse-bucket", "One rinse bucket, product on the sponge"),
                ("fresh-foam", "Fresh foam laid again, mitt through it"),
                ("rinseless", "Rinseless towels"),
                ("waterless", "Waterless, folded towels"),
            ]
        ),
        new("waterlessOnHeavy", "Waterless on heavy dirt", [("refuse", "Refuse"), ("warn", "Warn and go on")]),
        new(
            "iron",
            "Iron",
            [
                ("after-wash", "After the contact wash"),
                ("foam-then-spot", "Iron foam first, then where needed"),
                ("with-clay", "Together with clay"),
            ]
        ),
        new("tarIron", "Tar and iron", [("tar-first", "Tar, then iron"), ("iron-first", "Iron, then tar")]),
        new("ironCoverage", "Iron coverage", [("spritz", "Where it bleeds"), ("low", "Below the door handles"), ("all", "Every panel")]),
        new("clay", "Clay", [("if-rough", "Only where the hand feels it"), ("always", "Always before protection")]),
        new("marring", "Marring", [("counts", "Counts even before polishing"), ("cheap-if-polishing", "Cheap when polishing follows")]),
        new("strongChemistry", "Strong chemistry", [("limited", "Allowed within limits"), ("neutral-only", "Neutral only, more rounds")]),
        new("apcOnBugs", "Cleaner on bugs", [("last", "Only low down, last"), ("presoak", "As a pre-soak")]),
        new("prewashDwell", "Pre-wash dwell", [("window", "Dwell within the wet window"), ("rinse-at-once", "Spray and rinse at once")]),
        new(
            "oldProtection",
            "Old protection",
            [
                ("by-goal", "By goal"),
                ("strip-at-wash", "Always strip at the wash"),
                ("strip-before-correction", "Strip just before correction"),
            ]
        ),
        new("dryOut", "If it dries", [("never", "Never: smaller sections"), ("rewet", "Re-wet and go on")]),
        new(
            "clayLubricant",
            "Clay lubricant",
            [("rinseless", "Rinseless 1:16"), ("shampoo", "Shampoo mixed fresh"), ("iron-remover", "Iron remover")]
        ),
        new("drying", "Drying", [("blot", "Blot and blower"), ("blade-glass", "Blade on glass, then towel"), ("aid", "Drying aid")]),
        new("tyres", "Tyre finish", [("none", "None"), ("satin", "Satin"), ("gloss", "Gloss")]),
    ];

    /// <summary>Why a school does it so, in a sentence.</summary>
    /// <exception cref="KeyNotFoundException">There is no such rule or choice.</exception>
    public static string Why(string id, string value) => Reasons[(id, value)];

    private static readonly Dictionary<(string, string), string> Reasons = new()
    {
        [("firstLiquid", "water")] = "Water takes the loose grit before chemistry loosens the film; product is not spent on clods.",
        [("firstLiquid", "chemistry")] =
            "On dry dirt the product stays strong and clings; the pressure rinse then takes film and grit together.",
        [("foam", "when-needed")] = "Foam goes where film or grit asks for it; elsewhere it is water and minutes.",
        [("foam", "optional")] = "Foam only where it clearly pays: the wash does the rest.",
        [("foam", "always")] = "Foam on every visit: it softens what nobody saw and calms the wash.",
        [("rinseFoamBeforeContact", "true")] = "The rinse carries loosened grit away before a hand touches.",
        [("rinseFoamBeforeContact", "false")] = "The foam is the lubricant; rinsed off, the mitt runs on bare water.",
        [("wheels", "first")] = "The dirtiest work is done before the body is wet, and splash lands on dirty paint.",
        [("wheels", "during-foam")] = "Wheels are done while the body foam dwells: waiting becomes work.",
        [("wheels", "after-prewash")] = "The pre-wash has softened wheels and arches before brushes go in.",
        [("wheels", "with-prewash")] = "One foam over everything; wheels and body go through the stages together.",
        [("washMedia", "two-bucket")] = "Grit is rinsed out of the mitt into its own bucket.",
        [("washMedia", "mitt-per-area")] = "A fresh mitt for each area: nothing picked up goes back on paint.",
        [("washMedia", "one-rinse-bucket")] = "Product on the sponge, one bucket of rinse: quick on cars that are nearly clean.",
        [("washMedia", "fresh-foam")] = "The first foam carries the grit off; a second, clean one is the lubricant under the mitt.",
        [("washMedia", "rinseless")] = "Little water, no rinse: right on light dirt, wrong on film and grit.",
        [("washMedia", "waterless")] = "No water at all: for dust; towels carry everything that is on the paint.",
        [("waterlessOnHeavy", "refuse")] = "Heavy dirt under a towel scratches: two buckets instead.",
        [("waterlessOnHeavy", "warn")] = "It is done all the same; a correction is planned with it.",
        [("iron", "after-wash")] = "Film is off and the reaction is seen; remover is not wasted on dirt.",
        [("iron", "foam-then-spot")] = "Iron foam as pre-wash saves a stage where iron is light; the rest is spotted.",
        [("iron", "with-clay")] = "Remover as clay lubricant: one pass, a reactive film under the hand.",
        [("tarIron", "tar-first")] = "Tar seals iron in; off with it first.",
        [("tarIron", "iron-first")] = "Iron first, then tar takes what is left and its residue is washed once.",
        [("ironCoverage", "spritz")] = "A drop tells where it bleeds; only there it is sprayed.",
        [("ironCoverage", "low")] = "Below the door handles it is nearly always there; above it is tested.",
        [("ironCoverage", "all")] = "Every panel: nothing hidden stays, and the dearest bottle goes fastest.",
        [("clay", "if-rough")] = "Smooth paint gains nothing from clay but marks.",
        [("clay", "always")] = "Before protection everything is clayed: what the hand misses the coating would seal in.",
        [("marring", "counts")] = "Marks cost even where polishing follows: every micrometre of polish is paint.",
        [("marring", "cheap-if-polishing")] = "What the polish takes out anyway may be quick to make.",
        [("strongChemistry", "limited")] = "Strong where the surface allows it and gentle has failed.",
        [("strongChemistry", "neutral-only")] = "Neutral only: more rounds, and some dirt stays as far as it goes.",
        [("apcOnBugs", "last")] = "Soak and tools first; cleaner strips wax on the very panels that need it.",
        [("apcOnBugs", "presoak")] = "Cleaner softens shells at once; the front is protected again after.",
        [("prewashDwell", "window")] = "The longer it works wet, the less the hand has to.",
        [("prewashDwell", "rinse-at-once")] = "Strong product, sprayed and rinsed at once: no risk of drying, less effect.",
        [("oldProtection", "by-goal")] = "Kept for a wash, stripped before protection or correction.",
        [("oldProtection", "strip-at-wash")] = "Always stripped at the wash: every visit starts from bare paint.",
        [("oldProtection", "strip-before-correction")] =
            "Washed neutral, stripped just before correction: the paint is bare as short as can be.",
        [("dryOut", "never")] = "What dried has etched or stained before it cleaned: smaller sections.",
        [("dryOut", "rewet")] = "Re-wet and go on; the round counts as not done.",
        [("clayLubricant", "rinseless")] = "Slick, clear, leaves little: the clay face can be read.",
        [("clayLubricant", "shampoo")] = "Cheap and at hand, mixed fresh; more residue to wash off.",
        [("clayLubricant", "iron-remover")] = "Works while it glides; smells, and must not dry.",
        [("drying", "blot")] = "Nothing is dragged over paint; crevices are blown out.",
        [("drying", "blade-glass")] = "The blade is fast on glass and never touches paint.",
        [("drying", "aid")] = "The towel glides and gloss is left; on stripped paint it lays fillers.",
        [("tyres", "none")] = "Clean rubber, nothing to sling.",
        [("tyres", "satin")] = "Even and quiet, water-based.",
        [("tyres", "gloss")] = "Wet look; more to sling and to wash off next time.",
    };

    private static readonly Dictionary<string, string> Defaults = All.ToDictionary(r => r.Id, r => r.Choices[0].Value);

    public static string Default(string id) => Defaults[id];
}
