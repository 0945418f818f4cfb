using UglyToad.PdfPig;
using UglyToad.PdfPig.Content;

namespace ToughStart.Web.Tests;

/// <summary>What comes out of the printer, read back from the PDF: nothing cut, nothing tiny, as few pages as promised.</summary>
[Collection("app")]
public sealed class PaperTests(AppFixture app)
{
    /// <summary>A4 and Letter, mm.</summary>
    private static readonly (string Name, double Width, double Height)[] Papers = [("A4", 210, 297), ("Letter", 215.9, 279.4)];

    /// <summary>What a wet hand can read at arm's length, points.</summary>
    private const double LeastPoints = 9;

    [Fact]
    public void Every_card_is_two_pages_at_most_readable_and_whole()
    {
        using var b = new Browser();
        foreach (var number in Enumerable.Range(104, 9))
        {
            b.Go(app.Address, $"/jobs/{number}/card");
            foreach (var (name, width, height) in Papers)
            {
                using var pdf = PdfDocument.Open(b.Printed(width, height));
                var pages = pdf.GetPages().ToArray();
                pages.Length.ShouldBeLessThanOrEqualTo(2, $"card {number} on {name}");
                foreach (var page in pages)
                {
                    Whole(page, $"card {number} on {name}, page {page.Number}");
                    page.Letters.Where(l => !string.IsNullOrWhiteSpace(l.Value))
                        .Min(l => l.PointSize)
                        .ShouldBeGreaterThanOrEqualTo(LeastPoints - 0.01, $"card {number} on {name}");
                }

                var text = pages.Select(p => string.Concat(p.Letters.Select(l => l.Value))).ToArray();
                text.Count(t => t.Contains("Signature", StringComparison.Ordinal)).ShouldBeLessThanOrEqualTo(1);
                if (text.FirstOrDefault(t => t.Contains("Signature", StringComparison.Ordinal)) is { } signed)
                {
                    signed.ShouldContain("Client");
                    signed.ShouldContain("Brake test", customMessage: "who signs sees what is signed for");
                }
            }
        }
    }

    [Fact]
    public void A_card_names_the_bottle_the_water_and_the_product_and_shows_where()
    {
        using var b = new Browser();
        b.Go(app.Address, "/jobs/104/card");
        var pours = b.Texts(".card-pour");
        pours.ShouldContain(p => p.Contains("water, then", StringComparison.Ordinal));
        pours.ShouldAllBe(p => p.Contains(':', StringComparison.Ordinal));
        b.All(".card-step").Count.ShouldBe(b.All(".card-step .mini").Count);
        (
            (long)
                b.Driver.ExecuteScript(
                    "return [...document.querySelectorAll('.card-step')].filter(s => !s.querySelector('.mini-on use')).length"
                )!
        ).ShouldBe(0, "a step that shows no zone");
    }

    [Fact]
    public void Labels_fit_their_sheet_and_nothing_on_them_is_cut()
    {
        using var b = new Browser();
        b.Go(app.Address, "/bottles/labels?n=1&n=2&n=3");
        b.All(".label-card").Count.ShouldBe(3);
        foreach (var (name, width, height) in Papers)
        {
            using var pdf = PdfDocument.Open(b.Printed(width, height));
            pdf.NumberOfPages.ShouldBe(1, name);
            Whole(pdf.GetPage(1), $"labels on {name}");
        }

        (
            (IEnumerable<object>)
                b.Driver.ExecuteScript(
                    "return [...document.querySelectorAll('.label-card, .label-card p')].filter(e => e.scrollHeight > e.clientHeight + 2).map(e => `${e.className} ${e.scrollHeight} in ${e.clientHeight}: ${e.innerText}`)"
                )!
        ).ShouldBeEmpty("text cut off on a label");
    }

    /// <summary>Everything that is printed lies inside the paper, clear of the edge that printers cannot reach (4 mm).</summary>
    private static void Whole(Page page, string what)
    {
        const double edge = 4 / 25.4 * 72;
        foreach (var l in page.Letters.Where(l => !string.IsNullOrWhiteSpace(l.Value)))
        {
            var box = l.BoundingBox;
            (box.Left >= edge && box.Right <= page.Width - edge && box.Bottom >= edge && box.Top <= page.Height - edge).ShouldBeTrue(
                $"{what}: '{l.Value}' at {box}"
            );
        }
    }
}
