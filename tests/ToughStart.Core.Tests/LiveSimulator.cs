using ToughStart.Core.Running.Live;

namespace ToughStart.Core.Tests;

/// <summary>
/// A bay that never was: people with phones put films on zones and rinse them, phones lose the network, sleep, restart and have wrong clocks,
/// and a server numbers what comes. The truth is known here, so that what the log makes of it can be held against it.
/// </summary>
internal sealed class LiveSimulator
{
    private const string Treatment = "iron";
    private static readonly LiveWindow Win = new(180_000, 300_000, 420_000, 600_000);
    private static readonly string[] Zones = ["bonnet", "roof", "door"];

    /// <summary>Ways to get it wrong, each of them once built by somebody.</summary>
    public enum Fault
    {
        None,

        /// <summary>Things happen when they are received.</summary>
        ByNumberAlone,

        /// <summary>A phone's clock is believed.</summary>
        WallClock,

        /// <summary>The newest of several deadlines is shown.</summary>
        NewestDeadline,

        /// <summary>A phone that slept goes on with the clock it had.</summary>
        SleepUnseen,
    }

    private sealed class Phone(int n)
    {
        public string Device { get; } = $"phone{n}";
        public string Who { get; } = $"p{n}";
        public int Epoch { get; set; } = 1;
        public long EpochBegan { get; set; }
        public int Seq { get; set; }

        /// <summary>How far its wall clock is off, ms.</summary>
        public long Wrong { get; init; }

        /// <summary>How far its guess of server time may be off, ms, since it last heard the server.</summary>
        public long Error { get; set; } = 20;
        public bool Online { get; set; } = true;
        public int Head { get; set; }
        public List<(LogEvent Event, long Truth)> Queue { get; } = [];
        public List<LogEvent> Mine { get; } = [];
    }

    private readonly Random _dice;
    private readonly Fault _fault;
    private readonly List<Phone> _phones;
    private readonly List<LogEvent> _log = [];
    private readonly Dictionary<string, long> _truth = [];
    private readonly Dictionary<string, (long First, long Last, bool Dried)> _wet = [];
    private readonly Dictionary<string, int> _rounds = [];
    private readonly Dictionary<string, Phone> _by = [];
    private long _now = 1_000_000;

    public LiveSimulator(int seed, Fault fault = Fault.None)
    {
        (_dice, _fault) = (new Random(seed), fault);
        _phones =
        [
            .. Enumerable
                .Range(1, 3)
                .Select(n => new Phone(n) { EpochBegan = -_dice.Next(100_000), Wrong = _dice.Next(-600_000, 600_000) }),
        ];
        Store(_phones[0], Make(_phones[0], LogKind.Started, new LogBody { Plan = 1 }, _now), _now);
    }

    public IReadOnlyList<LogEvent> Log => _log;

    /// <summary>What was found wrong, in words.</summary>
    public List<string> Wrongs { get; } = [];

    /// <summary>Lets people work for so many moves, then hears every phone out.</summary>
    public LiveSimulator Run(int moves)
    {
        for (var i = 0; i < moves; i++)
        {
            _now += _dice.Next(2_000, 90_000);
            var phone = _phones[_dice.Next(_phones.Count)];
            Move(phone);
            foreach (var p in _phones.Where(p => p.Online))
            {
                Sync(p);
            }

            Look();
        }

        foreach (var p in _phones)
        {
            p.Online = true;
            Sync(p);
        }

        Look();
        Bounds();
        return this;
    }

    private void Move(Phone p)
    {
        switch (_dice.Next(12))
        {
            case 0:
                p.Online = !p.Online;
                break;
            case 1:
                // Sleep or reload: the page's clock begins anew; undated until the server is heard.
                var undated = !p.Online && _fault != Fault.SleepUnseen;
                p.Epoch++;
                p.EpochBegan = _now;
                p.Error = undated ? 3_600_000 : p.Error;
                break;
            case 2 when p.Mine.LastOrDefault() is { } last && last.Kind == LogKind.Seen:
                Do(p, LogKind.Undone, new LogBody { Of = [last.Id] });
                break;
            case 3:
                Do(
                    p,
                    LogKind.Seen,
                    new LogBody
                    {
                        Zones = [Zone()],
                        Observe = "touch",
                        Result = "smooth",
                    }
                );
                break;
            default:
                Work(p, Zone());
                break;
        }
    }

    private void Work(Phone p, string zone)
    {
        var body = new LogBody { Zones = [zone], Treatment = Treatment };
        if (!_wet.TryGetValue(zone, out var film))
        {
            _wet[zone] = (_now, _now, false);
            _by[zone] = p;
            var applied = body with { Win = Win, Ml = 30, Round = _rounds.GetValueOrDefault(zone) + 1 };
            Do(p, LogKind.Applied, applied);
            if (_dice.Next(4) == 0)
            {
                // Somebody beside them reports it too, a little later, unaware.
                _now += 20_000;
                Do(_phones[(_phones.IndexOf(p) + 1) % _phones.Count], LogKind.Applied, applied);
            }
        }
        else if (_dice.Next(4) == 0 && _by[zone] == p)
        {
            _wet[zone] = (film.First, _now, film.Dried || _now - film.Last >= Win.Dry);
            Do(p, LogKind.Rewetted, body with { Win = Win });
        }
        else
        {
            _wet.Remove(zone);
            _rounds[zone] = _rounds.GetValueOrDefault(zone) + 1;
            Do(p, LogKind.Rinsed, new LogBody { Zones = [zone] });
        }
    }

    private string Zone() => Zones[_dice.Next(Zones.Length)];

    private void Do(Phone p, LogKind kind, LogBody body)
    {
        var e = Make(p, kind, body, _now);
        p.Queue.Add((e, _now));
        p.Mine.Add(e);
    }

    private LogEvent Make(Phone p, LogKind kind, LogBody body, long truth)
    {
        var off = _fault == Fault.WallClock ? p.Wrong : (long)((_dice.NextDouble() - 0.5) * 2 * Math.Min(p.Error, 30_000));
        var error = _fault == Fault.WallClock ? 0 : p.Error;
        return new LogEvent(
            $"e{_log.Count}-{p.Device}-{p.Seq + 1}",
            p.Device,
            kind.IsDecision() ? 0 : ++p.Seq,
            _fault == Fault.SleepUnseen ? "1" : $"{p.Epoch}",
            truth - p.EpochBegan,
            p.Head,
            1,
            p.Who,
            kind
        )
        {
            Body = body,
            When = new Moment(truth + off, truth + off - error, truth + off + error),
        };
    }

    private void Sync(Phone p)
    {
        foreach (var (e, truth) in p.Queue)
        {
            Store(p, e, truth);
        }

        p.Queue.Clear();
        p.Head = _log.Count;
        p.Error = _dice.Next(4, 200);
    }

    private void Store(Phone p, LogEvent e, long truth)
    {
        var knew = e.After > 0 ? _log[e.After - 1].Received : 0;
        var before = _log.LastOrDefault(x => x.Device == e.Device && !x.Kind.IsDecision());
        var when =
            e.Kind.IsDecision() || _fault == Fault.ByNumberAlone ? Timing.Decided(_now)
            : _fault == Fault.WallClock ? e.When
            : Timing.Place(e.When, knew, before?.When, _now).When;
        _log.Add(e with { Number = _log.Count + 1, Received = _now, When = when });
        _truth[e.Id] = truth;
    }

    /// <summary>Nobody is shown a film wet for longer than it is, and no film that is known of is missing.</summary>
    private void Look()
    {
        {
            var state = _log.Aggregate(LiveState.Start, Live.Reduce);
            foreach (var (zone, film) in _wet.Where(w => _log.Any(e => e.Kind == LogKind.Applied && _truth[e.Id] == w.Value.First)))
            {
                if (state.Zones.GetValueOrDefault(zone)?.Lines.TryGetValue(Treatment, out var lines) is not true)
                {
                    Wrongs.Add($"{zone} is wet at {_now} and no line says so");
                    continue;
                }

                var shown = _fault == Fault.NewestDeadline ? lines.Max(l => l.Dry) : lines.Min(l => l.Dry);
                if (shown > film.Last + Win.Dry + 100)
                {
                    Wrongs.Add($"{zone} dries at {film.Last + Win.Dry}, shown {shown}");
                }
            }
        }
    }

    private void Bounds()
    {
        foreach (var e in _log.Where(e => !e.Kind.IsDecision() && !(e.When.Lo <= _truth[e.Id] && _truth[e.Id] <= e.When.Hi)))
        {
            Wrongs.Add($"{e.Id} happened at {_truth[e.Id]}, placed {e.When}");
        }

        var state = _log.Aggregate(LiveState.Start, Live.Reduce);
        foreach (var (zone, z) in state.Zones)
        {
            if (z.Rounds.GetValueOrDefault(Treatment) > _rounds.GetValueOrDefault(zone))
            {
                Wrongs.Add($"{zone}: {z.Rounds[Treatment]} rounds, {_rounds.GetValueOrDefault(zone)} were made");
            }

            foreach (var round in z.Ended.Where(r => r.End.Event.Kind == LogKind.Rinsed))
            {
                var stayed = _truth[round.End.Id] - _truth[round.First.Id];
                if (round.Verdict == RoundEnd.Ok && stayed < Win.Dwell)
                {
                    Wrongs.Add($"{zone}: {round.Verdict} after {stayed} ms");
                }

                if (stayed < round.DwellMs.From || stayed > round.DwellMs.To)
                {
                    Wrongs.Add($"{zone}: stayed {stayed} ms, said {round.DwellMs}");
                }
            }
        }
    }
}
