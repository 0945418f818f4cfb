using ToughStart.Core.Contamination;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;

namespace ToughStart.Web.Drawing;

/// <summary>One column of the dig: a stage and the loads that remain after it.</summary>
public sealed record DigColumn(string Key, string Label, string Name, IReadOnlyDictionary<string, double> Loads);

/// <summary>One zone drilled: what lies there, what each of its steps leaves, and how much of each kind may stay.</summary>
/// <param name="Allowed">Load of each kind that may stay; kinds that the goal does not ask for may stay as they are.</param>
/// <param name="Stays">What stays in spite of the plan, and why.</param>
public sealed record DrilledCore(
    string Zone,
    IReadOnlyDictionary<string, double> Start,
    IReadOnlyList<DigColumn> Columns,
    IReadOnlyDictionary<string, double> Allowed,
    IReadOnlyList<string> Stays
);

/// <summary>
/// The core sample of one zone: a drilled section through the dirt on the left, and beside it the dig: the same section cut back column
/// by column, each of the zone's steps showing what it leaves, down to a line that says what may stay. Thickness counts decades, so a
/// trace is still seen; dirt only ever falls. What chemistry leaves of itself is washed off with it and is not drawn.
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

    /// <summary>Less than this cannot be seen in the drawing.</summary>
    private const double Least = 0.012;

    private static readonly string[] Order =
    [
        .. Catalogue
            .Default.Contaminants.OrderBy(k => k.Layer)
            .ThenBy(k => k.Index)
            .Select(k => k.Id)
            .Where(id => id != "old-protection" && id != "oxidation"),
        "old-protection",
        "oxidation",
    ];

    public static string Svg(DrilledCore core, double width, double height, string label, string ground)
    {
        var (start, columns) = (core.Start, core.Columns);
        var kinds = Order.Where(k => start.GetValueOrDefault(k) >= Least).ToArray();
        const double body = 100;
        var key = Math.Ceiling(kinds.Length / (double)KeyColumns) * KeyLine;
        var need = kinds.Sum(k => Thick(start.GetValueOrDefault(k)));
        var unit = need > 0 ? Math.Min(46, (height - Top - body - key - 34) / Math.Max(need, 2.2)) : 40;
        var finish = kinds.Length == 0 ? Top + 40 : Top + need * unit;

        var s = new Ink();
        s.Add($"<svg class=\"core\" viewBox=\"0 0 {Ink.N(width)} {Ink.N(height)}\" role=\"img\" aria-label=\"{Ink.Escape(label)}\"><defs>");
        foreach (var k in kinds)
        {
            s.Add(Textures.CorePattern(k, $"cs-{k}"));
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
            var target = finish - kinds.Sum(k => Thick(core.Allowed.GetValueOrDefault(k))) * unit;
            Dig(s, kinds, start, columns, unit, finish, width, target);
            s.Line(DigLeft, target, width - 4, target, "core-target");
            s.Text(width - 4, Math.Min(target, finish) - 20, target < finish - 1 ? "may stay" : "", "core-target-words", "end");
        }

        DepthRule(s, kinds, start, unit, finish);
        s.Text(DigLeft, finish + 20, columns.Count > 0 ? ground : "", "core-note");
        if (kinds.Length > 0)
        {
            Scale(s, unit, finish);
        }

        for (var i = 0; i < kinds.Length; i++)
        {
            var at = (X: Left + i % KeyColumns * (width - Left) / KeyColumns, Y: finish + body + 28 + i / KeyColumns * KeyLine);
            s.Text(at.X, at.Y, MarkOf(kinds[i]), "core-mark");
            s.Text(at.X + 20, at.Y, Catalogue.Default.Contaminant(kinds[i]).Name, "core-name");
        }

        return s.Add("</svg>").ToString();
    }

    /// <summary>The zone that decides the plan: most steps, then the thickest dirt; body before wheels. Null = nothing is done anywhere.</summary>
    public static string? Deciding(Plan plan) =>
        plan
            .Traces.Where(t => t.After.Count > 0)
            .OrderByDescending(t => t.After.Count)
            .ThenByDescending(t => t.Start.Where(l => l.Key != "old-protection").Sum(l => Thick(l.Value)))
            .ThenBy(t => t.Zone, StringComparer.Ordinal)
            .Select(t => t.Zone)
            .FirstOrDefault();

    /// <summary>One zone's loads at the start and after each of its own steps, numbered as on the page.</summary>
    public static DrilledCore OfZone(Plan plan, string zone)
    {
        var trace = plan.Traces.First(t => t.Zone == zone);
        var numbers = StageGroups(plan).SelectMany(g => g.Steps.Select(x => (x.Key, g.Number, g.Name))).ToDictionary(x => x.Key);
        var least = trace.Start.ToDictionary(l => l.Key, l => l.Value);
        var columns = new List<DigColumn>();
        foreach (var (step, loads) in trace.After)
        {
            foreach (var kind in least.Keys.ToArray())
            {
                least[kind] = Math.Min(least[kind], loads.GetValueOrDefault(kind, least[kind]));
            }

            columns.Add(new DigColumn(step, numbers[step].Number, numbers[step].Name, new Dictionary<string, double>(least)));
        }

        var allowed = trace.Start.ToDictionary(
            l => l.Key,
            l => trace.Targets.TryGetValue(l.Key, out var target) ? Math.Min(target, l.Value) : l.Value
        );
        return new(zone, trace.Start, columns, allowed, Stays(plan, trace, least));
    }

    private static string[] Stays(Plan plan, ZoneTrace trace, IReadOnlyDictionary<string, double> last)
    {
        var c = Catalogue.Default;
        return Order
            .Where(k =>
                k != "old-protection"
                && last.GetValueOrDefault(k) is var left
                && left >= Least
                && left > 1.02 * trace.Targets.GetValueOrDefault(k, 0)
            )
            .Select(k =>
            {
                var kind = c.Contaminant(k);
                var why =
                    !trace.Targets.ContainsKey(k) ? $"the goal ({plan.Goal}) does not ask for it"
                    : plan.Refer.FirstOrDefault(r => r.Zones.Contains(trace.Zone) && r.What == k) is { } refer ? refer.Reason
                    : plan.Refused.FirstOrDefault(r =>
                        r.Zones.Contains(trace.Zone) && c.FindTreatment(r.Treatment) is { } t && t.Removes.Any(x => x.Kind == kind.Index)
                    )
                        is { } refused
                        ? refused.Reason
                    : "more rounds would cost more than they bring";
                return $"{kind.Name} stays, {LoadWords.Of(last[k])}: {why.TrimEnd('.')}.";
            })
            .ToArray();
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

    /// <summary>Height of the digits over a column.</summary>
    private const double DigNumber = 12;

    private static void Dig(
        Ink s,
        string[] kinds,
        IReadOnlyDictionary<string, double> start,
        IReadOnlyList<DigColumn> columns,
        double unit,
        double finish,
        double width,
        double target
    )
    {
        var w = Math.Min(34, (width - DigLeft - 4) / Math.Max(1, columns.Count));
        var x = DigLeft;
        var previous = TopOf(start, kinds, unit, finish);
        foreach (var c in columns)
        {
            var top = TopOf(c.Loads, kinds, unit, finish);
            s.Add($"<g class=\"dig\" data-dig=\"{Ink.Escape(c.Key)}\"><title>{Ink.Escape(c.Label + " " + c.Name)}</title>");
            s.Add(
                $"<rect class=\"dig-air\" x=\"{Ink.N(x)}\" y=\"{Ink.N(Top - 20)}\" width=\"{Ink.N(w)}\" height=\"{Ink.N(finish - Top + 20 + 10)}\"/>"
            );
            Stack(s, kinds, c.Loads, unit, finish, x, w, false);
            s.Add($"<rect x=\"{Ink.N(x)}\" y=\"{Ink.N(finish)}\" width=\"{Ink.N(w)}\" height=\"10\" fill=\"url(#cs-glass)\"/>");
            s.Add($"<path class=\"dig-cut\" d=\"M{Ink.N(x)} {Ink.N(previous)}V{Ink.N(top)}H{Ink.N(x + w)}\"/>");
            // A number the line of what may stay would run through stands above it.
            var words = top - 5;
            s.Text(x + w / 2, words > target && words - DigNumber < target ? target - 4 : words, c.Label, "dig-no", "middle");
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

    /// <summary>How thick one layer is drawn that is a trace, and one that is caked.</summary>
    private static void Scale(Ink s, double unit, double finish)
    {
        var c = Catalogue.Default;
        double x = DigLeft,
            foot = finish + 94;
        s.Line(x, foot, x, foot - unit, "core-tick");
        foreach (var (load, words) in new[] { (c["grade-1"], "a trace of one kind"), (c["grade-4"], "caked with it") })
        {
            var y = foot - Thick(load) * unit;
            s.Line(x, y, x + 7, y, "core-tick");
            s.Text(x + 11, y + 4, words, "core-note");
        }

        s.Line(x, foot, x + 7, foot, "core-tick");
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

    private static string MarkOf(string kind) => Catalogue.Default.Contaminant(kind).Mark;

    /// <summary>Thickness in units: 1 for caked, a half for a tenth of it, nothing at a hundredth.</summary>
    private static double Thick(double load) => load <= 0.01 ? 0 : (2 + Math.Log10(load)) / 2;
}

/// <summary>A numbered line of the plan: one treatment, with its variants of rounds and strength.</summary>
public sealed record StageGroup(string Number, string Name, List<Step> Steps);
