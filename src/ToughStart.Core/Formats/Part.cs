using System.Text.Json;
using System.Text.Json.Nodes;

namespace ToughStart.Core.Formats;

/// <summary>What a field of a document can hold: how it is written, read and described.</summary>
internal sealed record Holds<TValue>(
    Action<Utf8JsonWriter, TValue> Write,
    Func<StrictJson, JsonElement, string, (bool Ok, TValue Value)> Read,
    Func<JsonObject> Schema
)
{
    /// <summary>What it can be, where that is a list of words.</summary>
    public IReadOnlyList<string>? Words { get; init; }
}

/// <summary>How two people's versions of a field come together.</summary>
internal enum Merging
{
    /// <summary>As one thing: what one of them changed stands, what both changed is asked.</summary>
    Whole,

    /// <summary>An object, field by field.</summary>
    ByField,

    /// <summary>A list, zone by zone.</summary>
    ByZone,

    /// <summary>A set: what either added is in, what either took back is out.</summary>
    AsSet,

    /// <summary>It says which document this is, not what people said.</summary>
    Never,
}

/// <summary>
/// One part of a document, described once: the description writes it, reads it, checks it, says how it is merged and makes its schema and
/// its type for the pages' scripts. Unknown fields are refused by name unless they start with "x-".
/// </summary>
/// <param name="make">Makes the part from its fields, once all were read without a problem.</param>
internal sealed class Part<T>(Func<Part<T>.Values, T> make)
{
    /// <summary>In a schema: a document need not say it, and those we write always do.</summary>
    public const string AlwaysWritten = "always written";

    private readonly List<Field> _fields = [];
    private readonly List<Action<StrictJson, Values, string>> _checks = [];
    private string? _name;
    private string[]? _names;

    /// <summary>The values of one part as they were read.</summary>
    internal sealed class Values(Dictionary<string, object?> read)
    {
        /// <summary>The value of a field; its default where it was not said.</summary>
        public TValue Get<TValue>(string field, TValue otherwise) =>
            read.TryGetValue(field, out var v) && v is TValue value ? value : otherwise;

        /// <summary>The value of a required field.</summary>
        public TValue Get<TValue>(string field) => (TValue)read[field]!;

        /// <summary>A number, or null where it was not said.</summary>
        public double? Number(string field) => read.TryGetValue(field, out var v) ? (double)v! : null;

        /// <summary>A whole number, or null where it was not said.</summary>
        public int? Whole(string field) => read.TryGetValue(field, out var v) ? (int)v! : null;

        /// <summary>A flag, or null where it was not said.</summary>
        public bool? Flag(string field) => read.TryGetValue(field, out var v) ? (bool)v! : null;

        /// <summary>A text, or null where it was not said.</summary>
        public string? Text(string field) => Get<string?>(field, null);

        /// <summary>Texts; none where they were not said.</summary>
        public IReadOnlyList<string> Texts(string field) => Get<IReadOnlyList<string>>(field, []);

        /// <summary>Was the field said?</summary>
        public bool Has(string field) => read.ContainsKey(field);
    }

    private sealed record Field(
        string Name,
        bool Required,
        bool NullToo,
        Action<Utf8JsonWriter, T> Write,
        Func<StrictJson, JsonElement, string, (bool, object?)> Read,
        Func<JsonObject> Schema,
        IReadOnlyList<string>? Words
    )
    {
        /// <summary>The name it had in documents of older engines; still read.</summary>
        public string? Formerly { get; init; }

        /// <summary>What is asked for where it is missing.</summary>
        public string Missing { get; init; } = "is missing";

        public Merging Merging { get; init; }

        /// <summary>Written even where a document that is read need not say it.</summary>
        public bool Always { get; init; }
    }

    /// <summary>The fields in the order in which they are written, each with how it is merged.</summary>
    public IEnumerable<(string Name, Merging Merging)> Fields => _fields.Select(f => (f.Name, f.Merging));

    /// <summary>The part's name in the schema and in the pages' scripts.</summary>
    public Part<T> Called(string name)
    {
        _name = name;
        return this;
    }

    /// <summary>The last field had another name in documents of older engines.</summary>
    public Part<T> Formerly(string name) => Last(f => f with { Formerly = name, Always = true });

    /// <summary>What the last field is for, said where it is missing.</summary>
    public Part<T> Because(string why) => Last(f => f with { Missing = $"is missing: {why}" });

    /// <summary>How two people's versions of the last field come together.</summary>
    public Part<T> Merged(Merging how) => Last(f => f with { Merging = how });

    /// <summary>What must hold between fields; asked once each of them was read without a problem.</summary>
    public Part<T> Check(Action<StrictJson, Values, string> check)
    {
        _checks.Add(check);
        return this;
    }

    private Part<T> Last(Func<Field, Field> change)
    {
        _fields[^1] = change(_fields[^1]);
        return this;
    }

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
                holds.Schema,
                holds.Words
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
                holds.Schema,
                holds.Words
            )
        );
        return this;
    }

    /// <summary>A field that is always written, and that has a value where a document does not say it.</summary>
    public Part<T> Or<TValue>(string name, Holds<TValue> holds, Func<T, TValue> get) =>
        May(name, holds, t => (true, get(t))).Last(f => f with { Always = true });

    /// <summary>A list that is only written when something is in it.</summary>
    public Part<T> Any<TItem>(string name, Holds<IReadOnlyList<TItem>> holds, Func<T, IReadOnlyList<TItem>> get) =>
        May(name, holds, t => get(t) is { Count: > 0 } some ? (true, some) : (false, []));

    /// <summary>A flag that may be missing.</summary>
    public Part<T> May(string name, Holds<bool> holds, Func<T, bool?> get) =>
        May(name, holds, t => get(t) is { } v ? (true, v) : (false, false));

    /// <summary>A whole number that may be missing.</summary>
    public Part<T> May(string name, Holds<int> holds, Func<T, int?> get) => May(name, holds, t => get(t) is { } v ? (true, v) : (false, 0));

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
        var o = json.Object(
            e,
            path,
            _names ??= [.. _fields.Select(f => f.Name), .. _fields.Where(f => f.Formerly is not null).Select(f => f.Formerly!)]
        );
        var values = new Dictionary<string, object?>();
        foreach (var f in _fields)
        {
            var (name, v) =
                o.TryGetValue(f.Name, out var now) ? (f.Name, now)
                : f.Formerly is not null && o.TryGetValue(f.Formerly, out var before) ? (f.Formerly, before)
                : (null, default);
            if (name is not null)
            {
                if (f.Read(json, v, StrictJson.Join(path, name)) is (true, var value))
                {
                    values[f.Name] = value;
                }
            }
            else if (f.Required && e.ValueKind == JsonValueKind.Object)
            {
                json.Fail(StrictJson.Join(path, f.Name), f.Missing, f.Words);
            }
        }

        var read = new Values(values);
        foreach (var check in _checks.TakeWhile(_ => json.Failed == failed))
        {
            check(json, read, path);
        }

        return json.Failed == failed ? (true, make(read)) : (false, default!);
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
            if (f.Always)
            {
                schema["$comment"] = AlwaysWritten;
            }
        }

        foreach (var f in _fields.Where(f => f.Formerly is not null))
        {
            var schema = f.Schema();
            schema["deprecated"] = true;
            schema["description"] = $"Older name of {f.Name}; read, never written.";
            properties[f.Formerly!] = schema;
        }

        var part = new JsonObject();
        if (_name is not null)
        {
            part["title"] = _name;
        }

        foreach (
            var (key, value) in Shape(properties, _fields.Where(f => f is { Required: true, Formerly: null }).Select(f => f.Name)).ToArray()
        )
        {
            part[key] = value?.DeepClone();
        }

        return part;
    }

    private static JsonObject Shape(JsonObject properties, IEnumerable<string> required) =>
        new()
        {
            ["type"] = "object",
            ["properties"] = properties,
            ["required"] = new JsonArray([.. required.Select(r => (JsonNode)r!)]),
            ["patternProperties"] = new JsonObject { ["^x-"] = new JsonObject() },
            ["additionalProperties"] = false,
        };

    /// <summary>The part as what a field holds.</summary>
    public Holds<T> One => new(Write, Read, Schema);
}
