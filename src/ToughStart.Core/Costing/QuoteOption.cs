using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;
using Range = ToughStart.Core.Planning.Range;

namespace ToughStart.Core.Costing;

/// <summary>Where an option stands between shop and client.</summary>
public enum OptionStand
{
    /// <summary>The shop advises it; the price holds it.</summary>
    Recommended,

    /// <summary>The shop offers it; the price does not hold it.</summary>
    Offered,

    /// <summary>Somebody took it.</summary>
    Chosen,

    /// <summary>Somebody does without it.</summary>
    Declined,
}

/// <summary>Work a client may do without, or have on top: the survey as it is then.</summary>
/// <param name="Id">Names it within a quote.</param>
/// <param name="Adds">It comes on top; else it is part of the plan.</param>
/// <param name="Name">What it is, for a client.</param>
public sealed record QuoteOption(string Id, bool Adds, string Name)
{
    /// <summary>Stages a client may do without, and what they are called.</summary>
    private static readonly (string Id, Stage[] Stages, string Name)[] LeftOut =
    [
        ("strip", [Stage.Strip], "old wax and sealant taken off"),
        ("clay", [Stage.Clay], "paint clayed smooth"),
        ("iron", [Stage.Iron], "brake dust in the paint dissolved"),
        ("tar", [Stage.Tar], "tar spots taken off"),
        ("wheels", [Stage.Wheels, Stage.Tyres, Stage.Arches], "wheels, tyres and arches scrubbed"),
    ];

    /// <summary>Goals in the order of how much they ask.</summary>
    private static readonly (Goal Goal, string Name)[] Goals =
    [
        (Goal.Wash, "a thorough wash"),
        (Goal.Sale, "made ready for sale"),
        (Goal.Protect, "made ready for protection"),
        (Goal.Correct, "made ready for a polish"),
    ];

    /// <summary>What can be had more or less than a plan: parts of it, and the next goals above its own.</summary>
    public static IReadOnlyList<QuoteOption> Of(Survey survey, Plan plan)
    {
        var worked = plan
            .Steps.Select(s => s.Stage)
            .Concat(plan.Tests.Where(TestWorth.Made).SelectMany(t => t.IfPositive.Select(b => b.Stage)));
        var at = Array.FindIndex(Goals, g => g.Goal == plan.Goal);
        return
        [
            .. LeftOut.Where(l => worked.Any(l.Stages.Contains)).Select(l => new QuoteOption(l.Id, false, l.Name)),
            .. Goals.Skip(at + 1).Where(g => g.Goal != Goal.Sale).Select(g => new QuoteOption(g.Goal.Word, true, g.Name)),
        ];
    }

    /// <summary>Reads the id of an option; null = it is none.</summary>
    public static QuoteOption? Maybe(string id) =>
        LeftOut.FirstOrDefault(l => l.Id == id) is { Id: not null } l ? new(l.Id, false, l.Name)
        : Goals.FirstOrDefault(g => g.Goal.Word == id) is { Name: not null } g ? new(id, true, g.Name)
        : null;

    /// <summary>The survey without it, or with it on top.</summary>
    public Survey Turned(Survey survey) =>
        Adds
            ? survey with
            {
                Goal = Goal.Of(Id),
            }
            : survey with
            {
                Declines =
                [
                    .. survey.Declines,
                    .. LeftOut
                        .First(l => l.Id == Id)
                        .Stages.Where(s => survey.Declines.All(d => d.Stage != s))
                        .Select(s => new Decline(null, s, [])),
                ],
            };

    /// <summary>The survey as these choices make it.</summary>
    /// <param name="without">Parts of the plan that are left out, and goals that come on top, by id.</param>
    public static Survey Chosen(Survey survey, IEnumerable<string> turned) =>
        turned.Select(Maybe).OfType<QuoteOption>().OrderBy(o => !o.Adds).Aggregate(survey, (s, o) => o.Turned(s));
}

/// <summary>What an option comes to against the plan as it is offered: the same worlds, with and without.</summary>
/// <param name="Difference">In money before tax; less where something is left out.</param>
/// <param name="Minutes">The same in hands-on minutes.</param>
/// <param name="Stays">What then stays on the vehicle or is not proven, in words; empty = nothing to speak of.</param>
/// <param name="Dirtier">Decades by which zones end dirtier than asked on top of what the plan leaves, added up over square metres.</param>
public sealed record OptionEffect(QuoteOption Option, Range Difference, Range Minutes, string Stays, double Dirtier)
{
    /// <summary>Is it worth offering? What saves nothing when it is left out is no choice.</summary>
    public bool Matters => Option.Adds || Difference.Expected <= -1;

    public static OptionEffect Of(QuoteOption option, Plan with, Plan turned, Rates rates, Vehicle vehicle)
    {
        var (a, b) = (with.Worlds!.Drawn, turned.Worlds!.Drawn);
        var (was, then) = (a.Prices(rates), b.Prices(rates));
        return new(
            option,
            Draws.Of([.. was.Zip(then, (x, y) => y - x)]),
            Draws.Of([.. a.Minutes.Zip(b.Minutes, (x, y) => y - x)]),
            option.Adds ? "" : Staying(with, turned),
            option.Adds ? 0 : Short(turned, vehicle) - Short(with, vehicle)
        );
    }

    private static double Short(Plan plan, Vehicle vehicle) =>
        plan.Traces.Sum(t => vehicle[t.Zone].Area.Value * Over(t).Sum(o => Math.Log10(o.Load / o.Target)));

    private static IEnumerable<(string Kind, double Load, double Target)> Over(ZoneTrace t) =>
        (t.After.Count == 0 ? t.Start : t.After[^1].Loads)
            .Where(l => t.Targets.TryGetValue(l.Key, out var target) && l.Value > target * Catalogue.Default["near-target"])
            .Select(l => (l.Key, l.Value, t.Targets[l.Key]));

    /// <summary>Kinds that stay where the plan takes them off, and panels nobody tests any more.</summary>
    private static string Staying(Plan with, Plan turned)
    {
        var before = with.Traces.ToDictionary(t => t.Zone, t => Over(t).Select(o => o.Kind).ToHashSet());
        var stays = turned
            .Traces.SelectMany(t => Over(t).Where(o => !before[t.Zone].Contains(o.Kind)).Select(o => (o.Kind, t.Zone)))
            .GroupBy(x => x.Kind)
            .OrderByDescending(g => g.Count())
            .Select(g => $"{NameOf(g.Key)} stays on {Count(g.Count())}");
        var tested = turned.Tests.Where(TestWorth.Made).Select(t => (t.Test, t.Contaminant)).ToHashSet();
        var untested = with
            .Tests.Where(t => TestWorth.Made(t) && !tested.Contains((t.Test, t.Contaminant)))
            .SelectMany(t => t.Zones)
            .Distinct()
            .Count();
        return string.Join("; ", stays.Concat(untested > 0 ? [$"{Count(untested)} not proven"] : [])).Capital();
    }

    private static string NameOf(string kind) =>
        kind == "residue" ? "residue" : Catalogue.Default.Contaminant(kind).Name.ToLowerInvariant();

    private static string Count(int zones) => zones == 1 ? "one place" : $"{zones} places";
}
