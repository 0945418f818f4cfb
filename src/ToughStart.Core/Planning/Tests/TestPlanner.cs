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
    /// <summary>How much there is where it is there; 0 = it is no load that is asked for.</summary>
    public double Load { get; init; }

    /// <summary>The zone's work in the plan that knows of it.</summary>
    public required ZoneWork Then { get; init; }

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
    Solved found,
    JobSearch job,
    Progress progress,
    Catalogue c,
    Effort effort
)
{
    /// <summary>Zones whose own problem is the same (left and right, mostly) share their branches.</summary>
    private readonly Dictionary<(string Signature, int Kind, double Load), HiddenBranch?> _branches = [];

    /// <summary>Units whose problem is the same share their work.</summary>
    private readonly Dictionary<(string Signature, PassSet Reach, int Kind, double Load), ZoneSolution> _solved = [];

    private readonly IReadOnlyDictionary<int, Unit> _unitOf = found
        .Units.SelectMany(u => u.Zones.Select(z => (z, u)))
        .ToDictionary(x => x.z, x => x.u);

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

                var key = (found.Problems[i].Signature + _unitOf[i].Signature, b.Kind.Index, ask.Load);
                if (!_branches.TryGetValue(key, out var branch))
                {
                    branch = _branches[key] = Branch(i, at, b, ask.Load, ask.When);
                }

                if (branch is not null && (ask.Again is not null || branch.Extra.Count > 0))
                {
                    branches.Add((ask.Test, b.Kind, ask.When, branch with { State = z, Probability = ask.Chance }, ask.Again));
                }
            }
        }

        for (var i = 0; i < states.Count; i++)
        {
            foreach (var kind in KeptOff(i))
            {
                if (Passed(i, kind) is { Extra.Count: > 0 } branch)
                {
                    branches.Add(("spot", c.Contaminants[kind], "now", branch, null));
                }
            }
        }

        return branches
            .GroupBy(b => (b.Test, b.Kind.Index, b.When, b.Again))
            .Select(g => new HiddenGroup(g.Key.Test, g.First().Kind, g.Key.When, g.Select(x => x.Branch).ToArray(), g.Key.Again))
            .ToArray();
    }

    /// <summary>The kind that stays most because only a hidden test spot keeps off what would take it; none or one.</summary>
    private IEnumerable<int> KeptOff(int zone) =>
        found
            .Refusals.Where(r => r.Zone == states[zone].Zone.Id && r.Objection.Cause == Chemistry.Cause.TestSpotFirst)
            .SelectMany(r => c.Treatment(r.Treatment).Removes.Where(x => x.Decades >= c["works-from"]).Select(x => x.Kind))
            .Distinct()
            .Select(k => (Kind: k, Short: found.Problems[zone].Problem.Target.ElementAtOrDefault(k) - found.Work[zone].Final[k]))
            .Where(x => x.Kind != Kinds.Residue && x.Short > c["shortfall-refer"] * Levels.PerDecade)
            .OrderByDescending(x => x.Short)
            .Take(1)
            .Select(x => x.Kind);

    /// <summary>The work if the hidden spot shows no change.</summary>
    private HiddenBranch? Passed(int zone, int kind)
    {
        var (z, unit) = (states[zone], _unitOf[zone]);
        var open = unit.Zones.Select(i => states[i] with { TestSpotPassed = true }).ToArray();
        var parts = open.Select(o => builder.Build(o, progress.Of(o.Zone.Id), null)).ToArray();
        var then = unit.With(parts);
        var (reach, prices) = found.Reach(unit);
        if (!_solved.TryGetValue((then.Signature, reach, kind, -1), out var solution))
        {
            solution = _solved[(then.Signature, reach, kind, -1)] = new ZoneSearch(then.Problem, effort: effort).Solve(
                reach,
                prices: prices
            );
        }

        var at = unit.Zones.ToList().IndexOf(zone);
        var work = ZoneWork.Replay(open[at], parts[at].Problem, then.Parts(solution).ElementAt(at).Solution, c);
        var gained = Enumerable
            .Range(0, Kinds.Residue)
            .Sum(k => Math.Min(work.Final[k], work.Problem.Target[k]) - Math.Min(found.Work[zone].Final[k], work.Problem.Target[k]));
        return gained <= 0 ? null
            : Branch(z, z[kind] with { Probability = c["spot-passes"] }, z[kind].Load, found.Work[zone], work) is { } branch
                ? branch with
                {
                    Load = 0,
                    Stays = gained / (double)Levels.PerDecade * builder.ShortfallPerDecade(z),
                }
            : null;
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
            || builder.TargetLevel(kind, z) <= Levels.Of(load)
            ? null
            : (b.Prior!.Test, b.Prior.When, chance, load, null);
    }

    /// <summary>
    /// The work if the kind is there, on the whole unit: with the passes that are open anyway, and any that comes after the test. A positive
    /// answer cannot ask for work that is past.
    /// </summary>
    private HiddenBranch? Branch(int zone, ZoneProgress? at, Belief b, double load, string when)
    {
        var (z, now, unit) = (states[zone], found.Work[zone], _unitOf[zone]);
        var parts = unit.Zones.Select(i => builder.Build(states[i], progress.Of(states[i].Zone.Id), null, (b.Kind.Index, load))).ToArray();
        var then = unit.With(parts);
        var (reach, prices) = found.Reach(unit, job.Graph.Following(when));
        if (!_solved.TryGetValue((then.Signature, reach, b.Kind.Index, load), out var solution))
        {
            solution = _solved[(then.Signature, reach, b.Kind.Index, load)] = new ZoneSearch(then.Problem, effort: effort).Solve(
                reach,
                prices: prices
            );
        }

        var mine = then.Parts(solution).First(p => p.Zone == zone).Solution;
        var problem = parts[unit.Zones.ToList().IndexOf(zone)].Problem;
        return Branch(z, b, load, now, ZoneWork.Replay(z, problem, mine, c));
    }

    private HiddenBranch? Branch(ZoneState z, Belief b, double load, ZoneWork now, ZoneWork then)
    {
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
            Load = load,
            Then = then,
            Harm = Math.Max(0, Harm(then) - Harm(now)),
            Stays =
                Math.Max(0, Math.Min(then.Final[b.Kind.Index], builder.TargetLevel(b.Kind.Index, z)) - Levels.Of(load))
                / (double)Levels.PerDecade
                * builder.ShortfallPerDecade(z),
        };
    }

    private static double Harm(ZoneWork w) => w.Deeds.Sum(d => d.Rounds * d.Option.Stress) + Costing.Outlook.Marring(w);

    private double Product(ZoneWork w, ZoneState z) => w.Deeds.Sum(d => ZoneWork.NeatMl(d, z, builder.Limits));

    private double Money(ZoneWork w, ZoneState z) =>
        w.Deeds.Sum(d =>
            ZoneWork.Price(d, z, builder.Limits)
            + ZoneWork.Water(d, z) * c["water-price"]
            + (survey.Crew > 0 ? ZoneWork.Labour(d, z, c) / 60 * c["labour-rate"] : 0)
        );
}
