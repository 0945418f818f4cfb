namespace ToughStart.Core.Vehicles;

/// <summary>Four-door saloon.</summary>
internal static class SaloonForm
{
    public static Vehicle Build(Size size)
    {
        var n = new NetBuilder("saloon", Forms.DefaultSize("saloon"), size) { SideTop = 1.20, SideHeight = 1.45 };
        const double axle = 0.33,
            front = 0.94,
            rear = 3.70,
            archR = 0.39,
            sillLow = 0.22;

        n.Zone(
            "bonnet",
            "panel",
            10,
            0,
            0.98,
            0.74,
            new Shape(
                n.TopPoly(
                    (0.05, -0.52, 0.10),
                    (-0.02, 0, 0),
                    (0.05, 0.52, 0.10),
                    (0.20, 0.68, 0.12),
                    (1.22, 0.75, 0.03),
                    (1.29, 0, 0),
                    (1.22, -0.75, 0.03),
                    (0.20, -0.68, 0.12)
                )
            )
        );
        n.Zone(
            "cowl",
            "trim",
            20,
            0,
            0.98,
            0.95,
            new Shape(n.TopPoly((1.245, -0.74, 0), (1.32, 0, 0), (1.245, 0.74, 0), (1.31, 0.73, 0.02), (1.40, 0, 0), (1.31, -0.73, 0.02)))
        );
        n.Zone(
            "windscreen",
            "glass",
            32,
            0,
            1.40,
            0.98,
            new Shape(
                n.TopPoly((1.335, -0.72, 0.08), (1.43, 0, 0), (1.335, 0.72, 0.08), (2.18, 0.56, 0.08), (2.24, 0, 0), (2.18, -0.56, 0.08))
            )
        );
        n.Zone(
            "roof",
            "panel",
            3,
            0,
            1.45,
            1.40,
            new Shape(
                n.TopPoly((2.24, -0.59, 0.09), (2.30, 0, 0), (2.24, 0.59, 0.09), (3.20, 0.57, 0.08), (3.17, 0, 0), (3.20, -0.57, 0.08))
            )
        );
        n.Zone(
            "rear-screen",
            "glass",
            28,
            180,
            1.38,
            1.04,
            new Shape(
                n.TopPoly((3.255, -0.54, 0.07), (3.225, 0, 0), (3.255, 0.54, 0.07), (3.98, 0.66, 0.07), (3.95, 0, 0), (3.98, -0.66, 0.07))
            )
        );
        n.Zone(
            "boot-lid",
            "panel",
            12,
            180,
            1.05,
            0.98,
            new Shape(
                n.TopPoly((4.03, -0.66, 0.04), (4.00, 0, 0), (4.03, 0.66, 0.04), (4.56, 0.60, 0.10), (4.62, 0, 0), (4.56, -0.60, 0.10))
            )
        );
        n.LineBoth("crease", n.Top(0.20, 0.36), n.Top(1.22, 0.52));
        n.LineBoth("fine", n.Top(0.06, 0.22), n.Top(1.24, 0.30));
        n.LineBoth("wiper", n.Top(1.42, 0.56), n.Top(1.56, 0.10));
        n.Line("fine", n.Top(4.52, -0.50), n.Top(4.565, 0), n.Top(4.52, 0.50));
        n.Loop("fine", n.TopPoly((3.02, -0.04, 0.02), (3.02, 0.04, 0.02), (3.12, 0.0, 0.01)));

        var badge = n.TopDisc(-0.235, 0, 0.055, 24);
        n.Zone(
            "grille",
            "grille",
            85,
            0,
            0.74,
            0.52,
            new Shape(n.TopPoly((-0.12, -0.36, 0.04), (-0.12, 0.36, 0.04), (-0.36, 0.30, 0.05), (-0.36, -0.30, 0.05)), [badge])
        );
        n.Zone("badges", "badge", 85, 0, 0.72, 0.60, new Shape(badge));
        foreach (var y in new[] { 0.09, 0.15, 0.21, 0.27 })
        {
            n.LineBoth("bar", n.Top(-0.14, y), n.Top(-0.34, y * 0.94));
        }

        n.Both(
            "headlamp",
            "lamp",
            75,
            0,
            0.76,
            0.60,
            new Shape(n.TopPoly((-0.10, 0.42, 0.02), (-0.02, 0.74, 0.05), (-0.18, 0.84, 0.04), (-0.25, 0.45, 0.03)))
        );
        n.LoopBoth("lens", n.TopDisc(-0.15, 0.56, 0.05, 20));
        n.LoopBoth("lens", n.TopDisc(-0.12, 0.69, 0.045, 20));
        n.Zone(
            "front-bumper",
            "bumper",
            85,
            0,
            0.56,
            0.22,
            new Shape(
                n.TopPoly(
                    (-0.24, -0.86, 0.05),
                    (-0.31, -0.42, 0.03),
                    (-0.41, -0.30, 0.04),
                    (-0.41, 0.30, 0.04),
                    (-0.31, 0.42, 0.03),
                    (-0.24, 0.86, 0.05),
                    (-0.62, 0.90, 0.10),
                    (-0.67, 0.55, 0.05),
                    (-0.67, -0.55, 0.05),
                    (-0.62, -0.90, 0.10)
                )
            )
        );
        n.Loop("fine", n.TopPoly((-0.53, -0.46, 0.04), (-0.53, 0.46, 0.04), (-0.62, 0.40, 0.04), (-0.62, -0.40, 0.04)));
        n.LoopBoth("lens", n.TopPoly((-0.50, 0.60, 0.03), (-0.50, 0.78, 0.03), (-0.60, 0.76, 0.03), (-0.60, 0.62, 0.03)));
        n.Loop("fine", n.TopPoly((-0.44, -0.22, 0.01), (-0.44, 0.22, 0.01), (-0.51, 0.22, 0.01), (-0.51, -0.22, 0.01)));

        n.Zone(
            "boot-lid",
            "panel",
            80,
            180,
            1.0,
            0.66,
            new Shape(
                n.TopPoly((4.70, -0.50, 0.03), (4.70, 0.50, 0.03), (4.98, 0.56, 0.04), (4.98, -0.56, 0.04)),
                [n.TopPoly((4.79, -0.07, 0.02), (4.79, 0.07, 0.02), (4.85, 0.07, 0.02), (4.85, -0.07, 0.02))]
            )
        );
        n.Zone(
            "badges",
            "badge",
            80,
            180,
            0.9,
            0.84,
            new Shape(n.TopPoly((4.79, -0.07, 0.02), (4.79, 0.07, 0.02), (4.85, 0.07, 0.02), (4.85, -0.07, 0.02)))
        );
        n.Zone(
            "boot-shuts",
            "shut",
            60,
            180,
            1.02,
            0.64,
            new Shape(n.TopPoly((4.665, -0.53, 0.02), (4.665, 0.53, 0.02), (4.695, 0.52, 0.01), (4.695, -0.52, 0.01))),
            new Shape(n.TopPoly((4.985, -0.58, 0.01), (4.985, 0.58, 0.01), (5.025, 0.58, 0.02), (5.025, -0.58, 0.02)))
        );
        n.Both(
            "tail-lamp",
            "lamp",
            80,
            180,
            0.98,
            0.72,
            new Shape(n.TopPoly((4.68, 0.54, 0.03), (4.66, 0.82, 0.05), (4.90, 0.87, 0.04), (4.92, 0.58, 0.03)))
        );
        n.LineBoth("lens", n.Top(4.70, 0.66), n.Top(4.90, 0.69));
        n.Zone(
            "rear-bumper",
            "bumper",
            85,
            180,
            0.64,
            0.26,
            new Shape(
                n.TopPoly(
                    (5.05, -0.62, 0.02),
                    (5.05, 0.62, 0.02),
                    (4.99, 0.88, 0.05),
                    (5.27, 0.90, 0.10),
                    (5.33, 0.50, 0.04),
                    (5.33, -0.50, 0.04),
                    (5.27, -0.90, 0.10),
                    (4.99, -0.88, 0.05)
                )
            )
        );
        n.Loop("fine", n.TopPoly((5.11, -0.26, 0.01), (5.11, 0.26, 0.01), (5.23, 0.26, 0.01), (5.23, -0.26, 0.01)));
        n.Mirrored(
            "exhaust-tips",
            "tip",
            90,
            180,
            0.30,
            0.22,
            new Shape(n.TopDisc(5.42, 0.48, 0.045, 20), [n.TopDisc(5.42, 0.48, 0.03, 20)])
        );

        Pt[] wing =
        [
            .. n.SidePoly(
                (1.43, 0.36, 0.02),
                (1.47, 0.93, 0),
                (1.30, 0.965, 0.02),
                (0.80, 0.90, 0),
                (0.40, 0.80, 0.05),
                (0.335, 0.66, 0.02),
                (0.40, 0.56, 0)
            ),
            .. n.ArchCut(front, axle, archR, 0.53, 0.36),
        ];
        n.Both("front-wing", "panel", 82, 270, 0.97, 0.36, new Shape(wing));
        n.Both(
            "headlamp",
            "lamp",
            75,
            270,
            0.76,
            0.60,
            new Shape(n.SidePoly((0.10, 0.66, 0.02), (0.16, 0.73, 0.03), (0.37, 0.785, 0.02), (0.31, 0.66, 0.02), (0.12, 0.62, 0.02)))
        );
        Pt[] frontEnd =
        [
            .. n.SidePoly((0.07, 0.57, 0.04), (0.32, 0.625, 0.02), (0.375, 0.54, 0)),
            .. n.ArchCut(front, axle, archR, 0.26, 0.36)[..8].Reverse(),
            .. n.SidePoly((0.50, 0.23, 0.03), (0.14, 0.23, 0.06)),
        ];
        n.Mirrored("front-bumper", "bumper", 85, 0, 0.62, 0.22, new Shape(frontEnd));

        var frontDoor = n.SidePoly((1.475, 0.37, 0.05), (2.54, 0.37, 0.03), (2.56, 1.41, 0.03), (2.22, 1.395, 0.08), (1.51, 0.975, 0.02));
        var frontWindow = n.SidePoly((1.64, 0.985, 0.03), (2.49, 0.975, 0.03), (2.50, 1.345, 0.03), (2.24, 1.335, 0.07));
        n.Door("front-door", "front-glass", frontDoor, frontWindow, 0.028, 0.022, 1.41, 0.37);
        var rearDoor = n.SidePoly(
            (2.57, 0.37, 0.03),
            (3.20, 0.37, 0.06),
            (3.34, 0.70, 0.10),
            (3.52, 0.985, 0.05),
            (3.20, 1.36, 0.12),
            (2.59, 1.41, 0.03)
        );
        var rearWindow = n.SidePoly((2.655, 0.975, 0.03), (3.40, 0.985, 0.05), (3.13, 1.305, 0.10), (2.665, 1.345, 0.03));
        n.Door("rear-door", "rear-glass", rearDoor, rearWindow, 0.028, 0.022, 1.41, 0.37);
        n.LoopBoth("handle", n.SidePoly((2.34, 0.86, 0.015), (2.50, 0.86, 0.015), (2.50, 0.90, 0.015), (2.34, 0.90, 0.015)));
        n.LoopBoth("handle", n.SidePoly((3.20, 0.86, 0.015), (3.36, 0.86, 0.015), (3.36, 0.90, 0.015), (3.20, 0.90, 0.015)));
        n.LineBoth("crease", n.Side(0.62, 0.72), n.Side(1.44, 0.78));
        n.LineBoth("crease", n.Side(1.52, 0.785), n.Side(2.50, 0.815));
        n.LineBoth("crease", n.Side(2.62, 0.82), n.Side(3.36, 0.83));
        n.LineBoth("crease", n.Side(1.54, 0.48), n.Side(2.50, 0.46));
        n.LineBoth("crease", n.Side(2.62, 0.46), n.Side(3.18, 0.47));

        Pt[] quarter =
        [
            .. n.SidePoly(
                (3.24, 0.37, 0),
                (3.375, 0.69, 0.06),
                (3.555, 0.98, 0.03),
                (3.25, 1.365, 0.06),
                (3.42, 1.33, 0.10),
                (4.02, 1.05, 0.12),
                (4.52, 1.00, 0.06),
                (4.56, 0.90, 0.03),
                (4.40, 0.66, 0.03),
                (4.14, 0.56, 0)
            ),
            .. n.ArchCut(rear, axle, archR, 0.36, 0.52).Reverse(),
        ];
        var filler = n.SidePoly((3.92, 0.76, 0.03), (4.08, 0.76, 0.03), (4.08, 0.90, 0.03), (3.92, 0.90, 0.03));
        n.Zone("left-rear-quarter", "panel", 80, 270, 1.36, 0.36, new Shape(quarter, [filler]));
        n.Zone("right-rear-quarter", "panel", 80, 90, 1.36, 0.36, new Shape(quarter).Map(NetBuilder.Mirror));
        n.Zone("filler-recess", "filler", 80, 270, 0.90, 0.76, new Shape(filler));
        n.LineBoth("crease", n.Side(3.60, 0.84), n.Side(4.40, 0.86));
        n.Both(
            "tail-lamp",
            "lamp",
            80,
            270,
            0.98,
            0.72,
            new Shape(n.SidePoly((4.575, 0.92, 0.02), (4.60, 0.94, 0.02), (4.64, 0.74, 0.02), (4.44, 0.685, 0.02)))
        );
        Pt[] rearEnd =
        [
            .. n.SidePoly(
                (4.16, 0.53, 0),
                (4.42, 0.64, 0.02),
                (4.64, 0.68, 0.03),
                (4.68, 0.46, 0.05),
                (4.62, 0.27, 0.06),
                (4.10, 0.25, 0.02)
            ),
            .. n.ArchCut(rear, axle, archR, 0.36, 0.26)[25..].Reverse(),
        ];
        n.Mirrored("rear-bumper", "bumper", 85, 180, 0.68, 0.25, new Shape(rearEnd));
        n.Both(
            "sill",
            "sill",
            85,
            270,
            0.345,
            sillLow,
            new Shape(n.SidePoly((1.345, 0.345, 0.02), (3.295, 0.345, 0.02), (3.32, sillLow, 0.02), (1.32, sillLow, 0.02)))
        );
        n.Both(
            "mirror",
            "mirror",
            60,
            270,
            1.08,
            0.95,
            new Shape(n.TopPoly((1.72, 0.84, 0.04), (1.84, 0.84, 0.04), (1.87, 1.05, 0.05), (1.70, 1.07, 0.06)))
        );
        n.Gutters(2.34, 3.10, 0.615, 0.655, 1.42);
        n.Underbody(1.42, 3.24, sillLow, 0.47, 0.20);
        n.Wheel("front", front, axle, archR, sillLow, 0.325, 0.22, 1.42, 0.88, 0.19, 5);
        n.Wheel("rear", rear, axle, archR, sillLow, 0.325, 0.22, 2.36, 0.88, 0.19, 5);
        n.CommonLinks();
        n.Drain("rear-screen", "boot-lid");
        return n.Build();
    }
}
