using System.Text;
using System.Text.Json;
using ToughStart.Core.Formats;
using ToughStart.Core.Running.Live;

namespace ToughStart.Core.Tests;

/// <summary>
/// The reducer of live runs. The vectors were worked out by hand with the design of the live run, before this reducer was written
/// (Data/live/vectors.json holds them field by field under our names); the pages' own reducer is held to the same file.
/// </summary>
public sealed class LiveTests
{
    private static readonly JsonElement[] Vectors =
    [
        .. JsonDocument
            .Parse(File.ReadAllText(Path.Combine(Repository.Root, "tests", "ToughStart.Core.Tests", "Data", "live", "vectors.json")))
            .RootElement.EnumerateArray(),
    ];

    public static TheoryData<int> Every() => [.. Enumerable.Range(0, Vectors.Length)];

    [Theory, MemberData(nameof(Every))]
    public void Every_vector_comes_out_as_worked_by_hand(int which)
    {
        var state = Fold(Entries(Vectors[which]));
        Same(Vectors[which].GetProperty("expected"), JsonDocument.Parse(LiveFormat.Write(state)).RootElement, "");
    }

    [Theory, MemberData(nameof(Every))]
    public void An_entry_is_written_as_it_was_read(int which)
    {
        foreach (var e in Vectors[which].GetProperty("events").EnumerateArray())
        {
            var (entry, problems) = LogFormat.Read(e);
            Assert.True(entry is not null, string.Join("; ", problems));
            using var again = JsonDocument.Parse(LogFormat.Write(entry));
            Same(e, again.RootElement, "");
        }
    }

    [Theory, MemberData(nameof(Every))]
    public void The_server_places_every_claim_as_in_the_vector(int which)
    {
        // The vectors say where the server put an entry; the claim was at ± 1, or ± 600 for the phone that had lost its clock.
        var placed = new List<LogEvent>();
        foreach (var (e, at) in Entries(Vectors[which]).Zip(Vectors[which].GetProperty("events").EnumerateArray().Select(Claim)))
        {
            var error = e.Epoch == "a2" ? 600 : 1;
            var knew = placed.FirstOrDefault(p => p.Number == e.After)?.Received ?? 0;
            var before = placed.Where(p => p.Device == e.Device).MaxBy(p => p.Number);
            var (when, wrong) = Timing.Place(new Moment(at, at - error, at + error), knew, before?.When, e.Received);
            if (!e.Kind.IsDecision())
            {
                Assert.Equal((e.Id, e.When), (e.Id, when));
                Assert.Equal(at < 0, wrong);
            }

            placed.Add(e);
        }

        static long Claim(JsonElement e) => e.TryGetProperty("mono", out var mono) ? mono.GetInt64() : 0;
    }

    [Fact]
    public void One_application_reported_twice_shows_the_earliest_deadline_and_its_product_once()
    {
        var entries = Entries(Vectors[1]);
        var wet = Fold(entries[..3]);
        var lines = wet.Zones["bonnet"].Lines["iron"];
        Assert.Equal(2, lines.Length);
        Assert.Equal(519, lines.Min(l => l.Dry));
        Assert.Equal(60, Live.TotalsOf(wet).Ml["iron"]);
        Assert.Equal(30, Live.TotalsOf(Fold(entries)).Ml["iron"]);
    }

    [Fact]
    public void A_rinse_that_may_have_come_before_leaves_the_line_and_says_so()
    {
        var line = Assert.Single(Fold(Entries(Vectors[2])[..3]).Zones["bonnet"].Lines["iron"]);
        Assert.Equal((1, 421, "r"), (line.First, line.Dry, line.Perhaps));
    }

    private static LogEvent[] Entries(JsonElement vector) =>
        [.. vector.GetProperty("events").EnumerateArray().Select(e => LogFormat.Read(e).Entry!)];

    private static LiveState Fold(IEnumerable<LogEvent> entries) => entries.Aggregate(LiveState.Start, Live.Reduce);

    /// <summary>Everything that is expected stands there; lists to the last item.</summary>
    private static void Same(JsonElement expected, JsonElement found, string path)
    {
        switch (expected.ValueKind)
        {
            case JsonValueKind.Object:
                foreach (var p in expected.EnumerateObject())
                {
                    Assert.True(found.TryGetProperty(p.Name, out var value), $"{path}.{p.Name} is missing in {found}");
                    Same(p.Value, value, $"{path}.{p.Name}");
                }

                break;
            case JsonValueKind.Array:
                Assert.True(expected.GetArrayLength() == found.GetArrayLength(), $"{path}: {expected} is expected, found {found}");
                foreach (var (e, f) in expected.EnumerateArray().Zip(found.EnumerateArray()))
                {
                    Same(e, f, path + "[]");
                }

                break;
            default:
                Assert.True(expected.GetRawText() == found.GetRawText(), $"{path}: {expected} is expected, found {found}");
                break;
        }
    }
}
