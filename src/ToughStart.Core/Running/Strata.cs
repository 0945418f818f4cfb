using ToughStart.Core.Contamination;
using ToughStart.Core.Planning;

namespace ToughStart.Core.Running;

/// <summary>One layer of a vehicle as a visit found and left it, mean over its zones by area, load 0 to 1.</summary>
/// <param name="Kind">Id of the kind.</param>
/// <param name="By">What took most of it; null = nothing did.</param>
public sealed record Stratum(string Kind, double Before, double After, string? By);

/// <summary>The layers of a visit: what a core through the vehicle would have shown before and after, outermost first.</summary>
public static class Strata
{
    /// <summary>Layers thinner than this all over are not drawn: nobody would see them.</summary>
    public const double Least = 0.005;

    public static IReadOnlyList<Stratum> Of(RunGround ground, RunState state)
    {
        var c = ground.Catalogue;
        var zones = ground.States.Where(z => !z.LeftAlone).ToArray();
        var area = zones.Sum(z => z.Zone.Area.Value);
        var rounds = zones
            .SelectMany(z => state.Of(z.Zone.Id).Rounds)
            .GroupBy(r => r.Key)
            .ToDictionary(g => g.Key, g => g.Sum(r => r.Value));
        return
        [
            .. Enumerable
                .Range(0, Kinds.Residue)
                .Where(k => c.Contaminants[k].IsDirt || c.Contaminants[k].Id == "old-protection")
                .Select(k => new Stratum(
                    c.Contaminants[k].Id,
                    zones.Sum(z => (ground.Prior(z, k)?.Mean ?? 0) * z.Zone.Area.Value) / area,
                    zones.Sum(z => (Run.Believed(state, ground, z, k)?.Mean ?? 0) * z.Zone.Area.Value) / area,
                    rounds
                        .Select(r => (Of: c.FindTreatment(r.Key), Rounds: r.Value))
                        .Where(r => r.Of is not null)
                        .Select(r => (r.Of!.Name, Took: r.Rounds * r.Of.Removes.Where(x => x.Kind == k).Sum(x => x.Decades.Value)))
                        .Where(r => r.Took > 0)
                        .OrderByDescending(r => r.Took)
                        .Select(r => r.Name)
                        .FirstOrDefault()
                ))
                .Where(s => s.Before >= Least || s.After >= Least)
                .OrderBy(s => c.Contaminant(s.Kind).Layer),
        ];
    }
}
