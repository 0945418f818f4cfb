using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Readiness;
using ToughStart.Core.Running;
using ToughStart.Core.Vehicles;
using ToughStart.Data;

namespace ToughStart.Web.Stations;

/// <summary>A vehicle that was here before: its survey begins with what is known of it by now, not with nothing.</summary>
/// <param name="Stayed">Kinds that did not come off the last time, by zone.</param>
/// <param name="Coats">What was put on, by zone.</param>
public sealed record Returning(
    Survey Survey,
    IReadOnlyList<(string Kind, IReadOnlyList<string> Zones)> Stayed,
    IReadOnlyList<(string Coat, IReadOnlyList<string> Zones)> Coats
)
{
    public string Words =>
        string.Join(
            " ",
            new[]
            {
                Coats.Count == 0
                    ? ""
                    : $"Put on then: {string.Join("; ", Coats.Select(c => $"{c.Coat} on {ZoneWords.Of([.. c.Zones], 60)}"))}.",
                Stayed.Count == 0
                    ? ""
                    : $"Stayed then, expected again: {string.Join("; ", Stayed.Select(s => $"{s.Kind} on {ZoneWords.Of([.. s.Zones], 60)}"))}.",
            }.Where(w => w.Length > 0)
        );
}

/// <summary>Carries over what a vehicle's last visit left: body and surfaces, what was put on, and what did not come off.</summary>
public sealed class ComesAgain(Workshop workshop, RunBook runs, HandDesk hands, ShopClock clock)
{
    /// <summary>The survey a vehicle's next visit begins with.</summary>
    public async Task<Returning> StartAsync(JobView last, CancellationToken stop)
    {
        var fresh = Fresh(last.Survey);
        var (coats, _) = await hands.CoatsAsync(last.Id, Forms.Build(fresh.Vehicle.Form, fresh.Vehicle.Size).Zones.Select(z => z.Id), stop);
        var on = coats.Where(c => c.Value.TakenBy is null).ToArray();
        var stayed = new List<(string Kind, string Zone, int Grade)>();
        var stripped = new List<string>();
        if (last.PlanRevision is not null)
        {
            var run = await runs.OfAsync(last, await workshop.EquipAsync(last.Survey, last.Id, stop: stop), stop);
            if (run.Ground is { } ground)
            {
                stripped.AddRange(
                    run.State.Zones.Where(z => ground.Catalogue.Treatments.Any(t => z.Value.Rounds.ContainsKey(t.Id) && HandOver.Strips(t)))
                        .Select(z => z.Key)
                );
                stayed.AddRange(
                    ground.States.SelectMany(z =>
                        Enumerable
                            .Range(0, Kinds.Residue)
                            .Where(k =>
                                ground.Catalogue.Contaminants[k] is { IsDirt: true, Layer: >= LastingLayer } kind
                                && z.Survey?.FindingOf(kind.Id) is { Grade: > 0 }
                            )
                            .Select(k =>
                                (
                                    ground.Catalogue.Contaminants[k].Id,
                                    z.Zone.Id,
                                    LoadWords.GradeOf(Run.Believed(run.State, ground, z, k)?.Quantile(0.5) ?? 0)
                                )
                            )
                            .Where(x => x.Item3 > 0)
                    )
                );
            }
        }

        var zones = fresh.Zones.ToDictionary(z => z.Zone);
        ZoneSurvey At(string id) => zones.GetValueOrDefault(id) ?? new ZoneSurvey(id, null, [], null, null, null, [], []);
        foreach (var id in stripped.Where(zones.ContainsKey))
        {
            // What lay there was taken off; what lies there now was put on since, or nobody knows.
            zones[id] = zones[id] with { Protection = null };
        }

        foreach (var (zone, coat) in on.Where(c => c.Value.Kind.Covers.Length > 0))
        {
            zones[zone] = At(zone) with { Protection = coat.Kind.Covers };
        }

        foreach (var g in stayed.GroupBy(s => s.Zone))
        {
            zones[g.Key] = At(g.Key) with { Findings = [.. g.Select(s => new Finding(s.Kind, s.Grade, "seasons", Certainty.Suspected))] };
        }

        var coated = on.Where(c => c.Value.Kind.Covers == "coating").Select(c => (DateTimeOffset?)c.Value.Last.At).Min();
        var months = coated is { } since
            ? (clock.Local - since).TotalDays / Core.Provenance.Catalogue.Default["month-days"]
            : (double?)null;
        var before = last.Survey.Zones.Select(z => z.Zone).Concat(zones.Keys).Distinct().Where(zones.ContainsKey);
        return new(
            fresh with
            {
                Zones = [.. before.Select(z => zones[z])],
                History = fresh.History with { CoatedMonths = months is { } m ? Math.Round(m, 1) : null },
            },
            [
                .. stayed
                    .GroupBy(s => s.Kind)
                    .Select(g =>
                        (
                            Core.Provenance.Catalogue.Default.Contaminant(g.Key).Name.ToLowerInvariant(),
                            (IReadOnlyList<string>)[.. g.Select(s => s.Zone)]
                        )
                    ),
            ],
            [.. on.GroupBy(c => c.Value.Kind).Select(g => (g.Key.Name, (IReadOnlyList<string>)[.. g.Select(c => c.Key)]))]
        );
    }

    /// <summary>Outer dirt of the last visit says nothing of this one; what sits deeper and did not come off is there still.</summary>
    private const int LastingLayer = 3;

    /// <summary>
    /// An earlier survey without its dirt and its day: body, surfaces, parts, condition and place stay; findings, tests, weather
    /// and what was decided for that job do not.
    /// </summary>
    private static Survey Fresh(Survey s) =>
        s with
        {
            Zones = s
                .Zones.Select(z => z with { Findings = [], Tests = [], Water = null, MeasuredC = null, MeasuredAt = null })
                .Where(z => z.Surface is not null || z.Parts.Count > 0 || z.Protection is not null || !z.Condition.IsUnsaid)
                .ToArray(),
            History = s.History with { Flood = "none", Nests = false, Biological = false, Releases = [] },
            Site = s.Site with { Start = null, AirC = null, HumidityPct = null, WindMs = null, CloudOktas = null, Hours = [] },
            Lean = null,
            StockOnly = false,
            Declines = [],
        };
}
