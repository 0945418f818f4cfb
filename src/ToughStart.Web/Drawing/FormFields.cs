using System.Net;
using Microsoft.AspNetCore.Html;

namespace ToughStart.Web.Drawing;

/// <summary>Labelled fields of a form, all of one look; names are those of the posted model.</summary>
internal static class FormFields
{
    public static IHtmlContent Input(
        string name,
        string label,
        string? value,
        int most,
        string type = "text",
        string? hint = null,
        string? list = null,
        bool needed = false
    ) =>
        new HtmlString(
            $"<label>{(needed ? $"<span>{E(label)} <em class=\"needed\">needed</em></span>" : E(label))} "
                + $"<input name=\"{E(name)}\" value=\"{E(value)}\" type=\"{type}\" maxlength=\"{most}\""
                + $"{Attribute("data-in", UnitOf(label))}{Attribute("placeholder", hint)}{Attribute("list", list)}{(needed ? " required" : "")} /></label>"
        );

    /// <summary>A list to choose from; <paramref name="blank"/> stands for "nothing said", null when something must be chosen.</summary>
    public static IHtmlContent Select(
        string name,
        string label,
        string? value,
        IEnumerable<(string Id, string Words)> options,
        string? blank = "not said"
    ) =>
        new HtmlString(
            $"<label>{E(label)} <select name=\"{E(name)}\">{(blank is null ? "" : $"<option value=\"\">{E(blank)}</option>")}{string.Concat(options.Select(o => $"<option value=\"{E(o.Id)}\"{(o.Id == value ? " selected" : "")}>{E(o.Words)}</option>"))}</select></label>"
        );

    public static IHtmlContent Check(string name, string label, bool value) =>
        new HtmlString(
            $"<label class=\"check\"><input type=\"checkbox\" name=\"{E(name)}\" value=\"true\"{(value ? " checked" : "")} /> {E(label)}</label>"
        );

    /// <summary>The unit a label ends with, where shops write it differently; null = none.</summary>
    private static string? UnitOf(string label) => Units.FirstOrDefault(u => label.EndsWith($", {u}", StringComparison.Ordinal));

    private static readonly string[] Units = ["ml", "l/min", "°C"];

    /// <summary>Ids as people say them.</summary>
    public static IEnumerable<(string, string)> Words(IEnumerable<string> ids) => ids.Select(i => (i, i.Replace('-', ' ')));

    private static string Attribute(string name, string? value) => value is null ? "" : $" {name}=\"{E(value)}\"";

    private static string E(string? text) => WebUtility.HtmlEncode(text ?? "");
}
