using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;
using ToughStart.Core.Surfaces;

namespace ToughStart.Core.Chemistry;

/// <summary>What a mix request asks for. Strength in any notation; amounts in ml; what is missing is computed.</summary>
/// <param name="CapfulMl">What one capful holds, when the strength is in capfuls.</param>
/// <param name="ContainerMl">What the container holds: for "two-thirds full", and so that a dose is not larger than it.</param>
/// <param name="LanceDraw">Draw ratio of a lance, when the strength is meant on the panel.</param>
/// <param name="JugMl">Smallest mark of the jug for product.</param>
/// <param name="RemainderMl">What the bottle holds already, with <paramref name="RemainderStrength"/>: the answer then tops it up.</param>
/// <param name="Containers">Containers at hand, ml each: the batch is shared over them.</param>
public sealed record MixRequest(
    string? Strength = null,
    double? TotalMl = null,
    double? ProductMl = null,
    double? WaterMl = null,
    double? CapfulMl = null,
    double? ContainerMl = null,
    double? LanceDraw = null,
    double? JugMl = null,
    double? RemainderMl = null,
    string? RemainderStrength = null,
    IReadOnlyList<double>? Containers = null,
    string? Agent = null
);

public sealed record JugAnswer(
    double ProductMl,
    double WaterMl,
    double? TrueFraction,
    string? TrueReads,
    double OffPercent,
    bool GoodEnough,
    double LeastTotalMl
);

public sealed record TopUpAnswer(double KeepMl, double PourOutMl, double AddProductMl, double AddWaterMl);

/// <param name="Container">Place of the container in the list asked with, from 0.</param>
public sealed record FillAnswer(int Container, double ContainerMl, double ProductMl, double WaterMl);

/// <param name="Reads">The fraction as the trade writes it.</param>
/// <param name="OtherFraction">What the words would be in their other reading, when they have one.</param>
public sealed record MixAnswer(
    double Fraction,
    string Reads,
    string Means,
    double ProductMl,
    double WaterMl,
    double TotalMl,
    string? OtherMeans,
    double? OtherFraction,
    double? OtherProductMl,
    double? OnPanel,
    JugAnswer? Jug,
    TopUpAnswer? TopUp,
    IReadOnlyList<FillAnswer> Fills,
    double LeftMl,
    IReadOnlyList<string> Safety,
    IReadOnlyList<string> Words
);

/// <summary>
/// A lance: trials to calibrate it, or a known draw, or nothing (uncalibrated); and what is wanted, on the panel or in the bottle.
/// </summary>
public sealed record LanceRequest(
    IReadOnlyList<LanceTrial>? Trials = null,
    double? Draw = null,
    string? OnPanel = null,
    string? Bottle = null,
    double? FlowLitresPerMinute = null,
    double? BottleMl = null
);

public sealed record LanceAnswer(
    double Draw,
    double DrawLow,
    double DrawHigh,
    bool Calibrated,
    double? BottleFraction,
    string? BottleReads,
    double? OnPanel,
    double? OnPanelLow,
    double? OnPanelHigh,
    bool Reachable,
    double? Richest,
    double? ProductMl,
    double? WaterMl,
    IReadOnlyList<string> WhatToChange,
    IReadOnlyList<string> Words
);

/// <summary>A nozzle by size number, or by a washer's flow; pressure in one of psi, MPa or bar.</summary>
public sealed record NozzleRequest(
    double? Size = null,
    double? FlowLitresPerMinute = null,
    double? AngleDegrees = null,
    double? Psi = null,
    double? Megapascal = null,
    double? Bar = null,
    double? DistanceCm = null
);

public sealed record StandOffAnswer(string Id, string Name, double? ClosestCm, string Reason);

public sealed record NozzleAnswer(
    double Size,
    double Psi,
    double Megapascal,
    double LitresPerMinute,
    double GallonsPerMinute,
    double SpeedMs,
    double ForceNewton,
    double ForceLbf,
    double DistanceCm,
    double FanWidthCm,
    double MeanKilopascal,
    IReadOnlyList<StandOffAnswer> StandOff,
    IReadOnlyList<string> Words
);

public sealed record PhRequest(double? NeatPh = null, string? Strength = null, double? CapfulMl = null);

public sealed record PhAnswer(
    double NeatPh,
    double Mildest,
    bool NeatPotentiallyCorrosive,
    bool MayStillBeCorrosive,
    string Caveat,
    IReadOnlyList<string> Words
);

public sealed record HardnessRequest(double? Value = null, string? Unit = null, double? FilmUm = null);

public sealed record HardnessAnswer(
    double MgPerLitre,
    IReadOnlyDictionary<string, double> Units,
    string Class,
    double FilmUm,
    double ResidueMgPerM2,
    bool Soften,
    IReadOnlyList<string> DryingOrder,
    IReadOnlyList<string> Words
);

/// <summary>An agent on a surface, or an agent after another (<paramref name="After"/>).</summary>
public sealed record CompatibilityRequest(
    string? Agent = null,
    string? Surface = null,
    string? After = null,
    string? Strength = null,
    double? FilmC = null,
    bool? Protected = null,
    bool? TestSpotPassed = null,
    bool? RinsedAtOnce = null
);

/// <summary>A panel in the weather: how long a film on it stays wet.</summary>
/// <param name="Carrier">mist, spray, thin-foam, thick-foam or gel.</param>
/// <param name="TiltDegrees">0 level, 90 upright.</param>
/// <param name="FacesDegrees">Bearing it looks to, from north.</param>
/// <param name="At">Time with its zone.</param>
/// <param name="InSun">Direct sun reaches it.</param>
/// <param name="DwellSeconds">Then also how many equal panels at once can dwell so long, 1 to 3 600 s.</param>
public sealed record WindowRequest(
    string? Carrier = null,
    double? AirC = null,
    double? HumidityPct = null,
    double? WindMs = null,
    double? CloudOktas = null,
    double? Latitude = null,
    double? Longitude = null,
    string? At = null,
    bool? InSun = null,
    double? SkyOpen = null,
    double? TiltDegrees = null,
    double? FacesDegrees = null,
    string? Colour = null,
    double? PanelC = null,
    double? FilmFactor = null,
    double? DwellSeconds = null
);

public sealed record FilmPoint(double Seconds, double FilmGrams, double Celsius);

public sealed record WindowAnswer(
    double FirstDrySeconds,
    double MostDrySeconds,
    double UsableSeconds,
    double LowSeconds,
    double HighSeconds,
    double PanelC,
    double FilmC,
    double WetRestC,
    double SunAltitude,
    double SunAzimuth,
    double IrradianceWm2,
    bool DryingIsTheLimit,
    IReadOnlyList<FilmPoint> Film,
    IReadOnlyList<string> Words
)
{
    /// <summary>Equal panels at once that can dwell as long as asked before the first is dry; null = no dwell was asked for.</summary>
    public int? PanelsAtOnce { get; init; }
}

/// <param name="Ruling">Agent on surface: yes, care, test or no. Agent after agent: rinse, wash, full-rinse or never.</param>
public sealed record CompatibilityReply(string Ruling, IReadOnlyList<ReasonReply> Reasons, IReadOnlyList<string> Kit);

public sealed record ReasonReply(string Words, bool Refuses, string Table, string Standing);

/// <summary>
/// The calculators of the bench, alike for the web, the interface for programs and the command line: a request in, an answer or the
/// fields that are wrong out.
/// </summary>
public static partial class Calculators
{
    /// <summary>What has to happen between two agents on the same panel.</summary>
    public static (Meeting Meeting, string Reason) After(Agent before, Agent now)
    {
        var m = Chemistry.Compatibility.Default;
        var (a, b) = (m.GroupsOf(before), m.GroupsOf(now));
        if (before.IsWater || now.IsWater || before.Id == now.Id)
        {
            return (Meeting.Rinse, before.Id == now.Id ? "the same product: another round" : "water");
        }

        var met = m.Meet(a, b);
        return (met.Meeting, met.Reason);
    }
}
