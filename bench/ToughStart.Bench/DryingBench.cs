using System.Diagnostics;
using ToughStart.Core.Conditions;
using ToughStart.Core.Provenance;

namespace ToughStart.Bench;

/// <summary>Measures wet windows: the fast formula, the integration, a whole day, and both against the plainest integration at equal error.</summary>
internal static class DryingBench
{
    public static void Run(Report report)
    {
        var random = new Random(11);
        var c = Catalogue.Default;
        double Between(double a, double b) => a + random.NextDouble() * (b - a);
        (PanelBalance Balance, Carrier Carrier)[] cases = new (PanelBalance, Carrier)[200];
        for (var i = 0; i < cases.Length; )
        {
            var air = new Air(Between(8, 32), Between(25, 85), Between(0, 6), Between(0, 8));
            var sun = SunPosition.At(
                new DateTimeOffset(2026, random.Next(3, 11), 15, random.Next(8, 17), 0, 0, TimeSpan.Zero),
                Between(30, 58),
                0
            );
            var b = new PanelBalance(
                air,
                sun,
                Sunlight.Of(sun, air.Oktas),
                new Exposure(random.Next(2), Between(.3, 1), .2),
                new PanelHeat(Between(0, 90), Between(0, 360), Between(.25, .95), 2885)
            );
            var carrier = c.Carriers[random.Next(c.Carriers.Count)];
            if (WetWindow.Integrate(b, carrier).FirstDry < 3600)
            {
                cases[i++] = (b, carrier);
            }
        }

        foreach (var (b, k) in cases.Concat(cases).Concat(cases))
        {
            WetWindow.Fast(b, k);
            WetWindow.Integrate(b, k);
        }

        var truth = cases.Select(x => Euler(x.Balance, x.Carrier, 0.005)).ToArray();
        double Worst(Func<(PanelBalance Balance, Carrier Carrier), double> f) =>
            cases.Zip(truth).Max(x => Math.Abs(f(x.First) - x.Second) / x.Second);
        var ours = Worst(x => WetWindow.Integrate(x.Balance, x.Carrier).FirstDry);
        var step = 1.0;
        while (Worst(x => Euler(x.Balance, x.Carrier, step)) > Math.Max(ours, 1e-4) && step > 0.005)
        {
            step /= 1.5;
        }

        var fast = Time(40, () =>
            {
                foreach (var (b, k) in cases)
                {
                    WetWindow.Fast(b, k);
                }
            }) / cases.Length;
        var ode = Time(5, () =>
            {
                foreach (var (b, k) in cases)
                {
                    First(b, k);
                }
            }) / cases.Length;
        var euler = Time(3, () =>
            {
                foreach (var (b, k) in cases)
                {
                    Euler(b, k, step);
                }
            }) / cases.Length;
        report.Row("wet window, fast formula", $"{fast * 1000:0.00} µs", "< 10 µs");
        report.Row(
            "wet window, fast formula, worst error of 200",
            $"{Worst(x => WetWindow.Fast(x.Balance, x.Carrier).FirstDry) * 100:0.00} %",
            "< 1.5 %"
        );
        report.Row("wet window, integration, first dry spots", ode, "< 0.5 ms");
        report.Row("wet window, integration, worst error of 200", $"{ours * 100:0.000} %");
        report.Row($"Euler at its largest step of equal error ({step:0.000} s)", euler);
        report.Row("ratio Euler : integration, Euler : fast formula", $"{euler / ode:0} : 1, {euler / fast:0} : 1");
        var zones = cases.Take(60).ToArray();
        void WholeDay()
        {
            for (var q = 0; q < 96; q++)
            {
                var sun = SunPosition.At(new DateTimeOffset(2026, 6, 12, q / 4, q % 4 * 15, 0, TimeSpan.Zero), 54, -3);
                var light = Sunlight.Of(sun, 2);
                foreach (var (z, _) in zones)
                {
                    var b = new PanelBalance(z.Air, sun, light, new Exposure(1, 1, .2), z.Panel);
                    for (var k = 0; k < 3; k++)
                    {
                        WetWindow.Fast(b, c.Carriers[k + 1]);
                    }
                }
            }
        }

        report.Row("a day: 60 zones, 96 quarters, 3 carriers", Time(3, WholeDay), "< 150 ms");
        var flat = GC.GetTotalMemory(true);
        for (var day = 0; day < 50; day++)
        {
            WholeDay();
        }

        report.Row("memory held after 50 more whole days", $"{(GC.GetTotalMemory(true) - flat) / 1000.0:0.0} kB", "flat");
        var before = GC.GetAllocatedBytesForCurrentThread();
        foreach (var (b, k) in cases)
        {
            WetWindow.Fast(b, k);
        }

        report.Row("allocated for one fast window", $"{(GC.GetAllocatedBytesForCurrentThread() - before) / cases.Length} bytes");
    }

    /// <summary>A level carrier has no drain run: the integration of the first dry spots alone.</summary>
    private static double First(PanelBalance b, Carrier k) =>
        WetWindow.Integrate(b, k with { Applied = Math.Min(k.Applied, k.Held(b.Panel.Tilt) * 1000) }).FirstDry;

    private static double Euler(PanelBalance b, Carrier k, double dt)
    {
        var c = Catalogue.Default;
        var (heat, dry) = (c["water-heat"], c["dry-fraction"]);
        var m0 = Math.Min(k.Applied / 1000, k.Held(b.Panel.Tilt));
        var (t, m, time) = (b.Mixed(k.Applied / 1000, b.Air.Celsius), m0, 0.0);
        while (m > dry * m0 && time < 7200)
        {
            (t, m) = (t + dt * b.Gain(t, true) / (b.Panel.Heat + heat * m), m - dt * b.Evaporation(t));
            time += dt;
        }

        return time;
    }

    private static double Time(int times, Action run)
    {
        var all = new double[times];
        for (var i = 0; i < times; i++)
        {
            var from = Stopwatch.GetTimestamp();
            run();
            all[i] = Stopwatch.GetElapsedTime(from).TotalMilliseconds;
        }

        return all.Order().ElementAt(times / 2);
    }
}
