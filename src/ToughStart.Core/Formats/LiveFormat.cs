using System.Collections.Immutable;
using System.Text.Encodings.Web;
using System.Text.Json;
using ToughStart.Core.Running.Live;

namespace ToughStart.Core.Formats;

/// <summary>
/// Writes the state of a live run so that the reducer of the pages' scripts, held to the same entries, writes the same bytes: names in
/// their order, whole numbers, nothing that a clock or a plan would change.
/// </summary>
public static class LiveFormat
{
    public static byte[] Write(LiveState s)
    {
        using var stream = new MemoryStream();
        using (var w = new Utf8JsonWriter(stream, new() { Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping }))
        {
            Write(w, s);
        }

        return stream.ToArray();
    }

    public static void Write(Utf8JsonWriter w, LiveState s)
    {
        w.WriteStartObject();
        w.WriteNumber("number", s.Number);
        w.WriteNumber("plan", s.Plan);
        w.WriteNumber("planUpTo", s.PlanUpTo);
        w.WriteString("started", s.Started);
        if (s.Closed is { } closed)
        {
            w.WriteStartObject("closed");
            w.WriteNumber("number", closed.Number);
            Write(w, closed.Totals);
            w.WriteEndObject();
        }
        else
        {
            w.WriteNull("closed");
        }

        Map(w, "stops", s.Stops, h =>
        {
            w.WriteStartObject();
            w.WriteString("what", h.What);
            w.WriteString("who", h.Who);
            w.WriteEndObject();
        });
        Map(w, "paused", s.Paused, w.WriteStringValue);
        Map(w, "crew", s.Crew, p =>
        {
            w.WriteStartObject();
            w.WriteString("step", p.Step);
            List(w, "zones", p.Zones);
            w.WriteEndObject();
        });
        Map(w, "cautions", s.Cautions, w.WriteNumberValue);
        Map(w, "facts", s.Facts, facts =>
        {
            w.WriteStartArray();
            foreach (var f in facts)
            {
                w.WriteStringValue(f.Id);
            }

            w.WriteEndArray();
        });
        Map(w, "zones", s.Zones, z => Write(w, z));
        Map(w, "undone", s.Undone, w.WriteNumberValue);
        Map(w, "verdicts", s.Verdicts, v =>
        {
            w.WriteStartObject();
            w.WriteNumber("number", v.Number);
            w.WriteString("verdict", v.Verdict);
            w.WriteNumber("upTo", v.UpTo);
            w.WriteBoolean("overtaken", v.Overtaken);
            w.WriteEndObject();
        });
        w.WriteStartObject("totals");
        Write(w, Live.TotalsOf(s));
        w.WriteEndObject();
        w.WriteStartArray("news");
        foreach (var n in s.News)
        {
            w.WriteNumberValue(n);
        }

        w.WriteEndArray();
        List(w, "refused", s.Refused);
        List(w, "late", s.Late);
        w.WriteStartArray("ignored");
        foreach (var (id, why) in s.Ignored)
        {
            w.WriteStartObject();
            w.WriteString("id", id);
            w.WriteString("why", why);
            w.WriteEndObject();
        }

        w.WriteEndArray();
        Map(w, "known", s.Known.ToImmutableSortedDictionary(StringComparer.Ordinal), w.WriteNumberValue);
        w.WriteEndObject();
    }

    private static void Write(Utf8JsonWriter w, LiveZone z)
    {
        w.WriteStartObject();
        Map(w, "rounds", z.Rounds, w.WriteNumberValue);
        Map(w, "dried", z.Dried, w.WriteNumberValue);
        Map(w, "lines", z.Lines, lines =>
        {
            w.WriteStartArray();
            foreach (var l in lines)
            {
                w.WriteStartObject();
                w.WriteString("id", l.Id);
                w.WriteString("last", l.Last);
                w.WriteString("who", l.Who);
                w.WriteNumber("round", l.Round);
                w.WriteNumber("first", l.First);
                w.WriteNumber("start", l.Start);
                w.WriteNumber("dwell", l.Dwell);
                w.WriteNumber("usable", l.Usable);
                w.WriteNumber("dry", l.Dry);
                w.WriteNumber("max", l.Max);
                w.WriteBoolean("dried", l.Dried);
                w.WriteString("perhaps", l.Perhaps);
                w.WriteEndObject();
            }

            w.WriteEndArray();
        });
        if (z.Last is var (number, treatment, verdict))
        {
            w.WriteStartObject("last");
            w.WriteNumber("number", number);
            w.WriteString("treatment", treatment);
            w.WriteString("verdict", verdict.ToString().ToLowerInvariant());
            w.WriteEndObject();
        }
        else
        {
            w.WriteNull("last");
        }

        Map(w, "looks", z.Looks, l =>
        {
            w.WriteStartObject();
            w.WriteNumber("number", l.Number);
            w.WriteString("result", l.Result);
            w.WriteBoolean("void", l.Void);
            w.WriteEndObject();
        });
        Map(w, "skipped", z.Skipped, w.WriteStringValue);
        List(w, "marks", z.Marks);
        List(w, "joined", z.Joined);
        w.WriteNumber("orphans", z.Orphans);
        w.WriteEndObject();
    }

    private static void Write(Utf8JsonWriter w, Totals totals)
    {
        Map(w, "ml", totals.Ml, w.WriteNumberValue);
        Map(w, "rounds", totals.Rounds, rounds =>
        {
            w.WriteStartObject();
            foreach (var (treatment, n) in rounds)
            {
                w.WriteNumber(treatment, n);
            }

            w.WriteEndObject();
        });
    }

    private static void Map<T>(Utf8JsonWriter w, string name, ImmutableSortedDictionary<string, T> map, Action<T> write)
    {
        w.WriteStartObject(name);
        foreach (var (key, value) in map)
        {
            w.WritePropertyName(key);
            write(value);
        }

        w.WriteEndObject();
    }

    private static void List(Utf8JsonWriter w, string name, IEnumerable<string> items)
    {
        w.WriteStartArray(name);
        foreach (var i in items)
        {
            w.WriteStringValue(i);
        }

        w.WriteEndArray();
    }
}
