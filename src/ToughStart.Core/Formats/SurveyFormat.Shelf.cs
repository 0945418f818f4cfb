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

/// <summary>Bottles, kit, refusals and leanings of a survey.</summary>
public static partial class SurveyFormat
{
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
            var b = j.Object(
                item,
                path,
                "agent",
                "id",
                "name",
                "dataSheet",
                "ph",
                "neatPh",
                "fluoride",
                "low",
                "reference",
                "high",
                "dwellMinutes",
                "maxDwellMinutes",
                "carrier",
                "pricePerLitre",
                "stockMl",
                "efficacy",
                "hazards",
                "allows",
                "forbids"
            );
            var agent = j.Text(b, path, "agent", agents);
            if (agent is null)
            {
                if (!b.ContainsKey("agent"))
                {
                    j.Fail(path + ".agent", "is missing", agents);
                }

                continue;
            }

            var bottle = new ShelfBottle(
                agent,
                j.Flag(b, path, "dataSheet") ?? false,
                j.Number(b, path, "ph", 0, 14, ""),
                j.Flag(b, path, "fluoride") ?? false
            )
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

        string[] Words(Dictionary<string, JsonElement> b, string path, string field, string[] allowed) =>
            j.Array(b, path, field)
                .Select(x =>
                {
                    if (x.Item.ValueKind == JsonValueKind.String && allowed.Contains(x.Item.GetString()))
                    {
                        return x.Item.GetString()!;
                    }

                    j.Fail(x.Path, "is not known", allowed);
                    return "";
                })
                .Where(w => w.Length > 0)
                .Distinct()
                .Order(StringComparer.Ordinal)
                .ToArray();

        static bool Rising(ProductFraction? a, ProductFraction? b) => a is null || b is null || a <= b;
    }

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

        return
        [
            .. found
                .GroupBy(d => (d.Treatment, d.Stage, string.Join(' ', d.Zones)))
                .Select(g => g.First())
                .OrderBy(d => d.Stage, StringComparer.Ordinal)
                .ThenBy(d => d.Treatment, StringComparer.Ordinal)
                .ThenBy(d => string.Join(' ', d.Zones), StringComparer.Ordinal),
        ];
    }

    private static readonly string[] TreatmentIds = [.. Catalogue.Default.Treatments.Select(t => t.Id)];

    private static Planning.Leaning? ReadLean(StrictJson j, Dictionary<string, JsonElement> o)
    {
        if (!o.TryGetValue("lean", out var e))
        {
            return null;
        }

        var l = j.Object(e, "lean", "harm", "time", "money");
        double N(string field) =>
            j.Number(l, "lean", field, Planning.Leaning.Least, Planning.Leaning.Most, "times its ordinary weight") ?? 1;
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
            var (agent, strength, ml) = (
                j.Text(b, path, "agent", agents),
                j.Number(b, path, "strength", 0.0001, 1, "of the liquid in the bottle"),
                j.Number(b, path, "ml", 0, 200_000, "ml")
            );
            if (agent is null || strength is null || ml is null)
            {
                j.Fail(path, "needs agent, strength and ml");
            }
            else
            {
                leftovers.Add(
                    new Leftover(agent, ProductFraction.Of(strength.Value), ml.Value, j.Text(b, path, "bottle", most: 80) ?? "bottle")
                );
            }
        }

        var film = j.Number(
            k,
            "kit",
            "filmFactor",
            Conditions.FilmCalibration.Least,
            Conditions.FilmCalibration.Most,
            "times the model's film"
        );
        var (apply, rinse) = (j.Number(k, "kit", "applyM2Min", 0.2, 60, "m²/min"), j.Number(k, "kit", "rinseM2Min", 0.2, 60, "m²/min"));
        if (apply is null != rinse is null)
        {
            j.Fail(apply is null ? "kit.applyM2Min" : "kit.rinseM2Min", "is needed with the other: how fast the crew puts on and rinses");
        }

        var speed = apply is { } a && rinse is { } r ? new Conditions.CrewSpeed(a, r) : (Conditions.CrewSpeed?)null;
        var (mitts, towels) = (j.Whole(k, "kit", "mitts", 0, 999), j.Whole(k, "kit", "towels", 0, 999));
        return lance is null && leftovers.Count == 0 && film is null && speed is null && mitts is null && towels is null
            ? null
            : new KitInUse(lance, leftovers)
            {
                FilmFactor = film,
                Speed = speed,
                Mitts = mitts,
                Towels = towels,
            };
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
}
