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

    public static string Join(string path, string field) => path.Length == 0 ? field : path + "." + field;

    public static string Shorten(string text) => text.Length > 60 ? text[..57] + "..." : text;
}
