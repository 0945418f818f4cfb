using System.Buffers;
using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;
using ToughStart.Core.Planning;
using Range = ToughStart.Core.Planning.Range;

namespace ToughStart.Core.Formats;

/// <summary>Writes <c>toughstart.plan/1</c>: as canonical JSON, and as text for a terminal.</summary>
public static class PlanFormat
{
    private static readonly JsonWriterOptions Options = new() { Indented = true, Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    public static byte[] Write(Plan p)
    {
        var buffer = new ArrayBufferWriter<byte>();
        using (var w = new Utf8JsonWriter(buffer, Options))
        {
            w.WriteStartObject();
            w.WriteString("format", Plan.Format);
            w.WriteString("goal", p.Goal);
            w.WriteString("engineVersion", p.EngineVersion);
            w.WriteString("catalogueVersion", p.CatalogueVersion);
            w.WriteString("surveyHash", p.SurveyHash);
            w.WriteStartObject("assumed");
            w.WriteNumber("filmC", p.FilmC);
            w.WriteString("drying", p.Drying);
            if (p.Conditions.Count > 0)
            {
                Texts(w, "conditions", p.Conditions);
            }

            w.WriteEndObject();
            w.WriteBoolean("referOnly", p.ReferOnly);
            List(w, "steps", p.Steps, Step);
            List(w, "skipped", p.Skipped, (w, s) => { w.WriteString("stage", s.Stage); Texts(w, "zones", s.Zones); w.WriteString("reason", s.Reason); });
            List(w, "refused", p.Refused, (w, s) => { w.WriteString("treatment", s.Treatment); Texts(w, "zones", s.Zones); w.WriteString("reason", s.Reason); });
            List(w, "refer", p.Refer, (w, s) => { Texts(w, "zones", s.Zones); w.WriteString("what", s.What); w.WriteString("reason", s.Reason); });
            List(w, "tests", p.Tests, Test);
            Texts(w, "unverified", p.Unverified);
            Texts(w, "warnings", p.Warnings);
            Texts(w, "closing", p.Closing);
            w.WriteBoolean("proved", p.Proved);
            List(w, "media", p.Media, (w, x) =>
            {
                w.WriteString("medium", x.Medium);
                w.WriteString("kit", x.Kit);
                w.WriteNumber("pieces", x.Pieces);
                Texts(w, "steps", x.Steps);
                w.WriteString("after", x.After);
                w.WriteString("rule", x.Rule);
            });
            if (p.Buy is { Count: > 0 } buy)
            {
                List(w, "buy", buy, (w, x) =>
                {
                    w.WriteString("agent", x.Agent);
                    w.WriteNumber("needMl", Math.Round(x.NeedMl, 1));
                    if (x.HaveMl is { } have)
                    {
                        w.WriteNumber("haveMl", Math.Round(have, 1));
                    }

                    w.WriteNumber("money", Math.Round(x.Money, 2));
                    w.WriteNumber("minutesWithout", Math.Round(x.Minutes, 1));
                    Texts(w, "instead", x.Instead);
                    Texts(w, "stays", x.Stays);
                    w.WriteString("words", x.Words);
                });
            }

            if (p.Proof is { } proof)
            {
                w.WriteStartObject("proof");
                w.WriteNumber("zones", proof.Zones);
                w.WriteNumber("zonesProved", proof.Proved);
                w.WriteNumber("costMinutes", Math.Round(proof.Minutes, 2));
                w.WriteNumber("boundMinutes", Math.Round(proof.AtLeast, 2));
                w.WriteEndObject();
            }

            w.WriteStartObject("totals");
            WriteRange(w, "labourMinutes", p.Totals.LabourMinutes, 0);
            WriteRange(w, "elapsedMinutes", p.Totals.ElapsedMinutes, 0);
            WriteRange(w, "waterLitres", p.Totals.WaterLitres, 0);
            WriteRange(w, "money", p.Totals.Money, 0);
            WriteRange(w, "productTotalMl", p.Totals.ProductTotalMl, 0);
            w.WriteStartObject("productMl");
            foreach (var (agent, ml) in p.Totals.ProductMl)
            {
                w.WriteNumber(agent, Math.Round(ml));
            }

            w.WriteEndObject();
            w.WriteNumber("harm", Math.Round(p.Totals.Harm, 2));
            w.WriteEndObject();
            w.WriteEndObject();
        }

        return buffer.WrittenSpan.ToArray();
    }

    /// <summary>The plan for a terminal, 100 columns.</summary>
    public static string Text(Plan p)
    {
        var s = new StringBuilder();
        s.AppendLine($"Goal: {p.Goal}. Film {p.FilmC:0} °C assumed, drying {p.Drying}{(p.Conditions.Count > 0 ? $" for {string.Join("; ", p.Conditions)}" : "")}.{(p.Proved ? " Every zone's plan is proved best." : " Not every zone proved.")}{(p.Proof is null ? "" : $" {char.ToUpperInvariant(p.Proof.Words[0])}{p.Proof.Words[1..]}.")}");
        if (p.ReferOnly)
        {
            s.AppendLine("REFER ONLY: no step is planned.");
        }

        var n = 0;
        foreach (var step in p.Steps)
        {
            s.AppendLine();
            s.AppendLine($"{++n,2}. {step.Name}{(step.AgentName is "water" or "none" ? "" : $" · {step.AgentName} {step.Strength}")} · {step.Rounds}×{(step.Under ? " · left wet for foam" : step.DwellMinutes > 0 ? $" · dwell {step.DwellMinutes:0.#} min{(step.Over is null ? "" : ", over the wet spray")}" : "")}   [{step.Stage}]");
            s.AppendLine($"    zones: {Wrap(string.Join(", ", step.Zones), 11)}");
            if (step.Mix is { } m)
            {
                s.AppendLine($"    mix: {m.ProductMl:0} ml product + {m.WaterMl:0} ml water in the {m.Vessel} ({m.InVessel}){(m.Calibrated ? "" : $", uncalibrated: panel gets {m.OnPanelLow * 100:0.#}–{m.OnPanelHigh * 100:0.#} %")}{(m.Leftover is { } rest ? $"; first use up {rest.Ml:0} ml in {rest.Bottle}" : "")}");
            }

            s.AppendLine($"    with: {step.Tool} · kit: {string.Join(", ", step.Kit)}");
            s.AppendLine($"    why: {Wrap(string.Join(' ', step.Why), 9)}");
            if (step.Until is { } u)
            {
                s.AppendLine($"    until {u.Observe} is {string.Join(" or ", u.Stop)}; again on {string.Join(", ", u.Repeat)}, at most {u.MaxRounds}. {u.Then}");
            }

            foreach (var caution in step.Cautions)
            {
                s.AppendLine($"    ! {caution}");
            }

            foreach (var part in step.Sections is { Sections.Count: > 1 } cut ? cut.Sections : [])
            {
                s.AppendLine($"    section: {part.Words} ({Math.Ceiling(part.Seconds / 60):0} min)");
            }

            foreach (var why in step.Sections?.Why ?? [])
            {
                s.AppendLine($"    sections: {why}");
            }

            s.AppendLine($"    {step.LabourMinutes:0} min hands-on, {step.WaitMinutes:0} min dwell, {step.WaterLitres:0} l water");
        }

        Section(s, "Tests", p.Tests.Select(t => $"{t.Test} ({t.When}; {t.Zones.Count} zones, chance {t.Probability:0%}): {t.Changes}"));
        Section(s, "Skipped", p.Skipped.Select(k => $"{k.Stage}: {k.Reason} ({Zones(k.Zones)})"));
        Section(s, "Refused", p.Refused.Select(k => $"{k.Treatment}: {k.Reason} ({Zones(k.Zones)})"));
        Section(s, "Refer", p.Refer.Select(k => $"{k.What}: {k.Reason} ({Zones(k.Zones)})"));
        Section(s, "Media", p.Media.Select(m => $"{m.Pieces} × {m.Name} ({(m.Kit == "own" ? "used for nothing else" : m.Kit + " only")}): {m.Rule}; then {m.After}"));
        Section(s, "Buy or borrow", (p.Buy ?? []).Select(b => b.Words));
        Section(s, "Warnings", p.Warnings);
        if (!p.ReferOnly)
        {
            s.AppendLine();
            s.AppendLine($"hands-on {Show(p.Totals.LabourMinutes)} min · elapsed {Show(p.Totals.ElapsedMinutes)} min · water {Show(p.Totals.WaterLitres)} l · products {Show(p.Totals.ProductTotalMl)} ml · price {Show(p.Totals.Money)}");
        }

        return s.ToString();
    }

    public static string Show(Range r) => $"{r.Low:0} – {r.Expected:0} – {r.High:0}";

    private static string Zones(IReadOnlyList<string> zones) => zones.Count <= 4 ? string.Join(", ", zones) : $"{zones[0]}, {zones[1]} and {zones.Count - 2} more";

    private static void Section(StringBuilder s, string title, IEnumerable<string> lines)
    {
        var all = lines.ToArray();
        if (all.Length > 0)
        {
            s.AppendLine().AppendLine(title);
            foreach (var line in all)
            {
                s.AppendLine("  - " + Wrap(line, 4));
            }
        }
    }

    private static string Wrap(string text, int indent)
    {
        var s = new StringBuilder();
        var column = indent;
        foreach (var word in text.Split(' '))
        {
            if (column + word.Length > 100)
            {
                s.AppendLine().Append(' ', indent);
                column = indent;
            }

            s.Append(word).Append(' ');
            column += word.Length + 1;
        }

        return s.ToString().TrimEnd();
    }

    private static void Step(Utf8JsonWriter w, Step s)
    {
        w.WriteString("key", s.Key);
        Texts(w, "after", s.After);
        w.WriteString("stage", s.Stage);
        w.WriteString("treatment", s.Treatment);
        w.WriteString("name", s.Name);
        w.WriteString("agent", s.Agent);
        if (s.Bottle is not null)
        {
            w.WriteString("bottle", s.Bottle);
        }

        w.WriteNumber("strength", Math.Round(s.Strength.Value, 6));
        w.WriteString("carrier", s.Carrier);
        if (s.Mix is { } m)
        {
            w.WriteStartObject("mix");
            w.WriteString("vessel", m.Vessel);
            w.WriteNumber("productMl", Math.Round(m.ProductMl, 1));
            w.WriteNumber("waterMl", Math.Round(m.WaterMl, 1));
            w.WriteNumber("inVessel", Math.Round(m.InVessel.Value, 6));
            w.WriteString("basis", m.Basis);
            w.WriteBoolean("calibrated", m.Calibrated);
            w.WriteNumber("onPanelLow", Math.Round(m.OnPanelLow, 6));
            w.WriteNumber("onPanelHigh", Math.Round(m.OnPanelHigh, 6));
            if (m.Leftover is { } rest)
            {
                w.WriteNumber("leftoverMl", Math.Round(rest.Ml));
                w.WriteString("leftoverBottle", rest.Bottle);
            }

            w.WriteEndObject();
        }
        else
        {
            w.WriteNull("mix");
        }

        w.WriteNumber("rounds", s.Rounds);
        w.WriteNumber("roundsLow", s.RoundsBetween.Low);
        w.WriteNumber("roundsHigh", s.RoundsBetween.High);
        w.WriteNumber("dwellMinutes", s.DwellMinutes);
        w.WriteNumber("maxDwellMinutes", s.MaxDwellMinutes);
        if (s.Mists > 0)
        {
            w.WriteNumber("mists", s.Mists);
        }

        if (s.Film is { } film)
        {
            w.WriteString("film", film);
        }

        if (s.Under)
        {
            w.WriteBoolean("underFoam", true);
        }

        if (s.Over is { } over)
        {
            w.WriteString("over", over);
        }

        if (s.Sections is { } plan)
        {
            w.WriteStartObject("inSections");
            List(w, "sections", plan.Sections, (w, x) =>
            {
                w.WriteString("zones", x.Words);
                w.WriteNumber("startMinute", Math.Round(x.StartMinute, 1));
                w.WriteNumber("seconds", Math.Round(x.Seconds));
                w.WriteString("tightest", x.Tightest);
                w.WriteNumber("spareSeconds", Math.Round(x.Spare));
            });
            w.WriteNumber("ladderMoves", plan.LadderMoves);
            if (plan.RemistSeconds is { } every)
            {
                w.WriteNumber("mistAgainSeconds", Math.Round(every));
            }

            Texts(w, "why", plan.Why);
            w.WriteEndObject();
        }

        w.WriteString("tool", s.Tool);
        Texts(w, "zones", s.Zones);
        List(w, "answers", s.Answers, (w, a) => { w.WriteString("zone", a.Zone); w.WriteString("contaminant", a.Contaminant); w.WriteNumber("before", Math.Round(a.Before, 3)); w.WriteNumber("after", Math.Round(a.After, 3)); });
        Texts(w, "why", s.Why);
        if (s.Until is { } u)
        {
            w.WriteStartObject("until");
            w.WriteString("observe", u.Observe);
            Texts(w, "stop", u.Stop);
            Texts(w, "repeat", u.Repeat);
            w.WriteNumber("maxRounds", u.MaxRounds);
            w.WriteString("then", u.Then);
            w.WriteEndObject();
        }
        else
        {
            w.WriteNull("until");
        }

        Texts(w, "cautions", s.Cautions);
        Texts(w, "avoid", s.Avoid);
        Texts(w, "kit", s.Kit);
        w.WriteNumber("labourMinutes", Math.Round(s.LabourMinutes, 1));
        w.WriteNumber("waitMinutes", Math.Round(s.WaitMinutes, 1));
        w.WriteNumber("waterLitres", Math.Round(s.WaterLitres, 1));
        w.WriteNumber("productMl", Math.Round(s.ProductMl, 1));
    }

    private static void Test(Utf8JsonWriter w, PlannedTest t)
    {
        w.WriteString("test", t.Test);
        w.WriteString("contaminant", t.Contaminant);
        Texts(w, "zones", t.Zones);
        w.WriteString("when", t.When);
        w.WriteString("changes", t.Changes);
        w.WriteNumber("probability", Math.Round(t.Probability, 3));
        w.WriteNumber("addsMinutes", Math.Round(t.AddsMinutes, 1));
        w.WriteNumber("narrowsMinutes", Math.Round(t.NarrowsMinutes, 1));
        w.WriteNumber("value", Math.Round(t.Value, 1));
        w.WriteString("without", t.Without);
        w.WriteNumber("savesMinutes", Math.Round(t.SavesMinutes, 1));
        w.WriteNumber("savesMoney", Math.Round(t.SavesMoney, 2));
        w.WriteNumber("savesHarm", Math.Round(t.SavesHarm, 2));
        List(w, "ifPositive", t.IfPositive, (w, b) =>
        {
            w.WriteString("stage", b.Stage);
            w.WriteString("treatment", b.Treatment);
            w.WriteNumber("rounds", b.Rounds);
            Texts(w, "zones", b.Zones);
            w.WriteNumber("labourMinutes", Math.Round(b.LabourMinutes, 1));
        });
    }

    private static void WriteRange(Utf8JsonWriter w, string name, Range r, int digits)
    {
        w.WriteStartObject(name);
        w.WriteNumber("low", Math.Round(r.Low, digits));
        w.WriteNumber("expected", Math.Round(r.Expected, digits));
        w.WriteNumber("high", Math.Round(r.High, digits));
        w.WriteEndObject();
    }

    private static void Texts(Utf8JsonWriter w, string name, IEnumerable<string> items)
    {
        w.WriteStartArray(name);
        foreach (var item in items)
        {
            w.WriteStringValue(item);
        }

        w.WriteEndArray();
    }

    private static void List<T>(Utf8JsonWriter w, string name, IEnumerable<T> items, Action<Utf8JsonWriter, T> write)
    {
        w.WriteStartArray(name);
        foreach (var item in items)
        {
            w.WriteStartObject();
            write(w, item);
            w.WriteEndObject();
        }

        w.WriteEndArray();
    }
}
