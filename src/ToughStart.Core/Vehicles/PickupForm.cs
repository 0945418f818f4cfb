namespace ToughStart.Core.Vehicles;

/// <summary>Double-cab pickup with an open load bed.</summary>
internal static class PickupForm
{
    public static Vehicle Build(Size size)
    {
        var n = new NetBuilder("pickup", Forms.DefaultSize("pickup"), size) { SideTop = 1.22, SideHeight = 1.80 };
        const double axle = 0.39,
            front = 1.02,
            rear = 4.22,
            archR = 0.475,
            sillLow = 0.36;

        // Top strip.
        n.Zone(
            "bonnet",
            "panel",
            6,
            0,
            1.18,
            1.05,
            new Shape(
                n.TopPoly(
                    (-0.06, -0.60, 0.10),
                    (-0.10, 0, 0),
                    (-0.06, 0.60, 0.10),
                    (0.10, 0.74, 0.12),
                    (1.36, 0.79, 0.03),
                    (1.40, 0, 0),
                    (1.36, -0.79, 0.03),
                    (0.10, -0.74, 0.12)
                )
            )
        );
        n.Zone(
            "cowl",
            "trim",
            20,
            0,
            1.18,
            1.14,
            new Shape(n.TopPoly((1.385, -0.78, 0), (1.43, 0, 0), (1.385, 0.78, 0), (1.47, 0.77, 0.02), (1.53, 0, 0), (1.47, -0.77, 0.02)))
        );
        n.Zone(
            "windscreen",
            "glass",
            55,
            0,
            1.74,
            1.17,
            new Shape(
                n.TopPoly((1.50, -0.755, 0.07), (1.56, 0, 0), (1.50, 0.755, 0.07), (2.30, 0.60, 0.07), (2.335, 0, 0), (2.30, -0.60, 0.07))
            )
        );
        n.Zone(
            "roof",
            "panel",
            3,
            0,
            1.80,
            1.76,
            new Shape(
                n.TopPoly((2.36, -0.63, 0.09), (2.40, 0, 0), (2.36, 0.63, 0.09), (3.50, 0.65, 0.08), (3.52, 0, 0), (3.50, -0.65, 0.08))
            )
        );
        n.Zone(
            "rear-screen",
            "glass",
            75,
            180,
            1.74,
            1.20,
            new Shape(n.TopPoly((3.545, -0.62, 0.05), (3.545, 0.62, 0.05), (3.87, 0.70, 0.06), (3.87, -0.70, 0.06)))
        );
        n.Zone(
            "load-bed",
            "bed",
            2,
            0,
            0.80,
            0.75,
            new Shape(n.TopPoly((3.99, -0.72, 0.05), (3.99, 0.72, 0.05), (5.38, 0.72, 0.04), (5.38, -0.72, 0.04)))
        );
        n.Loop("fine", n.TopPoly((3.94, -0.84, 0.05), (3.94, 0.84, 0.05), (5.44, 0.84, 0.05), (5.44, -0.84, 0.05)));
        for (var i = -5; i <= 5; i++)
        {
            n.Line("fine", n.Top(4.06, i * 0.125), n.Top(5.31, i * 0.125));
        }

        n.LineBoth("crease", n.Top(0.12, 0.44), n.Top(1.34, 0.56));
        n.LineBoth("fine", n.Top(0.02, 0.30), n.Top(0.30, 0.24), n.Top(1.30, 0.30));
        n.LineBoth("fine", n.Top(2.46, 0.42), n.Top(3.44, 0.44));
        n.LineBoth("wiper", n.Top(1.56, 0.60), n.Top(1.70, 0.10));
        n.Loop("fine", n.TopPoly((2.95, -0.05, 0.03), (2.95, 0.05, 0.03), (3.14, 0.03, 0.02), (3.14, -0.03, 0.02)));

        // Front, folded out to the left: u runs down from the bonnet lip.
        var badge = n.TopDisc(-0.31, 0, 0.075, 24);
        n.Zone(
            "grille",
            "grille",
            85,
            0,
            1.03,
            0.70,
            new Shape(
                n.TopPoly(
                    (-0.16, -0.50, 0.05),
                    (-0.16, 0.50, 0.05),
                    (-0.34, 0.53, 0.02),
                    (-0.49, 0.45, 0.06),
                    (-0.49, -0.45, 0.06),
                    (-0.34, -0.53, 0.02)
                ),
                [badge]
            )
        );
        n.Zone("badges", "badge", 85, 0, 1.0, 0.85, new Shape(badge));
        foreach (var u in new[] { -0.225, -0.305, -0.385, -0.445 })
        {
            n.LineBoth("bar", n.Top(u, 0.085), n.Top(u, u < -0.4 ? 0.45 : 0.48));
        }

        n.Both(
            "headlamp",
            "lamp",
            80,
            0,
            1.02,
            0.80,
            new Shape(n.TopPoly((-0.15, 0.545, 0.03), (-0.15, 0.86, 0.05), (-0.40, 0.88, 0.05), (-0.36, 0.575, 0.03)))
        );
        n.LoopBoth("lens", n.TopDisc(-0.265, 0.66, 0.075, 24));
        n.LoopBoth("lens", n.TopDisc(-0.27, 0.80, 0.05, 20));
        n.Zone(
            "front-bumper",
            "bumper",
            88,
            0,
            0.72,
            0.40,
            new Shape(
                n.TopPoly(
                    (-0.44, -0.90, 0.04),
                    (-0.42, -0.60, 0.03),
                    (-0.53, -0.48, 0.03),
                    (-0.53, 0.48, 0.03),
                    (-0.42, 0.60, 0.03),
                    (-0.44, 0.90, 0.04),
                    (-0.84, 0.92, 0.10),
                    (-0.90, 0.62, 0.06),
                    (-0.90, -0.62, 0.06),
                    (-0.84, -0.92, 0.10)
                )
            )
        );
        n.Loop("fine", n.TopPoly((-0.63, -0.42, 0.04), (-0.63, 0.42, 0.04), (-0.77, 0.38, 0.04), (-0.77, -0.38, 0.04)));
        n.LoopBoth("lens", n.TopDisc(-0.67, 0.68, 0.06, 20));
        n.Loop("fine", n.TopPoly((-0.80, -0.20, 0.01), (-0.80, 0.20, 0.01), (-0.88, 0.20, 0.01), (-0.88, -0.20, 0.01)));

        // Rear, folded out to the right.
        var handle = n.TopPoly((5.60, -0.16, 0.02), (5.60, 0.16, 0.02), (5.68, 0.16, 0.02), (5.68, -0.16, 0.02));
        n.Zone(
            "boot-lid",
            "panel",
            88,
            180,
            1.16,
            0.62,
            new Shape(n.TopPoly((5.52, -0.66, 0.03), (5.52, 0.66, 0.03), (6.06, 0.66, 0.04), (6.06, -0.66, 0.04)), [handle])
        );
        n.Zone("badges", "badge", 88, 180, 1.0, 0.9, new Shape(handle));
        n.Line("letters", n.Top(5.87, -0.36), n.Top(5.87, 0.36));
        n.Zone(
            "boot-shuts",
            "shut",
            88,
            180,
            1.16,
            0.6,
            new Shape(
                n.TopPoly((5.475, -0.70, 0.03), (5.475, 0.70, 0.03), (6.10, 0.70, 0.05), (6.10, -0.70, 0.05)),
                [n.TopPoly((5.52, -0.66, 0.03), (5.52, 0.66, 0.03), (6.06, 0.66, 0.04), (6.06, -0.66, 0.04))]
            )
        );
        n.Both(
            "tail-lamp",
            "lamp",
            88,
            180,
            1.14,
            0.65,
            new Shape(n.TopPoly((5.50, 0.72, 0.03), (5.50, 0.89, 0.04), (6.03, 0.89, 0.04), (6.03, 0.72, 0.03)))
        );
        n.LineBoth("lens", n.Top(5.68, 0.73), n.Top(5.68, 0.88));
        n.LineBoth("lens", n.Top(5.86, 0.73), n.Top(5.86, 0.88));
        n.Zone(
            "rear-bumper",
            "bumper",
            88,
            180,
            0.62,
            0.42,
            new Shape(
                n.TopPoly(
                    (6.13, -0.90, 0.04),
                    (6.13, 0.90, 0.04),
                    (6.40, 0.92, 0.06),
                    (6.44, 0.55, 0.03),
                    (6.44, -0.55, 0.03),
                    (6.40, -0.92, 0.06)
                )
            )
        );
        n.Loop("fine", n.TopPoly((6.20, -0.26, 0.01), (6.20, 0.26, 0.01), (6.35, 0.26, 0.01), (6.35, -0.26, 0.01)));
        n.Zone("exhaust-tips", "tip", 90, 180, 0.42, 0.34, new Shape(n.TopDisc(6.52, 0.52, 0.05, 20), [n.TopDisc(6.52, 0.52, 0.033, 20)]));

        // Left side (right is its mirror image).
        var wing = n.SidePoly(
            (1.70, 0.50, 0.02),
            (1.74, 1.14, 0),
            (1.55, 1.165, 0.02),
            (0.95, 1.12, 0),
            (0.47, 1.055, 0.06),
            (0.42, 0.80, 0)
        );
        var wingOutline = wing.Concat(n.SidePoly((0.40, 0.77, 0), (0.545, 0.77, 0))[..2])
            .Concat(n.ArchCut(front, axle, archR, axle + 0.30, 0.50))
            .ToArray();
        n.Both("front-wing", "panel", 85, 270, 1.16, 0.50, new Shape(wingOutline));
        n.LineBoth("crease", n.Side(0.62, 0.98), n.Side(1.70, 1.02));
        n.Mirrored(
            "front-bumper",
            "bumper",
            88,
            0,
            0.77,
            0.40,
            new Shape(
                n.SidePoly((0.06, 0.72, 0.04), (0.40, 0.745, 0), (0.535, 0.745, 0.01))
                    .Concat(n.ArchCut(front, axle, archR, 0.45, axle + 0.33)[..9].Reverse())
                    .Concat(n.SidePoly((0.52, 0.42, 0.02), (0.12, 0.42, 0.06)).ToArray())
                    .ToArray()
            )
        );
        n.Both(
            "headlamp",
            "lamp",
            80,
            270,
            1.03,
            0.80,
            new Shape(n.SidePoly((0.10, 0.98, 0.03), (0.16, 1.045, 0.03), (0.43, 1.05, 0.02), (0.385, 0.80, 0.03), (0.10, 0.78, 0.03)))
        );
        n.LineBoth("lens", n.Side(0.25, 0.80), n.Side(0.28, 1.03));

        var frontDoor = n.SidePoly((1.765, 0.52, 0.05), (2.77, 0.52, 0.03), (2.77, 1.755, 0.03), (2.42, 1.75, 0.06), (1.80, 1.22, 0.03));
        var frontWindow = n.SidePoly((1.92, 1.235, 0.03), (2.70, 1.225, 0.03), (2.70, 1.68, 0.03), (2.44, 1.68, 0.05));
        n.Door("front-door", "front-glass", frontDoor, frontWindow, 0.03, 0.025, 1.75, 0.52);
        var rearDoor = n.SidePoly(
            (2.80, 0.52, 0.03),
            (3.62, 0.52, 0.08),
            (3.70, 0.72, 0.03),
            (3.70, 1.20, 0.03),
            (3.60, 1.74, 0.08),
            (2.80, 1.755, 0.03)
        );
        var rearWindow = n.SidePoly((2.87, 1.225, 0.03), (3.56, 1.225, 0.03), (3.50, 1.66, 0.06), (2.87, 1.68, 0.03));
        n.Door("rear-door", "rear-glass", rearDoor, rearWindow, 0.03, 0.025, 1.75, 0.52);
        n.LoopBoth("handle", n.SidePoly((2.56, 1.06, 0.02), (2.72, 1.06, 0.02), (2.72, 1.11, 0.02), (2.56, 1.11, 0.02)));
        n.LoopBoth("handle", n.SidePoly((3.48, 1.06, 0.02), (3.64, 1.06, 0.02), (3.64, 1.11, 0.02), (3.48, 1.11, 0.02)));
        n.LineBoth("crease", n.Side(1.82, 1.02), n.Side(2.74, 1.04));
        n.LineBoth("crease", n.Side(2.84, 1.04), n.Side(3.66, 1.05));
        n.LineBoth("crease", n.Side(1.84, 0.66), n.Side(2.74, 0.64));
        n.LineBoth("crease", n.Side(2.84, 0.64), n.Side(3.60, 0.64));

        Pt[] bed =
        [
            .. n.SidePoly(
                (3.725, 0.50, 0),
                (3.725, 1.17, 0.02),
                (5.30, 1.19, 0.03),
                (5.36, 1.12, 0.03),
                (5.34, 0.62, 0.03),
                (5.02, 0.58, 0.02)
            ),
            .. n.ArchCut(rear, axle, archR, 0.50, axle + 0.18).Reverse(),
        ];
        var filler = n.SidePoly((4.80, 0.88, 0.03), (4.97, 0.88, 0.03), (4.97, 1.05, 0.03), (4.80, 1.05, 0.03));
        n.Zone("left-rear-quarter", "panel", 88, 270, 1.18, 0.50, new Shape(bed, [filler]));
        n.Zone("right-rear-quarter", "panel", 88, 90, 1.18, 0.50, new Shape(bed).Map(NetBuilder.Mirror));
        n.Zone("filler-recess", "filler", 88, 270, 1.05, 0.88, new Shape(filler));
        n.LineBoth("crease", n.Side(3.76, 1.05), n.Side(4.74, 1.06));
        n.LineBoth("fine", n.Side(3.76, 1.12), n.Side(5.28, 1.14));
        n.Mirrored(
            "rear-bumper",
            "bumper",
            88,
            180,
            0.60,
            0.44,
            new Shape(n.SidePoly((5.05, 0.55, 0.02), (5.34, 0.59, 0.02), (5.40, 0.56, 0.03), (5.38, 0.44, 0.03), (5.06, 0.44, 0.03)))
        );
        n.Both(
            "tail-lamp",
            "lamp",
            88,
            270,
            1.12,
            0.65,
            new Shape(n.SidePoly((5.375, 1.10, 0.01), (5.43, 1.10, 0.02), (5.42, 0.64, 0.02), (5.365, 0.64, 0.01)))
        );
        n.Both(
            "sill",
            "sill",
            85,
            270,
            0.49,
            sillLow,
            new Shape(n.SidePoly((1.52, 0.49, 0.02), (3.715, 0.49, 0.02), (3.735, sillLow, 0.02), (1.505, sillLow, 0.02)))
        );
        n.LineBoth("fine", n.Side(1.60, 0.43), n.Side(3.66, 0.43));
        n.Both(
            "mirror",
            "mirror",
            60,
            270,
            1.38,
            1.18,
            new Shape(n.TopPoly((1.93, 0.86, 0.04), (2.06, 0.86, 0.05), (2.10, 1.12, 0.06), (1.90, 1.14, 0.07)))
        );
        n.Gutters(2.46, 3.42, 0.675, 0.715, 1.76);
        n.Underbody(1.62, 3.66, sillLow, 0.52, 0.24);
        n.Wheel("front", front, axle, archR, sillLow, 0.39, 0.245, 1.62, 1.0, 0.24, 6);
        n.Wheel("rear", rear, axle, archR, sillLow, 0.39, 0.245, 2.66, 1.0, 0.24, 6);
        n.CommonLinks();
        n.Drain("load-bed", "boot-lid", "left-rear-quarter", "right-rear-quarter");
        n.Drain("rear-screen", "load-bed");
        return n.Build();
    }
}
