using System.Text;
using ToughStart.Core.Costing;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Vehicles;
using ToughStart.Data;
using ToughStart.Web.Drawing;

namespace ToughStart.Web.Stations;

/// <summary>A quote as a client sees it: on paper, on the shop's page, behind a link.</summary>
/// <param name="Version">0 = it is not kept yet.</param>
/// <param name="Kept">As it was kept; null = it is not yet.</param>
/// <param name="Client">Null = not shown.</param>
public sealed record QuoteSheet(
    string Shop,
    JobView Job,
    string? Client,
    Vehicle Vehicle,
    IReadOnlyDictionary<string, ZonePaint> Paint,
    int Version,
    DateOnly Day,
    DateOnly Until,
    string Terms,
    string Said,
    IReadOnlyList<Guid> Photos,
    string PhotoPath,
    Quote Quote,
    JobQuote? Kept
)
{
    public bool Taken => Kept?.TakenAt is not null;
}

/// <summary>Makes quotes from surveys and reads them back.</summary>
public sealed class QuoteDesk(PlanCache plans, QuoteStore store, ShopWays shop, ShopClock clock)
{
    /// <summary>The quote of an equipped survey.</summary>
    public Quote Of(Survey equipped, Rates rates, IReadOnlyList<string> turned, string by, CancellationToken stop) =>
        Quote.Of(equipped, rates, turned, s => plans.Plan(s, stop), by);

    /// <summary>What one option comes to.</summary>
    public OptionEffect Effect(QuoteOption option, Survey equipped, Rates rates, CancellationToken stop) =>
        OptionEffect.Of(
            option,
            plans.Plan(equipped, stop),
            plans.Plan(option.Turned(equipped), stop),
            rates,
            Forms.Build(equipped.Vehicle.Form, equipped.Vehicle.Size)
        );

    public static Quote Read(string body) =>
        QuoteFormat.Read(Encoding.UTF8.GetBytes(body)).Value ?? throw new InvalidOperationException("a kept quote cannot be read");

    public static Survey SurveyOf(JobQuote quote) =>
        SurveyFormat.Read(Encoding.UTF8.GetBytes(quote.Survey)).Value
        ?? throw new InvalidOperationException("the survey of a kept quote cannot be read");

    /// <summary>Keeps a new version.</summary>
    /// <returns>Its number; null = there are too many.</returns>
    public Task<int?> KeepAsync(
        JobView job,
        Survey equipped,
        Quote quote,
        string terms,
        string said,
        int days,
        Guid[] photos,
        string author,
        CancellationToken stop
    ) =>
        store.KeepAsync(
            version => new JobQuote
            {
                JobId = job.Id,
                Version = version,
                Survey = Encoding.UTF8.GetString(SurveyFormat.Write(equipped)),
                Body = Encoding.UTF8.GetString(QuoteFormat.Write(quote)),
                Price = (decimal)quote.Quoted.Price,
                AtMost = (decimal)quote.Quoted.AtMost,
                Until = clock.Today.AddDays(days),
                Terms = terms,
                Said = said,
                Photos = photos,
                Author = author,
                At = store.Now,
            },
            job.Id,
            stop
        );

    /// <summary>A kept version as a client sees it.</summary>
    /// <param name="turned">What somebody tries out; null = as it was taken, or as the shop advises it.</param>
    /// <param name="photoPath">Where its pictures are.</param>
    public QuoteSheet Sheet(
        JobView job,
        JobQuote kept,
        IReadOnlyList<string>? turned,
        string photoPath,
        bool client,
        CancellationToken stop
    )
    {
        var quote =
            kept.Taken is { } taken ? Read(taken)
            : turned is { Count: > 0 } ? Of(SurveyOf(kept), Read(kept.Body).Rates, turned, "", stop)
            : Read(kept.Body);
        return new(
            shop.Name,
            job,
            client ? job.Client : null,
            Forms.Build(job.Survey.Vehicle.Form, job.Survey.Vehicle.Size),
            NetDrawing.OfSurvey(SurveyOf(kept)),
            kept.Version,
            DateOnly.FromDateTime(clock.Here(kept.At).Date),
            kept.Until,
            kept.Terms,
            kept.Said,
            kept.Photos,
            photoPath,
            quote,
            kept
        );
    }

    /// <summary>What a client would get to see, without the choices, before a version is kept.</summary>
    public QuoteSheet Draft(JobView job, Plan plan, Survey equipped, QuoteHouse house, int number) =>
        new(
            shop.Name,
            job,
            job.Client,
            Forms.Build(job.Survey.Vehicle.Form, job.Survey.Vehicle.Size),
            NetDrawing.OfSurvey(equipped),
            0,
            clock.Today,
            clock.Today.AddDays(house.Days),
            house.Terms,
            "",
            [],
            $"/jobs/{number}/photos",
            Quote.Plain(equipped, plan, house.Rates),
            null
        );

    /// <summary>How a version stands, in a few words.</summary>
    public string Stands(JobQuote q) =>
        q.TakenAt is not null ? $"taken by {q.TakenBy}"
        : q.Withdrawn is not null ? "no longer stands"
        : q.Until < clock.Today ? "has run out"
        : "stands";

    /// <summary>Can it be taken now?</summary>
    public bool IsOpen(JobQuote q) => q is { TakenAt: null, Withdrawn: null } && q.Until >= clock.Today;

    /// <summary>Ids of options in a list with commas; what is none is passed over.</summary>
    public static IReadOnlyList<string> Turned(IEnumerable<string>? ids) =>
        [
            .. (ids ?? [])
                .SelectMany(x => x.Split(','))
                .Where(x => QuoteOption.Maybe(x) is not null)
                .Distinct()
                .Order(StringComparer.Ordinal)
                .Take(10),
        ];
}
