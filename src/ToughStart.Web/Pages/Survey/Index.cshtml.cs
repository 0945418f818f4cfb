using System.Text;
using System.Text.Json;
using Microsoft.AspNetCore.Mvc;
using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;
using ToughStart.Data;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Stations;

public sealed class SurveyModel(JobDesk desk, RecordStore records) : JobPage(desk)
{
    /// <summary>House rules shown here; the rest keep the shop's default.</summary>
    public static readonly string[] ShownRules = ["wheels", "foam", "washMedia", "iron", "clay", "strongChemistry"];

    private static readonly string[] ShownSets = ["lower-third", "front-faces"];

    public override string Station => "survey";

    /// <summary>Kinds that can sit on some zone of this vehicle, outermost first.</summary>
    public IReadOnlyList<ContaminantKind> Kinds { get; private set; } = [];

    public IReadOnlyDictionary<string, int> Photos { get; private set; } = new Dictionary<string, int>();

    /// <summary>The survey and what may be painted where, for the script.</summary>
    public string Data { get; private set; } = "";

    public IReadOnlyList<Problem> ImportProblems { get; private set; } = [];

    /// <summary>A survey file in place of what stands there; the old one stays in the history.</summary>
    public async Task<IActionResult> OnPostImportAsync(int number, IFormFile? file, CancellationToken stop)
    {
        if (await LoadAsync(number, false, stop) is { } none)
        {
            return none;
        }

        using var memory = new MemoryStream();
        if (file is not null)
        {
            await file.CopyToAsync(memory, stop);
        }

        var read = SurveyFormat.Read(memory.ToArray());
        if (read.Value is { } survey && (await Jobs.SaveSurveyAsync(Job.Id, Job.Revision, survey, User.StaffId(), stop)).Saved)
        {
            return Redirect($"/jobs/{number}/survey");
        }

        ImportProblems = read.Problems;
        Response.StatusCode = read.Refusal == Refusal.TooLarge ? 413 : 422;
        return await OnGetAsync(number, stop);
    }

    public async Task<IActionResult> OnGetAsync(int number, CancellationToken stop)
    {
        if (await LoadAsync(number, false, stop) is { } none)
        {
            return none;
        }

        Photos = (await records.PhotosAsync(Job.Id, stop)).GroupBy(p => p.Zone).ToDictionary(g => g.Key, g => g.Count());
        var families = Vehicle.Zones.SelectMany(z => z.Kind.MayBe.Select(s => s.Family)).ToHashSet();
        Kinds = Catalogue
            .Default.Contaminants.Where(k => k.Families.Any(families.Contains))
            .OrderBy(k => k.Layer)
            .ThenBy(k => k.Index)
            .ToArray();
        Data = JsonSerializer.Serialize(
            new
            {
                mayEdit = MayEdit,
                number = Job.Number,
                revision = Job.Revision,
                notes = (await Jobs.NotesAsync(Job.Id, stop))
                    .Where(n => Vehicle.Has(n.Zone))
                    .Select(n => new
                    {
                        id = n.Id,
                        zone = n.Zone,
                        words = n.Words,
                    }),
                mostDrawn = Drawing.NetDrawing.MostDrawn,
                survey = JsonDocument.Parse(Encoding.UTF8.GetString(SurveyFormat.Write(Job.Survey))).RootElement,
                kinds = Kinds.ToDictionary(
                    k => k.Id,
                    k => new
                    {
                        name = k.Name,
                        layer = k.Layer,
                        covers = Drawing.Textures.Covers(k.Id),
                        families = k.Families,
                        ages = k.AgeMatters || k.Id == "iron",
                        inside = k.GetsInside,
                        tells = k.Tells,
                        danger = k.Danger,
                    }
                ),
                other = Vehicle
                    .Zones.Select(z => (z.Id, Other: ZoneSets.OtherSide(Vehicle, z.Id)))
                    .Where(x => x.Other is not null)
                    .ToDictionary(x => x.Id, x => x.Other),
                sets = ShownSets.ToDictionary(s => s, s => ZoneSets.Of(Vehicle, s)),
                stories = Catalogue.Default.Stories.ToDictionary(
                    s => s.Id,
                    s =>
                        s.On(Vehicle)
                            .ToDictionary(
                                z => z.Key,
                                z =>
                                    z.Value.Select(f => new
                                    {
                                        contaminant = f.Contaminant,
                                        grade = f.Grade,
                                        age = f.Age,
                                    })
                            )
                ),
                surfaces = Catalogue.Default.Surfaces.ToDictionary(s => s.Id, s => new { name = s.Name, family = s.Family }),
                zoneKinds = Vehicle.Zones.ToDictionary(z => z.Id, z => z.Kind.Id),
                mayBe = Vehicle
                    .Zones.Select(z => z.Kind)
                    .Distinct()
                    .ToDictionary(k => k.Id, k => new { standard = k.Default.Id, options = k.MayBe.Select(s => s.Id) }),
                film = new
                {
                    thin = Catalogue.Default["film-thin"],
                    refinish = Catalogue.Default["film-refinish"],
                    off = Catalogue.Default["film-off"],
                    spots = Catalogue.Default["film-spots"],
                },
                families = Vehicle.Zones.ToDictionary(z => z.Id, z => SurveyFormat.FamiliesOf(z, Job.Survey.ZoneOf(z.Id))),
            }
        );
        return Page();
    }
}
