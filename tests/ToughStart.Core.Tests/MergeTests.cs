using CsCheck;
using ToughStart.Core.Formats;

namespace ToughStart.Core.Tests;

/// <summary>Two tablets on one vehicle: nothing is lost, and only a true conflict is one.</summary>
public class MergeTests
{
    private static readonly string[] Zones = ["bonnet", "roof", "left-sill", "windscreen", "boot-lid", "left-front-door"];

    [Fact]
    public void Merging_with_what_nobody_changed_gives_mine() => FormatTests.Surveys().Sample(
        s =>
        {
            var mine = Painted(s, "roof", 2);
            var merged = SurveyMerge.ThreeWay(s, mine, s);
            return merged.Conflicts.Count == 0 && merged.FromThem.Count == 0 && SurveyFormat.Hash(merged.Merged) == SurveyFormat.Hash(mine);
        }, iter: 50);

    [Fact]
    public void Different_zones_never_conflict_and_the_order_does_not_matter() => Gen.Select(Gen.Int[0, 5], Gen.Int[0, 5], Gen.Int[0, 4], Gen.Int[0, 4]).Where((a, b, _, _) => a != b).Sample(
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
        }, iter: 60);

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
        var mine = start with { Goal = "correct", House = new Dictionary<string, string>(start.House) { ["clay"] = "always" } };
        var theirs = start with { Site = start.Site with { Slope = "steep" }, House = new Dictionary<string, string>(start.House) { ["foam"] = "always" }, History = start.History with { Use = "track" } };
        var merged = SurveyMerge.ThreeWay(start, mine, theirs);
        merged.Conflicts.ShouldBeEmpty();
        (merged.Merged.Goal, merged.Merged.Rule("clay"), merged.Merged.Rule("foam"), merged.Merged.Site.Slope, merged.Merged.History.Use).ShouldBe(("correct", "always", "always", "steep", "track"));
        merged.FromThem.ShouldBe(["house.foam", "history", "site"], ignoreOrder: true);
        SurveyMerge.ThreeWay(start, start with { Goal = "correct" }, start with { Goal = "sale" }).Conflicts.Select(c => c.What).ShouldBe(["goal"]);
        SurveyMerge.ThreeWay(start, start with { Site = start.Site with { Slope = "level" } }, theirs).Conflicts.Select(c => c.What).ShouldBe(["site"]);
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
        var painted = at with { Findings = [.. at.Findings.Where(f => f.Contaminant != "cement"), new Finding("cement", grade, null, Certainty.Seen)] };
        return s with { Zones = [.. s.Zones.Where(z => z.Zone != zone).Append(painted).OrderBy(z => z.Zone, StringComparer.Ordinal)] };
    }
}
