using ToughStart.Core.Chemistry;
using ToughStart.Core.Contamination;
using ToughStart.Core.Formats;
using ToughStart.Core.Learning;
using ToughStart.Core.Planning;
using ToughStart.Core.Running;
using ToughStart.Core.Running.Live;

namespace ToughStart.Core.Tests;

/// <summary>A made-up shop with hidden truths is worked for a season; what is learnt of its logs comes out near what is true.</summary>
public sealed class SeasonTests
{
    private const string Weak = "11111111-0000-0000-0000-000000000001",
        Strong = "22222222-0000-0000-0000-000000000002";

    private static readonly DateTimeOffset At = new(2025, 4, 1, 8, 0, 0, TimeSpan.Zero);

    private static Survey Shop(string name) =>
        Repository.Demo(name) with
        {
            Shelf =
            [
                .. Provenance
                    .Catalogue.Default.Agents.Where(a => !a.IsWater && a.Id != "wheel-acid")
                    .Select(a => new ShelfBottle(a.Id, true, null, false)
                    {
                        Name = a.Name,
                        Id = a.Id switch
                        {
                            "iron-remover" => Weak,
                            "degreaser" => Strong,
                            _ => Guid.CreateVersion7().ToString(),
                        },
                    }),
            ],
        };

    private static readonly HiddenTruths Truths = new(
        new Dictionary<string, double> { [Weak] = 0.65, [Strong] = 1.35 },
        new Dictionary<(string, Stage), double> { [("p1", Stage.Wheels)] = 1.4, [("p1", Stage.ContactWash)] = 0.8 }
    );

    [Fact]
    public void Hidden_factors_are_found_again_from_the_logs()
    {
        var (loops, paces) = (new Dictionary<string, List<JobLoops>>(), new Dictionary<(string, string), List<double>>());
        var job = 0;
        foreach (var name in new[] { "estuary-pickup", "barn-saloon", "touring-saloon" })
        {
            var survey = Shop(name);
            var (plan, ground) = (Repository.Plan(survey), new RunGround(survey));
            for (var visit = 0; visit < 6; visit++)
            {
                job++;
                var log = Season.Work(ground, plan, 1, Truths, ["p1", "p2"], At.AddDays(9 * job), (ulong)(1000 + job));
                var live = log.Aggregate(LiveState.Start, Live.Reduce);
                live.Ignored.ShouldBeEmpty();
                var entries = LiveHearsay.Of(live).Select(t => new RunEntry(ground, plan, t.Observation)).ToArray();
                foreach (var l in Lessons.Of(entries).Where(l => l.Excluded is null && l.Bottle is not null).GroupBy(l => l.Bottle!))
                {
                    loops.TryAdd(l.Key, []);
                    loops[l.Key].Add(new JobLoops(job, null, [.. l.Select(x => x.Datum).Take(10)]));
                }

                var reckoned = Reckoning.Of(plan, ground, Run.Fold(RunState.Start, entries), live, log, _ => plan);
                foreach (var t in reckoned.Times.Where(t => t.Norm > 60))
                {
                    paces.TryAdd((t.Who, t.Stage.Word), []);
                    paces[(t.Who, t.Stage.Word)].Add(t.Seconds / (double)t.Norm);
                }
            }
        }

        var (weak, strong) = (ProductLearning.Fit(loops[Weak]), ProductLearning.Fit(loops[Strong]));
        var words = $"weak {weak} of {loops[Weak].Count}, strong {strong} of {loops[Strong].Count}";
        weak.Factor.ShouldBe(0.65, 0.13, words);
        weak.Proposable().ShouldBeTrue(words);
        strong.Factor.ShouldBe(1.35, 0.35, words);
        weak.High.ShouldBeLessThan(strong.Low, words);
        var wheels = LabourLearning.Fit(paces[("p1", "wheels")]);
        var wash = LabourLearning.Fit(paces[("p1", "contact-wash")]);
        wheels.Factor.ShouldBe(1.4, 0.2, $"{wheels} of {paces[("p1", "wheels")].Count}");
        wash.Factor.ShouldBe(0.8, 0.12, $"{wash} of {paces[("p1", "contact-wash")].Count}");
    }

    [Fact]
    public void The_same_seed_works_the_same_and_another_does_not()
    {
        var survey = Shop("touring-saloon");
        var (plan, ground) = (Repository.Plan(survey), new RunGround(survey));
        byte[] Log(ulong seed) => [.. Season.Work(ground, plan, 1, Truths, ["p1"], At, seed).SelectMany(LogFormat.Write)];
        Log(7).ShouldBe(Log(7));
        Log(7).ShouldNotBe(Log(8));
    }

    [Fact]
    public void What_dried_was_hot_or_was_never_looked_at_teaches_nothing()
    {
        var survey = Shop("estuary-pickup");
        var (plan, ground) = (Repository.Plan(survey), new RunGround(survey));
        var iron = plan.Steps.First(s => s.Stage == Stage.Iron && s.Until is not null);
        var zone = iron.Zones.First(z => ground.Zone(z)![ground.Catalogue.Contaminant("iron").Index].Basis == Basis.Found);
        string? Why(params Observation[] did) =>
            Lessons
                .Of(
                    plan.Steps.TakeWhile(s => s != iron)
                        .Where(s => s.Stage != Stage.Dry && s.Zones.Contains(zone))
                        .Select(s => Done(s, s.RoundsOn(zone)))
                        .Concat(did)
                        .Select(o => new RunEntry(ground, plan, o))
                )
                .Last(l => l.Kind == "iron" && l.Zone == zone)
                .Excluded;
        Observation Done(Step s, int rounds, string? look = null, string? result = null, string? because = null) =>
            new(Guid.CreateVersion7(), Guid.Empty, s.Key, [zone], rounds, look, result, because) { Plan = 1 };
        Why(Done(iron, 2, "bleed", "none")).ShouldBeNull();
        Why(Done(iron, 2)).ShouldBe("nobody looked at its end");
        Why(Done(iron, 1, "bleed", "inconclusive", "masked-colour"), Done(iron, 0, "bleed", "none")).ShouldBe("nobody could tell");
        Why(Done(iron, 1, "bleed", "inconclusive", "dried"), Done(iron, 1, "bleed", "none"))!.ShouldContain("dried");
        Why(Done(iron, 1, "bleed", "none") with { FilmC = 44 }).ShouldBe("the panel was hot");
    }
}
