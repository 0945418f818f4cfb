using System.Text.Json;
using ToughStart.Core.Planning;

namespace ToughStart.Core.Formats;

/// <summary>Two surveys to plan and set against each other.</summary>
public sealed record SurveyPair(Survey A, Survey B);

/// <summary>What to set against each other: two surveys, or one and what is changed in it.</summary>
public static class CompareFormat
{
    private static readonly string[] Fields = ["a", "b", "survey", "house", "goal", "start", "lean", "stockOnly", "declines"];

    /// <summary>
    /// Reads <c>{ "a": survey, "b": survey }</c> or <c>{ "survey": survey, "house": {…}, "goal": …, "start": …, "lean": "gentler" or
    /// {…}, "stockOnly": …, "declines": […] }</c>; refusals come on top of those the survey has.
    /// </summary>
    public static Checked<SurveyPair> Read(JsonElement root)
    {
        if (StrictJson.Unsound(root) is { } unsound)
        {
            return new(null, [unsound], Refusal.Malformed);
        }

        var problems = new List<Problem>();
        var j = new StrictJson(problems);
        var o = j.Object(root, "", Fields);
        if (problems.Count > 0)
        {
            return new(null, problems);
        }

        Survey? One(string field)
        {
            if (!o.TryGetValue(field, out var e))
            {
                problems.Add(new Problem(field, "is missing: send a and b, or survey with what is changed in it"));
                return null;
            }

            var read = SurveyFormat.Read(e);
            problems.AddRange(read.Problems.Select(p => p with { Field = p.Field == "(document)" ? field : $"{field}.{p.Field}" }));
            return read.Value;
        }

        if (!o.ContainsKey("survey"))
        {
            var (a, b) = (One("a"), One("b"));
            return problems.Count > 0 ? new(null, problems) : new(new SurveyPair(a!, b!), []);
        }

        if (One("survey") is not { } survey)
        {
            return new(null, problems);
        }

        // The changes are read by the survey's own reader, on top of the survey.
        var node = System.Text.Json.Nodes.JsonNode.Parse(SurveyFormat.Write(survey))!.AsObject();
        foreach (var (field, e) in o.Where(x => x.Key is "house" or "goal" or "lean" or "stockOnly" or "declines"))
        {
            if (field == "house" && e.ValueKind == JsonValueKind.Object)
            {
                foreach (var rule in e.EnumerateObject())
                {
                    node["house"]!.AsObject()[rule.Name] = System.Text.Json.Nodes.JsonNode.Parse(rule.Value.GetRawText());
                }
            }
            else if (field == "lean" && e.ValueKind == JsonValueKind.String)
            {
                var named = Leaning.Named.FirstOrDefault(n => n.Id == e.GetString());
                if (named.Id is null)
                {
                    problems.Add(
                        new Problem(
                            "lean",
                            $"'{StrictJson.Shorten(e.GetString()!)}' is not known",
                            Leaning.Named.Select(n => n.Id).ToArray()
                        )
                    );
                    continue;
                }

                node["lean"] = new System.Text.Json.Nodes.JsonObject
                {
                    ["harm"] = named.Lean.Harm,
                    ["time"] = named.Lean.Time,
                    ["money"] = named.Lean.Money,
                };
            }
            else if (field == "declines" && e.ValueKind == JsonValueKind.Array && node["declines"] is System.Text.Json.Nodes.JsonArray have)
            {
                foreach (var decline in e.EnumerateArray())
                {
                    have.Add(System.Text.Json.Nodes.JsonNode.Parse(decline.GetRawText()));
                }
            }
            else
            {
                node[field] = System.Text.Json.Nodes.JsonNode.Parse(e.GetRawText());
            }
        }

        if (o.TryGetValue("start", out var start))
        {
            node["site"]!.AsObject()["start"] = System.Text.Json.Nodes.JsonNode.Parse(start.GetRawText());
        }

        if (o.Count < 2)
        {
            problems.Add(new Problem("house", "is missing: say what is changed: house, goal, start, lean, stockOnly or declines"));
        }

        var other = SurveyFormat.Read(System.Text.Encoding.UTF8.GetBytes(node.ToJsonString()));
        problems.AddRange(other.Problems);
        return problems.Count > 0 ? new(null, problems) : new(new SurveyPair(survey, other.Value!), []);
    }

    /// <summary>A comparison as <c>toughstart.compare/1</c>.</summary>
    public static byte[] Write(PlanComparison c)
    {
        var buffer = new System.Buffers.ArrayBufferWriter<byte>();
        using (
            var w = new Utf8JsonWriter(
                buffer,
                new JsonWriterOptions { Indented = true, Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping }
            )
        )
        {
            w.WriteStartObject();
            w.WriteString("format", PlanComparison.Format);
            w.WriteString("words", c.Words);
            w.WriteStartArray("totals");
            foreach (var t in c.Totals)
            {
                w.WriteStartObject();
                w.WriteString("what", t.What);
                w.WriteString("unit", t.Unit);
                w.WriteNumber("a", Math.Round(t.First, 2));
                w.WriteNumber("b", Math.Round(t.Second, 2));
                w.WriteEndObject();
            }

            w.WriteEndArray();
            w.WriteStartArray("work");
            foreach (var d in c.Work)
            {
                w.WriteStartObject();
                w.WriteString("stage", d.Stage.Word);
                w.WriteStartArray("zones");
                foreach (var z in d.Zones)
                {
                    w.WriteStringValue(z);
                }

                w.WriteEndArray();
                w.WriteString("a", d.First);
                w.WriteString("b", d.Second);
                w.WriteEndObject();
            }

            w.WriteEndArray();
            w.WriteStartArray("lines");
            foreach (var l in c.Lines)
            {
                w.WriteStartObject();
                w.WriteString("kind", l.Kind);
                w.WriteString("words", l.Words);
                w.WriteString("only", l.InSecond ? "b" : "a");
                w.WriteEndObject();
            }

            w.WriteEndArray();
            w.WriteEndObject();
        }

        return buffer.WrittenSpan.ToArray();
    }
}
