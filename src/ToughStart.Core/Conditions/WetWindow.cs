using ToughStart.Core.Provenance;

namespace ToughStart.Core.Conditions;

/// <summary>What a carrier leaves on a panel.</summary>
/// <param name="Applied">ml/m² put on.</param>
/// <param name="Level">ml/m² that a level panel holds.</param>
/// <param name="Upright">ml/m² that an upright one holds.</param>
/// <param name="Viscosity">Effective, mPa·s.</param>
public sealed record Carrier(string Id, string Name, double Applied, double Level, double Upright, double Viscosity)
{
    internal static Carrier Read(Table.Row r) =>
        new(r["id"], r["name"], r.Number("applied"), r.Number("level"), r.Number("upright"), r.Number("mu"));

    /// <summary>Film that stays on a tilt, kg/m²: a film with a yield stress holds what gravity cannot pull off.</summary>
    public double Held(double tilt)
    {
        var sin = Math.Sin(Math.Min(tilt, 90) * Math.PI / 180);
        return (sin < 1e-6 ? Level : Math.Min(Level, Upright / sin)) / 1000;
    }

    /// <summary>The same with the shop's own calibration: this many times as much is held.</summary>
    public Carrier Times(double factor) =>
        this with
        {
            Level = Level * factor,
            Upright = Upright * factor,
            Applied = Math.Max(Applied, Math.Max(Level, Upright) * factor),
        };
}

/// <summary>A panel before it is wetted.</summary>
/// <param name="Tilt">0 level, 90 upright.</param>
/// <param name="Faces">Bearing it looks to, degrees from north.</param>
/// <param name="Absorptance">Part of sunlight taken as heat.</param>
/// <param name="Heat">Stored, J/m²K.</param>
/// <param name="MeasuredC">An infrared reading; null = where it comes to rest in these conditions.</param>
/// <param name="BehindK">Coupling to what is behind it, W/m²K; 0 = none.</param>
public readonly record struct PanelHeat(
    double Tilt,
    double Faces,
    double Absorptance,
    double Heat,
    double? MeasuredC = null,
    double BehindK = 0,
    double BehindC = 0
);

/// <summary>Light and shade at the place.</summary>
/// <param name="BeamOpen">1 in the sun, 0 in shade.</param>
/// <param name="SkyOpen">Open part of the sky, 0 indoors.</param>
public readonly record struct Exposure(double BeamOpen, double SkyOpen, double Albedo);

/// <summary>
/// Heat and vapour at a panel: sun, sky, wind, evaporation. Everything that does not change while a film dries is worked out once here.
/// </summary>
public sealed class PanelBalance
{
    private readonly Physics _p = Physics.Of;
    private readonly double _sun,
        _longWave,
        _forced,
        _freeC,
        _freeFrom,
        _airFraction,
        _logAir;
    private readonly Air _air;
    private readonly PanelHeat _panel;

    public PanelBalance(Air air, SunPosition sun, Sunlight light, Exposure open, PanelHeat panel)
    {
        (_air, _panel) = (air, panel);
        Irradiance = light.OnPanel(sun, panel.Tilt, panel.Faces, open.BeamOpen, open.SkyOpen, open.Albedo);
        _sun = panel.Absorptance * Irradiance;
        var toSky = (1 + Math.Cos(panel.Tilt * Math.PI / 180)) / 2;
        var ground = air.Celsius + _p.GroundWarms * light.Local(open.BeamOpen, open.SkyOpen);
        LongWaveIn =
            _p.Sigma * (toSky * (open.SkyOpen * air.SkyEmissivity + 1 - open.SkyOpen) * Fourth(air.Celsius) + (1 - toSky) * Fourth(ground));
        _longWave = LongWaveIn;
        _forced = _p.ForcedBase + _p.ForcedWind * air.Wind;
        _freeC = panel.Tilt < _p.LevelBelow ? _p.FreeLevel : _p.FreeUpright;
        _freeFrom = Math.Pow(_forced / _freeC, 3);
        _airFraction = Air.MassFraction(air.Vapour);
        _logAir = Math.Log(1 - _airFraction);
        Dry = Rest(false);
        Wet = Rest(true);
    }

    /// <summary>Sunlight on the panel, W/m².</summary>
    public double Irradiance { get; }

    /// <summary>Long-wave radiation that arrives, W/m².</summary>
    public double LongWaveIn { get; }

    /// <summary>Where it comes to rest dry, °C (the sol-air temperature with its own sky).</summary>
    public double Dry { get; }

    /// <summary>Where it comes to rest wet, °C.</summary>
    public double Wet { get; }

    /// <summary>The panel now: measured, else at rest.</summary>
    public double Now => _panel.MeasuredC ?? Dry;

    public PanelHeat Panel => _panel;

    public Air Air => _air;

    /// <summary>W/m²K to the air at a panel temperature: the larger of forced and free.</summary>
    public double Convection(double celsius) =>
        Math.Abs(celsius - _air.Celsius) is var d && d > _freeFrom ? _freeC * Math.Cbrt(d) : _forced;

    /// <summary>Evaporation, kg/m²s; negative is dew (Chilton and Colburn, with Stefan flow).</summary>
    public double Evaporation(double celsius) =>
        Convection(celsius) * _p.MassPerHeat * (_logAir - Math.Log(1 - Air.MassFraction(Air.Saturation(Math.Min(celsius, 98)))));

    /// <summary>Heat that the panel gains, W/m².</summary>
    public double Gain(double celsius, bool wet)
    {
        var h = Convection(celsius);
        var gain =
            _sun
            + (wet ? _p.Wet : _p.Dry) * (_longWave - _p.Sigma * Fourth(celsius))
            - h * (celsius - _air.Celsius)
            - _panel.BehindK * (celsius - _panel.BehindC);
        return wet
            ? gain
                - h
                    * _p.MassPerHeat
                    * (_logAir - Math.Log(1 - Air.MassFraction(Air.Saturation(Math.Min(celsius, 98)))))
                    * (_p.LatentBase - _p.LatentSlope * celsius)
            : gain;
    }

    /// <summary>Temperature just after a film is put on, °C: instant mixing.</summary>
    /// <param name="liquidC">Temperature of the liquid.</param>
    public double Mixed(double appliedKg, double liquidC) =>
        (_panel.Heat * Now + _p.WaterHeat * appliedKg * liquidC) / (_panel.Heat + _p.WaterHeat * appliedKg);

    private double Rest(bool wet)
    {
        // The balance falls steadily with temperature; its slope has a kink where free convection takes over, so halve first and only
        // then take the secant.
        double low = -60,
            high = 150,
            fLow = Gain(low, wet),
            fHigh = Gain(high, wet);
        for (var i = 0; i < 60 && high - low > 1e-6; i++)
        {
            var secant = low + (high - low) * fLow / (fLow - fHigh);
            var t = i < 5 || i % 3 == 0 || !(secant > low && secant < high) ? (low + high) / 2 : secant;
            var f = Gain(t, wet);
            if (f > 0)
            {
                (low, fLow) = (t, f);
            }
            else
            {
                (high, fHigh) = (t, f);
            }
        }

        return (low + high) / 2;
    }

    private static double Fourth(double celsius)
    {
        var k = celsius + 273.15;
        return k * k * k * k;
    }
}

/// <summary>
/// How far a window may be off, from what is not known exactly: each input moved by its own spread, one at a time, the effects added as
/// independent ones.
/// </summary>
public static class WindowBand
{
    /// <param name="window">Seconds as computed.</param>
    /// <param name="at">Seconds with another air and another multiple of the film.</param>
    /// <param name="spread">Spread of the film, times or divided by.</param>
    public static (double Low, double High) Of(double window, Air air, double spread, Func<Air, double, double> at)
    {
        var c = Catalogue.Default;
        double shorter = 0,
            longer = 0;
        void Move(double one, double other)
        {
            var (a, b) = (Math.Log(one / window), Math.Log(other / window));
            shorter += Math.Pow(Math.Min(0, Math.Min(a, b)), 2);
            longer += Math.Pow(Math.Max(0, Math.Max(a, b)), 2);
        }

        Move(at(air, 1 / spread), at(air, spread));
        Move(at(air with { Celsius = air.Celsius + c["band-air"] }, 1), at(air with { Celsius = air.Celsius - c["band-air"] }, 1));
        Move(
            at(air with { HumidityPct = Math.Max(1, air.HumidityPct - c["band-humidity"]) }, 1),
            at(air with { HumidityPct = Math.Min(100, air.HumidityPct + c["band-humidity"]) }, 1)
        );
        Move(at(air with { Wind = air.Wind * c["band-wind"] }, 1), at(air with { Wind = air.Wind / c["band-wind"] }, 1));
        return (window * Math.Exp(-Math.Sqrt(shorter)), Math.Min(Physics.Of.Cap, window * Math.Exp(Math.Sqrt(longer))));
    }
}

/// <summary>How long a film stays wet.</summary>
/// <param name="FirstDry">Seconds to the first dry spots (top edges, crowns); the cap when it does not dry.</param>
/// <param name="MostDry">Seconds until most of the panel has dried.</param>
/// <param name="MeanC">Mean film temperature until the first dry spots, °C.</param>
public readonly record struct WetWindow(double FirstDry, double MostDry, double StartC, double MeanC, double FilmKg)
{
    /// <summary>Longer than this and drying is not what limits a dwell.</summary>
    public bool NotTheLimit => FirstDry >= Catalogue.Default["not-the-limit"];

    /// <summary>
    /// The reference: film and temperature integrated together, classical Runge-Kutta of fourth order. The step is a tenth of the panel's
    /// own relaxation time, never more than 10 s: within 0.1 % of a step ten times finer.
    /// </summary>
    /// <param name="liquidC">Temperature of the liquid; null = that of the air.</param>
    /// <param name="trace">Gets (seconds, film kg/m², °C) at every step of the first-spots run.</param>
    public static WetWindow Integrate(PanelBalance b, Carrier carrier, double? liquidC = null, Action<double, double, double>? trace = null)
    {
        var (applied, held) = (carrier.Applied / 1000, Math.Min(carrier.Applied / 1000, carrier.Held(b.Panel.Tilt)));
        var start = b.Mixed(applied, liquidC ?? b.Air.Celsius);
        var (first, mean) = Run(b, held, held, 0, start, trace);
        var p = Physics.Of;
        var drain =
            held < applied
                ? 9 * 9.81 * Math.Sin(Math.Min(b.Panel.Tilt, 90) * Math.PI / 180) / (8 * 1000 * carrier.Viscosity / 1000 * p.DrainRun)
                : 0;
        var most = held < applied ? Run(b, applied, held, drain, start, null).Seconds : first;
        return new(first, Math.Max(first, most), start, mean, held);
    }

    /// <summary>
    /// Without integrating: time as a quadrature of heat over gain from the start to the wet resting temperature, the rest of the film at the
    /// resting rate. Within 1.5 % of the reference (a test holds it on 1 000 random cases); a window in a few microseconds.
    /// </summary>
    public static WetWindow Fast(PanelBalance b, Carrier carrier, double? liquidC = null)
    {
        var p = Physics.Of;
        var (applied, held) = (carrier.Applied / 1000, Math.Min(carrier.Applied / 1000, carrier.Held(b.Panel.Tilt)));
        var start = b.Mixed(applied, liquidC ?? b.Air.Celsius);
        var goal = (1 - p.DryFraction) * held;
        var gap = start - b.Wet;
        var (seconds, gone, warmth) = (0.0, 0.0, 0.0);
        var resting = b.Evaporation(b.Wet);
        if (Math.Abs(gap) > 0.02)
        {
            // In y = ln(gap/gap0) the time per step is nearly even; Simpson's rule over each step.
            const double step = 0.4;
            var (dt0, e0) = At(0);
            for (var y = step; y <= 4.4; y += step)
            {
                var (dtm, em) = At(y - step / 2);
                var (dt1, e1) = At(y);
                var dt = step / 6 * (dt0 + 4 * dtm + dt1);
                var de = step / 6 * (dt0 * e0 + 4 * dtm * em + dt1 * e1);
                if (gone + de >= goal || seconds + dt >= p.Cap)
                {
                    // Rate changes within the step: solve the quadratic of a linear rate.
                    var (rate0, rate1) = (dt0 * e0, dt1 * e1);
                    var need = goal - gone;
                    double low = 0,
                        high = 1;
                    for (var i = 0; i < 30; i++)
                    {
                        var x = (low + high) / 2;
                        var part =
                            step
                            * (
                                rate0 * x
                                + (4 * dtm * em - 3 * rate0 - rate1) * x * x / 2
                                + (2 * rate0 + 2 * rate1 - 4 * dtm * em) * x * x * x / 3
                            );
                        (low, high) = part < need ? (x, high) : (low, x);
                    }

                    var t =
                        step
                        * (dt0 * low + (4 * dtm - 3 * dt0 - dt1) * low * low / 2 + (2 * dt0 + 2 * dt1 - 4 * dtm) * low * low * low / 3);
                    warmth += t * (b.Wet + gap * Math.Exp(-(y - step * (1 - low / 2))));
                    seconds += t;
                    return new(Math.Min(p.Cap, seconds), Math.Min(p.Cap, seconds), start, seconds > 0 ? warmth / seconds : start, held);
                }

                warmth += dt * (b.Wet + gap * Math.Exp(-(y - step / 2)));
                (seconds, gone) = (seconds + dt, gone + de);
                (dt0, e0) = (dt1, e1);
            }
        }

        var rest = resting > 1e-9 ? (goal - gone) / resting : double.PositiveInfinity;
        var total = Math.Min(p.Cap, seconds + rest);
        warmth += (total - seconds) * b.Wet;
        return new(total, total, start, total > 0 ? warmth / total : start, held);

        // Seconds per unit of y, and evaporation there. Heat of the film that is still on goes with it.
        (double Dt, double E) At(double y)
        {
            var x = gap * Math.Exp(-y);
            var t = b.Wet + x;
            var gain = b.Gain(t, true);
            return (
                Math.Abs(gain) < 1e-9
                    ? 0
                    : (b.Panel.Heat + p.WaterHeat * Math.Max(p.DryFraction * held, held - gone * 1.15)) * Math.Abs(x) / Math.Abs(gain),
                b.Evaporation(t)
            );
        }
    }

    private static (Seconds Seconds, double Mean) Run(
        PanelBalance b,
        double film,
        double held,
        double drain,
        double start,
        Action<double, double, double>? trace
    )
    {
        var p = Physics.Of;
        var (t, m, f, time, warmth) = (start, film, 1.0, 0.0, 0.0);
        trace?.Invoke(0, m, t);
        while (time < p.Cap)
        {
            var slope = Math.Max(1e-3, (b.Gain(t - 0.5, true) - b.Gain(t + 0.5, true)) / (b.Panel.Heat + p.WaterHeat * m));
            var dt = Math.Clamp(0.1 / slope, 0.02, 10);
            if (drain > 0 && m > held)
            {
                // The drain has an exact step of its own; it carries solute along and leaves the ratio as it is.
                dt = Math.Min(dt, 2);
                m = Math.Max(held, 1 / Math.Sqrt(1 / (m * m) + 2 * drain * dt));
            }

            var (k1t, k1m) = Rates(t, m);
            var (k2t, k2m) = Rates(t + dt / 2 * k1t, m + dt / 2 * k1m);
            var (k3t, k3m) = Rates(t + dt / 2 * k2t, m + dt / 2 * k2m);
            var (k4t, k4m) = Rates(t + dt * k3t, m + dt * k3m);
            var evaporated = -dt / 6 * (k1m + 2 * k2m + 2 * k3m + k4m);
            var next = Math.Max(1e-6, m - evaporated);
            // df/dt = -f E/m: with the drain apart, f falls as the film does.
            var fNext = f * next / m;
            var tNext = t + dt / 6 * (k1t + 2 * k2t + 2 * k3t + k4t);
            if (fNext <= p.DryFraction)
            {
                var part = (f - p.DryFraction) / Math.Max(1e-12, f - fNext);
                time += part * dt;
                warmth += part * dt * (t + tNext) / 2;
                trace?.Invoke(time, m - part * evaporated, t + part * (tNext - t));
                return (time, time > 0 ? warmth / time : start);
            }

            warmth += dt * (t + tNext) / 2;
            (t, m, f, time) = (tNext, next, fNext, time + dt);
            trace?.Invoke(time, m, t);
        }

        return (p.Cap, warmth / time);

        (double T, double M) Rates(double celsius, double kg) =>
            (b.Gain(celsius, true) / (b.Panel.Heat + p.WaterHeat * Math.Max(1e-6, kg)), -b.Evaporation(celsius));
    }
}
