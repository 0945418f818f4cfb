namespace ToughStart.Core.Formats;

/// <summary>Where the vehicle comes from, and the intake holds that a named person has released.</summary>
internal static class HistoryPart
{
    /// <summary>A vehicle about which nothing is said.</summary>
    public static History Unsaid { get; } = new("none", false, null, null, []);

    private static readonly Part<Release> ReleasePart = new Part<Release>(v =>
        new(v.Get<string>("hold"), v.Get<string>("by"), v.Text("on"))
    )
        .Called("Release")
        .With("hold", Hold.OneOf(SurveyWords.Holds), r => r.Hold)
        .Formerly("gate")
        .With("by", Hold.Short(60), r => r.By)
        .Because("a release names who gave it, by id")
        .MayBe("on", Hold.Short(), r => r.On);

    // One field a line.
    // csharpier-ignore
    public static Part<History> Part { get; } = new Part<History>(v =>
            new(
                v.Get("flood", Unsaid.Flood),
                v.Get("nests", Unsaid.Nests),
                v.Number("monthsSinceWash"),
                v.Text("storage"),
                v.Get<IReadOnlyList<Release>>("releases", [])
            )
            {
                Use = v.Text("use"),
                Region = v.Text("region"),
                CoatedMonths = v.Number("coatedMonths"),
                BrakeDust = v.Text("brakeDust"),
                Biological = v.Get("biological", false),
            }
        )
        .Called("History")
        .Or("flood", Hold.OneOf(SurveyWords.Floods), h => h.Flood)
        .Or("nests", Hold.Flag, h => h.Nests)
        .May("monthsSinceWash", Hold.Number(0, 600, unit: "months"), h => h.MonthsSinceWash)
        .MayBe("storage", Hold.OneOf(SurveyWords.Storages), h => h.Storage)
        .MayBe("use", Hold.OneOf(SurveyWords.Uses), h => h.Use)
        .MayBe("region", Hold.OneOf(SurveyWords.Regions), h => h.Region)
        .May("coatedMonths", Hold.Number(0, 240, unit: "months"), h => h.CoatedMonths)
        .MayBe("brakeDust", Hold.OneOf(SurveyWords.BrakeDusts), h => h.BrakeDust)
        .If("biological", h => h.Biological)
        .Any("releases", Hold.ListOf(ReleasePart.One), h => h.Releases);
}
