using ToughStart.Scheduling;
using ToughStart.Web.Stations;

namespace ToughStart.Web.Drawing;

/// <summary>
/// The days ahead side by side, nights cut out: a vehicle is a block as long as it takes and as thick as people are on it.
/// </summary>
internal static class DaysDrawing
{
    private const double Width = 1200,
        Left = 64,
        Top = 46,
        Hand = 27,
        Gap = 10;

    public static string Svg(DaysView view)
    {
        var span = Math.Max(view.Time.Length, view.Slots.Select(s => s.End).DefaultIfEmpty(0).Max());
        double X(double worked) => Left + ((Width - Left - 8) * worked / Math.Max(1, span));
        var lanes = Lanes(view);
        var thick = Math.Max(2, view.Slots.Select(s => s.People).DefaultIfEmpty(1).Max());
        var lane = (thick * Hand) + Gap;
        var height = Top + (Math.Max(1, view.Room.Bays) * lane) + 34;
        var ink = new Ink();
        ink.Add(
            $"<svg class=\"days\" viewBox=\"0 0 {Ink.N(Width)} {Ink.N(height)}\" role=\"group\" aria-label=\"Which vehicle when\""
                + $" data-left=\"{Ink.N(Left)}\" data-width=\"{Ink.N(Width - Left - 8)}\" data-full=\"{Ink.N(Width)}\""
                + $" data-span=\"{span}\">"
        );
        var at = 0;
        foreach (var open in view.Time.Open)
        {
            var (from, to) = (X(at), X(at + open.Length));
            var day = view.First.AddDays(open.From / 86_400);
            ink.Add(
                $"<rect class=\"days-day\" x=\"{Ink.N(from + 1)}\" y=\"{Ink.N(Top - 8)}\" width=\"{Ink.N(to - from - 2)}\""
                    + $" height=\"{Ink.N(height - Top - 18)}\"/>"
            );
            ink.Text(from + 6, 22, day.ToString("dddd d", System.Globalization.CultureInfo.InvariantCulture), "days-name");
            for (var hour = (open.From + 3599) / 3600 * 3600; hour < open.To; hour += 3 * 3600)
            {
                var x = X(at + hour - open.From);
                ink.Line(x, height - 28, x, height - 22, "tl-tick");
                ink.Text(x, height - 8, FormattableString.Invariant($"{hour / 3600 % 24:00}"), "tl-small", "middle");
            }

            at += open.Length;
        }

        for (var b = 0; b < view.Room.Bays; b++)
        {
            ink.Text(4, Top + (b * lane) + (lane / 2), $"bay {b + 1}", "tl-place");
        }

        foreach (var slot in view.Slots)
        {
            var v = view.Vehicles.First(x => x.Job.Number == slot.Id);
            var (x, y, w, h) = (
                X(slot.Start),
                Top + (lanes[slot.Id] * lane),
                Math.Max(6, X(slot.End) - X(slot.Start)),
                (slot.People * Hand) - 3
            );
            var words =
                $"{v.Job.Vehicle}, {slot.People} {(slot.People == 1 ? "person" : "people")}, {view.Clock(slot.Start)} to {view.Clock(slot.End)}";
            ink.Add(
                $"<g class=\"days-block{(v.Etches ? " is-etching" : "")}{(view.Pins.ContainsKey(slot.Id) ? " is-pinned" : "")}\""
                    + $" tabindex=\"0\" role=\"button\" data-vehicle=\"{slot.Id}\" data-start=\"{slot.Start}\""
                    + $" data-begins=\"{v.Job.BeginsAt?.ToString("O")}\""
                    + $" aria-label=\"{Ink.Escape(words)}\"><title>{Ink.Escape(words)}</title><rect x=\"{Ink.N(x)}\""
                    + $" y=\"{Ink.N(y)}\" width=\"{Ink.N(w)}\" height=\"{Ink.N(h)}\"/>"
            );
            for (var p = 1; p < slot.People; p++)
            {
                ink.Line(x, y + (p * Hand) - 1.5, x + w, y + (p * Hand) - 1.5, "days-hand");
            }

            ink.Add("</g>");
            var most = (int)((w - 10) / 7.2);
            if (most > 3)
            {
                var word = v.Job.Vehicle.Split(' ')[0];
                var name =
                    v.Job.Vehicle.Length <= most ? v.Job.Vehicle
                    : word.Length <= most ? word
                    : v.Job.Vehicle[..(most - 1)].TrimEnd() + "…";
                ink.Text(x + 7, y + 19, name, "days-says");
            }
        }

        return ink.Add("</svg>").ToString();
    }

    /// <summary>A bay for each: the first that is free.</summary>
    private static Dictionary<int, int> Lanes(DaysView view)
    {
        var (lanes, free) = (new Dictionary<int, int>(), new int[Math.Max(1, view.Room.Bays)]);
        foreach (var slot in view.Slots.OrderBy(s => s.Start))
        {
            var bay = Array.FindIndex(free, f => f <= slot.Start);
            bay = bay < 0 ? Array.IndexOf(free, free.Min()) : bay;
            (lanes[slot.Id], free[bay]) = (bay, slot.End);
        }

        return lanes;
    }
}
