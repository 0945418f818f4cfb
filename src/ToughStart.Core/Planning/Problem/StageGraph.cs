using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Planning;

/// <summary>"From comes before To", and why; the rule that put it there, when one did.</summary>
public sealed record Edge(Place From, Place To, string Reason, string? Rule = null);

/// <summary>The order of work forms a cycle; the message names its edges.</summary>
public sealed class StageCycleException(IReadOnlyList<Edge> edges)
    : InvalidOperationException(
        "the order of work contradicts itself: " + string.Join("; ", edges.Select(e => $"{e.From} before {e.To} ({e.Rule ?? e.Reason})"))
    )
{
    public IReadOnlyList<Edge> Edges { get; } = edges;
}

/// <summary>The slots of the work as a graph: chemistry, load limits and house rules add edges, each with its reason.</summary>
public sealed class StageGraph
{
    private StageGraph(IReadOnlyList<Slot> order, IReadOnlyList<Edge> edges)
    {
        Order = order;
        Edges = edges;
        _positions = order.Select((s, i) => (s.Id, i)).ToDictionary(x => x.Id, x => x.i);
    }

    private readonly Dictionary<Place, int> _positions;

    /// <summary>Slots in the order of work.</summary>
    public IReadOnlyList<Slot> Order { get; }

    public IReadOnlyList<Edge> Edges { get; }

    /// <summary>Place of a slot in the order.</summary>
    public int Position(Place slot) => _positions[slot];

    /// <summary>Place in the order from which work can follow a test that is made then: "after" a stage, "during" one, or now.</summary>
    public int Following(string when) =>
        TestMoment.Of(when) is { Stage: { } stage, Over: var over }
            ? Order.Select((s, i) => (s, i)).Where(x => IsOf(x.s, stage)).Select(x => x.i).DefaultIfEmpty(-1).Max() + (over ? 1 : 0)
            : 0;

    private static bool IsOf(Slot slot, Stage stage) =>
        slot.Stage == stage || (slot.Id == Place.Scrub && (stage == Stage.Tyres || stage == Stage.Arches));

    /// <summary>The graph for a survey's house rules.</summary>
    public static StageGraph For(Survey survey, Catalogue c) => Sort(c.Slots, EdgesFor(survey.Rule, c));

    /// <summary>Why a survey's house rules leave no order of work, with the edges of the circle; null = they agree.</summary>
    public static string? Contradiction(Survey survey)
    {
        try
        {
            _ = For(survey, Catalogue.Default);
            return null;
        }
        catch (StageCycleException e)
        {
            return e.Message;
        }
    }

    /// <summary>Sorts slots by edges; among free ones the catalogue's order decides.</summary>
    /// <exception cref="StageCycleException">The edges contradict each other.</exception>
    public static StageGraph Sort(IReadOnlyList<Slot> slots, IReadOnlyList<Edge> edges)
    {
        var open = slots.ToList();
        var left = edges.ToList();
        var order = new List<Slot>();
        while (open.Count > 0)
        {
            var next = open.FirstOrDefault(s => left.All(e => e.To != s.Id));
            if (next is null)
            {
                throw new StageCycleException(Cycle(left));
            }

            open.Remove(next);
            left.RemoveAll(e => e.From == next.Id);
            order.Add(next);
        }

        return new StageGraph(order, edges);
    }

    private static List<Edge> EdgesFor(Func<string, string> rule, Catalogue c)
    {
        var edges = c.Slots.SelectMany(s => s.After.Select(a => new Edge(a, s.Id, s.Reason))).ToList();
        if (rule("tarIron") == "iron-first")
        {
            edges.RemoveAll(e => e.From == Place.Tar && e.To == Place.Iron);
            edges.Add(new Edge(Place.Iron, Place.Tar, "iron shows where tar still sits", "house rule: iron, then tar"));
        }

        if (rule("firstLiquid") == "chemistry")
        {
            edges.RemoveAll(e => e.To == Place.Spray);
            edges.Add(new Edge(Place.Spray, Place.Rinse, "dry dirt takes the chemistry undiluted", "house rule: chemistry first"));
        }

        if (rule("iron") == "with-clay")
        {
            edges.RemoveAll(e => e.From == Place.Acid && e.To == Place.ReWash);
            edges.Add(new Edge(Place.ReWash, Place.Iron, "iron remover is the clay's lubricant", "house rule: iron with clay"));
            edges.Add(new Edge(Place.Acid, Place.Clay, "the clay face stays readable on a clean panel"));
        }

        return edges;
    }

    private static List<Edge> Cycle(List<Edge> left)
    {
        var path = new List<Edge>();
        var at = left.First(e => left.Any(o => o.From == e.To)).From;
        var seen = new List<Place>();
        while (!seen.Contains(at))
        {
            seen.Add(at);
            var step = left.FirstOrDefault(e => e.To == at);
            if (step is null)
            {
                break;
            }

            path.Insert(0, step);
            at = step.From;
        }

        return path.SkipWhile(e => e.From != at && path.Any(p => p.From == at)).ToList() is { Count: > 0 } cycle ? cycle : path;
    }
}
