using System.Globalization;
using ToughStart.Core.Conditions;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Running;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Readiness;

/// <summary>What is done to a zone after the gate, in this order.</summary>
public enum Act
{
    /// <summary>Local sanding: a spot, never a panel.</summary>
    Sand,
    TouchUp,
    Compound,
    Finish,
    Wipe,
    Protect,
}

/// <summary>Something that was done to zones after the gate.</summary>
/// <param name="Kind">What was put on, where something was; null = it was worked.</param>
/// <param name="Job">Number of the visit.</param>
public sealed record DoneByHand(Act Act, string? Kind, IReadOnlyList<string> Zones, int Layers, DateTimeOffset At, int Job);

/// <summary>Damage, and what the client said to it.</summary>
public sealed record FlawSaid(Flaw Flaw, string Decision);

/// <summary>One zone as it is handed over.</summary>
/// <param name="Acts">What is to be done there, in order.</param>
/// <param name="ByHand">No machine: the paint is thin, or nobody has proven that it is not.</param>
/// <param name="Warnings">What to mind.</param>
/// <param name="Fits">Protection that may go on it.</param>
public sealed record ZoneHandOver(
    string Zone,
    Goal Goal,
    GateWord Word,
    IReadOnlyList<Act> Acts,
    bool ByHand,
    IReadOnlyList<string> Warnings,
    IReadOnlyList<Protection> Fits
);

/// <summary>What lies on a zone, as far as it is on record.</summary>
/// <param name="TakenBy">What has taken it off since; null = it is on.</param>
public sealed record CoatOn(DoneByHand Last, Protection Kind, int Layers, string? TakenBy);

/// <summary>
/// From the gate to whoever polishes or protects: what a zone takes and in which order, what must not follow what, and what lies on it by now.
/// Polishing is recorded here, not planned.
/// </summary>
public static class HandOver
{
    /// <summary>One zone; null = nothing goes on there.</summary>
    public static ZoneHandOver? Of(ZoneState z, Goal goal, GateWord word, IReadOnlyList<FlawSaid> flaws, FilmThickness? film)
    {
        if (!goal.GoesOn || z.LeftAlone)
        {
            return null;
        }

        var c = Catalogue.Default;
        var (acts, warnings) = (new SortedSet<Act> { Act.Wipe }, new List<string>());
        var painted = z.Family == Family.Body;
        var proven = film is { Thin: false, NotProven: false };
        if (goal == Goal.Correct && painted)
        {
            acts.Add(Act.Finish);
            foreach (var f in flaws.Where(f => f.Decision == "bought" && Referral.Of(f.Flaw) is null or { To: "touch-up" }))
            {
                acts.UnionWith(Answers(f.Flaw.Kind, proven && film!.Low >= c["film-sand"] && !film.ThinSpot && !film.Mixed));
            }

            warnings.AddRange(Film(film));
        }

        if (z.Surface.Matte && acts.Overlaps([Act.Sand, Act.Compound, Act.Finish]))
        {
            acts.ExceptWith([Act.Sand, Act.Compound, Act.Finish]);
            warnings.Add("matte: never polished, it would shine for good");
        }

        var fits = c.Protections.Where(p => p.Fits(z.Family, z.Surface.Matte)).ToArray();
        if (fits.Length > 0)
        {
            acts.Add(Act.Protect);
        }

        warnings.AddRange(
            word switch
            {
                GateWord.Repeat => ["to be repeated first: the gate has it so"],
                GateWord.Refer => ["referred at the gate: nothing is polished or put on before that is done"],
                _ => [],
            }
        );
        return new(z.Zone.Id, goal, word, [.. acts], goal == Goal.Correct && painted && !proven, warnings, fits);
    }

    /// <summary>What a flaw that was bought asks for.</summary>
    private static Act[] Answers(string kind, bool thickEnough) =>
        kind switch
        {
            "chip" => [Act.TouchUp],
            "scratch" or "etch" => thickEnough ? [Act.Sand, Act.Compound] : [Act.Compound],
            "swirl" => [Act.Compound],
            _ => [],
        };

    private static IEnumerable<string> Film(FilmThickness? film)
    {
        if (film is null)
        {
            yield return "paint not measured: treat it as thin, by hand only";
            yield break;
        }

        if (film.Thin)
        {
            yield return $"thin paint, {film.Median:0} µm: no machine, no compound";
        }

        if (film.ThinSpot && !film.Thin)
        {
            yield return $"a spot has {film.Least:0} µm: keep every machine off it";
        }

        if (film.NotProven)
        {
            yield return $"not proven thick enough ({film.Low:0} µm at the least): measure more, or by hand only";
        }

        if (film.Mixed)
        {
            yield return "a spot stands far off the rest: filled or resprayed there, no machine on it";
        }

        if (film.Refinish)
        {
            yield return $"repainted ({film.Median:0} µm): softer or harder than the rest, try a small spot";
        }
    }

    /// <summary>
    /// What speaks against working outdoors now, by the weather of the survey; empty = nothing, null = it is done indoors.
    /// </summary>
    public static IReadOnlyList<string>? Outdoors(Survey survey, SiteConditions? now, IEnumerable<ZoneState> zones)
    {
        var c = Catalogue.Default;
        if (survey.Site.Place == "indoors")
        {
            return null;
        }

        if (now is null)
        {
            return
            [
                FormattableString.Invariant(
                    $"Nobody has said what the weather is: no polish or coating above {c["wind-polish"]:0} m/s of wind, in rain, or on panels outside {c["polish-cold"]:0} to {c["polish-hot"]:0} °C."
                ),
            ];
        }

        var bars = new List<string>();
        if (now.RainMm > 0)
        {
            bars.Add("Rain: nothing is polished or put on outdoors.");
        }

        if (now.Air.Wind > c["wind-polish"])
        {
            bars.Add(FormattableString.Invariant($"Wind {now.Air.Wind:0} m/s: dust settles in it; wait, or go indoors."));
        }

        var panels = zones
            .Where(z => z.Family == Family.Body)
            .Select(z => (z.Zone.Id, C: z.Survey?.MeasuredC ?? now.Balance(z.Zone, z.Family, z.Reading, false).Now))
            .ToArray();
        Say(p => p.C < c["polish-cold"], x => $"{x} below {c["polish-cold"]:0} °C: a coating does not level.");
        Say(p => p.C > c["polish-hot"], x => $"{x} above {c["polish-hot"]:0} °C: polish gums, a coating flashes.");
        Say(
            p => p.C - now.Air.DewPoint < c["dew-margin"],
            x => $"{x} within {c["dew-margin"]:0} K of the dew point ({now.Air.DewPoint:0} °C): it sweats under a coating."
        );
        return bars;

        void Say(Func<(string Id, double C), bool> bad, Func<string, string> words)
        {
            if (panels.Where(bad).Select(p => p.Id).ToArray() is { Length: > 0 } on)
            {
                bars.Add(words(ZoneWords.Of(on, 60).Capital()));
            }
        }
    }

    /// <summary>What was put on a zone last, this visit or before, and whether anything has taken it off since.</summary>
    /// <param name="deeds">Of this visit and earlier ones.</param>
    /// <param name="washed">Treatments done on the zone in this visit, with when.</param>
    public static CoatOn? CoatOf(string zone, IEnumerable<DoneByHand> deeds, IEnumerable<(string Treatment, DateTimeOffset At)> washed)
    {
        var c = Catalogue.Default;
        var on = deeds.Where(d => d.Zones.Contains(zone)).OrderBy(d => d.At).ToArray();
        if (
            on.LastOrDefault(d => d.Act == Act.Protect) is not { } last
            || c.Protections.FirstOrDefault(p => p.Id == last.Kind) is not { } kind
        )
        {
            return null;
        }

        var taken = washed
            .Where(w => w.At > last.At)
            .OrderBy(w => w.At)
            .Select(w => c.FindTreatment(w.Treatment))
            .FirstOrDefault(t => t is not null && Strips(t))
            ?.Name;
        // Polishing takes whatever lay there.
        taken ??= on.LastOrDefault(d => d.At > last.At && d.Act < Act.Wipe) is { } worked ? Words(worked.Act).ToLowerInvariant() : null;
        var polished = on.Where(d => d.Act < Act.Wipe && d.At < last.At).Select(d => d.At).DefaultIfEmpty(DateTimeOffset.MinValue).Max();
        var layers = on.Where(d => d.Act == Act.Protect && d.Kind == last.Kind && d.Job == last.Job && d.At > polished).Sum(d => d.Layers);
        return new(last, kind, layers, taken);
    }

    /// <summary>Does a round of it take protection off?</summary>
    public static bool Strips(Treatment t) =>
        t.Removes.Any(r => r.Kind == Catalogue.Default.Contaminant("old-protection").Index && r.Decades > 0);

    /// <summary>Why this may not go on a zone now; null = it may.</summary>
    /// <param name="run">The zone as the wash left it.</param>
    /// <param name="worked">When the wash last did something there; null = not in this visit.</param>
    public static string? WhyNot(
        Protection p,
        ZoneHandOver at,
        ZoneState z,
        ZoneRun run,
        DateTimeOffset? worked,
        bool wet,
        IEnumerable<DoneByHand> deeds,
        CoatOn? coat,
        DateTimeOffset now
    )
    {
        if (!p.Fits(z.Family, z.Surface.Matte))
        {
            return $"{p.Name} does not go on {z.Surface.Name}";
        }

        if (wet)
        {
            return "still wet: rinse it and dry it first";
        }

        if (at.Word is GateWord.Repeat or GateWord.Refer && p.Base != Under.Any)
        {
            return $"the gate has it {(at.Word == GateWord.Repeat ? "to be repeated" : "referred")}: first that";
        }

        var on = deeds.Where(d => d.Zones.Contains(z.Zone.Id)).ToArray();
        var wiped = on.Where(d => d.Act == Act.Wipe).Select(d => d.At).DefaultIfEmpty(DateTimeOffset.MinValue).Max();
        if (p.Base != Under.Any && wiped <= (worked ?? DateTimeOffset.MinValue) && Lies(run.Left, p.Base) is { } lies)
        {
            return $"{lies} on it: wipe the panel first";
        }

        if (p.Base != Under.Any && on.FirstOrDefault(d => d.Act < Act.Wipe && d.At > wiped) is { } oily)
        {
            return $"{Words(oily.Act).ToLowerInvariant()} leaves oils: wipe the panel first";
        }

        var worn = worked ?? DateTimeOffset.MinValue;
        if (p.Base == Under.Bare && at.Acts.Contains(Act.Finish) && !on.Any(d => d.Act == Act.Finish && d.At > worn))
        {
            return $"it is to be polished: that comes before {p.Name}";
        }

        if (p.Base == Under.Bare && wiped <= worn)
        {
            return $"{p.Name} wants it bare: wipe the panel first";
        }

        if (coat is not { TakenBy: null } there)
        {
            return null;
        }

        if (there.Kind.Id != p.Id)
        {
            return p.Base == Under.Bare
                ? $"{there.Kind.Name} of {Day(there.Last.At)} lies on it, and {p.Name} wants it bare: strip and wipe first"
                : null;
        }

        return there.Layers >= p.Layers
                ? $"{there.Layers} {(there.Layers == 1 ? "layer lies" : "layers lie")} there: more does not hold longer"
            : now < there.Last.At.AddHours(p.AgainHours)
                ? string.Create(
                    CultureInfo.InvariantCulture,
                    $"the next layer after {p.AgainHours:0.#} h: {there.Last.At.AddHours(p.AgainHours):HH:mm}"
                )
            : null;
    }

    /// <summary>Steps of a plan that take off what was put on: what, on which zones, and when it was put on.</summary>
    public static IReadOnlyList<string> Undoes(Plan plan, IEnumerable<(string Zone, CoatOn Coat)> coats)
    {
        var c = Catalogue.Default;
        var on = coats.Where(x => x.Coat.TakenBy is null).ToArray();
        return
        [
            .. plan
                .Steps.Where(s => c.FindTreatment(s.Treatment) is { } t && Strips(t))
                .SelectMany(s => on.Where(x => s.Zones.Contains(x.Zone)).Select(x => (Step: s.Name, x.Zone, x.Coat)))
                .GroupBy(x => (x.Coat.Kind.Id, x.Coat.Last.At.Date))
                .Select(g =>
                    $"{string.Join(" and ", g.Select(x => x.Step).Distinct())} would take off the {g.First().Coat.Kind.Name} put on {Day(g.First().Coat.Last.At)} "
                    + $"({ZoneWords.Of([.. g.Select(x => x.Zone).Distinct()], 60)}): put it on again afterwards, or ask for a plain wash."
                ),
        ];
    }

    /// <summary>What the hand does, as people call it.</summary>
    public static string Words(Act act) =>
        act switch
        {
            Act.Sand => "Local sanding",
            Act.TouchUp => "Touch-up",
            Act.Compound => "Compound",
            Act.Finish => "Finishing polish",
            Act.Wipe => "Panel wipe",
            Act.Protect => "Protection",
            _ => throw new ArgumentOutOfRangeException(nameof(act), act, "no such act"),
        };

    private static string? Lies(Left left, Under under) =>
        (left & (Left.Acid | Left.Alkali | Left.Reducer | Left.Solvent)) != 0 ? "product of the wash lies"
        : under == Under.Bare && (left & Left.Filler) != 0 ? "fillers of the wash or of a drying aid lie"
        : under == Under.Bare && (left & Left.Lubricant) != 0 ? "lubricant lies"
        : null;

    private static string Day(DateTimeOffset at) => at.ToString("d MMM yyyy", CultureInfo.InvariantCulture);
}
