using System.Net;
using System.Text.RegularExpressions;
using Microsoft.Extensions.Primitives;
using ToughStart.Core.Formats;
using ToughStart.Web;

namespace ToughStart.Web.Tests;

/// <summary>The shop's way of writing money, measures and days, on every page; in a shop of its own.</summary>
public sealed partial class ShopTests(FuzzFixture shop) : IClassFixture<FuzzFixture>
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

    private static readonly Ways Us = new("$", "", VolumeWay.UsOunces, true, true, Ways.Days[0], false);

    [Fact]
    public void A_form_asks_in_the_shops_units_and_reads_them_back_as_what_was_meant()
    {
        var html =
            "<label>Air, °C <input name=\"air\" value=\"20\" data-in=\"°C\" placeholder=\"15\" /></label>"
            + "<label>left, ml <input name=\"left\" value=\"250\" data-in=\"ml\" /></label><label>Cloud <input name=\"cloud\" value=\"4\" /></label>";
        var asked = RecordTests.Html(WaysOfForms.Ask(html, Us));
        asked.QuerySelector("[name=air]")!.GetAttribute("value").ShouldBe("68");
        asked.QuerySelector("[name=air]")!.GetAttribute("placeholder").ShouldBe("59");
        asked.QuerySelectorAll("label")[0].TextContent.Trim().ShouldBe("Air, °F");
        asked.QuerySelectorAll("label")[1].TextContent.Trim().ShouldBe("left, fl oz");
        asked.QuerySelector("[name=cloud]")!.GetAttribute("value").ShouldBe("4");

        // Sent back as it stands nothing has moved; typed anew it is what the label says.
        Dictionary<string, StringValues> Sent(string air) =>
            asked
                .QuerySelectorAll("input")
                .ToDictionary(x => x.GetAttribute("name")!, x => new StringValues(x.GetAttribute("value")))
                .Concat([])
                .ToDictionary(x => x.Key, x => x.Key == "air" ? new StringValues(air) : x.Value);
        var read = WaysOfForms.Read(Sent("68"));
        (read["air"].ToString(), read["left"].ToString(), read["cloud"].ToString()).ShouldBe(("20", "250", "4"));
        read.Keys.ShouldNotContain(k => k.StartsWith(WaysOfForms.Asked, StringComparison.Ordinal));
        WaysOfForms.Read(Sent("72.5"))["air"].ToString().ShouldBe("22.5");
        WaysOfForms.Read(Sent("warm"))["air"].ToString().ShouldBe("warm", "the page says what is wrong with it");
    }

    [Fact]
    public void A_comma_is_read_as_a_point_and_a_metric_shops_page_is_as_it_was()
    {
        const string html = "<label>left, ml <input name=\"left\" value=\"12.5\" data-in=\"ml\" /></label>";
        WaysOfForms.Ask(html, Ways.Standard).ShouldBe(html);
        var comma = Ways.Standard with { DecimalComma = true };
        var asked = RecordTests.Html(WaysOfForms.Ask(html, comma));
        asked.QuerySelector("[name=left]")!.GetAttribute("value").ShouldBe("12,5");
        WaysOfForms.Read([new("left", "12,5"), new(WaysOfForms.Asked + "left", "1,0")])["left"].ToString().ShouldBe("12.5");
    }

    [Fact]
    public async Task Every_form_of_an_american_shop_asks_in_its_units()
    {
        using var owner = await shop.App.SignedInAsync("odile");
        using var tam = await shop.App.SignedInAsync("tam");
        (await Keep(owner, ("Volume", "us"), ("Temperature", "f"), ("Length", "in"))).EnsureSuccessStatusCode();
        try
        {
            foreach (
                var path in new[]
                {
                    "/jobs/104/survey",
                    "/jobs/104/day",
                    "/jobs/104/close",
                    "/bottles",
                    "/kit",
                    "/shelf/new",
                    "/bench",
                    "/bench/lance",
                    "/bench/nozzle",
                    "/bench/bucket",
                    "/bench/water",
                }
            )
            {
                foreach (var label in RecordTests.Html(await tam.GetStringAsync(path, Stop)).QuerySelectorAll("main label"))
                {
                    if (label.QuerySelector("input[name], input[data-field]") is not null)
                    {
                        MetricUnit().IsMatch(label.TextContent).ShouldBeFalse($"{path}: {label.TextContent.Trim()}");
                    }
                }
            }

            // What is typed is what is kept.
            var day = RecordTests.Html(await tam.GetStringAsync("/jobs/104/day", Stop));
            var form = day.QuerySelector("form[action*='Readings']")!;
            var fields = form.QuerySelectorAll("input[name], select[name]")
                .ToDictionary(
                    x => x.GetAttribute("name")!,
                    x => x is AngleSharp.Html.Dom.IHtmlSelectElement s ? s.Value : x.GetAttribute("value") ?? ""
                );
            fields["airC"] = "77";
            fields["humidityPct"] = "50";
            (await tam.PostAsync("/jobs/104/day?handler=Readings", new FormUrlEncodedContent(fields), Stop)).EnsureSuccessStatusCode();
            var kept = await tam.GetStringAsync("/api/v1/jobs/104/survey", Stop);
            System.Text.Json.JsonDocument.Parse(kept).RootElement.GetProperty("site").GetProperty("airC").GetDouble().ShouldBe(25);
        }
        finally
        {
            (await Keep(owner, ("Volume", "metric"), ("Temperature", "c"), ("Length", "mm"))).EnsureSuccessStatusCode();
        }
    }

    [GeneratedRegex(@"(^|[\s,])(ml|l/min|°C)\b|°C")]
    private static partial Regex MetricUnit();
}
