using System.Globalization;
using System.Text;
using System.Text.Json;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Core.Conditions;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Data;
using ToughStart.Web.Drawing;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Stations;

/// <summary>Ribbon and dial.</summary>
public sealed partial class DayModel
{
    public static string Band(DayCell cell, double dwell) =>
        cell.Bar is not null || cell.Seconds is null ? "b-no"
        : cell.Seconds < dwell ? "b-short"
        : cell.Seconds * Catalogue.Default["safe-part"] < dwell ? "b-some"
        : "b-ok";

    /// <summary>Minutes of a cell, as short as a cell is.</summary>
    public static string Short(DayCell cell) =>
        cell.Bar is not null || cell.Seconds is not { } s ? "–"
        : s >= Catalogue.Default["not-the-limit"] ? "20+"
        : s < 30 ? FormattableString.Invariant($"{Math.Max(5, Math.Floor(s / 5) * 5):0}s")
        : s < 60 ? "½"
        : FormattableString.Invariant($"{Math.Floor(s / 60):0}{(s % 60 >= 30 ? "½" : "")}");

    /// <summary>The ribbon of starts: a bar each quarter, as high as the start is fit.</summary>
    public string Ribbon()
    {
        var s = new Ink();
        s.Add(
            "<svg class=\"ribbon\" viewBox=\"0 0 960 92\" preserveAspectRatio=\"none\" role=\"img\" aria-label=\"How well the work fits, by start\">"
        );
        if (Map!.Daylight is { } light)
        {
            double X(DateTimeOffset at) => at.TimeOfDay.TotalMinutes / 1440 * 960;
            s.Add(
                $"<rect x=\"0\" width=\"{Ink.N(X(light.Rise))}\" height=\"92\" class=\"night\"/><rect x=\"{Ink.N(X(light.Set))}\" width=\"{Ink.N(960 - X(light.Set))}\" height=\"92\" class=\"night\"/>"
            );
        }

        foreach (var start in Map.Starts)
        {
            var h = 6 + 80 * start.Fit;
            s.Add(
                $"<rect x=\"{start.Quarter * 10 + 1}\" y=\"{Ink.N(90 - h)}\" width=\"8\" height=\"{Ink.N(h)}\" class=\"{(start.Fit <= 0 ? "fit-no" : start.Fit < Catalogue.Default["day-short"] ? "fit-short" : start.Fit < Catalogue.Default["day-fits"] ? "fit-some" : "fit-all")}\"/>"
            );
        }

        return s.Add("</svg>").ToString();
    }

    /// <summary>The dial: compass, the sun's path over the day, the vehicle as it stands.</summary>
    public string Dial()
    {
        var s = new Ink();
        s.Add("<svg class=\"dial\" viewBox=\"-110 -110 220 220\" role=\"img\" aria-label=\"Sun and heading\">");
        s.Add("<circle r=\"96\" class=\"dial-rim\"/><circle r=\"64\" class=\"dial-ring\"/><circle r=\"32\" class=\"dial-ring\"/>");
        foreach (var (name, deg) in new[] { ("N", 0), ("E", 90), ("S", 180), ("W", 270) })
        {
            var (x, y) = Polar(deg, 104);
            s.Text(x, y + 5, name, "dial-name", "middle");
        }

        foreach (var o in Job.Survey.Site.ShadeObjects)
        {
            // A wall as the sun sees it: from the horizon in to how high it stands.
            var half = Math.Atan2(o.WidthM / 2, o.DistanceM) * 180 / Math.PI;
            var high = 96 * (90 - Math.Max(0, Math.Atan2(o.HeightM - Catalogue.Default["panel-height"], o.DistanceM) * 180 / Math.PI)) / 90;
            var edge = Enumerable.Range(0, 9).Select(i => o.BearingDeg - half + i * half / 4).ToArray();
            s.Add(
                $"<polygon class=\"dial-wall\" points=\"{string.Join(' ', edge.Select(b => Polar(b, 96)).Concat(edge.Reverse().Select(b => Polar(b, high))).Select(p => $"{Ink.N(p.X)},{Ink.N(p.Y)}"))}\"/>"
            );
        }

        var up = Map!.Quarters.Where(q => q.Sun.Altitude > 0).Select(q => Polar(q.Sun.Azimuth, 96 * (90 - q.Sun.Altitude) / 90)).ToArray();
        if (up.Length > 1)
        {
            s.Add($"<polyline class=\"dial-path\" points=\"{string.Join(' ', up.Select(p => $"{Ink.N(p.X)},{Ink.N(p.Y)}"))}\"/>");
        }

        s.Add(
            $"<g class=\"dial-car\" transform=\"rotate({Ink.N(Job.Survey.Site.HeadingDeg ?? 0)})\"><path d=\"M-9 22V-12Q-9 -24 0 -24T9 -12V22Q9 26 5 26H-5Q-9 26 -9 22Z\"/><path d=\"M-6 -8H6L5 -1H-5Z\" class=\"dial-glass\"/></g>"
        );
        return s.Add("<circle class=\"dial-sun\" r=\"8\"/></svg>").ToString();

        static (double X, double Y) Polar(double bearing, double r) =>
            (r * Math.Sin(bearing * Math.PI / 180), -r * Math.Cos(bearing * Math.PI / 180));
    }
}
