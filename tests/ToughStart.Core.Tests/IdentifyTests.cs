using CsCheck;
using ToughStart.Core.Identification;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Tests;

public class IdentifyTests
{
    /// <summary>Data/identify-cases.txt was written before the likelihood table, from the trade's description of each kind.</summary>
    public static IReadOnlyList<(string Truth, Dictionary<string, string> Evidence)> Cases { get; } =
        File.ReadAllLines(Path.Combine(Repository.Root, "tests", "ToughStart.Core.Tests", "Data", "identify-cases.txt"))
            .Where(l => l.Length > 0 && l[0] != '#')
            .Select(l => l.Split('|'))
            .Select(p =>
                (
                    p[0].Trim(),
                    p[1]
                        .Split(' ', StringSplitOptions.RemoveEmptyEntries)
                        .Select(e => e.Split('='))
                        .Where(e => e[1] is not ("none" or "nothing") || e[0] is "iron" or "dab" or "acid")
                        .ToDictionary(e => e[0], e => e[1])
                )
            )
            .ToArray();

    [Fact]
    public void Blind_cases_are_named_first_or_among_three()
    {
        Cases.Count.ShouldBeGreaterThanOrEqualTo(60);
        var ranks = Cases
            .Select(c => MarkIdentifier.Identify(c.Evidence).Candidates.Select((x, i) => (x.Id, i)).First(x => x.Id == c.Truth).i)
            .ToArray();
        var missed = string.Join(
            "\n",
            Cases
                .Zip(ranks)
                .Where(x => x.Second > 0)
                .Select(x =>
                    $"{x.First.Truth} came {x.Second + 1}: {string.Join(' ', x.First.Evidence)} -> {MarkIdentifier.Identify(x.First.Evidence).Candidates[0]}"
                )
        );
        (ranks.Count(r => r == 0) / (double)ranks.Length).ShouldBeGreaterThanOrEqualTo(0.8, missed);
        (ranks.Count(r => r < 3) / (double)ranks.Length).ShouldBeGreaterThanOrEqualTo(0.92, missed);
    }

    [Theory]
    [InlineData("", false, "")]
    [InlineData("nothing", false, "")]
    [InlineData("nothing fainter", false, "")]
    [InlineData("nothing nothing", true, "did not budge")]
    [InlineData("nothing fainter nothing", true, "did not budge")]
    [InlineData("fainter fainter fainter", false, "")]
    [InlineData("fainter gone", true, "gone")]
    [InlineData("nothing gone", true, "gone")]
    [InlineData("gone surface-changed", true, "surface changed")]
    public void Two_tries_without_effect_or_a_changed_surface_end_the_trying(string tries, bool ends, string why)
    {
        var said = MarkTries.Ends([.. tries.Split(' ', StringSplitOptions.RemoveEmptyEntries).Select(t => MarkTries.Named(t)!.Value)]);
        (said is not null).ShouldBe(ends);
        (said ?? "").ShouldContain(why);
    }

    [Fact]
    public void Confidence_means_what_it_says()
    {
        // Of what is called 60 to 100 % sure, about that much is right: expected calibration error over five bins.
        var said = Cases.Select(c => (Best: MarkIdentifier.Identify(c.Evidence).Candidates[0], c.Truth)).ToArray();
        var error = said.GroupBy(x => Math.Min(4, (int)(x.Best.Probability * 5)))
            .Sum(g =>
                g.Count()
                / (double)said.Length
                * Math.Abs(g.Average(x => x.Best.Probability) - g.Average(x => x.Best.Id == x.Truth ? 1.0 : 0))
            );
        error.ShouldBeLessThan(0.2);
    }

    [Fact]
    public void Below_the_limit_it_proposes_a_test_and_never_chemistry() =>
        Gen.Int[0, 5000]
            .Sample(
                seed =>
                {
                    var random = new Random(seed);
                    var evidence = Catalogue
                        .Default.Evidence.Where(_ => random.Next(4) == 0)
                        .ToDictionary(v => v.Id, v => v.Values[random.Next(v.Values.Count)]);
                    var said = MarkIdentifier.Identify(evidence);
                    said.Candidates.Sum(c => c.Probability).ShouldBe(1, 1e-9);
                    said.Cautions.ShouldNotBeEmpty();
                    if (said.Candidates[0].Probability < 0.6 || said.Candidates[0].Id == "unknown" || said.Candidates[0].NotDirt)
                    {
                        said.Treatments.ShouldBeEmpty();
                    }

                    if (!said.Sure && Catalogue.Default.Evidence.Any(v => v.Test is not null && !evidence.ContainsKey(v.Id)))
                    {
                        said.Next.ShouldContain(q => q.Variable.Test != null);
                    }

                    said.Treatments.ShouldAllBe(t => !t.Contains("acid"));
                },
                iter: 300
            );

    [Fact]
    public void Nothing_said_is_unknown_and_more_evidence_can_only_be_weighed()
    {
        var nothing = MarkIdentifier.Identify(new Dictionary<string, string>());
        nothing.Sure.ShouldBeFalse();
        nothing.Candidates.First(c => c.Id == "unknown").Probability.ShouldBeGreaterThanOrEqualTo(0.09);
        Catalogue.Default.Marks.First(m => m.Id == "unknown").Prior.ShouldBeGreaterThanOrEqualTo(0.1);
        Catalogue.Default.Evidence.Count.ShouldBeGreaterThanOrEqualTo(12);
        Should
            .Throw<ArgumentException>(() => MarkIdentifier.Identify(new Dictionary<string, string> { ["colour"] = "plaid" }))
            .Message.ShouldContain("amber");
        Should
            .Throw<ArgumentException>(() => MarkIdentifier.Identify(new Dictionary<string, string> { ["taste"] = "sour" }))
            .Message.ShouldContain("colour");
    }

    [Fact]
    public void Bayes_by_hand_for_two_kinds_and_one_sign()
    {
        // Posterior odds of two kinds = prior odds x (likelihood ratio) ^ temper.
        var iron = Catalogue.Default.Marks.First(m => m.Id == "iron");
        var tar = Catalogue.Default.Marks.First(m => m.Id == "tar");
        var said = MarkIdentifier.Identify(new Dictionary<string, string> { ["iron"] = "purple" });
        var odds = said.Candidates.First(c => c.Id == "iron").Probability / said.Candidates.First(c => c.Id == "tar").Probability;
        odds.ShouldBe(
            iron.Prior
                / tar.Prior
                * Math.Pow(iron.Weights["iron"]["purple"] / tar.Weights["iron"]["purple"], Catalogue.Default["identify-temper"]),
            1e-9
        );
    }

    [Fact]
    public void The_vehicles_own_rust_is_never_chased()
    {
        var said = MarkIdentifier.Identify(
            new Dictionary<string, string>
            {
                ["colour"] = "rust",
                ["close"] = "bubbles-in-paint",
                ["place"] = "seams",
                ["age"] = "seasons",
                ["feel"] = "hard",
            }
        );
        said.Candidates[0].Id.ShouldBe("own-rust");
        said.Treatments.ShouldBeEmpty();
        said.Cautions.ShouldContain(x => x.Contains("iron remover"));
    }
}
