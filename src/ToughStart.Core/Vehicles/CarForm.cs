namespace ToughStart.Core.Vehicles;

/// <summary>How the tail of a car is cut.</summary>
internal enum Tail
{
    Hatch,
    Notch,
    Wagon,
}

/// <summary>
/// The lines that make one passenger car look like itself: metres at its default size, x from the nose, heights above the ground.
/// </summary>
/// <param name="BonnetNose">Height of the bonnet's leading edge; <paramref name="Cowl"/> is the height of its other end at x = <paramref name="BonnetEnd"/>.</param>
/// <param name="RoofEnd">Where the roof line breaks down to the rear screen; at height <paramref name="RoofEndH"/>.</param>
/// <param name="GlassBase">Foot of the rear screen at height <paramref name="GlassBaseH"/>.</param>
/// <param name="DoorA">Leading edge of the front door at the sill, <paramref name="DoorB"/> the pillar behind it, <paramref name="DoorC"/> the end of the rear door.</param>
/// <param name="RearDoors">Four side doors; else the second side window belongs to the quarter.</param>
internal sealed record CarShape(
    string Form,
    Size Size,
    Tail Tail,
    bool RearDoors,
    double Front,
    double Rear,
    double TyreR,
    double FaceR,
    double ArchR,
    double SillLow,
    double SillTop,
    double BonnetNose,
    double BonnetEnd,
    double Cowl,
    double ScreenTop,
    double RoofEnd,
    double RoofEndH,
    double GlassBase,
    double GlassBaseH,
    double BeltFront,
    double BeltRear,
    double DoorA,
    double DoorB,
    double DoorC,
    double DoorTop,
    int Spokes,
    double Grille = 0.5,
    double Cladding = 0
);

/// <summary>Passenger cars drawn from their lines: city hatch, hatchback, estate, coupé, SUV.</summary>
internal static class CarForm
{
    public static readonly IReadOnlyDictionary<string, CarShape> Shapes = new CarShape[]
    {
        new(
            "city-hatch",
            new(3.55, 1.66, 1.50),
            Tail.Hatch,
            false,
            0.66,
            3.02,
            0.29,
            0.195,
            0.345,
            0.20,
            0.335,
            0.78,
            0.98,
            1.00,
            1.58,
            3.14,
            1.44,
            3.42,
            0.98,
            0.97,
            1.02,
            1.12,
            2.16,
            0,
            2.98,
            4,
            0.30
        ),
        new(
            "hatchback",
            new(4.28, 1.79, 1.46),
            Tail.Hatch,
            true,
            0.88,
            3.50,
            0.315,
            0.215,
            0.375,
            0.20,
            0.335,
            0.72,
            1.26,
            0.96,
            2.04,
            3.82,
            1.39,
            4.12,
            0.98,
            0.94,
            1.00,
            1.38,
            2.38,
            3.02,
            3.36,
            5,
            0.42
        ),
        new(
            "estate",
            new(4.72, 1.82, 1.47),
            Tail.Wagon,
            true,
            0.93,
            3.72,
            0.325,
            0.22,
            0.385,
            0.21,
            0.345,
            0.70,
            1.36,
            0.95,
            2.20,
            4.34,
            1.41,
            4.62,
            1.00,
            0.94,
            0.99,
            1.48,
            2.54,
            3.22,
            3.44,
            5,
            0.46
        ),
        new(
            "coupe",
            new(4.42, 1.83, 1.34),
            Tail.Notch,
            false,
            0.94,
            3.52,
            0.33,
            0.235,
            0.385,
            0.18,
            0.315,
            0.62,
            1.52,
            0.90,
            2.32,
            3.00,
            1.27,
            3.92,
            0.94,
            0.87,
            0.90,
            1.56,
            2.82,
            0,
            3.02,
            10,
            0.40
        ),
        new(
            "suv",
            new(4.66, 1.90, 1.72),
            Tail.Wagon,
            true,
            0.92,
            3.66,
            0.37,
            0.245,
            0.44,
            0.34,
            0.49,
            0.98,
            1.30,
            1.17,
            1.98,
            4.24,
            1.66,
            4.54,
            1.18,
            1.14,
            1.19,
            1.40,
            2.44,
            3.06,
            3.34,
            6,
            0.58,
            0.06
        ),
    }.ToDictionary(s => s.Form);

    public static Vehicle Build(CarShape c, Size size)
    {
        var n = new NetBuilder(c.Form, c.Size, size) { SideTop = c.Size.Width / 2 + 0.29, SideHeight = c.Size.Height };
        Above(n, c);
        FrontEnd(n, c);
        RearEnd(n, c);
        Flank(n, c);
        n.CommonLinks();
        return n.Build();
    }

    /// <summary>Bonnet, cowl, screen, roof and what lies behind it, seen from above.</summary>
    private static void Above(NetBuilder n, CarShape c)
    {
        var w = c.Size.Width / 2;
        var (shoulder, roofW, nose) = (w - 0.16, w - 0.31, w - 0.36);
        n.Zone(
            "bonnet",
            "panel",
            9,
            0,
            c.Cowl,
            c.BonnetNose,
            new Shape(
                n.TopPoly(
                    (0.05, -nose, 0.10),
                    (-0.02, 0, 0),
                    (0.05, nose, 0.10),
                    (0.20, shoulder - 0.07, 0.12),
                    (c.BonnetEnd - 0.10, shoulder, 0.03),
                    (c.BonnetEnd - 0.03, 0, 0),
                    (c.BonnetEnd - 0.10, -shoulder, 0.03),
                    (0.20, -shoulder + 0.07, 0.12)
                )
            )
        );
        n.Zone(
            "cowl",
            "trim",
            20,
            0,
            c.Cowl,
            c.Cowl - 0.03,
            new Shape(
                n.TopPoly(
                    (c.BonnetEnd - 0.075, -shoulder + 0.01, 0),
                    (c.BonnetEnd, 0, 0),
                    (c.BonnetEnd - 0.075, shoulder - 0.01, 0),
                    (c.BonnetEnd - 0.01, shoulder - 0.02, 0.02),
                    (c.BonnetEnd + 0.08, 0, 0),
                    (c.BonnetEnd - 0.01, -shoulder + 0.02, 0.02)
                )
            )
        );
        n.Zone(
            "windscreen",
            "glass",
            Steep(c.Size.Height - c.Cowl, c.ScreenTop - c.BonnetEnd),
            0,
            c.Size.Height - 0.05,
            c.Cowl,
            new Shape(
                n.TopPoly(
                    (c.BonnetEnd + 0.015, -shoulder + 0.03, 0.08),
                    (c.BonnetEnd + 0.11, 0, 0),
                    (c.BonnetEnd + 0.015, shoulder - 0.03, 0.08),
                    (c.ScreenTop - 0.04, roofW - 0.03, 0.08),
                    (c.ScreenTop + 0.02, 0, 0),
                    (c.ScreenTop - 0.04, -roofW + 0.03, 0.08)
                )
            )
        );
        var roofEnd = c.Tail == Tail.Notch ? c.RoofEnd : c.RoofEnd + 0.06;
        n.Zone(
            "roof",
            "panel",
            3,
            0,
            c.Size.Height,
            c.RoofEndH,
            new Shape(
                n.TopPoly(
                    (c.ScreenTop + 0.02, -roofW, 0.09),
                    (c.ScreenTop + 0.08, 0, 0),
                    (c.ScreenTop + 0.02, roofW, 0.09),
                    (roofEnd, roofW - 0.03, 0.08),
                    (roofEnd - 0.03, 0, 0),
                    (roofEnd, -roofW + 0.03, 0.08)
                )
            )
        );
        n.Gutters(c.ScreenTop + 0.12, roofEnd - 0.10, roofW + 0.025, roofW + 0.065, c.Size.Height - 0.03);
        n.LineBoth("crease", n.Top(0.20, nose * 0.65), n.Top(c.BonnetEnd - 0.10, shoulder * 0.7));
        n.LineBoth("fine", n.Top(0.08, nose * 0.42), n.Top(c.BonnetEnd - 0.08, shoulder * 0.4));
        n.LineBoth("wiper", n.Top(c.BonnetEnd + 0.10, shoulder - 0.16), n.Top(c.BonnetEnd + 0.24, 0.10));
        var screen = c.Size.Height - c.GlassBaseH - 0.06;
        var run = Math.Sqrt(Math.Pow(c.GlassBase - c.RoofEnd, 2) + screen * screen) * (c.Tail == Tail.Notch ? 0.82 : 0.86);
        var from = roofEnd + 0.055;
        n.Zone(
            "rear-screen",
            "glass",
            Steep(screen, c.GlassBase - c.RoofEnd),
            180,
            c.RoofEndH - 0.03,
            c.GlassBaseH,
            new Shape(
                n.TopPoly(
                    (from, -roofW + 0.06, 0.07),
                    (from - 0.03, 0, 0),
                    (from, roofW - 0.06, 0.07),
                    (from + run, shoulder - 0.12, 0.08),
                    (from + run - 0.02, 0, 0),
                    (from + run, -shoulder + 0.12, 0.08)
                )
            )
        );
        if (c.Tail == Tail.Notch)
        {
            var a = from + run + 0.05;
            n.Zone(
                "boot-lid",
                "panel",
                10,
                180,
                c.GlassBaseH + 0.02,
                c.GlassBaseH - 0.06,
                new Shape(
                    n.TopPoly(
                        (a, -shoulder + 0.12, 0.04),
                        (a - 0.02, 0, 0),
                        (a, shoulder - 0.12, 0.04),
                        (c.Size.Length - 0.10, shoulder - 0.18, 0.10),
                        (c.Size.Length - 0.04, 0, 0),
                        (c.Size.Length - 0.10, -shoulder + 0.18, 0.10)
                    )
                )
            );
        }
        else if (c.Tail == Tail.Wagon)
        {
            foreach (var x in new[] { 0.3, 0.5, 0.7 })
            {
                n.LineBoth("fine", n.Top(c.ScreenTop + 0.2, roofW * x), n.Top(roofEnd - 0.14, roofW * x));
            }

            n.LineBoth("bar", n.Top(c.ScreenTop + 0.24, roofW - 0.05), n.Top(roofEnd - 0.16, roofW - 0.07));
        }
    }

    private static void FrontEnd(NetBuilder n, CarShape c)
    {
        var w = c.Size.Width / 2;
        var k = (c.BonnetNose - c.SillLow) / 0.52;
        double U(double drop) => -0.05 - drop * k;
        var g = w * c.Grille;
        var badge = n.TopDisc(U(0.175), 0, 0.055, 24);
        n.Zone(
            "grille",
            "grille",
            85,
            0,
            c.BonnetNose,
            c.BonnetNose - 0.24 * k,
            new Shape(n.TopPoly((U(0.07), -g, 0.04), (U(0.07), g, 0.04), (U(0.29), g * 0.86, 0.05), (U(0.29), -g * 0.86, 0.05)), [badge])
        );
        n.Zone("badges", "badge", 85, 0, c.BonnetNose - 0.02, c.BonnetNose - 0.14, new Shape(badge));
        for (var i = 1; i <= (c.Form == "suv" ? 6 : 3); i++)
        {
            var y = g * i / (c.Form == "suv" ? 7.0 : 4.0);
            if (y > 0.075)
            {
                n.LineBoth("bar", n.Top(U(0.085), y), n.Top(U(0.275), y * 0.9));
            }
        }

        n.Both(
            "headlamp",
            "lamp",
            75,
            0,
            c.BonnetNose + 0.02,
            c.BonnetNose - 0.14,
            new Shape(
                n.TopPoly((U(0.05), g + 0.05, 0.02), (U(-0.03), w - 0.18, 0.05), (U(0.13), w - 0.07, 0.04), (U(0.20), g + 0.09, 0.03))
            )
        );
        n.LoopBoth("lens", n.TopDisc(U(0.09), g + (w - g) * 0.38, Math.Min(0.06, (w - g) * 0.13), 20));
        n.LoopBoth("lens", n.TopDisc(U(0.07), g + (w - g) * 0.66, Math.Min(0.05, (w - g) * 0.11), 20));
        n.Zone(
            "front-bumper",
            "bumper",
            85,
            0,
            c.BonnetNose - 0.18,
            c.SillLow,
            new Shape(
                n.TopPoly(
                    (U(0.19), -w + 0.05, 0.05),
                    (U(0.26), -g - 0.08, 0.03),
                    (U(0.35), -g * 0.86, 0.04),
                    (U(0.35), g * 0.86, 0.04),
                    (U(0.26), g + 0.08, 0.03),
                    (U(0.19), w - 0.05, 0.05),
                    (U(0.56), w - 0.01, 0.10),
                    (U(0.61), w - 0.36, 0.05),
                    (U(0.61), -w + 0.36, 0.05),
                    (U(0.56), -w + 0.01, 0.10)
                )
            )
        );
        n.Loop("fine", n.TopPoly((U(0.47), -0.46, 0.04), (U(0.47), 0.46, 0.04), (U(0.56), 0.40, 0.04), (U(0.56), -0.40, 0.04)));
        n.LoopBoth("lens", n.TopDisc(U(0.49), w - 0.22, 0.045, 20));
        n.Loop("fine", n.TopPoly((U(0.38), -0.22, 0.01), (U(0.38), 0.22, 0.01), (U(0.45), 0.22, 0.01), (U(0.45), -0.22, 0.01)));
    }

    private static void RearEnd(NetBuilder n, CarShape c)
    {
        var w = c.Size.Width / 2;
        var roofW = w - 0.31;
        var bumperTop = c.SillLow + 0.42;
        var wagon = c.Tail != Tail.Notch;
        var screen = c.Size.Height - c.GlassBaseH - 0.06;
        var run = Math.Sqrt(Math.Pow(c.GlassBase - c.RoofEnd, 2) + screen * screen) * 0.86;
        var x0 = wagon ? Math.Max(c.RoofEnd + 0.06 + 0.055 + run, c.Size.Length - 0.04) + 0.10 : c.Size.Length + 0.06;
        double V(double drop) => x0 + drop;
        var lid = c.GlassBaseH - bumperTop;
        var half = w - (wagon ? 0.30 : 0.40);
        var plate = n.TopPoly(
            (V(lid * 0.42), -0.07, 0.02),
            (V(lid * 0.42), 0.07, 0.02),
            (V(lid * 0.42 + 0.06), 0.07, 0.02),
            (V(lid * 0.42 + 0.06), -0.07, 0.02)
        );
        n.Zone(
            "boot-lid",
            "panel",
            82,
            180,
            c.GlassBaseH,
            bumperTop,
            new Shape(
                n.TopPoly(
                    (V(0.05), -half, 0.03),
                    (V(0.05), half, 0.03),
                    (V(lid + 0.03), half + 0.04, 0.04),
                    (V(lid + 0.03), -half - 0.04, 0.04)
                ),
                [plate]
            )
        );
        n.Zone("badges", "badge", 82, 180, c.GlassBaseH - lid * 0.4, c.GlassBaseH - lid * 0.4 - 0.06, new Shape(plate));
        n.Loop(
            "fine",
            n.TopPoly(
                (V(lid * 0.62), -0.26, 0.01),
                (V(lid * 0.62), 0.26, 0.01),
                (V(lid * 0.62 + 0.11), 0.26, 0.01),
                (V(lid * 0.62 + 0.11), -0.26, 0.01)
            )
        );
        n.Zone(
            "boot-shuts",
            "shut",
            60,
            180,
            c.GlassBaseH + 0.02,
            bumperTop - 0.02,
            new Shape(
                n.TopPoly(
                    (V(0.015), -half - 0.03, 0.02),
                    (V(0.015), half + 0.03, 0.02),
                    (V(0.045), half + 0.02, 0.01),
                    (V(0.045), -half - 0.02, 0.01)
                )
            ),
            new Shape(
                n.TopPoly(
                    (V(lid + 0.035), -half - 0.05, 0.01),
                    (V(lid + 0.035), half + 0.05, 0.01),
                    (V(lid + 0.075), half + 0.05, 0.02),
                    (V(lid + 0.075), -half - 0.05, 0.02)
                )
            )
        );
        var lampBottom = c.Form == "suv" || c.Tail == Tail.Wagon ? lid * 0.86 : lid * 0.62;
        n.Both(
            "tail-lamp",
            "lamp",
            80,
            180,
            c.GlassBaseH,
            c.GlassBaseH - lampBottom,
            new Shape(
                n.TopPoly(
                    (V(0.05), half + 0.045, 0.03),
                    (V(0.03), w - 0.09, 0.05),
                    (V(lampBottom), w - 0.05, 0.04),
                    (V(lampBottom + 0.02), half + 0.075, 0.03)
                )
            )
        );
        n.LineBoth("lens", n.Top(V(0.09), half + (w - half) * 0.5), n.Top(V(lampBottom - 0.02), half + (w - half) * 0.55));
        n.Zone(
            "rear-bumper",
            "bumper",
            85,
            180,
            bumperTop,
            c.SillLow,
            new Shape(
                n.TopPoly(
                    (V(lid + 0.105), -half - 0.06, 0.02),
                    (V(lid + 0.105), half + 0.06, 0.02),
                    (V(lid + 0.05), w - 0.03, 0.05),
                    (V(lid + 0.34), w - 0.01, 0.10),
                    (V(lid + 0.39), 0.50, 0.04),
                    (V(lid + 0.39), -0.50, 0.04),
                    (V(lid + 0.34), -w + 0.01, 0.10),
                    (V(lid + 0.05), -w + 0.03, 0.05)
                )
            )
        );
        n.Loop(
            "fine",
            n.TopPoly((V(lid + 0.24), -0.44, 0.04), (V(lid + 0.24), 0.44, 0.04), (V(lid + 0.34), 0.40, 0.04), (V(lid + 0.34), -0.40, 0.04))
        );
        if (c.Form == "coupe")
        {
            n.Mirrored(
                "exhaust-tips",
                "tip",
                90,
                180,
                c.SillLow + 0.10,
                c.SillLow,
                new Shape(n.TopDisc(V(lid + 0.49), 0.52, 0.05, 20), [n.TopDisc(V(lid + 0.49), 0.52, 0.034, 20)])
            );
        }
        else
        {
            n.Zone(
                "exhaust-tips",
                "tip",
                90,
                180,
                c.SillLow + 0.10,
                c.SillLow,
                new Shape(n.TopDisc(V(lid + 0.48), 0.48, 0.045, 20), [n.TopDisc(V(lid + 0.48), 0.48, 0.03, 20)])
            );
        }

        if (roofW > 0)
        {
            n.Line("wiper", n.Top(V(-0.05), 0.02), n.Top(V(-0.16), 0.34));
        }
    }

    /// <summary>One side; the other is its mirror image.</summary>
    private static void Flank(NetBuilder n, CarShape c)
    {
        var axle = c.TyreR;
        double Roof(double x) =>
            x < c.RoofEnd
                ? c.Size.Height
                    - 0.05
                    - 0.03
                        * Math.Pow((x - (c.ScreenTop + c.RoofEnd) / 2) / (c.RoofEnd - c.ScreenTop) * 2, 2)
                        * (c.RoofEndH < c.Size.Height - 0.06 ? 1 : 0.5)
                    - Math.Max(0, x - (c.ScreenTop + c.RoofEnd) / 2) * (c.Size.Height - c.RoofEndH - 0.05) / (c.RoofEnd - c.ScreenTop) * 0.6
                : c.RoofEndH - 0.045;
        var lampLow = c.BonnetNose - 0.15;
        var bumperTop = lampLow - 0.08;

        // Wing, lamp, bumper end.
        Pt[] wing =
        [
            .. n.SidePoly(
                (c.DoorA - 0.045, c.SillTop + 0.015, 0.02),
                (c.DoorA - 0.005, c.BeltFront + 0.015, 0),
                (c.BonnetEnd - 0.03, c.Cowl - 0.005, 0.02),
                ((c.BonnetEnd + 0.40) / 2, (c.Cowl + c.BonnetNose) / 2 + 0.045, 0),
                (0.40, c.BonnetNose + 0.02, 0.05),
                (0.335, lampLow + 0.01, 0.02),
                (Math.Min(0.40, c.Front - c.ArchR + 0.02), bumperTop, 0)
            ),
            .. n.ArchCut(c.Front, axle, c.ArchR, Math.Min(bumperTop - 0.01, axle + c.ArchR - 0.03), c.SillTop + 0.015),
        ];
        n.Both("front-wing", "panel", 82, 270, c.Cowl, c.SillTop, new Shape(wing));
        n.Both(
            "headlamp",
            "lamp",
            75,
            270,
            c.BonnetNose,
            lampLow,
            new Shape(
                n.SidePoly(
                    (0.10, lampLow + 0.02, 0.02),
                    (0.16, c.BonnetNose - 0.05, 0.03),
                    (0.37, c.BonnetNose + 0.005, 0.02),
                    (0.31, lampLow + 0.01, 0.02),
                    (0.12, lampLow - 0.03, 0.02)
                )
            )
        );
        var cut = n.ArchCut(c.Front, axle, c.ArchR, c.SillLow + 0.04, c.SillLow + 0.04);
        var upTo = Math.Max(2, Array.FindIndex(cut, p => p.Y <= n.Side(0, bumperTop - 0.015).Y));
        Pt[] frontEnd =
        [
            .. n.SidePoly(
                (0.07, bumperTop + 0.02, 0.04),
                (0.30, lampLow - 0.035, 0.02),
                (Math.Min(0.37, c.Front - c.ArchR + 0.01), bumperTop - 0.015, 0)
            ),
            .. cut[..upTo].Reverse(),
            .. n.SidePoly((c.Front - c.ArchR - 0.02, c.SillLow + 0.01, 0.03), (0.14, c.SillLow + 0.01, 0.06)),
        ];
        n.Mirrored("front-bumper", "bumper", 85, 0, bumperTop, c.SillLow, new Shape(frontEnd));

        // Doors and glass.
        var sill = c.SillTop + 0.025;
        var frontDoor = n.SidePoly(
            (c.DoorA, sill, 0.05),
            (c.DoorB, sill, 0.03),
            (c.DoorB + 0.02, Roof(c.DoorB), 0.03),
            (c.ScreenTop + 0.05, Roof(c.ScreenTop + 0.05) - 0.005, 0.08),
            (c.DoorA + 0.035, c.BeltFront + 0.02, 0.02)
        );
        var frontWindow = n.SidePoly(
            (c.DoorA + 0.16, c.BeltFront + 0.03, 0.03),
            (c.DoorB - 0.05, c.BeltFront + 0.03, 0.03),
            (c.DoorB - 0.04, Roof(c.DoorB) - 0.065, 0.03),
            (c.ScreenTop + 0.075, Roof(c.ScreenTop + 0.05) - 0.065, 0.07)
        );
        n.Door("front-door", "front-glass", frontDoor, frontWindow, 0.028, 0.022, Roof(c.DoorB), sill);
        n.LoopBoth(
            "handle",
            n.SidePoly(
                (c.DoorB - 0.22, c.BeltFront - 0.11, 0.015),
                (c.DoorB - 0.06, c.BeltFront - 0.11, 0.015),
                (c.DoorB - 0.06, c.BeltFront - 0.07, 0.015),
                (c.DoorB - 0.22, c.BeltFront - 0.07, 0.015)
            )
        );
        double cTop = c.DoorTop,
            cBottom,
            beltX;
        if (c.RearDoors)
        {
            (cBottom, beltX) = (c.DoorC, c.DoorC + 0.26);
            var hip = axle + c.ArchR * 0.86;
            var rearDoor = n.SidePoly(
                (c.DoorB + 0.03, sill, 0.03),
                (c.DoorC, sill, 0.06),
                (c.DoorC + 0.13, hip, 0.10),
                (beltX, c.BeltRear, 0.05),
                (cTop, Roof(cTop), 0.10),
                (c.DoorB + 0.05, Roof(c.DoorB + 0.05), 0.03)
            );
            var rearWindow = n.SidePoly(
                (c.DoorB + 0.115, c.BeltFront + 0.03, 0.03),
                (beltX - 0.10, c.BeltRear + 0.01, 0.05),
                (cTop - 0.075, Roof(cTop) - 0.07, 0.08),
                (c.DoorB + 0.125, Roof(c.DoorB + 0.05) - 0.065, 0.03)
            );
            n.Door("rear-door", "rear-glass", rearDoor, rearWindow, 0.028, 0.022, Roof(cTop), sill);
            n.LoopBoth(
                "handle",
                n.SidePoly(
                    (c.DoorC + 0.02, c.BeltRear - 0.13, 0.015),
                    (c.DoorC + 0.16, c.BeltRear - 0.13, 0.015),
                    (c.DoorC + 0.16, c.BeltRear - 0.09, 0.015),
                    (c.DoorC + 0.02, c.BeltRear - 0.09, 0.015)
                )
            );
            n.LineBoth("crease", n.Side(c.DoorB + 0.08, c.BeltFront - 0.15), n.Side(c.DoorC + 0.13, c.BeltRear - 0.16));
            n.LineBoth("crease", n.Side(c.DoorB + 0.08, sill + 0.09), n.Side(c.DoorC - 0.02, sill + 0.10));
            n.Both(
                "sill",
                "sill",
                85,
                270,
                c.SillTop,
                c.SillLow,
                new Shape(
                    n.SidePoly(
                        (c.DoorA - 0.13, c.SillTop, 0.02),
                        (c.DoorC + 0.095, c.SillTop, 0.02),
                        (c.DoorC + 0.12, c.SillLow, 0.02),
                        (c.DoorA - 0.155, c.SillLow, 0.02)
                    )
                )
            );
            Quarter(
                n,
                c,
                axle,
                Roof,
                [
                    (cBottom + 0.04, sill, 0),
                    (cBottom + 0.165, hip - 0.01, 0.06),
                    (beltX + 0.035, c.BeltRear - 0.005, 0.03),
                    (cTop + 0.05, Roof(cTop) + 0.005, 0.06),
                ],
                cTop
            );
        }
        else
        {
            n.Both(
                "sill",
                "sill",
                85,
                270,
                c.SillTop,
                c.SillLow,
                new Shape(
                    n.SidePoly(
                        (c.DoorA - 0.13, c.SillTop, 0.02),
                        (c.Rear - c.ArchR - 0.03, c.SillTop, 0.02),
                        (c.Rear - c.ArchR - 0.005, c.SillLow, 0.02),
                        (c.DoorA - 0.155, c.SillLow, 0.02)
                    )
                )
            );
            Quarter(n, c, axle, Roof, [(c.DoorB + 0.03, sill, 0), (c.DoorB + 0.05, Roof(c.DoorB + 0.05), 0.02)], c.DoorB + 0.05);
        }

        n.LineBoth("crease", n.Side(0.60, c.BonnetNose - 0.03), n.Side(c.DoorA - 0.05, c.BeltFront - 0.16));
        n.LineBoth("crease", n.Side(c.DoorA + 0.06, c.BeltFront - 0.16), n.Side(c.DoorB - 0.04, c.BeltFront - 0.15));
        n.LineBoth("crease", n.Side(c.DoorA + 0.07, sill + 0.11), n.Side(c.DoorB - 0.04, sill + 0.09));
        if (c.Cladding > 0)
        {
            n.LineBoth("bar", n.Side(c.DoorA + 0.02, sill + c.Cladding), n.Side(c.DoorC + 0.04, sill + c.Cladding));
        }

        n.Both(
            "mirror",
            "mirror",
            60,
            270,
            c.BeltFront + 0.16,
            c.BeltFront + 0.03,
            new Shape(
                n.TopPoly(
                    (c.DoorA + 0.24, c.Size.Width / 2 - 0.07, 0.04),
                    (c.DoorA + 0.36, c.Size.Width / 2 - 0.07, 0.04),
                    (c.DoorA + 0.39, c.Size.Width / 2 + 0.14, 0.05),
                    (c.DoorA + 0.22, c.Size.Width / 2 + 0.16, 0.06)
                )
            )
        );
        var (barrels, length) = (c.Front + c.TyreR + 0.14, (c.Rear - c.Front - 2 * c.TyreR - 0.36) / 2);
        n.Wheel("front", c.Front, axle, c.ArchR, c.SillLow, c.TyreR, c.FaceR, barrels, length, 0.19, c.Spokes);
        n.Wheel("rear", c.Rear, axle, c.ArchR, c.SillLow, c.TyreR, c.FaceR, barrels + length + 0.08, length, 0.19, c.Spokes);
        n.Underbody(barrels, barrels + 2 * length + 0.08, c.SillLow, 0.46, 0.20);
    }

    /// <summary>Rear quarter with what is set into it: quarter glass, filler, tail lamp, bumper end.</summary>
    private static void Quarter(
        NetBuilder n,
        CarShape c,
        double axle,
        Func<double, double> roof,
        (double, double, double)[] leading,
        double glassFrom
    )
    {
        var length = c.Size.Length;
        var bumperTop = c.SillLow + 0.42;
        var tail = c.Tail == Tail.Notch ? length - 0.09 : length - 0.06;
        double Clear(double x, double h) =>
            Math.Max(x, c.Rear + 0.01 + Math.Sqrt(Math.Max(0, c.ArchR * c.ArchR - (h - axle) * (h - axle))));
        (double, double, double)[] back =
            c.Tail == Tail.Notch
                ?
                [
                    (c.RoofEnd + 0.06, c.RoofEndH - 0.03, 0.12),
                    (c.GlassBase + 0.02, c.GlassBaseH + 0.01, 0.14),
                    (tail, c.GlassBaseH - 0.02, 0.06),
                    (tail + 0.03, c.GlassBaseH - 0.13, 0.03),
                    (tail - 0.15, bumperTop + 0.05, 0.03),
                    (Clear(tail - 0.42, bumperTop - 0.06), bumperTop - 0.06, 0),
                ]
                :
                [
                    (c.RoofEnd - 0.01, c.RoofEndH - 0.015, 0.06),
                    (c.GlassBase + 0.01, c.GlassBaseH + 0.02, 0.05),
                    (tail - 0.015, c.GlassBaseH - 0.06, 0.04),
                    (tail - 0.13, c.GlassBaseH - 0.09, 0.03),
                    (tail - 0.15, bumperTop + 0.06, 0.03),
                    (Clear(tail - 0.40, bumperTop - 0.04), bumperTop - 0.04, 0),
                ];
        Pt[] outline =
        [
            .. n.SidePoly([.. leading, .. back]),
            .. n.ArchCut(c.Rear, axle, c.ArchR, c.SillTop + 0.025, Math.Min(bumperTop - 0.06, axle + c.ArchR - 0.04)).Reverse(),
        ];
        var fx = Math.Min(c.Rear + 0.30, tail - 0.36);
        var fh = Math.Max(c.BeltRear - 0.26, axle + c.ArchR - 0.02);
        var filler = n.SidePoly((fx, fh, 0.03), (fx + 0.15, fh, 0.03), (fx + 0.15, fh + 0.13, 0.03), (fx, fh + 0.13, 0.03));
        Pt[]? window = null;
        var (gx, gEnd, id) = c.RearDoors
            ? (glassFrom + 0.17, c.RoofEnd - (c.Tail == Tail.Wagon ? 0.10 : 0.14), "quarter-glass")
            : (glassFrom + 0.08, c.Tail == Tail.Notch ? c.RoofEnd + 0.30 : c.RoofEnd - 0.14, "rear-glass");
        if (!c.RearDoors || c.Tail == Tail.Wagon)
        {
            var low = c.BeltRear + 0.04;
            var back0 = c.Tail == Tail.Notch ? gEnd - 0.02 : Math.Min(gEnd + 0.12, c.GlassBase - 0.14);
            window = c.RearDoors
                ? n.SidePoly(
                    (gx + 0.11, low, 0.03),
                    (back0, low + 0.01, 0.04),
                    (gEnd, roof(gEnd) - 0.075, 0.05),
                    (gx, roof(gx) - 0.075, 0.03)
                )
                : n.SidePoly(
                    (gx, low, 0.03),
                    (back0, low + 0.02, 0.05),
                    (c.Tail == Tail.Notch ? c.RoofEnd - 0.04 : gEnd, roof(c.Tail == Tail.Notch ? c.RoofEnd - 0.04 : gEnd) - 0.075, 0.09),
                    (gx, roof(gx) - 0.07, 0.03)
                );
        }

        IReadOnlyList<Pt>[] right = window is null ? [] : [window];
        n.Zone("left-rear-quarter", "panel", 80, 270, c.RoofEndH, c.SillTop, new Shape(outline, [filler, .. right]));
        n.Zone("right-rear-quarter", "panel", 80, 90, c.RoofEndH, c.SillTop, new Shape(outline, right).Map(NetBuilder.Mirror));
        n.Zone("filler-recess", "filler", 80, 270, fh + 0.13, fh, new Shape(filler));
        if (window is not null)
        {
            n.Pane(id, window, 0.022, c.RoofEndH, c.BeltRear);
        }

        n.LineBoth(
            "crease",
            n.Side(Math.Max(c.Rear - 0.2, leading[0].Item1 + 0.2), c.BeltRear - 0.06),
            n.Side(tail - 0.22, c.BeltRear - 0.05)
        );
        n.Both(
            "tail-lamp",
            "lamp",
            80,
            270,
            c.GlassBaseH - 0.07,
            bumperTop + 0.06,
            new Shape(
                c.Tail == Tail.Notch
                    ? n.SidePoly(
                        (tail + 0.02, c.GlassBaseH - 0.05, 0.02),
                        (tail + 0.055, c.GlassBaseH - 0.07, 0.02),
                        (tail + 0.05, bumperTop + 0.07, 0.02),
                        (tail - 0.10, bumperTop + 0.075, 0.02),
                        (tail + 0.045, c.GlassBaseH - 0.13, 0.01)
                    )
                    : n.SidePoly(
                        (tail - 0.105, c.GlassBaseH - 0.115, 0.02),
                        (tail + 0.005, c.GlassBaseH - 0.085, 0.03),
                        (tail + 0.03, bumperTop + 0.07, 0.02),
                        (tail - 0.12, bumperTop + 0.07, 0.02)
                    )
            )
        );
        var cut = n.ArchCut(c.Rear, axle, c.ArchR, c.SillTop, c.SillLow + 0.04);
        var from = Array.FindLastIndex(cut, p => p.Y <= n.Side(0, Math.Min(bumperTop - 0.09, axle + c.ArchR - 0.05)).Y) + 1;
        Pt[] end =
        [
            .. n.SidePoly(
                (Clear(c.Tail == Tail.Notch ? tail - 0.40 : tail - 0.38, bumperTop - 0.075), bumperTop - 0.075, 0),
                (tail - 0.14, bumperTop + 0.02, 0.02),
                (tail + 0.05, bumperTop + 0.035, 0.03),
                (tail + 0.07, bumperTop - 0.20, 0.05),
                (tail + 0.02, c.SillLow + 0.03, 0.06),
                (c.Rear + c.ArchR + 0.03, c.SillLow + 0.02, 0.02)
            ),
            .. cut[from..].Reverse(),
        ];
        n.Mirrored("rear-bumper", "bumper", 85, 180, bumperTop + 0.03, c.SillLow, new Shape(end));
    }

    private static double Steep(double rise, double run) => Math.Round(Math.Atan2(Math.Max(rise, 0.01), run) * 180 / Math.PI);
}
