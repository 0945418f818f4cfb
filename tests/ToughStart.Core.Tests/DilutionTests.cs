using CsCheck;
using ToughStart.Core.Chemistry;

namespace ToughStart.Core.Tests;

public class DilutionTests
{
    /// <summary>Two of anything in thirty of the same is one part in sixteen, whatever country the ounce is from.</summary>
    [Theory]
    [InlineData("2 oz in 30 oz", 1.0 / 16)]
    [InlineData("1 quart in 9 quarts", 0.1)]
    public void Nobody_is_asked_which_ounce_where_it_makes_no_difference(string text, double fraction) =>
        Dilution.ParseStrength(text).Value.ShouldBe(fraction, 1e-9);

    [Theory]
    [InlineData(-0.04, 1, "0")]
    [InlineData(-0.4, 0, "0")]
    [InlineData(0.04, 0, "0")]
    [InlineData(12.34, 1, "+12.3")]
    [InlineData(-12.34, 1, "−12.3")]
    public void A_difference_that_rounds_to_nothing_has_no_sign(double value, int digits, string written) =>
        Signed.Of(value, digits).ShouldBe(written);

    [Theory]
    [InlineData("1:9", 0.1)]
    [InlineData("10:1", 1 / 11.0)]
    [InlineData("1 in 10", 0.1)]
    [InlineData("10 %", 0.1)]
    [InlineData("2%", 0.02)]
    [InlineData("30 ml per l", 0.03)]
    [InlineData("50 ml in 450 ml", 0.1)]
    [InlineData("1 us-fl-oz per us-gal", 1 / 128.0)]
    [InlineData("1 imp-fl-oz per imp-gal", 1 / 160.0)]
    [InlineData("neat", 1)]
    [InlineData("1:0", 1)]
    public void Every_notation_reads_as_the_fraction_it_means(string text, double fraction)
    {
        Dilution.TryParse(text, null, out var reading, out var problem).ShouldBeTrue(problem);
        reading!.Fraction.Value.ShouldBe(fraction, 1e-12);
    }

    [Fact]
    public void Capfuls_need_to_know_the_cap()
    {
        Dilution.TryParse("2 capfuls in 10 l", null, out _, out var problem).ShouldBeFalse();
        problem!.ShouldContain("capful");
        Dilution.TryParse("2 capfuls in 10 l", 15, out var reading, out _).ShouldBeTrue();
        reading!.Fraction.Value.ShouldBe(30 / 10030.0, 1e-12);
    }

    [Fact]
    public void An_ambiguous_label_shows_its_other_reading()
    {
        Dilution.TryParse("10:1", null, out var reading, out _).ShouldBeTrue();
        reading!.OtherReading!.Value.Value.ShouldBe(0.1, 1e-12);
        reading.OtherMeans.ShouldNotBeNull();
    }

    [Theory]
    [InlineData("")]
    [InlineData("lots")]
    [InlineData("0:9")]
    [InlineData("120 %")]
    [InlineData("1 in 0.5")]
    [InlineData("5 l per l")]
    [InlineData("2 oz in a bucket")]
    [InlineData("2 oz per gal")]
    public void What_is_no_strength_says_so(string text)
    {
        Dilution.TryParse(text, null, out _, out var problem).ShouldBeFalse();
        problem.ShouldNotBeNullOrWhiteSpace();
    }

    [Fact]
    public void Units_follow_from_the_inch_and_the_imperial_gallon()
    {
        // NIST SP 811 appendix B.8: 1 in = 25.4 mm exactly; the US gallon is 231 cubic inches, its quart, pint and ounce a 4th,
        // 8th and 128th. The imperial gallon is 4.546 09 l exactly; quart 4th, pint 8th, ounce 160th.
        var usGallon = 231 * Math.Pow(2.54, 3);
        Dilution.Millilitres("us-gal").ShouldBe(usGallon, 1e-9);
        Dilution.Millilitres("us-quart").ShouldBe(usGallon / 4, 1e-6);
        Dilution.Millilitres("us-pint").ShouldBe(usGallon / 8, 1e-6);
        Dilution.Millilitres("us-fl-oz").ShouldBe(usGallon / 128, 1e-9);
        Dilution.Millilitres("imp-gal").ShouldBe(4546.09, 1e-9);
        Dilution.Millilitres("imp-quart").ShouldBe(4546.09 / 4, 1e-9);
        Dilution.Millilitres("imp-pint").ShouldBe(4546.09 / 8, 1e-9);
        Dilution.Millilitres("imp-fl-oz").ShouldBe(4546.09 / 160, 1e-9);
    }

    [Fact]
    public void Mixtures_keep_their_mass() =>
        Gen.Select(Gen.Double[0.001, 1], Gen.Double[1, 20000], Gen.Double[0, 500], Gen.Double[0, 5000])
            .Sample(
                (f, total, product, water) =>
                {
                    var mix = Dilution.ForTotal(ProductFraction.Of(f), total);
                    var more = Dilution.Add(mix, product, water);
                    return Math.Abs(mix.TotalMl - total) < 1e-9 * total
                        && Math.Abs(more.ProductMl - mix.ProductMl - product) < 1e-9 * (total + product)
                        && Math.Abs(more.Fraction.Value * more.TotalMl - more.ProductMl) < 1e-9 * more.TotalMl;
                }
            );

    [Fact]
    public void A_lance_bottle_and_the_panel_are_each_others_inverse() =>
        Gen.Select(Gen.Double[0.001, 1], Gen.Double[0.01, 1])
            .Sample(
                (panel, draw) =>
                {
                    var bottle = Dilution.BottleFor(ProductFraction.Of(panel), draw);
                    return panel > draw * (1 + 1e-12)
                        ? bottle is null
                        : bottle is null || Math.Abs(Dilution.OnPanel(bottle.Value, draw).Value - panel) < 1e-12;
                }
            );

    [Fact]
    public void Fifty_in_four_fifty_through_a_tenth_is_one_percent_on_the_panel()
    {
        // Worked example of the trade: 50 ml + 450 ml in the lance bottle is about 1 % on the panel.
        Dilution.OnPanel(Dilution.ParseStrength("50 ml in 450 ml"), 0.1).Value.ShouldBe(0.01, 1e-12);
    }

    [Fact]
    public void Strengths_print_and_read_back_the_same() =>
        Gen.OneOf(Gen.Int[1, 1000].Select(n => ProductFraction.OneTo(n)), Gen.Int[1, 10].Select(n => ProductFraction.Of(n / 200.0)))
            .Sample(f => Math.Abs(Dilution.ParseStrength(f.ToString()).Value - f.Value) < 1e-9);
}
