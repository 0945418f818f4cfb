using System.Text.Json;

namespace ToughStart.Core.Formats;

/// <summary>Walks a JSON document that must not hold anything we do not know; every problem names its path.</summary>
internal sealed class StrictJson(List<Problem> problems)
{
    private const int MostProblems = 40;

    public static JsonDocumentOptions Options { get; } = new() { MaxDepth = 16, AllowDuplicateProperties = false };

    /// <summary>Problems so far.</summary>
    public int Failed => problems.Count;

    public void Fail(string path, string message, IEnumerable<string>? allowed = null)
    {
        if (problems.Count < MostProblems)
        {
            problems.Add(new Problem(path, message, allowed?.ToArray()));
        }
    }

    /// <summary>Fields of an object by name; unknown ones are refused unless they start with "x-".</summary>
    public Dictionary<string, JsonElement> Object(JsonElement e, string path, params string[] fields)
    {
        var result = new Dictionary<string, JsonElement>();
        if (e.ValueKind != JsonValueKind.Object)
        {
            Fail(path, "must be an object");
            return result;
        }

        foreach (var p in e.EnumerateObject())
        {
            if (fields.Contains(p.Name))
            {
                if (p.Value.ValueKind != JsonValueKind.Null)
                {
                    result[p.Name] = p.Value;
                }
            }
            else if (!p.Name.StartsWith("x-", StringComparison.Ordinal))
            {
                Fail(Join(path, p.Name), "is not a field here", fields);
            }
        }

        return result;
    }

    public IEnumerable<(JsonElement Item, string Path)> Array(Dictionary<string, JsonElement> o, string path, string field)
    {
        if (!o.TryGetValue(field, out var e))
        {
            yield break;
        }

        if (e.ValueKind != JsonValueKind.Array)
        {
            Fail(Join(path, field), "must be a list");
            yield break;
        }

        var i = 0;
        foreach (var item in e.EnumerateArray())
        {
            yield return (item, $"{Join(path, field)}[{i++}]");
        }
    }

    public string? Text(Dictionary<string, JsonElement> o, string path, string field, IReadOnlyList<string>? allowed = null, int most = 200)
    {
        if (!o.TryGetValue(field, out var e))
        {
            return null;
        }

        if (e.ValueKind != JsonValueKind.String)
        {
            Fail(Join(path, field), "must be text", allowed);
            return null;
        }

        var text = e.GetString()!;
        if (allowed is not null && !allowed.Contains(text))
        {
            Fail(Join(path, field), $"'{Shorten(text)}' is not known", allowed);
            return null;
        }

        if (text.Length > most)
        {
            Fail(Join(path, field), $"is {text.Length} characters long, at most {most}");
            return null;
        }

        return text;
    }

    public double? Number(Dictionary<string, JsonElement> o, string path, string field, double low, double high, string unit)
    {
        if (!o.TryGetValue(field, out var e))
        {
            return null;
        }

        if (e.ValueKind != JsonValueKind.Number || !e.TryGetDouble(out var value) || !double.IsFinite(value))
        {
            Fail(Join(path, field), $"must be a number from {low:0.###} to {high:0.###} {unit}".TrimEnd());
            return null;
        }

        if (value < low || value > high)
        {
            Fail(Join(path, field), $"{value:0.###} is outside {low:0.###} to {high:0.###} {unit}".TrimEnd());
            return null;
        }

        return value;
    }

    public int? Whole(Dictionary<string, JsonElement> o, string path, string field, int low, int high)
    {
        if (!o.TryGetValue(field, out var e))
        {
            return null;
        }

        if (e.ValueKind != JsonValueKind.Number || !e.TryGetInt32(out var value) || value < low || value > high)
        {
            Fail(
                Join(path, field),
                $"must be a whole number from {low} to {high}",
                Enumerable.Range(low, Math.Min(12, high - low + 1)).Select(i => i.ToString())
            );
            return null;
        }

        return value;
    }

    public bool? Flag(Dictionary<string, JsonElement> o, string path, string field)
    {
        if (!o.TryGetValue(field, out var e))
        {
            return null;
        }

        if (e.ValueKind is JsonValueKind.True or JsonValueKind.False)
        {
            return e.GetBoolean();
        }

        Fail(Join(path, field), "must be true or false", ["true", "false"]);
        return null;
    }

    public static string Join(string path, string field) => path.Length == 0 ? field : path + "." + field;

    public static string Shorten(string text) => text.Length > 60 ? text[..57] + "..." : text;
}
