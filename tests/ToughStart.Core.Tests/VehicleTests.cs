using CsCheck;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Tests;

public class VehicleTests
{
    public static readonly TheoryData<string> All = [.. Forms.Ids];

    private static IEnumerable<string> OnFourWheels => Forms.Ids.Where(f => f != "motorcycle");

    [Theory, MemberData(nameof(All))]
    public void A_form_has_the_zones_the_work_needs(string form)
    {
        var v = Forms.Build(form, Forms.DefaultSize(form));
        v.Zones.Count.ShouldBeGreaterThanOrEqualTo(30);
        string[] parts =
            form == "motorcycle"
                ?
                [
                    "tank",
                    "front-fairing",
                    "frame",
                    "engine",
                    "chain",
                    "front-disc",
                    "rear-disc",
                    "seat",
                    "front-wheel-face",
                    "rear-tyre",
                    "exhaust",
                    "headlamp",
                    "left-mirror",
                    "badges",
                    "grille",
                    "fork",
                ]
                :
                [
                    "left-front-wheel-face",
                    "right-rear-wheel-barrel",
                    "left-front-behind-caliper",
                    "right-rear-spoke-backs",
                    "left-rear-tyre",
                    "right-front-arch",
                    "windscreen",
                    "left-front-glass",
                    "left-headlamp",
                    "right-tail-lamp",
                    "left-sill",
                    "door-shuts",
                    "boot-shuts",
                    "window-seals",
                    "grille",
                    "badges",
                    "filler-recess",
                    "exhaust-tips",
                    "cowl",
                    "gutters",
                    "left-mirror",
                    "underbody",
                ];
        foreach (var part in parts)
        {
            v.Has(part).ShouldBeTrue(part);
        }

        v.Zones.ShouldAllBe(z =>
            z.Area > 0 && z.Tilt >= 0 && z.Tilt <= 90 && z.Faces >= 0 && z.Faces < 360 && z.Bottom >= -0.01 && z.Top > z.Bottom
        );
        v.Zones.ShouldAllBe(z =>
            z.Kind.Id == "disc" || z.DrainsTo.Count + z.Neighbours.Count > 0 || v.Zones.Any(o => o.DrainsTo.Contains(z.Id))
        );
        v.Zones.SelectMany(z => z.Shapes)
            .ShouldAllBe(s => s.Holes.All(h => Math.Abs(Shape.SignedArea(h)) < Math.Abs(Shape.SignedArea(s.Outline))));
    }

    [Fact]
    public void Forms_differ_where_people_look()
    {
        Forms.Build("coupe", Forms.DefaultSize("coupe")).Has("left-rear-door").ShouldBeFalse();
        Forms.Build("city-hatch", Forms.DefaultSize("city-hatch")).Has("left-rear-glass").ShouldBeTrue();
        Forms.Build("estate", Forms.DefaultSize("estate")).Has("left-quarter-glass").ShouldBeTrue();
        Forms.Build("minibus", Forms.DefaultSize("minibus")).Has("left-side-glass").ShouldBeTrue();
        var vans = Forms.Presets.Where(p => p.Form == "panel-van").Select(p => Forms.Build(p.Form, p.Size)).ToArray();
        vans[0].Has("left-upper-side").ShouldBeFalse();
        vans[1].Has("left-upper-side").ShouldBeTrue();
        vans[1]["roof"].Top.ShouldBeGreaterThan(2.4);
        Forms.Ids.Select(f => Forms.Build(f, Forms.DefaultSize(f)).Zones.Sum(z => z.Area)).Distinct().Count().ShouldBe(Forms.Ids.Count);
    }

    [Fact]
    public void No_gap_along_the_flank_is_wider_than_a_panel_gap()
    {
        foreach (var form in OnFourWheels)
        {
            var v = Forms.Build(form, Forms.DefaultSize(form));
            var shapes = v.Zones.SelectMany(z => z.Shapes).Where(s => s.Outline.Min(p => p.Y) > 0.3).ToArray();
            var flank = v["left-front-door"].Shapes[0].Outline;
            var (top, bottom) = (flank.Min(p => p.Y), flank.Max(p => p.Y));
            var (x0, x1) = (v["left-front-wing"].Shapes[0].Outline.Min(p => p.X) + 0.02, shapes.Max(s => s.Outline.Max(p => p.X)) - 0.1);
            bool On(double x, double y) => shapes.Any(s => Contains(s, new Pt(x, y)));
            for (var y = top + 0.12; y < bottom; y += 0.03)
            {
                var row = Enumerable
                    .Range(0, (int)((x1 - x0) / 0.02))
                    .Select(i => x0 + i * 0.02)
                    .SkipWhile(x => !On(x, y))
                    .Reverse()
                    .SkipWhile(x => !On(x, y))
                    .Where(x => !On(x, y));
                foreach (var x in row)
                {
                    (On(x - 0.06, y) || On(x + 0.06, y) || On(x, y - 0.06) || On(x, y + 0.06)).ShouldBeTrue(
                        $"{form}: nothing within 6 cm of ({x:0.00}, {y:0.00})"
                    );
                }
            }
        }
    }

    [Theory, MemberData(nameof(All))]
    public void Left_and_right_are_the_same_size(string form)
    {
        var v = Forms.Build(form, Forms.DefaultSize(form));
        foreach (var left in v.Zones.Where(z => z.Id.StartsWith("left-", StringComparison.Ordinal)))
        {
            var right = v["right-" + left.Id[5..]];
            var filler = left.Id is "left-rear-quarter" or "left-side-panel" ? v["filler-recess"].Area : 0;
            (left.Area + filler).ShouldBe(right.Area, 1e-9, left.Id);
        }
    }

    [Fact]
    public void Painted_outer_area_of_a_mid_size_saloon_is_8_to_10_square_metres()
    {
        // Common practice: what film and paint suppliers reckon for a mid-size saloon.
        var v = Forms.Build("saloon", Forms.DefaultSize("saloon"));
        var painted = v.Zones.Where(z => z.Kind.Id is "panel" or "bumper" or "sill" or "mirror").Sum(z => z.Area);
        painted.ShouldBeInRange(8, 10);
    }

    /// <summary>Points on a grid that a shape holds make up its area, as squares counted on paper do.</summary>
    [Fact]
    public void A_shape_holds_as_many_points_as_its_area_has()
    {
        var frame = new Shape(
            [new(0, 0), new(4, 0), new(4, 3), new(0, 3)],
            [
                [new(1, 1), new(2, 1), new(2, 2), new(1, 2)],
            ]
        );
        frame.Holds(new Pt(0.5, 0.5)).ShouldBeTrue();
        frame.Holds(new Pt(1.5, 1.5)).ShouldBeFalse("it lies in the hole");
        frame.Holds(new Pt(4.5, 1.5)).ShouldBeFalse();
        const double step = 0.02;
        foreach (
            var shape in Forms
                .Ids.SelectMany(f => Forms.Build(f, Forms.DefaultSize(f)).Zones)
                .SelectMany(z => z.Shapes)
                .Where(s => s.Area > 0.2)
                .Take(60)
        )
        {
            var (x0, x1) = (shape.Outline.Min(p => p.X), shape.Outline.Max(p => p.X));
            var (y0, y1) = (shape.Outline.Min(p => p.Y), shape.Outline.Max(p => p.Y));
            var held = 0;
            for (var x = x0 + step / 2; x < x1; x += step)
            {
                for (var y = y0 + step / 2; y < y1; y += step)
                {
                    held += shape.Holds(new Pt(x, y)) ? 1 : 0;
                }
            }

            (held * step * step).ShouldBe(shape.Area.Value, 0.05 * shape.Area.Value);
        }
    }

    [Fact]
    public void Areas_agree_with_polygons_reckoned_by_hand()
    {
        // A 4 x 3 rectangle with a 1 x 2 hole; a 3-4-5 triangle; a disc of 48 sides.
        var plate = new Shape(
            [new(0, 0), new(4, 0), new(4, 3), new(0, 3)],
            [
                [new(1, 1), new(2, 1), new(2, 3), new(1, 3)],
            ]
        );
        plate.Area.Value.ShouldBe(10, 1e-12);
        new Shape([new(0, 0), new(3, 0), new(0, 4)]).Area.Value.ShouldBe(6, 1e-12);
        new Shape(Draw.Disc(new Pt(5, -2), 2)).Area.Value.ShouldBe(48 * 4 * Math.Sin(2 * Math.PI / 48) / 2, 1e-9);
        plate.Centroid.ShouldBe(new Pt(2, 1.5));

        // The pickup's load bed floor is drawn 1.39 x 1.44 m with corners rounded by hand's breadths: within 1 % of the rectangle.
        Forms.Build("pickup", Forms.DefaultSize("pickup"))["load-bed"].Area.Value.ShouldBe(1.39 * 1.44, 0.02);

        // A tyre seen from the side: the ring between 0.39 and 0.245 m.
        Forms
            .Build("pickup", Forms.DefaultSize("pickup"))["left-front-tyre"]
            .Area.Value.ShouldBe(Math.PI * (0.39 * 0.39 - 0.245 * 0.245), 0.003);
    }

    [Theory, MemberData(nameof(All))]
    public void Areas_grow_with_the_square_of_size(string form) =>
        Gen.Double[0.6, 1.6]
            .Sample(
                k =>
                {
                    var d = Forms.DefaultSize(form);
                    // A taller van takes the high roof's drawing: scale the width and length of that one instead.
                    d = form == "panel-van" ? new Vehicles.Size(d.Length, d.Width, 1.35) : d;
                    var one = Forms.Build(form, d);
                    var other = Forms.Build(form, new Vehicles.Size(d.Length * k, d.Width * k, d.Height * k));
                    return one.Zones.All(z => Math.Abs(other[z.Id].Area / z.Area - k * k) < 1e-9);
                },
                iter: 20
            );

    [Theory, MemberData(nameof(All))]
    public void No_two_zones_overlap(string form)
    {
        var v = Forms.Build(form, Forms.DefaultSize(form));
        var clashes = new List<string>();
        foreach (var a in v.Zones)
        {
            foreach (var b in v.Zones.Where(b => string.CompareOrdinal(a.Id, b.Id) < 0))
            {
                // Probe points of b that lie well inside a.
                var inside = b.Shapes.SelectMany(Probes).Count(p => a.Shapes.Any(s => Contains(s, p)));
                if (inside > 0)
                {
                    clashes.Add($"{a.Id} under {b.Id} ({inside})");
                }
            }
        }

        clashes.ShouldBeEmpty();
    }

    [Theory, MemberData(nameof(All))]
    public void Run_off_goes_down(string form)
    {
        var v = Forms.Build(form, Forms.DefaultSize(form));
        foreach (var z in v.Zones)
        {
            foreach (var to in z.DrainsTo.Select(id => v[id]))
            {
                to.Bottom.ShouldBeLessThan(z.Top + 1e-9, $"{z.Id} cannot run up to {to.Id}");
            }
        }
    }

    [Theory, MemberData(nameof(All))]
    public void Every_zone_has_a_point_of_its_own(string form)
    {
        var v = Forms.Build(form, Forms.DefaultSize(form));
        foreach (var z in v.Zones)
        {
            var s = z.Shapes.MaxBy(x => x.Area)!;
            s.Holes.Any(h => In(h, s.Anchor)).ShouldBeFalse($"{z.Id}: its point lies in a hole");
        }

        v.Zones.Select(z => z.Shapes.MaxBy(x => x.Area)!.Anchor).Distinct().Count().ShouldBe(v.Zones.Count);
    }

    [Fact]
    public void Sizes_are_free_within_limits() =>
        Gen.Select(Gen.Double[0, 1], Gen.Double[0, 1], Gen.Double[0, 1])
            .Sample(
                (l, w, h) =>
                    Forms.Ids.All(f =>
                    {
                        var (least, most) = Forms.Limits(f);
                        var size = new Vehicles.Size(
                            least.Length + l * (most.Length - least.Length),
                            least.Width + w * (most.Width - least.Width),
                            least.Height + h * (most.Height - least.Height)
                        );
                        var v = Forms.Build(f, size);
                        return v.Zones.All(z => z.Area > 0 && double.IsFinite(z.Area) && z.Top > z.Bottom)
                            && v.Zones.Where(z => z.Id.StartsWith("left-", StringComparison.Ordinal))
                                .All(z =>
                                    Math.Abs(
                                        z.Area
                                            + (z.Id is "left-rear-quarter" or "left-side-panel" ? v["filler-recess"].Area : 0)
                                            - v["right-" + z.Id[5..]].Area
                                    ) < 1e-9
                                );
                    }),
                iter: 50
            );

    private static IEnumerable<Pt> Probes(Shape s)
    {
        var (x0, x1) = (s.Outline.Min(p => p.X), s.Outline.Max(p => p.X));
        var (y0, y1) = (s.Outline.Min(p => p.Y), s.Outline.Max(p => p.Y));
        for (var i = 1; i < 12; i++)
        {
            for (var j = 1; j < 12; j++)
            {
                var p = new Pt(x0 + (x1 - x0) * i / 12, y0 + (y1 - y0) * j / 12);
                if (Contains(s, p))
                {
                    yield return p;
                }
            }
        }
    }

    private static bool Contains(Shape s, Pt p) => In(s.Outline, p) && !s.Holes.Any(h => In(h, p));

    private static bool In(IReadOnlyList<Pt> ring, Pt p)
    {
        var inside = false;
        for (int i = 0, j = ring.Count - 1; i < ring.Count; j = i++)
        {
            if (
                ring[i].Y > p.Y != ring[j].Y > p.Y
                && p.X < (ring[j].X - ring[i].X) * (p.Y - ring[i].Y) / (ring[j].Y - ring[i].Y) + ring[i].X
            )
            {
                inside = !inside;
            }
        }

        return inside;
    }
}
