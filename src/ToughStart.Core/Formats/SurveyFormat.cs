using System.Buffers;
using System.Security.Cryptography;
using System.Text.Json;
using System.Text.RegularExpressions;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Contamination;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Surfaces;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Formats;

/// <summary>
/// Reads and writes <c>toughstart.survey/1</c>. What is written is canonical: no patterns, sorted, the same bytes for the same survey.
/// </summary>
public static partial class SurveyFormat
{
    /// <summary>Largest document taken, bytes.</summary>
    public const int MostBytes = 2 * 1024 * 1024;

    /// <summary>Most findings taken in one survey.</summary>
    public const int MostFindings = 2000;

    public static readonly IReadOnlyList<string> Ages = ["fresh", "days", "weeks", "seasons"],
        Protections = ["unknown", "none", "wax", "sealant", "coating"],
        Waters = ["beads", "mixed", "sheets", "flat"],
        Floods = ["none", "fresh", "sea", "sewage", "unknown"],
        Softnesses = ["soft", "medium", "hard", "unknown"],
        Powertrains = ["combustion", "hybrid", "electric"],
        Places = ["indoors", "shade", "outdoors"],
        Grounds = ["tarmac", "new-concrete", "concrete", "block-paving", "gravel", "grass"],
        Drains = ["foul", "interceptor", "storm", "soakaway", "unknown"],
        Holds = ["flood-hygiene", "flood-workshop", "high-voltage", "nests", "biological", "brake-dust"],
        Uses = ["daily", "motorway", "towing", "farm", "track", "site", "stored"],
        Regions = ["coast", "city", "rural", "industrial", "rail"],
        Storages = ["indoors", "outdoors", "cover"],
        BrakeDusts = ["modern", "unknown"],
        Slopes = ["level", "slight", "steep"],
        Powers = ["protected", "unprotected", "none"],
        Accesses = ["platform", "ladder", "none"],
        Damages = ["etch", "scratch", "swirl", "chip", "clear-coat-failure", "dent", "own-rust", "failed-lens", "cracked-lacquer"],
        DamageVerdicts = ["noted", "recommended", "bought", "declined"],
        Becauses = ["dried", "hot", "wet", "masked-colour", "light"];

    /// <summary>Tests of a survey and the answers each can have; all can also be inconclusive.</summary>
    public static readonly IReadOnlyDictionary<string, string[]> Tests = Catalogue.Default.Tests.ToDictionary(
        t => t.Id,
        t => t.Answers.ToArray()
    );

    /// <summary>Most film-thickness readings taken for one zone.</summary>
    public const int MostReadings = 60;

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
        var problems = new List<Problem>();
        var j = new StrictJson(problems);
        var o = j.Object(
            root,
            "",
            "format",
            "id",
            "revision",
            "vehicle",
            "history",
            "goal",
            "site",
            "house",
            "shelf",
            "kit",
            "lean",
            "declines",
            "stockOnly",
            "crew",
            "zones"
        );
        if (root.ValueKind == JsonValueKind.Object && !o.ContainsKey("format"))
        {
            j.Fail("format", "is missing", [Survey.Format]);
        }

        j.Text(o, "", "format", [Survey.Format]);
        if (problems.Any(p => p.Field is "format" or ""))
        {
            return new(null, problems, Refusal.Malformed);
        }

        var vehicle = ReadVehicle(j, o);
        var goal = j.Text(o, "", "goal", TargetTable.Goals);
        if (!o.ContainsKey("goal"))
        {
            j.Fail("goal", "is missing", TargetTable.Goals);
        }

        var survey = new Survey(
            j.Text(o, "", "id"),
            j.Whole(o, "", "revision", 0, int.MaxValue),
            vehicle ?? new("saloon", default, null, "unknown", "combustion"),
            ReadHistory(j, o),
            goal ?? "wash",
            ReadSite(j, o),
            ReadHouse(j, o),
            ReadShelf(j, o),
            j.Whole(o, "", "crew", 1, 6) ?? 1,
            vehicle is null ? [] : ReadZones(j, o, Forms.Build(vehicle.Form, vehicle.Size))
        )
        {
            Kit = ReadKit(j, o),
            Lean = ReadLean(j, o),
            StockOnly = j.Flag(o, "", "stockOnly") ?? false,
            Declines = vehicle is null ? [] : ReadDeclines(j, o, Forms.Build(vehicle.Form, vehicle.Size)),
        };
        if (problems.Count == 0 && Planning.StageGraph.Contradiction(survey) is { } contradiction)
        {
            j.Fail("house", contradiction);
        }

        return problems.Count == 0 ? new(survey, []) : new(null, problems);
    }

    /// <summary>The canonical bytes of a survey.</summary>
    public static byte[] Write(Survey s)
    {
        var buffer = new ArrayBufferWriter<byte>();
        using (var w = new Utf8JsonWriter(buffer, new JsonWriterOptions { Indented = true }))
        {
            w.WriteStartObject();
            w.WriteString("format", Survey.Format);
            Optional(w, "id", s.Id);
            Optional(w, "revision", s.Revision);
            w.WriteStartObject("vehicle");
            w.WriteString("form", s.Vehicle.Form);
            w.WriteNumber("lengthMm", Math.Round(s.Vehicle.Size.Length * 1000));
            w.WriteNumber("widthMm", Math.Round(s.Vehicle.Size.Width * 1000));
            w.WriteNumber("heightMm", Math.Round(s.Vehicle.Size.Height * 1000));
            Optional(w, "colour", s.Vehicle.Colour);
            w.WriteString("softness", s.Vehicle.Softness);
            w.WriteString("powertrain", s.Vehicle.Powertrain);
            Optional(w, "sheet", s.Vehicle.Sheet);
            if (s.Vehicle.HotEngine is { } hot)
            {
                w.WriteBoolean("hotEngine", hot);
            }

            w.WriteEndObject();
            w.WriteStartObject("history");
            w.WriteString("flood", s.History.Flood);
            w.WriteBoolean("nests", s.History.Nests);
            Optional(w, "monthsSinceWash", s.History.MonthsSinceWash);
            Optional(w, "storage", s.History.Storage);
            Optional(w, "use", s.History.Use);
            Optional(w, "region", s.History.Region);
            Optional(w, "coatedMonths", s.History.CoatedMonths);
            Optional(w, "brakeDust", s.History.BrakeDust);
            if (s.History.Biological)
            {
                w.WriteBoolean("biological", true);
            }

            if (s.History.Releases.Count > 0)
            {
                w.WriteStartArray("releases");
                foreach (var r in s.History.Releases)
                {
                    w.WriteStartObject();
                    w.WriteString("gate", r.Hold);
                    w.WriteString("by", r.By);
                    Optional(w, "on", r.On);
                    w.WriteEndObject();
                }

                w.WriteEndArray();
            }

            w.WriteEndObject();
            w.WriteString("goal", s.Goal);
            WriteSite(w, s.Site);
            w.WriteStartObject("house");
            foreach (var rule in HouseRules.All.Where(r => s.House.ContainsKey(r.Id)))
            {
                w.WriteString(rule.Id, s.House[rule.Id]);
            }

            w.WriteEndObject();
            WriteShelf(w, s.Shelf);
            WriteKit(w, s.Kit);
            if (s.Lean is { } lean)
            {
                w.WriteStartObject("lean");
                w.WriteNumber("harm", lean.Harm);
                w.WriteNumber("time", lean.Time);
                w.WriteNumber("money", lean.Money);
                w.WriteEndObject();
            }

            if (s.StockOnly)
            {
                w.WriteBoolean("stockOnly", true);
            }

            if (s.Declines.Count > 0)
            {
                w.WriteStartArray("declines");
                foreach (var d in s.Declines)
                {
                    w.WriteStartObject();
                    Optional(w, "treatment", d.Treatment);
                    Optional(w, "stage", d.Stage);
                    if (d.Zones.Count > 0)
                    {
                        w.WriteStartArray("zones");
                        foreach (var zone in d.Zones)
                        {
                            w.WriteStringValue(zone);
                        }

                        w.WriteEndArray();
                    }

                    w.WriteEndObject();
                }

                w.WriteEndArray();
            }

            w.WriteNumber("crew", s.Crew);
            w.WriteStartArray("zones");
            foreach (var z in s.Zones.OrderBy(z => z.Zone, StringComparer.Ordinal))
            {
                WriteZone(w, z);
            }

            w.WriteEndArray();
            w.WriteEndObject();
        }

        return buffer.WrittenSpan.ToArray();
    }

    /// <summary>Sixteen hex digits of the canonical survey without its id and revision.</summary>
    public static string Hash(Survey s) => Convert.ToHexStringLower(SHA256.HashData(Write(s with { Id = null, Revision = null })))[..16];

    /// <summary>One zone's canonical text: equal content, equal text. A zone about which nothing is said has the text of none.</summary>
    internal static string KeyOf(ZoneSurvey z)
    {
        if (
            z is
            {
                Surface: null,
                Protection: null,
                Water: null,
                MeasuredC: null,
                Parts.Count: 0,
                Findings.Count: 0,
                Tests.Count: 0,
                Condition.IsUnsaid: true
            }
        )
        {
            return "";
        }

        var buffer = new ArrayBufferWriter<byte>();
        using (var w = new Utf8JsonWriter(buffer))
        {
            WriteZone(w, z);
        }

        return System.Text.Encoding.UTF8.GetString(buffer.WrittenSpan);
    }

    private static VehicleInput? ReadVehicle(StrictJson j, Dictionary<string, JsonElement> o)
    {
        if (!o.TryGetValue("vehicle", out var e))
        {
            j.Fail("vehicle", "is missing");
            return null;
        }

        var v = j.Object(e, "vehicle", "form", "lengthMm", "widthMm", "heightMm", "colour", "softness", "powertrain", "sheet", "hotEngine");
        var form = j.Text(v, "vehicle", "form", Forms.Ids);
        if (!v.ContainsKey("form"))
        {
            j.Fail("vehicle.form", "is missing", Forms.Ids);
        }

        var (least, most) = Forms.Limits(form ?? Forms.Ids[0]);
        var length = j.Number(v, "vehicle", "lengthMm", least.Length * 1000, most.Length * 1000, "mm");
        var width = j.Number(v, "vehicle", "widthMm", least.Width * 1000, most.Width * 1000, "mm");
        var height = j.Number(v, "vehicle", "heightMm", least.Height * 1000, most.Height * 1000, "mm");
        var colour = j.Text(v, "vehicle", "colour");
        if (colour is not null && !Hex().IsMatch(colour))
        {
            j.Fail("vehicle.colour", "must be written as #rrggbb");
        }

        var softness = j.Text(v, "vehicle", "softness", Softnesses) ?? "unknown";
        var powertrain = j.Text(v, "vehicle", "powertrain", Powertrains) ?? "combustion";
        if (form is null)
        {
            return null;
        }

        var d = Forms.DefaultSize(form);
        return new VehicleInput(
            form,
            new Size(length / 1000 ?? d.Length, width / 1000 ?? d.Width, height / 1000 ?? d.Height),
            colour?.ToLowerInvariant(),
            softness,
            powertrain
        )
        {
            Sheet = j.Text(v, "vehicle", "sheet", Sheets),
            HotEngine = j.Flag(v, "vehicle", "hotEngine"),
        };
    }

    private static History ReadHistory(StrictJson j, Dictionary<string, JsonElement> o)
    {
        if (!o.TryGetValue("history", out var e))
        {
            return new History("none", false, null, null, []);
        }

        var h = j.Object(
            e,
            "history",
            "flood",
            "nests",
            "monthsSinceWash",
            "storage",
            "use",
            "region",
            "coatedMonths",
            "brakeDust",
            "biological",
            "releases"
        );
        var releases = new List<Release>();
        foreach (var (item, path) in j.Array(h, "history", "releases"))
        {
            var r = j.Object(item, path, "gate", "by", "on");
            var hold = j.Text(r, path, "gate", Holds);
            var by = j.Text(r, path, "by", most: 60);
            if (by is null)
            {
                j.Fail(StrictJson.Join(path, "by"), "is missing: a release names who gave it, by id");
            }

            if (hold is not null && by is not null)
            {
                releases.Add(new Release(hold, by, j.Text(r, path, "on")));
            }
        }

        return new History(
            j.Text(h, "history", "flood", Floods) ?? "none",
            j.Flag(h, "history", "nests") ?? false,
            j.Number(h, "history", "monthsSinceWash", 0, 600, "months"),
            j.Text(h, "history", "storage", Storages),
            releases
        )
        {
            Use = j.Text(h, "history", "use", Uses),
            Region = j.Text(h, "history", "region", Regions),
            CoatedMonths = j.Number(h, "history", "coatedMonths", 0, 240, "months"),
            BrakeDust = j.Text(h, "history", "brakeDust", BrakeDusts),
            Biological = j.Flag(h, "history", "biological") ?? false,
        };
    }

    private static Dictionary<string, string> ReadHouse(StrictJson j, Dictionary<string, JsonElement> o)
    {
        var result = new Dictionary<string, string>();
        if (!o.TryGetValue("house", out var e))
        {
            return result;
        }

        var h = j.Object(e, "house", HouseRules.All.Select(r => r.Id).ToArray());
        foreach (var rule in HouseRules.All.Where(r => h.ContainsKey(r.Id)))
        {
            var values = rule.Choices.Select(c => c.Value).ToArray();
            var value =
                h[rule.Id].ValueKind is JsonValueKind.True or JsonValueKind.False && values.Contains("true")
                    ? h[rule.Id].GetBoolean()
                        ? "true"
                        : "false"
                    : j.Text(h, "house", rule.Id, values);
            if (value is not null)
            {
                result[rule.Id] = value;
            }
        }

        return result;
    }

    /// <summary>What the body is made of.</summary>
    public static IReadOnlyList<string> Sheets { get; } = ["steel", "aluminium"];

    public static IReadOnlyList<string> SurfaceIds { get; } =
        Catalogue.Default.Surfaces.Select(s => s.Id).Append(Surface.UnknownId).ToArray();

    private static void Texts(Utf8JsonWriter w, string name, IReadOnlyList<string> words)
    {
        if (words.Count > 0)
        {
            w.WriteStartArray(name);
            foreach (var word in words.Order(StringComparer.Ordinal))
            {
                w.WriteStringValue(word);
            }

            w.WriteEndArray();
        }
    }

    private static void Optional(Utf8JsonWriter w, string name, string? value)
    {
        if (value is not null)
        {
            w.WriteString(name, value);
        }
    }

    private static void Optional(Utf8JsonWriter w, string name, double? value)
    {
        if (value is { } v)
        {
            w.WriteNumber(name, v);
        }
    }

    [GeneratedRegex("^#[0-9a-fA-F]{6}$")]
    private static partial Regex Hex();
}
