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

/// <summary>Reads and writes <c>toughstart.survey/1</c>. What is written is canonical: no patterns, sorted, the same bytes for the same survey.</summary>
public static partial class SurveyFormat
{
    /// <summary>Largest document taken, bytes.</summary>
    public const int MostBytes = 2 * 1024 * 1024;

    /// <summary>Most findings taken in one survey.</summary>
    public const int MostFindings = 2000;

    public static readonly IReadOnlyList<string>
        Ages = ["fresh", "days", "weeks", "seasons"],
        Protections = ["unknown", "none", "wax", "sealant", "coating"],
        Waters = ["beads", "mixed", "sheets", "flat"],
        Floods = ["none", "fresh", "sea", "sewage", "unknown"],
        Softnesses = ["soft", "medium", "hard", "unknown"],
        Powertrains = ["combustion", "hybrid", "electric"],
        Places = ["indoors", "shade", "outdoors"],
        Grounds = ["tarmac", "new-concrete", "concrete", "block-paving", "gravel", "grass"],
        Drains = ["foul", "interceptor", "storm", "soakaway", "unknown"],
        Gates = ["flood-hygiene", "flood-workshop", "high-voltage", "nests", "biological", "brake-dust"],
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
    public static readonly IReadOnlyDictionary<string, string[]> Tests = Catalogue.Default.Tests.ToDictionary(t => t.Id, t => t.Answers.ToArray());

    private static readonly string[] ZoneFields = ["zone", "surface", "parts", "protection", "water", "measuredC", "measuredAt", "softness", "filmUm", "refinishDays", "partShare", "damage", "findings", "tests"];

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
            return new(null, [new Problem("(document)", $"is not JSON: line {e.LineNumber + 1}, position {e.BytePositionInLine + 1}")], Refusal.Malformed);
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
        var o = j.Object(root, "", "format", "id", "revision", "vehicle", "history", "goal", "site", "house", "shelf", "kit", "lean", "declines", "stockOnly", "crew", "zones");
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
            j.Text(o, "", "id"), j.Whole(o, "", "revision", 0, int.MaxValue), vehicle ?? new("saloon", default, null, "unknown", "combustion"),
            ReadHistory(j, o), goal ?? "wash", ReadSite(j, o), ReadHouse(j, o), ReadShelf(j, o), j.Whole(o, "", "crew", 1, 6) ?? 1,
            vehicle is null ? [] : ReadZones(j, o, Forms.Build(vehicle.Form, vehicle.Size)))
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
                    w.WriteString("gate", r.Gate);
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
        if (z is { Surface: null, Protection: null, Water: null, MeasuredC: null, Parts.Count: 0, Findings.Count: 0, Tests.Count: 0, Condition.IsUnsaid: true })
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
        return new VehicleInput(form, new Size(length / 1000 ?? d.Length, width / 1000 ?? d.Width, height / 1000 ?? d.Height), colour?.ToLowerInvariant(), softness, powertrain) { Sheet = j.Text(v, "vehicle", "sheet", Sheets), HotEngine = j.Flag(v, "vehicle", "hotEngine") };
    }

    private static History ReadHistory(StrictJson j, Dictionary<string, JsonElement> o)
    {
        if (!o.TryGetValue("history", out var e))
        {
            return new History("none", false, null, null, []);
        }

        var h = j.Object(e, "history", "flood", "nests", "monthsSinceWash", "storage", "use", "region", "coatedMonths", "brakeDust", "biological", "releases");
        var releases = new List<Release>();
        foreach (var (item, path) in j.Array(h, "history", "releases"))
        {
            var r = j.Object(item, path, "gate", "by", "on");
            var gate = j.Text(r, path, "gate", Gates);
            var by = j.Text(r, path, "by", most: 60);
            if (by is null)
            {
                j.Fail(StrictJson.Join(path, "by"), "is missing: a release names who gave it, by id");
            }

            if (gate is not null && by is not null)
            {
                releases.Add(new Release(gate, by, j.Text(r, path, "on")));
            }
        }

        return new History(
            j.Text(h, "history", "flood", Floods) ?? "none", j.Flag(h, "history", "nests") ?? false,
            j.Number(h, "history", "monthsSinceWash", 0, 600, "months"), j.Text(h, "history", "storage", Storages), releases)
        {
            Use = j.Text(h, "history", "use", Uses),
            Region = j.Text(h, "history", "region", Regions),
            CoatedMonths = j.Number(h, "history", "coatedMonths", 0, 240, "months"),
            BrakeDust = j.Text(h, "history", "brakeDust", BrakeDusts),
            Biological = j.Flag(h, "history", "biological") ?? false,
        };
    }

    private static Site ReadSite(StrictJson j, Dictionary<string, JsonElement> o)
    {
        var s = o.TryGetValue("site", out var e)
            ? j.Object(e, "site", "place", "sunBlocked", "skyOpen", "latitude", "longitude", "timeZone", "headingDeg", "start", "airC", "humidityPct", "windMs", "windAt", "cloudOktas", "water", "waterHardnessMgL", "ground", "drain", "slope", "power", "neighboursClose", "access", "shadeHours", "shadeObjects", "extraction", "hours")
            : [];
        double? N(string field, double low, double high, string unit) => j.Number(s, "site", field, low, high, unit);
        return new Site(
            j.Text(s, "site", "place", Places), N("sunBlocked", 0, 1, ""), N("skyOpen", 0, 1, ""), N("latitude", -90, 90, "degrees"), N("longitude", -180, 180, "degrees"),
            j.Text(s, "site", "timeZone"), N("headingDeg", 0, 360, "degrees"), j.Text(s, "site", "start"), N("airC", -30, 55, "degC"), N("humidityPct", 1, 100, "%"),
            N("windMs", 0, 40, "m/s"), j.Text(s, "site", "windAt", ["forecast10m", "panel"]), N("cloudOktas", 0, 8, "oktas"), j.Text(s, "site", "water", ["hose", "tank", "none"]),
            N("waterHardnessMgL", 0, 2000, "mg/l"), j.Text(s, "site", "ground", Grounds), j.Text(s, "site", "drain", Drains))
        {
            ShadeHours = ReadShade(j, s),
            ShadeObjects = ReadObjects(j, s),
            Slope = j.Text(s, "site", "slope", Slopes),
            Power = j.Text(s, "site", "power", Powers),
            NeighboursClose = j.Flag(s, "site", "neighboursClose"),
            Access = j.Text(s, "site", "access", Accesses),
            Extraction = j.Flag(s, "site", "extraction"),
            Hours = ReadHours(j, s),
        };
    }

    private static List<Conditions.WeatherHour> ReadHours(StrictJson j, Dictionary<string, JsonElement> site)
    {
        var hours = new List<Conditions.WeatherHour>();
        foreach (var (item, path) in j.Array(site, "site", "hours"))
        {
            var h = j.Object(item, path, "at", "airC", "humidityPct", "windMs", "cloudOktas", "rainMm");
            if (j.Text(h, path, "at") is not { } text || !Zoned(text, out var at))
            {
                j.Fail(path + ".at", "is a time with its zone, like 2026-06-12T13:00+01:00");
            }
            else if (j.Number(h, path, "airC", -40, 60, "degC") is { } air && j.Number(h, path, "humidityPct", 0, 100, "%") is { } rh)
            {
                hours.Add(new Conditions.WeatherHour(at, air, rh, j.Number(h, path, "windMs", 0, 60, "m/s") ?? 2, j.Number(h, path, "cloudOktas", 0, 8, "oktas") ?? 4, j.Number(h, path, "rainMm", 0, 200, "mm") ?? 0));
            }
            else
            {
                j.Fail(path, "needs airC and humidityPct");
            }
        }

        if (hours.Count > Conditions.WeatherFile.MostHours)
        {
            j.Fail("site.hours", $"holds at most {Conditions.WeatherFile.MostHours} hours");
        }

        return [.. hours.OrderBy(h => h.At)];
    }

    /// <summary>A time that carries its zone.</summary>
    internal static bool Zoned(string text, out DateTimeOffset at)
    {
        at = default;
        return text.Length > 16 && (text.EndsWith('Z') || text.LastIndexOfAny(['+', '-']) > 10) && DateTimeOffset.TryParse(text, System.Globalization.CultureInfo.InvariantCulture, System.Globalization.DateTimeStyles.None, out at);
    }

    private static List<ShadeObject> ReadObjects(StrictJson j, Dictionary<string, JsonElement> site)
    {
        var list = new List<ShadeObject>();
        foreach (var (item, path) in j.Array(site, "site", "shadeObjects"))
        {
            var o = j.Object(item, path, "bearingDeg", "distanceM", "widthM", "heightM");
            var before = j.Failed;
            var (bearing, distance, width, height) = (j.Number(o, path, "bearingDeg", 0, 360, "degrees"), j.Number(o, path, "distanceM", 0.5, 200, "m"), j.Number(o, path, "widthM", 0.2, 500, "m"), j.Number(o, path, "heightM", 0.5, 200, "m"));
            if (bearing is { } b && distance is { } d && width is { } wide && height is { } h)
            {
                list.Add(new ShadeObject(b, d, wide, h));
            }
            else if (j.Failed == before)
            {
                j.Fail(path, "needs bearingDeg, distanceM, widthM and heightM");
            }
        }

        if (list.Count > 20)
        {
            j.Fail("site.shadeObjects", "hold at most 20");
        }

        return [.. list.Distinct().OrderBy(o => o.BearingDeg).ThenBy(o => o.DistanceM)];
    }

    private static List<ShadeSpan> ReadShade(StrictJson j, Dictionary<string, JsonElement> site)
    {
        var spans = new List<ShadeSpan>();
        foreach (var (item, path) in j.Array(site, "site", "shadeHours"))
        {
            if (item.ValueKind == JsonValueKind.Array && item.GetArrayLength() == 2 && item[0].ValueKind == JsonValueKind.Number && item[1].ValueKind == JsonValueKind.Number
                && item[0].GetDouble() is >= 0 and var from && item[1].GetDouble() is <= 24 and var to && from < to)
            {
                spans.Add(new ShadeSpan(from, to));
            }
            else
            {
                j.Fail(path, "must be two hours from 0 to 24, the earlier first, for example [8, 11.5]");
            }
        }

        return [.. spans.Distinct().OrderBy(s => s.From).ThenBy(s => s.To)];
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
            var value = h[rule.Id].ValueKind is JsonValueKind.True or JsonValueKind.False && values.Contains("true")
                ? h[rule.Id].GetBoolean() ? "true" : "false"
                : j.Text(h, "house", rule.Id, values);
            if (value is not null)
            {
                result[rule.Id] = value;
            }
        }

        return result;
    }

    private static List<ShelfBottle>? ReadShelf(StrictJson j, Dictionary<string, JsonElement> o)
    {
        if (!o.TryGetValue("shelf", out var e) || (e.ValueKind == JsonValueKind.String && e.GetString() == "all-classes"))
        {
            return null;
        }

        if (e.ValueKind != JsonValueKind.Array)
        {
            j.Fail("shelf", "must be \"all-classes\" or a list of bottles", ["all-classes"]);
            return null;
        }

        var agents = Catalogue.Default.Agents.Select(a => a.Id).ToArray();
        var surfaces = Catalogue.Default.Surfaces.Select(s => s.Id).ToArray();
        var bottles = new List<ShelfBottle>();
        foreach (var (item, path) in j.Array(o, "", "shelf"))
        {
            var b = j.Object(item, path, "agent", "id", "name", "dataSheet", "ph", "neatPh", "fluoride", "low", "reference", "high", "dwellMinutes", "maxDwellMinutes", "carrier", "pricePerLitre", "stockMl", "efficacy", "hazards", "allows", "forbids");
            var agent = j.Text(b, path, "agent", agents);
            if (agent is null)
            {
                if (!b.ContainsKey("agent"))
                {
                    j.Fail(path + ".agent", "is missing", agents);
                }

                continue;
            }

            var bottle = new ShelfBottle(agent, j.Flag(b, path, "dataSheet") ?? false, j.Number(b, path, "ph", 0, 14, ""), j.Flag(b, path, "fluoride") ?? false)
            {
                Id = j.Text(b, path, "id", most: 60),
                Name = j.Text(b, path, "name", most: 80),
                NeatPh = j.Number(b, path, "neatPh", 0, 14, ""),
                Low = Strength(b, path, "low"),
                Reference = Strength(b, path, "reference"),
                High = Strength(b, path, "high"),
                Dwell = j.Number(b, path, "dwellMinutes", 0, 60, "minutes"),
                MaxDwell = j.Number(b, path, "maxDwellMinutes", 0, 60, "minutes"),
                Carrier = j.Text(b, path, "carrier", Carriers),
                PricePerLitre = j.Number(b, path, "pricePerLitre", 0, 10_000, "money per litre"),
                StockMl = j.Number(b, path, "stockMl", 0, 10_000_000, "ml"),
                Efficacy = j.Number(b, path, "efficacy", 0.3, 3, ""),
                Hazards = Words(b, path, "hazards", Catalogue.Default.Statements.Select(h => h.Code).ToArray()),
                Allows = Words(b, path, "allows", surfaces),
                Forbids = Words(b, path, "forbids", surfaces),
            };
            if (Rising(bottle.Low, bottle.Reference) && Rising(bottle.Reference, bottle.High) && Rising(bottle.Low, bottle.High))
            {
                bottles.Add(bottle);
            }
            else
            {
                j.Fail(path + ".low", "low, reference and high rise in that order");
            }
        }

        return bottles;

        ProductFraction? Strength(Dictionary<string, JsonElement> b, string path, string field) =>
            j.Number(b, path, field, 0.0001, 1, "of the liquid on the panel") is { } v ? ProductFraction.Of(v) : null;

        string[] Words(Dictionary<string, JsonElement> b, string path, string field, string[] allowed) => j.Array(b, path, field).Select(x =>
        {
            if (x.Item.ValueKind == JsonValueKind.String && allowed.Contains(x.Item.GetString()))
            {
                return x.Item.GetString()!;
            }

            j.Fail(x.Path, "is not known", allowed);
            return "";
        }).Where(w => w.Length > 0).Distinct().Order(StringComparer.Ordinal).ToArray();

        static bool Rising(ProductFraction? a, ProductFraction? b) => a is null || b is null || a <= b;
    }

    /// <summary>What the body is made of.</summary>
    public static IReadOnlyList<string> Sheets { get; } = ["steel", "aluminium"];

    private static readonly string[] Carriers = ["film", "foam", "gel", "cloth"];

    /// <summary>Refused suggestions, in order, each once.</summary>
    private static List<Decline> ReadDeclines(StrictJson j, Dictionary<string, JsonElement> o, Vehicle vehicle)
    {
        var found = new List<Decline>();
        foreach (var (item, path) in j.Array(o, "", "declines"))
        {
            var d = j.Object(item, path, "treatment", "stage", "zones");
            var (treatment, stage) = (j.Text(d, path, "treatment", TreatmentIds), j.Text(d, path, "stage", Decline.Stages));
            if (d.ContainsKey("treatment") == d.ContainsKey("stage"))
            {
                j.Fail(path, "names one treatment or one stage");
                continue;
            }

            var zones = new SortedSet<string>(StringComparer.Ordinal);
            foreach (var (zone, at) in j.Array(d, path, "zones"))
            {
                if (zone.ValueKind != JsonValueKind.String || !vehicle.Has(zone.GetString()!))
                {
                    j.Fail(at, $"is no zone of a {vehicle.Form}", vehicle.Zones.Select(v => v.Id));
                    continue;
                }

                zones.Add(zone.GetString()!);
            }

            if (treatment is not null || stage is not null)
            {
                found.Add(new Decline(treatment, stage, [.. zones]));
            }
        }

        return [.. found.GroupBy(d => (d.Treatment, d.Stage, string.Join(' ', d.Zones))).Select(g => g.First()).OrderBy(d => d.Stage, StringComparer.Ordinal).ThenBy(d => d.Treatment, StringComparer.Ordinal).ThenBy(d => string.Join(' ', d.Zones), StringComparer.Ordinal)];
    }

    private static readonly string[] TreatmentIds = [.. Catalogue.Default.Treatments.Select(t => t.Id)];

    private static Planning.Leaning? ReadLean(StrictJson j, Dictionary<string, JsonElement> o)
    {
        if (!o.TryGetValue("lean", out var e))
        {
            return null;
        }

        var l = j.Object(e, "lean", "harm", "time", "money");
        double N(string field) => j.Number(l, "lean", field, Planning.Leaning.Least, Planning.Leaning.Most, "times its ordinary weight") ?? 1;
        var lean = new Planning.Leaning(N("harm"), N("time"), N("money"));
        return lean == Planning.Leaning.None ? null : lean;
    }

    private static KitInUse? ReadKit(StrictJson j, Dictionary<string, JsonElement> o)
    {
        if (!o.TryGetValue("kit", out var e))
        {
            return null;
        }

        var k = j.Object(e, "kit", "lance", "leftovers", "filmFactor", "applyM2Min", "rinseM2Min", "mitts", "towels");
        LanceDraw? lance = null;
        if (k.TryGetValue("lance", out var l))
        {
            var d = j.Object(l, "kit.lance", "draw", "low", "high", "trials");
            var draw = j.Number(d, "kit.lance", "draw", 0.001, 1, "of what leaves the lance");
            var low = j.Number(d, "kit.lance", "low", 0.0001, 1, "") ?? draw;
            var high = j.Number(d, "kit.lance", "high", 0.0001, 1, "") ?? draw;
            if (draw is null || low > draw || high < draw)
            {
                j.Fail("kit.lance.draw", "is needed, with low at most and high at least as large");
            }
            else
            {
                lance = new LanceDraw(draw.Value, low!.Value, high!.Value, j.Whole(d, "kit.lance", "trials", 0, 100) ?? 1);
            }
        }

        var agents = Catalogue.Default.Agents.Select(a => a.Id).ToArray();
        var leftovers = new List<Leftover>();
        foreach (var (item, path) in j.Array(k, "kit", "leftovers"))
        {
            var b = j.Object(item, path, "agent", "strength", "ml", "bottle");
            var (agent, strength, ml) = (j.Text(b, path, "agent", agents), j.Number(b, path, "strength", 0.0001, 1, "of the liquid in the bottle"), j.Number(b, path, "ml", 0, 200_000, "ml"));
            if (agent is null || strength is null || ml is null)
            {
                j.Fail(path, "needs agent, strength and ml");
            }
            else
            {
                leftovers.Add(new Leftover(agent, ProductFraction.Of(strength.Value), ml.Value, j.Text(b, path, "bottle", most: 80) ?? "bottle"));
            }
        }

        var film = j.Number(k, "kit", "filmFactor", Conditions.FilmCalibration.Least, Conditions.FilmCalibration.Most, "times the model's film");
        var (apply, rinse) = (j.Number(k, "kit", "applyM2Min", 0.2, 60, "m²/min"), j.Number(k, "kit", "rinseM2Min", 0.2, 60, "m²/min"));
        if (apply is null != rinse is null)
        {
            j.Fail(apply is null ? "kit.applyM2Min" : "kit.rinseM2Min", "is needed with the other: how fast the crew puts on and rinses");
        }

        var speed = apply is { } a && rinse is { } r ? new Conditions.CrewSpeed(a, r) : (Conditions.CrewSpeed?)null;
        var (mitts, towels) = (j.Whole(k, "kit", "mitts", 0, 999), j.Whole(k, "kit", "towels", 0, 999));
        return lance is null && leftovers.Count == 0 && film is null && speed is null && mitts is null && towels is null ? null : new KitInUse(lance, leftovers) { FilmFactor = film, Speed = speed, Mitts = mitts, Towels = towels };
    }

    private static List<ZoneSurvey> ReadZones(StrictJson j, Dictionary<string, JsonElement> o, Vehicle vehicle)
    {
        var zones = new SortedDictionary<string, ZoneSurvey>(StringComparer.Ordinal);
        var findings = 0;
        foreach (var (item, path) in j.Array(o, "", "zones"))
        {
            var z = j.Object(item, path, ZoneFields);
            var name = j.Text(z, path, "zone");
            if (name is null)
            {
                if (!z.ContainsKey("zone"))
                {
                    j.Fail(path + ".zone", "is missing", vehicle.Zones.Select(v => v.Id));
                }

                continue;
            }

            var pattern = name.Contains('*', StringComparison.Ordinal);
            var hit = pattern ? Matching(vehicle, name) : vehicle.Has(name) ? [vehicle[name]] : [];
            if (hit.Length == 0)
            {
                j.Fail(path + ".zone", pattern ? $"'{StrictJson.Shorten(name)}' matches no zone of a {vehicle.Form}" : $"'{StrictJson.Shorten(name)}' is no zone of a {vehicle.Form}", vehicle.Zones.Select(v => v.Id));
                continue;
            }

            var surface = j.Text(z, path, "surface", SurfaceIds);
            var parts = ReadParts(j, z, path);
            var protection = j.Text(z, path, "protection", Protections);
            var water = j.Text(z, path, "water", Waters);
            var measured = j.Number(z, path, "measuredC", -30, 120, "degC");
            var measuredAt = j.Text(z, path, "measuredAt");
            if (measuredAt is not null && !Zoned(measuredAt, out _))
            {
                j.Fail(path + ".measuredAt", "is a time with its zone, like 2026-06-12T13:00+01:00");
            }

            var condition = ReadCondition(j, z, path);
            var found = ReadFindings(j, z, path);
            findings += found.Count;
            if (findings > MostFindings)
            {
                j.Fail("zones", $"hold more than {MostFindings} findings");
                return [];
            }

            var tests = ReadTests(j, z, path);
            foreach (var zone in hit)
            {
                var before = zones.GetValueOrDefault(zone.Id) ?? new ZoneSurvey(zone.Id, null, [], null, null, null, [], []);
                var mayBe = surface is null || CanBe(zone, surface);
                if (!mayBe && !pattern)
                {
                    j.Fail(path + ".surface", $"{zone.Id} cannot be {surface}", zone.Kind.MayBe.Select(s => s.Id).Append(Surface.UnknownId));
                }

                var after = before with
                {
                    Surface = mayBe ? surface ?? before.Surface : before.Surface,
                    Parts = parts.Where(p => CanBe(zone, p)).ToArray() is { Length: > 0 } some ? some : before.Parts,
                    Protection = protection ?? before.Protection,
                    Water = water ?? before.Water,
                    MeasuredC = measured ?? before.MeasuredC,
                    MeasuredAt = measured is null ? before.MeasuredAt : measuredAt,
                    Condition = new Condition(
                        condition.Softness ?? before.Condition.Softness, condition.FilmUm.Count > 0 ? condition.FilmUm : before.Condition.FilmUm, condition.RefinishDays ?? before.Condition.RefinishDays,
                        condition.PartShare ?? before.Condition.PartShare, condition.Damage.Count > 0 ? condition.Damage : before.Condition.Damage),
                    Tests = [.. before.Tests.Where(t => tests.All(n => n.Test != t.Test)), .. tests],
                };
                zones[zone.Id] = Merge(j, path, zone, after, found, pattern);
            }
        }

        return [.. zones.Values];
    }

    private static ZoneSurvey Merge(StrictJson j, string path, Zone zone, ZoneSurvey at, List<(Finding Finding, string Path)> found, bool pattern)
    {
        var families = FamiliesOf(zone, at);
        var kept = at.Findings.ToDictionary(f => f.Contaminant);
        foreach (var (f, where) in found)
        {
            if (families.Any(Catalogue.Default.Contaminant(f.Contaminant).CanSitOn))
            {
                kept[f.Contaminant] = f;
            }
            else if (!pattern)
            {
                j.Fail(where + ".contaminant", $"{f.Contaminant} cannot sit on {zone.Id} ({string.Join(", ", families)})",
                    Catalogue.Default.Contaminants.Where(c => families.Any(c.CanSitOn)).Select(c => c.Id));
            }
        }

        return at with { Findings = kept.Values.OrderBy(f => f.Contaminant, StringComparer.Ordinal).ToArray() };
    }

    /// <summary>The families of surface a zone has, by survey or by default.</summary>
    public static string[] FamiliesOf(Zone zone, ZoneSurvey? at)
    {
        var surface = at?.Surface is { } id && id != Surface.UnknownId ? Catalogue.Default.Surface(id) : zone.Kind.Default;
        return [.. (at?.Parts ?? []).Select(p => Catalogue.Default.Surface(p).Family).Prepend(surface.Family).Distinct()];
    }

    private static bool CanBe(Zone zone, string surface) => surface == Surface.UnknownId || zone.Kind.MayBe.Any(s => s.Id == surface);

    public static IReadOnlyList<string> SurfaceIds { get; } = Catalogue.Default.Surfaces.Select(s => s.Id).Append(Surface.UnknownId).ToArray();

    private static string[] ReadParts(StrictJson j, Dictionary<string, JsonElement> z, string path)
    {
        var result = new List<string>();
        foreach (var (item, where) in j.Array(z, path, "parts"))
        {
            if (item.ValueKind == JsonValueKind.String && Catalogue.Default.Surfaces.Any(s => s.Id == item.GetString()))
            {
                result.Add(item.GetString()!);
            }
            else
            {
                j.Fail(where, "is not a surface", SurfaceIds);
            }
        }

        return [.. result];
    }

    private static Condition ReadCondition(StrictJson j, Dictionary<string, JsonElement> z, string path)
    {
        var film = new List<double>();
        foreach (var (item, where) in j.Array(z, path, "filmUm"))
        {
            if (item.ValueKind == JsonValueKind.Number && item.TryGetDouble(out var um) && um is >= 0 and <= 5000)
            {
                film.Add(um);
            }
            else
            {
                j.Fail(where, "must be a number from 0 to 5000 µm");
            }
        }

        if (film.Count > MostReadings)
        {
            j.Fail(path + ".filmUm", $"holds more than {MostReadings} readings");
        }

        var damage = new List<Damage>();
        foreach (var (item, where) in j.Array(z, path, "damage"))
        {
            var d = j.Object(item, where, "kind", "verdict");
            var kind = j.Text(d, where, "kind", Damages);
            if (kind is not null)
            {
                damage.RemoveAll(x => x.Kind == kind);
                damage.Add(new Damage(kind, j.Text(d, where, "verdict", DamageVerdicts) ?? "noted"));
            }
            else if (!d.ContainsKey("kind"))
            {
                j.Fail(where + ".kind", "is missing", Damages);
            }
        }

        return new Condition(j.Text(z, path, "softness", Softnesses), film, j.Number(z, path, "refinishDays", 0, 36500, "days"), j.Number(z, path, "partShare", 0, 1, ""), damage);
    }

    private static List<(Finding, string)> ReadFindings(StrictJson j, Dictionary<string, JsonElement> z, string path)
    {
        var ids = Catalogue.Default.Contaminants.Select(c => c.Id).ToArray();
        var result = new List<(Finding, string)>();
        foreach (var (item, where) in j.Array(z, path, "findings"))
        {
            var f = j.Object(item, where, "contaminant", "grade", "age", "certainty");
            var contaminant = j.Text(f, where, "contaminant", ids);
            var grade = j.Whole(f, where, "grade", 0, 4);
            if (!f.ContainsKey("contaminant"))
            {
                j.Fail(where + ".contaminant", "is missing", ids);
            }

            if (!f.ContainsKey("grade"))
            {
                j.Fail(where + ".grade", "is missing", ["0", "1", "2", "3", "4"]);
            }

            var age = j.Text(f, where, "age", Ages);
            var certainty = j.Text(f, where, "certainty", ["suspected", "seen", "measured"]) ?? "seen";
            if (contaminant is not null && grade is not null)
            {
                result.Add((new Finding(contaminant, grade.Value, age, Enum.Parse<Certainty>(certainty, true)), where));
            }
        }

        return result;
    }

    private static List<TestResult> ReadTests(StrictJson j, Dictionary<string, JsonElement> z, string path)
    {
        var result = new List<TestResult>();
        foreach (var (item, where) in j.Array(z, path, "tests"))
        {
            var t = j.Object(item, where, "test", "result", "because");
            var test = j.Text(t, where, "test", Tests.Keys.ToArray());
            if (test is null)
            {
                if (!t.ContainsKey("test"))
                {
                    j.Fail(where + ".test", "is missing", Tests.Keys);
                }

                continue;
            }

            var answer = j.Text(t, where, "result", [.. Tests[test], "inconclusive"]);
            var because = j.Text(t, where, "because", Becauses);
            if (answer is not null)
            {
                result.Add(new TestResult(test, answer, because));
            }
            else if (!t.ContainsKey("result"))
            {
                j.Fail(where + ".result", "is missing", [.. Tests[test], "inconclusive"]);
            }
        }

        return result;
    }

    private static Zone[] Matching(Vehicle vehicle, string pattern)
    {
        var parts = pattern.Split('*');
        return vehicle.Zones.Where(z => Matches(z.Id, parts)).ToArray();
    }

    /// <summary>Does an id begin with the first part, end with the last, and hold the others in order between them?</summary>
    private static bool Matches(string id, string[] parts)
    {
        if (!id.StartsWith(parts[0], StringComparison.Ordinal) || !id.EndsWith(parts[^1], StringComparison.Ordinal) || id.Length < parts[0].Length + parts[^1].Length)
        {
            return false;
        }

        var at = parts[0].Length;
        foreach (var part in parts[1..^1])
        {
            var found = id.IndexOf(part, at, id.Length - parts[^1].Length - at, StringComparison.Ordinal);
            if (found < 0)
            {
                return false;
            }

            at = found + part.Length;
        }

        return true;
    }

    private static void WriteSite(Utf8JsonWriter w, Site s)
    {
        w.WriteStartObject("site");
        Optional(w, "place", s.Place);
        Optional(w, "sunBlocked", s.SunBlocked);
        Optional(w, "skyOpen", s.SkyOpen);
        Optional(w, "latitude", s.Latitude);
        Optional(w, "longitude", s.Longitude);
        Optional(w, "timeZone", s.TimeZone);
        Optional(w, "headingDeg", s.HeadingDeg);
        Optional(w, "start", s.Start);
        Optional(w, "airC", s.AirC);
        Optional(w, "humidityPct", s.HumidityPct);
        Optional(w, "windMs", s.WindMs);
        Optional(w, "windAt", s.WindAt);
        Optional(w, "cloudOktas", s.CloudOktas);
        Optional(w, "water", s.Water);
        Optional(w, "waterHardnessMgL", s.WaterHardnessMgL);
        Optional(w, "ground", s.Ground);
        Optional(w, "drain", s.Drain);
        if (s.ShadeHours.Count > 0)
        {
            w.WriteStartArray("shadeHours");
            foreach (var span in s.ShadeHours)
            {
                w.WriteStartArray();
                w.WriteNumberValue(span.From);
                w.WriteNumberValue(span.To);
                w.WriteEndArray();
            }

            w.WriteEndArray();
        }

        if (s.ShadeObjects.Count > 0)
        {
            w.WriteStartArray("shadeObjects");
            foreach (var o in s.ShadeObjects)
            {
                w.WriteStartObject();
                w.WriteNumber("bearingDeg", o.BearingDeg);
                w.WriteNumber("distanceM", o.DistanceM);
                w.WriteNumber("widthM", o.WidthM);
                w.WriteNumber("heightM", o.HeightM);
                w.WriteEndObject();
            }

            w.WriteEndArray();
        }

        Optional(w, "slope", s.Slope);
        Optional(w, "power", s.Power);
        if (s.NeighboursClose is { } close)
        {
            w.WriteBoolean("neighboursClose", close);
        }

        Optional(w, "access", s.Access);
        if (s.Extraction is { } extraction)
        {
            w.WriteBoolean("extraction", extraction);
        }

        if (s.Hours.Count > 0)
        {
            w.WriteStartArray("hours");
            foreach (var h in s.Hours)
            {
                w.WriteStartObject();
                w.WriteString("at", h.At.ToString("yyyy-MM-ddTHH:mm:sszzz", System.Globalization.CultureInfo.InvariantCulture));
                w.WriteNumber("airC", h.AirC);
                w.WriteNumber("humidityPct", h.HumidityPct);
                w.WriteNumber("windMs", h.WindMs);
                w.WriteNumber("cloudOktas", h.CloudOktas);
                w.WriteNumber("rainMm", h.RainMm);
                w.WriteEndObject();
            }

            w.WriteEndArray();
        }

        w.WriteEndObject();
    }

    private static void WriteShelf(Utf8JsonWriter w, IReadOnlyList<ShelfBottle>? shelf)
    {
        if (shelf is null)
        {
            w.WriteString("shelf", "all-classes");
            return;
        }

        w.WriteStartArray("shelf");
        foreach (var b in shelf.OrderBy(b => b.Agent, StringComparer.Ordinal).ThenBy(b => b.Name, StringComparer.Ordinal))
        {
            w.WriteStartObject();
            w.WriteString("agent", b.Agent);
            Optional(w, "id", b.Id);
            Optional(w, "name", b.Name);
            w.WriteBoolean("dataSheet", b.DataSheet);
            Optional(w, "ph", b.Ph);
            Optional(w, "neatPh", b.NeatPh);
            Optional(w, "low", b.Low?.Value);
            Optional(w, "reference", b.Reference?.Value);
            Optional(w, "high", b.High?.Value);
            Optional(w, "dwellMinutes", b.Dwell);
            Optional(w, "maxDwellMinutes", b.MaxDwell);
            Optional(w, "carrier", b.Carrier);
            Optional(w, "pricePerLitre", b.PricePerLitre);
            Optional(w, "stockMl", b.StockMl);
            Optional(w, "efficacy", b.Efficacy);
            Texts(w, "hazards", b.Hazards);
            Texts(w, "allows", b.Allows);
            Texts(w, "forbids", b.Forbids);
            if (b.Fluoride)
            {
                w.WriteBoolean("fluoride", true);
            }

            w.WriteEndObject();
        }

        w.WriteEndArray();
    }

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

    private static void WriteKit(Utf8JsonWriter w, KitInUse? kit)
    {
        if (kit is null)
        {
            return;
        }

        w.WriteStartObject("kit");
        if (kit.Lance is { } lance)
        {
            w.WriteStartObject("lance");
            w.WriteNumber("draw", lance.Ratio);
            w.WriteNumber("low", lance.Low);
            w.WriteNumber("high", lance.High);
            w.WriteNumber("trials", lance.Trials);
            w.WriteEndObject();
        }

        Optional(w, "filmFactor", kit.FilmFactor);
        Optional(w, "mitts", kit.Mitts);
        Optional(w, "towels", kit.Towels);
        Optional(w, "applyM2Min", kit.Speed?.Apply);
        Optional(w, "rinseM2Min", kit.Speed?.Rinse);
        if (kit.Leftovers.Count > 0)
        {
            w.WriteStartArray("leftovers");
            foreach (var l in kit.Leftovers.OrderBy(l => l.Agent, StringComparer.Ordinal).ThenBy(l => l.Bottle, StringComparer.Ordinal))
            {
                w.WriteStartObject();
                w.WriteString("agent", l.Agent);
                w.WriteNumber("strength", l.Strength.Value);
                w.WriteNumber("ml", l.Ml);
                w.WriteString("bottle", l.Bottle);
                w.WriteEndObject();
            }

            w.WriteEndArray();
        }

        w.WriteEndObject();
    }

    private static void WriteZone(Utf8JsonWriter w, ZoneSurvey z)
    {
        w.WriteStartObject();
        w.WriteString("zone", z.Zone);
        Optional(w, "surface", z.Surface);
        if (z.Parts.Count > 0)
        {
            w.WriteStartArray("parts");
            foreach (var p in z.Parts.Order(StringComparer.Ordinal))
            {
                w.WriteStringValue(p);
            }

            w.WriteEndArray();
        }

        Optional(w, "protection", z.Protection);
        Optional(w, "water", z.Water);
        Optional(w, "measuredC", z.MeasuredC);
        Optional(w, "measuredAt", z.MeasuredC is null ? null : z.MeasuredAt);
        WriteCondition(w, z.Condition);
        w.WriteStartArray("findings");
        foreach (var f in z.Findings.OrderBy(f => f.Contaminant, StringComparer.Ordinal))
        {
            w.WriteStartObject();
            w.WriteString("contaminant", f.Contaminant);
            w.WriteNumber("grade", f.Grade);
            Optional(w, "age", f.Age);
            w.WriteString("certainty", f.Certainty.ToString().ToLowerInvariant());
            w.WriteEndObject();
        }

        w.WriteEndArray();
        w.WriteStartArray("tests");
        foreach (var t in z.Tests.OrderBy(t => t.Test, StringComparer.Ordinal))
        {
            w.WriteStartObject();
            w.WriteString("test", t.Test);
            w.WriteString("result", t.Result);
            Optional(w, "because", t.Because);
            w.WriteEndObject();
        }

        w.WriteEndArray();
        w.WriteEndObject();
    }

    private static void WriteCondition(Utf8JsonWriter w, Condition c)
    {
        Optional(w, "softness", c.Softness);
        if (c.FilmUm.Count > 0)
        {
            w.WriteStartArray("filmUm");
            foreach (var um in c.FilmUm)
            {
                w.WriteNumberValue(um);
            }

            w.WriteEndArray();
        }

        Optional(w, "refinishDays", c.RefinishDays);
        Optional(w, "partShare", c.PartShare);
        if (c.Damage.Count > 0)
        {
            w.WriteStartArray("damage");
            foreach (var d in c.Damage.OrderBy(d => d.Kind, StringComparer.Ordinal))
            {
                w.WriteStartObject();
                w.WriteString("kind", d.Kind);
                w.WriteString("verdict", d.Verdict);
                w.WriteEndObject();
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
