namespace ToughStart.Core.Vehicles;

/// <summary>Road motorcycle with a half fairing. Wheels stay where they are; what both sides show of a part is one zone.</summary>
internal static class MotorcycleForm
{
    public static readonly Size At = new(2.12, 0.80, 1.20);

    public static Vehicle Build(Size size)
    {
        var n = new NetBuilder("motorcycle", At, size) { SideTop = 0.56, SideHeight = 1.20 };
        Above(n);
        Ends(n);
        Wheels(n);
        Flank(n);
        Links(n);
        return n.Build();
    }

    private static void Above(NetBuilder n)
    {
        var cap = n.TopDisc(0.80, 0, 0.035, 20);
        n.Zone(
            "tank",
            "tank",
            15,
            0,
            0.98,
            0.76,
            new Shape(
                n.TopPoly(
                    (0.66, -0.11, 0.05),
                    (0.66, 0.11, 0.05),
                    (0.82, 0.17, 0.08),
                    (1.06, 0.13, 0.06),
                    (1.14, 0.07, 0.03),
                    (1.14, -0.07, 0.03),
                    (1.06, -0.13, 0.06),
                    (0.82, -0.17, 0.08)
                ),
                [cap]
            )
        );
        n.Zone("filler-recess", "filler", 5, 0, 0.98, 0.97, new Shape(cap));
        n.Zone(
            "seat",
            "seat",
            6,
            0,
            0.96,
            0.80,
            new Shape(
                n.TopPoly(
                    (1.17, -0.08, 0.03),
                    (1.17, 0.08, 0.03),
                    (1.30, 0.15, 0.06),
                    (1.44, 0.13, 0.05),
                    (1.64, 0.09, 0.04),
                    (1.64, -0.09, 0.04),
                    (1.44, -0.13, 0.05),
                    (1.30, -0.15, 0.06)
                )
            )
        );
        n.Line("fine", n.Top(1.46, -0.12), n.Top(1.46, 0.12));
        n.Line("crease", n.Top(0.86, 0), n.Top(1.12, 0));
        n.Both(
            "tail-panel",
            "panel",
            20,
            0,
            0.97,
            0.70,
            new Shape(n.TopPoly((1.66, 0.012, 0.01), (1.66, 0.085, 0.02), (1.88, 0.05, 0.03), (1.90, 0.012, 0.01)))
        );
        n.Zone(
            "controls",
            "trim",
            30,
            0,
            1.10,
            1.02,
            new Shape(n.TopPoly((0.585, -0.06, 0.02), (0.585, 0.06, 0.02), (0.625, 0.07, 0.01), (0.625, -0.07, 0.01))),
            new Shape(n.TopPoly((0.60, 0.13, 0.01), (0.66, 0.40, 0.02), (0.70, 0.39, 0.02), (0.635, 0.13, 0.01))),
            new Shape(n.TopPoly((0.60, -0.13, 0.01), (0.66, -0.40, 0.02), (0.70, -0.39, 0.02), (0.635, -0.13, 0.01)))
        );
        n.Both(
            "mirror",
            "mirror",
            60,
            0,
            1.16,
            1.08,
            new Shape(n.TopPoly((0.50, 0.30, 0.03), (0.50, 0.42, 0.04), (0.56, 0.43, 0.03), (0.555, 0.31, 0.02)))
        );
        n.Zone(
            "windscreen",
            "lamp",
            40,
            0,
            1.20,
            1.00,
            new Shape(n.TopPoly((0.30, -0.10, 0.04), (0.30, 0.10, 0.04), (0.54, 0.15, 0.05), (0.57, 0, 0), (0.54, -0.15, 0.05)))
        );
    }

    /// <summary>Front and rear as they are seen, folded out.</summary>
    private static void Ends(NetBuilder n)
    {
        var lamp = n.TopPoly((0.02, -0.11, 0.05), (0.02, 0.11, 0.05), (-0.08, 0.08, 0.04), (-0.10, 0, 0), (-0.08, -0.08, 0.04));
        n.Zone(
            "front-fairing",
            "panel",
            70,
            0,
            1.02,
            0.70,
            new Shape(
                n.TopPoly(
                    (0.26, -0.11, 0.04),
                    (0.26, 0.11, 0.04),
                    (0.08, 0.20, 0.05),
                    (-0.14, 0.13, 0.05),
                    (-0.18, 0, 0),
                    (-0.14, -0.13, 0.05),
                    (0.08, -0.20, 0.05)
                ),
                [lamp]
            )
        );
        n.Zone("headlamp", "lamp", 78, 0, 0.92, 0.80, new Shape(lamp));
        n.Loop("lens", n.TopDisc(-0.02, 0.045, 0.03, 16));
        n.Loop("lens", n.TopDisc(-0.02, -0.045, 0.03, 16));
        n.Zone(
            "grille",
            "grille",
            85,
            0,
            0.68,
            0.42,
            new Shape(n.TopPoly((-0.22, -0.15, 0.02), (-0.22, 0.15, 0.02), (-0.44, 0.14, 0.02), (-0.44, -0.14, 0.02)))
        );
        foreach (var u in new[] { -0.26, -0.30, -0.34, -0.38, -0.42 })
        {
            n.Line("bar", n.Top(u, -0.13), n.Top(u, 0.13));
        }

        n.Zone(
            "tail-lamp",
            "lamp",
            70,
            180,
            0.92,
            0.84,
            new Shape(n.TopPoly((1.95, -0.055, 0.02), (1.95, 0.055, 0.02), (2.02, 0.04, 0.02), (2.02, -0.04, 0.02)))
        );
        n.Zone(
            "rear-mudguard",
            "trim",
            75,
            180,
            0.82,
            0.56,
            new Shape(n.TopPoly((2.05, -0.09, 0.02), (2.05, 0.09, 0.02), (2.27, 0.11, 0.03), (2.27, -0.11, 0.03)))
        );
        n.Loop("fine", n.TopPoly((2.11, -0.075, 0.01), (2.11, 0.075, 0.01), (2.22, 0.075, 0.01), (2.22, -0.075, 0.01)));
    }

    private static void Wheels(NetBuilder n)
    {
        foreach (var (end, x, wide) in new[] { ("front", 0.33, 0.155), ("rear", 1.75, 0.125) })
        {
            const double axle = 0.305;
            Pt[] D(double r, int steps = 48) => n.SideDisc(x, axle, r, steps);
            n.Mirrored(end + "-tyre", "tyre", 90, 270, axle + 0.305, 0, new Shape(D(0.305), [D(0.225)]));
            n.Mirrored(end + "-wheel-face", "wheel-face", 90, 270, axle + 0.225, axle - 0.225, new Shape(D(0.225), [D(wide + 0.005)]));
            n.Mirrored(end + "-disc", "disc", 90, 270, axle + wide, axle - wide, new Shape(D(wide), [D(0.055)]));
            for (var i = 0; i < 12; i++)
            {
                var a = i * 30 * Math.PI / 180;
                n.LoopBoth("fine", n.SideDisc(x + Math.Cos(a) * (wide + 0.055) / 2, axle + Math.Sin(a) * (wide + 0.055) / 2, 0.008, 8));
            }

            for (var i = 0; i < 36; i++)
            {
                var a = i * 10 * Math.PI / 180;
                n.LineBoth(
                    "fine",
                    n.Side(x + Math.Cos(a) * 0.283, axle + Math.Sin(a) * 0.283),
                    n.Side(x + Math.Cos(a) * 0.304, axle + Math.Sin(a) * 0.304)
                );
            }

            n.LoopBoth("fine", D(0.208, 40));
        }

        n.Mirrored(
            "front-mudguard",
            "panel",
            40,
            0,
            0.67,
            0.50,
            new Shape([.. n.SideArc(0.33, 0.305, 0.355, 205, 325), .. n.SideArc(0.33, 0.305, 0.318, 205, 325).Reverse()])
        );
    }

    private static void Flank(NetBuilder n)
    {
        n.Mirrored(
            "fork",
            "fork",
            85,
            0,
            0.92,
            0.30,
            new Shape(n.SidePoly((0.452, 0.655, 0.01), (0.505, 0.635, 0.01), (0.605, 0.90, 0.01), (0.555, 0.92, 0.01))),
            new Shape(n.SideDisc(0.33, 0.305, 0.048, 20))
        );
        n.Mirrored(
            "front-fairing",
            "panel",
            70,
            270,
            1.02,
            0.70,
            new Shape(
                n.SidePoly(
                    (0.28, 0.86, 0.03),
                    (0.36, 0.76, 0.03),
                    (0.445, 0.735, 0.02),
                    (0.545, 0.955, 0.02),
                    (0.50, 1.01, 0.04),
                    (0.36, 0.98, 0.06)
                )
            )
        );
        n.Mirrored(
            "windscreen",
            "lamp",
            40,
            270,
            1.20,
            1.00,
            new Shape(n.SidePoly((0.37, 1.005, 0.02), (0.50, 1.03, 0.02), (0.60, 1.17, 0.02), (0.545, 1.185, 0.02)))
        );
        n.Both(
            "side-fairing",
            "panel",
            80,
            270,
            0.72,
            0.34,
            new Shape(
                n.SidePoly(
                    (0.53, 0.66, 0.02),
                    (0.64, 0.705, 0.02),
                    (0.668, 0.64, 0.02),
                    (0.668, 0.47, 0.01),
                    (0.645, 0.47, 0.01),
                    (0.605, 0.575, 0.02)
                )
            )
        );
        var badge = n.SidePoly((0.84, 0.855, 0.01), (0.95, 0.855, 0.01), (0.95, 0.895, 0.01), (0.84, 0.895, 0.01));
        n.Mirrored(
            "tank",
            "tank",
            60,
            270,
            0.98,
            0.76,
            new Shape(
                n.SidePoly(
                    (0.655, 0.79, 0.03),
                    (1.09, 0.775, 0.03),
                    (1.13, 0.84, 0.04),
                    (0.99, 0.96, 0.08),
                    (0.76, 0.985, 0.08),
                    (0.635, 0.90, 0.04)
                ),
                [badge]
            )
        );
        n.Mirrored("badges", "badge", 70, 270, 0.90, 0.85, new Shape(badge));
        n.Mirrored(
            "seat",
            "seat",
            60,
            270,
            0.96,
            0.80,
            new Shape(
                n.SidePoly(
                    (1.155, 0.805, 0.01),
                    (1.40, 0.825, 0.02),
                    (1.64, 0.91, 0.02),
                    (1.62, 0.955, 0.03),
                    (1.42, 0.895, 0.04),
                    (1.155, 0.855, 0.03)
                )
            )
        );
        n.Both(
            "tail-panel",
            "panel",
            75,
            270,
            0.97,
            0.70,
            new Shape(
                n.SidePoly(
                    (1.19, 0.70, 0.03),
                    (1.46, 0.735, 0.04),
                    (1.86, 0.90, 0.02),
                    (1.84, 0.95, 0.03),
                    (1.655, 0.905, 0.02),
                    (1.41, 0.81, 0.02),
                    (1.18, 0.79, 0.01)
                )
            )
        );
        n.Mirrored(
            "frame",
            "frame",
            85,
            270,
            0.77,
            0.44,
            new Shape(
                n.SidePoly(
                    (0.655, 0.70, 0.02),
                    (0.72, 0.775, 0.02),
                    (1.09, 0.76, 0.02),
                    (1.17, 0.62, 0.03),
                    (1.14, 0.51, 0.02),
                    (1.09, 0.515, 0.02),
                    (1.095, 0.60, 0.03),
                    (1.03, 0.66, 0.03),
                    (0.70, 0.64, 0.02)
                )
            )
        );
        n.Mirrored(
            "engine",
            "engine",
            85,
            270,
            0.64,
            0.32,
            new Shape(
                n.SidePoly(
                    (0.675, 0.35, 0.03),
                    (1.02, 0.325, 0.04),
                    (1.06, 0.44, 0.03),
                    (1.08, 0.585, 0.03),
                    (1.02, 0.645, 0.03),
                    (0.71, 0.625, 0.02),
                    (0.68, 0.52, 0.02)
                )
            )
        );
        foreach (var (x0, x1, h) in new[] { (0.74, 0.94, 0.60), (0.74, 0.94, 0.575), (0.74, 0.94, 0.55) })
        {
            n.LineBoth("fine", n.Side(x0, h), n.Side(x1, h));
        }

        n.LoopBoth("lens", n.SideDisc(0.96, 0.43, 0.065, 28));
        n.LoopBoth("fine", n.SideDisc(0.80, 0.42, 0.05, 24));
        n.Mirrored(
            "belly-pan",
            "panel",
            70,
            270,
            0.32,
            0.18,
            new Shape(n.SidePoly((0.655, 0.315, 0.03), (0.72, 0.20, 0.04), (1.03, 0.185, 0.03), (1.055, 0.295, 0.02)))
        );
        n.Mirrored(
            "swingarm",
            "frame",
            85,
            270,
            0.50,
            0.33,
            new Shape(n.SidePoly((1.075, 0.43, 0.02), (1.42, 0.335, 0.02), (1.425, 0.395, 0.02), (1.10, 0.49, 0.02))),
            new Shape(n.SideDisc(1.75, 0.305, 0.048, 20))
        );

        // Chain on the left, exhaust on the right.
        n.Zone(
            "chain",
            "chain",
            90,
            270,
            0.36,
            0.24,
            new Shape(
                n.SidePoly((1.075, 0.40, 0.02), (1.425, 0.31, 0.01), (1.43, 0.235, 0.01), (1.075, 0.325, 0.03)),
                [n.SidePoly((1.10, 0.375, 0.01), (1.41, 0.295, 0.01), (1.412, 0.255, 0.01), (1.10, 0.345, 0.01))]
            )
        );
        n.Zone(
            "exhaust",
            "exhaust",
            90,
            90,
            0.30,
            0.12,
            new Shape(
                n.SidePoly(
                    (1.08, 0.145, 0.02),
                    (1.36, 0.13, 0.03),
                    (1.425, 0.155, 0.02),
                    (1.43, 0.225, 0.02),
                    (1.38, 0.245, 0.03),
                    (1.08, 0.215, 0.03)
                )
            ).Map(NetBuilder.Mirror)
        );
        n.LineBoth("fine", n.Side(1.20, 0.74), n.Side(1.44, 0.77));
    }

    private static void Links(NetBuilder n)
    {
        n.Drain("windscreen", "front-fairing");
        n.Drain("front-fairing", "fork", "headlamp", "front-mudguard");
        n.Drain("headlamp", "front-mudguard");
        n.Drain("front-mudguard", "front-tyre");
        n.Drain("fork", "front-disc", "front-wheel-face");
        n.Drain("controls", "fork", "tank");
        n.Drain("tank", "frame", "engine", "seat", "filler-recess");
        n.Drain("seat", "left-tail-panel", "right-tail-panel");
        n.Drain("frame", "engine", "swingarm");
        n.Drain("engine", "belly-pan", "exhaust");
        n.Drain("grille", "engine", "belly-pan");
        n.Drain("swingarm", "chain", "rear-disc", "rear-wheel-face");
        n.Drain("chain", "rear-tyre");
        n.Drain("tail-lamp", "rear-mudguard");
        n.Drain("rear-mudguard", "rear-tyre");
        foreach (var s in new[] { "left", "right" })
        {
            n.Drain($"{s}-side-fairing", "belly-pan");
            n.Drain($"{s}-tail-panel", "rear-mudguard", "swingarm");
            n.Beside($"{s}-side-fairing", "engine", "grille");
        }

        n.Drain("left-mirror", "controls");
        n.Drain("right-mirror", "controls");
        n.Beside("badges", "tank");
        foreach (var e in new[] { "front", "rear" })
        {
            n.Drain($"{e}-wheel-face", $"{e}-tyre", $"{e}-disc");
            n.Drain($"{e}-tyre", $"{e}-wheel-face");
            n.Drifts($"{e}-tyre", $"{e}-disc");
        }

        n.Drifts("rear-wheel-face", "swingarm");
    }
}
