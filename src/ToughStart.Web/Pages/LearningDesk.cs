using System.Collections.Concurrent;
using ToughStart.Core;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Costing;
using ToughStart.Core.Formats;
using ToughStart.Core.Learning;
using ToughStart.Core.Planning;
using ToughStart.Data;

namespace ToughStart.Web.Stations;

/// <summary>What the shop's work says of one product.</summary>
/// <param name="Jobs">Job by job.</param>
public sealed record ProductLearnt(ProductEvidence Of, Learnt Learnt, IReadOnlyList<JobLearnt> Jobs, Drift Drift)
{
    public int Zones => Of.Jobs.Sum(j => j.Loops.Count);

    public bool Proposed => Learnt.Proposable(Of.Now);

    /// <summary>The factor that would count, in two figures: more it does not know.</summary>
    public double Factor => Math.Round(Math.Clamp(Learnt.Factor, ShelfBottle.LeastEfficacy, ShelfBottle.MostEfficacy), 2);
}

/// <summary>What it says of somebody's pace.</summary>
public sealed record PaceLearnt(PaceEvidence Of, Learnt Learnt)
{
    public bool Proposed => Learnt.Proposable(Of.Now);

    public double Factor => Math.Round(Learnt.Factor, 2);
}

/// <summary>What a proposal would change in the next plan that uses it.</summary>
public sealed record Effect(
    int Job,
    string Vehicle,
    double MinutesBefore,
    double MinutesAfter,
    double MoneyBefore,
    double MoneyAfter,
    int StepsBefore,
    int StepsAfter
);

/// <summary>Fits that were made; a product whose lessons are the same is not fitted again.</summary>
public sealed class LearningMemory
{
    private readonly ConcurrentDictionary<string, IReadOnlyList<JobLearnt>> _known = new();

    public IReadOnlyList<JobLearnt> Follow(ProductEvidence of)
    {
        var key =
            $"{of.Id}/{of.Jobs.Count}/{(of.Jobs is [.., var last] ? last.Job : 0)}/{of.Jobs.Sum(j => j.Loops.Sum(l => l.Need + l.Rounds)):R}";
        if (_known.Count > 2000)
        {
            _known.Clear();
        }

        return _known.GetOrAdd(key, _ => ProductLearning.Follow(of.Jobs));
    }
}

/// <summary>Reckons what was learnt, and what it would change.</summary>
public sealed class LearningDesk(
    LearningStore store,
    LearningMemory memory,
    JobStore jobs,
    QuoteStore quotes,
    Workshop workshop,
    ShopClock clock
)
{
    public async Task<IReadOnlyList<ProductLearnt>> ProductsAsync(CancellationToken stop)
    {
        var list = new List<ProductLearnt>();
        foreach (var p in await store.ProductsAsync(stop))
        {
            stop.ThrowIfCancellationRequested();
            var jobs = await Task.Run(() => memory.Follow(p), stop);
            list.Add(new(p, jobs.Count > 0 ? jobs[^1].After : ProductLearning.Fit([]), jobs, Drift.Of(jobs)));
        }

        return [.. list.OrderByDescending(l => l.Proposed).ThenByDescending(l => l.Drift.Alarms).ThenByDescending(l => l.Jobs.Count)];
    }

    public async Task<IReadOnlyList<PaceLearnt>> PacesAsync(CancellationToken stop) =>
        [
            .. (await store.PacesAsync(stop))
                .Select(p => new PaceLearnt(p, LabourLearning.Fit([.. p.Ratios])))
                .OrderByDescending(p => p.Proposed)
                .ThenByDescending(p => p.Of.Ratios.Count),
        ];

    /// <summary>The next open job that uses a product, planned as it is and with the factor; null = none does.</summary>
    public async Task<Effect?> EffectAsync(Guid product, double factor, CancellationToken stop)
    {
        var rates = (await quotes.HouseAsync(stop)).Rates;
        foreach (var line in await jobs.YardAsync(clock.Today, stop: stop))
        {
            if (await jobs.JobAsync(line.Number, stop) is not { } job)
            {
                continue;
            }

            var survey = await workshop.EquipAsync(job.Survey, job.Id, stop: stop);
            var now = workshop.Plan(survey, stop);
            if (now.ReferOnly || !now.Steps.Any(s => s.BottleId == product.ToString()))
            {
                continue;
            }

            var then = workshop.Plan(
                survey with
                {
                    Shelf = [.. survey.Shelf!.Select(b => b.Id == product.ToString() ? b with { Efficacy = factor } : b)],
                },
                stop
            );
            return new(
                job.Number,
                job.Vehicle,
                now.Totals.LabourMinutes.Expected,
                then.Totals.LabourMinutes.Expected,
                PlanCompare.PriceOf(now, rates),
                PlanCompare.PriceOf(then, rates),
                now.Steps.Count,
                then.Steps.Count
            );
        }

        return null;
    }

    /// <summary>Which numbers of a plan the shop has made its own, in words.</summary>
    /// <param name="names">Of the shop's people; asked for only where somebody's pace is known.</param>
    public async Task<IReadOnlyList<string>> OwnAsync(
        Plan plan,
        Survey survey,
        Func<CancellationToken, Task<IReadOnlyDictionary<string, string>>> names,
        CancellationToken stop
    )
    {
        var words = new List<string>();
        foreach (var b in survey.Shelf ?? [])
        {
            if (
                b.Efficacy is { } f
                && Math.Abs(f - 1) > 1e-6
                && plan.Steps.Any(s => b.Id is not null ? s.BottleId == b.Id : s.Bottle == b.Name)
            )
            {
                words.Add(FormattableString.Invariant($"{b.Name} works × {f:0.##} of its class, by the shop's own jobs."));
            }
        }

        var pace = await store.PaceNowAsync(stop);
        IReadOnlyDictionary<string, string> named = pace.Count == 0 ? new Dictionary<string, string>() : await names(stop);
        foreach (var person in pace.GroupBy(p => p.Key[..p.Key.IndexOf('/')]))
        {
            var by = person.ToDictionary(p => p.Key[(p.Key.IndexOf('/') + 1)..], p => p.Value);
            var minutes = plan.Steps.Sum(s => s.LabourMinutes.Value * by.GetValueOrDefault(s.Stage.Word, 1));
            var whose = named.GetValueOrDefault(person.Key, person.Key);
            if (plan.Worlds is not { } worlds)
            {
                words.Add(
                    $"At the pace of {whose}: {JobPage.Hours(minutes)} hands-on,"
                        + $" {JobPage.Hours(plan.Steps.Sum(s => s.LabourMinutes.Value))} by the norm."
                );
                continue;
            }

            // Somebody whose pace is known scatters less: the range is theirs, not anybody's.
            var theirs = Draws.Of(worlds.Draw(Worlds.Enough.First, pace: s => by.GetValueOrDefault(s.Word, 1), stop: stop).Minutes);
            words.Add(
                $"At the pace of {whose}: {JobPage.Hours(theirs.Low)} – {JobPage.Hours(theirs.Expected)} –"
                    + $" {JobPage.Hours(theirs.High)} hands-on, {JobPage.Hours(plan.Totals.LabourMinutes.Expected)} is anybody's."
            );
        }

        return words;
    }
}
