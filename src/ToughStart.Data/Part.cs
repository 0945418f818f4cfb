using Microsoft.EntityFrameworkCore;

namespace ToughStart.Data;

/// <summary>Part of a text, as PostgreSQL looks for it: every sign of what was asked for is meant as it is written.</summary>
internal static class Part
{
    /// <summary>Stands before a sign that would else mean any letter or any text.</summary>
    public const string Escape = "\\";

    /// <summary>The pattern of texts that hold this.</summary>
    public static string Of(string text) =>
        $"%{text.Replace(Escape, Escape + Escape, StringComparison.Ordinal)
            .Replace("%", Escape + "%", StringComparison.Ordinal)
            .Replace("_", Escape + "_", StringComparison.Ordinal)}%";

    /// <summary>Vehicles with this in their name or registration, however the registration is written.</summary>
    public static IQueryable<ClientVehicle> VehiclesWith(this ToughStartContext db, string text)
    {
        var like = Of(text);
        var plate = ClientVehicle.KeyOf(text) is { Length: > 0 } key ? Of(key) : null;
        return db.Vehicles.Where(v =>
            EF.Functions.ILike(v.Name, like, Escape) || (plate != null && EF.Functions.Like(v.PlateKey, plate, Escape))
        );
    }

    /// <summary>Clients with this in their name.</summary>
    public static IQueryable<Client> ClientsWith(this ToughStartContext db, string text)
    {
        var like = Of(text);
        return db.Clients.Where(c => EF.Functions.ILike(c.Name, like, Escape));
    }
}
