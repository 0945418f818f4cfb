using ToughStart.Core.Chemistry;
using ToughStart.Core.Conditions;
using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Planning;

/// <summary>Why each step, skip and refusal, and what stays beyond the plan.</summary>
internal sealed partial class PlanAssembly
{
    public IReadOnlyList<Skipped> Skipped()
    {
        var lines = new List<(Stage Stage, string Reason, string Zone)>();
        foreach (var w in work)
        {
            foreach (var (slot, kinds) in Explained)
            {
                if (!_bySlot[w.State.Zone.Id].ContainsKey(c.Slot(slot)) && WhySkipped(slot, kinds, w) is { } reason)
                {
                    lines.Add((c.Slot(slot).Stage, reason, w.State.Zone.Id));
                }
            }
        }

        return lines
            .GroupBy(l => (l.Stage, l.Reason))
            .Select(g => new Skipped(g.Key.Stage, g.Select(l => l.Zone).ToArray(), g.Key.Reason))
            .OrderBy(s => c.Slots.First(x => x.Stage == s.Stage).Index)
            .ThenBy(s => s.Reason, StringComparer.Ordinal)
            .ToArray();
    }

    public IReadOnlyList<RefusedGroup> Refused(List<Refused> refusals) =>
        refusals
            .GroupBy(r => (r.Treatment, r.Objection.Line, Missed: IsMissed(c.Treatment(r.Treatment), r.Zone)))
            .Select(g => new RefusedGroup(
                g.Key.Treatment,
                g.Select(r => r.Zone).Distinct().ToArray(),
                g.Key.Line.Say(g.Select(r => r.Objection.Subject))
                    + WouldHelp(c.Treatment(g.Key.Treatment), g.Key.Line.Cause, g.Select(r => r.Zone)),
                g.Key.Line.Id
            )
            {
                Missed = g.Key.Missed,
            })
            .OrderByDescending(g => g.Missed)
            .ThenBy(g => c.Treatment(g.Treatment).Index)
            .ThenBy(g => g.Reason, StringComparer.Ordinal)
            .ToArray();

    /// <summary>Does a zone stay short of its target on something that a treatment would take?</summary>
    private bool IsMissed(Treatment t, string zone) =>
        work.First(w => w.State.Zone.Id == zone) is var w
        && t.Removes.Any(r =>
            r.Kind != Kinds.Residue
            && r.Decades >= c["works-from"]
            && Asked(w, r.Kind) - w.Final[r.Kind] > c["shortfall-refer"] * Levels.PerDecade
        );

    /// <summary>
    /// What would make it available where drying forbids it: computed on its tightest zone, and another agent that does the same work.
    /// </summary>
    private string WouldHelp(Treatment t, Cause cause, IEnumerable<string> zones)
    {
        if (cause == Cause.HotPanel)
        {
            return Cooler(zones);
        }

        if (cause != Cause.DriesTooSoon || SiteConditions.CarrierOf(t.Agent) is not { } film)
        {
            return "";
        }

        var z = zones.Select(id => states.First(s => s.Zone.Id == id)).MinBy(s => s.Window(film)!.Value.FirstDry)!;
        var remedies = Remedies.For(
            survey,
            z.Conditions!,
            z.Zone,
            z.Family,
            film,
            t.Agent.Dwell * 60,
            builder.Speed,
            survey.Shelf is null || c.Agents.Any(a => a.Vessel == "lance"),
            At
        );
        // Residue is made by the work and not found on arrival: it is nobody's reason to look for another agent.
        var kinds = t.Removes.Select(r => r.Kind).Where(k => k != Kinds.Residue && z[k] is { Load: > 0 }).ToArray();
        var other = kinds.Length == 0 ? null : builder.Instead(t, z, kinds);
        var there = SiteConditions.Say(z.Window(film)!.Value.FirstDry);
        return $" ({Limits.Words(z.Zone.Id)}: {there} of the {SiteConditions.Say(t.Agent.Dwell * 60)} asked). "
            + $"{Remedies.Say(remedies).Capital()}{(other is null ? "" : $"; or {other} instead")}";
    }

    /// <summary>When the hottest of them comes below the limit by itself, and what shade makes of it.</summary>
    private string Cooler(IEnumerable<string> zones)
    {
        var hottest = zones.Select(id => states.First(s => s.Zone.Id == id)).MaxBy(z => z.PanelC)!;
        if (hottest.Conditions is not { } now)
        {
            return "";
        }

        double Then(SiteConditions there) => there.Balance(hottest.Zone, hottest.Family, hottest.Reading, false).Now;
        var said = $" ({Limits.Words(hottest.Zone.Id)} {hottest.PanelC:0} °C";
        if (now.Sunny && hottest.Reading is null)
        {
            said += $"; {Then(now.InShade()):0} °C in shade";
        }

        if (
            hottest.Reading is null
            && Enumerable
                .Range(1, (int)c["work-to"])
                .Select(h => now.When.AddHours(h))
                .TakeWhile(t => t.Date == now.When.Date && t.Hour <= c["work-to"])
                .FirstOrDefault(t => At(t) is { } there && Then(there) <= c["hot-panel"])
                is var later
            && later != default
        )
        {
            said += string.Create(System.Globalization.CultureInfo.InvariantCulture, $"; below {c["hot-panel"]:0} °C by {later:HH:mm}");
        }

        return said + ")";
    }

    public IReadOnlyList<Refer> Refer(List<Refused> refusals)
    {
        var lines = new List<(string What, string Reason, string Zone)>();
        foreach (var w in work)
        {
            for (var k = 0; k < Kinds.Count; k++)
            {
                var shortBy = (Asked(w, k) - w.Final[k]) / (double)Levels.PerDecade;
                if (shortBy > c["shortfall-refer"] + 1e-9)
                {
                    var name = k == Kinds.Residue ? "residue" : c.Contaminants[k].Name.ToLowerInvariant();
                    lines.Add(
                        (
                            k == Kinds.Residue ? "residue" : c.Contaminants[k].Id,
                            $"{name} stays at {Levels.LoadOf(w.Final[k]):0.00} against {Levels.LoadOf(Asked(w, k)):0.00}: "
                                + $"{Beyond(k, w.State, refusals)}",
                            w.State.Zone.Id
                        )
                    );
                }
            }

            foreach (var d in (w.State.Survey?.Condition.Damage ?? []).OrderBy(d => d.Kind, StringComparer.Ordinal))
            {
                lines.Add(
                    (
                        d.Kind,
                        d.Decision switch
                        {
                            "recommended" => "damage, not dirt: repair recommended",
                            "bought" => "damage, not dirt: repair bought, after the wash",
                            "declined" => "damage, not dirt: repair declined by the client",
                            _ when survey.Goal == Goal.Sale && d.Kind is ("scratch" or "swirl" or "etch" or "failed-lens") =>
                                "damage, not dirt: sanding and polishing are no part of a sale tidy-up, declined",
                            _ => "damage, not dirt: recorded for the inspection list",
                        },
                        w.State.Zone.Id
                    )
                );
            }

            var oxidation = w.State[c.Contaminant("oxidation").Index];
            if (oxidation.Basis == Basis.Found)
            {
                lines.Add(("oxidation", "chalked paint is not dirt: recorded, for correction", w.State.Zone.Id));
            }
        }

        return lines
            .GroupBy(l => (l.What, l.Reason))
            .Select(g => new Refer(g.Select(l => l.Zone).ToArray(), g.Key.What, g.Key.Reason))
            .ToArray();
    }

    private string? WhySkipped(Place slot, string[] kinds, ZoneWork w)
    {
        var z = w.State;
        var treatments = c.Treatments.Where(t => t.In(slot)).ToArray();
        if (!treatments.Any(t => t.SuitsFamily(z.Family)))
        {
            return slot == Place.Clay && z.Family == Family.Trim ? "clay never goes on textured plastic" : null;
        }

        var ids = kinds.Select(k => c.Contaminant(k)).Where(k => k.CanSitOn(z.Family)).ToArray();
        if (ids.Length == 0)
        {
            return null;
        }

        if (slot == Place.Strip && w.Problem.Keep is not null)
        {
            return "the goal keeps the old protection";
        }

        if (z.LeftAlone)
        {
            return "left alone, as asked";
        }

        if (ids.All(k => w.Problem.Target[k.Index] == 0))
        {
            return $"not asked for by the goal {z.GoalIn(survey)}";
        }

        if (ids.FirstOrDefault(k => w.Problem.Start[k.Index] < Levels.Nil) is { } there)
        {
            var judged = treatments.Where(t => t.SuitsFamily(z.Family)).Select(t => builder.Limits.Judge(t, z)).ToArray();
            return judged.All(v => !v.Allowed) ? judged[0].Objection!.Words
                : slot == Place.Acid
                    ? w.Final[there.Index] >= w.Problem.Target[there.Index] - 2 ? "non-acid work is enough"
                        : "acid would do more harm than the rest is worth"
                : w.Final[there.Index] >= w.Problem.Target[there.Index] - 2 ? $"{there.Name.ToLowerInvariant()}: home without it"
                : $"{there.Name.ToLowerInvariant()}: what is left does not repay it";
        }

        if (ids.Any(k => z[k.Index].Basis == Basis.Hidden && z[k.Index].Probability >= c["worth-testing"]))
        {
            return "not looked: test first";
        }

        return slot == Place.Clay && ids.Any(k => z[k.Index].Basis == Basis.LookedNone) ? "smooth: clay would only mark it"
            : ids.Any(k => z[k.Index].Basis == Basis.LookedNone) ? "looked, none found"
            : null;
    }

    private string Beyond(int kind, ZoneState z, List<Refused> refusals) =>
        kind == Kinds.Residue ? "one more wash"
        : refusals.FirstOrDefault(r =>
            r.Zone == z.Zone.Id && r.Objection.Cause == Cause.Declined && c.Treatment(r.Treatment).Removes.Any(x => x.Kind == kind)
        )
            is { } declined
            ? $"{c.Treatment(declined.Treatment).Name} {declined.Objection.Words}"
        : builder
            .Scarce.Select(c.Agent)
            .FirstOrDefault(a =>
                c.Treatments.Any(t =>
                    t.Agent == a && t.SuitsFamily(z.Family) && t.Removes.Any(r => r.Kind == kind) && builder.Limits.Judge(t, z).Allowed
                )
            )
            is { } few
            ? $"{few.Name} runs short, and what there is saves more elsewhere: buy or borrow"
        : c.Contaminants[kind].Id switch
        {
            "mineral" => "buff or polish, or live with it",
            "iron"
                when builder.Limits.Judge(c.Treatment("wheel-acid"), z) is { Objection: { } acid }
                    && z.Family == Family.Wheel
                    && _bySlot[z.Zone.Id].ContainsKey(c.Slot(Place.Iron)) =>
                $"four rounds done, the rest stays or is polished off ({acid.Words})",
            _ => refusals.FirstOrDefault(r =>
                r.Zone == z.Zone.Id && c.Treatment(r.Treatment) is var t && t.Agent.Id != "tfr" && t.Removes.Any(x => x.Kind == kind)
            )
                is { } refused
                ? $"as far as it goes here ({refused.Objection.Words})"
            : Unrepaid(kind, z) is { } way
                ? z.Zone.Area < c["on-the-way"]
                        ? $"so small a part that {way} does not repay a step of its own: wipe it by hand on the way past"
                    : $"so little is left that {way} for it does not repay the work; ask for it by a finding of more"
            : "as far as it goes here; polishing or replacing is beyond this plan",
        };

    /// <summary>A way to take more of a kind that is to be had on a zone and was left out; null = there is none.</summary>
    private string? Unrepaid(int kind, ZoneState z) =>
        c
            .Treatments.FirstOrDefault(t =>
                t.SuitsFamily(z.Family)
                && t.Removes.Any(r => r.Kind == kind && r.Decades >= c["works-from"] && Levels.Of(r.Floor) >= builder.TargetLevel(kind, z))
                && builder.Limits.Judge(t, z).Allowed
                && work.First(w => w.State.Zone.Id == z.Zone.Id).Deeds.All(d => d.Treatment.Id != t.Id)
            )
            ?.Name;

    private static int Asked(ZoneWork w, int kind) => (w.Problem.Asked ?? w.Problem.Target)[kind];

    private List<string> Why(Deed deed, Stage stage, (ZoneWork Work, Deed Deed)[] items, Answer[] answers)
    {
        var why = new List<string>();
        // Protection that goes along is no reason, unless it is the only one.
        var told = answers.Where(a => a.Contaminant != "old-protection" || stage == Stage.Strip || stage == Stage.Wipe).ToArray();
        var main = (told.Length > 0 ? told : answers)
            .GroupBy(a => a.Contaminant)
            .Select(g =>
                (
                    Kind: c.Contaminant(g.Key),
                    From: g.Max(a => a.Before),
                    To: g.Max(a => a.After),
                    Gain: g.Sum(a => Math.Log10(Math.Max(a.Before, 0.001) / Math.Max(a.After, 0.001))),
                    Zones: g.Count()
                )
            )
            // What nobody saw before and nobody sees after is told only where there is nothing else to tell.
            .OrderByDescending(x => LoadWords.GradeOf(x.From) > 0)
            .ThenByDescending(x => x.Gain)
            .Take(2)
            .ToArray();
        foreach (var m in main.Where((m, i) => i == 0 || LoadWords.GradeOf(m.From) > 0))
        {
            var (from, to) = (LoadWords.Of(m.From), LoadWords.Of(m.To));
            why.Add(
                $"{m.Kind.Name} on "
                    + $"{(m.Zones == 1 ? Limits.Words(answers.First(a => a.Contaminant == m.Kind.Id).Zone) : m.Zones + " zones")}: "
                    + (from == to ? $"{from}, {LoadWords.Change(m.From, m.To, "down", "up")}." : $"{from} to {to}.")
            );
        }

        if (main.Length == 0 && answers.Length == 0)
        {
            why.Add("Takes off what the chemistry before it left behind.");
        }

        if (deed.Slot.Reason.Length > 0 && Follows(deed, items))
        {
            why.Add(deed.Slot.Reason.Capital() + ".");
        }

        var rule = graph.Edges.FirstOrDefault(e => e.To == deed.Slot.Id && e.Rule is not null);
        if (rule is not null)
        {
            why.Add($"{rule.Rule}: {rule.Reason}.");
        }

        if (deed.Treatment.Agent.Strengths.Count > 1)
        {
            why.Add(
                deed.StrengthIndex == 0
                    ? "Weakest label strength is enough."
                    : $"Weaker than {deed.Strength} costs more in all: rounds, set-up or what stays."
            );
        }

        foreach (var condition in items.SelectMany(i => i.Deed.Option.Conditions).Distinct().Take(4))
        {
            why.Add(condition.Capital() + ".");
        }

        return why;
    }

    /// <summary>
    /// Has any zone of the step work in a place that this one comes after for a reason? Else the reason explains nothing here.
    /// </summary>
    private bool Follows(Deed deed, (ZoneWork Work, Deed Deed)[] items) =>
        items.Any(i => deed.Slot.After.Any(a => _bySlot[i.Work.State.Zone.Id].ContainsKey(c.Slot(a))));

    /// <summary>A load in the word of the grade it is nearest to.</summary>
}
