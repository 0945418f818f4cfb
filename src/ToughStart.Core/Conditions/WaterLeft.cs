using ToughStart.Core.Chemistry;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Conditions;

/// <summary>What happens to rinse water that nobody dries.</summary>
/// <param name="Seconds">Until the first drops have dried on.</param>
/// <param name="FilmG">Water that stays on the panel, g/m².</param>
/// <param name="ResidueMg">What it leaves, mg/m²; null = hardness not said.</param>
public sealed record WaterLeft(string Zone, Seconds Seconds, double FilmG, double? ResidueMg)
{
    /// <summary>
    /// Zones in the order in which rinse water dries on them: dry in this order. Body panels come from the rinse cool, the rest as they
    /// are.
    /// </summary>
    /// <param name="hardness">mg/l as calcium carbonate; null = not said.</param>
    public static IReadOnlyList<WaterLeft> Of(SiteConditions now, IEnumerable<(Zone Zone, Family Family)> zones, double? hardness)
    {
        // Rinse water runs like a trigger spray: the same thin liquid on the same panel.
        var water = now.Film("spray");
        return
        [
            .. zones
                .Select(z =>
                {
                    var film = WetWindow.Fast(now.Balance(z.Zone, z.Family, null, z.Family == Family.Body), water);
                    return new WaterLeft(
                        z.Zone.Id,
                        film.FirstDry,
                        film.FilmKg * 1000,
                        hardness is { } h ? WaterHardness.ResidueMgPerM2(h, film.FilmKg * 1000) : null
                    );
                })
                .OrderBy(w => w.Seconds),
        ];
    }
}
