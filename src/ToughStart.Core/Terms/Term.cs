using System.Runtime.CompilerServices;
using System.Text.Json;
using System.Text.Json.Serialization;

namespace ToughStart.Core;

/// <summary>
/// A word of the trade out of a closed set. Each is one object, compared by itself and written as its word in documents and sentences.
/// </summary>
public abstract class Term<T>
    where T : Term<T>
{
    private static readonly List<T> Known = [];

    private readonly string? _formerly;

    /// <param name="formerly">How older documents write it; never written any more.</param>
    protected Term(string word, string? formerly = null)
    {
        _formerly = formerly;
        Word = word;
        Known.Add((T)this);
    }

    /// <summary>As it is written.</summary>
    public string Word { get; }

    /// <summary>Every word of the set, in the order in which they are declared.</summary>
    public static IReadOnlyList<T> All
    {
        get
        {
            RuntimeHelpers.RunClassConstructor(typeof(T).TypeHandle);
            return Known;
        }
    }

    /// <summary>Every word of the set as it is written.</summary>
    public static IReadOnlyList<string> Words => [.. All.Select(t => t.Word)];

    /// <summary>The term that is written so; null = there is none.</summary>
    public static T? Maybe(string? word) => word is null ? null : All.FirstOrDefault(t => t.Word == word || t._formerly == word);

    /// <summary>The term that is written so.</summary>
    /// <exception cref="FormatException">There is none; the message says what there is.</exception>
    public static T Of(string word) =>
        Maybe(word) ?? throw new FormatException($"'{word}' is no {typeof(T).Name.ToLowerInvariant()}: {string.Join(", ", Words)}.");

    public sealed override string ToString() => Word;
}

/// <summary>A term in a reply: its word.</summary>
public sealed class TermConverter<T> : JsonConverter<T>
    where T : Term<T>
{
    public override T Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options) =>
        Term<T>.Maybe(reader.GetString()) ?? throw new JsonException($"allowed: {string.Join(", ", Term<T>.Words)}");

    public override void Write(Utf8JsonWriter writer, T value, JsonSerializerOptions options) => writer.WriteStringValue(value.Word);

    public override T ReadAsPropertyName(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options) =>
        Read(ref reader, typeToConvert, options);

    public override void WriteAsPropertyName(Utf8JsonWriter writer, T value, JsonSerializerOptions options) =>
        writer.WritePropertyName(value.Word);
}
