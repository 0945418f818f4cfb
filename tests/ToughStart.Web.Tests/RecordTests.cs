using System.Net;
using System.Net.Http.Headers;
using System.Text;
using System.Text.Json.Nodes;
using AngleSharp.Dom;
using AngleSharp.Html.Parser;
using Microsoft.EntityFrameworkCore;
using SkiaSharp;
using ToughStart.Core.Formats;
using ToughStart.Data;
using ToughStart.Web.Photos;

namespace ToughStart.Web.Tests;

/// <summary>Intake, photos, readings, files and people: what hangs on a job, with bad input of every kind.</summary>
[Collection("app")]
public sealed class RecordTests(AppFixture app)
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    [Fact]
    public void Hostile_pictures_are_refused_with_a_reason_and_good_ones_are_drawn_anew()
    {
        PhotoIntake.Clean([], out var empty).ShouldBeNull();
        empty!.ShouldContain("empty");
        PhotoIntake.Clean(Encoding.UTF8.GetBytes("GIF89a<script>alert(1)</script>"), out var polyglot).ShouldBeNull();
        polyglot!.ShouldContain("no JPEG");
        PhotoIntake.Clean(Encoding.UTF8.GetBytes("<svg xmlns='http://www.w3.org/2000/svg'/>"), out var svg).ShouldBeNull();
        svg!.ShouldContain("no JPEG");
        PhotoIntake.Clean(Png(30, 20)[..60], out var cut).ShouldBeNull();
        cut.ShouldNotBeNull();
        PhotoIntake.Clean(HugePng(), out var huge).ShouldBeNull();
        huge!.ShouldContain("megapixels");
        PhotoIntake.Clean(new byte[PhotoIntake.MostBytes + 1], out var large).ShouldBeNull();
        large!.ShouldContain("at most 12 MB");

        // A picture with something else behind it keeps neither that nor its metadata.
        var mark = Encoding.ASCII.GetBytes("GPS 54.1N 2.8W <script>");
        var clean = PhotoIntake.Clean([.. JpegWithComment(mark), .. mark], out var fine);
        fine.ShouldBeNull();
        clean!.Jpeg.AsSpan().IndexOf(mark).ShouldBe(-1);
        clean.Jpeg[..3].ShouldBe([0xFF, 0xD8, 0xFF]);
        PhotoIntake
            .Clean(Png(3000, 1500), out _)!
            .ShouldSatisfyAllConditions(
                p => p.Width.ShouldBe(2000),
                p => p.Height.ShouldBe(1000),
                p => p.Thumb.Length.ShouldBeLessThan(p.Jpeg.Length)
            );
    }

    /// <summary>A tiny file can be a huge picture: what cannot be decoded small is refused before a pixel of it is.</summary>
    [Fact]
    public void A_small_file_with_many_pixels_is_not_decoded_whole()
    {
        using var bitmap = new SKBitmap(4400, 3000);
        bitmap.Erase(SKColors.SteelBlue);
        using var image = SKImage.FromBitmap(bitmap);
        var png = image.Encode(SKEncodedImageFormat.Png, 90).ToArray();
        png.Length.ShouldBeLessThan(200_000);
        PhotoIntake.Clean(png, out var why).ShouldBeNull();
        why!.ShouldContain("PNG at most 12 megapixels, as JPEG 40");
        var jpeg = image.Encode(SKEncodedImageFormat.Jpeg, 60).ToArray();
        PhotoIntake.Clean(jpeg, out _)!.Width.ShouldBeInRange(1500, 2000);
    }

    [Fact]
    public async Task A_photo_hangs_on_its_zone_and_is_shown_there()
    {
        using var tam = await app.SignedInAsync("tam");
        var kept = await SendFile(tam, "/jobs/109/photos", "x.png", Png(400, 300), new() { ["Zone"] = "roof", ["Moment"] = "before" });
        kept.StatusCode.ShouldBe(HttpStatusCode.OK);
        var page = Html(await kept.Content.ReadAsStringAsync(Stop));
        page.QuerySelector(".said")!.TextContent.ShouldContain("roof, before");
        var link = page.QuerySelector(".pair-photos a")!.GetAttribute("href")!;
        var jpeg = await tam.GetAsync(link, Stop);
        jpeg.Content.Headers.ContentType!.MediaType.ShouldBe("image/jpeg");
        page.QuerySelectorAll(".has-photo").Length.ShouldBe(1);
        Html(await tam.GetStringAsync("/jobs/109/survey", Stop)).QuerySelectorAll(".has-photo").Length.ShouldBe(1);
        using var nobody = await app.SignedInAsync(null);
        (await nobody.GetAsync(link, Stop)).StatusCode.ShouldBe(HttpStatusCode.Redirect);

        var bad = await SendFile(
            tam,
            "/jobs/109/photos",
            "x.jpg",
            Encoding.UTF8.GetBytes("not a picture"),
            new() { ["Zone"] = "roof", ["Moment"] = "after" }
        );
        bad.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        Html(await bad.Content.ReadAsStringAsync(Stop)).QuerySelector("[role=alert]")!.TextContent.ShouldContain("no JPEG");
        using var reader = await app.SignedInAsync("rowan");
        var read = Html(await reader.GetStringAsync("/jobs/109/photos", Stop));
        read.QuerySelectorAll("form.take").ShouldBeEmpty();
        read.QuerySelectorAll(".photo-delete").ShouldBeEmpty();

        // And it can be taken away again.
        var form = page.QuerySelector(".photo-delete form")!;
        using var delete = new FormUrlEncodedContent(
            form.QuerySelectorAll("input").ToDictionary(i => i.GetAttribute("name")!, i => i.GetAttribute("value") ?? "")
        );
        var gone = await tam.PostAsync("/jobs/109/photos?handler=Delete", delete, Stop);
        gone.StatusCode.ShouldBe(HttpStatusCode.OK);
        Html(await gone.Content.ReadAsStringAsync(Stop)).QuerySelectorAll(".pair-photos img").ShouldBeEmpty();
        (await tam.GetAsync(link, Stop)).StatusCode.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task Readings_from_a_file_reach_the_survey_and_bad_lines_are_named()
    {
        using var tam = await app.SignedInAsync("tam");
        var answer = await SendFile(
            tam,
            "/jobs/110/photos?handler=Readings",
            "gauge.csv",
            Encoding.UTF8.GetBytes("zone;value\nbonnet;104\nbonnet;99,5\nattic;7\nroof;x"),
            new() { ["Kind"] = "film" }
        );
        var page = Html(await answer.Content.ReadAsStringAsync(Stop));
        page.QuerySelector(".said")!.TextContent.ShouldContain("2 readings on 1 zones");
        page.QuerySelector("[role=alert]")!
            .TextContent.ShouldSatisfyAllConditions(t => t.ShouldContain("line 4"), t => t.ShouldContain("line 5"));
        var survey = JsonNode.Parse(await tam.GetStringAsync("/api/v1/jobs/110/survey", Stop))!;
        survey["zones"]!.AsArray().Single(z => z!["zone"]!.GetValue<string>() == "bonnet")!["filmUm"]!
            .AsArray()
            .Select(v => v!.GetValue<double>())
            .ShouldBe([104, 99.5]);
    }

    [Fact]
    public async Task A_survey_leaves_and_comes_back_the_same_and_the_net_can_be_taken_away()
    {
        using var tam = await app.SignedInAsync("tam");
        var bytes = await tam.GetByteArrayAsync("/api/v1/jobs/108/survey", Stop);
        var survey = SurveyFormat.Read(bytes).Value!;
        (await SendFile(tam, "/jobs/108/survey?handler=Import", "s.json", bytes, [])).StatusCode.ShouldBe(HttpStatusCode.OK);
        SurveyFormat
            .Hash(SurveyFormat.Read(await tam.GetByteArrayAsync("/api/v1/jobs/108/survey", Stop)).Value!)
            .ShouldBe(SurveyFormat.Hash(survey));
        var bad = await SendFile(
            tam,
            "/jobs/108/survey?handler=Import",
            "s.json",
            Encoding.UTF8.GetBytes("""{ "format": "toughstart.survey/1", "vehicle": { "form": "sled" }, "goal": "wash" }"""),
            []
        );
        bad.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        Html(await bad.Content.ReadAsStringAsync(Stop)).QuerySelector("[role=alert]")!.TextContent.ShouldContain("city-hatch");
        foreach (var number in new[] { 104, 110, 111 })
        {
            var svg = await tam.GetStringAsync($"/api/v1/jobs/{number}/net.svg", Stop);
            System.Xml.Linq.XDocument.Parse(svg).Root!.Name.LocalName.ShouldBe("svg");
            var png = SKBitmap.Decode(await tam.GetByteArrayAsync($"/api/v1/jobs/{number}/net.png", Stop));
            png.Width.ShouldBe(1600);
            png.Pixels.Distinct().Count().ShouldBeGreaterThan(20);
        }

        (await tam.GetAsync("/api/v1/jobs/999/net.png", Stop)).StatusCode.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task A_gauge_streams_readings_and_unknown_ones_are_named()
    {
        using var tam = await app.SignedInAsync("tam");
        using var stream = new StreamReader(await tam.GetStreamAsync("/api/v1/jobs/104/gauges/film?zone=bonnet", Stop));
        (await stream.ReadLineAsync(Stop)).ShouldBe("event: reading");
        (await stream.ReadLineAsync(Stop))!.ShouldContain("simulated film gauge");
        (await tam.GetAsync("/api/v1/jobs/104/gauges/sonar?zone=bonnet", Stop)).StatusCode.ShouldBe(HttpStatusCode.NotFound);
        (await tam.GetAsync("/api/v1/jobs/104/gauges/film?zone=attic", Stop)).StatusCode.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task Taking_in_a_vehicle_keeps_what_was_typed_and_an_earlier_visit_fills_in()
    {
        using var tam = await app.SignedInAsync("tam");
        var form = await Form(tam, "/jobs/new");
        form["Form.Client"] = "Juno Varley";
        form["Form.Vehicle"] = "Marsh 4 estate";
        form["Form.Preset"] = "3";
        form["Form.Plate"] = "";
        form["Form.Length"] = "very long";
        form["Form.Budget"] = "-3";
        form["Form.Shade"] = "all day";
        form["Form.Hardness"] = "14,5";
        form["Form.HardnessUnit"] = "dh";
        var bad = await tam.PostAsync("/jobs/new", new FormUrlEncodedContent(form), Stop);
        bad.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        var back = Html(await bad.Content.ReadAsStringAsync(Stop));
        back.QuerySelector("[role=alert]")!
            .TextContent.ShouldSatisfyAllConditions(
                t => t.ShouldContain("registration"),
                t => t.ShouldContain("vehicle.lengthMm"),
                t => t.ShouldContain("budget"),
                t => t.ShouldContain("8-11")
            );
        back.QuerySelector("[name='Form.Client']")!.GetAttribute("value").ShouldBe("Juno Varley");
        back.QuerySelector("[name='Form.Length']")!.GetAttribute("value").ShouldBe("very long");

        form["Form.Plate"] = "SLK 9001";
        form["Form.Length"] = "185";
        form["Form.Unit"] = "in";
        form["Form.Width"] = form["Form.Height"] = "";
        form["Form.Budget"] = "250";
        form["Form.Shade"] = "8-11, 15-18.5";
        form["Form.Flood"] = "sea";
        form["Form.Releases[flood-workshop]"] = "Rhona Tide, harbour workshop";
        var made = await tam.PostAsync("/jobs/new", new FormUrlEncodedContent(form), Stop);
        made.StatusCode.ShouldBe(HttpStatusCode.OK);
        await using var db = app.NewContext();
        var job = await db.Jobs.Include(j => j.Vehicle).ThenInclude(v => v!.Client).SingleAsync(j => j.Vehicle!.Plate == "SLK 9001", Stop);
        job.Vehicle!.Client!.Name.ShouldBe("Juno Varley");
        var body = (
            await db.Surveys.Where(s => s.JobId == job.Id && s.Revision == job.SurveyRevision).Select(s => s.Body).SingleAsync(Stop)
        )!;
        var survey = SurveyFormat.Read(Encoding.UTF8.GetBytes(body)).Value!;
        survey.Vehicle.Form.ShouldBe("estate");
        survey.Site.ShadeHours.ShouldBe([new ShadeSpan(8, 11), new ShadeSpan(15, 18.5)]);
        survey.Vehicle.Size.Length.ShouldBe(185 * 0.0254, 1e-3);
        survey.Site.WaterHardnessMgL!.Value.ShouldBe(14.5 * 17.848, 0.1);
        survey
            .History.Releases.ShouldHaveSingleItem()
            .By.ShouldStartWith("n-", customMessage: "the survey holds an id, the name stays in the notes");
        body.ShouldNotContain("Rhona");
        body.ShouldNotContain("Varley");

        // The same vehicle again: surfaces and body come along, dirt and flood do not.
        await new JobStore(db, AppFixture.Clock).SaveSurveyAsync(
            job.Id,
            job.SurveyRevision,
            survey with
            {
                Zones = [new ZoneSurvey("bonnet", "gloss-film", [], null, null, null, [new Finding("mud", 4, null, Certainty.Seen)], [])],
            },
            "test",
            Stop
        );
        var again = Html(await tam.GetStringAsync("/jobs/new?plate=slk9001", Stop));
        again.QuerySelector(".page-sub")!.TextContent.ShouldContain("Here before");
        again.QuerySelector("[name='Form.Client']")!.GetAttribute("value").ShouldBe("Juno Varley");
        var second = await Form(tam, "/jobs/new?plate=slk9001");
        second["Form.Day"] = "2026-12-01";
        (await tam.PostAsync("/jobs/new", new FormUrlEncodedContent(second), Stop)).StatusCode.ShouldBe(HttpStatusCode.OK);
        var newest = (await new JobStore(app.NewContext(), AppFixture.Clock).LastVisitAsync("SLK-9001", null, Stop))!;
        newest.Number.ShouldNotBe(job.Number);
        newest.Survey.ZoneOf("bonnet")!.Surface.ShouldBe("gloss-film");
        newest.Survey.ZoneOf("bonnet")!.Findings.ShouldBeEmpty();
        newest.Survey.History.Flood.ShouldBe("none");
    }

    [Fact]
    public async Task A_stale_intake_is_shown_not_overwritten()
    {
        using var tam = await app.SignedInAsync("tam");
        var first = await Form(tam, "/jobs/107/intake");
        var second = new Dictionary<string, string>(first) { ["Form.Story"] = "Told by the second tab." };
        first["Form.Story"] = "Told by the first tab.";
        (await tam.PostAsync("/jobs/107/intake", new FormUrlEncodedContent(first), Stop)).StatusCode.ShouldBe(HttpStatusCode.OK);
        var stale = await tam.PostAsync("/jobs/107/intake", new FormUrlEncodedContent(second), Stop);
        stale.StatusCode.ShouldBe(HttpStatusCode.Conflict);
        var page = Html(await stale.Content.ReadAsStringAsync(Stop));
        page.QuerySelector("[role=alert]")!.TextContent.ShouldContain("somebody else");
        page.QuerySelector("[name='Form.Story']")!.GetAttribute("value").ShouldBe("Told by the second tab.");
        await using var db = app.NewContext();
        (await db.Jobs.SingleAsync(j => j.Number == 107, Stop)).Story.ShouldBe("Told by the first tab.");
    }

    [Fact]
    public async Task One_clients_data_is_handed_over_and_erased()
    {
        using var owner = await app.SignedInAsync("odile");
        using var tam = await app.SignedInAsync("tam");
        await using var db = app.NewContext();
        var store = new JobStore(db, AppFixture.Clock);
        var number = await store.TakeInAsync(
            new Contact("Mabel Thrace", "555-0101", "mabel@example.invalid", "Old van", "GONE 1"),
            new DateOnly(2026, 11, 24),
            "Her story",
            new IntakeWishes(Notes: "likes tea"),
            (await store.JobAsync(110, Stop))!.Survey,
            "test",
            Stop
        );
        var job = (await store.JobAsync(number, Stop))!;
        await store.NoteAsync(job.Id, "bonnet", "Mabel's dent", "test", Stop);
        var id = await db.Clients.Where(c => c.Name == "Mabel Thrace").Select(c => c.Id).SingleAsync(Stop);
        (await tam.GetAsync($"/clients?handler=Export&id={id}", Stop)).StatusCode.ShouldNotBe(HttpStatusCode.OK, "owners only");
        var export = JsonNode.Parse(await owner.GetStringAsync($"/clients?handler=Export&id={id}", Stop))!;
        export["client"]!["phone"]!.GetValue<string>().ShouldBe("555-0101");
        export["jobs"]![0]!["surveys"]![0]!["survey"]!["format"]!.GetValue<string>().ShouldBe("toughstart.survey/1");

        var form = await Form(owner, "/clients");
        async Task<HttpResponseMessage> Erase(string name) =>
            await owner.PostAsync(
                "/clients?handler=Erase",
                new FormUrlEncodedContent(
                    new Dictionary<string, string>
                    {
                        ["id"] = id.ToString(),
                        ["name"] = name,
                        ["__RequestVerificationToken"] = form["__RequestVerificationToken"],
                    }
                ),
                Stop
            );
        (await Erase("somebody else")).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await Erase("Mabel Thrace")).StatusCode.ShouldBe(HttpStatusCode.OK);
        await using var after = app.NewContext();
        (await after.Clients.SingleAsync(c => c.Id == id, Stop)).Name.ShouldBe("erased");
        (await after.Vehicles.CountAsync(v => v.Plate == "GONE 1", Stop)).ShouldBe(0);
        (await after.Notes.CountAsync(n => n.JobId == job.Id, Stop)).ShouldBe(0);
        (await after.Surveys.Where(s => s.JobId == job.Id).Select(s => s.Body).ToListAsync(Stop)).ShouldAllBe(s => !s.Contains("Mabel"));
    }

    internal static async Task<Dictionary<string, string>> Form(HttpClient http, string path)
    {
        var page = Html(await http.GetStringAsync(path, Stop));
        var form = new Dictionary<string, string>();
        foreach (var e in page.QuerySelectorAll("main form [name]"))
        {
            var name = e.GetAttribute("name")!;
            var value = e.LocalName switch
            {
                "select" => (e.QuerySelector("option[selected]") ?? e.QuerySelector("option"))?.GetAttribute("value"),
                "textarea" => e.TextContent,
                _ when e.GetAttribute("type") is "radio" or "checkbox" => e.HasAttribute("checked") ? e.GetAttribute("value") : null,
                _ => e.GetAttribute("value") ?? "",
            };
            if (value is not null)
            {
                form[name] = value;
            }
        }

        return form;
    }

    internal static async Task<HttpResponseMessage> SendFile(
        HttpClient http,
        string path,
        string name,
        byte[] bytes,
        Dictionary<string, string> fields
    )
    {
        var form = await Form(http, path.Split('?')[0]);
        using var content = new MultipartFormDataContent
        {
            { new StringContent(form["__RequestVerificationToken"]), "__RequestVerificationToken" },
        };
        foreach (var (key, value) in fields)
        {
            content.Add(new StringContent(value), key);
        }

        var file = new ByteArrayContent(bytes);
        file.Headers.ContentType = new MediaTypeHeaderValue("application/octet-stream");
        content.Add(file, "file", name);
        return await http.PostAsync(path, content, Stop);
    }

    internal static IDocument Html(string text) => new HtmlParser().ParseDocument(text);

    private static byte[] Png(int w, int h)
    {
        using var bitmap = new SKBitmap(w, h);
        bitmap.Erase(SKColors.SteelBlue);
        using var image = SKImage.FromBitmap(bitmap);
        return image.Encode(SKEncodedImageFormat.Png, 90).ToArray();
    }

    /// <summary>A PNG head that claims 20 000 x 20 000 pixels.</summary>
    private static byte[] HugePng()
    {
        var png = Png(8, 8);
        foreach (var at in new[] { 16, 20 })
        {
            (png[at], png[at + 1], png[at + 2], png[at + 3]) = (0, 0, 0x4E, 0x20);
        }

        var crc = Crc(png.AsSpan(12, 17));
        (png[29], png[30], png[31], png[32]) = ((byte)(crc >> 24), (byte)(crc >> 16), (byte)(crc >> 8), (byte)crc);
        return png;
    }

    private static uint Crc(ReadOnlySpan<byte> bytes)
    {
        var c = uint.MaxValue;
        foreach (var b in bytes)
        {
            c ^= b;
            for (var k = 0; k < 8; k++)
            {
                c = (c & 1) != 0 ? 0xEDB88320 ^ (c >> 1) : c >> 1;
            }
        }

        return ~c;
    }

    internal static byte[] JpegWithComment(byte[] comment)
    {
        using var bitmap = new SKBitmap(64, 48);
        bitmap.Erase(SKColors.Tan);
        using var image = SKImage.FromBitmap(bitmap);
        var jpeg = image.Encode(SKEncodedImageFormat.Jpeg, 90).ToArray();
        byte[] segment = [0xFF, 0xFE, (byte)((comment.Length + 2) >> 8), (byte)(comment.Length + 2), .. comment];
        return [.. jpeg[..2], .. segment, .. jpeg[2..]];
    }
}
