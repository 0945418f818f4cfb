using ToughStart.Core;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Readiness;
using ToughStart.Core.Vehicles;
using ToughStart.Data;

namespace ToughStart.Web.Drawing;

/// <summary>The gate's drawings: the vehicle with a hatch for every verdict, the stops of the walk, damage, and paint as pins.</summary>
internal static class GateDrawing
{
    /// <summary>Hatches, told apart in grey as well: blank, ruled, waves, solid, broken.</summary>
    public const string Defs =
        "<pattern id=\"gate-correct\" width=\".2\" height=\".085\" patternUnits=\"userSpaceOnUse\"><path d=\"M0 .04H.2\" class=\"gate-rule\"/></pattern>"
        + "<pattern id=\"gate-repeat\" width=\".2\" height=\".13\" patternUnits=\"userSpaceOnUse\"><rect width=\".2\" height=\".13\" class=\"gate-wave-ground\"/><path d=\"M0 .065q.05 -.09 .1 0t.1 0\" class=\"gate-wave\"/></pattern>"
        + "<pattern id=\"gate-unverified\" width=\".12\" height=\".12\" patternUnits=\"userSpaceOnUse\" patternTransform=\"rotate(48)\"><path d=\"M0 .03V.095\" class=\"gate-broken\"/></pattern>";

    /// <summary>The class that says how a verdict is drawn.</summary>
    public static string Hatch(GateWord word, Goal? goal) =>
        word switch
        {
            GateWord.Ready => goal == Goal.Correct ? "correct" : "protect",
            GateWord.Repeat => "repeat",
            GateWord.Refer => "refer",
            GateWord.LeftAlone => "alone",
            _ => "unverified",
        };

    /// <summary>The whole vehicle; every zone leads to itself.</summary>
    /// <param name="word">The word that counts for a zone.</param>
    public static string Net(
        Vehicle v,
        IReadOnlyList<ZoneVerdict> verdicts,
        Func<ZoneVerdict, GateWord> word,
        IReadOnlyList<GateStop> stops,
        IReadOnlyList<GateMark> marks,
        IReadOnlyCollection<string> signed,
        string? now
    )
    {
        const double margin = .12;
        var s = new Ink();
        var (w, h) = (v.Max.X - v.Min.X + 2 * margin, v.Max.Y - v.Min.Y + 2 * margin);
        s.Add(
            $"<svg class=\"gate-net\" viewBox=\"{Ink.N(v.Min.X - margin)} {Ink.N(v.Min.Y - margin)} {Ink.N(w)} {Ink.N(h)}\" role=\"group\" aria-label=\"The vehicle with the verdict of every zone\"><defs>{Defs}</defs>"
        );
        var by = verdicts.ToDictionary(x => x.Zone);
        foreach (var z in v.Zones.OrderBy(z => z.Id == now))
        {
            var verdict = by[z.Id];
            var words = $"{Limits.Words(z.Id)}: {Stations.GateModel.Say(word(verdict), verdict)}";
            s.Add(
                $"<a href=\"?zone={z.Id}#zone\" aria-label=\"{Ink.Escape(words)}\"{(z.Id == now ? " aria-current=\"true\"" : "")}><path d=\"{NetDrawing.PathOf(z)}\" fill-rule=\"evenodd\" class=\"gate-{Hatch(word(verdict), verdict.Goal)}\"/><title>{Ink.Escape(words)}</title></a>"
            );
        }

        foreach (var mark in marks.Where(m => v.Has(m.Zone)))
        {
            var (x, y) = At(v[mark.Zone], mark);
            s.Add($"<path class=\"gate-mark\" d=\"M{Ink.N(x - .09)} {Ink.N(y + .04)}l.18 -.08\"/>");
        }

        foreach (var zone in signed.Where(v.Has))
        {
            var c = v[zone].Shapes.MaxBy(x => x.Area)!.Anchor;
            s.Add($"<path class=\"gate-signed\" d=\"M{Ink.N(c.X - .16)} {Ink.N(c.Y + .05)}q.05 -.16 .1 0t.1 -.03t.12 0\"/>");
        }

        foreach (var stop in stops)
        {
            var c = stop.Zones.Where(v.Has).Select(z => v[z]).MaxBy(z => z.Area.Value)!.Shapes.MaxBy(x => x.Area)!.Anchor;
            s.Add($"<g class=\"gate-stop\" transform=\"translate({Ink.N(c.X)} {Ink.N(c.Y)})\"><circle r=\".13\"/>");
            s.Add($"<text y=\".055\" text-anchor=\"middle\">{stop.Number}</text></g>");
        }

        return s.Add("</svg>").ToString();
    }

    /// <summary>A verdict's hatch alone, for the key.</summary>
    public static string Key(string hatch) =>
        $"<svg class=\"gate-key\" viewBox=\"0 0 .6 .36\" aria-hidden=\"true\"><rect x=\".01\" y=\".01\" width=\".58\" height=\".34\" class=\"gate-{hatch}\"/></svg>";

    private static (double X, double Y) At(Zone z, GateMark m)
    {
        var all = z.Shapes.SelectMany(x => x.Outline).ToArray();
        var (x0, y0, x1, y1) = (all.Min(p => p.X), all.Min(p => p.Y), all.Max(p => p.X), all.Max(p => p.Y));
        return (x0 + (m.X * (x1 - x0)), y0 + (m.Y * (y1 - y0)));
    }

    /// <summary>One zone large, with its damage; where one presses on it the next mark is drawn.</summary>
    public static string Panel(Zone z, IReadOnlyList<GateMark> marks)
    {
        var all = z.Shapes.SelectMany(x => x.Outline).ToArray();
        var (x0, y0, x1, y1) = (all.Min(p => p.X), all.Min(p => p.Y), all.Max(p => p.X), all.Max(p => p.Y));
        var edge = Math.Max(x1 - x0, y1 - y0) * .04;
        var size = Math.Max(x1 - x0, y1 - y0) * .045;
        var s = new Ink();
        s.Add(
            $"<svg class=\"gate-panel\" data-mark data-box=\"{Ink.N(x0)} {Ink.N(y0)} {Ink.N(x1)} {Ink.N(y1)}\" viewBox=\"{Ink.N(x0 - edge)} {Ink.N(y0 - edge)} {Ink.N(x1 - x0 + (2 * edge))} {Ink.N(y1 - y0 + (2 * edge))}\" role=\"img\" aria-label=\"{Ink.Escape(Limits.Words(z.Id))}\"><path d=\"{NetDrawing.PathOf(z)}\" fill-rule=\"evenodd\"/>"
        );
        foreach (var (m, i) in marks.Select((m, i) => (m, i)))
        {
            var (x, y) = At(z, m);
            s.Add(
                $"<g class=\"gate-mark-at\" transform=\"translate({Ink.N(x)} {Ink.N(y)}) scale({Ink.N(size)})\"><circle r=\"1\"/><text y=\".42\" text-anchor=\"middle\">{(char)('a' + (i % 26))}</text></g>"
            );
        }

        return s.Add($"<g class=\"gate-here\" hidden><circle r=\"{Ink.N(size)}\"/></g></svg>").ToString();
    }

    /// <summary>Paint as pins: one a spot, on the ground line of what is thin.</summary>
    public static string Pins(IReadOnlyList<double> spots, FilmThickness film)
    {
        const double w = 300,
            h = 128,
            foot = 112;
        var thin = Catalogue.Default["film-thin"];
        var off = Catalogue.Default["film-off"];
        var most = Math.Max(220, spots.Max() * 1.1);
        double Y(double um) => foot - (um / most * (foot - 18));
        var step = Math.Min(34, (w - 60) / Math.Max(1, spots.Count));
        var s = new Ink();
        s.Add(
            $"<svg class=\"gate-pins\" viewBox=\"0 0 {Ink.N(w)} {Ink.N(h)}\" role=\"img\" aria-label=\"Paint thickness of {spots.Count} spots, µm\">"
        );
        s.Add($"<rect x=\"0\" y=\"{Ink.N(Y(thin))}\" width=\"{Ink.N(w - 42)}\" height=\"{Ink.N(foot - Y(thin))}\" class=\"pin-thin\"/>");
        s.Line(0, Y(thin), w - 42, Y(thin), "pin-limit").Line(0, foot, w - 42, foot, "pin-ground");
        s.Text(w - 38, Y(thin) + 5, FormattableString.Invariant($"{thin:0} thin"), "pin-word");
        foreach (var (um, i) in spots.Select((um, i) => (um, i)))
        {
            var x = 16 + (i * step);
            var odd = Math.Abs(um - film.Median) > off || um < thin;
            s.Line(x, foot, x, Y(um), odd ? "pin pin-odd" : "pin");
            s.Add($"<circle cx=\"{Ink.N(x)}\" cy=\"{Ink.N(Y(um))}\" r=\"5\" class=\"{(odd ? "pin-head pin-odd" : "pin-head")}\"/>");
            s.Text(x, Y(um) - 9, FormattableString.Invariant($"{um:0}"), "pin-um", "middle");
        }

        return s.Add("</svg>").ToString();
    }
}
