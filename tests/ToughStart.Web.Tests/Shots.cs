using OpenQA.Selenium;

namespace ToughStart.Web.Tests;

/// <summary>Redraws docs/screenshots from demo data; runs only when asked for (./tough-start shots).</summary>
[Collection("app")]
public sealed class Shots(AppFixture app)
{
    [Fact(Explicit = true)]
    public void Main_views()
    {
        var folder = Environment.GetEnvironmentVariable("TOUGHSTART_SHOTS")!;
        Directory.CreateDirectory(folder);
        using (var b = new Browser())
        {
            Look(b, "/", "yard-pending");
            Take(b, "/", "yard", x =>
                x.WaitFor(d => d.FindElements(By.CssSelector("[data-waits='true']")).Count == 0, "every plan of the yard")
            );
            Take(b, "/jobs/112/intake", "intake");
            Look(b, "/jobs/110/survey", "survey-van", x => x.Zone("left-side-panel").Click());
            Look(b, "/jobs/111/survey", "survey-motorcycle", x => x.Zone("left-side-fairing").Click());
            Take(b, "/jobs/104/survey", "survey", x => x.Zone("left-rear-quarter").Click());
            Look(b, "/jobs/112/tests", "tests");
            Take(b, "/jobs/104/plan", "plan");
            Look(b, "/jobs/104/plan", "plan-step", x =>
            {
                x.Driver.FindElement(By.XPath("(//button[contains(@class,'step')][.//span[text()='Iron remover']])[1]")).Click();
                x.Zone("left-front-wheel-face").Click();
                x.WaitFor(
                    d =>
                        d.FindElement(By.CssSelector(".core"))
                            .GetDomAttribute("aria-label")!
                            .Contains("wheel face", StringComparison.Ordinal),
                    "core"
                );
            });
            Look(b, "/jobs/112/plan", "plan-held");
            Look(b, "/jobs/112/card", "card-held");
            Look(b, "/jobs/104/plan", "plan-flips", x =>
            {
                x.Press(x.One("[data-tab='flips']"));
                x.WaitFor(d => d.FindElements(By.CssSelector(".flip-min")).Count > 0, "flips");
            });
            Look(b, "/jobs/104/compare?with=without:stage=iron", "refuse", x =>
                x.WaitFor(d => d.FindElements(By.CssSelector(".front-dot")).Count > 0, "front")
            );
            Look(b, "/jobs/104/compare?with=stock:only", "shelf-alone", x =>
                x.WaitFor(d => d.FindElements(By.CssSelector(".front-dot")).Count > 0, "front")
            );
            Look(b, "/jobs/104/rules", "rules-sets", x =>
            {
                x.Press(x.One(".bench-head .drop summary"));
                x.One(".drop input[name='name']").SendKeys("Winter yard");
                x.Press(x.Driver.FindElement(By.XPath("//button[contains(., 'Keep them')]")));
                x.WaitFor(d => d.PageSource.Contains("Winter yard"), "the set is kept");
                x.Press(x.One(".bench-head .drop summary"));
            });
            Look(b, "/jobs/104/plan", "plan-products", x => x.Press(x.One("[data-tab='products']")));
            Look(b, "/jobs/104/plan", "plan-client", x => x.Press(x.One("[data-tab='client']")));
            Look(b, "/jobs/104/plan", "plan-before-water", x => x.Press(x.One("details[data-tab='steps'] summary")));
            Look(b, "/jobs/104/plan", "plan-buy", x =>
            {
                x.Press(x.One("[data-tab='refer']"));
                x.WaitFor(d => d.FindElement(By.CssSelector("[data-tab='refer'] [x-ref='buy']")).Text.Length > 10, "what to buy");
            });
            Look(b, "/jobs/110/plan", "plan-under", x =>
                x.Press(x.Driver.FindElement(By.XPath("//button[contains(@class,'step')][.//span[contains(., 'left wet')]]")))
            );
            Look(b, "/jobs/104/compare", "compare", x => x.WaitFor(d => d.FindElements(By.CssSelector(".front-dot")).Count > 0, "front"));
            Look(b, "/jobs/104/rules", "rules", x =>
            {
                x.Press(x.One("[name='rule.strongChemistry'][value='neutral-only']"));
                x.WaitFor(d => d.FindElements(By.CssSelector(".rule-preview .compare-lines")).Count > 0, "preview");
                x.Driver.ExecuteScript("window.scrollTo(0, 0)");
            });
            Take(b, "/jobs/104/mix", "mix");
            Take(b, "/days", "days", x =>
                new OpenQA.Selenium.Support.UI.WebDriverWait(x.Driver, TimeSpan.FromSeconds(120)).Until(_ => x.All(".days-block").Count > 3)
            );
            Take(b, "/jobs/109/timeline", "timeline", x =>
            {
                foreach (var on in x.All("input[name=on]").Take(2).Where(o => !o.Selected))
                {
                    on.Click();
                }

                x.Press(x.One(".tl-crew button"));
                x.WaitFor(_ => x.Texts(".tl-lists h2").Length == 2, "two people");
                x.WaitReady();
                x.Driver.ExecuteScript(
                    "const r=document.querySelector('[data-scrub]'); r.value=2700; r.dispatchEvent(new Event('input')); window.scrollTo(0, 0)"
                );
            });
            Look(b, "/jobs/104/results", "results-draft");
            Look(b, "/jobs/105/plan", "refer-only");
            Look(b, "/identify?job=104&colour=black&shape=dots&place=low&history=motorway", "identify");
            Look(b, "/sources", "sources");
            Take(b, "/jobs/110/day", "day", x =>
            {
                x.Zone("roof").Click();
                x.WaitFor(d => d.FindElement(By.CssSelector(".film-now")).GetDomAttribute("d") is { Length: > 20 }, "the film");
            });
            Look(b, "/jobs/110/day", "day-low", x => x.Driver.ExecuteScript("window.scrollTo(0, 2000)"));
            Look(b, "/jobs/110/plan", "plan-sections", x =>
                x.Press(x.Driver.FindElement(By.XPath("(//button[contains(@class,'step')][.//span[contains(text(),'wash')]])[last()]")))
            );
            Take(b, "/shelf", "shelf");
            Look(b, "/shelf", "product", x => x.Press(x.Driver.FindElement(By.XPath("//a[.//b[text()='Saltmarsh Citrus']]"))));
            Look(b, "/kit", "kit");
            Look(b, "/kit", "lance", x => x.Press(x.Driver.FindElement(By.XPath("//a[.//b[text()='Bay lance']]"))));
            Look(b, "/bench?strength=10:1", "bench");
            Look(b, "/bench/nozzle?size=2&angle=25&psi=2000&cm=45", "nozzle");
            Look(b, "/compatibility?Group=paint&Agent=degreaser&Surface=gloss-film", "compatibility");
            Look(b, "/compatibility?After=true&Agent=reducer&Surface=acid", "after");
            Look(b, "/bottles", "bottles");
            Look(b, "/shelf/new", "product-new");
            Look(b, "/bench?strength=1:9&total=4000", "bench-split");
            Look(b, "/jobs/104/mix", "mix-log", x => x.Press(x.All(".mixed summary")[1]));
            Look(b, "/bottles/labels", "labels");
            Look(b, "/jobs/110/mix", "mix-van");
            Look(b, "/jobs/110/day", "day-places", x =>
            {
                foreach (var drop in x.All(".day-do .drop summary").Take(1))
                {
                    x.Press(drop);
                }
            });
            Look(b, "/jobs/104/plan", "plan-tests", x => x.Press(x.One("[data-tab='tests']")));
            Look(b, "/jobs/104/mix?leaf=buy", "mix-buy");
            Look(b, "/jobs/104/photos", "photos");
        }

        using (var b = new Browser(900, 1270))
        {
            Take(b, "/jobs/104/card", "card");
        }

        using var phone = new Browser(390, 844);
        Look(phone, "/jobs/104/results", "results-phone");
        Look(phone, "/jobs/112/plan", "plan-held-phone");
        Look(phone, "/jobs/104/plan", "plan-phone");
        Look(phone, "/jobs/104/plan", "plan-client-phone", x => x.Press(x.One("[data-tab='client']")));
        Look(phone, "/jobs/110/survey", "survey-phone");
        Look(phone, "/bench?strength=1:9", "bench-phone");
        Look(phone, "/jobs/104/mix", "mix-phone");
        Look(phone, "/jobs/110/day", "day-phone");
        Look(phone, "/jobs/110/day", "day-phone-low", x =>
            x.Driver.ExecuteScript("document.querySelector('.day-ribbon').scrollIntoView()")
        );
        Look(phone, "/shelf", "shelf-phone");

        Run(Take, Look, Through);
        BayAndWall(folder);
        Quote(folder);

        // Views that are looked at when they change, and not kept.
        void Look(Browser b, string path, string name, Action<Browser>? first = null)
        {
            if (!folder.EndsWith("docs/screenshots", StringComparison.Ordinal))
            {
                Take(b, path, name, first);
            }
        }

        // Worked through in any case, for what comes after it.
        void Through(Browser b, string path, string name, Action<Browser>? first)
        {
            b.Go(app.Address, path);
            first?.Invoke(b);
            Look(b, new Uri(b.Driver.Url).PathAndQuery, name);
        }

        void Take(Browser b, string path, string name, Action<Browser>? first = null)
        {
            b.Go(app.Address, path);
            first?.Invoke(b);
            Thread.Sleep(250);
            b.Shot(Path.Combine(folder, name + ".png"));
        }
    }

    /// <summary>A quote of the owner's, and the same on the client's phone.</summary>
    private void Quote(string folder)
    {
        using var b = new Browser();
        b.Go(app.Address, "/jobs/104/quote", "odile");
        b.WaitFor(_ => b.All(".quote-lens").Count >= 4, "options");
        b.One("textarea[name=said]").SendKeys("All of it, for the summer. It must shine by Saturday.");
        b.Press(b.One("form[action*=Keep] button"));
        b.WaitFor(d => d.Url.EndsWith("#sheet", StringComparison.Ordinal), "kept");
        b.Press(b.One("form[action*=Share] button"));
        b.WaitFor(_ => b.All("input.report-link").Count == 1, "link");
        var link = b.One("input.report-link").GetAttribute("value")!;
        b.Go(app.Address, "/jobs/104/quote", "odile");
        b.WaitFor(_ => b.All(".quote-lens").Count >= 4, "options");
        b.Driver.ExecuteScript("window.scrollTo(0, 0)");
        b.Shot(Path.Combine(folder, "quote.png"));
        using var phone = new Browser(390, 844);
        phone.Driver.Navigate().GoToUrl(link);
        phone.WaitReady();
        phone.Shot(Path.Combine(folder, "quote-client.png"));
    }

    /// <summary>A run in the middle: put in force, some of it done and seen, and what is offered from here.</summary>
    private void Run(
        Action<Browser, string, string, Action<Browser>?> take,
        Action<Browser, string, string, Action<Browser>?> look,
        Action<Browser, string, string, Action<Browser>?> through
    )
    {
        using var b = new Browser();
        look(b, "/jobs/104/plan", "plan-draft", null);
        void Enter(Browser x)
        {
            x.Press(x.One(".force .primary-link"));
            x.WaitFor(d => d.FindElement(By.CssSelector(".force")).Text.Contains("in force", StringComparison.Ordinal), "in force");
        }

        through(b, "/jobs/104/plan", "run", x =>
        {
            Enter(x);
            x.Driver.Navigate().GoToUrl(x.Driver.Url.Replace("/plan", "/results", StringComparison.Ordinal));
            x.WaitFor(d => d.FindElements(By.CssSelector("html[data-ready] fieldset.result")).Count > 2, "the form");
            Answer(x, "Touch", "could not tell");
            Answer(x, "Water", "beads");
            Answer(x, "Wheel cleaner", "none");
            Answer(x, "Iron remover", "strong bleed");
            Answer(x, "Stiff brush", "foam brown");
            x.Press(x.One(".result-bar .primary"));
            x.WaitFor(
                d =>
                    d.FindElements(By.CssSelector("html[data-ready] .force")).Count > 0
                    && d.Url.EndsWith("/plan", StringComparison.Ordinal),
                "the plan"
            );
        });
        using var phone = new Browser(390, 844);
        look(phone, "/jobs/104/plan", "run-phone", null);
        look(phone, "/jobs/104/results", "run-results-phone", x =>
            x.Driver.ExecuteScript("document.querySelector('.elsewhere, .answer-unsure').scrollIntoView({ block: 'center' })")
        );
        look(b, "/jobs/104/results", "results", null);
        look(b, "/jobs/104/card", "run-card", null);
        Inspect(b);
        look(b, "/jobs/104/gate?zone=bonnet", "gate-open", null);
        look(phone, "/jobs/104/gate?zone=roof#zone", "gate-phone", null);
        Finish(b);
        take(b, "/jobs/104/handover", "handover", null);
        look(phone, "/jobs/104/handover", "handover-phone", null);
        Past(b, take);
        take(b, "/jobs/62/gate?zone=bonnet", "gate", null);
        take(b, "/jobs/60/close", "close", null);
        take(b, "/jobs/60/report", "report", null);
        look(phone, "/jobs/60/report", "report-phone", null);
        look(phone, "/logbook", "logbook-phone", null);
        look(b, "/logbook", "logbook-list", null);
        look(b, "/", "yard-due", x => x.Driver.ExecuteScript("document.querySelector('#due')?.scrollIntoView()"));
        look(b, "/jobs/new?plate=SLK%208813", "comes-again", null);
    }

    /// <summary>What is ready is wiped and sealed.</summary>
    private void Finish(Browser b)
    {
        b.Go(app.Address, "/jobs/104/handover");
        foreach (var words in new[] { "Finishing polish: done", "Panel wipe: done", "Put on" })
        {
            foreach (var despite in b.All(".hand-despite input").Take(1))
            {
                despite.SendKeys("a tent over it");
            }

            b.Driver.ExecuteScript("document.documentElement.dataset.before = 'yes'");
            b.Press(b.Driver.FindElement(By.XPath($"(//article[contains(@class,'hand-group')])[1]//button[contains(., '{words}')]")));
            b.WaitFor(_ => b.All("html[data-before]").Count == 0, "the answer");
            b.WaitReady();
        }
    }

    /// <summary>Two seasons of work, and what they teach.</summary>
    private void Past(Browser b, Action<Browser, string, string, Action<Browser>?> take)
    {
        Demo.DemoSeasons.LoadAsync(app.Services, Environment.GetEnvironmentVariable("TOUGHSTART_DEMO")!).GetAwaiter().GetResult();
        take(b, "/logbook?find=SLK%207740", "logbook", x =>
        {
            x.Press(x.One(".logbook-table tbody td:nth-child(2) a"));
            x.WaitFor(d => d.FindElements(By.CssSelector("svg.years")).Count == 1, "the cores");
        });
        take(b, "/learning", "learning", null);
    }

    /// <summary>The gate with some of it inspected: two looks, a film with a filled spot, damage that was drawn.</summary>
    private void Inspect(Browser b)
    {
        void Send(string button)
        {
            b.Driver.ExecuteScript("document.documentElement.dataset.before = 'yes'");
            b.Press(b.One(button));
            b.WaitFor(_ => b.All("html[data-before]").Count == 0, "the answer");
            b.WaitReady();
        }

        foreach (var (zone, spots) in new[] { ("bonnet", 2), ("roof", 2), ("boot-lid", 1), ("left-rear-door", 2) })
        {
            for (var i = 0; i < spots; i++)
            {
                b.Go(app.Address, $"/jobs/104/gate?zone={zone}");
                if (b.All(".gate-look").Count == 0)
                {
                    break;
                }

                foreach (var first in b.All(".gate-look fieldset .answer:first-child input, .gate-also input"))
                {
                    b.Driver.ExecuteScript("arguments[0].click()", first);
                }

                b.One("select[name=spot]").SendKeys(i == 0 ? "upper edge" : "lower edge");
                Send(".gate-look > .primary-link");
            }
        }

        // The worked example of the film table: eight healthy spots and one that is not.
        foreach (var um in new[] { 112, 118, 109, 121, 115, 196, 113, 117, 110 })
        {
            b.Go(app.Address, "/jobs/104/gate?zone=bonnet");
            b.One("input[name=readings]").SendKeys($"{um}");
            Send(".gate-gauge button");
        }

        b.Press(b.One(".gate-damage details > summary"));
        b.One("select[name=kind]").SendKeys("chip");
        b.One("input[name=mm]").SendKeys("2");
        b.One("form.gate-draw select[name=decision]").SendKeys("recommended");
        Send("form.gate-draw button");
    }

    /// <summary>A van worked live: what is wet, what is asked, and the wall.</summary>
    private void BayAndWall(string folder)
    {
        using var phone = new Browser(390, 844);
        phone.Go(app.Address, "/jobs/110/bay");
        Thread.Sleep(500);
        var (wet, asked) = (false, false);
        for (var i = 0; i < 60 && !(wet && asked); i++)
        {
            var phase = phone.One(".bay").GetDomAttribute("data-phase");
            if (phase == "look" && !asked)
            {
                phone.One(".bay-answer").Click();
                Thread.Sleep(500);
                if (!folder.EndsWith("docs/screenshots", StringComparison.Ordinal))
                {
                    phone.Shot(Path.Combine(folder, "observe.png"));
                }

                asked = true;
            }
            else if (phase == "look")
            {
                phone.One(".bay-answer").Click();
                Thread.Sleep(500);
            }

            phone.One(".bay-next").Click();
            Thread.Sleep(800);
            // A second film beside the first: the most urgent stands large.
            if (!wet && asked && phone.One(".bay").GetDomAttribute("data-phase") == "dwell" && phone.All("[data-do='ahead']").Count > 0)
            {
                phone.One("[data-do='ahead']").Click();
                Thread.Sleep(20_000);
                phone.One(".bay-next").Click();
                Thread.Sleep(25_000);
                phone.Shot(Path.Combine(folder, "bay.png"));
                wet = true;
                using var wall = new Browser(1280, 800);
                wall.Go(app.Address, "/wall");
                Thread.Sleep(1500);
                if (!folder.EndsWith("docs/screenshots", StringComparison.Ordinal))
                {
                    wall.Shot(Path.Combine(folder, "wall.png"));
                }
            }
        }

        (wet && asked).ShouldBeTrue();
    }

    private static void Answer(Browser x, string row, string word)
    {
        var rows = x.Driver.FindElements(By.XPath($"//fieldset[legend[contains(., '{row}')]]//label[span[text()='{word}']]"));
        if (rows.Count > 0)
        {
            x.Unfold(rows[0]);
            x.Press(rows[0]);
        }
    }
}
