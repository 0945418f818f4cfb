using CsCheck;
using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Running;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Tests;

public class BeliefTests
{
    private static readonly Gen<LoadBelief> Any = Gen.Select(Gen.Double[0.01, 1], Gen.Double[0.1, 1], Gen.Double[0, 0.9])
        .Select((m, s, a) => LoadBelief.LogNormal(m, s, a));

    private static readonly Response Usual = Catalogue.Default.Response;

    [Fact]
    public void Nothing_that_happens_to_a_belief_loses_probability() =>
        Gen.Select(Any, Gen.Double[0, 1.5], Gen.Double[0.001, 0.3], Gen.Double[0, 1], Gen.Int[0, 2])
            .Sample(
                (b, decades, floor, cover, band) =>
                    Sums(b)
                    && Sums(b.Worked(decades, floor, cover, Usual))
                    && Sums(Look(b, band))
                    && Sums(Look(Look(b, band).Worked(decades, floor, cover, Usual), band).Worked(decades, floor, cover, Usual))
            );

    [Fact]
    public void Work_only_cleans_and_nothing_passes_the_floor() =>
        Gen.Select(Any, Gen.Double[0, 1.5], Gen.Double[0.01, 0.3])
            .Sample(
                (b, decades, floor) =>
                {
                    var after = b;
                    for (var round = 0; round < 6; round++)
                    {
                        var next = after.Worked(decades, floor, 0, Usual);
                        if (next.Mean > after.Mean + 1e-12)
                        {
                            return false;
                        }

                        after = next;
                    }

                    // The cleanest floor weighed is e^(-0.35) of the catalogue's: what was dirtier than that never gets cleaner.
                    var least = floor * Math.Exp(-Math.Sqrt(3) * 0.2);
                    return after.AtMost(least * 0.8) <= b.AtMost(least) + 1e-9;
                }
            );

    [Fact]
    public void Seeing_less_never_makes_it_dirtier() =>
        Any.Sample(b => Look(b, 0).Mean <= b.Mean + 1e-12 && b.Mean <= Look(b, 2).Mean + 1e-12);

    [Fact]
    public void Shielded_work_moves_less_and_under_a_full_cover_nothing_moves() =>
        Gen.Select(Any, Gen.Double[0.1, 1.5], Gen.Double[0, 1])
            .Sample(
                (b, decades, cover) =>
                    b.Worked(decades, 0.01, cover, Usual).Mean >= b.Worked(decades, 0.01, 0, Usual).Mean - 1e-12
                    && Math.Abs(b.Worked(decades, 0.01, 1, Usual).Mean - b.Mean) < 1e-12
            );

    private static LoadBelief Look(LoadBelief b, int band) =>
        b.Seen(Catalogue.Default.Senses.First(s => s.Look == "touch").Likelihood(band)).After;

    [Fact]
    public void Grades_spread_as_the_catalogue_says()
    {
        // A log-normal of median m has 84 % of its mass below m·e^σ: property of the distribution, not of our grid.
        foreach (var sigma in new[] { 0.35, 0.7 })
        {
            LoadBelief.LogNormal(0.1, sigma).AtMost(0.1 * Math.Exp(sigma)).ShouldBe(0.841, 0.05);
        }
    }

    [Theory]
    [InlineData("seen", 0.35)]
    [InlineData("suspected", 0.7)]
    [InlineData("measured", 0.15)]
    public void Certainty_is_spread(string certainty, double sigma) =>
        State($$"""{ "zone": "bonnet", "findings": [ { "contaminant": "tar", "grade": 2, "certainty": "{{certainty}}" } ] }""")["tar"]
            .Sigma.ShouldBe(sigma);

    [Fact]
    public void Under_a_heavy_cover_what_was_seen_is_only_suspected_and_what_was_not_seen_is_not_excluded()
    {
        var open = State(
            """{ "zone": "bonnet", "findings": [ { "contaminant": "tar", "grade": 2 }, { "contaminant": "iron", "grade": 0 } ] }"""
        );
        var muddy = State(
            """{ "zone": "bonnet", "findings": [ { "contaminant": "mud", "grade": 4 }, { "contaminant": "tar", "grade": 2 }, { "contaminant": "iron", "grade": 0 } ] }"""
        );
        muddy["tar"].Sigma.ShouldBeGreaterThan(open["tar"].Sigma);
        open["iron"].Basis.ShouldBe(Basis.LookedNone);
        muddy["iron"].Basis.ShouldBe(Basis.Hidden);
    }

    [Fact]
    public void Age_makes_it_harder_only_where_age_matters()
    {
        var s = State(
            """{ "zone": "bonnet", "findings": [ { "contaminant": "bug", "grade": 2, "age": "weeks" }, { "contaminant": "tar", "grade": 2, "age": "weeks" } ] }"""
        );
        s["bug"].Difficulty.ShouldBe(1.4);
        s["tar"].Difficulty.ShouldBe(1);
    }

    [Theory]
    [InlineData("beads", 0.55)]
    [InlineData("mixed", 0.25)]
    [InlineData("flat", 0)]
    public void Water_tells_of_protection(string water, double load) =>
        State($$"""{ "zone": "bonnet", "water": "{{water}}" }""")["old-protection"].Load.ShouldBe(load);

    [Fact]
    public void Inconclusive_leaves_the_prior_as_it_was()
    {
        var before = State("""{ "zone": "bonnet" }""");
        var after = State("""{ "zone": "bonnet", "tests": [ { "test": "touch", "result": "inconclusive", "because": "wet" } ] }""");
        after["bonded-mix"].ShouldBe(before["bonded-mix"]);
        after["bonded-mix"].Basis.ShouldBe(Basis.Hidden);
    }

    [Fact]
    public void Longer_unwashed_is_likelier_dirty() =>
        Gen.Select(Gen.Double[0, 60], Gen.Double[0, 60])
            .Sample(
                (a, b) =>
                    Catalogue.Default.Priors.All(p =>
                        p.PerMonth < 0 || (a <= b) == (p.Probability(a) <= p.Probability(b)) || p.Probability(a) == p.Probability(b)
                    )
            );

    private static bool Sums(LoadBelief b) => Math.Abs(b.Levelwise.Sum() - 1) < 1e-9 && b.Levelwise.All(p => p >= 0);

    private static Bonnet State(string zone)
    {
        var survey = Repository.Saloon(zone);
        return new Bonnet(
            ZoneState.FromSurvey(survey, Forms.Build("saloon", survey.Vehicle.Size), Catalogue.Default).Single(z => z.Zone.Id == "bonnet")
        );
    }

    private sealed record Bonnet(ZoneState State)
    {
        public Belief this[string kind] => State[Catalogue.Default.Contaminant(kind).Index];
    }
}
