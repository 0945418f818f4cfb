namespace ToughStart.Core.Vehicles;

/// <summary>A point of the unfolded net, in metres: x from nose to tail, y down the sheet.</summary>
public readonly record struct Pt(double X, double Y)
{
    public static Pt operator +(Pt a, Pt b) => new(a.X + b.X, a.Y + b.Y);

    public static Pt operator -(Pt a, Pt b) => new(a.X - b.X, a.Y - b.Y);

    public static Pt operator *(Pt a, double k) => new(a.X * k, a.Y * k);

    public double Length => Math.Sqrt(X * X + Y * Y);
}

/// <summary>A closed outline with holes, in metres. Its area is what the search works on and its points are what is drawn.</summary>
public sealed record Shape(IReadOnlyList<Pt> Outline, IReadOnlyList<IReadOnlyList<Pt>> Holes)
{
    public Shape(IReadOnlyList<Pt> outline)
        : this(outline, []) { }

    /// <summary>Area in m²: outline less holes (shoelace).</summary>
    public SquareMetres Area => Math.Abs(SignedArea(Outline)) - Holes.Sum(h => Math.Abs(SignedArea(h)));

    /// <summary>Shoelace sum of a ring, in m²; positive when it runs clockwise on a sheet whose y points down.</summary>
    public static double SignedArea(IReadOnlyList<Pt> ring)
    {
        double sum = 0;
        for (var i = 0; i < ring.Count; i++)
        {
            var a = ring[i];
            var b = ring[(i + 1) % ring.Count];
            sum += a.X * b.Y - b.X * a.Y;
        }

        return sum / 2;
    }

    /// <summary>Centre of gravity of the outline.</summary>
    public Pt Centroid
    {
        get
        {
            double cx = 0,
                cy = 0,
                twice = 0;
            for (var i = 0; i < Outline.Count; i++)
            {
                var a = Outline[i];
                var b = Outline[(i + 1) % Outline.Count];
                var cross = a.X * b.Y - b.X * a.Y;
                twice += cross;
                cx += (a.X + b.X) * cross;
                cy += (a.Y + b.Y) * cross;
            }

            return new Pt(cx / (3 * twice), cy / (3 * twice));
        }
    }

    /// <summary>A point that lies on the shape itself: its centre of gravity, or the top of the ring when that falls into a hole.</summary>
    public Pt Anchor
    {
        get
        {
            var c = Centroid;
            var hole = Holes.FirstOrDefault(h =>
                h.Min(p => p.X) < c.X && h.Max(p => p.X) > c.X && h.Min(p => p.Y) < c.Y && h.Max(p => p.Y) > c.Y
            );
            return hole is null ? c : new Pt(c.X, (Outline.Min(p => p.Y) + hole.Min(p => p.Y)) / 2);
        }
    }

    /// <summary>Does a point lie on the shape, and not in a hole of it?</summary>
    public bool Holds(Pt p) => Holes.Prepend(Outline).Count(ring => Around(ring, p)) % 2 == 1;

    private static bool Around(IReadOnlyList<Pt> ring, Pt p)
    {
        var inside = false;
        for (var (i, j) = (0, ring.Count - 1); i < ring.Count; j = i++)
        {
            var (a, b) = (ring[i], ring[j]);
            inside ^= a.Y > p.Y != b.Y > p.Y && p.X < ((b.X - a.X) * (p.Y - a.Y) / (b.Y - a.Y)) + a.X;
        }

        return inside;
    }

    public Shape Map(Func<Pt, Pt> f) =>
        new(Outline.Select(f).ToArray(), Holes.Select(h => (IReadOnlyList<Pt>)h.Select(f).ToArray()).ToArray());
}

/// <summary>Outlines of technical drawing: corners with radii, discs, bands.</summary>
public static class Draw
{
    private const int ArcSteps = 5;

    /// <summary>A polygon whose corners are rounded by the given radius (third number, metres; 0 = sharp).</summary>
    public static Pt[] Poly(params (double X, double Y, double R)[] corners)
    {
        var result = new List<Pt>();
        for (var i = 0; i < corners.Length; i++)
        {
            var (x, y, r) = corners[i];
            var here = new Pt(x, y);
            if (r <= 0)
            {
                result.Add(here);
                continue;
            }

            var before = corners[(i + corners.Length - 1) % corners.Length];
            var after = corners[(i + 1) % corners.Length];
            var a = Toward(here, new Pt(before.X, before.Y), r);
            var b = Toward(here, new Pt(after.X, after.Y), r);
            for (var k = 0; k <= ArcSteps; k++)
            {
                var t = k / (double)ArcSteps;
                result.Add(a * ((1 - t) * (1 - t)) + here * (2 * t * (1 - t)) + b * (t * t));
            }
        }

        return [.. result];
    }

    /// <summary>Points along a circle from one angle to another (degrees, 0 = +x, growing toward +y).</summary>
    public static Pt[] Arc(Pt centre, double radius, double fromDegrees, double toDegrees, int steps = 24) =>
        Enumerable
            .Range(0, steps + 1)
            .Select(i =>
            {
                var a = (fromDegrees + (toDegrees - fromDegrees) * i / steps) * Math.PI / 180;
                return new Pt(centre.X + radius * Math.Cos(a), centre.Y + radius * Math.Sin(a));
            })
            .ToArray();

    public static Pt[] Disc(Pt centre, double radius, int steps = 48) => Arc(centre, radius, 0, 360, steps)[..steps];

    /// <summary>A convex outline moved inward by a distance: every edge shifted, neighbours met again.</summary>
    public static Pt[] Inset(IReadOnlyList<Pt> ring, double by)
    {
        var clean = ring.Where((p, i) => (p - ring[(i + ring.Count - 1) % ring.Count]).Length > 1e-6).ToArray();
        var sign = Shape.SignedArea(clean) > 0 ? 1 : -1;
        var result = new List<Pt>();
        for (var i = 0; i < clean.Length; i++)
        {
            var a = clean[(i + clean.Length - 1) % clean.Length];
            var b = clean[i];
            var c = clean[(i + 1) % clean.Length];
            var n1 = Normal(a, b, sign);
            var n2 = Normal(b, c, sign);
            var mid = n1 + n2;
            var k = by * 2 / Math.Max(0.5, mid.X * mid.X + mid.Y * mid.Y);
            result.Add(b + mid * k);
        }

        return [.. result];
    }

    private static Pt Normal(Pt a, Pt b, int sign)
    {
        var d = b - a;
        var length = d.Length;
        return new Pt(-d.Y / length * sign, d.X / length * sign);
    }

    private static Pt Toward(Pt from, Pt to, double distance)
    {
        var d = to - from;
        var length = d.Length;
        return from + d * (Math.Min(distance, length / 2) / length);
    }
}
