using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Running;
using ToughStart.Core.Running.Live;

namespace ToughStart.Core.Tests;

/// <summary>What a run came to: minutes by stage and person, rounds, product and water, worked out by hand for a small log.</summary>
public sealed class ReckoningTests
{
    private static readonly Survey Survey = Repository.Saloon(
        """{ "zone": "bonnet", "findings": [ { "contaminant": "iron", "grade": 3 } ] }"""
    );
    private static readonly Plan Plan = Repository.Plan(Survey);
    private static readonly RunGround Ground = new(Survey);
    private static readonly Step Iron = Plan.Steps.First(s => s.Stage == Stage.Iron && s.Zones.Contains("bonnet"));
    private static readonly Step Wash = Plan.Steps.First(s => s.Stage == Stage.ContactWash);
    private readonly List<LogEvent> _log = [];

    private LogEvent Add(double minute, string who, LogKind kind, LogBody body)
    {
        var at = 1_000_000 + (long)(minute * 60_000);
        var e = new LogEvent(Id(_log.Count + 1), "", 0, "", 0, _log.Count, 1, who, kind)
        {
            Body = body,
            Number = _log.Count + 1,
            When = new(at, at, at),
            Received = at,
        };
        _log.Add(e);
        return e;
    }

    private static string Id(int number) => new Guid(number, 0, 0, new byte[8]).ToString();

    private Reckoned Reckon(IReadOnlyList<LogEvent>? log = null)
    {
        var of = log ?? _log;
        var live = of.Aggregate(LiveState.Start, Live.Reduce);
        var state = Run.Fold(RunState.Start, LiveHearsay.Of(live).Select(t => new RunEntry(Ground, Plan, t.Observation)));
        return Reckoning.Of(Plan, Ground, state, live, of, _ => Plan);
    }

    private static LogBody On(Step step, int ml = 0) =>
        new()
        {
            Step = step.Key,
            Treatment = step.Treatment,
            Zones = ["bonnet"],
            Product = step.Agent,
            Ml = ml,
            Win = new LiveWindow(4 * 60_000, 20 * 60_000, 30 * 60_000, 30 * 60_000),
        };

    private void Work()
    {
        Add(0, "p1", LogKind.Started, new() { Plan = 1 });
        Add(0, "p1", LogKind.Taken, new() { Step = Iron.Key });
        Add(1, "p1", LogKind.Applied, On(Iron, 40));
        Add(6, "p1", LogKind.Rinsed, new() { Zones = ["bonnet"], Step = Iron.Key });
        Add(6.5, "p1", LogKind.Left, new());
        Add(0, "p2", LogKind.Taken, new() { Step = Wash.Key });
        Add(3, "p2", LogKind.Worked, On(Wash, 5) with { Win = null, Zones = ["roof"] });
        Add(3, "p2", LogKind.Left, new());
    }

    [Fact]
    public void What_a_film_needed_is_waiting_and_the_rest_is_work()
    {
        Work();
        var r = Reckon();
        // A minute to lay on; five until the rinse, four of which the film needed; half a minute to leave.
        r.Times.Single(t => t.Who == "p1").Seconds.ShouldBe(60 + 60 + 30);
        r.Times.Single(t => t.Who == "p1").Stage.ShouldBe(Stage.Iron);
        r.Times.Single(t => t.Who == "p2").Seconds.ShouldBe(180);
        // All that the plan has for it is shared by the zones of the step.
        Iron.Per.Sum(p => p.Rounds * p.Zones.Sum(z => Reckoning.NormOf(Iron, z))).ShouldBe(60 * Iron.LabourMinutes.Value, 0.01);
        Reckoning.NormOf(Iron, "bonnet:1:4").ShouldBe(Reckoning.NormOf(Iron, "bonnet") / 4, 1e-9);
        r.Times.Single(t => t.Who == "p1").Norm.ShouldBe((int)Math.Round(Reckoning.NormOf(Iron, "bonnet")));
        r.Minutes.ShouldBe(5.5, 0.01);
    }

    [Fact]
    public void Rounds_product_and_water_are_kept_apart_from_the_plan()
    {
        Work();
        var r = Reckon();
        var iron = r.Rounds.Single(x => x.Treatment == Iron.Treatment);
        iron.Done.ShouldBe(1);
        iron.Planned.ShouldBe(Plan.Steps.Where(s => s.Treatment == Iron.Treatment).Sum(s => s.Per.Sum(p => p.Rounds * p.Zones.Count)));
        var product = r.Products.Single(p => p.Agent == Iron.Agent);
        (product.DoneMl, product.Poured).ShouldBe((40, true));
        product.PlannedMl.ShouldBe((int)Math.Round(Plan.Totals.ProductMl[Iron.Agent]));
        r.DoneLitres.ShouldBeInRange(1, r.PlannedLitres);
    }

    [Fact]
    public void A_pause_and_a_long_silence_are_no_work()
    {
        Add(0, "p1", LogKind.Started, new() { Plan = 1 });
        Add(0, "p1", LogKind.Taken, new() { Step = Wash.Key });
        Add(1, "p1", LogKind.Paused, new() { Reason = "lunch" });
        Add(31, "p1", LogKind.Resumed, new() { Of = [Id(3)] });
        Add(33, "p1", LogKind.Worked, On(Wash) with { Win = null });
        // Forgotten to leave, and taken up again the next morning.
        Add(900, "p1", LogKind.Worked, On(Wash) with { Win = null });
        var most = Math.Max(5, 3 * Wash.LabourMinutes.Value);
        Reckon().Times.Single().Seconds.ShouldBeInRange((int)(60 * (3 + most)) - 1, (int)(60 * (3 + most)) + 1);
    }

    [Fact]
    public void What_was_taken_back_counts_for_nothing()
    {
        Work();
        var before = Reckon();
        Add(7, "p1", LogKind.Undone, new() { Of = [Id(4)] });
        Add(7, "p1", LogKind.Undone, new() { Of = [Id(3)] });
        var after = Reckon();
        before.Products.Single(p => p.Agent == Iron.Agent).Poured.ShouldBeTrue();
        after.Products.Single(p => p.Agent == Iron.Agent).Poured.ShouldBeFalse();
        after.Rounds.Single(x => x.Treatment == Iron.Treatment).Done.ShouldBe(0);
        after.Undone.ShouldBe(2);
    }

    [Fact]
    public void The_same_log_gives_the_same_bytes_from_the_start_and_from_anywhere()
    {
        Work();
        var whole = Reckon().Write();
        Reckon().Write().ShouldBe(whole);
        // Folded in two halves, and with an entry that was handed in twice.
        for (var cut = 1; cut < _log.Count; cut++)
        {
            var live = _log.Take(cut).Aggregate(LiveState.Start, Live.Reduce);
            live = _log.Skip(cut - 1).Aggregate(live, Live.Reduce);
            var state = Run.Fold(RunState.Start, LiveHearsay.Of(live).Select(t => new RunEntry(Ground, Plan, t.Observation)));
            Reckoning.Of(Plan, Ground, state, live, _log, _ => Plan).Write().ShouldBe(whole);
        }
    }

    [Fact]
    public void Layers_thin_out_by_what_was_done_and_say_by_what()
    {
        foreach (var (step, i) in Plan.Steps.Where(s => s.Zones.Contains("bonnet") && s.Stage != Stage.Dry).Select((s, i) => (s, i)))
        {
            Add(i, "p1", LogKind.Observed, On(step) with { Win = null, Product = null, Rounds = step.RoundsOn("bonnet") });
        }

        var live = _log.Aggregate(LiveState.Start, Live.Reduce);
        var state = Run.Fold(RunState.Start, LiveHearsay.Of(live).Select(t => new RunEntry(Ground, Plan, t.Observation)));
        var iron = Strata.Of(Ground, state).Single(s => s.Kind == "iron");
        iron.After.ShouldBeLessThan(iron.Before);
        iron.By.ShouldBe(Ground.Catalogue.Treatment(Iron.Treatment).Name);
        Strata.Of(Ground, RunState.Start).Single(s => s.Kind == "iron").ShouldBe(iron with { After = iron.Before, By = null });
    }
}
