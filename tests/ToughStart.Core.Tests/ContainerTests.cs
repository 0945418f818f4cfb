using ToughStart.Core.Chemistry;
using ToughStart.Core.Costing;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Tests;

/// <summary>Containers for the whole job: what domain.md §9 (hygiene, never together) asks of a bench, over every demo job.</summary>
public sealed class ContainerTests
{
    private static readonly Container[] Shop =
    [
        new("lance", "Lance", 1000, ContainerShape.Lance),
        new("lance2", "Second lance", 1000, ContainerShape.Lance),
        new("grey", "Grey trigger", 1000, ContainerShape.Trigger),
        new("white", "White trigger", 500, ContainerShape.Trigger),
        new("red", "Red trigger", 500, ContainerShape.Trigger),
        new("blue", "Blue trigger", 1000, ContainerShape.Trigger),
        new("small", "Small trigger", 250, ContainerShape.Trigger),
        new("pump", "Pump sprayer", 1500, ContainerShape.Pump),
        new("wash", "Wash bucket", 15000, ContainerShape.Bucket),
        new("rinse", "Rinse bucket", 15000, ContainerShape.Bucket),
        new("wheels", "Wheel bucket", 10000, ContainerShape.Bucket, KeptFor.Wheels),
    ];

    public static TheoryData<string> Jobs => [.. Repository.DemoNames];

    [Theory]
    [MemberData(nameof(Jobs))]
    public void No_two_contents_at_once_nothing_reacts_and_wheels_keep_their_bucket(string job)
    {
        var plan = Repository.Plan(Repository.Demo(job));
        var fillings = Containers.Assign(plan, JobVolumes.Solutions(plan), Shop);
        var at = plan.Steps.Select((s, i) => (s.Key, i)).ToDictionary(x => x.Key, x => x.i);
        foreach (var group in fillings.Where(f => f.Container is not null).GroupBy(f => f.Container!.Id))
        {
            var held = group
                .Where(f => f.Solution is not null)
                .Select(f => (f, First: f.Solution!.Steps.Min(s => at[s.Key]), Last: f.Solution.Steps.Max(s => at[s.Key])))
                .OrderBy(x => x.First)
                .ToArray();
            for (var i = 1; i < held.Length; i++)
            {
                held[i].First.ShouldBeGreaterThan(held[i - 1].Last, $"{group.Key} holds two things at once");
                held[i].f.Words.ShouldContain(w => w.Contains("rinse", StringComparison.Ordinal));
                var (a, b) = (
                    Compatibility.Default.GroupsOf(Catalogue.Default.Agent(held[i - 1].f.Solution!.Agent)),
                    Compatibility.Default.GroupsOf(Catalogue.Default.Agent(held[i].f.Solution!.Agent))
                );
                (a.Count > 0 && b.Count > 0 && Compatibility.Default.Meet(a, b).Meeting == Meeting.Never).ShouldBeFalse();
            }

            group.Where(f => f.Container!.KeptFor == KeptFor.Wheels).ShouldAllBe(f => f.Wheels);
            if (group.First().Container!.Shape == ContainerShape.Bucket)
            {
                group.Select(f => f.Wheels).Distinct().Count().ShouldBe(1, "a bucket that served wheels never goes to paint");
            }
        }

        // A mitt that goes from panel to panel is rinsed in a bucket of its own, and it is never the one with the shampoo in it.
        var mitts = plan.Steps.Any(s => Medium.For(s.Treatment, s.Block, Catalogue.Default) is { RinsedInBucket: true });
        fillings.Any(f => f.Solution is null).ShouldBe(mitts);
    }

    [Fact]
    public void Some_demo_job_rinses_a_mitt_and_some_has_wheels_in_a_bucket()
    {
        var all = Repository
            .DemoNames.Select(n => Repository.Plan(Repository.Demo(n)))
            .SelectMany(p => Containers.Assign(p, JobVolumes.Solutions(p), Shop))
            .ToArray();
        all.ShouldContain(f => f.Solution == null);
        all.ShouldContain(f => f.Wheels && f.Container != null && f.Container.KeptFor == KeptFor.Wheels);
    }

    [Fact]
    public void What_a_bottle_holds_or_held_decides_and_is_said()
    {
        var plan = Repository.Plan(Repository.Demo("estuary-pickup"));
        var needs = JobVolumes.Solutions(plan);
        var spray = needs.First(n => n.Mix.Vessel is not ("lance" or "bucket") && Catalogue.Default.Agent(n.Agent).Axis == Axis.Reducer);
        var acid = new Contents("wheel-acid", "x", "Acid of the wheels", false);

        // The one that held acid is the right size and the other is not: iron remover goes into the other all the same.
        Container[] two =
        [
            new("a", "A", spray.NeedMl * 1.2, ContainerShape.Trigger, Held: acid),
            new("b", "B", 40 * spray.NeedMl, ContainerShape.Pump),
        ];
        Containers.Assign(plan, [spray], two).First(f => f.Solution == spray).Container!.Id.ShouldBe("b");

        // With nothing else there it is said what it held, and that another would be better.
        var only = Containers.Assign(plan, [spray], [two[0]]).First(f => f.Solution == spray);
        only.Words.ShouldContain(w =>
            w.Contains("Acid of the wheels", StringComparison.Ordinal) && w.Contains("never meet", StringComparison.Ordinal)
        );

        // What is in use is not emptied for it while another is free.
        Container[] full =
        [
            new("a", "A", spray.NeedMl * 1.2, ContainerShape.Trigger, Held: new Contents("apc", "y", "All purpose", true)),
            new("b", "B", 4 * spray.NeedMl, ContainerShape.Pump),
        ];
        Containers.Assign(plan, [spray], full).First(f => f.Solution == spray).Container!.Id.ShouldBe("b");
    }

    [Fact]
    public void No_bucket_for_the_wash_is_said_and_the_wheel_bucket_is_not_taken()
    {
        var plan = Repository
            .DemoNames.Select(n => Repository.Plan(Repository.Demo(n)))
            .First(p => p.Steps.Any(s => s.Block == Block.Body && s.Mix is { Vessel: "bucket" }));
        var fillings = Containers.Assign(plan, JobVolumes.Solutions(plan), [.. Shop.Where(c => c.Id is not ("wash" or "rinse"))]);
        var wash = fillings.First(f => f.Solution is { Mix.Vessel: "bucket" } && !f.Wheels);
        wash.Container.ShouldBeNull();
        wash.Words.Single().ShouldContain("One more");

        // Chosen by hand all the same: it is taken as said, with what speaks against it.
        var forced = Containers.Assign(plan, JobVolumes.Solutions(plan), [.. Shop.Where(c => c.Id is not ("wash" or "rinse"))], n =>
            n.Key == wash.Solution!.Key ? "wheels" : null
        );
        forced
            .First(f => f.Solution?.Key == wash.Solution!.Key)
            .Words.ShouldContain(w => w.Contains("wheels only", StringComparison.Ordinal));
    }

    [Fact]
    public void A_chosen_container_that_another_content_is_in_at_the_time_is_said()
    {
        var plan = Repository.Plan(Repository.Demo("estuary-pickup"));
        var needs = JobVolumes.Solutions(plan).Where(n => n.Mix.Vessel is not ("lance" or "bucket")).ToArray();
        var fillings = Containers.Assign(plan, needs, Shop, _ => "pump");
        var live = fillings.Where(f => f.Solution is not null).ToArray();
        live.Length.ShouldBeGreaterThan(1);
        live.ShouldContain(f =>
            f.Words.Any(w => w.Contains("twice", StringComparison.Ordinal) || w.Contains("still in use", StringComparison.Ordinal))
        );
    }

    /// <summary>Who takes a bottle by hand has it: what was to go into it at the same time gets another.</summary>
    [Fact]
    public void What_is_chosen_by_hand_is_kept_free_for_it()
    {
        var plan = Repository.Plan(Repository.Demo("estuary-pickup"));
        var needs = JobVolumes.Solutions(plan).Where(n => n.Mix.Vessel is not ("lance" or "bucket")).ToArray();
        var at = plan.Steps.Select((s, i) => (s.Key, i)).ToDictionary(x => x.Key, x => x.i);
        (int First, int Last) Life(SolutionNeed n) => (n.Steps.Min(s => at[s.Key]), n.Steps.Max(s => at[s.Key]));
        var pairs =
            from early in needs
            from late in needs
            where Life(early).First < Life(late).First && Life(late).First <= Life(early).Last
            select (early, late);
        // The only other one still holds something: that is worse than a rinse, but not worse than two contents at once.
        var (one, other) = pairs.First();
        Container[] two =
        [
            new("a", "A", 5000, ContainerShape.Pump),
            new("b", "B", 5000, ContainerShape.Pump, Held: new Contents("apc", "y", "All purpose", true)),
        ];
        Containers.Assign(plan, [one], two).First(f => f.Solution == one).Container!.Id.ShouldBe("a");
        var forced = Containers.Assign(plan, [one, other], two, n => n == other ? "a" : null);
        forced.First(f => f.Solution == other).Container!.Id.ShouldBe("a");
        forced.First(f => f.Solution == one).Container!.Id.ShouldBe("b");
    }
}
