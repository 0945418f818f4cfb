using System.Text;
using System.Text.Json;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Tests;

/// <summary>Plans set against each other, what would flip them, and the front from gentlest to fastest.</summary>
public class CompareTests
{
    public static TheoryData<string> Demos => ["estuary-pickup", "moorland-van", "barn-saloon", "trail-motorcycle"];

    [Theory]
    [MemberData(nameof(Demos))]
    public void A_plan_is_the_same_as_itself_and_differences_turn_round(string demo)
    {
        var survey = Repository.Demo(demo);
        var plan = Repository.Plan(survey);
        PlanCompare.Of(plan, plan).Same.ShouldBeTrue();
        var other = Repository.Plan(survey with { Goal = survey.Goal == Goal.Correct ? Goal.Wash : Goal.Correct });
        var (there, back) = (PlanCompare.Of(plan, other), PlanCompare.Of(other, plan));
        there.Same.ShouldBeFalse();
        there.Totals.Select(t => t.By).ShouldBe(back.Totals.Select(t => -t.By));
        there
            .Work.Select(w => (w.Stage.Word, w.First, w.Second))
            .Order()
            .ShouldBe(back.Work.Select(w => (w.Stage.Word, w.Second, w.First)).Order());
        there.Lines.Count(l => l.InSecond).ShouldBe(back.Lines.Count(l => !l.InSecond));
        // Everything that differs is named: what is common to both is left out.
        foreach (var w in there.Work)
        {
            foreach (var z in w.Zones)
            {
                plan.StepsOn(z).Any(s => s.Stage == w.Stage).ShouldBe(w.First is not null);
                other.StepsOn(z).Any(s => s.Stage == w.Stage).ShouldBe(w.Second is not null);
            }
        }
    }

    [Fact]
    public void Another_school_shows_as_another_order()
    {
        var survey = Repository.Demo("estuary-pickup");
        Plan With(string rule, string value) =>
            Repository.Plan(survey with { House = new Dictionary<string, string>(survey.House) { [rule] = value } });
        var tar = PlanCompare.Of(With("tarIron", "tar-first"), With("tarIron", "iron-first"));
        tar.Lines.ShouldContain(l => l.Kind == "order" && l.InSecond && l.Words == "iron, then tar");
        PlanCompare
            .Of(With("wheels", "first"), With("wheels", "after-prewash"))
            .Lines.ShouldContain(l => l.Kind == "order" && l.Words.Contains("wheels", StringComparison.Ordinal));
    }

    [Theory]
    [MemberData(nameof(Demos))]
    public void Leaning_moves_the_plan_the_way_it_says_and_leaves_no_more_dirt(string demo)
    {
        var survey = Repository.Demo(demo) with { Lean = null };
        Plan Lean(double harm, double time, double money) => Repository.Plan(survey with { Lean = new Leaning(harm, time, money) });
        var plain = Repository.Plan(survey);
        var (gentle, fast) = (Lean(8, 1, 1), Lean(1, 8, 1));
        gentle.Totals.Harm.ShouldBeLessThanOrEqualTo(plain.Totals.Harm + 0.3);
        fast.Totals.LabourMinutes.Expected.ShouldBeLessThanOrEqualTo(1.03 * plain.Totals.LabourMinutes.Expected);
        gentle.Totals.Harm.ShouldBeLessThanOrEqualTo(fast.Totals.Harm + 1e-6);
        fast.Totals.LabourMinutes.Expected.ShouldBeLessThanOrEqualTo(
            1.03 * gentle.Totals.LabourMinutes.Expected,
            "shared set-ups are found by trying, and what stays dirty weighs in too"
        );
        fast.Refer.Count.ShouldBeLessThanOrEqualTo(plain.Refer.Count + 1);
        // The weight is no part of the harm itself: the same work does the same harm.
        Lean(1, 1, 1).Totals.Harm.ShouldBe(plain.Totals.Harm, 1e-9);
    }

    [Theory]
    [MemberData(nameof(Demos))]
    public void Every_point_of_the_front_is_a_plan_and_none_is_beaten(string demo)
    {
        var survey = Repository.Demo(demo);
        var steps = new List<int>();
        var front = ParetoFront.Of(survey, 7, steps.Add, TestContext.Current.CancellationToken);
        steps.ShouldBe(Enumerable.Range(1, steps.Count));
        steps.Count.ShouldBeLessThanOrEqualTo(7);
        front.ShouldNotBeEmpty();
        for (var i = 1; i < front.Count; i++)
        {
            front[i].Harm.ShouldBeGreaterThan(front[i - 1].Harm - 1e-3);
            front[i].Minutes.ShouldBeLessThan(front[i - 1].Minutes);
        }

        var again = Repository.Plan(survey with { Lean = front[^1].Lean });
        (again.Totals.Harm, again.Totals.LabourMinutes.Expected).ShouldBe((front[^1].Harm, front[^1].Minutes.Value));
        using var stopped = new CancellationTokenSource();
        stopped.Cancel();
        Should.Throw<OperationCanceledException>(() => ParetoFront.Of(survey, 7, null, stopped.Token));
    }

    [Theory]
    [InlineData("estuary-pickup")]
    [InlineData("barn-saloon")]
    public void A_flip_that_is_named_does_flip_the_plan(string demo)
    {
        var survey = Repository.Demo(demo);
        var flips = Flips.Of(survey);
        flips.ShouldNotBeEmpty();
        flips.Select(f => f.Words).Distinct().Count().ShouldBe(flips.Count);
        var plan = Repository.Plan(survey);
        var held = 0;
        foreach (var flip in flips.Take(12))
        {
            var other = Planner.Plan(
                survey with
                {
                    Zones =
                    [
                        .. survey.Zones.Select(z =>
                            flip.Zones.Contains(z.Zone)
                                ? z with
                                {
                                    Findings =
                                    [
                                        .. z.Findings.Select(f => f.Contaminant == flip.Contaminant ? f with { Grade = flip.To } : f),
                                    ],
                                }
                                : z
                        ),
                    ],
                }
            );
            held += flip.Zones.Any(z => !Deeds(plan, z).SequenceEqual(Deeds(other, z))) ? 1 : 0;
            // One grade nearer changes nothing on a zone taken alone, or the flip would have named it.
            Math.Abs(flip.To - flip.From).ShouldBeGreaterThan(0);
        }

        // The analysis plans a zone at a time; set-ups shared across the vehicle may decide otherwise in a case or two.
        held.ShouldBeGreaterThanOrEqualTo(Math.Min(12, flips.Count) - 2);

        static string[] Deeds(Plan p, string z) => [.. p.StepsOn(z).Select(s => $"{s.Treatment}×{s.RoundsOn(z)}@{s.Strength}")];
    }

    [Theory]
    [MemberData(nameof(Demos))]
    public void What_is_left_dirty_is_counted_as_the_plan_refers_it(string demo)
    {
        var survey = Repository.Demo(demo);
        var plan = Repository.Plan(survey);
        foreach (
            var other in new[]
            {
                survey with
                {
                    Goal = Goal.Correct,
                },
                survey with
                {
                    House = new Dictionary<string, string>(survey.House) { ["strongChemistry"] = "neutral-only" },
                },
                survey with
                {
                    Declines = [new Decline(null, Stage.Iron, []), new Decline(null, Stage.Tar, [])],
                },
            }
        )
        {
            var then = Repository.Plan(other);
            var dirty = PlanCompare.Of(plan, then).Totals.Single(t => t.What == "left dirty");
            ((int)dirty.First, (int)dirty.Second).ShouldBe((Stays(plan), Stays(then)));
        }

        // Counted another way: the refer lines that say at what load something stays, zone by zone.
        static int Stays(Plan p) => p.Refer.Where(r => r.Reason.Contains(" stays at ", StringComparison.Ordinal)).Sum(r => r.Zones.Count);
    }

    [Theory]
    [InlineData("barn-saloon", "correct")]
    [InlineData("trail-motorcycle", "protect")]
    public void Flips_of_a_job_kept_to_its_shelf_start_from_the_plan_that_is_kept_to_it(string demo, string word)
    {
        var goal = Goal.Of(word);
        var all = Catalogue.Default.Agents.Where(a => !a.IsWater).Select(a => new ShelfBottle(a.Id, true, null, false)).ToArray();
        var free = Repository.Plan(Repository.Demo(demo) with { Goal = goal, Shelf = all });
        var most = free.Totals.ProductMl.MaxBy(p => p.Value).Key;
        var survey = Repository.Demo(demo) with
        {
            Goal = goal,
            StockOnly = true,
            Shelf = [.. all.Select(b => b.Agent == most ? b with { StockMl = Math.Round(free.Totals.ProductMl[most] / 3) } : b)],
        };
        var plan = Repository.Plan(survey);
        var flips = Flips.Of(survey);
        flips.ShouldNotBeEmpty();
        foreach (
            var gone in flips.Where(f =>
                f.Change.StartsWith("no ", StringComparison.Ordinal) && !f.Change.Contains(',', StringComparison.Ordinal)
            )
        )
        {
            // What a flip takes away was there.
            gone.Zones.ShouldAllBe(
                z => plan.StepsOn(z).Any(s => gone.Change.Contains(s.Name, StringComparison.OrdinalIgnoreCase)),
                gone.Change
            );
        }
    }

    [Fact]
    public void What_is_compared_is_read_strictly_and_written_with_its_format()
    {
        var survey = Encoding.UTF8.GetString(SurveyFormat.Write(Repository.Demo("barn-saloon")));
        Checked<SurveyPair> Read(string body) => CompareFormat.Read(JsonDocument.Parse(body).RootElement);
        Read($$"""{ "survey": {{survey}}, "house": { "clay": "always" }, "lean": "gentler" }""")
            .Value!.B.ShouldSatisfyAllConditions(b => b.House["clay"].ShouldBe("always"), b => b.Lean!.Value.Harm.ShouldBe(8));
        Read($$"""{ "a": {{survey}}, "b": {{survey}} }""").Ok.ShouldBeTrue();
        Read($$"""{ "survey": {{survey}}, "house": { "clay": "never" } }""").Problems[0].Field.ShouldBe("house.clay");
        Read($$"""{ "survey": {{survey}}, "lean": "prettier" }""").Problems[0].ToString().ShouldContain("gentler");
        Read($$"""{ "survey": {{survey}}, "lean": { "harm": 900 } }""").Problems[0].Field.ShouldBe("lean.harm");
        Read($$"""{ "survey": {{survey}} }""").Problems[0].Message.ShouldContain("what is changed");
        var refused = Read($$"""{ "survey": {{survey}}, "stockOnly": true, "declines": [{ "stage": "iron" }] }""").Value!;
        (refused.B.StockOnly, refused.A.StockOnly, refused.B.Declines.Single().Stage).ShouldBe((true, false, Stage.Iron));
        Repository.Plan(refused.B).Steps.ShouldNotContain(s => s.Stage == Stage.Iron);
        var already = Encoding.UTF8.GetString(SurveyFormat.Write(refused.B));
        Read($$"""{ "survey": {{already}}, "declines": [{ "stage": "clay" }] }""")
            .Value!.B.Declines.Select(d => d.Stage)
            .ShouldBe([Stage.Clay, Stage.Iron], "on top of those it has");
        Read($$"""{ "survey": {{survey}}, "declines": [{ "stage": "polishing" }] }""").Problems[0].Field.ShouldBe("declines[0].stage");
        Read($$"""{ "survey": {{survey}}, "declines": "iron" }""").Ok.ShouldBeFalse();
        Read($$"""{ "survey": {{survey}}, "stockOnly": "yes" }""").Problems[0].Field.ShouldBe("stockOnly");
        Read("""{ "a": {} }""").Problems.ShouldNotBeEmpty();
        Read("""{ "x": 1 }""").Problems[0].Field.ShouldBe("x");
        Read("[]").Ok.ShouldBeFalse();
        var pair = Read($$"""{ "survey": {{survey}}, "goal": "correct", "start": "2026-06-12T07:00:00+01:00" }""").Value!;
        pair.B.Site.Start.ShouldBe("2026-06-12T07:00:00+01:00");
        var written = JsonDocument.Parse(CompareFormat.Write(PlanCompare.Of(Repository.Plan(pair.A), Repository.Plan(pair.B)))).RootElement;
        written.GetProperty("format").GetString().ShouldBe("toughstart.compare/1");
        var leaned = pair.A with { Lean = new Leaning(2, 1, 0.5) };
        SurveyFormat.Read(SurveyFormat.Write(leaned)).Value!.Lean.ShouldBe(leaned.Lean);
        SurveyFormat.Hash(leaned).ShouldNotBe(SurveyFormat.Hash(pair.A));
    }
}

/// <summary>What a test is worth, and when the vehicle should come again.</summary>
public class AdviceTests
{
    private static readonly DateOnly Day = new(2026, 6, 1);

    [Fact]
    public void A_test_is_worth_what_both_branches_save_against_the_better_of_doing_and_leaving()
    {
        var c = ToughStart.Core.Provenance.Catalogue.Default;
        foreach (var demo in new[] { "estuary-pickup", "barn-saloon", "touring-saloon" })
        {
            foreach (var t in Repository.Plan(Repository.Demo(demo)).Tests)
            {
                t.Without.ShouldBeOneOf("do it everywhere", "leave it");
                t.SavesHarm.ShouldBeGreaterThanOrEqualTo(0);
                // Nobody saves more than the whole work.
                t.SavesMinutes.Value.ShouldBeLessThan(t.AddsMinutes + 1e-9);
                // It is worth no more than the minutes, the harm and the product it would save against doing all of it, product at the price of
                // a minute, if it never erred.
                var product = t.SavesMoney - t.SavesMinutes / 60 * c["labour-rate"];
                t.Value.ShouldBeLessThanOrEqualTo(
                    t.SavesMinutes + t.SavesHarm + product / c["money-per-minute"] + 1e-6,
                    $"{demo}: {t.Test}"
                );
            }
        }
    }

    [Theory]
    [InlineData("estuary-pickup")]
    [InlineData("trail-motorcycle")]
    public void Every_step_says_between_which_rounds_it_lies_and_what_not_to_do(string demo)
    {
        var plan = Repository.Plan(Repository.Demo(demo));
        plan.Steps.ShouldAllBe(s => s.RoundsBetween.Low <= s.Rounds && s.Rounds <= s.RoundsBetween.High && s.RoundsBetween.Low >= 1);
        plan.Steps.ShouldContain(s => s.RoundsBetween.High > s.RoundsBetween.Low);
        plan.Steps.ShouldAllBe(s => s.Avoid.Count > 0);
    }

    [Theory]
    [InlineData(2)]
    [InlineData(3)]
    [InlineData(4)]
    public void The_surer_a_load_the_closer_its_rounds(int grade)
    {
        (int Low, int High) Iron(string certainty) =>
            Planner
                .Plan(
                    Repository.Saloon(
                        $$"""{ "zone": "bonnet", "findings": [ { "contaminant": "iron", "grade": {{grade}}, "certainty": "{{certainty}}" } ] }""",
                        "correct"
                    )
                )
                .Steps.Where(s => s.Stage == Stage.Iron)
                .Select(s => s.RoundsBetween)
                .Aggregate((a, b) => (Math.Min(a.Low, b.Low), Math.Max(a.High, b.High)));
        var (measured, seen, suspected) = (Iron("measured"), Iron("seen"), Iron("suspected"));
        (seen.Low <= measured.Low && seen.High >= measured.High).ShouldBeTrue($"seen {seen}, measured {measured}");
        (suspected.Low <= seen.Low && suspected.High >= seen.High).ShouldBeTrue($"suspected {suspected}, seen {seen}");
        (suspected.High - suspected.Low).ShouldBeGreaterThan(0);
    }

    [Fact]
    public void A_sale_lists_sanding_as_declined_and_a_correction_does_not()
    {
        Plan For(string goal) =>
            Planner.Plan(Repository.Saloon("""{ "zone": "bonnet", "damage": [ { "kind": "scratch", "decision": "noted" } ] }""", goal));
        For("sale").Refer.Single(r => r.What == "scratch").Reason.ShouldContain("declined");
        For("correct").Refer.Single(r => r.What == "scratch").Reason.ShouldNotContain("declined");
    }

    [Fact]
    public void What_is_nearly_certain_is_not_worth_testing_and_is_not_the_test_proposed_first()
    {
        var plans = new[] { 1, 3, 6, 12, 36 }
            .Select(m =>
                Planner.Plan(
                    Repository.Saloon(
                        """{ "zone": "*", "findings": [ { "contaminant": "road-film", "grade": 2 } ] }""",
                        "protect",
                        $$""" "history": { "monthsSinceWash": {{m}} }, """
                    )
                )
            )
            .ToArray();
        var tests = plans.SelectMany(p => p.Tests).ToArray();
        tests.ShouldContain(t => t.Worth);
        tests.ShouldContain(t => !t.Worth && t.Probability > 0.6);
        plans.ShouldAllBe(p => p.BestTest == null || p.BestTest.Worth);
    }

    [Theory]
    [InlineData("\"use\": \"daily\"", 12)]
    [InlineData("\"use\": \"track\"", 2)]
    [InlineData("\"use\": \"motorway\"", 9)]
    [InlineData("\"use\": \"daily\", \"region\": \"rail\"", 6)]
    public void The_next_visit_follows_use_and_region(string history, double months)
    {
        var survey = Repository.Saloon(
            """{ "zone": "bonnet", "findings": [ { "contaminant": "road-film", "grade": 2 } ] }""",
            "wash",
            $$""" "history": { {{history}} }, """
        );
        (Intervals.Of(survey, Repository.Plan(survey), Day).Decontamination.DayNumber - Day.DayNumber).ShouldBeInRange(
            (int)(months * 30.4) - 1,
            (int)(months * 30.4) + 1
        );
    }

    [Fact]
    public void Heavy_iron_brings_it_back_sooner_fading_sealant_is_left_and_etching_marks_are_urgent()
    {
        var survey = Repository.Saloon(
            """
            { "zone": "bonnet", "protection": "sealant", "water": "sheets", "findings": [ { "contaminant": "iron", "grade": 4 }, { "contaminant": "bird-dropping", "grade": 2, "age": "fresh" } ] },
            { "zone": "roof", "protection": "wax", "water": "beads" }, { "zone": "boot-lid", "protection": "wax", "water": "flat" }
            """,
            "wash",
            """ "history": { "use": "daily" }, """
        );
        var advice = Intervals.Of(survey, Repository.Plan(survey), Day);
        (advice.Decontamination.DayNumber - Day.DayNumber).ShouldBeInRange(272, 275);
        advice.Protection.ShouldContain(p =>
            p.StartsWith("Sealant", StringComparison.Ordinal) && p.Contains("fade", StringComparison.Ordinal)
        );
        advice.Protection.ShouldContain(p =>
            p.StartsWith("Wax", StringComparison.Ordinal) && p.Contains("holds", StringComparison.Ordinal)
        );
        advice.Protection.ShouldContain(p => p.Contains("gone. Protect", StringComparison.Ordinal));
        advice.Urgent.ShouldContain(u => u.Contains("hours to days", StringComparison.Ordinal));
        Intervals
            .Of(survey with { Goal = Goal.Protect }, Repository.Plan(survey), Day)
            .Protection.ShouldContain("Durable wax, if put on now: renew by June 2027.");
    }
}
