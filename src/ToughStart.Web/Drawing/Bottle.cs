using ToughStart.Core.Costing;

namespace ToughStart.Web.Drawing;

/// <summary>Draws a mix in its container: product first or last as safety asks, graduated in ml.</summary>
internal static class Bottle
{
    public static IReadOnlyList<Container> All { get; } =
    [
        new("spray-500", "Trigger bottle 0.5 l", 500, ContainerShape.Trigger),
        new("spray-1000", "Trigger bottle 1 l", 1000, ContainerShape.Trigger),
        new("lance-1000", "Lance bottle 1 l", 1000, ContainerShape.Lance),
        new("pump-1500", "Pump sprayer 1.5 l", 1500, ContainerShape.Pump),
        new("pump-5000", "Pump sprayer 5 l", 5000, ContainerShape.Pump),
        new("bucket-10000", "Bucket 10 l", 10000, ContainerShape.Bucket),
        new("bucket-15000", "Bucket 15 l", 15000, ContainerShape.Bucket),
    ];

    public static Container Default(string vessel, double ml) =>
        vessel switch
        {
            "lance" => Find("lance-1000"),
            "bucket" => Find("bucket-10000"),
            _ => ml <= 480 ? Find("spray-500")
            : ml <= 950 ? Find("spray-1000")
            : ml <= 1450 ? Find("pump-1500")
            : Find("pump-5000"),
        };

    public static Container Find(string id) => All.First(c => c.Id == id);

    public static string Svg(Container c, double fillMl, double fraction, string agentColour, string? unit = null)
    {
        // All containers share one scale: height grows with the cube root of volume.
        var h = 150 * Math.Pow(c.Ml / 1500, 1 / 3.0) * (c.Shape == ContainerShape.Bucket ? .62 : 1);
        h = Math.Clamp(h, 84, 168);
        var w =
            c.Shape == ContainerShape.Bucket ? h * 1.05
            : c.Shape == ContainerShape.Pump ? h * .62
            : h * .48;
        const double baseline = 196,
            middle = 92;
        var top = baseline - h;
        var (x0, x1) = (middle - w / 2, middle + w / 2);
        var level = baseline - (h - 8) * Math.Min(1, fillMl / c.Ml);
        var product = fraction > 0 ? Math.Max(2.5, (baseline - level) * fraction) : 0;
        var s = new Ink();
        s.Add(
            $"<svg class=\"vessel\" viewBox=\"0 0 {(unit is null ? 226 : 290)} 214\" role=\"img\" aria-label=\"{Ink.Escape($"{c.Name}: {fillMl * fraction:0} ml product, {fillMl * (1 - fraction):0} ml water")}\">"
        );
        var body = c.Shape switch
        {
            ContainerShape.Bucket => $"M{Ink.N(x0)} {Ink.N(top)}L{Ink.N(x0 + 9)} {baseline}H{Ink.N(x1 - 9)}L{Ink.N(x1)} {Ink.N(top)}Z",
            ContainerShape.Pump =>
                $"M{Ink.N(x0)} {Ink.N(top + 14)}Q{Ink.N(x0)} {Ink.N(top)} {Ink.N(x0 + 18)} {Ink.N(top)}H{Ink.N(x1 - 18)}Q{Ink.N(x1)} {Ink.N(top)} {Ink.N(x1)} {Ink.N(top + 14)}V{baseline - 6}Q{Ink.N(x1)} {baseline} {Ink.N(x1 - 6)} {baseline}H{Ink.N(x0 + 6)}Q{Ink.N(x0)} {baseline} {Ink.N(x0)} {baseline - 6}Z",
            _ =>
                $"M{Ink.N(x0 + 2)} {Ink.N(top + 30)}Q{Ink.N(x0 + 2)} {Ink.N(top + 14)} {Ink.N(middle - 9)} {Ink.N(top)}H{Ink.N(middle + 9)}Q{Ink.N(x1 - 2)} {Ink.N(top + 14)} {Ink.N(x1 - 2)} {Ink.N(top + 30)}V{baseline - 5}Q{Ink.N(x1 - 2)} {baseline} {Ink.N(x1 - 8)} {baseline}H{Ink.N(x0 + 8)}Q{Ink.N(x0 + 2)} {baseline} {Ink.N(x0 + 2)} {baseline - 5}Z",
        };
        var id = $"v-{c.Id}-{fillMl:0}-{fraction * 1e4:0}".Replace('.', '_');
        s.Add($"<defs><clipPath id=\"{id}\"><path d=\"{body}\"/></clipPath></defs>");
        s.Add($"<path class=\"vessel-glass\" d=\"{body}\"/><g clip-path=\"url(#{id})\">");
        s.Add(
            $"<rect x=\"0\" y=\"{Ink.N(level)}\" width=\"200\" height=\"220\" class=\"vessel-water\"/><rect x=\"0\" y=\"{Ink.N(level)}\" width=\"200\" height=\"{Ink.N(product)}\" fill=\"{agentColour}\"/>"
        );
        s.Add($"<path d=\"M0 {Ink.N(level)}q12 -3 25 0t25 0t25 0t25 0t25 0t25 0t25 0t25 0v-12H0Z\" class=\"vessel-air\"/></g>");
        s.Add($"<path class=\"vessel-line\" d=\"{body}\"/>");
        s.Add(
            c.Shape switch
            {
                ContainerShape.Bucket =>
                    $"<path class=\"vessel-line\" d=\"M{Ink.N(x0 + 3)} {Ink.N(top + 4)}Q{middle} {Ink.N(top - 44)} {Ink.N(x1 - 3)} {Ink.N(top + 4)}\"/>",
                ContainerShape.Pump =>
                    $"<path class=\"vessel-cap\" d=\"M{middle - 13} {Ink.N(top)}v-10h26v10Z\"/><path class=\"vessel-line\" d=\"M{middle} {Ink.N(top - 10)}v-12m-12 0h24M{middle + 13} {Ink.N(top - 5)}h22l6 6\"/>",
                ContainerShape.Lance =>
                    $"<path class=\"vessel-cap\" d=\"M{middle - 11} {Ink.N(top)}v-9h22v9Z\"/><path class=\"vessel-line\" d=\"M{middle - 22} {Ink.N(top - 12)}h62l10 -5v12l-10 -4\"/>",
                _ =>
                    $"<path class=\"vessel-cap\" d=\"M{middle - 10} {Ink.N(top)}v-8h20v8Z\"/><path class=\"vessel-line\" d=\"M{middle - 6} {Ink.N(top - 8)}l-4 -13h28l6 7h-14l-2 6\"/>",
            }
        );
        var major =
            c.Ml >= 10000 ? 2000.0
            : c.Ml >= 5000 ? 1000
            : c.Ml >= 1000 ? 250
            : 100;
        for (var ml = major; ml < c.Ml; ml += major)
        {
            var y = baseline - (h - 8) * ml / c.Ml;
            s.Line(x0 + 4, y, x0 + 13, y, "vessel-tick");
            s.Text(x0 - 4, y + 4, c.Ml >= 2000 ? $"{ml / 1000:0.#} l" : $"{ml:0} ml", "vessel-scale", "end");
        }

        string Also(double ml) =>
            unit is null ? "" : $" · {ml / ToughStart.Core.Chemistry.Dilution.Millilitres(unit):0.#} {unit.Split('-')[0]} oz";
        Flag(s, level, x1, $"{fillMl:0} ml{Also(fillMl)}", "vessel-flag");
        var productY = level + product;
        if (fraction is > 0 and < .995)
        {
            Flag(s, Math.Max(productY, level + 17), x1, $"{fillMl * fraction:0.#} ml in{Also(fillMl * fraction)}", "vessel-flag-product");
        }

        return s.Add("</svg>").ToString();
    }

    private static void Flag(Ink s, double y, double x, string text, string cls)
    {
        s.Line(x - 2, y, x + 12, y, "vessel-lead");
        s.Text(x + 15, y + 4, text, cls);
    }
}
