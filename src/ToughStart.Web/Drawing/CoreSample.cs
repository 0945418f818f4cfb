using ToughStart.Core.Contamination;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;

namespace ToughStart.Web.Drawing;

/// <summary>One column of the dig: a stage and the loads that remain after it.</summary>
public sealed record DigColumn(string Key, string Label, string Name, IReadOnlyDictionary<string, double> Loads);

/// <summary>
/// The core sample: a drilled section through the dirt on the left, and beside it the dig: the same section cut back column by
/// column, each stage showing what it leaves. Thickness counts decades, so a trace is still seen.
/// </summary>
internal static class CoreSample
{
    public const double Width = 318,
        Height = 590;
    private const double CoreWidth = 78,
        Left = 6,
        Top = 30,
        DigLeft = Left + CoreWidth + 32,
        KeyLine = 18;
    private const int KeyColumns = 3;
    private static readonly string[] Order =
    [
        .. Catalogue
            .Default.Contaminants.OrderBy(k => k.Layer)
            .ThenBy(k => k.Index)
            .Select(k => k.Id)
            .Where(id => id != "old-protection" && id != "oxidation"),
        "residue",
        "old-protection",
        "oxidation",
    ];

    public static string Svg(
        IReadOnlyDictionary<string, double> start,
        IReadOnlyList<DigColumn> columns,
        double width,
        double height,
        string label,
        string ground
    )
    {
        var kinds = Order
            .Where(k => start.GetValueOrDefault(k) >= 0.012 || columns.Any(c => c.Loads.GetValueOrDefault(k) >= 0.012))
            .ToArray();
        const double body = 100;
        var key = Math.Ceiling(kinds.Length / (double)KeyColumns) * KeyLine;
        var need = columns.Select(c => c.Loads).Prepend(start).Max(loads => kinds.Sum(k => Thick(loads.GetValueOrDefault(k))));
        var unit = need > 0 ? Math.Min(46, (height - Top - body - key - 34) / Math.Max(need, 2.2)) : 40;
        var finish = kinds.Length == 0 ? Top + 40 : Top + need * unit;

        var s = new Ink();
        s.Add($"<svg class=\"core\" viewBox=\"0 0 {Ink.N(width)} {Ink.N(height)}\" role=\"img\" aria-label=\"{Ink.Escape(label)}\"><defs>");
        foreach (var k in kinds)
        {
            s.Add(Textures.CorePattern(k, "cs", 62, 9.5));
        }

        s.Add(
            $"<linearGradient id=\"cs-glass\" x1=\"0\" x2=\"1\"><stop offset=\"0\" stop-color=\"#dfeaec\"/><stop offset=\".5\" stop-color=\"#f6fafa\"/><stop offset=\"1\" stop-color=\"#cfdde0\"/></linearGradient>"
        );
        s.Add(
            "<linearGradient id=\"cs-round\" x1=\"0\" x2=\"1\"><stop offset=\"0\" stop-color=\"#000\" stop-opacity=\".34\"/><stop offset=\".16\" stop-color=\"#000\" stop-opacity=\".04\"/><stop offset=\".42\" stop-color=\"#fff\" stop-opacity=\".16\"/><stop offset=\".8\" stop-color=\"#000\" stop-opacity=\".06\"/><stop offset=\"1\" stop-color=\"#000\" stop-opacity=\".38\"/></linearGradient>"
        );
        s.Add($"<clipPath id=\"cs-core\"><path d=\"{CorePath(TopOf(start, kinds, unit, finish) - 5, finish + body)}\"/></clipPath></defs>");

        s.Add("<g clip-path=\"url(#cs-core)\">");
        Stack(s, kinds, start, unit, finish, Left - 4, CoreWidth + 8, true);
        Substrate(s, Left - 4, CoreWidth + 8, finish, body);
        s.Add($"<rect x=\"{Left - 4}\" y=\"0\" width=\"{CoreWidth + 8}\" height=\"{Ink.N(height)}\" fill=\"url(#cs-round)\"/></g>");
        s.Add($"<path class=\"core-edge\" d=\"{CorePath(TopOf(start, kinds, unit, finish) - 5, finish + body)}\"/>");
        if (columns.Count > 0)
        {
            Dig(s, kinds, start, columns, unit, finish, width);
        }

        DepthRule(s, kinds, start, unit, finish);
        s.Text(DigLeft, finish + 20, columns.Count > 0 ? ground : "", "core-note");
        for (var i = 0; i < kinds.Length; i++)
        {
            var at = (X: Left + i % KeyColumns * (width - Left) / KeyColumns, Y: finish + body + 28 + i / KeyColumns * KeyLine);
            s.Text(at.X, at.Y, MarkOf(kinds[i]), "core-mark");
            s.Text(at.X + 20, at.Y, kinds[i] == "residue" ? "Own residue" : Catalogue.Default.Contaminant(kinds[i]).Name, "core-name");
        }

        return s.Add("</svg>").ToString();
    }

    /// <summary>Worst load of every kind anywhere on the vehicle, at the start and after each stage.</summary>
    public static (IReadOnlyDictionary<string, double> Start, IReadOnlyList<DigColumn> Columns) OfVehicle(Plan plan)
    {
        var now = plan.Traces.ToDictionary(t => t.Zone, t => t.Start);
        Dictionary<string, double> Worst() =>
            now.Values.SelectMany(l => l).GroupBy(l => l.Key).ToDictionary(g => g.Key, g => g.Max(x => x.Value));
        var start = Worst();
        var columns = new List<DigColumn>();
        foreach (var group in StageGroups(plan))
        {
            foreach (var t in plan.Traces)
            {
                var last = t.After.LastOrDefault(a => group.Steps.Any(x => x.Key == a.Step));
                if (last.Step is not null)
                {
                    now[t.Zone] = last.Loads;
                }
            }

            columns.Add(new DigColumn(group.Steps[0].Key, group.Number, group.Name, Worst()));
        }

        return (start, columns);
    }

    /// <summary>One zone's loads at the start and after each of its own steps, numbered as on the page.</summary>
    public static (IReadOnlyDictionary<string, double> Start, IReadOnlyList<DigColumn> Columns) OfZone(Plan plan, string zone)
    {
        var trace = plan.Traces.First(t => t.Zone == zone);
        var numbers = StageGroups(plan).SelectMany(g => g.Steps.Select(x => (x.Key, g.Number, g.Name))).ToDictionary(x => x.Key);
        return (
            trace.Start,
            trace.After.Select(a => new DigColumn(a.Step, numbers[a.Step].Number, numbers[a.Step].Name, a.Loads)).ToArray()
        );
    }

    /// <summary>Steps gathered into the numbered stages of the page: same block, place and treatment.</summary>
    public static IReadOnlyList<StageGroup> StageGroups(Plan plan)
    {
        var groups = new List<StageGroup>();
        foreach (var step in plan.Steps)
        {
            if (
                groups.Count > 0
                && groups[^1].Steps[0] is var last
                && last.Block == step.Block
                && last.Slot == step.Slot
                && last.Stage == step.Stage
                && last.Treatment == step.Treatment
                && last.Under == step.Under
                && last.Over == step.Over
            )
            {
                groups[^1].Steps.Add(step);
            }
            else
            {
                groups.Add(
                    new StageGroup(
                        (groups.Count + 1).ToString(),
                        step.Under ? step.Name + ", left wet"
                            : step.Over is null ? step.Name
                            : step.Name + " over it",
                        [step]
                    )
                );
            }
        }

        return groups;
    }

    private static void Dig(
        Ink s,
        string[] kinds,
        IReadOnlyDictionary<string, double> start,
        IReadOnlyList<DigColumn> columns,
        double unit,
        double finish,
        double width
    )
    {
        var telling = columns
            .Where(
                (c, i) =>
                    kinds.Any(k =>
                        Math.Abs(Thick(c.Loads.GetValueOrDefault(k)) - Thick((i == 0 ? start : columns[i - 1].Loads).GetValueOrDefault(k)))
                            * unit
                        > .5
                    )
            )
            .ToArray();
        var w = Math.Min(34, (width - DigLeft - 4) / Math.Max(1, telling.Length));
        var x = DigLeft;
        var previous = TopOf(start, kinds, unit, finish);
        foreach (var c in telling)
        {
            var top = TopOf(c.Loads, kinds, unit, finish);
            s.Add($"<g class=\"dig\" data-dig=\"{Ink.Escape(c.Key)}\"><title>{Ink.Escape(c.Label + " " + c.Name)}</title>");
            s.Add(
                $"<rect class=\"dig-air\" x=\"{Ink.N(x)}\" y=\"{Ink.N(Top - 20)}\" width=\"{Ink.N(w)}\" height=\"{Ink.N(finish - Top + 20 + 10)}\"/>"
            );
            Stack(s, kinds, c.Loads, unit, finish, x, w, false);
            s.Add($"<rect x=\"{Ink.N(x)}\" y=\"{Ink.N(finish)}\" width=\"{Ink.N(w)}\" height=\"10\" fill=\"url(#cs-glass)\"/>");
            s.Add($"<path class=\"dig-cut\" d=\"M{Ink.N(x)} {Ink.N(previous)}V{Ink.N(top)}H{Ink.N(x + w)}\"/>");
            s.Text(x + w / 2, top - 5, c.Label, "dig-no", "middle");
            s.Add("</g>");
            previous = top;
            x += w;
        }

        s.Line(DigLeft, finish, x, finish, "core-line");
    }

    private static void Stack(
        Ink s,
        string[] kinds,
        IReadOnlyDictionary<string, double> loads,
        double unit,
        double finish,
        double x,
        double w,
        bool rough
    )
    {
        var bottom = finish;
        foreach (var k in kinds.Reverse())
        {
            var t = Thick(loads.GetValueOrDefault(k)) * unit;
            if (t <= 0.4)
            {
                continue;
            }

            var top = bottom - t;
            var d = rough ? Rough(k, x, w, top, bottom) : $"M{Ink.N(x)} {Ink.N(top)}h{Ink.N(w)}V{Ink.N(bottom)}h{Ink.N(-w)}Z";
            s.Add($"<path d=\"{d}\" fill=\"{Textures.Ground(k)}\"/><path class=\"band\" d=\"{d}\" fill=\"url(#cs-{k})\"/>");
            bottom = top;
        }
    }

    /// <summary>A band whose upper edge wanders like a real layer; its lower edge runs under the next band.</summary>
    private static string Rough(string kind, double x, double w, double top, double bottom)
    {
        var g = new Grain((uint)(kind.Sum(c => c) + 7));
        var s = new System.Text.StringBuilder($"M{Ink.N(x)} {Ink.N(bottom + 6)}L{Ink.N(x)} {Ink.N(top)}");
        const int steps = 9;
        var amplitude = Math.Min(6, (bottom - top) * .28);
        for (var i = 1; i <= steps; i++)
        {
            var px = x + w * i / steps;
            s.Append(
                $"Q{Ink.N(px - w / steps / 2)} {Ink.N(top + g.Between(-amplitude, amplitude))} {Ink.N(px)} {Ink.N(top + g.Between(-amplitude / 2, amplitude / 2))}"
            );
        }

        return s.Append($"L{Ink.N(x + w)} {Ink.N(bottom + 6)}Z").ToString();
    }

    private static void Substrate(Ink s, double x, double w, double finish, double body)
    {
        (double H, string Fill, string Name)[] layers =
        [
            (38, "url(#cs-glass)", ""),
            (24, "#4d6a60", ""),
            (16, "#a7aaa6", ""),
            (body - 78 + 14, "#c7cbcc", ""),
        ];
        var y = finish;
        foreach (var (h, fill, _) in layers)
        {
            s.Add(
                $"<rect x=\"{Ink.N(x)}\" y=\"{Ink.N(y)}\" width=\"{Ink.N(w)}\" height=\"{Ink.N(h)}\" fill=\"{fill}\"/><line x1=\"{Ink.N(x)}\" x2=\"{Ink.N(x + w)}\" y1=\"{Ink.N(y)}\" y2=\"{Ink.N(y)}\" class=\"core-line\"/>"
            );
            y += h;
        }

        foreach (var i in new[] { .2, .34, .72 })
        {
            s.Add($"<path d=\"M{Ink.N(x + w * i)} {Ink.N(finish + 3)}l-8 32h6l8 -32Z\" fill=\"#fff\" fill-opacity=\".75\"/>");
        }

        var g = new Grain(5);
        for (var i = 0; i < 60; i++)
        {
            s.Add(
                $"<circle cx=\"{Ink.N(x + g.Next() * w)}\" cy=\"{Ink.N(finish + 47 + g.Next() * 22)}\" r=\"{Ink.N(g.Between(.5, 1.1))}\" fill=\"#dbe7e0\" fill-opacity=\".8\"/>"
            );
        }

        for (var i = 0; i < 14; i++)
        {
            s.Add(
                $"<line x1=\"{Ink.N(x + i * 10 - 30)}\" y1=\"{Ink.N(finish + body + 14)}\" x2=\"{Ink.N(x + i * 10 + 18)}\" y2=\"{Ink.N(finish + 78)}\" class=\"core-hatch\"/>"
            );
        }
    }

    private static void DepthRule(Ink s, string[] kinds, IReadOnlyDictionary<string, double> start, double unit, double finish)
    {
        var bottom = finish;
        var lastLabel = double.PositiveInfinity;
        foreach (var k in kinds.Reverse())
        {
            var t = Thick(start.GetValueOrDefault(k)) * unit;
            if (t <= 0.4)
            {
                continue;
            }

            var middle = Math.Min(bottom - t / 2, lastLabel - 13);
            s.Add(
                $"<path class=\"core-tick\" d=\"M{Ink.N(Left + CoreWidth)} {Ink.N(bottom - t / 2)}L{Ink.N(Left + CoreWidth + 8)} {Ink.N(middle)}\"/>"
            );
            s.Text(Left + CoreWidth + 10, middle + 4, MarkOf(k), "core-mark");
            lastLabel = middle;
            bottom -= t;
        }
    }

    private static double TopOf(IReadOnlyDictionary<string, double> loads, string[] kinds, double unit, double finish) =>
        finish - kinds.Sum(k => Thick(loads.GetValueOrDefault(k)) * unit);

    private static string CorePath(double top, double bottom)
    {
        var g = new Grain(3);
        var s = new System.Text.StringBuilder($"M{Left} {Ink.N(bottom)}L{Left} {Ink.N(top + 4)}");
        for (var i = 1; i <= 8; i++)
        {
            s.Append($"L{Ink.N(Left + CoreWidth * i / 8)} {Ink.N(top + g.Between(-4, 6))}");
        }

        s.Append($"L{Ink.N(Left + CoreWidth)} {Ink.N(bottom)}");
        for (var i = 7; i >= 0; i--)
        {
            s.Append($"L{Ink.N(Left + CoreWidth * i / 8)} {Ink.N(bottom + g.Between(-5, 5))}");
        }

        return s.Append('Z').ToString();
    }

    private static string MarkOf(string kind) => kind == "residue" ? "RE" : Catalogue.Default.Contaminant(kind).Mark;

    /// <summary>Thickness in units: 1 for caked, a half for a tenth of it, nothing at a hundredth.</summary>
    private static double Thick(double load) => load <= 0.01 ? 0 : (2 + Math.Log10(load)) / 2;
}

/// <summary>A numbered line of the plan: one treatment, with its variants of rounds and strength.</summary>
public sealed record StageGroup(string Number, string Name, List<Step> Steps);
