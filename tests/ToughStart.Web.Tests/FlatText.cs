using AngleSharp.Dom;

namespace ToughStart.Web.Tests;

/// <summary>Text of a page as people read it.</summary>
internal static class FlatText
{
    /// <summary>The text of an element, every run of white space as one space.</summary>
    public static string Flat(this IElement element) =>
        string.Join(' ', element.TextContent.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
}
