using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Costing;

/// <summary>An option as it stands in a quote.</summary>
/// <param name="By">Who took it or did without; empty = nobody has yet.</param>
public sealed record QuoteLine(OptionEffect Effect, OptionStand Stand, string By = "");

/// <summary>What is not in the price, and why.</summary>
public sealed record NotIncluded(IReadOnlyList<string> Zones, string Why);

/// <summary>
/// A quote: what the plan of a survey costs at the shop's rates, what may be left out or had on top, where work stops to ask, and what is
/// not in it. Nothing in it changes once it is made.
/// </summary>
public sealed record Quote(
    string SurveyHash,
    Goal Goal,
    Rates Rates,
    Quoted Quoted,
    HoldPoint? Hold,
    IReadOnlyList<QuoteLine> Options,
    IReadOnlyList<NotIncluded> NotIncluded,
    IReadOnlyList<string> Work
)
{
    public const string Format = "toughstart.quote/1";

    /// <summary>Options that depart from what the shop put in: parts left out, and what came on top.</summary>
    public IReadOnlyList<string> Turned => [.. Options.Where(o => IsTurned(o)).Select(o => o.Effect.Option.Id)];

    private static bool IsTurned(QuoteLine o) => o.Effect.Option.Adds ? o.Stand == OptionStand.Chosen : o.Stand == OptionStand.Declined;

    /// <summary>The quote of a survey, with what the client turned.</summary>
    /// <param name="survey">Equipped: with the bottles it is planned with.</param>
    /// <param name="turned">Ids of the options that depart from the shop's advice; those that are none are passed over.</param>
    /// <param name="planned">Plans a survey, or remembers its plan.</param>
    /// <param name="by">Who turned them.</param>
    /// <param name="progress">Hears how many of how many plans are made.</param>
    /// <exception cref="ArgumentException">Nothing is planned, so there is nothing to price.</exception>
    public static Quote Of(
        Survey survey,
        Rates rates,
        IReadOnlyList<string> turned,
        Func<Survey, Plan> planned,
        string by = "",
        Action<int, int>? progress = null
    )
    {
        var advised = planned(survey);
        if (advised.ReferOnly || advised.Worlds is null)
        {
            throw new ArgumentException("nothing may start yet, so there is nothing to price", nameof(survey));
        }

        var options = QuoteOption.Of(survey, advised);
        var mine = options.Where(o => turned.Contains(o.Id)).ToArray();
        var plan = mine.Length == 0 ? advised : planned(QuoteOption.Chosen(survey, mine.Select(o => o.Id)));
        var vehicle = Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size);
        var lines = new List<QuoteLine>();
        foreach (var (o, i) in options.Select((o, i) => (o, i)))
        {
            progress?.Invoke(i, options.Count);
            var effect = OptionEffect.Of(o, advised, planned(o.Turned(survey)), rates, vehicle);
            if (!effect.Matters && !mine.Contains(o))
            {
                continue;
            }

            var stand = mine.Contains(o)
                ? o.Adds
                    ? OptionStand.Chosen
                    : OptionStand.Declined
                : o.Adds
                    ? OptionStand.Offered
                    : OptionStand.Recommended;
            lines.Add(new(effect, stand, mine.Contains(o) ? by : ""));
        }

        return Plain(survey, plan, rates) with
        {
            Options = lines,
        };
    }

    /// <summary>The same without options: what one plan costs.</summary>
    /// <param name="plan">Of this survey, or of it with choices; not one that was read.</param>
    public static Quote Plain(Survey survey, Plan plan, Rates rates) =>
        new(
            SurveyFormat.Hash(survey),
            plan.Goal,
            rates,
            Quoted.Of(plan.Worlds!.Drawn, rates),
            HoldPoint.Of(plan, rates),
            [],
            Excluded(survey, plan),
            Worked(plan)
        );

    /// <summary>What is done, in the order of the work, in a few words.</summary>
    private static string[] Worked(Plan plan) =>
        [.. plan.Steps.Where(s => s.Stage != Stage.Rinse && s.Stage != Stage.ReWash).Select(s => s.Name).Distinct()];

    /// <summary>
    /// What is referred to others or beyond washing, what stays, and damage: none of it is dirt that this price takes off.
    /// </summary>
    private static NotIncluded[] Excluded(Survey survey, Plan plan) =>
        [
            .. ClientNote.Of(survey, plan).Where(n => n.Topic != ClientTopic.Decides).Select(n => new NotIncluded(n.Zones, n.Words)),
            .. survey
                .Zones.SelectMany(z => z.Condition.Damage.Select(d => (z.Zone, Damage: d)))
                .GroupBy(x => x.Damage.Kind)
                .Select(g => new NotIncluded(
                    [.. g.Select(x => x.Zone)],
                    $"{g.Key.Replace('-', ' ').Capital()}: damage, not dirt. It is repaired by agreement only."
                )),
        ];
}
