using System.Text.Json;
using ToughStart.Core.Running;

namespace ToughStart.Core.Formats;

/// <summary>Reads observations as programs send them: a list, each with its own problems, so that one bad one stops no other.</summary>
public static class ObservationFormat
{
    /// <summary>Most observations of one list.</summary>
    public const int Most = 500;

    // One field a line.
    // csharpier-ignore
    private static readonly Part<Observation> One = new Part<Observation>(v =>
        new(
            Guid.TryParse(v.Get("id", ""), out var id) ? id : Guid.Empty,
            Guid.TryParse(v.Get("batch", ""), out var batch) ? batch : Guid.Empty,
            v.Get<string>("step"),
            v.Get<IReadOnlyList<string>>("zones"),
            v.Get("rounds", 0),
            v.Get<string?>("observe", null),
            v.Get<string?>("result", null),
            v.Get<string?>("because", null)
        )
        {
            Plan = v.Get<int>("plan"),
            Elsewhere = v.Get("elsewhere", false),
            TakesBack = Guid.TryParse(v.Get<string?>("takesBack", null), out var back) ? back : null,
            Strength = Maybe(v, "strength"),
            DwellMinutes = Maybe(v, "dwellMinutes"),
            FilmC = Maybe(v, "filmC"),
        }
    )
    .With("id", Hold.Text, o => o.Id.ToString())
    .MayBe("batch", Hold.Text, o => o.Batch.ToString())
    .With("plan", Hold.Whole(1, int.MaxValue), o => o.Plan ?? 0)
    .With("step", Hold.Text, o => o.StepKey)
    .With("zones", Hold.Texts, o => o.Zones)
    .May("rounds", Hold.Whole(0, 4), o => (true, o.Rounds))
    .MayBe("observe", Hold.Text, o => o.Observe)
    .MayBe("result", Hold.Text, o => o.Result)
    .MayBe("because", Hold.Text, o => o.Because)
    .If("elsewhere", o => o.Elsewhere)
    .MayBe("takesBack", Hold.Text, o => o.TakesBack?.ToString())
    .May("strength", Hold.Number(0.0001, 1, 6), o => o.Strength)
    .May("dwellMinutes", Hold.Number(0, 60, 2), o => o.DwellMinutes)
    .May("filmC", Hold.Number(-30, 120, 1), o => o.FilmC);

    /// <summary>The observations of a list, each read or with what is wrong with it; or why the list itself is none.</summary>
    public static (IReadOnlyList<(Observation? Observation, IReadOnlyList<Problem> Problems)> Read, IReadOnlyList<Problem> Refused) Read(
        JsonElement list
    )
    {
        if (StrictJson.Unsound(list) is { } unsound)
        {
            return ([], [unsound]);
        }

        if (list.ValueKind != JsonValueKind.Array || list.GetArrayLength() is 0 or > Most)
        {
            return ([], [new Problem("(document)", $"must be a list of 1 to {Most} observations")]);
        }

        return (
            list.EnumerateArray()
                .Select(e =>
                {
                    var problems = new List<Problem>();
                    var (ok, o) = One.Read(new StrictJson(problems), e, "");
                    return (ok ? o : null, (IReadOnlyList<Problem>)problems);
                })
                .ToArray(),
            []
        );
    }

    private static double? Maybe(Part<Observation>.Values v, string field) =>
        v.Get(field, double.NaN) is var x && double.IsNaN(x) ? null : x;
}
