using System.Net;
using ToughStart.Core.Formats;
using ToughStart.Web;

namespace ToughStart.Web.Tests;

/// <summary>The shop's way of writing money, measures and days, on every page; in a shop of its own.</summary>
public sealed class ShopTests(FuzzFixture shop) : IClassFixture<FuzzFixture>
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    private static async Task<HttpResponseMessage> Keep(HttpClient http, params (string Name, string Value)[] changes)
    {
        var form = await RecordTests.Form(http, "/shop");
        foreach (var (name, value) in changes)
        {
            form[name] = value;
        }

        return await http.PostAsync("/shop", new FormUrlEncodedContent(form), Stop);
    }

    [Fact]
    public async Task Settings_reach_every_page_and_only_an_owner_sets_them()
    {
        using var owner = await shop.App.SignedInAsync("odile");
        using var tam = await shop.App.SignedInAsync("tam");
        var looked = RecordTests.Html(await tam.GetStringAsync("/shop", Stop));
        looked.QuerySelectorAll("main button[type=submit]").Length.ShouldBe(0);

        (await Keep(owner, ("Currency", "7"))).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await Keep(owner, ("Volume", "barrels"))).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await Keep(owner, ("Day", "yy"))).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);

        (
            await Keep(
                owner,
                ("Name", "Slackwater Yard"),
                ("Currency", "$"),
                ("Tax", "sales tax"),
                ("Volume", "us"),
                ("Temperature", "f"),
                ("Length", "in"),
                ("Day", "MMM d, yyyy")
            )
        ).EnsureSuccessStatusCode();
        try
        {
            var sample = await tam.GetStringAsync("/shop", Stop);
            sample.ShouldContain("8.4 fl oz water");
            sample.ShouldContain("89 °F");
            var plan = RecordTests.Html(await tam.GetStringAsync("/jobs/104/plan", Stop));
            var ranges = plan.QuerySelector(".ranges")!.TextContent;
            ranges.ShouldContain("gal");
            ranges.ShouldContain("fl oz");
            ranges.ShouldContain("$");
            ranges.ShouldContain("before sales tax");
            foreach (var path in new[] { "/jobs/104/mix", "/jobs/104/card", "/shelf", "/kit", "/bottles", "/bottles/labels?n=1" })
            {
                var main = RecordTests.Html(await tam.GetStringAsync(path, Stop)).QuerySelector("main")!;
                foreach (var left in main.QuerySelectorAll("script,style,textarea,datalist"))
                {
                    left.Remove();
                }

                System.Text.RegularExpressions.Regex.Matches(main.TextContent, @"\d ml\b").Select(m => m.Value).ShouldBeEmpty(path);
            }

            // What is typed stays in the unit its field asks for, and programs get SI units.
            (await tam.GetStringAsync("/api/v1/jobs/104/survey", Stop)).ShouldNotContain("fl oz");
        }
        finally
        {
            (
                await Keep(
                    owner,
                    ("Currency", "€"),
                    ("Tax", "VAT"),
                    ("Volume", "metric"),
                    ("Temperature", "c"),
                    ("Length", "mm"),
                    ("Day", "d MMM yyyy")
                )
            ).EnsureSuccessStatusCode();
        }
    }

    [Fact]
    public void Tags_scripts_and_what_is_typed_are_left_alone()
    {
        var us = new Ways("$", "", VolumeWay.UsOunces, true, true, Ways.Days[0], false);
        WaysOfPages
            .Page(
                "<p title=\"250 ml\">250 ml</p><script>const a = \"250 ml\";</script><textarea>250 ml</textarea><input value=\"20 °C\" />",
                us
            )
            .ShouldBe(
                "<p title=\"250 ml\">8.5 fl oz</p><script>const a = \"250 ml\";</script><textarea>250 ml</textarea><input value=\"20 °C\" />"
            );
    }
}
