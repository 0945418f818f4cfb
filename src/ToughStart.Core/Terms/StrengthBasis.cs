using System.Text.Json.Serialization;

namespace ToughStart.Core;

/// <summary>Where the strength on a label is meant: on the panel, in the bottle of a lance, or in the bucket.</summary>
[JsonConverter(typeof(TermConverter<StrengthBasis>))]
public sealed class StrengthBasis : Term<StrengthBasis>
{
    public static readonly StrengthBasis Panel = new("panel");
    public static readonly StrengthBasis Bottle = new("bottle");
    public static readonly StrengthBasis Bucket = new("bucket");

    private StrengthBasis(string word)
        : base(word) { }
}
