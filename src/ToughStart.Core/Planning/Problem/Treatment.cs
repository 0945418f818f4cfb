using ToughStart.Core.Chemistry;
using ToughStart.Core.Contamination;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Planning;

public enum Contact
{
    None,
    Touch,
    Rub,
    Stiff,
}

/// <summary>Paint that a treatment is meant for.</summary>
public enum PaintRule
{
    Any,

    /// <summary>On paint only where it is soft: a cloth in place of a mesh.</summary>
    SoftOnly,

    /// <summary>On paint only where it is not soft.</summary>
    NotSoft,
}

/// <summary>Where a treatment is thought of at all.</summary>
public enum OnlyWhere
{
    Anywhere,

    /// <summary>Bonded dirt lies heavy and a correction follows, which takes out what the tool marks.</summary>
    HeavyBeforeCorrection,

    /// <summary>Neither mesh nor cloth may go there.</summary>
    NothingMayRub,

    /// <summary>Brake dust of unknown age lies there: the gentle wet way.</summary>
    OldBrakeDust,

    /// <summary>Nothing stronger of its kind may go there: matte paint before its test spot, a house that works neutral.</summary>
    NothingStronger,

    /// <summary>The vehicle's paint is matte, for the most part.</summary>
    Matte,
}

/// <summary>What a treatment does to one kind: decades a round at reference strength, and the load it cannot pass.</summary>
public readonly record struct Removal(int Kind, Decades Decades, double Floor);

/// <summary>
/// A way of working belongs to these schools: offered when the house rule (or "medium", what the job is washed with) is one of them.
/// </summary>
public sealed record School(string Rule, IReadOnlyList<string> Values)
{
    /// <summary>The rule name for what the job is washed with, which the survey's state decides as well as the house.</summary>
    public const string Medium = "medium";

    internal static School Read(string word)
    {
        var (rule, values) = word.Split('=') is [var r, var v]
            ? (r, v)
            : throw new FormatException($"'{word}': expected rule=value/value.");
        return new School(rule, values.Split('/'));
    }
}

/// <summary>A way of working: an agent, a tool, and what one round removes.</summary>
/// <param name="Labour">Minutes per m² and round.</param>
/// <param name="SolutionMl">Millilitres of solution per m² and round.</param>
/// <param name="WaterLitres">Litres of water per m² and round.</param>
/// <param name="SpotFor">Kinds it is a spot treatment for; empty = offered anywhere.</param>
/// <param name="Cap">Rounds of a visit are counted together with those of the same cap; empty = each stage starts anew.</param>
/// <param name="Schools">House rules that must all agree.</param>
/// <param name="SchoolOn">Kinds the schools are only asked for where one of them lies; empty = everywhere.</param>
/// <param name="Ready">Minutes of making it ready.</param>
/// <param name="Paint">Paint it is meant for.</param>
/// <param name="Only">Where it is thought of at all.</param>
/// <param name="OnlyFor">Kinds of which one must lie there; empty = offered anywhere.</param>
/// <param name="GoesRound">Done round the whole block or not at all, wherever it may be.</param>
public sealed record Treatment(
    int Index,
    string Id,
    string Name,
    IReadOnlyList<Slot> Slots,
    Agent Agent,
    IReadOnlyList<Family> Families,
    IReadOnlyList<Removal> Removes,
    double Labour,
    double SolutionMl,
    double WaterLitres,
    int MaxRounds,
    Contact Contact,
    double PressureOverLubricity,
    double Bite,
    LoadLimit? LoadLimit,
    double AddsResidue,
    IReadOnlyList<int> SpotFor,
    Left Leaves,
    Left Clears,
    string Cap,
    IReadOnlyList<School> Schools,
    IReadOnlyList<int> SchoolOn,
    Minutes Ready,
    string Tool,
    bool GoesRound,
    PaintRule Paint,
    OnlyWhere Only,
    IReadOnlyList<int> OnlyFor
)
{
    public bool SuitsFamily(Family family) => Families.Count == 0 || Families.Contains(family);

    public bool IsClay => In(Place.Clay);

    /// <summary>Done with a pressure lance: raises spray and dust.</summary>
    public bool IsLanced => Only != OnlyWhere.OldBrakeDust && (In(Place.Soak) || In(Place.Rinse) || In(Place.Flush) || In(Place.Foam));

    /// <summary>Does it wet a panel, so that a mitt or brush may touch it then?</summary>
    public bool Wets => In(Place.Soak) || In(Place.Rinse) || In(Place.Spray) || In(Place.Foam);

    /// <summary>Is it only done on what water or foam has reached? A wash that brings its own wet towel is not held to it.</summary>
    public bool NeedsWet => In(Place.Crevice) || In(Place.Scrub) || In(Place.Drop) || In(Place.Bug) || (In(Place.Wash) && WaterLitres > 0);

    public bool In(Place slot)
    {
        // Asked for every way on every zone: nothing is made for it.
        for (var i = 0; i < Slots.Count; i++)
        {
            if (Slots[i].Id == slot)
            {
                return true;
            }
        }

        return false;
    }

    internal static Treatment Read(Table.Row r, int index, Catalogue c)
    {
        var contact = r.Words("contact");
        double pressure = 0,
            bite = 0;
        foreach (var word in contact.Skip(1))
        {
            if (word.StartsWith('m'))
            {
                bite = Table.ParseNumber(word[1..]);
            }
            else
            {
                var parts = word.Split('/');
                pressure = Table.ParseNumber(parts[0]) / Table.ParseNumber(parts[1]);
            }
        }

        return new Treatment(
            index,
            r["id"],
            r["name"],
            r.Terms<Place>("slot").Select(c.Slot).ToArray(),
            c.Agent(r["agent"]),
            r["families"] == "all" ? [] : r.Terms<Family>("families"),
            ReadRemoves(r["removes"], c),
            r.Number("labour"),
            r.Number("ml"),
            r.Number("water"),
            r.Whole("rounds"),
            contact.Length == 0 ? Contact.None : Enum.Parse<Contact>(contact[0], true),
            pressure,
            bite,
            r["load-limit"].Length == 0 ? null : c.LoadLimit(r["load-limit"]),
            r["adds"].Length == 0 ? 0 : r.Number("adds"),
            r.Words("spot").Select(id => Planning.LoadLimit.KindIndex(id, c)).ToArray(),
            ReadLeft(r["leaves"]),
            ReadLeft(r["clears"]),
            r["cap"],
            r.Words("school").Select(School.Read).ToArray(),
            r.Words("on").Select(id => Planning.LoadLimit.KindIndex(id, c)).ToArray(),
            r["ready"].Length == 0 ? c.Agent(r["agent"]).SetUp : r.Number("ready"),
            r["tool"],
            r["round"] == "block",
            r["paint"] switch
            {
                "soft" => PaintRule.SoftOnly,
                "hard" => PaintRule.NotSoft,
                _ => PaintRule.Any,
            },
            Wheres.GetValueOrDefault(r["only"]),
            r["only"].Length == 0 || Wheres.ContainsKey(r["only"])
                ? []
                : r.Words("only").Select(id => Planning.LoadLimit.KindIndex(id, c)).ToArray()
        );
    }

    /// <summary>Words of the table for where a treatment is thought of; anything else there names the kinds it is for.</summary>
    private static readonly Dictionary<string, OnlyWhere> Wheres = new()
    {
        ["as-last"] = OnlyWhere.HeavyBeforeCorrection,
        ["unrubbed"] = OnlyWhere.NothingMayRub,
        ["old-brake-dust"] = OnlyWhere.OldBrakeDust,
        ["nothing-stronger"] = OnlyWhere.NothingStronger,
        ["matte"] = OnlyWhere.Matte,
    };

    private static Removal[] ReadRemoves(string cell, Catalogue c)
    {
        var words = cell.Split(' ', StringSplitOptions.RemoveEmptyEntries);
        return words
            .Chunk(2)
            .Select(pair =>
            {
                var numbers = pair[1].Split('/');
                return new Removal(Planning.LoadLimit.KindIndex(pair[0], c), Table.ParseNumber(numbers[0]), Table.ParseNumber(numbers[1]));
            })
            .ToArray();
    }

    private static Left ReadLeft(string cell) =>
        cell.Split(' ', StringSplitOptions.RemoveEmptyEntries).Aggregate(Left.None, (all, word) => all | Enum.Parse<Left>(word, true));
}

/// <summary>Target loads by goal, contaminant and surface family.</summary>
public sealed class TargetTable
{
    private readonly Dictionary<(Goal Goal, int Kind, Family? Family), string> _cells = [];

    internal TargetTable(Table table, Catalogue c)
    {
        foreach (var row in table.Rows)
        {
            foreach (var goal in Goal.All)
            {
                _cells[(goal, LoadLimit.KindIndex(row["contaminant"], c), row["family"] == "*" ? null : Family.Of(row["family"]))] = row[
                    goal.Word
                ];
            }
        }
    }

    /// <summary>The target load, or null when the goal asks nothing of this kind here.</summary>
    public double? Target(Goal goal, int kind, Family family) =>
        Cell(goal, kind, family) is { } text && text is not ("-" or "keep") ? Table.ParseNumber(text) : null;

    /// <summary>Is this kind to be kept, so that losing it costs?</summary>
    public bool Keep(Goal goal, int kind, Family family) => Cell(goal, kind, family) == "keep";

    private string? Cell(Goal goal, int kind, Family family) =>
        _cells.GetValueOrDefault((goal, kind, family)) ?? _cells.GetValueOrDefault((goal, kind, null));
}
