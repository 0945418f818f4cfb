using ToughStart.Core.Contamination;
using ToughStart.Core.Provenance;
using ToughStart.Core.Running;
using ToughStart.Data;
using ToughStart.Web.Stations;

namespace ToughStart.Web.Drawing;

/// <summary>
/// One vehicle over the years: a core for every visit, side by side on the line of time, what lay there on its left half and what was left on its
/// right, standing on what was put on it.
/// </summary>
internal static class YearsDrawing
{
    private const double Top = 16,
        Ground = 250,
        Foot = 318,
        Least = 0.006;

    /// <summary>Decades above what nobody sees.</summary>
    private static double Thick(double load) => load <= Least ? 0 : Math.Log10(load / Least);

    public static string Svg(IReadOnlyList<VisitLine> visits, Func<DateOnly, string> day)
    {
        var step = Math.Clamp(1160.0 / Math.Max(1, visits.Count), 84, 190);
        var core = Math.Min(96, step - 26);
        var width = Math.Max(320, (visits.Count * step) + 30);
        var strata = visits.Select(v => CloseDesk.StrataOf(v.Book)).ToArray();
        var kinds = strata.SelectMany(s => s).Select(s => s.Kind).Distinct().OrderBy(k => Catalogue.Default.Contaminant(k).Layer).ToArray();
        var most = Math.Max(1, strata.Max(s => s.Sum(x => Thick(x.Before))));
        var unit = (Ground - Top) / most;
        var s = new Ink();
        s.Add(
            $"<svg class=\"years\" viewBox=\"0 0 {Ink.N(width)} {Ink.N(Foot)}\" role=\"img\" aria-label=\"Layers of every visit, before and after\"><defs>"
        );
        foreach (var k in kinds)
        {
            s.Add(Textures.CorePattern(k, $"yr-{k}"));
        }

        s.Add(
            "<linearGradient id=\"yr-round\" x1=\"0\" x2=\"1\"><stop offset=\"0\" stop-color=\"#000\" stop-opacity=\".3\"/><stop offset=\".2\" stop-color=\"#000\" stop-opacity=\".02\"/><stop offset=\".45\" stop-color=\"#fff\" stop-opacity=\".16\"/><stop offset=\"1\" stop-color=\"#000\" stop-opacity=\".32\"/></linearGradient></defs>"
        );
        s.Line(0, Ground + 22, width, Ground + 22, "years-line");
        for (var i = 0; i < visits.Count; i++)
        {
            var x = 15 + (i * step);
            Half(s, strata[i], x, core / 2, unit, l => l.Before, true);
            Half(s, strata[i], x + (core / 2), core / 2, unit, l => l.After, false);
            // The finish, and what was put on it.
            var coat = visits[i].Hand.LastOrDefault(h => h.Kind is not null);
            if (coat is not null)
            {
                s.Add(
                    $"<rect class=\"years-coat\" x=\"{Ink.N(x + (core / 2))}\" y=\"{Ink.N(Ground - 5)}\" width=\"{Ink.N(core / 2)}\" height=\"5\"/>"
                );
            }

            s.Add($"<rect class=\"years-finish\" x=\"{Ink.N(x)}\" y=\"{Ink.N(Ground)}\" width=\"{Ink.N(core)}\" height=\"22\"/>");
            s.Add(
                $"<rect x=\"{Ink.N(x)}\" y=\"{Ink.N(Top)}\" width=\"{Ink.N(core)}\" height=\"{Ink.N(Ground + 22 - Top)}\" class=\"years-glass\"/>"
            );
            s.Text(x, Ground + 42, day(visits[i].Book.Day), "years-day");
            s.Text(x, Ground + 60, $"job {visits[i].Number}", "years-job");
        }

        return s.Add("</svg>").ToString();

        static void Half(Ink s, IReadOnlyList<Stratum> layers, double x, double width, double unit, Func<Stratum, double> load, bool before)
        {
            var y = Ground;
            foreach (var l in layers.Reverse())
            {
                var h = Thick(load(l)) * unit;
                if (h < 0.5)
                {
                    continue;
                }

                y -= h;
                var words =
                    $"{Catalogue.Default.Contaminant(l.Kind).Name}, {(before ? "before" : "after")}: {LoadWords.Of(load(l))} on average{(before && l.By is { } by ? $"; taken by {by}" : "")}";
                s.Add(
                    $"<g><rect x=\"{Ink.N(x)}\" y=\"{Ink.N(y)}\" width=\"{Ink.N(width)}\" height=\"{Ink.N(h)}\" fill=\"{Textures.Ground(l.Kind)}\"/><rect x=\"{Ink.N(x)}\" y=\"{Ink.N(y)}\" width=\"{Ink.N(width)}\" height=\"{Ink.N(h)}\" fill=\"url(#yr-{l.Kind})\" class=\"years-layer\"><title>{Ink.Escape(words)}</title></rect></g>"
                );
            }
        }
    }
}
