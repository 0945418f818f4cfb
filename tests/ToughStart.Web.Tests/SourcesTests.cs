using AngleSharp.Dom;
using AngleSharp.Html.Parser;
using ToughStart.Core.Provenance;

namespace ToughStart.Web.Tests;

/// <summary>Where every number comes from: a table at a time, or all of them.</summary>
[Collection("app")]
public sealed class SourcesTests(AppFixture app)
{
    private async Task<IDocument> At(string query) =>
        new HtmlParser().ParseDocument(await app.Http.GetStringAsync("/sources" + query, TestContext.Current.CancellationToken));

    private static string[] Opened(IDocument page) =>
        [.. page.QuerySelectorAll(".sources section[id]").Where(s => s.QuerySelector("table") is not null).Select(s => s.Id!)];

    [Theory]
    [InlineData("", "constants")]
    [InlineData("?table=treatments", "treatments")]
    public async Task One_table_is_open_and_every_other_is_a_press_away(string query, string open)
    {
        var page = await At(query);
        Opened(page).ShouldBe([open]);
        var rows = page.QuerySelectorAll($"#{open} tbody tr");
        rows.Length.ShouldBe(Catalogue.Default.Table(open).Rows.Count);
        rows[0].TextContent.ShouldContain(Catalogue.Default.Table(open).Rows[0].Cells[0]);
        page.QuerySelectorAll(".sources h2 a")
            .Select(a => a.GetAttribute("href"))
            .ShouldBe(Catalogue.Default.Tables.Where(t => t.Id != open).Select(t => $"/sources?table={t.Id}#{t.Id}"));
        page.QuerySelector("[role=alert]").ShouldBeNull();
    }

    [Fact]
    public async Task All_of_them_are_there_to_be_searched()
    {
        var page = await At("?table=all");
        Opened(page).ShouldBe(Catalogue.Default.Tables.Select(t => t.Id));
        page.QuerySelectorAll(".sources tbody tr").Length.ShouldBe(Catalogue.Default.Tables.Sum(t => t.Rows.Count));
    }

    [Fact]
    public async Task A_table_that_is_not_there_is_named_and_those_that_are_there_are_offered()
    {
        var page = await At("?table=%3Cb%3Enothing");
        page.QuerySelector("[role=alert]")!.TextContent.ShouldContain("“<b>nothing”");
        Opened(page).ShouldBeEmpty();
        page.QuerySelectorAll(".sources h2 a").Length.ShouldBe(Catalogue.Default.Tables.Count);
    }

    /// <summary>A plan names where its treatments come from, and what it names is there.</summary>
    [Fact]
    public async Task What_a_plan_names_is_open_where_it_leads()
    {
        var plan = new HtmlParser().ParseDocument(await app.Http.GetStringAsync("/jobs/104/plan", TestContext.Current.CancellationToken));
        var named = plan.QuerySelectorAll("a[href^='/sources?']").Select(a => a.GetAttribute("href")!).Distinct().ToArray();
        named.ShouldNotBeEmpty();
        foreach (var link in named)
        {
            var (query, place) = link["/sources".Length..].Split('#') is [var q, var p] ? (q, p) : (link, "");
            Opened(await At(query)).ShouldBe([place], link);
        }
    }
}
