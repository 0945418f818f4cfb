using System.Globalization;
using System.Text;
using System.Text.Json;
using Microsoft.AspNetCore.Mvc;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Data;
using ToughStart.Scheduling;
using ToughStart.Web.Drawing;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Stations;

/// <summary>Who does what when: the plan laid out for the people who are there, moved by hand where somebody knows better.</summary>
public sealed class TimelineModel(JobDesk desk, TimelineDesk timelines, CrewStore crew, QuoteStore store) : JobPage(desk)
{
    public override string Station => "timeline";

    public TimelineView View { get; private set; } = null!;

    public IReadOnlyList<StaffUser> Workers { get; private set; } = [];

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public string? Says { get; private set; }

    /// <summary>Films that will be late, each with who is nearest.</summary>
    public IEnumerable<string> LateWords => TimelineDesk.LateOf(View, Plan).Select(l => l.Words);

    /// <summary>Orders tried of what is left, where nobody waits for a hand's move.</summary>
    private const int Tries = 12;

    public string Drawing => TimelineDrawing.Svg(View, Plan);

    /// <summary>What the page's script moves along: tasks with their words, films with their zones.</summary>
    public string Data
    {
        get
        {
            var layout = View.Layout!;
            var tasks = layout.Instance.Tasks.ToDictionary(t => t.Key);
            var at = layout.Schedule.Tasks.ToDictionary(p => p.Key);
            return JsonSerializer.Serialize(
                new
                {
                    begin = View.Doc.Start,
                    finish = layout.Schedule.Finish,
                    revision = View.Revision,
                    pinned = tasks.Values.Where(t => t.Pinned is not null).Select(t => t.Key),
                    people = View.Doc.People.Select(p => new { id = p.Id, name = View.Names[p.Id] }),
                    tasks = layout
                        .Schedule.Tasks.Where(p => !layout.Instance.Begun.ContainsKey(p.Key))
                        .Select(p => new
                        {
                            key = p.Key,
                            who = p.Who,
                            from = p.Start,
                            to = p.End,
                            says = TaskWords.Of(Plan, tasks[p.Key]),
                            where = TimelineDrawing.ZoneLine(tasks[p.Key]),
                        }),
                    films = layout.Instance.Cycles.Select(c => new
                    {
                        from = at[c.On].Start,
                        to = at[c.Off].End,
                        latest = at[c.On].Start + c.MaxAt(at[c.On].Start),
                        says = Plan.Steps.FirstOrDefault(s => s.Key == tasks[c.On].Step)?.AgentName ?? "",
                        where = TimelineDrawing.ZoneLine(tasks[c.On]),
                        zones = tasks[c.On].Zones,
                    }),
                }
            );
        }
    }

    public async Task<IActionResult> OnGetAsync(int number, CancellationToken stop) => await LoadedAsync(number, stop) ?? Page();

    /// <summary>What another person would change, or a house rule costs; worked out when somebody asks.</summary>
    public async Task<IActionResult> OnGetAskAsync(int number, string? what, CancellationToken stop)
    {
        if (await LoadedAsync(number, stop, atOnce: true) is { } none)
        {
            return none;
        }

        if (View.Layout is not { } layout)
        {
            return NotFound();
        }

        var now = layout.Schedule.Finish;
        if (what == "another" && View.Doc.People.Count < TimelineDesk.MostPeople)
        {
            var next = Enumerable
                .Range(1, TimelineDesk.MostPeople)
                .Select(n => $"helper-{n}")
                .First(h => View.Doc.People.All(p => p.Id != h));
            var doc = View.Doc with
            {
                People = [.. View.Doc.People, new(next, View.Doc.Start, View.Doc.People.Max(p => p.To))],
                Pins = new Dictionary<string, int>(),
                Cut = null,
            };
            var then = await timelines.HereAsync(Job, Run, Tries, false, stop, doc)
                ?? await timelines.OfAsync(Job, Plan, doc, View.Revision, stop);
            return Content(
                then.Layout is { } more
                    ? $"With one more: done at {then.Clock(more.Schedule.Finish)}, {JobPage.Hours(Math.Max(0, now - more.Schedule.Finish) / 60.0)} sooner; {Hands(more)} hands-on in all."
                    : then.Why ?? "",
                "text/plain",
                Encoding.UTF8
            );
        }

        if (what == "wheels")
        {
            var first = Equipped.Rule("wheels") == "first";
            var other = Equipped with
            {
                House = new Dictionary<string, string>(Equipped.House) { ["wheels"] = first ? "during-foam" : "first" },
            };
            if (StageGraph.Contradiction(other) is { } contradiction)
            {
                return Content(contradiction, "text/plain", Encoding.UTF8);
            }

            var plan = Workshop.Plan(other, stop);
            var then = await timelines.OfAsync(
                Job,
                plan,
                View.Doc with
                {
                    Pins = new Dictionary<string, int>(),
                    Cut = null,
                },
                View.Revision,
                stop
            );
            var by = then.Layout is { } l ? (l.Schedule.Finish - now) / 60.0 : 0;
            var rule = first ? "in the foam" : "first";
            return Content(
                then.Layout is null ? then.Why ?? ""
                    : Math.Abs(by) < 1 ? $"With wheels {rule} it would end at the same time."
                    : $"With wheels {rule} it would end at {then.Clock(then.Layout.Schedule.Finish)}, {JobPage.Hours(Math.Abs(by))} {(by < 0 ? "sooner" : "later")}.",
                "text/plain",
                Encoding.UTF8
            );
        }

        return NotFound();
    }

    private static string Hands(Layout layout) => JobPage.Hours(layout.Schedule.Loads.Values.Sum() / 60.0);

    /// <summary>Sets a task to a moment, or lets it go: answered at once, in the order that stood.</summary>
    /// <param name="at">Seconds from the start; null = let it go.</param>
    public async Task<IActionResult> OnPostMoveAsync(int number, string? key, int? at, int seen, CancellationToken stop)
    {
        if (await LoadedAsync(number, stop, atOnce: true) is { } none)
        {
            return none;
        }

        if (!MayEdit)
        {
            return Forbid();
        }

        var before = View;
        if (before.Layout is null || before.Layout.Instance.Tasks.All(t => t.Key != key))
        {
            return Refuse(422, new Problem("key", "is no task of this plan"));
        }

        if (at is < 0 or > 3 * 86_400)
        {
            return Refuse(422, new Problem("at", "is 0 to 259 200 seconds from the start"));
        }

        if (before.SoFar is { } soFar && at < soFar.Now)
        {
            return Refuse(422, new Problem("at", $"is past: it is {before.Clock(soFar.Now)}"));
        }

        var pins = before.Doc.Pins.Where(p => before.Layout.Instance.Tasks.Any(t => t.Key == p.Key)).ToDictionary();
        if (at is { } moment)
        {
            pins[key!] = moment;
        }
        else
        {
            pins.Remove(key!);
        }

        var doc = before.Doc with { Pins = pins, Cut = pins.Count == 0 ? null : before.Layout.Grouping.ToString() };
        var then = await timelines.AtOnceAsync(Job, Plan, before, doc, stop);
        if (then.Layout is null)
        {
            return Refuse(409, new Problem("at", $"It cannot begin then. {then.Why}"));
        }

        if (!await timelines.KeepAsync(Job, seen, doc, User.StaffId(), stop))
        {
            return Refuse(409, new Problem("crew", "somebody else changed it at the same moment; nothing was overwritten. Look again."));
        }

        View = then with { Revision = seen + 1 };
        Says = Change(before, then);
        return Partial("_Timeline", this);
    }

    /// <summary>The best that is found with time to look; asked for behind an answer that came at once.</summary>
    public async Task<IActionResult> OnGetBetterAsync(int number, CancellationToken stop) =>
        await LoadedAsync(number, stop, true) ?? Partial("_Timeline", this);

    /// <summary>Who is on the job, from when to when: lend somebody, send somebody home.</summary>
    public async Task<IActionResult> OnPostCrewAsync(int number, string? start, string[]? on, int seen, CancellationToken stop)
    {
        if (await LoadedAsync(number, stop) is { } none)
        {
            return none;
        }

        if (!MayEdit)
        {
            return Forbid();
        }

        var problems = new List<Problem>();
        int Minute(string field, string? text)
        {
            if (TimeOnly.TryParseExact(text?.Trim(), "H:mm", CultureInfo.InvariantCulture, DateTimeStyles.None, out var t))
            {
                return (int)t.ToTimeSpan().TotalMinutes;
            }

            problems.Add(new(field, $"'{text}' is no time of the day, like 08:30"));
            return 0;
        }

        var begin = Minute("start", start);
        var known = Workers
            .Select(w => w.StaffId)
            .Concat(Enumerable.Range(1, TimelineDesk.MostPeople).Select(n => $"helper-{n}"))
            .ToHashSet();
        var people = new List<CrewMember>();
        foreach (var id in (on ?? []).Distinct())
        {
            if (!known.Contains(id))
            {
                problems.Add(new("on", "is nobody who works here"));
                continue;
            }

            var (from, to) = (Minute($"{id} from", Request.Form[$"from-{id}"]), Minute($"{id} to", Request.Form[$"to-{id}"]));
            if (problems.Count == 0 && (to <= from || to <= begin))
            {
                problems.Add(new(id, "leaves before the work begins: there is no shift left"));
            }

            people.Add(new(id, from, to));
        }

        if (people.Count is 0 or > TimelineDesk.MostPeople)
        {
            problems.Add(new("on", $"1 to {TimelineDesk.MostPeople} people"));
        }

        if (problems.Count > 0)
        {
            (Problems, Response.StatusCode) = (problems, 422);
            return Page();
        }

        var doc = new CrewDoc(begin, people, View.Doc.Pins, View.Doc.Cut);
        if (!await timelines.KeepAsync(Job, seen, doc, User.StaffId(), stop))
        {
            return Refuse(409, new Problem("crew", "somebody else changed it at the same moment; nothing was overwritten. Look again."));
        }

        return Redirect($"/jobs/{number}/timeline");
    }

    public async Task<IActionResult> OnGetCalendarAsync(int number, CancellationToken stop) =>
        await LoadedAsync(number, stop) is { } none ? none
        : View.Layout is null ? NotFound()
        : File(
            Encoding.UTF8.GetBytes(TimelineDesk.Calendar(View, Plan, Job, store.Now)),
            "text/calendar; charset=utf-8",
            $"job-{number}-timeline.ics"
        );

    /// <summary>What a move changed, in a sentence.</summary>
    private static string Change(TimelineView before, TimelineView then)
    {
        var by = (then.Layout!.Schedule.Finish - before.Layout!.Schedule.Finish) / 60.0;
        var was = before.Layout.Schedule.Tasks.ToDictionary(p => p.Key, p => p.Who);
        var changed = then.Layout.Schedule.Tasks.Count(p => was.TryGetValue(p.Key, out var who) && who != p.Who);
        return (
                Math.Abs(by) < 0.5
                    ? "It ends at the same time"
                    : $"It ends {JobPage.Hours(Math.Abs(by))} {(by > 0 ? "later" : "sooner")}, at {then.Clock(then.Layout.Schedule.Finish)}"
            ) + (changed > 0 ? $"; {changed} {(changed == 1 ? "task changes" : "tasks change")} hands." : "; nobody changes hands.");
    }

    private IActionResult Refuse(int status, params Problem[] problems)
    {
        (Problems, Response.StatusCode) = (problems, status);
        return Request.Headers.Accept.ToString().Contains("text/plain", StringComparison.Ordinal)
            ? Content(problems[0].Message, "text/plain", Encoding.UTF8)
            : Page();
    }

    private async Task<IActionResult?> LoadedAsync(int number, CancellationToken stop, bool better = false, bool atOnce = false)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        Workers = await crew.WorkersAsync(stop);
        View = await timelines.HereAsync(Job, Run, Tries, better, stop) ?? await timelines.OfAsync(Job, Plan, better, stop);
        if (!atOnce || View.SoFar is null)
        {
            var plan = Run.InForce is { } force ? Workshop.WithWorlds(force.Plan, force.Survey, stop) : Plan;
            View = await timelines.RangedAsync(Job, plan, View, stop);
        }

        return null;
    }
}
