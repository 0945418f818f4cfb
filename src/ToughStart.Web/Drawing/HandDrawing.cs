using ToughStart.Core;
using ToughStart.Core.Planning;
using ToughStart.Core.Readiness;
using ToughStart.Core.Vehicles;
using ToughStart.Web.Stations;

namespace ToughStart.Web.Drawing;

/// <summary>The hand-over's drawing: what goes on where, and how far it has come.</summary>
internal static class HandDrawing
{
    /// <summary>Hatches, told apart in grey as well: ruled, blank, dotted, solid, faint.</summary>
    private const string Defs =
        "<pattern id=\"hand-correct\" width=\".2\" height=\".085\" patternUnits=\"userSpaceOnUse\"><path d=\"M0 .04H.2\" class=\"gate-rule\"/></pattern>"
        + "<pattern id=\"hand-coated\" width=\".14\" height=\".14\" patternUnits=\"userSpaceOnUse\"><rect width=\".14\" height=\".14\" class=\"hand-film\"/><circle cx=\".05\" cy=\".05\" r=\".026\" class=\"hand-bead\"/><circle cx=\".115\" cy=\".105\" r=\".018\" class=\"hand-bead\"/></pattern>"
        + "<pattern id=\"hand-waits\" width=\".12\" height=\".12\" patternUnits=\"userSpaceOnUse\" patternTransform=\"rotate(48)\"><path d=\"M0 .03V.095\" class=\"gate-broken\"/></pattern>";

    /// <summary>How a group is drawn.</summary>
    public static string Of(HandGroup g) => Of(g.Goal, g.Word, g.Coat is { TakenBy: null });

    private static string Of(Goal goal, GateWord word, bool coated) =>
        coated ? "coated"
        : word is GateWord.Repeat or GateWord.Refer ? "not"
        : word != GateWord.Ready ? "waits"
        : goal == Goal.Correct ? "correct"
        : "protect";

    public static string Say(HandGroup g) =>
        Of(g) switch
        {
            "coated" => "protected",
            "not" => g.Word == GateWord.Repeat ? "not yet: to be repeated" : "not here: referred",
            "waits" => "not proven at the gate",
            "correct" => "to correction",
            _ => "to protection",
        };

    public static IEnumerable<(string Id, string Words, int Count)> Keys(HandStanding at) =>
        new[]
        {
            ("correct", "to correction"),
            ("protect", "to protection"),
            ("coated", "protected"),
            ("waits", "not proven"),
            ("not", "repeat or refer first"),
        }
            .Select(k => (k.Item1, k.Item2, at.Groups.Where(g => Of(g) == k.Item1).Sum(g => g.Zones.Count)))
            .Where(k => k.Item3 > 0);

    public static string Key(string id) =>
        $"<svg class=\"gate-key hand-key\" viewBox=\"0 0 .6 .36\" aria-hidden=\"true\"><rect x=\".01\" y=\".01\" width=\".58\" height=\".34\" class=\"hand-{id}\"/></svg>";

    public static string Net(Vehicle v, HandStanding at)
    {
        const double margin = .12;
        var s = new Ink();
        var (w, h) = (v.Max.X - v.Min.X + (2 * margin), v.Max.Y - v.Min.Y + (2 * margin));
        s.Add(
            $"<svg class=\"gate-net hand-net\" viewBox=\"{Ink.N(v.Min.X - margin)} {Ink.N(v.Min.Y - margin)} {Ink.N(w)} {Ink.N(h)}\" role=\"img\" aria-label=\"The vehicle: what goes on where\"><defs>{Defs}</defs>"
        );
        foreach (var z in v.Zones)
        {
            var of = at.Zones.GetValueOrDefault(z.Id);
            var id = of is null ? "none" : Of(of.Goal, of.Word, at.Coats.GetValueOrDefault(z.Id) is { TakenBy: null });
            s.Add(
                $"<path d=\"{NetDrawing.PathOf(z)}\" fill-rule=\"evenodd\" class=\"hand-{id}\"><title>{Ink.Escape(Limits.Words(z.Id))}</title></path>"
            );
        }

        return s.Add("</svg>").ToString();
    }
}
