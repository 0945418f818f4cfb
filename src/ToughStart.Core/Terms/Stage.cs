using System.Text.Json.Serialization;

namespace ToughStart.Core;

/// <summary>A stage of the work, as a plan names it.</summary>
[JsonConverter(typeof(TermConverter<Stage>))]
public sealed class Stage : Term<Stage>
{
    public static readonly Stage DryPick = new("dry-pick");
    public static readonly Stage Soak = new("soak");
    public static readonly Stage PreRinse = new("pre-rinse");
    public static readonly Stage Spot = new("spot");
    public static readonly Stage PreWash = new("pre-wash");
    public static readonly Stage Foam = new("foam");
    public static readonly Stage Crevice = new("crevice");
    public static readonly Stage Wheels = new("wheels");
    public static readonly Stage Tyres = new("tyres");
    public static readonly Stage Arches = new("arches");
    public static readonly Stage ContactWash = new("contact-wash");
    public static readonly Stage Tar = new("tar");
    public static readonly Stage Iron = new("iron");
    public static readonly Stage Rinse = new("rinse");
    public static readonly Stage Acid = new("acid");
    public static readonly Stage ReWash = new("re-wash");
    public static readonly Stage Clay = new("clay");
    public static readonly Stage Strip = new("strip");
    public static readonly Stage Wipe = new("wipe");
    public static readonly Stage Dry = new("dry");

    private Stage(string word)
        : base(word) { }

    /// <summary>Brushes at the corners.</summary>
    public bool IsAtCorners => this == Wheels || this == Tyres || this == Arches;

    /// <summary>Every stage that can be refused for a job: all but drying, which everything ends in.</summary>
    public static IReadOnlyList<Stage> Refusable { get; } = [.. All.Where(s => s != Dry)];
}
