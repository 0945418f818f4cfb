using Microsoft.EntityFrameworkCore;
using OpenQA.Selenium;

namespace ToughStart.Web.Tests;

/// <summary>Shelf, kit and mix bench in a real browser: mixing with one thumb, timing a lance, bringing a file, printing labels.</summary>
[Collection("app")]
public sealed class BenchTests(AppFixture app)
{
    [Fact]
    public async Task Mixing_with_one_thumb_on_a_phone_ends_in_the_log()
    {
        using var b = new Browser(390, 844);
        b.Go(app.Address, "/bench");
        b.Choose(b.One("select[name=product]"), await Id("Plover All Purpose"));
        b.WaitFor(d => d.FindElement(By.CssSelector(".safety")).Text.Contains("H318", StringComparison.Ordinal), "the label's hazards");
        b.Press(b.Driver.FindElement(By.XPath("//button[contains(@class,'pick')][text()='1:4']")));
        b.Press(b.Driver.FindElement(By.XPath("//label[.//span[text()='Red trigger']]")));
        b.WaitFor(
            d =>
                d.FindElement(By.CssSelector(".pour-big")).Text.Contains("380 ml", StringComparison.Ordinal)
                && d.FindElement(By.CssSelector(".pour-big")).Text.Contains("95 ml", StringComparison.Ordinal),
            "amounts for 1:4 in half a litre"
        );
        // Targets for wet gloves, nothing beyond the edge of the screen.
        b.All(".pick, .vessels .answer span, .write-down button").ShouldAllBe(e => e.Size.Height >= 48);
        Convert.ToInt32(b.Driver.ExecuteScript("return document.documentElement.scrollWidth")).ShouldBeLessThanOrEqualTo(390);
        b.AxeViolations().ShouldBeEmpty();
        b.Press(b.One(".write-down button"));
        b.WaitFor(d => d.Url.Contains("made=", StringComparison.Ordinal), "the log");
        b.One(".said").Text.ShouldContain("off the shelf");
        b.Texts(".bottle-log h2").ShouldContain("Red trigger");
        await using var db = app.NewContext();
        var mix = await db.Mixes.OrderByDescending(m => m.Number).FirstAsync(TestContext.Current.CancellationToken);
        (mix.ProductMl, mix.WaterMl).ShouldBe((95m, 380m));
        b.Press(b.One($"#mix-{mix.Number} button[value=discarded]"));
        b.WaitFor(d => d.FindElements(By.CssSelector($".bottle-log #mix-{mix.Number}")).Count == 0, "discarded");
        b.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void An_ambiguous_label_offers_both_readings_and_the_drawing_follows()
    {
        using var b = new Browser();
        b.Go(app.Address, "/bench");
        b.One("input[name=strength]").SendKeys("4 oz per gal");
        b.WaitFor(d => d.FindElements(By.CssSelector(".told .problems .pick")).Count == 2, "both readings");
        b.One(".told .problems").Text.ShouldSatisfyAllConditions(t => t.ShouldContain("3.13 %"), t => t.ShouldContain("2.5 %"));
        b.Press(b.All(".told .problems .pick")[1]);
        b.WaitFor(d => d.FindElements(By.CssSelector(".told .pour-big b")).Count == 2, "amounts");
        b.One("input[name=strength]").GetDomProperty("value").ShouldBe("4 imp-fl-oz per imp-gal");
        // The drawing is made anew with every answer: an element found may be gone before it is asked.
        b.Driver.ExecuteScript("return document.querySelector('.vessel').getAttribute('aria-label')")!
            .ToString()!
            .ShouldContain("product");
        b.Driver.Url.ShouldContain("imp-fl-oz", customMessage: "the question is in the address and can be passed on");
        b.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public async Task Timing_a_bottle_calibrates_the_lance_and_the_plan_follows()
    {
        using var b = new Browser();
        b.Go(app.Address, "/jobs/106/plan");
        b.Driver.PageSource.ShouldContain("Lance not calibrated");
        b.Go(app.Address, "/kit/" + await Kit("Van lance"));
        b.One(".draw-big").Text.ShouldContain("10.0 %");
        b.AxeViolations().ShouldBeEmpty();
        b.Press(b.One(".watch"));
        b.WaitFor(d => d.FindElement(By.CssSelector(".watch-time")).Text is not ("0.0" or ""), "the watch runs");
        b.WaitFor(
            d => double.Parse(d.FindElement(By.CssSelector(".watch-time")).Text, System.Globalization.CultureInfo.InvariantCulture) >= 0.3,
            "a moment"
        );
        b.Press(b.One(".watch"));
        double.Parse(b.One("input[name=seconds]").GetDomProperty("value")!, System.Globalization.CultureInfo.InvariantCulture)
            .ShouldBeGreaterThanOrEqualTo(0.3);
        // A bottle takes longer than a test: the figure is typed over.
        b.One("input[name=seconds]").Clear();
        b.One("input[name=seconds]").SendKeys("80");
        b.One("input[name=flow]").Clear();
        b.One("input[name=flow]").SendKeys("7.5");
        b.Press(b.One(".wizard button[type=submit]"));
        b.WaitFor(d => d.Url.Contains("said=timed", StringComparison.Ordinal), "the trial is kept");
        b.One(".draw-big").Text.ShouldContain("9.1 %", customMessage: "1 l in 80 s is 0.75 l/min, of 8.25 l/min");
        try
        {
            b.Go(app.Address, "/jobs/106/plan");
            b.Driver.PageSource.ShouldNotContain("Lance not calibrated");
        }
        finally
        {
            b.Go(app.Address, "/kit/" + await Kit("Van lance"));
            b.Press(b.Driver.FindElement(By.XPath("//button[text()='a slip']")));
            b.WaitFor(d => d.FindElement(By.CssSelector(".draw-big")).Text.Contains("10.0", StringComparison.Ordinal), "struck");
        }

        b.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public async Task A_shelf_file_with_bad_rows_is_shown_first_and_only_its_good_rows_are_written()
    {
        var file = Path.Combine(Directory.CreateTempSubdirectory("tough-start-csv").FullName, "shelf.csv");
        await File.WriteAllTextAsync(
            file,
            "name;agent;price;pack_ml;stock_ml\nBrowser Wax Off;waterless;9,5;1000;600\nBad One;waterless;cheap;1000;1\n",
            TestContext.Current.CancellationToken
        );
        using var b = new Browser();
        b.Go(app.Address, "/shelf/import");
        b.One("input[type=file]").SendKeys(file);
        b.Press(b.One("main button[type=submit]"));
        b.WaitFor(d => d.FindElements(By.CssSelector(".tally")).Count == 1, "the preview");
        b.One("[data-bad='3']").Text.ShouldSatisfyAllConditions(t => t.ShouldContain("Bad One"), t => t.ShouldContain("price"));
        b.AxeViolations().ShouldBeEmpty();
        b.Press(b.Driver.FindElement(By.XPath("//button[contains(normalize-space(.), 'Write 1 row')]")));
        b.WaitFor(d => d.FindElements(By.CssSelector(".said")).Count == 1, "written");
        b.Go(app.Address, "/shelf?Find=browser");
        b.Texts(".product-name b").ShouldBe(["Browser Wax Off"]);
        b.Press(b.One(".products li a"));
        b.WaitFor(
            d => d.Url.Contains("/shelf/", StringComparison.Ordinal) && d.FindElements(By.CssSelector(".ledger")).Count > 0,
            "the product"
        );
        b.One(".ledger").Text.ShouldContain("+600");
        b.One("input[name=ml]").SendKeys("900");
        b.Press(b.Driver.FindElement(By.XPath("//label[.//span[text()='used']]")));
        b.Press(b.One(".move button"));
        b.WaitFor(d => d.FindElements(By.CssSelector("[role=alert]")).Count == 1, "refused");
        b.One("[role=alert]").Text.ShouldContain("only 600 ml are left");
    }

    [Fact]
    public void Labels_print_on_white_with_a_code_each_and_without_the_rest_of_the_page()
    {
        using var b = new Browser();
        b.Go(app.Address, "/bottles");
        b.AxeViolations().ShouldBeEmpty();
        b.Press(b.Driver.FindElement(By.LinkText("Print labels")));
        b.WaitFor(d => d.FindElements(By.CssSelector(".label-card")).Count >= 3, "labels");
        foreach (var card in b.All(".label-card"))
        {
            card.FindElements(By.CssSelector("svg")).Count.ShouldBeGreaterThanOrEqualTo(1);
            card.Text.ShouldContain("discard by");
            Convert
                .ToInt32(b.Driver.ExecuteScript("return arguments[0].scrollHeight - arguments[0].clientHeight", card))
                .ShouldBeLessThanOrEqualTo(1, "nothing is cut off");
        }

        var pdf =
            (IDictionary<string, object?>)
                b.Driver.ExecuteCdpCommand("Page.printToPDF", new Dictionary<string, object?> { ["preferCSSPageSize"] = true })!;
        Convert.FromBase64String((string)pdf["data"]!).Length.ShouldBeGreaterThan(5000);
        b.Driver.ExecuteCdpCommand("Emulation.setEmulatedMedia", new Dictionary<string, object?> { ["media"] = "print" });
        b.One(".top").Displayed.ShouldBeFalse();
        b.One(".card-tools").Displayed.ShouldBeFalse();
        b.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void Any_cell_of_the_matrix_explains_itself()
    {
        using var b = new Browser();
        b.Go(app.Address, "/compatibility");
        b.Press(b.One("a[aria-label^='degreaser on clear coat']"));
        b.WaitFor(d => d.FindElements(By.CssSelector(".why-say")).Count == 1, "why");
        b.One(".why").Text.ShouldSatisfyAllConditions(t => t.ShouldContain("pH"), t => t.ShouldContain("model assumption"));
        b.Choose(b.One("select[name=Film]"), "42");
        b.WaitFor(d => d.FindElement(By.CssSelector(".why")).Text.Contains("42", StringComparison.Ordinal), "hot");
        b.All(".matrix td a").ShouldAllBe(a => a.GetDomAttribute("aria-label")!.Contains("never", StringComparison.Ordinal));
        b.Press(b.Driver.FindElement(By.LinkText("One after another")));
        b.Press(b.One("a[aria-label^='acid and chlorine bleach']"));
        b.WaitFor(d => d.FindElements(By.CssSelector(".why-say")).Count == 1, "why");
        b.One(".why").Text.ShouldContain("chlorine gas");
        b.AxeViolations().ShouldBeEmpty();
        b.ConsoleErrors().ShouldBeEmpty();
    }

    private async Task<string> Id(string product)
    {
        await using var db = app.NewContext();
        return (await db.Products.SingleAsync(p => p.Name == product, TestContext.Current.CancellationToken)).Id.ToString();
    }

    private async Task<Guid> Kit(string name)
    {
        await using var db = app.NewContext();
        return (await db.Kit.SingleAsync(k => k.Name == name, TestContext.Current.CancellationToken)).Id;
    }
}
