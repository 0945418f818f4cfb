using ToughStart.Core.Formats;
using ToughStart.Core.Identification;
using ToughStart.Core.Readiness;
using ToughStart.Core.Running;
using ToughStart.Core.Running.Live;
using ToughStart.Data;

namespace ToughStart.Web.Stations;

/// <summary>What somebody says of a zone against what is computed: a name, a reason, and both stay.</summary>
/// <param name="Overtaken">Something came to the zone since: it says nothing any more.</param>
public sealed record Override(GateWord Word, string Who, string Reason, bool Overtaken);

/// <summary>The gate of a job as it stands.</summary>
public sealed record GateStanding(
    IReadOnlyList<ZoneVerdict> Verdicts,
    IReadOnlyDictionary<string, Override> Overrides,
    IReadOnlyList<GateMark> Marks,
    IReadOnlyList<MarkTry> Tries
)
{
    /// <summary>Zones with a mark that did not budge, in the order in which it was tried.</summary>
    public IReadOnlyList<string> Unknown =>
        [
            .. Tries
                .GroupBy(t => t.Zone)
                .Where(g => g.Any(t => t.Outcome == TryOutcome.Nothing) && g.All(t => t.Outcome != TryOutcome.Gone))
                .Select(g => g.Key),
        ];

    /// <summary>The word that counts: somebody's where it holds, else what is computed.</summary>
    public GateWord WordOf(ZoneVerdict v) => Overrides.GetValueOrDefault(v.Zone) is { Overtaken: false } o ? o.Word : v.Word;

    public int Count(GateWord word) => Verdicts.Count(v => WordOf(v) == word);

    /// <summary>Zones that are called ready, by what is computed, and are not.</summary>
    public double Wrong => Gate.ExpectedWrong(Verdicts);
}

/// <summary>Reckons the gate: one way for its page, for Close and for programs.</summary>
public sealed class GateDesk(GateStore gate, RunStore store)
{
    public async Task<GateStanding> OfAsync(JobView job, JobRun run, Survey equipped, CancellationToken stop)
    {
        var marks = await gate.MarksAsync(job.Id, stop);
        var flaws = marks
            .Select(m => new Flaw(m.Zone, m.Kind, m.Nail))
            .Concat(job.Survey.Zones.SelectMany(z => z.Condition.Damage.Select(d => new Flaw(z.Zone, d.Kind, false))));
        var judged = await store.JudgedAsync(job.Id, stop);
        return new(
            Gate.Of(run.Ground ?? new RunGround(equipped), run.State, run.Live, [.. flaws], run.InForce?.Plan),
            run.Live.Verdicts.Where(v => judged.ContainsKey(v.Value.Number) && GateWords.Named(v.Value.Verdict) is not null)
                .ToDictionary(
                    v => v.Key,
                    v => new Override(
                        GateWords.Named(v.Value.Verdict)!.Value,
                        judged[v.Value.Number].Who,
                        judged[v.Value.Number].Reason,
                        v.Value.Overtaken
                    )
                ),
            marks,
            await gate.TriesAsync(job.Id, stop)
        );
    }
}

/// <summary>The gate's words, in the log and as people say them.</summary>
public static class GateWords
{
    /// <summary>Words somebody may say against what is computed.</summary>
    public static IReadOnlyList<(string Id, string Words)> Sayable { get; } =
    [(Verdicts.Ready, "ready"), ("repeat", "repeat a stage"), ("refer", "refer it"), ("unverified", "not proven")];

    public static string Id(GateWord word) => word == GateWord.Ready ? Verdicts.Ready : word.ToString().ToLowerInvariant();

    public static string Words(GateWord word) => Sayable.First(s => s.Id == Id(word)).Words;

    /// <summary>Null = it is none that somebody may say.</summary>
    public static GateWord? Named(string? word) =>
        Sayable.Any(s => s.Id == word) && Enum.TryParse<GateWord>(word, true, out var named) ? named : null;
}
