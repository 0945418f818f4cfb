namespace ToughStart.Core.Vehicles;

/// <summary>Outer size in metres: length, width without mirrors, height.</summary>
public readonly record struct Size(double Length, double Width, double Height)
{
    public static Size FromMillimetres(double length, double width, double height) => new(length / 1000, width / 1000, height / 1000);
}

/// <summary>Where on the vehicle a zone sits; wheels work in their own block with their own kit.</summary>
public enum Block
{
    Wheels,
    Body,
}

/// <summary>A part of the vehicle that is surveyed, treated and judged on its own.</summary>
/// <param name="Tilt">Degrees from horizontal: 0 roof, 90 door.</param>
/// <param name="Faces">Bearing of the outward normal relative to the nose, degrees clockwise seen from above; 0 for level zones.</param>
/// <param name="Top">Height of its highest edge above the ground, metres.</param>
/// <param name="Bottom">Height of its lowest edge above the ground, metres.</param>
/// <param name="DrainsTo">Zones that its run-off reaches.</param>
/// <param name="Neighbours">Zones that spray aimed at it also hits.</param>
public sealed record Zone(
    string Id, ZoneKind Kind, IReadOnlyList<Shape> Shapes, double Tilt, double Faces, double Top, double Bottom,
    IReadOnlyList<string> DrainsTo, IReadOnlyList<string> Neighbours)
{
    /// <summary>Area in m²: the sum of its drawn shapes.</summary>
    public double Area { get; } = Shapes.Sum(s => s.Area);

    public Block Block => Kind.Id is "wheel-face" or "wheel-barrel" or "tyre" or "arch" ? Block.Wheels : Block.Body;

    /// <summary>"left-front" for the four corners of the running gear, else null.</summary>
    public string? Corner => Block == Block.Wheels ? string.Join('-', Id.Split('-')[..2]) : null;
}

/// <summary>A line of the drawing that belongs to no zone: a handle, a spoke, a grille bar.</summary>
public sealed record DecorLine(string Style, IReadOnlyList<Pt> Points, bool Closed);

/// <summary>A vehicle of one form and size, unfolded flat.</summary>
public sealed record Vehicle(string Form, Size Size, IReadOnlyList<Zone> Zones, IReadOnlyList<DecorLine> Decor, Pt Min, Pt Max)
{
    private readonly Dictionary<string, Zone> _byId = Zones.ToDictionary(z => z.Id);

    public Zone this[string id] => _byId[id];

    public bool Has(string id) => _byId.ContainsKey(id);
}

/// <summary>The body forms this version can draw and plan.</summary>
public static class Forms
{
    /// <summary>Least and greatest outer sizes that make sense, millimetres.</summary>
    public static readonly (double Low, double High) LengthMm = (2500, 9000), WidthMm = (1200, 2800), HeightMm = (1000, 3500);

    public static IReadOnlyList<string> Ids { get; } = ["saloon", "pickup"];

    /// <summary>The size a form has unless the survey says otherwise.</summary>
    public static Size DefaultSize(string form) => form switch
    {
        "saloon" => new Size(4.65, 1.82, 1.45),
        "pickup" => new Size(5.33, 1.86, 1.80),
        _ => throw Unknown(form),
    };

    /// <summary>Builds the net of a form at a size.</summary>
    /// <exception cref="ArgumentException">The form is not one of <see cref="Ids"/>.</exception>
    public static Vehicle Build(string form, Size size) => form switch
    {
        "saloon" => SaloonForm.Build(size),
        "pickup" => PickupForm.Build(size),
        _ => throw Unknown(form),
    };

    private static ArgumentException Unknown(string form) => new($"form '{form}' is not one of {string.Join(", ", Ids)}", nameof(form));
}
