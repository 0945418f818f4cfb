using System.Text.Json.Nodes;

namespace ToughStart.Core.Formats;

/// <summary>What differs between two surveys, part by part, for people: what a plan in force does not know of yet.</summary>
public static class SurveyChange
{
    private static readonly (string Words, string[] Fields)[] Parts =
    [
        ("the survey", ["vehicle", "history", "zones"]),
        ("place or weather", ["site"]),
        ("goal or rules", ["goal", "house", "lean", "declines", "stockOnly", "crew"]),
        ("the shelf", ["shelf"]),
        ("the kit", ["kit"]),
    ];

    /// <summary>Parts that differ; ids and revisions do not count, nor what stands mixed, which changes with every bottle.</summary>
    public static IReadOnlyList<string> Of(Survey before, Survey after)
    {
        var (a, b) = (Document(before), Document(after));
        return [.. Parts.Where(p => p.Fields.Any(f => !JsonNode.DeepEquals(a[f], b[f]))).Select(p => p.Words)];
    }

    private static JsonObject Document(Survey s)
    {
        var document = JsonNode.Parse(SurveyFormat.Write(s))!.AsObject();
        (document["kit"] as JsonObject)?.Remove("leftovers");
        if (document["kit"] is JsonObject { Count: 0 })
        {
            document.Remove("kit");
        }

        return document;
    }
}
