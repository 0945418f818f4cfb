using ToughStart.Core.Chemistry;
using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Planning;

/// <summary>What a line for the client is about.</summary>
public enum ClientTopic
{
    /// <summary>Minutes of testing that settle whether more work is needed.</summary>
    Decides,

    /// <summary>Work that would do more than is asked, or do harm that only other work takes out.</summary>
    LeftOut,

    /// <summary>What was found and is still to be seen afterwards; a trace is not.</summary>
    Stays,

    /// <summary>What washing cannot take.</summary>
    Beyond,
}

/// <summary>
/// The smallest job that is right, in words a client understands: what a test decides, what is left out and why, what stays, and what is beyond
/// washing.
/// </summary>
public sealed record ClientNote(ClientTopic Topic, IReadOnlyList<string> Zones, string Words)
{
    private const int MostOfEach = 4;

    /// <summary>The lines of a plan, what decides most first.</summary>
    public static IReadOnlyList<ClientNote> Of(Survey survey, Plan plan) =>
        plan.ReferOnly
            ? [new(ClientTopic.Beyond, [], "Nothing may start yet: " + string.Join(" ", plan.Refer.Select(r => r.Reason)))]
            :
            [
                .. Decides(plan).Take(MostOfEach),
                .. ClayLeftOut(survey, plan),
                .. Stays(survey, plan).Take(MostOfEach),
                .. Beyond(survey, plan).Take(MostOfEach),
            ];

    private static IEnumerable<ClientNote> Decides(Plan plan)
    {
        var c = Catalogue.Default;
        foreach (
            var t in plan
                .Tests.Where(t => (t.Worth || t.Required) && t.AddsMinutes >= c["client-minutes"])
                .OrderByDescending(t => t.AddsMinutes.Value)
        )
        {
            var card = c.Tests.First(x => x.Id == t.Test);
            var main = t.IfPositive.MaxBy(b =>
                c.FindTreatment(b.Treatment)?.Removes.Where(r => Is(r.Kind, t.Contaminant)).Sum(r => r.Decades) ?? 0
            );
            yield return new(
                ClientTopic.Decides,
                t.Zones,
                $"{Minutes(Costing.TestWorth.Minutes(t.Zones.Count, c)).Capital()} of testing ({card.Name.ToLowerInvariant()}, "
                    + $"{ZoneWords.Of([.. t.Zones], MostWords)}) decide about {Minutes(t.AddsMinutes)} of work"
                    + $"{(main is null ? "" : $": {main.Name}")}. Done, and charged, only where it is needed."
            );
        }

        bool Is(int kind, string id) => kind != Kinds.Residue && c.Contaminants[kind].Id == id;
    }

    /// <summary>Characters of zones beyond which they are counted.</summary>
    private const int MostWords = 60;

    /// <summary>Roughness that was felt, on paint that clay would mark and no polish follows.</summary>
    private static IEnumerable<ClientNote> ClayLeftOut(Survey survey, Plan plan)
    {
        var c = Catalogue.Default;
        var bonded = c.Contaminants.Where(k => k.IsBonded).Select(k => k.Id).ToHashSet();
        var clayed = plan.Steps.Where(s => s.Stage == Stage.Clay).SelectMany(s => s.Zones).ToHashSet();
        var vehicle = Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size);
        var rough = survey
            .Zones.Where(z =>
                (z.Goal?.Goal ?? survey.Goal) != Goal.Correct
                && z.Goal != ZoneGoal.LeaveAlone
                && Conditions.SiteConditions.FamilyOf(vehicle[z.Zone], survey) == Family.Body
                && z.Findings.Any(f => f.Grade > 0 && bonded.Contains(f.Contaminant))
            )
            .Select(z => z.Zone)
            .ToArray();
        if (rough.Where(z => !clayed.Contains(z)).ToArray() is { Length: > 0 } without)
        {
            yield return new(
                ClientTopic.LeftOut,
                without,
                $"Rough paint ({ZoneWords.Of(without, MostWords)}): clay would take it off, but it marks, and marks ask for a polish. Left out here; "
                    + "right when a correction is wanted."
            );
        }

        if (rough.Where(clayed.Contains).ToArray() is { Length: > 0 } with)
        {
            yield return new(
                ClientTopic.LeftOut,
                with,
                $"Clay ({ZoneWords.Of(with, MostWords)}) leaves fine marks that show in the sun. A polish takes them out: not part of this job."
            );
        }
    }

    /// <summary>What was found and is still to be seen afterwards, because the goal does not ask for more or nothing gentle takes it.</summary>
    private static IEnumerable<ClientNote> Stays(Survey survey, Plan plan)
    {
        var c = Catalogue.Default;
        var beyond = plan.Refer.SelectMany(r => r.Zones.Select(z => (r.What, z))).ToHashSet();
        return plan
            .Traces.SelectMany(t =>
                (t.After.Count == 0 ? t.Start : t.After[^1].Loads)
                    .Where(l =>
                        l.Value >= Math.Sqrt(c["grade-1"] * c["grade-2"])
                        && survey.ZoneOf(t.Zone)?.FindingOf(l.Key) is { Grade: > 0 }
                        && survey.ZoneOf(t.Zone)?.Goal != ZoneGoal.LeaveAlone
                        && c.Contaminants.FirstOrDefault(k => k.Id == l.Key) is { IsDirt: true, IsBonded: false } kind
                        && !beyond.Contains((kind.Id, t.Zone))
                    )
                    .Select(l => (Kind: l.Key, t.Zone, Load: l.Value))
            )
            .GroupBy(x => x.Kind)
            .OrderByDescending(g => g.Max(x => x.Load))
            .Select(g => new ClientNote(
                ClientTopic.Stays,
                [.. g.Select(x => x.Zone)],
                $"{c.Contaminant(g.Key).Name.Capital()} ({ZoneWords.Of([.. g.Select(x => x.Zone)], MostWords)}) stays, "
                    + $"{LoadWords.Of(g.Max(x => x.Load))} at most: this job does not ask for more."
            ));
    }

    /// <summary>What washing does not take. Dirt on a part that is wiped by hand in passing is no word to the client.</summary>
    private static IEnumerable<ClientNote> Beyond(Survey survey, Plan plan)
    {
        var c = Catalogue.Default;
        var vehicle = Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size);
        foreach (var g in plan.Refer.GroupBy(r => r.What))
        {
            var kind = c.Contaminants.FirstOrDefault(k => k.Id == g.Key);
            var zones = g.SelectMany(r => r.Zones)
                .Distinct()
                .Where(z => kind is not { IsDirt: true } || vehicle[z].Area >= c["on-the-way"])
                .ToArray();
            if (zones.Length > 0)
            {
                yield return new(
                    ClientTopic.Beyond,
                    zones,
                    $"{kind?.Name ?? g.Key.Replace('-', ' ').Capital()} ({ZoneWords.Of(zones, MostWords)}): washing does not take it all. "
                        + "It is written down; what else could be done is another job."
                );
            }
        }
    }

    private static string Minutes(double minutes) =>
        minutes < 1.5 ? "a minute" : string.Create(System.Globalization.CultureInfo.InvariantCulture, $"{minutes:0} minutes");
}
