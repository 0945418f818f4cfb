using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Conditions;

/// <summary>A zone, or an even part of a large one, in the order of work.</summary>
/// <param name="Part">1 to <paramref name="Parts"/>.</param>
public readonly record struct SectionPart(string Zone, int Part, int Parts);

/// <summary>What is wet at the same time: put on in this order, rinsed in the same order.</summary>
/// <param name="StartMinute">After the step began.</param>
/// <param name="Seconds">From the first application to the last rinse.</param>
/// <param name="Idle">Seconds of it in which nobody applies or rinses.</param>
/// <param name="Tightest">The zone with the least time to spare.</param>
/// <param name="Spare">Its usable seconds left when it is rinsed; negative = keep it wet.</param>
public sealed record Section(
    IReadOnlyList<SectionPart> Work,
    double StartMinute,
    Seconds Seconds,
    double Idle,
    string Tightest,
    double Spare
)
{
    /// <summary>The section in words: zones once each, parts named.</summary>
    public string Words => string.Join(", ", Work.Select(w => Limits.Words(w.Zone) + (w.Parts > 1 ? $" {w.Part} of {w.Parts}" : "")));
}

/// <summary>A step cut into sections so that nothing dries before its rinse.</summary>
/// <param name="RemistSeconds">Where no section is small enough: mist again this often.</param>
/// <param name="Why">Why this order and these pieces, in words.</param>
public sealed record SectionPlan(
    IReadOnlyList<Section> Sections,
    Minutes IdleMinutes,
    int LadderMoves,
    Seconds? RemistSeconds,
    IReadOnlyList<string> Why
);

/// <summary>One zone to be cut into sections.</summary>
/// <param name="UsableNow">Usable seconds at the start of the step.</param>
/// <param name="UsableLater">Usable seconds half an hour later; between the two it is drawn straight.</param>
/// <param name="ByHand">Hands-on minutes of one round where it is worked by hand, kept wet as long as the hand is on it; null = sprayed and left.</param>
public sealed record SectionItem(Zone Zone, double UsableNow, double UsableLater, double? ByHand);

/// <summary>How fast a crew puts on and rinses, m² a minute.</summary>
public readonly record struct CrewSpeed(double Apply, double Rinse)
{
    /// <summary>What a piece of this area needs before its dwell ends: put on and rinsed, seconds.</summary>
    public double Reserve(double area) => 60 * area * (1 / Apply + 1 / Rinse);
}

/// <summary>
/// Groups zones into sections and orders them. Roofs come first (what runs down lands on what is still dirty), sides in the order that needs
/// the fewest sections, then the least time; within a side top to bottom. A part of a feasible section is feasible, so that filling each
/// section as far as it goes is best for a given order, and every order of the sides is tried.
/// </summary>
public static class Sections
{
    private const int MostParts = 12;

    /// <summary>Largest number of equal panels at a time, 40 at most.</summary>
    /// <param name="apply">Seconds to put chemistry on one panel.</param>
    /// <param name="rinse">Seconds to rinse one.</param>
    /// <param name="dwell">Seconds each has to stay wet.</param>
    /// <param name="usable">Usable seconds of the panel that dries first.</param>
    /// <returns>0 when not even one can dwell as long before it dries.</returns>
    public static int Most(double apply, double rinse, double dwell, double usable)
    {
        var best = 0;
        for (
            var n = 1;
            n <= 40
                && Timing(Enumerable.Repeat(new Piece(default, default, apply, rinse, usable, usable, false), n).ToArray(), dwell, 0).Spare
                    >= -1e-9;
            n++
        )
        {
            best = n;
        }

        return best;
    }

    /// <summary>Cuts a step into sections.</summary>
    /// <param name="dwell">Seconds every zone has to stay wet.</param>
    /// <param name="mists">Mistings that lengthen the window, each by the usable time.</param>
    public static SectionPlan Plan(IReadOnlyList<SectionItem> items, Vehicle vehicle, CrewSpeed speed, double dwell, int mists)
    {
        var c = Catalogue.Default;
        var bySide = items
            .GroupBy(i => SideOf(i.Zone, vehicle))
            .ToDictionary(
                g => g.Key,
                g => g.OrderByDescending(i => Math.Round(i.Zone.Top, 1)).ThenBy(i => i.Zone.Id, StringComparer.Ordinal).ToArray()
            );
        var pieces = bySide.ToDictionary(g => g.Key, g => g.Value.SelectMany(i => Cut(i, g.Key, speed, dwell, mists)).ToArray());
        var sides = bySide.Keys.Where(k => k != Side.Top).Order().ToArray();
        var orders = Permutations(sides).Select(o => bySide.ContainsKey(Side.Top) ? [Side.Top, .. o] : o.ToArray()).ToArray();
        var ladders = bySide.ToDictionary(g => g.Key, g => g.Value.Where(i => i.ByHand is not null).Sum(i => Ladder(i.Zone, c)));
        var tried = orders.Select(o => Fill(o, pieces, dwell, c)).ToArray();
        // Equal orders: shade side first, the side that dries soonest last, when hands and water are at it and the sun has moved on.
        var best = tried
            .OrderBy(Rank)
            .ThenBy(t => Math.Round(t.Total / c["sides-alike"]))
            .ThenByDescending(t => HottestOf(t.Sides, bySide) is { } hot && t.Sides[^1] == hot)
            .ThenBy(t => t.Total)
            .ThenByDescending(t => Math.Round(t.Sections.Min(s => s.Spare)))
            .First();
        var loose = pieces.Values.SelectMany(p => p).Where(p => Timing([p], dwell, 0).Spare < -1e-9).ToArray();
        var interval = loose.Length > 0 || mists > 0 ? (double?)items.Min(i => Math.Min(i.UsableNow, i.UsableLater)) : null;
        return new(
            best.Sections,
            best.Sections.Sum(s => s.Idle) / 60,
            ladders.Values.Sum(),
            interval,
            Explain(best, tried, bySide, pieces, ladders, loose, c)
        );
    }

    private enum Side
    {
        Top,
        Front,
        Right,
        Rear,
        Left,
    }

    /// <summary>Least of an area that is worked as a piece of its own, m².</summary>
    public static double LeastPiece => Catalogue.Default["section-least"];

    private readonly record struct Piece(SectionPart Work, Side Side, double Apply, double Rinse, double Now, double Later, bool ByHand)
    {
        public double Usable(double minutes) => Now + (Later - Now) * Math.Clamp(minutes / Catalogue.Default["windows-apart"], 0, 1);
    }

    private sealed record Order(Side[] Sides, IReadOnlyList<Section> Sections, double Total);

    private static int Rank(Order o) =>
        o.Sections.Count + (o.Sections.Any(s => s.Spare < -1e-9) ? o.Sections.Count(s => s.Spare < -1e-9) : 0);

    /// <summary>Level zones near the ground belong to the end they lie at; the rest to the side they face.</summary>
    private static Side SideOf(Zone z, Vehicle v) =>
        z.Tilt < Catalogue.Default["level-below"]
            ? z.Top > Catalogue.Default["roof-from"] * v.Size.Height
                ? Side.Top
                : z.Shapes.Average(s => s.Centroid.X) < (v.Min.X + v.Max.X) / 2
                    ? Side.Front
                    : Side.Rear
            : ((int)Math.Round(z.Faces / 90) % 4) switch
            {
                0 => Side.Front,
                1 => Side.Right,
                2 => Side.Rear,
                _ => Side.Left,
            };

    /// <summary>Places a ladder or platform has to stand for one zone.</summary>
    public static int Ladder(Zone z, Catalogue c) =>
        z.Top > c["ladder-high"] && z.Area > c["ladder-least"] ? (int)Math.Ceiling(z.Area / c["ladder-reach"]) : 0;

    /// <summary>
    /// The fewest even parts of a zone that can each be put on, left and rinsed in time; the smallest sensible ones when none can.
    /// </summary>
    private static IEnumerable<Piece> Cut(SectionItem item, Side side, CrewSpeed speed, double dwell, int mists)
    {
        var most = Math.Clamp((int)(item.Zone.Area / LeastPiece), 1, MostParts);
        var parts = 1;
        while (parts < most && Timing([At(1, parts)], dwell, 0).Spare < -1e-9)
        {
            parts++;
        }

        return Enumerable.Range(1, parts).Select(k => At(k, parts));

        Piece At(int k, int n)
        {
            var rinse = 60 * item.Zone.Area / speed.Rinse / n;
            var apply = 60 * item.Zone.Area / speed.Apply / n;
            var c = Catalogue.Default;
            return new(
                new(item.Zone.Id, k, n),
                side,
                item.ByHand is { } hand ? Math.Max(apply, hand * 60 / n - rinse) + Ladder(item.Zone, c) * c["ladder-move"] / n : apply,
                rinse,
                item.UsableNow * (mists + 1),
                item.UsableLater * (mists + 1),
                item.ByHand is not null
            );
        }
    }

    /// <summary>Rinsing starts when the last is on and every one has dwelt long enough by its own turn.</summary>
    private static (double Rinse, double End, double Spare, int Tightest) Timing(IReadOnlyList<Piece> pieces, double dwell, double atMinute)
    {
        double applied = 0,
            rinsed = 0,
            start = 0;
        foreach (var p in pieces)
        {
            applied += p.Apply;
            start = Math.Max(start, dwell + applied - rinsed);
            rinsed += p.Rinse;
        }

        start = Math.Max(start, applied);
        var (spare, tightest) = (double.PositiveInfinity, 0);
        (applied, rinsed) = (0, 0);
        for (var i = 0; i < pieces.Count; i++)
        {
            rinsed += pieces[i].Rinse;
            // What a hand works on stays wet until the hand leaves it.
            var wetFrom = pieces[i].ByHand ? applied + pieces[i].Apply : applied;
            var left = pieces[i].Usable(atMinute) - (start + rinsed - wetFrom);
            applied += pieces[i].Apply;
            if (left < spare)
            {
                (spare, tightest) = (left, i);
            }
        }

        return (start, start + rinsed, spare, tightest);
    }

    private static Order Fill(Side[] sides, Dictionary<Side, Piece[]> pieces, double dwell, Catalogue c)
    {
        var sections = new List<Section>();
        var open = new List<Piece>();
        double clock = 0;
        void Close()
        {
            if (open.Count == 0)
            {
                return;
            }

            var t = Timing(open, dwell, clock / 60);
            sections.Add(
                new(
                    open.Select(p => p.Work).ToArray(),
                    clock / 60,
                    t.End,
                    Math.Max(0, t.Rinse - open.Sum(p => p.Apply)),
                    open[t.Tightest].Work.Zone,
                    t.Spare
                )
            );
            clock += t.End;
            open.Clear();
        }

        for (var s = 0; s < sides.Length; s++)
        {
            var walk = s == 0 ? 0 : c["walk-side"] * (sides[s - 1] == Side.Top || Math.Abs(sides[s] - sides[s - 1]) % 2 == 1 ? 1 : 2);
            foreach (var p in pieces[sides[s]])
            {
                // Round the corner within a section: walked once to put on and once more to rinse.
                open.Add(open.Count == 0 ? p : p with { Apply = p.Apply + walk, Rinse = p.Rinse + walk });
                if (open.Count > 1 && Timing(open, dwell, clock / 60).Spare < -1e-9)
                {
                    open.RemoveAt(open.Count - 1);
                    Close();
                    clock += walk;
                    open.Add(p);
                }
                else if (open.Count == 1)
                {
                    clock += walk;
                }

                walk = 0;
            }
        }

        Close();
        return new(sides, sections, clock);
    }

    /// <summary>The shortest window of a side, its largest panels only.</summary>
    private static double Shortest(SectionItem[] items) => items.OrderByDescending(i => i.Zone.Area).Take(3).Min(i => i.UsableNow);

    private static Side? HottestOf(Side[] sides, Dictionary<Side, SectionItem[]> bySide) =>
        sides.Where(s => s != Side.Top).Select(s => (Side?)s).MinBy(s => Shortest(bySide[s!.Value]));

    private static List<string> Explain(
        Order best,
        Order[] tried,
        Dictionary<Side, SectionItem[]> bySide,
        Dictionary<Side, Piece[]> pieces,
        Dictionary<Side, int> ladders,
        Piece[] loose,
        Catalogue c
    )
    {
        var why = new List<string>();
        static string Name(Side s) =>
            s switch
            {
                Side.Top => "roof",
                Side.Front => "front",
                Side.Right => "right side",
                Side.Rear => "rear",
                _ => "left side",
            };
        var walls = best.Sides.Where(s => s != Side.Top).ToArray();
        if (walls.Length > 1)
        {
            var hot = HottestOf(best.Sides, bySide)!.Value;
            var first = tried.Where(t => t.Sides.First(s => s != Side.Top) == hot).OrderBy(Rank).ThenBy(t => t.Total).First();
            var last = tried.Where(t => t.Sides[^1] == hot).OrderBy(Rank).ThenBy(t => t.Total).First();
            var differ = walls.Max(s => Shortest(bySide[s])) / Math.Max(1, Shortest(bySide[hot])) > c["sides-differ"];
            if (differ && (Rank(first) != Rank(last) || Math.Abs(first.Total - last.Total) >= c["sides-matter"]))
            {
                var at =
                    Array.IndexOf(walls, hot) == 0 ? "first"
                    : Array.IndexOf(walls, hot) == walls.Length - 1 ? "last"
                    : "in between";
                why.Add(
                    $"{Upper(Name(hot))} dries soonest and comes {at}: {Sized(best)}; "
                        + $"{string.Join(", ", new[] { ("first", first), ("last", last) }.Where(x => x.Item1 != at).Select(x => $"{x.Item1} it would be {Sized(x.Item2)}"))}."
                );
            }
            else
            {
                why.Add(
                    $"{Upper(string.Join(", ", walls.Select(Name)))}: "
                        + $"the shortest way round{(!differ ? "" : best.Sides[^1] == hot ? $", shade side first; {Name(hot)} dries soonest" : $"; {Name(hot)} dries soonest, first or last makes no difference here")}."
                );
            }
        }

        if (bySide.ContainsKey(Side.Top) && walls.Length > 0)
        {
            why.Add("Roof before the sides: what runs down lands on panels that are not clean yet.");
        }

        foreach (
            var g in pieces
                .Values.SelectMany(p => p)
                .Where(p => p.Work is { Parts: > 1, Part: 1 })
                .OrderByDescending(p => p.Work.Parts)
                .Take(3)
        )
        {
            why.Add($"{Upper(Limits.Words(g.Work.Zone))} in {g.Work.Parts} pieces: whole, its first part would be dry before its rinse.");
        }

        if (loose.Length > 0)
        {
            why.Add($"{Upper(Limits.Words(loose.MinBy(p => p.Now).Work.Zone))} cannot be cut small enough: keep it wet by misting again.");
        }

        if (ladders.Values.Sum() is > 0 and var moves)
        {
            why.Add(
                $"{moves} ladder {(moves == 1 ? "place" : "places")}, "
                    + $"about {Math.Ceiling(moves * c["ladder-move"] / 60):0} min of moving it."
            );
        }

        return why;

        static string Sized(Order o) =>
            string.Create(
                System.Globalization.CultureInfo.InvariantCulture,
                $"{o.Sections.Count} {(o.Sections.Count == 1 ? "section" : "sections")} in {o.Total / 60:0.#} "
                    + $"min{(o.Sections.Count(s => s.Spare < -1e-9) is > 0 and var dry ? $", {dry} too slow" : "")}"
            );
        static string Upper(string s) => s.Capital();
    }

    private static IEnumerable<IReadOnlyList<Side>> Permutations(Side[] sides) =>
        sides.Length <= 1
            ? [sides]
            : sides.SelectMany(first =>
                Permutations([.. sides.Where(s => s != first)]).Select(rest => (IReadOnlyList<Side>)[first, .. rest])
            );
}

/// <summary>
/// How much more or less film the shop's foam and triggers leave than the model takes: the largest unknown, settled in a minute.
/// </summary>
public static class FilmCalibration
{
    public const double Least = 0.2,
        Most = 5;

    /// <summary>From a towel: half a square metre dabbed dry a minute after it was covered, weighed before and after.</summary>
    /// <param name="grams">What the towel took up.</param>
    /// <returns>Factor on the retained film, or null when it is not between 0.2 and 5: weigh again.</returns>
    public static double? FromTowel(double grams, Carrier carrier, double tilt) =>
        grams * 2 / 1000 / carrier.Held(tilt) is var f && f is >= Least and <= Most ? f : null;

    /// <summary>From one timed dry-out: the factor at which the first dry spots come when they were seen.</summary>
    /// <returns>Null when no film between 0.2 and 5 times the model's would dry then: other conditions than said.</returns>
    public static double? FromDryOut(PanelBalance balance, Carrier carrier, double seconds)
    {
        double At(double f) => WetWindow.Fast(balance, carrier.Times(f)).FirstDry;
        if (!(seconds > 0) || At(Least) > seconds || At(Most) < seconds)
        {
            return null;
        }

        double low = Least,
            high = Most;
        for (var i = 0; i < 40; i++)
        {
            var mid = Math.Sqrt(low * high);
            (low, high) = At(mid) < seconds ? (mid, high) : (low, mid);
        }

        return Math.Sqrt(low * high);
    }
}
