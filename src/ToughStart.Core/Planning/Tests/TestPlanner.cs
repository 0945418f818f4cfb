using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Planning;

/// <summary>A hidden kind on one zone: how likely, and what it would add.</summary>
internal sealed record HiddenBranch(
    ZoneState State,
    double Probability,
    Minutes LabourMinutes,
    double WaterLitres,
    double Money,
    Millilitres ProductMl,
    IReadOnlyList<Deed> Extra
)
{
    /// <summary>Harm of the work, in minutes of cost.</summary>
    public double Harm { get; init; }

    /// <summary>What it costs to leave it if it is there: the price of dirt that stays, minutes.</summary>
    public double Stays { get; init; }
}

/// <summary>A group of hidden branches that one kind of test settles.</summary>
internal sealed record HiddenGroup(string Test, ContaminantKind Kind, string When, IReadOnlyList<HiddenBranch> Branches, string? Again);

/// <summary>
/// Plans the tests: every hidden kind that is likely enough and would change the work gets one, with the branch it opens.
/// </summary>
internal sealed class TestPlanner(
    Survey survey,
    ProblemBuilder builder,
    IReadOnlyList<ZoneState> states,
    IReadOnlyList<ZoneWork> work,
    IReadOnlyList<string> signatures,
    Progress progress,
    Catalogue c,
    Effort effort
)
{
    /// <summary>Zones whose own problem is the same (left and right, mostly) share their branches.</summary>
    private readonly Dictionary<(string Signature, int Kind, double Load), HiddenBranch?> _branches = [];

    public IReadOnlyList<HiddenGroup> Plan()
    {
        var branches = new List<(string Test, ContaminantKind Kind, string When, HiddenBranch Branch, string? Again)>();
        for (var i = 0; i < states.Count; i++)
        {
            var z = states[i];
            var at = progress.Of(z.Zone.Id);
            foreach (var b in z.Beliefs)
            {
                if (Asked(z, at, b) is not { } ask)
                {
                    continue;
                }

                if (!_branches.TryGetValue((signatures[i], b.Kind.Index, ask.Load), out var branch))
                {
                    branch = _branches[(signatures[i], b.Kind.Index, ask.Load)] = Branch(z, at, b, ask.Load, work[i]);
                }

                if (branch is not null && (ask.Again is not null || branch.Extra.Count > 0))
                {
                    branches.Add((ask.Test, b.Kind, ask.When, branch with { State = z, Probability = ask.Chance }, ask.Again));
                }
            }
        }

        return branches
            .GroupBy(b => (b.Test, b.Kind.Index, b.When, b.Again))
            .Select(g => new HiddenGroup(g.Key.Test, g.First().Kind, g.Key.When, g.Select(x => x.Branch).ToArray(), g.Key.Again))
            .ToArray();
    }

    /// <summary>
    /// Is a kind to be tested for on a zone: hidden still and likely enough, or looked at in vain? Then how likely it is, and how much
    /// there is then.
    /// </summary>
    private (string Test, string When, double Chance, double Load, string? Again)? Asked(ZoneState z, ZoneProgress? at, Belief b)
    {
        var kind = b.Kind.Index;
        Doubt? doubt = at is not null && at.Doubts.TryGetValue(kind, out var d) ? d : null;
        if (at?.Speaks.FirstOrDefault(s => s.Value == kind).Key is { } look)
        {
            return (
                look,
                b.Prior?.Test == look ? b.Prior.When : "now",
                doubt?.Chance ?? b.Probability,
                doubt?.Load ?? b.Prior?.Load ?? Math.Max(b.Load, c["band-low"]),
                at.AskAgain[look]
            );
        }

        var (chance, load) = (doubt?.Chance ?? b.Probability, doubt?.Load ?? b.Prior?.Load ?? 0);
        return
            b.Basis != Basis.Hidden
            || chance < c["worth-testing"]
            || builder.PlannedLoad(b, z) > 0
            || at?.Looked.Contains(kind) == true
            || builder.TargetLevel(kind, z.Family) <= Levels.Of(load)
            ? null
            : (b.Prior!.Test, b.Prior.When, chance, load, null);
    }

    private HiddenBranch? Branch(ZoneState z, ZoneProgress? at, Belief b, double load, ZoneWork now)
    {
        var problem = builder.Build(z, at, null, (b.Kind.Index, load)).Problem;
        var then = ZoneWork.Replay(z, problem, ZoneSearch.Solve(problem, effort), c);
        var labour = then.Deeds.Sum(d => ZoneWork.Labour(d, z, c)) - now.Deeds.Sum(d => ZoneWork.Labour(d, z, c));
        var extra = then.Deeds.Where(d => !now.Deeds.Any(n => n.Treatment == d.Treatment && n.Rounds >= d.Rounds)).ToArray();
        return new HiddenBranch(
            z,
            b.Probability,
            Math.Max(0, labour),
            Math.Max(0, then.Deeds.Sum(d => ZoneWork.Water(d, z)) - now.Deeds.Sum(d => ZoneWork.Water(d, z))),
            Math.Max(0, Money(then, z) - Money(now, z)),
            Math.Max(0, Product(then, z) - Product(now, z)),
            extra
        )
        {
            Harm = Math.Max(0, Harm(then) - Harm(now)),
            Stays =
                Math.Max(0, Math.Min(then.Final[b.Kind.Index], builder.TargetLevel(b.Kind.Index, z.Family)) - Levels.Of(load))
                / (double)Levels.PerDecade
                * builder.ShortfallPerDecade(z),
        };
    }

    private static double Harm(ZoneWork w) => w.Deeds.Sum(d => d.Rounds * d.Option.Stress) + Costing.RangeModel.Marring(w);

    private static double Product(ZoneWork w, ZoneState z) =>
        w.Deeds.Where(d => !d.Treatment.Agent.IsWater).Sum(d => ZoneWork.SolutionMl(d, z) * d.Strength.Value);

    private double Money(ZoneWork w, ZoneState z) =>
        w.Deeds.Sum(d =>
            ZoneWork.SolutionMl(d, z) / 1000 * d.Strength.Value * d.Treatment.Agent.Price
            + ZoneWork.Water(d, z) * c["water-price"]
            + (survey.Crew > 0 ? ZoneWork.Labour(d, z, c) / 60 * c["labour-rate"] : 0)
        );
}
