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
    public void Plans_are_compared_and_flips_listed_at_the_terminal()
    {
        var file = Path.Combine(Demo, "estuary-pickup.json");
        var (code, text, _) = Run("compare", file, "--house", "tarIron=iron-first");
        code.ShouldBe(0);
        text.ShouldContain("iron, then tar");
        JsonNode.Parse(Run("compare", file, "--lean", "faster", "--json").Output)!["format"]!
            .GetValue<string>()
            .ShouldBe("toughstart.compare/1");
        Run("compare", file, Path.Combine(Demo, "barn-saloon.json")).Code.ShouldBe(0);
        Run("compare", file, "--lean", "prettier").Error.ShouldContain("gentler");
        var kept = Run("compare", file, "--without", "iron", "clay-pad-fine", "--shelf-only");
        kept.Code.ShouldBe(0);
        kept.Output.ShouldContain("refused: Iron", Case.Insensitive);
        Run("compare", file, "--without", "polish").Error.ShouldContain("declines[0].treatment");
        Run("compare", file).Error.ShouldContain("what is changed");
        Run("flips", file).Output.ShouldContain("instead of");
        Run("flips", "/nowhere/at-all.json").Error.ShouldContain("no such file");
    }

    [Fact]
    public void Plan_prints_text_or_the_document()
    {
        var file = Path.Combine(Demo, "estuary-pickup.json");
        var (code, text, _) = Run("plan", file);
        code.ShouldBe(0);
        text.ShouldContain("hands-on");
        text.ShouldContain("Refused");
        text.ShouldContain("ml neat, on the cloth");
        text.ShouldContain("22 ml product, water to 10 l, in the bucket (1:450)");
        text.ShouldNotContain(" 0 ml water");
        var (_, json, _) = Run("plan", file, "--json");
        JsonNode.Parse(json)!["surveyHash"]!.GetValue<string>().ShouldBe(SurveyFormat.Hash(Repository.Demo("estuary-pickup")));
        json.Trim().ShouldBe(System.Text.Encoding.UTF8.GetString(PlanFormat.Write(Repository.Plan(Repository.Demo("estuary-pickup")))));
    }

    [Fact]
    public void A_plan_is_laid_out_in_time_for_a_crew()
    {
        var file = Path.Combine(Demo, "touring-saloon.json");
        var (code, text, _) = Run("timeline", file, "--people", "2");
        code.ShouldBe(0);
        text.ShouldContain("Done after 1:");
        text.ShouldContain("p2 works");
        var (_, json, _) = Run("timeline", file, "--people", "2", "--json");
        Scheduling.Check.TimelineCheck.Check(System.Text.Encoding.UTF8.GetBytes(json)).ShouldBeEmpty();
        Run("timeline", file, "--people", "9").Error.ShouldContain("--people: 9; 1 to 6");
        Run("timeline", file, "--washers", "0").Error.ShouldContain("--washers: 0");
        Run("timeline", Path.Combine(Demo, "flooded-saloon.json")).Error.ShouldContain("nothing may start");
        Run("timeline", "/nowhere/at-all.json").Error.ShouldContain("no such file");
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
        Run("mix", "20 %", "--lance", "0.1").Error.ShouldContain("not reachable");
        Run("mix", "nonsense").Error.ShouldContain("is not a strength");
    }

    [Theory]
    [InlineData("mix 1:15 --rest 300 --rest-strength 1:5 --container 1000", 0, "add 500 ml water")]
    [InlineData("mix 1:15 --rest 300 --rest-strength unknown", 1, "none")]
    [InlineData("mix --product 50 --water 450", 0, "50 ml product")]
    [InlineData("mix 1:9 --total -5", 1, "totalMl")]
    [InlineData("lance --ml 1000 --seconds 100 --flow 7.5", 0, "0.074")]
    [InlineData("lance --panel 30% --flow 7.5", 0, "richest possible")]
    [InlineData("nozzle --size 2 --psi 2000 --angle 25", 0, "split or flaking lacquer: never")]
    [InlineData("nozzle --size 2", 1, "pressure")]
    [InlineData("ph 13.2 1:9", 0, "12.2")]
    [InlineData("hardness 17 --unit dh", 0, "very hard")]
    [InlineData("hardness 17 --unit dx", 1, "mg-l")]
    [InlineData(
        "window --air 20 --humidity 50 --wind 2 --cloud 0 --lat 53 --lon 0 --at 2026-06-21T12:00Z --sun --colour #a3262a",
        0,
        "2½ min"
    )]
    [InlineData("window --air 20", 1, "humidityPct")]
    [InlineData("window --air 20 --humidity 50 --wind 2 --dwell 60", 0, "at once can dwell 60 s")]
    [InlineData("window --air 38 --humidity 15 --wind 8 --carrier mist --dwell 900", 0, "not one panel")]
    [InlineData("window --air 20 --humidity 50 --dwell 0", 1, "dwellSeconds")]
    [InlineData("window --air 20 --humidity 50 --sun", 1, "at:")]
    [InlineData("compatibility wheel-acid --on chrome", 0, "never on chrome")]
    [InlineData("compatibility wheel-acid --after iron-remover", 0, "hydrogen sulphide")]
    public void Calculators_answer_on_the_command_line(string words, int code, string says)
    {
        var run = Run(words.Split(' '));
        run.Code.ShouldBe(code, run.Error);
        (run.Output + run.Error).ShouldContain(says);
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
