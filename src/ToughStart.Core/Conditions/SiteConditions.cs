using System.Globalization;
using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;
using ToughStart.Core.Surfaces;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Conditions;

/// <summary>What one carrier does on one zone now.</summary>
/// <param name="UsableSeconds">Part of the window that is safe to plan with.</param>
/// <param name="LowSeconds">Low end of the window, from what is not known exactly.</param>
public readonly record struct ZoneWindow(string Zone, string Carrier, double FirstDry, double UsableSeconds, double LowSeconds, double HighSeconds, double PanelC, double MeanC, bool Cooled);

/// <summary>Sun, shade, air and heading of a job at a moment: every zone's panel heat and wet windows.</summary>
public sealed class SiteConditions
{
    private readonly Survey _survey;
    private readonly Catalogue _c;
    private readonly Exposure _open;
    private readonly bool _facesSun;

    private SiteConditions(Survey survey, Catalogue c, DateTimeOffset at, Air air, SunPosition sun, Sunlight light, Exposure open, IReadOnlyList<string> assumed)
    {
        (_survey, _c, When, Air, Sun, Light, _open, Assumed) = (survey, c, at, air, sun, light, open, assumed);
        _facesSun = survey.Site.HeadingDeg is null && open.BeamOpen > 0;
    }

    public DateTimeOffset When { get; }

    public Air Air { get; }

    public SunPosition Sun { get; }

    public Sunlight Light { get; }

    /// <summary>What nobody said and had to be taken, in words.</summary>
    public IReadOnlyList<string> Assumed { get; }

    /// <summary>In the sun, or in its shade.</summary>
    public bool Sunny => _open.BeamOpen > 0 && Light.Beam > 50;

    /// <summary>The conditions of a survey at its start or another moment; null with the reason when too little is known or the model does not reach.</summary>
    /// <param name="at">Another moment of the same place; null = the survey's start.</param>
    public static (SiteConditions? Conditions, string? Why) Of(Survey survey, DateTimeOffset? at = null, Catalogue? catalogue = null)
    {
        var c = catalogue ?? Catalogue.Default;
        var site = survey.Site;
        var assumed = new List<string>();
        var (start, wrong) = StartOf(site, assumed);
        if (wrong is not null)
        {
            return (null, wrong);
        }

        var when = at ?? start;
        var hour = when is { } w && site.Hours.Count > 0 ? WeatherFile.At(site.Hours, w) : null;
        if (when is not null && site.Hours.Count > 0 && hour is null)
        {
            return (null, $"the weather on file does not reach {when:yyyy-MM-dd HH:mm}");
        }

        var (airC, humidity) = (hour?.AirC ?? site.AirC, hour?.HumidityPct ?? site.HumidityPct);
        var missing = new List<string>();
        void Need(bool there, string what)
        {
            if (!there)
            {
                missing.Add(what);
            }
        }

        Need(site.Place is not null, "where it stands");
        Need(airC is not null, "air temperature");
        Need(humidity is not null, "humidity");
        if (site.Place != "indoors")
        {
            Need(site.Latitude is not null && site.Longitude is not null, "latitude and longitude");
            Need(when is not null, "start");
        }

        if (missing.Count > 0)
        {
            return (null, $"not said: {string.Join(", ", missing)}");
        }

        if (!(airC is >= -20 and <= 50))
        {
            return (null, $"air at {airC:0} °C is outside −20 to 50 °C, where the model was checked");
        }

        var wind = Wind(site, hour, c, assumed);
        if (wind > 20)
        {
            return (null, $"wind of {wind:0} m/s at the panel: no chemistry can be kept where it belongs");
        }

        var oktas = hour?.CloudOktas ?? site.CloudOktas ?? 0;
        if (site.Place == "outdoors" && hour is null && site.CloudOktas is null)
        {
            assumed.Add("clear sky");
        }

        var air = new Air(airC!.Value, Math.Clamp(humidity!.Value, 1, 100), wind, oktas);
        var moment = when ?? new DateTimeOffset(2026, 6, 21, 12, 0, 0, TimeSpan.Zero);
        var sun = site is { Latitude: { } lat, Longitude: { } lon } ? SunPosition.At(moment, lat, lon) : default;
        var light = site.Place == "indoors" ? default : Sunlight.Of(sun, oktas);
        var clock = moment.TimeOfDay.TotalHours;
        var shaded = site.ShadeHours.Any(s => clock >= s.From && clock < s.To);
        var open = site.Place switch
        {
            "indoors" => new Exposure(0, 0, 0),
            "shade" => new Exposure(0, site.SkyOpen ?? 0.5, Albedo(site.Ground, c)),
            _ when shaded => new Exposure(0, Math.Min(0.5, site.SkyOpen ?? 0.5), Albedo(site.Ground, c)),
            _ => new Exposure(1 - (site.SunBlocked ?? 0), site.SkyOpen ?? 1, Albedo(site.Ground, c)),
        };
        if (open.BeamOpen > 0 && site.HeadingDeg is null)
        {
            assumed.Add("every side facing the sun (heading not said)");
        }

        if (survey.Vehicle.Colour is null)
        {
            assumed.Add("dark paint (colour not said)");
        }

        return (new SiteConditions(survey, c, moment, air, sun, light, open, assumed), null);
    }

    /// <summary>The start as an instant; why not, when its clock does not exist or contradicts its time zone.</summary>
    public static (DateTimeOffset? Start, string? Wrong) StartOf(Site site, List<string>? assumed = null)
    {
        if (site.Start is not { } text)
        {
            return (null, null);
        }

        TimeZoneInfo? zone = null;
        if (site.TimeZone is { } id && !TimeZoneInfo.TryFindSystemTimeZoneById(id, out zone))
        {
            return (null, $"'{id}' is no time zone: write it like Europe/London");
        }

        if (!DateTime.TryParse(text, CultureInfo.InvariantCulture, DateTimeStyles.RoundtripKind, out _))
        {
            return (null, $"the start '{text}' is not a time like 2026-06-12T13:00:00+01:00");
        }

        if (text.EndsWith('Z') || text.LastIndexOfAny(['+', '-']) > 10)
        {
            if (!DateTimeOffset.TryParse(text, CultureInfo.InvariantCulture, DateTimeStyles.None, out var said))
            {
                return (null, $"the start '{text}' is not a time like 2026-06-12T13:00:00+01:00");
            }

            return zone is not null && zone.GetUtcOffset(said) != said.Offset
                ? (null, $"the start says {said:zzz}, but {site.TimeZone} is {(zone.GetUtcOffset(said) < TimeSpan.Zero ? "-" : "+")}{zone.GetUtcOffset(said):hh\\:mm} then")
                : (said, null);
        }

        var clock = DateTime.SpecifyKind(DateTime.Parse(text, CultureInfo.InvariantCulture), DateTimeKind.Unspecified);
        if (zone is null)
        {
            assumed?.Add("the start's clock as UTC (no time zone said)");
            return (new DateTimeOffset(clock, TimeSpan.Zero), null);
        }

        return zone.IsInvalidTime(clock) ? (null, $"{clock:HH:mm} does not exist on {clock:yyyy-MM-dd} in {site.TimeZone}: the clocks go forward") : (new DateTimeOffset(clock, zone.GetUtcOffset(clock)), null);
    }

    /// <summary>Heat at a zone's panel now, or rinsed cool.</summary>
    public PanelBalance Balance(Zone zone, string family, double? measuredC, bool cooled)
    {
        var substrate = Substrate.Of(zone, family, _c);
        var faces = _facesSun ? Sun.Azimuth : ((_survey.Site.HeadingDeg ?? 0) + zone.Faces) % 360;
        return new PanelBalance(Air, Sun, Light, substrate.Hidden ? _open with { BeamOpen = 0, SkyOpen = _open.SkyOpen * _c["hidden-sky"] } : _open, new PanelHeat(zone.Tilt, faces, substrate.Sun ?? Absorptance, substrate.Heat, cooled ? Math.Max(_c["water-cools-to"], Air.WetBulb) : measuredC));
    }

    /// <summary>Window of a carrier on a zone. A hot body panel is taken as rinsed cool first where there is water for it.</summary>
    /// <param name="carrier">mist, spray, thin-foam, thick-foam or gel.</param>
    public ZoneWindow Window(Zone zone, string family, double? measuredC, string carrier)
    {
        var now = Balance(zone, family, measuredC, false);
        var cool = MayCool(family) && now.Now > _c["hot-film"];
        var b = cool ? Balance(zone, family, measuredC, true) : now;
        var film = _c.Carriers.First(x => x.Id == carrier).Times(FilmFactor);
        var window = WetWindow.Fast(b, film);
        var known = measuredC is not null && _survey.Site is { WindMs: not null, HumidityPct: not null };
        var s = _c[known ? "safe-part-measured" : "safe-part"];
        var spread = Math.Pow(_c["band-film"], Substrate.Of(zone, family, _c).Band);
        var low = WetWindow.Fast(b, film.Times(1 / spread)).FirstDry;
        var high = WetWindow.Fast(b, film.Times(spread)).FirstDry;
        return new(zone.Id, carrier, window.FirstDry, s * window.FirstDry, low, high, now.Now, window.MeanC, cool);
    }

    /// <summary>The shop's film against the model's; 1 when nobody has calibrated it.</summary>
    public double FilmFactor => _survey.Kit?.FilmFactor ?? 1;

    /// <summary>Water only on body panels, never on hot glass, discs, exhaust or engine.</summary>
    public bool MayCool(string family) => _survey.Site.Water is "hose" or null && family == "body";

    /// <summary>The agent's carrier as the drying model has it; null = not a film of water (cloth, solvent).</summary>
    public static string? CarrierOf(Chemistry.Agent agent) => agent.Axis == "solv" ? null : agent.Carrier switch { "film" => "spray", "foam" => "thin-foam", "gel" => "gel", _ => null };

    private double Absorptance => _survey.Vehicle.Colour is { } hex ? PaintColour.Nearest(hex).Absorptance : 0.95;

    private static double Wind(Site site, WeatherHour? hour, Catalogue c, List<string> assumed)
    {
        if (site.Place == "indoors")
        {
            return c[site.Extraction == true ? "wind-extraction" : "wind-indoors"];
        }

        if (hour?.WindMs is { } forecast)
        {
            return forecast * c[site.Place == "shade" ? "wind-walls" : "wind-drive"];
        }

        if (site.WindMs is not { } wind)
        {
            assumed.Add($"wind of {c["wind-unsaid"]:0} m/s at the panel");
            return c["wind-unsaid"];
        }

        return site.WindAt == "panel" ? wind : wind * c[site.Place == "shade" ? "wind-walls" : "wind-drive"];
    }

    private static double Albedo(string? ground, Catalogue c) => c[ground switch { "tarmac" => "albedo-tarmac", "new-concrete" or "concrete" or "block-paving" => "albedo-concrete", _ => "albedo-other" }];

    /// <summary>The conditions in words: what was said, then what was taken.</summary>
    public IReadOnlyList<string> InWords() =>
    [
        string.Create(CultureInfo.InvariantCulture, $"{(_survey.Site.Place == "indoors" ? "indoors" : _open.BeamOpen > 0 ? $"{When:HH:mm}, sun {Sun.Altitude:0}° high" : $"{When:HH:mm}, in shade")}, {Air.Celsius:0} °C, {Air.HumidityPct:0} %, {Air.Wind:0.#} m/s at the panel"),
        .. Assumed.Select(a => "taken: " + a),
    ];

    /// <summary>A window as people say it: half-minutes, never a false second.</summary>
    public static string Say(double seconds)
    {
        if (seconds >= Catalogue.Default["not-the-limit"])
        {
            return "over 20 min: drying is not the limit";
        }

        var halves = (int)Math.Floor(seconds / 30);
        return halves == 0 ? $"{Math.Max(1, Math.Round(seconds / 5) * 5):0} s" : halves == 1 ? "½ min" : $"{halves / 2}{(halves % 2 == 1 ? "½" : "")} min";
    }
}
