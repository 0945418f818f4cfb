using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Tests;

/// <summary>Passes round the vehicle, wheels as one, wet before touch: what a crew would follow.</summary>
public class PassesTests
{
    /// <summary>Worked cases: the rest of the vehicle was looked at and is clean.</summary>
    [Theory]
    [InlineData("c1", "rinse ×1 2, wash-2bucket ×1 2", "film and dust on two panels: both wet, both washed, nothing else")]
    [InlineData(
        "c2",
        "rinse ×1 6, spray-apc ×1 2, wash-2bucket ×1 6",
        "caked sills: their own spray, and one rinse and one wash for all six"
    )]
    [InlineData("c3", "rinse ×1 4, wheel-brush ×1 4", "one face found: the wheel is worked as one, once")]
    [InlineData("c4a", "", "two exhaust tips with tar by themselves are left")]
    [InlineData("c4b", "tar-spot ×2 3, re-wash ×1 3", "with the sills' tar the tips go along")]
    [InlineData(
        "c5",
        "rinse ×1 3, wash-strip ×1 2, clay-pad-fine ×3 3, strip-wash ×1 3",
        "fine clay, oftener where it is rougher; no second tool"
    )]
    [InlineData("c6", "drop-soak ×2 1, wash-rinseless ×1 2", "no hose: specks soaked and lifted, then one rinseless wash")]
    public void Worked_cases_come_out_as_worked(string name, string steps, string why)
    {
        var plan = Repository.Plan(Case(name));
        string.Join(", ", plan.Steps.Where(s => s.Stage != Stage.Dry).Select(s => $"{s.Treatment} ×{s.Rounds} {s.Zones.Count}"))
            .ShouldBe(steps, why);
    }

    [Fact]
    public void A_panel_that_is_rougher_gets_more_rounds_of_the_same_step()
    {
        var clay = Repository.Plan(Case("c5")).Steps.Single(s => s.Stage == Stage.Clay);
        clay.RoundsOn("bonnet").ShouldBeGreaterThan(clay.RoundsOn("left-front-door"));
        clay.Oftener.ShouldBe("3 times on bonnet");
        clay.AtLeast.ShouldBe(clay.RoundsOn("left-front-door"));
        clay.RoundsOn("roof").ShouldBe(0, "not done there");
    }

    public static TheoryData<string> Demos =>
        [.. Repository.DemoNames.Where(n => Repository.Demo(n) is var s && IntakeHold.Check(s).Count == 0)];

    [Theory]
    [MemberData(nameof(Demos))]
    public void Demo_plans_can_be_followed(string demo)
    {
        foreach (var goal in Goal.All)
        {
            var survey = Repository.Demo(demo) with { Goal = goal };
            Follow(survey, Repository.Plan(survey), $"{demo}, {goal}");
        }
    }

    [Fact]
    public void Plans_of_surveys_as_they_come_in_can_be_followed()
    {
        var all = Followable.Plausible(40).Select((s, i) => Follow(s, Repository.Plan(s), $"survey {i}")).ToArray();
        all.Average(f => f.TinySteps).ShouldBeLessThanOrEqualTo(0.1, "steps on less than 0.15 m², a job");
        all.Average(f => f.Steps).ShouldBeInRange(4, 14);
    }

    private static Followable Follow(Survey survey, Plan plan, string which)
    {
        var f = Followable.Of(survey, plan);
        f.TouchedDry.ShouldBe(0, $"{which}: zones touched dry");
        f.TinyBatches.ShouldBe(0, $"{which}: mixes nobody can measure");
        f.SplitDecisions.ShouldBe(0, $"{which}: two rinses, foams, shampoos or clays on one block");
        return f;
    }

    /// <summary>
    /// The sun stands on one side of it: left to itself the search sprays the left wheels and foams the right ones, to save half a minute.
    /// </summary>
    [Theory]
    [MemberData(nameof(Demos))]
    public void What_is_equally_dirty_is_worked_alike_in_sun_and_shade_where_that_costs_little(string demo)
    {
        var asItIs = Repository.Demo(demo);
        var sunny = asItIs.Site with
        {
            Place = "outdoors",
            Latitude = 53,
            Longitude = -2,
            TimeZone = "Europe/London",
            Start = "2026-06-12T10:00",
            HeadingDeg = 20,
            AirC = 24,
            HumidityPct = 45,
            WindMs = 2,
            WindAt = "panel",
            CloudOktas = 1,
            Hours = [],
        };
        foreach (var survey in new[] { asItIs, asItIs with { Site = sunny } })
        {
            var plan = Repository.Plan(survey);
            var dirty = plan
                .Traces.Where(t => t.Zone.EndsWith("wheel-face", StringComparison.Ordinal))
                .GroupBy(t => string.Join(' ', t.Start.OrderBy(l => l.Key, StringComparer.Ordinal)));
            foreach (var same in dirty)
            {
                same.Select(t =>
                        string.Join(' ', plan.StepsOn(t.Zone).Where(s => s.Stage != Stage.Dry).Select(s => $"{s.Treatment}@{s.Strength}"))
                    )
                    .Distinct()
                    .Count()
                    .ShouldBe(1, demo);
            }

            var proof = Planner.Prove(survey);
            proof.AtLeast.ShouldBeLessThanOrEqualTo(proof.Minutes.Value + 1e-9);
        }
    }

    /// <summary>
    /// Minutes of cost a zone: an agent is not thought of where it would take nothing off, though what it does besides (wet the panel, share a dwell) may be
    /// worth a few seconds.
    /// </summary>
    private const double Grain = 0.15;

    /// <summary>Whatever is found worse than it was, the best way to work it and what then stays cost no less.</summary>
    [Theory]
    [MemberData(nameof(Demos))]
    public void Worse_dirt_is_never_cheaper(string demo)
    {
        var survey = Repository.Demo(demo);
        var vehicle = Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size);
        var report = Flips.Of(survey, Effort.Unbounded);
        report.IsWhole.ShouldBeTrue();
        foreach (var flip in report.Found)
        {
            // Shuts in which nothing was found are not lanced, and so keep what is only to be expected there.
            var shut = Math.Min(flip.From, flip.To) == 0 && flip.Zones.Any(z => vehicle[z].Kind.Bars == Bars.Lance);
            var more = flip.To > flip.From ? flip.Cost.Value : -flip.Cost.Value;
            (shut || more >= -Grain * flip.Zones.Count).ShouldBeTrue($"{flip.Words}: {more} min of cost");
        }
    }

    /// <summary>
    /// One grade on one small zone is no reason to turn a plan over: two steps come, go or take up another treatment at most, and a third where one
    /// bottle takes another's place on wheels and body. How strong the same treatment is mixed may change with them, where they share a mix.
    /// </summary>
    [Fact]
    public void A_small_change_turns_no_plan_over()
    {
        var (changes, mixed) = (new List<int>(), new List<int>());
        foreach (var (survey, i) in Followable.Plausible(40).Select((s, i) => (s, i)))
        {
            var zone = survey.Vehicle.Form == "motorcycle" ? "front-tyre" : "left-front-tyre";
            var at = survey.ZoneOf(zone)!;
            var bloom = at.FindingOf("tyre-bloom")!;
            var other = survey with
            {
                Zones =
                [
                    .. survey.Zones.Select(z =>
                        z.Zone == zone
                            ? z with
                            {
                                Findings = [.. z.Findings.Select(f => f == bloom ? f with { Grade = f.Grade == 4 ? 3 : f.Grade + 1 } : f)],
                            }
                            : z
                    ),
                ],
            };
            var (before, after) = (Repository.Plan(survey), Repository.Plan(other));
            var (old, now) = (Kinds(before, s => (s.Block, s.Slot, s.Treatment)), Kinds(after, s => (s.Block, s.Slot, s.Treatment)));
            changes.Add(Changed(old, now));
            changes[^1]
                .ShouldBeLessThanOrEqualTo(
                    2,
                    $"survey {i}, {survey.Goal} {survey.Vehicle.Form}: no more {string.Join(", ", old.Except(now))}; "
                        + $"new {string.Join(", ", now.Except(old))}"
                );
            mixed.Add(Changed(Kinds(before, Mixed), Kinds(after, Mixed)));
        }

        changes.Average().ShouldBeLessThanOrEqualTo(0.4);
        mixed.Average().ShouldBeLessThanOrEqualTo(0.8);

        static (Block, Place, string, double) Mixed(Step s) => (s.Block, s.Slot, s.Treatment, s.Strength.Value);

        static HashSet<T> Kinds<T>(Plan p, Func<Step, T> of) => [.. p.Steps.Select(of)];

        static int Changed<T>(HashSet<T> before, HashSet<T> after) => Math.Max(before.Except(after).Count(), after.Except(before).Count());
    }

    /// <summary>What splashes from a wheel lands on a body not yet washed, whichever school the shop follows.</summary>
    [Theory]
    [InlineData("first")]
    [InlineData("during-foam")]
    [InlineData("after-prewash")]
    [InlineData("with-prewash")]
    public void No_wheel_is_worked_after_the_body_is_washed(string school)
    {
        foreach (var demo in new[] { "touring-saloon", "estuary-pickup" })
        {
            var survey = Repository.Demo(demo);
            var plan = Repository.Plan(survey with { House = new Dictionary<string, string>(survey.House) { ["wheels"] = school } });
            var wheels = plan.Steps.Select((s, i) => (s, i)).Where(x => x.s.Block == Block.Wheels).ToArray();
            var (foam, wash) = (At(s => s.Slot == Place.Foam), At(s => s.Stage == Stage.ContactWash));
            wheels.ShouldContain(x => x.s.Stage == Stage.Iron);
            wheels.Max(x => x.i).ShouldBeLessThan(wash, demo);
            if (school == "during-foam")
            {
                // Wheels fill the dwell of the body's foam: their own chemistry begins when it lies.
                wheels.First(x => x.s.Stage == Stage.Tyres).i.ShouldBe(foam + 1, demo);
            }

            int At(Func<Step, bool> which) => plan.Steps.Select((s, i) => (s, i)).First(x => x.s.Block == Block.Body && which(x.s)).i;
        }
    }

    /// <summary>Four parts, one wheel: what is found on any of them is worked on all of them alike.</summary>
    [Fact]
    public void A_wheel_is_worked_as_one()
    {
        var plan = Repository.Plan(Repository.Demo("estuary-pickup"));
        foreach (var corner in new[] { "left-front", "right-rear" })
        {
            string[] parts = ["wheel-face", "wheel-barrel", "behind-caliper", "spoke-backs"];
            var each = parts
                .Select(p => plan.StepsOn($"{corner}-{p}").Select(s => (s.Key, s.RoundsOn($"{corner}-{p}"))).ToArray())
                .ToArray();
            each[0].ShouldNotBeEmpty();
            each.ShouldAllBe(e => e.SequenceEqual(each[0]));
        }
    }

    [Fact]
    public void A_document_of_the_older_format_takes_the_same_rounds_everywhere()
    {
        var plan = Repository.Plan(Case("c5"));
        var old = System
            .Text.RegularExpressions.Regex.Replace(
                System.Text.Encoding.UTF8.GetString(PlanFormat.Write(plan)),
                "\"per\": \\[.*?\\n      \\],",
                "",
                System.Text.RegularExpressions.RegexOptions.Singleline
            )
            .Replace(Plan.Format, Plan.Earlier, StringComparison.Ordinal);
        old.ShouldNotContain("\"per\"");
        var read = PlanFormat.Read(System.Text.Encoding.UTF8.GetBytes(old));
        read.Problems.ShouldBeEmpty();
        var clay = read.Value!.Steps.Single(s => s.Stage == Stage.Clay);
        clay.Zones.ShouldAllBe(z => clay.RoundsOn(z) == clay.Rounds);
        clay.Oftener.ShouldBeNull();
    }

    [Fact]
    public void A_plan_written_and_read_takes_the_same_rounds_on_every_zone()
    {
        var plan = Repository.Plan(Repository.Demo("moorland-van"));
        var read = PlanFormat.Read(PlanFormat.Write(plan)).Value!;
        foreach (var (a, b) in plan.Steps.Zip(read.Steps))
        {
            a.Zones.ShouldAllBe(z => a.RoundsOn(z) == b.RoundsOn(z) && a.On(z)!.Over == b.On(z)!.Over);
        }
    }

    private static Survey Case(string name) =>
        Repository.Survey(
            File.ReadAllText(Path.Combine(Repository.Root, "tests", "ToughStart.Core.Tests", "Data", "passes", name + ".json"))
        );
}
