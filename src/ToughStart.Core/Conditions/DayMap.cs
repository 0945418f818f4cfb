using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Conditions;

/// <summary>A quarter of an hour of the day.</summary>
/// <param name="FirstDry">Seconds to first dry spots by carrier and zone, in the order of <see cref="DayMap.Zones"/>; null = not computed here.</param>
/// <param name="Bars">What forbids chemistry now: frost, rain, storm.</param>
public sealed record DayQuarter(
    DateTimeOffset At,
    Air Air,
    double Gust,
    SunPosition Sun,
    bool Sunny,
    double RainMm,
    IReadOnlyDictionary<string, double[]> FirstDry,
    double[] PanelC,
    IReadOnlyList<string> Bars,
    IReadOnlyList<string> Minds
);

/// <summary>A start and how well every stage that dwells fits into its windows from there.</summary>
/// <param name="Fit">Share of the work, by area and stage, whose dwell fits into half its window; panels too hot for chemistry count nothing; 0 when something forbids the start.</param>
/// <param name="Work">The stage that fits worst on a panel of some size, its zone and its window in seconds.</param>
/// <param name="HotC">Its temperature when it is too hot for anything but water.</param>
public sealed record DayStart(int Quarter, double Fit, string? Work, string? Zone, double Window, double? HotC = null)
{
    /// <summary>The worst of it in words, without the stage.</summary>
    public string Say =>
        HotC is { } hot
            ? $"the {Limits.Words(Zone!)} stands at {hot:0} °C: water only until it is cooler"
            : $"the {Limits.Words(Zone!)} shows first dry spots after {SiteConditions.Say(Window)}";
}

/// <summary>The shortest window of a stage at an hour, where it is, and what forbids chemistry then.</summary>
public readonly record struct DayCell(Seconds? Seconds, string? Zone, string? Bar);

/// <summary>A stage that dwells and its shortest window at each of the 24 hours.</summary>
/// <param name="Dwell">Seconds it asks for.</param>
public sealed record DayRow(string Work, string Carrier, double Dwell, IReadOnlyList<DayCell> Hours);

/// <summary>The whole day in quarters of an hour: windows of every zone, the best start, and by how much the others are worse.</summary>
public sealed record DayMap(
    IReadOnlyList<string> Zones,
    IReadOnlyList<DayQuarter> Quarters,
    IReadOnlyList<DayStart> Starts,
    int? Best,
    (DateTimeOffset Rise, DateTimeOffset Set)? Daylight,
    string Words
)
{
    public const int Count = 96;

    /// <summary>Stages that dwell, each with the shortest window of the panels it needs, hour by hour.</summary>
    public IReadOnlyList<DayRow> Board { get; private init; } = [];

    /// <summary>What infrared readings say against the model.</summary>
    public IReadOnlyList<PanelBias> Biases { get; private init; } = [];

    /// <summary>By how much of the work a start is worse than the best one; 0 when none is best.</summary>
    public double Worse(int quarter) => Best is { } b ? Math.Max(0, Starts[b].Fit - Starts[quarter].Fit) : 0;

    /// <summary>The shortest window of a stage at every full hour; panels of some size only, unless it has no other.</summary>
    private static DayRow Row(string work, string carrier, int[] zones, double dwell, DayQuarter[] quarters, Vehicles.Zone[] all)
    {
        var large = zones.Where(z => all[z].Area >= Catalogue.Default["day-panel"]).ToArray();
        var counted = large.Length > 0 ? large : zones;
        return new(
            work,
            carrier,
            dwell,
            Enumerable
                .Range(0, 24)
                .Select(h =>
                {
                    var q = quarters[h * 4];
                    if (!q.FirstDry.TryGetValue(carrier, out var dry) || counted.Length == 0)
                    {
                        return new DayCell(null, null, q.Bars.Count > 0 ? q.Bars[0] : null);
                    }

                    var worst = counted.MinBy(z => dry[z]);
                    return new DayCell(dry[worst], all[worst].Id, q.Bars.Count > 0 ? q.Bars[0] : null);
                })
                .ToArray()
        );
    }

    private static readonly string[] Carriers = ["spray", "thin-foam", "gel"];

    /// <summary>Computes the day of a survey's start.</summary>
    /// <param name="plan">Its stages say which windows matter; null = every zone and carrier alike.</param>
    public static (DayMap? Map, string? Why) Of(Survey survey, Plan? plan)
    {
        var c = Catalogue.Default;
        var (start, wrong) = SiteConditions.StartOf(survey.Site);
        if (wrong is not null)
        {
            return (null, wrong);
        }

        if (start is null)
        {
            return (null, "not said: start. The day needs a date");
        }

        if (SiteConditions.Of(survey) is { Conditions: null, Why: { } why })
        {
            return (null, why);
        }

        var midnight = new DateTimeOffset(start.Value.Date, start.Value.Offset);
        var biases = SiteConditions.BiasesOf(survey, c);
        var zones = ZonesOf(survey, c);
        var every = Enumerable.Range(0, zones.Length).ToArray();
        var quarters = Enumerable
            .Range(0, Count)
            .Select(q => Quarter(survey, midnight.AddMinutes(15 * q), zones, every, Carriers, biases, c))
            .ToArray();
        var needs = Needs(plan?.Steps ?? [], zones);
        var starts = Enumerable.Range(0, Count).Select(q => StartAt(q, at => quarters[at], needs, zones, c)).ToArray();
        var daylight = survey.Site is { Latitude: { } lat, Longitude: { } lon } ? SunPosition.RiseAndSet(midnight, lat, lon) : null;
        var (from, to) = WorkingDay(daylight, needs, c);
        var best = BestOf(starts.Where(s => s.Quarter >= from && s.Quarter < to));
        var board = needs
            .GroupBy(n => (n.Work, n.Carrier))
            .Select(g =>
                Row(
                    g.Key.Work,
                    g.Key.Carrier,
                    g.SelectMany(n => n.Zones).Distinct().ToArray(),
                    g.Max(n => n.Dwell),
                    quarters,
                    zones.Select(z => z.Zone).ToArray()
                )
            )
            .ToArray();
        return (
            new DayMap(
                zones.Select(z => z.Zone.Id).ToArray(),
                quarters,
                starts,
                best?.Quarter,
                daylight,
                Sentence(start.Value, midnight, starts, best, quarters)
            )
            {
                Board = board,
                Biases = [.. biases.Values.OrderBy(b => b.Zone, StringComparer.Ordinal)],
            },
            null
        );
    }

    /// <summary>
    /// How well the steps of a plan fit into their windows at its start, the best start of that day and the best that is still to come: what the
    /// whole map says of them, without the rest of it.
    /// </summary>
    /// <returns>Null where drying is not computed or nothing dwells; no start where no hour is fit.</returns>
    internal static (DateTimeOffset Midnight, DayStart Now, DayStart? Best, DayStart? Later)? StartsOf(
        Survey survey,
        IReadOnlyList<Step> steps,
        IReadOnlyDictionary<string, PanelBias> biases
    )
    {
        var c = Catalogue.Default;
        if (SiteConditions.StartOf(survey.Site).Start is not { } start || survey.Site is not { Latitude: { } lat, Longitude: { } lon })
        {
            return null;
        }

        var midnight = new DateTimeOffset(start.Date, start.Offset);
        var zones = ZonesOf(survey, c);
        var needs = Needs(steps, zones);
        if (needs.Count == 0)
        {
            return null;
        }

        // Only what is asked of it: the panels that dwell, their films, the hours people work and those their work then reaches.
        var used = needs.SelectMany(n => n.Zones).Distinct().Order().ToArray();
        var carriers = needs.Select(n => n.Carrier).Distinct().ToArray();
        var (from, to) = WorkingDay(SunPosition.RiseAndSet(midnight, lat, lon), needs, c);
        var quarters = new DayQuarter?[Count];
        DayQuarter At(int q) => quarters[q] ??= Quarter(survey, midnight.AddMinutes(15 * q), zones, used, carriers, biases, c);
        DayStart Start(int q) => StartAt(q, At, needs, zones, c);
        var now = QuarterOf(start);
        var starts = Enumerable.Range(from, to - from).Select(Start).ToArray();
        return (midnight, Start(now), BestOf(starts), BestOf(starts.Where(s => s.Quarter > now)));
    }

    private static (Vehicles.Zone Zone, Family Family)[] ZonesOf(Survey survey, Catalogue c) =>
        [
            .. Vehicles
                .Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size)
                .Zones.Select(z => (Zone: z, Family: SiteConditions.FamilyOf(z, survey, c))),
        ];

    /// <summary>
    /// Quarters between which a start is looked for: from first light but not before people work, and done by dark or when they stop.
    /// </summary>
    private static (int From, int To) WorkingDay((DateTimeOffset Rise, DateTimeOffset Set)? daylight, List<Need> needs, Catalogue c)
    {
        var (opens, closes) = ((int)c["work-from"] * 4, (int)c["work-to"] * 4);
        var (first, last) = daylight is { } d
            ? (Math.Max(opens, QuarterOf(d.Rise) + 1), Math.Min(closes, QuarterOf(d.Set)))
            : (opens, closes);
        var length = needs.Count == 0 ? 0 : (int)Math.Ceiling(needs.Max(n => n.After) / 15);
        return (first, Math.Max(first + 1, last - length));
    }

    private static DayStart? BestOf(IEnumerable<DayStart> starts) =>
        starts.Where(s => s.Fit > 0).OrderByDescending(s => Math.Round(s.Fit, 2)).ThenBy(s => s.Quarter).FirstOrDefault();

    /// <summary>What a stage that dwells needs: its carrier, its zones and its dwell in seconds, and minutes after the start.</summary>
    private sealed record Need(string Work, string Carrier, int[] Zones, double Dwell, double After);

    /// <summary>Quarter of the day a moment falls into.</summary>
    public static int QuarterOf(DateTimeOffset at) => Math.Clamp((int)(at.TimeOfDay.TotalMinutes / 15), 0, Count - 1);

    /// <param name="asked">Places of the zones that are worked out; the others stay at nothing.</param>
    private static DayQuarter Quarter(
        Survey survey,
        DateTimeOffset at,
        (Vehicles.Zone Zone, Family Family)[] zones,
        int[] asked,
        string[] carriers,
        IReadOnlyDictionary<string, PanelBias> biases,
        Catalogue c
    )
    {
        var (known, why) = SiteConditions.Of(survey, at, c);
        if (known is null)
        {
            return new(at, default, 0, default, false, 0, new Dictionary<string, double[]>(), [], [why!], []);
        }

        var conditions = known.Corrected(biases);

        var dry = carriers.ToDictionary(k => k, _ => new double[zones.Length]);
        var panels = new double[zones.Length];
        var films = carriers.Select(conditions.Film).ToArray();
        foreach (var z in asked)
        {
            var b = conditions.Balance(zones[z].Zone, zones[z].Family, null, false);
            // A hot body panel that will be rinsed cool first counts as it will be then.
            panels[z] = conditions.MayCool(zones[z].Family) ? Math.Min(b.Now, c["hot-panel"]) : b.Now;
            for (var k = 0; k < films.Length; k++)
            {
                dry[carriers[k]][z] = WetWindow.Fast(b, films[k]).FirstDry;
            }
        }

        var hour = survey.Site.Hours.Count > 0 ? WeatherFile.At(survey.Site.Hours, at) : null;
        var gust = hour?.WindMs ?? survey.Site.WindMs ?? 0;
        var (bars, minds) = (new List<string>(), new List<string>());
        if (conditions.Bar is { } bar)
        {
            bars.Add(bar);
        }

        if (gust > c["wind-polish"] && survey.Site.Place == "outdoors")
        {
            minds.Add($"wind {gust:0} m/s: no polishing or coating outdoors");
        }

        if (conditions.Air.Celsius - conditions.Air.DewPoint < c["dew-margin"])
        {
            minds.Add("near the dew point: nothing dries, no coating");
        }

        return new(at, conditions.Air, gust, conditions.Sun, conditions.Sunny, conditions.RainMm, dry, panels, bars, minds);
    }

    /// <summary>What each stage that dwells needs; with no step at all, every zone and carrier alike.</summary>
    private static List<Need> Needs(IReadOnlyList<Step> steps, (Vehicles.Zone Zone, Family Family)[] zones)
    {
        if (steps.Count == 0)
        {
            return [.. Carriers.Select(carrier => new Need(carrier, carrier, [.. Enumerable.Range(0, zones.Length)], 180, 0))];
        }

        var index = zones.Select((z, i) => (z.Zone.Id, i)).ToDictionary(x => x.Id, x => x.i);
        var list = new List<Need>();
        var after = 0.0;
        foreach (var s in steps)
        {
            var agent = Catalogue.Default.Agents.FirstOrDefault(a => a.Id == s.Agent);
            if (agent is { Dwell.Value: > 0 } && SiteConditions.CarrierOf(agent) is { } carrier)
            {
                list.Add(new(s.Name, carrier, s.Zones.Where(index.ContainsKey).Select(z => index[z]).ToArray(), agent.Dwell * 60, after));
            }

            after += s.LabourMinutes + s.WaitMinutes;
        }

        return list;
    }

    private static DayStart StartAt(
        int q,
        Func<int, DayQuarter> quarters,
        List<Need> needs,
        (Vehicles.Zone Zone, Family Family)[] zones,
        Catalogue c
    )
    {
        if (quarters(q).Bars.Count > 0)
        {
            return new(q, 0, quarters(q).Bars[0], null, 0);
        }

        DayStart? worst = null;
        var (tightest, fits, all) = (double.PositiveInfinity, 0.0, 0.0);
        foreach (var (work, carrier, on, dwell, after) in needs)
        {
            var at = quarters(Math.Min(Count - 1, q + (int)(after / 15)));
            if (!at.FirstDry.TryGetValue(carrier, out var dry))
            {
                return new(q, 0, at.Bars.Count > 0 ? at.Bars[0] : work, null, 0);
            }

            foreach (var z in on)
            {
                // Nothing but water goes on a panel above the limit.
                var hot = at.PanelC[z] > c["hot-panel"];
                var room = hot ? 0 : c["safe-part"] * dry[z] / dwell;
                fits += zones[z].Zone.Area * Math.Min(1, room);
                all += zones[z].Zone.Area;
                // A badge that dries early does not move a start; a panel does.
                if (zones[z].Zone.Area >= c["day-panel"] && room - (hot ? at.PanelC[z] / 1000 : 0) < tightest)
                {
                    tightest = room - (hot ? at.PanelC[z] / 1000 : 0);
                    worst = new(q, 0, work, zones[z].Zone.Id, dry[z], hot ? at.PanelC[z] : null);
                }
            }
        }

        var fit = all > 0 ? fits / all : 1;
        return worst is null || tightest >= 1 ? new(q, fit, null, null, c["window-cap"]) : worst with { Fit = fit };
    }

    private static string Sentence(DateTimeOffset start, DateTimeOffset midnight, DayStart[] starts, DayStart? best, DayQuarter[] quarters)
    {
        var now = starts[QuarterOf(start)];
        string Clock(int q) => midnight.AddMinutes(15 * q).ToString("HH:mm", System.Globalization.CultureInfo.InvariantCulture);
        var first =
            now.Fit <= 0 ? $"At {start:HH:mm}: {now.Work}."
            : now.Zone is null ? $"At {start:HH:mm} nothing that dwells dries too soon."
            : now.HotC is not null ? $"At {start:HH:mm} {now.Say}."
            : $"At {start:HH:mm} {now.Say} ({now.Work!.ToLowerInvariant()}){(now.Window < Catalogue.Default["not-the-limit"] ? $": rinse by {SiteConditions.Say(now.Window * Catalogue.Default["safe-part"])}" : "")}.";
        return best is null ? first + " No hour of this day is fit: indoors, or another day."
            : best.Quarter == QuarterOf(start) || best.Fit - now.Fit < Catalogue.Default["day-better"]
                ? first
                    + (
                        now.Fit >= Catalogue.Default["day-fits"]
                            ? ""
                            : $" {now.Fit * 100:0} % of the work fits; no start of this day is better by much."
                    )
            : first
                + (
                    now.Fit <= 0
                        ? $" Start at {Clock(best.Quarter)}."
                        : $" {now.Fit * 100:0} % of the work fits. Start at {Clock(best.Quarter)}: {best.Fit * 100:0} %, "
                            + $"{(best.Zone is null ? "nothing dries too soon then" : best.HotC is not null ? $"even then {best.Say}" : $"the tightest window is {SiteConditions.Say(best.Window)} then")}."
                )
                + (
                    quarters[QuarterOf(start)].Sunny
                        ? " Shade helps at once, and so does rinsing body panels cool where there is a hose."
                        : ""
                );
    }
}
