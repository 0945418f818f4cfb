using System.Collections.Concurrent;
using System.Runtime.CompilerServices;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Conditions;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Data;

namespace ToughStart.Web.Stations;

/// <summary>
/// Plans by survey hash, and what is worked out beside them. A plan is a pure function of the survey, so any instance can compute it again:
/// this only saves time. What is heavy goes through <see cref="Computing"/>.
/// </summary>
public sealed class PlanCache(Computing computing)
{
    private const int Most = 256;
    private readonly Recent<Plan> _plans = new(Most);
    private readonly Recent<IReadOnlyList<FrontPoint>> _fronts = new(Most / 8);
    private readonly Recent<FlipReport> _flips = new(Most / 8);
    private readonly Recent<Proof> _proofs = new(Most / 4);
    private readonly Recent<IReadOnlyList<BuyLine>> _buys = new(Most / 4);
    private readonly Recent<DayView> _days = new(Most / 8);
    private readonly Recent<Exception> _broken = new(Most);

    private sealed record Shelf(long Version, LanceDraw Lance, IReadOnlyList<ShelfBottle> Bottles);

    private volatile Shelf? _shelf;

    /// <summary>The bottle of each class that is planned with: read again only when the shelf has changed.</summary>
    /// <param name="version">Of the shelf, asked before its bottles are read: what changes in between is read again next time.</param>
    public async Task<IReadOnlyList<ShelfBottle>> ShelfAsync(long version, LanceDraw lance, Func<Task<IReadOnlyList<ShelfBottle>>> read)
    {
        if (_shelf is not { } kept || kept.Version != version || kept.Lance != lance)
        {
            _shelf = kept = new(version, lance, await read());
        }

        return kept.Bottles;
    }

    private readonly ConditionalWeakTable<Survey, Tuple<Equipment, Survey>> _equipped = [];

    /// <summary>A survey with what the shop has, where it does not name its own: the same object as last time while that is the same.</summary>
    public Survey Equipped(Survey survey, Equipment with)
    {
        if (!_equipped.TryGetValue(survey, out var known) || !known.Item1.IsAs(with))
        {
            known = new(with, with.On(survey));
            _equipped.AddOrUpdate(survey, known);
        }

        return known.Item2;
    }

    /// <summary>The plan of a survey.</summary>
    /// <exception cref="CannotPlanException">The planner cannot deal with it.</exception>
    /// <exception cref="BusyException">Too much is being worked out.</exception>
    public Plan Plan(Survey survey, CancellationToken stop)
    {
        var key = SurveyFormat.Hash(survey);
        if (_broken.Find(key) is { } why)
        {
            throw new CannotPlanException(why);
        }

        return Known(_plans, "plan", key, effort => Planned(key, () => Planner.Plan(survey, null, With(effort))), stop);
    }

    /// <summary>The plan of a survey if it is known already; looking works nothing out.</summary>
    /// <param name="hash">Of the equipped survey.</param>
    public Plan? Known(string hash) => _plans.Find(hash);

    /// <summary>Is it known that the planner cannot deal with this survey?</summary>
    public bool IsBroken(string hash) => _broken.Find(hash) is not null;

    /// <summary>Plans from gentlest to fastest.</summary>
    /// <param name="progress">Gets how many are done; nothing when they are known already.</param>
    public IReadOnlyList<FrontPoint> Front(Survey survey, Action<int> progress, CancellationToken stop) =>
        Known(_fronts, "front", SurveyFormat.Hash(survey), effort => ParetoFront.Of(survey, 9, progress, effort.Stop), stop);

    /// <summary>How near the plan is to the best there is.</summary>
    public Proof Proof(Survey survey, CancellationToken stop) =>
        Known(_proofs, "proof", SurveyFormat.Hash(survey), effort => Planner.Prove(survey, effort), stop);

    /// <summary>What to buy or borrow for it.</summary>
    public IReadOnlyList<BuyLine> Buy(Survey survey, CancellationToken stop)
    {
        var plan = Plan(survey, stop);
        return Known(_buys, "buy", SurveyFormat.Hash(survey), effort => Buying.Of(survey, plan, effort), stop);
    }

    /// <summary>What would change the plan, as far as there was time to look.</summary>
    public FlipReport Flips(Survey survey, CancellationToken stop) =>
        Known(_flips, "flips", SurveyFormat.Hash(survey), effort => Core.Planning.Flips.Of(survey, effort), stop);

    /// <summary>The day of a survey, quarter by quarter.</summary>
    /// <param name="planned">The survey whose plan says which windows matter; null = nothing is planned.</param>
    public DayView Day(Survey survey, Survey? planned, CancellationToken stop)
    {
        var plan = planned is null ? null : Plan(planned, stop);
        var key = $"{SurveyFormat.Hash(survey)} {(planned is null ? "" : SurveyFormat.Hash(planned))}";
        return Known(
            _days,
            "day",
            key,
            _ =>
            {
                var (map, why) = DayMap.Of(survey, plan);
                return new DayView(map, why);
            },
            stop
        );
    }

    private static PlanOptions With(Effort effort) => new() { Effort = effort };

    private Plan Planned(string key, Func<Plan> plan)
    {
        try
        {
            return plan();
        }
        catch (Exception e) when (e is not (OperationCanceledException or BusyException))
        {
            _broken.Keep(key, e);
            throw new CannotPlanException(e);
        }
    }

    private T Known<T>(Recent<T> kept, string what, string key, Func<Effort, T> work, CancellationToken stop)
        where T : class => kept.Find(key) ?? kept.Keep(key, computing.Run($"{what} {key}", work, stop));
}

/// <summary>What the shop works with now.</summary>
/// <param name="Bottles">The bottle of each class that is planned with; empty where the shop keeps none, or the survey names its own.</param>
/// <param name="Leftovers">What stands mixed already.</param>
public sealed record Equipment(ShopInUse Use, IReadOnlyList<ShelfBottle> Bottles, IReadOnlyList<Leftover> Leftovers)
{
    /// <summary>Is nothing else to be planned with? A shelf that was not read again is the same one.</summary>
    public bool IsAs(Equipment other) =>
        Use == other.Use && ReferenceEquals(Bottles, other.Bottles) && Leftovers.SequenceEqual(other.Leftovers);

    public Survey On(Survey survey)
    {
        var lance = Use.Lance ?? LanceDraw.Uncalibrated;
        var kit =
            lance.Calibrated || Leftovers.Count > 0 || Use is not { FilmFactor: null, Speed: null }
                ? new KitInUse(lance.Calibrated ? lance : null, Leftovers) { FilmFactor = Use.FilmFactor, Speed = Use.Speed }
                : null;
        return survey with { Shelf = survey.Shelf ?? (Bottles.Count == 0 ? null : Bottles), Kit = survey.Kit ?? kit };
    }
}

/// <summary>A day as it is drawn, or why there is none.</summary>
public sealed record DayView(DayMap? Map, string? Why);

/// <summary>The values that were asked for last, by key.</summary>
internal sealed class Recent<T>(int most)
    where T : class
{
    private readonly ConcurrentDictionary<string, (T Value, long Asked)> _all = new();
    private long _clock;

    public T? Find(string key)
    {
        if (!_all.TryGetValue(key, out var found))
        {
            return null;
        }

        _all[key] = (found.Value, Interlocked.Increment(ref _clock));
        return found.Value;
    }

    public T Keep(string key, T value)
    {
        _all[key] = (value, Interlocked.Increment(ref _clock));
        if (_all.Count > most)
        {
            // A quarter goes at once, so that this is rare.
            foreach (var old in _all.OrderBy(x => x.Value.Asked).Take(most / 4).ToArray())
            {
                _all.TryRemove(old.Key, out _);
            }
        }

        return value;
    }
}
