using Microsoft.AspNetCore.Razor.TagHelpers;
using ToughStart.Core.Costing;
using ToughStart.Core.Vehicles;

namespace ToughStart.Web.Drawing;

/// <summary>The vehicle unfolded: <c>&lt;net-drawing vehicle colour paint label&gt;</c>.</summary>
public sealed class NetDrawingTagHelper : TagHelper
{
    public required Vehicle Vehicle { get; set; }

    public string? Colour { get; set; }

    public required IReadOnlyDictionary<string, ZonePaint> Paint { get; set; }

    public required string Label { get; set; }

    /// <summary>Carry the textures along; off where the page holds them once for several drawings.</summary>
    public bool Textures { get; set; } = true;

    /// <summary>Zones can be reached and chosen; off for pictures.</summary>
    public bool Live { get; set; } = true;

    /// <summary>Zones that stand out; the others fade.</summary>
    public IReadOnlySet<string>? Marked { get; set; }

    /// <summary>How many photos hang on a zone; those get a small camera.</summary>
    public IReadOnlyDictionary<string, int>? Photos { get; set; }

    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        output.TagName = null;
        output.Content.SetHtmlContent(NetDrawing.Svg(Vehicle, Colour, Paint, Label, Textures, Live, Marked, Photos));
    }
}

/// <summary>One side of a body form, small: <c>&lt;side-view form size colour&gt;</c>.</summary>
public sealed class SideViewTagHelper : TagHelper
{
    public required string Form { get; set; }

    public required Size Size { get; set; }

    public string? Colour { get; set; }

    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        output.TagName = null;
        output.Content.SetHtmlContent(NetDrawing.Side(Forms.Build(Form, Size), Colour));
    }
}

/// <summary>The textures of a page, once: <c>&lt;net-textures used&gt;</c>; all of them when nothing is named.</summary>
public sealed class NetTexturesTagHelper : TagHelper
{
    public IEnumerable<(string Kind, int Grade)>? Used { get; set; }

    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        output.TagName = "svg";
        output.TagMode = TagMode.StartTagAndEndTag;
        output.Attributes.SetAttribute("class", "defs");
        output.Attributes.SetAttribute("aria-hidden", "true");
        output.Content.SetHtmlContent(
            Used is null ? $"<defs>{Textures.AllDefs}</defs>" : $"<defs>{Textures.StateDefs()}{Textures.Defs(Used)}</defs>"
        );
    }
}

/// <summary>One texture as a small square: <c>&lt;texture-swatch kind&gt;</c>.</summary>
public sealed class TextureSwatchTagHelper : TagHelper
{
    public required string Kind { get; set; }

    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        output.TagName = null;
        output.Content.SetHtmlContent(Textures.Swatch(Kind, 4));
    }
}

/// <summary>A container with its fill: <c>&lt;mixing-vessel container fill-ml fraction colour&gt;</c>.</summary>
public sealed class MixingVesselTagHelper : TagHelper
{
    public required Container Container { get; set; }

    public double FillMl { get; set; }

    public double Fraction { get; set; }

    public required string Colour { get; set; }

    /// <summary>A unit beside millilitres: us-fl-oz or imp-fl-oz.</summary>
    public string? Unit { get; set; }

    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        output.TagName = null;
        output.Content.SetHtmlContent(Bottle.Svg(Container, FillMl, Fraction, Colour, string.IsNullOrEmpty(Unit) ? null : Unit));
    }
}

/// <summary>A core sample with its dig: <c>&lt;core-sample core label ground&gt;</c>.</summary>
public sealed class CoreSampleTagHelper : TagHelper
{
    public required DrilledCore Core { get; set; }

    public required string Label { get; set; }

    /// <summary>What it is drilled down to.</summary>
    public required string Ground { get; set; }

    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        output.TagName = null;
        output.Content.SetHtmlContent(CoreSample.Svg(Core, CoreSample.Width, CoreSample.Height, Label, Ground));
    }
}

/// <summary>Stock of a product as a tube: <c>&lt;stock-tube stock reserved least pack colour&gt;</c>.</summary>
public sealed class StockTubeTagHelper : TagHelper
{
    public decimal Stock { get; set; }

    public decimal Reserved { get; set; }

    public decimal Least { get; set; }

    public decimal Pack { get; set; }

    public required string Colour { get; set; }

    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        output.TagName = null;
        output.Content.SetHtmlContent(ShelfDrawing.Tube(Stock, Reserved, Least, Pack, Colour));
    }
}

/// <summary>A drawing by our own pen that needs no model: <c>&lt;drawn svg&gt;</c>.</summary>
public sealed class DrawnTagHelper : TagHelper
{
    /// <summary>Made by one of the drawing classes, never from what somebody typed.</summary>
    public required string Svg { get; set; }

    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        output.TagName = null;
        output.Content.SetHtmlContent(Svg);
    }
}
