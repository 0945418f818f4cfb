using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;

namespace ToughStart.Core.Tests;

/// <summary>Whatever the weather, the goal, the rules and the surfaces: a plan, or a refusal with its reason; never a crash.</summary>
public class AnyWeatherTests
{
    /// <summary>Weathers tried on each demo job.</summary>
    private const int Weathers = 20;

    /// <summary>One in so many is searched to its end; the others take the first plan found, which has to stand as well.</summary>
    private const int Whole = 4;

    public static TheoryData<string> Demos =>
        [
            .. Directory
                .GetFiles(Path.Combine(Repository.Root, "demo"), "*.json")
                .Select(f => Path.GetFileNameWithoutExtension(f))
                .Where(f => f is not ("yard" or "kit")),
        ];

    [Theory]
    [MemberData(nameof(Demos))]
    public void Any_weather_is_planned_in_or_refused_with_a_reason(string demo)
    {
        var start = Repository.Demo(demo);
        var random = new Random(demo.Length * 7919 + demo[0]);
        for (var i = 0; i < Weathers; i++)
        {
            var survey = Some(start, random);
            try
            {
                var effort = i % Whole == 0 ? Effort.Unbounded : new Effort(enough: new CancellationToken(canceled: true));
                var plan = Planner.Plan(survey, null, new PlanOptions(Share: false) { Effort = effort });
                (plan.Steps.Count > 0 || plan.Warnings.Count > 0 || plan.Refer.Count > 0 || plan.Skipped.Count > 0).ShouldBeTrue(
                    "a plan without a step says why"
                );
            }
            catch (Exception e) when (e is not ShouldAssertException)
            {
                throw new InvalidOperationException(System.Text.Encoding.UTF8.GetString(SurveyFormat.Write(survey)), e);
            }
        }
    }

    /// <summary>A bumper of bare metal in a fresh breeze: what dries too soon there takes nothing but its own residue.</summary>
    [Fact]
    public void A_clean_chrome_bumper_in_the_wind_is_planned()
    {
        var plan = Planner.Plan(
            Repository.Survey(
                """
                { "format": "toughstart.survey/1", "vehicle": { "form": "saloon" }, "goal": "correct",
                  "site": { "place": "outdoors", "airC": 14.6, "humidityPct": 54, "windMs": 4.9, "windAt": "panel",
                            "latitude": 52, "longitude": 0, "start": "2026-06-12T13:00:00+01:00", "cloudOktas": 2 },
                  "zones": [ { "zone": "front-bumper", "surface": "chrome", "findings": [] } ] }
                """
            )
        );
        plan.Refused.ShouldContain(r => r.Reason.Contains("asked)", StringComparison.Ordinal), "something dries too soon there");
    }

    /// <summary>Wheels that are held say so before anything else, with the way out; and a zone is told of only where nothing is done.</summary>
    [Fact]
    public void What_is_held_is_said_first_with_its_way_out()
    {
        var dirty = Repository.Survey(
            """
            { "format": "toughstart.survey/1", "vehicle": { "form": "saloon" }, "goal": "wash", "history": { "brakeDust": "unknown" },
              "zones": [ { "zone": "*", "findings": [ { "contaminant": "mud", "grade": 4 } ] } ] }
            """
        );
        var held = Repository.Plan(dirty);
        var told = held.LeftUndone[0];
        told.Words.ShouldContain("mud");
        told.Words.ShouldContain("asbestos");
        told.WayOut.ShouldContain("intake");
        told.Zones.ShouldContain("left-front-wheel-face");
        // The gentle wet way, and nothing else: no lance, no brush, no spray.
        held.StepsOn("left-front-wheel-face").Select(s => s.Treatment).ShouldBe(["hose-soak"]);
        held.Steps.Where(s => s.Treatment == "hose-soak")
            .ShouldAllBe(s => s.Cautions.Any(x => x.Contains("asbestos", StringComparison.Ordinal)));
        var released = dirty with { History = dirty.History with { Releases = [new Release("brake-dust", "p-1", null)] } };
        Repository.Plan(released).LeftUndone.ShouldNotContain(u => u.Words.Contains("asbestos", StringComparison.Ordinal));
    }

    private static Survey Some(Survey start, Random random)
    {
        T One<T>(IReadOnlyList<T> of) => of[(int)(random.NextDouble() * of.Count)];
        double Between(double low, double high) => Math.Round(low + random.NextDouble() * (high - low), 1);
        var site = start.Site with
        {
            Place = One(SurveyWords.Places),
            AirC = Between(-5, 42),
            HumidityPct = Between(5, 100),
            WindMs = Between(0, 12),
            CloudOktas = Between(0, 8),
            Water = One(SurveyWords.WaterSupplies),
            Hours = [],
        };
        var house = HouseRules.All.Where(_ => random.NextDouble() < 0.2).ToDictionary(r => r.Id, r => One(r.Choices).Value);
        var zones = start.Zones.ToDictionary(z => z.Zone);
        foreach (var zone in Forms.Build(start.Vehicle.Form, start.Vehicle.Size).Zones.Where(_ => random.NextDouble() < 0.1))
        {
            var surface = One(zone.Kind.MayBe).Id;
            zones[zone.Id] = (zones.GetValueOrDefault(zone.Id) ?? new(zone.Id, null, [], null, null, null, [], [])) with
            {
                Surface = surface,
                Findings =
                [
                    .. (zones.GetValueOrDefault(zone.Id)?.Findings ?? []).Where(f =>
                        Catalogue.Default.Contaminant(f.Contaminant).CanSitOn(Catalogue.Default.Surface(surface).Family)
                    ),
                ],
            };
        }

        var survey = start with { Site = site, Goal = One(Goal.All), House = house, Zones = [.. zones.Values] };
        return StageGraph.Contradiction(survey) is null ? survey : survey with { House = new Dictionary<string, string>() };
    }
}
