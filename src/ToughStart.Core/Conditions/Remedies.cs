using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Conditions;

/// <summary>Something that would keep a panel wet for longer, and what it gives.</summary>
/// <param name="What">In words: "shade", "start at 06:30".</param>
/// <param name="FirstDry">Seconds to the first dry spots with it.</param>
/// <param name="Enough">Is that enough for the dwell asked?</param>
public sealed record Remedy(string What, double FirstDry, bool Enough);

/// <summary>
/// What would help where a film dries too soon, each computed by the same model: shade, water first, another film, smaller pieces,
/// another hour.
/// </summary>
public static class Remedies
{
    /// <summary>Remedies for one zone and carrier, those that are enough first.</summary>
    /// <param name="dwell">Seconds asked of it.</param>
    /// <param name="lance">Foam can be laid thicker, or over a spray.</param>
    public static IReadOnlyList<Remedy> For(
        Survey survey,
        SiteConditions now,
        Zone zone,
        Family family,
        string carrier,
        double dwell,
        CrewSpeed speed,
        bool lance,
        Func<DateTimeOffset, SiteConditions?> at
    )
    {
        var c = Catalogue.Default;
        var list = new List<Remedy>();
        var piece = Math.Min(zone.Area, Sections.LeastPiece);
        bool Enough(double dry, double area, SiteConditions where) => dry * where.SafePart(zone.Id) - speed.Reserve(area) >= dwell - 1e-6;
        var asItIs = now.FirstDry(zone, family, null, carrier);
        void Try(string what, double dry, SiteConditions where)
        {
            if (dry > asItIs * c["remedy-worth"])
            {
                list.Add(new(what, dry, Enough(dry, piece, where)));
            }
        }

        if (now.Sunny)
        {
            var shade = now.InShade();
            Try("shade", shade.FirstDry(zone, family, null, carrier), shade);
        }

        if (family == Family.Body && survey.Site.Water is not "none")
        {
            Try("rinsed cool first", WetWindow.Fast(now.Balance(zone, family, null, true), now.Film(carrier)).FirstDry, now);
        }

        foreach (
            var (id, name) in carrier == "spray"
                ? (IReadOnlyList<(string, string)>)[("foam-over-spray", "sealed under foam"), ("gel", "a gel")]
                : [("thick-foam", "thicker foam"), ("gel", "a gel")]
        )
        {
            if (id != carrier && (lance || id == "gel"))
            {
                Try(name, now.FirstDry(zone, family, null, id), now);
            }
        }

        var quarter = c["section-quarter"];
        if (piece > quarter && !Enough(asItIs, piece, now) && Enough(asItIs, quarter, now))
        {
            list.Add(new(string.Create(System.Globalization.CultureInfo.InvariantCulture, $"pieces of {quarter:0.##} m²"), asItIs, true));
        }

        if (survey.Site.Place != "indoors" && Hour(now, dry => Enough(dry, piece, now), zone, family, carrier, at) is { } hour)
        {
            Try(string.Create(System.Globalization.CultureInfo.InvariantCulture, $"start at {hour.When:HH:mm}"), hour.Dry, now);
        }

        return [.. list.OrderByDescending(r => r.Enough).ThenByDescending(r => r.FirstDry)];
    }

    /// <summary>The nearest hour of the working day that is enough; else the best one.</summary>
    private static (DateTimeOffset When, double Dry)? Hour(
        SiteConditions now,
        Func<double, bool> enough,
        Zone zone,
        Family family,
        string carrier,
        Func<DateTimeOffset, SiteConditions?> at
    )
    {
        var midnight = new DateTimeOffset(now.When.Date, now.When.Offset);
        var hours = Enumerable
            .Range((int)Catalogue.Default["work-from"], (int)(Catalogue.Default["work-to"] - Catalogue.Default["work-from"]) + 1)
            .Select(h => midnight.AddHours(h))
            .Select(t => (When: t, There: at(t)))
            .Where(x => x.There is { Bar: null })
            .Select(x => (x.When, Dry: x.There!.FirstDry(zone, family, null, carrier)))
            .ToArray();
        var good = hours.Where(h => enough(h.Dry)).OrderBy(h => Math.Abs((h.When - now.When).TotalMinutes)).ToArray();
        return good.Length > 0 ? good[0]
            : hours.Length > 0 ? hours.MaxBy(h => h.Dry)
            : null;
    }

    /// <summary>The remedies in one sentence.</summary>
    public static string Say(IReadOnlyList<Remedy> remedies) =>
        remedies.Count == 0 ? "nothing here helps: indoors, or another agent"
        : remedies.Any(r => r.Enough)
            ? $"enough: {string.Join(", ", remedies.Where(r => r.Enough).Take(4).Select(r => $"{r.What} ({Short(r)})"))}"
        : $"helps, but not enough: {string.Join(", ", remedies.Take(3).Select(r => $"{r.What} ({Short(r)})"))}";

    private static string Short(Remedy r) =>
        r.FirstDry >= Catalogue.Default["not-the-limit"]
            ? $"over {Catalogue.Default["not-the-limit"] / 60:0} min"
            : SiteConditions.Say(r.FirstDry);
}
