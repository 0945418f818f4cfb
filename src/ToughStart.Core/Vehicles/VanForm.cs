namespace ToughStart.Core.Vehicles;

/// <summary>Panel vans with a low or a high roof, and the minibus: one body, closed sides or windows.</summary>
internal static class VanForm
{
    /// <summary>From this height on a van is drawn with the high roof.</summary>
    public const double HighFrom = 2.25;

    /// <summary>Outer size each body is drawn at.</summary>
    public static readonly Size Low = new(5.20, 1.98, 1.98),
        High = new(5.56, 2.02, 2.56),
        Bus = new(5.48, 2.00, 2.24);

    public static Vehicle Panel(Size size) =>
        size.Height < HighFrom ? Build("panel-van", Low, size, false) : Build("panel-van", High, size, false);

    public static Vehicle Minibus(Size size) => Build("minibus", Bus, size, true);

    private static Vehicle Build(string form, Size at, Size size, bool windows)
    {
        var n = new NetBuilder(form, at, size) { SideTop = at.Width / 2 + 0.30, SideHeight = at.Height };
        var b = new Body(n, at, windows);
        b.Above();
        b.Front();
        b.Rear();
        b.Flank();
        n.CommonLinks();
        return n.Build();
    }

    private sealed class Body(NetBuilder n, Size at, bool windows)
    {
        private const double Axle = 0.335,
            ArchR = 0.40,
            SillLow = 0.30,
            SillTop = 0.43,
            Belt = 1.20,
            Front0 = 0.98;
        private readonly double _w = at.Width / 2;
        private readonly double _rear = at.Length - 1.02;

        /// <summary>Height where the upright side ends: above it the high roof has a strip of its own.</summary>
        private double SideEnd => at.Height >= HighFrom && !windows ? 1.88 : at.Height - 0.12;

        private double ScreenTop =>
            windows ? 1.72
            : at.Height >= HighFrom ? 1.66
            : 1.58;

        private double ScreenH => at.Height >= HighFrom || windows ? 2.00 : at.Height - 0.10;

        public void Above()
        {
            n.Zone(
                "bonnet",
                "panel",
                24,
                0,
                1.22,
                1.02,
                new Shape(
                    n.TopPoly(
                        (0.10, -0.62, 0.10),
                        (0.02, 0, 0),
                        (0.10, 0.62, 0.10),
                        (0.22, _w - 0.22, 0.10),
                        (0.62, _w - 0.14, 0.03),
                        (0.66, 0, 0),
                        (0.62, -_w + 0.14, 0.03),
                        (0.22, -_w + 0.22, 0.10)
                    )
                )
            );
            n.Zone(
                "cowl",
                "trim",
                20,
                0,
                1.22,
                1.18,
                new Shape(
                    n.TopPoly(
                        (0.645, -_w + 0.15, 0),
                        (0.69, 0, 0),
                        (0.645, _w - 0.15, 0),
                        (0.72, _w - 0.16, 0.02),
                        (0.77, 0, 0),
                        (0.72, -_w + 0.16, 0.02)
                    )
                )
            );
            n.Zone(
                "windscreen",
                "glass",
                48,
                0,
                ScreenH,
                1.22,
                new Shape(
                    n.TopPoly(
                        (0.745, -_w + 0.17, 0.08),
                        (0.80, 0, 0),
                        (0.745, _w - 0.17, 0.08),
                        (ScreenTop - 0.05, _w - 0.24, 0.09),
                        (ScreenTop, 0, 0),
                        (ScreenTop - 0.05, -_w + 0.24, 0.09)
                    )
                )
            );
            n.Zone(
                "roof",
                "panel",
                2,
                0,
                at.Height,
                at.Height - 0.06,
                new Shape(
                    n.TopPoly(
                        (ScreenTop, -_w + 0.22, 0.10),
                        (ScreenTop + 0.05, 0, 0),
                        (ScreenTop, _w - 0.22, 0.10),
                        (at.Length - 0.10, _w - 0.18, 0.06),
                        (at.Length - 0.10, -_w + 0.18, 0.06)
                    )
                )
            );
            n.Gutters(ScreenTop + 0.10, at.Length - 0.14, _w - 0.155, _w - 0.105, at.Height - 0.04);
            for (var x = ScreenTop + 0.45; x < at.Length - 0.4; x += 0.42)
            {
                n.Line("fine", n.Top(x, -_w + 0.34), n.Top(x, _w - 0.34));
            }

            n.LineBoth("crease", n.Top(0.16, 0.40), n.Top(0.62, 0.52));
            n.LineBoth("wiper", n.Top(0.80, _w - 0.26), n.Top(0.98, 0.10));
        }

        public void Front()
        {
            var badge = n.TopDisc(-0.28, 0, 0.075, 24);
            n.Zone(
                "grille",
                "grille",
                85,
                0,
                1.00,
                0.72,
                new Shape(n.TopPoly((-0.10, -0.52, 0.05), (-0.10, 0.52, 0.05), (-0.42, 0.44, 0.08), (-0.42, -0.44, 0.08)), [badge])
            );
            n.Zone("badges", "badge", 85, 0, 0.95, 0.80, new Shape(badge));
            foreach (var u in new[] { -0.16, -0.22, -0.34, -0.39 })
            {
                n.LineBoth("bar", n.Top(u, 0.10), n.Top(u, 0.43));
            }

            n.Both(
                "headlamp",
                "lamp",
                78,
                0,
                1.06,
                0.80,
                new Shape(n.TopPoly((-0.02, 0.57, 0.03), (0.02, _w - 0.16, 0.05), (-0.30, _w - 0.08, 0.05), (-0.33, 0.52, 0.04)))
            );
            n.LoopBoth("lens", n.TopDisc(-0.10, 0.68, 0.07, 24));
            n.LoopBoth("lens", n.TopDisc(-0.23, 0.69, 0.05, 20));
            n.Zone(
                "front-bumper",
                "bumper",
                88,
                0,
                0.70,
                SillLow,
                new Shape(
                    n.TopPoly(
                        (-0.35, -_w + 0.05, 0.04),
                        (-0.37, -0.52, 0.03),
                        (-0.46, -0.43, 0.04),
                        (-0.46, 0.43, 0.04),
                        (-0.37, 0.52, 0.03),
                        (-0.35, _w - 0.05, 0.04),
                        (-0.78, _w - 0.02, 0.09),
                        (-0.84, 0.60, 0.05),
                        (-0.84, -0.60, 0.05),
                        (-0.78, -_w + 0.02, 0.09)
                    )
                )
            );
            n.Loop("fine", n.TopPoly((-0.58, -0.50, 0.04), (-0.58, 0.50, 0.04), (-0.73, 0.46, 0.04), (-0.73, -0.46, 0.04)));
            n.LoopBoth("lens", n.TopDisc(-0.64, 0.72, 0.055, 20));
        }

        /// <summary>Two rear doors with a pane each, drawn as the back is seen.</summary>
        public void Rear()
        {
            var x0 = at.Length + 0.10;
            var tall = at.Height - 0.62 - 0.10;
            var door = n.TopPoly((x0, 0.012, 0.02), (x0, _w - 0.14, 0.08), (x0 + tall, _w - 0.10, 0.03), (x0 + tall, 0.012, 0.02));
            var top = at.Height >= HighFrom && !windows ? 0.62 : 0.10;
            var pane = n.TopPoly(
                (x0 + top, 0.10, 0.05),
                (x0 + top, _w - 0.26, 0.05),
                (x0 + top + 0.50, _w - 0.24, 0.05),
                (x0 + top + 0.50, 0.10, 0.05)
            );
            n.Mirrored("boot-lid", "panel", 88, 180, at.Height - 0.10, 0.62, new Shape(door, [pane]));
            n.Mirrored("rear-screen", "glass", 88, 180, at.Height - 0.10 - top, at.Height - 0.60 - top, new Shape(pane));
            n.LoopBoth(
                "handle",
                n.TopPoly(
                    (x0 + top + 0.66, 0.05, 0.01),
                    (x0 + top + 0.66, 0.10, 0.01),
                    (x0 + top + 0.82, 0.10, 0.01),
                    (x0 + top + 0.82, 0.05, 0.01)
                )
            );
            n.LineBoth("fine", n.Top(x0 + tall - 0.12, 0.10), n.Top(x0 + tall - 0.12, _w - 0.18));
            n.Zone(
                "boot-shuts",
                "shut",
                70,
                180,
                at.Height - 0.06,
                0.60,
                new Shape(
                    n.TopPoly(
                        (x0 - 0.05, -_w + 0.16, 0.02),
                        (x0 - 0.05, _w - 0.16, 0.02),
                        (x0 - 0.012, _w - 0.18, 0.01),
                        (x0 - 0.012, -_w + 0.18, 0.01)
                    )
                ),
                new Shape(
                    n.TopPoly(
                        (x0 + tall + 0.012, -_w + 0.12, 0.01),
                        (x0 + tall + 0.012, _w - 0.12, 0.01),
                        (x0 + tall + 0.05, _w - 0.12, 0.02),
                        (x0 + tall + 0.05, -_w + 0.12, 0.02)
                    )
                )
            );
            var badge = n.TopPoly(
                (x0 + tall + 0.115, 0.50, 0.01),
                (x0 + tall + 0.115, 0.70, 0.01),
                (x0 + tall + 0.155, 0.70, 0.01),
                (x0 + tall + 0.155, 0.50, 0.01)
            );
            n.Both(
                "tail-lamp",
                "lamp",
                88,
                180,
                1.10,
                0.68,
                new Shape(
                    n.TopPoly(
                        (x0 + tall - 0.46, _w - 0.085, 0.02),
                        (x0 + tall - 0.46, _w - 0.01, 0.03),
                        (x0 + tall - 0.04, _w + 0.01, 0.03),
                        (x0 + tall - 0.04, _w - 0.065, 0.02)
                    )
                )
            );
            n.LineBoth("lens", n.Top(x0 + tall - 0.32, _w - 0.08), n.Top(x0 + tall - 0.32, _w - 0.01));
            n.LineBoth("lens", n.Top(x0 + tall - 0.18, _w - 0.07), n.Top(x0 + tall - 0.18, _w));
            n.Zone(
                "rear-bumper",
                "bumper",
                88,
                180,
                0.60,
                SillLow,
                new Shape(
                    n.TopPoly(
                        (x0 + tall + 0.075, -_w + 0.04, 0.03),
                        (x0 + tall + 0.075, _w - 0.04, 0.03),
                        (x0 + tall + 0.34, _w - 0.06, 0.06),
                        (x0 + tall + 0.34, -_w + 0.06, 0.06)
                    ),
                    [badge]
                )
            );
            n.Zone("badges", "badge", 88, 180, 0.58, 0.54, new Shape(badge));
            n.Zone(
                "exhaust-tips",
                "tip",
                90,
                180,
                0.34,
                0.26,
                new Shape(n.TopDisc(x0 + tall + 0.42, -0.56, 0.045, 20), [n.TopDisc(x0 + tall + 0.42, -0.56, 0.03, 20)])
            );
        }

        public void Flank()
        {
            const double sill = SillTop + 0.025,
                doorEnd = 2.32,
                slideEnd = 3.60;
            var top = Math.Min(SideEnd, ScreenH - 0.03);
            var tail = at.Length - 0.06;
            Pt[] wing =
            [
                .. n.SidePoly(
                    (1.385, sill - 0.01, 0),
                    (1.375, 0.80, 0.03),
                    (1.03, 1.175, 0.02),
                    (0.62, 1.195, 0.03),
                    (0.20, 1.05, 0.08),
                    (0.33, 0.98, 0),
                    (0.37, 0.80, 0.02),
                    (0.44, 0.735, 0)
                ),
                .. n.ArchCut(Front0, Axle, ArchR, 0.715, sill - 0.01),
            ];
            n.Both("front-wing", "panel", 84, 270, 1.22, SillTop, new Shape(wing));
            n.Both(
                "headlamp",
                "lamp",
                78,
                270,
                1.04,
                0.80,
                new Shape(n.SidePoly((0.08, 0.98, 0.03), (0.17, 1.03, 0.03), (0.305, 0.975, 0.02), (0.345, 0.80, 0.02), (0.09, 0.76, 0.03)))
            );
            var cut = n.ArchCut(Front0, Axle, ArchR, SillLow + 0.04, SillLow + 0.04);
            var upTo = Array.FindIndex(cut, p => p.Y <= n.Side(0, 0.70).Y) is >= 2 and var at70 ? at70 : cut.Length / 2;
            n.Mirrored(
                "front-bumper",
                "bumper",
                88,
                0,
                0.73,
                SillLow,
                new Shape([
                    .. n.SidePoly((0.06, 0.72, 0.04), (0.36, 0.735, 0.02), (0.43, 0.705, 0)),
                    .. cut[..upTo].Reverse(),
                    .. n.SidePoly((0.54, SillLow + 0.01, 0.02), (0.12, SillLow + 0.01, 0.06)),
                ])
            );

            var door = n.SidePoly(
                (1.415, sill, 0.04),
                (doorEnd, sill, 0.03),
                (doorEnd, top, 0.03),
                (ScreenTop - 0.02, top, 0.08),
                (1.075, 1.215, 0.02),
                (1.41, 0.84, 0.04)
            );
            var pane = n.SidePoly(
                (1.22, Belt + 0.02, 0.03),
                (doorEnd - 0.10, Belt, 0.03),
                (doorEnd - 0.10, Math.Min(top - 0.07, 1.80), 0.03),
                (ScreenTop + 0.02, Math.Min(top - 0.07, 1.80), 0.08)
            );
            n.Door("front-door", "front-glass", door, pane, 0.03, 0.025, top, sill);
            n.LoopBoth(
                "handle",
                n.SidePoly(
                    (doorEnd - 0.20, 1.03, 0.015),
                    (doorEnd - 0.06, 1.03, 0.015),
                    (doorEnd - 0.06, 1.08, 0.015),
                    (doorEnd - 0.20, 1.08, 0.015)
                )
            );

            Pt[][] panes = windows
                ?
                [
                    n.SidePoly(
                        (doorEnd + 0.13, Belt, 0.04),
                        (slideEnd - 0.12, Belt, 0.04),
                        (slideEnd - 0.12, top - 0.10, 0.05),
                        (doorEnd + 0.13, top - 0.10, 0.05)
                    ),
                    n.SidePoly(
                        (slideEnd + 0.12, Belt, 0.04),
                        (4.52, Belt, 0.04),
                        (4.52, top - 0.10, 0.05),
                        (slideEnd + 0.12, top - 0.10, 0.05)
                    ),
                    n.SidePoly((4.62, Belt, 0.04), (tail - 0.16, Belt, 0.05), (tail - 0.22, top - 0.10, 0.08), (4.62, top - 0.10, 0.05)),
                ]
                : [];
            var slide = n.SidePoly(
                (doorEnd + 0.03, sill, 0.04),
                (slideEnd, sill, 0.04),
                (slideEnd, top, 0.03),
                (doorEnd + 0.03, top, 0.03)
            );
            var slideIn = n.Inset(slide, 0.03);
            n.Both("slide-door", "panel", 88, 270, top, sill, new Shape(slideIn, windows ? [panes[0]] : []));
            n.Mirrored("door-shuts", "shut", 85, 270, top, sill, new Shape(slide, [slideIn]));
            n.LoopBoth(
                "handle",
                n.SidePoly(
                    (doorEnd + 0.11, 1.03, 0.015),
                    (doorEnd + 0.25, 1.03, 0.015),
                    (doorEnd + 0.25, 1.08, 0.015),
                    (doorEnd + 0.11, 1.08, 0.015)
                )
            );
            n.LineBoth("bar", n.Side(slideEnd + 0.06, 1.06), n.Side(tail - 0.34, 1.06));

            Pt[] panel =
            [
                .. n.SidePoly(
                    (slideEnd + 0.03, sill, 0),
                    (slideEnd + 0.03, top, 0.03),
                    (tail - 0.06, top, 0.08),
                    (tail, 1.12, 0.02),
                    (tail - 0.07, 1.10, 0.02),
                    (tail - 0.075, 0.70, 0.02),
                    (tail - 0.30, 0.655, 0)
                ),
                .. n.ArchCut(_rear, Axle, ArchR, sill, 0.635).Reverse(),
            ];
            var filler = n.SidePoly(
                (slideEnd + 0.10, 0.80, 0.03),
                (slideEnd + 0.27, 0.80, 0.03),
                (slideEnd + 0.27, 0.96, 0.03),
                (slideEnd + 0.10, 0.96, 0.03)
            );
            n.Zone("left-side-panel", "panel", 88, 270, top, SillTop, new Shape(panel, windows ? [filler, panes[1], panes[2]] : [filler]));
            n.Zone(
                "right-side-panel",
                "panel",
                88,
                90,
                top,
                SillTop,
                new Shape(panel, windows ? [panes[1], panes[2]] : []).Map(NetBuilder.Mirror)
            );
            n.Zone("filler-recess", "filler", 88, 270, 0.96, 0.80, new Shape(filler));
            foreach (var p in panes)
            {
                n.Pane("side-glass", p, 0.025, top, Belt);
            }

            if (!windows)
            {
                n.LoopBoth(
                    "fine",
                    n.SidePoly(
                        (slideEnd + 0.16, 1.14, 0.05),
                        (tail - 0.22, 1.14, 0.05),
                        (tail - 0.24, top - 0.12, 0.05),
                        (slideEnd + 0.16, top - 0.12, 0.05)
                    )
                );
                n.LoopBoth(
                    "fine",
                    n.SidePoly(
                        (doorEnd + 0.16, 1.14, 0.05),
                        (slideEnd - 0.13, 1.14, 0.05),
                        (slideEnd - 0.13, top - 0.12, 0.05),
                        (doorEnd + 0.16, top - 0.12, 0.05)
                    )
                );
            }

            if (SideEnd < at.Height - 0.2)
            {
                n.Both(
                    "upper-side",
                    "panel",
                    80,
                    270,
                    at.Height - 0.08,
                    SideEnd,
                    new Shape(
                        n.SidePoly(
                            (ScreenTop + 0.04, top + 0.035, 0.02),
                            (ScreenTop + 0.42, at.Height - 0.07, 0.14),
                            (tail - 0.10, at.Height - 0.07, 0.10),
                            (tail - 0.055, top + 0.035, 0.02)
                        )
                    )
                );
            }

            n.LineBoth("crease", n.Side(1.46, 0.62), n.Side(doorEnd - 0.05, 0.60));
            n.LineBoth("crease", n.Side(doorEnd + 0.08, 0.60), n.Side(slideEnd - 0.05, 0.60));
            n.Both(
                "tail-lamp",
                "lamp",
                88,
                270,
                1.10,
                0.70,
                new Shape(
                    n.SidePoly((tail - 0.055, 1.085, 0.01), (tail + 0.02, 1.10, 0.02), (tail + 0.03, 0.70, 0.02), (tail - 0.06, 0.71, 0.01))
                )
            );
            var rearCut = n.ArchCut(_rear, Axle, ArchR, SillTop, SillLow + 0.05);
            var from = Array.FindLastIndex(rearCut, p => p.Y <= n.Side(0, 0.61).Y) + 1;
            n.Mirrored(
                "rear-bumper",
                "bumper",
                88,
                180,
                0.66,
                SillLow,
                new Shape([
                    .. n.SidePoly(
                        (tail - 0.29, 0.625, 0),
                        (tail - 0.06, 0.67, 0.02),
                        (tail + 0.05, 0.67, 0.03),
                        (tail + 0.06, 0.40, 0.04),
                        (_rear + ArchR + 0.02, SillLow + 0.04, 0.02)
                    ),
                    .. rearCut[from..].Reverse(),
                ])
            );
            n.Both(
                "sill",
                "sill",
                85,
                270,
                SillTop,
                SillLow,
                new Shape(
                    n.SidePoly(
                        (1.395, SillTop, 0.02),
                        (_rear - ArchR - 0.02, SillTop, 0.02),
                        (_rear - ArchR, SillLow, 0.02),
                        (1.385, SillLow, 0.02)
                    )
                )
            );
            n.Both(
                "mirror",
                "mirror",
                60,
                270,
                1.52,
                1.24,
                new Shape(n.TopPoly((1.13, _w - 0.06, 0.04), (1.25, _w - 0.06, 0.04), (1.30, _w + 0.20, 0.05), (1.10, _w + 0.22, 0.06)))
            );
            var length = (_rear - Front0 - 2 * 0.33 - 0.34) / 2;
            n.Wheel("front", Front0, Axle, ArchR, SillLow, 0.33, 0.215, Front0 + 0.46, length, 0.21, 8);
            n.Wheel("rear", _rear, Axle, ArchR, SillLow, 0.33, 0.215, Front0 + 0.54 + length, length, 0.21, 8);
            n.Underbody(Front0 + 0.46, Front0 + 0.54 + 2 * length, SillLow, 0.49, 0.20);
        }
    }
}
