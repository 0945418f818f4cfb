using System.Text.Json;
using System.Text.Json.Nodes;

namespace ToughStart.Core.Formats;

/// <summary>What a field of a document can hold: how it is written, read and described.</summary>
internal sealed record Holds<TValue>(
    Action<Utf8JsonWriter, TValue> Write,
    Func<StrictJson, JsonElement, string, (bool Ok, TValue Value)> Read,
    Func<JsonObject> Schema
);

/// <summary>
/// One part of a document, described once: the description writes it, reads it, checks it and makes its schema. Unknown fields are refused
/// by name unless they start with "x-".
/// </summary>
/// <param name="make">Makes the part from its fields, once all were read without a problem.</param>
internal sealed class Part<T>(Func<Part<T>.Values, T> make)
{
    private readonly List<Field> _fields = [];
    private string[]? _names;

    /// <summary>The values of one part as they were read.</summary>
    internal sealed class Values(Dictionary<string, object?> read)
    {
        /// <summary>The value of a field; its default where it was not said.</summary>
        public TValue Get<TValue>(string field, TValue otherwise) =>
            read.TryGetValue(field, out var v) && v is TValue value ? value : otherwise;

        /// <summary>The value of a required field.</summary>
        public TValue Get<TValue>(string field) => (TValue)read[field]!;
    }

    private sealed record Field(
        string Name,
        bool Required,
        bool NullToo,
        Action<Utf8JsonWriter, T> Write,
        Func<StrictJson, JsonElement, string, (bool, object?)> Read,
        Func<JsonObject> Schema
    );

    /// <summary>A field that is always there.</summary>
    public Part<T> With<TValue>(string name, Holds<TValue> holds, Func<T, TValue> get)
    {
        _fields.Add(
            new Field(
                name,
                true,
                false,
                (w, t) =>
                {
                    w.WritePropertyName(name);
                    holds.Write(w, get(t));
                },
                (j, e, p) => holds.Read(j, e, p),
                holds.Schema
            )
        );
        return this;
    }

    /// <summary>A field that may be missing; it is written where <paramref name="get"/> has a value.</summary>
    /// <param name="nullToo">Written as null where it is missing.</param>
    public Part<T> May<TValue>(string name, Holds<TValue> holds, Func<T, (bool Said, TValue Value)> get, bool nullToo = false)
    {
        _fields.Add(
            new Field(
                name,
                false,
                nullToo,
                (w, t) =>
                {
                    if (get(t) is (true, var value))
                    {
                        w.WritePropertyName(name);
                        holds.Write(w, value);
                    }
                    else if (nullToo)
                    {
                        w.WriteNull(name);
                    }
                },
                (j, e, p) => holds.Read(j, e, p),
                holds.Schema
            )
        );
        return this;
    }

    /// <summary>A number that may be missing.</summary>
    public Part<T> May(string name, Holds<double> holds, Func<T, double?> get) =>
        May(name, holds, t => get(t) is { } v ? (true, v) : (false, 0));

    /// <summary>Text, or a part, that may be missing.</summary>
    public Part<T> MayBe<TValue>(string name, Holds<TValue> holds, Func<T, TValue?> get, bool nullToo = false)
        where TValue : class => May(name, holds, t => get(t) is { } v ? (true, v) : (false, null!), nullToo);

    /// <summary>A flag that is only written when it is set.</summary>
    public Part<T> If(string name, Func<T, bool> get) => May(name, Hold.Flag, t => (get(t), true));

    public void Write(Utf8JsonWriter w, T part)
    {
        w.WriteStartObject();
        foreach (var f in _fields)
        {
            f.Write(w, part);
        }

        w.WriteEndObject();
    }

    public (bool Ok, T Value) Read(StrictJson json, JsonElement e, string path)
    {
        var failed = json.Failed;
        var o = json.Object(e, path, _names ??= [.. _fields.Select(f => f.Name)]);
        var values = new Dictionary<string, object?>();
        foreach (var f in _fields)
        {
            if (o.TryGetValue(f.Name, out var v))
            {
                if (f.Read(json, v, StrictJson.Join(path, f.Name)) is (true, var value))
                {
                    values[f.Name] = value;
                }
            }
            else if (f.Required)
            {
                json.Fail(StrictJson.Join(path, f.Name), "is missing");
            }
        }

        return json.Failed == failed ? (true, make(new Values(values))) : (false, default!);
    }

    public JsonObject Schema()
    {
        var properties = new JsonObject();
        foreach (var f in _fields)
        {
            var schema = f.Schema();
            properties[f.Name] = f.NullToo
                ? new JsonObject { ["oneOf"] = new JsonArray(new JsonObject { ["type"] = "null" }, schema) }
                : schema;
        }

        return new JsonObject
        {
            ["type"] = "object",
            ["properties"] = properties,
            ["required"] = new JsonArray([.. _fields.Where(f => f.Required).Select(f => (JsonNode)f.Name!)]),
            ["patternProperties"] = new JsonObject { ["^x-"] = new JsonObject() },
            ["additionalProperties"] = false,
        };
    }

    /// <summary>The part as what a field holds.</summary>
    public Holds<T> One => new(Write, Read, Schema);
}

/// <summary>The common things that fields hold.</summary>
internal static class Hold
{
    public static Holds<bool> Flag { get; } =
        new(
            (w, v) => w.WriteBooleanValue(v),
            (j, e, path) =>
                e.ValueKind is JsonValueKind.True or JsonValueKind.False
                    ? (true, e.GetBoolean())
                    : Wrong<bool>(j, path, "must be true or false"),
            () => new JsonObject { ["type"] = "boolean" }
        );

    public static Holds<string> Text { get; } =
        new(
            (w, v) => w.WriteStringValue(v),
            (j, e, path) => e.ValueKind is JsonValueKind.String ? (true, e.GetString()!) : Wrong<string>(j, path, "must be text"),
            () => new JsonObject { ["type"] = "string" }
        );

    /// <summary>One of some words.</summary>
    public static Holds<string> OneOf(IReadOnlyList<string> words) =>
        Text with
        {
            Read = (j, e, path) =>
                e.ValueKind is JsonValueKind.String && words.Contains(e.GetString()!)
                    ? (true, e.GetString()!)
                    : Wrong<string>(j, path, "is not known", words),
            Schema = () => new JsonObject { ["enum"] = new JsonArray([.. words.Select(w => (JsonNode)w!)]) },
        };

    public static Holds<IReadOnlyList<string>> Texts { get; } = ListOf(Text);

    /// <summary>A number in a range, written with so many digits after the point.</summary>
    public static Holds<double> Number(double? low, double? high, int digits) =>
        new(
            (w, v) => w.WriteNumberValue(Math.Round(v, digits)),
            (j, e, path) =>
                e.ValueKind is JsonValueKind.Number
                && e.TryGetDouble(out var v)
                && v >= (low ?? double.MinValue)
                && v <= (high ?? double.MaxValue)
                    ? (true, v)
                    : Wrong<double>(j, path, $"must be a number{(low is null ? "" : $" from {low}")}{(high is null ? "" : $" to {high}")}"),
            () => Bounds(new JsonObject { ["type"] = "number" }, low, high)
        );

    public static Holds<int> Whole(int low, int high) =>
        new(
            (w, v) => w.WriteNumberValue(v),
            (j, e, path) =>
                e.ValueKind is JsonValueKind.Number && e.TryGetInt32(out var v) && v >= low && v <= high
                    ? (true, v)
                    : Wrong<int>(j, path, $"must be a whole number from {low} to {high}"),
            () => Bounds(new JsonObject { ["type"] = "integer" }, low, high)
        );

    public static Holds<IReadOnlyList<TItem>> ListOf<TItem>(Holds<TItem> item) =>
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

                var read = e.EnumerateArray().Select((x, i) => item.Read(j, x, $"{path}[{i}]")).ToArray();
                return read.All(r => r.Ok) ? (true, read.Select(r => r.Value).ToArray()) : (false, []);
            },
            () => new JsonObject { ["type"] = "array", ["items"] = item.Schema() }
        );

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
