using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using ToughStart.Core.Formats;

namespace ToughStart.Data;

/// <summary>Loads the demo: an index of invented jobs and their surveys, through the same reader users have.</summary>
public static class DemoSeed
{
    private sealed record Entry(
        int Number,
        string Client,
        string Vehicle,
        string Plate,
        string Story,
        string Station,
        int InDays,
        string Survey
    );

    private sealed record DemoIndex(string Shop, Entry[] Jobs);

    /// <summary>Adds the demo jobs that are not there yet.</summary>
    /// <exception cref="InvalidDataException">A demo survey does not read.</exception>
    public static async Task LoadAsync(
        ToughStartContext db,
        string folder,
        DateOnly today,
        DateTimeOffset now,
        CancellationToken stop = default
    )
    {
        var index = JsonSerializer.Deserialize<DemoIndex>(
            await File.ReadAllTextAsync(Path.Combine(folder, "yard.json"), stop),
            JsonSerializerOptions.Web
        )!;
        if (!await db.Shops.AnyAsync(stop))
        {
            db.Shops.Add(
                new Shop
                {
                    Name = index.Shop,
                    Currency = "€",
                    Tax = "VAT",
                }
            );
        }

        var there = await db.Jobs.Select(j => j.Number).ToListAsync(stop);
        foreach (var e in index.Jobs.Where(e => !there.Contains(e.Number)))
        {
            var read = SurveyFormat.Read(await File.ReadAllBytesAsync(Path.Combine(folder, e.Survey), stop));
            if (!read.Ok)
            {
                throw new InvalidDataException($"{e.Survey}: {string.Join("; ", read.Problems)}");
            }

            var client = db.Clients.Add(new Client { Name = e.Client, Author = "demo" }).Entity;
            var vehicle = db
                .Vehicles.Add(
                    new ClientVehicle
                    {
                        ClientId = client.Id,
                        Name = e.Vehicle,
                        Plate = e.Plate,
                        Author = "demo",
                    }
                )
                .Entity;
            var job = db
                .Jobs.Add(
                    new Job
                    {
                        VehicleId = vehicle.Id,
                        Number = e.Number,
                        Station = e.Station,
                        Day = Core.Conditions.SiteConditions.StartOf(read.Value!.Site).Start is { } start
                            ? DateOnly.FromDateTime(start.Date)
                            : today.AddDays(e.InDays),
                        Story = e.Story,
                        Author = "demo",
                        SurveyRevision = 1,
                        UrgentSince = Core.Contamination.Urgency.Etching(read.Value!) ? now.AddHours(-3 * (e.Number % 5)) : null,
                    }
                )
                .Entity;
            db.Surveys.Add(
                new SurveyDocument
                {
                    JobId = job.Id,
                    Revision = 1,
                    Author = "demo",
                    At = now,
                    Body = System.Text.Encoding.UTF8.GetString(
                        SurveyFormat.Write(read.Value! with { Id = $"job-{e.Number}", Revision = 1 })
                    ),
                }
            );
        }

        await db.SaveChangesAsync(stop);
    }
}
