using System.Diagnostics;
using System.Text.Json;
using ToughStart.Core.Formats;
using ToughStart.Core.Running.Live;

namespace ToughStart.Core.Tests;

/// <summary>Many bays that never were, on written seeds: what must hold in each of them, and that each rule is missed when it is taken out.</summary>
public sealed class LiveSimulatorTests
{
    private const int Bays = 24,
        Moves = 60;

    [Fact]
    public void Nothing_is_shown_wetter_later_or_oftener_than_it_truly_was()
    {
        for (var seed = 1; seed <= Bays; seed++)
        {
            var wrongs = new LiveSimulator(seed).Run(Moves).Wrongs;
            Assert.True(wrongs.Count == 0, $"seed {seed}: {string.Join("; ", wrongs.Take(5))}");
        }
    }

    [Theory]
    [InlineData(LiveSimulator.Fault.ByNumberAlone)]
    [InlineData(LiveSimulator.Fault.WallClock)]
    [InlineData(LiveSimulator.Fault.SleepUnseen)]
    [InlineData(LiveSimulator.Fault.NewestDeadline)]
    public void Each_rule_is_missed_when_it_is_taken_out(object fault) =>
        Assert.Contains(Enumerable.Range(1, Bays), seed => new LiveSimulator(seed, (LiveSimulator.Fault)fault).Run(Moves).Wrongs.Count > 0);

    [Fact]
    public void A_log_gives_the_same_state_from_any_cut_and_whatever_is_sent_again()
    {
        var log = new LiveSimulator(7).Run(Moves).Log;
        var whole = LiveFormat.Write(log.Aggregate(LiveState.Start, Live.Reduce));
        for (var cut = 0; cut < log.Count; cut += 7)
        {
            var half = log.Take(cut).Aggregate(LiveState.Start, Live.Reduce);
            Assert.Equal(whole, LiveFormat.Write(log.Skip(cut).Aggregate(half, Live.Reduce)));
            Assert.Equal(whole, LiveFormat.Write(log.Take(cut).Concat(log).Aggregate(LiveState.Start, Live.Reduce)));
        }
    }

    [Fact]
    public void The_pages_reducer_writes_the_same_bytes()
    {
        var logs = Enumerable.Range(1, Bays).Select(seed => new LiveSimulator(seed).Run(Moves).Log).Append(Odd()).ToArray();
        var states = Scripted("Scripts/live/reduce.ts", "fold.mjs", Json(logs)).Split('\n', StringSplitOptions.RemoveEmptyEntries);
        Assert.Equal(logs.Length, states.Length);
        foreach (var (log, state) in logs.Zip(states))
        {
            Assert.Equal(System.Text.Encoding.UTF8.GetString(LiveFormat.Write(log.Aggregate(LiveState.Start, Live.Reduce))), state);
        }
    }

    [Fact]
    public void The_bays_own_parts_do_what_is_asked_of_them() =>
        Assert.EndsWith("12 cases\n", Scripted("Scripts/bay/parts.ts", "bay.mjs", ""));

    /// <summary>What a script of the tests says of a script of the pages.</summary>
    private static string Scripted(string source, string script, string input)
    {
        var web = Path.Combine(Repository.Root, "src", "ToughStart.Web");
        var bundle = Path.Combine(Path.GetTempPath(), $"script-{Guid.NewGuid():n}.mjs");
        try
        {
            Run(
                web,
                Path.Combine(web, "node_modules", ".bin", "esbuild"),
                [source, "--bundle", "--format=esm", $"--outfile={bundle}", "--log-level=error"],
                ""
            );
            return Run(
                web,
                "node",
                [Path.Combine(Repository.Root, "tests", "ToughStart.Core.Tests", "Data", "live", script), bundle],
                input
            );
        }
        finally
        {
            File.Delete(bundle);
        }
    }

    /// <summary>One entry of everything the simulated people do not do, right and wrong.</summary>
    private static IReadOnlyList<LogEvent> Odd()
    {
        var log = new List<LogEvent>();
        void Add(LogKind kind, LogBody body, string who = "p1", bool owner = false, int? after = null) =>
            log.Add(
                new LogEvent(
                    $"o{log.Count + 1}",
                    who,
                    kind.IsDecision() ? 0 : log.Count + 1,
                    "a",
                    log.Count * 1000,
                    after ?? log.Count,
                    1,
                    who,
                    kind
                )
                {
                    Body = body,
                    Number = log.Count + 1,
                    Received = (log.Count + 1) * 1000,
                    When = new Moment(log.Count * 1000, (log.Count * 1000) - 5, (log.Count * 1000) + 5),
                    ByOwner = owner,
                }
            );

        var win = new LiveWindow(2000, 3000, 9000, 20000);
        Add(LogKind.Started, new() { Plan = 1, Crew = ["p1", "p2"] });
        Add(LogKind.Started, new() { Plan = 2 });
        Add(LogKind.Taken, new() { Step = "iron", Zones = ["roof"] });
        Add(LogKind.Cautioned, new() { Cautions = ["gloves", "eyes"] });
        Add(LogKind.Cautioned, new() { Cautions = ["eyes", "air"] });
        Add(
            LogKind.Applied,
            new()
            {
                Zones = ["roof:1:3", "roof:2:3"],
                Treatment = "iron",
                Win = win,
                Ml = 41,
                Product = "iron-remover",
            }
        );
        Add(
            LogKind.Applied,
            new()
            {
                Zones = ["roof:2:3"],
                Treatment = "iron",
                Win = win,
                Ml = 17,
                Product = "iron-remover",
            },
            "p2",
            after: 2
        );
        Add(LogKind.Rescaled, new() { Zones = ["roof"], PerMille = 1500 });
        Add(
            LogKind.Rescaled,
            new()
            {
                Zones = ["roof:1:3"],
                PerMille = 1333,
                There = true,
            }
        );
        Add(LogKind.Rescaled, new() { Zones = ["roof:2:3"], PerMille = 777 });
        Add(LogKind.Happened, new() { What = "dried-on", Zones = ["roof:2:3"] });
        Add(LogKind.Happened, new() { What = "mark", Zones = ["roof"] });
        Add(LogKind.Happened, new() { What = "gas" }, "p2");
        Add(LogKind.Rinsed, new() { Zones = ["roof"] });
        Add(
            LogKind.Seen,
            new()
            {
                Zones = ["roof:2:3"],
                Observe = "bleed",
                Result = "none",
            }
        );
        Add(
            LogKind.Seen,
            new()
            {
                Zones = ["door"],
                Observe = "bleed",
                Result = "faint",
            }
        );
        Add(
            LogKind.Worked,
            new()
            {
                Zones = ["door"],
                Treatment = "mitt",
                Round = 1,
            }
        );
        Add(
            LogKind.Worked,
            new()
            {
                Zones = ["door"],
                Treatment = "mitt",
                Round = 1,
            },
            "p2",
            after: 3
        );
        Add(
            LogKind.Observed,
            new()
            {
                Zones = ["door"],
                Step = "x",
                Treatment = "clay",
                Rounds = 2,
                Observe = "touch",
                Result = "smooth",
            }
        );
        Add(
            LogKind.Skipped,
            new()
            {
                Zones = ["door"],
                Step = "tar",
                Reason = "there's \"none\"",
            }
        );
        Add(LogKind.Used, new() { Product = "shampoo", Ml = 12 });
        Add(LogKind.Paused, new() { Reason = "tea" });
        Add(LogKind.Resumed, new() { Of = ["o13"] });
        Add(LogKind.Undone, new() { Of = ["o19"] }, "p2");
        Add(LogKind.Undone, new() { Of = ["o19"], Reason = "wrong door" }, "p2", true, 10);
        Add(LogKind.Undone, new() { Of = ["o20"] });
        Add(LogKind.Undone, new() { Of = ["o20"] });
        Add(LogKind.Undone, new() { Of = ["o22"] });
        Add(LogKind.Undone, new() { Of = ["nobody"] });
        Add(
            LogKind.Judged,
            new()
            {
                Zones = ["door"],
                Verdict = "ready",
                UpTo = 30,
                Need = ["bleed", "touch"],
            }
        );
        Add(
            LogKind.Judged,
            new()
            {
                Zones = ["bonnet"],
                Verdict = "refer",
                UpTo = 31,
            }
        );
        Add(
            LogKind.Judged,
            new()
            {
                Zones = ["door"],
                Verdict = "ready",
                UpTo = 3,
            }
        );
        Add(
            LogKind.Seen,
            new()
            {
                Zones = ["bonnet"],
                Observe = "water",
                Result = "beads",
            }
        );
        Add(
            LogKind.Replanned,
            new()
            {
                From = 1,
                Plan = 2,
                UpTo = 20,
                Answer = "take",
            }
        );
        Add(
            LogKind.Replanned,
            new()
            {
                From = 1,
                Plan = 3,
                UpTo = 20,
                Answer = "take",
            }
        );
        Add(
            LogKind.Replanned,
            new()
            {
                From = 2,
                Answer = "refuse",
                Hash = "abc",
            }
        );
        Add(LogKind.Corrected, new() { Reason = "too early" });
        Add(LogKind.Closed, new() { UpTo = 12 });
        Add(LogKind.Closed, new() { UpTo = 38 });
        Add(LogKind.Left, new() { Step = "iron" });
        Add(LogKind.Used, new() { Product = "shampoo", Ml = 3 });
        Add(LogKind.Corrected, new() { Reason = "late shampoo" });
        return log;
    }

    private static string Json(IEnumerable<IReadOnlyList<LogEvent>> logs)
    {
        using var stream = new MemoryStream();
        using (var w = new Utf8JsonWriter(stream))
        {
            w.WriteStartArray();
            foreach (var log in logs)
            {
                w.WriteStartArray();
                foreach (var e in log)
                {
                    LogFormat.Write(w, e);
                }

                w.WriteEndArray();
            }

            w.WriteEndArray();
        }

        return System.Text.Encoding.UTF8.GetString(stream.ToArray());
    }

    private static string Run(string folder, string program, IEnumerable<string> arguments, string input)
    {
        using var process = Process.Start(
            new ProcessStartInfo(program, arguments)
            {
                WorkingDirectory = folder,
                RedirectStandardInput = true,
                RedirectStandardOutput = true,
                RedirectStandardError = true,
            }
        )!;
        var (said, failed) = (process.StandardOutput.ReadToEndAsync(), process.StandardError.ReadToEndAsync());
        process.StandardInput.Write(input);
        process.StandardInput.Close();
        process.WaitForExit();
        Assert.True(process.ExitCode == 0, failed.Result);
        return said.Result;
    }
}
