using System.Security.Cryptography;
using System.Text;
using ToughStart.Core.Chemistry;
using ToughStart.Core.Contamination;
using ToughStart.Core.Identification;
using ToughStart.Core.Planning;
using ToughStart.Core.Surfaces;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Provenance;

/// <summary>
/// Every number of the job, once. Tables are text shipped inside the assembly, each with its standing and source; this
/// class reads and cross-checks them. <see cref="Default"/> is read once and never changes.
/// </summary>
public sealed class Catalogue
{
    private static readonly Lazy<Catalogue> Shipped = new(() => new Catalogue());
    private readonly Dictionary<string, double> _constants;

    private Catalogue()
    {
        string[] ids =
        [
            "contaminants",
            "agents",
            "surfaces",
            "zone-kinds",
            "targets",
            "load-limits",
            "slots",
            "treatments",
            "priors",
            "paint-colours",
            "stories",
            "tests",
            "evidence",
            "identification",
            "hazard-groups",
            "meetings",
            "hazard-statements",
            "stand-off",
            "keeping",
            "carriers",
            "substrates",
            "durability",
            "mistakes",
            "media",
            "glossary",
            "units",
            "senses",
            "looks",
            "gate",
            "constants",
        ];
        var tables = ids.ToDictionary(id => id, Provenance.Table.Load);
        Tables = ids.Select(id => tables[id]).ToArray();
        _constants = tables["constants"].Rows.ToDictionary(r => r["id"], r => r.Number("value"));
        Contaminants = tables["contaminants"].Rows.Select((r, i) => ContaminantKind.Read(r, i)).ToArray();
        Agents = tables["agents"].Rows.Select(Chemistry.Agent.Read).ToArray();
        Surfaces = tables["surfaces"].Rows.Select(ToughStart.Core.Surfaces.Surface.Read).ToArray();
        ZoneKinds = tables["zone-kinds"].Rows.Select(r => Vehicles.ZoneKind.Read(r, this)).ToArray();
        LoadLimits = tables["load-limits"].Rows.Select(r => Planning.LoadLimit.Read(r, this)).ToArray();
        Slots = tables["slots"].Rows.Select((r, i) => Planning.Slot.Read(r, i)).ToArray();
        Treatments = tables["treatments"].Rows.Select((r, i) => Planning.Treatment.Read(r, i, this)).ToArray();
        Priors = tables["priors"].Rows.Select(r => Prior.Read(r, this)).ToArray();
        PaintColours = tables["paint-colours"].Rows.Select(ToughStart.Core.Surfaces.PaintColour.Read).ToArray();
        Stories = tables["stories"].Rows.GroupBy(r => r["story"]).Select(Vehicles.Story.Read).ToArray();
        Tests = tables["tests"].Rows.Select(Planning.TestCard.Read).ToArray();
        Evidence = tables["evidence"].Rows.Select(EvidenceVariable.Read).ToArray();
        Marks = tables["identification"].Rows.Select(r => MarkIdentifier.ReadMark(r, Evidence, this)).ToArray();
        Targets = new TargetTable(tables["targets"], this);
        Groups = tables["hazard-groups"].Rows.Select(HazardGroup.Read).ToArray();
        Meetings = tables["meetings"].Rows.Select(MeetingRule.Read).ToArray();
        Statements = tables["hazard-statements"].Rows.Select(HazardStatement.Read).ToArray();
        StandOffs = tables["stand-off"].Rows.Select(StandOff.Read).ToArray();
        Carriers = tables["carriers"].Rows.Select(Conditions.Carrier.Read).ToArray();
        Substrates = tables["substrates"].Rows.Select(Conditions.Substrate.Read).ToArray();
        Mistakes = tables["mistakes"].Rows.ToLookup(r => Stage.Of(r["stage"]), r => r["mistake"]);
        Senses = tables["senses"].Rows.Select(r => new Running.Sense(r, this)).ToArray();
        AnswerWords = tables["looks"]
            .Rows.SelectMany(r =>
                r["says"]
                    .Split(';', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
                    .Select(w => (Key: (Stage.Of(r["stage"]), w[..w.IndexOf('=')]), Words: w[(w.IndexOf('=') + 1)..]))
            )
            .ToDictionary(w => w.Key, w => w.Words);
        Looks = tables["looks"]
            .Rows.ToDictionary(
                r => Stage.Of(r["stage"]),
                r => new Planning.Until(r["look"], r.Words("stop"), r.Words("repeat"), 0, r["then"])
            );
        GateLooks = tables["gate"].Rows.Select(r => Readiness.GateLook.Read(r, this)).ToArray();
        Response = Contamination.Response.Of(this);
        Media = tables["media"].Rows.Select(Planning.Medium.Read).ToArray();
        Glossary = tables["glossary"].Rows.Select(GlossaryEntry.Read).OrderBy(g => g.Word, StringComparer.Ordinal).ToArray();
        Protections = tables["durability"].Rows.Select(Readiness.Protection.Read).ToArray();
        Keeping = tables["keeping"]
            .Rows.ToDictionary(r => Axis.Of(r["axis"]), r => new Keeping(r.Whole("days"), r.Whole("neat"), r["reason"]));
        Version = Convert.ToHexStringLower(
            SHA256.HashData(
                Encoding.UTF8.GetBytes(
                    string.Join('\n', Tables.SelectMany(t => t.Rows.Select(r => t.Id + "|" + string.Join('|', r.Cells))))
                )
            )
        )[..12];
    }

    private Catalogue(Catalogue of, Dictionary<string, ShelfBottle> bottles)
    {
        _constants = of._constants;
        (Tables, Version, Contaminants, Surfaces, ZoneKinds, LoadLimits, Slots) = (
            of.Tables,
            of.Version,
            of.Contaminants,
            of.Surfaces,
            of.ZoneKinds,
            of.LoadLimits,
            of.Slots
        );
        (Senses, Looks, GateLooks, Response, AnswerWords, Glossary) = (
            of.Senses,
            of.Looks,
            of.GateLooks,
            of.Response,
            of.AnswerWords,
            of.Glossary
        );
        (Priors, PaintColours, Stories, Tests, Evidence, Marks, Targets) = (
            of.Priors,
            of.PaintColours,
            of.Stories,
            of.Tests,
            of.Evidence,
            of.Marks,
            of.Targets
        );
        (Groups, Meetings, Statements, StandOffs, Keeping, Carriers, Substrates, Protections, Mistakes, Media) = (
            of.Groups,
            of.Meetings,
            of.Statements,
            of.StandOffs,
            of.Keeping,
            of.Carriers,
            of.Substrates,
            of.Protections,
            of.Mistakes,
            of.Media
        );
        Agents = of.Agents.Select(a => bottles.TryGetValue(a.Id, out var b) ? a.Under(b) : a).ToArray();
        var agents = Agents.ToDictionary(a => a.Id);
        Treatments = of.Treatments.Select(t => t with { Agent = agents[t.Agent.Id] }).ToArray();
    }

    /// <summary>The catalogue shipped with this version.</summary>
    public static Catalogue Default => Shipped.Value;

    /// <summary>Twelve hex digits that change whenever a number of the catalogue does.</summary>
    public string Version { get; }

    public IReadOnlyList<Table> Tables { get; }
    public IReadOnlyList<ContaminantKind> Contaminants { get; }
    public IReadOnlyList<Agent> Agents { get; }
    public IReadOnlyList<Surface> Surfaces { get; }
    public IReadOnlyList<ZoneKind> ZoneKinds { get; }
    public IReadOnlyList<LoadLimit> LoadLimits { get; }
    public IReadOnlyList<Slot> Slots { get; }
    public IReadOnlyList<Treatment> Treatments { get; }
    public IReadOnlyList<Planning.Medium> Media { get; }

    /// <summary>Words of the trade and of the house, by the alphabet.</summary>
    public IReadOnlyList<GlossaryEntry> Glossary { get; }

    /// <summary>What the gate asks of zones.</summary>
    public IReadOnlyList<Readiness.GateLook> GateLooks { get; }

    /// <summary>What looking tells.</summary>
    public IReadOnlyList<Running.Sense> Senses { get; }

    /// <summary>What is looked at in each stage; without a cap, which is the treatment's.</summary>
    public IReadOnlyDictionary<Stage, Planning.Until> Looks { get; }

    /// <summary>What an answer is called in a stage, where its own word would mislead.</summary>
    public IReadOnlyDictionary<(Stage Stage, string Answer), string> AnswerWords { get; }

    /// <summary>How uncertain a round is.</summary>
    public Response Response { get; }

    public IReadOnlyList<Prior> Priors { get; }
    public IReadOnlyList<PaintColour> PaintColours { get; }
    public IReadOnlyList<Story> Stories { get; }
    public IReadOnlyList<TestCard> Tests { get; }
    public IReadOnlyList<EvidenceVariable> Evidence { get; }
    public IReadOnlyList<MarkKind> Marks { get; }
    public TargetTable Targets { get; }
    public IReadOnlyList<HazardGroup> Groups { get; }
    public IReadOnlyList<MeetingRule> Meetings { get; }
    public IReadOnlyList<HazardStatement> Statements { get; }
    public IReadOnlyList<StandOff> StandOffs { get; }

    public IReadOnlyList<Conditions.Carrier> Carriers { get; }
    public IReadOnlyList<Conditions.Substrate> Substrates { get; }

    /// <summary>What goes wrong most, by stage.</summary>
    public ILookup<Stage, string> Mistakes { get; }

    /// <summary>How long protection lasts, shortest first.</summary>
    public IReadOnlyList<Readiness.Protection> Protections { get; }

    /// <summary>How long a mix keeps, by the axis of its agent.</summary>
    public IReadOnlyDictionary<Axis, Keeping> Keeping { get; }

    /// <summary>The catalogue as the bottles of one shelf have it: where a label says something, it wins over the class.</summary>
    public Catalogue Under(IEnumerable<ShelfBottle> bottles)
    {
        var by = bottles.ToDictionary(b => b.Agent);
        return by.Count == 0 ? this : new Catalogue(this, by);
    }

    /// <summary>One table by its id.</summary>
    /// <exception cref="InvalidOperationException">There is no such table.</exception>
    public Table Table(string id) => Tables.First(t => t.Id == id);

    /// <summary>A single number by its id in the table of constants.</summary>
    /// <exception cref="KeyNotFoundException">There is no such constant.</exception>
    public double this[string id] => _constants[id];

    public ContaminantKind Contaminant(string id) => Find(Contaminants, id, c => c.Id);

    public Agent Agent(string id) => Find(Agents, id, a => a.Id);

    public Surface Surface(string id) => Find(Surfaces, id, s => s.Id);

    public ZoneKind ZoneKind(string id) => Find(ZoneKinds, id, k => k.Id);

    public LoadLimit LoadLimit(string id) => Find(LoadLimits, id, g => g.Id);

    public Slot Slot(Place id) => Slots.First(s => s.Id == id);

    public Treatment Treatment(string id) => Find(Treatments, id, t => t.Id);

    /// <summary>A treatment that a record names: null where it has left the catalogue since.</summary>
    public Treatment? FindTreatment(string id) => Treatments.FirstOrDefault(t => t.Id == id);

    private static T Find<T>(IReadOnlyList<T> all, string id, Func<T, string> idOf)
    {
        foreach (var item in all)
        {
            if (idOf(item) == id)
            {
                return item;
            }
        }

        throw new KeyNotFoundException($"no {typeof(T).Name} '{id}' in the catalogue");
    }
}
