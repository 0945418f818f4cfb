using ToughStart.Core.Chemistry;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Costing;

/// <summary>One solution a plan needs: how much, and what goes into it.</summary>
/// <param name="NeedMl">Solution to make up: what the panels take, or the least that anybody mixes, ml.</param>
/// <param name="LeftoverMl">Of it, what a mixed bottle holds already.</param>
/// <param name="ProductMl">Neat product for what is still to be mixed, ml.</param>
public sealed record SolutionNeed(
    string Agent,
    string? Bottle,
    ProductFraction OnPanel,
    Mix Mix,
    Millilitres NeedMl,
    Millilitres LeftoverMl,
    Millilitres ProductMl,
    IReadOnlyList<Step> Steps
)
{
    /// <summary>Of it, what the panels take, rounds and waste included.</summary>
    public Millilitres PanelsMl => Steps.Sum(s => s.Mix!.NeedMl);

    /// <summary>Id of the bottle in the shop; null = the shelf came without ids.</summary>
    public string? BottleId => Steps[0].BottleId;

    /// <summary>Names the solution within its plan.</summary>
    public string Key =>
        FormattableString.Invariant(
            $"{Agent}-{OnPanel.Value * 10000:0}{(Mix.Vessel == "bucket" && Steps[0].Block == Vehicles.Block.Wheels ? "-wheels" : "")}"
        );
}

/// <summary>A line of the shopping list.</summary>
/// <param name="ShortMl">What the shelf lacks; 0 when it is enough.</param>
public sealed record ShoppingLine(
    string Agent,
    string? Bottle,
    Millilitres NeedMl,
    Millilitres? StockMl,
    Millilitres ShortMl,
    Millilitres? PackMl,
    int? Packs
);

/// <summary>What runs to the drain or into the drum, by hazard class.</summary>
/// <param name="Litres">Solution and the rinse that carries it.</param>
/// <param name="ProductMl">Neat product in it.</param>
public sealed record DrainLine(string Class, string Name, double Litres, Millilitres ProductMl, string Words);

/// <summary>Volumes of a plan: what to mix, what to buy, what goes down the drain.</summary>
public static class JobVolumes
{
    /// <summary>
    /// Solutions in the order they are needed: steps of one agent at one strength share a mix, but what brushes and mitts are dipped into
    /// is never shared by wheels and paint.
    /// </summary>
    public static IReadOnlyList<SolutionNeed> Solutions(Plan plan) =>
        plan
            .Steps.Where(s => s.Mix is not null)
            .GroupBy(s => (s.Agent, s.Strength, s.Mix!.Vessel, Wheels: s.Mix.Vessel == "bucket" && s.Block == Vehicles.Block.Wheels))
            .Select(g =>
            {
                var first = g.First();
                var mix = first.Mix!;
                // A bucket is filled afresh for every step; what is sprayed comes out of one batch, as long as it lasts.
                var need =
                    mix.Vessel == "bucket"
                        ? g.Sum(s => s.Mix!.ProductMl + s.Mix.WaterMl)
                        : Math.Max(g.Max(s => s.Mix!.ProductMl + s.Mix.WaterMl), g.Sum(s => s.Mix!.NeedMl));
                var rest = Math.Min(need, mix.Leftover?.Ml ?? 0);
                return new SolutionNeed(
                    g.Key.Agent,
                    first.Bottle,
                    g.Key.Strength,
                    mix,
                    need,
                    rest,
                    (need - rest) * mix.InVessel.Value,
                    g.ToArray()
                );
            })
            .ToArray();

    /// <summary>A plan with what stands mixed now, whatever stood mixed when it was put in force.</summary>
    public static Plan WithLeftovers(Plan plan, KitInUse? kit)
    {
        var c = Catalogue.Default;
        return plan with
        {
            Steps =
            [
                .. plan.Steps.Select(s =>
                    s.Mix is { } mix && c.Agents.FirstOrDefault(a => a.Id == s.Agent) is { } agent
                        ? s with
                        {
                            Mix = mix with
                            {
                                Leftover = kit
                                    ?.Leftovers.Where(l => l.Agent == s.Agent && l.IsOnPanel(agent, s.Strength.Value, kit, c))
                                    .OrderByDescending(l => l.Ml)
                                    .FirstOrDefault(),
                            },
                        }
                        : s
                ),
            ],
        };
    }

    /// <summary>Neat product by agent against the shelf: what to buy, in whole packs where the pack is known.</summary>
    public static IReadOnlyList<ShoppingLine> Shopping(
        Plan plan,
        IReadOnlyList<ShelfBottle>? shelf,
        IReadOnlyDictionary<string, double>? packMl = null
    ) =>
        Solutions(plan)
            .GroupBy(s => (s.Agent, s.Bottle))
            .Select(g =>
            {
                var need = g.Sum(s => s.ProductMl);
                var stock = shelf
                    ?.Where(b =>
                        b.Agent == g.Key.Agent && (g.First().BottleId is { } id && b.Id is not null ? b.Id == id : b.Name == g.Key.Bottle)
                    )
                    .Sum(b => b.StockMl);
                var missing = Math.Max(0, need - (stock ?? need));
                var pack = g.Key.Bottle is { } name && packMl is not null && packMl.TryGetValue(name, out var p) ? p : (double?)null;
                return new ShoppingLine(
                    g.Key.Agent,
                    g.Key.Bottle,
                    need,
                    stock,
                    missing,
                    pack,
                    missing > 0 && pack > 0 ? (int)Math.Ceiling(missing / pack.Value - 1e-9) : null
                );
            })
            .OrderByDescending(l => l.ShortMl > 0)
            .ThenByDescending(l => l.NeedMl)
            .ToArray();

    /// <summary>
    /// Litres to drain by hazard class: every step's solution and the water that rinses it. Plain rinses after wheels are sludge.
    /// </summary>
    public static IReadOnlyList<DrainLine> Drain(Plan plan)
    {
        var c = Catalogue.Default;
        return plan
            .Steps.Where(s => s.WaterLitres > 0 || s.Mix is not null)
            .Select(s =>
                (
                    Class: ClassOf(c.Agents.FirstOrDefault(a => a.Id == s.Agent), s),
                    Litres: s.WaterLitres + ((s.Mix?.ProductMl ?? 0) + (s.Mix?.WaterMl ?? 0)) / 1000,
                    s.ProductMl
                )
            )
            .GroupBy(x => x.Class)
            .Select(g => new DrainLine(g.Key, Names[g.Key].Name, g.Sum(x => x.Litres), g.Sum(x => x.ProductMl), Names[g.Key].Words))
            .OrderBy(d => Array.IndexOf(Order, d.Class))
            .ToArray();
    }

    private static readonly string[] Order = ["acid", "solvent", "reducer", "caustic", "sludge", "detergent", "rinse"];

    private static readonly Dictionary<string, (string Name, string Words)> Names = new()
    {
        ["acid"] = ("acid", "own drum, never with iron remover, bleach or caustic"),
        ["solvent"] = ("solvent", "cloths into a closed metal bin; no solvent to any drain"),
        ["reducer"] = ("iron remover", "never with acid or bleach in a sump or drum"),
        ["caustic"] = ("caustic", "never with acid; keep off aluminium sumps"),
        ["sludge"] = ("sludge, first wheel rinse", "brake dust and mud: settle, separate waste"),
        ["detergent"] = ("detergent", "foul sewer or interceptor by local permission"),
        ["rinse"] = ("plain rinse", "still carries soil: not into a gutter"),
    };

    /// <summary>Does what a step washes off go into a drum instead of the drain?</summary>
    public static bool IsContained(Step s) => Contained.Contains(ClassOf(Catalogue.Default.Agents.FirstOrDefault(a => a.Id == s.Agent), s));

    /// <summary>Litres of a plan that go into a drum.</summary>
    public static double ContainedLitres(Plan plan) =>
        plan.Steps.Where(IsContained).Sum(s => s.WaterLitres + ((s.Mix?.ProductMl.Value ?? 0) + (s.Mix?.WaterMl.Value ?? 0)) / 1000);

    /// <summary>Does what an agent washes off?</summary>
    public static bool IsContained(Agent agent) => !agent.IsWater && Contained.Contains(OfAxis.GetValueOrDefault(agent.Axis, "detergent"));

    private static readonly string[] Contained = ["acid", "solvent", "reducer", "caustic", "sludge"];

    private static string ClassOf(Agent? agent, Step step) =>
        agent is null or { IsWater: true }
            ? step.Block == Vehicles.Block.Wheels || step.Stage == Stage.Soak
                ? "sludge"
                : "rinse"
            : OfAxis.GetValueOrDefault(agent.Axis, "detergent");

    private static readonly Dictionary<Axis, string> OfAxis = new()
    {
        [Axis.Acid] = "acid",
        [Axis.Solvent] = "solvent",
        [Axis.Reducer] = "reducer",
        [Axis.Alkali] = "caustic",
    };
}

/// <summary>What a bottle costs at work: a small dear concentrate against a big cheap bottle.</summary>
/// <param name="PerLitreNeat">Money per litre out of the pack.</param>
/// <param name="PerLitreAtWork">Money per litre of liquid on the panel.</param>
/// <param name="PerVehicle">Money for one round over a mid-size vehicle's paint at the class's ml per m².</param>
/// <param name="VehiclesPerPack">How many such vehicles a pack does.</param>
public sealed record CostOfUse(double PerLitreNeat, double PerLitreAtWork, double PerVehicle, double VehiclesPerPack, double MlPerVehicle)
{
    /// <param name="price">Money per pack, 0 or more.</param>
    /// <param name="packMl">Greater than 0 ml.</param>
    /// <param name="onPanel">Working strength as product fraction on the panel.</param>
    /// <exception cref="ArgumentOutOfRangeException">Price negative or pack not greater than 0.</exception>
    public static CostOfUse Of(string agent, double price, Millilitres packMl, ProductFraction onPanel)
    {
        ArgumentOutOfRangeException.ThrowIfNegative(price);
        ArgumentOutOfRangeException.ThrowIfNegativeOrZero(packMl.Value, nameof(packMl));
        var c = Catalogue.Default;
        var solution = c.Treatments.Where(t => t.Agent.Id == agent).Select(t => t.SolutionMl).DefaultIfEmpty(0).Max();
        var ml = solution * c["vehicle-m2"] * onPanel.Value;
        var neat = price / packMl * 1000;
        return new(neat, neat * onPanel.Value, neat * ml / 1000, ml > 0 ? packMl / ml : double.PositiveInfinity, ml);
    }
}
