using System.Reflection;
using System.Text.RegularExpressions;
using NetArchTest.Rules;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Tests;

/// <summary>Arrows point one way: Web and Cli to Data and Core, Data to Core, Core to nothing of ours.</summary>
public class ArchitectureTests
{
    private static readonly Assembly Core = typeof(Planner).Assembly;

    [Fact]
    public void The_checker_of_timelines_knows_nothing_of_ours_and_scheduling_only_the_core()
    {
        static string[] Ours(Type of) =>
            [
                .. of
                    .Assembly.GetReferencedAssemblies()
                    .Select(a => a.Name!)
                    .Where(n => n.StartsWith("ToughStart", StringComparison.Ordinal)),
            ];
        Ours(typeof(Scheduling.Check.TimelineCheck)).ShouldBeEmpty();
        Ours(typeof(Scheduling.Greedy)).ShouldBe(["ToughStart.Core"]);
    }

    [Fact]
    public void Core_knows_no_web_no_database_and_no_clock()
    {
        string[] forbidden =
        [
            "Microsoft.AspNetCore",
            "Microsoft.EntityFrameworkCore",
            "Npgsql",
            "ToughStart.Data",
            "ToughStart.Web",
            "ToughStart.Cli",
            "System.Net.Http",
        ];
        var result = Types.InAssembly(Core).ShouldNot().HaveDependencyOnAny(forbidden).GetResult();
        result.IsSuccessful.ShouldBeTrue(string.Join(", ", result.FailingTypeNames ?? []));
        Core.GetReferencedAssemblies()
            .Select(a => a.Name!)
            .ShouldAllBe(
                n => n.StartsWith("System", StringComparison.Ordinal) || n == "netstandard" || n == "MathNet.Numerics" || n == "NodaTime",
                "numbers and the calendar only"
            );
    }

    [Fact]
    public void Core_neither_reads_the_clock_nor_draws_its_own_randomness()
    {
        var result = Types
            .InAssembly(Core)
            .ShouldNot()
            .HaveDependencyOnAny(
                "System.Random",
                "System.TimeProvider",
                "System.Diagnostics.Stopwatch",
                "NodaTime.IClock",
                "NodaTime.SystemClock"
            )
            .GetResult();
        result.IsSuccessful.ShouldBeTrue(string.Join(", ", result.FailingTypeNames ?? []));
        var source = Directory
            .GetFiles(Path.Combine(Repository.Root, "src", "ToughStart.Core"), "*.cs", SearchOption.AllDirectories)
            .Where(f => !f.Contains("/obj/", StringComparison.Ordinal));
        source
            .Where(f =>
                File.ReadAllText(f) is var text
                && (
                    text.Contains("DateTime.Now", StringComparison.Ordinal)
                    || text.Contains("UtcNow", StringComparison.Ordinal)
                    || text.Contains("NewGuid", StringComparison.Ordinal)
                )
            )
            .ShouldBeEmpty();
    }

    [Fact]
    public void Every_figure_that_the_code_asks_the_catalogue_for_is_there_and_every_figure_there_is_asked_for()
    {
        var there = Catalogue.Default.Tables.Single(t => t.Id == "constants").Rows.Select(r => r["id"]).ToHashSet();
        var sources = Directory
            .GetFiles(Path.Combine(Repository.Root, "src"), "*.cs*", SearchOption.AllDirectories)
            .Where(f => Path.GetExtension(f) is ".cs" or ".cshtml" && !f.Contains("/obj/", StringComparison.Ordinal))
            .Select(File.ReadAllText)
            .ToArray();
        var asked = sources
            .SelectMany(s => Regex.Matches(s, """\b(?:c|_c|[Cc]atalogue|Catalogue\.Default)\["([a-z0-9-]+)"\]"""))
            .ToHashSet();
        asked.Select(m => m.Groups[1].Value).Except(there).ShouldBeEmpty();
        asked.Count.ShouldBeGreaterThan(50);
        // A few are put together from a word of the survey: grade-3, age-days.
        bool Asked(string id) =>
            sources.Any(s =>
                s.Contains($"\"{id}\"", StringComparison.Ordinal) || s.Contains($"\"{id.Split('-')[0]}-\" +", StringComparison.Ordinal)
            );
        there.Where(id => !Asked(id)).ShouldBeEmpty();
    }

    [Fact]
    public void There_is_one_clock_and_it_is_handed_in()
    {
        // Only the program's start names the system's clock; only the tests' own clock counts on from it.
        string[] may =
        [
            Path.Combine("src", "ToughStart.Web", "Program.cs"),
            Path.Combine("tests", "ToughStart.Core.Tests", "ArchitectureTests.cs"),
        ];
        string[] clocks =
        [
            "DateTime.Now",
            "DateTime.UtcNow",
            "DateTime.Today",
            "DateTimeOffset.Now",
            "DateTimeOffset.UtcNow",
            "TimeProvider.System",
        ];
        var found = new[] { "src", "tests", "bench" }
            .SelectMany(d => Directory.GetFiles(Path.Combine(Repository.Root, d), "*.cs", SearchOption.AllDirectories))
            .Where(f => !f.Contains("/obj/", StringComparison.Ordinal) && !may.Any(m => f.EndsWith(m, StringComparison.Ordinal)))
            .Where(f => File.ReadAllText(f) is var text && clocks.Any(c => text.Contains(c, StringComparison.Ordinal)))
            .ToArray();
        found.ShouldBeEmpty();
    }

    [Fact]
    public void Data_does_not_know_the_web()
    {
        var data = typeof(ToughStart.Data.JobStore).Assembly;
        Types
            .InAssembly(data)
            .ShouldNot()
            .HaveDependencyOnAny("ToughStart.Web", "ToughStart.Cli", "Microsoft.AspNetCore.Mvc")
            .GetResult()
            .IsSuccessful.ShouldBeTrue();
    }

    [Fact]
    public void The_command_line_needs_no_database()
    {
        typeof(ToughStart.Cli.Program).Assembly.GetReferencedAssemblies().Select(a => a.Name).ShouldNotContain("ToughStart.Data");
    }
}
