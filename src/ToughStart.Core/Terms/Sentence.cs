namespace ToughStart.Core;

/// <summary>Words on their way into a sentence.</summary>
public static class Sentence
{
    /// <summary>The same with a capital letter first; an empty text stays empty.</summary>
    public static string Capital(this string text) => text.Length == 0 ? text : char.ToUpperInvariant(text[0]) + text[1..];
}
