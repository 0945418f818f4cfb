using ToughStart.Core.Learning;

namespace ToughStart.Bench;

/// <summary>How often intervals of learnt factors hold the hidden one, in made-up shops.</summary>
internal static class LearningBench
{
    private const int ShopsOfEach = 400;

    public static void Run(string root)
    {
        var report = new Report(root, "learning");
        report.Head("400 shops, hidden factors", "measured", "aim");
        foreach (var (jobs, zones) in new[] { (4, 1), (4, 4), (4, 10), (10, 4), (10, 10) })
        {
            var shops = Simulated.Shops(ShopsOfEach, jobs, zones, 20261201);
            var shared = shops.AsParallel().AsOrdered().Select(s => (s.Factor, Learnt: ProductLearning.Fit(s.Jobs))).ToArray();
            report.Row(
                $"90 % interval holds it, {jobs} jobs of {zones} {(zones == 1 ? "zone" : "zones")}",
                $"{100.0 * shared.Count(s => s.Learnt.Low <= s.Factor && s.Factor <= s.Learnt.High) / ShopsOfEach:0.0} %",
                "84–93 %"
            );
            if (zones > 1)
            {
                var alone = shops
                    .AsParallel()
                    .AsOrdered()
                    .Select(s => (s.Factor, Learnt: ProductLearning.Fit(s.Jobs, shared: false)))
                    .ToArray();
                report.Row(
                    $"the same, every zone for itself (what we do not do)",
                    $"{100.0 * alone.Count(s => s.Learnt.Low <= s.Factor && s.Factor <= s.Learnt.High) / ShopsOfEach:0.0} %",
                    ""
                );
            }
        }

        foreach (var zones in new[] { 1, 4, 10 })
        {
            var needed = Simulated
                .Shops(ShopsOfEach / 4, 24, zones, 7)
                .AsParallel()
                .AsOrdered()
                .Select(s =>
                    ProductLearning
                        .Follow(s.Jobs)
                        .Select((j, i) => (j.After, i))
                        .FirstOrDefault(j => 1.645 * j.After.Sd < 0.15, (null!, 24))
                        .i + 1
                )
                .Order()
                .ToArray();
            report.Row(
                $"jobs until it is known within 15 %, {zones} {(zones == 1 ? "zone" : "zones")} each: half of the shops",
                needed[needed.Length / 2] > 24 ? "over 24" : $"{needed[needed.Length / 2]}",
                ""
            );
        }

        report.Keep();
    }
}
