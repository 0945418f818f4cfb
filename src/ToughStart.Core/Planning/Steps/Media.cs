using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Planning;

/// <summary>What touches the vehicle in some treatments, and where it may.</summary>
/// <param name="Treatments">Treatments it serves.</param>
/// <param name="Block">The only block it may be used on; null = on any, because it does not go back.</param>
/// <param name="SquareMetres">What one piece covers before it is out.</param>
/// <param name="RinsedInBucket">In a bucket of plain water of its own after every panel.</param>
/// <param name="After">Where it goes then.</param>
/// <param name="Wipes">A soft wet cloth or mitt that raises no spray.</param>
public sealed record Medium(
    string Id,
    string Name,
    IReadOnlyList<string> Treatments,
    Block? Block,
    double SquareMetres,
    bool RinsedInBucket,
    string After,
    string Rule,
    bool Wipes
)
{
    internal static Medium Read(Table.Row r) =>
        new(
            r["id"],
            r["name"],
            r.Words("treatments"),
            r["block"] switch
            {
                "any" => null,
                "wheels" => Vehicles.Block.Wheels,
                _ => Vehicles.Block.Body,
            },
            r.Number("m2"),
            r["rinsed in"] == "bucket",
            r["after"],
            r["rule"],
            r["wipes"] == "yes"
        );

    /// <summary>What a treatment is done with on a block; null = nothing touches.</summary>
    public static Medium? For(string treatment, Block block, Catalogue c) =>
        c.Media.FirstOrDefault(m => m.Treatments.Contains(treatment) && (m.Block is null || m.Block == block));
}

/// <summary>Pieces of one medium that a plan takes.</summary>
/// <param name="Kit">wheels, body, or own for what never goes back.</param>
/// <param name="Steps">Keys of the steps it serves.</param>
public sealed record MediaLine(string Medium, string Name, string Kit, int Pieces, IReadOnlyList<string> Steps, string After, string Rule);

/// <summary>Counts the media of a plan. Nothing that touched wheels is counted again for paint.</summary>
public static class MediaCount
{
    public static IReadOnlyList<MediaLine> Of(IReadOnlyList<Step> steps, Vehicle vehicle, Catalogue c) =>
        steps
            .Select(s => (Step: s, Medium: Medium.For(s.Treatment, s.Block, c)))
            .Where(x => x.Medium is not null)
            .GroupBy(x => x.Medium!)
            .OrderBy(g => c.Media.ToList().IndexOf(g.Key))
            .Select(g => new MediaLine(
                g.Key.Id,
                g.Key.Name,
                g.Key.Block switch
                {
                    Block.Wheels => "wheels",
                    Block.Body => "body",
                    _ => "own",
                },
                Pieces(g.Key, g.Sum(x => x.Step.Zones.Sum(z => x.Step.RoundsOn(z) * vehicle[z].Area))),
                [.. g.Select(x => x.Step.Key)],
                g.Key.After,
                g.Key.Rule
            ))
            .ToArray();

    /// <summary>Pieces for an area, at least one.</summary>
    public static int Pieces(Medium medium, double squareMetres) =>
        Math.Max(1, (int)Math.Ceiling(squareMetres / medium.SquareMetres - 1e-9));
}
