using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Formats;

/// <summary>What the shop chose for this job: house rules, leaning and refusals.</summary>
internal static class JobPart
{
    /// <summary>The house rules that are said, each under its id.</summary>
    public static Part<IReadOnlyDictionary<string, string>> House { get; } = MakeHouse();

    public static Part<Leaning> Lean { get; } =
        new Part<Leaning>(v => new(v.Get("harm", Leaning.None.Harm), v.Get("time", Leaning.None.Time), v.Get("money", Leaning.None.Money)))
            .Called("Leaning")
            .Or("harm", Times, l => l.Harm)
            .Or("time", Times, l => l.Time)
            .Or("money", Times, l => l.Money);

    private static Holds<double> Times => Hold.Number(Leaning.Least, Leaning.Most, unit: "times its ordinary weight");

    private static readonly Part<Decline> DeclinePart = new Part<Decline>(v =>
        new(v.Text("treatment"), v.Get<Stage?>("stage", null), [.. v.Texts("zones").Distinct().Order(StringComparer.Ordinal)])
    )
        .Called("Decline")
        .MayBe("treatment", Hold.OneOf([.. Catalogue.Default.Treatments.Select(t => t.Id)]), d => d.Treatment)
        .MayBe("stage", Hold.Term(Stage.Refusable), d => d.Stage)
        .Any("zones", Hold.ListOf(ZonePart.OfTheVehicle), d => d.Zones)
        .Check(
            (j, v, path) =>
            {
                if (v.Has("treatment") == v.Has("stage"))
                {
                    j.Fail(path, "names one treatment or one stage");
                }
            }
        );

    /// <summary>Refused suggestions, in order, each once.</summary>
    public static Holds<IReadOnlyList<Decline>> Declines { get; } =
        Hold.ListOf(DeclinePart.One)
            .In(all =>
                all.DistinctBy(d => (d.Treatment, d.Stage, string.Join(' ', d.Zones)))
                    .OrderBy(d => d.Stage?.Word, StringComparer.Ordinal)
                    .ThenBy(d => d.Treatment, StringComparer.Ordinal)
                    .ThenBy(d => string.Join(' ', d.Zones), StringComparer.Ordinal)
            );

    private static Part<IReadOnlyDictionary<string, string>> MakeHouse()
    {
        var part = new Part<IReadOnlyDictionary<string, string>>(v =>
            HouseRules.All.Where(r => v.Has(r.Id)).ToDictionary(r => r.Id, r => v.Get<string>(r.Id))
        ).Called("House");
        foreach (var rule in HouseRules.All)
        {
            var values = rule.Choices.Select(c => c.Value).ToArray();
            part.MayBe(rule.Id, values.Contains("true") ? Hold.FlagWord : Hold.OneOf(values), house => house.GetValueOrDefault(rule.Id));
        }

        return part;
    }
}
