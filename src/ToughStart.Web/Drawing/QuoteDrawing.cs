using ToughStart.Core.Costing;
using ToughStart.Core.Provenance;
using Range = ToughStart.Core.Planning.Range;

namespace ToughStart.Web.Drawing;

/// <summary>A hundred such jobs as a flight of steps, options as lenses from one zero, and the hold where the courses part.</summary>
internal static class QuoteDrawing
{
    private const double Width = 620,
        Left = 10,
        Right = 14,
        Top = 30,
        Ground = 330;

    /// <summary>
    /// A hundred jobs, the cheapest at the bottom: what the price covers lies left of its post, what it does not is hatched.
    /// </summary>
    /// <param name="say">Money as the shop writes it.</param>
    public static string Curve(Draws draws, Rates rates, Quoted quoted, Func<double, string> say)
    {
        var c = Catalogue.Default;
        var prices = draws.Prices(rates).Select(p => p * (1 + (rates.TaxPercent / 100))).Order().ToArray();
        var hundred = Enumerable.Range(0, 100).Select(i => Draws.Quantile(prices, (i + 0.5) / 100)).ToArray();
        var (low, high) = (hundred[0], Math.Max(hundred[^1], quoted.AtMost));
        var span = Math.Max(1, high - low);
        double X(double money) => Left + ((Width - Left - Right) * (money - low + (0.04 * span)) / (1.08 * span));
        double Y(double jobs) => Ground - ((Ground - Top) * jobs / 100);
        var post = X(quoted.Price);
        var ink = new Ink();
        ink.Add(
            $"<svg class=\"quote-curve\" viewBox=\"0 0 {Ink.N(Width)} 410\" role=\"img\" aria-label=\"Of a hundred such jobs"
                + $" {100 - Over(quoted)} cost {say(quoted.Price)} or less\">"
        );
        ink.Add(
            "<defs><pattern id=\"uncovered\" width=\"9\" height=\"9\" patternUnits=\"userSpaceOnUse\""
                + " patternTransform=\"rotate(45)\"><path class=\"quote-hatch\" d=\"M0 0V9\"/></pattern></defs>"
        );
        for (var i = 0; i < 100; i++)
        {
            var (x, y) = (X(hundred[i]), Y(i + 1));
            var h = Y(i) - y;
            ink.Add(
                $"<rect class=\"quote-job\" x=\"{Ink.N(Left)}\" y=\"{Ink.N(y)}\" width=\"{Ink.N(Math.Min(x, post) - Left)}\" height=\"{Ink.N(h)}\"/>"
            );
            if (x > post)
            {
                ink.Add(
                    $"<rect fill=\"url(#uncovered)\" x=\"{Ink.N(post)}\" y=\"{Ink.N(y)}\" width=\"{Ink.N(x - post)}\" height=\"{Ink.N(h)}\"/>"
                );
            }
        }

        var steps = string.Concat(
            hundred.Select(
                (m, i) =>
                    $"{(i == 0 ? "M" : "V")}{(i == 0 ? $"{Ink.N(X(m))} {Ink.N(Ground)}" : "")}{(i == 0 ? "V" : "")}{Ink.N(Y(i + 1))}{(i < 99 ? $"H{Ink.N(X(hundred[i + 1]))}" : "")}"
            )
        );
        ink.Add($"<path class=\"quote-steps\" d=\"{steps}\"/>");
        ink.Line(0, Ground, Width, Ground, "quote-ground");
        Mark(quoted, 0.1, "1 in 10", ink);
        Mark(quoted, 0.5, "5 in 10", ink);
        var most = X(quoted.AtMost);
        ink.Line(most, Ground, most, Y(100 * c["at-most"]), "quote-most");
        ink.Add(
            $"<rect class=\"quote-post\" x=\"{Ink.N(post - 4)}\" y=\"{Ink.N(Top - 18)}\" width=\"8\" height=\"{Ink.N(Ground - Top + 30)}\"/>"
        );
        ink.Text(post, Ground + 46, say(quoted.Price), "quote-price", "middle");
        ink.Text(post, Ground + 66, "the quote, 7 in 10", "quote-small", "middle");
        var apart = most - post < 120 ? Math.Min(Width - 44, post + 120) : most;
        ink.Text(apart, Ground + 40, say(quoted.AtMost), "quote-figure", "middle");
        ink.Text(apart, Ground + 60, "at most, 9 in 10", "quote-small", "middle");
        return ink.Add("</svg>").ToString();

        void Mark(Quoted q, double probability, string words, Ink s)
        {
            var money = Draws.Quantile(prices, probability);
            var (x, y) = (X(money), Y(100 * probability));
            s.Line(x, y, x, Ground, "quote-drop");
            s.Add($"<circle class=\"quote-dot\" cx=\"{Ink.N(x)}\" cy=\"{Ink.N(y)}\" r=\"7\"/>");
            s.Text(x - 13, y - 2, say(Math.Round(money)), "quote-figure", "end");
            s.Text(x - 13, y + 16, words, "quote-small", "end");
        }
    }

    /// <summary>Jobs in a hundred that are worth more than the price.</summary>
    public static int Over(Quoted quoted) => (int)Math.Round(100 * quoted.LossChance);

    /// <summary>A difference as a lens from a common zero: where nine in ten lie, thickest at half.</summary>
    /// <param name="least">Left end of the axis all of them share.</param>
    public static string Lens(Range difference, double least, double most)
    {
        const double width = 260;
        double X(double v) => 6 + ((width - 12) * (v - least) / Math.Max(1e-9, most - least));
        var (a, m, b) = (X(difference.Low), X(difference.Expected), X(difference.High));
        if (b - a < 6)
        {
            (a, b) = (m - 3, m + 3);
        }

        return FormattableString.Invariant($"<svg class=\"quote-lens\" viewBox=\"0 0 {width} 26\" aria-hidden=\"true\">")
            + $"<path class=\"quote-axis\" d=\"M0 13H{width}\"/><path class=\"quote-zero\" d=\"M{Ink.N(X(0))} 4V22\"/>"
            + $"<path class=\"quote-body\" d=\"M{Ink.N(a)} 13C{Ink.N((a + m) / 2)} 3 {Ink.N((m + b) / 2)} 3 {Ink.N(b)}"
            + $" 13C{Ink.N((m + b) / 2)} 23 {Ink.N((a + m) / 2)} 23 {Ink.N(a)} 13Z\"/>"
            + $"<path class=\"quote-mid\" d=\"M{Ink.N(m)} 3V23\"/></svg>";
    }

    /// <summary>Now one wide band, after the hold one of two narrower ones: each as thick as it is likely.</summary>
    /// <param name="now">What the price lies between now, with tax: one in ten to nine in ten.</param>
    public static string Hold(HoldPoint hold, (double Low, double High) now, Func<double, string> say)
    {
        const double top = 16,
            thick = 150,
            apart = 26;
        var much = thick * hold.Much.Share;
        var ink = new Ink();
        ink.Add("<svg class=\"quote-hold\" viewBox=\"0 0 620 212\" role=\"img\" aria-label=\"Before and after the hold\">");
        Flow("quote-much", top + (apart / 2), top, much);
        Flow("quote-little", top + (apart / 2) + much, top + much + apart, thick - much);
        ink.Add(
            FormattableString.Invariant($"<rect class=\"quote-now\" x=\"2\" y=\"{top + (apart / 2)}\" width=\"208\" height=\"{thick}\"/>")
                + "<rect class=\"quote-post\" x=\"210\" y=\"2\" width=\"9\" height=\"204\"/>"
        );
        ink.Text(16, top + 84, $"{say(now.Low)} to {say(now.High)}", "quote-figure");
        ink.Text(16, top + 106, "now, 8 in 10", "quote-small");
        Says(hold.Much, "shows much", top + (much / 2));
        Says(hold.Little, "shows little", top + much + apart + ((thick - much) / 2));
        return ink.Add("</svg>").ToString();

        void Flow(string cls, double from, double to, double height) =>
            ink.Add(
                $"<path class=\"{cls}\" d=\"M219 {Ink.N(from)}C270 {Ink.N(from)} 280 {Ink.N(to)} 330"
                    + $" {Ink.N(to)}H410V{Ink.N(to + height)}H330C280 {Ink.N(to + height)} 270 {Ink.N(from + height)} 219"
                    + $" {Ink.N(from + height)}Z\"/>"
            );

        void Says(Course course, string words, double y)
        {
            ink.Text(424, y + 2, $"{say(course.Low)} to {say(course.High)}", "quote-figure");
            ink.Text(424, y + 22, FormattableString.Invariant($"{words}, {100 * course.Share:0} in 100"), "quote-small");
        }
    }
}
