using ToughStart.Core.Chemistry;
using ToughStart.Core.Costing;
using ToughStart.Core.Provenance;
using ToughStart.Data;

namespace ToughStart.Web.Drawing;

/// <summary>Drawings of the shelf and the kit: tubes of stock, pictograms of our own, nozzles to scale.</summary>
internal static class ShelfDrawing
{
    /// <summary>Stock as a lying tube: what is there, what plans have put by, and the line below which to order. One scale: the larger of a pack and the stock.</summary>
    public static string Tube(decimal stock, decimal reserved, decimal least, decimal pack, string colour)
    {
        const double w = 220,
            h = 26;
        var full = (double)Math.Max(Math.Max(pack, stock), Math.Max(least, Math.Max(reserved, 1)));
        double X(decimal ml) => 4 + (w - 14) * Math.Clamp((double)ml / full, 0, 1);
        var s = new Ink();
        s.Add(
            $"<svg class=\"tube\" viewBox=\"0 0 {w} {h}\" role=\"img\" aria-label=\"{stock:0} ml on the shelf, {reserved:0} ml put by, order below {least:0} ml\">"
        );
        s.Add($"<path class=\"tube-glass\" d=\"M4 4H{w - 14}q4 0 4 4v0h6v10h-6q0 4 -4 4H4q-2 0 -2 -2V6q0 -2 2 -2Z\"/>");
        s.Add($"<rect x=\"4\" y=\"5\" width=\"{Ink.N(Math.Max(0, X(stock) - 4))}\" height=\"16\" fill=\"{colour}\"/>");
        if (reserved > 0)
        {
            var from = X(Math.Max(0, stock - reserved));
            s.Add(
                $"<rect x=\"{Ink.N(from)}\" y=\"5\" width=\"{Ink.N(Math.Max(1.5, X(stock) - from))}\" height=\"16\" class=\"tube-reserved\" fill=\"url(#reserved)\"/>"
            );
        }

        if (least > 0)
        {
            s.Add($"<path class=\"tube-least\" d=\"M{Ink.N(X(least))} 1v24\"/>");
        }

        return s.Add("</svg>").ToString();
    }

    /// <summary>The hatch that tubes use; once a page.</summary>
    public const string TubeDefs =
        "<svg class=\"defs\" aria-hidden=\"true\"><defs><pattern id=\"reserved\" width=\"6\" height=\"6\" patternUnits=\"userSpaceOnUse\" patternTransform=\"rotate(45)\"><rect width=\"6\" height=\"6\" fill=\"#f7f8f3\" fill-opacity=\".35\"/><rect width=\"2.4\" height=\"6\" fill=\"#1b2320\"/></pattern></defs></svg>";

    private static readonly Dictionary<string, string> Signs = new()
    {
        ["flame"] = "<path d=\"M16 6c1 5 6 7 6 13a6.5 6.5 0 0 1-13 0c0-3 2-4 2-7 2 1 3 2 3 4 2-2 3-5 2-10Z\"/>",
        ["corrosion"] = "<path d=\"M13 6h6l-1 4h-4Zm3 6c2 3 3 4 3 6a3 3 0 0 1-6 0c0-2 1-3 3-6ZM6 23h7q3 3 6 0h7v3H6Z\"/>",
        ["exclamation"] = "<path d=\"M14 6h4l-1 13h-2Zm0 16h4v4h-4Z\"/>",
        ["skull"] =
            "<path fill-rule=\"evenodd\" d=\"M16 6c6 0 9 4 9 9 0 3-1 5-3 6v5H10v-5c-2-1-3-3-3-6 0-5 3-9 9-9Zm-4 8a2.2 2.2 0 1 0 .1 0Zm8 0a2.2 2.2 0 1 0 .1 0Zm-4 4-1.5 3h3Z\"/>",
        ["health"] =
            "<path fill-rule=\"evenodd\" d=\"M16 5a4 4 0 1 1-.1 0ZM7 27c0-9 2-13 9-13s9 4 9 13Zm9-10-1 3-3 1 3 1 1 3 1-3 3-1-3-1Z\"/>",
        ["environment"] = "<path d=\"M6 19c5-5 10-5 15 0l4-3v8l-4-3c-5 4-10 4-15-2Zm5-5c0-4 3-7 8-8 1 5-2 8-8 8ZM9 19a1 1 0 1 0 .1 0Z\"/>",
    };

    private static readonly Dictionary<string, string> SignNames = new()
    {
        ["flame"] = "flame: catches fire",
        ["corrosion"] = "corrosion: burns skin and eyes, eats metal",
        ["exclamation"] = "exclamation mark: harmful or irritating",
        ["skull"] = "skull and crossbones: poisonous",
        ["health"] = "health hazard",
        ["environment"] = "environment: harmful to water life",
    };

    /// <summary>
    /// The hazard pictogram people are trained on (UN GHS: black sign on white in a red square set on its point), its sign drawn by us. The
    /// colours belong to the sign and are the same on paper, by day and in the dark.
    /// </summary>
    public static string Pictogram(string name) =>
        Signs.TryGetValue(name, out var sign)
            ? $"<svg class=\"picto\" viewBox=\"0 0 44 44\" role=\"img\" aria-label=\"{SignNames[name]}\"><title>{SignNames[name]}</title>"
                + "<path class=\"picto-frame\" d=\"M22 2.5L41.5 22L22 41.5L2.5 22Z\"/>"
                + $"<g class=\"picto-sign\" transform=\"translate(6 5.6) scale(1)\">{sign}</g></svg>"
            : "";

    /// <summary>Signal word and pictograms of a list of hazard statements.</summary>
    public static string Pictograms(IEnumerable<string> hazards)
    {
        var label = HazardLabel.Of(hazards);
        return string.Concat(label.Pictograms.Select(Pictogram)) + (label.Signal is { } word ? $"<b class=\"signal\">{word}</b>" : "");
    }

    /// <summary>Hazard words of a list of statements.</summary>
    public static IReadOnlyList<string> HazardWords(IEnumerable<string> hazards) =>
        hazards
            .Select(h => Catalogue.Default.Statements.FirstOrDefault(s => s.Code == h))
            .OfType<HazardStatement>()
            .Select(s => $"{s.Words} ({s.Code})")
            .ToArray();

    /// <summary>A container of the kit, with what the log says it held last.</summary>
    public static Container Container(KitItem k, MixView? held = null) =>
        new(
            k.Id.ToString("N"),
            k.Name,
            k.Ml ?? 1000,
            Shape(k.Kind),
            k.Dedication switch
            {
                "wheel" => KeptFor.Wheels,
                "paint" => KeptFor.Paint,
                "glass" => KeptFor.Glass,
                "rinse" => KeptFor.Rinsing,
                "sacrificial" => KeptFor.ThrownAway,
                _ => KeptFor.Anything,
            },
            held is null ? null : new Contents(held.Agent, held.ProductId.ToString(), held.Product, held.State == "in-use")
        );

    /// <summary>What a kind of the kit is as a container.</summary>
    public static ContainerShape Shape(string kind) =>
        kind switch
        {
            "sprayer" => ContainerShape.Pump,
            "lance" => ContainerShape.Lance,
            "bucket" => ContainerShape.Bucket,
            _ => ContainerShape.Trigger,
        };

    /// <summary>Side view of a fan, to scale in cm, with the closest stand-off of everything along the way.</summary>
    public static string Fan(NozzleAnswer a, double angle)
    {
        const double left = 70,
            scale = 6.2,
            mid = 112,
            floor = 224,
            axis = 312,
            w = 760,
            h = 344;
        var s = new Ink();
        s.Add(
            $"<svg class=\"fan\" viewBox=\"0 0 {w} {h}\" role=\"img\" aria-label=\"Fan of {angle:0} degrees: {a.FanWidthCm:0} cm wide at {a.DistanceCm:0} cm\">"
        );
        var half = Math.Tan(angle / 2 * Math.PI / 180);
        s.Add($"<defs><clipPath id=\"fan-box\"><rect x=\"{left}\" y=\"0\" width=\"{w - left}\" height=\"{floor}\"/></clipPath></defs>");
        s.Add(
            $"<g clip-path=\"url(#fan-box)\"><path class=\"fan-water\" d=\"M{left} {mid}L{w} {Ink.N(mid - (w - left) * half)}V{Ink.N(mid + (w - left) * half)}Z\"/>"
        );
        // Jets thin out with distance: a few strands say so.
        for (var i = -3; i <= 3; i++)
        {
            s.Line(left, mid, w, mid + (w - left) * half * i / 3.5, "fan-strand");
        }

        var at = left + Math.Min(a.DistanceCm, 108) * scale;
        s.Line(at, mid - a.FanWidthCm / 2 * scale, at, mid + a.FanWidthCm / 2 * scale, "fan-at").Add("</g>");
        s.Add($"<path class=\"fan-lance\" d=\"M4 {mid - 5}H48l16 2v6l-16 2H4Z\"/>");
        s.Text(
            at > 560 ? at - 8 : at + 8,
            20,
            $"{a.DistanceCm:0} cm: {a.FanWidthCm:0} cm wide, {a.MeanKilopascal:0.0} kPa",
            "fan-flag",
            at > 560 ? "end" : "start"
        );
        s.Line(left, axis, left + 110 * scale, axis, "fan-tick");
        for (var cm = 0; cm <= 110; cm += 10)
        {
            s.Line(left + cm * scale, axis, left + cm * scale, axis + (cm % 50 == 0 ? 12 : 6), "fan-tick");
            if (cm % 20 == 0)
            {
                s.Text(left + cm * scale, axis + 28, $"{cm} cm", "fan-scale", "middle");
            }
        }

        var rows = new double[5];
        foreach (var stand in a.StandOff.Where(x => x.ClosestCm is <= 110).GroupBy(x => x.ClosestCm!.Value).OrderBy(g => g.Key))
        {
            var x = left + stand.Key * scale;
            var words = $"{stand.Key:0} {string.Join(", ", stand.Select(g => g.Name.Split(',')[0]))}";
            var (width, ends) = (words.Length * 6.1 + 12, x + words.Length * 6.1 > w);
            var row = Math.Max(0, Array.FindIndex(rows, end => end <= (ends ? x - width : x)));
            rows[row] = ends ? x + 6 : x + width;
            var y = axis - 8 - row * 16;
            s.Line(x, y - 10, x, axis, "fan-limit");
            s.Text(ends ? x - 4 : x + 4, y, words, "fan-name", ends ? "end" : "start");
        }

        return s.Add("</svg>").ToString();
    }

    private static readonly Dictionary<string, string> Tools = new()
    {
        ["washer"] = "M6 12h20v12H6Zm3 12v4m14-4v4M10 12V7h6m2 10h5",
        ["nozzle"] = "M4 13h10v6H4Zm10 1 12-6m-12 8h13m-13 2 12 6",
        ["lance"] = "M3 9h22l4-2v6l-4-2M10 11v4h-3v13h12V15h-3v-4",
        ["sprayer"] = "M9 12h12v16H9Zm6 0V7m-4 0h8m2 8h5l2 3",
        ["bottle"] = "M12 12h7l3 5v11H9V17Zm0 0V8h8l3 3m-9-3 1-4h8",
        ["bucket"] = "M6 12h20l-3 16H9Zm1 0c3-9 15-9 18 0",
        ["jug"] = "M8 7h13l4 3v18H8Zm13 4h-5m5 5h-5m5 5h-5m9-9c5 1 5 8 0 9",
        ["media"] = "M7 26V13q0-4 3-4t3 3q0-5 3-5t3 5q0-4 3-3t3 5v12Zm0-5h18",
        ["clay"] = "M6 20l4-8h13l4 8-3 6H9Zm4-8 3 8h11",
    };

    /// <summary>A small drawing of a kind of kit.</summary>
    public static string Tool(string kind) =>
        $"<svg class=\"tool\" viewBox=\"0 0 32 32\" aria-hidden=\"true\"><path d=\"{Tools.GetValueOrDefault(kind, "")}\"/></svg>";

    /// <summary>Marks from 0 to 20 % under a band 400 wide.</summary>
    public static string PercentScale()
    {
        var s = new Ink();
        for (var t = 0; t <= 20; t += 5)
        {
            s.Text(
                t * 20,
                44,
                $"{t} %",
                "fan-scale",
                t == 0 ? "start"
                    : t == 20 ? "end"
                    : "middle"
            );
        }

        return s.ToString();
    }

    /// <summary>A cell of the compatibility matrix: shape says it without colour.</summary>
    public static string Ruling(string ruling) =>
        "<svg class=\"ruling v-"
        + ruling
        + "\" viewBox=\"0 0 24 24\" aria-hidden=\"true\">"
        + ruling switch
        {
            "yes" => "<circle cx=\"12\" cy=\"12\" r=\"5\"/>",
            "care" => "<path d=\"M12 5 19.5 18.5h-15Z\"/>",
            "test" => "<circle class=\"ring\" cx=\"12\" cy=\"12\" r=\"6.5\"/><circle cx=\"12\" cy=\"12\" r=\"1.8\"/>",
            "rinse" => "<path class=\"ring\" d=\"M5 12h14\"/>",
            "wash" => "<path class=\"ring\" d=\"M5 9h14M5 15h14\"/>",
            "full-rinse" => "<path class=\"ring\" d=\"M5 7h14M5 12h14M5 17h14\"/>",
            _ => "<path class=\"ring\" d=\"m5.5 5.5 13 13m0-13-13 13\"/>",
        }
        + "</svg>";
}
