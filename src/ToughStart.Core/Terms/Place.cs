using System.Text.Json.Serialization;

namespace ToughStart.Core;

/// <summary>A place in the order of work; a stage can have several.</summary>
[JsonConverter(typeof(TermConverter<Place>))]
public sealed class Place : Term<Place>
{
    public static readonly Place Pick = new("pick");
    public static readonly Place Soak = new("soak");
    public static readonly Place Rinse = new("rinse");
    public static readonly Place Drop = new("drop");
    public static readonly Place Spray = new("spray");
    public static readonly Place Foam = new("foam");
    public static readonly Place Bug = new("bug", "rebug");
    public static readonly Place Crevice = new("crevice");
    public static readonly Place Scrub = new("scrub");
    public static readonly Place Wash = new("wash");
    public static readonly Place Tar = new("tar");
    public static readonly Place Iron = new("iron");
    public static readonly Place Flush = new("flush");
    public static readonly Place Acid = new("acid");
    public static readonly Place Spot = new("spot");
    public static readonly Place ReWash = new("rewash");
    public static readonly Place Clay = new("clay");
    public static readonly Place Strip = new("strip");
    public static readonly Place Wipe = new("wipe");
    public static readonly Place Dry = new("dry");

    private Place(string word, string? formerly = null)
        : base(word, formerly) { }
}
