using ToughStart.Core.Contamination;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Readiness;

/// <summary>How surely a zone is as clean as its goal asks, by what is believed of every kind on it.</summary>
/// <param name="Chance">Probability that every kind is at its target, a little over it allowed, 0 to 1.</param>
public readonly record struct Fineness(double Chance)
{
    /// <summary>Sure enough to build on; whether it was looked at well enough is another question.</summary>
    public bool Sure => Chance >= Catalogue.Default["fine-enough"];

    /// <summary>Of what is believed of each kind, and the load it is to come down to.</summary>
    public static Fineness Of(IEnumerable<(LoadBelief Believed, double Target)> kinds)
    {
        var allowed = Catalogue.Default["fine-tolerance"];
        return new Fineness(kinds.Aggregate(1.0, (p, k) => p * k.Believed.AtMost(allowed * k.Target)));
    }
}
