using ToughStart.Core.Running;

namespace ToughStart.Core.Tests;

/// <summary>What was entered by mistake is taken back by an entry of its own, as long as nothing was built on it.</summary>
public sealed class TakeBackTests
{
    private static Observation On(string step, params string[] zones) =>
        new(Guid.NewGuid(), Guid.NewGuid(), step, zones, 1, null, null, null) { Plan = 1 };

    [Fact]
    public void An_entry_taken_back_does_not_count_and_the_others_do()
    {
        var (a, b) = (On("foam", "roof"), On("foam", "bonnet"));
        Observation[] log = [a, b, a.Back(Guid.NewGuid())];
        TakeBack.Counting(log).ShouldBe([false, true, false]);
        TakeBack.Refused([a, b], a.Id).ShouldBeNull();
        TakeBack.Refused(log, a.Id)!.ShouldContain("already");
        TakeBack.Refused(log, Guid.NewGuid())!.ShouldContain("no entry");
        TakeBack.Refused(log, log[2].Id)!.ShouldContain("no entry", customMessage: "a taking back is never taken back");
    }

    [Fact]
    public void What_later_work_on_the_same_zone_was_built_on_stays_until_that_is_taken_back()
    {
        var (a, b) = (On("foam", "roof", "bonnet"), On("wash", "bonnet"));
        TakeBack.Refused([a, b], a.Id)!.ShouldContain("wash");
        // Even if a device that did not know of the later entry sends it: the log decides by its order alone.
        TakeBack.Counting([a, b, a.Back(Guid.NewGuid())]).ShouldBe([true, true, false]);
        TakeBack.Counting([a, b, b.Back(Guid.NewGuid()), a.Back(Guid.NewGuid())]).ShouldBe([false, false, false, false]);
    }

    [Fact]
    public void What_was_entered_together_does_not_stand_in_its_own_way()
    {
        var a = On("foam", "roof");
        var b = On("wash", "roof") with { Batch = a.Batch };
        TakeBack.Refused([a, b], a.Id).ShouldBeNull();
    }

    [Fact]
    public void Taking_back_says_nothing_of_its_own()
    {
        var plan = ToughStart.Core.Planning.Planner.Plan(Repository.Demo("touring-saloon"));
        var back = On("foam", "roof").Back(Guid.NewGuid());
        ObservationCheck.Check(plan, back).ShouldBeEmpty();
        ObservationCheck.Check(plan, back with { Rounds = 1 }).ShouldContain(p => p.Field == "takesBack");
    }
}
