using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace ToughStart.Core.Formats;

/// <summary>The common things that fields hold.</summary>
internal static class Hold
{
    /// <summary>Most characters of a name, a place or a time.</summary>
    private const int MostShort = 200;

    public static Holds<bool> Flag { get; } =
        new(
            (w, v) => w.WriteBooleanValue(v),
            (j, e, path) =>
                e.ValueKind is JsonValueKind.True or JsonValueKind.False
                    ? (true, e.GetBoolean())
                    : Wrong<bool>(j, path, "must be true or false", ["true", "false"]),
            () => new JsonObject { ["type"] = "boolean" }
        );

    public static Holds<string> Text { get; } =
        new(
            (w, v) => w.WriteStringValue(v),
            (j, e, path) => e.ValueKind is JsonValueKind.String ? (true, e.GetString()!) : Wrong<string>(j, path, "must be text"),
            () => new JsonObject { ["type"] = "string" }
        );

    /// <summary>Text of so many characters at most.</summary>
    public static Holds<string> Short(int most = MostShort) =>
        Text with
        {
            Read = (j, e, path) =>
                Text.Read(j, e, path) is not (true, var text) ? (false, "")
                : text.Length <= most ? (true, text)
                : Wrong<string>(j, path, $"is {text.Length} characters long, at most {most}"),
        };

    /// <summary>Text that must pass a test.</summary>
    /// <param name="must">What it must be, said where it is not.</param>
    public static Holds<string> Form(Func<string, bool> test, string must, string? pattern = null) =>
        Text with
        {
            Read = (j, e, path) =>
                Short().Read(j, e, path) is not (true, var text) ? (false, "")
                : test(text) ? (true, text)
                : Wrong<string>(j, path, must),
            Schema = () => pattern is null ? Text.Schema() : new JsonObject { ["type"] = "string", ["pattern"] = pattern },
        };

    /// <summary>One of some words.</summary>
    public static Holds<string> OneOf(IReadOnlyList<string> words) =>
        Text with
        {
            Read = (j, e, path) =>
                e.ValueKind is not JsonValueKind.String ? Wrong<string>(j, path, "must be text", words)
                : words.Contains(e.GetString()!) ? (true, e.GetString()!)
                : Wrong<string>(j, path, $"'{StrictJson.Shorten(e.GetString()!)}' is not known", words),
            Schema = () => new JsonObject { ["enum"] = Words(words) },
            Words = words,
        };

    /// <summary>"true" or "false", kept as words and also taken as flags.</summary>
    public static Holds<string> FlagWord { get; } =
        Text with
        {
            Read = (j, e, path) =>
                e.ValueKind switch
                {
                    JsonValueKind.True => (true, "true"),
                    JsonValueKind.False => (true, "false"),
                    _ => OneOf(["true", "false"]).Read(j, e, path),
                },
            Schema = () => new JsonObject { ["enum"] = new JsonArray("true", "false", true, false) },
        };

    /// <summary>One of the values of an enumeration, in small letters.</summary>
    public static Holds<TEnum> OneOf<TEnum>()
        where TEnum : struct, Enum
    {
        var word = OneOf([.. Enum.GetNames<TEnum>().Select(n => n.ToLowerInvariant())]);
        return new(
            (w, v) => word.Write(w, v.ToString().ToLowerInvariant()),
            (j, e, path) =>
                word.Read(j, e, path) is (true, var text) ? (true, Enum.Parse<TEnum>(text, ignoreCase: true)) : (false, default),
            word.Schema
        )
        {
            Words = word.Words,
        };
    }

    /// <summary>One of some terms, as its word.</summary>
    public static Holds<TTerm> Term<TTerm>(IReadOnlyList<TTerm> terms)
        where TTerm : Term<TTerm>
    {
        var word = OneOf([.. terms.Select(t => t.Word)]);
        return new(
            (w, v) => word.Write(w, v.Word),
            (j, e, path) => word.Read(j, e, path) is (true, var text) ? (true, terms.First(t => t.Word == text)) : (false, null!),
            word.Schema
        )
        {
            Words = word.Words,
        };
    }

    public static Holds<IReadOnlyList<string>> Texts { get; } = ListOf(Text);

    /// <summary>Some of some words, each once, in the order of their letters.</summary>
    public static Holds<IReadOnlyList<string>> SomeOf(IReadOnlyList<string> words)
    {
        var list = ListOf(OneOf(words));
        return list with
        {
            Read = (j, e, path) =>
                list.Read(j, e, path) is (true, var some) ? (true, [.. some.Distinct().Order(StringComparer.Ordinal)]) : (false, []),
        };
    }

    /// <summary>A number in a range.</summary>
    /// <param name="digits">Written with so many digits after the point; null = as it is.</param>
    /// <param name="unit">Said where the number is wrong.</param>
    public static Holds<double> Number(double? low, double? high, int? digits = null, string unit = "") =>
        new(
            (w, v) => w.WriteNumberValue(digits is { } d ? Math.Round(v, d) : v),
            (j, e, path) =>
                e.ValueKind is not JsonValueKind.Number || !e.TryGetDouble(out var v) || !double.IsFinite(v)
                    ? Wrong<double>(j, path, $"must be a number{Range(low, high, unit)}")
                : v < low || v > high ? Wrong<double>(j, path, Outside(v, low, high, unit))
                : (true, v),
            () => Bounds(new JsonObject { ["type"] = "number" }, low, high)
        );

    /// <summary>How a number lies outside its range, in words.</summary>
    public static string Outside(double v, double? low, double? high, string unit) =>
        (low, high) is ({ } l, { } h)
            ? string.Create(CultureInfo.InvariantCulture, $"{v:0.###} is outside {l:0.###} to {h:0.###} {unit}").TrimEnd()
            : string.Create(CultureInfo.InvariantCulture, $"{v:0.###} must be a number{Range(low, high, unit)}");

    private static string Range(double? low, double? high, string unit) =>
        string.Create(
                CultureInfo.InvariantCulture,
                $"{(low is null ? "" : $" from {low:0.####}")}{(high is null ? "" : $" to {high:0.####}")} {unit}"
            )
            .TrimEnd();

    public static Holds<int> Whole(int low, int high) =>
        new(
            (w, v) => w.WriteNumberValue(v),
            (j, e, path) =>
                e.ValueKind is JsonValueKind.Number && e.TryGetInt32(out var v) && v >= low && v <= high
                    ? (true, v)
                    : Wrong<int>(j, path, $"must be a whole number from {low} to {high}"),
            () => Bounds(new JsonObject { ["type"] = "integer" }, low, high)
        );

    /// <summary>A span or a moment in whole milliseconds.</summary>
    public static Holds<long> Milliseconds(long low, long high) =>
        new(
            (w, v) => w.WriteNumberValue(v),
            (j, e, path) =>
                e.ValueKind is JsonValueKind.Number && e.TryGetInt64(out var v) && v >= low && v <= high
                    ? (true, v)
                    : Wrong<long>(j, path, $"must be whole milliseconds from {low} to {high}"),
            () =>
                new JsonObject
                {
                    ["type"] = "integer",
                    ["minimum"] = low,
                    ["maximum"] = high,
                }
        );

    /// <summary>A list; what could not be read stands in it as nothing, so that the places of the others hold.</summary>
    /// <param name="most">How many it may hold.</param>
    public static Holds<IReadOnlyList<TItem>> ListOf<TItem>(Holds<TItem> item, int most = int.MaxValue) =>
        new(
            (w, items) =>
            {
                w.WriteStartArray();
                foreach (var i in items)
                {
                    item.Write(w, i);
                }

                w.WriteEndArray();
            },
            (j, e, path) =>
            {
                if (e.ValueKind != JsonValueKind.Array)
                {
                    return Wrong<IReadOnlyList<TItem>>(j, path, "must be a list");
                }

                if (e.GetArrayLength() > most)
                {
                    return Wrong<IReadOnlyList<TItem>>(j, path, $"holds {e.GetArrayLength()}, at most {most}");
                }

                var read = e.EnumerateArray().Select((x, i) => item.Read(j, x, $"{path}[{i}]")).ToArray();
                return (read.All(r => r.Ok), read.Select(r => r.Ok ? r.Value : default!).ToArray());
            },
            () =>
            {
                var schema = new JsonObject { ["type"] = "array", ["items"] = item.Schema() };
                if (most < int.MaxValue)
                {
                    schema["maxItems"] = most;
                }

                return schema;
            }
        );

    /// <summary>The list in an order of its own.</summary>
    public static Holds<IReadOnlyList<TItem>> In<TItem>(
        this Holds<IReadOnlyList<TItem>> list,
        Func<IEnumerable<TItem>, IEnumerable<TItem>> order
    ) => list with { Read = (j, e, path) => list.Read(j, e, path) is (true, var items) ? (true, [.. order(items)]) : (false, []) };

    /// <summary>Numbers by name, written in the order of their names: a store may not keep any other.</summary>
    public static Holds<IReadOnlyDictionary<string, double>> Numbers(double? low, double? high, int digits)
    {
        var number = Number(low, high, digits);
        return new(
            (w, map) =>
            {
                w.WriteStartObject();
                foreach (var (name, value) in map.OrderBy(m => m.Key, StringComparer.Ordinal))
                {
                    w.WritePropertyName(name);
                    number.Write(w, value);
                }

                w.WriteEndObject();
            },
            (j, e, path) =>
            {
                if (e.ValueKind != JsonValueKind.Object)
                {
                    return Wrong<IReadOnlyDictionary<string, double>>(j, path, "must be an object");
                }

                var read = e.EnumerateObject()
                    .Select(p => (p.Name, Read: number.Read(j, p.Value, StrictJson.Join(path, p.Name))))
                    .ToArray();
                return read.All(r => r.Read.Ok)
                    ? (true, read.ToDictionary(r => r.Name, r => r.Read.Value))
                    : (false, new Dictionary<string, double>());
            },
            () => new JsonObject { ["type"] = "object", ["additionalProperties"] = number.Schema() }
        );
    }

    internal static JsonArray Words(IEnumerable<string> words) => new([.. words.Select(w => (JsonNode)w!)]);

    private static (bool, T) Wrong<T>(StrictJson j, string path, string message, IReadOnlyList<string>? allowed = null)
    {
        j.Fail(path, message, allowed);
        return (false, default!);
    }

    private static JsonObject Bounds(JsonObject o, double? low, double? high)
    {
        if (low is { } l)
        {
            o["minimum"] = l;
        }

        if (high is { } h)
        {
            o["maximum"] = h;
        }

        return o;
    }
}
