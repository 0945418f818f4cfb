using System.Net;
using Microsoft.EntityFrameworkCore;

namespace ToughStart.Web.Tests;

/// <summary>One job that cannot be read or planned is one job: the yard and every other job stand. In a shop of its own.</summary>
public sealed class BrokenJobTests(FuzzFixture shop) : IClassFixture<FuzzFixture>
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    [Fact]
    public async Task A_job_that_does_not_read_takes_no_other_page_with_it()
    {
        await using (var db = shop.App.NewContext())
        {
            var job = await db.Jobs.SingleAsync(j => j.Number == 106, Stop);
            await db
                .Surveys.Where(s => s.JobId == job.Id)
                .ExecuteUpdateAsync(s => s.SetProperty(x => x.Body, """{ "format": "toughstart.survey/1", "goal": "wash" }"""), Stop);
        }

        var http = shop.App.Http;
        var yard = await http.GetAsync("/", Stop);
        yard.StatusCode.ShouldBe(HttpStatusCode.OK);
        var words = await yard.Content.ReadAsStringAsync(Stop);
        words.ShouldContain("Cannot be read");
        words.ShouldContain("Take in a vehicle");
        foreach (var page in new[] { "plan", "survey", "mix", "card", "results" })
        {
            var answer = await http.GetAsync($"/jobs/106/{page}", Stop);
            answer.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity, page);
            (await answer.Content.ReadAsStringAsync(Stop)).ShouldContain("cannot be read");
            (await http.GetAsync($"/jobs/105/{page}", Stop)).StatusCode.ShouldBe(HttpStatusCode.OK, page);
        }
    }

    /// <summary>Looking at the yard works nothing out: plans come later, and the page says that they are on their way.</summary>
    [Fact]
    public async Task The_yard_shows_plans_when_they_are_there_and_does_not_wait_for_them()
    {
        string words;
        var looks = 0;
        do
        {
            words = await shop.App.Http.GetStringAsync("/", Stop);
            await Task.Delay(200, Stop);
        } while (words.Contains("Plan is being worked out", StringComparison.Ordinal) && ++looks < 200);
        words.ShouldContain("hands-on");
        words.ShouldNotContain("data-waits=\"true\"");
    }
}
