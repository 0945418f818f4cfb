using ToughStart.Core.Provenance;

namespace ToughStart.Core.Vehicles;

/// <summary>
/// Lays a vehicle out flat. Forms are drawn at their default size in metres: the top strip on y = 0 with the nose at the
/// left, the left side below it and the right side, mirrored, above; front and rear folded out at the ends. Sizes scale x by
/// length, heights by height and widths by width; wheels keep round.
/// </summary>
internal sealed class NetBuilder(string form, Size at, Size wanted)
{
    private readonly Dictionary<string, (ZoneKind Kind, List<Shape> Shapes, double Tilt, double Faces, double Top, double Bottom)> _zones =
    [];
    private readonly List<string> _order = [];
    private readonly Dictionary<string, HashSet<string>> _drains = [];
    private readonly Dictionary<string, HashSet<string>> _beside = [];
    private readonly List<DecorLine> _decor = [];

    private double Kx => wanted.Length / at.Length;
    private double Ky => wanted.Width / at.Width;
    private double Kh => wanted.Height / at.Height;
    private double Kr => Math.Sqrt(Kx * Kh);

    /// <summary>Distance from the middle line to the top edge of the side elevations, at default size.</summary>
    public double SideTop { get; init; }

    /// <summary>Height above the ground of that edge, at default size.</summary>
    public double SideHeight { get; init; }

    public Pt Top(double x, double y) => new(x * Kx, y * Ky);

    /// <summary>A point of the left side elevation: x from the nose, h above the ground.</summary>
    public Pt Side(double x, double h) => new(x * Kx, SideTop * Ky + (SideHeight - h) * Kh);

    public static Pt Mirror(Pt p) => new(p.X, -p.Y);

    public Pt[] TopPoly(params (double X, double Y, double R)[] c) => Draw.Poly(c).Select(p => Top(p.X, p.Y)).ToArray();

    public Pt[] SidePoly(params (double X, double H, double R)[] c) => Draw.Poly(c).Select(p => Side(p.X, p.Y)).ToArray();

    /// <summary>A circle on the top strip that stays a circle at every size.</summary>
    public Pt[] TopDisc(double x, double y, double r, int steps = 24) => Draw.Disc(Top(x, y), r * Kr, steps);

    /// <summary>An arc of such a circle.</summary>
    public Pt[] SideArc(double x, double h, double r, double from, double to, int steps = 20) =>
        Draw.Arc(Side(x, h), r * Kr, from, to, steps);

    /// <summary>An outline moved inward, by metres at default size.</summary>
    public Pt[] Inset(Pt[] outline, double by) => Draw.Inset(outline, by * Kr);

    /// <summary>A circle at a place of the side elevation that stays a circle at every size.</summary>
    public Pt[] SideDisc(double x, double h, double r, int steps = 48) => Draw.Disc(Side(x, h), r * Kr, steps);

    public void Zone(string id, string kind, double tilt, double faces, double top, double bottom, params Shape[] shapes)
    {
        if (_zones.TryGetValue(id, out var there))
        {
            there.Shapes.AddRange(shapes);
            return;
        }

        _zones[id] = (Catalogue.Default.ZoneKind(kind), [.. shapes], tilt, faces, top * Kh, bottom * Kh);
        _order.Add(id);
    }

    /// <summary>The same zone on both sides: "left-…" as given and "right-…" mirrored.</summary>
    public void Both(string part, string kind, double tilt, double faces, double top, double bottom, params Shape[] left)
    {
        Zone("left-" + part, kind, tilt, faces, top, bottom, left);
        Zone("right-" + part, kind, tilt, (360 - faces) % 360, top, bottom, left.Select(s => s.Map(Mirror)).ToArray());
    }

    /// <summary>Shapes on both sides that belong to one zone (shuts, seals, bumper ends).</summary>
    public void Mirrored(string id, string kind, double tilt, double faces, double top, double bottom, params Shape[] left)
    {
        Zone(id, kind, tilt, faces, top, bottom, left);
        Zone(id, kind, tilt, faces, top, bottom, left.Select(s => s.Map(Mirror)).ToArray());
    }

    public void Line(string style, params Pt[] points) => _decor.Add(new DecorLine(style, points, false));

    public void Loop(string style, params Pt[] points) => _decor.Add(new DecorLine(style, points, true));

    public void LineBoth(string style, params Pt[] points)
    {
        Line(style, points);
        Line(style, points.Select(Mirror).ToArray());
    }

    public void LoopBoth(string style, params Pt[] points)
    {
        Loop(style, points);
        Loop(style, points.Select(Mirror).ToArray());
    }

    /// <summary>A door: outline, shut band round it, glass with its seal set into it.</summary>
    public void Door(string door, string glass, Pt[] outline, Pt[] window, double shut, double seal, double top, double bottom)
    {
        var inner = Inset(outline, shut);
        var pane = Inset(window, seal);
        Both(door, "panel", 85, 270, top, bottom, new Shape(inner, [window]));
        Mirrored("door-shuts", "shut", 85, 270, top, bottom, new Shape(outline, [inner]));
        Mirrored("window-seals", "seal", 85, 270, top, top * 0.66, new Shape(window, [pane]));
        Both(glass, "glass", 70, 270, top, top * 0.66, new Shape(pane));
    }

    /// <summary>A fixed pane on both sides with its seal.</summary>
    public void Pane(string glass, Pt[] window, double seal, double top, double bottom)
    {
        var pane = Inset(window, seal);
        Mirrored("window-seals", "seal", 85, 270, top, bottom, new Shape(window, [pane]));
        Both(glass, "glass", 75, 270, top, bottom, new Shape(pane));
    }

    /// <summary>
    /// One corner of the running gear: arch as the half ring you look into, wheel pulled out below it, barrel unrolled beside it.
    /// </summary>
    public void Wheel(
        string corner,
        double x,
        double axle,
        double archRadius,
        double sillBottom,
        double tyreRadius,
        double faceRadius,
        double barrelX,
        double barrelLength,
        double barrelWidth,
        int spokes
    )
    {
        var arch = Draw.Arc(
            Side(x, axle),
            archRadius * Kr,
            180 - ArchDip(axle, sillBottom, archRadius),
            360 + ArchDip(axle, sillBottom, archRadius),
            32
        );
        Both(corner + "-arch", "arch", 60, 270, axle + archRadius, sillBottom, new Shape(arch));
        var pulled = Pulled(axle, sillBottom, tyreRadius);
        var centre = Side(x, 0) + new Pt(0, pulled);
        var rim = Draw.Disc(centre, faceRadius * Kr);
        Both(corner + "-tyre", "tyre", 90, 270, axle + tyreRadius, 0, new Shape(Draw.Disc(centre, tyreRadius * Kr), [rim]));
        Both(corner + "-wheel-face", "wheel-face", 90, 270, axle + faceRadius, axle - faceRadius, new Shape(rim));
        var left = new Pt(barrelX * Kx, Side(x, sillBottom).Y + 0.12 * Kr);
        var l = barrelLength * Kx;
        var w = barrelWidth * Kr * Kr / Kx;
        Inside(corner, left, l, w, axle + faceRadius, axle - faceRadius);
        Spokes(centre, faceRadius * Kr, spokes);
        for (var i = 1; i < 12; i++)
        {
            var tick = left + new Pt(l * i / 12, 0);
            LineBoth("fine", tick, tick + new Pt(0, w * (i == 6 ? 1 : 0.22)));
        }

        LoopBoth("fine", Draw.Disc(centre, (tyreRadius * 0.55 + faceRadius * 0.45) * Kr, 40));
        for (var i = 0; i < 30; i++)
        {
            var a = i * 12 * Math.PI / 180;
            var dir = new Pt(Math.Cos(a), Math.Sin(a));
            LineBoth("fine", centre + dir * (tyreRadius * 0.93 * Kr), centre + dir * (tyreRadius * Kr));
        }
    }

    /// <summary>
    /// The inside of a wheel unrolled: the barrel, the part of it that hides behind the caliper, and the backs of the spokes below.
    /// </summary>
    private void Inside(string corner, Pt at, double length, double width, double top, double bottom)
    {
        const double caliper = 0.26,
            gap = 0.03;
        Pt[] Strip(double from, double to, double y, double height) =>
            [at + new Pt(from, y), at + new Pt(to, y), at + new Pt(to, y + height), at + new Pt(from, y + height)];
        Both(
            corner + "-wheel-barrel",
            "wheel-barrel",
            90,
            270,
            top,
            bottom,
            new Shape(Strip(0, length * (1 - caliper) - gap * Kr, 0, width))
        );
        Both(
            corner + "-behind-caliper",
            "behind-caliper",
            90,
            270,
            top,
            bottom,
            new Shape(Strip(length * (1 - caliper), length, 0, width))
        );
        Both(corner + "-spoke-backs", "spoke-backs", 90, 270, top, bottom, new Shape(Strip(0, length, width + gap * Kr, width * 0.42)));
    }

    /// <summary>What a lance reaches of the underbody from the side: a strip between the wheels on both sides.</summary>
    public void Underbody(double from, double to, double sillBottom, double below, double depth)
    {
        var (a, b) = (Side(from, sillBottom) + new Pt(0, below * Kr), Side(to, sillBottom) + new Pt(0, below * Kr));
        Mirrored(
            "underbody",
            "underbody",
            10,
            0,
            sillBottom + 0.05,
            sillBottom - 0.06,
            new Shape([a, b, b + new Pt(0, depth * Kr * Kr / Kx), a + new Pt(0, depth * Kr * Kr / Kx)])
        );
    }

    /// <summary>Roof gutters: the drip strips along both edges of the roof, between two distances from the middle line.</summary>
    public void Gutters(double from, double to, double inner, double outer, double height) =>
        Mirrored(
            "gutters",
            "gutter",
            20,
            0,
            height,
            height - 0.04,
            new Shape(TopPoly((from, inner, 0), (to, inner, 0), (to - 0.02, outer, 0), (from + 0.02, outer, 0)))
        );

    /// <summary>Says what run-off from a zone reaches; ids may hold {s} for left and right.</summary>
    public void Drain(string from, params string[] to) => Link(_drains, from, to, false);

    /// <summary>Does the form have this zone?</summary>
    public bool Has(string id) => _zones.ContainsKey(id);

    /// <summary>Says which zones spray each other.</summary>
    public void Beside(string from, params string[] to) => Link(_beside, from, to, true);

    /// <summary>Says which zones spray aimed at one also hits, but not the other way: a wheel is sprayed low and close.</summary>
    public void Drifts(string from, params string[] onto) => Link(_beside, from, onto, false);

    /// <summary>Links that hold for every form with these zones.</summary>
    public void CommonLinks()
    {
        void Drain(string from, params string[] to) => Link(_drains, from, to, false, true);
        void Beside(string from, params string[] to) => Link(_beside, from, to, true, true);
        void Drifts(string from, params string[] onto) => Link(_beside, from, onto, false, true);
        foreach (var s in new[] { "left", "right" })
        {
            foreach (var e in new[] { "front", "rear" })
            {
                var c = $"{s}-{e}";
                Drain($"{c}-arch", $"{c}-tyre", $"{c}-wheel-face", $"{c}-wheel-barrel");
                Drain($"{c}-tyre", $"{c}-wheel-face");
                Drain($"{c}-wheel-face", $"{c}-tyre");
                Drain($"{c}-wheel-barrel", $"{c}-wheel-face", $"{c}-tyre", $"{c}-behind-caliper");
                Drain($"{c}-behind-caliper", $"{c}-wheel-barrel", $"{c}-tyre");
                Drain($"{c}-spoke-backs", $"{c}-wheel-face", $"{c}-tyre");
                var panel =
                    e == "front" ? $"{s}-front-wing"
                    : Has($"{s}-rear-quarter") ? $"{s}-rear-quarter"
                    : $"{s}-side-panel";
                Beside(panel, $"{c}-arch");
                Drifts(panel, $"{c}-wheel-face");
                Drain($"{s}-{e}-glass", "window-seals", $"{s}-{e}-door");
                Drain($"{s}-{e}-door", $"{s}-sill");
                Beside($"{s}-{e}-door", "window-seals", "door-shuts");
                Drain("window-seals", $"{s}-{e}-door");
                Drain("door-shuts", $"{s}-sill");
            }

            Drain("roof", $"{s}-front-glass", $"{s}-rear-glass");
            Drain("bonnet", $"{s}-front-wing", "grille", "badges");
            Drain($"{s}-front-wing", $"{s}-sill");
            Drain($"{s}-rear-quarter", "rear-bumper");
            Drain($"{s}-quarter-glass", $"{s}-rear-quarter", "window-seals");
            Drain($"{s}-sill", "underbody");
            Drain($"{s}-side-panel", $"{s}-sill", "rear-bumper");
            Drain($"{s}-slide-door", $"{s}-sill");
            Drain($"{s}-side-glass", $"{s}-side-panel", $"{s}-slide-door", "window-seals");
            Drain($"{s}-upper-side", $"{s}-side-panel", $"{s}-slide-door", $"{s}-front-glass");
            Drain("gutters", $"{s}-front-glass", $"{s}-rear-glass", $"{s}-slide-door", $"{s}-side-panel");
            Beside($"{s}-slide-door", "door-shuts");
            Beside($"{s}-side-panel", "door-shuts");
            Drain($"{s}-mirror", $"{s}-front-door");
            Drain($"{s}-headlamp", "front-bumper");
            Drain($"{s}-tail-lamp", "rear-bumper");
            Beside("grille", $"{s}-headlamp");
            Beside("front-bumper", $"{s}-headlamp");
            Beside("boot-lid", $"{s}-tail-lamp");
            Beside($"{s}-front-wing", $"{s}-headlamp");
        }

        Drain("roof", "windscreen", "rear-screen", "gutters");
        Drain("rear-screen", "boot-lid", "boot-shuts");
        Drain("windscreen", "cowl");
        Drain("grille", "front-bumper");
        Drain("boot-lid", "rear-bumper", "badges");
        Drain("boot-shuts", "rear-bumper");
        Drain("rear-bumper", "exhaust-tips");
        Beside("bonnet", "cowl");
        Beside("cowl", "windscreen");
        Beside("boot-lid", "boot-shuts");
        Drain("filler-recess", Has("left-rear-quarter") ? "left-rear-quarter" : "left-side-panel");
    }

    public Vehicle Build()
    {
        foreach (var (from, to) in _drains.Concat(_beside).SelectMany(p => p.Value.Select(t => (p.Key, t))))
        {
            if (!_zones.ContainsKey(from) || !_zones.ContainsKey(to))
            {
                throw new InvalidOperationException($"{form}: link {from} > {to} names no zone");
            }
        }

        var zones = _order
            .Select(id =>
            {
                var z = _zones[id];
                return new Zone(id, z.Kind, z.Shapes, z.Tilt, z.Faces, z.Top, z.Bottom, Sorted(_drains, id), Sorted(_beside, id));
            })
            .ToArray();
        var all = zones.SelectMany(z => z.Shapes).SelectMany(s => s.Outline).ToArray();
        return new Vehicle(
            form,
            wanted,
            zones,
            _decor,
            new Pt(all.Min(p => p.X), all.Min(p => p.Y)),
            new Pt(all.Max(p => p.X), all.Max(p => p.Y))
        );
    }

    private static string[] Sorted(Dictionary<string, HashSet<string>> links, string id) =>
        links.TryGetValue(id, out var to) ? [.. to.Order(StringComparer.Ordinal)] : [];

    /// <param name="whereThere">Leave out, without a word, what this form does not have.</param>
    private void Link(Dictionary<string, HashSet<string>> links, string from, string[] to, bool both, bool whereThere = false)
    {
        foreach (var t in to)
        {
            if (whereThere && !(Has(from) && Has(t)))
            {
                continue;
            }

            (links.TryGetValue(from, out var set) ? set : links[from] = []).Add(t);
            if (both)
            {
                (links.TryGetValue(t, out var back) ? back : links[t] = []).Add(from);
            }
        }
    }

    private static double ArchDip(double axle, double sillBottom, double radius) =>
        Math.Asin(Math.Clamp((axle - sillBottom) / radius, -0.9, 0.9)) * 180 / Math.PI;

    /// <summary>
    /// Lower edge of the arch opening to the left, then along the arc to the right: points to cut it from a panel, in side-elevation
    /// order.
    /// </summary>
    public Pt[] ArchCut(double x, double axle, double radius, double fromHeight, double toHeight)
    {
        double Dip(double h) => Math.Asin(Math.Clamp((axle - h) / radius, -1, 1)) * 180 / Math.PI;
        return Draw.Arc(Side(x, axle), radius * Kr, 180 - Dip(fromHeight), 360 + Dip(toHeight), 32);
    }

    private double Pulled(double axle, double sillBottom, double tyreRadius) => (-sillBottom * Kh) + (0.10 + tyreRadius) * Kr;

    private void Spokes(Pt centre, double r, int count)
    {
        for (var i = 0; i < count; i++)
        {
            var a = (i * 360.0 / count - 90) * Math.PI / 180;
            var dir = new Pt(Math.Cos(a), Math.Sin(a));
            var side = new Pt(-dir.Y, dir.X);
            LoopBoth(
                "spoke",
                centre + dir * (r * 0.26) + side * (r * 0.085),
                centre + dir * (r * 0.86) + side * (r * 0.14),
                centre + dir * (r * 0.90),
                centre + dir * (r * 0.86) - side * (r * 0.14),
                centre + dir * (r * 0.26) - side * (r * 0.085)
            );
            LoopBoth("nut", Draw.Disc(centre + dir * (r * 0.17), r * 0.035, 8));
        }

        LoopBoth("fine", Draw.Disc(centre, r * 0.92, 40));
        LoopBoth("fine", Draw.Disc(centre, r * 0.26, 24));
    }
}
