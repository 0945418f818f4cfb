using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;

namespace ToughStart.Core.Formats;

/// <summary>
/// Reads surveys that were saved by this product, perhaps by an older engine: what an id that has left the catalogue said is left out and
/// named; the rest stands. Users' files are read strictly, by <see cref="SurveyFormat.Read"/>.
/// </summary>
public static partial class StoredSurvey
{
    /// <summary>Passes over a document; each leaves out everything that the one before could not read.</summary>
    private const int MostPasses = 200;

    /// <summary>Reads a stored survey.</summary>
    /// <returns>The survey, or the problems that nothing can be left out for; and what was left out, by path with the reason.</returns>
    public static (Checked<Survey> Survey, IReadOnlyList<string> LeftOut) Read(ReadOnlyMemory<byte> json)
    {
        var read = SurveyFormat.Read(json);
        if (read.Ok || read.Refusal != Refusal.Invalid)
        {
            return (read, []);
        }

        var leftOut = new List<string>();
        var document = JsonNode.Parse(json.Span)!;
        for (var pass = 0; pass < MostPasses && !read.Ok; pass++)
        {
            var cuts = read
                .Problems.Select(p => (Problem: p, Cut: Find(document, p.Field)))
                .Where(x => x.Cut is not null)
                .DistinctBy(x => (x.Cut!.Value.Parent, x.Cut.Value.Key))
                .ToArray();
            if (cuts.Length == 0)
            {
                break;
            }

            // Later items of a list first, so that the places of the earlier ones still hold.
            foreach (var (problem, cut) in cuts.OrderByDescending(x => x.Cut!.Value.Index))
            {
                leftOut.Add($"{problem.Field}: {problem.Message}");
                if (cut!.Value.Parent is JsonArray list)
                {
                    list.RemoveAt(cut.Value.Index);
                }
                else
                {
                    cut.Value.Parent.AsObject().Remove(cut.Value.Key);
                }
            }

            read = SurveyFormat.Read(JsonSerializer.SerializeToUtf8Bytes(document));
        }

        return (read, leftOut);
    }

    /// <summary>
    /// What to leave out for a problem: the item of a list that is about it, else the field; a zone keeps its other fields.
    /// </summary>
    private static (JsonNode Parent, string Key, int Index)? Find(JsonNode document, string path)
    {
        var steps = new List<(JsonNode Parent, string Key, int Index)>();
        var at = document;
        foreach (Match part in Segment().Matches(path))
        {
            if (
                part.Groups["index"] is { Success: true } index
                && at is JsonArray list
                && int.Parse(index.ValueSpan, System.Globalization.CultureInfo.InvariantCulture) is var i
                && i < list.Count
            )
            {
                steps.Add((list, index.Value, i));
                at = list[i];
            }
            else if (part.Groups["name"] is { Success: true } name && at is JsonObject o && o.ContainsKey(name.Value))
            {
                steps.Add((o, name.Value, -1));
                at = o[name.Value];
            }
            else
            {
                break;
            }
        }

        var zone = steps.FindIndex(s => s.Index >= 0 && ReferenceEquals(s.Parent, document["zones"]));
        var item = steps.FindIndex(zone + 1, s => s.Index >= 0);
        return item >= 0 ? steps[item]
            : zone >= 0
                ? steps.Count > zone + 1 && steps[zone + 1].Key != "zone" ? steps[zone + 1]
                    : steps[zone]
            : steps.Count > 1 ? steps[1]
            : steps.Count == 1 && steps[0].Key is not ("format" or "vehicle" or "goal" or "zones") ? steps[0]
            : null;
    }

    [GeneratedRegex(@"\[(?<index>\d+)\]|(?<name>[^.\[\]]+)")]
    private static partial Regex Segment();
}
