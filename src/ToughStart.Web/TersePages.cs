using System.Runtime.CompilerServices;
using Microsoft.AspNetCore.Mvc.Razor;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace ToughStart.Web;

/// <summary>A page that sends none of the indentation it was written with: a line's break is enough between two words.</summary>
public abstract class TersePage : Page
{
    /// <inheritdoc/>
    public override void WriteLiteral(string? value) => base.WriteLiteral(Terse.Of(value));
}

/// <summary>The same for a part of a page.</summary>
public abstract class TerseView<TModel> : RazorPage<TModel>
{
    /// <inheritdoc/>
    public override void WriteLiteral(string? value) => base.WriteLiteral(Terse.Of(value));
}

/// <summary>What stands literally in pages, with every run of white space that holds a line's break as that break.</summary>
internal static class Terse
{
    // What stands literally is the same string each time: it is looked up by itself, and lives as long as its page's code.
    private static readonly ConditionalWeakTable<string, string> Known = [];

    public static string? Of(string? literal) => literal is null || !literal.Contains('\n') ? literal : Known.GetValue(literal, Shorten);

    private static string Shorten(string literal)
    {
        var kept = new System.Text.StringBuilder(literal.Length);
        for (var i = 0; i < literal.Length; )
        {
            var end = i;
            while (end < literal.Length && char.IsWhiteSpace(literal[end]))
            {
                end++;
            }

            if (end == i)
            {
                kept.Append(literal[i++]);
                continue;
            }

            kept.Append(literal.AsSpan(i, end - i).Contains('\n') ? "\n" : literal[i..end]);
            i = end;
        }

        return kept.ToString();
    }
}
