using System.Globalization;
using System.Text;
using CsvHelper;
using CsvHelper.Configuration;
using Microsoft.EntityFrameworkCore;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Formats;

namespace ToughStart.Data;

/// <summary>One row of a shelf file: what it would do, or what is wrong with it.</summary>
/// <param name="Line">Line of the file, 1 = the header.</param>
/// <param name="Does">add, change, same or bad.</param>
/// <param name="Changes">Field, before, after.</param>
public sealed record ShelfRow(
    int Line,
    string Name,
    string Does,
    ProductDraft? Draft,
    Guid? Id,
    uint Version,
    IReadOnlyList<(string Field, string Before, string After)> Changes,
    IReadOnlyList<Problem> Problems
);

/// <summary>A whole file, read and compared with the shelf; nothing is written yet.</summary>
/// <param name="Refused">Why the file could not be read at all.</param>
public sealed record ShelfPreview(IReadOnlyList<ShelfRow> Rows, string? Refused)
{
    public int Count(string does) => Rows.Count(r => r.Does == does);
}

/// <summary>The shelf as a file: comma or semicolon, with or without byte order mark, decimal commas where semicolons part the fields.</summary>
public sealed class ShelfCsv(ToughStartContext db, ShelfStore shelf)
{
    public const int MostBytes = 2 * 1024 * 1024,
        MostRows = 5000;

    /// <summary>Reads a file and says what it would change. Every bad row is named with its fields; the good ones stand.</summary>
    public async Task<ShelfPreview> PreviewAsync(string text, CancellationToken stop = default)
    {
        text = text.TrimStart('\uFEFF');
        if (string.IsNullOrWhiteSpace(text))
        {
            return new([], "the file is empty");
        }

        var header = text.Split('\n', 2)[0];
        var semicolon = header.Count(c => c == ';') > header.Count(c => c == ',');
        var bad = false;
        var configuration = new CsvConfiguration(CultureInfo.InvariantCulture)
        {
            Delimiter = semicolon ? ";" : ",",
            BadDataFound = _ => bad = true,
            MissingFieldFound = null,
            TrimOptions = TrimOptions.Trim,
            PrepareHeaderForMatch = a => a.Header.Trim().ToLowerInvariant(),
        };
        using var csv = new CsvReader(new StringReader(text), configuration);
        if (!await csv.ReadAsync() || !csv.ReadHeader())
        {
            return new([], "the first line names the fields: " + string.Join(", ", ProductDraft.Fields));
        }

        var columns = csv.HeaderRecord!.Select(h => h.Trim().ToLowerInvariant()).ToArray();
        if (columns.FirstOrDefault(c => c.Length > 0 && !ProductDraft.Fields.Contains(c)) is { } unknown)
        {
            return new(
                [],
                $"'{(unknown.Length > 40 ? unknown[..40] : unknown)}' is no field of a product; allowed: {string.Join(", ", ProductDraft.Fields)}"
            );
        }

        if (columns.GroupBy(c => c).FirstOrDefault(g => g.Count() > 1) is { } twice)
        {
            return new([], $"the field '{twice.Key}' stands twice in the first line");
        }

        if (!columns.Contains("name") || !columns.Contains("agent"))
        {
            return new([], $"name and agent are needed in the first line; found: {string.Join(", ", columns)}");
        }

        var there = (await db.Products.AsNoTracking().ToListAsync(stop)).ToDictionary(p => p.Name, StringComparer.OrdinalIgnoreCase);
        var rows = new List<ShelfRow>();
        var seen = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        while (await csv.ReadAsync())
        {
            var line = csv.Parser.RawRow;
            if (rows.Count >= MostRows)
            {
                return new([], $"more than {MostRows} rows: part the file");
            }

            if (csv.Parser.Record is not { } cells || cells.All(string.IsNullOrWhiteSpace))
            {
                continue;
            }

            string? Cell(string field) =>
                Array.IndexOf(columns, field) is >= 0 and var i && i < cells.Length
                    ? cells[i].StartsWith('\'') && ProductDraft.LooksLikeFormula(cells[i][1..])
                        ? cells[i][1..]
                        : cells[i]
                    : null;
            var read = ProductDraft.Read(Cell, semicolon);
            var problems = read.Problems.ToList();
            if (cells.Length != columns.Length)
            {
                problems.Insert(0, new Problem("(row)", $"has {cells.Length} cells, the first line {columns.Length}"));
            }

            if (bad)
            {
                problems.Insert(0, new Problem("(row)", "quotation marks do not close"));
                bad = false;
            }

            var name = Cell("name")?.Trim() ?? "";
            if (name.Length > 0 && !seen.Add(name))
            {
                problems.Add(new Problem("name", "stands twice in the file"));
            }

            if (problems.Count > 0)
            {
                rows.Add(new ShelfRow(line, name.Length > 60 ? name[..60] : name, "bad", null, null, 0, [], problems));
                continue;
            }

            var draft = read.Value!;
            var old = there.GetValueOrDefault(draft.Name);
            if (old is null)
            {
                rows.Add(new ShelfRow(line, draft.Name, "add", draft, null, 0, [], []));
                continue;
            }

            // A field that is not in the file stays as it is.
            var before = ShelfStore.Draft(old);
            var merged = ProductDraft.Read(f => columns.Contains(f) ? Cell(f) : before.Cell(f), semicolon).Value ?? draft;
            var changes = ProductDraft
                .Fields.Where(columns.Contains)
                .Where(f => f != "stock_ml" || merged.StockMl is not null)
                .Select(f => (Field: f, Before: before.Cell(f), After: merged.Cell(f)))
                .Where(x => x.Before != x.After && x.Field != "name")
                .ToArray();
            rows.Add(
                new ShelfRow(
                    line,
                    old.Name,
                    changes.Length == 0 && !old.Retired ? "same" : "change",
                    merged with
                    {
                        Name = old.Name,
                    },
                    old.Id,
                    old.Version,
                    changes,
                    []
                )
            );
        }

        return rows.Count == 0 ? new([], "no rows after the first line") : new(rows, null);
    }

    /// <summary>Writes the good rows of a file. Bad rows are left out, and rows that somebody changed meanwhile are named.</summary>
    public async Task<(int Added, int Changed, IReadOnlyList<string> Refused)> ApplyAsync(
        string text,
        string author,
        CancellationToken stop = default
    )
    {
        var preview = await PreviewAsync(text, stop);
        var (added, changed, refused) = (0, 0, new List<string>());
        foreach (var row in preview.Rows.Where(r => r.Does is "add" or "change"))
        {
            var (id, why) = await shelf.SaveAsync(row.Id, row.Version, row.Draft!, author, stop);
            if (why is not null)
            {
                refused.Add($"line {row.Line}, {row.Name}: {why}");
                continue;
            }

            if (row.Id is not null)
            {
                await db.Products.Where(p => p.Id == id).ExecuteUpdateAsync(s => s.SetProperty(p => p.Retired, false), stop);
                if (row.Draft!.StockMl is { } stock && row.Changes.Any(c => c.Field == "stock_ml"))
                {
                    await shelf.MoveAsync(id, "count", stock, "from a file", author, stop: stop);
                }
            }

            (added, changed) = row.Id is null ? (added + 1, changed) : (added, changed + 1);
            db.ChangeTracker.Clear();
        }

        return (added, changed, refused);
    }

    /// <summary>The shelf as a file that the import reads back to the same shelf. Cells that a spreadsheet would run are disarmed.</summary>
    public async Task<byte[]> ExportAsync(bool semicolon, CancellationToken stop = default)
    {
        var products = await db.Products.AsNoTracking().Where(p => !p.Retired).OrderBy(p => p.Agent).ThenBy(p => p.Name).ToListAsync(stop);
        await using var text = new StringWriter();
        await using (
            var csv = new CsvWriter(
                text,
                new CsvConfiguration(CultureInfo.InvariantCulture) { Delimiter = semicolon ? ";" : ",", NewLine = "\r\n" }
            )
        )
        {
            foreach (var f in ProductDraft.Fields)
            {
                csv.WriteField(f);
            }

            await csv.NextRecordAsync();
            foreach (var draft in products.Select(ShelfStore.Draft))
            {
                foreach (var f in ProductDraft.Fields)
                {
                    var cell = draft.Cell(f);
                    csv.WriteField(ProductDraft.LooksLikeFormula(cell) ? "'" + cell : cell);
                }

                await csv.NextRecordAsync();
            }
        }

        return [.. Encoding.UTF8.GetPreamble(), .. Encoding.UTF8.GetBytes(text.ToString())];
    }
}
