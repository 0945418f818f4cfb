using ToughStart.Core.Contamination;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Planning;

/// <summary>One total in both plans.</summary>
public sealed record TotalDifference(string What, string Unit, double First, double Second)
{
    public double By => Second - First;
}

/// <summary>Work on zones that differs between two plans; null on the side that does not have it.</summary>
public sealed record WorkDifference(Stage Stage, IReadOnlyList<string> Zones, string? First, string? Second);

/// <summary>A test, refusal, refer line or warning that only one plan has.</summary>
public sealed record LineDifference(string Kind, string Words, bool InSecond);

/// <summary>Two plans side by side, differences only: <c>toughstart.compare/1</c>.</summary>
public sealed record PlanComparison(
    IReadOnlyList<TotalDifference> Totals,
    IReadOnlyList<WorkDifference> Work,
    IReadOnlyList<LineDifference> Lines,
    string Words
)
{
    public const string Format = "toughstart.compare/1";

    public bool Same => Work.Count == 0 && Lines.Count == 0 && Totals.All(t => Math.Abs(t.By) < 0.05);
}

/// <summary>Sets two plans against each other, for instance of another school, goal, start or leaning.</summary>
public static class PlanCompare
{
    /// <summary>Stands for the shop's currency, which the engine does not know.</summary>
    public const string Money = "¤";

    /// <summary>What contact and chemistry do to the finish; its points say nothing to anybody, so they are said in words.</summary>
    public const string Wear = "wear on the finish";

    /// <param name="rates">What a shop charges; null = the default.</param>
    public static PlanComparison Of(Plan first, Plan second, Costing.Rates? rates = null)
    {
        var totals = Totals(first, second, rates);
        var work = Work(first, second);
        var lines = Lines(first, second);
        return new(totals, work, lines, Say(totals, work, lines));
    }

    /// <summary>What a plan comes to, most likely, at a shop's rates; at the default ones where its worlds are not known.</summary>
    public static double PriceOf(Plan plan, Costing.Rates? rates) =>
        rates is not null && plan.Worlds is { } worlds ? Costing.Draws.Of(worlds.Drawn.Prices(rates)).Expected : plan.Totals.Money.Expected;

    private static TotalDifference[] Totals(Plan a, Plan b, Costing.Rates? rates) =>
        [
            new("hands-on", "min", a.Totals.LabourMinutes.Expected, b.Totals.LabourMinutes.Expected),
            new("elapsed", "min", a.Totals.ElapsedMinutes.Expected, b.Totals.ElapsedMinutes.Expected),
            new("water", "l", a.Totals.WaterLitres.Expected, b.Totals.WaterLitres.Expected),
            new("product", "ml", a.Totals.ProductTotalMl.Expected, b.Totals.ProductTotalMl.Expected),
            new("price", Money, PriceOf(a, rates), PriceOf(b, rates)),
            new(Wear, "points", a.Totals.Harm, b.Totals.Harm),
            new("left dirty", "places", LeftDirty(a), LeftDirty(b)),
            // Risk: by how much the time may still grow, and what will not have been proven.
            new(
                "may still grow",
                "min",
                a.Totals.LabourMinutes.High - a.Totals.LabourMinutes.Expected,
                b.Totals.LabourMinutes.High - b.Totals.LabourMinutes.Expected
            ),
            new("unverified", "zones", a.Unverified.Count, b.Unverified.Count),
        ];

    /// <summary>Kinds on zones that stay above what was asked by more than rounding: the same line as that of a refer line.</summary>
    private static int LeftDirty(Plan p) =>
        p.Traces.Sum(t =>
            t.Targets.Count(k =>
                (t.After.Count > 0 ? t.After[^1].Loads : t.Start).GetValueOrDefault(k.Key) is var left
                && left > 0
                && Math.Round(Contamination.Levels.PerDecade * Math.Log10(left / k.Value))
                    > Contamination.Levels.PerDecade * Catalogue.Default["shortfall-refer"] + 1e-9
            )
        );

    /// <summary>
    /// What is done in each place of each zone, set beside the other plan's; zones with the same difference stand together.
    /// </summary>
    private static WorkDifference[] Work(Plan a, Plan b)
    {
        var (left, right) = (Deeds(a), Deeds(b));
        return left
            .Keys.Union(right.Keys)
            .Select(k => (k.Stage, k.Zone, First: left.GetValueOrDefault(k), Second: right.GetValueOrDefault(k)))
            .Where(x => x.First != x.Second)
            .GroupBy(x => (x.Stage, x.First, x.Second))
            .OrderBy(g => InOrder(g.Key.Stage))
            .ThenByDescending(g => g.Count())
            .Select(g => new WorkDifference(
                g.Key.Stage,
                [.. g.Select(x => x.Zone).Order(StringComparer.Ordinal)],
                g.Key.First,
                g.Key.Second
            ))
            .ToArray();
    }

    private static Dictionary<(Stage Stage, string Zone), string> Deeds(Plan p) =>
        p
            .Steps.SelectMany(s => s.Zones.Select(z => (s.Stage, Zone: z, Words: Words(s, s.RoundsOn(z)))))
            .GroupBy(x => (x.Stage, x.Zone))
            .ToDictionary(g => g.Key, g => string.Join(", then ", g.Select(x => x.Words)));

    private static string Words(Step s, int rounds) =>
        string.Create(
            System.Globalization.CultureInfo.InvariantCulture,
            $"{s.Name}{(s.Mix is null ? "" : " " + s.Strength)}{(s.Film == "thick-foam" ? ", thick" : "")}"
                + $"{(s.Under ? ", under foam" : s.Over is null ? "" : ", over the wet spray")}{(rounds > 1 ? " ×" + rounds : "")}"
                + $"{(s.DwellMinutes > 0 ? $", {s.DwellMinutes:0.#} min" : "")}"
                + $"{(s.Sections is { Sections.Count: > 1 } cut ? $", {cut.Sections.Count} sections" : "")}"
        );

    private static int InOrder(Stage stage) =>
        Catalogue.Default.Slots.FirstOrDefault(s => s.Stage == stage)?.Index
        ?? (stage == Stage.Dry ? int.MaxValue : Catalogue.Default.Slot(Place.Scrub).Index);

    private static LineDifference[] Lines(Plan a, Plan b)
    {
        static IEnumerable<(string Kind, string Words)> All(Plan p) =>
            [
                .. p.Refer.Select(r => ("refer", $"{r.What}: {r.Reason}")),
                .. p
                    .Refused.Where(r => r.Missed)
                    .Select(r =>
                        (
                            "refused",
                            (Catalogue.Default.FindTreatment(r.Treatment)?.Name ?? r.Treatment) is var name
                            && r.Reason.StartsWith(name, StringComparison.Ordinal)
                                ? r.Reason
                                : $"{name}: {r.Reason}"
                        )
                    ),
                .. p.Tests.Select(t => ("test", $"{t.Test}, {t.When}: {t.Changes}")),
                .. p.Warnings.Select(w => ("warning", w)),
            ];
        var (left, right) = (All(a).ToHashSet(), All(b).ToHashSet());
        // The order of what both do: by the first time each block comes to each stage.
        static (Vehicles.Block Block, Stage Stage)[] Sequence(Plan p) =>
            p.Steps.Where(s => s.Stage != Stage.Dry).Select(s => (s.Block, s.Stage)).Distinct().ToArray();
        static string Name((Vehicles.Block Block, Stage Stage) x) =>
            x.Block == Vehicles.Block.Wheels && !x.Stage.IsAtCorners ? x.Stage + " of the wheels" : x.Stage.Word;
        var (one, two) = (Sequence(a), Sequence(b));
        (one, two) = (one.Where(two.Contains).ToArray(), two.Where(one.Contains).ToArray());
        var turned = Enumerable
            .Range(0, one.Length)
            .SelectMany(i => Enumerable.Range(i + 1, one.Length - i - 1).Select(k => (First: one[i], Then: one[k])))
            .Where(x => Array.IndexOf(two, x.First) > Array.IndexOf(two, x.Then))
            .ToArray();
        // A whole block that moves is one difference, not one for every pair of stages.
        var wheels = turned.Count(t => t.First.Block != t.Then.Block) > 2;
        turned = turned.Where(t => !wheels || t.First.Block == t.Then.Block).Take(3).ToArray();
        LineDifference[] order =
        [
            .. turned.SelectMany(t =>
                new LineDifference[]
                {
                    new("order", $"{Name(t.First)}, then {Name(t.Then)}", false),
                    new("order", $"{Name(t.Then)}, then {Name(t.First)}", true),
                }
            ),
        ];
        if (wheels)
        {
            string Where((Vehicles.Block Block, Stage Stage)[] all)
            {
                var at = Array.FindIndex(all, x => x.Block == Vehicles.Block.Wheels && x.Stage.IsAtCorners);
                var before = all.Take(Math.Max(0, at)).LastOrDefault(x => x.Block == Vehicles.Block.Body);
                return before.Stage is null ? "wheels before the body" : $"wheels after the body's {before.Stage}";
            }

            order = [new("order", Where(one), false), new("order", Where(two), true), .. order];
        }

        return
        [
            .. order,
            .. left.Except(right).Select(x => new LineDifference(x.Kind, x.Words, false)),
            .. right.Except(left).Select(x => new LineDifference(x.Kind, x.Words, true)),
        ];
    }

    private static string Say(TotalDifference[] totals, WorkDifference[] work, LineDifference[] lines)
    {
        if (work.Length == 0 && lines.Length == 0 && totals.All(t => Math.Abs(t.By) < 0.05))
        {
            return "The same plan.";
        }

        string[] first = ["hands-on", "left dirty", Wear, "price"];
        var moved = totals
            .OrderBy(t => Array.IndexOf(first, t.What) is >= 0 and var i ? i : first.Length)
            .Where(t => Math.Abs(t.By) >= (t.What == Wear ? 0.1 : 1))
            .Select(t =>
                t.What == Wear
                    ? $"{LoadWords.Change(t.First, t.Second, "gentler", "harder")} on the finish"
                    : string.Create(
                        System.Globalization.CultureInfo.InvariantCulture,
                        $"{(t.By > 0 ? "+" : "−")}{Math.Abs(t.By):0.#}{(t.Unit.Length > 0 ? " " + t.Unit : "")} {t.What}"
                    )
            )
            .Take(4)
            .ToArray();
        var zones = work.SelectMany(w => w.Zones).Distinct().Count();
        return $"{(moved.Length == 0 ? "Totals hardly move" : string.Join(", ", moved))}; {(zones == 0 ? lines.Any(l => l.Kind == "test") ? "no zone is worked otherwise, but other tests are asked" : "no zone is worked otherwise" : $"{zones} {(zones == 1 ? "zone is" : "zones are")} worked otherwise")}.";
    }
}
