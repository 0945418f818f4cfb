using System.Net;
using System.Text;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using ToughStart.Core.Formats;
using ToughStart.Data;
using ToughStart.Web.Demo;
using ToughStart.Web.Stations;

namespace ToughStart.Web.Tests;

/// <summary>The logbook and what is learnt of it, on a few visits that the demo's simulator worked.</summary>
[Collection("bay")]
public sealed class LogbookTests(AppFixture app)
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    private static string Demo => Environment.GetEnvironmentVariable("TOUGHSTART_DEMO")!;

    /// <summary>The oldest visits of the demo's seasons: eight, three vehicles of which come twice.</summary>
    private Task<int> Seasons() => DemoSeasons.LoadAsync(app.Services, Demo, 8, Stop);

    [Fact]
    public async Task Visits_are_found_by_everything_they_are_known_by_and_a_search_is_kept()
    {
        await Seasons();
        (await Seasons()).ShouldBe(0, "what is there is not worked again");
        await using var db = app.NewContext();
        var log = new LogbookStore(db, AppFixture.Clock);
        var all = (await log.FindAsync(new LogbookSearch(), Stop)).Where(l => l.Number < 100).ToArray();
        all.Length.ShouldBe(8);
        all.Select(l => l.Day).ShouldBe(all.Select(l => l.Day).OrderDescending());
        var one = all[0];
        async Task<IReadOnlyList<LogbookLine>> Find(LogbookSearch s) => [.. (await log.FindAsync(s, Stop)).Where(l => l.Number < 100)];
        (await Find(new(Find: one.Plate.ToLowerInvariant().Replace(" ", "-")))).ShouldAllBe(l => l.Plate == one.Plate);
        (await Find(new(Find: one.Client[..6]))).ShouldContain(l => l.Number == one.Number);
        (await Find(new(Find: one.Number.ToString()))).ShouldContain(l => l.Number == one.Number);
        (await Find(new(Goal: "wash"))).ShouldAllBe(l => l.Goal == "wash");
        (await Find(new(From: one.Day, To: one.Day))).ShouldAllBe(l => l.Day == one.Day);
        (await Find(new(Find: "no such thing"))).ShouldBeEmpty();
        (await Find(new(Find: "100%"))).ShouldBeEmpty("a sign is no pattern");
        var tam = await db.Users.SingleAsync(u => u.UserName == "tam", Stop);
        (await Find(new(Who: tam.StaffId))).Count.ShouldBe(8);
        (await Find(new(Find: "iron-remover"))).Count.ShouldBeGreaterThan(2, "a class of product is a word of it");
        var unmoved = await Find(new(Only: "unmoved"));
        unmoved.Count.ShouldBeGreaterThan(0);

        using var b = new Browser();
        b.Go(app.Address, "/logbook");
        b.One(".logbook-find input[name=find]").SendKeys(one.Plate);
        b.Press(b.One(".logbook-find button"));
        b.WaitReady();
        b.WaitFor(_ => b.All(".logbook-table tbody tr").Count is > 0 and < 8, "the search");
        b.One(".logbook-views input[name=name]").SendKeys("my search");
        b.Press(b.One(".logbook-views form button"));
        b.WaitReady();
        b.WaitFor(_ => b.Texts(".logbook-views a").Contains("my search"), "the search that is kept");
        b.Press(b.One(".logbook-table tbody td:nth-child(2) a"));
        b.WaitReady();
        b.WaitFor(_ => b.All("svg.years").Count == 1, "the vehicle");
        b.All(".visit").Count.ShouldBe(all.Count(l => l.Plate == one.Plate));
        b.ConsoleErrors().ShouldBeEmpty();

        using var http = await app.SignedInAsync("tam");
        foreach (
            var (bad, field) in new[] { ("from=yesterday", "from"), ("goal=fun", "goal"), ("who=nobody", "who"), ("only=odd", "only") }
        )
        {
            var answer = await http.GetAsync("/logbook?" + bad, Stop);
            answer.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
            (await answer.Content.ReadAsStringAsync(Stop)).ShouldContain(field + ":");
        }

        (await http.GetStringAsync("/logbook?handler=Table&find=" + Uri.EscapeDataString(one.Plate), Stop)).ShouldContain(one.Plate);
    }

    [Fact]
    public async Task A_log_goes_out_and_in_again_without_loss_and_a_bad_line_stops_no_other()
    {
        await Seasons();
        using var odile = await app.SignedInAsync("odile");
        using var tam = await app.SignedInAsync("tam");
        (await CloseTests.Post(tam, "/logbook", "Import")).At!.AbsolutePath.ShouldBe(
            "/error",
            "a log says who did what: owners take one in"
        );
        (await CloseTests.Post(odile, "/logbook", "Import")).Said.ShouldContain("file: choose a log");
        var lines = (await odile.GetStringAsync("/jobs/21/log.jsonl", Stop)).Split('\n', StringSplitOptions.RemoveEmptyEntries);
        lines[0].ShouldContain("\"toughstart.log/1\"");
        lines.Length.ShouldBeGreaterThan(20);
        await using var scope = app.Services.CreateAsyncScope();
        var files = scope.ServiceProvider.GetRequiredService<BookFiles>();
        // What is there already changes nothing.
        var again = await files.ImportAsync(string.Join('\n', lines), "test", Stop);
        (again.Taken, again.Known, again.Bad.Count, again.Refused).ShouldBe((0, lines.Length - 1, 0, null));

        // Into a job that has no log: every entry as it was, but for ids of its own.
        var number = await GateTests.Job(app, "touring-saloon", "protect", "Import Tester");
        var ids = new Dictionary<string, string>();
        var moved = lines
            .Skip(1)
            .Select(l =>
                System.Text.RegularExpressions.Regex.Replace(l, "^\\{\"id\":\"([^\"]+)\"", m =>
                    $"{{\"id\":\"{ids[m.Groups[1].Value] = Guid.CreateVersion7().ToString()}\""
                )
            )
            .ToList();
        var head = $"{{\"format\":\"toughstart.log/1\",\"job\":{number}}}";
        var spoilt = moved.ToList();
        spoilt.Insert(5, "{ not json");
        spoilt.Insert(9, "{\"id\":\"x\",\"device\":\"\",\"kind\":\"flown\"}");
        var report = await files.ImportAsync(head + "\n" + string.Join('\n', spoilt), "test", Stop);
        report.Taken.ShouldBe(moved.Count);
        report.Bad.Select(b => b.Line).ShouldBe([7, 11]);
        report.Bad[0].Why.ShouldContain("no JSON");
        report.Bad[1].Why.ShouldContain("kind");
        (await odile.GetStringAsync($"/jobs/{number}/log.jsonl", Stop))
            .Split('\n', StringSplitOptions.RemoveEmptyEntries)
            .Skip(1)
            .ShouldBe(moved);

        // The table brings the same in, and a gap is named.
        var table = await odile.GetStringAsync($"/jobs/{number}/log.csv", Stop);
        (await files.ImportAsync(table, "test", Stop)).Known.ShouldBe(moved.Count);
        var other = await GateTests.Job(app, "touring-saloon", "protect", "Gap Tester");
        var gap = await files.ImportAsync(
            $"{{\"format\":\"toughstart.log/1\",\"job\":{other}}}\n{moved[2].Replace("{\"id\":\"", "{\"id\":\"", StringComparison.Ordinal)}",
            "test",
            Stop
        );
        gap.Bad.Single().Why.ShouldContain("another job");
        (await files.ImportAsync("nonsense", "test", Stop)).Refused.ShouldNotBeNull();
        (await files.ImportAsync("{\"format\":\"toughstart.log/1\",\"job\":99999}\n", "test", Stop)).Refused!.ShouldContain("no job 99999");
        (await files.ImportAsync("{\"format\":\"toughstart.log/2\"}\n", "test", Stop)).Refused!.ShouldContain("format");
    }

    [Fact]
    public async Task A_vehicle_that_comes_again_begins_with_what_was_put_on_and_what_stayed()
    {
        await Seasons();
        await using var db = app.NewContext();
        var coated = await db.HandWork.Where(h => h.Kind == "sealant" || h.Kind == "ceramic").OrderBy(h => h.At).FirstAsync(Stop);
        var last = await db.Jobs.Include(j => j.Vehicle).SingleAsync(j => j.Id == coated.JobId, Stop);
        await using var scope = app.Services.CreateAsyncScope();
        var view = (await scope.ServiceProvider.GetRequiredService<JobStore>().JobAsync(last.Number, Stop))!;
        var back = await scope.ServiceProvider.GetRequiredService<ComesAgain>().StartAsync(view, Stop);
        var covers = coated.Kind == "sealant" ? "sealant" : "coating";
        back.Survey.ZoneOf(coated.Zones[0])!.Protection.ShouldBe(covers);
        back.Survey.Zones.SelectMany(z => z.Findings).ShouldAllBe(f => f.Certainty == Certainty.Suspected);
        back.Words.ShouldContain("Put on then");
        SurveyFormat.Read(SurveyFormat.Write(back.Survey)).Ok.ShouldBeTrue("it is a survey like any other");
        // It strips nothing unasked, and says so where it would.
        using var http = await app.SignedInAsync("tam");
        WebUtility
            .HtmlDecode(await http.GetStringAsync($"/jobs/new?plate={Uri.EscapeDataString(last.Vehicle!.Plate)}", Stop))
            .ShouldContain("Put on then");
    }

    [Fact]
    public async Task Vehicles_that_are_due_rise_in_the_yard_and_are_reminded()
    {
        await Seasons();
        await using var db = app.NewContext();
        var book = await db
            .Books.OrderBy(b => b.Day)
            .FirstAsync(
                b =>
                    !db.Jobs.Any(j => j.VehicleId == b.VehicleId && j.Station != "closed")
                    && db.Vehicles.Any(v => v.Id == b.VehicleId && v.Name != JobStore.Erased),
                Stop
            );
        await db
            .Books.Where(b => b.VehicleId == book.VehicleId)
            .ExecuteUpdateAsync(s => s.SetProperty(b => b.Due, TickingClock.Today.AddDays(-150)), Stop);
        var vehicle = await db.Vehicles.Include(v => v.Client).SingleAsync(v => v.Id == book.VehicleId, Stop);
        vehicle.Client!.Email = "due@example.org";
        await db.SaveChangesAsync(Stop);
        using var b = new Browser();
        b.Go(app.Address, "/");
        b.Press(b.One(".yard-due summary"));
        b.Texts(".dues li")[0].ShouldContain(vehicle.Name);
        b.Texts(".dues li")[0].ShouldContain("due since");
        b.Press(b.One(".dues form button"));
        b.WaitFor(_ => b.Driver.PageSource.Contains("reminded"), "the reminder");
        (await db.Letters.AsNoTracking().SingleAsync(l => l.To == "due@example.org", Stop)).Words.ShouldContain(vehicle.Plate);
    }

    [Fact]
    public async Task A_proposal_is_agreed_to_seen_in_the_next_plan_and_undone()
    {
        await Seasons();
        await using var db = app.NewContext();
        // A bottle of which three rounds are needed where two would do, in every job.
        var product = await db.Products.SingleAsync(p => p.Name == "Tern Wash", Stop);
        var jobs = await db.Books.OrderBy(x => x.Day).Select(x => x.JobId).Take(8).ToListAsync(Stop);
        var iron = await db.Products.SingleAsync(p => p.Agent == "iron-remover" && p.Name == "Fallout Wine", Stop);
        await db.LoopLessons.Where(l => l.ProductId == iron.Id).ExecuteDeleteAsync(Stop);
        db.LoopLessons.AddRange(
            jobs.SelectMany(j =>
                Enumerable
                    .Range(0, 6)
                    .Select(z => new LoopLesson
                    {
                        JobId = j,
                        ProductId = iron.Id,
                        Agent = iron.Agent,
                        Zone = $"zone-{z}",
                        Kind = "iron",
                        Need = 0.7,
                        PerRound = 0.45,
                        Rounds = 3,
                        Stopped = true,
                        Spread = 0.214,
                    })
            )
        );
        await db.SaveChangesAsync(Stop);

        using var tam = await app.SignedInAsync("tam");
        (await tam.GetStringAsync("/learning", Stop)).ShouldContain("An owner can agree");
        using var b = new Browser();
        b.Go(app.Address, "/learning", "odile");
        var lesson = b.All(".lesson.is-proposed").Single(l => l.Text.Contains("Fallout Wine"));
        lesson.Text.ShouldContain("from 8 jobs, 48 zones");
        b.Go(app.Address, $"/learning?effect={iron.Id}");
        b.Texts(".lesson-effect")[0].ShouldContain("becomes");
        b.Press(
            b.All(".lesson.is-proposed")
                .Single(l => l.Text.Contains("Fallout Wine"))
                .FindElement(OpenQA.Selenium.By.CssSelector(".primary-link"))
        );
        b.WaitFor(_ => b.Texts(".said").Any(t => t.Contains("Agreed")), "the agreement");
        var now = (await db.Products.AsNoTracking().SingleAsync(p => p.Id == iron.Id, Stop)).Efficacy;
        now.ShouldBeInRange(0.6, 0.9);

        b.Go(app.Address, "/jobs/104/plan");
        b.Texts(".plan-own")[0].ShouldContain("Fallout Wine works × ");

        b.Go(app.Address, "/learning");
        b.All(".lesson.is-proposed").ShouldNotContain(l => l.Text.Contains("Fallout Wine"), "it counts already");
        b.Press(b.One(".hand-log form button"));
        b.WaitFor(_ => b.Texts(".said").Any(t => t.Contains("Undone")), "the undoing");
        (await db.Products.AsNoTracking().SingleAsync(p => p.Id == iron.Id, Stop)).Efficacy.ShouldBe(1);
        var kept = await db.LearntFactors.AsNoTracking().SingleAsync(l => l.Subject == iron.Id.ToString(), Stop);
        kept.UndoneBy.ShouldNotBeNull("both stay on record");
        b.ConsoleErrors().ShouldBeEmpty();

        // Another batch: the owner says so, and it is learnt anew; nobody may where no drift is told.
        using var odile = await app.SignedInAsync("odile");
        (await CloseTests.Post(odile, "/learning", "Restart", ("product", iron.Id.ToString()), ("job", "21"))).Status.ShouldBe(
            HttpStatusCode.Conflict
        );
        var store = new LearningStore(db, AppFixture.Clock);
        var numbers = (await store.ProductsAsync(Stop)).Single(p => p.Id == iron.Id).Jobs.Select(j => j.Job).ToArray();
        db.LearntFactors.Add(
            new LearntFactor
            {
                Of = LearningStore.Restart,
                Subject = iron.Id.ToString(),
                Before = 1,
                Factor = 1,
                Low = 1,
                High = 1,
                Jobs = numbers[5],
                Zones = 0,
                Author = "test",
                At = AppFixture.Clock.GetUtcNow(),
            }
        );
        await db.SaveChangesAsync(Stop);
        (await store.ProductsAsync(Stop)).Single(p => p.Id == iron.Id).Jobs.Select(j => j.Job).ShouldBe(numbers[5..]);
        await db.LearntFactors.ExecuteDeleteAsync(Stop);
    }

    [Fact]
    public async Task An_erased_client_leaves_the_works_numbers_and_no_link()
    {
        await Seasons();
        await using var db = app.NewContext();
        var job = await db
            .Jobs.Include(j => j.Vehicle)
            .OrderBy(j => j.Number)
            .FirstAsync(j => j.Number < 100 && j.Station == "closed", Stop);
        var books = new BookStore(db, AppFixture.Clock);
        var token = (await books.ShareAsync(job.Id, "photos", 30, "test", stop: Stop))!;
        await books.PostAsync(
            new Letter
            {
                JobId = job.Id,
                To = "gone@example.org",
                Subject = "x",
                Words = "y",
                Author = "test",
                At = AppFixture.Clock.GetUtcNow(),
            },
            Stop
        );
        var before = await db.Books.AsNoTracking().SingleAsync(x => x.JobId == job.Id, Stop);
        var export = System.Text.Json.JsonSerializer.Serialize(
            await new RecordStore(db, AppFixture.Clock).ExportClientAsync(job.Vehicle!.ClientId, Stop)
        );
        export.ShouldContain("gone@example.org");
        (await new RecordStore(db, AppFixture.Clock).EraseClientAsync(job.Vehicle.ClientId, Stop)).ShouldBeTrue();
        (await books.OpenAsync(token, false, stop: Stop)).ShouldBeNull();
        (await db.Letters.AnyAsync(l => l.JobId == job.Id, Stop)).ShouldBeFalse();
        var after = await db.Books.AsNoTracking().SingleAsync(x => x.JobId == job.Id, Stop);
        (after.Minutes, after.Litres, after.Body).ShouldBe((before.Minutes, before.Litres, before.Body));
        (await db.LoopLessons.AnyAsync(l => l.JobId == job.Id, Stop)).ShouldBeTrue();
        after.Words.ShouldNotContain(job.Vehicle.Plate);
    }
}
