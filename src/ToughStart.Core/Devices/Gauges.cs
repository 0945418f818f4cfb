using System.Globalization;
using ToughStart.Core.Formats;

namespace ToughStart.Core.Devices;

/// <summary>One reading of a device, in SI-near units: film in micrometres, temperature in °C, hardness in mg/l CaCO₃.</summary>
public readonly record struct GaugeReading(string Kind, string Zone, double Value);

/// <summary>A gauge that can be read again and again. Real devices stand behind this; the shipped ones are simulated and say so.</summary>
public interface IGauge
{
    /// <summary>Name shown beside every reading it gives.</summary>
    string Name { get; }

    /// <summary>film, temperature or hardness.</summary>
    string Kind { get; }

    /// <summary>Takes the next reading on a zone.</summary>
    GaugeReading Read(string zone);
}

/// <summary>A stand-in for a gauge: plausible readings from a seed, the same every time.</summary>
/// <param name="seed">What makes this vehicle; another seed is another vehicle.</param>
public sealed class SimulatedGauge(string kind, int seed) : IGauge
{
    private readonly Dictionary<string, int> _taken = [];

    public string Name =>
        "simulated "
        + kind switch
        {
            "film" => "film gauge",
            "temperature" => "infrared thermometer",
            _ => "hardness meter",
        };

    public string Kind { get; } =
        kind is "film" or "temperature" or "hardness"
            ? kind
            : throw new ArgumentException($"'{kind}' is not film, temperature or hardness", nameof(kind));

    public GaugeReading Read(string zone)
    {
        var n = _taken[zone] = _taken.GetValueOrDefault(zone) + 1;
        // One panel in nine is a respray; each spot scatters around its panel.
        var panel = new SplitMix(HashCode(zone, 0));
        var spot = new SplitMix(HashCode(zone, n));
        var (middle, scatter) = Kind switch
        {
            "film" => (panel.Next() < 1 / 9.0 ? 240 + panel.Next() * 90 : 95 + panel.Next() * 40, 6.0),
            "temperature" => (16 + panel.Next() * 8, 0.4),
            _ => (180 + panel.Next() * 80, 3.0),
        };
        return new GaugeReading(
            Kind,
            Kind == "hardness" ? "" : zone,
            Math.Round(middle + (spot.Next() + spot.Next() - 1) * scatter, Kind == "film" ? 0 : 1)
        );
    }

    private ulong HashCode(string zone, int n)
    {
        var h = unchecked((ulong)seed * 31 + (ulong)n * 7919);
        foreach (var c in zone)
        {
            h = unchecked(h * 33 + c);
        }

        return h;
    }
}

/// <summary>Readings from a file: one a line, "zone;value" or "zone,value", with an optional head line and unit.</summary>
public static class ReadingFile
{
    /// <summary>Most lines taken.</summary>
    public const int MostLines = 2000;

    /// <summary>Reads a file. Every bad line is named; good ones are kept.</summary>
    /// <param name="kind">film, temperature or hardness; decides what values make sense.</param>
    /// <param name="zones">Zones of the vehicle.</param>
    /// <param name="problems">Line by line, what is wrong and what is allowed.</param>
    public static IReadOnlyList<GaugeReading> Read(string text, string kind, IReadOnlyCollection<string> zones, List<Problem> problems)
    {
        var (low, high, unit) = kind switch
        {
            "film" => (0.0, 5000.0, "µm"),
            "temperature" => (-30.0, 120.0, "°C"),
            _ => (0.0, 2000.0, "mg/l"),
        };
        var readings = new List<GaugeReading>();
        var lines = text.TrimStart('\uFEFF').Split('\n');
        if (lines.Length > MostLines)
        {
            problems.Add(new Problem("file", $"has {lines.Length} lines, at most {MostLines}"));
            return [];
        }

        for (var i = 0; i < lines.Length; i++)
        {
            var line = lines[i].Trim();
            var separator =
                line.Contains(';') ? ';'
                : line.Contains('\t') ? '\t'
                : ',';
            var cells = line.Split(separator, 2);
            if (line.Length == 0 || (i == 0 && cells.Length == 2 && cells[1].Length > 0 && !cells[1].Any(char.IsAsciiDigit)))
            {
                continue;
            }

            var zone = cells[0].Trim().Trim('"');
            if (cells.Length < 2)
            {
                problems.Add(new Problem($"line {i + 1}", "needs a zone and a value, for example bonnet;104"));
            }
            else if (kind != "hardness" && !zones.Contains(zone))
            {
                problems.Add(new Problem($"line {i + 1}", $"'{StrictJson.Shorten(zone)}' is no zone of this vehicle"));
            }
            else if (!TryValue(cells[1], kind, out var value))
            {
                problems.Add(
                    new Problem(
                        $"line {i + 1}",
                        $"'{StrictJson.Shorten(cells[1].Trim())}' is not a number in {unit}{(kind == "film" ? ", or in mil" : "")}"
                    )
                );
            }
            else if (value < low || value > high)
            {
                problems.Add(
                    new Problem(
                        $"line {i + 1}",
                        $"{value.ToString("0.###", CultureInfo.InvariantCulture)} is outside {low:0} to {high:0} {unit}"
                    )
                );
            }
            else
            {
                readings.Add(new GaugeReading(kind, kind == "hardness" ? "" : zone, value));
            }
        }

        return readings;
    }

    /// <summary>A number with a decimal comma or point and, at most, its unit behind it.</summary>
    private static bool TryValue(string cell, string kind, out double value)
    {
        var t = cell.Trim().Trim('"').ToLowerInvariant();
        var factor = 1.0;
        foreach (
            var (unit, k) in kind switch
            {
                "film" => new[]
                {
                    ("µm", 1.0),
                    ("um", 1.0),
                    ("mils", Readiness.FilmThickness.MicrometresPerMil),
                    ("mil", Readiness.FilmThickness.MicrometresPerMil),
                },
                "temperature" => [("°c", 1.0), ("c", 1.0)],
                _ => [("mg/l", 1.0), ("ppm", 1.0)],
            }
        )
        {
            if (t.EndsWith(unit, StringComparison.Ordinal))
            {
                t = t[..^unit.Length].Trim();
                factor = k;
                break;
            }
        }

        var read =
            double.TryParse(
                t.Replace(',', '.'),
                NumberStyles.AllowDecimalPoint | NumberStyles.AllowLeadingSign,
                CultureInfo.InvariantCulture,
                out value
            ) && double.IsFinite(value);
        value *= factor;
        return read;
    }
}
