using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;

namespace ToughStart.Core.Tests;

public class CatalogueTests
{
    private static readonly Catalogue C = Catalogue.Default;

    [Fact]
    public void All_24_kinds_of_the_trade_are_there_with_marks_of_their_own()
    {
        C.Contaminants.Count.ShouldBe(24);
        C.Contaminants.Select(k => k.Mark).Distinct().Count().ShouldBe(24);
        C.Contaminants.ShouldAllBe(k => k.Layer >= 1 && k.Layer <= 8 && k.Families.Count > 0);
    }

    /// <summary>
    /// A load limit must exceed the sum of the floors beneath it, or it could never open: for every load limit and family of surface, take the
    /// lowest floor any earlier slot offers on that family.
    /// </summary>
    [Fact]
    public void Every_gate_can_open_on_every_surface_that_needs_it()
    {
        foreach (var t in C.Treatments.Where(t => t.LoadLimit is not null))
        {
            var families = t.Families.Count == 0 ? C.Surfaces.Select(s => s.Family).Distinct() : t.Families;
            foreach (var family in families)
            {
                double sum = t.LoadLimit!.Weights.Sum(w => w.Weight / 1000.0 * FloorBefore(t, w.Kind, family));
                sum.ShouldBeLessThanOrEqualTo(t.LoadLimit.Limit / 1e6 + 1e-9, $"{t.Id} on {family}: gate {t.LoadLimit.Id}");
                foreach (var (kind, limit) in t.LoadLimit.And.Where(a => a.Kind != Kinds.Residue))
                {
                    FloorBefore(t, kind, family).ShouldBeLessThanOrEqualTo(limit / 1e6, $"{t.Id} on {family}");
                }
            }
        }
    }

    [Fact]
    public void A_touch_is_always_needed_touchless_floors_lie_above_the_targets_of_a_correction()
    {
        foreach (var t in C.Treatments.Where(t => t.Contact == Contact.None && t.SuitsFamily(Family.Body)))
        {
            foreach (var film in t.Removes.Where(r => r.Kind == C.Contaminant("road-film").Index))
            {
                film.Floor.ShouldBeGreaterThan(C.Targets.Target(Goal.Correct, film.Kind, Family.Body)!.Value, t.Id);
            }
        }
    }

    [Fact]
    public void Every_number_has_a_standing_and_a_source()
    {
        C.Tables.ShouldAllBe(t => t.Source.Length > 10 && t.Rows.Count > 0);
        C.Tables.Single(t => t.Id == "constants")
            .Rows.ShouldAllBe(r =>
                r["kind"] == "model assumption" || r["kind"] == "common practice" || r["kind"] == "from memory" || r["kind"] == "published"
            );
    }

    [Fact]
    public void Strengths_run_from_weak_to_strong_and_stay_within_neat()
    {
        foreach (var a in C.Agents)
        {
            a.Strengths.ShouldBe(a.Strengths.Order());
            a.Strengths[^1].Value.ShouldBeLessThanOrEqualTo(1);
            a.MaxDwell.ShouldBeGreaterThanOrEqualTo(a.Dwell);
        }
    }

    [Theory]
    [InlineData("bare-aluminium", 5, 9)]
    [InlineData("chrome", 4, 11)]
    [InlineData("fresh-refinish", 5, 9)]
    [InlineData("clear-coat", 3, 12.5)]
    [InlineData("painted-wheel", 2, 12.5)]
    [InlineData("tyre-sidewall", 4, 13)]
    [InlineData("chain", 6, 9)]
    public void Surface_limits_are_those_the_trade_names(string surface, double low, double high)
    {
        (C.Surface(surface).PhLow, C.Surface(surface).PhHigh).ShouldBe((low, high));
    }

    [Fact]
    public void A_way_of_working_belongs_to_schools_that_the_shop_can_really_choose()
    {
        foreach (var (treatment, school) in C.Treatments.SelectMany(t => t.Schools.Select(s => (t.Id, s))))
        {
            var rule = HouseRules.All.Single(r => r.Id == (school.Rule == School.Medium ? "washMedia" : school.Rule));
            school.Values.ShouldBeSubsetOf(rule.Choices.Select(v => v.Value), treatment);
        }

        // Whatever the job is washed with, there is exactly one plain wash for it.
        foreach (var (medium, _) in HouseRules.All.Single(r => r.Id == "washMedia").Choices)
        {
            C.Treatments.Count(t =>
                    t.In(Place.Wash)
                    && t.Only == OnlyWhere.Anywhere
                    && t.Schools is [{ Rule: School.Medium } only]
                    && only.Values.Contains(medium)
                )
                .ShouldBe(1, medium);
        }
    }

    [Fact]
    public void Levels_are_decades_in_twentieths()
    {
        Levels.Of(1).ShouldBe(0);
        Levels.Of(0.1).ShouldBe(20);
        Levels.Of(0.01).ShouldBe(40);
        Levels.Of(0).ShouldBe(Levels.Nil);
        Levels.Add(Levels.Nil, 100_000).ShouldBe(20);
        Levels.Add(20, 900_000).ShouldBe(0);
        for (var n = 1; n <= Levels.Nil; n++)
        {
            Levels.MillionthsOf(n).ShouldBeLessThan(Levels.MillionthsOf(n - 1));
        }
    }

    private static double FloorBefore(Treatment t, int kind, Family family)
    {
        if (kind == Kinds.Residue || !C.Contaminants[kind].CanSitOn(family))
        {
            return 0;
        }

        var earliest = t.Slots.Max(s => s.Index);
        return C
            .Treatments.Where(o => o.SuitsFamily(family) && o.Slots.Min(s => s.Index) < earliest && Possible(o, family))
            .SelectMany(o => o.Removes)
            .Where(r => r.Kind == kind)
            .Select(r => r.Floor < C["nil-abrasive"] ? 0 : r.Floor)
            .DefaultIfEmpty(1)
            .Min();
    }

    /// <summary>Some surface of the family bears the tool and the axis.</summary>
    private static bool Possible(Treatment t, Family family) =>
        C
            .Surfaces.Where(s => s.Family == family)
            .Any(s =>
                !s.On(t.Agent.Axis).Never
                && !(
                    t.Contact switch
                    {
                        Contact.Rub => s.Rub,
                        Contact.Stiff => s.Stiff,
                        Contact.Touch => s.Touch,
                        _ => default,
                    }
                ).Never
            );
}
