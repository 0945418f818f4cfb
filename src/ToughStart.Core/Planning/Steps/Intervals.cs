using System.Globalization;
using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;
using ToughStart.Core.Readiness;

namespace ToughStart.Core.Planning;

/// <summary>When this vehicle should come again, and why.</summary>
/// <param name="Urgent">Marks that etch: what to do about them before the next visit.</param>
public sealed record IntervalAdvice(
    DateOnly Decontamination,
    IReadOnlyList<string> Why,
    IReadOnlyList<string> Protection,
    IReadOnlyList<string> Urgent
);

/// <summary>Dates for the next visit from durability, use, region and what was found.</summary>
public static class Intervals
{
    private static readonly string[] Etching = ["bird-dropping", "bug", "sap", "cement", "mineral"];

    /// <param name="day">The day of this visit.</param>
    public static IntervalAdvice Of(Survey survey, Plan plan, DateOnly day)
    {
        var c = Catalogue.Default;
        var (months, why) = (c["decon-months"], new List<string> { $"At least once in {c["decon-months"]:0} months." });
        void Shorter(double factor, string because)
        {
            if (factor < 1)
            {
                months *= factor;
                why.Add(string.Create(CultureInfo.InvariantCulture, $"{because}: × {factor:0.##}."));
            }
        }

        if (survey.History.Use == "track")
        {
            (months, why) = (c["decon-months-track"], [$"Track use: every {c["decon-months-track"]:0} months."]);
        }
        else
        {
            Shorter(
                survey.History.Use switch
                {
                    "motorway" or "towing" => c["decon-motorway"],
                    "farm" or "site" => c["decon-site"],
                    _ => 1,
                },
                $"Use: {survey.History.Use}"
            );
        }

        Shorter(
            survey.History.Region switch
            {
                "rail" or "industrial" => c["decon-industry"],
                "coast" => c["decon-coast"],
                _ => 1,
            },
            $"Region: {survey.History.Region}"
        );
        var heavy = survey.Zones.Count(z => z.FindingOf("iron") is { Grade: >= 3 });
        Shorter(heavy > 0 ? c["decon-heavy"] : 1, $"Heavy iron fallout on {heavy} {(heavy == 1 ? "zone" : "zones")} this time");
        return new(day.AddDays((int)Math.Round(months * c["month-days"])), why, Held(survey, day, c), Urgent(survey, plan, c));
    }

    private static List<string> Held(Survey survey, DateOnly day, Catalogue c)
    {
        var list = new List<string>();
        static string At(DateOnly d) => d.ToString("MMMM yyyy", CultureInfo.InvariantCulture);
        if (survey.Goal.GoesOn)
        {
            list.AddRange(
                c.Protections.Where(d => d.On.Contains(Family.Body) && d.High >= 2)
                    .Select(d => $"{Upper(d.Name)}, if put on now: renew by {At(day.AddDays((int)(d.Low * c["month-days"])))}.")
            );
            return list;
        }

        foreach (
            var g in survey.Zones.Where(z => z.Protection is not null and not ("none" or "unknown")).GroupBy(z => (z.Protection, z.Water))
        )
        {
            var d = c.Protections.First(x => x.Covers == g.Key.Protection);
            list.Add(
                g.Key.Water switch
                {
                    "flat" => $"{Upper(g.Key.Protection!)} on {g.Count()} {Zones(g.Count())}: gone. Protect anew at the next visit.",
                    // Stripping what is nearly gone costs more than it is worth; a new layer wants a clean start anyway.
                    "sheets" => $"{Upper(g.Key.Protection!)} on {g.Count()} {Zones(g.Count())}: nearly gone. Leave it to fade, "
                        + $"and protect after the next decontamination.",
                    _ => $"{Upper(g.Key.Protection!)} on {g.Count()} {Zones(g.Count())}: holds; {d.Name} lasts {Span(d)}. "
                        + $"Look at the water at every wash.",
                }
            );
        }

        if (survey.History.CoatedMonths is { } age && c.Protections.First(x => x.Covers == "coating") is var coat)
        {
            list.Add(
                age >= coat.High
                    ? $"Coated {age:0} months ago: past what a light ceramic lasts. Test the water."
                    : $"Coated {age:0} months ago: renew by {At(day.AddDays((int)((coat.High - age) * c["month-days"])))}."
            );
        }

        return list.Count > 0 ? list : ["No protection known: the water test tells; until then wash neutral."];
    }

    private static List<string> Urgent(Survey survey, Plan plan, Catalogue c)
    {
        var list = new List<string>();
        foreach (var kind in Etching)
        {
            var zones = survey.Zones.Where(z => z.FindingOf(kind) is { Grade: > 0 }).Select(z => z.Zone).ToArray();
            if (zones.Length == 0)
            {
                continue;
            }

            var name = c.Contaminant(kind).Name;
            var stays = plan.Refer.Where(r => r.What == kind).SelectMany(r => r.Zones).Distinct().Count();
            var fresh = survey.Zones.Any(z => z.FindingOf(kind) is { Grade: > 0, Age: "fresh" or "days" });
            if (stays > 0)
            {
                list.Add($"{name}: stays on {stays} {Zones(stays)}. It goes on etching: within days, not at the next visit.");
            }
            else if (fresh && kind is "bird-dropping" or "bug")
            {
                list.Add($"{name}: etches within hours to days. Show the client how to soak and lift it at once.");
            }
        }

        return list;
    }

    private static string Zones(int n) => n == 1 ? "zone" : "zones";

    private static string Span(Protection d) =>
        d.Low == d.High
            ? string.Create(CultureInfo.InvariantCulture, $"{d.Low:0.#} months")
            : string.Create(CultureInfo.InvariantCulture, $"{d.Low:0.#} to {d.High:0.#} months");

    private static string Upper(string s) => s.Capital();
}
