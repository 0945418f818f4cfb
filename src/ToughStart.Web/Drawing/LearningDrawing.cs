using ToughStart.Core.Learning;

namespace ToughStart.Web.Drawing;

/// <summary>
/// How a factor narrowed down, job by job: the band that holds it in 90 of 100 cases, each job's own word as a tick, and what
/// counts now.
/// </summary>
internal static class LearningDrawing
{
    private const double Width = 420,
        Height = 118,
        Left = 44,
        Right = 12,
        Top = 8,
        Foot = 96;

    public static string Funnel(IReadOnlyList<JobLearnt> jobs, double now, string label)
    {
        var all = jobs.Select(j => j.After).Prepend(jobs[0].Before).ToArray();
        var (low, high) = (Math.Min(0.5, Math.Min(now, all.Min(a => a.Low))), Math.Max(1.6, Math.Max(now, all.Max(a => a.High))));
        double Y(double factor) => Foot - ((Math.Log(factor) - Math.Log(low)) / (Math.Log(high) - Math.Log(low)) * (Foot - Top));
        double X(int i) => Left + (i * (Width - Left - Right) / Math.Max(1, all.Length - 1));
        var s = new Ink();
        s.Add($"<svg class=\"funnel\" viewBox=\"0 0 {Ink.N(Width)} {Ink.N(Height)}\" role=\"img\" aria-label=\"{Ink.Escape(label)}\">");
        s.Add(
            $"<path class=\"funnel-band\" d=\"M{string.Join('L', all.Select((a, i) => $"{Ink.N(X(i))} {Ink.N(Y(a.High))}"))}L{string.Join('L', all.Select((a, i) => $"{Ink.N(X(i))} {Ink.N(Y(a.Low))}").Reverse())}Z\"/>"
        );
        foreach (var f in new[] { 0.5, 0.7, 1, 1.4, 2 }.Where(f => f >= low && f <= high))
        {
            s.Line(Left, Y(f), Width - Right, Y(f), f == 1 ? "funnel-one" : "funnel-rule");
            s.Text(Left - 6, Y(f) + 5, FormattableString.Invariant($"× {f:0.#}"), "funnel-word", "end");
        }

        for (var i = 0; i < jobs.Count; i++)
        {
            var own = Math.Clamp(jobs[i].Alone.Factor, low, high);
            s.Line(X(i + 1), Y(own) - 4, X(i + 1), Y(own) + 4, "funnel-job");
        }

        s.Add($"<path class=\"funnel-mean\" d=\"M{string.Join('L', all.Select((a, i) => $"{Ink.N(X(i))} {Ink.N(Y(a.Factor))}"))}\"/>");
        s.Line(X(0), Y(now), X(all.Length - 1), Y(now), "funnel-now");
        s.Text(Left, Height - 4, $"job {jobs[0].Job}", "funnel-word")
            .Text(Width - Right, Height - 4, $"job {jobs[^1].Job}", "funnel-word", "end");
        return s.Add("</svg>").ToString();
    }
}
