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

/// <summary>The weather of the day: read from a file, typed, or typical.</summary>
public sealed partial class DayModel
{
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
        return read.Ok
            ? await SaveAsync(number, Job.Survey.Site with { Hours = read.Value! }, stop)
            : Again(read.Problems.Select(p => p.ToString()).ToArray(), 422);
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
    public string Reading(string field) =>
        Request.HasFormContentType && Request.Form.TryGetValue(field, out var typed) ? typed.ToString()
        : Job.Survey.Site is var s
            ? field switch
            {
                "place" => s.Place,
                "start" => s.Start is { Length: >= 16 } start ? start[..16] : s.Start ?? $"{Job.Day:yyyy-MM-dd}T09:00",
                "timeZone" => s.TimeZone ?? clock.Zone.Id,
                "windAt" => s.WindAt,
                "shadeObjects" => string.Join(
                    "; ",
                    s.ShadeObjects.Select(o =>
                        FormattableString.Invariant($"{o.BearingDeg:0.#} {o.DistanceM:0.##} {o.WidthM:0.##} {o.HeightM:0.##}")
                    )
                ),
                _ => N(
                    field switch
                    {
                        "latitude" => s.Latitude,
                        "longitude" => s.Longitude,
                        "headingDeg" => s.HeadingDeg,
                        "airC" => s.AirC,
                        "humidityPct" => s.HumidityPct,
                        "windMs" => s.WindMs,
                        "cloudOktas" => s.CloudOktas,
                        _ => s.SunBlocked,
                    }
                ),
            } ?? ""
        : "";

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
            foreach (
                var part in Request
                    .Form["shadeObjects"]
                    .ToString()
                    .Split(';', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)
            )
            {
                var n = part.Split([' ', '\t'], StringSplitOptions.RemoveEmptyEntries)
                    .Select(x =>
                        double.TryParse(x.Replace(',', '.'), NumberStyles.Float, CultureInfo.InvariantCulture, out var v) ? v : double.NaN
                    )
                    .ToArray();
                if (n.Length != 4 || n.Any(double.IsNaN))
                {
                    problems.Add(
                        $"shadeObjects: '{(part.Length > 30 ? part[..30] : part)}' is not bearing, distance, width and height, like 180 4 20 5"
                    );
                    continue;
                }

                list.Add(new ShadeObject(n[0], n[1], n[2], n[3]));
            }

            return list;
        }

        string? Text(string field) => Request.Form[field].ToString().Trim() is { Length: > 0 and <= 60 } t ? t : null;
        var site = Job.Survey.Site with
        {
            Place = Text("place"),
            Start = Text("start"),
            TimeZone = Text("timeZone"),
            WindAt = Text("windAt"),
            Latitude = Number("latitude"),
            Longitude = Number("longitude"),
            HeadingDeg = Number("headingDeg"),
            AirC = Number("airC"),
            HumidityPct = Number("humidityPct"),
            WindMs = Number("windMs"),
            CloudOktas = Number("cloudOktas"),
            SunBlocked = Number("sunBlocked"),
            ShadeObjects = Objects(),
            Hours = [],
        };
        var (start, wrong) = SiteConditions.StartOf(site);
        if (wrong is not null)
        {
            problems.Add("start: " + wrong);
        }

        // Kept with its offset, so that the document means the same everywhere.
        site = start is { } at ? site with { Start = at.ToString("yyyy-MM-ddTHH:mm:sszzz", CultureInfo.InvariantCulture) } : site;
        var read = problems.Count == 0 ? SurveyFormat.Read(SurveyFormat.Write(Job.Survey with { Site = site })) : null;
        return read is { Ok: true }
            ? await SaveAsync(number, site, stop)
            : Again(problems.Count > 0 ? problems : read!.Problems.Select(p => p.ToString()).ToArray(), 422);
    }
}
