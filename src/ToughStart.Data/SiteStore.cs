using Microsoft.EntityFrameworkCore;
using ToughStart.Core.Conditions;
using ToughStart.Core.Formats;
using ToughStart.Core.Vehicles;

namespace ToughStart.Data;

/// <summary>Places the shop washes at, kept by name, and how fast its crew is.</summary>
public sealed class SiteStore(ToughStartContext db, TimeProvider time)
{
    public const int Most = 60;

    public async Task<IReadOnlyList<SitePreset>> AllAsync(CancellationToken stop = default) =>
        await db.Sites.AsNoTracking().OrderBy(s => s.Name).Take(Most).ToListAsync(stop);

    /// <summary>The place a preset stands for; null when it is gone.</summary>
    public async Task<Site?> PlaceAsync(Guid id, CancellationToken stop = default) =>
        await db.Sites.AsNoTracking().FirstOrDefaultAsync(s => s.Id == id, stop) is { } preset
            ? SurveyFormat.Read(System.Text.Encoding.UTF8.GetBytes(preset.Body)).Value?.Site
            : null;

    /// <summary>Keeps a place under a name; the same name again replaces it.</summary>
    /// <returns>False when there are too many already.</returns>
    public async Task<bool> KeepAsync(string name, Site site, string author, CancellationToken stop = default)
    {
        // A survey of any vehicle carries the site, so that the same reader checks it.
        var body = System.Text.Encoding.UTF8.GetString(
            SurveyFormat.Write(
                new Survey(
                    null,
                    null,
                    new VehicleInput("saloon", Forms.DefaultSize("saloon"), null, "unknown", "combustion"),
                    new History("none", false, null, null, []),
                    Goal.Wash,
                    new Site(null, null, null, null, null, null, null, null, null, null, null, null, null, null, null, null, null).At(site),
                    new Dictionary<string, string>(),
                    null,
                    1,
                    []
                )
            )
        );
        var kept = await db.Sites.FirstOrDefaultAsync(s => s.Name == name, stop);
        if (kept is null)
        {
            if (await db.Sites.CountAsync(stop) >= Most)
            {
                return false;
            }

            db.Sites.Add(
                new SitePreset
                {
                    Name = name,
                    Body = body,
                    Author = author,
                    At = time.GetUtcNow(),
                }
            );
        }
        else
        {
            (kept.Body, kept.Author, kept.At) = (body, author, time.GetUtcNow());
        }

        await db.SaveChangesAsync(stop);
        db.ChangeTracker.Clear();
        return true;
    }

    public Task ForgetAsync(Guid id, CancellationToken stop = default) => db.Sites.Where(s => s.Id == id).ExecuteDeleteAsync(stop);

    /// <summary>Name of the shop, and how it writes money, measures, days and numbers.</summary>
    public async Task<(string Name, Ways Ways)> WaysAsync(CancellationToken stop = default) =>
        await db.Shops.AsNoTracking().OrderBy(s => s.Id).FirstOrDefaultAsync(stop) is { } s
            ? (
                s.Name,
                new Ways(
                    s.Currency,
                    s.Tax,
                    s.Volume switch
                    {
                        "us" => VolumeWay.UsOunces,
                        "imperial" => VolumeWay.ImperialOunces,
                        _ => VolumeWay.Metric,
                    },
                    s.Fahrenheit,
                    s.Inches,
                    s.DayPattern,
                    s.DecimalComma
                )
            )
            : ("", Ways.Standard);

    /// <summary>Keeps the shop's name and its ways.</summary>
    public async Task WaysAsync(string name, Ways ways, CancellationToken stop = default)
    {
        var shop = await db.Shops.OrderBy(s => s.Id).FirstOrDefaultAsync(stop) ?? db.Shops.Add(new Shop { Name = name }).Entity;
        shop.Name = name;
        (shop.Currency, shop.Tax, shop.Fahrenheit, shop.Inches) = (ways.Currency, ways.Tax, ways.Fahrenheit, ways.Inches);
        (shop.DayPattern, shop.DecimalComma) = (ways.Day, ways.DecimalComma);
        shop.Volume = ways.Volume switch
        {
            VolumeWay.UsOunces => "us",
            VolumeWay.ImperialOunces => "imperial",
            _ => "metric",
        };
        await db.SaveChangesAsync(stop);
        db.ChangeTracker.Clear();
    }

    /// <summary>Sets the crew's speed; null = back to what the catalogue takes.</summary>
    public async Task SpeedAsync(CrewSpeed? speed, CancellationToken stop = default)
    {
        var shop = await db.Shops.OrderBy(s => s.Id).FirstOrDefaultAsync(stop) ?? db.Shops.Add(new Shop { Name = "Shop" }).Entity;
        (shop.ApplyM2Min, shop.RinseM2Min) = (speed?.Apply, speed?.Rinse);
        await db.SaveChangesAsync(stop);
        db.ChangeTracker.Clear();
    }
}
