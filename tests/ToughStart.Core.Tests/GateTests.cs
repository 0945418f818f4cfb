using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Readiness;
using ToughStart.Core.Running;
using ToughStart.Core.Running.Live;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Tests;

/// <summary>
/// The gate's verdicts. What closes, repeats or refers a look is common practice, as practitioners say it: iron until it no longer bleeds and
/// four rounds at most, water that lies flat, a hand in a thin bag; could not tell and not looked are never clean.
/// </summary>
public sealed class GateTests
{
    private readonly Survey _survey;
    private readonly Plan _plan;
    private readonly RunGround _ground;
    private readonly List<LogEvent> _log = [];
    private long _at = 1_000_000;

    public GateTests()
    {
        _survey = Repository.Saloon("""{ "zone": "bonnet", "findings": [ { "contaminant": "iron", "grade": 3 } ] }""", "protect");
        (_plan, _ground) = (Repository.Plan(_survey), new RunGround(_survey));
    }

    private LogEvent Add(LogKind kind, LogBody body, string who = "p1")
    {
        _at += 60_000;
        var e = new LogEvent(Guid.NewGuid().ToString(), "", 0, "", 0, _log.Count, 1, who, kind)
        {
            Body = body,
            Number = _log.Count + 1,
            When = new(_at, _at, _at),
            Received = _at,
        };
        _log.Add(e);
        return e;
    }

    private LiveState State => _log.Aggregate(LiveState.Start, Live.Reduce);

    private IReadOnlyList<ZoneVerdict> All(params Flaw[] flaws)
    {
        var live = State;
        return Gate.Of(
            _ground,
            Run.Fold(RunState.Start, LiveHearsay.Of(live).Select(t => new RunEntry(_ground, _plan, t.Observation))),
            live,
            flaws,
            _plan
        );
    }

    private ZoneVerdict Bonnet(params Flaw[] flaws) => All(flaws).Single(v => v.Zone == "bonnet");

    private Step Iron => _plan.Steps.First(s => s.Stage == Stage.Iron && s.Zones.Contains("bonnet"));

    private void Do(Step step, string? observe = null, string? result = null, int? rounds = null) =>
        Add(
            LogKind.Observed,
            new()
            {
                Step = step.Key,
                Treatment = step.Treatment,
                Zones = ["bonnet"],
                Rounds = rounds ?? step.RoundsOn("bonnet"),
                Observe = observe,
                Result = result,
            }
        );

    /// <summary>All that the plan has for the bonnet.</summary>
    private void Work()
    {
        foreach (var step in _plan.Steps.Where(s => s.Zones.Contains("bonnet") && s.Stage != Stage.Dry))
        {
            Do(step, step.Until?.Observe, step.Until?.Stop[0]);
        }
    }

    private LogEvent Look(
        string look,
        string result,
        string? spot = null,
        string? because = null,
        string who = "p1",
        bool elsewhere = false
    ) =>
        Add(
            LogKind.Seen,
            new()
            {
                Zones = ["bonnet"],
                Observe = look,
                Result = result,
                Spot = spot,
                Because = because,
                Elsewhere = elsewhere,
            },
            who
        );

    private void LookAll(string spot, bool elsewhere)
    {
        foreach (var check in Gate.Asked(_ground, _ground.Zone("bonnet")!))
        {
            Look(check.Look, check.Answers(_ground.Catalogue)[0], spot, elsewhere: elsewhere);
        }
    }

    [Fact]
    public void Not_looked_is_not_clean()
    {
        All().ShouldAllBe(v => v.Word == GateWord.Unverified);
        Work();
        Bonnet().Word.ShouldBe(GateWord.Unverified);
        Bonnet().Why[0].ShouldContain("not looked");
        Gate.ExpectedWrong(All()).ShouldBe(0, "nothing is called ready");
    }

    [Fact]
    public void A_second_look_on_another_spot_makes_it_ready_the_same_spot_does_not()
    {
        Work();
        LookAll("upper edge", true);
        Bonnet().Why[0].ShouldContain("second look, on another spot");
        LookAll("upper edge", false);
        Bonnet().Word.ShouldBe(GateWord.Unverified, "the same spot again tells nothing new");
        LookAll("lower edge", true);
        var ready = Bonnet();
        ready.Word.ShouldBe(GateWord.Ready);
        ready.Fine.Chance.ShouldBeGreaterThanOrEqualTo(.95);
        Gate.ExpectedWrong(All()).ShouldBe(1 - ready.Fine.Chance, 1e-12);

        // Work on what a look speaks of makes it old; of the others it does not.
        Do(Iron, rounds: 1);
        var again = Bonnet();
        again.Word.ShouldBe(GateWord.Unverified);
        again.Checks.Single(c => c.Asked.Look == "bleed").Made.ShouldBeFalse();
        again.Checks.Single(c => c.Asked.Look == "touch").Missing.ShouldBeNull();
        again.Checks.Single(c => c.Asked.Look == "light").Made.ShouldBeFalse("after any work one looks for damage anew");
    }

    [Fact]
    public void Planned_work_that_was_not_done_is_said_before_anything_is_referred()
    {
        LookAll("upper edge", true);
        LookAll("lower edge", true);
        var verdict = Bonnet();
        verdict.Word.ShouldBe(GateWord.Unverified);
        verdict.Why[0].ShouldStartWith("still to do here: ");
        foreach (var step in _plan.Steps.Where(s => s.Zones.Contains("bonnet")))
        {
            Add(
                LogKind.Skipped,
                new()
                {
                    Step = step.Key,
                    Zones = ["bonnet"],
                    Reason = "no time",
                }
            );
        }

        Bonnet().Why.ShouldNotContain(w => w.StartsWith("still to do", StringComparison.Ordinal), "left out is a decision");
    }

    [Fact]
    public void What_nobody_could_tell_comes_again_and_what_was_taken_back_was_not_seen()
    {
        Work();
        LookAll("upper edge", true);
        LookAll("lower edge", true);
        Look("bleed", "inconclusive", because: "masked-colour");
        Bonnet().Word.ShouldBe(GateWord.Unverified);
        Bonnet().Why[0].ShouldContain("the paint hides it");
        Look("bleed", "none", "middle");
        Bonnet().Word.ShouldBe(GateWord.Ready);
        Add(LogKind.Undone, new() { Of = [_log[^1].Id] });
        Bonnet().Why[0].ShouldContain("the paint hides it", customMessage: "what was taken back was not seen");
    }

    [Fact]
    public void Iron_that_still_bleeds_is_repeated_and_at_the_cap_of_the_visit_referred()
    {
        Work();
        LookAll("upper edge", true);
        LookAll("lower edge", true);
        Look("bleed", "strong", "middle", elsewhere: true);
        Bonnet().Why[0].ShouldContain("unlikely", customMessage: "one look that can hardly be changes nothing yet");
        Look("bleed", "strong", "front part", elsewhere: true);
        var repeat = Bonnet();
        (repeat.Word, repeat.Again).ShouldBe((GateWord.Repeat, Stage.Iron));

        // Four rounds are the cap of a visit, however much it still bleeds.
        var done = Iron.RoundsOn("bonnet");
        Do(Iron, rounds: 4 - done);
        LookAll("upper edge", true);
        Look("bleed", "strong", "middle", elsewhere: true);
        Look("bleed", "strong", "front part", elsewhere: true);
        LookOthers();
        var refer = Bonnet();
        refer.Word.ShouldBe(GateWord.Refer, string.Join("; ", refer.Why));
        refer.Why.ShouldContain(w => w.StartsWith($"{Catalogue.Default.Contaminant("iron").Name} stays in", StringComparison.Ordinal));

        void LookOthers() => Look("light", "nothing", "lower edge", elsewhere: true);
    }

    [Fact]
    public void A_film_that_is_on_and_dirt_under_the_lamp_are_never_ready()
    {
        Work();
        LookAll("upper edge", true);
        LookAll("lower edge", true);
        Look("light", "dirt", "middle");
        (Bonnet().Word, Bonnet().Again).ShouldBe((GateWord.Repeat, Stage.ContactWash));
        Look("light", "nothing", "front part", elsewhere: true);
        Bonnet().Word.ShouldBe(GateWord.Ready);
        Add(LogKind.Started, new() { Plan = 1 });
        Add(
            LogKind.Applied,
            new()
            {
                Treatment = Iron.Treatment,
                Zones = ["bonnet"],
                Win = new(1, 2, 3, 4),
            }
        );
        Bonnet().Why[0].ShouldContain("still wet");
    }

    [Theory]
    [InlineData("clear-coat-failure", false, "a painter")]
    [InlineData("own-rust", false, "a body workshop")]
    [InlineData("dent", false, "a body workshop")]
    [InlineData("scratch", true, "a painter")]
    [InlineData("etch", true, "a painter")]
    [InlineData("chip", true, "touch-up")]
    [InlineData("scratch", false, null)]
    [InlineData("swirl", false, null)]
    public void Damage_goes_to_whose_trade_it_is(string kind, bool nail, string? to)
    {
        Work();
        LookAll("upper edge", true);
        LookAll("lower edge", true);
        var verdict = Bonnet(new Flaw("bonnet", kind, nail));
        (verdict.Word, verdict.To).ShouldBe(to is null ? (GateWord.Ready, null) : (GateWord.Refer, to));
        Bonnet(new Flaw("roof", kind, nail)).Word.ShouldBe(GateWord.Ready, "damage elsewhere is none here");
    }

    [Fact]
    public void Every_word_for_damage_is_known_to_whoever_refers_it()
    {
        var known = new[] { "clear-coat-failure", "own-rust", "dent", "cracked-lacquer", "failed-lens", "chip", "scratch", "etch" };
        SurveyWords.Damages.Where(d => Referral.Of(new("bonnet", d, true)) is not null).ShouldBe(known, ignoreOrder: true);
    }

    [Fact]
    public void A_wash_is_never_called_ready_and_what_is_left_alone_is_left_alone()
    {
        var survey = Repository.Saloon("""{ "zone": "roof", "goal": "leave-alone" }""", "wash");
        var ground = new RunGround(survey);
        var all = Gate.Of(ground, RunState.Start, LiveState.Start, [], null);
        all.Single(v => v.Zone == "roof").Word.ShouldBe(GateWord.LeftAlone);
        all.Where(v => v.Zone != "roof").ShouldAllBe(v => v.Word == GateWord.Unverified);
        Gate.Asked(ground, ground.Zone("roof")!).ShouldBeEmpty();
    }

    [Fact]
    public void The_walk_goes_once_round_every_vehicle_and_leaves_nothing_out()
    {
        foreach (var name in Repository.DemoNames)
        {
            var survey = Repository.Demo(name);
            var vehicle = Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size);
            var verdicts = Gate.Of(new RunGround(survey), RunState.Start, LiveState.Start, [], null);
            var stops = GateWalk.Of(vehicle, verdicts);
            stops.Select(s => s.Number).ShouldBe(Enumerable.Range(1, stops.Count));
            stops
                .SelectMany(s => s.Zones)
                .ShouldBe(verdicts.Where(v => v.Word == GateWord.Unverified).Select(v => v.Zone), ignoreOrder: true);
            stops.Count.ShouldBeLessThan(26, name);
        }
    }
}
