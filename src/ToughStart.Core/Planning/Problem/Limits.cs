using System.Collections.Concurrent;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;
using ToughStart.Core.Surfaces;

namespace ToughStart.Core.Planning;

/// <summary>A treatment that may not be used on a zone, and why.</summary>
public sealed record Refused(string Treatment, string Zone, Objection Objection);

/// <summary>May it be used here, and on what conditions (pre-wet, mask)?</summary>
/// <param name="Objection">Why not; null = it may.</param>
public sealed record Ruling(Objection? Objection, IReadOnlyList<string> Conditions, int Masked)
{
    public static Ruling Yes { get; } = new(null, [], 0);

    public bool Allowed => Objection is null;

    public static implicit operator Ruling(Objection objection) => new(objection, [], 0);

    public static Ruling ToRuling(Objection objection) => objection;
}

/// <summary>
/// The limits of surfaces, shelf and house rules: judged on the harshest pH a step can have, for every zone the liquid reaches.
/// </summary>
public sealed class Limits(Survey survey, IReadOnlyDictionary<string, ZoneState> zones, Catalogue c)
{
    private static readonly string[] Maskable =
    [
        "wheel-face",
        "wheel-barrel",
        "behind-caliper",
        "spoke-backs",
        "lamp",
        "badge",
        "tip",
        "grille",
        "disc",
    ];
    private readonly IReadOnlyDictionary<string, ShelfBottle>? _shelf = PickShelf(survey);
    private readonly Compatibility _matrix = new(c);

    private readonly bool _asbestos = survey.History.BrakeDust == "unknown" && survey.History.Releases.All(r => r.Hold != "brake-dust");

    public ZoneState Zone(string id) => zones[id];

    /// <summary>Does brake dust that may be old lie here, and has nobody released it?</summary>
    public bool HoldsOldDust(ZoneState z) => _asbestos && z.Family.HoldsBrakeDust;

    /// <summary>Why no bottle of this class can be planned with; null = one can.</summary>
    public Objection? ShelfRefusal(Agent agent)
    {
        if (agent.IsWater)
        {
            return null;
        }

        var bottle = _shelf?.GetValueOrDefault(agent.Id);
        if (agent.Id == "lubricant")
        {
            return Lubricant is null ? new(Cause.NoLubricant, agent.Name) : _matrix.Blocked(agent, bottle);
        }

        return _shelf is not null && bottle is null ? new(Cause.NotOnShelf, agent.Name)
            : bottle is { StockMl: { Value: <= 0 } } ? new(Cause.NoneLeft, agent.Name)
            : _matrix.Blocked(agent, bottle);
    }

    /// <summary>
    /// What the clay slides on: by the house's school if that is there, else its own bottle, else what one can be mixed from. Null = nothing
    /// is, and clay is never worked dry.
    /// </summary>
    public string? Lubricant => (_lubricant ??= new(LubricantAtHand())).Id;

    private sealed record Named(string? Id);

    private Named? _lubricant;

    private string? LubricantAtHand() =>
        new[]
        {
            survey.Rule("clayLubricant") switch
            {
                "shampoo" => "neutral-shampoo",
                "iron-remover" => "iron-remover",
                _ => "rinseless",
            },
            "lubricant",
            "rinseless",
            "neutral-shampoo",
        }.FirstOrDefault(id =>
            _shelf is null
            || (
                _shelf.GetValueOrDefault(id) is { } bottle
                && bottle.StockMl is not { Value: <= 0 }
                && _matrix.Blocked(c.Agent(id), bottle) is null
            )
        );

    /// <summary>What clay is worked with, and at what strength: mixed for it, or straight from the bottle.</summary>
    public (Agent Agent, ProductFraction Strength) LubricantMix =>
        Lubricant switch
        {
            "neutral-shampoo" => (c.Agent("neutral-shampoo"), ProductFraction.OneTo(c["clay-shampoo-weak"])),
            "iron-remover" => (c.Agent("iron-remover"), ProductFraction.Neat),
            "rinseless" => (c.Agent("rinseless"), ProductFraction.OneTo(c["clay-rinseless"])),
            _ => (c.Agent("lubricant"), c.Agent("lubricant").Reference),
        };

    /// <summary>
    /// What a treatment pours, and how much of it is product: its own bottle at the strength chosen; clay glides on what is at hand for it.
    /// </summary>
    public (Agent Agent, ProductFraction Strength) Poured(Treatment t, ProductFraction strength) =>
        t.IsClay ? LubricantMix : (t.Agent, strength);

    /// <summary>
    /// Neat product of a class at hand, ml: the bottle that is planned with, and what of it stands in triggers undiluted; null = nobody
    /// counts it.
    /// </summary>
    public static Millilitres? StockOf(Survey survey, string agent) => Stock(survey).TryGetValue(agent, out var ml) ? ml : null;

    /// <summary>The same of every class that is counted.</summary>
    public static Dictionary<string, double> Stock(Survey survey) =>
        (PickShelf(survey) ?? new Dictionary<string, ShelfBottle>())
            .Where(b => b.Value.StockMl is not null)
            .ToDictionary(
                b => b.Key,
                b =>
                    b.Value.StockMl!.Value
                    + (survey.Kit?.Leftovers.Where(l => l.Agent == b.Key && l.Strength == ProductFraction.Neat).Sum(l => l.Ml) ?? 0)
            );

    /// <summary>The bottle that stands for a class here; null when the shelf is not said.</summary>
    public ShelfBottle? Bottle(Agent agent) => _shelf?.GetValueOrDefault(agent.Id);

    /// <summary>The bottle of each class that is planned with; null = every class, without data sheets.</summary>
    public static IReadOnlyDictionary<string, ShelfBottle>? PickShelf(Survey survey) =>
        survey
            .Shelf?.GroupBy(b => b.Agent)
            .ToDictionary(g => g.Key, g => ShelfBottle.Pick(g, Catalogue.Default.Agent(g.Key), Compatibility.Default)!);

    /// <summary>Judges a treatment on a zone.</summary>
    public Ruling Judge(Treatment t, ZoneState z)
    {
        var of = _rulings.GetOrAdd(z, static (_, n) => new Ruling?[n], c.Treatments.Count);
        return of[t.Index] ??= Judged(t, z);
    }

    /// <summary>Rulings of each zone as it stands, by treatment: they are asked for over and over.</summary>
    private readonly ConcurrentDictionary<ZoneState, Ruling?[]> _rulings = new(ReferenceEqualityComparer.Instance);

    private Ruling Judged(Treatment t, ZoneState z)
    {
        var agent = t.Agent;
        if (survey.Declines.Any(d => d.Covers(t, z.Zone.Id, z.Family)))
        {
            return new Objection(Cause.Declined, t.Name);
        }

        if (ShelfRefusal(agent) is { } shelf)
        {
            return shelf;
        }

        if (survey.Rule("strongChemistry") == "neutral-only" && agent.Axis.IsByPh)
        {
            return new Objection(Cause.NeutralOnly, agent.Name);
        }

        if (Mechanical(t, z) is { } touch)
        {
            return touch;
        }

        // As asbestos: an open hose and wet wiping, nothing that sprays, blows or brushes.
        if (
            HoldsOldDust(z)
            && t.Only != OnlyWhere.OldBrakeDust
            && !(t.Contact == Contact.Touch && Medium.For(t.Id, z.Zone.Block, c) is { Wipes: true })
        )
        {
            return new Objection(Cause.BrakeDust, t.Name);
        }

        if (agent.IsWater)
        {
            return Ruling.Yes;
        }

        if ((agent.Axis != Axis.None || agent.Dwell > 0) && z.Conditions?.Bar is { } bar)
        {
            return new Objection(Cause.Weather, agent.Name, Detail: bar);
        }

        if (agent.Axis != Axis.None && z.Survey?.TestOf("spot")?.Result is ("gloss" or "colour"))
        {
            return new Objection(Cause.SpotChanged, agent.Name);
        }

        var panel = z.Cooled ? z.FilmC : Math.Max(z.FilmC, z.PanelC);
        if (panel > c["hot-panel"])
        {
            return new Objection(Cause.HotPanel, Limit: c["hot-panel"]);
        }

        if (_matrix.TooHot(agent, z.FilmC) is { } hot)
        {
            return hot with { Is = null };
        }

        if (Chemical(agent, z, 0) is { } chemical)
        {
            return chemical;
        }

        return agent.RunsOff ? Reached(t, z) : Ruling.Yes;
    }

    /// <summary>Lowest and highest pH the agent can have at work: data sheet, else the extremes of the class.</summary>
    public (double Low, double High) Harshest(Agent agent)
    {
        var (low, high, _) = Compatibility.Harshest(agent, _shelf?.GetValueOrDefault(agent.Id));
        return (low, high);
    }

    private static Objection? Mechanical(Treatment t, ZoneState z)
    {
        var s = t.Contact switch
        {
            Contact.Rub => z.Surface.Rub,
            Contact.Stiff => z.Surface.Stiff,
            Contact.Touch => z.Surface.Touch,
            _ => default,
        };
        var barred = z.Zone.Kind.Bars switch
        {
            Vehicles.Bars.Rub => t.Contact == Contact.Rub && !t.IsClay,
            Vehicles.Bars.Stiff => t.Contact == Contact.Stiff,
            _ => false,
        };
        return barred ? new(Cause.Never, t.Name, Part(z.Zone.Id))
            : s.Never ? new(Cause.Never, t.Name, z.Surface.Name)
            : s.TestSpot && !z.TestSpotPassed ? new(Cause.TestSpotFirst, t.Name, z.Surface.Name)
            : null;
    }

    private Objection? Chemical(Agent agent, ZoneState z, double margin) =>
        _matrix.Refuses(agent, _shelf?.GetValueOrDefault(agent.Id), z.Surface, z.TestSpotPassed, margin);

    /// <summary>Run-off and overspray: pre-wet and rinse at once, else mask, else refuse.</summary>
    private Ruling Reached(Treatment t, ZoneState z)
    {
        var conditions = new List<string>();
        var masked = 0;
        foreach (var (id, how) in z.Zone.DrainsTo.Select(d => (d, "runs onto")).Concat(z.Zone.Neighbours.Select(n => (n, "drifts onto"))))
        {
            var other = zones[id];
            if (Chemical(t.Agent, other, 0) is not { } reason)
            {
                continue;
            }

            var tyre =
                other.Family == Family.Tyre
                && t.Agent.Axis == Axis.Acid
                && Harshest(t.Agent).Low >= other.Surface.PhLow - c["prewet-margin-tyre"];
            if (tyre || Chemical(t.Agent, other, c["prewet-margin"]) is null)
            {
                conditions.Add($"pre-wet the {Part(id)} and rinse it at once");
            }
            else if (Maskable.Contains(other.Zone.Kind.Id) && (other.Zone.Corner is null || other.Zone.Corner != z.Zone.Corner))
            {
                conditions.Add($"cover the {Part(id)} first");
                masked++;
            }
            else
            {
                return reason with { Reaches = (how, Part(id)) };
            }
        }

        return conditions.Count == 0 ? Ruling.Yes : new Ruling(null, conditions, masked);
    }

    /// <summary>A zone without its place: "wheel face" for left-front-wheel-face.</summary>
    public static string Part(string id) =>
        Words(string.Join('-', id.Split('-').SkipWhile(w => w is "left" or "right" or "front" or "rear")));

    /// <summary>A zone id as people say it.</summary>
    public static string Words(string id) => id.Replace('-', ' ');

    /// <summary>Surface sensitivity used for stress: test-spot surfaces that passed count as sensitive.</summary>
    public static double Sensitivity(Surface s, Axis axis) => s.On(axis) is { Never: false } v ? v.Value : 0;
}
