using System.Collections.Concurrent;
using System.Text;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;

namespace ToughStart.Core.Tests;

internal static class Repository
{
    public static string Root { get; } = Find();

    private static readonly ConcurrentDictionary<string, Lazy<Survey>> Demos = new();
    private static readonly ConcurrentDictionary<Survey, Lazy<Plan>> Plans = new();

    /// <summary>The surveys of the demo shop.</summary>
    public static IEnumerable<string> DemoNames =>
        Directory
            .EnumerateFiles(Path.Combine(Root, "demo"), "*.json")
            .Select(f => Path.GetFileNameWithoutExtension(f))
            .Where(n => n is not ("kit" or "yard"))
            .Order(StringComparer.Ordinal);

    /// <summary>A demo survey, read as users' files are, once: the same object every time.</summary>
    public static Survey Demo(string name) =>
        Demos
            .GetOrAdd(name, n => new(() =>
                {
                    var read = SurveyFormat.Read(File.ReadAllBytes(Path.Combine(Root, "demo", n + ".json")));
                    read.Problems.ShouldBeEmpty();
                    return read.Value!;
                }))
            .Value;

    /// <summary>
    /// The plan of a survey: of a demo's, or of one made from it, it is made once for all tests (that planning twice gives the same
    /// bytes has tests of its own).
    /// </summary>
    public static Plan Plan(Survey survey) =>
        Demos.Values.Any(d => d.IsValueCreated && ReferenceEquals(d.Value.Zones, survey.Zones))
            ? Plans.GetOrAdd(survey, s => new(() => Planner.Plan(s))).Value
            : Planner.Plan(survey);

    public static Survey Survey(string json)
    {
        var read = SurveyFormat.Read(Encoding.UTF8.GetBytes(json));
        read.Problems.ShouldBeEmpty();
        return read.Value!;
    }

    public static Checked<Survey> Read(string json) => SurveyFormat.Read(Encoding.UTF8.GetBytes(json));

    /// <summary>A saloon survey with the given zone entries.</summary>
    public static Survey Saloon(string zones, string goal = "protect", string more = "") =>
        Survey(
            $$"""{ "format": "toughstart.survey/1", "vehicle": { "form": "saloon", "softness": "medium" }, "goal": "{{goal}}", {{more}} "zones": [ {{zones}} ] }"""
        );

    private static string Find()
    {
        for (var dir = new DirectoryInfo(AppContext.BaseDirectory); dir is not null; dir = dir.Parent)
        {
            if (File.Exists(Path.Combine(dir.FullName, "ToughStart.slnx")))
            {
                return dir.FullName;
            }
        }

        throw new DirectoryNotFoundException("the repository is not above the tests");
    }
}
