using System.Globalization;
using System.Net;
using System.Text.RegularExpressions;
using Microsoft.AspNetCore.WebUtilities;
using Microsoft.Extensions.Primitives;
using ToughStart.Core.Formats;

namespace ToughStart.Web;

/// <summary>
/// Numbers typed in the shop's measures. Pages ask in SI units and mark such a field with <c>data-in</c>; its label, its value and its hint are
/// written in the shop's unit, and a hidden field beside it says so, that what comes back is read as it was asked.
/// </summary>
public static partial class WaysOfForms
{
    /// <summary>
    /// Prefix of the hidden field that says how its neighbour was asked: "33.8140226,0" = so many of the shop's units to one SI unit, and what is added.
    /// What is sent is read by that, also when the shop has changed its ways since the page was drawn.
    /// </summary>
    public const string Asked = "in-";

    /// <summary>Decimals that a typed number keeps in SI units; finer is the rounding of the conversion.</summary>
    private const int Kept = 2;

    /// <summary>A page whose marked fields ask in the shop's units.</summary>
    public static string Ask(string html, Ways ways) =>
        ways.IsPlain ? html : Label().Replace(html, m => OneLabel(m.Value, m.Groups["unit"].Value, ways));

    private static string OneLabel(string label, string unit, Ways ways)
    {
        unit = WebUtility.HtmlDecode(unit);
        var change = ways.Changes.FirstOrDefault(c => c.From == unit);
        return Part()
            .Replace(label, m => m.Groups["text"].Success
                    ? change is null
                        ? m.Value
                        : UnitIn(unit).Replace(m.Value, change.To)
                    : m.Value.StartsWith("<input", StringComparison.Ordinal) && m.Value.Contains("data-in=", StringComparison.Ordinal)
                        ? Input(m.Value, change, ways)
                        : m.Value);
    }

    private static string How(Ways.Change? change) =>
        string.Create(CultureInfo.InvariantCulture, $"{change?.Factor ?? 1:R},{change?.Add ?? 0:R}");

    private static string Input(string tag, Ways.Change? change, Ways ways)
    {
        var shown = Number().Replace(tag, m => $"{m.Groups["before"].Value}{Shown(m.Groups["n"].Value, change, ways)}\"");
        var name = Name().Match(tag).Groups["name"].Value;
        return name.Length == 0 ? shown : $"{shown}<input type=\"hidden\" name=\"{Asked}{name}\" value=\"{How(change)}\" />";
    }

    private static string Shown(string text, Ways.Change? change, Ways ways)
    {
        if (!double.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out var si))
        {
            return text;
        }

        var there = change is null ? text : (si * change.Factor + change.Add).ToString("0.####", CultureInfo.InvariantCulture);
        return ways.DecimalComma ? there.Replace('.', ',') : there;
    }

    /// <summary>What was sent, in SI units with a decimal point; fields that were not asked in a shop's way stay as they are.</summary>
    public static Dictionary<string, StringValues> Read(IEnumerable<KeyValuePair<string, StringValues>> sent)
    {
        var all = sent.ToDictionary(x => x.Key, x => x.Value, StringComparer.Ordinal);
        foreach (var (key, how) in all.Where(x => x.Key.StartsWith(Asked, StringComparison.Ordinal)).ToArray())
        {
            var name = key[Asked.Length..];
            if (all.TryGetValue(name, out var typed) && Read(how.ToString()) is var (factor, add))
            {
                all[name] = new StringValues([.. typed.Select(t => InSi(t, factor, add))]);
            }

            all.Remove(key);
        }

        return all;
    }

    private static (double Factor, double Add)? Read(string how) =>
        how.Split(',') is [var f, var a]
        && double.TryParse(f, NumberStyles.Float, CultureInfo.InvariantCulture, out var factor)
        && double.TryParse(a, NumberStyles.Float, CultureInfo.InvariantCulture, out var add)
        && double.IsFinite(factor)
        && double.IsFinite(add)
        && factor > 0
            ? (factor, add)
            : null;

    private static string? InSi(string? text, double factor, double add)
    {
        var plain = text?.Trim().Replace(',', '.');
        return !double.TryParse(plain, NumberStyles.Float, CultureInfo.InvariantCulture, out var there) || !double.IsFinite(there) ? text
            : factor == 1 && add == 0 ? plain
            : Math.Round((there - add) / factor, Kept).ToString(CultureInfo.InvariantCulture);
    }

    /// <summary>Gives the page what was sent in SI units.</summary>
    public static async Task UnderstandAsync(HttpRequest request)
    {
        if (request.Query.Keys.Any(k => k.StartsWith(Asked, StringComparison.Ordinal)))
        {
            request.QueryString = QueryString.Create(Read(request.Query));
        }

        if (request.HasFormContentType && await request.ReadFormAsync(request.HttpContext.RequestAborted) is var form)
        {
            if (form.Keys.Any(k => k.StartsWith(Asked, StringComparison.Ordinal)))
            {
                request.Form = new FormCollection(Read(form), form.Files);
            }
        }
    }

    [GeneratedRegex(@"<label\b[^>]*>(?:(?!</label>).)*?\bdata-in=""(?<unit>[^""]+)""(?:(?!</label>).)*</label>", RegexOptions.Singleline)]
    private static partial Regex Label();

    [GeneratedRegex(@"<[^>]*>|(?<text>[^<]+)", RegexOptions.Singleline)]
    private static partial Regex Part();

    [GeneratedRegex(@"(?<before>\b(?:value|placeholder|min|max)="")(?<n>[-−]?\d+(?:\.\d+)?)""")]
    private static partial Regex Number();

    [GeneratedRegex(@"\bname=""(?<name>[^""]+)""")]
    private static partial Regex Name();

    /// <summary>The unit where a label names it, not behind a number: that is written anew with its number.</summary>
    private static Regex UnitIn(string unit) =>
        new($@"(?<![\w/]|\d ){Regex.Escape(unit).Replace("°", "(?:°|&#xB0;|&#176;)", StringComparison.Ordinal)}(?![\w/])");
}
