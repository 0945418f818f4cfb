using System.Globalization;
using System.Text;
using System.Text.Json.Nodes;

namespace ToughStart.Core.Formats;

/// <summary>The types of a document that we wrote, for the pages' scripts, made from its schema.</summary>
internal static class TypeScriptTypes
{
    /// <summary>An interface a named part, a constant and a type for each list of words, the limits of numbers, and the fields by merge.</summary>
    public static string Of(JsonObject schema, IEnumerable<(string Name, Merging Merging)> fields)
    {
        var s = new StringBuilder("// Made from the code by `./tough-start docs`: the survey document as scripts see it.\n");
        var merged = fields.Where(f => f.Merging is Merging.Whole or Merging.AsSet).Select(f => $"\"{f.Name}\"");
        s.Append(
            $"\n/** Fields that a merge names by themselves. */\nexport const mergedFields = [{string.Join(", ", merged)}] as const;\n"
        );
        var done = new HashSet<string>();
        Interface(s, schema, done);
        return s.ToString();
    }

    private static void Interface(StringBuilder s, JsonObject part, HashSet<string> done)
    {
        var name = (string)part["title"]!;
        if (!done.Add(name))
        {
            return;
        }

        var required = part["required"]!.AsArray().Select(r => (string)r!).ToHashSet();
        var body = new StringBuilder($"export interface {name} {{\n");
        var before = new StringBuilder();
        var (limits, most) = (new List<string>(), new List<string>());
        foreach (var (field, value) in part["properties"]!.AsObject())
        {
            var schema = value!.AsObject();
            if (schema.ContainsKey("deprecated"))
            {
                continue;
            }

            var always = required.Contains(field) || (string?)schema["$comment"] == Part<Survey>.AlwaysWritten;
            body.Append($"  {field}{(always ? "" : "?")}: {Type(before, name + Pascal(field), schema, done)};\n");
            if (Limits(schema) is { } limit)
            {
                limits.Add($"  {field}: {limit},\n");
            }

            if (schema["maxItems"] is { } items)
            {
                most.Add($"  {field}: {items},\n");
            }
        }

        body.Append("  [key: `x-${string}`]: unknown;\n}\n");
        s.Append(before).Append('\n').Append(body);
        foreach (var (what, values) in new[] { ("Limits", limits), ("Most", most) }.Where(x => x.Item2.Count > 0))
        {
            s.Append($"export const {name}{what} = {{\n{string.Concat(values)}}} as const;\n");
        }
    }

    private static string Type(StringBuilder s, string alias, JsonObject schema, HashSet<string> done)
    {
        if (schema["enum"] is JsonArray words)
        {
            var list = string.Join(", ", words.Select(w => w!.ToJsonString()));
            // A long list stands a word a line.
            list = list.Length > MostOnALine ? $"\n  {string.Join(",\n  ", words.Select(w => w!.ToJsonString()))},\n" : list;
            s.Append($"\nexport const {alias} = [{list}] as const;\nexport type {alias} = (typeof {alias})[number];\n");
            return alias;
        }

        if (schema["oneOf"] is JsonArray either)
        {
            return string.Join(" | ", either.Select((e, i) => Type(s, $"{alias}{i + 1}", e!.AsObject(), done)));
        }

        switch ((string)schema["type"]!)
        {
            case "array":
                return Type(s, alias, schema["items"]!.AsObject(), done) + "[]";
            case "object":
                Interface(s, schema, done);
                return (string)schema["title"]!;
            case "integer" or "number":
                return "number";
            case var simple:
                return simple;
        }
    }

    private static string? Limits(JsonObject schema)
    {
        var number = schema["items"] as JsonObject ?? schema;
        return number["minimum"] is { } low && number["maximum"] is { } high
            ? string.Create(CultureInfo.InvariantCulture, $"[{(double)low}, {(double)high}]")
            : null;
    }

    private const int MostOnALine = 100;

    private static string Pascal(string field) => field.Capital();
}
