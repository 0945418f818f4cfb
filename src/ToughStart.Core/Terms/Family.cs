using System.Text.Json.Serialization;

namespace ToughStart.Core;

/// <summary>A family of surfaces that are worked alike.</summary>
[JsonConverter(typeof(TermConverter<Family>))]
public sealed class Family : Term<Family>
{
    public static readonly Family Body = new("body");
    public static readonly Family Glass = new("glass");
    public static readonly Family Trim = new("trim");
    public static readonly Family Seal = new("seal");
    public static readonly Family Metal = new("metal");
    public static readonly Family Hood = new("hood");
    public static readonly Family Wheel = new("wheel");
    public static readonly Family Tyre = new("tyre");
    public static readonly Family Arch = new("arch");
    public static readonly Family Disc = new("disc");
    public static readonly Family Chain = new("chain");
    public static readonly Family Engine = new("engine");

    private Family(string word)
        : base(word) { }

    /// <summary>The smooth outside that foam and rinseless washing are for.</summary>
    public bool IsPaneling => this == Body || this == Glass;

    /// <summary>What a drying towel goes over.</summary>
    public bool IsWiped => IsPaneling || this == Trim || this == Metal;

    /// <summary>Bears a rinse of cool water in the sun; hot glass, discs, exhaust and engine do not.</summary>
    public bool MayBeCooled =>
        this == Body || this == Trim || this == Seal || this == Hood || this == Wheel || this == Tyre || this == Arch;

    /// <summary>A jet close by bruises it, or drives water past it.</summary>
    public bool IsRubber => this == Tyre || this == Seal;

    /// <summary>A jet at it reaches the brake.</summary>
    public bool IsByBrakes => this == Wheel || this == Disc;

    /// <summary>At the corners and underneath, where brake dust lies.</summary>
    public bool HoldsBrakeDust => this == Wheel || this == Disc || this == Tyre || this == Arch;
}
