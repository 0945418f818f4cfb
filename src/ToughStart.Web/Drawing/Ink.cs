using System.Globalization;
using System.Text;
using ToughStart.Core.Vehicles;

namespace ToughStart.Web.Drawing;

/// <summary>Writes SVG: numbers short and culture-free, text escaped.</summary>
internal sealed class Ink
{
    private readonly StringBuilder _s = new();

    public Ink Add(string raw)
    {
        _s.Append(raw);
        return this;
    }

    public Ink Text(double x, double y, string text, string cls, string anchor = "start") =>
        Add($"<text x=\"{N(x)}\" y=\"{N(y)}\" class=\"{cls}\" text-anchor=\"{anchor}\">{Escape(text)}</text>");

    public Ink Line(double x1, double y1, double x2, double y2, string cls) =>
        Add($"<line x1=\"{N(x1)}\" y1=\"{N(y1)}\" x2=\"{N(x2)}\" y2=\"{N(y2)}\" class=\"{cls}\"/>");

    public override string ToString() => _s.ToString();

    /// <summary>A number with at most three digits behind the point.</summary>
    public static string N(double v) => v.ToString("0.###", CultureInfo.InvariantCulture);

    public static string Escape(string text) => System.Net.WebUtility.HtmlEncode(text);

    /// <summary>The path of a closed outline with its holes.</summary>
    public static string Path(Shape shape)
    {
        var s = new StringBuilder();
        Ring(s, shape.Outline);
        foreach (var hole in shape.Holes)
        {
            Ring(s, hole);
        }

        return s.ToString();
    }

    public static string Points(IEnumerable<Pt> points) => string.Join(' ', points.Select(p => $"{N(p.X)},{N(p.Y)}"));

    private static void Ring(StringBuilder s, IReadOnlyList<Pt> ring)
    {
        s.Append('M');
        for (var i = 0; i < ring.Count; i++)
        {
            s.Append(i == 0 ? "" : "L").Append(N(ring[i].X)).Append(' ').Append(N(ring[i].Y));
        }

        s.Append('Z');
    }
}

/// <summary>A small fixed generator, so that a drawing is the same every time.</summary>
internal sealed class Grain(uint seed)
{
    private uint _state = seed * 2654435761u + 1;

    public double Next()
    {
        _state ^= _state << 13;
        _state ^= _state >> 17;
        _state ^= _state << 5;
        return _state / (double)uint.MaxValue;
    }

    public double Between(double low, double high) => low + (high - low) * Next();
}
