using ToughStart.Core.Provenance;
using ToughStart.Core.Surfaces;

namespace ToughStart.Core.Formats;

/// <summary>The words that fields of a survey can hold: documents and pages take them from here.</summary>
public static class SurveyWords
{
    public static readonly IReadOnlyList<string> Ages = ["fresh", "days", "weeks", "seasons"],
        Protections = ["unknown", "none", "wax", "sealant", "coating"],
        Waters = ["beads", "mixed", "sheets", "flat"],
        Floods = ["none", "fresh", "sea", "sewage", "unknown", "not-said"],
        Softnesses = ["soft", "medium", "hard", "unknown"],
        Powertrains = ["combustion", "hybrid", "electric"],
        Sheets = ["steel", "aluminium"],
        Places = ["indoors", "shade", "outdoors"],
        WindsAt = ["forecast10m", "panel"],
        WaterSupplies = ["hose", "tank", "none"],
        Grounds = ["tarmac", "new-concrete", "concrete", "block-paving", "gravel", "grass"],
        Drains = ["foul", "interceptor", "storm", "soakaway", "unknown"],
        Holds = ["flood-hygiene", "flood-workshop", "high-voltage", "nests", "biological", "brake-dust"],
        Uses = ["daily", "motorway", "towing", "farm", "track", "site", "stored"],
        Regions = ["coast", "city", "rural", "industrial", "rail"],
        Storages = ["indoors", "outdoors", "cover"],
        BrakeDusts = ["modern", "unknown"],
        Slopes = ["level", "slight", "steep"],
        Powers = ["protected", "unprotected", "none"],
        Accesses = ["platform", "ladder", "none"],
        Damages = ["etch", "scratch", "swirl", "chip", "clear-coat-failure", "dent", "own-rust", "failed-lens", "cracked-lacquer"],
        Decisions = ["noted", "recommended", "bought", "declined"],
        Becauses = ["dried", "hot", "wet", "masked-colour", "light"];

    /// <summary>Why nobody could tell, as people say it.</summary>
    public static string SayBecause(string because) =>
        because switch
        {
            "dried" => "it had dried",
            "hot" => "the panel is hot",
            "wet" => "too wet to see",
            "masked-colour" => "the paint hides it",
            "light" => "too little light",
            _ => because.Replace('-', ' '),
        };

    /// <summary>The answer of a test that could not tell.</summary>
    public const string Inconclusive = "inconclusive";

    /// <summary>Tests of a survey and the answers each can have; all can also be inconclusive.</summary>
    public static readonly IReadOnlyDictionary<string, string[]> Tests = Catalogue.Default.Tests.ToDictionary(
        t => t.Id,
        t => t.Answers.ToArray()
    );

    /// <summary>Every surface, and that nobody knows which.</summary>
    public static readonly IReadOnlyList<string> Surfaces = [.. Catalogue.Default.Surfaces.Select(s => s.Id), Surface.UnknownId];
}
