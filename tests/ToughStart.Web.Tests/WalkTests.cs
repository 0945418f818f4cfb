using OpenQA.Selenium;

namespace ToughStart.Web.Tests;

/// <summary>A mud-caked estate from intake to close as a detailer does it, counted: what docs/guide.md says of it.</summary>
[Collection("app")]
public sealed class WalkTests(AppFixture app)
{
    [Fact]
    public void A_mud_caked_estate_from_intake_to_close()
    {
        using var b = new Browser();
        int clicks = 0,
            keys = 0,
            pages = 1;
        void Click(IWebElement e)
        {
            b.Press(e);
            clicks++;
        }
        void Press(string css)
        {
            b.Press(css);
            clicks++;
        }
        void Type(string css, string text)
        {
            b.One(css).SendKeys(text);
            clicks++;
            keys += text.Length;
        }
        void Come(string end)
        {
            b.WaitFor(d => d.Url.EndsWith(end, StringComparison.Ordinal), end);
            b.WaitReady();
            pages++;
        }

        b.Go(app.Address, "/");
        Press("a[href='/jobs/new']");
        Come("/jobs/new");
        Type("[name='Form.Client']", "Ansel Wray");
        Type("[name='Form.Vehicle']", "Marl estate");
        Type("[name='Form.Plate']", "MRL 77");
        Click(b.Driver.FindElement(By.XPath("//label[contains(@class,'form-pick')][.//b[contains(translate(text(),'E','e'),'estate')]]")));
        Press(".intake-head .primary-link");
        b.WaitFor(d => d.Url.EndsWith("/survey", StringComparison.Ordinal), "the survey");
        b.WaitReady();
        pages++;
        var job = b.Driver.Url[..b.Driver.Url.LastIndexOf('/')];

        // Mud below, film everywhere it shows, bugs in front.
        foreach (var (kind, grade, set) in new[] { ("mud", 4, "Lower third"), ("road-film", 3, "Lower third"), ("bug", 2, "Front") })
        {
            if (b.One($"[data-kind='{kind}']").GetDomAttribute("aria-checked") != "true")
            {
                Press($"[data-kind='{kind}']");
            }

            Press($"[data-grade='{grade}']");
            Click(b.Driver.FindElement(By.XPath($"//button[text()='{set}']")));
        }

        MainJobTests.Saved(b);
        Press(".primary-link[href$='/plan']");
        Come("/plan");
        Press(".force .primary-link");
        b.WaitFor(d => d.FindElement(By.CssSelector(".force")).Text.Contains("in force", StringComparison.Ordinal), "in force");
        b.WaitReady();
        Press(".notch[href$='/mix']");
        Come("/mix");
        Press(".notch[href$='/card']");
        Come("/card");

        // The work is done; what was seen of the last of it says the rest.
        Press(".notch[href$='/results']");
        Come("/results");
        var height = Convert.ToInt32(
            b.Driver.ExecuteScript("return document.documentElement.scrollHeight"),
            System.Globalization.CultureInfo.InvariantCulture
        );
        var last = b.All(".result-rounds input")[^1];
        foreach (var part in b.All("details.result-part:not([open]) > summary").Where(_ => !last.Displayed).ToArray())
        {
            Click(part);
            if (last.Displayed)
            {
                break;
            }
        }

        Click(last);
        last.SendKeys("1");
        keys++;
        Press(".result-bar .primary");
        Come("/plan");
        Press(".notch[href$='/close']");
        Come("/close");
        if (b.All("[name='sure']").Count > 0)
        {
            Press("[name='sure']");
        }

        Press(".close-job .primary-link");
        b.WaitFor(d => d.FindElement(By.CssSelector("h1")).Text.Contains("closed", StringComparison.Ordinal), "closed");
        TestContext.Current.TestOutputHelper?.WriteLine($"WALK {clicks} clicks, {keys} keys, {pages} pages, results {height} px, {job}");
        Console.WriteLine($"WALK {clicks} clicks, {keys} keys, {pages} pages, results {height} px");
        clicks.ShouldBeLessThanOrEqualTo(34);
        height.ShouldBeLessThan(2600, "the net and the steps that matter, not every step of the plan");
    }
}
