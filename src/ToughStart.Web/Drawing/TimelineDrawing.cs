using ToughStart.Core.Planning;
using ToughStart.Scheduling;
using ToughStart.Web.Stations;

namespace ToughStart.Web.Drawing;

/// <summary>
/// Down is one walk round the vehicle, across is the day. What stands up is wet and has to be cut before its post; a rope is a person,
/// upright where they walk; a wet rim says who has the lance.
/// </summary>
internal static class TimelineDrawing
{
    public const double Width = 1000,
        Left = 108,
        Right = 16,
        Top = 14;

    private static readonly (int Place, string Name, double Height)[] Rows =
    [
        (8, "roof", 60),
        (0, "front", 66),
        (1, "wheel", 44),
        (2, "right side", 66),
        (3, "wheel", 44),
        (4, "rear", 66),
        (5, "wheel", 44),
        (6, "left side", 66),
        (7, "wheel", 44),
    ];

    private static readonly double Ground = Top + Rows.Sum(r => r.Height);

    /// <summary>End of the axis, s: the finish, and a little.</summary>
    public static int Span(TimelineView view) =>
        (int)(1.02 * Math.Max(600, Math.Max(view.Layout!.Schedule.Finish, Math.Min(view.Finish.High, 1.25 * view.Layout.Schedule.Finish))));

    public static string Svg(TimelineView view, Plan plan)
    {
        var (layout, span) = (view.Layout!, Span(view));
        var tasks = layout.Instance.Tasks.ToDictionary(t => t.Key);
        var placed = layout.Schedule.Tasks.ToDictionary(p => p.Key);
        double X(double s) => Left + ((Width - Left - Right) * s / span);
        var ink = new Ink();
        ink.Add(
            $"<svg class=\"tl\" viewBox=\"0 0 {Ink.Px(Width)} {Ink.Px(Ground + 62)}\" role=\"group\" aria-label=\"Who does what"
                + $" when, and what is wet\" data-left=\"{Ink.Px(Left)}\" data-right=\"{Ink.Px(Right)}\""
                + $" data-width=\"{Ink.Px(Width)}\" data-span=\"{span}\">"
        );
        var y = Top;
        foreach (var (place, name, height) in Rows)
        {
            ink.Add(
                $"<rect class=\"tl-row{(height < 50 ? " is-wheel" : "")}\" x=\"{Ink.Px(Left)}\" y=\"{Ink.Px(y)}\""
                    + $" width=\"{Ink.Px(Width - Left - Right)}\" height=\"{Ink.Px(height)}\"/>"
            );
            ink.Add(Mark(place, 6, y + (height / 2)));
            ink.Text(34, y + (height / 2) + 6, name, height < 50 ? "tl-wheel" : "tl-place");
            y += height;
        }

        Rests(view, ink, X);
        if (view.SoFar is { } soFar)
        {
            ink.Add(
                $"<rect class=\"tl-behind\" x=\"{Ink.Px(Left)}\" y=\"{Ink.Px(Top)}\""
                    + $" width=\"{Ink.Px(Math.Max(0, X(soFar.Now) - Left))}\" height=\"{Ink.Px(Ground - Top)}\"/>"
            );
            if (X(soFar.Now) - Left > 60)
            {
                ink.Text(X(soFar.Now) - 6, Ground - 8, "behind us", "tl-small", "end");
            }
        }

        foreach (var c in layout.Instance.Cycles)
        {
            Film(tasks[c.On], placed[c.On], placed[c.Off], c, plan, ink, X);
        }

        foreach (var (person, i) in view.Doc.People.Select((p, i) => (p, i)))
        {
            Rope(view, plan, person.Id, i, ink, X);
        }

        Axis(view, plan, ink, X, span);
        ink.Add(
            $"<g class=\"tl-now\" data-now><path d=\"M0 {Ink.Px(Top - 10)}V{Ink.Px(Ground + 8)}\"/><path class=\"tl-now-foot\""
                + $" d=\"M-9 {Ink.Px(Ground + 22)}L0 {Ink.Px(Ground + 6)}L9 {Ink.Px(Ground + 22)}Z\"/></g>"
        );
        return ink.Add("</svg>").ToString();
    }

    /// <summary>A small vehicle from above with a dot where one stands.</summary>
    private static string Mark(int place, double x, double y)
    {
        var (dx, dy) = place switch
        {
            0 => (8.0, 3.0),
            1 => (14, 6),
            2 => (14, 14),
            3 => (14, 22),
            4 => (8, 25),
            5 => (2, 22),
            6 => (2, 14),
            7 => (2, 6),
            _ => (8, 14),
        };
        return $"<rect class=\"tl-mark\" x=\"{Ink.Px(x + 2)}\" y=\"{Ink.Px(y - 13)}\" width=\"12\" height=\"26\" rx=\"5\"/><circle"
            + $" class=\"tl-dot\" cx=\"{Ink.Px(x + dx)}\" cy=\"{Ink.Px(y - 14 + dy)}\" r=\"4\"/>";
    }

    private static (double Y, double Height) Row(int? place)
    {
        var y = Top;
        foreach (var r in Rows)
        {
            if (r.Place == place)
            {
                return (y, r.Height);
            }

            y += r.Height;
        }

        return (Top, Rows[0].Height);
    }

    private static void Rests(TimelineView view, Ink ink, Func<double, double> x)
    {
        var line = 0;
        foreach (var (who, rest) in view.Layout!.Schedule.Rests)
        {
            if (rest.From < view.Layout.Schedule.Tasks.Where(t => t.Who == who).Select(t => t.End).DefaultIfEmpty(0).Max())
            {
                ink.Add(
                    $"<rect class=\"tl-rest\" x=\"{Ink.Px(x(rest.From))}\" y=\"{Ink.Px(Top)}\""
                        + $" width=\"{Ink.Px(x(rest.To) - x(rest.From))}\" height=\"{Ink.Px(Ground - Top)}\"/>"
                );
                ink.Text(x(rest.From) + 4, Top + 14 + (16 * line++), $"{view.Names[who]} rests", "tl-small");
            }
        }
    }

    /// <summary>A film: up as it is laid on, down as it dries, cut where it is rinsed; the post is its latest rinse.</summary>
    private static void Film(WorkTask on, Placed from, Placed to, Cycle cycle, Plan plan, Ink ink, Func<double, double> x)
    {
        var (row, height) = Row(on.At);
        var ground = row + height - 2;
        var latest = from.Start + Math.Min(cycle.MaxAt(from.Start), 4 * Math.Max(60, cycle.MinLag));
        double Wet(double t) => (height - 14) * Math.Max(0.12, 1 - (0.85 * (t - from.End) / Math.Max(60, latest - from.End)));
        var step = plan.Steps.FirstOrDefault(s => s.Key == on.Step);
        var late = to.Start > from.Start + cycle.MaxAt(from.Start);
        ink.Add(
            $"<path class=\"tl-film{(late ? " is-late" : step?.Stage == Core.Stage.Iron ? " is-iron" : "")}\" d=\"M{Ink.Px(x(from.Start))}"
                + $" {Ink.Px(ground)}L{Ink.Px(x(from.End))} {Ink.Px(ground - Wet(from.End))}L{Ink.Px(x(to.Start))}"
                + $" {Ink.Px(ground - Wet(to.Start))}L{Ink.Px(x(to.End))} {Ink.Px(ground)}Z\"><title>{Ink.Escape(step?.Name ?? "")}:"
                + $" rinse by {latest - from.Start} s after it is begun</title></path>"
        );
        if (x(latest) - x(from.Start) > 5)
        {
            ink.Line(x(latest), ground, x(latest), ground - 16, "tl-post");
        }
    }

    private static void Rope(TimelineView view, Plan plan, string who, int person, Ink ink, Func<double, double> x)
    {
        var tasks = view.Layout!.Instance.Tasks.ToDictionary(t => t.Key);
        var own = view
            .Layout.Schedule.Tasks.Where(p => p.Who == who && !view.Layout.Instance.Begun.ContainsKey(p.Key))
            .OrderBy(p => p.Start)
            .ToArray();
        if (own.Length == 0)
        {
            return;
        }

        int? place = null;
        // What has no place is done where one stands.
        double YOf(WorkTask t)
        {
            place = t.At ?? place ?? 0;
            var (row, height) = Row(place);
            return row + (height / 2) + ((person - ((view.Doc.People.Count - 1) / 2.0)) * 9);
        }

        var d = new System.Text.StringBuilder();
        var at = new List<(Placed Placed, WorkTask Task, double Y)>();
        foreach (var p in own)
        {
            var y = YOf(tasks[p.Key]);
            if (at.Count > 0 && at[^1] is var last && last.Y != y)
            {
                // They stay where they are until it is time to go.
                var walk = view.Layout.Instance.Walk * Instance.Eighths(last.Task.At, tasks[p.Key].At);
                d.Append('H').Append(Ink.Px(x(Math.Max(last.Placed.End, p.Start - walk))));
            }

            d.Append(d.Length == 0 ? "M" : "L")
                .Append(Ink.Px(x(p.Start)))
                .Append(' ')
                .Append(Ink.Px(y))
                .Append('H')
                .Append(Ink.Px(x(p.End)));
            at.Add((p, tasks[p.Key], y));
        }

        ink.Add($"<path class=\"tl-rope tl-who-{person % 4}\" d=\"{d}\"/>");
        string? named = null;
        double free = 0;
        foreach (var (p, t, y) in at)
        {
            var words = TaskWords.Of(plan, t);
            var what = $"{words}, {ZoneLine(t)}";
            var (from, to) = (x(p.Start), Math.Max(x(p.End), x(p.Start) + 3));
            var bar = $"d=\"M{Ink.Px(from)} {Ink.Px(y)}H{Ink.Px(to)}\"/>";
            ink.Add(
                $"<g class=\"tl-task tl-who-{person % 4}{(t.Washer ? " has-lance" : "")}{(t.Pinned is null ? "" : " is-pinned")}\""
                    + $" tabindex=\"0\" role=\"button\" data-task=\"{Ink.Escape(p.Key)}\" data-start=\"{p.Start}\">"
                    + $"<title>{Ink.Escape($"{view.Clock(p.Start)} to {view.Clock(p.End)}, {view.Names[who]}: {what}")}</title>"
                    + $"<path class=\"tl-rim\" {bar}<path class=\"tl-bar\" {bar}"
                    // A second and a third person are told from the first by their core.
                    + (person % 4 is 1 or 2 ? $"<path class=\"tl-core\" {bar}" : "")
                    + "</g>"
            );
            if (words != named && to - from > 26 && from > free)
            {
                ink.Text(from, y - 9, Shorter(words, 22), "tl-says");
                (named, free) = (words, from + (6.2 * Math.Min(22, words.Length)));
            }
        }

        var first = at[0];
        ink.Add(
            $"<g class=\"tl-letter tl-who-{person % 4}\"><circle cx=\"{Ink.Px(x(first.Placed.Start) - 2)}\" cy=\"{Ink.Px(first.Y)}\""
                + $" r=\"9\"/><text x=\"{Ink.Px(x(first.Placed.Start) - 2)}\" y=\"{Ink.Px(first.Y + 5)}\""
                + $" text-anchor=\"middle\">{Ink.Escape(view.Names[who][..1])}</text></g>"
        );
    }

    /// <summary>Where a task is, in a few words.</summary>
    public static string ZoneLine(WorkTask t) => t.Zones.Count == 0 ? "bench" : Core.Vehicles.ZoneWords.Of(t.Zones, 46);

    private static string Shorter(string words, int most) => words.Length <= most ? words : words[..(most - 1)].TrimEnd() + "…";

    private static void Axis(TimelineView view, Plan plan, Ink ink, Func<double, double> x, int span)
    {
        ink.Line(Left, Ground, Width - Right, Ground, "tl-ground");
        var begin = view.Begin;
        var step = span > 5 * 3600 ? 3600 : 1800;
        // The first whole half hour on the wall.
        var first = (step - (int)(begin.TimeOfDay.TotalSeconds % step)) % step;
        for (var s = first; s <= span; s += step)
        {
            ink.Line(x(s), Ground, x(s), Ground + 8, "tl-ground");
            ink.Text(x(s), Ground + 26, view.Clock(s), "tl-clock", "middle");
        }

        var finish = view.Layout!.Schedule.Finish;
        ink.Line(x(finish), Top - 8, x(finish), Ground, "tl-finish");
        var (low, high) = (Math.Min(view.Finish.Low, span), Math.Min(view.Finish.High, span));
        ink.Add(
            $"<rect class=\"tl-range\" x=\"{Ink.Px(x(low))}\" y=\"{Ink.Px(Ground - 5)}\""
                + $" width=\"{Ink.Px(Math.Max(2, x(high) - x(low)))}\" height=\"10\"/>"
        );
        var tasks = view.Layout.Instance.Tasks.ToDictionary(t => t.Key);
        var free = 0.0;
        foreach (
            var g in view
                .Layout.Schedule.Tasks.GroupBy(p => plan.Steps.FirstOrDefault(s => s.Key == tasks[p.Key].Step)?.Stage)
                .Where(g => g.Key is not null)
                .Select(g => (Stage: g.Key!, At: g.Min(p => p.Start)))
                .OrderBy(g => g.At)
        )
        {
            var at = x(g.At);
            if (at > free && at < Width - 60)
            {
                ink.Line(at, Ground + 36, at, Ground + 50, "tl-tick");
                ink.Text(at + 4, Ground + 49, g.Stage.Word.Replace('-', ' '), "tl-small");
                free = at + 12 + (7.0 * g.Stage.Word.Length);
            }
        }
    }
}
