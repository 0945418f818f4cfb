using System.Globalization;

namespace ToughStart.Core.Surfaces;

/// <summary>What a paint's colour does to what is looked for on it.</summary>
public static class PaintHue
{
    /// <summary>Is it red or violet, so that the purple of dissolving iron is hard to see on it?</summary>
    /// <param name="colour">As surveys write it: #rrggbb; anything else is not judged.</param>
    public static bool HidesBleed(string? colour)
    {
        if (
            colour is not { Length: 7 }
            || colour[0] != '#'
            || !int.TryParse(colour.AsSpan(1), NumberStyles.HexNumber, CultureInfo.InvariantCulture, out var rgb)
        )
        {
            return false;
        }

        var (r, g, b) = ((rgb >> 16) / 255.0, ((rgb >> 8) & 255) / 255.0, (rgb & 255) / 255.0);
        var (most, least) = (Math.Max(r, Math.Max(g, b)), Math.Min(r, Math.Min(g, b)));
        if (most <= 0 || (most - least) / most < LeastColour)
        {
            return false;
        }

        var hue =
            60
            * (
                most == r ? ((g - b) / (most - least)) % 6
                : most == g ? (b - r) / (most - least) + 2
                : (r - g) / (most - least) + 4
            );
        hue = (hue + 360) % 360;
        return hue <= LastRed || hue >= FirstViolet;
    }

    /// <summary>Greyer than this a paint has no colour that hides another; saturation.</summary>
    private const double LeastColour = 0.35;

    /// <summary>Hues from violet over red to orange, degrees of the colour circle.</summary>
    private const double FirstViolet = 265,
        LastRed = 20;
}
