using ToughStart.Core.Provenance;
using ToughStart.Core.Surfaces;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Formats;

/// <summary>One zone of a survey: what was said of it, or of every zone that a pattern like "*-door" matches.</summary>
internal static class ZonePart
{
    private static readonly IReadOnlyList<string> Contaminants = [.. Catalogue.Default.Contaminants.Select(c => c.Id)];

    /// <summary>A zone that the vehicle has.</summary>
    public static Holds<string> OfTheVehicle { get; } =
        Hold.Text with
        {
            Read = (j, e, path) =>
            {
                var read = Hold.Text.Read(j, e, path);
                if (read.Ok && j.Vehicle is { } vehicle && !vehicle.Has(read.Value))
                {
                    j.Fail(path, $"'{StrictJson.Shorten(read.Value)}' is no zone of a {vehicle.Form}", vehicle.Zones.Select(z => z.Id));
                    return (false, "");
                }

                return read;
            },
        };

    private static readonly Part<Finding> FindingPart = new Part<Finding>(v =>
        new(v.Get<string>("contaminant"), v.Get<int>("grade"), v.Text("age"), v.Get("certainty", Certainty.Seen))
    )
        .Called("Finding")
        .With("contaminant", Hold.OneOf(Contaminants), f => f.Contaminant)
        .With("grade", Hold.Whole(0, 4), f => f.Grade)
        .MayBe("age", Hold.OneOf(SurveyWords.Ages), f => f.Age)
        .Or("certainty", Hold.OneOf<Certainty>(), f => f.Certainty);

    private static readonly Part<TestResult> TestPart = new Part<TestResult>(v =>
        new(v.Get<string>("test"), v.Get<string>("result"), v.Text("because"))
    )
        .Called("Test")
        .With("test", Hold.OneOf([.. SurveyWords.Tests.Keys]), t => t.Test)
        .With("result", Hold.OneOf([.. SurveyWords.Tests.Values.SelectMany(v => v).Append(SurveyWords.Inconclusive).Distinct()]), t =>
            t.Result
        )
        .MayBe("because", Hold.OneOf(SurveyWords.Becauses), t => t.Because)
        .Check(
            (j, v, path) =>
            {
                string[] answers = [.. SurveyWords.Tests[v.Get<string>("test")], SurveyWords.Inconclusive];
                if (!answers.Contains(v.Get<string>("result")))
                {
                    j.Fail(path + ".result", $"'{v.Get<string>("result")}' is not known", answers);
                }
            }
        );

    private static readonly Part<Damage> DamagePart = new Part<Damage>(v => new(v.Get<string>("kind"), v.Get("decision", "noted")))
        .Called("Damage")
        .With("kind", Hold.OneOf(SurveyWords.Damages), d => d.Kind)
        .Or("decision", Hold.OneOf(SurveyWords.Decisions), d => d.Decision)
        .Formerly("verdict");

    private static readonly Part<ZoneSurvey> Named = new Part<ZoneSurvey>(ReadZone)
        .Called("Zone")
        .With("zone", Hold.Short(), z => z.Zone)
        .MayBe("surface", Hold.OneOf(SurveyWords.Surfaces), z => z.Surface)
        .Any("parts", Hold.SomeOf([.. Catalogue.Default.Surfaces.Select(s => s.Id)]), z => [.. z.Parts.Order(StringComparer.Ordinal)])
        .MayBe("goal", Hold.Term(ZoneGoal.All), z => z.Goal);

    public static Part<ZoneSurvey> Part { get; } =
        Named
            .MayBe("protection", Hold.OneOf(SurveyWords.Protections), z => z.Protection)
            .MayBe("water", Hold.OneOf(SurveyWords.Waters), z => z.Water)
            .May("measuredC", Hold.Number(-30, 120, unit: "degC"), z => z.MeasuredC)
            .MayBe("measuredAt", ZonedTime.Holds, z => z.MeasuredC is null ? null : z.MeasuredAt)
            .MayBe("softness", Hold.OneOf(SurveyWords.Softnesses), z => z.Condition.Softness)
            .Any("filmUm", Hold.ListOf(Hold.Number(0, 5000, unit: "µm"), SurveyFormat.MostReadings), z => z.Condition.FilmUm)
            .May("refinishDays", Hold.Number(0, 36500, unit: "days"), z => z.Condition.RefinishDays)
            .May("partShare", Hold.Number(0, 1), z => z.Condition.PartShare)
            .Any("damage", Hold.ListOf(DamagePart.One).In(all => all.GroupBy(d => d.Kind).Select(g => g.Last())), z =>
                [.. z.Condition.Damage.OrderBy(d => d.Kind, StringComparer.Ordinal)]
            )
            .Or("findings", Hold.ListOf(FindingPart.One), z => [.. z.Findings.OrderBy(f => f.Contaminant, StringComparer.Ordinal)])
            .Or("tests", Hold.ListOf(TestPart.One), z => [.. z.Tests.OrderBy(t => t.Test, StringComparer.Ordinal)]);

    private static ZoneSurvey ReadZone(Part<ZoneSurvey>.Values v) =>
        new(
            v.Get<string>("zone"),
            v.Text("surface"),
            v.Texts("parts"),
            v.Text("protection"),
            v.Text("water"),
            v.Number("measuredC"),
            v.Get<IReadOnlyList<Finding>>("findings", []),
            v.Get<IReadOnlyList<TestResult>>("tests", [])
        )
        {
            MeasuredAt = v.Has("measuredC") ? v.Text("measuredAt") : null,
            Goal = v.Get<ZoneGoal?>("goal", null),
            Condition = new Condition(
                v.Text("softness"),
                v.Get<IReadOnlyList<double>>("filmUm", []),
                v.Number("refinishDays"),
                v.Number("partShare"),
                v.Get<IReadOnlyList<Damage>>("damage", [])
            ),
        };

    private static readonly Holds<IReadOnlyList<ZoneSurvey>> Said = Hold.ListOf(Part.One);

    /// <summary>
    /// The zones, in the order of their ids. As they are read, patterns are spread over the zones of the vehicle, a later word on a zone
    /// wins over an earlier one, and what a zone cannot be or carry is refused where it was named itself, and passed over where a pattern
    /// did.
    /// </summary>
    public static Holds<IReadOnlyList<ZoneSurvey>> All { get; } =
        Said with
        {
            Write = (w, zones) => Said.Write(w, [.. zones.OrderBy(z => z.Zone, StringComparer.Ordinal)]),
            Read = (j, e, path) =>
            {
                var (ok, said) = Said.Read(j, e, path);
                return j.Vehicle is { } vehicle && said is not null ? (ok, Spread(j, path, vehicle, said)) : (ok, []);
            },
        };

    private static ZoneSurvey[] Spread(StrictJson j, string path, Vehicle vehicle, IReadOnlyList<ZoneSurvey> said)
    {
        var zones = new SortedDictionary<string, ZoneSurvey>(StringComparer.Ordinal);
        var findings = 0;
        foreach (var (item, at) in said.Select((z, i) => (z, $"{path}[{i}]")).Where(x => x.z is not null))
        {
            var pattern = ZonePattern.Is(item.Zone);
            var hit =
                pattern ? ZonePattern.Matching(vehicle, item.Zone)
                : vehicle.Has(item.Zone) ? [vehicle[item.Zone]]
                : [];
            if (hit.Length == 0)
            {
                j.Fail(
                    at + ".zone",
                    $"'{StrictJson.Shorten(item.Zone)}' {(pattern ? "matches" : "is")} no zone of a {vehicle.Form}",
                    vehicle.Zones.Select(v => v.Id)
                );
                continue;
            }

            findings += item.Findings.Count;
            if (findings > SurveyFormat.MostFindings)
            {
                j.Fail(path, $"hold more than {SurveyFormat.MostFindings} findings");
                return [];
            }

            foreach (var zone in hit)
            {
                var before = zones.GetValueOrDefault(zone.Id) ?? new ZoneSurvey(zone.Id, null, [], null, null, null, [], []);
                zones[zone.Id] = Onto(j, at, zone, before, item, pattern);
            }
        }

        return [.. zones.Values];
    }

    /// <summary>What was said of a zone, on top of what was said of it before.</summary>
    private static ZoneSurvey Onto(StrictJson j, string path, Zone zone, ZoneSurvey before, ZoneSurvey said, bool pattern)
    {
        var mayBe = said.Surface is null || CanBe(zone, said.Surface);
        if (!mayBe && !pattern)
        {
            j.Fail(path + ".surface", $"{zone.Id} cannot be {said.Surface}", [.. zone.Kind.MayBe.Select(s => s.Id), Surface.UnknownId]);
        }

        var (was, now) = (before.Condition, said.Condition);
        var after = before with
        {
            Surface = mayBe ? said.Surface ?? before.Surface : before.Surface,
            Parts = said.Parts.Where(p => CanBe(zone, p)).ToArray() is { Length: > 0 } some ? some : before.Parts,
            Protection = said.Protection ?? before.Protection,
            Water = said.Water ?? before.Water,
            Goal = said.Goal ?? before.Goal,
            MeasuredC = said.MeasuredC ?? before.MeasuredC,
            MeasuredAt = said.MeasuredC is null ? before.MeasuredAt : said.MeasuredAt,
            Condition = new Condition(
                now.Softness ?? was.Softness,
                now.FilmUm.Count > 0 ? now.FilmUm : was.FilmUm,
                now.RefinishDays ?? was.RefinishDays,
                now.PartShare ?? was.PartShare,
                now.Damage.Count > 0 ? now.Damage : was.Damage
            ),
            Tests = [.. before.Tests.Where(t => said.Tests.All(n => n.Test != t.Test)), .. said.Tests],
        };
        var families = SurveyFormat.FamiliesOf(zone, after);
        var kept = after.Findings.ToDictionary(f => f.Contaminant);
        foreach (var (finding, i) in said.Findings.Select((f, i) => (f, i)))
        {
            var kind = Catalogue.Default.Contaminant(finding.Contaminant);
            if (pattern && finding.Grade > 0 && !kind.IsMeantOn(zone))
            {
                continue;
            }

            if (families.Any(kind.CanSitOn))
            {
                kept[finding.Contaminant] = finding;
            }
            else if (!pattern)
            {
                j.Fail(
                    $"{path}.findings[{i}].contaminant",
                    $"{finding.Contaminant} cannot sit on {zone.Id} ({string.Join<Family>(", ", families)})",
                    Catalogue.Default.Contaminants.Where(c => families.Any(c.CanSitOn)).Select(c => c.Id)
                );
            }
        }

        return after with
        {
            Findings = [.. kept.Values.OrderBy(f => f.Contaminant, StringComparer.Ordinal)],
        };
    }

    private static bool CanBe(Zone zone, string surface) => surface == Surface.UnknownId || zone.Kind.MayBe.Any(s => s.Id == surface);
}

/// <summary>
/// Names that stand for several zones: "*" for any letters, and the words people use for a part of a vehicle. Every part of a wheel answers to
/// the wheel of its corner, whatever else it is called.
/// </summary>
internal static class ZonePattern
{
    private static readonly Dictionary<string, Func<Zone, bool>> Groups = new()
    {
        ["glass"] = z => z.Kind.Id == "glass",
        ["soft-top"] = z => z.Kind.MayBe.Any(s => s.Family == Family.Hood),
        ["painted-outside"] = z => z.Kind.Default.Family == Family.Body && z.Kind.Id is not ("shut" or "gutter" or "filler"),
    };

    /// <summary>Does a name stand for several zones?</summary>
    public static bool Is(string name) => name.Contains('*', StringComparison.Ordinal) || Groups.ContainsKey(name);

    public static Zone[] Matching(Vehicle vehicle, string pattern)
    {
        if (Groups.TryGetValue(pattern, out var group))
        {
            return [.. vehicle.Zones.Where(group)];
        }

        var parts = pattern.Split('*');
        return [.. vehicle.Zones.Where(z => NamesOf(z).Any(name => Matches(name, parts)))];
    }

    /// <summary>Its id; and for a part of a wheel the wheel of its corner, with and without the part.</summary>
    private static IEnumerable<string> NamesOf(Zone zone)
    {
        yield return zone.Id;
        if (zone is { Corner: { } corner, Kind.Default: var surface } && surface.Family == Family.Wheel)
        {
            yield return $"{corner}-wheel";
            yield return $"{corner}-wheel-{zone.Id[(corner.Length + 1)..]}";
        }
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
}
