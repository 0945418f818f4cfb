using System.Text.Json.Nodes;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;

namespace ToughStart.Core.Tests;

/// <summary>The command line gives the same documents as the engine.</summary>
[Collection("console")]
public class CliTests
{
    private static readonly string Demo = Path.Combine(Repository.Root, "demo");

    [Fact]
    public void Plan_prints_text_or_the_document()
    {
        var file = Path.Combine(Demo, "estuary-pickup.json");
        var (code, text, _) = Run("plan", file);
        code.ShouldBe(0);
        text.ShouldContain("hands-on");
        text.ShouldContain("Refused");
        var (_, json, _) = Run("plan", file, "--json");
        JsonNode.Parse(json)!["surveyHash"]!.GetValue<string>().ShouldBe(SurveyFormat.Hash(Repository.Demo("estuary-pickup")));
        json.Trim().ShouldBe(System.Text.Encoding.UTF8.GetString(PlanFormat.Write(Planner.Plan(Repository.Demo("estuary-pickup")))));
    }

    [Fact]
    public void A_refer_only_job_prints_why()
    {
        var (code, text, _) = Run("plan", Path.Combine(Demo, "flooded-saloon.json"));
        code.ShouldBe(0);
        text.ShouldContain("REFER ONLY");
        text.ShouldContain("hygiene contractor");
    }

    [Fact]
    public void Bad_files_are_answered_with_words_and_a_code()
    {
        var (code, _, error) = Run("plan", "/nowhere/at-all.json");
        code.ShouldBe(1);
        error.ShouldContain("no such file");
        var bad = Path.GetTempFileName();
        File.WriteAllText(bad, """{ "format": "toughstart.survey/1", "vehicle": { "form": "boat" }, "goal": "wash" }""");
        var (code2, _, error2) = Run("plan", bad);
        code2.ShouldBe(1);
        error2.ShouldContain("vehicle.form");
        error2.ShouldContain("saloon");
        File.Delete(bad);
    }

    [Theory]
    [InlineData("1:9", "100 ml product + 900 ml water")]
    [InlineData("2 %", "20 ml product + 980 ml water")]
    public void Mix_says_what_to_pour(string strength, string words) => Run("mix", strength).Output.ShouldContain(words);

    [Fact]
    public void Mix_through_a_lance_says_what_goes_into_its_bottle_or_that_it_cannot()
    {
        Run("mix", "2 %", "--lance", "0.1").Output.ShouldContain("1:4");
        Run("mix", "20 %", "--lance", "0.1").Output.ShouldContain("not reachable");
        Run("mix", "nonsense").Error.ShouldContain("is not a strength");
    }

    private static (int Code, string Output, string Error) Run(params string[] args)
    {
        var (output, error) = (Console.Out, Console.Error);
        using var o = new StringWriter();
        using var e = new StringWriter();
        Console.SetOut(o);
        Console.SetError(e);
        try
        {
            return (ToughStart.Cli.Program.Main(args), o.ToString(), e.ToString());
        }
        finally
        {
            Console.SetOut(output);
            Console.SetError(error);
        }
    }
}

[CollectionDefinition("console", DisableParallelization = true)]
public class ConsoleCollection;
