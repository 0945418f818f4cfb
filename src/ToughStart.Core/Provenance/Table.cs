using System.Globalization;

namespace ToughStart.Core.Provenance;

/// <summary>How far a number of the job can be trusted, said beside every one of them.</summary>
public enum Standing
{
    /// <summary>A source that can be opened is named.</summary>
    Published,

    /// <summary>Practitioners agree on it; there is no single source.</summary>
    CommonPractice,

    /// <summary>A source is believed to exist but was written down from memory.</summary>
    FromMemory,

    /// <summary>Our own assumption, to be moved by the logbook.</summary>
    ModelAssumption,
}

/// <summary>Standings as people read them.</summary>
public static class Standings
{
    public static string InWords(this Standing standing) =>
        standing switch
        {
            Standing.Published => "published",
            Standing.CommonPractice => "common practice",
            Standing.FromMemory => "from memory",
            Standing.ModelAssumption => "model assumption",
            _ => throw new ArgumentOutOfRangeException(nameof(standing), standing, "no such standing"),
        };
}

/// <summary>One table of the catalogue, as shipped: header lines that say where it comes from, then columns and rows.</summary>
public sealed class Table
{
    private readonly Dictionary<string, int> _columns;

    private Table(string id, string title, Standing standing, string source, string? note, string[] columns, IReadOnlyList<Row> rows)
    {
        Id = id;
        Title = title;
        Standing = standing;
        Source = source;
        Note = note;
        Columns = columns;
        Rows = rows;
        _columns = columns.Select((c, i) => (c, i)).ToDictionary(x => x.c, x => x.i);
    }

    public string Id { get; }
    public string Title { get; }
    public Standing Standing { get; }
    public string Source { get; }
    public string? Note { get; }
    public IReadOnlyList<string> Columns { get; }
    public IReadOnlyList<Row> Rows { get; }

    /// <summary>Reads a table shipped inside this assembly.</summary>
    /// <exception cref="InvalidDataException">The table is missing, or a row has another number of cells than the header.</exception>
    internal static Table Load(string id)
    {
        using var stream = typeof(Table).Assembly.GetManifestResourceStream("tables/" + id)
            ?? throw new InvalidDataException($"catalogue table '{id}' is not shipped");
        using var reader = new StreamReader(stream);
        var head = new Dictionary<string, string>();
        string[]? columns = null;
        var rows = new List<Row>();
        Table? table = null;
        while (reader.ReadLine() is { } line)
        {
            if (line.StartsWith('#'))
            {
                var colon = line.IndexOf(':', StringComparison.Ordinal);
                head[line[1..colon].Trim()] = line[(colon + 1)..].Trim();
            }
            else if (line.Length > 0)
            {
                var cells = line.Split('|', StringSplitOptions.TrimEntries);
                if (columns is null)
                {
                    columns = cells;
                    table = new Table(
                        id,
                        head["title"],
                        ReadStanding(head["kind"]),
                        head["source"],
                        head.GetValueOrDefault("columns"),
                        columns,
                        rows
                    );
                }
                else if (cells.Length != columns.Length)
                {
                    throw new InvalidDataException($"{id}: row '{cells[0]}' has {cells.Length} cells, the header {columns.Length}");
                }
                else
                {
                    rows.Add(new Row(table!, cells));
                }
            }
        }

        return table ?? throw new InvalidDataException($"catalogue table '{id}' has no columns");
    }

    internal static Standing ReadStanding(string words) =>
        Enum.GetValues<Standing>().Where(s => s.InWords() == words).Select(s => (Standing?)s).FirstOrDefault()
        ?? throw new InvalidDataException($"'{words}' is no standing");

    /// <summary>One row; cells by the header's names.</summary>
    public sealed class Row(Table table, string[] cells)
    {
        public IReadOnlyList<string> Cells { get; } = cells;

        public string this[string column] => cells[table._columns[column]];

        public double Number(string column) => ParseNumber(this[column]);

        public int Whole(string column) => int.Parse(this[column], CultureInfo.InvariantCulture);

        public string[] Words(string column) => this[column].Split(' ', StringSplitOptions.RemoveEmptyEntries);

        internal T[] Terms<T>(string column)
            where T : Term<T> => [.. Words(column).Select(Term<T>.Of)];
    }

    internal static double ParseNumber(string text) => double.Parse(text, NumberStyles.Float, CultureInfo.InvariantCulture);
}
