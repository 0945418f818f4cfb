using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;
using ToughStart.Core.Surfaces;

namespace ToughStart.Core.Chemistry;

/// <summary>Mixing: any notation, rests topped up, jugs.</summary>
public static partial class Calculators
{
    private static readonly string[] Notations =
    [
        "1:9",
        "10:1",
        "1 in 10",
        "2 %",
        "30 ml per l",
        "50 ml in 450 ml",
        "2 us-fl-oz per us-gal",
        "2 capfuls in 10 l",
        "neat",
    ];

    public static Checked<MixAnswer> Mix(MixRequest r)
    {
        StrengthReading? reading = null;
        if (!string.IsNullOrWhiteSpace(r.Strength) && Strength("strength", r.Strength, r.CapfulMl, r.ContainerMl, out reading) is { } bad)
        {
            return new(null, [bad]);
        }

        if (reading is null && (r.ProductMl ?? r.WaterMl ?? r.TotalMl) is null)
        {
            return new(null, [new Problem("strength", "is missing", Notations)]);
        }

        Agent? agent = null;
        if (r.Agent is not null && (agent = Catalogue.Default.Agents.FirstOrDefault(a => a.Id == r.Agent && !a.IsWater)) is null)
        {
            return new(
                null,
                [
                    new Problem(
                        "agent",
                        $"'{r.Agent}' is not known",
                        Catalogue.Default.Agents.Where(a => !a.IsWater).Select(a => a.Id).ToArray()
                    ),
                ]
            );
        }

        if (r.ContainerMl is { } size && !(size is > 0 and <= MixGiven.MostMl))
        {
            return new(null, [new Problem("containerMl", $"is more than 0 and at most {MixGiven.MostMl:0} ml")]);
        }

        var wanted = reading?.Fraction;
        ProductFraction? onPanel = null;
        if (r.LanceDraw is { } draw)
        {
            if (!(draw is > 0 and <= 1))
            {
                return new(null, [new Problem("lanceDraw", "is greater than 0 and at most 1")]);
            }

            if (wanted is not { } target)
            {
                return new(null, [new Problem("strength", "is needed on the panel when a lance is named", Notations)]);
            }

            if (Dilution.BottleFor(target, draw) is not { } bottle)
            {
                return new(
                    null,
                    [
                        new Problem(
                            "strength",
                            $"not reachable with this lance: the richest it can put on the panel is {draw * 100:0.##} % (neat "
                                + $"in the bottle)"
                        ),
                    ]
                );
            }

            (onPanel, wanted) = (target, bottle);
        }

        if (r.RemainderMl is not null || r.RemainderStrength is not null)
        {
            return TopUpMix(r, reading!, wanted, onPanel, agent);
        }

        var total = r.TotalMl
            ?? (r.ProductMl ?? r.WaterMl) switch
            {
                null => r.ContainerMl is { } holds ? holds * Catalogue.Default["fill-most"] : 1000,
                _ => (double?)null,
            };
        var solved = new MixGiven(wanted, r.ProductMl, r.WaterMl, total).Solve();
        if (!solved.Ok)
        {
            return new(null, solved.Problems);
        }

        var mix = solved.Value!;
        if (r.ContainerMl is { } room && mix.TotalMl > room * (1 + 1e-9))
        {
            return new(
                null,
                [
                    new Problem(
                        "containerMl",
                        $"holds {room:0} ml; the mix is {mix.TotalMl:0} ml ({mix.ProductMl:0.#} ml of it product): "
                            + $"a larger container, or share it out"
                    ),
                ]
            );
        }

        return Finish(
            r,
            reading ?? new StrengthReading(mix.Fraction, $"1 part product to {1 / mix.Fraction.Value - 1:0.##} parts water", null, null),
            mix,
            onPanel,
            null,
            agent
        );
    }

    private static Problem? Strength(string field, string? text, double? capfulMl, double? containerMl, out StrengthReading? reading)
    {
        reading = null;
        if (string.IsNullOrWhiteSpace(text))
        {
            return new Problem(field, "is missing", Notations);
        }

        return text.Length > 120 ? new Problem(field, "is at most 120 characters", Notations)
            : capfulMl is { } cap && !(cap is > 0 and <= 500) ? new Problem("capfulMl", "is more than 0 and at most 500 ml")
            : Dilution.TryParse(text, capfulMl, out reading, out var problem, containerMl) ? null
            : new Problem(field, problem!, Dilution.Either(text) is { Count: > 0 } either ? either : null);
    }

    private static Checked<MixAnswer> TopUpMix(
        MixRequest r,
        StrengthReading? reading,
        ProductFraction? wanted,
        ProductFraction? onPanel,
        Agent? agent
    )
    {
        if (wanted is not { } target)
        {
            return new(null, [new Problem("strength", "is the strength to end with", Notations)]);
        }

        if (r.RemainderMl is not { } rest || !(rest is > 0 and <= MixGiven.MostMl))
        {
            return new(null, [new Problem("remainderMl", $"is more than 0 and at most {MixGiven.MostMl:0} ml")]);
        }

        if (r.RemainderStrength is null or "unknown")
        {
            var (_, why) = TopUp.OfUnknown(rest, false);
            return new(null, [new Problem("remainderStrength", $"nobody knows how strong it is. How much of it may be used: {why}")]);
        }

        if (Strength("remainderStrength", r.RemainderStrength, r.CapfulMl, r.ContainerMl, out var now) is { } bad)
        {
            return new(null, [bad]);
        }

        var top = TopUp.To(
            Dilution.ForTotal(now!.Fraction, rest),
            target,
            r.TotalMl,
            r.ContainerMl ?? Math.Max(r.TotalMl ?? 0, rest * 100)
        );
        return top.Ok
            ? Finish(r, reading!, top.Value!.Result, onPanel, top.Value, agent)
            : new(null, top.Problems.Select(p => p.Field == "capacityMl" ? p with { Field = "containerMl" } : p).ToArray());
    }

    private static Checked<MixAnswer> Finish(
        MixRequest r,
        StrengthReading reading,
        Mixture mix,
        ProductFraction? onPanel,
        TopUp? top,
        Agent? agent
    )
    {
        if (r.JugMl is { } mark && !(mark is >= 0.1 and <= 1000))
        {
            return new(null, [new Problem("jugMl", "is 0.1 to 1000 ml: the smallest mark of the jug")]);
        }

        if (r.Containers is { } list && (list.Count > 40 || list.Any(ml => !(ml is > 0 and <= MixGiven.MostMl))))
        {
            return new(null, [new Problem("containers", $"are at most 40, each more than 0 and at most {MixGiven.MostMl:0} ml")]);
        }

        var jug = r.JugMl is { } m
            ? JugPour.Of(
                top is null
                    ? mix
                    : new Mixture(mix.Fraction, Math.Max(top.AddProductMl, 1e-9), mix.TotalMl - Math.Max(top.AddProductMl, 1e-9)),
                m,
                Math.Max(m, 10)
            )
            : null;
        if (top is not null && jug is not null)
        {
            // Only what is added can be rounded; what is in the bottle stays as it is.
            var added = Math.Round(top.AddProductMl / r.JugMl!.Value, MidpointRounding.AwayFromZero) * r.JugMl.Value;
            var real = (mix.ProductMl - top.AddProductMl + added) / (mix.TotalMl - top.AddProductMl + added);
            jug = jug with
            {
                ProductMl = added,
                WaterMl = Math.Round(top.AddWaterMl / Math.Max(r.JugMl.Value, 10)) * Math.Max(r.JugMl.Value, 10),
                TrueStrength = ProductFraction.Of(real),
                Off = real / mix.Fraction.Value - 1,
                GoodEnough = Math.Abs(real / mix.Fraction.Value - 1) <= Catalogue.Default["jug-tolerance"],
            };
        }

        var (fills, left) = r.Containers is { Count: > 0 }
            ? Filling.Split(
                mix.Fraction,
                mix.TotalMl,
                r.Containers.Select((ml, i) => new Fillable(i.ToString(System.Globalization.CultureInfo.InvariantCulture), "", ml))
            )
            : ([], 0);
        var words = new List<string>();
        words.AddRange(onPanel is { } p ? [$"in the lance bottle {mix.Fraction} for {p} on the panel"] : []);
        words.Add(
            top is not null
                ? top.Words
                : $"{reading.Means}: {mix.ProductMl:0.#} ml product + {mix.WaterMl:0.#} ml water = {mix.TotalMl:0.#} ml. "
                    + $"Water first, product into water."
        );
        words.AddRange(
            reading.OtherReading is { } o && top is null && onPanel is null
                ?
                [
                    $"{reading.OtherMeans}: {o.Value * mix.TotalMl:0.#} ml product instead "
                        + $"({Signed.Of((o.Value / mix.Fraction.Value - 1) * 100)} %)",
                ]
                : []
        );
        words.AddRange(
            jug is null
                ? []
                :
                [
                    jug.TrueStrength is { } real2
                        ? $"with this jug: {jug.ProductMl:0.##} ml product, {jug.WaterMl:0.##} ml water: "
                            + $"really {real2} ({Signed.Of(jug.Off * 100, 1)} "
                            + $"%){(jug.GoodEnough ? "" : $"; too coarse, use a finer measure or make at least {jug.LeastTotalMl:0} ml")}"
                        : $"this jug cannot measure so little: use a finer measure or make at least {jug.LeastTotalMl:0} ml",
                ]
        );
        words.AddRange(left > 0.5 ? [$"{left:0} ml do not fit into the containers named"] : []);
        return new(
            new MixAnswer(
                mix.Fraction.Value,
                mix.Fraction.ToString(),
                reading.Means,
                Math.Round(mix.ProductMl, 2),
                Math.Round(mix.WaterMl, 2),
                Math.Round(mix.TotalMl, 2),
                reading.OtherMeans,
                reading.OtherReading?.Value,
                reading.OtherReading is { } other ? Math.Round(other.Value * mix.TotalMl, 2) : null,
                onPanel?.Value,
                jug is null
                    ? null
                    : new JugAnswer(
                        jug.ProductMl,
                        jug.WaterMl,
                        jug.TrueStrength?.Value,
                        jug.TrueStrength?.ToString(),
                        Math.Round(jug.Off * 100, 2),
                        jug.GoodEnough,
                        jug.LeastTotalMl
                    ),
                top is null ? null : new TopUpAnswer(top.KeepMl, top.PourOutMl, top.AddProductMl, top.AddWaterMl),
                fills
                    .Select(f => new FillAnswer(
                        int.Parse(f.Container.Id, System.Globalization.CultureInfo.InvariantCulture),
                        f.Container.Ml,
                        f.Mix.ProductMl,
                        f.Mix.WaterMl
                    ))
                    .ToArray(),
                left,
                agent is null ? ["Water first, then product into the water."] : MixSafety.Words(agent),
                words
            ),
            []
        );
    }
}
