using System.Text;
using ToughStart.Core.Planning;
using ToughStart.Core.Vehicles;
using ToughStart.Scheduling;
using ToughStart.Scheduling.Check;

namespace ToughStart.Core.Tests;

/// <summary>Work under way: what is done is behind, what lies has its own time and alone may be late, the rest is laid out from now.</summary>
public sealed class LiveTimelineTests
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    /// <summary>
    /// Two films lie, to be off by 320 and by 340; it is 300. Rinses take 60 and 40 s: one person ends the first at 360, so the second
    /// waits 20 s too long. Two people are in time with both.
    /// </summary>
    [Theory]
    [InlineData(1, 20)]
    [InlineData(2, 0)]
    public void Only_what_lies_may_be_late_and_it_says_by_how_much_and_who_is_nearest(int people, int late)
    {
        var i = SchedulingTests.Of(
            people,
            2,
            [
                SchedulingTests.Do("a.on", 1),
                SchedulingTests.Do("a.off", 60, true, at: 2),
                SchedulingTests.Do("b.on", 1),
                SchedulingTests.Do("b.off", 40, true, at: 2),
                SchedulingTests.Do("other", 100, at: 2),
            ],
            [SchedulingTests.Film("a.on", "a.off", 200, 320), SchedulingTests.Film("b.on", "b.off", 200, 340)]
        ) with
        {
            Now = 300,
            Begun = new Dictionary<string, Placed> { ["a.on"] = new("a.on", 0, 1, "p1"), ["b.on"] = new("b.on", 0, 1, "p1") },
        };
        var s = new Greedy(i).Solve(5, Stop);
        s.Late.Sum(l => l.Seconds).ShouldBe(late);
        s.Late.ShouldAllBe(l => l.Off == "b.off" && l.Who == "p1");
        s.Tasks.First(t => t.Key == "other").Start.ShouldBeGreaterThanOrEqualTo(people == 1 ? 400 : 300);
        TimelineCheck.Check(TimelineFormat.Write(i, s)).ShouldBeEmpty();
        // Who stands on the other side walks there first: four eighths, 20 s.
        var far = i with { Crew = [.. i.Crew.Select(p => p with { Stands = 6 })] };
        var walked = new Greedy(far).Solve(5, Stop);
        walked.Tasks.First(t => t.Key == "a.off").Start.ShouldBe(320);
        TimelineCheck.Check(TimelineFormat.Write(far, walked)).ShouldBeEmpty();
        TimelineCheck.Check(TimelineFormat.Write(far, s)).ShouldNotBeEmpty("nobody can be there at once");
    }

    /// <summary>Random work stopped at a random moment and laid out from there, in its order and anew: nothing is broken.</summary>
    [Fact]
    public void Whatever_is_left_at_any_moment_is_laid_out_and_nothing_is_broken()
    {
        var random = new Random(2026);
        var (made, wet, late) = (0, 0, 0);
        for (var n = 0; n < 600; n++)
        {
            var i = SchedulingTests.Any(random, 4 + random.Next(10));
            if (i.Crew.Any(p => p.Rest is not null))
            {
                continue;
            }

            Schedule s;
            try
            {
                s = new Greedy(i).Solve(2, Stop);
            }
            catch (CannotScheduleException)
            {
                continue;
            }

            // Now and then a quarter of an hour goes by in which nobody does anything.
            var stopped = random.Next(s.Finish);
            var here = Stopped(i, s, stopped, stopped + (random.Next(3) == 0 ? 900 : 0));
            if (here.Tasks.Count == here.Begun.Count)
            {
                continue;
            }

            foreach (var from in new Func<Schedule>[] { () => new Greedy(here).Repeat(s, Stop), () => new Greedy(here).Solve(2, Stop) })
            {
                Schedule left;
                try
                {
                    left = from();
                }
                catch (CannotScheduleException)
                {
                    continue;
                }

                TimelineCheck.Check(TimelineFormat.Write(here, left)).ShouldBeEmpty($"instance {n}");
                if (n % 20 == 0)
                {
                    // A bound holds under what is left too, and a better order is sound and makes nothing later.
                    var proof = Scheduling.Proof.Of(here, left, 0.2, Stop);
                    proof.Bound.ShouldBeLessThanOrEqualTo(proof.Better?.Finish ?? left.Finish, $"instance {n}");
                    if (proof.Better is { } better)
                    {
                        TimelineCheck.Check(TimelineFormat.Write(here, better)).ShouldBeEmpty($"instance {n}");
                        Greedy.LateBy(better).ShouldBeLessThanOrEqualTo(Greedy.LateBy(left));
                    }
                }

                left.Late.ShouldAllBe(l => here.Begun.ContainsKey(l.On));
                (made, wet, late) = (made + 1, wet + here.Begun.Count, late + left.Late.Count);
            }
        }

        made.ShouldBeGreaterThan(500);
        wet.ShouldBeGreaterThan(100);
        late.ShouldBeGreaterThan(20);
    }

    [Fact]
    public async Task Timelines_fit_their_schema_and_what_is_none_does_not()
    {
        var schema = await NJsonSchema.JsonSchema.FromFileAsync(
            Path.Combine(Repository.Root, "docs", "schemas", "toughstart.timeline-1.schema.json"),
            Stop
        );
        var random = new Random(9);
        for (var n = 0; n < 60; n++)
        {
            var i = SchedulingTests.Any(random, 3 + random.Next(8));
            try
            {
                var s = new Greedy(i).Solve(2, Stop);
                var document = Encoding.UTF8.GetString(TimelineFormat.Write(i, s, "greedy", 1));
                schema.Validate(document).Select(e => e.ToString()).ShouldBeEmpty();
                var here = Stopped(i, s, s.Finish / 2, s.Finish / 2 + 600);
                if (here.Tasks.Count > here.Begun.Count)
                {
                    var left = Encoding.UTF8.GetString(TimelineFormat.Write(here, new Greedy(here).Repeat(s, Stop)));
                    schema.Validate(left).Select(e => e.ToString()).ShouldBeEmpty();
                }

                schema.Validate(document.Replace("\"washers\"", "\"hoses\"", StringComparison.Ordinal)).ShouldNotBeEmpty();
                schema.Validate(document.Replace("\"unit\":\"s\"", "\"unit\":\"min\"", StringComparison.Ordinal)).ShouldNotBeEmpty();
            }
            catch (CannotScheduleException)
            {
                // Nothing to write.
            }
        }
    }

    /// <summary>What ended before a moment is gone, what lies is begun.</summary>
    private static Instance Stopped(Instance i, Schedule s, int stopped, int now)
    {
        var at = s.Tasks.ToDictionary(p => p.Key);
        var lies = i.Cycles.Where(c => at[c.On].End <= stopped && at[c.Off].Start > stopped).ToArray();
        var gone = i
            .Tasks.Where(t => at[t.Key].Start <= stopped)
            .Select(t => t.Key)
            .Where(k => i.Cycles.All(c => (c.On != k && c.Off != k) || at[c.Off].Start <= stopped))
            .ToHashSet();
        var stays = i.Tasks.Where(t => !gone.Contains(t.Key)).Select(t => t.Key).ToHashSet();
        return i with
        {
            Now = now,
            Begun = lies.ToDictionary(c => c.On, c => at[c.On]),
            Tasks = [.. i.Tasks.Where(t => stays.Contains(t.Key))],
            // Whoever can be there may take off what lies.
            Cycles = [.. i.Cycles.Where(c => stays.Contains(c.On)).Select(c => lies.Contains(c) ? c with { PersonBound = false } : c)],
            Order = [.. i.Order.Where(o => stays.Contains(o.First) && stays.Contains(o.Then) && lies.All(c => c.On != o.Then))],
            // A film that is begun is not held apart from water that is not: it may have to wait for it.
            Inside = [.. i.Inside.Where(p => stays.Contains(p.Task) && stays.Contains(p.On))],
            NoWater =
            [
                .. i.NoWater.Where(p => stays.Contains(p.Task) && stays.Contains(p.On) && lies.All(c => c.Off != p.Task && c.On != p.Task)),
            ],
        };
    }

    /// <summary>A real plan half done: what is done is asked no more, and a film that lies is asked for first.</summary>
    [Fact]
    public void A_plan_half_done_asks_only_for_what_is_left()
    {
        var survey = Repository.Demo("moorland-van");
        var plan = Repository.Plan(survey);
        var vehicle = Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size);
        Person[] crew = [new("p1", [], [], []), new("p2", [], [], [])];
        var whole = Layout.Of(plan, vehicle, crew, new(1, 1), tries: 3, stop: Stop);
        var film = plan.Steps.First(s => s is { Under: false, DwellMinutes.Value: > 0 } && s.Stage != Stage.Dry);
        var before = plan.Steps.TakeWhile(s => s != film).Select(s => s.Key).ToHashSet();
        var zone = film.Zones[0];
        SoFar At(int now, params Lying[] films) =>
            new(
                now,
                (s, z) => before.Contains(s.Key) ? int.MaxValue : 0,
                films,
                t => t.When == "now",
                new Dictionary<string, int> { ["p1"] = 4 }
            );
        var lies = new Lying(film.Key, zone, 1, 900, 1000, 1100, "p1");
        var here = Layout.FromHere(plan, vehicle, crew, new(1, 1), At(1050, lies), whole, stop: Stop);
        TimelineCheck.Check(TimelineFormat.Write(here.Instance, here.Schedule)).ShouldBeEmpty();
        here.Instance.Tasks.ShouldAllBe(t => !before.Contains(t.Step));
        here.Instance.Tasks.ShouldAllBe(t => t.Part != Part.Mix || !t.Key.Contains(film.Agent, StringComparison.Ordinal));
        var rinse = here.Instance.Cycles.Single(c => here.Instance.Begun.ContainsKey(c.On));
        var off = here.Schedule.Tasks.Single(p => p.Key == rinse.Off);
        here.Schedule.Tasks.Where(p => p.Who == off.Who && p.Key != rinse.On).MinBy(p => p.Start).ShouldBe(off, "before anything else");
        here.Schedule.Late.ShouldBeEmpty();
        // A quarter of an hour later it has dried: that is said, and nothing else is.
        var later = Layout.FromHere(plan, vehicle, crew, new(1, 1), At(2000, lies), whole, stop: Stop);
        later.Schedule.Late.Single().Seconds.ShouldBeGreaterThanOrEqualTo(900);
        // Everything done: there is nothing left, and that is no failure.
        var done = new SoFar(5000, (_, _) => int.MaxValue, [], _ => true, new Dictionary<string, int>());
        Layout.FromHere(plan, vehicle, crew, new(1, 1), done, whole, stop: Stop).Schedule.Tasks.ShouldBeEmpty();
    }
}
