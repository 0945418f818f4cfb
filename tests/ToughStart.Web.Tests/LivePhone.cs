using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using System.Text.RegularExpressions;
using Microsoft.AspNetCore.Http.Connections;
using Microsoft.AspNetCore.SignalR.Client;
using ToughStart.Core.Formats;
using ToughStart.Core.Running.Live;

namespace ToughStart.Web.Tests;

/// <summary>A phone as the server sees one.</summary>
internal sealed class LivePhone(Uri address, string user, int job) : IDisposable
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    private string _csrf = "";
    private int _seq;

    public HttpClient Http { get; private set; } = null!;

    public string Device { get; set; } = Guid.NewGuid().ToString();

    public string Ticket { get; private set; } = "";

    public string Who { get; private set; } = "";

    public JsonElement Doc { get; private set; }

    public int Head { get; set; }

    public string? HeadId { get; set; }

    /// <summary>What says who is signed in.</summary>
    public string Cookie =>
        (
            (HttpClientHandler)
                typeof(HttpMessageInvoker)
                    .GetField("_handler", System.Reflection.BindingFlags.NonPublic | System.Reflection.BindingFlags.Instance)!
                    .GetValue(Http)!
        ).CookieContainer.GetCookieHeader(address);

    /// <summary>Listens without asking first by which way it may: any instance will do.</summary>
    public HubConnection Hub() =>
        new HubConnectionBuilder()
            .WithUrl(new Uri(address, "/hub/bay"), o =>
            {
                o.SkipNegotiation = true;
                o.Transports = HttpTransportType.WebSockets;
                o.Headers["Cookie"] = Cookie;
            })
            .Build();

    public async Task<LivePhone> OpenAsync()
    {
        Http = await AppFixture.SignedInAsync(address, user);
        Doc = await Http.GetFromJsonAsync<JsonElement>($"/api/v1/jobs/{job}/bay?device={Device}", Stop);
        Ticket = Doc.GetProperty("me").GetProperty("ticket").GetString()!;
        Who = Doc.GetProperty("me").GetProperty("who").GetString()!;
        _csrf = Regex
            .Match(await Http.GetStringAsync(new Uri($"/jobs/{job}/bay", UriKind.Relative), Stop), "data-csrf=\"([^\"]+)\"")
            .Groups[1]
            .Value;
        return this;
    }

    public LogEvent Make(LogKind kind, LogBody body, int? seq = null, Moment? when = null)
    {
        var at = AppFixture.Clock.GetUtcNow().ToUnixTimeMilliseconds();
        return new LogEvent(Guid.NewGuid().ToString(), Device, seq ?? ++_seq, "a", at, Head, 1, Who, kind)
        {
            Body = body,
            When = when ?? new Moment(at, at - 20, at + 20),
        };
    }

    public Task<HttpResponseMessage> SendAsync(params LogEvent[] events) => HastyAsync(events, Stop);

    public Task<HttpResponseMessage> HastyAsync(LogEvent[] events, CancellationToken stop) =>
        PostAsync([.. events.Select(e => JsonDocument.Parse(LogFormat.Write(e)).RootElement)], null, null, stop);

    public Task<HttpResponseMessage> SendAsync(JsonElement[] events, int[]? gone, string? ticket = null) =>
        PostAsync(events, gone, ticket, Stop);

    private Task<HttpResponseMessage> PostAsync(JsonElement[] events, int[]? gone, string? ticket, CancellationToken stop) =>
        Http.PostAsJsonAsync(
            $"/api/v1/jobs/{job}/sync",
            new
            {
                device = Device,
                who = Who,
                from = Head,
                fromId = HeadId,
                gone,
                events,
                tickets = new Dictionary<string, string> { [Who] = ticket ?? Ticket },
            },
            stop
        );

    public async Task<JsonElement> SyncAsync(params LogEvent[] events)
    {
        var answer = await SendAsync(events);
        answer.StatusCode.ShouldBe(HttpStatusCode.OK);
        var said = await answer.Content.ReadFromJsonAsync<JsonElement>(Stop);
        foreach (var e in said.GetProperty("events").EnumerateArray())
        {
            (Head, HeadId) = (e.GetProperty("number").GetInt32(), e.GetProperty("id").GetString());
        }

        return said;
    }

    public async Task<HttpResponseMessage> DecideAsync(object decision)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, $"/api/v1/jobs/{job}/decide")
        {
            Content = JsonContent.Create(decision),
        };
        request.Headers.Add("X-CSRF-Token", _csrf);
        return await Http.SendAsync(request, Stop);
    }

    /// <summary>Begins the run by the plan that was looked at.</summary>
    public async Task BeginAsync()
    {
        var begun = new
        {
            id = Guid.NewGuid(),
            kind = "started",
            hash = Doc.GetProperty("hash").GetString(),
        };
        (await DecideAsync(begun)).EnsureSuccessStatusCode();
        await SyncAsync();
    }

    public void Dispose() => Http.Dispose();
}
