using System.Net;
using System.Text;
using System.Text.RegularExpressions;

namespace ToughStart.Web.Tests;

/// <summary>
/// Bodies, forms, methods and addresses that nobody in their right mind sends, from one seed. Whatever comes: an answer that says what is
/// wrong, never a 5xx. Its own shop, because some of it is taken.
/// </summary>
public sealed partial class FuzzTests(FuzzFixture fuzz) : IClassFixture<FuzzFixture>
{
    /// <summary>Requests in the tests; <c>./tough-start torture</c> sets more.</summary>
    private static int Requests => int.TryParse(Environment.GetEnvironmentVariable("TOUGHSTART_TORTURE"), out var n) ? n : 1200;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    private static readonly string[] Documents =
    [
        "POST /api/v1/plan",
        "POST /api/v1/compare",
        "POST /api/v1/flips",
        "POST /api/v1/mix",
        "POST /api/v1/lance",
        "POST /api/v1/nozzle",
        "POST /api/v1/ph",
        "POST /api/v1/hardness",
        "POST /api/v1/wet-window",
        "POST /api/v1/compatibility",
        "POST /api/v1/identify",
        "PUT /api/v1/jobs/104/survey",
        "POST /api/v1/jobs/104/plan",
        "POST /api/v1/jobs/104/events",
        "POST /api/v1/jobs/104/notes",
    ];

    private static readonly string[] Pages =
    [
        "/sign-in",
        "/jobs/new",
        "/jobs/104/intake",
        "/jobs/104/results",
        "/jobs/104/gate",
        "/jobs/104/handover",
        "/jobs/104/report",
        "/logbook",
        "/learning",
        "/jobs/104/plan?handler=Accept",
        "/jobs/104/tests",
        "/jobs/104/rules",
        "/jobs/104/day",
        "/jobs/104/photos",
        "/jobs/104/close",
        "/jobs/104/compare?handler=Refuse",
        "/shelf/new",
        "/shelf/import",
        "/kit",
        "/bottles?handler=Left",
        "/jobs/104/mix",
        "/compatibility",
        "/identify",
    ];

    private static readonly string[] Looks =
    [
        "/error?status=99999",
        "/error?status=-1",
        "/error?status=abc",
        "/jobs/99999999999/plan",
        "/jobs/0/plan",
        "/jobs/104/plan?step=%00",
        "/jobs/104/day?at=%ff%fe",
        "/jobs/104/compare?with=goal:%00",
        "/jobs/104/compare?with=lean:nan,inf,1",
        "/shelf?find=%00&page=-5",
        "/shelf?page=99999999999",
        "/bottles?handler=One&number=-1",
        "/bench?strength=%ED%A0%80",
        "/bench/lance?draw=1e400",
        "/identify?colour=%00",
        "/api/v1/forms/%00",
        "/api/v1/jobs/104/gauges/film?zone=%00",
        "/api/v1/jobs/2147483648/run",
        "/photos/%2e%2e%2f",
    ];

    private const string Survey = """
        { "format": "toughstart.survey/1", "vehicle": { "form": "saloon", "colour": "#a0b0c0" }, "goal": "wash",
          "site": { "place": "outdoors", "airC": 18, "humidityPct": 60, "windMs": 2, "start": "2026-06-12T13:00:00+01:00" },
          "zones": [ { "zone": "bonnet", "surface": "clear-coat", "findings": [ { "contaminant": "bug", "grade": 2 } ] } ] }
        """;

    private static readonly string[] Nasty =
    [
        "null",
        "[null]",
        "[]",
        "{}",
        "\"\"",
        "0",
        "true",
        "[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[]]]]]]]]]]]]]]]]]]]]]]]]]]]]]]]]]]]",
        "{\"format\":\"toughstart.survey/1\",\"zones\":[null]}",
        "{\"format\":\"toughstart.survey/1\",\"vehicle\":null,\"goal\":null}",
        "{\"strength\":\"\\ud800\"}",
        "{\"words\":\"a\\u0000b\",\"zone\":\"bonnet\"}",
        "{\"zone\":\"\\udfff\",\"words\":\"x\"}",
        "[{\"id\":null}]",
        "[{\"zones\":[]}]",
        "{\"a\":1,\"a\":2}",
        "{\"hash\":\"\\u0000\"}",
        "{\"hash\":null}",
        "1e999",
        "{\"strength\":1e999}",
        "\u0000",
    ];

    private static readonly string[] Values =
    [
        "null",
        "-1",
        "1e308",
        "2147483648",
        "\"\"",
        "\"\\u0000\"",
        "\"\\ud800\"",
        "[]",
        "{}",
        "[null]",
        "true",
        "\"*\"",
        "\"unknown\"",
        "0.0000001",
        "\"2026-02-30T25:00\"",
        "\"{0}{\"",
    ];

    [Fact]
    public async Task Nothing_that_is_sent_brings_a_500()
    {
        var random = new Random(20261127);
        var client = fuzz.App.Http;
        var page = await client.GetStringAsync("/jobs/104/plan", Stop);
        var csrf = Csrf().Match(page).Groups[1].Value;
        var found = new List<string>();
        for (var i = 0; i < Requests && found.Count < 20; i++)
        {
            using var request = Request(random, csrf);
            using var answer = await client.SendAsync(request, Stop);
            if ((int)answer.StatusCode >= 500)
            {
                var body = request.Content is null ? "" : await request.Content.ReadAsStringAsync(Stop);
                found.Add($"{(int)answer.StatusCode} {request.Method} {request.RequestUri} {body[..Math.Min(300, body.Length)]}");
            }
        }

        found.ShouldBeEmpty();
    }

    [Fact]
    public async Task The_same_form_six_times_at_once_brings_no_500()
    {
        var page = await fuzz.App.Http.GetStringAsync("/jobs/new", Stop);
        var token = Token().Match(page).Groups[1].Value;
        async Task<HttpStatusCode> Send()
        {
            using var form = new FormUrlEncodedContent(
                new Dictionary<string, string>
                {
                    ["Form.Client"] = "Six Times",
                    ["Form.Vehicle"] = "grey saloon",
                    ["Form.Plate"] = "SIX666",
                    ["Form.Body"] = "saloon",
                    ["__RequestVerificationToken"] = token,
                }
            );
            return (await fuzz.App.Http.PostAsync("/jobs/new", form, Stop)).StatusCode;
        }

        (await Task.WhenAll(Enumerable.Range(0, 6).Select(_ => Send()))).ShouldAllBe(s => (int)s < 500);
    }

    private static HttpRequestMessage Request(Random random, string csrf)
    {
        T One<T>(IReadOnlyList<T> of) => of[random.Next(of.Count)];
        HttpRequestMessage message;
        switch (random.Next(10))
        {
            case 0:
                return new(HttpMethod.Get, One(Looks));
            case 1:
                message = new(new HttpMethod(One(["DELETE", "PATCH", "PUT", "OPTIONS", "HEAD", "TRACE", "FOO"])), One(Pages));
                break;
            case 2 or 3:
                message = new(HttpMethod.Post, One(Pages)) { Content = Form(random) };
                break;
            default:
                var (method, path) = One(Documents).Split(' ') is [var m, var p] ? (m, p) : ("GET", "/");
                message = new(new HttpMethod(method), path) { Content = Body(random) };
                if (method == "PUT")
                {
                    message.Headers.TryAddWithoutValidation("If-Match", One(["\"1\"", "1", "\"\"", "*", "\"99999999999\"", "x"]));
                }

                break;
        }

        message.Headers.Add("X-CSRF-Token", csrf);
        return message;
    }

    private static ByteArrayContent Body(Random random)
    {
        var bytes = random.Next(5) switch
        {
            0 => Encoding.UTF8.GetBytes(Nasty[random.Next(Nasty.Length)]),
            1 => Broken(random, Encoding.UTF8.GetBytes(Survey)),
            2 => Encoding.UTF8.GetBytes(Wrap(random, Changed(random, Survey))),
            _ => Encoding.UTF8.GetBytes(Changed(random, Survey)),
        };
        var content = new ByteArrayContent(bytes);
        content.Headers.TryAddWithoutValidation(
            "Content-Type",
            random.Next(12) switch
            {
                0 => "text/plain",
                1 => "multipart/form-data",
                2 => "application/x-www-form-urlencoded",
                3 => "application/json; charset=utf-16",
                _ => "application/json",
            }
        );
        return content;
    }

    /// <summary>One value of the document is another, or one of its names.</summary>
    private static string Changed(Random random, string json)
    {
        for (var n = 1 + random.Next(3); n > 0; n--)
        {
            var parts = Value().Matches(json);
            var at = parts[random.Next(parts.Count)];
            json = json[..at.Index] + Values[random.Next(Values.Length)] + json[(at.Index + at.Length)..];
        }

        return json;
    }

    private static string Wrap(Random random, string json) =>
        random.Next(3) switch
        {
            0 => $$"""{ "survey": {{json}}, "goal": {{Values[random.Next(Values.Length)]}} }""",
            1 => $$"""{ "a": {{json}}, "b": {{Survey}} }""",
            _ => $"[{json}]",
        };

    private static byte[] Broken(Random random, byte[] bytes)
    {
        for (var n = 1 + random.Next(4); n > 0; n--)
        {
            bytes[random.Next(bytes.Length)] = (byte)random.Next(256);
        }

        return bytes;
    }

    private static ByteArrayContent Form(Random random)
    {
        string[] names =
        [
            "UserName",
            "Password",
            "Form.Plate",
            "Form.Client",
            "Rows[0].Step",
            "Rows[0].Rounds",
            "hash",
            "handler",
            "Batch",
            "x",
        ];
        string[] values = ["", "%00", "a", "%ED%A0%80", "-1", "99999999999", "%F0%9F", "2026-13-45", new string('x', 3000)];
        var body = string.Join(
            '&',
            Enumerable.Range(0, random.Next(6)).Select(_ => names[random.Next(names.Length)] + "=" + values[random.Next(values.Length)])
        );
        var content = new ByteArrayContent(Encoding.ASCII.GetBytes(body));
        content.Headers.TryAddWithoutValidation(
            "Content-Type",
            random.Next(6) switch
            {
                0 => "application/json",
                1 => "multipart/form-data; boundary=x",
                2 => "multipart/form-data",
                _ => "application/x-www-form-urlencoded",
            }
        );
        return content;
    }

    [GeneratedRegex("name=\"csrf\" content=\"([^\"]+)\"")]
    private static partial Regex Csrf();

    [GeneratedRegex("__RequestVerificationToken\" type=\"hidden\" value=\"([^\"]+)\"")]
    private static partial Regex Token();

    [GeneratedRegex("""(?<=[:\[,]\s*)("[^"]*"|-?\d+(\.\d+)?|\{[^{}]*\})""")]
    private static partial Regex Value();
}

/// <summary>A shop of its own, to be sent anything.</summary>
public sealed class FuzzFixture : IAsyncLifetime
{
    public AppFixture App { get; } = new();

    public ValueTask InitializeAsync() => App.InitializeAsync();

    public ValueTask DisposeAsync() => App.DisposeAsync();
}
