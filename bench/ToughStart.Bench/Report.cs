using System.Diagnostics;
using System.Globalization;

namespace ToughStart.Bench;

/// <summary>
/// What was measured: said as it comes, and kept in docs/performance.md between the marks of its name, with the commit, its day and the load
/// it was measured at. Nobody writes a figure there by hand.
/// </summary>
internal sealed class Report(string root, string name)
{
    private readonly List<string> _lines = [];

    private readonly string _load = Load();

    public void Line(string line)
    {
        Console.WriteLine(line);
        _lines.Add(line);
    }

    /// <summary>A table begins.</summary>
    public void Head(params string[] columns)
    {
        Line($"| {string.Join(" | ", columns)} |");
        Line($"|{string.Concat(columns.Select(_ => "---|"))}");
    }

    /// <summary>A row: what, how much, and what is aimed at.</summary>
    public void Row(string what, string measured, string aim = "") => Line($"| {what} | {measured} | {aim} |");

    public void Row(string what, double milliseconds, string aim = "") =>
        Row(what, milliseconds.ToString("0.00 ms", CultureInfo.InvariantCulture), aim);

    /// <summary>Puts the lines in the place of those measured before.</summary>
    /// <exception cref="InvalidOperationException">The document has no such marks.</exception>
    public void Keep()
    {
        var file = Path.Combine(root, "docs", "performance.md");
        var text = File.ReadAllText(file);
        var (from, to) = ($"<!-- measured: {name} -->\n", "<!-- end -->");
        var start = text.IndexOf(from, StringComparison.Ordinal);
        if (start < 0)
        {
            throw new InvalidOperationException($"{file} has no mark for {name}");
        }

        start += from.Length;
        var end = text.IndexOf(to, start, StringComparison.Ordinal);
        File.WriteAllText(file, $"{text[..start]}{string.Join('\n', _lines)}\n\n{Said()}\n{text[end..]}");
    }

    private string Said() =>
        string.Create(CultureInfo.InvariantCulture, $"Measured at {Commit()}, {Environment.ProcessorCount} cores, load before it {_load}.");

    private static string Load() => File.Exists("/proc/loadavg") ? File.ReadAllText("/proc/loadavg").Split(' ')[0] : "not known";

    private string Commit()
    {
        string Git(string arguments)
        {
            using var git = Process.Start(
                new ProcessStartInfo("git", $"-C \"{root}\" {arguments}") { RedirectStandardOutput = true, RedirectStandardError = true }
            );
            return git!.StandardOutput.ReadToEnd().Trim();
        }

        var changed = Git("status --porcelain -- src tests bench").Length > 0;
        return $"commit {Git("log -1 --format=%h")} of {Git("log -1 --format=%cs")}{(changed ? " and what was not committed yet" : "")}";
    }
}
