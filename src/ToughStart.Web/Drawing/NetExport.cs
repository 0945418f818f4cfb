using SkiaSharp;
using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Vehicles;

namespace ToughStart.Web.Drawing;

/// <summary>The net to take away: SVG with its own colours, and a PNG drawn from the same polygons.</summary>
internal static class NetExport
{
    private const string Style =
        ".edge{fill:none;stroke:#1b2320;stroke-width:.016}.decor{fill:none;stroke:#1b2320;stroke-linejoin:round;stroke-linecap:round}.tx-unlooked{stroke:#3f4a45;stroke-opacity:.55;stroke-width:.012}.tx-none{fill:none;stroke:#0f6b70;stroke-width:.016}";

    /// <summary>The net as a file of its own: textures and colours inside.</summary>
    public static string Svg(Survey survey)
    {
        var vehicle = Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size);
        var svg = NetDrawing.Svg(
            vehicle,
            survey.Vehicle.Colour,
            NetDrawing.OfSurvey(survey),
            vehicle.Form + ", unfolded",
            live: false,
            away: true
        );
        var cut = svg.IndexOf('>', StringComparison.Ordinal);
        return svg[..cut].Replace("<svg ", "<svg xmlns=\"http://www.w3.org/2000/svg\" ", StringComparison.Ordinal)
            + "><style>"
            + Style
            + "</style>"
            + svg[(cut + 1)..];
    }

    /// <summary>The net as PNG: each zone in the colour of what lies heaviest on it, hatched where nobody looked.</summary>
    /// <param name="width">Pixels, more than 0.</param>
    public static byte[] Png(Survey survey, int width)
    {
        var v = Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size);
        const double margin = 0.12;
        var k = width / (v.Max.X - v.Min.X + 2 * margin);
        using var bitmap = new SKBitmap(width, (int)Math.Ceiling((v.Max.Y - v.Min.Y + 2 * margin) * k));
        using var canvas = new SKCanvas(bitmap);
        canvas.Clear(SKColor.Parse("#eeeee8"));
        canvas.Scale((float)k);
        canvas.Translate((float)(margin - v.Min.X), (float)(margin - v.Min.Y));
        using var edge = new SKPaint
        {
            Style = SKPaintStyle.Stroke,
            StrokeWidth = 0.016f,
            Color = SKColor.Parse("#1b2320"),
            IsAntialias = true,
        };
        using var hatch = new SKPaint
        {
            Style = SKPaintStyle.Stroke,
            StrokeWidth = 0.012f,
            Color = SKColor.Parse("#3f4a45").WithAlpha(140),
            IsAntialias = true,
        };
        foreach (var z in v.Zones)
        {
            using var path = new SKPath { FillType = SKPathFillType.EvenOdd };
            foreach (var ring in z.Shapes.SelectMany(s => s.Holes.Prepend(s.Outline)))
            {
                path.AddPoly([.. ring.Select(p => new SKPoint((float)p.X, (float)p.Y))]);
            }

            var at = survey.ZoneOf(z.Id);
            var worst = at
                ?.Findings.Where(f => f.Grade > 0)
                .OrderByDescending(f => f.Grade)
                .ThenBy(f => f.Contaminant, StringComparer.Ordinal)
                .FirstOrDefault();
            using var fill = new SKPaint
            {
                Style = SKPaintStyle.Fill,
                IsAntialias = true,
                Color = worst is null
                    ? SKColor.Parse("#d9dcd6")
                    : Blend(SKColor.Parse("#e8e8e2"), SKColor.Parse(Textures.Ground(worst.Contaminant)), 0.25 + 0.18 * worst.Grade),
            };
            canvas.DrawPath(path, fill);
            if (at is null || at.Findings.Count == 0)
            {
                canvas.Save();
                canvas.ClipPath(path, SKClipOperation.Intersect, true);
                var b = path.Bounds;
                for (var x = b.Left - b.Height; x < b.Right; x += 0.11f)
                {
                    canvas.DrawLine(x, b.Bottom, x + b.Height, b.Top, hatch);
                }

                canvas.Restore();
            }

            canvas.DrawPath(path, edge);
        }

        using var image = SKImage.FromBitmap(bitmap);
        using var png = image.Encode(SKEncodedImageFormat.Png, 100);
        return png.ToArray();
    }

    private static SKColor Blend(SKColor a, SKColor b, double k) =>
        new((byte)(a.Red + (b.Red - a.Red) * k), (byte)(a.Green + (b.Green - a.Green) * k), (byte)(a.Blue + (b.Blue - a.Blue) * k));
}
