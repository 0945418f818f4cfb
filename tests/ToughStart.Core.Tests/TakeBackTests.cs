using ToughStart.Core.Running;
using ToughStart.Core.Running.Live;

namespace ToughStart.Core.Tests;

/// <summary>What was entered by mistake is taken back by an entry of its own, as long as nothing was built on it.</summary>
public sealed class TakeBackTests
{
    private readonly List<LogEvent> _log = [];

    private LogEvent On(string step, int? after = null, params string[] zones) =>
        Add(new Observation(Guid.NewGuid(), Guid.NewGuid(), step, zones, 1, null, null, null) { Plan = 1 }, after);

    private LogEvent Back(LogEvent of, int? after = null) =>
        Add(new Observation(Guid.Parse(of.Id), Guid.Empty, "", [], 0, null, null, null).Back(Guid.NewGuid()), after);

    private LogEvent Add(Observation o, int? after)
    {
        var e = LiveHearsay.Entry(o, "foam", "p1", after ?? _log.Count) with { Number = _log.Count + 1, When = new(_log.Count, 0, 99) };
        _log.Add(e);
        return e;
    }

    private LiveState State => _log.Aggregate(LiveState.Start, Live.Reduce);

    private IEnumerable<string> Counting => LiveHearsay.Of(State).Select(t => t.Observation.Id.ToString());

    private string? Refused(string id) =>
        Live.NotUndone(State, new LogEvent("x", "", 0, "", 0, _log.Count, 1, "p2", LogKind.Undone) { Body = new() { Of = [id] } });

    [Fact]
    public void An_entry_taken_back_does_not_count_and_the_others_do()
    {
        var (a, b) = (On("foam", null, "roof"), On("foam", null, "bonnet"));
        Refused(a.Id).ShouldBeNull();
        var back = Back(a);
        Counting.ShouldBe([b.Id]);
        Refused(a.Id)!.ShouldContain("already");
        Refused(Guid.NewGuid().ToString())!.ShouldContain("no entry");
        Refused(back.Id)!.ShouldContain("nothing that can be taken back", customMessage: "a taking back is never taken back");
    }

    [Fact]
    public void What_later_work_on_the_same_zone_was_built_on_stays_until_that_is_taken_back()
    {
        var (a, b) = (On("foam", null, "roof", "bonnet"), On("wash", null, "bonnet"));
        Refused(a.Id)!.ShouldContain(b.Id);
        // Even if a device that did not know of the later entry sends it: the log decides by its order alone.
        Back(a, 1);
        Counting.ShouldBe([a.Id, b.Id]);
        Back(b);
        Back(a);
        Counting.ShouldBeEmpty();
    }

    [Fact]
    public void What_was_entered_together_does_not_stand_in_its_own_way()
    {
        var (a, _) = (On("foam", 0, "roof"), On("wash", 0, "roof"));
        Refused(a.Id).ShouldBeNull();
    }

    [Fact]
    public void Taking_back_says_nothing_of_its_own()
    {
        var plan = Repository.Plan(Repository.Demo("touring-saloon"));
        var back = new Observation(Guid.NewGuid(), Guid.NewGuid(), "foam", ["roof"], 1, null, null, null) { Plan = 1 }.Back(Guid.NewGuid());
        ObservationCheck.Check(plan, back).ShouldBeEmpty();
        ObservationCheck.Check(plan, back with { Rounds = 1 }).ShouldContain(p => p.Field == "takesBack");
    }
}
