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

    /// <summary>A number with at most one digit behind the point, for drawings of a thousand units and more.</summary>
    public static string Px(double v) => v.ToString("0.#", CultureInfo.InvariantCulture);

    public static string Escape(string text) => System.Net.WebUtility.HtmlEncode(text);

    /// <summary>The path of a closed outline with its holes.</summary>
    /// <param name="small">It is drawn so small that a centimetre is not seen.</param>
    public static string Path(Shape shape, bool small = false)
    {
        var s = new StringBuilder();
        Run(s, shape.Outline, true, small);
        foreach (var hole in shape.Holes)
        {
            Run(s, hole, true, small);
        }

        return s.ToString();
    }

    /// <summary>The path of one line of what is drawn besides.</summary>
    public static string Path(DecorLine line)
    {
        var s = new StringBuilder();
        Run(s, line.Points, line.Closed);
        return s.ToString();
    }

    public static string Points(IEnumerable<Pt> points) => string.Join(' ', points.Select(p => $"{N(p.X)},{N(p.Y)}"));

    /// <summary>
    /// Corner after corner as SVG reads them fastest: a line needs no letter after a move, a minus parts two numbers, nothing stands before
    /// a point.
    /// </summary>
    private static void Run(StringBuilder s, IReadOnlyList<Pt> points, bool closed, bool small = false)
    {
        s.Append('M');
        var first = true;
        foreach (var number in points.SelectMany(p => new[] { p.X, p.Y }))
        {
            var text = Short(small ? Math.Round(number, 2) : number);
            s.Append(first || text[0] == '-' ? "" : " ").Append(text);
            first = false;
        }

        s.Append(closed ? "Z" : "");
    }

    /// <summary>As <see cref="N"/>, with nothing before the point where that is 0.</summary>
    public static string Short(double v)
    {
        var text = v.ToString("#.###", CultureInfo.InvariantCulture);
        return text is "" or "-" ? "0" : text;
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
