using System.Buffers;
using System.Security.Cryptography;
using System.Text.Json;
using System.Text.RegularExpressions;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Contamination;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Surfaces;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Formats;

/// <summary>The site of a survey: where the work happens, its weather and what throws shade.</summary>
public static partial class SurveyFormat
{
    private static Site ReadSite(StrictJson j, Dictionary<string, JsonElement> o)
    {
        var s = o.TryGetValue("site", out var e)
            ? j.Object(
                e,
                "site",
                "place",
                "sunBlocked",
                "skyOpen",
                "latitude",
                "longitude",
                "timeZone",
                "headingDeg",
                "start",
                "airC",
                "humidityPct",
                "windMs",
                "windAt",
                "cloudOktas",
                "water",
                "waterHardnessMgL",
                "ground",
                "drain",
                "slope",
                "power",
                "neighboursClose",
                "access",
                "shadeHours",
                "shadeObjects",
                "extraction",
                "hours"
            )
            : [];
        double? N(string field, double low, double high, string unit) => j.Number(s, "site", field, low, high, unit);
        return new Site(
            j.Text(s, "site", "place", Places),
            N("sunBlocked", 0, 1, ""),
            N("skyOpen", 0, 1, ""),
            N("latitude", -90, 90, "degrees"),
            N("longitude", -180, 180, "degrees"),
            j.Text(s, "site", "timeZone"),
            N("headingDeg", 0, 360, "degrees"),
            j.Text(s, "site", "start"),
            N("airC", -30, 55, "degC"),
            N("humidityPct", 1, 100, "%"),
            N("windMs", 0, 40, "m/s"),
            j.Text(s, "site", "windAt", ["forecast10m", "panel"]),
            N("cloudOktas", 0, 8, "oktas"),
            j.Text(s, "site", "water", ["hose", "tank", "none"]),
            N("waterHardnessMgL", 0, 2000, "mg/l"),
            j.Text(s, "site", "ground", Grounds),
            j.Text(s, "site", "drain", Drains)
        )
        {
            ShadeHours = ReadShade(j, s),
            ShadeObjects = ReadObjects(j, s),
            Slope = j.Text(s, "site", "slope", Slopes),
            Power = j.Text(s, "site", "power", Powers),
            NeighboursClose = j.Flag(s, "site", "neighboursClose"),
            Access = j.Text(s, "site", "access", Accesses),
            Extraction = j.Flag(s, "site", "extraction"),
            Hours = ReadHours(j, s),
        };
    }

    private static List<Conditions.WeatherHour> ReadHours(StrictJson j, Dictionary<string, JsonElement> site)
    {
        var hours = new List<Conditions.WeatherHour>();
        foreach (var (item, path) in j.Array(site, "site", "hours"))
        {
            var h = j.Object(item, path, "at", "airC", "humidityPct", "windMs", "cloudOktas", "rainMm");
            if (j.Text(h, path, "at") is not { } text || !Zoned(text, out var at))
            {
                j.Fail(path + ".at", "is a time with its zone, like 2026-06-12T13:00+01:00");
            }
            else if (j.Number(h, path, "airC", -40, 60, "degC") is { } air && j.Number(h, path, "humidityPct", 0, 100, "%") is { } rh)
            {
                hours.Add(
                    new Conditions.WeatherHour(
                        at,
                        air,
                        rh,
                        j.Number(h, path, "windMs", 0, 60, "m/s") ?? 2,
                        j.Number(h, path, "cloudOktas", 0, 8, "oktas") ?? 4,
                        j.Number(h, path, "rainMm", 0, 200, "mm") ?? 0
                    )
                );
            }
            else
            {
                j.Fail(path, "needs airC and humidityPct");
            }
        }

        if (hours.Count > Conditions.WeatherFile.MostHours)
        {
            j.Fail("site.hours", $"holds at most {Conditions.WeatherFile.MostHours} hours");
        }

        return [.. hours.OrderBy(h => h.At)];
    }

    /// <summary>A time that carries its zone.</summary>
    internal static bool Zoned(string text, out DateTimeOffset at)
    {
        at = default;
        return text.Length > 16
            && (text.EndsWith('Z') || text.LastIndexOfAny(['+', '-']) > 10)
            && DateTimeOffset.TryParse(
                text,
                System.Globalization.CultureInfo.InvariantCulture,
                System.Globalization.DateTimeStyles.None,
                out at
            );
    }

    private static List<ShadeObject> ReadObjects(StrictJson j, Dictionary<string, JsonElement> site)
    {
        var list = new List<ShadeObject>();
        foreach (var (item, path) in j.Array(site, "site", "shadeObjects"))
        {
            var o = j.Object(item, path, "bearingDeg", "distanceM", "widthM", "heightM");
            var before = j.Failed;
            var (bearing, distance, width, height) = (
                j.Number(o, path, "bearingDeg", 0, 360, "degrees"),
                j.Number(o, path, "distanceM", 0.5, 200, "m"),
                j.Number(o, path, "widthM", 0.2, 500, "m"),
                j.Number(o, path, "heightM", 0.5, 200, "m")
            );
            if (bearing is { } b && distance is { } d && width is { } wide && height is { } h)
            {
                list.Add(new ShadeObject(b, d, wide, h));
            }
            else if (j.Failed == before)
            {
                j.Fail(path, "needs bearingDeg, distanceM, widthM and heightM");
            }
        }

        if (list.Count > 20)
        {
            j.Fail("site.shadeObjects", "hold at most 20");
        }

        return [.. list.Distinct().OrderBy(o => o.BearingDeg).ThenBy(o => o.DistanceM)];
    }

    private static List<ShadeSpan> ReadShade(StrictJson j, Dictionary<string, JsonElement> site)
    {
        var spans = new List<ShadeSpan>();
        foreach (var (item, path) in j.Array(site, "site", "shadeHours"))
        {
            if (
                item.ValueKind == JsonValueKind.Array
                && item.GetArrayLength() == 2
                && item[0].ValueKind == JsonValueKind.Number
                && item[1].ValueKind == JsonValueKind.Number
                && item[0].GetDouble() is >= 0 and var from
                && item[1].GetDouble() is <= 24 and var to
                && from < to
            )
            {
                spans.Add(new ShadeSpan(from, to));
            }
            else
            {
                j.Fail(path, "must be two hours from 0 to 24, the earlier first, for example [8, 11.5]");
            }
        }

        return [.. spans.Distinct().OrderBy(s => s.From).ThenBy(s => s.To)];
    }

    private static void WriteSite(Utf8JsonWriter w, Site s)
    {
        w.WriteStartObject("site");
        Optional(w, "place", s.Place);
        Optional(w, "sunBlocked", s.SunBlocked);
        Optional(w, "skyOpen", s.SkyOpen);
        Optional(w, "latitude", s.Latitude);
        Optional(w, "longitude", s.Longitude);
        Optional(w, "timeZone", s.TimeZone);
        Optional(w, "headingDeg", s.HeadingDeg);
        Optional(w, "start", s.Start);
        Optional(w, "airC", s.AirC);
        Optional(w, "humidityPct", s.HumidityPct);
        Optional(w, "windMs", s.WindMs);
        Optional(w, "windAt", s.WindAt);
        Optional(w, "cloudOktas", s.CloudOktas);
        Optional(w, "water", s.Water);
        Optional(w, "waterHardnessMgL", s.WaterHardnessMgL);
        Optional(w, "ground", s.Ground);
        Optional(w, "drain", s.Drain);
        if (s.ShadeHours.Count > 0)
        {
            w.WriteStartArray("shadeHours");
            foreach (var span in s.ShadeHours)
            {
                w.WriteStartArray();
                w.WriteNumberValue(span.From);
                w.WriteNumberValue(span.To);
                w.WriteEndArray();
            }

            w.WriteEndArray();
        }

        if (s.ShadeObjects.Count > 0)
        {
            w.WriteStartArray("shadeObjects");
            foreach (var o in s.ShadeObjects)
            {
                w.WriteStartObject();
                w.WriteNumber("bearingDeg", o.BearingDeg);
                w.WriteNumber("distanceM", o.DistanceM);
                w.WriteNumber("widthM", o.WidthM);
                w.WriteNumber("heightM", o.HeightM);
                w.WriteEndObject();
            }

            w.WriteEndArray();
        }

        Optional(w, "slope", s.Slope);
        Optional(w, "power", s.Power);
        if (s.NeighboursClose is { } close)
        {
            w.WriteBoolean("neighboursClose", close);
        }

        Optional(w, "access", s.Access);
        if (s.Extraction is { } extraction)
        {
            w.WriteBoolean("extraction", extraction);
        }

        if (s.Hours.Count > 0)
        {
            w.WriteStartArray("hours");
            foreach (var h in s.Hours)
            {
                w.WriteStartObject();
                w.WriteString("at", h.At.ToString("yyyy-MM-ddTHH:mm:sszzz", System.Globalization.CultureInfo.InvariantCulture));
                w.WriteNumber("airC", h.AirC);
                w.WriteNumber("humidityPct", h.HumidityPct);
                w.WriteNumber("windMs", h.WindMs);
                w.WriteNumber("cloudOktas", h.CloudOktas);
                w.WriteNumber("rainMm", h.RainMm);
                w.WriteEndObject();
            }

            w.WriteEndArray();
        }

        w.WriteEndObject();
    }
}
