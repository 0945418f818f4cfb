using System.Collections.Concurrent;

namespace ToughStart.Web.Tests;

/// <summary>Every page at bench and phone width, by day and in the dark: no serious accessibility fault, nothing sideways, nothing tiny.</summary>
[Collection("app")]
public sealed class AuditTests(AppFixture app)
{
    private static readonly string[] Pages =
    [
        "/",
        "/?show=done",
        "/clients",
        "/shop",
        "/words",
        "/jobs/new",
        "/jobs/104/intake",
        "/jobs/104/survey",
        "/jobs/104/day",
        "/jobs/110/day",
        "/jobs/104/plan",
        "/jobs/112/plan",
        "/jobs/105/plan",
        "/jobs/104/mix",
        "/jobs/104/mix?leaf=buy",
        "/jobs/104/mix?leaf=drain",
        "/jobs/104/timeline",
        "/jobs/104/card",
        "/jobs/104/bay",
        "/wall",
        "/jobs/104/results",
        "/jobs/104/gate",
        "/jobs/104/handover",
        "/jobs/104/report",
        "/logbook",
        "/learning",
        "/jobs/104/tests",
        "/jobs/104/photos",
        "/jobs/104/rules",
        "/jobs/104/compare",
        "/jobs/104/close",
        "/shelf",
        "/shelf/new",
        "/shelf/import",
        "/kit",
        "/bench",
        "/bottles",
        "/identify?colour=rust&iron=purple",
        "/jobs/112/tests",
        "/bottles/labels?n=1",
        "/compatibility",
        "/identify",
        "/sources",
    ];

    /// <summary>Every page, looked at in two browsers side by side.</summary>
    private void Each(int width, int height, Action<Browser, string, ConcurrentBag<string>> look)
    {
        var found = new ConcurrentBag<string>();
        Parallel.ForEach(Pages.Select((path, i) => (path, i)).GroupBy(p => p.i % 2, p => p.path), half =>
        {
            using var b = new Browser(width, height);
            foreach (var path in half)
            {
                b.Go(app.Address, path);
                look(b, path, found);
                foreach (var e in b.ConsoleErrors())
                {
                    found.Add($"{path}: {e}");
                }
            }
        });
        found.ShouldBeEmpty();
    }

    /// <summary>At a bench: by day, then in the dark, which changes colours and nothing else, then at twice the size.</summary>
    [Fact]
    public void No_page_has_a_serious_fault_or_scrolls_sideways_or_is_tiny() => Each(1280, 800, (b, path, found) =>
        {
            foreach (var v in b.AxeViolations().Concat(Faults(b)))
            {
                found.Add($"{path}: {v}");
            }

            b.Dark(true);
            foreach (var v in b.AxeViolations("color-contrast"))
            {
                found.Add($"{path}, dark: {v}");
            }

            b.Dark(false);
            b.Resize(640, 700);
            foreach (var v in Faults(b))
            {
                found.Add($"{path} at twice the size: {v}");
            }

            b.Resize(1280, 800);
        });

    /// <summary>Stations that are worked at with a phone in hand.</summary>
    private static readonly string[] OnPhones = ["/survey", "/plan", "/mix", "/day", "/bay", "/results", "/gate", "/handover"];

    [Fact]
    public void On_a_phone_neither() => Each(390, 844, (b, path, found) =>
        {
            var axe = OnPhones.Any(p => path.EndsWith(p, StringComparison.Ordinal)) ? b.AxeViolations() : [];
            foreach (var v in Faults(b).Concat(axe))
            {
                found.Add($"{path}: {v}");
            }
        });

    /// <summary>
    /// Kilobytes a page may weigh before it is compressed. A survey carries its brushes, its net and every finding.
    /// </summary>
    private static int Most(string path) => path.EndsWith("/survey", StringComparison.Ordinal) ? 300 : 150;

    [Fact]
    public async Task No_page_grows_heavier()
    {
        var heavy = new List<string>();
        foreach (var path in Pages.Concat(["/jobs/104/quote", "/days", "/sources?table=treatments"]))
        {
            var kilobytes = (await app.Http.GetByteArrayAsync(path, TestContext.Current.CancellationToken)).Length / 1000;
            if (kilobytes > Most(path))
            {
                heavy.Add($"{path}: {kilobytes} kB");
            }
        }

        heavy.ShouldBeEmpty();
    }

    /// <summary>What pages draw with is asked for once, under an address that changes with it; nothing else is drawn there.</summary>
    [Fact]
    public async Task What_pages_draw_with_is_kept_by_browsers()
    {
        var stop = TestContext.Current.CancellationToken;
        var page = await app.Http.GetStringAsync("/jobs/104/survey", stop);
        var files = System.Text.RegularExpressions.Regex.Matches(page, "/drawn/[^\"#]*").Select(m => m.Value).Distinct().ToArray();
        files.Length.ShouldBe(2, "the marks of textures, and the outlines of that vehicle");
        foreach (var file in files)
        {
            using var answer = await app.Http.GetAsync(file, stop);
            answer.Content.Headers.ContentType!.MediaType.ShouldBe("image/svg+xml");
            answer.Headers.CacheControl!.ToString().ShouldContain("immutable");
            var drawn = await answer.Content.ReadAsStringAsync(stop);
            var names = System.Text.RegularExpressions.Regex.Matches(page, System.Text.RegularExpressions.Regex.Escape(file) + "#([^\"]*)");
            names.Select(m => m.Groups[1].Value).Distinct().ShouldAllBe(n => drawn.Contains($" id=\"{n}\""), file);
        }

        using (var other = await app.Http.GetAsync(files[0][..^1] + "-", stop))
        {
            other.Headers.CacheControl!.NoStore.ShouldBeTrue("another version's drawing is not kept under this one's address");
        }

        foreach (var none in (string[])["/drawn/raft/5330x1860x1800.svg", "/drawn/pickup/5x1x1.svg", "/drawn/pickup/wide.svg"])
        {
            (await app.Http.GetAsync(none, stop)).StatusCode.ShouldBe(System.Net.HttpStatusCode.NotFound, none);
        }
    }

    private static IEnumerable<string> Faults(Browser b) =>
        (
            (IEnumerable<object>)
                b.Driver.ExecuteScript(
                    """
                    const out = [];
                    const over = document.documentElement.scrollWidth - document.documentElement.clientWidth;
                    if (over > 0) {
                      const wide = [...document.querySelectorAll('main *')].filter(e => e.getBoundingClientRect().right > document.documentElement.clientWidth + 1 && !e.closest('.drop-box'));
                      out.push(`scrolls ${over} px sideways: ${wide.slice(0, 2).map(e => e.tagName + '.' + (e.getAttribute('class') || '')).join(' ')}`);
                    }
                    const walk = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
                    const tiny = new Set();
                    while (walk.nextNode()) {
                      const e = walk.currentNode.parentElement;
                      if (!walk.currentNode.textContent.trim() || !e.checkVisibility({ checkOpacity: true }) || e.closest('svg,script,style,.sr,option,noscript')) continue;
                      const px = parseFloat(getComputedStyle(e).fontSize);
                      if (px < 11) tiny.add(`${e.tagName}.${e.getAttribute('class') || ''} ${px} px`);
                    }
                    tiny.forEach(t => out.push('tiny: ' + t));
                    return out;
                    """
                )!
        ).Cast<string>();
}
