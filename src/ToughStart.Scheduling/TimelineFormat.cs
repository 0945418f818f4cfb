using System.Text.Json;

namespace ToughStart.Scheduling;

/// <summary>A timeline as a document, <c>toughstart.timeline/1</c>: all a checker needs, and nothing of how it was made.</summary>
public static class TimelineFormat
{
    public const string Format = "toughstart.timeline/1";

    /// <param name="by">greedy or cp-sat.</param>
    /// <param name="bound">No schedule can finish before; null = not known.</param>
    public static byte[] Write(Instance i, Schedule s, string by = "greedy", int? bound = null)
    {
        using var stream = new MemoryStream();
        using (var w = new Utf8JsonWriter(stream))
        {
            w.WriteStartObject();
            w.WriteString("format", Format);
            w.WriteString("unit", "s");
            w.WriteNumber("walk", i.Walk);
            w.WriteNumber("now", i.Now);
            Array("crew", i.Crew, p =>
            {
                w.WriteString("id", p.Id);
                w.WriteStartArray("skills");
                foreach (var skill in p.Skills)
                {
                    w.WriteStringValue(skill);
                }

                w.WriteEndArray();
                Stretches("shifts", p.Shifts);
                Stretches("breaks", p.Breaks);
                if (p.Stands is { } stands)
                {
                    w.WriteNumber("stands", stands);
                }

                if (p.Rest is { } rest)
                {
                    w.WriteStartObject("rest");
                    w.WriteNumber("seconds", rest.Seconds);
                    w.WriteNumber("from", rest.From);
                    w.WriteNumber("to", rest.To);
                    w.WriteEndObject();
                }
            });
            w.WriteStartObject("machines");
            w.WriteNumber("washers", i.Machines.Washers);
            w.WriteNumber("ladders", i.Machines.Ladders);
            w.WriteEndObject();
            var at = s.Tasks.ToDictionary(t => t.Key);
            Array("tasks", i.Tasks, t =>
            {
                w.WriteString("key", t.Key);
                w.WriteString("step", t.Step);
                w.WriteString("part", t.Part.ToString().ToLowerInvariant());
                w.WriteStartArray("zones");
                foreach (var z in t.Zones)
                {
                    w.WriteStringValue(z);
                }

                w.WriteEndArray();
                if (t.At is { } place)
                {
                    w.WriteNumber("at", place);
                }

                w.WriteNumber("seconds", t.Seconds);
                w.WriteBoolean("washer", t.Washer);
                w.WriteBoolean("ladder", t.Ladder);
                if (t.Skill is { } skill)
                {
                    w.WriteString("skill", skill);
                }

                if (t.Conditional)
                {
                    w.WriteBoolean("conditional", true);
                }

                if (i.Begun.ContainsKey(t.Key))
                {
                    w.WriteString("state", "begun");
                }

                if (t.From > 0)
                {
                    w.WriteNumber("from", t.From);
                }

                if (t.By.Count > 0)
                {
                    w.WriteStartArray("by");
                    foreach (var who in t.By)
                    {
                        w.WriteStringValue(who);
                    }

                    w.WriteEndArray();
                }

                if (t.Pinned is { } pin)
                {
                    w.WriteNumber("pinned", pin);
                }

                if (at.TryGetValue(t.Key, out var placed))
                {
                    w.WriteNumber("start", placed.Start);
                    w.WriteNumber("end", placed.End);
                    w.WriteString("who", placed.Who);
                }
            });
            Array("cycles", i.Cycles, c =>
            {
                w.WriteString("on", c.On);
                w.WriteString("off", c.Off);
                w.WriteNumber("minLag", c.MinLag);
                w.WriteNumber("maxLag", c.MaxLag);
                w.WriteStartArray("hours");
                foreach (var h in c.Hours)
                {
                    w.WriteStartArray();
                    w.WriteNumberValue(h.From);
                    w.WriteNumberValue(h.To);
                    w.WriteNumberValue(h.MaxLag);
                    w.WriteEndArray();
                }

                w.WriteEndArray();
                w.WriteBoolean("personBound", c.PersonBound);
            });
            Array("order", i.Order, o =>
            {
                w.WriteString("before", o.First);
                w.WriteString("after", o.Then);
                w.WriteString("why", o.Why);
            });
            Array("inside", i.Inside, Pair);
            Array("noWater", i.NoWater, Pair);
            Array("rests", s.Rests.OrderBy(r => r.Key, StringComparer.Ordinal), r =>
            {
                w.WriteString("who", r.Key);
                w.WriteNumber("start", r.Value.From);
                w.WriteNumber("seconds", r.Value.Length);
            });
            Array("unkept", s.Late, l =>
            {
                w.WriteString("on", l.On);
                w.WriteString("off", l.Off);
                w.WriteNumber("seconds", l.Seconds);
                w.WriteString("who", l.Who);
            });
            w.WriteNumber("finish", s.Finish);
            if (bound is { } b)
            {
                w.WriteNumber("bound", b);
            }

            w.WriteString("by", by);
            w.WriteNumber("addingUp", i.AddingUp);
            w.WriteNumber("eighths", s.Walked);
            w.WriteEndObject();

            void Pair(Pair p)
            {
                w.WriteString("task", p.Task);
                w.WriteString("on", p.On);
            }

            void Stretches(string name, IReadOnlyList<Stretch> all)
            {
                w.WriteStartArray(name);
                foreach (var x in all)
                {
                    w.WriteStartArray();
                    w.WriteNumberValue(x.From);
                    w.WriteNumberValue(x.To);
                    w.WriteEndArray();
                }

                w.WriteEndArray();
            }

            void Array<T>(string name, IEnumerable<T> all, Action<T> write)
            {
                w.WriteStartArray(name);
                foreach (var x in all)
                {
                    w.WriteStartObject();
                    write(x);
                    w.WriteEndObject();
                }

                w.WriteEndArray();
            }
        }

        return stream.ToArray();
    }
}
