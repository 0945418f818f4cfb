using System.Text;
using OpenQA.Selenium;
using OpenQA.Selenium.Interactions;
using ToughStart.Core.Formats;

namespace ToughStart.Web.Tests;

/// <summary>A whole survey by mouse, by keyboard alone, and with a thumb on a phone.</summary>
[Collection("app")]
public sealed class SurveyTests(AppFixture app)
{
    [Fact]
    public void A_neglected_car_is_surveyed_in_at_most_sixty_interactions()
    {
        using var b = new Browser();
        var count = 0;
        void Click(IWebElement e)
        {
            count++;
            e.Click();
        }

        var number = TakeIn(b, 2, "Left two years", "SIXTY 1");
        b.WaitFor(d => d.Url.EndsWith($"/jobs/{number}/survey", StringComparison.Ordinal), "the survey");
        b.WaitReady();

        // A story first, then what this one has besides.
        Click(b.Driver.FindElement(By.XPath("//summary[text()='Story']")));
        Click(b.One("[data-story='stood-two-years']"));
        Click(b.One("[data-kind='tar']"));
        Click(b.One("[data-grade='2']"));
        Click(b.Zone("left-sill"));
        Click(b.Zone("left-rear-quarter"));
        Click(b.Driver.FindElement(By.XPath("//button[text()='To other side']")));
        Click(b.One("[data-kind='bug']"));
        Click(b.One("[data-grade='1']"));
        Click(b.Driver.FindElement(By.XPath("//button[text()='Front']")));
        Click(b.One("[data-kind='mud']"));
        Click(b.One("[data-grade='3']"));
        Click(b.Driver.FindElement(By.XPath("//button[text()='Lower third']")));
        Click(b.One("[data-kind='oxidation']"));
        Click(b.One("[data-grade='2']"));
        Click(b.Zone("bonnet"));
        Click(b.Zone("roof"));
        Click(b.One("[data-grade='0']"));
        Click(b.One("[data-kind='overspray']"));
        Click(b.Zone("windscreen"));

        // Surface, water, paint, damage and a note of one zone.
        Click(b.Zone("boot-lid"));
        b.Choose(b.One("[data-field='surface']"), "single-stage");
        b.Choose(b.One("[data-field='water']"), "flat");
        b.Choose(b.One("[data-field='goal']"), "protect");
        b.One("[data-field='filmUm']").SendKeys("92 96 88" + Keys.Tab);
        b.Press(b.One("[data-damage='chip']"));
        b.Press(b.One("[data-damage='chip']"));
        count += 2;
        b.One(".zone-notes input").SendKeys("key scratch, client knows");
        Click(b.Driver.FindElement(By.XPath("//div[contains(@class,'zone-notes')]//button")));
        count += 9;
        count.ShouldBeLessThanOrEqualTo(60);
        b.One(".film").Text.ShouldContain("median 92 µm of 3");
        MainJobTests.Saved(b);
        var survey = Survey(number);
        survey.Zones.Count.ShouldBeGreaterThan(40, "nearly every zone says something");
        survey.ZoneOf("right-rear-quarter")!.FindingOf("tar")!.Grade.ShouldBe(2, "copied from the left");
        survey.ZoneOf("left-sill")!.FindingOf("mud")!.Grade.ShouldBe(3);
        survey.ZoneOf("windscreen")!.FindingOf("overspray")!.Grade.ShouldBe(0, "looked, none");
        survey.ZoneOf("bonnet")!.FindingOf("bird-dropping")!.Certainty.ShouldBe(Certainty.Suspected, "a story only suspects");
        survey
            .ZoneOf("boot-lid")!
            .ShouldSatisfyAllConditions(
                z => z.Surface.ShouldBe("single-stage"),
                z => z.Water.ShouldBe("flat"),
                z => z.Goal.ShouldBe(ToughStart.Core.ZoneGoal.Protect),
                z => z.Condition.FilmUm.ShouldBe([92, 96, 88]),
                z => z.Condition.Damage.ShouldBe([new Damage("chip", "recommended")])
            );
        using var db = app.NewContext();
        db.Notes.Single(n => n.Words == "key scratch, client knows").Zone.ShouldBe("boot-lid");
        b.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void The_keyboard_alone_surveys_and_every_stroke_is_announced()
    {
        using var b = new Browser();
        var number = TakeIn(b, 10, "By keyboard", "KEYS 1");
        b.WaitFor(d => d.Url.EndsWith("/survey", StringComparison.Ordinal), "the survey");
        b.WaitReady();
        void Keys(params string[] keys) => keys.Aggregate(new Actions(b.Driver), (a, k) => a.SendKeys(k)).Perform();

        // From the top of the page by Tab to the palette, the grade, and into the net.
        // Palette and grades are one stop each; arrows move within them.
        TabTo(b, "[data-kind]");
        ArrowTo(b, OpenQA.Selenium.Keys.ArrowDown, "[data-kind='bug']");
        TabTo(b, "[data-grade]");
        ArrowTo(b, OpenQA.Selenium.Keys.ArrowLeft, "[data-grade='2']");
        TabTo(b, ".net [data-zone]");
        var first = Focused(b);

        // With no brush in hand nothing is painted, and it is said.
        Keys(OpenQA.Selenium.Keys.Enter);
        Said(b).ShouldContain("No brush in hand");
        b.Zone(first).GetDomAttribute("aria-label")!.ShouldContain("not looked");
        b.Driver.ExecuteScript("document.querySelector(\"[data-kind='bug']\").focus()");
        Keys(OpenQA.Selenium.Keys.Enter);
        b.Driver.ExecuteScript("arguments[0].focus()", b.Zone(first));
        Keys(OpenQA.Selenium.Keys.Enter);
        b.One("[aria-live]").Text.Length.ShouldBeGreaterThanOrEqualTo(0);
        Said(b).ShouldContain("Bugs light");
        Keys(OpenQA.Selenium.Keys.ArrowRight);
        var second = Focused(b);
        second.ShouldNotBe(first);
        Keys("4", OpenQA.Selenium.Keys.Enter);
        Said(b).ShouldContain("Bugs caked");
        Keys(OpenQA.Selenium.Keys.ArrowDown, "0", OpenQA.Selenium.Keys.Enter);
        var third = Focused(b);
        Said(b).ShouldContain("looked, none");
        new Actions(b.Driver).KeyDown(OpenQA.Selenium.Keys.Control).SendKeys("z").KeyUp(OpenQA.Selenium.Keys.Control).Perform();
        Said(b).ShouldContain("Undone");
        new Actions(b.Driver).KeyDown(OpenQA.Selenium.Keys.Control).SendKeys("y").KeyUp(OpenQA.Selenium.Keys.Control).Perform();
        MainJobTests.Saved(b);
        var survey = Survey(number);
        survey.ZoneOf(first)!.FindingOf("bug")!.Grade.ShouldBe(2);
        survey.ZoneOf(second)!.FindingOf("bug")!.Grade.ShouldBe(4);
        survey.ZoneOf(third)!.FindingOf("bug")!.Grade.ShouldBe(0);

        // Every zone can be reached by arrows from the first.
        var reached = (long)
            b.Driver.ExecuteScript(
                """
                const zones = [...document.querySelectorAll('.net [data-zone]')]; const seen = new Set([zones[0]]); const todo = [zones[0]];
                while (todo.length) { const z = todo.pop(); for (const key of ['ArrowLeft','ArrowRight','ArrowUp','ArrowDown']) { z.focus(); z.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true })); const n = document.activeElement.closest('[data-zone]'); if (n && !seen.has(n)) { seen.add(n); todo.push(n); } } }
                return zones.length - seen.size;
                """
            )!;
        reached.ShouldBe(0, "zones no arrow leads to");
        b.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void A_thumb_on_a_phone_paints_and_saves()
    {
        using var b = new Browser(390, 844);
        var number = TakeIn(b, 9, "By thumb", "THUMB 1");
        b.WaitFor(d => d.Url.EndsWith("/survey", StringComparison.Ordinal), "the survey");
        b.WaitReady();
        b.Press(b.One("[data-kind='mud']"));
        b.Press(b.One("[data-grade='4']"));
        b.Press(b.Zone("roof"));
        MainJobTests.Saved(b);
        Survey(number).ZoneOf("roof")!.FindingOf("mud")!.Grade.ShouldBe(4);
        var small =
            (IEnumerable<object>)
                b.Driver.ExecuteScript(
                    "return [...document.querySelectorAll('main button:not(.gloss), main select')]"
                        + ".filter(e => e.offsetParent && e.getBoundingClientRect().height < 36).map(e => e.outerHTML.slice(0, 80))"
                )!;
        small.ShouldBeEmpty("targets under 36 px");
    }

    /// <summary>Looking is not painting: with no brush a tap shows, a picked brush can be put down, and a swipe scrolls.</summary>
    [Fact]
    public void Looking_paints_nothing_and_a_finger_scrolls()
    {
        using var b = new Browser(390, 844);
        b.Go(app.Address, "/jobs/110/survey");
        var before = b.Zone("roof").GetDomAttribute("aria-label");
        b.Press(b.Zone("roof"));
        b.Zone("roof").GetDomAttribute("aria-label").ShouldBe(before);
        b.One(".zone-pane .rule-h").Text.ShouldBe("Roof", StringCompareShould.IgnoreCase);
        var where = Top(b);
        b.Press(b.One("[data-kind='mud']"));
        Top(b).ShouldBe(where, 0.5, "choosing a brush moved the vehicle");
        b.One(".brush-now").Text.ShouldContain("Brush: mud");
        new Actions(b.Driver).SendKeys(Keys.Escape).Perform();
        b.One(".brush-now").Text.ShouldContain("Looking");
        b.Press(b.Zone("roof"));
        b.Zone("roof").GetDomAttribute("aria-label").ShouldBe(before);
        b.Press(b.One("[data-kind='mud']"));
        b.Press(b.One("[data-kind='mud']"));
        b.One(".brush-now").Text.ShouldContain("Looking", customMessage: "the same brush again puts it down");

        // A finger on the net scrolls the page, brush or none, until stroke painting is asked for.
        string Touch() => (string)b.Driver.ExecuteScript("return getComputedStyle(document.querySelector('.net')).touchAction")!;
        b.Press(b.One("[data-kind='mud']"));
        Touch().ShouldBe("manipulation");
        b.Driver.ExecuteScript("document.querySelector('.stroke-mode').click()");
        Touch().ShouldBe("none");

        // Larger: the smallest zone is as large as a fingertip.
        var smallest = () =>
            (double)
                b.Driver.ExecuteScript(
                    "return 1.0 * Math.min(...[...document.querySelectorAll('.net [data-zone] .base')].map(e => { const r = e.getBoundingClientRect(); return Math.max(r.width, r.height); })) + 0.001"
                )!;
        var small = smallest();
        b.Press(b.One(".net-zoom [aria-label='Larger']"));
        b.Press(b.One(".net-zoom [aria-label='Larger']"));
        b.Press(b.One(".net-zoom [aria-label='Larger']"));
        b.Press(b.One(".net-zoom [aria-label='Larger']"));
        smallest().ShouldBeGreaterThan(15 * small);
        smallest().ShouldBeGreaterThan(30);
        b.ConsoleErrors().ShouldBeEmpty();
    }

    /// <summary>A stroke that was saved can be taken back after the page was opened again.</summary>
    [Fact]
    public void The_last_stroke_can_be_undone_after_saving()
    {
        using var b = new Browser();
        var number = TakeIn(b, 2, "Second thoughts", "UNDO 1");
        b.WaitFor(d => d.Url.EndsWith("/survey", StringComparison.Ordinal), "the survey");
        b.WaitReady();
        b.Press(b.One("[data-kind='mud']"));
        b.Press(b.Zone("roof"));
        MainJobTests.Saved(b);
        b.Driver.Navigate().Refresh();
        b.WaitReady();
        b.Zone("roof").GetDomAttribute("aria-label")!.ShouldContain("Mud");
        b.Press(b.Driver.FindElement(By.XPath("//button[text()='Undo']")));
        b.Zone("roof").GetDomAttribute("aria-label")!.ShouldNotContain("Mud");
        MainJobTests.Saved(b);
        Survey(number).ZoneOf("roof")?.FindingOf("mud").ShouldBeNull();
    }

    private static double Top(Browser b) =>
        Convert.ToDouble(
            b.Driver.ExecuteScript("const r = document.querySelector('.net').getBoundingClientRect(); return r.top + scrollY"),
            System.Globalization.CultureInfo.InvariantCulture
        );

    [Fact]
    public void A_reader_sees_everything_and_paints_nothing()
    {
        using var b = new Browser();
        b.Go(app.Address, "/jobs/110/survey", "rowan");
        var before = b.Zone("left-front-wing").GetDomAttribute("aria-label");
        b.One("[data-kind='cement']").Click();
        b.Zone("left-front-wing").Click();
        b.Zone("left-front-wing").GetDomAttribute("aria-label").ShouldBe(before);
        b.One(".zone-pane .problem").Text.ShouldContain("may look but not change");
        b.ConsoleErrors().ShouldBeEmpty();
    }

    /// <summary>Takes a vehicle in through the form; returns its job number.</summary>
    private int TakeIn(Browser b, int preset, string client, string plate)
    {
        b.Go(app.Address, "/jobs/new");
        b.One("[name='Form.Client']").SendKeys(client);
        b.One("[name='Form.Vehicle']").SendKeys("Test vehicle");
        b.One("[name='Form.Plate']").SendKeys(plate);
        b.Press(b.One($"[name='Form.Preset'][value='{preset}'] + span"));
        b.Choose(b.One("[name='Form.Ground']"), "block-paving");
        b.WaitFor(
            d => d.FindElement(By.CssSelector(".look")).Text.Contains("Pale ground", StringComparison.Ordinal),
            "the warning while typing"
        );
        b.Press(b.One("form.intake .primary-link"));
        b.WaitFor(d => d.Url.EndsWith("/survey", StringComparison.Ordinal), "on to the survey");
        using var db = app.NewContext();
        return db.Jobs.Single(j => j.Vehicle!.Plate == plate).Number;
    }

    private Survey Survey(int number)
    {
        using var db = app.NewContext();
        var job = db.Jobs.Single(j => j.Number == number);
        return SurveyFormat
            .Read(Encoding.UTF8.GetBytes(db.Surveys.Single(s => s.JobId == job.Id && s.Revision == job.SurveyRevision).Body))
            .Value!;
    }

    private static string Said(Browser b) =>
        (string)b.Driver.ExecuteScript("return document.querySelector('.sheet [aria-live]').textContent")!;

    private static string Focused(Browser b) => (string)b.Driver.ExecuteScript("return document.activeElement.dataset.zone || ''")!;

    private static void ArrowTo(Browser b, string arrow, string css)
    {
        for (var i = 0; i < 40 && !(bool)b.Driver.ExecuteScript("return document.activeElement.matches(arguments[0])", css)!; i++)
        {
            new Actions(b.Driver).SendKeys(arrow).Perform();
        }

        ((bool)b.Driver.ExecuteScript("return document.activeElement.matches(arguments[0])", css)!).ShouldBeTrue(
            $"arrows never reached {css}"
        );
    }

    private static void TabTo(Browser b, string css)
    {
        for (var i = 0; i < 80; i++)
        {
            if ((bool)b.Driver.ExecuteScript("return document.activeElement.matches(arguments[0])", css)!)
            {
                return;
            }

            new Actions(b.Driver).SendKeys(OpenQA.Selenium.Keys.Tab).Perform();
        }

        throw new InvalidOperationException($"Tab never reached {css}");
    }
}
