using System.Collections.Concurrent;
using ToughStart.Core.Conditions;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;

namespace ToughStart.Core.Running.Live;

/// <summary>
/// How long what a step puts on may stay, by zone and quarter-hour: the wet window of that moment with the panel's readings, and the label.
/// Worked out once for a plan, so that a phone without a network still knows what the next hours bring.
/// </summary>
public sealed class LiveWindows
{
    /// <summary>Length of a part of the table, ms.</summary>
    public const long QuarterMs = 15 * 60_000;

    /// <summary>Drying plays no part, or nobody said what the weather is: nothing is ever said to be dry.</summary>
    public const long NeverMs = 24 * 60 * 60_000;

    private readonly RunGround _ground;
    private readonly SiteConditions?[] _at;
    private readonly ConcurrentDictionary<(string Zone, string Film, int Quarter), ZoneWindow> _known = new();

    /// <param name="from">Start of the first quarter-hour.</param>
    public LiveWindows(RunGround ground, DateTimeOffset from, int quarters)
    {
        (_ground, From) = (ground, from);
        _at = new SiteConditions?[quarters];
        for (var q = 0; q < quarters; q++)
        {
            // Where the weather of the survey does not reach, the last that is known goes on.
            _at[q] = SiteConditions.Of(ground.Survey, from.AddMinutes(15 * q), ground.Catalogue).Conditions
                ?? (q > 0 ? _at[q - 1] : (ground.States.Count > 0 ? ground.States[0].Conditions : null));
        }
    }

    public DateTimeOffset From { get; }

    /// <summary>Does what the step puts on stay, so that a line is drawn for it?</summary>
    public static bool HasLine(Step step) => step.DwellMinutes > 0 && step.Stage != Stage.Dry;

    /// <summary>Windows of a step on one of its zones, one a quarter-hour.</summary>
    public IReadOnlyList<LiveWindow> Of(Step step, string zone) => [.. Enumerable.Range(0, _at.Length).Select(q => Of(step, zone, q))];

    private LiveWindow Of(Step step, string zone, int quarter)
    {
        var dwell = Ms((step.On(zone)?.DwellMinutes is { Value: > 0 } own ? own : step.DwellMinutes).Value * 60);
        var label = step.MaxDwellMinutes > 0 ? Ms(step.MaxDwellMinutes.Value * 60) : NeverMs;
        if (step.Film is not { } film || _at[quarter] is not { } conditions || _ground.Zone(zone) is not { } z)
        {
            return new LiveWindow(dwell, Math.Min(label, NeverMs), NeverMs, label);
        }

        // Steps that lay on alike share it.
        var window = _known.GetOrAdd((zone, film, quarter), _ => conditions.Window(z.Zone, z.Family, z.Reading, film));
        return new LiveWindow(dwell, Math.Min(Ms(window.UsableSeconds.Value), NeverMs), Math.Min(Ms(window.FirstDry), NeverMs), label);
    }

    /// <summary>
    /// How much longer (or shorter) a film that is on a zone stays than was reckoned, thousandths, after a reading there.
    /// </summary>
    public int PerMille(Step step, string zone, double readC)
    {
        if (step.Film is not { } film || _at[0] is not { } conditions || _ground.Zone(zone) is not { } z)
        {
            return 1000;
        }

        var was = conditions.Window(z.Zone, z.Family, z.Reading, film).FirstDry;
        var now = conditions.FirstDryOn(z.Zone, z.Family, readC, film);
        return !double.IsFinite(was) || was <= 0 ? 1000
            : !double.IsFinite(now) ? Longest
            : (int)Math.Clamp(1000 * now / was, Shortest, Longest);
    }

    /// <summary>What a reading can make of a film's time at the very most, thousandths.</summary>
    private const int Shortest = 50,
        Longest = 5000;

    private static long Ms(double seconds) => double.IsFinite(seconds) ? (long)Math.Clamp(seconds * 1000, 0, NeverMs) : NeverMs;
}
