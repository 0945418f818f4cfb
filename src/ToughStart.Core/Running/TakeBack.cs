namespace ToughStart.Core.Running;

/// <summary>
/// What was entered by mistake is taken back by an entry of its own; nothing is ever wiped out of a log. It can be taken back as long as
/// nothing that counts was entered on its zones since, for that was done and judged on top of it.
/// </summary>
public static class TakeBack
{
    /// <summary>Which entries of a log count: those taken back do not, nor do the takings back.</summary>
    public static bool[] Counting(IReadOnlyList<Observation> log)
    {
        var counts = new bool[log.Count];
        for (var i = 0; i < log.Count; i++)
        {
            if (log[i].TakesBack is not { } id)
            {
                counts[i] = true;
            }
            else if (At(log, id, i) is { } at && counts[at] && Since(log, counts, at, i) is null)
            {
                counts[at] = false;
            }
        }

        return counts;
    }

    /// <summary>Why an entry cannot be taken back now; null = it can.</summary>
    public static string? Refused(IReadOnlyList<Observation> log, Guid id)
    {
        if (At(log, id, log.Count) is not { } at || log[at].TakesBack is not null)
        {
            return "is no entry of this job";
        }

        var counts = Counting(log);
        return !counts[at] ? "was taken back already"
            : Since(log, counts, at, log.Count) is { } later
                ? $"cannot be taken back: {later.StepKey} was entered on the same zones since; take that back first"
            : null;
    }

    private static int? At(IReadOnlyList<Observation> log, Guid id, int before)
    {
        for (var i = 0; i < before; i++)
        {
            if (log[i].Id == id)
            {
                return i;
            }
        }

        return null;
    }

    private static Observation? Since(IReadOnlyList<Observation> log, bool[] counts, int at, int before)
    {
        for (var i = at + 1; i < before; i++)
        {
            // What was entered together knew nothing of each other.
            if (counts[i] && log[i].Batch != log[at].Batch && log[i].Zones.Intersect(log[at].Zones).Any())
            {
                return log[i];
            }
        }

        return null;
    }
}
