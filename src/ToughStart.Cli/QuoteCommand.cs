using System.CommandLine;
using System.Text;
using System.Text.Json;
using ToughStart.Core.Costing;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;

namespace ToughStart.Cli;

/// <summary>What a survey's plan costs, and how sure that is.</summary>
internal static class QuoteCommand
{
    public static Command Quote(Func<string, Checked<Survey>> read, Func<string, int> fail)
    {
        var file = new Argument<string>("file") { Description = "survey, toughstart.survey/1" };
        var rates = new Option<string?>("--rates") { Description = "JSON object of the shop's rates, those not said are the default's" };
        var turn = new Option<string[]>("--turn")
        {
            Description = "options that depart from the plan: clay, iron, tar, strip, wheels, protect, correct",
        };
        var json = new Option<bool>("--json") { Description = "print toughstart.quote/1" };
        var command = new Command("quote", "What the plan of a survey costs, what may be left out, where to stop and ask")
        {
            file,
            rates,
            turn,
            json,
        };
        command.SetAction(result =>
        {
            var (survey, at, wrong) = Read(read, result.GetValue(file)!, result.GetValue(rates));
            if (wrong is not null)
            {
                return fail(wrong);
            }

            var turned = result.GetValue(turn) ?? [];
            if (turned.FirstOrDefault(t => QuoteOption.Maybe(t) is null) is { } unknown)
            {
                return fail($"--turn: '{unknown}' is no option");
            }

            var plans = new Dictionary<string, Plan>();
            var quote = Core.Costing.Quote.Of(
                survey!,
                at!,
                turned,
                s =>
                {
                    var hash = SurveyFormat.Hash(s);
                    return plans.TryGetValue(hash, out var plan) ? plan : plans[hash] = Planner.Plan(s);
                },
                "client",
                (n, of) => Console.Error.Write($"\rworking the same jobs with and without: {n + 1} of {of} ")
            );
            Console.Error.WriteLine();
            Console.WriteLine(result.GetValue(json) ? Encoding.UTF8.GetString(QuoteFormat.Write(quote)) : Words(quote));
            return 0;
        });
        return command;
    }

    public static Command Range(Func<string, Checked<Survey>> read, Func<string, int> fail)
    {
        var file = new Argument<string>("file") { Description = "survey, toughstart.survey/1" };
        var rates = new Option<string?>("--rates") { Description = "JSON object of the shop's rates, those not said are the default's" };
        var command = new Command("price-range", "What one such job in ten stays under, half do and nine in ten do, as JSON")
        {
            file,
            rates,
        };
        command.SetAction(result =>
        {
            var (survey, at, wrong) = Read(read, result.GetValue(file)!, result.GetValue(rates));
            if (wrong is not null)
            {
                return fail(wrong);
            }

            Console.WriteLine(Encoding.UTF8.GetString(QuoteFormat.WriteRange(Planner.Plan(survey!).Worlds!, at!)));
            return 0;
        });
        return command;
    }

    private static (Survey? Survey, Rates? Rates, string? Wrong) Read(Func<string, Checked<Survey>> read, string file, string? rates)
    {
        var survey = read(file);
        if (survey.Value is not { } of)
        {
            return (null, null, string.Join('\n', survey.Problems));
        }

        if (IntakeHold.Check(of).Count > 0)
        {
            return (null, null, "nothing may start yet, so there is nothing to price");
        }

        if (rates is null)
        {
            return (of, Rates.Default, null);
        }

        try
        {
            using var document = JsonDocument.Parse(rates);
            var said = QuoteFormat.ReadRates(document.RootElement);
            return said.Value is { } ok ? (of, ok, null) : (null, null, string.Join('\n', said.Problems));
        }
        catch (JsonException e)
        {
            return (null, null, $"--rates is not JSON: position {e.BytePositionInLine + 1}");
        }
    }

    private static string Words(Core.Costing.Quote q)
    {
        var text = new StringBuilder();
        var of = q.Quoted;
        text.AppendLine(
            FormattableString.Invariant(
                $"{of.Price:0.##}, at most {of.AtMost:0.##}; {of.Net.Low:0} - {of.Net.Expected:0} - {of.Net.High:0} before tax"
            )
        );
        text.AppendLine(
            FormattableString.Invariant(
                $"{100 * of.LossChance:0} in 100 such jobs are worth more; {of.MeanLoss:0.0} a job over all of them"
            )
        );
        if (q.Hold is { } hold)
        {
            text.AppendLine(
                FormattableString.Invariant(
                    $"hold {hold.When}, {hold.Test}: little ({100 * hold.Little.Share:0} in 100) {hold.Little.Low:0} to {hold.Little.High:0}, much {hold.Much.Low:0} to {hold.Much.High:0}"
                )
            );
        }

        foreach (var o in q.Options)
        {
            var d = o.Effect.Difference;
            text.AppendLine(
                FormattableString.Invariant(
                    $"  {o.Stand.ToString().ToLowerInvariant(), -11} {(o.Effect.Option.Adds ? "with" : "without"), -7} {o.Effect.Option.Name, -36} {d.Expected, 6:0} ({d.Low:0} to {d.High:0})  {o.Effect.Stays}"
                )
            );
        }

        foreach (var n in q.NotIncluded)
        {
            text.AppendLine($"  not in it: {n.Why}");
        }

        return text.ToString().TrimEnd();
    }
}
