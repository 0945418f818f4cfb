using ToughStart.Core.Chemistry;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Costing;

/// <summary>What kind of container it is.</summary>
public enum ContainerShape
{
    Trigger,
    Pump,
    Lance,
    Bucket,
}

/// <summary>What a piece of kit is kept for; nothing else ever goes into it.</summary>
public enum KeptFor
{
    Anything,
    Wheels,
    Paint,
    Glass,

    /// <summary>Plain water that mitts are rinsed in.</summary>
    Rinsing,

    /// <summary>Tar, glue and solvent: never back to anything that touches paint.</summary>
    ThrownAway,
}

/// <summary>What the log has in a container, or had in it last.</summary>
/// <param name="Product">The bottle of the shelf it came from; null = not known.</param>
/// <param name="Name">As people call it.</param>
/// <param name="InUse">It is still in there.</param>
public sealed record Contents(string Agent, string? Product, string Name, bool InUse);

/// <summary>A container of the shop.</summary>
/// <param name="Ml">What it holds, ml.</param>
/// <param name="Held">Null = new, or nothing is known.</param>
public sealed record Container(
    string Id,
    string Name,
    double Ml,
    ContainerShape Shape,
    KeptFor KeptFor = KeptFor.Anything,
    Contents? Held = null
);

/// <summary>A solution of the plan, or plain water, in its container.</summary>
/// <param name="Solution">Null = plain water to rinse the mitt in.</param>
/// <param name="Wheels">It is for the wheels, so what holds it is wheel kit from then on.</param>
/// <param name="Container">Null = none of the shop's is free and fits: <paramref name="Words"/> say what is missing.</param>
/// <param name="FillMl">Filled to, ml.</param>
/// <param name="Words">What has to be done to the container first, or what is missing. Never a guess.</param>
public sealed record InContainer(
    SolutionNeed? Solution,
    bool Wheels,
    Container? Container,
    Millilitres FillMl,
    int Fills,
    IReadOnlyList<string> Words
);

/// <summary>
/// Containers for the whole job at once: a container kept for something holds nothing else, two contents in use at the same time never
/// share one, what would react with what was in it last stays out of it, and a rinse is said between two contents.
/// </summary>
public static class Containers
{
    /// <summary>Wide search of a small matter: ten solutions in twenty containers take a few hundred steps.</summary>
    private const int MostSteps = 200_000;

    /// <param name="chosen">Containers somebody chose by hand, by agent and strength; they are taken as they are, with a word on what speaks against them.</param>
    public static IReadOnlyList<InContainer> Assign(
        Plan plan,
        IReadOnlyList<SolutionNeed> solutions,
        IReadOnlyList<Container> containers,
        Func<SolutionNeed, string?>? chosen = null
    )
    {
        var wanted = Wants(plan, solutions);
        var search = new Search(wanted, containers, wanted.Select(w => w.Solution is { } s ? chosen?.Invoke(s) : null).ToArray());
        var best = search.Best();
        return wanted.Select((w, i) => Fill(w, i, best, wanted)).ToArray();
    }

    /// <summary>What has to be held, from which step to which.</summary>
    internal sealed record Want(SolutionNeed? Solution, Agent? Agent, ContainerShape? Shape, double Ml, KeptFor For, int First, int Last)
    {
        public bool Wheels => For == KeptFor.Wheels;

        public bool MeetsInTime(Want other) => First <= other.Last && other.First <= Last;
    }

    private static Want[] Wants(Plan plan, IReadOnlyList<SolutionNeed> solutions)
    {
        var c = Catalogue.Default;
        var at = plan.Steps.Select((s, i) => (s, i)).ToDictionary(x => x.s.Key, x => x.i);
        var list = new List<Want>();
        foreach (var s in solutions.Where(s => s.NeedMl - s.LeftoverMl >= 1))
        {
            var steps = s.Steps.Select(x => at[x.Key]).ToArray();
            list.Add(
                new(s, c.Agent(s.Agent), ShapeOf(s.Mix.Vessel), Math.Max(1, s.NeedMl - s.LeftoverMl), For(s), steps.Min(), steps.Max())
            );
        }

        // The mitt is rinsed in a bucket of its own after every panel.
        var rinsed = plan
            .Steps.Select((s, i) => (Step: s, Index: i))
            .Where(x => x.Step.Block == Block.Body && Medium.For(x.Step.Treatment, Block.Body, c) is { RinsedInBucket: true })
            .Select(x => x.Index)
            .ToArray();
        if (rinsed.Length > 0)
        {
            list.Add(new(null, null, ContainerShape.Bucket, 1000 * c["bucket-low"], KeptFor.Rinsing, rinsed[0], rinsed[^1]));
        }

        return list.OrderBy(w => w.First).ThenBy(w => w.Solution is null).ToArray();
    }

    private static ContainerShape? ShapeOf(string vessel) =>
        vessel switch
        {
            "lance" => ContainerShape.Lance,
            "bucket" => ContainerShape.Bucket,
            _ => null,
        };

    private static KeptFor For(SolutionNeed s) =>
        s.Steps.All(x => x.Block == Block.Wheels) ? KeptFor.Wheels
        : s.Steps.Any(x => x.Block == Block.Wheels) && s.Mix.Vessel != "bucket" ? KeptFor.Anything
        : KeptFor.Paint;

    private static InContainer Fill(Want w, int index, Container?[] best, Want[] wanted)
    {
        var container = best[index];
        var words = new List<string>();
        if (container is null)
        {
            words.Add(Missing(w));
        }
        else
        {
            if (!Takes(container, w))
            {
                words.Add($"{container.Name} is kept for {Words(container.KeptFor)}: take another.");
            }

            if (container.Held is { InUse: true } inside && !Empties(container, w))
            {
                words.Add($"{container.Name} still holds {inside.Name}: use it up or drain it first.");
            }

            if (LastIn(index, best, wanted) is { } before)
            {
                words.Add(
                    before.Agent is { } agent && w.Agent is { } now
                        ? $"{container.Name} serves twice: once the {agent.Name} is done, drain it and rinse it three times, "
                            + $"trigger and tube too{(Met(agent, now) == Meeting.Never ? ". Better another: the two must never meet" : "")}."
                        : $"{container.Name} serves twice: rinse it out between."
                );
            }
            else if (
                w.Agent is { } agent
                && container.Held is { } held
                && held.Product != w.Solution?.BottleId
                && Catalogue.Default.Agents.FirstOrDefault(a => a.Id == held.Agent) is { } old
            )
            {
                words.Add(
                    $"{container.Name} held {held.Name}: rinse it three times, trigger and tube too, and peel the old label"
                        + $"{(Met(old, agent) == Meeting.Never ? ". Better another: the two must never meet" : "")}."
                );
            }

            if (Beside(index, best, wanted) is { } other)
            {
                words.Add($"{container.Name} is still in use for the {other.Agent?.Name ?? "rinse water"} then: take another.");
            }
        }

        // Buckets are filled to work with; the rest is mixed to what the panels need, in steps a jug can show.
        var most = container?.Ml ?? (w.Shape == ContainerShape.Bucket ? 1000 * Catalogue.Default["bucket-low"] : double.MaxValue);
        var fill =
            w.Shape == ContainerShape.Bucket
                ? most
                : Math.Min(
                    container is null ? double.MaxValue : most * Catalogue.Default["fill-most"],
                    Math.Max(Catalogue.Default["mix-step"], Catalogue.Default.RoundUp(w.Ml))
                );
        return new(
            w.Solution,
            w.Wheels,
            container,
            fill,
            w.Shape == ContainerShape.Bucket ? 1 : Math.Max(1, (int)Math.Ceiling(w.Ml / fill - 1e-9)),
            words
        );
    }

    private static double RoundUp(this Catalogue c, double ml) => Math.Ceiling(ml / c["mix-step"]) * c["mix-step"];

    private static string Missing(Want w) =>
        (w.Shape, w.Wheels) switch
        {
            (ContainerShape.Bucket, true) => "No bucket is free for the wheels: one more, for wheels only.",
            (ContainerShape.Bucket, false) when w.Solution is null =>
                "No bucket is free to rinse the mitt in: one more, with a grit guard.",
            (ContainerShape.Bucket, false) => "No bucket is free for the wash: what served wheels never goes to paint. One more.",
            (ContainerShape.Lance, _) => "No foam lance is free for it: one more bottle for the lance.",
            _ => "No bottle or sprayer is free for it: one more, with a label of its own.",
        };

    internal static string Words(KeptFor kept) =>
        kept switch
        {
            KeptFor.Wheels => "wheels only",
            KeptFor.Paint => "paint only",
            KeptFor.Glass => "glass only",
            KeptFor.Rinsing => "rinsing mitts only",
            KeptFor.ThrownAway => "tar and solvent only",
            _ => "anything",
        };

    private static bool Takes(Container c, Want w) =>
        c.KeptFor switch
        {
            KeptFor.Anything => true,
            KeptFor.ThrownAway => w.Agent?.Axis == Axis.Solvent,
            KeptFor.Paint => w.For is KeptFor.Paint or KeptFor.Rinsing,
            var kept => kept == w.For,
        };

    private static bool Fits(Container c, Want w) =>
        w.Shape is { } shape ? c.Shape == shape : c.Shape is ContainerShape.Trigger or ContainerShape.Pump;

    /// <summary>What is left in it is used up for this very solution before it is mixed anew.</summary>
    private static bool Empties(Container c, Want w) => w.Solution is { LeftoverMl.Value: > 0 } s && s.Mix.Leftover?.Bottle == c.Name;

    private static Meeting Met(Agent before, Agent now)
    {
        var matrix = Compatibility.Default;
        var (a, b) = (matrix.GroupsOf(before), matrix.GroupsOf(now));
        return a.Count > 0 && b.Count > 0 ? matrix.Meet(a, b).Meeting : Meeting.Rinse;
    }

    private static Want? LastIn(int index, Container?[] best, Want[] wanted) =>
        wanted.Where((w, i) => i != index && best[i]?.Id == best[index]!.Id && w.Last < wanted[index].First).MaxBy(w => w.Last);

    private static Want? Beside(int index, Container?[] best, Want[] wanted) =>
        wanted.Where((w, i) => i != index && best[i]?.Id == best[index]!.Id && w.MeetsInTime(wanted[index])).FirstOrDefault();

    /// <summary>Depth first, the cheapest container first, cut off by what the rest costs at least.</summary>
    private sealed class Search
    {
        private readonly Catalogue _c = Catalogue.Default;
        private readonly double _none = Catalogue.Default["container-none"];
        private readonly Want[] _wanted;
        private readonly (Container? Container, double Cost)[][] _candidates;
        private readonly double[] _rest;
        private readonly Container?[] _now;
        private Container?[] _best;
        private double _least = double.MaxValue;
        private int _steps;

        public Search(Want[] wanted, IReadOnlyList<Container> containers, string?[] chosen)
        {
            _wanted = wanted;
            _candidates = wanted
                .Select(
                    (w, i) =>
                        containers.FirstOrDefault(c => c.Id == chosen[i]) is { } hand
                            ? [((Container?)hand, 0.0)]
                            : containers
                                .Where(c => Fits(c, w) && Takes(c, w))
                                .Select(c => ((Container?)c, Cost: Cost(c, w)))
                                .Append((null, Cost: _none))
                                .OrderBy(x => x.Cost)
                                .ThenBy(x => x.Item1?.Name ?? "", StringComparer.Ordinal)
                                .ToArray()
                )
                .ToArray();
            _rest = new double[wanted.Length + 1];
            for (var i = wanted.Length - 1; i >= 0; i--)
            {
                _rest[i] = _rest[i + 1] + _candidates[i][0].Cost;
            }

            _now = new Container?[wanted.Length];
            _best = new Container?[wanted.Length];
        }

        public Container?[] Best()
        {
            Go(0, 0);
            return _best;
        }

        private void Go(int i, double cost)
        {
            if (cost + _rest[i] >= _least || (++_steps > MostSteps && _least < double.MaxValue))
            {
                return;
            }

            if (i == _wanted.Length)
            {
                (_least, _best) = (cost, [.. _now]);
                return;
            }

            foreach (var (container, own) in _candidates[i])
            {
                if (container is not null && Again(i, container) is var again)
                {
                    if (again < _none || _candidates[i].Length == 1)
                    {
                        _now[i] = container;
                        Go(i + 1, cost + own + again);
                    }
                }
                else
                {
                    Go(i + 1, cost + own);
                }

                _now[i] = null;
            }
        }

        /// <summary>What it costs to use a container again in the same job; as much as none at all = it may not be.</summary>
        private double Again(int i, Container container)
        {
            var cost = 0.0;
            for (var j = 0; j < i; j++)
            {
                if (_now[j]?.Id != container.Id)
                {
                    continue;
                }

                // A bucket that served wheels is wheel kit, and the other way round; what reacts never follows in one container.
                var clash =
                    _wanted[j].MeetsInTime(_wanted[i])
                    || (container.Shape == ContainerShape.Bucket && _wanted[j].Wheels != _wanted[i].Wheels)
                    || (_wanted[j].Agent is { } a && _wanted[i].Agent is { } b && Met(a, b) == Meeting.Never);
                if (clash && _candidates[i].Length > 1)
                {
                    return _none;
                }

                // Chosen by hand it stays, and what is there already goes elsewhere if there is anywhere else.
                cost += clash ? _none / 2 : _c["container-again"];
            }

            return cost;
        }

        private double Cost(Container container, Want w)
        {
            var isBucket = w.Shape == ContainerShape.Bucket;
            var fills = isBucket ? 1 : Math.Ceiling(w.Ml / (container.Ml * _c["fill-most"]) - 1e-9);
            var cost = _c["container-fill"] * (fills - 1);
            if (!isBucket && container.Ml > _c["container-large"] * w.Ml)
            {
                // By how much it is too large decides between two that are.
                cost += 2 + Math.Log2(container.Ml / w.Ml);
            }

            if (container.KeptFor != KeptFor.Anything)
            {
                cost -= _c["container-kept"];
            }

            if (container.Held is { } held && !Empties(container, w) && (held.InUse || held.Product != w.Solution?.BottleId))
            {
                var never =
                    w.Agent is { } now && _c.Agents.FirstOrDefault(a => a.Id == held.Agent) is { } old && Met(old, now) == Meeting.Never;
                cost += held.InUse ? _c["container-in-use"] : _c["container-held"];
                cost += never ? _c["container-never"] : 0;
            }

            return cost;
        }
    }
}
