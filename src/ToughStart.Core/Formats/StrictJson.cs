using System.Text.Json;

namespace ToughStart.Core.Formats;

/// <summary>Walks a JSON document that must not hold anything we do not know; every problem names its path.</summary>
internal sealed class StrictJson(List<Problem> problems)
{
    private const int MostProblems = 40;

    public static JsonDocumentOptions Options { get; } = new() { MaxDepth = 16, AllowDuplicateProperties = false };

    /// <summary>Problems so far, those too that were no longer named.</summary>
    public int Failed { get; private set; }

    /// <summary>The vehicle that the document speaks of, once it was read.</summary>
    public Vehicles.Vehicle? Vehicle { get; set; }

    public void Fail(string path, string message, IEnumerable<string>? allowed = null)
    {
        Failed++;
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

    /// <summary>Can every name and text of a document be read and kept: no half of a letter, no byte that is none, no NUL?</summary>
    /// <returns>What is wrong, by path; null = nothing.</returns>
    public static Problem? Unsound(JsonElement e, string path = "")
    {
        try
        {
            return e.ValueKind switch
            {
                JsonValueKind.Object => e.EnumerateObject()
                    .Select(p => Unsound(p.Name, path) ?? Unsound(p.Value, Join(path, p.Name)))
                    .FirstOrDefault(p => p is not null),
                JsonValueKind.Array => e.EnumerateArray().Select((x, i) => Unsound(x, $"{path}[{i}]")).FirstOrDefault(p => p is not null),
                JsonValueKind.String => Unsound(e.GetString()!, path),
                _ => null,
            };
        }
        catch (InvalidOperationException)
        {
            return new(path.Length == 0 ? "(document)" : path, "holds text that is no text: half of a letter, or bytes that are not UTF-8");
        }
    }

    private static Problem? Unsound(string text, string path) =>
        text.Contains('\0', StringComparison.Ordinal)
            ? new(path.Length == 0 ? "(document)" : path, "holds a NUL, which no text does")
            : null;

    public static string Join(string path, string field) => path.Length == 0 ? field : path + "." + field;

    public static string Shorten(string text) => text.Length > 60 ? text[..57] + "..." : text;
}
