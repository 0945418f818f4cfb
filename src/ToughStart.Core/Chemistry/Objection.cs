using System.Globalization;

namespace ToughStart.Core.Chemistry;

/// <summary>Why something may not be done. Programs read causes; people read <see cref="Objection.Say"/>.</summary>
public enum Cause
{
    /// <summary>Somebody refused it for this job.</summary>
    Declined,

    /// <summary>No bottle of the class is on the shelf.</summary>
    NotOnShelf,

    /// <summary>The bottle is empty.</summary>
    NoneLeft,

    /// <summary>Nothing to clay with, and nothing to mix it from.</summary>
    NoLubricant,

    /// <summary>The data sheet names fluoride.</summary>
    Fluoride,

    /// <summary>A hazard statement that is never planned.</summary>
    Statement,

    /// <summary>An acid without a data sheet.</summary>
    NoDataSheet,

    /// <summary>The house works neutral only.</summary>
    NeutralOnly,

    /// <summary>Never on this surface, by touch or by chemistry.</summary>
    Never,

    /// <summary>The label forbids the surface.</summary>
    LabelForbids,

    /// <summary>The label names surfaces, and not this one.</summary>
    LabelSilent,

    /// <summary>Only after a test spot has passed on that very surface.</summary>
    TestSpotFirst,

    /// <summary>The hidden test spot changed.</summary>
    SpotChanged,

    /// <summary>More acid than the surface bears.</summary>
    PhBelow,

    /// <summary>More alkaline than the surface bears.</summary>
    PhAbove,

    /// <summary>Brake dust that may hold asbestos: no lance until it is released.</summary>
    BrakeDust,

    /// <summary>Rain or frost.</summary>
    Weather,

    /// <summary>A panel too hot for anything but water.</summary>
    HotPanel,

    /// <summary>A film too warm for acid, caustic or solvent.</summary>
    HotFilm,

    /// <summary>It dries before it has worked.</summary>
    DriesTooSoon,
}

/// <summary>A refusal as data: the cause, what and whom it is about, the limit and how far past it is. Worded in one place, here.</summary>
/// <param name="What">Agent, bottle or way of working, as people call it. Only ever printed, never read.</param>
/// <param name="Subject">The surface it is about; several can be named in one line.</param>
/// <param name="Limit">pH, °C or what the cause is measured in.</param>
/// <param name="Is">What it is against the limit.</param>
/// <param name="Detail">Words from a table that belong to it: a statement, the weather.</param>
/// <param name="Reaches">Run-off or overspray that reaches another part: how, and which.</param>
public sealed record Objection(
    Cause Cause,
    string What = "",
    string? Subject = null,
    double? Limit = null,
    double? Is = null,
    string? Detail = null,
    (string How, string Part)? Reaches = null
)
{
    /// <summary>It could be bought or borrowed.</summary>
    public bool Lacking => Cause is Cause.NotOnShelf or Cause.NoneLeft or Cause.NoLubricant;

    /// <summary>How far past the limit it is; null where there is none.</summary>
    public double? Past => Limit is { } limit && Is is { } value ? Math.Abs(value - limit) : null;

    /// <summary>The same for every surface it is about: what one line can say.</summary>
    public Objection Line => this with { Subject = null, Limit = Cause is Cause.PhBelow or Cause.PhAbove ? null : Limit };

    /// <summary>The cause as documents carry it: kebab-case.</summary>
    public string Id => IdOf(Cause);

    /// <summary>A cause as documents carry it: kebab-case.</summary>
    public static string IdOf(Cause cause) =>
        string.Concat(
            cause
                .ToString()
                .Select((c, i) => char.IsUpper(c) && i > 0 ? "-" + char.ToLowerInvariant(c) : char.ToLowerInvariant(c).ToString())
        );

    /// <summary>Does a cause, as documents carry it, say that something could be bought or borrowed?</summary>
    public static bool IsLacking(string cause) => Enum.GetValues<Cause>().Any(c => IdOf(c) == cause && new Objection(c).Lacking);

    /// <summary>In words, for one surface.</summary>
    public string Words => Say([Subject]);

    /// <summary>In words, its subjects named.</summary>
    public string Say(IEnumerable<string?> subjects)
    {
        var on = string.Join(", ", subjects.OfType<string>().Distinct());
        return Reaches is { } to ? $"{to.How} the {to.Part}: {Cores(on)}" : Cores(on);
    }

    private string Cores(string on) =>
        Cause switch
        {
            Cause.Declined => "refused for this job",
            Cause.NotOnShelf => $"no {What} on the shelf: buy or borrow",
            Cause.NoneLeft => $"no {What} left on the shelf: buy or borrow",
            Cause.NoLubricant => "no clay lubricant, and no rinseless or shampoo to mix one from, on the shelf: buy or borrow",
            Cause.Fluoride => $"{What}: the data sheet names fluoride; it is never planned",
            Cause.Statement => $"{What}: {Detail}; it is never planned",
            Cause.NoDataSheet => $"{What}: no data sheet, no acid",
            Cause.NeutralOnly => "house rule: neutral only",
            Cause.Never => $"{What}: never on {on}",
            Cause.LabelForbids => $"{What}: its label forbids {on}",
            Cause.LabelSilent => $"{What}: its label does not name {on}",
            Cause.TestSpotFirst => $"{What}: only after a test spot on this {on}",
            Cause.SpotChanged => "the hidden test spot changed: stop here, refer",
            Cause.PhBelow => $"{What}: pH {Number(Is)} is below the limit of {on}",
            Cause.PhAbove => $"{What}: pH {Number(Is)} is above the limit of {on}",
            Cause.BrakeDust => "brake dust of unknown age: no lance at wheels until someone named releases it",
            Cause.Weather => $"{Detail}; indoors or another hour",
            Cause.HotPanel => Is is { } panel
                ? $"panel at {Whole(panel)} °C: water only, cool it first"
                : $"panels above {Whole(Limit)} °C: water only, cool them first",
            Cause.HotFilm => Is is { } film
                ? $"{What}: panel at {Whole(film)} °C, above {Whole(Limit)} °C no acid, caustic or solvent"
                : $"{What}: panels above {Whole(Limit)} °C, no acid, caustic or solvent",
            Cause.DriesTooSoon => $"{What} dries before it has worked",
            _ => throw new InvalidOperationException($"no words for {Cause}"),
        };

    private static string Number(double? value) => (value ?? 0).ToString("0.#", CultureInfo.InvariantCulture);

    private static string Whole(double? value) => (value ?? 0).ToString("0", CultureInfo.InvariantCulture);
}
