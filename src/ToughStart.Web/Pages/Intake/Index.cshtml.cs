using Microsoft.AspNetCore.Mvc;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Surfaces;
using ToughStart.Core.Vehicles;
using ToughStart.Data;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Stations;

/// <summary>A hold that stands shut, with what releases it.</summary>
public sealed record HoldLine(string Hold, string Reason, string? ReleasedBy);

/// <summary>Station Intake: client, vehicle, history, wishes, site and the holds before any step.</summary>
public sealed class IntakeModel(JobDesk desk, SiteStore sites, HouseStore house, ShopClock clock, Ways ways, ComesAgain again)
    : JobPage(desk)
{
    public override string Station => "intake";

    [BindProperty]
    public IntakeForm Form { get; set; } = new();

    public bool IsNew { get; private set; }

    /// <summary>Places kept by name.</summary>
    public IReadOnlyList<SitePreset> Kept { get; private set; } = [];

    /// <summary>The shop's set of house rules that this job will start with; null = the product's own.</summary>
    public string? HouseName { get; private set; }

    public IReadOnlyList<string> Clients { get; private set; } = [];

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    /// <summary>What the site and the history warn of.</summary>
    public IReadOnlyList<string> Warnings { get; private set; } = [];

    public IReadOnlyList<HoldLine> Holds { get; private set; } = [];

    public string? Prefilled { get; private set; }

    public IReadOnlyDictionary<string, string> HoldNames { get; private set; } = new Dictionary<string, string>();

    public async Task<IActionResult> OnGetAsync(int? number, string? plate, CancellationToken stop)
    {
        if (number is { } n)
        {
            if (await LoadAsync(n, false, stop) is { } none)
            {
                return none;
            }

            var (client, vehicle, job, wishes) = await Jobs.IntakeAsync(Job.Id, stop);
            Form = IntakeForm.Of(Job.Survey, client, vehicle, job, wishes);
        }
        else
        {
            if (!string.IsNullOrWhiteSpace(plate))
            {
                await Prefill(plate, stop);
            }

            if (await house.ForNewJobsAsync(stop) is { } ours)
            {
                Form.TyreLook = ours.Rules.GetValueOrDefault("tyres", HouseRules.All.First(r => r.Id == "tyres").Choices[0].Value);
            }
        }

        await Prepare(number, stop);
        return Page();
    }

    /// <summary>What this would warn of, while it is still being typed.</summary>
    public async Task<IActionResult> OnPostLookAsync(int? number, CancellationToken stop)
    {
        await Prepare(number, stop);
        return Partial("Look", this);
    }

    public async Task<IActionResult> OnPostAsync(int? number, CancellationToken stop)
    {
        if (number is { } n && await LoadAsync(n, false, stop) is { } none)
        {
            return none;
        }

        var problems = new List<Problem>();
        var before = number is null ? new IntakeWishes() : (await Jobs.IntakeAsync(Job.Id, stop)).Wishes;
        var (contact, day, story, wishes) = Form.ToIntake(before, User.StaffId(), clock.Local, problems);
        var start = number is null ? await StartFrom(contact.Plate, stop) : Job.Survey;
        var draft = Form.ToSurvey(start, [], problems);
        // Another day keeps the hour of the start.
        if (
            draft is not null
            && Core.Conditions.SiteConditions.StartOf(draft.Site).Start is { } begins
            && DateOnly.FromDateTime(begins.Date) != day
        )
        {
            var moved = new DateTimeOffset(day.ToDateTime(TimeOnly.FromDateTime(begins.DateTime)), begins.Offset);
            draft = draft with
            {
                Site = draft.Site with
                {
                    Start = moved.ToString("yyyy-MM-ddTHH:mm:sszzz", System.Globalization.CultureInfo.InvariantCulture),
                },
            };
        }

        if (draft is not null && Form.Kept is { } kept && await sites.PlaceAsync(kept, stop) is { } place)
        {
            draft = draft with { Site = draft.Site.At(place) };
        }

        if (draft is null || problems.Count > 0)
        {
            return await Back(number, problems, 422, stop);
        }

        if (number is null)
        {
            if (await house.ForNewJobsAsync(stop) is { } ours)
            {
                // The shop's set; only how the tyres shall look was asked of the client.
                draft = draft with { House = new Dictionary<string, string>(ours.Rules) { ["tyres"] = Form.TyreLook } };
            }

            var made = await Jobs.TakeInOnceAsync(Form.Once, contact, day, story, wishes, draft, User.StaffId(), stop);
            if (await LoadAsync(made, false, stop) is { } lost)
            {
                return lost;
            }

            return await SaveReleases(draft, stop) ? Redirect($"/jobs/{made}/survey") : await Back(made, [Overtaken], 409, stop);
        }

        if (!await Jobs.SaveIntakeAsync(Job.Id, Form.Version, contact, day, story, wishes, stop))
        {
            problems.Add(
                new Problem(
                    "intake",
                    "was changed by somebody else since you opened this page; what you typed is still here. Look at theirs in another tab, then save again to replace it"
                )
            );
            Form.Version = (await Jobs.IntakeAsync(Job.Id, stop)).Job.Version;
            return await Back(number, problems, 409, stop);
        }

        return await SaveReleases(draft, stop) ? Redirect($"/jobs/{number}/survey") : await Back(number, [Overtaken], 409, stop);
    }

    public static string HoldWords(string hold) =>
        hold switch
        {
            "flood-hygiene" => "Flood water: hygiene",
            "flood-workshop" => "Flood: workshop release",
            "high-voltage" => "High voltage in water",
            "nests" => "Nest or droppings",
            "biological" => "Blood or needles",
            _ => "Brake dust of unknown age",
        };

    public string ColourWords =>
        PaintColour.Nearest(Safe(Form.Colour)) is var c ? $"near {c.Name}: takes about {c.Absorptance:0%} of the sun" : "";

    public string? HardnessWords =>
        double.TryParse(Form.Hardness?.Replace(',', '.'), System.Globalization.CultureInfo.InvariantCulture, out var v)
        && v >= 0
        && WaterHardness.Units.Any(u => u.Id == Form.HardnessUnit)
            ? $"{WaterHardness.MgPerLitre(v, Form.HardnessUnit):0} mg/l: {WaterHardness.Class(WaterHardness.MgPerLitre(v, Form.HardnessUnit))}"
            : null;

    private static string Safe(string? hex) => hex is { Length: 7 } && hex[0] == '#' && hex.Skip(1).All(Uri.IsHexDigit) ? hex : "#b9bdc0";

    private async Task<Survey?> StartFrom(string plate, CancellationToken stop) =>
        await Jobs.LastVisitAsync(plate, null, stop) is { } last ? (await again.StartAsync(last, stop)).Survey : null;

    private async Task Prefill(string plate, CancellationToken stop)
    {
        if (await Jobs.LastVisitAsync(plate, null, stop) is not { } last)
        {
            Form.Plate = plate;
            Prefilled = $"{plate} has not been here before.";
            return;
        }

        var (client, vehicle, _, _) = await Jobs.IntakeAsync(last.Id, stop);
        var back = await again.StartAsync(last, stop);
        Form = IntakeForm.Of(back.Survey, client, vehicle);
        Form.Version = 0;
        Prefilled =
            $"Here before: job {last.Number}, {ways.Of(last.Day)}. Body, surfaces and condition are carried over; dirt is not. {back.Words}".TrimEnd();
    }

    private static readonly Problem Overtaken = new(
        "survey",
        "was changed in the same place at the same moment; nothing of it was overwritten. What you typed is still here: look, and save again"
    );

    /// <summary>Writes releases that name somebody new: the name goes to the notes, the survey holds the note's id.</summary>
    /// <returns>False when somebody changed the same part of the survey at the same moment.</returns>
    private async Task<bool> SaveReleases(Survey draft, CancellationToken stop)
    {
        var releases = new List<Release>();
        foreach (var (hold, by) in Form.Releases.Where(r => SurveyWords.Holds.Contains(r.Key) && !string.IsNullOrWhiteSpace(r.Value)))
        {
            var old = Job.Survey.History.Releases.FirstOrDefault(r => r.Hold == hold);
            if (old is not null && by == (HoldNames.GetValueOrDefault(hold) ?? old.By))
            {
                releases.Add(old);
                continue;
            }

            var note = await Jobs.NoteAsync(Job.Id, "gate:" + hold, by!.Trim()[..Math.Min(80, by.Trim().Length)], User.StaffId(), stop);
            releases.Add(
                new Release(
                    hold,
                    "n-" + note.ToString("N")[^8..],
                    clock.Local.ToString("yyyy-MM-dd", System.Globalization.CultureInfo.InvariantCulture)
                )
            );
        }

        var final = draft with { History = draft.History with { Releases = releases } };
        return SurveyFormat.Hash(final) == SurveyFormat.Hash(Job.Survey)
            || (await Jobs.SaveSurveyAsync(Job.Id, Job.Revision, final, User.StaffId(), stop)).Saved;
    }

    private async Task<IActionResult> Back(int? number, List<Problem> problems, int status, CancellationToken stop)
    {
        Problems = problems;
        Response.StatusCode = status;
        await Prepare(number, stop);
        return Page();
    }

    private async Task Prepare(int? number, CancellationToken stop)
    {
        IsNew = number is null;
        ViewData["Station"] = Station;
        ViewData["Title"] = IsNew ? "Take in a vehicle" : "Intake";
        Clients = await Jobs.ClientNamesAsync(stop);
        Kept = await sites.AllAsync(stop);
        HouseName = IsNew ? (await house.ForNewJobsAsync(stop))?.Name : null;
        if (number is { } n && Job is null && await LoadAsync(n, false, stop) is not null)
        {
            return;
        }

        if (Job is not null)
        {
            var notes = await Jobs.NotesAsync(Job.Id, stop);
            HoldNames = Job.Survey.History.Releases.ToDictionary(
                r => r.Hold,
                r => notes.FirstOrDefault(x => "n-" + x.Id.ToString("N")[^8..] == r.By)?.Words ?? r.By
            );
            foreach (
                var (hold, name) in HoldNames.Where(g =>
                    Form.Releases.GetValueOrDefault(g.Key) is { } by && Job.Survey.History.Releases.Any(r => r.Hold == g.Key && r.By == by)
                )
            )
            {
                Form.Releases[hold] = name;
            }
        }

        var draft = Form.ToSurvey(null, [], []) ?? new IntakeForm { Preset = Form.Preset }.ToSurvey(null, [], [])!;
        var shut = IntakeHold.Check(draft).Select(r => (r.What, r.Reason)).ToList();
        if (draft.History.BrakeDust == "unknown")
        {
            shut.Add(("brake-dust", "No blower, dry brush or lance at wheels until somebody named says it is modern."));
        }

        Holds = shut.Select(g => new HoldLine(g.What, g.Reason, Form.Releases.GetValueOrDefault(g.What))).ToArray();
        Warnings = SiteWarnings.Of(draft);
    }
}
