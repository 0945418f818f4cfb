using ToughStart.Core.Chemistry;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Surfaces;

namespace ToughStart.Core.Tests;

/// <summary>
/// The figures of the trade written a second time, by hand, from the description of the job (its tables of agents, surfaces and stages),
/// and the whole catalogue against the copy that was last looked at: no row changes unseen.
/// </summary>
public class TradeFiguresTests
{
    private static readonly Catalogue C = Catalogue.Default;

    /// <summary>Agent, pH as used, weakest and strongest on the panel as fractions, reference and longest dwell in minutes.</summary>
    [Theory]
    [InlineData("rinseless", 6, 8, 1 / 257.0, 1 / 65.0, 1, 3)]
    [InlineData("waterless", 6, 8, 1, 1, .5, 1)]
    [InlineData("strip-shampoo", 8, 11, 1 / 334.0, 1 / 100.0, 1, 3)]
    [InlineData("strip-foam", 8, 11, .01, .02, 3, 5)]
    [InlineData("neutral-foam", 6, 8, .01, .02, 5, 10)]
    [InlineData("alkaline-foam", 9, 11, .01, .04, 5, 10)]
    [InlineData("iron-foam", 6, 7, .1, .1, 10, 12)]
    [InlineData("citrus-prewash", 8, 11, 1 / 11.0, 1 / 7.0, 3, 4)]
    [InlineData("tfr", 12, 13.5, .01, .02, 1.5, 2)]
    [InlineData("apc", 10, 12, .1, .2, 2, 3)]
    [InlineData("degreaser", 12, 13, 1 / 6.0, .5, 1, 1.5)]
    [InlineData("bug-remover", 7, 10, 1, 1, 4, 5)]
    [InlineData("wheel-neutral", 6, 8, .1, 1, 3, 5)]
    [InlineData("wheel-acid", 1, 3, .1, .25, .8, 1)]
    [InlineData("iron-remover", 5.5, 8, 1, 1, 5, 10)]
    [InlineData("spot-acid", 2, 4, 1, 1, 1.5, 2)]
    [InlineData("chain-cleaner", 6, 9, 1, 1, 3, 5)]
    public void Agents_are_as_the_trade_has_them(string id, double phLow, double phHigh, double low, double high, double dwell, double most)
    {
        var a = C.Agent(id);
        (a.PhLow, a.PhHigh, a.Dwell.Value, a.MaxDwell.Value).ShouldBe((phLow, phHigh, dwell, most));
        a.Low.Value.ShouldBe(low, 1e-9);
        a.High.Value.ShouldBe(high, 1e-9);
    }

    /// <summary>Rounds at most in a visit, by stage: four for iron and tyres, three for stripping.</summary>
    [Theory]
    [InlineData("iron", 4)]
    [InlineData("tyres", 4)]
    [InlineData("strip", 3)]
    [InlineData("pre-wash", 2)]
    [InlineData("spot", 3)]
    [InlineData("clay", 3)]
    public void Nobody_goes_on_for_ever(string word, int cap)
    {
        var stage = Stage.Of(word);
        var plans = new[] { "estuary-pickup", "barn-saloon", "touring-saloon", "orchard-pickup" }
            .Select(d => Repository.Plan(Repository.Demo(d)))
            .ToArray();
        var steps = plans.SelectMany(p => p.Steps).Where(s => s.Stage == stage && s.Until is not null).ToArray();
        steps.ShouldAllBe(s => s.Until!.MaxRounds <= cap && s.Rounds <= s.Until.MaxRounds);
        var treatments = C.Treatments.Where(t =>
            t.Slots.Any(s => new[] { Family.Tyre, Family.Body }.Any(f => Slot.StageOn(s, f) == stage && t.SuitsFamily(f)))
        );
        treatments.Max(t => t.MaxRounds).ShouldBeLessThanOrEqualTo(cap);
    }

    [Fact]
    public void What_a_class_can_never_take_is_what_the_notes_say()
    {
        double Floor(string treatment, string kind) =>
            C.Treatment(treatment).Removes.Single(r => r.Kind == C.Contaminant(kind).Index).Floor;
        double Decades(string treatment, string kind) =>
            C.Treatment(treatment).Removes.Single(r => r.Kind == C.Contaminant(kind).Index).Decades;
        (Decades("iron-spray", "iron"), Floor("iron-spray", "iron")).ShouldBe((.45, .04));
        (Decades("tar-spot", "tar"), Floor("tar-spot", "tar")).ShouldBe((.85, .015));
        (Decades("clay-bar-fine", "bonded-mix"), Floor("clay-bar-fine", "bonded-mix")).ShouldBe((.45, .02));
        (
            Floor("foam-neutral", "road-film"),
            Floor("foam-alkaline", "road-film"),
            Floor("spray-citrus", "road-film"),
            Floor("spray-tfr", "road-film")
        ).ShouldBe((.3, .15, .12, .08));
        (Floor("foam-alkaline", "bug"), Floor("bug-soak", "bug"), Floor("bug-mesh", "bug")).ShouldBe((.15, .06, .02));
    }

    [Fact]
    public void Grades_ages_and_heat_are_those_of_the_notes()
    {
        new[] { "grade-1", "grade-2", "grade-3", "grade-4" }.Select(g => C[g]).ShouldBe([.08, .25, .55, 1]);
        new[] { "age-fresh", "age-days", "age-weeks", "age-seasons" }.Select(g => C[g]).ShouldBe([.7, 1, 1.4, 2]);
        (C["sigma-seen"], C["sigma-suspected"], C["sigma-measured"]).ShouldBe((.35, .7, .15));
        (C["hot-film"], C["hot-panel"], C["cold"]).ShouldBe((30, 40, 5));
        (C["lance-draw"], C["lance-draw-low"], C["lance-draw-high"]).ShouldBe((.1, .04, .17));
        (C["band-low"], C["band-high"], C["look-slip"], C["near-target"]).ShouldBe((.05, .25, .03, 1.26));
        C.Senses.ToDictionary(s => s.Look + (s.Stage?.Word ?? "*"), s => s.Spread)
            .ShouldBe(
                new Dictionary<string, double>
                {
                    ["touch*"] = .35,
                    ["bleed*"] = .4,
                    ["water*"] = .4,
                    ["foam*"] = .5,
                    ["look*"] = .5,
                    ["dab*"] = .5,
                    ["clothtar"] = .5,
                    ["clothspot"] = .5,
                    ["cloth*"] = .5,
                    ["clayFace*"] = .5,
                    // A lamp is a look: the notes give looks .5.
                    ["light*"] = .5,
                },
                ignoreOrder: true
            );
    }

    [Fact]
    public void An_unknown_surface_carries_the_limits_of_every_one_it_can_be()
    {
        foreach (var kind in C.ZoneKinds.Where(k => k.MayBe.Count > 1))
        {
            var worst = Surface.WorstOf(kind.MayBe);
            worst.PhLow.ShouldBe(kind.MayBe.Max(s => s.PhLow), kind.Id);
            worst.PhHigh.ShouldBe(kind.MayBe.Min(s => s.PhHigh), kind.Id);
            foreach (var axis in Axis.All.Where(a => a != Axis.None))
            {
                worst.On(axis).Never.ShouldBe(kind.MayBe.Any(s => s.On(axis).Never), $"{kind.Id}, {axis}");
            }
        }
    }

    [Fact]
    public void What_drifts_counts_as_well_as_what_runs()
    {
        // Acid on a painted wheel face: what lies beside it and is bare refuses it, and does not when it is lacquered.
        var survey = Repository.Saloon(
            """{ "zone": "*-wheel-face", "surface": "painted-wheel", "findings": [ { "contaminant": "iron", "grade": 4 } ] }"""
        ) with
        {
            Shelf = [.. C.Agents.Where(a => !a.IsWater).Select(a => new ShelfBottle(a.Id, true, a.Id == "wheel-acid" ? 3.5 : null, false))],
        };
        var states = ZoneState.FromSurvey(survey, Vehicles.Forms.Build("saloon", survey.Vehicle.Size), C).ToDictionary(z => z.Zone.Id);
        var drifts = states.Values.Where(z => z.Zone.Neighbours.Except(z.Zone.DrainsTo).Any()).ToArray();
        drifts.ShouldNotBeEmpty();
        var tried = 0;
        foreach (var z in drifts)
        {
            foreach (var id in z.Zone.Neighbours.Except(z.Zone.DrainsTo))
            {
                // Everything bears it but this one neighbour.
                var sound = states.ToDictionary(s => s.Key, s => s.Value with { Surface = C.Surface("powder-coated-wheel") });
                var bare = new Dictionary<string, ZoneState>(sound) { [id] = sound[id] with { Surface = C.Surface("bare-aluminium") } };
                var acid = C.Treatment("wheel-acid");
                new Limits(survey, sound, C).Judge(acid, sound[z.Zone.Id]).Allowed.ShouldBeTrue(z.Zone.Id);
                var ruling = new Limits(survey, bare, C).Judge(acid, bare[z.Zone.Id]);
                (ruling.Objection?.Reaches?.How == "drifts onto" || ruling.Masked > 0).ShouldBeTrue($"{z.Zone.Id} beside {id}");
                tried++;
            }
        }

        tried.ShouldBeGreaterThan(4);
    }

    [Fact]
    public void Every_standing_has_its_own_word_and_every_table_prints_the_one_it_has()
    {
        Enum.GetValues<Standing>().Select(s => s.InWords()).ShouldBe(["published", "common practice", "from memory", "model assumption"]);
        C.Table("constants").Rows.ShouldAllBe(r => Enum.GetValues<Standing>().Any(s => s.InWords() == r["kind"]));
        C.Table("mistakes").Standing.ShouldBe(Standing.CommonPractice);
        C.Table("treatments").Standing.ShouldBe(Standing.ModelAssumption);
    }

    [Fact]
    public void No_row_of_the_catalogue_changes_unseen()
    {
        var now =
            string.Join(
                '\n',
                C.Tables.SelectMany(t =>
                    t.Rows.Select(r => $"{t.Id} | {string.Join(" | ", r.Cells)}").Prepend($"{t.Id} # {t.Standing.InWords()} # {t.Source}")
                )
            ) + "\n";
        var approved = Path.Combine(Repository.Root, "tests", "ToughStart.Core.Tests", "Data", "catalogue.approved.txt");
        var was = File.Exists(approved) ? File.ReadAllText(approved) : "";
        if (now != was)
        {
            var received = Path.Combine(Path.GetTempPath(), "catalogue.received.txt");
            File.WriteAllText(received, now);
            var (a, b) = (was.Split('\n').ToHashSet(), now.Split('\n').ToHashSet());
            Assert.Fail(
                $"The catalogue is not the one that was looked at last. If that is meant, copy {received} over {approved}.\n"
                    + string.Join('\n', a.Except(b).Take(20).Select(l => "- " + l).Concat(b.Except(a).Take(20).Select(l => "+ " + l)))
            );
        }
    }
}
