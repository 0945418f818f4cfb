using System.CommandLine;
using System.Globalization;
using System.Text;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Vehicles;
using ToughStart.Scheduling;

namespace ToughStart.Cli;

/// <summary>A plan laid out in time for a crew: who does what when, and what is saved by working while films wait.</summary>
internal static class TimelineCommand
{
    /// <summary>More than this nobody puts round one vehicle.</summary>
    private const int MostPeople = 6;

    public static Command Make(Func<string, Checked<Survey>> read, Func<string, int> fail)
    {
        var file = new Argument<string>("file") { Description = "survey, toughstart.survey/1" };
        var people = new Option<int>("--people") { Description = "1 to 6", DefaultValueFactory = _ => 1 };
        var washers = new Option<int>("--washers") { Description = "pressure washers, 1 or more", DefaultValueFactory = _ => 1 };
        var json = new Option<bool>("--json") { Description = "print toughstart.timeline/1" };
        var command = new Command("timeline", "Lay the plan of a survey out in time for a crew") { file, people, washers, json };
        command.SetAction(result =>
        {
            var (crew, lances) = (result.GetValue(people), result.GetValue(washers));
            if (crew is < 1 or > MostPeople)
            {
                return fail($"--people: {crew}; 1 to {MostPeople}");
            }

            if (lances is < 1 or > MostPeople)
            {
                return fail($"--washers: {lances}; 1 to {MostPeople}");
            }

            var survey = read(result.GetValue(file)!);
            if (survey.Value is not { } of)
            {
                return fail(string.Join('\n', survey.Problems));
            }

            var plan = Planner.Plan(of);
            if (plan.ReferOnly)
            {
                return fail("nothing may start here: " + string.Join(" ", plan.Refer.Select(r => r.Reason)));
            }

            try
            {
                Person[] named = [.. Enumerable.Range(1, crew).Select(p => new Person($"p{p}", [], [], []))];
                var vehicle = Forms.Build(of.Vehicle.Form, of.Vehicle.Size);
                var layout = Layout.Of(plan, vehicle, named, new Machines(lances, 1));
                var (i, s) = (layout.Instance, layout.Schedule);
                Console.WriteLine(result.GetValue(json) ? Encoding.UTF8.GetString(TimelineFormat.Write(i, s)) : Words(plan, i, s));
                return 0;
            }
            catch (CannotScheduleException e)
            {
                return fail(e.Message);
            }
        });
        return command;
    }

    private static string Words(Plan plan, Instance i, Schedule s)
    {
        var tasks = i.Tasks.ToDictionary(t => t.Key);
        var text = new StringBuilder();
        foreach (var p in s.Tasks)
        {
            var t = tasks[p.Key];
            var what = TaskWords.Of(plan, t);
            text.AppendLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"{Clock(p.Start), 6} to {Clock(p.End), 6}  {p.Who}  {what}{(t.Zones.Count > 0 ? $", {ZoneWords.Of(t.Zones, 60)}" : "")}"
                )
            );
        }

        text.AppendLine()
            .Append(
                CultureInfo.InvariantCulture,
                $"Done after {Clock(s.Finish)} h:min, walking included; one after another and waiting beside every film {Clock(i.AddingUp)}. "
            )
            .Append(
                CultureInfo.InvariantCulture,
                $"{string.Join(", ", s.Loads.OrderBy(l => l.Key, StringComparer.Ordinal).Select(l => $"{l.Key} works {l.Value / 60} min"))}."
            )
            .AppendLine()
            .Append("What the tests may add is not in it.");
        return text.ToString();
    }

    private static string Clock(int seconds) => string.Create(CultureInfo.InvariantCulture, $"{seconds / 3600}:{seconds % 3600 / 60:00}");
}
