using QRCoder;

namespace ToughStart.Web.Drawing;

/// <summary>An address as a code that a phone can look at; it holds the address and nothing else.</summary>
internal static class QrDrawing
{
    public static string Svg(string address)
    {
        using var generator = new QRCodeGenerator();
        using var data = generator.CreateQrCode(address, QRCodeGenerator.ECCLevel.M);
        using var svg = new SvgQRCode(data);
        return svg.GetGraphic(new System.Drawing.Size(120, 120), "#111", "#fff", false, SvgQRCode.SizingMode.ViewBoxAttribute);
    }
}
