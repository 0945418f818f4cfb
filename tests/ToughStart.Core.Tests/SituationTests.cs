using System.Text;
using System.Text.Json;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Tests;

/// <summary>
/// Forty worked situations with what the trade would insist on. They were written from the rules of the trade and committed before the
/// planner had been run on them; whoever changes an assertion argues it in the commit.
/// </summary>
public class SituationTests
{
    private static readonly Dictionary<string, JsonElement> All = JsonDocument
        .Parse(File.ReadAllText(Path.Combine(Repository.Root, "tests", "ToughStart.Core.Tests", "Data", "situations.json")))
        .RootElement.EnumerateArray()
        .ToDictionary(e => e.GetProperty("id").GetString()!, e => e.Clone());

    public static TheoryData<string> Ids => [.. All.Keys];

    [Theory]
    [MemberData(nameof(Ids))]
    public void The_trade_would_agree(string id)
    {
        var situation = All[id];
        var read = SurveyFormat.Read(Encoding.UTF8.GetBytes(situation.GetProperty("survey").GetRawText()));
        read.Ok.ShouldBeTrue(string.Join("; ", read.Problems));
        var plan = Repository.Plan(read.Value!);
        foreach (var e in situation.GetProperty("expect").EnumerateArray())
        {
            Holds(plan, e)
                .ShouldBeTrue(
                    $"{situation.GetProperty("why").GetString()} Not so: {e.GetRawText()}\n{string.Join('\n', plan.Steps.Where(s => s.Zones.Any(z => Fits(z, Text(e, "zone") ?? "*"))).Select(s => $"  {s.Stage} {s.Treatment} ×{s.Rounds} on {string.Join(", ", s.Zones.Where(z => Fits(z, Text(e, "zone") ?? "*")).Take(4))}"))}\n  refused: {string.Join(" | ", plan.Refused.Select(r => $"{r.Treatment}: {r.Reason}").Take(12))}\n  refer: {string.Join(" | ", plan.Refer.Select(r => $"{r.What} {string.Join(',', r.Zones.Take(3))}"))}\n  tests: {string.Join(", ", plan.Tests.Select(t => t.Test))}\n  warnings: {string.Join(" | ", plan.Warnings)}"
                );
        }
    }

    [Fact]
    public void There_are_forty_and_each_says_why_and_insists_on_something()
    {
        All.Count.ShouldBe(40);
        All.Values.ShouldAllBe(s => s.GetProperty("why").GetString()!.Length > 20 && s.GetProperty("expect").GetArrayLength() > 0);
    }

    private static bool Holds(Plan plan, JsonElement e)
    {
        var says = Text(e, "says") ?? "";
        bool Says(string words) => words.Contains(says, StringComparison.OrdinalIgnoreCase);
        var zone = Text(e, "zone");
        var matching = plan.Steps.Where(s => s.Zones.Any(z => Fits(z, zone ?? "*")) && Is(s, e)).ToArray();
        return Text(e, "kind") switch
        {
            "never" => matching.Length == 0,
            "some" => matching.Length > 0,
            "order" => plan.StepsOn(zone!).Select(s => s.Stage.Word).Where(Stages(e).Contains).Distinct().SequenceEqual(Stages(e)),
            "before" => Before(plan.StepsOn(zone!).ToArray(), e.GetProperty("first"), e.GetProperty("then")),
            "between" => Between(plan.StepsOn(zone!).ToArray(), e.GetProperty("first"), e.GetProperty("then")),
            "washedAfter" => plan.StepsOn(zone!).ToArray() is var own
                && Array.FindLastIndex(own, s => Is(s, e.GetProperty("first"))) is >= 0 and var last
                && own.Skip(last + 1).Any(s => s.Agent is "neutral-shampoo" or "strip-shampoo" or "rinseless"),
            "refer" => plan.Refer.Any(r => r.What == Text(e, "what") && (zone is null || r.Zones.Contains(zone))),
            "refused" => plan.Refused.Any(r =>
                Says(r.Reason)
                && (Text(e, "agent") is not { } agent || Catalogue.Default.Treatment(r.Treatment).Agent.Id == agent)
                && (zone is null || r.Zones.Contains(zone))
            ),
            "skipped" => plan.Skipped.Any(s =>
                s.Stage.Word == Text(e, "stage") && Says(s.Reason) && (zone is null || s.Zones.Contains(zone))
            ),
            "asks" => plan.Tests.Any(t => t.Test == Text(e, "test")),
            "warns" => plan.Warnings.Any(Says),
            "caution" => matching.Length == 0 || matching.Any(s => s.Cautions.Any(Says)),
            "kit" => matching.Length == 0 || matching.All(s => s.Kit.Contains(Text(e, "has")!)),
            "rounds" => plan
                .Steps.SelectMany(s => s.Zones)
                .Distinct()
                .All(z => plan.StepsOn(z).Where(s => Is(s, e)).Sum(s => s.Rounds) <= e.GetProperty("atMost").GetInt32()),
            "unverified" => plan.Unverified.Any(z => Fits(z, zone!)),
            "noSteps" => plan.Steps.Count == 0,
            "neverTool" => !plan.Steps.Any(s => s.Zones.Any(z => Fits(z, zone!)) && Says(s.Tool)),
            var kind => throw new InvalidOperationException($"'{kind}' is no expectation"),
        };
    }

    private static string[] Stages(JsonElement e) => [.. e.GetProperty("stages").EnumerateArray().Select(s => s.GetString()!)];

    /// <summary>The first comes before the other wherever both are; where only the other is, it fails.</summary>
    private static bool Before(Step[] steps, JsonElement first, JsonElement then)
    {
        var at = Array.FindIndex(steps, s => Is(s, then));
        return at < 0 || steps.Take(at).Any(s => Is(s, first));
    }

    private static bool Between(Step[] steps, JsonElement first, JsonElement then)
    {
        var from = Array.FindLastIndex(steps, s => Is(s, first));
        var to = Array.FindIndex(steps, s => Is(s, then));
        return from < 0
            || to < 0
            || (
                from < to
                    ? steps.Skip(from + 1).Take(to - from - 1).Any(s => s.Agent == "water")
                    : steps.Skip(to + 1).Take(from - to - 1).Any(s => s.Agent == "water")
            );
    }

    private static bool Is(Step s, JsonElement e) =>
        (Text(e, "stage") is not { } stage || s.Stage.Word == stage)
        && (Text(e, "agent") is not { } agent || s.Agent == agent)
        && (Text(e, "treatment") is not { } treatment || s.Treatment == treatment)
        && (Text(e, "tool") is not { } tool || s.Tool.Contains(tool, StringComparison.Ordinal))
        && (
            !e.TryGetProperty("contact", out _)
            || Catalogue.Default.Treatments.FirstOrDefault(t => t.Id == s.Treatment) is { Contact: not Contact.None }
        );

    private static bool Fits(string zone, string pattern) => System.IO.Enumeration.FileSystemName.MatchesSimpleExpression(pattern, zone);

    private static string? Text(JsonElement e, string name) =>
        e.TryGetProperty(name, out var v) && v.ValueKind == JsonValueKind.String ? v.GetString() : null;
}
