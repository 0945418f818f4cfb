using System.Text.Json.Serialization;

namespace ToughStart.Core;

/// <summary>The chemical axis an agent acts on, and on which a surface has its limit.</summary>
[JsonConverter(typeof(TermConverter<Axis>))]
public sealed class Axis : Term<Axis>
{
    public static readonly Axis None = new("none");
    public static readonly Axis Mild = new("mild");
    public static readonly Axis Alkali = new("alk");
    public static readonly Axis Acid = new("acid");
    public static readonly Axis Solvent = new("solv");
    public static readonly Axis Reducer = new("red");

    private Axis(string word)
        : base(word) { }

    /// <summary>Acid, caustic or solvent: what heat makes dangerous, and what is never kept wet by misting again.</summary>
    public bool IsHarsh => this == Acid || this == Alkali || this == Solvent;

    /// <summary>It works by its pH.</summary>
    public bool IsByPh => this == Mild || this == Alkali || this == Acid;
}
