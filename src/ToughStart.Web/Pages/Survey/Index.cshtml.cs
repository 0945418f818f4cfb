using System.Text;
using System.Text.Json;
using Microsoft.AspNetCore.Mvc;
using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;
using ToughStart.Data;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Stations;

public sealed class SurveyModel(JobStore jobs, PlanCache plans) : JobPage(jobs, plans)
{
    /// <summary>House rules shown here; the rest keep the shop's default.</summary>
    public static readonly string[] ShownRules = ["wheels", "foam", "washMedia", "iron", "clay", "strongChemistry"];

    public override string Station => "survey";

    /// <summary>Kinds that can sit on some zone of this vehicle, outermost first.</summary>
    public IReadOnlyList<ContaminantKind> Kinds { get; private set; } = [];

    /// <summary>The survey and what may be painted where, for the script.</summary>
    public string Data { get; private set; } = "";

    public async Task<IActionResult> OnGetAsync(int number, CancellationToken stop)
    {
        if (await LoadAsync(number, false, stop) is { } none)
        {
            return none;
        }

        var families = Vehicle.Zones.SelectMany(z => z.Kind.MayBe.Select(s => s.Family)).ToHashSet();
        Kinds = Catalogue.Default.Contaminants.Where(k => k.Families.Any(families.Contains) && k.Id is not "oxidation").OrderBy(k => k.Layer).ThenBy(k => k.Index).ToArray();
        Data = JsonSerializer.Serialize(new
        {
            mayEdit = User.MayEdit(),
            number = Job.Number,
            revision = Job.Revision,
            mostDrawn = Drawing.NetDrawing.MostDrawn,
            survey = JsonDocument.Parse(Encoding.UTF8.GetString(SurveyFormat.Write(Job.Survey))).RootElement,
            kinds = Kinds.ToDictionary(k => k.Id, k => new { name = k.Name, layer = k.Layer, covers = Drawing.Textures.Covers(k.Id), families = k.Families, ages = k.AgeMatters || k.Id == "iron", tells = k.Tells, danger = k.Danger }),
            families = Vehicle.Zones.ToDictionary(z => z.Id, z => SurveyFormat.FamiliesOf(z, Job.Survey.ZoneOf(z.Id))),
        });
        return Page();
    }
}
