using ToughStart.Core.Provenance;

namespace ToughStart.Core.Chemistry;

/// <summary>What is worn for a product: what its class asks and what each statement of its data sheet asks, the stronger of two alike.</summary>
public static class ProtectiveKit
{
    /// <summary>What does the work of what: long gloves that of gloves, a visor that of goggles.</summary>
    private static readonly (string Stronger, string Weaker)[] InPlaceOf = [("long-gloves", "gloves"), ("visor", "eyes")];

    private static readonly string[] Order = ["gloves", "long-gloves", "eyes", "visor", "apron", "air"];

    /// <summary>A piece of kit as people call it.</summary>
    public static string Say(string piece) =>
        piece switch
        {
            "air" => "open door",
            "eyes" => "eye protection",
            "ears" => "ear protection",
            _ => piece.Replace('-', ' '),
        };

    /// <summary>Pieces of kit as people call them.</summary>
    public static string Say(IEnumerable<string> kit, string between = ", ") => string.Join(between, kit.Select(Say));

    /// <summary>The kit of a class with the statements of a bottle.</summary>
    /// <param name="statements">Codes like H319; unknown ones ask for nothing here, and the label wins.</param>
    public static IReadOnlyList<string> Of(Agent agent, IEnumerable<string>? statements) => Of(agent.Kit, statements);

    internal static IReadOnlyList<string> Of(IEnumerable<string> ofClass, IEnumerable<string>? statements)
    {
        var asked = ofClass
            .Concat((statements ?? []).SelectMany(code => Catalogue.Default.Statements.FirstOrDefault(s => s.Code == code)?.Kit ?? []))
            .ToHashSet();
        foreach (var (stronger, weaker) in InPlaceOf.Where(x => asked.Contains(x.Stronger)))
        {
            asked.Remove(weaker);
        }

        return [.. asked.OrderBy(k => Array.IndexOf(Order, k)).ThenBy(k => k, StringComparer.Ordinal)];
    }
}
