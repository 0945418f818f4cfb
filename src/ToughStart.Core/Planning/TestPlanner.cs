using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Planning;

/// <summary>A hidden kind on one zone: how likely, and what it would add.</summary>
internal sealed record HiddenBranch(ZoneState State, Prior Prior, double Probability, double LabourMinutes, double WaterLitres, double Money, double ProductMl, IReadOnlyList<Deed> Extra)
{
    /// <summary>Harm of the work, in minutes of cost.</summary>
    public double Harm { get; init; }

    /// <summary>What it costs to leave it if it is there: the price of dirt that stays, minutes.</summary>
    public double Stays { get; init; }
}

/// <summary>A group of hidden branches that one kind of test settles.</summary>
internal sealed record HiddenGroup(string Test, ContaminantKind Kind, string When, IReadOnlyList<HiddenBranch> Branches, string? Again);

/// <summary>Plans the tests: every hidden kind that is likely enough and would change the work gets one, with the branch it opens.</summary>
internal sealed class TestPlanner(Survey survey, ProblemBuilder builder, IReadOnlyList<ZoneState> states, IReadOnlyList<ZoneWork> work, IReadOnlyList<string> signatures, Progress progress, Catalogue c)
{
    /// <summary>Zones whose own problem is the same (left and right, mostly) share their branches.</summary>
    private readonly Dictionary<(string Signature, int Kind), HiddenBranch?> _branches = [];

    public IReadOnlyList<HiddenGroup> Plan()
    {
        var branches = new List<(string Test, ContaminantKind Kind, string When, HiddenBranch Branch, string? Again)>();
        for (var i = 0; i < states.Count; i++)
        {
            var z = states[i];
            var at = progress.Of(z.Zone.Id);
            foreach (var b in z.Beliefs)
            {
                var again = at?.AskAgain.GetValueOrDefault(b.Prior?.Test ?? "");
                if (b.Basis != Basis.Hidden || b.Probability < c["worth-testing"] || builder.PlannedLoad(b, z) > 0 || (at?.Looked.Contains(b.Kind.Index) == true && again is null)
                    || builder.TargetLevel(b.Kind.Index, z.Family) <= Levels.Of(b.Prior!.Load))
                {
                    continue;
                }

                if (!_branches.TryGetValue((signatures[i], b.Kind.Index), out var branch))
                {
                    branch = _branches[(signatures[i], b.Kind.Index)] = Branch(z, at, b, work[i]);
                }

                if (branch is not null)
                {
                    branches.Add((b.Prior.Test, b.Kind, b.Prior.When, branch with { State = z, Probability = b.Probability, Prior = b.Prior }, again));
                }
            }
        }

        return branches.GroupBy(b => (b.Test, b.Kind.Index, b.When, b.Again))
            .Select(g => new HiddenGroup(g.Key.Test, g.First().Kind, g.Key.When, g.Select(x => x.Branch).ToArray(), g.Key.Again)).ToArray();
    }

    private HiddenBranch? Branch(ZoneState z, ZoneProgress? at, Belief b, ZoneWork now)
    {
        var problem = builder.Build(z, at, null, b.Kind.Index).Problem;
        var then = ZoneWork.Replay(z, problem, ZoneSearch.Solve(problem), c);
        var labour = then.Deeds.Sum(d => ZoneWork.Labour(d, z, c)) - now.Deeds.Sum(d => ZoneWork.Labour(d, z, c));
        var extra = then.Deeds.Where(d => !now.Deeds.Any(n => n.Treatment == d.Treatment && n.Rounds >= d.Rounds)).ToArray();
        return extra.Length == 0 ? null : new HiddenBranch(
            z, b.Prior!, b.Probability, Math.Max(0, labour),
            Math.Max(0, then.Deeds.Sum(d => ZoneWork.Water(d, z)) - now.Deeds.Sum(d => ZoneWork.Water(d, z))),
            Math.Max(0, Money(then, z) - Money(now, z)), Math.Max(0, Product(then, z) - Product(now, z)), extra)
        {
            Harm = Math.Max(0, Harm(then) - Harm(now)),
            Stays = Math.Max(0, Math.Min(then.Final[b.Kind.Index], builder.TargetLevel(b.Kind.Index, z.Family)) - Levels.Of(b.Prior!.Load)) / (double)Levels.PerDecade * c["shortfall-price"] * Math.Max(z.Zone.Area, c["shortfall-least-area"]),
        };
    }

    private static double Harm(ZoneWork w) => w.Deeds.Sum(d => d.Rounds * d.Option.Stress) + Costing.RangeModel.Marring(w);

    private static double Product(ZoneWork w, ZoneState z) => w.Deeds.Where(d => !d.Treatment.Agent.IsWater).Sum(d => ZoneWork.SolutionMl(d, z) * d.Strength.Value);

    private double Money(ZoneWork w, ZoneState z) =>
        w.Deeds.Sum(d => ZoneWork.SolutionMl(d, z) / 1000 * d.Strength.Value * d.Treatment.Agent.Price + ZoneWork.Water(d, z) * c["water-price"] + (survey.Crew > 0 ? ZoneWork.Labour(d, z, c) / 60 * c["labour-rate"] : 0));
}
