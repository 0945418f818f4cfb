using ToughStart.Core.Chemistry;
using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;

namespace ToughStart.Core.Planning;

/// <summary>What to buy or borrow, and what doing without it comes to: both ways planned, not guessed.</summary>
/// <param name="NeedMl">Neat product the better plan takes.</param>
/// <param name="HaveMl">What is on the shelf; null = no bottle of this class.</param>
/// <param name="Money">What is lacking costs, at the class's or the bottle's price.</param>
/// <param name="Instead">What the plan without it does on the zones that it would have gone on.</param>
/// <param name="Stays">What then stays dirty that would not.</param>
/// <param name="Minutes">Hands-on minutes more (or fewer) without it.</param>
public sealed record BuyLine(
    string Agent,
    string Name,
    Millilitres NeedMl,
    Millilitres? HaveMl,
    double Money,
    IReadOnlyList<string> Instead,
    IReadOnlyList<string> Stays,
    Minutes Minutes
)
{
    public string Words =>
        string.Create(
            System.Globalization.CultureInfo.InvariantCulture,
            $"{(HaveMl is { } have ? $"{Name}: {NeedMl:0} ml wanted, {have:0} ml on the shelf" : $"{Name}: none on the shelf, about {NeedMl:0} ml wanted")} ({Money:0.00}). {(HaveMl is null ? "Without it" : "With what is there")}: {string.Join("; ", Parts())}."
        );

    private IEnumerable<string> Parts()
    {
        yield return Instead.Count == 0 ? "nothing takes its place" : "instead " + string.Join(", ", Instead);
        yield return Math.Abs(Minutes) < 0.5
            ? "the same time"
            : string.Create(
                System.Globalization.CultureInfo.InvariantCulture,
                $"{(Minutes > 0 ? "+" : "−")}{Math.Abs(Minutes):0} min hands-on"
            );
        yield return Stays.Count == 0 ? "it comes out as clean" : "stays: " + string.Join(", ", Stays);
    }
}

/// <summary>What a job lacks on the shelf, each with its consequence.</summary>
public static class Buying
{
    /// <summary>Classes that are missing or run short, in the order of the catalogue. Plans the job once more for each.</summary>
    public static IReadOnlyList<BuyLine> Of(Survey survey, Plan plan, Effort? effort = null)
    {
        if (survey.Shelf is not { } shelf || plan.ReferOnly)
        {
            return [];
        }

        var options = new PlanOptions { Effort = effort ?? Effort.Unbounded };
        var c = Planner.CatalogueFor(survey);
        var lines = new List<BuyLine>();
        foreach (
            var agent in plan
                .Refused.Where(r => Objection.IsLacking(r.Cause))
                .Select(r => c.Treatment(r.Treatment).Agent)
                .DistinctBy(a => a.Id)
                .OrderBy(a => c.Agents.ToList().IndexOf(a))
        )
        {
            // A bottle that is bought comes with its data sheet; strengths are those of the class until its label is seen.
            var with = Planner.Plan(
                survey with
                {
                    Shelf = [.. shelf.Where(b => b.Agent != agent.Id), new ShelfBottle(agent.Id, true, null, false)],
                },
                null,
                options
            );
            if (with.Totals.ProductMl.GetValueOrDefault(agent.Id) is > 0 and var need)
            {
                lines.Add(Line(agent, need, shelf.Any(b => b.Agent == agent.Id) ? 0 : null, with, plan));
            }
        }

        // A job kept to its shelf is never short: what is lacking shows in the plan that may buy.
        var free = survey.StockOnly ? Planner.Plan(survey with { StockOnly = false }, null, options) : plan;
        var stock = Limits.Stock(survey);
        var shortOf = free
            .Totals.ProductMl.Where(p => stock.TryGetValue(p.Key, out var have) && p.Value > have + 0.5)
            .Select(p => (Agent: c.Agent(p.Key), Need: p.Value, Have: stock[p.Key]))
            .OrderBy(p => c.Agents.ToList().IndexOf(p.Agent))
            .ToArray();
        if (shortOf.Length > 0)
        {
            var only = survey.StockOnly ? plan : Planner.Plan(survey with { StockOnly = true }, null, options);
            lines.AddRange(shortOf.Select(s => Line(s.Agent, s.Need, s.Have, free, only)));
        }

        return lines;
    }

    private static BuyLine Line(Agent agent, double need, double? have, Plan with, Plan without)
    {
        var zones = with.Steps.Where(s => s.Agent == agent.Id).SelectMany(s => s.Zones).ToHashSet();
        var instead = zones
            .SelectMany(z =>
                without
                    .StepsOn(z)
                    .Where(s => s.Agent != "water" && s.Stage != Stage.Dry && Rounds(with, z, s.Treatment, s.Strength) < s.RoundsOn(z))
                    .Select(s => s.RoundsOn(z) > 1 ? $"{s.Name} ×{s.RoundsOn(z)}" : s.Name)
            )
            .CountBy(w => w)
            .OrderByDescending(w => w.Value)
            .ThenBy(w => w.Key, StringComparer.Ordinal)
            .Take(3)
            .Select(w => w.Key)
            .ToArray();
        var clean = with.Refer.SelectMany(r => r.Zones.Select(z => (r.What, z))).ToHashSet();
        var stays = without
            .Refer.SelectMany(r => r.Zones.Where(z => !clean.Contains((r.What, z))).Select(z => (r.What, Zone: z)))
            .GroupBy(x => x.What)
            .Select(g => $"{g.Key.Replace('-', ' ')} on {(g.Count() == 1 ? Limits.Words(g.First().Zone) : $"{g.Count()} zones")}")
            .ToArray();
        return new(
            agent.Id,
            agent.Name,
            need,
            have,
            (need - (have ?? 0)) / 1000 * agent.Price,
            instead,
            stays,
            without.Totals.LabourMinutes.Expected - with.Totals.LabourMinutes.Expected
        );
    }

    private static int Rounds(Plan p, string zone, string treatment, ProductFraction strength) =>
        p.StepsOn(zone).Where(s => s.Treatment == treatment && s.Strength == strength).Sum(s => s.RoundsOn(zone));
}
