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

/// <summary>The zones of a survey, with their patterns.</summary>
public static partial class SurveyFormat
{
    private static readonly string[] ZoneFields =
    [
        "zone",
        "surface",
        "parts",
        "protection",
        "water",
        "measuredC",
        "measuredAt",
        "softness",
        "filmUm",
        "refinishDays",
        "partShare",
        "damage",
        "findings",
        "tests",
    ];

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
            var hit =
                pattern ? Matching(vehicle, name)
                : vehicle.Has(name) ? [vehicle[name]]
                : [];
            if (hit.Length == 0)
            {
                j.Fail(
                    path + ".zone",
                    pattern
                        ? $"'{StrictJson.Shorten(name)}' matches no zone of a {vehicle.Form}"
                        : $"'{StrictJson.Shorten(name)}' is no zone of a {vehicle.Form}",
                    vehicle.Zones.Select(v => v.Id)
                );
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
                    j.Fail(
                        path + ".surface",
                        $"{zone.Id} cannot be {surface}",
                        zone.Kind.MayBe.Select(s => s.Id).Append(Surface.UnknownId)
                    );
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
                        condition.Softness ?? before.Condition.Softness,
                        condition.FilmUm.Count > 0 ? condition.FilmUm : before.Condition.FilmUm,
                        condition.RefinishDays ?? before.Condition.RefinishDays,
                        condition.PartShare ?? before.Condition.PartShare,
                        condition.Damage.Count > 0 ? condition.Damage : before.Condition.Damage
                    ),
                    Tests = [.. before.Tests.Where(t => tests.All(n => n.Test != t.Test)), .. tests],
                };
                zones[zone.Id] = Merge(j, path, zone, after, found, pattern);
            }
        }

        return [.. zones.Values];
    }

    private static ZoneSurvey Merge(
        StrictJson j,
        string path,
        Zone zone,
        ZoneSurvey at,
        List<(Finding Finding, string Path)> found,
        bool pattern
    )
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
                j.Fail(
                    where + ".contaminant",
                    $"{f.Contaminant} cannot sit on {zone.Id} ({string.Join(", ", families)})",
                    Catalogue.Default.Contaminants.Where(c => families.Any(c.CanSitOn)).Select(c => c.Id)
                );
            }
        }

        return at with
        {
            Findings = kept.Values.OrderBy(f => f.Contaminant, StringComparer.Ordinal).ToArray(),
        };
    }

    /// <summary>The families of surface a zone has, by survey or by default.</summary>
    public static string[] FamiliesOf(Zone zone, ZoneSurvey? at)
    {
        var surface = at?.Surface is { } id && id != Surface.UnknownId ? Catalogue.Default.Surface(id) : zone.Kind.Default;
        return [.. (at?.Parts ?? []).Select(p => Catalogue.Default.Surface(p).Family).Prepend(surface.Family).Distinct()];
    }

    private static bool CanBe(Zone zone, string surface) => surface == Surface.UnknownId || zone.Kind.MayBe.Any(s => s.Id == surface);

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

        return new Condition(
            j.Text(z, path, "softness", Softnesses),
            film,
            j.Number(z, path, "refinishDays", 0, 36500, "days"),
            j.Number(z, path, "partShare", 0, 1, ""),
            damage
        );
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
        if (
            !id.StartsWith(parts[0], StringComparison.Ordinal)
            || !id.EndsWith(parts[^1], StringComparison.Ordinal)
            || id.Length < parts[0].Length + parts[^1].Length
        )
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
}
