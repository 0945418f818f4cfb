using System.Globalization;
using System.Text;
using System.Text.Json;
using CsvHelper;
using CsvHelper.Configuration;
using ToughStart.Core.Formats;
using ToughStart.Core.Running.Live;
using ToughStart.Data;

namespace ToughStart.Web.Stations;

/// <summary>What became of a log that was handed in.</summary>
/// <param name="Bad">Lines that were left out, and why; they stop no other.</param>
/// <param name="Refused">Why nothing was taken in; null = it was read.</param>
public sealed record ImportReport(int Taken, int Known, IReadOnlyList<(int Line, string Why)> Bad, string? Refused);

/// <summary>Logs as files: a line an entry, as JSON or as a table, out and in again without loss; and the logbook's lines as a table.</summary>
public sealed class BookFiles(JobStore jobs, RunStore runs, LogbookStore log)
{
    /// <summary>A log of years of one job is far smaller.</summary>
    public const int MostBytes = 20 * 1024 * 1024;

    /// <summary>Lines of a table at most; who needs more narrows the search.</summary>
    private const int MostLines = 4000;

    private static readonly UTF8Encoding Plain = new(false);

    /// <summary>A job's log, a line an entry, after a line that says what it is; null when there is no such job.</summary>
    public async Task<byte[]?> LinesAsync(int number, CancellationToken stop)
    {
        if (await jobs.IdAsync(number, stop) is not { } job)
        {
            return null;
        }

        var text = new StringBuilder();
        text.Append(JsonSerializer.Serialize(new { format = LogFormat.Format, job = number })).Append('\n');
        foreach (var e in await runs.LogAsync(job, stop: stop))
        {
            text.Append(Encoding.UTF8.GetString(LogFormat.Write(e))).Append('\n');
        }

        return Plain.GetBytes(text.ToString());
    }

    /// <summary>The same as a table: what is searched by in columns of its own, and the whole entry beside it.</summary>
    public async Task<byte[]?> LogTableAsync(int number, CancellationToken stop)
    {
        if (await jobs.IdAsync(number, stop) is not { } job)
        {
            return null;
        }

        var log = await runs.LogAsync(job, stop: stop);
        return Sheet(
            false,
            [
                ["job", "number", "when", "who", "kind", "zones", "entry"],
                .. log.Select(e =>
                    new[]
                    {
                        N(number),
                        N(e.Number),
                        DateTimeOffset
                            .FromUnixTimeMilliseconds(e.When.At)
                            .ToString("yyyy-MM-dd'T'HH:mm:ss.fff'Z'", CultureInfo.InvariantCulture),
                        e.Who,
                        e.Kind.Word(),
                        string.Join(' ', e.Body.Zones),
                        Encoding.UTF8.GetString(LogFormat.Write(e)),
                    }
                ),
            ]
        );
    }

    /// <summary>What a search of the logbook finds, as a table.</summary>
    public async Task<byte[]> TableAsync(LogbookSearch search, bool semicolon, CancellationToken stop)
    {
        var lines = new List<LogbookLine>();
        for (var skip = 0; skip < MostLines; skip += LogbookSearch.Most)
        {
            var page = await log.FindAsync(search with { Skip = skip }, stop);
            lines.AddRange(page.Take(LogbookSearch.Most));
            if (page.Count <= LogbookSearch.Most)
            {
                break;
            }
        }

        return
        [
            .. Encoding.UTF8.GetPreamble(),
            .. Sheet(
                semicolon,
                [
                    [
                        "job",
                        "day",
                        "vehicle",
                        "registration",
                        "client",
                        "goal",
                        "minutes",
                        "planned minutes",
                        "litres",
                        "product ml",
                        "ready",
                        "unverified",
                        "dried",
                        "due",
                    ],
                    .. lines.Select(l =>
                        new[]
                        {
                            N(l.Number),
                            Day(l.Day),
                            l.Vehicle,
                            l.Plate,
                            l.Client,
                            l.Goal,
                            l.Minutes is { } m ? N(m) : "",
                            N(l.PlannedMinutes),
                            N(l.Litres),
                            N(l.ProductMl),
                            N(l.Ready),
                            N(l.Unverified),
                            N(l.Dried),
                            l.Due is { } due ? Day(due) : "",
                        }
                    ),
                ]
            ),
        ];
    }

    /// <summary>Takes in a log that was written out, by lines or as a table.</summary>
    public async Task<ImportReport> ImportAsync(string text, string author, CancellationToken stop)
    {
        var bad = new List<(int Line, string Why)>();
        var (number, rows, refused) = text.TrimStart('\uFEFF', ' ', '\r', '\n').StartsWith('{') ? Lines(text) : Table(text, bad);
        if (refused is not null)
        {
            return new(0, 0, bad, refused);
        }

        if (number is not { } of || await jobs.IdAsync(of, stop) is not { } job)
        {
            return new(0, 0, bad, $"job: {(number is null ? "the file does not say whose log it is" : $"there is no job {number} here")}");
        }

        var good = new List<(int Line, LogEvent Entry)>();
        foreach (var (line, json) in rows)
        {
            try
            {
                using var read = JsonDocument.Parse(json);
                var (entry, problems) = LogFormat.Read(read.RootElement);
                if (entry is { Number: > 0 })
                {
                    good.Add((line, entry));
                }
                else
                {
                    bad.Add((line, entry is null ? string.Join("; ", problems.Take(3)) : "number: is missing"));
                }
            }
            catch (JsonException)
            {
                bad.Add((line, "is no JSON"));
            }
        }

        var answers = await runs.RestoreAsync(job, [.. good.OrderBy(g => g.Entry.Number).Select(g => g.Entry)], stop);
        foreach (var (answer, row) in answers.Zip(good.OrderBy(g => g.Entry.Number)).Where(x => x.First.Taken == Data.Taken.Refused))
        {
            bad.Add((row.Line, answer.Why ?? "is refused"));
        }

        return new(
            answers.Count(a => a.Taken == Data.Taken.New),
            answers.Count(a => a.Taken == Data.Taken.Known),
            [.. bad.OrderBy(b => b.Line)],
            null
        );
    }

    private static (int? Job, List<(int Line, string Json)> Rows, string? Refused) Lines(string text)
    {
        var lines = text.TrimStart('\uFEFF').Split('\n');
        var first = Array.FindIndex(lines, l => l.Trim().Length > 0);
        int? job = null;
        try
        {
            using var head = JsonDocument.Parse(lines[first]);
            if (
                !head.RootElement.TryGetProperty("format", out var format)
                || format.ValueKind != JsonValueKind.String
                || format.GetString() != LogFormat.Format
            )
            {
                return (null, [], $"format: the first line says {LogFormat.Format}");
            }

            job =
                head.RootElement.TryGetProperty("job", out var n) && n.ValueKind == JsonValueKind.Number && n.TryGetInt32(out var v)
                    ? v
                    : null;
        }
        catch (JsonException)
        {
            return (null, [], $"format: the first line says {LogFormat.Format}");
        }

        return (job, [.. lines.Select((l, i) => (i + 1, l.Trim())).Skip(first + 1).Where(l => l.Item2.Length > 0)], null);
    }

    private static (int? Job, List<(int Line, string Json)> Rows, string? Refused) Table(string text, List<(int, string)> bad)
    {
        var header = text.Split('\n', 2)[0];
        using var csv = new CsvReader(
            new StringReader(text.TrimStart('\uFEFF')),
            new CsvConfiguration(CultureInfo.InvariantCulture)
            {
                Delimiter = header.Contains(';', StringComparison.Ordinal) ? ";" : ",",
                BadDataFound = null,
                MissingFieldFound = null,
            }
        );
        if (!csv.Read() || !csv.ReadHeader() || csv.HeaderRecord is not { } names || !names.Contains("job") || !names.Contains("entry"))
        {
            return (null, [], "columns: job and entry are needed, as a log is written out here");
        }

        var rows = new List<(int, string)>();
        int? job = null;
        while (csv.Read())
        {
            var line = csv.Parser.RawRow;
            if (!int.TryParse(csv.GetField("job"), out var n) || (job is { } known && known != n))
            {
                bad.Add((line, "job: a file holds the log of one job"));
                continue;
            }

            job = n;
            rows.Add((line, csv.GetField("entry") ?? ""));
        }

        return (job, rows, null);
    }

    private static byte[] Sheet(bool semicolon, IEnumerable<string[]> rows)
    {
        using var text = new StringWriter(CultureInfo.InvariantCulture);
        using (var csv = new CsvWriter(text, ReportDesk.Sheet(semicolon)))
        {
            foreach (var row in rows)
            {
                foreach (var cell in row)
                {
                    csv.WriteField(cell);
                }

                csv.NextRecord();
            }
        }

        return Plain.GetBytes(text.ToString());
    }

    private static string N(int value) => value.ToString(CultureInfo.InvariantCulture);

    private static string Day(DateOnly day) => day.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture);
}
