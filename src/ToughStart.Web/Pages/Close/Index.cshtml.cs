using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using ToughStart.Core.Costing;
using ToughStart.Core.Planning;
using ToughStart.Core.Readiness;
using ToughStart.Core.Running;
using ToughStart.Core.Running.Live;
using ToughStart.Core.Vehicles;
using ToughStart.Data;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Stations;

/// <summary>Closing a job: as planned and as done, kept apart; what was used leaves the shelf.</summary>
public sealed class CloseModel(
    JobDesk desk,
    ShelfStore shelf,
    KitStore kit,
    GateDesk gate,
    RecordStore records,
    CloseDesk closing,
    BookStore books,
    HandDesk hands,
    QuoteStore quotes,
    ShopClock clock
) : JobPage(desk)
{
    public override string Station => "close";

    public IReadOnlyList<(Guid Product, string Name, decimal ReservedMl, decimal DrawnMl, decimal StockMl)> Products { get; private set; } =
    [];

    public IReadOnlyDictionary<string, double> Planned { get; private set; } = new Dictionary<string, double>();

    public IReadOnlyList<DrainLine> Drain { get; private set; } = [];

    public string? Refused { get; private set; }

    /// <summary>What the gate says; null where nothing may start.</summary>
    public GateStanding? Gate { get; private set; }

    /// <summary>Phones that were not heard for a while: what they know is not in here.</summary>
    public IReadOnlyList<(string Who, DateTimeOffset Heard)> Away { get; private set; } = [];

    /// <summary>What closing would leave undone, in words; empty when nothing is open.</summary>
    public IReadOnlyList<string> Open { get; private set; } = [];

    /// <summary>Why it was opened again, the newest first.</summary>
    public IReadOnlyList<ZoneNote> Reopened { get; private set; } = [];

    /// <summary>As planned and as done; null while nothing was ever in force.</summary>
    public Reckoned? Reckoned { get; private set; }

    /// <summary>The line of the logbook; null while the job is open.</summary>
    public JobBook? Book { get; private set; }

    /// <summary>
    /// What the client took, and what the job as it was worked comes to by the same rates, with tax; null = nothing was taken, or timed.
    /// </summary>
    public (double Agreed, double AtMost, double? Worked, double Hours)? Price { get; private set; }

    /// <summary>Media and clay somebody may have used.</summary>
    public IReadOnlyList<KitItem> Media { get; private set; } = [];

    /// <summary>Bottles that stand mixed for this job.</summary>
    public IReadOnlyList<MixView> Bottles { get; private set; } = [];

    public IReadOnlyDictionary<string, string> Names { get; private set; } = new Dictionary<string, string>();

    /// <summary>By when what was really put on is renewed.</summary>
    public IReadOnlyList<(DateOnly Due, Protection Kind, IReadOnlyList<string> Zones)> Dues { get; private set; } = [];

    /// <summary>Wheels were worked on: somebody brakes the vehicle before the keys go back.</summary>
    public bool Brakes => CloseDesk.WheelsWorked(Run);

    /// <summary>What a piece of kit was said to be.</summary>
    public string Piece(Guid id) => Request.HasFormContentType ? Request.Form[$"kit-{id:N}"].ToString() : "";

    /// <summary>What was typed as used, by product.</summary>
    public IReadOnlyDictionary<Guid, string> Typed { get; private set; } = new Dictionary<Guid, string>();

    public async Task<IActionResult> OnGetAsync(int number, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        await FillAsync(stop);
        return Page();
    }

    /// <summary>Opens a closed job again: an owner's act, with a reason.</summary>
    public async Task<IActionResult> OnPostReopenAsync(int number, string? reason, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        if (!User.IsInRole(Roles.Owner))
        {
            return Forbid();
        }

        var words = reason?.Trim() ?? "";
        Refused =
            words.Length is < 3 or > 300 ? "reason: say in 3 to 300 characters why it is opened again"
            : await Jobs.ReopenAsync(Job.Id, words, User.StaffId(), stop) ? null
            : "it is not closed: somebody opened it meanwhile";
        if (Refused is null)
        {
            return Redirect($"/jobs/{number}/plan");
        }

        Response.StatusCode = words.Length is < 3 or > 300 ? 422 : 409;
        await FillAsync(stop);
        return Page();
    }

    public async Task<IActionResult> OnPostAsync(int number, bool sure, bool brakes, bool keys, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        await FillAsync(stop);
        if (Wet is { } wet && !IsClosed)
        {
            Typed = Products.ToDictionary(p => p.Product, p => Request.Form[$"used-{p.Product:N}"].ToString());
            (Refused, Response.StatusCode) = (wet, 409);
            return Page();
        }

        if (Open.Count > 0 && !sure && !IsClosed)
        {
            Typed = Products.ToDictionary(p => p.Product, p => Request.Form[$"used-{p.Product:N}"].ToString());
            (Refused, Response.StatusCode) = ("something is still open: look at the list, then say that it is closed all the same", 409);
            return Page();
        }

        Typed = Products.ToDictionary(p => p.Product, p => Request.Form[$"used-{p.Product:N}"].ToString());
        if (Brakes && !brakes && !IsClosed)
        {
            (Refused, Response.StatusCode) = (
                "wheels were worked on: brake it, slowly and more than once, and tick it; wet or slippery discs do not bite at first",
                422
            );
            return Page();
        }

        var used = new List<(Guid, decimal)>();
        foreach (var p in Products)
        {
            if (
                !decimal.TryParse(
                    Typed[p.Product].Trim().Replace(',', '.'),
                    NumberStyles.AllowDecimalPoint,
                    CultureInfo.InvariantCulture,
                    out var ml
                )
                || ml > 10_000_000
            )
            {
                (Refused, Response.StatusCode) = ($"{p.Name}: what was used is a number of ml, 0 or more", 422);
                return Page();
            }

            used.Add((p.Product, ml));
        }

        string? refused;
        try
        {
            // Stock, log, kit and book line: all of it, or the job is still open.
            await using var together = await books.TogetherAsync(stop);
            refused = await BookedAsync(used, brakes, keys, stop);
            if (refused is null)
            {
                await together.CommitAsync(stop);
            }
        }
        catch
        {
            Runs.Forget(Job.Id);
            throw;
        }

        if (refused is null)
        {
            return Redirect($"/jobs/{number}/close");
        }

        (Refused, Response.StatusCode) = (refused, 409);
        await FillAsync(stop);
        return Page();
    }

    /// <returns>Null when all is booked; else why not.</returns>
    private async Task<string?> BookedAsync(List<(Guid, decimal)> used, bool brakes, bool keys, CancellationToken stop)
    {
        if (await shelf.CloseAsync(Job.Id, used, User.StaffId(), stop) is { } refused)
        {
            return refused;
        }

        await Runs.CloseAsync(Job.Id, User.StaffId(), stop);
        var (laundry, bin) = (Media.Where(k => Piece(k.Id) == "laundry").ToArray(), Media.Where(k => Piece(k.Id) == "bin").ToArray());
        foreach (var k in laundry)
        {
            await kit.UseOnceAsync(k.Id, stop);
        }

        foreach (var k in bin)
        {
            await kit.BinAsync(k.Id, stop);
        }

        await closing.WriteAsync(
            Job,
            await Runs.OfAsync(Job, Equipped, stop),
            Equipped,
            new Closing(brakes, keys, [.. laundry.Select(k => k.Name)], [.. bin.Select(k => k.Name)]),
            User.StaffId(),
            stop
        );
        return null;
    }

    /// <summary>Nobody closes over a film that nobody has surely rinsed, or over a stop; null = nothing of it.</summary>
    private string? Wet
    {
        get
        {
            if (Run.Live.Stops.Count > 0)
            {
                return "a stop is in force: somebody has to say first that it is safe again";
            }

            var wet = Run.Live.Zones.Where(z => z.Value.Lines.Count > 0).Select(z => Live.ZoneOf(z.Key)).Distinct().ToArray();
            return wet.Length == 0
                ? null
                : $"still wet, as the bay has it: {ZoneWords.Of(wet)}; rinse it, or say in the bay that it was rinsed";
        }
    }

    private async Task FillAsync(CancellationToken stop)
    {
        Products = await shelf.OfJobAsync(Job.Id, stop);
        Gate = Plan.ReferOnly ? null : await gate.OfAsync(Job, Run, Equipped, stop);
        Away = IsClosed ? [] : await Runs.AwayAsync(Job.Id, await records.NamesAsync(stop), stop);
        Names = await records.NamesAsync(stop);
        Reckoned = await closing.ReckonAsync(Job, Run, stop);
        Book = IsClosed ? await books.BookAsync(Job.Id, stop) : null;
        Dues = HandDesk.Dues((await hands.CoatsAsync(Job.Id, Vehicle.Zones.Select(z => z.Id), stop)).Coats, clock);
        Media = IsClosed ? [] : await kit.MediaAsync(stop);
        var first = await Runs.FirstAsync(Job, stop) ?? Plan;
        Planned = JobVolumes
            .Solutions(first)
            .Where(s => s.Bottle is not null)
            .GroupBy(s => s.Bottle!)
            .ToDictionary(g => g.Key, g => g.Sum(s => s.NeedMl * s.Mix.InVessel.Value));
        Drain = JobVolumes.Drain(first);
        Price = await PriceAsync(first, stop);
        Reopened = (await Jobs.NotesAsync(Job.Id, stop)).Where(n => n.Zone == JobStore.ReopenNote).ToArray();
        Bottles = [.. (await kit.MixesAsync(true, 200, stop)).Where(m => m.Job == Job.Number)];
        Open = IsClosed ? [] : OpenWork(Bottles);
    }

    private async Task<(double, double, double?, double)?> PriceAsync(Plan first, CancellationToken stop)
    {
        if (await quotes.TakenAsync(Job.Id, stop) is not { Taken: { } body } taken || Reckoned is not { } done)
        {
            return null;
        }

        var rates = QuoteDesk.Read(body).Rates;
        var used = await shelf.OfJobAsync(Job.Id, stop);
        var prices = await books.PricesAsync([.. used.Select(u => u.Product)], stop);
        var cost = (double)used.Sum(u => u.DrawnMl * prices.GetValueOrDefault(u.Product));
        var share = done.PlannedLitres > 0 ? done.DoneLitres / (double)done.PlannedLitres : 0;
        double? worked =
            done.Minutes <= 0
                ? null
                : rates.Price(done.Minutes, cost, done.DoneLitres, share * JobVolumes.ContainedLitres(first))
                    * (1 + (rates.TaxPercent / 100));
        return ((double)taken.TakenPrice!, (double)taken.TakenAtMost!, worked, done.Minutes / 60);
    }

    /// <summary>Steps, looks, tests and bottles that are open, the gravest first.</summary>
    private List<string> OpenWork(IReadOnlyList<MixView> mixes)
    {
        var list = new List<string>();
        if (Run.InForce is null)
        {
            list.Add(
                Plan.ReferOnly
                    ? "Nothing may start here, and nothing was done."
                    : "No plan was put in force: nothing that was done is on record."
            );
            return list;
        }

        if (Wet is { } wet)
        {
            list.Add(wet.Capital() + ".");
        }

        list.AddRange(
            Run.Loops.Where(l => l.Again).GroupBy(l => l.Words).Select(g => $"{g.Key} {ZoneWords.Of([.. g.Select(l => l.Zone)])}")
        );
        list.AddRange(
            Run.Ask.Select(a =>
                $"{PlanModel.LookWords(a.Look)}: to be looked at again ({a.Because.Replace('-', ' ')}), {ZoneWords.Of(a.Zones)}"
            )
        );
        var groups = Drawing.CoreSample.StageGroups(Plan).Where(g => !g.Steps.All(Run.IsDone)).ToArray();
        if (groups.Length > 0)
        {
            list.Add(
                $"{groups.Length} {(groups.Length == 1 ? "step is" : "steps are")} not done: {string.Join(", ", groups.Select(g => $"{g.Number} {g.Name}"))}."
            );
        }

        var tests = (Run.Here ?? Plan)
            .Tests.Where(t => t.Required || t.Worth)
            .Select(t => PlanModel.LookWords(t.Test).ToLowerInvariant())
            .Distinct()
            .ToArray();
        if (tests.Length > 0)
        {
            list.Add(
                $"{tests.Length} {(tests.Length == 1 ? "test was" : "tests were")} asked for and not made: {string.Join(", ", tests)}."
            );
        }

        if (mixes.Count > 0)
        {
            list.Add($"Still mixed for it: {string.Join(", ", mixes.Select(m => $"{m.LeftMl:0} ml {m.Product} in {m.Bottle}"))}.");
        }

        return list;
    }

    public string Used((Guid Product, string Name, decimal ReservedMl, decimal DrawnMl, decimal StockMl) p) =>
        Typed.TryGetValue(p.Product, out var t) ? t : Math.Round(p.ReservedMl).ToString("0", CultureInfo.InvariantCulture);
}
