using ToughStart.Core.Provenance;

namespace ToughStart.Core.Contamination;

/// <summary>One of the 24 kinds of contamination. <see cref="Index"/> is its place in every level array.</summary>
public sealed record ContaminantKind(
    int Index,
    string Id,
    string Name,
    string Mark,
    int Layer,
    bool AgeMatters,
    bool GetsInside,
    IReadOnlyList<Family> Families,
    string Tells,
    string Danger
)
{
    /// <summary>Can it sit on a surface of this family?</summary>
    public bool CanSitOn(Family family) => Families.Contains(family);

    /// <summary>Felt when everything above it is gone, and taken by clay alone.</summary>
    public bool IsBonded => Layer == BondedLayer;

    /// <summary>Dirt, bonded or above; below it lie old protection and the paint's own state.</summary>
    public bool IsDirt => Layer <= BondedLayer;

    private const int BondedLayer = 6;

    /// <summary>Can somebody who names many zones at once have meant it there? Sap and bugs do not get behind shut doors; named by itself it stands.</summary>
    public bool IsMeantOn(Vehicles.Zone zone) => GetsInside || zone.Kind.Id != "shut";

    internal static ContaminantKind Read(Table.Row r, int index) =>
        new(
            index,
            r["id"],
            r["name"],
            r["mark"],
            r.Whole("layer"),
            r["age"] == "1",
            r["inside"] == "1",
            r.Terms<Family>("families"),
            r["tells"],
            r["danger"]
        );
}

/// <summary>What is expected of a contaminant where nobody has looked.</summary>
/// <param name="Where">The families it is expected on.</param>
/// <param name="Low">On whatever lies near the ground.</param>
/// <param name="Test">What shows it, at the moment <paramref name="When"/>.</param>
public sealed record Prior(
    ContaminantKind Kind,
    IReadOnlyList<Family> Where,
    bool Low,
    double Base,
    double PerMonth,
    double Most,
    double Load,
    bool Hidden,
    string Test,
    string When
)
{
    private const string NearTheGround = "low";

    /// <summary>Probability that it is there, <paramref name="months"/> (≥ 0) after the last wash.</summary>
    public double Probability(double months) => Math.Min(Most, Base + PerMonth * months);

    internal static Prior Read(Table.Row r, Catalogue c) =>
        new(
            c.Contaminant(r["contaminant"]),
            [.. r.Words("where").Where(w => w != NearTheGround).Select(Family.Of)],
            r.Words("where").Contains(NearTheGround),
            r.Number("base"),
            r.Number("per-month"),
            r.Number("most"),
            r.Number("load"),
            r["hidden"] == "yes",
            r["test"],
            r["when"]
        );
}
