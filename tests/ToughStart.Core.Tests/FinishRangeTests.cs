using ToughStart.Core.Costing;
using ToughStart.Core.Planning;
using ToughStart.Core.Vehicles;
using ToughStart.Scheduling;

namespace ToughStart.Core.Tests;

/// <summary>When a timeline ends in worlds drawn anew: each is laid out as the plan was.</summary>
public sealed class FinishRangeTests
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    private static (Plan Plan, Vehicle Vehicle, Layout Laid) Laid(string demo, int people)
    {
        var survey = Repository.Demo(demo) with { Crew = people };
        var (plan, vehicle) = (Repository.Plan(survey), Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size));
        Person[] crew = [.. Enumerable.Range(1, people).Select(p => new Person($"p{p}", [], [], []))];
        return (plan, vehicle, Layout.Of(plan, vehicle, crew, new(1, 1), tries: 6, stop: Stop));
    }

    [Theory]
    [InlineData("touring-saloon", 1)]
    [InlineData("estuary-pickup", 2)]
    public void Where_nothing_scatters_it_ends_as_it_was_laid_out(string demo, int people)
    {
        var (plan, vehicle, laid) = Laid(demo, people);
        var still = plan.Worlds!.Draw(1, Scatter.None, stop: Stop);
        still.Rounds.Select(r => r[0]).ShouldBe(plan.Steps.Select(s => s.Rounds));
        var (low, high) = FinishRange.Of(plan, vehicle, laid, drawn: still, stop: Stop)!.Value;
        high.ShouldBeInRange(low, low + 1);
        low.ShouldBeInRange((int)(0.99 * laid.Schedule.Finish), (int)(1.01 * laid.Schedule.Finish) + 1);
    }

    [Theory]
    [InlineData("touring-saloon", 1)]
    [InlineData("orchard-pickup", 2)]
    public void A_few_worlds_say_what_many_would(string demo, int people)
    {
        var (plan, vehicle, laid) = Laid(demo, people);
        var (few, many) = (
            FinishRange.Of(plan, vehicle, laid, stop: Stop)!.Value,
            FinishRange.Of(plan, vehicle, laid, sample: 160, stop: Stop)!.Value
        );
        few.Low.ShouldBeInRange((int)(0.94 * many.Low), (int)(1.06 * many.Low));
        few.High.ShouldBeInRange((int)(0.94 * many.High), (int)(1.06 * many.High));
        few.High.ShouldBeGreaterThan(few.Low);
    }

    [Fact]
    public void More_minutes_more_rounds_and_more_beyond_the_plan_each_end_later()
    {
        var (plan, vehicle, laid) = Laid("touring-saloon", 1);
        var still = plan.Worlds!.Draw(1, Scatter.None, stop: Stop);
        int End(Draws worlds) => FinishRange.Of(plan, vehicle, laid, drawn: worlds, stop: Stop)!.Value.Low;
        var end = End(still);
        var work = 60 * still.Steps.Sum(s => s[0]);
        End(still with { Steps = [.. still.Steps.Select(s => new[] { 1.5 * s[0] })] }).ShouldBeGreaterThan((int)(end + (0.4 * work)));

        // A round more of a film is its dwell once more, even where the hands take no longer.
        var again = plan.Steps.Select(s => s.DwellMinutes > 0 && !s.Under ? 1 : 0).ToArray();
        End(still with { Rounds = [.. still.Rounds.Select((r, i) => new[] { r[0] + again[i] })] }).ShouldBeGreaterThan(end);
        End(still with { Beyond = [20] }).ShouldBe(end + 1200);
    }

    [Fact]
    public void What_is_behind_scatters_no_more_and_a_plan_that_was_read_has_no_worlds()
    {
        var (plan, vehicle, laid) = Laid("touring-saloon", 1);
        FinishRange.Of(plan with { Worlds = null }, vehicle, laid, stop: Stop).ShouldBeNull();

        // Washed: what is left scatters less than all of it did.
        var washed = plan.Steps.TakeWhile(s => s.Stage != Stage.ContactWash).Select(s => s.Key).Append("").ToHashSet();
        var half = laid.Schedule.Finish / 2;
        var soFar = new SoFar(half, (s, _) => washed.Contains(s.Key) ? int.MaxValue : 0, [], _ => false, new Dictionary<string, int>());
        var here = Layout.FromHere(plan, vehicle, laid.Instance.Crew, laid.Instance.Machines, soFar, laid, stop: Stop);
        var (left, whole) = (
            FinishRange.Of(plan, vehicle, here, soFar: soFar, stop: Stop)!.Value,
            FinishRange.Of(plan, vehicle, laid, stop: Stop)!.Value
        );
        left.Low.ShouldBeGreaterThan(half);
        (left.High - left.Low).ShouldBeLessThan(whole.High - whole.Low);
    }

    /// <summary>What plans and quotes say of the hours in the bay comes from the quick clock: it may not tell another story.</summary>
    [Theory]
    [InlineData("touring-saloon")]
    [InlineData("orchard-pickup")]
    [InlineData("moorland-van")]
    [InlineData("estuary-pickup")]
    public void The_quick_clock_is_near_what_is_laid_out_for_one_and_for_two(string demo)
    {
        foreach (var people in new[] { 1, 2 })
        {
            var (plan, _, laid) = Laid(demo, people);
            var tests = plan.Tests.Where(TestWorth.Made).Sum(t => TestWorth.Minutes(t.Zones.Count, Provenance.Catalogue.Default));
            var quick = CrewClock.Of(plan.Steps, people) + (tests / people);
            (60 * quick / laid.Schedule.Finish).ShouldBeInRange(0.75, 1.3, $"{demo}, {people}");
        }

        var (steps, _, _) = Laid(demo, 1);
        CrewClock.Of(steps.Steps, 2).ShouldBeLessThan(0.75 * CrewClock.Of(steps.Steps, 1), "two share what one does");
    }
}
