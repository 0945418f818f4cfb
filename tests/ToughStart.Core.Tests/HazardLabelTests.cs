using ToughStart.Core.Chemistry;
using ToughStart.Core.Planning;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Tests;

/// <summary>Signs and signal words by UN GHS (rev. 9) 1.4.10.5.3 and annex 3; cautions only on the zones they are about.</summary>
public sealed class HazardLabelTests
{
    [Theory]
    [InlineData("H314 H335", SignalWord.Danger, "corrosion exclamation")]
    [InlineData("H315 H319", SignalWord.Warning, "exclamation")]
    [InlineData("H318 H315", SignalWord.Danger, "corrosion")] // 1.4.10.5.3.1 (b): corrosion stands, so no mark for skin or eye irritation
    [InlineData("H301 H312", SignalWord.Danger, "skull")] // 1.4.10.5.3.1 (a): the skull stands, so no exclamation mark
    [InlineData("H334 H317 H319", SignalWord.Danger, "health")] // 1.4.10.5.3.1 (c): a respiratory sensitizer, so no mark for skin and eyes
    [InlineData("H334 H335", SignalWord.Danger, "health exclamation")] // nor does (c) speak of the airways
    [InlineData("H290 H319", SignalWord.Warning, "corrosion exclamation")] // corrosion for metals says nothing of eyes
    [InlineData("H225 H304 H336", SignalWord.Danger, "flame health exclamation")]
    [InlineData("H226", SignalWord.Warning, "flame")]
    public void Signal_word_and_signs_of_a_label(string codes, SignalWord word, string signs)
    {
        var label = HazardLabel.Of(codes.Split(' '));
        label.Signal.ShouldBe(word);
        label.Pictograms.ShouldBe(signs.Split(' '), ignoreOrder: true);
    }

    [Fact]
    public void Statements_without_a_sign_call_for_none()
    {
        HazardLabel.Of(["H412"]).Signal.ShouldBeNull();
        HazardLabel.Of(["H412"]).Pictograms.ShouldBeEmpty();
        HazardLabel.Of([]).Signal.ShouldBeNull();
    }

    public static TheoryData<string> Jobs => [.. Repository.DemoNames];

    [Theory]
    [MemberData(nameof(Jobs))]
    public void A_caution_stands_only_where_there_is_what_it_is_about(string job)
    {
        var survey = Repository.Demo(job);
        var vehicle = Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size);
        foreach (var step in Repository.Plan(survey).Steps)
        {
            var families = step.Zones.Select(z => vehicle[z].Kind.Default.Family).ToHashSet();
            var words = string.Join(' ', step.Cautions);
            if (families.Contains(Family.Tyre) || families.Contains(Family.Seal))
            {
                words.ShouldNotContain("toward skin, tyres", Case.Insensitive, step.Key);
            }

            if (!families.Contains(Family.Wheel) && !families.Contains(Family.Disc))
            {
                words.ShouldNotContain("Brakes cold", Case.Insensitive, step.Key);
            }

            if (words.Contains("wax.", StringComparison.Ordinal))
            {
                families.ShouldContain(f => f.IsWiped, step.Key);
            }
        }
    }
}
