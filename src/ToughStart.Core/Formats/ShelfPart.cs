using System.Text.Json;
using System.Text.Json.Nodes;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Conditions;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Formats;

/// <summary>The bottles at hand.</summary>
internal static class ShelfPart
{
    /// <summary>Every class of agent, without data sheets.</summary>
    private const string AllClasses = "all-classes";

    public static IReadOnlyList<string> Agents { get; } = [.. Catalogue.Default.Agents.Select(a => a.Id)];

    private static readonly IReadOnlyList<string> Surfaces = [.. Catalogue.Default.Surfaces.Select(s => s.Id)],
        Statements = [.. Catalogue.Default.Statements.Select(h => h.Code)];

    /// <summary>A strength as the product's fraction of the liquid.</summary>
    public static Holds<double> Strength(string of) => Hold.Number(0.0001, 1, unit: of);

    private static readonly Part<ShelfBottle> BottlePart = new Part<ShelfBottle>(v =>
        new(v.Get<string>("agent"), v.Get("dataSheet", false), v.Number("ph"), v.Get("fluoride", false))
        {
            Id = v.Text("id"),
            Name = v.Text("name"),
            NeatPh = v.Number("neatPh"),
            Low = Fraction(v, "low"),
            Reference = Fraction(v, "reference"),
            High = Fraction(v, "high"),
            Dwell = v.Number("dwellMinutes"),
            MaxDwell = v.Number("maxDwellMinutes"),
            Carrier = v.Get<AgentCarrier?>("carrier", null),
            PricePerLitre = v.Number("pricePerLitre"),
            StockMl = v.Number("stockMl"),
            Efficacy = v.Number("efficacy"),
            Hazards = v.Texts("hazards"),
            Allows = v.Texts("allows"),
            Forbids = v.Texts("forbids"),
        }
    )
        .Called("Bottle")
        .With("agent", Hold.OneOf(Agents), b => b.Agent)
        .MayBe("id", Hold.Short(60), b => b.Id)
        .MayBe("name", Hold.Short(80), b => b.Name)
        .Or("dataSheet", Hold.Flag, b => b.DataSheet)
        .May("ph", Hold.Number(0, 14), b => b.Ph)
        .May("neatPh", Hold.Number(0, 14), b => b.NeatPh)
        .May("low", Strength("of the liquid on the panel"), b => b.Low?.Value)
        .May("reference", Strength("of the liquid on the panel"), b => b.Reference?.Value)
        .May("high", Strength("of the liquid on the panel"), b => b.High?.Value)
        .May("dwellMinutes", Hold.Number(0, 60, unit: "minutes"), b => b.Dwell)
        .May("maxDwellMinutes", Hold.Number(0, 60, unit: "minutes"), b => b.MaxDwell)
        .MayBe("carrier", Hold.Term(AgentCarrier.OfBottles), b => b.Carrier)
        .May("pricePerLitre", Hold.Number(0, 10_000, unit: "money per litre"), b => b.PricePerLitre)
        .May("stockMl", Hold.Number(0, 10_000_000, unit: "ml"), b => b.StockMl)
        .May("efficacy", Hold.Number(ShelfBottle.LeastEfficacy, ShelfBottle.MostEfficacy), b => b.Efficacy)
        .Any("hazards", Hold.SomeOf(Statements), b => b.Hazards)
        .Any("allows", Hold.SomeOf(Surfaces), b => b.Allows)
        .Any("forbids", Hold.SomeOf(Surfaces), b => b.Forbids)
        .If("fluoride", b => b.Fluoride)
        .Check(
            (j, v, path) =>
            {
                var rising = new[] { v.Number("low"), v.Number("reference"), v.Number("high") }.OfType<double>().ToArray();
                if (!rising.SequenceEqual(rising.Order()))
                {
                    j.Fail(path + ".low", "low, reference and high rise in that order");
                }
            }
        );

    private static readonly Holds<IReadOnlyList<ShelfBottle>> Bottles = Hold.ListOf(BottlePart.One);

    /// <summary>The bottles, or null for every class.</summary>
    public static Holds<IReadOnlyList<ShelfBottle>?> One { get; } =
        new(
            (w, shelf) =>
            {
                if (shelf is null)
                {
                    w.WriteStringValue(AllClasses);
                    return;
                }

                Bottles.Write(w, [.. shelf.OrderBy(b => b.Agent, StringComparer.Ordinal).ThenBy(b => b.Name, StringComparer.Ordinal)]);
            },
            (j, e, path) =>
            {
                if (e.ValueKind == JsonValueKind.String && e.GetString() == AllClasses)
                {
                    return (true, null);
                }

                if (e.ValueKind == JsonValueKind.Array)
                {
                    return Bottles.Read(j, e, path);
                }

                j.Fail(path, $"must be \"{AllClasses}\" or a list of bottles", [AllClasses]);
                return (false, null);
            },
            () => new JsonObject { ["oneOf"] = new JsonArray(new JsonObject { ["enum"] = Hold.Words([AllClasses]) }, Bottles.Schema()) }
        );

    private static ProductFraction? Fraction(Part<ShelfBottle>.Values v, string field) =>
        v.Number(field) is { } strength ? ProductFraction.Of(strength) : null;
}

/// <summary>What the shop works with: the lance as calibrated, what is left in mixed bottles, how fast the crew is.</summary>
internal static class KitPart
{
    private static readonly Part<LanceDraw> LancePart = new Part<LanceDraw>(v =>
        new(v.Get<double>("draw"), v.Number("low") ?? v.Get<double>("draw"), v.Number("high") ?? v.Get<double>("draw"), v.Get("trials", 1))
    )
        .Called("Lance")
        .With("draw", Hold.Number(0.001, 1, unit: "of what leaves the lance"), l => l.Ratio)
        .Or("low", ShelfPart.Strength("of what leaves the lance"), l => l.Low)
        .Or("high", ShelfPart.Strength("of what leaves the lance"), l => l.High)
        .Or("trials", Hold.Whole(0, 100), l => l.Trials)
        .Check(
            (j, v, path) =>
            {
                var draw = v.Get<double>("draw");
                if (v.Number("low") > draw || v.Number("high") < draw)
                {
                    j.Fail(path + ".draw", "is needed, with low at most and high at least as large");
                }
            }
        );

    private static readonly Part<Leftover> LeftoverPart = new Part<Leftover>(v =>
        new(v.Get<string>("agent"), ProductFraction.Of(v.Get<double>("strength")), v.Get<double>("ml"), v.Get("bottle", "bottle"))
    )
        .Called("Leftover")
        .With("agent", Hold.OneOf(ShelfPart.Agents), l => l.Agent)
        .With("strength", ShelfPart.Strength("of the liquid in the bottle"), l => l.Strength.Value)
        .With("ml", Hold.Number(0, 200_000, unit: "ml"), l => l.Ml)
        .Or("bottle", Hold.Short(80), l => l.Bottle);

    public static Part<KitInUse> Part { get; } =
        new Part<KitInUse>(v =>
            new(v.Get<LanceDraw?>("lance", null), v.Get<IReadOnlyList<Leftover>>("leftovers", []))
            {
                FilmFactor = v.Number("filmFactor"),
                Speed = v.Number("applyM2Min") is { } apply ? new CrewSpeed(apply, v.Get<double>("rinseM2Min")) : null,
                Mitts = v.Whole("mitts"),
                Towels = v.Whole("towels"),
            }
        )
            .Called("Kit")
            .MayBe("lance", LancePart.One, k => k.Lance)
            .May("filmFactor", Hold.Number(FilmCalibration.Least, FilmCalibration.Most, unit: "times the model's film"), k => k.FilmFactor)
            .May("mitts", Hold.Whole(0, 999), k => k.Mitts)
            .May("towels", Hold.Whole(0, 999), k => k.Towels)
            .May("applyM2Min", Hold.Number(0.2, 60, unit: "m²/min"), k => k.Speed?.Apply)
            .May("rinseM2Min", Hold.Number(0.2, 60, unit: "m²/min"), k => k.Speed?.Rinse)
            .Any("leftovers", Hold.ListOf(LeftoverPart.One), k =>
                [.. k.Leftovers.OrderBy(l => l.Agent, StringComparer.Ordinal).ThenBy(l => l.Bottle, StringComparer.Ordinal)]
            )
            .Check(
                (j, v, path) =>
                {
                    if (v.Has("applyM2Min") != v.Has("rinseM2Min"))
                    {
                        j.Fail(
                            path + (v.Has("applyM2Min") ? ".rinseM2Min" : ".applyM2Min"),
                            "is needed with the other: how fast the crew puts on and rinses"
                        );
                    }
                }
            );
}
