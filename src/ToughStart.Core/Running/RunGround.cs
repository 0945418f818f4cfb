using System.Collections.Concurrent;
using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Running;

/// <summary>
/// What a run stands on while its events are folded: the survey a plan was computed from, with the bottles it was computed with.
/// </summary>
public sealed class RunGround
{
    private readonly Dictionary<string, ZoneState> _states;
    private readonly ConcurrentDictionary<string, ZoneProblem> _grounds = [];
    private readonly ConcurrentDictionary<(Basis, double, double, double), LoadBelief> _priors = [];

    public RunGround(Survey survey)
    {
        (Survey, Catalogue) = (survey, Planner.CatalogueFor(survey));
        States = ZoneState.FromSurvey(survey, Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size), Catalogue);
        _states = States.ToDictionary(z => z.Zone.Id);
        Graph = StageGraph.For(survey, Catalogue);
        Builder = new ProblemBuilder(survey, States, Graph, Catalogue);
    }

    public Survey Survey { get; }

    public Catalogue Catalogue { get; }

    public IReadOnlyList<ZoneState> States { get; }

    internal StageGraph Graph { get; }

    internal ProblemBuilder Builder { get; }

    public ZoneState? Zone(string id) => _states.GetValueOrDefault(id);

    /// <summary>A zone as a round sees it.</summary>
    internal ZoneProblem Ground(ZoneState z) => _grounds.GetOrAdd(z.Zone.Id, _ => Builder.Ground(z));

    /// <summary>What the survey makes one believe of a kind before anything is done; null = nothing speaks for it.</summary>
    public LoadBelief? Prior(ZoneState z, int kind)
    {
        var b = z[kind];
        var load = b.Basis is Basis.Hidden ? b.Prior!.Load : b.Load;
        var key = (b.Basis, load, b.Sigma, b.Probability);
        if (b.Basis == Basis.Nil)
        {
            return null;
        }

        // Zones that are alike share one belief, so that what happens to it is worked out once.
        return _priors.GetOrAdd(key, _ => Make(b, load));
    }

    /// <summary>What is believed of a kind that nothing speaks for, when somebody looks all the same.</summary>
    public LoadBelief Unforeseen
    {
        get =>
            field ??= LoadBelief.LogNormal(
                Math.Sqrt(Catalogue["band-low"] * Catalogue["band-high"]),
                Catalogue["sigma-suspected"],
                1 - Catalogue["unforeseen"]
            );
    }

    private LoadBelief Make(Belief b, double load)
    {
        var c = Catalogue;
        return b.Basis switch
        {
            Basis.LookedNone => LoadBelief.LogNormal(c["band-low"] / 2, c["sigma-suspected"], c["finding-sure"]),
            Basis.Found => Finding(load, b.Sigma, c),
            _ => LoadBelief.LogNormal(load, c["sigma-suspected"], 1 - b.Probability),
        };
    }

    /// <summary>What a finding is worth: mostly as spread as it says, now and then much further off, rarely nothing at all.</summary>
    public static LoadBelief Finding(double load, double sigma, Catalogue c) =>
        LoadBelief.Mix(
            c["finding-wide"],
            LoadBelief.LogNormal(load, Math.Max(sigma, c["finding-wide-sigma"]), 1 - c["finding-sure"]),
            LoadBelief.LogNormal(load, sigma, 1 - c["finding-sure"])
        );
}
