using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using ToughStart.Core.Conditions;

namespace ToughStart.Core.Formats;

/// <summary>The site of a survey: where the work happens, its weather and what throws shade.</summary>
internal static class SitePart
{
    private const int MostShadeObjects = 20;

    /// <summary>A place about which nothing is said.</summary>
    public static Site Unsaid { get; } =
        new(null, null, null, null, null, null, null, null, null, null, null, null, null, null, null, null, null);

    private static readonly Part<WeatherHour> HourPart = new Part<WeatherHour>(v =>
        new(
            ZonedTime.Read(v.Get<string>("at"))!.Value,
            v.Get<double>("airC"),
            v.Get<double>("humidityPct"),
            v.Get("windMs", 2.0),
            v.Get("cloudOktas", 4.0),
            v.Get("rainMm", 0.0)
        )
    )
        .Called("WeatherHour")
        .With("at", ZonedTime.Holds, h => ZonedTime.Write(h.At))
        .With("airC", Hold.Number(-40, 60, unit: "degC"), h => h.AirC)
        .With("humidityPct", Hold.Number(0, 100, unit: "%"), h => h.HumidityPct)
        .Or("windMs", Hold.Number(0, 60, unit: "m/s"), h => h.WindMs)
        .Or("cloudOktas", Hold.Number(0, 8, unit: "oktas"), h => h.CloudOktas)
        .Or("rainMm", Hold.Number(0, 200, unit: "mm"), h => h.RainMm);

    private static readonly Part<ShadeObject> ShadeObjectPart = new Part<ShadeObject>(v =>
        new(v.Get<double>("bearingDeg"), v.Get<double>("distanceM"), v.Get<double>("widthM"), v.Get<double>("heightM"))
    )
        .Called("ShadeObject")
        .With("bearingDeg", Hold.Number(0, 360, unit: "degrees"), o => o.BearingDeg)
        .With("distanceM", Hold.Number(0.5, 200, unit: "m"), o => o.DistanceM)
        .With("widthM", Hold.Number(0.2, 500, unit: "m"), o => o.WidthM)
        .With("heightM", Hold.Number(0.5, 200, unit: "m"), o => o.HeightM);

    /// <summary>Two hours of the day, written as a pair.</summary>
    private static readonly Holds<ShadeSpan> Span = new(
        (w, s) =>
        {
            w.WriteStartArray();
            w.WriteNumberValue(s.From);
            w.WriteNumberValue(s.To);
            w.WriteEndArray();
        },
        (j, e, path) =>
        {
            if (
                e.ValueKind == JsonValueKind.Array
                && e.GetArrayLength() == 2
                && e[0].ValueKind == JsonValueKind.Number
                && e[1].ValueKind == JsonValueKind.Number
                && e[0].GetDouble() is >= 0 and var from
                && e[1].GetDouble() is <= 24 and var to
                && from < to
            )
            {
                return (true, new ShadeSpan(from, to));
            }

            j.Fail(path, "must be two hours from 0 to 24, the earlier first, for example [8, 11.5]");
            return (false, default);
        },
        () => new JsonObject { ["type"] = "array", ["items"] = Hold.Number(0, 24).Schema() }
    );

    // One field a line.
    // csharpier-ignore
    public static Part<Site> Part { get; } = new Part<Site>(v =>
            new(
                v.Text("place"),
                v.Number("sunBlocked"),
                v.Number("skyOpen"),
                v.Number("latitude"),
                v.Number("longitude"),
                v.Text("timeZone"),
                v.Number("headingDeg"),
                v.Text("start"),
                v.Number("airC"),
                v.Number("humidityPct"),
                v.Number("windMs"),
                v.Text("windAt"),
                v.Number("cloudOktas"),
                v.Text("water"),
                v.Number("waterHardnessMgL"),
                v.Text("ground"),
                v.Text("drain")
            )
            {
                ShadeHours = v.Get<IReadOnlyList<ShadeSpan>>("shadeHours", []),
                ShadeObjects = v.Get<IReadOnlyList<ShadeObject>>("shadeObjects", []),
                Slope = v.Text("slope"),
                Power = v.Text("power"),
                NeighboursClose = v.Flag("neighboursClose"),
                Access = v.Text("access"),
                Extraction = v.Flag("extraction"),
                Hours = v.Get<IReadOnlyList<WeatherHour>>("hours", []),
            }
        )
        .Called("Site")
        .MayBe("place", Hold.OneOf(SurveyWords.Places), s => s.Place)
        .May("sunBlocked", Hold.Number(0, 1), s => s.SunBlocked)
        .May("skyOpen", Hold.Number(0, 1), s => s.SkyOpen)
        .May("latitude", Hold.Number(-90, 90, unit: "degrees"), s => s.Latitude)
        .May("longitude", Hold.Number(-180, 180, unit: "degrees"), s => s.Longitude)
        .MayBe("timeZone", Hold.Short(), s => s.TimeZone)
        .May("headingDeg", Hold.Number(0, 360, unit: "degrees"), s => s.HeadingDeg)
        .MayBe("start", Hold.Short(), s => s.Start)
        .May("airC", Hold.Number(-30, 55, unit: "degC"), s => s.AirC)
        .May("humidityPct", Hold.Number(1, 100, unit: "%"), s => s.HumidityPct)
        .May("windMs", Hold.Number(0, 40, unit: "m/s"), s => s.WindMs)
        .MayBe("windAt", Hold.OneOf(SurveyWords.WindsAt), s => s.WindAt)
        .May("cloudOktas", Hold.Number(0, 8, unit: "oktas"), s => s.CloudOktas)
        .MayBe("water", Hold.OneOf(SurveyWords.WaterSupplies), s => s.Water)
        .May("waterHardnessMgL", Hold.Number(0, 2000, unit: "mg/l"), s => s.WaterHardnessMgL)
        .MayBe("ground", Hold.OneOf(SurveyWords.Grounds), s => s.Ground)
        .MayBe("drain", Hold.OneOf(SurveyWords.Drains), s => s.Drain)
        .Any("shadeHours", Hold.ListOf(Span).In(all => all.Distinct().OrderBy(s => s.From).ThenBy(s => s.To)), s => s.ShadeHours)
        .Any("shadeObjects", Hold.ListOf(ShadeObjectPart.One, MostShadeObjects).In(all => all.Distinct().OrderBy(o => o.BearingDeg).ThenBy(o => o.DistanceM)), s => s.ShadeObjects)
        .MayBe("slope", Hold.OneOf(SurveyWords.Slopes), s => s.Slope)
        .MayBe("power", Hold.OneOf(SurveyWords.Powers), s => s.Power)
        .May("neighboursClose", Hold.Flag, s => s.NeighboursClose)
        .MayBe("access", Hold.OneOf(SurveyWords.Accesses), s => s.Access)
        .May("extraction", Hold.Flag, s => s.Extraction)
        .Any("hours", Hold.ListOf(HourPart.One, WeatherFile.MostHours).In(all => all.OrderBy(h => h.At)), s => s.Hours);
}

/// <summary>A time that carries its zone.</summary>
internal static class ZonedTime
{
    public static Holds<string> Holds { get; } =
        Hold.Form(t => Read(t) is not null, "is a time with its zone, like 2026-06-12T13:00+01:00");

    /// <summary>The time, or null where the text is none or has no zone.</summary>
    public static DateTimeOffset? Read(string text) =>
        text.Length > 16
        && (text.EndsWith('Z') || text.LastIndexOfAny(['+', '-']) > 10)
        && DateTimeOffset.TryParse(text, CultureInfo.InvariantCulture, DateTimeStyles.None, out var at)
            ? at
            : null;

    public static string Write(DateTimeOffset at) => at.ToString("yyyy-MM-ddTHH:mm:sszzz", CultureInfo.InvariantCulture);
}
