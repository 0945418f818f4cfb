using CsCheck;
using ToughStart.Core.Contamination;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Running;

namespace ToughStart.Core.Tests;

public class RunningTests
{
    private static readonly Core.Formats.Survey Survey = Repository.Demo("estuary-pickup");
    private static readonly Plan Plan = Repository.Plan(Survey);

    private static Observation See(
        Step step,
        int rounds,
        string? observe,
        string? result,
        string? because = null,
        string[]? zones = null,
        bool elsewhere = false
    ) =>
        new(Guid.CreateVersion7(), Guid.CreateVersion7(), step.Key, zones ?? step.Zones, rounds, observe, result, because)
        {
            Elsewhere = elsewhere,
        };

    /// <summary>Seen in one place and, because it was unlikely, on another spot again.</summary>
    private static Observation[] Twice(Step step, int rounds, string observe, string result, string[]? zones = null) =>
        [See(step, rounds, observe, result, null, zones), See(step, 0, observe, result, null, zones, true)];

    private static Step BodyIron => Plan.Steps.First(s => s.Stage == Stage.Iron && s.Block == Vehicles.Block.Body);

    private static Step WheelIron => Plan.Steps.First(s => s.Stage == Stage.Iron && s.Block == Vehicles.Block.Wheels);

    private static ZoneRun RunOf(string zone, params Observation[] observations) => StateOf(observations).Of(zone);

    private static readonly RunGround Ground = new(Survey);

    private static RunState StateOf(params Observation[] observations) =>
        Run.Fold(RunState.Start, observations.Select(o => new RunEntry(Ground, Plan, o)));

    private static double Believed(ZoneRun run, string kind) => run.Beliefs[Catalogue.Default.Contaminant(kind).Index]!.Quantile(0.5);

    [Fact]
    public void Still_bleeding_asks_for_another_round_and_no_longer_bleeding_twice_ends_it()
    {
        var iron = BodyIron;
        var strong = Replanner.From(Survey, Plan, [See(iron, 1, "bleed", "strong")]);
        strong.Plan.Steps.ShouldContain(s =>
            s.Stage == Stage.Iron && s.Block == Vehicles.Block.Body && s.Zones.Intersect(iron.Zones).Any()
        );
        var none = Replanner.From(Survey, Plan, Twice(iron, 1, "bleed", "none"));
        none.Plan.Steps.ShouldNotContain(s => s.Stage == Stage.Iron && s.Zones.Intersect(iron.Zones).Any());
    }

    [Fact]
    public void An_answer_that_hardly_can_be_is_looked_at_again_before_anything_changes()
    {
        var iron = BodyIron;
        var zone = iron.Zones[0];
        var done = RunOf(zone, See(iron, 4, null, null));
        var strong = RunOf(zone, See(iron, 4, "bleed", "strong"));
        Believed(strong, "iron").ShouldBe(Believed(done, "iron"), 1e-12);
        strong.Again["bleed"].Surprise.ShouldBe("strong");
        Believed(RunOf(zone, See(iron, 4, "bleed", "strong"), See(iron, 0, "bleed", "strong")), "iron")
            .ShouldBe(Believed(done, "iron"), 1e-12, "the same spot again tells nothing new");
        var twice = RunOf(zone, Twice(iron, 4, "bleed", "strong"));
        Believed(twice, "iron").ShouldBeGreaterThan(4 * Believed(done, "iron"));
        twice.Again.ShouldBeEmpty();
        var replan = Replanner.From(Survey, Plan, [See(iron, 4, "bleed", "strong")]);
        replan.Plan.Tests.Single(t => t.Test == "bleed" && t.Required).Changes.ShouldContain("another spot");
        replan.Plan.Unverified.ShouldContain(zone);
    }

    [Fact]
    public void A_prediction_that_fails_twice_is_given_up_and_believed_anew_from_what_is_seen()
    {
        // Tar is grade 2 on the sill and three rounds of tar remover are done: smeared twice over, it starts anew.
        var tyres = Plan.Steps.First(s => s.Stage == Stage.Tyres);
        var zone = tyres.Zones[0];
        Observation[] work = [See(tyres, 4, "foam", "white", null, [zone]), See(tyres, 4, "foam", "white", null, [zone], true)];
        var clean = StateOf(work);
        var again = Run.Fold(clean, Twice(tyres, 4, "foam", "brown", [zone]).Select(o => new RunEntry(Ground, Plan, o))).Of(zone);
        again.Failed.ShouldHaveSingleItem().ShouldContain("the prediction failed");
        Believed(again, "tyre-bloom").ShouldBe(0.5, 0.02, "the middle of what brown means");
    }

    [Fact]
    public void Could_not_tell_is_never_clean()
    {
        // Every iron row "could not tell": nothing counts as clean, the test is asked again, the zones stay unverified.
        var rows = Plan.Steps.Where(s => s.Stage == Stage.Iron).Select(s => See(s, s.Rounds, "bleed", "inconclusive", "hot")).ToArray();
        var replan = Replanner.From(Survey, Plan, rows);
        var zones = rows.SelectMany(r => r.Zones).ToArray();
        replan.Plan.Tests.Where(t => t.Test == "bleed" && t.Required).SelectMany(t => t.Zones).Order().ShouldBe(zones.Order());
        replan.Plan.Tests.First(t => t.Required).Changes.ShouldStartWith("asked again (hot)");
        zones.ShouldAllBe(z => replan.Plan.Unverified.Contains(z));
        replan.Plan.Totals.LabourMinutes.Expected.ShouldBeGreaterThanOrEqualTo(
            zones.Length * 0.5,
            "the tests that must be made take their minutes"
        );
    }

    [Fact]
    public void A_round_that_dried_is_not_done_but_its_product_is_gone()
    {
        var iron = BodyIron;
        var zone = iron.Zones[0];
        var dried = RunOf(zone, See(iron, 2, "bleed", "inconclusive", "dried"));
        var once = RunOf(zone, See(iron, 1, null, null));
        Believed(dried, "iron").ShouldBe(Believed(once, "iron"), 1e-12);
        dried.Rounds["iron-spray"].ShouldBe(1);
        dried.UsedMl["iron-remover"].ShouldBe(2 * once.UsedMl["iron-remover"], 1e-9);
        Replanner
            .From(Survey, Plan, [See(iron, iron.Rounds, "bleed", "inconclusive", "dried")])
            .Plan.Steps.Where(s => s.Stage == Stage.Iron)
            .SelectMany(s => s.Zones)
            .ShouldContain(zone, "what dried is done again");
    }

    [Theory]
    [InlineData("pre-wash")]
    [InlineData("foam")]
    [InlineData("spot")]
    [InlineData("tar")]
    public void What_the_cloth_says_counts(string word)
    {
        var stage = Stage.Of(word);
        var step = Plan.Steps.First(s => s.Stage == stage && s.Until?.Observe == "cloth");
        var zone = step.Zones[0];
        var words = Sense.Of("cloth", stage, Catalogue.Default)!.Words;
        var states = words
            .Prepend(null)
            .Select(w =>
                RunOf(
                    zone,
                    [
                        See(step, step.Rounds, w is null ? null : "cloth", w, null, [zone]),
                        See(step, 0, w is null ? null : "cloth", w, null, [zone], true),
                    ]
                )
            )
            .ToArray();
        var kinds = Sense.Of("cloth", stage, Catalogue.Default)!.Speaks(null) is { Count: > 0 } speaks
            ? speaks
            : Catalogue.Default.Treatment(step.Treatment).SpotFor;
        states
            .Select(r => string.Join(' ', kinds.Select(k => r.Beliefs[k]?.Mean.ToString("g6"))))
            .Distinct()
            .Count()
            .ShouldBe(states.Length, $"{stage}: {string.Join(", ", words)} and no answer, each another belief");
    }

    [Fact]
    public void A_gritty_cloth_keeps_the_hand_off_and_brings_more_water()
    {
        var foam = Plan.Steps.First(s => s.Stage == Stage.Foam && s.Zones.Contains("left-front-door"));
        var gritty = Replanner.From(Survey, Plan, Twice(foam, foam.Rounds, "cloth", "gritty", ["left-front-door"]));
        var clean = Replanner.From(Survey, Plan, Twice(foam, foam.Rounds, "cloth", "clean", ["left-front-door"]));
        var first = gritty.Plan.StepsOn("left-front-door").First(s => s.Stage != Stage.Dry);
        Catalogue.Default.Treatment(first.Treatment).Contact.ShouldBe(Contact.None, first.Name);
        clean.Plan.StepsOn("left-front-door").First().Stage.ShouldNotBe(Stage.Foam);
    }

    [Fact]
    public void Work_moves_what_nobody_has_looked_for()
    {
        // Iron on the bonnet is hidden: the wheels' and bodies' iron remover takes of it all the same.
        var hidden = Ground.Zone("bonnet")!;
        var k = Catalogue.Default.Contaminant("old-protection").Index;
        hidden[k].Basis.ShouldBe(Basis.Hidden);
        var wash = WashOf("bonnet");
        var after = RunOf("bonnet", See(wash, 1, null, null, zones: ["bonnet"]));
        after.Beliefs[k].ShouldNotBeNull().Mean.ShouldBeLessThan(Ground.Prior(hidden, k)!.Mean);
    }

    [Fact]
    public void White_foam_and_black_lumps_are_likelihoods_and_set_nothing_outright()
    {
        var tyres = Plan.Steps.First(s => s.Stage == Stage.Tyres);
        var zone = tyres.Zones.First(z => z.EndsWith("-tyre", StringComparison.Ordinal));
        var white = RunOf(zone, Twice(tyres, 1, "foam", "white", [zone]));
        foreach (var id in new[] { "tyre-bloom", "road-film", "mud", "grit" })
        {
            var b = white.Beliefs[Catalogue.Default.Contaminant(id).Index]!;
            b.Quantile(0.99).ShouldBeGreaterThan(b.Quantile(0.01), $"{id}: still a spread");
        }

        var bag = Twice(WashOf("bonnet"), 1, "touch", "rough", ["bonnet"]);
        var clay = Replanner.From(Survey, Plan, bag).Plan.StepsOn("bonnet").First(s => s.Stage == Stage.Clay);
        var rough = Replanner.From(Survey, Plan, bag).Plan;
        var state = Run.Fold(
            StateOf(bag),
            Twice(clay, 1, "clayFace", "black-lumps", ["bonnet"]).Select(o => new RunEntry(Ground, rough, o))
        );
        var run = state.Of("bonnet");
        var tar = run.Beliefs[Catalogue.Default.Contaminant("tar").Index]!;
        var iron = run.Beliefs[Catalogue.Default.Contaminant("iron").Index]!;
        (1 - ((1 - (1 - tar.AtMost(0.1))) * (1 - (1 - iron.AtMost(0.1))))).ShouldBeGreaterThan(0.5, "one of them is there");
        Replanner.From(Ground, rough, state, []).Plan.StepsOn("bonnet").Select(s => s.Stage).ShouldContain(Stage.Iron);
    }

    [Fact]
    public void Iron_that_still_runs_after_four_rounds_changes_the_tack()
    {
        var iron = Plan.Steps.First(s => s.Stage == Stage.Iron && s.Block == Vehicles.Block.Wheels);
        var wheels = iron.Zones.Where(z => Ground.Zone(z)!.Surface.PhLow < 4).ToArray();
        // The acid has a data sheet here: it is what is left where the lacquer is sound.
        var sheets = Catalogue
            .Default.Agents.Where(a => !a.IsWater)
            .Select(a => new Chemistry.ShelfBottle(a.Id, true, a.Id == "wheel-acid" ? 2.5 : null, false))
            .ToArray();
        var survey = Survey with { Shelf = sheets };
        var plan = Repository.Plan(survey);
        var step = plan.Steps.First(s => s.Stage == Stage.Iron && s.Block == Vehicles.Block.Wheels);
        var after = Replanner.From(survey, plan, Twice(step, 4, "bleed", "strong"));
        foreach (var zone in step.Zones)
        {
            after.Plan.StepsOn(zone).ShouldNotContain(s => s.Stage == Stage.Iron, "four rounds are the cap");
            (
                after.Plan.StepsOn(zone).Any(s => s.Stage == Stage.Acid)
                || after.Plan.Refer.Any(r => r.What == "iron" && r.Zones.Contains(zone))
            ).ShouldBeTrue($"{zone}: stronger, or said to stay");
        }

        wheels.ShouldNotBeEmpty();
        after.Plan.Steps.ShouldContain(
            s => s.Stage == Stage.Acid,
            string.Join(
                "; ",
                after
                    .Plan.Refused.Where(r => r.Treatment == "wheel-acid")
                    .Select(r => r.Reason + string.Join(",", r.Zones))
                    .Concat(after.Plan.Refer.Select(r => r.Reason))
            )
        );
    }

    [Fact]
    public void A_loop_ends_by_what_it_is_worth_and_says_why()
    {
        var iron = BodyIron;
        var zone = Ground.Zone(iron.Zones[0])!;
        var faint = Loops.Of(StateOf([See(iron, 1, "bleed", "faint")]), Ground, zone).Single(l => l.Work.Stage == Stage.Iron);
        faint.Again.ShouldBe(faint.Round < faint.Stop);
        faint.Words.ShouldContain("of 100 such cases");
        faint.Chance.ShouldBeInRange(0, 1);
        faint.Then.ShouldBeGreaterThan(faint.Chance);
        Loops
            .Of(StateOf([See(iron, 1, null, null)]), Ground, zone)
            .ShouldBeEmpty("nobody has looked: the planned rounds are all there are");
    }

    private static readonly Gen<Observation> Anything = Gen.Select(
            Gen.Int[0, Plan.Steps.Count - 1],
            Gen.Int[0, 3],
            Gen.Int[0, 6],
            Gen.Bool,
            Gen.Int[0, 3]
        )
        .Select(
            (s, rounds, word, elsewhere, zones) =>
            {
                var step = Plan.Steps[s];
                string[] words = [.. step.Until is { } u ? [.. u.Stop, .. u.Repeat] : new[] { "smooth" }, "inconclusive"];
                var answer = word < words.Length ? words[word] : null;
                return new Observation(
                    Guid.CreateVersion7(),
                    Guid.CreateVersion7(),
                    step.Key,
                    [.. step.Zones.Take(1 + zones)],
                    rounds,
                    answer is null ? null : step.Until?.Observe ?? "touch",
                    answer,
                    answer == "inconclusive" ? "dried" : null
                )
                {
                    Elsewhere = elsewhere,
                };
            }
        );

    [Fact]
    public void One_by_one_all_at_once_or_from_any_state_between_is_the_same() =>
        Anything
            .List[1, 12]
            .Sample(
                log =>
                {
                    var entries = log.Select(o => new RunEntry(Ground, Plan, o)).ToArray();
                    var all = Run.Fold(RunState.Start, entries);
                    var steps = entries.Aggregate(RunState.Start, Run.Fold);
                    var half = Run.Fold(Run.Fold(RunState.Start, entries[..(entries.Length / 2)]), entries);
                    return Bits(all) == Bits(steps) && Bits(all) == Bits(half);
                },
                iter: 60
            );

    /// <summary>Everything a state holds, to the last bit.</summary>
    private static string Bits(RunState s) =>
        string.Join(
            '\n',
            s.Zones.OrderBy(z => z.Key, StringComparer.Ordinal)
                .Select(z =>
                    $"{z.Key} {z.Value.From} {z.Value.Left} {string.Join(' ', z.Value.Track)} {string.Join(' ', z.Value.Rounds.OrderBy(r => r.Key, StringComparer.Ordinal))} {string.Join(' ', z.Value.Again.Keys.Order(StringComparer.Ordinal))} "
                    + string.Join(
                        ' ',
                        z.Value.Beliefs.Select(b => b is null ? "-" : string.Join(',', b.Levelwise.Select(BitConverter.DoubleToInt64Bits)))
                    )
                )
        );

    [Fact]
    public void A_survey_saved_in_the_middle_amends_the_run_and_voids_nothing()
    {
        var iron = WheelIron;
        // A wheel is soiled as one: what is found anew is found on all of it.
        var wheel = Ground.Zone(iron.Zones[0])!.Zone.Wheel;
        var parts = iron.Zones.Where(z => Ground.Zone(z)!.Zone.Wheel == wheel).ToArray();
        var (zone, other) = (parts[0], iron.Zones.First(z => Ground.Zone(z)!.Zone.Wheel != wheel));
        var state = StateOf([See(iron, 1, "bleed", "strong")]);
        var k = Catalogue.Default.Contaminant("iron").Index;
        var now = Survey with
        {
            Zones =
            [
                .. Survey
                    .Zones.Where(z => !parts.Contains(z.Zone))
                    .Concat(
                        parts.Select(part =>
                            (Survey.ZoneOf(part) ?? new Core.Formats.ZoneSurvey(part, null, [], null, null, null, [], [])) with
                            {
                                Findings = [new Core.Formats.Finding("iron", 4, null, Core.Formats.Certainty.Measured)],
                            }
                        )
                    )
                    .OrderBy(z => z.Zone, StringComparer.Ordinal),
            ],
        };
        var after = Run.Amend(state, Ground, new RunGround(now));
        after.Of(other).ShouldBe(state.Of(other), "what nobody touched in the survey stays as the run left it");
        after.Of(zone).Beliefs[k].ShouldBeNull("found anew: as the survey has it");
        after.Of(zone).Rounds.ShouldBe(state.Of(zone).Rounds, "rounds done stay done");
        after.Known.ShouldBe(state.Known);
    }

    [Fact]
    public void What_the_run_has_used_is_gone_from_a_shelf_it_is_kept_to()
    {
        var all = Catalogue.Default.Agents.Where(a => !a.IsWater).Select(a => new Chemistry.ShelfBottle(a.Id, true, null, false)).ToArray();
        var need = Repository.Plan(Survey with { Shelf = all }).Totals.ProductMl["iron-remover"];
        var survey = Survey with
        {
            StockOnly = true,
            Shelf = [.. all.Select(b => b.Agent == "iron-remover" ? b with { StockMl = Math.Round(0.9 * need) } : b)],
        };
        var plan = Repository.Plan(survey);
        plan.Totals.ProductMl["iron-remover"].ShouldBeInRange(0.4 * need, 0.9 * need + 0.5);
        var wheels = plan.Steps.First(s => s.Stage == Stage.Iron && s.Block == Vehicles.Block.Wheels);
        var after = Replanner.From(survey, plan, [See(wheels, 1, "bleed", "strong")]);
        var used = after.Progress.Zones.Values.Sum(z => z.UsedMl.GetValueOrDefault("iron-remover"));
        used.ShouldBe(wheels.ProductMl / wheels.Rounds, 0.01 * used);
        after.Plan.Totals.ProductMl.GetValueOrDefault("iron-remover").ShouldBeLessThanOrEqualTo(Math.Round(0.9 * need) - used + 0.5);

        // Free to buy, the same sight asks for more than is left.
        Replanner
            .From(
                survey with
                {
                    StockOnly = false,
                },
                Repository.Plan(survey with { StockOnly = false }),
                [See(wheels, 1, "bleed", "strong")]
            )
            .Plan.Totals.ProductMl["iron-remover"]
            .ShouldBeGreaterThan(Math.Round(0.9 * need) - used + 0.5);
    }

    [Fact]
    public void Four_rounds_are_the_cap_of_a_visit_and_another_agent_does_not_open_it_again()
    {
        var iron = Plan.Steps.First(s => s.Stage == Stage.Iron && s.Block == Vehicles.Block.Wheels);
        var after = Replanner.From(Survey, Plan, Twice(iron, 4, "bleed", "strong"));
        after.Plan.Steps.ShouldNotContain(s => s.Stage == Stage.Iron && s.Zones.Intersect(iron.Zones).Any());
        after.Plan.Refer.ShouldContain(r => r.What == "iron" && r.Zones.Intersect(iron.Zones).Any());
        var tyres = Plan.Steps.First(s => s.Stage == Stage.Tyres);
        var brown = Replanner.From(Survey, Plan, Twice(tyres, 4, "foam", "brown"));
        brown.Plan.Steps.ShouldNotContain(s => s.Stage == Stage.Tyres && s.Zones.Intersect(tyres.Zones).Any());
        brown.Plan.Refer.ShouldContain(r => r.What == "tyre-bloom");
    }

    [Fact]
    public void A_rough_bag_test_brings_clay_and_a_smooth_one_takes_the_test_away()
    {
        var rough = Replanner.From(Survey, Plan, [See(WashOf("bonnet"), 1, "touch", "rough", zones: ["bonnet"])]);
        rough
            .Plan.StepsOn("bonnet")
            .ShouldContain(
                s => s.Stage == Stage.Clay,
                string.Join("; ", Rounds(rough.Plan, "bonnet"))
                    + " | "
                    + string.Join(",", rough.Progress.Zones["bonnet"].Levels)
                    + " from "
                    + rough.Progress.Zones["bonnet"].FromSlot
                    + string.Join("; ", rough.Plan.Refer.Select(r => r.Reason))
            );
        rough.Changes.ShouldContain(c => c.Kind == "more" && c.Stage == Stage.Clay && c.Zones.Contains("bonnet"));
        var smooth = Replanner.From(Survey, Plan, [See(WashOf("bonnet"), 1, "touch", "smooth", zones: ["bonnet"])]);
        smooth.Plan.StepsOn("bonnet").ShouldNotContain(s => s.Stage == Stage.Clay);
        smooth.Plan.Tests.Where(t => t.Test == "touch").ShouldAllBe(t => !t.Zones.Contains("bonnet"));
    }

    [Fact]
    public void Could_not_tell_changes_nothing_and_is_asked_again()
    {
        var wash = WashOf("bonnet");
        var done = Replanner.From(Survey, Plan, [See(wash, 1, null, null, zones: ["bonnet"])]);
        var unsure = Replanner.From(Survey, Plan, [See(wash, 1, "touch", "inconclusive", "wet", ["bonnet"])]);
        Rounds(unsure.Plan, "bonnet").ShouldBe(Rounds(done.Plan, "bonnet"));
        var again = unsure.Plan.Tests.Single(t => t.Test == "touch" && t.Zones.Contains("bonnet"));
        again.Changes.ShouldContain("asked again (wet)");
        unsure.Plan.Unverified.ShouldContain("bonnet");
    }

    [Fact]
    public void A_test_is_seen_without_anything_being_done()
    {
        var test = Plan.Tests.First(t => t.Test == "touch");
        var seen = new Observation(
            Guid.CreateVersion7(),
            Guid.CreateVersion7(),
            Observables.TestKey(test),
            ["bonnet"],
            0,
            "touch",
            "rough",
            null
        );
        var re = Replanner.From(Survey, Plan, [seen]);
        re.Plan.StepsOn("bonnet")
            .Select(s => s.Stage)
            .ShouldBe([
                .. Plan.StepsOn("bonnet").Select(s => s.Stage).TakeWhile(s => s != Stage.Dry),
                Stage.Clay,
                .. re.Plan.StepsOn("bonnet").Select(s => s.Stage).SkipWhile(s => s != Stage.Clay).Skip(1),
            ]);
        re.Done.ShouldBeEmpty();
    }

    [Fact]
    public void Beading_water_brings_a_strip_and_white_foam_ends_the_tyres()
    {
        var beads = Replanner.From(Survey, Plan, [See(WashOf("roof"), 1, "water", "beads", zones: ["roof"])]);
        beads.Plan.StepsOn("roof").ShouldContain(s => s.Stage == Stage.Strip);
        var tyres = Plan.Steps.First(s => s.Stage == Stage.Tyres);
        Replanner
            .From(Survey, Plan, Twice(tyres, 1, "foam", "white"))
            .Plan.Steps.ShouldNotContain(s => s.Stage == Stage.Tyres && s.Zones.Intersect(tyres.Zones).Any());
        Replanner.From(Survey, Plan, [See(tyres, 1, "foam", "brown")]).Plan.Steps.ShouldContain(s => s.Stage == Stage.Tyres);
    }

    [Fact]
    public void The_same_event_twice_counts_once_and_order_of_zones_does_not_matter()
    {
        var iron = See(BodyIron, 1, "bleed", "strong");
        var once = Replanner.From(Survey, Plan, [iron]);
        var twice = Replanner.From(Survey, Plan, [iron, iron]);
        Core.Formats.PlanFormat.Write(twice.Plan).ShouldBe(Core.Formats.PlanFormat.Write(once.Plan));
        var turned = Replanner.From(Survey, Plan, [iron with { Zones = iron.Zones.Reverse().ToArray() }]);
        Core.Formats.PlanFormat.Write(turned.Plan).ShouldBe(Core.Formats.PlanFormat.Write(once.Plan));
    }

    [Fact]
    public void Step_keys_survive_a_re_plan_where_the_work_is_the_same()
    {
        var re = Replanner.From(Survey, Plan, [See(Plan.Steps.First(s => s.Stage == Stage.Tyres), 1, "foam", "brown")]);
        var kept = re.Plan.Steps.Where(s => s.Block == Vehicles.Block.Body && s.Stage != Stage.Dry).Select(s => s.Key).ToArray();
        kept.ShouldBeSubsetOf(Plan.Steps.Select(s => s.Key));
    }

    [Fact]
    public void As_planned_and_seen_as_planned_changes_nothing_ahead()
    {
        var body = Plan.Steps.First(s => s.Stage == Stage.ContactWash);
        var re = Replanner.From(Survey, Plan, [See(body, body.Rounds, null, null)]);
        re.Changes.Where(c => c.Kind == "more")
            .ShouldBeEmpty(string.Join("; ", re.Changes.Select(c => c.Words + " " + string.Join(",", c.Zones))));
    }

    [Fact]
    public void A_plan_of_record_outlives_an_id_that_has_left_the_catalogue()
    {
        var brush = Plan.Steps.First(s => s.Stage == Stage.Tyres).Treatment;
        var written = System.Text.Encoding.UTF8.GetString(Core.Formats.PlanFormat.Write(Plan));
        var kept = Core.Formats.PlanFormat.Read(System.Text.Encoding.UTF8.GetBytes(written)).Value!;
        var renamed = written.Replace($"\"{brush}\"", "\"brush-of-old\"", StringComparison.Ordinal);
        var old = Core.Formats.PlanFormat.Read(System.Text.Encoding.UTF8.GetBytes(renamed)).Value!;
        old.Steps.ShouldContain(s => s.Treatment == "brush-of-old");
        Core.Costing.CrewClock.Of(old.Steps, 2).ShouldBe(Core.Costing.CrewClock.Of(kept.Steps, 2), 1e-9);
        var vehicle = Vehicles.Forms.Build(Survey.Vehicle.Form, Survey.Vehicle.Size);
        Scheduling.Person[] crew = [new("p1", [], [], [])];
        var (then, now) = (
            Scheduling.Layout.Of(old, vehicle, crew, new(1, 1), tries: 2, stop: TestContext.Current.CancellationToken),
            Scheduling.Layout.Of(kept, vehicle, crew, new(1, 1), tries: 2, stop: TestContext.Current.CancellationToken)
        );
        then.Schedule.Finish.ShouldBe(now.Schedule.Finish);
        PlanCompare.Of(old, Plan).ShouldNotBeNull();
        ClientNote.Of(Survey, old).Count.ShouldBe(ClientNote.Of(Survey, Plan).Count);
        var first = old.Steps[0];
        Replanner.From(Survey, old, [See(first, first.Rounds, null, null)]).Plan.Steps.ShouldContain(s => s.Stage == Stage.Tyres);
    }

    private static Step WashOf(string zone) => Plan.StepsOn(zone).Single(s => s.Stage == Stage.ContactWash);

    private static string[] Rounds(Plan plan, string zone) => plan.StepsOn(zone).Select(s => $"{s.Treatment} {s.RoundsOn(zone)}").ToArray();
}
