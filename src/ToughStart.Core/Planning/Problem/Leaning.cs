namespace ToughStart.Core.Planning;

/// <summary>What a job leans to: how much harm, time and money weigh against each other; 1 each is the shop's ordinary judgement.</summary>
public readonly record struct Leaning(double Harm, double Time, double Money)
{
    public const double Least = 0.05,
        Most = 20;

    public static Leaning None { get; } = new(1, 1, 1);

    /// <summary>Gentler, faster, cheaper: one weight raised.</summary>
    public static IReadOnlyList<(string Id, string Name, Leaning Lean)> Named { get; } =
    [("gentler", "gentler", new(8, 1, 1)), ("faster", "faster", new(1, 4, 1)), ("cheaper", "cheaper", new(1, 1, 8))];

    /// <summary>
    /// What is short of its target costs as much against the heaviest weight: no leaning buys time or care with dirt left behind.
    /// </summary>
    public double Shortfall => Math.Max(Math.Max(1, Harm), Math.Max(Time, Money));
}
