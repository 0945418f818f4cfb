using System.Globalization;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Surfaces;

/// <summary>A common paint colour and the part of sunlight it takes as heat.</summary>
/// <param name="Absorptance">0 to 1; a model assumption but for white, silver and black.</param>
public sealed record PaintColour(string Id, string Name, string Hex, double Absorptance)
{
    /// <summary>The nearest common colour by distance in linear light.</summary>
    /// <param name="hex">A colour as #rrggbb.</param>
    /// <exception cref="FormatException">Not written as #rrggbb.</exception>
    public static PaintColour Nearest(string hex)
    {
        var wanted = Linear(hex);
        return Catalogue.Default.PaintColours.MinBy(c => Linear(c.Hex).Zip(wanted, (a, b) => (a - b) * (a - b)).Sum())!;
    }

    internal static PaintColour Read(Table.Row r) => new(r["id"], r["name"], r["hex"], r.Number("absorptance"));

    private static double[] Linear(string hex) =>
        hex is ['#', ..]
        && hex.Length == 7
        && int.TryParse(hex.AsSpan(1), NumberStyles.HexNumber, CultureInfo.InvariantCulture, out var rgb)
            ? [Math.Pow((rgb >> 16) / 255.0, 2.2), Math.Pow((rgb >> 8 & 255) / 255.0, 2.2), Math.Pow((rgb & 255) / 255.0, 2.2)]
            : throw new FormatException($"'{hex}' is not a colour written as #rrggbb");
}
