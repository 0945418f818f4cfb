using OpenQA.Selenium;
using OpenQA.Selenium.Interactions;
using ToughStart.Core.Provenance;

namespace ToughStart.Web.Tests;

/// <summary>Words that can be looked up, help at every station, menus and tabs at the keyboard.</summary>
[Collection("app")]
public sealed class WordsTests(AppFixture app)
{
    [Fact]
    public void A_trade_word_opens_its_meaning_and_every_station_says_what_to_do()
    {
        using var b = new Browser();
        b.Go(app.Address, "/jobs/104/plan");
        b.WaitFor(d => d.FindElements(By.CssSelector(".gloss")).Any(e => e.Displayed), "words that can be looked up");
        var word = b.All(".gloss").First(e => e.Displayed);
        var said = word.Text;
        b.Press(word);
        b.WaitFor(d => d.FindElement(By.CssSelector(".gloss-says")).Displayed, "the meaning");
        var entry = Catalogue.Default.Glossary.Single(g =>
            g.Word.Equals(said, StringComparison.OrdinalIgnoreCase) || g.Also.Contains(said, StringComparer.OrdinalIgnoreCase)
        );
        b.One(".gloss-says").Text.ShouldContain(entry.Meaning);
        new Actions(b.Driver).SendKeys(Keys.Escape).Perform();
        b.WaitFor(d => !d.FindElement(By.CssSelector(".gloss-says")).Displayed, "closed again");

        foreach (var station in new[] { "intake", "survey", "day", "plan", "mix", "card", "results", "tests", "close" })
        {
            b.Go(app.Address, $"/jobs/104/{station}");
            b.All("details.help svg").Count.ShouldBe(1, station);
            b.All("details.help p").Count.ShouldBeGreaterThan(2, station);
        }
    }

    [Fact]
    public void Menus_close_by_escape_and_by_a_tap_elsewhere_and_one_is_open_at_a_time()
    {
        using var b = new Browser();
        b.Go(app.Address, "/jobs/104/survey");
        bool Open(string css) => b.One(css).GetDomProperty("open") == "true" || b.One(css).GetDomAttribute("open") is not null;
        b.One("details.help summary").Click();
        Open("details.help").ShouldBeTrue();
        b.One("details.benches summary").Click();
        Open("details.benches").ShouldBeTrue();
        Open("details.help").ShouldBeFalse();
        new Actions(b.Driver).SendKeys(Keys.Escape).Perform();
        Open("details.benches").ShouldBeFalse();
        ((bool)b.Driver.ExecuteScript("return document.activeElement === document.querySelector('details.benches summary')")!).ShouldBeTrue(
            "back to what opened it"
        );
        b.One("details.help summary").Click();
        b.One(".palette .rule-h").Click();
        Open("details.help").ShouldBeFalse();
    }

    [Fact]
    public void Where_a_test_was_made_is_ticked_on_the_net_all_or_none()
    {
        using var b = new Browser();
        b.Go(app.Address, "/jobs/112/tests");
        int Ticked() => b.All(".test-zones input:checked").Count;
        b.Press(b.Driver.FindElement(By.XPath("//fieldset[contains(@class,'test-zones')]//button[text()='None']")));
        Ticked().ShouldBe(0);
        var zone = b.All(".test-zones input")[0].GetDomAttribute("value")!;
        b.Press(b.Zone(zone));
        Ticked().ShouldBe(1);
        b.Press(b.Driver.FindElement(By.XPath("//fieldset[contains(@class,'test-zones')]//button[text()='All']")));
        Ticked().ShouldBe(b.All(".test-zones input").Count);
        b.All(".test-list a[aria-current]").Count.ShouldBe(1, "one card is chosen");
    }

    [Fact]
    public void Placeholders_follow_the_body_and_what_is_needed_is_marked()
    {
        using var b = new Browser();
        b.Go(app.Address, "/jobs/new");
        b.All(".needed").Count.ShouldBe(3);
        string Length() => b.One("[name='Form.Length']").GetDomProperty("placeholder")!;
        var before = Length();
        b.Press(b.All(".form-pick")[^1]);
        b.WaitFor(_ => Length() != before, "the other body's length");
    }
}
