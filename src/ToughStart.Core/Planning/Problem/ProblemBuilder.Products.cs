using System.Collections.Immutable;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Conditions;
using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Planning;

/// <summary>What is mixed once for the job, and the medium it is washed with.</summary>
public sealed partial class ProblemBuilder
{
    private Dictionary<PassKey, int> _passOf = [];

    private List<Pass> _passes = [];

    private Dictionary<(Block, Place), int> _groups = [];

    /// <summary>Passes that use these classes.</summary>
    public PassSet PassesOf(IReadOnlySet<string> agents) =>
        PassSet.Of(_passes.Where(p => agents.Contains(Poured(p.Key).Agent.Id)).Select(p => p.Index));

    private (Agent Agent, ProductFraction Strength) Poured(PassKey key) =>
        _c.Treatments[key.Treatment] is var t ? _limits.Poured(t, t.Agent.Strengths[key.Strength]) : default;

    /// <summary>What passes of a set are known by.</summary>
    public IReadOnlyList<PassKey> KeysOf(PassSet passes) => [.. passes.Passes().Select(p => _passes[p].Key)];

    /// <summary>The passes of this job that are known by these keys.</summary>
    public PassSet PassesOf(IEnumerable<PassKey> keys) => PassSet.Of(keys.Where(_passOf.ContainsKey).Select(k => _passOf[k]));

    /// <summary>Does a pass, or the first of its rounds, decide for the whole block?</summary>
    public bool IsWhole(int pass) => _passes[pass].Key is var k && !k.Under && IsWhole(k.Block, _c.Treatments[k.Treatment], k.Slot);

    /// <summary>Passes in these places of the order and later.</summary>
    public PassSet PassesFrom(int position) => PassSet.Of(_passes.Where(p => _graph.Position(p.Key.Slot) >= position).Select(p => p.Index));

    /// <summary>Minutes of making a treatment ready at a strength; 0 for water and for what stands mixed already.</summary>
    public double SetUpOf(Treatment t, ProductFraction strength) =>
        _products.TryGetValue(Key(t, strength), out var index) ? SetUps(null)[index] / 1000.0 / _lean.Time : 0;

    /// <summary>
    /// The passes zones may choose from, with what they cost. What an earlier plan still has ahead costs nothing, so that a re-plan does not turn
    /// over the rest; a further round is ahead where one was planned.
    /// </summary>
    /// <param name="done">Keys of its steps that are done: going round once more costs what it costs.</param>
    public PassBook Book(Plan? earlier = null, IReadOnlySet<string>? done = null)
    {
        var ahead = (earlier?.Steps ?? [])
            .Where(s => s.Stage != Stage.Dry && done?.Contains(s.Key) != true)
            .GroupBy(s => (s.Block, s.Slot, s.Treatment, s.Strength, s.Under))
            .ToDictionary(g => g.Key, g => g.Max(s => s.Rounds));
        bool Ahead(PassKey k) =>
            _c.Treatments[k.Treatment] is var t
            && ahead.GetValueOrDefault((k.Block, k.Slot, t.Id, Poured(k).Strength, k.Under)) >= (k.Again ? 2 : 1);
        return new([.. _passes.Select(p => Ahead(p.Key) ? p with { Fee = 0 } : p)], SetUps(earlier));
    }

    private long[] SetUps(Plan? earlier)
    {
        var setUp = _setUp.ToArray();
        foreach (var left in _survey.Kit?.Leftovers ?? [])
        {
            // What is mixed already needs no mixing: as much set-up as the bottle saves.
            foreach (var (key, index) in _products)
            {
                if (
                    key.Split('@') is [var agent, var strength]
                    && agent == left.Agent
                    && left.IsOnPanel(
                        _c.Agent(agent),
                        double.Parse(strength, System.Globalization.CultureInfo.InvariantCulture),
                        _survey.Kit,
                        _c
                    )
                )
                {
                    setUp[index] = 0;
                }
            }
        }

        foreach (var step in earlier?.Steps ?? [])
        {
            if (
                step.Stage != Stage.Dry
                && _c.FindTreatment(step.Treatment) is { } t
                && _products.TryGetValue(Key(t, step.Strength), out var index)
            )
            {
                setUp[index] = 0;
            }
        }

        return setUp;
    }

    /// <summary>The pass of a treatment's first round on a zone, and that of its further rounds.</summary>
    private (int First, int Again) PassesOf(Treatment t, Slot slot, ZoneState z, int strength, bool under, int rounds)
    {
        var key = new PassKey(z.Zone.Block, slot.Id, t.Index, strength, under, false);
        var first = Add(key, t.Agent.Strengths[strength], -1);
        return (first, rounds > 1 ? Add(key with { Again = true }, t.Agent.Strengths[strength], first) : -1);
    }

    /// <param name="first">The pass of the first round, if this is that of the further ones; −1 = it is the first.</param>
    private int Add(PassKey key, ProductFraction strength, int first)
    {
        if (!_passOf.TryGetValue(key, out var index))
        {
            index = _passes.Count;
            if (index >= PassSet.Capacity)
            {
                throw new TooManyPassesException();
            }

            var t = _c.Treatments[key.Treatment];
            var minutes = _c[key.Again ? "pass-again" : "pass-open"] + (key.Under ? 0 : _c["wait-weight"] * t.Agent.Dwell);
            var product = first < 0 ? Product(t, strength) : _passes[first].Product;
            _passes.Add(new(index, key, Milli(_lean.Time * minutes), product, GroupOf(key, t), first));
            _passOf[key] = index;
        }

        return index;
    }

    /// <summary>Passes of which only one is open; −1 = any number.</summary>
    private int GroupOf(PassKey key, Treatment t)
    {
        if (key.Again || OneAt(key, t) is not { } place)
        {
            return -1;
        }

        if (!_groups.TryGetValue((key.Block, place), out var group))
        {
            group = _groups[(key.Block, place)] = _groups.Count;
        }

        return group;
    }

    /// <summary>
    /// One rinse, one foam, one shampoo a block; one clay tool and grade, one way to strip. Wheels have one pre-wash, sprayed or foamed, one
    /// first water, soaked or rinsed, and one cleaner for the brushes in tyres and arches.
    /// </summary>
    private Place? OneAt(PassKey key, Treatment t)
    {
        var wheels = key.Block == Block.Wheels;
        return wheels && (key.Slot == Place.Spray || key.Slot == Place.Foam) ? Place.Foam
            : key.Under ? null
            : wheels && key.Slot == Place.Soak ? Place.Rinse
            : wheels && key.Slot == Place.Scrub && t.SuitsFamily(Family.Tyre) ? Place.Scrub
            : IsWhole(key.Block, t, key.Slot) || key.Slot == Place.Clay || key.Slot == Place.Strip ? key.Slot
            : null;
    }

    /// <summary>
    /// Is it a decision for the whole block, so that nobody stays out of it unsaid? Wheels are only rinsed together; a spray goes round where
    /// it is the first liquid.
    /// </summary>
    private bool IsWhole(Block block, Treatment t, Place slot) =>
        t.GoesRound && (slot == Place.Rinse || block == Block.Body) && (slot != Place.Spray || _survey.Rule("firstLiquid") == "chemistry");

    private int Product(Treatment t, ProductFraction strength)
    {
        if (t.Agent.IsWater)
        {
            return -1;
        }

        var key = Key(t, strength);
        if (!_products.TryGetValue(key, out var index))
        {
            index = _products[key] = _setUp.Count;
            _setUp.Add(Milli(_lean.Time * t.Ready));
        }

        return index;
    }

    private static string Key(Treatment t, ProductFraction strength) =>
        t.IsClay ? t.Id : FormattableString.Invariant($"{t.Agent.Id}@{strength.Value:0.######}");

    private (string, string?) ChooseWash(IReadOnlyList<ZoneState> zones)
    {
        var rule = _survey.Site.Water == "none" && _survey.Rule("washMedia") != "waterless" ? "rinseless" : _survey.Rule("washMedia");
        if (TooFew(rule, zones) is { } few)
        {
            return ("two-bucket", few);
        }

        if (NotAtHand(rule) is { } missing)
        {
            return ("two-bucket", missing);
        }

        if (rule is not ("rinseless" or "waterless") || _survey.Rule("waterlessOnHeavy") == "warn")
        {
            return (
                rule,
                rule is "rinseless" or "waterless" ? "rinseless or waterless on this dirt may mark the paint: plan a correction" : null
            );
        }

        string[] strict = rule == "waterless" ? ["road-film", "grit", "mud", "salt", "loose-dust"] : ["road-film", "grit", "mud", "salt"];
        foreach (var z in zones.Where(z => z.Family.IsPaneling))
        {
            // What was found counts, not what is only to be expected; and where there is no water nothing else is to be had.
            bool Beyond(string kind, string grade) => z[_c.Contaminant(kind).Index] is { Basis: Basis.Found } b && b.Load > _c[grade];
            var heavy = strict.FirstOrDefault(k => Beyond(k, "grade-1"))
                ?? new[] { "bug", "tar" }.FirstOrDefault(k => Beyond(k, "grade-2"));
            if (heavy is not null && _survey.Site.Water != "none")
            {
                return (
                    "two-bucket",
                    $"{rule} wash refused: {heavy} on {Limits.Words(z.Zone.Id)} is beyond its limit; two buckets instead"
                );
            }
        }

        return (rule, null);
    }

    /// <summary>Why the house's own wash cannot be mixed, where two buckets can; null = it can, or there is no hose for them.</summary>
    private string? NotAtHand(string rule)
    {
        if (_survey.Site.Water == "none")
        {
            return null;
        }

        var washes = _bySlot[_c.Slot(Place.Wash).Index];
        bool Can(Treatment t) => _limits.ShelfRefusal(t.Agent) is null;
        Treatment[] Of(string medium) =>
            [.. washes.Where(t => t.Only == OnlyWhere.Anywhere && t.Schools is [{ Rule: School.Medium } s] && s.Values.Contains(medium))];
        return Of(rule) is { Length: > 0 } own && !own.Any(Can) && Of("two-bucket").Any(Can)
            ? $"{own[0].Name} refused: no {own[0].Agent.Name} at hand; two buckets instead"
            : null;
    }

    /// <summary>
    /// A school that takes a fresh piece for every area needs as many pieces; null = they are there, or nobody counts them.
    /// </summary>
    private string? TooFew(string rule, IReadOnlyList<ZoneState> zones)
    {
        var (treatment, there, words) = rule switch
        {
            "mitt-per-area" => ("wash-mitt", _survey.Kit?.Mitts, "mitts"),
            "rinseless" when _survey.Site.Water != "none" => ("wash-rinseless", _survey.Kit?.Towels, "towels"),
            "waterless" when _survey.Site.Water != "none" => ("wash-waterless", _survey.Kit?.Towels, "towels"),
            _ => ("", null, ""),
        };
        if (there is not { } have)
        {
            return null;
        }

        var wash = _c.Treatment(treatment);
        var need = MediaCount.Pieces(
            Medium.For(treatment, Vehicles.Block.Body, _c)!,
            zones.Where(z => z.Zone.Block == Vehicles.Block.Body && wash.SuitsFamily(z.Family)).Sum(z => z.Zone.Area)
        );
        return need <= have
            ? null
            : $"{wash.Name} refused: {need} {words} wanted so that none goes back on paint, {have} there; two buckets instead";
    }
}

/// <summary>More ways round the vehicle than a job can be planned with.</summary>
public sealed class TooManyPassesException()
    : InvalidOperationException(
        $"this job has more than {PassSet.Capacity} ways round the vehicle to choose from: say a shelf, or decline what will not be used"
    );
