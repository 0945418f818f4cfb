using ToughStart.Core.Formats;
using ToughStart.Core.Provenance;
using ToughStart.Core.Surfaces;

namespace ToughStart.Core.Chemistry;

/// <summary>What agrees with what.</summary>
public static partial class Calculators
{
    public static Checked<CompatibilityReply> Compatibility(CompatibilityRequest r)
    {
        var c = Catalogue.Default;
        var agents = c.Agents.Select(a => a.Id).ToArray();
        if (!agents.Contains(r.Agent))
        {
            return new(null, [new Problem("agent", r.Agent is null ? "is missing" : $"'{r.Agent}' is not known", agents)]);
        }

        if ((r.Surface is null) == (r.After is null))
        {
            return new(null, [new Problem("surface", "say a surface it goes on, or an agent it comes after", ["surface", "after"])]);
        }

        if (r.After is not null)
        {
            if (!agents.Contains(r.After))
            {
                return new(null, [new Problem("after", $"'{r.After}' is not known", agents)]);
            }

            var (meeting, reason) = After(c.Agent(r.After), c.Agent(r.Agent!));
            return new(
                new CompatibilityReply(
                    Word(meeting),
                    [new ReasonReply(reason, meeting == Meeting.Never, "meetings", c.Table("meetings").Standing.ToString())],
                    []
                ),
                []
            );
        }

        if (c.Surfaces.All(s => s.Id != r.Surface))
        {
            return new(null, [new Problem("surface", $"'{r.Surface}' is not known", c.Surfaces.Select(s => s.Id).ToArray())]);
        }

        StrengthReading? reading = null;
        if (r.Strength is not null && Strength("strength", r.Strength, null, null, out reading) is { } bad)
        {
            return new(null, [bad]);
        }

        if (r.FilmC is { } t && !(t is >= -20 and <= 90))
        {
            return new(null, [new Problem("filmC", "is -20 to 90 °C")]);
        }

        var answer = Chemistry.Compatibility.Default.Ask(
            r.Agent!,
            r.Surface!,
            new Circumstances(reading?.Fraction, r.FilmC, r.Protected ?? false, r.TestSpotPassed ?? false, r.RinsedAtOnce ?? false)
        );
        return new(
            new CompatibilityReply(
                answer.Ruling,
                answer.Reasons.Select(b => new ReasonReply(b.Words, b.Refuses, b.Table, b.Standing.ToString())).ToArray(),
                answer.Kit
            ),
            []
        );
    }

    /// <summary>A meeting as programs read it.</summary>
    public static string Word(Meeting meeting) =>
        meeting switch
        {
            Meeting.Never => "never",
            Meeting.FullRinse => "full-rinse",
            Meeting.Wash => "wash",
            _ => "rinse",
        };
}
