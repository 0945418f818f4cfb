namespace ToughStart.Scheduling;

/// <summary>A vehicle among others, task by task: when by the clock, and who is on it.</summary>
/// <param name="Start">s from the first midnight.</param>
public sealed record YardTurn(int Id, int Start, int End, IReadOnlyList<string> Who);

/// <summary>
/// The days ahead in the small: who was given to which vehicle, and all their tasks laid out together over the clock, so that people, washers
/// and ladders are in one place at a time across vehicles, and rests and closing hours are kept.
/// </summary>
public static class YardTasks
{
    /// <param name="slots">What was given out coarsely, s of working time.</param>
    /// <param name="layouts">How each vehicle is laid out by itself for as many people as its slot has.</param>
    /// <param name="people">Everybody who works, their shifts and breaks in s from the first midnight.</param>
    /// <param name="bays">How many vehicles stand in at once.</param>
    /// <exception cref="CannotScheduleException">Some task fits nowhere into the days; it is named.</exception>
    public static (IReadOnlyList<YardTurn> Turns, Instance Instance, Schedule Schedule) Of(
        IReadOnlyList<YardSlot> slots,
        IReadOnlyDictionary<int, Layout> layouts,
        IReadOnlyList<Person> people,
        Machines machines,
        int bays,
        WorkingTime time,
        CancellationToken stop = default
    )
    {
        YardSlot[] inOrder = [.. slots.OrderBy(s => s.Start).ThenBy(s => s.Id)];
        var teams = Teams(inOrder, layouts, people);
        var (tasks, cycles, order) = (new List<WorkTask>(), new List<Cycle>(), new List<Before>());
        var (inside, noWater, wished) = (new List<Pair>(), new List<Pair>(), new List<Placed>());
        // The bay is free when the last of what was in it is done.
        var standing = new (int Until, string[] Last)[Math.Max(1, bays)];
        foreach (var (slot, turn) in inOrder.Select((s, n) => (s, n)))
        {
            var i = layouts[slot.Id].Instance;
            string Key(string key) => $"{slot.Id}|{key}";
            tasks.AddRange(
                i.Tasks.Select(t => t with { Key = Key(t.Key), By = teams[slot.Id], Pinned = null, From = time.Clock(slot.Start) })
            );
            cycles.AddRange(i.Cycles.Select(c => c with { On = Key(c.On), Off = Key(c.Off), Hours = [] }));
            order.AddRange(i.Order.Select(o => o with { First = Key(o.First), Then = Key(o.Then) }));
            inside.AddRange(i.Inside.Select(p => new Pair(Key(p.Task), Key(p.On))));
            noWater.AddRange(i.NoWater.Select(p => new Pair(Key(p.Task), Key(p.On))));
            wished.AddRange(
                layouts[slot.Id].Schedule.Tasks.Select(p => new Placed(Key(p.Key), (turn * Apart) + p.Start, (turn * Apart) + p.End, ""))
            );
            var bay = Array.IndexOf(standing, standing.MinBy(b => b.Until));
            var follows = i.Order.Select(o => o.Then).Concat(i.Cycles.Select(c => c.Off)).ToHashSet();
            var leads = i.Order.Select(o => o.First).Concat(i.Cycles.Select(c => c.On)).ToHashSet();
            foreach (var first in i.Tasks.Where(t => !follows.Contains(t.Key)))
            {
                order.AddRange((standing[bay].Last ?? []).Select(last => new Before(last, Key(first.Key), "the bay is free")));
            }

            standing[bay] = (slot.End, [.. i.Tasks.Where(t => !leads.Contains(t.Key)).Select(t => Key(t.Key))]);
        }

        // Rests of the days are breaks of theirs.
        Person[] crew = [.. people.Select(p => p with { Rest = null })];
        var instance = new Instance(crew, machines, tasks, cycles, order, inside, noWater);
        var schedule = new Greedy(instance).Repeat(new(wished, 0, 0, new Dictionary<string, int>()), stop);
        return (
            [
                .. inOrder.Select(s =>
                {
                    var own = schedule.Tasks.Where(p => p.Key.StartsWith($"{s.Id}|", StringComparison.Ordinal)).ToArray();
                    return new YardTurn(s.Id, own.Min(p => p.Start), own.Max(p => p.End), [.. own.Select(p => p.Who).Distinct().Order()]);
                }),
            ],
            instance,
            schedule
        );
    }

    /// <summary>Moments between two vehicles in the order they are laid out in; longer than any vehicle takes.</summary>
    private const int Apart = 1_000_000;

    /// <summary>By start, whoever is free first; who is free later stands in where nobody of them can do what it takes.</summary>
    private static Dictionary<int, string[]> Teams(YardSlot[] slots, IReadOnlyDictionary<int, Layout> layouts, IReadOnlyList<Person> people)
    {
        var free = people.ToDictionary(p => p.Id, _ => 0);
        var teams = new Dictionary<int, string[]>();
        foreach (var slot in slots)
        {
            Person[] next = [.. people.OrderBy(p => Math.Max(free[p.Id], slot.Start)).ThenBy(p => p.Id, StringComparer.Ordinal)];
            var team = next.Take(slot.People).ToList();
            foreach (var takes in layouts[slot.Id].Instance.Tasks.DistinctBy(t => t.Skill).Where(t => !team.Any(t.Can)))
            {
                if (next.FirstOrDefault(takes.Can) is { } able)
                {
                    team[^1] = able;
                }
            }

            teams[slot.Id] = [.. team.Select(p => p.Id).Distinct()];
            foreach (var who in teams[slot.Id])
            {
                free[who] = slot.End;
            }
        }

        return teams;
    }
}
