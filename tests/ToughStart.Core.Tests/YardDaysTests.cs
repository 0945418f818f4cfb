using ToughStart.Scheduling;
using ToughStart.Scheduling.Check;

namespace ToughStart.Core.Tests;

/// <summary>People and bays shared out over vehicles that wait.</summary>
public sealed class YardDaysTests
{
    private const int Hour = 3600;

    private static YardJob Job(int id, int weight = 1, int? due = null, int? pinned = null, int alone = 4, int both = 2, int washer = 0) =>
        new(id, [new(1, alone * Hour, washer), new(2, both * Hour, washer)], due, weight, pinned);

    private static IReadOnlyList<YardSlot>? Lay(int people, int bays, params YardJob[] jobs) =>
        YardDays.Of(jobs, new(people, bays, 1), 2, TestContext.Current.CancellationToken);

    [Fact]
    public void What_presses_goes_first()
    {
        var slots = Lay(1, 1, Job(1), Job(2, weight: 5, due: 3 * Hour), Job(3))!;
        slots[0].Id.ShouldBe(2);
        slots.Zip(slots.Skip(1)).ShouldAllBe(p => p.First.End <= p.Second.Start, "one bay, one after another");
    }

    [Fact]
    public void Two_people_are_put_where_they_save_most()
    {
        // Together one vehicle takes half the time; two bays and two people could also work one each.
        var slots = Lay(2, 2, Job(1, both: 2), Job(2, both: 2))!;
        // Together one after the other ends at 2 and 4 h, side by side both at 4 h.
        slots.Select(s => (s.People, s.End / Hour)).ShouldBe([(2, 2), (2, 4)]);
        // Where a second person hardly helps, each takes one.
        Lay(2, 2, Job(1, both: 4), Job(2, both: 4))!.ShouldAllBe(s => s.People == 1 && s.Start == 0);
    }

    [Fact]
    public void Nobody_and_no_bay_is_in_two_places()
    {
        var random = new Random(3);
        for (var n = 0; n < 30; n++)
        {
            var (people, bays) = (1 + random.Next(4), 1 + random.Next(3));
            YardJob[] jobs =
            [
                .. Enumerable
                    .Range(1, 1 + random.Next(7))
                    .Select(i =>
                        Job(
                            i,
                            1 + random.Next(5),
                            random.Next(2) == 0 ? random.Next(20) * Hour : null,
                            null,
                            1 + random.Next(6),
                            1 + random.Next(3)
                        )
                    ),
            ];
            var slots = Lay(people, bays, jobs)!;
            slots.Select(s => s.Id).Order().ShouldBe(jobs.Select(j => j.Id));
            YardDays.Breaks(slots, new(people, bays, 1)).ShouldBeEmpty($"{n}");
        }
    }

    [Fact]
    public void With_hardly_any_time_to_look_the_days_are_nearly_as_good_as_with_much()
    {
        var random = new Random(8);
        var (quick, slow) = (0.0, 0.0);
        for (var n = 0; n < 12; n++)
        {
            var room = new YardRoom(3, 2, 1);
            YardJob[] jobs =
            [
                .. Enumerable
                    .Range(1, 7)
                    .Select(i =>
                        Job(
                            i,
                            random.Next(3) == 0 ? 5 : 1,
                            random.Next(2) == 0 ? (2 + random.Next(12)) * Hour : null,
                            i == 7 && n % 3 == 0 ? 5 * Hour : null,
                            1 + random.Next(6),
                            1 + random.Next(3),
                            random.Next(60)
                        ) with
                        {
                            Begins = i == 6 ? [new(3 * Hour, 4 * Hour), new(9 * Hour, 30 * Hour)] : [],
                        }
                    ),
            ];
            double Cost(double look)
            {
                var slots = YardDays.Of(jobs, room, look, TestContext.Current.CancellationToken)!;
                YardDays.Breaks(slots, room).ShouldBeEmpty($"{n}");
                slots.Single(s => s.Id == 6).Start.ShouldBeInRange(3 * Hour, 30 * Hour);
                return slots.Sum(s =>
                {
                    var job = jobs.Single(j => j.Id == s.Id);
                    (job.Pinned ?? s.Start).ShouldBe(s.Start);
                    return job.Weight * (s.End + (20.0 * Math.Max(0, job.Due is { } due ? s.End - due : 0)));
                });
            }

            quick += Cost(n % 2 == 0 ? 0.001 : 1e-9);
            slow += Cost(1);
        }

        (quick / slow).ShouldBeLessThan(1.04);
    }

    [Fact]
    public void What_is_set_stays_and_what_cannot_be_is_said()
    {
        Lay(1, 1, Job(1, pinned: 5 * Hour), Job(2, weight: 5))!.Single(s => s.Id == 1).Start.ShouldBe(5 * Hour);
        Lay(1, 1, Job(1, pinned: 0), Job(2, pinned: Hour)).ShouldBeNull("both are set into the one bay");
        Lay(1, 1, new YardJob(1, [new(2, Hour, 0)], null, 1)).ShouldBeNull("nobody can be two");
        Lay(1, 1).ShouldBe([]);
    }

    /// <summary>Two vehicles that each want the one lance for 60 % of the time cannot share it; at 35 % they can.</summary>
    [Theory]
    [InlineData(60, 4)]
    [InlineData(35, 0)]
    public void A_washer_is_shared_by_how_much_of_the_time_it_is_in_hand(int washer, int second)
    {
        var slots = Lay(2, 2, Job(1, both: 4, washer: washer), Job(2, both: 4, washer: washer))!;
        slots.Select(s => s.Start).ShouldBe([0, second * Hour]);
        YardDays
            .Breaks([.. slots.Select(s => s with { Start = 0, End = s.End - s.Start })], new(2, 2, 1))
            .Any(b => b.What == "washers")
            .ShouldBe(washer > 50);
    }

    [Fact]
    public void A_vehicle_begins_only_when_its_films_stay_wet()
    {
        var slots = Lay(1, 1, Job(1, weight: 5) with { Begins = [new(3 * Hour, 4 * Hour), new(9 * Hour, 10 * Hour)] }, Job(2))!;
        slots.Single(s => s.Id == 1).Start.ShouldBeInRange(3 * Hour, 4 * Hour);
        // Set by hand it begins when somebody says.
        Lay(1, 1, Job(1, pinned: Hour) with { Begins = [new(3 * Hour, 4 * Hour)] })!.Single().Start.ShouldBe(Hour);
    }

    [Fact]
    public void A_move_says_what_it_breaks()
    {
        YardSlot[] slots = [new(1, 2, 0, 2 * Hour), new(2, 1, Hour, 3 * Hour)];
        YardDays.Breaks(slots, new(2, 1, 1)).ShouldBe([("people", Hour, 3, 2), ("bays", Hour, 2, 1)]);
        YardDays.Breaks(slots, new(3, 2, 1)).ShouldBeEmpty();
    }

    /// <summary>
    /// Four real jobs, two people, one washer, two bays: task by task nobody, no washer and no bay is in two places, nothing dries, rests
    /// and closing hours are kept, and the ends are near the coarse ones.
    /// </summary>
    [Fact]
    public void Vehicles_are_laid_into_each_other_task_by_task()
    {
        var stop = TestContext.Current.CancellationToken;
        string[] demos = ["touring-saloon", "barn-saloon", "trail-motorcycle", "orchard-pickup"];
        var layouts = demos.Select((name, n) => (Id: n + 1, Ways: Ways(name, stop))).ToDictionary(x => x.Id, x => x.Ways);
        var time = new WorkingTime([new(8 * Hour, 17 * Hour), new(32 * Hour, 41 * Hour), new(56 * Hour, 65 * Hour)]);
        var slots = YardDays.Of(
            [.. layouts.Select(l => new YardJob(l.Key, [.. l.Value.Select(w => YardMode.Of(w.Key, w.Value))], null, l.Key == 3 ? 5 : 1))],
            new(2, 2, 1),
            1,
            stop
        )!;
        Person Works(string id, int noon) =>
            new(
                id,
                [],
                [.. time.Open],
                [
                    .. Enumerable
                        .Range(0, 3)
                        .Select(d => new Stretch((24 * d * Hour) + (noon * Hour), (24 * d * Hour) + (noon * Hour) + 1800)),
                ]
            );
        var (turns, instance, schedule) = YardTasks.Of(
            slots,
            slots.ToDictionary(s => s.Id, s => layouts[s.Id][s.People]),
            [Works("a", 12), Works("b", 13)],
            new(1, 1),
            2,
            time,
            stop
        );
        TimelineCheck.Check(TimelineFormat.Write(instance, schedule)).ShouldBeEmpty();
        turns.Select(t => t.Id).ShouldBe(slots.Select(s => s.Id));
        foreach (var (turn, slot) in turns.Zip(slots))
        {
            turn.Who.Count.ShouldBe(slot.People);
            turn.Start.ShouldBeGreaterThanOrEqualTo(time.Clock(slot.Start));
            // A rest, a washer that is waited for: hours do not pass unseen.
            Math.Abs(time.Worked(turn.End) - slot.End).ShouldBeLessThan(Hour, $"{turn.Id}");
        }

        // Whoever has a skill that is asked for is on the team, in the place of somebody who has it not.
        var clayed = slots.First(s => layouts[s.Id][s.People].Instance.Tasks.Any(t => t.Skill == "clay"));
        Person[] shop =
        [
            Works("a", 12) with
            {
                Skills = ["wash", "wheels", "chem"],
            },
            Works("b", 13) with
            {
                Skills = ["wash", "wheels", "chem"],
            },
            Works("c", 13),
        ];
        var one = YardTasks.Of(
            [clayed],
            new Dictionary<int, Layout> { [clayed.Id] = layouts[clayed.Id][clayed.People] },
            shop,
            new(1, 1),
            2,
            time,
            stop
        );
        one.Turns.Single().Who.ShouldContain("c");
        TimelineCheck.Check(TimelineFormat.Write(one.Instance, one.Schedule)).ShouldBeEmpty();
        Should.Throw<CannotScheduleException>(() =>
            YardTasks.Of(
                [clayed],
                new Dictionary<int, Layout> { [clayed.Id] = layouts[clayed.Id][clayed.People] },
                shop[..2],
                new(1, 1),
                2,
                time,
                stop
            )
        );

        // Two bays: never three vehicles at once.
        turns.ShouldAllBe(t => turns.Count(o => o.Start <= t.Start && t.Start < o.End) <= 2);
    }

    private static Dictionary<int, Layout> Ways(string demo, CancellationToken stop)
    {
        var survey = Repository.Demo(demo);
        var (plan, vehicle) = (Repository.Plan(survey), Core.Vehicles.Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size));
        return new[] { 1, 2 }.ToDictionary(
            n => n,
            n =>
                Layout.Of(
                    plan,
                    vehicle,
                    [.. Enumerable.Range(1, n).Select(p => new Person($"p{p}", [], [], []))],
                    new(1, 1),
                    tries: 3,
                    stop: stop
                )
        );
    }

    [Fact]
    public void Working_time_leaves_the_nights_out()
    {
        var time = new WorkingTime([new(8 * Hour, 17 * Hour), new(32 * Hour, 41 * Hour)]);
        time.Length.ShouldBe(18 * Hour);
        time.Clock(0).ShouldBe(8 * Hour);
        time.Clock(9 * Hour).ShouldBe(32 * Hour, "what ends the first day begins the second");
        time.Worked(20 * Hour).ShouldBe(9 * Hour, "nobody works at eight in the evening");
        foreach (var worked in new[] { 0, Hour, 9 * Hour, 17 * Hour })
        {
            time.Worked(time.Clock(worked)).ShouldBe(worked);
        }
    }
}
