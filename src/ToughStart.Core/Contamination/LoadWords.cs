using ToughStart.Core.Provenance;

namespace ToughStart.Core.Contamination;

/// <summary>How much of a kind there is, in the words of the survey.</summary>
public static class LoadWords
{
    /// <summary>The grade whose load it is nearest to, by ratio; below half a trace it is less than one.</summary>
    /// <param name="load">0 or more.</param>
    public static string Of(double load) => Words[GradeOf(load)];

    private static readonly string[] Words = ["less than a trace", "a trace", "light", "heavy", "caked"];

    /// <summary>The grade whose load it is nearest to, by ratio: 0 below half a trace, 4 caked.</summary>
    /// <param name="load">0 or more.</param>
    public static int GradeOf(double load)
    {
        var c = Catalogue.Default;
        var (trace, light, heavy, caked) = (c["grade-1"], c["grade-2"], c["grade-3"], c["grade-4"]);
        return load < trace / 2 ? 0
            : load < Math.Sqrt(trace * light) ? 1
            : load < Math.Sqrt(light * heavy) ? 2
            : load < Math.Sqrt(heavy * caked) ? 3
            : 4;
    }

    /// <summary>How much less one is than the other, as people say it: "half as much", "a third less", "about the same".</summary>
    /// <param name="from">Greater than 0.</param>
    public static string Change(double from, double to, string less, string more)
    {
        var r = from <= 0 ? 1 : to / from;
        string Part(double part) =>
            part < .2 ? "a little"
            : part < .29 ? "by a quarter"
            : part < .42 ? "by a third"
            : part < .6 ? "by half"
            : part < .8 ? "by two thirds"
            : "almost wholly";
        return Math.Abs(r - 1) < .05 ? "about the same"
            : r < 1 ? $"{less} {Part(1 - r)}"
            : r < 1.8 ? $"{more} {Part(r - 1)}"
            : $"{more}, {r:0.#} times";
    }
}
