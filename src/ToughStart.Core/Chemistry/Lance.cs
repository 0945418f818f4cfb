using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Chemistry;

/// <summary>One timed bottle: how much water left it, in how long, while the washer delivered how much.</summary>
/// <param name="Ml">Water drawn from the bottle, greater than 0 ml.</param>
/// <param name="Seconds">Time it took, greater than 0.</param>
/// <param name="FlowLitresPerMinute">What the washer delivers, greater than 0.</param>
/// <param name="MeasuredAtLance">The flow was caught in a bucket at the lance with the bottle drawing: it holds the draw already. Else it is the washer's own.</param>
public sealed record LanceTrial(Millilitres Ml, Seconds Seconds, double FlowLitresPerMinute, bool MeasuredAtLance = false)
{
    /// <summary>Draw in ml per minute.</summary>
    public double DrawMlPerMinute => Ml / Seconds * 60;

    /// <summary>Draw ÷ everything that leaves the lance.</summary>
    public double Ratio => DrawMlPerMinute / (FlowLitresPerMinute * 1000 + (MeasuredAtLance ? 0 : DrawMlPerMinute));

    public IReadOnlyList<Problem> Problems()
    {
        var list = new List<Problem>();
        Check("ml", Ml, 20, 5000, "ml");
        Check("seconds", Seconds, 2, 3600, "s");
        Check("flow", FlowLitresPerMinute, 1, 60, "l/min");
        if (list.Count == 0 && (DrawMlPerMinute / 1000 >= FlowLitresPerMinute))
        {
            list.Add(
                new Problem(
                    "seconds",
                    $"the bottle cannot empty faster ({DrawMlPerMinute / 1000:0.#} l/min) than the washer delivers "
                        + $"({FlowLitresPerMinute:0.#} l/min)"
                )
            );
        }

        return list;

        void Check(string field, double v, double low, double high, string unit)
        {
            if (!(v >= low && v <= high))
            {
                list.Add(new Problem(field, $"is {low} to {high} {unit}"));
            }
        }
    }
}

/// <summary>The panel-impact ratio of a lance: the part of what leaves it that came from the bottle, with how sure it is.</summary>
/// <param name="Trials">Timed bottles behind it; 0 = nobody has calibrated it.</param>
public sealed record LanceDraw(double Ratio, double Low, double High, int Trials)
{
    public bool Calibrated => Trials > 0;

    /// <summary>A lance nobody has timed: works, and says so.</summary>
    public static LanceDraw Uncalibrated { get; } =
        new(Catalogue.Default["lance-draw"], Catalogue.Default["lance-draw-low"], Catalogue.Default["lance-draw-high"], 0);

    /// <summary>
    /// The mean of repeated trials; the band is twice the scatter, and never narrower than hand timing and a washer's plate allow.
    /// </summary>
    /// <exception cref="ArgumentException">No trial, or one that is out of range.</exception>
    public static LanceDraw From(IReadOnlyList<LanceTrial> trials)
    {
        if (trials.Count == 0 || trials.Any(t => t.Problems().Count > 0))
        {
            throw new ArgumentException(trials.SelectMany(t => t.Problems()).FirstOrDefault()?.ToString() ?? "no trial", nameof(trials));
        }

        var c = Catalogue.Default;
        var mean = trials.Average(t => t.Ratio);
        var scatter = trials.Count < 2 ? 0 : Math.Sqrt(trials.Sum(t => Math.Pow(t.Ratio / mean - 1, 2)) / (trials.Count - 1));
        var instrument = Math.Sqrt(Math.Pow(c["lance-time-error"], 2) / trials.Count + Math.Pow(c["lance-flow-error"], 2));
        var band = 2 * Math.Max(instrument, scatter / Math.Sqrt(trials.Count));
        return new(mean, mean * (1 - Math.Min(c["calibration-band"], band)), Math.Min(1, mean * (1 + band)), trials.Count);
    }

    /// <summary>What reaches the panel from a bottle, with the band of the draw.</summary>
    public (ProductFraction Expected, ProductFraction Low, ProductFraction High) OnPanel(ProductFraction bottle) =>
        (ProductFraction.Of(bottle.Value * Ratio), ProductFraction.Of(bottle.Value * Low), ProductFraction.Of(bottle.Value * High));

    /// <summary>
    /// What goes into the bottle for a strength on the panel; when even neat is too thin, the richest possible and what to change.
    /// </summary>
    /// <param name="flowLitresPerMinute">The washer's delivery, so that the answer can name the flow that would do; null = not known.</param>
    public BottleAnswer BottleFor(ProductFraction onPanel, double? flowLitresPerMinute = null)
    {
        if (Dilution.BottleFor(onPanel, Ratio) is { } bottle)
        {
            return new(bottle, null, []);
        }

        var change = new List<string> { $"apply it from a pump sprayer at {onPanel} instead: it is not diluted again" };
        if (flowLitresPerMinute is { } q)
        {
            // The injector draws on with less water through it; the draw itself is taken to stay.
            change.Add(
                $"bring the flow through the lance from {q:0.#} to "
                    + $"{q * Ratio / (1 - Ratio) * (1 - onPanel.Value) / onPanel.Value:0.#} l/min (smaller washer, "
                    + $"or throttle it) and calibrate again"
            );
        }

        change.Add("open the metering screw of the lance, or fit a larger metering jet, and calibrate again");
        change.Add("two coats on a panel kept wet do not double the strength: they double the amount");
        return new(null, ProductFraction.Of(Ratio), change);
    }
}

/// <summary>A bottle fraction, or why there is none.</summary>
/// <param name="Richest">What neat product would give on the panel, when the wanted strength is out of reach.</param>
public sealed record BottleAnswer(ProductFraction? Bottle, ProductFraction? Richest, IReadOnlyList<string> WhatToChange);
