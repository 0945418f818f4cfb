using System.Collections.Concurrent;
using ToughStart.Core.Conditions;
using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;
using ToughStart.Core.Readiness;
using ToughStart.Core.Running;
using ToughStart.Core.Surfaces;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Planning;

/// <summary>Why a kind counts as there.</summary>
public enum Basis
{
    Nil,
    LookedNone,
    Found,
    Expected,
    Hidden,
}

/// <summary>What is held true of one kind on one zone before the plan.</summary>
/// <param name="Load">Load planned for; 0 for hidden kinds, which are tested first.</param>
/// <param name="Probability">Chance that it is there; 1 when found.</param>
/// <param name="Prior">Expected load if present, and the test that shows it, when nobody has looked.</param>
public sealed record Belief(
    ContaminantKind Kind,
    Basis Basis,
    double Load,
    double Sigma,
    double Probability,
    Prior? Prior,
    double Difficulty
);

/// <summary>A zone with everything the planner knows of it: surface limits, temperature, and a belief for every kind.</summary>
public sealed record ZoneState(
    Zone Zone,
    Surface Surface,
    Family Family,
    bool SurfaceAssumed,
    string SurfaceId,
    double FilmC,
    bool TestSpotPassed,
    IReadOnlyList<Belief> Beliefs,
    ZoneSurvey? Survey
)
{
    /// <summary>Sun, air and wet windows at this zone; null when too little is known of the conditions.</summary>
    public SiteConditions? Conditions { get; init; }

    /// <summary>Nobody touches it, by the client's wish.</summary>
    public bool LeftAlone => Survey?.Goal == ZoneGoal.LeaveAlone;

    /// <summary>What it is made ready for in a job.</summary>
    public Goal GoalIn(Survey job) => Survey?.Goal?.Goal ?? job.Goal;

    /// <summary>Panel temperature now, °C: measured, computed, or the same as the film when neither.</summary>
    public double PanelC { get; init; } = FilmC;

    /// <summary>A hot body panel that is rinsed cool first.</summary>
    public bool Cooled { get; init; }

    private readonly ConcurrentDictionary<string, ZoneWindow> _windows = [];

    /// <summary>The reading that holds when the model could not be set against it.</summary>
    public double? Reading => Conditions?.Biases.ContainsKey(Zone.Id) == true ? null : Survey?.MeasuredC;

    /// <summary>The window of a carrier, worked out when it is first asked for; null when it is not computed.</summary>
    public ZoneWindow? Window(string? carrier) =>
        carrier is null || Conditions is null
            ? null
            : _windows.GetOrAdd(carrier, static (c, z) => z.Conditions!.Window(z.Zone, z.Family, z.Reading, c), this);

    /// <summary>What is believed of a contaminant; residue is none, it is never found, only left.</summary>
    public Belief this[int kind] => Beliefs[kind];

    /// <summary>
    /// Reads the state of every zone from a survey: found, looked-none, not looked (prior), cover, water test, named protection.
    /// </summary>
    public static IReadOnlyList<ZoneState> FromSurvey(Survey survey, Vehicle vehicle, Catalogue c)
    {
        var byZone = survey.Zones.ToDictionary(z => z.Zone);
        var conditions = SiteConditions.Of(survey, null, c).Conditions?.Corrected();
        var each = vehicle.Zones.Select(z => Heated(Of(z, byZone.GetValueOrDefault(z.Id), survey, c), conditions)).ToArray();
        foreach (var wheel in each.Select((z, i) => (z, i)).Where(x => x.z.Zone.Wheel is not null).GroupBy(x => x.z.Zone.Wheel).ToArray())
        {
            var shared = AsOne([.. wheel.Select(x => x.z.Beliefs)]);
            foreach (var (z, i) in wheel)
            {
                each[i] = z with { Beliefs = shared };
            }
        }

        return each;
    }

    /// <summary>
    /// Rank of what is known of one part of a wheel for the others: what was found speaks for all, then that somebody looked and found none, then
    /// what is to be expected.
    /// </summary>
    private static int Speaks(Belief b) =>
        b.Basis switch
        {
            Basis.Found => 4,
            Basis.LookedNone => 3,
            Basis.Expected => 2,
            Basis.Hidden => 1,
            _ => 0,
        };

    /// <summary>A wheel is soiled as one: for every kind what its heaviest found part says, else what else is known of any part.</summary>
    internal static IReadOnlyList<Belief> AsOne(IReadOnlyList<IReadOnlyList<Belief>> parts) =>
        [
            .. parts[0]
                .Select(
                    (_, k) =>
                        parts
                            .Select(p => p[k])
                            .OrderByDescending(Speaks)
                            .ThenByDescending(b => b.Load)
                            .ThenByDescending(b => b.Difficulty)
                            .First()
                ),
        ];

    /// <summary>The same zone with one finding changed; sun and air stay.</summary>
    internal static ZoneState With(ZoneState z, Finding changed, Survey survey, Catalogue c) =>
        With(
            z with
            {
                Survey = z.Survey! with
                {
                    Findings = [.. z.Survey.Findings.Select(f => f.Contaminant == changed.Contaminant ? changed : f)],
                },
            },
            survey,
            c
        );

    /// <summary>A zone as its own survey has it, whatever the other parts of its wheel say; sun and air stay.</summary>
    internal static ZoneState With(ZoneState z, Survey survey, Catalogue c) =>
        Of(z.Zone, z.Survey, survey, c) is var other && z.Conditions is null
            ? other
            : other with
            {
                Conditions = z.Conditions,
                FilmC = z.FilmC,
                PanelC = z.PanelC,
                Cooled = z.Cooled,
            };

    private static ZoneState Heated(ZoneState z, SiteConditions? conditions)
    {
        if (conditions is null)
        {
            return z;
        }

        var at = z with { Conditions = conditions };
        var w = at.Window("spray")!.Value;
        return at with { FilmC = Math.Round(w.MeanC, 1), PanelC = Math.Round(w.PanelC, 1), Cooled = w.Cooled };
    }

    private static ZoneState Of(Zone zone, ZoneSurvey? at, Survey survey, Catalogue c)
    {
        var id = at?.Surface ?? zone.Kind.Default.Id;
        var surfaces = new List<Surface> { id == Surface.UnknownId ? Surface.WorstOf(zone.Kind.MayBe) : c.Surface(id) };
        surfaces.AddRange((at?.Parts ?? []).Select(c.Surface));
        if (
            at?.Condition.RefinishDays < c["refinish-days"]
            && surfaces.All(s => s.Id != "fresh-refinish")
            && zone.Kind.MayBe.Any(s => s.Id == "fresh-refinish")
        )
        {
            surfaces.Add(c.Surface("fresh-refinish"));
        }

        if (
            at?.TestOf("colour")?.Result == "colour"
            && zone.Kind.MayBe.Any(s => s.Id == "single-stage")
            && surfaces.All(s => s.Id != "single-stage")
        )
        {
            surfaces.Add(c.Surface("single-stage"));
        }

        var surface =
            surfaces.Count == 1
                ? surfaces[0]
                : Surface.WorstOf(surfaces) with
                {
                    Name = string.Join(" and ", surfaces.Select(s => s.Name)),
                };
        // Thin paint is worked as soft paint is: a cloth where a mesh would do, the finest clay, and every mark counts for more.
        var thin = at?.Condition.FilmUm is { Count: > 0 } spots && FilmThickness.Of(spots) is { Thin: true } or { ThinSpot: true };
        if (id == "clear-coat")
        {
            surface = surface with
            {
                Mar =
                    surface.Mar
                    * (
                        (thin ? "soft" : at?.Condition.Softness ?? survey.Vehicle.Softness) switch
                        {
                            "hard" => c["hard-factor"],
                            "medium" => 1,
                            _ => c["soft-factor"],
                        }
                    ),
            };
        }

        var family = surfaces[0].Family;
        var families = SurveyFormat.FamiliesOf(zone, at);
        var beliefs = c
            .Contaminants.Select(k =>
                families.Any(k.CanSitOn) ? BeliefOf(k, zone, family, at, survey, c) : new Belief(k, Basis.Nil, 0, 0, 0, null, 1)
            )
            .ToArray();
        Demote(beliefs, c);
        return new ZoneState(
            zone,
            surface,
            family,
            at?.Surface is null,
            id,
            at?.MeasuredC ?? c["film-temperature"],
            at?.TestOf("spot")?.Result == "none",
            beliefs,
            at
        );
    }

    private static Belief BeliefOf(ContaminantKind kind, Zone zone, Family family, ZoneSurvey? at, Survey survey, Catalogue c)
    {
        var difficulty = 1.0;
        if (at?.FindingOf(kind.Id) is { } f)
        {
            if (f.Age is not null && (kind.AgeMatters || (kind.Id == "iron" && family == Family.Wheel)))
            {
                difficulty = c["age-" + f.Age];
            }

            return f.Grade == 0
                ? new Belief(kind, Basis.LookedNone, 0, 0, 0, null, 1)
                : Weighed(
                    new Belief(
                        kind,
                        Basis.Found,
                        c["grade-" + f.Grade],
                        c["sigma-" + f.Certainty.ToString().ToLowerInvariant()],
                        1,
                        null,
                        difficulty
                    ),
                    at,
                    c
                );
        }

        if (Tested(kind, at, c) is { } tested)
        {
            return tested;
        }

        if (kind.Id == "old-protection" && at?.Protection is { } named and not "unknown")
        {
            return named == "none"
                ? new Belief(kind, Basis.LookedNone, 0, 0, 0, null, 1)
                : new Belief(kind, Basis.Found, c[named], c["sigma-suspected"], 1, null, 1);
        }

        var prior = c.Priors.FirstOrDefault(p => p.Kind == kind && ((p.Low && zone.Bottom < c["low-zone"]) || p.Where.Contains(family)));
        if (prior is null)
        {
            return new Belief(kind, Basis.Nil, 0, 0, 0, null, 1);
        }

        var probability = prior.Probability(survey.History.MonthsSinceWash ?? c["months-unsaid"]);
        return !prior.Hidden && probability >= c["likely"]
            ? new Belief(kind, Basis.Expected, prior.Load, c["sigma-suspected"], probability, prior, 1)
            : new Belief(kind, Basis.Hidden, 0, c["sigma-suspected"], probability, prior, 1);
    }

    /// <summary>
    /// Tests of the survey stand for findings: water for protection, touch for roughness, bleed for iron, foam for tyres.
    /// </summary>
    private static Belief? Tested(ContaminantKind kind, ZoneSurvey? at, Catalogue c)
    {
        if (at is null)
        {
            return null;
        }

        // Chalk or colour on the cloth: oxidation, on whatever paint it is.
        var result =
            kind.Id == "oxidation"
                ? at.TestOf("colour")?.Result is "chalk"
                    ? "grainy"
                    : null
                : Answer(kind, at);
        var load = result switch
        {
            "beads" => c["beads"],
            "mixed" => c["mixed"],
            "sheets" => c["sheets"],
            "grainy" or "faint" or "tan" or "spots" or "grey" or "smear" => Math.Sqrt(c["band-low"] * c["band-high"]),
            "rough" or "strong" or "brown" or "many" or "gritty" => Math.Sqrt(c["band-high"]),
            "flat" or "smooth" or "none" or "white" or "clear" or "clean" => 0,
            _ => -1,
        };
        return load switch
        {
            < 0 => null,
            0 => new Belief(kind, Basis.LookedNone, 0, c["sigma-measured"], 0, null, 1),
            _ => new Belief(kind, Basis.Found, load, c["sigma-measured"], 1, null, 1),
        };
    }

    /// <summary>The answer of the last test that measures a kind; the water test also stands beside the zone's protection.</summary>
    private static string? Answer(ContaminantKind kind, ZoneSurvey at) => TestOf(kind, at)?.Result;

    private static TestResult? TestOf(ContaminantKind kind, ZoneSurvey at) =>
        at.Tests.LastOrDefault(t => Catalogue.Default.Tests.Any(card => card.Id == t.Test && card.Measures == kind.Id))
        ?? (kind.Id == "old-protection" && at.Water is { } water ? new TestResult("water", water, null) : null);

    /// <summary>
    /// What was seen, multiplied by what a test said of the same kind: never overwritten, and an inconclusive test changes nothing.
    /// </summary>
    private static Belief Weighed(Belief seen, ZoneSurvey at, Catalogue c)
    {
        if (TestOf(seen.Kind, at) is not { } test || Sense.Of(test.Test, null, c) is not { } sense || !sense.Knows(test.Result))
        {
            return seen;
        }

        var belief = RunGround.Finding(seen.Load, seen.Sigma, c);
        var median = sense
            .Hear(test.Result, null, k => k == seen.Kind.Index ? belief : LoadBelief.None)
            .Says.First(h => h.Kind == seen.Kind.Index)
            is var heard
            ? belief.Seen(heard.Likelihood).After.Median
            : Levels.Nil;
        return median >= Levels.Nil
            ? seen with
            {
                Basis = Basis.LookedNone,
                Load = 0,
            }
            : seen with
            {
                Load = Levels.LoadOf(median),
                Sigma = c["sigma-measured"],
            };
    }

    /// <summary>
    /// Nobody sees under a heavy cover: what was "seen" beneath it is only suspected, "none" is not known. A test was made on a clean
    /// patch: it stands.
    /// </summary>
    private static void Demote(Belief[] beliefs, Catalogue c)
    {
        for (var k = 0; k < beliefs.Length; k++)
        {
            var b = beliefs[k];
            var covered = beliefs.Any(o => o.Basis == Basis.Found && o.Kind.Layer < b.Kind.Layer && o.Load >= c["cover-demotes-from"]);
            if (covered && b.Basis == Basis.Found && b.Sigma == c["sigma-seen"])
            {
                beliefs[k] = b with { Sigma = c["sigma-suspected"] };
            }
            else if (
                covered
                && b is { Basis: Basis.LookedNone, Sigma: 0 }
                && b.Kind.Layer >= 4
                && c.Priors.FirstOrDefault(p => p.Kind == b.Kind && p.Hidden) is { } prior
            )
            {
                beliefs[k] = new Belief(b.Kind, Basis.Hidden, 0, c["sigma-suspected"], prior.Base, prior, 1);
            }
        }
    }
}
