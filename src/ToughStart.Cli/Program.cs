using System.CommandLine;
using System.Text;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;

namespace ToughStart.Cli;

/// <summary>The same engine from a terminal: documents in, documents out.</summary>
public static class Program
{
    public static int Main(string[] args)
    {
        Console.OutputEncoding = Encoding.UTF8;
        var root = new RootCommand("Tough Start: staged decontamination of neglected vehicles") { PlanCommand(), MixCommand(), DocsCommand() };
        return root.Parse(args).Invoke();
    }

    private static Command PlanCommand()
    {
        var file = new Argument<string>("file") { Description = "a toughstart.survey/1 document, or - for standard input" };
        var json = new Option<bool>("--json") { Description = "print toughstart.plan/1" };
        var command = new Command("plan", "Compute the plan of a survey") { file, json };
        command.SetAction(result =>
        {
            var name = result.GetValue(file)!;
            if (name != "-" && !File.Exists(name))
            {
                return Fail($"{name}: no such file");
            }

            using var input = name == "-" ? Console.OpenStandardInput() : File.OpenRead(name);
            using var bytes = new MemoryStream();
            input.CopyTo(bytes);
            var survey = SurveyFormat.Read(bytes.ToArray());
            if (!survey.Ok)
            {
                return Fail(string.Join('\n', survey.Problems));
            }

            var plan = Planner.Plan(survey.Value!);
            Console.WriteLine(result.GetValue(json) ? Encoding.UTF8.GetString(PlanFormat.Write(plan)) : PlanFormat.Text(plan));
            return 0;
        });
        return command;
    }

    private static Command MixCommand()
    {
        var strength = new Argument<string>("strength") { Description = "1:9, 10:1, 1 in 10, 2 %, 30 ml per l, 50 ml in 450 ml, neat" };
        var total = new Option<double>("--total") { Description = "ml to make", DefaultValueFactory = _ => 1000 };
        var capful = new Option<double?>("--capful") { Description = "ml in one capful of this bottle" };
        var draw = new Option<double?>("--lance") { Description = "draw ratio of the lance: what to put into its bottle for this strength on the panel" };
        var command = new Command("mix", "Amounts for a strength") { strength, total, capful, draw };
        command.SetAction(result =>
        {
            if (!Dilution.TryParse(result.GetValue(strength)!, result.GetValue(capful), out var reading, out var problem))
            {
                return Fail(problem!);
            }

            var ml = result.GetValue(total);
            if (!(ml > 0))
            {
                return Fail("--total: is greater than 0 ml");
            }

            var fraction = reading!.Fraction;
            if (result.GetValue(draw) is { } ratio)
            {
                if (ratio is not (> 0 and <= 1))
                {
                    return Fail("--lance: a draw ratio is greater than 0 and at most 1");
                }

                if (Dilution.BottleFor(fraction, ratio) is not { } bottle)
                {
                    Console.WriteLine($"not reachable: the richest this lance can put on the panel is {ratio * 100:0.##} % (neat in the bottle)");
                    return 0;
                }

                fraction = bottle;
                Console.WriteLine($"in the lance bottle {fraction} for {reading.Fraction} on the panel");
            }

            var mix = Dilution.ForTotal(fraction, ml);
            Console.WriteLine($"{reading.Means}: {mix.ProductMl:0.#} ml product + {mix.WaterMl:0.#} ml water = {mix.TotalMl:0.#} ml. Water first, product into water.");
            if (reading.OtherReading is { } other)
            {
                Console.WriteLine($"{reading.OtherMeans}: {other.Value * ml:0.#} ml product instead");
            }

            return 0;
        });
        return command;
    }

    private static Command DocsCommand()
    {
        var folder = new Argument<string>("folder") { Description = "the docs folder" };
        var command = new Command("docs", "Write the documents that are made from the code") { folder };
        command.SetAction(result =>
        {
            foreach (var (path, text) in Schemas.Documents())
            {
                var file = Path.Combine(result.GetValue(folder)!, path);
                Directory.CreateDirectory(Path.GetDirectoryName(file)!);
                File.WriteAllText(file, text);
            }

            return 0;
        });
        return command;
    }

    private static int Fail(string message)
    {
        Console.Error.WriteLine(message);
        return 1;
    }
}
