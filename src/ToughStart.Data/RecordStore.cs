using Microsoft.EntityFrameworkCore;
using ToughStart.Core.Formats;

namespace ToughStart.Data;

/// <summary>One visit of a client.</summary>
public sealed record ClientVisit(int Number, string Vehicle, string Plate, DateOnly Day, string Station);

/// <summary>A client with all visits, newest first.</summary>
public sealed record ClientLine(Guid Id, string Name, string? Phone, string? Email, IReadOnlyList<ClientVisit> Visits)
{
    /// <summary>Clients on one page.</summary>
    public const int Most = 50;
}

/// <summary>A photo without its pixels, for lists.</summary>
/// <param name="Mark">The damage it shows; null = the zone.</param>
public sealed record PhotoLine(Guid Id, string Zone, string Moment, int Width, int Height, string Author, DateTimeOffset At, Guid? Mark);

/// <summary>Photos, readings and what is kept of a client: what hangs on a job besides its documents.</summary>
public sealed class RecordStore(ToughStartContext db, TimeProvider time)
{
    /// <summary>Most photos of one job.</summary>
    public const int MostPhotos = 200;

    public async Task<IReadOnlyList<PhotoLine>> PhotosAsync(Guid jobId, CancellationToken stop = default) =>
        await db
            .Photos.AsNoTracking()
            .Where(p => p.JobId == jobId)
            .OrderBy(p => p.Zone)
            .ThenBy(p => p.At)
            .Select(p => new PhotoLine(p.Id, p.Zone, p.Moment, p.Width, p.Height, p.Author, p.At, p.MarkId))
            .ToListAsync(stop);

    /// <summary>Is a mark drawn on a zone of a job, and not struck?</summary>
    public Task<bool> HasMarkAsync(Guid jobId, string zone, Guid mark, CancellationToken stop = default) =>
        db.Marks.AnyAsync(m => m.Id == mark && m.JobId == jobId && m.Zone == zone && !m.Struck, stop);

    /// <summary>Keeps a picture; false when the job has as many as it may.</summary>
    /// <param name="mark">The damage it shows; null = the zone.</param>
    public async Task<bool> AddPhotoAsync(
        Guid jobId,
        string zone,
        string moment,
        byte[] jpeg,
        byte[] thumb,
        int width,
        int height,
        string author,
        Guid? mark = null,
        CancellationToken stop = default
    )
    {
        if (await db.Photos.CountAsync(p => p.JobId == jobId, stop) >= MostPhotos)
        {
            return false;
        }

        db.Photos.Add(
            new Photo
            {
                JobId = jobId,
                Zone = zone,
                MarkId = mark,
                Moment = moment,
                Jpeg = jpeg,
                Thumb = thumb,
                Width = width,
                Height = height,
                Author = author,
                At = time.GetUtcNow(),
            }
        );
        await db.SaveChangesAsync(stop);
        return true;
    }

    public async Task<byte[]?> PhotoAsync(Guid jobId, Guid id, bool thumb, CancellationToken stop = default) =>
        await db
            .Photos.AsNoTracking()
            .Where(p => p.JobId == jobId && p.Id == id)
            .Select(p => thumb ? p.Thumb : p.Jpeg)
            .FirstOrDefaultAsync(stop);

    public async Task DeletePhotoAsync(Guid jobId, Guid id, CancellationToken stop = default) =>
        await db.Photos.Where(p => p.JobId == jobId && p.Id == id).ExecuteDeleteAsync(stop);

    public async Task AddReadingsAsync(
        Guid jobId,
        IEnumerable<(string Kind, string Zone, double Value)> readings,
        string source,
        string author,
        CancellationToken stop = default
    )
    {
        db.Readings.AddRange(
            readings.Select(r => new Reading
            {
                JobId = jobId,
                Kind = r.Kind,
                Zone = r.Zone,
                Value = r.Value,
                Source = source,
                Author = author,
                At = time.GetUtcNow(),
            })
        );
        await db.SaveChangesAsync(stop);
    }

    /// <summary>Everything the shop holds of one client, as it would hand it over.</summary>
    public async Task<object?> ExportClientAsync(Guid clientId, CancellationToken stop = default)
    {
        var client = await db.Clients.AsNoTracking().FirstOrDefaultAsync(c => c.Id == clientId, stop);
        if (client is null)
        {
            return null;
        }

        var jobs = await db
            .Jobs.AsNoTracking()
            .Where(j => j.Vehicle!.ClientId == clientId)
            .OrderBy(j => j.Number)
            .Select(j => new
            {
                j.Id,
                j.Number,
                j.Day,
                j.Story,
                j.Station,
                j.Intake,
                Vehicle = j.Vehicle!.Name,
                j.Vehicle.Plate,
            })
            .ToListAsync(stop);
        var ids = jobs.Select(j => j.Id).ToArray();
        var surveys = await db
            .Surveys.AsNoTracking()
            .Where(s => ids.Contains(s.JobId))
            .OrderBy(s => s.Revision)
            .Select(s => new
            {
                s.JobId,
                s.Revision,
                s.Author,
                s.At,
                s.Body,
            })
            .ToListAsync(stop);
        var events = await db
            .Events.AsNoTracking()
            .Where(s => ids.Contains(s.JobId))
            .OrderBy(s => s.JobId)
            .ThenBy(s => s.Number)
            .Select(s => new
            {
                s.JobId,
                s.At,
                s.Kind,
                s.Body,
            })
            .ToListAsync(stop);
        var notes = await db
            .Notes.AsNoTracking()
            .Where(s => ids.Contains(s.JobId))
            .Select(s => new
            {
                s.JobId,
                s.Zone,
                s.Words,
                s.At,
            })
            .ToListAsync(stop);
        var readings = await db
            .Readings.AsNoTracking()
            .Where(s => ids.Contains(s.JobId))
            .Select(s => new
            {
                s.JobId,
                s.Kind,
                s.Zone,
                s.Value,
                s.At,
            })
            .ToListAsync(stop);
        var marks = await db
            .Marks.AsNoTracking()
            .Where(s => ids.Contains(s.JobId) && !s.Struck)
            .Select(s => new
            {
                s.JobId,
                s.Zone,
                s.Kind,
                s.Mm,
                s.Nail,
                s.Decision,
                s.Words,
                s.At,
            })
            .ToListAsync(stop);
        var photos = await db
            .Photos.AsNoTracking()
            .Where(s => ids.Contains(s.JobId))
            .Select(s => new
            {
                s.JobId,
                s.Zone,
                s.Moment,
                s.At,
                s.Jpeg,
            })
            .ToListAsync(stop);
        var hand = await db
            .HandWork.AsNoTracking()
            .Where(s => ids.Contains(s.JobId) && !s.Struck)
            .Select(s => new
            {
                s.JobId,
                s.Act,
                s.Kind,
                s.Zones,
                s.Layers,
                s.At,
            })
            .ToListAsync(stop);
        var letters = await db
            .Letters.AsNoTracking()
            .Where(s => ids.Contains(s.JobId))
            .Select(s => new
            {
                s.JobId,
                s.To,
                s.Subject,
                s.Words,
                s.At,
            })
            .ToListAsync(stop);
        var shares = await db
            .Shares.AsNoTracking()
            .Where(s => ids.Contains(s.JobId))
            .Select(s => new
            {
                s.JobId,
                s.At,
                s.Until,
                s.Revoked,
                s.Views,
            })
            .ToListAsync(stop);
        var quotes = await db
            .Quotes.AsNoTracking()
            .Where(s => ids.Contains(s.JobId))
            .Select(s => new
            {
                s.JobId,
                s.Version,
                s.At,
                s.Said,
                s.Price,
                s.AtMost,
                s.TakenBy,
                s.TakenAt,
                s.TakenPrice,
            })
            .ToListAsync(stop);
        static System.Text.Json.JsonElement Json(string body) => System.Text.Json.JsonDocument.Parse(body).RootElement;
        return new
        {
            format = "toughstart.client/1",
            client = new
            {
                client.Name,
                client.Phone,
                client.Email,
            },
            jobs = jobs.Select(j => new
            {
                j.Number,
                j.Day,
                j.Vehicle,
                j.Plate,
                j.Story,
                j.Station,
                intake = Json(j.Intake),
                surveys = surveys
                    .Where(s => s.JobId == j.Id)
                    .Select(s => new
                    {
                        s.Revision,
                        s.Author,
                        s.At,
                        survey = Json(s.Body),
                    }),
                events = events.Where(s => s.JobId == j.Id).Select(s => new { s.At, body = Json(s.Body) }),
                notes = notes
                    .Where(s => s.JobId == j.Id)
                    .Select(s => new
                    {
                        s.Zone,
                        s.Words,
                        s.At,
                    }),
                readings = readings
                    .Where(s => s.JobId == j.Id)
                    .Select(s => new
                    {
                        s.Kind,
                        s.Zone,
                        s.Value,
                        s.At,
                    }),
                damage = marks
                    .Where(s => s.JobId == j.Id)
                    .Select(s => new
                    {
                        s.Zone,
                        s.Kind,
                        s.Mm,
                        s.Nail,
                        s.Decision,
                        s.Words,
                        s.At,
                    }),
                byHand = hand.Where(s => s.JobId == j.Id)
                    .Select(s => new
                    {
                        s.Act,
                        s.Kind,
                        s.Zones,
                        s.Layers,
                        s.At,
                    }),
                letters = letters
                    .Where(s => s.JobId == j.Id)
                    .Select(s => new
                    {
                        s.To,
                        s.Subject,
                        s.Words,
                        s.At,
                    }),
                links = shares
                    .Where(s => s.JobId == j.Id)
                    .Select(s => new
                    {
                        s.At,
                        s.Until,
                        s.Revoked,
                        s.Views,
                    }),
                quotes = quotes.Where(s => s.JobId == j.Id),
                photos = photos
                    .Where(s => s.JobId == j.Id)
                    .Select(s => new
                    {
                        s.Zone,
                        s.Moment,
                        s.At,
                        jpegBase64 = Convert.ToBase64String(s.Jpeg),
                    }),
            }),
        };
    }

    /// <summary>
    /// Erases one client: names, contact, registrations, stories, wishes, notes and photos go, but for who released a held vehicle; what is left of the jobs holds ids
    /// and numbers only, so that stock and learning still add up.
    /// </summary>
    /// <returns>False when there is no such client.</returns>
    public async Task<bool> EraseClientAsync(Guid clientId, CancellationToken stop = default)
    {
        await using var all = await db.Database.BeginTransactionAsync(stop);
        var client = await db.Clients.FirstOrDefaultAsync(c => c.Id == clientId, stop);
        if (client is null)
        {
            return false;
        }

        var ids = await db.Jobs.Where(j => j.Vehicle!.ClientId == clientId).Select(j => j.Id).ToListAsync(stop);
        (client.Name, client.Phone, client.Email) = (JobStore.Erased, null, null);
        foreach (var vehicle in await db.Vehicles.Where(v => v.ClientId == clientId).ToListAsync(stop))
        {
            (vehicle.Name, vehicle.Plate) = (JobStore.Erased, JobStore.Erased);
        }

        await db.SaveChangesAsync(stop);
        await db
            .Jobs.Where(j => ids.Contains(j.Id))
            .ExecuteUpdateAsync(j => j.SetProperty(x => x.Story, JobStore.Erased).SetProperty(x => x.Intake, "{}"), stop);
        // Who let a held vehicle into work is a record of the shop's care, not of the client: it stays.
        await db.Notes.Where(n => ids.Contains(n.JobId) && !n.Zone.StartsWith(JobStore.ReleaseNote)).ExecuteDeleteAsync(stop);
        await db.Photos.Where(n => ids.Contains(n.JobId)).ExecuteDeleteAsync(stop);
        // No link opens any more, and letters go: both are about the client. What was put on, rounds and minutes are the vehicle's and the work's.
        await db
            .Shares.Where(n => ids.Contains(n.JobId) && n.Revoked == null)
            .ExecuteUpdateAsync(m => m.SetProperty(x => x.Revoked, time.GetUtcNow()), stop);
        await db.Letters.Where(n => ids.Contains(n.JobId)).ExecuteDeleteAsync(stop);
        // Whoever turned an option is named in what was taken.
        foreach (
            var quote in await db
                .Quotes.Where(n => ids.Contains(n.JobId) && n.Taken != null)
                .Select(n => new { n.Id, n.Taken })
                .ToListAsync(stop)
        )
        {
            if (QuoteFormat.Read(System.Text.Encoding.UTF8.GetBytes(quote.Taken!)).Value is { } taken)
            {
                var nameless = taken with
                {
                    Options = [.. taken.Options.Select(o => o.By.Length == 0 ? o : o with { By = JobStore.Erased })],
                };
                var body = System.Text.Encoding.UTF8.GetString(QuoteFormat.Write(nameless));
                await db.Quotes.Where(n => n.Id == quote.Id).ExecuteUpdateAsync(m => m.SetProperty(x => x.Taken, body), stop);
            }
        }

        // What was agreed is the work's; the hand it was taken in and the words that were said are the client's.
        await db
            .Quotes.Where(n => ids.Contains(n.JobId))
            .ExecuteUpdateAsync(
                m => m.SetProperty(x => x.TakenBy, x => x.TakenBy == null ? null : JobStore.Erased).SetProperty(x => x.Said, ""),
                stop
            );
        // Damage is the work's; what somebody wrote beside it may name the client.
        await db.Marks.Where(n => ids.Contains(n.JobId)).ExecuteUpdateAsync(m => m.SetProperty(x => x.Words, (string?)null), stop);
        await all.CommitAsync(stop);
        return true;
    }

    /// <summary>Clients by name, each with its jobs, newest first.</summary>
    /// <param name="find">Part of a name, a registration or a vehicle; null = all.</param>
    /// <returns>A page of them, how many there are, counted to <see cref="JobStore.MostCounted"/>, and whether more follow.</returns>
    public async Task<(IReadOnlyList<ClientLine> Lines, int All, bool More)> ClientsAsync(
        string? find = null,
        int skip = 0,
        CancellationToken stop = default
    )
    {
        skip = Math.Max(0, skip);
        var clients = db.Clients.AsNoTracking().Where(c => c.Name != JobStore.Erased);
        IQueryable<Client> InOrder(IQueryable<Client> some) => some.OrderBy(c => c.Name).ThenBy(c => c.Id);
        if (find?.Trim() is { Length: > 0 } wanted)
        {
            // In each place only the first of them: a name that many have is found by leafing, not by gathering all of them.
            var like = Part.Of(wanted);
            var owners = db.VehiclesWith(wanted).Select(v => v.ClientId);
            IQueryable<Guid> First(IQueryable<Client> some) => InOrder(some).Take(skip + ClientLine.Most + 1).Select(c => c.Id);
            var found = First(clients.Where(c => EF.Functions.ILike(c.Name, like, Part.Escape)))
                .Union(First(clients.Where(c => owners.Contains(c.Id))));
            clients = db.Clients.AsNoTracking().Where(c => found.Contains(c.Id));
        }

        var page = await InOrder(clients).Skip(skip).Take(ClientLine.Most + 1).ToListAsync(stop);
        var more = page.Count > ClientLine.Most;
        page = [.. page.Take(ClientLine.Most)];
        var ids = page.Select(c => c.Id).ToArray();
        var jobs = (
            await db
                .Jobs.AsNoTracking()
                .Where(j => ids.Contains(j.Vehicle!.ClientId))
                .OrderByDescending(j => j.Day)
                .ThenByDescending(j => j.Number)
                .Select(j => new
                {
                    j.Vehicle!.ClientId,
                    Visit = new ClientVisit(j.Number, j.Vehicle.Name, j.Vehicle.Plate, j.Day, j.Station),
                })
                .Take(2000)
                .ToListAsync(stop)
        ).ToLookup(j => j.ClientId, j => j.Visit);
        return (
            page.Select(c => new ClientLine(c.Id, c.Name, c.Phone, c.Email, jobs[c.Id].ToArray())).ToArray(),
            await clients.OrderBy(c => c.Name).Take(JobStore.MostCounted).CountAsync(stop),
            more
        );
    }

    /// <summary>A client's name; null when there is no such client, or it was erased.</summary>
    public async Task<string?> ClientNameAsync(Guid id, CancellationToken stop = default) =>
        await db.Clients.AsNoTracking().Where(c => c.Id == id && c.Name != JobStore.Erased).Select(c => c.Name).FirstOrDefaultAsync(stop);

    /// <summary>Names of the shop's people by the short id that records carry.</summary>
    public async Task<IReadOnlyDictionary<string, string>> NamesAsync(CancellationToken stop = default) =>
        await db
            .Users.AsNoTracking()
            .Select(u => new { u.StaffId, u.DisplayName })
            .ToDictionaryAsync(u => u.StaffId, u => u.DisplayName, stop);
}
