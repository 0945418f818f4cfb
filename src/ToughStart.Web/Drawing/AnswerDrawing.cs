namespace ToughStart.Web.Drawing;

/// <summary>What an answer looks like, so that faint means the same to everybody.</summary>
internal static class AnswerDrawing
{
    /// <summary>A small drawing of an answer to a look; empty where words are enough.</summary>
    public static string Svg(string look, string answer) =>
        Inside(look, answer) is { Length: > 0 } inside
            ? $"<svg class=\"answer-seen\" viewBox=\"0 0 40 28\" aria-hidden=\"true\"><rect class=\"seen-panel\" width=\"40\" height=\"28\"/>{inside}</svg>"
            : "";

    private static string Inside(string look, string answer) =>
        (look, answer) switch
        {
            ("bleed", "none") => Drops("#e8eef0", 3),
            ("bleed", "faint") => Drops("#cdb4dc", 3) + Run("#cdb4dc", 1),
            ("bleed", "strong") => Drops("#5d1f86", 4) + Run("#5d1f86", 3),
            ("light", "nothing") => "<path class=\"seen-line\" d=\"M4 24L36 5\"/><path class=\"seen-line\" d=\"M8 26L38 9\"/>",
            ("light", "damage") => "<path class=\"seen-line\" d=\"M4 24L36 5M14 8l10 13m-3 -15l6 9\"/>",
            ("light", "dirt") =>
                "<path class=\"seen-line\" d=\"M4 24L36 5\"/><circle cx=\"13\" cy=\"10\" r=\"2\"/><circle cx=\"22\" cy=\"19\" r=\"2.4\"/><circle cx=\"29\" cy=\"13\" r=\"1.6\"/>",
            ("touch", "smooth") => "<path class=\"seen-line\" d=\"M3 18Q20 15 37 18\"/>",
            ("touch", "grainy") => "<path class=\"seen-line\" d=\"M3 18h6l1 -2l1 2h9l1 -2l1 2h8l1 -2l1 2h6\"/>",
            ("touch", "rough") =>
                "<path class=\"seen-line\" d=\"M3 18l2 -4l2 4l2 -5l2 5l2 -3l2 3l2 -5l2 5l2 -4l2 4l2 -5l2 5l2 -4l2 4l2 -3l2 3\"/>",
            ("water", "beads") => Beads(3, 34),
            ("water", "mixed") => Beads(3, 18) + "<path class=\"seen-water\" d=\"M21 7q10 -3 17 2v10q-8 4 -17 1Z\"/>",
            ("water", "sheets") => "<path class=\"seen-water\" d=\"M2 4h36l-4 20l-7 -7l-6 7l-7 -6l-6 6Z\"/>",
            ("water", "flat") => "<path class=\"seen-water\" d=\"M2 4h36v20H2Z\"/>",
            ("foam", "white") => Foam("#ffffff"),
            ("foam", "tan") => Foam("#d9bd8d"),
            ("foam", "brown") => Foam("#7d5730"),
            ("cloth", "clean") => Cloth("", ""),
            ("cloth", "grey") => Cloth("<path d=\"M9 12q12 -6 22 2q-8 8 -20 5Z\" fill=\"#9a9f9c\"/>", ""),
            ("cloth", "gritty") => Cloth("<path d=\"M9 12q12 -6 22 2q-8 8 -20 5Z\" fill=\"#8d8577\"/>", Grains()),
            ("cloth", "smear") => Cloth("<path d=\"M10 16q10 -10 20 -4l-3 5q-8 4 -15 3Z\" fill=\"#3b2a1c\"/>", ""),
            ("clayFace", "black-lumps") => Cloth(
                "",
                "<circle cx=\"14\" cy=\"12\" r=\"3\"/><circle cx=\"24\" cy=\"17\" r=\"3.6\"/><circle cx=\"29\" cy=\"10\" r=\"2\"/>"
            ),
            _ => "",
        };

    private static string Drops(string colour, int n) =>
        string.Concat(
            Enumerable
                .Range(0, n)
                .Select(i =>
                    $"<circle cx=\"{8 + i * 9}\" cy=\"{9 + i % 2 * 5}\" r=\"3\" fill=\"{colour}\" stroke=\"#1b2320\" stroke-width=\".6\"/>"
                )
        );

    private static string Run(string colour, int n) =>
        string.Concat(
            Enumerable
                .Range(0, n)
                .Select(i => $"<path d=\"M{8 + i * 9} 12q1 8 0 14\" stroke=\"{colour}\" stroke-width=\"2.4\" fill=\"none\"/>")
        );

    private static string Beads(int from, int to) =>
        string.Concat(
            Enumerable
                .Range(0, (to - from) / 6 + 1)
                .SelectMany(i => new[] { (X: from + 4 + i * 6, Y: 9), (X: from + 2 + i * 6, Y: 18) })
                .Where(p => p.X < 38)
                .Select(p => $"<circle class=\"seen-water\" cx=\"{p.X}\" cy=\"{p.Y}\" r=\"2.3\"/>")
        );

    private static string Foam(string colour) =>
        $"<path d=\"M4 20q-2 -8 6 -9q2 -6 9 -4q6 -5 11 2q8 1 6 11Z\" fill=\"{colour}\" stroke=\"#1b2320\" stroke-width=\"1\"/>";

    private static string Cloth(string under, string over) =>
        $"<path d=\"M5 5h30v18H5Z\" fill=\"#fff\" stroke=\"#1b2320\" stroke-width=\"1\"/>{under}{over}";

    private static string Grains() =>
        string.Concat(
            new[] { (12, 13), (17, 11), (20, 16), (25, 13), (28, 15), (15, 17) }.Select(p =>
                $"<circle cx=\"{p.Item1}\" cy=\"{p.Item2}\" r=\"1.1\" fill=\"#1b2320\"/>"
            )
        );
}
