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
            ["schemas/toughstart.survey-1.schema.json"] =
                Head(SurveyFormat.Schema(), Survey.Format, "A survey: everything a plan is computed from").ToJsonString(Written) + "\n",
            ["schemas/toughstart.plan-2.schema.json"] =
                Head(PlanFormat.Schema(), Plan.Format, "A staged plan; strength is the product fraction on the panel").ToJsonString(Written)
                + "\n",
            ["schemas/toughstart.log-1.schema.json"] =
                Head(LogFormat.Schema(), LogFormat.Format, "One entry of a live log; docs/live.md says what it means").ToJsonString(Written)
                + "\n",
            ["schemas/toughstart.quote-1.schema.json"] =
                Head(QuoteFormat.Schema(), Costing.Quote.Format, "A quote: price, options, hold point and what is not in it")
                    .ToJsonString(Written) + "\n",
            ["../src/ToughStart.Web/Scripts/survey-document.ts"] = TypeScriptTypes.Of(SurveyFormat.Schema(), SurveyFormat.Fields),
            ["ids.md"] = Ids(),
            ["zones.md"] = ZonePages(),
        };

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
        Section("Stages", c.Slots.GroupBy(x => x.Stage).Select(g => (g.Key.Word, string.Join(", ", g.Select(x => x.Name)))));
        Section(
            "House rules, default first",
            HouseRules.All.Select(r => (r.Id, string.Join(" · ", r.Choices.Select(x => $"`{x.Value}` {x.Words}"))))
        );
        Section("Tests", SurveyWords.Tests.Select(t => (t.Key, string.Join(" · ", t.Value.Append("inconclusive")))));
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
        schema.Remove("title");
        foreach (var (key, value) in schema.ToArray())
        {
            schema.Remove(key);
            head[key] = value;
        }

        return head;
    }
}
