using System.Text;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using ToughStart.Core;
using ToughStart.Core.Formats;
using ToughStart.Core.Learning;
using ToughStart.Core.Planning;
using ToughStart.Core.Readiness;
using ToughStart.Core.Running;
using ToughStart.Core.Running.Live;
using ToughStart.Data;
using ToughStart.Web.Stations;

namespace ToughStart.Web.Demo;

/// <summary>
/// Two seasons of work for the demo: every visit is planned by the planner, worked by the simulator from hidden truths, and closed like any other,
/// so that logbook and learning show what such work leaves behind.
/// </summary>
public static class DemoSeasons
{
    private sealed record Aged(string Product, string Batch, double Factor, int Until);

    private sealed record Visitor(string Client, string Vehicle, string Plate, string Survey, int Every, int Visits, string? Coat);

    private sealed record Book(
        Dictionary<string, double> Weak,
        Dictionary<string, double> Strong,
        Aged Aged,
        Dictionary<string, Dictionary<string, double>> Paces,
        Visitor[] Vehicles
    );

    private sealed record Visit(int Number, Visitor Of, int Turn, DateOnly Day);

    /// <summary>Days between the last visits of two vehicles.</summary>
    private const int LastApart = 17;

    /// <summary>Number of the first job of the past.</summary>
    private const int First = 21;

    /// <summary>Works the visits that are not there yet, the oldest first.</summary>
    /// <param name="most">Visits at most.</param>
    /// <returns>How many were made.</returns>
    public static async Task<int> LoadAsync(IServiceProvider root, string folder, int most = int.MaxValue, CancellationToken stop = default)
    {
        var book = JsonSerializer.Deserialize<Book>(
            await File.ReadAllTextAsync(Path.Combine(folder, "past", "visits.json"), stop),
            JsonSerializerOptions.Web
        )!;
        var clock = root.GetRequiredService<ShopClock>();
        var visits = book
            .Vehicles.SelectMany(
                (v, at) =>
                    Enumerable
                        .Range(0, v.Visits)
                        .Select(i => (Of: v, Turn: i, Day: clock.Today.AddDays(-9 - (LastApart * at) - (v.Every * (v.Visits - 1 - i)))))
            )
            .OrderBy(v => v.Day)
            .ThenBy(v => v.Of.Plate, StringComparer.Ordinal)
            .Select((v, i) => new Visit(First + i, v.Of, v.Turn, v.Day))
            .Take(most)
            .ToArray();
        var made = 0;
        foreach (var v in visits)
        {
            stop.ThrowIfCancellationRequested();
            await using var scope = root.CreateAsyncScope();
            made += await WorkAsync(scope.ServiceProvider, folder, book, v, stop) ? 1 : 0;
        }

        return made;
    }

    private static async Task<bool> WorkAsync(IServiceProvider services, string folder, Book book, Visit v, CancellationToken stop)
    {
        var db = services.GetRequiredService<ToughStartContext>();
        var there = await db.Jobs.Where(j => j.Number == v.Number).Select(j => (Guid?)j.Id).FirstOrDefaultAsync(stop);
        if (there is { } known && await db.Books.AnyAsync(b => b.JobId == known, stop))
        {
            return false;
        }

        var id = there ?? Guid.CreateVersion7(new DateTimeOffset(v.Day.ToDateTime(new TimeOnly(7, 0)), TimeSpan.Zero));
        var survey = Found(SurveyFormat.Read(await File.ReadAllBytesAsync(Path.Combine(folder, v.Of.Survey), stop)).Value!, v);
        var workshop = services.GetRequiredService<Workshop>();
        var equipped = await workshop.EquipAsync(survey, id, stop: stop);
        var plan = workshop.Plan(equipped, stop);
        if (plan.ReferOnly)
        {
            return false;
        }

        var start = new DateTimeOffset(v.Day.ToDateTime(new TimeOnly(8, 30)), TimeSpan.Zero);
        var staff = await db.Users.AsNoTracking().ToDictionaryAsync(u => u.UserName!, u => u.StaffId, stop);
        string[] crew = v.Number % 3 == 0 ? [staff["tam"]] : [staff["tam"], staff["odile"]];
        var ground = new RunGround(equipped);
        var log = Season
            .Work(ground, plan, 1, await TruthsAsync(db, book, v, staff, stop), crew, start, (ulong)(40_000 + v.Number))
            .ToList();
        var ended = log[^1].Received + 600_000;
        log.Add(
            new LogEvent(new Guid(v.Number, 7, 7, new byte[8]).ToString(), "", 0, "", 0, log.Count, 1, crew[0], LogKind.Closed)
            {
                Body = new LogBody { UpTo = log.Count },
                Number = log.Count + 1,
                When = new(ended, ended, ended),
                Received = ended,
            }
        );
        if (there is null)
        {
            await WriteAsync(db, v, id, survey, equipped, plan, crew[0], start, stop);
        }

        await services.GetRequiredService<RunStore>().RestoreAsync(id, log, stop);
        var at = DateTimeOffset.FromUnixTimeMilliseconds(ended);
        if (v.Of.Coat is { } coat && plan.Goal.GoesOn && !await db.HandWork.AnyAsync(h => h.JobId == id, stop))
        {
            await CoatAsync(db, id, coat, ground, crew[0], at, stop);
        }

        var job = (await services.GetRequiredService<JobStore>().JobAsync(v.Number, stop))!;
        var run = await services.GetRequiredService<RunBook>().OfAsync(job, equipped, stop);
        await services
            .GetRequiredService<CloseDesk>()
            .WriteAsync(job, run, equipped, new Closing(CloseDesk.WheelsWorked(run), true, [], []), crew[0], stop, at);
        return true;
    }

    /// <summary>What a visit finds: the first all of it; later ones mostly less, for it comes regularly.</summary>
    private static Survey Found(Survey s, Visit v)
    {
        var random = new Random(v.Number);
        return s with
        {
            Id = $"job-{v.Number}",
            Revision = 1,
            Goal =
                v.Of.Coat is null ? s.Goal
                : s.Goal.GoesOn ? s.Goal
                : Goal.Protect,
            Zones =
            [
                .. s.Zones.Select(z =>
                    z with
                    {
                        Tests = [],
                        Findings =
                        [
                            .. z
                                .Findings.Where(f => v.Turn == 0 || f.Grade == 0 || random.NextDouble() < 0.8)
                                .Select(f =>
                                    f.Grade == 0
                                        ? f
                                        : f with
                                        {
                                            Grade = Math.Clamp(f.Grade - (v.Turn > 0 && random.NextDouble() < 0.6 ? 1 : 0), 1, 4),
                                        }
                                ),
                        ],
                    }
                ),
            ],
            Site = s.Site with { Start = null, Hours = [], AirC = null, HumidityPct = null, WindMs = null, CloudOktas = null },
        };
    }

    private static async Task<HiddenTruths> TruthsAsync(
        ToughStartContext db,
        Book book,
        Visit v,
        IReadOnlyDictionary<string, string> staff,
        CancellationToken stop
    )
    {
        var ids = await db.Products.AsNoTracking().ToDictionaryAsync(p => p.Name, p => p.Id.ToString(), stop);
        var bottles = book.Weak.Concat(book.Strong).Where(b => ids.ContainsKey(b.Key)).ToDictionary(b => ids[b.Key], b => b.Value);
        if (v.Number < First + book.Aged.Until && ids.TryGetValue(book.Aged.Product, out var aged))
        {
            bottles[aged] = book.Aged.Factor;
        }

        return new(
            bottles,
            book.Paces.SelectMany(p => p.Value.Select(s => (Key: (staff[p.Key], Stage.Of(s.Key)), s.Value)))
                .ToDictionary(p => p.Key, p => p.Value)
        );
    }

    private static async Task WriteAsync(
        ToughStartContext db,
        Visit v,
        Guid id,
        Survey survey,
        Survey equipped,
        Plan plan,
        string who,
        DateTimeOffset at,
        CancellationToken stop
    )
    {
        var vehicle = await db.Vehicles.FirstOrDefaultAsync(x => x.PlateKey == ClientVehicle.KeyOf(v.Of.Plate), stop);
        if (vehicle is null)
        {
            var client = await db.Clients.FirstOrDefaultAsync(c => c.Name == v.Of.Client, stop)
                ?? db.Clients.Add(new Client { Name = v.Of.Client, Author = "demo" }).Entity;
            vehicle = db
                .Vehicles.Add(
                    new ClientVehicle
                    {
                        ClientId = client.Id,
                        Name = v.Of.Vehicle,
                        Plate = v.Of.Plate,
                        Author = "demo",
                    }
                )
                .Entity;
        }

        db.Jobs.Add(
            new Job
            {
                Id = id,
                VehicleId = vehicle.Id,
                Number = v.Number,
                Station = "closed",
                Day = v.Day,
                Story = v.Turn == 0 ? "Comes for the first time." : "Comes again.",
                Author = "demo",
                SurveyRevision = 1,
                PlanRevision = 1,
            }
        );
        db.Surveys.Add(
            new SurveyDocument
            {
                JobId = id,
                Revision = 1,
                Body = Encoding.UTF8.GetString(SurveyFormat.Write(survey)),
                Author = who,
                At = at,
            }
        );
        db.Plans.Add(
            new PlanDocument
            {
                JobId = id,
                Revision = 1,
                SurveyRevision = 1,
                Events = 0,
                SurveyHash = plan.SurveyHash,
                Body = Encoding.UTF8.GetString(PlanFormat.Write(plan)),
                Survey = Encoding.UTF8.GetString(SurveyFormat.Write(equipped)),
                Author = who,
                At = at,
            }
        );
        await db.SaveChangesAsync(stop);
        db.ChangeTracker.Clear();
    }

    private static async Task CoatAsync(
        ToughStartContext db,
        Guid job,
        string kind,
        RunGround ground,
        string who,
        DateTimeOffset at,
        CancellationToken stop
    )
    {
        var protection = ground.Catalogue.Protections.First(p => p.Id == kind);
        string[] zones = [.. ground.States.Where(z => !z.LeftAlone && protection.Fits(z.Family, z.Surface.Matte)).Select(z => z.Zone.Id)];
        db.HandWork.AddRange(
            new HandWork
            {
                JobId = job,
                Act = nameof(Act.Wipe),
                Zones = zones,
                Author = who,
                At = at.AddMinutes(-8),
            },
            new HandWork
            {
                JobId = job,
                Act = nameof(Act.Protect),
                Kind = kind,
                Layers = 1,
                Zones = zones,
                Author = who,
                At = at.AddMinutes(-6),
            }
        );
        await db.SaveChangesAsync(stop);
        db.ChangeTracker.Clear();
    }
}

/// <summary>Works the demo's seasons behind the demo, so that it opens at once.</summary>
public sealed class DemoSeasonsLoader(IServiceProvider services, IConfiguration configuration, ILogger<DemoSeasonsLoader> log)
    : BackgroundService
{
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        await Task.Delay(TimeSpan.FromSeconds(2), stoppingToken);
        try
        {
            var made = await DemoSeasons.LoadAsync(services, configuration["TOUGHSTART_DEMO"] ?? "demo", stop: stoppingToken);
            if (made > 0)
            {
                log.LogInformation("Two seasons of work are in the logbook: {Visits} visits.", made);
            }
        }
        catch (Exception e) when (e is not OperationCanceledException)
        {
            // The demo works without its past.
            log.LogWarning(e, "The demo's seasons were not worked to their end.");
        }
    }
}
