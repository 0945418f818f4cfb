using ToughStart.Core.Contamination;
using ToughStart.Core.Provenance;
using ToughStart.Core.Running;

namespace ToughStart.Core.Tests;

/// <summary>
/// The worked examples of the running notes, section "Check cases", 1 to 4. The expected figures were computed outside the project by
/// independent integration; they hold to 0.004 on a grid of twentieths of a decade, the closed forms to 0.0001.
/// </summary>
public class RunNotesTests
{
    private static readonly Catalogue C = Catalogue.Default;
    private static readonly Sense Bleed = C.Senses.Single(s => s.Look == "bleed");
    private const double Grid = 0.004;

    private static (LoadBelief After, double Evidence) See(LoadBelief b, string answer) =>
        b.Seen(
            Bleed.Likelihood(
                answer switch
                {
                    "none" => 0,
                    "faint" => 1,
                    _ => 2,
                }
            )
        );

    [Fact]
    public void Case_1_one_look_at_a_log_normal_load()
    {
        var b = LoadBelief.LogNormal(0.15, 0.7);
        b.AtMost(0.05).ShouldBe(0.05827, Grid);
        var none = See(b, "none");
        none.Evidence.ShouldBe(0.09390, Grid);
        none.After.AtMost(0.05).ShouldBe(0.44559, Grid);
        var faint = See(b, "faint");
        faint.Evidence.ShouldBe(0.64082, Grid);
        faint.After.AtMost(0.05).ShouldBe(0.02473, Grid);
        var turned = See(See(b, "none").After, "faint").After;
        var straight = See(See(b, "faint").After, "none").After;
        foreach (var load in new[] { 0.01, 0.05, 0.25 })
        {
            turned.AtMost(load).ShouldBe(straight.AtMost(load), 1e-12, "the order of two looks does not matter");
        }

        var flat = Enumerable.Repeat(1.0 / 3, Levels.Nil + 1).ToArray();
        b.Seen(flat).After.AtMost(0.05).ShouldBe(b.AtMost(0.05), 1e-12, "an answer that is as likely at every load says nothing");
    }

    [Fact]
    public void Case_1_without_slips_is_a_closed_form()
    {
        // Phi(ln(1/3) / sqrt(0.7^2 + 0.4^2)), the chance that eye and load together fall below the edge.
        var b = LoadBelief.LogNormal(0.15, 0.7);
        var sharp = Enumerable
            .Range(0, Levels.Nil + 1)
            .Select(n =>
                n == Levels.Nil ? 1 : MathNet.Numerics.Distributions.Normal.CDF(0, 1, Math.Log(0.05 / Math.Pow(10, -n / 20.0)) / 0.4)
            )
            .ToArray();
        var seen = b.Seen(sharp);
        seen.Evidence.ShouldBe(0.08649, Grid);
        seen.After.AtMost(0.05).ShouldBe(0.49175, Grid);
    }

    [Fact]
    public void Case_2_rounds_on_a_load_that_answers_as_it_likes()
    {
        var b = LoadBelief.LogNormal(0.55, 0.35);
        var response = Response.LogNormal(0.3, 0, 0, C);
        foreach (var expected in new[] { 0.0076, 0.3425, 0.7923 })
        {
            b = b.Worked(0.45, 0.01, 0, response);
            b.AtMost(0.05).ShouldBe(expected, Grid);
        }
    }

    [Fact]
    public void Case_3_a_finding_that_is_looked_for_in_vain_surprises_once_and_convinces_twice()
    {
        var b = RunGround.Finding(0.25, 0.35, C);
        var once = See(b, "none");
        once.Evidence.ShouldBe(0.04011, Grid);
        once.Evidence.ShouldBeLessThan(C["surprise"], "looked at again before anything is planned anew");
        once.After.AtMost(0.05).ShouldBe(0.66532, Grid);
        See(once.After, "none").After.AtMost(0.05).ShouldBe(0.96538, Grid);
    }

    [Fact]
    public void Case_4_another_round_or_stop()
    {
        const double PerDecade = 80 * 1.5;
        var clean = LoadBelief.LogNormal(0.0499, 1e-4);
        // 0.1 with chance p, else on target; a round cures and costs 2.6 and half a minute.
        (double Stop, double Round) Two(double p) =>
            Loops.Compare([LoadBelief.Mix(p, LoadBelief.LogNormal(0.1, 1e-4), clean)], [0.05], PerDecade, 3.1, [clean]);
        Two(0.08582 - 0.004).ShouldSatisfyAllConditions(x => x.Stop.ShouldBeLessThan(x.Round));
        Two(0.08582 + 0.004).ShouldSatisfyAllConditions(x => x.Stop.ShouldBeGreaterThan(x.Round));

        // A log-normal of 0.15 decades, a round takes 0.45 and stops nowhere.
        double Sigma() => 0.15 * Math.Log(10);
        var sure = Response.LogNormal(0, 0, 0, C);
        (double Stop, double Round) Spread(double median)
        {
            var b = LoadBelief.LogNormal(median, Sigma());
            return Loops.Compare([b], [0.05], PerDecade, 3.1, [b.Worked(0.45, 1e-9, 0, sure)]);
        }

        (Spread(0.06).Stop / PerDecade).ShouldBe(12.910 / PerDecade, Grid);
        Spread(0.0405).ShouldSatisfyAllConditions(x => x.Stop.ShouldBeLessThan(x.Round));
        Spread(0.0411).ShouldSatisfyAllConditions(x => x.Stop.ShouldBeGreaterThan(x.Round));
    }

    [Fact]
    public void Likelihoods_of_all_answers_sum_to_one_at_every_load()
    {
        foreach (var sense in C.Senses)
        {
            var beliefs = new Dictionary<int, LoadBelief>();
            LoadBelief Believed(int k) =>
                beliefs.TryGetValue(k, out var b) ? b : beliefs[k] = LoadBelief.LogNormal(0.03 + (0.01 * k), 0.5, 0.3);
            // Words of one band (sheets and mixed, clean and specks) are one answer to the model.
            var answers = sense.Bands.Select(words => sense.Hear(words[0], 3, Believed)).ToArray();
            answers.Sum(a => a.Evidence).ShouldBe(1, 1e-9, sense.Look);
            foreach (var kind in sense.Speaks(3))
            {
                for (var n = 0; n <= Levels.Nil; n++)
                {
                    answers
                        .Sum(a => a.Says.Where(h => h.Kind == kind).Select(h => h.Likelihood[n]).Single())
                        .ShouldBe(1, 1e-9, $"{sense.Look} of {C.Contaminants[kind].Id} at level {n}");
                }
            }
        }
    }
}
