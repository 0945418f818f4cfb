using ToughStart.Core.Chemistry;
using ToughStart.Core.Costing;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Data;
using ToughStart.Web.Drawing;

namespace ToughStart.Web.Stations;

/// <summary>One solution of the plan in the container chosen for it.</summary>
/// <param name="Container">Null = none of the shop's is free and fits; <paramref name="First"/> says what is missing.</param>
/// <param name="First">What to do to the container first.</param>
/// <param name="Jug">What the shop's finest fitting jug makes of it.</param>
public sealed record Solution(
    string Key,
    SolutionNeed Need,
    string Name,
    Product? Product,
    Container? Container,
    Guid? Bottle,
    double FillMl,
    int Fills,
    JugPour? Jug,
    IReadOnlyList<string> First,
    IReadOnlyList<string> Safety,
    string Care,
    IReadOnlyList<string> Kit,
    IReadOnlyList<string> Steps
)
{
    public ProductFraction InVessel => Need.Mix.InVessel;

    /// <summary>What stands mixed is enough.</summary>
    public bool Enough => Need.NeedMl - Need.LeftoverMl < 1;

    /// <summary>What is drawn: the container, or one that would do.</summary>
    public Container Drawn => Container ?? Drawing.Bottle.Default(Need.Mix.Vessel, FillMl);

    public double ProductMl => FillMl * InVessel.Value;

    public double WaterMl => FillMl - ProductMl;
}

/// <summary>Everything a plan has to have mixed, each in the container of the shop that was found for it.</summary>
/// <param name="Plan">With what stands mixed now.</param>
/// <param name="Rinse">Plain water to rinse the mitt in; null when nothing is rinsed that way.</param>
/// <param name="Last">What each container held last, by its id.</param>
public sealed record MixBench(
    Plan Plan,
    IReadOnlyList<Solution> Solutions,
    InContainer? Rinse,
    IReadOnlyList<Container> Containers,
    IReadOnlyDictionary<string, Product> Products,
    IReadOnlyDictionary<Guid, MixView> Last
)
{
    /// <summary>The solution a step takes; null = it takes none, or what stands mixed is enough.</summary>
    public Solution? Of(Step step) => Solutions.FirstOrDefault(s => s.Need.Steps.Any(x => x.Key == step.Key));
}

/// <summary>Finds containers for the mixes of a plan: for the Mix page and for the card alike.</summary>
public sealed class MixDesk(ShelfStore shelf, KitStore kit)
{
    /// <param name="chosen">Container chosen by hand for a solution; null = none was.</param>
    public async Task<MixBench> OfAsync(Plan plan, KitInUse? equipped, Func<SolutionNeed, string?>? chosen, CancellationToken stop)
    {
        var pieces = (await kit.AllAsync(stop)).Select(k => k.Item).ToArray();
        var last = await kit.LastInBottleAsync(stop);
        var containers = pieces
            .Where(k => k.Kind is "bottle" or "sprayer" or "lance" or "bucket")
            .Select(k => ShelfDrawing.Container(k, last.GetValueOrDefault(k.Id)))
            .ToArray()
            is { Length: > 0 } own
            ? own
            : Bottle.All;
        var groups = CoreSample.StageGroups(plan);
        var jugs = pieces.Where(k => k.Kind == "jug" && k.Ml > 0).Select(k => k.Ml!.Value).Order().ToArray();
        var now = JobVolumes.WithLeftovers(plan, equipped);
        var needs = JobVolumes.Solutions(now);
        var products = (
            await shelf.NamedAsync(
                [.. needs.Where(n => Guid.TryParse(n.BottleId, out _)).Select(n => Guid.Parse(n.BottleId!))],
                [.. needs.Where(n => n.BottleId is null).Select(n => n.Bottle).OfType<string>()],
                stop
            )
        ).ToDictionary(p => p.Id.ToString());
        var fillings = Containers.Assign(now, needs, containers, chosen);
        string[] StepsOf(SolutionNeed n) =>
            [.. groups.Where(g => g.Steps.Any(s => n.Steps.Any(x => x.Key == s.Key))).Select(g => g.Number).Distinct()];
        return new(
            now,
            [.. needs.Select(n => Make(n, fillings.FirstOrDefault(f => f.Solution == n), products, jugs, StepsOf(n)))],
            fillings.FirstOrDefault(f => f.Solution is null),
            containers,
            products,
            last
        );
    }

    private static Solution Make(SolutionNeed n, InContainer? filling, Dictionary<string, Product> products, double[] jugs, string[] steps)
    {
        var agent = Catalogue.Default.Agent(n.Agent);
        var product = n.BottleId is { } id ? products.GetValueOrDefault(id) : products.Values.FirstOrDefault(p => p.Name == n.Bottle);
        var fill = filling?.FillMl ?? Math.Max(1, n.NeedMl);
        var jug = n.Mix.InVessel.Value > .995 ? null : JugPour.Best(Dilution.ForTotal(n.Mix.InVessel, fill), jugs)?.Pour;
        return new Solution(
            n.Key,
            n,
            agent.Name,
            product,
            filling?.Container,
            Guid.TryParse(filling?.Container?.Id, out var container) ? container : null,
            fill,
            filling?.Fills ?? 0,
            jug,
            filling?.Words ?? [],
            MixSafety.Words(agent, product?.Hazards, product?.Contains),
            agent.Care,
            ProtectiveKit.Of(agent, product?.Hazards),
            steps
        );
    }
}
