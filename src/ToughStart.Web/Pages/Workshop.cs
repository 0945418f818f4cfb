using ToughStart.Core.Chemistry;
using ToughStart.Core.Conditions;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Data;

namespace ToughStart.Web.Stations;

/// <summary>Plans with what the shop has: its bottles, its lance as calibrated, what is mixed already.</summary>
public sealed class Workshop(PlanCache plans, ShelfStore shelf, KitStore kit)
{
    /// <summary>A survey with the shop's shelf and kit, where it does not name its own.</summary>
    /// <param name="job">The job it belongs to; its bottles are counted when it is to be kept to the shelf.</param>
    /// <param name="counted">Count them in any case.</param>
    public async Task<Survey> EquipAsync(Survey survey, Guid job, bool counted = false, CancellationToken stop = default)
    {
        var use = _use ??= await kit.InUseAsync(stop);
        var lance = use.Lance ?? LanceDraw.Uncalibrated;
        // One bottle of each class is planned with: the plan stays the same size however large the shelf.
        async Task<IReadOnlyList<ShelfBottle>> Bottles(Guid? countedFor) =>
            await shelf.BottlesAsync(lance, countedFor, stop) is { } all
                ? Limits.PickShelf(survey with { Shelf = all })!.Values.ToArray()
                : [];
        var bottles =
            survey.Shelf is not null ? []
            : counted || survey.StockOnly ? await Bottles(job)
            : _bottles ??= await plans.ShelfAsync(use.ShelfVersion, lance, () => Bottles(null));
        var leftovers = survey.Kit is not null ? [] : _leftovers ??= await kit.LeftoversAsync(stop);
        return plans.Equipped(survey, new(use, bottles, leftovers));
    }

    private ShopInUse? _use;
    private IReadOnlyList<ShelfBottle>? _bottles;
    private IReadOnlyList<Leftover>? _leftovers;

    /// <summary>The day of an equipped survey.</summary>
    /// <param name="planned">The survey whose plan says which windows matter; null = nothing is planned.</param>
    public DayView Day(Survey equipped, Survey? planned, CancellationToken stop) => plans.Day(equipped, planned, stop);

    /// <summary>
    /// A plan of record with the worlds it was worked in, worked out again from its own survey; as it is where this engine plans that
    /// otherwise.
    /// </summary>
    /// <param name="survey">What it was computed from.</param>
    public Plan WithWorlds(Plan plan, Survey survey, CancellationToken stop)
    {
        if (plan.Worlds is not null || plan.ReferOnly)
        {
            return plan;
        }

        try
        {
            return Plan(survey, stop) is var again && RunBook.HashOf(again) == RunBook.HashOf(plan) ? again : plan;
        }
        catch (CannotPlanException)
        {
            return plan;
        }
    }

    /// <summary>The plan of an equipped survey.</summary>
    public Plan Plan(Survey equipped, CancellationToken stop) => plans.Plan(equipped, stop);
}
