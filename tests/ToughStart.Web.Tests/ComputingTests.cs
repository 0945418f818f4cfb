using ToughStart.Core.Planning;
using ToughStart.Web.Identity;
using ToughStart.Web.Stations;

namespace ToughStart.Web.Tests;

/// <summary>Heavy work is bounded: in number, in time, by who still waits, and done once for all who ask for the same.</summary>
public class ComputingTests
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    private static readonly TimeSpan Long = TimeSpan.FromSeconds(30);

    private static Task<T> Ask<T>(Computing computing, string key, Func<Effort, T> work, CancellationToken caller) =>
        Task.Factory.StartNew(
            () => computing.Run(key, work, caller),
            CancellationToken.None,
            TaskCreationOptions.LongRunning,
            TaskScheduler.Default
        );

    [Fact]
    public async Task Equal_work_is_done_once_for_all_who_ask()
    {
        using var computing = new Computing(2, Long);
        using var go = new ManualResetEventSlim();
        var done = 0;
        var asked = Enumerable
            .Range(0, 8)
            .Select(_ =>
                Ask(
                    computing,
                    "same",
                    _ =>
                    {
                        go.Wait(Stop);
                        return Interlocked.Increment(ref done);
                    },
                    Stop
                )
            )
            .ToArray();
        await Until(() => computing.Load > 0);
        await Task.Delay(100, Stop);
        go.Set();
        (await Task.WhenAll(asked)).ShouldAllBe(n => n == 1);
        done.ShouldBe(1);
    }

    [Fact]
    public async Task No_more_run_at_a_time_than_there_are_cores()
    {
        using var computing = new Computing(2, Long);
        var (now, most) = (0, 0);
        var gate = new Lock();
        int Work(Effort _)
        {
            lock (gate)
            {
                most = Math.Max(most, ++now);
            }

            Thread.Sleep(30);
            lock (gate)
            {
                return --now;
            }
        }

        await Task.WhenAll(Enumerable.Range(0, 10).Select(i => Ask(computing, $"work {i}", Work, Stop)));
        most.ShouldBe(2);
    }

    [Fact]
    public async Task What_nobody_waits_for_any_more_is_stopped()
    {
        using var computing = new Computing(1, Long);
        using var leaves = new CancellationTokenSource();
        var stopped = new TaskCompletionSource();
        var asked = Ask(
            computing,
            "endless",
            effort =>
            {
                try
                {
                    while (true)
                    {
                        effort.Check();
                        Thread.Sleep(5);
                    }
                }
                catch (OperationCanceledException)
                {
                    stopped.SetResult();
                    throw;
                }

#pragma warning disable CS0162 // The compiler wants a value of what never ends.
                return 0;
#pragma warning restore CS0162
            },
            leaves.Token
        );
        await Until(() => computing.Load > 0);
        await leaves.CancelAsync();
        await Should.ThrowAsync<OperationCanceledException>(asked);
        await stopped.Task.WaitAsync(Long, Stop);
        (await Ask(computing, "next", _ => "free again", Stop)).ShouldBe("free again");
    }

    [Fact]
    public async Task Past_its_time_it_answers_with_the_best_so_far()
    {
        using var computing = new Computing(1, TimeSpan.FromMilliseconds(50));
        var rounds = await Ask(
            computing,
            "long",
            effort =>
            {
                var n = 0;
                for (; !effort.IsEnough; n++)
                {
                    Thread.Sleep(5);
                }

                return n;
            },
            Stop
        );
        rounds.ShouldBeGreaterThan(0);
    }

    [Fact]
    public async Task A_full_queue_says_so_at_once()
    {
        using var computing = new Computing(1, Long, most: 2);
        using var go = new ManualResetEventSlim();
        int Wait(Effort _)
        {
            go.Wait(Stop);
            return 0;
        }

        var waiting = new[] { Ask(computing, "one", Wait, Stop), Ask(computing, "two", Wait, Stop) };
        await Until(() => computing.Load == 2);
        await Should.ThrowAsync<BusyException>(Ask(computing, "three", Wait, Stop));
        go.Set();
        await Task.WhenAll(waiting);
    }

    /// <summary>A survey of a few hundred bytes that asks for everything: it is worked on for the time there is, and says what it is worth.</summary>
    [Fact]
    public void A_small_survey_with_everything_on_it_does_not_take_for_ever()
    {
        var kinds = ToughStart.Core.Provenance.Catalogue.Default.Contaminants.Select(k =>
            $$"""{ "contaminant": "{{k.Id}}", "grade": 3 }"""
        );
        var survey = ToughStart
            .Core.Formats.SurveyFormat.Read(
                System.Text.Encoding.UTF8.GetBytes(
                    $$"""
                    { "format": "toughstart.survey/1", "vehicle": { "form": "panel-van" }, "goal": "correct",
                      "zones": [ { "zone": "*", "findings": [ {{string.Join(',', kinds)}} ] } ] }
                    """
                )
            )
            .Value!;
        using var computing = new Computing(1, TimeSpan.FromSeconds(1));
        var cache = new PlanCache(computing);
        var report = cache.Flips(survey, Stop);
        report.IsWhole.ShouldBeFalse();
        report.Of.ShouldBeGreaterThan(500);
        cache.Plan(survey, Stop).Proved.ShouldBeFalse("it had a second only");
        cache.Plan(survey, Stop).Steps.ShouldNotBeEmpty();
    }

    [Fact]
    public void A_day_is_worked_out_once_and_anew_when_its_survey_or_plan_is_another()
    {
        var survey = ToughStart
            .Core.Formats.SurveyFormat.Read(
                System.IO.File.ReadAllBytes(
                    System.IO.Path.Combine(Environment.GetEnvironmentVariable("TOUGHSTART_DEMO")!, "moorland-van.json")
                )
            )
            .Value!;
        using var computing = new Computing(1, TimeSpan.FromSeconds(20));
        var cache = new PlanCache(computing);
        var day = cache.Day(survey, survey, Stop);
        day.Map.ShouldNotBeNull(day.Why);
        cache.Day(survey, survey, Stop).ShouldBeSameAs(day);
        var bare = cache.Day(survey, null, Stop);
        bare.ShouldNotBeSameAs(day);
        bare.Map!.Board.Select(r => r.Work).ShouldNotBe(day.Map.Board.Select(r => r.Work), "nothing is planned");
        var warmer = survey with { Site = survey.Site with { Hours = [], AirC = 30 } };
        cache.Day(warmer, survey, Stop).Map!.Quarters[48].Air.Celsius.ShouldBeGreaterThan(day.Map.Quarters[48].Air.Celsius);
    }

    [Theory]
    [InlineData("passwordpassword", true)]
    [InlineData("Password1234", true)]
    [InlineData("aaaaaaaaaaaaaaa", true)]
    [InlineData("abcabcabcabcabc", true)]
    [InlineData("qwerty123456", true)]
    [InlineData("rhona.tide.rhona", true)]
    [InlineData("slackwater-owner", false)]
    [InlineData("plover kettle ochre tide", false)]
    public void Passwords_that_are_tried_first_are_refused(string password, bool refused) =>
        (CommonPasswords.Why(password, "rhona") is not null).ShouldBe(refused);

    [Fact]
    public void An_address_that_tries_many_names_has_to_wait()
    {
        var time = new Microsoft.Extensions.Time.Testing.FakeTimeProvider();
        var door = new SignInDoor(time);
        var (one, other) = (System.Net.IPAddress.Parse("192.0.2.1"), System.Net.IPAddress.Parse("192.0.2.2"));
        for (var i = 0; i < SignInDoor.Tries; i++)
        {
            door.IsShut(one).ShouldBeFalse();
            door.Wrong(one);
        }

        door.IsShut(one).ShouldBeTrue();
        door.IsShut(other).ShouldBeFalse();
        time.Advance(TimeSpan.FromMinutes(11));
        door.IsShut(one).ShouldBeFalse();
    }

    private static async Task Until(Func<bool> so)
    {
        for (var i = 0; i < 400 && !so(); i++)
        {
            await Task.Delay(10, Stop);
        }

        so().ShouldBeTrue();
    }
}
