using Microsoft.AspNetCore.Mvc;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Readiness;
using ToughStart.Core.Vehicles;
using ToughStart.Data;
using ToughStart.Web.Drawing;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Stations;

/// <summary>What to buy or borrow for a job, and whether it is kept to its shelf.</summary>
public sealed record BuyPage(int Number, bool StockOnly, IReadOnlyList<BuyLine> Lines);

/// <summary>A drilled zone as the page shows it.</summary>
/// <param name="Ground">The surface it is drilled down to.</param>
public sealed record CorePane(DrilledCore Core, string Ground);

public sealed class PlanModel(
    JobDesk desk,
    PlanCache cache,
    ShopClock clock,
    HandDesk hands,
    LearningDesk learning,
    RecordStore records,
    QuoteStore quotes
) : JobPage(desk)
{
    /// <summary>What it comes to at the shop's own rates, before tax; null where the plan on record no longer knows its worlds.</summary>
    public Core.Planning.Range? Price { get; private set; }

    /// <summary>In words when the plan's conditions are not those of now; null when they are, or when drying is not computed.</summary>
    public string? Differs =>
        Plan.Conditions.Count == 0 || Core.Conditions.SiteConditions.StartOf(Job.Survey.Site).Start is not { } start ? null
        : clock.Local.ToOffset(start.Offset) is var now && now.Date != start.Date ? $"planned for {start:d MMM yyyy}"
        : Math.Abs((now - start).TotalMinutes) > 60 ? $"it is {now:HH:mm} now: look at the day again"
        : null;

    public override string Station => "plan";

    /// <summary>Who saved at the same moment; null = nobody.</summary>
    public string? Overtaken { get; private set; }

    public IReadOnlyList<StageGroup> Groups { get; private set; } = [];

    /// <summary>The steps in two columns: wheels and body where the house keeps them apart, else two halves in order.</summary>
    public IReadOnlyList<(string Title, IReadOnlyList<StageGroup> Groups)> Columns
    {
        get
        {
            if (Job.Survey.Rule("wheels") == "first")
            {
                var wheels = Groups.TakeWhile(g => g.Steps[0].Block == ToughStart.Core.Vehicles.Block.Wheels).ToArray();
                return new[] { ("Wheels, own kit", (IReadOnlyList<StageGroup>)wheels), ("Body", Groups.Skip(wheels.Length).ToArray()) }
                    .Where(c => c.Item2.Count > 0)
                    .ToArray();
            }

            var half = (Groups.Count + 1) / 2;
            return [("In order", Groups.Take(half).ToArray()), ("then", Groups.Skip(half).ToArray())];
        }
    }

    /// <summary>What was put on, at this visit or an earlier one, and would be taken off.</summary>
    public IReadOnlyList<string> Undoes { get; private set; } = [];

    /// <summary>Numbers of the plan that the shop has made its own.</summary>
    public IReadOnlyList<string> Own { get; private set; } = [];

    /// <summary>What the net shows under the selected step: what was found, or is expected.</summary>
    public IReadOnlyDictionary<string, ZonePaint> Paint { get; private set; } = new Dictionary<string, ZonePaint>();

    public async Task<IActionResult> OnGetAsync(int number, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        Groups = CoreSample.StageGroups(Plan);
        Paint = NetDrawing.OfSurvey(Job.Survey);
        var (coats, _) = await hands.CoatsAsync(Job.Id, Vehicle.Zones.Select(z => z.Id), stop);
        Undoes = HandOver.Undoes(Plan, coats.Select(c => (c.Key, c.Value)));
        var priced = Run.InForce is { } force ? Workshop.WithWorlds(force.Plan, force.Survey, stop) : Plan;
        Own = await learning.OwnAsync(priced, Equipped, records.NamesAsync, stop);
        var rates = (await quotes.HouseAsync(stop)).Rates;
        Price =
            priced.Worlds is { } worlds ? Core.Costing.Draws.Of(worlds.Drawn.Prices(rates))
            : rates == Core.Costing.Rates.Default ? Plan.Totals.Money
            : null;
        return Page();
    }

    /// <summary>Puts the plan in force that was looked at: the first one, or what is offered.</summary>
    public async Task<IActionResult> OnPostTakeAsync(int number, string? hash, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        if (await Runs.AcceptAsync(Job, Equipped, hash ?? "", User.StaffId(), stop) is not null)
        {
            return Redirect($"/jobs/{number}/plan");
        }

        Overtaken = "Something changed while you looked at it: this is how it stands now. Nothing was put in force.";
        Response.StatusCode = 409;
        return await OnGetAsync(number, stop);
    }

    /// <summary>The core sample of one zone, for the page that is already open.</summary>
    public async Task<IActionResult> OnGetCoreAsync(int number, string? zone, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        return zone is not null && Vehicle.Has(zone) ? Partial("Core", CoreOf(zone)) : NotFound();
    }

    /// <summary>What this job leans to, in words.</summary>
    public static string LeanWords(Leaning lean) =>
        Leaning.Named.FirstOrDefault(n => n.Lean == lean).Name
        ?? FormattableString.Invariant($"wear ×{lean.Harm:0.##}, time ×{lean.Time:0.##}, money ×{lean.Money:0.##}");

    /// <summary>What would change the plan: for the page that is already open.</summary>
    public async Task<IActionResult> OnGetFlipsAsync(int number, CancellationToken stop) =>
        await LoadAsync(number, true, stop) ?? Partial("Flips", cache.Flips(Equipped, stop));

    /// <summary>What to buy or borrow, with what doing without it comes to.</summary>
    public async Task<IActionResult> OnGetBuyAsync(int number, CancellationToken stop) =>
        await LoadAsync(number, true, stop)
        ?? Partial(
            "Buy",
            new BuyPage(number, Job.Survey.StockOnly, cache.Buy(await Workshop.EquipAsync(Job.Survey, Job.Id, true, stop), stop))
        );

    /// <summary>Takes a refusal back: the plan may suggest it again.</summary>
    public async Task<IActionResult> OnPostAllowAsync(int number, string? treatment, string? stage, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        var saved = await Jobs.SaveSurveyAsync(
            Job.Id,
            Job.Revision,
            Job.Survey with
            {
                Declines = [.. Job.Survey.Declines.Where(d => (d.Treatment ?? "") != (treatment ?? "") || d.Stage != Stage.Maybe(stage))],
            },
            User.StaffId(),
            stop
        );
        if (saved.Saved)
        {
            return Redirect($"/jobs/{number}/plan");
        }

        Overtaken =
            $"{saved.TheirAuthor} changed the job at the same moment; nothing was overwritten. This is the plan of what they saved.";
        Response.StatusCode = 409;
        return await OnGetAsync(number, stop);
    }

    /// <summary>How near the plan is to the best there is, in words.</summary>
    public async Task<IActionResult> OnGetProofAsync(int number, CancellationToken stop) =>
        await LoadAsync(number, true, stop) ?? Content(cache.Proof(Equipped, stop).Words, "text/plain");

    /// <summary>The zone that decides the plan, drilled; null = nothing is done anywhere.</summary>
    public CorePane? Deciding => CoreSample.Deciding(Plan) is { } zone ? CoreOf(zone) : null;

    private CorePane CoreOf(string zone)
    {
        var id = Job.Survey.ZoneOf(zone)?.Surface ?? Vehicle[zone].Kind.Default.Id;
        return new(
            CoreSample.OfZone(Plan, zone),
            id == ToughStart.Core.Surfaces.Surface.UnknownId ? "unknown surface" : Catalogue.Default.Surface(id).Name
        );
    }

    /// <summary>Until which sign, in a few words.</summary>
    public static string UntilWords(Until u) =>
        u.Observe switch
        {
            "bleed" => "until it stops bleeding",
            "foam" => "until the foam stays white",
            "touch" => "until the bag hand feels glass",
            "water" => "until water lies flat",
            _ => "until the cloth stays clean",
        };

    /// <summary>A look as people call it.</summary>
    public static string LookWords(string look) => Catalogue.Default.Tests.FirstOrDefault(t => t.Id == look)?.Name ?? look;

    /// <summary>What a line is about: its words up to the colon.</summary>
    public static string Title(string line) => line.IndexOf(':', StringComparison.Ordinal) is > 0 and var cut ? line[..cut] : line;

    public static string TopicWords(ClientTopic topic) =>
        topic switch
        {
            ClientTopic.Decides => "Looked at first, paid for only if needed",
            ClientTopic.LeftOut => "Left out",
            ClientTopic.Stays => "Stays",
            _ => "Not for washing",
        };

    /// <summary>The colour a stage has in the plan: iron its own, what is washed and rinsed, what is strong.</summary>
    public static string StageColour(Stage stage) =>
        stage == Stage.Iron ? "iron"
        : stage == Stage.Tar || stage == Stage.Acid ? "strong"
        : Wet.Contains(stage) ? "wet"
        : "plain";

    private static readonly Stage[] Wet =
    [
        Stage.Soak,
        Stage.PreRinse,
        Stage.PreWash,
        Stage.Foam,
        Stage.ContactWash,
        Stage.Rinse,
        Stage.ReWash,
    ];

    public static string Agent(Step s) =>
        s.AgentName is "water" or "none"
            ? s.AgentName == "water"
                ? "water"
                : ""
            : $"{s.AgentName} {s.Strength}";

    /// <summary>What a test is worth and what of it is time, money and harm.</summary>
    public static string WorthWords(PlannedTest t)
    {
        var saves = new[]
        {
            (By: t.SavesMinutes.Value, Unit: "min"),
            (By: t.SavesMoney, Unit: "of money"),
            (By: t.SavesHarm, Unit: "points of wear"),
        }
            .Where(x => Math.Abs(x.By) >= 0.05)
            .ToArray();
        string Sum(IEnumerable<(double By, string Unit)> what) =>
            string.Join(" and ", what.Select(x => FormattableString.Invariant($"{Math.Abs(x.By):0.#} {x.Unit}")));
        var (less, more) = (saves.Where(x => x.By > 0).ToArray(), saves.Where(x => x.By < 0).ToArray());
        return FormattableString.Invariant($"Worth {t.Value:0} min: without it one would {t.Without}.")
            + (
                saves.Length == 0
                    ? ""
                    : $" Against doing it everywhere, on average it {(less.Length > 0 ? "saves " + Sum(less) : "")}{(less.Length > 0 && more.Length > 0 ? " and " : "")}{(more.Length > 0 ? "costs " + Sum(more) : "")}."
            );
    }

    /// <summary>The same beside the step's name, which need not be said twice.</summary>
    public static string Beside(Step s) =>
        string.Equals(s.AgentName, s.Name, StringComparison.OrdinalIgnoreCase) ? s.Strength.ToString() : Agent(s);

    /// <summary>Where a step is done, in a few words: all over, and where oftener; else by name as long as that is short.</summary>
    public string Where(Step s)
    {
        var widest = Plan.Steps.Where(x => x.Block == s.Block && x.Stage != Stage.Dry).Max(x => x.Zones.Count);
        var where =
            s.Stage == Stage.Dry || (s.Zones.Count > FewZones && s.Zones.Count >= AllOver * widest)
                ? "all over"
                : ZoneWords.Of(s.Zones, ShortWords);
        return s.OftenerIn(ShortWords) is not { } more ? where
            : where.Length + more.Length <= LineWords ? $"{where}, {more}"
            : $"{where}, up to {s.Rounds}× on {s.Per.Where(p => p.Rounds > s.AtLeast).Sum(p => p.Zones.Count)} zones";
    }

    private const int FewZones = 5,
        ShortWords = 28,
        LineWords = 40;

    /// <summary>Part of a block's zones from which on a step goes all over.</summary>
    private const double AllOver = 0.7;

    /// <summary>How far the steps of a group are done, in a few words; null while nothing is.</summary>
    public string? DoneWords(StageGroup g)
    {
        if (g.Steps.All(Run.IsDone))
        {
            return "done";
        }

        var zones = g
            .Steps.SelectMany(s => s.Zones.Select(z => (Step: s, Done: Run.State.Of(z).Steps.GetValueOrDefault(s.Key).Done)))
            .ToArray();
        return zones.All(z => z.Done == 0) ? null
            : zones.Any(z => z.Done == 0) ? $"begun on {zones.Count(z => z.Done > 0)} of {zones.Length} zones"
            : g.Steps is [{ Oftener: null } only] ? $"{zones.Min(z => z.Done)} of {only.Rounds} rounds done"
            : "begun on all zones";
    }

    /// <summary>Currency, and whether a tax comes on top.</summary>
    public string MoneyWords(Ways ways) =>
        (ways.Currency.Length > 0 ? ways.Currency : "of the shop's money") + (ways.Tax.Length > 0 ? " " + ways.BeforeTax : "");

    /// <summary>How long a step stays, after its agent.</summary>
    public static string Stays(Step s) =>
        s.Under ? " · left wet"
        : s.DwellMinutes > 0 ? FormattableString.Invariant($" · {s.DwellMinutes:0.#} min")
        : "";

    /// <summary>What is missed in a place of the order because it was refused; three at most.</summary>
    public IEnumerable<RefusedGroup> MissedIn(Place slot) =>
        Plan.Refused.Where(r => r.Missed && Catalogue.Default.FindTreatment(r.Treatment)?.In(slot) == true).Take(3);

    /// <summary>A treatment of a plan that may be older than the catalogue.</summary>
    public string TreatmentName(string id) => Catalogue.Default.FindTreatment(id)?.Name ?? id.Replace('-', ' ');

    public string Provenance =>
        $"Engine {Plan.EngineVersion}, catalogue {Plan.CatalogueVersion}; every number with its standing on the Sources page ({Catalogue.Default.Tables.Sum(t => t.Rows.Count)} rows).";

    public string RuleWords(string id) => HouseRules.All.First(r => r.Id == id).Choices.First(c => c.Value == Job.Survey.Rule(id)).Words;
}
