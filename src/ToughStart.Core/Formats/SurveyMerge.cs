using System.Text.Json.Nodes;

namespace ToughStart.Core.Formats;

/// <summary>Two people changed the same thing in different ways; neither wins without a person's word.</summary>
/// <param name="What">A zone id, a field of the document ("goal", "vehicle", "kit"), or "house.&lt;rule&gt;".</param>
public sealed record MergeConflict(string What);

/// <summary>The outcome of a merge.</summary>
/// <param name="Merged">Both sides' changes; where they conflict, theirs stands until somebody decides.</param>
/// <param name="FromThem">What they changed and we did not: zones and parts to show anew.</param>
public sealed record MergedSurvey(Survey Merged, IReadOnlyList<MergeConflict> Conflicts, IReadOnlyList<string> FromThem);

/// <summary>
/// Two people survey one vehicle from two tablets. Against the survey both started from, a part that only one of them touched takes that
/// one's version; a part both changed to the same is no conflict; a part both changed differently is. The parts are those of the document as
/// it is written: whatever field a survey has or will have is merged by itself. Zones are merged one by one, house rules too, and refusals
/// are a set: what either added is in, what either took back is out.
/// </summary>
public static class SurveyMerge
{
    /// <summary>Merges <paramref name="mine"/> and <paramref name="theirs"/>, both made from <paramref name="start"/>.</summary>
    public static MergedSurvey ThreeWay(Survey start, Survey mine, Survey theirs)
    {
        var (s, a, b) = (Document(start), Document(mine), Document(theirs));
        var merge = new Merge();
        var merged = new JsonObject { ["format"] = Survey.Format };
        foreach (var (field, how) in SurveyFormat.Fields)
        {
            switch (how)
            {
                case Merging.Whole:
                    merge.Into(merged, field, field, s[field], a[field], b[field]);
                    break;
                case Merging.ByField:
                    merged[field] = ByField(field, [s, a, b], merge);
                    break;
                case Merging.ByZone:
                    merged[field] = ByZone(field, [s, a, b], merge);
                    break;
                case Merging.AsSet:
                    merged[field] = AsSet(field, s, a, b, merge);
                    break;
                case Merging.Never:
                    break;
            }
        }

        var read = SurveyFormat.Read(System.Text.Encoding.UTF8.GetBytes(merged.ToJsonString()));
        if (!read.Ok)
        {
            // One changed the body form, the other painted zones it does not have: nobody but a person can say which it is.
            return new MergedSurvey(theirs, [new MergeConflict("vehicle")], ["vehicle"]);
        }

        return new MergedSurvey(read.Value! with { Id = mine.Id, Revision = mine.Revision }, merge.Conflicts, merge.FromThem);
    }

    private static JsonObject ByField(string field, JsonObject[] versions, Merge merge)
    {
        var parts = versions.Select(d => d[field] as JsonObject ?? []).ToArray();
        var merged = new JsonObject();
        foreach (var name in parts.SelectMany(p => p.Select(x => x.Key)).Distinct().Order(StringComparer.Ordinal))
        {
            merge.Into(merged, name, $"{field}.{name}", parts[0][name], parts[1][name], parts[2][name]);
        }

        return merged;
    }

    private static JsonArray ByZone(string field, JsonObject[] versions, Merge merge)
    {
        var byId = versions.Select(d => d[field]!.AsArray().ToDictionary(z => z!["zone"]!.GetValue<string>(), z => z)).ToArray();
        var merged = new JsonArray();
        foreach (var id in byId.SelectMany(z => z.Keys).Distinct().Order(StringComparer.Ordinal))
        {
            if (merge.Pick(id, byId[0].GetValueOrDefault(id), byId[1].GetValueOrDefault(id), byId[2].GetValueOrDefault(id)) is { } zone)
            {
                merged.Add(zone.DeepClone());
            }
        }

        return merged;
    }

    private static JsonArray AsSet(string field, JsonObject s, JsonObject a, JsonObject b, Merge merge)
    {
        Dictionary<string, JsonNode> Of(JsonObject d) => (d[field] as JsonArray ?? []).ToDictionary(x => x!.ToJsonString(), x => x!);
        var (start, mine, theirs) = (Of(s), Of(a), Of(b));
        var all = mine.Concat(theirs)
            .DistinctBy(x => x.Key)
            .Where(x => start.ContainsKey(x.Key) ? mine.ContainsKey(x.Key) && theirs.ContainsKey(x.Key) : true)
            .OrderBy(x => x.Key, StringComparer.Ordinal);
        if (!theirs.Keys.ToHashSet().SetEquals(start.Keys) && !theirs.Keys.ToHashSet().SetEquals(mine.Keys))
        {
            merge.FromThem.Add(field);
        }

        return new JsonArray([.. all.Select(x => x.Value.DeepClone())]);
    }

    private static JsonObject Document(Survey s) => JsonNode.Parse(SurveyFormat.Write(s))!.AsObject();

    /// <summary>What came together so far.</summary>
    private sealed class Merge
    {
        public List<MergeConflict> Conflicts { get; } = [];

        public List<string> FromThem { get; } = [];

        public JsonNode? Pick(string what, JsonNode? start, JsonNode? mine, JsonNode? theirs)
        {
            if (JsonNode.DeepEquals(mine, theirs) || JsonNode.DeepEquals(theirs, start))
            {
                return mine;
            }

            FromThem.Add(what);
            if (!JsonNode.DeepEquals(mine, start))
            {
                Conflicts.Add(new MergeConflict(what));
            }

            return theirs;
        }

        public void Into(JsonObject merged, string field, string what, JsonNode? start, JsonNode? mine, JsonNode? theirs)
        {
            if (Pick(what, start, mine, theirs) is { } value)
            {
                merged[field] = value.DeepClone();
            }
        }
    }
}
