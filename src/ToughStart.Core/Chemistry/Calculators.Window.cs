using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;
using ToughStart.Core.Surfaces;

namespace ToughStart.Core.Chemistry;

/// <summary>How long a film stays wet.</summary>
public static partial class Calculators
{
    public static Checked<WindowAnswer> Window(WindowRequest r)
    {
        var c = Catalogue.Default;
        var problems = new List<Problem>();
        double N(string field, double? v, double low, double high, double? none)
        {
            if (v is null && none is null)
            {
                problems.Add(new Problem(field, "is missing"));
            }
            else if (v is { } x && !(x >= low && x <= high))
            {
                problems.Add(new Problem(field, string.Create(System.Globalization.CultureInfo.InvariantCulture, $"is {low} to {high}")));
            }

            return v ?? none ?? 0;
        }

        var carrier = c.Carriers.FirstOrDefault(k => k.Id == (r.Carrier ?? "thin-foam"));
        if (carrier is null)
        {
            problems.Add(new Problem("carrier", $"'{r.Carrier}' is not known", c.Carriers.Select(k => k.Id).ToArray()));
        }

        var air = new Conditions.Air(
            N("airC", r.AirC, c["model-air-low"], c["model-air-high"], null),
            N("humidityPct", r.HumidityPct, 0, 100, null),
            N("windMs", r.WindMs, 0, c["model-wind-high"], c["wind-unsaid"]),
            N("cloudOktas", r.CloudOktas, 0, 8, 0)
        );
        var (lat, lon, tilt, faces) = (
            N("latitude", r.Latitude, -90, 90, 0),
            N("longitude", r.Longitude, -180, 180, 0),
            N("tiltDegrees", r.TiltDegrees, 0, 180, 5),
            N("facesDegrees", r.FacesDegrees, 0, 360, 180)
        );
        var (sky, panel, film) = (
            N("skyOpen", r.SkyOpen, 0, 1, 1),
            r.PanelC is null ? 0 : N("panelC", r.PanelC, -20, 95, 0),
            N("filmFactor", r.FilmFactor, Conditions.FilmCalibration.Least, Conditions.FilmCalibration.Most, 1)
        );
        var dwell = N("dwellSeconds", r.DwellSeconds, 1, 3600, 0);
        var inSun = r.InSun ?? false;
        DateTimeOffset at = default;
        if (
            r.At is null
                ? inSun || r.Latitude is not null
                : !(
                    (r.At.EndsWith('Z') || r.At.LastIndexOfAny(['+', '-']) > 10)
                    && DateTimeOffset.TryParse(
                        r.At,
                        System.Globalization.CultureInfo.InvariantCulture,
                        System.Globalization.DateTimeStyles.None,
                        out at
                    )
                )
        )
        {
            problems.Add(new Problem("at", "is a time with its zone, like 2026-06-12T13:00+01:00"));
        }

        var absorptance = Catalogue.Default["absorptance-unsaid"];
        if (r.Colour is { } colour)
        {
            try
            {
                absorptance = PaintColour.Nearest(colour).Absorptance;
            }
            catch (FormatException)
            {
                problems.Add(new Problem("colour", "is written #rrggbb"));
            }
        }

        if (problems.Count > 0)
        {
            return new(null, problems);
        }

        var sun = r.At is null ? default : Conditions.SunPosition.At(at, lat, lon);
        var light = r.At is null ? default : Conditions.Sunlight.Of(sun, air.Oktas);
        Conditions.PanelBalance In(Conditions.Air there) =>
            new(
                there,
                sun,
                light,
                new Conditions.Exposure(inSun ? 1 : 0, r.At is null ? 0 : sky, c["albedo-other"]),
                new Conditions.PanelHeat(tilt, faces, absorptance, c.Substrates[0].Heat, r.PanelC is null ? null : panel)
            );
        var b = In(air);
        var held = carrier!.Times(film);
        var points = new List<FilmPoint>();
        var next = 0.0;
        var w = Conditions.WetWindow.Integrate(b, held, null, (s, m, t) =>
        {
            if (s >= next)
            {
                points.Add(new FilmPoint(Math.Round(s, 1), Math.Round(m * 1000, 2), Math.Round(t, 1)));
                next = s + Math.Max(0.5, s / 40);
            }
        });
        var (low, high) = Conditions.WindowBand.Of(Conditions.WetWindow.Fast(b, held).FirstDry, air, c["band-film"], (there, k) =>
            Conditions.WetWindow.Fast(In(there), held.Times(k)).FirstDry
        );
        var usable = w.FirstDry * c[r.PanelC is not null && r.WindMs is not null ? "safe-part-measured" : "safe-part"];
        int? atOnce = r.DwellSeconds is null
            ? null
            : Conditions.Sections.Most(
                60 * c["section-panel"] / c["apply-speed"],
                60 * c["section-panel"] / c["rinse-speed"],
                dwell,
                usable
            );
        return new(
            new WindowAnswer(
                Math.Round(w.FirstDry, 1),
                Math.Round(w.MostDry, 1),
                Math.Round(usable, 1),
                Math.Round(low, 1),
                Math.Round(high, 1),
                Math.Round(b.Now, 1),
                Math.Round(w.MeanC, 1),
                Math.Round(b.Wet, 1),
                Math.Round(sun.Altitude, 2),
                Math.Round(sun.Azimuth, 2),
                Math.Round(b.Irradiance, 1),
                !w.NotTheLimit,
                points,
                [
                    w.NotTheLimit
                        ? $"{carrier.Name}: {Conditions.SiteConditions.Say(w.FirstDry)}"
                        : $"{carrier.Name}: first dry spots after {Conditions.SiteConditions.Say(w.FirstDry)} "
                            + $"({Conditions.SiteConditions.Say(low)} to {Conditions.SiteConditions.Say(high)}), "
                            + $"most of the panel after {Conditions.SiteConditions.Say(w.MostDry)}: "
                            + $"rinse by {Conditions.SiteConditions.Say(usable)}",
                    $"panel {b.Now:0} °C now, film {w.MeanC:0} °C on average",
                    b.Now > c["hot-panel"] ? $"hotter than {c["hot-panel"]:0} °C: no chemistry, cool it first (water only on body panels)"
                    : b.Now > c["hot-film"] ? $"above {c["hot-film"]:0} °C: no acid, caustic or solvent"
                    : "the model was not yet compared with measured dry-out times: one timed dry-out or one weighed towel calibrates it",
                    .. atOnce is { } n
                        ? new[]
                        {
                            n == 0
                                ? $"not one panel of {c["section-panel"]:0.#} m² can dwell {dwell:0} s and be rinsed in time: "
                                    + $"shade, cool water first, thicker foam or smaller pieces"
                                : $"{n} {(n == 1 ? "panel" : "panels")} of {c["section-panel"]:0.#} m² at once can dwell {dwell:0} s",
                        }
                        : [],
                ]
            )
            {
                PanelsAtOnce = atOnce,
            },
            []
        );
    }
}
