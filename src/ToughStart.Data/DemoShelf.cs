using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using ToughStart.Core.Chemistry;

namespace ToughStart.Data;

/// <summary>The demo shop's shelf and kit, through the importer that users have; a few mixed bottles stand about.</summary>
public static class DemoShelf
{
    private sealed record Piece(
        string Kind,
        string Name,
        double? Flow,
        double? Psi,
        double? Size,
        double? Angle,
        double? Ml,
        string? Dedication,
        string? Colour,
        string? Grade,
        int? Life,
        int? Used,
        string? Condition
    );

    /// <summary>Fills an empty shelf and kit; does nothing when there is anything.</summary>
    public static async Task LoadAsync(
        ToughStartContext db,
        string folder,
        TimeProvider time,
        ShopClock clock,
        CancellationToken stop = default
    )
    {
        var shelf = new ShelfStore(db, time);
        if (await db.Products.AnyAsync(stop) || await db.Kit.AnyAsync(stop))
        {
            return;
        }

        var (_, _, refused) = await new ShelfCsv(db, shelf).ApplyAsync(
            await File.ReadAllTextAsync(Path.Combine(folder, "shelf.csv"), stop),
            "demo",
            stop
        );
        var preview = await new ShelfCsv(db, shelf).PreviewAsync(
            await File.ReadAllTextAsync(Path.Combine(folder, "shelf.csv"), stop),
            stop
        );
        if (refused.Count > 0 || preview.Refused is not null || preview.Count("bad") > 0)
        {
            throw new InvalidDataException(
                $"shelf.csv: {preview.Refused}{string.Join("; ", refused)}{string.Join("; ", preview.Rows.SelectMany(r => r.Problems))}"
            );
        }

        foreach (
            var k in JsonSerializer.Deserialize<Piece[]>(
                await File.ReadAllTextAsync(Path.Combine(folder, "kit.json"), stop),
                JsonSerializerOptions.Web
            )!
        )
        {
            db.Kit.Add(
                new KitItem
                {
                    Kind = k.Kind,
                    Name = k.Name,
                    FlowLitresPerMinute = k.Flow,
                    Psi = k.Psi,
                    Size = k.Size,
                    AngleDegrees = k.Angle,
                    Ml = k.Ml,
                    Dedication = k.Dedication,
                    Colour = k.Colour,
                    Grade = k.Grade,
                    Life = k.Life,
                    Used = k.Used ?? 0,
                    Condition = k.Condition,
                    Author = "demo",
                }
            );
        }

        await db.SaveChangesAsync(stop);
        var kit = new KitStore(db, shelf, clock);
        var tam = await db.Users.Where(u => u.UserName == "tam").Select(u => u.StaffId).FirstOrDefaultAsync(stop) ?? "tam";
        await Mix("Plover All Purpose", "Grey trigger", "1:9", 800);
        await Mix("Dragonfly Gel", "Green trigger", "neat", 300);
        await Mix("Coot Degreaser", "Yellow trigger", "1:3", 600);

        async Task Mix(string product, string bottle, string strength, double total)
        {
            var mix = Dilution.ForTotal(Dilution.ParseStrength(strength), total);
            var p = await db.Products.SingleAsync(x => x.Name == product, stop);
            var b = await db.Kit.SingleAsync(x => x.Name == bottle, stop);
            await kit.MixAsync(new MixOrder(p.Id, b.Id, (decimal)mix.ProductMl, (decimal)mix.WaterMl, null, false, true), tam, stop);
        }
    }
}
