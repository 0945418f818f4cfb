using System.Text;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using OpenQA.Selenium;
using OpenQA.Selenium.Interactions;
using ToughStart.Core.Formats;

namespace ToughStart.Web.Tests;

/// <summary>The main job through the interface, the way a detailer does it, read back from the database.</summary>
[Collection("app")]
public sealed class MainJobTests(AppFixture app)
{
    [Fact]
    public async Task A_caked_pickup_from_survey_to_job_card_and_back()
    {
        using var b = new Browser();
        // What other tests have brought in since may have filled the first page.
        b.Go(app.Address, $"/?from={ToughStart.Data.JobStore.MostInYard}");
        var later = b.Texts(".bay strong");
        b.Go(app.Address, "/");
        string[] standing = [.. b.Texts(".bay strong"), .. later];
        new[]
        {
            "Tidewarden double cab",
            "Morrow saloon",
            "Vantrel touring saloon",
            "Ferrule work pickup",
            "Aldmere Six saloon",
            "Pellow 12-seat minibus",
            "Gantry support van",
            "Corrie 500 trail motorcycle",
            "Salter GT coupé",
        }.ShouldBeSubsetOf(standing);
        // While a plan is still being worked out the yard puts it in by itself.
        b.WaitFor(d => d.FindElements(By.CssSelector("[data-waits='true']")).Count == 0, "every plan of the yard");
        b.Driver.FindElement(By.PartialLinkText("Tidewarden")).Click();
        b.WaitFor(d => d.Url.EndsWith("/jobs/104/plan", StringComparison.Ordinal), "the plan of the pickup");
        b.One(".notch[href$='/survey']").Click();
        b.WaitFor(
            d => d.FindElements(By.CssSelector("html[data-ready]")).Count > 0 && d.Url.EndsWith("/survey", StringComparison.Ordinal),
            "the survey"
        );

        // Paint by click, by drag and by keyboard; undo, redo.
        b.One("[data-kind='tar']").Click();
        b.One("[data-grade='3']").Click();
        b.Zone("left-front-door").Click();
        b.One("[data-kind='bird-dropping']").Click();
        b.One("[data-grade='2']").Click();
        new Actions(b.Driver).MoveToElement(b.Zone("roof")).ClickAndHold().MoveToElement(b.Zone("bonnet")).Release().Perform();
        b.Zone("boot-lid").SendKeys("");
        b.Driver.ExecuteScript("arguments[0].focus()", b.Zone("boot-lid"));
        new Actions(b.Driver).SendKeys("1").SendKeys(Keys.Enter).Perform();
        b.Zone("boot-lid").GetDomAttribute("aria-label")!.ShouldContain("Droppings 1");
        b.Driver.FindElement(By.XPath("//button[text()='Undo']")).Click();
        b.Zone("boot-lid").GetDomAttribute("aria-label")!.ShouldNotContain("Droppings");
        b.Driver.FindElement(By.XPath("//button[text()='Redo']")).Click();
        b.Zone("boot-lid").GetDomAttribute("aria-label")!.ShouldContain("Droppings 1");

        // Goal, a house rule, save.
        b.One("[role='tab'][data-side='job']").Click();
        b.WaitFor(_ => b.One("[data-goal='protect']").Displayed, "the goal pane");
        b.One("[data-goal='protect']").Click();
        b.Choose(b.One("[data-rule='clay']"), "if-rough");
        b.Choose(b.One("[data-rule='wheels']"), "after-prewash");
        b.Choose(b.One("[data-rule='wheels']"), "first");
        b.One("#save").Click();
        Saved(b);

        await using (var db = app.NewContext())
        {
            var job = await db.Jobs.SingleAsync(j => j.Number == 104, TestContext.Current.CancellationToken);
            job.SurveyRevision.ShouldBeGreaterThan(1);
            job.UrgentSince.ShouldNotBeNull("fresh droppings etch");
            var body = await db
                .Surveys.Where(s => s.JobId == job.Id && s.Revision == job.SurveyRevision)
                .Select(s => s.Body)
                .SingleAsync(TestContext.Current.CancellationToken);
            var saved = SurveyFormat.Read(Encoding.UTF8.GetBytes(body)).Value!;
            saved.Goal.ShouldBe(Goal.Protect);
            saved.ZoneOf("left-front-door")!.FindingOf("tar")!.Grade.ShouldBe(3);
            saved.ZoneOf("roof")!.FindingOf("bird-dropping")!.Grade.ShouldBe(2);
            saved.ZoneOf("bonnet")!.FindingOf("bird-dropping")!.Grade.ShouldBe(2);
            saved.ZoneOf("boot-lid")!.FindingOf("bird-dropping")!.Grade.ShouldBe(1);
        }

        // Plan: steps, why, core sample of a zone, totals, tests.
        b.One(".primary-link").Click();
        b.WaitFor(d => d.FindElements(By.CssSelector("html[data-ready] .step")).Count > 10, "the plan");
        b.All(".range-words").Count.ShouldBe(5);
        b.Driver.FindElement(By.XPath("//button[contains(@class,'step')][.//span[text()='Tar remover on a cloth']]")).Click();
        var detail = b.All("article.detail").Single(a => a.Displayed);
        detail.Text.ShouldContain("Tar");
        detail.Text.ShouldContain("gloves");
        b.Zone("left-sill").Click();
        b.WaitFor(
            d => d.FindElement(By.CssSelector(".core")).GetDomAttribute("aria-label")!.Contains("left sill", StringComparison.Ordinal),
            "the core of the sill"
        );
        b.Driver.FindElement(By.XPath("//button[@role='tab'][starts-with(text(),'Tests')]")).Click();
        b.All(".best-test").Single(e => e.Displayed).Text.ShouldContain("narrows");

        // Mix: choose another container, the bottle is redrawn.
        b.Go(app.Address, "/jobs/104/mix");
        b.All(".bottle select")[0].FindElement(By.XPath(".//option[text()='Wash bucket']")).Click();
        b.WaitFor(
            d =>
                d.FindElements(By.CssSelector(".vessel"))[0]
                    .GetDomAttribute("aria-label")!
                    .Contains("Wash bucket", StringComparison.Ordinal),
            "the mix redrawn"
        );

        // The card: at most two pages of A4.
        b.Go(app.Address, "/jobs/104/card");
        b.One(".card").Text.ShouldContain("Brake test at walking pace");
        b.One(".card").Text.ShouldContain("could not tell");
        Pages(b, 8.27, 11.69).ShouldBeLessThanOrEqualTo(2);
        Pages(b, 8.5, 11).ShouldBeLessThanOrEqualTo(2);

        // Results: the tyres still run brown, the bag test cannot tell; the plan answers.
        b.Go(app.Address, "/jobs/104/plan");
        b.One(".force").Text.ShouldContain("Draft");
        b.Press(b.One(".force .primary-link"));
        b.WaitFor(
            d => d.FindElement(By.CssSelector(".force")).Text.Contains("Plan 1 in force", StringComparison.Ordinal),
            "the plan in force"
        );
        b.Go(app.Address, "/jobs/104/results");
        Answer(b, "Stiff brush", "foam brown", 4);
        var bag = b.Driver.FindElement(By.XPath("//fieldset[legend[starts-with(., 'Touch')]]"));
        b.Unfold(bag);
        b.Press(bag.FindElement(By.XPath(".//label[span[text()='could not tell']]")));
        b.WaitFor(_ => bag.FindElement(By.CssSelector(".because")).Displayed, "asked why");
        b.Choose(bag.FindElement(By.CssSelector(".because select")), "wet");
        b.Press(b.One(".result-bar .primary"));
        b.WaitFor(
            d => d.Url.EndsWith("/plan", StringComparison.Ordinal) && d.FindElements(By.CssSelector(".changed")).Count == 1,
            "what changed"
        );
        b.One(".changed").Text.ShouldContain("From what you saw");
        b.One(".asks").Text.ShouldContain("Touch bag: look again");
        b.One(".asks").Text.ShouldContain("wet");
        b.All(".step-done").Count.ShouldBeGreaterThan(0);

        // Water beads: a strip is offered. Until somebody takes it the plan in force stays.
        b.Go(app.Address, "/jobs/104/results");
        var beads = b.Driver.FindElement(By.XPath("//fieldset[legend[starts-with(., 'Water')]]//label[span[text()='beads']]"));
        b.Unfold(beads);
        b.Press(beads);
        b.Press(b.One(".result-bar .primary"));
        b.WaitFor(
            d => d.Url.EndsWith("/plan", StringComparison.Ordinal) && d.FindElements(By.CssSelector(".changed .primary-link")).Count == 1,
            "what is offered"
        );
        b.One(".changed").Text.ShouldContain("strip", Case.Insensitive);
        b.One(".force").Text.ShouldContain("Plan 1 in force");

        // The plan from here is offered, and taken by hand.
        b.Press(b.One(".changed .primary-link"));
        b.WaitFor(
            d => d.FindElement(By.CssSelector(".force")).Text.Contains("Plan 2 in force", StringComparison.Ordinal),
            "the plan from here in force"
        );

        await using (var db = app.NewContext())
        {
            var job = await db.Jobs.SingleAsync(j => j.Number == 104, TestContext.Current.CancellationToken);
            var events = await db.Events.Where(e => e.JobId == job.Id).ToListAsync(TestContext.Current.CancellationToken);
            // Tyres were gone over more often than the arches they are brushed with: an entry each.
            events.Count.ShouldBe(4);
            events.ShouldContain(e => e.Body.Contains("brown"));
            events.ShouldContain(e => e.Body.Contains("inconclusive") && e.Body.Contains("wet"));
            job.Station.ShouldBe("bay");
            var plan = await db
                .Plans.Where(p => p.JobId == job.Id)
                .OrderByDescending(p => p.Revision)
                .FirstAsync(TestContext.Current.CancellationToken);
            plan.Revision.ShouldBe(2);
            job.PlanRevision.ShouldBe(2);
            var kept = JsonNode.Parse(plan.Body)!;
            kept["format"]!.GetValue<string>().ShouldBe("toughstart.plan/2");
            kept["refer"]!
                .AsArray()
                .Select(r => r!["what"]!.GetValue<string>())
                .ShouldContain("tyre-bloom", "four rounds and still brown: the cap of a visit");
            kept["tests"]!
                .AsArray()
                .Where(t => t!["test"]!.GetValue<string>() == "touch")
                .Select(t => t!["changes"]!.GetValue<string>())
                .ShouldContain(w => w.StartsWith("asked again (wet)"));
        }

        b.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void A_sewage_flood_shows_a_refer_only_plan()
    {
        using var b = new Browser();
        b.Go(app.Address, "/jobs/105/plan");
        b.One("main").Text.ShouldContain("Nothing may start");
        b.All(".step").ShouldBeEmpty();
        b.Go(app.Address, "/jobs/105/mix");
        b.One("main").Text.ShouldContain("refer-only");
        b.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void Two_tablets_merge_zone_by_zone_and_a_true_conflict_is_shown()
    {
        using var one = new Browser();
        using var two = new Browser();
        one.Go(app.Address, "/jobs/106/survey");
        two.Go(app.Address, "/jobs/106/survey", "odile");

        // Different zones come together without a word.
        two.One("[data-kind='sap']").Click();
        two.Zone("roof").Click();
        Saved(two);
        one.One("[data-kind='tar']").Click();
        one.Zone("bonnet").Click();
        Saved(one);
        one.One(".saved").Text.ShouldContain("roof");
        one.Zone("roof").GetDomAttribute("aria-label")!.ShouldContain("Tree sap");

        // The same zone, differently: shown, and nothing overwritten.
        two.Zone("bonnet").Click();
        two.WaitFor(d => d.FindElement(By.CssSelector("dialog.conflict")).Displayed, "the conflict");
        var words = two.One("dialog.conflict").Text;
        words.ShouldContain("bonnet");
        words.ShouldContain("Tar");
        words.ShouldContain("Nothing was overwritten");
        two.Driver.FindElement(By.XPath("//button[text()='Keep mine']")).Click();
        Saved(two);
        using var db = app.NewContext();
        var job = db.Jobs.Single(j => j.Number == 106);
        var bodies = db.Surveys.Where(s => s.JobId == job.Id).OrderBy(s => s.Revision).Select(s => s.Body).ToList();
        var last = SurveyFormat.Read(Encoding.UTF8.GetBytes(bodies[^1])).Value!;
        last.ZoneOf("bonnet")!.FindingOf("sap").ShouldNotBeNull();
        last.ZoneOf("bonnet")!.FindingOf("tar").ShouldBeNull("mine was kept there");
        last.ZoneOf("roof")!.FindingOf("sap").ShouldNotBeNull();
        bodies
            .Select(x => SurveyFormat.Read(Encoding.UTF8.GetBytes(x)).Value!)
            .ShouldContain(s => s.ZoneOf("bonnet")!.FindingOf("tar") != null, "theirs stays in the history");
        // The browser itself reports the refused request; nothing else may be there.
        two.ConsoleErrors().ShouldAllBe(e => e.Contains("409"));
        one.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void Painting_on_while_a_merged_save_is_on_its_way_keeps_the_other_persons_roof()
    {
        using var one = new Browser();
        using var two = new Browser();
        one.Go(app.Address, "/jobs/111/survey");
        two.Go(app.Address, "/jobs/111/survey", "odile");
        two.One("[data-kind='sap']").Click();
        two.Zone("seat").Click();
        Saved(two);

        // One's answer takes its time; meanwhile one paints on, and steps back and forth.
        one.Driver.ExecuteCdpCommand("Network.enable", []);
        void Latency(int ms) =>
            one.Driver.ExecuteCdpCommand(
                "Network.emulateNetworkConditions",
                new Dictionary<string, object?>
                {
                    ["offline"] = false,
                    ["latency"] = ms,
                    ["downloadThroughput"] = -1,
                    ["uploadThroughput"] = -1,
                }
            );
        Latency(2500);
        one.One("[data-kind='tar']").Click();
        one.Zone("tank").Click();
        one.WaitFor(d => d.FindElement(By.CssSelector(".saved")).Text == "Saving …", "the save on its way");
        one.Zone("headlamp").Click();
        one.WaitFor(
            d => d.FindElement(By.CssSelector(".saved")).Text.Contains("somebody else found on seat", StringComparison.Ordinal),
            "the merge"
        );
        Latency(0);
        one.Zone("seat").GetDomAttribute("aria-label")!.ShouldContain("Tree sap", Case.Sensitive, "what they found shows at once");
        one.WaitFor(
            d =>
                d.FindElement(By.CssSelector(".saved")).Text is var said
                && said.StartsWith("Saved, revision", StringComparison.Ordinal)
                && !said.Contains("somebody", StringComparison.Ordinal),
            "the second save"
        );
        one.Driver.FindElement(By.XPath("//button[text()='Undo']")).Click();
        one.Zone("seat")
            .GetDomAttribute("aria-label")!
            .ShouldContain("Tree sap", Case.Sensitive, "a step back takes back one's own work only");
        Saved(one);
        using var db = app.NewContext();
        var job = db.Jobs.Single(j => j.Number == 111);
        SurveyFormat
            .Read(Encoding.UTF8.GetBytes(db.Surveys.Single(s => s.JobId == job.Id && s.Revision == job.SurveyRevision).Body))
            .Value!.ShouldSatisfyAllConditions(
                s => s.ZoneOf("seat")!.FindingOf("sap").ShouldNotBeNull("the other person's"),
                s => s.ZoneOf("tank")!.FindingOf("tar").ShouldNotBeNull("sent first")
            );
        one.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void A_lost_connection_keeps_the_painting_and_sends_it_later()
    {
        using var b = new Browser();
        b.Go(app.Address, "/jobs/107/survey");
        b.Driver.ExecuteCdpCommand("Network.enable", []);
        b.Driver.ExecuteCdpCommand(
            "Network.emulateNetworkConditions",
            new Dictionary<string, object?>
            {
                ["offline"] = true,
                ["latency"] = 0,
                ["downloadThroughput"] = -1,
                ["uploadThroughput"] = -1,
            }
        );
        b.One("[data-kind='cement']").Click();
        b.Zone("left-front-door").Click();
        b.WaitFor(d => d.FindElement(By.CssSelector(".saved")).Text.Contains("No connection", StringComparison.Ordinal), "said so");
        b.Driver.ExecuteCdpCommand(
            "Network.emulateNetworkConditions",
            new Dictionary<string, object?>
            {
                ["offline"] = false,
                ["latency"] = 0,
                ["downloadThroughput"] = -1,
                ["uploadThroughput"] = -1,
            }
        );
        Saved(b);
        using var db = app.NewContext();
        var job = db.Jobs.Single(j => j.Number == 107);
        var body = db.Surveys.Single(s => s.JobId == job.Id && s.Revision == job.SurveyRevision).Body;
        SurveyFormat.Read(Encoding.UTF8.GetBytes(body)).Value!.ZoneOf("left-front-door")!.FindingOf("cement").ShouldNotBeNull();
    }

    /// <summary>Waits until the page says that everything is in the shop.</summary>
    internal static void Saved(Browser b) =>
        b.WaitFor(
            d =>
                d.FindElement(By.CssSelector(".saved")).Text.StartsWith("Saved,", StringComparison.Ordinal)
                && d.FindElement(By.CssSelector(".saved")).GetDomAttribute("class")!.Contains("saved-ok"),
            "saved"
        );

    private static void Answer(Browser b, string step, string word, int rounds)
    {
        var row = b.Driver.FindElement(By.XPath($"//fieldset[legend[contains(., '{step}')]]//div[contains(@class,'result-row')]"));
        b.Unfold(row);
        var box = row.FindElement(By.CssSelector(".result-rounds input"));
        b.Press(row.FindElement(By.XPath($".//label[contains(@class,'answer')][span[text()='{word}']]")));
        box.Clear();
        box.SendKeys(rounds.ToString());
    }

    /// <summary>Pages the browser would print at a paper size in inches.</summary>
    private static int Pages(Browser b, double width, double height)
    {
        var pdf =
            (Dictionary<string, object?>)
                b.Driver.ExecuteCdpCommand(
                    "Page.printToPDF",
                    new Dictionary<string, object?>
                    {
                        ["paperWidth"] = width,
                        ["paperHeight"] = height,
                        ["preferCSSPageSize"] = false,
                        ["marginTop"] = 0.4,
                        ["marginBottom"] = 0.4,
                        ["marginLeft"] = 0.4,
                        ["marginRight"] = 0.4,
                    }
                )!;
        var text = Encoding.Latin1.GetString(Convert.FromBase64String((string)pdf["data"]!));
        return System.Text.RegularExpressions.Regex.Count(text, @"/Type\s*/Page\b(?!s)");
    }
}
