using System.Text;
using ToughStart.Core.Planning;
using Range = ToughStart.Core.Planning.Range;

namespace ToughStart.Core.Formats;

/// <summary>A plan as text.</summary>
public static class PlanText
{
    /// <summary>The plan for a terminal, 100 columns.</summary>
    public static string Of(Plan p, Survey survey)
    {
        var s = new StringBuilder();
        s.AppendLine(
            $"Goal: {p.Goal}. Film {p.FilmC:0} °C assumed, drying "
                + $"{p.Drying}{(p.Conditions.Count > 0 ? $" for {string.Join("; ", p.Conditions)}" : "")}."
                + (p.Proved ? " The work planned is proved best on every zone." : " Not every zone proved.")
                + (p.Proof is null ? "" : $" {p.Proof.Words.Capital()}.")
        );
        if (p.ReferOnly)
        {
            s.AppendLine("REFER ONLY: no step is planned.");
        }

        foreach (var undone in p.LeftUndone)
        {
            s.AppendLine($"LEFT UNDONE: {undone.Words} {undone.WayOut} ({Zones(undone.Zones)})");
        }

        foreach (var line in p.Opening)
        {
            s.AppendLine($"BEFORE WATER: {Wrap(line, 14)}");
        }

        var n = 0;
        foreach (var step in p.Steps)
        {
            s.AppendLine();
            s.AppendLine(
                $"{++n, 2}. {step.Name}{(step.AgentName is "water" or "none" ? "" : $" · {step.AgentName} {step.Strength}")} · "
                    + $"{step.Times}{Stays(step)}   [{step.Stage}]"
            );
            s.AppendLine($"    zones: {Wrap(string.Join(", ", step.Zones), 11)}");
            if (step.Cool is { } cool)
            {
                s.AppendLine($"    cool: {Wrap(cool.Words, 10)}");
            }

            if (step.Mix is { } m)
            {
                s.AppendLine($"    mix: {Poured(m)}");
            }

            s.AppendLine($"    with: {step.Tool} · kit: {Chemistry.ProtectiveKit.Say(step.Kit)}");
            s.AppendLine($"    why: {Wrap(string.Join(' ', step.Why), 9)}");
            if (step.Until is { } u)
            {
                s.AppendLine(
                    $"    until {string.Join(" or ", u.Stop.Select(w => Observables.Say(step.Stage, w)))}; "
                        + $"again on {string.Join(", ", u.Repeat.Select(w => Observables.Say(step.Stage, w)))}, "
                        + $"at most {u.MaxRounds}. {u.Then}"
                );
            }

            foreach (var caution in step.Cautions)
            {
                s.AppendLine($"    ! {caution}");
            }

            foreach (var part in step.Sections is { Sections.Count: > 1 } cut ? cut.Sections : [])
            {
                s.AppendLine($"    section: {part.Words} ({Math.Ceiling(part.Seconds / 60):0} min)");
            }

            foreach (var why in step.Sections?.Why ?? [])
            {
                s.AppendLine($"    sections: {why}");
            }

            s.AppendLine($"    {step.LabourMinutes:0} min hands-on, {step.WaitMinutes:0} min dwell, {step.WaterLitres:0} l water");
        }

        Section(s, "Tests", p.Tests.Select(t => $"{t.Test} ({t.When}; {t.Zones.Count} zones, chance {t.Probability:0%}): {t.Changes}"));
        Section(s, "Skipped", p.Skipped.Select(k => $"{k.Stage}: {k.Reason} ({Zones(k.Zones)})"));
        Section(s, "Refused", p.Refused.Where(k => k.Missed).Select(k => $"{k.Treatment}: {k.Reason} ({Zones(k.Zones)})"));
        Section(s, "Refer", p.Refer.Select(k => $"{k.What}: {k.Reason} ({Zones(k.Zones)})"));
        Section(
            s,
            "Media",
            p.Media.Select(m =>
                $"{m.Pieces} × {m.Name} ({(m.Kit == "own" ? "used for nothing else" : m.Kit + " only")}): {m.Rule}; then {m.After}"
            )
        );
        Section(s, "Buy or borrow", (p.Buy ?? []).Select(b => b.Words));
        Section(s, "Warnings", p.Warnings);
        Section(s, "For the client", ClientNote.Of(survey, p).Select(l => l.Words));
        if (!p.ReferOnly)
        {
            s.AppendLine();
            s.AppendLine(
                $"hands-on {Show(p.Totals.LabourMinutes)} min · elapsed {Show(p.Totals.ElapsedMinutes)} min · water "
                    + $"{Show(p.Totals.WaterLitres)} l · products {Show(p.Totals.ProductTotalMl)} ml · price {Show(p.Totals.Money)}"
            );
        }

        return s.ToString();
    }

    /// <summary>What is poured into what, as a person would measure it.</summary>
    private static string Poured(Mix m)
    {
        var total = m.ProductMl + m.WaterMl;
        var amounts =
            m.WaterMl < 0.5 ? $"{m.ProductMl:0} ml neat, {(m.Vessel is "cloth" or "brush" ? "on" : "in")} the {m.Vessel}"
            : total >= 1000 ? $"{m.ProductMl:0} ml product, water to {total / 1000:0.#} l, in the {m.Vessel} ({m.InVessel})"
            : $"{m.ProductMl:0} ml product, water to {total:0} ml, in the {m.Vessel} ({m.InVessel})";
        return amounts
            + (m.Calibrated ? "" : $", uncalibrated: panel gets {m.OnPanelLow * 100:0.#}–{m.OnPanelHigh * 100:0.#} %")
            + (m.Leftover is { } rest ? $"; first use up {rest.Ml:0} ml in {rest.Bottle}" : "");
    }

    public static string Show(Range r) => $"{r.Low:0} – {r.Expected:0} – {r.High:0}";

    private static string Stays(Step step) =>
        step.Under ? " · left wet for foam"
        : step.DwellMinutes <= 0 ? ""
        : $" · dwell {step.DwellMinutes:0.#} min{(step.Over is null ? "" : ", over the wet spray")}";

    private static string Zones(IReadOnlyList<string> zones) =>
        zones.Count <= 4 ? string.Join(", ", zones) : $"{zones[0]}, {zones[1]} and {zones.Count - 2} more";

    private static void Section(StringBuilder s, string title, IEnumerable<string> lines)
    {
        var all = lines.ToArray();
        if (all.Length > 0)
        {
            s.AppendLine().AppendLine(title);
            foreach (var line in all)
            {
                s.AppendLine("  - " + Wrap(line, 4));
            }
        }
    }

    private static string Wrap(string text, int indent)
    {
        var s = new StringBuilder();
        var column = indent;
        foreach (var word in text.Split(' '))
        {
            if (column + word.Length > 100)
            {
                s.AppendLine().Append(' ', indent);
                column = indent;
            }

            s.Append(word).Append(' ');
            column += word.Length + 1;
        }

        return s.ToString().TrimEnd();
    }
}
