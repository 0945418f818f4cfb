using SkiaSharp;
using ToughStart.Core.Formats;
using ToughStart.Data;
using ToughStart.Web.Drawing;

namespace ToughStart.Web.Photos;

/// <summary>Pictures for the demo, drawn by code from what the survey says sits on a zone.</summary>
public static class DemoPhotos
{
    /// <summary>Hangs a few pictures on a demo job that has none.</summary>
    public static async Task LoadAsync(JobStore jobs, RecordStore records, CancellationToken stop = default)
    {
        if (await jobs.JobAsync(104, stop) is not { } job || (await records.PhotosAsync(job.Id, stop)).Count > 0)
        {
            return;
        }

        foreach (var zone in new[] { "bonnet", "left-sill", "left-front-wheel-face", "left-rear-quarter" })
        {
            var picture = PhotoIntake.Clean(Draw(job.Survey, zone), out _)!;
            await records.AddPhotoAsync(
                job.Id,
                zone,
                "before",
                picture.Jpeg,
                picture.Thumb,
                picture.Width,
                picture.Height,
                "demo",
                stop: stop
            );
        }
    }

    private static byte[] Draw(Survey survey, string zone)
    {
        const int w = 800,
            h = 600;
        var random = new Grain((uint)zone.Sum(c => c));
        using var bitmap = new SKBitmap(w, h);
        using var canvas = new SKCanvas(bitmap);
        var paint = SKColor.Parse(survey.Vehicle.Colour ?? "#888888");
        using (
            var shader = SKShader.CreateLinearGradient(
                new SKPoint(0, 0),
                new SKPoint(w, h),
                [Lighter(paint, 60), paint, Lighter(paint, 25)],
                [0, 0.6f, 1],
                SKShaderTileMode.Clamp
            )
        )
        using (var ground = new SKPaint { Shader = shader })
        {
            canvas.DrawRect(0, 0, w, h, ground);
        }

        foreach (var f in survey.ZoneOf(zone)?.Findings.Where(f => f.Grade > 0) ?? [])
        {
            for (var i = 0; i < f.Grade * f.Grade * 34; i++)
            {
                using var blob = new SKPaint
                {
                    IsAntialias = true,
                    Color = SKColor
                        .Parse(random.Next() < .4 ? Textures.Ink(f.Contaminant) : Textures.Ground(f.Contaminant))
                        .WithAlpha((byte)(110 + 100 * random.Next())),
                };
                var r = (float)random.Between(2, f.Contaminant is "mud" or "road-film" ? 46 : 11);
                canvas.DrawOval((float)random.Between(0, w), (float)random.Between(0, h), r, r * (float)random.Between(.4, 1), blob);
            }
        }

        using var image = SKImage.FromBitmap(bitmap);
        return image.Encode(SKEncodedImageFormat.Png, 90).ToArray();
    }

    private static SKColor Lighter(SKColor c, int by) =>
        new((byte)Math.Min(255, c.Red + by), (byte)Math.Min(255, c.Green + by), (byte)Math.Min(255, c.Blue + by));
}
