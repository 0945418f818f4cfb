namespace ToughStart.Core.Formats;

/// <summary>What is wrong with an input: the field by its path, what is wrong in plain words, and what is allowed.</summary>
public sealed record Problem(string Field, string Message, IReadOnlyList<string>? Allowed = null)
{
    public override string ToString() =>
        Allowed is { Count: > 0 } ? $"{Field}: {Message}; allowed: {string.Join(", ", Allowed)}" : $"{Field}: {Message}";
}

/// <summary>How grave an unreadable input is: malformed (400), understood but not allowed (422), or larger than we take (413).</summary>
public enum Refusal
{
    Malformed,
    Invalid,
    TooLarge,
}

/// <summary>A value, or the problems that keep it from being one.</summary>
public sealed record Checked<T>(T? Value, IReadOnlyList<Problem> Problems, Refusal Refusal = Refusal.Invalid)
    where T : class
{
    public bool Ok => Value is not null && Problems.Count == 0;
}
