using System.Text.Json;
using System.Text.Json.Nodes;
using ToughStart.Core.Running;
using ToughStart.Core.Running.Live;

namespace ToughStart.Core.Formats;

/// <summary>
/// Entries of a live log as documents, <c>toughstart.log/1</c>: what a phone sends, what is stored, what goes to other phones. Each entry
/// of a list is read by itself, so that a bad one stops no other.
/// </summary>
public static class LogFormat
{
    public const string Format = "toughstart.log/1";

    /// <summary>Most entries sent at once.</summary>
    public const int MostSent = 100;

    /// <summary>Most zones, or parts of zones, of one entry.</summary>
    public const int MostZones = 300;

    private const long LatestMs = 4_102_444_800_000; // the year 2100
    private const long LongestMs = 24 * 60 * 60 * 1000;

    /// <summary>What a kind must say, and what it may.</summary>
    private sealed record Says(string[] Must, string[] May);

    /// <summary>What only a paper card says: how it really was, where that was not as planned.</summary>
    private static readonly string[] Card = ["strength", "dwellMinutes", "filmC"];

    // One kind a line.
    // csharpier-ignore
    private static readonly IReadOnlyDictionary<LogKind, Says> Table = new Dictionary<LogKind, Says>
    {
        [LogKind.Taken] = new(["step"], ["zones"]),
        [LogKind.Left] = new([], ["step", "zones"]),
        [LogKind.Cautioned] = new(["cautions"], []),
        [LogKind.Applied] = new(["treatment", "zones", "win"], ["step", "strength", "round", "mix", "product", "ml"]),
        [LogKind.Rewetted] = new(["treatment", "zones", "win"], ["step", "product", "ml"]),
        [LogKind.Rinsed] = new(["zones"], ["step"]),
        [LogKind.Rescaled] = new(["zones", "perMille"], ["there", "because"]),
        [LogKind.Worked] = new(["treatment", "zones"], ["step", "round", "strength", "mix", "product", "ml"]),
        [LogKind.Seen] = new(["zones", "observe", "result"], ["step", "test", "because", "spot", "elsewhere"]),
        [LogKind.Observed] = new(["step", "zones"], [.. Card, "treatment", "rounds", "observe", "result", "because", "elsewhere"]),
        [LogKind.Measured] = new(["what", "value"], ["zones"]),
        [LogKind.Used] = new(["product", "ml"], ["mix", "reason"]),
        [LogKind.Skipped] = new(["step", "zones", "reason"], []),
        [LogKind.Happened] = new(["what"], ["zones", "reason"]),
        [LogKind.Paused] = new([], ["reason"]),
        [LogKind.Resumed] = new(["of"], []),
        [LogKind.Undone] = new(["of"], ["reason"]),
        [LogKind.Started] = new(["plan"], ["crew", "because"]),
        [LogKind.Replanned] = new(["from", "answer"], ["plan", "upTo", "hash"]),
        [LogKind.Judged] = new(["zones", "verdict", "upTo"], ["need", "reason"]),
        [LogKind.Closed] = new(["upTo"], []),
        [LogKind.Corrected] = new(["reason"], ["product", "ml"]),
    };

    private static readonly Holds<IReadOnlyList<string>> Names = Hold.ListOf(Hold.Short(), MostZones);

    private static readonly Part<LiveWindow> Window = new Part<LiveWindow>(v =>
        new(v.Get<long>("dwell"), v.Get<long>("usable"), v.Get<long>("dry"), v.Get<long>("max"))
    )
        .With("dwell", Hold.Milliseconds(0, LongestMs), w => w.Dwell)
        .With("usable", Hold.Milliseconds(0, LongestMs), w => w.Usable)
        .With("dry", Hold.Milliseconds(0, LongestMs), w => w.Dry)
        .With("max", Hold.Milliseconds(0, LongestMs), w => w.Max);

    // One field a line.
    // csharpier-ignore
    private static readonly Part<LogBody> Body = new Part<LogBody>(v =>
        new()
        {
            Zones = v.Texts("zones"),
            Step = v.Text("step"),
            Test = v.Text("test"),
            Treatment = v.Text("treatment"),
            Strength = v.Number("strength"),
            Round = v.Get("round", 1),
            Mix = v.Whole("mix"),
            Product = v.Text("product"),
            Ml = v.Get("ml", 0),
            Win = v.Get<LiveWindow?>("win", null),
            PerMille = v.Get("perMille", 1000),
            There = v.Get("there", false),
            Observe = v.Text("observe"),
            Result = v.Text("result"),
            Because = v.Text("because"),
            Spot = v.Text("spot"),
            Elsewhere = v.Get("elsewhere", false),
            What = v.Text("what"),
            Value = v.Number("value"),
            Reason = v.Text("reason"),
            Of = v.Texts("of"),
            Cautions = v.Texts("cautions"),
            Plan = v.Whole("plan"),
            From = v.Whole("from"),
            Hash = v.Text("hash"),
            Answer = v.Text("answer"),
            UpTo = v.Whole("upTo"),
            Verdict = v.Text("verdict"),
            Need = v.Texts("need"),
            Crew = v.Texts("crew"),
            Rounds = v.Get("rounds", 0),
            DwellMinutes = v.Number("dwellMinutes"),
            FilmC = v.Number("filmC"),
        }
    )
        .Any("zones", Names, b => b.Zones)
        .MayBe("step", Hold.Short(), b => b.Step)
        .MayBe("test", Hold.Short(), b => b.Test)
        .MayBe("treatment", Hold.Short(), b => b.Treatment)
        .May("strength", Hold.Number(0.0001, 1, 6), b => b.Strength)
        .May("round", Hold.Whole(1, 99), b => (b.Round != 1, b.Round))
        .May("mix", Hold.Whole(1, int.MaxValue), b => b.Mix)
        .MayBe("product", Hold.Short(), b => b.Product)
        .May("ml", Hold.Whole(0, 100_000), b => (b.Ml != 0, b.Ml))
        .MayBe("win", Window.One, b => b.Win)
        .May("perMille", Hold.Whole(1, 10_000), b => (b.PerMille != 1000, b.PerMille))
        .If("there", b => b.There)
        .MayBe("observe", Hold.Short(), b => b.Observe)
        .MayBe("result", Hold.Short(), b => b.Result)
        .MayBe("because", Hold.Short(), b => b.Because)
        .MayBe("spot", Hold.Short(), b => b.Spot)
        .If("elsewhere", b => b.Elsewhere)
        .MayBe("what", Hold.Short(), b => b.What)
        .May("value", Hold.Number(-1000, 100_000, 3), b => b.Value)
        .MayBe("reason", Hold.Short(1000), b => b.Reason)
        .Any("of", Names, b => b.Of)
        .Any("cautions", Names, b => b.Cautions)
        .May("plan", Hold.Whole(1, int.MaxValue), b => b.Plan)
        .May("from", Hold.Whole(1, int.MaxValue), b => b.From)
        .MayBe("hash", Hold.Short(), b => b.Hash)
        .MayBe("answer", Hold.OneOf(["take", "change", "refuse"]), b => b.Answer)
        .May("upTo", Hold.Whole(0, int.MaxValue), b => b.UpTo)
        .MayBe("verdict", Hold.Short(), b => b.Verdict)
        .Any("need", Names, b => b.Need)
        .Any("crew", Names, b => b.Crew)
        .May("rounds", Hold.Whole(0, 4), b => (b.Rounds != 0, b.Rounds))
        .May("dwellMinutes", Hold.Number(0, 60, 2), b => b.DwellMinutes)
        .May("filmC", Hold.Number(-30, 120, 1), b => b.FilmC);

    private static readonly Part<Moment> When = new Part<Moment>(v => new(v.Get<long>("at"), v.Get<long>("lo"), v.Get<long>("hi")))
        .With("at", Hold.Milliseconds(-LatestMs, LatestMs), m => m.At)
        .With("lo", Hold.Milliseconds(-LatestMs, LatestMs), m => m.Lo)
        .With("hi", Hold.Milliseconds(-LatestMs, LatestMs), m => m.Hi)
        .Check(
            (j, v, path) =>
            {
                if (v.Get<long>("lo") > v.Get<long>("at") || v.Get<long>("at") > v.Get<long>("hi"))
                {
                    j.Fail(path, "must have lo ≤ at ≤ hi");
                }
            }
        );

    private static readonly Part<LogEvent> Entry = new Part<LogEvent>(v =>
        new(
            v.Get<string>("id"),
            v.Get<string>("device"),
            v.Get("seq", 0),
            v.Get("epoch", ""),
            v.Get<long>("mono", 0),
            v.Get("after", 0),
            v.Get("rev", 0),
            v.Get("who", ""),
            v.Get<LogKind>("kind")
        )
        {
            Body = v.Get("body", LogBody.Empty),
            When = v.Get("when", default(Moment)),
            Number = v.Get("number", 0),
            Received = v.Get<long>("received", 0),
            ByOwner = v.Get("byOwner", false),
        }
    )
        .With("id", Hold.Short(64), e => e.Id)
        .With("device", Hold.Short(64), e => e.Device)
        .May("seq", Hold.Whole(0, int.MaxValue), e => (e.Seq != 0, e.Seq))
        .MayBe("epoch", Hold.Short(64), e => e.Epoch.Length == 0 ? null : e.Epoch)
        .May("mono", Hold.Milliseconds(-LatestMs, LatestMs), e => (e.Mono != 0, e.Mono))
        .May("after", Hold.Whole(0, int.MaxValue), e => (true, e.After))
        .May("rev", Hold.Whole(0, int.MaxValue), e => (e.Plan != 0, e.Plan))
        .MayBe("who", Hold.Short(), e => e.Who.Length == 0 ? null : e.Who)
        .With("kind", Hold.OneOf<LogKind>(), e => e.Kind)
        .May("body", Body.One, e => (true, e.Body))
        .May("when", When.One, e => (true, e.When))
        .May("number", Hold.Whole(0, int.MaxValue), e => (e.Number != 0, e.Number))
        .May("received", Hold.Milliseconds(0, LatestMs), e => (e.Received != 0, e.Received))
        .If("byOwner", e => e.ByOwner)
        .Check(
            (j, v, path) =>
            {
                var (kind, said) = (v.Get<LogKind>("kind"), v.Get("body", LogBody.Empty));
                var says = Table[kind];
                var fields = FieldsOf(said);
                foreach (var must in says.Must.Where(m => !fields.Contains(m)))
                {
                    j.Fail(StrictJson.Join(path, "body." + must), $"is missing: {kind.Word()} says it");
                }

                foreach (var other in fields.Where(f => !says.Must.Contains(f) && !says.May.Contains(f)))
                {
                    j.Fail(StrictJson.Join(path, "body." + other), $"is not said by {kind.Word()}", [.. says.Must, .. says.May]);
                }

                if (kind == LogKind.Happened && said.What is { } what && !Trouble.All.Contains(what))
                {
                    j.Fail(StrictJson.Join(path, "body.what"), $"'{StrictJson.Shorten(what)}' is not known", Trouble.All);
                }

                if (said.Result == Observation.Inconclusive && said.Because is null)
                {
                    j.Fail(StrictJson.Join(path, "body.because"), "is missing: why could nobody tell?", SurveyWords.Becauses);
                }
            }
        );

    /// <summary>What makes a document unfit to be read at all; null = nothing.</summary>
    public static Problem? Unsound(JsonElement e) => StrictJson.Unsound(e);

    /// <summary>Reads one entry.</summary>
    public static (LogEvent? Entry, IReadOnlyList<Problem> Problems) Read(JsonElement e)
    {
        if (StrictJson.Unsound(e) is { } unsound)
        {
            return (null, [unsound]);
        }

        var problems = new List<Problem>();
        var (ok, entry) = Entry.Read(new StrictJson(problems), e, "");
        return (ok ? entry : null, problems);
    }

    /// <summary>Writes one entry.</summary>
    public static void Write(Utf8JsonWriter w, LogEvent e) => Entry.Write(w, e);

    /// <summary>Writes one entry.</summary>
    public static byte[] Write(LogEvent e) => Bytes(w => Entry.Write(w, e));

    /// <summary>Writes what an entry says.</summary>
    public static byte[] Write(LogBody body) => Bytes(w => Body.Write(w, body));

    /// <summary>Reads what a stored entry says.</summary>
    public static LogBody ReadBody(JsonElement e) =>
        Body.Read(new StrictJson([]), e, "") is (true, var body) ? body : throw new FormatException("a stored entry does not read");

    internal static JsonObject Schema() => Entry.Schema();

    private static string[] FieldsOf(LogBody body)
    {
        using var written = JsonDocument.Parse(Write(body));
        return [.. written.RootElement.EnumerateObject().Select(p => p.Name)];
    }

    private static byte[] Bytes(Action<Utf8JsonWriter> write)
    {
        using var stream = new MemoryStream();
        using (var w = new Utf8JsonWriter(stream))
        {
            write(w);
        }

        return stream.ToArray();
    }
}
