using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Nodes;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Formats;

/// <summary>The published descriptions of our documents, made from the same lists the reader checks against.</summary>
public static class Schemas
{
    private static readonly JsonSerializerOptions Written = new()
    {
        WriteIndented = true,
        Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    /// <summary>Files of docs/ that are made from the code, by path.</summary>
    public static IReadOnlyDictionary<string, string> Documents() =>
        new Dictionary<string, string>
        {
            ["schemas/toughstart.survey-1.schema.json"] = SurveySchema().ToJsonString(Written) + "\n",
            ["schemas/toughstart.plan-1.schema.json"] =
                Head(PlanFormat.Schema(), Plan.Format, "A staged plan; strength is the product fraction on the panel").ToJsonString(Written)
                + "\n",
            ["ids.md"] = Ids(),
            ["zones.md"] = ZonePages(),
        };

    private static JsonObject SurveySchema()
    {
        var finding = Obj(
            ["contaminant", "grade"],
            ("contaminant", Enum(Catalogue.Default.Contaminants.Select(c => c.Id))),
            ("grade", Int(0, 4)),
            ("age", Enum(SurveyFormat.Ages)),
            ("certainty", Enum(["suspected", "seen", "measured"]))
        );
        var test = Obj(
            ["test", "result"],
            ("test", Enum(SurveyFormat.Tests.Keys)),
            ("result", Enum(SurveyFormat.Tests.Values.SelectMany(v => v).Append("inconclusive").Distinct())),
            ("because", Enum(SurveyFormat.Becauses))
        );
        var zone = Obj(
            ["zone"],
            ("zone", Text()),
            ("surface", Enum(SurveyFormat.SurfaceIds)),
            ("parts", List(Enum(SurveyFormat.SurfaceIds))),
            ("protection", Enum(SurveyFormat.Protections)),
            ("water", Enum(SurveyFormat.Waters)),
            ("measuredC", Num(-30, 120)),
            ("measuredAt", Text()),
            ("softness", Enum(SurveyFormat.Softnesses)),
            ("filmUm", List(Num(0, 5000))),
            ("refinishDays", Num(0, 36500)),
            ("partShare", Num(0, 1)),
            ("damage", List(Obj(["kind"], ("kind", Enum(SurveyFormat.Damages)), ("verdict", Enum(SurveyFormat.DamageVerdicts))))),
            ("findings", List(finding)),
            ("tests", List(test))
        );
        var bottle = Obj(
            ["agent"],
            ("agent", Enum(Catalogue.Default.Agents.Select(a => a.Id))),
            ("id", Text()),
            ("name", Text()),
            ("dataSheet", Flag()),
            ("ph", Num(0, 14)),
            ("neatPh", Num(0, 14)),
            ("fluoride", Flag()),
            ("low", Num(0.0001, 1)),
            ("reference", Num(0.0001, 1)),
            ("high", Num(0.0001, 1)),
            ("dwellMinutes", Num(0, 60)),
            ("maxDwellMinutes", Num(0, 60)),
            ("carrier", Enum(["film", "foam", "gel", "cloth"])),
            ("pricePerLitre", Num(0, 10_000)),
            ("stockMl", Num(0, 10_000_000)),
            ("efficacy", Num(0.3, 3)),
            ("hazards", List(Enum(Catalogue.Default.Statements.Select(h => h.Code)))),
            ("allows", List(Enum(Catalogue.Default.Surfaces.Select(s => s.Id)))),
            ("forbids", List(Enum(Catalogue.Default.Surfaces.Select(s => s.Id))))
        );
        var kit = Obj(
            [],
            ("filmFactor", Num(0.2, 5)),
            ("mitts", Int(0, 999)),
            ("towels", Int(0, 999)),
            ("applyM2Min", Num(0.2, 60)),
            ("rinseM2Min", Num(0.2, 60)),
            ("lance", Obj(["draw"], ("draw", Num(0.001, 1)), ("low", Num(0.0001, 1)), ("high", Num(0.0001, 1)), ("trials", Int(0, 100)))),
            (
                "leftovers",
                List(
                    Obj(
                        ["agent", "strength", "ml"],
                        ("agent", Enum(Catalogue.Default.Agents.Select(a => a.Id))),
                        ("strength", Num(0.0001, 1)),
                        ("ml", Num(0, 200_000)),
                        ("bottle", Text())
                    )
                )
            )
        );
        var site = Obj(
            [],
            ("place", Enum(SurveyFormat.Places)),
            ("sunBlocked", Num(0, 1)),
            ("skyOpen", Num(0, 1)),
            ("latitude", Num(-90, 90)),
            ("longitude", Num(-180, 180)),
            ("timeZone", Text()),
            ("headingDeg", Num(0, 360)),
            ("start", Text()),
            ("airC", Num(-30, 55)),
            ("humidityPct", Num(1, 100)),
            ("windMs", Num(0, 40)),
            ("windAt", Enum(["forecast10m", "panel"])),
            ("cloudOktas", Num(0, 8)),
            ("water", Enum(["hose", "tank", "none"])),
            ("waterHardnessMgL", Num(0, 2000)),
            ("ground", Enum(SurveyFormat.Grounds)),
            ("drain", Enum(SurveyFormat.Drains)),
            ("shadeHours", List(List(Num(0, 24)))),
            (
                "shadeObjects",
                List(
                    Obj(
                        ["bearingDeg", "distanceM", "widthM", "heightM"],
                        ("bearingDeg", Num(0, 360)),
                        ("distanceM", Num(0.5, 200)),
                        ("widthM", Num(0.2, 500)),
                        ("heightM", Num(0.5, 200))
                    )
                )
            ),
            ("slope", Enum(SurveyFormat.Slopes)),
            ("power", Enum(SurveyFormat.Powers)),
            ("neighboursClose", Flag()),
            ("access", Enum(SurveyFormat.Accesses)),
            ("extraction", Flag()),
            (
                "hours",
                List(
                    Obj(
                        ["at", "airC", "humidityPct"],
                        ("at", Text()),
                        ("airC", Num(-40, 60)),
                        ("humidityPct", Num(0, 100)),
                        ("windMs", Num(0, 60)),
                        ("cloudOktas", Num(0, 8)),
                        ("rainMm", Num(0, 200))
                    )
                )
            )
        );
        var house = Obj(
            [],
            HouseRules
                .All.Select(r =>
                    (
                        r.Id,
                        r.Choices.Any(c => c.Value == "true")
                            ? new JsonObject { ["enum"] = new JsonArray("true", "false", true, false) }
                            : Enum(r.Choices.Select(c => c.Value))
                    )
                )
                .ToArray()
        );
        var root = Obj(
            ["format", "vehicle", "goal"],
            ("format", Const(Survey.Format)),
            ("id", Text()),
            ("revision", Int(0, int.MaxValue)),
            (
                "vehicle",
                Obj(
                    ["form"],
                    ("form", Enum(Forms.Ids)),
                    ("lengthMm", Num(Forms.LeastOfAll.Length * 1000, Forms.MostOfAll.Length * 1000)),
                    ("widthMm", Num(Forms.LeastOfAll.Width * 1000, Forms.MostOfAll.Width * 1000)),
                    ("heightMm", Num(Forms.LeastOfAll.Height * 1000, Forms.MostOfAll.Height * 1000)),
                    ("colour", new JsonObject { ["type"] = "string", ["pattern"] = "^#[0-9a-fA-F]{6}$" }),
                    ("softness", Enum(SurveyFormat.Softnesses)),
                    ("powertrain", Enum(SurveyFormat.Powertrains)),
                    ("sheet", Enum(SurveyFormat.Sheets)),
                    ("hotEngine", Flag())
                )
            ),
            (
                "history",
                Obj(
                    [],
                    ("flood", Enum(SurveyFormat.Floods)),
                    ("nests", Flag()),
                    ("monthsSinceWash", Num(0, 600)),
                    ("storage", Enum(SurveyFormat.Storages)),
                    ("use", Enum(SurveyFormat.Uses)),
                    ("region", Enum(SurveyFormat.Regions)),
                    ("coatedMonths", Num(0, 240)),
                    ("brakeDust", Enum(SurveyFormat.BrakeDusts)),
                    ("biological", Flag()),
                    ("releases", List(Obj(["gate", "by"], ("gate", Enum(SurveyFormat.Holds)), ("by", Text()), ("on", Text()))))
                )
            ),
            ("goal", Enum(TargetTable.Goals)),
            ("site", site),
            ("house", house),
            ("shelf", new JsonObject { ["oneOf"] = new JsonArray(Const("all-classes"), List(bottle)) }),
            ("kit", kit),
            ("lean", Obj([], ("harm", Num(0.05, 20)), ("time", Num(0.05, 20)), ("money", Num(0.05, 20)))),
            ("stockOnly", Flag()),
            (
                "declines",
                List(
                    Obj(
                        [],
                        ("treatment", Enum(Catalogue.Default.Treatments.Select(t => t.Id))),
                        ("stage", Enum(Decline.Stages)),
                        ("zones", List(Text()))
                    )
                )
            ),
            ("crew", Int(1, 6)),
            ("zones", List(zone))
        );
        return Head(root, Survey.Format, "A survey: everything a plan is computed from");
    }

    private static string Ids()
    {
        var c = Catalogue.Default;
        var s = new StringBuilder("# Ids\n\nMade from the code by `./tough-start docs`.\n");
        void Section(string title, IEnumerable<(string Id, string Words)> rows)
        {
            s.Append($"\n## {title}\n\n| id | what |\n|---|---|\n");
            foreach (var (id, words) in rows)
            {
                s.Append($"| `{id}` | {words} |\n");
            }
        }

        Section("Contaminants", c.Contaminants.Select(k => (k.Id, $"{k.Name} ({k.Mark}), layer {k.Layer}: {k.Tells}")));
        Section(
            "Surfaces",
            c.Surfaces.Select(x => (x.Id, $"{x.Name}, working pH {x.PhLow:0.#} to {x.PhHigh:0.#}"))
                .Append(("unknown", "union of the limits of all the zone could have"))
        );
        Section(
            "Agents",
            c.Agents.Select(a =>
                (
                    a.Id,
                    $"{a.Name}, pH {a.PhLow:0.#} to {a.PhHigh:0.#}, {string.Join(" / ", a.Strengths)}, "
                        + $"dwell {a.Dwell:0.#} (at most {a.MaxDwell:0.#}) min"
                )
            )
        );
        Section("Treatments", c.Treatments.Select(t => (t.Id, $"{t.Name}: {t.Tool}")));
        Section("Stages", c.Slots.GroupBy(x => x.Stage).Select(g => (g.Key, string.Join(", ", g.Select(x => x.Name)))));
        Section(
            "House rules, default first",
            HouseRules.All.Select(r => (r.Id, string.Join(" · ", r.Choices.Select(x => $"`{x.Value}` {x.Words}"))))
        );
        Section("Tests", SurveyFormat.Tests.Select(t => (t.Key, string.Join(" · ", t.Value.Append("inconclusive")))));
        return s.ToString();
    }

    private static string ZonePages()
    {
        var s = new StringBuilder(
            "# Zones\n\nMade from the code by `./tough-start docs`. Areas at the default size of each form; "
                + "left and right are the seated driver's.\n"
        );
        foreach (var form in Forms.Ids)
        {
            var v = Forms.Build(form, Forms.DefaultSize(form));
            s.Append(
                $"\n## {form}: {v.Size.Length:0.00} × {v.Size.Width:0.00} × {v.Size.Height:0.00} m, "
                    + $"{v.Zones.Count} zones\n\n| zone | m² | surface | drains to |\n|---|---|---|---|\n"
            );
            foreach (var z in v.Zones)
            {
                s.Append($"| `{z.Id}` | {z.Area:0.000} | {z.Kind.Default.Id} | {string.Join(", ", z.DrainsTo)} |\n");
            }
        }

        return s.ToString();
    }

    private static JsonObject Head(JsonObject schema, string id, string title)
    {
        var head = new JsonObject
        {
            ["$schema"] = "http://json-schema.org/draft-07/schema#",
            ["$id"] = id,
            ["title"] = title,
        };
        foreach (var (key, value) in schema.ToArray())
        {
            schema.Remove(key);
            head[key] = value;
        }

        return head;
    }

    private static JsonObject Obj(string[] required, params (string Name, JsonObject Schema)[] fields)
    {
        var properties = new JsonObject();
        foreach (var (name, schema) in fields)
        {
            properties[name] = schema;
        }

        return new JsonObject
        {
            ["type"] = "object",
            ["properties"] = properties,
            ["required"] = new JsonArray([.. required.Select(r => (JsonNode)r!)]),
            ["patternProperties"] = new JsonObject { ["^x-"] = new JsonObject() },
            ["additionalProperties"] = false,
        };
    }

    private static JsonObject Enum(IEnumerable<string> values) => new() { ["enum"] = new JsonArray([.. values.Select(v => (JsonNode)v!)]) };

    private static JsonObject Const(string value) => Enum([value]);

    private static JsonObject List(JsonObject of) => new() { ["type"] = "array", ["items"] = of };

    private static JsonObject Text() => new() { ["type"] = "string" };

    private static JsonObject Flag() => new() { ["type"] = "boolean" };

    private static JsonObject Int(int low, int high) =>
        new()
        {
            ["type"] = "integer",
            ["minimum"] = low,
            ["maximum"] = high,
        };

    private static JsonObject Num(double? low, double? high)
    {
        var o = new JsonObject { ["type"] = "number" };
        if (low is { } l)
        {
            o["minimum"] = l;
        }

        if (high is { } h)
        {
            o["maximum"] = h;
        }

        return o;
    }
}
