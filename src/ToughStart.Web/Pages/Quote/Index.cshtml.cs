using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using ToughStart.Core.Costing;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Data;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Stations;

/// <summary>The quote of a job: what it may cost and how sure that is, what may be left out, and the sheet the client gets.</summary>
public sealed class QuoteModel(
    JobDesk desk,
    QuoteDesk quotes,
    QuoteStore store,
    BookStore books,
    RecordStore records,
    LearningDesk learning,
    IPost post,
    ShopClock clock
) : JobPage(desk)
{
    public override string Station => "quote";

    public QuoteHouse House { get; private set; } = null!;

    public Quoted? Quoted { get; private set; }

    public HoldPoint? Hold { get; private set; }

    public IReadOnlyList<QuoteOption> Options { get; private set; } = [];

    public IReadOnlyList<JobQuote> Versions { get; private set; } = [];

    public QuoteSheet? Sheet { get; private set; }

    public IReadOnlyList<ShareLink> Shares { get; private set; } = [];

    public IReadOnlyList<PhotoLine> Photos { get; private set; } = [];

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    /// <summary>The link that was just made; it is shown once.</summary>
    public string? Made { get; private set; }

    public string? Email { get; private set; }

    public string? Said { get; private set; }

    /// <summary>What the client would like to pay, from intake; null = nobody said.</summary>
    public decimal? Wish { get; private set; }

    /// <summary>Numbers of this job that the shop has made its own, in words.</summary>
    public IReadOnlyList<string> Own { get; private set; } = [];

    public string PostSays => post.Says;

    /// <summary>What somebody would like to pay, and what that means.</summary>
    public (double Wanted, Quote? Then, string Words)? Budgeted { get; private set; }

    public bool IsOwner => User.IsInRole(Roles.Owner);

    public DateTimeOffset Now => books.Now;

    public string StandsOf(JobQuote q) => quotes.Stands(q);

    public bool IsOpen(JobQuote q) => quotes.IsOpen(q);

    /// <summary>What the newest taken version turned that the survey does not have yet.</summary>
    public JobQuote? ToTakeOver { get; private set; }

    /// <summary>Parts of the price, in hours and shares, for the sentence under the curve.</summary>
    public IReadOnlyDictionary<DrawGroup, double> Makes { get; private set; } = new Dictionary<DrawGroup, double>();

    public async Task<IActionResult> OnGetAsync(int number, double? budget, int? version, CancellationToken stop)
    {
        if (await LoadedAsync(number, version, stop) is { } none)
        {
            return none;
        }

        if (budget is { } wanted && Quoted is not null)
        {
            if (!double.IsFinite(wanted) || wanted is < 1 or > 1_000_000)
            {
                return Refuse(422, new Problem("budget", "is a price from 1 to 1 000 000"));
            }

            Budgeted = Within(wanted, stop);
        }

        return Page();
    }

    /// <summary>One option's row, worked out when the page asks for it: the page shows how many are still to come.</summary>
    public async Task<IActionResult> OnGetOptionAsync(int number, string? id, CancellationToken stop)
    {
        if (await PricedAsync(number, stop) is { } none)
        {
            return none;
        }

        return Options.FirstOrDefault(o => o.Id == id) is { } option
            ? Partial("_Option", (quotes.Effect(option, Equipped, House.Rates, stop), Scale))
            : NotFound();
    }

    /// <summary>The end of the axis that all options share.</summary>
    public double Scale => Math.Max(20, (Quoted?.Net.Expected ?? 100) * 0.4);

    public async Task<IActionResult> OnPostKeepAsync(
        int number,
        string? said,
        string? terms,
        int days,
        Guid[]? photos,
        string[]? turn,
        CancellationToken stop
    )
    {
        if (await LoadedAsync(number, null, stop) is { } none)
        {
            return none;
        }

        var (words, under) = (said?.Trim() ?? "", terms?.Trim() ?? "");
        var problems = new List<Problem>();
        if (days is < 1 or > QuoteStore.MostDays)
        {
            problems.Add(new("days", $"a quote stands 1 to {QuoteStore.MostDays} days"));
        }

        if (words.Length > QuoteStore.MostSaid)
        {
            problems.Add(new("said", $"is at most {QuoteStore.MostSaid} characters"));
        }

        if (under.Length is 0 or > QuoteStore.MostTerms)
        {
            problems.Add(new("terms", $"is 1 to {QuoteStore.MostTerms} characters"));
        }

        if (Quoted is null)
        {
            problems.Add(new("plan", "nothing may start yet, so there is nothing to price"));
        }

        if (problems.Count > 0)
        {
            Said = words;
            return Refuse(422, [.. problems]);
        }

        var quote = quotes.Of(Equipped, House.Rates, QuoteDesk.Turned(turn), User.DisplayName(), stop);
        var mine = Photos.Select(p => p.Id).Intersect(photos ?? []).ToArray();
        return await quotes.KeepAsync(Job, Equipped, quote, under, words, days, mine, User.StaffId(), stop) is null
            ? Refuse(409, new Problem("version", $"there are {QuoteStore.MostVersions} versions already"))
            : Redirect($"/jobs/{number}/quote#sheet");
    }

    /// <summary>A link by which the client sees this version and may take it; with an address it goes by letter.</summary>
    public async Task<IActionResult> OnPostShareAsync(int number, Guid quote, string? to, string? words, CancellationToken stop)
    {
        if (await LoadedAsync(number, null, stop) is { } none)
        {
            return none;
        }

        if (Versions.FirstOrDefault(v => v.Id == quote) is not { } kept || !quotes.IsOpen(kept))
        {
            return Refuse(409, new Problem("quote", "does not stand any more: keep a new version"));
        }

        var address = to?.Trim() ?? "";
        if (address.Length > 0 && (!System.Net.Mail.MailAddress.TryCreate(address, out _) || address.Length > 200))
        {
            return Refuse(422, new Problem("to", "is no mail address"));
        }

        var text = words?.Trim() ?? "";
        if (address.Length > 0 && text.Length is < 3 or > 2000)
        {
            return Refuse(422, new Problem("words", "3 to 2 000 characters"));
        }

        // It outlives the quote by a little, so that whoever comes late is told so.
        var open = kept.Until.DayNumber - clock.Today.DayNumber + 30;
        if (await books.ShareAsync(Job.Id, "", Math.Clamp(open, 1, 365), User.StaffId(), kept.Id, stop) is not { } token)
        {
            return Refuse(409, new Problem("link", $"{BookStore.MostShares} links are open: take one back first"));
        }

        var link = $"{Request.Scheme}://{Request.Host}/q/{token}";
        if (address.Length == 0)
        {
            Made = link;
            Shares = await books.SharesAsync(Job.Id, true, stop);
            return Page();
        }

        await post.SendAsync(
            new Letter
            {
                JobId = Job.Id,
                To = address,
                Subject = $"{Job.Vehicle}: what it would cost",
                Words = $"{text}\n\n{link}\n",
                Author = User.StaffId(),
                At = books.Now,
            },
            stop
        );
        return Redirect($"/jobs/{number}/quote#links");
    }

    public async Task<IActionResult> OnPostRevokeAsync(int number, Guid share, CancellationToken stop)
    {
        if (await LoadAsync(number, false, stop) is { } none)
        {
            return none;
        }

        await books.RevokeAsync(Job.Id, share, stop);
        return Redirect($"/jobs/{number}/quote#links");
    }

    public async Task<IActionResult> OnPostWithdrawAsync(int number, Guid quote, CancellationToken stop)
    {
        if (await LoadAsync(number, false, stop) is { } none)
        {
            return none;
        }

        await store.WithdrawAsync(Job.Id, quote, stop);
        return Redirect($"/jobs/{number}/quote#sheet");
    }

    /// <summary>Brings what the client turned into the job's survey, so that the plan is what was agreed.</summary>
    public async Task<IActionResult> OnPostTakeOverAsync(int number, CancellationToken stop)
    {
        if (await LoadedAsync(number, null, stop) is { } none)
        {
            return none;
        }

        if (ToTakeOver is not { Taken: { } taken })
        {
            return Redirect($"/jobs/{number}/quote");
        }

        var survey = QuoteOption.Chosen(Job.Survey, QuoteDesk.Read(taken).Turned);
        var saved = await Jobs.SaveSurveyAsync(Job.Id, Job.Revision, survey, User.StaffId(), stop);
        return saved.Saved
            ? Redirect($"/jobs/{number}/plan")
            : Refuse(
                409,
                new Problem("survey", $"{saved.TheirAuthor} changed the job at the same moment; nothing was overwritten. Look again.")
            );
    }

    private (double, Quote?, string) Within(double wanted, CancellationToken stop)
    {
        var effects = Options.Select(o => quotes.Effect(o, Equipped, House.Rates, stop)).Where(e => e.Matters).ToArray();
        var over = (Quoted!.Price - wanted) / (1 + (House.Rates.TaxPercent / 100));
        for (var more = 0; more < 4; more++)
        {
            // Differences do not add up to the very price: what is proposed is planned anew, and asked for a little more where it is not enough.
            if (Budget.For(over + (more * Math.Max(1, House.Rates.RoundTo)), effects) is not { } cut)
            {
                break;
            }

            var then = quotes.Of(Equipped, House.Rates, [.. cut.Select(o => o.Option.Id)], "", stop);
            if (then.Quoted.Price <= wanted)
            {
                return (wanted, then, "");
            }
        }

        return (wanted, null, "Even with everything left out that may be, it costs more than that.");
    }

    private PageResult Refuse(int status, params Problem[] problems)
    {
        (Problems, Response.StatusCode) = (problems, status);
        return Page();
    }

    /// <summary>What prices need and nothing else.</summary>
    private async Task<IActionResult?> PricedAsync(int number, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        House = await store.HouseAsync(stop);
        if (Draft is { ReferOnly: false, Worlds: { } worlds })
        {
            (Quoted, Hold) = (Quoted.Of(worlds.Drawn, House.Rates), HoldPoint.Of(Draft, House.Rates));
            Options = QuoteOption.Of(Equipped, Draft);
        }

        return null;
    }

    private async Task<IActionResult?> LoadedAsync(int number, int? version, CancellationToken stop)
    {
        if (await PricedAsync(number, stop) is { } none)
        {
            return none;
        }

        Versions = await store.OfAsync(Job.Id, stop);
        Shares = await books.SharesAsync(Job.Id, true, stop);
        Photos = await records.PhotosAsync(Job.Id, stop);
        var intake = await Jobs.IntakeAsync(Job.Id, stop);
        (Email, Wish) = (intake.Client.Email, intake.Wishes.Budget);
        if (Quoted is not null)
        {
            Own = await learning.OwnAsync(Draft, Equipped, records.NamesAsync, stop);
            Makes = Draft.Worlds!.Shares(Worlds.Enough.First, stop);
        }

        var shown = Versions.FirstOrDefault(v => v.Version == version)
            ?? Versions.FirstOrDefault(v => v.TakenAt is not null)
            ?? (Versions.Count > 0 ? Versions[0] : null);
        Sheet =
            shown is not null ? quotes.Sheet(Job, shown, null, $"/jobs/{number}/photos", true, stop)
            : Quoted is not null ? quotes.Draft(Job, Draft, Equipped, House, number)
            : null;
        ToTakeOver = Versions
            .Where(v => v.TakenAt is not null)
            .OrderByDescending(v => v.TakenAt)
            .FirstOrDefault(v =>
                v.Taken is { } body
                && SurveyFormat.Hash(QuoteOption.Chosen(Job.Survey, QuoteDesk.Read(body).Turned)) != SurveyFormat.Hash(Job.Survey)
            );
        return null;
    }
}
