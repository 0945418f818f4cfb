using Microsoft.EntityFrameworkCore;
using ToughStart.Core.Identification;

namespace ToughStart.Data;

/// <summary>What is looked for in the logbook; everything that is not said holds for any.</summary>
/// <param name="Find">Part of a vehicle, registration, client or story, a job's number, or a word of the trade.</param>
/// <param name="Who">Staff id of somebody who worked on it.</param>
/// <param name="Product">Product that was used.</param>
public sealed record LogbookSearch(
    string? Find = null,
    string? Goal = null,
    DateOnly? From = null,
    DateOnly? To = null,
    string? Who = null,
    Guid? Product = null,
    string? Only = null,
    int Skip = 0
)
{
    /// <summary>Lines of a page.</summary>
    public const int Most = 40;

    /// <summary>Further pages than this are not leafed through: one searches.</summary>
    public const int MostSkipped = 4000;

    /// <summary>What a search can be held to.</summary>
    public static IReadOnlyList<(string Id, string Words)> Onlys { get; } =
    [
        ("dried", "something dried on a panel"),
        ("unmoved", "something did not come off"),
        ("unknown", "an unknown mark did not budge"),
        ("declined", "the client declined something"),
        ("trouble", "there was trouble"),
        ("unverified", "left unverified"),
    ];
}

/// <summary>One line of the logbook.</summary>
public sealed record LogbookLine(
    int Number,
    Guid VehicleId,
    string Vehicle,
    string Plate,
    string Client,
    DateOnly Day,
    string Goal,
    int? Minutes,
    int PlannedMinutes,
    int Litres,
    int ProductMl,
    int Ready,
    int Unverified,
    int Dried,
    DateOnly? Due
);

/// <summary>A loop that ended without getting clean.</summary>
public sealed record Unmoved(string Kind, string Agent, int Rounds, IReadOnlyList<string> Zones);

/// <summary>A visit of a vehicle as the logbook has it.</summary>
public sealed record VisitLine(
    int Number,
    JobBook Book,
    IReadOnlyList<HandWork> Hand,
    IReadOnlyList<GateMark> Marks,
    IReadOnlyList<Unmoved> Unmoved
)
{
    /// <summary>What was tried on marks nobody was sure of.</summary>
    public IReadOnlyList<MarkTry> Tries { get; init; } = [];

    /// <summary>Pictures of the damage, by mark.</summary>
    public required ILookup<Guid, Guid> Pictures { get; init; }
}

/// <summary>A vehicle that should come again, and is not here.</summary>
public sealed record DueLine(
    int Number,
    Guid VehicleId,
    string Vehicle,
    string Plate,
    string Client,
    string? Email,
    DateOnly Due,
    DateTimeOffset? Reminded
);

/// <summary>Every closed job: searched, leafed through, and by vehicle.</summary>
public sealed class LogbookStore(ToughStartContext db, TimeProvider time)
{
    /// <summary>A page of it, newest first.</summary>
    public async Task<IReadOnlyList<LogbookLine>> FindAsync(LogbookSearch s, CancellationToken stop = default)
    {
        var skip = Math.Clamp(s.Skip, 0, LogbookSearch.MostSkipped);
        var books = db.Books.AsNoTracking();
        if (s.Goal is { } goal)
        {
            books = books.Where(b => b.Goal == goal);
        }

        if (s.From is { } from)
        {
            books = books.Where(b => b.Day >= from);
        }

        if (s.To is { } to)
        {
            books = books.Where(b => b.Day <= to);
        }

        if (s.Who is { } who)
        {
            books = books.Where(b => db.PaceLessons.Any(p => p.JobId == b.JobId && p.Who == who));
        }

        if (s.Product is { } product)
        {
            books = books.Where(b =>
                db.Moves.Any(m => m.JobId == b.JobId && m.ProductId == product && m.Kind == "use")
                || db.LoopLessons.Any(l => l.JobId == b.JobId && l.ProductId == product)
            );
        }

        books = s.Only switch
        {
            "dried" => books.Where(b => b.Dried > 0),
            "unmoved" => books.Where(b => db.LoopLessons.Any(l => l.JobId == b.JobId && !l.Stopped && l.Excluded == null)),
            "unknown" => books.Where(b => db.Tries.Any(t => t.JobId == b.JobId && !t.Struck && t.Outcome == TryOutcome.Nothing)),
            "declined" => books.Where(b => EF.Functions.ILike(b.Words, "%declined%")),
            "trouble" => books.Where(b => EF.Functions.ILike(b.Words, "%trouble%")),
            "unverified" => books.Where(b => b.Unverified > 0),
            _ => books,
        };
        if (s.Find?.Trim() is { Length: > 0 } wanted)
        {
            // Each place it may stand in by its own index; in one condition over all of them none could be used. Of each only the newest: a word
            // that stands in every second job is found by leafing, not by gathering all of them.
            var like = Part.Of(wanted);
            var number = int.TryParse(wanted, out var n) ? n : -1;
            var vehicles = db.VehiclesWith(wanted).Select(v => v.Id);
            var clients = db.ClientsWith(wanted).Select(c => c.Id);
            var theirs = db.Vehicles.Where(v => clients.Contains(v.ClientId)).Select(v => v.Id);
            var jobs = db.Jobs.Where(j => j.Number == number || EF.Functions.ILike(j.Story, like, Part.Escape)).Select(j => j.Id);
            var most = skip + LogbookSearch.Most + 1;
            IQueryable<Guid> Newest(IQueryable<JobBook> of) =>
                of.OrderByDescending(b => b.Day).ThenByDescending(b => b.JobId).Take(most).Select(b => b.JobId);
            var found = Newest(books.Where(b => vehicles.Contains(b.VehicleId)))
                .Union(Newest(books.Where(b => theirs.Contains(b.VehicleId))))
                .Union(Newest(books.Where(b => jobs.Contains(b.JobId))))
                .Union(Newest(books.Where(b => EF.Functions.ILike(b.Words, like, Part.Escape))));
            books = db.Books.AsNoTracking().Where(b => found.Contains(b.JobId));
        }

        return await books
            .OrderByDescending(b => b.Day)
            .ThenByDescending(b => b.JobId)
            .Skip(skip)
            .Take(LogbookSearch.Most + 1)
            .Join(db.Jobs, b => b.JobId, j => j.Id, (b, j) => new { Book = b, Job = j })
            .OrderByDescending(x => x.Book.Day)
            .ThenByDescending(x => x.Job.Number)
            .Select(x => new LogbookLine(
                x.Job.Number,
                x.Book.VehicleId,
                x.Job.Vehicle!.Name,
                x.Job.Vehicle.Plate,
                x.Job.Vehicle.Client!.Name,
                x.Book.Day,
                x.Book.Goal,
                x.Book.Minutes,
                x.Book.PlannedMinutes,
                x.Book.Litres,
                x.Book.ProductMl,
                x.Book.Ready,
                x.Book.Unverified,
                x.Book.Dried,
                x.Book.Due
            ))
            .ToListAsync(stop);
    }

    /// <summary>A vehicle with its visits, the newest last; null when there is none.</summary>
    public async Task<(ClientVehicle Vehicle, string Client, IReadOnlyList<VisitLine> Visits)?> VehicleAsync(
        Guid id,
        CancellationToken stop = default
    )
    {
        if (await db.Vehicles.AsNoTracking().Include(v => v.Client).FirstOrDefaultAsync(v => v.Id == id, stop) is not { } vehicle)
        {
            return null;
        }

        var books = await db
            .Books.AsNoTracking()
            .Where(b => b.VehicleId == id)
            .OrderByDescending(b => b.Day)
            .Take(MostVisits)
            .Join(db.Jobs, b => b.JobId, j => j.Id, (b, j) => new { Book = b, j.Number })
            .ToListAsync(stop);
        var ids = books.Select(b => b.Book.JobId).ToArray();
        var hand = (await db.HandWork.AsNoTracking().Where(h => ids.Contains(h.JobId) && !h.Struck).ToListAsync(stop)).ToLookup(h =>
            h.JobId
        );
        var marks = (await db.Marks.AsNoTracking().Where(m => ids.Contains(m.JobId) && !m.Struck).ToListAsync(stop)).ToLookup(m => m.JobId);
        var pictures = (
            await db
                .Photos.AsNoTracking()
                .Where(p => ids.Contains(p.JobId) && p.MarkId != null)
                .OrderBy(p => p.At)
                .Select(p => new { p.Id, Mark = p.MarkId!.Value })
                .ToListAsync(stop)
        ).ToLookup(p => p.Mark, p => p.Id);
        var tries = (
            await db.Tries.AsNoTracking().Where(t => ids.Contains(t.JobId) && !t.Struck).OrderBy(t => t.At).ToListAsync(stop)
        ).ToLookup(t => t.JobId);
        var loops = (
            await db.LoopLessons.AsNoTracking().Where(l => ids.Contains(l.JobId) && !l.Stopped && l.Excluded == null).ToListAsync(stop)
        ).ToLookup(l => l.JobId);
        return (
            vehicle,
            vehicle.Client!.Name,
            [
                .. books
                    .OrderBy(b => b.Book.Day)
                    .ThenBy(b => b.Number)
                    .Select(b => new VisitLine(
                        b.Number,
                        b.Book,
                        [.. hand[b.Book.JobId].OrderBy(h => h.At)],
                        [.. marks[b.Book.JobId]],
                        [
                            .. loops[b.Book.JobId]
                                .GroupBy(l => (l.Kind, l.Agent, l.Rounds))
                                .Select(g => new Unmoved(g.Key.Kind, g.Key.Agent, g.Key.Rounds, [.. g.Select(l => l.Zone)])),
                        ]
                    )
                    {
                        Tries = [.. tries[b.Book.JobId]],
                        Pictures = pictures,
                    }),
            ]
        );
    }

    /// <summary>Visits that are drawn beside each other.</summary>
    public const int MostVisits = 16;

    /// <summary>
    /// Vehicles that are due until a day and have no open job, the longest overdue first. Who has not come for half a year after
    /// that is not waited for any more.
    /// </summary>
    public async Task<IReadOnlyList<DueLine>> DueAsync(DateOnly until, int most, CancellationToken stop = default)
    {
        // The nearest first, by the index of days, then what is known of those few: asked of all at once, years of visits would be gone through.
        var near = await db
            .Books.AsNoTracking()
            .Where(b => b.Due >= until.AddDays(-WaitedFor) && b.Due <= until)
            .OrderByDescending(b => b.Due)
            .Take(MostNear)
            .Select(b => new
            {
                b.JobId,
                b.Due,
                CameSince = db.Books.Any(o => o.VehicleId == b.VehicleId && (o.Day > b.Day || (o.Day == b.Day && o.At > b.At))),
                IsHere = db.Jobs.Any(j => j.VehicleId == b.VehicleId && j.Station != "closed"),
            })
            .ToListAsync(stop);
        var due = near.Where(b => !b.IsHere && !b.CameSince)
            .OrderBy(b => b.Due)
            .ThenBy(b => b.JobId)
            .Take(most)
            .ToDictionary(b => b.JobId, b => b.Due!.Value);
        if (due.Count == 0)
        {
            return [];
        }

        var ids = due.Keys.ToArray();
        var lines = await db
            .Jobs.AsNoTracking()
            .Where(j => ids.Contains(j.Id) && j.Vehicle!.Name != JobStore.Erased)
            .Select(j => new
            {
                j.Id,
                j.Number,
                j.VehicleId,
                j.Vehicle!.Name,
                j.Vehicle.Plate,
                Client = j.Vehicle.Client!.Name,
                j.Vehicle.Client.Email,
                Reminded = db.Letters.Where(l => l.JobId == j.Id && l.Subject.StartsWith(Reminder)).Max(l => (DateTimeOffset?)l.At),
            })
            .ToListAsync(stop);
        return
        [
            .. lines
                .OrderBy(l => due[l.Id])
                .Select(l => new DueLine(l.Number, l.VehicleId, l.Name, l.Plate, l.Client, l.Email, due[l.Id], l.Reminded)),
        ];
    }

    /// <summary>Days.</summary>
    private const int WaitedFor = 200;

    /// <summary>Visits among which those are looked for that are due.</summary>
    private const int MostNear = 120;

    private const string Reminder = "Due again: ";

    /// <summary>What a reminder is headed by.</summary>
    public static string ReminderOf(string vehicle) => Reminder + vehicle;

    public async Task<IReadOnlyList<SavedView>> ViewsAsync(CancellationToken stop = default) =>
        await db.Views.AsNoTracking().OrderBy(v => v.Name).Take(MostViews).ToListAsync(stop);

    public const int MostViews = 30;

    /// <summary>Keeps a search by name; a name that is there already gets the new search.</summary>
    /// <returns>Why not; null = it is kept.</returns>
    public async Task<string?> KeepAsync(string name, string query, string author, CancellationToken stop = default)
    {
        if (await db.Views.FirstOrDefaultAsync(v => v.Name == name, stop) is { } there)
        {
            there.Query = query;
        }
        else if (await db.Views.CountAsync(stop) >= MostViews)
        {
            return $"there are {MostViews} already: let one go first";
        }
        else
        {
            db.Views.Add(
                new SavedView
                {
                    Name = name,
                    Query = query,
                    Author = author,
                    At = time.GetUtcNow(),
                }
            );
        }

        await db.SaveChangesAsync(stop);
        db.ChangeTracker.Clear();
        return null;
    }

    public Task<int> ForgetAsync(Guid id, CancellationToken stop = default) => db.Views.Where(v => v.Id == id).ExecuteDeleteAsync(stop);
}
