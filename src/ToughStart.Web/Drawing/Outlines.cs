using System.Globalization;
using System.Runtime.CompilerServices;
using System.Text;
using ToughStart.Core.Vehicles;

namespace ToughStart.Web.Drawing;

/// <summary>
/// The outlines of a vehicle's zones and what is drawn on them, each under its name. All nets of vehicles of that form and size draw from
/// the same file; the browser keeps it.
/// </summary>
internal static class Outlines
{
    /// <summary>Every zone.</summary>
    public const string Net = "net";

    /// <summary>Lamps, handles, wipers and creases.</summary>
    public const string Decor = "decor";

    /// <summary>The same for small pictures, where the finest lines would only be grey.</summary>
    public const string Plain = "plain";

    private const string Finest = "fine";

    /// <summary>Pens that are not black on nothing.</summary>
    private static readonly Dictionary<string, string> Pens = new()
    {
        [Finest] = "stroke-width=\".008\" stroke-opacity=\".5\"",
        ["crease"] = "stroke-width=\".012\" stroke-opacity=\".45\"",
        ["spoke"] = "fill=\"#1b2320\" fill-opacity=\".1\" stroke-width=\".013\"",
        ["nut"] = "fill=\"#1b2320\" stroke=\"none\"",
        ["bar"] = "stroke-width=\".03\" stroke-opacity=\".7\"",
        ["lens"] = "stroke-width=\".012\" stroke-opacity=\".75\" fill=\"#fff\" fill-opacity=\".25\"",
        ["handle"] = "stroke-width=\".011\" fill=\"#1b2320\" fill-opacity=\".25\"",
        ["wiper"] = "stroke-width=\".022\"",
        ["letters"] = "stroke-width=\".09\" stroke-opacity=\".35\" stroke-dasharray=\".09 .05\" stroke-linecap=\"butt\"",
    };

    private static readonly ConditionalWeakTable<Vehicle, Keep> Kept = [];

    private sealed record Keep(string Address, byte[] Bytes);

    /// <summary>Where the outlines of a vehicle are kept.</summary>
    public static string Address(Vehicle v) => Of(v).Address;

    /// <summary>The file at that address.</summary>
    public static byte[] File(Vehicle v) => Of(v).Bytes;

    private static Keep Of(Vehicle v) => Kept.GetValue(v, vehicle =>
        {
            var bytes = Encoding.UTF8.GetBytes($"<svg xmlns=\"http://www.w3.org/2000/svg\">{Drawn(vehicle)}</svg>");
            return new($"/drawn/{vehicle.Form}/{Words(vehicle.Size)}.svg?v={Drawing.Drawn.Mark(bytes)}", bytes);
        });

    private static readonly Lazy<Keep> AllSides = new(() =>
    {
        var sides = Forms.Presets.Select(p =>
            $"<g id=\"{SideName(p.Form, p.Size)}\">{NetDrawing.SideDrawn(Forms.Build(p.Form, p.Size))}</g>"
        );
        var bytes = Encoding.UTF8.GetBytes($"<svg xmlns=\"http://www.w3.org/2000/svg\">{string.Concat(sides)}</svg>");
        return new($"/drawn/sides.svg?v={Drawing.Drawn.Mark(bytes)}", bytes);
    });

    /// <summary>The left sides of the forms one can choose from, small.</summary>
    public static byte[] Sides => AllSides.Value.Bytes;

    /// <summary>One of them, by its address.</summary>
    public static string Side(Vehicle v) => $"{AllSides.Value.Address}#{SideName(v.Form, v.Size)}";

    private static string SideName(string form, Size size) => $"{form}-{Words(size)}";

    /// <summary>Length, width and height, millimetres: <c>5330x1860x1800</c>.</summary>
    private static string Words(Size s) =>
        string.Create(CultureInfo.InvariantCulture, $"{s.Length * 1000:0.###}x{s.Width * 1000:0.###}x{s.Height * 1000:0.###}");

    /// <summary>The vehicle that an address names; null when there is none.</summary>
    public static Vehicle? Named(string form, string size)
    {
        if (!Forms.Ids.Contains(form))
        {
            return null;
        }

        double[] mm =
        [
            .. size.Split('x')
                .Select(x => double.TryParse(x, NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var v) ? v : -1),
        ];
        var (least, most) = Forms.Limits(form);
        return
            mm is [var length, var width, var height]
            && Within(length, least.Length, most.Length)
            && Within(width, least.Width, most.Width)
            && Within(height, least.Height, most.Height)
            ? Forms.Build(form, Size.FromMillimetres(length, width, height))
            : null;
    }

    private static bool Within(double mm, double least, double most) => mm >= least * 1000 && mm <= most * 1000;

    /// <summary>Outlines and lines, as they stand in the file or in a drawing that leaves the house.</summary>
    public static string Drawn(Vehicle vehicle)
    {
        var v = NetDrawing.Enlarged(vehicle);
        var s = new Ink();
        s.Add($"<g id=\"{Net}\">");
        foreach (var z in v.Zones)
        {
            s.Add($"<path id=\"{z.Id}\" d=\"{NetDrawing.PathOf(z)}\" fill-rule=\"evenodd\"/>");
        }

        s.Add("</g>");
        Lines(s, Decor, v.Decor);
        Lines(s, Plain, v.Decor.Where(d => d.Style != Finest));
        return s.ToString();
    }

    private static void Lines(Ink s, string id, IEnumerable<DecorLine> lines)
    {
        s.Add($"<g id=\"{id}\">");
        var style = "";
        foreach (var line in lines)
        {
            // Lines of one kind that follow each other are one path.
            s.Add(line.Style == style ? "" : $"{(style == "" ? "" : "\"/>")}<path {Pens[line.Style]} d=\"").Add(Ink.Path(line));
            style = line.Style;
        }

        s.Add(style == "" ? "</g>" : "\"/></g>");
    }
}
