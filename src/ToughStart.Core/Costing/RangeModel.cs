using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using Range = ToughStart.Core.Planning.Range;

namespace ToughStart.Core.Costing;

/// <summary>
/// Totals as low – expected – high. The plan itself is the expected line; low and high are the tenth and ninetieth of the
/// catalogue's "draws" replays of the same plan over uncertain loads, a person's pace, and what is still hidden. Draws come from a fixed seed.
/// </summary>
internal static class RangeModel
{
    public static (Totals Totals, IReadOnlyList<PlannedTest> Tests, PlannedTest? Best) Compute(
        Survey survey,
        IReadOnlyList<Step> steps,
        IReadOnlyList<ZoneWork> work,
        IReadOnlyList<HiddenGroup> hidden,
        ProblemBuilder builder,
        Catalogue c
    )
    {
        var draws = (int)c["draws"];
        // A test that is not worth its time is not made, and what it would have found is left where it is: neither takes minutes.
        var made = hidden.Select(g => Made(ToTest(g, 0, 0, c))).ToArray();
        var testMinutes = hidden.Where((_, g) => made[g]).Sum(g => TestMinutes(g.Branches.Count, c));
        var fixedLabour = steps.Sum(s => s.Stage == Stage.Dry ? s.LabourMinutes : s.SetUpMinutes + s.OpenMinutes) + testMinutes;
        var tasks = work.SelectMany(w => w.Deeds.Select(d => TaskOf(d, w, builder.Limits, c))).ToArray();
        var random = new SplitMix(0x70756768);
        var labour = new double[draws];
        var water = new double[draws];
        var money = new double[draws];
        var product = new double[draws];
        var added = hidden.Select(_ => new double[draws]).ToArray();
        for (var d = 0; d < draws; d++)
        {
            var pace = Math.Exp(c["labour-spread"] * random.Normal());
            var (l, w, m, p) = Replay(tasks, random);
            for (var g = 0; g < hidden.Count; g++)
            {
                var u = random.Next();
                var scale = Math.Exp(c["sigma-suspected"] * c["prior-spread"] * random.Normal());
                foreach (var b in hidden[g].Branches.Where(b => made[g] && u < b.Probability))
                {
                    added[g][d] += b.LabourMinutes * scale * pace;
                    w += b.WaterLitres * scale;
                    p += b.ProductMl * scale;
                    m += (b.Money - b.LabourMinutes / 60 * c["labour-rate"]) * scale;
                }
            }

            labour[d] = (l + fixedLabour) * pace;
            var all = labour[d] + added.Sum(a => a[d]);
            water[d] = w;
            product[d] = p;
            money[d] = m + all / 60 * c["labour-rate"];
        }

        var expected = steps.Sum(s => s.LabourMinutes) + testMinutes;
        var full = Enumerable.Range(0, draws).Select(d => labour[d] + added.Sum(a => a[d])).ToArray();
        var labourRange = Around(full, expected);
        var elapsed = Elapsed(steps, survey.Crew) + testMinutes;
        var ratio = expected > 0 ? elapsed / expected : 1;
        var expectedWater = steps.Sum(s => s.WaterLitres);
        var expectedMoney = steps.Sum(s => s.Money) + expected / 60 * c["labour-rate"];
        var tests = hidden
            .Select(
                (g, i) =>
                    ToTest(
                        g,
                        labourRange.Width,
                        Around(Enumerable.Range(0, draws).Select(d => full[d] - added[i][d]).ToArray(), expected).Width,
                        c
                    )
            )
            .OrderByDescending(t => t.NarrowsMinutes)
            .ThenBy(t => t.Test, StringComparer.Ordinal)
            .ThenBy(t => t.Contaminant, StringComparer.Ordinal)
            .ToArray();
        var totals = new Totals(
            labourRange,
            new Range(labourRange.Low * ratio, elapsed, Math.Max(elapsed, labourRange.High * ratio)),
            Around(water, expectedWater),
            Around(money, expectedMoney),
            Around(product, steps.Sum(s => s.ProductMl)),
            steps
                .Where(s => s.ProductMl > 0)
                .GroupBy(s => s.Agent)
                .OrderBy(g => g.Key, StringComparer.Ordinal)
                .ToDictionary(g => g.Key, g => g.Sum(s => s.ProductMl)),
            work.Sum(w => w.Deeds.Sum(d => d.Rounds * d.Option.Stress)) + work.Sum(w => Marring(w)) / (survey.Lean?.Harm ?? 1)
        );
        return (totals, tests, tests.FirstOrDefault(t => t.NarrowsMinutes >= c["best-test"] && Made(t)));
    }

    /// <summary>
    /// Is a test made: because it is worth its time, or because somebody looked in vain and nothing counts as clean by that?
    /// </summary>
    private static bool Made(PlannedTest t) => t.Worth || t.Required;

    /// <summary>
    /// Elapsed minutes: people take the first step that is ready; a step's dwell is waiting in which another may be done. Greedy, one
    /// person a step, and one washer for all that is lanced; the Timeline's solver will better it.
    /// </summary>
    internal static double Elapsed(IReadOnlyList<Step> steps, int crew)
    {
        var index = steps.Select((s, i) => (s.Key, i)).ToDictionary(x => x.Key, x => x.i);
        var after = steps.Select(s => s.After.Where(index.ContainsKey).Select(a => index[a]).ToArray()).ToArray();
        var roundsLeft = steps.Select(s => s.Rounds).ToArray();
        var ready = new double[steps.Count];
        var finished = new double[steps.Count];
        Array.Fill(finished, double.PositiveInfinity);
        var people = new double[Math.Max(1, crew)];
        var lanced = steps.Select(s => s.Stage != Stage.Dry && Catalogue.Default.Treatment(s.Treatment).IsLanced).ToArray();
        var washer = 0.0;
        for (var left = steps.Sum(s => s.Rounds); left > 0; left--)
        {
            var who = Array.IndexOf(people, people.Min());
            var best = -1;
            var start = double.PositiveInfinity;
            for (var i = 0; i < steps.Count; i++)
            {
                if (roundsLeft[i] == 0 || after[i].Any(a => double.IsPositiveInfinity(finished[a])))
                {
                    continue;
                }

                var at = Math.Max(
                    Math.Max(people[who], lanced[i] ? washer : 0),
                    Math.Max(ready[i], after[i].Select(a => finished[a]).DefaultIfEmpty(0).Max())
                );
                if (at < start - 1e-9)
                {
                    start = at;
                    best = i;
                }
            }

            var step = steps[best];
            people[who] = start + step.LabourMinutes / step.Rounds;
            washer = lanced[best] ? people[who] : washer;
            ready[best] = people[who] + step.WaitMinutes / step.Rounds;
            if (--roundsLeft[best] == 0)
            {
                finished[best] = ready[best];
            }
        }

        return steps.Count == 0 ? 0 : finished.Max();
    }

    /// <summary>Minutes of cost that the tools scratch.</summary>
    internal static double Marring(ZoneWork w) => w.Deeds.Sum(d => d.Cost.Marring) / 1000.0;

    /// <summary>A deed as the replay needs it: costs of one round, and how its rounds follow the load.</summary>
    private readonly record struct Task(
        double Rounds,
        double Labour,
        double Water,
        double Money,
        double Product,
        double Start,
        double Sigma,
        RoundsFrom? From
    );

    /// <summary>How many rounds a deed takes from another load of its deciding kind: done round by round, as the search and the run do.</summary>
    private sealed class RoundsFrom(Deed d, ZoneWork w, int kind, Catalogue c)
    {
        private readonly int _need = Math.Min(d.After[kind], Math.Max(w.Problem.Target[kind], 1));
        private readonly int _most = Math.Max(d.Rounds, d.Option.MaxRounds);
        private readonly byte[] _known = new byte[Levels.Nil + 1];

        public int this[double start]
        {
            get
            {
                ref var rounds = ref _known[(int)Math.Round(Math.Clamp(start, 0, Levels.Nil))];
                if (rounds == 0)
                {
                    rounds = (byte)Count(start);
                }

                return rounds;
            }
        }

        private int Count(double start)
        {
            Span<byte> levels = stackalloc byte[32];
            levels.Fill(Levels.Nil);
            for (var k = 0; k < Kinds.Count; k++)
            {
                levels[k] = (byte)d.Before[k];
            }

            levels[kind] = (byte)Math.Round(Math.Clamp(start, 0, Levels.Nil));
            var left = w.Problem.LeftAtStart;
            for (var round = 1; round < _most; round++)
            {
                var before = levels[kind];
                Round.Apply(w.Problem, d.Option, levels, ref left);
                var gained = levels[kind] - before;
                if (gained <= 0 || levels[kind] + c["round-tolerance"] * gained >= _need)
                {
                    return round;
                }
            }

            return _most;
        }
    }

    /// <summary>Rounds at the tenth and the ninetieth of the load's spread.</summary>
    internal static (int Low, int High) Rounds(Deed d, ZoneWork w, Limits limits, Catalogue c)
    {
        var t = TaskOf(d, w, limits, c);
        return t.From is { } rounds
            ? (Math.Min(d.Rounds, rounds[t.Start + t.Sigma * Tenth]), Math.Max(d.Rounds, rounds[t.Start - t.Sigma * Tenth]))
            : (d.Rounds, d.Rounds);
    }

    /// <summary>Deviations of a normal spread beyond which one in ten lies.</summary>
    private const double Tenth = 1.2816;

    private static Task TaskOf(Deed d, ZoneWork w, Limits limits, Catalogue c)
    {
        var effect = d.Treatment.MaxRounds > 1 ? Deciding(d, w) : null;
        var kind = effect?.Kind ?? 0;
        return new Task(
            d.Rounds,
            ZoneWork.LabourPerRound(d, w.State, c),
            ZoneWork.Water(d, w.State) / d.Rounds,
            (ZoneWork.Price(d, w.State, limits) * (1 + c["waste"]) + ZoneWork.Water(d, w.State) * c["water-price"]) / d.Rounds,
            ZoneWork.NeatMl(d, w.State, limits) * (1 + c["waste"]) / d.Rounds,
            d.Before[kind],
            effect is null
                ? 0
                : Math.Sqrt(Math.Pow(Math.Max(w.State[kind].Sigma, c["sigma-measured"]), 2) + Math.Pow(c["sigma-kinetics"], 2))
                    * Levels.PerDecade
                    / Math.Log(10),
            effect is null ? null : new RoundsFrom(d, w, kind, c)
        );
    }

    /// <summary>One replay: loads drawn around what was found; stages with a stop sign take the rounds they then need.</summary>
    private static (double Labour, double Water, double Money, double Product) Replay(Task[] tasks, SplitMix random)
    {
        double labour = 0,
            water = 0,
            money = 0,
            product = 0;
        foreach (ref readonly var t in tasks.AsSpan())
        {
            var rounds = t.From is { } from ? from[t.Start - t.Sigma * random.Normal()] : t.Rounds;

            labour += t.Labour * rounds;
            water += t.Water * rounds;
            money += t.Money * rounds;
            product += t.Product * rounds;
        }

        return (labour, water, money, product);
    }

    /// <summary>The kind a step is chiefly about: the one it moves farthest toward its target.</summary>
    private static Effect? Deciding(Deed d, ZoneWork w)
    {
        Effect? best = null;
        var most = 0;
        foreach (var e in d.Option.Effects)
        {
            var gain = Math.Min(d.After[e.Kind], w.Problem.Target[e.Kind]) - d.Before[e.Kind];
            if (e.Kind != Kinds.Residue && gain > most)
            {
                most = gain;
                best = e;
            }
        }

        return best;
    }

    /// <summary>Minutes of one kind of test on so many zones: each by itself, or laid out once and walked round.</summary>
    internal static double TestMinutes(int zones, Catalogue c) =>
        Math.Min(zones * c["test-minutes"], c["test-round"] + zones * c["test-zone"]);

    /// <summary>What a test would change, in words. One that measures nothing opens the way by passing.</summary>
    private static string Changes(HiddenGroup g, BranchStep? main, double adds, Catalogue c)
    {
        var again = g.Again is null ? "" : $"asked again ({g.Again}); ";
        if (main is null)
        {
            return again + "nothing more would be done here, but until then it is not proven";
        }

        var opens = c.Tests.FirstOrDefault(t => t.Id == g.Test) is { Measures: null };
        var rounds = main.Rounds > 1 ? $", {main.Rounds} rounds" : "";
        var minutes = adds < 1 ? "less than a minute" : $"up to {adds:0} min";
        return $"{again}{(opens ? "if nothing changes" : "if positive")}: {main.Name}{rounds}, {minutes} more";
    }

    private static PlannedTest ToTest(HiddenGroup g, double with, double without, Catalogue c)
    {
        var adds = g.Branches.Sum(b => b.LabourMinutes);
        var steps = g
            .Branches.SelectMany(b => b.Extra.Select(d => (Branch: b, Deed: d)))
            .GroupBy(x => (Position: x.Deed.Slot.Index, x.Deed.Treatment.Index, x.Deed.Rounds))
            .OrderBy(x => x.Key.Position)
            .ThenBy(x => x.Key.Index)
            .Select(x => new BranchStep(
                x.First().Deed.Slot.Stage,
                x.First().Deed.Treatment.Id,
                x.First().Deed.Treatment.Name,
                x.Key.Rounds,
                x.Select(y => y.Branch.State.Zone.Id).ToArray(),
                x.Sum(y => ZoneWork.Labour(y.Deed, y.Branch.State, c))
            ))
            .ToArray();
        var main =
            steps.Length == 0
                ? null
                : steps
                    .OrderByDescending(s => c.Treatment(s.Treatment).Removes.Where(r => r.Kind == g.Kind.Index).Sum(r => r.Decades))
                    .ThenByDescending(s => s.LabourMinutes)
                    .First();
        var changes = Changes(g, main, adds, c);
        // Three ways: do the work blindly, leave it, or test and do it where it is. Each priced in the same minutes as the search.
        var product = g.Branches.ToDictionary(b => b, b => Math.Max(0, b.Money - b.LabourMinutes / 60 * c["labour-rate"]));
        var blind = g.Branches.Sum(b => b.LabourMinutes + product[b] / c["money-per-minute"] + b.Harm);
        var leave = g.Branches.Sum(b => b.Probability * b.Stays);
        var test =
            TestMinutes(g.Branches.Count, c)
            + g.Branches.Sum(b => b.Probability * (b.LabourMinutes + product[b] / c["money-per-minute"] + b.Harm));
        return new PlannedTest(
            g.Test,
            g.Kind.Id,
            g.Branches.Select(b => b.State.Zone.Id).ToArray(),
            g.When,
            changes,
            g.Branches.Average(b => b.Probability),
            adds,
            Math.Max(0, with - without),
            steps
        )
        {
            Value = Math.Min(blind, leave) - test,
            Required = g.Again is not null,
            Without = blind <= leave ? "do it everywhere" : "leave it",
            SavesMinutes = g.Branches.Sum(b => (1 - b.Probability) * b.LabourMinutes) - TestMinutes(g.Branches.Count, c),
            SavesMoney =
                g.Branches.Sum(b => (1 - b.Probability) * (product[b] + b.LabourMinutes / 60 * c["labour-rate"]))
                - TestMinutes(g.Branches.Count, c) / 60 * c["labour-rate"],
            SavesHarm = g.Branches.Sum(b => (1 - b.Probability) * b.Harm),
        };
    }

    private static Range Around(double[] draws, double expected)
    {
        var sorted = draws.Order().ToArray();
        return new Range(
            Math.Min(expected, sorted[(int)(0.1 * (sorted.Length - 1))]),
            expected,
            Math.Max(expected, sorted[(int)(0.9 * (sorted.Length - 1))])
        );
    }
}
