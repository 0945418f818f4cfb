using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Running;
using ToughStart.Core.Vehicles;

namespace ToughStart.Web.Drawing;

/// <summary>What is painted on one zone of the net.</summary>
/// <param name="Overlays">Contaminant and grade, outermost last.</param>
/// <param name="State">"found", "none" (looked, none), "unlooked", or "bare" where dirt is not what the net is about.</param>
public sealed record ZonePaint(IReadOnlyList<(string Kind, int Grade)> Overlays, string State, string Label)
{
    /// <summary>Only its place: nothing is said of dirt, and nothing happens when it is pressed.</summary>
    public static ZonePaint Bare { get; } = new([], "bare", "");
}

/// <summary>The vehicle unfolded flat, as SVG in metres. Script paints on the same groups later.</summary>
internal static class NetDrawing
{
    /// <summary>More textures than this on one zone cannot be told apart; the heaviest are drawn, all are named.</summary>
    public const int MostDrawn = 3;

    /// <param name="away">It leaves the house, and takes along all it needs.</param>
    public static string Svg(
        Vehicle v,
        string? colour,
        IReadOnlyDictionary<string, ZonePaint> paint,
        string label,
        bool defs = true,
        bool live = true,
        IReadOnlySet<string>? marked = null,
        IReadOnlyDictionary<string, int>? photos = null,
        bool away = false
    )
    {
        const double margin = 0.12;
        var from = away ? "" : Outlines.Address(v);
        var outlines = away ? Outlines.Drawn(v) : "";
        v = Enlarged(v);
        var s = new Ink();
        var (w, h) = (v.Max.X - v.Min.X + 2 * margin, v.Max.Y - v.Min.Y + 2 * margin);
        s.Add(
            $"<svg class=\"net{(marked is { Count: > 0 } ? " focusing" : "")}\" viewBox=\"{Ink.N(v.Min.X - margin)} {Ink.N(v.Min.Y - margin)} {Ink.N(w)} {Ink.N(h)}\" role=\"{(live ? "group" : "img")}\" aria-label=\"{Ink.Escape(label)}\">"
        );
        if (defs)
        {
            s.Add("<defs>")
                .Add(outlines)
                .Add(Textures.StateDefs())
                .Add(Textures.Defs(paint.Values.SelectMany(p => p.Overlays), within: away))
                .Add("</defs>");
        }

        // Every outline is written once and used by name, for each of its layers.
        string Part(string id, string attributes) => $"<use href=\"{from}#{id}\"{attributes}/>";
        s.Add(live ? Part(Outlines.Net, " class=\"shadow\"") : "");
        var first = true;
        foreach (var z in v.Zones)
        {
            var p = paint.GetValueOrDefault(z.Id) ?? new ZonePaint([], "unlooked", "not looked");
            var c = z.Shapes.MaxBy(x => x.Area)!.Anchor;
            s.Add($"<g class=\"zone k-{z.Kind.Id} is-{p.State}{(marked?.Contains(z.Id) == true ? " in-step" : "")}\"");
            s.Add(
                !live ? ">"
                : p.State == ZonePaint.Bare.State ? $" data-zone=\"{z.Id}\">"
                : $" data-zone=\"{z.Id}\" data-cx=\"{Ink.N(c.X)}\" data-cy=\"{Ink.N(c.Y)}\"{Room(z)}"
                    + $" data-family=\"{z.Kind.Default.Family}\" role=\"button\" tabindex=\"{(first ? 0 : -1)}\""
                    + $" aria-label=\"{Ink.Escape(Limits.Words(z.Id) + ": " + p.Label)}\">"
            );
            first = false;
            s.Add(Part(z.Id, $" class=\"base\" fill=\"{Ground(z, colour)}\""));
            s.Add("<g class=\"overlays\">");
            foreach (var (kind, grade) in p.Overlays)
            {
                s.Add(Part(z.Id, $" fill=\"url(#tx-{kind}-{grade})\""));
            }

            if (p.State is "none" or "unlooked")
            {
                s.Add(Part(z.Id, $" fill=\"url(#tx-{p.State})\""));
            }

            s.Add("</g>").Add(Part(z.Id, " class=\"edge\"")).Add("</g>");
        }

        s.Add(Part(live ? Outlines.Decor : Outlines.Plain, " class=\"decor\""));
        foreach (var z in v.Zones.Where(z => photos?.ContainsKey(z.Id) == true))
        {
            // A small camera where photos hang.
            var c = z.Shapes.MaxBy(x => x.Area)!.Anchor;
            s.Add(
                $"<g class=\"has-photo\" transform=\"translate({Ink.N(c.X)} {Ink.N(c.Y)})\"><title>{photos![z.Id]} photos of {Ink.Escape(Limits.Words(z.Id))}</title><rect x=\"-.11\" y=\"-.075\" width=\".22\" height=\".15\" rx=\".02\"/><path d=\"M-.05 -.075l.02 -.035h.06l.02 .035Z\"/><circle r=\".045\"/></g>"
            );
        }

        return s.Add("</svg>").ToString();
    }

    /// <summary>Least side of a zone on which there is room for a number, metres.</summary>
    private const double RoomFrom = 0.3;

    /// <summary>Where a number has room on a zone; a ring, or a zone in pieces, has its middle outside.</summary>
    private static string Room(Zone z)
    {
        var (x0, y0, x1, y1) = Around(z.Shapes.SelectMany(x => x.Outline));
        var middle = new Pt((x0 + x1) / 2, (y0 + y1) / 2);
        return Math.Min(x1 - x0, y1 - y0) >= RoomFrom && z.Shapes.Count(x => x.Holds(middle)) % 2 == 1
            ? $" data-room=\"{Ink.N(middle.X)} {Ink.N(middle.Y)}\""
            : "";
    }

    /// <summary>Small vehicles are drawn twice as large, so that line widths and textures suit them.</summary>
    public static Vehicle Enlarged(Vehicle v)
    {
        if (v.Size.Length >= SmallBelow)
        {
            return v;
        }

        Pt Larger(Pt p) => p * 2;
        return v with
        {
            Zones = [.. v.Zones.Select(z => z with { Shapes = [.. z.Shapes.Select(x => x.Map(Larger))] })],
            Decor = [.. v.Decor.Select(d => d with { Points = [.. d.Points.Select(Larger)] })],
            Min = v.Min * 2,
            Max = v.Max * 2,
        };
    }

    private const double SmallBelow = 2.4;

    /// <summary>The left side alone, wheels put back in their arches: a picture to choose a body by.</summary>
    public static string Side(Vehicle v, string? colour)
    {
        var (x0, y0, x1, y1) = Around(Sides(v).SelectMany(x => x.Shape.Outline.Select(p => new Pt(p.X, p.Y + x.Lift))));
        const double margin = 0.04;
        return $"<svg class=\"side-view\" viewBox=\"{Ink.N(x0 - margin)} {Ink.N(y0 - margin)} {Ink.N(x1 - x0 + 2 * margin)} {Ink.N(y1 - y0 + 2 * margin)}\" aria-hidden=\"true\">"
            + $"<use href=\"{Outlines.Side(v)}\" fill=\"{Tint(colour)}\"/></svg>";
    }

    /// <summary>The side as it stands in the file of outlines: paint takes the colour it is used with.</summary>
    public static string SideDrawn(Vehicle v) =>
        string.Concat(
            Sides(v)
                .Select(x =>
                    $"<path d=\"{Ink.Path(x.Shape, small: true)}\" fill-rule=\"evenodd\""
                    + (x.Lift == 0 ? "" : $" transform=\"translate(0 {Ink.N(x.Lift)})\"")
                    + (Painted(x.Zone) ? "" : $" fill=\"{Ground(x.Zone, null)}\"")
                    + "/>"
                )
        );

    /// <summary>What is seen from the left, and how far it is lifted from where the net has it; wheels last.</summary>
    private static IEnumerable<(Zone Zone, Shape Shape, double Lift)> Sides(Vehicle v)
    {
        // Side elevations begin outside the half width of the top strip.
        var from = v.Size.Width / 2 + 0.1;
        var sill = v.Has("left-sill") ? v["left-sill"].Shapes[0].Outline.Max(p => p.Y) : double.PositiveInfinity;
        double Lift(Zone z) =>
            z.Kind.Id is not ("tyre" or "wheel-face") || double.IsPositiveInfinity(sill)
                ? 0
                : v[z.Corner + "-arch"].Shapes[0].Outline.Min(p => p.Y) + 0.06 - v[z.Corner + "-tyre"].Shapes[0].Outline.Min(p => p.Y);
        return v
            .Zones.Where(z => z.Kind.Id is not ("wheel-barrel" or "behind-caliper" or "spoke-backs" or "underbody" or "mirror"))
            .SelectMany(z => z.Shapes.Select(x => (Zone: z, Shape: x, Lift: Lift(z))))
            .Where(x => x.Shape.Outline.Min(p => p.Y) > from)
            .OrderBy(x => x.Zone.Kind.Id is "tyre" or "wheel-face");
    }

    private static (double X0, double Y0, double X1, double Y1) Around(IEnumerable<Pt> points)
    {
        Pt[] all = [.. points];
        return (all.Min(p => p.X), all.Min(p => p.Y), all.Max(p => p.X), all.Max(p => p.Y));
    }

    /// <summary>The net at the size of a thumb, black where a step works.</summary>
    public static string Mini(Vehicle vehicle, IEnumerable<string> zones)
    {
        const double margin = 0.06;
        var (from, v) = (Outlines.Address(vehicle), Enlarged(vehicle));
        var (w, h) = (v.Max.X - v.Min.X + 2 * margin, v.Max.Y - v.Min.Y + 2 * margin);
        var on = zones.ToHashSet();
        return $"<svg class=\"mini\" viewBox=\"{Ink.N(v.Min.X - margin)} {Ink.N(v.Min.Y - margin)} {Ink.N(w)} {Ink.N(h)}\" aria-hidden=\"true\">"
            + $"<use href=\"{from}#{Outlines.Net}\" class=\"mini-off\"/><g class=\"mini-on\">"
            + string.Concat(v.Zones.Where(z => on.Contains(z.Id)).Select(z => $"<use href=\"{from}#{z.Id}\"/>"))
            + "</g></svg>";
    }

    /// <summary>How a survey looks: found where anything was found, "none" where somebody looked, else not looked.</summary>
    public static IReadOnlyDictionary<string, ZonePaint> OfSurvey(Survey survey, string? only = null)
    {
        var c = Catalogue.Default;
        var result = new Dictionary<string, ZonePaint>();
        foreach (var z in survey.Zones)
        {
            var findings = z.Findings.Where(f => only is null || f.Contaminant == only).ToArray();
            var found = findings
                .Where(f => f.Grade > 0)
                .OrderByDescending(f => f.Grade)
                .ThenBy(f => c.Contaminant(f.Contaminant).Layer)
                .ToArray();
            var drawn = found
                .Take(MostDrawn)
                .OrderByDescending(f => Textures.Covers(f.Contaminant))
                .ThenByDescending(f => c.Contaminant(f.Contaminant).Layer);
            var state =
                found.Length > 0 ? "found"
                : findings.Length > 0 ? "none"
                : "unlooked";
            var words =
                found.Length > 0
                    ? string.Join(
                        ", ",
                        found.OrderBy(f => c.Contaminant(f.Contaminant).Layer).Select(f => $"{c.Contaminant(f.Contaminant).Name} {f.Grade}")
                    )
                : state == "none" ? "looked, none"
                : "not looked";
            result[z.Zone] = new ZonePaint(drawn.Select(f => (f.Contaminant, f.Grade)).ToArray(), state, words);
        }

        return result;
    }

    /// <summary>How a run has left the vehicle: what is believed to lie there still, by half the chance.</summary>
    public static IReadOnlyDictionary<string, ZonePaint> OfRun(RunGround ground, RunState state)
    {
        var c = ground.Catalogue;
        var result = new Dictionary<string, ZonePaint>();
        foreach (var z in ground.States)
        {
            var lies = Enumerable
                .Range(0, Kinds.Residue)
                .Where(k => c.Contaminants[k].IsDirt && (z.Survey?.FindingOf(c.Contaminants[k].Id) is { Grade: > 0 }))
                .Select(k => (Kind: c.Contaminants[k].Id, Grade: LoadWords.GradeOf(Run.Believed(state, ground, z, k)?.Quantile(0.5) ?? 0)))
                .Where(k => k.Grade > 0)
                .OrderByDescending(k => k.Grade)
                .ToArray();
            var worked = state.Of(z.Zone.Id).Rounds.Count > 0;
            result[z.Zone.Id] = new ZonePaint(
                [.. lies.Take(MostDrawn).OrderByDescending(k => Textures.Covers(k.Kind))],
                lies.Length > 0 ? "found"
                    : worked || z.Survey?.Findings.Count > 0 ? "none"
                    : "unlooked",
                lies.Length > 0 ? string.Join(", ", lies.Select(k => $"{c.Contaminant(k.Kind).Name} {k.Grade}"))
                    : worked ? "washed"
                    : "not worked"
            );
        }

        return result;
    }

    private static readonly System.Runtime.CompilerServices.ConditionalWeakTable<Zone, string> Paths = new();

    /// <summary>The outline of a zone as a path; vehicles are kept, so their paths are too.</summary>
    public static string PathOf(Zone z) => Paths.GetValue(z, x => string.Concat(x.Shapes.Select(shape => Ink.Path(shape))));

    /// <summary>What a zone is drawn in while nothing lies on it: its paint, or what else it is made of.</summary>
    private static string Ground(Zone z, string? colour) =>
        z.Kind.Id switch
        {
            _ when Painted(z) => Tint(colour),
            "glass" => "#d3e3e7",
            "lamp" => "#f0e6c4",
            "tyre" => "#5b605d",
            "wheel-face" or "wheel-barrel" => "#d0d3d0",
            "arch" => "#8c918d",
            "grille" or "trim" or "bed" => "#a7aca7",
            "seal" => "#6f7571",
            "badge" or "tip" => "#e3e5e0",
            _ => "#d9dcd6",
        };

    private static bool Painted(Zone z) =>
        z.Kind.Id is "panel" or "tank" or "frame" or "gutter" or "bumper" or "mirror" or "sill" or "shut" or "filler";

    /// <summary>The paint's colour thinned onto the paper, so that dirt stays readable on black cars.</summary>
    private static string Tint(string? colour)
    {
        if (colour is not { Length: 7 })
        {
            return "#d9dcd6";
        }

        const double keep = .34;
        int Channel(int at, int paper) => (int)Math.Round(Convert.ToInt32(colour.Substring(at, 2), 16) * keep + paper * (1 - keep));
        return $"#{Channel(1, 0xf1):x2}{Channel(3, 0xf2):x2}{Channel(5, 0xec):x2}";
    }
}
