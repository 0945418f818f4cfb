using System.Text.Json;

namespace ToughStart.Core.Formats;

/// <summary>A document of ours, read from its first byte to its last.</summary>
internal static class WholeDocument
{
    /// <summary>Reads it as a part, or says what keeps it from being one.</summary>
    /// <param name="most">Largest that is read, bytes.</param>
    public static Checked<T> Read<T>(Part<T> part, ReadOnlyMemory<byte> json, int most)
        where T : class
    {
        if (json.Length > most)
        {
            return new(null, [new Problem("(document)", $"is larger than {most / 1024 / 1024} MB")], Refusal.TooLarge);
        }

        var problems = new List<Problem>();
        try
        {
            using var document = JsonDocument.Parse(json, StrictJson.Options);
            var (ok, read) = part.Read(new StrictJson(problems), document.RootElement, "");
            return ok ? new(read, []) : new(null, problems);
        }
        catch (JsonException e)
        {
            return new(
                null,
                [new Problem("(document)", $"is not JSON: line {e.LineNumber + 1}, position {e.BytePositionInLine + 1}")],
                Refusal.Malformed
            );
        }
    }
}
