using ToughStart.Core.Provenance;

namespace ToughStart.Core.Conditions;

/// <summary>The physical constants of the drying model, read once from the catalogue; all SI.</summary>
internal sealed class Physics
{
    private Physics()
    {
        var c = Catalogue.Default;
        (ClearA, ClearB, CloudA, CloudB, SolarConstant, BeamMost) = (
            c["clear-sky-a"],
            c["clear-sky-b"],
            c["cloud-a"],
            c["cloud-b"],
            c["solar-constant"],
            c["beam-most"]
        );
        (MagnusA, MagnusB, MagnusC, VapourRatio, Pressure, Sigma) = (
            c["magnus-a"],
            c["magnus-b"],
            c["magnus-c"],
            c["vapour-ratio"],
            c["air-pressure"],
            c["stefan-boltzmann"]
        );
        (ForcedBase, ForcedWind, FreeLevel, FreeUpright) = (c["forced-base"], c["forced-wind"], c["free-level"], c["free-upright"]);
        LevelBelow = c["level-below"];
        (LatentBase, LatentSlope, WaterHeat, Dry, Wet) = (
            c["latent-base"],
            c["latent-slope"],
            c["water-heat"],
            c["emissivity-dry"],
            c["emissivity-wet"]
        );
        (GroundWarms, DrainRun, DryFraction, Cap) = (c["ground-warms"], c["drain-run"], c["dry-fraction"], c["window-cap"]);
        MassPerHeat = 1 / (c["air-heat"] * Math.Pow(c["lewis"], 2.0 / 3));
    }

    public static Physics Of { get; } = new();

    public double ClearA,
        ClearB,
        CloudA,
        CloudB,
        SolarConstant,
        BeamMost,
        MagnusA,
        MagnusB,
        MagnusC,
        VapourRatio,
        Pressure,
        Sigma,
        ForcedBase,
        ForcedWind,
        FreeLevel,
        LevelBelow,
        FreeUpright,
        LatentBase,
        LatentSlope,
        WaterHeat,
        Dry,
        Wet,
        GroundWarms,
        DrainRun,
        DryFraction,
        Cap,
        MassPerHeat;
}

/// <summary>Moist air.</summary>
/// <param name="Celsius">−20 to 50 °C.</param>
/// <param name="HumidityPct">Relative humidity, 0 to 100 %.</param>
/// <param name="Wind">At the panel, m/s, 0 to 20.</param>
/// <param name="Oktas">Cloud, 0 to 8.</param>
public readonly record struct Air(double Celsius, double HumidityPct, double Wind, double Oktas)
{
    /// <summary>Vapour pressure, Pa.</summary>
    public double Vapour => HumidityPct / 100 * Saturation(Celsius);

    /// <summary>Temperature at which it begins to dew, °C; −100 in perfectly dry air.</summary>
    public double DewPoint
    {
        get
        {
            var p = Physics.Of;
            var ln = Math.Log(Math.Max(Vapour, 1e-4) / p.MagnusA);
            return Math.Max(-100, p.MagnusC * ln / (p.MagnusB - ln));
        }
    }

    /// <summary>
    /// What a wet thermometer in a strong draught shows, °C: where heat brought and heat evaporated are equal, radiation aside.
    /// </summary>
    public double WetBulb
    {
        get
        {
            var p = Physics.Of;
            double low = -60,
                high = Celsius;
            var wa = MassFraction(Vapour);
            for (var i = 0; i < 60; i++)
            {
                var t = (low + high) / 2;
                var cooling = p.MassPerHeat * Math.Log((1 - wa) / (1 - MassFraction(Saturation(t)))) * (p.LatentBase - p.LatentSlope * t);
                (low, high) = Celsius - t > cooling ? (t, high) : (low, t);
            }

            return (low + high) / 2;
        }
    }

    /// <summary>Emissivity of the sky (Clark and Allen, cloud by Walton).</summary>
    public double SkyEmissivity
    {
        get
        {
            var n = Oktas * 10 / 8;
            return Math.Clamp(
                (0.787 + 0.764 * Math.Log((DewPoint + 273.15) / 273.15)) * (1 + n * (0.0224 + n * (-0.0035 + n * 0.00028))),
                0.3,
                1
            );
        }
    }

    /// <summary>Saturation pressure over water, Pa (Magnus form of Alduchov and Eskridge), −40 to 100 °C.</summary>
    public static double Saturation(double celsius) =>
        Physics.Of.MagnusA * Math.Exp(Physics.Of.MagnusB * celsius / (celsius + Physics.Of.MagnusC));

    /// <summary>Mass of vapour in a mass of moist air at sea-level pressure.</summary>
    public static double MassFraction(double vapour) =>
        Physics.Of.VapourRatio * vapour / (Physics.Of.Pressure - (1 - Physics.Of.VapourRatio) * vapour);
}
