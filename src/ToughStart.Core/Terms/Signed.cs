using System.Globalization;

namespace ToughStart.Core;

/// <summary>A difference as people write it: its sign always, and nothing as plain 0.</summary>
public static class Signed
{
    /// <summary>Rounded first: what rounds to nothing has no sign.</summary>
    public static string Of(double value, int digits = 0)
    {
        var v = Math.Round(value, digits);
        return v == 0 ? "0" : (v > 0 ? "+" : "−") + Math.Abs(v).ToString("0." + new string('#', digits), CultureInfo.InvariantCulture);
    }
}
