using Microsoft.AspNetCore.Mvc;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Planning;
using ToughStart.Core.Vehicles;
using ToughStart.Web.Drawing;

namespace ToughStart.Web.Stations;

/// <summary>The job card: what to do, on paper, with boxes for what was seen. Read with wet hands at arm's length.</summary>
public sealed class CardModel(JobDesk desk, MixDesk mixes) : JobPage(desk)
{
    public override string Station => "card";

    public IReadOnlyList<StageGroup> Groups { get; private set; } = [];

    public MixBench Bench { get; private set; } = null!;

    public async Task<IActionResult> OnGetAsync(int number, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        Groups = CoreSample.StageGroups(Plan);
        Bench = await mixes.OfAsync(Plan, Equipped.Kit, null, stop);
        return Page();
    }

    /// <summary>What to pour for a step and where it is: the bottle by its name, water and product named. Null = nothing is mixed.</summary>
    public string? Pour(StageGroup g)
    {
        if (g.Steps.Select(Bench.Of).FirstOrDefault(s => s is not null) is not { } s)
        {
            return null;
        }

        var product = s.Product?.Name ?? s.Name;
        if (s.Enough)
        {
            return $"{s.Need.Mix.Leftover?.Bottle}: {product} {s.Need.OnPanel} stands ready";
        }

        var into = s.Container?.Name ?? "a container of its own";
        var times = s.Fills > 1 ? $", {s.Fills} times" : "";
        // A mix of an earlier step is only taken up again.
        return s.Steps is [var first, ..] && first != g.Number ? $"{into}: {product}, mixed for {first}"
            : s.InVessel.Value > .995 ? $"{into}: {Ml(s.FillMl)} {product}, neat{times}"
            : $"{into}: {Ml(s.WaterMl)} water, then {Ml(s.ProductMl)} {product}{times}";
    }

    /// <summary>Where, in words; the drawing shows the rest. A few words with the rounds where they differ.</summary>
    public static string Where(StageGroup g)
    {
        var most = g.Steps.MaxBy(s => s.Zones.Count)!;
        return string.Join(
            ' ',
            g.Steps.Take(3)
                .Select(s =>
                    ZoneWords.Of(s.Zones) is var words && words.Length <= MostWords ? $"{Times(g, s)}{words}."
                    : s == most ? $"{Times(g, s)}{(g.Steps.Count > 1 ? "the rest" : "all that is black")}, {s.Zones.Count} zones."
                    : $"{Times(g, s)}{s.Zones.Count} zones, {Core.Planning.Limits.Words(s.Zones[0])} first."
                )
                .Concat(g.Steps.Select(s => s.OftenerIn(MostWords)).OfType<string>().Select(more => $"{more.Capital()}."))
        );
    }

    private const int MostWords = 70;

    private static string Times(StageGroup g, Step s) => g.Steps.Count > 1 ? $"{s.AtLeast}×: " : "";

    /// <summary>What is worn, in a few words.</summary>
    public static string Wear(StageGroup g) => ProtectiveKit.Say(g.Steps.SelectMany(s => s.Kit).Distinct().Where(k => k != "gloves"));

    /// <summary>The gravest caution of a step; the plan has the rest.</summary>
    public static string? Mind(StageGroup g) =>
        g.Steps.Select(s => s.Cool).FirstOrDefault(cool => cool is not null) is { } hot
            ? $"Rinse cool first: {ZoneWords.Of([.. hot.Zones], MostWords)}, up to {hot.HottestC:0} °C."
            : g
                .Steps.SelectMany(s => s.Cautions)
                .Where(c =>
                    c.Length <= 80
                    && !c.EndsWith("Its label wins.", StringComparison.Ordinal)
                    && !c.Contains("smaller sections", StringComparison.Ordinal)
                )
                .OrderByDescending(c => c.Contains("never", StringComparison.OrdinalIgnoreCase))
                .ThenBy(c => c.Length)
                .FirstOrDefault();

    private static string Ml(double ml) =>
        ml >= 1000 ? $"{ml / 1000:0.##} l"
        : ml < 20 ? $"{ml:0.#} ml"
        : $"{ml:0} ml";
}
