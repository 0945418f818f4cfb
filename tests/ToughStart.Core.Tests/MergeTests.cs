using CsCheck;
using ToughStart.Core.Formats;

namespace ToughStart.Core.Tests;

/// <summary>Two tablets on one vehicle: nothing is lost, and only a true conflict is one.</summary>
public class MergeTests
{
    private static readonly string[] Zones = ["bonnet", "roof", "left-sill", "windscreen", "boot-lid", "left-front-door"];

    [Fact]
    public void Merging_with_what_nobody_changed_gives_mine() =>
        FormatTests
            .Surveys()
            .Sample(
                s =>
                {
                    var mine = Painted(
                        s,
                        Vehicles.Forms.Build(s.Vehicle.Form, s.Vehicle.Size).Zones.First(z => z.Kind.Default.Family == Family.Body).Id,
                        2
                    );
                    var merged = SurveyMerge.ThreeWay(s, mine, s);
                    return merged.Conflicts.Count == 0
                        && merged.FromThem.Count == 0
                        && SurveyFormat.Hash(merged.Merged) == SurveyFormat.Hash(mine);
                },
                iter: 50
            );

    [Fact]
    public void Different_zones_never_conflict_and_the_order_does_not_matter() =>
        Gen.Select(Gen.Int[0, 5], Gen.Int[0, 5], Gen.Int[0, 4], Gen.Int[0, 4])
            .Where((a, b, _, _) => a != b)
            .Sample(
                (a, b, ga, gb) =>
                {
                    var start = Repository.Demo("touring-saloon");
                    var (mine, theirs) = (Painted(start, Zones[a], ga), Painted(start, Zones[b], gb));
                    var one = SurveyMerge.ThreeWay(start, mine, theirs);
                    var other = SurveyMerge.ThreeWay(start, theirs, mine);
                    one.Conflicts.ShouldBeEmpty();
                    SurveyFormat.Hash(one.Merged).ShouldBe(SurveyFormat.Hash(other.Merged));
                    one.Merged.ZoneOf(Zones[a])!.FindingOf("cement")!.Grade.ShouldBe(ga);
                    one.Merged.ZoneOf(Zones[b])!.FindingOf("cement")!.Grade.ShouldBe(gb);
                },
                iter: 60
            );

    [Fact]
    public void The_same_zone_painted_differently_is_a_conflict_and_the_same_is_none()
    {
        var start = Repository.Demo("touring-saloon");
        var conflict = SurveyMerge.ThreeWay(start, Painted(start, "roof", 1), Painted(start, "roof", 3));
        conflict.Conflicts.Select(c => c.What).ShouldBe(["roof"]);
        conflict.Merged.ZoneOf("roof")!.FindingOf("cement")!.Grade.ShouldBe(3, "theirs stands until somebody decides");
        SurveyMerge.ThreeWay(start, Painted(start, "roof", 2), Painted(start, "roof", 2)).Conflicts.ShouldBeEmpty();
    }

    [Fact]
    public void Goal_rules_history_and_site_merge_part_by_part()
    {
        var start = Repository.Demo("touring-saloon");
        var mine = start with
        {
            Goal = Goal.Correct,
            House = new Dictionary<string, string>(start.House) { ["clay"] = "always" },
        };
        var theirs = start with
        {
            Site = start.Site with { Slope = "steep" },
            House = new Dictionary<string, string>(start.House) { ["foam"] = "always" },
            History = start.History with { Use = "track" },
        };
        var merged = SurveyMerge.ThreeWay(start, mine, theirs);
        merged.Conflicts.ShouldBeEmpty();
        (
            merged.Merged.Goal.Word,
            merged.Merged.Rule("clay"),
            merged.Merged.Rule("foam"),
            merged.Merged.Site.Slope,
            merged.Merged.History.Use
        ).ShouldBe(("correct", "always", "always", "steep", "track"));
        merged.FromThem.ShouldBe(["house.foam", "history", "site"], ignoreOrder: true);
        SurveyMerge
            .ThreeWay(start, start with { Goal = Goal.Correct }, start with { Goal = Goal.Sale })
            .Conflicts.Select(c => c.What)
            .ShouldBe(["goal"]);
        SurveyMerge
            .ThreeWay(start, start with { Site = start.Site with { Slope = "level" } }, theirs)
            .Conflicts.Select(c => c.What)
            .ShouldBe(["site"]);
    }

    /// <summary>One change to every part of a survey, and the conflict it makes when the other side changes it too.</summary>
    public static TheoryData<string> Parts => [.. Changes.Keys];

    private static readonly Dictionary<string, (Func<Survey, Survey> Mine, Func<Survey, Survey> Theirs)> Changes = new()
    {
        ["goal"] = (s => s with { Goal = Goal.Correct }, s => s with { Goal = Goal.Sale }),
        ["vehicle"] = (
            s => s with { Vehicle = s.Vehicle with { HotEngine = true } },
            s => s with { Vehicle = s.Vehicle with { HotEngine = false, Powertrain = "electric" } }
        ),
        ["history"] = (
            s => s with { History = s.History with { Use = "track" } },
            s => s with { History = s.History with { Use = "farm" } }
        ),
        ["site"] = (s => s with { Site = s.Site with { Slope = "steep" } }, s => s with { Site = s.Site with { Slope = "level" } }),
        ["shelf"] = (s => s with { Shelf = [new Chemistry.ShelfBottle("apc", true, null, false)] }, s => s with { Shelf = [] }),
        ["kit"] = (
            s => s with { Kit = new Chemistry.KitInUse(null, []) { Mitts = 3 } },
            s => s with { Kit = new Chemistry.KitInUse(null, []) { Mitts = 9 } }
        ),
        ["lean"] = (s => s with { Lean = new Planning.Leaning(8, 1, 1) }, s => s with { Lean = new Planning.Leaning(1, 4, 1) }),
        ["stockOnly"] = (s => s with { StockOnly = true }, s => s),
        ["declines"] = (
            s => s with { Declines = [new Decline(null, Stage.Iron, [])] },
            s => s with { Declines = [new Decline(null, Stage.Tar, [])] }
        ),
        ["crew"] = (s => s with { Crew = 2 }, s => s with { Crew = 3 }),
        ["house.foam"] = (
            s => s with { House = new Dictionary<string, string>(s.House) { ["foam"] = "always" } },
            s => s with { House = new Dictionary<string, string>(s.House) { ["foam"] = "optional" } }
        ),
        ["roof"] = (s => Painted(s, "roof", 1), s => Painted(s, "roof", 3)),
    };

    [Theory]
    [MemberData(nameof(Parts))]
    public void Each_part_is_merged_by_itself_and_never_drawn_into_another(string part)
    {
        var start = Repository.Demo("touring-saloon");
        foreach (var (other, change) in Changes.Where(c => c.Key != part))
        {
            var merged = SurveyMerge.ThreeWay(start, Changes[part].Mine(start), change.Mine(start));
            merged.Conflicts.ShouldBeEmpty($"{part} beside {other}");
            merged.FromThem.ShouldBe([other], $"{part} beside {other}");
            SurveyFormat
                .Hash(merged.Merged)
                .ShouldBe(SurveyFormat.Hash(change.Mine(Changes[part].Mine(start))), $"{part} beside {other}: both changes, nothing lost");
        }

        var both = SurveyMerge.ThreeWay(start, Changes[part].Mine(start), Changes[part].Theirs(start));
        both.Conflicts.Select(c => c.What).ShouldBe(part is "declines" or "stockOnly" ? [] : [part]);
    }

    [Fact]
    public void Refusals_of_both_sides_come_together_and_one_taken_back_is_gone()
    {
        var start = Repository.Demo("touring-saloon") with { Declines = [new Decline(null, Stage.Clay, [])] };
        Survey With(params string[] stages) => start with { Declines = [.. stages.Select(s => new Decline(null, Stage.Of(s), []))] };
        SurveyMerge
            .ThreeWay(start, With("clay", "iron"), With("clay", "tar"))
            .Merged.Declines.Select(d => d.Stage!.Word)
            .Order()
            .ShouldBe(["clay", "iron", "tar"]);
        SurveyMerge.ThreeWay(start, With("clay", "iron"), With()).Merged.Declines.Select(d => d.Stage).ShouldBe([Stage.Iron]);
    }

    [Fact]
    public void Another_body_form_beside_zones_it_does_not_have_is_a_conflict()
    {
        var start = Repository.Demo("touring-saloon");
        var bike = start with
        {
            Vehicle = start.Vehicle with { Form = "motorcycle", Size = Vehicles.Forms.DefaultSize("motorcycle") },
            Zones = [],
        };
        SurveyMerge.ThreeWay(start, Painted(start, "roof", 2), bike).Conflicts.ShouldContain(c => c.What == "vehicle" || c.What == "roof");
    }

    [Fact]
    public void A_zone_that_one_side_wiped_clean_goes_when_the_other_left_it_alone()
    {
        var start = Painted(Repository.Demo("touring-saloon"), "roof", 2);
        var wiped = start with { Zones = [.. start.Zones.Where(z => z.Zone != "roof")] };
        SurveyMerge.ThreeWay(start, start, wiped).Merged.ZoneOf("roof").ShouldBeNull();
        SurveyMerge.ThreeWay(start, Painted(start, "roof", 4), wiped).Conflicts.Count.ShouldBe(1);
    }

    private static Survey Painted(Survey s, string zone, int grade)
    {
        var at = s.ZoneOf(zone) ?? new ZoneSurvey(zone, null, [], null, null, null, [], []);
        var painted = at with
        {
            Findings = [.. at.Findings.Where(f => f.Contaminant != "cement"), new Finding("cement", grade, null, Certainty.Seen)],
        };
        return s with { Zones = [.. s.Zones.Where(z => z.Zone != zone).Append(painted).OrderBy(z => z.Zone, StringComparer.Ordinal)] };
    }
}
