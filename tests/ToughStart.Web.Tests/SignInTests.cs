using System.Net;
using System.Net.Http.Json;
using System.Text;
using AngleSharp.Html.Parser;
using Microsoft.Extensions.DependencyInjection;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Tests;

/// <summary>Who may come in and what they may do.</summary>
[Collection("app")]
public sealed class SignInTests(AppFixture app)
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    [Theory]
    [InlineData("/")]
    [InlineData("/jobs/104/survey")]
    [InlineData("/jobs/104/plan")]
    [InlineData("/jobs/104/mix")]
    [InlineData("/jobs/104/card")]
    [InlineData("/jobs/104/results")]
    [InlineData("/sources")]
    public async Task Every_page_asks_who_you_are(string path)
    {
        using var nobody = await app.SignedInAsync(null);
        var answer = await nobody.GetAsync(path, Stop);
        answer.StatusCode.ShouldBe(HttpStatusCode.Redirect);
        answer.Headers.Location!.ToString().ShouldContain("/sign-in?ReturnUrl=");
        (await answer.Content.ReadAsStringAsync(Stop)).ShouldNotContain("Fennimore");
    }

    [Fact]
    public async Task Programs_are_told_401_and_calculators_stay_open_here()
    {
        using var nobody = await app.SignedInAsync(null);
        (
            await nobody.PutAsync("/api/v1/jobs/104/survey", new StringContent("{}", Encoding.UTF8, "application/json"), Stop)
        ).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        (await nobody.PostAsJsonAsync("/api/v1/mix", new { strength = "1:9" }, Stop)).StatusCode.ShouldBe(HttpStatusCode.OK);
        using var passedOn = new HttpRequestMessage(HttpMethod.Post, "/api/v1/mix")
        {
            Content = JsonContent.Create(new { strength = "1:9" }),
        };
        passedOn.Headers.Add("X-Forwarded-For", "203.0.113.9");
        (await nobody.SendAsync(passedOn, Stop)).StatusCode.ShouldBe(
            HttpStatusCode.Unauthorized,
            "a proxy on this machine does not make the caller local"
        );
        (await nobody.GetAsync("/healthz", Stop)).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await nobody.GetAsync("/dist/app.css", Stop)).StatusCode.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task A_reader_looks_and_changes_nothing()
    {
        using var reader = await app.SignedInAsync("rowan");
        (await reader.GetAsync("/jobs/104/plan", Stop)).StatusCode.ShouldBe(HttpStatusCode.OK);
        var page = new HtmlParser().ParseDocument(await reader.GetStringAsync("/jobs/104/survey", Stop));
        var csrf = page.QuerySelector("meta[name=csrf]")!.GetAttribute("content");
        using var put = new HttpRequestMessage(HttpMethod.Put, "/api/v1/jobs/104/survey")
        {
            Content = new StringContent("{}", Encoding.UTF8, "application/json"),
        };
        put.Headers.Add("X-CSRF-Token", csrf);
        put.Headers.TryAddWithoutValidation("If-Match", "\"1\"");
        (await reader.SendAsync(put, Stop)).StatusCode.ShouldBe(HttpStatusCode.Forbidden);
    }

    [Fact]
    public async Task Five_wrong_tries_lock_the_account_for_a_while()
    {
        await using var scope = app.Services.CreateAsyncScope();
        await SignInSetup.AddPersonAsync(scope.ServiceProvider, "locky", "Locky Test", "reader", "long-enough-word");
        for (var i = 0; i < 5; i++)
        {
            (await TryAsync("locky", "wrong-" + i)).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        }

        var locked = await TryAsync("locky", "long-enough-word");
        locked.StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        (await locked.Content.ReadAsStringAsync(Stop)).ShouldContain("locked");
        (await TryAsync("nobody-here", "x")).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task Short_passwords_and_foreign_return_addresses_are_refused()
    {
        await using var scope = app.Services.CreateAsyncScope();
        (
            await Should.ThrowAsync<InvalidOperationException>(() =>
                SignInSetup.AddPersonAsync(scope.ServiceProvider, "shorty", "S", "reader", "short")
            )
        ).Message.ShouldContain("12");
        using var http = new HttpClient(new HttpClientHandler { AllowAutoRedirect = false }) { BaseAddress = app.Address };
        var answer = await PostAsync(http, "tam", SignInSetup.Demo[1].Password, "https://elsewhere.invalid/");
        answer.Headers.Location!.ToString().ShouldBe("/");
    }

    [Theory]
    [InlineData("http://127.0.0.1:5080", null, null)]
    [InlineData("https://0.0.0.0:443", null, null)]
    [InlineData("http://0.0.0.0:80", "10.1.2.3", null)]
    [InlineData("http://0.0.0.0:80", null, "not loopback")]
    [InlineData("http://127.0.0.1:80;http://[::]:81", null, "not loopback")]
    [InlineData("http://127.0.0.1:80", "my-proxy", "not an IP address")]
    public void Beyond_loopback_it_takes_tls_or_a_named_proxy(string urls, string? proxy, string? refusal)
    {
        var said = SignInSetup.Refuse(urls, proxy);
        if (refusal is null)
        {
            said.ShouldBeNull();
        }
        else
        {
            said!.ShouldContain(refusal);
        }
    }

    private async Task<HttpResponseMessage> TryAsync(string user, string password)
    {
        using var http = new HttpClient { BaseAddress = app.Address };
        return await PostAsync(http, user, password, null);
    }

    private static async Task<HttpResponseMessage> PostAsync(HttpClient http, string user, string password, string? back)
    {
        var page = new HtmlParser().ParseDocument(await http.GetStringAsync("/sign-in", Stop));
        var token = page.QuerySelector("form.form-stack input[name=__RequestVerificationToken]")!.GetAttribute("value")!;
        return await http.PostAsync(
            "/sign-in",
            new FormUrlEncodedContent(
                new Dictionary<string, string>
                {
                    ["UserName"] = user,
                    ["Password"] = password,
                    ["ReturnUrl"] = back ?? "",
                    ["__RequestVerificationToken"] = token,
                }
            ),
            Stop
        );
    }
}
