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

/// <summary>One panel at one moment, and what the shop measured of its films.</summary>
public sealed partial class DayModel
{
    /// <summary>A weighed towel or one timed dry-out: what the film of this shop is against the model's.</summary>
    public async Task<IActionResult> OnPostFilmAsync(
        int number,
        string? method,
        string? carrier,
        string? zone,
        int quarter,
        string? measured,
        CancellationToken stop
    )
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        (Trials, Kept) = (await kit.FilmTrialsAsync(stop), await sites.AllAsync(stop));
        if (
            Carriers.All(k => k.Id != carrier)
            || !Vehicle.Has(zone ?? "")
            || !double.TryParse((measured ?? "").Trim().Replace(',', '.'), NumberStyles.Float, CultureInfo.InvariantCulture, out var value)
            || !(value is > 0 and <= 7200)
        )
        {
            return Again(
                ["measured: choose the zone on the drawing and say grams on half a square metre, or seconds to the first dry spots"],
                422
            );
        }

        var (z, film) = (Vehicle[zone!], Catalogue.Default.Carriers.First(k => k.Id == carrier));
        var family = SiteConditions.FamilyOf(z, Job.Survey);
        double? factor = null;
        if (method == "towel")
        {
            factor = FilmCalibration.FromTowel(value, film, z.Tilt);
        }
        else if (
            SiteConditions.StartOf(Job.Survey.Site).Start is { } start
            && quarter is >= 0 and < DayMap.Count
            && Moment(start, quarter) is { } conditions
        )
        {
            factor = FilmCalibration.FromDryOut(conditions.Balance(z, family, null, false), film, value);
        }

        if (factor is not { } found)
        {
            return Again(
                [
                    $"measured: {value:0.#} fits no film between {FilmCalibration.Least} and {FilmCalibration.Most} times the model's here: look at time, sun and panel again",
                ],
                422
            );
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

        if (
            !Vehicle.Has(zone)
            || Carriers.All(k => k.Id != carrier)
            || quarter is < 0 or >= DayMap.Count
            || SiteConditions.StartOf(Job.Survey.Site).Start is not { } start
        )
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
        var use = await kit.InUseAsync(stop);
        var film = Catalogue.Default.Carriers.First(k => k.Id == carrier).Times(use.FilmFactor ?? 1);
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
        static double[][] Thin(List<double[]> p) =>
            p.Where((_, i) => i % Math.Max(1, p.Count / 60) == 0 || i == p.Count - 1)
                .Select(x => new[] { Math.Round(x[0], 1), Math.Round(x[1], 2), Math.Round(x[2], 1) })
                .ToArray();
        var window = conditions.Window(z, family, null, carrier);
        var (low, high) = conditions.Band(z, family, null, carrier);
        var speed = use.Speed ?? new CrewSpeed(Catalogue.Default["apply-speed"], Catalogue.Default["rinse-speed"]);
        var remedies =
            now[0] >= Catalogue.Default["not-the-limit"]
                ? []
                : Remedies.For(Job.Survey, conditions, z, family, carrier, Catalogue.Default["day-dwell"], speed, true, t =>
                    SiteConditions.Of(Job.Survey, t).Conditions?.Corrected(conditions.Biases)
                );
        return new JsonResult(
            new
            {
                low = SiteConditions.Say(low),
                high = SiteConditions.Say(high),
                band = high < Catalogue.Default["not-the-limit"],
                usable = SiteConditions.Say(window.UsableSeconds),
                helps = remedies.Count == 0
                    ? null
                    : $"For a dwell of {Catalogue.Default["day-dwell"] / 60:0.#} min, {Remedies.Say(remedies)}.",
                bias = conditions.Biases.GetValueOrDefault(zone)?.Say,
                first = now[0],
                most = now[1],
                panel = Math.Round(now[2], 1),
                film = Math.Round(now[3]),
                points = Thin(points),
                cooled = cool is null ? null : new { first = cool[0], points = Thin(coolPoints) },
                say = SiteConditions.Say(now[0]),
                sayMost = SiteConditions.Say(now[1]),
                sayCooled = cool is null ? null : SiteConditions.Say(cool[0]),
            }
        );
    }

    /// <summary>The place at a quarter of the day, set against what was measured.</summary>
    private SiteConditions? Moment(DateTimeOffset start, int quarter) =>
        SiteConditions.Of(Job.Survey, new DateTimeOffset(start.Date, start.Offset).AddMinutes(15 * quarter)).Conditions?.Corrected();

    /// <summary>An infrared reading of one panel at the time set: the model is corrected by it at once. Empty takes it back.</summary>
    public async Task<IActionResult> OnPostPanelAsync(int number, string? zone, int quarter, string? celsius, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        var text = (celsius ?? "").Trim().Replace(',', '.');
        double? value =
            double.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out var v) && v is >= -30 and <= 120 ? v : null;
        if (
            !Vehicle.Has(zone ?? "")
            || quarter is < 0 or >= DayMap.Count
            || (value is null && text.Length > 0)
            || SiteConditions.StartOf(Job.Survey.Site).Start is not { } start
        )
        {
            return Again(["celsius: choose the zone on the drawing and say what the thermometer reads, −30 to 120 °C"], 422);
        }

        var at = new DateTimeOffset(start.Date, start.Offset)
            .AddMinutes(15 * quarter)
            .ToString("yyyy-MM-ddTHH:mm:sszzz", CultureInfo.InvariantCulture);
        var own = Job.Survey.ZoneOf(zone!) ?? new ZoneSurvey(zone!, null, [], null, null, null, [], []);
        var zones = Job
            .Survey.Zones.Where(z => z.Zone != zone)
            .Append(own with { MeasuredC = value, MeasuredAt = value is null ? null : at })
            .OrderBy(z => z.Zone, StringComparer.Ordinal)
            .ToArray();
        return await SaveAsync(number, Job.Survey with { Zones = zones }, stop);
    }
}
