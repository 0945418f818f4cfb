using ToughStart.Core.Provenance;

namespace ToughStart.Core.Surfaces;

/// <summary>How a surface meets an influence: a sensitivity, or never, or only after a passed test spot.</summary>
public readonly record struct Sensitivity(double Value, bool Never, bool TestSpot)
{
    internal static Sensitivity Read(string cell) =>
        cell switch
        {
            "X" => new(double.PositiveInfinity, true, false),
            "T" => new(1, false, true),
            _ => new(Table.ParseNumber(cell), false, false),
        };

    /// <summary>The harsher of two: never beats test spot beats number.</summary>
    public static Sensitivity Worse(Sensitivity a, Sensitivity b) =>
        a.Never || b.Never ? new(double.PositiveInfinity, true, false) : new(Math.Max(a.Value, b.Value), false, a.TestSpot || b.TestSpot);
}

/// <summary>
/// A material and what it bears. <see cref="UnknownId"/> is not a surface: <see cref="WorstOf"/> makes one from all a zone could have.
/// </summary>
public sealed record Surface(
    string Id,
    string Name,
    Family Family,
    IReadOnlyDictionary<Axis, Sensitivity> Axes,
    Sensitivity Rub,
    Sensitivity Stiff,
    Sensitivity Touch,
    double Mar,
    double PhLow,
    double PhHigh
)
{
    public const string UnknownId = "unknown";

    /// <summary>The surfaces it stands for: itself, or all that a union was made of.</summary>
    public IReadOnlyList<string> Ids { get; init; } = [Id];

    /// <summary>Dull by nature: anything that glosses, fills or presses shows on it.</summary>
    public bool Matte { get; init; }

    private static readonly Axis[] Limited = [.. Axis.All.Where(a => a != Axis.None)];

    /// <summary>Sensitivity on a chemical axis; the axis "none" harms nothing.</summary>
    public Sensitivity On(Axis axis) => axis == Axis.None ? new(0, false, false) : Axes[axis];

    /// <summary>The union of limits of every surface a zone may have: judged column by column.</summary>
    public static Surface WorstOf(IReadOnlyList<Surface> all) =>
        new(
            UnknownId,
            "unknown surface",
            all[0].Family,
            Limited.ToDictionary(a => a, a => all.Select(s => s.On(a)).Aggregate(Sensitivity.Worse)),
            all.Select(s => s.Rub).Aggregate(Sensitivity.Worse),
            all.Select(s => s.Stiff).Aggregate(Sensitivity.Worse),
            all.Select(s => s.Touch).Aggregate(Sensitivity.Worse),
            all.Max(s => s.Mar),
            all.Max(s => s.PhLow),
            all.Min(s => s.PhHigh)
        )
        {
            Ids = all.SelectMany(s => s.Ids).Distinct().ToArray(),
            Matte = all.Any(s => s.Matte),
        };

    internal static Surface Read(Table.Row r)
    {
        var ph = r["ph"].Split('-');
        return new Surface(
            r["id"],
            r["name"],
            Family.Of(r["family"]),
            Limited.ToDictionary(a => a, a => Sensitivity.Read(r[a.Word])),
            Sensitivity.Read(r["rub"]),
            Sensitivity.Read(r["stiff"]),
            Sensitivity.Read(r["touch"]),
            r.Number("mar"),
            Table.ParseNumber(ph[0]),
            Table.ParseNumber(ph[1])
        )
        {
            Matte = r["finish"] == "matte",
        };
    }
}
