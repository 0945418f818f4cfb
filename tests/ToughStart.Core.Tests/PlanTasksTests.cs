using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;
using ToughStart.Scheduling;

namespace ToughStart.Core.Tests;

/// <summary>What a plan asks of a crew, task by task.</summary>
public sealed class PlanTasksTests
{
    private static readonly Catalogue C = Catalogue.Default;

    private static (Plan Plan, Vehicle Vehicle, Instance Instance) Of(string demo, Grouping grouping, int people = 2)
    {
        var survey = Repository.Demo(demo);
        var (plan, vehicle) = (Repository.Plan(survey), Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size));
        Person[] crew = [.. Enumerable.Range(1, people).Select(p => new Person($"p{p}", [], [], []))];
        return (plan, vehicle, PlanTasks.Of(plan, vehicle, crew, new(1, 1), grouping));
    }

    /// <summary>Brushes go into wet foam (slots.txt), where the limit on what may lie there was open before the foam.</summary>
    [Fact]
    public void Crevices_are_brushed_while_the_foam_lies_where_nothing_hard_lay_there_before()
    {
        var (into, after) = (0, 0);
        foreach (var demo in Repository.DemoNames.Where(n => n != "flooded-saloon"))
        {
            var (plan, _, i) = Of(demo, Grouping.Sides);
            var tasks = i.Tasks.ToDictionary(t => t.Key);
            var steps = plan.Steps.ToDictionary(s => s.Key);
            foreach (var p in i.Inside)
            {
                var (brush, foam) = (steps[tasks[p.Task].Step], steps[tasks[p.On].Step]);
                C.Treatment(brush.Treatment).In(Place.Crevice).ShouldBeTrue();
                foam.Stage.ShouldBe(Stage.Foam);
                tasks[p.Task].Zones.Intersect(tasks[p.On].Zones).ShouldNotBeEmpty();
                var off = i.Cycles.Single(c => c.On == p.Task).Off;
                i.Order.ShouldContain(o => o.Then == off && o.First == i.Cycles.Single(c => c.On == p.On).Off);
                into++;
            }

            after += i.Tasks.Count(t =>
                t.Part == Part.On && C.Treatment(steps[t.Step].Treatment).In(Place.Crevice) && i.Inside.All(p => p.Task != t.Key)
            );
        }

        into.ShouldBeGreaterThan(0);
        after.ShouldBeGreaterThan(0, "some lie under what would scratch");
    }

    [Fact]
    public void A_limit_is_open_for_what_is_within_it_and_shut_for_what_is_over()
    {
        var limit = C.LoadLimit("prewash");
        var (kind, weight) = limit.Weights[0];
        var id = C.Contaminants[kind].Id;
        var most = limit.Limit / 1e6 / (weight / 1000.0);
        limit.IsOpen(new Dictionary<string, double>(), C).ShouldBeTrue();
        limit
            .IsOpen(new Dictionary<string, double> { [id] = 0.99 * most }, C)
            .ShouldBe(limit.And.All(a => a.Kind != kind || a.Limit / 1e6 > most));
        limit.IsOpen(new Dictionary<string, double> { [id] = 1.01 * most }, C).ShouldBeFalse();
    }

    /// <summary>A minibus's roof is out of reach: whoever washes it stands on the ladder, moved once for every 1.5 m².</summary>
    [Fact]
    public void What_is_out_of_reach_takes_the_ladder_and_the_time_to_move_it()
    {
        var (_, vehicle, high) = Of("ferry-minibus", Grouping.Whole);
        var ladder = high.Tasks.Where(t => t.Ladder).ToArray();
        ladder.ShouldNotBeEmpty();
        ladder.ShouldAllBe(t => t.Zones.Any(z => vehicle[z].Top > C["ladder-high"]));
        Of("touring-saloon", Grouping.Whole).Instance.Tasks.ShouldAllBe(t => !t.Ladder);
        var none = high with { Machines = new(1, 0) };
        Should
            .Throw<CannotScheduleException>(() => new Greedy(none).Solve(1, TestContext.Current.CancellationToken))
            .Message.ShouldContain("takes a ladder or platform, and there is none");
    }

    /// <summary>Nobody walks round for less than a minute's work where the next of the same step is beside it.</summary>
    [Fact]
    public void Small_pieces_are_done_with_what_lies_beside_them()
    {
        foreach (var demo in Repository.DemoNames.Where(n => n != "flooded-saloon"))
        {
            var (plan, _, i) = Of(demo, Grouping.Sides);
            var alone = i
                .Tasks.Where(t => t.Part == Part.Only)
                .GroupBy(t => t.Step)
                .Where(g => g.Count() > 1 && plan.Steps.First(s => s.Key == g.Key) is { Per.Count: <= 1, Rounds: 1, DwellMinutes.Value: 0 })
                .SelectMany(g => g)
                .Where(t => t.Seconds < C["crew-least"]);
            alone.Select(t => t.Key).ShouldBeEmpty(demo);
        }
    }
}
