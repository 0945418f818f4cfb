using System.Globalization;
using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Conditions;

/// <summary>Weather of one hour.</summary>
/// <param name="WindMs">At 10 m, as forecasts have it.</param>
public sealed record WeatherHour(DateTimeOffset At, double AirC, double HumidityPct, double WindMs, double CloudOktas, double RainMm = 0);

/// <summary>Where hourly weather comes from; a real forecast would stand behind it, a simulated one ships.</summary>
public interface IWeatherService
{
    /// <summary>The hours of a day.</summary>
    IReadOnlyList<WeatherHour> Day(DateTimeOffset midnight, double latitude, double longitude);
}

/// <summary>
/// Typical days by latitude and month, the same for the same seed: for demos and for planning ahead, never called a forecast.
/// </summary>
public sealed class TypicalDays(int seed) : IWeatherService
{
    public IReadOnlyList<WeatherHour> Day(DateTimeOffset midnight, double latitude, double longitude)
    {
        var c = Catalogue.Default;
        var random = new SplitMix((ulong)(seed * 1009 + midnight.DayOfYear + (int)Math.Round(latitude * 7)));
        var season = Math.Cos((midnight.DayOfYear - 200) / 365.25 * 2 * Math.PI) * Math.Sign(latitude == 0 ? 1 : latitude);
        var mean =
            c["typical-warmest"]
            - c["typical-by-latitude"] * Math.Abs(latitude)
            + c["typical-season"] * Math.Abs(latitude) * season
            + (random.Next() - 0.5) * 6;
        var oktas = Math.Round(random.Next() * 8);
        var swing = c["day-swing"] * (1 - oktas / 14);
        var wind = c["typical-wind"] + random.Next() * c["typical-wind-spread"];
        var dew = mean - swing - 1 - random.Next() * 4;
        return Enumerable
            .Range(0, 25)
            .Select(h =>
            {
                var solar = h + longitude / 15 - midnight.Offset.TotalHours;
                var air = mean + swing * Math.Cos((solar - c["typical-warmest-hour"]) / 24 * 2 * Math.PI);
                var vapour = Air.Saturation(Math.Min(dew, air));
                return new WeatherHour(
                    midnight.AddHours(h),
                    Math.Round(air, 1),
                    Math.Round(Math.Clamp(100 * vapour / Air.Saturation(air), 5, 100)),
                    Math.Round(
                        Math.Max(
                            c["typical-wind-least"],
                            wind
                                * (
                                    c["typical-wind-night"]
                                    + c["typical-wind-noon"] * Math.Sin(Math.Clamp((solar - 6) / 12, 0, 1) * Math.PI)
                                )
                        ),
                        1
                    ),
                    oktas
                );
            })
            .ToArray();
    }
}

/// <summary>Reads hourly weather from a file: time, airC, humidityPct, windMs, cloudOktas, rainMm.</summary>
public static class WeatherFile
{
    public const int MostHours = 240;

    private static readonly string[] Columns = ["time", "airc", "humiditypct", "windms", "cloudoktas", "rainmm"];

    /// <summary>Hours in order. A hole of more than three hours, a time without its zone and every bad cell are named.</summary>
    public static Checked<IReadOnlyList<WeatherHour>> Read(string text)
    {
        var problems = new List<Problem>();
        var lines = text.TrimStart('\uFEFF').Split('\n').Select(l => l.Trim()).ToArray();
        if (lines.Length == 0 || lines[0].Length == 0)
        {
            return new(null, [new Problem("(file)", "is empty")]);
        }

        var part = lines[0].Count(c => c == ';') > lines[0].Count(c => c == ',') ? ';' : ',';
        var head = lines[0].Split(part).Select(h => h.Trim().ToLowerInvariant()).ToArray();
        if (head.FirstOrDefault(h => !Columns.Contains(h)) is { } unknown)
        {
            return new(null, [new Problem("(file)", $"'{unknown}' is no column", Columns)]);
        }

        if (Columns[..3].FirstOrDefault(c => !head.Contains(c)) is { } missing)
        {
            return new(null, [new Problem("(file)", $"the column '{missing}' is needed", Columns)]);
        }

        var hours = new List<WeatherHour>();
        for (var i = 1; i < lines.Length && problems.Count < 20; i++)
        {
            if (lines[i].Length == 0)
            {
                continue;
            }

            var cells = lines[i].Split(part);
            string Cell(string name) => Array.IndexOf(head, name) is >= 0 and var k && k < cells.Length ? cells[k].Trim() : "";
            double? Number(string name, double low, double high, double? none)
            {
                var cell = part == ';' ? Cell(name).Replace(',', '.') : Cell(name);
                if (cell.Length == 0 && none is not null)
                {
                    return none;
                }

                if (double.TryParse(cell, NumberStyles.Float, CultureInfo.InvariantCulture, out var v) && v >= low && v <= high)
                {
                    return v;
                }

                problems.Add(new Problem($"line {i + 1}, {name}", $"'{cell}' is not {low} to {high}"));
                return null;
            }

            var time = Cell("time");
            var zoned = time.EndsWith('Z') || (time.Length > 16 && time.LastIndexOfAny(['+', '-']) > 10);
            if (!zoned || !DateTimeOffset.TryParse(time, CultureInfo.InvariantCulture, DateTimeStyles.None, out var at))
            {
                problems.Add(new Problem($"line {i + 1}, time", $"'{time}' is not a time with its zone, like 2026-06-12T13:00+01:00"));
                continue;
            }

            if (
                Number("airc", -40, 60, null) is { } air
                && Number("humiditypct", 0, 100, null) is { } rh
                && Number("windms", 0, 60, 2) is { } wind
                && Number("cloudoktas", 0, 8, 4) is { } cloud
                && Number("rainmm", 0, 200, 0) is { } rain
            )
            {
                hours.Add(new WeatherHour(at, air, rh, wind, cloud, rain));
            }
        }

        hours.Sort((a, b) => a.At.CompareTo(b.At));
        foreach (var (a, b) in hours.Zip(hours.Skip(1)))
        {
            if (b.At == a.At)
            {
                problems.Add(new Problem("(file)", $"{a.At:yyyy-MM-dd HH:mm} stands twice"));
            }
            else if (b.At - a.At > TimeSpan.FromHours(3))
            {
                problems.Add(
                    new Problem(
                        "(file)",
                        $"nothing between {a.At:yyyy-MM-dd HH:mm} and {b.At:yyyy-MM-dd HH:mm}: weather is not made up over a hole"
                    )
                );
            }
        }

        return problems.Count > 0 ? new(null, problems)
            : hours.Count is 0 or > MostHours ? new(null, [new Problem("(file)", $"holds 1 to {MostHours} hours")])
            : new(hours, []);
    }

    /// <summary>Weather at a moment, between its two hours; null outside them.</summary>
    public static WeatherHour? At(IReadOnlyList<WeatherHour> hours, DateTimeOffset when)
    {
        for (var i = 0; i + 1 < hours.Count; i++)
        {
            var (a, b) = (hours[i], hours[i + 1]);
            if (when >= a.At && when <= b.At)
            {
                var x = (when - a.At) / (b.At - a.At);
                double Mid(double p, double q) => p + x * (q - p);
                return new WeatherHour(
                    when,
                    Mid(a.AirC, b.AirC),
                    Mid(a.HumidityPct, b.HumidityPct),
                    Mid(a.WindMs, b.WindMs),
                    Mid(a.CloudOktas, b.CloudOktas),
                    Math.Max(a.RainMm, b.RainMm)
                );
            }
        }

        return null;
    }
}
