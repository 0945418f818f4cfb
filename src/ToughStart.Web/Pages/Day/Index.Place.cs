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

/// <summary>Places kept by name, the crew's speed, the start of the job.</summary>
public sealed partial class DayModel
{
    /// <summary>Takes a kept place: where it stands, what throws shade, its water and drain; the hour and the weather stay.</summary>
    public async Task<IActionResult> OnPostTakeAsync(int number, Guid kept, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        return await sites.PlaceAsync(kept, stop) is { } place
            ? await SaveAsync(number, Job.Survey.Site.At(place), stop)
            : Again(["place: is not kept any more"], 409);
    }

    public async Task<IActionResult> OnPostKeepAsync(int number, string? name, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        Kept = await sites.AllAsync(stop);
        return name?.Trim() is not { Length: > 0 and <= 60 } wanted ? Again(["name: a place is kept under 1 to 60 characters"], 422)
            : await sites.KeepAsync(wanted, Job.Survey.Site, User.StaffId(), stop) ? Redirect($"/jobs/{number}/day")
            : Again([$"name: {SiteStore.Most} places are kept already; forget one first"], 422);
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

        double? Speed(string? t) =>
            double.TryParse((t ?? "").Trim().Replace(',', '.'), NumberStyles.Float, CultureInfo.InvariantCulture, out var v)
            && v is >= 0.2 and <= 60
                ? v
                : null;
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
        return await SaveAsync(
            number,
            Job.Survey.Site with
            {
                Start = at.ToString("yyyy-MM-ddTHH:mm:sszzz", CultureInfo.InvariantCulture),
                HeadingDeg = heading ?? Job.Survey.Site.HeadingDeg,
            },
            stop
        );
    }
}
