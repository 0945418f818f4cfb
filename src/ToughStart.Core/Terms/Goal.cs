using System.Text.Json.Serialization;

namespace ToughStart.Core;

/// <summary>What the vehicle is made ready for.</summary>
[JsonConverter(typeof(TermConverter<Goal>))]
public sealed class Goal : Term<Goal>
{
    public static readonly Goal Wash = new("wash");
    public static readonly Goal Sale = new("sale");
    public static readonly Goal Protect = new("protect");
    public static readonly Goal Correct = new("correct");

    private Goal(string word)
        : base(word) { }

    /// <summary>Something is put on or polished afterwards: the surface has to be bare and clean.</summary>
    public bool GoesOn => this == Protect || this == Correct;
}
