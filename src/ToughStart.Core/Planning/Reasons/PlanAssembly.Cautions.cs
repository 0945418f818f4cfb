using System.Globalization;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Conditions;
using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;
using ToughStart.Core.Readiness;
using ToughStart.Core.Surfaces;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Planning;

/// <summary>What to mind: cautions of a step, warnings of the job, what closes it.</summary>
internal sealed partial class PlanAssembly
{
    /// <summary>Zones that will not have been proven when the plan is done: hidden kinds that nobody has tested.</summary>
    public IReadOnlyList<string> Unverified(Progress progress) =>
        states
            .Where(z =>
                z.Beliefs.Any(b =>
                    b.Basis == Basis.Hidden
                    && b.Probability >= c["worth-testing"]
                    && builder.TargetLevel(b.Kind.Index, z) > 0
                    && progress.Of(z.Zone.Id)?.Looked.Contains(b.Kind.Index) != true
                )
                || progress.Of(z.Zone.Id)?.AskAgain.Count > 0
            )
            .Select(z => z.Zone.Id)
            .ToArray();

    public IReadOnlyList<string> Warnings(IReadOnlyList<Step> steps)
    {
        var list = new List<string>();
        if (builder.WashMedium.Warning is { } wash)
        {
            list.Add(wash);
        }

        list.AddRange(SiteWarnings.Of(survey));
        if (states.Where(z => z.LeftAlone).Select(z => z.Zone.Id).ToArray() is { Length: > 0 } alone)
        {
            list.Add($"Left alone as asked: {ZoneWords.Of(alone)}. Cover what spray or run-off could reach.");
        }

        if (states.Where(z => z.Conditions is not null && !z.Cooled && z.PanelC > c["hot-panel"]).ToArray() is { Length: > 0 } hot)
        {
            list.Add(
                $"Too hot for chemistry: {hot.Length} zones above {c["hot-panel"]:0} °C, "
                    + $"{Limits.Words(hot.MaxBy(z => z.PanelC)!.Zone.Id)} at {hot.Max(z => z.PanelC):0} °C. Water only there: shade, "
                    + $"wait, or another start."
            );
        }

        if (states.Count(z => z.Cooled) is > 0 and var cooled)
        {
            list.Add(
                $"Hot paint: {cooled} panels at up to {states.Where(z => z.Cooled).Max(z => z.PanelC):0} °C. "
                    + $"Rinse each cool right before its chemistry; planned for panels so cooled."
            );
        }

        if (WrongHour(steps) is { } hour)
        {
            list.Add(hour);
        }

        list.AddRange(PaintCautions(states));
        if (PaintHue.HidesBleed(survey.Vehicle.Colour) && (steps.Any(s => s.Stage == Stage.Iron) || Bleeds()))
        {
            list.Add("Red or violet paint: the bleed is hard to see on it. Wipe with a white cloth, or let it run into a white tray.");
        }

        if (states.Where(z => z.GoalIn(survey) == Goal.Correct && !z.LeftAlone && NotMeasured(z)).ToArray() is { Length: > 0 } unread)
        {
            list.Add(
                $"Paint thickness before any correction: readings asked on {unread.Length} painted {(unread.Length == 1 ? "panel" : "panels")}, "
                    + $"{c["film-spots"]:0} spots each; none stands on record."
            );
        }

        if (steps.Any(s => s.Mix is { Calibrated: false }))
        {
            var l = LanceDraw.Uncalibrated;
            list.Add(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"Lance not calibrated: draw ratio {l.Ratio} taken, "
                        + $"the panel may get {l.Low / l.Ratio:0.#} to {l.High / l.Ratio:0.#} times the strength shown. "
                        + $"Time one bottle of water to calibrate."
                )
            );
        }

        if (AidUndoes is { Length: > 0 } bare)
        {
            list.Add(
                $"Dried without the drying aid, whatever the house does: it would lay fillers on {ZoneWords.Of(bare, 60)}, which "
                    + "correction or protection needs bare."
            );
        }

        if (StrongOnAssumed() is { Length: > 0 } assumed)
        {
            list.Add(
                $"Surface taken for granted on {assumed.Length} {(assumed.Length == 1 ? "zone that gets" : "zones that get")} strong chemistry "
                    + $"({ZoneWords.Of(assumed)}): look before it goes on."
            );
        }

        if (work.Where(w => !w.Solution.Proved).OrderByDescending(w => w.Solution.Cost - w.Solution.Bound).ToArray() is [var open, ..] all)
        {
            list.Add(
                string.Create(
                    System.Globalization.CultureInfo.InvariantCulture,
                    $"Not proved best on {all.Length} {(all.Length == 1 ? "zone" : "zones")}: "
                        + $"{Limits.Words(open.State.Zone.Id)} costs {open.Solution.Cost / 1000.0:0.#} min as found, "
                        + $"and no plan of it less than {open.Solution.Bound / 1000.0:0.#}."
                )
            );
        }

        return list;
    }

    /// <summary>Zones nobody has named the surface of, and that acid, caustic or solvent is planned on.</summary>
    private string[] StrongOnAssumed() =>
        [.. work.Where(w => w.State.SurfaceAssumed && w.Deeds.Any(d => d.Treatment.Agent.Axis.IsHarsh)).Select(w => w.State.Zone.Id)];

    /// <summary>Is a bleed to be looked for on paint?</summary>
    private bool Bleeds() =>
        states.Any(z =>
            z.Family == Family.Body && z[c.Contaminant("iron").Index] is { Basis: Basis.Hidden } b && b.Probability >= c["worth-testing"]
        );

    private bool NotMeasured(ZoneState z) =>
        z.Family == Family.Body && z.Zone.Area >= c["day-panel"] && z.Survey?.Condition.FilmUm is not { Count: > 0 };

    /// <summary>Where protection that was there has gone thin by the work, though the goal keeps it.</summary>
    private string[] Thinned() =>
        [
            .. work.Where(w =>
                    w.Problem.Keep is not null
                    && w.State[w.Problem.Protection].Basis == Basis.Found
                    && w.Deeds.Any(d =>
                        d.Slot.Stage == Stage.Spot
                        || Levels.LoadOf(d.After[w.Problem.Protection]) < Levels.LoadOf(d.Before[w.Problem.Protection])
                    )
                )
                .Select(w => w.State.Zone.Id),
        ];

    /// <summary>What is done before the first water.</summary>
    public IReadOnlyList<string> Opening()
    {
        var list = new List<string>
        {
            _vehicle.IsMotorcycle
                ? "Stand and pipes: on a stand on level ground; engine, pipes and brakes cold; exhaust end and air intake plugged, key out."
                : "Mirrors and windows: mirrors off auto-fold, windows and roof shut, wipers at rest, key away from the vehicle.",
        };
        var paint = work.Where(w => w.State.Family == Family.Body && w.Deeds.Count > 0).ToArray();
        if (
            paint.Any(w => w.State.SurfaceAssumed && w.State.Survey?.TestOf("colour") is null)
            && (
                paint.Any(w => w.Deeds.Any(d => d.Treatment.IsClay || d.Slot.Stage == Stage.Strip || d.Treatment.Agent.Axis.IsHarsh))
                || paint.Any(w => w.State.GoalIn(survey) == Goal.Correct)
                || paint.Any(w => w.State[c.Contaminant("oxidation").Index] is { Basis: Basis.Found, Load: > 0 })
            )
        )
        {
            list.Add(
                "Colour on the cloth: one light rub with a damp white cloth on a hidden painted edge. The paint's own colour means no clear coat: "
                    + "stop, say so in the survey, and the plan turns gentler."
            );
        }

        return list;
    }

    public IReadOnlyList<string> Closing()
    {
        var list = new List<string>();
        if (work.Any(w => w.State.Zone.Block == Block.Wheels && w.Deeds.Count > 0))
        {
            list.Add("Brake test at walking pace");
        }

        if (survey.Rule("tyres") is var finish && finish != "none")
        {
            list.Add($"Tyres {finish}: water-based dressing on the sidewall, none on the tread");
        }

        if (Thinned() is { Length: > 0 } thinned)
        {
            list.Add($"Protect again: {ZoneWords.Of(thinned)}. What was done there thins wax and sealant.");
        }

        list.Add("Mark etches, chips and scratches; recommended, bought or declined");
        if (survey.Goal.GoesOn)
        {
            list.Add("Touch, bleed and water checks done on every panel, else the zone stays unverified");
        }

        return list;
    }

    /// <summary>Paint too hot in the sun: when it would not be, by the same map of the day that its own page draws; null = this hour is as good.</summary>
    private string? WrongHour(IReadOnlyList<Step> steps)
    {
        if (
            states.FirstOrDefault(z => z.Conditions is { Sunny: true })?.Conditions is not { } now
            || !states.Any(z => z.PanelC > c["hot-panel"])
            || DayMap.StartsOf(survey, steps, now.Biases) is not { } day
        )
        {
            return null;
        }

        string Fits(double part) => string.Create(CultureInfo.InvariantCulture, $"{part * 100:0} % of the work");
        bool Better(DayStart? start) => start is not null && start.Fit - day.Now.Fit >= c["day-better"];
        string Start(DayStart start) =>
            string.Create(CultureInfo.InvariantCulture, $"{day.Midnight.AddMinutes(15 * start.Quarter):HH:mm} ({start.Fit * 100:0} %)");
        var hour = string.Create(
            CultureInfo.InvariantCulture,
            $"Not the hour for this: at {now.When:HH:mm} {Fits(day.Now.Fit)} keeps wet as long as it has to."
        );
        return Better(day.Best)
                ? $"{hour} Start at {Start(day.Best!)}"
                    + (day.Later != day.Best && Better(day.Later) ? $", or of what is left of the day at {Start(day.Later!)}" : "")
                    + ", or work in shade."
            : day.Now.Fit < c["day-fits"] ? $"{hour} No start of this day is better: work in shade, or another day."
            : null;
    }

    /// <param name="rolls">The vehicle is rolled on in this step.</param>
    private List<string> Cautions(Deed deed, (ZoneWork Work, Deed Deed)[] items, string? laid, SectionPlan? sections, bool rolls)
    {
        var t = deed.Treatment;
        var list = new List<string>();
        if (t.Agent.Bottle is { } bottle && builder.Limits.Bottle(t.Agent) is { Hazards.Count: > 0 } sheet)
        {
            list.Add(
                $"{bottle}: {string.Join("; ", sheet.Hazards.Select(h => c.Statements.First(s => s.Code == h).Words).Take(2))}. "
                    + $"Its label wins."
            );
        }

        if (items.Any(i => builder.Limits.HoldsOldDust(i.Work.State)))
        {
            list.Add(
                "Old brake dust may be asbestos: wet throughout, no lance, blower or dry brush; fitted respirator (FFP3 or P100); wipe, never "
                    + "rub dry; cloths bagged wet."
            );
        }

        if (Before(deed, items) is { } clash)
        {
            list.Add(clash);
        }

        if (t.Agent.Care.Length > 0)
        {
            list.Add(t.Agent.Care.Capital() + ".");
        }

        // A wheel or an arch has no wax to lose.
        if (t.Agent.Wax.Length > 0 && items.Any(i => i.Work.State.Family.IsWiped))
        {
            list.Add(t.Agent.Wax.Capital() + ".");
        }

        var film = laid ?? SiteConditions.CarrierOf(t.Agent);
        var windows = items
            .Select(i => (i.Work.State, Window: i.Work.State.Window(film)))
            .Where(x => x.Window is not null)
            .OrderBy(x => x.Window!.Value.FirstDry)
            .ToArray();
        if (t.Agent.Dwell > 0 && windows.Length > 0 && windows[0].Window is { } worst && worst.FirstDry < c["not-the-limit"])
        {
            list.Add(
                $"{Limits.Words(worst.Zone).Capital()} shows first dry spots "
                    + $"after {SiteConditions.Say(worst.FirstDry)}: rinse by "
                    + $"{SiteConditions.Say(worst.UsableSeconds)}{(sections is { Sections.Count: > 1 } ? $", in {sections.Sections.Count} sections" : "")}."
            );
            if (items.Max(i => i.Deed.Option.Mists) is > 0 and var mists)
            {
                list.Add(
                    $"Keep it wet: mist again every {SiteConditions.Say(worst.UsableSeconds)}, "
                        + $"at most {mists} {(mists == 1 ? "time" : "times")}; one person stays with it."
                );
            }

            if (film == "thick-foam")
            {
                list.Add("Thick foam: more air or a richer bottle, laid on in two passes; thin foam would be dry too soon here.");
            }

            // What follows the first rinse at once finds them cool, if that rinse was close before.
            if (windows.Any(x => x.State.Cooled) && items.All(i => i.Deed.Option.Cooling.Minutes <= 0))
            {
                list.Add(
                    $"Panels at up to {windows.Max(x => x.Window!.Value.PanelC):0} °C: rinse the body cool first, "
                        + $"never hot glass, discs or exhaust."
                );
            }
        }

        if (t.Agent.Dwell > 0 && t.Agent.Axis != Axis.None)
        {
            list.Add(
                survey.Rule("dryOut") == "rewet" ? "If it dried: re-wet, rinse, and count the round as not done."
                : list.Any(x => x.Contains("never let it dry", StringComparison.OrdinalIgnoreCase)) ? "Smaller sections where it would."
                : "Never let it dry: smaller sections."
            );
        }

        if (t.Agent.Id is "water" && t.WaterLitres > 0)
        {
            // Whoever rinses tyres has to aim at them: then the distance is what matters.
            var rubber = items.Where(i => i.Work.State.Family.IsRubber).ToArray();
            list.Add(
                rubber.Length == 0 ? "Lance never toward skin, tyres, seals, bearings or stickers."
                : rubber.Length == items.Length
                    ? $"Wide fan, rubber from {c.StandOffs.First(s => s.Id == "tyre").ReferenceCentimetres:0} cm; never toward skin or bearings."
                : $"Wide fan, rubber from {c.StandOffs.First(s => s.Id == "tyre").ReferenceCentimetres:0} cm; never toward skin, bearings or stickers."
            );
        }

        if (items.Any(i => i.Work.State.Family.IsByBrakes) && t.WaterLitres > 0)
        {
            list.Add("Brakes cold before wetting; nothing aimed at discs.");
        }

        if (rolls)
        {
            list.Add("Roll the vehicle half a turn of the wheel and do the arc it stood on; chock it again.");
        }

        if (t.Contact != Contact.None && !t.Agent.IsWater && items.Any(i => i.Work.State.Surface.Matte))
        {
            list.Add("Matte: only what is made for matte, without wax, gloss or fillers; no pressure, no second go on one spot.");
        }

        if (items.Any(i => i.Work.State.Zone.Top > c["ladder-from"]) && (t.In(Place.Wash) || t.In(Place.Clay)))
        {
            list.Add("Roof: platform or footed ladder, three points of contact, no over-reach.");
        }

        if (items.Any(i => i.Work.State.TestSpotPassed || i.Work.State.SurfaceId == "unknown") && !t.Agent.IsWater)
        {
            list.Add("Unknown or delicate surface: stop at any change of gloss or colour.");
        }

        if (t.IsClay)
        {
            if (builder.Limits.LubricantMix.Agent.Care is { Length: > 0 } care)
            {
                list.Add(care.Capital() + ".");
            }

            list.Add("Dropped bar: bin it. Dropped mitt: rinse it.");
            if (items.Any(i => i.Work.State.Family == Family.Body && i.Deed.Cost.Marring > 0))
            {
                list.Add(
                    items.All(i => i.Work.State.GoalIn(survey) == Goal.Correct)
                        ? "Clay marks paint a little, soft paint more: the correction that follows takes it out."
                        : "Clay marks paint a little, soft paint more, and no polish follows: one light pass, stop when it glides."
                );
            }
        }

        return list;
    }

    /// <summary>Does a brush go all round a tyre, of which a part stands on the ground?</summary>
    private bool Rolls(Treatment t, (ZoneWork Work, Deed Deed)[] items) =>
        !_vehicle.IsMotorcycle && t.Contact != Contact.None && items.Any(i => i.Work.State.Family == Family.Tyre);

    /// <summary>What went on before on the same zone and does not agree with this.</summary>
    private string? Before(Deed deed, (ZoneWork Work, Deed Deed)[] items)
    {
        var own = _matrix.GroupsOf(deed.Treatment.Agent);
        if (own.Count == 0)
        {
            return null;
        }

        var position = graph.Position(deed.Slot.Id);
        var worst = items
            .SelectMany(i => i.Work.Deeds)
            .Where(d => graph.Position(d.Slot.Id) < position && !d.Treatment.Agent.IsWater)
            .Select(d => d.Treatment.Agent)
            .DistinctBy(a => a.Id)
            .Select(a => (Agent: a, Met: _matrix.Meet(_matrix.GroupsOf(a), own)))
            .OrderByDescending(x => x.Met.Meeting)
            .FirstOrDefault();
        return worst.Agent is null || worst.Met.Meeting < Meeting.FullRinse
            ? null
            : $"After {worst.Agent.Name}: full rinse of panel and tools first ({worst.Met.Reason}).";
    }

    private static string[] Kit(Treatment t, Agent agent, Stage stage) =>
        [
            .. agent.Kit,
            .. stage.IsAtCorners ? new[] { "own wheel kit" } : [],
            .. t.Agent.IsWater && t.WaterLitres > 0 ? new[] { "eyes", "waterproofs" } : [],
        ];

    /// <summary>Where rinse water dries on first, what it leaves there, and whether to rinse with softened water last.</summary>
    private List<string> Spots(IReadOnlyList<WaterLeft> left)
    {
        var first = left.Where(w => _vehicle[w.Zone].Area >= c["section-least"]).Take(3).ToArray() is { Length: > 0 } large
            ? large
            : left.Take(3).ToArray();
        var lines = new List<string>
        {
            $"Water dries on first on the {string.Join(", then the ", first.Select(w => $"{Limits.Words(w.Zone)} ({SiteConditions.Say(w.Seconds)})"))}: dry in this order.",
        };
        if (survey.Site.WaterHardnessMgL is { } hardness)
        {
            var most = left.Where(w => w.Seconds < c["not-the-limit"]).MaxBy(w => w.ResidueMg)!;
            lines.Add(
                $"Left to dry, {most.FilmG:0} g/m² of this water leaves {most.ResidueMg:0.#} mg/m² of lime on the "
                    + $"{Limits.Words(most.Zone)}{(most.ResidueMg > c["residue-spots"] ? ", which shows" : ", which hardly shows")}."
            );
            if (WaterHardness.Advise(hardness) is { } advice && (advice.Soften || most.ResidueMg > c["residue-spots"]))
            {
                lines.Add(advice.Words);
            }
        }
        else
        {
            lines.Add("Hardness of the water not said: a strip tells what a dried drop leaves.");
        }

        return lines;
    }

    /// <summary>What film-thickness readings say: thin, not shown to be thick enough, or painted again.</summary>
    private static IEnumerable<string> PaintCautions(IReadOnlyList<ZoneState> states)
    {
        var c = Catalogue.Default;
        var films = states
            .Where(z => z.Survey?.Condition.FilmUm is { Count: > 0 })
            .ToDictionary(z => z.Zone.Id, z => FilmThickness.Of(z.Survey!.Condition.FilmUm));
        if (films.Count == 0)
        {
            yield break;
        }

        var thin = films.Where(f => f.Value.Thin || f.Value.ThinSpot).ToArray();
        if (thin.Length > 0)
        {
            yield return string.Create(
                CultureInfo.InvariantCulture,
                $"Thin paint on {Named(thin.Select(f => f.Key))}: a spot of {thin.Min(f => f.Value.Least):0} µm, "
                    + $"less than {c["film-thin"]:0}. Worked as soft paint: cloth for mesh, the finest clay; no correction without a "
                    + $"word with the client."
            );
        }

        var few = films.Where(f => !thin.Contains(f) && (f.Value.NotProven || f.Value.Count < c["film-spots"])).ToArray();
        if (few.Length > 0)
        {
            yield return $"Paint thickness not proven on {Named(few.Select(f => f.Key))}: measure {few.Max(f => f.Value.Needed)} spots on each, or treat it as thin.";
        }

        if (FilmThickness.RefinishedOf(films) is { Count: > 0 } refinished)
        {
            yield return $"Suspected refinish: {Named(refinished)}. Ask what was painted and when; test first, and the painter decides on anything that is fresh.";
        }

        if (
            films.Where(f => f.Value.Mixed && !f.Value.Refinish).Select(f => f.Key).Except(FilmThickness.RefinishedOf(films)).ToArray() is
            { Length: > 0 } mixed
        )
        {
            yield return $"Suspected spot repair on {Named(mixed)}: one spot is far from the rest. Find its edge before clay or strong chemistry.";
        }

        static string Named(IEnumerable<string> zones) => string.Join(", ", zones.Order(StringComparer.Ordinal).Select(Limits.Words));
    }
}
