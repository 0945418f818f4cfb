using ToughStart.Core.Planning;
using ToughStart.Core.Running;

namespace ToughStart.Web.Drawing;

/// <summary>As planned and as done, stage by stage: an outline for the plan, filled by whoever worked.</summary>
internal static class CloseDrawing
{
    private const double Width = 640,
        Row = 34,
        Left = 118,
        Right = 92;

    public static string Stages(Reckoned r, IReadOnlyDictionary<string, string> names)
    {
        var stages = r.PlannedMinutes.Select(p => p.Stage).Union(r.Times.Select(t => t.Stage)).ToArray();
        var people = r.Times.Select(t => t.Who).Distinct().Order(StringComparer.Ordinal).ToList();
        var most = Math.Max(1, stages.Max(s => Math.Max(Planned(s), r.Times.Where(t => t.Stage == s).Sum(t => t.Seconds) / 60.0)));
        double X(double minutes) => minutes / most * (Width - Left - Right);
        var s = new Ink();
        s.Add(
            $"<svg class=\"done-bars\" viewBox=\"0 0 {Ink.N(Width)} {Ink.N((stages.Length * Row) + 6)}\" role=\"img\" aria-label=\"Minutes by stage, as planned and as done\"><defs>"
        );
        for (var i = 0; i < 3; i++)
        {
            s.Add(
                $"<pattern id=\"who-{i}\" width=\"7\" height=\"7\" patternUnits=\"userSpaceOnUse\" patternTransform=\"rotate({i * 60})\"><rect width=\"7\" height=\"7\" class=\"who-ground\"/><path d=\"M0 3.5H7\" class=\"who-{i}\"/></pattern>"
            );
        }

        s.Add("</defs>");
        foreach (var (stage, i) in stages.Select((x, i) => (x, i)))
        {
            var y = 4 + (i * Row);
            var (planned, done) = (Planned(stage), r.Times.Where(t => t.Stage == stage).ToArray());
            s.Text(0, y + 19, stage.Word.Replace('-', ' '), "done-stage");
            s.Add(
                $"<rect class=\"done-plan\" x=\"{Ink.N(Left)}\" y=\"{Ink.N(y)}\" width=\"{Ink.N(X(planned))}\" height=\"{Ink.N(Row - 8)}\"/>"
            );
            var x = Left;
            foreach (var t in done)
            {
                var w = X(t.Seconds / 60.0);
                s.Add(
                    $"<rect x=\"{Ink.N(x)}\" y=\"{Ink.N(y + 7)}\" width=\"{Ink.N(w)}\" height=\"{Ink.N(Row - 22)}\" fill=\"url(#who-{people.IndexOf(t.Who) % 3})\"><title>{Ink.Escape(names.GetValueOrDefault(t.Who, t.Who))}: {t.Seconds / 60.0:0.#} min</title></rect>"
                );
                x += w;
            }

            var words =
                done.Length > 0
                    ? FormattableString.Invariant($"{done.Sum(t => t.Seconds) / 60.0:0.#} of {planned} min")
                    : FormattableString.Invariant($"{planned} min");
            s.Text(Width, y + 19, words, "done-min", "end");
        }

        return s.Add("</svg>").ToString();

        double Planned(Stage stage) => r.PlannedMinutes.FirstOrDefault(p => p.Stage == stage).Minutes;
    }

    /// <summary>A person's hatch, for the key.</summary>
    public static string Key(int person) =>
        $"<svg class=\"gate-key\" viewBox=\"0 0 50 30\" aria-hidden=\"true\"><rect x=\"1\" y=\"1\" width=\"48\" height=\"28\""
        + $" class=\"done-key who-fill-{person % 3}\"/></svg>";
}
