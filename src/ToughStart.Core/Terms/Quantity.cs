using System.Globalization;
using System.Text.Json;
using System.Text.Json.Serialization;

namespace ToughStart.Core;

/// <summary>A unit of measure.</summary>
public interface IUnit
{
    /// <summary>As it is written beside a number.</summary>
    static abstract string Sign { get; }
}

/// <summary>
/// A number with its unit in its type. It reckons as a number and is made of one; two quantities of different units never take each
/// other's place, the compiler sees to it. Minutes, Seconds, Millilitres, SquareMetres and Decades are names for it (project files).
/// </summary>
#pragma warning disable CA1036 // Compared as the numbers they are: operators of its own would make every comparison with a number ambiguous.
[JsonConverter(typeof(QuantityConverter))]
public readonly record struct Quantity<TUnit>(double Value) : IComparable<Quantity<TUnit>>, IComparable, IFormattable
    where TUnit : IUnit
{
    public static implicit operator double(Quantity<TUnit> q) => q.Value;

    public static implicit operator Quantity<TUnit>(double value) => new(value);

    public int CompareTo(Quantity<TUnit> other) => Value.CompareTo(other.Value);

    public int CompareTo(object? obj) => obj is Quantity<TUnit> q ? CompareTo(q) : 1;

    /// <summary>The number with its unit.</summary>
    public override string ToString() => $"{Value.ToString(CultureInfo.InvariantCulture)} {TUnit.Sign}";

    /// <summary>The number alone, as the format has it.</summary>
    public string ToString(string? format, IFormatProvider? formatProvider) => Value.ToString(format, formatProvider);

    public string ToString(string format) => Value.ToString(format, CultureInfo.InvariantCulture);
}
#pragma warning restore CA1036

/// <summary>Minutes of work, of waiting, of dwell.</summary>
public readonly struct InMinutes : IUnit
{
    public static string Sign => "min";
}

/// <summary>Seconds of a wet window.</summary>
public readonly struct InSeconds : IUnit
{
    public static string Sign => "s";
}

/// <summary>Millilitres of product, water or mix.</summary>
public readonly struct InMillilitres : IUnit
{
    public static string Sign => "ml";
}

/// <summary>Square metres of a zone.</summary>
public readonly struct InSquareMetres : IUnit
{
    public static string Sign => "m²";
}

/// <summary>Decades of a load taken off: one leaves a tenth.</summary>
public readonly struct InDecades : IUnit
{
    public static string Sign => "decades";
}

/// <summary>A quantity in a reply: its number.</summary>
public sealed class QuantityConverter : JsonConverterFactory
{
    public override bool CanConvert(Type typeToConvert) =>
        typeToConvert.IsGenericType && typeToConvert.GetGenericTypeDefinition() == typeof(Quantity<>);

    public override JsonConverter CreateConverter(Type typeToConvert, JsonSerializerOptions options) =>
        (JsonConverter)Activator.CreateInstance(typeof(Of<>).MakeGenericType(typeToConvert.GetGenericArguments()))!;

    private sealed class Of<TUnit> : JsonConverter<Quantity<TUnit>>
        where TUnit : IUnit
    {
        public override Quantity<TUnit> Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options) =>
            reader.GetDouble();

        public override void Write(Utf8JsonWriter writer, Quantity<TUnit> value, JsonSerializerOptions options) =>
            writer.WriteNumberValue(value.Value);
    }
}
