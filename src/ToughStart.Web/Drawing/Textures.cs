using System.Text;
using ToughStart.Core.Contamination;
using ToughStart.Core.Provenance;

namespace ToughStart.Web.Drawing;

/// <summary>
/// How each contaminant is drawn: its own colour, its own mark, its own way of lying on the paint. The same hand draws the net,
/// the core sample and the legend, so that one look teaches all three.
/// </summary>
internal static class Textures
{
    /// <summary>Ground colour, ink, how it is drawn.</summary>
    private sealed record Look(string Ground, string Ink, string Light, double Size, Func<Grain, Look, string> Glyph);

    private static readonly Dictionary<string, Look> Looks = new()
    {
        ["loose-dust"] = new("#c9bfa6", "#a3946f", "#ded6c2", .30, Dots),
        ["grit"] = new("#b5ada0", "#45423d", "#d9d2c4", .34, Shard),
        ["mud"] = new("#8f6f48", "#5f4122", "#b39468", .80, Shard),
        ["plant-litter"] = new("#a9a878", "#5f6e2c", "#8b9a45", .9, Leaf),
        ["salt"] = new("#dfe6e8", "#7f99a3", "#ffffff", .55, Crystal),
        ["road-film"] = new("#9a9a93", "#62655f", "#b9bab3", 1.2, Smear),
        ["oil-grease"] = new("#7d8894", "#33404f", "#9fb0b8", .9, Rings),
        ["skin-oil"] = new("#d8c3b5", "#b08471", "#e8d8cc", .8, Print),
        ["bug"] = new("#d9c47c", "#2b2616", "#f4efd9", 1.05, Bug),
        ["bird-dropping"] = new("#dcdacd", "#59625a", "#fbfaf4", .95, Splash),
        ["bee-spot"] = new("#e8d79a", "#c08a08", "#f0b91e", .32, Drop),
        ["sap"] = new("#e2c08a", "#a8660f", "#e09a35", .6, Drop),
        ["growth"] = new("#9db07f", "#2f6a33", "#5d9a4d", .8, Tuft),
        ["tar"] = new("#8f8b84", "#14171a", "#4d5560", .62, Tar),
        ["rubber"] = new("#97948f", "#2c2b2a", "#5a5957", .9, Streak),
        ["adhesive"] = new("#ded0ac", "#a98f52", "#efe5c8", .8, Tape),
        ["overspray"] = new("#bcc8dd", "#5d78a8", "#dfe6f2", .26, Dots),
        ["iron"] = new("#c3a795", "#a8431a", "#de7a3c", .62, Needle),
        ["mineral"] = new("#d5dee0", "#7795a0", "#f3f8f9", .7, Ring),
        ["cement"] = new("#c0c0ba", "#85857e", "#dcdcd6", .7, Shard),
        ["tyre-bloom"] = new("#a58a6c", "#6d4620", "#c19a6a", .95, Wave),
        ["bonded-mix"] = new("#b9bab8", "#6a6d72", "#dcdedd", .42, Bump),
        ["old-protection"] = new("#e6c877", "#b07f12", "#f7e5ae", .5, Bead),
        ["oxidation"] = new("#d8d3c6", "#a59d88", "#efece2", .8, Chalk),
        ["residue"] = new("#cfe0dc", "#4f8f88", "#eaf4f2", .8, Wave),
    };

    /// <summary>Part of the marks that is drawn from each grade on.</summary>
    private static readonly double[] Density = [0, .20, .42, .72, 1.0];

    /// <summary>Marks of one kind are drawn in a few variants and placed again and again.</summary>
    private const int Variants = 4;

    public static string Ground(string kind) => Looks[kind].Ground;

    public static string Ink(string kind) => Looks[kind].Ink;

    /// <summary>Kinds that cover; the others lie on them as spots and are drawn above.</summary>
    public static bool Covers(string kind) =>
        kind
            is "mud"
                or "road-film"
                or "loose-dust"
                or "grit"
                or "salt"
                or "oil-grease"
                or "oxidation"
                or "tyre-bloom"
                or "old-protection"
                or "growth";

    private static double GroundOf(string kind, int grade) =>
        Covers(kind)
            ? grade switch
            {
                4 => .92,
                3 => kind == "mud" ? .3 : .5,
                2 => kind == "mud" ? .1 : .22,
                _ => 0,
            }
            : grade switch
            {
                4 => .4,
                3 => .16,
                _ => 0,
            };

    /// <summary>A swatch for the legend; the page holds the textures once.</summary>
    public static string Swatch(string kind, int grade) =>
        $"<svg class=\"swatch\" viewBox=\"0 0 .34 .34\" aria-hidden=\"true\" preserveAspectRatio=\"xMidYMid slice\"><rect width=\".34\" height=\".34\" class=\"swatch-ground\"/><rect width=\".34\" height=\".34\" fill=\"{Looks[kind].Ground}\" fill-opacity=\".75\"/><rect width=\".34\" height=\".34\" fill=\"url(#tx-{kind}-{grade})\"/></svg>";

    /// <summary>Where the marks of every texture are kept, once for all pages; another drawing has another address.</summary>
    public static string Address => Kept.Value.Address;

    /// <summary>The file at that address.</summary>
    public static byte[] Sheet => Kept.Value.Bytes;

    private static readonly Lazy<(string Address, byte[] Bytes)> Kept = new(() =>
    {
        var marks = Catalogue.Default.Contaminants.Select(k => Drawn(k.Id, Scale.Net) + Drawn(k.Id, Scale.Core));
        var bytes = Encoding.UTF8.GetBytes($"<svg xmlns=\"http://www.w3.org/2000/svg\">{string.Concat(marks)}</svg>");
        return ($"/drawn/textures.svg?v={Drawing.Drawn.Mark(bytes)}", bytes);
    });

    /// <summary>Patterns for the net: one per kind and grade, tile in metres of the drawing.</summary>
    /// <param name="within">The marks come along, for a drawing that leaves the house; else they are taken from the file.</param>
    public static string Defs(IEnumerable<(string Kind, int Grade)> used, bool within = false) =>
        string.Concat(
            used.Distinct()
                .Order()
                .GroupBy(u => u.Kind)
                .Select(g =>
                    (within ? Drawn(g.Key, Scale.Net) : "")
                    + string.Concat(g.Select(u => Pattern($"tx-{u.Kind}-{u.Grade}", u.Kind, u.Grade, Scale.Net, within)))
                )
        );

    /// <summary>Pattern for a core sample: always dense, in pixels.</summary>
    public static string CorePattern(string kind, string id) => Pattern(id, kind, Density.Length - 1, Scale.Core, within: false);

    private static string Pattern(string id, string kind, int grade, Scale scale, bool within)
    {
        var size = Drawing.Ink.N(scale.Tile(kind));
        return $"<pattern id=\"{id}\" width=\"{size}\" height=\"{size}\" patternUnits=\"userSpaceOnUse\">"
            + $"<use href=\"{(within ? "" : Address)}#{scale.Name}-{kind}-{grade}\"/></pattern>";
    }

    private static readonly Lazy<string> Everything = new(() => StateDefs() + Defs(All()));

    /// <summary>Every texture at every grade; put together once and kept.</summary>
    public static string AllDefs => Everything.Value;

    /// <summary>How large a texture is drawn: as it lies on the net, in metres, or dense in a core, in pixels.</summary>
    private sealed record Scale(string Name, double Unit, Func<string, double> Tile, Func<string, int, double> Ground)
    {
        // Large glyphs need a large tile, or the eye finds the grid.
        public static Scale Net { get; } = new("net", 0.058, kind => Looks[kind].Size > .5 ? 0.78 : 0.36, GroundOf);

        public static Scale Core { get; } = new("core", 9.5, _ => 62, (_, _) => 1);
    }

    public static IEnumerable<(string, int)> All() =>
        Catalogue.Default.Contaminants.SelectMany(k => Enumerable.Range(1, 4).Select(g => (k.Id, g)));

    /// <summary>Hatches for "looked, none" and "not looked".</summary>
    public static string StateDefs() =>
        "<pattern id=\"tx-unlooked\" width=\"0.11\" height=\"0.11\" patternUnits=\"userSpaceOnUse\" patternTransform=\"rotate(52)\"><line x1=\"0\" y1=\"0\" x2=\"0\" y2=\"0.055\" class=\"tx-unlooked\"/></pattern>"
        + "<pattern id=\"tx-none\" width=\"0.2\" height=\"0.2\" patternUnits=\"userSpaceOnUse\"><circle cx=\"0.1\" cy=\"0.1\" r=\"0.028\" class=\"tx-none\"/></pattern>";

    /// <summary>The marks of a kind once, in layers that come with each grade, and every grade put together from them.</summary>
    private static string Drawn(string kind, Scale scale)
    {
        var s = new Ink();
        var prefix = scale.Name;
        var tile = scale.Tile(kind);
        var size = Drawing.Ink.N(tile);
        var layers = kind == "mud" ? Mud(tile, scale.Unit) : Marks(s, prefix, kind, tile, scale.Unit);
        for (var g = 1; g < layers.Length; g++)
        {
            s.Add($"<g id=\"{prefix}g-{kind}-{g}\">{layers[g]}</g>");
        }

        for (var grade = 1; grade < layers.Length; grade++)
        {
            s.Add($"<g id=\"{prefix}-{kind}-{grade}\">");
            if (scale.Ground(kind, grade) is > 0 and var ground)
            {
                s.Add(
                    $"<rect width=\"{size}\" height=\"{size}\" fill=\"{(kind == "mud" && grade == 4 ? Looks[kind].Ink : Looks[kind].Ground)}\" fill-opacity=\"{Drawing.Ink.N(ground)}\"/>"
                );
            }

            for (var g = 1; g <= grade; g++)
            {
                s.Add($"<use href=\"#{prefix}g-{kind}-{g}\"/>");
            }

            s.Add("</g>");
        }

        return s.ToString();
    }

    /// <summary>Marks scattered over a tile that repeats without a seam: what crosses an edge comes in again at the other.</summary>
    private static string[] Marks(Ink defs, string prefix, string kind, double tile, double unit)
    {
        var look = Looks[kind];
        var grain = new Grain((uint)(kind.Sum(c => c) * 31 + kind.Length));
        for (var v = 0; v < Variants; v++)
        {
            defs.Add($"<g id=\"{prefix}m-{kind}-{v}\">{look.Glyph(grain, look)}</g>");
        }

        var layers = new string[5];
        var step = unit * look.Size * 2.5;
        var n = Math.Max(2, (int)Math.Round(tile / step));
        step = tile / n;
        for (var i = 0; i < n * n; i++)
        {
            var from = LayerOf(grain.Next());
            var x = (i / n + .5 + grain.Between(-.34, .34)) * step;
            var y = (i % n + .5 + grain.Between(-.46, .46)) * step;
            var size = unit * look.Size * grain.Between(.7, 1.3);
            var turn = kind is "road-film" or "tyre-bloom" or "iron" ? grain.Between(-16, 16) : grain.Between(0, 360);
            foreach (var (dx, dy) in Wraps(x, y, size * 1.4, tile))
            {
                layers[from] +=
                    $"<use href=\"#{prefix}m-{kind}-{i % Variants}\" transform=\"translate({Drawing.Ink.Short(x + dx)} {Drawing.Ink.Short(y + dy)})rotate({turn:0})scale({Drawing.Ink.Short(size)})\"/>";
            }
        }

        return layers;
    }

    private static int LayerOf(double keep) => Array.FindIndex(Density, d => keep <= d);

    private static IEnumerable<(double, double)> Wraps(double x, double y, double r, double tile)
    {
        foreach (var dx in new[] { 0.0, -tile, tile })
        {
            foreach (var dy in new[] { 0.0, -tile, tile })
            {
                if (x + dx + r > 0 && x + dx - r < tile && y + dy + r > 0 && y + dy - r < tile)
                {
                    yield return (dx, dy);
                }
            }
        }
    }

    /// <summary>Mud dries in plates: a fine spatter first, then single plates, at last a closed, cracked crust.</summary>
    private static string[] Mud(double tile, double unit)
    {
        var look = Looks["mud"];
        var g = new Grain(3301);
        var n = Math.Max(4, (int)Math.Round(tile / (unit * 2.35)));
        var step = tile / n;
        var px = new double[n, n];
        var py = new double[n, n];
        for (var i = 0; i < n * n; i++)
        {
            px[i / n, i % n] = (i / n + .5 + g.Between(-.38, .38)) * step;
            py[i / n, i % n] = (i % n + .5 + g.Between(-.38, .38)) * step;
        }

        (double X, double Y) At(int i, int j) =>
            (
                px[(i + n) % n, (j + n) % n]
                    + (
                        i < 0 ? -tile
                        : i >= n ? tile
                        : 0
                    ),
                py[(i + n) % n, (j + n) % n]
                    + (
                        j < 0 ? -tile
                        : j >= n ? tile
                        : 0
                    )
            );
        var layers = new string[5];
        var tones = new[] { look.Ground, look.Light, "#9c7a50" };
        var keeps = new double[n, n];
        for (var i = 0; i < n * n; i++)
        {
            keeps[i / n, i % n] = g.Next();
        }

        for (var i = -1; i < n; i++)
        {
            for (var j = -1; j < n; j++)
            {
                (double X, double Y)[] corners = [At(i, j), At(i + 1, j), At(i + 1, j + 1), At(i, j + 1)];
                var (cx, cy) = (corners.Average(c => c.X), corners.Average(c => c.Y));
                var (wi, wj) = ((i + n) % n, (j + n) % n);
                var keep = keeps[wi, wj];
                var layer =
                    keep < .16 ? 2
                    : keep < .62 ? 3
                    : 4;
                var shrink = layer == 4 ? .93 : .86;
                var path = string.Join('L', corners.Select(c => P((cx + (c.X - cx) * shrink, cy + (c.Y - cy) * shrink))));
                layers[layer] +=
                    $"<path d=\"M{path}Z\" fill=\"{tones[(wi * 7 + wj * 13) % 3]}\" stroke=\"{look.Ink}\" stroke-width=\"{Drawing.Ink.N(step * .05)}\" stroke-linejoin=\"round\"/>";
            }
        }

        for (var k = 0; k < n * n; k++)
        {
            layers[k % 3 == 0 ? 1 : 2] +=
                $"<circle cx=\"{Drawing.Ink.N(g.Between(.03, .97) * tile)}\" cy=\"{Drawing.Ink.N(g.Between(.03, .97) * tile)}\" r=\"{Drawing.Ink.N(g.Between(.03, .1) * step)}\" fill=\"{look.Ink}\"/>";
        }

        return layers;
    }

    private static string P((double X, double Y) p) => Drawing.Ink.Short(p.X) + " " + Drawing.Ink.Short(p.Y);

    private static string Dots(Grain g, Look l) =>
        $"<circle r=\".42\" fill=\"{l.Ink}\"/><circle cx=\"{g.Between(-1, 1):0.##}\" cy=\"{g.Between(-1, 1):0.##}\" r=\".26\" fill=\"{l.Light}\"/>";

    private static string Shard(Grain g, Look l) =>
        $"<path d=\"M-.8 {g.Between(-.2, .5):0.##}L{g.Between(-.3, .2):0.##} -.75L.8 {g.Between(-.4, .2):0.##}L.15 .7Z\" fill=\"{l.Ink}\"/><path d=\"M-.8 .2L0 -.7L.1 .1Z\" fill=\"{l.Light}\" fill-opacity=\".55\"/>";

    private static string Smear(Grain g, Look l) =>
        $"<path d=\"M-1 {g.Between(-.1, .1):0.##}C-.5 -.3 .1 .35 1 {g.Between(-.15, .15):0.##}\" stroke=\"{l.Ink}\" stroke-width=\".13\" fill=\"none\" stroke-linecap=\"round\"/><path d=\"M-.8 .38C-.2 .15 .4 .6 .9 .36\" stroke=\"{l.Ink}\" stroke-opacity=\".55\" stroke-width=\".09\" fill=\"none\" stroke-linecap=\"round\"/>";

    /// <summary>A fly that met a bonnet: smear behind it, two wings, a dark body.</summary>
    private static string Bug(Grain g, Look l) =>
        $"<path d=\"M-.3 .2C-.9 .7 -.5 1.15 0 .95S.95 .9 .4 .25Z\" fill=\"#c79a2e\" fill-opacity=\".75\"/><g fill=\"{l.Light}\" stroke=\"{l.Ink}\" stroke-width=\".1\"><path d=\"M-.05 -.2C-.9 -.95 -1.1 {g.Between(-.1, .2):0.##} -.1 .1Z\"/><path d=\"M.05 -.2C.9 -.95 1.1 {g.Between(-.1, .2):0.##} .1 .1Z\"/></g><path d=\"M0 -.7C.34 -.7 .32 .55 0 .75C-.32 .55 -.34 -.7 0 -.7Z\" fill=\"{l.Ink}\"/><circle cy=\"-.72\" r=\".2\" fill=\"{l.Ink}\"/>";

    private static string Tar(Grain g, Look l) =>
        $"<path d=\"M-.7 0C-.75 -.6 -.1 -.8 .25 -.65S.85 -.1 .65 .3S.05 .8 -.3 .6S-.68 .35 -.7 0Z\" fill=\"{l.Ink}\"/><circle cx=\"{g.Between(.75, .95):0.##}\" cy=\"{g.Between(-.6, .6):0.##}\" r=\".18\" fill=\"{l.Ink}\"/><path d=\"M-.35 -.3Q-.1 -.5 .2 -.38\" stroke=\"{l.Light}\" stroke-width=\".13\" fill=\"none\" stroke-linecap=\"round\"/>";

    private static string Needle(Grain g, Look l)
    {
        var lean = g.Between(-.35, .35);
        return $"<path d=\"M-.22 -.85L.22 -.85L{lean:0.##} .95Z\" fill=\"{l.Ink}\"/><path d=\"M-.05 -.85L.22 -.85L{lean:0.##} .95Z\" fill=\"{l.Light}\"/><circle cx=\"{g.Between(.45, .8):0.##}\" cy=\"{g.Between(-.6, .2):0.##}\" r=\".15\" fill=\"{l.Ink}\"/>";
    }

    private static string Wave(Grain g, Look l) =>
        $"<path d=\"M-.95 .1Q-.5 {g.Between(-.7, -.4):0.##} 0 0T.95 -.1\" stroke=\"{l.Ink}\" stroke-width=\".15\" fill=\"none\" stroke-linecap=\"round\"/><path d=\"M-.7 .5Q-.3 .1 .1 .4T.8 .35\" stroke=\"{l.Light}\" stroke-width=\".12\" fill=\"none\" stroke-linecap=\"round\"/>";

    private static string Bump(Grain g, Look l) =>
        $"<path d=\"M-.8 .45Q-.7 -.65 0 -.7T.8 .45Z\" fill=\"{l.Light}\" stroke=\"{l.Ink}\" stroke-width=\".22\" stroke-linejoin=\"round\"/><circle cx=\"{g.Between(-.2, .2):0.##}\" cy=\"0\" r=\".14\" fill=\"{l.Ink}\"/>";

    private static string Bead(Grain g, Look l) =>
        $"<circle r=\"{g.Between(.55, .75):0.##}\" fill=\"{l.Light}\" stroke=\"{l.Ink}\" stroke-width=\".18\"/><path d=\"M-.3 -.2Q-.15 -.45 .1 -.42\" stroke=\"#fff\" stroke-width=\".16\" fill=\"none\" stroke-linecap=\"round\"/>";

    private static string Drop(Grain g, Look l) =>
        $"<path d=\"M0 -.85C.5 -.2 .65 .1 .6 .35A.6 .6 0 0 1 -.6 .35C-.65 .1 -.5 -.2 0 -.85Z\" fill=\"{l.Ink}\"/><circle cx=\"-.15\" cy=\"{g.Between(.2, .35):0.##}\" r=\".2\" fill=\"{l.Light}\"/>";

    private static string Leaf(Grain g, Look l) =>
        $"<path d=\"M-.9 0Q0 {g.Between(-.8, -.5):0.##} .9 0Q0 .6 -.9 0Z\" fill=\"{l.Light}\" stroke=\"{l.Ink}\" stroke-width=\".1\"/><path d=\"M-.9 0L.7 0M-.3 0L0 -.25M.1 0L.4 .22\" stroke=\"{l.Ink}\" stroke-width=\".08\"/>";

    private static string Crystal(Grain g, Look l) =>
        $"<path d=\"M0 -.8L.3 -.1L.8 0L.25 .25L0 .8L-.25 .25L-.8 0L-.3 -.1Z\" fill=\"{l.Light}\" stroke=\"{l.Ink}\" stroke-width=\"{g.Between(.1, .16):0.##}\"/>";

    private static string Rings(Grain g, Look l) =>
        $"<ellipse rx=\".85\" ry=\".55\" fill=\"{l.Ink}\" fill-opacity=\".55\"/><ellipse rx=\".55\" ry=\".33\" fill=\"none\" stroke=\"#8e6fa8\" stroke-width=\".12\"/><ellipse rx=\"{g.Between(.2, .3):0.##}\" ry=\".15\" fill=\"none\" stroke=\"{l.Light}\" stroke-width=\".1\"/>";

    private static string Print(Grain g, Look l) =>
        $"<g fill=\"none\" stroke=\"{l.Ink}\" stroke-width=\".12\"><path d=\"M-.5 .7Q-.75 -.7 0 -.8T.5 .7\"/><path d=\"M-.25 .7Q-.45 -.4 0 -.5T.25 .7\"/><path d=\"M0 {g.Between(.5, .7):0.##}L0 -.15\"/></g>";

    private static string Splash(Grain g, Look l) =>
        $"<path d=\"M-.8 -.1Q-.5 -.9 .1 -.6T.9 -.1Q.6 .5 .2 .45L.3 .95L-.05 .5Q-.7 .6 -.8 -.1Z\" fill=\"{l.Light}\" stroke=\"{l.Ink}\" stroke-width=\".1\"/><circle cx=\"{g.Between(-.15, .15):0.##}\" cy=\"-.1\" r=\".22\" fill=\"{l.Ink}\"/>";

    private static string Tuft(Grain g, Look l) =>
        $"<g stroke-linecap=\"round\" stroke-width=\".16\" fill=\"none\"><path d=\"M0 .8Q-.1 0 -.6 -.5M0 .8Q0 .1 .5 -.6\" stroke=\"{l.Ink}\"/><path d=\"M0 .8Q.05 0 {g.Between(-.15, .15):0.##} -.8M0 .8Q-.3 .3 -.85 .1M0 .8Q.3 .3 .85 .05\" stroke=\"{l.Light}\"/></g>";

    private static string Streak(Grain g, Look l) =>
        $"<path d=\"M-1 {g.Between(-.3, .1):0.##}L.9 -.1L1 .12L-.9 .2Z\" fill=\"{l.Ink}\"/><circle cx=\".5\" cy=\".55\" r=\".15\" fill=\"{l.Light}\"/>";

    private static string Tape(Grain g, Look l) =>
        $"<path d=\"M-.8 -.4L.75 -.5L.85 .4L-.75 .45Z\" fill=\"{l.Light}\" stroke=\"{l.Ink}\" stroke-width=\".12\" stroke-dasharray=\".25 .12\"/><path d=\"M-.4 {g.Between(-.1, .1):0.##}L.4 0\" stroke=\"{l.Ink}\" stroke-width=\".08\"/>";

    private static string Ring(Grain g, Look l) =>
        $"<circle r=\"{g.Between(.6, .8):0.##}\" fill=\"{l.Light}\" fill-opacity=\".6\" stroke=\"{l.Ink}\" stroke-width=\".18\"/><circle r=\".25\" fill=\"none\" stroke=\"{l.Ink}\" stroke-width=\".1\"/>";

    private static string Chalk(Grain g, Look l) =>
        $"<path d=\"M-.9 -.2L.8 {g.Between(-.4, 0):0.##}M-.7 .25L.9 .1M-.4 .6L.5 .5\" stroke=\"{l.Ink}\" stroke-opacity=\".7\" stroke-width=\".14\" stroke-linecap=\"round\" stroke-dasharray=\".3 .2\"/>";
}
