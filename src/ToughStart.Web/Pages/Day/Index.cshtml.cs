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

/// <summary>The day of a job: how long every panel stays wet at every quarter of an hour, and when to start.</summary>
public sealed class DayModel(JobStore jobs, Workshop plans, KitStore kit, RecordStore records) : JobPage(jobs, plans)
{
    private Workshop Workshop { get; } = plans;

    private static readonly JsonSerializerOptions Written = new(JsonSerializerDefaults.Web);

    public override string Station => "day";

    public DayMap? Map { get; private set; }

    /// <summary>Why there is no day to show.</summary>
    public string? Why { get; private set; }

    public IReadOnlyList<string> Problems { get; private set; } = [];

    public string Data { get; private set; } = "{}";

    public int Now { get; private set; }

    /// <summary>What the shop has measured of its film.</summary>
    public IReadOnlyList<FilmTrial> Trials { get; private set; } = [];

    public IReadOnlyDictionary<string, string> Names { get; private set; } = new Dictionary<string, string>();

    public static IReadOnlyList<(string Id, string Name)> Carriers { get; } = [("spray", "trigger spray"), ("thin-foam", "foam"), ("gel", "gel")];

    public async Task<IActionResult> OnGetAsync(int number, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        (Trials, Names) = (await kit.FilmTrialsAsync(stop), await records.NamesAsync(stop));
        Draw();
        return Page();
    }

    /// <summary>A weighed towel or one timed dry-out: what the film of this shop is against the model's.</summary>
    public async Task<IActionResult> OnPostFilmAsync(int number, string? method, string? carrier, string? zone, int quarter, string? measured, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        Trials = await kit.FilmTrialsAsync(stop);
        if (Carriers.All(k => k.Id != carrier) || !Vehicle.Has(zone ?? "") || !double.TryParse((measured ?? "").Trim().Replace(',', '.'), NumberStyles.Float, CultureInfo.InvariantCulture, out var value) || !(value is > 0 and <= 7200))
        {
            return Again(["measured: choose the zone on the drawing and say grams on half a square metre, or seconds to the first dry spots"], 422);
        }

        var (z, film) = (Vehicle[zone!], Catalogue.Default.Carriers.First(k => k.Id == carrier));
        var family = Job.Survey.ZoneOf(zone!)?.Surface is { } s && s != "unknown" ? Catalogue.Default.Surface(s).Family : z.Kind.Default.Family;
        double? factor = null;
        if (method == "towel")
        {
            factor = FilmCalibration.FromTowel(value, film, z.Tilt);
        }
        else if (SiteConditions.StartOf(Job.Survey.Site).Start is { } start && quarter is >= 0 and < DayMap.Count && SiteConditions.Of(Job.Survey, new DateTimeOffset(start.Date, start.Offset).AddMinutes(15 * quarter)).Conditions is { } conditions)
        {
            factor = FilmCalibration.FromDryOut(conditions.Balance(z, family, Job.Survey.ZoneOf(zone!)?.MeasuredC, false), film, value);
        }

        if (factor is not { } found)
        {
            return Again([$"measured: {value:0.#} fits no film between {FilmCalibration.Least} and {FilmCalibration.Most} times the model's here: look at time, sun and panel again"], 422);
        }

        await kit.MeasureFilmAsync(method == "towel" ? "towel" : "dry-out", carrier!, value, found, User.StaffId(), stop);
        return Redirect($"/jobs/{number}/day");
    }

    public async Task<IActionResult> OnPostStrikeAsync(int number, Guid id, CancellationToken stop)
    {
        await kit.StrikeFilmAsync(id, stop);
        return Redirect($"/jobs/{number}/day");
    }

    /// <summary>The film on one zone against time, for its drawing.</summary>
    public async Task<IActionResult> OnGetFilmAsync(int number, string zone, string carrier, int quarter, CancellationToken stop)
    {
        if (await LoadAsync(number, false, stop) is { } none)
        {
            return none;
        }

        if (!Vehicle.Has(zone) || Carriers.All(k => k.Id != carrier) || quarter is < 0 or >= DayMap.Count || SiteConditions.StartOf(Job.Survey.Site).Start is not { } start)
        {
            return NotFound();
        }

        var at = new DateTimeOffset(start.Date, start.Offset).AddMinutes(15 * quarter);
        if (SiteConditions.Of(Job.Survey, at).Conditions is not { } conditions)
        {
            return NotFound();
        }

        var z = Vehicle[zone];
        var family = Job.Survey.ZoneOf(zone)?.Surface is { } s && s != "unknown" ? Catalogue.Default.Surface(s).Family : z.Kind.Default.Family;
        var points = new List<double[]>();
        var measured = quarter == Now || DayMap.QuarterOf(start) == quarter ? Job.Survey.ZoneOf(zone)?.MeasuredC : null;
        var film = Catalogue.Default.Carriers.First(k => k.Id == carrier).Times(await kit.FilmFactorAsync(stop) ?? 1);
        double[] Curve(bool cooled)
        {
            var b = conditions.Balance(z, family, measured, cooled);
            var own = new List<double[]>();
            var w = WetWindow.Integrate(b, film, null, (t, m, c) => own.Add([t, m * 1000, c]));
            points = own;
            return [w.FirstDry, w.MostDry, b.Now, w.FilmKg * 1000];
        }

        var cool = conditions.MayCool(family) ? Curve(true) : null;
        var coolPoints = points;
        var now = Curve(false);
        static double[][] Thin(List<double[]> p) => p.Where((_, i) => i % Math.Max(1, p.Count / 60) == 0 || i == p.Count - 1).Select(x => new[] { Math.Round(x[0], 1), Math.Round(x[1], 2), Math.Round(x[2], 1) }).ToArray();
        return new JsonResult(new { first = now[0], most = now[1], panel = Math.Round(now[2], 1), film = Math.Round(now[3]), points = Thin(points), cooled = cool is null ? null : new { first = cool[0], points = Thin(coolPoints) }, say = SiteConditions.Say(now[0]), sayMost = SiteConditions.Say(now[1]), sayCooled = cool is null ? null : SiteConditions.Say(cool[0]) });
    }

    public async Task<IActionResult> OnPostStartAsync(int number, int quarter, int? heading, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        if (SiteConditions.StartOf(Job.Survey.Site).Start is not { } start || quarter is < 0 or >= DayMap.Count || heading is < 0 or > 360)
        {
            return Again(["quarter: is one of the 96 quarters of the day, heading 0 to 360 degrees"], 422);
        }

        var at = new DateTimeOffset(start.Date, start.Offset).AddMinutes(15 * quarter);
        return await SaveAsync(number, Job.Survey.Site with { Start = at.ToString("yyyy-MM-ddTHH:mm:sszzz", CultureInfo.InvariantCulture), HeadingDeg = heading ?? Job.Survey.Site.HeadingDeg }, stop);
    }

    public async Task<IActionResult> OnPostWeatherAsync(int number, IFormFile? file, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        if (file is null || file.Length is 0 or > 256 * 1024)
        {
            return Again(["file: a CSV of at most 256 kB: time,airC,humidityPct,windMs,cloudOktas,rainMm"], 422);
        }

        using var bytes = new MemoryStream();
        await file.CopyToAsync(bytes, stop);
        var read = WeatherFile.Read(Encoding.UTF8.GetString(bytes.ToArray()));
        return read.Ok ? await SaveAsync(number, Job.Survey.Site with { Hours = read.Value! }, stop) : Again(read.Problems.Select(p => p.ToString()).ToArray(), 422);
    }

    public async Task<IActionResult> OnPostTypicalAsync(int number, bool forget, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        var site = Job.Survey.Site;
        if (forget)
        {
            return await SaveAsync(number, site with { Hours = [] }, stop);
        }

        if (site.Latitude is not { } lat || site.Longitude is not { } lon || SiteConditions.StartOf(site).Start is not { } start)
        {
            return Again(["a typical day needs latitude, longitude and a start: say them at intake"], 422);
        }

        var midnight = new DateTimeOffset(start.Date, start.Offset);
        return await SaveAsync(number, site with { Hours = new TypicalDays(number).Day(midnight, lat, lon) }, stop);
    }

    /// <summary>What the readings form shows: typed, else on record.</summary>
    public string Reading(string field) => Request.HasFormContentType && Request.Form.TryGetValue(field, out var typed) ? typed.ToString() : Job.Survey.Site is var s ? field switch
    {
        "place" => s.Place, "start" => s.Start is { Length: >= 16 } start ? start[..16] : s.Start, "timeZone" => s.TimeZone ?? "Europe/London", "windAt" => s.WindAt,
        _ => N(field switch { "latitude" => s.Latitude, "longitude" => s.Longitude, "headingDeg" => s.HeadingDeg, "airC" => s.AirC, "humidityPct" => s.HumidityPct, "windMs" => s.WindMs, "cloudOktas" => s.CloudOktas, _ => s.SunBlocked }),
    } ?? "" : "";

    private static string? N(double? v) => v?.ToString("0.####", CultureInfo.InvariantCulture);

    public async Task<IActionResult> OnPostReadingsAsync(int number, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        var problems = new List<string>();
        double? Number(string field)
        {
            var text = Request.Form[field].ToString().Trim().Replace(',', '.');
            if (text.Length == 0)
            {
                return null;
            }

            if (double.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out var v) && double.IsFinite(v))
            {
                return v;
            }

            problems.Add($"{field}: '{(text.Length > 20 ? text[..20] : text)}' is not a number");
            return null;
        }

        string? Text(string field) => Request.Form[field].ToString().Trim() is { Length: > 0 and <= 60 } t ? t : null;
        var site = Job.Survey.Site with
        {
            Place = Text("place"), Start = Text("start"), TimeZone = Text("timeZone"), WindAt = Text("windAt"), Latitude = Number("latitude"), Longitude = Number("longitude"), HeadingDeg = Number("headingDeg"),
            AirC = Number("airC"), HumidityPct = Number("humidityPct"), WindMs = Number("windMs"), CloudOktas = Number("cloudOktas"), SunBlocked = Number("sunBlocked"), Hours = [],
        };
        var (start, wrong) = SiteConditions.StartOf(site);
        if (wrong is not null)
        {
            problems.Add("start: " + wrong);
        }

        // Kept with its offset, so that the document means the same everywhere.
        site = start is { } at ? site with { Start = at.ToString("yyyy-MM-ddTHH:mm:sszzz", CultureInfo.InvariantCulture) } : site;
        var read = problems.Count == 0 ? SurveyFormat.Read(SurveyFormat.Write(Job.Survey with { Site = site })) : null;
        return read is { Ok: true } ? await SaveAsync(number, site, stop) : Again(problems.Count > 0 ? problems : read!.Problems.Select(p => p.ToString()).ToArray(), 422);
    }

    private async Task<IActionResult> SaveAsync(int number, Site site, CancellationToken stop)
    {
        var saved = await Jobs.SaveSurveyAsync(Job.Id, Job.Revision, Job.Survey with { Site = site }, User.StaffId(), stop);
        return saved.Saved ? Redirect($"/jobs/{number}/day") : Again([$"{saved.TheirAuthor} changed the site at the same moment; nothing was overwritten. Look again."], 409);
    }

    private PageResult Again(IReadOnlyList<string> problems, int status)
    {
        Problems = problems;
        Response.StatusCode = status;
        Draw();
        return Page();
    }

    private void Draw()
    {
        // The stages as they would be if drying were no limit: else a plan that leaves the hot panels out would find no fault with the heat.
        var anywhere = Equipped with { Site = Equipped.Site with { HumidityPct = null, Hours = [] } };
        (Map, Why) = DayMap.Of(Equipped, Plan.ReferOnly ? null : Workshop.Plan(anywhere));
        if (Map is null)
        {
            return;
        }

        Now = DayMap.QuarterOf(SiteConditions.StartOf(Job.Survey.Site).Start!.Value);
        Data = JsonSerializer.Serialize(
            new
            {
                number = Job.Number,
                zones = Map.Zones,
                now = Now,
                best = Map.Best,
                quarters = Map.Quarters.Select(q => new { t = q.At.ToString("HH:mm", CultureInfo.InvariantCulture), alt = Math.Round(q.Sun.Altitude, 1), az = Math.Round(q.Sun.Azimuth, 1), air = Math.Round(q.Air.Celsius, 1), rh = Math.Round(q.Air.HumidityPct), wind = Math.Round(q.Air.Wind, 1), sun = q.Sunny, notes = q.Bars.Concat(q.Minds) }),
                dry = Carriers.ToDictionary(k => k.Id, k => Map.Quarters.Select(q => q.FirstDry.TryGetValue(k.Id, out var w) ? w.Select(s => Math.Round(s)).ToArray() : [])),
                starts = Map.Starts.Select(s => new { fit = Math.Round(s.Fit, 2), s.Stage, zone = s.Zone is null ? null : Limits.Words(s.Zone), say = s.Zone is null ? null : s.Say }),
            }, Written);
    }

    /// <summary>The ribbon of starts: a bar each quarter, as high as the start is fit.</summary>
    public string Ribbon()
    {
        var s = new Ink();
        s.Add("<svg class=\"ribbon\" viewBox=\"0 0 960 92\" preserveAspectRatio=\"none\" role=\"img\" aria-label=\"How well the work fits, by start\">");
        if (Map!.Daylight is { } light)
        {
            double X(DateTimeOffset at) => at.TimeOfDay.TotalMinutes / 1440 * 960;
            s.Add($"<rect x=\"0\" width=\"{Ink.N(X(light.Rise))}\" height=\"92\" class=\"night\"/><rect x=\"{Ink.N(X(light.Set))}\" width=\"{Ink.N(960 - X(light.Set))}\" height=\"92\" class=\"night\"/>");
        }

        foreach (var start in Map.Starts)
        {
            var h = 6 + 80 * start.Fit;
            s.Add($"<rect x=\"{start.Quarter * 10 + 1}\" y=\"{Ink.N(90 - h)}\" width=\"8\" height=\"{Ink.N(h)}\" class=\"{(start.Fit <= 0 ? "fit-no" : start.Fit < 0.4 ? "fit-short" : start.Fit < 0.95 ? "fit-some" : "fit-all")}\"/>");
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

        var up = Map!.Quarters.Where(q => q.Sun.Altitude > 0).Select(q => Polar(q.Sun.Azimuth, 96 * (90 - q.Sun.Altitude) / 90)).ToArray();
        if (up.Length > 1)
        {
            s.Add($"<polyline class=\"dial-path\" points=\"{string.Join(' ', up.Select(p => $"{Ink.N(p.X)},{Ink.N(p.Y)}"))}\"/>");
        }

        s.Add($"<g class=\"dial-car\" transform=\"rotate({Ink.N(Job.Survey.Site.HeadingDeg ?? 0)})\"><path d=\"M-9 22V-12Q-9 -24 0 -24T9 -12V22Q9 26 5 26H-5Q-9 26 -9 22Z\"/><path d=\"M-6 -8H6L5 -1H-5Z\" class=\"dial-glass\"/></g>");
        return s.Add("<circle class=\"dial-sun\" r=\"8\"/></svg>").ToString();

        static (double X, double Y) Polar(double bearing, double r) => (r * Math.Sin(bearing * Math.PI / 180), -r * Math.Cos(bearing * Math.PI / 180));
    }
}
