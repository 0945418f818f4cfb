using System.Collections.ObjectModel;
using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;
using OpenQA.Selenium.Support.UI;

[assembly: AssemblyFixture(typeof(ToughStart.Web.Tests.Chromiums))]

namespace ToughStart.Web.Tests;

/// <summary>Chromium processes that tests have done with, for the next: to start one takes as long as a short test.</summary>
public sealed class Chromiums : IDisposable
{
    private static readonly System.Collections.Concurrent.ConcurrentBag<Chromium> Idle = [];

    internal static Chromium Take() => Idle.TryTake(out var idle) ? idle : new();

    /// <summary>Given back as if nobody had been here: another tab, no cookies, nothing kept; what cannot be cleaned is ended.</summary>
    internal static void Give(Chromium used, IEnumerable<Uri> visited)
    {
        try
        {
            used.Clean(visited);
            Idle.Add(used);
        }
        catch (WebDriverException)
        {
            used.Dispose();
        }
    }

    public void Dispose()
    {
        while (Idle.TryTake(out var idle))
        {
            idle.Dispose();
        }
    }
}

/// <summary>One headless Chromium from Debian's packages with a profile of its own.</summary>
internal sealed class Chromium : IDisposable
{
    private readonly string _profile = Directory.CreateTempSubdirectory("tough-start-chromium").FullName;

    public Chromium()
    {
        var options = new ChromeOptions { BinaryLocation = "/usr/bin/chromium" };
        options.AddArguments(
            "--headless",
            "--no-sandbox",
            "--disable-gpu",
            "--disable-quic",
            "--no-first-run",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--disable-dev-shm-usage",
            "--hide-scrollbars",
            "--no-proxy-server",
            $"--user-data-dir={_profile}",
            "--window-size=1280,800"
        );
        options.SetLoggingPreference(LogType.Browser, LogLevel.All);
        var service = ChromeDriverService.CreateDefaultService("/usr/bin", "chromedriver");
        service.SuppressInitialDiagnosticInformation = true;
        service.HideCommandPromptWindow = true;
        Driver = new ChromeDriver(service, options, TimeSpan.FromSeconds(60));
    }

    public ChromeDriver Driver { get; }

    /// <summary>Size, media, network and what a session keeps go with the tab; cookies and what pages have stored go by hand.</summary>
    public void Clean(IEnumerable<Uri> visited)
    {
        string[] old = [.. Driver.WindowHandles];
        var tab = Driver.SwitchTo().NewWindow(WindowType.Tab).CurrentWindowHandle;
        foreach (var handle in old)
        {
            Driver.SwitchTo().Window(handle).Close();
        }

        Driver.SwitchTo().Window(tab);
        Driver.ExecuteCdpCommand("Network.clearBrowserCookies", []);
        foreach (var origin in visited.Select(v => v.GetLeftPart(UriPartial.Authority)).Distinct())
        {
            Driver.ExecuteCdpCommand(
                "Storage.clearDataForOrigin",
                new Dictionary<string, object?> { ["origin"] = origin, ["storageTypes"] = "all" }
            );
        }

        _ = Driver.Manage().Logs.GetLog(LogType.Browser);
    }

    public void Dispose()
    {
        Driver.Quit();
        Driver.Dispose();
        try
        {
            Directory.Delete(_profile, true);
        }
        catch (IOException)
        {
            // Chromium may still be letting go of a file; the folder is in the system's temporary place.
        }
    }
}

/// <summary>A browser nobody has used, for one test; console errors are kept.</summary>
public sealed class Browser : IDisposable
{
    private readonly Chromium _chromium = Chromiums.Take();
    private readonly HashSet<Uri> _visited = [];

    public Browser(int width = 1280, int height = 800) => Resize(width, height);

    public ChromeDriver Driver => _chromium.Driver;

    /// <summary>The window at another size; under 700 px wide it is a phone's from its start on.</summary>
    public void Resize(int width, int height) =>
        Driver.ExecuteCdpCommand(
            "Emulation.setDeviceMetricsOverride",
            new Dictionary<string, object?>
            {
                ["width"] = width,
                ["height"] = height,
                ["deviceScaleFactor"] = 1,
                ["mobile"] = width < 640,
            }
        );

    /// <summary>Opens a page; signs in first where the door is shut.</summary>
    public void Go(Uri address, string path, string user = "tam")
    {
        Open(address, path);
        if (Driver.Url.Contains("/sign-in", StringComparison.Ordinal) && path != "/sign-in")
        {
            One($"[data-person='{user}']").Click();
            WaitFor(d => !d.Url.Contains("/sign-in", StringComparison.Ordinal), "sign-in");
            WaitReady();
        }
    }

    private void Open(Uri address, string path)
    {
        _visited.Add(address);
        try
        {
            Driver.Navigate().GoToUrl(new Uri(address, path));
        }
        catch (WebDriverException e) when (e.Message.Contains("ERR_CONNECTION_REFUSED", StringComparison.Ordinal))
        {
            // Seen now and then at a first page, cause unknown: say whether the application was there for others.
            using var probe = new System.Net.Sockets.TcpClient();
            var there = true;
            try
            {
                probe.Connect(address.Host, address.Port);
            }
            catch (System.Net.Sockets.SocketException)
            {
                there = false;
            }

            throw new InvalidOperationException(
                $"{address} refused the browser; a plain connection {(there ? "is accepted: look at the browser" : "is refused too: look at the application")}",
                e
            );
        }

        WaitReady();
    }

    public void WaitReady() =>
        WaitFor(
            d => (string?)((IJavaScriptExecutor)d).ExecuteScript("return document.documentElement.dataset.ready || ''") == "yes",
            "the page's script"
        );

    /// <summary>A busy machine takes its time; a test that passes waits no longer for it.</summary>
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(30),
        Often = TimeSpan.FromMilliseconds(40);

    public void WaitFor(Func<IWebDriver, bool> what, string name)
    {
        var wait = new WebDriverWait(Driver, Patience) { Message = name, PollingInterval = Often };
        wait.IgnoreExceptionTypes(typeof(StaleElementReferenceException), typeof(NoSuchElementException));
        wait.Until(d =>
        {
            try
            {
                return what(d);
            }
            catch (UnknownErrorException e) when (e.Message.Contains("does not belong to the document", StringComparison.Ordinal))
            {
                // What the driver says, now and then, of an element of the page just left: as stale as any.
                return false;
            }
        });
    }

    public IWebElement One(string css) => Driver.FindElement(By.CssSelector(css));

    public ReadOnlyCollection<IWebElement> All(string css) => Driver.FindElements(By.CssSelector(css));

    /// <summary>The words shown there, read in one go: a part the page puts in afresh meanwhile cannot go stale between two reads.</summary>
    public string[] Texts(string css) =>
        (
            (IEnumerable<object>)
                Driver.ExecuteScript("return [...document.querySelectorAll(arguments[0])].map(e => e.innerText.trim())", css)!
        )
            .Cast<string>()
            .ToArray();

    /// <summary>The page as it comes out of a printer, sizes in mm.</summary>
    public byte[] Printed(double widthMm, double heightMm)
    {
        var answer =
            (Dictionary<string, object>)
                Driver.ExecuteCdpCommand(
                    "Page.printToPDF",
                    new Dictionary<string, object?>
                    {
                        ["paperWidth"] = widthMm / 25.4,
                        ["paperHeight"] = heightMm / 25.4,
                        ["printBackground"] = true,
                        ["preferCSSPageSize"] = true,
                    }
                )!;
        return Convert.FromBase64String((string)answer["data"]);
    }

    public IWebElement Zone(string id) => One($"[data-zone='{id}']");

    /// <summary>Clicks what may lie outside the window or under a sticky bar; waits for the script of a page just come to, which is deaf until then.</summary>
    public void Press(IWebElement e)
    {
        WaitReady();
        Driver.ExecuteScript("arguments[0].scrollIntoView({block:'center'})", e);
        e.Click();
    }

    /// <summary>The same by its selector: a part that the page puts in afresh meanwhile is looked for again.</summary>
    public void Press(string css)
    {
        const int Times = 4;
        for (var i = 1; ; i++)
        {
            try
            {
                Press(One(css));
                return;
            }
            catch (StaleElementReferenceException) when (i < Times)
            {
                // Looked for again.
            }
        }
    }

    /// <summary>Day or dark.</summary>
    public void Dark(bool dark) =>
        Driver.ExecuteCdpCommand(
            "Emulation.setEmulatedMedia",
            new Dictionary<string, object?>
            {
                ["features"] = new object[]
                {
                    new Dictionary<string, object> { ["name"] = "prefers-color-scheme", ["value"] = dark ? "dark" : "light" },
                },
            }
        );

    /// <summary>Opens what something is folded away in.</summary>
    public void Unfold(IWebElement e) =>
        Driver.ExecuteScript("for (let d = arguments[0].closest('details'); d; d = d.parentElement.closest('details')) d.open = true", e);

    /// <summary>Chooses an option the way a person does: the list says so to the page.</summary>
    public void Choose(IWebElement select, string value) => select.FindElement(By.CssSelector($"option[value='{value}']")).Click();

    /// <summary>Serious and critical accessibility violations by axe-core.</summary>
    /// <param name="only">The one rule to hold the page to; null = all of them.</param>
    public IReadOnlyList<string> AxeViolations(string? only = null)
    {
        var axe = File.ReadAllText(
            Path.Combine(
                Environment.GetEnvironmentVariable("TOUGHSTART_ROOT")!,
                "src",
                "ToughStart.Web",
                "node_modules",
                "axe-core",
                "axe.min.js"
            )
        );
        Driver.ExecuteScript(axe);
        var found =
            (IEnumerable<object>)
                Driver.ExecuteAsyncScript(
                    """
                    const done = arguments[arguments.length - 1];
                    axe.run(document, { resultTypes: ['violations'], ...(arguments[0] && { runOnly: [arguments[0]] }) }).then(r => done(r.violations.filter(v => v.impact === 'serious' || v.impact === 'critical')
                      .map(v => v.id + ': ' + v.nodes.slice(0, 4).map(n => n.target.join(' ') + ' ' + (n.any[0] ? n.any[0].message : '')).join(' | '))));
                    """,
                    only!
                )!;
        return found.Cast<string>().ToArray();
    }

    public IReadOnlyList<string> ConsoleErrors() =>
        Driver.Manage().Logs.GetLog(LogType.Browser).Where(l => l.Level >= LogLevel.Warning).Select(l => l.Message).ToArray();

    public void Shot(string file) => Driver.GetScreenshot().SaveAsFile(file);

    public void Dispose() => Chromiums.Give(_chromium, _visited);
}
