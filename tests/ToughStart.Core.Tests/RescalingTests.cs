using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Running;
using ToughStart.Core.Running.Live;

namespace ToughStart.Core.Tests;

/// <summary>One reading of a panel's heat, and what becomes of every film that is on.</summary>
public sealed class RescalingTests
{
    private static readonly Survey Survey = Repository.Demo("moorland-van");
    private static readonly Plan Plan = Repository.Plan(Survey);
    private static readonly Step Foam = Plan.Steps.First(s => LiveWindows.HasLine(s) && s.Film is not null && s.Zones.Count > 1);
    private static readonly LiveWindows Windows = new(new RunGround(Survey), At, 1);
    private static readonly string[] Zones = [.. Foam.Zones.Take(2)];

    private readonly List<LogEvent> _log = [];

    private static DateTimeOffset At => new(2026, 6, 1, 11, 0, 0, TimeSpan.Zero);

    private LogEvent Add(LogKind kind, LogBody body)
    {
        var at = At.ToUnixTimeMilliseconds() + (1000 * _log.Count);
        var e = new LogEvent(Guid.NewGuid().ToString(), "", 0, "", 0, _log.Count, 1, "p1", kind)
        {
            Body = body,
            Number = _log.Count + 1,
            When = new(at, at, at),
            Received = at,
        };
        _log.Add(e);
        return e;
    }

    private LiveState State => _log.Aggregate(LiveState.Start, Live.Reduce);

    private LogEvent[] Read(double celsius)
    {
        var reading = Add(
            LogKind.Measured,
            new()
            {
                What = "panel",
                Value = celsius,
                Zones = [Zones[0]],
            }
        );
        LogEvent[] after = [.. Rescaling.After(reading, State, Plan, Windows, 1)];
        foreach (var e in after)
        {
            Add(e.Kind, e.Body);
        }

        return after;
    }

    private void PutOn()
    {
        Add(LogKind.Started, new() { Plan = 1 });
        Add(
            LogKind.Applied,
            new()
            {
                Treatment = Foam.Treatment,
                Zones = Zones,
                Win = new(60_000, 300_000, 400_000, 900_000),
            }
        );
    }

    [Fact]
    public void A_hot_panel_shortens_every_film_and_a_cool_one_only_lengthens_its_own()
    {
        PutOn();
        var hot = Read(55);
        hot.Select(e => (e.Body.Zones[0], e.Body.There)).ShouldBe(Zones.Order(StringComparer.Ordinal).Select(z => (z, z == Zones[0])));
        hot.ShouldAllBe(e => e.Body.PerMille < 1000);
        var cool = Read(8);
        cool.Select(e => e.Body.Zones[0]).ShouldBe([Zones[0]], "nobody measured elsewhere: there it stays as short as it was");
        cool[0].Body.PerMille.ShouldBeGreaterThan(1000);
    }

    [Fact]
    public void The_same_heat_read_again_changes_nothing()
    {
        PutOn();
        Read(55).ShouldNotBeEmpty();
        Read(55).ShouldBeEmpty();
        Read(60).ShouldNotBeEmpty();
    }

    [Fact]
    public void A_new_film_knows_nothing_of_readings_before_it()
    {
        PutOn();
        var first = Read(55);
        Add(LogKind.Rinsed, new() { Zones = Zones });
        PutOn();
        Read(55).Select(e => e.Body.PerMille).ShouldBe(first.Select(e => e.Body.PerMille));
    }
}
