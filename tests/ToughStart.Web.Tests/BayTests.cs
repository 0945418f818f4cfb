using OpenQA.Selenium;

namespace ToughStart.Web.Tests;

/// <summary>The bay on phones: two people at one vehicle, a network that goes, a page loaded anew over a film that dries.</summary>
[Collection("bay")]
public sealed class BayTests(AppFixture app)
{
    private sealed class Phone : IDisposable
    {
        public Phone(AppFixture app, string user, int job)
        {
            B = new Browser(390, 844);
            B.Go(app.Address, $"/jobs/{job}/bay", user);
            Settle();
        }

        public Browser B { get; }

        public string Phase => B.One(".bay").GetDomAttribute("data-phase") ?? "";

        public string Urgency => B.One(".bay").GetDomAttribute("data-urgency") ?? "";

        public string Link => B.Texts(".bay-link")[0];

        public string Title => B.Texts(".bay-main h1")[0];

        public int Lines => B.All(".bay-line").Count;

        public void Wait(Func<Phone, bool> what, string name) =>
            B.WaitFor(_ => what(this), $"{name}; now {Phase}, {Link}, {Title}, {string.Join(' ', B.Texts(".bay-said, .bay-offer"))}");

        /// <summary>Presses what is done next, and sees that something came of it.</summary>
        public void Next()
        {
            var before = Shown;
            B.One(".bay-next").Click();
            Wait(p => p.Shown != before, "something comes of it");
            Settle();
        }

        public void Press(string what, string? word = null) =>
            B.One($"[data-do='{what}']{(word is null ? "" : $"[data-word='{word}']")}").Click();

        public void Reload()
        {
            B.Driver.Navigate().Refresh();
            B.WaitReady();
            Settle();
        }

        public void Network(bool there)
        {
            B.Driver.ExecuteCdpCommand("Network.enable", []);
            B.Driver.ExecuteCdpCommand(
                "Network.emulateNetworkConditions",
                new Dictionary<string, object?>
                {
                    ["offline"] = !there,
                    ["latency"] = 0,
                    ["downloadThroughput"] = -1,
                    ["uploadThroughput"] = -1,
                }
            );
        }

        /// <summary>Works on until a phase comes.</summary>
        public void WorkTo(string phase)
        {
            for (var i = 0; i < 40 && Phase != phase; i++)
            {
                if (Phase == "look")
                {
                    B.One(".bay-answer").Click();
                }

                Next();
            }

            Phase.ShouldBe(phase);
        }

        private string Shown => string.Join('|', B.Texts(".bay-main, .bay-next, .bay-lines .plate-words"));

        /// <summary>The same thing within a moment counts once: a test is quicker than a thumb.</summary>
        private static void Settle() => Thread.Sleep(450);

        public void Dispose() => B.Dispose();
    }

    [Fact]
    public void Two_phones_work_one_vehicle_through_a_lost_network_and_a_film_that_dries()
    {
        using var tam = new Phone(app, "tam", 104);
        using var odile = new Phone(app, "odile", 104);
        tam.Phase.ShouldBe("start");
        tam.Next();
        tam.Wait(p => p.Phase == "ready", "what to put on before the first water");
        odile.Wait(p => p.Phase != "start", "the other phone hears that it has begun");

        // A film on one phone is a line on both; it was a mistake, and is one no more.
        tam.WorkTo("apply");
        tam.Next();
        tam.Phase.ShouldBe("dwell");
        odile.Wait(p => p.Lines > 0, "the other phone sees the film");
        tam.Press("undo");
        tam.Wait(p => p.B.All("[data-do='undo-sure']").Count > 0, "asked twice");
        tam.Press("undo-sure");
        tam.Wait(p => p.Phase == "apply" && p.Lines == 0, "nothing was put on");
        odile.Wait(p => p.Lines == 0, "nor is anything there for the other");

        // Put on in earnest; the page is loaded anew in the middle of the dwell, and when the time is over it says so on both.
        tam.Next();
        tam.Phase.ShouldBe("dwell");
        tam.Reload();
        (tam.Phase, tam.Lines > 0).ShouldBe(("dwell", true), "a page loaded anew forgets no film");
        for (var minutes = 0; minutes < 20 && tam.Urgency is not ("now" or "dried"); minutes += 2)
        {
            AppFixture.Clock.Advance(TimeSpan.FromMinutes(2));
            tam.Reload();
        }

        odile.Reload();
        tam.Wait(p => p.Urgency is "now" or "dried", "the alarm");
        odile.Wait(p => p.Urgency is "now" or "dried", "the alarm on every phone of the job");
        tam.Title.ShouldContain("rinse", Case.Insensitive);
        tam.Next();
        tam.Wait(p => p.Urgency == "calm", "it is off");
        odile.Wait(p => p.Lines == 0, "and off for the other too");

        // Odile's phone loses the network, and she works on: the line and its clock go on, and nothing of it is lost.
        odile.Press("sheet", "more");
        odile.Wait(p => p.B.All("[data-do='sheet'][data-word='steps']").Count > 0, "more");
        odile.Press("sheet", "steps");
        odile.Wait(p => p.B.All("[data-do='take-step']").Count > 2, "steps to choose from");
        odile.B.Press(odile.B.All("[data-do='take-step']")[^2]);
        odile.Wait(p => p.Phase is "ready" or "apply" or "work", "her own step");
        odile.Network(there: false);
        for (var i = 0; i < 2; i++)
        {
            odile.Next();
        }

        odile.Wait(p => p.Link.Contains("offline", StringComparison.Ordinal), "she is told that she is alone");
        var alone = odile.Title;
        odile.Network(there: true);
        odile.B.Driver.ExecuteScript("dispatchEvent(new Event('online'))");
        odile.Wait(p => p.Link.EndsWith("live", StringComparison.Ordinal), "all she did is on file");
        odile.Title.ShouldBe(alone);

        // A look nobody could make sure of asks why, and is asked again.
        tam.WorkTo("look");
        tam.Press("answer", "inconclusive");
        tam.Wait(p => p.B.All("[data-do='because']").Count == 5, "why could nobody tell?");
        tam.B.One(".bay-next").Enabled.ShouldBeFalse();
        tam.Press("because", "light");
        tam.Next();
        tam.Phase.ShouldBe("look", "could not tell is never clean");
        tam.WorkTo("apply");

        // Gas: every phone stops, and goes on only when somebody says so.
        odile.Press("sheet", "more");
        odile.Wait(p => p.B.All("[data-word='trouble']").Count > 0, "more");
        odile.Press("sheet", "trouble");
        odile.Wait(p => p.B.All("[data-word='gas']").Count > 0, "trouble");
        odile.Press("happened", "gas");
        tam.Wait(p => p.Phase == "stop", "everybody stops");
        tam.Next();
        odile.Wait(p => p.Phase != "stop", "everybody goes on");

        // The plan from here is offered, and taken by one it counts for both.
        tam.Wait(p => p.B.All("[data-do='take']").Count > 0, "another plan is offered");
        tam.Wait(
            p =>
            {
                // What the other did meanwhile may have made another one: it is looked at, and taken then.
                p.B.All("[data-do='take']").FirstOrDefault()?.Click();
                Thread.Sleep(1500);
                return p.B.All("[data-do='take']").Count == 0;
            },
            "it counts"
        );
        // Whoever takes a plan that is offered no more is refused, and told: a browser writes that down as an error.
        bool Expected(string e) =>
            e.Contains("vibrate", StringComparison.Ordinal)
            || (e.Contains("/decide", StringComparison.Ordinal) && e.Contains("409", StringComparison.Ordinal));
        tam.B.ConsoleErrors().Where(e => !Expected(e)).ShouldBeEmpty();
    }

    [Fact]
    public void A_phone_that_is_started_anew_without_a_network_knows_its_films_and_says_look()
    {
        using var tam = new Phone(app, "tam", 112);
        tam.Next();
        tam.WorkTo("dwell");
        tam.B.WaitFor(
            _ =>
                tam.B.Driver.ExecuteAsyncScript(
                    """
                    const done = arguments[arguments.length - 1];
                    navigator.serviceWorker.ready.then(async () =>
                      done(navigator.serviceWorker.controller !== null && (await caches.match(location.href)) !== undefined));
                    """
                )
                    is true,
            "the worker has the page"
        );
        tam.Network(there: false);
        tam.Reload();
        (tam.Phase, tam.Lines > 0).ShouldBe(("dwell", true), "the page, the plan and the film are on the phone");
        tam.Link.ShouldContain("offline");
        tam.Title.ShouldBe("Look at it", StringCompareShould.IgnoreCase);
        tam.B.Texts(".plate-words")[0].ShouldContain("look at the panel", Case.Insensitive, "nobody knows how long it slept");
        tam.Next();
        tam.Network(there: true);
        tam.B.Driver.ExecuteScript("dispatchEvent(new Event('online'))");
        tam.Wait(p => p.Link.EndsWith("live", StringComparison.Ordinal) && p.Lines == 0, "the rinse is on file");

        // A page of another build goes on until the run is over: it waits under More.
        tam.B.Driver.ExecuteScript("document.querySelector('.bay').dataset.build = 'older'");
        tam.Press("sheet", "more");
        tam.Wait(p => p.B.All("[data-do='newer']").Count > 0, "a newer one waits");
        tam.Press("newer");
        tam.B.WaitReady();
        tam.B.WaitFor(d => d.FindElement(By.CssSelector(".bay")).GetDomAttribute("data-build") == Bay.BayDesk.Build, "the newer page");
    }

    [Fact]
    public void It_is_worked_by_keys_alone_as_with_a_presenters_remote()
    {
        using var tam = new Phone(app, "tam", 108);
        var page = tam.B.One("body");
        page.SendKeys(Keys.PageDown);
        tam.Wait(p => p.Phase == "ready", "begun");
        Thread.Sleep(450);
        for (var i = 0; i < 12 && tam.Phase != "dwell"; i++)
        {
            if (tam.Phase == "look")
            {
                tam.B.One(".bay-answer").SendKeys(Keys.Enter);
                Thread.Sleep(450);
            }

            tam.B.One("body").SendKeys(Keys.PageDown);
            Thread.Sleep(600);
        }

        tam.Phase.ShouldBe("dwell");
        tam.B.One("body").SendKeys("b");
        tam.Wait(_ => Said("rewetted") == 1, "black wets again");
        tam.Phase.ShouldBe("dwell");
        Thread.Sleep(450);
        tam.B.One("body").SendKeys(Keys.PageUp);
        tam.Wait(_ => Said("undone") == 1, "previous takes it back");
        tam.Phase.ShouldBe("dwell", "the wetting is taken back, the film stays");

        int Said(string kind)
        {
            using var db = app.NewContext();
            return db.Events.Count(e => e.Kind == kind && db.Jobs.Any(j => j.Id == e.JobId && j.Number == 108));
        }
    }
}
