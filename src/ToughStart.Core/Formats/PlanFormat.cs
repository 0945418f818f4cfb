using System.Buffers;
using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Nodes;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Conditions;
using ToughStart.Core.Contamination;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;
using Range = ToughStart.Core.Planning.Range;

namespace ToughStart.Core.Formats;

/// <summary>
/// Writes <c>toughstart.plan/2</c>, and reads it and <c>toughstart.plan/1</c>, whose steps take the same rounds on all their zones. A plan that
/// was written reads back as the plan it was, rounded as written: what a job was planned with stays on file whatever becomes of shelf, weather
/// and engine.
/// </summary>
public static class PlanFormat
{
    /// <summary>Largest plan that is read, bytes.</summary>
    public const int MostBytes = 8 * 1024 * 1024;

    private static readonly JsonWriterOptions Options = new() { Indented = true, Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    private static Holds<double> Amount(int digits) => Hold.Number(0, null, digits);

    private static Holds<double> Any(int digits) => Hold.Number(null, null, digits);

    private static Holds<double> Share(int digits) => Hold.Number(0, 1, digits);

    private static readonly Holds<Range> RangeOf0 = RangeOf(0);

    private static Holds<Range> RangeOf(int digits) =>
        new Part<Range>(v => new(v.Get<double>("low"), v.Get<double>("expected"), v.Get<double>("high")))
            .With("low", Amount(digits), r => r.Low)
            .With("expected", Amount(digits), r => r.Expected)
            .With("high", Amount(digits), r => r.High)
            .One;

    private static readonly Part<Mix> MixPart = new Part<Mix>(v =>
        new(
            v.Get<string>("vessel"),
            Fraction(v.Get("inVessel", 1.0)),
            v.Get<double>("productMl"),
            v.Get<double>("waterMl"),
            v.Get<StrengthBasis>("basis"),
            v.Get<bool>("calibrated"),
            v.Get("onPanelLow", 1.0),
            v.Get("onPanelHigh", 1.0)
        )
        {
            NeedMl = v.Get("needMl", 0.0),
            Leftover = v.Get("leftoverBottle", "") is { Length: > 0 } bottle
                ? new Leftover("", Fraction(v.Get("inVessel", 1.0)), v.Get("leftoverMl", 0.0), bottle)
                : null,
        }
    )
        .With("vessel", Hold.Text, m => m.Vessel)
        .With("productMl", Amount(1), m => m.ProductMl)
        .With("waterMl", Amount(1), m => m.WaterMl)
        .May("inVessel", Share(6), m => m.InVessel.Value)
        .With("basis", Hold.Term(StrengthBasis.All), m => m.Basis)
        .With("calibrated", Hold.Flag, m => m.Calibrated)
        .May("onPanelLow", Share(6), m => m.OnPanelLow)
        .May("onPanelHigh", Share(6), m => m.OnPanelHigh)
        .May("leftoverMl", Amount(0), m => m.Leftover?.Ml)
        .MayBe("leftoverBottle", Hold.Text, m => m.Leftover?.Bottle)
        .May("needMl", Amount(1), m => m.NeedMl);

    private static readonly Part<SectionPart> PiecePart = new Part<SectionPart>(v =>
        new(v.Get<string>("zone"), v.Get("part", 1), v.Get("parts", 1))
    )
        .With("zone", Hold.Text, x => x.Zone)
        .May("part", Hold.Whole(1, 100), x => (x.Parts > 1, x.Part))
        .May("parts", Hold.Whole(1, 100), x => (x.Parts > 1, x.Parts));

    private static readonly Part<Section> SectionPart = new Part<Section>(v =>
        new(
            v.Get<IReadOnlyList<SectionPart>>("work", []),
            v.Get("startMinute", 0.0),
            v.Get("seconds", 0.0),
            v.Get("idleSeconds", 0.0),
            v.Get("tightest", ""),
            v.Get("spareSeconds", 0.0)
        )
    )
        .With("zones", Hold.Text, x => x.Words)
        .May("work", Hold.ListOf(PiecePart.One), x => (true, x.Work))
        .May("startMinute", Amount(1), x => x.StartMinute)
        .May("seconds", Amount(0), x => x.Seconds)
        .May("idleSeconds", Amount(0), x => x.Idle)
        .MayBe("tightest", Hold.Text, x => x.Tightest)
        .May("spareSeconds", Any(0), x => x.Spare);

    private static readonly Part<SectionPlan> SectionsPart = new Part<SectionPlan>(v =>
        new(
            v.Get<IReadOnlyList<Section>>("sections"),
            v.Get("idleMinutes", 0.0),
            v.Get("ladderMoves", 0),
            v.Get("mistAgainSeconds", -1.0) is >= 0 and var s ? s : null,
            v.Get<IReadOnlyList<string>>("why", [])
        )
    )
        .With("sections", Hold.ListOf(SectionPart.One), x => x.Sections)
        .May("idleMinutes", Amount(2), x => x.IdleMinutes)
        .May("ladderMoves", Hold.Whole(0, 200), x => (true, x.LadderMoves))
        .May("mistAgainSeconds", Amount(0), x => x.RemistSeconds)
        .MayBe("why", Hold.Texts, x => x.Why);

    private static readonly Part<Answer> AnswerPart = new Part<Answer>(v =>
        new(v.Get<string>("zone"), v.Get<string>("contaminant"), v.Get<double>("before"), v.Get<double>("after"))
    )
        .With("zone", Hold.Text, a => a.Zone)
        .With("contaminant", Hold.Text, a => a.Contaminant)
        .With("before", Share(3), a => a.Before)
        .With("after", Share(3), a => a.After);

    private static readonly Part<Portion> PortionPart = new Part<Portion>(v =>
        new(
            v.Get<IReadOnlyList<string>>("zones"),
            v.Get<int>("rounds"),
            v.Get("labourMinutes", 0.0),
            v.Get("waterLitres", 0.0),
            v.Get("productMl", 0.0),
            v.Get("dwellMinutes", 0.0),
            v.Get<string?>("over", null)
        )
    )
        .With("zones", Hold.Texts, p => p.Zones)
        .With("rounds", Hold.Whole(1, 4), p => p.Rounds)
        .May("labourMinutes", Amount(2), p => p.LabourMinutes)
        .May("waterLitres", Amount(2), p => p.WaterLitres)
        .May("productMl", Amount(2), p => p.ProductMl)
        .May("dwellMinutes", Hold.Number(0, 60, 2), p => p.DwellMinutes)
        .MayBe("over", Hold.Text, p => p.Over);

    private static readonly Part<StepZone> StepZonePart = new Part<StepZone>(v =>
        new(
            v.Get<string>("zone"),
            v.Get("seconds", 0.0),
            v.Get("squareMetres", 0.0),
            v.Get("usableSeconds", -1.0) is >= 0 and var usable ? usable : null
        )
    )
        .With("zone", Hold.Text, x => x.Zone)
        .May("seconds", Amount(0), x => x.Seconds)
        .May("squareMetres", Amount(3), x => x.Area)
        .May("usableSeconds", Amount(0), x => x.UsableSeconds);

    private static readonly Part<Cooling> CoolingPart = new Part<Cooling>(v =>
        new(v.Get<IReadOnlyList<string>>("zones"), v.Get("hottestC", 0.0), v.Get("minutes", 0.0), v.Get("litres", 0.0))
    )
        .With("zones", Hold.Texts, x => x.Zones)
        .May("hottestC", Any(0), x => x.HottestC)
        .May("minutes", Amount(1), x => x.Minutes)
        .May("litres", Amount(1), x => x.Litres);

    private static readonly Part<Until> UntilPart = new Part<Until>(v =>
        new(
            v.Get<string>("observe"),
            v.Get<IReadOnlyList<string>>("stop"),
            v.Get<IReadOnlyList<string>>("repeat"),
            v.Get<int>("maxRounds"),
            v.Get<string>("then")
        )
    )
        .With("observe", Hold.Text, u => u.Observe)
        .With("stop", Hold.Texts, u => u.Stop)
        .With("repeat", Hold.Texts, u => u.Repeat)
        .With("maxRounds", Hold.Whole(1, 4), u => u.MaxRounds)
        .With("then", Hold.Text, u => u.Then);

    private static readonly Part<Step> StepPart = new Part<Step>(ReadStep)
        .With("key", Hold.Text, s => s.Key)
        .With("after", Hold.Texts, s => s.After)
        .With("stage", Hold.Term(Stage.All), s => s.Stage)
        .MayBe("slot", Hold.Term(Place.All), s => s.Slot)
        .MayBe("block", Hold.OneOf(["wheels", "body"]), s => s.Block == Block.Wheels ? "wheels" : "body")
        .With("treatment", Hold.Text, s => s.Treatment)
        .MayBe("name", Hold.Text, s => s.Name)
        .With("agent", Hold.Text, s => s.Agent)
        .MayBe("agentName", Hold.Text, s => s.AgentName)
        .MayBe("bottle", Hold.Text, s => s.Bottle)
        .MayBe("bottleId", Hold.Text, s => s.BottleId)
        .With("strength", Share(6), s => s.Strength.Value)
        .MayBe("carrier", Hold.Term(AgentCarrier.All), s => s.Carrier)
        .MayBe("mix", MixPart.One, s => s.Mix, true)
        .With("rounds", Hold.Whole(1, 4), s => s.Rounds)
        .May("roundsLow", Hold.Whole(1, 4), s => (true, s.RoundsBetween.Low))
        .May("roundsHigh", Hold.Whole(1, 4), s => (true, s.RoundsBetween.High))
        .May("dwellMinutes", Hold.Number(0, 60, 2), s => s.DwellMinutes)
        .May("maxDwellMinutes", Hold.Number(0, 60, 2), s => s.MaxDwellMinutes)
        .May("mists", Hold.Whole(0, 3), s => (s.Mists > 0, s.Mists))
        .MayBe("cool", CoolingPart.One, s => s.Cool)
        .MayBe("film", Hold.Text, s => s.Film)
        .If("underFoam", s => s.Under)
        .MayBe("over", Hold.Text, s => s.Over)
        .MayBe("inSections", SectionsPart.One, s => s.Sections)
        .MayBe("tool", Hold.Text, s => s.Tool)
        .With("zones", Hold.Texts, s => s.Zones)
        .May("per", Hold.ListOf(PortionPart.One), s => (s.Stage != Stage.Dry, s.Per))
        .May("parts", Hold.ListOf(StepZonePart.One), s => (s.Parts.Count > 0, s.Parts))
        .MayBe("pass", Hold.Text, s => s.Stage == Stage.Dry ? null : s.Pass)
        .MayBe("answers", Hold.ListOf(AnswerPart.One), s => s.Answers)
        .With("why", Hold.Texts, s => s.Why)
        .MayBe("until", UntilPart.One, s => s.Until, true)
        .MayBe("cautions", Hold.Texts, s => s.Cautions)
        .MayBe("avoid", Hold.Texts, s => s.Avoid)
        .MayBe("kit", Hold.Texts, s => s.Kit)
        .May("labourMinutes", Amount(1), s => s.LabourMinutes)
        .May("setUpMinutes", Amount(2), s => s.SetUpMinutes > 0 ? s.SetUpMinutes : null)
        .May("openMinutes", Amount(2), s => s.OpenMinutes > 0 ? s.OpenMinutes : null)
        .May("waitMinutes", Amount(1), s => s.WaitMinutes)
        .May("waterLitres", Amount(1), s => s.WaterLitres)
        .May("productMl", Amount(1), s => s.ProductMl)
        .May("money", Amount(2), s => s.Money);

    private static readonly Part<Skipped> SkippedPart = new Part<Skipped>(v =>
        new(v.Get<Stage>("stage"), v.Get<IReadOnlyList<string>>("zones"), v.Get<string>("reason"))
    )
        .With("stage", Hold.Term(Stage.All), s => s.Stage)
        .With("zones", Hold.Texts, s => s.Zones)
        .With("reason", Hold.Text, s => s.Reason);

    private static readonly Part<RefusedGroup> RefusedPart = new Part<RefusedGroup>(v =>
        new(v.Get<string>("treatment"), v.Get<IReadOnlyList<string>>("zones"), v.Get<string>("reason"), v.Get("cause", ""))
        {
            Missed = v.Get("missed", false),
        }
    )
        .With("treatment", Hold.Text, s => s.Treatment)
        .With("zones", Hold.Texts, s => s.Zones)
        .With("reason", Hold.Text, s => s.Reason)
        .MayBe("cause", Hold.Text, s => s.Cause)
        .If("missed", s => s.Missed);

    private static readonly Part<Refer> ReferPart = new Part<Refer>(v =>
        new(v.Get<IReadOnlyList<string>>("zones"), v.Get<string>("what"), v.Get<string>("reason"))
    )
        .With("zones", Hold.Texts, s => s.Zones)
        .With("what", Hold.Text, s => s.What)
        .With("reason", Hold.Text, s => s.Reason);

    private static readonly Part<BranchStep> BranchPart = new Part<BranchStep>(v =>
        new(
            v.Get<Stage>("stage"),
            v.Get<string>("treatment"),
            v.Get("name", v.Get<string>("treatment")),
            v.Get<int>("rounds"),
            v.Get<IReadOnlyList<string>>("zones"),
            v.Get<double>("labourMinutes")
        )
    )
        .With("stage", Hold.Term(Stage.All), b => b.Stage)
        .With("treatment", Hold.Text, b => b.Treatment)
        .MayBe("name", Hold.Text, b => b.Name)
        .With("rounds", Hold.Whole(1, 4), b => b.Rounds)
        .With("zones", Hold.Texts, b => b.Zones)
        .With("labourMinutes", Amount(1), b => b.LabourMinutes);

    // One field a line.
    // csharpier-ignore
    private static readonly Part<PlannedTest> TestPart = new Part<PlannedTest>(v =>
        new(
            v.Get<string>("test"),
            v.Get("contaminant", ""),
            v.Get<IReadOnlyList<string>>("zones"),
            v.Get<string>("when"),
            v.Get<string>("changes"),
            v.Get("probability", 0.0),
            v.Get("addsMinutes", 0.0),
            v.Get("narrowsMinutes", 0.0),
            v.Get<IReadOnlyList<BranchStep>>("ifPositive")
        )
        {
            Value = v.Get("value", 0.0),
            Required = v.Get("required", false),
            Without = v.Get("without", ""),
            SavesMinutes = v.Get("savesMinutes", 0.0),
            SavesMoney = v.Get("savesMoney", 0.0),
            SavesHarm = v.Get("savesHarm", 0.0),
        }
    )
    .With("test", Hold.Text, t => t.Test)
    .MayBe("contaminant", Hold.Text, t => t.Contaminant)
    .With("zones", Hold.Texts, t => t.Zones)
    .With("when", Hold.Text, t => t.When)
    .With("changes", Hold.Text, t => t.Changes)
    .If("required", t => t.Required)
    .May("probability", Share(3), t => t.Probability)
    .May("addsMinutes", Amount(1), t => t.AddsMinutes)
    .May("narrowsMinutes", Amount(1), t => t.NarrowsMinutes)
    .May("value", Any(1), t => t.Value)
    .MayBe("without", Hold.Text, t => t.Without)
    .May("savesMinutes", Any(1), t => t.SavesMinutes)
    .May("savesMoney", Any(2), t => t.SavesMoney)
    .May("savesHarm", Amount(2), t => t.SavesHarm)
    .With("ifPositive", Hold.ListOf(BranchPart.One), t => t.IfPositive);

    private static readonly Part<MediaLine> MediaPart = new Part<MediaLine>(v =>
        new(
            v.Get<string>("medium"),
            v.Get("name", v.Get<string>("medium")),
            v.Get<string>("kit"),
            v.Get<int>("pieces"),
            v.Get<IReadOnlyList<string>>("steps", []),
            v.Get("after", ""),
            v.Get("rule", "")
        )
    )
        .With("medium", Hold.Text, m => m.Medium)
        .MayBe("name", Hold.Text, m => m.Name)
        .With("kit", Hold.OneOf(["wheels", "body", "own"]), m => m.Kit)
        .With("pieces", Hold.Whole(1, 1000), m => m.Pieces)
        .MayBe("steps", Hold.Texts, m => m.Steps)
        .MayBe("after", Hold.Text, m => m.After)
        .MayBe("rule", Hold.Text, m => m.Rule);

    private static readonly Part<BuyLine> BuyPart = new Part<BuyLine>(v =>
        new(
            v.Get<string>("agent"),
            v.Get("name", v.Get<string>("agent")),
            v.Get<double>("needMl"),
            v.Get("haveMl", -1.0) is >= 0 and var have ? have : null,
            v.Get<double>("money"),
            v.Get<IReadOnlyList<string>>("instead", []),
            v.Get<IReadOnlyList<string>>("stays", []),
            v.Get("minutesWithout", 0.0)
        )
    )
        .With("agent", Hold.Text, b => b.Agent)
        .MayBe("name", Hold.Text, b => b.Name)
        .With("needMl", Amount(1), b => b.NeedMl)
        .May("haveMl", Amount(1), b => b.HaveMl)
        .With("money", Any(2), b => b.Money)
        .May("minutesWithout", Any(1), b => b.Minutes)
        .MayBe("instead", Hold.Texts, b => b.Instead)
        .MayBe("stays", Hold.Texts, b => b.Stays)
        .With("words", Hold.Text, b => b.Words);

    private static readonly Part<Proof> ProofPart = new Part<Proof>(v =>
        new(v.Get<int>("zones"), v.Get<int>("zonesProved"), v.Get<double>("costMinutes"), v.Get<double>("boundMinutes"))
    )
        .With("zones", Hold.Whole(0, 400), x => x.Zones)
        .With("zonesProved", Hold.Whole(0, 400), x => x.Proved)
        .With("costMinutes", Amount(2), x => x.Minutes)
        .With("boundMinutes", Amount(2), x => x.AtLeast);

    private static readonly Part<Totals> TotalsPart = new Part<Totals>(v =>
        new(
            v.Get<Range>("labourMinutes"),
            v.Get<Range>("elapsedMinutes"),
            v.Get<Range>("waterLitres"),
            v.Get<Range>("money"),
            v.Get("productTotalMl", default(Range)),
            v.Get<IReadOnlyDictionary<string, double>>("productMl"),
            v.Get<double>("harm")
        )
        {
            AsSeenMinutes = v.Get("asSeenMinutes", default(Range)),
        }
    )
        .With("labourMinutes", RangeOf0, t => t.LabourMinutes)
        .With("elapsedMinutes", RangeOf0, t => t.ElapsedMinutes)
        .With("waterLitres", RangeOf0, t => t.WaterLitres)
        .With("money", RangeOf0, t => t.Money)
        .May("asSeenMinutes", RangeOf0, t => (true, t.AsSeenMinutes))
        .May("productTotalMl", RangeOf0, t => (true, t.ProductTotalMl))
        .With("productMl", Hold.Numbers(0, null, 0), t => t.ProductMl)
        .With("harm", Amount(2), t => t.Harm);

    private static readonly Part<(string Step, IReadOnlyDictionary<string, double> Loads)> LoadsPart = new Part<(
        string,
        IReadOnlyDictionary<string, double>
    )>(v => (v.Get<string>("step"), v.Get<IReadOnlyDictionary<string, double>>("loads")))
        .With("step", Hold.Text, x => x.Item1)
        .With("loads", Hold.Numbers(0, 1, 4), x => x.Item2);

    private static readonly Part<ZoneTrace> TracePart = new Part<ZoneTrace>(v =>
        new(
            v.Get<string>("zone"),
            v.Get<IReadOnlyDictionary<string, double>>("start"),
            v.Get<IReadOnlyList<(string, IReadOnlyDictionary<string, double>)>>("after"),
            v.Get<IReadOnlyDictionary<string, double>>("targets")
        )
    )
        .With("zone", Hold.Text, t => t.Zone)
        .With("start", Hold.Numbers(0, 1, 4), t => t.Start)
        .With("after", Hold.ListOf(LoadsPart.One), t => t.After)
        .With("targets", Hold.Numbers(0, 1, 4), t => t.Targets);

    private sealed record Assumed(double FilmC, string Drying, IReadOnlyList<string> Conditions);

    private static readonly Part<Assumed> AssumedPart = new Part<Assumed>(v =>
        new(v.Get("filmC", 20.0), v.Get("drying", "not computed"), v.Get<IReadOnlyList<string>>("conditions", []))
    )
        .May("filmC", Hold.Number(-30, 120, 1), a => a.FilmC)
        .MayBe("drying", Hold.Text, a => a.Drying)
        .May("conditions", Hold.Texts, a => (a.Conditions.Count > 0, a.Conditions));

    private static readonly Part<Plan> PlanPart = new Part<Plan>(ReadPlan)
        .With("format", Hold.OneOf([Plan.Format, Plan.Earlier]), _ => Plan.Format)
        .With("goal", Hold.Term(Goal.All), p => p.Goal)
        .With("engineVersion", Hold.Text, p => p.EngineVersion)
        .With("catalogueVersion", Hold.Text, p => p.CatalogueVersion)
        .With("surveyHash", Hold.Text, p => p.SurveyHash)
        .MayBe("assumed", AssumedPart.One, p => new Assumed(p.FilmC, p.Drying, p.Conditions))
        .May("referOnly", Hold.Flag, p => (true, p.ReferOnly))
        .With("steps", Hold.ListOf(StepPart.One), p => p.Steps)
        .With("skipped", Hold.ListOf(SkippedPart.One), p => p.Skipped)
        .With("refused", Hold.ListOf(RefusedPart.One), p => p.Refused)
        .With("refer", Hold.ListOf(ReferPart.One), p => p.Refer)
        .With("tests", Hold.ListOf(TestPart.One), p => p.Tests)
        .May("bestTest", Hold.Whole(0, 1000), p =>
            p.BestTest is { } best && p.Tests.ToList().IndexOf(best) is >= 0 and var at ? (true, at) : (false, 0)
        )
        .With("unverified", Hold.Texts, p => p.Unverified)
        .With("warnings", Hold.Texts, p => p.Warnings)
        .MayBe("opening", Hold.Texts, p => p.Opening)
        .MayBe("closing", Hold.Texts, p => p.Closing)
        .With("proved", Hold.Flag, p => p.Proved)
        .MayBe("media", Hold.ListOf(MediaPart.One), p => p.Media)
        .MayBe("buy", Hold.ListOf(BuyPart.One), p => p.Buy is { Count: > 0 } ? p.Buy : null)
        .MayBe("proof", ProofPart.One, p => p.Proof)
        .With("totals", TotalsPart.One, p => p.Totals)
        .MayBe("traces", Hold.ListOf(TracePart.One), p => p.Traces);

    public static byte[] Write(Plan p)
    {
        var buffer = new ArrayBufferWriter<byte>();
        using (var w = new Utf8JsonWriter(buffer, Options))
        {
            PlanPart.Write(w, p);
        }

        return buffer.WrittenSpan.ToArray();
    }

    /// <summary>Reads a plan, or says what keeps it from being one.</summary>
    public static Checked<Plan> Read(ReadOnlyMemory<byte> json) => WholeDocument.Read(PlanPart, json, MostBytes);

    /// <summary>The published description.</summary>
    internal static JsonObject Schema() => PlanPart.Schema();

    private static ProductFraction Fraction(double value) => value > 0 ? ProductFraction.Of(value) : ProductFraction.Neat;

    private static Step ReadStep(Part<Step>.Values v)
    {
        var (stage, treatment, agent) = (v.Get<Stage>("stage"), v.Get<string>("treatment"), v.Get<string>("agent"));
        return new Step(
            v.Get<string>("key"),
            v.Get<IReadOnlyList<string>>("after"),
            stage,
            v.Get("slot", SlotOf(stage, treatment)),
            v.Get("block", "body") == "wheels" ? Block.Wheels : Block.Body,
            treatment,
            v.Get("name", treatment),
            agent,
            v.Get("agentName", agent),
            Fraction(v.Get<double>("strength")),
            v.Get("carrier", AgentCarrier.None),
            v.Get<Mix?>("mix", null) is { Leftover: { } rest } mix
                ? mix with
                {
                    Leftover = rest with { Agent = agent },
                }
                : v.Get<Mix?>("mix", null),
            v.Get<int>("rounds"),
            v.Get("dwellMinutes", 0.0),
            v.Get("maxDwellMinutes", 0.0),
            v.Get("tool", ""),
            v.Get<IReadOnlyList<string>>("zones"),
            v.Get<IReadOnlyList<Answer>>("answers", []),
            v.Get<IReadOnlyList<string>>("why"),
            v.Get<Until?>("until", null),
            v.Get<IReadOnlyList<string>>("cautions", []),
            v.Get<IReadOnlyList<string>>("kit", []),
            v.Get("labourMinutes", 0.0),
            v.Get("waitMinutes", 0.0),
            v.Get("waterLitres", 0.0),
            v.Get("productMl", 0.0),
            v.Get("money", 0.0)
        )
        {
            Bottle = v.Get<string?>("bottle", null),
            BottleId = v.Get<string?>("bottleId", null),
            Mists = v.Get("mists", 0),
            Parts = v.Get<IReadOnlyList<StepZone>>("parts", []),
            Cool = v.Get<Cooling?>("cool", null),
            Film = v.Get<string?>("film", null),
            Under = v.Get("underFoam", false),
            Over = v.Get<string?>("over", null),
            RoundsBetween = (v.Get("roundsLow", v.Get<int>("rounds")), v.Get("roundsHigh", v.Get<int>("rounds"))),
            SetUpMinutes = v.Get("setUpMinutes", 0.0),
            OpenMinutes = v.Get("openMinutes", 0.0),
            Per = v.Get<IReadOnlyList<Portion>>("per", []),
            Avoid = v.Get<IReadOnlyList<string>>("avoid", []),
            Sections = v.Get<SectionPlan?>("inSections", null),
        };
    }

    /// <summary>Where the work of an older plan stood in the order: that of its treatment in that stage.</summary>
    private static Place SlotOf(Stage stage, string treatment) =>
        Catalogue.Default.FindTreatment(treatment)?.Slots is { Count: > 0 } slots
            ? (slots.FirstOrDefault(s => s.Stage == stage) ?? slots[0]).Id
            : Place.Dry;

    private static Plan ReadPlan(Part<Plan>.Values v)
    {
        var assumed = v.Get("assumed", new Assumed(20, "not computed", []));
        var tests = v.Get<IReadOnlyList<PlannedTest>>("tests");
        return new Plan(
            v.Get<Goal>("goal"),
            v.Get<string>("engineVersion"),
            v.Get<string>("catalogueVersion"),
            v.Get<string>("surveyHash"),
            assumed.FilmC,
            assumed.Drying,
            v.Get("referOnly", false),
            v.Get<IReadOnlyList<Step>>("steps"),
            v.Get<IReadOnlyList<Skipped>>("skipped"),
            v.Get<IReadOnlyList<RefusedGroup>>("refused"),
            v.Get<IReadOnlyList<Refer>>("refer"),
            tests,
            v.Get<IReadOnlyList<string>>("unverified"),
            v.Get<IReadOnlyList<string>>("warnings"),
            v.Get<IReadOnlyList<string>>("closing", []),
            v.Get<bool>("proved"),
            v.Get<Totals>("totals"),
            v.Get("bestTest", -1) is >= 0 and var best && best < tests.Count ? tests[best] : null,
            v.Get<IReadOnlyList<ZoneTrace>>("traces", [])
        )
        {
            Conditions = assumed.Conditions,
            Opening = v.Get<IReadOnlyList<string>>("opening", []),
            Media = v.Get<IReadOnlyList<MediaLine>>("media", []),
            Buy = v.Get<IReadOnlyList<BuyLine>?>("buy", null),
            Proof = v.Get<Proof?>("proof", null),
        };
    }
}
