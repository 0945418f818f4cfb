using System.Globalization;
using CsvHelper;
using CsvHelper.Configuration;
using Ical.Net;
using Ical.Net.CalendarComponents;
using Ical.Net.DataTypes;
using Ical.Net.Serialization;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Readiness;
using ToughStart.Core.Running;
using ToughStart.Core.Vehicles;
using ToughStart.Data;
using ToughStart.Web.Drawing;

namespace ToughStart.Web.Stations;

/// <summary>What a report shows besides the work; what is not chosen is not in it.</summary>
public sealed record ReportShows(bool Client, bool Plate, bool Photos, bool Damage)
{
    /// <summary>What a link shows where nobody chose: pictures and damage, and nobody's name.</summary>
    public static ReportShows Usual { get; } = new(false, false, true, true);

    public static ReportShows All { get; } = new(true, true, true, true);

    public string Words =>
        string.Join(
            ',',
            new[] { (Client, "client"), (Plate, "plate"), (Photos, "photos"), (Damage, "damage") }.Where(x => x.Item1).Select(x => x.Item2)
        );

    public static ReportShows Of(string words) =>
        words.Split(',') is var w ? new(w.Contains("client"), w.Contains("plate"), w.Contains("photos"), w.Contains("damage")) : Usual;
}

/// <summary>Something that was done, in the order of the work.</summary>
public sealed record ReportLine(string What, IReadOnlyList<string> Zones, int Rounds);

/// <summary>What a client gets to see of a job.</summary>
public sealed record ReportView(
    string Shop,
    JobView Job,
    Vehicle Vehicle,
    ReportShows Shows,
    string PhotoPath,
    DateOnly Day,
    bool Closed,
    IReadOnlyDictionary<string, ZonePaint> Before,
    IReadOnlyDictionary<string, ZonePaint> After,
    IReadOnlyList<ReportLine> Done,
    IReadOnlyList<ClientNote> Notes,
    GateStanding? Gate,
    Goal Goal,
    IReadOnlyList<PhotoLine> Photos,
    IReadOnlyList<(DateOnly Due, Protection Kind, IReadOnlyList<string> Zones)> Dues,
    DateOnly? Next,
    IReadOnlyList<string> Care
)
{
    public IReadOnlyList<string> Zones(GateWord word) =>
        [.. (Gate?.Verdicts ?? []).Where(v => Gate!.WordOf(v) == word).Select(v => v.Zone)];
}

/// <summary>Puts a report together: one way for the shop's page and for the link.</summary>
public sealed class ReportDesk(
    JobStore jobs,
    Workshop workshop,
    RunBook runs,
    GateDesk gates,
    HandDesk hands,
    BookStore books,
    RecordStore records,
    ShopWays shop,
    ShopClock clock
)
{
    /// <summary>Null when there is no such job.</summary>
    public async Task<ReportView?> OfAsync(int number, ReportShows shows, string photoPath, CancellationToken stop)
    {
        if (await jobs.JobAsync(number, stop) is not { } job)
        {
            return null;
        }

        var equipped = await workshop.EquipAsync(job.Survey, job.Id, stop: stop);
        var run = await runs.OfAsync(job, equipped, stop);
        var book = await books.BookAsync(job.Id, stop);
        var plan = run.InForce?.Plan;
        var vehicle = Forms.Build(job.Survey.Vehicle.Form, job.Survey.Vehicle.Size);
        var (coats, _) = await hands.CoatsAsync(job.Id, vehicle.Zones.Select(z => z.Id), stop);
        var standing = plan is null or { ReferOnly: true } ? null : await gates.OfAsync(job, run, equipped, stop);
        return new(
            shop.Name,
            job,
            vehicle,
            shows,
            photoPath,
            book?.Day ?? job.Day,
            job.Station == "closed",
            NetDrawing.OfSurvey(job.Survey),
            run.Ground is { } ground ? NetDrawing.OfRun(ground, run.State) : NetDrawing.OfSurvey(job.Survey),
            plan is null ? [] : Lines(plan, run),
            plan is null ? [] : ClientNote.Of(job.Survey, plan),
            standing,
            plan?.Goal ?? job.Survey.Goal,
            shows.Photos ? await records.PhotosAsync(job.Id, stop) : [],
            HandDesk.Dues(coats, clock),
            book?.Due ?? (plan is null ? null : Intervals.Of(job.Survey, plan, job.Day).Decontamination),
            plan is null ? [] : Intervals.Of(job.Survey, plan, job.Day).Urgent
        );
    }

    /// <summary>What was really done, by stage: zones on which at least one round is on record.</summary>
    private static List<ReportLine> Lines(Plan plan, JobRun run) =>
        [
            .. CoreSample
                .StageGroups(plan)
                .Select(g =>
                {
                    var zones = g
                        .Steps.SelectMany(s => s.Zones.Select(z => (Zone: z, Done: run.State.Of(z).Steps.GetValueOrDefault(s.Key).Done)))
                        .Where(z => z.Done > 0)
                        .ToArray();
                    return new ReportLine(
                        g.Name.Capital(),
                        [.. zones.Select(z => z.Zone).Distinct()],
                        zones.Length == 0 ? 0 : zones.Max(z => z.Done)
                    );
                })
                .Where(l => l.Zones.Count > 0),
        ];

    /// <summary>The next visit as a calendar.</summary>
    public static string Calendar(ReportView report, string shop, DateTimeOffset now)
    {
        var calendar = new Ical.Net.Calendar { ProductId = "-//Tough Start//due//EN" };
        void Add(string key, DateOnly day, string summary, string words) =>
            calendar.Events.Add(
                new CalendarEvent
                {
                    Uid = $"job-{report.Job.Number}-{key}@tough-start",
                    Summary = summary,
                    Description = words,
                    Start = new CalDateTime(day),
                    End = new CalDateTime(day.AddDays(1)),
                    DtStamp = new CalDateTime(now.UtcDateTime, "UTC"),
                }
            );
        if (report.Next is { } next)
        {
            Add("visit", next, $"{report.Job.Vehicle}: next visit", $"Due at {shop}, after job {report.Job.Number}.");
        }

        foreach (var (due, kind, zones) in report.Dues)
        {
            Add($"{kind.Id}-{due:yyyyMMdd}", due, $"{report.Job.Vehicle}: renew the {kind.Name}", ZoneWords.Of(zones, 200));
        }

        return new CalendarSerializer().SerializeToString(calendar)!;
    }

    /// <summary>What a bill is made of: work in hours, product at what it cost. Prices are the shop's to put to it.</summary>
    public static string Invoice(
        JobView job,
        Reckoned reckoned,
        IReadOnlyList<(string Name, decimal Ml, decimal Each)> products,
        IReadOnlyDictionary<string, string> people,
        bool semicolon
    )
    {
        using var text = new StringWriter(CultureInfo.InvariantCulture);
        using (var csv = new CsvWriter(text, Sheet(semicolon)))
        {
            Row("job", "day", "vehicle", "client", "kind", "what", "quantity", "unit", "cost");
            foreach (var t in reckoned.Times.Where(t => t.Seconds > 0))
            {
                Line("work", $"{t.Stage.Word.Replace('-', ' ')}, {people.GetValueOrDefault(t.Who, t.Who)}", N(t.Seconds / 3600.0), "h", "");
            }

            if (reckoned.Times.Count == 0)
            {
                Line("work", "as planned: nobody took the time", N(reckoned.PlannedMinutes.Sum(p => p.Minutes) / 60.0), "h", "");
            }

            foreach (var (name, ml, each) in products.Where(p => p.Ml > 0))
            {
                Line("product", name, N((double)ml), "ml", N((double)(ml * each)));
            }

            Line("water", "water", N(reckoned.DoneLitres), "l", "");

            void Line(string kind, string what, string quantity, string unit, string cost) =>
                Row(
                    job.Number.ToString(CultureInfo.InvariantCulture),
                    job.Day.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture),
                    job.Vehicle,
                    job.Client,
                    kind,
                    what,
                    quantity,
                    unit,
                    cost
                );

            void Row(params string[] cells)
            {
                foreach (var c in cells)
                {
                    csv.WriteField(c);
                }

                csv.NextRecord();
            }
        }

        return text.ToString();

        string N(double v) =>
            v.ToString("0.##", CultureInfo.InvariantCulture).Replace(".", semicolon ? "," : ".", StringComparison.Ordinal);
    }

    /// <summary>How tables leave the house: a cell that a spreadsheet would take for a formula is written as text.</summary>
    public static CsvConfiguration Sheet(bool semicolon) =>
        new(CultureInfo.InvariantCulture)
        {
            Delimiter = semicolon ? ";" : ",",
            NewLine = "\r\n",
            InjectionOptions = InjectionOptions.Escape,
        };
}
