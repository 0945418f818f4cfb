using System.Globalization;
using System.Text.Json;
using System.Threading.Channels;
using Microsoft.AspNetCore.Mvc;
using ToughStart.Core.Conditions;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Data;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Stations;

/// <summary>The plan of a job against another: school, goal, start, gentler, faster, cheaper, or a point of the front.</summary>
[Microsoft.AspNetCore.Http.Timeouts.DisableRequestTimeout]
public sealed class CompareModel(JobDesk desk, PlanCache cache, QuoteStore quotes, Ways ways) : JobPage(desk)
{
    public override string Station => "plan";

    public PlanComparison? Comparison { get; private set; }

    /// <summary>What it is set against, in words.</summary>
    public string Against { get; private set; } = "";

    public string? Refused { get; private set; }

    public string With { get; private set; } = "";

    /// <summary>Starts worth trying: the best of the day, where there is one.</summary>
    public string? BestStart { get; private set; }

    public async Task<IActionResult> OnGetAsync(int number, string? with, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        With = with is { Length: > 0 and <= 80 } ? with : "lean:gentler";
        if (Draft.ReferOnly)
        {
            Refused = "Nothing is planned, so there is nothing to compare: see the plan for what has to be released.";
            return Page();
        }

        if (SiteConditions.StartOf(Equipped.Site).Start is { } start && Workshop.Day(Equipped, Equipped, stop).Map is { Best: { } best })
        {
            BestStart = new DateTimeOffset(start.Date, start.Offset)
                .AddMinutes(15 * best)
                .ToString("yyyy-MM-ddTHH:mm:sszzz", CultureInfo.InvariantCulture);
        }

        var (other, words) = Other(
            With,
            With == "stock:only"
                ? await Workshop.EquipAsync(Job.Survey with { StockOnly = true }, Job.Id, stop: stop)
                : Equipped with
                {
                    StockOnly = false,
                }
        );
        if (other is null)
        {
            Refused = words;
            Response.StatusCode = 422;
            return Page();
        }

        Against = words;
        Comparison = PlanCompare.Of(Draft, Workshop.Plan(other, stop), (await quotes.HouseAsync(stop)).Rates);
        return Page();
    }

    /// <summary>The survey as it would be, and what it is called; null with the reason.</summary>
    /// <param name="stock">The same, kept to the shelf or let buy.</param>
    private (Survey? Other, string Words) Other(string with, Survey stock)
    {
        var parts = with.Split(':', 2);
        var value = parts.Length == 2 ? parts[1] : "";
        switch (parts[0])
        {
            case "goal" when Goal.Maybe(value) is { } goal:
                return (Equipped with { Goal = goal }, $"goal {goal}");
            case "lean" when Leaning.Named.FirstOrDefault(n => n.Id == value) is { Id: not null } named:
                return (Equipped with { Lean = named.Lean }, named.Name);
            case "lean" when Numbers(value) is [var harm, var time, var money]:
                return (
                    Equipped with
                    {
                        Lean = new Leaning(harm, time, money),
                    },
                    string.Create(CultureInfo.InvariantCulture, $"wear weighs {harm:0.##}, time {time:0.##}")
                );
            case "start"
                when SurveyFormat.Read(SurveyFormat.Write(Equipped with { Site = Equipped.Site with { Start = value } }))
                    is { Ok: true, Value: { } moved }
                    && SiteConditions.StartOf(moved.Site).Start is { } at:
                return (moved, string.Create(CultureInfo.InvariantCulture, $"start at {at:HH:mm}"));
            case "house"
                when value.Split('=') is [var rule, var choice]
                    && HouseRules.All.FirstOrDefault(r => r.Id == rule) is { } school
                    && school.Choices.FirstOrDefault(c => c.Value == choice) is { Value: not null } chosen:
                if (
                    StageGraph.Contradiction(
                        Equipped with
                        {
                            House = new Dictionary<string, string>(Equipped.House) { [rule] = choice },
                        }
                    ) is
                    { } contradiction
                )
                {
                    return (null, contradiction);
                }

                return (
                    Equipped with
                    {
                        House = new Dictionary<string, string>(Equipped.House) { [rule] = choice },
                    },
                    $"{school.Name.ToLowerInvariant()}: {chosen.Words.ToLowerInvariant()}"
                );
            case "stock" when value == "only" && !Equipped.StockOnly:
                return (stock, "only what is on the shelf");
            case "stock" when value == "any" && Equipped.StockOnly:
                return (stock, "with what has to be bought");
            case "without" when DeclineOf(value) is { } decline:
                return (Equipped with { Declines = [.. Equipped.Declines, decline] }, $"without {decline.Words}");
            default:
                return (
                    null,
                    $"'{with}' is nothing to compare with: a goal, a school, a start, a step left out, gentler, faster or cheaper"
                );
        }
    }

    /// <summary>A treatment, or a stage behind a "stage=", that the plan could do without.</summary>
    private static Decline? DeclineOf(string? value) =>
        value?.Split('=') switch
        {
            ["stage", var word] when Stage.Maybe(word) is { } stage && Stage.Refusable.Contains(stage) => new Decline(null, stage, []),
            [var id] when Core.Provenance.Catalogue.Default.Treatments.Any(t => t.Id == id) => new Decline(id, null, []),
            _ => null,
        };

    /// <summary>The suggestion on the page, where it is one that can be refused.</summary>
    public Decline? Suggested => With.Split(':') is ["without", var value] ? DeclineOf(value) : null;

    /// <summary>Refuses a suggestion for this job; the plan is made without it from then on.</summary>
    public async Task<IActionResult> OnPostRefuseAsync(int number, string? what, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        if (DeclineOf(what) is not { } decline)
        {
            Refused = "what: a treatment or a stage of the plan";
            Response.StatusCode = 422;
            return Page();
        }

        return await SaveAsync(
            Job.Survey with
            {
                Declines = [.. Job.Survey.Declines.Where(d => d != decline && d.Words != decline.Words), decline],
            },
            number,
            stop
        );
    }

    /// <summary>Keeps the job to what is on the shelf, or lets it buy again.</summary>
    public async Task<IActionResult> OnPostStockAsync(int number, bool only, CancellationToken stop) =>
        await LoadAsync(number, true, stop) ?? await SaveAsync(Job.Survey with { StockOnly = only }, number, stop);

    private async Task<IActionResult> SaveAsync(Survey survey, int number, CancellationToken stop)
    {
        var saved = await Jobs.SaveSurveyAsync(Job.Id, Job.Revision, survey, User.StaffId(), stop);
        if (saved.Saved)
        {
            return Redirect($"/jobs/{number}/plan");
        }

        Refused = $"{saved.TheirAuthor} changed the job at the same moment; nothing was overwritten. Look again.";
        Response.StatusCode = 409;
        return Page();
    }

    private static double[]? Numbers(string text) =>
        text.Split(',')
            .Select(t =>
                double.TryParse(t, NumberStyles.Float, CultureInfo.InvariantCulture, out var v) && v is >= Leaning.Least and <= Leaning.Most
                    ? v
                    : double.NaN
            )
            .ToArray()
            is { Length: 3 } n
        && !n.Any(double.IsNaN)
            ? n
            : null;

    /// <summary>The front from gentlest to fastest, as it is computed: server-sent events with how many plans are done, then all points.</summary>
    public async Task<IActionResult> OnGetFrontAsync(int number, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        Response.ContentType = "text/event-stream";
        Response.Headers.CacheControl = "no-store";
        var done = Channel.CreateUnbounded<int>();
        var survey = Equipped with { Lean = null };
        var work = Task.Run(
            () =>
            {
                try
                {
                    return cache.Front(survey, n => done.Writer.TryWrite(n), stop);
                }
                finally
                {
                    done.Writer.Complete();
                }
            },
            stop
        );
        await foreach (var n in done.Reader.ReadAllAsync(stop))
        {
            await Response.WriteAsync($"event: done\ndata: {n}\n\n", stop);
            await Response.Body.FlushAsync(stop);
        }

        var (front, rates) = (await work, (await quotes.HouseAsync(stop)).Rates);
        var points = front.Select(p => new
        {
            harm = Math.Round(p.Harm, 2),
            minutes = Math.Round(p.Minutes),
            elapsed = Math.Round(p.Elapsed),
            litres = Math.Round(p.Litres),
            price = $"price {ways.Money(PlanCompare.PriceOf(p.Plan, rates), 0)}{(ways.BeforeTax.Length > 0 ? " " + ways.BeforeTax : "")}",
            gentler = Core.Contamination.LoadWords.Change(Draft.Totals.Harm, p.Harm, "gentler", "harder on the finish") is var words
            && words == "about the same"
                ? "about as gentle as this plan"
                : words + " than this plan",
            lean = FormattableString.Invariant($"{p.Lean.Harm:0.####},{p.Lean.Time:0.####},{p.Lean.Money:0.####}"),
        });
        await Response.WriteAsync(
            $"event: front\ndata: {JsonSerializer.Serialize(new { now = new { harm = Math.Round(Draft.Totals.Harm, 2), minutes = Math.Round(Draft.Totals.LabourMinutes.Expected) }, points })}\n\n",
            stop
        );
        return new EmptyResult();
    }

    /// <summary>Takes a leaning for this job, or goes back to the ordinary one.</summary>
    public async Task<IActionResult> OnPostAsync(int number, string? lean, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        if (!string.IsNullOrEmpty(lean) && Numbers(lean) is null)
        {
            Refused = "lean: three weights of 0.05 to 20";
            Response.StatusCode = 422;
            return Page();
        }

        Leaning? wanted = Numbers(lean ?? "") is [var harm, var time, var money] ? new Leaning(harm, time, money) : null;
        return await SaveAsync(Job.Survey with { Lean = wanted == Leaning.None ? null : wanted }, number, stop);
    }
}
