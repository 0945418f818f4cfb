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
public sealed class DayModel(JobDesk desk, KitStore kit, SiteStore sites, RecordStore records) : JobPage(desk)
{
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

    /// <summary>Places kept by name.</summary>
    public IReadOnlyList<SitePreset> Kept { get; private set; } = [];

    public IReadOnlyDictionary<string, string> Names { get; private set; } = new Dictionary<string, string>();

    public static IReadOnlyList<(string Id, string Name)> Carriers { get; } = [("spray", "spray, water"), ("thin-foam", "foam"), ("gel", "gel")];

    public async Task<IActionResult> OnGetAsync(int number, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        (Trials, Names, Kept) = (await kit.FilmTrialsAsync(stop), await records.NamesAsync(stop), await sites.AllAsync(stop));
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

        (Trials, Kept) = (await kit.FilmTrialsAsync(stop), await sites.AllAsync(stop));
        if (Carriers.All(k => k.Id != carrier) || !Vehicle.Has(zone ?? "") || !double.TryParse((measured ?? "").Trim().Replace(',', '.'), NumberStyles.Float, CultureInfo.InvariantCulture, out var value) || !(value is > 0 and <= 7200))
        {
            return Again(["measured: choose the zone on the drawing and say grams on half a square metre, or seconds to the first dry spots"], 422);
        }

        var (z, film) = (Vehicle[zone!], Catalogue.Default.Carriers.First(k => k.Id == carrier));
        var family = SiteConditions.FamilyOf(z, Job.Survey);
        double? factor = null;
        if (method == "towel")
        {
            factor = FilmCalibration.FromTowel(value, film, z.Tilt);
        }
        else if (SiteConditions.StartOf(Job.Survey.Site).Start is { } start && quarter is >= 0 and < DayMap.Count && Moment(start, quarter) is { } conditions)
        {
            factor = FilmCalibration.FromDryOut(conditions.Balance(z, family, null, false), film, value);
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

        if (Moment(start, quarter) is not { } conditions)
        {
            return NotFound();
        }

        var z = Vehicle[zone];
        var family = SiteConditions.FamilyOf(z, Job.Survey);
        var points = new List<double[]>();
        var film = Catalogue.Default.Carriers.First(k => k.Id == carrier).Times(await kit.FilmFactorAsync(stop) ?? 1);
        double[] Curve(bool cooled)
        {
            var b = conditions.Balance(z, family, null, cooled);
            var own = new List<double[]>();
            var w = WetWindow.Integrate(b, film, null, (t, m, c) => own.Add([t, m * 1000, c]));
            points = own;
            return [w.FirstDry, w.MostDry, b.Now, w.FilmKg * 1000];
        }

        var cool = conditions.MayCool(family) ? Curve(true) : null;
        var coolPoints = points;
        var now = Curve(false);
        static double[][] Thin(List<double[]> p) => p.Where((_, i) => i % Math.Max(1, p.Count / 60) == 0 || i == p.Count - 1).Select(x => new[] { Math.Round(x[0], 1), Math.Round(x[1], 2), Math.Round(x[2], 1) }).ToArray();
        var window = conditions.Window(z, family, null, carrier);
        var (low, high) = conditions.Band(z, family, null, carrier);
        var speed = await sites.SpeedAsync(stop) ?? new CrewSpeed(Catalogue.Default["apply-speed"], Catalogue.Default["rinse-speed"]);
        var remedies = now[0] >= Catalogue.Default["not-the-limit"] ? [] : Remedies.For(Job.Survey, conditions, z, family, carrier, Catalogue.Default["day-dwell"], speed, true, t => SiteConditions.Of(Job.Survey, t).Conditions?.Corrected(conditions.Biases));
        return new JsonResult(new { low = SiteConditions.Say(low), high = SiteConditions.Say(high), band = high < Catalogue.Default["not-the-limit"], usable = SiteConditions.Say(window.UsableSeconds), helps = remedies.Count == 0 ? null : $"For a dwell of {Catalogue.Default["day-dwell"] / 60:0.#} min, {Remedies.Say(remedies)}.", bias = conditions.Biases.GetValueOrDefault(zone)?.Say, first = now[0], most = now[1], panel = Math.Round(now[2], 1), film = Math.Round(now[3]), points = Thin(points), cooled = cool is null ? null : new { first = cool[0], points = Thin(coolPoints) }, say = SiteConditions.Say(now[0]), sayMost = SiteConditions.Say(now[1]), sayCooled = cool is null ? null : SiteConditions.Say(cool[0]) });
    }

    /// <summary>The place at a quarter of the day, set against what was measured.</summary>
    private SiteConditions? Moment(DateTimeOffset start, int quarter) => SiteConditions.Of(Job.Survey, new DateTimeOffset(start.Date, start.Offset).AddMinutes(15 * quarter)).Conditions?.Corrected();

    /// <summary>An infrared reading of one panel at the time set: the model is corrected by it at once. Empty takes it back.</summary>
    public async Task<IActionResult> OnPostPanelAsync(int number, string? zone, int quarter, string? celsius, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        var text = (celsius ?? "").Trim().Replace(',', '.');
        double? value = double.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out var v) && v is >= -30 and <= 120 ? v : null;
        if (!Vehicle.Has(zone ?? "") || quarter is < 0 or >= DayMap.Count || (value is null && text.Length > 0) || SiteConditions.StartOf(Job.Survey.Site).Start is not { } start)
        {
            return Again(["celsius: choose the zone on the drawing and say what the thermometer reads, −30 to 120 °C"], 422);
        }

        var at = new DateTimeOffset(start.Date, start.Offset).AddMinutes(15 * quarter).ToString("yyyy-MM-ddTHH:mm:sszzz", CultureInfo.InvariantCulture);
        var own = Job.Survey.ZoneOf(zone!) ?? new ZoneSurvey(zone!, null, [], null, null, null, [], []);
        var zones = Job.Survey.Zones.Where(z => z.Zone != zone).Append(own with { MeasuredC = value, MeasuredAt = value is null ? null : at }).OrderBy(z => z.Zone, StringComparer.Ordinal).ToArray();
        return await SaveAsync(number, Job.Survey with { Zones = zones }, stop);
    }

    /// <summary>Takes a kept place: where it stands, what throws shade, its water and drain; the hour and the weather stay.</summary>
    public async Task<IActionResult> OnPostTakeAsync(int number, Guid kept, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        return await sites.PlaceAsync(kept, stop) is { } place ? await SaveAsync(number, Job.Survey.Site.At(place), stop) : Again(["place: is not kept any more"], 409);
    }

    public async Task<IActionResult> OnPostKeepAsync(int number, string? name, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        Kept = await sites.AllAsync(stop);
        return name?.Trim() is not { Length: > 0 and <= 60 } wanted ? Again(["name: a place is kept under 1 to 60 characters"], 422)
            : await sites.KeepAsync(wanted, Job.Survey.Site, User.StaffId(), stop) ? Redirect($"/jobs/{number}/day") : Again([$"name: {SiteStore.Most} places are kept already; forget one first"], 422);
    }

    public async Task<IActionResult> OnPostForgetAsync(int number, Guid kept, CancellationToken stop)
    {
        await sites.ForgetAsync(kept, stop);
        return Redirect($"/jobs/{number}/day");
    }

    /// <summary>How fast the crew puts on and rinses, timed on one panel of known size; both empty = as the catalogue takes it.</summary>
    public async Task<IActionResult> OnPostSpeedAsync(int number, string? apply, string? rinse, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        double? Speed(string? t) => double.TryParse((t ?? "").Trim().Replace(',', '.'), NumberStyles.Float, CultureInfo.InvariantCulture, out var v) && v is >= 0.2 and <= 60 ? v : null;
        if (string.IsNullOrWhiteSpace(apply) && string.IsNullOrWhiteSpace(rinse))
        {
            await sites.SpeedAsync(null, stop);
            return Redirect($"/jobs/{number}/day");
        }

        if (Speed(apply) is not { } a || Speed(rinse) is not { } r)
        {
            return Again(["apply and rinse: both are 0.2 to 60 m² a minute, or both empty"], 422);
        }

        await sites.SpeedAsync(new CrewSpeed(a, r), stop);
        return Redirect($"/jobs/{number}/day");
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
        "shadeObjects" => string.Join("; ", s.ShadeObjects.Select(o => FormattableString.Invariant($"{o.BearingDeg:0.#} {o.DistanceM:0.##} {o.WidthM:0.##} {o.HeightM:0.##}"))), _ => N(field switch { "latitude" => s.Latitude, "longitude" => s.Longitude, "headingDeg" => s.HeadingDeg, "airC" => s.AirC, "humidityPct" => s.HumidityPct, "windMs" => s.WindMs, "cloudOktas" => s.CloudOktas, _ => s.SunBlocked }),
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

        // Each wall or tree is four numbers; walls are parted by semicolons.
        IReadOnlyList<ShadeObject> Objects()
        {
            var list = new List<ShadeObject>();
            foreach (var part in Request.Form["shadeObjects"].ToString().Split(';', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries))
            {
                var n = part.Split([' ', '\t'], StringSplitOptions.RemoveEmptyEntries).Select(x => double.TryParse(x.Replace(',', '.'), NumberStyles.Float, CultureInfo.InvariantCulture, out var v) ? v : double.NaN).ToArray();
                if (n.Length != 4 || n.Any(double.IsNaN))
                {
                    problems.Add($"shadeObjects: '{(part.Length > 30 ? part[..30] : part)}' is not bearing, distance, width and height, like 180 4 20 5");
                    continue;
                }

                list.Add(new ShadeObject(n[0], n[1], n[2], n[3]));
            }

            return list;
        }

        string? Text(string field) => Request.Form[field].ToString().Trim() is { Length: > 0 and <= 60 } t ? t : null;
        var site = Job.Survey.Site with
        {
            Place = Text("place"), Start = Text("start"), TimeZone = Text("timeZone"), WindAt = Text("windAt"), Latitude = Number("latitude"), Longitude = Number("longitude"), HeadingDeg = Number("headingDeg"),
            AirC = Number("airC"), HumidityPct = Number("humidityPct"), WindMs = Number("windMs"), CloudOktas = Number("cloudOktas"), SunBlocked = Number("sunBlocked"), ShadeObjects = Objects(), Hours = [],
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

    private Task<IActionResult> SaveAsync(int number, Site site, CancellationToken stop) => SaveAsync(number, Job.Survey with { Site = site }, stop);

    private async Task<IActionResult> SaveAsync(int number, Survey survey, CancellationToken stop)
    {
        var saved = await Jobs.SaveSurveyAsync(Job.Id, Job.Revision, survey, User.StaffId(), stop);
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
                starts = Map.Starts.Select(s => new { worse = Math.Round(100 * Map.Worse(s.Quarter)), fit = Math.Round(s.Fit, 2), s.Stage, zone = s.Zone is null ? null : Limits.Words(s.Zone), say = s.Zone is null ? null : s.Say }),
            }, Written);
    }

    /// <summary>Products the plan lays on, each with the film it makes.</summary>
    public IReadOnlyList<(string Name, string Film)> Products => Draft.Steps.Select(s => (Step: s, Film: Catalogue.Default.Agents.FirstOrDefault(a => a.Id == s.Agent) is { } a ? SiteConditions.CarrierOf(a) : null)).Where(x => x.Film is not null && x.Step.Mix is not null)
        .Select(x => (x.Step.Bottle ?? x.Step.AgentName, x.Film!)).Distinct().ToArray();

    /// <summary>What the plan of this start does about it: sections and misting of its tightest step.</summary>
    public string? AsPlanned
    {
        get
        {
            var tight = Draft.Steps.Where(s => s.Sections is { Sections.Count: > 1 } && s.DwellMinutes > 0).OrderByDescending(s => s.Sections!.Sections.Count).FirstOrDefault();
            return tight is null ? null : $"As planned: {tight.Name} in {tight.Sections!.Sections.Count} sections{(tight.Sections.RemistSeconds is { } every ? $", mist again every {SiteConditions.Say(every)}" : "")}.";
        }
    }

    public static string Band(DayCell cell, double dwell) => cell.Bar is not null || cell.Seconds is null ? "b-no" : cell.Seconds < dwell ? "b-short" : cell.Seconds * Catalogue.Default["safe-part"] < dwell ? "b-some" : "b-ok";

    /// <summary>Minutes of a cell, as short as a cell is.</summary>
    public static string Short(DayCell cell) => cell.Bar is not null || cell.Seconds is not { } s ? "–" : s >= Catalogue.Default["not-the-limit"] ? "20+" : s < 30 ? FormattableString.Invariant($"{Math.Max(5, Math.Floor(s / 5) * 5):0}s") : s < 60 ? "½" : FormattableString.Invariant($"{Math.Floor(s / 60):0}{(s % 60 >= 30 ? "½" : "")}");

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

        foreach (var o in Job.Survey.Site.ShadeObjects)
        {
            // A wall as the sun sees it: from the horizon in to how high it stands.
            var half = Math.Atan2(o.WidthM / 2, o.DistanceM) * 180 / Math.PI;
            var high = 96 * (90 - Math.Max(0, Math.Atan2(o.HeightM - Catalogue.Default["panel-height"], o.DistanceM) * 180 / Math.PI)) / 90;
            var edge = Enumerable.Range(0, 9).Select(i => o.BearingDeg - half + i * half / 4).ToArray();
            s.Add($"<polygon class=\"dial-wall\" points=\"{string.Join(' ', edge.Select(b => Polar(b, 96)).Concat(edge.Reverse().Select(b => Polar(b, high))).Select(p => $"{Ink.N(p.X)},{Ink.N(p.Y)}"))}\"/>");
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
