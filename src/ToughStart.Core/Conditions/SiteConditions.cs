using System.Globalization;
using NodaTime;
using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;
using ToughStart.Core.Surfaces;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Conditions;

/// <summary>What one carrier does on one zone now.</summary>
/// <param name="UsableSeconds">Part of the window that is safe to plan with.</param>
public readonly record struct ZoneWindow(
    string Zone,
    string Carrier,
    double FirstDry,
    Seconds UsableSeconds,
    double PanelC,
    double MeanC,
    bool Cooled
);

/// <summary>
/// What an infrared thermometer said against the model. Sunshine the model does not know makes most of it, so it grows and shrinks with
/// the sun on the panel.
/// </summary>
public sealed record PanelBias(string Zone, DateTimeOffset When, double MeasuredC, double ModelC, double Irradiance)
{
    /// <summary>Measured less computed, K.</summary>
    public double Kelvin => MeasuredC - ModelC;

    /// <summary>The reading in words.</summary>
    public string Say =>
        string.Create(
            CultureInfo.InvariantCulture,
            $"measured: {Planning.Limits.Words(Zone)} {MeasuredC:0.#} °C at {When:HH:mm}, model {ModelC:0.#}, "
                + $"{(Kelvin < 0 ? "−" : "+")}{Math.Abs(Kelvin):0.#} K"
        );

    /// <summary>What the panel is taken to have at another moment.</summary>
    /// <param name="dry">What the model says then, °C.</param>
    /// <param name="irradiance">On the panel then, W/m².</param>
    public double At(double dry, double irradiance) =>
        dry
        + Kelvin
            * (Irradiance < Catalogue.Default["bias-sun"] ? 1 : Math.Clamp(irradiance / Irradiance, 0, Catalogue.Default["bias-most"]));
}

/// <summary>Sun, shade, air and heading of a job at a moment: every zone's panel heat and wet windows.</summary>
public sealed class SiteConditions
{
    private readonly Survey _survey;
    private readonly Catalogue _c;
    private readonly Exposure _open;
    private readonly bool _facesSun;

    private SiteConditions(
        Survey survey,
        Catalogue c,
        DateTimeOffset at,
        Air air,
        SunPosition sun,
        Sunlight light,
        Exposure open,
        double rain,
        IReadOnlyList<string> assumed
    )
    {
        (_survey, _c, When, Air, Sun, Light, _open, RainMm, Assumed) = (survey, c, at, air, sun, light, open, rain, assumed);
        _facesSun = survey.Site.HeadingDeg is null && open.BeamOpen > 0;
    }

    public DateTimeOffset When { get; }

    public Air Air { get; }

    public SunPosition Sun { get; }

    public Sunlight Light { get; }

    /// <summary>Rain in this hour that reaches the vehicle, mm.</summary>
    public double RainMm { get; }

    /// <summary>What forbids chemistry now, in words: cold, rain; null = nothing.</summary>
    public string? Bar =>
        Air.Celsius < _c["cold"] ? $"below {_c["cold"]:0} °C: chemistry is slow and water freezes"
        : RainMm > _c["rain-bars"] ? "rain: chemistry runs off before it works"
        : null;

    /// <summary>What nobody said and had to be taken, in words.</summary>
    public IReadOnlyList<string> Assumed { get; }

    /// <summary>In the sun, or in its shade.</summary>
    public bool Sunny => _open.BeamOpen > 0 && Light.Beam > Catalogue.Default["sun-shines"];

    /// <summary>
    /// The conditions of a survey at its start or another moment; null with the reason when too little is known or the model does not
    /// reach.
    /// </summary>
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

        var (coldest, hottest) = (c["model-air-low"], c["model-air-high"]);
        if (!(airC >= coldest && airC <= hottest))
        {
            return (null, $"air at {airC:0} °C is outside {Signed(coldest)} to {Signed(hottest)} °C, where the model was checked");
        }

        var wind = Wind(site, hour, c, assumed);
        if (wind > c["model-wind-high"])
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
        var shaded = site.ShadeHours.Any(s => clock >= s.From && clock < s.To) || site.ShadeObjects.Any(o => Hides(o, sun, c));
        var sky = Math.Max(c["sky-least"], 1 - site.ShadeObjects.Sum(o => SkyTaken(o, c)));
        var open = site.Place switch
        {
            "indoors" => new Exposure(0, 0, 0),
            "shade" => new Exposure(0, site.SkyOpen ?? c["sky-shade"], Albedo(site.Ground, c)),
            _ when shaded => new Exposure(
                0,
                Math.Min(site.ShadeObjects.Count > 0 ? sky : c["sky-shade"], site.SkyOpen ?? 1),
                Albedo(site.Ground, c)
            ),
            _ => new Exposure(1 - (site.SunBlocked ?? 0), site.SkyOpen ?? sky, Albedo(site.Ground, c)),
        };
        if (open.BeamOpen > 0 && site.HeadingDeg is null)
        {
            assumed.Add("every side facing the sun (heading not said)");
        }

        if (survey.Vehicle.Colour is null)
        {
            assumed.Add("dark paint (colour not said)");
        }

        return (
            new SiteConditions(survey, c, moment, air, sun, light, open, site.Place == "outdoors" ? hour?.RainMm ?? 0 : 0, assumed),
            null
        );
    }

    /// <summary>Does it stand between the sun and the middle of the vehicle's height?</summary>
    private static bool Hides(ShadeObject o, SunPosition sun, Catalogue c) =>
        sun.Altitude > 0
        && sun.Altitude < Elevation(o, c)
        && Math.Abs(((sun.Azimuth - o.BearingDeg) % 360 + 540) % 360 - 180) < HalfWidth(o);

    /// <summary>Part of the sky dome, as a level panel sees it, that it covers.</summary>
    private static double SkyTaken(ShadeObject o, Catalogue c) =>
        HalfWidth(o) / 180 * Math.Pow(Math.Sin(Elevation(o, c) * Math.PI / 180), 2);

    private static double Elevation(ShadeObject o, Catalogue c) =>
        Math.Max(0, Math.Atan2(o.HeightM - c["panel-height"], o.DistanceM) * 180 / Math.PI);

    private static double HalfWidth(ShadeObject o) => Math.Atan2(o.WidthM / 2, o.DistanceM) * 180 / Math.PI;

    /// <summary>The same moment in the shade of something, for what shade would do.</summary>
    public SiteConditions InShade() =>
        new(_survey, _c, When, Air, Sun, Light, new Exposure(0, Math.Min(_open.SkyOpen, _c["sky-shade"]), _open.Albedo), RainMm, Assumed)
        {
            Biases = Biases,
        };

    /// <summary>What infrared readings say against the model, by zone.</summary>
    public IReadOnlyDictionary<string, PanelBias> Biases { get; private init; } = new Dictionary<string, PanelBias>();

    /// <summary>The same with its readings set against the model.</summary>
    /// <param name="known">Biases already worked out for this survey; null = work them out.</param>
    public SiteConditions Corrected(IReadOnlyDictionary<string, PanelBias>? known = null) =>
        new(_survey, _c, When, Air, Sun, Light, _open, RainMm, Assumed) { Biases = known ?? BiasesOf(_survey, _c) };

    /// <summary>Every panel that was measured, against the model at that moment.</summary>
    public static IReadOnlyDictionary<string, PanelBias> BiasesOf(Survey survey, Catalogue? catalogue = null)
    {
        var c = catalogue ?? Catalogue.Default;
        var found = new Dictionary<string, PanelBias>();
        var measured = survey.Zones.Where(z => z.MeasuredC is not null).ToArray();
        if (measured.Length == 0)
        {
            return found;
        }

        var vehicle = Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size);
        foreach (var z in measured)
        {
            DateTimeOffset? at = z.MeasuredAt is { } text && ZonedTime.Read(text) is { } then ? then : null;
            if (Of(survey, at, c).Conditions is { } conditions && vehicle.Has(z.Zone))
            {
                var b = conditions.Balance(vehicle[z.Zone], FamilyOf(vehicle[z.Zone], survey, c), null, false);
                found[z.Zone] = new(z.Zone, conditions.When, z.MeasuredC!.Value, b.Dry, b.Irradiance);
            }
        }

        return found;
    }

    /// <summary>Family of a zone's surface as surveyed.</summary>
    public static Family FamilyOf(Zone zone, Survey survey, Catalogue? c = null) =>
        survey.ZoneOf(zone.Id)?.Surface is { } s && s != Surface.UnknownId
            ? (c ?? Catalogue.Default).Surface(s).Family
            : zone.Kind.Default.Family;

    /// <summary>The start as an instant; why not, when its clock does not exist or contradicts its time zone.</summary>
    public static (DateTimeOffset? Start, string? Wrong) StartOf(Site site, List<string>? assumed = null)
    {
        if (site.Start is not { } text)
        {
            return (null, null);
        }

        var zone = site.TimeZone is { } id ? DateTimeZoneProviders.Tzdb.GetZoneOrNull(id) : null;
        if (zone is null && site.TimeZone is { } unknown)
        {
            return (null, $"'{unknown}' is no time zone: write it like Europe/London");
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

            return
                zone is not null && zone.GetUtcOffset(Instant.FromDateTimeOffset(said)) is var offset && offset.ToTimeSpan() != said.Offset
                ? (
                    null,
                    $"the start says {said:zzz}, but {site.TimeZone} is {offset.ToString("+HH:mm", CultureInfo.InvariantCulture)} then"
                )
                : (said, null);
        }

        var clock = DateTime.SpecifyKind(DateTime.Parse(text, CultureInfo.InvariantCulture), DateTimeKind.Unspecified);
        if (zone is null)
        {
            assumed?.Add("the start's clock as UTC (no time zone said)");
            return (new DateTimeOffset(clock, TimeSpan.Zero), null);
        }

        // Twice on the day the clocks go back: the second is taken, in winter's time.
        var there = zone.MapLocal(LocalDateTime.FromDateTime(clock));
        return there.Count == 0
            ? (null, $"{clock:HH:mm} does not exist on {clock:yyyy-MM-dd} in {site.TimeZone}: the clocks go forward")
            : (there.Last().ToDateTimeOffset(), null);
    }

    /// <summary>Heat at a zone's panel now, or rinsed cool.</summary>
    public PanelBalance Balance(Zone zone, Family family, double? measuredC, bool cooled)
    {
        var substrate = Substrate.Of(zone, family, _c, _survey.Vehicle.Sheet);
        var faces = _facesSun ? Sun.Azimuth : ((_survey.Site.HeadingDeg ?? 0) + zone.Faces) % 360;
        var engine = _survey.Vehicle.HotEngine == true && zone.Id == "bonnet";
        var open = substrate.Hidden ? _open with { BeamOpen = 0, SkyOpen = _open.SkyOpen * _c["hidden-sky"] } : _open;
        var heat = new PanelHeat(
            zone.Tilt,
            faces,
            substrate.Sun ?? Absorptance,
            substrate.Heat,
            cooled ? Math.Max(_c["water-cools-to"], Air.WetBulb) : measuredC,
            engine ? _c["hot-engine-k"] : 0,
            engine ? _c["hot-engine-t"] : 0
        );
        var b = new PanelBalance(Air, Sun, Light, open, heat);
        return !cooled && measuredC is null && Biases.TryGetValue(zone.Id, out var bias)
            ? new PanelBalance(Air, Sun, Light, open, heat with { MeasuredC = bias.At(b.Dry, b.Irradiance) })
            : b;
    }

    /// <summary>Was the panel measured lately enough to count as known?</summary>
    private bool Fresh(string zone) =>
        Biases.TryGetValue(zone, out var bias) && Math.Abs((bias.When - When).TotalMinutes) <= _c["measured-fresh"];

    /// <summary>Seconds to the first dry spots, with the panel rinsed cool first where it would be.</summary>
    public double FirstDry(Zone zone, Family family, double? measuredC, string carrier) =>
        WetWindow.Fast(Start(zone, family, measuredC).Balance, Film(carrier)).FirstDry;

    /// <summary>The part of a window that is safe to plan with here.</summary>
    public double SafePart(string zone, double? measuredC = null) =>
        _c[
            (measuredC is not null || Fresh(zone)) && _survey.Site is { WindMs: not null, HumidityPct: not null }
                ? "safe-part-measured"
                : "safe-part"
        ];

    /// <summary>A carrier's film as this shop lays it.</summary>
    public Carrier Film(string carrier) => _c.Carriers.First(x => x.Id == carrier).Times(FilmFactor);

    private (PanelBalance Balance, double Now, bool Cooled) Start(Zone zone, Family family, double? measuredC)
    {
        var now = Balance(zone, family, measuredC, false);
        var cool = MayCool(family) && now.Now > _c["hot-film"];
        return (cool ? Balance(zone, family, measuredC, true) : now, now.Now, cool);
    }

    /// <summary>
    /// Seconds to the first dry spots of a film that is on already: what the thermometer says is what it lies on, nothing is rinsed cool
    /// first.
    /// </summary>
    public double FirstDryOn(Zone zone, Family family, double measuredC, string carrier) =>
        WetWindow.Fast(Balance(zone, family, measuredC, false), Film(carrier)).FirstDry;

    /// <summary>Window of a carrier on a zone. A hot body panel is taken as rinsed cool first where there is water for it.</summary>
    /// <param name="carrier">mist, spray, thin-foam, thick-foam, foam-over-spray or gel.</param>
    public ZoneWindow Window(Zone zone, Family family, double? measuredC, string carrier)
    {
        var (b, now, cool) = Start(zone, family, measuredC);
        var film = Film(carrier);
        var window = WetWindow.Fast(b, film);
        var s = SafePart(zone.Id, measuredC);
        return new(zone.Id, carrier, window.FirstDry, s * window.FirstDry, now, window.MeanC, cool);
    }

    /// <summary>Low and high end of a window, from what is not known exactly of film, air, humidity and wind.</summary>
    public (double Low, double High) Band(Zone zone, Family family, double? measuredC, string carrier) =>
        WindowBand.Of(
            FirstDry(zone, family, measuredC, carrier),
            Air,
            Math.Pow(_c["band-film"], Substrate.Of(zone, family, _c, _survey.Vehicle.Sheet).Band),
            (air, film) =>
                WetWindow
                    .Fast(
                        new SiteConditions(_survey, _c, When, air, Sun, Light, _open, RainMm, Assumed) { Biases = Biases }
                            .Start(zone, family, measuredC)
                            .Balance,
                        Film(carrier).Times(film)
                    )
                    .FirstDry
        );

    /// <summary>The shop's film against the model's; 1 when nobody has calibrated it.</summary>
    public double FilmFactor => _survey.Kit?.FilmFactor ?? 1;

    /// <summary>Water only on body panels, never on hot glass, discs, exhaust or engine.</summary>
    public bool MayCool(Family family) => _survey.Site.Water is not "none" && family.MayBeCooled;

    /// <summary>The agent's carrier as the drying model has it; null = not a film of water (cloth, solvent).</summary>
    public static string? CarrierOf(Chemistry.Agent agent) =>
        agent.Axis == Axis.Solvent ? null
        : agent.Carrier == AgentCarrier.Film ? "spray"
        : agent.Carrier == AgentCarrier.Foam ? "thin-foam"
        : agent.Carrier == AgentCarrier.Gel ? "gel"
        : null;

    private double Absorptance =>
        _survey.Vehicle.Colour is { } hex ? PaintColour.Nearest(hex).Absorptance : Catalogue.Default["absorptance-unsaid"];

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

    private static double Albedo(string? ground, Catalogue c) =>
        c[
            ground switch
            {
                "tarmac" => "albedo-tarmac",
                "new-concrete" or "concrete" or "block-paving" => "albedo-concrete",
                _ => "albedo-other",
            }
        ];

    /// <summary>The conditions in words: what was said, then what was taken.</summary>
    public IReadOnlyList<string> InWords() =>
        [
            string.Create(
                CultureInfo.InvariantCulture,
                $"{(_survey.Site.Place == "indoors" ? "indoors" : _open.BeamOpen > 0 ? $"{When:HH:mm}, sun {Sun.Altitude:0}° high" : $"{When:HH:mm}, in shade")}, {Air.Celsius:0} °C, {Air.HumidityPct:0} %, {Air.Wind:0.#} m/s at the panel"
            ),
            .. Assumed.Select(a => "taken: " + a),
            .. Biases.Values.OrderBy(b => b.Zone, StringComparer.Ordinal).Select(b => b.Say),
        ];

    private static string Signed(double v) => v < 0 ? $"−{-v:0}" : $"{v:0}";

    /// <summary>A window as people say it: half-minutes, never a false second.</summary>
    public static string Say(double seconds)
    {
        if (seconds >= Catalogue.Default["not-the-limit"])
        {
            return $"over {Catalogue.Default["not-the-limit"] / 60:0} min: drying is not the limit";
        }

        var halves = (int)Math.Floor(seconds / 30);
        return halves == 0 ? $"{Math.Max(1, Math.Round(seconds / 5) * 5):0} s"
            : halves == 1 ? "½ min"
            : $"{halves / 2}{(halves % 2 == 1 ? "½" : "")} min";
    }
}
