using System.Text;
using System.Text.Json.Nodes;
using CsCheck;
using NJsonSchema;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;
using TestResult = ToughStart.Core.Formats.TestResult;

namespace ToughStart.Core.Tests;

public class FormatTests
{
    private const string Head = """ "format": "toughstart.survey/1", "vehicle": { "form": "saloon" }, "goal": "wash" """;

    [Theory]
    [InlineData("{", Refusal.Malformed, "(document)")]
    [InlineData("[]", Refusal.Malformed, "")]
    [InlineData("""{ "goal": "wash" }""", Refusal.Malformed, "format")]
    [InlineData("""{ "format": "toughstart.survey/9" }""", Refusal.Malformed, "format")]
    [InlineData("""{ "format": "toughstart.survey/1", "format": "toughstart.survey/1" }""", Refusal.Malformed, "(document)")]
    [InlineData(
        """{ "format": "toughstart.survey/1", "vehicle": { "form": "saloon", "lengthMm": NaN }, "goal": "wash" }""",
        Refusal.Malformed,
        "(document)"
    )]
    [InlineData(
        """{ "format": "toughstart.survey/1", "vehicle": { "form": "saloon", "lengthMm": -4000 }, "goal": "wash" }""",
        Refusal.Invalid,
        "vehicle.lengthMm"
    )]
    [InlineData(
        """{ "format": "toughstart.survey/1", "vehicle": { "form": "saloon", "lengthMm": 1e400 }, "goal": "wash" }""",
        Refusal.Invalid,
        "vehicle.lengthMm"
    )]
    [InlineData(
        """{ "format": "toughstart.survey/1", "vehicle": { "form": "tricycle" }, "goal": "wash" }""",
        Refusal.Invalid,
        "vehicle.form"
    )]
    [InlineData("""{ "format": "toughstart.survey/1", "vehicle": { "form": "saloon" }, "goal": "shine" }""", Refusal.Invalid, "goal")]
    public void A_bad_head_is_refused_by_field(string json, Refusal refusal, string field)
    {
        var read = Repository.Read(json);
        read.Ok.ShouldBeFalse();
        read.Refusal.ShouldBe(refusal);
        read.Problems.ShouldContain(p => p.Field == field, string.Join("; ", read.Problems));
    }

    [Theory]
    [InlineData(""" "dirt": 1 """, "dirt")]
    [InlineData(""" "house": { "wheels": "never" } """, "house.wheels")]
    [InlineData(""" "zones": [ { "zone": "wing-mirror" } ] """, "zones[0].zone")]
    [InlineData(""" "zones": [ { "zone": "*-turret" } ] """, "zones[0].zone")]
    [InlineData(""" "zones": [ { "zone": "bonnet", "surface": "marble" } ] """, "zones[0].surface")]
    [InlineData(""" "zones": [ { "zone": "bonnet", "surface": "tyre-sidewall" } ] """, "zones[0].surface")]
    [InlineData(
        """ "zones": [ { "zone": "bonnet", "findings": [ { "contaminant": "custard", "grade": 1 } ] } ] """,
        "zones[0].findings[0].contaminant"
    )]
    [InlineData(
        """ "zones": [ { "zone": "bonnet", "findings": [ { "contaminant": "tyre-bloom", "grade": 1 } ] } ] """,
        "zones[0].findings[0].contaminant"
    )]
    [InlineData(
        """ "zones": [ { "zone": "bonnet", "findings": [ { "contaminant": "mud", "grade": 7 } ] } ] """,
        "zones[0].findings[0].grade"
    )]
    [InlineData(
        """ "zones": [ { "zone": "bonnet", "findings": [ { "contaminant": "mud", "grade": 2.5 } ] } ] """,
        "zones[0].findings[0].grade"
    )]
    [InlineData(""" "zones": [ { "zone": "bonnet", "findings": [ { "contaminant": "mud" } ] } ] """, "zones[0].findings[0].grade")]
    [InlineData(
        """ "zones": [ { "zone": "bonnet", "findings": [ { "contaminant": "mud", "grade": 1, "age": "ancient" } ] } ] """,
        "zones[0].findings[0].age"
    )]
    [InlineData(""" "zones": [ { "zone": "bonnet", "tests": [ { "test": "touch", "result": "slimy" } ] } ] """, "zones[0].tests[0].result")]
    [InlineData(""" "site": { "airC": 99 } """, "site.airC")]
    [InlineData(""" "crew": 0 """, "crew")]
    [InlineData(""" "shelf": [ { "agent": "snake-oil" } ] """, "shelf[0].agent")]
    [InlineData(""" "history": { "releases": [ { "gate": "flood-workshop" } ] } """, "history.releases[0].by")]
    public void A_bad_field_is_named_with_what_is_allowed(string more, string field)
    {
        var read = Repository.Read($"{{ {Head}, {more} }}");
        read.Ok.ShouldBeFalse();
        var problem = read.Problems.FirstOrDefault(p => p.Field == field);
        problem.ShouldNotBeNull(string.Join("; ", read.Problems));
        problem.Message.ShouldNotBeNullOrWhiteSpace();
    }

    /// <summary>Whoever says "painted" of sap means the outside; mud goes everywhere, and a zone named by itself is taken at its word.</summary>
    [Fact]
    public void A_pattern_never_puts_a_kind_where_nobody_could_mean_it()
    {
        const string zones = """
            { "zone": "*", "findings": [ { "contaminant": "sap", "grade": 2 }, { "contaminant": "mud", "grade": 3 }, { "contaminant": "bug", "grade": 0 } ] },
              { "zone": "boot-shuts", "findings": [ { "contaminant": "sap", "grade": 1 } ] }
            """;
        var survey = Repository.Saloon(zones);
        survey.ZoneOf("bonnet")!.FindingOf("sap")!.Grade.ShouldBe(2);
        survey.ZoneOf("door-shuts")!.FindingOf("sap").ShouldBeNull();
        survey.ZoneOf("door-shuts")!.FindingOf("mud")!.Grade.ShouldBe(3);
        survey.ZoneOf("door-shuts")!.FindingOf("bug")!.Grade.ShouldBe(0, "looked and none may be said of everything");
        survey.ZoneOf("boot-shuts")!.FindingOf("sap")!.Grade.ShouldBe(1);
    }

    [Fact]
    public void More_problems_than_are_named_are_still_problems()
    {
        var broken = string.Join(',', Enumerable.Repeat("""{ "grade": 1 }""", 60));
        var read = Repository.Read($$"""{ {{Head}}, "zones": [ { "zone": "bonnet", "findings": [ {{broken}} ] } ] }""");
        read.Ok.ShouldBeFalse();
        read.Problems.Count.ShouldBe(40);
        read.Problems.ShouldAllBe(p => p.Field.EndsWith(".contaminant", StringComparison.Ordinal) && p.Allowed!.Contains("mud"));
    }

    [Fact]
    public void What_a_zone_says_wrongly_does_not_hide_what_another_cannot_be()
    {
        var read = Repository.Read(
            $$"""{ {{Head}}, "zones": [ { "zone": "roof", "measuredC": 900 }, { "zone": "bonnet", "surface": "tyre-rubber" } ] }"""
        );
        read.Problems.Select(p => p.Field).ShouldBe(["zones[0].measuredC", "zones[1].surface"]);
    }

    [Fact]
    public void Names_that_fields_had_before_are_read_and_no_longer_written()
    {
        var read = Repository.Read(
            $$"""
            { {{Head}},
              "history": { "releases": [ { "gate": "flood-workshop", "by": "p-1" } ] },
              "zones": [ { "zone": "bonnet", "damage": [ { "kind": "chip", "verdict": "bought" } ] } ] }
            """
        );
        read.Problems.ShouldBeEmpty();
        read.Value!.History.Releases.ShouldHaveSingleItem().Hold.ShouldBe("flood-workshop");
        read.Value.ZoneOf("bonnet")!.Condition.Damage.ShouldBe([new Damage("chip", "bought")]);
        var written = Encoding.UTF8.GetString(SurveyFormat.Write(read.Value));
        written.ShouldContain("\"hold\": \"flood-workshop\"");
        written.ShouldContain("\"decision\": \"bought\"");
        written.ShouldNotContain("\"gate\"");
        written.ShouldNotContain("\"verdict\"");
    }

    [Fact]
    public void Unknown_fields_pass_only_under_x()
    {
        Repository.Read($$"""{ {{Head}}, "x-note": { "anything": [1] } }""").Ok.ShouldBeTrue();
    }

    [Fact]
    public void More_than_2000_findings_are_refused()
    {
        var finding = """{ "contaminant": "mud", "grade": 1 }""";
        var zones = string.Join(
            ',',
            Enumerable.Repeat($$"""{ "zone": "bonnet", "findings": [ {{string.Join(',', Enumerable.Repeat(finding, 100))}} ] }""", 21)
        );
        var read = Repository.Read($$"""{ {{Head}}, "zones": [ {{zones}} ] }""");
        read.Refusal.ShouldBe(Refusal.Invalid);
        read.Problems.ShouldContain(p => p.Field == "zones" && p.Message.Contains("2000"));
    }

    [Fact]
    public void Over_two_megabytes_is_too_large() =>
        SurveyFormat.Read(new byte[SurveyFormat.MostBytes + 1]).Refusal.ShouldBe(Refusal.TooLarge);

    [Fact]
    public void An_empty_survey_still_plans_on_what_is_expected()
    {
        var plan = Planner.Plan(Repository.Survey($$"""{ {{Head}} }"""));
        plan.ReferOnly.ShouldBeFalse();
        plan.Steps.ShouldNotBeEmpty();
    }

    /// <summary>Whoever says wheel means all of it: face, barrel, behind the caliper and the backs of the spokes.</summary>
    [Theory]
    [InlineData("*-wheel")]
    [InlineData("*-wheel-*")]
    public void A_wheel_is_every_part_of_it(string pattern)
    {
        var s = Repository.Survey(
            $$"""{ {{Head}}, "zones": [ { "zone": "{{pattern}}", "findings": [ { "contaminant": "iron", "grade": 3 } ] } ] }"""
        );
        string[] parts = ["wheel-face", "wheel-barrel", "behind-caliper", "spoke-backs"];
        string[] corners = ["left-front", "left-rear", "right-front", "right-rear"];
        s.Zones.Select(z => z.Zone).ShouldBe(corners.SelectMany(c => parts.Select(p => $"{c}-{p}")), ignoreOrder: true);
    }

    [Fact]
    public void Words_for_a_part_of_the_vehicle_stand_for_its_zones()
    {
        var s = Repository.Survey(
            $$"""
            { {{Head}}, "zones": [ { "zone": "glass", "findings": [ { "contaminant": "mineral", "grade": 2 } ] },
                                   { "zone": "painted-outside", "findings": [ { "contaminant": "sap", "grade": 1 } ] } ] }
            """
        );
        s.ZoneOf("windscreen")!.FindingOf("mineral").ShouldNotBeNull();
        s.ZoneOf("roof")!.FindingOf("sap").ShouldNotBeNull();
        s.Zones.Where(z => z.FindingOf("sap") is not null).ShouldAllBe(z => !z.Zone.EndsWith("shuts", StringComparison.Ordinal));
    }

    [Fact]
    public void Patterns_touch_only_where_a_kind_can_sit_and_later_entries_win()
    {
        var s = Repository.Survey(
            $$"""{ {{Head}}, "zones": [ { "zone": "*", "findings": [ { "contaminant": "tyre-bloom", "grade": 3 }, { "contaminant": "mud", "grade": 1 } ] }, { "zone": "left-*", "findings": [ { "contaminant": "mud", "grade": 4 } ] } ] }"""
        );
        s.Zones.Where(z => z.FindingOf("tyre-bloom") is not null)
            .Select(z => z.Zone)
            .ShouldBe(["left-front-tyre", "left-rear-tyre", "right-front-tyre", "right-rear-tyre"], ignoreOrder: true);
        s.ZoneOf("left-sill")!.FindingOf("mud")!.Grade.ShouldBe(4);
        s.ZoneOf("right-sill")!.FindingOf("mud")!.Grade.ShouldBe(1);
        s.ZoneOf("left-sill")!.Findings.Count(f => f.Contaminant == "mud").ShouldBe(1);
    }

    [Fact]
    public void What_is_written_reads_back_the_same_and_is_canonical() =>
        Surveys()
            .Sample(
                s =>
                {
                    var bytes = SurveyFormat.Write(s);
                    var back = SurveyFormat.Read(bytes);
                    return back.Ok
                        && SurveyFormat.Write(back.Value!).AsSpan().SequenceEqual(bytes)
                        && SurveyFormat.Hash(back.Value!) == SurveyFormat.Hash(s);
                },
                iter: 100
            );

    [Theory]
    [InlineData("estuary-pickup")]
    [InlineData("moorland-van")]
    [InlineData("flooded-saloon")]
    [InlineData("trail-motorcycle")]
    public void A_plan_reads_back_as_it_was_written(string demo)
    {
        var survey = Repository.Demo(demo);
        var plan = Planner.Plan(
            survey with
            {
                Shelf =
                [
                    .. Catalogue
                        .Default.Agents.Where(a => !a.IsWater)
                        .Select(a => new Chemistry.ShelfBottle(a.Id, true, null, false)
                        {
                            Id = "b-" + a.Id,
                            Name = "Bottle of {0} " + a.Name,
                        }),
                ],
            }
        );
        plan = plan with { Buy = Buying.Of(survey, plan), Proof = Planner.Prove(survey) };
        var bytes = PlanFormat.Write(plan);
        var back = PlanFormat.Read(bytes);
        back.Problems.ShouldBeEmpty();
        PlanFormat.Write(back.Value!).ShouldBe(bytes);
        back.Value!.Steps.Select(s => (s.Key, s.Slot, s.Block, s.AgentName, s.BottleId, s.Under, s.Over, s.Rounds))
            .ShouldBe(plan.Steps.Select(s => (s.Key, s.Slot, s.Block, s.AgentName, s.BottleId, s.Under, s.Over, s.Rounds)));
        back.Value!.BestTest?.Test.ShouldBe(plan.BestTest?.Test);
        PlanText.Of(back.Value!, survey).ShouldContain(plan.ReferOnly ? "REFER ONLY" : plan.Steps[0].Name);
    }

    [Fact]
    public void Any_plan_reads_back_as_it_was_written() =>
        Surveys()
            .Sample(
                s =>
                    PlanFormat.Write(Repository.Plan(s)) is var bytes
                    && PlanFormat.Read(bytes) is { Ok: true } back
                    && PlanFormat.Write(back.Value!).AsSpan().SequenceEqual(bytes),
                iter: 20,
                threads: 1
            );

    [Fact]
    public void A_plan_of_an_older_engine_reads_and_what_is_wrong_with_one_is_named_by_its_path()
    {
        var json = JsonNode.Parse(PlanFormat.Write(Repository.Plan(Repository.Demo("trail-motorcycle"))))!.AsObject();
        foreach (var step in json["steps"]!.AsArray())
        {
            new[] { "slot", "block", "agentName", "money", "setUpMinutes" }.ToList().ForEach(f => step!.AsObject().Remove(f));
        }

        json.Remove("traces");
        Checked<Plan> Read() => PlanFormat.Read(Encoding.UTF8.GetBytes(json.ToJsonString()));
        Read().Problems.ShouldBeEmpty();
        Read().Value!.Steps.ShouldAllBe(s => s.Stage == Stage.Dry || Catalogue.Default.Slots.Any(x => x.Id == s.Slot));
        json["steps"]![0]!["rounds"] = 9;
        json["colour"] = "red";
        json["steps"]![1]!.AsObject().Remove("key");
        Read().Problems.Select(p => p.Field).ShouldBe(["colour", "steps[0].rounds", "steps[1].key"], ignoreOrder: true);
        PlanFormat.Read("{"u8.ToArray()).Refusal.ShouldBe(Refusal.Malformed);
        PlanFormat.Read("null"u8.ToArray()).Problems.ShouldNotBeEmpty();
    }

    [Fact]
    public async Task Documents_fit_the_published_schemas()
    {
        var surveySchema = await JsonSchema.FromFileAsync(
            Path.Combine(Repository.Root, "docs", "schemas", "toughstart.survey-1.schema.json"),
            TestContext.Current.CancellationToken
        );
        var planSchema = await JsonSchema.FromFileAsync(
            Path.Combine(Repository.Root, "docs", "schemas", "toughstart.plan-2.schema.json"),
            TestContext.Current.CancellationToken
        );
        foreach (
            var name in new[]
            {
                "estuary-pickup",
                "flooded-saloon",
                "touring-saloon",
                "orchard-pickup",
                "barn-saloon",
                "barn-coupe",
                "ferry-minibus",
                "moorland-van",
                "trail-motorcycle",
            }
        )
        {
            var survey = Repository.Demo(name);
            surveySchema
                .Validate(File.ReadAllText(Path.Combine(Repository.Root, "demo", name + ".json")))
                .Select(e => e.ToString())
                .ShouldBeEmpty(name);
            surveySchema.Validate(Encoding.UTF8.GetString(SurveyFormat.Write(survey))).Select(e => e.ToString()).ShouldBeEmpty(name);
            planSchema
                .Validate(Encoding.UTF8.GetString(PlanFormat.Write(Repository.Plan(survey))))
                .Select(e => e.ToString())
                .ShouldBeEmpty(name);
        }

        surveySchema.Validate($$"""{ {{Head}}, "dirt": 1 }""").ShouldNotBeEmpty();
        surveySchema
            .Validate(
                """{ "format": "toughstart.survey/1", "vehicle": { "form": "saloon" }, "goal": "wash", "zones": [ { "zone": "bonnet", "findings": [ { "contaminant": "mud", "grade": 7 } ] } ] }"""
            )
            .ShouldNotBeEmpty();
    }

    [Fact]
    public void Documents_made_from_the_code_are_up_to_date()
    {
        foreach (var (path, text) in Schemas.Documents())
        {
            File.ReadAllText(Path.Combine(Repository.Root, "docs", path)).ShouldBe(text, path + ": run ./tough-start docs");
        }
    }

    [Fact]
    public void The_text_and_json_of_a_plan_tell_the_same_steps()
    {
        var plan = Repository.Plan(Repository.Demo("estuary-pickup"));
        var json = JsonNode.Parse(PlanFormat.Write(plan))!;
        json["steps"]!.AsArray().Count.ShouldBe(plan.Steps.Count);
        var text = PlanText.Of(plan, Repository.Demo("estuary-pickup"));
        plan.Steps.ShouldAllBe(s => text.Contains(s.Name));
        text.ShouldContain("hands-on");
    }

    /// <summary>Surveys of every form with findings, tests, condition, history and site.</summary>
    internal static Gen<Survey> Surveys()
    {
        var kinds = Catalogue.Default.Contaminants;
        var finding = Gen.Select(Gen.Int[0, 200], Gen.Int[0, kinds.Count - 1], Gen.Int[0, 4], Gen.Int[0, 4], Gen.Int[0, 2]);
        return Gen.Select(finding.Array[0, 40], Gen.Int[0, 3], Gen.Double[0, 60], Gen.Int[0, Forms.Ids.Count - 1], Gen.Int)
            .Select(
                (fs, g, months, form, seed) =>
                {
                    var r = new Random(seed);
                    T? Maybe<T>(IReadOnlyList<T> of) => r.Next(2) == 0 ? default : of[r.Next(of.Count)];
                    var id = Forms.Ids[form];
                    var zones = Forms.Build(id, Forms.DefaultSize(id)).Zones;
                    var by = new Dictionary<string, ZoneSurvey>();
                    foreach (var (z, k, grade, age, sure) in fs)
                    {
                        var zone = zones[z % zones.Count];
                        var at = by.GetValueOrDefault(zone.Id)
                            ?? new ZoneSurvey(zone.Id, null, [], Maybe(SurveyWords.Protections), Maybe(SurveyWords.Waters), null, [], [])
                            {
                                Condition =
                                    r.Next(2) == 0
                                        ? Condition.Unsaid
                                        : new Condition(
                                            Maybe(SurveyWords.Softnesses),
                                            Enumerable.Range(0, r.Next(4)).Select(_ => Math.Round(r.NextDouble() * 300, 1)).ToArray(),
                                            r.Next(3) == 0 ? r.Next(400) : null,
                                            null,
                                            SurveyWords
                                                .Damages.Where(_ => r.Next(6) == 0)
                                                .Select(d => new Damage(d, SurveyWords.Decisions[r.Next(4)]))
                                                .ToArray()
                                        ),
                            };
                        if (kinds[k].CanSitOn(zone.Kind.Default.Family))
                        {
                            var f = new Finding(kinds[k].Id, grade, age == 4 ? null : SurveyWords.Ages[age], (Certainty)sure);
                            at = at with { Findings = [.. at.Findings.Where(x => x.Contaminant != f.Contaminant), f] };
                        }

                        var card = Catalogue.Default.Tests[r.Next(Catalogue.Default.Tests.Count)];
                        by[zone.Id] = at with
                        {
                            Tests =
                            [
                                new TestResult(card.Id, r.Next(3) == 0 ? "inconclusive" : card.Answers[r.Next(card.Answers.Count)], null),
                            ],
                        };
                    }

                    var history = new History(
                        Maybe(SurveyWords.Floods) ?? "none",
                        r.Next(2) == 0,
                        Math.Round(months, 2),
                        Maybe(SurveyWords.Storages),
                        []
                    )
                    {
                        Use = Maybe(SurveyWords.Uses),
                        Region = Maybe(SurveyWords.Regions),
                        BrakeDust = Maybe(SurveyWords.BrakeDusts),
                        Biological = r.Next(2) == 0,
                        CoatedMonths = r.Next(2) == 0 ? r.Next(60) : null,
                    };
                    var site = new Site(
                        "shade",
                        null,
                        null,
                        null,
                        null,
                        null,
                        null,
                        null,
                        18.5,
                        null,
                        null,
                        null,
                        null,
                        "hose",
                        null,
                        Maybe(SurveyWords.Grounds),
                        "foul"
                    )
                    {
                        ShadeHours = r.Next(2) == 0 ? [] : [new ShadeSpan(8, 11.5), new ShadeSpan(15, 18)],
                        Slope = Maybe(SurveyWords.Slopes),
                        Power = Maybe(SurveyWords.Powers),
                        NeighboursClose = r.Next(2) == 0,
                        Access = Maybe(SurveyWords.Accesses),
                    };
                    return new Survey(
                        null,
                        null,
                        new VehicleInput(id, Forms.DefaultSize(id), "#a0b0c0", "soft", "hybrid"),
                        history,
                        Goal.All[g],
                        site,
                        new Dictionary<string, string> { ["wheels"] = "during-foam" },
                        null,
                        2,
                        [.. by.Values.OrderBy(z => z.Zone, StringComparer.Ordinal)]
                    );
                }
            );
    }
}
