using Microsoft.AspNetCore.Mvc;
using ToughStart.Core.Formats;
using ToughStart.Core.Planning;
using ToughStart.Core.Provenance;
using ToughStart.Core.Vehicles;
using ToughStart.Data;
using ToughStart.Web.Identity;

namespace ToughStart.Web.Stations;

/// <summary>A result on record, gathered over zones.</summary>
public sealed record TestOnRecord(string Test, string Zones, string Result);

/// <summary>Tests before treatment, one at a time: what to do, what to look for, and what the answer changes.</summary>
public sealed class TestsModel(JobDesk desk) : JobPage(desk)
{
    public override string Station => "survey";

    public IReadOnlyList<ProposedTest> Proposed { get; private set; } = [];

    public ProposedTest? Now { get; private set; }

    public IReadOnlyList<TestOnRecord> Done { get; private set; } = [];

    public string? Said { get; private set; }

    public string? Problem { get; private set; }

    [BindProperty]
    public string Test { get; set; } = "";

    [BindProperty]
    public List<string> Zones { get; set; } = [];

    [BindProperty]
    public string? Result { get; set; }

    [BindProperty]
    public string? Because { get; set; }

    [BindProperty]
    public int Revision { get; set; }

    public async Task<IActionResult> OnGetAsync(int number, string? test, string? said, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        Said = said is null ? null : WhatChanged(said);
        Prepare(test);
        return Page();
    }

    public async Task<IActionResult> OnPostAsync(int number, CancellationToken stop)
    {
        if (await LoadAsync(number, true, stop) is { } none)
        {
            return none;
        }

        var card = Catalogue.Default.Tests.FirstOrDefault(t => t.Id == Test);
        var zones = Zones.Where(Vehicle.Has).Distinct().ToArray();
        Problem =
            card is null ? "That test is not known."
            : zones.Length == 0 ? "Say where you made it: tick at least one zone."
            : Result is null || (Result != "inconclusive" && !card.Answers.Contains(Result))
                ? $"Say what you saw: {string.Join(", ", card.Answers)}, or could not tell."
            : null;
        if (Problem is not null)
        {
            Response.StatusCode = 422;
            Prepare(Test);
            return Page();
        }

        var because = Result == "inconclusive" && card!.Unclear.Contains(Because) ? Because : null;
        var survey = Job.Survey with
        {
            Zones =
            [
                .. Job
                    .Survey.Zones.Where(z => !zones.Contains(z.Zone))
                    .Concat(
                        zones.Select(id =>
                        {
                            var at = Job.Survey.ZoneOf(id) ?? new ZoneSurvey(id, null, [], null, null, null, [], []);
                            return at with { Tests = [.. at.Tests.Where(t => t.Test != Test), new TestResult(Test, Result!, because)] };
                        })
                    )
                    .OrderBy(z => z.Zone, StringComparer.Ordinal),
            ],
        };
        var before = Plan.Totals.LabourMinutes;
        var saved = await Jobs.SaveSurveyAsync(Job.Id, Job.Revision, survey, User.StaffId(), stop);
        if (saved.Saved)
        {
            return Redirect(
                FormattableString.Invariant(
                    $"/jobs/{number}/tests?said={before.Expected:0}~{before.Width:0}{(Result == "inconclusive" ? "~u" : "")}"
                )
            );
        }

        Problem =
            $"Not written down: {saved.TheirAuthor} changed {string.Join(", ", saved.Conflicts.Select(Limits.Words))} at the same moment. Look at the zone, then send the answer again.";
        Response.StatusCode = 409;
        Prepare(Test);
        return Page();
    }

    /// <summary>Is it the test that stands on the card? The same test may be worth making at two moments; one of them is chosen.</summary>
    public bool IsNow(ProposedTest proposed) => ReferenceEquals(proposed, Now);

    public static string Unclear(string reason) =>
        reason switch
        {
            "dried" => "dried too soon",
            "hot" => "a hot panel",
            "wet" => "a wet panel",
            "masked-colour" => "red or violet paint",
            _ => "bad light",
        };

    /// <summary>The plan before the answer against the plan now.</summary>
    private string? WhatChanged(string said)
    {
        var parts = said.Split('~');
        if (parts.Length < 2 || !double.TryParse(parts[0], out var expected) || !double.TryParse(parts[1], out var width))
        {
            return null;
        }

        var now = Plan.Totals.LabourMinutes;
        return parts.Length > 2
            ? "Written down as not known: nothing counts as clean, the test stays on the list. Cool, dry, in good light, again."
            : $"Written down. Hands-on {expected:0} → {now.Expected:0} min; the range is {(now.Width < width ? "narrower" : now.Width > width ? "wider" : "the same")}, {width:0} → {now.Width:0} min.";
    }

    private void Prepare(string? test)
    {
        Proposed = TestGuide.Propose(Job.Survey, Plan);
        Now = Proposed.FirstOrDefault(p => p.Card.Id == test);
        if (Now is null && Catalogue.Default.Tests.FirstOrDefault(t => t.Id == test) is { } card && !Plan.ReferOnly)
        {
            var kind = card.Measures is null ? null : Catalogue.Default.Contaminant(card.Measures);
            Now = new ProposedTest(
                card,
                Vehicle
                    .Zones.Where(z => kind?.CanSitOn(z.Kind.Default.Family) ?? z.Kind.Default.Family == Family.Body)
                    .Select(z => z.Id)
                    .ToArray(),
                0,
                0,
                ""
            );
        }

        Now ??= Proposed.Count > 0 ? Proposed[0] : null;
        Done = Job
            .Survey.Zones.SelectMany(z => z.Tests.Select(t => (z.Zone, Test: t)))
            .GroupBy(x => (x.Test.Test, x.Test.Result, x.Test.Because))
            .Select(g => new TestOnRecord(
                TestGuide.Card(g.Key.Test).Name,
                ZoneWords.Of(g.Select(x => x.Zone).ToArray()),
                g.Key.Result == "inconclusive"
                    ? "could not tell" + (g.Key.Because is { } b ? $", {Unclear(b)}" : "")
                    : g.Key.Result.Replace('-', ' ')
            ))
            .ToArray();
    }
}
