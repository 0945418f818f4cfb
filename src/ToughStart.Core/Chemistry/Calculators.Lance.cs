using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;
using ToughStart.Core.Surfaces;

namespace ToughStart.Core.Chemistry;

/// <summary>Lances and nozzles.</summary>
public static partial class Calculators
{
    public static Checked<LanceAnswer> Lance(LanceRequest r)
    {
        if (r.Trials is { Count: > 20 })
        {
            return new(null, [new Problem("trials", "at most 20")]);
        }

        var problems = (r.Trials ?? [])
            .SelectMany((t, i) => t.Problems().Select(p => p with { Field = $"trials[{i}].{p.Field}" }))
            .ToArray();
        if (problems.Length > 0)
        {
            return new(null, problems);
        }

        if (r.Draw is { } d && !(d is >= 0.001 and <= 1))
        {
            return new(null, [new Problem("draw", "is 0.001 to 1 (bottle draw ÷ total flow)")]);
        }

        if (r.FlowLitresPerMinute is { } flow && !(flow is >= 1 and <= 60))
        {
            return new(null, [new Problem("flowLitresPerMinute", "is 1 to 60 l/min")]);
        }

        if (r.BottleMl is { } holds && !(holds is >= 100 and <= 20_000))
        {
            return new(null, [new Problem("bottleMl", "is 100 to 20000 ml")]);
        }

        if (r.OnPanel is not null && r.Bottle is not null)
        {
            return new(null, [new Problem("bottle", "say what is wanted on the panel or what is in the bottle, not both")]);
        }

        var c = Catalogue.Default;
        var lance =
            r.Trials is { Count: > 0 } ? LanceDraw.From(r.Trials)
            : r.Draw is { } known
                ? new LanceDraw(known, known * (1 - 2 * c["lance-flow-error"]), Math.Min(1, known * (1 + 2 * c["lance-flow-error"])), 1)
            : LanceDraw.Uncalibrated;
        var words = new List<string>
        {
            $"draw ratio {lance.Ratio:0.###} ({lance.Low:0.###} to "
                + $"{lance.High:0.###}){(lance.Calibrated ? "" : ", not calibrated: time one bottle of water")}",
        };
        if ((r.OnPanel ?? r.Bottle) is not { } text)
        {
            return new(
                new LanceAnswer(
                    lance.Ratio,
                    lance.Low,
                    lance.High,
                    lance.Calibrated,
                    null,
                    null,
                    null,
                    null,
                    null,
                    true,
                    lance.Ratio,
                    null,
                    null,
                    [],
                    words
                ),
                []
            );
        }

        if (Strength(r.OnPanel is null ? "bottle" : "onPanel", text, null, r.BottleMl, out var reading) is { } bad)
        {
            return new(null, [bad]);
        }

        var answer = r.OnPanel is null
            ? new BottleAnswer(reading!.Fraction, null, [])
            : lance.BottleFor(reading!.Fraction, r.FlowLitresPerMinute);
        if (answer.Bottle is not { } bottle)
        {
            words.Add($"not reachable: the richest possible on the panel is {answer.Richest!.Value.Value * 100:0.##} %");
            words.AddRange(answer.WhatToChange);
            return new(
                new LanceAnswer(
                    lance.Ratio,
                    lance.Low,
                    lance.High,
                    lance.Calibrated,
                    null,
                    null,
                    null,
                    null,
                    null,
                    false,
                    answer.Richest.Value.Value,
                    null,
                    null,
                    answer.WhatToChange,
                    words
                ),
                []
            );
        }

        var (expected, low, high) = lance.OnPanel(bottle);
        var mix = r.BottleMl is { } ml ? Dilution.ForTotal(bottle, ml * c["fill-most"]) : null;
        words.Add(
            $"in the bottle {bottle} ({bottle.Value * 100:0.##} %), "
                + $"on the panel {expected.Value * 100:0.##} % ({low.Value * 100:0.##} to {high.Value * 100:0.##} %)"
        );
        words.AddRange(mix is null ? [] : [$"{mix.WaterMl:0.#} ml water, then {mix.ProductMl:0.#} ml product"]);
        return new(
            new LanceAnswer(
                lance.Ratio,
                lance.Low,
                lance.High,
                lance.Calibrated,
                bottle.Value,
                bottle.ToString(),
                expected.Value,
                low.Value,
                high.Value,
                true,
                lance.Ratio,
                mix is null ? null : Math.Round(mix.ProductMl, 2),
                mix is null ? null : Math.Round(mix.WaterMl, 2),
                [],
                words
            ),
            []
        );
    }

    public static Checked<NozzleAnswer> Nozzle(NozzleRequest r)
    {
        var c = Catalogue.Default;
        if (new[] { r.Psi, r.Megapascal, r.Bar }.Count(p => p is not null) != 1)
        {
            return new(null, [new Problem("psi", "say the pressure once", ["psi", "megapascal", "bar"])]);
        }

        var psi = r.Psi ?? (r.Megapascal ?? r.Bar!.Value / 10) * c["psi-per-mpa"];
        if ((r.Size is null) == (r.FlowLitresPerMinute is null))
        {
            return new(null, [new Problem("size", "say the nozzle's size number or the washer's flow", ["size", "flowLitresPerMinute"])]);
        }

        if (!(psi is >= 50 and <= 6000))
        {
            return new(
                null,
                [
                    new Problem(
                        r.Psi is not null ? "psi"
                            : r.Bar is not null ? "bar"
                            : "megapascal",
                        "is 50 to 6000 psi (0.35 to 41 MPa, 3.5 to 413 bar)"
                    ),
                ]
            );
        }

        if (r.FlowLitresPerMinute is { } f && !(f is >= 1 and <= 60))
        {
            return new(null, [new Problem("flowLitresPerMinute", "is 1 to 60 l/min")]);
        }

        var nozzle = new Nozzle(
            r.Size ?? Chemistry.Nozzle.SizeFor(r.FlowLitresPerMinute!.Value, psi),
            r.AngleDegrees ?? c["nozzle-reference-angle"],
            psi
        );
        if (nozzle.Problem() is { } bad)
        {
            return new(null, [new Problem(bad.StartsWith("angle", StringComparison.Ordinal) ? "angleDegrees" : "size", bad)]);
        }

        var cm = r.DistanceCm ?? c["nozzle-distance"];
        if (!(cm is >= 1 and <= 500))
        {
            return new(null, [new Problem("distanceCm", "is 1 to 500 cm")]);
        }

        var stand = c.StandOffs.Select(s => new StandOffAnswer(s.Id, s.Name, s.Closest(nozzle), s.Reason)).ToArray();
        var paint = stand.First(s => s.Id == "paint").ClosestCm;
        return new(
            new NozzleAnswer(
                nozzle.Size,
                psi,
                nozzle.Megapascal,
                nozzle.LitresPerMinute,
                nozzle.GallonsPerMinute,
                nozzle.Speed,
                nozzle.ForceNewton,
                nozzle.ForceNewton / c["newton-per-lbf"],
                cm,
                nozzle.FanWidth(cm / 100) * 100,
                nozzle.MeanKilopascal(cm / 100),
                stand,
                [
                    $"{nozzle.LitresPerMinute:0.0} l/min ({nozzle.GallonsPerMinute:0.00} US gal/min) at {psi:0} psi "
                        + $"({nozzle.Megapascal:0.0} MPa), jet {nozzle.Speed:0} m/s, force {nozzle.ForceNewton:0.0} N in theory",
                    $"at {cm:0} cm the fan is {nozzle.FanWidth(cm / 100) * 100:0} cm wide and presses "
                        + $"{nozzle.MeanKilopascal(cm / 100):0.0} kPa on average",
                    nozzle.AngleDegrees < 15
                        ? "a jet this narrow is for drains and concrete: not on a vehicle, never toward skin"
                        : $"no nearer than {paint:0} cm to sound paint; never toward skin, tyres, seals, bearings, fins, "
                            + $"split lacquer or stickers",
                ]
            ),
            []
        );
    }
}
