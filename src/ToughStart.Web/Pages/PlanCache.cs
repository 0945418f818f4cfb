using System.Collections.Concurrent;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;

namespace ToughStart.Web.Stations;

/// <summary>
/// Plans by survey hash. A plan is a pure function of the survey, so any instance can compute it again: this only
/// saves time.
/// </summary>
public sealed class PlanCache
{
    private const int Most = 64;
    private readonly ConcurrentDictionary<string, Plan> _plans = new();
    private readonly ConcurrentDictionary<string, IReadOnlyList<FrontPoint>> _fronts = new();
    private readonly ConcurrentDictionary<string, IReadOnlyList<Flip>> _flips = new();
    private readonly ConcurrentDictionary<string, Proof> _proofs = new();
    private readonly ConcurrentDictionary<string, IReadOnlyList<BuyLine>> _buys = new();

    public Plan Plan(Survey survey)
    {
        Trim(_plans);
        return _plans.GetOrAdd(SurveyFormat.Hash(survey), _ => Planner.Plan(survey));
    }

    /// <summary>Plans from gentlest to fastest.</summary>
    /// <param name="progress">Gets how many are done; nothing when they are known already.</param>
    public IReadOnlyList<FrontPoint> Front(Survey survey, Action<int> progress, CancellationToken stop)
    {
        Trim(_fronts);
        var key = SurveyFormat.Hash(survey);
        return _fronts.TryGetValue(key, out var known) ? known : _fronts[key] = ParetoFront.Of(survey, 9, progress, stop);
    }

    /// <summary>How near the plan is to the best there is.</summary>
    public Proof Proof(Survey survey)
    {
        Trim(_proofs);
        return _proofs.GetOrAdd(SurveyFormat.Hash(survey), _ => Planner.Prove(survey));
    }

    /// <summary>What to buy or borrow for it.</summary>
    public IReadOnlyList<BuyLine> Buy(Survey survey)
    {
        Trim(_buys);
        return _buys.GetOrAdd(SurveyFormat.Hash(survey), _ => Buying.Of(survey, Plan(survey)));
    }

    /// <summary>What would change the plan.</summary>
    public IReadOnlyList<Flip> Flips(Survey survey)
    {
        Trim(_flips);
        return _flips.GetOrAdd(SurveyFormat.Hash(survey), _ => Core.Planning.Flips.Of(survey));
    }

    private static void Trim<T>(ConcurrentDictionary<string, T> cache)
    {
        if (cache.Count > Most)
        {
            cache.Clear();
        }
    }
}
