using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Provenance;
using ToughStart.Core.Surfaces;
using ToughStart.Data;

namespace ToughStart.Web.Stations;

/// <summary>The one matrix the planner asks, with every cell explaining itself.</summary>
public sealed class CompatibilityModel(ShelfStore shelf, KitStore kit) : PageModel
{
    public static IReadOnlyList<(string Id, string Name, Family[] Families)> Groups { get; } =
    [
        ("paint", "Paint and film", [Family.Body]),
        ("glass", "Glass and lamps", [Family.Glass]),
        ("trim", "Trim, seals, hood", [Family.Trim, Family.Seal, Family.Hood]),
        ("metal", "Metal", [Family.Metal]),
        ("wheel", "Wheels", [Family.Wheel]),
        ("rest", "Tyres, arches, running gear", [Family.Tyre, Family.Arch, Family.Engine, Family.Chain, Family.Disc]),
    ];

    [BindProperty(SupportsGet = true)]
    public string Group { get; set; } = "paint";

    [BindProperty(SupportsGet = true)]
    public string? Agent { get; set; }

    [BindProperty(SupportsGet = true)]
    public string? Surface { get; set; }

    [BindProperty(SupportsGet = true)]
    public int Film { get; set; } = 20;

    [BindProperty(SupportsGet = true)]
    public string Strength { get; set; } = "reference";

    [BindProperty(SupportsGet = true)]
    public bool Keep { get; set; }

    [BindProperty(SupportsGet = true)]
    public bool Own { get; set; }

    /// <summary>Agent after agent instead of agent on surface.</summary>
    [BindProperty(SupportsGet = true)]
    public bool After { get; set; }

    public IReadOnlyList<Surface> Surfaces { get; private set; } = [];

    public IReadOnlyList<Agent> Agents { get; } = Catalogue.Default.Agents.Where(a => !a.IsWater).ToArray();

    public IReadOnlyDictionary<string, ShelfBottle> Bottles { get; private set; } = new Dictionary<string, ShelfBottle>();

    public CompatibilityAnswer? Cell { get; private set; }

    public async Task OnGetAsync(CancellationToken stop)
    {
        ViewData["Title"] = "What agrees with what";
        ViewData["Station"] = "compatibility";
        Group = Groups.Any(g => g.Id == Group) ? Group : "paint";
        Film = Math.Clamp(Film, -10, 80);
        Surfaces = Catalogue.Default.Surfaces.Where(s => Groups.First(g => g.Id == Group).Families.Contains(s.Family)).ToArray();
        if (Own && await shelf.BottlesAsync(await kit.LanceInUseAsync(stop), stop: stop) is { } all)
        {
            Bottles = all.GroupBy(b => b.Agent)
                .ToDictionary(g => g.Key, g => ShelfBottle.Pick(g, Catalogue.Default.Agent(g.Key), Compatibility.Default)!);
        }

        var agent = Agents.FirstOrDefault(a => a.Id == Agent) ?? Agents[0];
        if (Catalogue.Default.Surfaces.FirstOrDefault(s => s.Id == Surface) is { } surface)
        {
            Cell = Ask(agent, surface);
        }
    }

    public CompatibilityAnswer Ask(Agent agent, Surface surface)
    {
        var bottle = Bottles.GetValueOrDefault(agent.Id);
        var labelled = bottle is null ? agent : agent.Under(bottle);
        return Compatibility.Default.Ask(
            agent.Id,
            surface.Id,
            new Circumstances(
                Strength switch
                {
                    "low" => labelled.Low,
                    "high" => labelled.High,
                    _ => labelled.Reference,
                },
                Film,
                Keep
            ),
            bottle
        );
    }

    public string Link(string? agent, string? surface, string? group = null, bool? after = null) =>
        $"/compatibility?Group={group ?? Group}&Film={Film}&Strength={Strength}{(Keep ? "&Keep=true" : "")}{(Own ? "&Own=true" : "")}{(after ?? After ? "&After=true" : "")}{(agent is null ? "" : $"&Agent={agent}")}{(surface is null ? "" : $"&Surface={surface}")}";

    public static string Say(string ruling) =>
        ruling switch
        {
            "yes" => "may go on",
            "care" => "with care",
            "test" => "only after a test spot",
            "no" => "never",
            "rinse" => "rinse between",
            "wash" => "wash between",
            "full-rinse" => "full rinse of panel and tools between",
            _ => "never together",
        };
}
