using System.Text;
using Microsoft.AspNetCore.Mvc;
using ToughStart.Core.Devices;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Data;
using ToughStart.Web.Identity;
using ToughStart.Web.Photos;

namespace ToughStart.Web.Stations;

/// <summary>Photos per zone in before-and-after pairs, and readings from a gauge's file.</summary>
public sealed class PhotosModel(JobDesk desk, RecordStore records) : JobPage(desk)
{
    public override string Station => "survey";

    [BindProperty(SupportsGet = true)]
    public string Zone { get; set; } = "bonnet";

    [BindProperty(SupportsGet = true)]
    public string Moment { get; set; } = "before";

    /// <summary>The damage it is to show; null = the zone.</summary>
    [BindProperty(SupportsGet = true)]
    public Guid? Mark { get; set; }

    [BindProperty]
    public string Kind { get; set; } = "film";

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public string? Said { get; private set; }

    public IReadOnlyList<(string Zone, IReadOnlyList<PhotoLine> Before, IReadOnlyList<PhotoLine> After)> Pairs { get; private set; } = [];

    public IReadOnlyDictionary<string, int> Counts { get; private set; } = new Dictionary<string, int>();

    public async Task<IActionResult> OnGetAsync(int number, string? said, CancellationToken stop) =>
        await LoadAsync(number, false, stop) ?? await ShowAsync(said?[..Math.Min(said.Length, 120)], [], 200, stop);

    /// <summary>The picture itself.</summary>
    public async Task<IActionResult> OnPostAsync(int number, IFormFile? file, CancellationToken stop)
    {
        if (await LoadAsync(number, false, stop) is { } none)
        {
            return none;
        }

        if (!Vehicle.Has(Zone) || Moment is not ("before" or "after"))
        {
            return await ShowAsync(null, [new Problem("zone", "is no zone of this vehicle")], 422, stop);
        }

        if (Mark is { } damage && !await records.HasMarkAsync(Job.Id, Zone, damage, stop))
        {
            return await ShowAsync(null, [new Problem("mark", "is no damage drawn on that zone")], 422, stop);
        }

        var bytes = await BytesAsync(file, stop);
        var (photo, problem) = await PhotoIntake.CleanAsync(bytes, stop);
        if (photo is null)
        {
            return await ShowAsync(null, [new Problem("picture", problem!)], 422, stop);
        }

        if (
            !await records.AddPhotoAsync(
                Job.Id,
                Zone,
                Moment,
                photo.Jpeg,
                photo.Thumb,
                photo.Width,
                photo.Height,
                User.StaffId(),
                Mark,
                stop
            )
        )
        {
            return await ShowAsync(
                null,
                [new Problem("picture", $"this job has {RecordStore.MostPhotos} photos already; delete one first")],
                422,
                stop
            );
        }

        return Mark is not null
            ? Redirect($"/jobs/{number}/gate?zone={Zone}")
            : Redirect($"/jobs/{number}/photos?zone={Zone}&said={Uri.EscapeDataString($"Kept: {Limits.Words(Zone)}, {Moment}.")}");
    }

    /// <summary>Takes a picture away for good.</summary>
    public async Task<IActionResult> OnPostDeleteAsync(int number, Guid id, CancellationToken stop)
    {
        if (await LoadAsync(number, false, stop) is { } none)
        {
            return none;
        }

        await records.DeletePhotoAsync(Job.Id, id, stop);
        return Redirect($"/jobs/{number}/photos?zone={Zone}&said=Deleted.");
    }

    public async Task<IActionResult> OnPostReadingsAsync(int number, IFormFile? file, CancellationToken stop)
    {
        if (await LoadAsync(number, false, stop) is { } none)
        {
            return none;
        }

        var problems = new List<Problem>();
        var bytes = await BytesAsync(file, stop);
        var kind = Kind is "temperature" ? "temperature" : "film";
        var readings = bytes.Length is 0 or > 200_000
            ? []
            : ReadingFile.Read(Encoding.UTF8.GetString(bytes), kind, [.. Vehicle.Zones.Select(z => z.Id)], problems);
        if (bytes.Length is 0 or > 200_000)
        {
            problems.Add(new Problem("file", bytes.Length == 0 ? "is empty" : "is larger than 200 kB"));
        }

        if (readings.Count > 0)
        {
            await records.AddReadingsAsync(
                Job.Id,
                readings.Select(r => (r.Kind, r.Zone, r.Value)),
                file!.FileName.Length > 80 ? "file" : file.FileName,
                User.StaffId(),
                stop
            );
            var survey = Job.Survey with
            {
                Zones =
                [
                    .. Job
                        .Survey.Zones.Select(z => z.Zone)
                        .Union(readings.Select(r => r.Zone))
                        .Order(StringComparer.Ordinal)
                        .Select(id =>
                            With(Job.Survey.ZoneOf(id) ?? new ZoneSurvey(id, null, [], null, null, null, [], []), kind, readings)
                        ),
                ],
            };
            if (!(await Jobs.SaveSurveyAsync(Job.Id, Job.Revision, survey, User.StaffId(), stop)).Saved)
            {
                return await ShowAsync(
                    null,
                    [
                        new Problem(
                            "survey",
                            "was changed on the same zone at the same moment; the readings are kept with the job but not yet on the zone. Read the file in again"
                        ),
                    ],
                    409,
                    stop
                );
            }

            await LoadAsync(number, false, stop);
        }

        return await ShowAsync(
            $"{readings.Count} readings on {readings.Select(r => r.Zone).Distinct().Count()} zones taken.",
            problems,
            problems.Count > 0 && readings.Count == 0 ? 422 : 200,
            stop
        );
    }

    private static ZoneSurvey With(ZoneSurvey z, string kind, IReadOnlyList<GaugeReading> readings)
    {
        var mine = readings.Where(r => r.Zone == z.Zone).Select(r => r.Value).ToArray();
        return mine.Length == 0 ? z
            : kind == "film"
                ? z with
                {
                    Condition = z.Condition with { FilmUm = [.. z.Condition.FilmUm.Concat(mine).TakeLast(SurveyFormat.MostReadings)] },
                }
            : z with { MeasuredC = Math.Round(mine.Average(), 1), MeasuredAt = null };
    }

    private static async Task<byte[]> BytesAsync(IFormFile? file, CancellationToken stop)
    {
        if (file is null)
        {
            return [];
        }

        using var memory = new MemoryStream();
        await file.CopyToAsync(memory, stop);
        return memory.ToArray();
    }

    private async Task<IActionResult> ShowAsync(string? said, IReadOnlyList<Problem> problems, int status, CancellationToken stop)
    {
        (Said, Problems) = (said, problems);
        var photos = await records.PhotosAsync(Job.Id, stop);
        Pairs = photos
            .GroupBy(p => p.Zone)
            .Select(g =>
                (
                    g.Key,
                    (IReadOnlyList<PhotoLine>)[.. g.Where(p => p.Moment == "before")],
                    (IReadOnlyList<PhotoLine>)[.. g.Where(p => p.Moment == "after")]
                )
            )
            .ToArray();
        Counts = photos.GroupBy(p => p.Zone).ToDictionary(g => g.Key, g => g.Count());
        Response.StatusCode = status;
        return Page();
    }
}
