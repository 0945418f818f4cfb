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
    string? Strength = null, double? TotalMl = null, double? ProductMl = null, double? WaterMl = null, double? CapfulMl = null, double? ContainerMl = null, double? LanceDraw = null,
    double? JugMl = null, double? RemainderMl = null, string? RemainderStrength = null, IReadOnlyList<double>? Containers = null, string? Agent = null);

public sealed record JugAnswer(double ProductMl, double WaterMl, double? TrueFraction, string? TrueReads, double OffPercent, bool GoodEnough, double LeastTotalMl);

public sealed record TopUpAnswer(double KeepMl, double PourOutMl, double AddProductMl, double AddWaterMl);

/// <param name="Container">Place of the container in the list asked with, from 0.</param>
public sealed record FillAnswer(int Container, double ContainerMl, double ProductMl, double WaterMl);

/// <param name="Reads">The fraction as the trade writes it.</param>
/// <param name="OtherFraction">What the words would be in their other reading, when they have one.</param>
public sealed record MixAnswer(
    double Fraction, string Reads, string Means, double ProductMl, double WaterMl, double TotalMl, string? OtherMeans, double? OtherFraction, double? OtherProductMl, double? OnPanel,
    JugAnswer? Jug, TopUpAnswer? TopUp, IReadOnlyList<FillAnswer> Fills, double LeftMl, IReadOnlyList<string> Safety, IReadOnlyList<string> Words);

/// <summary>A lance: trials to calibrate it, or a known draw, or nothing (uncalibrated); and what is wanted, on the panel or in the bottle.</summary>
public sealed record LanceRequest(IReadOnlyList<LanceTrial>? Trials = null, double? Draw = null, string? OnPanel = null, string? Bottle = null, double? FlowLitresPerMinute = null, double? BottleMl = null);

public sealed record LanceAnswer(
    double Draw, double DrawLow, double DrawHigh, bool Calibrated, double? BottleFraction, string? BottleReads, double? OnPanel, double? OnPanelLow, double? OnPanelHigh,
    bool Reachable, double? Richest, double? ProductMl, double? WaterMl, IReadOnlyList<string> WhatToChange, IReadOnlyList<string> Words);

/// <summary>A nozzle by size number, or by a washer's flow; pressure in one of psi, MPa or bar.</summary>
public sealed record NozzleRequest(double? Size = null, double? FlowLitresPerMinute = null, double? AngleDegrees = null, double? Psi = null, double? Megapascal = null, double? Bar = null, double? DistanceCm = null);

public sealed record StandOffAnswer(string Id, string Name, double? ClosestCm, string Reason);

public sealed record NozzleAnswer(
    double Size, double Psi, double Megapascal, double LitresPerMinute, double GallonsPerMinute, double SpeedMs, double ForceNewton, double ForceLbf, double DistanceCm, double FanWidthCm, double MeanKilopascal,
    IReadOnlyList<StandOffAnswer> StandOff, IReadOnlyList<string> Words);

public sealed record PhRequest(double? NeatPh = null, string? Strength = null, double? CapfulMl = null);

public sealed record PhAnswer(double NeatPh, double Mildest, bool NeatPotentiallyCorrosive, bool MayStillBeCorrosive, string Caveat, IReadOnlyList<string> Words);

public sealed record HardnessRequest(double? Value = null, string? Unit = null, double? FilmUm = null);

public sealed record HardnessAnswer(double MgPerLitre, IReadOnlyDictionary<string, double> Units, string Class, double FilmUm, double ResidueMgPerM2, bool Soften, IReadOnlyList<string> DryingOrder, IReadOnlyList<string> Words);

/// <summary>An agent on a surface, or an agent after another (<paramref name="After"/>).</summary>
public sealed record CompatibilityRequest(string? Agent = null, string? Surface = null, string? After = null, string? Strength = null, double? FilmC = null, bool? Protected = null, bool? TestSpotPassed = null, bool? RinsedAtOnce = null);

/// <summary>A panel in the weather: how long a film on it stays wet.</summary>
/// <param name="Carrier">mist, spray, thin-foam, thick-foam or gel.</param>
/// <param name="TiltDegrees">0 level, 90 upright.</param>
/// <param name="FacesDegrees">Bearing it looks to, from north.</param>
/// <param name="At">Time with its zone.</param>
/// <param name="InSun">Direct sun reaches it.</param>
/// <param name="DwellSeconds">Then also how many equal panels at once can dwell so long, 1 to 3 600 s.</param>
public sealed record WindowRequest(
    string? Carrier = null, double? AirC = null, double? HumidityPct = null, double? WindMs = null, double? CloudOktas = null, double? Latitude = null, double? Longitude = null, string? At = null,
    bool? InSun = null, double? SkyOpen = null, double? TiltDegrees = null, double? FacesDegrees = null, string? Colour = null, double? PanelC = null, double? FilmFactor = null, double? DwellSeconds = null);

public sealed record FilmPoint(double Seconds, double FilmGrams, double Celsius);

public sealed record WindowAnswer(
    double FirstDrySeconds, double MostDrySeconds, double UsableSeconds, double LowSeconds, double HighSeconds, double PanelC, double FilmC, double WetRestC, double SunAltitude, double SunAzimuth, double IrradianceWm2,
    bool DryingIsTheLimit, IReadOnlyList<FilmPoint> Film, IReadOnlyList<string> Words)
{
    /// <summary>Equal panels at once that can dwell as long as asked before the first is dry; null = no dwell was asked for.</summary>
    public int? PanelsAtOnce { get; init; }
}

/// <param name="Verdict">Agent on surface: yes, care, test or no. Agent after agent: rinse, wash, full-rinse or never.</param>
public sealed record CompatibilityReply(string Verdict, IReadOnlyList<ReasonReply> Reasons, IReadOnlyList<string> Kit);

public sealed record ReasonReply(string Words, bool Refuses, string Table, string Standing);

/// <summary>
/// The calculators of the bench, alike for the web, the interface for programs and the command line: a request in, an answer or the
/// fields that are wrong out.
/// </summary>
public static class Calculators
{
    private static readonly string[] Notations = ["1:9", "10:1", "1 in 10", "2 %", "30 ml per l", "50 ml in 450 ml", "2 us-fl-oz per us-gal", "2 capfuls in 10 l", "neat"];

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
            return new(null, [new Problem("agent", $"'{r.Agent}' is not known", Catalogue.Default.Agents.Where(a => !a.IsWater).Select(a => a.Id).ToArray())]);
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
                return new(null, [new Problem("strength", $"not reachable with this lance: the richest it can put on the panel is {draw * 100:0.##} % (neat in the bottle)")]);
            }

            (onPanel, wanted) = (target, bottle);
        }

        if (r.RemainderMl is not null || r.RemainderStrength is not null)
        {
            return TopUpMix(r, reading!, wanted, onPanel, agent);
        }

        var total = r.TotalMl ?? (r.ProductMl ?? r.WaterMl) switch { null => r.ContainerMl is { } holds ? holds * Catalogue.Default["fill-most"] : 1000, _ => (double?)null };
        var solved = new MixGiven(wanted, r.ProductMl, r.WaterMl, total).Solve();
        if (!solved.Ok)
        {
            return new(null, solved.Problems);
        }

        var mix = solved.Value!;
        if (r.ContainerMl is { } room && mix.TotalMl > room * (1 + 1e-9))
        {
            return new(null, [new Problem("containerMl", $"holds {room:0} ml; the mix is {mix.TotalMl:0} ml ({mix.ProductMl:0.#} ml of it product): a larger container, or share it out")]);
        }

        return Finish(r, reading ?? new StrengthReading(mix.Fraction, $"1 part product to {1 / mix.Fraction.Value - 1:0.##} parts water", null, null), mix, onPanel, null, agent);
    }

    public static Checked<LanceAnswer> Lance(LanceRequest r)
    {
        if (r.Trials is { Count: > 20 })
        {
            return new(null, [new Problem("trials", "at most 20")]);
        }

        var problems = (r.Trials ?? []).SelectMany((t, i) => t.Problems().Select(p => p with { Field = $"trials[{i}].{p.Field}" })).ToArray();
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
        var lance = r.Trials is { Count: > 0 } ? LanceDraw.From(r.Trials) : r.Draw is { } known ? new LanceDraw(known, known * (1 - 2 * c["lance-flow-error"]), Math.Min(1, known * (1 + 2 * c["lance-flow-error"])), 1) : LanceDraw.Uncalibrated;
        var words = new List<string> { $"draw ratio {lance.Ratio:0.###} ({lance.Low:0.###} to {lance.High:0.###}){(lance.Calibrated ? "" : ", not calibrated: time one bottle of water")}" };
        if ((r.OnPanel ?? r.Bottle) is not { } text)
        {
            return new(new LanceAnswer(lance.Ratio, lance.Low, lance.High, lance.Calibrated, null, null, null, null, null, true, lance.Ratio, null, null, [], words), []);
        }

        if (Strength(r.OnPanel is null ? "bottle" : "onPanel", text, null, r.BottleMl, out var reading) is { } bad)
        {
            return new(null, [bad]);
        }

        var answer = r.OnPanel is null ? new BottleAnswer(reading!.Fraction, null, []) : lance.BottleFor(reading!.Fraction, r.FlowLitresPerMinute);
        if (answer.Bottle is not { } bottle)
        {
            words.Add($"not reachable: the richest possible on the panel is {answer.Richest!.Value.Value * 100:0.##} %");
            words.AddRange(answer.WhatToChange);
            return new(new LanceAnswer(lance.Ratio, lance.Low, lance.High, lance.Calibrated, null, null, null, null, null, false, answer.Richest.Value.Value, null, null, answer.WhatToChange, words), []);
        }

        var (expected, low, high) = lance.OnPanel(bottle);
        var mix = r.BottleMl is { } ml ? Dilution.ForTotal(bottle, ml * c["fill-most"]) : null;
        words.Add($"in the bottle {bottle} ({bottle.Value * 100:0.##} %), on the panel {expected.Value * 100:0.##} % ({low.Value * 100:0.##} to {high.Value * 100:0.##} %)");
        words.AddRange(mix is null ? [] : [$"{mix.WaterMl:0.#} ml water, then {mix.ProductMl:0.#} ml product"]);
        return new(new LanceAnswer(lance.Ratio, lance.Low, lance.High, lance.Calibrated, bottle.Value, bottle.ToString(), expected.Value, low.Value, high.Value, true, lance.Ratio, mix is null ? null : Math.Round(mix.ProductMl, 2), mix is null ? null : Math.Round(mix.WaterMl, 2), [], words), []);
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
            return new(null, [new Problem(r.Psi is not null ? "psi" : r.Bar is not null ? "bar" : "megapascal", "is 50 to 6000 psi (0.35 to 41 MPa, 3.5 to 413 bar)")]);
        }

        if (r.FlowLitresPerMinute is { } f && !(f is >= 1 and <= 60))
        {
            return new(null, [new Problem("flowLitresPerMinute", "is 1 to 60 l/min")]);
        }

        var nozzle = new Nozzle(r.Size ?? Chemistry.Nozzle.SizeFor(r.FlowLitresPerMinute!.Value, psi), r.AngleDegrees ?? c["nozzle-reference-angle"], psi);
        if (nozzle.Problem() is { } bad)
        {
            return new(null, [new Problem(bad.StartsWith("angle", StringComparison.Ordinal) ? "angleDegrees" : "size", bad)]);
        }

        var cm = r.DistanceCm ?? 30;
        if (!(cm is >= 1 and <= 500))
        {
            return new(null, [new Problem("distanceCm", "is 1 to 500 cm")]);
        }

        var stand = c.StandOffs.Select(s => new StandOffAnswer(s.Id, s.Name, s.Closest(nozzle), s.Reason)).ToArray();
        var paint = stand.First(s => s.Id == "paint").ClosestCm;
        return new(new NozzleAnswer(
            nozzle.Size, psi, nozzle.Megapascal, nozzle.LitresPerMinute, nozzle.GallonsPerMinute, nozzle.Speed, nozzle.ForceNewton, nozzle.ForceNewton / c["newton-per-lbf"], cm, nozzle.FanWidth(cm / 100) * 100, nozzle.MeanKilopascal(cm / 100), stand,
            [
                $"{nozzle.LitresPerMinute:0.0} l/min ({nozzle.GallonsPerMinute:0.00} US gal/min) at {psi:0} psi ({nozzle.Megapascal:0.0} MPa), jet {nozzle.Speed:0} m/s, force {nozzle.ForceNewton:0.0} N in theory",
                $"at {cm:0} cm the fan is {nozzle.FanWidth(cm / 100) * 100:0} cm wide and presses {nozzle.MeanKilopascal(cm / 100):0.0} kPa on average",
                nozzle.AngleDegrees < 15 ? "a jet this narrow is for drains and concrete: not on a vehicle, never toward skin" : $"no nearer than {paint:0} cm to sound paint; never toward skin, tyres, seals, bearings, fins, split lacquer or stickers",
            ]), []);
    }

    public static Checked<PhAnswer> Ph(PhRequest r)
    {
        if (!(r.NeatPh is >= 0 and <= 14))
        {
            return new(null, [new Problem("neatPh", r.NeatPh is null ? "is missing: the data sheet, section 9" : "is 0 to 14")]);
        }

        if (Strength("strength", r.Strength, r.CapfulMl, null, out var reading) is { } bad)
        {
            return new(null, [bad]);
        }

        var mild = DilutedPh.Mildest(r.NeatPh.Value, reading!.Fraction);
        var (neat, still) = (DilutedPh.PotentiallyCorrosive(r.NeatPh.Value), DilutedPh.PotentiallyCorrosive(mild));
        return new(new PhAnswer(r.NeatPh.Value, mild, neat, neat, DilutedPh.Caveat,
        [
            $"at {reading.Fraction} pH {mild:0.0} at the mildest, {r.NeatPh:0.0} at the harshest",
            still ? "potentially corrosive even diluted (GHS: 2 or below, 11.5 or above): long gloves, visor, apron" : neat ? "neat it is potentially corrosive (GHS: 2 or below, 11.5 or above), and diluted it may still be: dress for the neat product" : "neither end is at the GHS thresholds; the label decides on gloves and eyes",
            DilutedPh.Caveat,
        ]), []);
    }

    public static Checked<HardnessAnswer> Hardness(HardnessRequest r)
    {
        var c = Catalogue.Default;
        var unit = r.Unit ?? "mg-l";
        if (WaterHardness.Units.All(u => u.Id != unit))
        {
            return new(null, [new Problem("unit", $"'{unit}' is not a unit of hardness", WaterHardness.Units.Select(u => u.Id).ToArray())]);
        }

        if (r.Value is not { } value || !(value >= 0) || WaterHardness.MgPerLitre(Math.Min(value, 1e6), unit) is var mg && mg > 2000)
        {
            return new(null, [new Problem("value", "is 0 to 2000 mg/l, in whatever unit")]);
        }

        var film = r.FilmUm ?? c["rinse-film"];
        if (!(film is >= 0 and <= 1000))
        {
            return new(null, [new Problem("filmUm", "is 0 to 1000 µm")]);
        }

        var advice = WaterHardness.Advise(mg);
        var residue = WaterHardness.ResidueMgPerM2(mg, film);
        return new(new HardnessAnswer(mg, WaterHardness.Units.ToDictionary(u => u.Id, u => WaterHardness.In(mg, u.Id)), advice.Class, film, residue, advice.Soften, advice.DryingOrder,
            [$"{mg:0} mg/l as CaCO₃: {advice.Class}", $"a {film:0} µm film that dries leaves {residue:0.#} mg/m²", advice.Words, "Dry in this order: " + string.Join("; ", advice.DryingOrder) + "."]), []);
    }

    public static Checked<CompatibilityReply> Compatibility(CompatibilityRequest r)
    {
        var c = Catalogue.Default;
        var agents = c.Agents.Select(a => a.Id).ToArray();
        if (!agents.Contains(r.Agent))
        {
            return new(null, [new Problem("agent", r.Agent is null ? "is missing" : $"'{r.Agent}' is not known", agents)]);
        }

        if ((r.Surface is null) == (r.After is null))
        {
            return new(null, [new Problem("surface", "say a surface it goes on, or an agent it comes after", ["surface", "after"])]);
        }

        if (r.After is not null)
        {
            if (!agents.Contains(r.After))
            {
                return new(null, [new Problem("after", $"'{r.After}' is not known", agents)]);
            }

            var (meeting, reason) = After(c.Agent(r.After), c.Agent(r.Agent!));
            return new(new CompatibilityReply(Word(meeting), [new ReasonReply(reason, meeting == Meeting.Never, "meetings", c.Table("meetings").Standing.ToString())], []), []);
        }

        if (c.Surfaces.All(s => s.Id != r.Surface))
        {
            return new(null, [new Problem("surface", $"'{r.Surface}' is not known", c.Surfaces.Select(s => s.Id).ToArray())]);
        }

        StrengthReading? reading = null;
        if (r.Strength is not null && Strength("strength", r.Strength, null, null, out reading) is { } bad)
        {
            return new(null, [bad]);
        }

        if (r.FilmC is { } t && !(t is >= -20 and <= 90))
        {
            return new(null, [new Problem("filmC", "is -20 to 90 °C")]);
        }

        var answer = Chemistry.Compatibility.Default.Ask(r.Agent!, r.Surface!, new Circumstances(reading?.Fraction, r.FilmC ?? 20, r.Protected ?? false, r.TestSpotPassed ?? false, r.RinsedAtOnce ?? false));
        return new(new CompatibilityReply(answer.Verdict, answer.Reasons.Select(b => new ReasonReply(b.Words, b.Refuses, b.Table, b.Standing.ToString())).ToArray(), answer.Kit), []);
    }

    public static Checked<WindowAnswer> Window(WindowRequest r)
    {
        var c = Catalogue.Default;
        var problems = new List<Problem>();
        double N(string field, double? v, double low, double high, double? none)
        {
            if (v is null && none is null)
            {
                problems.Add(new Problem(field, "is missing"));
            }
            else if (v is { } x && !(x >= low && x <= high))
            {
                problems.Add(new Problem(field, string.Create(System.Globalization.CultureInfo.InvariantCulture, $"is {low} to {high}")));
            }

            return v ?? none ?? 0;
        }

        var carrier = c.Carriers.FirstOrDefault(k => k.Id == (r.Carrier ?? "thin-foam"));
        if (carrier is null)
        {
            problems.Add(new Problem("carrier", $"'{r.Carrier}' is not known", c.Carriers.Select(k => k.Id).ToArray()));
        }

        var air = new Conditions.Air(N("airC", r.AirC, -20, 50, null), N("humidityPct", r.HumidityPct, 0, 100, null), N("windMs", r.WindMs, 0, 20, c["wind-unsaid"]), N("cloudOktas", r.CloudOktas, 0, 8, 0));
        var (lat, lon, tilt, faces) = (N("latitude", r.Latitude, -90, 90, 0), N("longitude", r.Longitude, -180, 180, 0), N("tiltDegrees", r.TiltDegrees, 0, 180, 5), N("facesDegrees", r.FacesDegrees, 0, 360, 180));
        var (sky, panel, film) = (N("skyOpen", r.SkyOpen, 0, 1, 1), r.PanelC is null ? 0 : N("panelC", r.PanelC, -20, 95, 0), N("filmFactor", r.FilmFactor, 0.2, 5, 1));
        var dwell = N("dwellSeconds", r.DwellSeconds, 1, 3600, 0);
        var inSun = r.InSun ?? false;
        DateTimeOffset at = default;
        if (r.At is null ? inSun || r.Latitude is not null : !((r.At.EndsWith('Z') || r.At.LastIndexOfAny(['+', '-']) > 10) && DateTimeOffset.TryParse(r.At, System.Globalization.CultureInfo.InvariantCulture, System.Globalization.DateTimeStyles.None, out at)))
        {
            problems.Add(new Problem("at", "is a time with its zone, like 2026-06-12T13:00+01:00"));
        }

        var absorptance = 0.95;
        if (r.Colour is { } colour)
        {
            try
            {
                absorptance = PaintColour.Nearest(colour).Absorptance;
            }
            catch (FormatException)
            {
                problems.Add(new Problem("colour", "is written #rrggbb"));
            }
        }

        if (problems.Count > 0)
        {
            return new(null, problems);
        }

        var sun = r.At is null ? default : Conditions.SunPosition.At(at, lat, lon);
        var light = r.At is null ? default : Conditions.Sunlight.Of(sun, air.Oktas);
        Conditions.PanelBalance In(Conditions.Air there) => new(there, sun, light, new Conditions.Exposure(inSun ? 1 : 0, r.At is null ? 0 : sky, c["albedo-other"]), new Conditions.PanelHeat(tilt, faces, absorptance, c.Substrates[0].Heat, r.PanelC is null ? null : panel));
        var b = In(air);
        var held = carrier!.Times(film);
        var points = new List<FilmPoint>();
        var next = 0.0;
        var w = Conditions.WetWindow.Integrate(b, held, null, (s, m, t) =>
        {
            if (s >= next)
            {
                points.Add(new FilmPoint(Math.Round(s, 1), Math.Round(m * 1000, 2), Math.Round(t, 1)));
                next = s + Math.Max(0.5, s / 40);
            }
        });
        var (low, high) = Conditions.WindowBand.Of(Conditions.WetWindow.Fast(b, held).FirstDry, air, c["band-film"], (there, k) => Conditions.WetWindow.Fast(In(there), held.Times(k)).FirstDry);
        var usable = w.FirstDry * c[r.PanelC is not null && r.WindMs is not null ? "safe-part-measured" : "safe-part"];
        int? atOnce = r.DwellSeconds is null ? null : Conditions.Sections.Most(60 * c["section-panel"] / c["apply-speed"], 60 * c["section-panel"] / c["rinse-speed"], dwell, usable);
        return new(new WindowAnswer(
            Math.Round(w.FirstDry, 1), Math.Round(w.MostDry, 1), Math.Round(usable, 1), Math.Round(low, 1), Math.Round(high, 1), Math.Round(b.Now, 1), Math.Round(w.MeanC, 1), Math.Round(b.Wet, 1), Math.Round(sun.Altitude, 2), Math.Round(sun.Azimuth, 2), Math.Round(b.Irradiance, 1), !w.NotTheLimit, points,
            [
                w.NotTheLimit ? $"{carrier.Name}: {Conditions.SiteConditions.Say(w.FirstDry)}" : $"{carrier.Name}: first dry spots after {Conditions.SiteConditions.Say(w.FirstDry)} ({Conditions.SiteConditions.Say(low)} to {Conditions.SiteConditions.Say(high)}), most of the panel after {Conditions.SiteConditions.Say(w.MostDry)}: rinse by {Conditions.SiteConditions.Say(usable)}",
                $"panel {b.Now:0} °C now, film {w.MeanC:0} °C on average",
                b.Now > c["hot-panel"] ? "hotter than 40 °C: no chemistry, cool it first (water only on body panels)" : b.Now > c["hot-film"] ? "above 30 °C: no acid, caustic or solvent" : "the model was not yet compared with measured dry-out times: one timed dry-out or one weighed towel calibrates it",
                .. atOnce is { } n ? new[] { n == 0 ? $"not one panel of {c["section-panel"]:0.#} m² can dwell {dwell:0} s and be rinsed in time: shade, cool water first, thicker foam or smaller pieces" : $"{n} {(n == 1 ? "panel" : "panels")} of {c["section-panel"]:0.#} m² at once can dwell {dwell:0} s" } : [],
            ]) { PanelsAtOnce = atOnce }, []);
    }

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

    /// <summary>A meeting as programs read it.</summary>
    public static string Word(Meeting meeting) => meeting switch { Meeting.Never => "never", Meeting.FullRinse => "full-rinse", Meeting.Wash => "wash", _ => "rinse" };

    private static Problem? Strength(string field, string? text, double? capfulMl, double? containerMl, out StrengthReading? reading)
    {
        reading = null;
        if (string.IsNullOrWhiteSpace(text))
        {
            return new Problem(field, "is missing", Notations);
        }

        return text.Length > 120 ? new Problem(field, "is at most 120 characters", Notations)
            : capfulMl is { } cap && !(cap is > 0 and <= 500) ? new Problem("capfulMl", "is more than 0 and at most 500 ml")
            : Dilution.TryParse(text, capfulMl, out reading, out var problem, containerMl) ? null : new Problem(field, problem!, Dilution.Either(text) is { Count: > 0 } either ? either : null);
    }

    private static Checked<MixAnswer> TopUpMix(MixRequest r, StrengthReading? reading, ProductFraction? wanted, ProductFraction? onPanel, Agent? agent)
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

        var top = TopUp.To(Dilution.ForTotal(now!.Fraction, rest), target, r.TotalMl, r.ContainerMl ?? Math.Max(r.TotalMl ?? 0, rest * 100));
        return top.Ok ? Finish(r, reading!, top.Value!.Result, onPanel, top.Value, agent)
            : new(null, top.Problems.Select(p => p.Field == "capacityMl" ? p with { Field = "containerMl" } : p).ToArray());
    }

    private static Checked<MixAnswer> Finish(MixRequest r, StrengthReading reading, Mixture mix, ProductFraction? onPanel, TopUp? top, Agent? agent)
    {
        if (r.JugMl is { } mark && !(mark is >= 0.1 and <= 1000))
        {
            return new(null, [new Problem("jugMl", "is 0.1 to 1000 ml: the smallest mark of the jug")]);
        }

        if (r.Containers is { } list && (list.Count > 40 || list.Any(ml => !(ml is > 0 and <= MixGiven.MostMl))))
        {
            return new(null, [new Problem("containers", $"are at most 40, each more than 0 and at most {MixGiven.MostMl:0} ml")]);
        }

        var jug = r.JugMl is { } m ? JugPour.Of(top is null ? mix : new Mixture(mix.Fraction, Math.Max(top.AddProductMl, 1e-9), mix.TotalMl - Math.Max(top.AddProductMl, 1e-9)), m, Math.Max(m, 10)) : null;
        if (top is not null && jug is not null)
        {
            // Only what is added can be rounded; what is in the bottle stays as it is.
            var added = Math.Round(top.AddProductMl / r.JugMl!.Value, MidpointRounding.AwayFromZero) * r.JugMl.Value;
            var real = (mix.ProductMl - top.AddProductMl + added) / (mix.TotalMl - top.AddProductMl + added);
            jug = jug with { ProductMl = added, WaterMl = Math.Round(top.AddWaterMl / Math.Max(r.JugMl.Value, 10)) * Math.Max(r.JugMl.Value, 10), TrueStrength = ProductFraction.Of(real), Off = real / mix.Fraction.Value - 1, GoodEnough = Math.Abs(real / mix.Fraction.Value - 1) <= Catalogue.Default["jug-tolerance"] };
        }

        var (fills, left) = r.Containers is { Count: > 0 } ? Filling.Split(mix.Fraction, mix.TotalMl, r.Containers.Select((ml, i) => new Fillable(i.ToString(System.Globalization.CultureInfo.InvariantCulture), "", ml))) : ([], 0);
        var words = new List<string>();
        words.AddRange(onPanel is { } p ? [$"in the lance bottle {mix.Fraction} for {p} on the panel"] : []);
        words.Add(top is not null ? top.Words : $"{reading.Means}: {mix.ProductMl:0.#} ml product + {mix.WaterMl:0.#} ml water = {mix.TotalMl:0.#} ml. Water first, product into water.");
        words.AddRange(reading.OtherReading is { } o && top is null && onPanel is null ? [$"{reading.OtherMeans}: {o.Value * mix.TotalMl:0.#} ml product instead ({(o.Value / mix.Fraction.Value - 1) * 100:+0;-0} %)"] : []);
        words.AddRange(jug is null ? [] : [jug.TrueStrength is { } real2
            ? $"with this jug: {jug.ProductMl:0.##} ml product, {jug.WaterMl:0.##} ml water: really {real2} ({jug.Off * 100:+0.#;-0.#;0} %){(jug.GoodEnough ? "" : $"; too coarse, use a finer measure or make at least {jug.LeastTotalMl:0} ml")}"
            : $"this jug cannot measure so little: use a finer measure or make at least {jug.LeastTotalMl:0} ml"]);
        words.AddRange(left > 0.5 ? [$"{left:0} ml do not fit into the containers named"] : []);
        return new(new MixAnswer(
            mix.Fraction.Value, mix.Fraction.ToString(), reading.Means, Math.Round(mix.ProductMl, 2), Math.Round(mix.WaterMl, 2), Math.Round(mix.TotalMl, 2), reading.OtherMeans, reading.OtherReading?.Value, reading.OtherReading is { } other ? Math.Round(other.Value * mix.TotalMl, 2) : null, onPanel?.Value,
            jug is null ? null : new JugAnswer(jug.ProductMl, jug.WaterMl, jug.TrueStrength?.Value, jug.TrueStrength?.ToString(), Math.Round(jug.Off * 100, 2), jug.GoodEnough, jug.LeastTotalMl),
            top is null ? null : new TopUpAnswer(top.KeepMl, top.PourOutMl, top.AddProductMl, top.AddWaterMl),
            fills.Select(f => new FillAnswer(int.Parse(f.Container.Id, System.Globalization.CultureInfo.InvariantCulture), f.Container.Ml, f.Mix.ProductMl, f.Mix.WaterMl)).ToArray(), left, agent is null ? ["Water first, then product into the water."] : MixSafety.Words(agent), words), []);
    }
}
