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
    string Id,
    ZoneKind Kind,
    IReadOnlyList<Shape> Shapes,
    double Tilt,
    double Faces,
    double Top,
    double Bottom,
    IReadOnlyList<string> DrainsTo,
    IReadOnlyList<string> Neighbours
)
{
    /// <summary>Area in m²: the sum of its drawn shapes.</summary>
    public SquareMetres Area { get; } = Shapes.Sum(s => s.Area);

    public Block Block => Kind.Goes == Goes.Wheel || Kind.Id is "tyre" or "arch" or "underbody" ? Block.Wheels : Block.Body;

    /// <summary>The corner whose wheel it is a part of; null = it is no part of a wheel.</summary>
    public string? Wheel => Kind.Goes == Goes.Wheel ? Corner : null;

    /// <summary>"left-front" for the four corners of the running gear ("front" on two wheels), else null.</summary>
    public string? Corner =>
        Block != Block.Wheels ? null
        : Id.StartsWith("left-", StringComparison.Ordinal) || Id.StartsWith("right-", StringComparison.Ordinal)
            ? string.Join('-', Id.Split('-')[..2])
        : Id.Split('-')[0];
}

/// <summary>A line of the drawing that belongs to no zone: a handle, a spoke, a grille bar.</summary>
public sealed record DecorLine(string Style, IReadOnlyList<Pt> Points, bool Closed);

/// <summary>A vehicle of one form and size, unfolded flat.</summary>
public sealed record Vehicle(string Form, Size Size, IReadOnlyList<Zone> Zones, IReadOnlyList<DecorLine> Decor, Pt Min, Pt Max)
{
    private readonly Dictionary<string, Zone> _byId = Zones.ToDictionary(z => z.Id);

    public Zone this[string id] => _byId[id];

    public bool Has(string id) => _byId.ContainsKey(id);

    /// <summary>Does it run on two wheels, and stand on a stand?</summary>
    public bool IsMotorcycle => Form == Forms.TwoWheels;
}

/// <summary>What sizes make sense for a form, metres.</summary>
public readonly record struct SizeLimits(Size Least, Size Most);

/// <summary>The body forms that can be drawn and planned.</summary>
public static class Forms
{
    private static readonly SizeLimits OnFourWheels = new(new(2.4, 1.2, 1.0), new(9, 2.8, 3.5)),
        OnTwoWheels = new(new(1.4, 0.4, 0.7), new(3, 1.3, 1.8));

    internal const string TwoWheels = "motorcycle";

    public static IReadOnlyList<string> Ids { get; } =
    ["city-hatch", "hatchback", "saloon", "estate", "coupe", "suv", "pickup", "panel-van", "minibus", TwoWheels];

    /// <summary>The size a form has unless the survey says otherwise. A panel van of 2.25 m or more is drawn with the high roof.</summary>
    public static Size DefaultSize(string form) =>
        form switch
        {
            "saloon" => new Size(4.65, 1.82, 1.45),
            "pickup" => new Size(5.33, 1.86, 1.80),
            "panel-van" => VanForm.Low,
            "minibus" => VanForm.Bus,
            TwoWheels => MotorcycleForm.At,
            _ => CarForm.Shapes.TryGetValue(form, out var shape) ? shape.Size : throw Unknown(form),
        };

    /// <summary>Named sizes to start from: each form's own, and the van's high roof.</summary>
    public static IReadOnlyList<(string Form, string Name, Size Size)> Presets { get; } =
    [
        ("city-hatch", "City hatch", DefaultSize("city-hatch")),
        ("hatchback", "Hatchback", DefaultSize("hatchback")),
        ("saloon", "Saloon", DefaultSize("saloon")),
        ("estate", "Estate", DefaultSize("estate")),
        ("coupe", "Coupé", DefaultSize("coupe")),
        ("suv", "SUV", DefaultSize("suv")),
        ("pickup", "Double-cab pickup", DefaultSize("pickup")),
        ("panel-van", "Panel van, low roof", VanForm.Low),
        ("panel-van", "Panel van, high roof", VanForm.High),
        ("minibus", "Minibus", VanForm.Bus),
        (TwoWheels, "Motorcycle", MotorcycleForm.At),
    ];

    /// <summary>Least and greatest outer sizes of a form.</summary>
    public static SizeLimits Limits(string form) => form == TwoWheels ? OnTwoWheels : OnFourWheels;

    /// <summary>Bounds over every form; a form's own are tighter.</summary>
    public static Size LeastOfAll => OnTwoWheels.Least;

    public static Size MostOfAll => OnFourWheels.Most;

    /// <summary>Builds the net of a form at a size.</summary>
    /// <exception cref="ArgumentException">The form is not one of <see cref="Ids"/>.</exception>
    /// <remarks>Pure, and asked for the same few vehicles again and again: the last ones built are kept.</remarks>
    public static Vehicle Build(string form, Size size)
    {
        if (Built.Count > MostKept)
        {
            Built.Clear();
        }

        return Built.GetOrAdd((form, size), key => Make(key.Form, key.Size));
    }

    private const int MostKept = 64;

    private static readonly System.Collections.Concurrent.ConcurrentDictionary<(string Form, Size Size), Vehicle> Built = new();

    private static Vehicle Make(string form, Size size) =>
        form switch
        {
            "saloon" => SaloonForm.Build(size),
            "pickup" => PickupForm.Build(size),
            "panel-van" => VanForm.Panel(size),
            "minibus" => VanForm.Minibus(size),
            TwoWheels => MotorcycleForm.Build(size),
            _ => CarForm.Shapes.TryGetValue(form, out var shape) ? CarForm.Build(shape, size) : throw Unknown(form),
        };

    private static ArgumentException Unknown(string form) => new($"form '{form}' is not one of {string.Join(", ", Ids)}", nameof(form));
}
