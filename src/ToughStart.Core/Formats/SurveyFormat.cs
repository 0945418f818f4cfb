using System.Buffers;
using System.Runtime.CompilerServices;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Surfaces;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Formats;

/// <summary>
/// Reads and writes <c>toughstart.survey/1</c>. What is written is canonical: no patterns, sorted, the same bytes for the same survey. Each
/// field is described once, in its part; reading, writing, schema, merge and the types of the pages' scripts all come from there.
/// </summary>
public static class SurveyFormat
{
    /// <summary>Largest document taken, bytes.</summary>
    public const int MostBytes = 2 * 1024 * 1024;

    /// <summary>Most findings taken in one survey.</summary>
    public const int MostFindings = 2000;

    /// <summary>Most film-thickness readings taken for one zone.</summary>
    public const int MostReadings = 60;

    // One field a line.
    // csharpier-ignore
    private static readonly Part<Survey> Root = new Part<Survey>(v =>
        new(
            v.Text("id"),
            v.Whole("revision"),
            v.Get<VehicleInput>("vehicle"),
            v.Get("history", HistoryPart.Unsaid),
            v.Get<Goal>("goal"),
            v.Get("site", SitePart.Unsaid),
            v.Get<IReadOnlyDictionary<string, string>>("house", new Dictionary<string, string>()),
            v.Get<IReadOnlyList<ShelfBottle>?>("shelf", null),
            v.Get("crew", 1),
            v.Get<IReadOnlyList<ZoneSurvey>>("zones", [])
        )
        {
            Kit = v.Get<KitInUse?>("kit", null) is { SaysNothing: false } kit ? kit : null,
            Lean = v.Get("lean", Leaning.None) is var lean && lean == Leaning.None ? null : lean,
            StockOnly = v.Get("stockOnly", false),
            Declines = v.Get<IReadOnlyList<Decline>>("declines", []),
        }
    )
    .Called("Survey")
    .With("format", Hold.OneOf([Survey.Format]), _ => Survey.Format)
    .Merged(Merging.Never)
    .MayBe("id", Hold.Short(), s => s.Id)
    .Merged(Merging.Never)
    .May("revision", Hold.Whole(0, int.MaxValue), s => s.Revision)
    .Merged(Merging.Never)
    .With("vehicle", VehiclePart.One, s => s.Vehicle)
    .Or("history", HistoryPart.Part.One, s => s.History)
    .With("goal", Hold.Term(Goal.All), s => s.Goal)
    .Or("site", SitePart.Part.One, s => s.Site)
    .Or("house", JobPart.House.One, s => s.House)
    .Merged(Merging.ByField)
    .Or("shelf", ShelfPart.One, s => s.Shelf)
    .MayBe("kit", KitPart.Part.One, s => s.Kit)
    .May("lean", JobPart.Lean.One, s => s.Lean is { } lean ? (true, lean) : (false, Leaning.None))
    .If("stockOnly", s => s.StockOnly)
    .Any("declines", JobPart.Declines, s => s.Declines)
    .Merged(Merging.AsSet)
    .Or("crew", Hold.Whole(1, 6), s => s.Crew)
    .Or("zones", ZonePart.All, s => s.Zones)
    .Merged(Merging.ByZone);

    /// <summary>The fields of the document, each with how two people's versions come together.</summary>
    internal static IEnumerable<(string Name, Merging Merging)> Fields => Root.Fields;

    internal static JsonObject Schema() => Root.Schema();

    /// <summary>Reads a survey. Every problem found is named; nothing is half read.</summary>
    public static Checked<Survey> Read(ReadOnlyMemory<byte> json)
    {
        if (json.Length > MostBytes)
        {
            return new(null, [new Problem("(document)", $"is {json.Length} bytes, at most {MostBytes}")], Refusal.TooLarge);
        }

        JsonDocument document;
        try
        {
            document = JsonDocument.Parse(json, StrictJson.Options);
        }
        catch (InvalidOperationException)
        {
            // A name that is half of a letter.
            return new(null, [new Problem("(document)", "holds a name that is no text")], Refusal.Malformed);
        }
        catch (JsonException e)
        {
            return new(
                null,
                [new Problem("(document)", $"is not JSON: line {e.LineNumber + 1}, position {e.BytePositionInLine + 1}")],
                Refusal.Malformed
            );
        }

        using (document)
        {
            return Read(document.RootElement);
        }
    }

    public static Checked<Survey> Read(JsonElement root)
    {
        if (StrictJson.Unsound(root) is { } unsound)
        {
            return new(null, [unsound], Refusal.Malformed);
        }

        var problems = new List<Problem>();
        var (ok, survey) = Root.Read(new StrictJson(problems), root, "");
        if (problems.Where(p => p.Field is "format" or "").ToArray() is { Length: > 0 } notOurs)
        {
            return new(null, notOurs, Refusal.Malformed);
        }

        return !ok ? new(null, problems)
            : StageGraph.Contradiction(survey) is { } contradiction ? new(null, [new Problem("house", contradiction)])
            : new(survey, []);
    }

    /// <summary>The canonical bytes of a survey.</summary>
    public static byte[] Write(Survey s) => Bytes(w => Root.Write(w, s), indented: true);

    /// <summary>Sixteen hex digits of the canonical survey without its id and revision; worked out once for a survey.</summary>
    public static string Hash(Survey s) =>
        Hashes.GetValue(s, of => Convert.ToHexStringLower(SHA256.HashData(Write(of with { Id = null, Revision = null })))[..16]);

    private static readonly ConditionalWeakTable<Survey, string> Hashes = [];

    /// <summary>One zone's canonical text: equal content, equal text. A zone about which nothing is said has the text of none.</summary>
    internal static string KeyOf(ZoneSurvey z) =>
        z.SaysNothing ? "" : Encoding.UTF8.GetString(Bytes(w => ZonePart.Part.Write(w, z), indented: false));

    private static byte[] Bytes(Action<Utf8JsonWriter> write, bool indented)
    {
        var buffer = new ArrayBufferWriter<byte>();
        using (var w = new Utf8JsonWriter(buffer, new JsonWriterOptions { Indented = indented }))
        {
            write(w);
        }

        return buffer.WrittenSpan.ToArray();
    }

    /// <summary>The families of surface a zone has, by survey or by default.</summary>
    public static Family[] FamiliesOf(Zone zone, ZoneSurvey? at)
    {
        var surface = at?.Surface is { } id && id != Surface.UnknownId ? Catalogue.Default.Surface(id) : zone.Kind.Default;
        return [.. (at?.Parts ?? []).Select(p => Catalogue.Default.Surface(p).Family).Prepend(surface.Family).Distinct()];
    }
}
