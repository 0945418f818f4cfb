using ToughStart.Core.Planning;

namespace ToughStart.Core.Running.Live;

/// <summary>
/// What a panel's heat, read with a thermometer, makes of the films that lie on the vehicle. On that panel they stay as long as the reading
/// says. Elsewhere nobody measured: there a reading says only that less time may be left than was thought, never that there is more.
/// </summary>
public static class Rescaling
{
    /// <summary>Thousandths of what was thought.</summary>
    private const int Unchanged = 1000;

    /// <summary>Entries that follow from a reading; none where nothing changes.</summary>
    /// <param name="plan">In force: its steps say what film lies there.</param>
    /// <param name="windows">Of the moment of the reading.</param>
    /// <param name="revision">Of the plan.</param>
    public static IEnumerable<LogEvent> After(LogEvent reading, LiveState live, Plan plan, LiveWindows windows, int revision)
    {
        if (reading is not { Kind: LogKind.Measured, Body: { What: "panel", Value: { } celsius, Zones: { Count: > 0 } there } })
        {
            yield break;
        }

        foreach (var (piece, zone) in live.Zones.Where(z => z.Value.Lines.Count > 0))
        {
            if (plan.Steps.FirstOrDefault(s => s.Treatment == zone.Lines.Keys.First()) is not { } step)
            {
                continue;
            }

            var measured = there.Contains(piece);
            var wanted = windows.PerMille(step, Live.ZoneOf(measured ? piece : there[0]), celsius);
            var by = (int)Math.Round(wanted / Scaled(live, piece));
            if (by == Unchanged || (!measured && by > Unchanged))
            {
                continue;
            }

            // The id follows from the reading: two instances that work it out write it once.
            yield return new LogEvent(
                LiveHearsay.IdOf($"{reading.Id}/{piece}").ToString(),
                "",
                0,
                "",
                0,
                live.Number,
                revision,
                reading.Who,
                LogKind.Rescaled
            )
            {
                Body = new LogBody
                {
                    Zones = [piece],
                    PerMille = by,
                    There = measured,
                    Because = reading.Id,
                },
            };
        }
    }

    /// <summary>What earlier readings made of the films on a piece since the oldest of them went on; 1 = nothing.</summary>
    private static double Scaled(LiveState live, string piece)
    {
        var since = live.Zones[piece].Lines.Values.SelectMany(l => l).Min(l => l.Start);
        return live
            .Facts.GetValueOrDefault(piece, [])
            .Where(f => f.Event.Kind == LogKind.Rescaled && f.When.At >= since && !live.Undone.ContainsKey(f.Id))
            .Select(f => (double)(f.Event.Body.There ? f.Event.Body.PerMille : Math.Min(Unchanged, f.Event.Body.PerMille)))
            .Aggregate(1d, (all, by) => all * by / Unchanged);
    }
}
