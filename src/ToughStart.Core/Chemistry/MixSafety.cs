using ToughStart.Core.Provenance;

namespace ToughStart.Core.Chemistry;

/// <summary>What is said at the moment of mixing, and before a bottle is filled again.</summary>
public static class MixSafety
{
    /// <summary>Order of pouring, kit, air, first aid and what must not meet it; the label's hazards first. Never empty.</summary>
    public static IReadOnlyList<string> Words(Agent agent, IEnumerable<string>? hazards = null, IEnumerable<string>? contains = null)
    {
        var c = Catalogue.Default;
        var matrix = Compatibility.Default;
        var list = new List<string>();
        var codes = (hazards ?? []).ToArray();
        list.AddRange(
            codes.Select(h => c.Statements.FirstOrDefault(s => s.Code == h)).OfType<HazardStatement>().Select(s => $"{s.Code}: {s.Words}")
        );
        list.Add("Water first, then product into the water, never water onto product.");
        var kit = ProtectiveKit.Of(agent, codes);
        if (kit.Any(k => k != "air"))
        {
            list.Add($"Wear: {ProtectiveKit.Say(kit.Where(k => k != "air"))}.");
        }

        if (kit.Contains("air"))
        {
            list.Add("Door open or extraction on before the cap comes off.");
        }

        if (agent.Axis == Axis.Acid || agent.Axis == Axis.Alkali || codes.Intersect(["H314", "H318"]).Any())
        {
            list.Add(
                $"On skin or in eyes: rinse with plenty of water for {Catalogue.Default["first-aid-rinse"]:0} minutes and get medical help. "
                    + "Know where the eye wash is before you pour."
            );
        }

        if (agent.Axis == Axis.Solvent || codes.Intersect(["H224", "H225", "H226"]).Any())
        {
            list.Add("No flame, spark, heater or running engine. Cloths into a closed metal bin.");
        }

        list.AddRange(matrix.NeverTogether(matrix.GroupsOf(agent, contains)).Select(n => "Never " + n + "."));
        list.Add("Label the bottle before you put it down: content, strength, hazard words, date, who.");
        return list;
    }

    /// <summary>May this product go into a bottle that held (or holds) that one?</summary>
    /// <param name="before">What was in it last; null = it is new.</param>
    /// <param name="empty">It has been emptied.</param>
    /// <returns>Refused with the reason, or a warning, or neither.</returns>
    public static (string? Refused, string? Warning) Refill(Agent now, Agent? before, bool sameProduct, bool empty, bool rinsedThrice)
    {
        if (before is null || before.IsWater)
        {
            return (null, null);
        }

        var matrix = Compatibility.Default;
        var (a, b) = (matrix.GroupsOf(before), matrix.GroupsOf(now));
        var met = a.Count > 0 && b.Count > 0 ? matrix.Meet(a, b) : (Meeting.Rinse, "", "", "");
        if (!sameProduct && !empty)
        {
            return (
                met.Item1 == Meeting.Never
                    ? $"never: {before.Name} is still in it and {now.Name} {met.Item2}"
                    : $"{before.Name} is still in it: one product to a bottle. Use it up or drain it, rinse, then mix",
                null
            );
        }

        if (sameProduct)
        {
            return (null, empty ? null : "the same product is still in it: top up by the chain, do not guess");
        }

        return met.Item1 switch
        {
            Meeting.Never when !rinsedThrice => (
                $"it held {before.Name}: {met.Item2} with {now.Name}. Rinse it three times, trigger and tube too, and say so, "
                    + $"or take another bottle",
                null
            ),
            Meeting.Never => (null, $"it held {before.Name}: keep an own bottle for each in future"),
            >= Meeting.Wash when !rinsedThrice => (null, $"it held {before.Name}: rinse it well, trigger and tube too ({met.Item2})"),
            _ => (null, rinsedThrice ? null : $"it held {before.Name}: rinse it, peel the old label"),
        };
    }
}
