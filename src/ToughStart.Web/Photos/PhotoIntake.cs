using SkiaSharp;

namespace ToughStart.Web.Photos;

/// <summary>A picture made safe: decoded by content, drawn anew as JPEG, so nothing of the file's own data stays.</summary>
public sealed record CleanPhoto(byte[] Jpeg, byte[] Thumb, int Width, int Height);

/// <summary>Takes pictures from phones: type by content, size bounded before a pixel is decoded, location data gone with the old file.</summary>
public static class PhotoIntake
{
    /// <summary>Largest file taken, bytes.</summary>
    public const int MostBytes = 12 * 1024 * 1024;

    /// <summary>Most pixels a picture may have.</summary>
    public const long MostPixels = 40_000_000;

    /// <summary>Most pixels that are decoded; a picture that can be decoded smaller may have more. 48 MB of memory.</summary>
    public const long MostDecoded = 12_000_000;

    /// <summary>One picture at a time, whoever sends how many.</summary>
    private static readonly SemaphoreSlim One = new(1, 1);

    /// <summary>Cleans a picture when its turn comes.</summary>
    public static async Task<(CleanPhoto? Photo, string? Problem)> CleanAsync(byte[] file, CancellationToken stop)
    {
        await One.WaitAsync(stop);
        try
        {
            return (Clean(file, out var problem), problem);
        }
        finally
        {
            One.Release();
        }
    }

    private const int Longest = 2000,
        ThumbLongest = 320;
    private static readonly SKEncodedImageFormat[] Taken = [SKEncodedImageFormat.Jpeg, SKEncodedImageFormat.Png, SKEncodedImageFormat.Webp];

    /// <summary>Cleans a picture.</summary>
    /// <param name="problem">What is wrong and what is allowed, when the answer is null.</param>
    public static CleanPhoto? Clean(byte[] file, out string? problem)
    {
        problem =
            file.Length == 0 ? "the file is empty"
            : file.Length > MostBytes ? $"the file is {file.Length / 1024 / 1024} MB, at most {MostBytes / 1024 / 1024} MB"
            : null;
        if (problem is not null)
        {
            return null;
        }

        using var data = SKData.CreateCopy(file);
        using var codec = SKCodec.Create(data);
        if (codec is null || !Taken.Contains(codec.EncodedFormat))
        {
            problem = "this is no JPEG, PNG or WebP picture, whatever its name says";
            return null;
        }

        var (w, h) = (codec.Info.Width, codec.Info.Height);
        if (w < 1 || h < 1 || (long)w * h > MostPixels)
        {
            problem = $"the picture is {w} × {h}, at most {MostPixels / 1_000_000} megapixels";
            return null;
        }

        // A JPEG or WebP is decoded as small as it may be and still be large enough; others as they are.
        var size = codec.GetScaledDimensions(Math.Min(1, (float)Longest / Math.Max(w, h)));
        if ((long)size.Width * size.Height > MostDecoded)
        {
            problem =
                $"the picture is {w} × {h}: as {codec.EncodedFormat.ToString().ToUpperInvariant()} at most {MostDecoded / 1_000_000} megapixels, "
                + $"as JPEG {MostPixels / 1_000_000}";
            return null;
        }

        using var bitmap = new SKBitmap(new SKImageInfo(size.Width, size.Height, SKColorType.Rgba8888, SKAlphaType.Premul));
        if (codec.GetPixels(bitmap.Info, bitmap.GetPixels()) is not SKCodecResult.Success)
        {
            problem = "the picture is damaged and could not be read to its end";
            return null;
        }

        using var upright = Upright(bitmap, codec.EncodedOrigin);
        using var large = Within(upright, Longest);
        using var small = Within(upright, ThumbLongest);
        return new CleanPhoto(Encode(large, 85), Encode(small, 78), large.Width, large.Height);
    }

    private static byte[] Encode(SKBitmap bitmap, int quality)
    {
        using var image = SKImage.FromBitmap(bitmap);
        using var jpeg = image.Encode(SKEncodedImageFormat.Jpeg, quality);
        return jpeg.ToArray();
    }

    /// <summary>Turns the picture as the camera meant it: the new file has no orientation tag to say so.</summary>
    private static SKBitmap Upright(SKBitmap b, SKEncodedOrigin origin)
    {
        var turned =
            origin is SKEncodedOrigin.RightTop or SKEncodedOrigin.LeftBottom or SKEncodedOrigin.LeftTop or SKEncodedOrigin.RightBottom;
        var result = new SKBitmap(turned ? b.Height : b.Width, turned ? b.Width : b.Height);
        using var canvas = new SKCanvas(result);
        canvas.Clear(SKColors.White);
        switch (origin)
        {
            case SKEncodedOrigin.BottomRight:
                canvas.Translate(b.Width, b.Height);
                canvas.RotateDegrees(180);
                break;
            case SKEncodedOrigin.RightTop:
                canvas.Translate(b.Height, 0);
                canvas.RotateDegrees(90);
                break;
            case SKEncodedOrigin.LeftBottom:
                canvas.Translate(0, b.Width);
                canvas.RotateDegrees(270);
                break;
        }

        canvas.DrawBitmap(b, 0, 0);
        return result;
    }

    private static SKBitmap Within(SKBitmap b, int longest)
    {
        var k = Math.Min(1.0, longest / (double)Math.Max(b.Width, b.Height));
        return b.Resize(
            new SKImageInfo(Math.Max(1, (int)Math.Round(b.Width * k)), Math.Max(1, (int)Math.Round(b.Height * k))),
            new SKSamplingOptions(SKFilterMode.Linear, SKMipmapMode.Linear)
        );
    }
}
