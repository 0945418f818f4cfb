using System.Collections.Immutable;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Conditions;
using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Planning;

/// <summary>What is mixed once for the job, and the medium it is washed with.</summary>
public sealed partial class ProblemBuilder
{
    /// <summary>Products of these classes, a bit each.</summary>
    public UInt128 ProductsOf(IReadOnlySet<string> agents) =>
        _products.Where(p => agents.Contains(p.Key.Split('@')[0])).Aggregate(UInt128.Zero, (m, p) => m | UInt128.One << p.Value);

    /// <summary>Set-up of every product, milli-minutes.</summary>
    public long[] SetUp => [.. _setUp];

    /// <summary>Minutes of making a treatment ready at a strength; 0 for water and for what stands mixed already.</summary>
    public double SetUpOf(Treatment t, ProductFraction strength) =>
        _products.TryGetValue(Key(t, strength), out var index) ? SetUpWithout(null)[index] / 1000.0 / _lean.Time : 0;

    /// <summary>Set-ups, where what an earlier plan already mixes costs none: so that a re-plan does not turn over the rest.</summary>
    public long[] SetUpWithout(Plan? earlier)
    {
        var setUp = SetUp;
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
            if (step.Stage != Stage.Dry && _products.TryGetValue(Key(_c.Treatment(step.Treatment), step.Strength), out var index))
            {
                setUp[index] = 0;
            }
        }

        return setUp;
    }

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
            if (index >= 128)
            {
                throw new InvalidOperationException("more than 128 products");
            }
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
            var heavy = strict.FirstOrDefault(k => z[_c.Contaminant(k).Index].Load > _c["grade-1"])
                ?? new[] { "bug", "tar" }.FirstOrDefault(k => z[_c.Contaminant(k).Index].Load > _c["grade-2"]);
            if (heavy is not null)
            {
                return (
                    "two-bucket",
                    $"{rule} wash refused: {heavy} on {Limits.Words(z.Zone.Id)} is beyond its limit; two buckets instead"
                );
            }
        }

        return (rule, null);
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
