using Microsoft.AspNetCore.Mvc;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Data;
using ToughStart.Web.Drawing;

namespace ToughStart.Web.Stations;

/// <summary>One solution of the plan in the container chosen for it.</summary>
public sealed record Solution(string Key, string Agent, string Name, ProductFraction OnPanel, ProductFraction InVessel, bool Calibrated, double PanelLow, double PanelHigh, double NeedMl, Container Container, double FillMl, int Fills, string Care, IReadOnlyList<string> Kit, IReadOnlyList<string> Steps)
{
    public double ProductMl => FillMl * InVessel.Value;

    public double WaterMl => FillMl - ProductMl;
}

public sealed class MixModel(JobStore jobs, Workshop plans) : JobPage(jobs, plans)
{
    private static readonly string[] Never =
    [
        "Acid never meets chlorine bleach, iron remover or strong alkali: not in a bottle, a bucket, a cloth, on a panel or in the sump.",
        "Bleach never meets ammonia. Product into water, not water into product. Gas noticed: leave, get everyone out, air, emergency call.",
    ];

    public override string Station => "mix";

    public IReadOnlyList<Solution> Solutions { get; private set; } = [];

    public IReadOnlyList<string> NeverTogether => Never;

    public async Task<IActionResult> OnGetAsync(int number, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        var groups = CoreSample.StageGroups(Plan);
        Solutions = groups.SelectMany(g => g.Steps.Where(s => s.Mix is not null).Select(s => (Group: g, Step: s)))
            .GroupBy(x => (x.Step.Agent, x.Step.Strength, x.Step.Mix!.Vessel))
            .Select(g => Make(g.Key.Agent, g.Select(x => x.Step).ToArray(), g.Select(x => x.Group.Number).Distinct().ToArray())).ToArray();
        return Page();
    }

    private Solution Make(string agentId, Step[] steps, string[] numbers)
    {
        var agent = Catalogue.Default.Agent(agentId);
        var mix = steps[0].Mix!;
        var key = $"{agentId}-{steps[0].Strength.Value * 10000:0}";
        var need = steps.Sum(s => s.Mix!.ProductMl + s.Mix.WaterMl);
        var chosen = Bottle.All.FirstOrDefault(c => c.Id == Request.Query[key].ToString()) ?? Bottle.Default(mix.Vessel, need);
        // Buckets are filled to work with; the rest is mixed to what the panels need, in steps a jug can show.
        var fill = mix.Vessel == "bucket" ? chosen.Ml : Math.Min(chosen.Ml * 0.95, Math.Max(50, Math.Ceiling(need / 50) * 50));
        return new Solution(key, agentId, agent.Name, steps[0].Strength, mix.InVessel, mix.Calibrated, mix.OnPanelLow, mix.OnPanelHigh, need, chosen, fill, mix.Vessel == "bucket" ? 1 : (int)Math.Ceiling(need / fill), agent.Care, agent.Kit, numbers);
    }

    public static string Colour(string agent) => agent switch
    {
        "iron-remover" or "iron-foam" => "#b58bd0",
        "alkaline-foam" or "degreaser" or "tfr" or "apc" => "#e3b45c",
        "citrus-prewash" => "#f0c64f",
        "tar-remover" or "alcohol-wipe" => "#c9d3d6",
        "wheel-acid" or "spot-acid" => "#e2836f",
        "wheel-neutral" => "#9ec7a0",
        _ => "#8fc4c4",
    };
}
