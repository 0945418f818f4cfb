using ToughStart.Core.Provenance;
using ToughStart.Core.Surfaces;

namespace ToughStart.Core.Readiness;

/// <summary>What a kind of protection wants under it.</summary>
public enum Under
{
    Any,
    Clean,

    /// <summary>No wax, no sealant, no filler: wiped right before.</summary>
    Bare,
}

/// <summary>A kind of protection: how long it lasts, what it goes on, and how it is put on.</summary>
/// <param name="Low">Months it lasts at the least.</param>
/// <param name="High">Months it lasts at the most.</param>
/// <param name="Covers">What a survey calls it; empty = nothing.</param>
/// <param name="On">Families it goes on.</param>
/// <param name="Matte">It may go on matte finishes.</param>
/// <param name="Level">Minutes until it is levelled or wiped off.</param>
/// <param name="Haze">Minutes until it hazes; null = it does not.</param>
/// <param name="AgainHours">Hours until the next layer.</param>
/// <param name="DryHours">Hours it is kept from water.</param>
public sealed record Protection(
    string Id,
    string Name,
    double Low,
    double High,
    string Covers,
    IReadOnlyList<Family> On,
    bool Matte,
    Under Base,
    (double From, double To) Level,
    (double From, double To)? Haze,
    double AgainHours,
    int Layers,
    double DryHours
)
{
    internal static Protection Read(Table.Row r) =>
        new(
            r["id"],
            r["name"],
            r.Number("low"),
            r.Number("high"),
            r["covers"],
            r.Terms<Family>("on"),
            r["matte"] == "yes",
            Enum.Parse<Under>(r["base"], ignoreCase: true),
            Span(r["level"])!.Value,
            Span(r["haze"]),
            r.Number("again"),
            r.Whole("layers"),
            r.Number("dry")
        );

    /// <summary>May it go on this surface at all?</summary>
    public bool Fits(Family family, bool matte) => On.Contains(family) && (Matte || !matte);

    /// <summary>The day by which it is renewed, counted from when it was put on.</summary>
    public DateOnly DueFrom(DateOnly day) => day.AddDays((int)(Low * Catalogue.Default["month-days"]));

    /// <summary>How it is put on, in a sentence.</summary>
    public string How =>
        string.Create(
            System.Globalization.CultureInfo.InvariantCulture,
            $"{(Haze is { } h ? $"hazes in {h.From:0.#} to {h.To:0.#} min, " : "")}level it within {Level.To:0.#} min"
                + $"{(Layers > 1 ? $", a second layer after {(AgainHours > 0 ? $"{AgainHours:0.#} h" : "that")}" : "")}"
                + $"{(DryHours > 0 ? $"; keep it dry for {DryHours:0.#} h" : "")}"
        );

    private static (double, double)? Span(string cell) =>
        cell.Split('-') is [{ Length: > 0 } a, var b] ? (Table.ParseNumber(a), Table.ParseNumber(b)) : null;
}
