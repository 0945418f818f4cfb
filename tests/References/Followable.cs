using System.Text;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;

namespace ToughStart.References;

/// <summary>How far a plan is one that a crew would follow, counted.</summary>
internal sealed record Followable(
    int Steps,
    int Trips,
    int TouchedDry,
    int TinyBatches,
    int TinySteps,
    int MostAtACorner,
    int SplitDecisions,
    double LabourMinutes
)
{
    private const double TinyStep = 0.15;

    public static Followable Of(Survey survey, Plan plan)
    {
        var c = Catalogue.Default;
        var vehicle = Forms.Build(survey.Vehicle.Form, survey.Vehicle.Size);
        var work = plan.Steps.Where(s => s.Stage != Stage.Dry).ToArray();
        var dry = vehicle.Zones.Count(z =>
            survey.Site.Water != "none"
            && plan.StepsOn(z.Id)
                .FirstOrDefault(s => s.Stage != Stage.Dry && (c.Treatment(s.Treatment) is { NeedsWet: true } or { Wets: true }))
                is { } first
            && c.Treatment(first.Treatment).NeedsWet
        );
        bool Tiny(Step s) =>
            s.Mix is { } m
            && s.Strength.Value < c["counts-as-neat"]
            && m.ProductMl + m.WaterMl
                < (
                    m.Vessel switch
                    {
                        "bucket" => 1000 * c["batch-bucket"],
                        "lance" => 300,
                        "sprayer" => 1000 * c["batch-sprayer"],
                        _ => 0,
                    }
                ) * 0.99;
        var corners = vehicle.Zones.Select(z => z.Corner).Where(x => x is not null).Distinct().ToArray();
        int Split(IEnumerable<Step> of) => Math.Max(0, of.Select(s => (s.Treatment, s.Strength)).Distinct().Count() - 1);
        var split = new[] { Block.Body, Block.Wheels }.Sum(b =>
            Split(work.Where(s => s.Block == b && s.Treatment == "rinse"))
            + (b == Block.Body ? Split(work.Where(s => s.Block == b && s.Stage == Stage.Foam)) : 0)
            + Split(work.Where(s => s.Block == b && s.Stage == Stage.ContactWash))
            + Split(work.Where(s => s.Block == b && s.Stage == Stage.Clay))
        );
        return new(
            work.Length,
            work.Sum(s => s.Rounds),
            dry,
            work.Count(Tiny),
            work.Count(s => s.Zones.Sum(z => vehicle[z].Area) < TinyStep),
            corners.Length == 0 ? 0 : corners.Max(k => work.Count(s => s.Zones.Any(z => vehicle[z].Corner == k))),
            split,
            plan.Totals.LabourMinutes.Expected
        );
    }

    /// <summary>
    /// Surveys as they come in: dirt that thickens downward and forward, wheels that are alike, a few spots; the same ones every time.
    /// </summary>
    public static IEnumerable<Survey> Plausible(int count)
    {
        var r = new Random(20260);
        string[] forms = ["city-hatch", "hatchback", "saloon", "estate", "coupe", "suv", "pickup", "panel-van", "minibus", "motorcycle"];
        string[] goals = ["wash", "sale", "protect", "correct"];
        for (var i = 0; i < count; i++)
        {
            var (form, goal) = (forms[r.Next(forms.Length)], goals[r.Next(goals.Length)]);
            var (film, dust, grit) = (r.Next(0, 4), r.Next(0, 4), r.Next(0, 3));
            var zones = new List<string>();
            string Find(string kind, int grade, string age = "weeks") =>
                $$"""{ "contaminant": "{{kind}}", "grade": {{Math.Clamp(grade, 0, 4)}}, "age": "{{age}}" }""";
            void Zone(string zone, params string[] finds) =>
                zones.Add($$"""{ "zone": "{{zone}}", "findings": [ {{string.Join(", ", finds)}} ] }""");
            Zone("*", Find("road-film", film), Find("loose-dust", dust), Find("grit", grit));
            Zone("*-sill", Find("road-film", film + 1), Find("grit", grit + 1), Find("tar", r.Next(0, 3)));
            Zone("*-arch", Find("mud", r.Next(0, 4)), Find("road-film", film + 1));
            Zone("*-wheel-*", Find("iron", r.Next(0, 5), "seasons"), Find("road-film", film));
            Zone("*-tyre", Find("tyre-bloom", r.Next(0, 5)));
            Zone("front-bumper", Find("bug", r.Next(0, 4)), Find("road-film", film));
            Zone("roof", Find("bird-dropping", r.Next(0, 3)), Find("sap", r.Next(0, 3)), Find("road-film", film));
            Zone(
                "bonnet",
                Find("bug", r.Next(0, 3)),
                Find("iron", r.Next(0, 3)),
                Find("bonded-mix", r.Next(0, 4)),
                Find("road-film", film)
            );
            Zone("*-door", Find("iron", r.Next(0, 3)), Find("bonded-mix", r.Next(0, 3)), Find("road-film", film));
            var usable = zones.Where(z => form != "motorcycle" || z.Contains("\"*\"") || z.Contains("wheel") || z.Contains("tyre"));
            var json = $$"""
                { "format": "toughstart.survey/1", "vehicle": { "form": "{{form}}", "softness": "{{(
                    r.Next(2) == 0 ? "soft" : "medium"
                )}}" },
                  "goal": "{{goal}}", "history": { "monthsSinceWash": {{r.Next(0, 18)}} }, "zones": [ {{string.Join(", ", usable)}} ] }
                """;
            var read = SurveyFormat.Read(Encoding.UTF8.GetBytes(json));
            yield return read.Value ?? throw new InvalidOperationException(string.Join("; ", read.Problems));
        }
    }
}
