using System.Text;
using System.Text.Json;
using ToughStart.Core.Learning;
using ToughStart.Core.Planning;
using ToughStart.Core.Readiness;
using ToughStart.Core.Running;
using ToughStart.Core.Running.Live;
using ToughStart.Data;

namespace ToughStart.Web.Stations;

/// <summary>What was said when a job was closed, besides the numbers.</summary>
/// <param name="Brakes">Somebody has braked it.</param>
/// <param name="Keys">The keys went back.</param>
/// <param name="Laundry">Media that went to the laundry, by name.</param>
/// <param name="Bin">Media that went into the bin.</param>
public sealed record Closing(bool Brakes, bool Keys, IReadOnlyList<string> Laundry, IReadOnlyList<string> Bin);

/// <summary>Reckons a job up and writes its line of the logbook: one way for the Close page, the report and the demo's seasons.</summary>
public sealed class CloseDesk(RunBook runs, GateDesk gates, HandDesk hands, BookStore books, ShelfStore shelf, ShopClock clock)
{
    /// <summary>As planned and as done; null while no plan was ever in force.</summary>
    public async Task<Reckoned?> ReckonAsync(JobView job, JobRun run, CancellationToken stop)
    {
        if (run.Ground is not { } ground || await runs.FirstAsync(job, stop) is not { } first)
        {
            return null;
        }

        var (log, _, plans) = await runs.WholeAsync(job.Id, stop);
        return Reckoning.Of(first, ground, run.State, run.Live, log, plans.GetValueOrDefault);
    }

    /// <summary>Was anything done to wheels? Then somebody brakes the vehicle before the keys go back.</summary>
    public static bool WheelsWorked(JobRun run) =>
        run.Ground is { } ground && run.State.Zones.Any(z => z.Value.Rounds.Count > 0 && ground.Zone(z.Key) is { Zone.Corner: not null });

    /// <summary>Writes the line of a job that was closed.</summary>
    /// <param name="at">When it was closed; null = now.</param>
    public async Task WriteAsync(
        JobView job,
        JobRun run,
        Core.Formats.Survey equipped,
        Closing closing,
        string author,
        CancellationToken stop,
        DateTimeOffset? at = null
    )
    {
        if (await ReckonAsync(job, run, stop) is not { } reckoned || run is not { Ground: { } ground, InForce: { } force })
        {
            return;
        }

        var standing = await gates.OfAsync(job, run, equipped, stop);
        var (coats, _) = await hands.CoatsAsync(job.Id, ground.States.Select(z => z.Zone.Id), stop);
        var used = await shelf.OfJobAsync(job.Id, stop);
        var prices = await books.PricesAsync([.. used.Select(u => u.Product)], stop);
        var batches = await books.BatchesAsync(stop);
        var (log, entries, _) = await runs.WholeAsync(job.Id, stop);
        // A job of the past is closed on its own day.
        var closed = at ?? books.Now;
        var day = DateOnly.FromDateTime(clock.Here(closed).Date);
        var next = Intervals.Of(job.Survey, force.Plan, day).Decontamination;
        var dues = HandDesk.Dues(coats, clock);
        var names = ground.Catalogue;
        var words = string.Join(
            ' ',
            reckoned
                .Rounds.Where(r => r.Done > 0)
                .Select(r => r.Treatment)
                .Concat(reckoned.Products.Select(p => p.Agent))
                .Concat(reckoned.Times.Select(t => t.Who).Distinct())
                .Concat(
                    log.Where(e => e.Kind == LogKind.Happened && !run.Live.Undone.ContainsKey(e.Id))
                        .SelectMany(e => new[] { "trouble", e.Body.What! })
                        .Distinct()
                )
                .Concat(coats.Values.Select(c => c.Kind.Id).Distinct())
                .Concat(standing.Marks.Select(m => m.Kind).Distinct())
                .Concat(standing.Marks.Select(m => m.Decision).Distinct())
                .Concat(standing.Unknown.Count > 0 ? ["unknown mark"] : [])
                .Concat(standing.Tries.Select(t => t.Agent).Distinct())
        );
        await books.WriteAsync(
            new JobBook
            {
                JobId = job.Id,
                VehicleId = await books.VehicleAsync(job.Id, stop),
                Day = day,
                Goal = force.Plan.Goal.Word,
                PlannedMinutes = reckoned.PlannedMinutes.Sum(p => p.Minutes),
                Minutes = reckoned.Minutes > 0 ? (int)Math.Round(reckoned.Minutes) : null,
                PlannedLitres = reckoned.PlannedLitres,
                Litres = reckoned.DoneLitres,
                ProductMl = reckoned.Products.Sum(p => p.DoneMl),
                Cost = Math.Round(used.Sum(u => u.DrawnMl * prices.GetValueOrDefault(u.Product)), 2),
                Ready = standing.Count(GateWord.Ready),
                Repeat = standing.Count(GateWord.Repeat),
                Refer = standing.Count(GateWord.Refer),
                Unverified = standing.Count(GateWord.Unverified),
                Dried = reckoned.Dried,
                Due = dues.Count > 0 && dues[0].Due < next ? dues[0].Due : next,
                BrakedBy = closing.Brakes ? author : null,
                Words = words,
                Body = BodyOf(reckoned, Strata.Of(ground, run.State), closing),
                Author = author,
                At = closed,
            },
            [
                .. Lessons
                    .Of(entries)
                    .Select(l => new LoopLesson
                    {
                        JobId = job.Id,
                        ProductId = Guid.TryParse(l.Bottle, out var id) ? id : null,
                        Agent = l.Agent,
                        Batch = Guid.TryParse(l.Bottle, out var of) ? batches.GetValueOrDefault(of) : null,
                        Zone = l.Zone,
                        Kind = l.Kind,
                        Need = l.Datum.Need,
                        PerRound = l.Datum.PerRound,
                        Rounds = l.Datum.Rounds,
                        Stopped = l.Datum.Stopped,
                        Spread = l.Datum.Spread,
                        Excluded = l.Excluded,
                    }),
            ],
            [
                .. reckoned
                    .Times.Where(t => t.Seconds > 0 && t.Norm > 0)
                    .Select(t => new PaceLesson
                    {
                        JobId = job.Id,
                        Who = t.Who,
                        Stage = t.Stage.Word,
                        Seconds = t.Seconds,
                        Norm = t.Norm,
                    }),
            ],
            stop
        );
    }

    private static string BodyOf(Reckoned reckoned, IReadOnlyList<Stratum> strata, Closing closing)
    {
        using var stream = new MemoryStream();
        using (var w = new Utf8JsonWriter(stream))
        {
            w.WriteStartObject();
            w.WritePropertyName("reckoned");
            w.WriteRawValue(reckoned.Write());
            w.WritePropertyName("strata");
            JsonSerializer.Serialize(w, strata, JsonSerializerOptions.Web);
            w.WritePropertyName("closing");
            JsonSerializer.Serialize(w, closing, JsonSerializerOptions.Web);
            w.WriteEndObject();
        }

        return Encoding.UTF8.GetString(stream.ToArray());
    }

    /// <summary>The layers of a closed job.</summary>
    public static IReadOnlyList<Stratum> StrataOf(JobBook book)
    {
        using var read = JsonDocument.Parse(book.Body);
        return read.RootElement.GetProperty("strata").Deserialize<Stratum[]>(JsonSerializerOptions.Web) ?? [];
    }
}
