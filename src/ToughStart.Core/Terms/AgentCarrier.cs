using System.Text.Json.Serialization;

namespace ToughStart.Core;

/// <summary>How an agent gets onto the panel.</summary>
[JsonConverter(typeof(TermConverter<AgentCarrier>))]
public sealed class AgentCarrier : Term<AgentCarrier>
{
    public static readonly AgentCarrier None = new("none");
    public static readonly AgentCarrier Film = new("film");
    public static readonly AgentCarrier Foam = new("foam");
    public static readonly AgentCarrier Gel = new("gel");
    public static readonly AgentCarrier Cloth = new("cloth");
    public static readonly AgentCarrier Rinse = new("rinse");

    private AgentCarrier(string word)
        : base(word) { }

    /// <summary>Does it wet more than where it is aimed: sprayed or foamed, not wiped on?</summary>
    public bool RunsOff => this == Film || this == Foam || this == Gel;

    /// <summary>What a bottle on the shelf can say of itself.</summary>
    public static IReadOnlyList<AgentCarrier> OfBottles { get; } = [Film, Foam, Gel, Cloth];
}
