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
public sealed partial class DayModel(JobDesk desk, KitStore kit, SiteStore sites, RecordStore records, ShopClock clock) : JobPage(desk)
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

    public static IReadOnlyList<(string Id, string Name)> Carriers { get; } =
    [("spray", "spray, water"), ("thin-foam", "foam"), ("gel", "gel")];

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

    private Task<IActionResult> SaveAsync(int number, Site site, CancellationToken stop) =>
        SaveAsync(number, Job.Survey with { Site = site }, stop);

    private async Task<IActionResult> SaveAsync(int number, Survey survey, CancellationToken stop)
    {
        var saved = await Jobs.SaveSurveyAsync(Job.Id, Job.Revision, survey, User.StaffId(), stop);
        return saved.Saved
            ? Redirect($"/jobs/{number}/day")
            : Again([$"{saved.TheirAuthor} changed the site at the same moment; nothing was overwritten. Look again."], 409);
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
        (Map, Why) = Workshop.Day(Equipped, Plan.ReferOnly ? null : anywhere, HttpContext.RequestAborted);
        if (Map is null)
        {
            return;
        }

        var (alike, dry) = Drying(Map);
        Now = DayMap.QuarterOf(SiteConditions.StartOf(Job.Survey.Site).Start!.Value);
        Data = JsonSerializer.Serialize(
            new
            {
                number = Job.Number,
                zones = Map.Zones,
                now = Now,
                best = Map.Best,
                quarters = Map.Quarters.Select(q => new
                {
                    t = q.At.ToString("HH:mm", CultureInfo.InvariantCulture),
                    alt = Math.Round(q.Sun.Altitude, 1),
                    az = Math.Round(q.Sun.Azimuth, 1),
                    air = Math.Round(q.Air.Celsius, 1),
                    rh = Math.Round(q.Air.HumidityPct),
                    wind = Math.Round(q.Air.Wind, 1),
                    sun = q.Sunny,
                    notes = q.Bars.Concat(q.Minds),
                }),
                alike,
                dry,
                starts = Map.Starts.Select(s => new
                {
                    worse = Math.Round(100 * Map.Worse(s.Quarter)),
                    fit = Math.Round(s.Fit, 2),
                    stage = s.Work,
                    zone = s.Zone is null ? null : Limits.Words(s.Zone),
                    say = s.Zone is null ? null : s.Say,
                }),
            },
            Written
        );
    }

    /// <summary>
    /// Seconds to the first dry spots by carrier and quarter, once for zones that dry alike all day, and of each zone which of them it is.
    /// </summary>
    private static (int[] Alike, Dictionary<string, double[][]> Dry) Drying(DayMap map)
    {
        double[] Of(DayQuarter q, string carrier) => q.FirstDry.TryGetValue(carrier, out var w) ? [.. w.Select(s => Math.Round(s))] : [];
        var all = Carriers.ToDictionary(k => k.Id, k => map.Quarters.Select(q => Of(q, k.Id)).ToArray());
        string Day(int zone) => string.Join(' ', all.Values.SelectMany(day => day.Where(q => q.Length > 0).Select(q => q[zone])));
        string[] days = [.. Enumerable.Range(0, map.Zones.Count).Select(Day)];
        string[] kinds = [.. days.Distinct()];
        int[] first = [.. kinds.Select(k => Array.IndexOf(days, k))];
        return (
            [.. days.Select(d => Array.IndexOf(kinds, d))],
            all.ToDictionary(c => c.Key, c => c.Value.Select(q => q.Length == 0 ? q : [.. first.Select(z => q[z])]).ToArray())
        );
    }

    /// <summary>Products the plan lays on, each with the film it makes.</summary>
    public IReadOnlyList<(string Name, string Film)> Products =>
        Draft
            .Steps.Select(s =>
                (Step: s, Film: Catalogue.Default.Agents.FirstOrDefault(a => a.Id == s.Agent) is { } a ? SiteConditions.CarrierOf(a) : null)
            )
            .Where(x => x.Film is not null && x.Step.Mix is not null)
            .Select(x => (x.Step.Bottle ?? x.Step.AgentName, x.Film!))
            .Distinct()
            .ToArray();

    /// <summary>What the plan of this start does about it: sections and misting of its tightest step.</summary>
    public string? AsPlanned
    {
        get
        {
            var tight = Draft
                .Steps.Where(s => s.Sections is { Sections.Count: > 1 } && s.DwellMinutes > 0)
                .OrderByDescending(s => s.Sections!.Sections.Count)
                .FirstOrDefault();
            return tight is null
                ? null
                : $"As planned: {tight.Name} in {tight.Sections!.Sections.Count} sections{(tight.Sections.RemistSeconds is { } every ? $", mist again every {SiteConditions.Say(every)}" : "")}.";
        }
    }
}
