using System.Diagnostics;
using System.Globalization;
using CsCheck;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Tests;

/// <summary>The arithmetic of mixing against conversions, charts and worked numbers from outside.</summary>
public class MixingTests
{
    private static readonly Catalogue C = Catalogue.Default;

    private static ProductFraction F(string text) => Dilution.ParseStrength(text);

    private static readonly Dictionary<string, string> GnuNames = new()
    {
        ["ml"] = "ml",
        ["l"] = "liter",
        ["us-fl-oz"] = "usfloz",
        ["us-pint"] = "uspint",
        ["us-quart"] = "usquart",
        ["us-gal"] = "usgallon",
        ["imp-fl-oz"] = "brfluidounce",
        ["imp-pint"] = "brpint",
        ["imp-quart"] = "brquart",
        ["imp-gal"] = "brgallon",
    };

    [Fact]
    public void Every_pair_of_units_converts_as_gnu_units_does()
    {
        // GNU units 2.22 from Debian, whose definitions cite NIST SP 811 and the UK Weights and Measures Act.
        GnuNames.Keys.Order().ShouldBe(Dilution.Units.Order());
        foreach (var a in Dilution.Units)
        {
            foreach (var b in Dilution.Units)
            {
                (Dilution.Millilitres(a) / Dilution.Millilitres(b)).ShouldBe(
                    Gnu(GnuNames[a], GnuNames[b]),
                    1e-9 * Gnu(GnuNames[a], GnuNames[b]),
                    $"{a} in {b}"
                );
            }
        }
    }

    [Fact]
    public void Hardness_force_and_pressure_convert_as_gnu_units_does()
    {
        C["hardness-gpg"].ShouldBe(Gnu("grain/usgallon", "mg/liter"), 0.001);
        C["hardness-eh"].ShouldBe(Gnu("grain/brgallon", "mg/liter"), 0.001);
        C["psi-per-mpa"].ShouldBe(Gnu("MPa", "psi"), 1e-5);
        C["newton-per-lbf"].ShouldBe(Gnu("lbf", "N"), 1e-12);
        // 1 °dH is 10 mg CaO per litre; molar masses of CaCO3 and CaO by IUPAC 2021: 100.0869 and 56.0774 g/mol.
        C["hardness-dh"].ShouldBe(10 * 100.0869 / 56.0774, 0.002);
    }

    private static double Gnu(string from, string to)
    {
        using var p = Process.Start(
            new ProcessStartInfo("/usr/bin/units", ["--terse", "--digits", "15", from, to])
            {
                RedirectStandardOutput = true,
                RedirectStandardError = true,
                Environment = { ["HOME"] = Path.GetTempPath() },
            }
        )!;
        var text = p.StandardOutput.ReadToEnd().Trim();
        p.WaitForExit();
        return double.Parse(text.Split('\n')[0], CultureInfo.InvariantCulture);
    }

    [Theory]
    [InlineData("4 oz per gal", "us-fl-oz per us-gal", "3.13", "imp-fl-oz per imp-gal", "2.5")]
    [InlineData("2 ounces in 1 gallon", "us-fl-oz in 1 us-gal", "1.54", "imp-fl-oz in 1 imp-gal", "1.23")]
    public void Ounces_of_nobody_knows_what_are_refused_with_both_readings_and_their_effect(
        string text,
        string us,
        string usPercent,
        string imp,
        string impPercent
    )
    {
        Dilution.TryParse(text, null, out _, out var problem).ShouldBeFalse();
        foreach (var part in new[] { us, usPercent, imp, impPercent })
        {
            problem!.ShouldContain(part);
        }

        Dilution.Either(text).Select(e => Dilution.TryParse(e, null, out _, out _)).ShouldBe([true, true]);
    }

    [Theory]
    [InlineData("100 ml in a lance two-thirds full", 1000.0, 100 / (100 + 2000 / 3.0))]
    [InlineData("100 ml in a 1000 ml lance 2/3 full", null, 100 / (100 + 2000 / 3.0))]
    [InlineData("50 ml in a bottle half full", 500.0, 50 / 300.0)]
    [InlineData("50 ml in a bottle full", 500.0, 0.1)]
    [InlineData("50 ml + 450 ml", null, 0.1)]
    [InlineData("30ml/l", null, 0.03)]
    public void A_dose_in_a_part_full_container_reads_as_what_is_in_it(string text, double? container, double fraction)
    {
        Dilution.TryParse(text, null, out var reading, out var problem, container).ShouldBeTrue(problem);
        reading!.Fraction.Value.ShouldBe(fraction, 1e-12);
    }

    [Fact]
    public void A_part_full_container_of_unknown_size_asks_for_its_size()
    {
        Dilution.TryParse("100 ml in a lance two-thirds full", null, out _, out var problem).ShouldBeFalse();
        problem!.ShouldContain("how much the container holds");
        Dilution.TryParse("900 ml in a lance half full", null, out _, out problem, 1000).ShouldBeFalse();
        problem!.ShouldContain("more product");
    }

    [Fact]
    public void Any_two_of_four_settle_the_rest_and_a_third_is_checked() =>
        Gen.Select(Gen.Double[0.001, 0.999], Gen.Double[1, 20_000])
            .Sample(
                (f, total) =>
                {
                    var (s, p, w, t) = (ProductFraction.Of(f), f * total, (1 - f) * total, total);
                    MixGiven[] ways =
                    [
                        new(s, p),
                        new(s, null, w),
                        new(s, null, null, t),
                        new(null, p, w),
                        new(null, p, null, t),
                        new(null, null, w, t),
                        new(s, p, w),
                        new(s, p, w, t),
                    ];
                    return ways.All(g =>
                            g.Solve() is { Ok: true, Value: { } m }
                            && Math.Abs(m.ProductMl - p) < 1e-6 * t
                            && Math.Abs(m.TotalMl - t) < 1e-6 * t
                            && Math.Abs(m.ProductMl + m.WaterMl - m.TotalMl) <= 1e-9 * m.TotalMl
                        )
                        && new MixGiven(s, p * 1.01, null, t).Solve().Problems.Count > 0;
                }
            );

    [Theory]
    [InlineData(null, -5.0, null, 100.0, "productMl")]
    [InlineData(null, 0.0, null, 100.0, "productMl")]
    [InlineData(null, 200.0, null, 100.0, "totalMl")]
    [InlineData(0.1, null, null, null, "(mix)")]
    [InlineData(1.0, null, 50.0, null, "waterMl")]
    [InlineData(0.1, 50.0, 100.0, null, "strength")]
    [InlineData(0.1, null, double.NaN, null, "waterMl")]
    [InlineData(0.0001, 5000.0, null, null, "totalMl")]
    public void What_cannot_be_a_mix_names_the_field(double? f, double? product, double? water, double? total, string field)
    {
        var solved = new MixGiven(f is { } v ? ProductFraction.Of(v) : null, product, water, total).Solve();
        solved.Ok.ShouldBeFalse();
        solved.Problems.ShouldContain(p => p.Field == field, string.Join("; ", solved.Problems));
    }

    [Fact]
    public void Topping_up_a_one_to_five_to_one_to_fifteen_is_the_trades_clay_lubricant()
    {
        // Worked example of the trade: lubricant made by topping up a 1:5 bottle to between 1:10 and 1:20.
        var top = TopUp.To(Dilution.ForTotal(F("1:5"), 300), F("1:15"), null, 1000).Value!;
        top.AddWaterMl.Value.ShouldBe(500, 1e-9);
        top.AddProductMl.Value.ShouldBe(0, 1e-9);
        top.Result.TotalMl.ShouldBe(800, 1e-9);
        var small = TopUp.To(Dilution.ForTotal(F("1:5"), 300), F("1:15"), null, 500).Value!;
        small.PourOutMl.Value.ShouldBe(300 - 500 * 6 / 16.0, 1e-9);
        TopUp.OfUnknown(300, false).MostMl.ShouldBe(0);
        TopUp.OfUnknown(300, true).MostMl.ShouldBe(300);
    }

    [Fact]
    public void Topping_up_keeps_mass_and_never_overflows() =>
        Gen.Select(Gen.Double[0.001, 1], Gen.Double[0.001, 0.999], Gen.Double[1, 1000], Gen.Double[1, 4])
            .Sample(
                (f0, f, rest, room) =>
                {
                    var now = Dilution.ForTotal(ProductFraction.Of(f0), rest);
                    var t = TopUp.To(now, ProductFraction.Of(f), null, rest * room).Value!;
                    var product = t.KeepMl * f0 + t.AddProductMl;
                    var total = t.KeepMl + t.AddProductMl + t.AddWaterMl;
                    return Math.Abs(product - f * total) <= 1e-9 * total
                        && total <= rest * room * (1 + 1e-9)
                        && Math.Abs(t.KeepMl + t.PourOutMl - rest) <= 1e-9 * rest
                        && t.AddProductMl >= 0
                        && t.AddWaterMl >= 0
                        && t.PourOutMl >= -1e-9
                        && Math.Abs(t.Result.ProductMl - product) <= 1e-9 * total;
                }
            );

    [Fact]
    public void A_jug_shows_the_strength_it_really_makes()
    {
        var pour = JugPour.Of(Dilution.ForTotal(F("1:450"), 10_000), 25, 100);
        pour.ProductMl.ShouldBe(25);
        pour.TrueStrength!.Value.Value.ShouldBe(25 / 10_025.0, 1e-9);
        pour.GoodEnough.ShouldBeFalse("22 ml poured as 25 ml is more than a tenth off");
        JugPour.Of(Dilution.ForTotal(F("1:450"), 10_000), 1, 100).GoodEnough.ShouldBeTrue();
        JugPour.Of(Dilution.ForTotal(F("1:450"), 500), 10, 10).TrueStrength.ShouldBeNull();
    }

    [Fact]
    public void From_the_least_batch_on_a_jug_is_exact_enough() =>
        Gen.Select(Gen.Double[0.002, 0.5], Gen.Int[0, 3].Select(i => new[] { 1.0, 5, 10, 25 }[i]), Gen.Double[1.2, 8])
            .Sample(
                (f, mark, times) =>
                {
                    var least = JugPour.Of(Dilution.ForTotal(ProductFraction.Of(f), 100_000), mark, 1).LeastTotalMl;
                    return JugPour.Of(Dilution.ForTotal(ProductFraction.Of(f), least * times), mark, 0.1).GoodEnough;
                }
            );

    [Fact]
    public void A_batch_is_shared_at_one_strength_and_what_does_not_fit_is_said() =>
        Gen.Select(Gen.Double[0.01, 1], Gen.Double[50, 8000], Gen.Double[100, 5000].Array[1, 6])
            .Sample(
                (f, total, sizes) =>
                {
                    var (fills, left) = Filling.Split(ProductFraction.Of(f), total, sizes.Select((ml, i) => new Fillable($"{i}", "", ml)));
                    return Math.Abs(fills.Sum(x => x.Mix.TotalMl) + left - total) <= 1e-9 * total
                        && fills.All(x => x.Mix.TotalMl <= x.Container.Ml * 0.95 + 1e-9 && Math.Abs(x.Mix.Fraction.Value - f) < 1e-12)
                        && fills.Select(x => x.Container.Id).Distinct().Count() == fills.Count;
                }
            );

    [Theory]
    [InlineData(30, 15_000, "inside")] // 30 to 60 ml a wash bucket is what people pour; labels run from 1:300 to 1:600
    [InlineData(60, 10_000, "over")]
    [InlineData(5, 15_000, "under")]
    public void Ounces_in_a_bucket_are_weighed_against_the_label(double dose, double water, string fit)
    {
        BucketDose.Of(dose, water, F("1:600"), F("1:300")).Fit.ShouldBe(fit);
        var (rich, thin, words) = BucketDose.OfUnknownBucket(dose);
        rich.ShouldBeGreaterThan(thin);
        words.ShouldContain("10 to 20 l");
    }

    [Fact]
    public void A_timed_bottle_calibrates_the_lance()
    {
        // 1 l in 100 s is 0.6 l/min; with 7.5 l/min from the washer 0.6 of 8.1 l/min leaving the lance.
        var draw = LanceDraw.From([new LanceTrial(1000, 100, 7.5)]);
        draw.Ratio.ShouldBe(0.6 / 8.1, 1e-12);
        LanceDraw.From([new LanceTrial(1000, 100, 8.1, MeasuredAtLance: true)]).Ratio.ShouldBe(0.6 / 8.1, 1e-12);
        draw.Low.ShouldBeLessThan(draw.Ratio);
        var steady = LanceDraw.From([new(1000, 100, 7.5), new(1000, 101, 7.5), new(1000, 99, 7.5)]);
        (steady.High - steady.Low).ShouldBeLessThan(draw.High - draw.Low, "repeating narrows the band");
        var wild = LanceDraw.From([new(1000, 60, 7.5), new(1000, 100, 7.5), new(1000, 160, 7.5)]);
        (wild.High / wild.Ratio).ShouldBeGreaterThan(steady.High / steady.Ratio, "trials that disagree widen it");
    }

    [Fact]
    public void An_uncalibrated_lance_is_a_tenth_shown_as_four_to_seventeen_hundredths()
    {
        var l = LanceDraw.Uncalibrated;
        (l.Ratio, l.Low, l.High, l.Calibrated).ShouldBe((0.1, 0.04, 0.17, false));
        // Worked example of the trade: two-thirds water and 100 ml in a litre bottle.
        Dilution.TryParse("100 ml in a lance two-thirds full", null, out var reading, out _, 1000);
        l.OnPanel(reading!.Fraction).Expected.Value.ShouldBeInRange(0.01, 0.02);
    }

    [Fact]
    public void Out_of_reach_names_the_richest_and_a_flow_that_would_do()
    {
        var answer = LanceDraw.From([new LanceTrial(500, 100, 10)]).BottleFor(F("4 %"), 10);
        answer.Bottle.ShouldBeNull();
        answer.Richest!.Value.Value.ShouldBe(0.3 / 10.3, 1e-9);
        answer.WhatToChange.ShouldContain(w => w.Contains("pump sprayer", StringComparison.Ordinal));
        // With 0.3 l/min drawn, 4 % is reached at 0.3/0.04 = 7.5 l/min leaving the lance, 7.2 of them from the washer.
        answer.WhatToChange.ShouldContain(w => w.Contains("7.2 l/min", StringComparison.Ordinal));
    }

    [Fact]
    public void Bottle_and_panel_are_inverse_and_richer_means_richer() =>
        Gen.Select(Gen.Double[0.01, 0.5], Gen.Double[0.001, 1])
            .Sample(
                (draw, bottle) =>
                {
                    var l = new LanceDraw(draw, draw * 0.8, draw * 1.2, 1);
                    var on = l.OnPanel(ProductFraction.Of(bottle));
                    return Math.Abs(l.BottleFor(on.Expected).Bottle!.Value.Value - bottle) < 1e-9
                        && on.Low < on.Expected
                        && on.Expected < on.High;
                }
            );

    [Theory]
    // Capacity chart of pressure nozzles (US gal/min), as handbooks print it; from memory, two decimals.
    [InlineData(2, 1000, 1.00)]
    [InlineData(2, 2000, 1.41)]
    [InlineData(2, 3000, 1.73)]
    [InlineData(3, 1500, 1.84)]
    [InlineData(4, 2500, 3.16)]
    [InlineData(4, 4000, 4.00)]
    [InlineData(5.5, 3000, 4.76)]
    public void Nozzle_flow_is_that_of_the_charts(double size, double psi, double gpm)
    {
        var n = new Nozzle(size, 40, psi);
        n.GallonsPerMinute.ShouldBe(gpm, 0.006);
        Nozzle.SizeFor(n.LitresPerMinute, psi).ShouldBe(size, 1e-9);
        // Handbook formula for theoretical impact: 0.0526 × gpm × √psi in lbf.
        (n.ForceNewton / C["newton-per-lbf"]).ShouldBe(0.0526 * n.GallonsPerMinute * Math.Sqrt(psi), 0.002 * n.ForceNewton);
    }

    [Theory]
    // Theoretical coverage table of spray handbooks, cm; from memory.
    [InlineData(15, 30, 7.9)]
    [InlineData(25, 20, 8.9)]
    [InlineData(40, 15, 10.9)]
    [InlineData(65, 25, 31.9)]
    [InlineData(80, 30, 50.4)]
    public void Fan_width_is_that_of_the_coverage_table(double angle, double cm, double width) =>
        (new Nozzle(2, angle, 2000).FanWidth(cm / 100) * 100).ShouldBe(width, 0.1);

    [Fact]
    public void The_reference_nozzle_keeps_the_distances_of_the_table_and_split_lacquer_is_never_aimed_at()
    {
        foreach (var s in C.StandOffs)
        {
            (s.Closest(Nozzle.Reference) is { } cm ? Math.Round(cm) : (double?)null).ShouldBe(s.ReferenceCentimetres);
        }

        C.StandOffs.Where(s => s.ReferenceCentimetres is null)
            .Select(s => s.Id)
            .ShouldBe(["split", "bearing", "radiator", "electrics"], ignoreOrder: true);
        StandOff.For("clear-coat", Family.Body, split: true).ShouldBe("split");
        foreach (var s in C.Surfaces)
        {
            C.StandOffs.ShouldContain(x => x.Id == StandOff.For(s.Id, s.Family, false), s.Id);
        }
    }

    [Fact]
    public void Harder_jets_need_more_distance() =>
        Gen.Select(Gen.Double[0.5, 8], Gen.Double[15, 60], Gen.Double[300, 4000], Gen.Double[1.05, 2])
            .Sample(
                (size, angle, psi, more) =>
                {
                    var n = new Nozzle(size, angle, psi);
                    return C
                        .StandOffs.Where(s => s.ReferenceCentimetres is not null)
                        .All(s =>
                            s.Closest(n with { Psi = Math.Min(6000, psi * more) }) >= s.Closest(n)
                            && s.Closest(n with { AngleDegrees = angle / more }) >= s.Closest(n)
                            && s.Closest(n with { Size = size * more }) >= s.Closest(n)
                            && n.MeanKilopascal(s.Closest(n)!.Value / 100) <= s.MostKilopascal!.Value * 1.0001
                        );
                }
            );

    [Fact]
    public void Dilution_moves_ph_by_at_most_the_log_and_never_past_seven() =>
        Gen.Select(Gen.Double[0, 14], Gen.Double[0.0005, 1])
            .Sample(
                (ph, f) =>
                {
                    var d = DilutedPh.Mildest(ph, ProductFraction.Of(f));
                    return ph < 7 ? d >= ph && d <= 7 && d <= ph + Math.Log10(1 / f) + 1e-9 : d <= ph && d >= 7;
                }
            );

    [Fact]
    public void Ph_thresholds_are_those_of_ghs()
    {
        // UN GHS chapter 3.2.3.1: pH <= 2 and >= 11.5.
        (
            DilutedPh.PotentiallyCorrosive(2),
            DilutedPh.PotentiallyCorrosive(2.01),
            DilutedPh.PotentiallyCorrosive(11.49),
            DilutedPh.PotentiallyCorrosive(11.5)
        ).ShouldBe((true, false, false, true));
        DilutedPh.Mildest(1, F("1:99")).ShouldBe(3, 1e-9);
        DilutedPh.Mildest(13, F("1:99")).ShouldBe(11, 1e-9);
        // 0.01 mol/l of a strong alkali is pH 12: a tenth of 0.1 mol/l (pH 13), as any table of pH against concentration has it.
        DilutedPh.Mildest(13, F("1:9")).ShouldBe(12, 1e-9);
    }

    [Theory]
    // USGS Water Science School: 0-60 soft, 61-120 moderately hard, 121-180 hard, more than 180 very hard.
    [InlineData(60, "soft")]
    [InlineData(61, "moderate")]
    [InlineData(121, "hard")]
    [InlineData(181, "very hard")]
    public void Hardness_classes_are_those_of_usgs(double mg, string name) => WaterHardness.Advise(mg).Class.ShouldBe(name);

    [Fact]
    public void A_film_that_dries_leaves_what_it_held()
    {
        // 0.05 mm of water on a square metre is 50 ml; at 300 mg/l that is 15 mg.
        WaterHardness.ResidueMgPerM2(300, 50).ShouldBe(15, 1e-12);
        WaterHardness.Advise(300).ShouldSatisfyAllConditions(a => a.Soften.ShouldBeTrue(), a => a.DryingOrder[0].ShouldBe("glass"));
        WaterHardness.Advise(40).Soften.ShouldBeFalse();
        foreach (var (unit, _) in WaterHardness.Units)
        {
            WaterHardness.In(WaterHardness.MgPerLitre(7, unit), unit).ShouldBe(7, 1e-12);
        }
    }

    [Theory]
    [InlineData("1:9", -5.0, null, null, "totalMl")]
    [InlineData("1:0.", 100.0, null, null, "strength")]
    [InlineData("0:1", 100.0, null, null, "strength")]
    [InlineData("140 %", 100.0, null, null, "strength")]
    [InlineData("1:9", 1000.0, 500.0, null, "containerMl")]
    [InlineData("50 %", null, null, 0.1, "strength")]
    [InlineData(null, null, null, null, "strength")]
    [InlineData("2 oz per gal", null, null, null, "strength")]
    public void Bad_mixes_name_the_field(string? strength, double? total, double? container, double? lance, string field)
    {
        var answer = Calculators.Mix(new MixRequest(strength, total, ContainerMl: container, LanceDraw: lance));
        answer.Ok.ShouldBeFalse();
        answer.Problems[0].Field.ShouldBe(field);
    }

    [Fact]
    public void The_bench_answers_a_whole_question_at_once()
    {
        var a = Calculators.Mix(new MixRequest("1:9", 900, JugMl: 50, Containers: [500, 500, 1000], Agent: "degreaser")).Value!;
        (a.ProductMl, a.WaterMl, a.Jug!.ProductMl).ShouldBe((90, 810, 100));
        a.Fills.Single().ContainerMl.ShouldBe(1000);
        a.Safety.ShouldContain(s => s.StartsWith("Water first", StringComparison.Ordinal));
        a.Safety.ShouldContain(s => s.Contains("hydrogen", StringComparison.Ordinal));
        Calculators
            .Mix(new MixRequest("1:15", RemainderMl: 300, RemainderStrength: "1:5", ContainerMl: 1000))
            .Value!.TopUp!.AddWaterMl.ShouldBe(500, 1e-9);
        Calculators.Mix(new MixRequest("1:15", RemainderMl: 300)).Problems[0].Message.ShouldContain("none");
        Calculators.Mix(new MixRequest(ProductMl: 50, WaterMl: 450)).Value!.Fraction.ShouldBe(0.1, 1e-12);
        var lance = Calculators.Lance(new LanceRequest(OnPanel: "30 %")).Value!;
        (lance.Reachable, lance.Richest).ShouldBe((false, 0.1));
        Calculators.Nozzle(new NozzleRequest(2, null, 25, 2000)).Value!.StandOff.First(s => s.Id == "split").ClosestCm.ShouldBeNull();
        Calculators.Nozzle(new NozzleRequest(2, null, 25)).Problems[0].Field.ShouldBe("psi");
        Calculators.Ph(new PhRequest(15, "1:9")).Problems[0].Field.ShouldBe("neatPh");
        Calculators.Hardness(new HardnessRequest(double.NaN)).Problems[0].Field.ShouldBe("value");
        Calculators.Hardness(new HardnessRequest(20, "dh")).Value!.Class.ShouldBe("very hard");
    }
}
