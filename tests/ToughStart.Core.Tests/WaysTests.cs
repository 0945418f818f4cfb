using ToughStart.Core.Formats;

namespace ToughStart.Core.Tests;

/// <summary>
/// Measures, money and days the shop's way. Values from NIST SP 811, appendix B: US fluid ounce 29.57353 ml, US gallon 3.785412 l,
/// inch 25.4 mm, square foot 0.09290304 m2, degree Fahrenheit 1.8 C + 32; UK fluid ounce 28.41306 ml, UK gallon 4.54609 l.
/// </summary>
public sealed class WaysTests
{
    private static readonly Ways Us = new("$", "sales tax", VolumeWay.UsOunces, true, true, "MMM d, yyyy", false);
    private static readonly Ways Uk = Us with { Volume = VolumeWay.ImperialOunces, Fahrenheit = false, Inches = false };

    [Theory]
    [InlineData("248 ml water, then 2.5 ml Gannet", "8.4 fl oz water, then 0.08 fl oz Gannet")]
    [InlineData("1.64 l water", "0.43 gal water")]
    [InlineData("film 20 °C", "film 68 °F")]
    [InlineData("at -5 °C", "at 23 °F")]
    [InlineData("20 to 30 °C", "68 to 86 °F")]
    [InlineData("from 30 cm on", "from 11.8 in on")]
    [InlineData("7.5 l/min", "2 gal/min")]
    [InlineData("10 m² of paint", "108 sq ft of paint")]
    [InlineData("1:9 in 10 l", "1:9 in 2.6 gal")]
    [InlineData("left front door, 3 lines", "left front door, 3 lines")]
    [InlineData("92 µm, 5 min, 4 lumps, 2 large", "92 µm, 5 min, 4 lumps, 2 large")]
    [InlineData("20&#xB0;C", "68 °F")]
    public void A_us_shop_reads_its_own_measures(string metric, string us) => Us.Say(metric).ShouldBe(us);

    [Fact]
    public void Ounces_of_both_kinds_differ()
    {
        Us.Say("1000 ml").ShouldBe("33.8 fl oz");
        Uk.Say("1000 ml").ShouldBe("35.2 fl oz");
        Uk.Say("100 l").ShouldBe("22 gal");
        Uk.Say("20 °C, 30 cm").ShouldBe("20 °C, 30 cm");
    }

    [Fact]
    public void A_metric_shop_reads_what_is_written()
    {
        const string text = "248.5 ml at 20 °C, engine 1.0";
        Ways.Standard.Say(text).ShouldBeSameAs(text);
        (Ways.Standard with { DecimalComma = true }).Say("248.5 ml, 12:30, 1:9, 0.25 m²").ShouldBe("248,5 ml, 12:30, 1:9, 0,25 m²");
    }

    [Fact]
    public void Money_days_and_tax()
    {
        Us.Money(12.5).ShouldBe("$ 12.50");
        (Us with { Currency = "CHF" }).Money(12.5).ShouldBe("12.50 CHF");
        Ways.Standard.Money(12.5, 0).ShouldBe("12");
        Us.BeforeTax.ShouldBe("before sales tax");
        Us.Of(new DateOnly(2026, 11, 4)).ShouldBe("Nov 4, 2026");
        Ways.Standard.Of(new DateOnly(2026, 11, 4)).ShouldBe("4 Nov 2026");
    }

    [Theory]
    [InlineData("d MMM yyyy", "Wednesday 4 November 2026", "Wednesday 4 November")]
    [InlineData("MMM d, yyyy", "Wednesday November 4, 2026", "Wednesday November 4")]
    [InlineData("yyyy-MM-dd", "Wednesday 2026-11-04", "Wednesday 11-04")]
    [InlineData("dd/MM/yyyy", "Wednesday 04/11/2026", "Wednesday 04/11")]
    public void A_heading_says_the_day_in_the_shops_order(string pattern, string whole, string shorter)
    {
        var ways = Ways.Standard with { Day = pattern };
        ways.Heading(new DateOnly(2026, 11, 4)).ShouldBe(whole);
        ways.Heading(new DateOnly(2026, 11, 4), year: false).ShouldBe(shorter);
    }
}
