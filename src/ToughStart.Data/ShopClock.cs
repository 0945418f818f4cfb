using NodaTime;
using NodaTime.Extensions;

namespace ToughStart.Data;

/// <summary>
/// The one clock of the shop: instants from the clock that was given, and the day and hour where the shop stands. Everything that is dated
/// by people (a bottle's last day, the yard's today, what a page shows) goes by the shop's zone, wherever the machine stands.
/// </summary>
public sealed class ShopClock(TimeProvider time, DateTimeZone zone)
{
    /// <summary>The configuration entry with the zone, an id of the IANA database; without it the machine's own zone holds.</summary>
    public const string ZoneEntry = "TOUGHSTART_TIME_ZONE";

    /// <summary>The clock of a shop whose zone stands in the configuration.</summary>
    /// <exception cref="InvalidOperationException">There is no such zone.</exception>
    public static ShopClock Of(TimeProvider time, string? zoneId)
    {
        var zones = DateTimeZoneProviders.Tzdb;
        return new ShopClock(
            time,
            string.IsNullOrWhiteSpace(zoneId)
                ? zones.GetZoneOrNull(time.LocalTimeZone.Id) ?? DateTimeZone.Utc
                : zones.GetZoneOrNull(zoneId)
                    ?? throw new InvalidOperationException($"{ZoneEntry}: '{zoneId}' is no time zone of the IANA database, like Etc/UTC.")
        );
    }

    public DateTimeZone Zone => zone;

    public Instant Now => time.GetUtcNow().ToInstant();

    /// <summary>The day at the shop.</summary>
    public DateOnly Today => Now.InZone(zone).Date.ToDateOnly();

    /// <summary>Now, by the clock on the shop's wall.</summary>
    public DateTimeOffset Local => Here(time.GetUtcNow());

    /// <summary>A moment by the clock on the shop's wall.</summary>
    public DateTimeOffset Here(DateTimeOffset at) => at.ToInstant().InZone(zone).ToDateTimeOffset();
}
