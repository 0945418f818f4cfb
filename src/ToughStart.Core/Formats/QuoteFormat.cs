using System.Buffers;
using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Nodes;
using ToughStart.Core.Costing;
using ToughStart.Core.Planning;
using Range = ToughStart.Core.Planning.Range;

namespace ToughStart.Core.Formats;

/// <summary>A survey to be priced.</summary>
/// <param name="Turned">Ids of the options that depart from what the shop advises.</param>
public sealed record PriceRequest(Survey Survey, Rates Rates, IReadOnlyList<string> Turned);

/// <summary>A quote as <c>toughstart.quote/1</c>: for the shop, with what it risks; and what a client gets to see of it.</summary>
public static class QuoteFormat
{
    /// <summary>Largest quote that is read, bytes.</summary>
    public const int MostBytes = 1024 * 1024;

    private static readonly JsonWriterOptions Options = new() { Indented = true, Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    private static Holds<double> Amount(int digits) => Hold.Number(0, null, digits);

    private static Holds<double> Share { get; } = Hold.Number(0, 1, 4);

    private static Holds<Range> Signed(int digits) =>
        new Part<Range>(v => new(v.Get<double>("low"), v.Get<double>("expected"), v.Get<double>("high")))
            .With("low", Hold.Number(null, null, digits), r => r.Low)
            .With("expected", Hold.Number(null, null, digits), r => r.Expected)
            .With("high", Hold.Number(null, null, digits), r => r.High)
            .One;

    private static readonly Part<Rates> RatesPart = new Part<Rates>(v =>
        new(
            v.Get<double>("hour"),
            v.Get<double>("ownHour"),
            v.Get<double>("markup"),
            v.Get<double>("waterLitre"),
            v.Get<double>("containedLitre"),
            v.Get<double>("fixed"),
            v.Get<double>("taxPercent"),
            v.Get<double>("roundTo")
        )
    )
        .With("hour", Amount(4), r => r.Hour)
        .With("ownHour", Amount(4), r => r.OwnHour)
        .With("markup", Amount(4), r => r.Markup)
        .With("waterLitre", Amount(6), r => r.WaterLitre)
        .With("containedLitre", Amount(6), r => r.ContainedLitre)
        .With("fixed", Amount(4), r => r.Fixed)
        .With("taxPercent", Amount(4), r => r.TaxPercent)
        .With("roundTo", Amount(4), r => r.RoundTo);

    private static readonly Part<Quoted> QuotedPart = new Part<Quoted>(v =>
        new(
            v.Get<double>("price"),
            v.Get<double>("atMost"),
            v.Get<Range>("net"),
            v.Get<Range>("labourMinutes"),
            v.Get<Range>("elapsedMinutes"),
            v.Get<double>("lossChance"),
            v.Get<double>("meanLoss"),
            v.Get<double>("ownCostOver")
        )
    )
        .With("price", Amount(2), q => q.Price)
        .With("atMost", Amount(2), q => q.AtMost)
        .With("net", Signed(2), q => q.Net)
        .With("labourMinutes", Signed(1), q => q.Minutes)
        .With("elapsedMinutes", Signed(1), q => q.Elapsed)
        .With("lossChance", Share, q => q.LossChance)
        .With("meanLoss", Amount(2), q => q.MeanLoss)
        .With("ownCostOver", Share, q => q.OwnCostOver);

    private static readonly Part<Course> CoursePart = new Part<Course>(v =>
        new(v.Get<double>("share"), v.Get<double>("low"), v.Get<double>("high"))
    )
        .With("share", Share, c => c.Share)
        .With("low", Amount(2), c => c.Low)
        .With("high", Amount(2), c => c.High);

    private static readonly Part<HoldPoint> HoldPart = new Part<HoldPoint>(v =>
        new(v.Get<string>("test"), v.Get<string>("contaminant"), v.Get<string>("when"), v.Get<Course>("little"), v.Get<Course>("much"))
    )
        .With("test", Hold.Text, h => h.Test)
        .With("contaminant", Hold.Text, h => h.Contaminant)
        .With("when", Hold.Text, h => h.When)
        .With("little", CoursePart.One, h => h.Little)
        .With("much", CoursePart.One, h => h.Much);

    private static readonly Part<QuoteLine> LinePart = new Part<QuoteLine>(v =>
        new(
            new(
                new(v.Get<string>("id"), v.Get<bool>("adds"), v.Get<string>("name")),
                v.Get<Range>("difference"),
                v.Get<Range>("minutes"),
                v.Get("stays", ""),
                v.Get<double>("dirtier")
            ),
            Enum.Parse<OptionStand>(v.Get<string>("stand"), true),
            v.Get("by", "")
        )
    )
        .With("id", Hold.Text, o => o.Effect.Option.Id)
        .With("adds", Hold.Flag, o => o.Effect.Option.Adds)
        .With("name", Hold.Text, o => o.Effect.Option.Name)
        .With("stand", Hold.OneOf([.. Enum.GetNames<OptionStand>().Select(n => n.ToLowerInvariant())]), o =>
            o.Stand.ToString().ToLowerInvariant()
        )
        .With("by", Hold.Text, o => o.By)
        .With("difference", Signed(2), o => o.Effect.Difference)
        .With("minutes", Signed(1), o => o.Effect.Minutes)
        .With("stays", Hold.Text, o => o.Effect.Stays)
        .With("dirtier", Hold.Number(null, null, 3), o => o.Effect.Dirtier);

    private static readonly Part<NotIncluded> NotPart = new Part<NotIncluded>(v =>
        new(v.Get<IReadOnlyList<string>>("zones"), v.Get<string>("why"))
    )
        .With("zones", Hold.Texts, n => n.Zones)
        .With("why", Hold.Text, n => n.Why);

    private static readonly Part<Quote> QuotePart = new Part<Quote>(v =>
        new(
            v.Get<string>("surveyHash"),
            v.Get<Goal>("goal"),
            v.Get<Rates>("rates"),
            v.Get<Quoted>("quoted"),
            v.Get<HoldPoint?>("hold", null),
            v.Get<IReadOnlyList<QuoteLine>>("options"),
            v.Get<IReadOnlyList<NotIncluded>>("notIncluded"),
            v.Get<IReadOnlyList<string>>("work")
        )
    )
        .With("format", Hold.OneOf([Quote.Format]), _ => Quote.Format)
        .With("surveyHash", Hold.Text, q => q.SurveyHash)
        .With("goal", Hold.Term<Goal>(Goal.All), q => q.Goal)
        .With("rates", RatesPart.One, q => q.Rates)
        .With("quoted", QuotedPart.One, q => q.Quoted)
        .MayBe("hold", HoldPart.One, q => q.Hold)
        .With("options", Hold.ListOf(LinePart.One), q => q.Options)
        .With("notIncluded", Hold.ListOf(NotPart.One), q => q.NotIncluded)
        .With("work", Hold.Texts, q => q.Work);

    public static byte[] Write(Quote q)
    {
        var buffer = new ArrayBufferWriter<byte>();
        using (var w = new Utf8JsonWriter(buffer, Options))
        {
            QuotePart.Write(w, q);
        }

        return buffer.WrittenSpan.ToArray();
    }

    /// <summary>Reads a quote, or says what keeps it from being one.</summary>
    public static Checked<Quote> Read(ReadOnlyMemory<byte> json) => WholeDocument.Read(QuotePart, json, MostBytes);

    /// <summary>The published description.</summary>
    internal static JsonObject Schema() => QuotePart.Schema();

    /// <summary>What is asked for a survey: <c>{ "survey": …, "rates": {…}, "turned": ["clay"] }</c>; only the survey is needed.</summary>
    public static Checked<PriceRequest> ReadRequest(JsonElement root)
    {
        if (StrictJson.Unsound(root) is { } unsound)
        {
            return new(null, [unsound], Refusal.Malformed);
        }

        var problems = new List<Problem>();
        var o = new StrictJson(problems).Object(root, "", ["survey", "rates", "turned"]);
        if (problems.Count > 0)
        {
            return new(null, problems);
        }

        Survey? survey = null;
        if (o.TryGetValue("survey", out var s))
        {
            var read = SurveyFormat.Read(s);
            survey = read.Value;
            problems.AddRange(read.Problems.Select(p => p with { Field = $"survey.{p.Field}" }));
        }
        else
        {
            problems.Add(new Problem("survey", "is missing"));
        }

        var rates = Rates.Default;
        if (o.TryGetValue("rates", out var r))
        {
            var read = ReadRates(r);
            problems.AddRange(read.Problems);
            rates = read.Value ?? rates;
        }

        IReadOnlyList<string> turned = [];
        if (o.TryGetValue("turned", out var t) && Hold.Texts.Read(new StrictJson(problems), t, "turned") is (true, var ids))
        {
            turned = ids;
            problems.AddRange(
                ids.Where(x => QuoteOption.Maybe(x) is null)
                    .Take(5)
                    .Select(x => new Problem("turned", $"'{StrictJson.Shorten(x)}' is no option"))
            );
        }

        return problems.Count > 0 ? new(null, problems) : new(new PriceRequest(survey!, rates, turned), []);
    }

    /// <summary>The ranges of a plan with their means, and what makes the widest of them.</summary>
    public static byte[] WriteRange(Worlds worlds, Rates rates, CancellationToken stop = default)
    {
        var buffer = new ArrayBufferWriter<byte>();
        using (var w = new Utf8JsonWriter(buffer, Options))
        {
            var d = worlds.Drawn;
            w.WriteStartObject();
            w.WriteNumber("draws", d.Count);
            foreach (
                var (name, values) in new[]
                {
                    ("labourMinutes", d.Minutes),
                    ("labourMinutesIfNothingHiddenShows", d.MinutesAsSeen),
                    ("elapsedMinutes", d.Elapsed),
                    ("waterLitres", d.Litres),
                    ("productMl", d.ProductMl),
                    ("priceBeforeTax", d.Prices(rates)),
                }
            )
            {
                var range = Draws.Of(values);
                w.WriteStartObject(name);
                w.WriteNumber("low", Math.Round(range.Low, 2));
                w.WriteNumber("expected", Math.Round(range.Expected, 2));
                w.WriteNumber("high", Math.Round(range.High, 2));
                w.WriteNumber("mean", Math.Round(values.Average(), 2));
                w.WriteEndObject();
            }

            w.WriteStartObject("shares");
            foreach (var (group, share) in worlds.Shares(Worlds.Enough.First, stop))
            {
                w.WriteNumber(group.ToString().ToLowerInvariant(), Math.Round(share, 4));
            }

            w.WriteEndObject();
            w.WriteEndObject();
        }

        return buffer.WrittenSpan.ToArray();
    }

    /// <summary>Reads the rates of a request: an object with some of the figures; those not said are the default's.</summary>
    public static Checked<Rates> ReadRates(JsonElement e)
    {
        if (e.ValueKind != JsonValueKind.Object)
        {
            return new(null, [new Problem("rates", "must be an object of numbers", [.. Rates.Fields.Select(f => f.Id)])]);
        }

        var problems = e.EnumerateObject()
            .Where(p => Rates.Fields.All(f => f.Id != p.Name) || p.Value.ValueKind != JsonValueKind.Number)
            .Select(p => new Problem(
                $"rates.{p.Name}",
                p.Value.ValueKind == JsonValueKind.Number ? "is not known" : "must be a number",
                [.. Rates.Fields.Select(f => f.Id)]
            ))
            .ToArray();
        if (problems.Length > 0)
        {
            return new(null, problems);
        }

        var (rates, wrong) = Rates.Read(id => e.TryGetProperty(id, out var v) ? v.GetDouble() : null);
        return new(rates, [.. wrong.Select(w => new Problem("rates", w))]);
    }
}
