using System.Net;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using Npgsql;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Running;
using ToughStart.Core.Running.Live;
using ToughStart.Data;
using ToughStart.Web.Stations;
using static ToughStart.Web.Tests.RecordTests;

namespace ToughStart.Web.Tests;

/// <summary>Shelf, ledger, kit and mix log on a real database: what is booked, what is refused, what always balances.</summary>
[Collection("app")]
public sealed class ShelfTests(AppFixture app)
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    private static readonly TimeProvider Clock = AppFixture.Clock;

    /// <summary>A product of a class no demo plan uses, so that the tests do not disturb each other.</summary>
    private static ProductDraft Draft(string name, decimal? stock = 1000, string agent = "waterless") =>
        ProductDraft
            .Read(
                f =>
                    f switch
                    {
                        "name" => name,
                        "agent" => agent,
                        "pack_ml" => "1000",
                        "price" => "900",
                        "stock_ml" => stock?.ToString(System.Globalization.CultureInfo.InvariantCulture),
                        "data_sheet" => "2026-01-01",
                        _ => null,
                    },
                false
            )
            .Value!;

    private async Task<Guid> Put(string name, decimal? stock = 1000, string agent = "waterless")
    {
        await using var db = app.NewContext();
        var (id, refused) = await new ShelfStore(db, Clock).SaveAsync(null, 0, Draft(name, stock, agent), "test", Stop);
        refused.ShouldBeNull();
        return id;
    }

    private async Task Balances(Guid product, decimal stock)
    {
        await using var db = app.NewContext();
        (await db.Products.SingleAsync(p => p.Id == product, Stop)).StockMl.ShouldBe(stock);
        (await db.Moves.Where(m => m.ProductId == product).SumAsync(m => m.Ml, Stop)).ShouldBe(stock);
        var running = 0m;
        foreach (var m in await db.Moves.Where(m => m.ProductId == product).OrderBy(m => m.Sequence).ToListAsync(Stop))
        {
            running += m.Ml;
            m.BalanceMl.ShouldBe(running);
            running.ShouldBeGreaterThanOrEqualTo(0);
        }
    }

    [Fact]
    public async Task Of_eight_people_who_take_the_last_litre_at_once_only_as_many_get_it_as_there_is()
    {
        var id = await Put("Last Litre");
        var results = await Task.WhenAll(
            Enumerable
                .Range(0, 8)
                .Select(async i =>
                {
                    await using var db = app.NewContext();
                    return await new ShelfStore(db, Clock).MoveAsync(id, "use", 300, null, "person " + i, stop: Stop);
                })
        );
        results.Count(r => r.Done).ShouldBe(3);
        results.Where(r => !r.Done).ShouldAllBe(r => r.Refused!.Contains("only 100 ml are left") && r.Refused.Contains("took 300 ml"));
        await Balances(id, 100);
    }

    [Fact]
    public async Task The_ledger_receives_uses_wastes_and_counts_and_is_never_rewritten()
    {
        var id = await Put("Ledger");
        await using var db = app.NewContext();
        var shelf = new ShelfStore(db, Clock);
        (await shelf.MoveAsync(id, "use", 250.5m, null, "a", stop: Stop)).StockMl.ShouldBe(749.5m);
        (await shelf.MoveAsync(id, "waste", 49.5m, "knocked over", "a", stop: Stop)).StockMl.ShouldBe(700);
        (await shelf.MoveAsync(id, "count", 640, null, "a", stop: Stop)).StockMl.ShouldBe(640);
        (await shelf.MoveAsync(id, "receive", 5000, null, "a", stop: Stop)).StockMl.ShouldBe(5640);
        foreach (var (kind, ml) in new[] { ("use", -5m), ("use", 0m), ("count", -1m), ("waste", 9999m), ("borrow", 1m) })
        {
            (await shelf.MoveAsync(id, kind, ml, null, "a", stop: Stop)).ShouldSatisfyAllConditions(
                r => r.Done.ShouldBeFalse(),
                r => r.Refused.ShouldNotBeNullOrEmpty()
            );
        }

        await Balances(id, 5640);
        (
            await Should.ThrowAsync<PostgresException>(() => db.Moves.Where(m => m.ProductId == id).ExecuteDeleteAsync(Stop))
        ).MessageText.ShouldContain("append-only");
        (
            await Should.ThrowAsync<PostgresException>(() =>
                db.Products.Where(p => p.Id == id).ExecuteUpdateAsync(s => s.SetProperty(p => p.StockMl, -1), Stop)
            )
        ).ConstraintName.ShouldBe("ck_products_stock");
    }

    [Fact]
    public async Task Two_people_on_one_label_hear_of_it_and_names_are_unique()
    {
        var id = await Put("Contested");
        using var tam = await app.SignedInAsync("tam");
        var form = Fields(await tam.GetStringAsync($"/shelf/{id}?edit=true", Stop));
        form["least_ml"] = "300";
        (await tam.PostAsync($"/shelf/{id}", new FormUrlEncodedContent(form), Stop)).StatusCode.ShouldBe(HttpStatusCode.OK);
        form["least_ml"] = "500";
        var late = await tam.PostAsync($"/shelf/{id}", new FormUrlEncodedContent(form), Stop);
        late.StatusCode.ShouldBe(HttpStatusCode.Conflict);
        var page = Html(await late.Content.ReadAsStringAsync(Stop));
        page.QuerySelector("[role=alert]")!.TextContent.ShouldContain("meanwhile");
        page.QuerySelector("input[name=least_ml]")!.GetAttribute("value").ShouldBe("500", "what was typed is kept");
        await using var db = app.NewContext();
        (await db.Products.SingleAsync(p => p.Id == id, Stop)).LeastMl.ShouldBe(300);
        (await new ShelfStore(db, Clock).SaveAsync(null, 0, Draft("CONTESTED"), "test", Stop)).Refused!.ShouldContain(
            "on the shelf already"
        );
    }

    [Theory]
    [InlineData("name", "=HYPERLINK(1)", "formula")]
    [InlineData("name", "", "missing")]
    [InlineData("low", "2 oz per gal", "imperial")]
    [InlineData("reference", "120 %", "percentage")]
    [InlineData("neat_ph", "15", "0 to 14")]
    [InlineData("pack_ml", "0", "pack")]
    [InlineData("price", "1.234,50", "comma")]
    [InlineData("expiry", "31/12/2027", "2027-03-31")]
    [InlineData("agent", "snake-oil", "not known")]
    [InlineData("data_sheet", "maybe", "date")]
    public async Task Bad_labels_name_the_field_and_keep_what_was_typed(string field, string value, string says)
    {
        using var tam = await app.SignedInAsync("tam");
        var form = Fields(await tam.GetStringAsync("/shelf/new", Stop));
        (form["name"], form["agent"]) = ("Never Saved", "waterless");
        form[field] = value;
        var answer = await tam.PostAsync("/shelf/new", new FormUrlEncodedContent(form), Stop);
        answer.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        var page = Html(await answer.Content.ReadAsStringAsync(Stop));
        page.QuerySelector("[role=alert]")!
            .TextContent.ShouldSatisfyAllConditions(t => t.ShouldContain(field.Split('_')[0]), t => t.ShouldContain(says));
        if (field != "agent")
        {
            page.QuerySelector($"[name={field}]")!.GetAttribute("value").ShouldBe(value);
        }
    }

    [Fact]
    public async Task A_file_with_a_mark_semicolons_and_decimal_commas_reads_and_every_bad_row_is_named()
    {
        var id = await Put("From File");
        const string file =
            "\uFEFFname;agent;low;dwell_min;price;pack_ml;stock_ml;hazards\r\n"
            + "From File;waterless;;1,5;9,80;1000;1250;H319\r\n"
            + "Fresh From File;chain-cleaner;neat;3;7,5;500;400;\r\n"
            + "=cmd|calc;waterless;;;;;;\r\n"
            + "Odd Class;perfume;;;;;;\r\n"
            + "Bad Strength;apc;1:0.0.1;;;;;\r\n"
            + "Negative;apc;;;;1000;-5;\r\n"
            + "Fresh From File;apc;;;;;;\r\n"
            + "Short row;apc;1:9\r\n"
            + "Bad hazard;apc;;;;;;H999\r\n"
            + "\r\n";
        using var tam = await app.SignedInAsync("tam");
        var answer = await SendFile(tam, "/shelf/import", "shelf.csv", Encoding.UTF8.GetBytes(file), []);
        answer.StatusCode.ShouldBe(HttpStatusCode.OK);
        var page = Html(await answer.Content.ReadAsStringAsync(Stop));
        page.QuerySelectorAll("[data-bad]").Select(e => e.GetAttribute("data-bad")).ShouldBe(["4", "5", "6", "7", "8", "9", "10"]);
        page.QuerySelector("[data-bad='4']")!.TextContent.ShouldContain("formula");
        page.QuerySelector("[data-bad='5']")!.TextContent.ShouldContain("perfume");
        page.QuerySelector("[data-bad='7']")!.TextContent.ShouldContain("stock_ml");
        page.QuerySelector("[data-bad='8']")!.TextContent.ShouldContain("twice");
        page.QuerySelector("[data-bad='9']")!.TextContent.ShouldContain("cells");
        page.QuerySelector(".changes")!
            .TextContent.ShouldSatisfyAllConditions(
                t => t.ShouldContain("9.8"),
                t => t.ShouldContain("1250"),
                t => t.ShouldContain("Fresh From File")
            );
        await Balances(id, 1000);

        var form = Fields(page.DocumentElement.OuterHtml, "form[action*='Apply']");
        form["sent"] = page.QuerySelector("textarea[name=sent]")!.TextContent;
        var applied = Html(
            await (await tam.PostAsync("/shelf/import?handler=Apply", new FormUrlEncodedContent(form), Stop)).Content.ReadAsStringAsync(
                Stop
            )
        );
        applied.QuerySelector(".said")!.TextContent.ShouldContain("1 added, 1 changed");
        await Balances(id, 1250);
        await using var db = app.NewContext();
        (await db.Products.SingleAsync(p => p.Name == "From File", Stop)).ShouldSatisfyAllConditions(
            p => p.Price.ShouldBe(9.8m),
            p => p.DwellMinutes.ShouldBe(1.5),
            p => p.Hazards.ShouldBe(["H319"]),
            p => p.SheetOn.ShouldNotBeNull("a field that is not in the file stays")
        );
        (await db.Products.AnyAsync(p => p.Name == "Negative", Stop)).ShouldBeFalse();
    }

    [Theory]
    [InlineData("", "CSV")]
    [InlineData("name;agent", "no rows")]
    [InlineData("name;colour\na;b", "colour")]
    [InlineData("colour,price\n1,2", "colour")]
    [InlineData("agent;price\napc;2", "name and agent")]
    [InlineData("name;agent;name\na;apc;b", "twice")]
    public async Task Files_that_cannot_be_read_say_why(string file, string says)
    {
        using var tam = await app.SignedInAsync("tam");
        var answer = await SendFile(tam, "/shelf/import", "shelf.csv", Encoding.UTF8.GetBytes(file), []);
        answer.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        Html(await answer.Content.ReadAsStringAsync(Stop)).QuerySelector("[role=alert]")!.TextContent.ShouldContain(says);
        (await SendFile(tam, "/shelf/import", "shelf.csv", [0xFF, 0xFE, 0x41, 0x00, 0x80], [])).StatusCode.ShouldBe(
            HttpStatusCode.UnprocessableEntity
        );
    }

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public async Task The_shelf_leaves_and_comes_back_the_same_and_disarmed(bool semicolon)
    {
        var name = "Comes Back " + semicolon;
        await Put(name);
        await using (var db = app.NewContext())
        {
            // A name that slipped in before names were checked.
            await db.Products.Where(p => p.Name == name).ExecuteUpdateAsync(s => s.SetProperty(p => p.Batch, "+1 cmd"), Stop);
        }

        using var tam = await app.SignedInAsync("tam");
        var text = Encoding.UTF8.GetString(await tam.GetByteArrayAsync($"/shelf?handler=Export&semicolon={semicolon}", Stop));
        text.ShouldContain("'+1 cmd");
        await using var fresh = app.NewContext();
        await fresh.Products.Where(p => p.Name == name).ExecuteUpdateAsync(s => s.SetProperty(p => p.Batch, (string?)null), Stop);
        text = text.Replace("'+1 cmd", "");
        var preview = await new ShelfCsv(fresh, new ShelfStore(fresh, Clock)).PreviewAsync(text, Stop);
        preview.Refused.ShouldBeNull();
        preview.Rows.ShouldAllBe(
            r => r.Does == "same",
            string.Join(
                "; ",
                preview
                    .Rows.Where(r => r.Does != "same")
                    .SelectMany(r => r.Problems.Select(p => p.ToString()).Concat(r.Changes.Select(c => $"{r.Name} {c}")))
            )
        );
        preview.Rows.Count.ShouldBeGreaterThan(20);
    }

    [Fact]
    public async Task A_plan_puts_product_by_and_closing_the_job_takes_it_once()
    {
        var (number, job) = await Job();
        using var tam = await app.SignedInAsync("tam");
        await using var db = app.NewContext();
        var shelf = new ShelfStore(db, Clock);
        // Looking puts nothing by, putting the plan in force does.
        (await tam.GetAsync("/", Stop)).EnsureSuccessStatusCode();
        (await tam.GetAsync($"/jobs/{number}/plan", Stop)).EnsureSuccessStatusCode();
        (await db.Reservations.AnyAsync(r => r.JobId == job, Stop)).ShouldBeFalse();
        (await RunTests.TakeAsync(tam, number)).EnsureSuccessStatusCode();
        var reserved = await db.Reservations.Where(r => r.JobId == job).ToListAsync(Stop);
        reserved.ShouldNotBeEmpty();
        reserved.ShouldAllBe(r => r.Ml > 0);
        var before = await db.Products.AsNoTracking().ToDictionaryAsync(p => p.Id, p => p.StockMl, Stop);
        (await tam.GetStringAsync("/shelf", Stop)).ShouldContain("put by");

        // One product short: nothing at all is booked.
        var too = reserved.Select(r => (r.ProductId, r.Ml)).Append((reserved[0].ProductId, before[reserved[0].ProductId])).ToArray();
        (await shelf.CloseAsync(job, too, "test", Stop))!.ShouldContain("are left of it");
        (await db.Products.AsNoTracking().ToDictionaryAsync(p => p.Id, p => p.StockMl, Stop)).ShouldBe(before, ignoreOrder: true);

        var page = Html(await tam.GetStringAsync($"/jobs/{number}/close", Stop));
        page.QuerySelectorAll(".close-table tbody tr").Length.ShouldBe(reserved.Count);
        var form = Fields(page.DocumentElement.OuterHtml, "form:has(.close-table)");
        form["sure"] = "true";
        var key = form.Keys.First(k => k.StartsWith("used-", StringComparison.Ordinal));
        var bad = new Dictionary<string, string>(form) { [key] = "a lot" };
        (await tam.PostAsync($"/jobs/{number}/close", new FormUrlEncodedContent(bad), Stop)).StatusCode.ShouldBe(
            HttpStatusCode.UnprocessableEntity
        );
        (await tam.PostAsync($"/jobs/{number}/close", new FormUrlEncodedContent(form), Stop)).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await tam.PostAsync($"/jobs/{number}/close", new FormUrlEncodedContent(form), Stop)).StatusCode.ShouldBe(HttpStatusCode.Conflict);
        await using var after = app.NewContext();
        (await after.Reservations.AnyAsync(r => r.JobId == job, Stop)).ShouldBeFalse();
        foreach (var r in reserved)
        {
            await Balances(r.ProductId, before[r.ProductId] - Math.Round(r.Ml));
        }

        // A late result does not open the job again.
        await new RunStore(after, new ShelfStore(after, Clock), Clock).AppendAsync(
            job,
            [
                LiveHearsay.Entry(
                    new Observation(
                        Guid.CreateVersion7(),
                        Guid.CreateVersion7(),
                        "tyres/tyre-brush/1",
                        ["left-front-tyre"],
                        1,
                        "foam",
                        "tan",
                        null
                    ),
                    "tyre-brush",
                    "test",
                    0
                ),
            ],
            Stop
        );
        (await after.Jobs.AsNoTracking().SingleAsync(j => j.Id == job, Stop)).Station.ShouldBe("closed");

        // Opening a closed job's plan puts nothing by again.
        (await tam.GetAsync($"/jobs/{number}/plan", Stop)).EnsureSuccessStatusCode();
        (await after.Reservations.AnyAsync(r => r.JobId == job, Stop)).ShouldBeFalse();
    }

    [Fact]
    public async Task What_stands_mixed_and_is_enough_is_not_mixed_again()
    {
        await using var db = app.NewContext();
        var shelf = new ShelfStore(db, Clock);
        var kit = new KitStore(db, shelf, AppFixture.Shop);
        using var tam = await app.SignedInAsync("tam");
        async Task<string[]> Mixes() =>
            [
                .. Html(await tam.GetStringAsync("/jobs/110/mix", Stop))
                    .QuerySelectorAll("article.bottle:not(.rinse-bucket)")
                    .Where(a => a.QuerySelector(".mixing-vessel, svg") is not null)
                    .Select(a => a.QuerySelector("h2")!.TextContent.Trim()),
            ];
        var before = await Mixes();
        var wanted = before.First(m => m.StartsWith("Gannet Traffic", StringComparison.Ordinal));
        var strength = Dilution.ParseStrength(wanted["Gannet Traffic ".Length..]);
        var product = await db.Products.SingleAsync(p => p.Name == "Gannet Traffic", Stop);
        var mix = Dilution.ForTotal(strength, 3000);
        var (record, _, refused) = await kit.MixAsync(
            new MixOrder(product.Id, await Bottle("Ready sprayer", 5000), (decimal)mix.ProductMl, (decimal)mix.WaterMl, null, false, true),
            "test",
            Stop
        );
        refused.ShouldBeNull();
        try
        {
            var page = Html(await tam.GetStringAsync("/jobs/110/mix", Stop));
            page.QuerySelectorAll(".leftover")
                .Select(l => l.Flat())
                .ShouldContain(t => t.Contains("Nothing to mix: 3000 ml stand ready in Ready sprayer", StringComparison.Ordinal));
            (await Mixes()).ShouldBe(before.Except([wanted]));
            page.QuerySelector(".views [aria-current] b")!
                .TextContent.ShouldBe(
                    (before.Length - 1).ToString(System.Globalization.CultureInfo.InvariantCulture),
                    "it is not counted among those to mix"
                );
        }
        finally
        {
            var version = (await kit.MixesAsync(true, 200, Stop)).Single(m => m.Number == record!.Number).Version;
            (await kit.LeftAsync(record!.Id, version, 0, "empty", Stop)).ShouldBeTrue();
        }
    }

    [Fact]
    public async Task Bottles_counted_for_a_job_leave_out_what_others_put_by_and_keep_what_it_drew()
    {
        await using var db = app.NewContext();
        var shelf = new ShelfStore(db, Clock);
        var kit = new KitStore(db, shelf, AppFixture.Shop);
        var product = await db.Products.SingleAsync(p => p.Name == "Sprocket Clean", Stop);
        var (mine, other) = (
            (await db.Jobs.SingleAsync(j => j.Number == 104, Stop)).Id,
            (await db.Jobs.SingleAsync(j => j.Number == 107, Stop)).Id
        );
        async Task<double> Counted() =>
            (await shelf.BottlesAsync(LanceDraw.Uncalibrated, mine, Stop))!.Single(b => b.Name == "Sprocket Clean").StockMl!.Value;
        (await shelf.BottlesAsync(LanceDraw.Uncalibrated, stop: Stop))!
            .Single(b => b.Name == "Sprocket Clean")
            .StockMl.ShouldBeNull("a plan that may buy does not turn over with every spray");
        var before = await Counted();
        db.Reservations.AddRange(
            new StockReservation
            {
                JobId = other,
                ProductId = product.Id,
                Ml = 70,
            },
            new StockReservation
            {
                JobId = mine,
                ProductId = product.Id,
                Ml = 40,
            }
        );
        await db.SaveChangesAsync(Stop);
        try
        {
            (await Counted()).ShouldBe(before - 70, 1e-9);

            // Neat into a trigger for this job: it counts with the kit, once. At work already: it has been this job's.
            (
                await kit.MixAsync(new MixOrder(product.Id, await Bottle("Chain trigger", 500), 30, 0, mine, false, true), "test", Stop)
            ).Refused.ShouldBeNull();
            var trigger = (await kit.LeftoversAsync(Stop)).Single(l => l.Agent == "chain-cleaner");
            (trigger.Ml + await Counted()).ShouldBe(before - 70, 1e-9);
            (await shelf.MoveAsync(product.Id, "use", 20, null, "test", mine, stop: Stop)).Done.ShouldBeTrue();
            (trigger.Ml + await Counted()).ShouldBe(before - 70, 1e-9);
            (await shelf.MoveAsync(product.Id, "waste", 20, "spilt", "test", null, stop: Stop)).Done.ShouldBeTrue();
            (trigger.Ml + await Counted()).ShouldBe(before - 90, 1e-9);
            await db
                .Reservations.Where(r => r.JobId == other && r.ProductId == product.Id)
                .ExecuteUpdateAsync(s => s.SetProperty(r => r.Ml, 90_000), Stop);
            (await Counted()).ShouldBeInRange(1e-6, 1, "it stands there, but is spoken for");
        }
        finally
        {
            await db.Reservations.Where(r => r.ProductId == product.Id).ExecuteDeleteAsync(Stop);
        }
    }

    /// <summary>Plans are made with a shelf that is kept in memory: whatever they depend on must say that it has changed.</summary>
    [Fact]
    public async Task The_shelf_says_when_it_has_changed_and_keeps_quiet_over_a_pour()
    {
        await using var db = app.NewContext();
        var shelf = new ShelfStore(db, Clock);
        var some = await db.Products.AsNoTracking().FirstAsync(p => !p.Retired && p.StockMl > 100, Stop);
        var one = db.Products.Where(p => p.Id == some.Id);
        var kit = new KitStore(db, shelf, AppFixture.Shop);
        var before = (await kit.InUseAsync(Stop)).ShelfVersion;
        async Task Changes(string what, bool seen, Func<Task> change)
        {
            await change();
            var now = (await kit.InUseAsync(Stop)).ShelfVersion;
            (now > before).ShouldBe(seen, what);
            before = now;
        }

        await Changes("a pour", false, () => one.ExecuteUpdateAsync(s => s.SetProperty(p => p.StockMl, p => p.StockMl - 50), Stop));
        await Changes("run out", true, () => one.ExecuteUpdateAsync(s => s.SetProperty(p => p.StockMl, 0), Stop));
        await Changes("there again", true, () => one.ExecuteUpdateAsync(s => s.SetProperty(p => p.StockMl, some.StockMl), Stop));
        await Changes("its label", true, () => one.ExecuteUpdateAsync(s => s.SetProperty(p => p.WorkingPh, 6.5), Stop));
        await Changes("the same again", false, () => one.ExecuteUpdateAsync(s => s.SetProperty(p => p.WorkingPh, 6.5), Stop));
        await Changes("its label back", true, () => one.ExecuteUpdateAsync(s => s.SetProperty(p => p.WorkingPh, some.WorkingPh), Stop));
        await Changes("retired", true, () => one.ExecuteUpdateAsync(s => s.SetProperty(p => p.Retired, true), Stop));
        await Changes("back", true, () => one.ExecuteUpdateAsync(s => s.SetProperty(p => p.Retired, false), Stop));

        // Undone with its transaction, and counted once for all that one transaction changes.
        await using (var tx = await db.Database.BeginTransactionAsync(Stop))
        {
            await db.Products.ExecuteUpdateAsync(s => s.SetProperty(p => p.LeastMl, p => p.LeastMl + 1), Stop);
            await tx.RollbackAsync(Stop);
        }

        (await kit.InUseAsync(Stop)).ShelfVersion.ShouldBe(before);
        var read = 0;
        var plans = new PlanCache(new Computing());
        Task<IReadOnlyList<ShelfBottle>> Read()
        {
            read++;
            return Task.FromResult<IReadOnlyList<ShelfBottle>>([]);
        }

        await plans.ShelfAsync(1, LanceDraw.Uncalibrated, Read);
        await plans.ShelfAsync(1, LanceDraw.Uncalibrated, Read);
        read.ShouldBe(1);
        await plans.ShelfAsync(2, LanceDraw.Uncalibrated, Read);
        await plans.ShelfAsync(2, LanceDraw.Uncalibrated with { Ratio = 0.1, Trials = 3 }, Read);
        read.ShouldBe(3, "another shelf, another lance");
    }

    [Fact]
    public async Task A_mix_is_written_down_drawn_from_the_shelf_and_offered_to_the_next_plan()
    {
        await using var db = app.NewContext();
        var shelf = new ShelfStore(db, Clock);
        var kit = new KitStore(db, shelf, AppFixture.Shop);
        var bottle = await Bottle("Log bottle", 1000);
        var product = await db.Products.SingleAsync(p => p.Name == "Saltmarsh Citrus", Stop);
        var survey = (await new JobStore(db, Clock).JobAsync(104, Stop))!.Survey;
        var step = Planner
            .Plan(await new Workshop(new PlanCache(new Computing()), shelf, kit).EquipAsync(survey, Guid.Empty, stop: Stop))
            .Steps.First(s => s.Agent == "citrus-prewash");
        var mix = Dilution.ForTotal(step.Strength, 700);
        var (record, warning, refused) = await kit.MixAsync(
            new MixOrder(product.Id, bottle, (decimal)mix.ProductMl, (decimal)mix.WaterMl, null, false, false),
            "test",
            Stop
        );
        refused.ShouldBeNull();
        warning.ShouldBeNull();
        await Balances(product.Id, product.StockMl - record!.ProductMl);
        record.DiscardBy.ShouldBe(TickingClock.Today.AddDays(30));

        var with = Planner.Plan(await new Workshop(new PlanCache(new Computing()), shelf, kit).EquipAsync(survey, Guid.Empty, stop: Stop));
        with.Steps.First(s => s.Agent == "citrus-prewash" && s.Strength == step.Strength).Mix!.Leftover!.Bottle.ShouldBe("Log bottle");
        using var tam = await app.SignedInAsync("tam");
        Html(await tam.GetStringAsync("/jobs/104/mix", Stop))
            .QuerySelectorAll(".leftover")
            .Select(e => e.TextContent)
            .ShouldContain(t => t.Contains("Log bottle", StringComparison.Ordinal));

        // The bottle is in use: other mixes are refused until it is emptied, and iron remover after acid until it is rinsed.
        var acid = await db.Products.SingleAsync(p => p.Name == "Barnacle Spot", Stop);
        var iron = await db.Products.SingleAsync(p => p.Name == "Fallout Wine", Stop);
        (await kit.MixAsync(new MixOrder(acid.Id, bottle, 50, 0, null, false, false), "test", Stop)).Refused!.ShouldContain("still in it");
        (await kit.MixAsync(new MixOrder(product.Id, bottle, 50, 0, null, false, false), "test", Stop)).Refused!.ShouldContain(
            "still holds"
        );
        (await kit.MixAsync(new MixOrder(acid.Id, bottle, 50, 0, null, true, true), "test", Stop)).Refused.ShouldBeNull();
        (await kit.MixAsync(new MixOrder(iron.Id, bottle, 50, 0, null, false, false), "test", Stop)).Refused!.ShouldContain(
            "hydrogen sulphide"
        );
        (await kit.MixAsync(new MixOrder(iron.Id, bottle, 50, 0, null, false, true), "test", Stop)).Refused!.ShouldContain("three times");
        var swapped = await kit.MixAsync(new MixOrder(iron.Id, bottle, 50, 0, null, true, true), "test", Stop);
        swapped.Warning!.ShouldContain("own bottle");
        var stockBefore = (await db.Products.AsNoTracking().SingleAsync(p => p.Id == iron.Id, Stop)).StockMl;
        (await kit.MixAsync(new MixOrder(iron.Id, bottle, 900, 200, null, true, true), "test", Stop)).Refused!.ShouldContain(
            "holds 1000 ml"
        );
        var blocked = await db.Products.SingleAsync(p => p.Name == "Rimfrost Wheel", Stop);
        (await kit.MixAsync(new MixOrder(blocked.Id, bottle, 10, 90, null, true, true), "test", Stop)).Refused!.ShouldContain("fluoride");
        await Balances(iron.Id, stockBefore);

        // Labels carry what the law of the shop asks, and a code that can be followed.
        var label = Html(await tam.GetStringAsync($"/bottles/labels?n={swapped.Mix!.Number}", Stop)).QuerySelector(".label-card")!;
        label
            .Flat()
            .ShouldSatisfyAllConditions(
                t => t.ShouldContain("Fallout Wine"),
                t => t.ShouldContain("neat"),
                t => t.ShouldContain("H317"),
                t => t.ShouldContain("discard by"),
                t => t.ShouldContain("by test"),
                t => t.ShouldContain("Never with")
            );
        label.QuerySelectorAll("svg").Length.ShouldBeGreaterThanOrEqualTo(2);
        (await tam.GetAsync($"/bottles?handler=One&number={swapped.Mix.Number}", Stop)).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await tam.GetAsync("/bottles?handler=One&number=99999", Stop)).StatusCode.ShouldBe(HttpStatusCode.NotFound);

        var form = Fields(await tam.GetStringAsync("/bottles", Stop), $"#mix-{swapped.Mix.Number} form");
        form["left"] = "5000";
        form["state"] = "in-use";
        (await tam.PostAsync("/bottles", new FormUrlEncodedContent(form), Stop)).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        form["state"] = "discarded";
        (await tam.PostAsync("/bottles", new FormUrlEncodedContent(form), Stop)).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await tam.PostAsync("/bottles", new FormUrlEncodedContent(form), Stop)).StatusCode.ShouldBe(HttpStatusCode.Conflict);
    }

    [Fact]
    public async Task Kit_is_kept_with_its_numbers_and_bad_ones_are_named()
    {
        using var tam = await app.SignedInAsync("tam");
        var form = Fields(await tam.GetStringAsync("/kit", Stop), ".kit-form");
        (form["Kind"], form["Name"], form["Ml"]) = ("lance", "Odd lance", "");
        Html(await (await tam.PostAsync("/kit", new FormUrlEncodedContent(form), Stop)).Content.ReadAsStringAsync(Stop))
            .QuerySelector("[role=alert]")!
            .TextContent.ShouldContain("holds");
        form["Ml"] = "1000";
        (await tam.PostAsync("/kit", new FormUrlEncodedContent(form), Stop)).StatusCode.ShouldBe(HttpStatusCode.OK);
        Html(await (await tam.PostAsync("/kit", new FormUrlEncodedContent(form), Stop)).Content.ReadAsStringAsync(Stop))
            .QuerySelector("[role=alert]")!
            .TextContent.ShouldContain("already");
        await using var db = app.NewContext();
        var lance = await db.Kit.SingleAsync(k => k.Name == "Odd lance", Stop);
        var time = Fields(await tam.GetStringAsync($"/kit/{lance.Id}", Stop), "form[action*='Time']");
        (time["ml"], time["seconds"], time["flow"]) = ("1200", "100", "7,5");
        Html(
                await (
                    await tam.PostAsync($"/kit/{lance.Id}?handler=Time", new FormUrlEncodedContent(time), Stop)
                ).Content.ReadAsStringAsync(Stop)
            )
            .QuerySelector("[role=alert]")!
            .TextContent.ShouldContain("holds 1000");
        time["ml"] = "900";
        time["seconds"] = "soon";
        Html(
                await (
                    await tam.PostAsync($"/kit/{lance.Id}?handler=Time", new FormUrlEncodedContent(time), Stop)
                ).Content.ReadAsStringAsync(Stop)
            )
            .QuerySelector("[role=alert]")!
            .TextContent.ShouldContain("seconds");
        time["seconds"] = "90";
        var page = Html(
            await (await tam.PostAsync($"/kit/{lance.Id}?handler=Time", new FormUrlEncodedContent(time), Stop)).Content.ReadAsStringAsync(
                Stop
            )
        );
        page.QuerySelector(".draw-big")!.TextContent.ShouldContain("7.4", customMessage: "900 ml in 90 s is 0.6 l/min, of 8.1 l/min");
        var calibration = await db.Calibrations.SingleAsync(c => c.KitItemId == lance.Id, Stop);
        await new KitStore(db, new ShelfStore(db, Clock), AppFixture.Shop).StrikeAsync(lance.Id, calibration.Id, Stop);
        Html(await tam.GetStringAsync($"/kit/{lance.Id}", Stop)).QuerySelector(".draw-big")!.TextContent.ShouldContain("10.0");
    }

    [Fact]
    public async Task A_data_sheet_is_kept_as_a_pdf_and_what_is_none_is_refused()
    {
        var id = await Put("With Sheet");
        using var tam = await app.SignedInAsync("tam");
        foreach (
            var (bytes, on, says) in new[]
            {
                ("<html>", "2026-01-31", "not a PDF"),
                ("", "2026-01-31", "PDF"),
                ("%PDF-1.7 x", "2099-01-01", "future"),
                ("%PDF-1.7 x", "", "date"),
            }
        )
        {
            var bad = await SendFile(tam, $"/shelf/{id}?handler=Sheet", "x.pdf", Encoding.UTF8.GetBytes(bytes), new() { ["on"] = on });
            bad.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
            Html(await bad.Content.ReadAsStringAsync(Stop)).QuerySelector("[role=alert]")!.TextContent.ShouldContain(says);
        }

        (
            await SendFile(
                tam,
                $"/shelf/{id}?handler=Sheet",
                "x.pdf",
                Encoding.UTF8.GetBytes("%PDF-1.7 hello"),
                new() { ["on"] = "2026-05-01" }
            )
        ).StatusCode.ShouldBe(HttpStatusCode.OK);
        var sheet = await tam.GetAsync($"/shelf/{id}?handler=Sheet", Stop);
        (sheet.Content.Headers.ContentType!.MediaType, sheet.Content.Headers.ContentDisposition!.FileName).ShouldBe(
            ("application/pdf", "with-sheet-sds.pdf")
        );
        (await tam.GetStringAsync($"/shelf/{id}", Stop)).ShouldContain("2026-05-01");
    }

    [Fact]
    public async Task Readers_may_look_at_the_benches_and_change_nothing()
    {
        using var reader = await app.SignedInAsync("rowan");
        foreach (var path in new[] { "/shelf", "/kit", "/bench", "/bottles", "/compatibility" })
        {
            (await reader.GetAsync(path, Stop)).StatusCode.ShouldBe(HttpStatusCode.OK);
        }

        Html(await reader.GetStringAsync("/shelf", Stop)).QuerySelectorAll("a[href='/shelf/new']").ShouldBeEmpty();
        var token = new Dictionary<string, string>
        {
            ["__RequestVerificationToken"] = Html(await reader.GetStringAsync("/shelf", Stop))
                .QuerySelector("input[name=__RequestVerificationToken]")
                ?.GetAttribute("value")
                ?? "",
        };
        (await reader.PostAsync("/shelf/new", new FormUrlEncodedContent(token), Stop)).StatusCode.ShouldBe(HttpStatusCode.Forbidden);
    }

    [Theory]
    [InlineData("mix", """{ "strength": "1:15", "remainderMl": 300, "remainderStrength": "1:5" }""", "topUp.addWaterMl", 500.0)]
    [InlineData("mix", """{ "productMl": 50, "waterMl": 450 }""", "fraction", 0.1)]
    [InlineData(
        "lance",
        """{ "trials": [ { "ml": 1000, "seconds": 100, "flowLitresPerMinute": 7.5 } ], "bottle": "1:9" }""",
        "onPanel",
        0.6 / 81
    )]
    [InlineData("nozzle", """{ "size": 4, "psi": 4000 }""", "gallonsPerMinute", 4.0)]
    [InlineData("ph", """{ "neatPh": 13, "strength": "1:9" }""", "mildest", 12.0)]
    [InlineData("hardness", """{ "value": 10, "unit": "dh" }""", "mgPerLitre", 178.48)]
    public async Task Calculators_answer_programs(string path, string body, string field, double value)
    {
        var answer = await app.Http.PostAsync($"/api/v1/{path}", new StringContent(body, Encoding.UTF8, "application/json"), Stop);
        answer.StatusCode.ShouldBe(HttpStatusCode.OK);
        var node = await answer.Content.ReadFromJsonAsync<JsonNode>(Stop);
        foreach (var part in field.Split('.'))
        {
            node = node![part];
        }

        node!.GetValue<double>().ShouldBe(value, 1e-9 * Math.Abs(value) + 1e-9);
    }

    [Theory]
    [InlineData("mix", """{ "strength": "1:9", "totalMl": -1 }""", "totalMl")]
    [InlineData("mix", """{ "strength": "2 oz per gal" }""", "strength")]
    [InlineData("lance", """{ "trials": [ { "ml": 0, "seconds": 0, "flowLitresPerMinute": 0 } ] }""", "trials[0].ml")]
    [InlineData("nozzle", """{ "size": 99, "psi": 2000 }""", "size")]
    [InlineData("ph", """{ "neatPh": 20, "strength": "1:9" }""", "neatPh")]
    [InlineData("hardness", """{ "value": -3 }""", "value")]
    [InlineData("compatibility", """{ "agent": "apc", "surface": "wood" }""", "surface")]
    public async Task Calculators_name_the_field_that_is_wrong(string path, string body, string field)
    {
        var answer = await app.Http.PostAsync($"/api/v1/{path}", new StringContent(body, Encoding.UTF8, "application/json"), Stop);
        answer.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await answer.Content.ReadFromJsonAsync<JsonNode>(Stop))!["problems"]![0]!["field"]!.GetValue<string>().ShouldBe(field);
    }

    [Theory]
    [InlineData("strength=lots", "is not a strength")]
    [InlineData("strength=4+oz+per+gal", "imperial")]
    [InlineData("strength=1:15&rest=300", "none")]
    [InlineData("strength=1:9&total=9000&rest=10&reststrength=1:9", "holds")]
    [InlineData("strength=1:9&total=abc", "not a number")]
    public async Task The_bench_says_what_is_wrong_and_never_breaks(string query, string says)
    {
        var answer = await app.Http.GetAsync("/bench?" + query, Stop);
        answer.StatusCode.ShouldBe(HttpStatusCode.OK);
        Html(await answer.Content.ReadAsStringAsync(Stop)).QuerySelector(".told [role=alert]")!.TextContent.ShouldContain(says);
    }

    [Theory]
    [InlineData("/bench/bucket?dose=2&unit=us-fl-oz", "10 to 20 l")]
    [InlineData("/bench/bucket?dose=2&unit=us-fl-oz&water=10", "too much")]
    [InlineData("/bench/lance?strength=30+%25", "not reachable")]
    [InlineData("/bench/ph?ph=13.2&strength=1:9", "12.2")]
    [InlineData("/bench/water?hardness=17&unit=dh", "very hard")]
    [InlineData("/bench/nozzle?flow=7.5&mpa=14", "never")]
    [InlineData("/compatibility?Group=metal&Agent=degreaser&Surface=bare-aluminium", "never on bare aluminium")]
    [InlineData("/compatibility?After=true&Agent=acid&Surface=bleach", "chlorine")]
    public async Task Benches_answer_in_words(string path, string says) => (await app.Http.GetStringAsync(path, Stop)).ShouldContain(says);

    private async Task<(int Number, Guid Id)> Job()
    {
        await using var db = app.NewContext();
        var jobs = new JobStore(db, Clock);
        var survey = (await jobs.JobAsync(106, Stop))!.Survey;
        var number = await jobs.TakeInAsync(
            new ToughStart.Data.Contact("Shelf Tester", null, null, "Test saloon", "SLK " + Random.Shared.Next(1000, 9999)),
            TickingClock.Today,
            "For the shelf.",
            new IntakeWishes(),
            survey,
            "test",
            Stop
        );
        return (number, (await jobs.JobAsync(number, Stop))!.Id);
    }

    private async Task<Guid> Bottle(string name, double ml)
    {
        await using var db = app.NewContext();
        var shelf = new ShelfStore(db, Clock);
        var (id, refused) = await new KitStore(db, shelf, AppFixture.Shop).SaveAsync(
            new KitItem
            {
                Kind = "bottle",
                Name = name,
                Ml = ml,
                Author = "test",
            },
            true,
            0,
            Stop
        );
        refused.ShouldBeNull();
        return id;
    }

    /// <summary>Fields of a form as a browser would send them: ticked boxes and chosen options only.</summary>
    private static Dictionary<string, string> Fields(string html, string form = "main form")
    {
        var fields = new Dictionary<string, string>();
        var page = Html(html).QuerySelector(form)!;
        foreach (var e in page.QuerySelectorAll("input[name], select[name], textarea[name]"))
        {
            if (e.GetAttribute("type") is "checkbox" or "radio" && !e.HasAttribute("checked"))
            {
                continue;
            }

            fields[e.GetAttribute("name")!] =
                e.LocalName == "select"
                    ? (e.QuerySelector("option[selected]") ?? e.QuerySelector("option"))?.GetAttribute("value") ?? ""
                    : e.GetAttribute("value") ?? "";
        }

        return fields;
    }
}
