using OpenQA.Selenium;
using OpenQA.Selenium.Interactions;
using ToughStart.Core.Formats;
using ToughStart.Data;

namespace ToughStart.Web.Tests;

/// <summary>The whole main job without a mouse: from the yard over survey, plan and results to closing.</summary>
[Collection("app")]
public sealed class KeyboardTests(AppFixture app)
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    [Fact]
    public async Task The_main_job_goes_by_keyboard_alone()
    {
        int number;
        await using (var db = app.NewContext())
        {
            var store = new JobStore(db, AppFixture.Clock);
            var survey = (await store.JobAsync(111, Stop))!.Survey;
            number = await store.TakeInAsync(
                new Contact("Nils Okonkwo", null, null, "Keyboard tourer", "KBD 1"),
                TickingClock.Today,
                "By keyboard.",
                new IntakeWishes(),
                survey with
                {
                    Zones = [],
                    Goal = ToughStart.Core.Goal.Wash,
                },
                "test",
                Stop
            );
        }

        using var b = new Browser();
        var keys = 0;
        b.Go(app.Address, "/?find=KBD%201");
        TabTo(b, $".bay[href*='/jobs/{number}/']", ref keys);
        Press(b, Keys.Enter, ref keys);
        b.WaitFor(d => d.Url.Contains($"/jobs/{number}/", StringComparison.Ordinal), "the job");
        b.WaitReady();
        if (!b.Driver.Url.EndsWith("/survey", StringComparison.Ordinal))
        {
            TabTo(b, ".notch[href$='/survey']", ref keys);
            Press(b, Keys.Enter, ref keys);
            b.WaitFor(d => d.Url.EndsWith("/survey", StringComparison.Ordinal), "the survey");
            b.WaitReady();
        }

        // A brush, how much, a zone.
        TabTo(b, "[data-kind]", ref keys);
        for (var i = 0; i < 30 && !At(b, "[data-kind='mud']"); i++)
        {
            Press(b, Keys.ArrowDown, ref keys);
        }

        Press(b, Keys.Enter, ref keys);
        TabTo(b, ".net [data-zone]", ref keys);
        Press(b, Keys.Enter, ref keys);
        MainJobTests.Saved(b);

        // The plan, put in force; a step opened.
        TabTo(b, ".primary-link[href$='/plan']", ref keys);
        Press(b, Keys.Enter, ref keys);
        b.WaitFor(d => d.FindElements(By.CssSelector("html[data-ready] .step")).Count > 0, "the plan");
        TabTo(b, ".force .primary-link", ref keys);
        Press(b, Keys.Enter, ref keys);
        b.WaitFor(d => d.FindElement(By.CssSelector(".force")).Text.Contains("in force", StringComparison.Ordinal), "in force");
        b.WaitReady();
        TabTo(b, ".step", ref keys);
        Press(b, Keys.Enter, ref keys);
        b.All("article.detail").Count(a => a.Displayed).ShouldBe(1);

        // What was done.
        await Task.Yield();
        b.Go(app.Address, $"/jobs/{number}/results");
        TabTo(b, ".result-rounds input", ref keys);
        Press(b, "1", ref keys);
        TabTo(b, ".result-bar .primary", ref keys);
        Press(b, Keys.Enter, ref keys);
        b.WaitFor(d => d.Url.EndsWith("/plan", StringComparison.Ordinal), "recorded");
        b.WaitReady();
        b.One(".force").Text.ShouldContain("1 report");

        // Closing, over what is open.
        TabTo(b, ".notch[href$='/close']", ref keys);
        Press(b, Keys.Enter, ref keys);
        b.WaitFor(d => d.Url.EndsWith("/close", StringComparison.Ordinal), "closing");
        b.WaitReady();
        TabTo(b, "[name='brakes']", ref keys);
        Press(b, Keys.Space, ref keys);
        TabTo(b, "[name='sure']", ref keys);
        Press(b, Keys.Space, ref keys);
        TabTo(b, ".bench-do .primary-link", ref keys);
        Press(b, Keys.Enter, ref keys);
        b.WaitFor(d => d.FindElement(By.CssSelector("h1")).Text.Contains("closed", StringComparison.Ordinal), "closed");
        keys.ShouldBeLessThan(260, "a job by keyboard alone is still a job");
    }

    private static bool At(Browser b, string css) =>
        (bool)b.Driver.ExecuteScript("return document.activeElement.matches(arguments[0])", css)!;

    private static void Press(Browser b, string key, ref int keys)
    {
        new Actions(b.Driver).SendKeys(key).Perform();
        keys++;
    }

    private static void TabTo(Browser b, string css, ref int keys)
    {
        for (var i = 0; i < 120; i++)
        {
            if (At(b, css))
            {
                return;
            }

            Press(b, Keys.Tab, ref keys);
        }

        throw new InvalidOperationException($"Tab never reached {css} on {b.Driver.Url}");
    }
}
