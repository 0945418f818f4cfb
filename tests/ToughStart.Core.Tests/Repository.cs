using System.Text;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;

namespace ToughStart.Core.Tests;

internal static class Repository
{
    public static string Root { get; } = Find();

    /// <summary>A demo survey, read as users' files are.</summary>
    /// <summary>The surveys of the demo shop.</summary>
    public static IEnumerable<string> DemoNames =>
        Directory
            .EnumerateFiles(Path.Combine(Root, "demo"), "*.json")
            .Select(f => Path.GetFileNameWithoutExtension(f))
            .Where(n => n is not ("kit" or "yard"))
            .Order(StringComparer.Ordinal);

    public static Survey Demo(string name)
    {
        var read = SurveyFormat.Read(File.ReadAllBytes(Path.Combine(Root, "demo", name + ".json")));
        read.Problems.ShouldBeEmpty();
        return read.Value!;
    }

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
